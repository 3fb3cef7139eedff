//! Where the points of a moved surface go: for each point its groups of triangles, and the caps and strips between them.

use rayon::prelude::*;

use super::build::step_angle;
use super::corner::{Moved, meeting, on_arc};
use super::moved::{REACH, Spread};
use super::rings::{Ring, twin};
use super::{Corners, Fault, How, Rims};
use crate::topology::previous;
use crate::{Mesh, Point, Progress, Topology};

pub(super) struct Solver<'a> {
    pub(super) mesh: &'a Mesh,
    pub(super) topology: &'a Topology<'a>,
    pub(super) normals: &'a [Point],
    pub(super) facet_of: &'a [u32],
    pub(super) by: &'a (dyn Fn(usize) -> f64 + Sync),
    pub(super) how: &'a How,
}

impl Solver<'_> {
    pub(super) fn plane(&self, half: u32) -> Option<Moved> {
        let t = half as usize / 3;
        (self.normals[t] != Point::ZERO).then(|| Moved { normal: self.normals[t], by: (self.by)(t) })
    }

    /// The planes of some halves' triangles, that of each flat piece once.
    pub(super) fn planes(&self, halves: impl Iterator<Item = u32>) -> Vec<Moved> {
        let mut seen: Vec<(u32, f64)> = vec![];
        let mut planes = vec![];
        for half in halves {
            let t = half as usize / 3;
            let one = (self.facet_of[t], (self.by)(t));
            if !seen.contains(&one) {
                seen.push(one);
                planes.extend(self.plane(half));
            }
        }
        planes
    }

    /// How far the surfaces on both sides of the edge that a half runs along draw apart when they move, mm; nought where they
    /// run into each other.
    pub(super) fn opens(&self, half: u32) -> f64 {
        let Some(other) = twin(self.topology, half) else { return 0.0 };
        let (Some(a), Some(b)) = (self.plane(half), self.plane(other)) else { return 0.0 };
        if a.by != b.by || self.facet_of[half as usize / 3] == self.facet_of[other as usize / 3] {
            return 0.0;
        }
        let corner = |h: u32| self.mesh.points()[self.topology.ends(h).0 as usize];
        // The far corner of the other triangle lies below this one where the edge stands out.
        let below = a.normal.dot(corner(previous(other)) - corner(half)) * a.by.signum();
        if below >= 0.0 {
            return 0.0;
        }
        let half_angle = (a.normal.dot(b.normal).clamp(-1.0, 1.0).acos() * 0.5).min(1.5);
        a.by.abs() * (1.0 / half_angle.cos() - 1.0)
    }

    /// Where everything goes. Where moved triangles would turn over, those that run into each other have no place in common
    /// that holds what is at the distance: there each triangle round a point goes by itself, straight along its normal. At
    /// kinks that are `loose` it is let go at once.
    pub(super) fn spreads(
        &self,
        rings: &[Ring],
        loose: &(dyn Fn(Point) -> bool + Sync),
        progress: &Progress,
    ) -> Result<Vec<Spread>, Fault> {
        /// Letting go of some may turn over others.
        const ROUNDS: usize = 6;
        let mut spreads: Vec<Spread> = rings
            .par_iter()
            .map(|ring| self.spread(ring, self.is_kinked(ring) && loose(self.mesh.points()[ring.point as usize])))
            .collect::<Result<_, Fault>>()?;
        if self.how.corners == Corners::Round {
            return Ok(spreads);
        }
        let mut ring_of = vec![0u32; self.mesh.triangles().len() * 3];
        for (n, ring) in rings.iter().enumerate() {
            ring.halves.iter().for_each(|h| ring_of[*h as usize] = n as u32);
        }
        let mut loose = vec![false; rings.len()];
        for _ in 0..ROUNDS {
            progress.check()?;
            let mut place_of = vec![Point::ZERO; ring_of.len()];
            for (ring, spread) in rings.iter().zip(&spreads) {
                ring.halves.iter().zip(&spread.places).for_each(|(h, place)| place_of[*h as usize] = *place);
            }
            let turned = |t: &usize| {
                let [a, b, c] = [0, 1, 2].map(|k| place_of[3 * t + k]);
                self.normals[*t] != Point::ZERO && ((b - a).cross(c - a).dot(self.normals[*t]) <= 0.0)
            };
            let mut again: Vec<u32> = (0..self.mesh.triangles().len())
                .filter(turned)
                .flat_map(|t| [0, 1, 2].map(|k| ring_of[3 * t + k]))
                .filter(|n| !loose[*n as usize] && self.is_kinked(&rings[*n as usize]))
                .collect();
            again.sort_unstable();
            again.dedup();
            if again.is_empty() {
                break;
            }
            again.iter().for_each(|n| loose[*n as usize] = true);
            let anew: Vec<Spread> =
                again.par_iter().map(|n| self.spread(&rings[*n as usize], true)).collect::<Result<_, Fault>>()?;
            for (n, spread) in again.into_iter().zip(anew) {
                spreads[n as usize] = spread;
            }
        }
        Ok(spreads)
    }

    /// Whether planes round a point turn by more than smooth surfaces do. Those may turn over together: what they lose is less
    /// than what letting go of them would cost.
    pub(super) fn is_kinked(&self, ring: &Ring) -> bool {
        /// The cosine of 15 degrees.
        const SMOOTH: f64 = 0.966;
        let across = |h: &u32| Some(self.plane(*h)?.normal.dot(self.plane(twin(self.topology, *h)?)?.normal));
        ring.halves.iter().any(|h| across(h).is_some_and(|c| c < SMOOTH))
    }

    pub(super) fn spread(&self, ring: &Ring, loose: bool) -> Result<Spread, Fault> {
        let v = self.mesh.points()[ring.point as usize];
        let planes = self.planes(ring.halves.iter().copied());
        let far = |way: Point| way.length() > REACH * planes.iter().map(|p| p.by.abs()).fold(0.0, f64::max);
        let together = |way: Point| Spread {
            places: vec![v + way; ring.halves.len()],
            between: vec![],
            round: false,
            mitred: false,
        };
        if !ring.closed
            && let Rims::Along(direction) = self.how.rims
        {
            return self.along(&planes, v, direction).map(together);
        }
        // The edge after each triangle is that of the next triangle's half.
        let count = ring.halves.len();
        let edges = if ring.closed { count } else { count - 1 };
        let after = |i: usize| ring.halves[(i + 1) % count];
        let opens: Vec<f64> = (0..edges).map(|i| self.opens(after(i))).collect();
        if loose {
            return Ok(self.round(ring, v, &opens, None));
        }
        let (way, off) = meeting(&planes);
        let opens_nowhere = opens.iter().all(|o| *o <= self.how.chord);
        if off <= self.how.chord && !far(way) && (self.how.corners == Corners::Sharp || opens_nowhere) {
            return Ok(together(way));
        }
        if self.how.corners == Corners::Sharp
            && let Some(spread) = self.sharp(ring, v, &opens, &far)
        {
            return Ok(spread);
        }
        Ok(self.round(ring, v, &opens, Some(&far)))
    }

    /// Along a direction to where the planes go, as near as can be.
    pub(super) fn along(&self, planes: &[Moved], v: Point, direction: Point) -> Result<Point, Fault> {
        /// A direction that lies flatter in the surface than this (the cosine to the normal) leads too far away.
        const FLATTEST: f64 = 0.2;
        let flat = planes.iter().any(|p| p.normal.dot(direction).abs() < FLATTEST);
        let (mut top, mut bottom) = (0.0, 0.0);
        for p in planes {
            let along = p.normal.dot(direction);
            top += along * p.by;
            bottom += along * along;
        }
        if flat || bottom == 0.0 { Err(Fault::AlongSurface(v)) } else { Ok(direction * (top / bottom)) }
    }

    /// The triangles of a ring in groups: the number of each one's group, and how many there are. A group ends where `ends`.
    pub(super) fn groups(ring: &Ring, ends: &[bool]) -> (Vec<usize>, usize) {
        let count = ring.halves.len();
        let mut group = vec![0; count];
        for i in 1..count {
            group[i] = group[i - 1] + usize::from(ends[i - 1]);
        }
        let mut groups = group[count - 1] + 1;
        // The last goes on into the first.
        if ring.closed && groups > 1 && !ends[count - 1] {
            groups -= 1;
            group.iter_mut().filter(|g| **g == groups).for_each(|g| *g = 0);
        }
        (group, groups)
    }

    /// Each group to where its planes meet those across its borders.
    pub(super) fn sharp(&self, ring: &Ring, v: Point, opens: &[f64], far: &dyn Fn(Point) -> bool) -> Option<Spread> {
        let count = ring.halves.len();
        let ends: Vec<bool> = opens.iter().map(|o| *o > self.how.chord).collect();
        let (group, groups) = Self::groups(ring, &ends);
        let mut members: Vec<Vec<u32>> = vec![vec![]; groups];
        for (i, half) in ring.halves.iter().enumerate() {
            members[group[i]].push(*half);
        }
        for (i, _) in ends.iter().enumerate().filter(|(_, end)| **end) {
            let (a, b) = (i, (i + 1) % count);
            members[group[a]].push(ring.halves[b]);
            members[group[b]].push(ring.halves[a]);
        }
        let mut ways = Vec::with_capacity(groups);
        for members in members {
            let (way, off) = meeting(&self.planes(members.into_iter()));
            if off > self.how.chord || far(way) {
                return None;
            }
            ways.push(v + way);
        }
        let places: Vec<Point> = group.iter().map(|g| ways[*g]).collect();
        let between = (0..opens.len()).map(|i| vec![places[i], places[(i + 1) % count]]).collect();
        Some(Spread { places, between, round: false, mitred: false })
    }

    /// A row of places round a point, with more between them where the turn from one to the next is more than an arc's.
    pub(super) fn fine(&self, row: &[Point], v: Point, reach: f64) -> Vec<Point> {
        let most = step_angle(reach, self.how.chord);
        let mut fine = vec![row[0]];
        for pair in row.windows(2) {
            let (a, b) = (pair[0] - v, pair[1] - v);
            let turn = a.angle_between(b);
            let steps = if turn.is_finite() { (turn / most - 1e-6).ceil().max(1.0) as usize } else { 1 };
            let (from, to) = (a.normalize_or_zero(), b.normalize_or_zero());
            fine.extend((1..steps).map(|k| {
                let s = k as f64 / steps as f64;
                v + on_arc(from, to, s) * (a.length() * (1.0 - s) + b.length() * s)
            }));
            fine.push(pair[1]);
        }
        fine
    }

    /// Each group to where its planes meet, unless that is too far away, with arcs between; each triangle by itself where
    /// nothing is said about `far`.
    pub(super) fn round(&self, ring: &Ring, v: Point, opens: &[f64], far: Option<&dyn Fn(Point) -> bool>) -> Spread {
        let count = ring.halves.len();
        let ways = |ends: &[bool]| {
            let (group, groups) = Self::groups(ring, ends);
            let mut members: Vec<Vec<u32>> = vec![vec![]; groups];
            for (i, half) in ring.halves.iter().enumerate() {
                members[group[i]].push(*half);
            }
            let met: Vec<(Point, f64)> = members.into_iter().map(|m| meeting(&self.planes(m.into_iter()))).collect();
            let no_place = |way: Point| far.is_none_or(|far| far(way));
            let worst = met.iter().map(|(way, off)| if no_place(*way) { f64::INFINITY } else { *off });
            let worst = worst.fold(0.0, f64::max);
            (group.iter().map(|g| v + met[*g].0).collect::<Vec<Point>>(), worst)
        };
        let ends: Vec<bool> = opens.iter().map(|o| *o > self.how.chord).collect();
        let (mut places, off) = ways(&ends);
        let single = off > self.how.chord;
        if single {
            // Planes that run into each other have no common place either: each triangle goes by itself.
            let straight = |h: &u32| self.plane(*h).map_or(v, |p| v + p.normal * p.by);
            places = ring.halves.iter().map(straight).collect();
        }
        if !single && let Some(spread) = self.mitred(ring, v, &ends, &places) {
            return spread;
        }
        let planes_by = |i: usize| (self.by)(ring.halves[i] as usize / 3).abs();
        let between = (0..opens.len())
            .map(|i| {
                let j = (i + 1) % count;
                let mut row = vec![places[i]];
                if (single || opens[i] > self.how.chord)
                    && let (Some(a), Some(b)) = (self.plane(ring.halves[i]), self.plane(ring.halves[j]))
                    && a.by == b.by
                {
                    let turn = a.normal.dot(b.normal).clamp(-1.0, 1.0).acos();
                    let steps = (turn / step_angle(a.by.abs(), self.how.chord)).ceil().max(1.0) as usize;
                    row.push(v + a.normal * a.by);
                    row.extend((1..steps).map(|k| v + on_arc(a.normal, b.normal, k as f64 / steps as f64) * a.by));
                    row.push(v + b.normal * b.by);
                }
                row.push(places[j]);
                self.fine(&row, v, planes_by(i).max(planes_by(j)))
            })
            .collect();
        // What moves outward and what moves inward lie on no sphere together.
        let by = |i: usize| (self.by)(ring.halves[i] as usize / 3);
        let round = (0..count).all(|i| by(i) == by(0));
        Spread { places, between, round, mitred: false }
    }

    /// Where just two edges open the arcs along both meet in one row, as at the mouth of a bore: where the planes that touch
    /// both arcs after the same share of their turn meet.
    pub(super) fn mitred(&self, ring: &Ring, v: Point, ends: &[bool], places: &[Point]) -> Option<Spread> {
        let count = ring.halves.len();
        let mut open = ends.iter().enumerate().filter(|(_, end)| **end).map(|(i, _)| i);
        let (i, j, None) = (open.next()?, open.next()?, open.next()) else { return None };
        if !ring.closed {
            return None;
        }
        let plane = |i: usize| self.plane(ring.halves[i % count]);
        // Both from the triangles between the second opening and the first to the others.
        let [a, b] = [[plane(i)?, plane(i + 1)?], [plane(j + 1)?, plane(j)?]];
        let by = a[0].by;
        if [a[1], b[0], b[1]].iter().any(|p| p.by != by) {
            return None;
        }
        let turn = |[from, to]: [Moved; 2]| from.normal.dot(to.normal).clamp(-1.0, 1.0).acos();
        let steps = (turn(a).max(turn(b)) / step_angle(by.abs(), self.how.chord)).ceil().max(1.0) as usize;
        let mut row = vec![places[i]];
        for k in 1..steps {
            let share = k as f64 / steps as f64;
            let touching = [a, b].map(|[from, to]| Moved { normal: on_arc(from.normal, to.normal, share), by });
            let (way, off) = meeting(&touching);
            if off > self.how.chord || way.length() > REACH * by.abs() {
                return None;
            }
            row.push(v + way);
        }
        row.push(places[(i + 1) % count]);
        let mut between: Vec<Vec<Point>> = (0..count).map(|i| vec![places[i], places[(i + 1) % count]]).collect();
        between[j] = row.iter().rev().copied().collect();
        between[i] = row;
        Some(Spread { places: places.to_vec(), between, round: false, mitred: true })
    }
}
