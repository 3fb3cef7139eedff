//! Walls: made as asked, measured as made, and what they cost said beforehand.
#![allow(clippy::unwrap_used, clippy::panic)] // a failed test says so by panicking

use std::f64::consts::PI;

use nimbet_kernel::segments::nearest_on_triangle;
use nimbet_kernel::shapes::ball;
use nimbet_kernel::surfaces::{Grouping, group_faces};
use nimbet_kernel::thickness::{Side, Way};
use nimbet_kernel::winding::Winding;
use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_trade::examine::FindingKind;
use nimbet_trade::wall::*;
use nimbet_trade::{Operation, Outcome, PartState, TradeError, examine};
use serde_json::{Value, json};

fn then(after: &Mesh, before: &Mesh, places: &[ThinPlace]) -> Vec<(ThinPlace, bool)> {
    thin_before(after, before, places, &Progress::unwatched()).unwrap()
}

fn apply(what: Value, mesh: &Mesh, others: &[Mesh]) -> Result<Outcome, TradeError> {
    let operation: Operation = serde_json::from_value(what).unwrap();
    operation.apply(mesh, others, &Progress::unwatched())
}

fn body(shape: Value) -> Mesh {
    apply(json!({ "kind": "shape.body", "body": shape, "chord": 0.01 }), &Mesh::default(), &[]).unwrap().more.remove(0)
}

/// A block about the origin.
fn block(x: f64, y: f64, z: f64) -> Mesh {
    body(json!({ "block": { "size": [x, y, z] } }))
}

fn sealed(mesh: &Mesh) -> f64 {
    let figures = examine(mesh, &Progress::unwatched()).unwrap().figures;
    assert_eq!(figures.state, PartState::Sealed, "{}", figures.reason);
    figures.volume.unwrap()
}

fn near(a: f64, b: f64, share: f64) {
    assert!((a / b - 1.0).abs() < share, "{a} is not {b}");
}

fn least_wall(mesh: &Mesh) -> f64 {
    wall_report(mesh, (Side::Inside, Way::Ball), &Progress::unwatched()).unwrap().least.unwrap()
}

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
    near(sealed(&drained.more[0]), PI * 1.9 * 1.9 * 2.0, 0.02);
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
    near(sealed(&bare.more[0]), 20.1 * 16.1 * 12.05 - whole, 1e-11);
    let all = apply(json!({ "kind": "wall.coat", "thickness": 0.5 }), &core, &[]).unwrap();
    near(sealed(&all.more[0]), 21.0 * 17.0 * 13.0 - whole, 1e-9);
    near(least_wall(&all.more[0]), 0.5, 1e-6);
}

#[test]
fn a_sheet_is_thickened_whole_or_by_faces_and_may_stay() {
    let part = block(20.0, 16.0, 12.0);
    let box_without_lid = part.retain_triangles(|t| !part.corners(t).iter().all(|p| p.z > 5.9));
    let both = json!({ "kind": "wall.thicken", "outward": 1.0, "inward": 0.5, "keep": true });
    let made = apply(both, &box_without_lid, &[]).unwrap();
    near(sealed(&made.mesh), 22.0 * 18.0 * 13.0 - 19.0 * 15.0 * 11.5, 1e-9);
    assert_eq!(made.more, vec![box_without_lid.clone()]);
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
    let sheet = &off.more[0];
    assert!(sheet.points().iter().all(|p| (p.x - 10.3).abs() < 1e-9 || (p.y - 8.3).abs() < 1e-9));
    near(
        sheet.triangles().iter().enumerate().map(|(t, _)| sheet.area_vector(t).length() * 0.5).sum(),
        12.0 * (20.3 + 16.3),
        1e-9,
    );
}

#[test]
fn a_groove_that_eats_the_wall_is_found_with_its_extent() {
    let groove = block(6.0, 2.0, 4.0).map_points(|p| p + Point::new(0.0, 0.0, 2.4)).unwrap();
    let part =
        apply(json!({ "kind": "shape.difference", "with": [2] }), &block(30.0, 20.0, 2.0), &[groove]).unwrap().mesh;
    let report = wall_report(&part, (Side::Inside, Way::Ball), &Progress::unwatched()).unwrap();
    near(report.least.unwrap(), 1.4, 1e-6);
    let spread: f64 = report.spread.iter().map(|b| b.area).sum();
    assert!(spread > 1000.0);
    // One thin place; the foot of the groove runs round it and up its corners.
    let found = found_by(&part, "investment-bronze");
    assert_eq!(kinds(&found), [FindingKind::ThinWall, FindingKind::InnerCorner], "{found:?}");
    let thin = &found[0];
    assert!(thin.finding.place.centre[0].abs() < 0.8 && thin.finding.place.radius < 4.5, "{thin:?}");
    assert!(thin.finding.size.starts_with("1.4 mm instead of 1.5 mm"), "{}", thin.finding.size);
    assert!(found[1].finding.size.contains("18.4 mm long"), "{}", found[1].finding.size);
    // It was not thin before the groove, nor after that where only the part moved.
    let place = [thin.thinnest.unwrap().place()];
    assert!(!then(&part, &block(30.0, 20.0, 2.0), &place)[0].1);
    let moved = part.clone().map_points(|p| p + Point::new(0.0, 90.0, 7.0)).unwrap();
    let there = then(&moved, &part, &[found_by(&moved, "investment-bronze")[0].thinnest.unwrap().place()]);
    assert!(there[0].1 && there[0].0.at[1].abs() < 10.0, "{there:?}");
    // The remedy makes it thick enough.
    let grown = thin.finding.remedies[0].operation.apply(&part, &[], &Progress::unwatched()).unwrap().mesh;
    assert!(!kinds(&found_by(&grown, "investment-bronze")).contains(&FindingKind::ThinWall));
}

fn found_by(mesh: &Mesh, process: &str) -> Vec<WallFinding> {
    let quiet = Progress::unwatched();
    let asks = Making { process: process.into(), ..Default::default() }.figures().unwrap();
    wall_findings(mesh, &examine(mesh, &quiet).unwrap(), &asks, &quiet).unwrap()
}

fn kinds(found: &[WallFinding]) -> Vec<FindingKind> {
    found.iter().map(|f| f.finding.kind).collect()
}

#[test]
fn what_a_process_cannot_make_is_found() {
    use FindingKind::{Feather, InnerCorner, NarrowSlot, ThinPin, ThinWall, Undrained, UprightCorner};
    let wedge = body(json!({ "wedge": { "size": [20.0, 10.0, 5.0] } }));
    assert!(kinds(&found_by(&wedge, "investment-bronze")).contains(&Feather));
    assert!(!kinds(&found_by(&wedge, "powder-print")).contains(&Feather));
    let drilled = body(json!({ "drum": { "diameter": 10.0, "height": 4.0, "bore": 1.5 } }));
    // A ring of 4 by 4.25 mm is a pin to a sand mould.
    assert_eq!(kinds(&found_by(&drilled, "sand-bronze")), [ThinPin, NarrowSlot]);
    // A pin on a plate; a plate as thin is a wall.
    let pin = body(json!({ "drum": { "diameter": 1.0, "height": 8.0 } }));
    let plate = block(20.0, 20.0, 4.0);
    let both = apply(json!({ "kind": "shape.union", "with": [2] }), &plate, &[pin]).unwrap().mesh;
    let found = found_by(&both, "investment-bronze");
    assert_eq!(kinds(&found), [ThinPin, InnerCorner], "{found:?}");
    assert!(found[0].finding.size.contains("instead of 1.5 mm"));
    assert_eq!(kinds(&found_by(&block(20.0, 20.0, 1.0), "investment-bronze")), [ThinWall]);
    assert_eq!(kinds(&found_by(&block(20.0, 20.0, 1.47), "investment-bronze")), [], "right to a few hundredths");
    // The floor of a pocket is thin on its own area, counted once; the far side has a fringe round it.
    let at = |x: f64, y: f64, z: f64| nimbet_kernel::Point::new(x, y, z);
    let plate = nimbet_kernel::shapes::block(at(0.0, 0.0, 0.0), at(40.0, 30.0, 12.0));
    let pocket = nimbet_kernel::shapes::block(at(12.0, 8.0, 1.0), at(15.0, 14.2, 20.0));
    let thin = apply(json!({ "kind": "shape.difference", "with": [2] }), &plate, &[pocket]).unwrap().mesh;
    let found = found_by(&thin, "investment-bronze").remove(0).finding;
    let area: f64 = found.size.split("on ").nth(1).unwrap().split(' ').next().unwrap().parse().unwrap();
    assert!((area / (15.0 * 14.2) - 1.0).abs() < 0.02, "{}", found.size);
    // A void matters where something must get out.
    let hollow = apply(json!({ "kind": "wall.hollow", "wall": 3.0 }), &block(30.0, 30.0, 30.0), &[]).unwrap().mesh;
    assert_eq!(kinds(&found_by(&hollow, "powder-print")), [Undrained, InnerCorner]);
    assert_eq!(
        kinds(&found_by(&hollow, "filament-print")),
        [InnerCorner, UprightCorner, UprightCorner, UprightCorner, UprightCorner]
    );
    // The remedy lets it out from below: no void is left.
    let undrained = found_by(&hollow, "powder-print").remove(0).finding;
    let drained = undrained.remedies[0].operation.apply(&hollow, &[], &Progress::unwatched()).unwrap().mesh;
    let seen = examine(&drained, &Progress::unwatched()).unwrap();
    let drain = PI * 2.0f64.powi(2) * 3.0;
    assert!(
        seen.figures.state == PartState::Sealed && !kinds(&found_by(&drained, "powder-print")).contains(&Undrained)
    );
    let taken = sealed(&hollow) - sealed(&drained);
    assert!((taken / drain - 1.0).abs() < 0.02, "{taken} is not {drain}");
    // A house's own figures go first; what is no length is refused.
    let own = |wall| Making { wall: Some(wall), ..Default::default() }.figures();
    assert_eq!(own(4.0).unwrap().wall, 4.0);
    assert!(own(-1.0).is_err() && own(f64::NAN).is_err());
    assert!(Making { process: "spells".into(), ..Default::default() }.figures().is_err());
}

#[test]
fn a_rounding_is_made_anew_so_that_the_wall_is_even() {
    let boxed = |outer: f64, inner: f64, floor: f64| {
        let solid = |size: [f64; 3], rounded: f64| {
            let block = json!({ "block": { "size": size, "rounded": rounded } });
            let step = json!({ "kind": "shape.body", "body": block, "chord": 0.04 });
            apply(step, &Mesh::default(), &[]).unwrap().more.remove(0)
        };
        let void = solid([54.0, 34.0, 80.0], inner).map_points(|p| p + Point::Z * (25.0 + floor)).unwrap();
        apply(json!({ "kind": "shape.difference", "with": [2] }), &solid([60.0, 40.0, 30.0], outer), &[void])
            .unwrap()
            .mesh
    };
    // The area between a corner and its rounding; four of them.
    let corner = |r: f64| 4.0 * (1.0 - PI / 4.0) * r * r;
    let uneven = |part: &Mesh| -> Vec<WallFinding> {
        let all = found_by(part, "investment-bronze").into_iter();
        all.filter(|f| f.finding.kind == FindingKind::UnevenRounding).collect()
    };
    assert!(uneven(&boxed(8.0, 5.0, 3.0)).is_empty());
    // Outer radius, inner radius, floor, and for each remedy what it adds to the volume.
    let cases: [(f64, f64, f64, Vec<f64>); 5] = [
        // Too thin: a larger radius inside. With a floor the outside is higher, and cannot follow the inside.
        (8.0, 0.0, 3.0, vec![corner(5.0) * 27.0]),
        (12.0, 4.0, 3.0, vec![(corner(9.0) - corner(4.0)) * 27.0]),
        // Or a smaller one outside.
        (12.0, 4.0, -20.0, vec![(corner(9.0) - corner(4.0)) * 30.0, (corner(12.0) - corner(7.0)) * 30.0]),
        // Too thick: a smaller radius inside, or a larger one outside.
        (8.0, 8.0, -20.0, vec![-(corner(8.0) - corner(5.0)) * 30.0, -(corner(11.0) - corner(8.0)) * 30.0]),
        (0.0, 5.0, -20.0, vec![-corner(8.0) * 30.0]),
    ];
    for (outer, inner, floor, adds) in cases {
        let part = boxed(outer, inner, floor);
        let found = uneven(&part);
        assert_eq!(found.len(), 4, "{outer} {inner}: {found:?}");
        assert_eq!(found[0].finding.remedies.len(), adds.len(), "{outer} {inner}");
        for (n, add) in adds.iter().enumerate() {
            let mut made = part.clone();
            for finding in &found {
                let remedy = &finding.finding.remedies[n];
                made = remedy
                    .operation
                    .apply(&made, &[], &Progress::unwatched())
                    .unwrap_or_else(|e| panic!("{outer} {inner} {}: {e}", remedy.label))
                    .mesh;
            }
            let added = sealed(&made) - sealed(&part);
            assert!((added / add - 1.0).abs() < 0.05, "{outer} {inner} {n}: {added} instead of {add}");
            assert!(uneven(&made).is_empty(), "{outer} {inner} {n}: {:?}", uneven(&made));
        }
    }
}

#[test]
fn a_wall_that_was_cleaned_survives_single_precision() {
    let bell = nimbet_trade::demo::fog_bell();
    let closed = apply(json!({ "kind": "seal.plan" }), &bell, &[]).unwrap().mesh;
    let made = apply(json!({ "kind": "wall.thicken", "inward": 2 }), &closed, &[]).unwrap().mesh;
    sealed(&made);
    let corners: Vec<Point> =
        made.triangles().iter().flatten().map(|p| made.points()[*p as usize].as_vec3().as_dvec3()).collect();
    let read = nimbet_kernel::weld::weld_corners(&corners).unwrap();
    let seen = examine(&read, &Progress::unwatched()).unwrap().figures;
    assert_eq!((seen.state, seen.shells), (PartState::Sealed, 2), "{}", seen.reason);
}

/// The number of a sequence that fills 0 to 1 evenly.
fn halton(mut n: u32, base: u32) -> f64 {
    let (mut share, mut sum) = (1.0, 0.0);
    while n > 0 {
        share /= f64::from(base);
        sum += share * f64::from(n % base);
        n /= base;
    }
    sum
}

#[test]
fn a_frame_opened_on_any_side_keeps_its_wall_along_all_others() {
    let part = nimbet_trade::demo::coaming();
    let part = group_faces(part, Grouping { angle: 30.0, tolerance: 0.01 }, &Progress::unwatched()).unwrap();
    let part = apply(json!({ "kind": "shape.untangle" }), &part, &[]).unwrap().mesh;
    let wall = 3.0;
    // Inner faces of the frame too: what is moved out there runs towards the boards across.
    for open in [[80.0, 12.0, 10.0], [80.0, 0.0, 10.0], [12.0, 60.0, 10.0], [148.0, 60.0, 10.0]] {
        let at = Point::from_array(open);
        let distance = |p: Point, t: usize| nearest_on_triangle(p, part.corners(t)).distance(p);
        let opened = (0..part.triangles().len()).min_by(|a, b| distance(at, *a).total_cmp(&distance(at, *b))).unwrap();
        let is_open = |t: usize| part.face_of()[t] == part.face_of()[opened];
        for corners in ["sharp", "round"] {
            let step = json!({ "kind": "wall.shell", "wall": wall, "open": [open], "corners": corners });
            let made = apply(step, &part, &[]).unwrap_or_else(|e| panic!("{open:?} {corners}: {e}"));
            sealed(&made.mesh);
            let (before, after) = (Winding::new(&part), Winding::new(&made.mesh));
            let mut looked = 0;
            for n in 0..9000 {
                let p = Point::new(halton(n, 2) * 160.0, halton(n, 3) * 120.0, halton(n, 5) * 46.0 - 6.0);
                let to = |open: bool| {
                    (0..part.triangles().len())
                        .filter(|t| is_open(*t) == open)
                        .map(|t| distance(p, t))
                        .fold(f64::INFINITY, f64::min)
                };
                // Beside the opening its plane goes on as far as it was moved.
                let (closed, opening) = (to(false), to(true));
                if before.at(p) < 0.5 || (closed - wall).abs() < 0.2 || opening < wall * 1.5 {
                    continue;
                }
                // Sharp corners keep material beyond the distance.
                if corners == "sharp" && closed > wall && closed < wall * 1.8 {
                    continue;
                }
                looked += 1;
                assert_eq!(after.at(p) > 0.5, closed < wall, "{open:?} {corners} {p}: {closed} off a closed face");
            }
            assert!(looked > 500, "{looked}");
        }
    }
}

/// A number from 0 to 1 that follows from another.
fn chance(state: &mut u64) -> f64 {
    *state ^= *state << 13;
    *state ^= *state >> 7;
    *state ^= *state << 17;
    (*state >> 11) as f64 / (1u64 << 53) as f64
}

/// A sheet that is different for each number: waves, stretched unevenly so that triangles are slivers; fans of many triangles
/// round a point; pieces of balls.
fn random_sheet(n: u64) -> Mesh {
    let mut state = (n + 1).wrapping_mul(0x9E37_79B9_7F4A_7C15);
    let mut next = || chance(&mut state);
    if n / 8 % 4 == 3 {
        // A fan: up to 90 triangles round one point, at heights that jump.
        let round = 5 + (next() * 85.0) as u32;
        let mut points = vec![Point::Z * (next() * 20.0 - 10.0)];
        points.extend((0..round).map(|k| {
            let (y, x) = (f64::from(k) / f64::from(round) * 2.0 * PI).sin_cos();
            Point::new(x, y, 0.0) * (3.0 + 7.0 * next()) + Point::Z * (next() - 0.5) * 4.0
        }));
        let triangles = (0..round).map(|k| [0, 1 + k, 1 + (k + 1) % round]).collect();
        return Mesh::with_one_face(points, triangles).unwrap();
    }
    let (rows, columns) = (3 + (next() * 9.0) as u32, 3 + (next() * 9.0) as u32);
    let (high, fast, turn) = (next() * 8.0, 0.2 + next(), next() * 6.0);
    let uneven = 0.5 + next() * 3.0;
    let mut points = Vec::new();
    for i in 0..=rows {
        for j in 0..=columns {
            let x = (f64::from(i) / f64::from(rows)).powf(uneven) * 20.0;
            let y = f64::from(j) / f64::from(columns) * 15.0;
            points.push(Point::new(x, y, high * ((x * fast + turn).sin() * (y * fast).cos()) + next() * 0.5));
        }
    }
    let at = |i: u32, j: u32| i * (columns + 1) + j;
    let cells = (0..rows).flat_map(|i| (0..columns).map(move |j| (i, j)));
    let triangles = cells
        .flat_map(|(i, j)| [[at(i, j), at(i + 1, j), at(i + 1, j + 1)], [at(i, j), at(i + 1, j + 1), at(i, j + 1)]]);
    Mesh::with_one_face(points, triangles.collect()).unwrap()
}

/// Every sixteenth of two hundred; all take three minutes: `NIMBET_SHEETS=200`.
#[test]
fn sheets_of_all_sorts_become_solids_or_are_refused() {
    let many = std::env::var("NIMBET_SHEETS").ok().and_then(|n| n.parse().ok()).unwrap_or(12usize);
    let (mut solids, mut tried) = (0, 0);
    for n in (0..200).step_by(200 / many.clamp(1, 200)) {
        tried += 1;
        let sheet = random_sheet(n);
        let mut state = n + 77;
        let thick = 0.05 * 400f64.powf(chance(&mut state));
        let step = json!({
            "kind": "wall.thicken",
            "outward": if n % 3 == 0 { 0.0 } else { thick },
            "inward": if n % 3 == 1 { 0.0 } else { thick * 0.7 },
            "corners": if n / 8 % 2 == 0 { "sharp" } else { "round" },
            "chord": thick.max(1.0) * 0.03,
        });
        match apply(step.clone(), &sheet, &[]) {
            Ok(made) => {
                let figures = examine(&made.mesh, &Progress::unwatched()).unwrap().figures;
                assert_eq!(figures.state, PartState::Sealed, "{n} {step}: {}", figures.reason);
                solids += 1;
            }
            Err(TradeError::Refused { why, .. }) => assert!(!why.is_empty()),
            Err(other) => panic!("{n} {step}: {other}"),
        }
    }
    assert!(solids * 20 >= tried * 19, "{solids} of {tried}");
}

#[test]
fn a_sheet_like_a_gyroid_gets_a_wall_as_thick_as_its_pores() {
    let field = |p: Point| {
        let q = p * (2.0 * PI / 20.0);
        (q.x.sin() * q.y.cos() + q.y.sin() * q.z.cos() + q.z.sin() * q.x.cos()) * 3.0
    };
    let slope = |p: Point| {
        let step = 1e-3;
        [Point::X, Point::Y, Point::Z].map(|way| (field(p + way * step) - field(p - way * step)) / (2.0 * step))
    };
    let bounds = nimbet_kernel::Aabb { min: Point::splat(-12.0), max: Point::splat(12.0) };
    let inside = |p: Point| {
        let outside = p.abs().max_element() - 11.0;
        if outside > field(p) {
            (outside, Point::X)
        } else {
            (field(p), Point::from_array(slope(p)).normalize_or_zero())
        }
    };
    let skin = nimbet_kernel::wrap::level_skin(&bounds, 1.0, &inside, &Progress::unwatched()).unwrap();
    let sheet = skin.retain_triangles(|t| skin.corners(t).iter().all(|p| p.abs().max_element() < 10.5));
    assert!(sheet.triangles().len() > 2000);
    for thick in [0.8, 6.0] {
        let step = json!({ "kind": "wall.thicken", "outward": thick * 0.5, "inward": thick * 0.5 });
        let made = apply(step, &sheet, &[]).unwrap_or_else(|e| panic!("{thick}: {e}"));
        sealed(&made.mesh);
    }
}

/// How two parts stand to each other, the second of them called Pin.
fn pair(a: &Mesh, b: &Mesh, asked: f64) -> PairReport {
    let quiet = Progress::unwatched();
    let state = |m: &Mesh| examine(m, &quiet).unwrap().figures.state;
    pair_report((a, state(a)), (b, state(b)), (2, "Pin"), asked, &quiet).unwrap()
}

#[test]
fn parts_that_overlap_or_stand_too_near_are_found_with_the_place() {
    use FindingKind::{Overlap, TooClose};
    let at = |mesh: Mesh, x: f64, y: f64, z: f64| mesh.map_points(|p| p + Point::new(x, y, z)).unwrap();
    let cuboid = |at, size| nimbet_kernel::shapes::block(Point::from_array(at), Point::from_array(size));
    let kinds = |report: &PairReport| report.findings.iter().map(|f| f.kind).collect::<Vec<_>>();
    // A pin of 10 in a bore of 10.4: 0.2 all round, but for the facets.
    let ring = body(json!({ "drum": { "diameter": 20.0, "height": 8.0, "bore": 10.4 } }));
    let pin = body(json!({ "drum": { "diameter": 10.0, "height": 30.0 } }));
    let loose = pair(&ring, &pin, 0.15);
    assert!(loose.findings.is_empty() && loose.shared == Some(0.0), "{loose:?}");
    assert!((loose.least.unwrap() - 0.2).abs() < 0.03);
    let tight = pair(&ring, &pin, 0.3);
    assert_eq!(kinds(&tight), [TooClose]);
    let area: f64 = tight.findings[0].size.split("on ").nth(1).unwrap().split(' ').next().unwrap().parse().unwrap();
    assert!((area / (PI * 10.4 * 8.0) - 1.0).abs() < 0.05, "the wall of the bore, {area} mm²");
    // Set aside by 0.5 it is on one side in the wall, and near on both flanks of that.
    let aside = pair(&ring, &at(pin.clone(), 0.5, 0.0, 0.0), 0.0);
    assert_eq!((kinds(&aside), aside.least), (vec![Overlap], Some(0.0)));
    let [r, s, d] = [5.0f64, 5.2, 0.5];
    // What of a circle of radius r lies outside one of radius s, their middles d apart.
    let (a, b) = (((d * d + r * r - s * s) / (2.0 * d * r)).acos(), ((d * d + s * s - r * r) / (2.0 * d * s)).acos());
    let lens = r * r * a + s * s * b - d * s * b.sin();
    let shared = (PI * r * r - lens) * 8.0;
    assert!((aside.shared.unwrap() / shared - 1.0).abs() < 0.05, "{:?} is not {shared}", aside.shared);
    assert!(aside.findings[0].place.centre[0] > 3.0, "{:?}", aside.findings[0].place);
    // Its remedy takes away what they share, and no more.
    let remedy = &aside.findings[0].remedies[0].operation;
    let cleared = remedy.apply(&ring, &[at(pin.clone(), 0.5, 0.0, 0.0)], &Progress::unwatched()).unwrap().mesh;
    near(sealed(&ring) - sealed(&cleared), aside.shared.unwrap(), 1e-5);
    // Two blocks through a third overlap it in two places; one that only touches shares nothing; within, all is shared.
    let fork = {
        let two = [cuboid([1.0, 1.0, -5.0], [2.0, 2.0, 20.0]), cuboid([6.0, 1.0, -5.0], [2.0, 2.0, 20.0])];
        apply(json!({ "kind": "shape.union", "with": [2] }), &two[0], &two[1..]).unwrap().mesh
    };
    let plate = cuboid([0.0, 0.0, 0.0], [10.0, 4.0, 3.0]);
    let through = pair(&plate, &fork, 0.0);
    assert_eq!((kinds(&through), through.shared), (vec![Overlap, Overlap], Some(24.0)));
    let touching = pair(&plate, &cuboid([2.0, 1.0, 3.0], [1.0, 1.0, 1.0]), 0.5);
    assert_eq!((kinds(&touching), touching.shared), (vec![TooClose], Some(0.0)));
    assert!(touching.findings[0].size.starts_with("touching instead of 0.5 mm"));
    near(pair(&plate, &cuboid([2.0, 1.0, 1.0], [1.0, 1.0, 1.0]), 0.0).shared.unwrap(), 1.0, 1e-12);
    // What was cut by a part touches it and shares nothing with it, facets, single precision and all.
    let single = |m: Mesh| m.map_points(|p| p.as_vec3().as_dvec3()).unwrap();
    let [deck, leaf] = [nimbet_trade::demo::deck_plate(), nimbet_trade::demo::hinge_leaf()].map(single);
    let away = json!({ "kind": "shape.difference", "with": [2], "keep": true });
    let away: Operation = serde_json::from_value(away).unwrap();
    let (quiet, leaves) = (Progress::unwatched(), std::slice::from_ref(&leaf));
    let seen = examine(&deck, &quiet).unwrap();
    for cut in [away.apply(&deck, leaves, &quiet), away.apply_to_seen(&deck, &seen, leaves, &quiet)] {
        let beside = pair(&cut.unwrap().mesh, &leaf, 0.0);
        assert!(beside.findings.is_empty(), "{:?}", beside.findings);
    }
    // Of an open part it can only be told how near it comes.
    let open = plate.retain_triangles(|t| t != 0);
    let near = pair(&plate, &at(open, 0.0, 0.0, 3.2), 0.3);
    assert_eq!((kinds(&near), near.shared), (vec![TooClose], None));
    assert!((near.least.unwrap() - 0.2).abs() < 1e-9);
    let quiet = Progress::unwatched();
    let sealed = PartState::Sealed;
    assert!(pair_report((&plate, sealed), (&ring, sealed), (2, "Pin"), f64::NAN, &quiet).is_err());
    // Drawn: as far as it is, and nought inside.
    let (drawn, off) = clearance_drawing(&cuboid([8.0, 1.0, 1.0], [4.0, 1.0, 1.0]), &plate, &quiet).unwrap();
    for (p, off) in drawn.points().iter().zip(off) {
        assert!((off - (p.x - 10.0).max(0.0)).abs() < 0.05, "{p}: {off}");
    }
}
