//! Dual contouring: a point of the skin in each cell that is partly inside, a quadrilateral round each side that is.

use std::collections::HashMap;
use std::ops::ControlFlow;

use nalgebra::{Matrix3, Vector3};
use rayon::prelude::*;

use super::grid::Grid;
use crate::segments::hit;
use crate::winding::Winding;
use crate::{Bvh, Cancelled, Mesh, Point, Progress};

/// Directions in which the surface is this much flatter than in its most curved one do not move the point of a cell.
const FLAT: f64 = 0.1;
/// How far out of its cell a point may lie, as a share of the step: tips poke into cells that have no grid point inside.
const BEYOND: f64 = 0.6;

/// A skin under construction. For each point: the mean of the surface in its cell, and the middle of the cell.
pub(super) struct Skin {
    pub points: Vec<Point>,
    pub middles: Vec<Point>,
    pub cells: Vec<Point>,
    pub triangles: Vec<[u32; 3]>,
}

/// Where a side of the grid goes from inside to outside.
struct Crossing {
    at: [usize; 3],
    axis: usize,
    /// Whether its lower end is inside.
    leaves: bool,
    point: Point,
    normal: Point,
}

/// Where a side of the grid, between two of its points of which the first is inside or not, meets the skin, and the normal
/// there.
pub(super) type Meet<'a> = &'a (dyn Fn([usize; 3], [usize; 3], bool) -> (Point, Point) + Sync);

/// Draws the border of the inside of a grid. `off` is how far a point lies from where the skin should be, mm.
pub(super) fn contour(
    grid: &Grid,
    meet: Meet<'_>,
    off: &(dyn Fn(Point) -> f64 + Sync),
    progress: &Progress,
) -> Result<Skin, Cancelled> {
    let crossings = crossings(grid, meet, progress);
    progress.report(0.6, "placing its points")?;

    // The four cells round a side, counter-clockwise seen against its direction.
    let round = |c: &Crossing| {
        let (u, v) = ((c.axis + 1) % 3, (c.axis + 2) % 3);
        [(1, 1), (0, 1), (0, 0), (1, 0)].map(|(du, dv)| {
            let mut cell = c.at;
            cell[u] -= du;
            cell[v] -= dv;
            cell
        })
    };
    let mut number: HashMap<[usize; 3], u32> = HashMap::new();
    let mut cells: Vec<Fit> = Vec::new();
    let mut quads: Vec<[u32; 4]> = Vec::with_capacity(crossings.len());
    for c in &crossings {
        let ids = round(c).map(|cell| {
            let id = *number.entry(cell).or_insert_with(|| {
                cells.push(Fit::new(grid.place(cell)));
                cells.len() as u32 - 1
            });
            cells[id as usize].add(c.point, c.normal);
            id
        });
        quads.push(if c.leaves { ids } else { [ids[3], ids[2], ids[1], ids[0]] });
    }
    let points: Vec<Point> = cells.par_iter().map(|f| f.solve(grid.step)).collect();
    progress.report(0.8, "joining its points")?;
    let triangles = quads
        .par_iter()
        .flat_map_iter(|&[a, b, c, d]| {
            let [p, q, r, s] = [a, b, c, d].map(|i| points[i as usize]);
            let (first, second) = (p.midpoint(r), q.midpoint(s));
            // The diagonal that lies nearer to the surface, where they differ.
            let one = if first.distance(second) < grid.step * 0.02 {
                p.distance_squared(r) <= q.distance_squared(s)
            } else {
                off(first) <= off(second)
            };
            if one { [[a, b, c], [a, c, d]] } else { [[a, b, d], [b, c, d]] }
        })
        .collect();
    progress.check()?;
    let half = Point::splat(grid.step * 0.5);
    Ok(Skin {
        points,
        middles: cells.iter().map(|f| f.held(f.mean(), grid.step)).collect(),
        cells: cells.iter().map(|f| f.corner + half).collect(),
        triangles,
    })
}

/// Where sides of the grid lead from inside to outside, or back.
fn crossings(grid: &Grid, meet: Meet<'_>, progress: &Progress) -> Vec<Crossing> {
    (0..grid.points[2])
        .into_par_iter()
        .flat_map_iter(|z| {
            let mut found = Vec::new();
            if progress.check().is_err() {
                return found.into_iter();
            }
            for y in 0..grid.points[1] {
                for x in 0..grid.points[0] {
                    let at = [x, y, z];
                    let inside = grid.is_inside(at);
                    for axis in 0..3 {
                        let mut to = at;
                        to[axis] += 1;
                        if to[axis] < grid.points[axis] && grid.is_inside(to) != inside {
                            let (point, normal) = meet(at, to, inside);
                            found.push(Crossing { at, axis, leaves: inside, point, normal });
                        }
                    }
                }
            }
            found.into_iter()
        })
        .collect()
}

/// Where a side of the grid meets the skin: the outermost crossing with the surface, or where a membrane spans an opening.
pub(super) fn meet(
    grid: &Grid,
    mesh: &Mesh,
    bvh: &Bvh,
    winding: &Winding,
    at: [usize; 3],
    to: [usize; 3],
    leaves: bool,
) -> (Point, Point) {
    let (a, b) = (grid.place(at), grid.place(to));
    let (inside, outside) = if leaves { (a, b) } else { (b, a) };
    let mut best: Option<(f64, u32)> = None;
    let _ = bvh.along_segment(inside, outside, |t| {
        if let Some(s) = hit(inside, outside, mesh.corners(t as usize))
            && best.is_none_or(|(held, _)| s > held)
        {
            best = Some((s, t));
        }
        ControlFlow::Continue(())
    });
    if let Some((s, t)) = best {
        return (inside.lerp(outside, s), mesh.area_vector(t as usize).normalize_or_zero());
    }
    let (from, into) = if leaves { (at, to) } else { (to, at) };
    let share = match (grid.winding(from), grid.winding(into)) {
        (Some(w), Some(v)) if w > 0.5 && v < 0.5 => (w - 0.5) / (w - v),
        _ => 0.5,
    };
    let p = inside.lerp(outside, share.clamp(0.05, 0.95));
    let h = grid.step * 0.5;
    let slope = |d: Point| winding.at(p - d * h) - winding.at(p + d * h);
    (p, Point::new(slope(Point::X), slope(Point::Y), slope(Point::Z)).normalize_or_zero())
}

/// The planes of the surface in a cell.
struct Fit {
    corner: Point,
    sum: Point,
    count: f64,
    planes: Vec<(Point, Point)>,
}

impl Fit {
    fn new(corner: Point) -> Self {
        Self { corner, sum: Point::ZERO, count: 0.0, planes: Vec::with_capacity(4) }
    }

    fn add(&mut self, point: Point, normal: Point) {
        self.sum += point;
        self.count += 1.0;
        self.planes.push((point, normal));
    }

    fn mean(&self) -> Point {
        self.sum / self.count.max(1.0)
    }

    fn held(&self, p: Point, step: f64) -> Point {
        let slack = Point::splat(step * BEYOND);
        p.clamp(self.corner - slack, self.corner + Point::splat(step) + slack)
    }

    /// The point nearest to all planes, from the mean only in directions in which they bend; held near the cell.
    fn solve(&self, step: f64) -> Point {
        let mean = self.mean();
        let mut a = Matrix3::<f64>::zeros();
        let mut b = Vector3::<f64>::zeros();
        for (p, n) in &self.planes {
            let n_vec = Vector3::new(n.x, n.y, n.z);
            a += n_vec * n_vec.transpose();
            b += n_vec * n.dot(*p - mean);
        }
        let eigen = a.symmetric_eigen();
        let largest = eigen.eigenvalues.max();
        let mut off = Vector3::<f64>::zeros();
        for k in 0..3 {
            let value = eigen.eigenvalues[k];
            if value > FLAT * largest && value > 0.0 {
                let v = eigen.eigenvectors.column(k);
                off += v * (v.dot(&b) / value);
            }
        }
        self.held(mean + Point::new(off.x, off.y, off.z), step)
    }
}
