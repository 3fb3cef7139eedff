//! What ways of making ask of a wall. Starting values, rules of thumb of the trade; docs/processes.md says where each comes from
//! and that a house's own figures go before them.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::TradeError;

/// What a way of making can make. Lengths in mm.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, JsonSchema)]
pub struct Process {
    /// A short name that stays the same: `resin-print`.
    pub key: &'static str,
    /// What people call it.
    pub name: &'static str,
    /// The least wall.
    pub wall: f64,
    /// The least diameter of a pin.
    pub pin: f64,
    /// The least width of a slot.
    pub slot: f64,
    /// The least radius of an inner corner.
    pub corner: f64,
    /// The least diameter of a drain; nought where a void needs none.
    pub drain: f64,
    /// How it is made, as far as corners care.
    pub by: By,
}

/// What a way of making does to corners.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum By {
    /// In a mould: sharp inner corners crumble in it, metal does not run into feather edges.
    Casting,
    /// By a bead laid in layers: it swells at outer corners that stand upright.
    Bead,
    /// In layers, by light or heat.
    Layers,
}

const fn of(key: &'static str, name: &'static str, by: By, figures: [f64; 5]) -> Process {
    let [wall, pin, slot, corner, drain] = figures;
    Process { key, name, wall, pin, slot, corner, drain, by }
}

/// All that are known.
pub const PROCESSES: &[Process] = &[
    of("resin-print", "Resin print", By::Layers, [0.5, 0.6, 0.3, 0.1, 3.0]),
    of("filament-print", "Filament print", By::Bead, [0.8, 1.5, 0.5, 0.2, 0.0]),
    of("powder-print", "Powder print", By::Layers, [0.7, 0.8, 0.5, 0.2, 4.0]),
    of("investment-bronze", "Investment casting, bronze", By::Casting, [1.5, 1.5, 1.5, 0.5, 6.0]),
    of("investment-silver", "Investment casting, silver", By::Casting, [0.8, 0.8, 0.5, 0.2, 3.0]),
    of("investment-gold", "Investment casting, gold", By::Casting, [0.6, 0.7, 0.4, 0.2, 3.0]),
    of("sand-bronze", "Sand casting, bronze", By::Casting, [4.0, 6.0, 6.0, 3.0, 12.0]),
    of("sand-aluminium", "Sand casting, aluminium", By::Casting, [3.5, 5.0, 5.0, 3.0, 12.0]),
];

/// The process with a key.
pub fn process(key: &str) -> Option<&'static Process> {
    PROCESSES.iter().find(|p| p.key == key)
}

/// How a job is made: a process, and what of its figures a house has set otherwise. Lengths in mm.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Making {
    /// The key of the process.
    pub process: String,
    /// The least wall; that of the process when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wall: Option<f64>,
    /// The least diameter of a pin.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pin: Option<f64>,
    /// The least width of a slot.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub slot: Option<f64>,
    /// The least radius of an inner corner; nought where none is needed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub corner: Option<f64>,
    /// The least diameter of a drain; nought where a void needs none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub drain: Option<f64>,
}

impl Default for Making {
    fn default() -> Self {
        Self { process: "investment-bronze".into(), wall: None, pin: None, slot: None, corner: None, drain: None }
    }
}

impl Making {
    /// The process with the figures that hold.
    ///
    /// # Errors
    /// [`TradeError::Refused`] where there is no such process, or a figure is no length.
    pub fn figures(&self) -> Result<Process, TradeError> {
        let known = process(&self.process);
        let mut figures = *known.ok_or_else(|| {
            let keys: Vec<&str> = PROCESSES.iter().map(|p| p.key).collect();
            TradeError::refused(
                format!("there is no process “{}”; there are {}", self.process, keys.join(", ")),
                vec![],
            )
        })?;
        let own = [
            ("wall", self.wall, &mut figures.wall, false),
            ("pin", self.pin, &mut figures.pin, false),
            ("slot", self.slot, &mut figures.slot, false),
            ("inner corner", self.corner, &mut figures.corner, true),
            ("drain", self.drain, &mut figures.drain, true),
        ];
        for (what, own, held, may_be_nought) in own {
            let Some(own) = own else { continue };
            if !own.is_finite() || own < 0.0 || (own == 0.0 && !may_be_nought) {
                return Err(TradeError::refused(format!("the least {what} must be a length above 0 mm"), vec![]));
            }
            *held = own;
        }
        Ok(figures)
    }
}
