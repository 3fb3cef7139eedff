//! A band of triangles between two closed chains of points of different counts.
//!
//! The tiling of least area between the chains, begun at their nearest points (after Fuchs, Kedem and Uselton 1977):
//! dynamic programming over the pairs of points, O(n · m). Longer chains are walked by their share of the length instead.

use crate::{Cancelled, Point, Progress};

/// The most pairs of points searched for the best tiling: a byte is kept for each.
const MOST_PAIRS: usize = 20_000_000;
/// Weight of squared side lengths against area: breaks the ties of flat bands in favour of short sides.
const SHORT_SIDES: f64 = 1e-3;

/// Triangulates between the closed chains `a` and `b`, both run through in the same sense round the band. Triangles name
/// points of `a` by their number and points of `b` by `a.len()` plus theirs, and run against the direction of `a`.
/// Gives the triangles and their area, mm².
///
/// # Errors
/// [`Cancelled`].
pub fn band(a: &[Point], b: &[Point], progress: &Progress) -> Result<(Vec<[usize; 3]>, f64), Cancelled> {
    let (n, m) = (a.len(), b.len());
    if n == 0 || m == 0 {
        return Ok((vec![], 0.0));
    }
    let (i0, j0) = nearest_pair(a, b, progress)?;
    let at_a = |i: usize| a[(i0 + i) % n];
    let at_b = |j: usize| b[(j0 + j) % m];
    // A walk of n steps along a and m along b; true steps along a.
    let walk = if (n + 1) * (m + 1) <= MOST_PAIRS {
        best_walk(n, m, &at_a, &at_b, progress)?
    } else {
        even_walk(n, m, &at_a, &at_b)
    };
    let (mut i, mut j) = (0, 0);
    let mut triangles = Vec::with_capacity(n + m);
    let mut area = 0.0;
    let name_a = |i: usize| (i0 + i) % n;
    let name_b = |j: usize| n + (j0 + j) % m;
    for along_a in walk {
        if along_a {
            triangles.push([name_a(i + 1), name_a(i), name_b(j)]);
            area += area_of(at_a(i), at_a(i + 1), at_b(j));
            i += 1;
        } else {
            triangles.push([name_b(j), name_b(j + 1), name_a(i)]);
            area += area_of(at_b(j), at_b(j + 1), at_a(i));
            j += 1;
        }
    }
    Ok((triangles, area))
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
            let side = SHORT_SIDES * (a(i) - b(j)).length_squared();
            let by_a = if i > 0 { cost[j] + area_of(a(i - 1), a(i), b(j)) } else { f64::INFINITY };
            let by_b = if j > 0 { cost[j - 1] + area_of(b(j - 1), b(j), a(i)) } else { f64::INFINITY };
            along_a[i * width + j] = by_a <= by_b;
            cost[j] = by_a.min(by_b) + side;
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

    #[test]
    fn rings_of_different_counts_are_joined_by_every_side_once_at_nearly_the_least_area() {
        for (n, m) in [(3, 3), (40, 64), (7, 90)] {
            let (a, b) = (ring(n, 5.0, 0.0, 0.1), ring(m, 5.0, 8.0, 2.0));
            let (triangles, area) = band(&a, &b, &Progress::unwatched()).unwrap();
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
        let (triangles, area) = band(&a, &b, &Progress::unwatched()).unwrap();
        assert_eq!(triangles.len(), 11_000);
        assert!((area / (TAU * 5.0) - 1.0).abs() < 1e-3, "{area}");
    }
}
