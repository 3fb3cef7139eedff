//! Groups imported triangles into faces that lie on one surface each.
//!
//! Edges that turn by more than an angle part the triangles into patches. A patch that lies on one surface is a face. In
//! others, surfaces are fitted to the neighbourhood of a seed (the largest triangles first) and grown while triangles lie on
//! them (after Schnabel, Wahl and Klein 2007, with growing over edges for drawing lots); the one that holds the most area
//! is kept. A surface counts only if it *ends*: with four times the tolerance it must not spread much farther, which parts a
//! fillet from a free form that a torus touches somewhere. What no surface holds stays together as a free face. Cost: about
//! linear; patches that are free forms give up after a fixed number of seeds.

use std::cmp::Reverse;
use std::collections::{BinaryHeap, HashMap, HashSet};

use rayon::prelude::*;

use super::facets::Facets;
use super::fit::{Sample, best_fit, fit, speaks_for};
use super::{Kind, Surface};
use crate::topology::EdgeUse;
use crate::{Aabb, Cancelled, FaceId, Mesh, Point, Progress, Topology, UnionFind};

/// The default angle at which a new face begins, degrees. A turned or drawn surface tessellated with 16 or more segments
/// to the circle stays one face; the edges of a plate or a block do not.
pub const DEFAULT_ANGLE: f64 = 26.0;
/// The default tolerance as a share of the part's diagonal.
const TOLERANCE_SHARE: f64 = 1e-4;
/// Triangles round a seed to which surfaces are fitted first.
const NEIGHBOURHOODS: [usize; 3] = [8, 24, 72];
/// Rounds of growing and fitting anew.
const ROUNDS: usize = 4;
/// The cosine of 6°: at its middle a triangle's normal differs from the surface's by a sixth of the turn to the next.
const SAME_WAY: f64 = 0.9945;
/// With four times the tolerance a surface may spread over so much more area.
const LOOSE: f64 = 4.0;
const SPREAD: f64 = 1.5;
/// A more complicated surface must hold so much more area than a simpler one.
const WORTH_IT: f64 = 1.25;
/// Fewer triangles than this are no face on a curved surface.
const LEAST_CURVED: usize = 6;
/// A plane inside a smooth patch needs this share of its area: every triangle lies in some plane.
const LEAST_PLANE: f64 = 0.02;
/// Seeds tried in vain after which the rest of a patch counts as free.
const MOST_FAILED: usize = 100;

/// How triangles are grouped.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Grouping {
    /// Edges that turn by more than this part faces, degrees.
    pub angle: f64,
    /// Triangles belong to a surface when their corners lie within this of it, mm.
    pub tolerance: f64,
}

/// The tolerance taken when none is chosen, mm.
pub fn default_tolerance(bounds: &Aabb) -> f64 {
    bounds.diagonal() * TOLERANCE_SHARE
}

/// Gives every triangle the face it belongs to; faces are numbered by their first triangle. Triangles without area join any
/// neighbour.
///
/// # Errors
/// [`Cancelled`].
pub fn group_faces(mesh: Mesh, how: Grouping, progress: &Progress) -> Result<Mesh, Cancelled> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let all: Vec<u32> = (0..mesh.triangles().len() as u32).collect();
    let facets = Facets::of(&mesh, &all);
    progress.check()?;
    let least = how.angle.to_radians().cos();
    // Triangles that hang together on one side of the angle, and facets that do.
    let mut joined: Vec<(u32, u32)> = Vec::new();
    let mut sides: Vec<(u32, u32)> = Vec::new();
    for edge in topology.edges_with(EdgeUse::Regular) {
        let [a, b] = [0, 1].map(|k| topology.halves(edge)[k] / 3);
        let [f, g] = [a, b].map(|t| facets.of[t as usize]);
        let (m, n) = (facets.normal[f as usize], facets.normal[g as usize]);
        if f == g || m == Point::ZERO || n == Point::ZERO || m.dot(n) >= least {
            joined.push((a, b));
            if f != g {
                sides.extend([(f, g), (g, f)]);
            }
        }
    }
    sides.par_sort_unstable();
    sides.dedup();
    let beside = Beside::new(&sides, facets.count());
    let mut sets = UnionFind::new(facets.count());
    sides.iter().for_each(|(f, g)| sets.union(*f, *g));
    let (patch_of, count) = sets.number_sets();
    let mut patches: Vec<Vec<u32>> = vec![Vec::new(); count];
    for (f, &patch) in patch_of.iter().enumerate() {
        patches[patch as usize].push(f as u32);
    }
    let search = Search { facets: &facets, beside: &beside, tolerance: how.tolerance, progress };
    // Within a patch faces are numbered from 0; the number over all is given by the first triangle, below.
    let found: Result<Vec<Vec<u32>>, Cancelled> = patches.par_iter().map(|p| search.divide(p)).collect();
    let mut local = vec![0u32; facets.count()];
    for (patch, faces) in patches.iter().zip(found?) {
        for (&f, face) in patch.iter().zip(faces) {
            local[f as usize] = face;
        }
    }
    let mut sets = UnionFind::new(mesh.triangles().len());
    let of = |t: u32| local[facets.of[t as usize] as usize];
    for (a, b) in joined.into_iter().filter(|(a, b)| of(*a) == of(*b)) {
        sets.union(a, b);
    }
    let numbers = sets.number_sets().0;
    Ok(mesh.regroup(|t| FaceId(numbers[t])))
}

/// Parts faces where what `group` says of their triangles changes; each piece that hangs together is a face, numbered by its first
/// triangle.
pub fn part_faces<G: PartialEq>(mesh: Mesh, group: impl Fn(usize) -> G) -> Mesh {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let mut sets = UnionFind::new(mesh.triangles().len());
    let of = |t: u32| (mesh.face_of()[t as usize], group(t as usize));
    for edge in topology.edges_with(EdgeUse::Regular) {
        let [a, b] = [0, 1].map(|k| topology.halves(edge)[k] / 3);
        if of(a) == of(b) {
            sets.union(a, b);
        }
    }
    let numbers = sets.number_sets().0;
    mesh.regroup(|t| FaceId(numbers[t]))
}

/// The neighbours of each facet within its patch.
struct Beside {
    first: Vec<u32>,
    all: Vec<u32>,
}

impl Beside {
    /// From pairs of neighbours, ascending.
    fn new(sides: &[(u32, u32)], facets: usize) -> Self {
        let mut first = vec![0u32; facets + 1];
        sides.iter().for_each(|(f, _)| first[*f as usize + 1] += 1);
        (0..facets).for_each(|f| first[f + 1] += first[f]);
        Self { first, all: sides.iter().map(|s| s.1).collect() }
    }

    fn of(&self, facet: u32) -> &[u32] {
        &self.all[self.first[facet as usize] as usize..self.first[facet as usize + 1] as usize]
    }
}

struct Search<'a> {
    facets: &'a Facets,
    beside: &'a Beside,
    tolerance: f64,
    progress: &'a Progress,
}

/// A surface with the facets it holds.
struct Region {
    surface: Surface,
    facets: Vec<u32>,
    area: f64,
    /// How far its normals differ from the surface's.
    askew: f64,
}

impl Region {
    /// Whether this is the better face through a seed than one on a surface as simple or simpler.
    fn beats(&self, other: &Self) -> bool {
        let much = if self.surface.kind() == other.surface.kind() { 1.0 } else { WORTH_IT };
        // Three rings of a turned part lie on some torus, whatever stands between them: the sides tell.
        let larger = self.area > other.area * much && !speaks_for(other.askew, self.askew);
        larger || (self.area * WORTH_IT > other.area && speaks_for(self.askew, other.askew))
    }
}

impl Search<'_> {
    /// The face of each triangle of a patch.
    fn divide(&self, patch: &[u32]) -> Result<Vec<u32>, Cancelled> {
        self.progress.check()?;
        if patch.len() < 2 || self.whole(patch) {
            return Ok(vec![0; patch.len()]);
        }
        let area = |f: u32| self.facets.area[f as usize];
        let total: f64 = patch.iter().map(|&f| area(f)).sum();
        let place: HashMap<u32, usize> = patch.iter().enumerate().map(|(n, &t)| (t, n)).collect();
        let mut seeds: Vec<u32> = patch.to_vec();
        seeds.sort_by(|&a, &b| area(b).total_cmp(&area(a)).then(a.cmp(&b)));
        const FREE: u32 = 0;
        let mut face = vec![FREE; patch.len()];
        let mut tried = vec![false; patch.len()];
        let mut regions: Vec<Region> = Vec::new();
        let mut failed = 0;
        for seed in seeds {
            if face[place[&seed]] != FREE || tried[place[&seed]] || self.facets.normal[seed as usize] == Point::ZERO {
                continue;
            }
            self.progress.check()?;
            let free = |t: u32| face[place[&t]] == FREE;
            match self.region_at(seed, &free, total) {
                Some(region) => {
                    for t in &region.facets {
                        face[place[t]] = regions.len() as u32 + 1;
                    }
                    regions.push(region);
                }
                None => {
                    for t in self.round_about(seed, NEIGHBOURHOODS[2], &free) {
                        tried[place[&t]] = true;
                    }
                    failed += 1;
                    if failed >= MOST_FAILED {
                        break;
                    }
                }
            }
        }
        self.merge(patch, &place, &mut face, &mut regions)?;
        let surfaces: Vec<Surface> = regions.iter().map(|r| r.surface).collect();
        self.settle_borders(patch, &place, &mut face, &surfaces);
        Ok(face)
    }

    /// Whether all of a patch lies on one surface.
    fn whole(&self, patch: &[u32]) -> bool {
        let Some(surface) = best_fit(&Sample::of_facets(self.facets, patch), self.tolerance) else { return false };
        patch.iter().all(|&t| self.holds(&surface, t, self.tolerance))
    }

    fn area(&self, facets: &[u32]) -> f64 {
        facets.iter().map(|&f| self.facets.area[f as usize]).sum()
    }

    /// How many triangles a facet is at least.
    fn triangles(&self, facet: u32) -> usize {
        self.facets.corners(facet).len().saturating_sub(2).max(1)
    }

    fn holds(&self, surface: &Surface, t: u32, tolerance: f64) -> bool {
        let normal = self.facets.normal[t as usize];
        self.facets.corners(t).iter().all(|p| surface.distance(*p).abs() <= tolerance)
            && (normal == Point::ZERO || surface.normal(self.facets.middle[t as usize]).dot(normal).abs() >= SAME_WAY)
    }

    /// Up to `count` triangles round a seed for which `free` holds, those reached over the flattest edges first: a blunt
    /// edge inside the patch is crossed last.
    fn over_flat_edges(&self, seed: u32, count: usize, free: &dyn Fn(u32) -> bool) -> Vec<u32> {
        // Turns in millionths, the least on top.
        let mut edge: BinaryHeap<(Reverse<u32>, Reverse<u32>)> = BinaryHeap::from([(Reverse(0), Reverse(seed))]);
        let mut seen = HashSet::from([seed]);
        let mut found = Vec::with_capacity(count);
        while let Some((_, Reverse(t))) = edge.pop() {
            found.push(t);
            if found.len() >= count {
                break;
            }
            for &b in self.beside.of(t).iter().filter(|b| free(**b)) {
                if seen.insert(b) {
                    let turn = 1.0 - self.facets.normal[t as usize].dot(self.facets.normal[b as usize]);
                    edge.push((Reverse((turn * 1e6) as u32), Reverse(b)));
                }
            }
        }
        found
    }

    /// The first `count` triangles round a seed for which `free` holds.
    fn round_about(&self, seed: u32, count: usize, free: &dyn Fn(u32) -> bool) -> Vec<u32> {
        let mut found = self.spread_to(seed, count, free);
        found.truncate(count);
        found
    }

    /// The triangles that hang together with a seed and for which `joins` holds.
    fn spread(&self, seed: u32, joins: impl Fn(u32) -> bool) -> Vec<u32> {
        self.spread_to(seed, usize::MAX, joins)
    }

    fn spread_to(&self, seed: u32, enough: usize, joins: impl Fn(u32) -> bool) -> Vec<u32> {
        let mut found = vec![seed];
        let mut seen = HashSet::from([seed]);
        let mut next = 0;
        while next < found.len() && found.len() < enough {
            for &b in self.beside.of(found[next]) {
                if !seen.contains(&b) && joins(b) {
                    seen.insert(b);
                    found.push(b);
                }
            }
            next += 1;
        }
        found
    }

    /// The best surface through a seed, if one holds a face worth the name.
    fn region_at(&self, seed: u32, free: &dyn Fn(u32) -> bool, total: f64) -> Option<Region> {
        let mut best: Option<Region> = None;
        let single = [vec![seed]];
        let mut near: Vec<Vec<u32>> = NEIGHBOURHOODS.iter().map(|&n| self.round_about(seed, n, free)).collect();
        near.extend(NEIGHBOURHOODS[1..].iter().map(|&n| self.over_flat_edges(seed, n, free)));
        for kind in Kind::ALL {
            let begin: &[Vec<u32>] = if kind == Kind::Plane { &single } else { &near };
            for held in begin {
                let Some(region) = self.grow(kind, seed, held.clone(), free) else { continue };
                let significant = match kind {
                    Kind::Plane => region.area >= LEAST_PLANE * total,
                    _ => region.facets.iter().map(|&f| self.triangles(f)).sum::<usize>() >= LEAST_CURVED,
                };
                if significant && best.as_ref().is_none_or(|b| region.beats(b)) && self.ends(&region, seed, free) {
                    best = Some(region);
                }
            }
        }
        best
    }

    /// Grows a surface of a kind, fitted to some triangles first.
    fn grow(&self, kind: Kind, seed: u32, mut held: Vec<u32>, free: &dyn Fn(u32) -> bool) -> Option<Region> {
        let mut best: Option<Region> = None;
        for round in 0..ROUNDS {
            let sample = Sample::of_facets(self.facets, &held);
            let surface = fit(kind, &sample, self.tolerance)?;
            // The first fit is to what is near: it must be good there, or the surface is of another kind.
            if round == 0 && sample.farthest(&surface) > self.tolerance {
                return None;
            }
            let facets = self.spread(seed, |f| free(f) && self.holds(&surface, f, self.tolerance));
            let area = self.area(&facets);
            if best.as_ref().is_some_and(|b| area <= b.area) {
                break;
            }
            held.clone_from(&facets);
            let askew = Sample::of_facets(self.facets, &facets).askew(&surface);
            best = Some(Region { surface, facets, area, askew });
        }
        best
    }

    /// Whether a region ends where its surface does, not where a free form leaves it.
    fn ends(&self, region: &Region, seed: u32, free: &dyn Fn(u32) -> bool) -> bool {
        let looser = self.spread(seed, |t| free(t) && self.holds(&region.surface, t, self.tolerance * LOOSE));
        self.area(&looser) <= region.area * SPREAD
    }

    /// Joins neighbouring regions that lie on one surface: a seed may have seen too little of it.
    fn merge(
        &self,
        patch: &[u32],
        place: &HashMap<u32, usize>,
        face: &mut [u32],
        regions: &mut [Region],
    ) -> Result<(), Cancelled> {
        loop {
            let mut pairs = std::collections::BTreeSet::new();
            for (n, &t) in patch.iter().enumerate() {
                for b in self.beside.of(t).iter().map(|b| face[place[b]]) {
                    if face[n] != 0 && b > face[n] {
                        pairs.insert((face[n], b));
                    }
                }
            }
            let mut merged = false;
            for (a, b) in pairs {
                self.progress.check()?;
                let (into, from) = (&regions[a as usize - 1], &regions[b as usize - 1]);
                if into.facets.is_empty() || from.facets.is_empty() {
                    continue;
                }
                let facets: Vec<u32> = into.facets.iter().chain(&from.facets).copied().collect();
                let sample = Sample::of_facets(self.facets, &facets);
                let Some(surface) = best_fit(&sample, self.tolerance) else { continue };
                let (area, askew) = (into.area + from.area, sample.askew(&surface));
                let apart = (into.askew * into.area + from.askew * from.area) / area;
                if speaks_for(apart, askew) || !facets.iter().all(|&t| self.holds(&surface, t, self.tolerance)) {
                    continue;
                }
                for &t in &regions[b as usize - 1].facets {
                    face[place[&t]] = a;
                }
                regions[b as usize - 1].facets.clear();
                regions[a as usize - 1] = Region { surface, facets, area, askew };
                merged = true;
            }
            if !merged {
                return Ok(());
            }
        }
    }

    /// Moves triangles at the border of two surfaces that touch smoothly to the one whose normal is theirs.
    fn settle_borders(&self, patch: &[u32], place: &HashMap<u32, usize>, face: &mut [u32], surfaces: &[Surface]) {
        for _ in 0..ROUNDS {
            let before = face.to_vec();
            for (n, &t) in patch.iter().enumerate() {
                let middle = self.facets.middle[t as usize];
                let off = |f: u32| match f {
                    0 => f64::INFINITY,
                    f if !self.holds(&surfaces[f as usize - 1], t, self.tolerance) => f64::INFINITY,
                    f => 1.0 - surfaces[f as usize - 1].normal(middle).dot(self.facets.normal[t as usize]).abs(),
                };
                let around = self.beside.of(t).iter().map(|b| before[place[b]]);
                // A little slack keeps triangles that fit both from wandering.
                const SLACK: f64 = 1e-6;
                let best = around.min_by(|&a, &b| off(a).total_cmp(&off(b)));
                if let Some(other) = best.filter(|&o| o != 0 && off(o) + SLACK < off(before[n])) {
                    face[n] = other;
                }
            }
            if face == before {
                break;
            }
        }
    }
}

#[cfg(test)]
mod tests;
