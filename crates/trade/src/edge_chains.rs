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

/// The closed loops of points that the picked edges make. Also tells whether all their edges are naked.
pub(crate) fn closed_loops(mesh: &Mesh, picks: &[Xyz]) -> Result<(Vec<Vec<u32>>, bool), TradeError> {
    let (chosen, naked) = chosen_edges(mesh, picks)?;
    if let Some((ends, _)) = chains(mesh, &chosen)?.into_iter().find(|(_, closed)| !closed) {
        let why = "the picked edges do not close to an outline: pick the edges that are missing at the ends";
        let places = [ends.first(), ends.last()].into_iter().flatten().map(|p| mesh.points()[*p as usize]);
        return Err(TradeError::refused(why, places.collect()));
    }
    Ok((chains(mesh, &chosen)?.into_iter().map(|(points, _)| points).collect(), naked))
}

/// The one line of points that the picked edges make, and whether it is closed.
pub(crate) fn one_chain(mesh: &Mesh, picks: &[Xyz]) -> Result<(Vec<Point>, bool), TradeError> {
    let (chosen, _) = chosen_edges(mesh, picks)?;
    let mut all = chains(mesh, &chosen)?;
    match (all.pop(), all.len()) {
        (Some((points, closed)), 0) => Ok((points.into_iter().map(|p| mesh.points()[p as usize]).collect(), closed)),
        (None, _) => Err(TradeError::refused("pick the edges it runs along", vec![])),
        (Some(last), _) => {
            let ends = all.iter().chain([&last]).filter_map(|(points, _)| points.first());
            let places = ends.map(|p| mesh.points()[*p as usize]).collect();
            Err(TradeError::refused(
                "the picked edges are several lines: pick those between them, or one line only",
                places,
            ))
        }
    }
}

/// The naked edges among which picks lie, each with its whole run of border.
pub(crate) fn naked_edges(mesh: &Mesh, picks: &[Xyz]) -> Result<BTreeSet<(u32, u32)>, TradeError> {
    match chosen_edges(mesh, picks)? {
        (chosen, true) => Ok(chosen),
        (_, false) => {
            let why = "pick edges of the border: one of these has surface on both sides";
            Err(TradeError::refused(why, picks.iter().map(|p| Point::from_array(*p)).collect()))
        }
    }
}

/// The picked edges, each with its whole run of border: from the edge on both ways until borders meet or the run turns at a
/// corner. Also tells whether all of them are naked.
fn chosen_edges(mesh: &Mesh, picks: &[Xyz]) -> Result<(BTreeSet<(u32, u32)>, bool), TradeError> {
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
    Ok((chosen.into_iter().map(ends).collect(), naked))
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

/// Lines of points along edges, each with whether it is closed.
fn chains(mesh: &Mesh, chosen: &BTreeSet<(u32, u32)>) -> Result<Vec<(Vec<u32>, bool)>, TradeError> {
    let mut beside: BTreeMap<u32, Vec<u32>> = BTreeMap::new();
    for &(a, b) in chosen {
        beside.entry(a).or_default().push(b);
        beside.entry(b).or_default().push(a);
    }
    let branches: Vec<Point> =
        beside.iter().filter(|(_, l)| l.len() > 2).map(|(p, _)| mesh.points()[*p as usize]).collect();
    if !branches.is_empty() {
        return Err(TradeError::refused("the picked edges branch: an outline passes each point once", branches));
    }
    let mut lines = Vec::new();
    // Open ones from an end, then those that go round.
    while let Some(start) = beside.iter().find(|(_, l)| l.len() == 1).or_else(|| beside.iter().next()).map(|(p, _)| *p)
    {
        let closed = beside[&start].len() == 2;
        let (mut before, mut point) = (start, start);
        let mut along = Vec::new();
        while let Some(next) = beside.remove(&point) {
            along.push(point);
            let on = next.iter().copied().find(|n| *n != before);
            let Some(on) = on else { break };
            (before, point) = (point, on);
        }
        lines.push((along, closed));
    }
    Ok(lines)
}
