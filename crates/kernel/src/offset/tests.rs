use std::f64::consts::PI;

use proptest::prelude::*;

use super::*;
use crate::crossings::crossing_pairs;
use crate::measure::measure;
use crate::shapes::{ball, block, turned};
use crate::topology::EdgeUse;

fn how(corners: Corners, chord: f64) -> How {
    How { corners, rims: Rims::Square, chord }
}

/// Closed, without crossings, facing outward; its volume.
fn solid(mesh: &Mesh) -> f64 {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let regular = topology.edges_with(EdgeUse::Regular).count();
    assert_eq!(regular, topology.edge_count(), "every edge has two triangles that agree");
    let crossing = crossing_pairs(mesh, &triangle_bvh(mesh), &Progress::unwatched()).unwrap();
    assert_eq!(crossing, vec![]);
    let volume = measure(mesh).volume;
    assert!(volume > 0.0);
    volume
}

fn grown(mesh: &Mesh, by: f64, corners: Corners, chord: f64) -> Result<Offset, Fault> {
    grow(mesh, &|_| by, &how(corners, chord), &Progress::unwatched())
}

fn walled(mesh: &Mesh, span: (f64, f64), corners: Corners, chord: f64) -> Result<Offset, Fault> {
    wall(mesh, span, None, &how(corners, chord), &Progress::unwatched())
}

fn near(a: f64, b: f64, share: f64) {
    assert!((a / b - 1.0).abs() <= share, "{a} is not {b}");
}

#[test]
fn a_block_grows_and_shrinks_by_the_book() {
    let [x, y, z] = [10.0, 6.0, 4.0];
    let part = block(Point::new(1.0, 2.0, 3.0), Point::new(x, y, z));
    for d in [-1.5, -0.25, 0.5, 3.0] {
        let made = grown(&part, d, Corners::Sharp, 0.01).unwrap();
        near(solid(&made.mesh), (x + 2.0 * d) * (y + 2.0 * d) * (z + 2.0 * d), 1e-12);
    }
    // Round: slabs, a quarter of a cylinder along each edge, an eighth of a ball at each corner (Steiner's formula).
    let steiner =
        |d: f64| x * y * z + 2.0 * d * (x * y + y * z + z * x) + PI * d * d * (x + y + z) + 4.0 / 3.0 * PI * d * d * d;
    let lacking = |chord: f64| {
        let made = grown(&part, 2.0, Corners::Round, chord).unwrap();
        1.0 - solid(&made.mesh) / steiner(2.0)
    };
    let (coarse, fine) = (lacking(0.04), lacking(0.01));
    assert!(fine > 0.0 && fine < 2e-3, "{fine}");
    assert!((coarse / fine - 4.0).abs() < 1.2, "in step with the chord: {coarse} {fine}");
    // Inward a block stays sharp, and is gone past its half.
    near(solid(&grown(&part, -1.0, Corners::Round, 0.01).unwrap().mesh), 8.0 * 4.0 * 2.0, 1e-12);
    for corners in [Corners::Sharp, Corners::Round] {
        for d in [-2.5, -20.0] {
            assert_eq!(grown(&part, d, corners, 0.01), Err(Fault::Nothing), "{d}");
        }
    }
}

#[test]
fn an_l_profile_keeps_its_inner_corner_where_it_belongs() {
    // 4 by 4, less the quarter of 2 by 2, 3 high.
    let cut = |mesh: &Mesh| {
        let tool = block(Point::new(2.0, 2.0, -1.0), Point::splat(5.0));
        let all = Arrangement::new(&[mesh, &tool], &[], &Progress::unwatched()).unwrap();
        all.body(|w| w[0] > 0 && w[1] <= 0, &Progress::unwatched()).unwrap().mesh
    };
    let part = cut(&block(Point::ZERO, Point::new(4.0, 4.0, 3.0)));
    let made = grown(&part, 0.5, Corners::Sharp, 0.01).unwrap();
    near(solid(&made.mesh), (25.0 - 4.0) * 4.0, 1e-9);
    // Past the inner corner: it is swallowed only where it should be.
    let made = grown(&part, 3.0, Corners::Sharp, 0.01).unwrap();
    near(solid(&made.mesh), (100.0 - 4.0) * 9.0, 1e-9);
    let round = solid(&grown(&part, 0.5, Corners::Round, 0.002).unwrap().mesh);
    let flat = 12.0 + 16.0 * 0.5 - 0.25 + 5.0 * PI / 4.0 * 0.25;
    // Over and under each level a quarter of a round along the outline; five corners outward, one inward.
    let rim = |h: f64| 12.0 + 16.0 * h - h * h + 5.0 * PI / 4.0 * h * h;
    let steps = 20_000;
    let caps: f64 = (0..steps)
        .map(|k| {
            let z = (f64::from(k) + 0.5) / f64::from(steps) * 0.5;
            rim((0.25 - z * z).sqrt()) * 0.5 / f64::from(steps)
        })
        .sum();
    near(round, flat * 3.0 + 2.0 * caps, 2e-3);
}

#[test]
fn balls_cylinders_and_rings_shrink_until_nothing_is_left() {
    let part = ball(10.0, 40);
    for corners in [Corners::Sharp, Corners::Round] {
        near(solid(&grown(&part, 2.0, corners, 0.05).unwrap().mesh) / measure(&part).volume, 1.2f64.powi(3), 0.01);
        near(solid(&grown(&part, -4.0, corners, 0.05).unwrap().mesh) / measure(&part).volume, 0.6f64.powi(3), 0.01);
        assert_eq!(grown(&part, -10.5, corners, 0.05), Err(Fault::Nothing));
    }
    // A bar of 4 by 4: past its half it turns over without crossing itself.
    let bar = block(Point::ZERO, Point::new(4.0, 4.0, 40.0));
    assert_eq!(grown(&bar, -3.0, Corners::Sharp, 0.01), Err(Fault::Nothing));
    // A ring whose hole closes: a torus of 10 and 4 grown by 7 has only dimples left.
    let tube = |n: u32| f64::from(n) / 48.0 * 2.0 * PI;
    let profile: Vec<(f64, f64)> =
        (0..=48).map(|k| tube(k % 48)).map(|a| (10.0 + 4.0 * a.cos(), 4.0 * a.sin())).collect();
    let ring = turned(&profile, 64);
    let made = grown(&ring, 7.0, Corners::Round, 0.05).unwrap();
    assert!(made.cleaned);
    let steps = 100_000;
    let disc = |z: f64| (121.0 - z * z).max(0.0).sqrt();
    let exact: f64 = (0..steps)
        .map(|k| {
            let z = (f64::from(k) + 0.5) / f64::from(steps) * 11.0;
            let (out, inner) = (10.0 + disc(z), 10.0 - disc(z));
            2.0 * PI * (out * out - inner.max(0.0).powi(2)) * 11.0 / f64::from(steps)
        })
        .sum();
    near(solid(&made.mesh), exact, 0.01);
}

#[test]
fn sheets_get_walls_by_the_book() {
    let square = Mesh::with_one_face(
        vec![Point::ZERO, Point::X * 5.0, Point::new(5.0, 4.0, 0.0), Point::Y * 4.0],
        vec![[0, 1, 2], [0, 2, 3]],
    )
    .unwrap();
    for (span, volume) in [((0.0, 0.5), 10.0), ((-2.0, 0.0), 40.0), ((-0.5, 1.0), 30.0)] {
        near(solid(&walled(&square, span, Corners::Sharp, 0.01).unwrap().mesh), volume, 1e-12);
    }
    // A bowl: between two halves of balls.
    let whole = ball(10.0, 60);
    let bowl = whole.retain_triangles(|t| whole.corners(t).iter().all(|p| p.z < 1e-9));
    let made = walled(&bowl, (-2.0, 0.0), Corners::Sharp, 0.01).unwrap();
    near(solid(&made.mesh), 2.0 / 3.0 * PI * (1000.0 - 512.0), 4e-3);
    assert!(!made.cleaned);
    // Thicker than its radius it is full. All of it meets at the middle, so a coarser one will do.
    let whole = ball(10.0, 20);
    let coarse = whole.retain_triangles(|t| whole.corners(t).iter().all(|p| p.z < 1e-9));
    let full = solid(&walled(&coarse, (-12.0, 0.0), Corners::Sharp, 0.01).unwrap().mesh);
    assert!(full >= 2.0 / 3.0 * PI * 1000.0 * 0.97, "{full}");
    // An open box: inside sharp, outside round at its edges.
    let part = block(Point::ZERO, Point::new(8.0, 6.0, 5.0));
    let open = part.retain_triangles(|t| !part.corners(t).iter().all(|p| p.z == 5.0));
    near(solid(&walled(&open, (-1.0, 0.0), Corners::Round, 0.01).unwrap().mesh), 240.0 - 6.0 * 4.0 * 4.0, 1e-9);
    near(solid(&walled(&open, (0.0, 1.0), Corners::Sharp, 0.01).unwrap().mesh), 10.0 * 8.0 * 6.0 - 240.0, 1e-9);
    // A square tube, thickened inward past its middle: it fills up and does not turn inside out.
    let tube = part.retain_triangles(|t| {
        let c = part.corners(t);
        !c.iter().all(|p| p.z == 5.0) && !c.iter().all(|p| p.z == 0.0)
    });
    near(solid(&walled(&tube, (-3.5, 0.0), Corners::Sharp, 0.01).unwrap().mesh), 240.0, 1e-6);
}

#[test]
fn rims_follow_a_direction() {
    // Half of a roof: its rims run askew; along x the walls stay in planes of y.
    let p = [[0.0, 0.0, 0.0], [4.0, 0.0, 0.0], [4.0, 3.0, 3.0], [0.0, 3.0, 3.0]].map(Point::from_array).to_vec();
    let roof = Mesh::with_one_face(p, vec![[0, 1, 2], [0, 2, 3]]).unwrap();
    let along = How { rims: Rims::Along(Point::Z), ..how(Corners::Sharp, 0.01) };
    let made = wall(&roof, (0.0, 1.0), None, &along, &Progress::unwatched()).unwrap().mesh;
    near(solid(&made), 4.0 * 18f64.sqrt(), 1e-12);
    assert!(made.points().iter().all(|p| (-1e-12..=3.0 + 1e-12).contains(&p.y)), "the walls stand upright");
    let flat = How { rims: Rims::Along(Point::X), ..along };
    assert!(matches!(wall(&roof, (0.0, 1.0), None, &flat, &Progress::unwatched()), Err(Fault::AlongSurface(_))));
}

#[test]
fn a_coat_on_part_of_a_block_stays_off_its_core() {
    let part = block(Point::ZERO, Point::new(8.0, 6.0, 5.0));
    let coated = part.retain_triangles(|t| part.corners(t).iter().any(|p| p.z != 0.0));
    let made = wall(&coated, (0.0, 0.5), Some(&part), &how(Corners::Sharp, 0.01), &Progress::unwatched()).unwrap();
    near(solid(&made.mesh), 9.0 * 7.0 * 5.5 - 240.0, 1e-9);
}

#[test]
fn faces_may_move_by_different_amounts() {
    let part = block(Point::ZERO, Point::new(8.0, 6.0, 5.0));
    let top: Vec<bool> = (0..12).map(|t| part.corners(t).iter().all(|p| p.z == 5.0)).collect();
    let part = part.regroup(|t| FaceId(u32::from(top[t])));
    let by = |face: FaceId| if face.0 == 1 { 2.0 } else { -1.0 };
    let made = grow(&part, &by, &how(Corners::Sharp, 0.01), &Progress::unwatched()).unwrap();
    near(solid(&made.mesh), 6.0 * 4.0 * 6.0, 1e-9);
}

#[test]
fn what_has_no_outside_is_refused_with_the_place() {
    let fan = vec![Point::ZERO, Point::Z, Point::X, Point::Y, -Point::X];
    let crowded = Mesh::with_one_face(fan, vec![[0, 1, 2], [1, 0, 3], [0, 1, 4]]).unwrap();
    assert!(matches!(walled(&crowded, (0.0, 1.0), Corners::Sharp, 0.1), Err(Fault::Crowded(_))));
    let clash = Mesh::with_one_face(
        vec![Point::ZERO, Point::X, Point::Y, Point::new(1.0, -1.0, 0.0)],
        vec![[0, 1, 2], [0, 1, 3]],
    );
    assert!(matches!(walled(&clash.unwrap(), (0.0, 1.0), Corners::Sharp, 0.1), Err(Fault::Clashing(_))));
}

#[test]
fn a_sampled_offset_nears_the_book_by_the_square_of_its_resolution() {
    let part = ball(10.0, 120);
    let whole = measure(&part).volume;
    let lacking = |resolution: f64, by: f64| {
        let (made, off) = grow_sampled(&part, by, resolution, &Progress::unwatched()).unwrap();
        assert!(off < 0.2 * resolution, "{off}");
        (solid(&made.mesh) / whole / ((10.0 + by) / 10.0).powi(3) - 1.0).abs()
    };
    for by in [-3.0, 2.0] {
        let (coarse, fine) = (lacking(0.8, by), lacking(0.4, by));
        assert!(fine < 1e-3 && coarse / fine > 2.5, "{by}: {coarse} {fine}");
    }
    assert_eq!(grow_sampled(&part, -10.5, 0.5, &Progress::unwatched()).unwrap_err(), Fault::Nothing);
    let part = block(Point::ZERO, Point::new(10.0, 8.0, 6.0));
    let (made, _) = grow_sampled(&part, -1.0, 0.3, &Progress::unwatched()).unwrap();
    near(solid(&made.mesh), 8.0 * 6.0 * 4.0, 3e-3);
}

/// A closed star: a ball whose points are drawn in and out.
fn star(rows: usize, heights: &[f64]) -> Mesh {
    let round = ball(10.0, rows);
    let points = round.points().iter().enumerate().map(|(n, p)| *p * heights[n % heights.len()]).collect();
    Mesh::with_one_face(points, round.triangles().to_vec()).unwrap()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn whatever_is_moved_by_whatever_gives_a_solid_or_nothing(
        heights in proptest::collection::vec(0.35f64..1.0, 3..17),
        by in -6.0f64..6.0,
        sharp in any::<bool>(),
        open in any::<bool>(),
    ) {
        let whole = star(5, &heights);
        let corners = if sharp { Corners::Sharp } else { Corners::Round };
        let how = How { corners, rims: Rims::Square, chord: 0.2 };
        let made = if open {
            let sheet = whole.retain_triangles(|t| whole.corners(t).iter().all(|p| p.z < 3.0));
            wall(&sheet, (by.min(0.0), by.max(0.0)), None, &how, &Progress::unwatched())
        } else {
            grow(&whole, &|_| by, &how, &Progress::unwatched())
        };
        match made {
            Ok(made) => { solid(&made.mesh); }
            Err(fault) => prop_assert!(matches!(fault, Fault::Nothing), "{fault}"),
        }
    }

    #[test]
    fn a_round_offset_is_at_the_distance(
        heights in proptest::collection::vec(0.5f64..1.0, 3..17),
        by in -4.0f64..4.0,
    ) {
        let part = star(5, &heights);
        let chord = 0.05;
        prop_assume!(by.abs() > 4.0 * chord);
        let Ok(made) = grow(&part, &|_| by, &how(Corners::Round, chord), &Progress::unwatched()) else { return Ok(()) };
        let topology = Topology::new(part.triangles(), part.points().len());
        let depth = Depth::new(&part, &topology);
        // In creases, where two pieces of arcs meet at a low angle, facets may cut deeper; hardly any surface does.
        let (mut off, mut all) = (0.0, 0.0);
        for t in 0..made.mesh.triangles().len() {
            let middle = made.mesh.corners(t).iter().sum::<Point>() / 3.0;
            let area = made.mesh.area_vector(t).length();
            all += area;
            off += if (depth.at(middle).unwrap().depth - by).abs() > 3.0 * chord { area } else { 0.0 };
        }
        prop_assert!(off <= 1e-2 * all, "{off} of {all} mm² are off");
    }
}
