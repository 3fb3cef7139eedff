//! Parts of some 30 mm as people bring them, square to the axes; poses are put on afterwards.

use std::f64::consts::TAU;

use nimbet_kernel::{Mesh, Point, shapes, weld};

use super::Dice;

/// Loops of as many points, skinned one to the next; outward where they run anticlockwise and rise.
fn stacked(loops: &[Vec<Point>], ends: bool) -> Mesh {
    let mut soup = vec![];
    for pair in loops.windows(2) {
        let n = pair[0].len();
        for k in 0..n {
            let [a, b, c, d] = [pair[0][k], pair[0][(k + 1) % n], pair[1][(k + 1) % n], pair[1][k]];
            soup.extend([a, b, c, a, c, d]);
        }
    }
    if ends {
        let (foot, head) = (&loops[0], &loops[loops.len() - 1]);
        (1..foot.len() - 1).for_each(|k| soup.extend([foot[0], foot[k + 1], foot[k], head[0], head[k], head[k + 1]]));
    }
    weld::weld_corners(&soup).unwrap()
}

fn flat(outline: &[[f64; 2]], z: f64) -> Vec<Point> {
    outline.iter().map(|[x, y]| Point::new(*x, *y, z)).collect()
}

fn rectangle(x: f64, y: f64, z: f64) -> Vec<Point> {
    flat(&[[-x, -y], [x, -y], [x, y], [-x, y]], z)
}

/// An angle with a foot of 30 and a leg of 20.
fn bracket() -> Mesh {
    let outline = [[0.0, 0.0], [30.0, 0.0], [30.0, 6.0], [6.0, 6.0], [6.0, 20.0], [0.0, 20.0]];
    stacked(&[flat(&outline, 0.0), flat(&outline, 10.0)], true)
}

/// Ten teeth round a bore of 8.
fn gear() -> Mesh {
    let at = |r: f64, k: usize| [r * (k as f64 / 40.0 * TAU).cos(), r * (k as f64 / 40.0 * TAU).sin()];
    let teeth: Vec<_> = (0..40).map(|k| at(if k % 4 < 2 { 15.0 } else { 11.5 }, k)).collect();
    let bore: Vec<_> = (0..40).map(|k| at(4.0, k)).collect();
    let foot = flat(&teeth, 0.0);
    stacked(&[foot.clone(), flat(&teeth, 8.0), flat(&bore, 8.0), flat(&bore, 0.0), foot], false)
}

/// A box with a floor and walls of 3.
fn housing() -> Mesh {
    let loops = [
        rectangle(15.0, 12.0, 0.0),
        rectangle(15.0, 12.0, 14.0),
        rectangle(12.0, 9.0, 14.0),
        rectangle(12.0, 9.0, 3.0),
    ];
    stacked(&loops, true)
}

fn cup() -> Mesh {
    shapes::turned(&[(0.0, 0.0), (12.0, 0.0), (15.0, 25.0), (13.0, 25.0), (10.5, 2.5), (0.0, 2.5)], 48)
}

fn block() -> Mesh {
    shapes::block(Point::new(-10.0, -8.0, -6.0), Point::new(20.0, 16.0, 12.0))
}

/// Uneven ground of 24 by 24.
fn terrain() -> Mesh {
    let at = |x: i32, y: i32| {
        let (x, y) = (f64::from(x) * 3.0, f64::from(y) * 3.0);
        Point::new(x, y, 2.0 * (x * 0.3).sin() + 1.5 * (y * 0.4).cos())
    };
    let squares = (0..64).map(|n| (n % 8, n / 8));
    let soup: Vec<Point> = squares
        .flat_map(|(x, y)| [at(x, y), at(x + 1, y), at(x + 1, y + 1), at(x, y), at(x + 1, y + 1), at(x, y + 1)])
        .collect();
    weld::weld_corners(&soup).unwrap()
}

fn soup(mesh: &Mesh) -> Vec<Point> {
    (0..mesh.triangles().len()).flat_map(|t| mesh.corners(t)).collect()
}

fn together(meshes: &[Mesh]) -> Mesh {
    weld::weld_corners(&meshes.iter().flat_map(soup).collect::<Vec<_>>()).unwrap()
}

fn moved(mesh: Mesh, by: [f64; 3]) -> Mesh {
    mesh.map_points(|p| p + Point::from_array(by)).unwrap()
}

/// Without the triangles all of whose corners are high.
fn open_above(mesh: &Mesh, z: f64) -> Mesh {
    mesh.retain_triangles(|t| !mesh.corners(t).iter().all(|p| p.z > z))
}

/// Every triangle by itself, its corners a hair off.
fn noisy(mesh: &Mesh) -> Mesh {
    let mut dice = Dice::new(5);
    let mut hair = || Point::new(dice.roll(), dice.roll(), dice.roll()) * 2e-4 - 1e-4;
    weld::weld_corners(&soup(mesh).into_iter().map(|p| p + hair()).collect::<Vec<_>>()).unwrap()
}

/// A part by its name.
pub fn part(name: &str) -> Mesh {
    match name {
        "block" => block(),
        "bracket" => bracket(),
        "gear" => gear(),
        "housing" => housing(),
        "cup" => cup(),
        "tube" => shapes::turned(&[(8.0, 0.0), (10.0, 0.0), (10.0, 30.0), (8.0, 30.0), (8.0, 0.0)], 40),
        "drum" => shapes::turned(&[(0.0, 0.0), (10.0, 0.0), (10.0, 20.0), (0.0, 20.0)], 48),
        "pin" => shapes::turned(&[(0.0, 0.0), (5.0, 0.0), (5.0, 24.0), (0.0, 24.0)], 48),
        "ball" => shapes::ball(10.0, 16),
        "small block" => shapes::block(Point::new(-4.0, -3.0, -2.0), Point::new(8.0, 6.0, 12.0)),
        "flush block" => shapes::block(Point::new(-10.0, -8.0, 6.0), Point::new(20.0, 16.0, 8.0)),
        "open block" => open_above(&block(), 5.9),
        "open bracket" => open_above(&bracket(), 9.9),
        "open cup" => open_above(&cup(), 24.9),
        "bowl" => open_above(&shapes::ball(10.0, 16), -1e-6),
        "pipe" => shapes::turned(&[(10.0, 0.0), (10.0, 30.0)], 40),
        "two pipes" => together(&[
            shapes::turned(&[(10.0, 0.0), (10.0, 10.0)], 40),
            shapes::turned(&[(10.0, 14.0), (10.0, 30.0)], 40),
        ]),
        "square pipe" => stacked(&[rectangle(8.0, 6.0, 0.0), rectangle(8.0, 6.0, 20.0)], false),
        "terrain" => terrain(),
        "flat sheet" => block().retain_triangles(|t| t < 2),
        "torn block" => {
            let lid = block().retain_triangles(|t| t == 2 || t == 3);
            together(&[open_above(&block(), 5.9), moved(lid, [0.02, 0.01, 0.0])])
        }
        "noisy block" => noisy(&block()),
        "noisy gear" => noisy(&gear()),
        "noisy cup" => noisy(&cup()),
        "clashing block" | "clashing gear" | "clashing cup" => {
            let mut mesh = part(name.split_once(' ').unwrap().1);
            mesh.reverse_triangles(|t| t % 3 == 1);
            mesh
        }
        "inverted block" | "inverted gear" | "inverted cup" => {
            let mut mesh = part(name.split_once(' ').unwrap().1);
            mesh.reverse_triangles(|_| true);
            mesh
        }
        "crossing blocks" => together(&[block(), moved(block(), [5.0, 3.0, 2.0])]),
        "crossing gears" => together(&[gear(), moved(gear(), [9.0, 2.0, 3.0])]),
        "crossing cups" => together(&[cup(), moved(cup(), [6.0, 2.0, 5.0])]),
        "two blocks" => together(&[block(), moved(block(), [30.0, 3.0, 2.0])]),
        "two gears" => together(&[gear(), moved(gear(), [40.0, 3.0, 2.0])]),
        "speckled block" => {
            together(&[block(), moved(shapes::block(Point::ZERO, Point::splat(0.05)), [20.0, 0.0, 0.0])])
        }
        "speckled gear" => together(&[gear(), moved(shapes::block(Point::ZERO, Point::splat(0.05)), [20.0, 0.0, 0.0])]),
        "edge blocks" => together(&[block(), moved(block(), [20.0, 16.0, 0.0])]),
        "doubled block" => together(&[block(), block()]),
        "partitioned block" => together(&[
            block(),
            weld::weld_corners(
                &[[-10.0, -8.0], [10.0, -8.0], [10.0, 8.0], [-10.0, -8.0], [10.0, 8.0], [-10.0, 8.0]]
                    .map(|[x, y]| Point::new(x, y, 1.0)),
            )
            .unwrap(),
        ]),
        other => panic!("no part is called {other}"),
    }
}
