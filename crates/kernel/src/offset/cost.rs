//! How many triangles rounding will take, before anything is made.

use std::f64::consts::TAU;

use super::build::{BY_SQUARE, step_angle};
use crate::{Mesh, Point, Topology};

/// About how many triangles the arcs and spheres take that go round a surface at a distance, mm (below 0 inward), with arcs within
/// `chord` of true ones.
pub fn rounding(mesh: &Mesh, by: f64, chord: f64) -> f64 {
    let step = step_angle(by.abs(), chord);
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let normal = |half: u32| mesh.area_vector(half as usize / 3).normalize_or_zero();
    let mut turned = 0.0;
    for edge in 0..topology.edge_count() as u32 {
        if let [one, other] = *topology.halves(edge) {
            let corner = |half: u32| mesh.corners(half as usize / 3)[(half as usize + 2) % 3];
            let opens = normal(one).dot(corner(other) - corner(one)) < 0.0;
            let angle = normal(one).dot(normal(other)).clamp(-1.0, 1.0).acos();
            turned += if opens == (by > 0.0) { angle } else { 0.0 };
        }
    }
    // The solid angle of a corner that stands out is what its triangles lack of a full turn.
    let mut lack = vec![TAU; mesh.points().len()];
    for (t, corners) in mesh.triangles().iter().enumerate() {
        let at = mesh.corners(t);
        for k in 0..3 {
            let way = |to: usize| -> Point { (at[(k + to) % 3] - at[k]).normalize_or_zero() };
            lack[corners[k] as usize] -= way(1).dot(way(2)).clamp(-1.0, 1.0).acos();
        }
    }
    let solid: f64 = lack.iter().filter(|a| **a > 0.0 && **a < TAU).sum();
    2.0 * turned / step + BY_SQUARE * solid / (step * step)
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)] // a failed test says so by panicking

    use super::super::{Corners, How, Rims, grow};
    use super::*;
    use crate::shapes::{ball, block};

    /// What is made has about as many triangles as was said, whatever the distance and the chord.
    #[test]
    fn what_rounding_takes_is_known_beforehand() {
        let cube = block(Point::ZERO, Point::splat(10.0));
        for (by, chord) in [(1.0, 0.1), (1.0, 0.001), (4.0, 0.01), (30.0, 0.01)] {
            let how = How { corners: Corners::Round, rims: Rims::Square, chord };
            let made = grow(&cube, &|_| by, &how, &crate::Progress::unwatched()).unwrap().mesh.triangles().len() as f64;
            let said = rounding(&cube, by, chord) + 12.0;
            assert!(said > made * 0.3 && said < made * 4.0, "{by}, {chord}: {said} for {made}");
        }
        assert!(rounding(&cube, 1.0, 1e-12) > 1e9 && rounding(&cube, 1e6, 1e-3) > 1e7);
        assert!(rounding(&ball(10.0, 30), -1.0, 0.01) < 1e5, "nothing of a ball opens inward");
    }
}
