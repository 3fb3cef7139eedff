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
mod strip;
mod tip;

use std::collections::{BTreeMap, BTreeSet};

use nimbet_kernel::inside::Inside;
use nimbet_kernel::{Aabb, Bvh, FaceId, Mesh, Point, UnionFind};

use self::ball::Ball;
use self::ends::{Splits, divided};
use crate::carve::EdgeError;
use crate::graph::Graph;
use crate::plan::{Planner, Spine};
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
    /// The faces with which strips go on beyond their ends, the last ones: for each that it goes on in.
    pub beyond: Vec<FaceId>,
}

impl Parting {
    /// Whether a face of the sheet is one with which a strip goes on beyond its end.
    pub fn is_beyond(&self, face: FaceId) -> bool {
        face.0 as usize >= self.run_of.len() - self.beyond.len()
    }

    /// The face of the sheet one of it is part of.
    pub fn whole(&self, face: FaceId) -> FaceId {
        let first = self.run_of.len() - self.beyond.len();
        (face.0 as usize).checked_sub(first).map_or(face, |n| self.beyond[n])
    }
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
    /// Faces beyond the ends of strips, counted from [`BEYOND`], with those they go on in.
    beyond: Vec<FaceId>,
}

/// Faces beyond the ends of strips have numbers from here on until all others are there.
const BEYOND: u32 = u32::MAX / 2;

/// A piece of an arc turns by no more than this, radians: 20 degrees.
const COARSEST: f64 = 0.35;
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
        beyond: vec![],
    };
    let ends_at = ends_at(spines);
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
    let mut together = UnionFind::new(spines.len());
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
    let shared = builder.shared(&caps, &splits);
    let body = divided(graph.mesh, splits)?;
    builder.put_together(&balls, &ends_at, &mut together);
    // Where two caps lie in one plane only one of them is there.
    let lie = builder.lying(&caps);
    for (n, (a, one)) in lie.iter().enumerate() {
        let alike = |(b, other): &&(usize, Lies)| spines[*a].convex == spines[*b].convex && one.meets(other);
        lie[n + 1..].iter().filter(alike).for_each(|(b, _)| {
            together.union(*a as u32, *b as u32);
        });
    }
    let group_of = together.number_sets().0;
    let mut run_of = builder.run_of_face;
    let first = run_of.len() as u32;
    run_of.extend(builder.beyond.iter().map(|face| run_of[face.0 as usize]).collect::<Vec<usize>>());
    let bounds = run_of.iter().map(|run| group_of[*run]).collect();
    let numbered = |f: FaceId| FaceId(if f.0 >= BEYOND { f.0 - BEYOND + first } else { f.0 });
    let faces = builder.faces.into_iter().map(numbered).collect();
    let sheet = divided(&Mesh::new(builder.points, builder.triangles, faces)?, shared)?;
    Ok(Parting { sheet, body, caps, group_of, bounds, run_of, beyond: builder.beyond })
}

/// The ends of runs at each point, but those that meet what goes on beyond what is passed over.
fn ends_at(spines: &[Spine]) -> BTreeMap<u32, Vec<(usize, End)>> {
    let mut ends_at: BTreeMap<u32, Vec<(usize, End)>> = BTreeMap::new();
    for (n, spine) in spines.iter().enumerate().filter(|(_, s)| !s.closed) {
        for ends in [Some(spine.ends), spine.second.map(|s| s.1)].into_iter().flatten() {
            for (v, end) in [(ends[0], End::First), (ends[1], End::Last)] {
                if spine.meets[usize::from(end == End::Last)].is_none() {
                    ends_at.entry(v).or_default().push((n, end));
                }
            }
        }
    }
    ends_at
}

impl Builder<'_> {
    /// Runs that end at one ball are one, and those that go on through each other, or at a point where an edge of the other sense ends,
    /// too: what lies under both is theirs there.
    fn put_together(&self, balls: &[Ball], ends_at: &BTreeMap<u32, Vec<(usize, End)>>, together: &mut UnionFind) {
        for ball in balls {
            ball.runs.windows(2).for_each(|pair| {
                together.union(pair[0].0 as u32, pair[1].0 as u32);
            });
        }
        for (v, ends) in ends_at {
            let mixed =
                self.graph.at[v].iter().any(|e| self.graph.edges[*e as usize].convex != self.spines[ends[0].0].convex);
            for pair in ends.windows(2).filter(|_| mixed || self.mates(*v, ends).is_some()) {
                together.union(pair[0].0 as u32, pair[1].0 as u32);
            }
        }
    }
}

/// Where a cap is, and how it lies.
struct Lies {
    around: Aabb,
    normal: Point,
}

impl Lies {
    /// Whether two may lie on each other.
    fn meets(&self, other: &Self) -> bool {
        /// Planes are one when the cosine between them is off 1 by less.
        const ONE: f64 = 1e-6;
        self.around.overlaps(&other.around) && self.normal.dot(other.normal).abs() > 1.0 - ONE
    }
}

impl Builder<'_> {
    /// The points that other caps put on sides of caps along edges of the body.
    fn shared(&self, caps: &[(FaceId, Option<FaceId>)], splits: &Splits) -> Splits {
        let bits = |p: Point| p.to_array().map(f64::to_bits);
        let mut shared = Splits::new();
        let is_cap: BTreeSet<FaceId> = caps.iter().map(|(cap, _)| *cap).collect();
        let own: Vec<[u32; 3]> =
            (self.triangles.iter().zip(&self.faces)).filter(|(_, f)| is_cap.contains(f)).map(|(t, _)| *t).collect();
        for ([a, b], on) in splits.iter().filter(|(_, on)| on.len() > 1) {
            let [from, to] = [*a, *b].map(|v| self.graph.place(v));
            let along = |p: Point| (p - from).dot(to - from);
            let line: BTreeSet<[u64; 3]> = on.iter().copied().chain([from, to]).map(bits).collect();
            for side in own.iter().flat_map(|[p, q, r]| [[*p, *q], [*q, *r], [*r, *p]]) {
                let ends = side.map(|v| self.points[v as usize]);
                if ends.iter().all(|p| line.contains(&bits(*p))) {
                    let span = ends.map(along);
                    let (least, most) = (span[0].min(span[1]), span[0].max(span[1]));
                    let between = on.iter().copied().filter(|p| along(*p) > least && along(*p) < most);
                    let key = [side[0].min(side[1]), side[0].max(side[1])];
                    shared.entry(key).or_default().extend(between);
                }
            }
        }
        shared
    }

    /// Where each cap is, with the run it closes.
    fn lying(&self, caps: &[(FaceId, Option<FaceId>)]) -> Vec<(usize, Lies)> {
        let mut of: BTreeMap<FaceId, Vec<[Point; 3]>> = caps.iter().map(|(cap, _)| (*cap, vec![])).collect();
        for (t, face) in self.triangles.iter().zip(&self.faces) {
            if let Some(own) = of.get_mut(face) {
                own.push(t.map(|v| self.points[v as usize]));
            }
        }
        let lies = |(cap, own): (FaceId, Vec<[Point; 3]>)| {
            let [a, b, c] = *own.first()?;
            let normal = (b - a).cross(c - a).normalize_or_zero();
            let around = Aabb::of(own.iter().flatten().copied());
            Some((self.run_of_face[cap.0 as usize], Lies { around, normal }))
        };
        of.into_iter().filter_map(lies).collect()
    }

    fn put(&mut self, p: Point) -> u32 {
        self.points.push(p);
        self.points.len() as u32 - 1
    }

    fn face(&mut self, run: usize) -> FaceId {
        self.run_of_face.push(run);
        FaceId(self.run_of_face.len() as u32 - 1)
    }

    /// A face with which one goes on beyond the end of a strip.
    fn face_beyond(&mut self, face: FaceId) -> FaceId {
        self.beyond.push(face);
        FaceId(BEYOND + self.beyond.len() as u32 - 1)
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
}
