//! A picked face, and finding it again on a part that earlier steps left otherwise.
//!
//! Two witnesses are asked: the number the face had, which steps keep, and the place where it was. A face counts only if it is
//! still of the same kind and faces the same way. Where both name it, it is taken however much of it was cut away. Where they
//! name two faces of the same size none is taken; of two that differ in size the one in the old place is. The number alone is not
//! believed when there are more or fewer faces of that kind than there were (numbers may have moved up): never silently
//! another face.

use nimbet_kernel::surfaces::default_tolerance;
use nimbet_kernel::{Aabb, Bvh, FaceId, Mesh, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::face_facts::{FaceFacts, FaceSurface, face_facts, facts_of};
use crate::TradeError;
use crate::picks::triangle_under;
use crate::words::Xyz;

/// A picked face: a point on it, or all that is known of it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
#[schemars(extend("asks" = "face"))]
pub enum FacePick {
    /// A point on it, mm. It is found as long as it runs through that point.
    At(Xyz),
    /// What it was when it was picked. It is found again though it has moved, grown or been divided otherwise.
    Anchored(FaceAnchor),
}

/// What a face was when it was picked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FaceAnchor {
    /// The point on it that was picked, mm.
    pub at: Xyz,
    /// The face id it had.
    pub face: u32,
    /// The surface it lay on.
    pub surface: FaceSurface,
    /// Its area, mm².
    pub area: f64,
    /// How many faces of the part were of its kind, itself among them.
    pub alike: usize,
}

/// Directions agree that differ by no more than 30 degrees.
const SAME_WAY: f64 = 0.866;

/// A face in the old place is the same only if its area is so to this share.
const SAME_AREA: f64 = 0.01;

impl FacePick {
    /// The point that was picked.
    pub fn place(&self) -> Point {
        Point::from_array(match self {
            Self::At(at) => *at,
            Self::Anchored(anchor) => anchor.at,
        })
    }

    /// The face on a part as it is now.
    pub(crate) fn find(&self, mesh: &Mesh, bvh: &Bvh) -> Result<FaceId, TradeError> {
        let at = |near: Xyz| triangle_under(mesh, bvh, near, "the face").map(|t| mesh.face_of()[t]);
        match self {
            Self::At(near) => at(*near),
            Self::Anchored(anchor) => {
                let tolerance = default_tolerance(&Aabb::of(mesh.points().iter().copied()));
                let facts = |face: FaceId| facts_of(mesh, face, tolerance);
                let by_number = facts(FaceId(anchor.face)).filter(|f| anchor.is_like(f));
                let by_place = at(anchor.at).ok().and_then(facts).filter(|f| anchor.is_like(f));
                // Both say the same, so what was cut out of it or added to it does not count.
                if let (Some(a), Some(b)) = (&by_number, &by_place)
                    && a.id == b.id
                {
                    return Ok(FaceId(a.id));
                }
                let by_place = by_place.filter(|f| anchor.is_as_large(f));
                let gone = |what: String| TradeError::NeedsNewPick { what, place: self.place() };
                let as_many = |face: &FaceFacts| Ok::<_, TradeError>(anchor.alike == count_alike(mesh, face)?);
                match (by_number, by_place) {
                    (Some(a), Some(_)) if anchor.is_as_large(&a) && as_many(&a)? => {
                        Err(gone(format!("a single face like the picked one ({}; two could be meant)", a.text)))
                    }
                    (_, Some(found)) => Ok(FaceId(found.id)),
                    (Some(found), None) if as_many(&found)? => Ok(FaceId(found.id)),
                    _ => Err(gone("the face".into())),
                }
            }
        }
    }
}

/// How many faces of a part are of the kind of one.
fn count_alike(mesh: &Mesh, face: &FaceFacts) -> Result<usize, TradeError> {
    let all = face_facts(mesh, None, &Progress::unwatched())?;
    Ok(all.iter().filter(|f| f.surface.is_kind_of(&face.surface)).count())
}

impl FaceAnchor {
    /// The anchor of a face, picked at a point of it.
    pub fn of(face: &FaceFacts, at: Xyz) -> Self {
        Self { at, face: face.id, surface: face.surface.clone(), area: face.area, alike: face.alike }
    }

    /// Whether a face is as large as this one was: its area, and its radius where it is round.
    fn is_as_large(&self, face: &FaceFacts) -> bool {
        let same = |a: f64, b: f64| (a / b - 1.0).abs() <= SAME_AREA;
        use FaceSurface::{Cylinder, Sphere, Torus};
        let round = match (&self.surface, &face.surface) {
            (Cylinder { radius: a, .. }, Cylinder { radius: b, .. })
            | (Sphere { radius: a, .. }, Sphere { radius: b, .. })
            | (Torus { radius: a, .. }, Torus { radius: b, .. }) => same(*b, *a),
            _ => true,
        };
        round && same(face.area, self.area)
    }

    /// Whether a face is of the kind this one was and faces the way it did.
    fn is_like(&self, face: &FaceFacts) -> bool {
        let same_way = |a: &Xyz, b: &Xyz| Point::from_array(*a).dot(Point::from_array(*b)) >= SAME_WAY;
        let along = |a: &Xyz, b: &Xyz| Point::from_array(*a).dot(Point::from_array(*b)).abs() >= SAME_WAY;
        use FaceSurface::{Cone, Cylinder, Plane, Torus};
        self.surface.is_kind_of(&face.surface)
            && match (&self.surface, &face.surface) {
                (Plane { normal: a }, Plane { normal: b }) | (Cone { axis: a, .. }, Cone { axis: b, .. }) => {
                    same_way(a, b)
                }
                (Cylinder { axis: a, .. }, Cylinder { axis: b, .. })
                | (Torus { axis: a, .. }, Torus { axis: b, .. }) => along(a, b),
                _ => true,
            }
    }
}
