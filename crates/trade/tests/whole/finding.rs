//! What examination tells about nasty shapes: tangles told apart by place and cause.

#[allow(dead_code)] // shared with the tests of remedies
use crate::gallery::*;
use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_trade::examine::{FindingKind, TangleFacts, TangleKind};
use nimbet_trade::{PartState, examine};

fn tangles(mesh: &Mesh) -> Vec<TangleFacts> {
    let seen = examine(mesh, &Progress::unwatched()).unwrap();
    assert_eq!(seen.figures.tangles, seen.tangles.len());
    assert_eq!(seen.figures.crossing_pairs, seen.tangles.iter().map(|t| t.pairs).sum::<usize>());
    seen.tangles
}

fn together(meshes: &[Mesh]) -> Mesh {
    weld(&meshes.iter().flat_map(corners).collect::<Vec<_>>())
}

#[test]
fn shells_that_cross_in_two_places_are_two_tangles_where_they_are() {
    let bar = |x: f64| {
        let block = nimbet_kernel::shapes::block(Point::new(x, 1.0, -5.0), Point::new(1.0, 2.0, 14.0));
        block.map_points(|p| p + Point::new(0.013, 0.007, 0.003)).unwrap()
    };
    let plate = nimbet_kernel::shapes::block(Point::ZERO, Point::new(40.0, 4.0, 4.0));
    // One bar pierces both faces of the plate at either end.
    let found = tangles(&together(&[plate, bar(3.0), bar(33.0)]));
    assert_eq!(found.len(), 1, "the plate's two large triangles hang all crossings together");
    let fine = weld(&corners(&nimbet_kernel::shapes::ball(10.0, 20)));
    let far = fine.clone().map_points(|p| p + Point::new(0.0, 60.0, 0.3)).unwrap();
    let near = |shift: f64| fine.clone().map_points(|p| p + Point::new(15.01, shift, 0.11)).unwrap();
    let found = tangles(&together(&[fine.clone(), near(0.02), far, near(60.03)]));
    assert_eq!(found.len(), 2);
    for tangle in &found {
        assert_eq!((tangle.kind, tangle.coplanar), (TangleKind::Shells, 0));
        // Two balls of radius 10 whose centres are 15 apart cross in a circle of radius 6.6 half way between.
        let [x, y, z] = tangle.place.centre;
        assert!((x - 7.5).abs() < 0.5 && z.abs() < 0.5 && (y.abs() < 0.5 || (y - 60.0).abs() < 0.5), "{tangle:?}");
        assert!((tangle.place.radius - 6.6 * 2f64.sqrt()).abs() < 1.2, "{tangle:?}");
    }
}

#[test]
fn a_tube_bent_tighter_than_its_radius_is_told_as_such_and_a_wide_one_is_sealed() {
    let wide = examine(&bent_tube(14.0), &Progress::unwatched()).unwrap();
    assert_eq!(wide.figures.state, PartState::Sealed, "{}", wide.figures.reason);
    let found = tangles(&bent_tube(6.0));
    assert_eq!(found.len(), 1, "{found:?}");
    assert_eq!(found[0].kind, TangleKind::Fold);
    assert!(found[0].place.centre[0].abs() < 1.0, "the fold lies on the inner side of the bend: {:?}", found[0].place);
}

#[test]
fn faces_lying_on_each_other_are_an_overlay_and_walls_of_one_shell_are_walls() {
    let sheet = |at: Point| [at, at + Point::X * 4.0, at + Point::Y * 4.0];
    let found = tangles(&weld(&[sheet(Point::ZERO), sheet(Point::new(1.0, 1.0, 0.0))].concat()));
    assert_eq!((found.len(), found[0].kind, found[0].coplanar), (1, TangleKind::Overlay, 1));
    // A long strip bent so that its end passes through its beginning.
    let way: Vec<Point> =
        [(0.0, 0.0), (20.0, 0.0), (20.0, 9.0), (10.0, 9.0), (10.0, -6.0)].map(|(x, z)| Point::new(x, 0.0, z)).into();
    let mut soup = vec![];
    for pair in way.windows(2) {
        for step in 0..5 {
            let [a, b] = [0, 1].map(|k| pair[0].lerp(pair[1], f64::from(step + k) / 5.0 + 1e-3));
            let (c, d) = (b + Point::Y * 3.0, a + Point::Y * 3.0);
            soup.extend([a, b, c, a, c, d]);
        }
    }
    let found = tangles(&weld(&soup));
    assert_eq!(found.len(), 1, "{found:?}");
    assert!(matches!(found[0].kind, TangleKind::Walls | TangleKind::Shells), "{found:?}");
}

#[test]
fn folds_and_slivers_are_told_with_their_number_and_block_nothing() {
    let told = |mesh: &Mesh, key: &str| {
        let seen = examine(mesh, &Progress::unwatched()).unwrap();
        let finding = seen.findings.iter().find(|f| f.key == key).map(|f| (f.size.clone(), f.severity));
        (seen.figures.state, finding)
    };
    // A cone of a thousand needles on a disc: the triangles of the disc are 0.03 mm wide and 5 mm long, not slivers yet.
    let cone = gallery().into_iter().find(|e| e.name == "cone of a thousand needles").unwrap().mesh;
    assert_eq!(told(&cone, "slivers"), (PartState::Sealed, None));
    let (points, triangles, faces) = cone.into_parts();
    let drawn =
        Mesh::new(points.into_iter().map(|p| Point::new(p.x, p.y * 0.1, p.z * 100.0)).collect(), triangles, faces);
    let (state, slivers) = told(&drawn.unwrap(), "slivers");
    assert_eq!(state, PartState::Sealed);
    assert!(slivers.unwrap().0.contains("triangles a thousand times longer"));

    // A roof whose ridge is pressed flat to a knife's edge: 4 mm wide, 0.1 mm high.
    let roof = |height: f64| {
        let p = |x: f64, y: f64, z: f64| Point::new(x, y, z);
        let [a, b, c, d] = [p(0.0, 0.0, 0.0), p(9.0, 0.0, 0.0), p(9.0, height, 4.0), p(0.0, height, 4.0)];
        let [e, f] = [p(9.0, 2.0 * height, 0.0), p(0.0, 2.0 * height, 0.0)];
        weld(&[a, b, c, a, c, d, d, c, e, d, e, f, a, f, e, a, e, b, a, d, f, b, e, c])
    };
    assert_eq!(told(&roof(1.0), "folds"), (PartState::Sealed, None));
    assert_eq!(told(&roof(0.05), "folds").1.unwrap().0, "1 edge");
}

#[test]
fn edges_that_share_a_part_are_one_finding_and_a_corner_on_an_edge_is_another() {
    let named = |name: &str| gallery().into_iter().find(|e| e.name == name).unwrap().mesh;
    let kinds = |m: &Mesh| {
        examine(m, &Progress::unwatched())
            .unwrap()
            .findings
            .iter()
            .map(|f| (f.kind, f.size.clone()))
            .collect::<Vec<_>>()
    };
    let shared = kinds(&named("cube with an edge of which two sides share a third"));
    assert_eq!(shared.iter().map(|f| f.0).collect::<Vec<_>>(), vec![FindingKind::PartlyShared], "{shared:?}");
    assert!(shared[0].1.starts_with("1.33"), "{shared:?}");
    let corner = kinds(&named("cube with a corner on the middle of an edge"));
    assert_eq!(corner.iter().map(|f| f.0).collect::<Vec<_>>(), vec![FindingKind::TJunction], "{corner:?}");
    let slit = kinds(&named("cube with a slit along an edge"));
    assert_eq!(slit.iter().map(|f| f.0).collect::<Vec<_>>(), vec![FindingKind::NeedleRim], "{slit:?}");
}

#[test]
fn a_slit_closed_onto_itself_is_told_as_a_needle_rim_with_its_width() {
    // A cube of 10 mm; on one side only, an edge goes over a point 0.01 mm off it.
    let cube = block(Point::ZERO, 10.0);
    let mut soup = corners(&cube);
    let [a, b, c] = [soup[0], soup[1], soup[2]];
    let off = a.midpoint(b) + (c - a.midpoint(b)).normalize() * 0.01;
    soup.splice(..3, [a, off, c, off, b, c]);
    let seen = examine(&weld(&soup), &Progress::unwatched()).unwrap();
    assert_eq!(seen.figures.rims, 1);
    let needle = seen.findings.iter().find(|f| f.key == "needle-R1");
    assert!(needle.is_some_and(|f| f.size.starts_with("0.00") && f.size.contains("mm wide")), "{:?}", seen.findings);
}
