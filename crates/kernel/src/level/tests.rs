use std::f64::consts::PI;

use proptest::prelude::*;

use super::*;
use crate::measure::measure;
use crate::shapes::{ball, block, turned};

/// The triangle nearest to a place, from the side a direction comes from.
fn seed(mesh: &Mesh, at: Point) -> Seed {
    let distance = |t: usize| crate::segments::nearest_on_triangle(at, mesh.corners(t)).distance(at);
    let t = (0..mesh.triangles().len()).min_by(|a, b| distance(*a).total_cmp(&distance(*b))).unwrap();
    let back = mesh.area_vector(t).dot(at - mesh.corners(t)[0]) < 0.0;
    Seed { triangle: t as u32, back }
}

fn vessel<'a>(mesh: &'a Mesh, at: Point, up: Point) -> Vessel<'a> {
    Vessel::new(mesh, seed(mesh, at), up, &Progress::unwatched()).unwrap()
}

fn body_is_what_the_pool_says(vessel: &Vessel<'_>, level: f64) {
    let pool = vessel.pool(level).unwrap();
    let body = vessel.body(level).unwrap();
    let topology = Topology::new(body.triangles(), body.points().len());
    assert!((0..topology.edge_count() as u32).all(|e| topology.edge_use(e) == EdgeUse::Regular));
    let volume = measure(&body).volume;
    // Points at the level lie on it within the precision of the vessel.
    assert!((volume - pool.volume).abs() < 1e-7 * pool.volume.max(1.0), "{volume} is not {}", pool.volume);
}

/// A cup: the outside up, the brim, the inside down.
fn cup(segments: usize) -> Mesh {
    turned(&[(0.0, 0.0), (22.0, 0.0), (30.0, 50.0), (27.0, 50.0), (19.0, 4.0), (0.0, 4.0)], segments)
}

#[test]
fn a_cup_holds_a_frustum_at_every_level_and_runs_over_its_brim() {
    let cup = cup(180);
    let v = vessel(&cup, Point::new(1.0, 1.0, 5.0), Point::Z);
    assert_eq!((v.brim().level, v.bottom()), (50.0, 4.0));
    assert!((v.brim().at.unwrap().z - 50.0).abs() < 1e-12 && !v.brim().at_rim);
    let facets = (2.0 * PI / 180.0).sin() / (2.0 * PI / 180.0);
    for level in [4.001, 10.0, 27.3, 49.9, 50.0, 80.0] {
        let pool = v.pool(level).unwrap();
        let h = level.min(50.0) - 4.0;
        let top = 19.0 + 8.0 / 46.0 * h;
        let wanted = PI * h / 3.0 * (19.0 * 19.0 + 19.0 * top + top * top) * facets;
        assert!((pool.volume / wanted - 1.0).abs() < 1e-9, "{level}: {} is not {wanted}", pool.volume);
        assert!((pool.area / (PI * top * top * facets) - 1.0).abs() < 1e-9 || level >= 50.0);
        let back = v.level_of(pool.volume, &Progress::unwatched()).unwrap();
        assert!((back - level.min(50.0)).abs() < 1e-8, "{back} is not {level}");
        if level < 50.0 {
            body_is_what_the_pool_says(&v, level);
        }
    }
    assert!(v.pool(3.0).is_none() && v.pool(4.0).is_none());
    // Beside it and under it nothing can be filled.
    let fault = Vessel::new(&cup, seed(&cup, Point::new(40.0, 0.0, 20.0)), Point::Z, &Progress::unwatched());
    assert_eq!(fault.err(), Some(LevelFault::NoVessel));
    // Turned over it holds what its foot holds: nothing.
    let fault = Vessel::new(&cup, seed(&cup, Point::new(1.0, 1.0, -1.0)), -Point::Z, &Progress::unwatched());
    assert_eq!(fault.err(), Some(LevelFault::NoVessel));
}

#[test]
fn a_tilted_bowl_holds_the_cap_of_its_ball() {
    // A sheet: half a ball, filled through its rim.
    let round = ball(20.0, 120);
    let bowl = round.retain_triangles(|t| round.corners(t).iter().all(|p| p.z < 1e-9));
    for tilt in [0.0f64, 0.3, 0.7] {
        let up = Point::new(tilt.sin(), 0.0, tilt.cos());
        let v = vessel(&bowl, Point::new(0.0, 0.0, -19.0), up);
        // The rim dips to the side of the tilt.
        let lip = -20.0 * tilt.sin();
        assert!((v.brim().level - lip).abs() < 0.02 && v.brim().at_rim, "{tilt}: {:?}", v.brim());
        for share in [0.2, 0.9, 1.0] {
            let depth = (lip + 20.0) * share;
            let pool = v.pool(-20.0 + depth).unwrap();
            let cap = PI * depth * depth * (20.0 - depth / 3.0);
            assert!((pool.volume / cap - 1.0).abs() < 4e-3, "{tilt} {share}: {} is not {cap}", pool.volume);
        }
        body_is_what_the_pool_says(&v, lip - 5.0);
    }
    // The outside of the same sheet holds nothing.
    let under = Vessel::new(&bowl, seed(&bowl, Point::new(0.0, 0.0, -21.0)), Point::Z, &Progress::unwatched());
    assert_eq!(under.err(), Some(LevelFault::NoVessel));
}

#[test]
fn a_trough_with_a_sill_fills_one_side_then_the_other_and_a_ring_holds_a_moat() {
    // A tray 30 × 20 in plan, 1 thick, 10 high, with a sill of 4 across its middle: as a turned ring would be a moat.
    let profile = [
        (0.0, 0.0),
        (12.0, 0.0),
        (12.0, 10.0),
        (11.0, 10.0),
        (11.0, 1.0),
        (6.0, 1.0),
        (6.0, 5.0),
        (5.0, 5.0),
        (5.0, 1.0),
        (0.0, 1.0),
    ];
    let tray = turned(&profile, 4);
    let inner = vessel(&tray, Point::new(0.1, 0.1, 1.5), Point::Z);
    let moat = vessel(&tray, Point::new(4.3, 4.3, 1.5), Point::Z);
    // Square rings: a turned profile in four has the area 2 r².
    let ring = |outer: f64, inner: f64, h: f64| 2.0 * (outer * outer - inner * inner) * h;
    assert!((inner.pool(3.0).unwrap().volume - ring(5.0, 0.0, 2.0)).abs() < 1e-9);
    assert!((moat.pool(3.0).unwrap().volume - ring(11.0, 6.0, 2.0)).abs() < 1e-9);
    // Above the sill both are one.
    let both = ring(11.0, 0.0, 5.0) + ring(11.0, 6.0, 4.0) + ring(5.0, 0.0, 4.0);
    assert!(
        (inner.pool(10.0).unwrap().volume - both).abs() < 1e-9 && (moat.pool(10.0).unwrap().volume - both).abs() < 1e-9
    );
    assert_eq!(inner.brim().level, 10.0);
    // More than the middle holds stands at the sill until the moat is full.
    let half = ring(5.0, 0.0, 4.0) + ring(11.0, 6.0, 4.0) * 0.5;
    assert!((inner.level_of(half, &Progress::unwatched()).unwrap() - 5.0).abs() < 1e-8);
    body_is_what_the_pool_says(&moat, 4.0);
    body_is_what_the_pool_says(&inner, 7.0);
}

#[test]
fn voids_fill_to_their_tops_and_what_floats_in_them_takes_its_room() {
    let mut void = block(Point::splat(2.0), Point::splat(6.0));
    void.reverse_triangles(|_| true);
    let core = block(Point::splat(4.0), Point::splat(1.0));
    let (mut points, mut triangles) = (Vec::new(), Vec::new());
    for m in [&block(Point::ZERO, Point::splat(10.0)), &void, &core] {
        let from = points.len() as u32;
        points.extend(m.points());
        triangles.extend(m.triangles().iter().map(|t| t.map(|p| p + from)));
    }
    let part = Mesh::with_one_face(points, triangles).unwrap();
    let v = vessel(&part, Point::new(3.0, 3.0, 2.1), Point::Z);
    assert_eq!((v.brim().level, v.brim().at), (8.0, None));
    assert!((v.pool(3.5).unwrap().volume - 36.0 * 1.5).abs() < 1e-9);
    assert!((v.pool(4.5).unwrap().volume - (36.0 * 2.5 - 0.5)).abs() < 1e-9);
    assert!((v.pool(6.0).unwrap().volume - (36.0 * 4.0 - 1.0)).abs() < 1e-9);
    assert!((v.pool(9.0).unwrap().volume - (216.0 - 1.0)).abs() < 1e-9);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]
    #[test]
    fn of_any_turned_vessel_the_volume_is_that_of_its_sections(
        radii in prop::collection::vec(3.0f64..20.0, 3..8), wall in 0.5f64..2.0, turn in 0.0f64..0.3,
    ) {
        let mut profile = vec![(0.0, -wall), (radii[0] + wall, -wall)];
        profile.extend(radii.iter().enumerate().map(|(n, r)| (*r + wall, n as f64 * 5.0)));
        profile.extend(radii.iter().enumerate().rev().map(|(n, r)| (*r, n as f64 * 5.0)));
        profile.push((0.0, 0.0));
        let part = turned(&profile, 24);
        let up = Point::new(turn.sin(), 0.0, turn.cos());
        let at = seed(&part, Point::new(0.5, 0.2, 0.01));
        let Ok(v) = Vessel::new(&part, at, up, &Progress::unwatched()) else { return Ok(()) };
        let (bottom, brim) = (v.bottom(), v.brim().level);
        const SLICES: usize = 400;
        let step = (brim - bottom) / SLICES as f64;
        let areas: f64 = (0..SLICES).filter_map(|n| Some(v.pool(bottom + (n as f64 + 0.5) * step)?.area)).sum();
        let pool = v.pool(brim).unwrap();
        prop_assert!((areas * step / pool.volume - 1.0).abs() < 0.02, "{} is not {}", areas * step, pool.volume);
        let half = v.level_of(pool.volume * 0.5, &Progress::unwatched()).unwrap();
        let there = v.pool(half).unwrap().volume;
        prop_assert!((there / pool.volume - 0.5).abs() < 1e-6, "{there} of {}", pool.volume);
    }
}
