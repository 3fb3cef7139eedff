//! Bringing a file in: read, brought to millimetres, grouped into faces.

use std::io::Read;

use nimbet_formats::{
    DEFAULT_CHORD, FileBody, FileFormat, Imported, LARGEST_DRAWING, LengthUnit, Limits, ReadError, Wanted, guess_unit,
    read_bodies, read_outlines,
};
use nimbet_kernel::surfaces::{self, Grouping};
use nimbet_kernel::{Aabb, Cancelled, Mesh, Point, Progress, Topology};
use nimbet_trade::shape::{DrawProfile, part_of_lines};
use nimbet_trade::tool::{Given, Tool};
use nimbet_trade::wire::{Strand, reach};
use nimbet_trade::words::count;
use nimbet_trade::{Called, Figures, TradeError};

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::action::{BringIn, LONGEST_NAME, MOST_BODIES, PickedBody, UnitChoice, is_name};
use crate::bounds::fault_of_file;
use crate::hash::Hash;
use crate::history::{MadePart, StepReport, part_name};

/// A part a file became.
#[derive(Clone, Debug)]
pub struct ReadPart {
    /// Its mesh, mm.
    pub mesh: Mesh,
    /// What it is.
    pub picked: PickedBody,
}

/// What a file became.
#[derive(Clone, Debug)]
pub struct BroughtIn {
    /// Its parts: one, or one for each body that was picked.
    pub parts: Vec<ReadPart>,
    /// What the file was.
    pub format: FileFormat,
    /// The unit its numbers were taken for.
    pub unit: LengthUnit,
    /// What is worth knowing about how it was read.
    pub notes: Vec<String>,
}

impl BroughtIn {
    /// What the step says came in: nothing where it is one part without a colour of its own.
    pub fn picked(&self) -> Option<Vec<PickedBody>> {
        let picked: Vec<PickedBody> = self.parts.iter().map(|p| p.picked.clone()).collect();
        (picked.len() > 1 || picked.iter().any(|p| p.body > 0 || p.colour.is_some())).then_some(picked)
    }

    /// The report of the step, once its parts are kept: the mesh and figures of each.
    pub fn report(self, kept: Vec<(Hash, Figures)>) -> Option<(Hash, StepReport)> {
        let mut done = vec![format!("read as {}, in {}", self.format.name(), self.unit.name())];
        if kept.len() > 1 {
            done.push(format!("{} of its bodies, each as a part", kept.len()));
        }
        let mut parts = self.parts.into_iter().zip(kept);
        let (_, (mesh, figures)) = parts.next()?;
        let made = |(part, (mesh, figures)): (ReadPart, (Hash, Figures))| MadePart {
            part: None,
            mesh,
            called: Some(Called::Plain(part.picked.name)),
            figures,
            inside: None,
        };
        let made = parts.map(made).collect();
        Some((mesh, StepReport { done, left: self.notes, made, ..StepReport::of(figures) }))
    }
}

/// Which bodies of a file come in.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Bodies {
    /// All, as one part.
    #[default]
    Joined,
    /// Each as a part of its own.
    Each,
    /// These, each as a part of its own.
    Picked(Vec<PickedBody>),
    /// As a person says: where there are more than one, they are listed instead.
    Ask,
}

/// How a file is to be read.
#[derive(Clone, Debug, Default)]
pub struct ReadAs {
    /// Its unit.
    pub unit: UnitChoice,
    /// How far triangles may stand off exact surfaces, mm.
    pub chord: Option<f64>,
    /// Whether faces end where its colours, materials or named groups do.
    pub groups: bool,
    /// Which of its bodies.
    pub bodies: Bodies,
}

impl From<&BringIn> for ReadAs {
    fn from(what: &BringIn) -> Self {
        let bodies = what.bodies.clone().map_or(Bodies::Joined, Bodies::Picked);
        Self { unit: what.unit, chord: what.chord, groups: what.groups, bodies }
    }
}

/// A body of a file, as it is offered.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct OfferedBody {
    /// Its number in the file, from 0.
    pub body: u32,
    /// What the file calls it, or else its number from 1.
    pub name: String,
    /// Its extent, mm.
    pub size: [f64; 3],
    /// How many triangles it is.
    pub triangles: usize,
    /// Whether its surface is closed.
    pub closed: bool,
    /// Whether it has no surface, but is lines: it comes in as a profile where they lie in one plane, else as a wire.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub wire: bool,
    /// Its colour, as `#rrggbb`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub colour: Option<String>,
}

/// Why a file does not come in.
#[derive(Debug, thiserror::Error)]
pub enum BringInError {
    /// It cannot be read.
    #[error(transparent)]
    Read(#[from] ReadError),
    /// It holds more than one body, and which of them come in was to be asked.
    #[error("it holds {} bodies", .0.len())]
    SeveralBodies(Vec<OfferedBody>),
    /// A body that is not there was picked.
    #[error("the file has no body {body}: it holds {count}, counted from 0")]
    NoSuchBody {
        /// The one that was picked.
        body: u32,
        /// How many there are.
        count: usize,
    },
    /// More bodies than come in at once.
    #[error("the file holds {0} bodies; at most {MOST_BODIES} come in at once, as parts of their own")]
    TooManyBodies(usize),
}

impl From<Cancelled> for BringInError {
    fn from(cancelled: Cancelled) -> Self {
        Self::Read(cancelled.into())
    }
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
    let profile = made.map_err(refused)?.more.pop().ok_or(ReadError::Empty)?;
    if let Some(why) = fault_of_file(&profile.mesh, LengthUnit::Millimetre) {
        return Err(ReadError::OutOfBounds(why));
    }
    let parts =
        vec![ReadPart { mesh: profile.mesh, picked: PickedBody { body: 0, name: part_name(file_name), colour: None } }];
    Ok(BroughtIn { parts, format, unit: LengthUnit::Millimetre, notes })
}

fn refused(e: TradeError) -> ReadError {
    match e {
        TradeError::Cancelled(c) => c.into(),
        e => ReadError::OutOfBounds(e.to_string()),
    }
}

/// Reads a file of `length` bytes; of a drawing that is its profile.
///
/// # Errors
/// [`BringInError`], of what cannot be read with the byte or line.
pub fn bring_in(
    reader: impl Read,
    length: u64,
    file_name: &str,
    how: &ReadAs,
    limits: &Limits,
    progress: &Progress,
) -> Result<BroughtIn, BringInError> {
    if let Some(format) = FileFormat::of_name(file_name).filter(|f| f.is_drawing()) {
        return Ok(drawn_in(reader, (file_name, format), how.unit, progress)?);
    }
    let wanted = match &how.bodies {
        Bodies::Picked(picked) => Some(picked.iter().map(|p| p.body).collect()),
        _ => None,
    };
    let wanted = Wanted { limits: *limits, chord: how.chord.unwrap_or(DEFAULT_CHORD), bodies: wanted };
    let mut read = read_bodies(reader, length, file_name, &wanted, &progress.stage(0.0, 0.9))?;
    let (unit, doubt) = unit_of(&read, how.unit)?;
    let mut notes = std::mem::take(&mut read.notes);
    notes.extend(doubt);
    notes.extend(read.grouped.then(|| match how.groups {
        true => "faces end where its colours or groups do".into(),
        false => "its colours or groups were left out".to_owned(),
    }));
    progress.report(0.9, "grouping triangles into faces")?;
    if unit != LengthUnit::Millimetre {
        // What leaves the finite numbers is beyond all bounds.
        let by = |p: Point| (p * unit.millimetres()).clamp(Point::splat(-f64::MAX), Point::splat(f64::MAX));
        read.mesh = read.mesh.map_points(by).map_err(ReadError::from)?;
        for curve in read.bodies.iter_mut().flat_map(|b| &mut b.curves) {
            *curve = curve.put(&by);
        }
    }
    if let Some(why) = fault_of_file(&read.mesh, unit) {
        return Err(ReadError::OutOfBounds(why).into());
    }
    let parts = parts_of(&read, how, file_name, progress)?;
    for part in &parts {
        if let Some(why) = fault_of_file(&part.mesh, unit) {
            return Err(ReadError::OutOfBounds(why).into());
        }
    }
    if how.bodies == Bodies::Joined || how.bodies == Bodies::Ask {
        notes.extend(wires_left_out(&read));
    }
    Ok(BroughtIn { parts, format: read.format, unit, notes })
}

/// The unit of a file, and what is worth knowing about it.
fn unit_of(read: &Imported, chosen: UnitChoice) -> Result<(LengthUnit, Option<String>), ReadError> {
    match (chosen.unit(), read.unit) {
        (Some(chosen), told) => {
            let other = told.filter(|t| *t != chosen);
            let note =
                other.map(|t| format!("the file says its unit is {}; it was read as {}", t.sign(), chosen.sign()));
            Ok((chosen, note))
        }
        (None, Some(told)) => Ok((told, None)),
        (None, None) => {
            let bounds = Aabb::of(read.mesh.points().iter().copied());
            let (guess, doubt) = guess_unit(&[bounds]);
            if doubt.is_some() && chosen == UnitChoice::Ask {
                return Err(ReadError::UnitInDoubt { across: bounds.size().max_element() });
            }
            Ok((guess, doubt))
        }
    }
}

/// The parts a file becomes.
fn parts_of(
    read: &Imported,
    how: &ReadAs,
    file_name: &str,
    progress: &Progress,
) -> Result<Vec<ReadPart>, BringInError> {
    let count = read.bodies.len();
    let picked: Vec<PickedBody> = match &how.bodies {
        Bodies::Ask if count > 1 => return Err(BringInError::SeveralBodies(offered(read, progress)?)),
        Bodies::Joined | Bodies::Ask => {
            let name = part_name(file_name);
            let mesh = match read.mesh.triangles().is_empty() {
                true => wire_of(read.bodies.iter().flat_map(|b| &b.curves).copied().collect(), &name, progress)?,
                false => {
                    let known = read.faces_known && !read.bodies.iter().all(|b| b.in_one || !b.curves.is_empty());
                    faced(read.mesh.clone(), (known, how.groups), progress)?
                }
            };
            // A single body keeps its colour.
            let colour = read.bodies.first().filter(|_| count == 1).and_then(|b| b.colour).map(written);
            return Ok(vec![ReadPart { mesh, picked: PickedBody { body: 0, name, colour } }]);
        }
        Bodies::Each if count > MOST_BODIES => return Err(BringInError::TooManyBodies(count)),
        Bodies::Each => (0..count).map(|n| PickedBody { body: n as u32, name: String::new(), colour: None }).collect(),
        Bodies::Picked(picked) => picked.clone(),
    };
    let mut parts = Vec::with_capacity(picked.len());
    for (n, mut picked) in picked.into_iter().enumerate() {
        progress.report(0.9 + 0.1 * n as f64 / count.max(1) as f64, "grouping triangles into faces")?;
        let body = read.bodies.get(picked.body as usize);
        let body = body.ok_or(BringInError::NoSuchBody { body: picked.body, count })?;
        if picked.name.trim().is_empty() {
            picked.name = called(&body.name, picked.body);
        }
        picked.colour = picked.colour.or(body.colour.map(written));
        if !body.curves.is_empty() {
            let mesh = wire_of(body.curves.clone(), &picked.name, progress)?;
            parts.push(ReadPart { mesh, picked });
            continue;
        }
        let known = read.faces_known && !body.in_one;
        let mesh = read.body(picked.body as usize)?;
        if mesh.triangles().is_empty() {
            let why = format!("body {} ({}) has no triangles", picked.body, picked.name);
            return Err(ReadError::OutOfBounds(why).into());
        }
        parts.push(ReadPart { mesh: faced(mesh, (known, how.groups), progress)?, picked });
    }
    Ok(parts)
}

/// Lines as a part; of a file without any there is none.
fn wire_of(lines: Vec<Strand>, called: &str, progress: &Progress) -> Result<Mesh, ReadError> {
    if lines.is_empty() {
        return Ok(Mesh::default());
    }
    part_of_lines(called, &lines, progress).map_err(refused)
}

/// What of a file that comes in as one part does not.
fn wires_left_out(read: &Imported) -> Option<String> {
    let wires = read.bodies.iter().filter(|b| !b.curves.is_empty()).count();
    let left = wires > 0 && !read.mesh.triangles().is_empty();
    left.then(|| {
        format!("{} left out, as no surface: bring its bodies in each as a part", count(wires, "wire", "wires"))
    })
}

/// The mesh with its faces told apart, where the file does not, and where its groups end, if wanted.
fn faced(mesh: Mesh, (known, in_groups): (bool, bool), progress: &Progress) -> Result<Mesh, Cancelled> {
    if known {
        return Ok(mesh);
    }
    let groups = in_groups.then(|| mesh.face_of().to_vec());
    let tolerance = surfaces::default_tolerance(&Aabb::of(mesh.points().iter().copied()));
    let how = Grouping { angle: surfaces::DEFAULT_ANGLE, tolerance };
    let mesh = surfaces::group_faces(mesh, how, progress)?;
    Ok(match groups.filter(|g| g.iter().any(|n| *n != g[0])) {
        Some(groups) => surfaces::part_faces(mesh, |t| groups[t]),
        None => mesh,
    })
}

/// A name a part can have: what the file says, without what controls text.
fn called(name: &str, number: u32) -> String {
    let plain: String = name.chars().filter(|c| !c.is_control()).take(LONGEST_NAME).collect();
    if is_name(&plain) { plain.trim().to_owned() } else { format!("Body {}", number + 1) }
}

fn written([r, g, b]: [u8; 3]) -> String {
    format!("#{r:02x}{g:02x}{b:02x}")
}

fn offered(read: &Imported, progress: &Progress) -> Result<Vec<OfferedBody>, Cancelled> {
    let one = |(n, body): (usize, &FileBody)| {
        progress.check()?;
        let own = &read.mesh.triangles()[body.triangles.clone()];
        let is_wire = !body.curves.is_empty();
        let bounds = match is_wire {
            true => reach(body.curves.iter()),
            false => Aabb::of(own.iter().flatten().map(|c| read.mesh.points()[*c as usize])),
        };
        Ok(OfferedBody {
            body: n as u32,
            name: called(&body.name, n as u32),
            size: if own.is_empty() && !is_wire { [0.0; 3] } else { bounds.size().to_array() },
            triangles: own.len(),
            wire: is_wire,
            closed: !is_wire && Topology::new(own, read.mesh.points().len()).naked_halves().is_empty(),
            colour: body.colour.map(written),
        })
    };
    read.bodies.iter().enumerate().map(one).collect()
}
