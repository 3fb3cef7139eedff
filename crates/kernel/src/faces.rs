//! Groups imported triangles into faces: neighbours whose normals turn by less than an angle belong together.

use rayon::prelude::*;

use crate::topology::EdgeUse;
use crate::{FaceId, Mesh, Point, Topology, UnionFind};

/// The default angle at which a new face begins, degrees. A turned or drawn surface tessellated with 16 or more segments
/// to the circle stays one face; the edges of a plate or a block do not.
pub const DEFAULT_ANGLE: f64 = 26.0;

/// Gives every triangle the face it belongs to; faces are numbered by their first triangle. Triangles without area join any
/// neighbour.
pub fn group_by_angle(mesh: Mesh, degrees: f64) -> Mesh {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let normals: Vec<Point> =
        (0..mesh.triangles().len()).into_par_iter().map(|t| mesh.area_vector(t).normalize_or_zero()).collect();
    let least = degrees.to_radians().cos();
    let mut sets = UnionFind::new(mesh.triangles().len());
    for edge in topology.edges_with(EdgeUse::Regular) {
        let [a, b] = [0, 1].map(|i| topology.halves(edge)[i] / 3);
        let (m, n) = (normals[a as usize], normals[b as usize]);
        if m == Point::ZERO || n == Point::ZERO || m.dot(n) >= least {
            sets.union(a, b);
        }
    }
    let numbers = sets.number_sets().0;
    mesh.regroup(|t| FaceId(numbers[t]))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_roof_is_two_faces_and_a_bent_sheet_is_one() {
        let roof = |height: f64| {
            let p = vec![Point::ZERO, Point::Y, Point::new(1.0, 0.0, height), Point::new(1.0, 1.0, height)];
            let q = [Point::new(2.0, 0.0, 0.0), Point::new(2.0, 1.0, 0.0)];
            let points = p.into_iter().chain(q).collect();
            Mesh::with_one_face(points, vec![[0, 2, 1], [1, 2, 3], [2, 4, 3], [3, 4, 5]]).unwrap()
        };
        let faces = |m: Mesh| group_by_angle(m, DEFAULT_ANGLE).face_of().iter().map(|f| f.0).collect::<Vec<_>>();
        assert_eq!(faces(roof(1.0)), vec![0, 0, 1, 1]);
        assert_eq!(faces(roof(0.1)), vec![0, 0, 0, 0]);
    }
}
