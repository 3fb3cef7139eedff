//! A domed cover of a long rim: swollen over some of its points, the others are then joined to it.
//!
//! A cover as fine as such a rim would have a hundred thousand points and be no better: a dome is smooth. Where the surface
//! goes outside the rim is asked of the surface itself, one step away from each of the points taken.

use std::collections::HashMap;

use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::segments::nearest_on_triangle;
use nimbet_kernel::triangulate::{Patch, dome, least_area, taut_cover};
use nimbet_kernel::{Bvh, Mesh, Point, Progress};

use super::loops::{Work, to_height};
use crate::TradeError;

/// Longer rims are thinned to so many points.
pub(super) const LONGEST: usize = 240;
/// The most points inside.
const MOST_INNER: usize = 4_000;

/// The new points and the triangles of a domed cover of the loop `ids`; new points are counted on from the mesh's.
pub(super) fn dome_over_some(
    work: &Work,
    ids: &[u32],
    height: Option<f64>,
    progress: &Progress,
) -> Result<(Vec<Point>, Vec<[u32; 3]>), TradeError> {
    let places: Vec<Point> = ids.iter().map(|&i| work.points[i as usize]).collect();
    let keys = evenly(&places);
    let next = |k: usize| (k + 1) % keys.len();
    let coarse: Vec<Point> = keys.iter().map(|&k| places[k]).collect();
    let may_join = |i: usize, j: usize| {
        next(i) == j || next(j) == i || i >= keys.len() || j >= keys.len() || !work.has_side(ids[keys[i]], ids[keys[j]])
    };
    let mut patch = taut_cover(&[coarse], MOST_INNER, &may_join, progress)?;
    let taut = patch.points.clone();
    let beyond = outside(work, ids, &keys)?;
    let n = keys.len();
    let band: Vec<[u32; 3]> = (0..n)
        .flat_map(|k| [[next(k), k, n + k], [next(k), n + k, n + next(k)]])
        .map(|t| t.map(|i| i as u32))
        .collect();
    dome(&mut patch, &beyond, &band, &may_join, progress)?;
    if let Some(height) = height {
        to_height(&mut patch, &taut, height);
    }
    let triangles = put_back(work, ids, &keys, &patch, progress)?;
    Ok((patch.points.split_off(patch.rim), triangles))
}

/// Points of a closed loop at about equal steps along it, ascending.
fn evenly(places: &[Point]) -> Vec<usize> {
    let along: Vec<f64> = (0..places.len())
        .scan(0.0, |sum, k| {
            let here = *sum;
            *sum += places[k].distance(places[(k + 1) % places.len()]);
            Some(here)
        })
        .collect();
    let length = along[places.len() - 1] + places[places.len() - 1].distance(places[0]);
    // As many as every second, third … point would be, so that evenly spaced points stay so.
    let count = places.len() / places.len().div_ceil(LONGEST);
    let mut keys: Vec<usize> = (0..count)
        .map(|k| along.partition_point(|a| *a < length * (k as f64 - 0.01) / count as f64).min(places.len() - 1))
        .collect();
    keys.dedup();
    keys
}

/// For each key a point of the surface about one step outside the loop.
fn outside(work: &Work, ids: &[u32], keys: &[usize]) -> Result<Vec<Point>, TradeError> {
    let (n, m) = (ids.len(), keys.len());
    let place = |k: usize| work.points[ids[k % n] as usize];
    // Square to each edge of the loop, in its triangle, away from the loop.
    let away: Vec<Point> = (0..n)
        .map(|k| {
            let (a, b) = (ids[k], ids[(k + 1) % n]);
            let triangle = work.round(a).iter().find(|t| work.triangles[**t as usize].contains(&b));
            let far = triangle.and_then(|&t| work.triangles[t as usize].into_iter().find(|c| *c != a && *c != b));
            far.map_or(Point::ZERO, |c| {
                let (p, q) = (place(k), place(k + 1));
                (work.points[c as usize] - p).reject_from((q - p).normalize_or(Point::X)).normalize_or_zero()
            })
        })
        .collect();
    let mesh = Mesh::with_one_face(work.points.clone(), work.triangles.clone())?;
    let bvh: Bvh = triangle_bvh(&mesh);
    let steps = |i: usize| place(keys[i]).distance(place(keys[(i + 1) % m]));
    Ok((0..m)
        .map(|i| {
            let (before, here, after) = (keys[(i + m - 1) % m], keys[i], keys[(i + 1) % m]);
            let step = (steps(i) + steps((i + m - 1) % m)) * 0.5;
            let first = here + n - ((here + n - before) % n) / 2;
            let count = ((after + n - before) % n / 2).max(1);
            let direction = (first..first + count).map(|k| away[k % n]).sum::<Point>().normalize_or_zero();
            let tip = place(here) + direction * step;
            let off = |t: u32| Some(nearest_on_triangle(tip, mesh.corners(t as usize)).distance_squared(tip));
            let near = bvh.nearest(tip, step, off).map(|(t, _)| nearest_on_triangle(tip, mesh.corners(t as usize)));
            near.filter(|p| p.distance(place(here)) > step * 0.5).unwrap_or(tip)
        })
        .collect())
}

/// The triangles of a patch over some points of a loop, with the points in between joined to those along the loop.
fn put_back(
    work: &Work,
    ids: &[u32],
    keys: &[usize],
    patch: &Patch,
    progress: &Progress,
) -> Result<Vec<[u32; 3]>, TradeError> {
    let (n, m) = (ids.len(), keys.len());
    let offset = work.points.len() as u32;
    let name = |i: u32| if (i as usize) < m { ids[keys[i as usize]] } else { offset + i - m as u32 };
    let inner: HashMap<u32, Point> = (m..patch.points.len()).map(|i| (name(i as u32), patch.points[i])).collect();
    let place = |v: u32| inner.get(&v).copied().unwrap_or_else(|| work.points[v as usize]);
    let mut triangles = Vec::with_capacity(patch.triangles.len() + n);
    for t in &patch.triangles {
        let mut outline = Vec::new();
        for k in 0..3 {
            let (from, to) = (t[k] as usize, t[(k + 1) % 3] as usize);
            if from < m && to == (from + 1) % m {
                let steps = (keys[to] + n - keys[from]) % n;
                outline.extend((0..steps).map(|s| ids[(keys[from] + s) % n]));
            } else {
                outline.push(name(t[k]));
            }
        }
        if let &[a, b, c] = &outline[..] {
            triangles.push([a, b, c]);
            continue;
        }
        let places: Vec<Point> = outline.iter().map(|&v| place(v)).collect();
        let may_join = |i: usize, j: usize| !work.has_side(outline[i], outline[j]);
        let filled = least_area(&places, &may_join, progress)?;
        triangles.extend(filled.into_iter().map(|t| t.map(|i| outline[i as usize])));
    }
    Ok(triangles)
}
