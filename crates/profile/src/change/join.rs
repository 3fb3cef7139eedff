//! Ends: those near each other joined, one drawn on to the next line.

use nimbet_kernel::Progress;

use super::{ChangeError, refused};
use crate::catch::line_of;
use crate::drawing::{Drawing, Shape};
use crate::look::look;
use crate::meet::meetings;
use crate::{Flat, Form, NetworkError, Span};

impl Drawing {
    /// The handle of a line at a place.
    fn handle_at(&self, line: &str, at: Flat) -> Option<String> {
        let near = |h: &crate::Handle| h.line == line && h.at.distance(at) <= 1e-6;
        let place = |h: &crate::Handle| ["from", "to"].contains(&h.name.as_str()) || h.name.contains(' ');
        self.handles().into_iter().find(|h| near(h) && place(h)).map(|h| h.name)
    }

    /// Whether copies follow a line.
    fn is_copied(&self, name: &str) -> bool {
        self.lines.iter().any(|l| l.draw.copied().iter().any(|of| of == name))
    }

    pub(super) fn joined(&self, reach: f64, progress: &Progress) -> Result<(Self, String), ChangeError> {
        let network = self.network(progress)?;
        let regions = network.regions(progress).map_err(NetworkError::from)?;
        let seen = look(&network, &regions, progress).map_err(NetworkError::from)?;
        let ends = &seen.ends;
        let (mut drawing, mut joined) = (self.clone(), 0);
        let mut bridges = Vec::new();
        for (n, other, gap) in seen.gaps().filter(|(_, _, gap)| *gap <= reach) {
            let both = [n, other].map(|k| {
                let (at, line) = (Flat::from(ends[k].at), line_of(&ends[k].line));
                (at, line, drawing.handle_at(line, at))
            });
            let [(a, one, first), (b, two, second)] = &both;
            // Of two that can both be moved each goes half of the way, but a line that copies follow stays where it can.
            let follows = [one, two].map(|name| self.is_copied(name));
            let (first, second) = match follows {
                [true, false] if second.is_some() => (&None, second),
                [false, true] if first.is_some() => (first, &None),
                _ => (first, second),
            };
            let place = match (first, second) {
                (Some(_), Some(_)) => (*a + *b) * 0.5,
                (Some(_), None) => *b,
                (None, Some(_)) => *a,
                (None, None) => {
                    bridges.push(Shape::Line { from: a.to_array(), to: b.to_array() });
                    joined += 1;
                    continue;
                }
            };
            for (line, handle) in [(one, first), (two, second)] {
                if let Some(handle) = handle {
                    drawing = drawing.dragged(line, handle, place, true)?;
                }
            }
            joined += usize::from(gap > 0.0);
        }
        if joined == 0 {
            return refused(format!("no two free ends lie within {reach} mm of each other"));
        }
        let s = if joined == 1 { "gap" } else { "gaps" };
        Ok((drawing.with(bridges), format!("{joined} {s} joined")))
    }

    pub(super) fn carried_on(&self, at: Flat, progress: &Progress) -> Result<(Self, String), ChangeError> {
        let network = self.network(progress)?;
        let ends = network.curves.iter().enumerate().filter(|(n, _)| !network.is_closed(*n)).flat_map(|(n, c)| {
            let (first, last) = (c.spans[0], c.spans[c.spans.len() - 1]);
            [(n, first.reversed()), (n, last)]
        });
        let Some((curve, last)) = ends.min_by(|a, b| a.1.to().distance(at).total_cmp(&b.1.to().distance(at))) else {
            return refused("no line has an end");
        };
        let name = network.curves[curve].name.clone();
        let end = last.to();
        let Some(handle) = self.handle_at(line_of(&name), end) else {
            return refused(format!("the end of line {name} belongs to a copy, or cannot be drawn on"));
        };
        let (least, most) = network.bounds();
        let far = 2.0 * ((most - least).length() + 1.0);
        let on = match last.form {
            Form::Line { .. } => vec![Span::line(end, end + last.direction(1.0) * far)],
            Form::Arc { centre, radius } => {
                let sense = (last.hi - last.lo).signum();
                let (begin, quarter) = (last.hi, std::f64::consts::FRAC_PI_2 * 0.99);
                let span = |k: f64| Span {
                    form: Form::Arc { centre, radius },
                    lo: begin + sense * quarter * k,
                    hi: begin + sense * quarter * (k + 1.0),
                };
                vec![span(0.0), span(1.0), span(2.0)]
            }
            _ => return refused(format!("line {name} ends in a free curve; only lines and arcs are carried on")),
        };
        let meets = on.iter().enumerate().flat_map(|(k, own)| {
            let others = network.curves.iter().enumerate().flat_map(|(c, o)| o.spans.iter().map(move |s| (c, s)));
            let hits = others.flat_map(move |(c, s)| meetings(own, s, network.fine).into_iter().map(move |m| (c, m)));
            hits.filter(|(_, m)| !m.lies).map(move |(c, m)| (k as f64 + m.a, own.at(m.a), c))
        });
        let ahead = meets.filter(|(_, p, _)| p.distance(end) > 1e-6).min_by(|a, b| a.0.total_cmp(&b.0));
        let Some((_, place, other)) = ahead else { return refused(format!("line {name} meets nothing farther on")) };
        let done = format!("line {name} carried on to line {}", network.curves[other].name);
        Ok((self.dragged(line_of(&name), &handle, place, true)?, done))
    }
}
