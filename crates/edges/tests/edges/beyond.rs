//! How faces go on beyond their edges: of a drum, however large it is and however it lies.

use std::f64::consts::TAU;

use glam::DQuat;
use nimbet_edges::{Beyond, beyond};
use nimbet_kernel::{FaceId, Mesh, Point, Progress};
use proptest::prelude::*;

const SIDES: u32 = 30;

/// A drum of radius 10 and height 10: its wall, its floor, its lid.
fn drum(put: impl Fn(Point) -> Point) -> Mesh {
    let around = |k: u32, z: f64| {
        let (sin, cos) = (f64::from(k) * TAU / f64::from(SIDES)).sin_cos();
        Point::new(10.0 * cos, 10.0 * sin, z)
    };
    let rings = (0..SIDES).flat_map(|k| [around(k, 0.0), around(k, 10.0)]);
    let points = rings.chain([Point::ZERO, Point::Z * 10.0]).map(put).collect();
    let (mut triangles, mut faces) = (vec![], vec![]);
    for k in 0..SIDES {
        let j = (k + 1) % SIDES;
        triangles.extend([
            [2 * k, 2 * j, 2 * j + 1],
            [2 * k, 2 * j + 1, 2 * k + 1],
            [2 * SIDES, 2 * j, 2 * k],
            [2 * SIDES + 1, 2 * k + 1, 2 * j + 1],
        ]);
        faces.extend([0, 0, 1, 2].map(FaceId));
    }
    Mesh::new(points, triangles, faces).unwrap()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn faces_go_on_from_an_edge_whatever_its_size(
        power in -3.0f64..4.0, around in 0.0f64..6.3, off in -0.9f64..0.9, axis in (-1.0f64..1.0, -1.0f64..1.0, 0.1f64..1.0),
        angle in 0.0f64..6.0, within in 0.06f64..0.3,
    ) {
        let (size, turn) = (10f64.powf(power), DQuat::from_axis_angle(Point::new(axis.0, axis.1, axis.2).normalize(), angle));
        let mesh = drum(|p| turn * p * size);
        let out = Point::new(around.cos(), around.sin(), 0.0);
        // The edge runs up to 0.055 within its circle.
        let at = out * (10.0 + (within - 0.055) * off) + Point::Z * 10.0;
        let told = |at: Point, way: Point| -> Option<Beyond> {
            beyond(&mesh, &[(turn * at * size, turn * way * size)], within * size, &Progress::unwatched()).unwrap()[0]
        };
        let up = told(at, Point::Z * 3.0 - out).unwrap();
        prop_assert!(up.way.distance(turn * Point::Z) < 1e-6 && up.normal.dot(turn * out) > 0.99, "{up:?}");
        let aside = told(at, out * 3.0 - Point::Z).unwrap();
        prop_assert!(aside.way.dot(turn * out) > 0.99 && aside.normal.distance(turn * Point::Z) < 1e-6, "{aside:?}");
        // Neither goes back into the drum, and farther off there is no edge.
        prop_assert_eq!(told(at, -Point::Z - out), None);
        prop_assert_eq!(told(at + out * (2.0 * within), Point::Z), None);
    }
}
