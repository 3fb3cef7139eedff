//! Bores: what they take away, where they go, what is too near.

use super::*;

#[test]
fn bores_of_every_form_take_away_what_their_shape_says() {
    let part = plate(60.0, 40.0, 12.0);
    let width = || Width::Diameter(4.0);
    let drum = round(2.0, 0.005);
    let cone = |r: f64, head: f64| PI / 3.0 * (head - r) * (head * head + head * r + r * r);
    let head = round(4.0, 0.005);
    let cases: Vec<(BoreForm, Reach, f64)> = vec![
        (plain(4.0), Reach::All, drum * 12.0),
        (plain(4.0), Reach::Depth(5.0), drum * 5.0),
        (
            BoreForm::Countersunk { width: width(), head: Some(8.0), angle: 90.0 },
            Reach::All,
            PI * 4.0 * 10.0 + cone(2.0, 4.0),
        ),
        (
            BoreForm::Counterbored { width: width(), head: Some(8.0), depth: Some(3.0) },
            Reach::All,
            PI * 4.0 * 9.0 + head * 3.0,
        ),
        (BoreForm::Spotfaced { width: width(), head: Some(8.0), depth: 0.5 }, Reach::All, PI * 4.0 * 11.5 + head * 0.5),
        (BoreForm::Tapped { size: "M4".into() }, Reach::All, PI * 1.65 * 1.65 * 12.0),
        (BoreForm::Insert { screw: "M3".into(), diameter: None, depth: None }, Reach::All, PI * 2.1 * 2.1 * 6.5 + 1.9),
        (BoreForm::Teardrop { width: width(), up: [0.0, 1.0, 0.0] }, Reach::All, (0.75 * PI * 4.0 + 4.0) * 12.0),
        (BoreForm::Slot { width: width(), length: 10.0, way: [0.0, 1.0, 0.0] }, Reach::All, (40.0 + PI * 4.0) * 12.0),
        (BoreForm::Opening { outline: vec![[0.0, 0.0], [0.0, 9.0], [4.0, 0.0]] }, Reach::Depth(2.0), 36.0),
    ];
    for (form, reach, expected) in cases {
        let made = done(&part, Bore { reach, ..bore(&[[3.0, 1.0, 12.0]], form.clone()) });
        let away = volume(&part) - volume(&made.mesh);
        assert!((away / expected - 1.0).abs() < 0.006, "{form:?}: {away} and not {expected}");
        assert!(made.notices.is_empty() && made.left.is_empty(), "{form:?} {:?} {:?}", made.notices, made.left);
    }
}

#[test]
fn a_turn_of_thread_takes_away_the_integral_of_its_profile() {
    let part = plate(30.0, 30.0, 30.0);
    let of_depth = |name: &str, depth: f64| {
        let form = threaded(thread(name));
        let form = match form {
            BoreForm::Threaded(t) => BoreForm::Threaded(ThreadedBore { threaded: Some(depth), ..t }),
            other => other,
        };
        let op = Bore { reach: Reach::Depth(26.0), chord: 0.0005, ..bore(&[[0.0, 0.0, 30.0]], form) };
        volume(&part) - volume(&done(&part, op).mesh)
    };
    // Grooves of a trapezoid over the bore: wide 3/4 of the pitch at the bore, 1/8 at the major diameter.
    let (p, major) = (1.5, 5.0);
    let minor = major - 0.625 * 3f64.sqrt() / 2.0 * p;
    let ring = |r: f64| PI * (r * r - minor * minor);
    let slope = (major - minor) / (0.3125 * p);
    let flank: f64 = (0..1000)
        .map(|k| (k as f64 + 0.5) / 1000.0 * 0.3125 * p)
        .map(|z| ring(minor + slope * z) * 0.3125 * p / 1000.0)
        .sum();
    // The bore beyond the thread is narrower by 2 µm, so that both meet in no sliver.
    let beyond = PI * (minor * minor - (minor - 0.002f64).powi(2)) * p;
    let expected = ring(major) * p / 8.0 + 2.0 * flank + beyond;
    let turn = (of_depth("M10x1.5", 15.0) - of_depth("M10x1.5", 9.0)) / 4.0;
    assert!((turn / expected - 1.0).abs() < 2e-3, "{turn} {expected}");
}

#[test]
fn a_blind_thread_keeps_off_its_bottom_and_a_marked_one_leaves_the_same_numbers() {
    let part = plate(30.0, 30.0, 20.0);
    let blind = |marked: bool| {
        let form = BoreForm::Threaded(ThreadedBore { thread: thread("M6x1"), threaded: None, lead_in: None, marked });
        done(&part, Bore { reach: Reach::Depth(12.0), ..bore(&[[0.0, 0.0, 20.0]], form) })
    };
    let (cut, marked) = (blind(false), blind(true));
    // Points beyond the bore's own radius lie above the bottom by two pitches; nothing lies under it.
    let deepest = |least: f64| {
        let inside = cut.mesh.points().iter().filter(|p| p.x.hypot(p.y) > least && p.x.hypot(p.y) < 5.0 && p.z > 0.0);
        inside.map(|p| p.z).fold(f64::INFINITY, f64::min)
    };
    assert!(
        (deepest(2.6) - 10.0).abs() < 1e-6 && (deepest(0.0) - 8.0).abs() < 1e-6,
        "{} {}",
        deepest(2.6),
        deepest(0.0)
    );
    assert_eq!((cut.mesh.next_face(), cut.threads[0].face), (marked.mesh.next_face(), marked.threads[0].face));
    assert_eq!((cut.threads[0].cut, marked.threads[0].cut, cut.threads[0].length), (true, false, 10.0));
    assert!(marked.mesh.triangles().len() * 10 < cut.mesh.triangles().len());
    let walls = |o: &Outcome| o.mesh.face_of().iter().filter(|f| f.0 == o.threads[0].face).count();
    assert!(walls(&cut) > 0 && walls(&marked) > 0);
}

#[test]
fn mouths_are_whole_on_sloping_and_curved_walls_and_nothing_beyond_is_touched() {
    // A tube bored from outside: one wall only, or both.
    let tube = grouped(turned(&[(20.0, 0.0), (25.0, 0.0), (25.0, 60.0), (20.0, 60.0), (20.0, 0.0)], 360));
    let area = round(3.0, 0.005);
    for (reach, walls) in [(Reach::Wall, 1.0), (Reach::All, 2.0)] {
        let made = done(&tube, Bore { reach, along: Some([-1.0, 0.0, 0.0]), ..bore(&[[25.0, 0.0, 30.0]], plain(6.0)) });
        let away = volume(&tube) - volume(&made.mesh);
        // The mean thickness along the bore, over its section.
        let through = |r: f64| {
            (0..400)
                .map(|k| (k as f64 + 0.5) / 400.0 * 2.0 - 1.0)
                .map(|s| 2.0 * (1.0 - s * s).sqrt() * (r * r - 9.0 * s * s).sqrt())
                .sum::<f64>()
                / 200.0
                / PI
        };
        let expected = area * (through(25.0) - through(20.0)) * walls;
        assert!((away / expected - 1.0).abs() < 2e-3, "{away} {expected}");
        let threads = done(
            &tube,
            Bore {
                reach: Reach::Wall,
                along: Some([-1.0, 0.0, 0.0]),
                ..bore(&[[25.0, 0.0, 30.0]], threaded(thread("M8x1")))
            },
        );
        assert!(threads.notices.is_empty(), "{:?}", threads.notices);
    }
    // Under a flange a bore goes up to its mouth and no farther.
    let low = plate(40.0, 40.0, 10.0);
    let high = block(Point::new(-20.0, -20.0, 14.0), Point::new(40.0, 40.0, 5.0));
    let (mut points, mut triangles, mut faces) = low.into_parts();
    let n = points.len() as u32;
    points.extend(high.points());
    triangles.extend(high.triangles().iter().map(|t| t.map(|p| p + n)));
    faces.extend(high.face_of().iter().map(|_| nimbet_kernel::FaceId(90)));
    let both = Mesh::new(points, triangles, faces).unwrap();
    let op = |reach| Bore { reach, along: Some([0.0, 0.0, -1.0]), ..bore(&[[0.0, 0.0, 10.0]], plain(6.0)) };
    let away = volume(&both) - volume(&Operation::from(op(Reach::Wall)).apply(&both, &[], &quiet()).unwrap().mesh);
    assert!((away - area * 10.0).abs() < 1e-4, "{away}");
    // Across a slope of 45 degrees the mouth is cut out above it.
    let (points, triangles, faces) = plate(40.0, 40.0, 30.0).into_parts();
    let slope = points.iter().map(|p| if p.z > 0.0 { Point::new(p.x, p.y, p.z + p.x * 0.5) } else { *p }).collect();
    let slope = Mesh::new(slope, triangles, faces).unwrap();
    let made = done(&slope, Bore { along: Some([0.0, 0.0, -1.0]), ..bore(&[[0.0, 0.0, 30.0]], plain(6.0)) });
    let away = volume(&slope) - volume(&made.mesh);
    assert!((away / (area * 30.0) - 1.0).abs() < 1e-6, "{away}");
}

#[test]
fn bores_that_leave_too_little_or_meet_nothing_say_so_with_their_place() {
    let part = plate(60.0, 40.0, 12.0);
    let told = |at: &[[f64; 3]], reach: Reach| {
        let made = Operation::from(Bore { reach, along: Some([0.0, 0.0, -1.0]), ..bore(at, plain(6.0)) }).apply(
            &part,
            &[],
            &quiet(),
        );
        let made = made.unwrap();
        is_sealed(&made.mesh);
        made.notices.iter().map(|n| (n.text.clone(), n.place.centre)).collect::<Vec<_>>()
    };
    let good = [-20.0, 0.0, 12.0];
    let near = told(&[good, [26.0, 0.0, 12.0]], Reach::All);
    assert_eq!(near[0].0, "bore 2 leaves 1 mm beside it, the process needs 1.5 mm");
    assert!((near[0].1[0] - 30.0).abs() < 1e-6, "{near:?}");
    assert_eq!(told(&[good, [28.0, 0.0, 12.0]], Reach::All)[0].0, "bore 2 breaks out at the side");
    assert_eq!(
        told(&[good, [-13.0, 0.0, 12.0]], Reach::All)[0].0,
        "bores 1 and 2 leave 1 mm between them, the process needs 1.5 mm"
    );
    assert_eq!(told(&[good, [-15.0, 0.0, 12.0]], Reach::All)[0].0, "bores 1 and 2 run into each other");
    assert_eq!(told(&[good, [99.0, 0.0, 12.0]], Reach::All)[0].0, "place 2 meets nothing");
    assert_eq!(told(&[good], Reach::Depth(11.0))[0].0, "bore 1 leaves 1 mm under it, the process needs 1.5 mm");
    assert!(told(&[good], Reach::Depth(10.0)).is_empty() && told(&[good], Reach::Depth(15.0)).is_empty());
    let away = refused(&part, Bore { along: Some([0.0, 0.0, -1.0]), ..bore(&[[99.0, 0.0, 12.0]], plain(6.0)) });
    assert!(away.to_string().contains("none of the places") && away.places().len() == 1);
    let short = refused(&part, Bore { reach: Reach::Depth(2.0), ..bore(&[good], threaded(thread("M6x1"))) });
    assert!(short.to_string().contains("deeper than 3 mm"), "{short}");
    for bad in
        [plain(0.0), plain(f64::NAN), BoreForm::Countersunk { width: Width::Diameter(5.0), head: None, angle: 90.0 }]
    {
        assert!(matches!(refused(&part, bore(&[good], bad)), TradeError::Refused { .. }));
    }
}

#[test]
fn rows_rings_and_grids_go_where_their_figures_say() {
    let part = plate(80.0, 60.0, 6.0);
    let at = |places: Places| done(&part, Bore { places, ..bore(&[], plain(3.0)) });
    let each = round(1.5, 0.005) * 6.0;
    let row = Places::Row { from: [-30.0, 0.0, 6.0], to: [30.0, 0.0, 6.0], count: 7 };
    let ring = Places::Ring { centre: [0.0, 0.0, 6.0], diameter: 40.0, count: 6, turned: 0.0 };
    let grid = Places::Grid { centre: [0.0, 0.0, 6.0], counts: [4, 3], spacing: [15.0, 12.0], turned: 0.0 };
    for (places, n) in [(row, 7.0), (ring.clone(), 6.0), (grid, 12.0)] {
        let made = at(places);
        assert!((volume(&part) - volume(&made.mesh) - each * n).abs() < 1e-4 && made.notices.is_empty());
    }
    // The first of a ring lies on the x axis.
    let made = at(ring);
    assert!(made.mesh.points().iter().any(|p| (p.x - 21.5).abs() < 1e-6 && p.y.abs() < 1e-6));
}
