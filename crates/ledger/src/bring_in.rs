//! Bringing a file in: read, brought to millimetres, grouped into faces.

use std::io::Read;

use nimbet_formats::{FileFormat, LengthUnit, Limits, ReadError, guess_unit, read_model};
use nimbet_kernel::surfaces::{self, Grouping};
use nimbet_kernel::{Aabb, Mesh, Point, Progress};

use crate::action::UnitChoice;
use crate::bounds::fault_of_file;

/// A file as a part.
#[derive(Clone, Debug)]
pub struct BroughtIn {
    /// The part's mesh, mm.
    pub mesh: Mesh,
    /// What the file was.
    pub format: FileFormat,
    /// The unit its numbers were taken for.
    pub unit: LengthUnit,
    /// What is worth knowing about how it was read.
    pub notes: Vec<String>,
}

/// Reads a file of `length` bytes as a part.
///
/// # Errors
/// [`ReadError`] with the byte or line.
pub fn bring_in(
    reader: impl Read,
    length: u64,
    file_name: &str,
    unit: UnitChoice,
    limits: &Limits,
    progress: &Progress,
) -> Result<BroughtIn, ReadError> {
    let read = read_model(reader, length, file_name, limits, progress)?;
    let mut notes = read.notes;
    let chosen = unit;
    let unit = match (chosen.unit(), read.unit) {
        (Some(chosen), told) => {
            if let Some(told) = told.filter(|t| *t != chosen) {
                notes.push(format!("the file says its unit is {}; it was read as {}", told.sign(), chosen.sign()));
            }
            chosen
        }
        (None, Some(told)) => told,
        (None, None) => {
            let bounds = Aabb::of(read.mesh.points().iter().copied());
            let (guess, doubt) = guess_unit(&[bounds]);
            if doubt.is_some() && chosen == UnitChoice::Ask {
                return Err(ReadError::UnitInDoubt { across: bounds.size().max_element() });
            }
            notes.extend(doubt);
            guess
        }
    };
    progress.report(0.9, "grouping triangles into faces")?;
    let mesh = match unit {
        LengthUnit::Millimetre => read.mesh,
        // What leaves the finite numbers is beyond all bounds.
        _ => {
            read.mesh.map_points(|p| (p * unit.millimetres()).clamp(Point::splat(-f64::MAX), Point::splat(f64::MAX)))?
        }
    };
    if let Some(why) = fault_of_file(&mesh, unit) {
        return Err(ReadError::OutOfBounds(why));
    }
    let tolerance = surfaces::default_tolerance(&Aabb::of(mesh.points().iter().copied()));
    let how = Grouping { angle: surfaces::DEFAULT_ANGLE, tolerance };
    Ok(BroughtIn { mesh: surfaces::group_faces(mesh, how, progress)?, format: read.format, unit, notes })
}
