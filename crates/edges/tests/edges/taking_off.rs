//! Faces taken off: what was rounded is sharp again, bores are closed, bosses gone.

use std::collections::BTreeSet;

use nimbet_edges::graph::Graph;
use nimbet_edges::plan::{Planner, Wanted};
use nimbet_edges::station::Section;
use nimbet_edges::{TakeOffError, finish, take_off};
use nimbet_kernel::measure::measure;
use nimbet_kernel::{FaceId, Mesh, Point, Progress, shapes};

use crate::making::*;

/// A body without the faces for which something holds of a triangle's middle.
fn without(mesh: &Mesh, goes: impl Fn(Point) -> bool) -> Result<Mesh, TakeOffError> {
    let middle = |t: usize| mesh.corners(t).iter().sum::<Point>() / 3.0;
    let going: BTreeSet<FaceId> =
        (0..mesh.triangles().len()).filter(|t| goes(middle(*t))).map(|t| mesh.face_of()[t]).collect();
    let made = take_off(mesh, &going, &Progress::unwatched())?.mesh;
    is_solid(&made);
    Ok(made)
}

fn faces(mesh: &Mesh) -> usize {
    mesh.face_of().iter().collect::<std::collections::HashSet<_>>().len()
}

/// The faces that came with a rounding: all with numbers the body had not.
fn rounded_faces_off(before: &Mesh, rounded: &Mesh) -> Mesh {
    let going: BTreeSet<FaceId> = rounded.face_of().iter().copied().filter(|f| f.0 >= before.next_face().0).collect();
    let made = take_off(rounded, &going, &Progress::unwatched()).unwrap().mesh;
    is_solid(&made);
    made
}

#[test]
fn what_was_rounded_comes_back() {
    let block = block([0.0; 3], [20.0, 16.0, 12.0]);
    let one = cut(&block, |g, r| edge_at(g, r, [10.0, 16.0, 12.0]), round(2.0), 0.01).unwrap();
    let all = cut(&block, |_, _| true, round(2.0), 0.01).unwrap();
    let inner = cut(&bracket(), |g, r| !g.runs[r as usize].convex, round(3.0), 0.01).unwrap();
    let drum = drum(48);
    let rims = cut(&drum, |_, _| true, round(2.0), 0.02).unwrap();
    for (before, rounded) in [(&block, one), (&block, all), (&bracket(), inner), (&drum, rims)] {
        let back = rounded_faces_off(before, &rounded);
        assert!((volume(&back) / volume(before) - 1.0).abs() < 1e-7, "{} {}", volume(&back), volume(before));
        assert_eq!(faces(&back), faces(before));
    }
}

#[test]
fn of_a_block_rounded_all_over_the_top_is_made_sharp_again() {
    let block = block([0.0; 3], [20.0, 16.0, 12.0]);
    let all = cut(&block, |_, _| true, round(2.0), 0.01).unwrap();
    let below =
        |g: &Graph<'_>, r: u32| g.runs[r as usize].edges.iter().all(|e| g.ends(*e).iter().any(|v| g.place(*v).z < 1.0));
    let wanted = cut(&block, below, round(2.0), 0.01).unwrap();
    let top = without(&all, |p| p.z > 10.001 && p.z < 11.999).unwrap();
    assert!((volume(&top) / volume(&wanted) - 1.0).abs() < 1e-6, "{} {}", volume(&top), volume(&wanted));
}

#[test]
fn roundings_go_one_by_one_where_their_corners_go_with_them() {
    let block = block([0.0; 3], [20.0, 16.0, 12.0]);
    let all = cut(&block, |_, _| true, round(2.0), 0.01).unwrap();
    let at_edge = |p: Point| p.y > 14.001 && p.y < 15.999 && p.z > 10.001 && p.z < 11.999;
    // By itself it ends on balls, which cannot be carried on; with them the edge is sharp all along.
    assert!(matches!(without(&all, |p| at_edge(p) && (p.x - 10.0).abs() < 7.9), Err(TakeOffError::Neighbour { .. })));
    let sharp = without(&all, at_edge).unwrap();
    let but = |g: &Graph<'_>, r: u32| !edge_at(g, r, [10.0, 16.0, 12.0]);
    let wanted = cut(&block, but, round(2.0), 0.01).unwrap();
    assert!((volume(&sharp) / volume(&wanted) - 1.0).abs() < 1e-6, "{} {}", volume(&sharp), volume(&wanted));
    let chamfered = cut(&block, |_, _| true, Section::Chamfer { left: 1.0, right: 1.0 }, 0.01).unwrap();
    let back = rounded_faces_off(&block, &chamfered);
    assert!((volume(&back) - 3840.0).abs() < 1e-6 && faces(&back) == 6);
}

#[test]
fn sheets_are_sharp_again_and_keep_their_border() {
    let sheet = block([0.0; 3], [40.0, 20.0, 12.0]);
    let middle = |mesh: &Mesh, t: usize| mesh.corners(t).iter().sum::<Point>() / 3.0;
    let part = |keep: &dyn Fn(Point) -> bool| sheet.retain_triangles(|t| keep(middle(&sheet, t)));
    // A gutter, a cup and what is left of it without one end.
    let sheets =
        [part(&|p| p.z < 11.9 && p.x > 0.1 && p.x < 39.9), part(&|p| p.z < 11.9), part(&|p| p.z < 11.9 && p.x > 0.1)];
    let quiet = Progress::unwatched();
    for sheet in sheets {
        for flipped in [false, true] {
            let mut sheet = sheet.clone();
            sheet.reverse_triangles(|_| flipped);
            let graph = Graph::of(&sheet, &quiet).unwrap();
            let planner = Planner::new(&graph, 1e-2, &quiet);
            let all: Vec<Wanted> = (0..graph.runs.len() as u32).map(|run| Wanted::all_along(run, round(3.0))).collect();
            let soft = finish(&planner, &all, false, &quiet).unwrap().mesh;
            let going: BTreeSet<FaceId> =
                soft.face_of().iter().copied().filter(|f| f.0 >= sheet.next_face().0).collect();
            let back = take_off(&soft, &going, &quiet).unwrap().mesh;
            assert!(
                (measure(&back).area / measure(&sheet).area - 1.0).abs() < 1e-6,
                "{} {}",
                measure(&back).area,
                measure(&sheet).area
            );
            assert!((measure(&back).volume - measure(&sheet).volume).abs() < 1e-2, "the same way round");
            assert_eq!(faces(&back), faces(&sheet));
        }
    }
    // A bowl: its wall is a cone.
    let bowl = grouped(shapes::turned(&[(0.0, 0.0), (10.0, 0.0), (16.0, 12.0), (0.0, 12.0)], 64));
    let bowl = bowl.retain_triangles(|t| middle(&bowl, t).z < 11.9);
    let graph = Graph::of(&bowl, &quiet).unwrap();
    let soft =
        finish(&Planner::new(&graph, 1e-2, &quiet), &[Wanted::all_along(0, round(3.0))], false, &quiet).unwrap().mesh;
    let going: BTreeSet<FaceId> = soft.face_of().iter().copied().filter(|f| f.0 >= bowl.next_face().0).collect();
    let back = take_off(&soft, &going, &quiet).unwrap().mesh;
    assert!(
        (measure(&back).area / measure(&bowl).area - 1.0).abs() < 1e-4,
        "{} {}",
        measure(&back).area,
        measure(&bowl).area
    );
    assert!(matches!(take_off(&sheet, &sheet.face_of().iter().copied().collect(), &quiet), Err(TakeOffError::Alone)));
}

#[test]
fn bores_and_bosses_go() {
    let plate = block([-20.0, -20.0, -5.0], [40.0, 40.0, 5.0]);
    let boss = together(&[(plate.clone(), true), (upright(8.0, -2.0, 10.0, 48), true)]);
    let gone = without(&boss, |p| p.z > 0.1).unwrap();
    assert!((volume(&gone) - 8000.0).abs() < 1e-3, "{}", volume(&gone));
    let bored = together(&[(plate.clone(), true), (upright(8.0, -9.0, 9.0, 48), false)]);
    let closed = without(&bored, |p| p.z > -4.9 && p.z < -0.1 && p.truncate().length() < 9.0).unwrap();
    assert!((volume(&closed) - 8000.0).abs() < 1e-3, "{}", volume(&closed));
    let blind = together(&[(plate, true), (upright(8.0, -3.0, 9.0, 48), false)]);
    let closed = without(&blind, |p| p.z > -3.1 && p.z < -0.1 && p.truncate().length() < 9.0).unwrap();
    assert!((volume(&closed) - 8000.0).abs() < 1e-3, "{}", volume(&closed));
}

#[test]
fn what_cannot_be_carried_on_says_where() {
    let block = block([0.0; 3], [20.0, 16.0, 12.0]);
    // The sides of a block stand square to its top, so they never meet over it.
    assert!(matches!(without(&block, |p| p.z > 11.9), Err(TakeOffError::DoNotMeet { .. })));
    assert!(matches!(without(&block, |_| true), Err(TakeOffError::Alone)));
    let ball = grouped(shapes::ball(5.0, 12));
    let cap = together(&[(ball, true), (upright(9.0, 3.0, 9.0, 12), false)]);
    assert!(matches!(without(&cap, |p| p.z > 2.9), Err(TakeOffError::Neighbour { .. })));
}
