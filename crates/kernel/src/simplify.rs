//! Fewer triangles for the same surface: points are drawn onto a neighbour where that moves the surface by less than a
//! tolerance.
//!
//! Half-edge collapses (after Hoppe et al. 1993, with the link condition of Dey et al. 1999), so points that stay do not
//! move. Each triangle keeps the removed points nearest to it (after Klein, Liebich and Straßer 1996), and none of them may
//! come to lie farther off than the tolerance. Borders of faces and of the surface are lines: a point on one is drawn along
//! it only, a point where three meet stays. Cost: a few passes, times the points kept by a triangle.

use std::collections::{HashMap, HashSet};

use crate::precision::precision;
use crate::segments::{nearest_on_segment, nearest_on_triangle};
use crate::surfaces::Facets;
use crate::{Cancelled, FaceId, Mesh, Point, Progress};

/// Passes over all points at most; each removes a good share of what can go.
const PASSES: usize = 40;
/// The cosine by which a triangle may turn: 15°. Keeps curved faces from folding within the tolerance.
const MOST_TURN: f64 = 0.966;
/// Triangles may get as slender as this (height over longest side), or as the worst there was.
const LEAST_HEIGHT: f64 = 0.02;
/// The same in flat faces, where slender triangles do no harm.
const LEAST_LEVEL: f64 = 1e-4;

/// Removes points, only where all faces round them may be changed. No point removed lies farther than `tolerance`, mm, from
/// the triangles that are left.
///
/// # Errors
/// [`Cancelled`].
pub fn simplify(
    mesh: &Mesh,
    tolerance: f64,
    may_change: impl Fn(FaceId) -> bool,
    progress: &Progress,
) -> Result<Mesh, Cancelled> {
    let mut may_go = vec![true; mesh.points().len()];
    for (t, _) in mesh.triangles().iter().zip(mesh.face_of()).filter(|(_, f)| !may_change(**f)) {
        t.iter().for_each(|c| may_go[*c as usize] = false);
    }
    run(Work::new(mesh, false), mesh, tolerance, &may_go, progress)
}

/// Removes points for which `may_go` holds and that only divide what is flat: no triangle leaves its plane by more than the
/// tolerance, so nothing but the tolerance is lost of the volume or of any edge.
///
/// # Errors
/// [`Cancelled`].
pub(crate) fn without_points(
    mesh: &Mesh,
    tolerance: f64,
    may_go: &[bool],
    progress: &Progress,
) -> Result<Mesh, Cancelled> {
    run(Work::new(mesh, true), mesh, tolerance, may_go, progress)
}

/// The mesh without points that only divide what is flat, within its precision; of all, or of those within two triangles of some
/// points. None where there are no such points. What is made of a mesh should not hang on how somebody divided its faces.
///
/// # Errors
/// [`Cancelled`].
pub fn undivided(mesh: &Mesh, near: Option<&[u32]>, progress: &Progress) -> Result<Option<Mesh>, Cancelled> {
    let looked_at = match near {
        None => (0..mesh.triangles().len() as u32).collect(),
        Some(points) => round_about(mesh, points),
    };
    let facets = Facets::of(mesh, &looked_at);
    progress.check()?;
    // Points in one flat piece, or between two.
    let mut around: HashMap<u32, [u32; 2]> = HashMap::new();
    let mut stays = vec![near.is_some(); mesh.points().len()];
    if near.is_some() {
        looked_at.iter().flat_map(|t| mesh.triangles()[*t as usize]).for_each(|p| stays[p as usize] = false);
        let is_in: HashSet<u32> = looked_at.iter().copied().collect();
        let outside = (0..mesh.triangles().len() as u32).filter(|t| !is_in.contains(t));
        outside.flat_map(|t| mesh.triangles()[t as usize]).for_each(|p| stays[p as usize] = true);
    }
    for (t, facet) in looked_at.iter().zip(&facets.of) {
        for p in mesh.triangles()[*t as usize] {
            let held = around.entry(p).or_insert([u32::MAX; 2]);
            match held.iter().position(|held| held == facet || *held == u32::MAX) {
                Some(k) => held[k] = *facet,
                None => stays[p as usize] = true,
            }
        }
    }
    let may_go: Vec<bool> = stays.into_iter().map(|stays| !stays).collect();
    if !may_go.contains(&true) {
        return Ok(None);
    }
    let flat = without_points(mesh, precision(mesh.points().iter()), &may_go, progress)?;
    Ok((flat.points().len() < mesh.points().len()).then_some(flat))
}

/// The triangles within two of some points.
fn round_about(mesh: &Mesh, points: &[u32]) -> Vec<u32> {
    let mut among = vec![false; mesh.points().len()];
    points.iter().for_each(|p| among[*p as usize] = true);
    let touching = |among: &[bool]| -> Vec<u32> {
        let touches = |t: &u32| mesh.triangles()[*t as usize].iter().any(|p| among[*p as usize]);
        (0..mesh.triangles().len() as u32).filter(touches).collect()
    };
    let first = touching(&among);
    first.iter().flat_map(|t| mesh.triangles()[*t as usize]).for_each(|p| among[p as usize] = true);
    touching(&among)
}

fn run(mut work: Work, mesh: &Mesh, tolerance: f64, may_go: &[bool], progress: &Progress) -> Result<Mesh, Cancelled> {
    let candidates: Vec<u32> = (0..mesh.points().len() as u32).filter(|v| may_go[*v as usize]).collect();
    for pass in 0..PASSES {
        progress.report(pass as f64 / PASSES as f64, "merging triangles")?;
        let mut removed = 0usize;
        for (n, v) in candidates.iter().enumerate() {
            if n % 4096 == 0 {
                progress.check()?;
            }
            // What stayed stays until something changes near it.
            if std::mem::take(&mut work.due[*v as usize]) && work.remove(*v, tolerance) {
                removed += 1;
            }
        }
        if removed == 0 {
            break;
        }
    }
    Ok(mesh.rewired(work.triangles).retain_triangles(|t| work.alive[t]))
}

struct Work<'a> {
    points: &'a [Point],
    faces: &'a [FaceId],
    triangles: Vec<[u32; 3]>,
    alive: Vec<bool>,
    /// The living triangles round each point.
    round: Vec<Vec<u32>>,
    /// The removed points nearest to each triangle.
    kept: Vec<Vec<Point>>,
    /// Whether something changed round a point or its neighbours since it was tried.
    due: Vec<bool>,
    /// Whether triangles must stay in their planes.
    level: bool,
}

/// A neighbour of a point: how many triangles share the edge, and whether a line runs along it.
struct Spoke {
    to: u32,
    triangles: usize,
    line: bool,
}

impl<'a> Work<'a> {
    fn new(mesh: &'a Mesh, level: bool) -> Self {
        let mut round = vec![Vec::new(); mesh.points().len()];
        for (t, corners) in mesh.triangles().iter().enumerate() {
            for c in corners {
                round[*c as usize].push(t as u32);
            }
        }
        Self {
            points: mesh.points(),
            faces: mesh.face_of(),
            triangles: mesh.triangles().to_vec(),
            alive: vec![true; mesh.triangles().len()],
            round,
            kept: vec![Vec::new(); mesh.triangles().len()],
            due: vec![true; mesh.points().len()],
            level,
        }
    }

    fn spokes(&self, v: u32) -> Vec<Spoke> {
        let mut ends: Vec<(u32, u32)> = self.round[v as usize]
            .iter()
            .flat_map(|&t| self.triangles[t as usize].map(|c| (c, t)))
            .filter(|(c, _)| *c != v)
            .collect();
        ends.sort_unstable();
        ends.chunk_by(|a, b| a.0 == b.0)
            .map(|run| {
                let face = |i: usize| self.faces[run[i].1 as usize];
                Spoke { to: run[0].0, triangles: run.len(), line: run.len() != 2 || face(0) != face(1) }
            })
            .collect()
    }

    fn remove(&mut self, v: u32, tolerance: f64) -> bool {
        if self.round[v as usize].is_empty() {
            return false;
        }
        let spokes = self.spokes(v);
        if spokes.iter().any(|s| s.triangles > 2) {
            return false;
        }
        let lines: Vec<u32> = spokes.iter().filter(|s| s.line).map(|s| s.to).collect();
        let place = |i: u32| self.points[i as usize];
        let targets: Vec<u32> = match lines[..] {
            [] => spokes.iter().map(|s| s.to).collect(),
            [a, b] => {
                // Drawn along a line, the point must lie on what becomes of the line.
                if nearest_on_segment(place(v), place(a), place(b)).1.sqrt() > tolerance {
                    return false;
                }
                vec![a, b]
            }
            _ => return false,
        };
        let mut best: Option<(u32, f64)> = None;
        for u in targets {
            let length = (place(u) - place(v)).length();
            if best.is_none_or(|b| length < b.1) && self.fits(v, u, &spokes, tolerance) {
                best = Some((u, length));
            }
        }
        let Some((u, _)) = best else { return false };
        let mut homeless = vec![place(v)];
        for &t in &self.round[v as usize] {
            homeless.append(&mut self.kept[t as usize]);
        }
        let changed: Vec<u32> =
            self.round[v as usize].iter().copied().filter(|t| !self.triangles[*t as usize].contains(&u)).collect();
        for t in std::mem::take(&mut self.round[v as usize]) {
            let corners = self.triangles[t as usize];
            if corners.contains(&u) {
                self.alive[t as usize] = false;
                for c in corners {
                    self.round[c as usize].retain(|x| *x != t);
                }
            } else {
                self.triangles[t as usize] = corners.map(|c| if c == v { u } else { c });
                self.round[u as usize].push(t);
            }
        }
        for p in homeless {
            let off = |t: u32| (nearest_on_triangle(p, self.triangles[t as usize].map(place)) - p).length_squared();
            if let Some(&t) = changed.iter().min_by(|&&a, &&b| off(a).total_cmp(&off(b))) {
                self.kept[t as usize].push(p);
            }
        }
        let around = |of: u32| self.round[of as usize].iter().flat_map(|t| self.triangles[*t as usize]);
        let mut near: Vec<u32> = around(u).chain(spokes.iter().map(|s| s.to)).collect();
        near.sort_unstable();
        near.dedup();
        let due: Vec<u32> = near.iter().flat_map(|p| around(*p)).collect();
        due.into_iter().for_each(|p| self.due[p as usize] = true);
        true
    }

    /// Whether `v` may be drawn onto `u`.
    fn fits(&self, v: u32, u: u32, spokes: &[Spoke], tolerance: f64) -> bool {
        let shared = spokes.iter().find(|s| s.to == u).map_or(0, |s| s.triangles);
        let beside: Vec<u32> = self.round[u as usize].iter().flat_map(|&t| self.triangles[t as usize]).collect();
        if spokes.iter().filter(|s| s.to != u && beside.contains(&s.to)).count() != shared {
            return false;
        }
        let round = &self.round[v as usize];
        let mut after = Vec::with_capacity(round.len());
        for &t in round.iter().filter(|t| !self.triangles[**t as usize].contains(&u)) {
            let corners = self.triangles[t as usize];
            let before = corners.map(|c| self.points[c as usize]);
            let then = corners.map(|c| self.points[if c == v { u } else { c } as usize]);
            let (m, n) = (area_vector(before), area_vector(then));
            let turned = n.dot(m) < MOST_TURN * n.length() * m.length();
            if self.level {
                let off = m.dot(self.points[u as usize] - self.points[v as usize]).abs();
                if off > tolerance * m.length().max(n.length()) {
                    return false;
                }
            }
            let least = if self.level { LEAST_LEVEL } else { LEAST_HEIGHT };
            if turned || slenderness(then) < slenderness(before).min(least) {
                return false;
            }
            after.push(then);
        }
        let near =
            |p: Point| after.iter().any(|t| (nearest_on_triangle(p, *t) - p).length_squared() <= tolerance * tolerance);
        !after.is_empty()
            && near(self.points[v as usize])
            && round.iter().flat_map(|t| &self.kept[*t as usize]).all(|p| near(*p))
    }
}

fn area_vector([a, b, c]: [Point; 3]) -> Point {
    (b - a).cross(c - a)
}

/// Height over longest side.
fn slenderness(p: [Point; 3]) -> f64 {
    let longest =
        (p[1] - p[0]).length_squared().max((p[2] - p[1]).length_squared()).max((p[0] - p[2]).length_squared());
    area_vector(p).length() / longest.max(f64::MIN_POSITIVE)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::measure::measure;
    use crate::surfaces::{Grouping, group_faces};
    use crate::topology::EdgeUse;
    use crate::{Topology, shapes};

    /// A block whose sides are divided into squares.
    fn fine_block(n: usize) -> Mesh {
        let mut soup = vec![];
        for (axis, side) in (0..3).flat_map(|a| [(a, 0.0), (a, 1.0)]) {
            let at = |i: usize, j: usize| {
                let (u, v) = (i as f64 / n as f64, j as f64 / n as f64);
                let mut p = [0.0; 3];
                (p[axis], p[(axis + 1) % 3], p[(axis + 2) % 3]) = (side, u, v);
                Point::from_array(p) * 10.0
            };
            for (i, j) in (0..n).flat_map(|i| (0..n).map(move |j| (i, j))) {
                let [a, b, c, d] = [at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)];
                soup.extend(if side > 0.0 { [a, b, c, a, c, d] } else { [a, c, b, a, d, c] });
            }
        }
        crate::weld::weld_corners(&soup).unwrap()
    }

    #[test]
    fn a_finely_divided_block_becomes_twelve_triangles() {
        let how = Grouping { angle: 26.0, tolerance: 1e-3 };
        let block = group_faces(fine_block(12), how, &Progress::unwatched()).unwrap();
        let simple = simplify(&block, 1e-6, |_| true, &Progress::unwatched()).unwrap();
        assert_eq!(simple.triangles().len(), 12);
        assert!((measure(&simple).volume - 1000.0).abs() < 1e-9);
    }

    #[test]
    fn a_ball_stays_closed_and_within_the_tolerance_and_held_faces_stay() {
        let ball = shapes::ball(10.0, 60);
        let simple = simplify(&ball, 0.05, |_| true, &Progress::unwatched()).unwrap();
        assert!(simple.triangles().len() < ball.triangles().len() / 4, "{}", simple.triangles().len());
        let topology = Topology::new(simple.triangles(), simple.points().len());
        assert_eq!(topology.edges_with(EdgeUse::Regular).count(), topology.edge_count());
        let off = crate::deviation::deviation(&ball, &simple, &Progress::unwatched()).unwrap();
        assert!(off.largest < 0.05 * 1.25, "{off:?}");
        assert_eq!(simplify(&ball, 0.05, |_| false, &Progress::unwatched()).unwrap(), ball);
    }
}
