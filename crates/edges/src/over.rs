//! Faces that vanish under a rounding: where two runs take all of what lies between them, one ball rolls along both and touches the
//! faces beyond.

use std::collections::{BTreeMap, BTreeSet};

use nimbet_kernel::segments::nearest_on_segment;
use nimbet_kernel::{Aabb, Bvh, FaceId, Point};

use crate::carve::EdgeError;
use crate::graph::Graph;
use crate::plan::{Cause, Planner, Spine, Trouble, Wanted, folded};
use crate::station::{MEANT, Over, Place, Section, station};

/// A face that vanished under a rounding.
#[derive(Clone, Copy, Debug)]
pub struct Vanished {
    /// A place on it, mm.
    pub at: Point,
    /// The least and the largest radius of the rounding, mm.
    pub radii: [f64; 2],
}

impl Vanished {
    /// Those under some sections.
    pub(crate) fn under(spines: &[Spine]) -> Vec<Self> {
        let of = |spine: &Spine| {
            let radii = || spine.stations.iter().filter_map(|s| s.centre.map(|c| c.distance(s.feet[0])));
            let places = &spine.places;
            let at = match spine.tip {
                Some(side) => spine.stations[0].feet[side],
                None => places[places.len() / 2].at.midpoint(places[(places.len() - 1) / 2].at),
            };
            Self { at, radii: [radii().fold(f64::INFINITY, f64::min), radii().fold(0.0, f64::max)] }
        };
        spines.iter().filter(|s| s.second.is_some() || s.tip.is_some()).map(of).collect()
    }
}

/// The ends of two runs beside a face that vanishes are no farther from each other than so many times how wide it is.
const ASKEW: f64 = 4.0;

/// A run as the line it is.
struct Line<'a> {
    graph: &'a Graph<'a>,
    edges: &'a [(u32, bool)],
    /// How far along it each edge begins, mm.
    begins: Vec<f64>,
    bvh: Bvh,
}

/// A place on a line.
#[derive(Clone, Copy)]
struct On {
    at: Point,
    edge: usize,
    /// From the beginning of the line, mm.
    along: f64,
    /// From what was asked for, mm.
    off: f64,
}

impl<'a> Line<'a> {
    fn of(graph: &'a Graph<'a>, run: u32) -> Self {
        let edges = &graph.runs[run as usize].edges[..];
        let ends = |e: &(u32, bool)| graph.ends(*e).map(|v| graph.place(v));
        let mut begins = vec![0.0];
        for e in edges {
            let [a, b] = ends(e);
            begins.push(begins[begins.len() - 1] + a.distance(b));
        }
        Self { graph, edges, begins, bvh: Bvh::new(edges.iter().map(|e| Aabb::of(ends(e))).collect()) }
    }

    fn ends(&self, edge: usize) -> [Point; 2] {
        self.graph.ends(self.edges[edge]).map(|v| self.graph.place(v))
    }

    fn nearest(&self, p: Point) -> Option<On> {
        let off = |e: u32| nearest_on_segment(p, self.ends(e as usize)[0], self.ends(e as usize)[1]);
        let (edge, _) = self.bvh.nearest(p, f64::INFINITY, |e| Some(off(e).1))?;
        let (share, square) = off(edge);
        let edge = edge as usize;
        let [a, b] = self.ends(edge);
        let along = self.begins[edge] + (self.begins[edge + 1] - self.begins[edge]) * share;
        Some(On { at: a.lerp(b, share), edge, along, off: square.sqrt() })
    }

    fn way(&self, edge: usize) -> Point {
        let [a, b] = self.ends(edge);
        (b - a).normalize_or_zero()
    }
}

/// Two runs, each with the side on which the face between them lies.
type Pair = [(usize, usize); 2];

impl Planner<'_> {
    /// The sections along runs, those with a face between them that vanishes as one.
    pub(crate) fn merged(&self, spines: Vec<Spine>) -> Result<Vec<Spine>, EdgeError> {
        let mut made: Vec<Spine> = Vec::new();
        let mut gone = vec![false; spines.len()];
        for pair in self.pairs(&spines) {
            self.progress.check()?;
            if pair.iter().any(|(n, _)| gone[*n]) {
                continue;
            }
            if let Some(spine) = self.over(&spines, pair)? {
                pair.iter().for_each(|(n, _)| gone[*n] = true);
                made.push(spine);
            }
        }
        let stay: Vec<Spine> = spines.into_iter().zip(gone).filter(|(_, gone)| !gone).map(|(s, _)| s).collect();
        if let Some(alone) = stay.iter().find(|s| s.stations.is_empty()) {
            let at = alone.places[alone.places.len() / 2].at;
            return Err(EdgeError::Trouble(Trouble { run: alone.wanted.run, cause: Cause::Alone, at }));
        }
        // An edge between two faces that vanish is the middle of a ball no strip ends at.
        let gone = |f: &FaceId| made.iter().flat_map(|s| &s.places).any(|p| p.over.is_some_and(|over| over.face == *f));
        if let Some(between) =
            stay.iter().find(|s| !made.is_empty() && s.places.iter().any(|p| p.faces.iter().all(gone)))
        {
            let at = between.places[between.places.len() / 2].at;
            return Err(EdgeError::Trouble(Trouble { run: between.wanted.run, cause: Cause::Overlaps, at }));
        }
        Ok(stay.into_iter().chain(made).collect())
    }

    /// The runs that have another of them across a face.
    pub(crate) fn with_others_across(&self, wanted: &[Wanted]) -> BTreeSet<u32> {
        let over = wanted.iter().map(|w| self.whole(&Wanted::all_along(w.run, Section::Over)));
        let spines: Vec<Spine> = over.filter_map(Result::ok).collect();
        self.pairs(&spines).into_iter().flatten().map(|(n, _)| spines[n].wanted.run).collect()
    }

    /// Runs that have a face between them vanish, and these faces.
    pub(crate) fn faces_between(&self, wanted: &[Wanted]) -> Result<(BTreeSet<u32>, BTreeSet<u32>), EdgeError> {
        let spines: Vec<Spine> = wanted.iter().filter_map(|w| self.whole(w).ok()).collect();
        let (mut runs, mut faces) = (BTreeSet::new(), BTreeSet::new());
        for pair in self.pairs(&spines) {
            self.progress.check()?;
            if let Some(spine) = self.over(&spines, pair)? {
                runs.extend(spine.runs());
                faces.extend(spine.places.iter().filter_map(|p| Some(p.over?.face.0)));
            }
        }
        Ok((runs, faces))
    }

    /// Runs with one face between them that they may take whole.
    fn pairs(&self, spines: &[Spine]) -> Vec<Pair> {
        let graph = self.graph;
        let mut on: BTreeMap<u32, Vec<(usize, usize)>> = BTreeMap::new();
        for (n, spine) in spines.iter().enumerate() {
            for k in 0..2 {
                let mut faces: Vec<u32> = spine.places.iter().map(|p| p.faces[k].0).collect();
                faces.sort_unstable();
                faces.dedup();
                faces.into_iter().for_each(|f| on.entry(f).or_default().push((n, k)));
            }
        }
        let boxes: Vec<Aabb> = spines
            .iter()
            .map(|s| Aabb::of(s.edges(graph).flat_map(|e| graph.ends(e)).map(|v| graph.place(v))).grown(s.reach()))
            .collect();
        let alike = |a: &Spine, b: &Spine| {
            let same = match (&a.wanted.sections[..], &b.wanted.sections[..]) {
                ([(_, Section::Round { radius: r })], [(_, Section::Round { radius: s })]) => {
                    (r / s - 1.0).abs() < 1e-9
                }
                ([(_, Section::Over)], [(_, Section::Over)]) => true,
                _ => false,
            };
            same && a.convex == b.convex
                && a.closed == b.closed
                && a.bends.is_empty()
                && b.bends.is_empty()
                && (a.closed || !a.ends.iter().any(|e| b.ends.contains(e)))
        };
        let mut pairs: Vec<Pair> = Vec::new();
        for sides in on.values() {
            for (i, a) in sides.iter().enumerate() {
                let meets = |b: &&(usize, usize)| {
                    let near = spines[a.0].stations.is_empty() || boxes[a.0].overlaps(&boxes[b.0]);
                    b.0 != a.0 && near && alike(&spines[a.0], &spines[b.0])
                };
                pairs.extend(sides[i + 1..].iter().filter(meets).map(|b| [*a, *b]));
            }
        }
        pairs.sort_unstable();
        pairs.dedup();
        pairs
    }

    /// The sections from the face beyond one run to that beyond another, where what lies between vanishes all along.
    fn over(&self, spines: &[Spine], [(n, side), (m, other)]: Pair) -> Result<Option<Spine>, EdgeError> {
        let (a, b) = (&spines[n], &spines[m]);
        let lines = [a, b].map(|s| Line::of(self.graph, s.wanted.run));
        let between: Vec<FaceId> = a.places.iter().map(|p| p.faces[side]).collect();
        let near = (a.wanted.size() * 1e-3).max(self.precise * 64.0);
        // Where either has a section.
        let mut knots: Vec<(f64, Place)> = Vec::new();
        for (spine, own) in [(a, true), (b, false)] {
            for place in &spine.places {
                let Some(on) = lines[0].nearest(place.at) else { return Ok(None) };
                let faces = if own { place.faces } else { self.graph.beside(lines[0].edges[on.edge]) };
                let along = if own { place.along } else { lines[0].way(on.edge) };
                knots.push((on.along, Place { at: on.at, along, faces, ..*place }));
            }
        }
        // A run that comes back to where it began has its first place at both ends of its line.
        let whole = lines[0].begins[lines[0].edges.len()];
        let twice = |along: f64| a.closed && along > whole - near;
        let mut kept: Vec<(f64, Place)> = Vec::new();
        let (first, rest) = knots.split_at(a.places.len());
        kept.extend(first.iter().map(|(along, p)| (if twice(*along) { 0.0 } else { *along }, *p)));
        for knot in rest {
            if !twice(knot.0) && kept.iter().all(|k| (k.0 - knot.0).abs() > near) {
                kept.push(*knot);
            }
        }
        kept.sort_by(|x, y| x.0.total_cmp(&y.0));
        // The two run the same way if the face lies to the right of one and to the left of the other.
        let sense = if side == other { -1.0 } else { 1.0 };
        let mut places = Vec::with_capacity(kept.len());
        for (_, p) in kept {
            let Some(q) = lines[1].nearest(p.at) else { return Ok(None) };
            // At a corner of the line, the edge that is ahead.
            let ahead = lines[1].nearest(q.at + p.along * near).map_or(q.edge, |on| on.edge);
            let beyond = self.graph.beside(lines[1].edges[ahead]);
            if !between.contains(&beyond[other]) || q.off <= near {
                return Ok(None);
            }
            let along = (p.along + lines[1].way(ahead) * sense).normalize_or(p.along);
            let mut faces = p.faces;
            (faces[side], faces[1 - side]) = (beyond[1 - other], p.faces[1 - side]);
            if faces[0] == faces[1] {
                return Ok(None);
            }
            let over = Over { face: p.faces[side], half: q.off * 0.5 };
            places.push(Place { at: p.at.midpoint(q.at), along, faces, convex: a.convex, over: Some(over) });
        }
        let (places, stations) = match self.put_down(places, &a.wanted) {
            Ok(found) => found,
            Err(EdgeError::Trouble(_)) => return Ok(None),
            Err(e) => return Err(e),
        };
        let ends = if sense > 0.0 { b.ends } else { [b.ends[1], b.ends[0]] };
        let apart = |k: usize| self.graph.place(a.ends[k]).distance(self.graph.place(ends[k]));
        let wide = |place: &Place| place.over.map_or(0.0, |over| over.half * 2.0 * ASKEW);
        if !a.closed && (apart(0) > wide(&places[0]) || apart(1) > wide(&places[places.len() - 1])) {
            return Ok(None);
        }
        let spine = Spine { places, stations, second: Some((b.wanted.run, ends)), ..a.clone() };
        Ok(if folded(&spine).is_some() { None } else { Some(spine) })
    }
}

impl Planner<'_> {
    /// The side of a closed run on which a face lies round, and the radius that takes it whole: where the feet come together.
    pub(crate) fn room_in(&self, wanted: &Wanted, places: &[Place]) -> Option<(usize, f64)> {
        /// Feet of one radius are as far from their middle as each other, by this share.
        const ROUND: f64 = 1e-3;
        /// So many places tell.
        const LOOKED_AT: usize = 12;
        let [(_, Section::Round { radius })] = wanted.sections[..] else { return None };
        if !self.graph.runs[wanted.run as usize].closed {
            return None;
        }
        let some: Vec<&Place> = places.iter().step_by(places.len().div_ceil(LOOKED_AT)).collect();
        // How far the feet are from their middle.
        let spread = |side: usize, radius: f64| {
            let put_down = |p: &&Place| station(&self.graph.faces, p, Section::Round { radius });
            let feet: Vec<Point> = some.iter().map(put_down).map(|s| s.map(|s| s.feet[side])).collect::<Option<_>>()?;
            let middle = feet.iter().sum::<Point>() / feet.len() as f64;
            let off = |f: &Point| f.distance(middle);
            let (least, most) =
                (feet.iter().map(off).fold(f64::INFINITY, f64::min), feet.iter().map(off).fold(0.0, f64::max));
            Some((least, most))
        };
        (0..2).filter(|side| places.iter().all(|p| p.faces[*side] == places[0].faces[*side])).find_map(|side| {
            let [r, s] = [radius * 0.5, radius * 0.9];
            let (far, near) = (spread(side, r)?, spread(side, s)?);
            let round = far.1 - far.0 <= far.1 * ROUND;
            let room = r + far.1 * (s - r) / (far.1 - near.1);
            (round && room > 0.0 && room.is_finite()).then_some((side, room))
        })
    }

    /// The sections of a closed run that take the face within it whole: all of one ball.
    pub(crate) fn tip(&self, wanted: &Wanted, places: &[Place]) -> Result<Option<Spine>, EdgeError> {
        let Some((side, radius)) = self.room_in(wanted, places) else { return Ok(None) };
        if (wanted.size() / radius - 1.0).abs() > MEANT {
            return Ok(None);
        }
        let run = &self.graph.runs[wanted.run as usize];
        let wanted = Wanted::all_along(wanted.run, Section::Round { radius });
        let (places, mut stations) = match self.put_down(places.to_vec(), &wanted) {
            Ok(found) => found,
            Err(EdgeError::Trouble(_)) => return Ok(None),
            Err(e) => return Err(e),
        };
        // On the axis of a face it does not tell where it is nearest: a little off it, towards the place, it does.
        for (place, station) in places.iter().zip(&mut stations) {
            let (Some(centre), up) = (station.centre, station.normals[side]) else { continue };
            let towards = (place.at - centre).reject_from(up).normalize_or_zero();
            let beside = centre + towards * (radius * 1e-6);
            let probe = self.graph.faces.probe(place.faces[1 - side], beside);
            station.feet[1 - side] = beside - probe.normal * probe.off;
            station.normals[1 - side] = probe.normal;
        }
        let ends = [self.graph.ends(run.edges[0])[0]; 2];
        Ok(Some(Spine { ends, tip: Some(side), ..self.spine_of(&wanted, places, stations) }))
    }
}
