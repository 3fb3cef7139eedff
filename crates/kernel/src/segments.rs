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
