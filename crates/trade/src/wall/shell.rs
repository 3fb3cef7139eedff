//! `wall.shell`: a solid becomes a wall with openings.

use std::collections::BTreeMap;

use nimbet_kernel::offset::grow;
use nimbet_kernel::{FaceId, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::grow::refuse_open;
use super::making::{CornerStyle, RimStyle, cleaned, faces, how, lost_faces, told};
use crate::budget::{Effort, Extent};
use crate::examine::FacePick;
use crate::parameter::Length;
use crate::picks::picked_faces;
use crate::solids::{CREVICE, arranged, body_without_pinches, volume};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::millimetres;
use crate::{Outcome, TradeError};

/// A face with a wall of its own.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FaceWall {
    /// The face.
    pub face: FacePick,
    /// Its wall, mm.
    #[schemars(with = "Length")]
    pub wall: f64,
}

/// Parameters of `wall.shell`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Shell {
    /// The wall, mm.
    #[schemars(with = "Length")]
    pub wall: f64,
    /// The faces that are left open.
    #[schemars(extend("hint" = "Click the faces that are left open.", "least" = 1))]
    pub open: Vec<FacePick>,
    /// Whether the wall is added outside, so that the part is what is inside it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Outside the part, which becomes the space inside")]
    pub outward: bool,
    /// Faces with walls of their own.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub walls: Vec<FaceWall>,
    /// Corners that stand out.
    #[serde(default)]
    pub corners: CornerStyle,
    /// How far arcs may be off a true circle, mm; by the size of the part when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Chord tolerance", with = "Option<Length>", extend("empty" = "by the part's size", "folded" = true))]
    pub chord: Option<f64>,
}

impl Tool for Shell {
    const KIND: &'static str = "wall.shell";
    const WHAT: &'static str = "Make a wall with openings of a solid.";
    const EFFORT: Effort = Effort::Moving;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "shell",
        name: "Shell",
        hint: "A solid becomes a wall with picked faces open",
        group: "Of a solid",
        words: &["hollow", "open box", "thin wall", "remove faces"],
        needs: Needs::Sealed,
        mark: "",
        start: |b| json!({ "wall": b.wall(), "open": [], "corners": "sharp" }),
    }];

    fn title(&self) -> String {
        format!("Shell, wall {}", millimetres(self.wall))
    }

    fn makes(&self, parts: &[Extent]) -> f64 {
        2.0 * parts.iter().map(|p| p.triangles).sum::<f64>()
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let wall = self.wall;
        refuse_open(mesh)?;
        let open = picked_faces(mesh, &self.open)?;
        let mut walls: BTreeMap<FaceId, f64> = BTreeMap::new();
        for own in &self.walls {
            let thickness = own.wall;
            picked_faces(mesh, std::slice::from_ref(&own.face))?.into_iter().for_each(|f| {
                walls.insert(f, thickness);
            });
        }
        let of = |face: FaceId| walls.get(&face).copied().unwrap_or(wall);
        let is_open = |face: FaceId| open.binary_search(&face).is_ok();
        if mesh.face_of().iter().all(|face| is_open(*face)) {
            return Err(TradeError::refused("all faces are picked as open: nothing is left to make a wall of", vec![]));
        }
        let most = walls.values().copied().fold(wall, f64::max);
        let how = how(mesh, &[if self.outward { most } else { -most }], self.corners, RimStyle::Square, self.chord)?;
        // Inward, what is taken away is the part with its walls moved in and its openings out; outward the part with its openings
        // out is taken from the part with its walls moved out.
        let moved =
            |by: &(dyn Fn(FaceId) -> f64 + Sync), progress: &Progress| grow(mesh, by, &how, progress).map_err(told);
        let (outer, inner, cleaned_any) = if self.outward {
            let outer = moved(&|f| if is_open(f) { 0.0 } else { of(f) }, &progress.stage(0.0, 0.3))?;
            let inner = moved(&|f| if is_open(f) { most } else { 0.0 }, &progress.stage(0.3, 0.5))?;
            let any = outer.cleaned;
            (outer.mesh, inner.mesh, any)
        } else {
            let inner = moved(&|f| if is_open(f) { most } else { -of(f) }, &progress.stage(0.0, 0.5))?;
            (mesh.clone(), inner.mesh, inner.cleaned)
        };
        let all = arranged(&[&outer, &inner], false, &|_| "the part".into(), &progress.stage(0.5, 0.9))?;
        // Walls that meet an opening at an angle may touch along an edge: what is small there changes sides.
        let made = body_without_pinches(&all, |w| w[0] > 0 && w[1] <= 0, CREVICE, &progress.stage(0.9, 1.0))?;
        if made.triangles().is_empty() {
            return Err(TradeError::refused("nothing would be left", vec![]));
        }
        let mut outcome = Outcome::of(made, String::new());
        outcome.done =
            vec![format!("a wall of {} with {} open: {}", millimetres(wall), faces(open.len()), volume(&outcome.mesh))];
        outcome.done.extend(cleaned(cleaned_any));
        if cleaned_any {
            let by = if self.outward { wall } else { -wall };
            let moved = if self.outward { &outer } else { &inner };
            let (notices, tight) = lost_faces(mesh, moved, 0, by, progress)?;
            outcome.notices.extend(notices);
            outcome.tight = tight;
        }
        Ok(outcome)
    }
}
