//! Edges rounded and chamfered as steps: which are meant, closed forms, refusals with what would do.

use std::f64::consts::PI;

use nimbet_kernel::Point;
use nimbet_kernel::shapes::{block, turned};
use nimbet_kernel::{Mesh, Progress};
use nimbet_trade::examine::{FaceSurface, face_facts};
use nimbet_trade::shape::{EdgeRuns, Round};
use nimbet_trade::{Operation, PartState, TradeError, instead};
use serde_json::{Value, json};

use super::making::*;

fn plate() -> Mesh {
    with_faces(block(Point::ZERO, Point::new(40.0, 30.0, 8.0)))
}

fn with_faces(mesh: Mesh) -> Mesh {
    done(json!({ "kind": "seal.group_faces" }), &mesh, &[]).unwrap().mesh
}

fn rounded(on: Value, radius: f64, chord: f64) -> Value {
    json!({ "kind": "shape.round", "on": on, "radius": radius, "chord": chord })
}

/// The volume of a part, which is sealed.
fn held(mesh: &Mesh) -> f64 {
    let figures = seen(mesh);
    assert_eq!(figures.state, PartState::Sealed, "{}", figures.reason);
    figures.volume.unwrap()
}

/// What a quarter round takes of each mm.
fn quarter(radius: f64) -> f64 {
    (1.0 - PI / 4.0) * radius * radius
}

#[test]
fn edges_are_meant_by_places_faces_and_sharpness() {
    let plate = plate();
    let lost = |on: Value| 9600.0 - held(&done(rounded(on, 2.0, 0.001), &plate, &[]).unwrap().mesh);
    near(lost(json!({ "edges": [[20.0, 0.0, 8.0]] })), quarter(2.0) * 40.0, 5e-3);
    // Of one edge only once, however often it was picked.
    near(lost(json!({ "edges": [[20.0, 0.0, 8.0], [21.0, 0.0, 8.0]] })), quarter(2.0) * 40.0, 5e-3);
    near(lost(json!({ "between": [[20.0, 10.0, 8.0], [20.0, 0.0, 4.0]] })), quarter(2.0) * 40.0, 5e-3);
    let round_the_top = lost(json!({ "faces": [[20.0, 10.0, 8.0]] }));
    assert!(round_the_top < quarter(2.0) * 140.0 && round_the_top > quarter(2.0) * 130.0, "{round_the_top}");
    let all = lost(json!({ "sharp": { "than": 30.0 } }));
    assert!(all > round_the_top * 2.0, "{all}");
    let refused = done(rounded(json!({ "sharp": { "sense": "inner", "than": 30.0 } }), 2.0, 0.01), &plate, &[]);
    assert!(matches!(refused, Err(TradeError::Refused { .. })), "{refused:?}");
}

#[test]
fn a_radius_changes_along_an_edge_and_differs_between_edges() {
    let plate = plate();
    let step = json!({ "kind": "shape.round", "on": { "edges": [[1.0, 0.0, 8.0]] }, "radius": 1.0, "far": 4.0, "chord": 1e-3 });
    // The mean of the squares from 1 to 4 is 7.
    near(9600.0 - held(&done(step, &plate, &[]).unwrap().mesh), quarter(1.0) * 7.0 * 40.0, 5e-3);
    let also = json!({ "kind": "shape.round", "on": { "edges": [[1.0, 0.0, 8.0]] }, "radius": 1.0,
        "also": [{ "on": { "edges": [[1.0, 30.0, 8.0]] }, "radius": 3.0 }], "chord": 1e-3 });
    near(9600.0 - held(&done(also, &plate, &[]).unwrap().mesh), (quarter(1.0) + quarter(3.0)) * 40.0, 5e-3);
}

#[test]
fn new_faces_are_known_for_what_they_are() {
    let made = done(rounded(json!({ "sharp": { "than": 30.0 } }), 2.0, 0.01), &plate(), &[]).unwrap().mesh;
    let facts = face_facts(&made, None, &Progress::unwatched()).unwrap();
    let count = |is: &dyn Fn(&FaceSurface) -> bool| facts.iter().filter(|f| is(&f.surface)).count();
    assert_eq!(count(&|s| matches!(s, FaceSurface::Plane { .. })), 6);
    assert_eq!(
        count(&|s| matches!(s, FaceSurface::Cylinder { radius, hollow: false, .. } if (radius - 2.0).abs() < 1e-4)),
        12
    );
    assert_eq!(count(&|s| matches!(s, FaceSurface::Sphere { radius, .. } if (radius - 2.0).abs() < 1e-4)), 8);
    assert_eq!(facts.len(), 26);
}

#[test]
fn a_chamfer_has_a_width_two_or_an_angle() {
    let plate = plate();
    let on = json!({ "edges": [[20.0, 0.0, 8.0]] });
    let lost = |step: Value| 9600.0 - held(&done(step, &plate, &[]).unwrap().mesh);
    near(lost(json!({ "kind": "shape.chamfer", "on": on, "width": 2.0 })), 80.0, 1e-6);
    near(lost(json!({ "kind": "shape.chamfer", "on": on, "width": 2.0, "second": { "width": 3.0 } })), 120.0, 1e-6);
    let angle = json!({ "kind": "shape.chamfer", "on": on, "width": 2.0, "second": { "angle": 30.0 } });
    near(lost(angle), 2.0 * 2.0 * 30f64.to_radians().tan() * 20.0, 1e-6);
    // The first width is on the larger face, the top; swapped it is on the side, which is 8 high.
    let steep = |swapped: bool| json!({ "kind": "shape.chamfer", "on": on, "width": 9.0, "second": { "width": 3.0 }, "swapped": swapped });
    assert!(done(steep(false), &plate, &[]).is_ok());
    assert!(done(steep(true), &plate, &[]).is_err());
}

#[test]
fn what_is_too_large_says_what_would_do() {
    let plate = plate();
    let Err(TradeError::Refused { why, places }) =
        done(rounded(json!({ "sharp": { "than": 30.0 } }), 5.0, 0.01), &plate, &[])
    else {
        panic!("two roundings of 5 do not fit on a side of 8");
    };
    assert_eq!(places.len(), 1);
    let figure = why.split("works there is ").nth(1).and_then(|s| s.split(' ').next()).unwrap();
    let largest: f64 = figure.parse().unwrap();
    assert!((3.9..=4.0).contains(&largest), "{why}");
    let made = done(rounded(json!({ "sharp": { "than": 30.0 } }), largest, 0.01), &plate, &[]);
    assert!(made.is_ok(), "{largest} {:?}", made.err());
}

#[test]
fn edges_without_room_are_left_as_they_are_where_that_is_wanted() {
    // A plate with a pad of half a millimetre on it, whose edges have no room for two.
    let pad = block(Point::new(15.0, 10.0, 8.0), Point::new(10.0, 10.0, 0.5));
    let plate = plate();
    let padded = with_faces(done(json!({ "kind": "shape.union", "with": [2] }), &plate, &[pad]).unwrap().mesh);
    let all = |leave: bool| {
        let step = json!({ "kind": "shape.round", "on": { "sharp": { "sense": "outer", "than": 30.0 } }, "radius": 2.0,
            "leave": leave, "chord": 0.01 });
        done(step, &padded, &[])
    };
    assert!(matches!(all(false), Err(TradeError::Refused { places, .. }) if places.len() == 1));
    let done_but = all(true).unwrap();
    let plain = done(rounded(json!({ "sharp": { "than": 30.0 } }), 2.0, 0.01), &plate, &[]).unwrap();
    // Its upright edges have: they are as far apart as it is wide.
    let lost = held(&plain.mesh) + 50.0 - held(&done_but.mesh);
    assert!((lost / (quarter(2.0) * 2.0) - 1.0).abs() < 0.05, "{lost}");
    assert!(done_but.left.iter().any(|l| l.contains("left as they are for want of room, at (")), "{:?}", done_but.left);
    // Where none has room it is refused all the same.
    let none = json!({ "kind": "shape.chamfer", "on": { "sharp": { "than": 30.0 } }, "width": 50.0, "leave": true });
    assert!(matches!(done(none, &plate, &[]), Err(TradeError::Refused { .. })));
}

#[test]
fn roundings_go_and_come_again_with_another_radius() {
    let plate = plate();
    let on = json!({ "edges": [[20.0, 0.0, 8.0]] });
    let round = done(rounded(on, 2.0, 0.01), &plate, &[]).unwrap().mesh;
    let face = [20.0, 2.0 - 2f64.sqrt(), 6.0 + 2f64.sqrt()];
    let sharp = done(json!({ "kind": "shape.take_off", "faces": [face] }), &round, &[]).unwrap().mesh;
    near(held(&sharp), 9600.0, 1e-7);
    let again =
        done(json!({ "kind": "shape.take_off", "faces": [face], "again": 3.0, "chord": 1e-3 }), &round, &[]).unwrap();
    near(9600.0 - held(&again.mesh), quarter(3.0) * 40.0, 5e-3);
    let refused = done(json!({ "kind": "shape.take_off", "faces": [[20.0, 10.0, 8.0]] }), &round, &[]);
    assert!(matches!(refused, Err(TradeError::Refused { places, .. }) if places.len() == 1));
}

#[test]
fn edges_of_a_sheet_are_rounded_too() {
    // The sides and floor of a block without its top: the standing edges end at the border.
    let plate = plate();
    let open = plate.retain_triangles(|t| plate.corners(t).iter().any(|p| p.z < 7.9));
    let made = done(rounded(json!({ "sharp": { "than": 30.0 } }), 2.0, 0.002), &open, &[]).unwrap();
    assert!(made.done[0].starts_with("8 edges rounded: ") && made.done[0].ends_with("mm² less"), "{:?}", made.done);
    let figures = seen(&made.mesh);
    let straight = (2.0 - PI / 2.0) * 2.0 * (140.0 + 32.0 - 24.0);
    let corners = 4.0 * (3.0 - PI / 2.0) * 4.0;
    near(figures.area, 1200.0 + 140.0 * 8.0 - straight - corners, 1e-3);
    assert_eq!(figures.tangles, 0);
}

#[test]
fn a_whole_face_becomes_half_a_round_and_that_is_told() {
    let rib = with_faces(block(Point::ZERO, Point::new(30.0, 4.0, 12.0)));
    let on = json!({ "faces": [[15.0, 2.0, 12.0]] });
    let step = json!({ "kind": "shape.round", "on": on, "whole": true, "radius": 1.0, "chord": 1e-3 });
    let made = done(step, &rib, &[]).unwrap();
    near(held(&made.mesh), 30.0 * (40.0 + 2.0 * PI), 5e-2);
    let told = "1 face vanishes under a rounding of 2 mm, at (15, 2, 12)";
    assert!(made.done.iter().any(|d| d == told), "{:?}", made.done);
    // The edges with the radius there is room for are the same.
    let edges = json!({ "edges": [[15.0, 0.0, 12.0], [15.0, 4.0, 12.0]] });
    let same = done(rounded(edges.clone(), 2.0, 1e-3), &rib, &[]).unwrap();
    near(held(&same.mesh), held(&made.mesh), 1e-9);
    assert!(same.done.iter().any(|d| d == told), "{:?}", same.done);
    // Told beforehand for less, and in a refusal for more.
    let less = done(rounded(edges.clone(), 1.0, 1e-3), &rib, &[]).unwrap();
    assert!(less.done.iter().any(|d| d == "a radius of up to about 2 mm would fit"), "{:?}", less.done);
    let Err(TradeError::Refused { why, .. }) = done(rounded(edges, 2.5, 1e-3), &rib, &[]) else { panic!() };
    assert!(why.ends_with("the largest radius that works there is 2 mm"), "{why}");
    // Nothing lies across the side of a drum.
    let drum = with_faces(nimbet_kernel::shapes::turned(&[(0.0, 0.0), (5.0, 0.0), (5.0, 8.0), (0.0, 8.0)], 64));
    let alone = json!({ "kind": "shape.round", "on": { "faces": [[0.0, 1.0, 8.0]] }, "whole": true, "radius": 1.0 });
    let Err(TradeError::Refused { why, places }) = done(alone, &drum, &[]) else { panic!() };
    assert!(why.starts_with("no edge of the same sense") && places.len() == 1, "{why}");
}

fn runs(mut step: Value, mesh: &Mesh, tried: bool) -> EdgeRuns {
    step.as_object_mut().unwrap().remove("kind");
    let round: Round = serde_json::from_value(step).unwrap();
    round.runs(mesh, tried, &Progress::unwatched()).unwrap()
}

#[test]
fn what_each_edge_could_have_is_told_before_anything_is_done() {
    for tried in [false, true] {
        what_each_could_have_is_told(tried);
    }
}

fn what_each_could_have_is_told(tried: bool) {
    let plate = plate();
    let on = json!({ "edges": [[20.0, 0.0, 8.0], [0.0, 0.0, 4.0]] });
    let told = runs(json!({ "on": on, "radius": 1.0 }), &plate, tried);
    assert_eq!(told.tried, tried);
    assert_eq!((told.count, told.runs.len()), (2, 2));
    let long = told.runs.iter().find(|r| r.length > 20.0).unwrap();
    assert_eq!((long.length, long.turn.round(), long.inner, long.own), (40.0, 90.0, false, false));
    assert_eq!(long.at, [20.0, 0.0, 8.0]);
    // Alone it stops at the side, 8 high; the upright one at the smaller of both sides.
    assert!((7.9..=8.0).contains(&long.largest), "{long:?}");
    let upright = told.runs.iter().find(|r| r.length < 20.0).unwrap();
    assert!((29.0..=30.0).contains(&upright.largest), "{upright:?}");
    let together = told.together.unwrap();
    // As told, so it works; and a tenth more does not.
    assert!(done(rounded(on.clone(), together, 0.02), &plate, &[]).is_ok(), "{together}");
    assert!(done(rounded(on, together * 1.1, 0.02), &plate, &[]).is_err(), "{together}");
    let all = runs(json!({ "on": { "sharp": { "than": 30.0 } }, "radius": 1.0 }), &plate, tried);
    assert_eq!(all.count, 12);
    assert!((3.9..=4.0).contains(&all.together.unwrap()), "{all:?}");
}

#[test]
fn a_run_has_its_own_radius_or_several_along_it() {
    let plate = plate();
    let also = json!([{ "on": { "edges": [[20.0, 0.0, 8.0]] }, "radius": 3.0 }]);
    let on = json!({ "edges": [[20.0, 0.0, 8.0], [20.0, 30.0, 8.0]] });
    let step = json!({ "kind": "shape.round", "on": on, "radius": 1.0, "also": also, "chord": 1e-3 });
    let lost = |step: Value| 9600.0 - held(&done(step, &plate, &[]).unwrap().mesh);
    near(lost(step.clone()), (quarter(3.0) + quarter(1.0)) * 40.0, 1e-2);
    let told = runs(step, &plate, false);
    assert_eq!(
        told.runs.iter().map(|r| (r.figure, r.own)).collect::<Vec<_>>(),
        [(Some(3.0), true), (Some(1.0), false)]
    );
    // From 1 at a quarter up to 3 in the middle and down to 2 at the end: between two the mean of the squares.
    let places = [(10.0, 1.0), (20.0, 3.0), (40.0, 2.0)];
    let along: Vec<Value> = places.iter().map(|(x, r)| json!({ "at": [x, 0.0, 8.0], "radius": r })).collect();
    let also = json!([{ "on": { "edges": [[20.0, 0.0, 8.0]] }, "radius": 1.0, "along": along }]);
    let step = json!({ "kind": "shape.round", "on": { "edges": [[20.0, 30.0, 8.0]] }, "radius": 1.0, "also": also, "chord": 1e-3 });
    let mean = |a: f64, b: f64| (a * a + a * b + b * b) / 3.0;
    let squares = 10.0 + 10.0 * mean(1.0, 3.0) + 20.0 * mean(3.0, 2.0);
    near(lost(step), quarter(1.0) * (squares + 40.0), 1e-2);
    let twice = json!([{ "on": { "edges": [[20.0, 0.0, 8.0]] }, "radius": 3.0 }, { "on": { "faces": [[20.0, 10.0, 8.0]] }, "radius": 2.0 }]);
    let step = json!({ "kind": "shape.round", "on": { "edges": [[20.0, 30.0, 8.0]] }, "radius": 1.0, "also": twice });
    assert!(matches!(done(step, &plate, &[]), Err(TradeError::Refused { why, .. }) if why.contains("two radii")));
}

#[test]
fn round_a_closed_run_the_radius_goes_from_place_to_place_and_back() {
    let drum = with_faces(turned(&[(0.0, 0.0), (20.0, 0.0), (20.0, 12.0), (0.0, 12.0)], 720));
    let along = json!([{ "at": [20.0, 0.0, 12.0], "radius": 1.0 }, { "at": [-20.0, 0.0, 12.0], "radius": 3.0 }]);
    let also = json!([{ "on": { "edges": [[0.0, 20.0, 12.0]] }, "radius": 1.0, "along": along }]);
    let step = json!({ "kind": "shape.round", "on": { "edges": [[20.0, 0.0, 0.0]] }, "radius": 1.0, "also": also, "chord": 1e-3 });
    // Each slice loses a quarter square less a quarter disc, whose centroid is so far in from the edge, as a share of the radius.
    let centroid = (10.0 - 3.0 * PI) / (12.0 - 3.0 * PI);
    let slice = |r: f64| quarter(r) * (20.0 - centroid * r) * PI / 500.0;
    let lost: f64 = (0..1000).map(|n| slice(1.0 + 2.0 * (1.0 - (f64::from(n) / 500.0 - 1.0).abs())) + slice(1.0)).sum();
    near(held(&drum) - held(&done(step.clone(), &drum, &[]).unwrap().mesh), lost, 5e-3);
    // Places along it, from one end round to it again.
    let rim = &runs(step, &drum, true).runs[0];
    assert_eq!((rim.line.len(), rim.line[0]), (21, rim.line[20]));
    near(Point::from_array(rim.line[0]).distance(Point::from_array(rim.line[10])), 40.0, 1e-3);
}

#[test]
fn roundings_a_shell_would_lose_are_taken_off_first_and_come_again() {
    // Upright edges of 2 and the rim of the floor of 1, under a wall of 3.
    let upright = json!({ "edges": [[0.0, 0.0, 4.0], [40.0, 0.0, 4.0], [40.0, 30.0, 4.0], [0.0, 30.0, 4.0]] });
    let block = with_faces(block(Point::ZERO, Point::new(40.0, 30.0, 20.0)));
    let round = done(rounded(upright, 2.0, 0.01), &block, &[]).unwrap().mesh;
    let both = done(rounded(json!({ "faces": [[20.0, 15.0, 0.0]] }), 1.0, 0.01), &round, &[]).unwrap().mesh;
    let shell = json!({ "kind": "wall.shell", "wall": 3.0, "open": [[20.0, 15.0, 20.0]] });
    let plain = done(shell.clone(), &both, &[]).unwrap();
    assert!(!plain.tight.is_empty());
    let step: Operation = serde_json::from_value(shell).unwrap();
    let found = instead(&step, &both, &plain.tight, &Progress::unwatched()).unwrap().unwrap();
    let rounds = found.label.split("round again by ").nth(1).unwrap();
    assert!(found.label.starts_with("Take ") && rounds.contains("1 mm") && rounds.contains("2 mm"), "{}", found.label);
    // Outside it is what it was; inside it is a sharp box, but for what the arcs take.
    let mut mesh = both.clone();
    for step in &found.steps {
        mesh = done(serde_json::to_value(step).unwrap(), &mesh, &[]).unwrap().mesh;
    }
    near(held(&mesh), held(&both) - 34.0 * 24.0 * 17.0, 2e-3);
    // Nothing is tight under a wall of half a millimetre.
    let thin = done(json!({ "kind": "wall.shell", "wall": 0.5, "open": [[20.0, 15.0, 20.0]] }), &both, &[]).unwrap();
    assert!(thin.tight.is_empty());
}

#[test]
fn roundings_lost_in_growing_are_taken_off_first_and_come_again() {
    // A square post on a plate, and a hole through both; the root of the post is filled by 2 and lost when it grows by 3.
    let plate = with_faces(block(Point::ZERO, Point::new(60.0, 60.0, 8.0)));
    let post = block(Point::new(20.0, 20.0, 4.0), Point::new(20.0, 20.0, 30.0));
    let sharp = with_faces(done(json!({ "kind": "shape.union", "with": [1] }), &plate, &[post]).unwrap().mesh);
    let soft =
        done(rounded(json!({ "sharp": { "sense": "inner", "than": 30.0 } }), 2.0, 0.01), &sharp, &[]).unwrap().mesh;
    let grown = |by: f64| json!({ "kind": "wall.grow", "by": by, "corners": "sharp" });
    let plain = done(grown(3.0), &soft, &[]).unwrap();
    let step: Operation = serde_json::from_value(grown(3.0)).unwrap();
    let found = instead(&step, &soft, &plain.tight, &Progress::unwatched()).unwrap().unwrap();
    assert_eq!(found.label, "Take 4 roundings off first, grow it, round again by 2 mm");
    let mesh = found
        .steps
        .iter()
        .fold(soft.clone(), |mesh, step| done(serde_json::to_value(step).unwrap(), &mesh, &[]).unwrap().mesh);
    // As if it had been rounded after it grew.
    let after = rounded(json!({ "sharp": { "sense": "inner", "than": 30.0 } }), 2.0, 0.01);
    let other = done(after, &done(grown(3.0), &sharp, &[]).unwrap().mesh, &[]).unwrap().mesh;
    near(held(&mesh), held(&other), 1e-4);
    assert!(held(&mesh) > held(&plain.mesh) + 80.0);
    // Growing by less keeps them, a millimetre tighter.
    assert!(done(grown(1.0), &soft, &[]).unwrap().tight.is_empty());
}

#[test]
fn roundings_of_a_sheet_lost_under_its_wall_are_taken_off_first_and_come_again_round_their_middles() {
    let whole = with_faces(block(Point::ZERO, Point::new(40.0, 30.0, 20.0)));
    let middle = |t: usize| whole.corners(t).iter().sum::<Point>() / 3.0;
    let bent = whole.retain_triangles(|t| middle(t).z > 19.9 || middle(t).x > 39.9);
    let soft = done(rounded(json!({ "edges": [[40.0, 15.0, 20.0]] }), 2.0, 1e-3), &bent, &[]).unwrap().mesh;
    // Inward it is a corner of the wall inside, outward one of it outside: the other side has the rounding, as far from its middle.
    for (inward, outward) in [(3.0, 0.0), (2.5, 1.0)] {
        let wall = json!({ "kind": "wall.thicken", "inward": inward, "outward": outward });
        let plain = done(wall.clone(), &soft, &[]).unwrap();
        let step: Operation = serde_json::from_value(wall).unwrap();
        let found = instead(&step, &soft, &plain.tight, &Progress::unwatched()).unwrap().unwrap();
        assert_eq!(
            found.label,
            format!("Take 1 rounding off first, make the wall, round again by {} mm", 2.0 + outward)
        );
        let mesh = found
            .steps
            .iter()
            .fold(soft.clone(), |mesh, step| done(serde_json::to_value(step).unwrap(), &mesh, &[]).unwrap().mesh);
        let (long, high, thick) = (40.0 + outward, 20.0 + outward, inward + outward);
        let sharp = 30.0 * (long * thick + (high - thick) * thick);
        near(held(&mesh), sharp - quarter(2.0 + outward) * 30.0, 1e-3);
    }
}
