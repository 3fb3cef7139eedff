//! How far points lie from a surface, and on which side of it.

use crate::crossings::triangle_bvh;
use crate::segments::nearest_on_triangle;
use crate::topology::{EdgeUse, next, previous};
use crate::{Bvh, Mesh, Point, Topology};

/// A surface with what tells the sides of it apart.
pub(super) struct Depth<'a> {
    mesh: &'a Mesh,
    topology: &'a Topology<'a>,
    bvh: Bvh,
    /// For each point the sum of the normals round it by their angles (Bærentzen and Aanæs 2005).
    round_points: Vec<Point>,
    on_rim: Vec<bool>,
}

/// What of the surface is nearest to a point.
#[derive(Clone, Copy, Debug)]
pub(super) struct Near {
    /// How far off it is, mm; below nought behind the surface.
    pub depth: f64,
    /// Where it is.
    pub foot: Point,
    /// Whether it is a rim.
    pub at_rim: bool,
}

impl<'a> Depth<'a> {
    pub fn new(mesh: &'a Mesh, topology: &'a Topology<'a>) -> Self {
        let mut round_points = vec![Point::ZERO; mesh.points().len()];
        for (t, corners) in mesh.triangles().iter().enumerate() {
            let normal = mesh.area_vector(t).normalize_or_zero();
            let at = mesh.corners(t);
            for k in 0..3 {
                let (u, w) = (at[(k + 1) % 3] - at[k], at[(k + 2) % 3] - at[k]);
                let angle = u.normalize_or_zero().dot(w.normalize_or_zero()).clamp(-1.0, 1.0).acos();
                round_points[corners[k] as usize] += normal * angle;
            }
        }
        let mut on_rim = vec![false; mesh.points().len()];
        for half in topology.naked_halves() {
            let (a, b) = topology.ends(half);
            on_rim[a as usize] = true;
            on_rim[b as usize] = true;
        }
        Self { mesh, topology, bvh: triangle_bvh(mesh), round_points, on_rim }
    }

    /// What of the surface is nearest to a point; none where there is no surface.
    pub fn at(&self, p: Point) -> Option<Near> {
        let distance = |t: u32| Some((nearest_on_triangle(p, self.mesh.corners(t as usize)) - p).length_squared());
        let (t, distance) = self.bvh.nearest(p, f64::INFINITY, distance)?;
        let t = t as usize;
        let foot = nearest_on_triangle(p, self.mesh.corners(t));
        let (normal, at_rim) = self.normal_at(t, foot);
        Some(Near { depth: if (p - foot).dot(normal) < 0.0 { -distance } else { distance }, foot, at_rim })
    }

    /// The distance to the nearest of some triangles, mm.
    pub fn to_some(&self, p: Point, some: &dyn Fn(usize) -> bool) -> f64 {
        let distance = |t: u32| {
            let t = t as usize;
            some(t).then(|| (nearest_on_triangle(p, self.mesh.corners(t)) - p).length_squared())
        };
        self.bvh.nearest(p, f64::INFINITY, distance).map_or(f64::INFINITY, |(_, d)| d)
    }

    /// The normal that tells the sides apart at a point of a triangle, and whether that is on a rim.
    fn normal_at(&self, t: usize, foot: Point) -> (Point, bool) {
        /// On an edge within this share of the triangle's size.
        const ON: f64 = 1e-9;
        let at = self.mesh.corners(t);
        let vector = self.mesh.area_vector(t);
        let size = vector.length();
        // Twice the share of the triangle beyond each side: nought on it.
        let share =
            |k: usize| (at[(k + 1) % 3] - at[k]).cross(foot - at[k]).dot(vector) / (size * size).max(f64::MIN_POSITIVE);
        let on: Vec<usize> = (0..3).filter(|k| share(*k) <= ON).collect();
        let half = |k: usize| (3 * t + k) as u32;
        match on[..] {
            [] => (vector, false),
            [k] => {
                let halves = self.topology.halves(self.topology.edge_of(half(k)));
                let sum = halves.iter().map(|h| self.mesh.area_vector(*h as usize / 3).normalize_or_zero()).sum();
                (sum, self.topology.edge_use(self.topology.edge_of(half(k))) == EdgeUse::Naked)
            }
            [k, ..] => {
                // Two sides meet at the corner after the one that comes first round.
                let second = on[1];
                let corner = if next(half(k)) == half(second) { half(second) } else { next(half(second)) };
                debug_assert!(on.len() > 2 || previous(corner) == half(k) || previous(corner) == half(second));
                let point = self.topology.ends(corner).0 as usize;
                (self.round_points[point], self.on_rim[point])
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes::{ball, block};

    #[test]
    fn depth_is_signed_round_corners_and_edges() {
        let part = block(Point::ZERO, Point::new(4.0, 4.0, 2.0));
        let topology = Topology::new(part.triangles(), part.points().len());
        let depth = Depth::new(&part, &topology);
        let at = |x, y, z| depth.at(Point::new(x, y, z)).unwrap().depth;
        assert_eq!(at(2.0, 2.0, 1.0), -1.0);
        assert_eq!(at(2.0, 2.0, 3.0), 1.0);
        assert!((at(5.0, 5.0, 3.0) - 3f64.sqrt()).abs() < 1e-12);
        assert!((at(5.0, 5.0, 1.0) - 2f64.sqrt()).abs() < 1e-12);
        assert_eq!(at(-2.0, 1.0, 1.0), 2.0);
        let round = ball(5.0, 24);
        let bowl = round.retain_triangles(|t| round.corners(t).iter().all(|p| p.z < 1e-9));
        let topology = Topology::new(bowl.triangles(), bowl.points().len());
        let depth = Depth::new(&bowl, &topology);
        assert!(depth.at(Point::new(9.0, 0.0, 2.0)).unwrap().at_rim);
        assert!(!depth.at(Point::new(0.0, 0.0, -3.0)).unwrap().at_rim);
    }
}
