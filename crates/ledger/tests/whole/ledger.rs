//! Steps are deterministic, recipes run them, and nothing is released that is not proved from its own bytes.

use nimbet_formats::{Body, LengthUnit, Limits, ReleaseFormat, write_body};
use nimbet_kernel::shapes::{block, turned};
use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_ledger::*;
use nimbet_trade::{PartState, demo, examine};

fn released_as(name: &str, format: ReleaseFormat, unit: LengthUnit) -> ReleaseAs<'_> {
    ReleaseAs { name, colour: PART_COLOUR, format, unit, losses: Losses::default() }
}

fn quiet() -> Progress {
    Progress::unwatched()
}

fn plan() -> Recipe {
    Recipe::parse(r#"{ "nimbet": 1, "steps": [{ "kind": "seal.plan" }] }"#).unwrap()
}

/// The part whose rim a person must split: a plan leaves it open and says so.
const BY_HAND: &str = "Bailer";

/// The part whose folds lie nearer to each other than single precision can tell: formats with that refuse it, and say where.
const TOO_FINE: &str = "Stanchion bend";

fn sealed_demo() -> Vec<(&'static str, Mesh)> {
    demo::parts()
        .into_iter()
        .filter(|(name, _)| ![BY_HAND, TOO_FINE].contains(name))
        .map(|(n, m)| (n, run_recipe(&plan(), m, &quiet()).unwrap().mesh))
        .collect()
}

#[test]
fn the_plan_seals_every_demo_part_and_gives_the_same_bytes_each_time() {
    for (name, mesh) in demo::parts().into_iter().filter(|(name, _)| *name != BY_HAND) {
        let first = run_recipe(&plan(), mesh.clone(), &quiet()).unwrap();
        assert_eq!(first.examination.figures.state, PartState::Sealed, "{name}");
        let pool = rayon_free_run(mesh);
        assert_eq!(mesh_hash(&first.mesh).0, pool, "{name} depends on the run");
    }
}

/// The same step in another thread, with other hash seeds and another share of the pool.
fn rayon_free_run(mesh: Mesh) -> Hash {
    std::thread::spawn(move || mesh_hash(&run_recipe(&plan(), mesh, &quiet()).unwrap().mesh).0).join().unwrap()
}

#[test]
fn every_format_and_unit_of_a_sealed_part_is_proved_from_its_own_bytes() {
    for (name, mesh) in sealed_demo() {
        let seen = examine(&mesh, &quiet()).unwrap();
        for format in ReleaseFormat::ALL {
            // Of those that leave no choice one is enough.
            for unit in LengthUnit::ALL.into_iter().filter(|u| format.unit().is_none_or(|own| own == *u)) {
                let out = release(&released_as(name, format, unit), &mesh, &seen, &[], &quiet())
                    .unwrap_or_else(|e| panic!("{name} {format:?} {unit:?}: {e}"));
                assert!(out.sheet.checks.iter().all(|c| c.holds));
                assert_eq!(out.sheet.hash, Hash::of(&out.bytes));
                // Of exact faces the volume is that of what triangles stand for.
                let exact = format == ReleaseFormat::Step;
                let may = if exact { 0.03 } else { 1e-5 };
                assert!((out.sheet.volume / seen.figures.volume.unwrap() - 1.0).abs() < may, "{name} {format:?}");
                assert!(exact || is_solid_in_single_precision(&out), "{name} {format:?} {unit:?}");
            }
        }
    }
}

fn to_release(name: &str, mesh: Mesh) -> PartToRelease {
    let examination = examine(&mesh, &quiet()).unwrap();
    PartToRelease {
        name: name.into(),
        colour: colour_of(Some("#10a0ff")),
        mesh,
        examination,
        threads: vec![],
        losses: Losses::default(),
    }
}

#[test]
fn parts_that_leave_together_are_proved_each_and_repeats_stand_once() {
    let leaf = demo::hinge_leaf();
    let aside = leaf.clone().map_points(|p| p + Point::new(0.0, 80.0, 0.0)).unwrap();
    let cup = demo::strainer_cup();
    let parts = [to_release("Hinge leaf", leaf), to_release("Strainer cup", cup), to_release("Hinge leaf 2", aside)];
    for unit in [LengthUnit::Millimetre, LengthUnit::Inch] {
        let out = release_together("Hinge leaf and 2 more", unit, &parts, &quiet()).unwrap();
        let sheet = &out.sheet;
        assert_eq!((sheet.file.as_str(), sheet.hash), ("hinge-leaf-and-2-more.3mf", Hash::of(&out.bytes)));
        assert_eq!(sheet.checks[0].evidence, "3 parts, 2 objects and 1 copy of one");
        let copies: Vec<_> = sheet.parts.iter().map(|p| p.copy_of.as_deref()).collect();
        assert_eq!(copies, [None, None, Some("Hinge leaf")]);
        for (part, proof) in parts.iter().zip(&sheet.parts) {
            assert!(proof.checks.len() > 8 && proof.checks.iter().all(|c| c.holds));
            assert!(proof.checks.iter().any(|c| c.claim == "Read back, it lies where it lay"));
            let volume = part.examination.figures.volume.unwrap();
            assert!((proof.volume / volume - 1.0).abs() < 1e-9, "{}", proof.part);
        }
        assert!((sheet.volume - sheet.parts.iter().map(|p| p.volume).sum::<f64>()).abs() < 1e-9);
        // A sheet reads back as it was written.
        let text = serde_json::to_string(sheet).unwrap();
        assert_eq!(&serde_json::from_str::<CheckSheet>(&text).unwrap(), sheet);
    }
    let open = to_release("Vent cowl", demo::vent_cowl());
    let [leaf, cup, _] = parts;
    let error = release_together("All", LengthUnit::Millimetre, &[leaf, open, cup], &quiet()).unwrap_err();
    assert!(error.to_string().contains("Vent cowl: Closed: no edge is naked"), "{error}");
    let stopped = Progress::default();
    stopped.cancel();
    let none = release_together("All", LengthUnit::Millimetre, &[to_release("Cup", demo::strainer_cup())], &stopped);
    assert!(matches!(none, Err(ReleaseError::Cancelled(_))));
}

/// What a reader makes of a file that keeps its numbers in single precision.
fn is_solid_in_single_precision(out: &Released) -> bool {
    let model = nimbet_formats::read_model(
        &out.bytes[..],
        out.bytes.len() as u64,
        &out.sheet.file,
        &Limits::default(),
        &quiet(),
    )
    .unwrap();
    let single = |p: Point| p.as_vec3().as_dvec3();
    let corners: Vec<Point> =
        (0..model.mesh.triangles().len()).flat_map(|t| model.mesh.corners(t)).map(single).collect();
    let seen = examine(&nimbet_kernel::weld::weld_corners(&corners).unwrap(), &quiet()).unwrap().figures;
    let sound = seen.state == PartState::Sealed && seen.degenerate == 0 && seen.crossing_pairs == 0;
    if !sound {
        println!("{} {:?} {}: {seen:?}", out.sheet.file, out.sheet.single, seen.reason);
    }
    sound
}

#[test]
fn parts_that_lie_turned_and_far_away_leave_in_every_format() {
    let lies = |mesh: &Mesh, sizes: f64| {
        let turn = glam::DQuat::from_euler(glam::EulerRot::XYZ, 0.7, -1.1, 2.3);
        let size = nimbet_kernel::Aabb::of(mesh.points().iter().copied()).diagonal();
        mesh.clone().map_points(|p| turn * p + Point::new(0.6, -0.8, 0.3) * size * sizes).unwrap()
    };
    for (name, mesh) in sealed_demo() {
        for (sizes, unit) in [(0.0, LengthUnit::Inch), (300.0, LengthUnit::Metre)] {
            let mesh = lies(&mesh, sizes);
            let seen = examine(&mesh, &quiet()).unwrap();
            assert_eq!(seen.figures.state, PartState::Sealed, "{name}");
            let size = seen.figures.size.iter().map(|x| x * x).sum::<f64>().sqrt();
            for format in [ReleaseFormat::Stl, ReleaseFormat::ThreeMf] {
                let out = release(&released_as(name, format, unit), &mesh, &seen, &[], &quiet())
                    .unwrap_or_else(|e| panic!("{name} {sizes} {format:?}: {e}"));
                assert!(is_solid_in_single_precision(&out), "{name} {sizes} {format:?}");
                let Some(SinglePrecision::Fit { largest_move, .. }) = out.sheet.single else {
                    panic!("{name} does not fit")
                };
                assert!(largest_move < size * (1.0 + sizes) * 24.0 / f64::from(1 << 23), "{name} {largest_move}");
            }
        }
    }
}

#[test]
fn an_open_part_is_not_released_and_the_reason_is_told() {
    let mesh = demo::vent_cowl();
    let seen = examine(&mesh, &quiet()).unwrap();
    let error =
        release(&released_as("Vent cowl", ReleaseFormat::Stl, LengthUnit::Millimetre), &mesh, &seen, &[], &quiet())
            .unwrap_err();
    assert!(error.to_string().contains("naked"), "{error}");
}

#[test]
fn a_file_in_inches_becomes_millimetres_and_a_doubtful_size_is_told() {
    let mesh = demo::mooring_buoy();
    let body = Body { name: "buoy", colour: [0; 3], mesh: &mesh };
    let bytes = write_body(&body, ReleaseFormat::Ply, LengthUnit::Inch).unwrap();
    let how = |unit| ReadAs { unit, ..ReadAs::default() };
    let bring =
        |unit| bring_in(&bytes[..], bytes.len() as u64, "buoy.ply", &how(unit), &Limits::default(), &quiet()).unwrap();
    let part = bring(UnitChoice::Inch);
    let size = examine(&part.parts[0].mesh, &quiet()).unwrap().figures.size;
    assert!((size[2] - 180.0).abs() < 1e-9, "{size:?}");
    assert!(part.notes.is_empty());
    let metres = write_body(&body, ReleaseFormat::Ply, LengthUnit::Metre).unwrap();
    let guessed =
        bring_in(&metres[..], metres.len() as u64, "b.ply", &ReadAs::default(), &Limits::default(), &quiet()).unwrap();
    assert_eq!((guessed.unit, guessed.notes.len()), (LengthUnit::Metre, 1));
}

#[test]
fn recipes_tell_the_step_that_fails() {
    let text = r#"{ "nimbet": 1, "steps": [
        { "kind": "seal.agree_windings" },
        { "kind": "seal.cover_rim", "style": "flat", "rims": { "picked": [{ "near": [1e6, 0, 0], "length": 3 }] } }
    ] }"#;
    let error = run_recipe(&Recipe::parse(text).unwrap(), demo::vent_cowl(), &quiet()).unwrap_err().to_string();
    assert!(error.starts_with("step 2") && error.contains("pick it again"), "{error}");
    assert!(Recipe::parse(r#"{ "nimbet": 2, "steps": [] }"#).is_err());
    assert!(
        Recipe::parse(r#"{ "nimbet": 1, "steps": [{ "kind": "seal.polish" }] }"#)
            .unwrap_err()
            .to_string()
            .contains("line 1")
    );
}

#[test]
fn cache_keys_tell_steps_and_inputs_apart() {
    let action =
        |reach: f64| serde_json::from_str(&format!(r#"{{"kind":"seal.close_gaps","reach":{reach}}}"#)).unwrap();
    let (a, b): (Action, Action) = (action(0.1), action(0.2));
    let input = Hash::of(b"mesh");
    assert_eq!(cache_key(&a, &[input]).unwrap(), cache_key(&a.clone(), &[input]).unwrap());
    assert_ne!(cache_key(&a, &[input]).unwrap(), cache_key(&b, &[input]).unwrap());
    assert_ne!(cache_key(&a, &[input]).unwrap(), cache_key(&a, &[]).unwrap());
}

#[test]
fn undoing_brings_the_part_back_and_keeps_the_steps() {
    let cowl = demo::vent_cowl();
    let seen = examine(&cowl, &quiet()).unwrap();
    let (hash, _) = mesh_hash(&cowl);
    let report = |before, after: &nimbet_trade::Examination| StepReport {
        done: vec![],
        left: vec![],
        largest_move: 0.0,
        before,
        after: after.figures.clone(),
        change: None,
        made: vec![],
        plan: vec![],
        cut: vec![],
        notices: vec![],
        instead: None,
        threads: vec![],
        harm: None,
        seconds: None,
    };
    let file = "Vent cowl.ply".into();
    let bring = Action::BringIn(BringIn {
        file,
        source: hash,
        unit: UnitChoice::Auto,
        groups: false,
        chord: None,
        bodies: None,
    });
    let first = Step {
        number: 1,
        part: PartId(1),
        action: bring,
        mesh: hash,
        report: report(None, &seen),
        state: StepState::Done,
        name: None,
        note: None,
    };
    let action: Action = serde_json::from_str(r#"{"kind":"seal.plan"}"#).unwrap();
    let done = perform(&action, &cowl, &seen, &[], &quiet()).unwrap();
    let second = Step {
        number: 2,
        part: PartId(1),
        action,
        mesh: mesh_hash(&done.mesh).0,
        report: done.report,
        state: StepState::Done,
        name: None,
        note: None,
    };
    let mut history = History { steps: vec![first, second], cursor: 2 };
    assert_eq!(history.part(PartId(1)).unwrap().figures.state, PartState::Sealed);
    history.cursor = 1;
    let undone = history.part(PartId(1)).unwrap();
    assert_eq!((undone.mesh, undone.figures.state, undone.name.as_str()), (hash, PartState::Open, "Vent cowl"));
    history.cursor = 0;
    assert!(history.parts().is_empty());
}

#[test]
fn released_files_have_names_every_system_takes() {
    let mesh = nimbet_kernel::shapes::block(nimbet_kernel::Point::ZERO, nimbet_kernel::Point::splat(10.0));
    let seen = examine(&mesh, &quiet()).unwrap();
    for (name, file) in [
        ("Vent cowl", "vent-cowl.stl"),
        ("  Bügel / \"links\": 2", "bügel----links---2.stl"),
        ("..", "part.stl"),
        ("Deck.plate", "deck.plate.stl"),
    ] {
        let out = release(&released_as(name, ReleaseFormat::Stl, LengthUnit::Millimetre), &mesh, &seen, &[], &quiet())
            .unwrap();
        assert_eq!((out.sheet.file.as_str(), out.sheet.part.as_str()), (file, name));
    }
}

#[test]
fn a_part_that_single_precision_would_tear_is_not_released_as_stl() {
    // Two sides a tenth of a micrometre apart, a hundred metres from the origin: STL rounds both to one place.
    let at = nimbet_kernel::Point::splat(1e5);
    let sliver = nimbet_kernel::shapes::block(at, nimbet_kernel::Point::new(10.0, 10.0, 1e-4));
    let seen = examine(&sliver, &quiet()).unwrap();
    assert_eq!(seen.figures.state, PartState::Sealed);
    let release =
        |format| release(&released_as("sliver", format, LengthUnit::Millimetre), &sliver, &seen, &[], &quiet());
    let refused = release(ReleaseFormat::Stl).unwrap_err().to_string();
    assert!(refused.contains("too fine at (1000") && refused.contains("3MF, OBJ and PLY"), "{refused}");
    let double = release(ReleaseFormat::Ply).unwrap();
    assert!(matches!(double.sheet.single, Some(SinglePrecision::Unfit { .. })), "double precision keeps it apart");
}

#[test]
fn every_step_kind_survives_json_and_has_a_title() {
    for text in [
        r#"{"kind":"bring_in","file":"a.stl","source":"0000000000000000000000000000000000000000000000000000000000000000","unit":"inch"}"#,
        r#"{"kind":"weigh.set_material","material":"pewter"}"#,
        r#"{"kind":"seal.close_gaps","reach":0.25,"leave":[{"near":[1.0,2.0,3.0],"length":9.5}]}"#,
        r#"{"kind":"seal.cover_rim","rims":{"picked":[{"near":[0.0,0.5,1.0],"length":12.0}]},"style":"domed","height":4.0}"#,
        r#"{"kind":"seal.bridge","from":{"near":[0.0,0.0,0.0],"length":1.0},"to":{"near":[0.0,0.0,9.0],"length":1.5},"shape":"flat"}"#,
        r#"{"kind":"seal.bridge","from":{"from":[0.0,0.0,0.0],"to":[1.0,0.0,0.0],"through":[0.5,0.0,0.0]},"to":{"from":[0.0,1.0,0.0],"to":[1.0,1.0,0.0],"through":[0.5,1.0,0.0]},"shape":"tangent"}"#,
        r#"{"kind":"seal.cover_runs","at":[[0.0,0.0,0.0],[1.0,0.0,0.0]],"runs":{"picked":[[0.5,0.0,0.0]]},"style":"taut"}"#,
        r#"{"kind":"seal.fill_outline","outline":{"section":{"at":[0.0,0.0,1.0],"normal":[0.0,0.0,1.0]}},"untie":true}"#,
        r#"{"kind":"seal.turn","what":{"shells":[[1.0,2.0,3.0]]}}"#,
        r#"{"kind":"seal.smooth","what":{"brush":[{"near":[1.0,2.0,3.0],"radius":2.0}]},"strength":0.5,"passes":7}"#,
        r#"{"kind":"seal.group_faces","angle":30.0,"tolerance":0.01}"#,
        r#"{"kind":"seal.merge_faces","faces":"all","tolerance":0.01,"simplify":false}"#,
        r#"{"kind":"seal.pull_apart","into":"faces"}"#,
        r#"{"kind":"seal.join","with":[2,3],"reach":0.1}"#,
        r#"{"kind":"seal.wrap","resolution":0.5}"#,
        r#"{"kind":"seal.plan","skip":["cover_flat","re_skin"]}"#,
        r#"{"kind":"seal.lift_out","what":{"faces":[[1.0,2.0,3.0]]},"rings":2}"#,
        r#"{"kind":"seal.re_skin","what":{"tangle":{"near":[1.0,2.0,3.0],"radius":0.5}},"rings":1}"#,
        r#"{"kind":"seal.drop","duplicates":true,"degenerate":false,"specks_below":0.5}"#,
        r#"{"kind":"seal.agree_windings"}"#,
        r#"{"kind":"seal.turn_outward"}"#,
        r#"{"kind":"seal.plan"}"#,
    ] {
        let action: Action = serde_json::from_str(text).unwrap_or_else(|e| panic!("{text}: {e}"));
        assert_eq!(serde_json::to_string(&action).unwrap(), text);
        assert!(!action.title().is_empty());
    }
}

#[test]
fn what_a_step_makes_worse_is_said() {
    // A bar through the opening of a drum: the cover must cross it.
    let drum = turned(&[(0.0, 0.0), (5.0, 0.0), (5.0, 6.0)], 32);
    let bar = block(Point::new(-1.0, -1.0, 3.0), Point::new(2.0, 2.0, 9.0));
    let first = drum.points().len() as u32;
    let points = [drum.points(), bar.points()].concat();
    let triangles =
        [drum.triangles().to_vec(), bar.triangles().iter().map(|t| t.map(|i| i + first)).collect()].concat();
    let mesh = Mesh::with_one_face(points, triangles).unwrap();
    let before = examine(&mesh, &quiet()).unwrap();
    assert_eq!((before.figures.tangles, before.figures.rims), (0, 1));
    let cover = serde_json::from_str(r#"{ "kind": "seal.cover_rim", "style": "flat", "may_cross": true }"#).unwrap();
    let done = perform(&cover, &mesh, &before, &[], &quiet()).unwrap();
    assert_eq!(done.report.left, ["the part crosses itself in 1 place, 0 before"]);
}

#[test]
fn the_steps_of_a_part_become_a_recipe_that_gives_the_same_part() {
    let block = block(Point::ZERO, Point::splat(20.0));
    let mut history = History::default();
    let mut held = vec![(PartId(1), block.clone())];
    let mut take = |history: &mut History, number: u32, part: u32, json: &str| {
        let action: Action = serde_json::from_str(json).unwrap();
        let find = |id: PartId, held: &[(PartId, Mesh)]| held.iter().find(|h| h.0 == id).unwrap().1.clone();
        let mesh = find(PartId(part), &held);
        let others: Vec<Mesh> = action.others().into_iter().map(|id| find(id, &held)).collect();
        let done = perform(&action, &mesh, &examine(&mesh, &quiet()).unwrap(), &others, &quiet()).unwrap();
        held.retain(|h| h.0 != PartId(part));
        held.push((PartId(part), done.mesh.clone()));
        for (n, (more, _)) in (1..).zip(done.more) {
            held.push((PartId(number + n), more));
        }
        let mesh = mesh_hash(&done.mesh).0;
        history.steps.push(Step {
            number,
            part: PartId(part),
            action,
            mesh,
            report: done.report,
            state: StepState::Done,
            name: None,
            note: None,
        });
        history.cursor = history.steps.len();
        done.mesh
    };
    take(
        &mut history,
        5,
        1,
        r#"{ "kind": "shape.body", "body": { "drum": { "diameter": 6, "height": 30 } }, "at": [10, 10, -5] }"#,
    );
    let bored = take(&mut history, 7, 1, r#"{ "kind": "shape.difference", "with": [6] }"#);
    let recipe = Recipe::of(&history, PartId(1), "Bored".into()).unwrap();
    assert_eq!(recipe.steps.len(), 2);
    assert_eq!(run_recipe(&recipe, block.clone(), &quiet()).unwrap().mesh, bored);
    let text = serde_json::to_string(&recipe).unwrap();
    assert_eq!(Recipe::parse(&text).unwrap(), recipe);
    // What was done to a part before it went in goes along.
    let mut longer = History { steps: history.steps[..1].to_vec(), cursor: 1 };
    take(&mut longer, 8, 6, r#"{ "kind": "shape.place", "by": [1, 0, 0] }"#);
    let cut = take(&mut longer, 9, 1, r#"{ "kind": "shape.difference", "with": [6] }"#);
    let recipe = Recipe::of(&longer, PartId(1), String::new()).unwrap();
    assert_eq!(recipe.steps.iter().map(|s| s.part).collect::<Vec<_>>(), [1, 2, 1]);
    assert_eq!(run_recipe(&recipe, bored, &quiet()).unwrap().mesh, cut);
    // What was made of another file cannot be had from this one.
    let from_other = History { steps: longer.steps[1..].to_vec(), cursor: 2 };
    let refused = Recipe::of(&from_other, PartId(1), String::new()).unwrap_err();
    assert_eq!((refused.step, refused.part), (8, 6));
}

#[test]
fn what_any_step_loses_can_be_kept_as_a_part() {
    let at = |x: f64, size: f64| block(Point::new(x, 0.0, 0.0), Point::splat(size));
    let soup: Vec<Point> =
        [at(0.0, 10.0), at(30.0, 1.0)].iter().flat_map(|m| (0..12).flat_map(|t| m.corners(t))).collect();
    let part = nimbet_kernel::weld::weld_corners(&soup).unwrap();
    for keep in [true, false] {
        let text = format!(
            r#"{{"nimbet":1,"steps":[{{"kind":"seal.drop","shells":[[30.5,0.5,1]],"keep_lost":{keep}}},{{"kind":"keep","name":"after"}}]}}"#
        );
        let run = run_recipe(&Recipe::parse(&text).unwrap(), part.clone(), &quiet()).unwrap();
        let report = run.steps[0].1.as_ref().unwrap();
        assert!((report.harm.as_ref().unwrap().lost.area - 6.0).abs() < 1e-9);
        assert_eq!(report.made.len(), usize::from(keep));
        // The kept part comes after, so it has the next number.
        assert_eq!(run.lost.into_iter().collect::<Vec<_>>(), if keep { vec![2] } else { vec![] });
        assert_eq!(run.others.len(), 1 + usize::from(keep));
        if keep {
            let lost = &run.others[&2];
            assert!((lost.1.figures.area - 6.0).abs() < 1e-9);
        }
    }
}
