//! Files for tests.

use anyhow::Context;
use nimbet_formats::{Body, LengthUnit, Limits, ReleaseFormat, read_model, write_body};
use nimbet_kernel::{Mesh, Point, Progress};
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

/// A sphere of 100 mm with `4 n²` triangles, near enough, open at one triangle.
///
/// # Errors
/// When the numbers do not make a mesh.
pub fn big_sphere(n: usize) -> anyhow::Result<Mesh> {
    let (rows, round) = (n, 2 * n);
    let mut points = vec![Point::Z * -50.0, Point::Z * 50.0];
    for i in 1..rows {
        let (height, radius) = (i as f64 / rows as f64 * std::f64::consts::PI).sin_cos();
        for k in 0..round {
            let angle = k as f64 / round as f64 * std::f64::consts::TAU;
            points.push(Point::new(height * angle.cos(), height * angle.sin(), -radius) * 50.0);
        }
    }
    let at = |i: usize, k: usize| match i {
        0 => 0,
        i if i == rows => 1,
        i => (2 + (i - 1) * round + k % round) as u32,
    };
    let mut triangles = Vec::new();
    for i in 0..rows {
        for k in 0..round {
            let [a, b, c, d] = [at(i, k), at(i, k + 1), at(i + 1, k + 1), at(i + 1, k)];
            if a != b {
                triangles.push([a, b, c]);
            }
            if c != d {
                triangles.push([a, c, d]);
            }
        }
    }
    triangles.pop();
    Ok(Mesh::with_one_face(points, triangles)?)
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
