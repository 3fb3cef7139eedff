//! Outlines in a chart: their box, area, sense, and what lies within.

use super::Corner;

/// Copies of a pole between two corners at it, so that triangles there are narrow.
pub(super) fn spread_poles(outline: Vec<Corner>, step: [f64; 2]) -> Vec<Corner> {
    let count = outline.len();
    let mut spread = Vec::with_capacity(count);
    for n in 0..count {
        let ((id, a), (next, b)) = (outline[n], outline[(n + 1) % count]);
        spread.push((id, a));
        if id == next {
            let parts = (0..2).map(|k| ((b[k] - a[k]).abs() / step[k]).ceil()).fold(1.0, f64::max).min(1000.0) as usize;
            spread.extend((1..parts).map(|k| {
                let t = k as f64 / parts as f64;
                (id, [0, 1].map(|i| a[i] + (b[i] - a[i]) * t))
            }));
        }
    }
    spread
}

/// The box round corners.
pub(crate) fn boxed<'c>(corners: impl Iterator<Item = &'c Corner>) -> [[f64; 2]; 2] {
    let none = [[f64::INFINITY; 2], [f64::NEG_INFINITY; 2]];
    corners.fold(none, |[low, high], (_, at)| [[0, 1].map(|k| low[k].min(at[k])), [0, 1].map(|k| high[k].max(at[k]))])
}

/// The signed area of an outline.
pub(crate) fn area(outline: &[Corner]) -> f64 {
    let count = outline.len();
    let [o, _] = boxed(outline.iter());
    let twice = (0..count).map(|n| {
        let (a, b) = (outline[n].1, outline[(n + 1) % count].1);
        (a[0] - o[0]) * (b[1] - o[1]) - (a[1] - o[1]) * (b[0] - o[0])
    });
    twice.sum::<f64>() / 2.0
}

/// Whether a place is inside an outline.
pub(crate) fn encloses(outline: &[Corner], [x, y]: [f64; 2]) -> bool {
    let count = outline.len();
    let mut inside = false;
    for n in 0..count {
        let (a, b) = (outline[n].1, outline[(n + 1) % count].1);
        if (a[1] > y) != (b[1] > y) && x < a[0] + (b[0] - a[0]) * (y - a[1]) / (b[1] - a[1]) {
            inside = !inside;
        }
    }
    inside
}

pub(super) fn crossing([a, b]: [[f64; 2]; 2], [c, d]: [[f64; 2]; 2]) -> bool {
    let side = |p: [f64; 2], q: [f64; 2], r: [f64; 2]| (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]);
    (side(a, b, c) > 0.0) != (side(a, b, d) > 0.0) && (side(c, d, a) > 0.0) != (side(c, d, b) > 0.0)
}
