//! Outlines moved along the normal of their plane.

use nimbet_kernel::Mesh;
use nimbet_kernel::triangulate::PlaneFrame;

use super::flat::{Flattened, Vertex, triangulated};
use super::{BodyError, Making, refused};
use crate::Flat;

/// How far outlines are moved, and how they lean.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Extrusion {
    /// How far against the normal, mm.
    pub below: f64,
    /// How far along it, mm.
    pub above: f64,
    /// The angle by which sides lean inward away from the plane, radians; below 0 outward. In the plane nothing moves.
    pub draft: f64,
}

/// A solid from outlines. Faces: 0 below, 1 above, then one for each side ([`Vertex::side`]), and with a draft to both sides another
/// for each above.
///
/// # Errors
/// [`BodyError`] where a draft makes outlines cross before the end.
pub fn extrude(flat: &Flattened, plane: &PlaneFrame, extrusion: &Extrusion) -> Result<Mesh, BodyError> {
    let Extrusion { below, above, draft } = *extrusion;
    if has_no_height(below, above) {
        return Err(refused("it has no height", vec![]));
    }
    let lean = draft.tan();
    // Both sides lean from the plane, so there is a ring in it.
    let between = lean != 0.0 && below > 0.0 && above > 0.0;
    let heights: Vec<f64> = [-below].into_iter().chain(between.then_some(0.0)).chain([above]).collect();
    let sides = flat.vertices().map(|v| v.side as u32 + 1).max().unwrap_or(0);
    let mut making = Making::default();
    let mut rings: Vec<Vec<u32>> = Vec::new();
    let mut caps = Vec::new();
    for height in &heights {
        let inward = height.abs() * lean;
        let (outlines, triangles) = moved(flat, inward).ok_or_else(|| too_steep(flat, inward))?;
        let at = |p: &Flat| plane.lift(p.to_array()) + plane.normal * *height;
        rings.push(outlines.iter().flatten().map(|p| making.point(at(p))).collect());
        caps.push(triangles);
    }
    for (level, pair) in rings.windows(2).enumerate() {
        let mut from = 0;
        for outline in &flat.outlines {
            for (k, vertex) in outline.iter().enumerate() {
                let (i, j) = (from + k, from + (k + 1) % outline.len());
                let face = 2 + vertex.side as u32 + level as u32 * sides;
                making.quad([pair[0][i], pair[0][j], pair[1][j], pair[1][i]], face);
            }
            from += outline.len();
        }
    }
    let (first, last) = (&rings[0], &rings[rings.len() - 1]);
    for t in &caps[0] {
        let [a, b, c] = t.map(|i| first[i]);
        making.triangle([a, c, b], 0);
    }
    for t in &caps[caps.len() - 1] {
        making.triangle(t.map(|i| last[i]), 1);
    }
    making.mesh()
}

fn has_no_height(below: f64, above: f64) -> bool {
    let height = below + above;
    height.is_nan() || height <= 0.0
}

/// Outlines and the triangles between them.
pub(super) type Moved = (Vec<Vec<Flat>>, Vec<[usize; 3]>);

/// The outlines moved inward, or none where they do not stay what they are.
pub(super) fn moved(flat: &Flattened, by: f64) -> Option<Moved> {
    if by == 0.0 {
        let outlines = flat.outlines.iter().map(|o| o.iter().map(|v| v.at).collect()).collect();
        return Some((outlines, flat.triangles.clone()));
    }
    let mut outlines: Vec<Vec<Vertex>> = Vec::new();
    for outline in &flat.outlines {
        let places: Option<Vec<Flat>> = outline.iter().map(|v| inward(v, by)).collect();
        let places = places?;
        let n = outline.len();
        let keeps = |k: usize| (places[(k + 1) % n] - places[k]).dot(outline[(k + 1) % n].at - outline[k].at) > 0.0;
        if !(0..n).all(keeps) {
            return None;
        }
        outlines.push(outline.iter().zip(&places).map(|(v, at)| Vertex { at: *at, ..*v }).collect());
    }
    let triangles = triangulated(&outlines).ok()?;
    Some((outlines.into_iter().map(|o| o.into_iter().map(|v| v.at).collect()).collect(), triangles))
}

/// Where a vertex goes when both sides at it are moved inward, each kept at that distance from where it was.
fn inward(vertex: &Vertex, by: f64) -> Option<Flat> {
    /// Directions that differ by less, as a sine, are one.
    const SMOOTH: f64 = 1e-6;
    /// A tip sharper than this, as the cosine of half its turn, would go to infinity.
    const SHARPEST: f64 = 1e-3;
    let (n, m) = (vertex.comes.perp(), vertex.leaves.perp());
    if n.perp_dot(m).abs() < SMOOTH && n.dot(m) > 0.0 {
        return Some(vertex.at + m * by);
    }
    let half = (n + m) * 0.5;
    if half.length() < SHARPEST {
        return None;
    }
    let mut place = vertex.at + half * (by / half.length_squared());
    // Distances from the moved sides, taken as circles that bend as they do.
    for _ in 0..32 {
        let [(f, df), (g, dg)] = [(n, vertex.bends[0]), (m, vertex.bends[1])].map(|(normal, bend)| {
            if bend.abs() * by.abs() < 1e-9 {
                return ((place - vertex.at).dot(normal) - by, normal);
            }
            let off = vertex.at + normal / bend - place;
            let far = off.length();
            (bend.signum() * (1.0 / bend.abs() - far) - by, off / far * bend.signum())
        });
        let turn = df.perp_dot(dg);
        let step = Flat::new(f * dg.y - g * df.y, g * df.x - f * dg.x) / turn;
        if !step.is_finite() {
            return None;
        }
        place -= step;
        if step.length() < 1e-13 * (1.0 + place.length()) {
            return Some(place);
        }
    }
    None
}

fn too_steep(flat: &Flattened, by: f64) -> BodyError {
    let (mut low, mut high) = (0.0, by);
    for _ in 0..24 {
        let middle = (low + high) * 0.5;
        if moved(flat, middle).is_some() {
            low = middle;
        } else {
            high = middle;
        }
    }
    // Where it goes wrong first: the side that turns over, or the places that come together.
    let places = flat.outlines.iter().flat_map(|o| {
        let places: Vec<Flat> = o.iter().map(|v| inward(v, high).unwrap_or(v.at)).collect();
        let n = o.len();
        let turned = move |k: &usize| (places[(*k + 1) % n] - places[*k]).dot(o[(*k + 1) % n].at - o[*k].at) <= 0.0;
        (0..n).find(turned).map(|k| (o[k].at + o[(k + 1) % n].at) * 0.5)
    });
    let places: Vec<Flat> = places.take(1).collect();
    let most = low.abs();
    refused(
        format!(
            "sides that lean so would meet before the end: at the end they stand {:.3} mm in, and {most:.3} mm is the most",
            by.abs()
        ),
        places,
    )
}

/// A sheet from a chain: its points, each with the curve of the side that begins there.
///
/// # Errors
/// [`BodyError`] where it has no height.
pub fn extrude_chain(
    points: &[(Flat, usize)],
    closed: bool,
    plane: &PlaneFrame,
    (below, above): (f64, f64),
) -> Result<Mesh, BodyError> {
    if has_no_height(below, above) {
        return Err(refused("it has no height", vec![]));
    }
    let mut making = Making::default();
    let mut ring = |height: f64| -> Vec<u32> {
        points.iter().map(|(p, _)| making.point(plane.lift(p.to_array()) + plane.normal * height)).collect()
    };
    let (low, high) = (ring(-below), ring(above));
    let n = points.len();
    for k in 0..if closed { n } else { n - 1 } {
        let j = (k + 1) % n;
        making.quad([low[k], low[j], high[j], high[k]], points[k].1 as u32);
    }
    making.mesh()
}
