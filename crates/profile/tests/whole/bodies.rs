//! Bodies from drawings: known answers and identities.

use std::f64::consts::PI;

use nimbet_kernel::measure::measure;
use nimbet_kernel::topology::{EdgeUse, Topology};
use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_profile::bodies::*;
use nimbet_profile::{Drawing, Flat, Network, Region};
use serde_json::{Value, json};

fn drawn(lines: Value) -> (Network, Vec<Region>) {
    let drawing: Drawing = serde_json::from_value(json!({ "lines": lines })).unwrap();
    let network = Network::new(drawing.curves().unwrap(), &Progress::unwatched()).unwrap();
    let regions = network.regions(&Progress::unwatched()).unwrap();
    (network, regions)
}

fn flat(lines: Value, chord: f64) -> Flattened {
    let (network, regions) = drawn(lines);
    let picked: Vec<usize> = (0..regions.len()).filter(|r| regions[*r].depth % 2 == 0).collect();
    flatten_regions(&network, &regions, &picked, chord).unwrap()
}

fn ground() -> PlaneFrame {
    PlaneFrame::new(Point::ZERO, Point::Z).unwrap().along(Point::X)
}

/// A closed surface, each edge between two triangles, and its volume.
fn volume(mesh: &Mesh) -> f64 {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    assert_eq!(topology.edges_with(EdgeUse::Regular).count(), topology.edge_count(), "closed");
    measure(mesh).volume
}

fn up(above: f64) -> Extrusion {
    Extrusion { below: 0.0, above, draft: 0.0 }
}

#[test]
fn a_plate_with_a_slot_and_bores_weighs_what_it_says() {
    let plate = json!([
        { "name": "a", "draw": { "frame": { "centre": [0, 0], "size": [80, 40], "radius": 5 } } },
        { "name": "b", "draw": { "slot": { "from": [-10, 0], "to": [10, 0], "width": 8 } } },
        { "name": "c", "draw": { "circle": { "centre": [32, 12], "diameter": 6.6 } } },
        { "name": "d", "draw": { "mirrored": { "of": ["c"], "from": [0, 0], "to": [0, 1] } } },
        { "name": "e", "draw": { "mirrored": { "of": ["c", "d"], "from": [0, 0], "to": [1, 0] } } },
    ]);
    let exact = 80.0 * 40.0 - (4.0 - PI) * 25.0 - (20.0 * 8.0 + PI * 16.0) - 4.0 * PI * 3.3 * 3.3;
    let (_, regions) = drawn(plate.clone());
    assert_eq!(regions.iter().filter(|r| r.depth == 0).count(), 1);
    assert!((regions[0].area - exact).abs() < 1e-9 * exact);
    let lacking = |chord: f64| {
        let mesh = extrude(&flat(plate.clone(), chord), &ground(), &up(4.0)).unwrap();
        (volume(&mesh) / (exact * 4.0) - 1.0).abs()
    };
    assert!(lacking(0.01) < 1e-3 && lacking(0.0001) < 1e-5);
}

#[test]
fn leaning_sides_make_frustums() {
    let square = json!([{ "name": "a", "draw": { "frame": { "centre": [1, 2], "size": [10, 6] } } }]);
    let (h, lean) = (5.0, 10_f64.to_radians());
    let d = h * lean.tan();
    let frustum = |w: f64, l: f64, h: f64, d: f64| {
        let (a, m, b) = (w * l, (w - d) * (l - d), (w - 2.0 * d) * (l - 2.0 * d));
        h / 6.0 * (a + 4.0 * m + b)
    };
    let made = extrude(&flat(square.clone(), 0.01), &ground(), &Extrusion { below: 0.0, above: h, draft: lean });
    assert!((volume(&made.unwrap()) - frustum(10.0, 6.0, h, d)).abs() < 1e-9);
    // To both sides it leans from the plane; outward it grows.
    let both = Extrusion { below: 3.0, above: h, draft: -lean };
    let exact = frustum(10.0, 6.0, h, -d) + frustum(10.0, 6.0, 3.0, -3.0 * lean.tan());
    assert!((volume(&extrude(&flat(square.clone(), 0.01), &ground(), &both).unwrap()) - exact).abs() < 1e-9);
    // A bore gets wider where the plate gets narrower, and stays a true cone.
    let bored = json!([
        { "name": "a", "draw": { "frame": { "centre": [0, 0], "size": [20, 20] } } },
        { "name": "b", "draw": { "circle": { "centre": [0, 0], "diameter": 8 } } },
    ]);
    let mesh = extrude(&flat(bored, 1e-5), &ground(), &Extrusion { below: 0.0, above: h, draft: lean }).unwrap();
    let cone = PI * h / 3.0 * (16.0 + 4.0 * (4.0 + d) + (4.0 + d).powi(2));
    assert!((volume(&mesh) / (frustum(20.0, 20.0, h, d) - cone) - 1.0).abs() < 1e-5);
    // Too far, and it is told how far would do.
    let error = extrude(&flat(square, 0.01), &ground(), &Extrusion { below: 0.0, above: 20.0, draft: lean });
    assert!(error.unwrap_err().to_string().contains("3.000 mm is the most"));
}

/// Pappus: the area times the way of its centre.
#[test]
fn what_is_turned_sweeps_its_area_along_its_centre() {
    let ring = json!([{ "name": "a", "draw": { "frame": { "centre": [10, 3], "size": [4, 6] } } }]);
    let axis = Axis { at: Flat::ZERO, way: Flat::Y, from: 0.0, to: 2.0 * PI };
    let lacking = |chord: f64| {
        let mesh = revolve(&flat(ring.clone(), chord), &ground(), &axis, chord).unwrap();
        1.0 - volume(&mesh) / (24.0 * 2.0 * PI * 10.0)
    };
    let ratio = lacking(0.04) / lacking(0.01);
    assert!(lacking(0.01) > 0.0 && (ratio - 4.0).abs() < 0.6, "{ratio}");
    // On either side of the axis, by an angle, either way round: the same volume.
    for (way, from, to) in [(Flat::Y, 0.2, 1.3), (Flat::NEG_Y, -0.5, 0.6)] {
        let axis = Axis { at: Flat::ZERO, way, from, to };
        let mesh = revolve(&flat(ring.clone(), 1e-4), &ground(), &axis, 1e-4).unwrap();
        assert!((volume(&mesh) / (24.0 * 1.1 * 10.0) - 1.0).abs() < 1e-4);
    }
}

#[test]
fn a_half_disc_makes_a_ball_and_a_disc_that_touches_the_axis_two_tips() {
    let half = json!([
        { "name": "a", "draw": { "arc": { "from": [0, -5], "via": [5, 0], "to": [0, 5] } } },
        { "name": "b", "draw": { "line": { "from": [0, 5], "to": [0, -5] } } },
    ]);
    let axis = Axis { at: Flat::ZERO, way: Flat::Y, from: 0.0, to: 2.0 * PI };
    let ball = revolve(&flat(half.clone(), 1e-3), &ground(), &axis, 1e-3).unwrap();
    assert!((volume(&ball) / (4.0 / 3.0 * PI * 125.0) - 1.0).abs() < 1e-3);
    assert!(ball.points().iter().all(|p| (p.length() - 5.0).abs() < 1e-12), "its points lie on the ball");
    // The arc alone, open, ends on the axis twice: the same ball.
    let (network, _) = drawn(json!([half[0].clone()]));
    let chain = flatten_chain(&network, &network.chains()[0], 1e-3).unwrap();
    let sheet = revolve_chain(&chain, false, &ground(), &axis, 1e-3).unwrap();
    assert!((volume(&sheet) - volume(&ball)).abs() < 1e-9);
    let disc = json!([{ "name": "a", "draw": { "circle": { "centre": [2, 0], "diameter": 4 } } }]);
    let horn = revolve(&flat(disc, 1e-3), &ground(), &axis, 1e-3).unwrap();
    assert!((volume(&horn) / (2.0 * PI * 2.0 * PI * 4.0) - 1.0).abs() < 2e-3);
    // Across the axis it cannot be turned, and where is told.
    let across = json!([{ "name": "a", "draw": { "circle": { "centre": [1, 0], "diameter": 4 } } }]);
    let error = revolve(&flat(across, 1e-3), &ground(), &axis, 1e-3).unwrap_err();
    assert!(matches!(&error, BodyError::Refused { places, .. } if places.len() == 1), "{error}");
}

#[test]
fn regions_that_share_a_line_are_one_body_and_those_that_touch_are_two() {
    let shared = json!([
        { "name": "a", "draw": { "frame": { "centre": [0, 0], "size": [10, 4] } } },
        { "name": "b", "draw": { "line": { "from": [1, -2], "to": [2, 2] } } },
    ]);
    let mesh = extrude(&flat(shared, 0.01), &ground(), &up(3.0)).unwrap();
    assert!((volume(&mesh) - 120.0).abs() < 1e-9);
    assert_eq!(mesh.points().len(), 12, "nothing of the line between is left but its ends");
    let corner = json!([
        { "name": "a", "draw": { "frame": { "centre": [1, 1], "size": [2, 2] } } },
        { "name": "b", "draw": { "frame": { "centre": [-1, -1], "size": [2, 2] } } },
    ]);
    let mesh = extrude(&flat(corner, 0.01), &ground(), &up(3.0)).unwrap();
    assert!((volume(&mesh) - 24.0).abs() < 1e-9);
    assert_eq!(mesh.points().len(), 16, "each has its own corner");
}
