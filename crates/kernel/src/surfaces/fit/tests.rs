//! Surfaces are found again from their triangles, however they lie and however large they are; what lies on none is told to lie on none.

use glam::DQuat;
use proptest::prelude::*;

use super::super::default_tolerance;
use super::*;

/// So many rows and columns of places.
const ROWS: u32 = 12;

/// A patch of triangles over places of a square.
fn patch(at: impl Fn(f64, f64) -> Point) -> Mesh {
    let share = |k: u32| f64::from(k) / f64::from(ROWS);
    let points =
        (0..=ROWS).flat_map(|i| (0..=ROWS).map(move |j| (i, j))).map(|(i, j)| at(share(i), share(j))).collect();
    let name = |i: u32, j: u32| i * (ROWS + 1) + j;
    let cells = (0..ROWS).flat_map(|i| (0..ROWS).map(move |j| (i, j)));
    let triangles = cells.flat_map(|(i, j)| {
        let [a, b, c, d] = [name(i, j), name(i + 1, j), name(i + 1, j + 1), name(i, j + 1)];
        [[a, b, c], [a, c, d]]
    });
    Mesh::with_one_face(points, triangles.collect()).unwrap()
}

/// A patch of a surface of each kind about the origin; (u, v) go over a part of it.
fn of(kind: Kind, u: f64, v: f64) -> Point {
    let (c, s) = ((u * 1.7).cos(), (u * 1.7).sin());
    match kind {
        Kind::Plane => Point::new(u * 9.0, v * 6.0, 0.0),
        Kind::Cylinder => Point::new(5.0 * c, 5.0 * s, v * 7.0),
        Kind::Sphere => {
            let (cv, sv) = ((v * 1.1 - 0.4).cos(), (v * 1.1 - 0.4).sin());
            Point::new(6.0 * c * cv, 6.0 * s * cv, 6.0 * sv)
        }
        Kind::Cone => {
            let far = 4.0 + v * 8.0;
            Point::new(far * 0.4 * c, far * 0.4 * s, far)
        }
        Kind::Torus => {
            let (cv, sv) = ((v * 2.0).cos(), (v * 2.0).sin());
            Point::new((11.0 + 3.0 * cv) * c, (11.0 + 3.0 * cv) * s, 3.0 * sv)
        }
    }
}

/// The figures of a surface that do not depend on how it lies.
fn figures(surface: &Surface) -> Vec<f64> {
    match *surface {
        Surface::Plane { .. } => vec![],
        Surface::Cylinder { radius, .. } | Surface::Sphere { radius, .. } => vec![radius],
        Surface::Cone { half_angle, .. } => vec![half_angle],
        Surface::Torus { major, minor, .. } => vec![major, minor],
    }
}

fn all(mesh: &Mesh) -> Sample {
    Sample::of(mesh, &(0..mesh.triangles().len() as u32).collect::<Vec<_>>())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn each_kind_is_found_again_with_its_figures(
        kind in 0usize..5, axis in (-1.0f64..1.0, -1.0f64..1.0, 0.1f64..1.0), angle in 0.0f64..6.0,
        far in (-1e4f64..1e4, -1e4f64..1e4, -1e4f64..1e4), power in -2i32..4, single in any::<bool>(),
    ) {
        let (kind, size) = (Kind::ALL[kind], 10f64.powi(power));
        let turn = DQuat::from_axis_angle(Point::new(axis.0, axis.1, axis.2).normalize(), angle);
        let away = if single { Point::ZERO } else { Point::new(far.0, far.1, far.2) };
        let rounded = |x: f64| if single { f64::from(x as f32) } else { x };
        let put = |p: Point| Point::from_array(((turn * p + away) * size).to_array().map(rounded));
        let mesh = patch(|u, v| put(of(kind, u, v)));
        let tolerance = default_tolerance(&Aabb::of(mesh.points().iter().copied()));
        let found = best_fit(&all(&mesh), tolerance);
        prop_assert_eq!(found.map(|s| s.kind()), Some(kind));
        let found = found.unwrap();
        // It goes through places the triangles have no corner at.
        for k in 0..30 {
            let (u, v) = ((f64::from(k) * 0.377).fract(), (f64::from(k) * 0.619).fract());
            prop_assert!(found.distance(put(of(kind, u, v))).abs() <= tolerance, "{found:?}");
        }
        let plain = patch(|u, v| of(kind, u, v));
        let plain = best_fit(&all(&plain), default_tolerance(&Aabb::of(plain.points().iter().copied()))).unwrap();
        for (turned, figure) in figures(&found).iter().zip(figures(&plain)) {
            let scale = if kind == Kind::Cone { 1.0 } else { size };
            prop_assert!((turned / scale - figure).abs() < 1e-3 * figure, "{turned} {figure}");
        }
        // Its normal is the way in which its distance grows.
        let at = put(of(kind, 0.4, 0.6)) + found.normal(put(of(kind, 0.4, 0.6))) * size * 0.3;
        prop_assert!((found.distance(at) - size * 0.3).abs() < size * 1e-4);
    }
}

#[test]
fn what_lies_on_no_simple_surface_is_told_so() {
    let saddle = patch(|u, v| Point::new(u * 10.0 - 5.0, v * 10.0 - 5.0, (u - 0.5) * (v - 0.5) * 8.0));
    assert_eq!(best_fit(&all(&saddle), 1e-3), None);
    // An oval pipe is no cylinder, but from far enough off it is.
    let oval = |off: f64| patch(|u, v| Point::new((5.0 + off) * (u * 1.7).cos(), 5.0 * (u * 1.7).sin(), v * 7.0));
    assert_eq!(best_fit(&all(&oval(0.4)), 1e-3), None);
    assert_eq!(best_fit(&all(&oval(0.0004)), 1e-3).map(|s| s.kind()), Some(Kind::Cylinder));
}

#[test]
fn a_sample_that_tells_no_surface_gives_none() {
    // One flat triangle tells a plane and nothing else; two that lean to each other no cylinder.
    let one = Mesh::with_one_face(vec![Point::ZERO, Point::X, Point::Y], vec![[0, 1, 2]]).unwrap();
    assert_eq!(Kind::ALL.map(|k| fit(k, &all(&one), 1e-6).is_some()), [true, false, false, false, false]);
    let two =
        Mesh::with_one_face(vec![Point::ZERO, Point::X, Point::Y, Point::ONE], vec![[0, 1, 2], [1, 3, 2]]).unwrap();
    assert!(fit(Kind::Cylinder, &all(&two), 1e-6).is_none());
    // Without area, without extent, without anything: no answer, and no panic.
    let flat = Mesh::with_one_face(vec![Point::ZERO, Point::X, Point::X * 2.0], vec![[0, 1, 2]]).unwrap();
    let none = Mesh::with_one_face(vec![Point::ONE; 3], vec![[0, 1, 2]]).unwrap();
    for mesh in [flat, none, Mesh::default()] {
        let _ = Kind::ALL.map(|k| fit(k, &all(&mesh), 1e-6));
        assert!(best_fit(&all(&mesh), 1e-6).is_none_or(|s| s.kind() == Kind::Plane));
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    /// The corners of a slight bend lie on a circle or not, and on many balls as well; its sides all stand alike.
    #[test]
    fn sides_of_a_prism_are_no_ball_cone_or_ring(
        sides in 4u32..9, wide in 0.2f64..2.0, bend in 0.01f64..0.4, lean in -0.3f64..0.3, high in 0.1f64..20.0,
        axis in (-1.0f64..1.0, -1.0f64..1.0, 0.1f64..1.0), angle in 0.0f64..6.0, loose in 1e-6f64..1e-2,
    ) {
        let turn = DQuat::from_axis_angle(Point::new(axis.0, axis.1, axis.2).normalize(), angle);
        let at = |k: u32, z: f64| {
            let x = (f64::from(k) / f64::from(sides) - 0.5) * wide;
            turn * Point::new(x, (bend + lean * x) * x * x, z)
        };
        let points = (0..=sides).flat_map(|k| [at(k, 0.0), at(k, high)]).collect();
        let strip = (0..sides).flat_map(|k| [[2 * k, 2 * k + 2, 2 * k + 1], [2 * k + 1, 2 * k + 2, 2 * k + 3]]);
        let mesh = Mesh::with_one_face(points, strip.collect()).unwrap();
        let found = best_fit(&all(&mesh), loose).map(|s| s.kind());
        prop_assert!(matches!(found, None | Some(Kind::Plane | Kind::Cylinder)), "{found:?}");
    }
}
