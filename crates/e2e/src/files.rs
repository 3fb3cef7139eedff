//! Files for tests.

use anyhow::Context;
use nimbet_formats::{Body, LengthUnit, Limits, ReleaseFormat, read_model, write_body};
use nimbet_kernel::{Mesh, Progress, shapes};
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

/// Reads a released file as anybody would, and examines it.
///
/// # Errors
/// When it is not readable.
pub fn read_back(bytes: &[u8], name: &str) -> anyhow::Result<Examination> {
    let progress = Progress::unwatched();
    let read = read_model(bytes, bytes.len() as u64, name, &Limits::default(), &progress)?;
    examine(&read.mesh, &progress).context("examining")
}
