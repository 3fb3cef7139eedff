//! The grid inputs are rounded to: its step is a power of two, so that what lies on it once stays there.
//!
//! It lies along the axes of the parts ([`frame`]). What flat faces square to an axis agree on within the precision of the
//! inputs is one plane, and every point within that of it lies on it; points within that of each other are one. Decided once,
//! here: from then on nothing is nearly flush.

use glam::DMat3;
use rayon::prelude::*;
use rustc_hash::{FxBuildHasher, FxHashMap};

use super::exact::{LARGEST, Whole};
use super::frame::frame;
use crate::precision::precision;
use crate::{Aabb, Mesh, Point};

/// A grid over the extent of some inputs: 2^26 steps along their longest side at most, 1.5 nm for a part of 100 mm.
#[derive(Clone, Debug)]
pub(super) struct Grid {
    step: f64,
    /// The point in the middle, in steps.
    middle: Point,
    /// Into the frame of the parts; none where that is the world's.
    turn: Option<DMat3>,
    /// What lies nearer to each other is one, in steps; 0 where only the grid rounds.
    one: f64,
    /// For each axis the places of planes square to it, ascending: from, to and where they are taken to be.
    planes: [Vec<(f64, f64, f64)>; 3],
}

impl Grid {
    /// A grid along the world's axes that makes nothing one but what it rounds to one point.
    pub fn plain(input: &Mesh) -> Self {
        Self::along(&[input], None)
    }

    /// A grid along the axes of the inputs, on which is flush what is so within their precision. Rulers only cut: how large they
    /// are says nothing of that. It spans what lies beside the inputs, too.
    pub fn over(parts: &[&Mesh], rulers: &[&Mesh], beside: &[&Mesh]) -> Self {
        let inputs = &[parts, rulers].concat()[..];
        let all = &[inputs, beside].concat()[..];
        let plain = Self::along(all, None);
        let size = Aabb::of(all.iter().flat_map(|m| m.points().iter().copied())).size().max_element();
        let mut grid = match frame(inputs, size, plain.step) {
            Some(turn) => Self::along(all, Some(turn)),
            None => plain,
        };
        let precise = if parts.is_empty() { rulers } else { parts };
        grid.one = precise.iter().chain(beside).map(|m| precision(m.points().iter())).fold(0.0, f64::max) / grid.step;
        grid.planes = [0, 1, 2].map(|axis| grid.planes_across(inputs, axis));
        grid
    }

    fn along(inputs: &[&Mesh], turn: Option<DMat3>) -> Self {
        let place = |p: Point| turn.map_or(p, |turn| turn * p);
        let bounds = Aabb::of(inputs.iter().flat_map(|m| m.points().iter().map(|p| place(*p))));
        let size = bounds.size().max_element().max(f64::MIN_POSITIVE);
        // Half the grid on either side of the middle.
        let step = (size / LARGEST).log2().ceil().clamp(-900.0, 900.0).exp2();
        Self { step, middle: (bounds.centre() / step).round(), turn, one: 0.0, planes: Default::default() }
    }

    /// One step, mm.
    pub fn step(&self) -> f64 {
        self.step
    }

    /// What lies nearer to each other is one, mm.
    pub fn one(&self) -> f64 {
        self.one * self.step
    }

    fn in_steps(&self, p: Point) -> Point {
        self.turn.map_or(p, |turn| turn * p) / self.step
    }

    /// The point of the grid for a place: the nearest, but on the planes within the precision of the inputs.
    pub fn whole(&self, p: Point) -> Whole {
        let p = self.in_steps(p);
        [0, 1, 2].map(|axis| {
            let x = p[axis];
            let n = self.planes[axis].partition_point(|plane| plane.1 + self.one < x);
            let on = self.planes[axis].get(n).filter(|plane| plane.0 - self.one <= x);
            (on.map_or(x.round(), |plane| plane.2) - self.middle[axis]) as i64
        })
    }

    /// The place of a point given in steps, mm.
    pub fn place(&self, near: Point) -> Point {
        let p = (near + self.middle) * self.step;
        self.turn.map_or(p, |turn| turn.transpose() * p)
    }

    /// Where flat faces stand square to an axis.
    fn planes_across(&self, inputs: &[&Mesh], axis: usize) -> Vec<(f64, f64, f64)> {
        /// A triangle is no face of a plane when it is not so much larger than the precision.
        const LARGE: f64 = 64.0;
        let across = |(mesh, t): (&Mesh, usize)| {
            let corners = mesh.corners(t).map(|p| self.in_steps(p));
            let [a, b, c] = corners.map(|p| p[axis]);
            let flat = a.max(b).max(c) - a.min(b).min(c) <= self.one;
            let [p, q, r] = corners;
            let longest = p.distance(q).max(q.distance(r)).max(r.distance(p));
            (flat && (q - p).cross(r - p).length() > LARGE * self.one * longest).then_some([a, b, c])
        };
        let mut heights: Vec<f64> = inputs
            .iter()
            .flat_map(|m| {
                (0..m.triangles().len()).into_par_iter().map(|t| (*m, t)).filter_map(across).collect::<Vec<_>>()
            })
            .flatten()
            .collect();
        heights.par_sort_unstable_by(f64::total_cmp);
        let mut planes = vec![];
        let mut from = 0;
        for n in 1..=heights.len() {
            let goes_on =
                heights.get(n).is_some_and(|x| x - heights[n - 1] <= self.one && x - heights[from] <= 2.0 * self.one);
            if !goes_on {
                planes.push((heights[from], heights[n - 1], heights[(from + n - 1) / 2].round()));
                from = n;
            }
        }
        planes
    }

    /// Points of the grid, ascending, of which those that are one within the precision got the same name: the number among the
    /// points of the first of them.
    pub fn named(&self, points: &[Whole]) -> Vec<u32> {
        let mut names: Vec<u32> = (0..points.len() as u32).collect();
        if self.one < 1.0 {
            return names;
        }
        let cell = self.one * 2.0;
        let mut held: FxHashMap<[i32; 3], Vec<u32>> = FxHashMap::with_capacity_and_hasher(points.len(), FxBuildHasher);
        for (n, p) in points.iter().enumerate() {
            let at = p.map(|x| x as f64 / cell);
            // What is within half a cell lies in this cell or the one on the nearer side of it.
            let sides = at.map(|x| {
                [x.floor() as i32, if x - x.floor() < 0.5 { x.floor() as i32 - 1 } else { x.floor() as i32 + 1 }]
            });
            let near = |m: &u32| {
                let q = points[*m as usize];
                (0..3).map(|k| ((p[k] - q[k]) as f64).powi(2)).sum::<f64>() <= self.one * self.one
            };
            let first = (0..8)
                .flat_map(|k| held.get(&[sides[0][k & 1], sides[1][k >> 1 & 1], sides[2][k >> 2 & 1]]))
                .flatten()
                .copied()
                .filter(near)
                .min();
            match first {
                Some(first) => names[n] = first,
                None => held.entry(sides.map(|s| s[0])).or_default().push(n as u32),
            }
        }
        names
    }
}
