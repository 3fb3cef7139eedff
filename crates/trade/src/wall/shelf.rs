//! Walls that were measured, kept for as long as there is room, so that of a part that changed only what changed is measured
//! again.
//!
//! Kept for the whole process: the same mesh has the same walls, so what lies on the shelf shows in how long it takes, and in
//! figures no more than by rounding.

use std::collections::VecDeque;
use std::sync::{Arc, Mutex};

use nimbet_kernel::thickness::{Measured, Side, Way};
use nimbet_kernel::{Cancelled, Mesh, Point, Progress};

/// What is kept takes no more of the memory than this, bytes.
const ROOM: usize = 384 << 20;
/// Of what shares less with a mesh than this nothing is to be gained.
const WORTH: f64 = 0.2;

/// What was measured last comes last.
static SHELF: Mutex<VecDeque<Arc<Measured>>> = Mutex::new(VecDeque::new());

/// A size that only counts in steps of a tenth, so that a part that grows a little is measured as it was before.
pub(super) fn about(size: f64) -> f64 {
    const STEPS: f64 = 7.0;
    if size > 0.0 { ((size.log2() * STEPS).ceil() / STEPS).exp2() } else { size }
}

/// The thickness at places of a mesh, in the order of their triangles; what is known of the mesh is taken over.
pub(super) fn measured(
    mesh: Mesh,
    places: Vec<(u32, Point)>,
    how: (Side, Way),
    most: f64,
    progress: &Progress,
) -> Result<Arc<Measured>, Cancelled> {
    let known = SHELF.lock().map(|shelf| shelf.iter().cloned().collect::<Vec<_>>()).unwrap_or_default();
    let shared = known.iter().map(|k| k.knows(&mesh, how, most));
    let best = shared.enumerate().filter(|(_, share)| *share >= WORTH).max_by(|a, b| a.1.total_cmp(&b.1));
    let best = best.map(|(n, _)| known[n].clone());
    if let Some(same) = best.as_ref().filter(|b| *b.mesh() == mesh && b.places() == places) {
        return Ok(same.clone());
    }
    let made = Arc::new(Measured::new(mesh, places, (how, most), best.as_deref(), progress)?);
    if let Ok(mut shelf) = SHELF.lock() {
        shelf.push_back(made.clone());
        while shelf.iter().map(|m| m.bytes()).sum::<usize>() > ROOM {
            shelf.pop_front();
        }
    }
    Ok(made)
}
