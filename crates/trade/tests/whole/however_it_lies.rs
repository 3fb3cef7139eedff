//! The same part in another pose, precision, order or triangulation: every tool gives the same.

use std::time::{Duration, Instant};

use crate::lies::tools::{Tool, tools};
use crate::lies::{Lie, difference, parts::part, told};
use nimbet_kernel::Progress;
use nimbet_kernel::single::fit_for_single;
use nimbet_trade::shape::Union;
use nimbet_trade::{Operation, PartState, examine};
use rayon::prelude::*;

/// A tool on its parts in every pose: what differs, in words; with `watched`, also where it takes far longer.
fn differences(tool: &Tool, seed: u64, watched: bool) -> Vec<String> {
    let mut found = vec![];
    for names in &tool.parts {
        let parts: Vec<_> = names.iter().map(|n| part(n)).collect();
        let timed = |lie: &Lie| {
            let begin = Instant::now();
            (told(lie, &parts, &tool.step), begin.elapsed())
        };
        let (plain, took) = timed(&Lie::plain());
        for lie in Lie::all(seed).iter().filter(|l| !tool.not.contains(&l.name)) {
            let (other, then) = timed(lie);
            let slow = watched && then > took * 3 + Duration::from_millis(300);
            let what = difference(&plain, &other, tool, lie).or(slow.then(|| format!("{took:.1?} → {then:.1?}")));
            found.extend(what.map(|w| format!("{} on {}, {}: {w}", tool.step, names.join(" and "), lie.name)));
        }
    }
    found
}

fn survey(seed: u64, watched: bool) -> Vec<String> {
    tools().par_iter().flat_map(|tool| differences(tool, seed, watched)).collect()
}

/// Every kind of operation there is, by the schema of recipes.
fn kinds() -> Vec<String> {
    let schema = serde_json::to_value(schemars::schema_for!(Operation)).unwrap();
    let variants = schema["oneOf"].as_array().unwrap();
    variants.iter().map(|v| v["properties"]["kind"]["const"].as_str().unwrap().to_owned()).collect()
}

#[test]
fn every_tool_is_tried_on_parts_that_lie_anyhow() {
    let tools = tools();
    for tool in &tools {
        serde_json::from_value::<Operation>(tool.step.clone()).unwrap_or_else(|e| panic!("{}: {e}", tool.step));
    }
    let tried: Vec<&str> = tools.iter().map(Tool::kind).collect();
    let missing: Vec<String> = kinds().into_iter().filter(|k| !tried.contains(&k.as_str())).collect();
    assert!(missing.is_empty(), "not tried: {missing:?}");
}

#[test]
fn a_part_that_lies_otherwise_gives_the_same() {
    let found = survey(1, false);
    assert!(found.is_empty(), "{} differences:\n{}", found.len(), found.join("\n"));
}

/// Parts that lie anyhow are united one after the other, and each time what came of it is a solid still when its numbers are rounded
/// to single precision.
#[test]
fn twenty_unions_in_a_row_stay_fit_for_single_precision() {
    let quiet = Progress::unwatched();
    let names = ["block", "gear", "bracket", "drum", "housing", "tube"];
    (1..=10u64).into_par_iter().for_each(|seed| {
        let body = |k: u64| Lie::somewhere(seed * 100 + k).part(&part(names[(seed + k) as usize % names.len()]));
        let mut whole = body(0);
        for k in 1..=20 {
            let union = Operation::of(Union { with: vec![2] });
            whole = union.apply(&whole, &[body(k)], &quiet).unwrap_or_else(|e| panic!("{seed}, {k}: {e}")).mesh;
        }
        let figures = examine(&whole, &quiet).unwrap().figures;
        assert_eq!(figures.state, PartState::Sealed, "{seed}: {}", figures.reason);
        let rounded = fit_for_single(&whole, &quiet).unwrap_or_else(|e| panic!("{seed}: {e}"));
        let after = examine(&rounded.mesh, &quiet).unwrap().figures;
        assert_eq!(after.state, PartState::Sealed, "{seed}: {}", after.reason);
        assert!(rounded.largest_move < 1e-4, "{seed}: {}", rounded.largest_move);
    });
}

/// `NIMBET_KIND=shape.saw NIMBET_SEEDS=50 cargo test --release -p nimbet-trade --test however_it_lies -- --ignored --nocapture`
#[test]
#[ignore = "a long run"]
fn many_seeds_of_one_kind_or_all() {
    let kind = std::env::var("NIMBET_KIND").unwrap_or_default();
    let seeds: u64 = std::env::var("NIMBET_SEEDS").map_or(20, |n| n.parse().unwrap());
    let mut wrong = 0;
    for seed in 1..=seeds {
        for tool in tools().iter().filter(|t| t.kind().starts_with(&kind)) {
            let begin = Instant::now();
            for what in differences(tool, seed, true) {
                println!("{seed}: {what}");
                wrong += 1;
            }
            if begin.elapsed() > Duration::from_secs(5) {
                println!("{seed}: {} took {:.1?}", tool.step, begin.elapsed());
            }
        }
    }
    assert_eq!(wrong, 0);
}
