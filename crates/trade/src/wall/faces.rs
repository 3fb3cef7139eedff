//! Which faces a wall is made of.

use std::collections::BTreeSet;

use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{FaceId, Mesh, Topology};

use crate::TradeError;
use crate::examine::FacePick;
use crate::picks::picked_faces;

/// Faces go on into each other where their edge turns by less than this (the cosine of 12 degrees).
const TANGENT: f64 = 0.978;

/// The picked faces; with `run` those that go on tangent from them, too.
pub(super) fn chosen(mesh: &Mesh, picks: &[FacePick], run: bool) -> Result<BTreeSet<FaceId>, TradeError> {
    let mut faces: BTreeSet<FaceId> = picked_faces(mesh, picks)?.into_iter().collect();
    if run {
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        let normal = |h: u32| mesh.area_vector(h as usize / 3).normalize_or_zero();
        // Pairs of faces that meet along an edge that does not turn.
        let mut beside: Vec<(FaceId, FaceId)> = Vec::new();
        for edge in topology.edges_with(EdgeUse::Regular) {
            let [a, b] = [topology.halves(edge)[0], topology.halves(edge)[1]];
            let (f, g) = (mesh.face_of()[a as usize / 3], mesh.face_of()[b as usize / 3]);
            if f != g && normal(a).dot(normal(b)) >= TANGENT {
                beside.extend([(f, g), (g, f)]);
            }
        }
        beside.sort_unstable();
        beside.dedup();
        let mut todo: Vec<FaceId> = faces.iter().copied().collect();
        while let Some(face) = todo.pop() {
            let from = beside.partition_point(|b| b.0 < face);
            for (_, next) in beside[from..].iter().take_while(|b| b.0 == face) {
                if faces.insert(*next) {
                    todo.push(*next);
                }
            }
        }
    }
    Ok(faces)
}

/// Only the triangles of some faces.
pub(super) fn only(mesh: &Mesh, faces: &BTreeSet<FaceId>) -> Mesh {
    mesh.retain_triangles(|t| faces.contains(&mesh.face_of()[t]))
}
