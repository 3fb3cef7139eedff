//! Several parts released in one 3MF file: each proved as it would be alone, and again from the bytes of the file.

use nimbet_formats::{Body, LengthUnit, Limits, ReadError, ReleaseFormat, read_model, write_together};
use nimbet_kernel::{Mesh, Progress};
use nimbet_trade::fasten::ThreadMark;
use nimbet_trade::release::{Check, read_back_checks};
use nimbet_trade::words::count;
use nimbet_trade::{Examination, Figures, examine};

use crate::hash::Hash;
use crate::losses::{Loss, Losses};
use crate::release::{CheckSheet, PartProof, Proved, ReleaseAs, ReleaseError, Released, file_stem, prove};

/// The most parts of one file.
pub const MOST_TOGETHER: usize = 500;

/// A part that is released with others.
#[derive(Clone, Debug)]
pub struct PartToRelease {
    /// Its name.
    pub name: String,
    /// The colour it is shown in, red green blue.
    pub colour: [u8; 3],
    /// Its triangles, all threads cut.
    pub mesh: Mesh,
    /// What is known of it.
    pub examination: Examination,
    /// Its threads.
    pub threads: Vec<ThreadMark>,
    /// What mending took off it.
    pub losses: Losses,
}

/// Proves parts, writes them into one 3MF, reads the bytes back and proves each again.
///
/// # Errors
/// [`ReleaseError`], with the name of the part in each claim that does not hold; no file then.
pub fn release_together(
    title: &str,
    unit: LengthUnit,
    parts: &[PartToRelease],
    progress: &Progress,
) -> Result<Released, ReleaseError> {
    let format = ReleaseFormat::ThreeMf;
    let mut proved = Vec::with_capacity(parts.len());
    for (n, part) in parts.iter().enumerate() {
        let wanted = ReleaseAs { name: &part.name, colour: part.colour, format, unit, losses: part.losses.clone() };
        let turn = progress.stage(0.0, 0.5).part(n, parts.len());
        turn.report(0.0, &format!("proving {}", part.name))?;
        let one = prove(&wanted, &part.mesh, &part.examination, &part.threads, &turn);
        proved.push(one.map_err(|e| named(e, &part.name))?);
    }
    progress.report(0.5, "writing the file")?;
    let body = |(part, proved): (_, _)| {
        let (part, proved): (&PartToRelease, &Proved<'_>) = (part, proved);
        Body { name: &part.name, colour: part.colour, mesh: &proved.mesh }
    };
    let bodies: Vec<Body<'_>> = parts.iter().zip(&proved).map(body).collect();
    let (bytes, copies) = write_together(title, &bodies, unit)?;
    progress.report(0.55, "reading it back")?;
    let file = format!("{}.{}", file_stem(title), format.extension());
    let limits = Limits { triangles: usize::MAX };
    let again = read_model(&bytes[..], bytes.len() as u64, &file, &limits, &progress.stage(0.55, 0.65))
        .map_err(ReleaseError::ReadBack)?;
    let objects = copies.iter().filter(|c| c.is_none()).count();
    let whole = all_there(again.bodies.len(), parts.len(), objects);
    if !whole.holds {
        return Err(ReleaseError::NotProved(vec![whole]));
    }
    let mut proofs = Vec::with_capacity(parts.len());
    for (n, (part, Proved { checks, single, figures, .. })) in parts.iter().zip(proved).enumerate() {
        let turn = progress.stage(0.65, 1.0).part(n, parts.len());
        let body = again.body(n).map_err(ReleaseError::ReadBack)?;
        let body =
            body.map_points(|p| p * unit.millimetres()).map_err(|e| ReleaseError::ReadBack(ReadError::from(e)))?;
        // Afresh, as for a part alone.
        let seen = examine(&body, &turn)?;
        let again = read_back_checks(&figures, &seen.figures).into_iter().chain([in_place(&figures, &seen.figures)]);
        let checks: Vec<Check> = checks.into_iter().chain(again).collect();
        if checks.iter().any(|c| !c.holds) {
            return Err(named(ReleaseError::NotProved(checks), &part.name));
        }
        proofs.push(PartProof {
            part: part.name.clone(),
            of: None,
            copy_of: copies[n].map(|of| parts[of].name.clone()),
            volume: seen.figures.volume.unwrap_or(0.0),
            checks,
            losses: part.losses.clone(),
            single,
        });
    }
    let claims: usize = proofs.iter().map(|p| p.checks.len()).sum();
    let each = Check {
        claim: "Every part is proved by itself, and again from the file".into(),
        holds: true,
        evidence: count(claims, "claim", "claims"),
    };
    let steps = proofs.iter().flat_map(|p| p.losses.steps.iter().map(|loss| (&p.part, loss)));
    let steps = steps.map(|(part, loss)| Loss { title: format!("{part}: {}", loss.title), ..loss.clone() }).collect();
    let sheet = CheckSheet {
        part: title.to_owned(),
        file,
        format,
        unit,
        bytes: bytes.len(),
        hash: Hash::of(&bytes),
        volume: proofs.iter().map(|p| p.volume).sum(),
        checks: vec![whole, each],
        losses: Losses { steps, accepted: parts.iter().any(|p| p.losses.accepted), ..Losses::default() },
        single: None,
        parts: proofs,
        bill: vec![],
    };
    Ok(Released { bytes, sheet })
}

/// Whether all parts are read back, of which so many are objects of their own.
fn all_there(read: usize, parts: usize, objects: usize) -> Check {
    let all = count(parts, "part", "parts");
    let evidence = match parts - objects {
        0 => format!("{all}, each an object of its own"),
        repeats => {
            let (own, repeats) = (count(objects, "object", "objects"), count(repeats, "copy of one", "copies of one"));
            format!("{all}, {own} and {repeats}")
        }
    };
    Check { claim: "Read back, every part is in the file".into(), holds: read == parts, evidence }
}

/// Whether a part that was read back lies where it lay: a copy is where its object and its move put it.
fn in_place(part: &Figures, again: &Figures) -> Check {
    /// As a share of the largest coordinate: turning and moving cost some last places.
    const SAME: f64 = 1e-12;
    let ends = |f: &Figures| [f.least, [0, 1, 2].map(|k| f.least[k] + f.size[k])].concat();
    let (ends, ends_again) = (ends(part), ends(again));
    let largest = ends.iter().fold(0.0, |most: f64, x| most.max(x.abs()));
    let off = ends.iter().zip(&ends_again).fold(0.0, |most: f64, (a, b)| most.max((a - b).abs()));
    Check {
        claim: "Read back, it lies where it lay".into(),
        holds: off <= largest * SAME,
        evidence: format!("its ends are off by at most {off:.1e} mm"),
    }
}

/// What is against a release, with the part it is about.
fn named(error: ReleaseError, part: &str) -> ReleaseError {
    let ReleaseError::NotProved(checks) = error else { return error };
    let named = |c: Check| Check { claim: format!("{part}: {}", c.claim), ..c };
    ReleaseError::NotProved(checks.into_iter().map(named).collect())
}
