//! `wall.coat`: an outer layer as a body of its own.

use nimbet_kernel::measure::measure;
use nimbet_kernel::offset::{grow, wall};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::grow::refuse_open;
use super::making::{CornerStyle, RimStyle, cleaned, faces, how, told};
use crate::budget::{Effort, Extent};
use crate::examine::FacePick;
use crate::parameter::Length;
use crate::picks::picked_faces;
use crate::solids::{arranged, body, volume};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::{figure, millimetres};
use crate::{Made, Outcome, TradeError};

/// Parameters of `wall.coat`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Coat {
    /// The thickness of the coat, mm.
    #[schemars(title = "Thickness of the coat", with = "Length")]
    pub thickness: f64,
    /// The faces that stay bare.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(extend("hint" = "Click faces that stay bare."))]
    pub bare: Vec<FacePick>,
    /// Corners that stand out.
    #[serde(default)]
    pub corners: CornerStyle,
    /// How far arcs may be off a true circle, mm; by the size of the part when absent, and no more than a tenth of the coat.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Chord tolerance", with = "Option<Length>", extend("empty" = "by the part's size", "folded" = true))]
    pub chord: Option<f64>,
}

impl Tool for Coat {
    const KIND: &'static str = "wall.coat";
    const WHAT: &'static str = "Put a layer round a solid, as a part of its own.";
    const EFFORT: Effort = Effort::Moving;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "coat",
        name: "Coat",
        hint: "An outer layer as a part of its own; picked faces stay bare",
        group: "Of a solid",
        words: &["plating", "layer", "skin", "glaze", "offset"],
        needs: Needs::Sealed,
        mark: "",
        start: |_| json!({ "thickness": 0.1, "corners": "sharp" }),
    }];

    fn title(&self) -> String {
        format!("Coat of {}", millimetres(self.thickness))
    }

    fn makes(&self, parts: &[Extent]) -> f64 {
        3.0 * parts.iter().map(|p| p.triangles).sum::<f64>()
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let thickness = self.thickness;
        refuse_open(mesh)?;
        let mut how = how(mesh, &[thickness], self.corners, RimStyle::Square, self.chord)?;
        how.chord = how.chord.min(thickness * 0.1);
        let (coat, bare, any, area) = if self.bare.is_empty() {
            let outer = grow(mesh, &|_| thickness, &how, &progress.stage(0.0, 0.5)).map_err(told)?;
            let all = arranged(&[&outer.mesh, mesh], false, &|_| "the part".into(), &progress.stage(0.5, 0.9))?;
            let made = body(&all, |w| w[0] > 0 && w[1] <= 0, &progress.stage(0.9, 1.0))?;
            (made, 0, outer.cleaned, measure(mesh).area)
        } else {
            let bare = picked_faces(mesh, &self.bare)?;
            let sheet = mesh.retain_triangles(|t| bare.binary_search(&mesh.face_of()[t]).is_err());
            if sheet.triangles().is_empty() {
                return Err(TradeError::refused("all faces are bare: there is nothing to coat", vec![]));
            }
            let made = wall(&sheet, (0.0, thickness), Some(mesh), &how, progress).map_err(told)?;
            (made.mesh, bare.len(), made.cleaned, measure(&sheet).area)
        };
        let mut outcome = Outcome::of(mesh.clone(), String::new());
        let with = if bare > 0 { format!(", {} bare", faces(bare)) } else { String::new() };
        outcome.done = vec![format!(
            "a coat of {} as a part of its own: {} on {} mm²{with}; the core is as it was",
            millimetres(thickness),
            volume(&coat),
            figure(area)
        )];
        outcome.done.extend(cleaned(any && bare == 0));
        outcome.more = vec![Made::of(coat, "Coat")];
        Ok(outcome)
    }
}
