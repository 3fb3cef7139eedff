//! Threads on what is there, studs, plugs, fits.

use super::*;

#[test]
fn threads_come_out_whatever_they_meet() {
    let part = plate(40.0, 40.0, 20.0);
    let left = Thread { left: true, starts: 2, ..thread("M8x1") };
    let own = Thread { size: ThreadSize::Free(FreeThread { diameter: 9.0, pitch: 2.0, angle: 30.0 }), ..thread("") };
    let loose = Thread { allowance: Allowance { radial: 0.2, axial: 0.1 }, ..thread("G 1/8") };
    for thread in [left, own, loose, thread("Tr 10x2"), thread("1/4-20 UNC")] {
        // Two that share a wall, one over the edge, one askew.
        let apart = bore(&[[0.0, 0.0, 20.0], [6.0, 0.0, 20.0], [20.0, 10.0, 20.0]], threaded(thread.clone()));
        done(&part, Bore { along: Some([0.0, 0.0, -1.0]), ..apart });
        done(&part, Bore { along: Some([0.4, 0.3, -1.0]), ..bore(&[[-9.0, 0.0, 20.0]], threaded(thread)) });
    }
}

/// A face that holds a point, picked there.
fn face_at(at: [f64; 3]) -> Vec<FacePick> {
    vec![FacePick::At(at)]
}

fn on_faces(faces: Vec<FacePick>, thread: Thread) -> ThreadFaces {
    ThreadFaces {
        faces,
        thread,
        length: None,
        other_end: false,
        lead_in: true,
        groove: false,
        marked: false,
        chord: 0.01,
    }
}

#[test]
fn walls_that_are_there_are_threaded_inside_and_out() {
    // A stepped pin with a blind bore.
    let pin = |outer: f64, inner: f64| {
        let n = 96;
        grouped(turned(
            &[
                (0.0, 0.0),
                (20.0, 0.0),
                (20.0, 8.0),
                (outer, 8.0),
                (outer, 40.0),
                (inner, 40.0),
                (inner, 15.0),
                (0.0, 15.0),
            ],
            n,
        ))
    };
    let part = pin(10.0, 4.2);
    let outside = done(&part, Operation::of(on_faces(face_at([10.0, 0.0, 30.0]), thread("M20x2.5"))));
    assert!(outside.notices.is_empty(), "{:?}", outside.notices);
    let mark = &outside.threads[0];
    assert_eq!((mark.gender, mark.at[2].round(), mark.way), (Gender::External, 40.0, [0.0, 0.0, -1.0]));
    assert!((mark.length - 29.5).abs() < 1e-6, "{mark:?}");
    // Off the shoulder by a pitch: the pin is whole there.
    assert!(
        outside
            .mesh
            .points()
            .iter()
            .filter(|p| p.z < 10.4 && p.z > 8.1)
            .all(|p| p.x.hypot(p.y) > 9.99 || p.x.hypot(p.y) < 9.0)
    );
    let inside = done(&outside.mesh, Operation::of(on_faces(face_at([4.2, 0.0, 25.0]), thread("M10x1.5"))));
    assert_eq!((inside.threads[0].gender, (inside.threads[0].length - 22.0).abs() < 1e-6), (Gender::Internal, true));
    assert!(volume(&inside.mesh) < volume(&outside.mesh));
    // With a groove before the shoulder, an allowance and two starts to the left.
    let left = Thread { left: true, starts: 2, allowance: Allowance { radial: 0.15, axial: 0.1 }, ..thread("Tr 20x4") };
    done(&part, Operation::of(ThreadFaces { groove: true, ..on_faces(face_at([10.0, 0.0, 30.0]), left) }));
    // What does not fit is refused, with what would.
    let wrong = refused(&part, Operation::of(on_faces(face_at([4.2, 0.0, 25.0]), thread("M6x1"))));
    assert!(wrong.to_string().contains("measures 8.4 mm") && wrong.to_string().contains("M10x1.5"), "{wrong}");
    let flat = refused(&part, Operation::of(on_faces(face_at([15.0, 0.0, 8.0]), thread("M6x1"))));
    assert!(flat.to_string().contains("no cylinder"), "{flat}");
    // A wide bore holds by less.
    let loose = done(&pin(10.0, 4.6), Operation::of(on_faces(face_at([4.6, 0.0, 25.0]), thread("M10x1.5"))));
    assert!(loose.notices[0].text.contains("holds by"), "{:?}", loose.notices);
    // A narrow one is opened.
    done(&pin(10.0, 3.9), Operation::of(on_faces(face_at([3.9, 0.0, 25.0]), thread("M10x1.5"))));
}

#[test]
fn studs_rings_and_caps_are_parts_of_their_own() {
    let part = plate(20.0, 20.0, 5.0);
    let stud = Stud {
        thread: thread("M10x1.5"),
        length: 20.0,
        at: [50.0, 0.0, 0.0],
        along: [0.0, 0.6, 0.8],
        ring: None,
        lid: None,
        marked: false,
        chord: 0.01,
    };
    for s in [
        stud.clone(),
        Stud { marked: true, ..stud.clone() },
        Stud { ring: Some(18.0), ..stud.clone() },
        Stud { ring: Some(18.0), lid: Some(3.0), ..stud.clone() },
        Stud { thread: Thread { left: true, ..thread("G 1/2") }, ..stud.clone() },
    ] {
        let made = Operation::of(s.clone()).apply(&part, &[], &quiet()).unwrap();
        is_sealed(&made.more[0].mesh);
        assert_eq!(made.mesh.triangles().len(), part.triangles().len());
        let there = made.more[0].mesh.face_of().iter().any(|f| f.0 == made.threads[0].face);
        assert!(there && made.threads[0].made, "{s:?} {:?}", made.threads);
    }
    let thin = refused(&part, Operation::of(Stud { ring: Some(10.2), ..stud }));
    assert!(thin.to_string().contains("wider than M10x1.5"), "{thin}");
}

#[test]
fn a_plug_gives_back_what_a_bore_took_and_a_rebore_changes_it_in_place() {
    let plug = |mesh: &Mesh, at: [f64; 3]| done(mesh, Operation::of(Plug { wall: FacePick::At(at), beyond: false }));
    let part = plate(60.0, 40.0, 12.0);
    let width = || Width::Diameter(6.0);
    let marked = ThreadedBore { thread: thread("M6x1"), threaded: None, lead_in: None, marked: true };
    let marked = BoreForm::Threaded(marked);
    for (form, reach) in [
        (plain(6.0), Reach::All),
        (plain(6.0), Reach::Depth(7.0)),
        (BoreForm::Countersunk { width: width(), head: Some(12.0), angle: 90.0 }, Reach::All),
        (BoreForm::Counterbored { width: width(), head: Some(11.0), depth: Some(4.0) }, Reach::All),
        (threaded(thread("M8x1.25")), Reach::All),
        (marked.clone(), Reach::All),
    ] {
        let bored = done(&part, Bore { reach, ..bore(&[[4.0, 0.0, 12.0]], form.clone()) });
        let wall = bored.threads.first().map_or(3.0, |t| t.radius);
        let z = if form == threaded(thread("M8x1.25")) { 6.1 } else { 6.0 };
        // A point of the wall, wherever its facets are.
        let near = Point::new(4.0 + wall, 0.0, z);
        let on_wall = |t: usize| {
            let c = bored.mesh.corners(t).iter().sum::<Point>() / 3.0;
            ((c.x - 4.0).hypot(c.y) - wall).abs() < 0.05 && (c.z - z).abs() < 3.0
        };
        let at = (0..bored.mesh.triangles().len())
            .filter(|t| on_wall(*t))
            .map(|t| bored.mesh.corners(t).iter().sum::<Point>() / 3.0);
        let at = at.min_by(|a, b| (*a - near).length().total_cmp(&(*b - near).length())).unwrap();
        let back = plug(&bored.mesh, at.to_array());
        assert!(
            (volume(&back.mesh) - volume(&part)).abs() < 1e-6,
            "{form:?}: {} {}",
            volume(&back.mesh),
            volume(&part)
        );
        assert!(back.left.is_empty(), "{:?}", back.left);
    }
    // Across a curved wall it follows the wall.
    let tube = grouped(turned(&[(20.0, 0.0), (25.0, 0.0), (25.0, 60.0), (20.0, 60.0), (20.0, 0.0)], 360));
    let bored = done(
        &tube,
        Bore { reach: Reach::Wall, along: Some([-1.0, 0.0, 0.0]), ..bore(&[[25.0, 0.0, 30.0]], plain(6.0)) },
    );
    let back = plug(&bored.mesh, [22.0, 3.0, 30.0]);
    let taken = volume(&tube) - volume(&bored.mesh);
    assert!(
        (volume(&back.mesh) - volume(&tube)).abs() < 0.004 * taken,
        "{} of {taken}",
        volume(&tube) - volume(&back.mesh)
    );
    // Two walls on one axis are closed together on request.
    let both = done(&tube, Bore { along: Some([-1.0, 0.0, 0.0]), ..bore(&[[25.0, 0.0, 30.0]], plain(6.0)) });
    let closed = done(&both.mesh, Operation::of(Plug { wall: FacePick::At([22.0, 3.0, 30.0]), beyond: true }));
    assert!((volume(&closed.mesh) - volume(&tube)).abs() < 0.008 * taken);

    let bored = done(&part, bore(&[[4.0, 0.0, 12.0]], plain(6.0)));
    let blind = done(&part, Bore { reach: Reach::Depth(7.0), ..bore(&[[4.0, 0.0, 12.0]], plain(6.0)) });
    for (mesh, depth) in [(&bored.mesh, 12.0), (&blind.mesh, 7.0)] {
        for diameter in [4.0, 9.0] {
            let wall = FacePick::At([7.0, 0.0, 9.0]);
            let made = done(mesh, Operation::of(Rebore { wall, diameter, chord: 0.005, least_wall: None }));
            let away = volume(&part) - volume(&made.mesh);
            assert!((away / (round(diameter * 0.5, 0.005) * depth) - 1.0).abs() < 1e-6, "{diameter} {depth}: {away}");
        }
    }
    let outside = refused(&part, Operation::of(Plug { wall: FacePick::At([30.0, 0.0, 5.0]), beyond: false }));
    assert!(outside.to_string().contains("round hollow"));
}

/// A stud and a block with a bore for it, both cut.
fn pair(inside: Thread, outside: Thread, length: f64) -> ((Mesh, ThreadMark), (Mesh, ThreadMark)) {
    let ThreadSize::Standard(name) = &outside.size else { panic!("a size of the tables") };
    let major = size(name).unwrap().major;
    let wide = major * 2.0 + 2.0;
    let nut = block(Point::new(-wide * 0.5, -wide * 0.5, 0.0), Point::new(wide, wide, length));
    let chord = (major * 0.002).min(0.015);
    let op = Bore { chord, ..bore(&[[0.0, 0.0, length]], threaded(inside)) };
    let mut made = done(&grouped(nut), op);
    let stud = Stud {
        thread: outside,
        length: length * 1.2,
        at: [99.0, 5.0, 1.0],
        along: [0.3, 0.4, 0.8],
        ring: None,
        lid: None,
        marked: false,
        chord,
    };
    let mut pin = Operation::of(stud).apply(&made.mesh, &[], &quiet()).unwrap();
    ((made.mesh, made.threads.remove(0)), (pin.more.remove(0).mesh, pin.threads.remove(0)))
}

fn fitted(inside: Thread, outside: Thread, length: f64) -> FitReport {
    let (nut, pin) = pair(inside, outside, length);
    fit((&nut.0, &nut.1), (&pin.0, &pin.1), &quiet()).unwrap()
}

#[test]
fn pairs_of_a_size_go_together_with_the_play_stated_and_not_without_room() {
    let with = |name: &str, radial: f64, axial: f64| Thread { allowance: Allowance { radial, axial }, ..thread(name) };
    let all = sizes();
    // Every tenth size of each family.
    for family in [Family::Metric, Family::Unified, Family::Pipe, Family::Trapezoidal] {
        for s in all.iter().filter(|s| s.family == family).step_by(10) {
            // As much as a thread so fine can give, and as little as a hand feels.
            let radial = (s.pitch * 0.08).min(0.05);
            let report = fitted(with(&s.name, radial, 0.0), thread(&s.name), s.pitch * 3.0);
            assert!(report.fits && report.turns.unwrap() > 2.5, "{}: {report:?}", s.name);
            // Flanks moved apart by so much let it slide by twice that over their slope.
            let flank = match s.family {
                Family::Pipe => 27.5f64,
                Family::Trapezoidal => 15.0,
                _ => 30.0,
            };
            let slides = 2.0 * radial * flank.to_radians().tan();
            let axial = report.axial_play.unwrap();
            assert!((axial - slides).abs() < s.pitch * 0.035 + 0.012, "{}: {axial} {slides}", s.name);
            let tight = fitted(with(&s.name, -radial, 0.0), thread(&s.name), s.pitch * 3.0);
            assert!(!tight.fits && tight.told[0].contains("overlap"), "{}: {tight:?}", s.name);
        }
    }
}

#[test]
fn a_fit_tells_hands_pitches_and_where_a_pin_stops() {
    let loose = |name: &str| Thread { allowance: Allowance { radial: 0.1, axial: 0.05 }, ..thread(name) };
    let left = |t: Thread| Thread { left: true, ..t };
    let told = |a: Thread, b: Thread| fitted(a, b, 10.0).told[0].clone();
    assert_eq!(
        told(left(loose("M8x1.25")), thread("M8x1.25")),
        "the bore's thread is left-handed, the pin's right-handed"
    );
    assert_eq!(told(loose("M8x1.25"), thread("M8x1")), "the pitches differ: 1.25 mm in the bore, 1 mm on the pin");
    assert!(fitted(left(loose("M8x1.25")), left(thread("M8x1.25")), 10.0).fits);
    let double = |t: Thread| Thread { starts: 2, ..t };
    assert!(fitted(double(loose("M8x1")), double(thread("M8x1")), 10.0).fits);
    // A blind bore stops the pin at its bottom, or its thread does.
    let part = plate(30.0, 30.0, 20.0);
    let blind =
        done(&part, Bore { reach: Reach::Depth(12.0), ..bore(&[[0.0, 0.0, 20.0]], threaded(loose("M8x1.25"))) });
    let stud = Stud {
        thread: thread("M8x1.25"),
        length: 25.0,
        at: [0.0; 3],
        along: [0.0, 0.0, 1.0],
        ring: None,
        lid: None,
        marked: false,
        chord: 0.01,
    };
    let pin = Operation::of(stud).apply(&part, &[], &quiet()).unwrap();
    let report = fit((&blind.mesh, &blind.threads[0]), (&pin.more[0].mesh, &pin.threads[0]), &quiet()).unwrap();
    let stop = report.stops_at.unwrap();
    assert!(report.fits && (6.5..7.7).contains(&report.turns.unwrap()), "{report:?}");
    assert!(stop[2] < 11.5 && report.told[1].contains("comes to a stop"), "{report:?}");
}

#[test]
fn places_follow_their_face_when_an_earlier_step_moves_it() {
    let thin = plate(60.0, 40.0, 12.0);
    let facts = nimbet_trade::examine::face_facts(&thin, None, &quiet()).unwrap();
    let top = |f: &&FaceFacts| matches!(f.surface, FaceSurface::Plane { normal } if normal[2] > 0.9);
    let face = FacePick::Anchored(FaceAnchor::of(facts.iter().find(top).unwrap(), [10.0, 5.0, 12.0]));
    let op = Bore {
        face: Some(face),
        reach: Reach::Depth(5.0),
        ..bore(&[[10.0, 5.0, 12.0], [-10.0, 0.0, 12.0]], plain(4.0))
    };
    // The same plate, but thicker: they go in from its top all the same, and as deep.
    for part in [thin, plate(60.0, 40.0, 15.0)] {
        let made = done(&part, op.clone());
        assert!((volume(&part) - volume(&made.mesh) - 2.0 * 5.0 * round(2.0, 0.005)).abs() < 1e-4);
        assert!(made.notices.is_empty(), "{:?}", made.notices);
    }
    let other = plate(10.0, 10.0, 2.0);
    assert!(Operation::from(op).apply(&other, &[], &quiet()).is_err());
}

/// Where a line up z through a point at an angle and a radius comes through the surface, ascending.
fn walls_over(mesh: &Mesh, angle: f64, radius: f64) -> Vec<f64> {
    let foot = Point::new(radius * angle.cos(), radius * angle.sin(), 0.0);
    let ends = [-100.0, 100.0].map(|z| foot + Point::Z * z);
    let hits = (0..mesh.triangles().len()).filter_map(|t| hit(ends[0], ends[1], mesh.corners(t)));
    let mut at: Vec<f64> = hits.map(|share| -100.0 + 200.0 * share).collect();
    at.sort_by(f64::total_cmp);
    at.dedup_by(|a, b| (*a - *b).abs() < 1e-9);
    at
}

#[test]
fn lead_hand_and_flanks_are_measured_back_on_the_finished_part() {
    let part = plate(50.0, 50.0, 30.0);
    let cases: [(&str, bool, u32, f64); 5] = [
        ("M8x1.25", false, 1, 60.0),
        ("M8x1.25", true, 1, 60.0),
        ("M12x1", false, 3, 60.0),
        ("Tr 20x4", true, 2, 30.0),
        ("G 1/2", false, 1, 55.0),
    ];
    for (name, left, starts, angle) in cases {
        let asked = Thread { left, starts, ..thread(name) };
        let made = done(&part, bore(&[[0.0, 0.0, 30.0]], threaded(asked)));
        let (mark, size) = (&made.threads[0], size(name).unwrap());
        let pitch = mark.pitch;
        let middle = size.pitch_diameter * 0.5;
        // Well inside: only flanks, and each second of them alike.
        let inner = |angle: f64, radius: f64| -> Vec<f64> {
            walls_over(&made.mesh, angle, radius).into_iter().filter(|z| (5.0..25.0).contains(z)).collect()
        };
        let at = inner(0.1, middle);
        assert!(at.len() > 6, "{name}: {at:?}");
        for pair in at.windows(3) {
            assert!((pair[2] - pair[0] - pitch).abs() < 0.002 * pitch, "{name}: {}", pair[2] - pair[0]);
        }
        // Followed round once, a flank has climbed by the lead, up or down as the hand has it.
        let (mut z, steps) = (at[at.len() / 2], 24);
        for k in 1..=steps {
            let now = walls_over(&made.mesh, 0.1 + TAU * f64::from(k) / f64::from(steps), middle);
            // Of its own kind: flanks that face up, or down, are each second one.
            z = *now.iter().min_by(|a, b| (*a - z).abs().total_cmp(&(*b - z).abs())).unwrap();
        }
        let climbed = z - at[at.len() / 2];
        let lead = pitch * f64::from(starts) * if left { -1.0 } else { 1.0 };
        assert!((climbed - lead).abs() < 0.01 * pitch, "{name}: climbed {climbed}, not {lead}");
        // Both flanks together make the angle of the thread: one leans up from within, the other down.
        let (near, far) = (middle - pitch * 0.05, middle + pitch * 0.05);
        let nearest = |radius: f64, z: f64| -> f64 {
            inner(0.1, radius).into_iter().min_by(|a, b| (a - z).abs().total_cmp(&(b - z).abs())).unwrap()
        };
        let lean = |z: f64| ((nearest(far, z) - nearest(near, z)).abs() / (far - near)).atan().to_degrees();
        let both = lean(at[2]) + lean(at[3]);
        assert!((both - angle).abs() < 0.5, "{name}: {both}");
    }
}

#[test]
fn threads_begin_in_fillets_as_anywhere_else() {
    // A drum with its upper edge rounded to 6 mm.
    let mut outline = vec![(0.0, 0.0), (20.0, 0.0), (20.0, 14.0)];
    outline.extend((1..=16).map(|k| {
        let (sin, cos) = (f64::from(k) * PI / 32.0).sin_cos();
        (14.0 + 6.0 * cos, 14.0 + 6.0 * sin)
    }));
    outline.push((0.0, 20.0));
    let part = grouped(turned(&outline, 96));
    for way in [[0.0, 0.0, -1.0], [-0.6, 0.0, -0.8]] {
        let at = [[17.0, 0.0, 14.0 + 27f64.sqrt()], [0.0, -16.0, 14.0 + 32f64.sqrt()]];
        let op = Bore { along: Some(way), ..bore(&at, threaded(thread("M4x0.7"))) };
        let made = done(&part, op.clone());
        assert_eq!(made.threads.len(), 2);
        // Run out at the mouths: there is more taken than the bore itself, and no sliver stands where they begin.
        let plain = done(&part, Bore { form: plain(3.242), ..op });
        assert!(volume(&made.mesh) < volume(&plain.mesh) - 5.0);
    }
}

#[test]
fn seats_are_told_before_anything_is_bored() {
    let slope = plate(60.0, 40.0, 12.0).map_points(|p| Point::new(p.x, p.y, p.z + 0.25 * p.x)).unwrap();
    let ring = Places::Ring { centre: [0.0, 0.0, 12.0], diameter: 30.0, count: 6, turned: 0.0 };
    let op = Bore { places: ring, along: None, ..bore(&[], plain(4.0)) };
    let found = op.seats(&slope).unwrap();
    assert_eq!((found.seats.len(), found.missed.len()), (6, 0));
    let square = Point::new(0.25, 0.0, -1.0).normalize();
    for (n, seat) in found.seats.iter().enumerate() {
        let at = Point::from_array(seat.at);
        assert!(seat.number == n + 1 && (at.z - 12.0 - 0.25 * at.x).abs() < 1e-9, "{seat:?}");
        assert!(
            (Point::from_array(seat.way) - square).length() < 1e-9
                && (at.distance(Point::Z * 12.0) - 15.0).abs() < 1e-9
        );
    }
    let row = Places::Row { from: [0.0, 0.0, 12.0], to: [60.0, 0.0, 12.0], count: 3 };
    let off = Bore { places: row, along: Some([0.0, 0.0, -1.0]), ..op }.seats(&slope).unwrap();
    assert_eq!((off.seats.len(), off.missed), (2, vec![[60.0, 0.0, 12.0]]));
}
