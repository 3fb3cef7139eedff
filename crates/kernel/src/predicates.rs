//! Exact signs of orientation determinants (Shewchuk 1997, adaptive precision), over the `robust` crate.

use robust::{Coord, Coord3D};

use crate::Point;

/// Which side of something a point lies on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Side {
    /// The determinant is negative.
    Negative,
    /// The determinant is exactly zero.
    On,
    /// The determinant is positive.
    Positive,
}

impl Side {
    fn of(det: f64) -> Self {
        if det > 0.0 {
            Self::Positive
        } else if det < 0.0 {
            Self::Negative
        } else {
            Self::On
        }
    }

    /// Whether the two are strictly on different sides.
    pub fn opposes(self, other: Self) -> bool {
        matches!((self, other), (Self::Positive, Self::Negative) | (Self::Negative, Self::Positive))
    }
}

/// [`Side::Positive`] when `d` lies on the side of plane `a b c` its normal (b−a)×(c−a) points to.
#[inline]
pub fn side_of_plane(a: Point, b: Point, c: Point, d: Point) -> Side {
    // Exactly nought is the dearest answer there is, and these are what it is asked for most.
    let level = |x: fn(&Point) -> f64| x(&a) == x(&b) && x(&b) == x(&c) && x(&c) == x(&d);
    if d == a || d == b || d == c || level(|p| p.x) || level(|p| p.y) || level(|p| p.z) {
        return Side::On;
    }
    let q = |p: Point| Coord3D { x: p.x, y: p.y, z: p.z };
    // `robust` is positive when d lies below the plane in which a, b, c appear counter-clockwise.
    Side::of(-robust::orient3d(q(a), q(b), q(c), q(d)))
}

/// [`Side::Positive`] when `c` lies to the left of the line from `a` to `b` in the plane.
pub fn side_of_line(a: [f64; 2], b: [f64; 2], c: [f64; 2]) -> Side {
    let q = |p: [f64; 2]| Coord { x: p[0], y: p[1] };
    Side::of(robust::orient2d(q(a), q(b), q(c)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sides_are_named_by_the_right_hand_rule_and_are_exact() {
        let (o, x, y) = (Point::ZERO, Point::X, Point::Y);
        assert_eq!(side_of_plane(o, x, y, Point::Z), Side::Positive);
        assert_eq!(side_of_plane(o, x, y, -Point::Z), Side::Negative);
        assert_eq!(side_of_plane(o, x, y, Point::new(1e17, 3.0, 0.0)), Side::On);
        assert_eq!(side_of_plane(o, x, y, Point::new(1e17, 3.0, 1e-300)), Side::Positive);
        assert_eq!(side_of_line([0.0, 0.0], [1.0, 1.0], [0.5, 0.5 + 1e-16]), Side::Positive);
    }
}
