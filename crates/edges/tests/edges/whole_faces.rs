//! Edges rounded over a whole face, which vanishes.

use std::f64::consts::PI;

use nimbet_edges::graph::Graph;
use nimbet_edges::plan::{Cause, Planner, Wanted};
use nimbet_edges::station::Section;
use nimbet_edges::{EdgeError, finish};
use nimbet_kernel::{Mesh, Point, Progress, shapes};

use crate::making::*;

/// Runs that lie at a height altogether.
fn at_height(graph: &Graph<'_>, run: u32, height: f64) -> bool {
    let ends = graph.runs[run as usize].edges.iter().flat_map(|e| graph.ends(*e));
    ends.into_iter().all(|v| (graph.place(v).z - height).abs() < 1e-6)
}

/// How far what is made is off a volume, as a share, with a coarse and a fine chord.
fn off(body: &Mesh, runs: impl Fn(&Graph<'_>, u32) -> bool, radius: f64, exact: f64) -> [f64; 2] {
    [0.02, 0.005].map(|chord| (volume(&cut(body, &runs, round(radius), chord).unwrap()) - exact).abs() / exact)
}

#[test]
fn the_top_of_a_rib_becomes_half_a_round() {
    let rib = block([0.0, 0.0, 0.0], [30.0, 4.0, 12.0]);
    let long = |g: &Graph<'_>, r: u32| edge_at(g, r, [15.0, 0.0, 12.0]) || edge_at(g, r, [15.0, 4.0, 12.0]);
    let exact = 30.0 * (4.0 * 10.0 + PI * 4.0 / 2.0);
    let [coarse, fine] = off(&rib, long, 2.0, exact);
    assert!(coarse < 1e-2 && fine < coarse * 0.35, "{coarse} {fine}");
    // A figure that is a little off means the same; one that does not fit is refused.
    assert!(off(&rib, long, 2.0015, exact)[1] < 1e-3 && off(&rib, long, 1.9985, exact)[1] < 1e-3);
    assert!(matches!(cut(&rib, long, round(2.1), 0.01), Err(EdgeError::Trouble(_))));
}

#[test]
fn a_rib_with_draft_is_rounded_over_whole_by_more_than_its_top_has_room_for() {
    // Walls that come together by 10 degrees each; the ball that touches them and the top has about 1.68.
    let lean = 10f64.to_radians().tan() * 20.0;
    let rib = drawn_out(&[[0.0, 0.0], [4.0 + 2.0 * lean, 0.0], [4.0 + lean, 20.0], [lean, 20.0]], 30.0);
    let long = |g: &Graph<'_>, r: u32| edge_at(g, r, [lean, 15.0, 20.0]) || edge_at(g, r, [lean + 4.0, 15.0, 20.0]);
    let half = 10f64.to_radians();
    for radius in [2.5, 3.0] {
        // Up to the tip of the wedge, less the kite to the feet of the ball, and the sector back.
        let wide = 4.0 + 2.0 * lean;
        let tip = wide / 2.0 / half.tan();
        let kite = radius * radius / half.tan();
        let sector = radius * radius * (PI / 2.0 - half);
        let exact = 30.0 * (wide * tip / 2.0 - kite + sector);
        let [coarse, fine] = off(&rib, long, radius, exact);
        assert!(coarse < 1e-2 && fine < coarse * 0.35, "{radius} {coarse} {fine}");
    }
}

#[test]
fn the_lip_of_a_cup_becomes_half_a_ring() {
    let cup =
        grouped(shapes::turned(&[(0.0, 0.0), (10.0, 0.0), (10.0, 15.0), (8.0, 15.0), (8.0, 2.0), (0.0, 2.0)], 96));
    let rim = |g: &Graph<'_>, r: u32| at_height(g, r, 15.0);
    let flat = volume(&cup);
    // What goes: a rectangle less half a disc, turned about the axis.
    let gone = (2.0 - PI / 2.0) * 2.0 * PI * 9.0;
    let [coarse, fine] = off(&cup, rim, 1.0, flat - gone);
    assert!(coarse < 1e-3 && fine < coarse * 0.5, "{coarse} {fine}");
}

#[test]
fn the_floor_of_a_channel_becomes_half_a_round() {
    let plate = block([0.0, 0.0, 0.0], [30.0, 14.0, 10.0]);
    let channel = together(&[(plate, true), (block([-1.0, 5.0, 4.0], [32.0, 4.0, 7.0]), false)]);
    let inner = |g: &Graph<'_>, r: u32| !g.runs[r as usize].convex;
    let exact = 30.0 * (14.0 * 10.0 - 4.0 * 4.0 - PI * 2.0);
    let [coarse, fine] = off(&channel, inner, 2.0, exact);
    assert!(coarse < 1e-3 && fine < coarse * 0.35, "{coarse} {fine}");
}

#[test]
fn a_rib_between_walls_and_one_that_ends_free_are_rounded_over_whole() {
    for free in [false, true] {
        let base = block([0.0, 0.0, 0.0], [40.0, 30.0, 4.0]);
        let wall = |x: f64| block([x, 0.0, 3.0], [4.0, 30.0, 17.0]);
        let rib = block([3.0, 13.0, 3.0], [if free { 27.0 } else { 34.0 }, 4.0, 9.0]);
        let mut parts = vec![(base, true), (wall(0.0), true), (rib, true)];
        if !free {
            parts.push((wall(36.0), true));
        }
        let body = together(&parts);
        let top = |g: &Graph<'_>, r: u32| {
            let [a, b] = g.ends(g.runs[r as usize].edges[0]).map(|v| g.place(v));
            at_height(g, r, 12.0) && (a.y - b.y).abs() < 1e-6
        };
        let long = if free { 26.0 } else { 32.0 };
        let exact = volume(&body) - long * (8.0 - PI * 2.0);
        let [coarse, fine] = off(&body, top, 2.0, exact);
        assert!(coarse < 1e-3 && fine < coarse * 0.35, "{free} {coarse} {fine}");
    }
}

/// The runs round a face at a place, over which they are rounded whole.
fn over(graph: &Graph<'_>, runs: &[[f64; 3]]) -> Vec<Wanted> {
    let run = |at: &[f64; 3]| (0..graph.runs.len() as u32).find(|r| edge_at(graph, *r, *at)).unwrap();
    runs.iter().map(|at| Wanted::all_along(run(at), Section::Over)).collect()
}

#[test]
fn a_rib_that_grows_narrower_is_rounded_over_by_what_there_is_room_for() {
    let quiet = Progress::unwatched();
    // 6 mm wide at one end and 3 at the other, upright walls.
    let rib = {
        let plan = drawn_out(&[[0.0, 0.0], [40.0, 1.5], [40.0, 4.5], [0.0, 6.0]], 12.0);
        plan.map_points(|p| Point::new(p.x, p.z, -p.y)).unwrap()
    };
    let graph = Graph::of(&rib, &quiet).unwrap();
    let planner = Planner::new(&graph, 0.0005, &quiet);
    let wanted = over(&graph, &[[20.0, 0.75, 0.0], [20.0, 5.25, 0.0]]);
    let made = finish(&planner, &wanted, true, &quiet).unwrap();
    is_solid(&made.mesh);
    let [only] = made.vanished[..] else { panic!("{:?}", made.vanished) };
    // Square to the middle line the ball touches both walls beside it: nearer than half the width by their lean.
    let lean = (1.5f64 / 40.0).atan().cos();
    assert!((only.radii[0] - 1.5 * lean).abs() < 0.02 && (only.radii[1] - 3.0 * lean).abs() < 0.02, "{:?}", only.radii);
    // What goes at a place is (2 - pi/2) of the square of half the width.
    let gone = (2.0 - PI / 2.0) * 40.0 * (3.0f64.powi(3) - 1.5f64.powi(3)) / (3.0 * 1.5);
    let off = volume(&rib) - volume(&made.mesh) - gone;
    assert!(off.abs() < gone * 4e-3, "{off} of {gone}");
    let one = over(&graph, &[[20.0, 0.75, 0.0]]);
    let alone = finish(&planner, &one, true, &quiet);
    assert!(matches!(alone, Err(EdgeError::Trouble(t)) if t.cause == Cause::Alone));
}

#[test]
fn all_edges_of_a_ribs_top_and_a_wall_along_an_arc() {
    let rib = block([0.0, 0.0, 0.0], [30.0, 4.0, 12.0]);
    let top = |g: &Graph<'_>, r: u32| at_height(g, r, 12.0);
    // The ends, too: the lower of both rounds at each place, by slices along.
    let slice = |y: f64| {
        let high = (4.0 - y * y).sqrt();
        let end = high * y.abs() + PI - (y.abs() / 2.0 * high + 2.0 * (y.abs() / 2.0).asin());
        30.0 * 10.0 + 26.0 * high + 2.0 * end
    };
    let exact = (0..4000).map(|k| slice((k as f64 + 0.5) / 1000.0 - 2.0) / 1000.0).sum();
    let [coarse, fine] = off(&rib, top, 2.0, exact);
    assert!(coarse < 1e-2 && fine < coarse * 0.35, "{coarse} {fine}");

    // A quarter of a ring wall.
    let ring = grouped(shapes::turned(&[(8.0, 0.0), (10.0, 0.0), (10.0, 15.0), (8.0, 15.0), (8.0, 0.0)], 96));
    let wall = together(&[(ring, true), (block([-20.0, -20.0, -1.0], [40.0, 20.0, 20.0]), false)]);
    let arcs = |g: &Graph<'_>, r: u32| at_height(g, r, 15.0) && g.runs[r as usize].edges.len() > 3;
    let exact = volume(&wall) - (2.0 - PI / 2.0) * PI * 9.0;
    let [coarse, fine] = off(&wall, arcs, 1.0, exact);
    assert!(coarse < 2e-3 && fine < coarse * 0.6, "{coarse} {fine}");
}

#[test]
fn the_sides_of_a_plate_become_half_rounds_that_meet_in_mitres() {
    let plate = block([0.0, 0.0, 0.0], [40.0, 30.0, 8.0]);
    let level = |g: &Graph<'_>, r: u32| at_height(g, r, 0.0) || at_height(g, r, 8.0);
    // Slices across: each is a rectangle.
    let slice = |z: f64| {
        let inward = 4.0 - (16.0 - z * z).sqrt();
        (40.0 - 2.0 * inward) * (30.0 - 2.0 * inward)
    };
    let exact = (0..8000).map(|k| slice((k as f64 + 0.5) / 1000.0 - 4.0) / 1000.0).sum();
    let [coarse, fine] = off(&plate, level, 4.0, exact);
    assert!(coarse < 1e-2 && fine < coarse * 0.35, "{coarse} {fine}");
}

#[test]
fn the_end_of_a_pin_and_the_floor_of_a_blind_bore_become_half_balls() {
    let quiet = Progress::unwatched();
    let pin = upright(5.0, 0.0, 20.0, 96);
    let top = |g: &Graph<'_>, r: u32| at_height(g, r, 20.0);
    // In the plane of its facets it is a little smaller than the ball; by the same share all along.
    let thin = volume(&pin) / (PI * 25.0 * 20.0);
    let exact = thin * (PI * 25.0 * 15.0 + 2.0 / 3.0 * PI * 125.0);
    let [coarse, fine] = off(&pin, top, 5.0, exact);
    assert!(coarse < 1e-2 && fine < coarse * 0.5 && fine < 1e-3, "{coarse} {fine}");
    assert!(cut(&pin, top, round(4.9), 0.01).is_ok() && cut(&pin, top, round(5.2), 0.01).is_err());
    let graph = Graph::of(&pin, &quiet).unwrap();
    let planner = Planner::new(&graph, 0.01, &quiet);
    let run = (0..graph.runs.len() as u32).find(|r| top(&graph, *r)).unwrap();
    let largest = planner.largest(&[Wanted::all_along(run, round(1.0))]).unwrap();
    assert!((largest - 5.0).abs() < 5e-3, "{largest}");

    let bored =
        together(&[(block([-10.0, -10.0, 0.0], [20.0, 20.0, 15.0]), true), (upright(4.0, 5.0, 16.0, 96), false)]);
    let floor = |g: &Graph<'_>, r: u32| at_height(g, r, 5.0);
    let thin = (20.0 * 20.0 * 15.0 - volume(&bored)) / (PI * 16.0 * 10.0);
    let exact = 6000.0 - thin * (PI * 16.0 * 6.0 + 2.0 / 3.0 * PI * 64.0);
    let [_, fine] = off(&bored, floor, 4.0, exact);
    assert!(fine < 1e-3, "{fine}");
}
