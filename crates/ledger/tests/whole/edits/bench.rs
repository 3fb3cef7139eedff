//! What is begun on the empty bench: profiles and bodies without a part, edits of them, recipes that begin with nothing.

use nimbet_formats::Limits;
use nimbet_kernel::{Mesh, Progress};
use nimbet_ledger::*;
use serde_json::{Value, json};

use super::desk::{Desk, action};

fn quiet() -> Progress {
    Progress::unwatched()
}

fn plate(bore: f64) -> Value {
    json!({ "kind": "shape.profile", "plane": { "at": [0.0, 0.0, 0.0], "normal": [0.0, 0.0, 1.0] }, "called": "Deck plate",
        "lines": [
            { "name": "a", "draw": { "frame": { "centre": [0.0, 0.0], "size": [40.0, 20.0] } } },
            { "name": "b", "draw": { "circle": { "centre": [10.0, 0.0], "diameter": bore } } },
        ] })
}

fn volume(bore: f64, height: f64) -> f64 {
    (800.0 - std::f64::consts::PI * bore * bore / 4.0) * height
}

fn near(a: f64, b: f64) {
    assert!((a / b - 1.0).abs() < 1e-4, "{a} {b}");
}

#[test]
fn a_part_is_made_of_nothing_and_follows_its_drawing() {
    let mut desk = Desk::with(&[]);
    let drawn = desk.does(0, plate(6.0));
    let names = |desk: &Desk| desk.history.parts().into_iter().map(|p| p.name).collect::<Vec<_>>();
    assert_eq!(names(&desk), ["Deck plate"]);
    let profile = desk.history.parts()[0].id.0;
    desk.does(profile, json!({ "kind": "shape.extrude", "above": 4.0, "chord": 1e-4 }));
    let body = desk.history.parts()[1].id.0;
    near(desk.volume(body), volume(6.0, 4.0));
    // Two drawings of one name, and a body, beside each other; a drawing that stops takes nothing else along.
    let second = desk.does(0, plate(3.0));
    desk.does(0, json!({ "kind": "shape.body", "body": { "block": { "size": [2.0, 2.0, 2.0] } } }));
    assert_eq!(names(&desk)[2..], ["Deck plate 2".to_owned(), "Block".to_owned()]);
    desk.over(second, plate(-1.0));
    assert!(matches!(desk.state(second), StepState::Stopped { .. }));
    desk.over(drawn, plate(9.0));
    near(desk.volume(body), volume(9.0, 4.0));
    near(desk.history.parts().last().unwrap().figures.volume.unwrap(), 8.0);
    // A drawing without which others cannot be goes with them only.
    let alone = desk.edit(Edit::Remove { steps: vec![drawn] });
    assert!(matches!(alone, Err(EditError::Needed { .. })), "{alone:?}");
    // Taken back to the beginning, the bench is empty again.
    desk.edit(Edit::WorkAt { cursor: 0 }).unwrap();
    assert!(desk.history.parts().is_empty());
}

#[test]
fn what_needs_a_part_says_so_on_the_empty_bench() {
    let nothing = Mesh::default();
    let seen = nimbet_trade::examine(&nothing, &quiet()).unwrap();
    for (step, told) in [
        (json!({ "kind": "seal.plan" }), "no part on the bench"),
        (json!({ "kind": "delete" }), "no part on the bench"),
        (json!({ "kind": "keep", "name": "a" }), "no part on the bench"),
        (json!({ "kind": "weigh.set_material", "material": "bronze-tin-10" }), "no part on the bench"),
        (json!({ "kind": "shape.extrude", "above": 1.0 }), "no part on the bench"),
    ] {
        let error = perform(&action(step), &nothing, &seen, &[], &quiet()).unwrap_err().to_string();
        assert!(error.contains(told), "{error}");
    }
    // A name that cannot be shown is refused, as for any part.
    for called in ["", "  ", "a\u{202e}b", &"x".repeat(81)] {
        let mut step = plate(6.0);
        step["called"] = called.into();
        let error = perform(&action(step), &nothing, &seen, &[], &quiet()).unwrap_err().to_string();
        assert!(error.contains("name"), "{error}");
    }
}

#[test]
fn a_recipe_begins_with_nothing_and_goes_on_with_what_its_steps_make() {
    let mut desk = Desk::with(&[]);
    desk.does(0, json!({ "kind": "shape.body", "body": { "ball": { "diameter": 5.0 } } }));
    desk.does(0, plate(6.0));
    let profile = desk.history.parts()[1].id.0;
    desk.does(profile, json!({ "kind": "shape.extrude", "above": 4.0, "chord": 1e-3 }));
    let body = desk.history.parts()[2].id.0;
    desk.does(body, json!({ "kind": "shape.place", "by": [0.0, 0.0, 1.0] }));
    desk.does(body, json!({ "kind": "label", "name": "Cover plate" }));
    let recipe = Recipe::of(&desk.history, PartId(body), "Cover plate".into()).unwrap();
    // The ball is no part of it, and what it is called is its own.
    let parts: Vec<u32> = recipe.steps.iter().map(|s| s.part).collect();
    assert_eq!(parts, [1, 2, 3]);
    let text = serde_json::to_string(&recipe).unwrap();
    assert_eq!(Recipe::parse(&text).unwrap(), recipe);
    let run = run_recipe(&recipe, Mesh::default(), &quiet()).unwrap();
    assert!(run.mesh.triangles().is_empty());
    let made = &run.others[&3].0;
    assert_eq!(mesh_hash(made).0, desk.history.part(PartId(body)).unwrap().mesh);
    // A part that is not there is named.
    let lost = r#"{ "nimbet": 1, "steps": [{ "kind": "shape.place", "part": 4, "by": [0, 0, 1] }] }"#;
    let error = run_recipe(&Recipe::parse(lost).unwrap(), made.clone(), &quiet()).unwrap_err().to_string();
    assert!(error.contains("no part 4"), "{error}");
}

#[test]
fn a_drawing_comes_in_as_its_profile() {
    let svg = br#"<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 20"><rect width="40" height="20"/><text x="1" y="1">a</text></svg>"#;
    let read = |unit| bring_in(&svg[..], svg.len() as u64, "Cover plate.svg", unit, &Limits::default(), &quiet());
    let plain = read(&ReadAs { unit: UnitChoice::Centimetre, ..ReadAs::default() }).unwrap();
    assert!(plain.parts[0].mesh.drawn().is_some());
    assert!(plain.notes.iter().any(|n| n.contains("1 text")), "{:?}", plain.notes);
    let recipe = r#"{ "nimbet": 1, "steps": [{ "kind": "shape.extrude", "above": 2 }] }"#;
    let run = run_recipe(&Recipe::parse(recipe).unwrap(), plain.parts[0].mesh.clone(), &quiet()).unwrap();
    near(run.others[&2].1.figures.volume.unwrap(), 400.0 * 200.0 * 2.0);
    // Where nothing is said of the unit, 96 are an inch.
    let (step, notes) = draw_in(svg, "Cover plate.svg", UnitChoice::Auto).unwrap();
    assert_eq!((step.called.as_deref(), step.lines.len()), (Some("Cover plate"), 1));
    assert!(notes[0].contains("96 to the inch"), "{notes:?}");
    // Files nobody means well with are told like any other.
    for bytes in [&b""[..], b"hello", b"<svg", b"0\nSECTION\n"] {
        assert!(draw_in(bytes, "a.dxf", UnitChoice::Auto).is_err());
        assert!(bring_in(bytes, 1, "a.dxf", &ReadAs::default(), &Limits::default(), &quiet()).is_err());
    }
}

#[test]
fn the_recipes_of_the_demo_make_what_they_say() {
    use std::f64::consts::PI;

    use nimbet_trade::PartState;
    let run = |key: &str| {
        let drawn = nimbet_trade::demo::DRAWN.into_iter().find(|drawn| drawn.key == key).unwrap();
        let recipe = Recipe::parse(drawn.recipe).unwrap();
        assert_eq!(recipe.name, drawn.name);
        run_recipe(&recipe, Mesh::default(), &quiet()).unwrap()
    };
    let figures = |run: &RecipeRun, part: u32| run.others[&part].1.figures.clone();
    let badge = figures(&run("pennant-badge"), 3);
    assert_eq!((badge.state, badge.shells, badge.size), (PartState::Sealed, 1, [64.0, 44.0, 4.0]));
    // Floor and rim; on the floor the staff, the pennant less its well, and what is left are the letters.
    let frame = |[w, h]: [f64; 2], r: f64| w * h - (4.0 - PI) * r * r;
    let (rim, floor) = (frame([64.0, 44.0], 9.0), frame([57.0, 37.0], 5.5));
    let raised = badge.volume.unwrap() - (rim - floor) * 4.0 - floor * 2.0;
    let (staff, well) = (frame([3.0, 28.0], 1.2), PI * 9.0);
    let letters = raised - staff - (37.0 * 14.0 / 2.0 - well) + well * 0.8;
    assert!((35.0..50.0).contains(&letters), "{letters}");
    // Two rings, less what they share; the eye goes through itself, and is as large as its ball all the same.
    let ring = figures(&run("stanchion-ring"), 3);
    let torus = 2.0 * PI * PI * 23.0 * 16.0;
    let volume = ring.volume.unwrap();
    assert!(ring.state == PartState::Sealed && (torus..torus * 1.3).contains(&volume), "{volume}");
    assert!((ring.size[0] - (27.0 + 36.5)).abs() < 0.1 && (ring.size[2] - 10.0).abs() < 0.1, "{:?}", ring.size);
    // No inner corner a mould minds.
    let cleat = run("mooring-cleat");
    let (mesh, examined) = (&cleat.others[&3].0, &cleat.others[&3].1);
    assert_eq!((examined.figures.state, examined.figures.shells), (PartState::Sealed, 1));
    let casting = nimbet_trade::wall::Making { process: "investment-bronze".into(), ..Default::default() };
    let found = nimbet_trade::wall_findings(mesh, examined, &casting.figures().unwrap(), &quiet()).unwrap();
    let sharp = |f: &nimbet_trade::wall::WallFinding| f.finding.kind == nimbet_trade::examine::FindingKind::InnerCorner;
    assert!(!found.iter().any(sharp), "{:?}", found.iter().map(|f| &f.finding.title).collect::<Vec<_>>());
    let scoop = run("lofted-scoop");
    let (wall, liquid) = (figures(&scoop, 5), figures(&scoop, 6));
    assert_eq!((wall.state, liquid.state, liquid.shells), (PartState::Sealed, PartState::Sealed, 1));
    // It holds what is above its floor and below the lowest place of its lip.
    let brim = 40.0 - 0.17 * (48.0 - 2.0 * 1.1);
    let level = liquid.least[2] + liquid.size[2];
    // Its wall is exact to the chord.
    assert!((liquid.least[2] - 2.0).abs() < 0.05 && (level - brim).abs() < 0.5, "{level} {brim}");
    let told = scoop.steps.last().unwrap().1.as_ref().unwrap().done.join(" ");
    assert!(told.contains(&format!("{:.1} ml", liquid.volume.unwrap() / 1000.0)), "{told}");
}

#[test]
fn a_badge_is_softened_outside_above_and_below_and_in_all_corners() {
    let drawn = nimbet_trade::demo::DRAWN.into_iter().find(|drawn| drawn.key == "pennant-badge").unwrap();
    let outline = json!({ "kind": "shape.round", "part": 3, "on": { "edges": [[0, 22, 4], [0, 22, 0]] }, "radius": 0.3, "chord": 0.0004 });
    // Its letters bend more tightly than that. All inner corners; or those at which faces turn by a third of a right angle, both kinds.
    let inner = json!({ "kind": "shape.round", "part": 3, "on": { "sharp": { "sense": "inner", "than": 20 } }, "radius": 0.1, "chord": 0.005 });
    let both =
        json!({ "kind": "shape.round", "part": 3, "on": { "sharp": { "than": 30 } }, "radius": 0.1, "chord": 0.005 });
    for (corners, takes) in [(inner, false), (both, true)] {
        let mut recipe: Value = serde_json::from_str(drawn.recipe).unwrap();
        recipe["steps"].as_array_mut().unwrap().extend([outline.clone(), corners]);
        let run = run_recipe(&Recipe::parse(&recipe.to_string()).unwrap(), Mesh::default(), &quiet()).unwrap();
        let figures = &run.others[&3].1.figures;
        assert_eq!((figures.state, figures.shells), (nimbet_trade::PartState::Sealed, 1));
        let [soft, corners] = [2, 1].map(|n| run.steps[run.steps.len() - n].1.clone().unwrap());
        // A quarter round of 0.3 goes off along 200.5 mm twice, a little less where it goes round.
        let by = |told: &nimbet_ledger::StepReport| {
            told.before.as_ref().unwrap().volume.unwrap() - told.after.volume.unwrap()
        };
        let pi = std::f64::consts::PI;
        let round = (1.0 - pi / 4.0) * 0.09 * 2.0 * (216.0 - (8.0 - 2.0 * pi) * 9.0);
        assert!((by(&soft) / round - 1.0).abs() < 0.02, "{} mm³ instead of {round}", by(&soft));
        assert!(corners.done.iter().any(|d| d.contains("bends are tighter than that")), "{:?}", corners.done);
        assert!(corners.left.is_empty() && (by(&corners) > 0.0) == takes, "{:?} {}", corners.left, by(&corners));
    }
}
