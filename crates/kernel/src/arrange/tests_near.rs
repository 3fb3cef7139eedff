//! What is arranged near the bodies only must be what the arrangement of the whole gives.

use std::collections::HashSet;

use proptest::prelude::*;

use super::tests::{arranged, assert_near, proved, volume};
use super::*;
use crate::shapes::{ball, block, turned};
use crate::weld::weld_corners;

/// A hollow ball: outside radius 10, void radius 6.
fn hollow(rows: usize) -> Mesh {
    let mut void = ball(6.0, rows);
    void.reverse_triangles(|_| true);
    let corners = |m: &Mesh| (0..m.triangles().len()).flat_map(|t| m.corners(t)).collect::<Vec<_>>();
    weld_corners(&[corners(&ball(10.0, rows)), corners(&void)].concat()).unwrap()
}

/// A cube from 0 to 1 whose sides are divided into n × n squares.
fn divided_cube(n: usize) -> Mesh {
    let mut soup = Vec::new();
    let at = |k: usize| k as f64 / n as f64;
    for axis in 0..3 {
        for (side, turned) in [(0.0, true), (1.0, false)] {
            for (i, j) in (0..n * n).map(|k| (k / n, k % n)) {
                let place = |u: f64, v: f64| {
                    let mut p = Point::ZERO;
                    (p[axis], p[(axis + 1) % 3], p[(axis + 2) % 3]) = (side, u, v);
                    p
                };
                let [a, b] = [place(at(i), at(j)), place(at(i + 1), at(j))];
                let [c, d] = [place(at(i + 1), at(j + 1)), place(at(i), at(j + 1))];
                soup.extend(if turned { [a, c, b, a, d, c] } else { [a, b, c, a, c, d] });
            }
        }
    }
    weld_corners(&soup).unwrap()
}

const RULES: [fn(&[i16]) -> bool; 4] = [
    |w| w.iter().any(|w| *w > 0),
    |w| w.iter().all(|w| *w > 0),
    |w| w[0] > 0 && w[1..].iter().all(|w| *w <= 0),
    |w| w[0] <= 0 && w[1..].iter().any(|w| *w > 0),
];

/// All four bodies are as those of the whole, and what is far is as it was, to the last digit.
fn same_as_whole(part: &Mesh, tools: &[&Mesh]) {
    let quiet = Progress::unwatched();
    let all = Arrangement::of_sealed(part, tools, &quiet).unwrap();
    let far = all.far.as_ref().expect("only what is near is arranged");
    let whole = arranged(&[&[part], tools].concat());
    for (n, rule) in RULES.into_iter().enumerate() {
        let body = all.body(rule, &quiet).unwrap();
        let wanted = whole.body(rule, &quiet).unwrap();
        let faces = |m: &Mesh| m.face_of().iter().copied().collect::<HashSet<_>>();
        assert_eq!(faces(&body.mesh), faces(&wanted.mesh));
        let (got, wanted) = (proved(body), proved(wanted));
        assert_near(volume(&got), volume(&wanted), &format!("rule {n}"));
        let (few, many) = (got.triangles().len(), wanted.triangles().len());
        assert!(few <= many + many / 50 + 20, "rule {n}: {few} triangles against {many}");
        if n == 0 || n == 2 {
            let places: HashSet<_> = got.points().iter().map(|p| bits(*p)).collect();
            assert!(far.mesh.points().iter().all(|p| places.contains(&bits(*p))), "rule {n}: far points moved");
        }
    }
}

fn drum(at: Point, radius: f64, half: f64) -> Mesh {
    let drum = turned(&[(0.0, -half), (radius, -half), (radius, half), (0.0, half)], 24);
    drum.map_points(|p| p + at).unwrap()
}

#[test]
fn a_tool_in_any_place_of_a_hollow_ball_gives_what_the_whole_gives() {
    let part = hollow(60);
    let places = [
        ("through the wall", drum(Point::new(0.3, 0.2, 8.0), 1.0, 4.0)),
        ("inside the wall", drum(Point::new(0.0, 0.0, 8.0), 0.5, 0.5)),
        ("inside the void", drum(Point::ZERO, 0.5, 0.5)),
        ("beside the part", drum(Point::new(0.0, 8.5, 8.5), 0.5, 0.5)),
        ("across the outside only", drum(Point::new(10.0, 0.0, 0.0), 1.0, 0.7)),
    ];
    for (what, tool) in &places {
        println!("{what}");
        same_as_whole(&part, &[tool]);
    }
    let all: Vec<&Mesh> = places.iter().map(|(_, tool)| tool).collect();
    same_as_whole(&part, &all);
}

#[test]
fn tools_that_share_faces_and_corners_with_the_part_are_no_special_case() {
    let part = divided_cube(24);
    let cube = |at: [f64; 3], size: f64| block(Point::from_array(at), Point::splat(size));
    for tool in
        [cube([0.25, 0.25, 0.75], 0.25), cube([0.25, 0.25, 1.0], 0.25), cube([0.75; 3], 0.25), cube([1.0; 3], 0.25)]
    {
        same_as_whole(&part, &[&tool]);
    }
    // Two that touch each other, and one twice.
    let (a, b) = (cube([0.25, 0.25, 0.75], 0.25), cube([0.5, 0.25, 0.75], 0.25));
    same_as_whole(&part, &[&a, &b]);
    same_as_whole(&part, &[&a, &a]);
}

#[test]
fn a_large_tool_is_left_to_the_whole_and_an_open_one_refused() {
    let quiet = Progress::unwatched();
    let part = hollow(20);
    let large = Arrangement::of_sealed(&part, &[&block(Point::splat(-9.0), Point::splat(30.0))], &quiet).unwrap();
    assert!(large.far.is_none());
    let open = drum(Point::Z * 10.0, 1.0, 1.0).retain_triangles(|t| t > 0);
    let refused = Arrangement::of_sealed(&hollow(60), &[&open], &quiet);
    assert!(matches!(refused, Err(ArrangeError::Open { input: 1, .. })));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn drums_anywhere_give_what_the_whole_gives(
        at in prop::array::uniform3(-11.0f64..11.0), radius in 0.1f64..1.5, half in 0.1f64..2.0, far in 0.0f64..1e4,
    ) {
        let move_all = |m: Mesh| m.map_points(|p| p + Point::new(far, -far, far)).unwrap();
        same_as_whole(&move_all(hollow(40)), &[&move_all(drum(Point::from_array(at), radius, half))]);
    }
}
