//! What goes with a screw: clearance bores (ISO 273), room for heads, pockets for inserts, lead-ins, and allowances by process.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// How much room a clearance bore leaves.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Clearance {
    /// The fine series.
    Fine,
    /// The medium series.
    #[default]
    Medium,
    /// The coarse series.
    Coarse,
}

/// What goes with a metric screw. Diameters and depths in mm.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, JsonSchema)]
pub struct Fitting {
    /// The screw: 4 for M4.
    pub screw: f64,
    /// Clearance bores: fine, medium, coarse (ISO 273).
    pub clearance: [f64; 3],
    /// The countersink of a flat head of 90 degrees (ISO 10642: 2.24 diameters).
    pub countersink: f64,
    /// The counterbore of a head with a socket (ISO 4762), a tenth wider than the head.
    pub counterbore: f64,
    /// How deep it is: as high as the head.
    pub counterbore_depth: f64,
    /// The spot face for a washer (ISO 7089), a tenth wider.
    pub spot_face: f64,
}

const fn row(screw: f64, clearance: [f64; 3], head: f64, washer: f64) -> Fitting {
    Fitting {
        screw,
        clearance,
        countersink: screw * 2.24,
        counterbore: head * 1.1,
        counterbore_depth: screw,
        spot_face: washer * 1.1,
    }
}

/// Metric screws with what goes with them.
pub const FITTINGS: &[Fitting] = &[
    row(1.6, [1.7, 1.8, 2.0], 3.0, 4.0),
    row(2.0, [2.2, 2.4, 2.6], 3.8, 5.0),
    row(2.5, [2.7, 2.9, 3.1], 4.5, 6.0),
    row(3.0, [3.2, 3.4, 3.6], 5.5, 7.0),
    row(4.0, [4.3, 4.5, 4.8], 7.0, 9.0),
    row(5.0, [5.3, 5.5, 5.8], 8.5, 10.0),
    row(6.0, [6.4, 6.6, 7.0], 10.0, 12.0),
    row(8.0, [8.4, 9.0, 10.0], 13.0, 16.0),
    row(10.0, [10.5, 11.0, 12.0], 16.0, 20.0),
    row(12.0, [13.0, 13.5, 14.5], 18.0, 24.0),
    row(14.0, [15.0, 15.5, 16.5], 21.0, 28.0),
    row(16.0, [17.0, 17.5, 18.5], 24.0, 30.0),
    row(20.0, [21.0, 22.0, 24.0], 30.0, 37.0),
    row(24.0, [25.0, 26.0, 28.0], 36.0, 44.0),
    row(30.0, [31.0, 33.0, 35.0], 45.0, 56.0),
    row(36.0, [37.0, 39.0, 42.0], 54.0, 66.0),
];

/// What goes with a screw: `M4`.
pub fn fitting(screw: &str) -> Option<&'static Fitting> {
    let diameter: f64 = screw.trim().trim_start_matches(['M', 'm']).parse().ok()?;
    FITTINGS.iter().find(|f| f.screw == diameter)
}

/// A pocket for a threaded insert that is pressed or melted in. Starting values: the maker's own go before them. mm.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, JsonSchema)]
pub struct Pocket {
    /// The screw it is for: 4 for M4.
    pub screw: f64,
    /// The pocket's diameter.
    pub diameter: f64,
    /// Its depth.
    pub depth: f64,
    /// The diameter of its mouth.
    pub mouth: f64,
}

const fn pocket(screw: f64, diameter: f64, depth: f64, mouth: f64) -> Pocket {
    Pocket { screw, diameter, depth, mouth }
}

/// Pockets for inserts.
pub const POCKETS: &[Pocket] = &[
    pocket(2.0, 3.2, 5.0, 3.8),
    pocket(2.5, 4.0, 6.5, 4.6),
    pocket(3.0, 4.2, 6.5, 5.0),
    pocket(4.0, 5.6, 9.0, 6.6),
    pocket(5.0, 6.6, 10.5, 7.6),
    pocket(6.0, 8.2, 13.5, 9.4),
    pocket(8.0, 10.0, 14.0, 11.4),
    pocket(10.0, 12.4, 16.0, 14.0),
];

/// How far a lead-in is wider than the thread at its mouth, on the diameter: up to which major diameter, and by how much, mm.
const LEAD_INS: &[(f64, f64)] = &[(3.0, 0.2), (6.0, 0.4), (12.0, 0.6), (24.0, 1.0), (f64::INFINITY, 1.6)];

/// How far the mouth of a lead-in is wider than the thread, on the diameter, mm.
pub fn lead_in(major: f64) -> f64 {
    LEAD_INS.iter().find(|(most, _)| major <= *most).map_or(1.6, |l| l.1)
}

/// How loosely a thread turns in its counterpart.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Fit {
    /// By hand, with a feel of resistance.
    Snug,
    /// Freely.
    Running,
    /// With play one can feel.
    Loose,
}

/// What a process needs to be given so that what is asked for comes out. mm.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, JsonSchema)]
pub struct Allowances {
    /// The process: `resin-print`.
    pub process: &'static str,
    /// Added to the diameter of a bore, which comes out narrower.
    pub bore: f64,
    /// Radial allowance of a thread: snug, running, loose.
    pub radial: [f64; 3],
    /// Axial allowance of a thread: snug, running, loose.
    pub axial: [f64; 3],
}

const fn allow(process: &'static str, bore: f64, radial: [f64; 3], axial: [f64; 3]) -> Allowances {
    Allowances { process, bore, radial, axial }
}

/// Starting values, rules of thumb of the trade; a house's own test piece goes before them.
pub const ALLOWANCES: &[Allowances] = &[
    allow("resin-print", 0.05, [0.05, 0.1, 0.15], [0.03, 0.05, 0.1]),
    allow("filament-print", 0.2, [0.1, 0.2, 0.3], [0.05, 0.1, 0.2]),
    allow("powder-print", 0.15, [0.1, 0.15, 0.25], [0.05, 0.1, 0.15]),
    allow("investment-bronze", 0.1, [0.1, 0.15, 0.25], [0.05, 0.1, 0.15]),
    allow("investment-silver", 0.05, [0.05, 0.1, 0.15], [0.03, 0.05, 0.1]),
    allow("investment-gold", 0.05, [0.05, 0.1, 0.15], [0.03, 0.05, 0.1]),
    allow("sand-bronze", 0.3, [0.3, 0.5, 0.8], [0.2, 0.3, 0.4]),
    allow("sand-aluminium", 0.3, [0.3, 0.5, 0.8], [0.2, 0.3, 0.4]),
];
