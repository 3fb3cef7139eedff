//! Known distances between surfaces.
use super::*;
use crate::shapes;
use proptest::prelude::*;

fn off(a: &Mesh, b: &Mesh) -> Deviation {
    deviation(a, b, &Progress::unwatched()).unwrap()
}

#[test]
fn a_shifted_block_is_off_by_the_shift_and_itself_by_nothing() {
    let block = shapes::block(Point::ZERO, Point::new(4.0, 5.0, 6.0));
    assert_eq!(off(&block, &block).largest, 0.0);
    let shifted = block.clone().map_points(|p| p + Point::X * 0.25).unwrap();
    let d = off(&shifted, &block);
    assert!(d.largest >= 0.25 && d.largest <= 0.25 * 1.011, "{d:?}");
    // Two sides of 30 mm² of 148 mm² stand off by the shift; the others slide along themselves but for a strip.
    assert!(d.mean > 0.25 * 30.0 / 148.0 && d.mean < 0.25, "{d:?}");
}

#[test]
fn a_disc_cut_into_other_triangles_is_off_by_nothing() {
    let ring: Vec<Point> = (0..300)
        .map(|k| (k as f64 / 300.0 * std::f64::consts::TAU).sin_cos())
        .map(|(y, x)| Point::new(x, y, 0.0) * 20.0)
        .collect();
    let comb = (1..299u32).map(|k| [0, k, k + 1]).collect();
    let zigzag = (0..298u32).map(|k| {
        let (low, high) = (k.div_ceil(2), 299 - k / 2);
        if k % 2 == 0 { [low, low + 1, high] } else { [low, high - 1, high] }
    });
    let a = Mesh::with_one_face(ring.clone(), comb).unwrap();
    let b = Mesh::with_one_face(ring, zigzag.collect()).unwrap();
    for d in [off(&a, &b), off(&b, &a)] {
        assert!(d.largest < 1e-5 && d.mean < 1e-6 && d.differ > 200, "{d:?}");
    }
}

#[test]
fn the_spread_of_a_dent_shows_it_within_a_large_triangle() {
    let plate = shapes::block(Point::ZERO, Point::new(8.0, 8.0, 1.0));
    let lifted = plate.clone().map_points(|p| if p.z > 0.5 { p + Point::Z * 0.3 } else { p }).unwrap();
    let (drawn, off) = spread(&lifted, &plate, 1.0, 100_000, &Progress::unwatched()).unwrap();
    assert!(drawn.triangles().len() > 200 && off.len() == drawn.points().len());
    let top = drawn.points().iter().zip(&off).filter(|(p, _)| p.z > 1.2999 && p.x > 1.0 && p.x < 7.0);
    assert!(top.clone().count() > 10 && top.clone().all(|(_, d)| (d - 0.3).abs() < 1e-9));
    let (same, none) = spread(&plate, &plate, 1.0, 100_000, &Progress::unwatched()).unwrap();
    assert!(same == plate && none.iter().all(|d| *d == 0.0));
}

#[test]
fn balls_of_two_radii_are_apart_by_the_difference_both_ways() {
    let (small, large) = (shapes::ball(10.0, 40), shapes::ball(10.5, 60));
    for d in [off(&small, &large), off(&large, &small)] {
        assert!((d.largest - 0.5).abs() < 0.03, "{d:?}");
        assert!((d.mean - 0.5).abs() < 0.03, "{d:?}");
        assert!((d.at.length() - 10.25).abs() < 0.3);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// No point of the surface lies farther off than told: tried at many points, against every triangle.
    #[test]
    fn nothing_lies_farther_off_than_told(
        dents in proptest::collection::vec((0usize..200, -2.0f64..2.0), 1..12), coarse in 5usize..9,
    ) {
        let ball = shapes::ball(10.0, 9);
        let (mut points, triangles, faces) = ball.clone().into_parts();
        let n = points.len();
        for (at, by) in dents {
            let p = points[at % n];
            points[at % n] = p * (1.0 + by / 10.0);
        }
        let dented = Mesh::new(points, triangles, faces).unwrap();
        for (a, b) in [(&dented, &ball), (&ball, &dented), (&dented, &shapes::ball(10.0, coarse))] {
            let told = off(a, b);
            for t in 0..a.triangles().len() {
                let [p, q, r] = a.corners(t);
                for i in 0..=6 {
                    for j in 0..=6 - i {
                        let at = p + (q - p) * (f64::from(i) / 6.0) + (r - p) * (f64::from(j) / 6.0);
                        let least = (0..b.triangles().len())
                            .map(|u| (nearest_on_triangle(at, b.corners(u)) - at).length())
                            .fold(f64::INFINITY, f64::min);
                        prop_assert!(least <= told.largest + 1e-9, "{least} at {at}, told {}", told.largest);
                    }
                }
            }
        }
    }
}
