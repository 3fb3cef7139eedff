//! Spans: stretches of curves that turn by at most a quarter, one way only. All questions of place are asked of them.

use std::f64::consts::{FRAC_PI_2, TAU};

use crate::Flat;

/// What kind of curve a span is of, with its measures. Its parameter runs as each kind says.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Form {
    /// A straight line; from 0 to 1.
    Line {
        /// Where it begins.
        from: Flat,
        /// Where it ends.
        to: Flat,
    },
    /// A circle; by its angle, radians.
    Arc {
        /// Its centre.
        centre: Flat,
        /// Its radius, mm.
        radius: f64,
    },
    /// An ellipse `centre + u cos + v sin`; by its angle, radians.
    Ellipse {
        /// Its centre.
        centre: Flat,
        /// The half of one axis.
        u: Flat,
        /// The half of the other.
        v: Flat,
    },
    /// A cubic by its four poles; from 0 to 1.
    Cubic([Flat; 4]),
    /// A flat spiral whose radius grows evenly, `radius + growth · angle`; by its angle, radians.
    Spiral {
        /// Its centre.
        centre: Flat,
        /// The radius at angle nought, mm.
        radius: f64,
        /// What the radius grows by with each radian, mm.
        growth: f64,
    },
    /// A flat spiral whose radius grows by the same share, `radius · e^(rate · angle)`; by its angle, radians.
    Growing {
        /// Its centre.
        centre: Flat,
        /// The radius at angle nought, mm.
        radius: f64,
        /// The logarithm of what the radius grows by with each radian.
        rate: f64,
    },
}

impl Form {
    fn at(&self, t: f64) -> Flat {
        let ray = |radius: f64| Flat::from_angle(t) * radius;
        match *self {
            Self::Line { from, to } => from + (to - from) * t,
            Self::Arc { centre, radius } => centre + ray(radius),
            Self::Ellipse { centre, u, v } => centre + u * t.cos() + v * t.sin(),
            Self::Cubic([a, b, c, d]) => {
                let s = 1.0 - t;
                a * (s * s * s) + b * (3.0 * s * s * t) + c * (3.0 * s * t * t) + d * (t * t * t)
            }
            Self::Spiral { centre, radius, growth } => centre + ray(radius + growth * t),
            Self::Growing { centre, radius, rate } => centre + ray(radius * (rate * t).exp()),
        }
    }

    /// How the place moves with the parameter, and how that changes.
    fn slopes(&self, t: f64) -> (Flat, Flat) {
        let turning = |r: f64, by: f64, more: f64| {
            let (out, round) = (Flat::from_angle(t), Flat::from_angle(t).perp());
            (out * by + round * r, out * (more - r) + round * (2.0 * by))
        };
        match *self {
            Self::Line { from, to } => (to - from, Flat::ZERO),
            Self::Arc { radius, .. } => turning(radius, 0.0, 0.0),
            Self::Ellipse { u, v, .. } => (v * t.cos() - u * t.sin(), -u * t.cos() - v * t.sin()),
            Self::Cubic([a, b, c, d]) => {
                let s = 1.0 - t;
                let first = ((b - a) * (s * s) + (c - b) * (2.0 * s * t) + (d - c) * (t * t)) * 3.0;
                (first, ((c - b * 2.0 + a) * s + (d - c * 2.0 + b) * t) * 6.0)
            }
            Self::Spiral { radius, growth, .. } => turning(radius + growth * t, growth, 0.0),
            Self::Growing { radius, rate, .. } => {
                let r = radius * (rate * t).exp();
                turning(r, r * rate, r * rate * rate)
            }
        }
    }
}

/// A stretch of a form between two values of its parameter, in either direction.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Span {
    /// What it is a stretch of.
    pub form: Form,
    /// The parameter where it begins.
    pub lo: f64,
    /// The parameter where it ends.
    pub hi: f64,
}

/// Knots and weights of Gauss and Legendre's rule of ten points, on 0 to 1; the other half lies the other way round.
const GAUSS: [(f64, f64); 5] = [
    (0.148_874_338_981_631_22, 0.295_524_224_714_752_87),
    (0.433_395_394_129_247_2, 0.269_266_719_309_996_35),
    (0.679_409_568_299_024_4, 0.219_086_362_515_982_04),
    (0.865_063_366_688_984_5, 0.149_451_349_150_580_6),
    (0.973_906_528_517_171_7, 0.066_671_344_308_688_14),
];

fn integral(f: impl Fn(f64) -> f64) -> f64 {
    GAUSS.iter().map(|(x, w)| w * (f(0.5 + x * 0.5) + f(0.5 - x * 0.5))).sum::<f64>() * 0.5
}

/// A chord turns by no more than this, radians, however small the bend: what is made of it has round faces that are smooth enough to
/// be known for what they are.
const TURN: f64 = std::f64::consts::PI / 6.0;

impl Span {
    /// A straight line.
    pub fn line(from: Flat, to: Flat) -> Self {
        Self { form: Form::Line { from, to }, lo: 0.0, hi: 1.0 }
    }

    /// Where it is after a share of it, 0 to 1.
    pub fn at(&self, share: f64) -> Flat {
        self.form.at(self.parameter(share))
    }

    fn parameter(&self, share: f64) -> f64 {
        if share == 1.0 { self.hi } else { self.lo + (self.hi - self.lo) * share }
    }

    /// Where it begins.
    pub fn from(&self) -> Flat {
        self.at(0.0)
    }

    /// Where it ends.
    pub fn to(&self) -> Flat {
        self.at(1.0)
    }

    /// How the place moves with the share, and how that changes.
    pub fn slopes(&self, share: f64) -> (Flat, Flat) {
        let (first, second) = self.form.slopes(self.parameter(share));
        let width = self.hi - self.lo;
        (first * width, second * (width * width))
    }

    /// The direction after a share of it; where it stands still, as near by.
    pub fn direction(&self, share: f64) -> Flat {
        let slope = self.slopes(share).0;
        if slope.length_squared() > 0.0 {
            return slope.normalize();
        }
        let (a, b) = (self.at((share - 1e-4).max(0.0)), self.at((share + 1e-4).min(1.0)));
        (b - a).normalize_or(Flat::X)
    }

    /// The other way round.
    #[must_use]
    pub fn reversed(&self) -> Self {
        Self { lo: self.hi, hi: self.lo, ..*self }
    }

    /// What lies between two shares of it.
    #[must_use]
    pub fn part(&self, from: f64, to: f64) -> Self {
        Self { lo: self.parameter(from), hi: self.parameter(to), ..*self }
    }

    /// Its length, mm.
    pub fn length(&self) -> f64 {
        match self.form {
            Form::Line { .. } => self.from().distance(self.to()),
            Form::Arc { radius, .. } => radius * (self.hi - self.lo).abs(),
            // Quarters are smooth enough for ten points to give all digits but the last few.
            _ => (0..4)
                .map(|k| self.part(f64::from(k) * 0.25, f64::from(k + 1) * 0.25))
                .map(|s| integral(|t| s.slopes(t).0.length()))
                .sum(),
        }
    }

    /// Its share of the area round it by Green's theorem, about a place, mm²: half the integral of `x dy − y dx`.
    pub fn sweeps(&self, about: Flat) -> f64 {
        integral(|t| (self.at(t) - about).perp_dot(self.slopes(t).0)) * 0.5
    }

    /// Its share of the first moments of the area round it, about a place, mm³: the integrals of x and y over that area.
    pub fn moments(&self, about: Flat) -> Flat {
        let third = |t: f64| {
            let at = self.at(t) - about;
            at * (at.perp_dot(self.slopes(t).0) / 3.0)
        };
        Flat::new(integral(|t| third(t).x), integral(|t| third(t).y))
    }

    /// A triangle that holds it: its ends, and where the directions there meet.
    pub fn hull(&self) -> [Flat; 3] {
        let (a, b) = (self.from(), self.to());
        if matches!(self.form, Form::Line { .. }) {
            return [a, (a + b) * 0.5, b];
        }
        let (d, e) = (self.direction(0.0), self.direction(1.0));
        let turn = d.perp_dot(e);
        let along = (b - a).perp_dot(e) / turn;
        // Directions that agree to rounding: the chord is as good.
        if turn.abs() < 1e-9 || !(along.is_finite() && along >= 0.0) {
            [a, (a + b) * 0.5, b]
        } else {
            [a, a + d * along, b]
        }
    }

    /// How far it may stand off its chord, mm.
    pub fn sag(&self) -> f64 {
        let [a, apex, b] = self.hull();
        distance_to_segment(apex, a, b)
    }

    /// The share of it nearest to a place, and how far it is there, mm.
    pub fn nearest(&self, place: Flat) -> (f64, f64) {
        let far = |t: f64| self.at(t).distance(place);
        let ends = if far(0.0) <= far(1.0) { 0.0 } else { 1.0 };
        let mut best = (ends, far(ends));
        // A span turns by a quarter at most: from a few beginnings one reaches the least.
        for start in [0.125, 0.5, 0.875] {
            let mut t: f64 = start;
            // Near the centre of its bend all places are about as far: there it takes more steps.
            for _ in 0..80 {
                let (first, second) = self.slopes(t);
                let off = self.at(t) - place;
                let bend = first.length_squared() + off.dot(second);
                let flat = first.length_squared();
                let step = off.dot(first) / if bend > flat * 0.02 { bend } else { flat.max(f64::MIN_POSITIVE) };
                let next = (t - step).clamp(0.0, 1.0);
                if (next - t).abs() < 1e-16 {
                    break;
                }
                t = next;
            }
            if far(t) < best.1 {
                best = (t, far(t));
            }
        }
        best
    }

    /// The shares at which it is cut so that no chord is farther from it than `chord`, mm, and none turns by more than [`TURN`];
    /// without 0, with 1.
    pub fn shares(&self, chord: f64) -> Vec<f64> {
        match self.form {
            Form::Line { .. } => vec![1.0],
            Form::Arc { radius, .. } => {
                let step = (2.0 * (1.0 - (chord / radius).min(1.0)).acos()).min(TURN);
                let n = ((self.hi - self.lo).abs() / step.max(1e-6)).ceil().max(1.0) as usize;
                (1..=n).map(|k| if k == n { 1.0 } else { k as f64 / n as f64 }).collect()
            }
            _ => {
                let mut shares = Vec::new();
                self.halve(chord, (0.0, 1.0), 20, &mut shares);
                shares
            }
        }
    }

    /// In halves, for as long as they are farther off or turn by more.
    fn halve(&self, chord: f64, (from, to): (f64, f64), depth: usize, shares: &mut Vec<f64>) {
        /// At a kink chords turn however short they are: they are short enough at this share of the chord tolerance.
        const SHORT: f64 = 0.05;
        let turns = || {
            let turn = self.direction(from).angle_to(self.direction(to)).abs();
            turn > TURN && self.at(from).distance(self.at(to)) > chord * SHORT
        };
        if depth == 0 || self.part(from, to).sag() <= chord && !turns() {
            return shares.push(to);
        }
        let middle = (from + to) * 0.5;
        self.halve(chord, (from, middle), depth - 1, shares);
        self.halve(chord, (middle, to), depth - 1, shares);
    }
}

/// How far a place is from a straight line between two others, mm.
pub(crate) fn distance_to_segment(p: Flat, a: Flat, b: Flat) -> f64 {
    let along = b - a;
    let t = ((p - a).dot(along) / along.length_squared().max(f64::MIN_POSITIVE)).clamp(0.0, 1.0);
    p.distance(a + along * t)
}

/// Cuts a stretch that runs by angle into spans of at most a quarter turn.
pub(crate) fn by_quarters(form: Form, from: f64, to: f64, quarter: f64) -> Vec<Span> {
    let n = ((to - from).abs() / quarter - 1e-9).ceil().max(1.0) as usize;
    let at = |k: usize| if k == n { to } else { from + (to - from) * k as f64 / n as f64 };
    (0..n).map(|k| Span { form, lo: at(k), hi: at(k + 1) }).collect()
}

/// A stretch of a circle or an ellipse, from one value of its parameter to another, in spans.
pub fn round(form: Form, from: f64, to: f64) -> Vec<Span> {
    // From an axis an ellipse turns by a quarter in each quarter of its angle, and only there.
    if let Form::Ellipse { .. } = form {
        let (low, high) = (from.min(to), from.max(to));
        let mut cuts = vec![low];
        let mut k = (low / FRAC_PI_2 + 1e-9).floor() + 1.0;
        while k * FRAC_PI_2 < high - 1e-9 {
            cuts.push(k * FRAC_PI_2);
            k += 1.0;
        }
        cuts.push(high);
        let spans = cuts.windows(2).map(|w| Span { form, lo: w[0], hi: w[1] });
        return if from <= to { spans.collect() } else { spans.rev().map(|s| s.reversed()).collect() };
    }
    by_quarters(form, from, to, FRAC_PI_2)
}

/// A spiral's stretch, in spans; it turns a little faster than its angle.
pub(crate) fn spiral(form: Form, from: f64, to: f64) -> Vec<Span> {
    by_quarters(form, from, to, TAU / 8.0)
}

/// A cubic, in spans: cut where it turns the other way, and until each turns by less than a quarter.
pub(crate) fn cubic(poles: [Flat; 4]) -> Vec<Span> {
    let [a, b, c, d] = poles;
    let (p, q, r) = (b - a, c - b * 2.0 + a, d - (c - b) * 3.0 - a);
    // The turn of first and second slope is a quadratic of the parameter.
    let (k0, k1, k2) = (p.perp_dot(q), p.perp_dot(r), q.perp_dot(r));
    let mut cuts = vec![0.0];
    let mut roots = Vec::new();
    let root = k1 * k1 - 4.0 * k2 * k0;
    if k2.abs() > 1e-14 * (k1.abs() + k0.abs()) {
        if root >= 0.0 {
            roots.extend([-1.0, 1.0].map(|s| (-k1 + s * root.sqrt()) / (2.0 * k2)));
        }
    } else if k1 != 0.0 {
        roots.push(-k0 / k1);
    }
    roots.sort_by(f64::total_cmp);
    cuts.extend(roots.into_iter().filter(|t| (1e-6..=1.0 - 1e-6).contains(t)));
    cuts.push(1.0);
    let mut spans = Vec::new();
    let form = Form::Cubic(poles);
    for w in cuts.windows(2) {
        split_turn(Span { form, lo: w[0], hi: w[1] }, 8, &mut spans);
    }
    spans
}

fn split_turn(span: Span, depth: usize, spans: &mut Vec<Span>) {
    let (a, m, b) = (span.direction(0.0), span.direction(0.5), span.direction(1.0));
    // Both halves are asked, so that a turn about is not taken for none.
    if depth == 0 || a.dot(m) >= 0.75 && m.dot(b) >= 0.75 && a.dot(b) >= 0.1 {
        return spans.push(span);
    }
    split_turn(span.part(0.0, 0.5), depth - 1, spans);
    split_turn(span.part(0.5, 1.0), depth - 1, spans);
}
