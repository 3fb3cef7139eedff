//! The mooring buoy: a closed body with a void whose shell faces the wrong way.

use std::f64::consts::PI;

use nimbet_kernel::Mesh;

use super::{revolve, welded};

/// A hollow buoy, 180 mm high. The void's triangles face outward as if it were a body.
pub fn mooring_buoy() -> Mesh {
    const ROWS: usize = 40;
    const ROUND: usize = 80;
    // A pear: a sphere whose upper half is drawn up. From the foot to the top.
    let pear = |wall: f64| -> Vec<(f64, f64)> {
        (0..=ROWS)
            .map(|i| {
                let a = i as f64 / ROWS as f64 * PI;
                let radius = if i == 0 || i == ROWS { 0.0 } else { (70.0 - wall) * a.sin() };
                let height = if a < PI / 2.0 { 70.0 - wall } else { 110.0 - wall };
                (radius, -height * a.cos())
            })
            .collect()
    };
    let mut soup = Vec::new();
    revolve(&mut soup, &pear(0.0), ROUND);
    revolve(&mut soup, &pear(6.0), ROUND);
    welded(&soup)
}
