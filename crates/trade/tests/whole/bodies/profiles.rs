//! Profiles as parts, and bodies of them: known answers, picks that survive, and refusals with places.

use std::f64::consts::PI;

use nimbet_kernel::shapes::{block, turned};
use nimbet_kernel::{Mesh, Point, mesh_bytes};
use nimbet_trade::examine::{FaceSurface, face_facts};
use nimbet_trade::{PartState, TradeError, examine};
use serde_json::{Value, json};

use super::making::{done, quiet};

#[test]
fn a_figure_alone_moves_the_lines_a_body_is_made_of() {
    let step = |width: f64, more: Value| {
        let mut holds = json!([
            { "name": "w", "rule": { "off": { "spot": "beginning of a.3", "line": "a.7", "mm": width } } },
            { "name": "f", "rule": { "fixed": { "spot": "centre of a", "at": [0, 0] } } },
            { "name": "d", "rule": { "off": { "spot": "centre of c", "line": "a.3", "mm": 8 } } },
        ]);
        holds.as_array_mut().unwrap().extend(more.as_array().unwrap().clone());
        let mut step = plate(6.6);
        step["holds"] = holds;
        step
    };
    // The lines are written for 80 mm: the figure says 100, and the bores go along with the edge.
    let wide = drawn(step(100.0, json!([])));
    let body =
        done(json!({ "kind": "shape.extrude", "above": 1, "chord": 1e-4 }), &wide, &[]).unwrap().more.remove(0).mesh;
    assert!((volume(&body) / (plate_area(6.6) + 20.0 * 40.0) - 1.0).abs() < 1e-5);
    let bore = examine(&body, &quiet()).unwrap();
    assert!(bore.figures.size[0] > 99.999 && bore.figures.size[0] < 100.001);
    // What cannot be is refused with the names of what quarrels, and only those.
    let odd = json!([{ "name": "x", "rule": { "length": { "of": "a.1", "mm": 200 } } }]);
    let why = done(step(100.0, odd), &stand(), &[]).unwrap_err().to_string();
    assert!(why.starts_with("as the lines lie, these quarrel: w, x;"), "{why}");
}

/// A plate of 80 by 40 with a slot and four bores of a diameter, drawn on top of a block.
fn plate(diameter: f64) -> Value {
    json!({ "kind": "shape.profile", "plane": { "at": [0, 0, 5], "normal": [0, 0, 1] }, "right": [1, 0, 0], "lines": [
        { "name": "a", "draw": { "frame": { "centre": [0, 0], "size": [80, 40], "radius": 5 } } },
        { "name": "s", "draw": { "slot": { "from": [-10, 0], "to": [10, 0], "width": 8 } } },
        { "name": "c", "draw": { "circle": { "centre": [32, 12], "diameter": diameter } } },
        { "name": "m", "draw": { "mirrored": { "of": ["c"], "from": [0, 0], "to": [0, 1] } } },
        { "name": "n", "draw": { "mirrored": { "of": ["c", "m"], "from": [0, 0], "to": [1, 0] } } },
    ] })
}

fn stand() -> Mesh {
    block(Point::new(-50.0, -30.0, 0.0), Point::new(100.0, 60.0, 5.0))
}

fn drawn(step: Value) -> Mesh {
    done(step, &stand(), &[]).unwrap().more.remove(0).mesh
}

fn volume(mesh: &Mesh) -> f64 {
    let seen = examine(mesh, &quiet()).unwrap();
    assert_eq!(seen.figures.state, PartState::Sealed, "{}", seen.figures.reason);
    seen.figures.volume.unwrap()
}

fn plate_area(diameter: f64) -> f64 {
    3200.0 - (4.0 - PI) * 25.0 - (160.0 + PI * 16.0) - PI * diameter * diameter
}

#[test]
fn a_plate_is_one_step_from_its_outlines_and_its_bores_are_what_they_say() {
    let made = done(plate(6.6), &stand(), &[]).unwrap();
    let area = nimbet_trade::words::figure(plate_area(6.6) + 0.0);
    assert_eq!(made.done, [format!("drew 16 curves: closed: 6 regions, {area} mm²")]);
    // It is kept as it is, through storage, and another mesh of it is no profile.
    let profile = mesh_bytes::from_bytes(&mesh_bytes::to_bytes(&made.more[0].mesh)).unwrap();
    let extrude = json!({ "kind": "shape.extrude", "above": 4, "chord": 1e-4 });
    let body = done(extrude.clone(), &profile, &[]).unwrap().more.remove(0).mesh;
    assert!((volume(&body) / (4.0 * plate_area(6.6)) - 1.0).abs() < 1e-5);
    let faces = face_facts(&body, None, &quiet()).unwrap();
    let bores: Vec<f64> = faces
        .iter()
        .filter_map(|f| match f.surface {
            FaceSurface::Cylinder { radius, .. } => Some(radius),
            _ => None,
        })
        .collect();
    let of = |r: f64| bores.iter().filter(|b| (*b - r).abs() < 1e-9).count();
    assert_eq!((of(3.3), of(4.0), of(5.0)), (4, 2, 4), "{bores:?}");
    let moved = profile.map_points(|p| p + Point::X).unwrap();
    let error = done(extrude, &moved, &[]).unwrap_err();
    assert!(error.to_string().contains("no profile"), "{error}");
}

#[test]
fn regions_are_found_again_after_the_drawing_changed_and_bodies_go_into_parts() {
    let pocket = json!({ "kind": "shape.extrude", "profile": 2, "above": 0, "below": 2, "becomes": "taken", "chord": 1e-4,
        "regions": [{ "at": [32, 12], "lines": ["c"] }, { "at": [0, 0], "lines": ["s.1", "s.2", "s.3", "s.4"] }] });
    for diameter in [6.6, 9.0] {
        let cut = done(pocket.clone(), &stand(), &[drawn(plate(diameter))]).unwrap();
        let away = 2.0 * (PI * diameter * diameter / 4.0 + 160.0 + PI * 16.0);
        assert!((volume(&cut.mesh) - (30000.0 - away)).abs() < 0.02, "{}", volume(&cut.mesh));
        assert!(cut.more.is_empty());
    }
    let boss = json!({ "kind": "shape.extrude", "profile": 2, "above": 7, "becomes": "added", "draft": 5 });
    let whole = done(boss, &stand(), &[drawn(plate(6.6))]).unwrap();
    assert!(volume(&whole.mesh) > 30000.0);
    // Without the line the pick was made by there is none, and where it was is told.
    let mut other = plate(6.6);
    other["lines"][2]["draw"]["circle"]["centre"] = json!([20, 12]);
    other["lines"][2]["name"] = json!("z");
    other["lines"][3]["draw"]["mirrored"]["of"] = json!(["z"]);
    other["lines"][4]["draw"]["mirrored"]["of"] = json!(["z", "m"]);
    let error = done(pocket, &stand(), &[drawn(other)]).unwrap_err();
    assert!(matches!(error, TradeError::NeedsNewPick { place, .. } if place == Point::new(32.0, 12.0, 5.0)));
    let alone = json!({ "kind": "shape.extrude", "above": 2, "becomes": "added" });
    assert!(done(alone, &drawn(plate(6.6)), &[]).unwrap_err().to_string().contains("which profile"));
}

#[test]
fn an_open_half_profile_is_turned_to_a_dish_and_one_that_ends_on_the_axis_twice_to_a_solid() {
    let half = |to: [f64; 2]| {
        json!({ "kind": "shape.profile", "plane": { "at": [0, 0, 0], "normal": [0, 1, 0] }, "right": [1, 0, 0], "lines": [
            { "name": "a", "draw": { "arc": { "from": [0, -20], "via": [20_f64 * (PI / 4.0).sin(), -20_f64 * (PI / 4.0).cos()], "to": to } } },
        ] })
    };
    let turn = json!({ "kind": "shape.revolve", "axis": { "at": [0, 0], "way": [0, 1] }, "chord": 1e-3 });
    let made = done(half([20.0, 0.0]), &stand(), &[]).unwrap();
    assert!(made.done[0].contains("open: 2 ends"), "{:?}", made.done);
    let dish = done(turn.clone(), &made.more[0].mesh, &[]).unwrap().more.remove(0).mesh;
    let seen = examine(&dish, &quiet()).unwrap();
    assert_eq!((seen.figures.state, seen.figures.rims), (PartState::Open, 1));
    assert!((seen.figures.area / (2.0 * PI * 400.0) - 1.0).abs() < 1e-3);
    let ball = done(turn, &drawn(half([0.0, 20.0])), &[]).unwrap().more.remove(0).mesh;
    assert!((volume(&ball) / (4.0 / 3.0 * PI * 8000.0) - 1.0).abs() < 1e-3);
}

#[test]
fn what_is_wrong_with_a_drawing_is_told_where_it_is() {
    let open = json!({ "kind": "shape.profile", "plane": { "at": [0, 0, 7], "normal": [0, 0, 1] }, "right": [1, 0, 0], "lines": [
        { "name": "a", "draw": { "chain": { "from": [0.02, 0], "legs": [{ "to": [10, 0] }, { "to": [10, 10] }, { "to": [0, 0] }] } } },
    ] });
    let made = done(open, &stand(), &[]).unwrap();
    assert_eq!(made.notices.len(), 1);
    assert_eq!(made.notices[0].text, "lines a.1 and a.3 end 0.02 mm apart");
    assert_eq!(made.notices[0].place.centre[2], 7.0);
    // Many ends: the first are listed, and how many there are is told. An open line that crosses itself is shown all the same.
    let stroke = |k: u32| json!({ "name": format!("l{k}"), "draw": { "line": { "from": [k, 0], "to": [k, 5] } } });
    let comb = json!({ "kind": "shape.profile", "plane": { "at": [0, 0, 0], "normal": [0, 0, 1] },
        "lines": (0..20).map(stroke).collect::<Vec<_>>() });
    let made = done(comb, &stand(), &[]).unwrap();
    assert_eq!(made.left, ["40 free ends; the first 10 are listed"]);
    let legs = json!([{ "to": [2, 2] }, { "to": [2, 0] }, { "to": [0, 2] }]);
    let knot = json!({ "kind": "shape.profile", "plane": { "at": [0, 0, 0], "normal": [0, 0, 1] },
        "lines": [{ "name": "a", "draw": { "chain": { "from": [0, 0], "legs": legs } } }] });
    assert!(drawn(knot).triangles().len() > 3, "its region and its loose ends");
    let bad = json!({ "kind": "shape.profile", "plane": { "at": [0, 0, 0], "normal": [0, 0, 1] }, "lines": [
        { "name": "a", "draw": { "circle": { "centre": [0, 0], "diameter": -3 } } } ] });
    assert!(done(bad, &stand(), &[]).unwrap_err().to_string().starts_with("line a: its diameter is -3 mm"));
    // Turned across its axis, leant until it closes, cut finer than can be held: refused, with places where there are any.
    let profile = drawn(plate(6.6));
    let across = json!({ "kind": "shape.revolve", "axis": { "at": [0, 0], "way": [0, 1] } });
    assert_eq!(done(across, &profile, &[]).unwrap_err().places().len(), 1);
    let steep = json!({ "kind": "shape.extrude", "above": 40, "draft": 60 });
    assert!(done(steep, &profile, &[]).unwrap_err().to_string().contains("is the most"));
    let fine = json!({ "kind": "shape.extrude", "above": 4, "chord": 1e-15 });
    assert!(done(fine, &profile, &[]).unwrap_err().to_string().contains("triangles"));
}

/// A profile's frame turned and moved as the part is that it goes into: the same volume is taken away, however both lie.
#[test]
fn a_pocket_is_the_same_however_its_plane_and_its_part_lie() {
    let plain = plate(6.6);
    let pocket =
        json!({ "kind": "shape.extrude", "profile": 2, "above": 1, "below": 3, "becomes": "taken", "chord": 0.01 });
    let wanted = volume(&done(pocket.clone(), &stand(), &[drawn(plain.clone())]).unwrap().mesh);
    for (axis, angle, by) in [
        (Point::new(1.0, 2.0, 3.0), 0.7, Point::new(5.0, -3.0, 11.0)),
        (Point::new(-2.0, 0.3, 0.1), 2.9, Point::new(1e3, 2e3, -5e2)),
        (Point::X, std::f64::consts::PI, Point::ZERO),
    ] {
        let turn = glam::DQuat::from_axis_angle(axis.normalize(), angle);
        for single in [false, true] {
            let lies = |p: Point| {
                let p = turn * p + by;
                if single { Point::from_array(p.to_array().map(|x| f64::from(x as f32))) } else { p }
            };
            let part = stand().map_points(lies).unwrap();
            let mut step = plain.clone();
            step["plane"]["at"] = json!((turn * Point::new(0.0, 0.0, 5.0) + by).to_array());
            step["plane"]["normal"] = json!((turn * Point::Z).to_array());
            step["right"] = json!((turn * Point::X).to_array());
            let cut = done(pocket.clone(), &part, &[drawn(step)]).unwrap().mesh;
            let off = (volume(&cut) / wanted - 1.0).abs();
            // Surfaces of 13 000 mm² lie within a grid step of the arrangement, or of single precision at 2 m.
            assert!(off < if single { 1e-4 } else { 1e-7 }, "{axis} {single}: {off}");
        }
    }
}

/// Every figure of the three tools as nobody means it, on a real profile: an answer, soon, and never anything but a body or a refusal.
#[test]
fn figures_nobody_means_are_answered() {
    const FIGURES: [f64; 9] = [0.0, -1.0, 1e-12, 1e-5, 1e6, 1e12, 1e308, -1e308, 720.0];
    let (profile, stand) = (drawn(plate(6.6)), stand());
    let extrude = json!({ "kind": "shape.extrude", "above": 4.0, "below": 1.0, "draft": 1.0, "chord": 0.05,
        "regions": [{ "at": [32.0, 12.0], "lines": ["c"] }] });
    let revolve = json!({ "kind": "shape.revolve", "axis": { "at": [-50.0, 0.0], "way": [0.0, 1.0] }, "angle": 90.0, "begins": 10.0, "chord": 0.05 });
    let mut draw = plate(6.6);
    draw["lines"].as_array_mut().unwrap().extend([
        json!({ "name": "q", "draw": { "spiral": { "centre": [0.0, 0.0], "radius": 1.0, "grows": { "pitch": 1.0 }, "turns": 2.0 } } }),
        json!({ "name": "r", "draw": { "curve": { "points": [[0.0, 0.0], [3.0, 1.0], [4.0, 4.0]], "begin": 10.0 } } }),
        json!({ "name": "e", "draw": { "ellipse": { "centre": [0.0, 0.0], "size": [8.0, 3.0], "stretch": [10.0, 80.0] } } }),
        json!({ "name": "k", "draw": { "chain": { "from": [0.0, 0.0], "legs": [{ "to": [3.0, 1.0], "bulge": 0.4 }] } } }),
    ]);
    let mut tried = 0;
    for (step, part) in [(extrude, &profile), (revolve, &profile), (draw, &stand)] {
        let mut open = vec![(String::new(), step.clone())];
        while let Some((path, value)) = open.pop() {
            match value {
                Value::Array(all) => open.extend(all.into_iter().enumerate().map(|(n, v)| (format!("{path}/{n}"), v))),
                Value::Object(all) => open.extend(all.into_iter().map(|(name, v)| (format!("{path}/{name}"), v))),
                Value::Number(_) => {
                    for figure in FIGURES {
                        let mut other = step.clone();
                        *other.pointer_mut(&path).unwrap() = json!(figure);
                        let begin = std::time::Instant::now();
                        match done(other, part, &[]) {
                            Ok(made) => {
                                let sizes = made.meshes().flat_map(|m| m.points()).map(|p| p.abs().max_element());
                                assert!(sizes.fold(0.0, f64::max) < 1e307, "{path} = {figure}");
                            }
                            Err(TradeError::Mesh(e)) => {
                                assert!(e.to_string().contains("finite"), "{path} = {figure}: {e}")
                            }
                            Err(_) => {}
                        }
                        assert!(begin.elapsed().as_secs() < 60, "{path} = {figure}");
                        tried += 1;
                    }
                }
                _ => {}
            }
        }
    }
    assert!(tried > 400, "{tried}");
}

/// A boss grows up to a wall that is round: its end takes the shape it finds there, and united with it there is one solid.
#[test]
fn a_boss_goes_up_to_a_free_wall() {
    // A drum of 20 across, upright; the profile stands 30 before its middle, facing it.
    let upright = |radius: f64| turned(&[(0.0, 0.0), (radius, 0.0), (radius, 40.0), (0.0, 40.0)], 720);
    let drum = upright(10.0);
    let circle = json!([{ "name": "a", "draw": { "circle": { "centre": [0.0, -20.0], "diameter": 8.0 } } }]);
    let plane = json!({ "at": [0, -30, 0], "normal": [0, 1, 0] });
    let profile = json!({ "kind": "shape.profile", "plane": plane, "right": [1, 0, 0], "lines": circle });
    // Seen along its normal, x to the right, its y goes down.
    let profile = done(profile, &drum, &[]).unwrap().more.remove(0).mesh;
    // Stands across the plane, under part of the circle.
    let half = block(Point::new(1.0, -40.0, 0.0), Point::new(20.0, 60.0, 40.0));
    let up = |extra: Value, others: &[Mesh]| {
        let mut step = json!({ "kind": "shape.extrude", "profile": 2, "above": 0.0, "chord": 0.002 });
        step.as_object_mut().unwrap().extend(extra.as_object().unwrap().clone());
        done(step, &drum, others)
    };
    let made = up(json!({ "until": "the_part" }), std::slice::from_ref(&profile)).unwrap();
    let boss = &made.more[0].mesh;
    // From the plane to the drum: 30 less the height of the drum over each place of the circle.
    let n = 200_000;
    let exact: f64 = (0..n)
        .map(|k| {
            let x = (f64::from(k) + 0.5) / f64::from(n) * 8.0 - 4.0;
            2.0 * (16.0 - x * x).sqrt() * (30.0 - (100.0 - x * x).sqrt()) * 8.0 / f64::from(n)
        })
        .sum();
    let high = volume(boss);
    assert!((high / exact - 1.0).abs() < 1e-3, "{high} {exact}");
    // Added in the same step there is one solid, as large as both.
    let added = up(json!({ "until": "the_part", "becomes": "added" }), std::slice::from_ref(&profile)).unwrap();
    let whole = volume(&added.mesh);
    assert!((whole - high - volume(&drum)).abs() < 0.1, "{whole}");
    assert_eq!(examine(&added.mesh, &quiet()).unwrap().figures.shells, 1);
    // Taken away right through it leaves a bore through both walls.
    let bored = up(json!({ "until": "through", "becomes": "taken" }), std::slice::from_ref(&profile)).unwrap();
    assert!(volume(&bored.mesh) < volume(&drum) - 16.0 * 3.1 * 18.0);
    // A part that goes through the plane leaves only some of the profile before it.
    let through = up(json!({ "until": { "other": 3 } }), &[profile.clone(), half]).unwrap_err();
    assert!(through.to_string().contains("goes through the plane"), "{through}");
    assert_eq!(through.places().len(), 1);
    // Beside the part there is nothing to go up to: told with a place.
    let apart = up(json!({ "until": { "other": 3 } }), &[profile.clone(), upright(2.0)]).unwrap_err();
    assert!(apart.to_string().contains("does not stand before all"), "{apart}");
    assert_eq!(apart.places().len(), 1);
}
