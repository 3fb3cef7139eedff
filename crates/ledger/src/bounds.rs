//! How large, how small and how far away a part may be, and how large a figure: what is beyond would end in numbers that are none.

use nimbet_formats::LengthUnit;
use nimbet_kernel::{Aabb, Mesh, Point};
use nimbet_trade::TradeError;
use nimbet_trade::words::figure;
use serde_json::Value;

/// The greatest extent of a part, mm: ten kilometres.
pub const LARGEST: f64 = 1e7;
/// The least, mm.
pub const SMALLEST: f64 = 1e-4;
/// The farthest a part may lie from the origin, mm. Beyond it double precision is coarser than what is cast.
pub const FARTHEST: f64 = 1e9;
/// The greatest figure a step may name, and the least that is not nought.
const FIGURES: [f64; 2] = [1e9, 1e-15];

/// Why a part cannot be worked on for its size or place.
pub(crate) fn fault(mesh: &Mesh) -> Option<String> {
    if mesh.triangles().is_empty() {
        return None;
    }
    let bounds = Aabb::of(mesh.points().iter().copied());
    let across = bounds.size().max_element();
    let far = bounds.min.abs().max(bounds.max.abs()).max_element();
    if across > LARGEST {
        Some(format!("it would be {} across; the most that can be worked on is 10 km", length(across)))
    } else if across < SMALLEST {
        Some(format!("it would be {} across; the least that can be worked on is {SMALLEST} mm", length(across)))
    } else if far > FARTHEST {
        Some(format!("it would lie {} from the origin; the farthest is 1000 km", length(far)))
    } else {
        None
    }
}

/// The same of a file in a unit, with the units it would be of a likely size in.
pub(crate) fn fault_of_file(mesh: &Mesh, unit: LengthUnit) -> Option<String> {
    let why = fault(mesh)?;
    let across = Aabb::of(mesh.points().iter().copied()).size().max_element() / unit.millimetres();
    let likely = |unit: &LengthUnit| (0.5..=5000.0).contains(&(across * unit.millimetres()));
    let advice = match LengthUnit::ALL.iter().find(|u| **u != unit && likely(u)) {
        Some(other) => format!("in {} it would be {}", other.sign(), length(across * other.millimetres())),
        None => "it is of no likely size in any unit".to_owned(),
    };
    Some(format!("with its numbers in {} {why}; {advice}", unit.sign()))
}

/// A length of any size, mm.
fn length(x: f64) -> String {
    if (1e-6..1e12).contains(&x) || x == 0.0 { format!("{} mm", figure(x)) } else { format!("{x:.1e} mm") }
}

/// Refuses a part that a step would make too large, too small or too far away.
pub(crate) fn refuse_beyond(mesh: &Mesh) -> Result<(), TradeError> {
    match fault(mesh) {
        Some(why) => Err(TradeError::Refused { why, places: vec![Point::ZERO] }),
        None => Ok(()),
    }
}

/// Refuses figures of a step that are beyond any use, by the name they have there.
pub(crate) fn refuse_figures(step: &Value, path: &str) -> Result<(), TradeError> {
    match step {
        Value::Number(n) => {
            let [most, least] = FIGURES;
            let size = n.as_f64().map_or(f64::INFINITY, f64::abs);
            if n.is_f64() && !(size == 0.0 || (least..=most).contains(&size)) {
                let why = format!("{path} is {n}; figures here are at most {most:e}, and at least {least:e} or nought");
                return Err(TradeError::Refused { why, places: vec![] });
            }
            Ok(())
        }
        Value::Array(all) => all.iter().enumerate().try_for_each(|(n, v)| refuse_figures(v, &format!("{path}[{n}]"))),
        Value::Object(all) => all.iter().try_for_each(|(name, v)| {
            let path = if path.is_empty() { name.clone() } else { format!("{path}.{name}") };
            refuse_figures(v, &path)
        }),
        _ => Ok(()),
    }
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)] // a failed test says so by panicking

    use nimbet_kernel::shapes::block;
    use serde_json::json;

    use super::*;

    #[test]
    fn a_part_beyond_bounds_is_told_with_the_unit_that_would_do() {
        let cube = |at: f64, size: f64| block(Point::splat(at), Point::splat(size));
        assert_eq!(fault(&cube(0.0, 20.0)), None);
        assert_eq!(fault(&Mesh::default()), None);
        assert!(fault(&cube(0.0, 2e7)).unwrap().contains("the most that can be worked on is 10 km"));
        assert!(fault(&cube(0.0, 1e-5)).unwrap().contains("the least"));
        assert!(fault(&cube(2e9, 5.0)).unwrap().contains("from the origin"));
        assert!(fault(&cube(0.0, 1e300)).unwrap().contains("1.0e300 mm"));
        let told = fault_of_file(&cube(0.0, 1.2e8), LengthUnit::Metre).unwrap();
        assert!(told.contains("no likely size"), "{told}");
        let told = fault_of_file(&cube(0.0, 2e7), LengthUnit::Metre).unwrap();
        assert!(told.contains("with its numbers in m") && told.contains("no likely size"), "{told}");
        let told = fault_of_file(&cube(0.0, 1.1e7).map_points(|p| p).unwrap(), LengthUnit::Inch).unwrap();
        assert!(told.contains("in in"), "{told}");
    }

    #[test]
    fn figures_beyond_use_are_refused_by_name() {
        let told = |step| refuse_figures(&step, "").map_err(|e| e.to_string());
        assert_eq!(told(json!({ "kind": "shape.place", "by": [0.0, 1.5, -3.0], "with": [4_000_000_000u32] })), Ok(()));
        assert!(told(json!({ "by": [0.0, 1e308, 0.0] })).unwrap_err().starts_with("by[1] is 1e+308"));
        assert!(told(json!({ "a": { "chord": 1e-300 } })).unwrap_err().starts_with("a.chord is 1e-300"));
    }
}
