//! The vent cowl: a bent, widening tube of no thickness with a flat base rim and a wavy mouth rim.

use std::f64::consts::TAU;

use nimbet_kernel::{Mesh, Point};

use super::{quad, welded};

/// A free-form sheet, 240 mm high, open at both ends.
pub fn vent_cowl() -> Mesh {
    const ROWS: usize = 40;
    const ROUND: usize = 72;
    let at = |row: usize, k: usize| {
        let u = row as f64 / ROWS as f64;
        let angle = (k % ROUND) as f64 / ROUND as f64 * TAU;
        // The axis rises straight for 45 mm and then bends forward by 80° with a radius of 125 mm.
        let (straight, bend) = (45.0f64, 125.0f64);
        let length = u * (straight + bend * 80f64.to_radians());
        let turn = ((length - straight) / bend).max(0.0);
        let axis = Point::new(bend * (1.0 - turn.cos()), 0.0, length.min(straight) + bend * turn.sin());
        let (across, forward) = (Point::new(turn.cos(), 0.0, -turn.sin()), Point::new(turn.sin(), 0.0, turn.cos()));
        let flare = (u - 0.35).max(0.0) / 0.65;
        let radius = 42.0 + 26.0 * flare * flare;
        let round = across * (radius * angle.cos()) + Point::Y * (radius * angle.sin());
        // The mouth waves: seven lobes that fade out below it.
        let wave = 5.0 * flare.powi(3) * (7.0 * angle).cos();
        let p = axis + round + forward * wave;
        if row == 0 { Point::new(p.x, p.y, 0.0) } else { p }
    };
    let mut soup = Vec::new();
    for row in 0..ROWS {
        for k in 0..ROUND {
            quad(&mut soup, [at(row, k), at(row, k + 1), at(row + 1, k + 1), at(row + 1, k)]);
        }
    }
    welded(&soup)
}
