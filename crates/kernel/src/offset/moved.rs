//! A surface moved by a distance: each triangle along its normal, with what fills in between.
//!
//! Round each point the moved triangles are gathered in *groups* that go to a common place: where their planes meet after
//! moving. Between groups the surface opens, along edges that stand out; strips fill in along the edges and caps round the
//! points: flat to the meeting of the planes on both sides in the sharp style, along arcs and spheres in the round. What comes
//! of it has the rims of the surface it came from (walls lead back to them) and is closed if that was; where the shape is
//! tighter than the distance it crosses itself.

use std::collections::HashMap;

use super::build::Build;
use super::rings::{Ring, rings};
use super::solver::Solver;
use super::{Fault, How};
use crate::surfaces::Facets;
use crate::topology::{EdgeUse, next};
use crate::{Aabb, Cancelled, FaceId, Mesh, Point, Progress, Topology};

/// Sharp corners reach no farther than this times the distance: about what an edge of 30 degrees has. Others are rounded.
pub(super) const REACH: f64 = 4.0;

/// A surface moved.
#[derive(Clone, Debug)]
pub(super) struct Raised {
    pub points: Vec<Point>,
    pub triangles: Vec<[u32; 3]>,
    pub face_of: Vec<FaceId>,
    /// Where what moved turned over or lost its area.
    pub turned: Vec<Aabb>,
}

/// What a group of triangles round a point goes to, and what lies between the groups.
pub(super) struct Spread {
    /// For each triangle of the ring its place.
    pub(super) places: Vec<Point>,
    /// For each triangle but the last of an open ring: the places from it to the next, both ends among them. Empty where all
    /// go to one place.
    pub(super) between: Vec<Vec<Point>>,
    /// Whether the places between lie on a sphere round the point.
    pub(super) round: bool,
    /// Whether it is the same row both ways, so that nothing is to be filled in round the point.
    pub(super) mitred: bool,
}

/// What fills a closed chain round a point: a piece of a sphere, by its middle and radius, or a fan.
struct Cap {
    round: Vec<u32>,
    sphere: Option<(Point, f64)>,
    face: FaceId,
}

/// Faces of a moved surface: those of the surface it came from, then those in between.
pub(super) struct FaceNames {
    first: u32,
    next: u32,
    known: HashMap<(u8, u32, u32), u32>,
}

impl FaceNames {
    /// `next` is the first number not used yet, `moved` what is added to a face's number when it moved.
    pub fn new(moved: u32, next: u32) -> Self {
        Self { first: moved, next, known: HashMap::new() }
    }

    fn moved(&self, face: FaceId) -> FaceId {
        FaceId(self.first + face.0)
    }

    fn named(&mut self, what: u8, a: u32, b: u32) -> FaceId {
        let fresh = &mut self.next;
        FaceId(*self.known.entry((what, a.min(b), a.max(b))).or_insert_with(|| {
            *fresh += 1;
            *fresh - 1
        }))
    }

    pub fn next(&self) -> u32 {
        self.next
    }
}

/// Kinds of faces in between.
const STRIP: u8 = 0;
const CAP: u8 = 1;
const WALL: u8 = 2;

/// Checks that edges are naked or regular.
pub(super) fn check(mesh: &Mesh, topology: &Topology<'_>) -> Result<(), Fault> {
    let at = |half: u32| mesh.points()[topology.ends(half).0 as usize];
    let bad = |u: EdgeUse| topology.edges_with(u).next().map(|e| at(topology.halves(e)[0]));
    if let Some(place) = bad(EdgeUse::Crowded) {
        return Err(Fault::Crowded(place));
    }
    if let Some(place) = bad(EdgeUse::Clashing) {
        return Err(Fault::Clashing(place));
    }
    match mesh.triangles().iter().position(|[a, b, c]| a == b || b == c || c == a) {
        Some(t) => Err(Fault::Degenerate(mesh.corners(t)[0])),
        None => Ok(()),
    }
}

/// The surface moved by `by` of each triangle, mm: along its normal, or against it below nought. When it is to be arranged anyway
/// it is better `loose` round what turned over or crosses: there it holds all that is at the distance then.
pub(super) fn raise(
    mesh: &Mesh,
    topology: &Topology<'_>,
    by: &(dyn Fn(usize) -> f64 + Sync),
    how: &How,
    loose: &(dyn Fn(Point) -> bool + Sync),
    names: &mut FaceNames,
    progress: &Progress,
) -> Result<Raised, Fault> {
    // What is flat moves as one plane, however it is divided.
    let facets = Facets::of(mesh, &(0..mesh.triangles().len() as u32).collect::<Vec<_>>());
    progress.check()?;
    let normals: Vec<Point> = facets.of.iter().map(|f| facets.normal[*f as usize]).collect();
    let rings = rings(topology);
    progress.report(0.2, "moving the surface")?;
    let solver = Solver { mesh, topology, normals: &normals, facet_of: &facets.of, by, how };
    let spreads = solver.spreads(&rings, loose, progress)?;
    let mut raising = Raising {
        mesh,
        topology,
        names,
        made: Build::default(),
        place_of: vec![0; mesh.triangles().len() * 3],
        rows: HashMap::new(),
        caps: Vec::new(),
        turned: Vec::new(),
    };
    for (ring, spread) in rings.iter().zip(&spreads) {
        raising.round_point(ring, spread, by(ring.halves[0] as usize / 3));
    }
    progress.report(0.8, "moving the surface")?;
    raising.triangles(&normals);
    (0..topology.edge_count() as u32).for_each(|edge| raising.along_edge(edge));
    raising.close(how.chord, progress)?;
    let Raising { made, turned, .. } = raising;
    Ok(Raised { points: made.points, triangles: made.triangles, face_of: made.face_of, turned })
}

/// A surface that is being moved.
struct Raising<'a> {
    mesh: &'a Mesh,
    topology: &'a Topology<'a>,
    names: &'a mut FaceNames,
    made: Build,
    /// Where the point of each half is for its triangle.
    place_of: Vec<u32>,
    /// For each half the places from its triangle to the one across, at the point it leaves.
    rows: HashMap<u32, Vec<u32>>,
    caps: Vec<Cap>,
    /// Where something turned over.
    turned: Vec<Aabb>,
}

impl Raising<'_> {
    /// The places a point has for the triangles round it, and what closes it between them; `reach` is how far it is moved.
    fn round_point(&mut self, ring: &Ring, spread: &Spread, reach: f64) {
        let Self { mesh, made, .. } = self;
        for (half, place) in ring.halves.iter().zip(&spread.places) {
            self.place_of[*half as usize] = made.point(*place);
        }
        let mut round: Vec<u32> = Vec::new();
        let count = ring.halves.len();
        for (i, between) in spread.between.iter().enumerate() {
            let row: Vec<u32> = between.iter().map(|p| made.point(*p)).collect();
            round.extend(&row);
            if row.iter().any(|p| *p != row[0]) {
                // Across the edge from the next triangle's side.
                let mut back = row;
                back.reverse();
                self.rows.insert(ring.halves[(i + 1) % count], back);
            }
        }
        if round.is_empty() {
            round.push(self.place_of[ring.halves[0] as usize]);
        }
        round.dedup();
        if ring.closed && round.len() > 1 && round.first() == round.last() {
            round.pop();
        }
        if !ring.closed {
            round.insert(0, made.point(mesh.points()[ring.point as usize]));
            let face = mesh.face_of()[ring.halves[0] as usize / 3].0;
            if round.len() > 2 {
                self.caps.push(Cap { round, sphere: None, face: self.names.named(WALL, face, face) });
            }
        } else if round.len() > 2 && !spread.mitred {
            let v = mesh.points()[ring.point as usize];
            let sphere = spread.round.then_some((v, reach));
            self.caps.push(Cap { round, sphere, face: self.names.named(CAP, ring.point, ring.point) });
        }
    }

    fn triangles(&mut self, normals: &[Point]) {
        for (t, normal) in normals.iter().enumerate() {
            let moved = [0, 1, 2].map(|k| self.place_of[3 * t + k]);
            let [a, b, c] = moved.map(|p| self.made.points[p as usize]);
            if (b - a).cross(c - a).dot(*normal) <= 0.0 {
                self.turned.push(Aabb::of(self.mesh.corners(t)));
            }
            self.made.triangle(moved, self.names.moved(self.mesh.face_of()[t]));
        }
    }

    /// What closes an edge between the triangles on both sides of it, or where the surface ends in it.
    fn along_edge(&mut self, edge: u32) {
        let Self { mesh, topology, made, place_of, rows, .. } = self;
        match *topology.halves(edge) {
            [a] => {
                let (v, x) = topology.ends(a);
                let [v, x] = [v, x].map(|p| made.point(mesh.points()[p as usize]));
                let (moved_v, moved_x) = (place_of[a as usize], place_of[next(a) as usize]);
                let face = mesh.face_of()[a as usize / 3].0;
                let wall = self.names.named(WALL, face, face);
                made.triangle([moved_x, moved_v, v], wall);
                made.triangle([moved_x, v, x], wall);
            }
            [a, b] => {
                // From the side of `a` to that of `b`, at both ends.
                let plain = |l: u32, r: u32| {
                    let ends = [place_of[l as usize], place_of[r as usize]];
                    if ends[0] == ends[1] { vec![ends[0]] } else { ends.to_vec() }
                };
                let at_start = rows.get(&a).cloned().unwrap_or_else(|| plain(a, next(b)));
                let at_end = rows.get(&b).map_or_else(|| plain(next(a), b), |row| row.iter().rev().copied().collect());
                if at_start.len() > 1 || at_end.len() > 1 {
                    let ends = [topology.ends(a).0, topology.ends(a).1].map(|p| mesh.points()[p as usize]);
                    let forward = |v: Option<&u32>, x: Option<&u32>| {
                        let way = v.zip(x).map(|(v, x)| made.points[*x as usize] - made.points[*v as usize]);
                        way.is_none_or(|way| way.dot(ends[1] - ends[0]) > 0.0)
                    };
                    if !forward(at_start.first(), at_end.first()) || !forward(at_start.last(), at_end.last()) {
                        self.turned.push(Aabb::of(ends));
                    }
                    let faces = [a, b].map(|h| mesh.face_of()[h as usize / 3].0);
                    made.strip(&at_start, &at_end, self.names.named(STRIP, faces[0], faces[1]));
                }
            }
            _ => {}
        }
    }

    /// Closes it round its points.
    fn close(&mut self, chord: f64, progress: &Progress) -> Result<(), Fault> {
        for Cap { round, sphere, face } in std::mem::take(&mut self.caps) {
            let Some((middle, reach)) = sphere else {
                self.made.fan(&round, face);
                continue;
            };
            progress.check()?;
            let cost = self.made.cap_cost(&round, middle, reach, chord);
            if cost > MOST_IN_CAP {
                return Err(Fault::TooRound(middle, cost));
            }
            if !self.made.cap(&round, middle, reach, chord, face) {
                return Err(Fault::Unfilled(middle));
            }
        }
        Ok(())
    }
}

/// More triangles than this round no corner: arcs would be far finer than the part.
const MOST_IN_CAP: f64 = 1e6;

impl From<Cancelled> for Fault {
    fn from(c: Cancelled) -> Self {
        Self::Cancelled(c)
    }
}
