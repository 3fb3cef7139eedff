//! Bounds without the seams along which they go there and back.

use rustc_hash::{FxHashMap, FxHashSet};

use super::{Chain, FaceFault};

/// The bounds without what is followed both ways, put together anew.
pub(crate) fn without_seams(bounds: &[Vec<Chain>]) -> Result<Vec<Vec<Chain>>, FaceFault> {
    let ways: FxHashSet<(u32, bool)> = bounds.iter().flatten().map(|c| (c.edge, c.forward)).collect();
    let left: Vec<&Chain> = bounds.iter().flatten().filter(|c| !ways.contains(&(c.edge, !c.forward))).collect();
    // Those that begin at each point, the last first.
    let mut from: FxHashMap<u32, Vec<usize>> = FxHashMap::default();
    left.iter().enumerate().rev().for_each(|(n, c)| from.entry(c.ids[0]).or_default().push(n));
    let mut used = vec![false; left.len()];
    let mut loops = Vec::new();
    for n in 0..left.len() {
        if std::mem::replace(&mut used[n], true) {
            continue;
        }
        let mut bound = vec![left[n].clone()];
        while bound.last().map(|c| c.ids[c.ids.len() - 1]) != Some(bound[0].ids[0]) {
            let end = bound.last().map(|c| c.ids[c.ids.len() - 1]);
            let all = end.and_then(|id| from.get_mut(&id)).ok_or(FaceFault::Unbounded)?;
            while all.last().is_some_and(|m| used[*m]) {
                all.pop();
            }
            let next = all.pop().ok_or(FaceFault::Unbounded)?;
            used[next] = true;
            bound.push(left[next].clone());
        }
        loops.push(bound);
    }
    Ok(loops)
}

/// The points of a bound, each once.
pub(crate) fn points_of(bound: &[Chain]) -> Vec<u32> {
    bound.iter().flat_map(|c| &c.ids[..c.ids.len() - 1]).copied().collect()
}

/// Whether a bound follows each of its edges both ways.
pub(super) fn is_seam(bound: &[Chain]) -> bool {
    let ways: FxHashSet<(u32, bool)> = bound.iter().map(|c| (c.edge, c.forward)).collect();
    bound.iter().all(|c| ways.contains(&(c.edge, !c.forward)))
}
