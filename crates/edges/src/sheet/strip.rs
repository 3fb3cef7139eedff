//! The strip along a run: its sections stitched together, with what goes on beyond both faces.

use std::collections::BTreeMap;

use nimbet_kernel::{FaceId, Point};

use super::ball::{Ball, past};
use super::{Builder, End, Row};
use crate::chain::Meeting;
use crate::plan::{Cause, Spine, Trouble};
use crate::station::{Place, Station};

/// Strips reach so many times as far beyond a face as things stand off it.
const ENOUGH: f64 = 1.5;

/// A section at its place.
type Put = (Place, Station);

impl Builder<'_> {
    /// The strip of a run; its rows.
    pub(super) fn strip(
        &mut self,
        number: usize,
        pieces: usize,
        balls: [Option<&Ball>; 2],
        ends_at: &BTreeMap<u32, Vec<(usize, End)>>,
    ) -> Result<Vec<Row>, Trouble> {
        let spine = &self.spines[number];
        if let Some(side) = spine.tip {
            self.tip(number, pieces, side);
            return Ok(vec![]);
        }
        let all: Vec<Put> = spine.places.iter().copied().zip(spine.stations.iter().copied()).collect();
        let mut stretches: Vec<Vec<Put>> = Vec::with_capacity(spine.breaks.len() + 1);
        let begins: Vec<usize> = [0].into_iter().chain(spine.breaks.iter().copied().filter(|k| *k > 0)).collect();
        for &begin in &begins {
            let end = spine.breaks.iter().copied().find(|k| *k > begin).unwrap_or(all.len());
            stretches.push(all[begin..end].to_vec());
        }
        let sag = spine.runs().map(|run| self.graph.sag(&self.graph.runs[run as usize])).fold(0.0, f64::max);
        // What comes next to each before and after a bend that is passed over.
        let n = stretches.len();
        let beside = |s: Option<&Put>, sign: f64| s.map(|(_, s)| Meeting { station: *s, onward: s.along * sign });
        let broken = |k: usize| spine.breaks.contains(&begins[k % n]);
        let next: Vec<[Option<Meeting>; 2]> = (0..n)
            .map(|k| {
                let before = if broken(k) { beside(stretches[(k + n - 1) % n].last(), -1.0) } else { spine.meets[0] };
                let after = if broken(k + 1) { beside(stretches[(k + 1) % n].first(), 1.0) } else { spine.meets[1] };
                [before, after]
            })
            .collect();
        let mut rows = Vec::new();
        for (k, (mut kept, next)) in stretches.into_iter().zip(next).enumerate() {
            let own = [balls[0].filter(|_| k == 0), balls[1].filter(|_| k + 1 == n)];
            self.to_balls(spine, &mut kept, own)?;
            let closed = spine.closed && spine.breaks.is_empty();
            let lead = usize::from(!closed && own[0].is_none());
            let count = kept.len();
            let beyond = |(place, own): Put, next: Option<Meeting>, end: End| {
                let width = self.width(&(place, own), pieces, sag, spine.convex);
                let beyond = match next {
                    Some(next) => self.beyond_bend(&own, &next, (end, spine.convex), width),
                    None => self.beyond((spine, end), width, ends_at),
                };
                (place, beyond)
            };
            let last = kept[count - 1];
            if lead > 0 {
                kept.insert(0, beyond(kept[0], next[0], End::First));
            }
            if !closed && own[1].is_none() {
                kept.push(beyond(last, next[1], End::Last));
            }
            rows.extend(self.stretch(number, (&kept, closed), pieces, (sag, lead, count), own));
        }
        Ok(rows)
    }

    /// Brings the ends of a stretch to balls.
    fn to_balls(&self, spine: &Spine, kept: &mut Vec<Put>, [first, last]: [Option<&Ball>; 2]) -> Result<(), Trouble> {
        let trouble = |cause, at| Trouble { run: spine.wanted.run, cause, at };
        let (place_first, place_last) = (kept[0].0, kept[kept.len() - 1].0);
        let folds = trouble(Cause::Overlaps, place_first.at.midpoint(place_last.at));
        if let Some(ball) = first {
            let there = self.at_ball(ball, &place_first).ok_or(trouble(Cause::NoFoothold, place_first.at))?;
            let begins = kept.iter().position(|(_, s)| past(&there, s)).ok_or(folds)?;
            kept.drain(..begins);
            kept.insert(0, (place_first, there));
        }
        if let Some(ball) = last {
            let there = self.at_ball(ball, &place_last).ok_or(trouble(Cause::NoFoothold, place_last.at))?;
            let ends = kept.iter().rposition(|(_, s)| past(s, &there)).ok_or(folds)?;
            kept.truncate(ends + 1);
            kept.push((place_last, there));
        }
        Ok(())
    }

    /// The part of a strip along sections that go on in each other; its rows.
    fn stretch(
        &mut self,
        number: usize,
        (kept, closed): (&[Put], bool),
        pieces: usize,
        (sag, lead, count): (f64, usize, usize),
        [first, last]: [Option<&Ball>; 2],
    ) -> Vec<Row> {
        let convex = self.spines[number].convex;
        let own = |k: usize| match k {
            k if k == lead => first,
            k if k + 1 == lead + count => last,
            _ => None,
        };
        let off = self.off_between(kept, closed);
        let mut rows: Vec<Row> = Vec::with_capacity(kept.len());
        for (k, (place, station)) in kept.iter().enumerate() {
            let mut row = self.row((station, place.faces), pieces, (sag, off[k]), convex);
            if let Some(ball) = own(k) {
                self.at_corner(&mut row, station, ball, (pieces, off[k]), convex);
            }
            rows.push(row);
        }
        let feet: Vec<[Point; 2]> = kept[lead..lead + count].iter().map(|(_, s)| s.feet).collect();
        self.unfold(&rows, &feet, closed, (lead, [first.is_some(), last.is_some()]));
        // A new face wherever the faces beside it are others.
        let beside: Vec<[FaceId; 2]> = kept.iter().map(|(p, _)| p.faces).collect();
        let mut face = self.face(number);
        let pairs = rows.len() - usize::from(!closed);
        let last_own = if closed || last.is_some() { pairs } else { pairs - 1 };
        for k in 0..pairs {
            if k > 0 && beside.get(k).is_some_and(|f| *f != beside[k - 1]) {
                face = self.face(number);
            }
            let (a, b) = (rows[k].clone(), rows[(k + 1) % rows.len()].clone());
            let is_own = (lead..last_own).contains(&k);
            let face = if is_own { face } else { self.face_beyond(face) };
            self.between(&a, &b, face);
        }
        rows
    }

    /// The section a little beyond where a stretch ends before a bend that is passed over: so far that it has left the body through
    /// what comes after the bend.
    fn beyond_bend(&self, own: &Station, next: &Meeting, (end, convex): (End, bool), width: f64) -> Station {
        /// What comes next leans over it by no more than this, as a sine.
        const LEAST: f64 = 0.05;
        let out = if end == End::First { -1.0 } else { 1.0 };
        let way = own.along * out;
        let sense = if convex { 1.0 } else { -1.0 };
        let leans = next.station.normals.into_iter().filter(|n| n.dot(way) * sense > LEAST);
        let left = |foot: Point| {
            let by = leans.clone().map(|n| (next.station.at - foot).dot(n) / way.dot(n));
            by.fold(f64::INFINITY, f64::min)
        };
        let turn = way.angle_between(next.onward);
        let farthest = own.feet.into_iter().map(left).filter(|by| by.is_finite()).fold(0.0, f64::max);
        let by = (farthest.max(own.reach() * (turn * 0.5).tan()) * 1.2 + width * 0.3).min(width / LEAST);
        let on = |p: Point| p + way * by;
        Station { at: on(own.at), feet: own.feet.map(on), centre: own.centre.map(on), ..*own }
    }

    /// How far what is straight from section to section stands off the faces beside each, mm; a small share of what they reach at most,
    /// since beyond the end of a run its faces may bend away.
    fn off_between(&self, kept: &[(Place, Station)], closed: bool) -> Vec<f64> {
        const MOST: f64 = 0.1;
        let n = kept.len();
        let mut off = vec![0.0f64; n];
        for a in 0..n - usize::from(!closed) {
            let b = (a + 1) % n;
            // The edge from one to the next lies beside the faces of the first.
            let ((place, one), (_, other)) = (&kept[a], &kept[b]);
            for k in 0..2 {
                let stands = |p: Point| self.graph.faces.probe(place.faces[k], p).off.abs();
                let here = stands(one.feet[k].midpoint(other.feet[k])).max(stands(other.feet[k]));
                let here = here.min(one.reach().min(other.reach()) * MOST);
                (off[a], off[b]) = (off[a].max(here), off[b].max(here));
            }
        }
        off
    }

    /// Draws in what goes on beyond the faces where it would run through itself: where the feet go round closely. What of a row lies
    /// within a ball's corner stays.
    fn unfold(&mut self, rows: &[Row], feet: &[[Point; 2]], closed: bool, (first, balls): (usize, [bool; 2])) {
        /// So often by half.
        const HALVINGS: usize = 8;
        let n = feet.len();
        // The innermost points first, then those beyond them where there are any.
        for (k, level) in [(0, 0), (0, 1), (1, 0), (1, 1)] {
            let end = |m: usize| {
                let (row, at_ball) = (&rows[first + m], (m == 0 && balls[0]) || (m + 1 == n && balls[1]));
                let flap = if k == 0 { &row.left } else { &row.right };
                let from_within = if at_ball { flap.len() - 1 } else { level.min(flap.len() - 1) };
                flap[if k == 0 { flap.len() - 1 - from_within } else { from_within }]
            };
            for _ in 0..HALVINGS {
                let mut folded = vec![false; n];
                for a in 0..n - usize::from(!closed) {
                    let b = (a + 1) % n;
                    let [p, q] = [a, b].map(|m| self.points[end(m) as usize]);
                    if (q - p).dot(feet[b][k] - feet[a][k]) <= 0.0 {
                        (folded[a], folded[b]) = (true, true);
                    }
                }
                if !folded.contains(&true) {
                    break;
                }
                for m in (0..n).filter(|m| folded[*m]) {
                    let point = &mut self.points[end(m) as usize];
                    *point = feet[m][k].lerp(*point, 0.5);
                }
            }
        }
    }

    fn between(&mut self, a: &Row, b: &Row, face: FaceId) {
        if a.arc.is_empty() {
            let chain = |r: &Row| [&r.left[..], &r.right[..]].concat();
            self.zip(&chain(a), &chain(b), face);
            return;
        }
        let left = |r: &Row| [&r.left[..], &r.arc[..1]].concat();
        let right = |r: &Row| [&r.arc[r.arc.len() - 1..], &r.right[..]].concat();
        self.zip(&left(a), &left(b), face);
        for k in 1..a.arc.len() {
            self.zip(&a.arc[k - 1..=k], &b.arc[k - 1..=k], face);
        }
        self.zip(&right(a), &right(b), face);
    }

    /// How far the strip goes on straight beyond a face, as height over it, mm: more than the arc stands off its first piece, and than the
    /// triangles stand off the face.
    pub(super) fn height(&self, station: &Station, points: &[Point], sag: f64) -> f64 {
        let piece = points[0].distance(points[1]);
        let arc = station.centre.map_or(piece * 0.02, |c| {
            let radius = station.feet[0].distance(c);
            radius - (radius * radius - piece * piece * 0.25).max(0.0).sqrt()
        });
        (arc * 2.0).max(sag * ENOUGH)
    }

    /// Where a section goes on beyond a face, from the outermost point inwards: straight along its last piece, and where that is less
    /// than things stand off the face there, steeply on from it.
    pub(super) fn flap(
        &self,
        (station, faces): (&Station, [FaceId; 2]),
        [foot, inner]: [Point; 2],
        k: usize,
        (height, off): (f64, f64),
        convex: bool,
    ) -> Vec<Point> {
        let out = if convex { 1.0 } else { -1.0 };
        let way = (foot - inner).normalize_or_zero();
        let rise = (way.dot(station.normals[k]) * out).max(1e-3);
        let straight = foot + way * (height / rise);
        // Where the face bends away from it, after it.
        let up = |p: Point, height: f64| {
            let there = self.graph.faces.probe(faces[k], p);
            p + there.normal * (out * (height - there.off * out).max(0.0))
        };
        let near = up(straight, height);
        if off * ENOUGH <= height { vec![near] } else { vec![up(near, off * ENOUGH), near] }
    }

    /// How far from its edge a section has passed through both faces, however their triangles stand off them, mm.
    fn width(&self, (place, station): &(Place, Station), pieces: usize, sag: f64, convex: bool) -> f64 {
        let points = station.points(pieces);
        let (far, n) = ((self.height(station, &points, sag), 0.0), points.len() - 1);
        let flap = |ends: [Point; 2], k: usize| self.flap((station, place.faces), ends, k, far, convex)[0];
        let ends = [flap([points[0], points[1]], 0), flap([points[n], points[n - 1]], 1)];
        ends.into_iter().map(|p| p.distance(place.at)).fold(station.reach(), f64::max)
    }

    /// The points of a section, where triangles stand off the faces, and these off the straight, by so much.
    fn row(
        &mut self,
        (station, faces): (&Station, [FaceId; 2]),
        pieces: usize,
        (sag, off): (f64, f64),
        convex: bool,
    ) -> Row {
        let points = station.points(pieces);
        let far = (self.height(station, &points, sag), sag + off);
        let n = points.len() - 1;
        let left = self.flap((station, faces), [points[0], points[1]], 0, far, convex);
        let mut right = self.flap((station, faces), [points[n], points[n - 1]], 1, far, convex);
        right.reverse();
        let mut put = |points: &[Point]| points.iter().map(|p| self.put(*p)).collect();
        Row { left: put(&left), arc: put(&points[1..n]), right: put(&right) }
    }
}
