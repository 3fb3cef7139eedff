//! Paths: lines in space along which sections are moved. Chains of profiles where these lie, helices, straight runs between places;
//! with frames that turn no more than the path does (double reflection; Wang, Jüttler, Zheng and Liu 2008).

mod frames;

use std::f64::consts::TAU;

use nimbet_kernel::Point;
use nimbet_kernel::triangulate::PlaneFrame;

pub(crate) use frames::about;
use frames::{begin, carried, close_twist, finer, hold_upright, turned};

use crate::look::Chain;
use crate::network::Network;
use crate::space::cubic_at;
use crate::{Flat, Span};

/// A stretch of a path that bends without a kink.
#[derive(Clone, Copy, Debug)]
pub enum Stretch {
    /// Of a curve in a plane.
    Flat(Span, PlaneFrame),
    /// Round an axis.
    Helix(Helix),
    /// From a place straight to another.
    Straight(Point, Point),
    /// A cubic in space, by its four poles.
    Free([Point; 4]),
}

/// A line round an axis that climbs, and may widen, evenly.
#[derive(Clone, Copy, Debug)]
pub struct Helix {
    /// The centre of its beginning.
    pub at: Point,
    /// The axis, of length 1.
    pub axis: Point,
    /// From the centre to where it begins, of length 1, square to the axis.
    pub out: Point,
    /// The radius at its beginning and at its end, mm.
    pub radius: [f64; 2],
    /// How far it climbs in all, mm.
    pub height: f64,
    /// How far it turns in all, radians, by the right hand about the axis.
    pub turn: f64,
}

/// Why a path or a section moved along it cannot be.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[error("{why}")]
pub struct PathError {
    /// In plain words.
    pub why: String,
    /// Where, mm.
    pub places: Vec<Point>,
}

pub(crate) fn refused(why: impl Into<String>, places: Vec<Point>) -> PathError {
    PathError { why: why.into(), places }
}

/// Directions that differ by less, radians, go on from each other.
const SMOOTH: f64 = 1e-6;
/// Between two stations the frame is carried on in so many steps: a turn of a helix in 16 of them leaves no 1e-7 of a turn.
const BETWEEN: usize = 16;
/// Round faces turn by less than this many steps would at an edge between faces.
const LEAST_STEPS: f64 = 16.0;
/// The most stations of a path.
const MOST: usize = 200_000;

impl Stretch {
    /// Where it is after a share of it, 0 to 1.
    pub fn at(&self, share: f64) -> Point {
        match self {
            Self::Flat(span, plane) => plane.lift(span.at(share).to_array()),
            Self::Helix(helix) => helix.at(share),
            Self::Straight(from, to) => from.lerp(*to, share),
            Self::Free(poles) => cubic_at(poles, share),
        }
    }

    /// The direction after a share of it.
    pub fn direction(&self, share: f64) -> Point {
        match self {
            Self::Flat(span, plane) => plane.lift(span.direction(share).to_array()) - plane.origin,
            Self::Helix(helix) => helix.slope(share).normalize_or(helix.axis),
            Self::Straight(from, to) => (*to - *from).normalize_or(Point::X),
            Self::Free(poles) => cubic_way(poles, share),
        }
    }

    fn length(&self) -> f64 {
        match self {
            Self::Flat(span, _) => span.length(),
            Self::Straight(from, to) => from.distance(*to),
            Self::Free(poles) => cubic_length(poles, 1.0),
            // Its speed is that of a spiral: Simpson's rule over short pieces gives all digits but the last few.
            Self::Helix(helix) => {
                let pieces = 2 * (helix.turn.abs() * 8.0).ceil().max(4.0) as usize;
                let speed = |k: usize| helix.slope(k as f64 / pieces as f64).length();
                let inner: f64 = (1..pieces).map(|k| speed(k) * if k % 2 == 1 { 4.0 } else { 2.0 }).sum();
                (speed(0) + inner + speed(pieces)) / (3.0 * pieces as f64)
            }
        }
    }

    #[must_use]
    fn reversed(&self) -> Self {
        match *self {
            Self::Flat(span, plane) => Self::Flat(span.reversed(), plane),
            Self::Straight(from, to) => Self::Straight(to, from),
            Self::Free([a, b, c, d]) => Self::Free([d, c, b, a]),
            Self::Helix(h) => {
                let out = h.out_at(1.0);
                let at = h.at + h.axis * h.height;
                let radius = [h.radius[1], h.radius[0]];
                Self::Helix(Helix { at, out, radius, height: -h.height, turn: -h.turn, ..h })
            }
        }
    }

    /// The shares at which it is cut so that what is moved along it, `reach` away from it, is within a chord; without 0, with 1.
    fn shares(&self, chord: f64, reach: f64) -> Vec<f64> {
        let even = |turn: f64, radius: f64| {
            let n = (turn.abs() / step_of(radius + reach, chord)).ceil().clamp(1.0, MOST as f64) as usize;
            (1..=n).map(|k| if k == n { 1.0 } else { k as f64 / n as f64 }).collect()
        };
        match self {
            Self::Straight(..) => vec![1.0],
            Self::Free(poles) => {
                let mut shares = Vec::new();
                halve_free(poles, (chord, reach), (0.0, 1.0), 16, &mut shares);
                shares
            }
            Self::Helix(h) => even(h.turn, h.radius[0].max(h.radius[1])),
            Self::Flat(span, _) => match span.form {
                crate::span::Form::Line { .. } => vec![1.0],
                crate::span::Form::Arc { radius, .. } => even(span.hi - span.lo, radius),
                _ => {
                    let mut shares = Vec::new();
                    halve(span, (chord, reach), (0.0, 1.0), 16, &mut shares);
                    shares
                }
            },
        }
    }
}

/// The angle between two stations, so that what is so far from the middle of the bend is within a chord.
fn step_of(radius: f64, chord: f64) -> f64 {
    (2.0 * (1.0 - (chord / radius).min(1.0)).acos()).clamp(1e-5, TAU / LEAST_STEPS)
}

fn halve(span: &Span, fine: (f64, f64), (from, to): (f64, f64), depth: usize, shares: &mut Vec<f64>) {
    let (chord, reach) = fine;
    let turn = span.direction(from).angle_to(span.direction(to)).abs();
    let part = span.part(from, to);
    let radius = part.length() / turn.max(1e-9);
    if depth == 0 || part.sag() <= chord && turn <= step_of(radius.min(1e9) + reach, chord) {
        return shares.push(to);
    }
    let middle = (from + to) * 0.5;
    halve(span, fine, (from, middle), depth - 1, shares);
    halve(span, fine, (middle, to), depth - 1, shares);
}

/// As [`halve`], of a cubic in space.
fn halve_free(poles: &[Point; 4], fine: (f64, f64), (from, to): (f64, f64), depth: usize, shares: &mut Vec<f64>) {
    let (chord, reach) = fine;
    let middle = (from + to) * 0.5;
    let [a, b, c] = [from, middle, to].map(|t| cubic_way(poles, t));
    let turn = a.angle_between(b) + b.angle_between(c);
    let (begin, end) = (cubic_at(poles, from), cubic_at(poles, to));
    // What bends twice between may stand off elsewhere than in its middle.
    let off = |t: f64| {
        let (p, along) = (cubic_at(poles, from + (to - from) * t) - begin, (end - begin).normalize_or_zero());
        (p - along * p.dot(along)).length()
    };
    let sag = [0.25, 0.5, 0.75].map(off).into_iter().fold(0.0, f64::max);
    let radius = begin.distance(end) / turn.max(1e-9);
    if depth == 0 || sag <= chord && turn <= step_of(radius.min(1e9) + reach, chord) {
        return shares.push(to);
    }
    halve_free(poles, fine, (from, middle), depth - 1, shares);
    halve_free(poles, fine, (middle, to), depth - 1, shares);
}

fn cubic_slope([a, b, c, d]: &[Point; 4], t: f64) -> Point {
    let s = 1.0 - t;
    ((*b - *a) * (s * s) + (*c - *b) * (2.0 * s * t) + (*d - *c) * (t * t)) * 3.0
}

/// The direction of a cubic; where it stands still, that just beside.
fn cubic_way(poles: &[Point; 4], t: f64) -> Point {
    let size = poles[0].distance(poles[3]).max(poles[1].distance(poles[2]));
    let slope = cubic_slope(poles, t);
    let beside = || cubic_slope(poles, if t < 0.5 { t + 1e-6 } else { t - 1e-6 });
    let slope = if slope.length() > size * 1e-9 { slope } else { beside() };
    slope.normalize_or(Point::X)
}

/// The length of a cubic up to a share of it: a rule of five points on short pieces.
fn cubic_length(poles: &[Point; 4], share: f64) -> f64 {
    const PIECES: usize = 16;
    /// Knots and weights of Gauss and Legendre's rule on 0 to 1.
    const RULE: [(f64, f64); 5] = [
        (0.046_910_077_030_668, 0.118_463_442_528_094_54),
        (0.230_765_344_947_158_45, 0.239_314_335_249_683_23),
        (0.5, 0.284_444_444_444_444_44),
        (0.769_234_655_052_841_5, 0.239_314_335_249_683_23),
        (0.953_089_922_969_332, 0.118_463_442_528_094_54),
    ];
    let step = share / PIECES as f64;
    let piece = |k: usize| -> f64 {
        RULE.iter().map(|(x, w)| w * cubic_slope(poles, (k as f64 + x) * step).length()).sum::<f64>() * step
    };
    (0..PIECES).map(piece).sum()
}

impl Helix {
    fn out_at(&self, share: f64) -> Point {
        let (sin, cos) = (self.turn * share).sin_cos();
        self.out * cos + self.axis.cross(self.out) * sin
    }

    fn at(&self, share: f64) -> Point {
        let radius = self.radius[0] + (self.radius[1] - self.radius[0]) * share;
        self.at + self.axis * (self.height * share) + self.out_at(share) * radius
    }

    fn slope(&self, share: f64) -> Point {
        let widens = self.radius[1] - self.radius[0];
        let (radius, out) = (self.radius[0] + widens * share, self.out_at(share));
        self.axis * self.height + out * widens + self.axis.cross(out) * (radius * self.turn)
    }
}

/// Stretches, each beginning where the one before it ends.
#[derive(Clone, Debug)]
pub struct Path {
    /// The stretches.
    pub stretches: Vec<Stretch>,
    /// Whether the last ends where the first begins.
    pub closed: bool,
}

/// A place on a path, with the frame of what is moved along it: `across` and `up` square to `along`, by the right hand.
#[derive(Clone, Copy, Debug)]
pub struct Station {
    /// Where.
    pub at: Point,
    /// The direction of the path.
    pub along: Point,
    /// The first direction of what is moved.
    pub across: Point,
    /// How far from the beginning, mm.
    pub length: f64,
    /// The stretch that goes on from here; none where the path only turns at a kink before it does.
    pub stretch: Option<usize>,
}

impl Station {
    /// The second direction of what is moved.
    pub fn up(&self) -> Point {
        self.along.cross(self.across)
    }
}

/// How what is moved along a path is held.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Holding {
    /// Square to the path, turned no more than it turns; at first with its first direction nearest to this one.
    Square(Point),
    /// Square to the path, its second direction as near to this one as can be.
    Upright(Point),
}

impl Path {
    /// A chain of a profile where its plane lies.
    pub fn of_chain(network: &Network, chain: &Chain, plane: &PlaneFrame) -> Self {
        let run = |&(curve, back): &(usize, bool)| -> Vec<Span> {
            let spans = &network.curves[curve].spans;
            if back { spans.iter().rev().map(Span::reversed).collect() } else { spans.clone() }
        };
        let stretches = chain.curves.iter().flat_map(run).map(|span| Stretch::Flat(span, *plane)).collect();
        Self { stretches, closed: chain.closed }
    }

    /// Straight runs from place to place.
    pub fn through(places: &[Point], closed: bool) -> Self {
        let ends = places.windows(2).map(|w| (w[0], w[1])).chain(closed.then(|| (places[places.len() - 1], places[0])));
        Self { stretches: ends.filter(|(a, b)| a != b).map(|(a, b)| Stretch::Straight(a, b)).collect(), closed }
    }

    /// Paths put end to end, each turned so that it goes on from the one before it. Ends nearer than `reach` meet.
    ///
    /// # Errors
    /// Where ends do not meet.
    pub fn joined(paths: Vec<Self>, reach: f64) -> Result<Self, PathError> {
        let mut rest = paths.into_iter();
        let mut whole =
            rest.next().filter(|p| !p.stretches.is_empty()).ok_or_else(|| refused("there is no path", vec![]))?;
        for (n, next) in rest.enumerate() {
            let (a, b) = (next.ends(), whole.ends());
            let far = |p: Point, q: Point| p.distance(q);
            // The first may have to be turned round, too.
            if n == 0 && far(b[1], a[0]).min(far(b[1], a[1])) > far(b[0], a[0]).min(far(b[0], a[1])) {
                whole = whole.reversed();
            }
            let end = whole.ends()[1];
            let next = if far(end, a[1]) < far(end, a[0]) { next.reversed() } else { next };
            let off = far(end, next.ends()[0]);
            if off > reach || whole.closed || next.closed {
                let why = format!("the lines do not go on from each other: {off:.4} mm are between them");
                return Err(refused(why, vec![end, next.ends()[0]]));
            }
            whole.stretches.extend(next.stretches);
        }
        let [first, last] = whole.ends();
        whole.closed |= whole.stretches.len() > 1 && first.distance(last) <= reach;
        Ok(whole)
    }

    fn ends(&self) -> [Point; 2] {
        [self.stretches[0].at(0.0), self.stretches[self.stretches.len() - 1].at(1.0)]
    }

    /// The other way round.
    #[must_use]
    pub fn reversed(&self) -> Self {
        Self { stretches: self.stretches.iter().rev().map(Stretch::reversed).collect(), closed: self.closed }
    }

    /// Its length, mm.
    pub fn length(&self) -> f64 {
        self.stretches.iter().map(Stretch::length).sum()
    }

    /// The path with its lengths, to ask for many places of it.
    pub fn measured(&self) -> Measured<'_> {
        let mut ends = vec![0.0];
        for stretch in &self.stretches {
            ends.push(ends[ends.len() - 1] + stretch.length());
        }
        Measured { path: self, ends }
    }

    /// Its points, so that it is within a chord; of a closed one without the last.
    ///
    /// # Errors
    /// As [`Path::stations`].
    pub fn points(&self, chord: f64) -> Result<Vec<Point>, PathError> {
        let stations = self.stations((chord, 0.0), 0.0, Holding::Square(Point::Z))?;
        let mut points: Vec<Point> = stations.into_iter().map(|s| s.at).collect();
        points.dedup();
        if self.closed {
            points.pop();
        }
        Ok(points)
    }

    /// The stations of what is moved along it, `reach` away from it at most, so that its faces are within a chord. What turns on
    /// its way by `twist`, radians a millimetre, has more of them. Where the path has a kink there are two at one place. A closed
    /// one ends with the station it begins with.
    ///
    /// # Errors
    /// Where the path is nothing, too fine, or runs along what is to stay upright.
    pub fn stations(
        &self,
        (chord, reach): (f64, f64),
        twist: f64,
        holding: Holding,
    ) -> Result<Vec<Station>, PathError> {
        let stretches: Vec<&Stretch> = self.stretches.iter().filter(|s| s.length() > 1e-9).collect();
        let (Some(first), Some(last)) = (stretches.first(), stretches.last()) else {
            return Err(refused("the path has no length", vec![]));
        };
        let along = first.direction(0.0);
        let start = Station { at: first.at(0.0), along, across: begin(along, holding), length: 0.0, stretch: Some(0) };
        let mut all = vec![start];
        for (n, stretch) in stretches.iter().enumerate() {
            let before = all[all.len() - 1];
            let comes = stretch.direction(0.0);
            if before.along.angle_between(comes) > SMOOTH {
                if let Some(last) = all.last_mut() {
                    last.stretch = None;
                }
                all.push(Station { along: comes, across: turned(before.along, comes, before.across), ..before });
            }
            if let Some(last) = all.last_mut() {
                last.stretch = Some(n);
            }
            let begun = all[all.len() - 1].length;
            let own = stretch.length();
            let mut shares = stretch.shares(chord, reach);
            if twist != 0.0 {
                let most = step_of(reach.max(chord), chord) / twist.abs();
                shares = finer(&shares, (most / own).max(1.0 / MOST as f64));
            }
            let mut from = 0.0;
            for share in shares {
                let mut station = all[all.len() - 1];
                for k in 1..=BETWEEN {
                    let t = if k == BETWEEN { share } else { from + (share - from) * k as f64 / BETWEEN as f64 };
                    station = carried(&station, stretch.at(t), stretch.direction(t));
                }
                let length = if share == 1.0 { begun + own } else { begun + own * share };
                all.push(Station { length, stretch: Some(n), ..station });
                from = share;
                if all.len() > MOST {
                    let why = format!("the path takes more than {MOST} sections; a coarser chord takes fewer");
                    return Err(refused(why, vec![station.at]));
                }
            }
        }
        if self.closed && last.direction(1.0).angle_between(along) > SMOOTH {
            let last = all[all.len() - 1];
            if let Some(end) = all.last_mut() {
                end.stretch = None;
            }
            all.push(Station { along, across: turned(last.along, along, last.across), stretch: Some(0), ..last });
        }
        match holding {
            Holding::Square(_) if self.closed => close_twist(&mut all),
            Holding::Square(_) => {}
            Holding::Upright(up) => hold_upright(&mut all, up)?,
        }
        Ok(all)
    }
}

/// A path, and how far along it its stretches begin and end, mm.
#[derive(Clone, Debug)]
pub struct Measured<'a> {
    path: &'a Path,
    ends: Vec<f64>,
}

impl Measured<'_> {
    /// Its length, mm.
    pub fn length(&self) -> f64 {
        self.ends[self.ends.len() - 1]
    }

    /// Where it is after a length, mm, with its direction.
    pub fn after(&self, length: f64) -> (Point, Point) {
        let last = self.path.stretches.len().saturating_sub(1);
        let k = self.ends.partition_point(|end| *end <= length).saturating_sub(1).min(last);
        let Some(stretch) = self.path.stretches.get(k) else { return (Point::ZERO, Point::X) };
        let share = share_at(stretch, length - self.ends[k], self.ends[k + 1] - self.ends[k]);
        (stretch.at(share), stretch.direction(share))
    }
}

/// The share of a stretch at a length along it.
fn share_at(stretch: &Stretch, length: f64, own: f64) -> f64 {
    let even = (length / own.max(f64::MIN_POSITIVE)).clamp(0.0, 1.0);
    let up_to: &dyn Fn(f64) -> f64 = match stretch {
        Stretch::Flat(Span { form: crate::span::Form::Line { .. } | crate::span::Form::Arc { .. }, .. }, _)
        | Stretch::Helix(_)
        | Stretch::Straight(..) => return even,
        Stretch::Flat(span, _) => &|share| span.part(0.0, share).length(),
        Stretch::Free(poles) => &|share| cubic_length(poles, share),
    };
    let (mut low, mut high) = (0.0, 1.0);
    for _ in 0..48 {
        let middle = (low + high) * 0.5;
        if up_to(middle) < length { low = middle } else { high = middle }
    }
    (low + high) * 0.5
}
