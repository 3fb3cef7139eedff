//! Shells: triangles connected over edges.

use crate::{Mesh, Point, Topology, UnionFind};

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

/// How far some triangles are across, mm: twice the farthest of their corners from the middle of them. It is the same however they
/// lie, which the sides of a box round them are not.
pub fn across(mesh: &Mesh, triangles: &[u32]) -> f64 {
    let corners = || triangles.iter().flat_map(|t| mesh.corners(*t as usize));
    let middle = corners().sum::<Point>() / (3 * triangles.len().max(1)) as f64;
    corners().map(|p| p.distance(middle)).fold(0.0, f64::max) * 2.0
}
