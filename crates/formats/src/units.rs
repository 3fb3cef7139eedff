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

    pub(crate) fn name_in_3mf(self) -> &'static str {
        match self {
            Self::Millimetre => "millimeter",
            Self::Centimetre => "centimeter",
            Self::Metre => "meter",
            Self::Inch => "inch",
        }
    }
}

/// Guesses the unit from the size of a model whose file does not tell: the unit, and the reason for doubt if there is one.
/// Things that are printed or cast are mostly between 2 mm and 2 m across; numbers too small for that are metres where these
/// are below a half, since hardly anything is that small in millimetres, and a doubt is told up to 2 mm.
pub fn guess_unit(bounds: &Aabb) -> (LengthUnit, Option<String>) {
    const SMALLEST: f64 = 2.0;
    const LARGEST: f64 = 2000.0;
    const METRES: f64 = 0.5;
    let across = bounds.size().max_element();
    if across > LARGEST {
        let doubt = format!("{across:.0} mm across is large for a printed or cast part; is the unit right?");
        return (LengthUnit::Millimetre, Some(doubt));
    }
    if across >= SMALLEST {
        return (LengthUnit::Millimetre, None);
    }
    let unit = if (0.01..METRES).contains(&across) { LengthUnit::Metre } else { LengthUnit::Millimetre };
    let doubt = format!(
        "the numbers in the file are small ({across:.4} across), so {} were assumed; check the size",
        match unit {
            LengthUnit::Metre => "metres",
            _ => "millimetres",
        }
    );
    (unit, Some(doubt))
}
