//! Copies of lines: moved, turned, mirrored.

use rustc_hash::FxHashMap;

use super::{MOST_CURVES, Shapes};
use crate::Flat;
use crate::span::{Form, Span};

/// Turns, perhaps mirrors (about x, before it turns) and moves.
#[derive(Clone, Copy)]
pub(super) struct Moved {
    pub turn: f64,
    pub mirrored: bool,
    pub shift: Flat,
}

impl Moved {
    pub fn way(&self, p: Flat) -> Flat {
        let p = if self.mirrored { Flat::new(p.x, -p.y) } else { p };
        Flat::from_angle(self.turn).rotate(p)
    }

    fn place(&self, p: Flat) -> Flat {
        self.way(p) + self.shift
    }

    fn span(&self, span: &Span) -> Span {
        let sign = if self.mirrored { -1.0 } else { 1.0 };
        let by_angle = |form: Form| Span { form, lo: self.turn + sign * span.lo, hi: self.turn + sign * span.hi };
        match span.form {
            Form::Line { from, to } => {
                Span { form: Form::Line { from: self.place(from), to: self.place(to) }, ..*span }
            }
            Form::Cubic(poles) => Span { form: Form::Cubic(poles.map(|p| self.place(p))), ..*span },
            // Its parameter stays: it belongs to the axes.
            Form::Ellipse { centre, u, v } => {
                Span { form: Form::Ellipse { centre: self.place(centre), u: self.way(u), v: self.way(v) }, ..*span }
            }
            Form::Arc { centre, radius } => by_angle(Form::Arc { centre: self.place(centre), radius }),
            Form::Spiral { centre, radius, growth } => by_angle(Form::Spiral {
                centre: self.place(centre),
                radius: radius - sign * growth * self.turn,
                growth: sign * growth,
            }),
            Form::Growing { centre, radius, rate } => by_angle(Form::Growing {
                centre: self.place(centre),
                radius: radius * (-sign * rate * self.turn).exp(),
                rate: sign * rate,
            }),
        }
    }
}

/// Copies of lines, moved each in its way.
pub(super) fn copies(of: &[String], drawn: &FxHashMap<&str, Vec<Vec<Span>>>, ways: &[Moved]) -> Shapes {
    if of.is_empty() {
        return Err("say which lines it copies".into());
    }
    let mut shapes = Vec::new();
    for way in ways {
        for name in of {
            let lines = drawn.get(name.as_str()).ok_or_else(|| format!("there is no line {name} before it"))?;
            if shapes.len() + lines.len() > MOST_CURVES {
                return Err(format!("a profile has at most {MOST_CURVES} curves with all copies"));
            }
            shapes.extend(lines.iter().map(|spans| spans.iter().map(|s| way.span(s)).collect()));
        }
    }
    Ok(shapes)
}

pub(super) fn counted(count: u32) -> Result<u32, String> {
    if (2..=MOST_CURVES as u32).contains(&count) {
        Ok(count)
    } else {
        Err(format!("{count} copies; from 2, with the lines themselves, to {MOST_CURVES} can be drawn"))
    }
}
