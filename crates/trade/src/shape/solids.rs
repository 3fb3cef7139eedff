//! From parts to an arrangement and back.

use nimbet_kernel::arrange::{ArrangeError, Arrangement};
use nimbet_kernel::measure::measure;
use nimbet_kernel::{Mesh, Progress};

use crate::TradeError;
use crate::words::figure;

/// Arranges solids; `names` says what each is called in an error. Of a first one known to be sealed only what is near the
/// others is looked at.
pub(super) fn arranged(
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

pub(super) fn told(e: ArrangeError, names: &dyn Fn(usize) -> String) -> TradeError {
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
pub(super) fn body(
    all: &Arrangement,
    inside: impl Fn(&[i16]) -> bool,
    progress: &Progress,
) -> Result<Mesh, TradeError> {
    Ok(all.body(inside, progress).map_err(|e| told(e, &|_| "the result".into()))?.mesh)
}

/// A volume: `0.84 mm³`, `12.3 cm³`.
pub(super) fn volume(mesh: &Mesh) -> String {
    let v = measure(mesh).volume;
    if v.abs() >= 1000.0 { format!("{} cm³", figure(v / 1000.0)) } else { format!("{} mm³", figure(v)) }
}
