//! Walls that stay sound: frames, sheets of all sorts, parts beside each other.

use super::*;

#[test]
fn a_wall_that_was_cleaned_survives_single_precision() {
    let bell = nimbet_trade::demo::fog_bell();
    let closed = apply(json!({ "kind": "seal.plan" }), &bell, &[]).unwrap().mesh;
    let made = apply(json!({ "kind": "wall.thicken", "inward": 2 }), &closed, &[]).unwrap().mesh;
    sealed(&made);
    let corners: Vec<Point> =
        made.triangles().iter().flatten().map(|p| made.points()[*p as usize].as_vec3().as_dvec3()).collect();
    let read = nimbet_kernel::weld::weld_corners(&corners).unwrap();
    let seen = examine(&read, &Progress::unwatched()).unwrap().figures;
    assert_eq!((seen.state, seen.shells), (PartState::Sealed, 2), "{}", seen.reason);
}

/// The number of a sequence that fills 0 to 1 evenly.
fn halton(mut n: u32, base: u32) -> f64 {
    let (mut share, mut sum) = (1.0, 0.0);
    while n > 0 {
        share /= f64::from(base);
        sum += share * f64::from(n % base);
        n /= base;
    }
    sum
}

#[test]
fn a_frame_opened_on_any_side_keeps_its_wall_along_all_others() {
    let part = nimbet_trade::demo::coaming();
    let part = group_faces(part, Grouping { angle: 30.0, tolerance: 0.01 }, &Progress::unwatched()).unwrap();
    let part = apply(json!({ "kind": "shape.untangle" }), &part, &[]).unwrap().mesh;
    let wall = 3.0;
    // Inner faces of the frame too: what is moved out there runs towards the boards across.
    for open in [[80.0, 12.0, 10.0], [80.0, 0.0, 10.0], [12.0, 60.0, 10.0], [148.0, 60.0, 10.0]] {
        let at = Point::from_array(open);
        let distance = |p: Point, t: usize| nearest_on_triangle(p, part.corners(t)).distance(p);
        let opened = (0..part.triangles().len()).min_by(|a, b| distance(at, *a).total_cmp(&distance(at, *b))).unwrap();
        let is_open = |t: usize| part.face_of()[t] == part.face_of()[opened];
        for corners in ["sharp", "round"] {
            let step = json!({ "kind": "wall.shell", "wall": wall, "open": [open], "corners": corners });
            let made = apply(step, &part, &[]).unwrap_or_else(|e| panic!("{open:?} {corners}: {e}"));
            sealed(&made.mesh);
            let (before, after) = (Winding::new(&part), Winding::new(&made.mesh));
            let mut looked = 0;
            for n in 0..9000 {
                let p = Point::new(halton(n, 2) * 160.0, halton(n, 3) * 120.0, halton(n, 5) * 46.0 - 6.0);
                let to = |open: bool| {
                    (0..part.triangles().len())
                        .filter(|t| is_open(*t) == open)
                        .map(|t| distance(p, t))
                        .fold(f64::INFINITY, f64::min)
                };
                // Beside the opening its plane goes on as far as it was moved.
                let (closed, opening) = (to(false), to(true));
                if before.at(p) < 0.5 || (closed - wall).abs() < 0.2 || opening < wall * 1.5 {
                    continue;
                }
                // Sharp corners keep material beyond the distance.
                if corners == "sharp" && closed > wall && closed < wall * 1.8 {
                    continue;
                }
                looked += 1;
                assert_eq!(after.at(p) > 0.5, closed < wall, "{open:?} {corners} {p}: {closed} off a closed face");
            }
            assert!(looked > 500, "{looked}");
        }
    }
}

/// A number from 0 to 1 that follows from another.
fn chance(state: &mut u64) -> f64 {
    *state ^= *state << 13;
    *state ^= *state >> 7;
    *state ^= *state << 17;
    (*state >> 11) as f64 / (1u64 << 53) as f64
}

/// A sheet that is different for each number: waves, stretched unevenly so that triangles are slivers; fans of many triangles
/// round a point; pieces of balls.
fn random_sheet(n: u64) -> Mesh {
    let mut state = (n + 1).wrapping_mul(0x9E37_79B9_7F4A_7C15);
    let mut next = || chance(&mut state);
    if n / 8 % 4 == 3 {
        // A fan: up to 90 triangles round one point, at heights that jump.
        let round = 5 + (next() * 85.0) as u32;
        let mut points = vec![Point::Z * (next() * 20.0 - 10.0)];
        points.extend((0..round).map(|k| {
            let (y, x) = (f64::from(k) / f64::from(round) * 2.0 * PI).sin_cos();
            Point::new(x, y, 0.0) * (3.0 + 7.0 * next()) + Point::Z * (next() - 0.5) * 4.0
        }));
        let triangles = (0..round).map(|k| [0, 1 + k, 1 + (k + 1) % round]).collect();
        return Mesh::with_one_face(points, triangles).unwrap();
    }
    let (rows, columns) = (3 + (next() * 9.0) as u32, 3 + (next() * 9.0) as u32);
    let (high, fast, turn) = (next() * 8.0, 0.2 + next(), next() * 6.0);
    let uneven = 0.5 + next() * 3.0;
    let mut points = Vec::new();
    for i in 0..=rows {
        for j in 0..=columns {
            let x = (f64::from(i) / f64::from(rows)).powf(uneven) * 20.0;
            let y = f64::from(j) / f64::from(columns) * 15.0;
            points.push(Point::new(x, y, high * ((x * fast + turn).sin() * (y * fast).cos()) + next() * 0.5));
        }
    }
    let at = |i: u32, j: u32| i * (columns + 1) + j;
    let cells = (0..rows).flat_map(|i| (0..columns).map(move |j| (i, j)));
    let triangles = cells
        .flat_map(|(i, j)| [[at(i, j), at(i + 1, j), at(i + 1, j + 1)], [at(i, j), at(i + 1, j + 1), at(i, j + 1)]]);
    Mesh::with_one_face(points, triangles.collect()).unwrap()
}

/// Every sixteenth of two hundred; all take three minutes: `NIMBET_SHEETS=200`.
#[test]
fn sheets_of_all_sorts_become_solids_or_are_refused() {
    let many = std::env::var("NIMBET_SHEETS").ok().and_then(|n| n.parse().ok()).unwrap_or(12usize);
    let (mut solids, mut tried) = (0, 0);
    for n in (0..200).step_by(200 / many.clamp(1, 200)) {
        tried += 1;
        let sheet = random_sheet(n);
        let mut state = n + 77;
        let thick = 0.05 * 400f64.powf(chance(&mut state));
        let step = json!({
            "kind": "wall.thicken",
            "outward": if n % 3 == 0 { 0.0 } else { thick },
            "inward": if n % 3 == 1 { 0.0 } else { thick * 0.7 },
            "corners": if n / 8 % 2 == 0 { "sharp" } else { "round" },
            "chord": thick.max(1.0) * 0.03,
        });
        match apply(step.clone(), &sheet, &[]) {
            Ok(made) => {
                let figures = examine(&made.mesh, &Progress::unwatched()).unwrap().figures;
                assert_eq!(figures.state, PartState::Sealed, "{n} {step}: {}", figures.reason);
                solids += 1;
            }
            Err(TradeError::Refused { why, .. }) => assert!(!why.is_empty()),
            Err(other) => panic!("{n} {step}: {other}"),
        }
    }
    assert!(solids * 20 >= tried * 19, "{solids} of {tried}");
}

#[test]
fn a_sheet_like_a_gyroid_gets_a_wall_as_thick_as_its_pores() {
    let field = |p: Point| {
        let q = p * (2.0 * PI / 20.0);
        (q.x.sin() * q.y.cos() + q.y.sin() * q.z.cos() + q.z.sin() * q.x.cos()) * 3.0
    };
    let slope = |p: Point| {
        let step = 1e-3;
        [Point::X, Point::Y, Point::Z].map(|way| (field(p + way * step) - field(p - way * step)) / (2.0 * step))
    };
    let bounds = nimbet_kernel::Aabb { min: Point::splat(-12.0), max: Point::splat(12.0) };
    let inside = |p: Point| {
        let outside = p.abs().max_element() - 11.0;
        if outside > field(p) {
            (outside, Point::X)
        } else {
            (field(p), Point::from_array(slope(p)).normalize_or_zero())
        }
    };
    let skin = nimbet_kernel::wrap::level_skin(&bounds, 1.0, &inside, &Progress::unwatched()).unwrap();
    let sheet = skin.retain_triangles(|t| skin.corners(t).iter().all(|p| p.abs().max_element() < 10.5));
    assert!(sheet.triangles().len() > 2000);
    for thick in [0.8, 6.0] {
        let step = json!({ "kind": "wall.thicken", "outward": thick * 0.5, "inward": thick * 0.5 });
        let made = apply(step, &sheet, &[]).unwrap_or_else(|e| panic!("{thick}: {e}"));
        sealed(&made.mesh);
    }
}

/// How two parts stand to each other, the second of them called Pin.
fn pair(a: &Mesh, b: &Mesh, asked: f64) -> PairReport {
    let quiet = Progress::unwatched();
    let state = |m: &Mesh| examine(m, &quiet).unwrap().figures.state;
    pair_report((a, state(a)), (b, state(b)), (2, "Pin"), asked, &quiet).unwrap()
}

#[test]
fn parts_that_overlap_or_stand_too_near_are_found_with_the_place() {
    use FindingKind::{Overlap, TooClose};
    let at = |mesh: Mesh, x: f64, y: f64, z: f64| mesh.map_points(|p| p + Point::new(x, y, z)).unwrap();
    let cuboid = |at, size| nimbet_kernel::shapes::block(Point::from_array(at), Point::from_array(size));
    let kinds = |report: &PairReport| report.findings.iter().map(|f| f.kind).collect::<Vec<_>>();
    // A pin of 10 in a bore of 10.4: 0.2 all round, but for the facets.
    let ring = body(json!({ "drum": { "diameter": 20.0, "height": 8.0, "bore": 10.4 } }));
    let pin = body(json!({ "drum": { "diameter": 10.0, "height": 30.0 } }));
    let loose = pair(&ring, &pin, 0.15);
    assert!(loose.findings.is_empty() && loose.shared == Some(0.0), "{loose:?}");
    assert!((loose.least.unwrap() - 0.2).abs() < 0.03);
    let tight = pair(&ring, &pin, 0.3);
    assert_eq!(kinds(&tight), [TooClose]);
    let area: f64 = tight.findings[0].size.split("on ").nth(1).unwrap().split(' ').next().unwrap().parse().unwrap();
    assert!((area / (PI * 10.4 * 8.0) - 1.0).abs() < 0.05, "the wall of the bore, {area} mm²");
    // Set aside by 0.5 it is on one side in the wall, and near on both flanks of that.
    let aside = pair(&ring, &at(pin.clone(), 0.5, 0.0, 0.0), 0.0);
    assert_eq!((kinds(&aside), aside.least), (vec![Overlap], Some(0.0)));
    let [r, s, d] = [5.0f64, 5.2, 0.5];
    // What of a circle of radius r lies outside one of radius s, their middles d apart.
    let (a, b) = (((d * d + r * r - s * s) / (2.0 * d * r)).acos(), ((d * d + s * s - r * r) / (2.0 * d * s)).acos());
    let lens = r * r * a + s * s * b - d * s * b.sin();
    let shared = (PI * r * r - lens) * 8.0;
    assert!((aside.shared.unwrap() / shared - 1.0).abs() < 0.05, "{:?} is not {shared}", aside.shared);
    assert!(aside.findings[0].place.centre[0] > 3.0, "{:?}", aside.findings[0].place);
    // Its remedy takes away what they share, and no more.
    let remedy = &aside.findings[0].remedies[0].operation;
    let cleared = remedy.apply(&ring, &[at(pin.clone(), 0.5, 0.0, 0.0)], &Progress::unwatched()).unwrap().mesh;
    near(sealed(&ring) - sealed(&cleared), aside.shared.unwrap(), 1e-5);
    // Two blocks through a third overlap it in two places; one that only touches shares nothing; within, all is shared.
    let fork = {
        let two = [cuboid([1.0, 1.0, -5.0], [2.0, 2.0, 20.0]), cuboid([6.0, 1.0, -5.0], [2.0, 2.0, 20.0])];
        apply(json!({ "kind": "shape.union", "with": [2] }), &two[0], &two[1..]).unwrap().mesh
    };
    let plate = cuboid([0.0, 0.0, 0.0], [10.0, 4.0, 3.0]);
    let through = pair(&plate, &fork, 0.0);
    assert_eq!((kinds(&through), through.shared), (vec![Overlap, Overlap], Some(24.0)));
    let touching = pair(&plate, &cuboid([2.0, 1.0, 3.0], [1.0, 1.0, 1.0]), 0.5);
    assert_eq!((kinds(&touching), touching.shared), (vec![TooClose], Some(0.0)));
    assert!(touching.findings[0].size.starts_with("touching instead of 0.5 mm"));
    near(pair(&plate, &cuboid([2.0, 1.0, 1.0], [1.0, 1.0, 1.0]), 0.0).shared.unwrap(), 1.0, 1e-12);
    // What was cut by a part touches it and shares nothing with it, facets, single precision and all.
    let single = |m: Mesh| m.map_points(|p| p.as_vec3().as_dvec3()).unwrap();
    let [deck, leaf] = [nimbet_trade::demo::deck_plate(), nimbet_trade::demo::hinge_leaf()].map(single);
    let away = json!({ "kind": "shape.difference", "with": [2], "keep": true });
    let away: Operation = serde_json::from_value(away).unwrap();
    let (quiet, leaves) = (Progress::unwatched(), std::slice::from_ref(&leaf));
    let seen = examine(&deck, &quiet).unwrap();
    for cut in [away.apply(&deck, leaves, &quiet), away.apply_to_seen(&deck, &seen, leaves, &quiet)] {
        let beside = pair(&cut.unwrap().mesh, &leaf, 0.0);
        assert!(beside.findings.is_empty(), "{:?}", beside.findings);
    }
    // Of an open part it can only be told how near it comes.
    let open = plate.retain_triangles(|t| t != 0);
    let near = pair(&plate, &at(open, 0.0, 0.0, 3.2), 0.3);
    assert_eq!((kinds(&near), near.shared), (vec![TooClose], None));
    assert!((near.least.unwrap() - 0.2).abs() < 1e-9);
    let quiet = Progress::unwatched();
    let sealed = PartState::Sealed;
    assert!(pair_report((&plate, sealed), (&ring, sealed), (2, "Pin"), f64::NAN, &quiet).is_err());
    // Drawn: as far as it is, and nought inside.
    let (drawn, off) = clearance_drawing(&cuboid([8.0, 1.0, 1.0], [4.0, 1.0, 1.0]), &plate, &quiet).unwrap();
    for (p, off) in drawn.points().iter().zip(off) {
        assert!((off - (p.x - 10.0).max(0.0)).abs() < 0.05, "{p}: {off}");
    }
}
