//! Profiles in the ledger: a curve changed far back goes through bodies, pockets and bores; copies are profiles; a pick that is gone
//! stops its step only.

use nimbet_kernel::Point;
use nimbet_kernel::shapes::block;
use nimbet_ledger::*;
use serde_json::{Value, json};

use super::desk::Desk;

fn outline(diameter: f64, name: &str) -> Value {
    json!({ "kind": "shape.profile", "plane": { "at": [0.0, 0.0, 0.0], "normal": [0.0, 0.0, 1.0] }, "right": [1.0, 0.0, 0.0],
        "lines": [
            { "name": "a", "draw": { "frame": { "centre": [0.0, 0.0], "size": [40.0, 20.0] } } },
            { "name": name, "draw": { "circle": { "centre": [10.0, 0.0], "diameter": diameter } } },
        ] })
}

/// The number of the part a step made.
fn made(desk: &Desk, step: u32) -> u32 {
    let step = desk.history.steps.iter().find(|s| s.number == step).unwrap();
    step.made().next().unwrap().0.0
}

/// The area of the plate's outline with the circle at a chord so fine that the rest does not count.
fn plate(diameter: f64, height: f64) -> f64 {
    (800.0 - std::f64::consts::PI * diameter * diameter / 4.0) * height
}

#[test]
fn a_circle_changed_ten_steps_back_goes_through_all_that_was_made_of_it() {
    let mut desk = Desk::with(&[block(Point::new(-30.0, -20.0, -9.0), Point::new(60.0, 40.0, 9.0))]);
    let drawing = desk.does(1, outline(6.0, "b"));
    let profile = made(&desk, drawing);
    let extrusion = desk.does(profile, json!({ "kind": "shape.extrude", "above": 4.0, "chord": 1e-4 }));
    let body = made(&desk, extrusion);
    let pocket = json!({ "kind": "shape.extrude", "profile": profile, "above": 0.0, "below": 3.0, "becomes": "taken", "chord": 1e-4,
        "regions": [{ "at": [10.0, 0.0], "lines": ["b"] }] });
    let pocket = desk.does(1, pocket);
    for k in 0..8 {
        desk.does(body, json!({ "kind": "shape.place", "by": [0.0, 0.0, f64::from(k)] }));
    }
    // A copy of a profile is a profile, and stays what it was when it was taken.
    let kept = desk.does(profile, json!({ "kind": "keep", "name": "As first drawn" }));
    let copy = made(&desk, kept);
    let turned = desk.does(
        copy,
        json!({ "kind": "shape.revolve", "axis": { "at": [-20.0, 0.0], "way": [0.0, 1.0] }, "angle": 90.0 }),
    );
    let near = |a: f64, b: f64| assert!((a / b - 1.0).abs() < 1e-4, "{a} {b}");
    let at_first = desk.history.clone();
    for diameter in [6.0, 9.5] {
        if diameter > 6.0 {
            desk.over(drawing, outline(diameter, "b"));
        }
        near(desk.volume(body), plate(diameter, 4.0));
        near(desk.volume(1), 60.0 * 40.0 * 9.0 - 3.0 * std::f64::consts::PI * diameter * diameter / 4.0);
        assert_eq!(desk.state(turned), &StepState::Done);
    }
    // The line is called otherwise now: the pocket, picked by it, has to be picked again; what was not picked goes on.
    desk.over(drawing, outline(9.5, "c"));
    assert!(matches!(desk.state(pocket), StepState::Stopped { new_pick: true, .. }), "{:?}", desk.state(pocket));
    near(desk.volume(body), plate(9.5, 4.0));
    // What changes its sheet leaves the drawing behind, and says so.
    let larger = desk.does(copy, json!({ "kind": "shape.place", "scale": 2.0 }));
    let step = desk.history.steps.iter().find(|s| s.number == larger).unwrap();
    assert!(step.report.left.iter().any(|l| l.contains("no profile any more")), "{:?}", step.report.left);
    desk.edit(Edit::Remove { steps: vec![larger] }).unwrap();
    // As it was: the same meshes to the last bit.
    desk.over(drawing, outline(6.0, "b"));
    assert_eq!(desk.history.parts(), at_first.parts());
}

#[test]
fn a_figure_changed_in_the_ledger_moves_its_lines() {
    let mut desk = Desk::with(&[block(Point::new(-30.0, -20.0, -9.0), Point::new(60.0, 40.0, 9.0))]);
    let held = |diameter: f64| {
        // The line is written as it was first drawn; only its figure says otherwise.
        let mut step = outline(6.0, "b");
        step["holds"] = json!([{ "name": "h1", "rule": { "diameter": { "of": "b", "mm": diameter } } }]);
        step
    };
    let drawing = desk.does(1, held(6.0));
    let profile = made(&desk, drawing);
    let extrusion = desk.does(profile, json!({ "kind": "shape.extrude", "above": 4.0, "chord": 1e-4 }));
    let body = made(&desk, extrusion);
    for diameter in [8.4, 5.0] {
        desk.over(drawing, held(diameter));
        assert!((desk.volume(body) / plate(diameter, 4.0) - 1.0).abs() < 1e-4);
    }
}

#[test]
fn a_profile_moved_and_turned_as_a_whole_stays_one() {
    let mut desk = Desk::with(&[]);
    let drawing = desk.does(0, outline(6.0, "b"));
    let profile = made(&desk, drawing);
    let turn = json!({ "axis": "x", "degrees": 90.0 });
    desk.does(profile, json!({ "kind": "shape.place", "turn": turn, "by": [5.0, 0.0, 30.0] }));
    let extrusion = desk.does(profile, json!({ "kind": "shape.extrude", "above": 4.0, "chord": 1e-4 }));
    let body = made(&desk, extrusion);
    // Upright now, and its circle is a circle still, whatever its diameter becomes.
    for diameter in [6.0, 9.5] {
        if diameter > 6.0 {
            desk.over(drawing, outline(diameter, "b"));
        }
        assert!((desk.volume(body) / plate(diameter, 4.0) - 1.0).abs() < 1e-4);
        let size = desk.history.part(PartId(body)).unwrap().figures.size;
        assert!(
            (size[0] - 40.0).abs() < 1e-9 && (size[1] - 4.0).abs() < 1e-9 && (size[2] - 20.0).abs() < 1e-9,
            "{size:?}"
        );
    }
}
