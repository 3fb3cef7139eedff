//! What can be wrong with a file, and where.

use std::fmt;

use nimbet_kernel::{Cancelled, MeshError};

/// A place in a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Place {
    /// The byte, counted from 0.
    Byte(u64),
    /// The line, counted from 1.
    Line(u64),
}

impl fmt::Display for Place {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Byte(at) => write!(f, "byte {at}"),
            Self::Line(at) => write!(f, "line {at}"),
        }
    }
}

/// Why a file cannot be read.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum ReadError {
    /// There are no bytes.
    #[error("the file is empty")]
    Empty,
    /// Neither the content nor the name tell a format that can be read.
    #[error(
        "this is no format that can be read here; STL, OBJ, PLY, OFF, 3MF, glTF and STEP are, and outlines as DXF and SVG"
    )]
    UnknownFormat,
    /// The file ends too early.
    #[error("the file ends at {at}, before {missing}")]
    Truncated {
        /// Where it ends.
        at: Place,
        /// What should still have come.
        missing: String,
    },
    /// Something is not as the format says.
    #[error("{at}: {what}")]
    Malformed {
        /// Where.
        at: Place,
        /// What is wrong.
        what: String,
    },
    /// A coordinate is infinite or not a number.
    #[error("{at}: a coordinate is not a finite number")]
    NotFinite {
        /// Where.
        at: Place,
    },
    /// A polygon names a point that is not there.
    #[error("{at}: point {index} is named, but there are {count} points")]
    IndexOutOfRange {
        /// Where.
        at: Place,
        /// The number in the file.
        index: i64,
        /// How many points there are.
        count: usize,
    },
    /// The file does not tell its unit, its size leaves more than one, and the unit was to be asked for.
    #[error(
        "it reaches {0} across, and the file does not tell the unit: {0} mm, or {0} m?",
        four_digits(*across)
    )]
    UnitInDoubt {
        /// The greatest extent, in the file's numbers.
        across: f64,
    },
    /// It is too large, too small or too far away to be worked on.
    #[error("{0}")]
    OutOfBounds(String),
    /// More triangles than the limit.
    #[error("the file has more than {limit} triangles, the most allowed here")]
    TooManyTriangles {
        /// The limit.
        limit: usize,
    },
    /// A whole file without a triangle.
    #[error("the file is whole but holds no triangle")]
    NoTriangles,
    /// A part of the format that is not supported.
    #[error("the file uses {what}, which cannot be read here")]
    Unsupported {
        /// What it uses.
        what: String,
    },
    /// The arrays do not make a mesh.
    #[error(transparent)]
    Mesh(#[from] MeshError),
    /// The bytes could not be fetched.
    #[error("the file could not be read: {0}")]
    Io(String),
    /// Somebody asked to stop.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
}

impl From<std::io::Error> for ReadError {
    fn from(error: std::io::Error) -> Self {
        Self::Io(error.to_string())
    }
}

impl ReadError {
    pub(crate) fn malformed(at: Place, what: impl Into<String>) -> Self {
        Self::Malformed { at, what: what.into() }
    }
}

/// A figure to four digits, as short as it can be written.
fn four_digits(x: f64) -> f64 {
    let scale = 10f64.powi(3 - x.abs().log10().floor() as i32);
    if scale.is_finite() { (x * scale).round() / scale } else { x }
}
