//! What a way of making cannot make, and roundings made anew.

use super::*;

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
            apply(step, &Mesh::default(), &[]).unwrap().more.remove(0).mesh
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
fn sharp_inner_corners_and_tight_roundings_go_by_one_step() {
    let at = |x: f64, y: f64, z: f64| nimbet_kernel::Point::new(x, y, z);
    let plate = nimbet_kernel::shapes::block(at(0.0, 0.0, 0.0), at(60.0, 50.0, 20.0));
    let pocket = nimbet_kernel::shapes::block(at(15.0, 12.0, 8.0), at(30.0, 26.0, 20.0));
    let part = apply(json!({ "kind": "shape.difference", "with": [2] }), &plate, &[pocket]).unwrap().mesh;
    let part = apply(json!({ "kind": "seal.group_faces" }), &part, &[]).unwrap().mesh;
    let found = found_by(&part, "investment-bronze");
    assert_eq!(kinds(&found), [FindingKind::InnerCorner]);
    for remedy in &found[0].finding.remedies {
        let made = remedy.operation.apply(&part, &[], &Progress::unwatched()).unwrap().mesh;
        assert!(!kinds(&found_by(&made, "investment-bronze")).contains(&FindingKind::InnerCorner), "{}", remedy.label);
        assert!(sealed(&made) > sealed(&part));
    }
    // A rounding that is too tight is made anew.
    let step = json!({ "kind": "shape.round", "on": { "edges": [[15.0, 25.0, 8.0]] }, "radius": 0.1, "chord": 0.002 });
    let tight = apply(step, &part, &[]).unwrap().mesh;
    let found = found_by(&tight, "investment-bronze");
    let tight_one = found.iter().find(|f| f.finding.size.starts_with("radius")).unwrap();
    let remedy = &tight_one.finding.remedies[0];
    let made = remedy.operation.apply(&tight, &[], &Progress::unwatched()).unwrap().mesh;
    assert!(
        found_by(&made, "investment-bronze").iter().all(|f| !f.finding.size.starts_with("radius")),
        "{}",
        remedy.label
    );
}

#[test]
fn what_a_mould_cannot_hold_at_parts_of_the_demo_goes_by_one_step() {
    let quiet = Progress::unwatched();
    let silver = |part: &Mesh| found_by(part, "investment-silver");
    for wanted in ["Coaming", "Strainer cup", "Hinge leaf", "Filler neck", "Filler cap"] {
        let (_, part) = nimbet_trade::demo::parts().into_iter().find(|(name, _)| *name == wanted).unwrap();
        // As it comes in, or as the plan seals it.
        let part = apply(json!({ "kind": "seal.plan" }), &part, &[]).map_or(part, |sealed| sealed.mesh);
        let grouped = nimbet_kernel::surfaces::part_faces(part, |_| 0);
        let part = apply(json!({ "kind": "seal.group_faces" }), &grouped, &[]).map_or(grouped, |done| done.mesh);
        let found = silver(&part);
        assert!(
            !found.is_empty() && kinds(&found).iter().all(|k| *k == FindingKind::InnerCorner),
            "{wanted}: {found:?}"
        );
        let all = &found[0].finding.remedies[1];
        let made = all.operation.apply(&part, &[], &quiet).unwrap_or_else(|e| panic!("{wanted}: {}: {e}", all.label));
        assert!(made.left.is_empty(), "{wanted}: {:?}", made.left);
        let left = silver(&made.mesh);
        assert!(left.is_empty(), "{wanted}: {left:?}");
    }
}

#[test]
fn a_corner_within_a_face_is_parted_first_and_rounded_then() {
    let pin = body(json!({ "drum": { "diameter": 6.0, "height": 9.0 } }));
    let part = apply(json!({ "kind": "shape.union", "with": [2] }), &block(20.0, 20.0, 4.0), &[pin]).unwrap().mesh;
    // All of it is one face, as of a file that knows no faces and was not asked for them.
    let mut part = part.regroup(|_| nimbet_kernel::FaceId(0));
    for wanted in ["Part the face there first", "Round it by 0.5 mm"] {
        let found = found_by(&part, "investment-bronze");
        assert_eq!(kinds(&found), [FindingKind::InnerCorner], "{found:?}");
        let remedy = &found[0].finding.remedies[0];
        assert_eq!(remedy.label, wanted);
        part = remedy.operation.apply(&part, &[], &Progress::unwatched()).unwrap().mesh;
    }
    assert_eq!(kinds(&found_by(&part, "investment-bronze")), []);
}
