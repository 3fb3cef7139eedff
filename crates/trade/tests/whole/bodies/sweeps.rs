//! Sections moved along paths: closed forms, frames, bends tighter than the section, and whatever else a hand may draw.

use std::f64::consts::PI;
use std::slice::from_ref;

use nimbet_kernel::{Mesh, Point};
use nimbet_trade::{Outcome, PartState, TradeError, examine};
use proptest::prelude::*;
use serde_json::{Value, json};

use super::making::*;

/// A profile of lines in a plane through the zero with a normal.
fn drawn(normal: [f64; 3], lines: Value) -> Mesh {
    drawn_in([0.0; 3], normal, lines).unwrap()
}

/// A path in the xy plane.
fn path(draw: Value) -> Mesh {
    drawn([0.0, 0.0, 1.0], line(draw))
}

fn tube(path: &Mesh, more: Value) -> Result<Outcome, TradeError> {
    let step = json!({ "kind": "shape.tube", "path": { "profiles": { "parts": [] } }, "diameter": 10 });
    done(with(step, more), path, &[])
}

fn swept(section: &Mesh, paths: &[Mesh], more: Value) -> Result<Outcome, TradeError> {
    let parts: Vec<usize> = (2..2 + paths.len()).collect();
    let step = json!({ "kind": "shape.sweep", "path": { "profiles": { "parts": parts } }, "chord": 1e-3 });
    done(with(step, more), section, paths)
}

/// How far a figure is from the exact one at a chord and at a quarter of it: it falls by the square, so by about four.
fn converges(exact: f64, of: impl Fn(f64) -> f64) {
    let off = [0.08, 0.02, 0.005].map(|chord| (of(chord) / exact - 1.0).abs());
    assert!(off[0] < 0.05 && off[1] < off[0] * 0.35 && off[2] < off[1] * 0.35 || off[2] < 1e-9, "{off:?}");
}

#[test]
fn rods_along_lines_arcs_and_helices_have_their_volumes() {
    // Whatever the path does, a section whose middle is on it fills its area times the length.
    let ring = path(json!({ "circle": { "centre": [0, 0], "diameter": 60 } }));
    converges(2.0 * PI * PI * 30.0 * 25.0, |chord| volume(&tube(&ring, json!({ "chord": chord })).unwrap()));
    let bent = path(json!({ "chain": { "from": [0, 0], "legs": [
        { "to": [40, 0] }, { "to": [60, 20], "bulge": 0.414_213_562_373_095_1 }, { "to": [60, 50] }] } }));
    let length = 40.0 + 10.0 * PI + 30.0;
    converges(PI * 25.0 * length, |chord| volume(&tube(&bent, json!({ "chord": chord })).unwrap()));
    // A bore of its wall, and half a ball at each end.
    converges(PI * (25.0 - 9.0) * length, |chord| volume(&tube(&bent, json!({ "chord": chord, "wall": 2 })).unwrap()));
    let round = PI * 25.0 * length + 4.0 / 3.0 * PI * 125.0;
    converges(round, |chord| volume(&tube(&bent, json!({ "chord": chord, "ends": "round" })).unwrap()));
    for (pitch, end) in [(15.0, 20.0), (-12.0, 20.0), (14.0, 30.0)] {
        let helix = json!({ "helix": { "at": [1, 2, 3], "axis": [0, 1, 2], "radius": 20, "end": end, "pitch": pitch, "turns": 2.5, "left": true } });
        let speed = |t: f64| {
            let radius = 20.0 + (end - 20.0) * t;
            let (widens, climbs, turns) = (end - 20.0, pitch * 2.5, radius * 5.0 * PI);
            (widens * widens + climbs * climbs + turns * turns).sqrt()
        };
        let length: f64 = (0..1000).map(|k| speed((f64::from(k) + 0.5) / 1000.0)).sum::<f64>() / 1000.0;
        let spring = |chord: f64| {
            let step = json!({ "kind": "shape.tube", "path": helix, "diameter": 6, "chord": chord });
            done(step, &Mesh::default(), &[]).unwrap()
        };
        converges(PI * 9.0 * length, |chord| volume(&spring(chord)));
        let size = solid(&spring(0.02)).size;
        assert!(size.iter().all(|s| (20.0..80.0).contains(s)), "{size:?}");
    }
}

#[test]
fn sections_are_carried_mitred_twisted_and_scaled_exactly() {
    let bar = drawn([1.0, 0.0, 0.0], line(json!({ "frame": { "centre": [0, 0], "size": [6, 4] } })));
    let straight = path(json!({ "line": { "from": [0, 0], "to": [50, 0] } }));
    let near = |outcome: Outcome, exact: f64, within: f64| {
        let told = volume(&outcome);
        assert!((told / exact - 1.0).abs() < within, "{told} {exact}");
    };
    near(swept(&bar, from_ref(&straight), json!({})).unwrap(), 24.0 * 50.0, 1e-9);
    // The same where it is drawn: nothing leaves its place.
    let drawn_there = swept(&bar, from_ref(&straight), json!({ "as_drawn": true })).unwrap();
    let bounds = solid(&drawn_there);
    assert!(bounds.least[0].abs() < 1e-9 && (bounds.size[0] - 50.0).abs() < 1e-9, "{bounds:?}");
    near(drawn_there, 1200.0, 1e-9);
    // A frustum: half as large at the end.
    near(
        swept(&bar, from_ref(&straight), json!({ "scale": 0.5 })).unwrap(),
        24.0 * 50.0 * (1.0 + 0.5 + 0.25) / 3.0,
        1e-9,
    );
    // A twisted bar has its volume in the limit; at its end it has turned by what was asked.
    let twisted = |chord: f64| swept(&bar, from_ref(&straight), json!({ "twist": 180, "chord": chord })).unwrap();
    for chord in [0.08, 0.02, 0.005] {
        // Nowhere farther from true than the chord: so much of the sides at most.
        let off = (volume(&twisted(chord)) - 1200.0).abs();
        assert!(off < chord * 20.0 * 50.0 * 0.5, "{off} at {chord}");
    }
    // Corners as of a picture frame keep area times length, open and closed.
    let kinked = path(
        json!({ "chain": { "from": [0, 0], "legs": [{ "to": [50, 0] }, { "to": [50, 30] }, { "to": [90, 60] }] } }),
    );
    near(swept(&bar, from_ref(&kinked), json!({})).unwrap(), 24.0 * 130.0, 1e-9);
    let frame = path(json!({ "frame": { "centre": [0, 0], "size": [80, 50] } }));
    near(swept(&bar, from_ref(&frame), json!({})).unwrap(), 24.0 * 260.0, 1e-9);
    // Turned about the corners instead: an eighth of a turned section more at each, less what lies in both arms.
    let turned = volume(&swept(&bar, &[kinked], json!({ "corner": "round" })).unwrap());
    assert!((24.0 * 130.0 - 60.0..24.0 * 130.0 + 60.0).contains(&turned), "{turned}");
    let round = volume(&tube(&frame, json!({ "diameter": 4, "chord": 1e-3, "corner": "round" })).unwrap());
    // Arms that meet in a ball: two cylinders at right angles share, on the inside of a corner, half of a Steinmetz solid's eighth.
    assert!((round / (PI * 4.0 * 260.0) - 1.0).abs() < 0.01, "{round}");
}

#[test]
fn between_two_paths_a_section_reaches_from_one_to_the_other() {
    let bar = drawn([1.0, 0.0, 0.0], line(json!({ "frame": { "centre": [3, 0], "size": [6, 6] } })));
    let one = path(json!({ "line": { "from": [0, 0], "to": [60, 0] } }));
    // Drawn the other way round: it is turned to run along.
    let other = path(json!({ "line": { "from": [60, 24], "to": [0, 12] } }));
    let step = json!({ "held": { "second_path": { "profiles": { "parts": [3] } } } });
    let outcome = swept(&bar, &[one, other], step.clone()).map(|_| ()).unwrap_err();
    assert!(outcome.to_string().contains("do not go on"), "two profiles are one path: {outcome}");
    let mut whole = json!({ "kind": "shape.sweep", "path": { "profiles": { "parts": [2] } }, "chord": 1e-3 });
    whole.as_object_mut().unwrap().extend(step.as_object().unwrap().clone());
    let one = path(json!({ "line": { "from": [0, 0], "to": [60, 0] } }));
    let other = path(json!({ "line": { "from": [60, 24], "to": [0, 12] } }));
    let grip = done(whole, &bar, &[one, other]).unwrap();
    // Squares of a side that grows from 12 to 24, square to what lies half way between the paths.
    let figures = solid(&grip);
    assert!((figures.size[1] - 24.0).abs() < 0.6 && (figures.size[2] - 24.0).abs() < 0.6, "{figures:?}");
    let told = figures.volume.unwrap();
    assert!((told / (60.0 * (144.0 + 288.0 + 576.0) / 3.0) - 1.0).abs() < 0.02, "{told}");
}

#[test]
fn a_bend_tighter_than_the_section_is_told_and_comes_out_as_a_solid() {
    let bow = |radius: f64| {
        let to = [20.0 + radius, radius];
        path(json!({ "chain": { "from": [0, 0], "legs": [
            { "to": [20, 0] }, { "to": to, "bulge": 0.414_213_562_373_095_1 }, { "to": [20.0 + radius, radius + 20.0] }] } }))
    };
    let notices = |outcome: &Outcome| outcome.notices.iter().map(|n| n.text.clone()).collect::<Vec<_>>();
    for (radius, folds) in [(5.01, false), (4.75, true), (3.0, true), (1.0, true), (0.2, true)] {
        let outcome = tube(&bow(radius), json!({ "chord": 0.01 })).unwrap();
        let told = volume(&outcome);
        assert_eq!(!outcome.notices.is_empty(), folds, "{radius}: {:?}", notices(&outcome));
        if folds {
            assert!(
                notices(&outcome)[0].contains("below 5 mm")
                    && notices(&outcome)[0].contains(&format!("radius of {radius} mm")),
                "{:?}",
                notices(&outcome)
            );
        }
        // More than the two arms, less than all of it laid out straight.
        let straight = PI * 25.0 * (40.0 + radius * PI * 0.5);
        assert!(told < straight * 1.1 && told > straight * 0.8, "{radius}: {told} {straight}");
    }
    // Tighter than itself all round: a ring without a hole.
    let ring = path(json!({ "circle": { "centre": [0, 0], "diameter": 6 } }));
    let lump = tube(&ring, json!({ "chord": 0.01 })).unwrap();
    assert_eq!(solid(&lump).shells, 1);
    // A spindle: the ring's section is a disc of 5 about 3 from the axis, and what of it lies beyond the axis is inside of it.
    let spindle = {
        let (r, c) = (5.0_f64, 3.0_f64);
        let angle = (c / r).acos();
        // Pappus for the part of the disc on this side of the axis.
        let area = r * r * (PI - angle) + c * (r * r - c * c).sqrt();
        let moment = c * area + 2.0 / 3.0 * (r * r - c * c).powf(1.5);
        2.0 * PI * moment
    };
    let told = volume(&lump);
    assert!((told / spindle - 1.0).abs() < 0.01, "{told} {spindle}");
}

#[test]
fn what_cannot_be_is_refused_with_the_place() {
    let bar = drawn([1.0, 0.0, 0.0], line(json!({ "frame": { "centre": [0, 0], "size": [6, 4] } })));
    let two = drawn(
        [0.0, 0.0, 1.0],
        json!([
            { "name": "a", "draw": { "line": { "from": [0, 0], "to": [50, 0] } } },
            { "name": "b", "draw": { "line": { "from": [0, 9], "to": [50, 9] } } },
        ]),
    );
    let why = |result: Result<Outcome, TradeError>| result.map(|o| o.done).unwrap_err();
    let several = why(swept(&bar, from_ref(&two), json!({})));
    assert!(several.to_string().contains("say which it takes (a, b)") && several.places().len() == 2, "{several}");
    let named = json!({ "path": { "profiles": { "parts": [2], "line": "b" } } });
    assert!((volume(&swept(&bar, &[two], named).unwrap()) - 1200.0).abs() < 1e-6);
    let back = path(json!({ "chain": { "from": [0, 0], "legs": [{ "to": [50, 0] }, { "to": [0, 2] }] } }));
    let sharp = why(swept(&bar, from_ref(&back), json!({})));
    assert!(sharp.to_string().contains("turns back") && (sharp.places()[0].x - 50.0).abs() < 1e-9, "{sharp}");
    solid(&swept(&bar, &[back], json!({ "corner": "round" })).unwrap());
    let up = drawn([0.0, 1.0, 0.0], line(json!({ "line": { "from": [0, 0], "to": [0, 30] } })));
    let steep = why(swept(&bar, &[up], json!({ "held": { "upright": [0, 0, 1] } })));
    assert!(steep.to_string().contains("straight up"), "{steep}");
    let closed_wall = why(tube(&path(json!({ "line": { "from": [0, 0], "to": [9, 0] } })), json!({ "wall": 5 })));
    assert!(closed_wall.to_string().contains("leaves no bore"), "{closed_wall}");
}

/// A path with straight legs, arcs and kinks of any sharpness, in a plane.
fn any_path() -> impl Strategy<Value = Value> {
    let leg = (-30.0..30.0_f64, -30.0..30.0_f64, prop_oneof![Just(0.0), -1.2..1.2_f64]);
    proptest::collection::vec(leg, 1..6).prop_map(|legs| {
        let legs: Vec<Value> = legs.into_iter().map(|(x, y, bulge)| json!({ "to": [x, y], "bulge": bulge })).collect();
        json!({ "chain": { "from": [0.5, 0.25], "legs": legs } })
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(16))]

    /// However the path bends, crosses itself and turns back: a solid, or a refusal in words.
    #[test]
    fn any_path_gives_a_solid_or_a_reason(draw in any_path(), diameter in 1.0..14.0_f64, wall in any::<bool>(), round in any::<bool>()) {
        let drawing = json!({ "kind": "shape.profile", "plane": { "at": [0, 0, 0], "normal": [0, 0, 1] }, "lines": line(draw) });
        let Ok(drawn) = done(drawing, &Mesh::default(), &[]) else { return Ok(()) };
        let mut more = json!({ "diameter": diameter, "chord": diameter * 0.02, "corner": if round { "round" } else { "sharp" } });
        if wall {
            more["wall"] = (diameter * 0.2).into();
        }
        match tube(&drawn.more[0].mesh, more) {
            Ok(outcome) => {
                let figures = examine(&outcome.more[0].mesh, &quiet()).unwrap().figures;
                prop_assert_eq!(figures.state, PartState::Sealed, "{}", figures.reason);
            }
            Err(error) => prop_assert!(matches!(error, TradeError::Refused { .. }), "{error}"),
        }
    }

    /// Whatever section, with holes or without, twisted and scaled, on whatever path: a solid, or a refusal in words.
    #[test]
    fn any_section_gives_a_solid_or_a_reason(
        draw in any_path(), twist in -720.0..720.0_f64, scale in 0.2..3.0_f64, count in 3..9_usize,
        radii in proptest::collection::vec(1.0..8.0_f64, 9), hole in any::<bool>(), off in -6.0..6.0_f64, round in any::<bool>(),
    ) {
        let at = |k: usize| {
            let angle = std::f64::consts::TAU * k as f64 / count as f64;
            json!([radii[k] * angle.cos() + off, radii[k] * angle.sin()])
        };
        let legs: Vec<Value> = (1..count).map(|k| json!({ "to": at(k) })).collect();
        let mut lines = vec![json!({ "name": "a", "draw": { "chain": { "from": at(0), "legs": legs, "closed": true } } })];
        if hole {
            lines.push(json!({ "name": "b", "draw": { "circle": { "centre": [off, 0.0], "diameter": 0.8 } } }));
        }
        let section = drawn([1.0, 0.0, 0.0], lines.into());
        let drawing = json!({ "kind": "shape.profile", "plane": { "at": [0, 0, 0], "normal": [0, 0, 1] }, "lines": line(draw) });
        let Ok(path) = done(drawing, &Mesh::default(), &[]) else { return Ok(()) };
        let more = json!({ "twist": twist, "scale": scale, "chord": 0.2, "corner": if round { "round" } else { "sharp" } });
        match swept(&section, &[path.more[0].mesh.clone()], more) {
            Ok(outcome) => {
                let figures = examine(&outcome.more[0].mesh, &quiet()).unwrap().figures;
                prop_assert_eq!(figures.state, PartState::Sealed, "{}", figures.reason);
            }
            Err(error) => prop_assert!(matches!(error, TradeError::Refused { .. }), "{error}"),
        }
    }

    /// A frame carried round a closed path comes back to itself, and what is twisted turns by just that.
    #[test]
    fn closed_paths_leave_no_twist(points in proptest::collection::vec((20.0..40.0_f64, -8.0..8.0_f64), 5..9)) {
        let n = points.len();
        let at = |k: usize| {
            let angle = std::f64::consts::TAU * k as f64 / n as f64;
            Point::new(points[k].0 * angle.cos(), points[k].0 * angle.sin(), points[k].1)
        };
        let places: Vec<Point> = (0..n).map(at).collect();
        let path = nimbet_profile::path::Path::through(&places, true);
        let stations = path.stations((0.01, 2.0), 0.0, nimbet_profile::path::Holding::Square(Point::Z)).unwrap();
        let (first, last) = (stations[0], stations[stations.len() - 1]);
        prop_assert!(first.across.distance(last.across) < 1e-6 && first.along.distance(last.along) < 1e-6);
        for s in &stations {
            prop_assert!(s.across.dot(s.along).abs() < 1e-9 && (s.across.length() - 1.0).abs() < 1e-9);
        }
    }
}
