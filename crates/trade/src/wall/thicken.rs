//! `wall.thicken`: a sheet becomes a wall.

use nimbet_kernel::offset::wall;
use nimbet_kernel::thickness::Side;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::faces::{chosen, only};
use super::making::{CornerStyle, RimStyle, cleaned, closing, how, lost_faces, told};
use crate::budget::{Effort, Extent};
use crate::examine::{About, FacePick, sheet_wall};
use crate::parameter::{Length, LengthOrNone};
use crate::solids::volume;
use crate::tool::{Cure, Entry, Given, Needs, Tool};
use crate::words::millimetres;
use crate::{Made, Outcome, TradeError};

/// Parameters of `wall.thicken`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Thicken {
    /// How much is added on the outside, mm.
    #[serde(default)]
    #[schemars(title = "Outside", with = "LengthOrNone")]
    pub outward: f64,
    /// How much is added on the inside, mm.
    #[serde(default)]
    #[schemars(title = "Inside", with = "LengthOrNone")]
    pub inward: f64,
    /// The faces that get a wall; all when empty.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(extend("hint" = "All faces; click some to take only those."))]
    pub faces: Vec<FacePick>,
    /// Whether faces that go on tangent from the picked ones get one, too.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "With all faces that go on tangent", extend("when" = { "/faces/0": true }))]
    pub run: bool,
    /// How the wall closes at rims.
    #[serde(default)]
    #[schemars(title = "Rims go")]
    pub rims: RimStyle,
    /// Corners that stand out.
    #[serde(default)]
    pub corners: CornerStyle,
    /// How far arcs may be off a true circle, mm; by the size of the part when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Chord tolerance", with = "Option<Length>", extend("empty" = "by the part's size", "folded" = true))]
    pub chord: Option<f64>,
    /// Whether the sheet stays as a part of its own.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Keep the sheet beside it")]
    pub keep: bool,
}

impl Tool for Thicken {
    const KIND: &'static str = "wall.thicken";
    const WHAT: &'static str = "Give a sheet a thickness.";
    const EFFORT: Effort = Effort::Moving;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "thicken",
        name: "Thicken",
        hint: "A sheet becomes a wall, to the outside, the inside or both",
        group: "Of a sheet",
        words: &["offset", "shell", "thickness", "surface to solid"],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "outward": b.wall(), "inward": 0, "rims": "square", "corners": "sharp" }),
    }];

    fn title(&self) -> String {
        format!("Thicken by {}", millimetres(self.outward + self.inward))
    }

    fn makes(&self, parts: &[Extent]) -> f64 {
        2.0 * parts.iter().map(|p| p.triangles).sum::<f64>()
    }

    fn remedies(about: &About) -> Vec<Cure> {
        let About::Sheet { diagonal, .. } = about else { return vec![] };
        let inward = sheet_wall(*diagonal);
        vec![Cure::new(1, format!("Thicken by {}", millimetres(inward)), Self { inward, ..Self::default() })]
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let (out, inward) = (self.outward, self.inward);
        if out + inward <= 0.0 {
            let why = "the wall needs a thickness above 0 mm, to the outside, the inside or both";
            return Err(TradeError::refused(why, vec![]));
        }
        let sheet =
            if self.faces.is_empty() { mesh.clone() } else { only(mesh, &chosen(mesh, &self.faces, self.run)?) };
        let how = how(mesh, &[out, -inward], self.corners, self.rims, self.chord)?;
        let made = wall(&sheet, (-inward, out), None, &how, &progress.stage(0.0, 0.8)).map_err(told)?;
        let mut outcome = Outcome::of(made.mesh, String::new());
        outcome.done = vec![format!("a wall of {}: {}", millimetres(out + inward), volume(&outcome.mesh))];
        outcome.done.extend(cleaned(made.cleaned));
        let back = if out == 0.0 { made.moved } else { 0 };
        for (by, moved, side) in [(out, made.moved, Side::Outside), (-inward, back, Side::Inside)] {
            if by == 0.0 || !made.cleaned {
                continue;
            }
            let (notices, tight) = lost_faces(&sheet, &outcome.mesh, moved, by, progress)?;
            outcome.notices.extend(notices);
            outcome.tight.extend(tight.into_iter().filter(|_| self.faces.is_empty()));
            outcome.notices.extend(closing(&sheet, side, by.abs(), &progress.stage(0.8, 1.0))?);
        }
        if self.keep {
            outcome.more = vec![Made::of(mesh.clone(), "Sheet")];
        }
        Ok(outcome)
    }
}
