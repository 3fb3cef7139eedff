//! The bend of a stanchion: a tube led round a corner more tightly than its own radius.

use std::f64::consts::{FRAC_PI_2, TAU};

use nimbet_kernel::{Mesh, Point};

use super::{Soup, quad, welded};

/// A bar of 24 mm round a bend of 9 mm, closed at both ends.
pub fn stanchion_bend() -> Mesh {
    const RADIUS: f64 = 12.0;
    const BEND: f64 = 9.0;
    const ARM: f64 = 60.0;
    const ROUND: usize = 32;
    // The middle line rises, bends by a right angle towards x and runs on; with each place the direction away from the bend.
    let mut axis: Vec<(Point, Point)> = vec![(Point::ZERO, -Point::X)];
    axis.extend((0..=14).map(|k| {
        let (sine, cosine) = (f64::from(k) / 14.0 * FRAC_PI_2).sin_cos();
        let out = Point::new(-cosine, 0.0, sine);
        (Point::new(BEND, 0.0, ARM) + out * BEND, out)
    }));
    axis.push((Point::new(BEND + ARM, 0.0, ARM + BEND), Point::Z));
    let at = |i: usize, k: usize| {
        let (middle, out) = axis[i];
        let (sine, cosine) = ((k % ROUND) as f64 / ROUND as f64 * TAU).sin_cos();
        middle + out * (RADIUS * cosine) + Point::Y * (RADIUS * sine)
    };
    let mut soup: Soup = Vec::new();
    let last = axis.len() - 1;
    for k in 0..ROUND {
        for i in 0..last {
            quad(&mut soup, [at(i, k + 1), at(i, k), at(i + 1, k), at(i + 1, k + 1)]);
        }
        soup.extend([axis[0].0, at(0, k), at(0, k + 1)]);
        soup.extend([axis[last].0, at(last, k + 1), at(last, k)]);
    }
    let mut mesh = welded(&soup);
    if nimbet_kernel::measure::measure(&mesh).volume < 0.0 {
        mesh.reverse_triangles(|_| true);
    }
    mesh
}
