//! What earlier versions stored still opens: steps and an examination as the program of 2026-11-27 wrote them, before it told
//! what was lost.

#![allow(clippy::unwrap_used)] // a failed test says so by panicking

use nimbet_ledger::{Action, Loss, StepReport, StepState, Work};
use nimbet_trade::{Examination, Operation, PartState};
use serde::Deserialize;

#[derive(Deserialize)]
struct Stored {
    action: Action,
    report: StepReport,
    state: StepState,
}

#[test]
fn steps_and_examinations_of_earlier_versions_open_and_say_what_they_said() {
    let steps: Vec<Stored> = serde_json::from_str(include_str!("stored/steps.json")).unwrap();
    assert_eq!(steps.len(), 5);
    for step in &steps {
        assert!(step.state == StepState::Done && step.report.harm.is_none() && !step.report.done.is_empty());
        // What nobody measured is not said to be lost.
        assert!(Loss::of(&step.action, &step.report).is_none());
    }
    assert!(matches!(&steps[0].action, Action::BringIn(b) if b.file == "Vent cowl.ply"));
    let Action::Operation(Work { operation: Operation::Plan(plan), keep_lost }) = &steps[1].action else {
        unreachable!("a plan")
    };
    assert!(plan.skip.is_empty() && plan.may_lose.is_none() && !keep_lost);
    assert_eq!(steps[1].report.after.state, PartState::Sealed);
    let seen: Examination = serde_json::from_str(include_str!("stored/examination.json")).unwrap();
    assert_eq!(seen.figures.volume, steps[1].report.after.volume);
    assert!(seen.corners.is_none() && !seen.sheet && seen.no_crossings() == Some(&[]));
}
