//! Rational B-splines: points and derivatives of curves and surfaces (Piegl and Tiller, The NURBS Book, 1997, A2.1 to A4.4).

use nimbet_kernel::Point;

/// The highest degree that is read.
pub const HIGHEST_DEGREE: usize = 25;

/// Knots of one parameter with the degree.
#[derive(Clone, Debug, PartialEq)]
pub struct Knots {
    degree: usize,
    knots: Vec<f64>,
}

/// Basis functions that are not nought at a parameter, with their first derivatives.
struct Basis {
    /// The first control point they belong to.
    first: usize,
    value: [f64; HIGHEST_DEGREE + 1],
    slope: [f64; HIGHEST_DEGREE + 1],
}

impl Knots {
    /// Knots for so many control points; none where they do not fit together.
    pub fn new(degree: usize, knots: Vec<f64>, controls: usize) -> Option<Self> {
        let whole = (1..=HIGHEST_DEGREE).contains(&degree)
            && controls > degree
            && knots.len() == controls + degree + 1
            && knots.iter().all(|k| k.is_finite())
            && knots.is_sorted()
            && knots[degree] < knots[controls];
        whole.then_some(Self { degree, knots })
    }

    /// From where to where the parameter runs.
    pub fn range(&self) -> [f64; 2] {
        [self.knots[self.degree], self.knots[self.knots.len() - 1 - self.degree]]
    }

    /// The different knots in the range, ends included.
    pub fn breaks(&self) -> Vec<f64> {
        let [from, to] = self.range();
        let mut breaks: Vec<f64> = self.knots.iter().copied().filter(|k| (from..=to).contains(k)).collect();
        breaks.dedup_by(|a, b| (*a - *b).abs() <= (to - from) * 1e-12);
        breaks
    }

    fn span(&self, t: f64) -> usize {
        let last = self.knots.len() - 2 - self.degree;
        let above = self.knots.partition_point(|k| *k <= t);
        above.saturating_sub(1).clamp(self.degree, last)
    }

    fn basis(&self, t: f64) -> Basis {
        let (p, k) = (self.degree, &self.knots);
        let [from, to] = self.range();
        let t = t.clamp(from, to);
        let mut span = self.span(t);
        // A span of no length has no inside.
        while span > p && k[span + 1] <= k[span] {
            span -= 1;
        }
        let mut value = [0.0; HIGHEST_DEGREE + 1];
        let mut lower = [0.0; HIGHEST_DEGREE + 1];
        let mut slope = [0.0; HIGHEST_DEGREE + 1];
        value[0] = 1.0;
        for d in 1..=p {
            if d == p {
                lower = value;
            }
            let mut saved = 0.0;
            for r in 0..d {
                let (right, left) = (k[span + r + 1] - t, t - k[span + 1 + r - d]);
                let term = if right + left > 0.0 { value[r] / (right + left) } else { 0.0 };
                value[r] = saved + right * term;
                saved = left * term;
            }
            value[d] = saved;
        }
        for r in 0..=p {
            let share = |j: usize, below: f64| {
                let width = k[j + p] - k[j];
                if width > 0.0 { below * p as f64 / width } else { 0.0 }
            };
            let j = span - p + r;
            let before = if r > 0 { share(j, lower[r - 1]) } else { 0.0 };
            let after = if r < p { share(j + 1, lower[r]) } else { 0.0 };
            slope[r] = before - after;
        }
        Basis { first: span - p, value, slope }
    }
}

/// A rational B-spline curve.
#[derive(Clone, Debug, PartialEq)]
pub struct SplineCurve {
    knots: Knots,
    /// Control points, each with its weight.
    controls: Vec<(Point, f64)>,
}

impl SplineCurve {
    /// A curve; none where its numbers do not fit together.
    pub fn new(degree: usize, knots: Vec<f64>, controls: Vec<(Point, f64)>) -> Option<Self> {
        let knots = Knots::new(degree, knots, controls.len())?;
        sound(controls.iter()).then_some(Self { knots, controls })
    }

    /// Its knots.
    pub fn knots(&self) -> &Knots {
        &self.knots
    }

    /// The place at a parameter, and how fast it goes there.
    pub fn at(&self, t: f64) -> (Point, Point) {
        let basis = self.knots.basis(t);
        let (mut p, mut w, mut dp, mut dw) = (Point::ZERO, 0.0, Point::ZERO, 0.0);
        for r in 0..=self.knots.degree {
            let (c, weight) = self.controls[basis.first + r];
            p += c * (weight * basis.value[r]);
            w += weight * basis.value[r];
            dp += c * (weight * basis.slope[r]);
            dw += weight * basis.slope[r];
        }
        let p = p / w;
        (p, (dp - p * dw) / w)
    }
}

/// A rational B-spline surface.
#[derive(Clone, Debug, PartialEq)]
pub struct SplineSurface {
    knots: [Knots; 2],
    /// Control points with weights, those of one `u` after the other.
    controls: Vec<(Point, f64)>,
}

impl SplineSurface {
    /// A surface; none where its numbers do not fit together. Control points come those of one `u` after the other.
    pub fn new(knots: [Knots; 2], controls: Vec<(Point, f64)>) -> Option<Self> {
        let [u, v] = &knots;
        let count = (u.knots.len() - u.degree - 1) * (v.knots.len() - v.degree - 1);
        (count == controls.len() && sound(controls.iter())).then_some(Self { knots, controls })
    }

    /// Its knots along `u` and `v`.
    pub fn knots(&self) -> &[Knots; 2] {
        &self.knots
    }

    /// The place at parameters, and how fast it goes along each.
    pub fn at(&self, [u, v]: [f64; 2]) -> [Point; 3] {
        let [ku, kv] = &self.knots;
        let (bu, bv) = (ku.basis(u), kv.basis(v));
        let across = kv.knots.len() - kv.degree - 1;
        let mut sums = [(Point::ZERO, 0.0); 3];
        for r in 0..=ku.degree {
            for s in 0..=kv.degree {
                let (c, weight) = self.controls[(bu.first + r) * across + bv.first + s];
                let shares = [bu.value[r] * bv.value[s], bu.slope[r] * bv.value[s], bu.value[r] * bv.slope[s]];
                for (sum, share) in sums.iter_mut().zip(shares) {
                    sum.0 += c * (weight * share);
                    sum.1 += weight * share;
                }
            }
        }
        let [(p, w), (pu, wu), (pv, wv)] = sums;
        let p = p / w;
        [p, (pu - p * wu) / w, (pv - p * wv) / w]
    }
}

/// Whether control points can be worked with.
fn sound<'a>(mut controls: impl Iterator<Item = &'a (Point, f64)>) -> bool {
    controls.all(|(p, w)| p.is_finite() && p.abs().max_element() < 1e12 && *w > 1e-9 && *w < 1e9)
}
