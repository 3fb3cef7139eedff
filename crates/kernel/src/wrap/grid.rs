//! The grid on which inside and outside are told apart.

use std::collections::HashMap;

use rayon::prelude::*;

use crate::winding::Winding;
use crate::{Aabb, Cancelled, Mesh, Point, Progress};

/// Grid points along a side of a block.
const BLOCK: usize = 8;
/// A block without surface whose samples all wind clearly more or less than half is taken as a whole.
const CLEAR: f64 = 0.1;

/// Grid points with inside or outside for each.
pub(super) struct Grid {
    /// Where point (0, 0, 0) is.
    origin: Point,
    /// The step, mm.
    pub step: f64,
    /// Points along x, y, z.
    pub points: [usize; 3],
    inside: Vec<bool>,
    /// Winding numbers of the blocks that were sampled point by point.
    winding: HashMap<usize, Vec<f32>>,
}

impl Grid {
    /// Steps along each axis for a mesh within `bounds`.
    pub fn steps(bounds: &Aabb, step: f64) -> [usize; 3] {
        bounds.size().to_array().map(|s| ((s / step).ceil().max(1.0) as usize).saturating_add(3))
    }

    /// A grid over bounds with nothing inside.
    fn empty(bounds: &Aabb, step: f64) -> Self {
        let points = Self::steps(bounds, step).map(|s| s + 1);
        // Off the planes and corners that parts like to have at round coordinates.
        let origin = bounds.min - Point::new(1.37, 1.41, 1.39) * step;
        Self { origin, step, points, inside: vec![false; points.iter().product()], winding: HashMap::new() }
    }

    pub fn sample(
        mesh: &Mesh,
        bounds: &Aabb,
        step: f64,
        winding: &Winding,
        progress: &Progress,
    ) -> Result<Self, Cancelled> {
        let mut grid = Self::empty(bounds, step);
        let points = grid.points;
        let blocks = points.map(|p| p.div_ceil(BLOCK));
        let count: usize = blocks.iter().product();
        let near = grid.blocks_at(mesh, blocks);
        let place = |b: usize| [b % blocks[0], b / blocks[0] % blocks[1], b / (blocks[0] * blocks[1])];
        let done = std::sync::atomic::AtomicUsize::new(0);
        let sampled: Vec<Sampled> = (0..count)
            .into_par_iter()
            .map(|b| {
                let n = done.fetch_add(1, std::sync::atomic::Ordering::Relaxed);
                if n.is_multiple_of(64) && progress.report(n as f64 / count as f64, "finding the inside").is_err() {
                    return Sampled::Whole(false);
                }
                let first = place(b).map(|x| x * BLOCK);
                if near[b] { grid.point_by_point(first, winding) } else { grid.as_a_whole(first, winding) }
            })
            .collect();
        progress.check()?;
        for (b, block) in sampled.into_iter().enumerate() {
            let first = place(b).map(|x| x * BLOCK);
            for k in 0..BLOCK * BLOCK * BLOCK {
                let at = [first[0] + k % BLOCK, first[1] + k / BLOCK % BLOCK, first[2] + k / (BLOCK * BLOCK)];
                if (0..3).any(|x| at[x] >= points[x]) {
                    continue;
                }
                let inside = match &block {
                    Sampled::Whole(inside) => *inside,
                    Sampled::Points(w) => w[k] >= 0.5,
                };
                if inside {
                    let n = grid.number(at);
                    grid.inside[n] = true;
                }
            }
            if let Sampled::Points(w) = block {
                grid.winding.insert(b, w);
            }
        }
        Ok(grid)
    }

    /// The grid points at which a field that grows by no more than the way one goes is below nought.
    pub fn below(
        bounds: &Aabb,
        step: f64,
        field: &(dyn Fn(Point) -> f64 + Sync),
        progress: &Progress,
    ) -> Result<Self, Cancelled> {
        let mut grid = Self::empty(bounds, step);
        let points = grid.points;
        let blocks = points.map(|p| p.div_ceil(BLOCK));
        let count: usize = blocks.iter().product();
        let place = |b: usize| [b % blocks[0], b / blocks[0] % blocks[1], b / (blocks[0] * blocks[1])];
        let reach = step * BLOCK as f64 * 0.5 * 3f64.sqrt();
        let done = std::sync::atomic::AtomicUsize::new(0);
        let found: Vec<(bool, Option<Vec<bool>>)> = (0..count)
            .into_par_iter()
            .map(|b| {
                let n = done.fetch_add(1, std::sync::atomic::Ordering::Relaxed);
                if n.is_multiple_of(64) {
                    progress.report(n as f64 / count as f64, "finding the inside")?;
                }
                let first = place(b).map(|x| x * BLOCK);
                let middle = grid.place(first) + Point::splat(step * (BLOCK as f64 - 1.0) * 0.5);
                let value = field(middle);
                if value.abs() > reach {
                    return Ok((value < 0.0, None));
                }
                let at =
                    |k: usize| [first[0] + k % BLOCK, first[1] + k / BLOCK % BLOCK, first[2] + k / (BLOCK * BLOCK)];
                Ok((false, Some((0..BLOCK * BLOCK * BLOCK).map(|k| field(grid.place(at(k))) < 0.0).collect())))
            })
            .collect::<Result<_, Cancelled>>()?;
        for (b, (whole, each)) in found.into_iter().enumerate() {
            let first = place(b).map(|x| x * BLOCK);
            for k in 0..BLOCK * BLOCK * BLOCK {
                let at = [first[0] + k % BLOCK, first[1] + k / BLOCK % BLOCK, first[2] + k / (BLOCK * BLOCK)];
                if (0..3).all(|x| at[x] < points[x]) && each.as_ref().map_or(whole, |each| each[k]) {
                    let n = grid.number(at);
                    grid.inside[n] = true;
                }
            }
        }
        Ok(grid)
    }

    /// Which blocks a triangle passes through, by its box and its plane, a step more all round.
    fn blocks_at(&self, mesh: &Mesh, blocks: [usize; 3]) -> Vec<bool> {
        let size = self.step * BLOCK as f64;
        let mut near = vec![false; blocks.iter().product()];
        for t in 0..mesh.triangles().len() {
            let corners = mesh.corners(t);
            let b = Aabb::of(corners).grown(self.step);
            let index = |p: Point| ((p - self.origin) / size).to_array().map(|x| x.max(0.0) as usize);
            let (low, high) = (index(b.min), index(b.max));
            let normal = mesh.area_vector(t).normalize_or_zero();
            let reach = (size * 0.5 + self.step) * (normal.x.abs() + normal.y.abs() + normal.z.abs());
            for z in low[2]..=high[2].min(blocks[2] - 1) {
                for y in low[1]..=high[1].min(blocks[1] - 1) {
                    for x in low[0]..=high[0].min(blocks[0] - 1) {
                        let centre = self.origin + (Point::new(x as f64, y as f64, z as f64) + 0.5) * size;
                        if (centre - corners[0]).dot(normal).abs() <= reach {
                            near[(z * blocks[1] + y) * blocks[0] + x] = true;
                        }
                    }
                }
            }
        }
        near
    }

    fn point_by_point(&self, first: [usize; 3], winding: &Winding) -> Sampled {
        let at = |k: usize| [first[0] + k % BLOCK, first[1] + k / BLOCK % BLOCK, first[2] + k / (BLOCK * BLOCK)];
        Sampled::Points((0..BLOCK * BLOCK * BLOCK).map(|k| winding.at(self.place(at(k))) as f32).collect())
    }

    fn as_a_whole(&self, first: [usize; 3], winding: &Winding) -> Sampled {
        let corner = |k: usize| [0, 1, 2].map(|x| first[x] + if k >> x & 1 == 1 { BLOCK } else { 0 });
        let middle = first.map(|x| x + BLOCK / 2);
        let samples = (0..8).map(corner).chain([middle]).map(|at| winding.at(self.place(at)) - 0.5);
        let (low, high) = samples.fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), w| (l.min(w), h.max(w)));
        if low > CLEAR || high < -CLEAR { Sampled::Whole(low > 0.0) } else { self.point_by_point(first, winding) }
    }

    pub fn place(&self, at: [usize; 3]) -> Point {
        self.origin + Point::new(at[0] as f64, at[1] as f64, at[2] as f64) * self.step
    }

    fn number(&self, at: [usize; 3]) -> usize {
        (at[2] * self.points[1] + at[1]) * self.points[0] + at[0]
    }

    pub fn is_inside(&self, at: [usize; 3]) -> bool {
        (0..3).all(|x| at[x] < self.points[x]) && self.inside[self.number(at)]
    }

    /// The winding number at a grid point, if it was kept.
    pub fn winding(&self, at: [usize; 3]) -> Option<f64> {
        let blocks = self.points.map(|p| p.div_ceil(BLOCK));
        let b = at.map(|x| x / BLOCK);
        let within = at.map(|x| x % BLOCK);
        let kept = self.winding.get(&((b[2] * blocks[1] + b[1]) * blocks[0] + b[0]))?;
        Some(f64::from(kept[(within[2] * BLOCK + within[1]) * BLOCK + within[0]]))
    }

    /// Adds points to the inside until nowhere two of its points, or two of the outside, touch only across a face or a cell.
    pub fn compose(&mut self, progress: &Progress) -> Result<(), Cancelled> {
        let cells = self.points.map(|p| p - 1);
        let mut waiting: Vec<usize> = (0..cells[2])
            .into_par_iter()
            .flat_map_iter(|z| {
                let grid = &*self;
                (0..cells[1])
                    .flat_map(move |y| (0..cells[0]).map(move |x| [x, y, z]))
                    .filter(|c| critical(grid.cell(*c)) != 0)
                    .map(|c| grid.number(c))
                    .collect::<Vec<_>>()
            })
            .collect();
        progress.check()?;
        while let Some(n) = waiting.pop() {
            let cell = [n % self.points[0], n / self.points[0] % self.points[1], n / (self.points[0] * self.points[1])];
            let add = critical(self.cell(cell));
            for k in (0..8).filter(|k| add >> k & 1 == 1) {
                let at = [0, 1, 2].map(|x| cell[x] + (k >> x & 1));
                let m = self.number(at);
                self.inside[m] = true;
                for near in 0..8 {
                    if (0..3).all(|x| at[x] >= (near >> x & 1)) {
                        let c = [0, 1, 2].map(|x| at[x] - (near >> x & 1));
                        if (0..3).all(|x| c[x] < cells[x]) {
                            waiting.push(self.number(c));
                        }
                    }
                }
            }
        }
        Ok(())
    }

    /// The corners of a cell that are inside, a bit for each; bit k has its x, y, z in the bits of k.
    pub fn cell(&self, c: [usize; 3]) -> u8 {
        let row = |y: usize, z: usize| {
            let n = self.number([c[0], c[1] + y, c[2] + z]);
            u8::from(self.inside[n]) | u8::from(self.inside[n + 1]) << 1
        };
        row(0, 0) | row(1, 0) << 2 | row(0, 1) << 4 | row(1, 1) << 6
    }
}

enum Sampled {
    Whole(bool),
    Points(Vec<f32>),
}

/// The corners to add to a cell's inside so that it has no critical pattern; 0 if it has none.
fn critical(inside: u8) -> u8 {
    if inside == 0 || inside == 255 {
        return 0;
    }
    // The six faces by their corners in order round.
    const FACES: [[u8; 4]; 6] = [[0, 1, 3, 2], [4, 5, 7, 6], [0, 1, 5, 4], [2, 3, 7, 6], [0, 2, 6, 4], [1, 3, 7, 5]];
    let has = |k: u8| inside >> k & 1 == 1;
    for f in FACES {
        let here = f.map(has);
        if here[0] == here[2] && here[1] == here[3] && here[0] != here[1] {
            return f.iter().filter(|k| !has(**k)).fold(0, |m, k| m | 1 << k);
        }
    }
    for k in 0..4u8 {
        let pair = 1 << k | 1 << (7 - k);
        if inside == pair {
            // A way along two sides from one to the other.
            return (1 << (k ^ 1)) | (1 << (k ^ 3));
        }
        if inside == !pair {
            return 1 << k;
        }
    }
    0
}

#[cfg(test)]
mod tests;
