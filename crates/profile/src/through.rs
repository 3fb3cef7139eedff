//! The smooth curve through points: cubics that agree in direction and curvature where they meet.

use crate::span::cubic;
use crate::{Flat, Span};

/// The cubics of the curve through points. Its parameter grows with the square root of the distance from point to point, which keeps
/// it from swinging out between points that lie unevenly (Lee 1989). At its ends it has the directions asked for, or no curvature.
pub(crate) fn through(points: &[Flat], closed: bool, begin: Option<Flat>, end: Option<Flat>) -> Vec<[Flat; 4]> {
    let n = points.len();
    let legs = if closed { n } else { n - 1 };
    let at = |k: usize| points[k % n];
    let h: Vec<f64> = (0..legs).map(|k| at(k).distance(at(k + 1)).sqrt().max(f64::MIN_POSITIVE)).collect();
    let rise: Vec<Flat> = (0..legs).map(|k| (at(k + 1) - at(k)) / h[k]).collect();
    let slopes = if closed { slopes_round(&h, &rise) } else { slopes_along(&h, &rise, begin, end) };
    (0..legs)
        .map(|k| {
            let (m, next) = (slopes[k], slopes[(k + 1) % slopes.len()]);
            [at(k), at(k) + m * (h[k] / 3.0), at(k + 1) - next * (h[k] / 3.0), at(k + 1)]
        })
        .collect()
}

/// The smooth curve through places, as spans; nothing through fewer than two, and none twice in a row.
pub fn smooth_through(points: &[Flat]) -> Vec<Span> {
    let mut apart = points.to_vec();
    apart.dedup_by(|a, b| a.distance(*b) < crate::drawing::LEAST);
    if apart.len() < 2 || apart.iter().any(|p| !p.is_finite()) {
        return vec![];
    }
    through(&apart, false, None, None).into_iter().flat_map(cubic).collect()
}

/// One row of a system in which each unknown knows its neighbours only: before, own, after, and the right side.
struct Row(f64, f64, f64, Flat);

/// Equal curvature on both sides of an inner point.
fn even(before: (f64, Flat), after: (f64, Flat)) -> Row {
    let ((h, rise), (g, next)) = (before, after);
    Row(g, 2.0 * (h + g), h, (rise * g + next * h) * 3.0)
}

fn slopes_along(h: &[f64], rise: &[Flat], begin: Option<Flat>, end: Option<Flat>) -> Vec<Flat> {
    let last = h.len() - 1;
    // A direction says where to, not how fast: as fast as the leg beside it goes.
    let held = |way: Flat, rise: Flat| Row(0.0, 1.0, 0.0, way.normalize_or_zero() * rise.length());
    let first = begin.map_or(Row(0.0, 2.0, 1.0, rise[0] * 3.0), |way| held(way, rise[0]));
    let end = end.map_or(Row(1.0, 2.0, 0.0, rise[last] * 3.0), |way| held(way, rise[last]));
    let inner = (0..last).map(|k| even((h[k], rise[k]), (h[k + 1], rise[k + 1])));
    solve(std::iter::once(first).chain(inner).chain([end]).collect())
}

/// Round a closed curve the first and the last unknown know each other, too: solved twice, and put together (Sherman and Morrison).
fn slopes_round(h: &[f64], rise: &[Flat]) -> Vec<Flat> {
    let n = h.len();
    let rows = || (0..n).map(|k| even((h[(k + n - 1) % n], rise[(k + n - 1) % n]), (h[k], rise[k])));
    let mut plain: Vec<Row> = rows().collect();
    let (low, high) = (plain[0].0, plain[n - 1].2);
    let gamma = -plain[0].1;
    plain[0].1 -= gamma;
    plain[n - 1].1 -= high * low / gamma;
    let mut other: Vec<Row> = plain.iter().map(|r| Row(r.0, r.1, r.2, Flat::ZERO)).collect();
    other[0].3 = Flat::splat(gamma);
    other[n - 1].3 = Flat::splat(high);
    let (x, z) = (solve(plain), solve(other));
    let share = (x[0] + x[n - 1] * (low / gamma)) / (1.0 + z[0].x + z[n - 1].x * (low / gamma));
    x.iter().zip(&z).map(|(x, z)| *x - *z * share).collect()
}

fn solve(mut rows: Vec<Row>) -> Vec<Flat> {
    for k in 1..rows.len() {
        let share = rows[k].0 / rows[k - 1].1;
        rows[k].1 -= share * rows[k - 1].2;
        rows[k].3 = rows[k].3 - rows[k - 1].3 * share;
    }
    let mut x = vec![Flat::ZERO; rows.len()];
    for k in (0..rows.len()).rev() {
        let after = if k + 1 < rows.len() { x[k + 1] * rows[k].2 } else { Flat::ZERO };
        x[k] = (rows[k].3 - after) / rows[k].1;
    }
    x
}
