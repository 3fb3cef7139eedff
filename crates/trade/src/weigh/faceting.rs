//! What facets take from a volume or add to it, against the round surfaces they stand for.

use std::collections::BTreeMap;

use nimbet_kernel::measure::measure;
use nimbet_kernel::surfaces::{Sample, Surface, best_fit, default_tolerance};
use nimbet_kernel::{Aabb, Cancelled, Mesh, Point, Progress};
use rayon::prelude::*;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The error of a volume that comes of facets; an estimate, right to a few hundredths of itself on cylinders, balls, cones and rings.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Faceting {
    /// So much more the volume would be if round faces were round, mm³; below nought less.
    pub volume: f64,
    /// The same as a share of the volume.
    pub share: f64,
}

/// Estimates what facets take from the volume of a closed mesh. On faces that lie on a plane, cylinder, cone, ball or ring the
/// distance from that is taken; on free faces what their normals say (the sag of an edge is an eighth of its length times its
/// turn).
///
/// # Errors
/// [`Cancelled`].
pub fn faceting(mesh: &Mesh, progress: &Progress) -> Result<Faceting, Cancelled> {
    let tolerance = default_tolerance(&Aabb::of(mesh.points().iter().copied()));
    let mut of_face: BTreeMap<u32, Vec<u32>> = BTreeMap::new();
    for (t, face) in mesh.face_of().iter().enumerate() {
        of_face.entry(face.0).or_default().push(t as u32);
    }
    let faces: Vec<Vec<u32>> = of_face.into_values().collect();
    let missing: Vec<f64> = faces
        .par_iter()
        .map(|triangles| {
            progress.check()?;
            let surface = best_fit(&Sample::of(mesh, triangles), tolerance);
            Ok(match surface {
                Some(Surface::Plane { .. }) => 0.0,
                Some(surface) => beside(mesh, triangles, &surface),
                None => by_normals(mesh, triangles),
            })
        })
        .collect::<Result<_, Cancelled>>()?;
    let volume = missing.into_iter().sum::<f64>();
    let whole = measure(mesh).volume;
    Ok(Faceting { volume, share: if whole == 0.0 { 0.0 } else { volume / whole } })
}

/// What lies between a face and its true surface, mm³, outward counted above nought. The mean at the middles of the sides is exact
/// for what bends evenly.
fn beside(mesh: &Mesh, triangles: &[u32], surface: &Surface) -> f64 {
    let of = |t: &u32| {
        let [a, b, c] = mesh.corners(*t as usize);
        let vector = mesh.area_vector(*t as usize);
        let outward = surface.normal((a + b + c) / 3.0).dot(vector).signum();
        let middles = [a.midpoint(b), b.midpoint(c), c.midpoint(a)];
        let inside: f64 = middles.into_iter().map(|m| surface.distance(m)).sum();
        -inside / 3.0 * outward * vector.length() * 0.5
    };
    triangles.iter().map(of).sum()
}

fn by_normals(mesh: &Mesh, triangles: &[u32]) -> f64 {
    let mut normals: BTreeMap<u32, Point> = BTreeMap::new();
    for t in triangles {
        let corners = mesh.triangles()[*t as usize];
        let at = mesh.corners(*t as usize);
        let normal = mesh.area_vector(*t as usize).normalize_or_zero();
        for k in 0..3 {
            let (u, w) = (at[(k + 1) % 3] - at[k], at[(k + 2) % 3] - at[k]);
            let angle = u.normalize_or_zero().dot(w.normalize_or_zero()).clamp(-1.0, 1.0).acos();
            *normals.entry(corners[k]).or_insert(Point::ZERO) += normal * angle;
        }
    }
    let normal = |p: u32| normals.get(&p).copied().unwrap_or(Point::ZERO).normalize_or_zero();
    let of = |t: &u32| {
        let corners = mesh.triangles()[*t as usize];
        let at = mesh.corners(*t as usize);
        let sag = |k: usize| {
            let j = (k + 1) % 3;
            (normal(corners[j]) - normal(corners[k])).dot(at[j] - at[k]) / 8.0
        };
        (sag(0) + sag(1) + sag(2)) / 3.0 * mesh.area_vector(*t as usize).length() * 0.5
    };
    triangles.iter().map(of).sum()
}
