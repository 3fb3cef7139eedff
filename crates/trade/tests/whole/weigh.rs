//! Figures on which money, metal and fit depend: known answers, and what must agree with what.

use std::f64::consts::PI;

use nimbet_kernel::shapes::turned;
use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_trade::examine::FacePick;
use nimbet_trade::weigh::*;
use nimbet_trade::{Operation, Outcome, PartState, TradeError, demo, examine};
use serde_json::{Value, json};

fn quiet() -> Progress {
    Progress::unwatched()
}

fn apply(what: Value, mesh: &Mesh, others: &[Mesh]) -> Result<Outcome, TradeError> {
    let operation: Operation = serde_json::from_value(what).unwrap();
    operation.apply(mesh, others, &quiet())
}

fn body(shape: Value, chord: f64) -> Mesh {
    let step = json!({ "kind": "shape.body", "body": shape, "chord": chord });
    apply(step, &Mesh::default(), &[]).unwrap().more.remove(0).mesh
}

fn volume(mesh: &Mesh) -> f64 {
    let figures = examine(mesh, &quiet()).unwrap().figures;
    assert_eq!(figures.state, PartState::Sealed, "{}", figures.reason);
    figures.volume.unwrap()
}

#[test]
fn what_facets_take_from_a_volume_is_told() {
    // Cylinder, ball, ring, a tube (its bore takes away): coarse on purpose.
    let cases = [
        (json!({ "drum": { "diameter": 40.0, "height": 20.0 } }), PI * 400.0 * 20.0),
        (json!({ "ball": { "diameter": 40.0 } }), 4.0 / 3.0 * PI * 8000.0),
        (json!({ "ring": { "diameter": 60.0, "thickness": 20.0 } }), 2.0 * PI * PI * 30.0 * 100.0),
        (json!({ "drum": { "diameter": 40.0, "height": 20.0, "bore": 30.0 } }), PI * (400.0 - 225.0) * 20.0),
    ];
    for (shape, wanted) in cases {
        let part = body(shape.clone(), 0.3);
        let faceted = volume(&part);
        let told = faceting(&part, &quiet()).unwrap();
        let missing = wanted - faceted;
        assert!((told.volume / missing - 1.0).abs() < 0.06, "{shape}: {} is not {missing}", told.volume);
        assert!(told.share > 0.003 && (told.share - told.volume / faceted).abs() < 1e-12);
    }
    let block = body(json!({ "block": { "size": [4.0, 5.0, 6.0] } }), 0.1);
    assert_eq!(faceting(&block, &quiet()).unwrap().volume, 0.0);
    // A cup turned in 72 steps with a bevel in one strip, and walls with ten holes of 24 sides, 2 mm long, whose facets leave
    // material in them.
    let cup = demo::strainer_cup();
    let of_turning = |steps: f64| (2.0 * PI / steps).powi(2) / 6.0;
    let holes = 10.0 * PI * 4.0 * 2.0;
    let missing = (volume(&cup) + holes) * of_turning(72.0) - holes * of_turning(24.0);
    let told = faceting(&cup, &quiet()).unwrap().volume;
    assert!((told / missing - 1.0).abs() < 0.03, "{told} is not {missing}");
}

#[test]
fn the_volume_of_an_open_part_is_a_guess_with_bounds_that_hold_it() {
    let ball = body(json!({ "ball": { "diameter": 40.0 } }), 0.02);
    let true_volume = 4.0 / 3.0 * PI * 8000.0;
    // A small opening leaves little unsure, half of it missing nearly everything.
    let lid = ball.retain_triangles(|t| ball.corners(t).iter().any(|p| p.z < 17.0));
    let guess = guess_volume(&lid, &quiet()).unwrap();
    assert!(guess.least < true_volume && true_volume < guess.most, "{guess:?}");
    assert!((guess.volume / true_volume - 1.0).abs() < 0.05 && guess.most < true_volume * 1.15, "{guess:?}");
    let half = ball.retain_triangles(|t| ball.corners(t).iter().all(|p| p.z < 1.0));
    let wide = guess_volume(&half, &quiet()).unwrap();
    assert!(wide.most - wide.least > (guess.most - guess.least) * 2.0, "{wide:?} {guess:?}");
    let flat = Mesh::with_one_face(vec![Point::ZERO, Point::X, Point::Y], vec![[0, 1, 2]]).unwrap();
    assert!(guess_volume(&flat, &quiet()).unwrap().volume < 0.2);
    assert_eq!(guess_volume(&Mesh::default(), &quiet()).unwrap().most, 0.0);
}

/// The inside of the strainer cup at a height: a cone from 22 mm at z = 3 to 26 mm at z = 54, of 72 sides.
fn cup_to(z: f64) -> f64 {
    let facets = (2.0 * PI / 72.0).sin() / (2.0 * PI / 72.0);
    let (h, r) = (z - 3.0, 22.0 + 4.0 / 51.0 * (z - 3.0));
    PI * h / 3.0 * (22.0 * 22.0 + 22.0 * r + r * r) * facets
}

#[test]
fn the_strainer_cup_holds_what_it_should_and_runs_out_at_its_holes() {
    let cup = demo::strainer_cup();
    let pick = VesselPick { at: [5.0, 5.0, 3.0], seen: None, up: [0.0, 0.0, 1.0] };
    let known = pick.find(&cup, &quiet()).unwrap();
    let fill = |to| pick.filled(&cup, &known, to, &quiet()).unwrap();
    // The holes are of 24 sides, 4 mm across, their middles at 46: their lowest edge is at 44, or a little above.
    let brim = fill(FillTo::Brim);
    assert!((brim.depth - 41.0).abs() < 0.03 && brim.spill.text.starts_with("runs over at 41"), "{brim:?}");
    assert!(brim.spill.at.unwrap()[2] > 43.9);
    // 50 ml, and the level read back.
    let fifty = fill(FillTo::Volume(50_000.0));
    assert!((fifty.volume - 50_000.0).abs() < 1e-3 && !fifty.over);
    assert!((cup_to(fifty.depth + 3.0) / 50_000.0 - 1.0).abs() < 1e-5, "{}", fifty.depth);
    assert!((fill(FillTo::Depth(fifty.depth)).volume - 50_000.0).abs() < 1e-2);
    assert!(fill(FillTo::Volume(90_000.0)).over && !fill(FillTo::Brim).over);
    assert_eq!(fill(FillTo::Depth(0.0)).volume, 0.0);
    // The liquid as a part; by chambers of an exact arrangement it is as much.
    let step = json!({ "kind": "weigh.fill", "vessel": { "at": [5.0, 5.0, 3.0] }, "to": { "volume": 50_000.0 } });
    let made = apply(step, &cup, &[]).unwrap();
    assert!((volume(&made.more[0].mesh) - 50_000.0).abs() < 1e-2 && made.mesh == cup);
    let level = [0.0, 0.0, fifty.depth + 3.0];
    let chambers = json!({ "kind": "shape.chambers", "planes": [{ "at": level, "normal": [0, 0, 1] }] });
    let all = apply(chambers, &cup, &[]).unwrap().more;
    let near = all.iter().map(|m| examine(&m.mesh, &quiet()).unwrap().figures.volume.unwrap_or(0.0));
    assert!(near.clone().any(|v| (v - 50_000.0).abs() < 1.0), "{:?}", near.collect::<Vec<_>>());
    // Outside of it nothing is held; without up or with nonsense it is refused.
    let outside = VesselPick { at: [25.0, 0.0, 16.0], ..pick.clone() };
    assert!(outside.find(&cup, &quiet()).unwrap_err().to_string().contains("runs off"));
    let no_up = VesselPick { up: [0.0; 3], ..pick.clone() };
    assert!(no_up.find(&cup, &quiet()).is_err());
    assert!(pick.filled(&cup, &known, FillTo::Volume(f64::NAN), &quiet()).is_err());
}

#[test]
fn a_sheet_runs_out_through_a_rim_that_is_named() {
    // The bell upside down.
    let bell = demo::fog_bell();
    let pick = VesselPick { at: [0.0, 0.0, 108.0], seen: Some([0.0, 0.0, 50.0]), up: [0.0, 0.0, -1.0] };
    let known = pick.find(&bell, &quiet()).unwrap();
    let full = pick.filled(&bell, &known, FillTo::Brim, &quiet()).unwrap();
    assert_eq!(full.spill.text, "runs out through R1 at 108 mm");
    let closed = apply(json!({ "kind": "seal.plan" }), &bell, &[]).unwrap().mesh;
    assert!((full.volume / volume(&closed) - 1.0).abs() < 1e-9, "{}", full.volume);
}

#[test]
fn a_cut_through_any_place_has_the_area_of_the_material() {
    let tube = turned(&[(5.0, 0.0), (8.0, 0.0), (8.0, 20.0), (5.0, 20.0), (5.0, 0.0)], 128);
    let level = cut(&tube, &CutPlane { at: [0.0, 0.0, 7.0], normal: [0.0, 0.0, 1.0] }).unwrap();
    assert!((level.area.unwrap() / (PI * 39.0) - 1.0).abs() < 1e-3 && level.contours.len() == 2);
    assert!(level.contours[0].area > 0.0 && level.contours[1].area < 0.0, "the hole runs the other way");
    // Upright cuts have z up: the wall of the tube is 3 wide and 20 high.
    let upright = cut(&tube, &CutPlane { at: [0.0; 3], normal: [0.0, 2.0, 0.0] }).unwrap();
    assert!((upright.area.unwrap() - 2.0 * 3.0 * 20.0).abs() < 0.1 && upright.v == [0.0, 0.0, 1.0]);
    assert_eq!(cut(&tube, &CutPlane { at: [0.0, 0.0, 50.0], normal: [0.0, 0.0, 1.0] }).unwrap().contours, []);
    assert!(cut(&tube, &CutPlane { at: [0.0; 3], normal: [0.0; 3] }).is_err());
    // An open part has lengths, and no area.
    let open = cut(&demo::vent_cowl(), &CutPlane { at: [0.0; 3], normal: [1.0, 0.0, 0.0] }).unwrap();
    assert!(open.area.is_none() && open.length > 100.0);
    // Sections add up to the volume: Simpson over a ball is exact.
    let ball = body(json!({ "ball": { "diameter": 20.0 } }), 0.005);
    let at = |z: f64| cut(&ball, &CutPlane { at: [0.0, 0.0, z], normal: [0.0, 0.0, 1.0] }).unwrap().area.unwrap();
    let simpson = 20.0 / 6.0 * (4.0 * at(0.0));
    assert!((simpson / volume(&ball) - 1.0).abs() < 2e-3, "{simpson}");
}

#[test]
fn a_pattern_is_larger_by_the_shrinkage_and_says_both_sizes() {
    let block = body(json!({ "block": { "size": [100.0, 50.0, 20.0] } }), 0.1);
    let even = apply(json!({ "kind": "weigh.scale_pattern", "shrinkage": [1.5, 1.5, 1.5] }), &block, &[]).unwrap();
    let grown = 1.0 / 0.985;
    assert!((volume(&even.mesh) / (100_000.0 * grown * grown * grown) - 1.0).abs() < 1e-12);
    assert!(
        even.done[0].contains("cast size 100 × 50 × 20 mm") && even.done[0].contains("pattern size 102"),
        "{:?}",
        even.done
    );
    let along = apply(json!({ "kind": "weigh.scale_pattern", "shrinkage": [0.0, 2.0, 0.0] }), &block, &[]).unwrap();
    assert!((volume(&along.mesh) / (100_000.0 / 0.98) - 1.0).abs() < 1e-12);
    for wrong in [[30.0, 1.0, 1.0], [-1.0, 0.0, 0.0]] {
        let refused = apply(json!({ "kind": "weigh.scale_pattern", "shrinkage": wrong }), &block, &[]).unwrap_err();
        assert!(refused.to_string().contains("25 %"), "{refused}");
    }
    let none = apply(json!({ "kind": "weigh.scale_pattern", "shrinkage": [0.0, 0.0, 0.0] }), &block, &[]);
    assert!(matches!(none, Err(TradeError::NothingToDo { .. })));
}

#[test]
fn measures_have_known_answers_and_follow_the_part() {
    let block = body(json!({ "block": { "size": [40.0, 30.0, 10.0] } }), 0.1);
    let drum = body(json!({ "drum": { "diameter": 12.0, "height": 30.0 } }), 0.01)
        .map_points(|p| p + Point::X * 50.0)
        .unwrap();
    let spot = |at: [f64; 3]| Spot { part: 1, at, face: FacePick::At(at) };
    let of = |measure: Measure, meshes: [&Mesh; 2]| measure.of(&meshes, &quiet());
    let both = [&block, &drum];
    let value = |m: Measure| of(m, both).unwrap().value;
    let points = Measure::Points { from: spot([20.0, 3.0, 1.0]), to: spot([56.0, 0.0, 4.0]) };
    assert!((value(points) - (36f64 * 36.0 + 9.0 + 9.0).sqrt()).abs() < 1e-6);
    assert!((value(Measure::Edge { at: spot([20.0, 1.0, 4.9]) }) - 30.0).abs() < 1e-9);
    let radius = Measure::Face { at: spot([20.0, 0.0, 4.0]) };
    assert!(
        (of(radius.clone(), [&drum.clone().map_points(|p| p - Point::X * 36.0).unwrap(), &drum]).unwrap().value - 6.0)
            .abs()
            < 1e-3
    );
    assert!((of(radius, both).unwrap().value - 300.0).abs() < 1e-9, "the area of a flat face");
    assert!((value(Measure::Parts { from: 1, to: 2 }) - 24.0).abs() < 1e-6);
    let wedge = body(json!({ "wedge": { "size": [20.0, 10.0, 20.0] } }), 0.1);
    let slope = spot([0.0, 0.0, 0.0]);
    let foot = spot([1.0, 1.0, -10.0]);
    let angle = Measure::Angle { from: slope, to: foot }.of(&[&wedge, &wedge], &quiet()).unwrap();
    assert!((angle.value - 45.0).abs() < 1e-9 && angle.angle, "{angle:?}");
    let apart = Measure::Faces { from: spot([20.0, 1.0, 1.0]), to: spot([-20.0, 1.0, 1.0]) };
    assert!((apart.of(&[&block, &block], &quiet()).unwrap().value - 40.0).abs() < 1e-9);
    // A face picked with what it was is found again where the part has grown.
    let facts = nimbet_trade::examine::face_facts(&block, None, &quiet()).unwrap();
    let anchored = |at: [f64; 3]| {
        let near =
            facts.iter().find(|f| (Point::from_array(f.place.centre) - Point::from_array(at)).length() < 1e-9).unwrap();
        Spot { part: 1, at, face: FacePick::Anchored(nimbet_trade::examine::FaceAnchor::of(near, at)) }
    };
    let across = Measure::Faces { from: anchored([20.0, 0.0, 0.0]), to: anchored([-20.0, 0.0, 0.0]) };
    let longer = block.clone().map_points(|p| Point::new(p.x * 1.5, p.y, p.z)).unwrap();
    assert!((across.of(&[&longer, &longer], &quiet()).unwrap().value - 60.0).abs() < 1e-9);
    // Of what is gone it says so.
    let gone = Measure::Face { at: spot([99.0, 0.0, 0.0]) }.of(&both, &quiet());
    assert!(matches!(gone, Err(TradeError::NeedsNewPick { .. })), "{gone:?}");
}
