//! New surface may not pass through the part or lie on it, unless that is asked for.

use std::collections::HashSet;

use nimbet_kernel::crossings::crossing_any;
use nimbet_kernel::{Cancelled, Mesh, Point, Progress};

use crate::TradeError;
use crate::words::count;

/// The triangles from `first` on that pass through any triangle or lie on an earlier one, ascending.
pub(super) fn clashing(mesh: &Mesh, first: usize, progress: &Progress) -> Result<Vec<u32>, Cancelled> {
    let (old, new) = mesh.triangles().split_at(first);
    let some: Vec<u32> = (first as u32..mesh.triangles().len() as u32).collect();
    let mut clashing: Vec<u32> = crossing_any(mesh, &some, progress)?.into_iter().map(|(t, _)| t).collect();
    let sorted = |t: &[u32; 3]| {
        let mut t = *t;
        t.sort_unstable();
        t
    };
    let corners: HashSet<[u32; 3]> = new.iter().map(sorted).collect();
    let doubled: HashSet<[u32; 3]> = old.iter().map(sorted).filter(|t| corners.contains(t)).collect();
    clashing.extend(some.iter().filter(|t| doubled.contains(&sorted(&mesh.triangles()[**t as usize]))));
    clashing.sort_unstable();
    clashing.dedup();
    Ok(clashing)
}

/// Refuses new surface, the triangles from `first` on, that passes through the part, with the places.
pub(crate) fn refuse_clash(mesh: &Mesh, first: usize, what: &str, progress: &Progress) -> Result<(), TradeError> {
    match &clashing(mesh, first, progress)?[..] {
        [] => Ok(()),
        clashing => Err(clash(mesh, clashing, what)),
    }
}

/// The refusal of new surface of which some triangles clash.
pub(super) fn clash(mesh: &Mesh, clashing: &[u32], what: &str) -> TradeError {
    /// More places than this show no more.
    const SHOWN: usize = 12;
    let middle = |t: &u32| mesh.corners(*t as usize).iter().sum::<Point>() / 3.0;
    let triangles = count(clashing.len(), "new triangle crosses or lies on it", "new triangles cross or lie on it");
    TradeError::refused(
        format!(
            "{what} would pass through the part: {triangles}; choose another shape or other runs, or let it pass through and untangle the part after"
        ),
        clashing.iter().step_by(clashing.len().div_ceil(SHOWN)).map(middle).collect(),
    )
}
