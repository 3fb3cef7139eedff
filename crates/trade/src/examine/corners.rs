//! How far the corners of naked edges lie from their nearest counterparts.

use std::collections::HashMap;

use nimbet_kernel::topology::Topology;
use nimbet_kernel::{Aabb, Bvh, Cancelled, Mesh, Progress};
use rayon::prelude::*;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::is_degenerate;

/// How far the nearest counterparts of naked corners are, beside the lengths of edges.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct CornerHistogram {
    /// Corners on naked edges.
    pub corners: usize,
    /// Bands of distance, each twice as wide as the one before, ascending.
    pub bins: Vec<CornerBin>,
    /// The shortest edge, mm.
    pub shortest_edge: f64,
    /// Within what corners are best merged, mm: in the empty band between noise and edges; absent where there is none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub suggested: Option<f64>,
}

/// One band of distance.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct CornerBin {
    /// From, mm.
    pub from: f64,
    /// To, mm.
    pub to: f64,
    /// Corners whose nearest counterpart is so far.
    pub corners: usize,
    /// Edges of that length.
    pub edges: usize,
}

/// For each point whether a naked edge ends at it.
pub(crate) fn naked_points(mesh: &Mesh, topology: &Topology<'_>) -> Vec<bool> {
    let mut naked = vec![false; mesh.points().len()];
    for half in topology.naked_halves() {
        let (a, b) = topology.ends(half);
        naked[a as usize] = true;
        naked[b as usize] = true;
    }
    naked
}

/// How far the nearest counterparts of the naked corners of a part are; none where it has none.
///
/// # Errors
/// [`Cancelled`].
pub fn corner_histogram(
    mesh: &Mesh,
    topology: &Topology<'_>,
    progress: &Progress,
) -> Result<Option<CornerHistogram>, Cancelled> {
    /// Farther than this share of the diagonal nobody would merge.
    const FARTHEST: f64 = 0.05;
    let naked = naked_points(mesh, topology);
    let ids: Vec<u32> = (0..naked.len() as u32).filter(|p| naked[*p as usize]).collect();
    if ids.is_empty() {
        return Ok(None);
    }
    let mut beside: HashMap<u32, Vec<u32>> = HashMap::with_capacity(ids.len());
    let mut edges: Vec<f64> = Vec::new();
    for (t, corners) in mesh.triangles().iter().enumerate() {
        let places = mesh.corners(t);
        for k in 0..3 {
            let (a, b) = (corners[k], corners[(k + 1) % 3]);
            if naked[a as usize] && naked[b as usize] {
                beside.entry(a).or_default().push(b);
                beside.entry(b).or_default().push(a);
                if !is_degenerate(places) {
                    edges.push(places[k].distance(places[(k + 1) % 3]));
                }
            }
        }
    }
    let at = |n: u32| mesh.points()[ids[n as usize] as usize];
    let bvh = Bvh::new((0..ids.len() as u32).map(|n| Aabb::of([at(n)])).collect());
    let reach = bvh.bounds().diagonal() * FARTHEST;
    let nearest: Vec<Option<f64>> = (0..ids.len() as u32)
        .into_par_iter()
        .map(|n| {
            progress.check()?;
            let own = beside.get(&ids[n as usize]);
            let other = |m: u32| {
                let skip = m == n || own.is_some_and(|own| own.contains(&ids[m as usize]));
                (!skip).then(|| at(m).distance_squared(at(n)))
            };
            Ok(bvh.nearest(at(n), reach, other).map(|(_, d)| d))
        })
        .collect::<Result<_, Cancelled>>()?;
    let mut found: Vec<f64> = nearest.into_iter().flatten().filter(|d| *d > 0.0).collect();
    found.sort_by(f64::total_cmp);
    edges.sort_by(f64::total_cmp);
    let shortest_edge = edges.first().copied().unwrap_or(0.0);
    let suggested = suggested(&found, shortest_edge, ids.len());
    Ok(Some(CornerHistogram { corners: ids.len(), bins: bins(&found, &edges), shortest_edge, suggested }))
}

/// A distance in the widest empty band between where most corners have their counterparts and the shortest edge.
fn suggested(nearest: &[f64], shortest_edge: f64, corners: usize) -> Option<f64> {
    /// The band must be so many times as wide as what lies below.
    const BAND: f64 = 4.0;
    /// The noise of a corner's counterparts reaches about so far beyond the nearest of them.
    const SPREAD: f64 = 4.0;
    /// So far below the band's upper end the distance stays.
    const CLEAR: f64 = 0.7;
    /// The share of the naked corners that must have a counterpart below the band.
    const MOST: f64 = 0.5;
    let below: Vec<f64> = nearest.iter().copied().filter(|d| *d < shortest_edge).collect();
    let ends = below.iter().copied().skip(1).chain([shortest_edge]);
    let least = (corners as f64 * MOST).ceil() as usize;
    let (n, low, high) = below
        .iter()
        .copied()
        .zip(ends)
        .enumerate()
        .filter(|(n, _)| n + 1 >= least)
        .map(|(n, (low, high))| (n, low, high))
        .max_by(|a, b| (a.2 / a.1).total_cmp(&(b.2 / b.1)))?;
    let clear = (low * SPREAD).min(high * CLEAR);
    // Two digits are as fine as anybody chooses it.
    (high >= BAND * low && n + 1 >= least).then(|| format!("{clear:.1e}").parse().unwrap_or(clear))
}

/// Bands of distance over what was measured, each twice as wide as the one before.
fn bins(nearest: &[f64], edges: &[f64]) -> Vec<CornerBin> {
    /// More bands than this would be too narrow to draw.
    const MOST: i32 = 40;
    let all = [nearest.first(), edges.first(), nearest.last(), edges.last()];
    let some = || all.iter().flatten().copied().copied().filter(|x| *x > 0.0);
    let (Some(least), Some(most)) = (some().reduce(f64::min), some().reduce(f64::max)) else { return vec![] };
    let last = most.log2().floor() as i32;
    let first = (least.log2().floor() as i32).max(last - MOST + 1);
    let among =
        |list: &[f64], from: f64, to: f64| list.partition_point(|x| *x < to) - list.partition_point(|x| *x < from);
    (first..=last)
        .map(|k| {
            let (from, to) = (f64::from(k).exp2(), f64::from(k + 1).exp2());
            // What is nearer than the first band counts there.
            let begin = if k == first { 0.0 } else { from };
            CornerBin { from, to, corners: among(nearest, begin, to), edges: among(edges, begin, to) }
        })
        .collect()
}
