//! Half a fairlead: a horn on a foot, open where its mirror image will join it.

use std::f64::consts::TAU;

use nimbet_kernel::{Mesh, Point};

use super::{quad, welded};

/// The half at x above 0; its one rim is flat and lies in the plane x = 0.
pub fn half_fairlead() -> Mesh {
    const ROWS: usize = 60;
    const ROUND: usize = 48;
    // The middle line runs out along x, then rises and turns back over the rope.
    let middle = |u: f64| {
        let (straight, bend) = (34.0f64, 19.0f64);
        let length = u * (straight + bend * 215f64.to_radians());
        let turn = ((length - straight) / bend).max(0.0);
        let along = Point::new(turn.cos(), 0.0, turn.sin());
        let place = Point::new(length.min(straight) + bend * turn.sin(), 0.0, 12.0 + bend * (1.0 - turn.cos()));
        (place, along)
    };
    let at = |row: usize, k: usize| {
        let u = row as f64 / ROWS as f64;
        let (place, along) = middle(u);
        let angle = (k % ROUND) as f64 / ROUND as f64 * TAU;
        let up = along.cross(Point::Y) * -1.0;
        let tip = ((u - 0.94) / 0.06).clamp(0.0, 1.0);
        let r = (9.0 - 3.5 * u) * (1.0 - tip * tip).max(0.0).sqrt();
        // Broader at the foot, where it is bolted down.
        let foot = 1.0 + 0.6 * (1.0 - u * 2.5).max(0.0);
        let p = place + Point::Y * (r * foot * angle.cos()) + up * (r * angle.sin());
        if row == 0 { Point::new(0.0, p.y, p.z) } else { p }
    };
    let mut soup = Vec::new();
    for row in 0..ROWS {
        for k in 0..ROUND {
            let [a, b, c, d] = [at(row, k), at(row + 1, k), at(row + 1, k + 1), at(row, k + 1)];
            if row + 1 == ROWS { soup.extend([a, d, b]) } else { quad(&mut soup, [a, d, c, b]) }
        }
    }
    let mesh = welded(&soup);
    outward(mesh)
}

/// Turned over if it faces inward, by the volume between it and the plane of its rim.
fn outward(mut mesh: Mesh) -> Mesh {
    let sixfold: f64 = (0..mesh.triangles().len())
        .map(|t| {
            let [a, b, c] = mesh.corners(t);
            a.dot(b.cross(c))
        })
        .sum();
    if sixfold < 0.0 {
        mesh.reverse_triangles(|_| true);
    }
    mesh
}
