//! The porthole ring: four quarters cut into triangles separately, so that their seams do not quite meet, and one
//! T-junction in the first quarter.

use std::f64::consts::TAU;

use nimbet_kernel::{Mesh, Point};

use super::{quad, welded};

/// Width of the seam after each quarter, mm.
const SEAMS: [f64; 4] = [0.02, 0.04, 0.06, 0.08];
/// Sides of the profile in each quarter, between its corners.
const SIDES: [usize; 4] = [5, 4, 6, 3];
/// Steps round the ring in each quarter.
const STEPS: [usize; 4] = [30, 24, 34, 27];
/// The profile: an octagon-like section of a ring, radius and height, mm.
const PROFILE: [(f64, f64); 8] =
    [(62.0, 3.0), (65.0, 0.0), (81.0, 0.0), (84.0, 3.0), (84.0, 11.0), (79.0, 16.0), (67.0, 16.0), (62.0, 11.0)];

/// A ring of four patches, 168 mm across.
pub fn porthole_ring() -> Mesh {
    let mut soup = Vec::new();
    for quarter in 0..4 {
        let mut section: Vec<(f64, f64)> = Vec::new();
        for (i, &(r, z)) in PROFILE.iter().enumerate() {
            let (s, y) = PROFILE[(i + 1) % PROFILE.len()];
            let n = SIDES[quarter];
            section.extend((0..n).map(|k| k as f64 / n as f64).map(|t| (r + (s - r) * t, z + (y - z) * t)));
        }
        // Half of each seam is taken off the quarters it parts. A seam is as wide at every radius: the ends are parallel
        // to the plane of the seam.
        let (before, after) = (SEAMS[(quarter + 3) % 4] * 0.5, SEAMS[quarter] * 0.5);
        let steps = STEPS[quarter];
        let at = |(r, z): (f64, f64), step: usize| {
            let from = quarter as f64 * TAU / 4.0 + (before / r).asin();
            let to = (quarter + 1) as f64 * TAU / 4.0 - (after / r).asin();
            let angle = from + (to - from) * step as f64 / steps as f64;
            Point::new(r * angle.cos(), r * angle.sin(), z)
        };
        for step in 0..steps {
            for i in 0..section.len() {
                let (p, q) = (section[i], section[(i + 1) % section.len()]);
                let corners = [at(p, step), at(q, step), at(q, step + 1), at(p, step + 1)];
                if quarter == 0 && step == steps / 2 && i == section.len() / 2 {
                    // The T-junction: this side alone has a point in the middle of the edge it shares with the next step.
                    let [a, b, c, d] = corners;
                    let middle = c.lerp(d, 0.5);
                    soup.extend([a, c, b, a, middle, c, a, d, middle]);
                } else {
                    let [a, b, c, d] = corners;
                    quad(&mut soup, [a, d, c, b]);
                }
            }
        }
    }
    welded(&soup)
}
