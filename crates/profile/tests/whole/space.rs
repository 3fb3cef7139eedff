//! Lines in space: put end to end in whatever order they come, flat ones drawn in their plane, and paths along them.

use std::f64::consts::{PI, TAU};

use nimbet_kernel::{Point, Progress};
use nimbet_profile::Network;
use nimbet_profile::drawing::Drawing;
use nimbet_profile::path::Holding;
use nimbet_profile::shapes_of;
use nimbet_profile::space::{Strand, Strands, chained, drawn_in, plane_of};
use proptest::prelude::*;

type Xyz = [f64; 3];

/// A rotation about an axis, and a move.
fn moved(axis: Xyz, angle: f64, by: Xyz) -> impl Fn(Point) -> Point {
    let turn = glam::DQuat::from_axis_angle(Point::from_array(axis).normalize(), angle);
    move |p| turn * p + Point::from_array(by)
}

/// A slot of straight runs and half circles of radius 4, and a hole of 3.3 in it, 5 above the ground.
fn slot() -> Vec<Strand> {
    let half = |x: f64, down: f64| Strand::Round {
        centre: [x, 0.0, 5.0],
        u: [0.0, down, 0.0],
        v: [-down, 0.0, 0.0],
        turn: PI,
    };
    vec![
        Strand::Straight([[-10.0, -4.0, 5.0], [10.0, -4.0, 5.0]]),
        half(10.0, -4.0),
        Strand::Straight([[10.0, 4.0, 5.0], [-10.0, 4.0, 5.0]]),
        half(-10.0, 4.0),
        Strand::Round { centre: [10.0, 0.0, 5.0], u: [1.65, 0.0, 0.0], v: [0.0, 1.65, 0.0], turn: TAU },
    ]
}

#[test]
fn a_cubic_in_space_has_its_length_and_its_sections_stand_square_on_it() {
    let poles = [[0.0, 0.0, 0.0], [30.0, 0.0, 5.0], [30.0, 40.0, 10.0], [-10.0, 40.0, 60.0]];
    let strand = Strand::Free(poles);
    let path = Strands { strands: vec![strand], closed: false }.path();
    let steps: u32 = 200_000;
    let at = |k: u32| strand.at(f64::from(k) / f64::from(steps));
    let along: f64 = (0..steps).map(|k| at(k).distance(at(k + 1))).sum();
    assert!((path.length() / along - 1.0).abs() < 1e-9, "{} instead of {along}", path.length());
    let half = path.measured().after(along / 2.0).0;
    let up_to: f64 = (0..steps)
        .map(|k| (at(k), at(k + 1)))
        .take_while(|(a, _)| a.distance(half) > along / 1e4)
        .map(|(a, b)| a.distance(b))
        .sum();
    assert!((up_to / along - 0.5).abs() < 2e-4, "{up_to} of {along}");
    let stations = path.stations((0.01, 5.0), 0.0, Holding::Square(Point::Z)).unwrap();
    for pair in stations.windows(2) {
        assert!(pair[0].along.dot(pair[0].across).abs() < 1e-9);
        // Half way between two stations the curve stands off by no more than the chord.
        let (a, b) = (pair[0].at, pair[1].at);
        let way = (b - a).normalize();
        let off = |p: Point| ((p - a) - way * (p - a).dot(way)).length();
        let near = (0..=2000)
            .map(|k| strand.at(f64::from(k) / 2000.0))
            .filter(|p| (0.0..=a.distance(b)).contains(&(*p - a).dot(way)));
        assert!(near.filter(|p| p.distance(a) < 2.0 * a.distance(b)).map(off).fold(0.0, f64::max) < 0.0105);
    }
}

#[test]
fn what_does_not_go_on_is_a_chain_of_its_own() {
    // Three edges of a corner: nothing goes on where three end.
    let edges = [[9.0, 0.0, 0.0], [0.0, 9.0, 0.0], [0.0, 0.0, 9.0]].map(|to| Strand::Straight([[0.0; 3], to]));
    assert_eq!(chained(&edges, 1e-3).len(), 3);
    assert!(plane_of(&edges, 1e-6).is_none());
    // A hair apart is at one place, ten are not.
    let apart = |gap: f64| {
        [Strand::Straight([[0.0; 3], [9.0, 0.0, 0.0]]), Strand::Straight([[9.0, gap, 0.0], [9.0, 9.0, 1.0]])]
    };
    assert_eq!((chained(&apart(5e-4), 1e-3).len(), chained(&apart(1e-2), 1e-3).len()), (1, 2));
    let circle = chained(&slot()[4..], 1e-3);
    assert!(circle.len() == 1 && circle[0].closed);
    assert_eq!(chained(&[], 1e-3), []);
    assert!(plane_of(&[], 1e-6).is_none());
    // A straight line lies in many planes: one of them is taken, and it is drawn in it.
    let line = [Strand::Straight([[1.0, 2.0, 3.0], [4.0, -5.0, 60.0]])];
    let frame = plane_of(&line, 1e-6).unwrap();
    let drawn = drawn_in(&frame, &chained(&line, 1e-3));
    assert!((drawn[0][0].length() - (9.0f64 + 49.0 + 3249.0).sqrt()).abs() < 1e-9);
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, ..ProptestConfig::default() })]

    #[test]
    fn chains_are_found_whatever_the_order_and_the_sense_of_their_strands(
        places in prop::collection::vec([-9.0..9.0f64, -9.0..9.0, -9.0..9.0], 3..12),
        keys in prop::collection::vec((any::<u16>(), any::<bool>()), 12),
        closed in any::<bool>(),
    ) {
        let apart = (0..places.len()).all(|a| (0..a).all(|b| Point::from_array(places[a]).distance(Point::from_array(places[b])) > 0.1));
        prop_assume!(apart);
        let ends: Vec<(Xyz, Xyz)> = places.windows(2).map(|w| (w[0], w[1])).chain(closed.then(|| (places[places.len() - 1], places[0]))).collect();
        let strand = |n: usize, (a, b): (Xyz, Xyz)| match n % 2 {
            0 => Strand::Straight([a, b]),
            _ => Strand::Free([a, [a[0], a[1], b[2]], [b[0], a[1], b[2]], b]),
        };
        let mut mixed: Vec<(u16, Strand)> = ends.iter().enumerate().map(|(n, e)| {
            let own = strand(n, *e);
            (keys[n].0, if keys[n].1 { own.reversed() } else { own })
        }).collect();
        mixed.sort_by_key(|m| m.0);
        let strands: Vec<Strand> = mixed.into_iter().map(|m| m.1).collect();
        let chains = chained(&strands, 1e-3);
        prop_assert_eq!(chains.len(), 1);
        prop_assert_eq!((chains[0].strands.len(), chains[0].closed), (ends.len(), closed));
        for pair in chains[0].strands.windows(2) {
            prop_assert!(pair[0].ends()[1].distance(pair[1].ends()[0]) < 1e-12);
        }
    }

    #[test]
    fn flat_lines_enclose_what_they_enclose_however_their_plane_lies(
        axis in [-1.0..1.0f64, -1.0..1.0, 0.1..1.0], angle in 0.0..TAU, by in [-500.0..500.0f64, -500.0..500.0, -500.0..500.0], back in any::<bool>(),
    ) {
        let put = moved(axis, angle, by);
        let strands: Vec<Strand> = slot().iter().map(|s| s.put(&put)).map(|s| if back { s.reversed() } else { s }).collect();
        let chains = chained(&strands, 1e-3);
        prop_assert_eq!(chains.len(), 2);
        prop_assert!(chains.iter().all(|c| c.closed));
        let frame = plane_of(&strands, 1e-6).unwrap();
        prop_assert!(strands.iter().all(|s| (0..9).all(|k| frame.height(s.at(f64::from(k) / 8.0)).abs() < 1e-9)));
        let drawing = Drawing::of(shapes_of(&drawn_in(&frame, &chains)));
        let quiet = Progress::unwatched();
        let network = Network::new(drawing.curves().unwrap(), &quiet).unwrap();
        let mut areas: Vec<f64> = network.regions(&quiet).unwrap().iter().map(|r| r.area).collect();
        areas.sort_by(f64::total_cmp);
        let (hole, all) = (PI * 1.65 * 1.65, 160.0 + PI * 16.0);
        prop_assert!((areas[0] - hole).abs() < 1e-6 && (areas[1] - (all - hole)).abs() < 1e-6, "{:?}", areas);
        // Lifted out of its plane by a hair, it is no outline any more.
        let mut bent = strands;
        bent.push(Strand::Straight([put(Point::new(0.0, 0.0, 5.0)).to_array(), put(Point::new(1.0, 0.0, 5.01)).to_array()]));
        prop_assert!(plane_of(&bent, 1e-6).is_none());
    }

    #[test]
    fn a_strand_the_other_way_round_is_in_the_same_places(share in 0.0..1.0f64, turn in 0.1..TAU, r in 0.1..90.0f64, n in 0..3usize) {
        let strand = [
            Strand::Straight([[1.0, 2.0, 3.0], [r, -4.0, 0.0]]),
            Strand::Round { centre: [1.0, 2.0, 3.0], u: [0.0, r, 0.0], v: [0.0, 0.0, r], turn },
            Strand::Free([[0.0; 3], [r, 0.0, 0.0], [r, r, 0.0], [0.0, r, r]]),
        ][n];
        let back = strand.reversed();
        prop_assert!(strand.at(share).distance(back.at(1.0 - share)) < 1e-9);
        prop_assert!(strand.ends()[0].distance(back.ends()[1]) < 1e-9);
        // As a path it has the same places.
        let path = Strands { strands: vec![strand], closed: false }.path();
        prop_assert!(path.measured().after(0.0).0.distance(strand.at(0.0)) < 1e-9);
        prop_assert!(path.measured().after(path.length()).0.distance(strand.at(1.0)) < 1e-9);
    }
}
