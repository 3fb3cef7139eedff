//! B-splines, rational ones too, as cubics.

use nimbet_profile::Flat;
use nimbet_profile::fit::followed;

use super::affine::Affine;

/// A B-spline: poles with weights (x·w, y·w, w).
pub(super) struct Spline {
    pub degree: usize,
    pub knots: Vec<f64>,
    pub poles: Vec<[f64; 3]>,
}

/// The highest degree that is read.
pub(super) const HIGHEST: usize = 11;

impl Spline {
    /// What is wrong with it, if anything.
    pub fn fault(&self) -> Option<&'static str> {
        let Self { degree, knots, poles } = self;
        if !(1..=HIGHEST).contains(degree) {
            return Some("a spline has a degree of 1 to 11");
        }
        if poles.len() <= *degree {
            return Some("a spline has more poles than its degree");
        }
        if knots.len() != poles.len() + degree + 1 {
            return Some("a spline has as many knots as poles and degree together, and one");
        }
        let finite = knots.iter().chain(poles.iter().flatten()).all(|x| x.is_finite());
        if !finite || knots.windows(2).any(|w| w[1] < w[0]) || poles.iter().any(|p| p[2] <= 0.0) {
            return Some("the knots of a spline do not decrease, and its weights are above 0");
        }
        None
    }

    /// The poles of the cubics that follow it, mapped: one for each stretch between knots where it is a polynomial of degree 3.
    pub fn cubics(&self, map: &Affine) -> Vec<[Flat; 4]> {
        let slopes = self.slopes();
        let mut made = Vec::new();
        for k in self.degree..self.poles.len() {
            let (from, to) = (self.knots[k], self.knots[k + 1]);
            if to <= from {
                continue;
            }
            let curve = |share: f64| {
                let t = from + (to - from) * share;
                let [x, y, w] = value(self.degree, &self.knots, &self.poles, k, t);
                let [dx, dy, dw] = match &slopes {
                    Some(s) => value(self.degree - 1, &self.knots[1..self.knots.len() - 1], s, k - 1, t),
                    None => [0.0; 3],
                };
                let at = Flat::new(x, y) / w;
                let slope = (Flat::new(dx, dy) - at * dw) / w;
                (map.place(at), map.way(slope) * (to - from))
            };
            made.extend(followed(&curve));
        }
        made
    }

    /// The poles of its slope.
    fn slopes(&self) -> Option<Vec<[f64; 3]>> {
        let p = self.degree as f64;
        let slope = |n: usize| {
            let wide = self.knots[n + self.degree + 1] - self.knots[n + 1];
            let by = if wide > 0.0 { p / wide } else { 0.0 };
            [0, 1, 2].map(|k| (self.poles[n + 1][k] - self.poles[n][k]) * by)
        };
        (self.degree > 0).then(|| (0..self.poles.len() - 1).map(slope).collect())
    }
}

/// The value on the stretch that begins at knot `k` (de Boor's scheme).
fn value(degree: usize, knots: &[f64], poles: &[[f64; 3]], k: usize, t: f64) -> [f64; 3] {
    let mut held: Vec<[f64; 3]> = (0..=degree).map(|j| poles[k - degree + j]).collect();
    for round in 1..=degree {
        for j in (round..=degree).rev() {
            let n = k - degree + j;
            let wide = knots[n + degree + 1 - round] - knots[n];
            let share = if wide > 0.0 { (t - knots[n]) / wide } else { 0.0 };
            held[j] = [0, 1, 2].map(|c| held[j - 1][c] * (1.0 - share) + held[j][c] * share);
        }
    }
    held[degree]
}
