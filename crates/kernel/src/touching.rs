//! Surfaces that touch themselves along edges, drawn apart.
//!
//! Round an edge of four triangles or more, those that bound the same material belong together. Told apart by that, each
//! surface gets points of its own there, and each point moves a little into its material. Where a surface comes back to an edge
//! so that both have the same points all the same, each gets a point in the middle of the edge instead.

use std::collections::BTreeMap;

use rustc_hash::FxHashMap;

use crate::arrange::ArrangeError;
use crate::arrange::settle::{Settled, Settling, is_solid, settled};
use crate::precision::precision;
use crate::topology::{EdgeUse, NO_EDGE};
use crate::triangulate::PlaneFrame;
use crate::{FaceId, Mesh, MeshError, Point, Progress, Topology, UnionFind};

/// A solid that touched itself along edges, where nothing holds it.
#[derive(Clone, Debug, PartialEq)]
pub struct Parted {
    /// The solid, drawn apart there.
    pub mesh: Mesh,
    /// How many edges it touched itself along.
    pub edges: usize,
    /// The middle of the longest of them.
    pub at: Point,
    /// Its length, mm.
    pub length: f64,
    /// How far each side moved into its material, mm: some steps of the precision of its points.
    pub by: f64,
}

/// Draws a closed surface apart that touches itself along edges, so that it is a solid; none where it touches nowhere, or is no
/// solid all the same.
///
/// # Errors
/// [`ArrangeError::Cancelled`].
pub fn parted(mesh: &Mesh, progress: &Progress) -> Result<Option<Parted>, ArrangeError> {
    /// In steps of the precision: what is nearer than one step would be one in the next arrangement.
    const STEPS: [f64; 3] = [2.0, 8.0, 32.0];
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let place = |p: u32| mesh.points()[p as usize];
    let length = |[a, b]: [u32; 2]| place(a).distance(place(b));
    let crowded: Vec<[u32; 2]> =
        topology.edges_with(EdgeUse::Crowded).map(|e| topology.ends(topology.halves(e)[0]).into()).collect();
    let Some(longest) = crowded.iter().copied().max_by(|x, y| length(*x).total_cmp(&length(*y))) else {
        return Ok(None);
    };
    let [a, b] = longest.map(place);
    let one = precision(mesh.points().iter());
    for (n, steps) in STEPS.iter().enumerate() {
        let turn = progress.part(n, STEPS.len());
        let by = one * steps;
        let Some(apart) = drawn_apart(mesh, by)? else { break };
        let made = if is_solid(&apart, &turn.stage(0.0, 0.3))? {
            Some(apart)
        } else {
            // Where walls are thinner than what is drawn apart, it came through them.
            let how = Settling { step: by, levels: &[1.0, 2.0, 4.0], place: &|p| p, what: "drawing apart" };
            match settled(apart, &how, &turn.stage(0.3, 1.0))? {
                Settled::Fit { mesh, .. } => Some(mesh),
                Settled::Torn(_) => None,
            }
        };
        if let Some(mesh) = made {
            return Ok(Some(Parted { mesh, edges: crowded.len(), at: a.midpoint(b), length: a.distance(b), by }));
        }
    }
    Ok(None)
}

/// The mesh without triangles that have the same corners the other way round, two and two: between them is nothing. Of more
/// than two of a kind some may stay.
pub(crate) fn without_leaves(mesh: &Mesh) -> Mesh {
    let mut waiting: FxHashMap<[u32; 3], usize> = FxHashMap::default();
    waiting.reserve(mesh.triangles().len());
    let mut stays = vec![true; mesh.triangles().len()];
    for (t, &[a, b, c]) in mesh.triangles().iter().enumerate() {
        // The least corner first, in the triangle's own sense.
        let least = a.min(b).min(c);
        let [a, b, c] = if least == a {
            [a, b, c]
        } else if least == b {
            [b, c, a]
        } else {
            [c, a, b]
        };
        match waiting.remove(&[a, c, b]) {
            Some(other) => (stays[t], stays[other]) = (false, false),
            None => drop(waiting.insert([a, b, c], t)),
        }
    }
    if stays.contains(&false) { mesh.retain_triangles(|t| stays[t]) } else { mesh.clone() }
}

/// Whether a closed surface touches itself along an edge shorter than so much, mm, or where two of its triangles there enclose next
/// to nothing: not as bodies do that lie edge to edge.
pub(crate) fn touches_slim(mesh: &Mesh, short: f64) -> bool {
    /// Less than half a degree between two triangles, radians.
    const SLIM: f64 = 0.01;
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    topology.edges_with(EdgeUse::Crowded).any(|edge| {
        let halves = topology.halves(edge);
        let [a, b] = ends(mesh.triangles(), halves[0]).map(|p| mesh.points()[p as usize]);
        let Some(round) = round(mesh, halves) else { return true };
        let next = round.iter().skip(1).map(|h| h.0).chain([round[0].0 + std::f64::consts::TAU]);
        a.distance(b) < short || round.iter().zip(next).any(|(h, next)| next - h.0 < SLIM)
    })
}

/// The mesh with the ends of edges of more than two triangles made one where they are no longer than so much, mm; none if there
/// are no such edges. Triangles that lose a side are gone.
pub(crate) fn drawn_together(mesh: &Mesh, longest: f64) -> Result<Option<Mesh>, MeshError> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let mut one = UnionFind::new(mesh.points().len());
    let mut some = false;
    for edge in topology.edges_with(EdgeUse::Crowded) {
        let (a, b) = topology.ends(topology.halves(edge)[0]);
        if mesh.points()[a as usize].distance(mesh.points()[b as usize]) <= longest {
            some = true;
            one.union(a, b);
        }
    }
    if !some {
        return Ok(None);
    }
    let (points, triangles, faces) = mesh.clone().into_parts();
    let triangles: Vec<[u32; 3]> = triangles.into_iter().map(|t| t.map(|p| one.find(p))).collect();
    let made = Mesh::new(points, triangles, faces)?;
    Ok(Some(made.retain_triangles(|t| {
        let [a, b, c] = made.triangles()[t];
        a != b && b != c && c != a
    })))
}

/// A closed surface whose edges of more than two triangles are drawn apart by so much, mm, on each side; none if it has no such
/// edges. Where it cannot be told between which of an edge's triangles material lies, it stays as it is.
pub(crate) fn drawn_apart(mesh: &Mesh, by: f64) -> Result<Option<Mesh>, MeshError> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let crowded: Vec<u32> = topology.edges_with(EdgeUse::Crowded).collect();
    if crowded.is_empty() {
        return Ok(None);
    }
    let fans = Fans::of(mesh, &topology);
    let mut work =
        Work { mesh, points: mesh.points().to_vec(), new: mesh.triangles().iter().map(|t| vec![*t]).collect() };
    work.part(&topology, &fans, &crowded, by);
    work.divide(&fans, by);
    let faces = mesh.face_of().iter().zip(&work.new).flat_map(|(f, new)| vec![*f; new.len()]);
    let faces: Vec<FaceId> = faces.collect();
    Mesh::new(work.points, work.new.concat(), faces).map(Some)
}

/// Which corners at a point are one, and which sides of crowded edges bound the same material.
struct Fans {
    corners: Vec<u32>,
    sides: Vec<Vec<[u32; 2]>>,
}

impl Fans {
    fn of(mesh: &Mesh, topology: &Topology) -> Self {
        let triangles = mesh.triangles();
        let mut corners = UnionFind::new(triangles.len() * 3);
        let mut sides = Vec::new();
        let mut join = |[x, y]: [u32; 2]| {
            for point in ends(triangles, x) {
                if let (Some(x), Some(y)) = (corner_at(triangles, x, point), corner_at(triangles, y, point)) {
                    corners.union(x, y);
                }
            }
        };
        for edge in 0..topology.edge_count() as u32 {
            let halves = topology.halves(edge);
            let pairs = if halves.len() > 2 { sides_of_material(mesh, halves) } else { None };
            match pairs {
                Some(pairs) => {
                    pairs.iter().for_each(|pair| join(*pair));
                    sides.push(pairs);
                }
                None => halves.windows(2).for_each(|pair| join([pair[0], pair[1]])),
            }
        }
        Self { corners: (0..triangles.len() as u32 * 3).map(|c| corners.find(c)).collect(), sides }
    }
}

struct Work<'a> {
    mesh: &'a Mesh,
    points: Vec<Point>,
    /// What each triangle became.
    new: Vec<Vec<[u32; 3]>>,
}

impl Work<'_> {
    /// Gives each fan at the ends of crowded edges a point of its own, a little in its material.
    fn part(&mut self, topology: &Topology, fans: &Fans, crowded: &[u32], by: f64) {
        let triangles = self.mesh.triangles();
        let mut touched = vec![false; self.points.len()];
        for edge in crowded {
            let (a, b) = topology.ends(topology.halves(*edge)[0]);
            (touched[a as usize], touched[b as usize]) = (true, true);
        }
        // For each point and fan there its corners.
        let mut around: BTreeMap<u32, BTreeMap<u32, Vec<u32>>> = BTreeMap::new();
        for corner in 0..triangles.len() as u32 * 3 {
            let point = point_at(triangles, corner);
            if touched[point as usize] && topology.edge_of(corner) != NO_EDGE {
                around.entry(point).or_default().entry(fans.corners[corner as usize]).or_default().push(corner);
            }
        }
        for (point, fans) in around.into_iter().filter(|(_, fans)| fans.len() > 1) {
            for (n, corners) in fans.into_values().enumerate() {
                let outward: Point = corners.iter().map(|c| self.normal(c / 3)).sum();
                let place = self.mesh.points()[point as usize] - outward.normalize_or_zero() * by;
                let own = if n == 0 {
                    self.points[point as usize] = place;
                    point
                } else {
                    self.points.push(place);
                    self.points.len() as u32 - 1
                };
                corners.iter().for_each(|c| self.new[*c as usize / 3][0][*c as usize % 3] = own);
            }
        }
    }

    /// Gives each side of a crowded edge whose sides have the same ends a point in its middle, a little in its material.
    fn divide(&mut self, fans: &Fans, by: f64) {
        let triangles = self.mesh.triangles();
        for sides in &fans.sides {
            let ends_of = |side: &[u32; 2]| {
                let corner = |p: u32| corner_at(triangles, side[0], p).map(|c| fans.corners[c as usize]);
                let mut ends = ends(triangles, side[0]);
                ends.sort_unstable();
                ends.map(corner)
            };
            let same = sides.iter().enumerate().any(|(n, s)| sides[..n].iter().any(|o| ends_of(o) == ends_of(s)));
            if !same || sides.iter().flatten().any(|half| self.new[*half as usize / 3].len() > 1) {
                continue;
            }
            for side in sides {
                let outward = self.normal(side[0] / 3) + self.normal(side[1] / 3);
                let [a, b] = self.half(side[0]).map(|p| self.points[p as usize]);
                let middle = self.points.len() as u32;
                self.points.push(a.midpoint(b) - outward.normalize_or_zero() * by);
                for half in side {
                    let [a, b] = self.half(*half);
                    let c = self.new[*half as usize / 3][0][(*half as usize + 2) % 3];
                    self.new[*half as usize / 3] = vec![[a, middle, c], [middle, b, c]];
                }
            }
        }
    }

    /// The ends of a half as they are named now.
    fn half(&self, half: u32) -> [u32; 2] {
        let t = self.new[half as usize / 3][0];
        [t[half as usize % 3], t[(half as usize + 1) % 3]]
    }

    fn normal(&self, t: u32) -> Point {
        self.mesh.area_vector(t as usize).normalize_or_zero()
    }
}

fn corner_at(triangles: &[[u32; 3]], half: u32, point: u32) -> Option<u32> {
    (0..3).map(|k| half / 3 * 3 + k).find(|c| point_at(triangles, *c) == point)
}

fn point_at(triangles: &[[u32; 3]], half: u32) -> u32 {
    triangles[half as usize / 3][half as usize % 3]
}

fn ends(triangles: &[[u32; 3]], half: u32) -> [u32; 2] {
    let next = half / 3 * 3 + (half + 1) % 3;
    [point_at(triangles, half), point_at(triangles, next)]
}

/// The halves of an edge in order round it: the angle of each, and whether it runs along the first.
fn round(mesh: &Mesh, halves: &[u32]) -> Option<Vec<(f64, bool, u32)>> {
    let (triangles, at) = (mesh.triangles(), mesh.points());
    let [a, b] = ends(triangles, halves[0]).map(|p| at[p as usize]);
    let frame = PlaneFrame::new(a, b - a)?;
    let angle = |half: u32| {
        let [x, y] = frame.flatten(at[point_at(triangles, half / 3 * 3 + (half + 2) % 3) as usize]);
        y.atan2(x)
    };
    let along = |half: u32| ends(triangles, half)[0] == ends(triangles, halves[0])[0];
    let mut round: Vec<(f64, bool, u32)> = halves.iter().map(|half| (angle(*half), along(*half), *half)).collect();
    round.sort_by(|p, q| p.0.total_cmp(&q.0));
    Some(round)
}

/// Of the halves of a crowded edge, those two and two between which material lies; none where that is not to be told.
fn sides_of_material(mesh: &Mesh, halves: &[u32]) -> Option<Vec<[u32; 2]>> {
    let round = round(mesh, halves)?;
    if !round.iter().zip(round.iter().cycle().skip(1)).all(|(p, q)| p.1 != q.1) {
        return None;
    }
    // Material lies before a half that runs along the first, going round it, and after one that runs against it.
    let next = round.iter().cycle().skip(1);
    Some(round.iter().zip(next).filter(|(p, _)| !p.1).map(|(p, q)| [p.2, q.2]).collect())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::measure::measure;
    use crate::shapes::block;

    /// Two blocks that share an edge, as one mesh with the points of the edge in common.
    fn hinged(turn: f64) -> Mesh {
        let one = block(Point::ZERO, Point::new(2.0, 3.0, 5.0));
        let other = one.clone().map_points(|p| p - Point::new(2.0, 3.0, 0.0)).unwrap();
        let both: Vec<Point> = one.points().iter().chain(other.points()).copied().collect();
        let shift = one.points().len() as u32;
        let triangles = one.triangles().iter().copied();
        let triangles: Vec<[u32; 3]> =
            triangles.chain(other.triangles().iter().map(|t| t.map(|c| c + shift))).collect();
        let faces = vec![FaceId(0); triangles.len()];
        let welded = crate::weld::weld_mesh(&both, &triangles, faces).unwrap();
        let q = glam::DQuat::from_scaled_axis(Point::new(turn, -0.4 * turn, 0.7 * turn));
        welded.map_points(|p| q * p).unwrap()
    }

    #[test]
    fn two_blocks_with_an_edge_in_common_come_apart_each_into_its_own_material() {
        for turn in [0.0, 0.3, 1.1, 2.9] {
            let both = hinged(turn);
            let apart = drawn_apart(&both, 1e-3).unwrap().unwrap();
            let topology = Topology::new(apart.triangles(), apart.points().len());
            assert!((0..topology.edge_count() as u32).all(|e| topology.edge_use(e) == EdgeUse::Regular));
            assert_eq!(apart.points().len(), both.points().len() + 2);
            assert_eq!(crate::shells::shells(&topology).1, 2);
            let lost = measure(&both).volume - measure(&apart).volume;
            assert!(lost > 0.0 && lost < 0.1, "{lost}");
            assert!(
                crate::crossings::crossing_pairs(
                    &apart,
                    &crate::crossings::triangle_bvh(&apart),
                    &crate::Progress::unwatched()
                )
                .unwrap()
                .is_empty()
            );
            assert_eq!(drawn_apart(&apart, 1e-3).unwrap(), None);
        }
    }

    /// A block with two notches that meet in an edge inside it: the material is the outside of the pair.
    #[test]
    fn where_hollows_share_an_edge_their_wall_grows_together_nowhere() {
        let mut hollows = hinged(0.4);
        hollows.reverse_triangles(|_| true);
        let apart = drawn_apart(&hollows, 1e-3).unwrap().unwrap();
        let topology = Topology::new(apart.triangles(), apart.points().len());
        assert!((0..topology.edge_count() as u32).all(|e| topology.edge_use(e) == EdgeUse::Regular));
        // Material lies between the hollows: one shell, joined through the edge.
        assert_eq!(crate::shells::shells(&topology).1, 1);
    }
}
