//! Lines carried down from parts: known answers, circles and arcs known again, and that they follow.

use std::f64::consts::PI;

use nimbet_kernel::shapes::{block, turned};
use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_trade::shape::{Carried, Carries, Line, Profile, Shape, carry};
use nimbet_trade::{Operation, TradeError};
use serde_json::{Value, json};

fn quiet() -> Progress {
    Progress::unwatched()
}

fn across(height: f64) -> PlaneFrame {
    let frame = PlaneFrame::new(Point::new(0.0, 0.0, height), Point::new(0.0, 0.0, 1.0)).unwrap();
    frame.along(Point::new(1.0, 0.0, 0.0))
}

fn down(mesh: &Mesh, frame: &PlaneFrame, what: Carries) -> Vec<Line> {
    carry(mesh, frame, &Carried { name: "p".into(), part: None, what }, &quiet()).unwrap()
}

fn apply(step: Value, mesh: &Mesh, others: &[Mesh]) -> Result<nimbet_trade::Outcome, TradeError> {
    let step: Operation = serde_json::from_value(step).unwrap();
    let seen = nimbet_trade::examine(mesh, &quiet()).unwrap();
    step.apply_to_seen(mesh, &seen, others, &quiet())
}

/// A plate of 60 by 40 with round corners of 6 and a bore of 10, 5 thick.
fn plate() -> Mesh {
    let drawing = json!({ "kind": "shape.profile", "plane": { "at": [0, 0, 0], "normal": [0, 0, 1] }, "right": [1, 0, 0], "lines": [
        { "name": "a", "draw": { "frame": { "centre": [0, 0], "size": [60, 40], "radius": 6 } } },
        { "name": "b", "draw": { "circle": { "centre": [10, 0], "diameter": 10 } } },
    ] });
    let stand = block(Point::ZERO, Point::new(1.0, 1.0, 1.0));
    let profile = apply(drawing, &stand, &[]).unwrap().more.remove(0).mesh;
    apply(json!({ "kind": "shape.extrude", "above": 5, "chord": 0.01 }), &profile, &[]).unwrap().more.remove(0).mesh
}

fn circles(lines: &[Line]) -> Vec<f64> {
    let of = |l: &Line| if let Shape::Circle { diameter, .. } = l.draw { Some(diameter) } else { None };
    let mut found: Vec<f64> = lines.iter().filter_map(of).collect();
    found.sort_by(f64::total_cmp);
    found
}

#[test]
fn a_plate_is_known_again_in_its_cut_and_its_silhouette() {
    for (what, frame) in [(Carries::Cut, across(2.0)), (Carries::Silhouette, across(40.0))] {
        let lines = down(&plate(), &frame, what);
        assert_eq!(lines.len(), 2, "{lines:?}");
        assert!((circles(&lines)[0] - 10.0).abs() < 1e-9);
        let outline = lines.iter().find(|l| matches!(l.draw, Shape::Chain { .. })).unwrap();
        let Shape::Chain { from, legs, closed } = &outline.draw else { panic!("a chain") };
        // Four sides and four corners, each a quarter turn.
        let sides = legs.iter().filter(|l| l.bulge == 0.0).count() + usize::from(*closed);
        let bulges: Vec<f64> = legs.iter().map(|l| l.bulge.abs()).filter(|b| *b > 0.0).collect();
        assert_eq!((sides, bulges.len()), (4, 4), "{legs:?} from {from:?}");
        assert!(bulges.iter().all(|b| (b - (PI / 8.0).tan()).abs() < 1e-6), "{bulges:?}");
        assert!(lines.iter().all(|l| l.still && l.name.starts_with('p')));
    }
}

/// However the part lies, and in single precision, its cut and silhouette are the same lines.
#[test]
fn a_turned_and_rounded_part_is_known_again_too() {
    let (x, y, z) = (Point::new(0.6, 0.64, 0.48), Point::new(-0.8, 0.48, 0.36), Point::new(0.0, -0.6, 0.8));
    let turn = |p: Point| x * p.x + y * p.y + z * p.z + Point::new(7.1, -3.3, 11.7);
    let part = plate();
    for rounded in [false, true] {
        let round = |p: Point| {
            if rounded { Point::new(f64::from(p.x as f32), f64::from(p.y as f32), f64::from(p.z as f32)) } else { p }
        };
        let points: Vec<Point> = part.points().iter().map(|p| round(turn(*p))).collect();
        let turned = Mesh::new(points, part.triangles().to_vec(), part.face_of().to_vec()).unwrap();
        let frame = PlaneFrame::new(turn(Point::new(0.0, 0.0, 2.0)), z).unwrap().along(x);
        for what in [Carries::Cut, Carries::Silhouette] {
            let lines = down(&turned, &frame, what);
            assert_eq!((lines.len(), circles(&lines).len()), (2, 1), "{what:?} {rounded}: {lines:?}");
            assert!((circles(&lines)[0] - 10.0).abs() < 1e-5, "{what:?} {:?}", circles(&lines));
        }
    }
}

#[test]
fn rims_edges_and_corners_stay_what_they_are() {
    // A cup without a lid: its rim is a circle, seen from anywhere above.
    let cup = turned(&[(0.0, 0.0), (12.0, 0.0), (12.0, 20.0)], 48);
    let open = cup.retain_triangles(|t| cup.corners(t).iter().any(|p| p.z < 19.0));
    if nimbet_trade::examine(&open, &quiet()).unwrap().figures.state != nimbet_trade::PartState::Sealed {
        let rim = down(&open, &across(50.0), Carries::Rims);
        assert!(circles(&rim).iter().any(|d| (d - 24.0).abs() < 1e-9), "{rim:?}");
    }
    // The edges of a block seen from above: four, those below behind them; from a corner nine and what lies behind.
    let brick = block(Point::new(1.0, 2.0, 3.0), Point::new(30.0, 20.0, 10.0));
    let above = down(&brick, &across(0.0), Carries::Edges);
    let length = |lines: &[Line]| -> f64 {
        let curves = nimbet_profile_length(lines);
        curves.iter().sum()
    };
    assert!((length(&above) - 100.0).abs() < 1e-9, "{above:?}");
    // A box is no circle, an eight-cornered post none either.
    assert!(circles(&down(&brick, &across(5.0), Carries::Cut)).is_empty());
    let post = turned(&[(0.0, 0.0), (10.0, 0.0), (10.0, 30.0), (0.0, 30.0)], 8);
    assert!(circles(&down(&post, &across(5.0), Carries::Cut)).is_empty());
    let round = turned(&[(0.0, 0.0), (10.0, 0.0), (10.0, 30.0), (0.0, 30.0)], 64);
    assert!((circles(&down(&round, &across(5.0), Carries::Cut))[0] - 20.0).abs() < 1e-9);
    // Nothing there is told.
    let none = carry(&brick, &across(50.0), &Carried { name: "p".into(), part: None, what: Carries::Cut }, &quiet());
    assert_eq!(none.unwrap_err().to_string(), "the plane does not cut the part");
}

/// The length of each line.
fn nimbet_profile_length(lines: &[Line]) -> Vec<f64> {
    let drawing = nimbet_profile::Drawing { lines: lines.to_vec(), holds: vec![] };
    drawing.curves().unwrap().iter().map(|c| c.spans.iter().map(nimbet_profile::Span::length).sum()).collect()
}

#[test]
fn what_is_carried_down_follows_its_part_and_rules_follow_it() {
    let step = |part: Option<u32>| {
        let mut carried = json!({ "name": "p", "what": "silhouette" });
        if let Some(part) = part {
            carried["part"] = part.into();
        }
        json!({ "kind": "shape.profile", "plane": { "at": [0, 0, 0], "normal": [0, 0, 1] }, "right": [1, 0, 0],
            "carried": [carried],
            "lines": [{ "name": "c", "draw": { "circle": { "centre": [3, 3], "diameter": 2 } } }],
            "holds": [{ "name": "h", "rule": { "together": { "between": ["centre of c", "beginning of p1"] } } }] })
    };
    let brick = |size: f64| block(Point::ZERO, Point::new(size, size, 5.0));
    for (part, size) in [(None, 20.0), (None, 26.0), (Some(3), 31.0)] {
        let given = if part.is_some() { brick(4.0) } else { brick(size) };
        let others = if part.is_some() { vec![brick(size)] } else { vec![] };
        let made = apply(step(part), &given, &others).unwrap().more.remove(0).mesh;
        let profile = Profile::of(&made, &quiet()).unwrap();
        let seen = profile.look(&quiet()).unwrap();
        let outer: f64 = seen.regions.iter().map(|r| r.area).sum();
        // The square, and of the circle about its corner what lies outside.
        assert!((outer - size * size - 0.75 * PI).abs() < 1e-6, "{outer}");
    }
    // Its lines lie where the part has them: they are not cut back, and nothing draws them elsewhere.
    let twice = json!({ "kind": "shape.profile", "plane": { "at": [0, 0, 0], "normal": [0, 0, 1] }, "lines": [],
        "carried": [{ "name": "p", "what": "rims" }] });
    assert_eq!(apply(twice, &brick(5.0), &[]).unwrap_err().to_string(), "the part has no rims");
}
