//! Where a point goes when the planes round it move: to where they meet then.

use nalgebra::{Matrix3, Vector3};

use crate::Point;

/// A plane through a point: its normal, and how far it moves along it, mm.
#[derive(Clone, Copy, Debug)]
pub(super) struct Moved {
    pub normal: Point,
    pub by: f64,
}

/// How far planes are off a place, as a share of what they move by, that still counts as meeting there.
const MEET: f64 = 1e-7;

/// Directions in which the planes bend by less than this share of the most are not told apart from flat ones: about four
/// degrees between the outermost normals. Less would let noise throw points far to the side.
const FLAT: f64 = 1e-3;

/// The shortest way to where the planes meet, in the sense of least squares, and the most any of them is off there, mm.
pub(super) fn meeting(planes: &[Moved]) -> (Point, f64) {
    let mut a = Matrix3::<f64>::zeros();
    let mut b = Vector3::<f64>::zeros();
    for Moved { normal: n, by } in planes {
        let n = Vector3::new(n.x, n.y, n.z);
        a += n * n.transpose();
        b += n * *by;
    }
    let eigen = a.symmetric_eigen();
    let largest = eigen.eigenvalues.max();
    let mut way = Vector3::<f64>::zeros();
    for k in 0..3 {
        if eigen.eigenvalues[k] > largest * FLAT {
            let axis = eigen.eigenvectors.column(k);
            way += axis * (axis.dot(&b) / eigen.eigenvalues[k]);
        }
    }
    let way = Point::new(way.x, way.y, way.z);
    let off = planes.iter().map(|p| (p.normal.dot(way) - p.by).abs()).fold(0.0, f64::max);
    let least = planes.iter().map(|p| p.by.abs()).fold(0.0, f64::max) * MEET;
    (way, if off <= least { 0.0 } else { off })
}

/// The direction at a share of the arc from one to another, all unit.
pub(super) fn on_arc(from: Point, to: Point, share: f64) -> Point {
    /// The sine of an angle below which, or near the half turn, the arc has no plane of its own.
    const STRAIGHT: f64 = 1e-9;
    let angle = from.dot(to).clamp(-1.0, 1.0).acos();
    if angle.sin() < STRAIGHT {
        return from.lerp(to, share).normalize_or(from);
    }
    (from * ((1.0 - share) * angle).sin() + to * (share * angle).sin()) / angle.sin()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn planes_meet_exactly_where_they_can_and_a_flat_corner_goes_straight_out() {
        let plane = |n: Point, by| Moved { normal: n.normalize(), by };
        let (way, off) = meeting(&[plane(Point::X, 1.0), plane(Point::Y, 2.0), plane(Point::Z, -3.0)]);
        assert!(way.distance(Point::new(1.0, 2.0, -3.0)) < 1e-12 && off == 0.0);
        let (way, off) = meeting(&[plane(Point::Z, 2.0), plane(Point::Z, 2.0)]);
        assert!(way.distance(Point::Z * 2.0) < 1e-12 && off == 0.0);
        // Two planes whose weights differ: still on both.
        let [a, b] = [Point::new(0.2, 0.0, 1.0), Point::new(-0.3, 0.1, 1.0)].map(|n| plane(n, 1.0));
        assert_eq!(meeting(&[a, a, a, b]).1, 0.0);
        // Four that have no common point.
        let four = [Point::X, Point::Y, Point::Z, Point::new(1.0, 1.0, 1.0)].map(|n| plane(n, 1.0));
        assert!(meeting(&four).1 > 0.05);
    }
}
