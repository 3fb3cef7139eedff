//! Bores and threads: known answers, what they leave, and what comes out whatever they meet.

mod bores;
mod threads;

use std::f64::consts::{PI, TAU};

use nimbet_kernel::measure::measure;
use nimbet_kernel::segments::hit;
use nimbet_kernel::shapes::{block, turned};
use nimbet_kernel::surfaces::{DEFAULT_ANGLE, Grouping, group_faces};
use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_trade::examine::{FaceAnchor, FaceFacts, FacePick, FaceSurface};
use nimbet_trade::fasten::{
    Allowance, Bore, BoreForm, BorePlace, Family, FitReport, FreeThread, Gender, Places, Plug, Reach, Rebore, Stud,
    Thread, ThreadFaces, ThreadMark, ThreadSize, ThreadedBore, Width, fit, size, sizes,
};
use nimbet_trade::{Operation, Outcome, PartState, TradeError, examine};

fn quiet() -> Progress {
    Progress::unwatched()
}

fn grouped(mesh: Mesh) -> Mesh {
    group_faces(mesh, Grouping { angle: DEFAULT_ANGLE, tolerance: 1e-6 }, &quiet()).unwrap()
}

/// A plate that lies on z = 0, its middle on the axis.
fn plate(x: f64, y: f64, z: f64) -> Mesh {
    grouped(block(Point::new(-x * 0.5, -y * 0.5, 0.0), Point::new(x, y, z)))
}

fn volume(mesh: &Mesh) -> f64 {
    measure(mesh).volume
}

fn is_sealed(mesh: &Mesh) {
    let seen = examine(mesh, &quiet()).unwrap();
    assert_eq!(seen.figures.state, PartState::Sealed, "{}", seen.figures.reason);
}

fn done(mesh: &Mesh, op: impl Into<Operation>) -> Outcome {
    let outcome = op.into().apply_to_seen(mesh, &examine(mesh, &quiet()).unwrap(), &[], &quiet()).unwrap();
    is_sealed(&outcome.mesh);
    outcome
}

fn refused(mesh: &Mesh, op: impl Into<Operation>) -> TradeError {
    op.into().apply(mesh, &[], &quiet()).unwrap_err()
}

fn bore(at: &[[f64; 3]], form: BoreForm) -> Bore {
    Bore {
        places: Places::Points(at.iter().map(|p| BorePlace::At(*p)).collect()),
        face: None,
        along: None,
        form,
        reach: Reach::All,
        allowance: 0.0,
        chord: 0.005,
        least_wall: Some(1.5),
    }
}

fn plain(diameter: f64) -> BoreForm {
    BoreForm::Plain { width: Width::Diameter(diameter) }
}

fn thread(name: &str) -> Thread {
    Thread { size: ThreadSize::Standard(name.into()), left: false, starts: 1, allowance: Allowance::default() }
}

fn threaded(thread: Thread) -> BoreForm {
    BoreForm::Threaded(ThreadedBore { thread, threaded: None, lead_in: None, marked: false })
}

/// The area of a regular outline as round walls are made: a multiple of four corners that keep the chord.
fn round(radius: f64, chord: f64) -> f64 {
    let n = ((TAU / (2.0 * (1.0 - chord / radius).acos())).max(24.0) / 4.0).ceil() * 4.0;
    0.5 * n * (TAU / n).sin() * radius * radius
}
