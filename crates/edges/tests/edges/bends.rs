//! Sections wider than a bend of the edge.

use std::f64::consts::PI;

use nimbet_edges::EdgeError;
use nimbet_edges::graph::Graph;
use nimbet_edges::plan::{Cause, Trouble};
use nimbet_edges::station::Section;
use nimbet_kernel::{Mesh, Progress};

use crate::making::{block, cut, drawn_out, round, together, volume};

/// An outline of straight sides from corner to corner, counter-clockwise, each corner rounded by an arc of so many pieces.
fn bent(corners: &[[f64; 2]], radius: f64, pieces: usize) -> Vec<[f64; 2]> {
    let n = corners.len();
    let mut outline = Vec::new();
    for k in 0..n {
        let [before, at, after] = [k + n - 1, k, k + 1].map(|k| glam::DVec2::from_array(corners[k % n]));
        let (u, v) = ((at - before).normalize(), (after - at).normalize());
        let turn = u.angle_to(v);
        let begin = at - u * radius * (turn.abs() * 0.5).tan();
        let centre = begin + u.perp() * radius * turn.signum();
        let arm = begin - centre;
        outline.extend((0..=pieces).map(|k| {
            let by = glam::DVec2::from_angle(turn * k as f64 / pieces as f64);
            (centre + by.rotate(arm)).to_array()
        }));
    }
    outline
}

/// A body of that outline of which each bend is one face; it lies in x and z and is deep along y.
fn body(corners: &[[f64; 2]], radius: f64, pieces: usize, depth: f64) -> Mesh {
    let of = |t: usize, mesh: &Mesh| {
        let face = mesh.face_of()[t].0;
        if face < 2 {
            face
        } else {
            2 + (face - 2) / (pieces as u32 + 1) * 2 + u32::from((face - 2) % (pieces as u32 + 1) == pieces as u32)
        }
    };
    let mesh = drawn_out(&bent(corners, radius, pieces), depth);
    let faces: Vec<u32> = (0..mesh.triangles().len()).map(|t| of(t, &mesh)).collect();
    mesh.regroup(|t| nimbet_kernel::FaceId(faces[t]))
}

/// What a rounding takes of the rim of a rectangle with corners of a smaller radius, by sections.
fn taken([long, wide]: [f64; 2], bend: f64, radius: f64) -> f64 {
    const STEPS: usize = 2000;
    let arc = |x: f64| bend - (bend * bend - (bend - x).powi(2)).max(0.0).sqrt();
    // What is missing of one corner of a rectangle so far within the outline.
    let missing = |inset: f64| {
        let step = (bend - inset).max(0.0) / STEPS as f64;
        (0..STEPS).map(|k| (arc(inset + (k as f64 + 0.5) * step) - inset).max(0.0) * step).sum::<f64>()
    };
    let area = |inset: f64| (long - 2.0 * inset) * (wide - 2.0 * inset) - 4.0 * missing(inset);
    let whole = area(0.0);
    let inset = |depth: f64| radius - (radius * radius - (radius - depth).powi(2)).max(0.0).sqrt();
    let step = radius / STEPS as f64;
    (0..STEPS).map(|k| (whole - area(inset((k as f64 + 0.5) * step))) * step).sum()
}

const SQUARE: [[f64; 2]; 4] = [[0.0, 0.0], [20.0, 0.0], [20.0, 12.0], [0.0, 12.0]];

fn at_front(graph: &Graph<'_>, run: u32, at: f64) -> bool {
    graph.runs[run as usize].edges.iter().flat_map(|e| graph.ends(*e)).all(|v| (graph.place(v).y - at).abs() < 1e-9)
}

#[test]
fn past_bends_tighter_than_it_a_rounding_meets_itself_in_mitres() {
    for (bend, radius) in [(0.5, 1.0), (0.5, 0.6), (0.1, 2.0), (0.99, 1.0)] {
        let plate = body(&SQUARE, bend, 24, 6.0);
        let exact = taken([20.0, 12.0], bend, radius);
        let made = cut(&plate, |g, r| at_front(g, r, 0.0), round(radius), 1e-4).unwrap();
        let lost = volume(&plate) - volume(&made);
        assert!((lost / exact - 1.0).abs() < 2e-3, "{bend} {radius}: {lost} {exact}");
        // The same filled in at the floor of a pocket of that outline.
        let around = block([-5.0, 2.0, -5.0], [30.0, 10.0, 22.0]);
        let pocket = together(&[(around, true), (plate, false)]);
        let made = cut(&pocket, |g, r| !g.runs[r as usize].convex && at_front(g, r, 6.0), round(radius), 1e-4).unwrap();
        let gained = volume(&made) - volume(&pocket);
        assert!((gained / exact - 1.0).abs() < 2e-3, "{bend} {radius}: {gained} {exact}");
    }
}

/// About what a rounding takes of the rim of an outline with sharp corners: mitres at those that stick out, arcs at the others.
fn about(corners: &[[f64; 2]], bend: f64, radius: f64) -> f64 {
    let n = corners.len();
    let at = |k: usize| glam::DVec2::from_array(corners[k % n]);
    let (mut round, mut mitred, mut missing) = (0.0, 0.0, 0.0);
    for k in 0..n {
        let turn = (at(k + 1) - at(k)).angle_to(at(k + 2) - at(k + 1));
        let tan = (turn * 0.5).tan();
        round += at(k).distance(at(k + 1));
        mitred += if turn > 0.0 { tan } else { turn * 0.5 };
        missing += tan - turn * 0.5;
    }
    // A square less a quarter disc, the square of how far that is from the edge, and the height.
    let square = radius.powi(3) * (5.0 / 3.0 - PI / 2.0);
    round * radius * radius * (1.0 - PI / 4.0) - mitred * square - missing * bend * bend * radius
}

const CROSS: [[f64; 2]; 12] = [
    [0.0, 3.0],
    [3.0, 3.0],
    [3.0, 0.0],
    [6.0, 0.0],
    [6.0, 3.0],
    [9.0, 3.0],
    [9.0, 6.0],
    [6.0, 6.0],
    [6.0, 9.0],
    [3.0, 9.0],
    [3.0, 6.0],
    [0.0, 6.0],
];
/// A stroke with acute corners, and two that hardly turn.
const STROKE: [[f64; 2]; 10] = [
    [0.0, 0.0],
    [8.0, 0.0],
    [8.0, 2.0],
    [3.2, 2.0],
    [7.0, 9.0],
    [8.0, 11.0],
    [0.0, 11.0],
    [0.0, 9.0],
    [5.0, 9.0],
    [1.0, 2.0],
];
/// A corner cut off by less than what the rounding takes beside the bends there.
const CUT_OFF: [[f64; 2]; 5] = [[0.0, 0.0], [12.0, 0.0], [12.0, 9.4], [11.4, 10.0], [0.0, 10.0]];

#[test]
fn outlines_of_many_bends_both_ways_and_short_pieces_between_them() {
    for (n, corners) in [&CROSS[..], &STROKE, &CUT_OFF].into_iter().enumerate() {
        for (bend, radius) in [(0.1, 0.3), (0.2, 0.8), (0.05, 0.06), (0.2, 0.15)] {
            let plate = body(corners, bend, 3, 4.0);
            let done = |of: &Mesh, at: Option<f64>| {
                let which = |g: &Graph<'_>, r| at.map_or(!g.runs[r as usize].convex, |at| at_front(g, r, at));
                let made = cut(of, which, round(radius), radius * 2e-3);
                (volume(&made.unwrap_or_else(|e| panic!("{n} {bend} {radius}: {e:?}"))) - volume(of)).abs()
            };
            let around = block([-5.0, 1.0, -5.0], [30.0, 10.0, 22.0]);
            let pocket = together(&[(around, true), (plate.clone(), false)]);
            let raised = together(&[(block([-5.0, 2.0, -5.0], [30.0, 10.0, 22.0]), true), (plate.clone(), true)]);
            let [rim, floor, root] = [done(&plate, Some(0.0)), done(&pocket, Some(4.0)), done(&raised, None)];
            let rough = about(corners, bend, radius);
            assert!((floor / rim - 1.0).abs() < 5e-3, "{n} {bend} {radius}: {floor} {rim}");
            assert!((rim / rough - 1.0).abs() < 0.025, "{n} {bend} {radius}: {rim} {rough}");
            assert!(root > rim && root < rim * 1.2, "{n} {bend} {radius}: {root} {rim}");
        }
    }
}

#[test]
fn a_band_that_lies_over_itself_is_refused() {
    // Two plates with a neck between them: the rounding has more room at both ends than there.
    let neck = [
        [0.0, 0.0],
        [10.0, 0.0],
        [10.0, 4.0],
        [16.0, 4.0],
        [16.0, 0.0],
        [26.0, 0.0],
        [26.0, 10.0],
        [16.0, 10.0],
        [16.0, 6.0],
        [10.0, 6.0],
        [10.0, 10.0],
        [0.0, 10.0],
    ];
    let plate = body(&neck, 0.2, 6, 6.0);
    let done = |radius: f64| cut(&plate, |g, r| at_front(g, r, 0.0), round(radius), 1e-3);
    assert!(done(0.95).is_ok());
    for radius in [1.05, 1.5] {
        assert!(
            matches!(done(radius), Err(EdgeError::Trouble(Trouble { cause: Cause::Overlaps | Cause::BeyondFace, .. }))),
            "{radius}"
        );
    }
    // A slot no wider than what rounds its ends has none left.
    let slot = body(&[[0.0, 0.0], [12.0, 0.0], [12.0, 2.0], [0.0, 2.0]], 0.3, 6, 6.0);
    assert!(cut(&slot, |g, r| at_front(g, r, 0.0), round(0.95), 1e-3).is_ok());
    assert!(cut(&slot, |g, r| at_front(g, r, 0.0), round(1.2), 1e-3).is_err());
}

/// An outline whose corners are cut off by one side of a length each, as runs of their own.
fn cut_off_by(corners: &[[f64; 2]], length: f64) -> Vec<[f64; 2]> {
    let n = corners.len();
    let at = |k: usize| glam::DVec2::from_array(corners[k % n]);
    let off = |k: usize| {
        let (u, v) = ((at(k) - at(k + n - 1)).normalize(), (at(k + 1) - at(k)).normalize());
        let back = length / (u + v).length();
        [at(k) - u * back, at(k) + v * back].map(|p| p.to_array())
    };
    (0..n).flat_map(off).collect()
}

#[test]
fn runs_shorter_than_what_those_beside_them_take_of_them_are_passed_over() {
    // At a cut-off corner both runs turn by half as much, and the short one between them is used up from a radius on.
    for (length, radius) in [(0.05, 0.3), (0.05, 0.1), (0.2, 0.22), (0.3, 2.0), (0.3, 0.3)] {
        let outline = cut_off_by(&SQUARE, length);
        let plate = drawn_out(&outline, 6.0);
        // The corners are sharp but for a triangle.
        let missing = 4.0 * length * length * 0.25;
        let sharp = drawn_out(&SQUARE, 6.0);
        let lost = |of: &Mesh, radius: f64| {
            volume(of) - volume(&cut(of, |g, r| at_front(g, r, 0.0), round(radius), 1e-4).unwrap())
        };
        let [own, whole] = [&plate, &sharp].map(|of| lost(of, radius));
        // The triangle is missing as deep as the rounding at most.
        assert!(own < whole && own > whole - missing * radius, "{length} {radius}: {own} {whole} {missing}");
        let around = block([-5.0, 2.0, -5.0], [30.0, 10.0, 22.0]);
        let pocket = together(&[(around, true), (plate, false)]);
        let made = cut(&pocket, |g, r| !g.runs[r as usize].convex && at_front(g, r, 6.0), round(radius), 1e-4).unwrap();
        let gained = volume(&made) - volume(&pocket);
        assert!((gained / own - 1.0).abs() < 1e-3, "{length} {radius}: {gained} {own}");
    }
}

#[test]
fn inner_corners_with_a_narrow_face_between_them_are_rounded_with_their_floor() {
    // A notch that ends in a face narrower than the roundings of its two upright edges.
    for (half, radius) in [(0.03, 0.1), (0.03, 0.05), (0.1, 0.3), (0.02, 0.5)] {
        let notch = [[4.0, 0.0], [half, 9.0], [-half, 9.0], [-4.0, 0.0]];
        let around = block([-8.0, 0.0, -1.0], [16.0, 8.0, 12.0]);
        let cutter = drawn_out(&[&notch[..], &[[-4.0, -2.0], [4.0, -2.0]]].concat(), 3.0);
        let moved: Vec<_> = cutter.points().iter().map(|p| *p - glam::DVec3::Y).collect();
        let cutter = Mesh::new(moved, cutter.triangles().to_vec(), cutter.face_of().to_vec()).unwrap();
        let part = together(&[(around, true), (cutter, false)]);
        let made = cut(&part, |g, r| !g.runs[r as usize].convex, round(radius), 1e-3);
        let made = made.unwrap_or_else(|e| panic!("{half} {radius}: {e:?}"));
        assert!(volume(&made) > volume(&part), "{half} {radius}");
        // Nothing of the narrow face is left.
        let narrow = |p: nimbet_kernel::Point| (p.z - 9.0).abs() < 1e-9 && p.x.abs() < half + 1e-9 && p.y > -1e-9;
        let left = (0..made.triangles().len()).filter(|t| made.corners(*t).into_iter().all(narrow)).count();
        assert_eq!(left, 0, "{half} {radius}");
    }
}

#[test]
fn inner_edges_side_by_side_are_closed_by_caps_that_lie_on_each_other() {
    let turns = [20f64, 21.8].map(f64::to_radians);
    let way = |turn: f64| glam::DVec2::new(-turn.cos(), turn.sin());
    let first = glam::DVec2::new(5.0, 2.0);
    let second = first + way(turns[0]) * 0.046;
    let third = second + way(turns[0] + turns[1]) * 4.0;
    let outline =
        [[0.0, 0.0], [10.0, 0.0], [10.0, 2.0], first.to_array(), second.to_array(), third.to_array(), [0.0, third.y]];
    let part = drawn_out(&outline, 1.0);
    for radius in [0.05, 0.09, 0.1, 0.12] {
        let made = cut(&part, |g, r| !g.runs[r as usize].convex, round(radius), radius * 1e-5);
        let gained = volume(&made.unwrap_or_else(|e| panic!("{radius}: {e:?}"))) - volume(&part);
        let exact: f64 = turns.iter().map(|t| radius * radius * ((t * 0.5).tan() - t * 0.5)).sum();
        // The coordinates have rounding of their own.
        assert!((gained - exact).abs() < exact * 5e-3 + 5e-7, "{radius}: {gained} {exact}");
    }
}

#[test]
fn however_it_lies_a_bend_is_passed_over_by_roundings_and_chamfers_alike() {
    let plate = body(&STROKE, 0.1, 3, 4.0);
    let turn = glam::DQuat::from_euler(glam::EulerRot::XYZ, 0.7, -1.1, 0.4);
    let single = |p: glam::DVec3| p.as_vec3().as_dvec3();
    let turned: Vec<_> =
        plate.points().iter().map(|p| single(turn * *p + glam::DVec3::new(31.0, -7.0, 12.0))).collect();
    let turned = Mesh::new(turned, plate.triangles().to_vec(), plate.face_of().to_vec()).unwrap();
    let front = Graph::of(&plate, &Progress::unwatched()).unwrap();
    let runs: Vec<u32> = (0..front.runs.len() as u32).filter(|r| at_front(&front, *r, 0.0)).collect();
    for section in [round(0.3), Section::Chamfer { left: 0.3, right: 0.3 }] {
        let lost = |of: &Mesh| volume(of) - volume(&cut(of, |_, r| runs.contains(&r), section, 1e-3).unwrap());
        let [own, other] = [&plate, &turned].map(lost);
        assert!(own > 0.0 && (other / own - 1.0).abs() < 2e-3, "{section:?}: {own} {other}");
    }
}
