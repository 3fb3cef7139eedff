//! STEP files (ISO 10303-21 with the schemas of AP203, AP214 and AP242): what they hold, as bodies and where each of them stands.

mod geometry;
mod known;
mod loose;
mod shapes;
mod swept;
mod tree;
mod write;

use std::io::Read;

use glam::DAffine3;
use nimbet_kernel::Progress;

use crate::body::Body;
use crate::spline::SplineCurve;
use known::AsKnown;
use shapes::Shapes;

pub use loose::{MOST_CURVES, Triangles};

pub use write::{MOST_FACES, StepWriteError, Written, write_step};

/// The most bodies a file may hold, each as often as it stands in it.
pub const MOST_ITEMS: usize = 20_000;

/// What stands somewhere, by its number among those of its kind.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Held {
    /// A body with exact surfaces.
    Body(usize),
    /// Curves without a surface.
    Wire(usize),
    /// Triangles.
    Mesh(usize),
}

/// A body where it stands.
#[derive(Clone, Debug)]
pub struct Item {
    /// What it is called.
    pub name: String,
    /// What it is.
    pub of: Held,
    /// From the body's own coordinates to those of the file.
    pub placement: DAffine3,
    /// Its colour, if all of it has one.
    pub colour: Option<[u8; 3]>,
}

/// What a file holds.
#[derive(Debug)]
pub struct Contents {
    /// Millimetres in one of its units.
    pub to_millimetres: f64,
    /// What its unit is called.
    pub unit: String,
    /// The different bodies.
    pub bodies: Vec<Body>,
    /// Which of them are meant to be solids.
    pub solid: Vec<bool>,
    /// The different sets of curves without a surface.
    pub wires: Vec<Vec<SplineCurve>>,
    /// The different sets of triangles.
    pub meshes: Vec<Triangles>,
    /// What stands where.
    pub items: Vec<Item>,
    /// What was not read, in plain words.
    pub notes: Vec<String>,
}

/// Why a file cannot be read.
#[derive(Debug, thiserror::Error)]
pub enum StepError {
    /// It is not written as the standard says.
    #[error("{0}")]
    Malformed(String),
    /// It holds no shape.
    #[error("it holds no solid, no surface and no curve{0}")]
    Nothing(String),
    /// Too many bodies.
    #[error("it holds more than {MOST_ITEMS} bodies")]
    TooMany,
    /// It could not be read at all.
    #[error(transparent)]
    Io(#[from] std::io::Error),
    /// Somebody asked to stop.
    #[error(transparent)]
    Cancelled(#[from] nimbet_kernel::Cancelled),
}

/// Reads a file.
///
/// # Errors
/// [`StepError`] with the line.
pub fn read_step(input: impl Read, progress: &Progress) -> Result<Contents, StepError> {
    progress.report(0.0, "reading entities")?;
    let (model, report) =
        step_io::read(AsKnown::new(Watched { input, progress })).map_err(|e| unreadable(e, progress))?;
    progress.report(0.5, "reading faces")?;
    let scene = model.scene();
    let units = scene.units();
    let length = units.length.as_ref();
    let to_millimetres = length.map_or(1.0, |u| u.to_si * 1000.0);
    if !(to_millimetres.is_finite() && (1e-6..=1e9).contains(&to_millimetres)) {
        return Err(StepError::Malformed("its unit of length is no length".into()));
    }
    let angle = units.angle.as_ref().map_or(1.0, |u| u.to_si);
    let mut shapes = Shapes::new(angle);
    let items = tree::items(&scene, &mut shapes, progress)?;
    let mut notes = shapes.notes();
    notes.extend(dropped(&report));
    if items.is_empty() {
        let why = if notes.is_empty() { String::new() } else { format!(" ({})", notes.join("; ")) };
        return Err(StepError::Nothing(why));
    }
    let unit = length.map_or_else(|| "none given, read as millimetre".to_owned(), |u| u.name.to_lowercase());
    let Shapes { bodies, solid, loose, .. } = shapes;
    let (wires, meshes) = loose.finish();
    Ok(Contents { to_millimetres, unit, bodies, solid, wires, meshes, items, notes })
}

/// Bytes as they come in, as long as nobody asks to stop.
struct Watched<'p, R> {
    input: R,
    progress: &'p Progress,
}

impl<R: Read> Read for Watched<'_, R> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        self.progress.check().map_err(std::io::Error::other)?;
        self.input.read(into)
    }
}

fn unreadable(e: step_io::Error, progress: &Progress) -> StepError {
    if let Err(cancelled) = progress.check() {
        return cancelled.into();
    }
    StepError::Malformed(e.to_string())
}

/// What of the geometry was not read, by why and how many.
fn dropped(report: &step_io::Report) -> Vec<String> {
    const TOLD: usize = 3;
    // Entities that carry no shape are no loss.
    let shape = |detail: &str| {
        const WORDS: [&str; 12] = [
            "FACE",
            "SURFACE",
            "CURVE",
            "SHELL",
            "BREP",
            "EDGE",
            "VERTEX",
            "POINT",
            "PLANE",
            "CIRCLE",
            "LINE",
            "PLACEMENT",
        ];
        WORDS.iter().any(|w| detail.to_uppercase().contains(w))
    };
    let mut kinds: Vec<(String, u64, usize)> = Vec::new();
    for (id, why) in report.dropped.iter().filter(|(_, why)| shape(&why.detail)) {
        let told = why.to_string();
        match kinds.iter().position(|k| k.0 == told) {
            Some(n) => kinds[n].2 += 1,
            None if kinds.len() < 200 => kinds.push((told, *id, 1)),
            None => {}
        }
    }
    kinds.sort_by_key(|k| std::cmp::Reverse(k.2));
    let more = kinds.len().saturating_sub(TOLD);
    let mut notes: Vec<String> = (kinds.iter().take(TOLD))
        .map(|(why, id, count)| format!("not read: {count} of its entities, the first is #{id} ({why})"))
        .collect();
    if more > 0 {
        notes.push(format!("not read: entities for {more} further reasons"));
    }
    notes
}
