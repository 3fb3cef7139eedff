//! Runs: stretches of a rim between picked points, and putting points on rims.

use std::collections::BTreeMap;

use nimbet_kernel::rims::Rim;
use nimbet_kernel::segments::nearest_on_segment;
use nimbet_kernel::topology::ends;
use nimbet_kernel::{Aabb, Bvh, Mesh, Point, Topology};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::loops::against;
use crate::TradeError;
use crate::words::Xyz;

/// A stretch of a rim.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[schemars(extend("asks" = "run"))]
pub struct RunPick {
    /// Where it begins, mm. A point within an edge divides the edge.
    pub from: Xyz,
    /// Where it ends, mm.
    pub to: Xyz,
    /// A point on the way, mm: from one point of a rim to another there are two ways.
    pub through: Xyz,
}

/// A picked point lies on a rim when it is no farther from it than this share of the part.
const CLOSE: f64 = 1e-3;
/// A picked point this near to a point of the rim, as a share of the edge, means that point.
const SNAP: f64 = 1e-3;

/// Puts points on naked edges, dividing edges where needed; gives the number of each. Nothing moves.
pub(super) fn put_on_rims(mesh: &Mesh, places: &[Xyz]) -> Result<(Mesh, Vec<u32>), TradeError> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let halves = topology.naked_halves();
    let edge = |h: u32| [topology.ends(h).0, topology.ends(h).1].map(|i| mesh.points()[i as usize]);
    let bvh = Bvh::new(halves.iter().map(|&h| Aabb::of(edge(h))).collect());
    let reach = Aabb::of(mesh.points().iter().copied()).diagonal() * CLOSE;
    // By edge: where along it, and which of the places.
    let mut within: BTreeMap<u32, Vec<(f64, usize)>> = BTreeMap::new();
    let mut ids = vec![0u32; places.len()];
    for (n, place) in places.iter().enumerate() {
        let p = Point::from_array(*place);
        let distance = |k: u32| {
            let [a, b] = edge(halves[k as usize]);
            Some(nearest_on_segment(p, a, b).1)
        };
        let Some((k, _)) = bvh.nearest(p, reach, distance) else {
            return Err(TradeError::NeedsNewPick { what: "the rim at the picked point".into(), place: p });
        };
        let half = halves[k as usize];
        let [a, b] = edge(half);
        let along = nearest_on_segment(p, a, b).0;
        match along {
            t if t <= SNAP => ids[n] = topology.ends(half).0,
            t if t >= 1.0 - SNAP => ids[n] = topology.ends(half).1,
            t => within.entry(half).or_default().push((t, n)),
        }
    }
    if within.is_empty() {
        return Ok((mesh.clone(), ids));
    }
    let (mut points, mut triangles, mut faces) = mesh.clone().into_parts();
    let mut gone = vec![false; triangles.len()];
    let mut by_triangle: BTreeMap<u32, Vec<(u32, Vec<u32>)>> = BTreeMap::new();
    for (half, mut list) in within {
        list.sort_by(|x, y| x.0.total_cmp(&y.0));
        let [a, b] = edge(half);
        let mut new: Vec<(f64, u32)> = Vec::new();
        for (t, n) in list {
            match new.last() {
                Some((last, id)) if t - last <= SNAP => ids[n] = *id,
                _ => {
                    new.push((t, points.len() as u32));
                    ids[n] = points.len() as u32;
                    points.push(a.lerp(b, t));
                }
            }
        }
        by_triangle.entry(half / 3).or_default().push((half % 3, new.into_iter().map(|x| x.1).collect()));
    }
    for (t, sides) in by_triangle {
        gone[t as usize] = true;
        let corners = mesh.triangles()[t as usize];
        // The corners with the new points between them, from a corner whose two sides are not both divided.
        let new_on = |k: u32| sides.iter().find(|s| s.0 == k % 3).map_or(&[] as &[u32], |s| &s.1);
        for new in divide(corners, [new_on(0), new_on(1), new_on(2)]) {
            triangles.push(new);
            faces.push(mesh.face_of()[t as usize]);
        }
    }
    gone.resize(triangles.len(), false);
    let mesh = Mesh::new(points, triangles, faces)?.retain_triangles(|t| !gone[t]);
    // Points keep their numbers: every one is still in use, as before or by a divided triangle.
    Ok((mesh, ids))
}

/// A triangle with new points on its sides, cut into triangles without new points inside.
fn divide(corners: [u32; 3], on: [&[u32]; 3]) -> Vec<[u32; 3]> {
    let mut out = Vec::new();
    let [a, b, c] = corners;
    // Fan from c over side ab; the last and first piece carry the new points of the other sides.
    let base: Vec<u32> = std::iter::once(a).chain(on[0].iter().copied()).chain([b]).collect();
    if base.len() == 2 {
        return match (on[1].is_empty(), on[2].is_empty()) {
            (true, true) => vec![corners],
            _ => divide([b, c, a], [on[1], on[2], on[0]]),
        };
    }
    for k in 0..base.len() - 1 {
        let (first, last) = (k == 0, k + 2 == base.len());
        let bc: &[u32] = if last { on[1] } else { &[] };
        let ca: &[u32] = if first { on[2] } else { &[] };
        let piece = [base[k], base[k + 1], c];
        if bc.is_empty() && ca.is_empty() {
            out.push(piece);
        } else {
            out.extend(divide([piece[1], piece[2], piece[0]], [bc, ca, &[]]));
        }
    }
    out
}

/// A closed rim cut at points of it into runs, in the direction in which covers run against its triangles. Each run has its
/// first and its last point.
pub(super) fn runs_between(mesh: &Mesh, rim: &Rim, at: &[u32]) -> Vec<Vec<u32>> {
    let ring = against(mesh.triangles(), rim);
    let n = ring.len();
    let cuts: Vec<usize> = (0..n).filter(|&k| at.contains(&ring[k])).collect();
    (0..cuts.len())
        .map(|c| {
            let (from, to) = (cuts[c], cuts[(c + 1) % cuts.len()]);
            let steps = if to > from { to - from } else { to + n - from };
            (0..=steps).map(|s| ring[(from + s) % n]).collect()
        })
        .collect()
}

/// The squared distance of a place from a run.
pub(super) fn distance_from_run(mesh: &Mesh, run: &[u32], place: Point) -> f64 {
    let at = |i: u32| mesh.points()[i as usize];
    run.windows(2).map(|w| nearest_on_segment(place, at(w[0]), at(w[1])).1).fold(f64::INFINITY, f64::min)
}

/// Which of the halves at a rim point lead out of the surface: the unit vectors in the surface, square to the rim, that point
/// away from the triangles at it.
pub(super) fn outward(mesh: &Mesh, rim: &Rim) -> BTreeMap<u32, Point> {
    let mut sum: BTreeMap<u32, Point> = BTreeMap::new();
    for &half in &rim.halves {
        let (a, b) = ends(mesh.triangles(), half);
        let along = mesh.points()[b as usize] - mesh.points()[a as usize];
        let out = along.cross(mesh.area_vector(half as usize / 3)).normalize_or_zero();
        *sum.entry(a).or_default() += out;
        *sum.entry(b).or_default() += out;
    }
    sum.into_iter().map(|(p, v)| (p, v.normalize_or_zero())).collect()
}
