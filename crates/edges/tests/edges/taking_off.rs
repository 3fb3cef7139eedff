//! Faces taken off: what was rounded is sharp again, bores are closed, bosses gone.

use std::collections::BTreeSet;

use nimbet_edges::graph::Graph;
use nimbet_edges::{TakeOffError, take_off};
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
