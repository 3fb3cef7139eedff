//! Sheets cut where something meets them, and carried on until something does: known areas, pieces, refusals.

use nimbet_kernel::shapes::block;
use nimbet_kernel::{Mesh, Point};
use nimbet_trade::{Outcome, TradeError};
use proptest::prelude::*;
use serde_json::{Value, json};

use super::making::*;

/// A sheet in as many cells along x and y, lifted.
fn sheet([width, depth]: [f64; 2], cells: usize, lift: impl Fn(f64, f64) -> f64) -> Mesh {
    let n = cells + 1;
    let at = |i: usize| {
        let (x, y) = (width * (i % n) as f64 / cells as f64, depth * (i / n) as f64 / cells as f64);
        Point::new(x, y, lift(x, y))
    };
    let corners = (0..cells * cells).map(|k| (k / cells * n + k % cells) as u32);
    let triangles = corners.flat_map(|a| [[a, a + 1, a + 1 + n as u32], [a, a + 1 + n as u32, a + n as u32]]);
    Mesh::with_one_face((0..n * n).map(at).collect(), triangles.collect()).unwrap()
}

fn plate() -> Mesh {
    sheet([40.0, 30.0], 4, |_, _| 0.0)
}

fn profile(draw: Value) -> Mesh {
    let step = json!({ "kind": "shape.profile", "plane": { "at": [0, 0, 0], "normal": [0, 0, 1] }, "right": [1, 0, 0],
        "lines": [{ "name": "a", "draw": draw }] });
    done(step, &Mesh::default(), &[]).unwrap().more.remove(0).mesh
}

fn at_x(x: f64) -> Value {
    json!({ "plane": { "at": [x, 0, 0], "normal": [1, 0, 0] } })
}

fn trimmed(mesh: &Mesh, others: &[Mesh], by: Value, keep: &[[f64; 3]]) -> Result<Outcome, TradeError> {
    let keep = if keep.is_empty() { json!("all") } else { json!({ "picked": keep }) };
    done(json!({ "kind": "shape.trim_sheet", "by": by, "keep": keep }), mesh, others)
}

fn extended(
    mesh: &Mesh,
    others: &[Mesh],
    edges: &[[f64; 3]],
    by: f64,
    until: Option<Value>,
) -> Result<Outcome, TradeError> {
    done(json!({ "kind": "shape.extend_sheet", "edges": edges, "by": by, "until": until }), mesh, others)
}

#[test]
fn a_sheet_is_cut_by_planes_profiles_and_sheets() {
    let plate = plate();
    let all = trimmed(&plate, &[], at_x(13.0), &[]).unwrap();
    near(seen(&all.mesh).area, 27.0 * 30.0, 1e-9);
    near(seen(&all.more[0].mesh).area, 13.0 * 30.0, 1e-9);
    let left = trimmed(&plate, &[], at_x(13.0), &[[5.0, 5.0, 0.0]]).unwrap();
    near(seen(&left.mesh).area, 13.0 * 30.0, 1e-9);
    assert!(left.more.is_empty());
    // A hole drilled square into half a tube: what it takes is an integral.
    let (tube, hole) = (20.0, 8.0);
    let arc = profile(json!({ "arc": { "from": [-tube, 0], "via": [0, tube], "to": [tube, 0] } }));
    let half = done(json!({ "kind": "shape.extrude", "above": 60, "chord": 0.001 }), &arc, &[]).unwrap();
    let half = half.more[0].mesh.clone();
    let drill = done(
        json!({ "kind": "shape.profile", "plane": { "at": [0, 0, 30], "normal": [0, 1, 0] }, "right": [1, 0, 0],
            "lines": [{ "name": "a", "draw": { "circle": { "centre": [0, 0], "diameter": 2.0 * hole } } }] }),
        &Mesh::default(),
        &[],
    );
    let drill = drill.unwrap().more.remove(0).mesh;
    let by = json!({ "profile": { "profile": 2, "chord": 0.001 } });
    let disc = trimmed(&half, &[drill], by, &[[0.0, tube, 30.0]]).unwrap();
    let step = hole / 20_000.0;
    let exact: f64 = (0..20_000)
        .map(|k| (f64::from(k) + 0.5) * step)
        .map(|x| 4.0 * (hole * hole - x * x).sqrt() * tube / (tube * tube - x * x).sqrt() * step)
        .sum();
    near(seen(&disc.mesh).area, exact, 3e-4);
}

#[test]
fn sheets_trimmed_to_each_other_are_joined() {
    let floor = plate();
    // A wall that stands through the floor and reaches below it.
    let wall = floor.clone().map_points(|p| Point::new(25.0, p.x * 0.75, p.y - 10.0)).unwrap();
    let upper =
        trimmed(&wall, std::slice::from_ref(&floor), json!({ "sheet": 2 }), &[[25.0, 15.0, 10.0]]).unwrap().mesh;
    near(seen(&upper).area, 30.0 * 20.0, 1e-9);
    let cut = trimmed(&floor, std::slice::from_ref(&upper), json!({ "sheet": 2 }), &[[5.0, 5.0, 0.0]]).unwrap().mesh;
    near(seen(&cut).area, 25.0 * 30.0, 1e-9);
    let one = done(json!({ "kind": "seal.join", "with": [2] }), &cut, &[upper]).unwrap().mesh;
    near(seen(&one).area, 30.0 * 20.0 + 25.0 * 30.0, 1e-9);
    assert_eq!(seen(&one).shells, 1);
}

#[test]
fn a_cut_that_parts_nothing_says_where_it_ends() {
    let plate = plate();
    let (why, _) = refusal(trimmed(&plate, &[], at_x(55.0), &[]));
    assert_eq!(why, "the plane does not go through the sheet");
    let line = profile(json!({ "line": { "from": [10, -5], "to": [10, 12.5] } }));
    let by = json!({ "profile": { "profile": 2 } });
    let (why, places) = refusal(trimmed(&plate, &[line], by.clone(), &[]));
    assert!(why.starts_with("the cut ends within the sheet"), "{why}");
    assert_eq!(places, [Point::new(10.0, 12.5, 0.0)]);
    // Nothing picked: each piece is shown.
    let step = json!({ "kind": "shape.trim_sheet", "by": at_x(13.0), "keep": { "picked": [] } });
    let (why, places) = refusal(done(step, &plate, &[]));
    assert_eq!(why, "it is cut into 2 pieces; click those that stay");
    assert_eq!(places.iter().filter(|p| p.x < 13.0).count(), 1);
    let (why, _) = refusal(trimmed(&plate, &[], at_x(13.0), &[[5.0, 5.0, 3.0]]));
    assert_eq!(why, "the piece is not there any more; pick it again");
    let (why, _) = refusal(trimmed(&plate, &[], at_x(13.0), &[[5.0, 5.0, 0.0], [30.0, 5.0, 0.0]]));
    assert_eq!(why, "every piece of the sheet stays");
    let solid = block(Point::ZERO, Point::ONE);
    assert!(refusal(trimmed(&solid, &[], at_x(0.5), &[])).0.contains("Saw"));
}

#[test]
fn a_sheet_is_carried_on_by_a_length() {
    let plate = plate();
    let right = extended(&plate, &[], &[[40.0, 11.0, 0.0]], 10.0, None).unwrap().mesh;
    near(seen(&right).area, 50.0 * 30.0, 1e-9);
    assert_eq!((seen(&right).faces, seen(&right).rims), (1, 1));
    // Two sides that meet go on to one corner, all four keep the rectangle.
    let two = extended(&plate, &[], &[[40.0, 11.0, 0.0], [3.0, 30.0, 0.0]], 10.0, None).unwrap().mesh;
    near(seen(&two).area, 50.0 * 40.0, 1e-9);
    let sides = [[40.0, 11.0, 0.0], [3.0, 30.0, 0.0], [0.0, 11.0, 0.0], [3.0, 0.0, 0.0]];
    near(seen(&extended(&plate, &[], &sides, 10.0, None).unwrap().mesh).area, 60.0 * 50.0, 1e-9);
    // Inside a ring it is hollow, and runs together at its middle.
    let ring = profile(json!({ "circle": { "centre": [0, 0], "diameter": 30 } }));
    let disc = done(json!({ "kind": "shape.patch", "chord": 0.001 }), &ring, &[]).unwrap().more.remove(0).mesh;
    let hole = profile(json!({ "circle": { "centre": [0, 0], "diameter": 10 } }));
    let by = json!({ "profile": { "profile": 2, "chord": 0.001 } });
    let washer = trimmed(&disc, &[hole], by, &[[12.0, 0.0, 0.0]]).unwrap().mesh;
    let rim = [[5.0, 0.0, 0.0]];
    let nearly = extended(&washer, &[], &rim, 4.9, None).unwrap().mesh;
    near(seen(&nearly).area, std::f64::consts::PI * (225.0 - 0.01), 1e-3);
    let (why, places) = refusal(extended(&washer, &[], &rim, 5.01, None));
    assert!(why.starts_with("the border is hollow here and has run together after"), "{why}");
    assert!((places[0].length() - 5.0).abs() < 0.01);
    let (why, _) = refusal(extended(&plate, &[], &[], 5.0, None));
    assert_eq!(why, "click the edges that are carried on");
}

#[test]
fn a_sheet_is_carried_on_until_it_meets_something() {
    let plate = plate();
    let edge = [[40.0, 11.0, 0.0]];
    // A slanting plane: a trapezium more.
    let slant = json!({ "plane": { "at": [50, 0, 0], "normal": [3, 1, 0] } });
    let to = extended(&plate, &[], &edge, 20.0, Some(slant.clone())).unwrap().mesh;
    near(seen(&to).area, 40.0 * 30.0 + 30.0 * 10.0 * 0.5, 1e-6);
    let (why, places) = refusal(extended(&plate, &[], &edge, 6.0, Some(slant)));
    assert_eq!(why, "after 6 mm it has not met the plane here");
    assert!(!places.is_empty() && places.iter().all(|p| (p.x - 46.0).abs() < 1e-6), "{places:?}");
    let far = json!({ "plane": { "at": [90, 0, 0], "normal": [1, 0, 0] } });
    assert_eq!(refusal(extended(&plate, &[], &edge, 6.0, Some(far))).0, "after 6 mm it has not met the plane");
    // Two sheets that end short of each other: one is carried on beyond, the other until it meets it; then one is trimmed.
    let wall = plate.clone().map_points(|p| Point::new(50.0, p.y, 3.0 + p.x)).unwrap();
    let wall = extended(&wall, &[], &[[50.0, 11.0, 3.0]], 8.0, None).unwrap().mesh;
    let floor = extended(&plate, std::slice::from_ref(&wall), &edge, 30.0, Some(json!({ "sheet": 2 }))).unwrap().mesh;
    near(seen(&floor).area, 50.0 * 30.0, 1e-6);
    let wall = trimmed(&wall, std::slice::from_ref(&floor), json!({ "sheet": 2 }), &[[50.0, 5.0, 20.0]]).unwrap().mesh;
    near(seen(&wall).area, 43.0 * 30.0, 1e-6);
    let one = done(json!({ "kind": "seal.join", "with": [2] }), &floor, &[wall]).unwrap().mesh;
    assert_eq!((seen(&one).shells, seen(&one).rims), (1, 1));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Whatever cuts a wavy sheet: nothing of it is lost or made, each piece lies on one side, and a kept piece is that piece.
    #[test]
    fn pieces_are_the_sheet(
        waves in prop::array::uniform4(-0.4..0.4_f64),
        normal in prop::array::uniform3(-1.0..1.0_f64),
        off in prop::array::uniform3(0.2..0.8_f64),
        turn in 0.0..6.3_f64,
    ) {
        let wavy = sheet([40.0, 30.0], 24, |x, y| 6.0 * ((waves[0] * x).sin() + (waves[1] * y).cos()) + waves[2] * x + waves[3] * y);
        let (sin, cos) = turn.sin_cos();
        let put = |p: Point| Point::new(p.x * cos - p.z * sin, p.y, p.x * sin + p.z * cos) + Point::new(3e3, -2e3, 1e3);
        let wavy = wavy.map_points(put).unwrap();
        let normal = Point::from_array(normal);
        prop_assume!(normal.length() > 0.1);
        let at = put(Point::new(40.0 * off[0], 30.0 * off[1], 12.0 * (off[2] - 0.5)));
        let by = json!({ "plane": { "at": at.to_array(), "normal": normal.to_array() } });
        let Ok(all) = trimmed(&wavy, &[], by.clone(), &[]) else { return Ok(()) };
        let pieces: Vec<&Mesh> = all.meshes().collect();
        let area: f64 = pieces.iter().map(|m| seen(m).area).sum();
        prop_assert!((area / seen(&wavy).area - 1.0).abs() < 1e-6, "{}", area);
        for piece in &pieces {
            let heights = piece.points().iter().map(|p| (*p - at).dot(normal.normalize()));
            let (low, high) = heights.fold((0.0_f64, 0.0_f64), |(l, h), x| (l.min(x), h.max(x)));
            prop_assert!(low.abs().min(high) < 1e-4, "{} {}", low, high);
        }
        let largest = (0..all.mesh.triangles().len()).max_by(|a, b| {
            let area = |t: usize| all.mesh.area_vector(t).length();
            area(*a).total_cmp(&area(*b))
        });
        let [a, b, c] = all.mesh.corners(largest.unwrap());
        let kept = trimmed(&wavy, &[], by, &[((a + b + c) / 3.0).to_array()]).unwrap().mesh;
        prop_assert_eq!(kept.triangles().len(), all.mesh.triangles().len());
        prop_assert!((seen(&kept).area / seen(&all.mesh).area - 1.0).abs() < 1e-12);
    }
}
