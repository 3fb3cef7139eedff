//! How thick a solid is at each place of its surface.
//!
//! Two measures. The *ray*: straight in from the surface to where it comes out. The *ball*: the diameter of the largest ball
//! inside that touches the surface there, found by a ball that shrinks until nothing lies in it (Ma, Bae and Choi 2012), here
//! against triangles instead of points. Near an edge both would go to nought, though nothing is thin there: so only surfaces that
//! face the place count, within [`FACING`] of straight. The sides of a right-angled corner do not face each other; those of
//! a wedge sharper than 60 degrees do, and it is thin towards its edge. The same outward measures gaps and slots.
//!
//! A ball is right to a hundredth. Places are seen along the normals of their triangles, so on a curved surface the measure may be off by up to half the turn of a
//! triangle, in radians, times its size. Cost: for each place a few searches in a hierarchy, in parallel.

mod again;
mod clearance;
mod map;

use std::ops::ControlFlow;

use rayon::prelude::*;

pub use again::Measured;
pub use clearance::{clearance, divided_near, nearer_than};
pub use map::{Drawn, divide, middles};

use crate::crossings::triangle_bvh;
use crate::segments::hit;
use crate::segments::nearest_on_triangle;
use crate::{Bvh, Cancelled, Mesh, Point, Progress};

/// The cosine of the angle, 60 degrees, within which the far side must face the place.
const FACING: f64 = 0.5;

/// How thickness is measured.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Way {
    /// The largest ball inside that touches the place.
    Ball,
    /// Straight through.
    Ray,
}

/// Which side of the surface is measured.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Side {
    /// Through the material.
    Inside,
    /// Through the open: gaps and slots.
    Outside,
}

/// The thickness at a place, and the other side of it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Thickness {
    /// mm.
    pub across: f64,
    /// Where the other side is.
    pub opposite: Point,
    /// The triangle there.
    pub triangle: u32,
}

/// A mesh made ready for measuring.
#[derive(Debug)]
pub struct Gauge<'a> {
    mesh: &'a Mesh,
    bvh: Bvh,
    /// For each triangle the direction out of it, of length one or nought, and how far its plane lies from the origin along it: most
    /// triangles near a ball are told by them alone.
    planes: Vec<(Point, f64)>,
    side: Side,
    /// Nothing farther apart counts.
    most: f64,
}

impl<'a> Gauge<'a> {
    /// A gauge for places of a mesh; what is thicker than `most`, mm, is not measured.
    pub fn new(mesh: &'a Mesh, side: Side, most: f64) -> Self {
        let bvh = triangle_bvh(mesh);
        let most = most.min(bvh.bounds().diagonal());
        let plane = |t: usize| {
            let normal = mesh.area_vector(t).normalize_or_zero();
            (normal, normal.dot(mesh.corners(t)[0]))
        };
        let planes = (0..mesh.triangles().len()).into_par_iter().map(plane).collect();
        Self { mesh, bvh, planes, side, most }
    }

    /// The thickness at a point of a triangle; none where nothing lies opposite within the most that is measured.
    pub fn at(&self, triangle: usize, place: Point, way: Way) -> Option<Thickness> {
        self.with_reach(triangle, place, way).0
    }

    /// The same, with how far from the place into the surface the answer depends on what is there: nothing counts that lies
    /// outside the ball of that diameter that touches the place.
    fn with_reach(&self, triangle: usize, place: Point, way: Way) -> (Option<Thickness>, f64) {
        let Some(inward) = self.inward(triangle) else { return (None, 0.0) };
        let first = self.along(triangle, place, inward);
        let reach = first.map_or(self.most, |f| f.across);
        let ray = first.filter(|f| self.faces(f.triangle, inward));
        match way {
            Way::Ray => (ray, reach),
            Way::Ball => (self.ball(place, inward, ray), ray.map_or(self.most, |f| f.across)),
        }
    }

    /// The direction into what is measured, of length one; none for a triangle without area.
    fn inward(&self, triangle: usize) -> Option<Point> {
        let normal = self.planes[triangle].0;
        (normal != Point::ZERO).then_some(if self.side == Side::Inside { -normal } else { normal })
    }

    /// How far it is across what lies under a place, square to its thickness `across`, where that is least between sides that
    /// face each other, mm: of a pin its diameter, of a wall far more than its thickness. None where no sides do.
    pub fn girth(&self, triangle: usize, place: Point, across: f64) -> Option<f64> {
        /// So many ways are tried in half a turn; the least is off by the cosine of half a step at most, 2 percent.
        const WAYS: usize = 8;
        let inward = self.inward(triangle)?;
        let middle = place + inward * (across * 0.5);
        let (u, v) = inward.any_orthonormal_pair();
        // Across a corner sides do not face each other: the cosine of 37 degrees.
        const ACROSS: f64 = 0.8;
        let free = |way: Point| {
            let to = middle + way * self.most;
            let (mut reach, mut side) = (1.0, None);
            let _ = self.bvh.along_segment(middle, to, |t| {
                if let Some(share) = hit(middle, to, self.mesh.corners(t as usize)).filter(|s| *s < reach) {
                    (reach, side) = (share, Some(t as usize));
                }
                ControlFlow::Continue(())
            });
            let faces = |t: usize| self.planes[t].0.dot(way).abs() >= ACROSS;
            side.is_none_or(faces).then_some(reach * self.most)
        };
        (0..WAYS)
            .filter_map(|n| {
                let (sin, cos) = (n as f64 * std::f64::consts::PI / WAYS as f64).sin_cos();
                let way = u * cos + v * sin;
                Some(free(way)? + free(-way)?)
            })
            .min_by(f64::total_cmp)
    }

    /// Straight on to the first surface.
    fn along(&self, triangle: usize, place: Point, inward: Point) -> Option<Thickness> {
        // Nothing is thinner than rounding.
        let least = self.bvh.bounds().diagonal() * 1e-12;
        let to = place + inward * self.most;
        let mut first: Option<Thickness> = None;
        let mut reach = 1.0;
        let _ = self.bvh.along_segment(place, to, |t| {
            if t as usize != triangle
                && let Some(share) = hit(place, to, self.mesh.corners(t as usize))
                && share < reach
                && share * self.most > least
            {
                reach = share;
                first = Some(Thickness { across: share * self.most, opposite: place.lerp(to, share), triangle: t });
            }
            ControlFlow::Continue(())
        });
        first
    }

    /// Whether a triangle is the far side of a place with this direction into it.
    fn faces(&self, triangle: u32, inward: Point) -> bool {
        let along = self.planes[triangle as usize].0.dot(inward);
        FACING <= if self.side == Side::Inside { along } else { -along }
    }

    fn ball(&self, place: Point, inward: Point, ray: Option<Thickness>) -> Option<Thickness> {
        /// A ball into which nothing reaches by more than this share of its radius has come to rest. Less would be dear in
        /// round parts, where everything is about as near.
        const REST: f64 = 0.01;
        const ROUNDS: usize = 40;
        let mut radius = ray.map_or(self.most, |r| r.across) * 0.5;
        let mut touched = ray;
        for _ in 0..ROUNDS {
            let middle = place + inward * radius;
            let reach = radius * (1.0 - REST);
            let distance = |t: u32| {
                let (normal, offset) = self.planes[t as usize];
                if (normal.dot(middle) - offset).abs() >= reach {
                    return None;
                }
                let foot = || nearest_on_triangle(middle, self.mesh.corners(t as usize));
                self.faces(t, inward).then(|| (foot() - middle).length_squared())
            };
            let Some((t, _)) = self.bvh.nearest(middle, reach, distance) else { break };
            let at = nearest_on_triangle(middle, self.mesh.corners(t as usize));
            let to = at - place;
            let depth = to.dot(inward);
            // The ball through the place that touches this point.
            let next = if depth > 0.0 { to.length_squared() / (2.0 * depth) } else { 0.0 };
            touched = Some(Thickness { across: 2.0 * next, opposite: at, triangle: t });
            if next >= radius * (1.0 - REST) || next <= 0.0 {
                break;
            }
            radius = next;
        }
        touched
    }

    /// The thickness at each place of a triangle given, in order.
    ///
    /// # Errors
    /// [`Cancelled`].
    pub fn all(
        &self,
        places: &[(u32, Point)],
        way: Way,
        progress: &Progress,
    ) -> Result<Vec<Option<Thickness>>, Cancelled> {
        in_chunks(places, progress, |(t, p)| self.at(*t as usize, *p, way))
    }
}

/// Measures in parallel, telling how far it is.
fn in_chunks<T: Sync, F: Send>(
    items: &[T],
    progress: &Progress,
    measure: impl Fn(&T) -> F + Sync,
) -> Result<Vec<F>, Cancelled> {
    const CHUNK: usize = 512;
    let done = std::sync::atomic::AtomicUsize::new(0);
    let found: Result<Vec<Vec<F>>, Cancelled> = items
        .par_chunks(CHUNK)
        .map(|chunk| {
            let n = done.fetch_add(chunk.len(), std::sync::atomic::Ordering::Relaxed);
            progress.report(n as f64 / items.len() as f64, "measuring the wall")?;
            Ok(chunk.iter().map(&measure).collect())
        })
        .collect();
    Ok(found?.into_iter().flatten().collect())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes::{ball, block, turned};

    fn measured(mesh: &Mesh, side: Side, way: Way) -> Vec<(Point, Thickness)> {
        let places = middles(mesh);
        let all = Gauge::new(mesh, side, f64::INFINITY).all(&places, way, &Progress::unwatched()).unwrap();
        places.iter().zip(all).filter_map(|((_, p), t)| Some((*p, t?))).collect()
    }

    fn together(parts: &[Mesh]) -> Mesh {
        let (mut points, mut triangles) = (Vec::new(), Vec::new());
        for m in parts {
            let offset = points.len() as u32;
            points.extend(m.points());
            triangles.extend(m.triangles().iter().map(|t| t.map(|i| i + offset)));
        }
        Mesh::with_one_face(points, triangles).unwrap()
    }

    #[test]
    fn a_pin_is_narrow_both_ways_and_a_plate_is_not() {
        let girths = |mesh: &Mesh, keep: &dyn Fn(Point) -> bool| -> Vec<f64> {
            let gauge = Gauge::new(mesh, Side::Inside, f64::INFINITY);
            let inner = middles(mesh).into_iter().filter(|(_, p)| keep(*p));
            inner
                .filter_map(|(t, p)| {
                    let across = gauge.at(t as usize, p, Way::Ball)?.across;
                    Some(gauge.girth(t as usize, p, across)? / across)
                })
                .collect()
        };
        let pin = divide(&block(Point::ZERO, Point::new(2.0, 2.0, 30.0)), 1.0, 10_000);
        let along = girths(&pin, &|p| p.z > 3.0 && p.z < 27.0);
        assert!(along.len() > 100 && along.iter().all(|g| (g - 1.0).abs() < 0.03), "{along:?}");
        let plate = divide(&block(Point::ZERO, Point::new(30.0, 30.0, 2.0)), 1.0, 10_000);
        let flat = girths(&plate, &|p| p.z == 0.0 || p.z == 2.0);
        assert!(flat.len() > 1000 && flat.iter().all(|g| *g > 10.0));
    }

    fn shell(outer: f64, inner: f64, aside: f64) -> Mesh {
        let mut void = ball(inner, 40).map_points(|p| p + Point::X * aside).unwrap();
        void.reverse_triangles(|_| true);
        together(&[ball(outer, 40), void])
    }

    #[test]
    fn shells_measure_what_they_are_concentric_or_not() {
        for way in [Way::Ball, Way::Ray] {
            let even = measured(&shell(10.0, 8.0, 0.0), Side::Inside, way);
            assert_eq!(even.len(), 2 * 4 * 40 * 39);
            assert!(even.iter().all(|(_, t)| (t.across - 2.0).abs() < 0.05), "{way:?}");
            let aside = measured(&shell(10.0, 8.0, 1.2), Side::Inside, way);
            let least = aside.iter().min_by(|a, b| a.1.across.total_cmp(&b.1.across)).unwrap();
            assert!((least.1.across - 0.8).abs() < 0.05 && least.0.x > 7.9, "{way:?} {least:?}");
        }
        // Straight through a whole ball, and the largest ball in it.
        for way in [Way::Ball, Way::Ray] {
            assert!(measured(&ball(5.0, 40), Side::Inside, way).iter().all(|(_, t)| (t.across - 10.0).abs() < 0.3));
        }
    }

    #[test]
    fn a_block_is_as_thick_as_its_least_side_and_its_edges_are_not_thin() {
        let plate = block(Point::ZERO, Point::new(40.0, 30.0, 2.0));
        let gauge = Gauge::new(&plate, Side::Inside, f64::INFINITY);
        let top = (0..12).find(|t| plate.corners(*t).iter().all(|p| p.z == 2.0)).unwrap();
        for (x, y) in [(20.0, 15.0), (39.99, 15.0), (0.01, 0.01)] {
            let at = gauge.at(top, Point::new(x, y, 2.0), Way::Ball);
            assert!(at.is_none_or(|t| (t.across - 2.0).abs() < 1e-9), "{at:?}");
        }
        assert!((gauge.at(top, Point::new(20.0, 15.0, 2.0), Way::Ball).unwrap().across - 2.0).abs() < 1e-12);
    }

    #[test]
    fn a_wedge_and_a_dumbbell_are_thin_where_they_are() {
        // A wedge of 20 degrees along y: at x from its edge the ball across is 2 x tan(10°).
        let tan = 10f64.to_radians().tan();
        let (h, x) = (10.0 * tan, 10.0);
        let p = [[0.0, 0.0, 0.0], [x, 0.0, -h], [x, 0.0, h]].map(Point::from_array);
        let far = p.map(|p| p + Point::Y * 20.0);
        let points = [p, far].concat();
        let wedge = Mesh::with_one_face(
            points,
            vec![[0, 1, 2], [3, 5, 4], [0, 3, 4], [0, 4, 1], [1, 4, 5], [1, 5, 2], [2, 5, 3], [2, 3, 0]],
        )
        .unwrap();
        let gauge = Gauge::new(&wedge, Side::Inside, f64::INFINITY);
        for at in [0.5, 2.0, 5.0] {
            let (t, place) = (7, Point::new(at, 2.0, at * tan));
            let across = gauge.at(t, place, Way::Ball).unwrap().across;
            let along = at / 10f64.to_radians().cos();
            assert!((across / (2.0 * along * tan) - 1.0).abs() < 0.02, "{at}: {across}");
        }
        let outline: Vec<(f64, f64)> = vec![
            (0.0, -12.0),
            (6.0, -12.0),
            (6.0, -2.0),
            (1.0, -1.0),
            (1.0, 1.0),
            (6.0, 2.0),
            (6.0, 12.0),
            (0.0, 12.0),
        ];
        let bell = turned(&outline, 48);
        let all = measured(&bell, Side::Inside, Way::Ball);
        let least = all.iter().min_by(|a, b| a.1.across.total_cmp(&b.1.across)).unwrap();
        assert!((least.1.across - 2.0).abs() < 0.04 && least.0.z.abs() <= 1.0, "{least:?}");
    }

    #[test]
    fn gaps_are_measured_outward_and_between_parts() {
        let two = together(&[block(Point::ZERO, Point::splat(4.0)), block(Point::X * 4.7, Point::splat(4.0))]);
        let gaps = measured(&two, Side::Outside, Way::Ball);
        assert!(!gaps.is_empty() && gaps.iter().all(|(_, t)| (t.across - 0.7).abs() < 1e-6));
    }
}
