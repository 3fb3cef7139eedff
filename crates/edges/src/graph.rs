//! The edges of a body, where its faces meet at an angle, and the runs they make.

use std::collections::{BTreeMap, VecDeque};

use nimbet_kernel::segments::nearest_on_segment;
use nimbet_kernel::surfaces::Surface;
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{Aabb, Bvh, Cancelled, FaceId, Mesh, Point, Progress, Topology};

use rustc_hash::FxHashSet;

use crate::forms::{Faces, Held};

/// Faces that turn by less than this into each other meet in no edge, degrees: they are tangent, and rounded figures differ.
const SMOOTH: f64 = 4.0;
/// The same where one of them is curved: at the corners of what was rounded its triangles turn by half a piece of an arc.
const SMOOTH_CURVED: f64 = 12.0;
/// The same where one of them is no simple surface, so that its normals are taken from its triangles.
const SMOOTH_FREE: f64 = 15.0;
/// A run goes on through a point at which other edges end when it turns there by less than this, and its faces too, degrees.
const STRAIGHT: f64 = 12.0;
/// A run ends where it turns by more than this, degrees.
const CORNER: f64 = 60.0;

/// An edge of the mesh where two faces meet at an angle.
#[derive(Clone, Copy, Debug)]
pub struct Edge {
    /// Its points; the triangle to the left, seen from outside, has them in this order.
    pub ends: [u32; 2],
    /// The triangles to the left and right.
    pub sides: [u32; 2],
    /// Whether the material lies within less than half a turn.
    pub convex: bool,
    /// How far the faces turn at it, radians.
    pub turn: f64,
}

/// Edges of one sense that go on in each other without a corner.
#[derive(Clone, Debug)]
pub struct Run {
    /// The edges, each with whether the run goes along it from its first end to its second.
    pub edges: Vec<(u32, bool)>,
    /// Whether it comes back to where it began.
    pub closed: bool,
    /// Whether the material lies within less than half a turn.
    pub convex: bool,
}

/// The edges of a body.
#[derive(Debug)]
pub struct Graph<'a> {
    /// The body.
    pub mesh: &'a Mesh,
    /// Its faces.
    pub faces: Faces<'a>,
    /// Its edges.
    pub edges: Vec<Edge>,
    /// The edges at each point that has any.
    pub at: BTreeMap<u32, Vec<u32>>,
    /// Faces that go on in each other without an edge, the lower number first.
    smooth: FxHashSet<[u32; 2]>,
    /// Where the body is open: at each point of the border those beside it there, with the face between.
    pub border: BTreeMap<u32, Vec<(u32, FaceId)>>,
    /// What they make.
    pub runs: Vec<Run>,
    /// The run of each edge.
    pub run_of: Vec<u32>,
}

impl<'a> Graph<'a> {
    /// Finds the edges of a body.
    ///
    /// # Errors
    /// [`Cancelled`].
    pub fn of(mesh: &'a Mesh, progress: &Progress) -> Result<Self, Cancelled> {
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        progress.check()?;
        let faces = Faces::of(mesh);
        let mut edges = Vec::new();
        let mut smooth = FxHashSet::default();
        let face = |half: u32| mesh.face_of()[half as usize / 3];
        let between = topology.edges_with(EdgeUse::Regular).filter(|e| {
            let halves = topology.halves(*e);
            face(halves[0]) != face(halves[1])
        });
        for (n, e) in between.enumerate() {
            if n % 256 == 0 {
                progress.check()?;
            }
            let [left, right] = [0, 1].map(|k| topology.halves(e)[k]);
            let (a, b) = topology.ends(left);
            let [p, q] = [a, b].map(|v| mesh.points()[v as usize]);
            let [f, g] = [left, right].map(face);
            let [m, n] = [f, g].map(|face| faces.probe(face, p.midpoint(q)).normal);
            let turn = m.cross(n).length().atan2(m.dot(n));
            let least = match [f, g].map(|face| faces.surface(face)) {
                [Some(Surface::Plane { .. }), Some(Surface::Plane { .. })] => SMOOTH,
                [Some(_), Some(_)] => SMOOTH_CURVED,
                _ => SMOOTH_FREE,
            };
            if turn > least.to_radians() {
                let convex = m.cross(n).dot(q - p) > 0.0;
                edges.push(Edge { ends: [a, b], sides: [left / 3, right / 3], convex, turn });
            } else {
                smooth.insert([f.0.min(g.0), f.0.max(g.0)]);
            }
        }
        let mut at: BTreeMap<u32, Vec<u32>> = BTreeMap::new();
        for (n, e) in edges.iter().enumerate() {
            e.ends.iter().for_each(|v| at.entry(*v).or_default().push(n as u32));
        }
        let mut border: BTreeMap<u32, Vec<(u32, FaceId)>> = BTreeMap::new();
        for half in topology.naked_halves() {
            let (a, b) = topology.ends(half);
            border.entry(a).or_default().push((b, face(half)));
            border.entry(b).or_default().push((a, face(half)));
        }
        let mut graph = Self { mesh, faces, edges, at, smooth, border, runs: vec![], run_of: vec![] };
        graph.chain();
        Ok(graph)
    }

    /// The same edges, between faces that are held otherwise.
    pub(crate) fn held(&self, held: Held) -> Self {
        Self {
            mesh: self.mesh,
            faces: self.faces.held(held),
            edges: self.edges.clone(),
            at: self.at.clone(),
            smooth: self.smooth.clone(),
            border: self.border.clone(),
            runs: self.runs.clone(),
            run_of: self.run_of.clone(),
        }
    }

    /// The place of a point of the mesh.
    pub fn place(&self, point: u32) -> Point {
        self.mesh.points()[point as usize]
    }

    /// The points a run goes from and to along one of its edges.
    pub fn ends(&self, (edge, forward): (u32, bool)) -> [u32; 2] {
        let [a, b] = self.edges[edge as usize].ends;
        if forward { [a, b] } else { [b, a] }
    }

    /// The points a run goes from and to.
    pub fn ends_of(&self, run: &Run) -> [u32; 2] {
        [self.ends(run.edges[0])[0], self.ends(run.edges[run.edges.len() - 1])[1]]
    }

    /// The faces to the left and right of a run along one of its edges.
    pub fn beside(&self, (edge, forward): (u32, bool)) -> [FaceId; 2] {
        let [left, right] = self.edges[edge as usize].sides.map(|t| self.mesh.face_of()[t as usize]);
        if forward { [left, right] } else { [right, left] }
    }

    /// Whether two faces go on in each other somewhere without an edge.
    pub fn goes_on(&self, a: FaceId, b: FaceId) -> bool {
        self.smooth.contains(&[a.0.min(b.0), a.0.max(b.0)])
    }

    /// In how many others a face goes on without an edge.
    pub fn goes_on_in(&self, face: FaceId) -> usize {
        self.smooth.iter().filter(|pair| pair.contains(&face.0)).count()
    }

    /// The edge nearest to a place within a distance, mm.
    pub fn nearest(&self, places: &[Point], within: f64) -> Vec<Option<u32>> {
        let ends = |e: u32| self.edges[e as usize].ends.map(|v| self.place(v));
        let bvh = Bvh::new((0..self.edges.len() as u32).map(|e| Aabb::of(ends(e))).collect());
        let off = |p: Point, e: u32| nearest_on_segment(p, ends(e)[0], ends(e)[1]).1;
        places.iter().map(|p| bvh.nearest(*p, within, |e| Some(off(*p, e))).map(|(e, _)| e)).collect()
    }

    /// How far the triangles of the faces beside a run stand off what they stand for, mm.
    pub fn sag(&self, run: &Run) -> f64 {
        let mut faces: Vec<FaceId> = run.edges.iter().flat_map(|e| self.beside(*e)).collect();
        faces.sort_unstable_by_key(|f| f.0);
        faces.dedup();
        faces.into_iter().map(|f| self.faces.sag(f)).fold(0.0, f64::max)
    }

    /// How much the faces beside an edge and the one after it turn there, radians: the larger of both sides.
    fn swerve(&self, from: (u32, bool), to: (u32, bool), at: Point) -> f64 {
        let [before, after] = [from, to].map(|e| self.beside(e).map(|f| self.faces.probe(f, at).normal));
        before.into_iter().zip(after).map(|(m, n)| m.cross(n).length().atan2(m.dot(n))).fold(0.0, f64::max)
    }

    /// The edge a run goes on in after another.
    fn onward(&self, from: (u32, bool)) -> Option<(u32, bool)> {
        let [start, point] = self.ends(from);
        let came = self.place(point) - self.place(start);
        let edge = &self.edges[from.0 as usize];
        let others: Vec<(u32, bool)> = self.at[&point]
            .iter()
            .filter(|e| **e != from.0)
            .map(|e| (*e, self.edges[*e as usize].ends[0] == point))
            .collect();
        let turn = |e: &(u32, bool)| came.angle_between(self.place(self.ends(*e)[1]) - self.place(point));
        let same = |e: &(u32, bool)| self.edges[e.0 as usize].convex == edge.convex;
        let straight = STRAIGHT.to_radians();
        // Where no other edge ends a coarse run may turn more, as long as the faces are the same or tangent.
        let most = if others.len() == 1 { CORNER.to_radians() } else { straight };
        let goes_on =
            |e: &(u32, bool)| same(e) && turn(e) < most && self.swerve(from, *e, self.place(point)) < straight;
        let mut on = others.into_iter().filter(goes_on);
        on.next().filter(|_| on.next().is_none())
    }

    /// Whether two edges go on in each other, seen from both.
    fn onward_both(&self, from: (u32, bool)) -> Option<(u32, bool)> {
        let (edge, forward) = self.onward(from)?;
        let back = self.onward((edge, !forward))?;
        (back == (from.0, !from.1)).then_some((edge, forward))
    }

    fn chain(&mut self) {
        let mut run_of = vec![u32::MAX; self.edges.len()];
        let mut runs = Vec::new();
        for first in 0..self.edges.len() as u32 {
            if run_of[first as usize] != u32::MAX {
                continue;
            }
            let number = runs.len() as u32;
            run_of[first as usize] = number;
            let mut edges = VecDeque::from([(first, true)]);
            let mut closed = false;
            while let Some(next) = edges.back().and_then(|e| self.onward_both(*e)) {
                if next.0 == first {
                    closed = true;
                    break;
                }
                if run_of[next.0 as usize] != u32::MAX {
                    break;
                }
                run_of[next.0 as usize] = number;
                edges.push_back(next);
            }
            let before = |edges: &VecDeque<(u32, bool)>, run_of: &[u32]| {
                let back = edges.front().map(|&(e, forward)| (e, !forward)).and_then(|e| self.onward_both(e));
                back.filter(|e| run_of[e.0 as usize] == u32::MAX)
            };
            // A closed run has no more before it.
            while let Some((edge, forward)) = before(&edges, &run_of) {
                run_of[edge as usize] = number;
                edges.push_front((edge, !forward));
            }
            let convex = self.edges[first as usize].convex;
            runs.push(Run { edges: edges.into(), closed, convex });
        }
        (self.runs, self.run_of) = (runs, run_of);
    }
}

impl Graph<'_> {
    /// Parts runs where edges of one kind meet those of the other.
    pub fn part_where(&mut self, kind: &[bool]) {
        let mut parted: Vec<Run> = Vec::with_capacity(self.runs.len());
        for run in std::mem::take(&mut self.runs) {
            let of = |e: &(u32, bool)| kind[e.0 as usize];
            let n = run.edges.len();
            let Some(begin) = (0..n).find(|k| of(&run.edges[*k]) != of(&run.edges[(k + n - 1) % n])) else {
                parted.push(run);
                continue;
            };
            let mut edges = run.edges.clone();
            if run.closed {
                edges.rotate_left(begin);
            }
            let pieces = edges.chunk_by(|a, b| of(a) == of(b));
            parted.extend(pieces.map(|p| Run { edges: p.to_vec(), closed: false, convex: run.convex }));
        }
        for (n, run) in parted.iter().enumerate() {
            run.edges.iter().for_each(|e| self.run_of[e.0 as usize] = n as u32);
        }
        self.runs = parted;
    }
}

/// How far along its run each edge begins and ends, as shares of the run's length.
pub struct Along {
    span: Vec<[f64; 2]>,
}

impl Along {
    /// Of all edges.
    pub fn of(graph: &Graph<'_>) -> Self {
        let mut span = vec![[0.0; 2]; graph.edges.len()];
        for run in &graph.runs {
            let length = |e: &(u32, bool)| {
                let [a, b] = graph.ends(*e).map(|v| graph.place(v));
                a.distance(b)
            };
            let whole = run.edges.iter().map(length).sum::<f64>().max(f64::MIN_POSITIVE);
            let mut gone = 0.0;
            for e in &run.edges {
                let next = gone + length(e);
                // From the edge's own first end to its second.
                span[e.0 as usize] = if e.1 { [gone / whole, next / whole] } else { [next / whole, gone / whole] };
                gone = next;
            }
        }
        Self { span }
    }

    /// How far along its run a place on an edge is.
    pub fn share(&self, graph: &Graph<'_>, edge: u32, at: Point) -> f64 {
        let [a, b] = graph.edges[edge as usize].ends.map(|v| graph.place(v));
        let [from, to] = self.span[edge as usize];
        from + (to - from) * nearest_on_segment(at, a, b).0
    }
}
