//! Nasty meshes by name, each with what it is and what the plan makes of it.

use std::f64::consts::{PI, TAU};

use nimbet_kernel::{Mesh, Point, shapes, weld};
use nimbet_trade::PartState::{self, Flipped, Open, Sealed, Tangled};

pub struct Entry {
    pub name: &'static str,
    pub mesh: Mesh,
    pub before: PartState,
    pub after: PartState,
    /// The exact volume afterwards, mm³, where it is known.
    pub volume: Option<f64>,
}

pub fn weld(soup: &[Point]) -> Mesh {
    weld::weld_corners(soup).unwrap()
}

pub fn corners(mesh: &Mesh) -> Vec<Point> {
    (0..mesh.triangles().len()).flat_map(|t| mesh.corners(t)).collect()
}

/// A cube with its least corner at `at`.
pub fn block(at: Point, size: f64) -> Mesh {
    shapes::block(at, Point::splat(size))
}

fn without(mesh: &Mesh, gone: &[usize]) -> Mesh {
    mesh.retain_triangles(|t| !gone.contains(&t))
}

/// A square tube without its end faces.
pub fn square_tube() -> Mesh {
    let mut soup = vec![];
    for (half, inward) in [(5.0, false), (3.0, true)] {
        let at = |k: usize, z: f64| {
            let (x, y) = [(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)][k % 4];
            Point::new(x * half, y * half, z)
        };
        for k in 0..4 {
            let (a, b, c, d) = (at(k, 0.0), at(k + 1, 0.0), at(k + 1, 20.0), at(k, 20.0));
            if inward { soup.extend([a, c, b, a, d, c]) } else { soup.extend([a, b, c, a, c, d]) }
        }
    }
    weld(&soup)
}

/// A band with a half twist.
pub fn moebius_band() -> Mesh {
    let n = 12;
    let at = |k: usize, s: f64| {
        let a = k as f64 / n as f64 * std::f64::consts::TAU;
        let r = 5.0 + s * (a / 2.0).cos();
        Point::new(r * a.cos(), r * a.sin(), s * (a / 2.0).sin())
    };
    let mut soup = vec![];
    for k in 0..n {
        let (a, b) = (at(k, -1.0), at(k, 1.0));
        let (c, d) = if k + 1 == n { (at(0, -1.0), at(0, 1.0)) } else { (at(k + 1, 1.0), at(k + 1, -1.0)) };
        soup.extend([a, d, b, b, d, c]);
    }
    weld(&soup)
}

/// A cube whose bottom has a triangle without area between its two halves.
pub fn needle_block() -> Mesh {
    let (points, triangles, _) = block(Point::ZERO, 4.0).into_parts();
    // The diagonal 0–3 of the bottom gets a point in its middle on one side and a needle on the other.
    let mut points = points;
    points.push((points[0] + points[3]) * 0.5);
    let m = points.len() as u32 - 1;
    let mut out = vec![];
    for t in triangles {
        let on_diagonal = (0..3).find(|&k| {
            let (a, b) = (points[t[k] as usize], points[t[(k + 1) % 3] as usize]);
            (a + b) * 0.5 == points[m as usize] && a.z == 0.0
        });
        match on_diagonal {
            Some(k) if !out.iter().any(|t: &[u32; 3]| t.contains(&m)) => {
                let (a, b, c) = (t[k], t[(k + 1) % 3], t[(k + 2) % 3]);
                out.extend([[a, m, c], [m, b, c], [b, m, a]]);
            }
            _ => out.push(t),
        }
    }
    Mesh::with_one_face(points, out).unwrap()
}

/// A tube of radius 10 led round half a circle of the given radius, with straight arms and closed ends.
pub fn bent_tube(bend: f64) -> Mesh {
    let (round, steps, arm) = (32, 40, 30.0);
    let mut axis: Vec<(Point, Point)> =
        (0..6).map(|k| (Point::new(-bend, 0.0, arm * k as f64 / 6.0 - arm), -Point::X)).collect();
    axis.extend((0..=steps).map(|k| {
        let a = PI - k as f64 / steps as f64 * PI;
        let out = Point::new(a.cos(), 0.0, a.sin());
        (out * bend, out)
    }));
    axis.extend((1..=6).map(|k| (Point::new(bend, 0.0, -arm * k as f64 / 6.0), Point::X)));
    let at = |i: usize, k: usize| {
        let (middle, out) = axis[i];
        let a = (k % round) as f64 / round as f64 * TAU;
        middle + out * (10.0 * a.cos()) + Point::Y * (10.0 * a.sin())
    };
    let mut soup = vec![];
    for i in 0..axis.len() - 1 {
        for k in 0..round {
            let [a, b, c, d] = [at(i, k), at(i + 1, k), at(i + 1, k + 1), at(i, k + 1)];
            soup.extend([a, b, c, a, c, d]);
        }
    }
    for k in 0..round {
        soup.extend([axis[0].0, at(0, k), at(0, k + 1)]);
        soup.extend([axis[axis.len() - 1].0, at(axis.len() - 1, k + 1), at(axis.len() - 1, k)]);
    }
    weld(&soup)
}

/// A ring with its middle line of radius 30 and a section of radius 10.
pub fn torus() -> Mesh {
    let (round, steps) = (48, 120);
    let at = |i: usize, k: usize| {
        let (a, b) = ((i % steps) as f64 / steps as f64 * TAU, (k % round) as f64 / round as f64 * TAU);
        let r = 30.0 + 10.0 * b.cos();
        Point::new(r * a.cos(), r * a.sin(), 10.0 * b.sin())
    };
    let mut soup = vec![];
    for i in 0..steps {
        for k in 0..round {
            let [a, b, c, d] = [at(i, k), at(i + 1, k), at(i + 1, k + 1), at(i, k + 1)];
            soup.extend([a, b, c, a, c, d]);
        }
    }
    weld(&soup)
}

/// The same triangles with points moved apart a little so that nothing is shared: each triangle on its own.
fn exploded(mesh: &Mesh, by: f64) -> Mesh {
    let soup: Vec<Point> = (0..mesh.triangles().len())
        .flat_map(|t| {
            let c = mesh.corners(t);
            let out = mesh.area_vector(t).normalize() * by;
            c.map(|p| p + out)
        })
        .collect();
    weld(&soup)
}

/// A cube one of whose sides has a point in the middle of an edge that the neighbouring side does not know.
fn t_junction_block() -> Mesh {
    let mut soup = corners(&block(Point::ZERO, 4.0));
    // The first triangle is cut in two at the middle of its first side.
    let [a, b, c] = [soup[0], soup[1], soup[2]];
    let middle = a.midpoint(b);
    soup.splice(..3, [a, middle, c, middle, b, c]);
    weld(&soup)
}

/// A cube whose bottom is divided along one edge at a third, and the side beside it at two thirds.
fn partly_shared_block() -> Mesh {
    let mut soup = corners(&block(Point::ZERO, 4.0));
    let [a, b, c] = [soup[0], soup[1], soup[2]];
    let other = (1..12)
        .flat_map(|t| (0..3).map(move |k| (t, k)))
        .find(|&(t, k)| soup[3 * t + k] == b && soup[3 * t + (k + 1) % 3] == a)
        .map(|(t, k)| (t, soup[3 * t + (k + 2) % 3]));
    let (t, d) = other.expect("an edge has two sides");
    let (third, two_thirds) = (a.lerp(b, 1.0 / 3.0), a.lerp(b, 2.0 / 3.0));
    soup.splice(3 * t..3 * t + 3, [b, two_thirds, d, two_thirds, a, d]);
    soup.splice(..3, [a, third, c, third, b, c]);
    weld(&soup)
}

/// A cube whose bottom lacks a sliver along its diagonal.
fn slit_block() -> Mesh {
    let cube = block(Point::ZERO, 4.0);
    let m = cube.corners(0)[0].midpoint(cube.corners(0)[1]).lerp(cube.corners(0)[2], 1e-3);
    let [a, b, c] = cube.corners(0);
    let mut soup = corners(&cube);
    soup.splice(..3, [a, m, c, m, b, c]);
    weld(&soup)
}

/// A cube whose first side stands off the others by a hair along all its edges.
fn torn_block(by: f64) -> Mesh {
    let mut soup = corners(&block(Point::ZERO, 4.0));
    soup[..6].iter_mut().for_each(|p| *p += Point::splat(by));
    weld(&soup)
}

/// A sheet of 5 × 5 squares in one plane.
fn flat_sheet() -> Mesh {
    let at = |x: i32, y: i32| Point::new(x.into(), y.into(), 0.0);
    let squares = (0..25).map(|n| (n % 5, n / 5));
    let soup: Vec<Point> = squares
        .flat_map(|(x, y)| [at(x, y), at(x + 1, y), at(x + 1, y + 1), at(x, y), at(x + 1, y + 1), at(x, y + 1)])
        .collect();
    weld(&soup)
}

/// A cone 10 high on a disc of 1,000 sides.
fn needle_cone() -> Mesh {
    let at = |k: usize| {
        let a = (k % 1000) as f64 / 1000.0 * TAU;
        Point::new(5.0 * a.cos(), 5.0 * a.sin(), 0.0)
    };
    let soup: Vec<Point> =
        (0..1000).flat_map(|k| [at(k), at(k + 1), Point::Z * 10.0, at(k + 1), at(k), Point::ZERO]).collect();
    weld(&soup)
}

pub fn gallery() -> Vec<Entry> {
    let cube = block(Point::ZERO, 4.0);
    let with = |soup: Vec<Point>| weld(&[corners(&cube), soup].concat());
    let mut turned = cube.clone();
    turned.reverse_triangles(|_| true);
    let mut half_turned = cube.clone();
    half_turned.reverse_triangles(|t| t % 2 == 1);
    let speck = corners(&block(Point::splat(9.0), 0.01));
    let turned_face: Vec<Point> = corners(&cube)[..6].chunks(3).flat_map(|c| [c[0], c[2], c[1]]).collect();
    let mut worn_out = without(&weld(&[corners(&cube), speck.clone()].concat()), &[3]);
    worn_out.reverse_triangles(|t| t == 5 || t == 7);
    let open_ball = shapes::ball(10.0, 24).retain_triangles(|t| t > 300);
    let far = |by: f64| block(Point::new(by, -by, by), 4.0);
    let mut clashing_tube = square_tube();
    clashing_tube.reverse_triangles(|t| t % 8 < 4);
    let entry = |name, mesh, before, after, volume| Entry { name, mesh, before, after, volume };
    vec![
        entry("cube", cube.clone(), Sealed, Sealed, Some(64.0)),
        entry("cube without one triangle", without(&cube, &[0]), Open, Sealed, Some(64.0)),
        entry("cube without a face", without(&cube, &[2, 3]), Open, Sealed, Some(64.0)),
        entry("cube without two opposite faces", without(&cube, &[0, 1, 2, 3]), Open, Sealed, Some(64.0)),
        entry("two holes that meet at a corner", without(&cube, &[0, 11]), Open, Sealed, Some(64.0)),
        entry("cube turned inside out", turned, Flipped, Sealed, Some(64.0)),
        entry("cube with every second triangle turned", half_turned, Flipped, Sealed, Some(64.0)),
        entry("cube with a face twice", with(corners(&cube)[..6].to_vec()), Tangled, Sealed, Some(64.0)),
        entry("cube with a needle", needle_block(), Sealed, Sealed, Some(64.0)),
        entry(
            "cube with a collapsed triangle",
            with(vec![Point::ZERO, Point::ZERO, Point::X * 4.0]),
            Sealed,
            Sealed,
            Some(64.0),
        ),
        entry("cube with a speck", with(speck), Sealed, Sealed, Some(64.0)),
        entry("exploded cube", exploded(&cube, 0.004), Open, Sealed, None),
        entry("two cubes that cross", with(corners(&block(Point::splat(2.0), 4.0))), Tangled, Sealed, Some(120.0)),
        entry(
            "two cubes that touch at a corner",
            with(corners(&block(Point::splat(4.0), 4.0))),
            Sealed,
            Sealed,
            Some(128.0),
        ),
        entry(
            "two cubes that share an edge",
            with(corners(&block(Point::new(4.0, 4.0, 0.0), 4.0))),
            Tangled,
            Sealed,
            None,
        ),
        entry(
            "cube with an inner wall",
            with(vec![Point::ZERO, Point::X * 4.0, Point::splat(4.0)]),
            Open,
            Sealed,
            Some(64.0),
        ),
        entry("band with a twist", moebius_band(), Open, Sealed, None),
        entry("a single triangle", weld(&[Point::ZERO, Point::X * 5.0, Point::Y * 5.0]), Open, Sealed, Some(1.25)),
        entry("square tube", square_tube(), Open, Sealed, Some(1280.0)),
        entry("two cubes apart", with(corners(&block(Point::splat(20.0), 2.0))), Sealed, Sealed, Some(72.0)),
        entry(
            "cube in a cube, both outward",
            with(corners(&block(Point::splat(1.0), 2.0))),
            Flipped,
            Sealed,
            Some(56.0),
        ),
        entry("everything twice", with(corners(&cube)), Tangled, Sealed, Some(64.0)),
        entry("cube with a face twice, once turned", with(turned_face), Tangled, Sealed, Some(64.0)),
        entry("cube with a corner on the middle of an edge", t_junction_block(), Open, Sealed, Some(64.0)),
        entry("cube with an edge of which two sides share a third", partly_shared_block(), Open, Sealed, Some(64.0)),
        entry("cube with a slit along an edge", slit_block(), Open, Sealed, None),
        entry("cube torn open along an edge by a hair", torn_block(1e-4), Open, Sealed, None),
        entry("cube, hole, speck and turned triangles at once", worn_out, Open, Sealed, Some(64.0)),
        entry("ball without its cap", open_ball, Open, Sealed, None),
        entry("cube a metre from the origin", far(1000.0), Sealed, Sealed, Some(64.0)),
        entry("open cube a kilometre from the origin", without(&far(1e6), &[0, 1]), Open, Sealed, Some(64.0)),
        entry("cube of a micrometre", block(Point::ZERO, 1e-3), Sealed, Sealed, Some(1e-9)),
        entry("open cube of a kilometre", without(&block(Point::ZERO, 1e6), &[4]), Open, Sealed, Some(1e18)),
        entry("flat sheet", flat_sheet(), Open, Sealed, Some(2.5)),
        entry("cone of a thousand needles", needle_cone(), Sealed, Sealed, None),
        entry("tube of two halves that disagree", clashing_tube, Open, Sealed, Some(1280.0)),
    ]
}
