//! A cover under construction: triangles inside a fixed rim, with neighbours, that can be split and flipped.

use std::collections::HashSet;

use crate::Point;

const NONE: u32 = u32::MAX;

/// Triangles that fill a rim. The first [`Patch::rim`] points are the rim, in order; they never move.
#[derive(Clone, Debug)]
pub struct Patch {
    /// Rim points first, then inner points, mm.
    pub points: Vec<Point>,
    /// How many points are the rim.
    pub rim: usize,
    /// Triangles over `points`, running along the rim in its direction.
    pub triangles: Vec<[u32; 3]>,
    /// `beside[t][k]` is the triangle across the side from corner `k` to `k+1` of `t`, or `NONE` at the rim.
    beside: Vec<[u32; 3]>,
    /// All sides, as (low, high).
    sides: HashSet<(u32, u32)>,
}

impl Patch {
    /// A patch of the given triangles over the rim points.
    pub fn new(points: Vec<Point>, rim: usize, triangles: Vec<[u32; 3]>) -> Self {
        let mut patch =
            Self { points, rim, beside: vec![[NONE; 3]; triangles.len()], triangles, sides: HashSet::new() };
        let mut open = std::collections::HashMap::new();
        for t in 0..patch.triangles.len() {
            for k in 0..3 {
                let (a, b) = patch.side(t, k);
                patch.sides.insert(ordered(a, b));
                if let Some((u, j)) = open.remove(&(b, a)) {
                    patch.beside[t][k] = u as u32;
                    let other: &mut [u32; 3] = &mut patch.beside[u];
                    other[j] = t as u32;
                } else {
                    open.insert((a, b), (t, k));
                }
            }
        }
        patch
    }

    /// The points side `k` of triangle `t` runs from and to.
    fn side(&self, t: usize, k: usize) -> (u32, u32) {
        (self.triangles[t][k], self.triangles[t][(k + 1) % 3])
    }

    /// Corner positions.
    pub fn corners(&self, t: usize) -> [Point; 3] {
        self.triangles[t].map(|i| self.points[i as usize])
    }

    /// The sum of the triangle areas, mm².
    pub fn area(&self) -> f64 {
        (0..self.triangles.len()).map(|t| self.normal(t).length() * 0.5).sum()
    }

    fn normal(&self, t: usize) -> Point {
        let [a, b, c] = self.corners(t);
        (b - a).cross(c - a)
    }

    /// Splits triangle `t` in three at a new point.
    pub(super) fn split(&mut self, t: usize, at: Point) {
        let p = self.points.len() as u32;
        self.points.push(at);
        let [a, b, c] = self.triangles[t];
        let [ab, bc, ca] = self.beside[t];
        let (second, third) = (self.triangles.len() as u32, self.triangles.len() as u32 + 1);
        self.triangles[t] = [a, b, p];
        self.beside[t] = [ab, second, third];
        self.triangles.extend([[b, c, p], [c, a, p]]);
        self.beside.extend([[bc, third, t as u32], [ca, t as u32, second]]);
        self.redirect(bc, t as u32, second);
        self.redirect(ca, t as u32, third);
        for v in [a, b, c] {
            self.sides.insert(ordered(v, p));
        }
    }

    /// Makes `t` know `new` where it knew `old`.
    fn redirect(&mut self, t: u32, old: u32, new: u32) {
        if t != NONE
            && let Some(slot) = self.beside[t as usize].iter_mut().find(|s| **s == old)
        {
            *slot = new;
        }
    }

    /// Flips inner sides until the triangulation is Delaunay on the surface, as far as `may_join` allows new sides between
    /// rim points and no triangle turns over. `passes` bounds the work.
    pub(super) fn make_delaunay(&mut self, passes: usize, may_join: &dyn Fn(usize, usize) -> bool) {
        for _ in 0..passes {
            let mut flipped = false;
            for t in 0..self.triangles.len() {
                for k in 0..3 {
                    flipped |= self.flip_if_better(t, k, may_join);
                }
            }
            if !flipped {
                break;
            }
        }
    }

    fn flip_if_better(&mut self, t: usize, k: usize, may_join: &dyn Fn(usize, usize) -> bool) -> bool {
        let u = self.beside[t][k];
        if u == NONE || (u as usize) < t {
            return false;
        }
        let u = u as usize;
        let Some(j) = (0..3).find(|&j| self.beside[u][j] == t as u32) else { return false };
        let (a, b) = self.side(t, k);
        let (c, d) = (self.triangles[t][(k + 2) % 3], self.triangles[u][(j + 2) % 3]);
        let [pa, pb, pc, pd] = [a, b, c, d].map(|i| self.points[i as usize]);
        // The sum of the opposite angles is over 180° when the sum of their cotangents is negative. A little slack keeps
        // squares from flipping for ever.
        const SLACK: f64 = 1e-9;
        if cotangent(pc, pa, pb) + cotangent(pd, pa, pb) >= -SLACK || self.sides.contains(&ordered(c, d)) {
            return false;
        }
        let both_rim = (c as usize) < self.rim && (d as usize) < self.rim;
        if both_rim && !may_join(c as usize, d as usize) {
            return false;
        }
        let before = self.normal(t) + self.normal(u);
        let (first, second) = ((pd - pc).cross(pb - pc), (pa - pc).cross(pd - pc));
        if first.dot(before) <= 0.0 || second.dot(before) <= 0.0 {
            return false;
        }
        // Before: t = (a b c), u = (b a d). After: t = (c d b), u = (d c a).
        let (bc, ca) = (self.beside[t][(k + 1) % 3], self.beside[t][(k + 2) % 3]);
        let (ad, db) = (self.beside[u][(j + 1) % 3], self.beside[u][(j + 2) % 3]);
        self.triangles[t] = [c, d, b];
        self.beside[t] = [u as u32, db, bc];
        self.triangles[u] = [d, c, a];
        self.beside[u] = [t as u32, ca, ad];
        self.redirect(db, u as u32, t as u32);
        self.redirect(ca, t as u32, u as u32);
        self.sides.remove(&ordered(a, b));
        self.sides.insert(ordered(c, d));
        true
    }
}

fn ordered(a: u32, b: u32) -> (u32, u32) {
    if a < b { (a, b) } else { (b, a) }
}

/// The cotangent of the angle at `at` between the directions to `a` and `b`.
pub(super) fn cotangent(at: Point, a: Point, b: Point) -> f64 {
    let (u, v) = (a - at, b - at);
    let sine = u.cross(v).length();
    if sine > 0.0 { u.dot(v) / sine } else { u.dot(v).signum() * 1e12 }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn splitting_and_flipping_keep_area_and_neighbours() {
        let points = vec![Point::ZERO, Point::X * 9.0, Point::new(9.0, 1.0, 0.0), Point::Y];
        let mut patch = Patch::new(points, 4, vec![[0, 1, 2], [0, 2, 3]]);
        patch.split(0, Point::new(6.0, 0.3, 0.0));
        patch.split(1, Point::new(3.0, 0.6, 0.0));
        patch.make_delaunay(10, &|_, _| true);
        assert!((patch.area() - 9.0).abs() < 1e-12);
        assert_eq!(patch.triangles.len(), 6);
        let again = Patch::new(patch.points.clone(), 4, patch.triangles.clone());
        assert_eq!(again.beside, patch.beside);
        assert_eq!(again.sides, patch.sides);
    }
}
