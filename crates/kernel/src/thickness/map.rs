//! Where on a mesh its thickness is measured, for figures and for drawing.

use std::collections::HashMap;

use crate::deviation::divided;
use crate::{Mesh, Point};

/// The middle of each triangle, for [`super::Gauge::all`].
pub fn middles(mesh: &Mesh) -> Vec<(u32, Point)> {
    (0..mesh.triangles().len()).map(|t| (t as u32, mesh.corners(t).iter().sum::<Point>() / 3.0)).collect()
}

/// The mesh with its triangles divided until no side is longer than `spacing`, mm, or there are `most` of them. Slender ones
/// are left four times as long: a row of them lies side by side.
pub fn divide(mesh: &Mesh, spacing: f64, most: usize) -> Mesh {
    /// Of an area less than this share of the square of the spacing.
    const SLENDER: f64 = 0.1;
    let fine = |[a, b, c]: [Point; 3], longest: f64| {
        longest <= spacing
            || (longest <= 4.0 * spacing && (b - a).cross(c - a).length() * 0.5 <= SLENDER * spacing * spacing)
    };
    divided(mesh, &|_| true, &fine, most).0
}

/// A surface to be drawn with a figure at each point: divided finely, its points told apart by the face they are in.
#[derive(Clone, Debug)]
pub struct Drawn {
    /// The surface.
    pub mesh: Mesh,
    /// The divided mesh it is of, in which the places are.
    pub fine: Mesh,
    /// For each point of the surface where to look: a triangle of the divided mesh, and a place in it.
    pub places: Vec<(u32, Point)>,
}

impl Drawn {
    /// Triangles are divided until no side is longer than `spacing`, mm, or there are `most` of them.
    pub fn new(mesh: &Mesh, spacing: f64, most: usize) -> Self {
        /// Measured so far from a corner into its triangle, as a share, so that edges are not in the way.
        const INTO: f64 = 0.02;
        let fine = divide(mesh, spacing, most);
        let mut number: HashMap<(u32, u32), u32> = HashMap::new();
        let (mut points, mut places) = (Vec::new(), Vec::new());
        let mut triangles = Vec::with_capacity(fine.triangles().len());
        for (t, corners) in fine.triangles().iter().enumerate() {
            let middle = fine.corners(t).iter().sum::<Point>() / 3.0;
            triangles.push(corners.map(|p| {
                *number.entry((p, fine.face_of()[t].0)).or_insert_with(|| {
                    let at = fine.points()[p as usize];
                    points.push(at);
                    places.push((t as u32, at.lerp(middle, INTO)));
                    points.len() as u32 - 1
                })
            }));
        }
        Self { mesh: Mesh::new(points, triangles, fine.face_of().to_vec()).unwrap_or_default(), fine, places }
    }
}
