//! Turning, dropping, pulling apart, joining, grouping, merging, smoothing, wrapping: known answers and refusals.

use std::f64::consts::PI;

use crate::gallery::*;
use nimbet_kernel::deviation::deviation;
use nimbet_kernel::{Mesh, Point, Progress, shapes};
use nimbet_trade::budget::Extent;
use nimbet_trade::examine::{FacePick, FaceSurface, FindingKind, ShellRole, face_facts};
use nimbet_trade::seal::*;
use nimbet_trade::{Examination, Operation, Outcome, PartState, Plan, PlanStage, TradeError, demo, examine};

fn look(mesh: &Mesh) -> Examination {
    examine(mesh, &Progress::unwatched()).unwrap()
}

fn apply(mesh: &Mesh, operation: Operation) -> Result<Outcome, TradeError> {
    operation.apply(mesh, &[], &Progress::unwatched())
}

fn join(parts: &[Mesh], reach: f64) -> Outcome {
    let with = (2..=parts.len() as u32).collect();
    Operation::of(Join { with, reach }).apply(&parts[0], &parts[1..], &Progress::unwatched()).unwrap()
}

fn refused(result: Result<Outcome, TradeError>) -> String {
    match result {
        Err(TradeError::Refused { why, .. }) => why,
        other => panic!("not refused: {other:?}"),
    }
}

#[test]
fn pulled_apart_and_joined_again_it_is_the_same_part() {
    let ring = demo::porthole_ring();
    let apart = apply(&ring, Operation::of(PullApart::default())).unwrap();
    let parts: Vec<Mesh> = apart.meshes().cloned().collect();
    assert_eq!(parts.len(), look(&ring).figures.shells);
    assert_eq!(parts.iter().map(|m| m.triangles().len()).sum::<usize>(), ring.triangles().len());
    let together = join(&parts, 0.09);
    let figures = look(&together.mesh).figures;
    assert_eq!(figures.state, PartState::Sealed, "{}", figures.reason);
    assert!(together.left.is_empty(), "{:?}", together.left);
    let single = apply(&block(Point::ZERO, 1.0), Operation::of(PullApart::default()));
    assert!(matches!(single, Err(TradeError::NothingToDo { .. })));
    let cube = apply(&block(Point::ZERO, 2.0), Operation::of(GroupFaces::default())).unwrap().mesh;
    let faces = apply(&cube, Operation::of(PullApart { into: Pieces::Faces })).unwrap();
    assert_eq!(faces.more.len() + 1, 6);
}

#[test]
fn joining_says_where_parts_do_not_meet() {
    let open = |at: Point| {
        let cube = block(at, 4.0);
        cube.retain_triangles(|t| t > 1)
    };
    let apart = join(&[open(Point::ZERO), open(Point::new(30.0, 0.0, 0.0))], 0.5);
    assert!(apart.left.iter().any(|l| l.contains("part 2 does not meet") && l.contains("26 mm")), "{:?}", apart.left);
    let body = join(&[open(Point::ZERO), block(Point::splat(10.0), 1.0)], 0.5);
    assert!(body.left.iter().any(|l| l.contains("no naked edge")), "{:?}", body.left);
    let nobody = Join { with: vec![], reach: 0.1 };
    assert!(refused(apply(&open(Point::ZERO), Operation::of(nobody))).contains("choose the parts"));
}

#[test]
fn shells_within_shells_have_their_roles_and_remedies() {
    let outer = block(Point::ZERO, 10.0);
    let mut void = block(Point::splat(2.0), 2.0);
    void.reverse_triangles(|_| true);
    let stray = block(Point::splat(6.0), 2.0);
    let sheet = block(Point::new(6.0, 2.0, 2.0), 1.0).retain_triangles(|t| t < 2);
    let part = join(&[outer, void, stray, sheet], 0.0).mesh;
    let seen = look(&part);
    let role = |n: usize| seen.shells[n].role;
    assert_eq!((role(0), seen.shells[0].depth), (ShellRole::Outside, 0));
    let roles: Vec<ShellRole> = seen.shells[1..].iter().map(|s| s.role).collect();
    assert_eq!(roles.iter().filter(|r| **r == ShellRole::Void).count(), 1);
    assert_eq!(roles.iter().filter(|r| **r == ShellRole::Stray).count(), 2);
    // Dropping each stray by its own remedy leaves a sealed block with a trapped void.
    let mut part = part;
    while let Some(finding) = look(&part).findings.into_iter().find(|f| f.kind == FindingKind::Stray) {
        let drop = finding.remedies.into_iter().find(|r| r.label == "Drop it").unwrap();
        part = apply(&part, drop.operation).unwrap().mesh;
    }
    let seen = look(&part);
    assert_eq!(seen.figures.volume, Some(1000.0 - 8.0));
    assert!(seen.findings.iter().any(|f| f.kind == FindingKind::Void));
    let all = Drop { shells: vec![[0.0, 5.0, 5.0], [2.0, 3.0, 3.0]], ..Default::default() };
    assert!(refused(apply(&part, Operation::of(all))).contains("whole part"));
}

#[test]
fn turning_twice_changes_nothing_and_turning_a_face_is_told() {
    let cowl = demo::vent_cowl();
    let turn = |mesh: &Mesh, what| apply(mesh, Operation::of(Turn { what }));
    let once = turn(&cowl, TurnChoice::Part).unwrap().mesh;
    let twice = turn(&once, TurnChoice::Part).unwrap().mesh;
    assert!((0..cowl.triangles().len()).all(|t| (twice.area_vector(t) - cowl.area_vector(t)).length() < 1e-12));
    let cube = apply(&block(Point::ZERO, 2.0), Operation::of(GroupFaces::default())).unwrap().mesh;
    let turned = turn(&cube, TurnChoice::Faces(vec![FacePick::At([1.0, 1.0, 2.0])])).unwrap();
    assert!(turned.left[0].contains("4 edges more"), "{:?}", turned.left);
    assert_eq!(look(&turned.mesh).figures.clashing_edges, 4);
    let shell = turn(&cube, TurnChoice::Shells(vec![[1.0, 1.0, 0.0]])).unwrap().mesh;
    assert_eq!(look(&shell).figures.inside_out_shells, 1);
    assert!(matches!(
        turn(&cube, TurnChoice::Faces(vec![FacePick::At([9.0, 9.0, 9.0])])),
        Err(TradeError::NeedsNewPick { .. })
    ));
}

#[test]
fn faces_are_told_with_kind_area_and_radius_and_merging_keeps_them() {
    // A knob: a foot of radius 12, a neck of radius 5, a flat top.
    let profile = [(0.0, 0.0), (12.0, 0.0), (12.0, 4.0), (5.0, 4.0), (5.0, 20.0), (0.0, 20.0)];
    let knob = shapes::turned(&profile, 120);
    let grouped = apply(&knob, Operation::of(GroupFaces::default())).unwrap().mesh;
    let facts = face_facts(&grouped, Some(0.01), &Progress::unwatched()).unwrap();
    let mut radii: Vec<f64> = facts
        .iter()
        .filter_map(|f| match f.surface {
            FaceSurface::Cylinder { radius, .. } => Some(radius),
            _ => None,
        })
        .collect();
    radii.sort_by(f64::total_cmp);
    assert!(radii.len() == 2 && (radii[0] - 5.0).abs() < 0.01 && (radii[1] - 12.0).abs() < 0.01, "{radii:?}");
    let total: f64 = facts.iter().map(|f| f.area).sum();
    assert!((total - look(&knob).figures.area).abs() < 1e-6 * total);
    let fewer = MergeFaces { faces: FaceChoice::All, tolerance: 0.05, simplify: true };
    let merged = apply(&grouped, Operation::of(fewer)).unwrap();
    let after = look(&merged.mesh).figures;
    assert_eq!(after.state, PartState::Sealed, "{}", after.reason);
    assert!(after.triangles < knob.triangles().len() / 2 && merged.largest_move <= 0.05, "{}", after.triangles);
    let off = deviation(&merged.mesh, &knob, &Progress::unwatched()).unwrap().largest;
    // What was within the tolerance of the triangles left, and the triangles' own chords.
    assert!(off <= 0.1, "{off}");
}

#[test]
fn smoothing_takes_the_noise_off_a_ball_and_keeps_its_volume() {
    let quiet = shapes::ball(10.0, 40);
    let noisy = quiet
        .clone()
        .map_points(|p| p * (1.0 + 0.01 * ((p.x * 71.0).sin() + (p.y * 57.0).sin() + (p.z * 83.0).sin()) / 3.0))
        .unwrap();
    let rough =
        |m: &Mesh| m.points().iter().map(|p| (p.length() - 10.0).powi(2)).sum::<f64>() / m.points().len() as f64;
    let smooth = Smooth { what: SmoothChoice::All, strength: 0.5, passes: 20 };
    let outcome = apply(&noisy, Operation::of(smooth)).unwrap();
    assert!(rough(&outcome.mesh) < 0.45 * rough(&noisy), "{} of {}", rough(&outcome.mesh), rough(&noisy));
    let volume = |m: &Mesh| look(m).figures.volume.unwrap();
    assert!((volume(&outcome.mesh) / volume(&noisy) - 1.0).abs() < 0.005);
    // Under a brush nothing moves outside of it.
    let dab = Dab { near: [10.0, 0.0, 0.0], radius: 4.0 };
    let brush = Smooth { what: SmoothChoice::Brush(vec![dab]), strength: 1.0, passes: 5 };
    let brushed = apply(&noisy, Operation::of(brush)).unwrap().mesh;
    for (p, q) in noisy.points().iter().zip(brushed.points()) {
        assert!(p == q || p.distance(Point::X * 10.0) < 4.0);
    }
    // Rims are held.
    let half = noisy.retain_triangles(|t| noisy.corners(t).iter().all(|p| p.z > -1.0));
    let rim: Vec<Point> = look(&half).rims.iter().map(|r| Point::from_array(r.pick.near)).collect();
    let done = apply(&half, Operation::of(Smooth::default())).unwrap().mesh;
    assert_eq!(look(&done).rims.iter().map(|r| Point::from_array(r.pick.near)).collect::<Vec<_>>(), rim);
    let strong = Smooth { strength: 1.5, ..Default::default() };
    assert!(refused(apply(&half, Operation::of(strong))).contains("strength"));
}

#[test]
fn a_soup_of_overlapping_open_and_turned_pieces_is_wrapped_within_the_deviation_told() {
    let mut lower = shapes::ball(8.0, 32);
    lower.reverse_triangles(|_| true);
    let upper = shapes::ball(8.0, 32).map_points(|p| p + Point::new(0.0, 0.0, 9.0)).unwrap();
    let upper = upper.retain_triangles(|t| t % 97 != 5);
    let soup = join(&[lower, upper, block(Point::new(-2.0, -2.0, 3.0), 4.0)], 0.0).mesh;
    assert_ne!(look(&soup).figures.state, PartState::Sealed);
    let step = Wrap { resolution: 0.5 };
    let foretold = Operation::of(step.clone()).cost(&[Extent::of(&soup)]);
    let outcome = apply(&soup, Operation::of(step)).unwrap();
    let after = look(&outcome.mesh).figures;
    assert_eq!(after.state, PartState::Sealed, "{}", after.reason);
    // Two balls 9 apart lose a cap of height 3.5 each.
    let cap = PI * 3.5 * 3.5 * (24.0 - 3.5) / 3.0;
    let exact = 2.0 * (4.0 / 3.0 * PI * 512.0 - cap);
    assert!((after.volume.unwrap() / exact - 1.0).abs() < 0.02, "{:?} instead of {exact}", after.volume);
    let measured = deviation(&outcome.mesh, &soup, &Progress::unwatched()).unwrap().largest;
    assert!((outcome.largest_move / measured - 1.0).abs() < 0.02 && measured < 0.5, "{measured}");
    // Independently: no point of the skin is farther from the soup than was told.
    for p in outcome.mesh.points().iter().step_by(7) {
        let nearest = (0..soup.triangles().len())
            .map(|t| (nimbet_kernel::segments::nearest_on_triangle(*p, soup.corners(t)) - *p).length())
            .fold(f64::INFINITY, f64::min);
        assert!(nearest <= measured + 1e-9);
    }
    let ratio = foretold.triangles / after.triangles as f64;
    assert!((0.5..3.0).contains(&ratio), "{} foretold, {} made", foretold.triangles, after.triangles);
    assert!(refused(apply(&soup, Operation::of(Wrap { resolution: f64::NAN }))).contains("resolution"));
    assert!(
        refused(apply(&soup, Operation::of(Wrap { resolution: 1e-4 })))
            .contains("the limit is 8 million; a resolution of")
    );
}

#[test]
fn a_plan_leaves_out_what_is_struck_out_and_tells_each_step() {
    let cowl = demo::vent_cowl();
    let whole = apply(&cowl, Operation::of(Plan::default())).unwrap();
    assert!(whole.plan.len() > 1 && whole.plan.iter().all(|s| !s.done.is_empty()), "{:?}", whole.plan);
    assert_eq!(whole.plan.last().map(|s| s.after.as_str()), Some("sealed"));
    // Without its last step it ends where the step before left it; without any there is nothing to do.
    let skip = vec![whole.plan.last().unwrap().stage];
    let part = apply(&cowl, Operation::of(Plan { skip, ..Default::default() })).unwrap();
    let struck = part.plan.iter().find(|s| s.stage == whole.plan.last().unwrap().stage).unwrap();
    assert!(struck.done.is_empty() && struck.left_out.is_none());
    assert_eq!(struck.after, whole.plan[whole.plan.len() - 2].after);
    // What is left of it the inside is found of.
    assert_eq!(part.plan.last().map(|s| s.stage), Some(PlanStage::FindInside));
    let stages = whole.plan.iter().map(|s| s.stage).chain([PlanStage::FindInside]);
    let all = Plan { skip: stages.collect(), ..Default::default() };
    match apply(&cowl, Operation::of(all)) {
        Err(TradeError::NothingToDo { why }) => assert!(why.contains("struck out"), "{why}"),
        other => panic!("{other:?}"),
    }
    // A small fold is re-skinned by the plan; a bent tube that passes through itself widely gets its outer boundary.
    let outcome = apply(&bent_tube(6.0), Operation::of(Plan::default())).unwrap();
    assert!(outcome.plan.iter().any(|s| s.stage == PlanStage::Untangle && !s.done.is_empty()), "{:?}", outcome.plan);
    assert_eq!(look(&outcome.mesh).figures.crossing_pairs, 0);
}

/// Triangles that share a piece of an edge only, in planes of their own, turned this way and that: one sheet with one rim, its sides
/// agreeing, and nothing moved.
#[test]
fn sheets_that_share_part_of_an_edge_become_one() {
    let triangle =
        |corners: [[f64; 3]; 3]| Mesh::with_one_face(corners.map(Point::from_array).to_vec(), vec![[0, 1, 2]]).unwrap();
    let long = triangle([[0.0, 0.0, 0.0], [40.0, 0.0, 0.0], [20.0, 30.0, 0.0]]);
    for (from, to, shared) in [(10.0, 30.0, 20.0), (0.0, 15.0, 15.0), (25.0, 60.0, 15.0), (-5.0, 45.0, 40.0)] {
        for ends in [[from, to], [to, from]] {
            let [a, b] = ends.map(|x| [x, 0.0, 0.0]);
            let one = join(&[long.clone(), triangle([a, b, [20.0, 0.0, 30.0]])], 0.0);
            let seen = look(&one.mesh);
            let told = format!("{from} {to}: {:?} {:?} {}", one.done, one.left, seen.figures.reason);
            assert_eq!((seen.rims.len(), seen.figures.shells, seen.figures.clashing_edges), (1, 1, 0), "{told}");
            let leg = |x: f64| f64::hypot(20.0 - x, 30.0);
            let open = 40.0 + 2.0 * f64::hypot(20.0, 30.0) + (to - from) + leg(from) + leg(to) - 2.0 * shared;
            assert!((seen.figures.naked_length - open).abs() < 1e-9, "{told}");
            assert!((seen.figures.area - 600.0 - (to - from) * 15.0).abs() < 1e-9, "{told}");
            assert!(one.done.iter().any(|d| d.contains(&format!("{shared} mm of naked edge joined"))), "{told}");
        }
    }
}
