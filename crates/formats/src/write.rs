//! Writes a body in a release format.

use std::io::Cursor;

use nimbet_brep::{StepWriteError, Written as ExactFaces, write_step};
use nimbet_kernel::{Mesh, MeshError, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::units::LengthUnit;
use crate::{glb, model_3mf_out, obj, ply, stl};

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
    /// glTF 2.0 binary: single precision, metres, name and colour.
    #[serde(rename = "glb")]
    Glb,
    /// STEP AP242: exact planes, cylinders, cones, spheres and tori where faces are such; millimetres, name and colour.
    #[serde(rename = "step")]
    Step,
}

impl ReleaseFormat {
    /// All formats, the best for release first.
    pub const ALL: [Self; 6] = [Self::ThreeMf, Self::Stl, Self::Obj, Self::Ply, Self::Glb, Self::Step];
    /// Those that hold triangles as they are.
    pub const TRIANGLES: [Self; 5] = [Self::ThreeMf, Self::Stl, Self::Obj, Self::Ply, Self::Glb];

    /// Whether numbers in it keep double precision.
    pub fn keeps_double(self) -> bool {
        !matches!(self, Self::Stl | Self::Glb)
    }

    /// The unit of the numbers in it, where the standard leaves no choice.
    pub fn unit(self) -> Option<LengthUnit> {
        match self {
            Self::Glb => Some(LengthUnit::Metre),
            // The writer knows of millimetres and metres only.
            Self::Step => Some(LengthUnit::Millimetre),
            _ => None,
        }
    }

    /// The file name ending, without a dot.
    pub fn extension(self) -> &'static str {
        match self {
            Self::ThreeMf => "3mf",
            Self::Stl => "stl",
            Self::Obj => "obj",
            Self::Ply => "ply",
            Self::Glb => "glb",
            Self::Step => "step",
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
    /// It cannot be STEP.
    #[error("{0}; it can leave as 3MF, STL, OBJ, PLY or GLB")]
    Step(#[from] StepWriteError),
}

/// The bytes of a file that holds `body`, with numbers in `unit`, unless the format has one of its own.
///
/// # Errors
/// [`WriteError`].
pub fn write_body(body: &Body<'_>, format: ReleaseFormat, unit: LengthUnit) -> Result<Vec<u8>, WriteError> {
    let unit = format.unit().unwrap_or(unit);
    let scaled = match unit {
        LengthUnit::Millimetre => None,
        _ => Some(body.mesh.clone().map_points(|p| p / unit.millimetres())?),
    };
    let body = Body { mesh: scaled.as_ref().unwrap_or(body.mesh), ..*body };
    let mut out = Cursor::new(Vec::new());
    match format {
        ReleaseFormat::ThreeMf => drop(model_3mf_out::write(body.name, &[body], unit, &mut out)?),
        ReleaseFormat::Stl => stl::write(body.mesh, body.name, &mut out)?,
        ReleaseFormat::Obj => obj::write(body.mesh, body.name, &mut out)?,
        ReleaseFormat::Ply => ply::write(body.mesh, body.name, &mut out)?,
        ReleaseFormat::Glb => glb::write(&body, &mut out)?,
        ReleaseFormat::Step => return Ok(write_exact(&body, &Progress::unwatched())?.0),
    }
    Ok(out.into_inner())
}

/// The bytes of a 3MF file that holds several bodies, with numbers in `unit`; and for each body the earlier one of which it is a moved
/// copy, where it is one: that stands in the file once.
///
/// # Errors
/// [`WriteError`].
pub fn write_together(
    title: &str,
    bodies: &[Body<'_>],
    unit: LengthUnit,
) -> Result<(Vec<u8>, Vec<Option<usize>>), WriteError> {
    let scaled = bodies.iter().map(|b| b.mesh.clone().map_points(|p| p / unit.millimetres()));
    let scaled: Vec<Mesh> = scaled.collect::<Result<_, _>>()?;
    let bodies: Vec<Body<'_>> = bodies.iter().zip(&scaled).map(|(body, mesh)| Body { mesh, ..*body }).collect();
    let mut out = Cursor::new(Vec::new());
    let copies = model_3mf_out::write(title, &bodies, unit, &mut out)?;
    Ok((out.into_inner(), copies))
}

/// The bytes of a STEP file of a solid, and what of it is exact.
///
/// # Errors
/// [`WriteError`] where it is no solid, or has too many faces.
pub fn write_exact(body: &Body<'_>, progress: &Progress) -> Result<(Vec<u8>, ExactFaces), WriteError> {
    Ok(write_step((body.name, body.colour), body.mesh, progress)?)
}
