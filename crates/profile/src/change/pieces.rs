//! Pieces of lines made lines again, and changes that keep some of the pieces only: cut back, keep a region's border, split, tidy.

use std::f64::consts::TAU;

use nimbet_kernel::Progress;
use rustc_hash::{FxHashMap, FxHashSet};

use super::{ChangeError, refused};
use crate::catch::line_of;
use crate::drawing::{Drawing, Growth, Leg, Shape};
use crate::fit::cubics_of;
use crate::meet::meetings;
use crate::network::Network;
use crate::{Flat, Form, Span};

/// What is drawn by spans that go on from each other: lines and arcs as chains, all else as what it is.
pub fn shapes_of(curves: &[Vec<Span>]) -> Vec<Shape> {
    let mut shapes = Vec::new();
    let mut legs: Vec<Span> = Vec::new();
    for curve in curves.iter().filter(|c| !c.is_empty()) {
        let whole = whole_of(curve);
        let is_leg = match whole.form {
            Form::Line { .. } => true,
            // Nearly a whole circle has no bulge to speak of.
            Form::Arc { .. } => (whole.hi - whole.lo).abs() < TAU * 0.95,
            _ => false,
        };
        if !legs.last().is_some_and(|last| is_leg && near(last.to(), whole.from())) {
            shapes.extend(chain_of(&std::mem::take(&mut legs)));
        }
        if is_leg {
            legs.push(whole);
        } else {
            shapes.push(shape_of(curve, &whole));
        }
    }
    shapes.extend(chain_of(&legs));
    shapes
}

fn near(a: Flat, b: Flat) -> bool {
    a.distance(b) <= 1e-6
}

/// Spans of one form as one.
fn whole_of(curve: &[Span]) -> Span {
    Span { hi: curve[curve.len() - 1].hi, ..curve[0] }
}

/// Lines and arcs that go on from each other as one line.
fn chain_of(legs: &[Span]) -> Option<Shape> {
    let from = legs.first()?.from();
    if let [only] = legs {
        return Some(shape_of(legs, only));
    }
    let leg = |s: &Span| {
        let bulge = match s.form {
            Form::Arc { .. } => ((s.hi - s.lo) * 0.25).tan(),
            _ => 0.0,
        };
        Leg { to: s.to().to_array(), bulge }
    };
    let mut chain: Vec<Leg> = legs.iter().map(leg).collect();
    let closed = near(legs[legs.len() - 1].to(), from);
    let straight = chain[chain.len() - 1].bulge == 0.0;
    if closed && straight && chain.len() > 2 {
        chain.pop();
    } else if closed {
        let last = chain.len() - 1;
        chain[last].to = from.to_array();
    }
    Some(Shape::Chain { from: from.to_array(), legs: chain, closed: closed && straight && legs.len() > 2 })
}

fn shape_of(curve: &[Span], whole: &Span) -> Shape {
    let (lo, hi) = (whole.lo, whole.hi);
    let (from, to) = (whole.from().to_array(), whole.to().to_array());
    match whole.form {
        Form::Line { .. } => Shape::Line { from, to },
        Form::Arc { centre, radius } if (hi - lo).abs() > TAU - 1e-9 => {
            Shape::Circle { centre: centre.to_array(), diameter: 2.0 * radius }
        }
        Form::Arc { .. } => Shape::Arc { from, via: whole.at(0.5).to_array(), to },
        Form::Ellipse { centre, u, v } => {
            // Mirrored ones run the other way.
            let sense = if u.perp_dot(v) < 0.0 { -1.0 } else { 1.0 };
            let stretch = ((hi - lo).abs() < TAU - 1e-9).then(|| [lo, hi].map(|t| (sense * t).to_degrees()));
            let size = [2.0 * u.length(), 2.0 * v.length()];
            Shape::Ellipse { centre: centre.to_array(), size, turned: u.to_angle().to_degrees(), stretch }
        }
        Form::Cubic(_) => {
            let legs = cubics_of(curve).iter().map(|c| [c[1], c[2], c[3]].map(|p| p.to_array())).collect();
            Shape::Bezier { from: curve[0].from().to_array(), legs }
        }
        Form::Spiral { centre, radius, growth } => {
            let turns = (hi - lo) / TAU;
            let grows = Growth::Pitch(growth * TAU * turns.signum());
            let radius = radius + growth * lo;
            Shape::Spiral { centre: centre.to_array(), radius, grows, turns, turned: lo.to_degrees() }
        }
        Form::Growing { centre, radius, rate } => {
            let turns = (hi - lo) / TAU;
            let grows = Growth::Factor((rate * TAU * turns.signum()).exp());
            let radius = radius * (rate * lo).exp();
            Shape::Spiral { centre: centre.to_array(), radius, grows, turns, turned: lo.to_degrees() }
        }
    }
}

/// A piece of a curve, as it runs along the curve.
struct Stretch {
    /// Its number, or that of the piece it lies on.
    piece: usize,
    /// Whether it lies on another.
    double: bool,
    span: Span,
}

/// The pieces of each curve in order.
fn stretches(network: &Network) -> Vec<Vec<Stretch>> {
    let mut all: Vec<Vec<(f64, Stretch)>> = network.curves.iter().map(|_| Vec::new()).collect();
    let own = network.pieces.iter().enumerate().map(|(n, p)| (n, false, p));
    let lying = network.doubles.iter().map(|(p, on)| (*on, true, p));
    for (piece, double, p) in own.chain(lying) {
        let middle = (p.span.lo + p.span.hi) * 0.5;
        let spans = &network.curves[p.curve].spans;
        let place =
            spans.iter().position(|s| s.form == p.span.form && (s.lo.min(s.hi)..=s.lo.max(s.hi)).contains(&middle));
        let Some(k) = place else { continue };
        let along = (middle - spans[k].lo) / (spans[k].hi - spans[k].lo);
        all[p.curve].push((k as f64 + along, Stretch { piece, double, span: p.span }));
    }
    let order = |mut curve: Vec<(f64, Stretch)>| {
        curve.sort_by(|a, b| a.0.total_cmp(&b.0));
        curve.into_iter().map(|(_, s)| s).collect()
    };
    all.into_iter().map(order).collect()
}

/// What is kept of a curve, in stretches that hang together; those of a closed curve may go on through its beginning.
fn runs(stretches: &[Stretch], closed: bool, keeps: &dyn Fn(&Stretch) -> bool) -> Vec<Vec<Span>> {
    let mut runs: Vec<Vec<Span>> = Vec::new();
    let mut on = false;
    for s in stretches {
        let kept = keeps(s);
        if kept && on {
            runs.last_mut().into_iter().for_each(|r| r.push(s.span));
        } else if kept {
            runs.push(vec![s.span]);
        }
        on = kept;
    }
    let first = stretches.first().is_some_and(keeps);
    if closed && on && first && runs.len() > 1 {
        let begin = runs.remove(0);
        runs.last_mut().into_iter().for_each(|r| r.extend(begin.iter().copied()));
    }
    runs.iter().map(|r| merged(r)).collect()
}

/// Spans that were one before they were cut, as one again; a closed curve's go on past its beginning.
fn merged(run: &[Span]) -> Vec<Span> {
    let mut made: Vec<Span> = Vec::new();
    for span in run {
        match made.last_mut() {
            Some(last) if last.form == span.form && (last.hi - span.lo).abs() < 1e-12 => last.hi = span.hi,
            Some(last) if last.form == span.form && matches!(span.form, Form::Arc { .. } | Form::Ellipse { .. }) => {
                last.hi += span.hi - span.lo;
            }
            _ => made.push(*span),
        }
    }
    made
}

impl Drawing {
    /// The drawing with some of its pieces only. Lines none of whose pieces go stay as they are.
    fn with_pieces(&self, network: &Network, keeps: &dyn Fn(&Stretch) -> bool) -> Self {
        let stretches = stretches(network);
        let mut of: FxHashMap<&str, Vec<usize>> = FxHashMap::default();
        for (n, curve) in network.curves.iter().enumerate() {
            of.entry(line_of(&curve.name)).or_default().push(n);
        }
        self.replaced(|line| {
            let curves = of.get(line.name.as_str())?;
            if curves.iter().flat_map(|n| &stretches[*n]).all(keeps) {
                return None;
            }
            let kept = curves.iter().flat_map(|n| runs(&stretches[*n], network.is_closed(*n), keeps));
            Some(shapes_of(&kept.collect::<Vec<_>>()))
        })
    }

    fn refuse_still(&self, name: &str) -> Result<(), ChangeError> {
        if self.lines.iter().any(|l| l.still && l.name == name) {
            return refused(format!("line {name} is carried down from a part; set it free first"));
        }
        Ok(())
    }

    pub(super) fn cut_back(&self, at: Flat, to: Option<Flat>, progress: &Progress) -> Result<Self, ChangeError> {
        let network = self.network(progress)?;
        let struck = match to {
            Some(to) if to.distance(at) > 1e-6 => {
                let stroke = Span::line(at, to);
                let meets = |p: &usize| {
                    let found = meetings(&network.pieces[*p].span, &stroke, network.fine);
                    found.iter().any(|m| !m.lies)
                };
                (0..network.pieces.len()).filter(meets).collect()
            }
            _ => {
                let far = |p: &usize| network.pieces[*p].span.nearest(at).1;
                let nearest = (0..network.pieces.len()).min_by(|a, b| far(a).total_cmp(&far(b)));
                nearest.into_iter().collect::<Vec<_>>()
            }
        };
        if struck.is_empty() {
            return refused("no line lies there");
        }
        let gone: FxHashSet<usize> = struck.into_iter().flat_map(|p| between(&network, p)).collect();
        for piece in &gone {
            self.refuse_still(line_of(&network.curves[network.pieces[*piece].curve].name))?;
        }
        Ok(self.with_pieces(&network, &|s| !gone.contains(&s.piece)))
    }

    pub(super) fn keep_region(&self, at: Flat, progress: &Progress) -> Result<Self, ChangeError> {
        let network = self.network(progress)?;
        let regions = network.regions(progress).map_err(crate::NetworkError::from)?;
        let Some(region) = regions.iter().find(|r| network.holds(r, at)) else {
            return refused("no region lies there");
        };
        let border: FxHashSet<usize> = region.outlines.iter().flatten().map(|(p, _)| *p).collect();
        Ok(self.with_pieces(&network, &|s| !s.double && border.contains(&s.piece)))
    }

    pub(super) fn split(&self, at: Flat, progress: &Progress) -> Result<Self, ChangeError> {
        progress.check().map_err(crate::NetworkError::from)?;
        let curves = self.curves()?;
        let spans = curves.iter().enumerate().flat_map(|(c, curve)| (0..curve.spans.len()).map(move |k| (c, k)));
        let nearest = spans.map(|(c, k)| (c, k, curves[c].spans[k].nearest(at)));
        let Some((c, k, (share, _))) = nearest.min_by(|a, b| a.2.1.total_cmp(&b.2.1)) else {
            return refused("nothing is drawn yet");
        };
        let curve = &curves[c].spans;
        let place = curve[k].at(share);
        if near(place, curve[0].from()) || near(place, curve[curve.len() - 1].to()) {
            return refused("there it begins or ends already");
        }
        let cut = [curve[k].part(0.0, share), curve[k].part(share, 1.0)];
        let first: Vec<Span> = curve[..k].iter().copied().chain([cut[0]]).filter(|s| s.lo != s.hi).collect();
        let second: Vec<Span> =
            [cut[1]].into_iter().chain(curve[k + 1..].iter().copied()).filter(|s| s.lo != s.hi).collect();
        let name = line_of(&curves[c].name);
        self.refuse_still(name)?;
        let of = |n: &usize| line_of(&curves[*n].name) == name;
        let before = (0..c).filter(of).map(|n| curves[n].spans.clone()).chain([first]).collect::<Vec<_>>();
        let after = [second].into_iter().chain((c + 1..curves.len()).filter(of).map(|n| curves[n].spans.clone()));
        let after = after.collect::<Vec<_>>();
        let shapes = [shapes_of(&before), shapes_of(&after)].concat();
        Ok(self.replaced(|line| (line.name == name).then(|| shapes.clone())))
    }

    pub(super) fn tidied(&self, progress: &Progress) -> Result<(Self, String), ChangeError> {
        let network = self.network(progress)?;
        let regions = network.regions(progress).map_err(crate::NetworkError::from)?;
        let seen = crate::look::look(&network, &regions, progress).map_err(crate::NetworkError::from)?;
        let specks: FxHashSet<&str> = seen.specks.iter().map(|s| s.line.as_str()).collect();
        let speck = |s: &Stretch| {
            let curve = network.pieces[s.piece].curve;
            specks.contains(network.curves[curve].name.as_str())
        };
        if specks.is_empty() && network.doubles.is_empty() {
            return refused("no line lies on another, and none is a speck");
        }
        let done = format!("{} that lay on others and {} specks taken away", network.doubles.len(), specks.len());
        Ok((self.with_pieces(&network, &|s| !s.double && !speck(s)), done))
    }
}

/// The pieces of the same curve from crossing to crossing.
fn between(network: &Network, piece: usize) -> FxHashSet<usize> {
    let curve = network.pieces[piece].curve;
    let own: Vec<usize> = (0..network.pieces.len()).filter(|p| network.pieces[*p].curve == curve).collect();
    let mut found = FxHashSet::from_iter([piece]);
    let mut ends = vec![network.pieces[piece].from, network.pieces[piece].to];
    while let Some(place) = ends.pop() {
        // Where nothing else comes it only goes on.
        let meets = &network.meets[place];
        if meets.through != [curve] || !meets.ends.is_empty() {
            continue;
        }
        for p in &own {
            let Some(piece) = network.pieces.get(*p).filter(|q| q.from == place || q.to == place) else { continue };
            if found.insert(*p) {
                ends.extend([piece.from, piece.to]);
            }
        }
    }
    found
}
