//! `weigh.scale_pattern`: the pattern is made larger by what the metal shrinks by.

use nimbet_kernel::{Aabb, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::budget::Effort;
use crate::parameter::Shrinkage;
use crate::tool::{Effect, Entry, Given, Needs, Tool};
use crate::words::{Xyz, figure};
use crate::{Outcome, TradeError};

/// Parameters of `weigh.scale_pattern`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ScalePattern {
    /// By how much what is cast is smaller than its pattern along x, y and z, percent.
    #[schemars(title = "Shrinkage along", with = "Shrinkage")]
    pub shrinkage: Xyz,
}

impl Tool for ScalePattern {
    const KIND: &'static str = "weigh.scale_pattern";
    const WHAT: &'static str = "Make a pattern larger by what the metal shrinks by.";
    const EFFORT: Effort = Effort::Passing;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "scale_pattern",
        name: "Pattern scale",
        hint: "The pattern is made larger by what its metal shrinks by, once",
        group: "For casting",
        words: &["shrinkage", "casting allowance", "contraction", "scale"],
        needs: Needs::Anything,
        mark: "",
        start: |b| {
            let by = if b.shrinkage > 0.0 { b.shrinkage } else { 1.5 };
            json!({ "shrinkage": [by, by, by] })
        },
    }];

    fn title(&self) -> String {
        let [x, y, z] = self.shrinkage;
        let even = x == y && y == z;
        let by = if even { figure(x) } else { self.shrinkage.map(figure).join(", ") };
        format!("Pattern for {by} % shrinkage")
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        progress.check()?;
        if self.shrinkage == [0.0; 3] {
            return Err(TradeError::nothing("without shrinkage the pattern is as large as the casting"));
        }
        let factors = Point::from_array(self.factors());
        let cast = Aabb::of(mesh.points().iter().copied()).size();
        let made = mesh.clone().map_points(|p| p * factors)?;
        let shown = |size: Point| size.to_array().map(figure).join(" × ");
        let mut outcome =
            Outcome::of(made, format!("cast size {} mm, pattern size {} mm", shown(cast), shown(cast * factors)));
        outcome.largest_move = mesh.points().iter().map(|p| (*p * factors - *p).length()).fold(0.0, f64::max);
        Ok(outcome)
    }

    fn effect(&self) -> Effect {
        Effect::MovesAll
    }
}

impl ScalePattern {
    /// What lengths are multiplied by.
    pub fn factors(&self) -> Xyz {
        self.shrinkage.map(|s| 1.0 / (1.0 - s / 100.0))
    }
}
