//! Sections moved along a path. Where it bends more tightly than the section reaches inward, a part of the section goes backward:
//! there the body is put down piece by piece, each facing outward, so that what is wound round at all is the body.

use nimbet_kernel::{Mesh, Point, Progress};
use rustc_hash::FxHashMap;

use super::cut::{Corner2, Cut};
use super::flat::Flattened;
use super::{BodyError, Making};
use crate::Flat;
use crate::path::{PathError, Station, about, refused};

/// Where a section is put down: its zero, and where its x and y go.
#[derive(Clone, Copy, Debug)]
pub struct Placed {
    /// Where its zero goes.
    pub at: Point,
    /// Where a millimetre along its x goes.
    pub u: Point,
    /// Where a millimetre along its y goes.
    pub v: Point,
    /// The stretch of the path that goes on from here; none where it turns on the spot.
    pub stretch: Option<usize>,
}

impl Placed {
    /// Where a place of the section lies.
    pub fn lift(&self, p: Flat) -> Point {
        self.at + self.u * p.x + self.v * p.y
    }

    fn normal(&self) -> Point {
        self.u.cross(self.v).normalize_or_zero()
    }

    /// Whether all of the section is one place.
    fn is_tip(&self) -> bool {
        self.u == Point::ZERO && self.v == Point::ZERO
    }
}

/// How kinks of the path are gone round.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Corner {
    /// The sides meet as in a picture frame.
    Sharp,
    /// The section turns about the kink.
    Round,
}

/// How the section changes on its way.
#[derive(Clone, Copy, Debug)]
pub struct Change {
    /// How far it has turned at the end, radians, by the right hand about the path.
    pub twist: f64,
    /// How many times larger it is at the end.
    pub scale: f64,
    /// At kinks.
    pub corner: Corner,
}

/// Kinks below this, radians, are those of a bend that is given by points: 20 degrees.
const FACET: f64 = 0.35;

/// The places of a section at stations of a path; `fine` is a chord and how far the section reaches.
///
/// # Errors
/// Where a path turns back so far that sides do not meet.
pub fn placed(stations: &[Station], change: &Change, (chord, reach): (f64, f64)) -> Result<Vec<Placed>, PathError> {
    let whole = stations.last().map_or(0.0, |s| s.length).max(f64::MIN_POSITIVE);
    let put = |s: &Station| {
        let share = s.length / whole;
        let (turn, size) = (change.twist * share, 1.0 + (change.scale - 1.0) * share);
        let across = about(s.along, s.across, turn);
        Placed { at: s.at, u: across * size, v: s.along.cross(across) * size, stretch: s.stretch }
    };
    let is_kink = |k: usize| k + 1 < stations.len() && stations[k].stretch.is_none();
    let mut places = Vec::with_capacity(stations.len());
    let mut k = 0;
    while k < stations.len() {
        if !is_kink(k) {
            places.push(put(&stations[k]));
            k += 1;
            continue;
        }
        let (from, to) = (&stations[k], &stations[k + 1]);
        match change.corner {
            // What is straight from point to point along a bend has no corners.
            _ if from.along.angle_between(to.along) < FACET => places.push(mitred(from, to, &put)?),
            Corner::Round => places.extend(round_corner((from, to), &put, (chord, reach))),
            Corner::Sharp => places.push(mitred(from, to, &put)?),
        }
        k += 2;
    }
    // A closed path with a kink where it begins has its mitre at both ends.
    if let [.., before, last] = stations
        && change.corner == Corner::Sharp
        && before.stretch.is_none()
        && last.length == before.length
        && let Some(end) = places.last().copied()
    {
        places[0] = Placed { stretch: places[0].stretch, ..end };
    }
    Ok(places)
}

/// The section turned on the spot from one direction to the other.
fn round_corner(
    (from, to): (&Station, &Station),
    put: &impl Fn(&Station) -> Placed,
    (chord, reach): (f64, f64),
) -> Vec<Placed> {
    let turn = from.along.angle_between(to.along);
    let axis = from.along.cross(to.along).normalize_or(from.across);
    let step = (2.0 * (1.0 - (chord / reach.max(chord)).min(1.0)).acos()).clamp(1e-3, 0.4);
    let n = (turn / step).ceil().max(1.0) as usize;
    let turned = |v: Point, by: f64| {
        let (sin, cos) = by.sin_cos();
        v * cos + axis.cross(v) * sin + axis * (axis.dot(v) * (1.0 - cos))
    };
    let first = put(from);
    let between = (0..n).map(|k| {
        let by = turn * k as f64 / n as f64;
        Placed { u: turned(first.u, by), v: turned(first.v, by), stretch: None, ..first }
    });
    between.chain([put(to)]).collect()
}

/// The section in the plane in which both sides of a kink meet.
fn mitred(from: &Station, to: &Station, put: &impl Fn(&Station) -> Placed) -> Result<Placed, PathError> {
    /// The cosine of half the turn below which sides run on for ever.
    const SHARPEST: f64 = 0.2;
    let middle = (from.along + to.along).normalize_or_zero();
    let slant = from.along.dot(middle);
    if slant < SHARPEST {
        let why = "the path turns back here: sides would meet far out; let it go round corners instead";
        return Err(refused(why, vec![from.at]));
    }
    let Placed { u, v, .. } = put(from);
    let slid = |w: Point| w - from.along * (w.dot(middle) / slant);
    Ok(Placed { at: from.at, u: slid(u), v: slid(v), stretch: to.stretch })
}

/// How much a section turns about the path from one place to the next, at most, radians.
pub fn most_twist(places: &[Placed]) -> f64 {
    let twist = |from: &Placed, to: &Placed| {
        let (n, m) = (from.normal(), to.normal());
        let (across, after) = (from.u.normalize_or_zero(), to.u.normalize_or_zero());
        let axis = n.cross(m);
        let (sin, cos) = (axis.length(), n.dot(m));
        let axis = axis.normalize_or_zero();
        let carried = across * cos + axis.cross(across) * sin + axis * (axis.dot(across) * (1.0 - cos));
        if after == Point::ZERO { 0.0 } else { carried.angle_between(after) }
    };
    let pairs = places.windows(2).filter(|w| w[0].stretch.is_some() && !w[0].is_tip());
    pairs.map(|w| twist(&w[0], &w[1])).fold(0.0, f64::max)
}

/// A place where the path bends more tightly than the section allows.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Fold {
    /// Where the section goes backward most.
    pub at: Point,
    /// The radius of the bend there, mm.
    pub radius: f64,
    /// The least radius with which it would not.
    pub least: f64,
}

/// A section moved along a path.
#[derive(Clone, Debug)]
pub struct Swept {
    /// Closed shells, each facing outward. Without folds it is one; with them they lie in each other, and the body is what is wound
    /// round at all. Faces: 0 where it begins, 1 where it ends, then one for each curve of the section and stretch of the path.
    pub mesh: Mesh,
    /// Where it would go backward.
    pub folds: Vec<Fold>,
    /// Whether it is put down in pieces.
    pub pieces: bool,
}

/// A share of a section's advance by which none of it counts as going backward.
const STILL: f64 = 1e-9;

/// Moves outlines through places; closed, the last of them is the first.
///
/// # Errors
/// [`BodyError`] when somebody asks to stop.
pub fn sweep(flat: &Flattened, places: &[Placed], closed: bool, progress: &Progress) -> Result<Swept, BodyError> {
    let slabs: Vec<Slab> = places.windows(2).map(|w| Slab::new(flat, &w[0], &w[1])).collect();
    let mut body = Body::new(flat, places);
    let folded = slabs.iter().any(|s| s.back);
    if !folded {
        body.run((0, places.len() - 1), closed, [None, None])?;
        return Ok(Swept { mesh: body.making.mesh()?, folds: vec![], pieces: false });
    }
    // Where each slab is cut, if it is: known to what lies beside it, so that both end with the same triangles.
    let mut cut: Vec<Option<Cut>> = Vec::with_capacity(slabs.len());
    for (k, slab) in slabs.iter().enumerate() {
        if k % 64 == 0 {
            progress.check()?;
        }
        let before = cut.last().and_then(Option::as_ref).map(|c| &c.shares);
        cut.push(slab.back.then(|| Cut::new(&flat.triangles, &slab.advance, before)));
    }
    let mut k = 0;
    while k < slabs.len() {
        if k % 64 == 0 {
            progress.check()?;
        }
        if let Some(own) = &cut[k] {
            body.piece(k, own, true);
            body.piece(k, own, false);
            k += 1;
            continue;
        }
        let end = (k..slabs.len()).find(|m| slabs[*m].back).unwrap_or(slabs.len());
        let beside = [k.checked_sub(1).and_then(|b| cut[b].as_ref()), cut.get(end).and_then(Option::as_ref)];
        body.run((k, end), false, beside)?;
        k = end;
    }
    Ok(Swept { mesh: body.making.mesh()?, folds: folds(flat, places, &slabs), pieces: true })
}

/// What lies between two places of the section.
struct Slab {
    /// How far each vertex goes forward.
    advance: Vec<f64>,
    /// Whether some of it goes backward.
    back: bool,
}

impl Slab {
    fn new(flat: &Flattened, from: &Placed, to: &Placed) -> Self {
        let way = (from.normal() + to.normal()).normalize_or_zero();
        let advance: Vec<f64> = flat.vertices().map(|v| (to.lift(v.at) - from.lift(v.at)).dot(way)).collect();
        let most = advance.iter().fold(0.0_f64, |m, a| m.max(a.abs()));
        // What is still is so for what lies before it and after it alike.
        let advance: Vec<f64> = advance.into_iter().map(|a| if a.abs() <= STILL * most { 0.0 } else { a }).collect();
        let back = !from.is_tip() && !to.is_tip() && advance.iter().any(|a| *a < 0.0);
        Self { advance, back }
    }
}

/// The worst place of each run of slabs where a bend, not a corner, is too tight.
fn folds(flat: &Flattened, places: &[Placed], slabs: &[Slab]) -> Vec<Fold> {
    let mut found: Vec<(usize, Fold)> = Vec::new();
    for (k, slab) in slabs.iter().enumerate().filter(|(k, s)| s.back && places[*k].stretch.is_some()) {
        let (from, to) = (&places[k], &places[k + 1]);
        let way = (from.normal() + to.normal()).normalize_or_zero();
        let (step, forward) = ((to.at - from.at).length(), (to.at - from.at).dot(way));
        let turn = from.normal().angle_between(to.normal());
        let radius = if turn > 0.0 { step / (2.0 * (turn * 0.5).sin()) } else { f64::INFINITY };
        let Some((n, least)) = slab.advance.iter().enumerate().min_by(|a, b| a.1.total_cmp(b.1)) else { continue };
        // What a vertex goes forward is the less the farther in it is: nought at the middle of the bend.
        let fold = Fold {
            at: flat.vertices().nth(n).map_or(from.at, |v| from.lift(v.at)),
            radius,
            least: radius * (1.0 - least / forward.max(f64::MIN_POSITIVE)),
        };
        match found.last_mut() {
            Some((last, worst)) if *last + 1 == k => {
                *last = k;
                if fold.least - fold.radius > worst.least - worst.radius {
                    *worst = fold;
                }
            }
            _ => found.push((k, fold)),
        }
    }
    found.into_iter().map(|(_, fold)| fold).collect()
}

struct Body<'a> {
    flat: &'a Flattened,
    places: &'a [Placed],
    making: Making,
    /// The vertex after each on its outline.
    next: Vec<usize>,
    curves: u32,
}

impl<'a> Body<'a> {
    fn new(flat: &'a Flattened, places: &'a [Placed]) -> Self {
        let mut next = Vec::new();
        for outline in &flat.outlines {
            let from = next.len();
            next.extend((0..outline.len()).map(|k| from + (k + 1) % outline.len()));
        }
        let curves = flat.vertices().map(|v| v.curve as u32 + 1).max().unwrap_or(0);
        Self { flat, places, making: Making::default(), next, curves }
    }

    /// The face of a curve's side between two places.
    fn face(&self, place: usize, curve: usize) -> u32 {
        let stretch = self.places[place].stretch.map_or(0, |s| s as u32 + 1);
        2 + stretch * self.curves + curve as u32
    }

    fn ring(&mut self, place: usize) -> Vec<u32> {
        let placed = self.places[place];
        if placed.is_tip() {
            let tip = self.making.point(placed.at);
            return vec![tip; self.next.len()];
        }
        self.flat.vertices().map(|v| self.making.point(placed.lift(v.at))).collect()
    }

    /// One shell through places that go forward, with an end at each; closed, without. An end beside what is cut is cut alike.
    fn run(&mut self, (from, to): (usize, usize), closed: bool, beside: [Option<&Cut>; 2]) -> Result<(), BodyError> {
        let curve: Vec<usize> = self.flat.vertices().map(|v| v.curve).collect();
        let first = self.ring(from);
        let [begins, ends] = [(from, beside[0]), (to, beside[1])].map(|(place, cut)| self.cut_points(place, cut));
        let none = FxHashMap::default();
        let mut last = first.clone();
        for place in from..to {
            let next = if closed && place + 1 == to { first.clone() } else { self.ring(place + 1) };
            let low = if place == from { &begins } else { &none };
            let high = if place + 1 == to { &ends } else { &none };
            for (i, j) in self.next.clone().into_iter().enumerate() {
                let (face, side) = (self.face(place, curve[i]), (i.min(j), i.max(j)));
                let [mut a, b, mut c, d] = [last[i], last[j], next[j], next[i]];
                if let Some(&e) = low.get(&side) {
                    self.making.triangle([a, e, d], face);
                    a = e;
                }
                if let Some(&e) = high.get(&side) {
                    self.making.triangle([b, c, e], face);
                    c = e;
                }
                self.making.quad([a, b, c, d], face);
            }
            last = next;
        }
        if !closed {
            self.end(&first, (beside[0], &begins), true);
            self.end(&last, (beside[1], &ends), false);
        }
        Ok(())
    }

    /// Where a section is cut that is put down at a place.
    fn cut_points(&mut self, place: usize, cut: Option<&Cut>) -> FxHashMap<(usize, usize), u32> {
        let placed = self.places[place];
        let at: Vec<Flat> = self.flat.vertices().map(|v| v.at).collect();
        let mut sides: Vec<((usize, usize), f64)> =
            cut.iter().flat_map(|c| &c.shares).map(|(side, share)| (*side, *share)).collect();
        sides.sort_unstable_by_key(|s| s.0);
        let point =
            |((i, j), share): ((usize, usize), f64)| ((i, j), self.making.point(placed.lift(at[i].lerp(at[j], share))));
        sides.into_iter().map(point).collect()
    }

    /// The triangles with which a run begins or ends.
    fn end(&mut self, ring: &[u32], (cut, points): (Option<&Cut>, &FxHashMap<(usize, usize), u32>), begins: bool) {
        let mut put = |[a, b, c]: [u32; 3]| match begins {
            true => self.making.triangle([a, c, b], 0),
            false => self.making.triangle([a, b, c], 1),
        };
        let named = |corner: &Corner2| match corner {
            Corner2::Vertex(i) => ring[*i],
            Corner2::Cut(i, j) => points[&(*i, *j)],
        };
        for t in &self.flat.triangles {
            let Some(cut) = cut else {
                put(t.map(|i| ring[i]));
                continue;
            };
            for round in [true, false].map(|forward| cut.part(t, forward)) {
                for k in 1..round.len().saturating_sub(1) {
                    put([round[0], round[k], round[k + 1]].map(|c| named(&c)));
                }
            }
        }
    }

    /// What of the section goes forward between a place and the next, or what goes backward, as a shell of its own.
    fn piece(&mut self, place: usize, cut: &Cut, forward: bool) {
        let ends = [self.places[place], self.places[place + 1]];
        let vertices: Vec<(Flat, usize)> = self.flat.vertices().map(|v| (v.at, v.curve)).collect();
        let flat_at = |corner: Corner2| match corner {
            Corner2::Vertex(i) => vertices[i].0,
            Corner2::Cut(i, j) => vertices[i].0.lerp(vertices[j].0, cut.shares[&(i, j)]),
        };
        let mut named: FxHashMap<Corner2, [u32; 2]> = FxHashMap::default();
        let mut sides: Vec<(Corner2, Corner2)> = Vec::new();
        for t in &self.flat.triangles {
            let round = cut.part(t, forward);
            if round.is_empty() {
                continue;
            }
            for corner in &round {
                let at = flat_at(*corner);
                let points = || ends.map(|e| e.lift(at));
                named.entry(*corner).or_insert_with(|| points().map(|p| self.making.point(p)));
            }
            for k in 1..round.len() - 1 {
                let [a, b, c] = [round[0], round[k], round[k + 1]].map(|c| named[&c]);
                self.turned([a[0], c[0], b[0]], 0, forward);
                self.turned([a[1], b[1], c[1]], 1, forward);
            }
            sides.extend((0..round.len()).map(|k| (round[k], round[(k + 1) % round.len()])));
        }
        let there: rustc_hash::FxHashSet<(Corner2, Corner2)> = sides.iter().copied().collect();
        for (a, b) in sides.into_iter().filter(|(a, b)| !there.contains(&(*b, *a))) {
            let outline = self.on_outline(a, b);
            let face = outline.map_or(0, |i| self.face(place, vertices[i].1));
            let ([a, c], [b, d]) = (named[&a], named[&b]);
            self.turned([a, b, d], face, forward);
            self.turned([a, d, c], face, forward);
        }
    }

    fn turned(&mut self, [a, b, c]: [u32; 3], face: u32, forward: bool) {
        self.making.triangle(if forward { [a, b, c] } else { [a, c, b] }, face);
    }

    /// The vertex at which the outline's side begins on which two corners lie.
    fn on_outline(&self, a: Corner2, b: Corner2) -> Option<usize> {
        let ends = |c: Corner2| match c {
            Corner2::Vertex(i) => [i, i],
            Corner2::Cut(i, j) => [i, j],
        };
        let ([a, b], [c, d]) = (ends(a), ends(b));
        let all = [a, b, c, d];
        all.into_iter().find(|i| all.contains(&self.next[*i]) && all.iter().all(|k| k == i || *k == self.next[*i]))
    }
}

/// Moves an open chain through places: a sheet. Each point has the curve of the side that begins there.
///
/// # Errors
/// [`BodyError`] where a point leaves all bounds.
pub fn sweep_chain(points: &[(Flat, usize)], round: bool, places: &[Placed], closed: bool) -> Result<Mesh, BodyError> {
    let curves = points.iter().map(|p| p.1 as u32 + 1).max().unwrap_or(1);
    let mut making = Making::default();
    let put = |making: &mut Making, place: &Placed| -> Vec<u32> {
        points.iter().map(|(p, _)| making.point(place.lift(*p))).collect()
    };
    let first = put(&mut making, &places[0]);
    let mut last = first.clone();
    let n = points.len();
    for (k, place) in places.iter().enumerate().skip(1) {
        let next = if closed && k + 1 == places.len() { first.clone() } else { put(&mut making, place) };
        let stretch = places[k - 1].stretch.map_or(0, |s| s as u32 + 1);
        for i in 0..if round { n } else { n - 1 } {
            let j = (i + 1) % n;
            making.quad([last[i], last[j], next[j], next[i]], stretch * curves + points[i].1 as u32);
        }
        last = next;
    }
    making.mesh()
}
