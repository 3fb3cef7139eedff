//! Covers any closed rim with the surface of least area.
//!
//! The triangulation of least area over the rim points alone is found by dynamic programming (Barequet and Sharir 1995;
//! Klincsek 1980), O(n³); longer rims are first covered over [`DIRECT`] of their points, and each triangle along the rim is
//! then filled up with the points left out. The cover is refined to the spacing of the rim and settles to least area.

use std::collections::HashSet;

use super::patch::Patch;
use super::relax::{refine, settle};
use crate::{Cancelled, Point, Progress};

/// The longest rim whose least triangulation is searched directly: about 40 ms.
const DIRECT: usize = 240;
/// Weight of the squared side lengths against the area: breaks the ties of flat rims in favour of short sides, and is too
/// small to outweigh a real difference in area.
const SHORT_SIDES: f64 = 1e-4;
/// A triangle whose height is below this share of its longest side counts as having no area.
const FLAT: f64 = 1e-6;

/// Covers one or more closed loops by one surface: the first is its border, the others are islands in it. The cover runs along
/// each loop in its direction; points are numbered over all loops. `may_join(i, j)` says whether a new side between loop
/// points `i` and `j` is allowed (it is not where the mesh has an edge already). At most `most_inner` points are added.
///
/// # Errors
/// [`Cancelled`].
pub fn taut_cover(
    loops: &[Vec<Point>],
    most_inner: usize,
    may_join: &dyn Fn(usize, usize) -> bool,
    progress: &Progress,
) -> Result<Patch, Cancelled> {
    let mut points = loops.concat();
    let outline = one_outline(loops);
    let places: Vec<Point> = outline.iter().map(|&i| points[i]).collect();
    let along_outline = |i: usize, j: usize| may_join(outline[i], outline[j]);
    let triangles = least_area(&places, &along_outline, progress)?;
    let named = triangles.into_iter().map(|t| t.map(|i| outline[i as usize] as u32)).collect();
    let rim = points.len();
    let named = without_taken_sides(&mut points, named, may_join);
    let mut patch = Patch::new(points, rim, named);
    patch.make_delaunay(4, may_join);
    refine(&mut patch, most_inner, may_join, progress)?;
    settle(&mut patch, may_join, progress)?;
    Ok(patch)
}

/// Where no cover does without a side that is not allowed, such sides get a point in their middle.
fn without_taken_sides(
    points: &mut Vec<Point>,
    mut triangles: Vec<[u32; 3]>,
    may_join: &dyn Fn(usize, usize) -> bool,
) -> Vec<[u32; 3]> {
    let rim = points.len() as u32;
    let sides = |t: &[u32; 3]| [(t[0], t[1]), (t[1], t[2]), (t[2], t[0])];
    let all: HashSet<(u32, u32)> = triangles.iter().flat_map(sides).collect();
    let mut taken: Vec<(u32, u32)> = all
        .iter()
        .filter(|(a, b)| a < b && *b < rim && all.contains(&(*b, *a)) && !may_join(*a as usize, *b as usize))
        .copied()
        .collect();
    taken.sort_unstable();
    for (a, b) in taken {
        let middle = points.len() as u32;
        points.push(points[a as usize].midpoint(points[b as usize]));
        let beside: Vec<usize> =
            (0..triangles.len()).filter(|t| triangles[*t].contains(&a) && triangles[*t].contains(&b)).collect();
        for t in beside {
            let old = triangles[t];
            triangles[t] = old.map(|c| if c == a { middle } else { c });
            triangles.push(old.map(|c| if c == b { middle } else { c }));
        }
    }
    triangles
}

/// The loops as one outline of point numbers: from the border a cut runs to the nearest point of each island and back.
fn one_outline(loops: &[Vec<Point>]) -> Vec<usize> {
    let mut outline: Vec<usize> = (0..loops.first().map_or(0, Vec::len)).collect();
    let all = loops.concat();
    let mut first = outline.len();
    for island in loops.iter().skip(1) {
        let apart = |&(i, j): &(usize, usize)| (all[outline[i]] - island[j]).length_squared();
        let pairs = (0..outline.len()).flat_map(|i| (0..island.len()).map(move |j| (i, j)));
        if let Some((i, j)) = pairs.min_by(|a, b| apart(a).total_cmp(&apart(b))) {
            let round = (0..=island.len()).map(|k| first + (j + k) % island.len());
            let back = outline[i];
            outline.splice(i + 1..i + 1, round.chain([back]));
        }
        first += island.len();
    }
    outline
}

/// Triangles of (nearly) least total area over the points of a closed rim, without new points.
///
/// # Errors
/// [`Cancelled`].
pub fn least_area(
    rim: &[Point],
    may_join: &dyn Fn(usize, usize) -> bool,
    progress: &Progress,
) -> Result<Vec<[u32; 3]>, Cancelled> {
    let all: Vec<usize> = (0..rim.len()).collect();
    if rim.len() <= DIRECT {
        return search(rim, &all, may_join, progress);
    }
    let keys: Vec<usize> = (0..DIRECT).map(|k| k * rim.len() / DIRECT).collect();
    // Sides between neighbouring keys are not final: only the points between them will be joined.
    let next_key = |i: usize| keys[(keys.partition_point(|&k| k <= i)) % keys.len()];
    let coarse = search(rim, &keys, &|i, j| next_key(i) == j || next_key(j) == i || may_join(i, j), progress)?;
    let mut triangles = Vec::with_capacity(rim.len());
    for t in coarse {
        let mut outline = Vec::new();
        for k in 0..3 {
            let (from, to) = (t[k] as usize, t[(k + 1) % 3] as usize);
            if next_key(from) == to {
                let steps = (to + rim.len() - from) % rim.len();
                outline.extend((0..steps).map(|s| (from + s) % rim.len()));
            } else {
                outline.push(from);
            }
        }
        triangles.extend(search(rim, &outline, may_join, progress)?);
    }
    Ok(triangles)
}

/// The least triangulation of the closed outline `ids` by dynamic programming over its diagonals.
fn search(
    points: &[Point],
    ids: &[usize],
    may_join: &dyn Fn(usize, usize) -> bool,
    progress: &Progress,
) -> Result<Vec<[u32; 3]>, Cancelled> {
    /// What a side costs that the mesh has already: any other way is better.
    const TAKEN: f64 = 1e30;
    /// What a triangle without area costs: better than a taken side, worse than any honest triangle.
    const DEGENERATE: f64 = 1e20;
    let n = ids.len();
    if n < 3 {
        return Ok(vec![]);
    }
    let p: Vec<Point> = ids.iter().map(|&i| points[i]).collect();
    let at = |i: usize, j: usize| i * n + j;
    let mut cost = vec![0.0f64; n * n];
    let mut apex = vec![0u32; n * n];
    for span in 2..n {
        progress.check()?;
        for i in 0..n - span {
            let j = i + span;
            let side_squared = (p[j] - p[i]).length_squared();
            let whole = span == n - 1;
            let taken = if whole || may_join(ids[i], ids[j]) { 0.0 } else { TAKEN };
            let (mut best, mut best_k) = (f64::INFINITY, i + 1);
            for k in i + 1..j {
                let parts = cost[at(i, k)] + cost[at(k, j)];
                if parts >= best {
                    continue;
                }
                let (u, v) = (p[k] - p[i], p[j] - p[i]);
                let area = u.cross(v).length() * 0.5;
                let longest = side_squared.max(u.length_squared()).max((p[j] - p[k]).length_squared());
                let flat = if area <= FLAT * longest { DEGENERATE } else { 0.0 };
                let total = parts + area + flat;
                if total < best {
                    (best, best_k) = (total, k);
                }
            }
            cost[at(i, j)] = best + taken + SHORT_SIDES * side_squared;
            apex[at(i, j)] = best_k as u32;
        }
    }
    let mut triangles = Vec::with_capacity(n - 2);
    let mut stack = vec![(0, n - 1)];
    while let Some((i, j)) = stack.pop() {
        if j - i < 2 {
            continue;
        }
        let k = apex[at(i, j)] as usize;
        triangles.push([ids[i] as u32, ids[k] as u32, ids[j] as u32]);
        stack.extend([(i, k), (k, j)]);
    }
    Ok(triangles)
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::f64::consts::TAU;

    fn cover(rim: &[Point]) -> Patch {
        taut_cover(&[rim.to_vec()], 20_000, &|_, _| true, &Progress::unwatched()).unwrap()
    }

    #[test]
    fn islands_are_left_open_and_the_cover_settles_between_them() {
        // Two rings of a catenoid, r = c cosh(z / c): its area between z = ±h is π c (sinh(2h/c) c + 2h).
        let (c, h) = (1.0f64, 0.4f64);
        let ring = |z: f64, turn: f64| -> Vec<Point> {
            let r = c * (h / c).cosh();
            (0..80)
                .map(|k| {
                    Point::new(r * (turn * k as f64 / 80.0 * TAU).cos(), r * (turn * k as f64 / 80.0 * TAU).sin(), z)
                })
                .collect()
        };
        let patch = taut_cover(&[ring(-h, 1.0), ring(h, -1.0)], 20_000, &|_, _| true, &Progress::unwatched()).unwrap();
        let exact = std::f64::consts::PI * c * (c * (2.0 * h / c).sinh() + 2.0 * h);
        assert!((patch.area() / exact - 1.0).abs() < 0.01, "{} instead of {exact}", patch.area());
        // One surface with two borders: points - sides + triangles = 0.
        let sides: std::collections::HashSet<(u32, u32)> = (patch.triangles.iter())
            .flat_map(|t| (0..3).map(|k| (t[k].min(t[(k + 1) % 3]), t[k].max(t[(k + 1) % 3]))))
            .collect();
        assert_eq!(patch.points.len() + patch.triangles.len(), sides.len());
    }

    /// Sides used once must be exactly the rim, in its direction; all others twice.
    fn fills(patch: &Patch) {
        let mut count = std::collections::HashMap::new();
        for t in &patch.triangles {
            for k in 0..3 {
                *count.entry((t[k], t[(k + 1) % 3])).or_insert(0) += 1;
            }
        }
        assert!(count.values().all(|&c| c == 1), "a side runs twice in one direction");
        let mut open: Vec<_> = count.keys().filter(|&&(a, b)| !count.contains_key(&(b, a))).copied().collect();
        open.sort_unstable();
        let n = patch.rim as u32;
        let mut rim: Vec<_> = (0..n).map(|i| (i, (i + 1) % n)).collect();
        rim.sort_unstable();
        assert_eq!(open, rim);
    }

    #[test]
    fn a_flat_circle_gets_the_area_of_its_polygon() {
        for n in [3, 4, 17, 240, 1000] {
            let rim: Vec<Point> = (0..n)
                .map(|i| f64::from(i) * TAU / f64::from(n))
                .map(|a| Point::new(a.cos(), a.sin(), 0.0) * 10.0)
                .collect();
            let patch = cover(&rim);
            fills(&patch);
            let exact = 50.0 * f64::from(n) * (TAU / f64::from(n)).sin();
            assert!((patch.area() - exact).abs() < 1e-6 * exact, "{n} points: {} is not {exact}", patch.area());
        }
    }

    #[test]
    fn a_square_rim_with_points_along_its_straight_sides_has_no_flat_triangles() {
        let m = 25;
        let side = |from: Point, to: Point| (0..m).map(move |i| from.lerp(to, f64::from(i) / f64::from(m)));
        let c = [Point::ZERO, Point::X * 9.0, Point::new(9.0, 9.0, 0.0), Point::Y * 9.0];
        let rim: Vec<Point> = (0..4).flat_map(|k| side(c[k], c[(k + 1) % 4])).collect();
        let patch = cover(&rim);
        fills(&patch);
        for t in 0..patch.triangles.len() {
            let [a, b, c] = patch.corners(t);
            assert!((b - a).cross(c - a).z > 1e-6);
        }
        assert!((patch.area() - 81.0).abs() < 1e-9);
    }

    #[test]
    fn a_cover_of_two_rings_edge_is_the_catenoid_within_a_hundredth() {
        // Half a catenoid r = cosh z, |z| ≤ 0.6, cut by the plane y = 0: its rim is two half circles and two catenaries.
        let (h, n) = (0.6f64, 40);
        let mut rim = vec![];
        let arc = |z: f64, a: f64| Point::new(z.cosh() * a.cos(), z.cosh() * a.sin(), z);
        for i in 0..n {
            rim.push(arc(-h, TAU / 2.0 * f64::from(i) / f64::from(n)));
        }
        for i in 0..n {
            rim.push(arc(-h + 2.0 * h * f64::from(i) / f64::from(n), TAU / 2.0));
        }
        for i in 0..n {
            rim.push(arc(h, TAU / 2.0 * (1.0 - f64::from(i) / f64::from(n))));
        }
        for i in 0..n {
            rim.push(arc(h - 2.0 * h * f64::from(i) / f64::from(n), 0.0));
        }
        let patch = cover(&rim);
        fills(&patch);
        // Area of the whole catenoid: π (sinh 2h + 2h); half of it here. It is one minimal surface on this rim.
        let catenoid = TAU / 4.0 * ((2.0 * h).sinh() + 2.0 * h);
        assert!(patch.area() < catenoid * 1.01, "{} against {catenoid}", patch.area());
    }

    #[test]
    fn forbidden_sides_are_avoided() {
        let square = [Point::ZERO, Point::X, Point::new(1.0, 1.0, 0.0), Point::Y];
        let triangles = least_area(&square, &|i, j| (i.min(j), i.max(j)) != (0, 2), &Progress::unwatched()).unwrap();
        assert!(triangles.iter().all(|t| !(t.contains(&0) && t.contains(&2))));
    }
}
