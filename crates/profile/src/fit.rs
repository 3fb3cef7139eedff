//! Curves that have no form of their own, written as cubics that follow them.

use crate::Flat;
use crate::span::{Form, Span, cubic};

/// How far a cubic may lie off what it follows, mm: far below what is made or measured.
pub const FIT: f64 = 1e-6;
/// The most times a stretch is halved.
const DEEPEST: usize = 12;

/// Poles of the cubics that follow a smooth curve, given as place and slope over 0 to 1; each after the first begins where the last ends.
pub fn followed(curve: &dyn Fn(f64) -> (Flat, Flat)) -> Vec<[Flat; 4]> {
    let mut made = Vec::new();
    halve(curve, 0.0, 1.0, DEEPEST, &mut made);
    made
}

fn halve(curve: &dyn Fn(f64) -> (Flat, Flat), from: f64, to: f64, depth: usize, made: &mut Vec<[Flat; 4]>) {
    let ((a, p), (b, q)) = (curve(from), curve(to));
    let third = (to - from) / 3.0;
    let poles = [a, a + p * third, b - q * third, b];
    let at = |t: f64| {
        let s = 1.0 - t;
        poles[0] * (s * s * s) + poles[1] * (3.0 * s * s * t) + poles[2] * (3.0 * s * t * t) + poles[3] * (t * t * t)
    };
    let off = [0.25, 0.5, 0.75].map(|t| at(t).distance(curve(from + (to - from) * t).0));
    if depth == 0 || off.into_iter().all(|off| off <= FIT) {
        return made.push(poles);
    }
    let middle = (from + to) * 0.5;
    halve(curve, from, middle, depth - 1, made);
    halve(curve, middle, to, depth - 1, made);
}

/// The cubics of a curve: those it is made of where it is, each whole again where it was cut into spans, else those that follow it.
pub fn cubics_of(spans: &[Span]) -> Vec<[Flat; 4]> {
    let mut whole: Vec<Span> = Vec::new();
    for span in spans {
        match whole.last_mut() {
            Some(last) if last.form == span.form && last.hi == span.lo => last.hi = span.hi,
            _ => whole.push(*span),
        }
    }
    let made = |s: &Span| match s.form {
        Form::Cubic(_) => {
            let (a, b) = (s.from(), s.to());
            vec![[a, a + s.slopes(0.0).0 / 3.0, b - s.slopes(1.0).0 / 3.0, b]]
        }
        _ => followed(&|t| (s.at(t), s.slopes(t).0)),
    };
    whole.iter().flat_map(made).collect()
}

/// The spans of those cubics; stretches that stand still are left out.
pub fn spans_of(cubics: &[[Flat; 4]]) -> Vec<Span> {
    cubics.iter().filter(|c| c[0].distance(c[3]) > FIT).flat_map(|c| cubic(*c)).collect()
}
