//! What real files are broken by, made from seeds: turned, moved, from a millimetre to ten metres, in single precision.

use glam::{DQuat, EulerRot};
use nimbet_kernel::{Mesh, Point, shapes};

use crate::dice::Dice;
use crate::gallery::{block, corners, weld};

/// A broken part with the volume it was meant to have.
pub struct Case {
    pub class: &'static str,
    pub seed: u64,
    pub mesh: Mesh,
    /// The volume it was meant to have, mm³, and how far covers may be off it, as a share.
    pub volume: Option<(f64, f64)>,
}

/// A soup of about ten units' size as a part: turned, moved, scaled, in single precision, welded where corners are the same.
fn posed(class: &'static str, seed: u64, soup: &[Point], volume: Option<(f64, f64)>) -> Case {
    let mut dice = Dice::new(seed ^ 0x55);
    let turn = DQuat::from_euler(EulerRot::XYZ, dice.within(-3.0, 3.0), dice.within(-3.0, 3.0), dice.within(-3.0, 3.0));
    let scale = [0.1, 1.0, 10.0, 1000.0][seed as usize % 4];
    let by = dice.point() * 30.0;
    let single = |p: Point| (turn * p + by).to_array().map(|x| f64::from((x * scale) as f32));
    let soup: Vec<Point> = soup.iter().map(|p| Point::from_array(single(*p))).collect();
    let volume = volume.map(|(v, off)| (v * scale.powi(3), off));
    Case { class, seed, mesh: weld(&soup), volume }
}

fn cut(mesh: &Mesh, parts: f64) -> Vec<Point> {
    // Faces in several triangles: each triangle in four, as often as asked.
    let mut soup = corners(mesh);
    for _ in 0..parts as usize {
        let quarters = |t: &[Point]| {
            let [a, b, c] = [t[0], t[1], t[2]];
            let (d, e, f) = (a.midpoint(b), b.midpoint(c), c.midpoint(a));
            [a, d, f, d, b, e, f, e, c, d, e, f]
        };
        soup = soup.chunks(3).flat_map(quarters).collect();
    }
    soup
}

fn body() -> Mesh {
    block(Point::splat(-5.0), 10.0)
}

/// A flap without thickness on an edge, and one on a face's middle.
fn fins(seed: u64) -> Case {
    let mut dice = Dice::new(seed);
    let mut soup = cut(&body(), 1.0);
    let (a, b) = (Point::new(-5.0, -5.0, -5.0), Point::new(0.0, -5.0, -5.0));
    let tip = Point::new(-2.0, -5.0, -5.0) + Point::new(0.0, -dice.within(0.2, 0.5), -dice.within(0.2, 0.5));
    // Both sides, as flattened flaps have.
    soup.extend([a, b, tip]);
    if seed.is_multiple_of(2) {
        soup.extend([b, a, tip]);
    }
    // A fin of more than a thousandth of the surface gets a wall.
    posed("fin", seed, &soup, Some((1000.0, 1e-3)))
}

/// A triangle without area between two that share a side only in part.
fn needles(seed: u64) -> Case {
    let mut dice = Dice::new(seed);
    let mut soup = corners(&body());
    let [a, b, c] = [soup[0], soup[1], soup[2]];
    let m = a.lerp(b, dice.within(0.2, 0.8));
    soup.splice(..3, [a, m, c, m, b, c, b, m, a]);
    posed("needle", seed, &soup, Some((1000.0, 1e-4)))
}

/// Boxes that share a face, an edge or a corner.
fn flush(seed: u64) -> Case {
    let small = |x: f64, y: f64, z: f64| block(Point::new(x, y, z), 4.0);
    let boxes: Vec<Mesh> = match seed % 5 {
        0 => vec![small(0.0, 0.0, 0.0), small(4.0, 0.0, 0.0)],
        1 => vec![small(0.0, 0.0, 0.0), small(4.0, 0.0, 0.0), small(0.0, 4.0, 0.0)],
        2 => (0..8)
            .map(|n| small(f64::from(n & 1) * 4.0, f64::from(n >> 1 & 1) * 4.0, f64::from(n >> 2) * 4.0))
            .collect(),
        3 => vec![small(0.0, 0.0, 0.0), small(4.0, 4.0, 0.0)],
        _ => vec![small(0.0, 0.0, 0.0), small(4.0, 4.0, 4.0)],
    };
    let volume = boxes.len() as f64 * 64.0;
    posed("flush boxes", seed, &boxes.iter().flat_map(corners).collect::<Vec<_>>(), Some((volume, 2e-2)))
}

/// A box within a box, flush on one face.
fn nested(seed: u64) -> Case {
    let mut dice = Dice::new(seed);
    let size = dice.within(2.0, 6.0);
    let inner = block(Point::new(-5.0, dice.within(-4.0, -2.0), dice.within(-4.0, -2.0)), size);
    let soup = [corners(&body()), corners(&inner)].concat();
    posed("nested flush shells", seed, &soup, Some((1000.0, 1e-4)))
}

/// Everything twice, once turned over or not, once cut otherwise or not.
fn doubled(seed: u64) -> Case {
    let once = cut(&body(), 1.0);
    let mut again = if seed.is_multiple_of(2) { once.clone() } else { cut(&body(), 2.0) };
    if seed.is_multiple_of(3) {
        again.chunks_mut(3).for_each(|t| t.swap(1, 2));
    }
    posed("doubled walls", seed, &[once, again].concat(), Some((1000.0, 1e-4)))
}

/// A ball of loose triangles whose corners differ by noise of 1e-7 to 1e-3 of its size.
fn noisy(seed: u64) -> Case {
    let mut dice = Dice::new(seed);
    let noise = 20.0 * 10f64.powf(-7.0 + 4.0 * (seed % 9) as f64 / 8.0);
    let ball = shapes::ball(10.0, 14);
    let whole = nimbet_kernel::measure::measure(&ball).volume;
    // Long triangles at the poles are no longer than high when they are cut.
    let soup: Vec<Point> = corners(&ball).into_iter().map(|p| p + dice.point() * noise).collect();
    posed("noisy soup", seed, &soup, Some((whole, 1e-2)))
}

/// Hills over a square.
fn hills(seed: u64, class: &'static str, height: f64) -> Case {
    let mut dice = Dice::new(seed);
    let (p, q) = (dice.within(0.3, 1.1), dice.within(0.3, 1.1));
    let at = |i: i32, j: i32| {
        let (x, y) = (f64::from(i) - 10.0, f64::from(j) - 10.0);
        Point::new(x, y, height * ((x * p).sin() + (y * q).cos()))
    };
    let soup: Vec<Point> = (0..400)
        .map(|n| (n % 20, n / 20))
        .flat_map(|(i, j)| [at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j), at(i + 1, j + 1), at(i, j + 1)])
        .collect();
    posed(class, seed, &soup, None)
}

/// A box with walls inside that end on its own.
fn partitions(seed: u64) -> Case {
    let mut dice = Dice::new(seed);
    let mut soup = cut(&body(), f64::from(u8::from(seed.is_multiple_of(2))));
    for _ in 0..1 + seed % 3 {
        let x = dice.within(-4.0, 4.0);
        let c = |y: f64, z: f64| Point::new(x, y, z);
        soup.extend([c(-5.0, -5.0), c(5.0, -5.0), c(5.0, 5.0), c(-5.0, -5.0), c(5.0, 5.0), c(-5.0, 5.0)]);
    }
    posed("inner partitions", seed, &soup, Some((1000.0, 1e-4)))
}

/// A box of which up to half the triangles are missing, one or two faces' worth.
fn half_missing(seed: u64) -> Case {
    let mut dice = Dice::new(seed);
    let soup = cut(&body(), 2.0);
    let face = (dice.roll() * 6.0) as usize;
    let kept = soup.chunks(3).enumerate().filter(|(t, _)| t / 32 != face || dice.roll() < 0.5);
    let soup: Vec<Point> = kept.flat_map(|(_, t)| t.to_vec()).collect();
    posed("half-missing faces", seed, &soup, Some((1000.0, 1e-2)))
}

/// A ball in eight patches that stand apart by a little.
fn patches(seed: u64) -> Case {
    let mut dice = Dice::new(seed);
    let ball = shapes::ball(10.0, 24);
    let whole = nimbet_kernel::measure::measure(&ball).volume;
    let shifts: Vec<Point> = (0..8).map(|_| dice.point() * 5e-3).collect();
    let soup: Vec<Point> = corners(&ball)
        .chunks(3)
        .flat_map(|t| {
            let m = t.iter().sum::<Point>();
            let patch = usize::from(m.x > 0.0) + 2 * usize::from(m.y > 0.0) + 4 * usize::from(m.z > 0.0);
            t.iter().map(|p| *p + shifts[patch]).collect::<Vec<_>>()
        })
        .collect();
    posed("patches with seams", seed, &soup, Some((whole, 1e-2)))
}

/// A box with a band beside it that has only one side.
fn one_sided(seed: u64) -> Case {
    let mut dice = Dice::new(seed);
    let (around, wide) = (dice.within(2.5, 3.5), dice.within(0.6, 1.2));
    let at = |k: i32, side: f64| {
        let way = f64::from(k) / 48.0 * std::f64::consts::TAU;
        // Half a turn on the way round; the last is the first, turned over.
        let (side, way, half) = if k == 48 { (-side, 0.0, 0.0) } else { (side, way, way * 0.5) };
        let out = around + side * wide * half.cos();
        Point::new(9.5 + out * way.cos(), out * way.sin(), side * wide * half.sin())
    };
    let mut soup = cut(&body(), 1.0);
    (0..48).for_each(|k| {
        let [a, b, c, d] = [at(k, -1.0), at(k, 1.0), at(k + 1, 1.0), at(k + 1, -1.0)];
        soup.extend([a, b, c, a, c, d]);
    });
    posed("one-sided band", seed, &soup, None)
}

/// A box with a bush of leaves on it, that pass through each other all over.
fn dense(seed: u64) -> Case {
    let mut dice = Dice::new(seed);
    let mut soup = cut(&body(), 1.0);
    for _ in 0..120 + 40 * (seed % 3) {
        let (middle, a, b) = (Point::new(6.5, 0.0, 0.0) + dice.point() * 1.8, dice.point(), dice.point());
        soup.extend([middle + a, middle + b, middle - a - b]);
    }
    posed("dense sheets", seed, &soup, None)
}

/// So many seeds of every class.
pub fn classes(seeds: u64) -> Vec<Case> {
    let makers: [fn(u64) -> Case; 13] = [
        fins,
        needles,
        flush,
        nested,
        doubled,
        noisy,
        |seed| hills(seed, "terrain", 0.6),
        |seed| hills(seed, "relief", 0.05),
        partitions,
        half_missing,
        patches,
        one_sided,
        dense,
    ];
    makers.iter().flat_map(|make| (0..seeds).map(make)).collect()
}
