//! The tube at a place where a surface is bent tighter than its own radius.

use std::ops::ControlFlow;

use nimbet_kernel::{Bvh, Mesh, Point};

use super::finding::Place;

/// Triangles are looked at so far from the place, in its radii …
const REACH: f64 = 4.0;
/// … and so many of them.
const SAMPLES: usize = 240;
/// Of a tube most widths are within this share of their median …
const SPREAD: f64 = 0.1;
/// … that is, this share of them.
const MOST: f64 = 0.6;

/// The width of the tube that leads to a place, mm: what most straight ways through the material from its walls nearby have
/// in common. None where it is no tube.
///
/// Cost: a look at all triangles, and [`SAMPLES`] rays.
pub(super) fn tube_width(mesh: &Mesh, bvh: &Bvh, shell_of: &[u32], place: &Place, crossing: &[u32]) -> Option<f64> {
    let shell = shell_of[*crossing.first()? as usize];
    let centre = Point::from_array(place.centre);
    let middle = |t: u32| mesh.corners(t as usize).iter().sum::<Point>() / 3.0;
    let near: Vec<u32> = (0..mesh.triangles().len() as u32)
        .filter(|t| shell_of[*t as usize] == shell && middle(*t).distance(centre) <= place.radius * REACH)
        .filter(|t| crossing.binary_search(t).is_err())
        .collect();
    let every = near.len().div_ceil(SAMPLES).max(1);
    let samples: Vec<u32> = near.into_iter().step_by(every).collect();
    let mut widths: Vec<f64> = samples.iter().filter_map(|t| through(mesh, bvh, *t, middle(*t))).collect();
    widths.sort_unstable_by(f64::total_cmp);
    let median = *widths.get(widths.len() / 2)?;
    let alike = widths.iter().filter(|w| (*w / median - 1.0).abs() <= SPREAD).count();
    // Ways that leave the material nowhere count against a tube too.
    (alike as f64 >= MOST * samples.len() as f64).then_some(median)
}

/// How far it is straight through the material from the middle of a triangle.
fn through(mesh: &Mesh, bvh: &Bvh, triangle: u32, from: Point) -> Option<f64> {
    let inward = -mesh.area_vector(triangle as usize).try_normalize()?;
    let reach = bvh.bounds().diagonal();
    let to = from + inward * reach;
    let mut nearest: Option<f64> = None;
    let _ = bvh.along_segment(from, to, |t| {
        if t != triangle
            && let Some(along) = hit(mesh.corners(t as usize), from, inward).filter(|x| *x > 0.0)
            && nearest.is_none_or(|n| along < n)
        {
            nearest = Some(along);
        }
        ControlFlow::Continue(())
    });
    nearest
}

/// How far along a ray a triangle is; a measure, no decision about the mesh.
fn hit([a, b, c]: [Point; 3], from: Point, way: Point) -> Option<f64> {
    let (u, v) = (b - a, c - a);
    let p = way.cross(v);
    let det = u.dot(p);
    let to = from - a;
    let (x, q) = (to.dot(p) / det, to.cross(u));
    let y = way.dot(q) / det;
    (det != 0.0 && x >= 0.0 && y >= 0.0 && x + y <= 1.0).then(|| v.dot(q) / det)
}
