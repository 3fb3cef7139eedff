//! Faces on spheres. No parameters: the face is seen from a place of the sphere that is not in it, through which it becomes a plane
//! figure without seams or poles (stereographic projection, which keeps what Delaunay means).

use std::f64::consts::{PI, TAU};

use nimbet_kernel::Point;
use rustc_hash::FxHashMap;

use crate::fill::Plane;
use crate::frame::Frame;
use crate::rings::{Added, Chain, Corner, FaceFault, area, encloses, points_of, without_seams};

/// A sphere seen from one of its places.
pub(crate) struct Seen {
    centre: Point,
    radius: f64,
    /// Where it is seen from, and two directions square to it.
    from: Point,
    across: [Point; 2],
}

impl Seen {
    fn new(centre: Point, radius: f64, from: Point) -> Self {
        let x = from.any_orthonormal_vector();
        // Counter-clockwise as seen from outside at the place opposite.
        let y = x.cross(from);
        Self { centre, radius, from, across: [x, y] }
    }

    fn flat(&self, p: Point) -> [f64; 2] {
        let d = (p - self.centre).normalize_or_zero();
        let scale = 1.0 / (1.0 - d.dot(self.from)).max(1e-12);
        self.across.map(|a| d.dot(a) * scale)
    }

    fn direction(&self, [x, y]: [f64; 2]) -> Point {
        let r2 = x * x + y * y;
        (self.across[0] * (2.0 * x) + self.across[1] * (2.0 * y) + self.from * (r2 - 1.0)) / (r2 + 1.0)
    }
}

impl Plane for Seen {
    fn place(&self, at: [f64; 2]) -> Point {
        self.centre + self.direction(at) * self.radius
    }

    fn normal(&self, at: [f64; 2]) -> Option<Point> {
        Some(self.direction(at))
    }

    fn stretch(&self, [x, y]: [f64; 2]) -> f64 {
        (2.0 * self.radius / (1.0 + x * x + y * y)).powi(2)
    }
}

/// A view of a sphere, outlines in its plane, and places inside them.
pub(crate) type Laid = (Seen, Vec<Vec<Corner>>, Vec<[f64; 2]>);

/// A face of a sphere as outlines in a plane, with places inside, so many steps from each other.
pub(crate) fn seen(
    (frame, radius): (&Frame, f64),
    bounds: &[Vec<Chain>],
    step: f64,
    points: &mut Added<'_>,
) -> Result<Laid, FaceFault> {
    let mut loops: Vec<Vec<u32>> = without_seams(bounds)?.iter().map(|b| points_of(b)).collect();
    if loops.is_empty() {
        // All of it: with a small triangle, seen from its middle, that is covered last.
        loops.push(small_triangle(frame, radius, step, points));
        let middle = frame.z;
        let view = Seen::new(frame.origin, radius, middle);
        let outlines = flattened(&view, &loops, points);
        let seeds = spread(frame, radius, step, &view, &loops, points);
        return Ok((view, outlines, seeds));
    }
    let view = from_outside(frame, radius, &loops, points).ok_or(FaceFault::Unbounded)?;
    let outlines = flattened(&view, &loops, points);
    let inside: Vec<[f64; 2]> = spread(frame, radius, step, &view, &loops, points)
        .into_iter()
        .filter(|s| outlines.iter().filter(|o| encloses(o, *s)).count() % 2 == 1)
        .collect();
    Ok((view, outlines, inside))
}

fn flattened(view: &Seen, loops: &[Vec<u32>], points: &Added<'_>) -> Vec<Vec<Corner>> {
    loops.iter().map(|ids| ids.iter().map(|id| (*id, view.flat(points.at(*id)))).collect()).collect()
}

/// A small triangle about the upper pole, the rest of the sphere on its left; it is covered like any other.
fn small_triangle(frame: &Frame, radius: f64, step: f64, points: &mut Added<'_>) -> Vec<u32> {
    let tilt = step * 0.5;
    (0..3)
        .map(|n| {
            let out = frame.round(-TAU * f64::from(n) / 3.0);
            points.add(frame.origin + (out * tilt.sin() + frame.z * tilt.cos()) * radius)
        })
        .collect()
}

/// The sphere seen from the place farthest from all bounds that is not in the face.
fn from_outside(frame: &Frame, radius: f64, loops: &[Vec<u32>], points: &Added<'_>) -> Option<Seen> {
    /// So many places are tried.
    const TRIED: usize = 300;
    /// So many points of the bounds are looked at.
    const LOOKED_AT: usize = 600;
    let golden = PI * (3.0 - 5.0_f64.sqrt());
    let all: Vec<Point> =
        loops.iter().flatten().map(|id| (points.at(*id) - frame.origin).normalize_or_zero()).collect();
    let few: Vec<Point> = all.iter().copied().step_by(all.len().div_ceil(LOOKED_AT)).collect();
    let spread = (0..TRIED).map(|n| {
        let z = 1.0 - (2.0 * n as f64 + 1.0) / TRIED as f64;
        (frame.round(golden * n as f64) * (1.0 - z * z).sqrt() + frame.z * z).normalize()
    });
    // Beside each bound, too: its outside may be small.
    let beside = loops.iter().flat_map(|ids| {
        let at = |n: usize| (points.at(ids[n % ids.len()]) - frame.origin).normalize_or_zero();
        (0..ids.len().min(24)).map(move |k| {
            let n = k * ids.len() / ids.len().min(24);
            let (a, b) = (at(n), at(n + 1));
            let right = (b - a).cross((a + b) / 2.0);
            ((a + b) / 2.0 + right * 0.3).normalize_or_zero()
        })
    });
    let middles = loops.iter().map(|ids| {
        let sum: Point = ids.iter().map(|id| (points.at(*id) - frame.origin).normalize_or_zero()).sum();
        sum.normalize_or_zero()
    });
    let mut tried: Vec<(f64, Point)> = spread
        .chain(beside)
        .chain(middles)
        .filter(|c| c.length_squared() > 0.5)
        .map(|c| (few.iter().map(|p| (*p - c).length_squared()).fold(f64::INFINITY, f64::min), c))
        .collect();
    tried.sort_by(|a, b| b.0.total_cmp(&a.0));
    tried.into_iter().filter(|(off, _)| *off > 1e-10).map(|(_, c)| Seen::new(frame.origin, radius, c)).find(|view| {
        let outlines = flattened(view, loops, points);
        outlines.iter().map(|o| area(o)).sum::<f64>() > 0.0
    })
}

/// Places over the whole sphere so far from each other, but for those near to bounds.
fn spread(frame: &Frame, radius: f64, step: f64, view: &Seen, loops: &[Vec<u32>], points: &Added<'_>) -> Vec<[f64; 2]> {
    /// So near to a bound nothing is added, in steps.
    const CLEAR: f64 = 0.6;
    let cell = step * radius;
    let key = |p: Point| (p / cell).floor().as_i64vec3();
    let mut near: FxHashMap<glam::I64Vec3, Vec<Point>> = FxHashMap::default();
    for id in loops.iter().flatten() {
        let p = points.at(*id) - frame.origin;
        near.entry(key(p)).or_default().push(p);
    }
    let free = |p: Point| {
        let at = key(p);
        (-1..=1).all(|x| {
            (-1..=1).all(|y| {
                (-1..=1).all(|z| {
                    let beside = near.get(&(at + glam::I64Vec3::new(x, y, z)));
                    beside.is_none_or(|b| b.iter().all(|q| (*q - p).length() > cell * CLEAR))
                })
            })
        })
    };
    let rows = (PI / (step * 0.87)).ceil().clamp(2.0, 40_000.0) as usize;
    let mut seeds = Vec::new();
    for row in 0..=rows {
        let latitude = -PI / 2.0 + PI * row as f64 / rows as f64;
        let count = (TAU * latitude.cos() / step).round().max(1.0) as usize;
        for n in 0..count {
            let out = frame.round(TAU * (n as f64 + if row % 2 == 0 { 0.0 } else { 0.5 }) / count as f64);
            let d = out * latitude.cos() + frame.z * latitude.sin();
            if free(d * radius) {
                seeds.push(view.flat(frame.origin + d * radius));
            }
        }
    }
    seeds
}
