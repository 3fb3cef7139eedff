//! What real files are broken by becomes a solid, and nothing of it is lost unsaid.

#![allow(clippy::unwrap_used, clippy::panic)] // a failed test says so by panicking

mod classes;
#[allow(dead_code)]
mod gallery;

use classes::{Case, classes};
use nimbet_kernel::harm::harm;
use nimbet_kernel::{Mesh, Progress};
use nimbet_trade::harm::{HarmFacts, MAY_LOSE, far_distance};
use nimbet_trade::seal::Plan;
use nimbet_trade::{Operation, PartState, examine};
use rayon::prelude::*;

fn quiet() -> Progress {
    Progress::unwatched()
}

fn planned(mesh: &Mesh) -> Mesh {
    Operation::Plan(Plan::default()).apply(mesh, &[], &quiet()).map_or_else(|_| mesh.clone(), |o| o.mesh)
}

/// Why a case did not come out as it should.
fn fault(case: &Case) -> Option<String> {
    let made = planned(&case.mesh);
    let seen = examine(&made, &quiet()).unwrap();
    let harm = HarmFacts::of(&harm(&case.mesh, &made, far_distance(&case.mesh), &quiet()).unwrap());
    let at = format!("{} {}", case.class, case.seed);
    if seen.figures.state != PartState::Sealed {
        let left = Operation::Plan(Plan::default()).apply(&case.mesh, &[], &quiet()).map(|o| o.left);
        return Some(format!("{at}: {} {left:?}", seen.figures.reason));
    }
    if harm.lost.share > MAY_LOSE {
        return Some(format!("{at}: lost {}", harm.lost.told()));
    }
    let (truth, off) = case.volume?;
    let volume = seen.figures.volume.unwrap_or(0.0);
    ((volume / truth - 1.0).abs() > off).then(|| format!("{at}: {volume} mm³ of {truth}"))
}

#[test]
fn every_class_becomes_a_solid_and_loses_nothing() {
    let faults: Vec<String> = classes(10).par_iter().filter_map(fault).collect();
    assert!(faults.is_empty(), "{}\n{}", faults.len(), faults.join("\n"));
}
