//! Split rims, bands, islands, outlines: known answers and refusals.

use std::f64::consts::{PI, TAU};

use crate::gallery::*;
use nimbet_kernel::{Mesh, Point, Progress, shapes};
use nimbet_trade::examine::RimFacts;
use nimbet_trade::seal::*;
use nimbet_trade::{Examination, Operation, Outcome, PartState, TradeError, examine};
use proptest::prelude::*;

fn look(mesh: &Mesh) -> Examination {
    examine(mesh, &Progress::unwatched()).unwrap()
}

fn apply(mesh: &Mesh, operation: Operation) -> Result<Outcome, TradeError> {
    operation.apply(mesh, &[], &Progress::unwatched())
}

fn volume(mesh: &Mesh) -> f64 {
    look(mesh).figures.volume.unwrap_or_else(|| panic!("{}", look(mesh).figures.reason))
}

fn refused(result: Result<Outcome, TradeError>) -> (String, Vec<Point>) {
    match result {
        Err(TradeError::Refused { why, places }) => (why, places),
        other => panic!("not refused: {other:?}"),
    }
}

/// A round tub of radius 10 and depth 6 whose wall rises to 12 on one half: its rim has two steps.
fn stepped_tub(round: usize) -> Mesh {
    let n = round as u32;
    let at = |k: usize, z: f64| {
        let a = k as f64 / round as f64 * TAU;
        Point::new(10.0 * a.cos(), 10.0 * a.sin(), z)
    };
    let mut points = vec![Point::ZERO];
    points.extend((0..round).map(|k| at(k, 0.0)));
    points.extend((0..round).map(|k| at(k, if k <= round / 2 { 12.0 } else { 6.0 })));
    let mut triangles = Vec::new();
    for k in 0..n {
        let (a, b) = (1 + k, 1 + (k + 1) % n);
        triangles.extend([[0, b, a], [a, b, b + n], [a, b + n, a + n]]);
    }
    Mesh::with_one_face(points, triangles).unwrap()
}

#[test]
fn a_split_rim_gets_a_flat_cover_on_each_side_of_the_chord() {
    let tub = stepped_tub(120);
    // The chord from top of step to top of step: one flat half at 12, the other from the chord down to 6.
    let at = vec![[10.0, 0.0, 12.0], [-10.0, 0.0, 12.0]];
    let whole = CoverRuns { at: at.clone(), ..Default::default() };
    let outcome = apply(&tub, Operation::of(whole)).unwrap();
    assert_eq!(outcome.largest_move, 0.0);
    let after = look(&outcome.mesh);
    assert_eq!(after.figures.state, PartState::Sealed, "{}", after.figures.reason);
    let full = PI * 100.0 * 12.0;
    assert!(volume(&outcome.mesh) > 0.6 * full && volume(&outcome.mesh) < full);
    // The high half is flat: all of its cover lies at 12 mm.
    let flat = CoverRuns {
        at: at.clone(),
        runs: RunChoice::Picked(vec![[0.0, 10.0, 12.0]]),
        style: CoverStyle::Flat,
        ..Default::default()
    };
    let half = apply(&tub, Operation::of(flat.clone())).unwrap();
    let area = look(&half.mesh).figures.area - look(&tub).figures.area;
    assert!((area / (PI * 50.0) - 1.0).abs() < 2e-3, "{area}");
    let rest = look(&half.mesh).rims;
    assert_eq!(rest.len(), 1, "the other half stays open");
    let other = CoverRuns { runs: RunChoice::Picked(vec![[0.0, -10.0, 6.0]]), ..flat };
    assert!(refused(apply(&tub, Operation::of(other))).0.contains("not flat"));
}

#[test]
fn a_rim_split_at_four_points_within_edges_is_closed_and_its_edges_divided_only_there() {
    let tub = stepped_tub(40);
    let on = |k: f64, z: f64| {
        let (a, b) = ((k.floor() / 40.0 * TAU), (k.ceil() / 40.0 * TAU));
        let t = k.fract();
        [10.0 * (a.cos() * (1.0 - t) + b.cos() * t), 10.0 * (a.sin() * (1.0 - t) + b.sin() * t), z]
    };
    let at = vec![on(3.5, 12.0), on(13.25, 12.0), on(23.5, 6.0), on(33.75, 6.0)];
    let outcome = apply(&tub, Operation::of(CoverRuns { at, ..Default::default() })).unwrap();
    let after = look(&outcome.mesh).figures;
    assert_eq!(after.state, PartState::Sealed, "{}", after.reason);
    for (at, why) in
        [(vec![[10.0, 0.0, 12.0]], "two points"), (vec![[10.0, 0.0, 12.0], [10.0, 0.0, 12.0]], "one place")]
    {
        let step = CoverRuns { at, ..Default::default() };
        assert!(refused(apply(&tub, Operation::of(step))).0.contains(why));
    }
    let far = CoverRuns { at: vec![[10.0, 0.0, 12.0], [0.0, 0.0, 30.0]], ..Default::default() };
    assert!(matches!(apply(&tub, Operation::of(far)), Err(TradeError::NeedsNewPick { .. })));
}

fn run(from: [f64; 3], to: [f64; 3], through: [f64; 3]) -> BridgeSide {
    BridgeSide::Run(RunPick { from, to, through })
}

#[test]
fn two_runs_of_one_rim_are_bridged_flat_to_a_lid() {
    // A box 20 × 10 × 5 without lid: its long sides are the runs.
    let tray = shapes::block(Point::ZERO, Point::new(20.0, 10.0, 5.0));
    let top = |t: usize| tray.corners(t).iter().all(|p| p.z == 5.0);
    let tray = tray.retain_triangles(|t| !top(t));
    let bridge = |shape| Bridge {
        from: run([0.0, 0.0, 5.0], [20.0, 0.0, 5.0], [7.0, 0.0, 5.0]),
        to: run([0.0, 10.0, 5.0], [20.0, 10.0, 5.0], [12.0, 10.0, 5.0]),
        shape,
        may_cross: false,
    };
    for shape in [BridgeShape::Flat, BridgeShape::Straight] {
        let outcome = apply(&tray, Operation::of(bridge(shape))).unwrap();
        assert!((volume(&outcome.mesh) - 1000.0).abs() < 1e-9, "{shape:?}");
    }
    // From the middle of one side on: the edge is divided there, and what the band leaves stays open.
    let part = Bridge {
        from: run([10.0, 0.0, 5.0], [20.0, 0.0, 5.0], [15.0, 0.0, 5.0]),
        to: run([10.0, 10.0, 5.0], [20.0, 10.0, 5.0], [15.0, 10.0, 5.0]),
        shape: BridgeShape::Flat,
        may_cross: false,
    };
    let half = apply(&tray, Operation::of(part)).unwrap().mesh;
    let open = look(&half);
    assert!((open.rims.len(), open.figures.crowded_edges) == (1, 0) && (open.rims[0].length - 40.0).abs() < 1e-9);
    let same = Bridge { to: bridge(BridgeShape::Flat).from, ..bridge(BridgeShape::Flat) };
    assert!(refused(apply(&tray, Operation::of(same))).0.contains("overlap"));
    let slanted = Bridge {
        from: run([0.0, 0.0, 5.0], [20.0, 0.0, 5.0], [7.0, 0.0, 5.0]),
        to: BridgeSide::Rim(open.rims[0].pick.clone()),
        shape: BridgeShape::Flat,
        may_cross: false,
    };
    assert!(refused(apply(&tray, Operation::of(slanted))).0.contains("two whole rims or two runs"));
}

#[test]
fn a_tangent_band_restores_the_missing_stretch_of_a_torus() {
    // A sixth of the tube is missing; a straight band cuts the corner, a tangent one follows the bend.
    let whole = torus();
    let gone = |t: usize| {
        let c = whole.corners(t).iter().sum::<Point>() / 3.0;
        c.y.atan2(c.x).abs() < TAU / 12.0
    };
    let open = whole.retain_triangles(|t| !gone(t));
    let rims = look(&open).rims;
    assert_eq!(rims.len(), 2);
    let exact = volume(&whole);
    let with = |shape| {
        let side = |r: &RimFacts| BridgeSide::Rim(r.pick.clone());
        let bridge = Bridge { from: side(&rims[0]), to: side(&rims[1]), shape, may_cross: false };
        volume(&apply(&open, Operation::of(bridge)).unwrap().mesh)
    };
    let (straight, tangent) = (with(BridgeShape::Straight), with(BridgeShape::Tangent));
    assert!((tangent / exact - 1.0).abs() < 0.005, "{tangent} instead of {exact}");
    assert!((straight - exact).abs() > 2.0 * (tangent - exact).abs(), "{straight} is as good as {tangent}");
}

#[test]
fn one_cover_over_a_rim_and_its_islands_leaves_none_of_them_open() {
    // A wavy outer wall and two inner tubes, all open at the top, closed below.
    let tube = |x: f64, y: f64, r: f64, n: usize, inner: bool| -> Mesh {
        let at = |k: usize, top: bool| {
            let a = k as f64 / n as f64 * TAU;
            let z = if top { 5.0 + 0.4 * (2.0 * a).sin() } else { 0.0 };
            Point::new(x + r * a.cos(), y + r * a.sin(), z)
        };
        let mut points: Vec<Point> = (0..n).map(|k| at(k, false)).collect();
        points.extend((0..n).map(|k| at(k, true)));
        let m = n as u32;
        let mut triangles: Vec<[u32; 3]> =
            (0..m).flat_map(|k| [[k, (k + 1) % m, m + (k + 1) % m], [k, m + (k + 1) % m, m + k]]).collect();
        if inner {
            triangles.iter_mut().for_each(|t| t.swap(1, 2));
        }
        Mesh::with_one_face(points, triangles).unwrap()
    };
    let parts = [tube(0.0, 0.0, 20.0, 90, false), tube(-7.0, 1.0, 3.0, 24, true), tube(8.0, -2.0, 4.0, 30, true)];
    let join = Operation::of(Join { with: vec![2, 3], reach: 0.0 });
    let all = join.apply(&parts[0], &parts[1..], &Progress::unwatched()).unwrap().mesh;
    let bottom = CoverRim { style: CoverStyle::Flat, ..Default::default() };
    let cup = apply(&all, Operation::of(bottom)).unwrap().mesh;
    let rims = look(&cup).rims;
    assert_eq!(rims.len(), 3, "the wavy ones");
    for style in [CoverStyle::Taut, CoverStyle::Domed] {
        let picks = RimChoice::Picked(rims.iter().map(|r| r.pick.clone()).collect());
        let step = CoverRim { rims: picks, style, as_one: true, ..Default::default() };
        let closed = apply(&cup, Operation::of(step)).unwrap().mesh;
        let figures = look(&closed).figures;
        assert_eq!((figures.naked_edges, figures.crowded_edges, figures.shells), (0, 0, 1), "{style:?}");
    }
    let all = CoverRim { as_one: true, ..Default::default() };
    assert!(refused(apply(&cup, Operation::of(all))).0.contains("pick the rims"));
}

#[test]
fn outlines_become_flat_faces() {
    let solid = block(Point::ZERO, 10.0);
    let fill = |mesh: &Mesh, outline: Outline, untie: bool| {
        apply(mesh, Operation::of(FillOutline { outline, untie, may_cross: false }))
    };
    // The silhouette along a diagonal of a cube is a regular hexagon of area √3 · a².
    let along = Outline::Silhouette { along: [1.0, 1.0, 1.0], at: [0.0, 0.0, -5.0] };
    let seen = fill(&solid, along, false).unwrap();
    assert_eq!(seen.mesh, solid, "the part itself stays as it is");
    assert!((look(&seen.more[0].mesh).figures.area - 3f64.sqrt() * 100.0).abs() < 1e-6);
    // A section has the area of the cut and faces along the normal.
    let cut = fill(&solid, Outline::Section { at: [0.0, 0.0, 4.0], normal: [0.0, 0.0, 2.0] }, false).unwrap();
    assert!((look(&cut.more[0].mesh).figures.area - 100.0).abs() < 1e-9 && cut.more[0].mesh.area_vector(0).z > 0.0);
    assert!(cut.more[0].mesh.points().iter().all(|p| (p.z - 4.0).abs() < 1e-9));
    let miss = fill(&solid, Outline::Section { at: [0.0, 0.0, 40.0], normal: [0.0, 0.0, 1.0] }, false);
    assert!(refused(miss).0.contains("does not meet"));
    let open = solid.retain_triangles(|t| t > 1);
    let z = if look(&open).rims[0].centre[2] > 5.0 { 9.0 } else { 1.0 };
    let at_rim = fill(&open, Outline::Section { at: [5.0, 5.0, z], normal: [1.0, 0.2, 0.1] }, false);
    let (why, places) = refused(at_rim);
    assert!(why.contains("open") && places.len() == 2, "{why}");
}

#[test]
fn picked_edges_fill_their_own_loop_or_say_where_it_is_open() {
    let tray = shapes::block(Point::ZERO, Point::new(20.0, 10.0, 5.0));
    let top = |t: usize| tray.corners(t).iter().all(|p| p.z == 5.0);
    let tray = tray.retain_triangles(|t| !top(t));
    let sides = [[10.0, 0.0, 5.0], [20.0, 5.0, 5.0], [10.0, 10.0, 5.0], [0.0, 5.0, 5.0]];
    let fill = |picks: &[[f64; 3]]| {
        apply(
            &tray,
            Operation::of(FillOutline { outline: Outline::Edges(picks.to_vec()), untie: false, may_cross: false }),
        )
    };
    assert!((volume(&fill(&sides).unwrap().mesh) - 1000.0).abs() < 1e-9);
    let (why, places) = refused(fill(&sides[..3]));
    assert!(why.contains("do not close") && places.len() == 2);
    assert!(matches!(fill(&[]), Err(TradeError::NothingToDo { .. })));
    assert!(matches!(fill(&[[10.0, 5.0, 5.0]]), Err(TradeError::NeedsNewPick { .. })));
    // Round a shaft an edge of its border brings the whole circle; filled where faces meet, it is a sheet of its own.
    let shaft = shapes::turned(&[(0.0, 0.0), (4.0, 0.0), (4.0, 9.0), (0.0, 9.0)], 90);
    let grouped = apply(&shaft, Operation::of(GroupFaces::default())).unwrap().mesh;
    let picks = Outline::Edges(vec![[4.0, 0.0, 9.0]]);
    let lid = apply(&grouped, Operation::of(FillOutline { outline: picks, untie: false, may_cross: false })).unwrap();
    assert_eq!(lid.mesh, grouped);
    assert!((look(&lid.more[0].mesh).figures.area / (PI * 16.0) - 1.0).abs() < 2e-3);
}

#[test]
fn an_outline_that_crosses_itself_is_refused_at_the_crossing_and_can_be_untied() {
    // The section of two boxes that overlap: their outlines cross at two points.
    let join = Operation::of(Join { with: vec![2], reach: 0.0 });
    let two = join.apply(&block(Point::ZERO, 4.0), &[block(Point::new(2.0, 2.0, 0.0), 4.0)], &Progress::unwatched());
    let two = two.unwrap().mesh;
    let fill = |untie| {
        let outline = Outline::Section { at: [0.0, 0.0, 1.0], normal: [0.0, 0.0, 1.0] };
        apply(&two, Operation::of(FillOutline { outline, untie, may_cross: false }))
    };
    let (why, places) = refused(fill(false));
    assert!(why.contains("untie"), "{why}");
    let at = places[0];
    let expected = [Point::new(4.0, 2.0, 1.0), Point::new(2.0, 4.0, 1.0)];
    assert!(expected.iter().any(|e| at.distance(*e) < 1e-9), "{at}");
    // Inside an odd number of outlines: both squares without what they share.
    assert!((look(&fill(true).unwrap().more[0].mesh).figures.area - 24.0).abs() < 1e-6);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    /// Split at any points, a rim is closed by its covers; nothing gets a third triangle and nothing moves.
    #[test]
    fn split_rims_close_wherever_they_are_split(
        round in 8usize..60, cuts in proptest::collection::btree_set(0u32..1000, 2..6), wave in 0.0f64..2.0,
    ) {
        let at = |k: usize| {
            let a = (k % round) as f64 / round as f64 * TAU;
            Point::new(10.0 * a.cos(), 10.0 * a.sin(), wave * (3.0 * a).sin())
        };
        let mut soup = vec![];
        for k in 0..round {
            soup.extend([at(k), at(k + 1), Point::new(0.0, 0.0, 15.0)]);
        }
        let tent = weld(&soup);
        let split = cuts.iter().map(|c| {
            let k = f64::from(*c) / 1000.0 * round as f64;
            at(k.floor() as usize).lerp(at(k.floor() as usize + 1), k.fract()).to_array()
        });
        let step = CoverRuns { at: split.collect(), ..Default::default() };
        let outcome = apply(&tent, Operation::of(step)).unwrap();
        let figures = look(&outcome.mesh).figures;
        prop_assert_eq!((figures.naked_edges, figures.crowded_edges, outcome.largest_move), (0, 0, 0.0));
        prop_assert!(tent.points().iter().all(|p| outcome.mesh.points().contains(p)));
    }
}
