use proptest::prelude::*;

use super::*;
use crate::measure::measure;
use crate::shapes::{ball, block};

fn sheet(corners: [[f64; 3]; 4]) -> Mesh {
    Mesh::with_one_face(corners.map(Point::from_array).to_vec(), vec![[0, 1, 2], [0, 2, 3]]).unwrap()
}

fn cube(corner: f64, size: f64) -> Mesh {
    block(Point::splat(corner), Point::splat(size))
}

/// The volumes of all chambers, the largest first, after each was taken out as a body of that volume and found by its place.
fn volumes(solids: &[&Mesh], sheets: &[&Mesh]) -> Vec<f64> {
    let quiet = Progress::unwatched();
    let all = Arrangement::new(solids, sheets, &quiet).unwrap();
    let chambers = all.chambers(0.0, &quiet).unwrap();
    let one = |(n, c): (usize, &Chamber)| {
        let body = chambers.body(&[n], &quiet).unwrap().mesh;
        let volume = measure(&body).volume;
        assert!((volume - c.volume).abs() < 1e-6 * (1.0 + volume), "{volume} is not {}", c.volume);
        match c.inside {
            Some(place) => assert_eq!(chambers.at(place), Some(n), "{place:?}"),
            None => assert!(c.volume < 1e-9, "{} without a place inside", c.volume),
        }
        c.volume
    };
    chambers.list().iter().enumerate().map(one).collect()
}

fn assert_volumes(found: &[f64], wanted: &[f64]) {
    assert_eq!(found.len(), wanted.len(), "{found:?} is not {wanted:?}");
    assert!(found.iter().zip(wanted).all(|(f, w)| (f - w).abs() < 1e-6 * w), "{found:?} is not {wanted:?}");
}

#[test]
fn a_cup_holds_something_once_a_sheet_covers_it() {
    let cup = cube(0.0, 4.0);
    let cup = cup.retain_triangles(|t| cup.corners(t).iter().any(|p| p.z < 4.0));
    assert_volumes(&volumes(&[], &[&cup]), &[]);
    let lid = sheet([[-1.0, -1.0, 3.0], [9.0, -1.0, 3.0], [9.0, 9.0, 3.0], [-1.0, 9.0, 3.0]]);
    assert_volumes(&volumes(&[], &[&cup, &lid]), &[48.0]);
    // A sheet that stands in it and reaches nothing parts nothing.
    let fin = sheet([[2.0, 1.0, 1.0], [2.0, 3.0, 1.0], [2.0, 3.0, 2.0], [2.0, 1.0, 2.0]]);
    assert_volumes(&volumes(&[], &[&cup, &lid, &fin]), &[48.0]);
    // One that touches the walls all round does.
    let wall = sheet([[1.0, 0.0, 0.0], [1.0, 4.0, 0.0], [1.0, 4.0, 5.0], [1.0, 0.0, 5.0]]);
    assert_volumes(&volumes(&[], &[&cup, &lid, &wall]), &[36.0, 12.0]);
    // One too short by little does not, but by less than single precision tells it does.
    let short = |by: f64| wall.clone().map_points(|p| Point::new(p.x, p.y.min(4.0 - by), p.z)).unwrap();
    assert_volumes(&volumes(&[], &[&cup, &lid, &short(1e-5)]), &[48.0]);
    assert_volumes(&volumes(&[], &[&cup, &lid, &short(1e-7)]), &[36.0, 12.0]);
}

#[test]
fn what_floats_in_a_chamber_is_no_part_of_it() {
    let (outer, middle, inner) = (cube(0.0, 9.0), cube(1.0, 7.0), cube(3.0, 2.0));
    assert_volumes(&volumes(&[&outer], &[&middle, &inner]), &[386.0, 335.0, 8.0]);
    assert_volumes(&volumes(&[], &[&inner, &outer, &middle]), &[386.0, 335.0, 8.0]);
    // It touches the walls in six points.
    let (points, triangles) = (
        vec![-Point::X, Point::X, -Point::Y, Point::Y, -Point::Z, Point::Z],
        vec![[1, 3, 5], [3, 0, 5], [0, 2, 5], [2, 1, 5], [3, 1, 4], [0, 3, 4], [2, 0, 4], [1, 2, 4]],
    );
    let eight = Mesh::with_one_face(points, triangles).unwrap();
    assert_volumes(&volumes(&[], &[&cube(-1.0, 2.0), &eight]), &[8.0 - 4.0 / 3.0, 4.0 / 3.0]);
    // Things side by side.
    assert_volumes(&volumes(&[&cube(0.0, 1.0), &cube(4.0, 2.0)], &[&cube(10.0, 3.0)]), &[27.0, 8.0, 1.0]);
}

#[test]
fn a_sheet_winds_round_nothing() {
    let quiet = Progress::unwatched();
    let wall = sheet([[1.0, -9.0, -9.0], [1.0, 9.0, -9.0], [1.0, 9.0, 9.0], [1.0, -9.0, 9.0]]);
    let all = Arrangement::new(&[&cube(0.0, 4.0)], &[&wall], &quiet).unwrap();
    let whole = all.body(|w| w[0] > 0, &quiet).unwrap();
    assert!((measure(&whole.mesh).volume - 64.0).abs() < 1e-9);
    let chambers = all.chambers(0.0, &quiet).unwrap();
    assert_eq!((0..2).map(|n| chambers.winding(n)).collect::<Vec<_>>(), [[1], [1]]);
    let parted: Vec<_> = chambers.beside(1).filter(|[f, b]| f != b).collect();
    assert!(!parted.is_empty() && parted.iter().all(|p| *p == [Some(0), Some(1)]), "{parted:?}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    /// Whatever sheets cut a ball, with a cube floating in it or crossing it, the pieces add up.
    #[test]
    fn chambers_add_up(
        planes in prop::collection::vec(((-1.0f64..1.0, -1.0f64..1.0, -1.0f64..1.0), -0.9f64..0.9), 0..5),
        at in -0.9f64..0.5, size in 0.1f64..0.6,
    ) {
        let (ball, cube) = (ball(1.0, 9), cube(at, size));
        let sheets: Vec<Mesh> = planes.iter().map(|&(normal, off)| {
            let n = Point::from(normal).normalize_or(Point::Z);
            let (u, v) = n.any_orthonormal_pair();
            sheet([[-3.0, -3.0], [3.0, -3.0], [3.0, 3.0], [-3.0, 3.0]].map(|[x, y]| (n * off + u * x + v * y).to_array()))
        }).collect();
        let quiet = Progress::unwatched();
        let inputs: Vec<&Mesh> = sheets.iter().collect();
        let all = Arrangement::new(&[&ball, &cube], &inputs, &quiet).unwrap();
        let chambers = all.chambers(0.0, &quiet).unwrap();
        // Planes may enclose a space beside the solids too.
        let total: f64 = (0..).zip(chambers.list()).filter(|(n, _)| chambers.winding(*n).iter().any(|w| *w > 0)).map(|(_, c)| c.volume).sum();
        let union = measure(&all.body(|w| w[0] + w[1] > 0, &quiet).unwrap().mesh).volume;
        prop_assert!((total - union).abs() < 1e-6, "{total} is not {union}");
        let inputs: Vec<&Mesh> = [&ball, &cube].into_iter().chain(inputs).collect();
        prop_assert_eq!(volumes(&[], &inputs).len(), chambers.list().len());
    }
}
