//! What real files are broken by becomes a solid, and nothing of it is lost unsaid.

use crate::dice;
#[allow(dead_code)]
use crate::gallery;

use crate::classes::{Case, classes};
use nimbet_kernel::harm::harm;
use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_trade::Plan;
use nimbet_trade::harm::{HarmFacts, MAY_LOSE, far_distance};
use nimbet_trade::seal::{FindInside, MergePoints};
use nimbet_trade::shape::{Base, Floor};
use nimbet_trade::{Operation, PartState, examine};
use rayon::prelude::*;

fn quiet() -> Progress {
    Progress::unwatched()
}

fn planned(mesh: &Mesh) -> Mesh {
    Operation::of(Plan::default()).apply(mesh, &[], &quiet()).map_or_else(|_| mesh.clone(), |o| o.mesh)
}

/// Why a case did not come out as it should.
fn fault(case: &Case) -> Option<String> {
    let made = planned(&case.mesh);
    let seen = examine(&made, &quiet()).unwrap();
    let harm = HarmFacts::of(&harm(&case.mesh, &made, far_distance(&case.mesh), &quiet()).unwrap());
    let at = format!("{} {}", case.class, case.seed);
    if seen.figures.state != PartState::Sealed {
        let left = Operation::of(Plan::default()).apply(&case.mesh, &[], &quiet()).map(|o| o.left);
        return Some(format!("{at}: {} {left:?}", seen.figures.reason));
    }
    if harm.lost.share > MAY_LOSE {
        return Some(format!("{at}: lost {}", harm.lost.told()));
    }
    let (truth, off) = case.volume?;
    let volume = seen.figures.volume.unwrap_or(0.0);
    ((volume / truth - 1.0).abs() > off).then(|| format!("{at}: {volume} mm³ of {truth}"))
}

#[test]
fn every_class_becomes_a_solid_and_loses_nothing() {
    let faults: Vec<String> = classes(10).par_iter().filter_map(fault).collect();
    assert!(faults.is_empty(), "{}\n{}", faults.len(), faults.join("\n"));
}

/// A grid of squares in the plane, each triangle with corners of its own, moved by noise of a given size.
fn noisy_soup(noise: f64) -> Mesh {
    let mut dice = dice::Dice::new(11);
    let mut soup = Vec::new();
    let mut put = |x: f64, y: f64| {
        let off = Point::new(dice.roll(), dice.roll(), dice.roll()) * 2.0 - 1.0;
        soup.push(Point::new(x, y, 0.0) + off * noise);
    };
    for x in 0..12 {
        for y in 0..12 {
            let (x, y) = (f64::from(x), f64::from(y));
            [(x, y), (x + 1.0, y), (x, y + 1.0), (x + 1.0, y), (x + 1.0, y + 1.0), (x, y + 1.0)]
                .into_iter()
                .for_each(|(x, y)| put(x, y));
        }
    }
    let triangles = (0..soup.len() as u32 / 3).map(|t| [3 * t, 3 * t + 1, 3 * t + 2]).collect();
    Mesh::with_one_face(soup, triangles).unwrap()
}

#[test]
fn the_histogram_suggests_a_distance_between_noise_and_edges_and_merging_within_it_keeps_every_corner() {
    for noise in [1e-6, 1e-4, 1e-2] {
        let mesh = noisy_soup(noise);
        let corners = examine(&mesh, &quiet()).unwrap().corners.unwrap();
        // Every corner is naked; the shortest edges are the sides of the squares.
        assert_eq!(corners.corners, 12 * 12 * 6);
        assert!((corners.shortest_edge - 1.0).abs() < 4.0 * noise, "{corners:?}");
        assert_eq!(corners.bins.iter().map(|b| b.edges).sum::<usize>(), 12 * 12 * 6);
        let within = corners.suggested.unwrap();
        assert!(within > noise && within < 0.75, "{noise}: {within}");
        let made = Operation::of(MergePoints { within }).apply(&mesh, &[], &quiet()).unwrap();
        assert_eq!(made.mesh.points().len(), 13 * 13, "{noise}");
        assert!(made.largest_move <= within * 0.5 && made.largest_move <= 2.0 * noise * 3f64.sqrt());
    }
    // Two walls nearer to each other than the distance are not merged.
    let two = gallery::block(Point::ZERO, 4.0);
    let thin = two.map_points(|p| Point::new(p.x, p.y, p.z * 1e-3)).unwrap();
    let soup: Vec<Point> = gallery::corners(&thin);
    let apart = Mesh::with_one_face(soup, (0..12).map(|t| [3 * t, 3 * t + 1, 3 * t + 2]).collect()).unwrap();
    let flat = Operation::of(MergePoints { within: 0.1 }).apply(&apart, &[], &quiet());
    assert!(flat.is_err(), "{:?}", flat.map(|o| o.done));
}

#[test]
fn a_base_under_a_slope_has_the_volume_of_the_prism() {
    // A square of 10 mm that rises from 0 to 5 mm, on a floor 2 mm below its lowest point, and on one given.
    let at = |x: f64, y: f64| Point::new(x, y, x * 0.5);
    let points = vec![at(0.0, 0.0), at(10.0, 0.0), at(10.0, 10.0), at(0.0, 10.0)];
    let sheet = Mesh::with_one_face(points, vec![[0, 1, 2], [0, 2, 3]]).unwrap();
    for (floor, volume) in [(Floor::Below(2.0), 250.0 + 200.0), (Floor::At([0.0, 0.0, -1.0]), 250.0 + 100.0)] {
        let made = Operation::of(Base { floor, up: Some([0.0, 0.0, 1.0]) }).apply(&sheet, &[], &quiet()).unwrap();
        let seen = examine(&made.mesh, &quiet()).unwrap();
        assert_eq!(seen.figures.state, PartState::Sealed, "{}", seen.figures.reason);
        assert!((seen.figures.volume.unwrap() - volume).abs() < 1e-9, "{:?}", seen.figures.volume);
    }
    // A floor above the sheet's lowest point would cut through it.
    assert!(
        Operation::of(Base { floor: Floor::At([0.0, 0.0, 1.0]), up: Some([0.0, 0.0, 1.0]) })
            .apply(&sheet, &[], &quiet())
            .is_err()
    );
}

#[test]
fn senseless_figures_are_refused_and_never_make_a_part() {
    let terrain = classes(1).into_iter().find(|c| c.class == "terrain").unwrap().mesh;
    for x in [0.0, -1.0, 1e-12, 1e12, 1e308, f64::NAN] {
        let steps = [
            Operation::of(FindInside { wall: Some(x) }),
            Operation::of(MergePoints { within: x }),
            Operation::of(Base { floor: Floor::Below(x), up: None }),
            Operation::of(Plan { may_lose: Some(x - 1.5), ..Default::default() }),
        ];
        for step in steps {
            let made = step.apply(&terrain, &[], &quiet());
            assert!(made.is_err(), "{}: {:?}", step.title(), made.map(|o| o.done));
        }
    }
}
