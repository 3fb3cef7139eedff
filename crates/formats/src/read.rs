//! Finds out what a file is and reads it.

use std::collections::HashMap;
use std::io::Read;

use nimbet_kernel::{FaceId, Mesh, Progress};
use nimbet_profile::space::Strand;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::errors::ReadError;
use crate::groups::MOST_GROUPS;
use crate::input::Input;
use crate::units::LengthUnit;
use crate::{archive, exact, gltf_in, model_3mf, obj, off, ply, stl};

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
    /// glTF 2.0 as one file (ISO/IEC 12113).
    Gltf,
    /// STEP (ISO 10303-21): exact surfaces, in an archive or not.
    Step,
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
            Self::Gltf => "glTF",
            Self::Step => "STEP",
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
            "glb" | "gltf" => Some(Self::Gltf),
            "step" | "stp" | "p21" | "stpz" => Some(Self::Step),
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

/// How a file is to be read.
#[derive(Clone, Debug)]
pub struct Wanted {
    /// What the reader may use.
    pub limits: Limits,
    /// How far triangles may stand off exact surfaces, mm.
    pub chord: f64,
    /// The bodies of which triangles are wanted, by number from 0; absent: all.
    pub bodies: Option<Vec<u32>>,
}

/// How far triangles stand off exact surfaces where nobody says otherwise, mm.
pub const DEFAULT_CHORD: f64 = 0.02;

impl Wanted {
    /// All bodies, within limits.
    pub fn within(limits: &Limits) -> Self {
        Self { limits: *limits, chord: DEFAULT_CHORD, bodies: None }
    }

    pub(crate) fn wants(&self, body: usize) -> bool {
        self.bodies.as_ref().is_none_or(|b| b.iter().any(|n| *n as usize == body))
    }
}

/// A body of a file.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct FileBody {
    /// What the file calls it; empty where it does not.
    pub name: String,
    /// Its colour, where the file gives one.
    pub colour: Option<[u8; 3]>,
    /// Its triangles.
    pub triangles: std::ops::Range<usize>,
    /// Whether they are all in one face though the file tells faces apart.
    pub in_one: bool,
    /// Of curves without a surface what they are, in the file's units; they have no triangles.
    pub curves: Vec<Strand>,
}

/// A file as read: welded exactly, in its own units.
#[derive(Clone, Debug)]
pub struct Imported {
    /// The triangles of all bodies, one after the other.
    pub mesh: Mesh,
    /// The bodies; of those that were not wanted there are no triangles.
    pub bodies: Vec<FileBody>,
    /// Whether the file tells which triangles are one face. Else the faces are what it tells of them by colours, materials or
    /// named groups.
    pub faces_known: bool,
    /// Whether it tells such groups, more than one of a body.
    pub grouped: bool,
    /// What the file turned out to be.
    pub format: FileFormat,
    /// The unit, where the file tells it.
    pub unit: Option<LengthUnit>,
    /// What the reader had to overlook, in plain words.
    pub notes: Vec<String>,
}

impl Imported {
    /// One of the bodies by itself, its faces numbered from 0.
    ///
    /// # Errors
    /// [`ReadError`] where there is no such body.
    pub fn body(&self, n: usize) -> Result<Mesh, ReadError> {
        let body = self.bodies.get(n).ok_or_else(|| ReadError::OutOfBounds(format!("there is no body {n}")))?;
        // Only what is its own is gone over: a file may hold a thousand of them.
        let (mut points, mut number) = (Vec::new(), HashMap::new());
        let triangles = self.mesh.triangles()[body.triangles.clone()].iter().map(|t| {
            t.map(|c| {
                *number.entry(c).or_insert_with(|| {
                    points.push(self.mesh.points()[c as usize]);
                    points.len() as u32 - 1
                })
            })
        });
        let triangles: Vec<[u32; 3]> = triangles.collect();
        let faces = &self.mesh.face_of()[body.triangles.clone()];
        let first = faces.iter().map(|f| f.0).min().unwrap_or(0);
        Ok(Mesh::new(points, triangles, faces.iter().map(|f| FaceId(f.0 - first)).collect())?)
    }
}

/// What a reader of one format gives.
pub(crate) struct Held {
    /// Its faces are what the file tells of them by colours, materials or names, if it does not tell of faces.
    pub mesh: Mesh,
    /// Whether it tells any such thing.
    pub tells_groups: bool,
    /// Empty where the file knows of one body only.
    pub bodies: Vec<FileBody>,
    pub unit: Option<LengthUnit>,
}

impl Held {
    /// Of a file that knows of one body only.
    pub fn one(mesh: Mesh, tells_groups: bool) -> Self {
        Self { mesh, tells_groups, bodies: vec![], unit: None }
    }
}

/// Reads a model of `length` bytes, all bodies. The content decides what it is; the name only where the content leaves it open.
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
    read_bodies(reader, length, file_name, &Wanted::within(limits), progress)
}

/// As [`read_model`], with what is wanted of it.
///
/// # Errors
/// [`ReadError`] with the byte or line.
pub fn read_bodies(
    reader: impl Read,
    length: u64,
    file_name: &str,
    wanted: &Wanted,
    progress: &Progress,
) -> Result<Imported, ReadError> {
    let mut input = Input::new(reader);
    let limits = &wanted.limits;
    let head = input.peek()?;
    if head.is_empty() {
        return Err(ReadError::Empty);
    }
    let named = FileFormat::of_name(file_name);
    let packed = archive::is_archive(head);
    let mut format = sniff(head, length, named).ok_or(ReadError::UnknownFormat)?;
    let mut notes = Vec::new();
    let held = if packed {
        let mut archive = archive::Archive::open(input)?;
        format = archive.format();
        match format {
            FileFormat::Step => exact::read(archive.entry(0, limits)?, wanted, progress, &mut notes)?,
            _ => model_3mf::read(&mut archive, limits, progress)?,
        }
    } else {
        match format {
            FileFormat::Stl => stl::read(input, length, limits, progress, &mut notes)?,
            FileFormat::Obj => obj::read(input, limits, progress)?,
            FileFormat::Ply => ply::read(input, limits, progress, &mut notes)?,
            FileFormat::Off => Held::one(off::read(input, limits, progress)?, false),
            FileFormat::Gltf => gltf_in::read(input.into_reader(), limits, progress, &mut notes)?,
            FileFormat::Step => exact::read(input.into_reader(), wanted, progress, &mut notes)?,
            FileFormat::ThreeMf | FileFormat::Dxf | FileFormat::Svg => return Err(ReadError::UnknownFormat),
        }
    };
    if let Some(named) = named.filter(|&n| n != format) {
        let told = format!("the name says {}, the content is {}", named.name(), format.name());
        notes.insert(0, format!("{told}; it was read as what it is"));
    }
    let Held { mut mesh, mut bodies, unit, tells_groups } = held;
    if bodies.is_empty() {
        bodies.push(FileBody { triangles: 0..mesh.triangles().len(), ..FileBody::default() });
    }
    let faces_known = format == FileFormat::Step;
    let in_groups = |body: &FileBody| {
        let groups = &mesh.face_of()[body.triangles.clone()];
        groups.iter().any(|g| *g != groups[0])
    };
    let mut grouped = !faces_known && bodies.iter().any(in_groups);
    if grouped && mesh.next_face().0 > MOST_GROUPS as u32 {
        notes.push(format!("its colours or groups were left out: they are more than {MOST_GROUPS}"));
        mesh = mesh.regroup(|_| FaceId(0));
        grouped = false;
    } else if tells_groups && !grouped {
        let whose = if bodies.len() > 1 { "each of its bodies" } else { "it" };
        notes.push(format!("{whose} is of one colour or group, which was left out"));
    }
    Ok(Imported { mesh, bodies, faces_known, grouped, format, unit, notes })
}

fn sniff(head: &[u8], length: u64, named: Option<FileFormat>) -> Option<FileFormat> {
    if archive::is_archive(head) {
        return Some(FileFormat::ThreeMf);
    }
    if head.starts_with(b"glTF") || head.starts_with(b"{") && named == Some(FileFormat::Gltf) {
        return Some(FileFormat::Gltf);
    }
    let text: Vec<u8> = head.iter().copied().skip_while(u8::is_ascii_whitespace).take(12).collect();
    if text.to_ascii_uppercase().starts_with(b"ISO-10303-21") {
        return Some(FileFormat::Step);
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
