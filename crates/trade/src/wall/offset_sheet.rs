//! `wall.offset_sheet`: a sheet at a distance from faces, to be thickened in turn.

use nimbet_kernel::offset::wall;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::faces::{chosen, only};
use super::making::{CornerStyle, RimStyle, cleaned, how, lost_faces, told};
use crate::budget::{Effort, Extent};
use crate::examine::FacePick;
use crate::parameter::{Length, Offset};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::millimetres;
use crate::{Made, Outcome, TradeError};

/// Parameters of `wall.offset_sheet`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct OffsetSheet {
    /// How far the sheet lies from the faces, mm: outward above 0, inward below.
    #[schemars(title = "Distance (below 0 it lies inside)", with = "Offset")]
    pub distance: f64,
    /// The faces; all when empty.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(extend("hint" = "All faces; click some to take only those."))]
    pub faces: Vec<FacePick>,
    /// Whether faces that go on tangent from the picked ones belong to it, too.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "With all faces that go on tangent", extend("when" = { "/faces/0": true }))]
    pub run: bool,
    /// Corners that stand out.
    #[serde(default)]
    pub corners: CornerStyle,
    /// How far arcs may be off a true circle, mm; by the size of the part when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Chord tolerance", with = "Option<Length>", extend("empty" = "by the part's size", "folded" = true))]
    pub chord: Option<f64>,
}

impl Tool for OffsetSheet {
    const KIND: &'static str = "wall.offset_sheet";
    const WHAT: &'static str = "Make a sheet at a distance from faces.";
    const EFFORT: Effort = Effort::Moving;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "offset_sheet",
        name: "Sheet at a distance",
        hint: "From picked faces: sleeves, gaskets, liners",
        group: "Of a sheet",
        words: &["offset surface", "gasket", "liner", "sleeve"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({ "distance": 0.3, "faces": [], "corners": "sharp" }),
    }];

    fn title(&self) -> String {
        format!("Sheet at {}", millimetres(self.distance))
    }

    fn makes(&self, parts: &[Extent]) -> f64 {
        2.0 * parts.iter().map(|p| p.triangles).sum::<f64>()
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let by = self.distance;
        if by == 0.0 || !by.is_finite() {
            return Err(TradeError::refused("the distance must not be 0 mm", vec![]));
        }
        let source =
            if self.faces.is_empty() { mesh.clone() } else { only(mesh, &chosen(mesh, &self.faces, self.run)?) };
        let how = how(mesh, &[by], self.corners, RimStyle::Square, self.chord)?;
        let made = wall(&source, (by.min(0.0), by.max(0.0)), None, &how, &progress.stage(0.0, 0.9)).map_err(told)?;
        // Of the wall only its far side, which is named after the faces it came from, and what rounds its corners.
        let first = made.moved;
        let far = |t: usize| {
            let face = made.mesh.face_of()[t].0;
            (first..first + made.moved).contains(&face)
        };
        let mut sheet = made.mesh.retain_triangles(far);
        if by < 0.0 {
            sheet.reverse_triangles(|_| true);
        }
        if sheet.triangles().is_empty() {
            return Err(TradeError::refused("nothing of the faces is left at that distance", vec![]));
        }
        let done =
            format!("a sheet {} {} the faces", millimetres(by.abs()), if by > 0.0 { "outside" } else { "inside" });
        let mut outcome = Outcome::of(mesh.clone(), done);
        outcome.done.extend(cleaned(made.cleaned));
        if made.cleaned {
            outcome.notices = lost_faces(&source, &made.mesh, first, by, progress)?.0;
        }
        outcome.more = vec![Made::of(sheet, "Offset sheet")];
        Ok(outcome)
    }
}
