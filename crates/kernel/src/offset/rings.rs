//! The triangles round each point, in order.

use crate::Topology;
use crate::topology::{EdgeUse, previous};

/// The triangles round a point that hang together by edges. A point where surfaces only touch has several rings.
#[derive(Clone, Debug)]
pub(super) struct Ring {
    /// The point.
    pub point: u32,
    /// In each triangle the half that leaves the point, counter-clockwise seen from outside.
    pub halves: Vec<u32>,
    /// Whether the last triangle meets the first; else the point lies on a rim.
    pub closed: bool,
}

/// The half on the other side of an edge of two triangles that agree.
pub(super) fn twin(topology: &Topology<'_>, half: u32) -> Option<u32> {
    let edge = topology.edge_of(half);
    if topology.edge_use(edge) != EdgeUse::Regular {
        return None;
    }
    topology.halves(edge).iter().copied().find(|h| *h != half)
}

/// All rings. Edges must be naked or regular, and no triangle may name a point twice.
pub(super) fn rings(topology: &Topology<'_>) -> Vec<Ring> {
    let count = topology.triangles().len() * 3;
    let mut seen = vec![false; count];
    let mut found = Vec::new();
    // Those that begin at a rim first, so that the others go round.
    let starts = (0..count as u32).filter(|h| twin(topology, *h).is_none()).chain(0..count as u32);
    for start in starts.collect::<Vec<_>>() {
        if seen[start as usize] {
            continue;
        }
        let mut ring = Ring { point: topology.ends(start).0, halves: vec![], closed: false };
        let mut half = start;
        loop {
            seen[half as usize] = true;
            ring.halves.push(half);
            match twin(topology, previous(half)) {
                Some(next) if next == start => {
                    ring.closed = true;
                    break;
                }
                Some(next) if !seen[next as usize] => half = next,
                _ => break,
            }
        }
        found.push(ring);
    }
    found
}
