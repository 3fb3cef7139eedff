//! Gaps and rims.

use super::*;

#[test]
fn the_porthole_ring_closes_with_a_reach_of_its_widest_seam() {
    let ring = demo::porthole_ring();
    let outcome = apply(&ring, close(0.088)).unwrap();
    let after = look(&outcome.mesh);
    assert_eq!(after.figures.state, PartState::Sealed, "{} {:?}", after.figures.reason, after.rims);
    assert!(outcome.largest_move <= 0.044, "{}", outcome.largest_move);
    // Pappus: the section's area times the way of its centroid.
    let section = 22.0 * 16.0 - 2.0 * 4.5 - 2.0 * 0.5 * 25.0;
    let estimate = section * TAU * 73.0;
    assert!((after.figures.volume.unwrap() - estimate).abs() < 0.01 * estimate);
    assert!(after.findings.is_empty(), "{:?}", after.findings);
}

#[test]
fn new_surface_that_would_pass_through_the_part_is_refused_with_the_place_unless_asked_for() {
    // A bar through the opening of a cup, and a cup beside it.
    let cup = shapes::turned(&[(0.0, 0.0), (5.0, 0.0), (5.0, 6.0)], 32);
    let bar = shapes::block(Point::new(-1.0, -1.0, 3.0), Point::new(2.0, 2.0, 9.0));
    let beside = cup.clone().map_points(|p| p + Point::X * 20.0).unwrap();
    let mesh = weld(&[cup, bar, beside].iter().flat_map(corners).collect::<Vec<_>>());
    let rims = look(&mesh).rims;
    let at = |x: f64| rims.iter().find(|r| (r.centre[0] - x).abs() < 1e-9).unwrap().pick.clone();
    let picked = |x: f64, may_cross| {
        Operation::of(CoverRim {
            rims: RimChoice::Picked(vec![at(x)]),
            style: CoverStyle::Flat,
            may_cross,
            ..Default::default()
        })
    };
    let Err(TradeError::Refused { why, places }) = apply(&mesh, picked(0.0, false)) else { panic!("not refused") };
    assert!(why.contains("would pass through the part"), "{why}");
    assert!(
        !places.is_empty() && places.iter().all(|p| (p.z - 6.0).abs() < 1e-9 && p.x.hypot(p.y) < 5.0),
        "{places:?}"
    );
    let crossed = look(&apply(&mesh, picked(0.0, true)).unwrap().mesh).figures;
    assert_eq!((crossed.tangles, crossed.rims), (1, 1));
    // Of all rims the one whose cover stays clear is covered, and the other is told.
    let outcome = apply(&mesh, cover(CoverStyle::Flat)).unwrap();
    assert_eq!((look(&outcome.mesh).figures.rims, outcome.left.len()), (1, 1), "{:?}", outcome.left);
    assert!(outcome.left[0].contains("left open: the cover would pass through the part"), "{:?}", outcome.left);
}

#[test]
fn a_reach_too_small_closes_what_it_can_and_tells_what_the_rest_needs() {
    let ring = demo::porthole_ring();
    let outcome = apply(&ring, close(0.05)).unwrap();
    let after = look(&outcome.mesh);
    assert_eq!(after.gaps.len(), 2, "the seams of 0.06 and 0.08 mm stay");
    assert_eq!(outcome.left.len(), 1);
    let Err(TradeError::Refused { why, places }) = apply(&outcome.mesh, close(0.05)) else { panic!("closed more") };
    assert!(why.contains("reach of 0.0"), "{why}");
    assert_eq!(places.len(), 1);
}

#[test]
fn gaps_left_out_stay_as_they_are_and_the_others_close() {
    let ring = demo::porthole_ring();
    let before = look(&ring);
    let close = |leave| apply(&ring, Operation::of(CloseGaps { reach: 0.1, leave }));
    let outcome = close(vec![before.gaps[1].pick.clone()]).unwrap();
    let after = look(&outcome.mesh);
    assert_eq!((after.gaps.len(), outcome.left.len()), (1, 0));
    assert_eq!(after.gaps[0].place, before.gaps[1].place, "not a point of it has moved");
    let all: Vec<_> = before.gaps.iter().map(|g| g.pick.clone()).collect();
    let only_junction = close(all).unwrap();
    assert_eq!((look(&only_junction.mesh).gaps.len(), look(&only_junction.mesh).rims.len()), (4, 8));
    let mut gone = before.gaps[0].pick.clone();
    gone.near[2] += 50.0;
    assert!(matches!(close(vec![gone]), Err(TradeError::NeedsNewPick { .. })));
}

#[test]
fn a_domed_cover_continues_a_ball_and_its_height_can_be_asked_for() {
    let ball = nimbet_kernel::shapes::ball(50.0, 40);
    let theory = volume(&ball);
    let open = ball.retain_triangles(|t| ball.corners(t).iter().any(|p| p.z < 35.0));
    let step = |height| {
        let step = CoverRim { rims: RimChoice::All, style: CoverStyle::Domed, height, ..Default::default() };
        apply(&open, Operation::of(step)).unwrap().mesh
    };
    let natural = step(None);
    assert!((volume(&natural) / theory - 1.0).abs() < 0.002, "{} against {theory}", volume(&natural));
    let top = |m: &Mesh| m.points().iter().map(|p| p.z).fold(0.0, f64::max);
    assert!((top(&natural) - 50.0).abs() < 0.5, "within 1 % of the radius: {}", top(&natural));
    let rim = look(&open).rims[0].centre[2];
    assert!((top(&step(Some(4.0))) - rim - 4.0).abs() < 1e-9);
    assert!(volume(&step(Some(-4.0))) < volume(&step(Some(0.0))));
}

#[test]
fn a_domed_cover_of_a_long_rim_continues_a_ball_of_slender_triangles() {
    for segments in [400, 3000] {
        let arc: Vec<(f64, f64)> = (0..=60)
            .map(|k| std::f64::consts::PI * (1.0 - 0.75 * f64::from(k) / 60.0))
            .map(|a| (50.0 * a.sin().max(0.0), 50.0 * a.cos()))
            .collect();
        let profile: Vec<(f64, f64)> = std::iter::once((0.0, -50.0)).chain(arc.into_iter().skip(1)).collect();
        let open = nimbet_kernel::shapes::turned(&profile, segments);
        let step = CoverRim { rims: RimChoice::All, style: CoverStyle::Domed, ..Default::default() };
        let closed = apply(&open, Operation::of(step)).unwrap().mesh;
        assert_eq!(look(&closed).figures.state, PartState::Sealed, "{:?}", look(&closed).tangles);
        let off = closed.points().iter().map(|p| (p.length() - 50.0).abs()).fold(0.0, f64::max);
        assert!(off < 0.5, "within 1 % of the radius, is off by {off} with {segments}");
    }
}

#[test]
fn the_vent_cowl_is_covered_flat_below_and_taut_above() {
    let cowl = demo::vent_cowl();
    let flat = apply(&cowl, cover(CoverStyle::Flat)).unwrap();
    assert_eq!(look(&flat.mesh).rims.len(), 1);
    assert_eq!(flat.left.len(), 1);
    let both = apply(&flat.mesh, cover(CoverStyle::Taut)).unwrap();
    let after = look(&both.mesh);
    assert_eq!(after.figures.state, PartState::Sealed, "{}", after.figures.reason);
    assert_eq!(both.largest_move, 0.0);
    let pick = RimPick { near: [42.0, 0.0, 0.0], length: 42.0 * TAU, lies: None };
    let gone =
        Operation::of(CoverRim { rims: RimChoice::Picked(vec![pick]), style: CoverStyle::Flat, ..Default::default() });
    assert!(matches!(apply(&both.mesh, gone), Err(TradeError::NeedsNewPick { .. })));
}

#[test]
fn the_mooring_buoy_turns_its_void_and_weighs_what_theory_says() {
    let outcome = apply(&demo::mooring_buoy(), Operation::of(TurnOutward {})).unwrap();
    let v = volume(&outcome.mesh);
    // Two half ellipsoids outside less two inside; 80 × 40 facets lose about 0.4 %.
    let pear = |wall: f64| TAU / 3.0 * (70.0 - wall).powi(2) * (70.0 - wall + 110.0 - wall);
    let theory = pear(0.0) - pear(6.0);
    assert!((v / theory - 1.0).abs() < 0.006, "{v} against {theory}");
    let void = look(&outcome.mesh).findings;
    assert_eq!(void.len(), 1);
    assert_eq!(void[0].kind, FindingKind::Void);
}

#[test]
fn a_flat_cover_leaves_islands_open_inside() {
    // A square tube: its two end faces are square rings between an outer and an inner rim.
    let tube = square_tube();
    assert_eq!(look(&tube).rims.len(), 4);
    let outcome = apply(&tube, cover(CoverStyle::Flat)).unwrap();
    assert_eq!(volume(&outcome.mesh), 10.0 * 10.0 * 20.0 - 6.0 * 6.0 * 20.0);
}

#[test]
fn a_flat_cover_of_a_rim_that_is_not_flat_is_refused_with_the_place() {
    let cowl = demo::vent_cowl();
    let wavy = look(&cowl).rims.into_iter().find(|r| !r.flat).unwrap();
    let step = CoverRim { rims: RimChoice::Picked(vec![wavy.pick]), style: CoverStyle::Flat, ..Default::default() };
    let Err(TradeError::Refused { why, places }) = apply(&cowl, Operation::of(step)) else { panic!() };
    assert!(why.contains("taut"), "{why}");
    assert_eq!(places[0].to_array(), wavy.centre);
}

#[test]
fn a_taut_cover_of_a_saddle_is_within_a_hundredth_of_the_least_area() {
    // z = x² − y² over the unit circle, flattened to a slope of 0.3: close to the minimal surface on its rim.
    let n = 120;
    let rim = |r: f64, k: usize| {
        let a = (k % n) as f64 / n as f64 * TAU;
        Point::new(r * a.cos(), r * a.sin(), 0.15 * r * r * (2.0 * a).cos())
    };
    let mut soup = vec![];
    for k in 0..n {
        let (a, b, c, d) = (rim(1.0, k), rim(1.0, k + 1), rim(1.3, k + 1), rim(1.3, k));
        soup.extend([a, c, b, a, d, c]);
    }
    let band = weld(&soup);
    let inner = look(&band).rims.into_iter().find(|r| r.length < 7.0).unwrap();
    let step = CoverRim { rims: RimChoice::Picked(vec![inner.pick]), style: CoverStyle::Taut, ..Default::default() };
    let outcome = apply(&band, Operation::of(step)).unwrap();
    let added = look(&outcome.mesh).figures.area - look(&band).figures.area;
    // Area of the graph: ∫∫ √(1 + 4·0.15²·r²) r dr da = TAU/(12·q)((1 + 4q)^1.5 − 1) with q = 0.15².
    let q: f64 = 0.15 * 0.15;
    let graph = TAU / (12.0 * q) * ((1.0 + 4.0 * q).powf(1.5) - 1.0);
    assert!(added < graph * 1.001 && added > graph * 0.99, "{added} against {graph}");
}

#[test]
fn missing_triangles_are_put_back_and_nothing_moves_however_slender_they_were() {
    let ball = nimbet_kernel::shapes::ball(50.0, 60);
    let count = ball.triangles().len();
    let torn = ball.retain_triangles(|t| t % 97 != 0);
    let outcome = apply(&torn, plan()).unwrap();
    assert_eq!((outcome.largest_move, outcome.mesh.triangles().len()), (0.0, count));
    assert_eq!(look(&outcome.mesh).figures.volume, look(&ball).figures.volume);
}

/// Bowls of one kind and any size: a rim picked on one is the same rim of the others, by where it lies.
#[test]
fn a_rim_picked_on_one_bowl_is_found_on_a_bowl_like_it() {
    // A foot ring below, a mouth above: both open.
    let bowl = |foot: f64, mouth: f64, high: f64| {
        nimbet_kernel::shapes::turned(&[(foot, 0.0), (foot * 1.2, high * 0.2), (mouth, high)], 48)
    };
    let picked = bowl(20.0, 50.0, 40.0);
    for (name, at_top) in [("R1", true), ("R2", false)] {
        let pick = look(&picked).rims.into_iter().find(|r| r.name == name).unwrap().pick;
        for (foot, mouth, high) in [(20.0, 50.0, 40.0), (31.0, 80.0, 55.0), (2.3, 5.0, 4.6), (24.0, 47.0, 40.0)] {
            let other = bowl(foot, mouth, high);
            let rims = RimChoice::Picked(vec![pick.clone()]);
            let step = CoverRim { rims, style: CoverStyle::Flat, ..Default::default() };
            let left = look(&apply(&other, Operation::of(step)).unwrap().mesh).rims;
            assert_eq!((left.len(), left[0].centre[2] < high * 0.5), (1, at_top), "{name} of {foot} {mouth} {high}");
        }
        // Closed meanwhile: the other rim is not taken for it.
        let step =
            CoverRim { rims: RimChoice::Picked(vec![pick.clone()]), style: CoverStyle::Flat, ..Default::default() };
        let closed = apply(&picked, Operation::of(step.clone())).unwrap().mesh;
        assert!(matches!(apply(&closed, Operation::of(step)), Err(TradeError::NeedsNewPick { .. })));
    }
}
