//! Flow: a piece between two ends that goes on from both, in direction or in curvature too.

use super::{ChangeError, refused};
use crate::drawing::{Drawing, LEAST, Shape};
use crate::fit::followed;
use crate::{Flat, Span};

/// What is asked for: two places at ends, how far each end pulls (1 is as usual), whether curvature goes on.
pub(super) struct Flow {
    pub ends: [Flat; 2],
    pub pull: [f64; 2],
    pub even: bool,
}

/// Where a line ends: the place, the way on from there, and how it bends to the left there.
struct End {
    at: Flat,
    way: Flat,
    bend: f64,
}

/// The strongest pull.
const STRONGEST: f64 = 5.0;

impl Drawing {
    pub(super) fn flowed(&self, flow: &Flow) -> Result<Self, ChangeError> {
        if !flow.pull.iter().all(|p| (0.05..=STRONGEST).contains(p)) {
            return refused(format!("an end pulls from 0.05 to {STRONGEST} times as far as usual"));
        }
        let curves = self.curves()?;
        let end_at = |place: Flat| {
            let ends = curves.iter().flat_map(|c| [c.spans[0].reversed(), c.spans[c.spans.len() - 1]]);
            ends.min_by(|a, b| a.to().distance(place).total_cmp(&b.to().distance(place))).map(|s| end_of(&s))
        };
        let (Some(from), Some(to)) = (end_at(flow.ends[0]), end_at(flow.ends[1])) else {
            return refused("nothing is drawn yet");
        };
        let far = from.at.distance(to.at);
        if far < LEAST {
            return refused("both ends are one place already; soften the corner instead");
        }
        let [p, q] = flow.pull;
        // Out of the first end, into the second.
        let (a, b) = (from.way * (far * p), -to.way * (far * q));
        let poles = if flow.even {
            // Of a curve that arrives the bend is that of the line it goes on as.
            let second = |slope: Flat, bend: f64| slope.normalize_or_zero().perp() * (bend * slope.length_squared());
            let (u, v) = (second(a, from.bend), second(b, -to.bend));
            followed(&|t| quintic([from.at, a, u], [to.at, b, v], t))
        } else {
            vec![[from.at, from.at + a / 3.0, to.at - b / 3.0, to.at]]
        };
        let legs = poles.iter().map(|c| [c[1], c[2], c[3]].map(|p| p.to_array())).collect();
        Ok(self.with(vec![Shape::Bezier { from: from.at.to_array(), legs }]))
    }
}

fn end_of(span: &Span) -> End {
    let (first, second) = span.slopes(1.0);
    let bend = first.perp_dot(second) / first.length().powi(3).max(f64::MIN_POSITIVE);
    End { at: span.to(), way: span.direction(1.0), bend }
}

/// Hermite's curve of the fifth degree: place, slope and second slope at both ends; its place and slope after a share.
fn quintic([p, a, u]: [Flat; 3], [q, b, v]: [Flat; 3], t: f64) -> (Flat, Flat) {
    let c = [
        p,
        a,
        u * 0.5,
        (q - p) * 10.0 - a * 6.0 - b * 4.0 - u * 1.5 + v * 0.5,
        (p - q) * 15.0 + a * 8.0 + b * 7.0 + u * 1.5 - v,
        (q - p) * 6.0 - a * 3.0 - b * 3.0 - u * 0.5 + v * 0.5,
    ];
    let place = c.iter().rev().fold(Flat::ZERO, |sum, c| sum * t + *c);
    let slope = (1..6).rev().fold(Flat::ZERO, |sum, k| sum * t + c[k] * k as f64);
    (place, slope)
}
