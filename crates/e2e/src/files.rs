//! Files for tests.

use anyhow::Context;
use nimbet_formats::{Body, LengthUnit, Limits, ReleaseFormat, read_model, write_body};
use nimbet_kernel::{Mesh, Point, Progress, shapes, weld};
use nimbet_trade::{Examination, examine};

fn written(mesh: &Mesh, format: ReleaseFormat) -> anyhow::Result<Vec<u8>> {
    Ok(write_body(&Body { name: "part", colour: [0; 3], mesh }, format, LengthUnit::Millimetre)?)
}

/// A mesh as binary PLY.
///
/// # Errors
/// When it cannot be written.
pub fn ply_of(mesh: &Mesh) -> anyhow::Result<Vec<u8>> {
    written(mesh, ReleaseFormat::Ply)
}

/// A mesh as binary STL.
///
/// # Errors
/// When it cannot be written.
pub fn stl_of(mesh: &Mesh) -> anyhow::Result<Vec<u8>> {
    written(mesh, ReleaseFormat::Stl)
}

/// A ball 100 mm across with nearly `4 n²` triangles, open at one triangle.
pub fn big_ball(n: usize) -> Mesh {
    shapes::ball(50.0, n).retain_triangles(|t| t > 0)
}

/// A ball of loose triangles, 100 mm across, whose corners differ by noise, mm.
///
/// # Errors
/// When the program has a fault.
pub fn noisy_ball(noise: f64) -> anyhow::Result<Mesh> {
    let ball = shapes::ball(50.0, 12);
    let mut n = 0.0f64;
    let mut shaken = |p: Point| {
        n += 1.0;
        p + Point::new((n * 1.7).sin(), (n * 2.3).cos(), (n * 0.9).sin()) * noise
    };
    let soup: Vec<Point> = (0..ball.triangles().len()).flat_map(|t| ball.corners(t)).map(&mut shaken).collect();
    Ok(weld::weld_corners(&soup)?)
}

/// Hills over a square of 100 mm.
///
/// # Errors
/// When the program has a fault.
pub fn hills() -> anyhow::Result<Mesh> {
    let at = |i: i32, j: i32| {
        let (x, y) = (f64::from(i) * 5.0 - 50.0, f64::from(j) * 5.0 - 50.0);
        Point::new(x, y, 4.0 * (x / 11.0).sin() + 5.0 * (y / 17.0).cos())
    };
    let squares = (0..400).map(|n| (n % 20, n / 20));
    let soup: Vec<Point> = squares
        .flat_map(|(i, j)| [at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j), at(i + 1, j + 1), at(i, j + 1)])
        .collect();
    Ok(weld::weld_corners(&soup)?)
}

/// A block of 40 mm with a sheet that passes through it and hangs out on two sides.
///
/// # Errors
/// When the program has a fault.
pub fn winged_block() -> anyhow::Result<Mesh> {
    let block = shapes::block(Point::splat(-20.0), Point::splat(40.0));
    let wing = [[-45.0, -12.0, 3.0], [45.0, -12.0, 6.0], [45.0, 12.0, 6.0], [-45.0, 12.0, 3.0]].map(Point::from_array);
    let mut soup: Vec<Point> = (0..block.triangles().len()).flat_map(|t| block.corners(t)).collect();
    soup.extend([wing[0], wing[1], wing[2], wing[0], wing[2], wing[3]]);
    Ok(weld::weld_corners(&soup)?)
}

/// Reads a released file as anybody would, and examines it.
///
/// # Errors
/// When it is not readable.
pub fn read_back(bytes: &[u8], name: &str) -> anyhow::Result<Examination> {
    let progress = Progress::unwatched();
    let read = read_model(bytes, bytes.len() as u64, name, &Limits::default(), &progress)?;
    examine(&read.mesh, &progress).context("examining")
}
