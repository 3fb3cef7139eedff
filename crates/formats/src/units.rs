//! Length units of files.

use nimbet_kernel::Aabb;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The unit a file's numbers are in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum LengthUnit {
    /// Millimetre.
    Millimetre,
    /// Centimetre.
    Centimetre,
    /// Metre.
    Metre,
    /// Inch (25.4 mm).
    Inch,
}

impl LengthUnit {
    /// All units, the commonest first.
    pub const ALL: [Self; 4] = [Self::Millimetre, Self::Centimetre, Self::Metre, Self::Inch];

    /// Millimetres in one of this unit.
    pub fn millimetres(self) -> f64 {
        match self {
            Self::Millimetre => 1.0,
            Self::Centimetre => 10.0,
            Self::Metre => 1000.0,
            Self::Inch => 25.4,
        }
    }

    /// The short sign, as in ISO 80000-3 (and "in").
    pub fn sign(self) -> &'static str {
        match self {
            Self::Millimetre => "mm",
            Self::Centimetre => "cm",
            Self::Metre => "m",
            Self::Inch => "in",
        }
    }

    /// What people call many of it.
    pub fn name(self) -> &'static str {
        match self {
            Self::Millimetre => "millimetres",
            Self::Centimetre => "centimetres",
            Self::Metre => "metres",
            Self::Inch => "inches",
        }
    }

    pub(crate) fn name_in_3mf(self) -> &'static str {
        match self {
            Self::Millimetre => "millimeter",
            Self::Centimetre => "centimeter",
            Self::Metre => "meter",
            Self::Inch => "inch",
        }
    }
}

/// Guesses the one unit of models whose files do not tell, and the reason for doubt if there is one. Things that are printed or
/// cast are between half a millimetre and five metres across: of millimetres and metres the one that makes all of them so. Where
/// both do, as for a single one of 1.9, millimetres are taken, and below 2 mm doubted; other units are chosen, never guessed.
pub fn guess_unit(models: &[Aabb]) -> (LengthUnit, Option<String>) {
    const SMALLEST: f64 = 0.5;
    const LARGEST: f64 = 5000.0;
    /// A part smaller than this in millimetres is as likely to be one of so many metres.
    const DOUBTED: f64 = 2.0;
    let across = || models.iter().map(|b| b.size().max_element()).filter(|a| *a > 0.0);
    let (least, most) = (across().fold(f64::INFINITY, f64::min), across().fold(0.0, f64::max));
    let fits = |unit: LengthUnit| least * unit.millimetres() >= SMALLEST && most * unit.millimetres() <= LARGEST;
    match (fits(LengthUnit::Millimetre), fits(LengthUnit::Metre)) {
        (true, _) if most >= DOUBTED || most == 0.0 => (LengthUnit::Millimetre, None),
        (false, false) if most > LARGEST => {
            let doubt = format!("{most:.0} mm across is large for a printed or cast part; is the unit right?");
            (LengthUnit::Millimetre, Some(doubt))
        }
        (false, true) => (LengthUnit::Metre, Some(small(least, "metres"))),
        _ => (LengthUnit::Millimetre, Some(small(least, "millimetres"))),
    }
}

fn small(across: f64, assumed: &str) -> String {
    format!("the numbers in the file are small ({across:.4} across), so {assumed} were assumed; check the size")
}
