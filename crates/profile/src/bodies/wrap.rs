//! Outlines laid onto a surface, as a body that follows it.

use nimbet_kernel::{Mesh, Point};
use rustc_hash::FxHashMap;

use super::extrude::moved;
use super::flat::Flattened;
use super::{BodyError, Making, refused};
use crate::Flat;

/// How outlines are laid onto a surface.
#[derive(Clone, Copy, Debug)]
pub struct Wrapping {
    /// From which height over the surface to which, mm; the outlines are true at nought.
    pub heights: [f64; 2],
    /// By how much sides lean inward for each mm away from the surface, to the upper end; below 0 to the lower one.
    pub lean: f64,
    /// Nothing longer than this runs straight, mm.
    pub step: f64,
}

/// A body of outlines laid onto a surface; `onto` says where a place of the plane goes at a height. Faces: 0 below, 1 above, then one for
/// each curve.
///
/// # Errors
/// [`BodyError`] where leaning sides meet before the end.
pub fn wrapped(flat: &Flattened, how: &Wrapping, onto: &dyn Fn(Flat, f64) -> Point) -> Result<Mesh, BodyError> {
    let flat = if how.step.is_finite() { flat.divided(how.step)? } else { flat.clone() };
    let curves: Vec<usize> = flat.vertices().map(|v| v.curve).collect();
    let mut making = Making::default();
    let mut rings = Vec::new();
    for (level, height) in how.heights.into_iter().enumerate() {
        let inward = how.lean * height;
        let (outlines, triangles) = moved(&flat, inward).ok_or_else(|| {
            refused("sides that lean so would meet before the end; a smaller draft or depth does", vec![])
        })?;
        let places: Vec<Flat> = outlines.concat();
        let (places, triangles) = refined(places, triangles, how.step);
        let names: Vec<u32> = places.iter().map(|p| making.point(onto(*p, height))).collect();
        for t in triangles {
            let [a, b, c] = t.map(|i| names[i]);
            making.triangle(if level == 0 { [a, c, b] } else { [a, b, c] }, level as u32);
        }
        rings.push(names);
    }
    let mut from = 0;
    for outline in &flat.outlines {
        for k in 0..outline.len() {
            let (i, j) = (from + k, from + (k + 1) % outline.len());
            making.quad([rings[0][i], rings[0][j], rings[1][j], rings[1][i]], 2 + curves[i] as u32);
        }
        from += outline.len();
    }
    making.mesh()
}

/// Triangles divided until none of their sides is longer than a step. Sides are cut in their middles, so those of neighbours agree.
fn refined(mut places: Vec<Flat>, mut triangles: Vec<[usize; 3]>, step: f64) -> (Vec<Flat>, Vec<[usize; 3]>) {
    /// A side is halved so often at most.
    const ROUNDS: usize = 16;
    // Sides of the outlines are short already; rounding does not make them long.
    let step = step * (1.0 + 1e-9);
    for _ in 0..ROUNDS {
        let mut middles: FxHashMap<(usize, usize), usize> = FxHashMap::default();
        let mut new = Vec::with_capacity(triangles.len());
        let mut cut = |places: &mut Vec<Flat>, a: usize, b: usize| {
            if places[a].distance(places[b]) <= step {
                return None;
            }
            let middle = places[a].midpoint(places[b]);
            Some(*middles.entry((a.min(b), a.max(b))).or_insert_with(|| {
                places.push(middle);
                places.len() - 1
            }))
        };
        for t in &triangles {
            let [a, b, c] = *t;
            let cuts = [cut(&mut places, a, b), cut(&mut places, b, c), cut(&mut places, c, a)];
            divide(*t, cuts, &places, &mut new);
        }
        let done = new.len() == triangles.len();
        triangles = new;
        if done {
            break;
        }
    }
    (places, triangles)
}

/// A triangle with some of its sides cut.
fn divide(t: [usize; 3], cuts: [Option<usize>; 3], places: &[Flat], into: &mut Vec<[usize; 3]>) {
    let turned = |k: usize| (t[k], t[(k + 1) % 3], t[(k + 2) % 3]);
    match cuts {
        [None, None, None] => into.push(t),
        [Some(p), Some(q), Some(r)] => {
            let [a, b, c] = t;
            into.extend([[a, p, r], [p, b, q], [r, q, c], [p, q, r]]);
        }
        _ => {
            let some = (0..3).filter(|k| cuts[*k].is_some()).count();
            if some == 1 {
                let k = (0..3).find(|k| cuts[*k].is_some()).unwrap_or(0);
                let ((a, b, c), p) = (turned(k), cuts[k].unwrap_or(t[k]));
                into.extend([[a, p, c], [p, b, c]]);
                return;
            }
            // Two sides are cut: their common corner comes off, and the rest over its shorter diagonal.
            let k = (0..3).find(|k| cuts[(*k + 1) % 3].is_none()).unwrap_or(0);
            let ((a, b, c), p, r) = (turned(k), cuts[k].unwrap_or(t[k]), cuts[(k + 2) % 3].unwrap_or(t[k]));
            into.push([a, p, r]);
            if places[p].distance(places[c]) <= places[b].distance(places[r]) {
                into.extend([[p, b, c], [p, c, r]]);
            } else {
                into.extend([[p, b, r], [b, c, r]]);
            }
        }
    }
}
