//! What real files are broken by becomes a solid, and nothing of it is lost unsaid.

#![allow(clippy::unwrap_used, clippy::panic)] // a failed test says so by panicking

mod classes;
#[allow(dead_code)]
mod gallery;

use classes::{Case, classes};
use nimbet_kernel::harm::harm;
use nimbet_kernel::{Mesh, Progress};
use nimbet_trade::harm::{HarmFacts, MAY_LOSE, far_distance};
use nimbet_trade::seal::{FindInside, MergePoints, Plan};
use nimbet_trade::shape::{Base, Floor};
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

#[test]
fn senseless_figures_are_refused_and_never_make_a_part() {
    let terrain = classes(1).into_iter().find(|c| c.class == "terrain").unwrap().mesh;
    for x in [0.0, -1.0, 1e-12, 1e12, 1e308, f64::NAN] {
        let steps = [
            Operation::FindInside(FindInside { wall: Some(x), ..Default::default() }),
            Operation::MergePoints(MergePoints { within: x }),
            Operation::Base(Base { floor: Floor::Below(x), up: None }),
            Operation::Plan(Plan { may_lose: Some(x - 1.5), ..Default::default() }),
        ];
        for step in steps {
            let made = step.apply(&terrain, &[], &quiet());
            assert!(made.is_err(), "{}: {:?}", step.title(), made.map(|o| o.done));
        }
    }
}
