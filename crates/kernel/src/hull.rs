//! The convex hull of points, with exact decisions (quickhull; Barber, Dobkin and Huhdanpaa 1996).
//!
//! About O(n log n) for points of ordinary shapes. Points in the plane of a face, or on an edge, are no corners of it unless
//! they were taken in before what lies beyond them.

use std::collections::HashMap;

use crate::predicates::{Side, side_of_plane};
use crate::{Cancelled, Mesh, Point, Progress};

struct Face {
    corners: [u32; 3],
    /// Points before it that no face made before it saw.
    before: Vec<u32>,
    gone: bool,
}

struct Hull<'a> {
    points: &'a [Point],
    faces: Vec<Face>,
    /// The face to the left of each directed edge.
    left_of: HashMap<(u32, u32), u32>,
}

/// The convex hull, facing outward; none when all points lie in one plane.
///
/// # Errors
/// [`Cancelled`].
pub fn hull(points: &[Point], progress: &Progress) -> Result<Option<Mesh>, Cancelled> {
    let mut own: Vec<Point> = points.to_vec();
    own.sort_unstable_by(|a, b| a.to_array().partial_cmp(&b.to_array()).unwrap_or(std::cmp::Ordering::Equal));
    own.dedup();
    let Some(first) = first_four(&own) else { return Ok(None) };
    let [a, b, c, d] = first;
    let mut hull = Hull { points: &own, faces: vec![], left_of: HashMap::new() };
    let made = [[a, b, c], [a, d, b], [b, d, c], [c, d, a]].map(|t| hull.add(t));
    hull.share_out((0..own.len() as u32).filter(|p| !first.contains(p)).collect(), &made);
    let mut todo: Vec<u32> = made.to_vec();
    let mut turns = 0u32;
    while let Some(face) = todo.pop() {
        turns += 1;
        if turns.is_multiple_of(64) {
            progress.check()?;
        }
        if let Some(apex) = hull.farthest_before(face) {
            todo.extend(hull.take_in(apex, face));
        }
    }
    let triangles = hull.faces.iter().filter(|f| !f.gone).map(|f| f.corners).collect();
    let mesh = Mesh::with_one_face(own, triangles).map(|m| m.retain_triangles(|_| true));
    Ok(mesh.ok().filter(|m| !m.triangles().is_empty()))
}

/// Four points that span space, the last behind the plane of the others; far apart, so that most points lie in between.
fn first_four(points: &[Point]) -> Option<[u32; 4]> {
    let farthest = |measure: &dyn Fn(Point) -> f64| {
        let best = (0..points.len()).max_by(|&i, &j| measure(points[i]).total_cmp(&measure(points[j])))?;
        Some(best as u32)
    };
    let at = |i: u32| points[i as usize];
    let a = 0;
    let b = farthest(&|p| p.distance_squared(*points.first().unwrap_or(&Point::ZERO)))?;
    let along = (at(b) - at(a)).normalize_or_zero();
    let c = farthest(&|p| (p - at(a)).cross(along).length_squared())?;
    let normal = (at(b) - at(a)).cross(at(c) - at(a));
    let side = |i: u32| side_of_plane(at(a), at(b), at(c), at(i));
    let mut d = farthest(&|p| (p - at(a)).dot(normal).abs())?;
    if side(d) == Side::On {
        d = (0..points.len() as u32).find(|&i| side(i) != Side::On)?;
    }
    Some(if side(d) == Side::Negative { [a, b, c, d] } else { [b, a, c, d] })
}

impl Hull<'_> {
    fn side(&self, face: u32, point: u32) -> Side {
        let [a, b, c] = self.faces[face as usize].corners.map(|i| self.points[i as usize]);
        side_of_plane(a, b, c, self.points[point as usize])
    }

    fn add(&mut self, corners: [u32; 3]) -> u32 {
        let face = self.faces.len() as u32;
        self.faces.push(Face { corners, before: vec![], gone: false });
        (0..3).for_each(|k| {
            self.left_of.insert((corners[k], corners[(k + 1) % 3]), face);
        });
        face
    }

    /// Gives each point to the first of some faces it lies before.
    fn share_out(&mut self, points: Vec<u32>, faces: &[u32]) {
        for p in points {
            if let Some(f) = faces.iter().find(|f| self.side(**f, p) == Side::Positive) {
                self.faces[*f as usize].before.push(p);
            }
        }
    }

    fn farthest_before(&self, face: u32) -> Option<u32> {
        let f = &self.faces[face as usize];
        let [a, b, c] = f.corners.map(|i| self.points[i as usize]);
        let normal = (b - a).cross(c - a);
        let height = |p: &u32| (self.points[*p as usize] - a).dot(normal);
        f.before.iter().filter(|_| !f.gone).copied().max_by(|p, q| height(p).total_cmp(&height(q)))
    }

    /// Replaces the faces a point lies before, `seen` among them, by those from their outline to the point; gives these.
    fn take_in(&mut self, apex: u32, seen: u32) -> Vec<u32> {
        let (mut todo, mut outline, mut orphans) = (vec![seen], Vec::new(), Vec::new());
        self.faces[seen as usize].gone = true;
        while let Some(face) = todo.pop() {
            let corners = self.faces[face as usize].corners;
            orphans.append(&mut self.faces[face as usize].before);
            for k in 0..3 {
                let (u, v) = (corners[k], corners[(k + 1) % 3]);
                let other = self.left_of[&(v, u)];
                if self.faces[other as usize].gone {
                    continue;
                }
                if self.side(other, apex) == Side::Positive {
                    self.faces[other as usize].gone = true;
                    todo.push(other);
                } else {
                    outline.push((u, v));
                }
            }
        }
        let made: Vec<u32> = outline.into_iter().map(|(u, v)| self.add([u, v, apex])).collect();
        orphans.retain(|p| *p != apex);
        self.share_out(orphans, &made);
        made
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::Topology;
    use crate::measure::measure;
    use crate::shapes::{ball, block};

    fn of(points: &[Point]) -> Option<Mesh> {
        hull(points, &Progress::unwatched()).unwrap()
    }

    #[test]
    fn hulls_of_known_shapes() {
        let cube = block(Point::ZERO, Point::splat(2.0));
        let mut points: Vec<Point> = cube.points().to_vec();
        points
            .extend((0..1000).map(|n| Point::new(f64::from(n % 10), f64::from(n / 10 % 10), f64::from(n / 100)) * 0.2));
        assert!((measure(&of(&points).unwrap()).volume - 8.0).abs() < 1e-12, "a grid in a cube");
        let round = ball(3.0, 40);
        assert!((measure(&of(round.points()).unwrap()).volume / measure(&round).volume - 1.0).abs() < 1e-3);
        let flat: Vec<Point> = (0..9).map(|n| Point::new(f64::from(n % 3), f64::from(n / 3), 1.0)).collect();
        assert!(of(&flat).is_none() && of(&[]).is_none() && of(&[Point::X; 5]).is_none());
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(200))]

        /// Closed, and no point lies before any face; points on a coarse grid, so that many lie in one plane.
        #[test]
        fn a_hull_is_closed_and_leaves_nothing_out(
            grid in prop::collection::vec((0i8..4, 0i8..4, 0i8..4), 4..40), jitter in prop::bool::ANY,
        ) {
            let points: Vec<Point> = grid.iter().enumerate().map(|(n, &(x, y, z))| {
                let p = Point::new(x.into(), y.into(), z.into());
                if jitter { p + Point::splat(n as f64 * 1e-3).cross(p) * 1e-2 } else { p }
            }).collect();
            if let Some(mesh) = of(&points) {
                prop_assert!(Topology::new(mesh.triangles(), mesh.points().len()).naked_halves().is_empty());
                prop_assert!(measure(&mesh).volume > 0.0);
                for t in 0..mesh.triangles().len() {
                    let [a, b, c] = mesh.corners(t);
                    prop_assert!(points.iter().all(|p| side_of_plane(a, b, c, *p) != Side::Positive));
                }
            }
        }
    }
}
