//! Known faces of known bodies.
use super::*;
use crate::shapes::turned;
use std::collections::BTreeMap;
use std::f64::consts::{FRAC_PI_2, TAU};

fn grouped(mesh: Mesh) -> (Mesh, BTreeMap<FaceId, Vec<u32>>) {
    let tolerance = default_tolerance(&Aabb::of(mesh.points().iter().copied()));
    let how = Grouping { angle: DEFAULT_ANGLE, tolerance };
    let mesh = group_faces(mesh, how, &Progress::unwatched()).unwrap();
    let mut faces: BTreeMap<FaceId, Vec<u32>> = BTreeMap::new();
    mesh.face_of().iter().enumerate().for_each(|(t, f)| faces.entry(*f).or_default().push(t as u32));
    (mesh, faces)
}

/// The surfaces of the faces, free ones left out.
fn surfaces(mesh: Mesh) -> Vec<Surface> {
    let (mesh, faces) = grouped(mesh);
    let tolerance = default_tolerance(&Aabb::of(mesh.points().iter().copied()));
    faces.values().filter_map(|t| best_fit(&Sample::of(&mesh, t), tolerance)).collect()
}

fn of_kind(all: &[Surface], kind: Kind) -> Vec<Surface> {
    all.iter().filter(|s| s.kind() == kind).copied().collect()
}

/// Askew, away from the origin and rounded to single precision, as from an STL.
fn as_from_a_file(mesh: Mesh) -> (Mesh, impl Fn(Point) -> Point) {
    let turn = glam::DQuat::from_euler(glam::EulerRot::XYZ, 0.4, -1.1, 2.3);
    let shift = Point::new(210.0, -35.0, 77.0);
    let moved = mesh.map_points(|p| (turn * p + shift).as_vec3().as_dvec3()).unwrap();
    (moved, move |v| turn * v)
}

fn arc(centre: (f64, f64), radius: f64, from: f64, to: f64, steps: usize) -> Vec<(f64, f64)> {
    (0..=steps)
        .map(|k| from + (to - from) * k as f64 / steps as f64)
        .map(|a| (centre.0 + radius * a.cos(), centre.1 + radius * a.sin()))
        .collect()
}

#[test]
fn a_rounded_plate_with_a_bore_is_planes_cylinders_and_the_bore_with_its_radius_and_axis() {
    // Walls between an outline with rounded corners and a bore, then floor and lid.
    let n = 8;
    let mut outline = vec![];
    for (k, (x, y)) in [(25.0, 15.0), (-25.0, 15.0), (-25.0, -15.0), (25.0, -15.0)].into_iter().enumerate() {
        let from = k as f64 * FRAC_PI_2;
        outline.extend(arc((x, y), 5.0, from, from + FRAC_PI_2, n));
    }
    let bore: Vec<(f64, f64)> =
        (0..40).map(|k| (k as f64 / 40.0 * TAU).sin_cos()).map(|(s, c)| (4.0 * c, 4.0 * s)).collect();
    let flat: Vec<[f64; 2]> = outline.iter().chain(&bore).map(|p| [p.0, p.1]).collect();
    let chains = [(0..outline.len()).collect(), (outline.len()..flat.len()).collect::<Vec<usize>>()];
    let lid = crate::triangulate::triangulate_flat(&flat, &chains).unwrap();
    let at = |i: usize, z: f64| Point::new(flat[i][0], flat[i][1], z);
    let mut soup = vec![];
    for [a, b, c] in lid {
        soup.extend([at(a, 6.0), at(b, 6.0), at(c, 6.0), at(a, 0.0), at(c, 0.0), at(b, 0.0)]);
    }
    for (chain, outward) in chains.iter().zip([true, false]) {
        for k in 0..chain.len() {
            let (i, j) = (chain[k], chain[(k + 1) % chain.len()]);
            let [a, b, c, d] = [at(i, 0.0), at(j, 0.0), at(j, 6.0), at(i, 6.0)];
            soup.extend(if outward { [a, b, c, a, c, d] } else { [a, c, b, a, d, c] });
        }
    }
    let (mesh, turn) = as_from_a_file(crate::weld::weld_corners(&soup).unwrap());
    let (_, faces) = grouped(mesh.clone());
    assert_eq!(faces.len(), 2 + 4 + 4 + 1);
    let all = surfaces(mesh);
    assert_eq!(of_kind(&all, Kind::Plane).len(), 6);
    let round = of_kind(&all, Kind::Cylinder);
    let radius_of = |want: f64| {
        round
            .iter()
            .filter(|s| {
                matches!(s, Surface::Cylinder { radius, axis, .. }
            if (radius - want).abs() < 1e-3 && axis.dot(turn(Point::Z)).abs() > 1.0 - 1e-6)
            })
            .count()
    };
    assert_eq!((radius_of(5.0), radius_of(4.0)), (4, 1), "{round:?}");
}

#[test]
fn a_turned_knob_is_a_cone_a_cylinder_a_torus_a_ball_and_planes() {
    // Foot, cone, drum, a rounding to the flat shoulder, and a ball on it.
    let mut profile = vec![(0.0, 0.0), (12.0, 0.0), (8.0, 10.0)];
    profile.extend([(8.0, 10.0), (8.0, 20.0)].into_iter().skip(1));
    profile.extend(arc((6.0, 20.0), 2.0, 0.0, FRAC_PI_2, 8).into_iter().skip(1));
    profile.push((3.0, 22.0));
    let begin = (3.0f64 / 5.0).acos();
    profile.extend(arc((0.0, 26.0), 5.0, -begin, FRAC_PI_2, 14).into_iter().skip(1));
    profile.last_mut().unwrap().0 = 0.0;
    let (mesh, turn) = as_from_a_file(turned(&profile, 48));
    let all = surfaces(mesh);
    assert_eq!(all.len(), 6, "{all:#?}");
    let close = |x: f64, want: f64| (x - want).abs() < 2e-3;
    assert!(all.iter().any(|s| matches!(s, Surface::Cone { half_angle, .. } if close(*half_angle, 0.4f64.atan()))));
    assert!(all.iter().any(|s| matches!(s, Surface::Cylinder { radius, .. } if close(*radius, 8.0))));
    assert!(
        all.iter().any(|s| matches!(s, Surface::Torus { major, minor, axis, .. }
        if close(*major, 6.0) && close(*minor, 2.0) && axis.dot(turn(Point::Z)).abs() > 1.0 - 1e-6)),
        "{all:#?}"
    );
    assert!(all.iter().any(|s| matches!(s, Surface::Sphere { radius, .. } if close(*radius, 5.0))));
    assert_eq!(of_kind(&all, Kind::Plane).len(), 2);
}

#[test]
fn a_free_form_is_one_face_and_not_a_patchwork_of_tori() {
    // A sheet in waves: everywhere some torus touches it closely.
    let n = 80;
    let at = |i: usize, j: usize| {
        let (x, y) = (i as f64 * 0.5, j as f64 * 0.5);
        Point::new(x, y, 2.0 * (x * 0.31).sin() * (y * 0.23 + 0.4).cos() + 0.02 * x * y)
    };
    let mut soup = vec![];
    for i in 0..n {
        for j in 0..n {
            let [a, b, c, d] = [at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)];
            soup.extend([a, b, c, a, c, d]);
        }
    }
    let (_, faces) = grouped(crate::weld::weld_corners(&soup).unwrap());
    let free = faces.values().map(Vec::len).max().unwrap();
    assert!(free > 2 * n * n * 9 / 10, "{} faces, the largest of {free} triangles", faces.len());
}

#[test]
fn a_roof_is_two_faces_and_a_bent_sheet_one_or_two_by_the_angle() {
    let roof = |height: f64, angle: f64| {
        let p = vec![Point::ZERO, Point::Y, Point::new(1.0, 0.0, height), Point::new(1.0, 1.0, height)];
        let q = [Point::new(2.0, 0.0, 0.0), Point::new(2.0, 1.0, 0.0)];
        let points = p.into_iter().chain(q).collect();
        let m = Mesh::with_one_face(points, vec![[0, 2, 1], [1, 2, 3], [2, 4, 3], [3, 4, 5]]).unwrap();
        let m = group_faces(m, Grouping { angle, tolerance: 0.5 }, &Progress::unwatched()).unwrap();
        m.face_of().iter().map(|f| f.0).collect::<Vec<_>>()
    };
    assert_eq!(roof(1.0, DEFAULT_ANGLE), vec![0, 0, 1, 1]);
    assert_eq!(roof(0.1, DEFAULT_ANGLE), vec![0, 0, 0, 0]);
    assert_eq!(roof(0.1, 5.0), vec![0, 0, 1, 1]);
}
