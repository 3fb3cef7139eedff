//! Release: written, read back and proved before it is handed out.

use std::borrow::Cow;
use std::collections::HashSet;

use nimbet_formats::{
    Body, DEFAULT_CHORD, ExactFaces, LengthUnit, Limits, ReadError, ReleaseFormat, WriteError, read_model, write_body,
    write_exact,
};
use nimbet_kernel::measure::measure;
use nimbet_kernel::single::{RoundFault, fit_for_single};
use nimbet_kernel::{Mesh, Progress};
use nimbet_trade::fasten::ThreadMark;
use nimbet_trade::release::{Check, ExactFile, checks, exact_checks, read_back_checks, thread_check};
use nimbet_trade::{Examination, Figures, examine};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::bill::BillLine;
use crate::hash::Hash;
use crate::history::PartId;
use crate::losses::Losses;

/// The colour parts are written in that have none of their own: the pewter they are shown in.
pub const PART_COLOUR: [u8; 3] = [0xA9, 0xAF, 0xB2];

/// The colour a part is written in, of what it is shown in (`#rrggbb`).
pub fn colour_of(shown: Option<&str>) -> [u8; 3] {
    let eight_bits = |hex: &str, n: usize| u8::from_str_radix(hex.get(n..n + 2)?, 16).ok();
    let read = |hex: &str| Some([eight_bits(hex, 1)?, eight_bits(hex, 3)?, eight_bits(hex, 5)?]);
    shown.and_then(read).unwrap_or(PART_COLOUR)
}

/// What was proved of a released file.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct CheckSheet {
    /// The part's name.
    pub part: String,
    /// The file's name.
    pub file: String,
    /// The file's format.
    pub format: ReleaseFormat,
    /// The unit of the numbers in it.
    pub unit: LengthUnit,
    /// Its size in bytes.
    pub bytes: usize,
    /// Its content hash (BLAKE3).
    pub hash: Hash,
    /// Volume read back from it, mm³.
    pub volume: f64,
    /// Every claim with its evidence.
    pub checks: Vec<Check>,
    /// What mending took off the part.
    #[serde(default)]
    pub losses: Losses,
    /// What comes of the numbers in a reader of single precision; of sheets from before that was proved nothing.
    #[serde(default)]
    pub single: Option<SinglePrecision>,
    /// Of a file of several parts, what was proved of each.
    #[serde(default)]
    pub parts: Vec<PartProof>,
    /// The parts of the job when it was released; this one as it is in the file, with all its threads.
    #[serde(default)]
    pub bill: Vec<BillLine>,
}

/// What was proved of one of several parts in a file.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct PartProof {
    /// The part's name.
    pub part: String,
    /// Its number in the job, and what it was then.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub of: Option<PartThen>,
    /// Another part of the file of which it is a copy, turned or moved, that stands in the file once.
    #[serde(default)]
    pub copy_of: Option<String>,
    /// Volume read back from the file, mm³.
    pub volume: f64,
    /// Every claim with its evidence.
    pub checks: Vec<Check>,
    /// What mending took off the part.
    pub losses: Losses,
    /// What comes of the numbers in a reader of single precision.
    pub single: SinglePrecision,
}

/// A part as it was when it was released.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct PartThen {
    /// Its number.
    pub id: PartId,
    /// Its mesh.
    pub mesh: Hash,
}

/// What comes of a part when its numbers are rounded to single precision in the file's unit, as some readers do.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "is", rename_all = "snake_case")]
pub enum SinglePrecision {
    /// It stays a solid.
    Fit {
        /// Whether rounding made it cross, so that it was mended, and the file has what came of that.
        mended: bool,
        /// How far rounding and mending moved any place at most, mm.
        largest_move: f64,
        /// How far leaves reached that were thinner than single precision can tell and are gone, mm.
        #[serde(default)]
        leaves: f64,
    },
    /// It does not: only readers of double precision have a solid.
    Unfit {
        /// Where it is too fine, mm.
        at: [f64; 3],
    },
}

/// A file fit to be handed out.
#[derive(Clone, Debug)]
pub struct Released {
    /// Its bytes.
    pub bytes: Vec<u8>,
    /// What was proved.
    pub sheet: CheckSheet,
}

/// Why there is no release.
#[derive(Debug, thiserror::Error)]
pub enum ReleaseError {
    /// The part or the written file failed a check. All checks are given.
    #[error("not released: {}", failed(.0))]
    NotProved(Vec<Check>),
    /// The file could not be written.
    #[error(transparent)]
    Write(#[from] WriteError),
    /// The written file could not be read back.
    #[error("the written file could not be read back: {0}")]
    ReadBack(ReadError),
    /// Somebody asked to stop.
    #[error(transparent)]
    Cancelled(#[from] nimbet_kernel::Cancelled),
}

fn failed(checks: &[Check]) -> String {
    let failed: Vec<String> =
        checks.iter().filter(|c| !c.holds).map(|c| format!("{} ({})", c.claim, c.evidence)).collect();
    failed.join("; ")
}

/// What a part is released as.
#[derive(Clone, Debug)]
pub struct ReleaseAs<'a> {
    /// The part's name.
    pub name: &'a str,
    /// The colour it is shown in, red green blue.
    pub colour: [u8; 3],
    /// The file's format.
    pub format: ReleaseFormat,
    /// The unit of the numbers in it.
    pub unit: LengthUnit,
    /// What mending took off the part.
    pub losses: Losses,
}

/// A part that was proved, as it is written.
pub(crate) struct Proved<'a> {
    pub checks: Vec<Check>,
    pub single: SinglePrecision,
    pub figures: Figures,
    pub mesh: Cow<'a, Mesh>,
}

/// Proves a part, of which all `threads` must be cut, before it is written.
pub(crate) fn prove<'a>(
    wanted: &ReleaseAs<'_>,
    mesh: &'a Mesh,
    examination: &Examination,
    threads: &[ThreadMark],
    progress: &Progress,
) -> Result<Proved<'a>, ReleaseError> {
    let mut proved = checks(&examination.figures);
    proved.push(wanted.losses.check());
    let faces: HashSet<u32> = mesh.face_of().iter().map(|f| f.0).collect();
    proved.extend(thread_check(threads, |face| faces.contains(&face)));
    if proved.iter().any(|c| !c.holds) {
        return Err(ReleaseError::NotProved(proved));
    }
    let (single, rounded) = in_single_precision(mesh, wanted.unit, &progress.stage(0.0, 0.7))?;
    proved.extend(single_check(&single, wanted.format));
    if proved.iter().any(|c| !c.holds) {
        return Err(ReleaseError::NotProved(proved));
    }
    let mut figures = examination.figures.clone();
    let mended = matches!(single, SinglePrecision::Fit { mended: true, .. });
    let mesh = match rounded {
        Some(rounded) if mended => {
            figures = examine(&rounded, &progress.stage(0.7, 1.0))?.figures;
            Cow::Owned(rounded)
        }
        Some(rounded) if !wanted.format.keeps_double() => {
            let held = measure(&rounded);
            (figures.volume, figures.area) = (Some(held.volume), held.area);
            Cow::Borrowed(mesh)
        }
        _ => Cow::Borrowed(mesh),
    };
    Ok(Proved { checks: proved, single, figures, mesh })
}

/// Proves a part, of which all `threads` must be cut, writes it, reads the bytes back and proves them again.
///
/// # Errors
/// [`ReleaseError`]; no file then.
pub fn release(
    wanted: &ReleaseAs<'_>,
    mesh: &Mesh,
    examination: &Examination,
    threads: &[ThreadMark],
    progress: &Progress,
) -> Result<Released, ReleaseError> {
    let unit = wanted.format.unit().unwrap_or(wanted.unit);
    let wanted = &ReleaseAs { unit, ..wanted.clone() };
    let ReleaseAs { name, colour, format, ref losses, .. } = *wanted;
    let proved = prove(wanted, mesh, examination, threads, &progress.stage(0.0, 0.35))?;
    let Proved { checks: mut proved, single, figures, mesh } = proved;
    progress.report(0.35, "writing the file")?;
    let file = format!("{}.{}", file_stem(name), format.extension());
    let body = Body { name, colour, mesh: &mesh };
    let (bytes, exact) = match format {
        ReleaseFormat::Step => {
            let (bytes, faces) = write_exact(&body, &progress.stage(0.35, 0.4))?;
            (bytes, Some(faces))
        }
        _ => (write_body(&body, format, unit)?, None),
    };
    progress.report(0.4, "reading it back")?;
    let limits = Limits { triangles: usize::MAX };
    let again = read_model(&bytes[..], bytes.len() as u64, &file, &limits, &progress.stage(0.4, 0.6))
        .map_err(ReleaseError::ReadBack)?;
    let again_mm = again.mesh.map_points(|p| p * unit.millimetres()).map_err(|e| ReleaseError::ReadBack(e.into()))?;
    // Afresh, whatever is known of the part: the last proof rests on nothing but the bytes.
    let seen = examine(&again_mm, &progress.stage(0.6, 1.0))?;
    proved.extend(match &exact {
        Some(faces) => exact_checks(&figures, &seen.figures, &exact_file(faces)),
        None => read_back_checks(&figures, &seen.figures),
    });
    if proved.iter().any(|c| !c.holds) {
        return Err(ReleaseError::NotProved(proved));
    }
    let sheet = CheckSheet {
        part: name.to_owned(),
        file,
        format,
        unit,
        bytes: bytes.len(),
        hash: Hash::of(&bytes),
        volume: seen.figures.volume.unwrap_or(0.0),
        checks: proved,
        losses: losses.clone(),
        single: Some(single),
        parts: vec![],
        bill: vec![],
    };
    Ok(Released { bytes, sheet })
}

/// What a file of exact surfaces says of its faces.
fn exact_file(faces: &ExactFaces) -> ExactFile {
    let kinds = faces.kinds.iter().map(|(kind, n)| format!("{n} {kind}")).collect();
    let faceted = faces.faceted.iter().map(|(face, n)| (*face, *n)).collect();
    ExactFile { kinds, faceted, off: faces.off, chord: DEFAULT_CHORD }
}

/// What comes of a part in single precision, and the part as it is then, mm.
fn in_single_precision(
    mesh: &Mesh,
    unit: LengthUnit,
    progress: &Progress,
) -> Result<(SinglePrecision, Option<Mesh>), ReleaseError> {
    /// Leaves are gone where the surface there was lies so many times farther off than what is left moved.
    const MOVED: f64 = 2.0;
    let scale = unit.millimetres();
    let scaled =
        |mesh: &Mesh, by: f64| mesh.clone().map_points(|p| p * by).map_err(|e| ReleaseError::ReadBack(e.into()));
    match fit_for_single(&scaled(mesh, 1.0 / scale)?, progress) {
        Ok(rounded) => {
            let gone = rounded.leaves > rounded.largest_move * MOVED;
            let fit = SinglePrecision::Fit {
                mended: rounded.mended,
                largest_move: rounded.largest_move * scale,
                leaves: if gone { rounded.leaves * scale } else { 0.0 },
            };
            Ok((fit, Some(scaled(&rounded.mesh, scale)?)))
        }
        Err(RoundFault::Torn(at)) => Ok((SinglePrecision::Unfit { at: (at * scale).to_array() }, None)),
        Err(RoundFault::Cancelled(c)) => Err(c.into()),
        Err(RoundFault::Mesh(m)) => Err(ReleaseError::ReadBack(m.into())),
    }
}

/// The line of the check sheet about single precision; a format that keeps double precision does without.
fn single_check(single: &SinglePrecision, format: ReleaseFormat) -> Option<Check> {
    let claim = "Rounded to single precision in the file's unit it is a solid".to_owned();
    match single {
        SinglePrecision::Fit { mended, largest_move, leaves } => {
            let how = if *mended { "mended where rounding made it cross; " } else { "" };
            let gone = if *leaves > 0.0 {
                format!("; leaves thinner than it can tell are gone, reaching {leaves:.1e} mm")
            } else {
                String::new()
            };
            Some(Check { claim, holds: true, evidence: format!("{how}moved by at most {largest_move:.1e} mm{gone}") })
        }
        SinglePrecision::Unfit { at: [x, y, z] } if !format.keeps_double() => Some(Check {
            claim,
            holds: false,
            evidence: format!(
                "too fine at ({x}, {y}, {z}) mm; 3MF, OBJ and PLY keep double precision, or move the part nearer to the origin"
            ),
        }),
        SinglePrecision::Unfit { .. } => None,
    }
}

/// A part's name as a file name every system takes.
pub(crate) fn file_stem(name: &str) -> String {
    let tidy: String = name.chars().map(|c| if c.is_alphanumeric() || "-_.".contains(c) { c } else { '-' }).collect();
    let tidy = tidy.trim_matches(['-', '.']).to_lowercase();
    if tidy.is_empty() { "part".into() } else { tidy }
}
