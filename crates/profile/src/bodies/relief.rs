//! Regions of one profile, each as high as asked: one body, stepped where they meet.

use std::collections::BTreeMap;

use nimbet_kernel::Mesh;
use nimbet_kernel::triangulate::PlaneFrame;
use rustc_hash::FxHashMap;

use super::flat::{Flattened, flatten_regions};
use super::{BodyError, Making, refused};
use crate::Flat;
use crate::network::Network;
use crate::region::Region;

/// A body whose regions reach from `below` the plane, mm, to their own heights above it; a region that is none of `heights`, or no
/// higher than the foot, is left out. Faces: 0 below, then one for each region by its place among `heights`, then one for each side ([`super::Vertex::side`]).
///
/// # Errors
/// [`BodyError`] where nothing is left, or lines run too near each other.
pub fn relief(
    network: &Network,
    regions: &[Region],
    heights: &[(usize, f64)],
    (below, chord): (f64, f64),
    plane: &PlaneFrame,
) -> Result<Mesh, BodyError> {
    let foot = -below;
    let there: Vec<(usize, f64)> = heights.iter().copied().filter(|(_, h)| *h > foot).collect();
    if there.is_empty() {
        return Err(refused("no region has a height above the foot", vec![]));
    }
    let flat = all_alike(network, regions, &there, chord)?;
    let mut ground = Ground::default();
    let mut sides: FxHashMap<(usize, usize), (f64, usize)> = FxHashMap::default();
    let mut tops = Vec::new();
    for (own, (_, height)) in flat.iter().zip(&there) {
        let named: Vec<usize> = own.vertices().map(|v| ground.name(v.at)).collect();
        tops.push(own.triangles.iter().map(|t| t.map(|i| named[i])).collect::<Vec<_>>());
        let mut from = 0;
        for outline in &own.outlines {
            for (k, vertex) in outline.iter().enumerate() {
                let (a, b) = (named[from + k], named[from + (k + 1) % outline.len()]);
                sides.insert((a, b), (*height, vertex.side));
            }
            from += outline.len();
        }
    }
    let levels = levels(&sides, foot);
    let mut making = Making::default();
    let mut put: FxHashMap<(usize, u64), u32> = FxHashMap::default();
    let places = &ground.places;
    let mut at = |making: &mut Making, p: usize, height: f64| {
        let place = || plane.lift(places[p].to_array()) + plane.normal * height;
        *put.entry((p, height.to_bits())).or_insert_with(|| making.point(place()))
    };
    let first = 1 + there.len() as u32;
    for (n, ((_, height), triangles)) in there.iter().zip(&tops).enumerate() {
        for t in triangles {
            let [a, b, c] = t.map(|p| at(&mut making, p, foot));
            making.triangle([a, c, b], 0);
            let top = t.map(|p| at(&mut making, p, *height));
            making.triangle(top, 1 + n as u32);
        }
    }
    let mut walls: Vec<(usize, usize)> = sides.keys().copied().collect();
    walls.sort_unstable();
    for (a, b) in walls {
        let (height, side) = sides[&(a, b)];
        let beside = sides.get(&(b, a)).map_or(foot, |s| s.0);
        if height <= beside {
            continue;
        }
        let up = |p: usize| levels[&p].iter().copied().filter(|h| *h >= beside && *h <= height);
        let left: Vec<u32> = up(a).map(|h| at(&mut making, a, h)).collect();
        let right: Vec<u32> = up(b).map(|h| at(&mut making, b, h)).collect();
        // Upward on both sides, whichever has more to go.
        let (mut i, mut j) = (0, 0);
        while i + 1 < left.len() || j + 1 < right.len() {
            let rises = j + 1 == right.len() || i + 1 < left.len() && i * right.len() <= j * left.len();
            if rises {
                making.triangle([left[i], right[j], left[i + 1]], first + side as u32);
                i += 1;
            } else {
                making.triangle([left[i], right[j], right[j + 1]], first + side as u32);
                j += 1;
            }
        }
    }
    making.mesh()
}

/// Walls meet in upright edges: those are cut at every height that something at them has.
fn levels(sides: &FxHashMap<(usize, usize), (f64, usize)>, foot: f64) -> BTreeMap<usize, Vec<f64>> {
    let mut levels: BTreeMap<usize, Vec<f64>> = BTreeMap::new();
    for (&(a, b), &(height, _)) in sides {
        for p in [a, b] {
            levels.entry(p).or_default().extend([height, foot]);
        }
    }
    for list in levels.values_mut() {
        list.sort_by(f64::total_cmp);
        list.dedup();
    }
    levels
}

/// Each region flattened by the same chord, so that they meet in the same points.
fn all_alike(
    network: &Network,
    regions: &[Region],
    there: &[(usize, f64)],
    mut chord: f64,
) -> Result<Vec<Flattened>, BodyError> {
    /// As many times a chord that makes lines cross is made finer, to a quarter each time.
    const TRIES: usize = 6;
    for n in 0..TRIES {
        let each = there.iter().map(|(r, _)| flatten_regions(network, regions, &[*r], chord));
        let flat = each.collect::<Result<Vec<_>, _>>()?;
        if flat.iter().all(|f| f.chord == chord) {
            return Ok(flat);
        }
        chord = flat.iter().map(|f| f.chord).fold(chord, f64::min);
        if n + 1 == TRIES {
            break;
        }
    }
    Err(refused("lines run nearer to each other than any chord tells apart", vec![]))
}

/// Places with one name each.
#[derive(Default)]
struct Ground {
    names: FxHashMap<(u64, u64), usize>,
    places: Vec<Flat>,
}

impl Ground {
    fn name(&mut self, at: Flat) -> usize {
        let places = &mut self.places;
        *self.names.entry((at.x.to_bits(), at.y.to_bits())).or_insert_with(|| {
            places.push(at);
            places.len() - 1
        })
    }
}
