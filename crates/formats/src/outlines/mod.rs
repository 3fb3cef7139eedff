//! Outlines from open drawing formats, as lines of a profile: DXF (text) and SVG. Lines stay lines, arcs arcs, ellipses ellipses;
//! all other curves become cubics within a millionth of a millimetre.

mod affine;
mod dxf;
mod spline;
mod svg;
mod written;

use std::collections::BTreeMap;

use nimbet_profile::drawing::{MOST_LINES, Shape};
use nimbet_profile::{Span, shapes_of};

pub use written::{profile_dxf, profile_svg};

use crate::LengthUnit;
use crate::errors::{Place, ReadError};

/// What was read of a drawing.
#[derive(Clone, Debug, PartialEq)]
pub struct ReadOutlines {
    /// What is drawn, mm.
    pub shapes: Vec<Shape>,
    /// What the file is in, in words: `inch`, `no unit given; taken for millimetres`.
    pub unit: String,
    /// What could not be read as an outline, with how often.
    pub left_out: BTreeMap<String, usize>,
}

/// The largest drawing that is read, bytes.
pub const LARGEST_DRAWING: usize = 32 << 20;
/// The most curves that are taken of one: the most a profile has, with room for those that become one chain.
const MOST_CURVES: usize = 4 * MOST_LINES;
/// Blocks within blocks, groups within groups.
const DEEPEST: usize = 24;

/// Reads a drawing; which format it is in its first bytes tell. `untold` is its unit where it gives none itself.
///
/// # Errors
/// [`ReadError`] with the line.
pub fn read_outlines(bytes: &[u8], untold: Option<LengthUnit>) -> Result<ReadOutlines, ReadError> {
    if bytes.is_empty() {
        return Err(ReadError::Empty);
    }
    if bytes.len() > LARGEST_DRAWING {
        return Err(malformed(1, format!("a drawing has at most {} MB", LARGEST_DRAWING >> 20)));
    }
    let head: Vec<u8> = bytes.iter().copied().filter(|b| !b.is_ascii_whitespace()).take(4).collect();
    let found = if head.starts_with(b"<") || head.starts_with(&[0xEF, 0xBB, 0xBF, b'<']) {
        svg::read(bytes, untold)?
    } else {
        dxf::read(bytes, untold)?
    };
    let shapes = shapes_of(&found.curves);
    if shapes.len() > MOST_LINES {
        return Err(malformed(1, format!("{} lines; a profile has at most {MOST_LINES}", shapes.len())));
    }
    if shapes.is_empty() {
        let left: Vec<&str> = found.left_out.keys().map(String::as_str).collect();
        let beside = if left.is_empty() { String::new() } else { format!("; it has only {}", left.join(", ")) };
        return Err(malformed(1, format!("there is no outline in the file{beside}")));
    }
    Ok(ReadOutlines { shapes, unit: found.unit, left_out: found.left_out })
}

/// What a reader finds.
#[derive(Default)]
struct Found {
    curves: Vec<Vec<Span>>,
    unit: String,
    left_out: BTreeMap<String, usize>,
}

impl Found {
    fn leave_out(&mut self, what: &str) {
        // Names come from the file: as many as anybody reads.
        if self.left_out.len() < 50 || self.left_out.contains_key(what) {
            *self.left_out.entry(what.chars().take(40).collect()).or_default() += 1;
        }
    }

    fn take(&mut self, curves: Vec<Vec<Span>>, line: u64) -> Result<(), ReadError> {
        self.curves.extend(curves.into_iter().filter(|c| !c.is_empty()));
        if self.curves.len() > MOST_CURVES {
            return Err(malformed(line, format!("more than {MOST_CURVES} curves; that is no profile")));
        }
        Ok(())
    }
}

fn malformed(line: u64, what: impl Into<String>) -> ReadError {
    ReadError::Malformed { at: Place::Line(line), what: what.into() }
}
