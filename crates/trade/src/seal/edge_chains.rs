//! Picked edges, each with the whole run of border it belongs to, chained to closed loops.

use std::collections::{BTreeMap, BTreeSet};

use nimbet_kernel::segments::nearest_on_segment;
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{Aabb, Bvh, Mesh, Point, Topology};

use crate::TradeError;
use crate::words::Xyz;

/// A run of border ends at a corner: where it turns by more than this, degrees.
const CORNER: f64 = 40.0;
/// A picked point lies on an edge when it is no farther from it than this share of the part.
const CLOSE: f64 = 1e-3;

/// An edge is on a border when it is not between two triangles of one face.
fn is_border(mesh: &Mesh, topology: &Topology<'_>, edge: u32) -> bool {
    let halves = topology.halves(edge);
    topology.edge_use(edge) == EdgeUse::Naked
        || halves.len() > 2
        || mesh.face_of()[halves[0] as usize / 3] != mesh.face_of()[halves[1] as usize / 3]
}

/// The closed loops of points that the picked edges make, each with its whole run of border: from the edge on both ways until
/// borders meet or the run turns at a corner. Also tells whether all their edges are naked.
pub(super) fn closed_loops(mesh: &Mesh, picks: &[Xyz]) -> Result<(Vec<Vec<u32>>, bool), TradeError> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let at = |p: u32| mesh.points()[p as usize];
    let ends = |edge: u32| topology.ends(topology.halves(edge)[0]);
    let edges: Vec<u32> = (0..topology.edge_count() as u32).collect();
    let bvh = Bvh::new(edges.iter().map(|&e| Aabb::of([at(ends(e).0), at(ends(e).1)])).collect());
    let border: Vec<bool> = edges.iter().map(|&e| is_border(mesh, &topology, e)).collect();
    let mut border_at: BTreeMap<u32, Vec<u32>> = BTreeMap::new();
    for &e in edges.iter().filter(|e| border[**e as usize]) {
        let (a, b) = ends(e);
        border_at.entry(a).or_default().push(e);
        border_at.entry(b).or_default().push(e);
    }
    let mut chosen: BTreeSet<u32> = BTreeSet::new();
    for pick in picks {
        let place = Point::from_array(*pick);
        // Borders come before other edges that pass as near.
        let nearest = |only_border: bool| {
            let distance = |e: u32| {
                (!only_border || border[e as usize]).then(|| nearest_on_segment(place, at(ends(e).0), at(ends(e).1)).1)
            };
            bvh.nearest(place, bvh.bounds().diagonal() * CLOSE, distance)
        };
        let Some((edge, _)) = nearest(true).or_else(|| nearest(false)) else {
            return Err(TradeError::NeedsNewPick { what: "the edge".into(), place });
        };
        chosen.insert(edge);
        if !border[edge as usize] {
            continue;
        }
        for start in [ends(edge).0, ends(edge).1] {
            let (mut along, mut point) = (edge, start);
            while let Some(next) = onward(along, point, &border_at, &ends, &at) {
                if !chosen.insert(next) {
                    break;
                }
                point = if ends(next).0 == point { ends(next).1 } else { ends(next).0 };
                along = next;
            }
        }
    }
    let naked = chosen.iter().all(|&e| topology.edge_use(e) == EdgeUse::Naked);
    Ok((chain(mesh, &chosen, &ends)?, naked))
}

/// The border edge after `edge` at `point`, if there is just one and it goes on without a corner.
fn onward(
    edge: u32,
    point: u32,
    border_at: &BTreeMap<u32, Vec<u32>>,
    ends: &impl Fn(u32) -> (u32, u32),
    at: &impl Fn(u32) -> Point,
) -> Option<u32> {
    let [a, b] = border_at.get(&point)?[..] else { return None };
    let next = if a == edge { b } else { a };
    let other = |e: u32| if ends(e).0 == point { ends(e).1 } else { ends(e).0 };
    let (came, goes) = (at(point) - at(other(edge)), at(other(next)) - at(point));
    (came.angle_between(goes) <= CORNER.to_radians()).then_some(next)
}

fn chain(mesh: &Mesh, chosen: &BTreeSet<u32>, ends: &impl Fn(u32) -> (u32, u32)) -> Result<Vec<Vec<u32>>, TradeError> {
    let mut beside: BTreeMap<u32, Vec<u32>> = BTreeMap::new();
    for &e in chosen {
        let (a, b) = ends(e);
        beside.entry(a).or_default().push(b);
        beside.entry(b).or_default().push(a);
    }
    let off: Vec<(u32, usize)> = beside.iter().filter(|(_, l)| l.len() != 2).map(|(p, l)| (*p, l.len())).collect();
    if let Some(&(_, n)) = off.first() {
        let why = if n == 1 {
            "the picked edges do not close to an outline: pick the edges that are missing at the ends"
        } else {
            "the picked edges branch: an outline passes each point once"
        };
        return Err(TradeError::refused(why, off.iter().map(|(p, _)| mesh.points()[*p as usize]).collect()));
    }
    let mut loops = Vec::new();
    while let Some((&start, _)) = beside.first_key_value() {
        let (mut before, mut point) = (start, start);
        let mut around = Vec::new();
        while let Some(next) = beside.remove(&point) {
            around.push(point);
            (before, point) = (point, if next[0] == before && before != point { next[1] } else { next[0] });
        }
        loops.push(around);
    }
    Ok(loops)
}
