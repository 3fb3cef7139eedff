//! The sheet that parts what goes or comes at edges from the rest of the body.
//!
//! Along each run the sections are stitched to a strip that goes on a little beyond both faces, straight along its first and last
//! pieces: so it passes through the faces just where the sections touch them, and nothing of it lies on them. Where three runs
//! meet round one ball, their strips end at its three feet and a patch of the ball lies between; the planes of two strips that
//! pass through a face at one foot cross there in a line, and both have a point of it on either side of the face. Where a run
//! ends otherwise it goes on straight, and where the material (or the space) beside the edge goes on beyond the end, too, a cap is
//! put there along the edges that end at the same point.

mod ball;
mod ends;
mod tip;

use std::collections::BTreeMap;

use nimbet_kernel::inside::Inside;
use nimbet_kernel::{Bvh, FaceId, Mesh, Point, UnionFind};

use self::ball::{Ball, past};
use self::ends::{Splits, divided};
use crate::carve::EdgeError;
use crate::graph::Graph;
use crate::plan::{Cause, Planner, Spine, Trouble};
use crate::station::{Place, Section, Station};

/// The sheet, and what of the body had to be divided for it.
#[derive(Debug)]
pub struct Parting {
    /// The sheet.
    pub sheet: Mesh,
    /// The body, with points on edges where caps end.
    pub body: Mesh,
    /// For each face of the sheet that is a cap, the face of the body it goes on in.
    pub caps: Vec<(FaceId, Option<FaceId>)>,
    /// For each run the group of those that bound their spaces together.
    pub group_of: Vec<u32>,
    /// For each face of the sheet the group it bounds.
    pub bounds: Vec<u32>,
    /// For each face of the sheet the run it is along.
    pub run_of: Vec<usize>,
}

/// Whether a run ends where it begins or where it ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum End {
    First,
    Last,
}

impl Spine {
    /// The place and the section at an end, and the way out of the run there.
    fn at(&self, end: End) -> (Place, Station, Point) {
        let n = match end {
            End::First => 0,
            End::Last => self.places.len() - 1,
        };
        let out = if end == End::First { -1.0 } else { 1.0 };
        (self.places[n], self.stations[n], self.places[n].along * out)
    }

    fn section(&self, end: End) -> Section {
        self.wanted.at(if end == End::First { 0.0 } else { 1.0 })
    }
}

/// The points of a section in the sheet, from beyond the left face to beyond the right one.
#[derive(Clone, Debug)]
struct Row {
    /// Beyond the left face, and on a ball's corner just within it.
    left: Vec<u32>,
    /// Between the faces.
    arc: Vec<u32>,
    /// On a ball's corner just within the right face, and beyond it.
    right: Vec<u32>,
}

struct Builder<'a> {
    graph: &'a Graph<'a>,
    spines: &'a [Spine],
    chord: f64,
    points: Vec<Point>,
    triangles: Vec<[u32; 3]>,
    faces: Vec<FaceId>,
    /// For each face a run it bounds.
    run_of_face: Vec<usize>,
}

/// A piece of an arc turns by no more than this, radians: 20 degrees.
const COARSEST: f64 = 0.35;
/// A sheet has no more triangles than this.
const MOST_TRIANGLES: f64 = 4e6;
/// Strips reach so many times as far beyond a face as things stand off it.
const ENOUGH: f64 = 1.5;
/// Sections have no more pieces than this.
const MOST_PIECES: usize = 256;

/// The sheet for some runs of a body whose triangles are in the boxes.
pub fn parting(planner: &Planner<'_>, spines: &[Spine], bvh: &Bvh) -> Result<Parting, EdgeError> {
    let graph = planner.graph;
    let mut builder = Builder {
        graph,
        spines,
        chord: planner.chord,
        points: vec![],
        triangles: vec![],
        faces: vec![],
        run_of_face: vec![],
    };
    let mut ends_at: BTreeMap<u32, Vec<(usize, End)>> = BTreeMap::new();
    for (n, spine) in spines.iter().enumerate().filter(|(_, s)| !s.closed) {
        for ends in [Some(spine.ends), spine.second.map(|s| s.1)].into_iter().flatten() {
            ends_at.entry(ends[0]).or_default().push((n, End::First));
            ends_at.entry(ends[1]).or_default().push((n, End::Last));
        }
    }
    let balls: Vec<Ball> = ends_at.iter().filter_map(|(v, ends)| builder.ball(*v, ends)).collect();
    let pieces = builder.pieces(&balls);
    let count = spines.iter().zip(&pieces).map(|(s, p)| (s.stations.len() + 2) as f64 * (*p as f64 + 2.0) * 2.0);
    let count =
        count.sum::<f64>() + balls.len() as f64 * 3.0 * pieces.iter().map(|p| (p * p) as f64).fold(0.0, f64::max);
    if count > MOST_TRIANGLES {
        return Err(EdgeError::TooFine(count));
    }
    // The rows of each run, the last before the first where it is closed.
    let mut rows: Vec<Vec<Row>> = Vec::with_capacity(spines.len());
    for (n, count) in pieces.iter().enumerate() {
        let at = |end: End| balls.iter().find(|b| b.runs.contains(&(n, end)));
        planner.progress.check()?;
        let strip = builder.strip(n, *count, [at(End::First), at(End::Last)], &ends_at);
        rows.push(strip.map_err(EdgeError::Trouble)?);
    }
    for ball in &balls {
        builder.patch(ball, &rows);
    }
    let mut splits = Splits::new();
    let mut caps = Vec::new();
    let within = Inside::new(graph.mesh, bvh);
    for (v, ends) in &ends_at {
        for (n, end) in ends {
            let in_ball = balls.iter().any(|b| b.runs.contains(&(*n, *end)));
            // Two of one sense that meet go on through each other, but for what of one reaches higher.
            let mut mates = ends.iter().filter(|(m, e)| (m, e) != (n, end) && spines[*m].convex == spines[*n].convex);
            let mate = mates.next().is_some_and(|mate| !builder.is_higher((*n, *end), *mate, *v));
            let open = graph.border.contains_key(v);
            // A strip with two runs has one cap for both.
            let own = spines[*n].ends.contains(v);
            if own && !in_ball && !mate && (open || builder.goes_on(*n, *end, *v, (&within, planner.precise))) {
                let passed = builder.passed(*n, *end, &rows[*n]);
                caps.extend(builder.cap((*n, *end, passed), *v, &mut splits));
            }
        }
    }
    let body = divided(graph.mesh, splits)?;
    // Runs that end at one ball are one, and those that go on through each other where an edge of the other sense ends, too: what lies
    // under both is theirs there.
    let mut together = UnionFind::new(spines.len());
    for ball in &balls {
        ball.runs.windows(2).for_each(|pair| {
            together.union(pair[0].0 as u32, pair[1].0 as u32);
        });
    }
    for (v, ends) in &ends_at {
        let mixed = graph.at[v].iter().any(|e| graph.edges[*e as usize].convex != spines[ends[0].0].convex);
        for pair in ends.windows(2).filter(|_| mixed) {
            together.union(pair[0].0 as u32, pair[1].0 as u32);
        }
    }
    let group_of = together.number_sets().0;
    let bounds = builder.run_of_face.iter().map(|run| group_of[*run]).collect();
    let sheet = Mesh::new(builder.points, builder.triangles, builder.faces)?;
    Ok(Parting { sheet, body, caps, group_of, bounds, run_of: builder.run_of_face })
}

impl Builder<'_> {
    fn put(&mut self, p: Point) -> u32 {
        self.points.push(p);
        self.points.len() as u32 - 1
    }

    fn face(&mut self, run: usize) -> FaceId {
        self.run_of_face.push(run);
        FaceId(self.run_of_face.len() as u32 - 1)
    }

    fn triangle(&mut self, corners: [u32; 3], face: FaceId) {
        let [a, b, c] = corners;
        if a != b && b != c && c != a {
            self.triangles.push(corners);
            self.faces.push(face);
        }
    }

    /// Triangles between two chains of points, by the shorter way across each time.
    fn zip(&mut self, a: &[u32], b: &[u32], face: FaceId) {
        let (mut i, mut j) = (0, 0);
        while i + 1 < a.len() || j + 1 < b.len() {
            let across = |p: u32, q: u32| self.points[p as usize].distance_squared(self.points[q as usize]);
            let on_a = match (a.get(i + 1), b.get(j + 1)) {
                (Some(p), Some(q)) => across(*p, b[j]) <= across(a[i], *q),
                (p, _) => p.is_some(),
            };
            if on_a {
                self.triangle([a[i], a[i + 1], b[j]], face);
                i += 1;
            } else {
                self.triangle([a[i], b[j + 1], b[j]], face);
                j += 1;
            }
        }
    }

    /// Into how many pieces the sections of each run are divided: those that meet round a ball alike.
    fn pieces(&self, balls: &[Ball]) -> Vec<usize> {
        let count = |spine: &Spine| {
            let widest = |s: &Station| match s.centre {
                Some(centre) => {
                    let radius = s.feet[0].distance(centre);
                    let turn = 2.0 * (1.0 - (self.chord / radius).min(0.5)).acos();
                    // So that it is known for what it is, however coarse.
                    ((s.span() / turn.min(COARSEST)).ceil() as usize).clamp(2, MOST_PIECES)
                }
                None => 1,
            };
            let most = spine.stations.iter().map(widest).max().unwrap_or(1);
            // Under a face that vanishes lies the middle of a piece.
            if spine.second.is_some() { (most | 1).max(3) } else { most }
        };
        let mut pieces: Vec<usize> = self.spines.iter().map(count).collect();
        // Runs hang together by balls; a few rounds carry the most along.
        loop {
            let mut changed = false;
            for ball in balls {
                let most = ball.runs.iter().map(|(n, _)| pieces[*n]).max().unwrap_or(1);
                for (n, _) in &ball.runs {
                    changed |= std::mem::replace(&mut pieces[*n], most) != most;
                }
            }
            if !changed {
                return pieces;
            }
        }
    }

    /// The strip of a run; its rows.
    fn strip(
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
        let trouble = |cause, at| Trouble { run: spine.wanted.run, cause, at };
        let mut kept: Vec<(Place, Station)> =
            spine.places.iter().copied().zip(spine.stations.iter().copied()).collect();
        let [first, last] = balls;
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
        let sag = spine.runs().map(|run| self.graph.sag(&self.graph.runs[run as usize])).fold(0.0, f64::max);
        let lead = usize::from(!spine.closed && first.is_none());
        let count = kept.len();
        let own = |k: usize| match k {
            k if k == lead => first,
            k if k + 1 == lead + count => last,
            _ => None,
        };
        if lead > 0 {
            let width = self.width(&kept[0], pieces, sag, spine.convex);
            kept.insert(0, (place_first, self.beyond((spine, End::First), width, ends_at)));
        }
        if !spine.closed && last.is_none() {
            let width = self.width(&kept[kept.len() - 1], pieces, sag, spine.convex);
            kept.push((place_last, self.beyond((spine, End::Last), width, ends_at)));
        }
        let off = self.off_between(&kept, spine.closed);
        let mut rows: Vec<Row> = Vec::with_capacity(kept.len());
        for (k, (place, station)) in kept.iter().enumerate() {
            let mut row = self.row((station, place.faces), pieces, (sag, off[k]), spine.convex);
            if let Some(ball) = own(k) {
                self.at_corner(&mut row, station, ball, (pieces, off[k]), spine.convex);
            }
            rows.push(row);
        }
        let feet: Vec<[Point; 2]> = kept[lead..lead + count].iter().map(|(_, s)| s.feet).collect();
        self.unfold(&rows, &feet, spine.closed, (lead, [first.is_some(), last.is_some()]));
        // A new face wherever the faces beside it are others.
        let beside: Vec<[FaceId; 2]> = kept.iter().map(|(p, _)| p.faces).collect();
        let mut face = self.face(number);
        for k in 0..rows.len() - usize::from(!spine.closed) {
            if k > 0 && beside.get(k).is_some_and(|f| *f != beside[k - 1]) {
                face = self.face(number);
            }
            let (a, b) = (rows[k].clone(), rows[(k + 1) % rows.len()].clone());
            self.between(&a, &b, face);
        }
        Ok(rows)
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
    fn height(&self, station: &Station, points: &[Point], sag: f64) -> f64 {
        let piece = points[0].distance(points[1]);
        let arc = station.centre.map_or(piece * 0.02, |c| {
            let radius = station.feet[0].distance(c);
            radius - (radius * radius - piece * piece * 0.25).max(0.0).sqrt()
        });
        (arc * 2.0).max(sag * ENOUGH)
    }

    /// Where a section goes on beyond a face, from the outermost point inwards: straight along its last piece, and where that is less
    /// than things stand off the face there, steeply on from it.
    fn flap(
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
