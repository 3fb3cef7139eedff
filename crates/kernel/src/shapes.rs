//! Simple closed shapes with known figures, for demo parts, tests and benchmarks.

use crate::{Mesh, Point};

/// A block with its least corner at `at`: 12 triangles, outward.
pub fn block(at: Point, size: Point) -> Mesh {
    let corner = |i: usize| at + size * Point::new((i & 1) as f64, (i >> 1 & 1) as f64, (i >> 2 & 1) as f64);
    let quads = [[0, 2, 3, 1], [4, 5, 7, 6], [0, 1, 5, 4], [2, 6, 7, 3], [0, 4, 6, 2], [1, 3, 7, 5]];
    made((0..8).map(corner).collect(), quads.iter().flat_map(|&[a, b, c, d]| [[a, b, c], [a, c, d]]).collect())
}

/// A ball about the origin in `rows` rows of `2 · rows` quadrilaterals: `4 · rows · (rows − 1)` triangles, outward.
pub fn ball(radius: f64, rows: usize) -> Mesh {
    let round = 2 * rows;
    let mut points = vec![Point::Z * -radius, Point::Z * radius];
    for row in 1..rows {
        let (out, up) = (row as f64 / rows as f64 * std::f64::consts::PI).sin_cos();
        points.extend((0..round).map(|k| {
            let (y, x) = (k as f64 / round as f64 * std::f64::consts::TAU).sin_cos();
            Point::new(out * x, out * y, -up) * radius
        }));
    }
    let at = |row: usize, k: usize| match row {
        0 => 0,
        r if r == rows => 1,
        r => (2 + (r - 1) * round + k % round) as u32,
    };
    let mut triangles = Vec::with_capacity(2 * round * rows.saturating_sub(1));
    for row in 0..rows {
        for k in 0..round {
            let [a, b, c, d] = [at(row, k), at(row, k + 1), at(row + 1, k + 1), at(row + 1, k)];
            if a != b {
                triangles.push([a, b, c]);
            }
            if c != d {
                triangles.push([a, c, d]);
            }
        }
    }
    made(points, triangles)
}

/// A profile of (radius, height) points turned about z in `segments` steps; outward to the right of the profile's direction.
/// Points on the axis are tips; a profile that comes back to its first point makes a ring.
pub fn turned(profile: &[(f64, f64)], segments: usize) -> Mesh {
    let at = |(r, z): (f64, f64), k: usize| {
        let (y, x) = ((k % segments) as f64 / segments as f64 * std::f64::consts::TAU).sin_cos();
        Point::new(r * x, r * y, z)
    };
    let mut soup = Vec::new();
    for pair in profile.windows(2) {
        for k in 0..segments {
            let [a, b, c, d] = [at(pair[0], k), at(pair[0], k + 1), at(pair[1], k + 1), at(pair[1], k)];
            if pair[0].0 != 0.0 {
                soup.extend([a, b, c]);
            }
            if pair[1].0 != 0.0 {
                soup.extend([a, c, d]);
            }
        }
    }
    crate::weld::weld_corners(&soup).unwrap_or_default()
}

fn made(points: Vec<Point>, triangles: Vec<[u32; 3]>) -> Mesh {
    // Indices are in range by construction; coordinates are finite when the measures are.
    Mesh::with_one_face(points, triangles).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::measure::measure;
    use crate::topology::{EdgeUse, Topology};

    #[test]
    fn a_ball_is_closed_and_its_volume_nears_the_textbook_by_the_square_of_the_rows() {
        let lacking = |rows: usize| {
            let mesh = ball(3.0, rows);
            assert_eq!(mesh.triangles().len(), 4 * rows * (rows - 1));
            let topology = Topology::new(mesh.triangles(), mesh.points().len());
            assert_eq!(topology.edges_with(EdgeUse::Regular).count(), topology.edge_count());
            1.0 - measure(&mesh).volume / (4.0 / 3.0 * std::f64::consts::PI * 27.0)
        };
        let ratio = lacking(20) / lacking(40);
        assert!((ratio - 4.0).abs() < 0.05, "{ratio}");
    }
}
