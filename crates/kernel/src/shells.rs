//! Shells: triangles connected over edges.

use crate::{Topology, UnionFind};

/// The shell of each triangle and how many shells there are; shells are numbered by their first triangle.
pub fn shells(topology: &Topology) -> (Vec<u32>, usize) {
    let mut sets = UnionFind::new(topology.triangles().len());
    for edge in 0..topology.edge_count() as u32 {
        for pair in topology.halves(edge).windows(2) {
            sets.union(pair[0] / 3, pair[1] / 3);
        }
    }
    sets.number_sets()
}
