//! The tiller grip: as a scanner leaves it, with holes, noise, specks and a loose scrap.

use std::f64::consts::TAU;

use nimbet_kernel::{Mesh, Point};

use super::{quad, welded};

/// Roughness of the scan, mm.
const ROUGH: f64 = 0.12;
/// Where the scanner saw nothing: along the grip, round it, and how far that reaches, mm.
const UNSEEN: [(f64, f64, f64); 4] = [(24.0, 0.6, 4.5), (58.0, 2.9, 6.0), (83.0, 4.4, 3.2), (104.0, 1.7, 3.8)];

/// A number between −1 and 1 from two counters, the same each time.
fn noise(i: usize, k: usize) -> f64 {
    let mut x = (i as u32).wrapping_mul(0x9E37_79B1) ^ (k as u32).wrapping_mul(0x85EB_CA77);
    x ^= x >> 15;
    x = x.wrapping_mul(0x2C1B_3C6D);
    x ^= x >> 13;
    f64::from(x) / f64::from(u32::MAX) * 2.0 - 1.0
}

/// A grip for a hand, 120 mm long, of about 14 000 triangles.
pub fn tiller_grip() -> Mesh {
    const ROWS: usize = 84;
    const ROUND: usize = 84;
    const LENGTH: f64 = 120.0;
    let at = |row: usize, k: usize| {
        let u = row as f64 / ROWS as f64;
        let angle = (k % ROUND) as f64 / ROUND as f64 * TAU;
        // Rounded at both ends, swollen for the palm, with four hollows for the fingers.
        let ends = (1.0 - (2.0 * u - 1.0).powi(8)).max(0.0).sqrt();
        let fingers = 0.9 * (u * 4.0 * TAU).cos() * angle.cos().max(0.0);
        let r = ends * (13.0 + 2.5 * (u * TAU * 0.5).sin() + fingers + ROUGH * noise(row, k % ROUND));
        let bend = 6.0 * (u - 0.5) * (u - 0.5);
        let z = if row == 0 || row == ROWS { u * LENGTH } else { u * LENGTH + ROUGH * noise(row + 500, k % ROUND) };
        Point::new(r * angle.cos() * 1.15 + bend, r * angle.sin(), z)
    };
    let unseen = |row: usize, k: usize| {
        UNSEEN.iter().any(|(z, angle, reach)| {
            let centre = Point::new(17.0 * angle.cos(), 14.0 * angle.sin(), *z);
            let p = at(row, k);
            (p - centre).length() < reach + 1.5 * noise(row + 900, k)
        })
    };
    let mut soup = Vec::new();
    for row in 0..ROWS {
        for k in 0..ROUND {
            if unseen(row, k) {
                continue;
            }
            let [a, b, c, d] = [at(row, k), at(row, k + 1), at(row + 1, k + 1), at(row + 1, k)];
            match row {
                0 => soup.extend([a, c, d]),
                r if r + 1 == ROWS => soup.extend([a, b, c]),
                _ => quad(&mut soup, [a, b, c, d]),
            }
        }
    }
    // Specks beside the grip, and a scrap of surface.
    for n in 0..5 {
        let at = Point::new(24.0 + noise(n, 1), 6.0 * noise(n, 2), 20.0 + 20.0 * n as f64);
        let [a, b, c, d] = [at, at + Point::X * 0.5, at + Point::Y * 0.5, at + Point::Z * 0.5];
        soup.extend([a, c, b, a, b, d, b, c, d, c, a, d]);
    }
    let scrap = Point::new(-24.0, 0.0, 70.0);
    quad(&mut soup, [scrap, scrap + Point::Y * 0.6, scrap + Point::new(0.1, 0.6, 0.7), scrap + Point::Z * 0.7]);
    welded(&soup)
}
