//! The bailer: a tub cut low on one half, so that its rim has two levels and must be split to be closed well.

use std::f64::consts::TAU;

use nimbet_kernel::{Mesh, Point};

use super::{quad, welded};

/// A sheet: a tub of radius 45 mm, 70 mm high on one half and 34 mm on the other.
pub fn bailer() -> Mesh {
    const ROUND: usize = 96;
    const ROWS: usize = 12;
    let (high, low, radius) = (70.0, 34.0, 45.0);
    // The half from 0° to 180° is the high one, its ends at the corners of the rim.
    let at = |k: usize, share: f64, high_side: bool| {
        let a = (k % ROUND) as f64 / ROUND as f64 * TAU;
        let z = share * if high_side { high } else { low };
        let r = radius * (0.82 + 0.18 * z / high);
        Point::new(r * a.cos(), r * a.sin(), z)
    };
    let mut soup = Vec::new();
    for k in 0..ROUND {
        let up = k < ROUND / 2;
        soup.extend([Point::ZERO, at(k + 1, 0.0, up), at(k, 0.0, up)]);
        // Rows of equal height up to the low level, so that both halves share their points there.
        let rows = if up { (high / low * ROWS as f64).round() as usize } else { ROWS };
        let level = |row: usize| {
            let z = if row <= ROWS {
                low * row as f64 / ROWS as f64
            } else {
                low + (high - low) * (row - ROWS) as f64 / (rows - ROWS) as f64
            };
            z / if up { high } else { low }
        };
        for row in 0..rows {
            let (a, b) = (level(row), level(row + 1));
            quad(&mut soup, [at(k, a, up), at(k + 1, a, up), at(k + 1, b, up), at(k, b, up)]);
        }
    }
    welded(&soup)
}
