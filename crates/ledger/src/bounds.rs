//! How large, how small and how far away a part may be: what is beyond would end in numbers that are none.

use nimbet_formats::LengthUnit;
use nimbet_kernel::{Aabb, Mesh, Point};
use nimbet_trade::TradeError;
use nimbet_trade::words::figure;

/// The greatest extent of a part, mm: ten kilometres.
pub const LARGEST: f64 = 1e7;
/// The least, mm.
pub const SMALLEST: f64 = 1e-4;
/// The farthest a part may lie from the origin, mm. Beyond it double precision is coarser than what is cast.
pub const FARTHEST: f64 = 1e9;
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

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)] // a failed test says so by panicking

    use nimbet_kernel::shapes::block;

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
}
