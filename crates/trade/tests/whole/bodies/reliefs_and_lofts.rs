//! Regions raised to heights of their own, and surfaces through several profiles: closed forms, and whatever else a hand may draw.

use std::f64::consts::{PI, TAU};

use nimbet_kernel::Mesh;
use nimbet_trade::{Outcome, PartState, TradeError, examine};
use proptest::prelude::*;
use serde_json::{Value, json};

use super::making::*;

fn level(height: f64, draw: Value) -> Mesh {
    drawn_in([0.0, 0.0, height], [0.0, 0.0, 1.0], json!([{ "name": "a", "draw": draw }])).unwrap()
}

fn circle(diameter: f64) -> Value {
    json!({ "circle": { "centre": [0, 0], "diameter": diameter } })
}

fn square(side: f64) -> Value {
    json!({ "frame": { "centre": [0, 0], "size": [side, side] } })
}

fn loft(sections: &[Mesh], more: Value) -> Result<Outcome, TradeError> {
    let numbers: Vec<usize> = (2..=sections.len()).collect();
    let step = json!({ "kind": "shape.loft", "profiles": numbers });
    done(with(step, more), &sections[0], &sections[1..])
}

#[test]
fn straight_lofts_are_cones_and_frusta() {
    let cone = |chord: f64| {
        volume(&loft(&[level(0.0, circle(40.0)), level(30.0, circle(16.0))], json!({ "chord": chord })).unwrap())
    };
    let exact = PI * 30.0 * (20.0 * 20.0 + 20.0 * 8.0 + 8.0 * 8.0) / 3.0;
    let off = [0.04, 0.01].map(|chord| (cone(chord) / exact - 1.0).abs());
    assert!(off[0] < 0.01 && off[1] < off[0] * 0.3, "{off:?}");
    // Squares of three sizes, the last drawn from another corner the other way round.
    let turned = json!({ "chain": { "from": [4, 4], "closed": true, "legs": [{ "to": [4, -4] }, { "to": [-4, -4] }, { "to": [-4, 4] }] } });
    let three = [level(0.0, square(20.0)), level(12.0, square(10.0)), level(20.0, turned)];
    let frustum = |a: f64, b: f64, h: f64| h * (a * a + a * b + b * b) / 3.0;
    let made = loft(&three, json!({})).unwrap();
    near(volume(&made), frustum(20.0, 10.0, 12.0) + frustum(10.0, 8.0, 8.0), 1e-9);
    // Its sides are flat, its ends too: ten faces.
    assert_eq!(solid(&made).faces, 10);
    // A square becomes a circle; as a sheet with its ends open it has two rims.
    let lamp = [level(0.0, square(30.0)), level(25.0, circle(20.0))];
    let told = volume(&loft(&lamp, json!({})).unwrap());
    assert!(told > 25.0 * 400.0 && told < 25.0 * 900.0, "{told}");
    let open = loft(&lamp, json!({ "open_ends": true })).unwrap();
    assert_eq!(examine(&open.more[0].mesh, &quiet()).unwrap().rims.len(), 2);
    // Open lines make a sheet: ruled between two straight ones it is flat.
    let line = |at: f64, z: f64| level(z, json!({ "line": { "from": [0, at], "to": [40, at] } }));
    let sheet = loft(&[line(0.0, 0.0), line(30.0, 40.0)], json!({})).unwrap();
    near(examine(&sheet.more[0].mesh, &quiet()).unwrap().figures.area, 40.0 * 50.0, 1e-9);
}

#[test]
fn smooth_lofts_pass_through_their_sections_and_close_round() {
    let barrel: Vec<Mesh> =
        [20.0, 30.0, 34.0, 30.0, 20.0].iter().zip(0..).map(|(d, k)| level(f64::from(k) * 10.0, circle(*d))).collect();
    let smooth = volume(&loft(&barrel, json!({ "smooth": true, "chord": 0.005 })).unwrap());
    let straight = volume(&loft(&barrel, json!({ "chord": 0.005 })).unwrap());
    // A bulge is rounder than its frusta, and Simpson's rule over the sections is near to what it holds.
    let area = |d: f64| PI * d * d / 4.0;
    let simpson = 10.0 / 3.0 * (area(20.0) + 4.0 * area(30.0) + 2.0 * area(34.0) + 4.0 * area(30.0) + area(20.0));
    assert!(smooth > straight * 1.005, "{smooth} {straight}");
    near(smooth, simpson, 5e-3);
    // All alike it is a cylinder, however it bends.
    let pipe: Vec<Mesh> = (0..4).map(|k| level(f64::from(k * k) * 5.0, circle(12.0))).collect();
    near(volume(&loft(&pipe, json!({ "smooth": true, "chord": 0.002 })).unwrap()), area(12.0) * 45.0, 1e-3);
    // Sections round an axis, from the last back to the first: about a ring.
    let ring: Vec<Mesh> = (0..12)
        .map(|k| {
            let angle = TAU * f64::from(k) / 12.0;
            let at = [40.0 * angle.cos(), 40.0 * angle.sin(), 0.0];
            let normal = [-angle.sin(), angle.cos(), 0.0];
            let step = json!({ "kind": "shape.profile", "plane": { "at": at, "normal": normal }, "right": [0, 0, 1],
                "lines": [{ "name": "a", "draw": circle(10.0) }] });
            done(step, &Mesh::default(), &[]).unwrap().more.remove(0).mesh
        })
        .collect();
    let torus = TAU * 40.0 * area(10.0);
    near(volume(&loft(&ring, json!({ "round": true, "smooth": true, "chord": 0.005 })).unwrap()), torus, 5e-3);
}

/// A loft from the faces of a part, through sections that lie on its edges or beyond.
fn loft_from(part: &Mesh, sections: &[Mesh], more: Value) -> Result<Outcome, TradeError> {
    let numbers: Vec<usize> = (2..sections.len() + 2).collect();
    done(with(json!({ "kind": "shape.loft", "profiles": numbers, "chord": 0.005 }), more), part, sections)
}

/// The volume turned by the cubic from `p` to `q` (radius, height) with these slopes.
fn turned(p: [f64; 2], q: [f64; 2], from: [f64; 2], to: [f64; 2]) -> f64 {
    const STEPS: usize = 4000;
    let at = |t: f64| {
        let cubic = [
            2.0 * t.powi(3) - 3.0 * t * t + 1.0,
            t.powi(3) - 2.0 * t * t + t,
            3.0 * t * t - 2.0 * t.powi(3),
            t.powi(3) - t * t,
        ];
        [0, 1].map(|k| cubic[0] * p[k] + cubic[1] * from[k] + cubic[2] * q[k] + cubic[3] * to[k])
    };
    let slice = |n: usize| {
        let [a, b] = [n, n + 1].map(|n| at(n as f64 / STEPS as f64));
        PI * (a[0] * a[0] + a[0] * b[0] + b[0] * b[0]) / 3.0 * (b[1] - a[1])
    };
    (0..STEPS).map(slice).sum()
}

/// How much the surface turns at most where it passes a height, degrees, between triangles wholly below and wholly above.
fn crease(mesh: &Mesh, height: f64) -> f64 {
    let mut beside: std::collections::BTreeMap<[i64; 4], Vec<nimbet_kernel::Point>> = Default::default();
    for t in 0..mesh.triangles().len() {
        let corners = mesh.corners(t);
        for (a, b) in [(0, 1), (1, 2), (2, 0)] {
            let (p, q) = (corners[a], corners[b]);
            if (p.z - height).abs() < 1e-6 && (q.z - height).abs() < 1e-6 {
                let middle = (p + q) / 2.0;
                let key = [(middle.x * 1e4).round() as i64, (middle.y * 1e4).round() as i64, 0, 0];
                beside.entry(key).or_default().push(mesh.area_vector(t).normalize());
            }
        }
    }
    assert!(!beside.is_empty() && beside.values().all(|n| n.len() == 2));
    beside.values().map(|n| n[0].dot(n[1]).clamp(-1.0, 1.0).acos().to_degrees()).fold(0.0, f64::max)
}

#[test]
fn lofts_go_on_from_the_faces_of_a_part_without_a_crease() {
    let whole = |made: &Outcome| {
        let figures = seen(&made.mesh);
        assert_eq!(figures.state, PartState::Sealed, "{} {:?}", figures.reason, made.done);
        figures
    };
    let post = |sections: [f64; 2], diameter: f64| {
        let [low, high] = sections;
        let step = json!({ "kind": "shape.extrude", "above": high - low, "chord": 0.005 });
        done(step, &level(low, circle(diameter)), &[]).unwrap().more.remove(0).mesh
    };
    // On a round post, to a smaller circle: beside the rim it goes straight up, and ends as a parabola would.
    let low = post([0.0, 10.0], 20.0);
    let sections = [level(10.0, circle(20.0)), level(30.0, circle(12.0))];
    let d = 20f64.hypot(4.0);
    let bell = turned([10.0, 10.0], [6.0, 30.0], [0.0, d], [-8.0, 40.0 - d]);
    let made = loft_from(&low, &sections, json!({ "goes_on": "first", "becomes": "added" })).unwrap();
    near(whole(&made).volume.unwrap(), PI * 1000.0 + bell, 1e-3);
    let smooth = crease(&made.mesh, 10.0);
    let straight = crease(&loft_from(&low, &sections, json!({ "becomes": "added" })).unwrap().mesh, 10.0);
    assert!(smooth < 1.5 && straight > 10.0, "{smooth}° {straight}°");
    // Between two posts both ways: an S, one body with both.
    let two = done(json!({ "kind": "shape.union", "with": [2] }), &low, &[post([40.0, 50.0], 10.0)]).unwrap().mesh;
    let between = [level(10.0, circle(20.0)), level(40.0, circle(10.0))];
    let d = 30f64.hypot(5.0);
    let s = turned([10.0, 10.0], [5.0, 40.0], [0.0, d], [0.0, d]);
    let made = loft_from(&two, &between, json!({ "goes_on": "both", "becomes": "added" })).unwrap();
    near(whole(&made).volume.unwrap(), PI * 1000.0 + PI * 250.0 + s, 1e-3);
    assert_eq!(whole(&made).shells, 1);
    assert!(crease(&made.mesh, 10.0).max(crease(&made.mesh, 40.0)) < 1.5);
    // From a pyramid's top its four faces go on, at its corners both of them.
    let stump = loft(&[level(0.0, square(20.0)), level(12.0, square(10.0))], json!({})).unwrap().more.remove(0).mesh;
    let top = [level(12.0, square(10.0)), level(22.0, square(6.0))];
    let made = loft_from(&stump, &top, json!({ "goes_on": "first", "becomes": "added" })).unwrap();
    assert!(crease(&made.mesh, 12.0) < 2.0, "{}°", crease(&made.mesh, 12.0));
}

#[test]
fn sheets_go_on_from_a_rim_and_what_lies_on_no_edge_is_refused() {
    // A funnel of a sheet goes on into a pipe: from its rim there is one way.
    let funnel =
        loft(&[level(0.0, circle(30.0)), level(10.0, circle(12.0))], json!({ "open_ends": true, "chord": 0.005 }));
    let funnel = funnel.unwrap().more.remove(0).mesh;
    let pipe = [level(10.0, circle(12.0)), level(40.0, circle(10.0))];
    let made = loft_from(&funnel, &pipe, json!({ "goes_on": "first", "open_ends": true })).unwrap();
    let mesh = &made.more[0].mesh;
    let [slope, way] = [(9.0f64).atan2(10.0), 0.0].map(f64::to_degrees);
    let first =
        (0..mesh.triangles().len()).filter(|t| mesh.corners(*t).iter().filter(|p| p.z < 10.0 + 1e-9).count() == 2);
    for t in first {
        let leans = mesh.area_vector(t).normalize().z.abs().asin().to_degrees();
        assert!((leans - slope).abs() < 3.0 && leans > way, "{leans}° instead of {slope}°");
    }
    // Beside the rim, above it, and of what is no part.
    let beside = [level(10.0, circle(11.0)), level(40.0, circle(10.0))];
    let (told, places) = refusal(loft_from(&funnel, &beside, json!({ "goes_on": "first" })));
    assert!(told.contains("on no edge of the part") && places.len() == 1, "{told}");
    assert!(refusal(loft_from(&funnel, &pipe, json!({ "goes_on": "both" }))).0.contains("on no edge"));
    assert!(refusal(loft(&pipe, json!({ "goes_on": "first" }))).0.contains("no faces it could go on from"));
    let three = [pipe[0].clone(), pipe[1].clone(), level(60.0, circle(40.0))];
    assert!(refusal(loft_from(&funnel, &three, json!({ "goes_on": "last", "round": true }))).0.contains("has no ends"));
    // Inward, where the sheet comes from, nothing goes on.
    let back = [level(10.0, circle(12.0)), level(-20.0, circle(60.0))];
    assert!(refusal(loft_from(&funnel, &back, json!({ "goes_on": "first" }))).0.contains("goes on that way"));
}

#[test]
fn beginnings_can_be_picked_and_what_does_not_fit_is_refused() {
    let prism = [level(0.0, square(20.0)), level(20.0, square(20.0))];
    near(volume(&loft(&prism, json!({})).unwrap()), 8000.0, 1e-9);
    // Begun a corner farther on it is twisted by a quarter turn: less is left at its waist.
    let twisted = loft(&prism, json!({ "starts": [[10, 10, 0], [-10, 10, 20]] })).unwrap();
    let told = volume(&twisted);
    assert!(told < 8000.0 * 0.8 && told > 8000.0 * 0.5, "{told}");
    let why = |result: Result<Outcome, TradeError>| result.map(|o| o.done).unwrap_err().to_string();
    let open = level(30.0, json!({ "line": { "from": [0, 0], "to": [9, 0] } }));
    assert!(why(loft(&[prism[0].clone(), open], json!({}))).contains("one kind"));
    assert!(why(loft(&prism[..1], json!({}))).contains("two profiles"));
    assert!(why(loft(&prism, json!({ "round": true }))).contains("three at least"));
    let two = drawn_in(
        [0.0, 0.0, 9.0],
        [0.0, 0.0, 1.0],
        json!([
            { "name": "a", "draw": circle(4.0) }, { "name": "b", "draw": { "circle": { "centre": [30, 0], "diameter": 4 } } },
        ]),
    );
    assert!(why(loft(&[prism[0].clone(), two.unwrap()], json!({}))).contains("has 2 outlines"));
}

#[test]
fn where_a_loft_passes_through_itself_is_told() {
    // The second circle leans so far that it dips through the first: on that side, and nowhere else.
    let leaning = |angle: f64| {
        let normal = [angle.to_radians().sin(), 0.0, angle.to_radians().cos()];
        loft(
            &[
                level(0.0, circle(20.0)),
                drawn_in([0.0, 0.0, 4.0], normal, json!([{ "name": "a", "draw": circle(20.0) }])).unwrap(),
            ],
            json!({}),
        )
    };
    assert!(leaning(15.0).unwrap().notices.is_empty());
    let made = leaning(40.0).unwrap();
    solid(&made);
    let [notice] = &made.notices[..] else { panic!("{:?}", made.notices) };
    let [x, _, z] = notice.place.centre;
    assert!(notice.text.contains("passes through itself") && x > 3.0 && z.abs() < 1.0, "{notice:?}");
}

/// A badge: a border 40 by 30, a bar across it, two circles in one half.
fn badge() -> Mesh {
    drawn_in(
        [0.0, 0.0, 0.0],
        [0.0, 0.0, 1.0],
        json!([
            { "name": "a", "draw": { "frame": { "centre": [0, 0], "size": [40, 30] } } },
            { "name": "b", "draw": { "frame": { "centre": [0, 0], "size": [36, 26] } } },
            { "name": "c", "draw": { "line": { "from": [0, -13], "to": [0, 13] } } },
            { "name": "d", "draw": { "circle": { "centre": [9, 0], "diameter": 8 } } },
        ]),
    )
    .unwrap()
}

#[test]
fn regions_stand_as_high_as_asked_and_wells_tell_what_they_take() {
    let region = |at: [f64; 2], lines: &[&str]| json!({ "at": at, "lines": lines });
    let step = |heights: Value, more: Value| {
        let mut step = json!({ "kind": "shape.relief", "heights": heights, "rest": 4, "chord": 1e-3 });
        step.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        done(step, &badge(), &[])
    };
    let all = json!([
        { "region": region([-9.0, 0.0], &["b.1", "b.3", "b.4", "c"]), "height": 2 },
        { "region": region([9.0, 10.0], &["b.1", "b.2", "b.3", "c"]), "height": 3 },
        { "region": region([9.0, 0.0], &["d"]), "height": 1 },
    ]);
    let (border, half, disc) = (40.0 * 30.0 - 36.0 * 26.0, 18.0 * 26.0, PI * 16.0);
    let made = step(all.clone(), json!({})).unwrap();
    near(volume(&made), border * 4.0 + half * 2.0 + (half - disc) * 3.0 + disc, 1e-4);
    let told = made.done.join("; ");
    assert!(told.contains("within d: 1 mm high, 50.3 mm²: a well 2 mm deep that takes 101 mm³"), "{told}");
    assert!(told.contains("within b, c: 2 mm high, 468 mm²: a well 1 mm deep that takes 468 mm³"), "{told}");
    // With a foot below the plane, and a region that is left out, so that it goes through.
    let mut through = all;
    through[2]["height"] = (-5.0).into();
    let made = step(through, json!({ "below": 1 })).unwrap();
    near(volume(&made), border * 5.0 + half * 3.0 + (half - disc) * 4.0, 1e-4);
    let none = step(json!([]), json!({ "rest": 0 })).unwrap_err().to_string();
    assert!(none.contains("no region has a height"), "{none}");
    let gone = step(json!([{ "region": region([90.0, 0.0], &["x"]), "height": 1 }]), json!({})).unwrap_err();
    assert!(matches!(gone, TradeError::NeedsNewPick { .. }), "{gone}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// However lines cross: a solid whose volume is what its regions have, or a refusal.
    #[test]
    fn any_relief_holds_what_its_regions_do(
        frames in proptest::collection::vec((-20.0..20.0_f64, -20.0..20.0_f64, 2.0..30.0_f64, 2.0..30.0_f64), 1..7),
        heights in proptest::collection::vec(prop_oneof![Just(0.0), Just(2.0), Just(3.5), 0.5..6.0_f64], 40),
    ) {
        let lines: Vec<Value> = frames.iter().enumerate().map(|(n, (x, y, w, h))| {
            json!({ "name": format!("f{n}"), "draw": { "frame": { "centre": [x, y], "size": [w, h] } } })
        }).collect();
        let profile = drawn_in([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], lines.into()).unwrap();
        let known = nimbet_trade::shape::Profile::of(&profile, &quiet()).unwrap();
        let seen = known.look(&quiet()).unwrap();
        let all: Vec<Value> = seen.regions.iter().zip(heights.iter().cycle()).map(|(r, h)| {
            json!({ "region": { "at": r.at, "lines": r.lines }, "height": h })
        }).collect();
        let exact: f64 = seen.regions.iter().zip(heights.iter().cycle()).map(|(r, h)| r.area * h).sum();
        match done(json!({ "kind": "shape.relief", "heights": all, "rest": 0 }), &profile, &[]) {
            Ok(made) => {
                let figures = examine(&made.more[0].mesh, &quiet()).unwrap().figures;
                prop_assert_eq!(figures.state, PartState::Sealed, "{}", figures.reason);
                let told = figures.volume.unwrap();
                prop_assert!((told - exact).abs() < 1e-5 * exact, "{told} {exact}");
            }
            Err(error) => prop_assert!(matches!(error, TradeError::Refused { .. }) && exact == 0.0, "{error}"),
        }
    }

    /// Outlines of any number of points, leaning, turned and out of the way: a solid or a refusal.
    #[test]
    fn any_loft_is_a_solid_or_a_reason(
        sections in proptest::collection::vec(
            (3..40_usize, proptest::collection::vec(4.0..20.0_f64, 40), -15.0..15.0_f64, 0.0..6.3_f64, 0.0..0.6_f64, any::<bool>()), 2..6),
        smooth in any::<bool>(),
    ) {
        let profiles: Vec<Mesh> = sections.iter().enumerate().map(|(k, (n, radii, off, turn, lean, back))| {
            let at = |i: usize| {
                let angle = turn + TAU * i as f64 / *n as f64 * if *back { -1.0 } else { 1.0 };
                [radii[i] * angle.cos() + off, radii[i] * angle.sin()]
            };
            let legs: Vec<Value> = (1..*n).map(|i| json!({ "to": at(i) })).collect();
            let draw = json!({ "chain": { "from": at(0), "closed": true, "legs": legs } });
            drawn_in([0.0, 0.0, 15.0 * k as f64], [lean.sin(), 0.0, lean.cos()], json!([{ "name": "a", "draw": draw }])).unwrap()
        }).collect();
        match loft(&profiles, json!({ "smooth": smooth, "chord": 0.2 })) {
            Ok(made) => {
                let figures = examine(&made.more[0].mesh, &quiet()).unwrap().figures;
                prop_assert_eq!(figures.state, PartState::Sealed, "{}", figures.reason);
            }
            Err(error) => prop_assert!(matches!(error, TradeError::Refused { .. }), "{error}"),
        }
    }
}
