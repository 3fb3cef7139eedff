//! What the remedies promise, on shapes with known answers and on nasty ones.

mod openings;
mod surface;

use std::f64::consts::TAU;

use crate::gallery::*;
use nimbet_kernel::{FaceId, Mesh, Point, Progress, shapes};
use nimbet_trade::examine::{FacePick, Figures, FindingKind, RimPick};
use nimbet_trade::seal::*;
use nimbet_trade::{Examination, Operation, Outcome, PartState, Plan, PlanStage, TradeError, demo, examine};
use proptest::prelude::*;

fn look(mesh: &Mesh) -> Examination {
    examine(mesh, &Progress::unwatched()).unwrap()
}

fn apply(mesh: &Mesh, operation: Operation) -> Result<Outcome, TradeError> {
    operation.apply(mesh, &[], &Progress::unwatched())
}

fn close(reach: f64) -> Operation {
    Operation::of(CloseGaps { reach, leave: vec![] })
}

fn cover(style: CoverStyle) -> Operation {
    Operation::of(CoverRim { rims: RimChoice::All, style, ..Default::default() })
}

fn plan() -> Operation {
    Operation::of(Plan::default())
}

fn volume(mesh: &Mesh) -> f64 {
    look(mesh).figures.volume.unwrap_or_else(|| panic!("{}", look(mesh).figures.reason))
}
