//! `seal.group_faces`: groups the triangles into faces anew. Nothing moves.

use nimbet_kernel::Aabb;
use nimbet_kernel::surfaces::{self, Grouping};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::budget::Effort;
use crate::examine::About;
use crate::parameter::{Angle, Length};
use crate::tool::{Cure, Entry, Given, Needs, Tool};
use crate::words::{count, millimetres};
use crate::{Outcome, TradeError};

/// Parameters of `seal.group_faces`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct GroupFaces {
    /// Edges that turn by more than this part faces, degrees; 26 when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Edges that turn by more part faces", with = "Option<Angle>", extend("empty" = "26°"))]
    pub angle: Option<f64>,
    /// Triangles lie on a plane, cylinder, cone, sphere or torus when their corners are within this of it, mm; a
    /// ten-thousandth of the part's diagonal, and at least 0.001, when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Length>", extend("empty" = "by the part's size"))]
    pub tolerance: Option<f64>,
}

impl Tool for GroupFaces {
    const KIND: &'static str = "seal.group_faces";
    const WHAT: &'static str = "Group the triangles into faces anew.";
    const EFFORT: Effort = Effort::Searching;
    const KEEPS_FACES: bool = false;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "group_faces",
        name: "Group faces",
        hint: "Find planes, cylinders, cones, spheres and tori anew",
        group: "Faces and shells",
        words: &["segment", "recognise surfaces", "fit"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({}),
    }];

    fn title(&self) -> String {
        "Group faces".into()
    }

    fn remedies(about: &About) -> Vec<Cure> {
        match about {
            About::CornerInFace => vec![Cure::new(0, "Part the face there first", Self::default())],
            _ => vec![],
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let angle = self.angle.unwrap_or(surfaces::DEFAULT_ANGLE);
        let tolerance =
            self.tolerance.unwrap_or_else(|| surfaces::default_tolerance(&Aabb::of(mesh.points().iter().copied())));
        progress.report(0.1, "fitting surfaces")?;
        let out = surfaces::group_faces(mesh.clone(), Grouping { angle, tolerance }, progress)?;
        if out.face_of() == mesh.face_of() {
            return Err(TradeError::nothing("the faces are grouped like this already"));
        }
        let mut faces = out.face_of().to_vec();
        faces.sort_unstable();
        faces.dedup();
        let told = format!("grouped into {}, within {}", count(faces.len(), "face", "faces"), millimetres(tolerance));
        Ok(Outcome::of(out, told))
    }
}
