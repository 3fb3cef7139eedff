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

/// A distance between two surfaces, mm, with where it is on both.
pub type Apart = (f64, Point, Point);

/// The least distance between two triangles, and where.
pub(crate) fn triangles_apart(a: [Point; 3], b: [Point; 3]) -> Apart {
    let mut best = (f64::INFINITY, a[0], b[0]);
    let mut take = |p: Point, q: Point| {
        let d = p.distance(q);
        if d < best.0 {
            best = (d, p, q);
        }
    };
    for k in 0..3 {
        take(a[k], nearest_on_triangle(a[k], b));
        take(nearest_on_triangle(b[k], a), b[k]);
        let (p, q) = (a[k], a[(k + 1) % 3]);
        let through =
            |from: Point, to: Point, [x, y, z]: [Point; 3]| hit(from, to, [x, y, z]).map(|s| from.lerp(to, s));
        if let Some(at) = through(p, q, b) {
            take(at, at);
        }
        if let Some(at) = through(b[k], b[(k + 1) % 3], a) {
            take(at, at);
        }
        for j in 0..3 {
            let (at, to) = between_segments((p, q), (b[j], b[(j + 1) % 3]));
            take(at, to);
        }
    }
    best
}

/// The points of two segments nearest to each other (Ericson 2005).
fn between_segments((p, q): (Point, Point), (r, s): (Point, Point)) -> (Point, Point) {
    let (u, v, w) = (q - p, s - r, p - r);
    let (a, e, f) = (u.length_squared(), v.length_squared(), v.dot(w));
    let share = |x: f64, of: f64| if of > 0.0 { (x / of).clamp(0.0, 1.0) } else { 0.0 };
    if a == 0.0 || e == 0.0 {
        let (x, y) = if a == 0.0 { (0.0, share(f, e)) } else { (share(-u.dot(w), a), 0.0) };
        return (p + u * x, r + v * y);
    }
    let (b, c) = (u.dot(v), u.dot(w));
    let mut x = share(b * f - c * e, a * e - b * b);
    let y = (b * x + f) / e;
    let y_held = y.clamp(0.0, 1.0);
    if y != y_held {
        x = share(b * y_held - c, a);
    }
    (p + u * x, r + v * y_held)
}

/// Where along the segment from `a` to `b` it meets a triangle, as a share.
pub fn hit(a: Point, b: Point, [p, q, r]: [Point; 3]) -> Option<f64> {
    let way = b - a;
    let (u, v) = (q - p, r - p);
    let h = way.cross(v);
    let det = u.dot(h);
    if det == 0.0 {
        return None;
    }
    let s = a - p;
    let x = s.dot(h) / det;
    let k = s.cross(u);
    let y = way.dot(k) / det;
    let along = v.dot(k) / det;
    // A hair beyond the sides, so that nothing passes between neighbours.
    const HAIR: f64 = 1e-9;
    (x >= -HAIR && y >= -HAIR && x + y <= 1.0 + HAIR && (0.0..=1.0).contains(&along)).then_some(along)
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
