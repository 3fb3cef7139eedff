//! From parts to an arrangement and back.

use std::collections::BTreeSet;

use nimbet_kernel::arrange::{ArrangeError, Arrangement, Body};
use nimbet_kernel::measure::measure;
use nimbet_kernel::{Mesh, Progress};

use crate::TradeError;
use crate::operation::CutFaces;
use crate::words::volume_of;

/// Arranges solids; `names` says what each is called in an error. Of a first one known to be sealed only what is near the
/// others is looked at.
pub(crate) fn arranged(
    inputs: &[&Mesh],
    sealed: bool,
    names: &dyn Fn(usize) -> String,
    progress: &Progress,
) -> Result<Arrangement, TradeError> {
    refuse_unfit(inputs, names)?;
    let all = if sealed {
        Arrangement::of_sealed(inputs[0], &inputs[1..], progress)
    } else {
        Arrangement::new(inputs, &[], progress)
    };
    all.map_err(|e| told(e, names)).and_then(|all| refuse_inside_out(inputs, names).map(|()| all))
}

/// Arranges solids, and sheets that cut them.
pub(super) fn arranged_with(
    inputs: &[&Mesh],
    sheets: &[&Mesh],
    names: &dyn Fn(usize) -> String,
    progress: &Progress,
) -> Result<Arrangement, TradeError> {
    refuse_unfit(inputs, names)?;
    let all = Arrangement::new(inputs, sheets, progress).map_err(|e| told(e, names))?;
    refuse_inside_out(inputs, names)?;
    Ok(all)
}

fn refuse_unfit(inputs: &[&Mesh], names: &dyn Fn(usize) -> String) -> Result<(), TradeError> {
    match inputs.iter().position(|m| m.triangles().is_empty()) {
        Some(n) => Err(TradeError::refused(format!("{} has no triangles", names(n)), vec![])),
        None => Ok(()),
    }
}

/// A closed input that winds round nothing once is inside out.
fn refuse_inside_out(inputs: &[&Mesh], names: &dyn Fn(usize) -> String) -> Result<(), TradeError> {
    match inputs.iter().position(|m| measure(m).volume < 0.0) {
        Some(n) => {
            let why = format!("{} is inside out; turn it outward first", names(n));
            Err(TradeError::refused(why, vec![inputs[n].points()[0]]))
        }
        None => Ok(()),
    }
}

pub(crate) fn told(e: ArrangeError, names: &dyn Fn(usize) -> String) -> TradeError {
    match e {
        ArrangeError::Open { input, at } => TradeError::refused(
            format!("{} is open, so nothing can be said to be inside it; seal it first", names(input)),
            vec![at],
        ),
        ArrangeError::Cancelled(c) => c.into(),
        ArrangeError::Mesh(m) => m.into(),
    }
}

/// The body of a rule. Faces of the first input keep their numbers, those of the others are new.
pub(crate) fn body(
    all: &Arrangement,
    inside: impl Fn(&[i16]) -> bool,
    progress: &Progress,
) -> Result<Mesh, TradeError> {
    Ok(whole_body(all, inside, progress)?.mesh)
}

/// As [`body`], but where it would touch itself along an edge the least of the chambers there changes sides, none of more than
/// a share of the body.
pub(crate) fn body_without_pinches(
    all: &Arrangement,
    inside: impl Fn(&[i16]) -> bool,
    share: f64,
    progress: &Progress,
) -> Result<Mesh, TradeError> {
    let chambers = all.chambers(f64::INFINITY, &progress.stage(0.0, 0.4))?;
    let mut stays: Vec<bool> = (0..chambers.list().len()).map(|n| inside(chambers.winding(n))).collect();
    let volume: f64 = chambers.list().iter().zip(&stays).filter(|(_, s)| **s).map(|(c, _)| c.volume).sum();
    chambers.without_pinches(&mut stays, &vec![false; chambers.list().len()], volume * share);
    let chosen: Vec<usize> = (0..stays.len()).filter(|n| stays[*n]).collect();
    let made = chambers.body(&chosen, &progress.stage(0.4, 1.0)).map_err(|e| told(e, &|_| "the result".into()))?;
    Ok(made.mesh)
}

/// As [`body`], with the table of which input its faces came from.
pub(crate) fn whole_body(
    all: &Arrangement,
    inside: impl Fn(&[i16]) -> bool,
    progress: &Progress,
) -> Result<Body, TradeError> {
    all.body(inside, progress).map_err(|e| told(e, &|_| "the result".into()))
}

/// The faces of a body that inputs after the first cut; `by` has the part number of each of those.
pub(super) fn cut_faces(body: &Body, by: &[Option<u32>]) -> Vec<CutFaces> {
    let there: BTreeSet<u32> = body.mesh.face_of().iter().map(|f| f.0).collect();
    let ends = body.begin.iter().copied().skip(2).chain([u32::MAX]);
    let inputs = body.begin.iter().copied().skip(1).zip(ends).zip(by);
    let cut = inputs.map(|((first, end), by)| {
        let there = || there.range(first..end);
        CutFaces { by: *by, first, end: there().next_back().map_or(first, |last| last + 1), faces: there().count() }
    });
    cut.filter(|c| c.faces > 0).collect()
}

/// The volume of a body: `0.84 mm³`, `12.3 cm³`.
pub(crate) fn volume(mesh: &Mesh) -> String {
    volume_of(measure(mesh).volume)
}
