//! Least squares: moves the numbers of a surface until its distances to the points are least (Levenberg 1944, Marquardt
//! 1963), with a numeric derivative. A few numbers, up to some hundred points.

use nalgebra::{DMatrix, DVector};

/// Steps taken at most; these fits begin near their end.
const STEPS: usize = 12;
/// The step of the numeric derivative, for points scaled to about unit size.
const NUDGE: f64 = 1e-6;

/// Improves `numbers` so that the sum of squares of what `residuals` gives becomes least.
pub(super) fn refine(mut numbers: Vec<f64>, residuals: impl Fn(&[f64]) -> Vec<f64>) -> Vec<f64> {
    let sum = |r: &[f64]| r.iter().map(|x| x * x).sum::<f64>();
    let mut now = residuals(&numbers);
    let mut damping = 1e-3;
    for _ in 0..STEPS {
        let columns = numbers.len();
        let slopes: Vec<Vec<f64>> = (0..columns)
            .map(|c| {
                let mut moved = numbers.clone();
                moved[c] += NUDGE;
                residuals(&moved).iter().zip(&now).map(|(a, b)| (a - b) / NUDGE).collect()
            })
            .collect();
        let dot = |a: &[f64], b: &[f64]| a.iter().zip(b).map(|(x, y)| x * y).sum::<f64>();
        let gradient = DVector::from_fn(columns, |c, _| dot(&slopes[c], &now));
        let square = DMatrix::from_fn(columns, columns, |r, c| dot(&slopes[r], &slopes[c]));
        let before = sum(&now);
        let mut better = false;
        // A step that makes it worse is taken back and tried shorter.
        while damping < 1e6 {
            let mut damped = square.clone();
            for c in 0..columns {
                damped[(c, c)] += damping * (square[(c, c)] + 1e-12);
            }
            let Some(step) = damped.lu().solve(&gradient) else { return numbers };
            let moved: Vec<f64> = numbers.iter().zip(step.iter()).map(|(n, s)| n - s).collect();
            let then = residuals(&moved);
            if sum(&then) < before {
                (numbers, now, better) = (moved, then, true);
                damping = (damping * 0.1).max(1e-12);
                break;
            }
            damping *= 10.0;
        }
        if !better || sum(&now) >= before * (1.0 - 1e-9) {
            break;
        }
    }
    numbers
}
