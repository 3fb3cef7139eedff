//! How a job is set up: what is not done to parts, but says how they are made, weighed and looked at.

use nimbet_trade::wall::Making;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The settings of a job. Stored as JSON; grows only by fields with defaults.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(default, deny_unknown_fields)]
pub struct Setup {
    /// The farthest round faces of new bodies may be from true, mm.
    pub chord: f64,
    /// How the parts are made, and what that asks of them.
    pub making: Making,
}

impl Default for Setup {
    fn default() -> Self {
        Self { chord: 0.02, making: Making::default() }
    }
}

impl Setup {
    /// What is wrong with it, in plain words.
    ///
    /// # Errors
    /// The first thing that cannot be so.
    pub fn check(&self) -> Result<(), String> {
        if !(self.chord > 0.0 && self.chord.is_finite()) {
            return Err("the chord tolerance must be a length above 0 mm".into());
        }
        self.making.figures().map_err(|e| e.to_string())?;
        Ok(())
    }
}
