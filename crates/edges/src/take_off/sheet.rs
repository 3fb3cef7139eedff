//! Faces taken off a sheet: it gets a thin wall to one side, the faces are taken off that with what they became on its back, and
//! of what is left the side that is the sheet stays.

use std::collections::{BTreeMap, BTreeSet};

use nimbet_kernel::offset::{Corners, Fault, How, Offset, Rims, wall};
use nimbet_kernel::surfaces::Surface;
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{Aabb, FaceId, Mesh, Progress, Topology, UnionFind};

use super::{TakeOffError, off_solid};
use crate::carve::Carved;
use crate::forms::Faces;

/// The wall is so thin a share of the smallest radius of what goes, so that its back is no tighter than it can be …
const OF_RADIUS: f64 = 0.25;
/// … and of the extent of that.
const OF_EXTENT: f64 = 0.05;

/// A sheet without some of its faces.
pub(super) fn off_sheet(mesh: &Mesh, going: &BTreeSet<FaceId>, progress: &Progress) -> Result<Carved, TakeOffError> {
    let thick = thickness(mesh, going);
    let behind = walled(mesh, (-thick, 0.0), &progress.stage(0.0, 0.2))?;
    // Where it folds on that side it has room on the other.
    let (solid, flips) =
        if behind.cleaned { (walled(mesh, (0.0, thick), &progress.stage(0.2, 0.4))?, true) } else { (behind, false) };
    let (moved, copies) = (solid.moved, solid.moved * 2);
    let solid = with_flat_rims(&solid.mesh, copies);
    let both: BTreeSet<FaceId> = going.iter().flat_map(|f| [*f, FaceId(f.0 + moved)]).collect();
    let made = off_solid(&solid, &both, &progress.stage(0.4, 1.0))?.mesh;
    let mut sheet = made.retain_triangles(|t| made.face_of()[t].0 < moved);
    sheet.reverse_triangles(|_| flips);
    Ok(Carved { mesh: sheet, first_new: moved, vanished: vec![], passed: vec![] })
}

fn thickness(mesh: &Mesh, going: &BTreeSet<FaceId>) -> f64 {
    let faces = Faces::of(mesh);
    let radius = going.iter().filter_map(|face| match faces.surface(*face)? {
        Surface::Cylinder { radius, .. } | Surface::Sphere { radius, .. } => Some(radius),
        Surface::Torus { minor, .. } => Some(minor),
        _ => None,
    });
    let gone = (0..mesh.triangles().len()).filter(|t| going.contains(&mesh.face_of()[*t]));
    let extent = Aabb::of(gone.flat_map(|t| mesh.corners(t))).diagonal();
    (radius.fold(f64::INFINITY, f64::min) * OF_RADIUS).min(extent * OF_EXTENT)
}

fn walled(mesh: &Mesh, by: (f64, f64), progress: &Progress) -> Result<Offset, TakeOffError> {
    let how = How { corners: Corners::Sharp, rims: Rims::Square, chord: (by.1 - by.0) * 0.01 };
    wall(mesh, by, None, &how, progress).map_err(|fault| match fault {
        Fault::Crowded(at) | Fault::Clashing(at) | Fault::Degenerate(at) => TakeOffError::NoSides { at },
        Fault::Cancelled(c) => TakeOffError::Edge(c.into()),
        Fault::Mesh(m) => TakeOffError::Edge(m.into()),
        _ => TakeOffError::NoSides { at: mesh.points().first().copied().unwrap_or_default() },
    })
}

/// A wall whose rims are a face each as far as they are flat; they have the numbers from `first` on.
fn with_flat_rims(mesh: &Mesh, first: u32) -> Mesh {
    /// Normals that differ by less than this, as a sine, are one.
    const FLAT: f64 = 1e-4;
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let is_rim = |t: u32| mesh.face_of()[t as usize].0 >= first;
    let normal = |t: u32| mesh.area_vector(t as usize).normalize_or_zero();
    let mut flat = UnionFind::new(mesh.triangles().len());
    for edge in topology.edges_with(EdgeUse::Regular) {
        let [a, b] = [0, 1].map(|k| topology.halves(edge)[k] / 3);
        if is_rim(a) && is_rim(b) && normal(a).cross(normal(b)).length() < FLAT && normal(a).dot(normal(b)) > 0.0 {
            flat.union(a, b);
        }
    }
    let mut numbers: BTreeMap<u32, u32> = BTreeMap::new();
    let faces: Vec<FaceId> = (0..mesh.triangles().len())
        .map(|t| {
            if !is_rim(t as u32) {
                return mesh.face_of()[t];
            }
            let next = first + numbers.len() as u32;
            FaceId(*numbers.entry(flat.find(t as u32)).or_insert(next))
        })
        .collect();
    mesh.clone().regroup(|t| faces[t])
}
