//! What earlier versions stored still opens: steps and an examination as the program of 2026-11-27 wrote them, before it told
//! what was lost.

use std::collections::HashSet;

use nimbet_kernel::Progress;
use nimbet_ledger::{Action, Loss, Setup, StepReport, StepState, Work};
use nimbet_trade::Plan;
use nimbet_trade::{Examination, PartState, examine};
use serde::Deserialize;

#[derive(Deserialize)]
struct Stored {
    action: Action,
    report: StepReport,
    state: StepState,
}

#[test]
fn steps_and_examinations_of_earlier_versions_open_and_say_what_they_said() {
    let steps: Vec<Stored> = serde_json::from_str(include_str!("../stored/steps.json")).unwrap();
    assert_eq!(steps.len(), 5);
    for step in &steps {
        assert!(step.state == StepState::Done && step.report.harm.is_none() && !step.report.done.is_empty());
        // What nobody measured is not said to be lost.
        assert!(Loss::of(&step.action, &step.report).is_none());
    }
    assert!(matches!(&steps[0].action, Action::BringIn(b) if b.file == "Vent cowl.ply"));
    let Action::Operation(Work { operation, keep_lost }) = &steps[1].action else { unreachable!("a plan") };
    let plan = operation.tool::<Plan>().unwrap();
    assert!(plan.skip.is_empty() && plan.may_lose.is_none() && !keep_lost);
    assert_eq!(steps[1].report.after.state, PartState::Sealed);
    let seen: Examination = serde_json::from_str(include_str!("../stored/examination.json")).unwrap();
    assert_eq!(seen.figures.volume, steps[1].report.after.volume);
    assert!(seen.corners.is_none() && !seen.sheet && seen.no_crossings() == Some(&[]));
}

/// A step of every kind there was on 2026-11-28, as the program wrote it then.
#[test]
fn steps_of_every_kind_read_back_as_they_were_written() {
    let text = include_str!("../stored/every-tool.json");
    let steps: Vec<serde_json::Value> = serde_json::from_str(text).unwrap();
    let kinds: HashSet<&str> = steps.iter().map(|s| s["kind"].as_str().unwrap()).collect();
    assert_eq!(kinds.len(), 47);
    for step in &steps {
        let action: Action = serde_json::from_value(step.clone()).unwrap_or_else(|e| panic!("{step}: {e}"));
        assert_eq!(&serde_json::to_value(&action).unwrap(), step);
        let said = action.title();
        assert!(!said.is_empty() && !said.contains("NaN"), "{said}");
    }
    let now: HashSet<&str> = nimbet_trade::kinds().iter().map(|k| k.kind).collect();
    assert!(kinds.is_subset(&now), "{:?} are gone", kinds.difference(&now));
}

/// What each tool begins with is a step, or says by `null` what has to be picked first.
#[test]
fn what_tools_begin_with_are_steps() {
    let quiet = Progress::unwatched();
    let seen = examine(&nimbet_trade::demo::vent_cowl(), &quiet).unwrap();
    let setup = Setup::default();
    let mut keys = HashSet::new();
    for begin in [setup.begin(Some(&seen), None), setup.begin(None, None)] {
        for kind in nimbet_trade::kinds() {
            for entry in kind.entries {
                keys.insert(entry.key);
                let step = kind.begun(entry, &begin);
                let asked_for: &[&str] =
                    if kind.kind == "shape.emboss" { &["profile", "face"] } else { &["wall", "from", "to"] };
                let to_pick =
                    step.as_object().unwrap().iter().any(|(name, x)| x.is_null() && asked_for.contains(&name.as_str()));
                let read = serde_json::from_value::<Action>(step.clone());
                assert_eq!(read.is_err(), to_pick, "{step}: {read:?}");
                assert!(entry.mark.is_empty() || step.pointer(entry.mark).is_some(), "{step}");
                assert!(entry.name.len() < 24 && entry.hint.len() < 80 && !entry.hint.ends_with('.'), "{}", entry.hint);
            }
        }
    }
    assert_eq!(keys.len(), 65, "each key stands for one entry");
}
