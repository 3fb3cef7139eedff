//! Bodies made of profiles: flattened by a chord, now and not before.

mod cut;
mod extrude;
mod flat;
mod loft;
mod patch;
mod relief;
mod revolve;
mod sweep;
mod wrap;

pub use extrude::{Extrusion, extrude, extrude_chain};
pub use flat::{Flattened, chain_points, flatten_chain, flatten_regions};
pub use loft::{Lofting, Ring, loft, matched};
pub use patch::{PatchSide, going_round, patch};
pub use relief::relief;
pub use revolve::{Axis, revolve, revolve_chain};
pub use sweep::{Change, Corner, Fold, Placed, Swept, most_twist, placed, sweep, sweep_chain};
pub use wrap::{Wrapping, wrapped};

use nimbet_kernel::{Cancelled, FaceId, Mesh, MeshError, Point};

use crate::Flat;

/// Why no body can be made. Places lie in the plane of the profile.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum BodyError {
    /// It cannot be with these figures.
    #[error("{why}")]
    Refused {
        /// In plain words.
        why: String,
        /// Where.
        places: Vec<Flat>,
    },
    /// Somebody asked to stop.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
    /// Points beyond all bounds.
    #[error(transparent)]
    Mesh(#[from] MeshError),
}

fn refused(why: impl Into<String>, places: Vec<Flat>) -> BodyError {
    BodyError::Refused { why: why.into(), places }
}

/// Points and triangles being put together, with the face of each triangle.
#[derive(Default)]
struct Making {
    points: Vec<Point>,
    triangles: Vec<[u32; 3]>,
    faces: Vec<FaceId>,
}

impl Making {
    fn point(&mut self, p: Point) -> u32 {
        self.points.push(p);
        self.points.len() as u32 - 1
    }

    /// A triangle, unless two of its corners are one point.
    fn triangle(&mut self, corners: [u32; 3], face: u32) {
        let [a, b, c] = corners;
        if a != b && b != c && c != a {
            self.triangles.push(corners);
            self.faces.push(FaceId(face));
        }
    }

    /// A quadrilateral of two triangles, cut along its shorter diagonal.
    fn quad(&mut self, [a, b, c, d]: [u32; 4], face: u32) {
        let far = |i: u32, j: u32| self.points[i as usize].distance_squared(self.points[j as usize]);
        if a == b || c == d || a != c && b != d && far(a, c) <= far(b, d) {
            self.triangle([a, b, c], face);
            self.triangle([a, c, d], face);
        } else {
            self.triangle([a, b, d], face);
            self.triangle([b, c, d], face);
        }
    }

    fn mesh(self) -> Result<Mesh, BodyError> {
        Ok(Mesh::new(self.points, self.triangles, self.faces)?)
    }
}
