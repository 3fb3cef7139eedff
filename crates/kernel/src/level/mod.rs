//! What a vessel holds: the liquid up to a level, where it runs over, and the level of a volume.
//!
//! Below a level the surface is wet or not triangle by triangle, on each of its sides: of a closed part only the outside of the
//! material, of a sheet both, which are one at its rims. In the plane of the level the contours part regions. Wet sides that
//! share an edge, and regions with the sides at their contours, are *pools*: each is one body of liquid. The one at the place asked
//! for is full to the level unless it is one with what lies round the part, or with all that is above it.
//!
//! The volume is the flux of `(height − level) · up` through the wet sides, which is nought through the level itself, so no lid
//! need be made for it. Each level costs one pass over the triangles; the brim is found by halving between the heights of points,
//! for only there pools join.

mod body;
mod brim;

use body::{Making, nested};

use crate::crossings::triangle_bvh;
use crate::precision::precision;
use crate::section::{contours, holds, signed_area};
use crate::segments::hit;
use crate::shells::shells;
use crate::topology::EdgeUse;
use crate::triangulate::{FlatError, PlaneFrame, triangulate_flat};
use crate::{Cancelled, FaceId, Mesh, MeshError, Point, Progress, Topology, UnionFind};

/// A place in a vessel: a triangle, and which side of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Seed {
    /// The triangle.
    pub triangle: u32,
    /// The side its normal points away from; only sheets have one.
    pub back: bool,
}

/// Liquid in a vessel.
#[derive(Clone, Debug, PartialEq)]
pub struct Pool {
    /// Its height along the upward direction, mm.
    pub level: f64,
    /// mm³.
    pub volume: f64,
    /// The area of its surface, mm².
    pub area: f64,
    /// The outlines of its surface; holes among them.
    pub outlines: Vec<Vec<Point>>,
}

/// Where a vessel runs over.
#[derive(Clone, Debug, PartialEq)]
pub struct Brim {
    /// The highest level it holds, mm.
    pub level: f64,
    /// Where it runs over; none of a void that is closed all round.
    pub at: Option<Point>,
    /// Whether that is at a rim of the surface.
    pub at_rim: bool,
}

/// Why there is no liquid.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum LevelFault {
    /// The upward direction is none.
    #[error("the upward direction has no length")]
    NoWay,
    /// Nothing at the place holds liquid: it runs off, or lies under it.
    #[error("nothing can be filled here")]
    NoVessel,
    /// The surface of the liquid could not be made.
    #[error(transparent)]
    Lid(#[from] FlatError),
    /// A fault of the program.
    #[error(transparent)]
    Mesh(#[from] MeshError),
    /// Somebody asked to stop.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
}

/// A vessel made ready for levels.
pub struct Vessel<'a> {
    mesh: &'a Mesh,
    topology: Topology<'a>,
    up: Point,
    heights: Vec<f64>,
    /// The heights there are, ascending, each once; where the brim is to be found.
    steps: Vec<f64>,
    /// Sides of each triangle: one of a closed part, two of a sheet.
    sides: usize,
    /// The deepest place of the vessel.
    seed: Seed,
    brim: Brim,
    /// Shells beside the first with the topmost point of each; whether they lie in the liquid is to be looked for.
    shells: Vec<(f64, u32, Point)>,
    bvh: crate::Bvh,
}

/// Heights of which those are made one that are so within a precision: the floor of a vessel that was turned in space is level all
/// the same.
fn levelled(mut heights: Vec<f64>, precision: f64) -> Vec<f64> {
    let mut order: Vec<u32> = (0..heights.len() as u32).collect();
    order.sort_unstable_by(|a, b| heights[*a as usize].total_cmp(&heights[*b as usize]));
    let mut from = 0;
    for n in 1..=order.len() {
        let height = |k: usize| heights[order[k] as usize];
        if n < order.len() && height(n) - height(n - 1) <= precision && height(n) - height(from) <= 2.0 * precision {
            continue;
        }
        let middle = height((from + n - 1) / 2);
        order[from..n].iter().for_each(|p| heights[*p as usize] = middle);
        from = n;
    }
    heights
}

/// What is wet below a level.
struct Wet {
    /// For each side of each triangle its pool.
    pool_of: Vec<u32>,
    pool: u32,
    runs_off: bool,
    volume: f64,
    area: f64,
    outlines: Vec<Vec<Point>>,
}

impl<'a> Vessel<'a> {
    /// A vessel by a place in it, with the direction that is up.
    ///
    /// # Errors
    /// [`LevelFault::NoVessel`] where nothing can be filled.
    pub fn new(mesh: &'a Mesh, seed: Seed, up: Point, progress: &Progress) -> Result<Self, LevelFault> {
        let mut vessel = Self::made(mesh, seed, up)?;
        vessel.steps = vessel.heights.clone();
        vessel.steps.sort_by(f64::total_cmp);
        vessel.steps.dedup();
        vessel.find_brim(progress)?;
        vessel.find_bottom()?;
        Ok(vessel)
    }

    fn made(mesh: &'a Mesh, seed: Seed, up: Point) -> Result<Self, LevelFault> {
        let up = up.try_normalize().ok_or(LevelFault::NoWay)?;
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        let heights = levelled(mesh.points().iter().map(|p| p.dot(up)).collect(), precision(mesh.points().iter()));
        let open = (0..topology.edge_count() as u32).any(|e| topology.edge_use(e) == EdgeUse::Naked);
        let (shell_of, count) = shells(&topology);
        let mut tops: Vec<(f64, u32, Point)> = vec![(f64::NEG_INFINITY, 0, Point::ZERO); count];
        for (t, s) in shell_of.iter().enumerate() {
            for p in mesh.triangles()[t] {
                if heights[p as usize] > tops[*s as usize].0 {
                    tops[*s as usize] = (heights[p as usize], t as u32, mesh.points()[p as usize]);
                }
            }
        }
        if count == 1 {
            tops.clear();
        }
        let brim = Brim { level: 0.0, at: None, at_rim: false };
        let bvh = if tops.is_empty() { crate::Bvh::new(vec![]) } else { triangle_bvh(mesh) };
        let sides = if open { 2 } else { 1 };
        let seed = Seed { back: open && seed.back, ..seed };
        Ok(Self { mesh, topology, up, heights, steps: vec![], sides, seed, brim, shells: tops, bvh })
    }

    /// A vessel of which the deepest place and the brim are known.
    ///
    /// # Errors
    /// [`LevelFault::NoWay`].
    pub fn known(mesh: &'a Mesh, seed: Seed, up: Point, brim: Brim) -> Result<Self, LevelFault> {
        Ok(Self { brim, ..Self::made(mesh, seed, up)? })
    }

    /// Its deepest place.
    pub fn seed(&self) -> Seed {
        self.seed
    }

    /// Where it runs over.
    pub fn brim(&self) -> &Brim {
        &self.brim
    }

    /// The height of its deepest place along the upward direction, mm.
    pub fn bottom(&self) -> f64 {
        let corners = self.mesh.triangles()[self.seed.triangle as usize];
        corners.iter().map(|p| self.heights[*p as usize]).fold(f64::INFINITY, f64::min)
    }

    /// The liquid up to a level, mm along the upward direction; up to the brim where the level is above it. None below the
    /// deepest place.
    pub fn pool(&self, level: f64) -> Option<Pool> {
        let level = level.min(self.brim.level);
        if level <= self.bottom() {
            return None;
        }
        let wet = self.wet(level);
        Some(Pool { level, volume: wet.volume, area: wet.area, outlines: wet.outlines })
    }

    /// The level of a volume, mm³: the brim where it does not hold as much. Where it runs over a sill into a deeper place beside,
    /// that fills first, at the height of the sill.
    pub fn level_of(&self, volume: f64, progress: &Progress) -> Result<f64, Cancelled> {
        /// The volume is met to this share, the level to this share of the height.
        const CLOSE: f64 = 1e-12;
        const ROUNDS: usize = 100;
        let (mut low, mut high) = (self.bottom(), self.brim.level);
        if volume <= 0.0 {
            return Ok(low);
        }
        let full = self.wet(high).volume;
        if volume >= full {
            return Ok(high);
        }
        let span = high - low;
        let mut at = low + span * volume / full;
        for _ in 0..ROUNDS {
            progress.check()?;
            let wet = self.wet(at);
            let off = wet.volume - volume;
            if off.abs() <= CLOSE * full || high - low <= CLOSE * span {
                break;
            }
            if off > 0.0 {
                high = at
            } else {
                low = at
            }
            // Straight on by the area of the surface, else halfway.
            let next = at - off / wet.area;
            at = if wet.area > 0.0 && next > low && next < high { next } else { low.midpoint(high) };
        }
        Ok(at)
    }

    /// The liquid as a closed body: what is wet, turned over, and its surface. Faces keep the numbers of the vessel's; the surface
    /// has the next.
    ///
    /// # Errors
    /// [`LevelFault`].
    pub fn body(&self, level: f64) -> Result<Mesh, LevelFault> {
        let level = level.min(self.brim.level);
        if level <= self.bottom() {
            return Err(LevelFault::NoVessel);
        }
        let wet = self.wet(level);
        let above = self.heights.iter().map(|h| h - level).collect();
        let mut made = Making { vessel: self, above, points: vec![], number: std::collections::HashMap::new() };
        let (mut triangles, mut faces) = (Vec::new(), Vec::new());
        for t in 0..self.mesh.triangles().len() {
            for side in 0..self.sides {
                if wet.pool_of[t * self.sides + side] != wet.pool {
                    continue;
                }
                let mut around = made.clipped(t as u32);
                if side == 0 {
                    around.reverse();
                }
                for pair in around.windows(2).skip(1) {
                    triangles.push([around[0], pair[0], pair[1]]);
                    faces.push(self.mesh.face_of()[t]);
                }
            }
        }
        let plane = PlaneFrame::new(self.up * level, self.up).ok_or(LevelFault::NoWay)?;
        // Where a point lies at the level, all the edges that end there go through it.
        let mut outlines = wet.outlines;
        for round in &mut outlines {
            round.dedup();
            while round.len() > 1 && round.first() == round.last() {
                round.pop();
            }
        }
        outlines.retain(|round| round.len() > 2);
        let lid: Vec<Point> = outlines.iter().flatten().copied().collect();
        let mut from = 0;
        let rounds: Vec<Vec<usize>> = outlines
            .iter()
            .map(|round| {
                from += round.len();
                (from - round.len()..from).collect()
            })
            .collect();
        let flat: Vec<[f64; 2]> = lid.iter().map(|p| plane.flatten(*p)).collect();
        if !rounds.is_empty() {
            for corners in triangulate_flat(&flat, &rounds)? {
                let corners = corners.map(|c| made.point(lid[c]));
                triangles.push(corners);
                faces.push(self.mesh.next_face());
            }
        }
        let keep: Vec<bool> = triangles.iter().map(|[a, b, c]| a != b && b != c && c != a).collect();
        let mut kept = keep.iter();
        triangles.retain(|_| *kept.next().unwrap_or(&false));
        let mut kept = keep.iter();
        faces.retain(|_: &FaceId| *kept.next().unwrap_or(&false));
        Ok(Mesh::new(made.points, triangles, faces)?)
    }

    fn side(&self, triangle: u32, back: bool) -> u32 {
        triangle * self.sides as u32 + u32::from(back && self.sides == 2)
    }

    /// What is wet below a level.
    fn wet(&self, level: f64) -> Wet {
        let (mesh, sides) = (self.mesh, self.sides);
        let above: Vec<f64> = self.heights.iter().map(|h| h - level).collect();
        let all = mesh.triangles().len() * sides;
        let rounds = contours(mesh, &self.topology, &above);
        // Regions of the plane: what lies round everything, then the inside of each closed contour.
        let outside = all as u32;
        let mut sets = UnionFind::new(all + 1 + rounds.len());
        self.join_along_edges(&above, &mut sets);
        let Some(plane) = PlaneFrame::new(self.up * level, self.up) else { return Wet::nothing() };
        let flat: Vec<Vec<[f64; 2]>> =
            rounds.iter().map(|r| r.points.iter().map(|p| plane.flatten(*p)).collect()).collect();
        let areas: Vec<f64> =
            rounds.iter().zip(&flat).map(|(r, f)| if r.closed { signed_area(f) } else { 0.0 }).collect();
        let around = nested(&rounds, &flat, &areas);
        let region = |n: Option<usize>| n.map_or(outside, |n| outside + 1 + n as u32);
        for (n, round) in rounds.iter().enumerate() {
            let (inner, outer) = if round.closed {
                (region(Some(n)), region(around[n]))
            } else {
                (region(around[n]), region(around[n]))
            };
            // Material on the left: the front faces what is on the right.
            let (front, back) = if areas[n] > 0.0 { (outer, inner) } else { (inner, outer) };
            for t in &round.triangles {
                sets.union(self.side(*t, false), front);
                if sides == 2 {
                    sets.union(self.side(*t, true), back);
                }
            }
        }
        // Shells wholly below: what is over their tops says what they lie in.
        for (top, t, at) in self.shells.iter().filter(|s| s.0 < level) {
            let to = *at + self.up * (level - top);
            let over = match self.first_above(*at, to) {
                Some(u) => self.side(u, mesh.area_vector(u as usize).dot(self.up) > 0.0),
                None => {
                    let p = plane.flatten(to);
                    let holding = (0..rounds.len()).filter(|n| rounds[*n].closed && holds(&flat[*n], p));
                    region(holding.min_by(|a, b| areas[*a].abs().total_cmp(&areas[*b].abs())))
                }
            };
            // A void opens to nothing.
            let faces_up = mesh.area_vector(*t as usize).dot(self.up) > 0.0;
            if faces_up || sides == 2 {
                sets.union(self.side(*t, false), over);
            }
        }
        let pool_of: Vec<u32> = (0..all as u32).map(|s| sets.find(s)).collect();
        let pool = sets.find(self.side(self.seed.triangle, self.seed.back));
        let (mut volume, mut cut) = (0.0, false);
        for t in 0..mesh.triangles().len() {
            for side in 0..sides {
                if pool_of[t * sides + side] == pool {
                    let flux = self.flux(t, &above);
                    volume += if side == 0 { -flux } else { flux };
                }
            }
        }
        let mut area = 0.0;
        let mut outlines = Vec::new();
        for (n, round) in rounds.iter().enumerate().filter(|(_, r)| r.closed) {
            cut = true;
            let (inner, outer) = (sets.find(region(Some(n))) == pool, sets.find(region(around[n])) == pool);
            if inner != outer {
                area += areas[n].abs() * if inner { 1.0 } else { -1.0 };
                outlines.push(round.points.clone());
            }
        }
        let at_plane = cut && !outlines.is_empty();
        let runs_off = sets.find(outside) == pool || (!at_plane && volume <= 0.0);
        Wet { pool_of, pool, runs_off, volume, area, outlines }
    }

    /// Sides that share an edge below the level are of one pool.
    fn join_along_edges(&self, above: &[f64], sets: &mut UnionFind) {
        let below = |p: u32| above[p as usize] < 0.0;
        for edge in 0..self.topology.edge_count() as u32 {
            let halves = self.topology.halves(edge);
            let (p, q) = self.topology.ends(halves[0]);
            if !below(p) && !below(q) {
                continue;
            }
            let t = |h: u32| h / 3;
            match (self.topology.edge_use(edge), halves) {
                (EdgeUse::Naked, [a]) => sets.union(self.side(t(*a), false), self.side(t(*a), true)),
                (EdgeUse::Clashing, [a, b]) => {
                    sets.union(self.side(t(*a), false), self.side(t(*b), true));
                    sets.union(self.side(t(*a), true), self.side(t(*b), false));
                }
                (_, [a, b]) => {
                    sets.union(self.side(t(*a), false), self.side(t(*b), false));
                    sets.union(self.side(t(*a), true), self.side(t(*b), true));
                }
                _ => {}
            }
        }
    }

    /// The first triangle straight above a place, below another.
    fn first_above(&self, from: Point, to: Point) -> Option<u32> {
        /// The line leans by this share of its length, so that it meets no edge all along; what lies within this share of its
        /// begin is where it begins.
        const LEANS: f64 = 1e-7;
        const BEGIN: f64 = 1e-9;
        let to = to + self.up.any_orthonormal_vector() * (to - from).length() * LEANS;
        let mut first = (1.0, None);
        let _ = self.bvh.along_segment(from, to, |u| {
            let share = hit(from, to, self.mesh.corners(u as usize));
            if let Some(share) = share.filter(|s| *s > BEGIN && *s < first.0) {
                first = (share, Some(u));
            }
            std::ops::ControlFlow::Continue(())
        });
        first.1
    }

    /// The flux of `(height − level) · up` through the part of a triangle below the level, mm³.
    fn flux(&self, t: usize, above: &[f64]) -> f64 {
        let corners = self.mesh.triangles()[t];
        let heights = corners.map(|p| above[p as usize]);
        // The area seen from above; the mean of the height over a triangle is that of its corners.
        let seen = self.mesh.area_vector(t).dot(self.up) * 0.5;
        let deep = (0..3).filter(|k| heights[*k] < 0.0).count();
        match deep {
            0 => 0.0,
            3 => seen * (heights[0] + heights[1] + heights[2]) / 3.0,
            _ => {
                // One corner is alone on its side.
                let alone = (0..3).find(|k| (heights[*k] < 0.0) == (deep == 1)).unwrap_or(0);
                let (h, a, b) = (heights[alone], heights[(alone + 1) % 3], heights[(alone + 2) % 3]);
                let tip = (h / (h - a)) * (h / (h - b));
                let of_tip = seen * tip * h / 3.0;
                if deep == 1 { of_tip } else { seen * (h + a + b) / 3.0 - of_tip }
            }
        }
    }
}

impl Wet {
    fn nothing() -> Self {
        Self { pool_of: vec![], pool: 0, runs_off: true, volume: 0.0, area: 0.0, outlines: vec![] }
    }
}

#[cfg(test)]
mod tests;
