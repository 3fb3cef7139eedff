//! Sheets that enclose nothing, made into bodies.

use crate::crossings::triangle_bvh;
use crate::segments::nearest_on_triangle;
use crate::simplify::simplify;
use crate::topology::{EdgeUse, NO_EDGE};
use crate::winding::agreeing_pieces;
use crate::wrap::{WrapError, level_skin, wrap_cost};
use crate::{Aabb, Mesh, MeshError, Point, Progress, Topology};

/// Pieces are thicker than asked by up to this share, each by another, so that walls do not lie on each other by chance …
const UNLIKE: f64 = 0.05;
/// … spread by the golden section.
const GOLDEN: f64 = 0.618_033_988_749_895;

/// A body round a sheet of any kind, also where three or more triangles share an edge: each connected piece is moved to both
/// sides along the normals of its points and closed along its border, which reaches half the thickness beyond the sheet, so that
/// pieces that meet run into each other. It is closed but may cross itself; its faces are those of the sheet.
///
/// # Errors
/// [`MeshError`] if it has too many triangles.
pub fn thickened(sheet: &Mesh, thickness: f64) -> Result<Mesh, MeshError> {
    let topology = Topology::new(sheet.triangles(), sheet.points().len());
    let (piece_of, turned, pieces) = agreeing_pieces(sheet, &topology);
    let mut members: Vec<Vec<u32>> = vec![Vec::new(); pieces];
    for (t, &piece) in piece_of.iter().enumerate() {
        members[piece as usize].push(t as u32);
    }
    let (mut points, mut triangles, mut faces) = (Vec::new(), Vec::new(), Vec::new());
    // The two points a point of the sheet has in the piece at hand.
    let mut named = vec![u32::MAX; sheet.points().len()];
    for (n, own) in members.iter().enumerate() {
        let half = thickness * 0.5 * (1.0 + UNLIKE * (n as f64 * GOLDEN).fract());
        let corners_of = |t: u32| {
            let [a, b, c] = sheet.triangles()[t as usize];
            if turned[t as usize] { [a, c, b] } else { [a, b, c] }
        };
        let first = points.len();
        let mut normals: Vec<Point> = Vec::new();
        let mut beyond: Vec<Point> = Vec::new();
        let mut ids: Vec<u32> = Vec::new();
        for &t in own {
            for c in corners_of(t) {
                if named[c as usize] == u32::MAX {
                    named[c as usize] = ids.len() as u32;
                    ids.push(c);
                    normals.push(Point::ZERO);
                    beyond.push(Point::ZERO);
                }
            }
        }
        let at = |c: u32| sheet.points()[c as usize];
        let mut border: Vec<(u32, u32, u32)> = Vec::new();
        for &t in own {
            let c = corners_of(t);
            let normal = (at(c[1]) - at(c[0])).cross(at(c[2]) - at(c[0])).normalize_or_zero();
            for k in 0..3 {
                let (a, b, z) = (c[k], c[(k + 1) % 3], c[(k + 2) % 3]);
                let angle = (at(b) - at(a)).angle_between(at(z) - at(a));
                if angle.is_finite() {
                    normals[named[a as usize] as usize] += normal * angle;
                }
                let half_edge = (0..3).find(|j| {
                    let t = sheet.triangles()[t as usize];
                    let (p, q) = (t[*j], t[(*j + 1) % 3]);
                    (p, q) == (a, b) || (p, q) == (b, a)
                });
                let edge = topology.edge_of(3 * t + half_edge.unwrap_or(0) as u32);
                let inner = edge != NO_EDGE && matches!(topology.edge_use(edge), EdgeUse::Regular | EdgeUse::Clashing);
                if !inner {
                    border.push((a, b, t));
                    let out = (at(b) - at(a)).cross(normal).normalize_or_zero();
                    beyond[named[a as usize] as usize] += out;
                    beyond[named[b as usize] as usize] += out;
                }
            }
        }
        for (n, &id) in ids.iter().enumerate() {
            let middle = at(id) + beyond[n].normalize_or_zero() * half;
            let up = normals[n].normalize_or_zero() * half;
            points.extend([middle + up, middle - up]);
        }
        let name = |c: u32, below: u32| first as u32 + 2 * named[c as usize] + below;
        for &t in own {
            let [a, b, c] = corners_of(t);
            triangles.push([name(a, 0), name(b, 0), name(c, 0)]);
            triangles.push([name(a, 1), name(c, 1), name(b, 1)]);
            faces.extend([sheet.face_of()[t as usize]; 2]);
        }
        for (a, b, t) in border {
            triangles.push([name(b, 0), name(a, 0), name(a, 1)]);
            triangles.push([name(b, 0), name(a, 1), name(b, 1)]);
            faces.extend([sheet.face_of()[t as usize]; 2]);
        }
        ids.iter().for_each(|id| named[*id as usize] = u32::MAX);
    }
    Mesh::new(points, triangles, faces)
}

/// A sampled wall is drawn in cells of this share of its thickness, so that beside each place of the sheet lies a point of the grid.
const CELL: f64 = 0.65;
/// What is farther off than so many cells is in none that the skin passes through.
const FAR: f64 = 16.0;
/// A sampled wall has fewer triangles where none moves by more than this share of it.
const SIMPLER: f64 = 0.05;

/// All that is nearer than half the thickness to a sheet of any kind, drawn on a grid: for sheets that lie so dense that
/// [`thickened`] crosses itself all over. Closed, of one face; it may cross itself here and there.
///
/// # Errors
/// [`WrapError`]; [`WrapError::TooFine`] also where it would have more than `most` triangles.
pub fn thickened_sampled(sheet: &Mesh, thickness: f64, most: usize, progress: &Progress) -> Result<Mesh, WrapError> {
    let (half, cell) = (thickness * 0.5, thickness * CELL);
    let cost = wrap_cost(sheet, cell).triangles * 2;
    if cost > most {
        return Err(WrapError::TooFine(cell * (cost as f64 / most as f64).sqrt()));
    }
    let bvh = triangle_bvh(sheet);
    // Farther off it need only be known that it is far.
    let far = half + cell * FAR;
    let field = |p: Point| {
        let foot = |t: u32| nearest_on_triangle(p, sheet.corners(t as usize));
        let near = bvh.nearest(p, far, |t| Some(foot(t).distance_squared(p)));
        near.map_or((f64::INFINITY, Point::ZERO), |(t, distance)| (distance - half, (p - foot(t)).normalize_or_zero()))
    };
    let bounds = Aabb::of(sheet.points().iter().copied()).grown(half);
    let skin = level_skin(&bounds, cell, &field, &progress.stage(0.0, 0.7))?;
    // Some of it may cross then, as walls do anyway.
    Ok(simplify(&skin, thickness * SIMPLER, |_| true, &progress.stage(0.7, 1.0))?)
}
