//! What a step may cost: told before it begins, refused where it would be too much, with what would fit.

use crate::TradeError;
use crate::words::millimetres;

/// The most triangles a step may make. A browser draws no more, and an arrangement of more does not fit into a task's memory.
pub const MOST_TRIANGLES: f64 = 8e6;

/// Refuses a chord so fine, or a distance so large, that arcs would take too many triangles; `expected` tells how many a chord
/// takes.
pub(crate) fn refuse_fine_chord(chord: f64, expected: &dyn Fn(f64) -> f64) -> Result<(), TradeError> {
    let made = expected(chord);
    if made <= MOST_TRIANGLES {
        return Ok(());
    }
    Err(TradeError::refused(format!("{}; {}", too_many(made), what_fits(chord, expected)), vec![]))
}

/// Refuses so many of something that they would be too many triangles together.
pub(crate) fn refuse_many(made: f64) -> Result<(), TradeError> {
    if made <= MOST_TRIANGLES { Ok(()) } else { Err(TradeError::refused(too_many(made), vec![])) }
}

/// The segments of a circle whose chords stay within a tolerance of it.
pub(crate) fn around(radius: f64, chord: f64) -> f64 {
    /// Finer than this the cosine is one.
    const FINEST: f64 = 1e-7;
    if radius <= 0.0 {
        return 0.0;
    }
    std::f64::consts::PI / (1.0 - (chord / radius).min(1.0)).acos().max(FINEST)
}

fn too_many(made: f64) -> String {
    format!("this would make about {} triangles; the limit is {}", about(made), about(MOST_TRIANGLES))
}

/// The finest plain length that leaves room for what else there is.
fn what_fits(from: f64, expected: &dyn Fn(f64) -> f64) -> String {
    /// A quarter of the limit: the rest of the part wants room as well.
    const ROOM: f64 = MOST_TRIANGLES / 4.0;
    let begin = from.max(1e-15).log10().floor() as i32;
    let plain = (begin..begin + 24).flat_map(|e| [1.0, 2.0, 5.0].map(|d| d * 10f64.powi(e)));
    match plain.filter(|length| *length > from).find(|length| expected(*length) <= ROOM) {
        Some(fits) => format!("a chord of {} makes {}", millimetres(fits), about(expected(fits))),
        None => "no chord would be coarse enough; smaller lengths or fewer of them would do".to_owned(),
    }
}

/// A large number in two digits: `12 million`, `340 thousand`.
fn about(n: f64) -> String {
    let scaled = |by: f64, word: &str| {
        let x = n / by;
        let digits = if x < 10.0 { format!("{x:.1}") } else { format!("{x:.0}") };
        format!("{} {word}", digits.trim_end_matches(".0"))
    };
    match n {
        n if n < 1e3 => format!("{n:.0}"),
        n if n < 1e6 => scaled(1e3, "thousand"),
        n if n < 1e9 => scaled(1e6, "million"),
        n if n < 1e12 => scaled(1e9, "thousand million"),
        _ => "more than a million million".into(),
    }
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)] // a failed test says so by panicking

    use super::*;

    #[test]
    fn what_is_too_much_is_told_with_what_would_fit() {
        let by_square = |chord: f64| 8000.0 / chord;
        assert_eq!(refuse_fine_chord(0.1, &by_square), Ok(()));
        let told = refuse_fine_chord(1e-4, &by_square).unwrap_err().to_string();
        let wanted =
            "this would make about 80 million triangles; the limit is 8 million; a chord of 0.005 mm makes 1.6 million";
        assert_eq!(told, wanted);
        let told = refuse_fine_chord(1e-12, &|_| f64::INFINITY).unwrap_err().to_string();
        assert!(told.contains("more than a million million") && told.contains("no chord"), "{told}");
        assert!(refuse_many(7e6).is_ok() && refuse_many(9e6).is_err() && refuse_many(f64::NAN).is_err());
    }
}
