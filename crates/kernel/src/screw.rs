//! Screw threads as closed bodies: a profile that winds round the z axis.
//!
//! The surface is the radius over turn and height, so it never crosses itself: a grid of points on the lines the profile's
//! corners draw, cut level at both ends and closed there. Lead and hand are exact; round the axis it is as fine as its segments.

use std::collections::HashMap;

use crate::{FaceId, Mesh, MeshError, Point, Topology};

/// A thread's profile, and how it winds.
#[derive(Clone, Debug, PartialEq)]
pub struct Screw {
    /// Corners of the profile over one pitch: height in `0 .. pitch`, ascending, and radius.
    pub profile: Vec<(f64, f64)>,
    /// From one ridge to the next, mm.
    pub pitch: f64,
    /// How many ridges wind side by side; the lead is so many pitches.
    pub starts: u32,
    /// Whether it is left-handed.
    pub left: bool,
    /// Segments to a turn.
    pub segments: usize,
}

/// Of the pitch.
const LEVEL: f64 = 1e-7;

impl Screw {
    /// Everything nearer to the axis than the profile, between two heights. The stretch of the profile from corner `n` is
    /// face `n`, the foot is the next number after those and the top the last.
    ///
    /// # Errors
    /// [`MeshError`] where a figure is not finite.
    pub fn rod(&self, from: f64, to: f64) -> Result<Mesh, MeshError> {
        let wall = self.wall(from, to)?;
        let ends = FaceId(self.profile.len() as u32);
        let (mut points, mut triangles, mut faces) = wall.clone().into_parts();
        let centre = points.len() as u32;
        points.extend([Point::Z * from, Point::Z * to]);
        for (a, b) in naked(&wall) {
            let at_top = u32::from(points[a as usize].z > (from + to) * 0.5);
            triangles.push([b, a, centre + at_top]);
            faces.push(FaceId(ends.0 + at_top));
        }
        self.handed(Mesh::new(points, triangles, faces)?)
    }

    /// Everything between the profile and a radius beyond all of it. Faces as those of the rod; the outside has the number
    /// after them.
    ///
    /// # Errors
    /// [`MeshError`] where a figure is not finite.
    pub fn ring(&self, outer: f64, from: f64, to: f64) -> Result<Mesh, MeshError> {
        let mut wall = self.wall(from, to)?;
        wall.reverse_triangles(|_| true);
        let n = self.segments as u32;
        let first = self.profile.len() as u32;
        let rims = naked(&wall);
        let (mut points, mut triangles, mut faces) = wall.into_parts();
        let begin = points.len() as u32;
        for z in [from, to] {
            points.extend((0..self.segments).map(|k| self.place(k, outer, z)));
        }
        for k in 0..n {
            let next = (k + 1) % n;
            let [a, b, c, d] = [begin + k, begin + next, begin + n + next, begin + n + k];
            triangles.extend([[a, b, c], [a, c, d]]);
            faces.extend([FaceId(first + 2); 2]);
        }
        for (at_top, z) in [from, to].into_iter().enumerate() {
            let turn = |p: u32| points[p as usize].y.atan2(points[p as usize].x).rem_euclid(std::f64::consts::TAU);
            let mut inner: Vec<(f64, u32)> =
                rims.iter().filter(|(a, _)| points[*a as usize].z == z).map(|(a, _)| (turn(*a), *a)).collect();
            inner.sort_by(|a, b| a.0.total_cmp(&b.0));
            let outer: Vec<(f64, u32)> = (0..n).map(|k| begin + at_top as u32 * n + k).map(|p| (turn(p), p)).collect();
            for [a, b, c] in band(&inner, &outer) {
                triangles.push(if at_top == 1 { [a, b, c] } else { [a, c, b] });
                faces.push(FaceId(first + at_top as u32));
            }
        }
        self.handed(Mesh::new(points, triangles, faces)?)
    }

    fn place(&self, k: usize, radius: f64, z: f64) -> Point {
        let (y, x) = ((k % self.segments) as f64 / self.segments as f64 * std::f64::consts::TAU).sin_cos();
        Point::new(radius * x, radius * y, z)
    }

    /// The threaded wall alone, facing outward, right-handed.
    fn wall(&self, from: f64, to: f64) -> Result<Mesh, MeshError> {
        let corners = self.profile.len() as i64;
        let (n, starts) = (self.segments, i64::from(self.starts));
        let lead = self.pitch * f64::from(self.starts);
        let first = ((from - lead) / self.pitch).floor() as i64 - 1;
        let last = (to / self.pitch).ceil() as i64 + 1;
        let lines = (last - first) * corners;
        // Line `l` after a whole turn goes on as the line one lead above.
        let name = |k: usize, l: i64| if k == n { (0, l + starts * corners) } else { (k, l) };
        let place = |(k, l): (usize, i64)| {
            let (z, radius) = self.profile[l.rem_euclid(corners) as usize];
            let turn = (first + l.div_euclid(corners)) as f64 * self.pitch;
            let z = turn + z + lead * k as f64 / n as f64;
            // What is all but at the height of an end is: nothing thinner than rounding is cut off there.
            let level = [from, to].into_iter().find(|end| (z - end).abs() < self.pitch * LEVEL);
            self.place(k, radius, level.unwrap_or(z))
        };
        let mut clip = Clip { from, to, points: vec![], named: HashMap::new(), between: HashMap::new() };
        let (mut triangles, mut faces) = (vec![], vec![]);
        for k in 0..n {
            for l in 0..lines {
                let [a, b] = [name(k, l), name(k + 1, l)];
                let [c, d] = [name(k + 1, l + 1), name(k, l + 1)];
                let low = place(a).z.min(place(b).z);
                let high = place(c).z.max(place(d).z);
                if high <= from || low >= to {
                    continue;
                }
                // Diagonals lean one way and the other by turns: all one way would make the body a little too large.
                let halves = if k % 2 == 0 { [[a, b, c], [a, c, d]] } else { [[a, b, d], [b, c, d]] };
                for half in halves {
                    let shape = half.map(|at| clip.point(at, || place(at)));
                    let cut = clip.level(shape.to_vec());
                    for w in 1..cut.len().saturating_sub(1) {
                        triangles.push([cut[0], cut[w], cut[w + 1]]);
                        faces.push(FaceId(l.rem_euclid(corners) as u32));
                    }
                }
            }
        }
        Ok(Mesh::new(clip.points, triangles, faces)?.retain_triangles(|_| true))
    }

    fn handed(&self, mesh: Mesh) -> Result<Mesh, MeshError> {
        if !self.left {
            return Ok(mesh);
        }
        let mut mirrored = mesh.map_points(|p| Point::new(p.x, -p.y, p.z))?;
        mirrored.reverse_triangles(|_| true);
        Ok(mirrored)
    }
}

/// Triangles cut off level at two heights. Points are named by where they come from, so neighbours share them.
struct Clip {
    from: f64,
    to: f64,
    points: Vec<Point>,
    named: HashMap<(usize, i64), u32>,
    between: HashMap<(u32, u32, bool), u32>,
}

impl Clip {
    fn point(&mut self, name: (usize, i64), place: impl Fn() -> Point) -> u32 {
        let points = &mut self.points;
        *self.named.entry(name).or_insert_with(|| {
            points.push(place());
            points.len() as u32 - 1
        })
    }

    /// What of a convex shape lies between the heights.
    fn level(&mut self, shape: Vec<u32>) -> Vec<u32> {
        [false, true].into_iter().fold(shape, |shape, at_top| {
            let height = if at_top { self.to } else { self.from };
            let beyond = |clip: &Self, p: u32| {
                let z = clip.points[p as usize].z;
                if at_top { z >= height } else { z <= height }
            };
            let mut kept: Vec<u32> = Vec::new();
            for (n, &p) in shape.iter().enumerate() {
                let q = shape[(n + 1) % shape.len()];
                let (p_out, q_out) = (beyond(self, p), beyond(self, q));
                if !p_out {
                    kept.push(p);
                }
                if p_out != q_out {
                    let at = self.crossing(p, q, height, at_top);
                    kept.push(at);
                }
            }
            kept.dedup();
            if kept.len() > 1 && kept.first() == kept.last() {
                kept.pop();
            }
            kept
        })
    }

    fn crossing(&mut self, p: u32, q: u32, height: f64, at_top: bool) -> u32 {
        let (p, q) = (p.min(q), p.max(q));
        let [a, b] = [p, q].map(|i| self.points[i as usize]);
        if a.z == height {
            return p;
        }
        if b.z == height {
            return q;
        }
        let points = &mut self.points;
        *self.between.entry((p, q, at_top)).or_insert_with(|| {
            let at = a.lerp(b, (height - a.z) / (b.z - a.z));
            points.push(Point::new(at.x, at.y, height));
            points.len() as u32 - 1
        })
    }
}

/// The naked sides of a mesh, as their triangles go.
fn naked(mesh: &Mesh) -> Vec<(u32, u32)> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    topology.naked_halves().into_iter().map(|h| topology.ends(h)).collect()
}

/// Triangles between two rings of points in the order of their turns, counter-clockwise.
fn band(inner: &[(f64, u32)], outer: &[(f64, u32)]) -> Vec<[u32; 3]> {
    let turn = |ring: &[(f64, u32)], n: usize| {
        ring[n % ring.len()].0 + if n >= ring.len() { std::f64::consts::TAU } else { 0.0 }
    };
    let point = |ring: &[(f64, u32)], n: usize| ring[n % ring.len()].1;
    let (mut i, mut o) = (0, 0);
    let mut triangles = Vec::with_capacity(inner.len() + outer.len());
    while !inner.is_empty() && (i < inner.len() || o < outer.len()) {
        let inner_first = o == outer.len() || (i < inner.len() && turn(inner, i + 1) <= turn(outer, o + 1));
        if inner_first {
            triangles.push([point(inner, i), point(outer, o), point(inner, i + 1)]);
            i += 1;
        } else {
            triangles.push([point(inner, i), point(outer, o), point(outer, o + 1)]);
            o += 1;
        }
    }
    triangles
}

#[cfg(test)]
mod tests {
    use std::f64::consts::PI;

    use proptest::prelude::*;

    use super::*;
    use crate::Progress;
    use crate::crossings::{crossing_pairs, triangle_bvh};
    use crate::measure::measure;
    use crate::topology::EdgeUse;

    fn is_closed(mesh: &Mesh) -> bool {
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        topology.edges_with(EdgeUse::Regular).count() == topology.edge_count()
    }

    fn crosses(mesh: &Mesh) -> bool {
        !crossing_pairs(mesh, &triangle_bvh(mesh), &Progress::unwatched()).unwrap().is_empty()
    }

    /// A ridge of 60 degrees with flats of an eighth and a quarter of the pitch.
    fn vee(pitch: f64, radius: f64) -> Vec<(f64, f64)> {
        let depth = 0.625 * 3f64.sqrt() / 2.0 * pitch;
        [(0.125, depth), (0.4375, 0.0), (0.5625, 0.0), (0.875, depth)].map(|(z, r)| (z * pitch, radius - r)).to_vec()
    }

    /// The volume of one pitch of a rod: the section has the same area at every height.
    fn of_a_pitch(screw: &Screw) -> f64 {
        let corners = &screw.profile;
        (0..corners.len())
            .map(|n| {
                let (z, a) = corners[n];
                let (next, b) =
                    if n + 1 < corners.len() { corners[n + 1] } else { (corners[0].0 + screw.pitch, corners[0].1) };
                PI * (next - z) * (a * a + a * b + b * b) / 3.0
            })
            .sum()
    }

    #[test]
    fn volumes_near_the_integral_of_the_profile_by_the_square_of_the_segments() {
        for (starts, left) in [(1, false), (3, true)] {
            let lacking = |segments: usize| {
                let screw = Screw { profile: vee(1.0, 5.0), pitch: 1.0, starts, left, segments };
                let height = f64::from(starts) * 2.0;
                let rod = screw.rod(0.25, 0.25 + height).unwrap();
                assert!(is_closed(&rod) && !crosses(&rod));
                1.0 - measure(&rod).volume / (of_a_pitch(&screw) * height)
            };
            let ratio = lacking(96) / lacking(192);
            assert!((ratio - 4.0).abs() < 0.1, "{ratio}");
        }
    }

    #[test]
    fn a_rod_and_the_ring_round_it_fill_a_drum() {
        let screw = Screw { profile: vee(1.5, 4.0), pitch: 1.5, starts: 2, left: false, segments: 40 };
        let (rod, ring) = (screw.rod(-3.0, 4.1).unwrap(), screw.ring(6.0, -3.0, 4.1).unwrap());
        let drum = 0.5 * 40.0 * (2.0 * PI / 40.0).sin() * 36.0 * 7.1;
        assert!((measure(&rod).volume + measure(&ring).volume - drum).abs() < 1e-9 * drum);
        assert!(is_closed(&ring) && !crosses(&ring));
    }

    #[test]
    fn the_ridge_climbs_by_the_lead_and_to_the_right_hand() {
        for (starts, left) in [(1, false), (1, true), (3, false)] {
            let screw = Screw { profile: vee(2.0, 6.0), pitch: 2.0, starts, left, segments: 64 };
            let rod = screw.rod(0.0, 9.0).unwrap();
            // The corners of the crest at an angle, within a pitch.
            let heights = |angle: f64| {
                let crest = rod.points().iter().filter(|p| (p.x.hypot(p.y) - 6.0).abs() < 1e-9);
                let there = crest.filter(|p| (p.y.atan2(p.x) - angle).abs() < 1e-9 && p.z > 2.0 && p.z < 7.0);
                let mut z: Vec<i64> = there.map(|p| (p.z.rem_euclid(2.0) * 1e6).round() as i64).collect();
                z.sort_unstable();
                z.dedup();
                z
            };
            // A quarter turn climbs a quarter of the lead, to the other side when left-handed.
            let climb = 0.5 * f64::from(starts) * if left { -1.0 } else { 1.0 };
            let climb = (climb * 1e6) as i64;
            let mut expected: Vec<i64> = heights(0.0).iter().map(|z| (z + climb).rem_euclid(2_000_000)).collect();
            expected.sort_unstable();
            assert_eq!((heights(PI / 2.0), expected.len()), (expected, 2));
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(48))]
        #[test]
        fn every_thread_is_a_closed_body_wherever_it_is_cut(
            pitch in 0.2f64..6.0, slender in 1.2f64..12.0, starts in 1u32..5, left: bool, segments in 12usize..48,
            from in -3.0f64..3.0, long in 0.01f64..12.0,
        ) {
            let screw = Screw { profile: vee(pitch, pitch * slender), pitch, starts, left, segments };
            for mesh in [screw.rod(from, from + long).unwrap(), screw.ring(pitch * (slender + 1.0), from, from + long).unwrap()] {
                prop_assert!(is_closed(&mesh) && measure(&mesh).volume > 0.0);
                prop_assert!(!crosses(&mesh));
            }
        }
    }
}
