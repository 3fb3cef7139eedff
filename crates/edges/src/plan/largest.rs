//! The largest figure that runs could have, by where their sections lie.

use nimbet_kernel::{Aabb, Cancelled};

use super::{LEAST_STEP, Planner, Wanted};

/// Told figures stay so much below what was found.
const BELOW: f64 = 1.0 - 1e-3;

impl Planner<'_> {
    /// The share of what runs are given that is the largest they can have together, by where their sections lie.
    ///
    /// # Errors
    /// [`Cancelled`].
    pub fn largest(&self, wanted: &[Wanted]) -> Result<f64, Cancelled> {
        let extent = Aabb::of(self.graph.mesh.points().iter().copied()).diagonal();
        let size = wanted.iter().map(Wanted::size).fold(f64::MIN_POSITIVE, f64::max);
        // Each by itself first: that is told sooner. Those with another across a face may have more together.
        let across = self.with_others_across(wanted);
        let alone = wanted.iter().filter(|w| !across.contains(&w.run));
        let each = alone.map(|w| largest(extent / size, |by| self.checked(&w.scaled(by)).is_ok()) / BELOW);
        let each = each.fold(extent / size, f64::min);
        let found = largest(each, |by| {
            let scaled: Vec<Wanted> = wanted.iter().map(|w| w.scaled(by)).collect();
            self.spines(&scaled).is_ok()
        });
        self.progress.check()?;
        // Just above what leaves a point of a face there may be what takes all of it.
        let tips =
            wanted.iter().filter_map(|w| Some(self.room_in(&w.scaled(found), &self.places(w, found))?.1 / w.size()));
        let whole = tips.fold(0.0, f64::max);
        let near = whole > found && whole < found * (1.0 + 2.0 * LEAST_STEP);
        let all = || self.spines(&wanted.iter().map(|w| w.scaled(whole)).collect::<Vec<_>>());
        Ok(if near && all().is_ok() { whole } else { found })
    }
}

/// The largest figure up to `most` that does: less and less until one does, then by halving, a little below what does not. What is more
/// than a bend of an edge may do where a little less does not, so steps are small.
fn largest(most: f64, does: impl FnMut(f64) -> bool) -> f64 {
    /// From the extent of a part to what is told.
    const HALVINGS: usize = 50;
    /// Each is so much of the one before.
    const LESS: f64 = 0.6;
    let mut does = does;
    if does(most) {
        return most * BELOW;
    }
    let (mut low, mut high) = (0.0, most);
    for _ in 0..HALVINGS {
        if high - low <= low * 1e-4 {
            break;
        }
        // Far above what does the share counts, not the difference.
        let middle = if low > 0.0 { f64::midpoint(low, high) } else { high * LESS };
        if does(middle) { low = middle } else { high = middle }
    }
    low * BELOW
}
