//! What Shape promises: bodies with known volumes, and refusals that name the place.

use std::f64::consts::PI;

use nimbet_kernel::shapes::{ball, block};
use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_trade::examine::FindingKind;
use nimbet_trade::shape::*;
use nimbet_trade::{Examination, Operation, Outcome, PartState, TradeError, demo, examine};

fn look(mesh: &Mesh) -> Examination {
    examine(mesh, &Progress::unwatched()).unwrap()
}

fn apply(operation: Operation, mesh: &Mesh, others: &[Mesh]) -> Result<Outcome, TradeError> {
    operation.apply(mesh, others, &Progress::unwatched())
}

fn sealed(mesh: &Mesh) -> f64 {
    let seen = look(mesh);
    assert_eq!(seen.figures.state, PartState::Sealed, "{}", seen.figures.reason);
    seen.figures.volume.unwrap()
}

fn near(a: f64, b: f64, share: f64) {
    assert!((a / b - 1.0).abs() < share, "{a} is not {b}");
}

fn cube(at: f64, size: f64) -> Mesh {
    block(Point::splat(at), Point::splat(size))
}

fn union() -> Operation {
    Operation::of(Union { with: vec![2] })
}

fn difference(keep: bool, swap: bool) -> Operation {
    Operation::of(Difference { with: vec![2], keep, swap })
}

fn body(body: BodyShape) -> Result<Mesh, TradeError> {
    let step = AddBody { body, at: [3.0, 2.0, 1.0], chord: 0.01 };
    apply(Operation::of(step), &cube(0.0, 1.0), &[]).map(|mut o| o.more.remove(0).mesh)
}

#[test]
fn union_difference_and_intersection_of_two_cubes() {
    let (a, b) = (cube(0.0, 4.0), cube(2.0, 4.0));
    near(sealed(&apply(union(), &a, std::slice::from_ref(&b)).unwrap().mesh), 120.0, 1e-9);
    let cut = apply(difference(true, false), &a, std::slice::from_ref(&b)).unwrap();
    near(sealed(&cut.mesh), 56.0, 1e-9);
    assert!(cut.more.is_empty() && difference(true, false).used_up().is_empty(), "the tool stays on request");
    let swapped = apply(difference(true, true), &a, std::slice::from_ref(&b)).unwrap();
    assert_eq!(swapped.more[0].mesh, a, "what was taken away stays as a part of its own");
    assert!(cut.done[0].contains("took 8 mm³ away"), "{:?}", cut.done);
    let both = Operation::of(Intersection { with: vec![2], keep: false });
    near(sealed(&apply(both, &a, std::slice::from_ref(&b)).unwrap().mesh), 8.0, 1e-9);
    let small = cube(1.0, 1.0);
    let void = apply(difference(false, false), &a, std::slice::from_ref(&small)).unwrap();
    near(sealed(&void.mesh), 63.0, 1e-9);
    assert!(look(&void.mesh).findings.iter().any(|f| f.kind == FindingKind::Void), "a body inside gives a void");
    let gone = apply(difference(false, true), &a, &[small]);
    assert!(matches!(gone, Err(TradeError::Refused { .. })), "{gone:?}");
}

#[test]
fn parts_that_do_not_meet_and_parts_that_are_no_solids_are_told() {
    let (a, far) = (cube(0.0, 4.0), cube(9.0, 1.0));
    assert!(matches!(
        apply(difference(false, false), &a, std::slice::from_ref(&far)),
        Err(TradeError::NothingToDo { .. })
    ));
    let both = apply(union(), &a, &[far]).unwrap();
    assert!(both.left[0].contains("do not meet"), "{:?}", both.left);
    let open = a.retain_triangles(|t| t > 1);
    let refused = apply(union(), &a, &[open]).unwrap_err();
    assert!(refused.to_string().contains("part 2 is open") && refused.places().len() == 1, "{refused}");
    let mut inside_out = cube(2.0, 4.0);
    inside_out.reverse_triangles(|_| true);
    assert!(apply(union(), &a, &[inside_out]).unwrap_err().to_string().contains("inside out"));
    assert!(apply(Operation::of(Union { with: vec![] }), &a, &[]).is_err());
}

#[test]
fn faces_keep_their_numbers_and_cut_faces_are_new() {
    let step = AddBody {
        body: BodyShape::Block { size: [10.0; 3], rounded: 0.0, all_edges: false },
        at: [0.0; 3],
        chord: 0.01,
    };
    let a = apply(Operation::of(step), &cube(0.0, 1.0), &[]).unwrap().more.remove(0).mesh;
    let drum = AddBody {
        body: BodyShape::Drum { diameter: 4.0, top: None, height: 30.0, bore: 0.0 },
        at: [0.0, 0.0, -15.0],
        chord: 0.01,
    };
    let drum = apply(Operation::of(drum), &a, &[]).unwrap().more.remove(0).mesh;
    let bored = apply(difference(false, false), &a, &[drum]).unwrap().mesh;
    near(sealed(&bored), 1000.0 - PI * 4.0 * 10.0, 1e-3);
    let mut faces: Vec<u32> = bored.face_of().iter().map(|f| f.0).collect();
    faces.sort_unstable();
    faces.dedup();
    assert_eq!(faces.len(), 7, "six sides and one bore");
    assert_eq!(faces[..6], [0, 1, 2, 3, 4, 5].map(|n| a.face_of()[2 * n].0)[..]);
}

#[test]
fn bodies_have_their_textbook_volumes() {
    let block = BodyShape::Block { size: [10.0, 8.0, 6.0], rounded: 0.0, all_edges: false };
    near(sealed(&body(block).unwrap()), 480.0, 1e-9);
    let rounded = BodyShape::Block { size: [10.0, 8.0, 6.0], rounded: 2.0, all_edges: false };
    near(sealed(&body(rounded).unwrap()), 480.0 - (4.0 - PI) * 4.0 * 6.0, 2e-3);
    let cone = BodyShape::Drum { diameter: 10.0, top: Some(0.0), height: 6.0, bore: 0.0 };
    near(sealed(&body(cone).unwrap()), PI * 25.0 * 2.0, 5e-3);
    let tube = BodyShape::Drum { diameter: 10.0, top: None, height: 6.0, bore: 8.0 };
    near(sealed(&body(tube).unwrap()), PI * (25.0 - 16.0) * 6.0, 5e-3);
    near(sealed(&body(BodyShape::Ball { diameter: 10.0 }).unwrap()), PI * 1000.0 / 6.0, 1e-2);
    let ring = BodyShape::Ring { diameter: 20.0, thickness: 4.0 };
    near(sealed(&body(ring).unwrap()), 2.0 * PI * 10.0 * PI * 4.0, 1e-2);
    near(sealed(&body(BodyShape::Wedge { size: [10.0, 8.0, 6.0] }).unwrap()), 240.0, 1e-9);
    for bad in [
        BodyShape::Block { size: [0.0, 1.0, 1.0], rounded: 0.0, all_edges: false },
        BodyShape::Block { size: [4.0; 3], rounded: 2.0, all_edges: false },
        BodyShape::Ring { diameter: 4.0, thickness: 9.0 },
        BodyShape::Drum { diameter: 4.0, top: Some(2.0), height: 1.0, bore: 3.0 },
        BodyShape::Ball { diameter: f64::NAN },
    ] {
        assert!(matches!(body(bad.clone()), Err(TradeError::Refused { .. })), "{bad:?}");
    }
}

#[test]
fn sawn_halves_add_up_and_pegs_fit_their_sockets() {
    let part = ball(20.0, 30);
    let whole = sealed(&part);
    let by = Cutter::Plane(Plane { at: [0.0, 0.0, 3.0], normal: [0.2, 0.1, 1.0], face: None });
    let saw = |pegs, keep, open| Operation::of(Saw { by: by.clone(), keep, open, pegs });
    let halves = apply(saw(None, Keep::Both, false), &part, &[]).unwrap();
    // Positions are rounded to a grid of some nanometres.
    near(sealed(&halves.mesh) + sealed(&halves.more[0].mesh), whole, 1e-7);
    let open = apply(saw(None, Keep::Front, true), &part, &[]).unwrap().mesh;
    assert_eq!(look(&open).figures.rims, 1, "a cut left open has one rim");
    let pegs = Pegs { count: 2, diameter: 4.0, length: 5.0, clearance: 0.2 };
    let pegged = apply(saw(Some(pegs.clone()), Keep::Both, false), &part, &[]).unwrap();
    let (back, front) = (sealed(&pegged.mesh), sealed(&pegged.more[0].mesh));
    let n = 48.0f64;
    let disc = |r: f64| 0.5 * n * r * r * (2.0 * PI / n).sin();
    near(back - sealed(&halves.mesh), 2.0 * disc(2.0) * 5.0, 1e-5);
    near(sealed(&halves.more[0].mesh) - front, 2.0 * disc(2.2) * 5.2, 1e-5);
    let both = Operation::of(Intersection { with: vec![2], keep: false });
    match apply(both, &pegged.mesh, &[pegged.more[0].mesh.clone()]) {
        // Both sides of the cut are rounded to nanometres on their own.
        Ok(common) => assert!(look(&common.mesh).figures.volume.is_none_or(|v| v < 1e-3), "the halves overlap"),
        Err(e) => assert!(matches!(e, TradeError::NothingToDo { .. }), "{e}"),
    }
    let fat = Pegs { diameter: 30.0, ..pegs };
    assert!(apply(saw(Some(fat), Keep::Both, false), &part, &[]).unwrap_err().to_string().contains("no room"));
    let far = Cutter::Plane(Plane { at: [0.0, 0.0, 90.0], normal: [0.0, 0.0, 1.0], face: None });
    let beside = Saw { by: far, keep: Keep::Both, open: false, pegs: None };
    assert!(matches!(apply(Operation::of(beside), &part, &[]), Err(TradeError::NothingToDo { .. })));
}

#[test]
fn shells_that_overlap_are_untangled_and_a_clean_part_is_left_alone() {
    let two = apply(
        Operation::of(nimbet_trade::seal::Join { with: vec![2], reach: 0.0 }),
        &cube(0.0, 4.0),
        &[block(Point::new(1.1, 1.2, 1.3), Point::splat(4.0))],
    );
    let two = two.unwrap().mesh;
    assert_eq!(look(&two).figures.state, PartState::Tangled);
    let one = apply(Operation::of(Untangle::default()), &two, &[]).unwrap().mesh;
    near(sealed(&one), 128.0 - 2.9 * 2.8 * 2.7, 1e-7);
    assert!(matches!(apply(Operation::of(Untangle::default()), &one, &[]), Err(TradeError::NothingToDo { .. })));
    let twice = apply(Operation::of(Untangle { level: Some(2) }), &two, &[]).unwrap().mesh;
    near(sealed(&twice), 2.9 * 2.8 * 2.7, 1e-7);
    assert!(apply(Operation::of(Untangle { level: Some(0) }), &two, &[]).is_err());
}

#[test]
fn the_half_fairlead_is_mirrored_and_joined_to_a_solid() {
    let half = demo::half_fairlead();
    let rim = &look(&half).rims[0];
    let across = |at| Plane { at: [at, 0.0, 0.0], normal: [1.0, 0.0, 0.0], face: None };
    let mirror = |at, join| Operation::of(Mirror { across: across(at), join, reach: 0.0 });
    let whole = apply(mirror(rim.centre[0], true), &half, &[]).unwrap().mesh;
    sealed(&whole);
    assert_eq!(whole.triangles().len(), 2 * half.triangles().len());
    let off = apply(mirror(rim.centre[0] - 1.0, true), &half, &[]).unwrap_err();
    assert!(off.to_string().contains("would not meet"), "{off}");
    // A solid is united with its mirror image.
    let solid = apply(mirror(3.0, true), &cube(0.0, 4.0), &[]).unwrap().mesh;
    near(sealed(&solid), 96.0, 1e-9);
}

#[test]
fn parts_are_placed_and_repeated() {
    let part = block(Point::new(1.0, 2.0, 3.0), Point::new(4.0, 2.0, 1.0));
    let step = Place {
        scale: Some(2.0),
        turn: Some(Rotation { axis: Axis::Z, degrees: 90.0 }),
        by: [10.0, 0.0, 0.0],
        to_bench: true,
        ..Default::default()
    };
    let placed = apply(Operation::of(step), &part, &[]).unwrap().mesh;
    near(sealed(&placed), 64.0, 1e-9);
    let size = look(&placed).figures.size;
    assert!((size[0] - 4.0).abs() < 1e-9 && (size[1] - 8.0).abs() < 1e-9, "{size:?}");
    let low = placed.points().iter().map(|p| p.z).fold(f64::INFINITY, f64::min);
    assert!(low.abs() < 1e-12);
    assert!(matches!(apply(Operation::of(Place::default()), &part, &[]), Err(TradeError::NothingToDo { .. })));

    let row = |join| Operation::of(Repeat { copies: Copies::Row { step: [3.0, 0.0, 0.0], count: 5 }, join });
    assert_eq!(apply(row(false), &part, &[]).unwrap().more.len(), 4);
    near(sealed(&apply(row(true), &part, &[]).unwrap().mesh), 16.0 * 2.0, 1e-9);
    let ring = Repeat { copies: Copies::Ring { axis: Axis::Z, through: [0.0; 3], count: 6 }, join: true };
    let united = sealed(&apply(Operation::of(ring), &part, &[]).unwrap().mesh);
    assert!(united > 24.0 && united < 48.0, "{united}");
}

#[test]
fn bodies_that_only_touch_are_braced_and_the_finding_says_so() {
    let two = |at: [f64; 3]| {
        let other = block(Point::from_array(at), Point::splat(4.0));
        apply(Operation::of(Union { with: vec![2] }), &block(Point::ZERO, Point::splat(4.0)), &[other]).unwrap().mesh
    };
    // Along an edge, and at a corner.
    for (at, volume) in [([4.0, 4.0, 0.0], 128.0), ([4.0, 4.0, 4.0], 128.0)] {
        let touching = two(at);
        let before = examine(&touching, &Progress::unwatched()).unwrap();
        let remedies: Vec<&Operation> = before
            .findings
            .iter()
            .flat_map(|f| f.remedies.iter().map(|r| &r.operation))
            .filter(|o| o.tool::<Brace>().is_some())
            .collect();
        let remedy = remedies.first().unwrap_or_else(|| panic!("{:?}", before.findings));
        let braced = apply((*remedy).clone(), &touching, &[]).unwrap().mesh;
        let seen = examine(&braced, &Progress::unwatched()).unwrap().figures;
        assert_eq!((seen.state, seen.shells, seen.touch_points), (PartState::Sealed, 1, 0), "{}", seen.reason);
        assert!(seen.volume.unwrap() > volume);
    }
    let nothing = apply(Operation::of(Brace { radius: 1.0 }), &block(Point::ZERO, Point::ONE), &[]);
    assert!(matches!(nothing, Err(TradeError::NothingToDo { .. })));
}

#[test]
fn cut_faces_tell_which_part_cut_them() {
    let part = block(Point::ZERO, Point::splat(10.0));
    let (bore, slot) = (
        block(Point::new(4.0, 4.0, -1.0), Point::new(2.0, 2.0, 12.0)),
        block(Point::new(-1.0, 8.0, 8.0), Point::new(12.0, 3.0, 3.0)),
    );
    let step = Difference { with: vec![7, 9], keep: false, swap: false };
    let done = apply(Operation::of(step), &part, &[bore, slot]).unwrap();
    let by: Vec<Option<u32>> = done.cut.iter().map(|c| c.by).collect();
    assert_eq!(by, [Some(7), Some(9)]);
    for cut in &done.cut {
        let on: Vec<usize> = (0..done.mesh.triangles().len())
            .filter(|t| (cut.first..cut.end).contains(&done.mesh.face_of()[*t].0))
            .collect();
        let in_bore = |p: &Point| (4.0..=6.0).contains(&p.x) && (4.0..=6.0).contains(&p.y);
        assert!(!on.is_empty());
        assert!(on.iter().all(|t| done.mesh.corners(*t).iter().all(|p| in_bore(p) == (cut.by == Some(7)))));
    }
}
