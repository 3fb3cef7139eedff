//! Bands of triangles between two chains of points of different counts, closed or open.
//!
//! Which points face each other is settled by the walk along both chains with the least squared distance across, weighted by
//! the way along, both seen from their middles: dynamic programming over the pairs of points, O(n · m), begun at the nearest
//! points of closed chains and at the ends of open ones. (The band of least area would rather close both chains when they
//! are far apart.) Longer chains are walked by their share of the length instead. A tangent band runs along cubic curves between the pairs.

use crate::{Cancelled, Point, Progress};

/// The most pairs of points searched for the best tiling: a byte is kept for each.
const MOST_PAIRS: usize = 20_000_000;

/// A band between two chains `a` and `b` that run the same way along it.
#[derive(Clone, Debug)]
pub struct Band {
    /// Inner points, mm; none for a straight band.
    pub inner: Vec<Point>,
    /// Triangles run against the direction of `a`. They name points of `a` by their number, points of `b` by `a.len()` plus
    /// theirs, and inner points by `a.len() + b.len()` plus theirs.
    pub triangles: Vec<[usize; 3]>,
}

/// The pairs of points that face each other, in order along the band. From one pair to the next either chain moves on by a
/// point. Closed chains come back to their first pair.
///
/// # Errors
/// [`Cancelled`].
pub fn facing_pairs(
    a: &[Point],
    b: &[Point],
    closed: bool,
    progress: &Progress,
) -> Result<Vec<(usize, usize)>, Cancelled> {
    let (n, m) = (a.len(), b.len());
    if n == 0 || m == 0 {
        return Ok(vec![]);
    }
    // Seen from their middles: that one side of the chains is nearer than the other shall not draw all pairs there.
    let (a, b) = (&from_middle(a, closed)[..], &from_middle(b, closed)[..]);
    let (i0, j0) = if closed { nearest_pair(a, b, progress)? } else { (0, 0) };
    let (steps_a, steps_b) = if closed { (n, m) } else { (n - 1, m - 1) };
    let at_a = |i: usize| a[(i0 + i) % n];
    let at_b = |j: usize| b[(j0 + j) % m];
    // A walk of so many steps along a and along b; true steps along a.
    let walk = if (steps_a + 1) * (steps_b + 1) <= MOST_PAIRS {
        best_walk(steps_a, steps_b, &at_a, &at_b, progress)?
    } else {
        even_walk(steps_a, steps_b, &at_a, &at_b)
    };
    let (mut i, mut j) = (0, 0);
    let mut pairs = vec![(i0, j0)];
    for along_a in walk {
        if along_a {
            i += 1
        } else {
            j += 1
        }
        pairs.push(((i0 + i) % n, (j0 + j) % m));
    }
    Ok(pairs)
}

/// The points of a chain less its middle, by length.
fn from_middle(chain: &[Point], closed: bool) -> Vec<Point> {
    let n = chain.len();
    let sides = (0..if closed { n } else { n - 1 }).map(|k| (chain[k], chain[(k + 1) % n]));
    let (mut sum, mut length) = (Point::ZERO, 0.0);
    for (p, q) in sides {
        sum += (p + q) * (0.5 * p.distance(q));
        length += p.distance(q);
    }
    let middle = if length > 0.0 { sum / length } else { chain[0] };
    chain.iter().map(|p| *p - middle).collect()
}

/// The straight band over the pairs, and its area, mm².
pub fn straight_band(a: &[Point], b: &[Point], pairs: &[(usize, usize)]) -> (Band, f64) {
    let n = a.len();
    let mut area = 0.0;
    let mut triangles = Vec::with_capacity(pairs.len());
    for step in pairs.windows(2) {
        let ((i, j), (i2, j2)) = (step[0], step[1]);
        if j == j2 {
            triangles.push([i2, i, n + j]);
            area += area_of(a[i], a[i2], b[j]);
        } else {
            triangles.push([n + j, n + j2, i]);
            area += area_of(b[j], b[j2], a[i]);
        }
    }
    (Band { inner: vec![], triangles }, area)
}

/// The most rows of points across a tangent band.
const MOST_ROWS: usize = 64;

/// The band that leaves `a` in the directions `leave` and comes to `b` against the directions `meet`, all unit vectors that
/// point into the band. Its rows are about as far apart as the points of `a`, the chain with more points by choice of the
/// caller; points of the two chains that are in the same place make no inner points.
pub fn tangent_band(a: &[Point], leave: &[Point], b: &[Point], meet: &[Point], pairs: &[(usize, usize)]) -> Band {
    let (n, m) = (a.len(), b.len());
    // One column for each point of a: the first pair it is in, the last of the band too.
    let mut columns: Vec<(usize, usize)> = Vec::new();
    for &(i, j) in pairs {
        if columns.last().is_none_or(|c| c.0 != i) {
            columns.push((i, j));
        }
    }
    let closed = pairs.len() > 1 && pairs[0] == pairs[pairs.len() - 1];
    if let Some(&last) = pairs.last() {
        if closed && columns.len() > 1 {
            columns.pop();
            columns.push(last);
        } else if !closed && columns.last() != Some(&last) {
            columns.push(last);
        }
    }
    let spacing = a.windows(2).map(|w| w[0].distance(w[1])).sum::<f64>() / (n.max(2) - 1) as f64;
    let across = columns.iter().map(|&(i, j)| a[i].distance(b[j])).fold(0.0, f64::max);
    let rows = ((across / spacing.max(f64::MIN_POSITIVE)).round() as usize).clamp(2, MOST_ROWS) - 1;

    let mut inner = Vec::new();
    // names[c][r]: the points of column c from a to b.
    let mut names: Vec<Vec<usize>> = Vec::with_capacity(columns.len());
    for (c, &(i, j)) in columns.iter().enumerate() {
        if closed && c + 1 == columns.len() {
            names.push(names[0].clone());
            continue;
        }
        let mut column = vec![i];
        let length = a[i].distance(b[j]);
        for r in 1..=rows {
            if length == 0.0 {
                column.push(i);
                continue;
            }
            let t = r as f64 / (rows + 1) as f64;
            let (t2, t3) = (t * t, t * t * t);
            inner.push(
                a[i] * (2.0 * t3 - 3.0 * t2 + 1.0)
                    + leave[i] * (length * (t3 - 2.0 * t2 + t))
                    + b[j] * (3.0 * t2 - 2.0 * t3)
                    - meet[j] * (length * (t3 - t2)),
            );
            column.push(n + m + inner.len() - 1);
        }
        names.push(column);
    }
    let mut triangles = Vec::new();
    for c in 0..columns.len().saturating_sub(1) {
        let (here, there) = (&names[c], &names[c + 1]);
        for r in 0..rows {
            triangles.push([there[r], here[r], here[r + 1]]);
            triangles.push([there[r], here[r + 1], there[r + 1]]);
        }
        // A fan from the last row to the points of b between the columns, then on to the next column.
        let mut j = columns[c].1;
        while j != columns[c + 1].1 {
            let next = (j + 1) % m;
            triangles.push([n + j, n + next, here[rows]]);
            j = next;
        }
        triangles.push([there[rows], here[rows], n + j]);
    }
    triangles.retain(|t| t[0] != t[1] && t[1] != t[2] && t[2] != t[0]);
    Band { inner, triangles }
}

fn area_of(a: Point, b: Point, c: Point) -> f64 {
    (b - a).cross(c - a).length() * 0.5
}

fn nearest_pair(a: &[Point], b: &[Point], progress: &Progress) -> Result<(usize, usize), Cancelled> {
    let mut best = (0, 0, f64::INFINITY);
    for (i, p) in a.iter().enumerate() {
        if i % 256 == 0 {
            progress.check()?;
        }
        for (j, q) in b.iter().enumerate() {
            let d = (*p - *q).length_squared();
            if d < best.2 {
                best = (i, j, d);
            }
        }
    }
    Ok((best.0, best.1))
}

fn best_walk(
    n: usize,
    m: usize,
    a: &dyn Fn(usize) -> Point,
    b: &dyn Fn(usize) -> Point,
    progress: &Progress,
) -> Result<Vec<bool>, Cancelled> {
    let width = m + 1;
    let mut cost = vec![f64::INFINITY; width];
    let mut along_a = vec![false; (n + 1) * width];
    for i in 0..=n {
        if i % 64 == 0 {
            progress.check()?;
        }
        for j in 0..=m {
            if (i, j) == (0, 0) {
                cost[0] = 0.0;
                continue;
            }
            let across = (a(i) - b(j)).length_squared();
            let by_a = if i > 0 { cost[j] + across * (a(i) - a(i - 1)).length() } else { f64::INFINITY };
            let by_b = if j > 0 { cost[j - 1] + across * (b(j) - b(j - 1)).length() } else { f64::INFINITY };
            along_a[i * width + j] = by_a <= by_b;
            cost[j] = by_a.min(by_b);
        }
    }
    let (mut i, mut j) = (n, m);
    let mut walk = Vec::with_capacity(n + m);
    while (i, j) != (0, 0) {
        let step = along_a[i * width + j];
        walk.push(step);
        if step { i -= 1 } else { j -= 1 }
    }
    walk.reverse();
    Ok(walk)
}

/// Steps along whichever chain has gone the smaller share of its length.
fn even_walk(n: usize, m: usize, a: &dyn Fn(usize) -> Point, b: &dyn Fn(usize) -> Point) -> Vec<bool> {
    let gone = |count: usize, at: &dyn Fn(usize) -> Point| -> Vec<f64> {
        let mut sum = 0.0;
        let mut list: Vec<f64> = (0..count)
            .map(|k| {
                sum += (at(k + 1) - at(k)).length();
                sum
            })
            .collect();
        list.iter_mut().for_each(|s| *s /= sum.max(f64::MIN_POSITIVE));
        list
    };
    let (share_a, share_b) = (gone(n, a), gone(m, b));
    let (mut i, mut j) = (0, 0);
    let mut walk = Vec::with_capacity(n + m);
    while i < n || j < m {
        let step = j >= m || (i < n && share_a[i] <= share_b[j]);
        walk.push(step);
        if step { i += 1 } else { j += 1 }
    }
    walk
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::f64::consts::TAU;

    fn ring(n: usize, radius: f64, z: f64, turn: f64) -> Vec<Point> {
        (0..n)
            .map(|k| k as f64 / n as f64 * TAU + turn)
            .map(|a| Point::new(radius * a.cos(), radius * a.sin(), z))
            .collect()
    }

    fn joined(a: &[Point], b: &[Point]) -> (Band, f64) {
        straight_band(a, b, &facing_pairs(a, b, true, &Progress::unwatched()).unwrap())
    }

    #[test]
    fn a_tangent_band_bulges_between_two_tubes_and_stays_straight_within_one() {
        let (a, b) = (ring(60, 5.0, 0.0, 0.0), ring(45, 5.0, 6.0, 0.0));
        let pairs = facing_pairs(&a, &b, true, &Progress::unwatched()).unwrap();
        let up = vec![Point::Z; 60];
        let down = vec![-Point::Z; 45];
        let tube = tangent_band(&a, &up, &b, &down, &pairs);
        assert!(!tube.inner.is_empty());
        let off = tube.inner.iter().map(|p| (p.truncate().length() - 5.0).abs()).fold(0.0, f64::max);
        assert!(off < 0.05, "{off}");
        let out: Vec<Point> = a.iter().map(|p| p.with_z(0.0).normalize()).collect();
        let lip = tangent_band(&a, &out, &b, &down, &pairs);
        assert!(lip.inner.iter().any(|p| p.truncate().length() > 5.5), "leaves outward where the surface ends outward");
        for band in [tube, lip] {
            let mut sides = std::collections::HashSet::new();
            assert!(band.triangles.iter().all(|t| (0..3).all(|k| sides.insert((t[k], t[(k + 1) % 3])))));
            let open = sides.iter().filter(|(x, y)| !sides.contains(&(*y, *x))).count();
            assert_eq!(open, 60 + 45, "only the chains themselves stay open");
        }
    }

    #[test]
    fn open_chains_are_joined_from_end_to_end() {
        let a: Vec<Point> = (0..8).map(|k| Point::new(k as f64, 0.0, 0.0)).collect();
        let b: Vec<Point> = (0..5).map(|k| Point::new(k as f64 * 1.75, 2.0, 0.0)).collect();
        let pairs = facing_pairs(&a, &b, false, &Progress::unwatched()).unwrap();
        assert_eq!((pairs[0], pairs[pairs.len() - 1]), ((0, 0), (7, 4)));
        let (band, area) = straight_band(&a, &b, &pairs);
        assert_eq!((band.triangles.len(), area), (11, 14.0));
    }

    #[test]
    fn rings_of_different_counts_are_joined_by_every_side_once_at_nearly_the_least_area() {
        for (n, m) in [(3, 3), (40, 64), (7, 90)] {
            let (a, b) = (ring(n, 5.0, 0.0, 0.1), ring(m, 5.0, 8.0, 2.0));
            let (band, area) = joined(&a, &b);
            let triangles = band.triangles;
            assert_eq!(triangles.len(), n + m);
            let mut sides = std::collections::HashSet::new();
            for t in &triangles {
                for k in 0..3 {
                    assert!(sides.insert((t[k], t[(k + 1) % 3])), "a side runs twice in one direction");
                }
            }
            let open = sides.iter().filter(|(x, y)| !sides.contains(&(*y, *x))).count();
            assert_eq!(open, n + m, "only the chains themselves stay open");
            assert!((0..n).all(|i| sides.contains(&((i + 1) % n, i))), "against the direction of a");
            if n == 40 {
                assert!(area < TAU * 5.0 * 8.0 * 1.01, "{area}");
            }
        }
    }

    #[test]
    fn very_long_chains_are_walked_evenly() {
        let (a, b) = (ring(5000, 5.0, 0.0, 0.0), ring(6000, 5.0, 1.0, 0.0));
        let (band, area) = joined(&a, &b);
        assert_eq!(band.triangles.len(), 11_000);
        assert!((area / (TAU * 5.0) - 1.0).abs() < 1e-3, "{area}");
    }
}
