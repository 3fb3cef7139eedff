//! The bounds of a face in the plane of its parameters: unwrapped where these begin anew, led over poles, cut open where they go
//! round, so that what is left are plain outlines.

mod outline;
mod seams;

use nimbet_kernel::Point;

pub(crate) use outline::{area, boxed, encloses};
use outline::{crossing, spread_poles};
use seams::is_seam;
pub(crate) use seams::{points_of, without_seams};

use crate::surface::{Pole, Surface};

/// A corner of an outline: the number of its point, and its parameters.
pub(crate) type Corner = (u32, [f64; 2]);

/// Why a face cannot be covered.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum FaceFault {
    /// Its bounds do not close, or go round in a way no face does.
    #[error("its bounds do not enclose a piece of its surface")]
    Unbounded,
    /// Two bounds cross.
    #[error("its bounds cross each other")]
    Crosses,
    /// What was made does not have the area its bounds enclose.
    #[error("the area covered is not the one its bounds enclose")]
    Area,
    /// A bound uses an edge that could not be read.
    #[error("one of its edges could not be read")]
    EdgeMissing,
    /// Its surface could not be read.
    #[error("its surface is of a kind that is not read")]
    SurfaceMissing,
}

/// The points of a body with those that faces add.
pub(crate) struct Added<'a> {
    pub given: &'a [Point],
    pub more: Vec<Point>,
}

impl Added<'_> {
    pub fn add(&mut self, p: Point) -> u32 {
        self.more.push(p);
        (self.given.len() + self.more.len() - 1) as u32
    }

    pub fn at(&self, id: u32) -> Point {
        let id = id as usize;
        if id < self.given.len() { self.given[id] } else { self.more[id - self.given.len()] }
    }
}

/// A bound with how often it goes round each parameter.
#[derive(Clone, Debug)]
struct Ring {
    corners: Vec<Corner>,
    turns: [i32; 2],
}

/// A chain of points along one edge, as the bound follows it.
#[derive(Clone)]
pub(crate) struct Chain {
    pub edge: u32,
    pub forward: bool,
    pub ids: Vec<u32>,
}

/// How bounds lie on a surface.
pub(crate) struct Chart<'a> {
    surface: &'a Surface,
    periods: [Option<f64>; 2],
    poles: Vec<Pole>,
    /// How near to a pole a point is at it.
    close: f64,
}

impl<'a> Chart<'a> {
    pub fn new(surface: &'a Surface, close: f64) -> Self {
        Self { surface, periods: surface.periods(), poles: surface.poles(), close }
    }

    /// The outlines of a face whose bounds have it on their left, seen against the surface's normal.
    pub fn outlines(
        &self,
        bounds: &[Vec<Chain>],
        steps: &dyn Fn([[f64; 2]; 2]) -> [f64; 2],
        points: &mut Added<'_>,
    ) -> Result<Vec<Vec<Corner>>, FaceFault> {
        // A bound that follows each of its edges both ways bounds nothing: it is where a closed surface was cut open to be written.
        let bounding = bounds.iter().filter(|b| !self.closes() || !is_seam(b));
        let rings: Vec<Ring> =
            bounding.map(|b| self.ring(b, points)).collect::<Option<_>>().ok_or(FaceFault::Unbounded)?;
        let (round, plain): (Vec<Ring>, Vec<Ring>) = rings.into_iter().partition(|r| r.turns != [0, 0]);
        let mut plain: Vec<Vec<Corner>> = plain.into_iter().map(|r| r.corners).collect();
        let whole_box = boxed(round.iter().flat_map(|r| &r.corners).chain(plain.iter().flatten()));
        let mut outer = Vec::new();
        if !round.is_empty() {
            outer.push(self.band(&round, &plain, steps(whole_box), points)?);
        } else if plain.is_empty() || (self.closes() && plain.iter().all(|p| area(p) < 0.0)) {
            outer.push(self.whole(&plain, steps, points)?);
        } else {
            let widest = (0..plain.len()).max_by(|a, b| area(&plain[*a]).abs().total_cmp(&area(&plain[*b]).abs()));
            let first = widest.ok_or(FaceFault::Unbounded)?;
            outer.push(plain.swap_remove(first));
        }
        for hole in plain {
            outer.push(self.shifted_into(&outer[0], hole).ok_or(FaceFault::Unbounded)?);
        }
        let step = steps(boxed(outer.iter().flatten()));
        Ok(outer.into_iter().map(|o| spread_poles(o, step)).collect())
    }

    /// Whether the surface has no border of its own.
    fn closes(&self) -> bool {
        (0..2).all(|axis| self.periods[axis].is_some() || self.poles.iter().filter(|p| p.axis == 1 - axis).count() == 2)
    }

    fn pole_at(&self, p: Point) -> Option<&Pole> {
        self.poles.iter().find(|pole| (pole.place - p).length() <= self.close)
    }

    /// The parameters along a chain, without jumps; at poles those of the neighbour.
    fn unwrapped(&self, ids: &[u32], points: &Added<'_>) -> Option<Vec<[f64; 2]>> {
        let mut near = None;
        let mut found: Vec<Option<[f64; 2]>> = Vec::with_capacity(ids.len());
        for id in ids {
            let p = points.at(*id);
            if self.pole_at(p).is_some() {
                found.push(None);
                continue;
            }
            let at = self.surface.place(p, near);
            let at = near.map_or(at, |near| self.nearest(at, near));
            near = Some(at);
            found.push(Some(at));
        }
        if near.is_none() {
            // From pole to pole, or to one along a line of two points: what is between tells where it goes.
            let middle = (points.at(*ids.first()?) + points.at(*ids.last()?)) / 2.0;
            near = Some(self.surface.place(middle, None));
        }
        let known = |n: usize| found[n..].iter().chain(found[..n].iter().rev()).find_map(|at| *at).or(near);
        (0..ids.len())
            .map(|n| {
                if let Some(at) = found[n] {
                    return Some(at);
                }
                let mut at = known(n)?;
                if let Some(pole) = self.pole_at(points.at(ids[n])) {
                    at[1 - pole.axis] = pole.value;
                    at[1 - pole.axis] = self.nearest(at, known(n)?)[1 - pole.axis];
                }
                Some(at)
            })
            .collect()
    }

    /// The same place with parameters nearest to others.
    fn nearest(&self, mut at: [f64; 2], to: [f64; 2]) -> [f64; 2] {
        for axis in 0..2 {
            if let Some(period) = self.periods[axis] {
                at[axis] += ((to[axis] - at[axis]) / period).round() * period;
            }
        }
        at
    }

    /// How a parameter goes on over a pole: from one value to another, the face on the left.
    fn over(&self, pole: &Pole, from: [f64; 2], to: [f64; 2], came_by: f64, back: bool) -> [f64; 2] {
        let mut to = to;
        let Some(period) = self.periods[pole.axis] else { return to };
        // At the upper end of v the face is on the left of who goes down in u; along v it is the other way round.
        let upper = pole.value > came_by;
        let down = upper == (pole.axis == 0);
        let way = if down { -1.0 } else { 1.0 };
        let mut turn = ((to[pole.axis] - from[pole.axis]) * way).rem_euclid(period);
        if turn < period * 1e-9 || turn > period * (1.0 - 1e-9) {
            turn = if back { period } else { 0.0 };
        }
        to[pole.axis] = from[pole.axis] + turn * way;
        to
    }

    fn ring(&self, bound: &[Chain], points: &Added<'_>) -> Option<Ring> {
        let mut corners: Vec<Corner> = Vec::new();
        let mut first: Option<(Vec<[f64; 2]>, usize)> = None;
        let mut last: Option<(Vec<[f64; 2]>, usize)> = None;
        for (n, chain) in bound.iter().enumerate() {
            let mut at = self.unwrapped(&chain.ids, points)?;
            if let Some((before, b)) = &last {
                let moved = self.joined(points, chain, (before, &bound[*b]), &at);
                let by = [0, 1].map(|k| moved[k] - at[0][k]);
                at.iter_mut().for_each(|at| (0..2).for_each(|k| at[k] += by[k]));
            }
            let again = corners.last().is_some_and(|(id, _)| *id == chain.ids[0])
                && self.pole_at(points.at(chain.ids[0])).is_none();
            let skip = usize::from(again);
            corners.extend(chain.ids.iter().copied().zip(at.iter().copied()).skip(skip));
            first.get_or_insert((at.clone(), n));
            last = Some((at, n));
        }
        let ((first, f), (last, l)) = (first?, last?);
        let start = self.joined(points, &bound[f], (&last, &bound[l]), &first);
        let at_pole = self.pole_at(points.at(bound[f].ids[0])).is_some();
        if corners.len() > 1 && !at_pole {
            if corners.last()?.0 != corners[0].0 {
                return None;
            }
            corners.pop();
        }
        let turns = [0, 1].map(|k| self.periods[k].map_or(0, |p| ((start[k] - first[0][k]) / p).round() as i32));
        (corners.len() > 1).then_some(Ring { corners, turns })
    }

    /// Where a chain begins that goes on from another one.
    fn joined(
        &self,
        points: &Added<'_>,
        chain: &Chain,
        (before, b): (&[[f64; 2]], &Chain),
        at: &[[f64; 2]],
    ) -> [f64; 2] {
        let end = before[before.len() - 1];
        match self.pole_at(points.at(chain.ids[0])) {
            Some(pole) => {
                let back = b.edge == chain.edge && b.forward != chain.forward;
                let came_by = before[before.len() / 2][1 - pole.axis];
                let came_by = if before.len() == 2 { before[0][1 - pole.axis] } else { came_by };
                self.over(pole, end, self.nearest(at[0], end), came_by, back)
            }
            None => self.nearest(at[0], end),
        }
    }

    /// Bounds that go round, cut open: from the lower one to the upper one, or to a pole.
    fn band(
        &self,
        round: &[Ring],
        holes: &[Vec<Corner>],
        step: [f64; 2],
        points: &mut Added<'_>,
    ) -> Result<Vec<Corner>, FaceFault> {
        let axis = usize::from(round[0].turns[0] == 0);
        if round.len() > 2 || round.iter().any(|r| r.turns[axis].abs() != 1 || r.turns[1 - axis] != 0) {
            return Err(FaceFault::Unbounded);
        }
        let period = self.periods[axis].ok_or(FaceFault::Unbounded)?;
        let sense = if axis == 0 { 1 } else { -1 };
        let lower = round.iter().find(|r| r.turns[axis] == sense);
        let upper = round.iter().find(|r| r.turns[axis] == -sense);
        match (lower, upper) {
            (Some(lower), Some(upper)) => {
                let mut upper = upper.clone();
                if let Some(p) = self.periods[1 - axis] {
                    let mean = |r: &Ring| r.corners.iter().map(|c| c.1[1 - axis]).sum::<f64>() / r.corners.len() as f64;
                    let by = ((mean(lower) - mean(&upper)) / p).ceil() * p;
                    upper.corners.iter_mut().for_each(|c| c.1[1 - axis] += by);
                }
                self.cut_open(lower, &upper, axis, holes, step, points)
            }
            (Some(one), None) | (None, Some(one)) => {
                let up = lower.is_some();
                let beyond = |p: &&Pole| p.axis == axis && one.corners.iter().all(|c| (p.value > c.1[1 - axis]) == up);
                let pole = self.poles.iter().find(beyond).copied().ok_or(FaceFault::Unbounded)?;
                let id = points.add(pole.place);
                let count = one.corners.len();
                // The pole as a bound of its own, going the other way.
                let turns = one.turns.map(|t| -t);
                let corner = |n: usize| {
                    let mut at = one.corners[(count - n) % count].1;
                    at[1 - axis] = pole.value;
                    if n == 0 {
                        at[axis] += period * f64::from(one.turns[axis]);
                    }
                    (id, at)
                };
                let tip = Ring { corners: (0..count).map(corner).collect(), turns };
                if up {
                    self.cut_open(one, &tip, axis, holes, step, points)
                } else {
                    self.cut_open(&tip, one, axis, holes, step, points)
                }
            }
            (None, None) => Err(FaceFault::Unbounded),
        }
    }

    /// One outline of two bounds that go round, joined where no other bound is in the way.
    fn cut_open(
        &self,
        lower: &Ring,
        upper: &Ring,
        axis: usize,
        holes: &[Vec<Corner>],
        step: [f64; 2],
        points: &mut Added<'_>,
    ) -> Result<Vec<Corner>, FaceFault> {
        const TRIES: usize = 48;
        let period = self.periods[axis].ok_or(FaceFault::Unbounded)?;
        let turn = f64::from(lower.turns[axis]) * period;
        let moved = |(id, mut at): Corner, by: f64| {
            at[axis] += by;
            (id, at)
        };
        // Once round from a corner, its copy at the end.
        let round_from = |ring: &Ring, n: usize, shift: f64| -> Vec<Corner> {
            let turn = f64::from(ring.turns[axis]) * period;
            let (late, early) = (&ring.corners[n..], &ring.corners[..=n]);
            let late = late.iter().map(|c| moved(*c, shift));
            late.chain(early.iter().map(|c| moved(*c, shift + turn))).collect()
        };
        let count = lower.corners.len();
        let mut best: Option<(f64, usize, usize, f64)> = None;
        for try_at in 0..count.min(TRIES) {
            let n = try_at * count / count.min(TRIES);
            let end = moved(lower.corners[n], turn).1;
            let nearest = (0..upper.corners.len()).map(|m| {
                let at = upper.corners[m].1[axis];
                let shift = ((end[axis] - at) / period).round() * period;
                ((at + shift - end[axis]).abs(), m, shift)
            });
            let Some((off, m, shift)) = nearest.min_by(|a, b| a.0.total_cmp(&b.0)) else { continue };
            if best.is_some_and(|b| b.0 <= off) {
                continue;
            }
            let start = moved(upper.corners[m], shift).1;
            let others = holes.iter().chain([&lower.corners, &upper.corners]);
            if others.into_iter().all(|ring| self.clear([end, start], ring)) {
                best = Some((off, n, m, shift));
            }
        }
        let (_, n, m, shift) = best.ok_or(FaceFault::Unbounded)?;
        let mut outline = round_from(lower, n, 0.0);
        let back = round_from(upper, m, shift);
        let (a, b) = (outline[outline.len() - 1].1, back[0].1);
        let parts = (0..2).map(|k| ((b[k] - a[k]).abs() / step[k]).ceil()).fold(1.0, f64::max).min(10_000.0) as usize;
        let between: Vec<Corner> = (1..parts)
            .map(|k| {
                let t = k as f64 / parts as f64;
                let at = [0, 1].map(|i| a[i] + (b[i] - a[i]) * t);
                (points.add(self.surface.at(at)[0]), at)
            })
            .collect();
        outline.extend(between.iter().copied());
        outline.extend(back);
        outline.extend(between.iter().rev().map(|c| moved(*c, -turn)));
        Ok(outline)
    }

    /// Whether a line touches no side of a bound, wherever the bound appears again; its ends may be on it.
    fn clear(&self, [a, b]: [[f64; 2]; 2], ring: &[Corner]) -> bool {
        let shifts =
            |axis: usize| self.periods[axis].map_or(vec![0.0], |p| (-2..=2).map(|k| f64::from(k) * p).collect());
        let (us, vs) = (shifts(0), shifts(1));
        us.iter().all(|du| {
            vs.iter().all(|dv| {
                (0..ring.len() - 1).all(|n| {
                    let [c, d] = [ring[n].1, ring[n + 1].1].map(|[u, v]| [u + du, v + dv]);
                    let meets = |p: [f64; 2]| p == a || p == b;
                    meets(c) || meets(d) || !crossing([a, b], [c, d])
                })
            })
        })
    }

    /// The whole of a surface without a border, its seams where no hole is.
    fn whole(
        &self,
        holes: &[Vec<Corner>],
        steps: &dyn Fn([[f64; 2]; 2]) -> [f64; 2],
        points: &mut Added<'_>,
    ) -> Result<Vec<Corner>, FaceFault> {
        let ranges = [0, 1].map(|k| self.surface.range(k));
        let [Some(u), Some(v)] = ranges else { return Err(FaceFault::Unbounded) };
        if !self.closes() {
            return Err(FaceFault::Unbounded);
        }
        let step = steps([[u[0], v[0]], [u[1], v[1]]]);
        // A beginning of each parameter that begins anew such that no hole lies on it.
        let from = [0, 1].map(|axis| {
            let range = [u, v][axis];
            let Some(period) = self.periods[axis] else { return Some(range[0]) };
            let free = |at: &f64| {
                holes.iter().all(|h| {
                    let [low, high] = boxed(h.iter()).map(|b| b[axis]);
                    let turns = ((low - at) / period).floor();
                    high < at + (turns + 1.0) * period
                })
            };
            (0..64).map(|n| range[0] + period * f64::from(n) / 64.0).find(free)
        });
        let [Some(u0), Some(v0)] = from else { return Err(FaceFault::Unbounded) };
        let size = [u[1] - u[0], v[1] - v[0]];
        let count = [0, 1].map(|k| (size[k] / step[k]).ceil().clamp(3.0, 10_000.0) as usize);
        let mut side = |axis: usize| -> Vec<Corner> {
            // Along one parameter at the beginning of the other.
            let pole = self
                .poles
                .iter()
                .any(|p| p.axis == axis && (p.value - [u0, v0][1 - axis]).abs() < size[1 - axis] * 1e-9);
            let mut only = None;
            (0..count[axis])
                .map(|n| {
                    let mut at = [u0, v0];
                    at[axis] += size[axis] * n as f64 / count[axis] as f64;
                    let place = self.surface.at(at)[0];
                    let id = if pole { *only.get_or_insert_with(|| points.add(place)) } else { points.add(place) };
                    (id, at)
                })
                .collect()
        };
        let (bottom, left) = (side(0), side(1));
        let corner = bottom[0].0;
        let left: Vec<Corner> = std::iter::once((corner, left[0].1)).chain(left.into_iter().skip(1)).collect();
        let opposite = |row: &[Corner], axis: usize, points: &mut Added<'_>| -> Vec<Corner> {
            let shifted = row.iter().map(|(id, at)| {
                let mut at = *at;
                at[1 - axis] += size[1 - axis];
                (*id, at)
            });
            if self.periods[1 - axis].is_some() {
                return shifted.collect();
            }
            let shifted: Vec<Corner> = shifted.collect();
            let id = points.add(self.surface.at(shifted[0].1)[0]);
            shifted.into_iter().map(|(_, at)| (id, at)).collect()
        };
        let (top, right) = (opposite(&bottom, 0, points), opposite(&left, 1, points));
        let end = |row: &[Corner], axis: usize| {
            let (id, mut at) = row[0];
            at[axis] += size[axis];
            (id, at)
        };
        let mut outline = bottom;
        outline.extend(right);
        outline.push(end(&top, 0));
        outline.extend(top.iter().skip(1).rev());
        outline.push(top[0]);
        outline.extend(left.iter().skip(1).rev());
        Ok(outline)
    }

    /// A hole, moved by whole periods into an outline.
    fn shifted_into(&self, outline: &[Corner], hole: Vec<Corner>) -> Option<Vec<Corner>> {
        let shifts = |axis: usize| {
            self.periods[axis].map_or(vec![0.0], |p| [0, 1, -1, 2, -2].map(|k| f64::from(k) * p).to_vec())
        };
        for du in shifts(0) {
            for dv in shifts(1) {
                let moved: Vec<Corner> = hole.iter().map(|(id, [u, v])| (*id, [u + du, v + dv])).collect();
                let inside = moved.iter().filter(|c| encloses(outline, c.1)).count();
                if inside * 2 > moved.len() {
                    return Some(moved);
                }
            }
        }
        // Flat faces may have bounds in any order; what lies apart is told by the areas.
        (self.periods == [None, None]).then_some(hole)
    }
}
