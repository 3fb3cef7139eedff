//! Corners of both senses at any angle: bodies that lie askew in each other, rounded all over.

use glam::{DQuat, EulerRot};
use nimbet_edges::graph::Graph;
use nimbet_kernel::{FaceId, Mesh, Point, Progress, shapes};

use crate::making::*;

/// A body turned about all three axes, and lifted.
fn askew(mesh: Mesh, angles: [f64; 3], up: f64) -> Mesh {
    let turn = DQuat::from_euler(EulerRot::XYZ, angles[0], angles[1], angles[2]);
    grouped(mesh.map_points(|p| turn * p + Point::Z * up).unwrap())
}

fn centred(size: [f64; 3]) -> Mesh {
    block(size.map(|s| s * -0.5), size)
}

/// All edges get a round: outer edges lose, inner ones gain, and what comes is a solid that has not lost its size.
fn rounded_all_over(body: &Mesh, radii: &[f64]) {
    for radius in radii {
        let made = cut(body, |_, _| true, round(*radius), 0.02);
        let made = made.unwrap_or_else(|e| panic!("{radius} mm: {e:?}"));
        let change = volume(&made) - volume(body);
        // No edge changes more than a strip of its length, as wide and as deep as the radius, and the edges are no longer than 500 mm.
        assert!(change.abs() < 500.0 * radius * radius, "{radius} mm: {change} mm³");
    }
}

#[test]
fn a_column_askew_through_a_plate() {
    let plate = centred([24.0, 20.0, 4.0]);
    for angles in [[0.0, 0.0, 0.3], [0.1, 0.0, 0.2], [0.12, -0.2, 0.4]] {
        let column = askew(centred([6.0, 7.0, 22.0]), angles, 0.0);
        rounded_all_over(&together(&[(plate.clone(), true), (column, true)]), &[0.05, 0.1, 0.3, 0.8]);
    }
}

#[test]
fn a_groove_askew_along_a_block() {
    let block = centred([20.0, 16.0, 10.0]);
    for angles in [[0.05, 0.1, 0.0], [0.1, -0.15, 0.3]] {
        let groove = askew(centred([40.0, 5.0, 8.0]), angles, 6.0);
        rounded_all_over(&together(&[(block.clone(), true), (groove, false)]), &[0.05, 0.2, 0.5]);
    }
}

#[test]
fn a_pin_askew_through_a_plate() {
    let plate = centred([24.0, 20.0, 4.0]);
    let pin = shapes::turned(&[(0.0, -11.0), (3.0, -11.0), (3.0, 11.0), (0.0, 11.0)], 48);
    for angles in [[0.1, 0.2, 0.0], [0.4, 0.0, 0.0]] {
        rounded_all_over(
            &together(&[(plate.clone(), true), (askew(pin.clone(), angles, 0.0), true)]),
            &[0.05, 0.1, 0.4],
        );
    }
}

/// Each edge by itself: outer ones lose, inner ones gain.
fn rounded_one_by_one(body: &Mesh, radii: &[f64]) {
    let outer: Vec<bool> = Graph::of(body, &Progress::unwatched()).unwrap().runs.iter().map(|run| run.convex).collect();
    assert!(outer.len() > 3);
    for (run, radius) in (0..outer.len()).flat_map(|run| radii.iter().map(move |radius| (run, *radius))) {
        let made = cut(body, |_, n| n as usize == run, round(radius), 0.02);
        let made = made.unwrap_or_else(|e| panic!("edge {run}, {radius} mm: {e:?}"));
        let change = volume(&made) - volume(body);
        assert!((change < 0.0) == outer[run] && change != 0.0, "edge {run}, {radius} mm: {change} mm³");
    }
}

#[test]
fn edges_of_coarse_drums_that_run_into_slanting_walls_one_by_one() {
    // Its sides stand off the drum by 0.1 mm, more than most of the radii.
    let drum = grouped(shapes::turned(&[(0.0, -6.0), (6.0, -6.0), (6.0, 6.0), (0.0, 6.0)], 18));
    let wall = |angles: [f64; 3]| askew(centred([9.0, 30.0, 30.0]), angles, 0.0).map_points(|p| p + Point::X * 7.0);
    for angles in [[0.3, 0.2, 0.1], [0.0, 0.5, 0.7]] {
        let against = together(&[(drum.clone(), true), (wall(angles).unwrap(), true)]);
        rounded_one_by_one(&against, &[0.01, 0.05, 0.2]);
    }
    let sawn = together(&[(drum, true), (wall([0.0, 0.5, 0.7]).unwrap(), false)]);
    rounded_one_by_one(&sawn, &[0.05, 0.2]);
}

/// A hall whose roof is one face with a crease along its ridge, and the same with a face for each side of the roof.
fn halls() -> [Mesh; 2] {
    let parted = drawn_out(&[[0.0, 0.0], [20.0, 0.0], [20.0, 10.0], [10.0, 20.0], [0.0, 10.0]], 30.0);
    let one = |face: FaceId| if face == FaceId(5) { FaceId(4) } else { face };
    let faces = parted.face_of().iter().map(|f| one(*f)).collect();
    [Mesh::new(parted.points().to_vec(), parted.triangles().to_vec(), faces).unwrap(), parted]
}

#[test]
fn a_crease_within_a_face_is_no_curve() {
    for places in [vec![[20.0, 15.0, 10.0]], vec![[20.0, 15.0, 10.0], [0.0, 15.0, 10.0]]] {
        let eaves =
            |hall: &Mesh| cut(hall, |g, r| places.iter().any(|at| edge_at(g, r, *at)), round(2.0), 0.02).unwrap();
        let [one, parted] = halls().map(|hall| volume(&eaves(&hall)));
        assert!((one / parted - 1.0).abs() < 1e-12, "{one} {parted}");
    }
}
