//! What parts and planes enclose, cuts that are not flat, and what is stretched over or set beside parts.

use std::f64::consts::PI;

use nimbet_kernel::shapes::{ball, block};
use nimbet_kernel::surfaces::{DEFAULT_ANGLE, Grouping, group_faces};
use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_trade::examine::{FaceAnchor, FacePick, FaceSurface, face_facts};
use nimbet_trade::shape::*;
use nimbet_trade::{Called, Operation, Outcome, PartState, TradeError, demo, examine};

fn apply(operation: Operation, mesh: &Mesh, others: &[Mesh]) -> Result<Outcome, TradeError> {
    operation.apply(mesh, others, &Progress::unwatched())
}

fn sealed(mesh: &Mesh) -> f64 {
    let figures = examine(mesh, &Progress::unwatched()).unwrap().figures;
    assert_eq!(figures.state, PartState::Sealed, "{}", figures.reason);
    figures.volume.unwrap()
}

fn near(a: f64, b: f64, share: f64) {
    assert!((a / b - 1.0).abs() < share, "{a} is not {b}");
}

fn plane(at: [f64; 3], normal: [f64; 3]) -> Plane {
    Plane { at, normal, face: None }
}

fn sheet(corners: [[f64; 3]; 4]) -> Mesh {
    Mesh::with_one_face(corners.map(Point::from_array).to_vec(), vec![[0, 1, 2], [0, 2, 3]]).unwrap()
}

#[test]
fn the_chambers_of_a_cup_under_a_lid_are_offered_and_picked() {
    let bowl = ball(10.0, 40);
    let bowl = bowl.retain_triangles(|t| bowl.corners(t).iter().all(|p| p.z < 1e-9));
    let lid = plane([0.0, 0.0, -2.0], [0.0, 0.0, 1.0]);
    let wall = plane([0.0; 3], [1.0, 0.0, 0.0]);
    let step = |planes: &[Plane], picked, together| {
        Operation::of(Chambers { with: vec![], planes: planes.to_vec(), picked, together })
    };
    let half = PI * (2.0 / 3.0 * 1000.0 - 2.0 * (100.0 - 4.0 / 3.0)) / 2.0;
    let all = apply(step(&[lid.clone(), wall.clone()], None, false), &bowl, &[]).unwrap();
    assert_eq!(all.mesh, bowl, "the part itself stays");
    assert_eq!((all.more.len(), all.more[0].called.clone()), (2, Called::Of("Chamber 1".into())));
    all.more.iter().for_each(|m| near(sealed(&m.mesh), half, 0.01));
    // One picked by its place, then both as one part.
    let right = apply(step(&[lid.clone(), wall.clone()], Some(vec![[1.0, 0.0, -3.0]]), false), &bowl, &[]).unwrap();
    assert_eq!(right.more.len(), 1);
    assert!(right.more[0].mesh.points().iter().all(|p| p.x > -1e-6));
    let picks = all.more.iter().filter_map(|m| m.inside).map(|p| p.to_array()).collect();
    let one = apply(step(&[lid.clone(), wall.clone()], Some(picks), true), &bowl, &[]).unwrap();
    near(sealed(&one.more[0].mesh), 2.0 * half, 0.01);
    // Nothing picked, a pick outside, nothing enclosed.
    assert!(matches!(
        apply(step(std::slice::from_ref(&lid), Some(vec![]), false), &bowl, &[]),
        Err(TradeError::Refused { .. })
    ));
    let gone = apply(step(std::slice::from_ref(&lid), Some(vec![[0.0, 0.0, 5.0]]), false), &bowl, &[]).unwrap_err();
    assert_eq!(gone.places(), vec![Point::new(0.0, 0.0, 5.0)]);
    let open = apply(step(&[], None, false), &bowl, &[]).unwrap_err();
    assert!(open.to_string().contains("way out"), "{open}");
}

#[test]
fn sheets_and_solids_bound_chambers_together() {
    let (vessel, lid) = (block(Point::ZERO, Point::splat(8.0)), block(Point::new(2.0, 2.0, 2.0), Point::splat(4.0)));
    let step = Operation::of(Chambers { with: vec![2], ..Default::default() });
    let found = apply(step, &vessel, &[lid]).unwrap();
    let volumes: Vec<f64> = found.more.iter().map(|m| sealed(&m.mesh)).collect();
    assert_eq!(volumes.len(), 2);
    near(volumes[0], 448.0, 1e-9);
    near(volumes[1], 64.0, 1e-9);
}

#[test]
fn a_part_is_cut_along_a_sheet_that_goes_right_through() {
    let part = block(Point::ZERO, Point::new(8.0, 4.0, 4.0));
    let saw = Operation::of(Saw { by: Cutter::Sheet(2), keep: Keep::Both, open: false, pegs: None });
    // Two squares with an edge in the middle: a roof.
    let (points, triangles) = (
        [[2.0, -1.0, -1.0], [2.0, 5.0, -1.0], [4.0, 5.0, 2.0], [4.0, -1.0, 2.0], [2.0, 5.0, 5.0], [2.0, -1.0, 5.0]],
        vec![[0, 1, 2], [0, 2, 3], [3, 2, 4], [3, 4, 5]],
    );
    let roof = Mesh::with_one_face(points.map(Point::from_array).to_vec(), triangles).unwrap();
    let halves = apply(saw.clone(), &part, std::slice::from_ref(&roof)).unwrap();
    assert!(saw.used_up().is_empty(), "the sheet stays");
    let (back, front) = (sealed(&halves.mesh), sealed(&halves.more[0].mesh));
    near(back + front, 128.0, 1e-9);
    // Between x = 2 at z = −1 and 5 and x = 4 at z = 2: in the block it averages x = 2 + 2·(2/3).
    let left = 4.0 * 4.0 * (2.0 + 2.0 * 2.0 / 3.0);
    near(back.min(front), left, 1e-6);
    let short = sheet([[2.0, -1.0, -1.0], [2.0, 3.0, -1.0], [2.0, 3.0, 5.0], [2.0, -1.0, 5.0]]);
    let refused = apply(saw.clone(), &part, &[short]).unwrap_err();
    assert!(
        refused.to_string().contains("ends inside") && refused.places()[0].y == 3.0,
        "{refused}: {:?}",
        refused.places()
    );
    let aside = roof.map_points(|p| p + Point::X * 50.0).unwrap();
    assert!(matches!(apply(saw, &part, &[aside]), Err(TradeError::NothingToDo { .. })));
}

#[test]
fn a_part_is_cut_along_a_drawn_line() {
    let part = block(Point::ZERO, Point::new(8.0, 4.0, 4.0));
    let line = |points: &[[f64; 3]], along| Cutter::Line(SweptLine { points: points.to_vec(), along });
    let saw = |by, keep| Operation::of(Saw { by, keep, open: false, pegs: None });
    // A step seen from above; both ends go on beyond the part.
    let stairs = line(&[[3.0, 1.0, 9.0], [3.0, 2.0, 9.0], [5.0, 2.0, 9.0], [5.0, 3.0, 9.0]], [0.0, 0.0, -1.0]);
    let halves = apply(saw(stairs.clone(), Keep::Both), &part, &[]).unwrap();
    near(sealed(&halves.mesh) + sealed(&halves.more[0].mesh), 128.0, 1e-9);
    near(sealed(&halves.mesh), 4.0 * (3.0 * 2.0 + 5.0 * 2.0), 1e-9);
    let mut faces: Vec<u32> = halves.mesh.face_of().iter().map(|f| f.0).filter(|f| *f >= part.next_face().0).collect();
    faces.sort_unstable();
    faces.dedup();
    assert_eq!(faces.len(), 3, "a face for each stretch");
    let back = apply(saw(stairs, Keep::Back), &part, &[]).unwrap();
    assert_eq!((back.mesh, back.more.len()), (halves.mesh, 0));
    for bad in [line(&[[1.0; 3]], [0.0, 0.0, 1.0]), line(&[[0.0; 3], [0.0, 0.0, 3.0]], [0.0, 0.0, 1.0])] {
        assert!(matches!(apply(saw(bad, Keep::Both), &part, &[]), Err(TradeError::Refused { .. })));
    }
    let pegs = Some(Pegs { count: 1, diameter: 1.0, length: 1.0, clearance: 0.1 });
    let by = line(&[[4.0, 0.0, 0.0], [4.0, 4.0, 0.0]], [0.0, 0.0, 1.0]);
    assert!(apply(Operation::of(Saw { by, keep: Keep::Both, open: false, pegs }), &part, &[]).is_err());
}

#[test]
fn a_hull_is_stretched_over_parts() {
    let (a, b) = (block(Point::ZERO, Point::splat(1.0)), block(Point::new(3.0, 0.0, 0.0), Point::splat(1.0)));
    let over = |with| Operation::of(Hull { with });
    let made = apply(over(vec![2]), &a, &[b]).unwrap();
    assert_eq!(made.mesh, a, "the parts stay");
    near(sealed(&made.more[0].mesh), 4.0, 1e-12);
    let faces: std::collections::HashSet<_> = made.more[0].mesh.face_of().iter().collect();
    assert_eq!(faces.len(), 6, "flat sides are one face each");
    let cowl = apply(over(vec![]), &demo::vent_cowl(), &[]).unwrap();
    assert!(sealed(&cowl.more[0].mesh) > 0.0, "of an open part too");
    let flat = sheet([[0.0; 3], [1.0, 0.0, 0.0], [1.0, 1.0, 0.0], [0.0, 1.0, 0.0]]);
    assert!(matches!(apply(over(vec![]), &flat, &[]), Err(TradeError::Refused { .. })));
}

#[test]
fn copies_are_set_at_picked_points() {
    let part = block(Point::ZERO, Point::splat(1.0));
    let at =
        |points: &[[f64; 3]], join| Operation::of(Repeat { copies: Copies::Points { points: points.to_vec() }, join });
    let set = apply(at(&[[0.5, 0.5, 0.0], [4.5, 0.5, 0.0], [0.5, 0.5, 7.0]], false), &part, &[]).unwrap();
    let lows: Vec<f64> = set.more.iter().map(|m| m.mesh.points()[0].x + m.mesh.points()[0].z).collect();
    assert_eq!((set.more.len(), lows), (2, vec![4.0, 7.0]));
    near(sealed(&apply(at(&[[0.0; 3], [0.5, 0.0, 0.0]], true), &part, &[]).unwrap().mesh), 1.5, 1e-9);
    for bad in [&[[0.0; 3]][..], &[[1.0; 3], [1.0; 3]]] {
        assert!(matches!(apply(at(bad, false), &part, &[]), Err(TradeError::Refused { .. })));
    }
}

#[test]
fn a_part_is_laid_on_a_face_and_scaled_to_a_measured_length() {
    let wedge = AddBody { body: BodyShape::Wedge { size: [4.0, 3.0, 3.0] }, at: [7.0, 8.0, 9.0], chord: 0.01 };
    let wedge = apply(Operation::of(wedge), &block(Point::ZERO, Point::splat(1.0)), &[]).unwrap().more.remove(0).mesh;
    let slope = [7.0, 8.0, 9.0];
    let laid = apply(
        Operation::of(Place { lay: Some(FacePick::At(slope)), to_bench: true, ..Default::default() }),
        &wedge,
        &[],
    )
    .unwrap();
    let on_bench = laid.mesh.points().iter().filter(|p| p.z.abs() < 1e-9).count();
    assert_eq!(on_bench, 4, "it lies on its slope: {:?}", laid.mesh.points());
    near(sealed(&laid.mesh), sealed(&wedge), 1e-9);
    let measured = Measured { between: [[5.0, 6.5, 7.5], [9.0, 6.5, 7.5]], becomes: 10.0 };
    let scaled = apply(Operation::of(Place { measured: Some(measured), ..Default::default() }), &wedge, &[]).unwrap();
    near(sealed(&scaled.mesh), sealed(&wedge) * 2.5f64.powi(3), 1e-9);
    let nowhere = Place { lay: Some(FacePick::At([90.0, 0.0, 0.0])), ..Default::default() };
    assert!(matches!(apply(Operation::of(nowhere), &wedge, &[]), Err(TradeError::NeedsNewPick { .. })));
    let round = Place { lay: Some(FacePick::At([3.0, 0.0, 0.0])), ..Default::default() };
    assert!(matches!(apply(Operation::of(round), &ball(3.0, 20), &[]), Err(TradeError::Refused { .. })));
    let same = Measured { between: [[1.0; 3], [1.0; 3]], becomes: 10.0 };
    let same = Place { measured: Some(same), ..Default::default() };
    assert!(matches!(apply(Operation::of(same), &wedge, &[]), Err(TradeError::Refused { .. })));
}

#[test]
fn all_edges_of_a_block_are_round() {
    let step = |rounded| AddBody {
        body: BodyShape::Block { size: [10.0, 8.0, 6.0], rounded, all_edges: true },
        at: [0.0; 3],
        chord: 0.002,
    };
    let part = block(Point::ZERO, Point::splat(1.0));
    let made = apply(Operation::of(step(2.0)), &part, &[]).unwrap().more.remove(0).mesh;
    // The inner block, six slabs, twelve quarter drums, a ball.
    let (x, y, z, r) = (6.0, 4.0, 2.0, 2.0);
    let theory = x * y * z + 2.0 * r * (x * y + y * z + z * x) + PI * r * r * (x + y + z) + 4.0 / 3.0 * PI * r * r * r;
    near(sealed(&made), theory, 1e-3);
    assert!(matches!(apply(Operation::of(step(3.0)), &part, &[]), Err(TradeError::Refused { .. })));
}

#[test]
fn planes_alone_enclose_a_chamber_beside_the_part() {
    let planes: Vec<Plane> = (0..3)
        .flat_map(|k| {
            let axis = |x: f64| [0, 1, 2].map(|i| if i == k { x } else { 0.0 });
            [plane(axis(30.0), axis(1.0)), plane(axis(34.0), axis(-2.0))]
        })
        .collect();
    let step = Operation::of(Chambers { planes, ..Default::default() });
    let found = apply(step, &block(Point::ZERO, Point::splat(8.0)), &[]).unwrap();
    assert!(found.more.iter().any(|m| (sealed(&m.mesh) - 64.0).abs() < 1e-4), "the cube between the planes");
}

#[test]
fn a_plane_by_a_face_goes_where_the_face_goes() {
    let tall = |height: f64| {
        let how = Grouping { angle: DEFAULT_ANGLE, tolerance: 1e-3 };
        group_faces(block(Point::ZERO, Point::new(8.0, 4.0, height)), how, &Progress::unwatched()).unwrap()
    };
    let part = tall(10.0);
    let top = face_facts(&part, None, &Progress::unwatched())
        .unwrap()
        .into_iter()
        .find(|f| matches!(f.surface, FaceSurface::Plane { normal } if normal[2] > 0.5))
        .unwrap();
    let face = Some(FacePick::Anchored(FaceAnchor::of(&top, [3.0, 2.0, 10.0])));
    let below = Plane { at: [3.0, 2.0, 7.5], normal: [0.0, 0.0, 1.0], face };
    let saw = |height: f64| {
        let saw = Saw { by: Cutter::Plane(below.clone()), keep: Keep::Front, open: false, pegs: None };
        apply(Operation::of(saw), &tall(height), &[]).map(|o| sealed(&o.mesh))
    };
    near(saw(10.0).unwrap(), 80.0, 1e-6);
    near(saw(13.0).unwrap(), 80.0, 1e-6);
    let round = Plane { face: Some(FacePick::At([5.0, 0.0, 0.0])), ..below.clone() };
    let saw = Saw { by: Cutter::Plane(round), keep: Keep::Front, open: false, pegs: None };
    let refused = apply(Operation::of(saw), &ball(5.0, 24), &[]).unwrap_err();
    assert!(refused.to_string().contains("not flat"), "{refused}");
}
