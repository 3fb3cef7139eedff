use proptest::prelude::*;

use super::*;
use crate::crossings::{crossing_pairs, triangle_bvh};
use crate::measure::measure;
use crate::shapes::{ball, block, turned};

pub(super) fn arranged(inputs: &[&Mesh]) -> Arrangement {
    Arrangement::new(inputs, &[], &Progress::unwatched()).unwrap()
}

/// Independent of the engine: every directed side is run through as often as its opposite.
pub(super) fn closed(mesh: &Mesh) -> bool {
    let mut count = std::collections::HashMap::new();
    for t in mesh.triangles() {
        for k in 0..3 {
            let (a, b) = (t[k], t[(k + 1) % 3]);
            *count.entry((a.min(b), a.max(b))).or_insert(0) += if a < b { 1 } else { -1 };
        }
    }
    count.values().all(|c| *c == 0)
}

pub(super) fn volume(mesh: &Mesh) -> f64 {
    measure(mesh).volume
}

pub(super) fn proved(body: Body) -> Mesh {
    assert!(closed(&body.mesh), "a body is open");
    let crossing = crossing_pairs(&body.mesh, &triangle_bvh(&body.mesh), &Progress::unwatched()).unwrap();
    assert_eq!(crossing, vec![], "a body crosses itself");
    body.mesh
}

/// Union, intersection, first without second, second without first.
fn four(a: &Mesh, b: &Mesh) -> [Mesh; 4] {
    let all = arranged(&[a, b]);
    let rules: [fn(&[i16]) -> bool; 4] =
        [|w| w[0] > 0 || w[1] > 0, |w| w[0] > 0 && w[1] > 0, |w| w[0] > 0 && w[1] <= 0, |w| w[1] > 0 && w[0] <= 0];
    rules.map(|rule| proved(all.body(rule, &Progress::unwatched()).unwrap()))
}

pub(super) fn assert_near(a: f64, b: f64, what: &str) {
    assert!((a - b).abs() <= 1e-6 * (1.0 + a.abs().max(b.abs())), "{what}: {a} is not {b}");
}

/// The volumes of the four bodies add up.
fn add_up(a: &Mesh, b: &Mesh) -> [f64; 4] {
    let v @ [union, both, first, second] = four(a, b).map(|m| volume(&m));
    assert_near(union + both, volume(a) + volume(b), "V(A ∪ B) + V(A ∩ B)");
    assert_near(first + both, volume(a), "V(A − B) + V(A ∩ B)");
    assert_near(second + both, volume(b), "V(B − A) + V(A ∩ B)");
    v
}

fn cube(corner: [f64; 3], size: f64) -> Mesh {
    block(Point::from_array(corner), Point::splat(size))
}

#[test]
fn blocks_in_general_and_special_places_add_up() {
    let a = cube([0.0; 3], 2.0);
    assert_near(add_up(&a, &cube([1.0; 3], 2.0))[1], 1.0, "corner in corner");
    assert_near(add_up(&a, &cube([0.7, 0.3, 0.2], 2.0))[1], 1.3 * 1.7 * 1.8, "askew");
    assert_near(add_up(&a, &cube([2.0, 0.0, 0.0], 2.0))[0], 16.0, "face on face");
    assert_near(add_up(&a, &cube([2.0, 1.0, 0.5], 2.0))[0], 16.0, "part of a face on part of a face");
    assert_near(add_up(&a, &cube([0.0, 0.0, 1.0], 2.0))[1], 4.0, "stacked, overlapping, sides in one plane");
    assert_near(add_up(&a, &a)[0], 8.0, "itself");
    assert_near(add_up(&a, &cube([0.5; 3], 1.0))[2], 7.0, "a void");
    assert_near(add_up(&a, &cube([0.5, 0.5, 0.0], 1.0))[2], 7.0, "a pocket");
    assert_near(add_up(&a, &cube([5.0; 3], 1.0))[0], 9.0, "apart");
    let touching = arranged(&[&a, &cube([2.0; 3], 2.0)]).body(|w| w[0] + w[1] > 0, &Progress::unwatched()).unwrap();
    assert_near(volume(&touching.mesh), 16.0, "corner on corner");
    let edges = arranged(&[&a, &cube([2.0, 2.0, 0.0], 2.0)]).body(|w| w[0] + w[1] > 0, &Progress::unwatched()).unwrap();
    assert_near(volume(&edges.mesh), 16.0, "edge on edge");
}

#[test]
fn a_copy_turned_by_a_right_angle_or_by_next_to_nothing_is_no_special_case() {
    let a = block(Point::splat(-1.0), Point::new(2.0, 2.0, 2.0));
    for angle in [std::f64::consts::FRAC_PI_2, std::f64::consts::FRAC_PI_4, 1e-6, 1e-12] {
        let turn = glam::DQuat::from_axis_angle(Point::Z, angle);
        let b = a.clone().map_points(|p| turn * p).unwrap();
        let [union, both, ..] = add_up(&a, &b);
        assert!(union >= 8.0 - 1e-6 && both <= 8.0 + 1e-6, "{angle}: {union} {both}");
    }
}

#[test]
fn a_ball_comes_out_of_a_cube() {
    let (cube, ball) = (cube([-4.0; 3], 8.0), ball(5.0, 40));
    let [_, both, cut, _] = add_up(&cube, &ball);
    // The ball less six caps of height 1.
    let theory = std::f64::consts::PI * (4.0 / 3.0 * 125.0 - 6.0 * (5.0 - 1.0 / 3.0));
    assert!((both / theory - 1.0).abs() < 0.01, "{both} against {theory}");
    assert!((cut - (512.0 - theory)).abs() < 0.01 * 512.0);
}

#[test]
fn two_crossing_tubes_have_the_volume_of_steinmetz() {
    let mut last = f64::INFINITY;
    for n in [16, 32, 64, 128] {
        let tube = turned(&[(0.0, -3.0), (1.0, -3.0), (1.0, 3.0), (0.0, 3.0)], n);
        let other = tube.clone().map_points(|p| Point::new(p.z, p.x, p.y)).unwrap();
        let [_, both, ..] = four(&tube, &other);
        let off = (volume(&both) - 16.0 / 3.0).abs();
        assert!(off < last * 0.3, "{n}: {off} after {last}");
        last = off;
    }
    assert!(last < 6e-3, "{last}");
}

pub(super) fn together(parts: &[Mesh]) -> Mesh {
    let (mut points, mut triangles) = (Vec::new(), Vec::new());
    for m in parts {
        triangles.extend(m.triangles().iter().map(|t| t.map(|i| i + points.len() as u32)));
        points.extend(m.points());
    }
    Mesh::with_one_face(points, triangles).unwrap()
}

#[test]
fn a_sponge_has_its_volume_and_its_genus() {
    let mut solid = cube([0.0; 3], 27.0);
    for (level, genus) in [(1, 5), (2, 81), (3, 1409)] {
        let (count, mut bars) = (3i32.pow(level), Vec::new());
        let step = 27.0 / f64::from(count);
        for (i, j) in (0..count).flat_map(|i| (0..count).map(move |j| (i, j))).filter(|(i, j)| i % 3 == 1 && j % 3 == 1)
        {
            for axis in 0..3 {
                let (mut corner, mut size) = ([-1.0; 3], [29.0; 3]);
                (corner[(axis + 1) % 3], size[(axis + 1) % 3]) = (f64::from(i) * step, step);
                (corner[(axis + 2) % 3], size[(axis + 2) % 3]) = (f64::from(j) * step, step);
                bars.push(block(Point::from_array(corner), Point::from_array(size)));
            }
        }
        solid = proved(
            arranged(&[&solid, &together(&bars)]).body(|w| w[0] > 0 && w[1] <= 0, &Progress::unwatched()).unwrap(),
        );
        assert_near(volume(&solid), 27f64.powi(3) * (20.0f64 / 27.0).powi(level as i32), "sponge");
        let (points, triangles) = (solid.points().len() as i64, solid.triangles().len() as i64);
        assert_eq!(1 - (points - triangles / 2) / 2, genus, "order {level}");
    }
}

/// An upright drum of `n` sides.
fn drum(at: [f64; 2], radius: f64, (low, high): (f64, f64), n: usize) -> Mesh {
    let drum = turned(&[(0.0, low), (radius, low), (radius, high), (0.0, high)], n);
    drum.map_points(|p| p + Point::new(at[0], at[1], 0.0)).unwrap()
}

fn area_of_round(radius: f64, n: usize) -> f64 {
    0.5 * n as f64 * radius * radius * (std::f64::consts::TAU / n as f64).sin()
}

#[test]
fn four_hundred_bores_are_made_in_one_step() {
    let plate = block(Point::ZERO, Point::new(100.0, 100.0, 4.0));
    let at = |n: usize| [2.5 + 5.0 * (n % 20) as f64, 2.5 + 5.0 * (n / 20) as f64];
    let bores: Vec<Mesh> = (0..400).map(|n| drum(at(n), 1.5, (-1.0, 5.0), 24)).collect();
    let inputs: Vec<&Mesh> = std::iter::once(&plate).chain(&bores).collect();
    let rule = |w: &[i16]| w[0] > 0 && w[1..].iter().all(|w| *w <= 0);
    let bored = proved(arranged(&inputs).body(rule, &Progress::unwatched()).unwrap());
    assert_near(volume(&bored), 40_000.0 - 400.0 * 4.0 * area_of_round(1.5, 24), "bored");
    let (points, triangles) = (bored.points().len() as i64, bored.triangles().len() as i64);
    assert_eq!(1 - (points - triangles / 2) / 2, 400, "as many ways through as bores");
}

#[test]
fn three_drums_that_touch_each_other_share_nothing() {
    // Side by side: along lines, where corners of one lie on corners of the next. Of 24 sides a corner points to 0° and 60°.
    let n = 24;
    let high = 3.0f64.sqrt();
    let beside = [[0.0, 0.0], [2.0, 0.0], [1.0, high]].map(|at| drum(at, 1.0, (0.0, 5.0), n));
    // Along the three axes: at single points.
    let along = |turn: fn(Point) -> Point, by: Point| {
        drum([0.0, 0.0], 1.0, (-4.0, 4.0), n).map_points(|p| turn(p) + by).unwrap()
    };
    let across = [
        along(|p| p, Point::new(1.0, 1.0, 0.0)),
        along(|p| Point::new(p.z, p.x, p.y), Point::new(0.0, -1.0, 1.0)),
        along(|p| Point::new(p.y, p.z, p.x), Point::new(-1.0, 0.0, -1.0)),
    ];
    for three in [&beside, &across] {
        let all = arranged(&three.each_ref());
        let one = |w: &[i16]| w.iter().filter(|w| **w > 0).count() == 1;
        let any = |w: &[i16]| w.iter().any(|w| *w > 0);
        let shared = all.body(|w| any(w) && !one(w), &Progress::unwatched()).unwrap().mesh;
        let union = all.body(any, &Progress::unwatched()).unwrap().mesh;
        assert!(closed(&union) && volume(&shared).abs() < 1e-6, "{}", volume(&shared));
        assert_near(volume(&union), three.iter().map(volume).sum(), "union");
    }
}

#[test]
fn two_hundred_operations_in_a_row_stay_valid_and_small() {
    let mut solid = cube([0.0; 3], 10.0);
    let mut expected = 1000.0;
    for n in 0..100 {
        // A notch is cut and filled again, each time in another place and a little askew.
        let at = [f64::from(n % 9) + 0.3, f64::from(n % 7) + 0.2, 9.0];
        let notch = block(Point::from_array(at), Point::new(0.7, 0.6, 2.0));
        let turn = glam::DQuat::from_axis_angle(Point::Z, f64::from(n) * 0.1);
        let middle = Point::new(at[0] + 0.35, at[1] + 0.3, 0.0);
        let notch = notch.map_points(|p| middle + turn * (p - middle)).unwrap();
        let cut = arranged(&[&solid, &notch]).body(|w| w[0] > 0 && w[1] <= 0, &Progress::unwatched()).unwrap().mesh;
        assert_near(volume(&cut), expected - 0.42, "cut");
        let plug = arranged(&[&solid, &notch]).body(|w| w[0] > 0 && w[1] > 0, &Progress::unwatched()).unwrap().mesh;
        solid = arranged(&[&cut, &plug]).body(|w| w[0] > 0 || w[1] > 0, &Progress::unwatched()).unwrap().mesh;
        // A plug's top is a face of its own, which would stay; here it is the block's.
        solid = solid.regroup(|_| FaceId(0));
        assert!(closed(&solid));
        assert_near(volume(&solid), expected, "filled");
        expected = volume(&solid);
    }
    assert!(solid.triangles().len() < 200, "{} triangles", solid.triangles().len());
}

#[test]
fn a_body_that_crosses_itself_becomes_its_outside() {
    let soup = together(&[cube([0.0; 3], 2.0), cube([1.0; 3], 2.0)]);
    let all = arranged(&[&soup]);
    assert_near(volume(&proved(all.body(|w| w[0] > 0, &Progress::unwatched()).unwrap())), 15.0, "wound at least once");
    assert_near(volume(&proved(all.body(|w| w[0] > 1, &Progress::unwatched()).unwrap())), 1.0, "wound twice");
}

#[test]
fn cells_have_the_volumes_of_what_they_enclose() {
    let (a, b) = (cube([1e4, 0.0, 0.0], 2.0), cube([1e4 + 1.0, 1.0, 1.0], 2.0));
    let all = arranged(&[&a, &b]);
    let mut volumes: Vec<(Vec<i16>, f64)> = all.cells().map(|c| (c.winding.to_vec(), c.volume)).collect();
    volumes.sort_by(|x, y| x.1.total_cmp(&y.1));
    for ((winding, volume), (w, v)) in
        volumes.iter().zip([([0, 0], -15.0), ([1, 1], 1.0), ([0, 1], 7.0), ([1, 0], 7.0)])
    {
        assert_near(*volume, v, "cell");
        assert!(v == 7.0 || *winding == w);
    }
    assert_eq!(volumes.len(), 4);
}

#[test]
fn an_open_input_is_refused_with_the_place() {
    let a = cube([0.0; 3], 2.0);
    let open = a.retain_triangles(|t| t > 0);
    let refused = Arrangement::new(&[&a, &open], &[], &Progress::unwatched()).unwrap_err();
    assert!(matches!(refused, ArrangeError::Open { input: 1, at } if at.abs().max_element() < 2.1), "{refused:?}");
}

#[test]
fn far_from_the_origin_and_very_small_or_large_is_no_special_case() {
    for (scale, shift) in [(1.0, 1e6), (1e-3, 0.0), (1e6, 0.0), (1.0, -3e5)] {
        let place = |p: Point| p * scale + Point::splat(shift);
        let a = ball(1.0, 12).map_points(place).unwrap();
        let b = ball(1.0, 13).map_points(|p| place(p + Point::new(0.5, 0.2, 0.1))).unwrap();
        let [union, both, ..] = four(&a, &b).map(|m| volume(&m));
        let sum = volume(&a) + volume(&b);
        assert!((union + both - sum).abs() < 1e-6 * sum, "{scale} {shift}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1000))]

    /// Blocks on a coarse grid, so that faces, edges and corners coincide often.
    #[test]
    fn blocks_on_a_grid_add_up(
        a in (0i8..4, 0i8..4, 0i8..4, 1i8..4, 1i8..4, 1i8..4), b in (0i8..4, 0i8..4, 0i8..4, 1i8..4, 1i8..4, 1i8..4),
    ) {
        let made = |(x, y, z, u, v, w): (i8, i8, i8, i8, i8, i8)| {
            block(Point::new(x.into(), y.into(), z.into()), Point::new(u.into(), v.into(), w.into()))
        };
        let (a, b) = (made(a), made(b));
        let all = arranged(&[&a, &b]);
        let v = |rule: fn(&[i16]) -> bool| {
            let body = all.body(rule, &Progress::unwatched()).unwrap().mesh;
            assert!(closed(&body));
            volume(&body)
        };
        let (union, both) = (v(|w| w[0] > 0 || w[1] > 0), v(|w| w[0] > 0 && w[1] > 0));
        let first = v(|w| w[0] > 0 && w[1] <= 0);
        prop_assert!((union + both - volume(&a) - volume(&b)).abs() < 1e-9);
        prop_assert!((first + both - volume(&a)).abs() < 1e-9);
    }

    /// Turned balls and blocks anywhere.
    #[test]
    fn solids_turned_and_moved_add_up(
        axis in (-1.0f64..1.0, -1.0f64..1.0, -1.0f64..1.0), angle in 0.0f64..6.3,
        shift in (-1.5f64..1.5, -1.5f64..1.5, -1.5f64..1.5), rows in 3usize..12, kind in 0..3,
    ) {
        let a = match kind {
            0 => ball(1.0, rows),
            1 => cube([-1.0; 3], 2.0),
            _ => turned(&[(0.5, -0.5), (1.2, -0.5), (1.2, 0.5), (0.5, 0.5), (0.5, -0.5)], rows + 1),
        };
        let turn = glam::DQuat::from_axis_angle(Point::from(axis).normalize_or(Point::Z), angle);
        let b = a.clone().map_points(|p| turn * p + Point::from(shift)).unwrap();
        add_up(&a, &b);
        // Triangles in another order give the same bodies, but for points that are one within the precision, here 1e-6.
        let (points, mut triangles, _) = b.clone().into_parts();
        triangles.reverse();
        let b2 = Mesh::with_one_face(points, triangles).unwrap();
        let [x, y] = [&b, &b2].map(|b| arranged(&[&a, b]).body(|w| w[0] > 0 && w[1] <= 0, &Progress::unwatched()).unwrap().mesh);
        prop_assert!((volume(&x) - volume(&y)).abs() < 1e-6);
    }
}
