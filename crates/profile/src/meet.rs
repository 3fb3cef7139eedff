//! Where two spans meet: crossings, touches, and stretches that lie on each other.
//!
//! Spans turn by a quarter at most, so each lies in the triangle of its ends and the directions there. Triangles that are apart
//! rule a meeting out; where the directions of two stretches cannot agree they cross once at most, and Newton's method finds it.

use crate::Flat;
use crate::span::{Form, Span};

/// A place two spans have in common, as shares of each.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Meeting {
    pub a: f64,
    pub b: f64,
    /// Whether it is the end of a stretch in which they lie on each other.
    pub lies: bool,
}

/// Where two spans meet, to within `fine`; stretches that lie on each other are given by their ends.
pub(crate) fn meetings(a: &Span, b: &Span, fine: f64) -> Vec<Meeting> {
    if apart(&a.hull(), &b.hull(), fine) {
        return vec![];
    }
    let mut found = ends_on_each_other(a, b, fine);
    found.sort_by(|m, n| m.a.total_cmp(&n.a));
    let lying: Vec<bool> = found.windows(2).map(|w| lies_between(a, b, w[0].a, w[1].a, fine)).collect();
    for (k, lies) in lying.iter().enumerate() {
        if *lies {
            found[k].lies = true;
            found[k + 1].lies = true;
        }
    }
    // Stretches of smooth curves that lie on each other do not cross elsewhere within a quarter turn.
    if lying.contains(&true) {
        return found;
    }
    let mut search = Search { a, b, fine, found };
    search.go((0.0, 1.0), (0.0, 1.0), MOST_HALVINGS);
    search.found
}

/// Halvings after which a stretch of the largest drawing is finer than anything.
const MOST_HALVINGS: usize = 48;

/// Where the ends of each lie on the other.
fn ends_on_each_other(a: &Span, b: &Span, fine: f64) -> Vec<Meeting> {
    let mut found: Vec<Meeting> = Vec::new();
    let mut take = |m: Meeting| {
        let same =
            |n: &Meeting| a.at(n.a).distance(a.at(m.a)) <= 2.0 * fine && b.at(n.b).distance(b.at(m.b)) <= 2.0 * fine;
        if !found.iter().any(same) {
            found.push(m);
        }
    };
    for share in [0.0, 1.0] {
        let (on, far) = b.nearest(a.at(share));
        if far <= fine {
            take(Meeting { a: share, b: snapped(b, on, fine), lies: false });
        }
        let (on, far) = a.nearest(b.at(share));
        if far <= fine {
            take(Meeting { a: snapped(a, on, fine), b: share, lies: false });
        }
    }
    found
}

/// An end, where a share is as good as there.
fn snapped(span: &Span, share: f64, fine: f64) -> f64 {
    let end = share.round();
    if span.at(end).distance(span.at(share)) <= fine { end } else { share }
}

fn lies_between(a: &Span, b: &Span, from: f64, to: f64, fine: f64) -> bool {
    let places = [0.25, 0.5, 0.75].map(|k| a.at(from + (to - from) * k));
    a.at(from).distance(a.at(to)) > 2.0 * fine && places.into_iter().all(|p| b.nearest(p).1 <= fine)
}

struct Search<'a> {
    a: &'a Span,
    b: &'a Span,
    fine: f64,
    found: Vec<Meeting>,
}

impl Search<'_> {
    fn go(&mut self, s: (f64, f64), t: (f64, f64), halvings: usize) {
        let (p, q) = (self.a.part(s.0, s.1), self.b.part(t.0, t.1));
        let (hull, other) = (p.hull(), q.hull());
        if apart(&hull, &other, self.fine) {
            return;
        }
        if !may_agree(&p, &q) && self.cross(s, t) {
            return;
        }
        let (sag, more) = (p.sag(), q.sag());
        if halvings == 0 || sag + more < self.fine * 0.5 {
            return self.touch(&p, &q, s, t);
        }
        // What stands off its chord farther is halved; both where they are alike.
        let (middle, half) = ((s.0 + s.1) * 0.5, (t.0 + t.1) * 0.5);
        let parts = |bend: bool, w: (f64, f64), m: f64| if bend { vec![(w.0, m), (m, w.1)] } else { vec![w] };
        for s in parts(sag >= more * 0.25, s, middle) {
            for t in parts(more >= sag * 0.25, t, half) {
                self.go(s, t, halvings - 1);
            }
        }
    }

    /// Their directions differ throughout, so they cross once or not at all. Whether Newton's method found where.
    fn cross(&mut self, s: (f64, f64), t: (f64, f64)) -> bool {
        let (mut u, mut v) = ((s.0 + s.1) * 0.5, (t.0 + t.1) * 0.5);
        for _ in 0..64 {
            let off = self.b.at(v) - self.a.at(u);
            let (d, e) = (self.a.slopes(u).0, self.b.slopes(v).0);
            let turn = d.perp_dot(e);
            let (du, dv) = (off.perp_dot(e) / turn, off.perp_dot(d) / turn);
            if !(du.is_finite() && dv.is_finite()) {
                break;
            }
            // Held to the stretches: outside, the directions may agree.
            let next = ((u + du).clamp(s.0, s.1), (v + dv).clamp(t.0, t.1));
            if next == (u, v) {
                break;
            }
            (u, v) = next;
        }
        let found = self.a.at(u).distance(self.b.at(v)) <= self.fine;
        if found {
            self.take(u, v);
        }
        found
    }

    /// As good as straight and alongside: where they are nearest.
    fn touch(&mut self, p: &Span, q: &Span, s: (f64, f64), t: (f64, f64)) {
        let mut best = (f64::INFINITY, 0.0, 0.0);
        for share in [0.0, 0.5, 1.0] {
            let (on, far) = q.nearest(p.at(share));
            if far < best.0 {
                best = (far, share, on);
            }
            let (on, far) = p.nearest(q.at(share));
            if far < best.0 {
                best = (far, on, share);
            }
        }
        if best.0 <= self.fine {
            self.take(s.0 + (s.1 - s.0) * best.1, t.0 + (t.1 - t.0) * best.2);
        }
    }

    fn take(&mut self, u: f64, v: f64) {
        let (u, v) = (snapped(self.a, u, self.fine), snapped(self.b, v, self.fine));
        // A touch is found in several stretches, as wide as curves that bend so are within `fine` of each other.
        let bend = |span: &Span, t: f64| {
            let (first, second) = span.slopes(t);
            first.perp_dot(second).abs() / first.length().powi(3).max(f64::MIN_POSITIVE)
        };
        let bends = bend(self.a, u).max(bend(self.b, v)).max(f64::MIN_POSITIVE);
        let along = self.a.direction(u).perp_dot(self.b.direction(v)).abs() < 1e-3;
        let wide =
            if along { (8.0 * self.fine / bends).sqrt().min(1e4 * self.fine.sqrt()) } else { 0.0 }.max(2.0 * self.fine);
        let (p, q) = (self.a.at(u), self.b.at(v));
        let near = |m: &Meeting| self.a.at(m.a).distance(p) <= wide && self.b.at(m.b).distance(q) <= wide;
        match self.found.iter_mut().find(|m| near(m)) {
            // Of several the one in the middle of it, where they are nearest; an end stays.
            Some(m) if ![m.a, m.b].iter().any(|x| *x == 0.0 || *x == 1.0) => {
                if p.distance(q) < self.a.at(m.a).distance(self.b.at(m.b)) {
                    (m.a, m.b) = (u, v);
                }
            }
            Some(_) => {}
            None => self.found.push(Meeting { a: u, b: v, lies: false }),
        }
    }
}

/// Whether the directions of two spans may be alongside somewhere.
fn may_agree(a: &Span, b: &Span) -> bool {
    let (d, e) = ((a.direction(0.0), a.direction(1.0)), (b.direction(0.0), b.direction(1.0)));
    if matches!((a.form, b.form), (Form::Line { .. }, Form::Line { .. })) {
        return d.0.perp_dot(e.0).abs() < 1e-9;
    }
    // All directions of the one lie to the same side of all of the other, seen along and against.
    let turns = [d.0.perp_dot(e.0), d.0.perp_dot(e.1), d.1.perp_dot(e.0), d.1.perp_dot(e.1)];
    let one_side = turns.iter().all(|t| *t > 1e-4) || turns.iter().all(|t| *t < -1e-4);
    !one_side
}

/// Whether two triangles are farther apart than `fine`.
fn apart(a: &[Flat; 3], b: &[Flat; 3], fine: f64) -> bool {
    let axes = |t: &[Flat; 3]| [t[1] - t[0], t[2] - t[1], t[0] - t[2]].map(|e| e.perp());
    let reach = |t: &[Flat; 3], axis: Flat| {
        let along = t.map(|p| p.dot(axis));
        (along.into_iter().fold(f64::INFINITY, f64::min), along.into_iter().fold(f64::NEG_INFINITY, f64::max))
    };
    let along = [a[2] - a[0], b[2] - b[0], Flat::X, Flat::Y];
    axes(a).into_iter().chain(axes(b)).chain(along).any(|axis| {
        let axis = axis.normalize_or_zero();
        let ((a0, a1), (b0, b1)) = (reach(a, axis), reach(b, axis));
        axis != Flat::ZERO && (a0 > b1 + fine || b0 > a1 + fine)
    })
}
