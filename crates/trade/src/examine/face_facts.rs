//! What each face is: its area, and the surface it lies on.

use nimbet_kernel::surfaces::{Facets, Sample, Surface, best_fit, default_tolerance};
use nimbet_kernel::{Aabb, Cancelled, FaceId, Mesh, Progress};
use rayon::prelude::*;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::Place;
use crate::words::{Xyz, figure, millimetres, xyz};

/// The surface a face lies on, in figures people ask for. Lengths in mm, angles in degrees.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "kind", rename_all = "lowercase")]
pub enum FaceSurface {
    /// A plane.
    Plane {
        /// Its outward normal.
        normal: Xyz,
    },
    /// A cylinder.
    Cylinder {
        /// The radius.
        radius: f64,
        /// The direction of the axis.
        axis: Xyz,
        /// A point on the axis beside the face.
        centre: Xyz,
        /// Whether it is the wall of a bore: the material lies outside.
        hollow: bool,
    },
    /// A cone.
    Cone {
        /// Between axis and surface.
        half_angle: f64,
        /// From the tip into the cone.
        axis: Xyz,
        /// The tip.
        apex: Xyz,
        /// Whether the material lies outside.
        hollow: bool,
    },
    /// A sphere.
    Sphere {
        /// The radius.
        radius: f64,
        /// The centre.
        centre: Xyz,
        /// Whether the material lies outside.
        hollow: bool,
    },
    /// A torus: a rounded edge that goes round.
    Torus {
        /// The radius of the tube.
        radius: f64,
        /// From the middle to the middle of the tube.
        ring_radius: f64,
        /// The axis it goes round.
        axis: Xyz,
        /// The middle.
        centre: Xyz,
        /// Whether the material lies outside the tube.
        hollow: bool,
    },
    /// None of these.
    Free,
}

/// The measures of a face.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct FaceFacts {
    /// The face id its triangles have.
    pub id: u32,
    /// Triangles in it.
    pub triangles: usize,
    /// Area, mm².
    pub area: f64,
    /// Where it is.
    pub place: Place,
    /// The surface it lies on.
    pub surface: FaceSurface,
    /// How far its corners stand off that surface at most, mm; 0 for a free face.
    pub off: f64,
    /// In words: `bore, 8 mm across`.
    pub text: String,
    /// How many faces of the part are of its kind, itself among them; hollow ones are another kind than those that stand out.
    pub alike: usize,
}

impl FaceSurface {
    /// Whether two surfaces are of one kind; hollow ones are another kind than those that stand out.
    pub(super) fn is_kind_of(&self, other: &Self) -> bool {
        let hollow = |s: &Self| match s {
            Self::Cylinder { hollow, .. } | Self::Cone { hollow, .. } => *hollow,
            Self::Sphere { hollow, .. } | Self::Torus { hollow, .. } => *hollow,
            Self::Plane { .. } | Self::Free => false,
        };
        std::mem::discriminant(self) == std::mem::discriminant(other) && hollow(self) == hollow(other)
    }
}

/// The faces of a mesh with what they are, the largest first. Corners count as on a surface within `tolerance`, mm; by the
/// size of the part when absent.
///
/// # Errors
/// [`Cancelled`].
pub fn face_facts(mesh: &Mesh, tolerance: Option<f64>, progress: &Progress) -> Result<Vec<FaceFacts>, Cancelled> {
    let tolerance = tolerance.unwrap_or_else(|| default_tolerance(&Aabb::of(mesh.points().iter().copied())));
    let mut members: Vec<(u32, u32)> = mesh.face_of().iter().enumerate().map(|(t, f)| (f.0, t as u32)).collect();
    members.sort_unstable();
    let faces: Vec<&[(u32, u32)]> = members.chunk_by(|a, b| a.0 == b.0).collect();
    let measured: Result<Vec<FaceFacts>, Cancelled> = faces
        .into_par_iter()
        .map(|face| {
            progress.check()?;
            let triangles: Vec<u32> = face.iter().map(|f| f.1).collect();
            Ok(facts(mesh, face[0].0, &triangles, tolerance))
        })
        .collect();
    let mut faces = measured?;
    // One of each kind with how many there are.
    let mut kinds: Vec<(FaceSurface, usize)> = Vec::new();
    for face in &faces {
        match kinds.iter_mut().find(|(kind, _)| kind.is_kind_of(&face.surface)) {
            Some((_, count)) => *count += 1,
            None => kinds.push((face.surface.clone(), 1)),
        }
    }
    for face in &mut faces {
        face.alike = kinds.iter().find(|(kind, _)| kind.is_kind_of(&face.surface)).map_or(1, |(_, count)| *count);
    }
    faces.sort_by(|a, b| b.area.total_cmp(&a.area).then(a.id.cmp(&b.id)));
    Ok(faces)
}

/// What one face is, if it is there.
pub(crate) fn facts_of(mesh: &Mesh, face: FaceId, tolerance: f64) -> Option<FaceFacts> {
    let triangles: Vec<u32> =
        (0..mesh.face_of().len() as u32).filter(|t| mesh.face_of()[*t as usize] == face).collect();
    (!triangles.is_empty()).then(|| facts(mesh, face.0, &triangles, tolerance))
}

/// The surface a face lies on, if it is there.
pub(crate) fn face_surface(mesh: &Mesh, face: FaceId) -> Option<FaceSurface> {
    facts_of(mesh, face, default_tolerance(&Aabb::of(mesh.points().iter().copied()))).map(|f| f.surface)
}

fn facts(mesh: &Mesh, id: u32, triangles: &[u32], tolerance: f64) -> FaceFacts {
    let corners = || triangles.iter().flat_map(|&t| mesh.corners(t as usize));
    let facets = Facets::of(mesh, triangles);
    let farthest = |s: &Surface| facets.all_corners().iter().map(|p| s.distance(*p).abs()).fold(0.0, f64::max);
    // The fit looks at a sample; all corners must agree.
    let all: Vec<u32> = (0..facets.count() as u32).collect();
    let surface = best_fit(&Sample::of_facets(&facets, &all), tolerance).filter(|s| farthest(s) <= tolerance);
    let area = triangles.iter().map(|&t| mesh.area_vector(t as usize).length() * 0.5).sum();
    let place = Place::of(corners());
    let described = surface.map_or(FaceSurface::Free, |s| describe(mesh, triangles, s, &place));
    FaceFacts {
        id,
        triangles: triangles.len(),
        area,
        off: surface.as_ref().map_or(0.0, farthest),
        text: words(&described),
        surface: described,
        alike: 1,
        place,
    }
}

fn describe(mesh: &Mesh, triangles: &[u32], surface: Surface, place: &Place) -> FaceSurface {
    // More area facing the axis than away from it: the material lies outside.
    let facing: f64 = triangles
        .iter()
        .map(|&t| {
            let middle = mesh.corners(t as usize).iter().sum::<nimbet_kernel::Point>() / 3.0;
            surface.normal(middle).dot(mesh.area_vector(t as usize))
        })
        .sum();
    let hollow = facing < 0.0;
    let near = nimbet_kernel::Point::from_array(place.centre);
    match surface {
        Surface::Plane { normal, .. } => FaceSurface::Plane { normal: xyz(if hollow { -normal } else { normal }) },
        Surface::Cylinder { point, axis, radius } => FaceSurface::Cylinder {
            radius,
            axis: xyz(axis),
            centre: xyz(point + axis * (near - point).dot(axis)),
            hollow,
        },
        Surface::Cone { apex, axis, half_angle } => {
            FaceSurface::Cone { half_angle: half_angle.to_degrees(), axis: xyz(axis), apex: xyz(apex), hollow }
        }
        Surface::Sphere { centre, radius } => FaceSurface::Sphere { radius, centre: xyz(centre), hollow },
        Surface::Torus { centre, axis, major, minor } => {
            FaceSurface::Torus { radius: minor, ring_radius: major, axis: xyz(axis), centre: xyz(centre), hollow }
        }
    }
}

fn words(surface: &FaceSurface) -> String {
    match surface {
        FaceSurface::Plane { .. } => "flat".into(),
        FaceSurface::Cylinder { radius, hollow: true, .. } => {
            format!("round hollow, {} across", millimetres(radius * 2.0))
        }
        FaceSurface::Cylinder { radius, .. } => format!("cylinder, {} across", millimetres(radius * 2.0)),
        FaceSurface::Cone { half_angle, hollow, .. } => {
            let what = if *hollow { "conical hollow" } else { "cone" };
            format!("{what}, {}° between its sides", figure(half_angle * 2.0))
        }
        FaceSurface::Sphere { radius, hollow, .. } => {
            format!("{}, radius {}", if *hollow { "hollow of a ball" } else { "ball" }, millimetres(*radius))
        }
        FaceSurface::Torus { radius, ring_radius, .. } => {
            format!("ring of radius {}, rounded by {}", millimetres(*ring_radius), millimetres(*radius))
        }
        FaceSurface::Free => "free form".into(),
    }
}
