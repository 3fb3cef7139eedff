//! How far one surface lies from another: a bound on the one-sided Hausdorff distance that holds, and the mean.
//!
//! Triangles that both surfaces have are passed over. Each other triangle is bounded from below by the distances of its
//! corners and middle, and from above by the least, over triangles near it, of the greatest corner distance: distance to a
//! convex set is convex, so on a triangle it is greatest at a corner. Where the two bounds differ too much it is cut
//! in two (after Guthe, Borodin and Klein 2005); what lies over triangles that are near enough is cut out first, so that
//! surfaces that are only cut up in another way cost no more than their triangles. Cost: triangles that differ · log, in parallel.

mod polygons;

use std::collections::HashMap;
use std::ops::ControlFlow;
use std::sync::atomic::{AtomicU64, Ordering};

use rayon::prelude::*;

pub(crate) use polygons::area_of;
use polygons::{cut_by_prism, fan, farthest_from_corners, halves, height_of, longest_side};

use crate::compare::{Compared, Side};
use crate::segments::{nearest_on_triangle, triangles_apart};
use crate::{Aabb, Bvh, Cancelled, Mesh, Point, Progress};

/// How much above the true value the bound may lie, as a share.
const SLACK: f64 = 0.01;
/// Deviations below this share of the part's diagonal are rounding, to the grid of an arrangement or to single precision: cutting
/// goes no further for them.
const NOTHING: f64 = 1e-7;
/// Cutting a triangle this often leaves pieces of a four-thousandth of its size; the bound is taken as it is then.
const DEEPEST: u32 = 24;
/// Triangles between two looks at the progress handle.
const CHUNK: usize = 1024;

/// How far a surface lies from another at most and on average.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Deviation {
    /// No point of the surface lies farther off than this, mm; at most [`SLACK`] above the true value.
    pub largest: f64,
    /// The mean over the area, mm.
    pub mean: f64,
    /// Where it is largest.
    pub at: Point,
    /// Triangles the other surface does not have, corner for corner.
    pub differ: usize,
}

/// How far the surface of `mesh` lies from that of `other`.
///
/// # Errors
/// [`Cancelled`].
pub fn deviation(mesh: &Mesh, other: &Mesh, progress: &Progress) -> Result<Deviation, Cancelled> {
    of_side(Compared::new(mesh, other, progress)?.earlier(), progress)
}

/// How far the later of two surfaces lies from the earlier, and the earlier from the later.
///
/// # Errors
/// [`Cancelled`].
pub fn deviations(surfaces: &Compared<'_>, progress: &Progress) -> Result<(Deviation, Deviation), Cancelled> {
    let there = of_side(surfaces.later(), &progress.stage(0.0, 0.5))?;
    let back = of_side(surfaces.earlier(), &progress.stage(0.5, 1.0))?;
    Ok((there, back))
}

fn of_side(side: Side<'_>, progress: &Progress) -> Result<Deviation, Cancelled> {
    let Side { mesh, differ, other, .. } = side;
    progress.check()?;
    let at = mesh.points().first().copied().unwrap_or(Point::ZERO);
    let nothing = Deviation { largest: 0.0, mean: 0.0, at, differ: differ.len() };
    if differ.is_empty() || other.triangles().is_empty() {
        return Ok(nothing);
    }
    let search = Search::new(other, side.other_bvh());
    // The distances of all corners first: what is no farther than the farthest of them need not be looked at closely.
    let mut touched = vec![false; mesh.points().len()];
    differ.iter().flat_map(|&t| mesh.triangles()[t as usize]).for_each(|p| touched[p as usize] = true);
    let near: Vec<Near> = (mesh.points().par_iter().zip(&touched))
        .map(|(p, touched)| {
            progress.check()?;
            Ok(if *touched { search.nearest(*p) } else { (0, 0.0) })
        })
        .collect::<Result<_, Cancelled>>()?;
    let farthest = near.iter().fold(0.0, |m: f64, n| m.max(n.1));
    search.least.fetch_max(farthest.to_bits(), Ordering::Relaxed);
    search.look_within(mesh, differ, progress)?;
    let found: Result<Vec<(f64, f64, Point)>, Cancelled> = differ
        .par_chunks(CHUNK)
        .map(|chunk| {
            let (mut largest, mut weighted, mut at) = (0.0f64, 0.0, Point::ZERO);
            for &t in chunk {
                progress.check()?;
                let known = mesh.triangles()[t as usize].map(|c| near[c as usize]);
                let (bound, integral, place) = search.triangle(mesh.corners(t as usize), known, DEEPEST);
                weighted += integral;
                if bound > largest {
                    (largest, at) = (bound, place);
                }
            }
            Ok((largest, weighted, at))
        })
        .collect();
    let area: f64 = (0..mesh.triangles().len()).map(|t| mesh.area_vector(t).length() * 0.5).sum();
    let total = found?.into_iter().fold((nothing, 0.0), |(best, sum), (largest, weighted, at)| {
        let best = if largest > best.largest { Deviation { largest, at, ..best } } else { best };
        (best, sum + weighted)
    });
    Ok(Deviation { mean: total.1 / area.max(f64::MIN_POSITIVE), ..total.0 })
}

/// The surface with its distance from another at each point, for drawing: triangles the other does not have are divided until
/// no side is longer than `spacing`, mm, or there are `most` of them. Distances are exact at the points.
///
/// # Errors
/// [`Cancelled`].
pub fn spread(
    mesh: &Mesh,
    other: &Mesh,
    spacing: f64,
    most: usize,
    progress: &Progress,
) -> Result<(Mesh, Vec<f64>), Cancelled> {
    let mut differs = vec![false; mesh.triangles().len()];
    let surfaces = Compared::new(mesh, other, progress)?;
    surfaces.gone().iter().for_each(|t| differs[*t as usize] = true);
    let (fine, touched) = divided(mesh, &|t| differs[t], &|_, longest| longest <= spacing, most);
    let points = fine.points();
    progress.check()?;
    let bvh = crate::crossings::triangle_bvh(other);
    let reach = bvh.bounds().union(Aabb::of(points.iter().copied())).diagonal() * 2.0;
    let off = points.par_iter().zip(&touched).map(|(p, touched)| {
        progress.check()?;
        let distance = |t: u32| Some((nearest_on_triangle(*p, other.corners(t as usize)) - *p).length_squared());
        Ok(if *touched { bvh.nearest(*p, reach, distance).map_or(reach, |(_, d)| d) } else { 0.0 })
    });
    let off = off.collect::<Result<Vec<f64>, Cancelled>>()?;
    Ok((fine, off))
}

/// The mesh with some triangles divided at their longest sides until they are `fine`, given their corners and that side's
/// length, or there are `most` of them. Also tells which points belong to those.
pub(crate) fn divided(
    mesh: &Mesh,
    which: &dyn Fn(usize) -> bool,
    fine: &dyn Fn([Point; 3], f64) -> bool,
    most: usize,
) -> (Mesh, Vec<bool>) {
    let (mut points, triangles, faces) = mesh.clone().into_parts();
    let (mut out, mut out_faces) = (Vec::with_capacity(triangles.len()), Vec::with_capacity(triangles.len()));
    let mut middles: HashMap<(u32, u32), u32> = HashMap::new();
    let mut touched = vec![false; points.len()];
    let mut waiting: Vec<([u32; 3], usize)> = Vec::new();
    for (t, corners) in triangles.iter().enumerate() {
        if which(t) {
            corners.iter().for_each(|c| touched[*c as usize] = true);
            waiting.push((*corners, t));
        } else {
            out.push(*corners);
            out_faces.push(faces[t]);
        }
    }
    while let Some((corners, t)) = waiting.pop() {
        let place = |i: u32| points[i as usize];
        let longest = (0..3).max_by(|&i, &j| {
            let side = |k: usize| place(corners[k]).distance_squared(place(corners[(k + 1) % 3]));
            side(i).total_cmp(&side(j))
        });
        let k = longest.unwrap_or(0);
        let (a, b, c) = (corners[k], corners[(k + 1) % 3], corners[(k + 2) % 3]);
        if fine(corners.map(place), place(a).distance(place(b))) || out.len() + waiting.len() >= most {
            out.push(corners);
            out_faces.push(faces[t]);
            continue;
        }
        let middle = *middles.entry((a.min(b), a.max(b))).or_insert_with(|| {
            points.push(points[a as usize].midpoint(points[b as usize]));
            touched.push(true);
            points.len() as u32 - 1
        });
        waiting.extend([([a, middle, c], t), ([middle, b, c], t)]);
    }
    (Mesh::new(points, out, out_faces).unwrap_or_default(), touched)
}

/// A triangle of the other surface nearest to a point, and how far off it is.
type Near = (u32, f64);

pub(crate) struct Search<'a> {
    other: &'a Mesh,
    bvh: &'a Bvh,
    /// The greatest distance seen so far at any point, as bits: what no piece below can change needs no cutting.
    least: AtomicU64,
    nothing: f64,
}

impl<'a> Search<'a> {
    pub fn new(other: &'a Mesh, bvh: &'a Bvh) -> Self {
        Self { other, bvh, least: AtomicU64::new(0), nothing: bvh.bounds().diagonal() * NOTHING }
    }

    /// Looks at places within large triangles, spread evenly: the farther one is found early, the less need be cut.
    fn look_within(&self, mesh: &Mesh, some: &[u32], progress: &Progress) -> Result<(), Cancelled> {
        /// About so many places, a small share of all that are looked at later.
        const PLACES: f64 = 2e4;
        let area: f64 = some.iter().map(|t| area_of(mesh.corners(*t as usize))).sum();
        let each = area / PLACES;
        some.par_iter().try_for_each(|t| {
            let mut waiting = vec![mesh.corners(*t as usize)];
            while let Some(piece) = waiting.pop() {
                if area_of(piece) > each {
                    progress.check()?;
                    let middle = piece.iter().sum::<Point>() / 3.0;
                    self.least.fetch_max(self.nearest(middle).1.to_bits(), Ordering::Relaxed);
                    waiting.extend(halves(piece));
                }
            }
            Ok(())
        })
    }

    /// Cuts off what of a triangle lies farther than a distance from the surface, as triangles. Along the border of that, pieces
    /// are no longer than a few distances or have less than an area, and count by their middle.
    pub fn farther(&self, corners: [Point; 3], distance: f64, crumb: f64, out: &mut Vec<[Point; 3]>) {
        self.farther_within((corners, None), (distance, crumb), DEEPEST, out);
    }

    /// As [`Search::farther`], of a piece of a triangle; what is nearest to its corners may be known.
    fn farther_within(
        &self,
        (corners, known): ([Point; 3], Option<[Near; 3]>),
        (distance, crumb): (f64, f64),
        depth: u32,
        out: &mut Vec<[Point; 3]>,
    ) {
        /// Pieces along the border are no longer than so many distances.
        const SHORT: f64 = 4.0;
        let middle = corners.iter().sum::<Point>() / 3.0;
        let round = corners.iter().map(|c| c.distance(middle)).fold(0.0, f64::max);
        let (under, off) = self.nearest(middle);
        if off - round > distance {
            out.push(corners);
            return;
        }
        if off + round <= distance || self.farthest(&corners, under) <= distance {
            return;
        }
        if off > distance && self.all_beyond(corners, distance) {
            out.push(corners);
            return;
        }
        let near = known.unwrap_or_else(|| corners.map(|p| self.nearest(p)));
        if near.iter().any(|n| self.farthest(&corners, n.0) <= distance) {
            return;
        }
        let longest = (0..3).map(|k| corners[k].distance(corners[(k + 1) % 3])).fold(0.0, f64::max);
        if depth == 0 || longest <= distance * SHORT || area_of(corners) <= crumb {
            if off > distance {
                out.push(corners);
            }
            return;
        }
        if depth == DEEPEST
            && let Some(beyond) = self.beyond(corners, distance, &|height, _| height <= distance)
        {
            for piece in beyond.pieces.into_iter().filter(|t| height_of(*t) > self.nothing) {
                self.farther_within((piece, None), (distance, crumb), depth - 1, out);
            }
            return;
        }
        for (half, known) in self.halves(corners, near) {
            self.farther_within((half, Some(known)), (distance, crumb), depth - 1, out);
        }
    }

    /// A triangle in two, with what is nearest to the corners.
    fn halves(&self, corners: [Point; 3], near: [Near; 3]) -> [([Point; 3], [Near; 3]); 2] {
        let (at, [one, other]) = (longest_side(corners), halves(corners));
        let [a, b, c] = [0, 1, 2].map(|j| near[(at + j) % 3]);
        let half = self.nearest(one[1]);
        [(one, [a, half, c]), (other, [half, b, c])]
    }

    /// Whether all of a triangle lies farther off than a distance.
    fn all_beyond(&self, corners: [Point; 3], distance: f64) -> bool {
        let near = |t: u32| triangles_apart(corners, self.other.corners(t as usize)).0 <= distance;
        let look = |t: u32| if near(t) { ControlFlow::Break(()) } else { ControlFlow::Continue(()) };
        self.bvh.overlapping(&Aabb::of(corners).grown(distance), look).is_continue()
    }

    /// An upper bound on the distance, its integral over the triangle, and the farthest point seen; what is nearest to its corners
    /// is known.
    fn triangle(&self, corners: [Point; 3], known: [Near; 3], depth: u32) -> (f64, f64, Point) {
        let middle = corners.iter().sum::<Point>() / 3.0;
        let points = [corners[0], corners[1], corners[2], middle];
        let near = [known[0], known[1], known[2], self.nearest(middle)];
        let far = (0..4).max_by(|&i, &j| near[i].1.total_cmp(&near[j].1)).unwrap_or(0);
        let area = area_of(corners);
        // Exact for what is of the second degree.
        let integral = ((near[0].1 + near[1].1 + near[2].1) / 12.0 + near[3].1 * 0.75) * area;
        let lower = near[far].1;
        self.least.fetch_max(lower.to_bits(), Ordering::Relaxed);
        let enough = || (f64::from_bits(self.least.load(Ordering::Relaxed)) * (1.0 + SLACK)).max(self.nothing);
        let by_triangles = near.iter().map(|n| self.farthest(&corners, n.0)).fold(f64::INFINITY, f64::min);
        // It grows by no more than the way one goes.
        let by_points = (0..3).map(|k| {
            let (i, j) = (k, (k + 1) % 3);
            near[i].1.max(near[j].1).max(near[3].1) + farthest_from_corners([points[i], points[j], middle])
        });
        let upper = by_triangles.min(by_points.fold(0.0, f64::max)).max(lower);
        if depth == 0 || upper <= enough() {
            return (upper, integral, points[far]);
        }
        let mut pieces: Vec<([Point; 3], [Near; 3])> = Vec::new();
        let (mut worst, mut at, mut sum) = (0.0f64, points[far], 0.0);
        // What lies over triangles that are near enough is bounded at once, however they are cut; only the rest is looked at
        // again. What is farther off than anything before may truly be so.
        let seen = |height: f64, p: Point| {
            height <= enough() || {
                self.least.fetch_max(self.nearest(p).1.to_bits(), Ordering::Relaxed);
                height <= enough()
            }
        };
        match if depth == DEEPEST { self.beyond(corners, enough(), &seen) } else { None } {
            Some(beyond) => {
                (worst, at) = beyond.worst;
                sum = integral * (1.0 - beyond.pieces.iter().map(|t| area_of(*t)).sum::<f64>() / area);
                let some = beyond.pieces.into_iter().filter(|t| height_of(*t) > self.nothing);
                pieces.extend(some.map(|piece| (piece, piece.map(|p| self.nearest(p)))));
            }
            None => {
                pieces.extend(self.halves(corners, [near[0], near[1], near[2]]));
            }
        }
        for (piece, known) in pieces {
            let (bound, integral, place) = self.triangle(piece, known, depth - 1);
            sum += integral;
            if bound > worst {
                (worst, at) = (bound, place);
            }
        }
        (worst, sum, at)
    }

    /// What is left of a triangle without all that lies over triangles whose planes are `near` enough to it: there the distance
    /// is at most that from the plane, which is greatest at a corner. `None` if that would be no gain, or too many triangles.
    fn beyond(&self, corners: [Point; 3], reach: f64, near: &dyn Fn(f64, Point) -> bool) -> Option<Beyond> {
        /// More triangles than this over one are left to the cutting in two.
        const MOST: usize = 2000;
        /// A triangle this small against what is near enough is soon cut small enough.
        const SMALL: f64 = 16.0;
        /// Of triangles that stand askew to it only so many are tried: on a curved surface the few beside it do.
        const FEW: usize = 64;
        /// Cutting less than this share off is no gain.
        const GAIN: f64 = 0.5;
        /// So many cuts cost some hundredths of a second; what needs more comes out sooner in halves.
        const CUTS: usize = 100_000;
        let longest = (0..3).map(|k| corners[k].distance(corners[(k + 1) % 3])).fold(0.0, f64::max);
        if longest <= reach * SMALL {
            return None;
        }
        let flat = |t: u32| {
            let [a, b, c] = self.other.corners(t as usize);
            let normal = (b - a).cross(c - a).normalize_or_zero();
            normal != Point::ZERO && corners.iter().all(|p| (*p - a).dot(normal).abs() <= reach)
        };
        let (mut over, mut askew) = (Vec::new(), Vec::new());
        let _ = self.bvh.overlapping(&Aabb::of(corners).grown(reach), |t| {
            if flat(t) {
                over.push(t);
            } else if askew.len() <= FEW {
                askew.push(t);
            }
            if over.len() > MOST { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
        });
        if askew.len() <= FEW {
            over.append(&mut askew);
        }
        if over.is_empty() || over.len() > MOST {
            return None;
        }
        let mut rest = vec![corners.to_vec()];
        let (mut worst, mut cuts) = ((0.0, corners[0]), 0);
        for t in over {
            let prism = self.other.corners(t as usize);
            let normal = (prism[1] - prism[0]).cross(prism[2] - prism[0]).normalize_or_zero();
            if normal == Point::ZERO {
                continue;
            }
            let height = |p: &Point| (*p - prism[0]).dot(normal).abs();
            let round = Aabb::of(prism).grown(reach);
            rest = rest
                .into_iter()
                .flat_map(|polygon| {
                    if !Aabb::of(polygon.iter().copied()).overlaps(&round) {
                        return vec![polygon];
                    }
                    cuts += 1;
                    let (inside, rest) = cut_by_prism(&polygon, prism);
                    let highest = inside.iter().map(|p| (height(p), *p)).max_by(|a, b| a.0.total_cmp(&b.0));
                    match highest {
                        Some((high, at)) if near(high, at) => {
                            if high > worst.0 {
                                worst = (high, at);
                            }
                            rest
                        }
                        _ => vec![polygon],
                    }
                })
                .collect();
            if cuts > CUTS {
                return None;
            }
            if rest.is_empty() {
                break;
            }
        }
        let pieces: Vec<[Point; 3]> = rest.iter().flat_map(|polygon| fan(polygon)).collect();
        let left: f64 = pieces.iter().map(|t| area_of(*t)).sum();
        (left < area_of(corners) * (1.0 - GAIN)).then_some(Beyond { pieces, worst })
    }

    /// The greatest distance of the points from a triangle: a bound for all that lies between them.
    fn farthest(&self, points: &[Point], t: u32) -> f64 {
        points.iter().map(|p| self.off(*p, t)).fold(0.0, f64::max)
    }

    fn off(&self, p: Point, t: u32) -> f64 {
        (nearest_on_triangle(p, self.other.corners(t as usize)) - p).length()
    }

    /// The nearest triangle of the other surface and the distance to it.
    fn nearest(&self, p: Point) -> Near {
        let reach = self.bvh.bounds().diagonal() + (self.bvh.bounds().centre() - p).length();
        let distance = |t: u32| Some((nearest_on_triangle(p, self.other.corners(t as usize)) - p).length_squared());
        self.bvh.nearest(p, reach * 2.0, distance).unwrap_or((0, reach))
    }
}

/// What of a triangle does not lie over near triangles; and how far off the rest is at most, and where.
struct Beyond {
    pieces: Vec<[Point; 3]>,
    worst: (f64, Point),
}

#[cfg(test)]
mod tests;
