//! Takes triangles of hardly any area out of a surface, without moving it by more than their heights: a short side is drawn
//! together, a long one is turned to join the two corners that face it.

use std::collections::BTreeSet;

use rayon::prelude::*;

use crate::{FaceId, Mesh, Point};

/// Sweeps over what is slender; each may free what the one before could not.
const SWEEPS: usize = 16;
/// A side this short against the longest of its triangle is drawn together.
const SHORT: f64 = 1e-3;

/// The surface without triangles whose height is less than `least` times their longest side, as far as that is possible
/// without opening it, turning a triangle over or making an edge of three.
pub fn without_slender(mesh: Mesh, least: f64) -> Mesh {
    mended(mesh, Least { height: least, absolute: false }, |_| true)
}

/// As [`without_slender`], of triangles whose height itself is less than `least`, mm.
pub fn without_thin(mesh: Mesh, least: f64) -> Mesh {
    without_thin_among(mesh, least, |_| true)
}

/// As [`without_thin`], of triangles for whose corners something holds.
pub fn without_thin_among(mesh: Mesh, least: f64, among: impl Fn([Point; 3]) -> bool + Sync) -> Mesh {
    mended(mesh, Least { height: least, absolute: true }, among)
}

/// The triangles whose height is less than `least`, mm.
pub fn thin_triangles(mesh: &Mesh, least: f64) -> Vec<u32> {
    let is_thin = |t: &u32| {
        let [a, b, c] = mesh.corners(*t as usize);
        let longest = a.distance_squared(b).max(b.distance_squared(c)).max(c.distance_squared(a)).sqrt();
        mesh.area_vector(*t as usize).length() < least * longest
    };
    (0..mesh.triangles().len() as u32).into_par_iter().filter(is_thin).collect()
}

/// What is slender.
#[derive(Clone, Copy)]
struct Least {
    height: f64,
    /// Whether that is a height, rather than a share of the longest side.
    absolute: bool,
}

impl Least {
    /// The height of a triangle over its longest side, as a share of that unless it is asked for itself.
    fn height_of(self, [a, b, c]: [Point; 3]) -> f64 {
        let longest = a.distance_squared(b).max(b.distance_squared(c)).max(c.distance_squared(a));
        let over = if self.absolute { longest.sqrt() } else { longest };
        if over > 0.0 { (b - a).cross(c - a).length() / over } else { 0.0 }
    }
}

fn mended(mesh: Mesh, least: Least, among: impl Fn([Point; 3]) -> bool + Sync) -> Mesh {
    let is_slender =
        |t: &u32| least.height_of(mesh.corners(*t as usize)) < least.height && among(mesh.corners(*t as usize));
    let mut slender: Vec<u32> = (0..mesh.triangles().len() as u32).into_par_iter().filter(is_slender).collect();
    if slender.is_empty() {
        return mesh;
    }
    let mut work = Work::new(mesh, least);
    for _ in 0..SWEEPS {
        let mut touched = BTreeSet::new();
        for &t in &slender {
            if work.alive[t as usize] && work.is_slender(t) {
                touched.extend(work.mend(t));
            }
        }
        if touched.is_empty() {
            break;
        }
        // The others are as they were.
        touched.extend(slender);
        slender = touched.into_iter().filter(|&t| work.alive[t as usize] && work.is_slender(t)).collect();
    }
    work.finish()
}

struct Work {
    points: Vec<Point>,
    triangles: Vec<[u32; 3]>,
    faces: Vec<FaceId>,
    alive: Vec<bool>,
    /// The living triangles round each point.
    round: Vec<Vec<u32>>,
    least: Least,
}

impl Work {
    fn new(mesh: Mesh, least: Least) -> Self {
        let (points, triangles, faces) = mesh.into_parts();
        let mut round = vec![Vec::new(); points.len()];
        for (t, corners) in triangles.iter().enumerate() {
            for c in corners {
                round[*c as usize].push(t as u32);
            }
        }
        Self { alive: vec![true; triangles.len()], points, triangles, faces, round, least }
    }

    fn finish(self) -> Mesh {
        let alive = self.alive;
        let mesh = Mesh::new(self.points, self.triangles, self.faces).unwrap_or_default();
        mesh.retain_triangles(|t| alive[t])
    }

    fn place(&self, v: u32) -> Point {
        self.points[v as usize]
    }

    fn is_slender(&self, t: u32) -> bool {
        self.height(self.triangles[t as usize]) < self.least.height
    }

    fn height(&self, t: [u32; 3]) -> f64 {
        self.least.height_of(t.map(|v| self.place(v)))
    }

    fn vector(&self, t: [u32; 3]) -> Point {
        let [a, b, c] = t.map(|v| self.place(v));
        (b - a).cross(c - a)
    }

    /// The triangles that have both points.
    fn at_edge(&self, a: u32, b: u32) -> Vec<u32> {
        self.round[a as usize].iter().copied().filter(|&t| self.triangles[t as usize].contains(&b)).collect()
    }

    /// Mends one triangle in the first way that is allowed; the triangles that were changed.
    fn mend(&mut self, t: u32) -> Vec<u32> {
        let corners = self.triangles[t as usize];
        let mut sides: Vec<(f64, usize)> =
            (0..3).map(|k| (self.place(corners[k]).distance_squared(self.place(corners[(k + 1) % 3])), k)).collect();
        sides.sort_by(|a, b| a.0.total_cmp(&b.0));
        let (shortest, k) = sides[0];
        let (longest, far) = sides[2];
        let short = shortest <= SHORT * SHORT * longest || self.least.absolute && shortest <= self.least.height.powi(2);
        if short || longest == 0.0 {
            let (a, b) = (corners[k], corners[(k + 1) % 3]);
            for (from, onto) in [(a, b), (b, a)] {
                let changed = self.collapse(from, onto);
                if !changed.is_empty() {
                    return changed;
                }
            }
        }
        self.turn(t, far)
    }

    /// Draws a point onto a neighbour.
    fn collapse(&mut self, from: u32, onto: u32) -> Vec<u32> {
        let neighbours = |v: u32| -> BTreeSet<u32> {
            self.round[v as usize].iter().flat_map(|&t| self.triangles[t as usize]).filter(|&w| w != v).collect()
        };
        let shared = self.at_edge(from, onto);
        if neighbours(from).intersection(&neighbours(onto)).count() != shared.len() {
            return vec![];
        }
        let moved: Vec<u32> = self.round[from as usize].iter().copied().filter(|t| !shared.contains(t)).collect();
        let renamed = |t: u32| self.triangles[t as usize].map(|v| if v == from { onto } else { v });
        let spoils = |&t: &u32| {
            let (old, new) = (self.triangles[t as usize], renamed(t));
            let was_slender = self.height(old) < self.least.height;
            (self.height(new) < self.least.height || self.vector(old).dot(self.vector(new)) <= 0.0) && !was_slender
        };
        if moved.iter().any(spoils) {
            return vec![];
        }
        for &t in &shared {
            self.alive[t as usize] = false;
            for v in self.triangles[t as usize] {
                self.round[v as usize].retain(|x| *x != t);
            }
        }
        for &t in &moved {
            self.triangles[t as usize] = self.triangles[t as usize].map(|v| if v == from { onto } else { v });
            self.round[onto as usize].push(t);
        }
        self.round[from as usize].clear();
        shared.into_iter().chain(moved).collect()
    }

    /// Turns side `k` of a triangle in the quadrilateral it makes with its neighbour.
    fn turn(&mut self, t: u32, k: usize) -> Vec<u32> {
        let corners = self.triangles[t as usize];
        let (a, b, c) = (corners[k], corners[(k + 1) % 3], corners[(k + 2) % 3]);
        let pair = self.at_edge(a, b);
        let Some(&u) = pair.iter().find(|&&u| u != t) else { return vec![] };
        let beside = self.triangles[u as usize];
        let Some(j) = (0..3).find(|&j| beside[j] == b && beside[(j + 1) % 3] == a) else { return vec![] };
        let d = beside[(j + 2) % 3];
        if pair.len() != 2 || c == d {
            return vec![];
        }
        let new = [[a, d, c], [d, b, c]];
        let before = self.vector(beside);
        let better = |n: &[u32; 3]| self.height(*n) > self.height(corners) && self.vector(*n).dot(before) > 0.0;
        let across = self.at_edge(c, d);
        if !across.is_empty() {
            // A half that would lie on a triangle the other way round goes with it.
            let lies_on = |n: [u32; 3], w: u32| {
                (0..3).any(|k| self.triangles[w as usize] == [n[k], n[(k + 2) % 3], n[(k + 1) % 3]])
            };
            let leaf = (0..2).find_map(|n| across.iter().find(|w| lies_on(new[n], **w)).map(|w| (new[1 - n], *w)));
            return match leaf {
                Some((stays, w)) if better(&stays) => self.close(t, [u, w], stays),
                _ => vec![],
            };
        }
        if !new.iter().all(better) {
            return vec![];
        }
        self.triangles[t as usize] = new[0];
        self.triangles[u as usize] = new[1];
        // The half that is away from the long side keeps the face of the wider triangle.
        self.faces[t as usize] = self.faces[u as usize];
        self.round[b as usize].retain(|x| *x != t);
        self.round[a as usize].retain(|x| *x != u);
        self.round[d as usize].push(t);
        self.round[c as usize].push(u);
        vec![t, u]
    }

    /// Puts one triangle in the place of three that close round a corner; it keeps the face of the first beside.
    fn close(&mut self, t: u32, beside: [u32; 2], stays: [u32; 3]) -> Vec<u32> {
        for gone in [t, beside[0], beside[1]] {
            for v in self.triangles[gone as usize] {
                self.round[v as usize].retain(|x| *x != gone);
            }
        }
        beside.iter().for_each(|w| self.alive[*w as usize] = false);
        self.faces[t as usize] = self.faces[beside[0] as usize];
        self.triangles[t as usize] = stays;
        stays.iter().for_each(|v| self.round[*v as usize].push(t));
        vec![t, beside[0], beside[1]]
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Topology;
    use crate::measure::measure;
    use crate::shapes::block;
    use crate::topology::EdgeUse;

    fn closed(mesh: &Mesh) -> bool {
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        topology.edges_with(EdgeUse::Regular).count() == topology.edge_count()
    }

    /// A block with points put into its edges, each on a side or at a corner, by triangles without area.
    #[test]
    fn needles_and_caps_are_taken_out_of_a_block_and_its_volume_stays() {
        for share in [0.5, 0.0, 1e-9, 0.3] {
            let (mut points, mut triangles, _) = block(Point::ZERO, Point::splat(4.0)).into_parts();
            for t in 0..12 {
                let [a, b, c] = triangles[t];
                let m = points.len() as u32;
                points.push(points[a as usize].lerp(points[b as usize], share));
                // The side a b of this triangle gets the point, its neighbour does not: a needle joins them.
                triangles[t] = [a, m, c];
                triangles.extend([[m, b, c], [b, m, a]]);
            }
            let bad = Mesh::with_one_face(points, triangles).unwrap();
            assert!(closed(&bad));
            let good = without_slender(bad, 1e-6);
            assert!(closed(&good), "at {share}");
            assert!((0..good.triangles().len()).all(|t| good.area_vector(t).length() > 1e-6), "at {share}");
            assert!((measure(&good).volume - 64.0).abs() < 1e-6);
        }
    }

    /// A triangle of a block drawn out to a corner beyond one of its own and folded back: a cap whose long side cannot be turned,
    /// since the two corners that face it are joined already.
    #[test]
    fn a_triangle_folded_back_over_a_side_is_whole_again() {
        for beyond in [1.5, 1.0 + 1e-9, 7.0] {
            for which in 0..12 {
                let whole = block(Point::ZERO, Point::new(4.0, 3.0, 2.0));
                let (mut points, mut triangles, _) = whole.clone().into_parts();
                let ([a, d, c], b) = (triangles[which], points.len() as u32);
                points.push(points[a as usize].lerp(points[c as usize], beyond));
                triangles[which] = [a, b, c];
                triangles.extend([[b, a, d], [b, d, c]]);
                let bad = Mesh::with_one_face(points, triangles).unwrap();
                assert!(closed(&bad));
                let good = without_thin(bad, 1e-6);
                assert!(closed(&good) && good.triangles().len() == 12, "{beyond}: {}", good.triangles().len());
                assert!((measure(&good).volume - 24.0).abs() < 1e-9 && good.points() == whole.points());
            }
        }
    }
}
