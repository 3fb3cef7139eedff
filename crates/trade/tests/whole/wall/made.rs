//! Walls made: hollow, shell, coat, sheets, growing.

use super::*;

#[test]
fn a_block_is_hollowed_exactly_drained_and_plugged() {
    let part = block(20.0, 16.0, 12.0);
    let whole = 20.0 * 16.0 * 12.0;
    let hollow = apply(json!({ "kind": "wall.hollow", "wall": 2.0 }), &part, &[]).unwrap();
    near(sealed(&hollow.mesh), whole - 16.0 * 12.0 * 8.0, 1e-12);
    near(least_wall(&hollow.mesh), 2.0, 1e-6);
    assert!(hollow.left.iter().any(|l| l.contains("no drain")), "{:?}", hollow.left);
    let kinds = examine(&hollow.mesh, &Progress::unwatched()).unwrap();
    assert!(kinds.findings.iter().any(|f| f.key.starts_with("void")), "{:?}", kinds.findings);
    let drain = json!({ "at": [10.0, 1.0, 1.0], "diameter": 4.0, "plug": 0.1 });
    let step = json!({ "kind": "wall.hollow", "wall": 2.0, "drains": [drain] });
    let drained = apply(step, &part, &[]).unwrap();
    near(sealed(&drained.mesh), whole - 16.0 * 12.0 * 8.0 - PI * 4.0 * 2.0, 3e-4);
    assert!(drained.left.is_empty());
    assert_eq!(examine(&drained.mesh, &Progress::unwatched()).unwrap().figures.shells, 1, "the void is open now");
    near(sealed(&drained.more[0].mesh), PI * 1.9 * 1.9 * 2.0, 0.02);
    // A drain beside the part, and a wall as thick as the part.
    let beside = json!({ "kind": "wall.hollow", "wall": 2.0, "drains": [{ "at": [90.0, 0.0, 0.0], "diameter": 4.0 }] });
    assert!(matches!(apply(beside, &part, &[]), Err(TradeError::NeedsNewPick { .. })));
    let thick = apply(json!({ "kind": "wall.hollow", "wall": 6.0 }), &part, &[]).unwrap_err();
    assert!(thick.to_string().contains("nothing would be left"), "{thick}");
    let open = part.retain_triangles(|t| t > 1);
    let refused = apply(json!({ "kind": "wall.hollow", "wall": 1.0 }), &open, &[]).unwrap_err();
    assert!(refused.to_string().contains("open") && refused.places().len() == 1, "{refused}");
}

#[test]
fn a_scan_is_hollowed_by_sampling_and_its_wall_is_what_was_asked() {
    let noise = |p: Point| 1.0 + 0.002 * ((p.x * 31.0 + p.y * 17.0).sin() + (p.z * 41.0).sin());
    let scan = ball(20.0, 60).map_points(|p| p * noise(p)).unwrap();
    let step = json!({ "kind": "wall.hollow", "wall": 3.0, "sampled": 0.8 });
    let hollow = apply(step, &scan, &[]).unwrap();
    sealed(&hollow.mesh);
    assert!(hollow.done.iter().any(|d| d.contains("off by")), "{:?}", hollow.done);
    assert!((least_wall(&hollow.mesh) - 3.0).abs() < 0.25, "{}", least_wall(&hollow.mesh));
}

#[test]
fn a_shell_has_openings_and_walls_of_its_own() {
    let part = block(20.0, 16.0, 12.0);
    let top = json!([1.0, 1.0, 6.0]);
    let shell = |more: Value| {
        let mut step = json!({ "kind": "wall.shell", "wall": 1.0, "open": [top] });
        step.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        apply(step, &part, &[]).map(|o| sealed(&o.mesh))
    };
    let whole = 20.0 * 16.0 * 12.0;
    near(shell(json!({})).unwrap(), whole - 18.0 * 14.0 * 11.0, 1e-9);
    near(shell(json!({ "outward": true })).unwrap(), 22.0 * 18.0 * 13.0 - whole, 1e-9);
    let floor = json!({ "walls": [{ "face": [1.0, 1.0, -6.0], "wall": 3.0 }] });
    near(shell(floor).unwrap(), whole - 18.0 * 14.0 * 9.0, 1e-9);
    // Two openings: a tube of rectangular section.
    near(shell(json!({ "open": [top, [1.0, 1.0, -6.0]] })).unwrap(), whole - 18.0 * 14.0 * 12.0, 1e-9);
    let all: Vec<Value> =
        [[10.0, 0.0, 0.0], [-10.0, 0.0, 0.0], [0.0, 8.0, 0.0], [0.0, -8.0, 0.0], [0.0, 0.0, 6.0], [0.0, 0.0, -6.0]]
            .iter()
            .map(|p| json!(p))
            .collect();
    assert!(shell(json!({ "open": all })).unwrap_err().to_string().contains("all faces"));
}

#[test]
fn a_coat_leaves_bare_faces_and_the_core() {
    let core = block(20.0, 16.0, 12.0);
    let whole = 20.0 * 16.0 * 12.0;
    let bare =
        apply(json!({ "kind": "wall.coat", "thickness": 0.05, "bare": [[1.0, 1.0, -6.0]] }), &core, &[]).unwrap();
    assert_eq!(bare.mesh, core);
    near(sealed(&bare.more[0].mesh), 20.1 * 16.1 * 12.05 - whole, 1e-11);
    let all = apply(json!({ "kind": "wall.coat", "thickness": 0.5 }), &core, &[]).unwrap();
    near(sealed(&all.more[0].mesh), 21.0 * 17.0 * 13.0 - whole, 1e-9);
    near(least_wall(&all.more[0].mesh), 0.5, 1e-6);
}

#[test]
fn a_sheet_is_thickened_whole_or_by_faces_and_may_stay() {
    let part = block(20.0, 16.0, 12.0);
    let box_without_lid = part.retain_triangles(|t| !part.corners(t).iter().all(|p| p.z > 5.9));
    let both = json!({ "kind": "wall.thicken", "outward": 1.0, "inward": 0.5, "keep": true });
    let made = apply(both, &box_without_lid, &[]).unwrap();
    near(sealed(&made.mesh), 22.0 * 18.0 * 13.0 - 19.0 * 15.0 * 11.5, 1e-9);
    assert_eq!(made.more, vec![nimbet_trade::Made::of(box_without_lid.clone(), "Sheet")]);
    let one = json!({ "kind": "wall.thicken", "outward": 2.0, "faces": [[10.0, 0.0, 0.0]] });
    near(sealed(&apply(one, &part, &[]).unwrap().mesh), 16.0 * 12.0 * 2.0, 1e-12);
    // A run of faces: the round corners of a rounded block go on into its sides.
    let round = body(json!({ "block": { "size": [20.0, 16.0, 12.0], "rounded": 3.0 } }));
    let run = json!({ "kind": "wall.thicken", "outward": 1.0, "faces": [[10.0, 0.0, 0.0]], "run": true });
    let belt = sealed(&apply(run, &round, &[]).unwrap().mesh);
    near(belt, 12.0 * (2.0 * (14.0 + 10.0) + PI * (16.0 - 9.0)), 2e-3);
    for bad in [json!({ "outward": 0.0 }), json!({ "outward": -1.0 })] {
        let mut step = json!({ "kind": "wall.thicken" });
        step.as_object_mut().unwrap().extend(bad.as_object().unwrap().clone());
        assert!(matches!(apply(step, &part, &[]), Err(TradeError::Refused { .. })));
    }
}

#[test]
fn what_disappears_is_said_beforehand_with_its_place() {
    let round = body(json!({ "block": { "size": [20.0, 16.0, 12.0], "rounded": 2.0 } }));
    let hollow = apply(json!({ "kind": "wall.hollow", "wall": 3.0 }), &round, &[]).unwrap();
    near(sealed(&round) - sealed(&hollow.mesh), 14.0 * 10.0 * 6.0, 0.01);
    let lost: Vec<&str> = hollow.notices.iter().map(|n| n.text.as_str()).collect();
    assert_eq!(
        lost.iter().filter(|t| t.contains("disappears: its radius of 2 mm is less than 3 mm")).count(),
        4,
        "{lost:?}"
    );
    // A slot of 1.5 mm closes when its sides grow by 1.
    let slot = block(1.5, 40.0, 8.0).map_points(|p| p + Point::Z * 4.0).unwrap();
    let part =
        apply(json!({ "kind": "shape.difference", "with": [2] }), &block(20.0, 16.0, 12.0), &[slot]).unwrap().mesh;
    let grown = apply(json!({ "kind": "wall.grow", "by": 1.0 }), &part, &[]).unwrap();
    // All of the slot but a notch between its upper edges.
    let lacking = 22.0 * 18.0 * 14.0 - sealed(&grown.mesh);
    assert!((0.0..0.75 * 18.0).contains(&lacking), "{lacking}");
    assert!(grown.notices.iter().any(|n| n.text == "a slot of 1.5 mm closes"), "{:?}", grown.notices);
}

#[test]
fn a_part_grows_over_a_core_and_sheets_stand_off_faces() {
    let part = block(20.0, 16.0, 12.0);
    let core = block(40.0, 4.0, 4.0);
    let sleeve = apply(json!({ "kind": "wall.grow", "by": 1.0, "less": 2 }), &part, &[core]).unwrap();
    near(sealed(&sleeve.mesh), 22.0 * 18.0 * 14.0 - 22.0 * 16.0, 1e-9);
    // A core that cuts it in two leaves a piece to be dropped.
    let wide = block(2.0, 40.0, 40.0).map_points(|p| p + Point::X * 3.0).unwrap();
    let in_two = json!({ "kind": "wall.grow", "by": -1.0, "less": 2 });
    let left = apply(in_two, &part, std::slice::from_ref(&wide)).unwrap().left;
    assert!(left.iter().any(|l| l.contains("1 piece besides the largest")), "{left:?}");
    let one = json!({ "kind": "wall.grow", "by": -1.0, "less": 2, "largest": true });
    near(sealed(&apply(one, &part, &[wide]).unwrap().mesh), 11.0 * 14.0 * 10.0, 1e-9);
    let faces = json!([[10.0, 0.0, 0.0], [0.0, 8.0, 0.0]]);
    let off = apply(json!({ "kind": "wall.offset_sheet", "distance": 0.3, "faces": faces }), &part, &[]).unwrap();
    let sheet = &off.more[0].mesh;
    assert!(sheet.points().iter().all(|p| (p.x - 10.3).abs() < 1e-9 || (p.y - 8.3).abs() < 1e-9));
    near(
        sheet.triangles().iter().enumerate().map(|(t, _)| sheet.area_vector(t).length() * 0.5).sum(),
        12.0 * (20.3 + 16.3),
        1e-9,
    );
}
