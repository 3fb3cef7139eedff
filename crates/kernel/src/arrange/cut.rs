//! Cuts a triangle up so that given points are corners and given stretches are sides.
//!
//! Points go in one by one, with flips towards Delaunay; then each stretch is made a side by flips (Sloan 1993). Which turns
//! are possible is decided exactly, which are worthwhile in `f64`.

use std::collections::{HashSet, VecDeque};

use super::exact::{Spot, turn};

const NONE: u32 = u32::MAX;

/// A triangle being cut. Points are numbered within it; `ids` are their numbers outside.
pub(super) struct Cut<'a> {
    spots: &'a [Spot],
    ids: Vec<u32>,
    axis: usize,
    /// Whether the triangle runs clockwise seen along the axis.
    turned: bool,
    triangles: Vec<[u32; 3]>,
    /// `beside[t][k]` is the triangle across the side from corner `k` to `k+1`.
    beside: Vec<[u32; 3]>,
    /// A triangle at each point.
    at: Vec<u32>,
    fixed: HashSet<(u32, u32)>,
    last: u32,
}

fn ordered(a: u32, b: u32) -> (u32, u32) {
    (a.min(b), a.max(b))
}

impl<'a> Cut<'a> {
    /// The pieces of the triangle with the given corners; `points` lie in it, `stretches` run between points or corners, do
    /// not cross and pass no point. With the pieces the stretches that are sides of them.
    pub fn of(
        spots: &'a [Spot],
        corners: [u32; 3],
        axis: usize,
        turned: bool,
        points: &[u32],
        stretches: &[(u32, u32)],
    ) -> (Vec<[u32; 3]>, HashSet<(u32, u32)>) {
        let mut ids: Vec<u32> = points.iter().copied().filter(|p| !corners.contains(p)).collect();
        // Neighbours go in one after the other, so that each is found with few steps.
        let (u, v) = ((axis + 1) % 3, (axis + 2) % 3);
        let strips = (ids.len() as f64).sqrt().max(1.0);
        let span = corners.iter().map(|c| spots[*c as usize].near[u]);
        let (low, high) = span.fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), x| (l.min(x), h.max(x)));
        let key = |id: &u32| {
            let p = spots[*id as usize].near;
            let strip = ((p[u] - low) / (high - low).max(1.0) * strips) as i64;
            (strip, if strip % 2 == 0 { p[v] } else { -p[v] })
        };
        ids.sort_by(|a, b| {
            let (a, b) = (key(a), key(b));
            a.0.cmp(&b.0).then(a.1.total_cmp(&b.1))
        });
        let ids: Vec<u32> = corners.into_iter().chain(ids).collect();
        let count = ids.len();
        let mut cut = Self {
            spots,
            axis,
            turned,
            triangles: vec![[0, 1, 2]],
            beside: vec![[NONE; 3]],
            at: vec![0; count],
            fixed: HashSet::new(),
            last: 0,
            ids,
        };
        for v in 3..count as u32 {
            cut.insert(v);
        }
        let number: std::collections::HashMap<u32, u32> =
            cut.ids.iter().enumerate().map(|(n, id)| (*id, n as u32)).collect();
        for (a, b) in stretches {
            if let (Some(&a), Some(&b)) = (number.get(a), number.get(b)) {
                cut.join(a, b);
            }
        }
        cut.even_out();
        let named = |i: u32| cut.ids[i as usize];
        let pieces = cut.triangles.iter().map(|t| t.map(named)).collect();
        (pieces, cut.fixed.iter().map(|&(a, b)| ordered(named(a), named(b))).collect())
    }

    fn turn(&self, a: u32, b: u32, c: u32) -> i8 {
        let [a, b, c] = [a, b, c].map(|i| &self.spots[self.ids[i as usize] as usize]);
        let s = turn(self.axis, a, b, c);
        if self.turned { -s } else { s }
    }

    fn touch(&mut self, t: u32) {
        for c in self.triangles[t as usize] {
            self.at[c as usize] = t;
        }
    }

    fn redirect(&mut self, triangle: u32, from: u32, to: u32) {
        if triangle != NONE {
            for b in &mut self.beside[triangle as usize] {
                if *b == from {
                    *b = to;
                }
            }
        }
    }

    /// The triangle a point lies in, with the side it lies on, if on one.
    fn locate(&self, v: u32) -> (u32, Option<usize>) {
        let mut t = self.last;
        let mut steps = 0;
        loop {
            let c = self.triangles[t as usize];
            let mut on = None;
            let mut out = None;
            for i in 0..3 {
                let k = (i + steps) % 3;
                match self.turn(c[k], c[(k + 1) % 3], v) {
                    -1 if self.beside[t as usize][k] != NONE => {
                        out = Some(k);
                        break;
                    }
                    0 => on = Some(k),
                    _ => {}
                }
            }
            match out {
                None => return (t, on),
                Some(k) if steps < 4 * self.triangles.len() + 16 => t = self.beside[t as usize][k],
                // Walking in circles: look at all.
                Some(_) => {
                    let holds = |t: &u32| {
                        let c = self.triangles[*t as usize];
                        (0..3).all(|k| self.turn(c[k], c[(k + 1) % 3], v) >= 0)
                    };
                    let t = (0..self.triangles.len() as u32).find(holds).unwrap_or(t);
                    let c = self.triangles[t as usize];
                    return (t, (0..3).find(|&k| self.turn(c[k], c[(k + 1) % 3], v) == 0));
                }
            }
            steps += 1;
        }
    }

    fn insert(&mut self, v: u32) {
        let (t, on) = self.locate(v);
        let around = match on {
            Some(k) => self.split_side(t, k, v),
            None => self.split(t, v),
        };
        self.last = t;
        // Sides that face the new point.
        let mut todo = around;
        while let Some(t) = todo.pop() {
            let Some(k) = (0..3).find(|&k| self.triangles[t as usize][(k + 2) % 3] == v) else { continue };
            if self.worth_turning(t, k) {
                let u = self.beside[t as usize][k];
                self.flip(t, k);
                todo.extend([t, u]);
            }
        }
    }

    fn split(&mut self, t: u32, v: u32) -> Vec<u32> {
        let [a, b, c] = self.triangles[t as usize];
        let [ab, bc, ca] = self.beside[t as usize];
        let (t1, t2) = (self.triangles.len() as u32, self.triangles.len() as u32 + 1);
        self.triangles[t as usize] = [a, b, v];
        self.beside[t as usize] = [ab, t1, t2];
        self.triangles.extend([[b, c, v], [c, a, v]]);
        self.beside.extend([[bc, t2, t], [ca, t, t1]]);
        self.redirect(bc, t, t1);
        self.redirect(ca, t, t2);
        for t in [t, t1, t2] {
            self.touch(t);
        }
        vec![t, t1, t2]
    }

    fn split_side(&mut self, t: u32, k: usize, v: u32) -> Vec<u32> {
        let c = self.triangles[t as usize];
        let (a, b, c) = (c[k], c[(k + 1) % 3], c[(k + 2) % 3]);
        let n = self.beside[t as usize];
        let (u, bc, ca) = (n[k], n[(k + 1) % 3], n[(k + 2) % 3]);
        let t1 = self.triangles.len() as u32;
        self.triangles[t as usize] = [a, v, c];
        self.triangles.push([v, b, c]);
        self.beside[t as usize] = [u, t1, ca];
        self.beside.push([NONE, bc, t]);
        self.redirect(bc, t, t1);
        let mut made = vec![t, t1];
        if u != NONE {
            let d = self.triangles[u as usize];
            let j = (0..3).find(|&j| d[j] == b && d[(j + 1) % 3] == a).unwrap_or(0);
            let d = d[(j + 2) % 3];
            let n = self.beside[u as usize];
            let (ad, db) = (n[(j + 1) % 3], n[(j + 2) % 3]);
            let u1 = self.triangles.len() as u32;
            self.triangles[u as usize] = [v, a, d];
            self.triangles.push([b, v, d]);
            self.beside[u as usize] = [t, ad, u1];
            self.beside.push([t1, u, db]);
            self.beside[t1 as usize][0] = u1;
            self.redirect(db, u, u1);
            made.extend([u, u1]);
        }
        for &t in &made {
            self.touch(t);
        }
        made
    }

    /// The corner across side `k` of `t`, with the neighbour.
    fn across(&self, t: u32, k: usize) -> Option<(u32, u32)> {
        let u = self.beside[t as usize][k];
        if u == NONE {
            return None;
        }
        let c = self.triangles[t as usize];
        let d = self.triangles[u as usize].into_iter().find(|d| *d != c[k] && *d != c[(k + 1) % 3])?;
        Some((u, d))
    }

    /// Whether side `k` of `t` may be turned.
    fn may_turn(&self, t: u32, k: usize) -> bool {
        let c = self.triangles[t as usize];
        let Some((_, d)) = self.across(t, k) else { return false };
        let (a, b, c) = (c[k], c[(k + 1) % 3], c[(k + 2) % 3]);
        self.turn(c, d, b) > 0 && self.turn(d, c, a) > 0
    }

    /// Whether turning a side makes rounder triangles, and is possible.
    fn worth_turning(&self, t: u32, k: usize) -> bool {
        /// Less gain than this, in parts of what is compared, is rounding.
        const GAIN: f64 = 1e-6;
        let c = self.triangles[t as usize];
        let Some((_, d)) = self.across(t, k) else { return false };
        if self.fixed.contains(&ordered(c[k], c[(k + 1) % 3])) {
            return false;
        }
        let place = |i: u32| self.spots[self.ids[i as usize] as usize].near;
        let [pa, pb, pc, pd] = [c[k], c[(k + 1) % 3], c[(k + 2) % 3], d].map(place);
        // Opposite angles of more than a half turn together: the sine of their sum is negative.
        let angle = |at: glam::DVec3| {
            let (u, v) = (pa - at, pb - at);
            (u.dot(v), u.cross(v).length())
        };
        let ((c1, s1), (c2, s2)) = (angle(pc), angle(pd));
        s1 * c2 + c1 * s2 < -GAIN * (c1.hypot(s1) * c2.hypot(s2)) && self.may_turn(t, k)
    }

    fn flip(&mut self, t: u32, k: usize) {
        let Some((u, d)) = self.across(t, k) else { return };
        let c = self.triangles[t as usize];
        let (a, b, c) = (c[k], c[(k + 1) % 3], c[(k + 2) % 3]);
        let n = self.beside[t as usize];
        let (bc, ca) = (n[(k + 1) % 3], n[(k + 2) % 3]);
        let j = (0..3).find(|&j| self.triangles[u as usize][j] == b).unwrap_or(0);
        let n = self.beside[u as usize];
        let (ad, db) = (n[(j + 1) % 3], n[(j + 2) % 3]);
        self.triangles[t as usize] = [c, d, b];
        self.beside[t as usize] = [u, db, bc];
        self.triangles[u as usize] = [d, c, a];
        self.beside[u as usize] = [t, ca, ad];
        self.redirect(db, u, t);
        self.redirect(ca, t, u);
        self.touch(t);
        self.touch(u);
    }

    /// The triangles round a point, each with the place of the point in it.
    fn round(&self, v: u32) -> Vec<(u32, usize)> {
        let place = |t: u32| (0..3).find(|&k| self.triangles[t as usize][k] == v).unwrap_or(0);
        let first = self.at[v as usize];
        let mut found = vec![(first, place(first))];
        let mut t = first;
        loop {
            t = self.beside[t as usize][(place(t) + 2) % 3];
            if t == first {
                return found;
            }
            if t == NONE {
                break;
            }
            found.push((t, place(t)));
        }
        t = first;
        loop {
            t = self.beside[t as usize][place(t)];
            if t == NONE {
                return found;
            }
            found.push((t, place(t)));
        }
    }

    /// Makes the stretch between two points a side.
    fn join(&mut self, a: u32, b: u32) {
        if a == b {
            return;
        }
        let mut crossed: VecDeque<(u32, u32)> = VecDeque::new();
        let mut begin = None;
        for (t, k) in self.round(a) {
            let c = self.triangles[t as usize];
            let (p, q) = (c[(k + 1) % 3], c[(k + 2) % 3]);
            if p == b || q == b {
                self.fixed.insert(ordered(a, b));
                return;
            }
            if self.turn(a, b, p) < 0 && self.turn(a, b, q) > 0 && self.turn(p, q, a) != self.turn(p, q, b) {
                begin = Some((t, (k + 1) % 3));
            }
        }
        let Some((mut t, mut k)) = begin else { return };
        loop {
            let c = self.triangles[t as usize];
            let (p, q) = (c[k], c[(k + 1) % 3]);
            crossed.push_back((p, q));
            let Some((u, d)) = self.across(t, k) else { return };
            if d == b {
                break;
            }
            let j = (0..3).find(|&j| self.triangles[u as usize][j] == d).unwrap_or(0);
            // u = (d, q, p) from d on: side d q is j, side p d is j + 2.
            k = if self.turn(a, b, d) > 0 { (j + 2) % 3 } else { j };
            t = u;
        }
        let mut tries = 0usize;
        let most = 64 + crossed.len() * crossed.len() * 4;
        while let Some((p, q)) = crossed.pop_front() {
            tries += 1;
            if tries > most {
                return;
            }
            let side = |&(t, k): &(u32, usize)| self.triangles[t as usize][(k + 1) % 3] == q;
            let Some((t, k)) = self.round(p).into_iter().find(side) else { continue };
            if !self.may_turn(t, k) {
                crossed.push_back((p, q));
                continue;
            }
            self.flip(t, k);
            let [c, d, _] = self.triangles[t as usize];
            let ends = [a, b];
            if !ends.contains(&c) && !ends.contains(&d) && self.turn(a, b, c) * self.turn(a, b, d) < 0 {
                crossed.push_back((c, d));
            }
        }
        self.fixed.insert(ordered(a, b));
    }

    /// Turns sides that are no stretches while that makes rounder triangles.
    fn even_out(&mut self) {
        const SWEEPS: usize = 8;
        for _ in 0..SWEEPS {
            let mut turned = false;
            for t in 0..self.triangles.len() as u32 {
                for k in 0..3 {
                    if self.worth_turning(t, k) {
                        self.flip(t, k);
                        turned = true;
                        break;
                    }
                }
            }
            if !turned {
                return;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn twice_area(spots: &[Spot], t: [u32; 3]) -> f64 {
        let [a, b, c] = t.map(|i| spots[i as usize].near);
        (b - a).cross(c - a).z
    }

    proptest! {
        /// Points of a small grid (many on sides and in lines) and a star of stretches from one of them.
        #[test]
        fn all_points_and_stretches_are_there_and_the_area_stays(
            places in proptest::collection::hash_set((1i64..12, 1i64..12), 1..40),
        ) {
            let mut spots: Vec<Spot> = [[0, 0, 0], [26, 0, 0], [0, 26, 0]].map(Spot::whole_at).to_vec();
            spots.extend(places.iter().map(|&(x, y)| Spot::whole_at([x, y, 0])));
            spots.push(Spot::whole_at([13, 13, 0]));
            spots.push(Spot::whole_at([0, 5, 0]));
            let points: Vec<u32> = (3..spots.len() as u32).collect();
            // From the first point to those that see it past no other point.
            let sees = |p: u32| {
                let d = spots[p as usize].near - spots[3].near;
                let (x, y) = (d.x as i64, d.y as i64);
                let (mut a, mut b) = (x.abs(), y.abs());
                while b != 0 { (a, b) = (b, a % b); }
                a == 1
            };
            let stretches: Vec<(u32, u32)> = (4..spots.len() as u32).filter(|p| sees(*p)).map(|p| (3, p)).collect();
            let (pieces, fixed) = Cut::of(&spots, [0, 1, 2], 2, false, &points, &stretches);
            prop_assert!(pieces.iter().all(|t| twice_area(&spots, *t) > 0.0));
            prop_assert_eq!(pieces.iter().map(|t| twice_area(&spots, *t)).sum::<f64>(), 26.0 * 26.0);
            let sides: HashSet<(u32, u32)> =
                pieces.iter().flat_map(|t| (0..3).map(|k| ordered(t[k], t[(k + 1) % 3]))).collect();
            for s in &stretches {
                prop_assert!(sides.contains(&ordered(s.0, s.1)) && fixed.contains(&ordered(s.0, s.1)));
            }
            for p in points {
                prop_assert!(pieces.iter().any(|t| t.contains(&p)));
            }
        }
    }
}
