//! Files of several bodies: which come in, as what, and read anew in another way.

use super::*;

fn step(name: &str) -> Vec<u8> {
    std::fs::read(format!("{}/../brep/tests/parts/{name}.step", env!("CARGO_MANIFEST_DIR"))).unwrap()
}

fn read(name: &str, bodies: Bodies) -> Result<BroughtIn, BringInError> {
    let bytes = step(name);
    let how = ReadAs { bodies, ..ReadAs::default() };
    bring_in(&bytes[..], bytes.len() as u64, &format!("{name}.step"), &how, &Default::default(), &Progress::unwatched())
}

#[test]
fn who_asks_is_told_what_a_file_holds() {
    let Err(BringInError::SeveralBodies(offered)) = read("mast-lantern", Bodies::Ask) else { panic!("it did come in") };
    assert_eq!(offered.len(), 8);
    let housing = offered.iter().find(|b| b.name == "Housing without front").unwrap();
    assert!(!housing.closed && offered.iter().filter(|b| !b.closed).count() == 1);
    assert!(housing.size[2] > 25.39 && housing.size[2] < 25.41, "an inch high: {:?}", housing.size);
    assert_eq!(housing.colour.as_deref(), Some("#e58019"));
    // There is nothing to be asked of one body.
    let ball = read("ball", Bodies::Ask).unwrap();
    assert_eq!((ball.parts.len(), ball.parts[0].picked.name.as_str(), ball.picked()), (1, "ball", None));
}

#[test]
fn each_body_becomes_a_part_or_all_of_them_one() {
    let each = read("mast-lantern", Bodies::Each).unwrap();
    assert_eq!(each.parts.len(), 8);
    let triangles: usize = each.parts.iter().map(|p| p.mesh.triangles().len()).sum();
    let joined = read("mast-lantern", Bodies::Joined).unwrap();
    assert_eq!((joined.parts.len(), joined.parts[0].mesh.triangles().len()), (1, triangles));
    assert_eq!(joined.unit, nimbet_formats::LengthUnit::Inch);
    let pick = |body| Bodies::Picked(vec![PickedBody { body, name: String::new(), colour: None }]);
    assert!(matches!(read("mast-lantern", pick(8)), Err(BringInError::NoSuchBody { body: 8, count: 8 })));
    assert_eq!(read("mast-lantern", pick(7)).unwrap().parts.len(), 1);
}

#[test]
fn three_of_eight_are_parts_with_names_and_are_read_anew_more_finely() {
    let mut desk = Desk::with(&[]);
    desk.next = 1;
    let bodies = json!([{ "body": 0 }, { "body": 1 }, { "body": 7, "name": "Mast head" }]);
    let file = desk.brings("lantern.stp", step("mast-lantern"), bodies);
    let parts = desk.history.parts();
    let names: Vec<&str> = parts.iter().map(|p| p.name.as_str()).collect();
    assert_eq!(names, ["Lamp post", "Lamp post 2", "Mast head"]);
    assert_eq!(parts[0].colour.as_deref(), Some("#3366cc"));
    // What is done to a part goes on when the file is read anew, whose parts keep their numbers.
    let second = parts[1].id;
    desk.does(second.0, json!({ "kind": "shape.place", "by": [0.0, 0.0, 5.0] }));
    let (before, steps) = (desk.volume(second.0), desk.history.steps.len());
    let Action::BringIn(was) = desk.history.steps[0].action.clone() else { panic!("it is no file") };
    let finer = BringIn { chord: Some(0.001), ..was.clone() };
    desk.edit(Edit::Replace { step: file, action: Action::BringIn(finer) }).unwrap();
    assert_eq!((desk.history.steps.len(), desk.state(file)), (steps, &StepState::Done));
    let (after, exact) = (desk.volume(second.0), std::f64::consts::PI * 6.35f64.powi(2) * 50.8);
    assert!(before < after && after < exact && exact - after < (exact - before) / 4.0, "{before}, {after}, {exact}");
    assert_eq!(desk.history.parts().iter().map(|p| p.id).collect::<Vec<_>>(), [1, 2, 3].map(PartId));
    // Another file, a senseless chord, or no body at all are not what is meant.
    let other = BringIn { source: Hash::of(b"other"), ..was.clone() };
    let coarse = BringIn { chord: Some(f64::INFINITY), ..was.clone() };
    let none = BringIn { bodies: Some(vec![]), ..was.clone() };
    let twice = BringIn { bodies: was.bodies.clone().map(|b| [&b[..], &b[..]].concat()), ..was };
    for what in [other, coarse, none, twice] {
        let edit = Edit::Replace { step: file, action: Action::BringIn(what) };
        assert_eq!(desk.edit(edit), Err(EditError::BroughtIn));
    }
}

#[test]
fn curves_become_profiles_where_they_are_flat_and_else_wires_that_are_paths() {
    use std::f64::consts::PI;
    let Err(BringInError::SeveralBodies(offered)) = read("wires", Bodies::Ask) else { panic!("it did come in") };
    assert!(offered.len() == 2 && offered.iter().all(|b| b.wire && b.triangles == 0 && !b.closed));
    assert!((offered[1].size[2] - 150.0).abs() < 1e-9, "{:?}", offered[1].size);
    let mut desk = Desk::with(&[]);
    desk.next = 1;
    desk.brings("rail.step", step("wires"), json!([{ "body": 0 }, { "body": 1 }]));
    let figures = |desk: &Desk, part: u32| desk.history.part(PartId(part)).unwrap().figures.clone();
    let (outline, rail) = (figures(&desk, 1), figures(&desk, 2));
    assert_eq!((outline.drawn, outline.wire, outline.reason.as_str()), (true, false, "profile"));
    assert_eq!((rail.drawn, rail.wire, rail.reason.as_str()), (true, true, "wire"));
    // The flat ones are a profile to be made a body of.
    let body = |desk: &Desk| desk.history.parts().last().unwrap().id.0;
    desk.does(1, json!({ "kind": "shape.extrude", "above": 10, "chord": 0.002 }));
    let (held, known) = (desk.volume(body(&desk)), 10.0 * (160.0 + PI * 16.0 - PI * 1.65 * 1.65));
    assert!((held / known - 1.0).abs() < 2e-4, "{held} mm³ instead of {known}");
    // Those in space are a path, moved or not, and no profile.
    desk.does(2, json!({ "kind": "shape.place", "by": [5.0, 0.0, 5.0], "turn": { "axis": "y", "degrees": 30.0 } }));
    assert!(figures(&desk, 2).wire);
    desk.does(2, json!({ "kind": "shape.tube", "path": { "profiles": { "parts": [] } }, "diameter": 6, "wall": 1, "chord": 0.005 }));
    let poles =
        [[20.0, 0.0, 120.0], [50.0, 0.0, 120.0], [80.0, 30.0, 120.0], [90.0, 60.0, 150.0]].map(Point::from_array);
    let at = |t: f64| {
        let s = 1.0 - t;
        poles[0] * (s * s * s) + poles[1] * (3.0 * s * s * t) + poles[2] * (3.0 * s * t * t) + poles[3] * (t * t * t)
    };
    let free: f64 = (0..2000).map(|k| at(f64::from(k) / 2000.0).distance(at(f64::from(k + 1) / 2000.0))).sum();
    let (held, known) = (desk.volume(body(&desk)), PI * (9.0 - 4.0) * (100.0 + 10.0 * PI + free));
    assert!((held / known - 1.0).abs() < 2e-3, "{held} mm³ instead of {known}");
    let stopped = desk.does(2, json!({ "kind": "shape.extrude", "above": 10 }));
    let refused = format!("{:?}", desk.state(stopped));
    assert!(refused.contains("wire") && refused.contains("path"), "{refused}");
    // All as one part: the surface comes in, the curves beside it are told.
    let joined = read("mixed", Bodies::Joined).unwrap();
    assert!(!joined.parts[0].mesh.triangles().is_empty());
    assert!(joined.notes.iter().any(|n| n.contains("wire left out")), "{:?}", joined.notes);
}

#[test]
fn the_roundings_of_an_import_go_for_a_wall_and_come_again_about_the_same_middles() {
    use std::f64::consts::PI;
    let (bytes, quiet) = (step("rounded-block"), Progress::unwatched());
    let how = ReadAs { chord: Some(0.005), ..ReadAs::default() };
    let read = bring_in(&bytes[..], bytes.len() as u64, "a.step", &how, &Default::default(), &quiet).unwrap();
    // A block of 40 by 30 by 20 with all edges rounded by 3: a place on each of its twelve rounds and eight balls.
    let sides = [40.0, 30.0, 20.0];
    let (edge, corner) = (3.0 - 3.0 / 2f64.sqrt(), 3.0 - 3.0 / 3f64.sqrt());
    let mut places: Vec<[f64; 3]> = Vec::new();
    for n in 0..27 {
        let steps = [n % 3, n / 3 % 3, n / 9];
        let middles = steps.iter().filter(|s| **s == 1).count();
        let off = if middles == 1 { edge } else { corner };
        let at = |k: usize| [off, sides[k] / 2.0, sides[k] - off][steps[k]];
        if middles < 2 {
            places.push([at(0), at(1), at(2)]);
        }
    }
    assert_eq!(places.len(), 20);
    let sharp = |sense: &str, radius: f64| json!({ "kind": "shape.round", "on": { "sharp": { "sense": sense, "than": 60 } }, "radius": radius, "chord": 0.002 });
    let recipe = json!({ "nimbet": 1, "steps": [
        { "kind": "shape.take_off", "faces": places }, { "kind": "wall.hollow", "wall": 2.0 }, sharp("outer", 3.0), sharp("inner", 1.0)
    ] });
    let run = run_recipe(&Recipe::parse(&recipe.to_string()).unwrap(), read.parts[0].mesh.clone(), &quiet).unwrap();
    let rounded = |[a, b, c]: [f64; 3], r: f64| {
        let [p, q, s] = [a - 2.0 * r, b - 2.0 * r, c - 2.0 * r];
        p * q * s + 2.0 * r * (p * q + q * s + s * p) + PI * r * r * (p + q + s) + 4.0 / 3.0 * PI * r.powi(3)
    };
    let wall = rounded(sides, 3.0) - rounded(sides.map(|s| s - 4.0), 1.0);
    let held = run.examination.figures.volume.unwrap();
    assert!((held / wall - 1.0).abs() < 5e-4, "{held} mm³ instead of {wall}");
    assert_eq!(run.examination.figures.shells, 2);
}

/// A block of 20 by 20 by 10 mm; the half of its top over x below 10 is painted.
fn painted_block() -> Vec<u8> {
    let mut text = String::new();
    for [x, y] in [[0, 0], [10, 0], [20, 0], [20, 20], [10, 20], [0, 20]] {
        text += &format!("v {x} {y} 0\nv {x} {y} 10\n");
    }
    let around = (0..6).map(|n| [2 * n + 1, 2 * ((n + 1) % 6) + 1]);
    around.for_each(|[a, b]| text += &format!("f {a} {b} {} {}\n", b + 1, a + 1));
    text += "f 11 9 7 5 3 1\nf 4 6 8 10\nusemtl lead\nf 2 4 10 12\n";
    text.into_bytes()
}

#[test]
fn faces_end_where_a_file_paints_them_unless_it_is_read_without() {
    let bytes = painted_block();
    let mut desk = Desk::with(&[]);
    desk.next = 1;
    let file = desk.brings("block.obj", bytes, serde_json::Value::Null);
    let count = |desk: &Desk| {
        let mesh = &desk.meshes[&desk.history.part(PartId(1)).unwrap().mesh];
        mesh.face_of().iter().collect::<std::collections::BTreeSet<_>>().len()
    };
    // A step that was put down before such groups were known says nothing of them.
    assert_eq!(count(&desk), 6);
    let Action::BringIn(was) = desk.history.steps[0].action.clone() else { panic!("it is no file") };
    let read = |desk: &mut Desk, groups: bool| {
        desk.edit(Edit::Replace { step: file, action: Action::BringIn(BringIn { groups, ..was.clone() }) }).unwrap();
        desk.history.steps[0].report.left.clone()
    };
    let notes = read(&mut desk, true);
    assert!(count(&desk) == 7 && notes.iter().any(|n| n.contains("faces end where")), "{notes:?}");
    // The painted half of the top is one face: only it is left open.
    let step = desk.does(1, json!({ "kind": "wall.shell", "wall": 1.0, "open": [[5.0, 10.0, 10.0]] }));
    let known = 4000.0 - 18.0 * 18.0 * 8.0 - 9.0 * 18.0;
    assert!((desk.volume(1) - known).abs() < 1e-6, "{} mm³ instead of {known}: {:?}", desk.volume(1), desk.state(step));
    let notes = read(&mut desk, false);
    assert!(notes.iter().any(|n| n.contains("left out")), "{notes:?}");
    let known = 4000.0 - 18.0 * 18.0 * 9.0;
    assert!((desk.volume(1) - known).abs() < 1e-6, "{} mm³ instead of {known}", desk.volume(1));
}
