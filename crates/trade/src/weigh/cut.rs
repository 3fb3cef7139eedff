//! A part cut by a plane, to be looked at: contours, areas, lengths. Nothing of the part changes.

use nimbet_kernel::section::{section, signed_area};
use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Mesh, Point, Topology};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::TradeError;
use crate::words::Xyz;

/// A plane to look at: a point of it and its normal.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CutPlane {
    /// A point of it, mm.
    pub at: Xyz,
    /// Its normal; what lies in front of it is left out of sight.
    pub normal: Xyz,
}

/// One chain of a cut.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct CutContour {
    /// Its points in the plane, mm; a closed one does not repeat its first. Material lies to the left.
    pub points: Vec<[f64; 2]>,
    /// Whether it closes; of a solid all do.
    pub closed: bool,
    /// Its length, mm.
    pub length: f64,
    /// The area within, mm²: below nought of a hole, nought of an open chain.
    pub area: f64,
}

/// A part cut by a plane.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Cut {
    /// Where the plane's coordinates begin, mm.
    pub origin: Xyz,
    /// The plane's first direction: to the right.
    pub u: Xyz,
    /// Its second: up.
    pub v: Xyz,
    /// The chains, the largest first.
    pub contours: Vec<CutContour>,
    /// The area of the material, mm²; none where a chain is open.
    pub area: Option<f64>,
    /// The length of all chains, mm.
    pub length: f64,
}

/// Cuts a part by a plane.
///
/// # Errors
/// [`TradeError::Refused`] where the plane has no normal.
pub fn cut(mesh: &Mesh, plane: &CutPlane) -> Result<Cut, TradeError> {
    let finite = plane.at.iter().chain(&plane.normal).all(|x| x.is_finite());
    let frame = PlaneFrame::upright(Point::from_array(plane.at), Point::from_array(plane.normal))
        .filter(|_| finite)
        .ok_or_else(|| TradeError::refused("the normal of the plane must not be zero", vec![]))?;
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let mut contours: Vec<CutContour> = section(mesh, &topology, &frame)
        .into_iter()
        .map(|c| {
            let points: Vec<[f64; 2]> = c.points.iter().map(|p| frame.flatten(*p)).collect();
            let area = if c.closed { signed_area(&points) } else { 0.0 };
            CutContour { length: c.length(), closed: c.closed, area, points }
        })
        .collect();
    contours.sort_by(|a, b| b.length.total_cmp(&a.length));
    let length = contours.iter().map(|c| c.length).sum();
    let area = contours.iter().all(|c| c.closed).then(|| contours.iter().map(|c| c.area).sum());
    let [u, v] = frame.directions();
    Ok(Cut { origin: frame.origin.to_array(), u: u.to_array(), v: v.to_array(), contours, area, length })
}
