//! Picked points on the surface, and the brush.

use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::segments::nearest_on_triangle;
use nimbet_kernel::{Bvh, FaceId, Mesh, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::TradeError;
use crate::examine::FacePick;
use crate::parameter::{Length, Position};
use crate::words::Xyz;

/// A ball: a dab of a brush, or the extent of a tangle.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[schemars(extend("asks" = "brush"))]
pub struct Dab {
    /// Its middle, mm.
    #[schemars(with = "Position")]
    pub near: Xyz,
    /// Its radius, mm.
    #[schemars(with = "Length")]
    pub radius: f64,
}

impl Dab {
    pub(crate) fn holds(&self, p: Point) -> bool {
        (p - Point::from_array(self.near)).length() <= self.radius
    }
}

/// The triangle at a point of the surface; `what` names what was picked.
pub(crate) fn triangle_under(mesh: &Mesh, bvh: &Bvh, near: Xyz, what: &str) -> Result<usize, TradeError> {
    /// A picked point lies on the surface but for the rounding of the screen: this share of the part.
    const CLOSE: f64 = 1e-3;
    let near = Point::from_array(near);
    let distance = |t: u32| Some((nearest_on_triangle(near, mesh.corners(t as usize)) - near).length_squared());
    bvh.nearest(near, bvh.bounds().diagonal() * CLOSE, distance)
        .map(|(t, _)| t as usize)
        .ok_or_else(|| TradeError::NeedsNewPick { what: what.into(), place: near })
}

/// The picked faces, ascending, each once.
pub(crate) fn picked_faces(mesh: &Mesh, picks: &[FacePick]) -> Result<Vec<FaceId>, TradeError> {
    if picks.is_empty() {
        return Err(TradeError::nothing("no face was picked"));
    }
    let bvh = triangle_bvh(mesh);
    let mut faces = picks.iter().map(|pick| pick.find(mesh, &bvh)).collect::<Result<Vec<_>, _>>()?;
    faces.sort_unstable();
    faces.dedup();
    Ok(faces)
}
