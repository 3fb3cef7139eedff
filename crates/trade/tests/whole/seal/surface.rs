//! Windings, shells, what is lifted out, the gallery as a whole.

use super::*;

#[test]
fn windings_agree_after_the_step_and_a_twisted_band_is_refused() {
    let mut block = block(Point::ZERO, 4.0);
    block.reverse_triangles(|t| t % 5 == 0);
    let outcome = apply(&block, Operation::of(AgreeWindings {})).unwrap();
    assert_eq!(volume(&outcome.mesh), 64.0);
    assert!(matches!(
        apply(&moebius_band(), Operation::of(AgreeWindings {})),
        Err(TradeError::Refused { places, .. }) if places.len() == 1
    ));
}

#[test]
fn nested_shells_turn_by_parity() {
    // A body, a void in it, a body in the void: outward, inward, outward, however they come in.
    for turned in 0..8u32 {
        let shells = [(0.0, 30.0), (5.0, 20.0), (8.0, 10.0)];
        let mut soup = vec![];
        for (i, (at, size)) in shells.into_iter().enumerate() {
            let mut shell = block(Point::splat(at), size);
            shell.reverse_triangles(|_| turned >> i & 1 == 1);
            soup.extend(corners(&shell));
        }
        let mesh = weld(&soup);
        let mesh = apply(&mesh, Operation::of(TurnOutward {})).map_or(mesh, |o| o.mesh);
        assert_eq!(volume(&mesh), 27_000.0 - 8_000.0 + 1_000.0);
    }
}

#[test]
fn dropping_a_needle_between_two_triangles_opens_nothing() {
    let outcome = apply(&needle_block(), Operation::of(Drop { degenerate: true, ..Default::default() })).unwrap();
    let after = look(&outcome.mesh);
    assert_eq!((after.figures.state, after.figures.degenerate), (PartState::Sealed, 0));
    assert_eq!(after.figures.volume, Some(64.0));
}

#[test]
fn steps_with_senseless_parameters_are_refused() {
    let ring = demo::porthole_ring();
    for reach in [0.0, -1.0, f64::NAN, f64::INFINITY] {
        assert!(matches!(apply(&ring, close(reach)), Err(TradeError::Refused { .. })));
    }
    assert!(matches!(apply(&ring, Operation::of(Drop::default())), Err(TradeError::Refused { .. })));
    let below = Drop { specks_below: Some(0.0), ..Default::default() };
    assert!(matches!(apply(&ring, Operation::of(below)), Err(TradeError::Refused { .. })));
}

#[test]
fn cancelling_stops_every_step() {
    let progress = Progress::unwatched();
    progress.cancel();
    for operation in [close(0.1), cover(CoverStyle::Taut), plan()] {
        assert!(matches!(operation.apply(&demo::porthole_ring(), &[], &progress), Err(TradeError::Cancelled(_))));
    }
    assert!(examine(&demo::vent_cowl(), &progress).is_err());
}

#[test]
fn every_mesh_of_the_gallery_ends_as_told_and_the_plan_is_idempotent() {
    for entry in gallery() {
        let before = look(&entry.mesh);
        assert_eq!(before.figures.state, entry.before, "before, {}: {}", entry.name, before.figures.reason);
        let planned = apply(&entry.mesh, plan());
        let mesh = match planned {
            Ok(outcome) => outcome.mesh,
            Err(TradeError::NothingToDo { .. }) => entry.mesh.clone(),
            Err(other) => panic!("{}: {other}", entry.name),
        };
        let after = look(&mesh);
        assert_eq!(
            after.figures.state, entry.after,
            "after, {}: {} {:?}",
            entry.name, after.figures.reason, after.rims
        );
        if let Some(volume) = entry.volume {
            let got = after.figures.volume.unwrap_or(f64::NAN);
            assert!((got / volume - 1.0).abs() < 1e-9, "{}: {got} is not {volume}", entry.name);
        }
        match apply(&mesh, plan()) {
            Err(TradeError::NothingToDo { .. }) => {}
            Ok(again) => panic!("{}: the plan did more when run again: {:?}", entry.name, again.done),
            Err(other) => panic!("{}: {other}", entry.name),
        }
    }
}

/// A closed cylinder cut in two along a wavy line, the halves cut into triangles separately and moved apart by `gap`.
fn cut_cylinder(below: usize, above: usize, gap: f64, waves: usize, tilt: f64) -> Mesh {
    let (radius, height) = (10.0, 15.0);
    let wave = |a: f64| height * 0.5 + 1.5 * (waves as f64 * a).sin();
    let mut soup = vec![];
    let mut half = |n: usize, lift: f64, lower: bool| {
        let at = |k: usize, z: &dyn Fn(f64) -> f64| {
            let a = (k % n) as f64 / n as f64 * TAU;
            Point::new(radius * a.cos(), radius * a.sin(), z(a))
        };
        let end = if lower { 0.0 } else { height };
        let rows = 4;
        for k in 0..n {
            let row = |r: usize, k: usize| {
                let t = r as f64 / rows as f64;
                let p = at(k, &|a| end + (wave(a) + lift - end) * t);
                p + Point::Z * (tilt * t * lift * p.x / radius)
            };
            for r in 0..rows {
                let (a, b, c, d) = (row(r, k), row(r, k + 1), row(r + 1, k + 1), row(r + 1, k));
                if lower { soup.extend([a, b, c, a, c, d]) } else { soup.extend([a, c, b, a, d, c]) }
            }
            let (a, b, centre) = (row(0, k), row(0, k + 1), Point::Z * end);
            if lower { soup.extend([centre, b, a]) } else { soup.extend([centre, a, b]) }
        }
    };
    half(below, -gap * 0.5, true);
    half(above, gap * 0.5, false);
    weld(&soup)
}

#[test]
fn patches_lifted_out_of_a_torus_are_skinned_again_to_nearly_its_volume() {
    let torus = torus();
    let theory = volume(&torus);
    let dab = |x: f64, y: f64, z: f64, radius| Dab { near: [x, y, z], radius };
    // On the outer side, on top, and on the inner side, where the surface is a saddle.
    let dabs = vec![dab(40.0, 0.0, 0.0, 6.0), dab(-30.0, 0.0, 10.0, 5.0), dab(0.0, 20.0, 0.0, 5.0)];
    let what = LiftChoice::Brush(dabs);
    let open = apply(&torus, Operation::of(LiftOut { what: what.clone(), rings: 0 })).unwrap();
    let seen = look(&open.mesh);
    assert_eq!((seen.rims.len(), seen.figures.touch_points), (3, 0));
    let outcome = apply(&torus, Operation::of(ReSkin { what, rings: 1, may_cross: false })).unwrap();
    assert!((volume(&outcome.mesh) / theory - 1.0).abs() < 0.005, "{} against {theory}", volume(&outcome.mesh));
    // Every point of the new skin lies near the torus.
    let off = |p: &Point| ((p.truncate().length() - 30.0).hypot(p.z) - 10.0).abs();
    let worst = outcome.mesh.points().iter().map(off).fold(0.0, f64::max);
    assert!(worst < 0.5, "off by {worst}");
}

#[test]
fn lifting_out_takes_faces_leaves_other_rims_alone_and_refuses_to_take_all() {
    let (points, triangles, _) = block(Point::ZERO, 4.0).into_parts();
    // Two faces: the top (z = 4) and the rest.
    let face =
        triangles.iter().map(|t| t.iter().all(|p| points[*p as usize].z == 4.0)).map(|top| FaceId(u32::from(top)));
    let faces: Vec<FaceId> = face.collect();
    let mesh = Mesh::new(points, triangles, faces).unwrap();
    let lift = |mesh: &Mesh, at| {
        apply(mesh, Operation::of(LiftOut { what: LiftChoice::Faces(vec![FacePick::At(at)]), rings: 0 }))
    };
    let open = lift(&mesh, [2.0, 1.0, 4.0]).unwrap().mesh;
    assert_eq!(look(&open).rims[0].edges, 4);
    assert!(matches!(lift(&open, [2.0, 1.0, 4.0]), Err(TradeError::NeedsNewPick { .. })));
    assert!(matches!(lift(&open, [2.0, 1.0, 0.0]), Err(TradeError::Refused { .. })), "nothing would be left");
    // A torn ball: the rim that was there before is not covered.
    let ball = nimbet_kernel::shapes::ball(10.0, 24).retain_triangles(|t| t > 40);
    let what = LiftChoice::Brush(vec![Dab { near: [10.0, 0.0, 0.0], radius: 3.0 }]);
    let outcome = apply(&ball, Operation::of(ReSkin { what, rings: 0, may_cross: false })).unwrap();
    assert_eq!(look(&outcome.mesh).rims.len(), look(&ball).rims.len());
    let none = LiftOut { what: LiftChoice::Tangles, rings: 0 };
    assert!(matches!(apply(&ball, Operation::of(none)), Err(TradeError::NothingToDo { .. })));
}

#[test]
fn a_folded_bend_can_be_untangled_or_skinned_anew() {
    let tube = bent_tube(6.0);
    let finding = look(&tube).findings.into_iter().find(|f| f.key == "tangle-X1").unwrap();
    assert_eq!(finding.remedies[0].label, "Untangle the part");
    for remedy in &finding.remedies[..2] {
        let outcome = apply(&tube, remedy.operation.clone()).unwrap();
        let after = look(&outcome.mesh).figures;
        assert_eq!(after.crossing_pairs + after.naked_edges, 0, "{}: {}", remedy.label, after.reason);
    }
}

#[test]
fn two_halves_of_a_cylinder_are_bridged_to_a_solid_whichever_way_they_face() {
    // 3 mm of the wall are missing between wavy rims of 70 and 110 edges.
    let mut cut = cut_cylinder(70, 110, 3.0, 3, 0.0);
    let half = volume(&apply(&cut, plan()).unwrap().mesh);
    for turned in [false, true] {
        if turned {
            let lower = 70 * 9;
            cut.reverse_triangles(|t| t >= lower);
        }
        let finding = look(&cut).findings.into_iter().find(|f| f.key == "rim-R1").unwrap();
        let bridge = finding.remedies.into_iter().find(|r| r.label == "Bridge R1 and R2").unwrap();
        let outcome = apply(&cut, bridge.operation).unwrap();
        assert_eq!((outcome.largest_move, outcome.left.len()), (0.0, usize::from(turned)));
        let solid = if turned { apply(&outcome.mesh, plan()).unwrap().mesh } else { outcome.mesh };
        let whole = TAU / 2.0 * 100.0 * 15.0;
        assert!((volume(&solid) / whole - 1.0).abs() < 0.01 && volume(&solid) > half, "{}", volume(&solid));
    }
    let rims = look(&cut).rims;
    let side = || BridgeSide::Rim(rims[0].pick.clone());
    let same = Bridge { from: side(), to: side(), shape: BridgeShape::Straight, may_cross: false };
    assert!(matches!(apply(&cut, Operation::of(same)), Err(TradeError::Refused { places, .. }) if places.len() == 1));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Two runs with different points, a wavy seam: it closes, and nothing moves farther than half the reach.
    #[test]
    fn wavy_seams_close_within_half_the_reach(
        below in 60usize..140, above in 60usize..140, waves in 0usize..4, gap in 0.0f64..0.05, tilt in 0.0f64..0.8,
        turned in any::<bool>(),
    ) {
        let mut cut = cut_cylinder(below, above, gap, waves, tilt);
        if turned {
            let top: Vec<bool> = (0..cut.triangles().len()).map(|t| cut.corners(t).iter().any(|p| p.z > 10.0)).collect();
            let upper = (0..top.len()).find(|&t| top[t]).unwrap();
            // The upper half is one shell; turn all of it.
            cut.reverse_triangles(|t| t >= upper.min(below * 9));
        }
        let reach = 0.35;
        let outcome = apply(&cut, close(reach)).unwrap();
        prop_assert!(outcome.largest_move <= reach * 0.5 * (1.0 + 1e-6), "moved {}", outcome.largest_move);
        let after = look(&outcome.mesh);
        prop_assert_eq!(after.figures.naked_edges, 0, "{} {:?}", after.figures.reason, after.rims);
        prop_assert_eq!(after.figures.crowded_edges, 0);
        let solid = if turned { apply(&outcome.mesh, plan()).unwrap().mesh } else { outcome.mesh };
        let after = look(&solid);
        prop_assert_eq!(after.figures.state, PartState::Sealed, "{}", after.figures.reason);
    }

    /// No remedy that is offered for a finding makes more edges of three than there were, nor more tangles.
    #[test]
    fn no_remedy_makes_things_worse(
        ints in proptest::collection::vec((-4i8..4, -4i8..4, -4i8..4), 6..16),
        triangles in proptest::collection::vec((0usize..16, 0usize..16, 0usize..16), 1..20),
    ) {
        let at = |i: usize| { let (x, y, z) = ints[i % ints.len()]; Point::new(x.into(), y.into(), z.into()) };
        let soup: Vec<Point> = triangles.iter().flat_map(|&(a, b, c)| [at(a), at(b), at(c)]).collect();
        let mesh = weld(&soup);
        let before = look(&mesh);
        for remedy in before.findings.iter().flat_map(|f| &f.remedies) {
            let Ok(outcome) = apply(&mesh, remedy.operation.clone()) else { continue };
            let after = look(&outcome.mesh).figures;
            prop_assert!(after.crowded_edges <= before.figures.crowded_edges, "{}: edges of three", remedy.label);
            // What crosses between the sides of a gap counts as a tangle once the gap is gone.
            let in_gaps = before.figures.crossing_in_gaps > 0;
            prop_assert!(in_gaps || after.tangles <= before.figures.tangles, "{}: {} tangles, {} before", remedy.label, after.tangles, before.figures.tangles);
        }
    }

    /// A cover closes its rim and adds no other naked edge, whatever the rim looks like.
    #[test]
    fn covers_add_no_naked_edge(
        heights in proptest::collection::vec(-2.0f64..2.0, 5..60), radius in 3.0f64..9.0,
        angle in 0.0f64..6.0, far in -500.0f64..500.0,
    ) {
        let n = heights.len();
        let turn = glam::DQuat::from_axis_angle(Point::new(0.6, 0.0, 0.8), angle);
        let at = |k: usize, r: f64, z: f64| {
            let a = (k % n) as f64 / n as f64 * TAU;
            turn * Point::new(r * a.cos(), r * a.sin(), z) + Point::splat(far)
        };
        let mut soup = vec![];
        for k in 0..n {
            let (low, high) = (heights[k], heights[(k + 1) % n]);
            let (a, b, c, d) = (at(k, radius, low), at(k + 1, radius, high), at(k + 1, radius, 8.0), at(k, radius, 8.0));
            soup.extend([a, b, c, a, c, d]);
        }
        let cup = weld(&soup);
        let lower = look(&cup).rims.into_iter().filter(|r| !r.flat).collect::<Vec<_>>();
        prop_assume!(lower.len() == 1);
        let before = look(&cup).figures;
        let step = CoverRim { rims: RimChoice::Picked(vec![lower[0].pick.clone()]), style: CoverStyle::Taut, ..Default::default() };
        let outcome = apply(&cup, Operation::of(step)).unwrap();
        let after = look(&outcome.mesh).figures;
        prop_assert_eq!(after.naked_edges, before.naked_edges - n);
        prop_assert_eq!(after.clashing_edges + after.crowded_edges, 0);
        let solid = apply(&outcome.mesh, cover(CoverStyle::Flat)).unwrap();
        prop_assert_eq!(look(&solid.mesh).figures.naked_edges, 0);
    }
}

proptest! {
    // Each soup is a plan with several arrangements.
    #![proptest_config(ProptestConfig::with_cases(12))]

    /// Whatever the soup, the plan ends closed or says what is left, and run again does nothing.
    #[test]
    fn the_plan_is_honest_about_any_soup(
        ints in proptest::collection::vec((-4i8..4, -4i8..4, -4i8..4), 6..20),
        triangles in proptest::collection::vec((0usize..20, 0usize..20, 0usize..20), 1..24),
    ) {
        let at = |i: usize| { let (x, y, z) = ints[i % ints.len()]; Point::new(x.into(), y.into(), z.into()) };
        let soup: Vec<Point> = triangles.iter().flat_map(|&(a, b, c)| [at(a), at(b), at(c)]).collect();
        let mesh = weld(&soup);
        let before = look(&mesh).figures;
        match apply(&mesh, plan()) {
            Ok(outcome) => {
                let after = look(&outcome.mesh).figures;
                prop_assert!(after.crowded_edges <= before.crowded_edges);
                // Closing gaps and dropping needles divides triangles, and with them the pairs that cross.
                let divided = [PlanStage::CloseGaps, PlanStage::Drop];
                let closed = outcome.plan.iter().any(|s| divided.contains(&s.stage) && !s.done.is_empty());
                let crossing = |f: &Figures| f.crossing_pairs + f.crossing_in_gaps;
                prop_assert!(closed || crossing(&after) <= crossing(&before), "{:?}", outcome.plan);
                prop_assert!(after.state == PartState::Sealed || !outcome.left.is_empty());
                prop_assert!(after.state == PartState::Sealed || before.state != PartState::Sealed);
            }
            Err(TradeError::NothingToDo { .. }) => {}
            Err(other) => prop_assert!(false, "{other}"),
        }
    }
}
