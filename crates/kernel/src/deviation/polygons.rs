//! Triangles and what is cut off them.

use crate::Point;

/// Which side of a triangle is longest: that from this corner to the next.
pub(super) fn longest_side(corners: [Point; 3]) -> usize {
    let side = |k: usize| corners[k].distance_squared(corners[(k + 1) % 3]);
    (0..3).max_by(|&i, &j| side(i).total_cmp(&side(j))).unwrap_or(0)
}

/// A triangle in two across its longest side, so that slender ones come to pieces as long as wide.
pub(super) fn halves(corners: [Point; 3]) -> [[Point; 3]; 2] {
    let k = longest_side(corners);
    let [a, b, c] = [0, 1, 2].map(|j| corners[(k + j) % 3]);
    let half = a.midpoint(b);
    [[a, half, c], [half, b, c]]
}

pub(crate) fn area_of([a, b, c]: [Point; 3]) -> f64 {
    (b - a).cross(c - a).length() * 0.5
}

/// The height of a triangle over its longest side.
pub(super) fn height_of([a, b, c]: [Point; 3]) -> f64 {
    let longest = a.distance(b).max(b.distance(c)).max(c.distance(a));
    if longest > 0.0 { 2.0 * area_of([a, b, c]) / longest } else { 0.0 }
}

/// How far a place on a triangle is from the nearest of its corners, at most.
pub(super) fn farthest_from_corners([a, b, c]: [Point; 3]) -> f64 {
    let mut sides = [a.distance_squared(b), b.distance_squared(c), c.distance_squared(a)];
    sides.sort_by(f64::total_cmp);
    let [x, y, z] = sides;
    if x + y > z {
        // The centre of the circle through all three lies within.
        let doubled = (b - a).cross(c - a).length();
        return (x * y * z).sqrt() / (2.0 * doubled).max(f64::MIN_POSITIVE);
    }
    // On the longest side, as far from one of its ends as from the corner over it.
    let from = |own: f64, other: f64| own * z.sqrt() / (z + own - other).max(f64::MIN_POSITIVE);
    from(x, y).max(from(y, x)).min(z.sqrt())
}

pub(super) fn fan(polygon: &[Point]) -> impl Iterator<Item = [Point; 3]> + '_ {
    (1..polygon.len().saturating_sub(1)).map(|k| [polygon[0], polygon[k], polygon[k + 1]])
}

/// Cuts a convex polygon by the planes through the sides of a triangle, square to it: what lies over it, and the convex pieces
/// beside. What only touches is left whole.
pub(super) fn cut_by_prism(whole: &[Point], over: [Point; 3]) -> (Vec<Point>, Vec<Vec<Point>>) {
    let normal = (over[1] - over[0]).cross(over[2] - over[0]);
    let mut inside = whole.to_vec();
    let mut rest = Vec::new();
    for k in 0..3 {
        let inward = normal.cross(over[(k + 1) % 3] - over[k]);
        let height: Vec<f64> = inside.iter().map(|p| (*p - over[k]).dot(inward)).collect();
        let n = inside.len();
        if height.iter().all(|h| *h <= 0.0) {
            return (vec![], vec![whole.to_vec()]);
        }
        if height.iter().all(|h| *h >= 0.0) {
            continue;
        }
        let (mut kept, mut beside) = (Vec::with_capacity(n + 1), Vec::new());
        for i in 0..n {
            let j = (i + 1) % n;
            if height[i] >= 0.0 {
                kept.push(inside[i]);
            }
            if height[i] <= 0.0 {
                beside.push(inside[i]);
            }
            if height[i] * height[j] < 0.0 {
                let at = inside[i].lerp(inside[j], height[i] / (height[i] - height[j]));
                kept.push(at);
                beside.push(at);
            }
        }
        if beside.len() > 2 {
            rest.push(beside);
        }
        inside = kept;
        if inside.len() < 3 {
            return (vec![], vec![whole.to_vec()]);
        }
    }
    (inside, rest)
}
