use proptest::prelude::*;

use super::*;
use crate::Topology;
use crate::crossings::{crossing_pairs, triangle_bvh};
use crate::measure::measure;
use crate::shapes::{ball, block};
use crate::weld::weld_corners;

fn corners(mesh: &Mesh) -> Vec<Point> {
    (0..mesh.triangles().len()).flat_map(|t| mesh.corners(t)).collect()
}

fn joined(meshes: &[Mesh]) -> Mesh {
    weld_corners(&meshes.iter().flat_map(corners).collect::<Vec<_>>()).unwrap()
}

fn cube(at: [f64; 3], size: f64) -> Mesh {
    block(Point::from_array(at), Point::splat(size))
}

fn find(mesh: &Mesh) -> Interior {
    interior(mesh, &Progress::unwatched()).unwrap()
}

/// Closed but where bodies only touch: every edge has an even number of triangles that cancel, and nothing crosses.
fn is_closed(mesh: &Mesh) -> bool {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let balanced = (0..topology.edge_count() as u32).all(|e| {
        let low = |h: &u32| topology.ends(*h).0 < topology.ends(*h).1;
        topology.halves(e).iter().filter(|h| low(h)).count() * 2 == topology.halves(e).len()
    });
    balanced && crossing_pairs(mesh, &triangle_bvh(mesh), &Progress::unwatched()).unwrap().is_empty()
}

fn volume_of(mesh: &Mesh) -> f64 {
    let found = find(mesh);
    assert!(is_closed(&found.body.mesh));
    measure(&found.body.mesh).volume
}

fn near(a: f64, b: f64) -> bool {
    (a - b).abs() < 1e-6 * b.abs().max(1.0)
}

#[test]
fn what_is_open_flipped_doubled_or_has_fins_becomes_what_it_was_meant_to_be() {
    let body = cube([0.0; 3], 4.0);
    let mut turned = body.clone();
    turned.reverse_triangles(|t| t % 3 == 0);
    let fin = vec![Point::ZERO, Point::X * 4.0, Point::new(2.0, -3.0, 1.0)];
    let stray = vec![Point::new(-1.0, 1.0, 1.0), Point::new(6.0, 1.5, 2.0), Point::new(2.0, 6.0, 2.5)];
    let wall = vec![
        Point::new(2.0, 0.0, 0.0),
        Point::new(2.0, 4.0, 0.0),
        Point::new(2.0, 4.0, 4.0),
        Point::new(2.0, 0.0, 0.0),
        Point::new(2.0, 4.0, 4.0),
        Point::new(2.0, 0.0, 4.0),
    ];
    let with = |soup: &[Point]| weld_corners(&[corners(&body), soup.to_vec()].concat()).unwrap();
    let cases = [
        ("as it is", body.clone(), 64.0),
        ("turned here and there", turned, 64.0),
        ("without a face", body.retain_triangles(|t| t > 1), 64.0),
        ("without two opposite faces", body.retain_triangles(|t| t > 3), 64.0),
        ("with a fin on an edge", with(&fin), 64.0),
        ("with a sheet that passes through", with(&stray), 64.0),
        ("with an inner wall", with(&wall), 64.0),
        ("everything twice", joined(&[body.clone(), body.clone()]), 64.0),
        ("a face twice", with(&corners(&body)[..6]), 64.0),
        ("with a cube on one face", joined(&[body.clone(), cube([4.0, 0.0, 0.0], 4.0)]), 128.0),
        ("with a small cube flush on one face", joined(&[body.clone(), cube([4.0, 1.0, 1.0], 2.0)]), 72.0),
        ("crossed by another", joined(&[body.clone(), cube([2.0; 3], 4.0)]), 120.0),
        ("with another within, outward", joined(&[body.clone(), cube([1.0; 3], 2.0)]), 64.0),
        ("with one that shares an edge", joined(&[body.clone(), cube([4.0, 4.0, 0.0], 4.0)]), 128.0),
        ("with one that shares a corner", joined(&[body.clone(), cube([4.0; 3], 4.0)]), 128.0),
    ];
    for (name, mesh, expected) in cases {
        let found = volume_of(&mesh);
        assert!(near(found, expected), "{name}: {found}");
    }
    let mut void = cube([1.0; 3], 2.0);
    void.reverse_triangles(|_| true);
    assert!(near(volume_of(&joined(&[body.clone(), void])), 56.0), "a void stays");
}

#[test]
fn a_bowl_gets_a_lid_and_a_sheet_encloses_nothing() {
    let whole = ball(10.0, 24);
    let bowl = whole.retain_triangles(|t| whole.corners(t).iter().all(|c| c.z <= 1e-9));
    assert!((volume_of(&bowl) / (measure(&whole).volume / 2.0) - 1.0).abs() < 1e-6);
    let sheet = whole.retain_triangles(|t| whole.corners(t).iter().all(|c| c.z > 8.0));
    let found = find(&sheet);
    assert!(found.body.mesh.triangles().is_empty());
    assert!((measure(&found.dangling).area / measure(&sheet).area - 1.0).abs() < 1e-6);
}

/// A piece: its least corner, its size, whether it is turned over, and which of its faces is missing.
type Piece = (Vec<u8>, u8, bool, Option<u8>);

fn pieces() -> impl Strategy<Value = Vec<Piece>> {
    prop::collection::vec((prop::collection::vec(0u8..6, 3), 1u8..5, any::<bool>(), prop::option::of(0u8..6)), 1..6)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Blocks on a grid, so that faces, edges and corners coincide all the time: of solids it is the union, and of any
    /// pieces it is closed, whatever their order and however they are turned over.
    #[test]
    fn of_any_pieces_it_is_closed_and_of_solids_the_union(pieces in pieces()) {
        // What stands wholly within another and faces the other way is a void, so then nothing is turned over.
        let strictly = |p: &Piece, q: &Piece| (0..3).all(|k| q.0[k] < p.0[k] && p.0[k] + p.1 < q.0[k] + q.1);
        let nested = pieces.iter().any(|p| pieces.iter().any(|q| strictly(p, q)));
        let make = |(at, size, turned, open): &Piece, whole: bool| {
            let at = Point::new(at[0].into(), at[1].into(), at[2].into());
            let mut m = block(at, Point::splat(f64::from(*size)));
            if let (Some(face), false) = (open, whole) {
                m = m.retain_triangles(|t| t / 2 != usize::from(*face));
            }
            m.reverse_triangles(|_| *turned);
            m
        };
        let solids: Vec<Mesh> =
            pieces.iter().map(|p| make(&(p.0.clone(), p.1, p.2 && !nested, None), true)).collect();
        let upright: Vec<Mesh> = pieces.iter().map(|p| make(&(p.0.clone(), p.1, false, None), true)).collect();
        let refs: Vec<&Mesh> = upright.iter().collect();
        let all = Arrangement::new(&refs, &[], &Progress::unwatched()).unwrap();
        let union = all.body(|w| w.iter().any(|w| *w > 0), &Progress::unwatched()).unwrap();
        let expected = measure(&union.mesh).volume;
        let found = volume_of(&joined(&solids));
        prop_assert!(near(found, expected), "{found} {expected}");
        // Open ones too.
        let some: Vec<Mesh> = pieces.iter().map(|p| make(p, false)).collect();
        let first = volume_of(&joined(&some));
        let turned: Vec<Mesh> = some.iter().rev().cloned().map(|mut m| { m.reverse_triangles(|_| true); m }).collect();
        let second = volume_of(&joined(&turned));
        prop_assert!(near(first, second), "{first} {second}");
    }
}

#[test]
fn a_fine_ball_with_small_holes_is_a_ball() {
    let whole = ball(10.0, 60);
    let holes = whole.retain_triangles(|t| t % 997 != 5);
    assert!((volume_of(&holes) / measure(&whole).volume - 1.0).abs() < 1e-3);
}

#[test]
fn sampled_walls_hold_what_is_near_of_sheets_of_any_kind() {
    // Two plates through each other and a band with one side.
    let plate = |turn: f64| {
        let turn = glam::DQuat::from_rotation_x(turn);
        let at = |x: f64, y: f64| turn * Point::new(x, y, 0.0);
        vec![at(-6.0, -4.0), at(6.0, -4.0), at(6.0, 4.0), at(-6.0, -4.0), at(6.0, 4.0), at(-6.0, 4.0)]
    };
    let band = |k: u32, side: f64| {
        let way = f64::from(k) / 40.0 * std::f64::consts::TAU;
        let (side, half) = if k == 40 { (-side, 0.0) } else { (side, way * 0.5) };
        Point::new((8.0 + side * half.cos()) * way.cos(), (8.0 + side * half.cos()) * way.sin(), side * half.sin())
    };
    let twisted = (0..40).flat_map(|k| {
        [band(k, -1.0), band(k, 1.0), band(k + 1, 1.0), band(k, -1.0), band(k + 1, 1.0), band(k + 1, -1.0)]
    });
    let sheet = weld_corners(&[plate(0.2), plate(1.4), twisted.collect()].concat()).unwrap();
    let thick = 0.8;
    let walls = thickened_sampled(&sheet, thick, 1_000_000, &Progress::unwatched()).unwrap();
    let topology = Topology::new(walls.triangles(), walls.points().len());
    assert_eq!(topology.edges_with(crate::topology::EdgeUse::Regular).count(), topology.edge_count());
    // The wall stands off the sheet by half its thickness, within a step of the grid.
    let bvh = triangle_bvh(&sheet);
    let off = |p: Point| {
        let foot = |t: u32| crate::segments::nearest_on_triangle(p, sheet.corners(t as usize));
        bvh.nearest(p, 100.0, |t| Some(foot(t).distance_squared(p))).unwrap().1
    };
    let far = walls.points().iter().map(|p| (off(*p) - thick * 0.5).abs()).fold(0.0, f64::max);
    assert!(far < thick * 0.65, "{far}");
    assert!(sheet.points().iter().all(|p| crate::winding::Winding::new(&walls).at(*p) > 0.5));
    let refused = thickened_sampled(&sheet, 1e-3, 1_000_000, &Progress::unwatched());
    assert!(matches!(refused, Err(crate::wrap::WrapError::TooFine(_))));
}
