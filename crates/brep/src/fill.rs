//! Outlines in a plane covered with triangles that follow a surface: constrained Delaunay, with points added inside where a
//! triangle would stand off.

use std::collections::{HashMap, VecDeque};

use nimbet_kernel::{Point, Progress};
use rustc_hash::FxHashMap;
use spade::handles::{FixedFaceHandle, FixedVertexHandle, InnerTag};
use spade::{ConstrainedDelaunayTriangulation, Point2, Triangulation};

use crate::rings::{Added, Corner, FaceFault};

/// A plane laid out so that steps are about 1 each way, and what it stands for.
pub(crate) trait Plane {
    /// The place a point of the plane stands for.
    fn place(&self, at: [f64; 2]) -> Point;
    /// The normal of the surface there.
    fn normal(&self, at: [f64; 2]) -> Option<Point>;
    /// How much surface a piece of the plane stands for, by its area there.
    fn stretch(&self, at: [f64; 2]) -> f64;
}

type Cdt = ConstrainedDelaunayTriangulation<Point2<f64>>;

/// Triangles by the numbers of points; counter-clockwise in the plane.
pub(crate) type Triangles = Vec<[u32; 3]>;

struct Filling<'a, 'p> {
    cdt: Cdt,
    ids: Vec<u32>,
    /// How often an outline runs along a side.
    sides: FxHashMap<(usize, usize), u32>,
    plane: &'a dyn Plane,
    points: &'a mut Added<'p>,
}

fn tidy([x, y]: [f64; 2]) -> Point2<f64> {
    // Coordinates nearer to zero than this are below what the triangulation accepts; they mean zero.
    let tidy = |x: f64| if x.abs() < 1e-100 { 0.0 } else { x };
    Point2::new(tidy(x), tidy(y))
}

/// So many points are put down between two questions whether to go on.
const OFTEN: usize = 512;

/// Covers outlines, those of holes among them, with `seeds` inside where they have room.
pub(crate) fn fill(
    outlines: &[Vec<Corner>],
    seeds: &[[f64; 2]],
    plane: &dyn Plane,
    (chord, most): (f64, usize),
    points: &mut Added<'_>,
    progress: &Progress,
) -> Result<Result<Triangles, FaceFault>, nimbet_kernel::Cancelled> {
    let mut filling = Filling { cdt: Cdt::new(), ids: Vec::new(), sides: FxHashMap::default(), plane, points };
    if let Err(fault) = filling.bound(outlines) {
        return Ok(Err(fault));
    }
    filling.seed(outlines, seeds, progress)?;
    filling.refine(chord, most, progress)?;
    filling.taken(outlines, progress)
}

impl Filling<'_, '_> {
    fn bound(&mut self, outlines: &[Vec<Corner>]) -> Result<(), FaceFault> {
        for outline in outlines {
            let mut handles: Vec<FixedVertexHandle> = Vec::with_capacity(outline.len());
            for (id, at) in outline {
                let handle = self.cdt.insert(tidy(*at)).map_err(|_| FaceFault::Crosses)?;
                if handle.index() == self.ids.len() {
                    self.ids.push(*id);
                } else if self.ids[handle.index()] != *id {
                    return Err(FaceFault::Crosses);
                }
                handles.push(handle);
            }
            for n in 0..handles.len() {
                let (a, b) = (handles[n], handles[(n + 1) % handles.len()]);
                if a == b {
                    continue;
                }
                if !self.cdt.can_add_constraint(a, b) {
                    return Err(FaceFault::Crosses);
                }
                self.cdt.add_constraint(a, b);
                // Where a point lies on the side, it would be cut in two there.
                if self.cdt.get_edge_from_neighbors(a, b).is_none_or(|e| !e.is_constraint_edge()) {
                    return Err(FaceFault::Crosses);
                }
                *self.sides.entry(ordered(a.index(), b.index())).or_insert(0) += 1;
            }
        }
        Ok(())
    }

    /// The triangles inside an odd number of outlines.
    fn inside(&self) -> Vec<FixedFaceHandle<InnerTag>> {
        let cdt = &self.cdt;
        let mut inside = vec![None; cdt.num_all_faces()];
        let outer = cdt.outer_face().fix();
        inside[outer.index()] = Some(false);
        let mut queue = VecDeque::from([outer]);
        while let Some(face) = queue.pop_front() {
            let here = inside[face.index()] == Some(true);
            let edges: Vec<_> = match cdt.face(face).as_inner() {
                Some(inner) => inner.adjacent_edges().to_vec(),
                None => cdt.convex_hull().collect(),
            };
            for edge in edges {
                let edge = if cdt.face(face).is_outer() && !edge.face().is_outer() { edge.rev() } else { edge };
                let beyond = edge.rev().face().fix();
                if inside[beyond.index()].is_none() {
                    let [a, b] = edge.vertices().map(|v| v.fix().index());
                    let turns = self.sides.get(&ordered(a, b)).is_some_and(|n| n % 2 == 1);
                    inside[beyond.index()] = Some(here != turns);
                    queue.push_back(beyond);
                }
            }
        }
        cdt.inner_faces().map(|f| f.fix()).filter(|f| inside[f.index()] == Some(true)).collect()
    }

    fn add(&mut self, at: [f64; 2]) {
        let before = self.cdt.num_vertices();
        if let Ok(handle) = self.cdt.insert(tidy(at))
            && handle.index() == before
        {
            let id = self.points.add(self.plane.place(at));
            self.ids.push(id);
        }
    }

    fn seed(
        &mut self,
        outlines: &[Vec<Corner>],
        seeds: &[[f64; 2]],
        progress: &Progress,
    ) -> Result<(), nimbet_kernel::Cancelled> {
        if seeds.is_empty() {
            return Ok(());
        }
        let room = Room::of(outlines);
        let mut free = Vec::new();
        for some in seeds.chunks(OFTEN) {
            progress.check()?;
            free.extend(some.iter().copied().filter(|s| room.has(*s)));
        }
        self.add_all(free, progress)
    }

    fn add_all(&mut self, places: Vec<[f64; 2]>, progress: &Progress) -> Result<(), nimbet_kernel::Cancelled> {
        for (n, at) in places.into_iter().enumerate() {
            if n % OFTEN == 0 {
                progress.check()?;
            }
            self.add(at);
        }
        Ok(())
    }

    /// Adds points until no triangle stands off by more than the chord, or nothing more may be added.
    fn refine(&mut self, chord: f64, most: usize, progress: &Progress) -> Result<(), nimbet_kernel::Cancelled> {
        const PASSES: usize = 14;
        for _ in 0..PASSES {
            progress.check()?;
            if self.cdt.num_vertices() > most {
                break;
            }
            let mut wanted: HashMap<(u64, u64), [f64; 2]> = HashMap::new();
            for (n, face) in self.inside().into_iter().enumerate() {
                if n % OFTEN == 0 {
                    progress.check()?;
                }
                if let Some(at) = self.wanting(face, chord) {
                    wanted.insert((at[0].to_bits(), at[1].to_bits()), at);
                }
            }
            if wanted.is_empty() {
                break;
            }
            let mut wanted: Vec<[f64; 2]> = wanted.into_values().collect();
            wanted.sort_by(|a, b| a[0].total_cmp(&b[0]).then(a[1].total_cmp(&b[1])));
            self.add_all(wanted, progress)?;
        }
        Ok(())
    }

    /// Where a triangle that stands off too far wants a point.
    fn wanting(&self, face: FixedFaceHandle<InnerTag>, chord: f64) -> Option<[f64; 2]> {
        let triangle = self.cdt.face(face);
        let vertices = triangle.vertices();
        let at = vertices.map(|v| [v.position().x, v.position().y]);
        let place = vertices.map(|v| self.points.at(self.ids[v.fix().index()]));
        let mut worst: Option<(f64, [f64; 2])> = None;
        let mut most: f64 = 0.0;
        for edge in triangle.adjacent_edges() {
            let [a, b] = edge.vertices();
            let [pa, pb] = [a, b].map(|v| self.points.at(self.ids[v.fix().index()]));
            if self.sides.contains_key(&ordered(a.fix().index(), b.fix().index())) {
                continue;
            }
            let mid = [(a.position().x + b.position().x) / 2.0, (a.position().y + b.position().y) / 2.0];
            let off = (self.plane.place(mid) - (pa + pb) / 2.0).length();
            most = most.max(off);
            let length = (a.position().x - b.position().x).hypot(a.position().y - b.position().y);
            if worst.is_none_or(|w| w.0 < length) {
                worst = Some((length, mid));
            }
        }
        let middle = [0, 1].map(|k| at.iter().map(|p| p[k]).sum::<f64>() / 3.0);
        let normal = (place[1] - place[0]).cross(place[2] - place[0]).normalize_or_zero();
        let off = (self.plane.place(middle) - (place[0] + place[1] + place[2]) / 3.0).dot(normal).abs();
        // Between points of the bound it can lie no nearer than those let it; half as much again is allowed inside.
        if most <= chord * 1.5 && off <= chord * 1.5 {
            return None;
        }
        match worst {
            Some((length, mid)) if most > chord * 1.5 || length > 1.0 => Some(mid),
            _ => Some(middle),
        }
    }

    /// The triangles inside, checked against the bounds.
    fn taken(
        self,
        outlines: &[Vec<Corner>],
        progress: &Progress,
    ) -> Result<Result<Triangles, FaceFault>, nimbet_kernel::Cancelled> {
        let wanted: f64 = outlines.iter().map(|o| crate::rings::area(o)).sum();
        let (mut covered, mut area, mut turned, mut meant) = (0.0, 0.0, 0.0, 0.0);
        let mut triangles = Triangles::new();
        for (n, face) in self.inside().into_iter().enumerate() {
            if n % OFTEN == 0 {
                progress.check()?;
            }
            let vertices = self.cdt.face(face).vertices();
            let at = vertices.map(|v| [v.position().x, v.position().y]);
            let flat =
                ((at[1][0] - at[0][0]) * (at[2][1] - at[0][1]) - (at[1][1] - at[0][1]) * (at[2][0] - at[0][0])) / 2.0;
            covered += flat;
            let ids = vertices.map(|v| self.ids[v.fix().index()]);
            let [a, b, c] = ids;
            let inner = [[0, 1], [1, 2], [2, 0]].map(|[i, j]| [0, 1].map(|k| (at[i][k] + at[j][k]) / 2.0));
            meant += flat * inner.iter().map(|at| self.plane.stretch(*at)).sum::<f64>() / 3.0;
            // Between copies of a pole lies surface, but its triangle has two corners in one place.
            if a == b || b == c || c == a {
                continue;
            }
            let [p, q, r] = ids.map(|id| self.points.at(id));
            let across = (q - p).cross(r - p) / 2.0;
            let middle = [0, 1].map(|k| at.iter().map(|p| p[k]).sum::<f64>() / 3.0);
            let faces_out = self.plane.normal(middle).is_none_or(|n| n.dot(across) >= 0.0);
            area += across.length();
            turned += if faces_out { 0.0 } else { across.length() };
            triangles.push(ids);
        }
        // Outlines wound the wrong way round enclose what is beside them.
        if (wanted.abs() - covered).abs() > covered * 1e-6 {
            return Ok(Err(FaceFault::Unbounded));
        }
        if turned > area * 1e-3 || (area - meant).abs() > meant * 0.1 {
            return Ok(Err(FaceFault::Area));
        }
        Ok(Ok(triangles))
    }
}

fn ordered(a: usize, b: usize) -> (usize, usize) {
    (a.min(b), a.max(b))
}

/// Which places of the plane are inside and not near to a bound.
struct Room {
    low: [f64; 2],
    /// Sides by the rows they pass.
    rows: Vec<Vec<[[f64; 2]; 2]>>,
    height: f64,
}

impl Room {
    /// So near to a bound nothing is added, in steps.
    const CLEAR: f64 = 0.45;

    fn of(outlines: &[Vec<Corner>]) -> Self {
        const MOST_ROWS: f64 = 20_000.0;
        let [low, high] = crate::rings::boxed(outlines.iter().flatten());
        let tall = high[1] - low[1];
        let height = (tall / MOST_ROWS).max(1.0);
        let mut rows = vec![Vec::new(); (tall / height).floor() as usize + 1];
        let row = |y: f64| (((y - low[1]) / height).max(0.0) as usize).min(rows.len() - 1);
        let mut filled = Vec::new();
        for outline in outlines {
            for n in 0..outline.len() {
                let side = [outline[n].1, outline[(n + 1) % outline.len()].1];
                let (a, b) = (side[0][1].min(side[1][1]) - Self::CLEAR, side[0][1].max(side[1][1]) + Self::CLEAR);
                filled.push((row(a)..=row(b), side));
            }
        }
        for (range, side) in filled {
            range.for_each(|r| rows[r].push(side));
        }
        Self { low, rows, height }
    }

    fn has(&self, [x, y]: [f64; 2]) -> bool {
        let row = (((y - self.low[1]) / self.height).max(0.0) as usize).min(self.rows.len() - 1);
        let mut inside = false;
        for [a, b] in &self.rows[row] {
            if (a[1] > y) != (b[1] > y) && x < a[0] + (b[0] - a[0]) * (y - a[1]) / (b[1] - a[1]) {
                inside = !inside;
            }
            let d = [b[0] - a[0], b[1] - a[1]];
            let t = ((x - a[0]) * d[0] + (y - a[1]) * d[1]) / (d[0] * d[0] + d[1] * d[1]).max(1e-300);
            let t = t.clamp(0.0, 1.0);
            if (x - a[0] - d[0] * t).hypot(y - a[1] - d[1] * t) < Self::CLEAR {
                return false;
            }
        }
        inside
    }
}
