//! Walls: made as asked, measured as made, and what they cost said beforehand.

mod found;
mod made;
mod sound;

use std::f64::consts::PI;

use nimbet_kernel::segments::nearest_on_triangle;
use nimbet_kernel::shapes::ball;
use nimbet_kernel::surfaces::{Grouping, group_faces};
use nimbet_kernel::thickness::{Side, Way};
use nimbet_kernel::winding::Winding;
use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_trade::examine::FindingKind;
use nimbet_trade::wall::*;
use nimbet_trade::wall_findings;
use nimbet_trade::{Operation, Outcome, PartState, TradeError, examine};
use serde_json::{Value, json};

fn then(after: &Mesh, before: &Mesh, places: &[ThinPlace]) -> Vec<(ThinPlace, bool)> {
    thin_before(after, before, places, &Progress::unwatched()).unwrap()
}

fn apply(what: Value, mesh: &Mesh, others: &[Mesh]) -> Result<Outcome, TradeError> {
    let operation: Operation = serde_json::from_value(what).unwrap();
    operation.apply(mesh, others, &Progress::unwatched())
}

fn body(shape: Value) -> Mesh {
    apply(json!({ "kind": "shape.body", "body": shape, "chord": 0.01 }), &Mesh::default(), &[])
        .unwrap()
        .more
        .remove(0)
        .mesh
}

/// A block about the origin.
fn block(x: f64, y: f64, z: f64) -> Mesh {
    body(json!({ "block": { "size": [x, y, z] } }))
}

fn sealed(mesh: &Mesh) -> f64 {
    let figures = examine(mesh, &Progress::unwatched()).unwrap().figures;
    assert_eq!(figures.state, PartState::Sealed, "{}", figures.reason);
    figures.volume.unwrap()
}

fn near(a: f64, b: f64, share: f64) {
    assert!((a / b - 1.0).abs() < share, "{a} is not {b}");
}

fn least_wall(mesh: &Mesh) -> f64 {
    wall_report(mesh, (Side::Inside, Way::Ball), &Progress::unwatched()).unwrap().least.unwrap()
}
