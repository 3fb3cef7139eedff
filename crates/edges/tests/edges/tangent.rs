//! What was rounded is smooth: it goes on in the faces beside it, has the radius it was given, and can be sharp again.

use std::collections::{BTreeMap, BTreeSet};
use std::f64::consts::TAU;

use glam::{DQuat, EulerRot};
use nimbet_edges::graph::{Graph, Run};
use nimbet_edges::take_off;
use nimbet_kernel::surfaces::{Sample, Surface, best_fit, default_tolerance};
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{Aabb, FaceId, Mesh, Point, Progress, Topology, shapes};
use proptest::prelude::*;

use crate::making::*;

/// Pieces of a whole turn of what is round in the bodies themselves.
const SEGMENTS: usize = 96;

/// A body, and which of its edges are rounded, by a place on them before it was turned.
type Subject = (Mesh, fn(&Run, Point) -> bool);

fn subject(kind: usize, [a, b, c]: [f64; 3]) -> Subject {
    let plate = block([-25.0, -25.0, -6.0], [50.0, 50.0, 6.0]);
    match kind {
        // All edges, with balls at the corners.
        0 => (block([0.0; 3], [12.0 + a, 10.0 + b, 9.0 + c]), |_, _| true),
        // The long edge of a wedge of 30 to 150 degrees.
        1 => {
            let lean = (30.0 + 12.0 * a).to_radians();
            (drawn_out(&[[0.0, 0.0], [30.0, 0.0], [30.0 * lean.cos(), 30.0 * lean.sin()]], 20.0 + b), |_, p| {
                p.x.abs() + p.z.abs() < 1e-6
            })
        }
        // Both rims of a cone.
        2 => {
            let side = [(0.0, 0.0), (12.0 + a, 0.0), (8.0 + b, 10.0 + c), (0.0, 10.0 + c)];
            (grouped(shapes::turned(&side, SEGMENTS)), |_, _| true)
        }
        // The root of a boss.
        3 => (together(&[(plate, true), (upright(8.0 + a, -3.0, 12.0, SEGMENTS), true)]), |run, _| !run.convex),
        // The mouths of a bore.
        _ => (together(&[(plate, true), (upright(8.0 + a, -9.0, 3.0, SEGMENTS), false)]), |run, _| run.closed),
    }
}

/// The sharpest turn across edges at which one of the new faces lies, but for those at a flat end of it, and the radii of the new
/// faces, nought of one that is no known surface.
fn of_new_faces(mesh: &Mesh, first_new: FaceId, end: Point) -> (f64, Vec<f64>) {
    let is_new = |t: u32| mesh.face_of()[t as usize] >= first_new;
    let normal = |t: u32| mesh.area_vector(t as usize).normalize_or_zero();
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let turns = topology.edges_with(EdgeUse::Regular).filter_map(|edge| {
        let [t, u] = [0, 1].map(|k| topology.halves(edge)[k] / 3);
        let at_end = [t, u].iter().any(|t| !is_new(*t) && normal(*t).dot(end).abs() > 0.999);
        (!at_end && (is_new(t) || is_new(u)))
            .then(|| normal(t).cross(normal(u)).length().atan2(normal(t).dot(normal(u))))
    });
    let sharpest = turns.fold(0.0, f64::max);
    let mut faces: BTreeMap<FaceId, Vec<u32>> = BTreeMap::new();
    for t in (0..mesh.triangles().len() as u32).filter(|t| is_new(*t)) {
        faces.entry(mesh.face_of()[t as usize]).or_default().push(t);
    }
    let tolerance = default_tolerance(&Aabb::of(mesh.points().iter().copied()));
    let radius = |triangles: &Vec<u32>| match best_fit(&Sample::of(mesh, triangles), tolerance)? {
        Surface::Cylinder { radius, .. } | Surface::Sphere { radius, .. } => Some(radius),
        Surface::Torus { minor, .. } => Some(minor),
        _ => None,
    };
    (sharpest, faces.values().map(|triangles| radius(triangles).unwrap_or(0.0)).collect())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    /// No edge at a rounding or within it is sharper than its facets and those of the faces beside it, and each new face is known
    /// for a part of a cylinder, a ring or a ball of the radius that was asked for, however the body lies.
    #[test]
    fn a_rounding_is_tangent_and_has_its_radius(
        kind in 0usize..5, size in prop::array::uniform3(0.0f64..4.0), radius in 0.3f64..2.5,
        chord in prop::sample::select(vec![0.02, 0.005]), turn in prop::array::uniform3(-3.0f64..3.0), far in 0.0f64..200.0,
    ) {
        let (body, which) = subject(kind, size);
        let turned = DQuat::from_euler(EulerRot::XYZ, turn[0], turn[1], turn[2]);
        let lies = body.map_points(|p| turned * p + Point::splat(far)).unwrap();
        let back = |p: Point| turned.inverse() * (p - Point::splat(far));
        let wanted = |g: &Graph<'_>, r: u32| {
            let run = &g.runs[r as usize];
            let [p, q] = g.ends(run.edges[0]).map(|v| g.place(v));
            which(run, back(p.midpoint(q)))
        };
        let made = cut(&lies, wanted, round(radius), chord).unwrap();
        // Only the wedge's rounding ends, square to its sides.
        let end = if kind == 1 { turned * Point::Y } else { Point::ZERO };
        let (sharpest, radii) = of_new_faces(&made, lies.next_face(), end);
        // A piece of an arc turns by twice this; what is round in the body by a piece of a whole turn.
        let facet = 2.0 * (1.0 - chord / radius).acos();
        let own = if kind < 2 { 0.0 } else { TAU / SEGMENTS as f64 };
        prop_assert!(sharpest <= facet + own + 1e-3, "{} of {}", sharpest.to_degrees(), (facet + own).to_degrees());
        prop_assert!(!radii.is_empty());
        prop_assert!(radii.iter().all(|r| (r - radius).abs() <= chord), "{radii:?} of {radius}");
        // Taken off again it is what it was.
        let faces = |mesh: &Mesh| mesh.face_of().iter().copied().collect::<BTreeSet<FaceId>>();
        let new = faces(&made).into_iter().filter(|f| *f >= lies.next_face()).collect();
        let sharp = take_off(&made, &new, &Progress::unwatched()).unwrap().mesh;
        is_solid(&sharp);
        prop_assert!((volume(&sharp) / volume(&lies) - 1.0).abs() < 1e-6, "{} {}", volume(&sharp), volume(&lies));
        prop_assert_eq!(faces(&sharp), faces(&lies));
    }

    /// Two edges that do not meet, in either order.
    #[test]
    fn edges_apart_are_rounded_in_any_order(
        size in prop::array::uniform3(9.0f64..20.0), radii in prop::array::uniform2(0.3f64..4.0),
        turn in prop::array::uniform3(-3.0f64..3.0),
    ) {
        let turned = DQuat::from_euler(EulerRot::XYZ, turn[0], turn[1], turn[2]);
        let lies = block([0.0; 3], size).map_points(|p| turned * p).unwrap();
        let [x, y, z] = size;
        let edges = [(Point::new(x * 0.5, 0.0, 0.0), radii[0]), (Point::new(x * 0.5, y, z), radii[1])];
        let one = |mesh: &Mesh, (at, radius): (Point, f64)| {
            cut(mesh, |g, r| edge_at(g, r, (turned * at).to_array()), round(radius), 0.01).unwrap()
        };
        let [here, there] = [[0, 1], [1, 0]].map(|order| order.iter().fold(lies.clone(), |m, n| one(&m, edges[*n])));
        prop_assert!((volume(&here) / volume(&there) - 1.0).abs() < 1e-7, "{} {}", volume(&here), volume(&there));
    }
}
