//! The cup of a bilge strainer: a vessel with a ring of holes below its brim.

use nimbet_kernel::{Mesh, Point, Progress};

use super::{drum, grouped, revolve, welded};
use crate::Operation;
use crate::shape::Difference;

/// The height of the middle of the holes, and their diameter, mm.
pub const HOLES: (f64, f64) = (46.0, 4.0);

/// A cup of 56 mm across and 54 high, 2 mm thick, with ten holes: a solid.
pub fn strainer_cup() -> Mesh {
    const SEGMENTS: usize = 72;
    const ROUND: usize = 10;
    // The outside up, the brim, the inside down.
    let profile = [(0.0, 0.0), (22.0, 0.0), (24.0, 2.0), (28.0, 54.0), (26.0, 54.0), (22.0, 3.0), (0.0, 3.0)];
    let mut soup = Vec::new();
    revolve(&mut soup, &profile, SEGMENTS);
    let holes: Vec<Mesh> = (0..ROUND)
        .map(|n| {
            let (sin, cos) = (n as f64 / ROUND as f64 * std::f64::consts::TAU).sin_cos();
            // From the axis outward.
            drum(HOLES.1 * 0.5, 40.0, 24, |p| {
                Point::new(p.z * cos - p.x * sin, p.z * sin + p.x * cos, HOLES.0 + p.y)
                    + Point::new(cos, sin, 0.0) * 10.0
            })
        })
        .collect();
    let cut = Operation::of(Difference { with: (2..2 + ROUND as u32).collect(), ..Default::default() });
    // Fixed figures always cut.
    cut.apply(&grouped(welded(&soup)), &holes, &Progress::unwatched()).map(|o| o.mesh).unwrap_or_default()
}
