//! Parts as people tell them apart: names, colours, groups; taken out, and many at once.

use nimbet_kernel::shapes::block;
use nimbet_kernel::{Mesh, Point};
use nimbet_ledger::*;
use proptest::prelude::*;
use serde_json::{Value, json};

use super::desk::{Desk, action};

fn cube(size: f64) -> Mesh {
    block(Point::ZERO, Point::splat(size))
}

fn names(desk: &Desk) -> Vec<String> {
    desk.history.parts().into_iter().map(|p| p.name).collect()
}

fn append(desk: &mut Desk, steps: &[(u32, Value)]) -> Result<(), EditError> {
    let steps = steps.iter().map(|(part, what)| NewWork { part: PartId(*part), action: action(what.clone()) });
    desk.edit(Edit::Append { steps: steps.collect() })
}

#[test]
fn new_parts_are_called_what_they_are_and_never_twice_the_same() {
    let mut desk = Desk::with(&[cube(10.0), cube(4.0)]);
    assert_eq!(names(&desk), ["a", "a 2"], "two files of one name");
    desk.does(1, json!({ "kind": "shape.body", "body": { "drum": { "diameter": 3.0, "height": 5.0 } } }));
    desk.does(1, json!({ "kind": "shape.body", "body": { "drum": { "diameter": 3.0, "height": 5.0 } } }));
    let cut = json!({ "plane": { "at": [0.0, 0.0, 5.0], "normal": [0.0, 0.0, 1.0] } });
    let saw = desk.does(1, json!({ "kind": "shape.saw", "by": cut, "keep": "both" }));
    assert_eq!(names(&desk), ["a", "a 2", "Drum", "Drum 2", "Upper half of a"]);
    desk.does(2, json!({ "kind": "wall.coat", "thickness": 0.5 }));
    desk.does(2, json!({ "kind": "shape.repeat", "copies": { "row": { "count": 3, "step": [20.0, 0.0, 0.0] } } }));
    assert_eq!(names(&desk)[5..], ["Coat of a 2", "Copy 2 of a 2", "Copy 3 of a 2"]);
    // What was made keeps the part's name of then; what is made later has the one of now.
    desk.does(1, json!({ "kind": "label", "name": "Base" }));
    desk.does(1, json!({ "kind": "keep", "name": "Base" }));
    let now = names(&desk);
    assert_eq!((now[0].as_str(), now[4].as_str(), now[8].as_str()), ("Base", "Upper half of a", "Base 2"));
    // A cut another way leaves another half.
    let cut = json!({ "plane": { "at": [5.0, 5.0, 5.0], "normal": [-3.0, 1.0, 0.0] } });
    desk.over(saw, json!({ "kind": "shape.saw", "by": cut, "keep": "both" }));
    assert_eq!(names(&desk)[4], "Left half of a");
}

#[test]
fn a_swapped_difference_keeps_the_name_of_the_tool() {
    let mut desk = Desk::with(&[cube(4.0), block(Point::splat(2.0), Point::splat(9.0))]);
    desk.does(2, json!({ "kind": "label", "name": "Boss", "group": "tools" }));
    desk.does(1, json!({ "kind": "shape.difference", "with": [2], "swap": true, "keep": true }));
    assert!(names(&desk).contains(&"Boss".into()), "{:?}", names(&desk));
}

#[test]
fn labels_change_what_they_name_and_nothing_else() {
    let mut desk = Desk::with(&[cube(4.0)]);
    let before = desk.history.parts();
    desk.does(1, json!({ "kind": "label", "name": "  Cowl ", "colour": "#A0b1c2" }));
    desk.does(1, json!({ "kind": "label", "group": "hull" }));
    desk.does(1, json!({ "kind": "label", "colour": "" }));
    let part = desk.history.parts().remove(0);
    assert_eq!((part.name.as_str(), part.colour, part.group.as_deref()), ("Cowl", None, Some("hull")));
    assert_eq!((part.mesh, part.figures), (before[0].mesh, before[0].figures.clone()));
    for (what, why) in [
        (json!({ "kind": "label" }), "say what changes"),
        (json!({ "kind": "label", "name": "  " }), "needs a name"),
        (json!({ "kind": "label", "name": "x".repeat(81) }), "80 characters"),
        (json!({ "kind": "label", "name": "a\u{202e}b" }), "turn text"),
        (json!({ "kind": "label", "group": "\n" }), "a group needs"),
        (json!({ "kind": "label", "colour": "red" }), "#rrggbb"),
    ] {
        let step = desk.does(1, what);
        let StepState::Stopped { why: told, .. } = desk.state(step) else { panic!("{why}: {:?}", desk.state(step)) };
        assert!(told.contains(why), "{told}");
        desk.edit(Edit::Remove { steps: vec![step] }).unwrap();
    }
}

#[test]
fn deleted_parts_are_gone_until_the_step_is_taken_back() {
    let mut desk = Desk::with(&[cube(4.0), cube(5.0), cube(6.0)]);
    let gone = desk.does(2, json!({ "kind": "delete", "also": [3] }));
    assert_eq!(names(&desk), ["a"]);
    // What needs one of them afterwards cannot be done, and says so; before, it can.
    let late = desk.does(1, json!({ "kind": "shape.union", "with": [3] }));
    let StepState::Stopped { why, .. } = desk.state(late) else { panic!("{:?}", desk.state(late)) };
    assert!(why.contains("no part 3"), "{why}");
    desk.edit(Edit::Remove { steps: vec![gone] }).unwrap();
    assert_eq!(desk.state(late), &StepState::Done);
    // It is used up there, so it cannot be deleted after that.
    assert_eq!(names(&desk), ["a", "a 2"]);
    assert!(desk.edit(Edit::Move { step: late, before: Some(1) }).is_err());
}

#[test]
fn many_steps_at_once_are_numbered_in_order_and_bounded() {
    let mut desk = Desk::with(&[cube(4.0), cube(5.0)]);
    let steel = json!({ "kind": "weigh.set_material", "material": "bronze-tin-10" });
    append(&mut desk, &[(1, steel.clone()), (2, steel.clone()), (2, json!({ "kind": "keep", "name": "spare" }))])
        .unwrap();
    let numbers: Vec<u32> = desk.history.steps.iter().map(|s| s.number).collect();
    assert_eq!(numbers, [1, 2, 3, 4, 5]);
    assert!(desk.history.parts().iter().all(|p| p.material.is_some()));
    let next = desk.does(1, json!({ "kind": "label", "name": "b" }));
    assert_eq!(next, 7, "the kept part has the number 6");
    assert_eq!(append(&mut desk, &vec![(1, steel); 501]), Err(EditError::TooMany(501)));
    let file = json!({ "kind": "bring_in", "file": "b.stl", "source": mesh_hash(&cube(1.0)).0 });
    assert_eq!(append(&mut desk, &[(1, file)]), Err(EditError::BroughtIn));
    assert_eq!(append(&mut desk, &[]), Err(EditError::Nothing));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Whatever is named, kept and deleted in whatever order: no two parts are called the same.
    #[test]
    fn no_two_parts_are_ever_called_the_same(steps in proptest::collection::vec((0usize..4, 0usize..3, 0usize..6), 1..14)) {
        let mut desk = Desk::with(&[cube(4.0), cube(5.0)]);
        for (what, name, which) in steps {
            let parts = desk.history.parts();
            if parts.is_empty() {
                break;
            }
            let part = parts[which % parts.len()].id.0;
            let name = ["a", "b", "a 2"][name];
            desk.does(part, match what {
                0 => json!({ "kind": "label", "name": name }),
                1 => json!({ "kind": "keep", "name": name }),
                2 => json!({ "kind": "shape.body", "body": { "ball": { "diameter": 2.0 } } }),
                _ => json!({ "kind": "delete" }),
            });
            let mut all = names(&desk);
            let count = all.len();
            all.sort();
            all.dedup();
            prop_assert_eq!(all.len(), count);
        }
    }
}
