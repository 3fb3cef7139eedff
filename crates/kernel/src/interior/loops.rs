//! Closed loops of the edges at which an odd number of triangles ends.
//!
//! At each point an even number of such edges meets, since each triangle there has two sides at it. So they fall apart into
//! loops, and with a cover over each of those every edge has an even number of triangles: crossing any wall then leads from one
//! chamber of space to another.

use std::collections::HashMap;

use crate::{Mesh, Topology};

/// The loops, as points in order.
pub(super) fn odd_loops(mesh: &Mesh) -> Vec<Vec<u32>> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let odd: Vec<(u32, u32)> = (0..topology.edge_count() as u32)
        .filter(|e| topology.halves(*e).len() % 2 == 1)
        .map(|e| topology.ends(topology.halves(e)[0]))
        .collect();
    let mut at: Vec<(u32, u32)> =
        odd.iter().enumerate().flat_map(|(e, (a, b))| [(*a, e as u32), (*b, e as u32)]).collect();
    at.sort_unstable();
    let edges_at = |p: u32| {
        let first = at.partition_point(|(q, _)| *q < p);
        at[first..].iter().take_while(move |(q, _)| *q == p).map(|(_, e)| *e)
    };
    let mut used = vec![false; odd.len()];
    let mut loops = Vec::new();
    for first in 0..odd.len() {
        if used[first] {
            continue;
        }
        // A walk along edges not walked before; whenever it comes to a point it was at, what lies between is a loop.
        let mut walk: Vec<u32> = vec![odd[first].0];
        let mut place = HashMap::from([(odd[first].0, 0usize)]);
        while let Some(&here) = walk.last() {
            let Some(edge) = edges_at(here).find(|e| !used[*e as usize]) else {
                place.remove(&here);
                walk.pop();
                continue;
            };
            used[edge as usize] = true;
            let (a, b) = odd[edge as usize];
            let next = if a == here { b } else { a };
            if let Some(&from) = place.get(&next) {
                let ring = walk.split_off(from);
                ring.iter().for_each(|p| {
                    place.remove(p);
                });
                loops.push(ring);
                walk.push(next);
                place.insert(next, from);
            } else {
                place.insert(next, walk.len());
                walk.push(next);
            }
        }
    }
    loops
}
