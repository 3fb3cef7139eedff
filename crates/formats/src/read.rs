//! Finds out what a file is and reads it.

use std::io::Read;

use nimbet_kernel::{Mesh, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::errors::ReadError;
use crate::input::Input;
use crate::units::LengthUnit;
use crate::{model_3mf, obj, off, ply, stl};

/// The formats that can be read.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum FileFormat {
    /// Binary or ASCII stereolithography triangles.
    Stl,
    /// OBJ text with polygons.
    Obj,
    /// Polygon file format, ASCII or binary.
    Ply,
    /// Object file format.
    Off,
    /// 3D Manufacturing Format (ISO/IEC 25422).
    #[serde(rename = "3mf")]
    ThreeMf,
    /// Drawing exchange as text: outlines, no surface.
    Dxf,
    /// Scalable vector graphics: outlines, no surface.
    Svg,
}

impl FileFormat {
    /// What people call it.
    pub fn name(self) -> &'static str {
        match self {
            Self::Stl => "STL",
            Self::Obj => "OBJ",
            Self::Ply => "PLY",
            Self::Off => "OFF",
            Self::ThreeMf => "3MF",
            Self::Dxf => "DXF",
            Self::Svg => "SVG",
        }
    }

    /// The format a file name tells of.
    pub fn of_name(name: &str) -> Option<Self> {
        match name.rsplit_once('.')?.1.to_ascii_lowercase().as_str() {
            "stl" => Some(Self::Stl),
            "obj" => Some(Self::Obj),
            "ply" => Some(Self::Ply),
            "off" => Some(Self::Off),
            "3mf" => Some(Self::ThreeMf),
            "dxf" => Some(Self::Dxf),
            "svg" => Some(Self::Svg),
            _ => None,
        }
    }

    /// Whether it holds outlines, which [`read_outlines`](crate::read_outlines) reads.
    pub fn is_drawing(self) -> bool {
        matches!(self, Self::Dxf | Self::Svg)
    }
}

/// What a reader may use.
#[derive(Clone, Copy, Debug)]
pub struct Limits {
    /// The most triangles a file may have.
    pub triangles: usize,
}

impl Default for Limits {
    fn default() -> Self {
        Self { triangles: 20_000_000 }
    }
}

/// A file as read: welded exactly, in its own units, all triangles in one face.
#[derive(Clone, Debug)]
pub struct Imported {
    /// The triangles.
    pub mesh: Mesh,
    /// What the file turned out to be.
    pub format: FileFormat,
    /// The unit, where the file tells it.
    pub unit: Option<LengthUnit>,
    /// What the reader had to overlook, in plain words.
    pub notes: Vec<String>,
}

/// Reads a model of `length` bytes. The content decides what it is; the name only where the content leaves it open.
///
/// # Errors
/// [`ReadError`] with the byte or line.
pub fn read_model(
    reader: impl Read,
    length: u64,
    file_name: &str,
    limits: &Limits,
    progress: &Progress,
) -> Result<Imported, ReadError> {
    let mut input = Input::new(reader);
    let head = input.peek()?;
    if head.is_empty() {
        return Err(ReadError::Empty);
    }
    let named = FileFormat::of_name(file_name);
    let format = sniff(head, length, named).ok_or(ReadError::UnknownFormat)?;
    let mut notes = Vec::new();
    if let Some(named) = named.filter(|&n| n != format) {
        notes.push(format!(
            "the name says {}, the content is {}; it was read as what it is",
            named.name(),
            format.name()
        ));
    }
    let mut unit = None;
    let mesh = match format {
        FileFormat::Stl => stl::read(input, length, limits, progress, &mut notes)?,
        FileFormat::Obj => obj::read(input, limits, progress)?,
        FileFormat::Ply => ply::read(input, limits, progress)?,
        FileFormat::Off => off::read(input, limits, progress)?,
        FileFormat::ThreeMf => {
            let (mesh, told) = model_3mf::read(input, limits, progress)?;
            unit = Some(told);
            mesh
        }
        FileFormat::Dxf | FileFormat::Svg => return Err(ReadError::UnknownFormat),
    };
    Ok(Imported { mesh, format, unit, notes })
}

fn sniff(head: &[u8], length: u64, named: Option<FileFormat>) -> Option<FileFormat> {
    if head.starts_with(b"PK\x03\x04") {
        return Some(FileFormat::ThreeMf);
    }
    if head.starts_with(b"ply\n") || head.starts_with(b"ply\r") {
        return Some(FileFormat::Ply);
    }
    if stl::is_whole_binary(head, length) {
        return Some(FileFormat::Stl);
    }
    let start: Vec<u8> = head.iter().copied().skip_while(u8::is_ascii_whitespace).take(8).collect();
    if crate::off::starts_off(&start).is_some() {
        return Some(FileFormat::Off);
    }
    if start.starts_with(b"solid") {
        return Some(FileFormat::Stl);
    }
    if let Some(named) = named.filter(|n| matches!(n, FileFormat::Stl | FileFormat::Obj)) {
        return Some(named);
    }
    let text = head.iter().take(512).all(|b| b.is_ascii_graphic() || b.is_ascii_whitespace());
    let looks_obj = |line: &[u8]| line.starts_with(b"v ") || line.starts_with(b"o ") || line.starts_with(b"mtllib ");
    (text && head.split(|&b| b == b'\n').take(40).any(looks_obj)).then_some(FileFormat::Obj).or(named)
}
