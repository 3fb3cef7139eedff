//! Solids of triangles as boundary representations: patches of triangles that lie on one exact surface, and the chains of edges
//! between them that are lines or circles. What is neither is left as planes between lines.

use nimbet_kernel::surfaces::{Sample, Surface, best_fit, default_tolerance};
use nimbet_kernel::{Aabb, Cancelled, Mesh, Point, Progress, Topology, UnionFind};
use rustc_hash::{FxHashMap, FxHashSet};

use crate::frame::Frame;

/// What a patch lies on.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Under {
    Plane { point: Point, normal: Point },
    Curved(Surface),
}

/// Triangles that are one face.
#[derive(Debug)]
pub(crate) struct Patch {
    pub triangles: Vec<u32>,
    pub under: Under,
    /// The part's face it is of.
    pub face: u32,
}

/// What a chain follows.
#[derive(Clone, Debug)]
pub(crate) enum Along {
    /// Straight from end to end.
    Line,
    /// Round a circle, counter-clockwise about the frame's third direction.
    Circle { frame: Frame, radius: f64 },
    /// Straight from point to point.
    Points,
}

/// Edges between the same two patches, one after the other.
#[derive(Debug)]
pub(crate) struct Chain {
    /// The points; the first again at the end where it is closed.
    pub points: Vec<u32>,
    /// The patch on the left and on the right.
    pub patches: [u32; 2],
    pub along: Along,
}

/// A solid as patches and chains.
#[derive(Debug)]
pub(crate) struct Traced {
    pub patches: Vec<Patch>,
    pub chains: Vec<Chain>,
    /// Bounds of each patch: chains, each with whether it is followed as it runs.
    pub bounds: Vec<Vec<Vec<(u32, bool)>>>,
}

/// Why a solid cannot be traced.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum TraceError {
    /// More or fewer than two triangles meet at an edge.
    #[error("the part touches itself along an edge, at ({:.3}, {:.3}, {:.3})", .0.x, .0.y, .0.z)]
    Touches(Point),
    /// Somebody asked to stop.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
}

/// Triangles that follow a surface turn away from it by no more than this, as a cosine.
const SAME_WAY: f64 = 0.93;

struct Tracing<'a> {
    mesh: &'a Mesh,
    topology: Topology<'a>,
    tolerance: f64,
    patches: Vec<Patch>,
    patch_of: Vec<u32>,
}

/// Traces a solid. The patches that begin with one of the triangles `flat` are planes.
pub(crate) fn trace(mesh: &Mesh, flat: &FxHashSet<u32>, progress: &Progress) -> Result<Traced, TraceError> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    for edge in 0..topology.edge_count() as u32 {
        let halves = topology.halves(edge);
        let opposed = || topology.ends(halves[0]).0 == topology.ends(halves[1]).1;
        if halves.len() != 2 || !opposed() {
            return Err(TraceError::Touches(mesh.points()[topology.ends(halves[0]).0 as usize]));
        }
    }
    let tolerance = default_tolerance(&Aabb::of(mesh.points().iter().copied()));
    let mut tracing = Tracing { mesh, topology, tolerance, patches: vec![], patch_of: vec![0; mesh.triangles().len()] };
    tracing.find_patches(flat, progress)?;
    loop {
        progress.check()?;
        let chains = tracing.chains();
        let wrong = tracing.not_exact(&chains);
        if wrong.is_empty() {
            let bounds = tracing.bounds(&chains);
            return Ok(Traced { patches: tracing.patches, chains, bounds });
        }
        wrong.into_iter().for_each(|patch| tracing.split(patch));
    }
}

impl Tracing<'_> {
    /// The triangles of each set, by the number of the set.
    fn grouped(&self, triangles: &[u32], joins: impl Fn(u32, u32) -> bool) -> Vec<Vec<u32>> {
        let place: FxHashMap<u32, u32> = triangles.iter().enumerate().map(|(n, t)| (*t, n as u32)).collect();
        let mut sets = UnionFind::new(triangles.len());
        for (n, t) in triangles.iter().enumerate() {
            for half in t * 3..t * 3 + 3 {
                for other in self.topology.halves(self.topology.edge_of(half)) {
                    let beyond = other / 3;
                    if let Some(m) = place.get(&beyond)
                        && joins(*t, beyond)
                    {
                        sets.union(n as u32, *m);
                    }
                }
            }
        }
        let (set_of, count) = sets.number_sets();
        let mut groups = vec![Vec::new(); count];
        set_of.iter().zip(triangles).for_each(|(set, t)| groups[*set as usize].push(*t));
        groups
    }

    fn find_patches(&mut self, flat: &FxHashSet<u32>, progress: &Progress) -> Result<(), Cancelled> {
        let all: Vec<u32> = (0..self.mesh.triangles().len() as u32).collect();
        let face = |t: u32| self.mesh.face_of()[t as usize];
        let groups = self.grouped(&all, |a, b| face(a) == face(b));
        for (n, triangles) in groups.into_iter().enumerate() {
            if n.is_multiple_of(64) {
                progress.check()?;
            }
            let face = self.mesh.face_of()[triangles[0] as usize].0;
            match self.fitted(&triangles).filter(|_| !flat.contains(&triangles[0])) {
                Some(under) => self.add(Patch { triangles, under, face }),
                None => self.add_planes(&triangles, face),
            }
        }
        Ok(())
    }

    fn add(&mut self, patch: Patch) {
        let n = self.patches.len() as u32;
        patch.triangles.iter().for_each(|t| self.patch_of[*t as usize] = n);
        self.patches.push(patch);
    }

    /// The exact surface all corners of some triangles lie on.
    fn fitted(&self, triangles: &[u32]) -> Option<Under> {
        let surface = best_fit(&Sample::of(self.mesh, triangles), self.tolerance)?;
        let off = |t: &u32| self.mesh.corners(*t as usize).into_iter().map(|p| surface.distance(p).abs());
        if !triangles.iter().flat_map(off).all(|off| off <= self.tolerance) {
            return None;
        }
        Some(match surface {
            Surface::Plane { point, normal } => {
                let out: Point = triangles.iter().map(|t| self.mesh.area_vector(*t as usize)).sum();
                Under::Plane { point, normal: if normal.dot(out) < 0.0 { -normal } else { normal } }
            }
            curved => {
                // Corners of a block lie on a sphere, too.
                let along = |t: &u32| {
                    let normal = self.mesh.area_vector(*t as usize).normalize_or_zero();
                    let corners = self.mesh.corners(*t as usize);
                    let middle = corners.iter().sum::<Point>() / 3.0;
                    // A little within, as a tip has no normal.
                    let side = |p: Point| curved.normal(p + (middle - p) * 0.1).dot(normal).abs();
                    normal == Point::ZERO || corners.into_iter().all(|p| side(p) > SAME_WAY)
                };
                if !triangles.iter().all(along) {
                    return None;
                }
                Under::Curved(curved)
            }
        })
    }

    /// Triangles as planes: those that lie in one plane are one.
    fn add_planes(&mut self, triangles: &[u32], face: u32) {
        /// One minus the cosine of the angle below which normals are the same.
        const SAME: f64 = 1e-12;
        let normal = |t: u32| self.mesh.area_vector(t as usize).normalize_or_zero();
        let flat = |a: u32, b: u32| {
            let (p, q) = (self.mesh.corners(a as usize)[0], normal(a));
            let within = |c: Point| (c - p).dot(q).abs() <= self.tolerance * 0.1;
            normal(a).dot(normal(b)) > 1.0 - SAME && self.mesh.corners(b as usize).into_iter().all(within)
        };
        let groups = self.grouped(triangles, flat);
        for triangles in groups {
            let out: Point = triangles.iter().map(|t| self.mesh.area_vector(*t as usize)).sum();
            let under =
                Under::Plane { point: self.mesh.corners(triangles[0] as usize)[0], normal: out.normalize_or_zero() };
            self.add(Patch { triangles, under, face });
        }
    }

    /// A patch becomes planes; its place stays empty.
    fn split(&mut self, patch: u32) {
        let triangles = std::mem::take(&mut self.patches[patch as usize].triangles);
        let face = self.patches[patch as usize].face;
        self.add_planes(&triangles, face);
    }

    /// The patches on both sides of an edge, that of its first half first; none within a patch.
    fn between(&self, half: u32) -> Option<[u32; 2]> {
        let edge = self.topology.edge_of(half);
        let other = self.topology.halves(edge).iter().copied().find(|h| *h != half)?;
        let pair = [half, other].map(|h| self.patch_of[(h / 3) as usize]);
        (pair[0] != pair[1]).then_some(pair)
    }

    fn chains(&self) -> Vec<Chain> {
        // Half edges that begin at a point, and how many edges of bounds meet there.
        let count = self.mesh.triangles().len() as u32 * 3;
        let halves: Vec<u32> = (0..count).filter(|h| self.between(*h).is_some()).collect();
        let mut from: FxHashMap<u32, Vec<u32>> = FxHashMap::default();
        halves.iter().for_each(|h| from.entry(self.topology.ends(*h).0).or_default().push(*h));
        // A bound goes on through a point where it is the only one, between the same two patches.
        let next = |half: u32| -> Option<u32> {
            let at = &from[&self.topology.ends(half).1];
            let own = self.between(half)?;
            let mut on = at.iter().copied().filter(|h| self.between(*h) == Some(own));
            (at.len() == 2).then(|| on.next()).flatten()
        };
        let previous = |half: u32| -> Option<u32> {
            let edge = self.topology.edge_of(half);
            let back = self.topology.halves(edge).iter().copied().find(|h| *h != half)?;
            let before = next(back)?;
            self.topology.halves(self.topology.edge_of(before)).iter().copied().find(|h| *h != before)
        };
        let mut used: FxHashSet<u32> = FxHashSet::default();
        let mut chains = Vec::new();
        for &half in &halves {
            if !used.insert(self.topology.edge_of(half)) {
                continue;
            }
            let (mut first, mut closed) = (half, false);
            while let Some(before) = previous(first) {
                closed = before == half;
                first = before;
                if closed {
                    break;
                }
            }
            let mut points = vec![self.topology.ends(first).0];
            let mut at = first;
            loop {
                used.insert(self.topology.edge_of(at));
                points.push(self.topology.ends(at).1);
                match next(at).filter(|n| *n != first) {
                    Some(on) => at = on,
                    None => break,
                }
            }
            let Some(patches) = self.between(first) else { continue };
            let along = self.along(&points, closed, patches);
            match along {
                // Two lines or arcs that meet at a corner between the same two patches are told apart there.
                Along::Points => {
                    for points in self.parted(points, closed) {
                        let along = self.along(&points, points.first() == points.last(), patches);
                        chains.push(Chain { points, patches, along });
                    }
                }
                along => chains.push(Chain { points, patches, along }),
            }
        }
        chains
    }

    /// A chain cut up at its corners.
    fn parted(&self, mut points: Vec<u32>, closed: bool) -> Vec<Vec<u32>> {
        /// A corner turns by more than this, radians: more than from one point of a circle to the next.
        const CORNER: f64 = 0.6;
        let turns = |a: u32, b: u32, c: u32| {
            let (d, e) = (self.place(b) - self.place(a), self.place(c) - self.place(b));
            d.length_squared() > 0.0 && e.length_squared() > 0.0 && d.angle_between(e) > CORNER
        };
        let last = points.len() - 1;
        if closed {
            // It begins at a corner, if it has one.
            let corner = (0..last).find(|n| turns(points[(n + last - 1) % last], points[*n], points[n + 1]));
            let Some(corner) = corner else { return vec![points] };
            points.pop();
            points.rotate_left(corner);
            points.push(points[0]);
        }
        let mut parts = vec![vec![points[0]]];
        for n in 1..=last {
            if let Some(part) = parts.last_mut() {
                part.push(points[n]);
            }
            if n < last && turns(points[n - 1], points[n], points[n + 1]) {
                parts.push(vec![points[n]]);
            }
        }
        parts
    }

    fn place(&self, point: u32) -> Point {
        self.mesh.points()[point as usize]
    }

    fn off(&self, patch: u32, p: Point) -> f64 {
        match self.patches[patch as usize].under {
            Under::Plane { point, normal } => (p - point).dot(normal).abs(),
            Under::Curved(surface) => surface.distance(p).abs(),
        }
    }

    /// What a chain follows, such that it lies on both its patches.
    fn along(&self, points: &[u32], closed: bool, patches: [u32; 2]) -> Along {
        let both = |p: Point| patches.iter().all(|patch| self.off(*patch, p) <= self.tolerance * 4.0);
        let (a, b) = (self.place(points[0]), self.place(points[points.len() - 1]));
        let straight = |p: Point| {
            let (d, v) = (b - a, p - a);
            d.length_squared() > 0.0 && v.cross(d).length() <= d.length() * self.tolerance
        };
        if !closed && points.iter().all(|p| straight(self.place(*p))) {
            let on = [0.25, 0.5, 0.75].iter().all(|t| both(a + (b - a) * *t));
            if on {
                return Along::Line;
            }
        }
        match self.circle(points, closed) {
            Some((frame, radius)) => {
                let between = points.windows(2).all(|w| {
                    let (p, q) = (self.place(w[0]) - frame.origin, self.place(w[1]) - frame.origin);
                    let middle = (p + q).try_normalize();
                    middle.is_some_and(|m| both(frame.origin + m * radius))
                });
                if between { Along::Circle { frame, radius } } else { Along::Points }
            }
            None => Along::Points,
        }
    }

    /// The circle through the points of a chain, counter-clockwise.
    fn circle(&self, points: &[u32], closed: bool) -> Option<(Frame, f64)> {
        /// Fewer points than these are no circle.
        const FEWEST: usize = 4;
        if points.len() < FEWEST {
            return None;
        }
        let n = points.len() - 1;
        let [i, j, k] = if closed { [0, n / 3, 2 * n / 3] } else { [0, n / 2, n] };
        let [a, b, c] = [i, j, k].map(|i| self.place(points[i]));
        let (u, v) = (b - a, c - a);
        let w = u.cross(v);
        let twice = 2.0 * w.length_squared();
        if twice <= 0.0 || !twice.is_finite() {
            return None;
        }
        let to = (v.cross(w) * -u.length_squared() + u.cross(w) * v.length_squared()) / -twice;
        let (centre, radius) = (a + to, to.length());
        let z = w.normalize();
        let round = |p: &u32| {
            let d = self.place(*p) - centre;
            d.dot(z).abs() <= self.tolerance && (d.length() - radius).abs() <= self.tolerance
        };
        if !points.iter().all(round) {
            return None;
        }
        // All steps go the same way round.
        let onward = |w: &[u32]| (self.place(w[0]) - centre).cross(self.place(w[1]) - centre).dot(z) > 0.0;
        if !points.windows(2).all(onward) {
            return None;
        }
        Some((Frame::new(centre, z, a - centre)?, radius))
    }

    /// Curved patches whose bounds do not lie on them, or are not shared as what they are.
    fn not_exact(&self, chains: &[Chain]) -> Vec<u32> {
        let curved = |patch: u32| matches!(self.patches[patch as usize].under, Under::Curved(_));
        let mut wrong: Vec<u32> = (chains.iter())
            .filter(|c| matches!(c.along, Along::Points))
            .flat_map(|c| c.patches)
            .filter(|p| curved(*p))
            .collect();
        // Without any bounds only a whole sphere or torus is a face.
        let bounded: FxHashSet<u32> = chains.iter().flat_map(|c| c.patches).collect();
        wrong.extend((0..self.patches.len() as u32).filter(|n| {
            let Patch { under, triangles, .. } = &self.patches[*n as usize];
            let whole = matches!(under, Under::Curved(Surface::Sphere { .. } | Surface::Torus { .. }));
            !triangles.is_empty() && !bounded.contains(n) && !whole
        }));
        wrong.sort_unstable();
        wrong.dedup();
        wrong
    }

    /// The bounds of each patch.
    fn bounds(&self, chains: &[Chain]) -> Vec<Vec<Vec<(u32, bool)>>> {
        // The chain of each edge, and whether it runs as a half edge does.
        let mut chain_of: FxHashMap<(u32, u32), (u32, bool)> = FxHashMap::default();
        for (n, chain) in chains.iter().enumerate() {
            for w in chain.points.windows(2) {
                chain_of.insert((w[0], w[1]), (n as u32, true));
                chain_of.insert((w[1], w[0]), (n as u32, false));
            }
        }
        let mut bounds = vec![Vec::new(); self.patches.len()];
        let mut seen = vec![false; self.mesh.triangles().len() * 3];
        for half in 0..seen.len() as u32 {
            if seen[half as usize] || self.between(half).is_none() {
                continue;
            }
            let mut bound: Vec<(u32, bool)> = Vec::new();
            let mut at = half;
            while !seen[at as usize] {
                seen[at as usize] = true;
                let chain = chain_of[&self.topology.ends(at)];
                if bound.last() != Some(&chain) || self.begins(chains, chain, at) {
                    bound.push(chain);
                }
                at = self.next_on_bound(at);
            }
            // Where the walk began in the middle of a chain, its end is its beginning.
            if bound.len() > 1 && bound.first() == bound.last() && !self.begins(chains, bound[0], half) {
                bound.pop();
            }
            bounds[self.patch_of[(half / 3) as usize] as usize].push(bound);
        }
        bounds
    }

    /// Whether a chain, followed so, begins with a half edge.
    fn begins(&self, chains: &[Chain], (chain, forward): (u32, bool), half: u32) -> bool {
        let points = &chains[chain as usize].points;
        let last = points.len() - 1;
        let first = if forward { (points[0], points[1]) } else { (points[last], points[last - 1]) };
        self.topology.ends(half) == first
    }

    /// The half edge after one on the bound of its patch: round its end, within the patch.
    fn next_on_bound(&self, half: u32) -> u32 {
        let mut at = nimbet_kernel::topology::next(half);
        while self.between(at).is_none() {
            let edge = self.topology.edge_of(at);
            let Some(other) = self.topology.halves(edge).iter().copied().find(|h| *h != at) else { break };
            at = nimbet_kernel::topology::next(other);
        }
        at
    }
}
