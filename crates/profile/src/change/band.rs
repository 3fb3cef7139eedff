//! Bands: lines at a distance from others, to one side or both, and what is drawn round both together.
//!
//! Each span is moved along its normal (a line to a line, an arc to an arc, all else to cubics that follow), corners that open are
//! filled by arcs or drawn on to a point. All of it is cut up where it meets, and what comes nearer to the lines than the distance is
//! left out. What is left is at the distance everywhere, so moved out and in again it is what it was, where nothing went.

use std::f64::consts::{PI, TAU};

use nimbet_kernel::Progress;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::pieces::shapes_of;
use super::{ChangeError, refused};
use crate::catch::line_of;
use crate::drawing::{Drawing, FARTHEST, LEAST};
use crate::fit::{FIT, followed, spans_of};
use crate::look::Chain;
use crate::network::Network;
use crate::span::round;
use crate::{Curve, Flat, Form, NetworkError, Span};

/// How a band ends where the line does.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Ends {
    /// Not at all: both sides stay lines of their own.
    #[default]
    Open,
    /// Straight across.
    Square,
    /// With half a circle; both sides are as far then.
    Round,
}

/// What is asked for.
pub(super) struct Band<'a> {
    pub lines: &'a [String],
    pub left: f64,
    pub right: f64,
    pub ends: Ends,
    pub sharp: bool,
}

/// Beyond this times its distance a corner is not drawn on to a point.
const SHARPEST: f64 = 6.0;

impl Drawing {
    pub(super) fn band(&self, band: &Band<'_>, progress: &Progress) -> Result<(Self, String), ChangeError> {
        let Band { left, right, ends, .. } = *band;
        let possible = |d: f64| d == 0.0 || (LEAST..=FARTHEST).contains(&d);
        if !possible(left) || !possible(right) || left + right == 0.0 {
            return refused(format!("a distance is 0, or from {LEAST} to {FARTHEST} mm, and one of both is not 0"));
        }
        if ends == Ends::Round && left != right {
            return refused("round ends need the same distance to both sides");
        }
        let curves: Vec<Curve> =
            self.curves()?.into_iter().filter(|c| band.lines.iter().any(|l| l == line_of(&c.name))).collect();
        if curves.is_empty() {
            return refused("choose the lines the band goes along");
        }
        let network = Network::new(curves, progress)?;
        let mut made = Vec::new();
        for chain in network.chains() {
            made.extend(along(&network, &chain, band, progress)?);
        }
        if made.is_empty() {
            return refused("nothing of it is so far from the lines: they are too narrow for this distance");
        }
        let shapes = shapes_of(&made);
        let done = format!(
            "{} drawn beside",
            if shapes.len() == 1 { "1 line".into() } else { format!("{} lines", shapes.len()) }
        );
        Ok((self.with(shapes), done))
    }
}

/// A chain's spans as it runs; closed ones with their inside to the left.
fn run(network: &Network, chain: &Chain) -> Vec<Span> {
    let forward = |(c, back): &(usize, bool)| {
        let spans = network.curves[*c].spans.iter();
        if *back { spans.rev().map(Span::reversed).collect() } else { spans.copied().collect::<Vec<_>>() }
    };
    let spans: Vec<Span> = chain.curves.iter().flat_map(forward).collect();
    let area: f64 = spans.iter().map(|s| s.sweeps(spans[0].from())).sum();
    if chain.closed && area < 0.0 { spans.iter().rev().map(Span::reversed).collect() } else { spans }
}

fn along(
    network: &Network,
    chain: &Chain,
    band: &Band<'_>,
    progress: &Progress,
) -> Result<Vec<Vec<Span>>, ChangeError> {
    let spans = run(network, chain);
    let mut raw: Vec<Vec<Span>> = Vec::new();
    let sides = [(band.left, 1.0), (band.right, -1.0)];
    for (far, side) in sides.into_iter().filter(|(far, _)| *far > 0.0) {
        raw.extend(beside(&spans, far * side, chain.closed, band.sharp));
    }
    let capped = !chain.closed && band.ends != Ends::Open;
    let mut caps = 0;
    if capped {
        let (first, last) = (spans[0].reversed(), spans[spans.len() - 1]);
        let made: Vec<Vec<Span>> = [(last, [band.right, band.left]), (first, [band.left, band.right])]
            .iter()
            .map(|(s, d)| cap(s, *d, band.ends))
            .collect();
        caps = made.len();
        raw.extend(made);
        if band.left * band.right == 0.0 {
            raw.push(spans.clone());
            caps += 1;
        }
    }
    // Caps are kept; of all else what is nearer to the lines than it should be goes.
    let free = raw.len() - caps;
    let drawn = raw.len();
    if !chain.closed {
        // What comes nearest to a free end begins or ceases to be near on the circle round it: there it is cut.
        let ends = [spans[0].from(), spans[spans.len() - 1].to()];
        let circle = |centre: Flat, radius: f64| round(Form::Arc { centre, radius }, 0.0, TAU);
        let fars = [band.left, band.right].into_iter().filter(|far| *far > 0.0);
        raw.extend(fars.flat_map(|far| ends.map(|end| circle(end, far))));
    }
    let name = |(n, spans): (usize, Vec<Span>)| Curve { name: n.to_string(), spans };
    let cut = Network::new(raw.into_iter().enumerate().map(name).collect(), progress)?;
    let near = |p: Flat| {
        let each = spans.iter().map(|s| {
            let (share, off) = s.nearest(p);
            let left = s.direction(share).perp_dot(p - s.at(share)) > 0.0;
            off < if left { band.left } else { band.right } - slack(off)
        });
        each.into_iter().any(|near| near)
    };
    let mut kept = Vec::with_capacity(cut.pieces.len());
    for p in &cut.pieces {
        progress.check().map_err(NetworkError::from)?;
        kept.push(p.curve < drawn && (p.curve >= free || !near(p.span.at(0.5))));
    }
    Ok(chained(&cut, &kept, capped))
}

/// What rounding and following may take from a distance.
fn slack(distance: f64) -> f64 {
    10.0 * FIT + 1e-9 * distance
}

/// Spans moved by a distance to the left (below 0: to the right), with what fills their corners.
fn beside(spans: &[Span], by: f64, closed: bool, sharp: bool) -> Vec<Vec<Span>> {
    let mut made: Vec<Vec<Span>> = spans.iter().map(|s| moved(s, by)).collect();
    let next = spans.iter().skip(1).chain(closed.then_some(&spans[0]));
    for (a, b) in spans.iter().zip(next) {
        let (into, out) = (a.direction(1.0), b.direction(0.0));
        let turn = into.angle_to(out);
        // To the side it turns away from a corner opens.
        if turn * by >= 0.0 || turn.abs() < 1e-9 {
            continue;
        }
        let (p, q) = (a.to() + into.perp() * by, a.to() + out.perp() * by);
        let reach = 1.0 / (turn * 0.5).cos();
        if sharp && turn.abs() < PI * 0.9 && reach <= SHARPEST {
            let point = a.to() + (into.perp() + out.perp()).normalize() * (by * reach);
            made.extend([vec![Span::line(p, point)], vec![Span::line(point, q)]]);
        } else {
            let begin = (p - a.to()).to_angle();
            let form = Form::Arc { centre: a.to(), radius: by.abs() };
            made.push(round(form, begin, begin + turn));
        }
    }
    made.retain(|spans| !spans.is_empty());
    made
}

fn moved(span: &Span, by: f64) -> Vec<Span> {
    match span.form {
        Form::Line { from, to } => {
            let off = span.direction(0.0).perp() * by;
            let line = Span { form: Form::Line { from: from + off, to: to + off }, ..*span };
            // As it runs: what lies before or beyond it is another line's.
            vec![Span::line(line.from(), line.to())]
        }
        Form::Arc { centre, radius } => {
            let sense = (span.hi - span.lo).signum();
            let radius = radius - sense * by;
            // Past its middle it would be nearer than the distance everywhere.
            if radius < LEAST { vec![] } else { vec![Span { form: Form::Arc { centre, radius }, ..*span }] }
        }
        _ => {
            let bend = |t: f64| {
                let (first, second) = span.slopes(t);
                first.perp_dot(second) / first.length().powi(3).max(f64::MIN_POSITIVE)
            };
            let curve = |t: f64| (span.at(t) + span.direction(t).perp() * by, span.slopes(t).0 * (1.0 - bend(t) * by));
            spans_of(&followed(&curve))
        }
    }
}

/// What closes a band at the end of a span: from `right` of it to `left`.
fn cap(end: &Span, [right, left]: [f64; 2], ends: Ends) -> Vec<Span> {
    let (at, side) = (end.to(), end.direction(1.0).perp());
    if ends == Ends::Round {
        let begin = (-side).to_angle();
        return round(Form::Arc { centre: at, radius: left }, begin, begin + PI);
    }
    vec![Span::line(at - side * right, at + side * left)]
}

/// The kept pieces, put together where two of them meet.
fn chained(cut: &Network, kept: &[bool], closed: bool) -> Vec<Vec<Span>> {
    let mut left: Vec<bool> = kept.to_vec();
    let round = |place: usize, left: &[bool]| -> Vec<(usize, bool)> {
        cut.round[place].iter().copied().filter(|(p, _)| left[*p]).collect()
    };
    if closed {
        // What ends freely is no border.
        let mut loose: Vec<usize> = (0..cut.places.len()).filter(|p| round(*p, &left).len() == 1).collect();
        while let Some(place) = loose.pop() {
            let [(piece, _)] = round(place, &left)[..] else { continue };
            left[piece] = false;
            let p = &cut.pieces[piece];
            loose.extend([p.from, p.to].into_iter().filter(|q| round(*q, &left).len() == 1));
        }
    }
    let mut runs = Vec::new();
    // From free ends first, then round what is left.
    let free = (0..cut.pieces.len()).filter(|p| left[*p]).filter(|p| {
        let piece = &cut.pieces[*p];
        [piece.from, piece.to].iter().any(|q| round(*q, &left).len() != 2)
    });
    let starts: Vec<usize> = free.chain(0..cut.pieces.len()).collect();
    for start in starts {
        if !left[start] {
            continue;
        }
        let piece = &cut.pieces[start];
        // Along it from an end nothing goes on from, if it has one.
        let back = round(piece.from, &left).len() == 2 && round(piece.to, &left).len() != 2;
        let mut run = Vec::new();
        let mut at = Some((start, back));
        while let Some((p, back)) = at {
            left[p] = false;
            let piece = &cut.pieces[p];
            run.push(if back { piece.span.reversed() } else { piece.span });
            let place = if back { piece.from } else { piece.to };
            at = match round(place, &left)[..] {
                [(next, ends)] => Some((next, ends)),
                _ => None,
            };
        }
        runs.extend(split_by_form(run));
    }
    runs
}

/// Spans that go on from each other, put together while they are of one form; cubics that follow one another are one curve.
fn split_by_form(run: Vec<Span>) -> Vec<Vec<Span>> {
    let mut made: Vec<Vec<Span>> = Vec::new();
    for span in run {
        let Some(end) = made.last_mut().and_then(|last| last.last_mut()) else {
            made.push(vec![span]);
            continue;
        };
        if end.form == span.form && (end.hi - span.lo).abs() < 1e-9 && (span.hi - end.lo).abs() <= TAU + 1e-9 {
            end.hi = span.hi;
            continue;
        }
        let smooth = end.direction(1.0).dot(span.direction(0.0)) > 1.0 - 1e-6;
        if matches!((end.form, span.form), (Form::Cubic(_), Form::Cubic(_))) && smooth {
            made.last_mut().into_iter().for_each(|last| last.push(span));
            continue;
        }
        made.push(vec![span]);
    }
    made
}
