//! What the screen draws of a mesh, as glTF 2.0 binary.
//!
//! The mesh `surface` has a point for each mesh point and face it is in, with a normal smoothed within the face, so that
//! round faces look round and edges between faces look sharp. `_FACE` is the face id, `_OFF` the
//! distance from what came in where that is asked for. Further meshes carry what lies on the
//! surface: `rim R1` … (line strips), `crowded` (line pairs), `tangle` (triangles).

use meshopt::VertexDataAdapter;
use nimbet_kernel::{Mesh, Point};
use serde_json::json;

use crate::glb::{Glb, Mode};

/// How much of the surface is drawn.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Detail {
    /// Every triangle.
    Full,
    /// About [`COARSE_TRIANGLES`], for moving about in large parts. Figures never come from it.
    Coarse,
}

/// What a browser without a graphics card draws in a tenth of a second.
const COARSE_TRIANGLES: usize = 60_000;

/// What lies on the surface.
#[derive(Clone, Debug, Default)]
pub struct DisplayExtras {
    /// Name, points in order, and whether the chain is closed.
    pub rims: Vec<(String, Vec<Point>, bool)>,
    /// Edges of three or more triangles, or with clashing sides.
    pub crowded: Vec<[Point; 2]>,
    /// Triangles that cross others.
    pub tangle: Vec<u32>,
    /// For each point, how far it lies from what came in, mm; drawn as `_OFF`.
    pub off: Option<Vec<f64>>,
}

/// The glTF binary of a mesh.
pub fn display_glb(mesh: &Mesh, extras: &DisplayExtras, detail: Detail) -> Vec<u8> {
    let mut glb = Glb::new();
    surface(&mut glb, mesh, extras.off.as_deref(), detail);
    for (name, points, closed) in &extras.rims {
        let mut strip = points.clone();
        if *closed {
            strip.extend(points.first());
        }
        let positions = glb.positions(&strip);
        glb.mesh(&format!("rim {name}"), json!({ "POSITION": positions }), None, Mode::LineStrip);
    }
    if !extras.crowded.is_empty() {
        let positions = glb.positions(extras.crowded.as_flattened());
        glb.mesh("crowded", json!({ "POSITION": positions }), None, Mode::Lines);
    }
    if !extras.tangle.is_empty() {
        let corners: Vec<Point> = extras.tangle.iter().flat_map(|&t| mesh.corners(t as usize)).collect();
        let positions = glb.positions(&corners);
        glb.mesh("tangle", json!({ "POSITION": positions }), None, Mode::Triangles);
    }
    glb.finish()
}

fn surface(glb: &mut Glb, mesh: &Mesh, off: Option<&[f64]>, detail: Detail) {
    let triangles = mesh.triangles();
    if triangles.is_empty() {
        return;
    }
    // One drawn point for each (point, face): sort the corners and number the runs.
    let mut corners: Vec<(u32, u32, u32)> = Vec::with_capacity(triangles.len() * 3);
    for (t, corner) in triangles.iter().enumerate() {
        for (k, &point) in corner.iter().enumerate() {
            corners.push((point, mesh.face_of()[t].0, (3 * t + k) as u32));
        }
    }
    corners.sort_unstable();
    let mut indices = vec![0u32; corners.len()];
    let (mut points, mut normals, mut faces) = (Vec::new(), Vec::<Point>::new(), Vec::new());
    let mut offs: Vec<f32> = Vec::new();
    let mut last = None;
    for &(point, face, corner) in &corners {
        if last != Some((point, face)) {
            last = Some((point, face));
            points.push(mesh.points()[point as usize]);
            normals.push(Point::ZERO);
            faces.push(face as f32);
            offs.extend(off.map(|o| o[point as usize] as f32));
        }
        let drawn = points.len() - 1;
        indices[corner as usize] = drawn as u32;
        let [a, b, c] = [0, 1, 2].map(|k| {
            let t = corner as usize / 3;
            mesh.points()[triangles[t][(corner as usize % 3 + k) % 3] as usize]
        });
        // Weighted by the angle at the corner, so that the way a flat face was cut up does not show.
        let normal = (b - a).cross(c - a).normalize_or_zero();
        normals[drawn] += normal * (b - a).angle_between(c - a);
    }
    for n in &mut normals {
        *n = n.normalize_or(Point::Z);
    }
    if detail == Detail::Coarse && off.is_none() && triangles.len() > COARSE_TRIANGLES {
        let floats: Vec<[f32; 3]> = points.iter().map(|p| p.as_vec3().to_array()).collect();
        if let Ok(adapter) = VertexDataAdapter::new(bytemuck::cast_slice(&floats), 12, 0) {
            // An error of 1 (the size of the part) never stops the reduction before the count is reached.
            let kept = meshopt::simplify_sloppy(&indices, &adapter, COARSE_TRIANGLES * 3, 1.0, None);
            if !kept.is_empty() {
                indices = kept;
                compact(&mut indices, &mut points, &mut normals, &mut faces);
            }
        }
    }
    let mut attributes = json!({
        "POSITION": glb.positions(&points),
        "NORMAL": glb.normals(&normals),
        "_FACE": glb.scalars(&faces),
    });
    if !offs.is_empty() {
        attributes["_OFF"] = glb.scalars(&offs).into();
    }
    let indices = glb.indices(&indices);
    glb.mesh("surface", attributes, Some(indices), Mode::Triangles);
}

/// Drops the points no index uses.
fn compact(indices: &mut [u32], points: &mut Vec<Point>, normals: &mut Vec<Point>, faces: &mut Vec<f32>) {
    let mut new = vec![u32::MAX; points.len()];
    let mut kept = Vec::new();
    for index in indices.iter_mut() {
        let slot = &mut new[*index as usize];
        if *slot == u32::MAX {
            *slot = kept.len() as u32;
            kept.push(*index as usize);
        }
        *index = *slot;
    }
    *points = kept.iter().map(|&i| points[i]).collect();
    *normals = kept.iter().map(|&i| normals[i]).collect();
    *faces = kept.iter().map(|&i| faces[i]).collect();
}
