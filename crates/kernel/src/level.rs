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

use crate::crossings::triangle_bvh;
use crate::section::{Contour, contours, holds, signed_area};
use crate::shells::shells;
use crate::topology::EdgeUse;
use crate::triangulate::{FlatError, PlaneFrame, triangulate_flat};
use crate::winding::hit;
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
        let heights: Vec<f64> = mesh.points().iter().map(|p| p.dot(up)).collect();
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
        let mut made = Making { vessel: self, level, points: vec![], number: std::collections::HashMap::new() };
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
        let lid: Vec<Point> = wet.outlines.iter().flatten().copied().collect();
        let mut from = 0;
        let rounds: Vec<Vec<usize>> = wet
            .outlines
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
        let below = |p: u32| above[p as usize] < 0.0;
        let all = mesh.triangles().len() * sides;
        let rounds = contours(mesh, &self.topology, &above);
        // Regions of the plane: what lies round everything, then the inside of each closed contour.
        let outside = all as u32;
        let mut sets = UnionFind::new(all + 1 + rounds.len());
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
            let mut first = (1.0, None);
            let skew = self.up.any_orthonormal_vector() * (level - top) * 1e-7;
            let _ = self.bvh.along_segment(*at, to + skew, |u| {
                if let Some(share) = hit(*at, to + skew, mesh.corners(u as usize)).filter(|s| *s > 1e-9 && *s < first.0)
                {
                    first = (share, Some(u));
                }
                std::ops::ControlFlow::Continue(())
            });
            let over = match first.1 {
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

    fn find_brim(&mut self, progress: &Progress) -> Result<(), LevelFault> {
        let corners = self.mesh.triangles()[self.seed.triangle as usize];
        let lowest = corners.iter().map(|p| self.heights[*p as usize]).fold(f64::INFINITY, f64::min);
        // Just above each height; above the last everything is under the level.
        let just_above = |n: usize| match self.steps.get(n + 1) {
            Some(next) => self.steps[n].midpoint(*next),
            None => self.steps[n] + 1.0,
        };
        let (mut holds_at, mut runs_at) = (self.steps.partition_point(|h| *h < lowest), self.steps.len());
        if self.wet(just_above(holds_at)).runs_off {
            return Err(LevelFault::NoVessel);
        }
        while runs_at - holds_at > 1 {
            progress.report(0.5, "looking for the brim")?;
            let middle = holds_at.midpoint(runs_at);
            if self.wet(just_above(middle)).runs_off { runs_at = middle } else { holds_at = middle }
        }
        let last = self.steps.len() - 1;
        self.brim = if runs_at > last {
            // A void: full at its top.
            let wet = self.wet(self.steps[last] + 1.0);
            let own = (0..self.mesh.triangles().len()).filter(|t| wet.pool_of[t * self.sides] == wet.pool);
            let top =
                own.flat_map(|t| self.mesh.triangles()[t]).map(|p| self.heights[p as usize]).fold(lowest, f64::max);
            Brim { level: top, at: None, at_rim: false }
        } else {
            let level = self.steps[runs_at];
            let under = self.wet(just_above(runs_at - 1));
            let over = self.wet(just_above(runs_at));
            self.spill(level, &under, &over)
        };
        Ok(())
    }

    /// The point at a height at which what was a pool below it becomes one with the outside.
    fn spill(&self, level: f64, under: &Wet, over: &Wet) -> Brim {
        let mut on_rim = vec![false; self.mesh.points().len()];
        for half in self.topology.naked_halves() {
            let (p, q) = self.topology.ends(half);
            on_rim[p as usize] = true;
            on_rim[q as usize] = true;
        }
        let mut best: Option<(u8, u32)> = None;
        for (t, corners) in self.mesh.triangles().iter().enumerate() {
            let sides = t * self.sides..(t + 1) * self.sides;
            let was = sides.clone().any(|s| under.pool_of[s] == under.pool);
            let is = sides.clone().any(|s| over.pool_of[s] == over.pool);
            for p in corners.iter().filter(|p| self.heights[**p as usize] == level) {
                // A point of a rim of the pool, of the pool, or of what it runs into.
                let rank = if on_rim[*p as usize] && is {
                    3
                } else if was {
                    2
                } else {
                    u8::from(is)
                };
                if best.is_none_or(|b| rank > b.0) {
                    best = Some((rank, *p));
                }
            }
        }
        let at = best.map(|b| self.mesh.points()[b.1 as usize]);
        Brim { level, at, at_rim: best.is_some_and(|b| b.0 == 3) }
    }

    /// The deepest place of the pool that is full to the brim, or to just above the seed.
    fn find_bottom(&mut self) -> Result<(), LevelFault> {
        let corners = self.mesh.triangles()[self.seed.triangle as usize];
        let lowest = corners.iter().map(|p| self.heights[*p as usize]).fold(f64::INFINITY, f64::min);
        let next = self.steps.partition_point(|h| *h <= lowest);
        let just_above = self.steps.get(next).map_or(self.brim.level, |n| lowest.midpoint(*n)).min(self.brim.level);
        let wet = self.wet(just_above);
        let mut deepest = (f64::INFINITY, self.seed);
        for t in 0..self.mesh.triangles().len() {
            for side in (0..self.sides).filter(|s| wet.pool_of[t * self.sides + s] == wet.pool) {
                let low =
                    self.mesh.triangles()[t].iter().map(|p| self.heights[*p as usize]).fold(f64::INFINITY, f64::min);
                if low < deepest.0 {
                    deepest = (low, Seed { triangle: t as u32, back: side == 1 });
                }
            }
        }
        self.seed = deepest.1;
        if deepest.0 < self.brim.level { Ok(()) } else { Err(LevelFault::NoVessel) }
    }
}

impl Wet {
    fn nothing() -> Self {
        Self { pool_of: vec![], pool: 0, runs_off: true, volume: 0.0, area: 0.0, outlines: vec![] }
    }
}

/// For each contour the smallest closed one it lies in.
fn nested(rounds: &[Contour], flat: &[Vec<[f64; 2]>], areas: &[f64]) -> Vec<Option<usize>> {
    let boxes: Vec<[f64; 4]> = flat
        .iter()
        .map(|f| {
            f.iter().fold([f64::INFINITY, f64::INFINITY, f64::NEG_INFINITY, f64::NEG_INFINITY], |b, p| {
                [b[0].min(p[0]), b[1].min(p[1]), b[2].max(p[0]), b[3].max(p[1])]
            })
        })
        .collect();
    (0..rounds.len())
        .map(|n| {
            let p = flat[n][0];
            let larger =
                |m: &usize| *m != n && rounds[*m].closed && (!rounds[n].closed || areas[*m].abs() > areas[n].abs());
            let in_box = |m: &usize| {
                boxes[*m][0] <= p[0] && p[0] <= boxes[*m][2] && boxes[*m][1] <= p[1] && p[1] <= boxes[*m][3]
            };
            (0..rounds.len())
                .filter(larger)
                .filter(in_box)
                .filter(|m| holds(&flat[*m], p))
                .min_by(|a, b| areas[*a].abs().total_cmp(&areas[*b].abs()))
        })
        .collect()
}

/// The body of a liquid being made.
struct Making<'a> {
    vessel: &'a Vessel<'a>,
    level: f64,
    points: Vec<Point>,
    number: std::collections::HashMap<[u64; 3], u32>,
}

impl Making<'_> {
    fn point(&mut self, p: Point) -> u32 {
        let p = p + Point::ZERO;
        *self.number.entry(p.to_array().map(f64::to_bits)).or_insert_with(|| {
            self.points.push(p);
            self.points.len() as u32 - 1
        })
    }

    /// The part of a triangle below the level, as a polygon; cut at the places the contours have.
    fn clipped(&mut self, t: u32) -> Vec<u32> {
        let corners = self.vessel.mesh.triangles()[t as usize];
        let above = |p: u32| self.vessel.heights[p as usize] - self.level;
        let mut around = Vec::with_capacity(4);
        for k in 0..3 {
            let (p, q) = (corners[k], corners[(k + 1) % 3]);
            if above(p) < 0.0 {
                around.push(self.vessel.mesh.points()[p as usize]);
            }
            if (above(p) < 0.0) != (above(q) < 0.0) {
                let (a, b) = (p.min(q), p.max(q));
                let share = above(a) / (above(a) - above(b));
                around.push(self.vessel.mesh.points()[a as usize].lerp(self.vessel.mesh.points()[b as usize], share));
            }
        }
        around.into_iter().map(|p| self.point(p)).collect()
    }
}

#[cfg(test)]
mod tests {
    use std::f64::consts::PI;

    use proptest::prelude::*;

    use super::*;
    use crate::measure::measure;
    use crate::shapes::{ball, block, turned};

    /// The triangle nearest to a place, from the side a direction comes from.
    fn seed(mesh: &Mesh, at: Point) -> Seed {
        let distance = |t: usize| crate::segments::nearest_on_triangle(at, mesh.corners(t)).distance(at);
        let t = (0..mesh.triangles().len()).min_by(|a, b| distance(*a).total_cmp(&distance(*b))).unwrap();
        let back = mesh.area_vector(t).dot(at - mesh.corners(t)[0]) < 0.0;
        Seed { triangle: t as u32, back }
    }

    fn vessel<'a>(mesh: &'a Mesh, at: Point, up: Point) -> Vessel<'a> {
        Vessel::new(mesh, seed(mesh, at), up, &Progress::unwatched()).unwrap()
    }

    fn body_is_what_the_pool_says(vessel: &Vessel<'_>, level: f64) {
        let pool = vessel.pool(level).unwrap();
        let body = vessel.body(level).unwrap();
        let topology = Topology::new(body.triangles(), body.points().len());
        assert!((0..topology.edge_count() as u32).all(|e| topology.edge_use(e) == EdgeUse::Regular));
        let volume = measure(&body).volume;
        assert!((volume - pool.volume).abs() < 1e-9 * pool.volume.max(1.0), "{volume} is not {}", pool.volume);
    }

    /// A cup: the outside up, the brim, the inside down.
    fn cup(segments: usize) -> Mesh {
        turned(&[(0.0, 0.0), (22.0, 0.0), (30.0, 50.0), (27.0, 50.0), (19.0, 4.0), (0.0, 4.0)], segments)
    }

    #[test]
    fn a_cup_holds_a_frustum_at_every_level_and_runs_over_its_brim() {
        let cup = cup(180);
        let v = vessel(&cup, Point::new(1.0, 1.0, 5.0), Point::Z);
        assert_eq!((v.brim().level, v.bottom()), (50.0, 4.0));
        assert!((v.brim().at.unwrap().z - 50.0).abs() < 1e-12 && !v.brim().at_rim);
        let facets = (2.0 * PI / 180.0).sin() / (2.0 * PI / 180.0);
        for level in [4.001, 10.0, 27.3, 49.9, 50.0, 80.0] {
            let pool = v.pool(level).unwrap();
            let h = level.min(50.0) - 4.0;
            let top = 19.0 + 8.0 / 46.0 * h;
            let wanted = PI * h / 3.0 * (19.0 * 19.0 + 19.0 * top + top * top) * facets;
            assert!((pool.volume / wanted - 1.0).abs() < 1e-9, "{level}: {} is not {wanted}", pool.volume);
            assert!((pool.area / (PI * top * top * facets) - 1.0).abs() < 1e-9 || level >= 50.0);
            let back = v.level_of(pool.volume, &Progress::unwatched()).unwrap();
            assert!((back - level.min(50.0)).abs() < 1e-8, "{back} is not {level}");
            if level < 50.0 {
                body_is_what_the_pool_says(&v, level);
            }
        }
        assert!(v.pool(3.0).is_none() && v.pool(4.0).is_none());
        // Beside it and under it nothing can be filled.
        let fault = Vessel::new(&cup, seed(&cup, Point::new(40.0, 0.0, 20.0)), Point::Z, &Progress::unwatched());
        assert_eq!(fault.err(), Some(LevelFault::NoVessel));
        // Turned over it holds what its foot holds: nothing.
        let fault = Vessel::new(&cup, seed(&cup, Point::new(1.0, 1.0, -1.0)), -Point::Z, &Progress::unwatched());
        assert_eq!(fault.err(), Some(LevelFault::NoVessel));
    }

    #[test]
    fn a_tilted_bowl_holds_the_cap_of_its_ball() {
        // A sheet: half a ball, filled through its rim.
        let round = ball(20.0, 120);
        let bowl = round.retain_triangles(|t| round.corners(t).iter().all(|p| p.z < 1e-9));
        for tilt in [0.0f64, 0.3, 0.7] {
            let up = Point::new(tilt.sin(), 0.0, tilt.cos());
            let v = vessel(&bowl, Point::new(0.0, 0.0, -19.0), up);
            // The rim dips to the side of the tilt.
            let lip = -20.0 * tilt.sin();
            assert!((v.brim().level - lip).abs() < 0.02 && v.brim().at_rim, "{tilt}: {:?}", v.brim());
            for share in [0.2, 0.9, 1.0] {
                let depth = (lip + 20.0) * share;
                let pool = v.pool(-20.0 + depth).unwrap();
                let cap = PI * depth * depth * (20.0 - depth / 3.0);
                assert!((pool.volume / cap - 1.0).abs() < 4e-3, "{tilt} {share}: {} is not {cap}", pool.volume);
            }
            body_is_what_the_pool_says(&v, lip - 5.0);
        }
        // The outside of the same sheet holds nothing.
        let under = Vessel::new(&bowl, seed(&bowl, Point::new(0.0, 0.0, -21.0)), Point::Z, &Progress::unwatched());
        assert_eq!(under.err(), Some(LevelFault::NoVessel));
    }

    #[test]
    fn a_trough_with_a_sill_fills_one_side_then_the_other_and_a_ring_holds_a_moat() {
        // A tray 30 × 20 in plan, 1 thick, 10 high, with a sill of 4 across its middle: as a turned ring would be a moat.
        let profile = [
            (0.0, 0.0),
            (12.0, 0.0),
            (12.0, 10.0),
            (11.0, 10.0),
            (11.0, 1.0),
            (6.0, 1.0),
            (6.0, 5.0),
            (5.0, 5.0),
            (5.0, 1.0),
            (0.0, 1.0),
        ];
        let tray = turned(&profile, 4);
        let inner = vessel(&tray, Point::new(0.1, 0.1, 1.5), Point::Z);
        let moat = vessel(&tray, Point::new(4.3, 4.3, 1.5), Point::Z);
        // Square rings: a turned profile in four has the area 2 r².
        let ring = |outer: f64, inner: f64, h: f64| 2.0 * (outer * outer - inner * inner) * h;
        assert!((inner.pool(3.0).unwrap().volume - ring(5.0, 0.0, 2.0)).abs() < 1e-9);
        assert!((moat.pool(3.0).unwrap().volume - ring(11.0, 6.0, 2.0)).abs() < 1e-9);
        // Above the sill both are one.
        let both = ring(11.0, 0.0, 5.0) + ring(11.0, 6.0, 4.0) + ring(5.0, 0.0, 4.0);
        assert!(
            (inner.pool(10.0).unwrap().volume - both).abs() < 1e-9
                && (moat.pool(10.0).unwrap().volume - both).abs() < 1e-9
        );
        assert_eq!(inner.brim().level, 10.0);
        // More than the middle holds stands at the sill until the moat is full.
        let half = ring(5.0, 0.0, 4.0) + ring(11.0, 6.0, 4.0) * 0.5;
        assert!((inner.level_of(half, &Progress::unwatched()).unwrap() - 5.0).abs() < 1e-8);
        body_is_what_the_pool_says(&moat, 4.0);
        body_is_what_the_pool_says(&inner, 7.0);
    }

    #[test]
    fn voids_fill_to_their_tops_and_what_floats_in_them_takes_its_room() {
        let mut void = block(Point::splat(2.0), Point::splat(6.0));
        void.reverse_triangles(|_| true);
        let core = block(Point::splat(4.0), Point::splat(1.0));
        let (mut points, mut triangles) = (Vec::new(), Vec::new());
        for m in [&block(Point::ZERO, Point::splat(10.0)), &void, &core] {
            let from = points.len() as u32;
            points.extend(m.points());
            triangles.extend(m.triangles().iter().map(|t| t.map(|p| p + from)));
        }
        let part = Mesh::with_one_face(points, triangles).unwrap();
        let v = vessel(&part, Point::new(3.0, 3.0, 2.1), Point::Z);
        assert_eq!((v.brim().level, v.brim().at), (8.0, None));
        assert!((v.pool(3.5).unwrap().volume - 36.0 * 1.5).abs() < 1e-9);
        assert!((v.pool(4.5).unwrap().volume - (36.0 * 2.5 - 0.5)).abs() < 1e-9);
        assert!((v.pool(6.0).unwrap().volume - (36.0 * 4.0 - 1.0)).abs() < 1e-9);
        assert!((v.pool(9.0).unwrap().volume - (216.0 - 1.0)).abs() < 1e-9);
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(32))]
        #[test]
        fn of_any_turned_vessel_the_volume_is_that_of_its_sections(
            radii in prop::collection::vec(3.0f64..20.0, 3..8), wall in 0.5f64..2.0, turn in 0.0f64..0.3,
        ) {
            let mut profile = vec![(0.0, -wall), (radii[0] + wall, -wall)];
            profile.extend(radii.iter().enumerate().map(|(n, r)| (*r + wall, n as f64 * 5.0)));
            profile.extend(radii.iter().enumerate().rev().map(|(n, r)| (*r, n as f64 * 5.0)));
            profile.push((0.0, 0.0));
            let part = turned(&profile, 24);
            let up = Point::new(turn.sin(), 0.0, turn.cos());
            let at = seed(&part, Point::new(0.5, 0.2, 0.01));
            let Ok(v) = Vessel::new(&part, at, up, &Progress::unwatched()) else { return Ok(()) };
            let (bottom, brim) = (v.bottom(), v.brim().level);
            const SLICES: usize = 400;
            let step = (brim - bottom) / SLICES as f64;
            let areas: f64 = (0..SLICES).filter_map(|n| Some(v.pool(bottom + (n as f64 + 0.5) * step)?.area)).sum();
            let pool = v.pool(brim).unwrap();
            prop_assert!((areas * step / pool.volume - 1.0).abs() < 0.02, "{} is not {}", areas * step, pool.volume);
            let half = v.level_of(pool.volume * 0.5, &Progress::unwatched()).unwrap();
            let there = v.pool(half).unwrap().volume;
            prop_assert!((there / pool.volume - 0.5).abs() < 1e-6, "{there} of {}", pool.volume);
        }
    }
}
