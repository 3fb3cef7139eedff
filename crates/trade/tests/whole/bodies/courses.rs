//! What lofts, sweeps and tubes are led through, told before they are made.

use nimbet_kernel::{Mesh, Point};
use nimbet_trade::shape::{Course, course};
use nimbet_trade::{Operation, TradeError};
use serde_json::{Value, json};

use super::making::*;

fn of(step: Value, mesh: &Mesh, others: &[Mesh]) -> Result<Course, TradeError> {
    let step: Operation = serde_json::from_value(step).unwrap();
    course(&step, mesh, others, &quiet())
}

fn frame(height: f64, size: [f64; 2]) -> Mesh {
    drawn_in([0.0, 0.0, height], [0.0, 0.0, 1.0], line(json!({ "frame": { "centre": [0, 0], "size": size } }))).unwrap()
}

fn apart(a: [f64; 3], b: [f64; 3]) -> f64 {
    Point::from_array(a).distance(Point::from_array(b))
}

#[test]
fn sections_of_a_sweep_lie_where_its_body_will_be() {
    let bar =
        drawn_in([0.0; 3], [1.0, 0.0, 0.0], line(json!({ "frame": { "centre": [0, 0], "size": [6, 4] } }))).unwrap();
    let path = drawn_in([0.0; 3], [0.0, 0.0, 1.0], line(json!({ "line": { "from": [0, 0], "to": [50, 0] } }))).unwrap();
    let step = |more: Value| {
        with(json!({ "kind": "shape.sweep", "path": { "profiles": { "parts": [2] } }, "chord": 0.01 }), more)
    };
    let led = |more: Value| of(step(more), &bar, std::slice::from_ref(&path)).unwrap();
    let plain = led(json!({}));
    let (first, end) = (&plain.sections[0], plain.end.as_ref().unwrap());
    assert!(first.closed && first.line.len() == 4 && first.line.iter().all(|p| p[0] == 0.0), "{first:?}");
    assert!(apart(plain.path[0], [0.0; 3]) < 1e-9 && apart(*plain.path.last().unwrap(), [50.0, 0.0, 0.0]) < 1e-9);
    assert!(apart(end.at, [50.0, 0.0, 0.0]) < 1e-9 && apart(end.along, [1.0, 0.0, 0.0]) < 1e-9);
    assert!((end.reach - 13f64.sqrt()).abs() < 1e-9, "{}", end.reach);
    // Twisted and larger: each point of the last section has turned about the path by that, and lies as much farther out.
    let twisted = led(json!({ "twist": 90, "scale": 2 }));
    let last = |course: &Course| course.sections.last().unwrap().line.clone();
    for (p, q) in last(&plain).into_iter().zip(last(&twisted)) {
        assert!(apart([q[0], q[1], q[2]], [50.0, -2.0 * p[2], 2.0 * p[1]]) < 1e-6, "{p:?} {q:?}");
    }
    let (a, b) = (end.across, twisted.end.as_ref().unwrap().across);
    assert!(apart(b, [0.0, -a[2], a[1]]) < 1e-6, "{a:?} {b:?}");
    // However finely it is made, not more is told than can be drawn.
    let fine = led(json!({ "twist": 3600, "chord": 0.001 }));
    assert!(fine.sections.len() <= 13 && fine.path.len() <= 2_000);
    let made = done(step(json!({ "twist": 3600, "chord": 0.001 })), &bar, std::slice::from_ref(&path)).unwrap();
    assert!(made.more[0].mesh.points().len() > 20_000);
}

#[test]
fn outlines_of_a_loft_begin_where_it_joins_them() {
    let prism = [frame(0.0, [20.0, 20.0]), frame(20.0, [20.0, 20.0])];
    let step = |more: Value| with(json!({ "kind": "shape.loft", "profiles": [2] }), more);
    let begins = |more: Value| {
        let led = of(step(more), &prism[0], &prism[1..]).unwrap();
        led.sections.iter().map(|s| s.begins.unwrap()).collect::<Vec<_>>()
    };
    let [a, b] = begins(json!({}))[..] else { panic!() };
    assert!(apart([a[0], a[1], 20.0], b) < 1e-9, "one above the other: {a:?} {b:?}");
    let picked = begins(json!({ "starts": [[10, 10, 0], [-10, 3, 20]] }));
    assert!(apart(picked[0], [10.0, 10.0, 0.0]) < 1e-9 && apart(picked[1], [-10.0, 3.0, 20.0]) < 1e-9, "{picked:?}");
}

#[test]
fn what_leads_nowhere_is_refused() {
    let why = |step: Value, mesh: &Mesh, others: &[Mesh]| of(step, mesh, others).unwrap_err().to_string();
    let square = frame(0.0, [4.0, 4.0]);
    let none = why(json!({ "kind": "shape.sweep", "path": { "profiles": { "parts": [] } } }), &square, &[]);
    assert!(none.contains("choose the profiles"), "{none}");
    assert!(why(json!({ "kind": "shape.loft", "profiles": [] }), &square, &[]).contains("two profiles"));
    assert!(why(json!({ "kind": "shape.extrude", "above": 1 }), &square, &[]).contains("only lofts"));
    let helix = json!({ "helix": { "at": [0, 0, 0], "axis": [0, 0, 1], "radius": 20, "pitch": 5, "turns": 3 } });
    let tube = |chord: f64| json!({ "kind": "shape.tube", "path": helix, "diameter": 3, "chord": chord });
    let led = of(tube(0.02), &Mesh::default(), &[]).unwrap();
    assert!(led.end.is_none() && led.path.len() > 50);
    assert!(why(tube(1e-300), &Mesh::default(), &[]).contains("chord"), "figures outside their limits");
}
