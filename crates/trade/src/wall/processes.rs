//! What ways of making ask of a wall. Starting values, rules of thumb of the trade; docs/processes.md says where each comes from
//! and that a house's own figures go before them.

use schemars::JsonSchema;
use serde::Serialize;

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
}

const fn of(key: &'static str, name: &'static str, figures: [f64; 5]) -> Process {
    let [wall, pin, slot, corner, drain] = figures;
    Process { key, name, wall, pin, slot, corner, drain }
}

/// All that are known.
pub const PROCESSES: &[Process] = &[
    of("resin-print", "Resin print", [0.5, 0.6, 0.3, 0.1, 3.0]),
    of("filament-print", "Filament print", [0.8, 1.5, 0.5, 0.2, 0.0]),
    of("powder-print", "Powder print", [0.7, 0.8, 0.5, 0.2, 4.0]),
    of("investment-bronze", "Investment casting, bronze", [1.5, 1.5, 1.5, 0.5, 6.0]),
    of("investment-silver", "Investment casting, silver", [0.8, 0.8, 0.5, 0.2, 3.0]),
    of("investment-gold", "Investment casting, gold", [0.6, 0.7, 0.4, 0.2, 3.0]),
    of("sand-bronze", "Sand casting, bronze", [4.0, 6.0, 6.0, 3.0, 12.0]),
    of("sand-aluminium", "Sand casting, aluminium", [3.5, 5.0, 5.0, 3.0, 12.0]),
];

/// The process with a key.
pub fn process(key: &str) -> Option<&'static Process> {
    PROCESSES.iter().find(|p| p.key == key)
}
