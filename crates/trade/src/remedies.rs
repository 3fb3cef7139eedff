//! Which tools remedy what was found.

use nimbet_kernel::{Cancelled, Mesh, Progress};

use crate::TradeError;
use crate::examine::{self, Examination, Finding, Known, Remedy, Seen};
use crate::tools::kinds;
use crate::wall::{self, Process, WallFinding};

/// Adds to findings the remedies the tools offer for them, the best first.
pub fn prescribe<'a>(findings: impl IntoIterator<Item = &'a mut Finding>) {
    let kinds = kinds();
    for finding in findings {
        let mut cures: Vec<_> = kinds.iter().flat_map(|k| (k.remedies)(&finding.about)).collect();
        cures.sort_by_key(|c| c.rank);
        finding.remedies.extend(cures.into_iter().map(|c| Remedy { label: c.label, operation: c.operation }));
    }
}

/// Examines a mesh: its figures, what is wrong with it, and what remedies that.
///
/// # Errors
/// [`Cancelled`].
pub fn examine(mesh: &Mesh, progress: &Progress) -> Result<Examination, Cancelled> {
    Ok(look(mesh, None, progress)?.examination)
}

/// Examines a mesh; of one that was known before something was done to it, only what is new is searched for crossings.
///
/// # Errors
/// [`Cancelled`].
pub fn look(mesh: &Mesh, known: Option<Known<'_>>, progress: &Progress) -> Result<Seen, Cancelled> {
    let mut seen = examine::look(mesh, known, progress)?;
    prescribe(&mut seen.examination.findings);
    Ok(seen)
}

/// What is wrong with the walls and corners of a sealed part, made by a process, and what remedies that; nothing of one that is not
/// sealed.
///
/// # Errors
/// [`TradeError::Cancelled`].
pub fn wall_findings(
    mesh: &Mesh,
    seen: &Examination,
    asks: &Process,
    progress: &Progress,
) -> Result<Vec<WallFinding>, TradeError> {
    let mut found = wall::wall_findings(mesh, seen, asks, progress)?;
    prescribe(found.iter_mut().map(|f| &mut f.finding));
    Ok(found)
}
