//! What all of them are made with.

use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_trade::examine::Figures;
use nimbet_trade::{Operation, Outcome, PartState, TradeError, examine};
use serde_json::{Value, json};

pub fn quiet() -> Progress {
    Progress::unwatched()
}

/// A step done to a part that was examined.
pub fn done(step: Value, mesh: &Mesh, others: &[Mesh]) -> Result<Outcome, TradeError> {
    let step: Operation = serde_json::from_value(step).unwrap();
    step.apply_to_seen(mesh, &examine(mesh, &quiet()).unwrap(), others, &quiet())
}

pub fn seen(mesh: &Mesh) -> Figures {
    examine(mesh, &quiet()).unwrap().figures
}

/// The figures of what a step makes, which is a solid.
pub fn solid(outcome: &Outcome) -> Figures {
    let figures = seen(&outcome.more[0].mesh);
    assert_eq!(figures.state, PartState::Sealed, "{} {:?}", figures.reason, outcome.done);
    figures
}

pub fn volume(outcome: &Outcome) -> f64 {
    solid(outcome).volume.unwrap()
}

pub fn near(a: f64, b: f64, within: f64) {
    assert!((a / b - 1.0).abs() < within, "{a} {b}");
}

/// Why a step was refused, and where.
pub fn refusal(result: Result<Outcome, TradeError>) -> (String, Vec<Point>) {
    match result.unwrap_err() {
        TradeError::Refused { why, places } => (why, places),
        other => (other.to_string(), vec![]),
    }
}

/// A profile of lines in a plane, its x to the right where that can be.
pub fn drawn_in(at: [f64; 3], normal: [f64; 3], lines: Value) -> Result<Mesh, TradeError> {
    let right = if normal[0] == 0.0 { [1.0, 0.0, 0.0] } else { [0.0, 1.0, 0.0] };
    drawn_along(at, normal, right, lines)
}

/// A profile of lines in a plane, with where its x goes.
pub fn drawn_along(at: [f64; 3], normal: [f64; 3], right: [f64; 3], lines: Value) -> Result<Mesh, TradeError> {
    let step =
        json!({ "kind": "shape.profile", "plane": { "at": at, "normal": normal }, "right": right, "lines": lines });
    Ok(done(step, &Mesh::default(), &[])?.more.remove(0).mesh)
}

/// One line of a profile.
pub fn line(draw: Value) -> Value {
    json!([{ "name": "a", "draw": draw }])
}

/// A step with further parameters.
pub fn with(mut step: Value, more: Value) -> Value {
    step.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
    step
}
