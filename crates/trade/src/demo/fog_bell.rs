//! A turned bell without thickness: crown, shoulder, waist and lip, open at the foot.

use nimbet_kernel::Mesh;

use super::{revolve, welded};

/// Facets round it.
const SEGMENTS: usize = 96;

/// A sheet of about 120 mm across, 110 mm high, open at the lip.
pub fn fog_bell() -> Mesh {
    // Radius and height from the lip to the crown, in mm; points between by a smooth curve through these.
    const OUTLINE: [(f64, f64); 8] =
        [(60.0, 0.0), (54.0, 8.0), (46.0, 24.0), (40.0, 46.0), (36.0, 70.0), (33.0, 88.0), (22.0, 102.0), (0.0, 108.0)];
    const STEPS: usize = 6;
    let at = |n: isize| OUTLINE[n.clamp(0, OUTLINE.len() as isize - 1) as usize];
    let mut profile = Vec::new();
    for n in 0..OUTLINE.len() as isize - 1 {
        let (a, b, c, d) = (at(n - 1), at(n), at(n + 1), at(n + 2));
        for k in 0..STEPS {
            let t = k as f64 / STEPS as f64;
            // Catmull and Rom 1974.
            let curve = |a: f64, b: f64, c: f64, d: f64| {
                0.5 * (2.0 * b
                    + (c - a) * t
                    + (2.0 * a - 5.0 * b + 4.0 * c - d) * t * t
                    + (3.0 * b - a - 3.0 * c + d) * t * t * t)
            };
            profile.push((curve(a.0, b.0, c.0, d.0), curve(a.1, b.1, c.1, d.1)));
        }
    }
    profile.push(at(OUTLINE.len() as isize - 1));
    let mut soup = Vec::new();
    revolve(&mut soup, &profile, SEGMENTS);
    welded(&soup)
}
