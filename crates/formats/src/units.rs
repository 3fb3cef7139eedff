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

#[cfg(test)]
mod tests {
    use super::*;
    use nimbet_kernel::Point;

    fn guessed(across: &[f64]) -> (LengthUnit, bool) {
        let boxes: Vec<Aabb> = across.iter().map(|a| Aabb::of([Point::ZERO, Point::Y * *a])).collect();
        let (unit, doubt) = guess_unit(&boxes);
        (unit, doubt.is_some())
    }

    #[test]
    fn one_unit_is_guessed_for_a_set_and_doubted_where_two_would_do() {
        use LengthUnit::{Metre, Millimetre};
        assert_eq!(guessed(&[40.0]), (Millimetre, false));
        // Nothing jumps: just under two millimetres is the same unit as just over, only in doubt.
        assert_eq!((guessed(&[2.0]), guessed(&[1.999])), ((Millimetre, false), (Millimetre, true)));
        assert_eq!(guessed(&[0.12]), (Metre, true));
        assert_eq!(guessed(&[90_000.0]), (Millimetre, true));
        assert_eq!(guessed(&[1e-6]), (Millimetre, true));
        // Beside a part of 40 mm one of 1.9 is no metres; beside a flake of 0.05 one of 3 is.
        assert_eq!(guessed(&[40.0, 1.9]), (Millimetre, false));
        assert_eq!(guessed(&[3.0, 0.05]), (Metre, true));
        assert_eq!(guessed(&[]), (Millimetre, false));
    }
}
