//! Sheets between lines, and outlines laid onto faces: closed forms, pieces that join, and refusals.

use std::f64::consts::PI;

use nimbet_kernel::shapes::{block, turned};
use nimbet_kernel::{Mesh, Point};
use nimbet_trade::{Outcome, PartState, TradeError, examine};
use serde_json::{Value, json};

use super::making::{self, done, drawn_along, near, quiet, refusal, seen, with};

fn drawn(at: [f64; 3], normal: [f64; 3], right: [f64; 3], draw: Value) -> Mesh {
    drawn_along(at, normal, right, making::line(draw)).unwrap()
}

/// A body with its faces told apart.
fn faced(mesh: Mesh) -> Mesh {
    done(json!({ "kind": "seal.group_faces" }), &mesh, &[]).map_or(mesh, |o| o.mesh)
}

/// A straight line in space, as a profile in a plane that holds it.
fn line(from: [f64; 3], to: [f64; 3]) -> Mesh {
    let way = Point::from_array(to) - Point::from_array(from);
    let normal = way.cross(if way.x.abs() > 1e-9 || way.y.abs() > 1e-9 { Point::Z } else { Point::X });
    let draw = json!({ "line": { "from": [0, 0], "to": [way.length(), 0] } });
    drawn(from, normal.to_array(), way.to_array(), draw)
}

fn patch(sides: &[Mesh]) -> Result<Outcome, TradeError> {
    let numbers: Vec<usize> = (2..=sides.len()).collect();
    done(json!({ "kind": "shape.patch", "profiles": numbers, "chord": 0.002 }), &sides[0], &sides[1..])
}

#[test]
fn patches_are_flat_ruled_or_over_three_and_four_sides() {
    let area = |outcome: Outcome| seen(&outcome.more[0].mesh).area;
    let ground = |draw: Value| drawn([0.0; 3], [0.0, 0.0, 1.0], [1.0, 0.0, 0.0], draw);
    // Within an outline.
    let disc = ground(json!({ "circle": { "centre": [0, 0], "diameter": 20 } }));
    near(area(patch(&[disc]).unwrap()), PI * 100.0, 1e-3);
    // Straight between two lines: a flat one, and a twisted one, whose area is an integral.
    near(
        area(patch(&[line([0.0, 0.0, 0.0], [40.0, 0.0, 0.0]), line([0.0, 30.0, 5.0], [40.0, 30.0, 5.0])]).unwrap()),
        40.0 * 30.0_f64.hypot(5.0),
        1e-9,
    );
    let twisted = [line([0.0, 0.0, 0.0], [20.0, 0.0, 0.0]), line([0.0, 20.0, 0.0], [20.0, 20.0, 20.0])];
    let exact: f64 = (0..400)
        .flat_map(|i| (0..400).map(move |j| (i, j)))
        .map(|(i, j)| {
            let (u, v) = ((f64::from(i) + 0.5) / 400.0, (f64::from(j) + 0.5) / 400.0);
            // z = 20 u v over a square of 20.
            (1.0 + u * u + v * v).sqrt() * 400.0 / 160_000.0
        })
        .sum();
    near(area(patch(&twisted).unwrap()), exact, 1e-4);
    // Four sides of the same surface, given in any order and sense: the same, though by another way.
    let four = [
        line([20.0, 0.0, 0.0], [0.0, 0.0, 0.0]),
        line([0.0, 20.0, 0.0], [20.0, 20.0, 20.0]),
        line([20.0, 0.0, 0.0], [20.0, 20.0, 20.0]),
        line([0.0, 0.0, 0.0], [0.0, 20.0, 0.0]),
    ];
    near(area(patch(&four).unwrap()), exact, 1e-4);
    // Three sides in a plane fill their triangle.
    let three = [
        line([0.0, 0.0, 0.0], [30.0, 0.0, 0.0]),
        line([30.0, 0.0, 0.0], [0.0, 40.0, 0.0]),
        line([0.0, 40.0, 0.0], [0.0, 0.0, 0.0]),
    ];
    let triangle = patch(&three).unwrap();
    assert_eq!(seen(&triangle.more[0].mesh).naked_length.round(), 120.0);
    near(area(triangle), 600.0, 1e-9);
    // A half of a vault over arcs and lines: quarter of a cylinder's wall.
    let arc = |y: f64| {
        drawn(
            [0.0, y, 0.0],
            [0.0, -1.0, 0.0],
            [1.0, 0.0, 0.0],
            json!({ "arc": { "from": [-10, 0], "via": [0, 10], "to": [10, 0] } }),
        )
    };
    let vault =
        [arc(0.0), line([10.0, 0.0, 0.0], [10.0, 30.0, 0.0]), arc(30.0), line([-10.0, 30.0, 0.0], [-10.0, 0.0, 0.0])];
    near(area(patch(&vault).unwrap()), PI * 10.0 * 30.0, 1e-3);
    let why = |result: Result<Outcome, TradeError>| result.map(|o| o.done).unwrap_err();
    let open =
        why(patch(&four[..3].iter().cloned().chain([line([0.0, 0.0, 0.0], [0.0, 19.0, 0.0])]).collect::<Vec<_>>()));
    assert!(open.to_string().contains("do not meet") && open.places().len() == 2, "{open}");
    assert!(why(patch(&four[..1])).to_string().contains("one closed outline"));
}

#[test]
fn patches_go_on_from_the_faces_beside_their_edges_without_a_crease() {
    // A floor that ends at x = 0 and a wall that begins above x = 20: the patch between leaves the one level and meets the other upright.
    let [floor, wall] = [([-20.0, 0.0, 0.0], [0.0, 0.0, 0.0]), ([20.0, 0.0, 20.0], [20.0, 0.0, 40.0])].map(|(a, b)| {
        let shifted = |p: [f64; 3]| [p[0], 30.0, p[2]];
        patch(&[line(a, b), line(shifted(a), shifted(b))]).unwrap().more.remove(0).mesh
    });
    let both = done(json!({ "kind": "seal.join", "with": [2] }), &floor, &[wall]).unwrap().mesh;
    let sides = [line([0.0, 0.0, 0.0], [20.0, 0.0, 20.0]), line([0.0, 30.0, 0.0], [20.0, 30.0, 20.0])];
    let step = |goes_on: bool, profiles: &[u32]| json!({ "kind": "shape.patch", "profiles": profiles, "edges": [[0, 15, 0], [20, 15, 20]], "goes_on": goes_on, "chord": 0.005 });
    // How far from level, and from upright, its first triangles lean in the middle of each edge, degrees.
    let leans = |mesh: &Mesh| {
        let beside = |x: f64| {
            let on = |t: &usize| {
                let corners = mesh.corners(*t);
                let [least, most] = [f64::min, f64::max].map(|of| corners.iter().map(|p| p.y).reduce(of).unwrap());
                corners.iter().filter(|p| (p.x - x).abs() < 1e-9).count() == 2 && least < 19.0 && most > 11.0
            };
            let normals = (0..mesh.triangles().len()).filter(on).map(|t| mesh.area_vector(t).normalize());
            normals.map(|n| if x == 0.0 { n.z } else { n.x }.abs().min(1.0).acos().to_degrees()).fold(0.0, f64::max)
        };
        [beside(0.0), beside(20.0)]
    };
    for profiles in [&[2, 3][..], &[]] {
        let others = &sides[..profiles.len()];
        let plain = done(step(false, profiles), &both, others).unwrap().more.remove(0).mesh;
        assert!(leans(&plain).iter().all(|a| (a - 45.0).abs() < 1e-6), "{:?}", leans(&plain));
        let smooth = done(step(true, profiles), &both, others).unwrap().more.remove(0).mesh;
        assert!(leans(&smooth).iter().all(|a| *a < 3.0), "{:?}", leans(&smooth));
        // Its borders are where they were, so that it can be joined: one sheet, open round its outside alone.
        if profiles.len() == 2 {
            near(seen(&smooth).naked_length, 2.0 * (30.0 + 20.0 * 2f64.sqrt()), 1e-9);
        }
        let whole = done(json!({ "kind": "seal.join", "with": [2] }), &both, &[smooth]).unwrap().mesh;
        let whole = examine(&whole, &quiet()).unwrap();
        assert_eq!((whole.rims.len(), whole.figures.shells), (1, 1));
    }
    // Where what lies beside it goes on in it already, nothing changes: a quarter of a pipe.
    let arc = |y: f64| {
        drawn(
            [0.0, y, 20.0],
            [0.0, -1.0, 0.0],
            [1.0, 0.0, 0.0],
            json!({ "arc": { "from": [0, -20], "via": [20.0 * 0.5f64.sqrt(), -20.0 * 0.5f64.sqrt()], "to": [20, 0] } }),
        )
    };
    let quarter = done(step(true, &[2, 3]), &both, &[arc(0.0), arc(30.0)]).unwrap().more.remove(0).mesh;
    near(seen(&quarter).area, PI * 10.0 * 30.0, 1e-3);
    let (why, _) = refusal(done(json!({ "kind": "shape.patch", "profiles": [2, 3], "goes_on": true }), &both, &sides));
    assert!(why.contains("choose edges"), "{why}");
}

#[test]
fn a_box_of_patches_joins_to_a_solid() {
    // Six sides of a box from its twelve edges, each a patch of four lines; joined, they enclose it.
    let at = |k: usize| [(k & 1) as f64 * 30.0, ((k >> 1) & 1) as f64 * 20.0, ((k >> 2) & 1) as f64 * 10.0];
    let faces = [[0, 1, 3, 2], [4, 5, 7, 6], [0, 1, 5, 4], [2, 3, 7, 6], [0, 2, 6, 4], [1, 3, 7, 5]];
    let sheets: Vec<Mesh> = faces
        .iter()
        .map(|f| {
            let sides: Vec<Mesh> = (0..4).map(|k| line(at(f[k]), at(f[(k + 1) % 4]))).collect();
            patch(&sides).unwrap().more.remove(0).mesh
        })
        .collect();
    let join = json!({ "kind": "seal.join", "with": [2, 3, 4, 5, 6] });
    let made = done(join, &sheets[0], &sheets[1..]).unwrap().mesh;
    let outward = done(json!({ "kind": "seal.turn_outward" }), &made, &[]).map_or(made, |o| o.mesh);
    let figures = seen(&outward);
    assert_eq!(figures.state, PartState::Sealed, "{}", figures.reason);
    near(figures.volume.unwrap(), 6000.0, 1e-9);
}

fn emboss(part: &Mesh, profile: &Mesh, face: [f64; 3], more: Value) -> Result<Outcome, TradeError> {
    let step = json!({ "kind": "shape.emboss", "profile": 2, "face": face, "depth": 1, "chord": 0.002 });
    done(with(step, more), part, std::slice::from_ref(profile))
}

#[test]
fn outlines_stand_out_of_flat_and_round_faces_by_what_was_asked() {
    let volume = |outcome: &Outcome| {
        let figures = seen(&outcome.mesh);
        assert_eq!(figures.state, PartState::Sealed, "{}", figures.reason);
        figures.volume.unwrap()
    };
    let tile = faced(block(Point::ZERO, Point::new(40.0, 30.0, 5.0)));
    let mark = json!({ "frame": { "centre": [0, 0], "size": [8, 4] } });
    let over = drawn([20.0, 15.0, 9.0], [0.0, 0.0, 1.0], [1.0, 0.0, 0.0], mark.clone());
    near(volume(&emboss(&tile, &over, [20.0, 15.0, 5.0], json!({})).unwrap()), 6000.0 + 32.0, 1e-9);
    near(volume(&emboss(&tile, &over, [20.0, 15.0, 5.0], json!({ "stands": "sunk" })).unwrap()), 6000.0 - 32.0, 1e-9);
    // With a draft of 45 degrees: a frustum, 8 by 4 at the face and 6 by 2 a millimetre out.
    let frustum = (32.0 + 12.0 + 4.0 * 7.0 * 3.0) / 6.0;
    near(volume(&emboss(&tile, &over, [20.0, 15.0, 5.0], json!({ "draft": 45 })).unwrap()) - 6000.0, frustum, 1e-6);
    near(
        6000.0 - volume(&emboss(&tile, &over, [20.0, 15.0, 5.0], json!({ "draft": 45, "stands": "sunk" })).unwrap()),
        frustum,
        1e-6,
    );

    // Round a drum of radius 20, not stretched: between radius 20 and 21, an angle of 8 / 20 and 4 high.
    let wheel = |k: usize| if k == 0 { 1e-3 } else { 0.05 };
    for coarse in [0, 1] {
        let steps = (PI / (1.0 - wheel(coarse) / 20.0_f64).acos()).ceil() as usize;
        let drum = faced(turned(&[(0.0, 0.0), (20.0, 0.0), (20.0, 30.0), (0.0, 30.0)], steps));
        let beside = drawn([25.0, 0.0, 15.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0], mark.clone());
        let before = seen(&drum).volume.unwrap();
        let raised = volume(&emboss(&drum, &beside, [20.0, 0.0, 15.0], json!({})).unwrap()) - before;
        let sector = |r: f64, q: f64| (q * q - r * r) / 2.0 * (8.0 / 20.0) * 4.0;
        // On a coarse drum what lies between its facets and the true circle belongs to the mark too.
        let film = if coarse == 0 { 1e-3 } else { 0.05 };
        near(raised, sector(20.0, 21.0), film + 2e-3);
        let sunk = before - volume(&emboss(&drum, &beside, [20.0, 0.0, 15.0], json!({ "stands": "sunk" })).unwrap());
        near(sunk, sector(19.0, 20.0), film + 2e-3);
    }
    // A cone unrolls: areas on it stay what they are drawn.
    let cone = faced(turned(&[(0.0, 0.0), (20.0, 0.0), (10.0, 30.0), (0.0, 30.0)], 720));
    let beside = drawn([30.0, 0.0, 15.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0], mark.clone());
    let before = seen(&cone).volume.unwrap();
    let face = [15.0, 0.0, 15.0];
    let thin = volume(&emboss(&cone, &beside, face, json!({ "depth": 0.1 })).unwrap()) - before;
    near(thin, 32.0 * 0.1, 0.01);
    // Letters read from outside, on whichever side of the plane they were drawn.
    let letter = json!({ "letters": { "at": [-3, -2], "text": "F", "height": 4 } });
    let word = drawn([25.0, 0.0, 15.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0], letter);
    assert!(volume(&emboss(&cone, &word, face, json!({})).unwrap()) > before);
}

#[test]
fn what_cannot_be_laid_on_is_refused() {
    let why = |result: Result<Outcome, TradeError>| result.map(|o| o.done).unwrap_err().to_string();
    let drum = faced(turned(&[(0.0, 0.0), (5.0, 0.0), (5.0, 60.0), (0.0, 60.0)], 240));
    let wide = drawn(
        [9.0, 0.0, 30.0],
        [1.0, 0.0, 0.0],
        [0.0, 1.0, 0.0],
        json!({ "frame": { "centre": [0, 0], "size": [40, 4] } }),
    );
    let told = why(emboss(&drum, &wide, [5.0, 0.0, 30.0], json!({})));
    assert!(told.contains("40 mm wide") && told.contains("31.4 mm round"), "{told}");
    let small = drawn(
        [9.0, 0.0, 30.0],
        [1.0, 0.0, 0.0],
        [0.0, 1.0, 0.0],
        json!({ "circle": { "centre": [0, 0], "diameter": 3 } }),
    );
    let deep = why(emboss(&drum, &small, [5.0, 0.0, 30.0], json!({ "depth": 6, "stands": "sunk" })));
    assert!(deep.contains("through the axis"), "{deep}");
    let axis = drawn(
        [0.0, 0.0, 90.0],
        [0.0, 0.0, 1.0],
        [1.0, 0.0, 0.0],
        json!({ "circle": { "centre": [0, 0], "diameter": 3 } }),
    );
    assert!(why(emboss(&drum, &axis, [5.0, 0.0, 30.0], json!({}))).contains("lies on the axis"));
    let lean = why(emboss(&drum, &small, [5.0, 0.0, 30.0], json!({ "depth": 4, "draft": 60 })));
    assert!(lean.contains("meet before the end"), "{lean}");
    let ball = faced(turned(
        &(0..=40).map(|k| (PI * f64::from(k) / 40.0).sin_cos()).map(|(s, c)| (10.0 * s, -10.0 * c)).collect::<Vec<_>>(),
        80,
    ));
    assert!(why(emboss(&ball, &small, [10.0, 0.0, 0.0], json!({}))).contains("unroll"));
}
