//! Bringing a file in: read, brought to millimetres, grouped into faces.

use std::io::Read;

use nimbet_formats::{
    FileFormat, LARGEST_DRAWING, LengthUnit, Limits, ReadError, guess_unit, read_model, read_outlines,
};
use nimbet_kernel::surfaces::{self, Grouping};
use nimbet_kernel::{Aabb, Mesh, Point, Progress};
use nimbet_trade::TradeError;
use nimbet_trade::shape::DrawProfile;
use nimbet_trade::tool::{Given, Tool};

use crate::action::UnitChoice;
use crate::bounds::fault_of_file;
use crate::history::part_name;

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

/// A drawing read as a step that draws it on the empty bench, and what is worth knowing about how it was read.
///
/// # Errors
/// [`ReadError`] with the line.
pub fn draw_in(bytes: &[u8], file_name: &str, unit: UnitChoice) -> Result<(DrawProfile, Vec<String>), ReadError> {
    let read = read_outlines(bytes, unit.unit())?;
    let mut notes = vec![format!("its unit: {}", read.unit)];
    if !read.left_out.is_empty() {
        let left: Vec<String> = read.left_out.iter().map(|(what, n)| format!("{n} {what}")).collect();
        notes.push(format!("left out, as no outlines: {}", left.join(", ")));
    }
    Ok((DrawProfile::on_ground(&part_name(file_name), read.shapes), notes))
}

/// The profile a drawing shows, as a part.
fn drawn_in(
    reader: impl Read,
    (file_name, format): (&str, FileFormat),
    unit: UnitChoice,
    progress: &Progress,
) -> Result<BroughtIn, ReadError> {
    let mut bytes = Vec::new();
    // One more than it may have, so that it is told.
    reader.take(LARGEST_DRAWING as u64 + 1).read_to_end(&mut bytes).map_err(ReadError::from)?;
    let (step, notes) = draw_in(&bytes, file_name, unit)?;
    let nothing = Mesh::default();
    let made = step.apply(&Given::part(&nothing, progress));
    let refused = |e: TradeError| match e {
        TradeError::Cancelled(c) => c.into(),
        e => ReadError::OutOfBounds(e.to_string()),
    };
    let profile = made.map_err(refused)?.more.pop().ok_or(ReadError::Empty)?;
    if let Some(why) = fault_of_file(&profile.mesh, LengthUnit::Millimetre) {
        return Err(ReadError::OutOfBounds(why));
    }
    Ok(BroughtIn { mesh: profile.mesh, format, unit: LengthUnit::Millimetre, notes })
}

/// Reads a file of `length` bytes as a part; of a drawing that is its profile.
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
    if let Some(format) = FileFormat::of_name(file_name).filter(|f| f.is_drawing()) {
        return drawn_in(reader, (file_name, format), unit, progress);
    }
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
