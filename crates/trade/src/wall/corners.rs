//! Corners that crumble in a mould or do not fill: inner corners sharper than a radius, and feather edges.

use std::collections::BTreeMap;

use nimbet_kernel::topology::{EdgeUse, previous};
use nimbet_kernel::{Mesh, Point, Progress, Topology, UnionFind};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::TradeError;
use crate::examine::{FaceSurface, Place, face_facts};
use crate::words::millimetres;

/// What is wrong with a corner.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum CornerFault {
    /// An inner corner without rounding: the mould stands out there, and crumbles.
    SharpInside,
    /// An inner rounding tighter than it should be.
    TightInside,
    /// An edge thinner than metal flows into.
    Feather,
}

/// Edges with a fault that hang together, or a rounding.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct CornerRun {
    /// What is wrong.
    pub fault: CornerFault,
    /// In words, with its length or radius.
    pub text: String,
    /// Where.
    pub place: Place,
}

/// An edge that turns by less is part of something round: the facets of an arc of eight to the quarter turn by half of this.
const TURN: f64 = 22.5;
/// Edges of less than this between their sides are feathers, degrees.
const FEATHER: f64 = 35.0;
/// So many are told one by one.
const MOST: usize = 40;

/// The corners of a solid that are sharper than a radius inside, and its feather edges; the longest first.
///
/// # Errors
/// [`TradeError::Cancelled`].
pub fn corner_runs(mesh: &Mesh, radius: f64, progress: &Progress) -> Result<Vec<CornerRun>, TradeError> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let normal = |h: u32| mesh.area_vector(h as usize / 3).normalize_or_zero();
    let at = |p: u32| mesh.points()[p as usize];
    let mut faulty: Vec<(CornerFault, u32)> = Vec::new();
    for edge in topology.edges_with(EdgeUse::Regular) {
        let [a, b] = [topology.halves(edge)[0], topology.halves(edge)[1]];
        let turn = normal(a).dot(normal(b)).clamp(-1.0, 1.0).acos().to_degrees();
        if turn < TURN {
            continue;
        }
        let far = at(topology.ends(previous(b)).0) - at(topology.ends(a).0);
        let inside = far.dot(normal(a)) > 0.0;
        if inside {
            faulty.push((CornerFault::SharpInside, edge));
        } else if turn > 180.0 - FEATHER {
            faulty.push((CornerFault::Feather, edge));
        }
    }
    progress.check()?;
    // Edges of one fault that share a point are one run.
    let mut sets = UnionFind::new(faulty.len());
    let mut first: BTreeMap<(CornerFault, u32), u32> = BTreeMap::new();
    for (n, (fault, edge)) in faulty.iter().enumerate() {
        let (p, q) = topology.ends(topology.halves(*edge)[0]);
        for end in [p, q] {
            sets.union(*first.entry((*fault, end)).or_insert(n as u32), n as u32);
        }
    }
    let (set_of, _) = sets.number_sets();
    let mut runs: BTreeMap<u32, (CornerFault, f64, Vec<Point>)> = BTreeMap::new();
    for (n, (fault, edge)) in faulty.iter().enumerate() {
        let (p, q) = topology.ends(topology.halves(*edge)[0]);
        let held = runs.entry(set_of[n]).or_insert((*fault, 0.0, vec![]));
        held.1 += at(p).distance(at(q));
        held.2.extend([at(p), at(q)]);
    }
    let mut found: Vec<(f64, CornerRun)> = runs
        .into_values()
        .filter(|(fault, ..)| radius > 0.0 || *fault == CornerFault::Feather)
        .map(|(fault, length, points)| {
            let text = match fault {
                CornerFault::Feather => format!("a feather edge, {} long", millimetres(length)),
                _ => format!(
                    "a sharp inner corner, {} long; it should be rounded by {}",
                    millimetres(length),
                    millimetres(radius)
                ),
            };
            (length, CornerRun { fault, text, place: Place::of(points) })
        })
        .collect();
    for face in face_facts(mesh, None, progress)? {
        let (FaceSurface::Cylinder { radius: own, hollow: true, .. }
        | FaceSurface::Torus { radius: own, hollow: true, .. }) = face.surface
        else {
            continue;
        };
        if own < radius {
            let text = format!("an inner rounding of {} instead of {}", millimetres(own), millimetres(radius));
            let run = CornerRun { fault: CornerFault::TightInside, text, place: face.place.clone() };
            found.push((face.place.radius, run));
        }
    }
    found.sort_by(|a, b| b.0.total_cmp(&a.0));
    found.truncate(MOST);
    Ok(found.into_iter().map(|f| f.1).collect())
}
