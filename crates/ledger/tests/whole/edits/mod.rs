//! Changing one's mind: what an edit does to the steps after it. Worked out here without a server, with a cache that counts.

use nimbet_kernel::shapes::{block, turned};
use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_ledger::*;
use nimbet_trade::examine;
use proptest::prelude::*;
use serde_json::{Value, json};

mod bench;
mod bodies;
mod desk;
mod parts;
mod profiles;

use desk::*;

fn body(size: f64, at: f64) -> Value {
    json!({ "kind": "shape.body", "body": { "block": { "size": [size, size, size] } }, "at": [at, at, at] })
}

#[test]
fn a_file_comes_in_as_a_part_of_its_own_only() {
    let mut desk = Desk::with(&[block(Point::ZERO, Point::splat(4.0))]);
    let before = desk.history.clone();
    let file = || action(json!({ "kind": "bring_in", "file": "b.stl", "source": mesh_hash(&Mesh::default()).0 }));
    let moved = desk.does(1, json!({ "kind": "shape.place", "by": [1.0, 0.0, 0.0] }));
    for edit in [
        Edit::Insert { after: 1, part: PartId(1), action: file() },
        Edit::Replace { step: moved, action: file() },
        Edit::Replace { step: 1, action: action(json!({ "kind": "shape.place", "by": [1.0, 0.0, 0.0] })) },
    ] {
        assert_eq!(desk.edit(edit), Err(EditError::BroughtIn));
    }
    assert_eq!(desk.history.steps[..1], before.steps[..]);
}

#[test]
fn figures_that_lead_beyond_all_bounds_stop_their_step_and_nothing_else() {
    let mut desk = Desk::with(&[block(Point::ZERO, Point::splat(40.0))]);
    let step = desk.does(1, json!({ "kind": "shape.place", "scale": 1.5 }));
    for (figures, why) in [
        (json!({ "kind": "shape.place", "scale": 1e308 }), "at most 1e16"),
        (json!({ "kind": "shape.place", "scale": 1e8 }), "10 km"),
        (json!({ "kind": "shape.place", "scale": 1e-7 }), "the least"),
        (json!({ "kind": "shape.place", "by": [0.0, 0.0, 1e9] }), "from the origin"),
    ] {
        desk.over(step, figures);
        let StepState::Stopped { why: told, .. } = desk.state(step) else { panic!("{:?}", desk.state(step)) };
        assert!(told.contains(why), "{told}");
    }
    desk.over(step, json!({ "kind": "shape.place", "scale": 2.0 }));
    assert_eq!((desk.state(step), desk.volume(1).round()), (&StepState::Done, 512_000.0));
}

#[test]
fn a_marked_thread_outlives_the_steps_round_it_and_is_cut_when_the_ledger_is_worked_out_so() {
    let mut desk = Desk::with(&[block(Point::ZERO, Point::new(40.0, 30.0, 12.0))]);
    let thicker = desk.does(1, json!({ "kind": "shape.place", "scale": 1.5 }));
    desk.does(
        1,
        json!({
            "kind": "fasten.bore", "places": { "points": [[20.0, 15.0, 18.0]] }, "along": [0.0, 0.0, -1.0],
            "form": { "threaded": { "thread": { "size": "M6x1", "left": true }, "marked": true } },
        }),
    );
    desk.does(1, json!({ "kind": "shape.mirror", "across": { "at": [0.0, 0.0, 0.0], "normal": [1.0, 0.0, 0.0] } }));
    // An earlier step changes, and the bore follows.
    desk.edit(Edit::Park { steps: vec![thicker] }).unwrap();
    let marked = desk.volume(1);
    let threads = desk.history.threads(PartId(1));
    assert_eq!((threads.len(), threads[0].mark.cut), (1, false));
    assert_eq!((threads[0].mark.name.as_str(), threads[0].mark.length), ("M6x1, left-handed", 12.0));
    let mut replay = Replay::new(desk.history.with_threads_cut().unwrap(), desk.next);
    while let Some(due) = replay.due() {
        let result = desk.result_of(&due);
        replay.done(result).unwrap();
    }
    let cut = replay.finish().0;
    assert!(cut.threads(PartId(1))[0].mark.cut && cut.with_threads_cut().is_none());
    // 12 mm of groove beside the bore; the desk's own ledger is as it was.
    let groove = marked - cut.part(PartId(1)).unwrap().figures.volume.unwrap();
    assert!((25.0..90.0).contains(&groove), "{groove}");
    assert_eq!(desk.volume(1).to_bits(), marked.to_bits());
}

#[test]
fn only_what_depends_on_an_edited_step_is_worked_out_anew() {
    // Two blocks; a smaller body taken away from the first, moves of both.
    let mut desk = Desk::with(&[block(Point::ZERO, Point::splat(10.0)), block(Point::splat(50.0), Point::splat(4.0))]);
    let made = desk.does(1, body(2.0, 9.0));
    let tool = made + 1;
    let cut = desk.does(1, json!({ "kind": "shape.difference", "with": [tool] }));
    desk.does(1, json!({ "kind": "shape.place", "by": [1.0, 0.0, 0.0] }));
    desk.does(2, json!({ "kind": "shape.place", "by": [0.0, 3.0, 0.0] }));
    let whole = desk.volume(1);
    assert!(whole < 1000.0 - 0.9);
    let worked = desk.worked;
    // Another body: it, the cut and the move after it; not the other block's move.
    desk.over(made, body(4.0, 9.0));
    assert_eq!(desk.worked - worked, 3);
    assert!(desk.volume(1) < whole - 1.0, "{} after {whole}", desk.volume(1));
    // Back to what it was: everything is still known.
    let worked = desk.worked;
    desk.over(made, body(2.0, 9.0));
    assert_eq!((desk.worked, desk.volume(1).to_bits()), (worked, whole.to_bits()));
    // Without the cut the tool is there again, and the part is whole.
    desk.edit(Edit::Park { steps: vec![cut] }).unwrap();
    assert!((desk.volume(1) - 1000.0).abs() < 1e-9 && desk.history.part(PartId(tool)).is_some());
    desk.edit(Edit::Unpark { steps: vec![cut] }).unwrap();
    assert_eq!(desk.volume(1).to_bits(), whole.to_bits());
    assert!(desk.history.part(PartId(tool)).is_none());
}

#[test]
fn what_is_needed_goes_only_together_and_steps_move_only_where_their_parts_are() {
    let mut desk = Desk::with(&[block(Point::ZERO, Point::splat(10.0))]);
    let made = desk.does(1, body(2.0, 9.0));
    let cut = desk.does(1, json!({ "kind": "shape.difference", "with": [made + 1] }));
    let last = desk.does(1, json!({ "kind": "shape.place", "by": [1.0, 0.0, 0.0] }));
    assert_eq!(desk.history.needing(made), [cut]);
    let before = desk.history.clone();
    for edit in [Edit::Park { steps: vec![made] }, Edit::Remove { steps: vec![made] }] {
        assert_eq!(desk.edit(edit), Err(EditError::Needed { step: made, steps: vec![cut] }));
    }
    let early = desk.edit(Edit::Move { step: cut, before: Some(made) });
    assert!(
        matches!(&early, Err(EditError::OutOfOrder { step, why }) if *step == cut && why.contains(&format!("step {made}"))),
        "{early:?}"
    );
    assert_eq!(desk.edit(Edit::Remove { steps: vec![99] }), Err(EditError::NoSuchStep(99)));
    assert_eq!(desk.edit(Edit::Move { step: last, before: None }), Err(EditError::Nothing));
    assert_eq!(desk.history, before, "nothing is changed by what is refused");

    // The tool is made where it was, but the part has moved away before the cut.
    desk.edit(Edit::Move { step: last, before: Some(cut) }).unwrap();
    assert!(desk.volume(1) < 1000.0);
    desk.edit(Edit::Remove { steps: vec![made, cut] }).unwrap();
    assert!((desk.volume(1) - 1000.0).abs() < 1e-9);
    assert_eq!(desk.history.steps.iter().map(|s| s.number).collect::<Vec<_>>(), [1, last]);
}

#[test]
fn steps_after_the_place_of_work_are_held_back_and_follow_when_it_goes_on() {
    let mut desk = Desk::with(&[block(Point::ZERO, Point::splat(10.0))]);
    let saw = |z: f64| json!({ "kind": "shape.saw", "by": { "plane": { "at": [0.0, 0.0, z], "normal": [0.0, 0.0, 1.0] } }, "keep": "back" });
    desk.does(1, saw(8.0));
    desk.does(1, saw(3.0));
    desk.edit(Edit::WorkAt { cursor: 2 }).unwrap();
    assert!((desk.volume(1) - 800.0).abs() < 1e-6);
    // A step done here comes before what is held back.
    desk.edit(Edit::Insert { after: 2, part: PartId(1), action: action(json!({ "kind": "keep", "name": "as cast" })) })
        .unwrap();
    assert_eq!((desk.history.cursor, desk.history.steps.len()), (3, 4));
    desk.edit(Edit::WorkAt { cursor: 4 }).unwrap();
    assert!((desk.volume(1) - 300.0).abs() < 1e-6);
    let kept = desk.history.parts().into_iter().find(|p| p.name == "as cast").unwrap();
    assert!((kept.figures.volume.unwrap() - 800.0).abs() < 1e-6, "a state is kept to fall back on");
}

#[test]
fn a_pick_that_is_gone_stops_its_step_and_nothing_after_it_is_shown_as_valid() {
    // A drum without its lid: the plate takes the opening away, so the rim to be covered is gone.
    let cup = turned(&[(0.0, 0.0), (5.0, 0.0), (5.0, 6.0)], 32);
    let mut desk = Desk::with(std::slice::from_ref(&cup));
    let still = desk.does(1, json!({ "kind": "shape.place", "by": [0.0, 0.0, 0.0] }));
    let rim = examine(&cup, &Progress::unwatched()).unwrap().rims[0].pick.clone();
    let cover = json!({ "kind": "seal.cover_rim", "style": "flat", "rims": { "picked": [rim] } });
    let covered = desk.does(1, cover);
    let keep = desk.does(1, json!({ "kind": "keep", "name": "closed" }));
    assert!(desk.history.stopped(PartId(1)).is_none());
    let sealed = desk.history.parts();
    desk.over(still, json!({ "kind": "seal.cover_rim", "style": "taut" }));
    let StepState::Stopped { places, new_pick: true, .. } = desk.state(covered) else {
        panic!("{:?}", desk.state(covered))
    };
    assert!((places[0][2] - 6.0).abs() < 1e-9, "the old place is shown: {places:?}");
    assert_eq!(*desk.state(keep), StepState::Waiting { on: covered });
    assert_eq!(desk.history.stopped(PartId(1)).unwrap().number, covered);
    assert_eq!(desk.history.parts().len(), 1, "what a waiting step makes is not there");
    // The pick works again once the rim is back.
    desk.over(still, json!({ "kind": "shape.place", "by": [0.0, 0.0, 0.0] }));
    assert_eq!(desk.history.parts(), sealed);
    // With nothing to do a step passes.
    desk.over(covered, json!({ "kind": "seal.cover_rim", "style": "flat" }));
    desk.over(still, json!({ "kind": "seal.cover_rim", "style": "taut" }));
    assert!(matches!(desk.state(covered), StepState::Idle { .. }), "{:?}", desk.state(covered));
    assert_eq!(*desk.state(keep), StepState::Done);
}

#[test]
fn a_step_done_over_that_makes_more_parts_gives_them_new_numbers() {
    let mut desk = Desk::with(&[block(Point::ZERO, Point::splat(10.0))]);
    let once =
        desk.does(1, json!({ "kind": "shape.repeat", "copies": { "row": { "count": 2, "step": [20.0, 0.0, 0.0] } } }));
    let saw = json!({ "kind": "shape.saw", "by": { "plane": { "at": [0.0, 0.0, 4.0], "normal": [0.0, 0.0, 1.0] } } });
    let sawn = desk.does(1, saw.clone());
    let half: Vec<PartId> = desk.history.parts().iter().map(|p| p.id).collect();
    let more = json!({ "kind": "shape.repeat", "copies": { "row": { "count": 4, "step": [20.0, 0.0, 0.0] } } });
    desk.over(once, more);
    let mut parts: Vec<PartId> = desk.history.parts().iter().map(|p| p.id).collect();
    assert!(half.iter().all(|p| parts.contains(p)) && *desk.state(sawn) == StepState::Done);
    let count = parts.len();
    parts.sort_unstable();
    parts.dedup();
    assert_eq!(parts.len(), count, "no number twice");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    /// Whatever is edited in whatever order: the ledger stands as if its steps had been done afresh in their order.
    #[test]
    fn an_edited_ledger_is_what_its_steps_make_when_done_afresh(
        edits in proptest::collection::vec((0u8..5, 0usize..6, 0usize..6, 1.0f64..9.0), 1..8),
    ) {
        let mut desk = Desk::with(&[block(Point::ZERO, Point::splat(10.0))]);
        let saw = |z: f64| json!({ "kind": "shape.saw", "by": { "plane": { "at": [0.0, 0.0, z], "normal": [0.0, 0.0, 1.0] } }, "keep": "back" });
        for z in [9.0, 8.0, 7.0] {
            desk.does(1, saw(z));
        }
        let made = desk.does(1, body(2.0, 0.5));
        desk.does(1, json!({ "kind": "shape.difference", "with": [made + 1] }));
        for (kind, a, b, z) in edits {
            let number = |k: usize| desk.history.steps[k % desk.history.steps.len()].number;
            let edit = match kind {
                0 => Edit::Park { steps: vec![number(a)] },
                1 => Edit::Unpark { steps: vec![number(a)] },
                2 => Edit::Move { step: number(a), before: Some(number(b)) },
                3 => Edit::Replace { step: number(a), action: action(saw(z)) },
                _ => Edit::WorkAt { cursor: a + 1 },
            };
            let before = desk.history.clone();
            if desk.edit(edit).is_err() {
                prop_assert_eq!(&desk.history, &before);
            }
        }
        let mut fresh = Desk { next: desk.next, meshes: desk.meshes.clone(), history: desk.history.clone(), ..Desk::default() };
        let mut replay = Replay::new(fresh.history.clone(), fresh.next);
        while let Some(due) = replay.due() {
            let result = fresh.result_of(&due);
            replay.done(result).unwrap();
        }
        prop_assert_eq!(replay.finish().0, desk.history);
    }
}
