//! Curves cut up where they meet: places, and the pieces between them.

use std::f64::consts::TAU;
use std::ops::ControlFlow;

use nimbet_kernel::{Aabb, Bvh, Cancelled, Point, Progress, UnionFind};
use rustc_hash::FxHashMap;

use crate::meet::meetings;
use crate::{Curve, Flat, Span};

/// A piece of a curve between two places, met by nothing on its way.
#[derive(Clone, Copy, Debug)]
pub struct Piece {
    /// The curve it is of.
    pub curve: usize,
    /// What of it.
    pub span: Span,
    /// The place where it begins.
    pub from: usize,
    /// The place where it ends.
    pub to: usize,
}

/// What curves do at a place.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Meets {
    /// The curves that end there; one that ends where it begins does not.
    pub ends: Vec<usize>,
    /// The curves that go on through it, once for each time.
    pub through: Vec<usize>,
}

/// Curves, where they meet, and the pieces between.
#[derive(Clone, Debug)]
pub struct Network {
    /// The curves.
    pub curves: Vec<Curve>,
    /// The places where pieces end.
    pub places: Vec<Flat>,
    /// What curves do at each place.
    pub meets: Vec<Meets>,
    /// The pieces. Of those that lie on each other the first alone is here.
    pub pieces: Vec<Piece>,
    /// The pieces that lie on one that was there before: which they are, and on which piece.
    pub doubles: Vec<(Piece, usize)>,
    /// The pieces at each place, counter-clockwise; those that end there as well as those that begin, told apart by `true` for an end.
    pub(crate) round: Vec<Vec<(usize, bool)>>,
    /// Nearer than this is the same place, mm.
    pub fine: f64,
}

/// Why curves are not cut up.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum NetworkError {
    /// They meet more often than can be handled.
    #[error("its lines meet more than {MOST_MEETINGS} times; draw it in several profiles")]
    TooMany,
    /// Somebody asked to stop.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
}

/// The most meetings of curves: a profile of two thousand lines that is meant to be one has some thousands.
const MOST_MEETINGS: usize = 200_000;

/// Nearer than this is the same place, mm: a millionth of a millimetre, or what numbers as large as the drawing can tell apart well.
pub fn fineness(curves: &[Curve]) -> f64 {
    const FINE: f64 = 1e-6;
    const SHARE: f64 = 1e-11;
    let ends = curves.iter().flat_map(|c| &c.spans).flat_map(|s| [s.from(), s.to()]);
    ends.map(|p| p.abs().max_element()).fold(0.0, f64::max).mul_add(SHARE, 0.0).max(FINE)
}

/// A box round flat places; flat boxes stand on the ground.
fn boxed(places: impl IntoIterator<Item = Flat>) -> Aabb {
    Aabb::of(places.into_iter().map(|p| Point::new(p.x, p.y, 0.0)))
}

impl Network {
    /// Cuts curves up where they meet.
    ///
    /// # Errors
    /// [`NetworkError`].
    pub fn new(curves: Vec<Curve>, progress: &Progress) -> Result<Self, NetworkError> {
        let fine = fineness(&curves);
        let spans: Vec<(usize, usize, Span)> = curves
            .iter()
            .enumerate()
            .flat_map(|(c, curve)| curve.spans.iter().enumerate().map(move |(k, s)| (c, k, *s)))
            .collect();
        let cuts = cut(&curves, &spans, fine, progress)?;
        let (places, named) = name_places(&curves, &spans, &cuts, fine);
        let mut network = Self { curves, places, meets: vec![], pieces: vec![], doubles: vec![], round: vec![], fine };
        network.meets = network.met(&spans, &cuts, &named);
        network.take_pieces(&spans, &cuts, &named);
        network.order();
        Ok(network)
    }

    fn met(&self, spans: &[(usize, usize, Span)], cuts: &[Vec<f64>], named: &[Vec<usize>]) -> Vec<Meets> {
        let mut meets = vec![Meets::default(); self.places.len()];
        for (n, (c, k, _)) in spans.iter().enumerate() {
            let last = cuts[n].len() - 1;
            for (m, place) in named[n].iter().enumerate() {
                let spans = self.curves[*c].spans.len();
                let (begins, ends) = (*k == 0 && m == 0, k + 1 == spans && m == last);
                let closed = (begins || ends) && self.is_closed(*c);
                if (begins || ends) && !closed {
                    meets[*place].ends.push(*c);
                } else if m != last || closed && ends {
                    // Joints of spans are counted where the next begins; a closed curve's where it ends.
                    if !(closed && begins) {
                        meets[*place].through.push(*c);
                    }
                }
            }
        }
        meets
    }

    /// Whether a curve ends where it begins.
    pub fn is_closed(&self, curve: usize) -> bool {
        let spans = &self.curves[curve].spans;
        let ends = spans.first().zip(spans.last());
        ends.is_some_and(|(a, b)| spans.len() > 1 && a.from().distance(b.to()) <= 4.0 * self.fine)
    }

    fn take_pieces(&mut self, spans: &[(usize, usize, Span)], cuts: &[Vec<f64>], named: &[Vec<usize>]) {
        let mut between: FxHashMap<(usize, usize), Vec<usize>> = FxHashMap::default();
        for (n, (curve, _, span)) in spans.iter().enumerate() {
            for (shares, ends) in cuts[n].windows(2).zip(named[n].windows(2)) {
                let piece = Piece { curve: *curve, span: span.part(shares[0], shares[1]), from: ends[0], to: ends[1] };
                if piece.from == piece.to {
                    continue;
                }
                let beside = between.entry((ends[0].min(ends[1]), ends[0].max(ends[1]))).or_default();
                let same = |other: &&usize| {
                    let other = self.pieces[**other].span;
                    [0.25, 0.5, 0.75].into_iter().all(|t| other.nearest(piece.span.at(t)).1 <= 2.0 * self.fine)
                };
                if let Some(other) = beside.iter().find(same) {
                    self.doubles.push((piece, *other));
                } else {
                    beside.push(self.pieces.len());
                    self.pieces.push(piece);
                }
            }
        }
    }

    /// Puts the pieces at each place in order, by where they cross a circle round it that all of them reach.
    fn order(&mut self) {
        self.round = vec![Vec::new(); self.places.len()];
        for (n, piece) in self.pieces.iter().enumerate() {
            self.round[piece.from].push((n, false));
            self.round[piece.to].push((n, true));
        }
        for (place, round) in self.round.iter_mut().enumerate() {
            let centre = self.places[place];
            let out = |(n, ends): (usize, bool)| {
                let span = self.pieces[n].span;
                if ends { span.reversed() } else { span }
            };
            let reach = round.iter().map(|e| out(*e).to().distance(centre)).fold(f64::INFINITY, f64::min) * 0.5;
            let angle = |e: &(usize, bool)| {
                let way = out(*e).at(share_at(&out(*e), centre, reach)) - centre;
                way.to_angle().rem_euclid(TAU)
            };
            let mut angles: Vec<(f64, (usize, bool))> = round.iter().map(|e| (angle(e), *e)).collect();
            angles.sort_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
            *round = angles.into_iter().map(|(_, e)| e).collect();
        }
    }

    /// A box round everything, least and greatest corner, mm.
    pub fn bounds(&self) -> (Flat, Flat) {
        let hulls = self.curves.iter().flat_map(|c| &c.spans).flat_map(|s| s.hull());
        let all: Vec<Flat> = hulls.collect();
        let least = all.iter().copied().fold(Flat::INFINITY, Flat::min);
        (least, all.iter().copied().fold(Flat::NEG_INFINITY, Flat::max))
    }
}

/// The share at which a span that leaves a place crosses the circle of a radius round it. Turning by a quarter at most, it gets
/// farther all the way.
fn share_at(span: &Span, centre: Flat, radius: f64) -> f64 {
    let (mut low, mut high) = (0.0, 1.0);
    for _ in 0..50 {
        let middle = (low + high) * 0.5;
        if span.at(middle).distance(centre) < radius {
            low = middle;
        } else {
            high = middle;
        }
    }
    high
}

/// The shares at which each span is cut, from 0 to 1.
fn cut(
    curves: &[Curve],
    spans: &[(usize, usize, Span)],
    fine: f64,
    progress: &Progress,
) -> Result<Vec<Vec<f64>>, NetworkError> {
    /// Pairs of spans looked at between two questions whether to go on: some hundred microseconds each at worst.
    const PAIRS: usize = 256;
    let (mut pairs, mut found, mut stop) = (0_usize, 0_usize, None);
    let mut cuts = vec![vec![0.0, 1.0]; spans.len()];
    let boxes = spans.iter().map(|(_, _, s)| boxed(s.hull()).grown(fine)).collect();
    let bvh = Bvh::new(boxes);
    for (n, (c, k, span)) in spans.iter().enumerate() {
        if n % 64 == 0 {
            progress.report(n as f64 / spans.len() as f64, "finding where lines meet")?;
        }
        let _ = bvh.overlapping(bvh.item_box(n as u32), |m| {
            let (d, l, other) = &spans[m as usize];
            let apart = k.abs_diff(*l);
            // Neighbours of one curve share their joint, and nothing else.
            let joined = c == d && (apart <= 1 || apart + 1 == curves[*c].spans.len());
            if m as usize > n && !joined {
                pairs += 1;
                if pairs.is_multiple_of(PAIRS)
                    && let Err(cancelled) = progress.check()
                {
                    stop = Some(cancelled.into());
                }
                for meeting in meetings(span, other, fine) {
                    cuts[n].push(meeting.a);
                    cuts[m as usize].push(meeting.b);
                    found += 1;
                }
                if found > MOST_MEETINGS {
                    stop = Some(NetworkError::TooMany);
                }
            }
            if stop.is_some() { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
        });
        if let Some(error) = stop {
            return Err(error);
        }
    }
    for (shares, (_, _, span)) in cuts.iter_mut().zip(spans) {
        shares.sort_by(f64::total_cmp);
        // What is as good as an end is that end.
        let near = |a: f64, b: f64| span.at(a).distance(span.at(b)) <= 2.0 * fine;
        let mut kept = vec![0.0];
        for &share in shares.iter() {
            if !near(share, kept[kept.len() - 1]) && !near(share, 1.0) {
                kept.push(share);
            }
        }
        kept.push(1.0);
        *shares = kept;
    }
    Ok(cuts)
}

/// Names the places of all cuts: near ones are one. An end of a curve is where it is.
fn name_places(
    curves: &[Curve],
    spans: &[(usize, usize, Span)],
    cuts: &[Vec<f64>],
    fine: f64,
) -> (Vec<Flat>, Vec<Vec<usize>>) {
    let mut all: Vec<(Flat, bool)> = Vec::new();
    for ((c, k, span), shares) in spans.iter().zip(cuts) {
        let ends = |m: usize| k + m == 0 || k + 1 == curves[*c].spans.len() && m + 1 == shares.len();
        all.extend(shares.iter().enumerate().map(|(m, share)| (span.at(*share), ends(m))));
    }
    let near = 4.0 * fine;
    let cell = |p: Flat| ((p.x / near).floor() as i64, (p.y / near).floor() as i64);
    let mut cells: FxHashMap<(i64, i64), Vec<u32>> = FxHashMap::default();
    let mut sets = UnionFind::new(all.len());
    for (n, (p, _)) in all.iter().enumerate() {
        let (x, y) = cell(*p);
        for beside in (-1..=1).flat_map(|dx| (-1..=1).map(move |dy| (x + dx, y + dy))) {
            for &m in cells.get(&beside).into_iter().flatten() {
                if all[m as usize].0.distance(*p) <= near {
                    sets.union(n as u32, m);
                }
            }
        }
        cells.entry((x, y)).or_default().push(n as u32);
    }
    let (number, count) = sets.number_sets();
    let mut places = vec![(Flat::ZERO, 0); count];
    for ((p, is_end), n) in all.iter().zip(&number) {
        let place = &mut places[*n as usize];
        let rank = if *is_end { 2 } else { 1 };
        if rank > place.1 {
            *place = (*p, rank);
        }
    }
    let mut next = number.into_iter().map(|n| n as usize);
    let named = cuts.iter().map(|shares| next.by_ref().take(shares.len()).collect()).collect();
    (places.into_iter().map(|(p, _)| p).collect(), named)
}
