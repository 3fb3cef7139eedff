//! Writes a body in a release format.

use std::io::Cursor;

use nimbet_kernel::{Mesh, MeshError};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::units::LengthUnit;
use crate::{model_3mf, obj, ply, stl};

/// The formats a release can have.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub enum ReleaseFormat {
    /// 3D Manufacturing Format: keeps unit, name and colour.
    #[serde(rename = "3mf")]
    ThreeMf,
    /// Binary STL: single precision, no unit.
    #[serde(rename = "stl")]
    Stl,
    /// OBJ text: no unit.
    #[serde(rename = "obj")]
    Obj,
    /// Binary PLY in double precision: no unit.
    #[serde(rename = "ply")]
    Ply,
}

impl ReleaseFormat {
    /// All formats, the best for release first.
    pub const ALL: [Self; 4] = [Self::ThreeMf, Self::Stl, Self::Obj, Self::Ply];

    /// Whether numbers in it keep double precision.
    pub fn keeps_double(self) -> bool {
        self != Self::Stl
    }

    /// The file name ending, without a dot.
    pub fn extension(self) -> &'static str {
        match self {
            Self::ThreeMf => "3mf",
            Self::Stl => "stl",
            Self::Obj => "obj",
            Self::Ply => "ply",
        }
    }

    /// The format a file name asks for.
    pub fn of_name(name: &str) -> Option<Self> {
        let ending = name.rsplit_once('.')?.1.to_ascii_lowercase();
        Self::ALL.into_iter().find(|f| f.extension() == ending)
    }
}

/// A body to write. The mesh is in millimetres.
#[derive(Clone, Copy, Debug)]
pub struct Body<'a> {
    /// The part's name.
    pub name: &'a str,
    /// The colour it is shown in, red green blue.
    pub colour: [u8; 3],
    /// Its triangles.
    pub mesh: &'a Mesh,
}

/// Why a body cannot be written.
#[derive(Debug, thiserror::Error)]
pub enum WriteError {
    /// The bytes could not be put together.
    #[error("the file could not be written: {0}")]
    Io(#[from] std::io::Error),
    /// Scaling left the finite numbers.
    #[error(transparent)]
    Mesh(#[from] MeshError),
}

/// The bytes of a file that holds `body`, with numbers in `unit`.
///
/// # Errors
/// [`WriteError`].
pub fn write_body(body: &Body<'_>, format: ReleaseFormat, unit: LengthUnit) -> Result<Vec<u8>, WriteError> {
    let scaled = match unit {
        LengthUnit::Millimetre => None,
        _ => Some(body.mesh.clone().map_points(|p| p / unit.millimetres())?),
    };
    let body = Body { mesh: scaled.as_ref().unwrap_or(body.mesh), ..*body };
    let mut out = Cursor::new(Vec::new());
    match format {
        ReleaseFormat::ThreeMf => model_3mf::write(&body, unit, &mut out)?,
        ReleaseFormat::Stl => stl::write(body.mesh, body.name, &mut out)?,
        ReleaseFormat::Obj => obj::write(body.mesh, body.name, &mut out)?,
        ReleaseFormat::Ply => ply::write(body.mesh, body.name, &mut out)?,
    }
    Ok(out.into_inner())
}
