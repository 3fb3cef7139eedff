//! How far a bore goes, and what it leaves round it.

use std::f64::consts::TAU;

use nimbet_kernel::{FaceId, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::lines::{Lines, Stretch};
use super::places::Seat;
use crate::examine::FacePick;
use crate::parameter::Length;

/// How far a bore goes.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase", deny_unknown_fields)]
pub enum Reach {
    /// Through the whole part.
    #[default]
    All,
    /// Out of the first wall it comes to.
    Wall,
    /// So deep from the mouth, mm.
    Depth(#[schemars(with = "Length")] f64),
    /// To a face, and out of it all round.
    Face(FacePick),
}

/// The same, with the face found.
#[derive(Clone, Copy, Debug)]
pub(super) enum Found {
    All,
    Wall,
    Depth(f64),
    Face(FaceId),
}

/// From where to where a bore goes, mm from its mouth.
#[derive(Clone, Copy, Debug)]
pub(super) struct Span {
    /// Above all of the mouth, so that it is whole also where the surface slopes.
    pub top: f64,
    pub end: f64,
    /// Where the axis comes out, if the bore is open there.
    pub far: Option<f64>,
    /// Where the mouth is deepest.
    pub deepest: f64,
    /// The least that is left under the bottom of a blind bore.
    pub floor: Option<f64>,
    /// Between these the bore lies in the material all round.
    pub within: [f64; 2],
}

/// Lines round the rim of a bore that are looked at.
const RIM: usize = 16;
/// Directions the wall round a bore is measured in, and at how many depths.
const ROUND: usize = 24;
const DEPTHS: usize = 5;

/// The span of a bore; `None` if the face it should reach is not in its way.
pub(super) fn span(lines: &Lines, seat: &Seat, mouth: f64, radius: f64, reach: Found) -> Option<Span> {
    let axis = lines.through(seat.mouth, seat.way);
    let first = seat.stretch.leave;
    let deep = match reach {
        Found::Depth(d) => d.min(first),
        _ => first,
    };
    let (u, v) = seat.way.any_orthonormal_pair();
    let rim = |radius: f64| -> Vec<Vec<Stretch>> {
        (0..RIM)
            .map(|k| {
                let (sin, cos) = (k as f64 / RIM as f64 * TAU).sin_cos();
                lines.through(seat.mouth + (u * cos + v * sin) * radius, seat.way)
            })
            .collect()
    };
    // The stretch of each line that is of the wall the bore begins in, and what is before and after it.
    let of_wall = |all: &[Stretch]| all.iter().position(|s| s.enter < deep * 0.5 && s.leave > deep * 0.5);
    let (mut top, mut deepest, mut room) = (0.0f64, 0.0f64, f64::INFINITY);
    for all in &rim(mouth) {
        if let Some(n) = of_wall(all) {
            top = top.min(all[n].enter);
            deepest = deepest.max(all[n].enter);
            room = n.checked_sub(1).map_or(room, |before| room.min(all[n].enter - all[before].leave));
        }
    }
    let over = |room: f64| (radius * 0.25 + 0.2).min(room * 0.5);
    let top = top - over(room);
    let around = rim(radius);
    let mine = || around.iter().chain([&axis]).filter_map(|all| of_wall(all).map(|n| (all, n)));
    let out = || mine().map(|(all, n)| all[n].leave).fold(first, f64::max);
    let after =
        || mine().filter_map(|(all, n)| Some(all.get(n + 1)?.enter - all[n].leave)).fold(f64::INFINITY, f64::min);
    let (end, far) = match reach {
        Found::Wall => (out() + over(after()), Some(first)),
        Found::All => {
            let last = around.iter().chain([&axis]).filter_map(|all| Some(all.last()?.leave)).fold(first, f64::max);
            (last + over(f64::INFINITY), Some(axis.last().map_or(first, |s| s.leave)))
        }
        Found::Depth(d) if d >= out() => (d.max(out() + over(after())), Some(first)),
        Found::Depth(d) => (d, None),
        Found::Face(face) => {
            let on = |all: &[Stretch]| {
                let both = all.iter().flat_map(|s| [(s.enter, s.enter_face), (s.leave, s.leave_face)]);
                both.filter(|(t, f)| *f == face && *t > 1e-9).map(|(t, _)| t).next()
            };
            let at = on(&axis)?;
            let farthest = around.iter().filter_map(|all| on(all)).fold(at, f64::max);
            (farthest + over(after()), Some(at))
        }
    };
    let floor = far.is_none().then(|| mine().map(|(all, n)| all[n].leave - end).fold(f64::INFINITY, f64::min));
    let begin = mine().map(|(all, n)| all[n].enter).fold(0.0, f64::max);
    let last = mine().map(|(all, n)| all[n].leave).fold(end.min(first), f64::min);
    Some(Span { top, end, far, deepest, floor, within: [begin, last] })
}

/// What is left round a bore of a radius, where it is least: how much, and where; below nought where it breaks out.
pub(super) fn left_round(
    lines: &Lines,
    seat: &Seat,
    radius: f64,
    [from, to]: [f64; 2],
    most: f64,
) -> Option<(f64, Point)> {
    let (u, v) = seat.way.any_orthonormal_pair();
    let depths = (0..DEPTHS).map(|n| from + (to - from) * (n as f64 + 0.5) / DEPTHS as f64);
    let all = depths.flat_map(|t| {
        let at = seat.mouth + seat.way * t;
        (0..ROUND).filter_map(move |k| {
            let (sin, cos) = (k as f64 / ROUND as f64 * TAU).sin_cos();
            let out = u * cos + v * sin;
            let clear = lines.clear(at, out, radius + most)?;
            Some((clear - radius, at + out * clear))
        })
    });
    all.min_by(|a, b| a.0.total_cmp(&b.0))
}

/// The least distance between two stretches of straight line, and the middle of it (Ericson 2005).
pub(super) fn apart([a, b]: [Point; 2], [c, d]: [Point; 2]) -> (f64, Point) {
    let (p, q, r) = (b - a, d - c, a - c);
    let (pp, qq, pq) = (p.dot(p), q.dot(q), p.dot(q));
    let det = pp * qq - pq * pq;
    let mut s = if det > 1e-12 * pp * qq { ((pq * q.dot(r) - qq * p.dot(r)) / det).clamp(0.0, 1.0) } else { 0.5 };
    let t = ((pq * s + q.dot(r)) / qq.max(1e-300)).clamp(0.0, 1.0);
    s = ((pq * t - p.dot(r)) / pp.max(1e-300)).clamp(0.0, 1.0);
    let (x, y) = (a + p * s, c + q * t);
    ((x - y).length(), (x + y) * 0.5)
}
