//! Regions of random arrangements against independent counts, and what is told of drawings that are not as they should be.

use std::f64::consts::PI;

use crate::lines::{any_line, network};
use nimbet_kernel::Progress;
use nimbet_profile::look::{Look, look};
use nimbet_profile::{Drawing, Flat, Network, NetworkError};
use proptest::prelude::*;
use proptest::strategy::ValueTree;
use serde_json::{Value, json};

fn looked(lines: &[Value]) -> Look {
    let network = network(lines);
    let regions = network.regions(&Progress::unwatched()).unwrap();
    look(&network, &regions, &Progress::unwatched()).unwrap()
}

/// How often a way round, cut finely, winds about a place.
fn winding(points: &[Flat], p: Flat) -> i32 {
    let turn = |k: usize| {
        let (a, b) = (points[k], points[(k + 1) % points.len()]);
        let left = (b - a).perp_dot(p - a);
        if a.y <= p.y && b.y > p.y && left > 0.0 {
            1
        } else if a.y > p.y && b.y <= p.y && left < 0.0 {
            -1
        } else {
            0
        }
    };
    (0..points.len()).map(turn).sum()
}

/// Each closed line by itself: its area by Green's theorem, and whether a place is inside, asked of its measures alone.
struct Alone {
    area: f64,
    inside: Box<dyn Fn(Flat) -> bool>,
}

fn alone(line: &Value) -> Option<Alone> {
    let (kind, of) = line.as_object().unwrap().iter().next().unwrap();
    let number = |name: &str| of[name].as_f64().unwrap_or(0.0);
    let flat = |name: &str| Flat::new(of[name][0].as_f64().unwrap(), of[name][1].as_f64().unwrap());
    let alone = network(std::slice::from_ref(line));
    let regions = alone.regions(&Progress::unwatched()).unwrap();
    let inside: Box<dyn Fn(Flat) -> bool> = match kind.as_str() {
        "circle" => {
            let (c, r) = (flat("centre"), number("diameter") * 0.5);
            Box::new(move |p| p.distance(c) < r)
        }
        "ellipse" => {
            let (c, half, turn) =
                (flat("centre"), flat("size") * 0.5, Flat::from_angle(-number("turned").to_radians()));
            Box::new(move |p| (turn.rotate(p - c) / half).length() < 1.0)
        }
        "frame" => {
            let (c, turn, r) = (flat("centre"), Flat::from_angle(-number("turned").to_radians()), number("radius"));
            let half = flat("size") * 0.5 - r;
            Box::new(move |p| {
                let off = (turn.rotate(p - c).abs() - half).max(Flat::ZERO);
                if r > 1e-4 { off.length() < r } else { off.length() == 0.0 }
            })
        }
        "polygon" => {
            let (c, r, n) = (flat("centre"), number("diameter") * 0.5, number("sides"));
            Box::new(move |p| {
                let step = 2.0 * PI / n;
                let angle = (p - c).to_angle().rem_euclid(step) - step * 0.5;
                (p - c).length() * angle.cos() < r * (step * 0.5).cos()
            })
        }
        "slot" => {
            let (a, b, r) = (flat("from"), flat("to"), number("width") * 0.5);
            Box::new(move |p| {
                let t = ((p - a).dot(b - a) / (b - a).length_squared()).clamp(0.0, 1.0);
                p.distance(a + (b - a) * t) < r
            })
        }
        "curve" => {
            let points: Vec<Flat> = alone.flattened(&regions[0].outlines[0], 1e-7).into_iter().map(|p| p.0).collect();
            let most = points.iter().fold(Flat::NEG_INFINITY, |m, p| m.max(*p));
            let least = points.iter().fold(Flat::INFINITY, |m, p| m.min(*p));
            Box::new(move |p| p.cmpgt(least).all() && p.cmplt(most).all() && winding(&points, p) != 0)
        }
        _ => return None,
    };
    assert_eq!(regions.len(), 1, "{line}");
    Some(Alone { area: regions[0].area, inside })
}

/// Areas that add up, every line seen the same way from all over a region, and no place in two regions or between lines in none.
fn agrees(lines: &[Value]) -> Result<(), TestCaseError> {
    let network = network(lines);
    let regions = network.regions(&Progress::unwatched()).unwrap();
    let closed: Vec<Alone> = lines.iter().filter_map(alone).collect();
    let seen = |p: Flat| closed.iter().map(|line| (line.inside)(p)).collect::<Vec<bool>>();
    let from: Vec<Vec<bool>> = regions.iter().map(|r| seen(r.inside)).collect();
    for (n, line) in closed.iter().enumerate() {
        let parts: f64 = regions.iter().zip(&from).filter(|(_, seen)| seen[n]).map(|(r, _)| r.area).sum();
        prop_assert!((parts / line.area - 1.0).abs() < 1e-6, "line {n}: {parts} of {}", line.area);
    }
    for (region, from) in regions.iter().zip(&from) {
        prop_assert!(network.holds(region, region.inside), "{region:?}");
        prop_assert!(region.area > 0.0);
        for k in 0..6 {
            let p = region.inside + Flat::from_angle(f64::from(k) * 2.4) * (0.5_f64.powi(k) * 4.0);
            if network.holds(region, p) {
                prop_assert!(&seen(p) == from, "{p}");
            }
        }
    }
    for k in 0..100_u32 {
        let p = Flat::new(f64::from(k * 37 % 100) + 0.1234, f64::from(k * 61 % 100) + 0.0567);
        let holding = regions.iter().filter(|r| network.holds(r, p)).count();
        prop_assert!(holding <= 1);
        prop_assert!(holding == 1 || seen(p).iter().all(|inside| !inside), "{p}");
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn areas_of_regions_add_up_to_those_of_the_lines(lines in proptest::collection::vec(any_line(), 1..24)) {
        agrees(&lines)?;
    }
}

#[test]
fn two_hundred_lines_through_each_other_are_told_apart() {
    let mut runner = proptest::test_runner::TestRunner::deterministic();
    let lines = proptest::collection::vec(any_line(), 200).new_tree(&mut runner).unwrap().current();
    agrees(&lines).unwrap();
}

#[test]
fn areas_are_those_of_the_textbook() {
    let area = |line: Value| {
        let seen = looked(&[line]);
        assert_eq!((seen.regions.len(), seen.ends.len()), (1, 0));
        seen.regions[0].area
    };
    let near = |a: f64, b: f64| assert!((a / b - 1.0).abs() < 1e-13, "{a} {b}");
    near(area(json!({ "circle": { "centre": [1e3, -2e3], "diameter": 10 } })), 25.0 * PI);
    near(area(json!({ "ellipse": { "centre": [5, 5], "size": [10, 4], "turned": 33 } })), 10.0 * PI);
    near(area(json!({ "polygon": { "centre": [0, 0], "diameter": 2, "sides": 6 } })), 1.5 * 3_f64.sqrt());
    near(area(json!({ "slot": { "from": [0, 0], "to": [3, 4], "width": 2 } })), 10.0 + PI);
    // A half turn by a bulge of one, and straight back.
    let half = json!({ "chain": { "from": [0, 0], "legs": [{ "to": [4, 0], "bulge": 1 }], "closed": true } });
    near(area(half), 2.0 * PI);
    // An even spiral's turn and the ray that closes it: the integral of half its radius squared.
    let spiral = json!({ "spiral": { "centre": [0, 0], "radius": 3, "grows": { "pitch": 2 }, "turns": 1 } });
    let ray = json!({ "line": { "from": [3, 0], "to": [5, 0] } });
    let seen = looked(&[spiral, ray]);
    near(seen.regions[0].area, PI / 3.0 * (9.0 + 15.0 + 25.0));
    // A whole turn of a growing one: (r² e^(4π rate) − r²) / (4 rate).
    let growing = json!({ "spiral": { "centre": [0, 0], "radius": 3, "grows": { "factor": 2 }, "turns": -1 } });
    let seen = looked(&[growing, json!({ "line": { "from": [3, 0], "to": [6, 0] } })]);
    near(seen.regions[0].area, 27.0 * 2.0 * PI / (4.0 * 2_f64.ln()));
}

#[test]
fn gaps_crossings_doubles_and_specks_are_told_with_their_places() {
    // A square with a gap of 0.02 mm in it.
    let open = |gap: f64| json!({ "chain": { "from": [gap, 0], "legs": [{ "to": [10, 0] }, { "to": [10, 10] }, { "to": [0, 10] }, { "to": [0, 0] }] } });
    let seen = looked(&[open(0.02)]);
    assert_eq!((seen.regions.len(), seen.ends.len(), seen.open), (0, 2, 1));
    let (_, other, width) = seen.gaps().next().unwrap();
    assert_eq!(other, 1);
    assert!((width - 0.02).abs() < 1e-12);
    assert_eq!((looked(&[open(0.0)]).regions.len(), looked(&[open(0.0)]).closed), (1, 1));
    // A bow tie crosses itself once, and encloses two regions.
    let tie = json!({ "chain": { "from": [0, 0], "legs": [{ "to": [2, 2] }, { "to": [2, 0] }, { "to": [0, 2] }], "closed": true } });
    let seen = looked(&[tie]);
    assert_eq!((seen.crossings.len(), seen.regions.len()), (1, 2));
    assert!((Flat::from(seen.crossings[0].at) - Flat::ONE).length() < 1e-12);
    // A line drawn again over part of itself.
    let line = |from: [f64; 2], to: [f64; 2]| json!({ "line": { "from": from, "to": to } });
    let seen = looked(&[line([0.0, 0.0], [10.0, 0.0]), line([3.0, 0.0], [7.0, 0.0])]);
    assert_eq!((seen.doubles.len(), &*seen.doubles[0].line, &*seen.doubles[0].on), (1, "l1", "l0"));
    assert!((seen.doubles[0].length - 4.0).abs() < 1e-12);
    let arc = |to: [f64; 2]| json!({ "arc": { "from": [5, 0], "via": [3, 4], "to": to } });
    let seen = looked(&[json!({ "circle": { "centre": [0, 0], "diameter": 10 } }), arc([-3.0, 4.0])]);
    assert_eq!(seen.doubles.iter().map(|d| d.length).sum::<f64>().round(), (5.0 * (4_f64.atan2(-3.0))).round());
    assert_eq!(seen.regions.len(), 1);
    assert_eq!(looked(&[line([0.0, 0.0], [0.005, 0.0])]).specks.len(), 1);
    // A circle that touches a line from above does so at one place.
    let touching = looked(&[line([-9.0, 0.0], [9.0, 0.0]), json!({ "circle": { "centre": [0, 5], "diameter": 10 } })]);
    assert_eq!((touching.crossings.len(), touching.regions.len()), (1, 1));
    assert!((touching.regions[0].area / (25.0 * PI) - 1.0).abs() < 1e-12);
}

#[test]
fn nested_outlines_alternate_and_know_their_holes() {
    let circle = |d: f64| json!({ "circle": { "centre": [0, 0], "diameter": d } });
    let seen = looked(&[circle(10.0), circle(2.0), circle(6.0)]);
    assert_eq!(seen.regions.iter().map(|r| (r.depth, r.holes)).collect::<Vec<_>>(), [(0, 1), (1, 1), (2, 0)]);
    let total: f64 = seen.regions.iter().map(|r| r.area).sum();
    assert!((total / (25.0 * PI) - 1.0).abs() < 1e-12);
    // Mirrored twice it is itself; in a ring of six it lies where a turn takes it.
    let drawing = json!({ "lines": [
        { "name": "a", "draw": { "ellipse": { "centre": [9, 2], "size": [4, 2], "turned": 20 } } },
        { "name": "b", "draw": { "mirrored": { "of": ["a"], "from": [1, 1], "to": [4, 7] } } },
        { "name": "c", "draw": { "mirrored": { "of": ["b"], "from": [1, 1], "to": [4, 7] } } },
        { "name": "d", "draw": { "spiral": { "centre": [3, 3], "radius": 1, "grows": { "pitch": 1 }, "turns": 1.5 } } },
        { "name": "e", "draw": { "ring": { "of": ["d"], "centre": [0, 0], "count": 6 } } },
        { "name": "f", "draw": { "mirrored": { "of": ["e"], "from": [0, 0], "to": [1, 0] } } },
    ] });
    let curves = serde_json::from_value::<Drawing>(drawing).unwrap().curves().unwrap();
    let named = |name: &str| curves.iter().find(|c| c.name == name).unwrap();
    for (a, b) in named("a").spans.iter().zip(&named("c").spans) {
        assert!([0.0, 0.3, 1.0].iter().all(|t| a.at(*t).distance(b.at(*t)) < 1e-12));
    }
    let turned = Flat::from_angle(PI / 3.0);
    for (k, span) in named("d").spans.iter().enumerate() {
        assert!(turned.rotate(span.at(0.7)).distance(named("e.1").spans[k].at(0.7)) < 1e-12);
        let mirrored = named("f.1").spans[k].at(0.7);
        assert!(turned.rotate(span.at(0.7)).distance(Flat::new(mirrored.x, -mirrored.y)) < 1e-12);
    }
}

#[test]
fn what_cannot_be_drawn_is_refused_by_the_name_of_its_line() {
    let fault = |draw: Value| {
        let drawing = json!({ "lines": [{ "name": "k", "draw": draw }] });
        let drawing: Drawing = serde_json::from_value(drawing).unwrap();
        let error = drawing.curves().unwrap_err();
        assert_eq!(error.line, "k");
        error.why
    };
    assert!(fault(json!({ "line": { "from": [1, 1], "to": [1, 1] } })).contains("length"));
    assert!(fault(json!({ "circle": { "centre": [0, 0], "diameter": -1 } })).contains("diameter"));
    assert!(fault(json!({ "circle": { "centre": [1e308, 0], "diameter": 1 } })).contains("reaches"));
    assert!(fault(json!({ "frame": { "centre": [0, 0], "size": [4, 2], "radius": 1.5 } })).contains("radius"));
    assert!(fault(json!({ "arc": { "from": [0, 0], "via": [1, 0], "to": [0, 0] } })).contains("circle"));
    assert!(fault(json!({ "polygon": { "centre": [0, 0], "diameter": 4, "sides": 1_000_000_000 } })).contains("sides"));
    assert!(fault(json!({ "curve": { "points": [[0, 0], [1, 1], [1, 1]] } })).contains("same place"));
    assert!(fault(json!({ "ring": { "of": ["q"], "centre": [0, 0], "count": 3 } })).contains("no line q"));
    assert!(fault(json!({ "row": { "of": ["k"], "step": [1, 0], "count": 4_000_000_000_u32 } })).contains("copies"));
    let spiral =
        |turns: f64| json!({ "spiral": { "centre": [0, 0], "radius": 1, "grows": { "pitch": 1 }, "turns": turns } });
    assert!(fault(spiral(1e9)).contains("turns"));
    assert!(fault(spiral(0.0)).contains("turns"));
}

#[test]
fn lines_that_meet_everywhere_are_refused_and_looking_can_be_stopped() {
    let line = |k: u32| {
        let far = f64::from(k) * 0.01;
        json!({ "name": format!("l{k}"), "draw": { "line": { "from": [0.0, far], "to": [100.0, 40.0 - far] } } })
    };
    let lines: Vec<Value> = (0..2_000).map(line).collect();
    let drawing: Drawing = serde_json::from_value(json!({ "lines": lines })).unwrap();
    let curves = drawing.curves().unwrap();
    assert_eq!(Network::new(curves.clone(), &Progress::unwatched()).unwrap_err(), NetworkError::TooMany);
    let stopped = Progress::unwatched();
    stopped.cancel();
    assert!(matches!(Network::new(curves, &stopped), Err(NetworkError::Cancelled(_))));
}

/// A curve through points passes them, and where its cubics meet direction and bend agree, open, closed and with directions held.
#[test]
fn curves_go_through_their_points_and_bend_evenly() {
    let list = |tail: &str| format!("a curve from 0, 0 to 3, 5 to 4, 4.5 to 11, -2 to 6, -7 {tail}");
    for (tail, closed) in [("", false), ("closed", true), ("begin 0 end 270", false)] {
        let text = list(tail);
        let curves = nimbet_profile::text::read(&text).unwrap_or_else(|e| panic!("{e}")).curves().unwrap();
        let spans = &curves[0].spans;
        for point in [(0.0, 0.0), (3.0, 5.0), (4.0, 4.5), (11.0, -2.0), (6.0, -7.0)].map(Flat::from) {
            assert!(
                spans.iter().any(|s| s.from().distance(point) < 1e-12 || s.to().distance(point) < 1e-12),
                "{point}"
            );
        }
        let bend = |(first, second): (Flat, Flat)| first.perp_dot(second) / first.length().powi(3);
        let next = spans.iter().skip(1).chain(closed.then(|| &spans[0]));
        for (a, b) in spans.iter().zip(next) {
            assert!(a.direction(1.0).angle_to(b.direction(0.0)).abs() < 1e-9);
            assert!((bend(a.slopes(1.0)) - bend(b.slopes(0.0))).abs() < 1e-8);
        }
        if tail.contains("begin") {
            assert!(spans[0].direction(0.0).angle_to(Flat::X).abs() < 1e-9);
            assert!(spans[spans.len() - 1].direction(1.0).angle_to(Flat::NEG_Y).abs() < 1e-9);
        }
    }
}
