//! Holds after lines were cut, joined or taken away: they go over to what is left of their lines, or are let go.

use rustc_hash::FxHashMap;

use super::settle::largest;
use super::system::System;
use super::{Hold, Rule};
use crate::catch::line_of;
use crate::drawing::{Curve, Drawing};
use crate::{DrawingError, Flat, Form};

/// What lies on the same line does so within this, mm.
const SAME: f64 = 1e-6;

/// How much of a curve lies on another of the same kind; nothing where none does.
fn shared(old: &Curve, new: &Curve) -> Option<f64> {
    let ends = |c: &Curve| [c.spans[0].from(), c.spans[c.spans.len() - 1].to()];
    match (old.spans[0].form, new.spans[0].form) {
        (Form::Line { .. }, Form::Line { .. }) => {
            let ([a, b], [c, d]) = (ends(old), ends(new));
            let way = (b - a).normalize_or_zero();
            let along = |p: Flat| (p - a).dot(way);
            let off = |p: Flat| (p - a).perp_dot(way).abs();
            if off(c).max(off(d)) > SAME {
                return None;
            }
            let (lo, hi) = (along(c).min(along(d)).max(0.0), along(c).max(along(d)).min(along(b)));
            (hi - lo > SAME).then_some(hi - lo)
        }
        (Form::Arc { centre: c, radius: r }, Form::Arc { centre: d, radius: s }) => {
            let same = c.distance(d) <= SAME && (r - s).abs() <= SAME;
            let near = |p: Flat| old.spans.iter().map(|o| o.nearest(p).1).fold(f64::INFINITY, f64::min) <= SAME;
            let on = new.spans.iter().filter(|n| near(n.at(0.5)));
            let length: f64 = on.map(crate::Span::length).sum();
            (same && length > 0.0).then_some(length)
        }
        _ => (old.spans == new.spans).then_some(1.0),
    }
}

impl Drawing {
    /// This drawing with the holds of another it came of, as far as they are still kept; and how many are not.
    ///
    /// # Errors
    /// Where it cannot be drawn.
    pub(crate) fn with_holds_of(mut self, before: &Self) -> Result<(Self, usize), DrawingError> {
        if before.holds.is_empty() {
            return Ok((self, 0));
        }
        let stays = |name: &str| {
            let find = |d: &Self| d.lines.iter().find(|l| l.name == name).cloned();
            find(before).is_some_and(|l| find(&self) == Some(l))
        };
        let (old, new) = (before.curves()?, self.curves()?);
        let mut became: FxHashMap<String, Option<String>> = FxHashMap::default();
        for name in before.holds.iter().flat_map(|h| h.rule.curves()) {
            if became.contains_key(&name) {
                continue;
            }
            let now = if stays(line_of(&name)) {
                Some(name.clone())
            } else if let Some(curve) = old.iter().find(|c| c.name == name) {
                let lies = new.iter().filter_map(|n| Some((shared(curve, n)?, n.name == name, n)));
                lies.max_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1))).map(|(.., n)| n.name.clone())
            } else {
                Some(name.clone()).filter(|n| self.lines.iter().any(|l| l.name == *n))
            };
            became.insert(name, now);
        }
        let follow = |hold: &Hold| {
            let mut hold = hold.clone();
            for of in hold.rule.curves_mut() {
                *of = became.get(of.as_str())?.clone()?;
            }
            Some(hold)
        };
        self.holds = before.holds.iter().filter_map(follow).collect();
        let system = System::new(&self);
        let fine = |n: &usize| {
            let branch = system.branch(*n, &system.x);
            branch.is_ok_and(|b| {
                largest(&system.rows(*n, &b, &system.x).off.iter().map(|j| j.v).collect::<Vec<_>>()) <= SAME
            })
        };
        let kept: Vec<Hold> = (0..self.holds.len()).filter(fine).map(|n| self.holds[n].clone()).collect();
        let gone = before.holds.len() - kept.len();
        self.holds = kept;
        Ok((self, gone))
    }

    /// With a line called otherwise in all holds.
    pub(crate) fn rename_in_holds(&mut self, from: &str, to: &str) {
        for of in self.holds.iter_mut().flat_map(|h| h.rule.curves_mut()) {
            if line_of(of) == from {
                *of = format!("{to}{}", &of[from.len()..]);
            }
        }
    }

    /// A name no hold and no line has.
    pub(crate) fn free_hold(&self) -> String {
        let taken =
            |name: &String| self.holds.iter().any(|h| h.name == *name) || self.lines.iter().any(|l| l.name == *name);
        (1..).map(|n| format!("h{n}")).find(|n| !taken(n)).unwrap_or_default()
    }

    /// With a further hold.
    pub(crate) fn with_hold(&self, rule: Rule) -> Self {
        let mut drawing = self.clone();
        drawing.holds.push(Hold { name: self.free_hold(), rule, aside: None });
        drawing
    }
}
