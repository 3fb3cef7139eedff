//! The sheet that parts what goes or comes at edges from the rest of the body.
//!
//! Along each run the sections are stitched to a strip that goes on a little beyond both faces, straight along its first and last
//! pieces: so it passes through the faces just where the sections touch them, and nothing of it lies on them. Where three runs
//! meet round one ball, their strips end at its three feet and a patch of the ball lies between; the planes of two strips that
//! pass through a face at one foot cross there in a line, and both have a point of it on either side of the face. Where a run
//! ends otherwise it goes on straight, and where the material (or the space) beside the edge goes on beyond the end, too, a cap is
//! put there along the edges that end at the same point.

use std::collections::BTreeMap;

use nimbet_kernel::inside::Inside;
use nimbet_kernel::{Bvh, FaceId, Mesh, MeshError, Point, UnionFind};

use crate::carve::EdgeError;
use crate::forms::Probe;
use crate::graph::Graph;
use crate::plan::{Cause, Planner, Spine, Trouble};
use crate::station::{Place, Section, Station, slerp, station};

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

/// A ball that touches all faces at a point where three runs or more end.
struct Ball {
    centre: Point,
    /// The runs, and which end of each.
    runs: Vec<(usize, End)>,
    /// The faces, each with where the ball touches it and the normal there.
    feet: Vec<(FaceId, Point, Point)>,
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
/// Where a cap passes through a face it ends beyond it by this share of its length along the other.
const DIP: f64 = 0.25;
/// What closes a run leans over it by no more than this, as the cosine to its section.
const LEAST_SLANT: f64 = 0.05;
/// A sheet has no more triangles than this.
const MOST_TRIANGLES: f64 = 4e6;
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
        ends_at.entry(spine.ends[0]).or_default().push((n, End::First));
        ends_at.entry(spine.ends[1]).or_default().push((n, End::Last));
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
            // Two of one sense that meet go on through each other.
            let mate = ends.iter().any(|(m, e)| (m, e) != (n, end) && spines[*m].convex == spines[*n].convex);
            let open = graph.border.contains_key(v);
            if !in_ball && !mate && (open || builder.goes_on(*n, *end, *v, (&within, planner.precise))) {
                caps.extend(builder.cap(*n, *end, *v, &mut splits));
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
    Ok(Parting { sheet, body, caps, group_of, bounds })
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
            spine.stations.iter().map(widest).max().unwrap_or(1)
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

    /// The ball at a point where runs of one sense and radius end, and nothing else does, if it touches all faces there.
    fn ball(&self, v: u32, ends: &[(usize, End)]) -> Option<Ball> {
        let section = |(n, end): (usize, End)| self.spines[n].section(end);
        let Section::Round { radius } = section(*ends.first()?) else { return None };
        let convex = self.spines[ends[0].0].convex;
        let same = |e: &(usize, End)| {
            matches!(section(*e), Section::Round { radius: r } if (r / radius - 1.0).abs() < 1e-9)
                && self.spines[e.0].convex == convex
        };
        if ends.len() < 3 || ends.len() != self.graph.at[&v].len() || !ends.iter().all(same) {
            return None;
        }
        let mut faces: Vec<FaceId> = ends.iter().flat_map(|(n, end)| self.spines[*n].at(*end).0.faces).collect();
        faces.sort_unstable_by_key(|f| f.0);
        faces.dedup();
        if faces.len() != ends.len() {
            return None;
        }
        let off = if convex { -radius } else { radius };
        let exact = faces.iter().all(|face| self.graph.faces.is_exact(*face));
        let enough = radius * if exact { 1e-9 } else { 1e-3 };
        let enough = enough.max(self.graph.place(v).abs().max_element() * f64::EPSILON * 64.0);
        let mut centre = self.graph.place(v);
        for _ in 0..40 {
            let probes: Vec<Probe> = faces.iter().map(|face| self.graph.faces.probe(*face, centre)).collect();
            if probes.iter().all(|p| (p.off - off).abs() <= enough) {
                let feet = faces.iter().zip(probes);
                let feet = feet.map(|(face, p)| (*face, centre - p.normal * p.off, p.normal)).collect();
                return Some(Ball { centre, runs: ends.to_vec(), feet });
            }
            // The least squares of what is wrong with all of them.
            let mut slopes = glam::DMat3::ZERO;
            let mut wrong = Point::ZERO;
            for p in &probes {
                let n = p.normal;
                slopes += glam::DMat3::from_cols(n * n.x, n * n.y, n * n.z);
                wrong += n * (p.off - off);
            }
            if slopes.determinant().abs() < 1e-9 {
                return None;
            }
            centre -= (slopes.inverse() * wrong).clamp_length_max(radius * 4.0);
        }
        None
    }

    /// The section of a run at a ball.
    fn at_ball(&self, ball: &Ball, place: &Place) -> Option<Station> {
        let foot = |face: FaceId| ball.feet.iter().find(|f| f.0 == face);
        let (left, right) = (foot(place.faces[0])?, foot(place.faces[1])?);
        let across = (left.1 - ball.centre).cross(right.1 - ball.centre);
        let along = across.try_normalize()?;
        let along = if along.dot(place.along) < 0.0 { -along } else { along };
        Some(Station {
            at: place.at,
            along,
            feet: [left.1, right.1],
            normals: [left.2, right.2],
            centre: Some(ball.centre),
        })
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
        let run = &self.graph.runs[spine.wanted.run as usize];
        let sag = self.graph.sag(run);
        let mut rows: Vec<Row> = Vec::with_capacity(kept.len() + 2);
        if !spine.closed && first.is_none() {
            let beyond = self.beyond(spine, End::First, ends_at);
            rows.push(self.row((&beyond, place_first.faces), pieces, sag, spine.convex));
        }
        let count = kept.len();
        for (k, (place, station)) in kept.iter().enumerate() {
            let ball = match k {
                0 => first,
                k if k + 1 == count => last,
                _ => None,
            };
            let mut row = self.row((station, place.faces), pieces, sag, spine.convex);
            if let Some(ball) = ball {
                self.at_corner(&mut row, station, ball, pieces, spine.convex);
            }
            rows.push(row);
        }
        if !spine.closed && last.is_none() {
            let beyond = self.beyond(spine, End::Last, ends_at);
            rows.push(self.row((&beyond, place_last.faces), pieces, sag, spine.convex));
        }
        let feet: Vec<[Point; 2]> = kept.iter().map(|(_, s)| s.feet).collect();
        self.unfold(&rows, &feet, spine.closed, usize::from(!spine.closed && first.is_none()));
        // A new face wherever the faces beside it are others.
        let mut beside: Vec<[FaceId; 2]> = kept.iter().map(|(p, _)| p.faces).collect();
        if !spine.closed && first.is_none() {
            beside.insert(0, beside[0]);
        }
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

    /// Draws in what goes on beyond the faces where it would run through itself: where the feet go round closely.
    fn unfold(&mut self, rows: &[Row], feet: &[[Point; 2]], closed: bool, first: usize) {
        /// So often by half.
        const HALVINGS: usize = 8;
        let n = feet.len();
        for k in [0usize, 1] {
            let end = |row: &Row| if k == 0 { row.left[0] } else { row.right[row.right.len() - 1] };
            for _ in 0..HALVINGS {
                let mut folded = vec![false; n];
                for a in 0..n - usize::from(!closed) {
                    let b = (a + 1) % n;
                    let [p, q] = [a, b].map(|m| self.points[end(&rows[first + m]) as usize]);
                    if (q - p).dot(feet[b][k] - feet[a][k]) <= 0.0 {
                        (folded[a], folded[b]) = (true, true);
                    }
                }
                if !folded.contains(&true) {
                    break;
                }
                for m in (0..n).filter(|m| folded[*m]) {
                    let point = &mut self.points[end(&rows[first + m]) as usize];
                    *point = feet[m][k].lerp(*point, 0.5);
                }
            }
        }
    }

    fn between(&mut self, a: &Row, b: &Row, face: FaceId) {
        if a.arc.is_empty() {
            let chain = |r: &Row| [r.left[0], r.right[0]];
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

    /// How far the strip goes on beyond a face, as height over it, mm.
    fn height(&self, station: &Station, points: &[Point], sag: f64) -> f64 {
        // Higher than the arc stands off its first piece, and than the triangles stand off the face.
        let piece = points[0].distance(points[1]);
        let arc = station.centre.map_or(piece * 0.02, |c| {
            let radius = station.feet[0].distance(c);
            radius - (radius * radius - piece * piece * 0.25).max(0.0).sqrt()
        });
        (arc * 2.0).max(sag * 1.5)
    }

    /// The points of a section.
    fn row(&mut self, (station, faces): (&Station, [FaceId; 2]), pieces: usize, sag: f64, convex: bool) -> Row {
        let points = station.points(pieces);
        let height = self.height(station, &points, sag);
        let out = if convex { 1.0 } else { -1.0 };
        let flap = |foot: Point, inner: Point, k: usize| {
            let way = (foot - inner).normalize_or_zero();
            let rise = (way.dot(station.normals[k]) * out).max(1e-3);
            let straight = foot + way * (height / rise);
            // Where the face bends away from it, after it.
            let there = self.graph.faces.probe(faces[k], straight);
            straight + there.normal * (out * (height - there.off * out).max(0.0))
        };
        let n = points.len() - 1;
        let left = flap(points[0], points[1], 0);
        let right = flap(points[n], points[n - 1], 1);
        Row {
            left: vec![self.put(left)],
            arc: points[1..n].iter().map(|p| self.put(*p)).collect(),
            right: vec![self.put(right)],
        }
    }

    /// Brings a row at a ball to the points it shares with the other two there.
    fn at_corner(&mut self, row: &mut Row, station: &Station, ball: &Ball, pieces: usize, convex: bool) {
        let corner = |k: usize, builder: &Self| builder.corner_points(ball, station, k, pieces, convex);
        let (left, right) = (corner(0, self), corner(1, self));
        if let Some([beyond, within]) = left {
            self.points[row.left[0] as usize] = beyond;
            let within = self.put(within);
            row.left = vec![row.left[0], within];
        }
        if let Some([beyond, within]) = right {
            self.points[row.right[0] as usize] = beyond;
            let within = self.put(within);
            row.right = vec![within, row.right[0]];
        }
    }

    /// Where the strips of two runs that touch a face at one foot of a ball cross: beyond the face, and on the ball within it.
    fn corner_points(&self, ball: &Ball, own: &Station, k: usize, pieces: usize, convex: bool) -> Option<[Point; 2]> {
        let foot = own.feet[k];
        let normal = own.normals[k];
        // The planes of both strips there: along the run, and along the first piece of the section.
        let mut across = Vec::with_capacity(2);
        for &(n, end) in &ball.runs {
            let there = self.at_ball(ball, &self.spines[n].at(end).0)?;
            let side = (0..2).find(|s| there.feet[*s] == foot);
            let Some(side) = side else { continue };
            let points = there.points(pieces);
            let inner = if side == 0 { points[1] } else { points[pieces - 1] };
            across.push((inner - foot).cross(there.along).try_normalize()?);
        }
        let [a, b] = across[..] else { return None };
        let line = a.cross(b).try_normalize()?;
        let out = if convex { normal } else { -normal };
        let line = if line.dot(out) < 0.0 { -line } else { line };
        let points = own.points(pieces);
        let sag = ball.feet.iter().map(|f| self.graph.faces.sag(f.0)).fold(0.0, f64::max);
        let height = self.height(own, &points, sag);
        let beyond = foot + line * (height / line.dot(out).max(1e-3));
        let within = foot - line * (2.0 * line.dot(foot - ball.centre));
        Some([beyond, within])
    }

    /// The patch of a ball between the strips that end at it.
    fn patch(&mut self, ball: &Ball, rows: &[Vec<Row>]) {
        // The arcs from face to face, each with the points just within the faces.
        let mut arcs: Vec<([FaceId; 2], Vec<u32>)> = Vec::new();
        let mut own: Vec<(FaceId, u32, u32)> = Vec::new();
        for &(n, end) in &ball.runs {
            let place = self.spines[n].at(end).0;
            let row = if end == End::First { &rows[n][0] } else { &rows[n][rows[n].len() - 1] };
            let ([out, within], [inner, beyond]) = (&row.left[..], &row.right[..]) else { return };
            own.extend([(place.faces[0], *within, *out), (place.faces[1], *inner, *beyond)]);
            arcs.push((place.faces, row.arc.clone()));
        }
        // Rows of two runs have points of their own there, at the same places: those are one.
        for (face, within, beyond) in &own {
            // Where one had to be drawn in, so is the other.
            let same = || own.iter().filter(|o| o.0 == *face);
            let off = |o: &&(FaceId, u32, u32)| self.points[o.1 as usize].distance(self.points[o.2 as usize]);
            if let (Some(first), Some(least)) = (same().next(), same().min_by(|a, b| off(a).total_cmp(&off(b)))) {
                self.points[*within as usize] = self.points[first.1 as usize];
                self.points[*beyond as usize] = self.points[least.2 as usize];
            }
        }
        let radius = ball.feet[0].1.distance(ball.centre);
        let middle = ball.feet.iter().map(|f| (f.1 - ball.centre) / radius).sum::<Point>();
        let middle = ball.centre + middle.normalize_or_zero() * radius;
        let top = self.put(middle);
        // From the middle to just within each foot.
        let count = arcs[0].1.len() + 1;
        let mut rays: Vec<(FaceId, Vec<u32>)> = Vec::new();
        for (face, _, _) in &ball.feet {
            let Some(end) = own.iter().find(|o| o.0 == *face).map(|o| o.1) else { return };
            let foot = self.points[end as usize];
            let ray = (0..=count).map(|l| match l {
                0 => top,
                l if l == count => end,
                l => self.put(slerp(ball.centre, middle, foot, l as f64 / count as f64)),
            });
            rays.push((*face, ray.collect()));
        }
        let face = self.face(ball.runs[0].0);
        for (faces, arc) in &arcs {
            let ray = |f: FaceId| rays.iter().find(|r| r.0 == f).map(|r| &r.1);
            let (Some(left), Some(right)) = (ray(faces[0]), ray(faces[1])) else { return };
            let (left, right) = (left.clone(), right.clone());
            self.sector(ball.centre, (&left, &right), arc, face);
        }
    }

    /// The part of a ball between two rays from one point and the arc between their ends.
    fn sector(&mut self, centre: Point, (left, right): (&[u32], &[u32]), arc: &[u32], face: FaceId) {
        let n = left.len() - 1;
        let mut level = vec![left[0]];
        for l in 1..=n {
            let (p, q) = (self.points[left[l] as usize], self.points[right[l] as usize]);
            let between = (1..l).map(|m| match l {
                l if l == n => arc[m - 1],
                _ => self.put(slerp(centre, p, q, m as f64 / l as f64)),
            });
            let between: Vec<u32> = between.collect();
            let next = [&left[l..=l], &between[..], &right[l..=l]].concat();
            for m in 0..level.len() {
                self.triangle([level[m], next[m], next[m + 1]], face);
                if m + 1 < level.len() {
                    self.triangle([level[m], next[m + 1], level[m + 1]], face);
                }
            }
            level = next;
        }
    }

    /// The section of a run a little beyond one of its ends: so far that whatever closes it there is passed.
    fn beyond(&self, spine: &Spine, end: End, ends_at: &BTreeMap<u32, Vec<(usize, End)>>) -> Station {
        let (place, own, way) = spine.at(end);
        let v = spine.ends[usize::from(end == End::Last)];
        let reach = own.reach();
        // The other faces there lean, and other runs of the same sense cross this one farther on the more sharply it turns.
        let lean = |normal: Point| {
            let along = normal.dot(way).abs();
            (1.0 - along * along).max(0.0).sqrt() / along.max(1e-9)
        };
        let mut longest: f64 = 0.25;
        for e in &self.graph.at[&v] {
            for face in self.graph.beside((*e, true)).into_iter().filter(|f| !place.faces.contains(f)) {
                longest = longest.max(lean(self.graph.faces.probe(face, place.at).normal) * 1.1 + 0.25);
            }
        }
        for (n, e) in &ends_at[&v] {
            let other = &self.spines[*n];
            if std::ptr::eq(other, spine) && *e == end {
                continue;
            }
            let turn = way.angle_between(-other.at(*e).2);
            longest = longest.max((turn * 0.5).tan() * 1.3 + 0.25);
        }
        let by = reach * longest.min(1.2 / LEAST_SLANT);
        let section = spine.section(end);
        let on = Place { at: place.at + way * by, ..place };
        let moved = Station {
            at: on.at,
            feet: own.feet.map(|f| f + way * by),
            centre: own.centre.map(|c| c + way * by),
            ..own
        };
        let plain = |s: &Station| s.feet.iter().zip(moved.feet).all(|(a, b)| a.distance(b) < reach);
        station(&self.graph.faces, &on, section).filter(plain).unwrap_or(moved)
    }

    /// Whether what lies beside an edge goes on beyond its end: material of a convex one, space of a concave one.
    fn goes_on(&self, n: usize, end: End, v: u32, (inside, precise): (&Inside<'_>, f64)) -> bool {
        let spine = &self.spines[n];
        let (place, own, way) = spine.at(end);
        let used = &self.graph.runs[spine.wanted.run as usize].edges;
        let used = if end == End::First { used[0].0 } else { used[used.len() - 1].0 };
        let others: Vec<u32> = self.graph.at[&v].iter().copied().filter(|e| *e != used).collect();
        if let [a, b] = others[..] {
            // With one other face there, that face either lies across what goes, or it is on the far side of it.
            let across = |e: u32| {
                let [p, q] = self.graph.edges[e as usize].ends;
                let to = if p == v { q } else { p };
                let k = usize::from(!self.graph.beside((e, true)).contains(&place.faces[0]));
                (self.graph.place(to) - place.at).dot(own.feet[k] - place.at) > 0.0
            };
            let same = |e: u32| self.graph.edges[e as usize].convex == spine.convex;
            return !(across(a) && across(b) && same(a) && same(b));
        }
        let shortest = self.graph.at[&v].iter().map(|e| {
            let [a, b] = self.graph.edges[*e as usize].ends;
            self.graph.place(a).distance(self.graph.place(b))
        });
        let step = shortest.fold(own.reach(), f64::min).max(precise * 1e3) * 0.01;
        let normals = place.faces.map(|f| self.graph.faces.probe(f, place.at).normal);
        let middle = (normals[0] + normals[1]).normalize_or_zero() * if spine.convex { -1.0 } else { 1.0 };
        let p = place.at + (way + middle * 0.05) * step;
        inside.holds(p) == spine.convex
    }

    /// The next point along the border of a face after one, coming from another, with the face on the other side, if there is one.
    /// Where it branches there is none, unless `any` will do.
    fn along_face(&self, face: FaceId, from: u32, came: u32, any: bool) -> Option<(u32, Option<FaceId>)> {
        let sharp = self.graph.at.get(&from).into_iter().flatten().filter_map(|e| {
            let beside = self.graph.beside((*e, true));
            let [a, b] = self.graph.edges[*e as usize].ends;
            let to = if a == from { b } else { a };
            beside.contains(&face).then(|| (to, beside.into_iter().find(|f| *f != face)))
        });
        let open = self.graph.border.get(&from).into_iter().flatten();
        let open = open.filter(|(_, f)| *f == face).map(|(to, _)| (*to, None));
        let mut on = sharp.chain(open).filter(|(to, _)| *to != came);
        on.next().filter(|_| any || on.next().is_none())
    }

    /// A cap at the end of a run, along the edges on both sides of it; its face, and that of the body it goes on in.
    fn cap(&mut self, n: usize, end: End, v: u32, splits: &mut Splits) -> Option<(FaceId, Option<FaceId>)> {
        let spine = &self.spines[n];
        let run = &self.graph.runs[spine.wanted.run as usize];
        let (place, own, _) = spine.at(end);
        let last = if end == End::First { run.edges[0] } else { run.edges[run.edges.len() - 1] };
        // What the triangles may stand off the faces.
        let slack = self.graph.sag(run) * 2.0;
        let mut chains: [Vec<Point>; 2] = Default::default();
        let mut others: [Option<FaceId>; 2] = [None; 2];
        // Along each face as far as the cap has to go; and whether that is across the face, not along its border.
        let mut ways = [Point::ZERO; 2];
        let mut across = [false; 2];
        let here: Vec<u32> = self.graph.at[&v].iter().copied().filter(|e| *e != last.0).collect();
        // Where the edge just goes on the cap stands square to it.
        let goes_on = matches!(here[..], [only] if self.graph.run_of[only as usize] != spine.wanted.run
            && self.graph.edges[only as usize].convex == spine.convex);
        for k in 0..2 {
            let face = place.faces[k];
            if goes_on {
                let foot = own.feet[k] - place.at;
                ways[k] = foot * 1.3 + foot.normalize_or_zero() * slack;
                across[k] = true;
                continue;
            }
            let into = (own.feet[k] - place.at).normalize_or_zero();
            let mut from = v;
            let mut used =
                if self.graph.ends(last)[0] == v { self.graph.ends(last)[1] } else { self.graph.ends(last)[0] };
            let (mut gone, mut needed) = (0.0, own.reach() * 1.5);
            // Along the border of the face, from the end of the run on.
            while gone < needed {
                let Some((to, beside)) = self.along_face(face, from, used, from == v) else { break };
                let way = self.graph.place(to) - self.graph.place(from);
                if from == v {
                    let slant = way.normalize_or_zero().dot(into);
                    needed = (own.feet[k].distance(place.at) * 1.3 + slack) / slant.abs().max(LEAST_SLANT);
                    others[k] = beside;
                    ways[k] = way.normalize_or_zero() * slant.signum() * needed;
                    if slant < 0.0 {
                        across[k] = true;
                        break;
                    }
                }
                let length = way.length();
                if gone + length > needed * 1.2 {
                    let at = self.graph.place(from) + way * ((needed - gone) / length);
                    splits.entry([from.min(to), from.max(to)]).or_default().push(at);
                    chains[k].push(at);
                    gone = needed;
                } else {
                    chains[k].push(self.graph.place(to));
                    gone += length;
                }
                (used, from) = (from, to);
            }
        }
        for k in (0..2).filter(|k| across[*k]) {
            // What closes it goes on through the face there, and so does the cap, in its plane.
            let back = ways[1 - k] * DIP + ways[1 - k].normalize_or_zero() * slack;
            chains[k].push(place.at + ways[k] * 2.0 + ways[k].normalize_or_zero() * slack - back);
        }
        if chains.iter().any(Vec::is_empty) {
            return None;
        }
        let face = self.face(n);
        let corner = self.put(self.graph.place(v));
        let [a, b] = chains.map(|c| {
            let points: Vec<u32> = c.into_iter().map(|p| self.put(p)).collect();
            [&[corner], &points[..]].concat()
        });
        self.zip(&a, &b, face);
        let same = others[0].filter(|f| others[1] == Some(*f));
        Some((face, same))
    }
}

/// Whether a section lies ahead of another, all of it.
fn past(from: &Station, to: &Station) -> bool {
    let ahead = |p: Point, q: Point| (q - p).dot(from.along) > 1e-9 * from.reach();
    let centres = from.centre.zip(to.centre).is_none_or(|(p, q)| ahead(p, q));
    centres && ahead(from.feet[0], to.feet[0]) && ahead(from.feet[1], to.feet[1])
}

/// Points that come onto edges, by the ends of these, the lower first.
type Splits = BTreeMap<[u32; 2], Vec<Point>>;

/// A mesh with points on edges.
fn divided(mesh: &Mesh, splits: Splits) -> Result<Mesh, MeshError> {
    let (mut points, mut triangles, mut faces) = mesh.clone().into_parts();
    let sides = |t: &[u32; 3]| [0, 1, 2].map(|k| [t[k].min(t[(k + 1) % 3]), t[k].max(t[(k + 1) % 3])]);
    // The triangles at any of these edges; what is divided once may be so again.
    let mut near: Vec<usize> =
        (0..triangles.len()).filter(|t| sides(&triangles[*t]).iter().any(|side| splits.contains_key(side))).collect();
    for ([a, b], mut on) in splits {
        let [from, to] = [a, b].map(|v| mesh.points()[v as usize]);
        on.sort_by(|p, q| p.distance_squared(from).total_cmp(&q.distance_squared(from)));
        on.retain(|p| *p != from && *p != to);
        on.dedup();
        let mut last = a;
        for at in on {
            let new = points.len() as u32;
            points.push(at);
            for n in 0..near.len() {
                let t = near[n];
                let corners = triangles[t];
                let Some(k) = (0..3).find(|k| sides(&corners)[*k] == [last.min(b), last.max(b)]) else { continue };
                triangles[t][(k + 1) % 3] = new;
                let mut rest = corners;
                rest[k] = new;
                near.push(triangles.len());
                triangles.push(rest);
                faces.push(faces[t]);
            }
            last = new;
        }
    }
    Mesh::new(points, triangles, faces)
}
