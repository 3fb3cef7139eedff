//! Distances to segments and triangles.

use crate::Point;

/// The parameter (0 at `a`, 1 at `b`) of the point of the segment nearest to `p`, and the squared distance to it.
pub fn nearest_on_segment(p: Point, a: Point, b: Point) -> (f64, f64) {
    let along = b - a;
    let length_squared = along.length_squared();
    let t = if length_squared > 0.0 { ((p - a).dot(along) / length_squared).clamp(0.0, 1.0) } else { 0.0 };
    (t, (a + along * t - p).length_squared())
}

/// The length of a chain of points; `closed` adds the way back to the first.
pub fn chain_length(points: &[Point], closed: bool) -> f64 {
    let open: f64 = points.windows(2).map(|w| (w[1] - w[0]).length()).sum();
    match (closed, points) {
        (true, [first, .., last]) => open + (*first - *last).length(),
        _ => open,
    }
}

/// The area vector of a closed chain (Newell): its direction is the mean normal, its length the area the chain encloses
/// seen along it.
pub fn area_vector(points: &[Point]) -> Point {
    let Some(&origin) = points.first() else { return Point::ZERO };
    points.windows(2).map(|w| (w[0] - origin).cross(w[1] - origin)).sum::<Point>() * 0.5
}

/// The point of a triangle nearest to `p` (Ericson 2005, by Voronoi regions).
pub fn nearest_on_triangle(p: Point, [a, b, c]: [Point; 3]) -> Point {
    let (ab, ac, ap) = (b - a, c - a, p - a);
    let (d1, d2) = (ab.dot(ap), ac.dot(ap));
    if d1 <= 0.0 && d2 <= 0.0 {
        return a;
    }
    let bp = p - b;
    let (d3, d4) = (ab.dot(bp), ac.dot(bp));
    if d3 >= 0.0 && d4 <= d3 {
        return b;
    }
    let cp = p - c;
    let (d5, d6) = (ab.dot(cp), ac.dot(cp));
    if d6 >= 0.0 && d5 <= d6 {
        return c;
    }
    let vc = d1 * d4 - d3 * d2;
    if vc <= 0.0 && d1 >= 0.0 && d3 <= 0.0 {
        return a + ab * (d1 / (d1 - d3));
    }
    let vb = d5 * d2 - d1 * d6;
    if vb <= 0.0 && d2 >= 0.0 && d6 <= 0.0 {
        return a + ac * (d2 / (d2 - d6));
    }
    let va = d3 * d6 - d5 * d4;
    if va <= 0.0 && d4 - d3 >= 0.0 && d5 - d6 >= 0.0 {
        return b + (c - b) * ((d4 - d3) / ((d4 - d3) + (d5 - d6)));
    }
    let whole = va + vb + vc;
    if whole > 0.0 { a + ab * (vb / whole) + ac * (vc / whole) } else { a }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn no_point_of_the_triangle_is_nearer(v in proptest::collection::vec(-9i8..9, 12)) {
            let at = |i: usize| Point::new(v[i].into(), v[i + 1].into(), v[i + 2].into());
            let (p, t) = (at(0), [at(3), at(6), at(9)]);
            prop_assume!((t[1] - t[0]).cross(t[2] - t[0]) != Point::ZERO);
            let least = (nearest_on_triangle(p, t) - p).length();
            for i in 0..=12 {
                for j in 0..=12 - i {
                    let (u, w) = (f64::from(i) / 12.0, f64::from(j) / 12.0);
                    let q = t[0] + (t[1] - t[0]) * u + (t[2] - t[0]) * w;
                    prop_assert!((q - p).length() >= least - 1e-9);
                }
            }
        }
    }
}
