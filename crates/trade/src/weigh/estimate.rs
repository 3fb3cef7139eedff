//! The volume of a part that is no solid, as far as one can be guessed: marked as a guess, with bounds.

use nimbet_kernel::winding::{Winding, facing_out};
use nimbet_kernel::{Aabb, Cancelled, Mesh, Point, Progress};
use rayon::prelude::*;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A guess at a volume, mm³.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct VolumeGuess {
    /// Where the surface winds round a place more than half.
    pub volume: f64,
    /// Where it is plainly inside.
    pub least: f64,
    /// Where it may be inside.
    pub most: f64,
}

/// Guesses at the volume of an open or tangled part by how much the surface winds round the places of a grid. The bounds hold what
/// is unsure because the surface is open, and the roughness of the grid.
///
/// # Errors
/// [`Cancelled`].
pub fn guess_volume(mesh: &Mesh, progress: &Progress) -> Result<VolumeGuess, Cancelled> {
    /// Places along the longest side.
    const FINE: f64 = 64.0;
    /// What an opening leaves unsure may reach beyond the surface by this share of the size.
    const BEYOND: f64 = 0.2;
    /// Wound round by less than this share a place is outside, by more than the rest inside.
    const UNSURE: f64 = 0.2;
    let bounds = Aabb::of(mesh.points().iter().copied());
    let bounds = bounds.grown(bounds.size().max_element() * BEYOND);
    let size = bounds.size();
    let step = size.max_element() / FINE;
    if step <= 0.0 || !step.is_finite() {
        return Ok(VolumeGuess { volume: 0.0, least: 0.0, most: 0.0 });
    }
    let turned = facing_out(mesh, &progress.stage(0.0, 0.2))?;
    let winding = Winding::new(&turned);
    let count = (size / step).ceil().max(Point::ONE);
    let cell = size.max(Point::splat(step * 1e-3)) / count;
    let [nx, ny, nz] = count.to_array().map(|n| n as usize);
    let done = std::sync::atomic::AtomicUsize::new(0);
    // Of each layer: cells inside, plainly inside, perhaps inside, and on the border of the grid's inside.
    let layers: Vec<[usize; 4]> = (0..nz)
        .into_par_iter()
        .map(|k| {
            let n = done.fetch_add(1, std::sync::atomic::Ordering::Relaxed);
            progress.report(0.2 + 0.8 * n as f64 / nz as f64, "guessing at the volume")?;
            let mut counts = [0; 4];
            for j in 0..ny {
                let mut before = 0.0;
                for i in 0..nx {
                    let p = bounds.min + cell * Point::new(i as f64 + 0.5, j as f64 + 0.5, k as f64 + 0.5);
                    let w = winding.at(p).clamp(0.0, 1.0);
                    counts[0] += usize::from(w > 0.5);
                    counts[1] += usize::from(w > 1.0 - UNSURE);
                    counts[2] += usize::from(w > UNSURE);
                    counts[3] += usize::from((w > 0.5) != (before > 0.5));
                    before = w;
                }
            }
            Ok(counts)
        })
        .collect::<Result<_, Cancelled>>()?;
    let sum = |n: usize| layers.iter().map(|l| l[n]).sum::<usize>() as f64;
    let of_cell = cell.x * cell.y * cell.z;
    // Cells at the border are off by up to half of themselves, one way or the other; the root of their number sums up.
    let rough = 2.0 * sum(3).sqrt() * of_cell;
    let volume = sum(0) * of_cell;
    Ok(VolumeGuess {
        volume,
        least: (sum(1) * of_cell - rough).max(0.0).min(volume),
        most: (sum(2) * of_cell + rough).max(volume),
    })
}
