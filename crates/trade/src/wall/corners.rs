//! Corners that crumble in a mould, do not fill, or swell: sharp inner corners, feather edges, upright outer corners.

use std::collections::BTreeMap;

use nimbet_kernel::topology::{EdgeUse, previous};
use nimbet_kernel::{Mesh, Point, Progress, Topology, UnionFind};

use super::processes::{By, Process};
use super::thin::SURE;
use crate::TradeError;
use crate::examine::{FaceSurface, FindingKind, Place, face_facts};

/// Edges with a fault that hang together, or a rounding.
pub(super) struct CornerRun {
    /// What is wrong.
    pub kind: FindingKind,
    /// Its length, mm; of a rounding that is too tight its extent.
    pub length: f64,
    /// The radius it has, mm.
    pub radius: f64,
    /// Where.
    pub place: Place,
    /// Places on its edges, or one on the rounding.
    pub at: Vec<Point>,
    /// Whether all of it lies within a face, not between two.
    pub within_face: bool,
}

/// An edge that turns by less is part of something round: the facets of an arc of eight to the quarter turn by half of this.
const TURN: f64 = 22.5;
/// Edges of less than this between their sides are feathers, degrees.
const FEATHER: f64 = 35.0;
/// An outer corner that turns by more, degrees, is one to a nozzle.
const OUTER: f64 = 60.0;
/// The cosine between upright and an edge that counts as so: 10 degrees.
const UPRIGHT: f64 = 0.985;
/// A rounding faces one way by this share of its area at least; a bore faces all ways alike.
const ONE_WAY: f64 = 0.3;
/// So many are told one by one.
const MOST: usize = 60;
/// A run is found again by so many places on it: each brings what it goes on in.
const PLACES: usize = 64;

/// The corners of a solid that are sharper than its process makes: the longest first.
pub(super) fn corner_runs(mesh: &Mesh, asks: &Process, progress: &Progress) -> Result<Vec<CornerRun>, TradeError> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let normal = |h: u32| mesh.area_vector(h as usize / 3).normalize_or_zero();
    let at = |p: u32| mesh.points()[p as usize];
    let mut faulty: Vec<(FindingKind, u32)> = Vec::new();
    for edge in topology.edges_with(EdgeUse::Regular) {
        let [a, b] = [topology.halves(edge)[0], topology.halves(edge)[1]];
        let turn = normal(a).dot(normal(b)).clamp(-1.0, 1.0).acos().to_degrees();
        if turn < TURN {
            continue;
        }
        let far = at(topology.ends(previous(b)).0) - at(topology.ends(a).0);
        let inside = far.dot(normal(a)) > 0.0;
        let (p, q) = topology.ends(topology.halves(edge)[0]);
        let along = (at(q) - at(p)).normalize_or_zero();
        if inside {
            if asks.corner > 0.0 {
                faulty.push((FindingKind::InnerCorner, edge));
            }
        } else if turn > 180.0 - FEATHER && asks.by == By::Casting {
            faulty.push((FindingKind::Feather, edge));
        } else if turn > OUTER && along.z.abs() > UPRIGHT && asks.by == By::Bead {
            faulty.push((FindingKind::UprightCorner, edge));
        }
    }
    progress.check()?;
    // Edges of one fault that share a point are one run.
    let mut sets = UnionFind::new(faulty.len());
    let mut first: BTreeMap<(FindingKind, u32), u32> = BTreeMap::new();
    for (n, (kind, edge)) in faulty.iter().enumerate() {
        let (p, q) = topology.ends(topology.halves(*edge)[0]);
        for end in [p, q] {
            sets.union(*first.entry((*kind, end)).or_insert(n as u32), n as u32);
        }
    }
    let (set_of, _) = sets.number_sets();
    let mut runs: BTreeMap<u32, (FindingKind, f64, Vec<Point>, bool)> = BTreeMap::new();
    for (n, (kind, edge)) in faulty.iter().enumerate() {
        let (p, q) = topology.ends(topology.halves(*edge)[0]);
        let held = runs.entry(set_of[n]).or_insert((*kind, 0.0, vec![], true));
        held.1 += at(p).distance(at(q));
        held.2.extend([at(p), at(q)]);
        let [f, g] = [0, 1].map(|k| mesh.face_of()[topology.halves(*edge)[k] as usize / 3]);
        held.3 &= f == g;
    }
    let mut found: Vec<CornerRun> = runs
        .into_values()
        .map(|(kind, length, points, within_face)| {
            let step = (points.len() / 2).div_ceil(PLACES).max(1);
            let at = points.chunks_exact(2).step_by(step).map(|ends| ends[0].midpoint(ends[1])).collect();
            CornerRun { kind, length, radius: 0.0, place: Place::of(points), at, within_face }
        })
        .collect();
    for face in face_facts(mesh, None, progress)? {
        let (FaceSurface::Cylinder { radius, hollow: true, .. } | FaceSurface::Torus { radius, hollow: true, .. }) =
            face.surface
        else {
            continue;
        };
        let of_face = |t: &usize| mesh.face_of()[*t].0 == face.id;
        let faces_one_way: Point = (0..mesh.triangles().len()).filter(of_face).map(|t| mesh.area_vector(t) * 0.5).sum();
        // What goes all round is a bore.
        if radius < asks.corner * SURE && faces_one_way.length() > ONE_WAY * face.area {
            let length = face.place.radius * 2.0;
            let area = |t: &usize| mesh.area_vector(*t).length();
            let widest = (0..mesh.triangles().len()).filter(of_face).max_by(|a, b| area(a).total_cmp(&area(b)));
            let at = widest.map(|t| mesh.corners(t).iter().sum::<Point>() / 3.0).into_iter().collect();
            let kind = FindingKind::InnerCorner;
            found.push(CornerRun { kind, length, radius, place: face.place, at, within_face: false });
        }
    }
    found.sort_by(|a, b| a.kind.cmp(&b.kind).then(b.length.total_cmp(&a.length)));
    found.truncate(MOST);
    Ok(found)
}
