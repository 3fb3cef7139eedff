//! Triangles that are there twice, have no area or hardly any, or lie bent back on a neighbour.

use nimbet_kernel::topology::{EdgeUse, NO_EDGE, Topology};
use nimbet_kernel::{Mesh, Point};

/// Triangles over the same three points as an earlier one, ascending.
pub(crate) fn duplicate_triangles(topology: &Topology<'_>) -> Vec<u32> {
    let triangles = topology.triangles();
    let same = |t: u32, u: u32| same_triangle(triangles[t as usize], triangles[u as usize]);
    (0..triangles.len() as u32)
        .filter(|&t| {
            let edge = topology.edge_of(3 * t);
            edge != NO_EDGE && topology.halves(edge).iter().any(|&h| h / 3 < t && same(h / 3, t))
        })
        .collect()
}

/// Whether two triangles have the same corners, in whatever order.
pub(super) fn same_triangle(a: [u32; 3], b: [u32; 3]) -> bool {
    a.iter().all(|c| b.contains(c)) && b.iter().all(|c| a.contains(c))
}

/// Triangles that name a point twice or whose corners lie on one line to the last digits, ascending.
pub(crate) fn degenerate_triangles(mesh: &Mesh) -> Vec<u32> {
    (0..mesh.triangles().len() as u32).filter(|&t| is_degenerate(mesh.corners(t as usize))).collect()
}

/// Whether a triangle's height is below what double precision can tell from zero.
pub(crate) fn is_degenerate([a, b, c]: [Point; 3]) -> bool {
    /// Height over longest side. Rounding of coordinates leaves about 1e-16 of their size; this allows parts that lie a
    /// thousand times their size away from the origin.
    const NO_HEIGHT: f64 = 1e-12;
    let longest = (b - a).length_squared().max((c - b).length_squared()).max((a - c).length_squared());
    (b - a).cross(c - a).length() <= NO_HEIGHT * longest
}

/// Triangles with some area that are much longer than high, ascending.
pub(crate) fn sliver_triangles(mesh: &Mesh) -> Vec<u32> {
    /// Height over longest side: a hair 0.1 mm wide on a side of 100 mm.
    const SLENDER: f64 = 1e-3;
    (0..mesh.triangles().len() as u32)
        .filter(|&t| {
            let [a, b, c] = mesh.corners(t as usize);
            let longest = (b - a).length_squared().max((c - b).length_squared()).max((a - c).length_squared());
            mesh.area_vector(t as usize).length() < SLENDER * longest && !is_degenerate([a, b, c])
        })
        .collect()
}

/// Edges over which two triangles that agree about the outside are bent back on each other, ascending.
pub(crate) fn folded_edges(mesh: &Mesh, topology: &Topology<'_>) -> Vec<u32> {
    /// The cosine of 175°: sharper than any edge somebody means.
    const BENT_BACK: f64 = -0.9962;
    topology
        .edges_with(EdgeUse::Regular)
        .filter(|&e| {
            let [m, n] = [0, 1].map(|k| mesh.area_vector(topology.halves(e)[k] as usize / 3).normalize_or_zero());
            m.dot(n) < BENT_BACK
        })
        .collect()
}
