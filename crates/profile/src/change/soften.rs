//! Corners rounded, or cut off straight.

use nimbet_kernel::Progress;
use rustc_hash::FxHashMap;

use super::pieces::shapes_of;
use super::{ChangeError, refused};
use crate::catch::line_of;
use crate::drawing::{Drawing, LEAST};
use crate::network::Network;
use crate::{Flat, Form, Span};

/// Where the way turns by less, degrees, it goes on smoothly; where it turns by more it comes back along itself.
const LEAST_TURN: f64 = 0.1;
const MOST_TURN: f64 = 179.0;

/// A place where two curves end on each other and turn.
#[derive(Clone, Debug, PartialEq)]
pub struct Corner {
    /// Where.
    pub at: Flat,
    /// By how much the way turns there, degrees.
    pub turn: f64,
    /// The curves, and whether each ends there (or begins).
    curves: [(usize, bool); 2],
}

/// What is asked for.
pub(super) struct Soften<'a> {
    pub radius: f64,
    pub flat: bool,
    pub only: Option<&'a [[f64; 2]]>,
    pub sharper: f64,
}

/// The last span of a curve at one of its ends, running to that end.
fn towards(network: &Network, (curve, ends): (usize, bool)) -> Span {
    let spans = &network.curves[curve].spans;
    if ends { spans[spans.len() - 1] } else { spans[0].reversed() }
}

/// All corners: where exactly two curves end, and nothing passes.
pub fn corners(network: &Network) -> Vec<Corner> {
    let mut corners = Vec::new();
    for (place, meets) in network.meets.iter().enumerate() {
        let ([a, b], []) = (&meets.ends[..], &meets.through[..]) else { continue };
        let at = network.places[place];
        let side = |c: usize, last: bool| {
            let spans = &network.curves[c].spans;
            let (begin, end) = (spans[0].from(), spans[spans.len() - 1].to());
            let ends = end.distance(at) < begin.distance(at);
            (c, if last && a == b { !ends } else { ends })
        };
        let curves = [side(*a, false), side(*b, true)];
        let [into, out] = curves.map(|c| towards(network, c).direction(1.0));
        let turn = into.angle_to(-out).abs().to_degrees();
        corners.push(Corner { at, turn, curves });
    }
    corners
}

/// A curve moved by a distance to the left of the way it runs, as far as it is a line or an arc.
enum Moved {
    Line(Flat, Flat),
    Arc(Flat, f64),
}

fn moved(span: &Span, left: f64) -> Option<Moved> {
    match span.form {
        Form::Line { .. } => {
            let way = span.direction(1.0);
            Some(Moved::Line(span.to() + way.perp() * left, way))
        }
        Form::Arc { centre, radius } => {
            let sense = (span.hi - span.lo).signum();
            let radius = radius - sense * left;
            (radius > LEAST).then_some(Moved::Arc(centre, radius))
        }
        _ => None,
    }
}

/// Where two such curves cross.
fn crossings(a: &Moved, b: &Moved) -> Vec<Flat> {
    let on_circle = |at: Flat, way: Flat, centre: Flat, radius: f64| {
        let off = centre - at;
        let (along, high) = (off.dot(way), way.perp_dot(off));
        let half = radius * radius - high * high;
        if half < 0.0 { vec![] } else { [-1.0, 1.0].map(|s| at + way * (along + s * half.sqrt())).to_vec() }
    };
    match (a, b) {
        (Moved::Line(p, v), Moved::Line(q, w)) => {
            let turn = v.perp_dot(*w);
            if turn.abs() < 1e-12 { vec![] } else { vec![*p + *v * ((*q - *p).perp_dot(*w) / turn)] }
        }
        (Moved::Line(at, way), Moved::Arc(c, r)) | (Moved::Arc(c, r), Moved::Line(at, way)) => {
            on_circle(*at, *way, *c, *r)
        }
        (Moved::Arc(c, r), Moved::Arc(d, s)) => {
            let off = *d - *c;
            let far = off.length();
            if far < 1e-12 {
                return vec![];
            }
            let along = (far * far + r * r - s * s) / (2.0 * far);
            on_circle(*c + off * (along / far), off.perp() / far, *c, *r)
        }
    }
}

/// Where a curve touches a circle beside it.
fn touch(span: &Span, centre: Flat) -> Flat {
    match span.form {
        Form::Arc { centre: own, radius } => own + (centre - own).normalize_or(Flat::X) * radius,
        _ => {
            let way = span.direction(1.0);
            span.to() + way * (centre - span.to()).dot(way)
        }
    }
}

/// How a corner is softened: where both curves are cut, running to the corner, and what comes between.
struct Cut {
    /// The share of each curve's last span at which it is left.
    shares: [f64; 2],
    between: Span,
}

fn cut(network: &Network, corner: &Corner, soften: &Soften<'_>) -> Option<Cut> {
    let [a, b] = corner.curves.map(|c| towards(network, c));
    let share = |span: &Span, at: Flat| {
        let (share, off) = span.nearest(at);
        (off <= 1e-6 * (1.0 + soften.radius) && share > 1e-9).then_some(share)
    };
    if soften.flat {
        let back = |span: &Span| {
            let share = 1.0 - soften.radius / span.length();
            (share > 1e-9).then_some(share)
        };
        let shares = [back(&a)?, back(&b)?];
        return Some(Cut { shares, between: Span::line(a.at(shares[0]), b.at(shares[1])) });
    }
    // The middle of the arc lies to the side the way turns to: into the corner along a, out of it along b the other way.
    let left = a.direction(1.0).perp_dot(-b.direction(1.0)).signum() * soften.radius;
    let (first, second) = (moved(&a, left)?, moved(&b, -left)?);
    let centre = crossings(&first, &second)
        .into_iter()
        .min_by(|p, q| p.distance(corner.at).total_cmp(&q.distance(corner.at)))?;
    let [p, q] = [touch(&a, centre), touch(&b, centre)];
    let shares = [share(&a, p)?, share(&b, q)?];
    let (begin, sweep) = ((p - centre).to_angle(), (p - centre).angle_to(q - centre));
    let form = Form::Arc { centre, radius: soften.radius };
    Some(Cut { shares, between: Span { form, lo: begin, hi: begin + sweep } })
}

/// What is left of a curve: which of its spans, and how much of the first and of the last.
struct Left {
    begin: f64,
    end: f64,
}

impl Drawing {
    pub(super) fn softened(&self, soften: &Soften<'_>, progress: &Progress) -> Result<(Self, String), ChangeError> {
        if !(LEAST..=crate::drawing::FARTHEST).contains(&soften.radius) {
            return refused(format!("the radius is {} mm; from {LEAST} mm can be drawn", soften.radius));
        }
        let network = self.network(progress)?;
        let asked = |corner: &Corner| match soften.only {
            Some(places) => places.iter().any(|p| Flat::from(*p).distance(corner.at) < 1e-6),
            None => corner.turn >= soften.sharper,
        };
        // Of copies the lines they follow are softened.
        let follows = |c: usize| {
            let name = line_of(&network.curves[c].name);
            let line = self.lines.iter().find(|l| l.name == name);
            line.is_none_or(|l| l.still || !l.draw.copied().is_empty())
        };
        let chosen: Vec<Corner> = corners(&network)
            .into_iter()
            .filter(|c| {
                asked(c) && (LEAST_TURN..MOST_TURN).contains(&c.turn) && !c.curves.iter().any(|(c, _)| follows(*c))
            })
            .collect();
        let mut left: FxHashMap<usize, Left> = FxHashMap::default();
        let (mut between, mut no_room) = (Vec::new(), None);
        for corner in &chosen {
            let Some(cut) = cut(&network, corner, soften).filter(|cut| fits(&left, corner, cut, &network)) else {
                no_room.get_or_insert((0, corner.at)).0 += 1;
                continue;
            };
            for ((curve, ends), share) in corner.curves.iter().zip(cut.shares) {
                let kept = left.entry(*curve).or_insert(Left { begin: 0.0, end: 1.0 });
                if *ends { kept.end = share } else { kept.begin = 1.0 - share }
            }
            between.push((corner.curves, cut.between));
        }
        let what = if soften.flat { "cut off" } else { "rounded" };
        match (between.len(), no_room) {
            (0, None) => refused("no corner is there to be softened"),
            (0, Some((_, at))) => {
                refused(format!("the corner at {:.3}, {:.3} has no room for {} mm", at.x, at.y, soften.radius))
            }
            (n, no_room) => {
                let corners = |n: usize| format!("{n} {}", if n == 1 { "corner" } else { "corners" });
                let done = format!("{} {what}", corners(n));
                let done = no_room.map_or(done.clone(), |(n, _)| format!("{done}; {} without room for it", corners(n)));
                Ok((self.rebuilt(&network, &left, between), done))
            }
        }
    }

    /// The lines with their curves shortened, and arcs put between.
    fn rebuilt(
        &self,
        network: &Network,
        left: &FxHashMap<usize, Left>,
        between: Vec<([(usize, bool); 2], Span)>,
    ) -> Self {
        let of = |c: usize| line_of(&network.curves[c].name);
        let mut after: FxHashMap<usize, Span> = FxHashMap::default();
        let mut apart = Vec::new();
        for (curves, span) in between {
            // Within one line the arc comes after the curve that ends there.
            let [(a, ends), (b, also)] = curves;
            match (of(a) == of(b), ends, also) {
                (true, true, false) => drop(after.insert(a, span)),
                (true, false, true) => drop(after.insert(b, span.reversed())),
                _ => apart.extend(shapes_of(&[vec![span]])),
            }
        }
        let changed = self.replaced(|line| {
            let own = || (0..network.curves.len()).filter(|c| of(*c) == line.name);
            if !own().any(|c| left.contains_key(&c)) {
                return None;
            }
            let curves =
                own().flat_map(|c| [shortened(network, c, left.get(&c)), after.get(&c).map_or(vec![], |s| vec![*s])]);
            Some(shapes_of(&curves.collect::<Vec<_>>()))
        });
        changed.with(apart)
    }
}

/// Whether both curves have room for a cut beside what was cut off at their other ends.
fn fits(left: &FxHashMap<usize, Left>, corner: &Corner, cut: &Cut, network: &Network) -> bool {
    corner.curves.iter().zip(cut.shares).all(|((curve, ends), share)| {
        let single = network.curves[*curve].spans.len() == 1;
        let kept = left.get(curve);
        let other = kept.map_or(0.0, |k| if *ends { k.begin } else { 1.0 - k.end });
        // On one span both cuts have to leave something, or exactly nothing.
        !single || share - other > -1e-9
    })
}

/// The spans left of a curve.
fn shortened(network: &Network, curve: usize, left: Option<&Left>) -> Vec<Span> {
    let mut spans = network.curves[curve].spans.clone();
    if let Some(left) = left {
        let last = spans.len() - 1;
        if last == 0 {
            spans[0] = spans[0].part(left.begin, left.end);
        } else {
            spans[last] = spans[last].part(0.0, left.end);
            spans[0] = spans[0].part(left.begin, 1.0);
        }
    }
    spans.retain(|s| s.from().distance(s.to()) >= LEAST || !matches!(s.form, Form::Line { .. }));
    spans
}
