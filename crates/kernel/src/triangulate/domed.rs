//! Swells a cover so that it continues the surface round its rim tangentially.
//!
//! The inner points are placed so that the mean curvature changes as evenly as it can over the cover (its Laplacian is zero)
//! while the rim and the triangles round it are held: curvature at the rim is measured over both sides, so a crease there
//! costs. After Schneider and Kobbelt 2001 (geometric fairing of irregular meshes), solved as a clamped bi-Laplacian with
//! the turning of the normals carried over from the round before; a sphere is a fixed point. Cost: a sparse factor each
//! round. Weak where the rim is so coarse that the surface round it turns by more than about 60°
//! from one triangle to the next.

use super::patch::{Patch, cotangent};
use crate::sparse::Factor;
use crate::{Aabb, Cancelled, Point, Progress};

/// Rounds of solving with new weights and normals. With these the opening of a sphere, 15° to 85° wide, is closed to within
/// 0.7 % of its radius (see the tests).
const ROUNDS: usize = 12;
/// A round that moves no point farther than this share of the cover's size is the last.
const SETTLED: f64 = 1e-4;
/// A round that moves a point so many times as far as the one before is not taken.
const PARTING: f64 = 2.0;
/// Cotangent weights are kept positive, so that the system has one solution.
const LEAST_WEIGHT: f64 = 1e-3;

/// Swells `patch`. `round` are the triangles outside that touch the rim, wound like the patch; they name rim points by
/// their number and other points by `patch.rim` plus their place in `beyond`.
///
/// # Errors
/// [`Cancelled`].
pub fn dome(
    patch: &mut Patch,
    beyond: &[Point],
    round: &[[u32; 3]],
    may_join: &dyn Fn(usize, usize) -> bool,
    progress: &Progress,
) -> Result<(), Cancelled> {
    if patch.points.len() == patch.rim {
        return Ok(());
    }
    let size = Aabb::of(patch.points.iter().copied()).diagonal();
    let mut last = size;
    for n in 0..ROUNDS {
        progress.report(n as f64 / ROUNDS as f64, "swelling the cover")?;
        let Some(solved) = System::new(patch, beyond, round).solve() else { return Ok(()) };
        let moved = patch.points[patch.rim..].iter().zip(&solved).map(|(a, b)| a.distance(*b)).fold(0.0, f64::max);
        // Where the rounds part instead of meeting, the last one before that is the best there is.
        if moved.is_nan() || moved > last * PARTING {
            return Ok(());
        }
        patch.points.truncate(patch.rim);
        patch.points.extend(solved);
        patch.make_delaunay(4, may_join);
        if moved < SETTLED * size {
            break;
        }
        last = moved;
    }
    Ok(())
}

/// The cover with what lies round it. Points: rim, inner, beyond.
struct System {
    points: Vec<Point>,
    /// Where the inner points begin and end.
    inner: std::ops::Range<usize>,
    /// Pairs of points with their weight.
    links: Vec<(u32, u32, f64)>,
    /// A third of the triangles round each point, mm².
    area: Vec<f64>,
    /// Unit normals.
    normal: Vec<Point>,
}

impl System {
    fn new(patch: &Patch, beyond: &[Point], round: &[[u32; 3]]) -> Self {
        let (rim, end) = (patch.rim, patch.points.len());
        let points: Vec<Point> = patch.points.iter().chain(beyond).copied().collect();
        let shift = |i: u32| if (i as usize) < rim { i } else { i + (end - rim) as u32 };
        let outside = round.iter().map(|t| t.map(shift));
        let mut system = Self {
            inner: rim..end,
            links: Vec::with_capacity((patch.triangles.len() + round.len()) * 3),
            area: vec![0.0; points.len()],
            normal: vec![Point::ZERO; points.len()],
            points,
        };
        for t in patch.triangles.iter().copied().chain(outside) {
            let p = t.map(|i| system.points[i as usize]);
            let vector = (p[1] - p[0]).cross(p[2] - p[0]);
            for k in 0..3 {
                let (i, j) = ((k + 1) % 3, (k + 2) % 3);
                let weight = (0.5 * cotangent(p[k], p[i], p[j])).max(LEAST_WEIGHT);
                system.links.push((t[i], t[j], weight));
                system.area[t[k] as usize] += vector.length() / 6.0;
                system.normal[t[k] as usize] += vector;
            }
        }
        for n in &mut system.normal {
            *n = n.normalize_or_zero();
        }
        system
    }

    /// The weighted sum of the differences to the neighbours, at every rim and inner point; zero beyond.
    fn differences(&self, x: &[Point]) -> Vec<Point> {
        let mut out = vec![Point::ZERO; x.len()];
        for &(a, b, w) in &self.links {
            let pull = (x[b as usize] - x[a as usize]) * w;
            out[a as usize] += pull;
            out[b as usize] -= pull;
        }
        out[self.inner.end..].fill(Point::ZERO);
        out
    }

    /// Differences of curvature vectors, at inner points only: the clamped bi-Laplacian.
    fn twice(&self, x: &[Point]) -> Vec<Point> {
        let mut curvature = self.differences(x);
        for (c, a) in curvature.iter_mut().zip(&self.area) {
            *c /= a.max(f64::MIN_POSITIVE);
        }
        let mut out = self.differences(&curvature);
        out[..self.inner.start].fill(Point::ZERO);
        out
    }

    /// The clamped bi-Laplacian as a matrix over the inner points, factored.
    fn factor(&self) -> Option<Factor> {
        let mut rows: Vec<Vec<(usize, f64)>> = vec![Vec::new(); self.inner.end];
        for &(a, b, w) in &self.links {
            for (from, to) in [(a as usize, b as usize), (b as usize, a as usize)] {
                if from < self.inner.end {
                    rows[from].extend([(to, w), (from, -w)]);
                }
            }
        }
        let mut entries = Vec::new();
        for (k, row) in rows.iter_mut().enumerate() {
            row.retain(|(i, _)| self.inner.contains(i));
            row.sort_by_key(|(i, _)| *i);
            let merged: Vec<(usize, f64)> =
                row.chunk_by(|a, b| a.0 == b.0).map(|run| (run[0].0, run.iter().map(|r| r.1).sum())).collect();
            let area = self.area[k].max(f64::MIN_POSITIVE);
            for &(i, x) in &merged {
                let each = merged.iter().map(|&(j, y)| (i - self.inner.start, j - self.inner.start, x * y / area));
                entries.extend(each);
            }
        }
        Factor::new(&self.points[self.inner.clone()], &entries)
    }

    /// Where the inner points should be.
    fn solve(&self) -> Option<Vec<Point>> {
        // How the differences of curvature vectors should be for the curvature itself to be even: what the normals' turning
        // alone makes of it.
        let curvature: Vec<f64> = (self.differences(&self.points).iter())
            .zip(&self.normal)
            .zip(&self.area)
            .map(|((d, n), a)| d.dot(*n) / a.max(f64::MIN_POSITIVE))
            .collect();
        let mut wanted = vec![Point::ZERO; self.points.len()];
        for &(a, b, w) in &self.links {
            let (a, b) = (a as usize, b as usize);
            let turn = (self.normal[b] - self.normal[a]) * w;
            wanted[a] += turn * curvature[b];
            wanted[b] -= turn * curvature[a];
        }
        let missing = self.twice(&self.points);
        let missing: Vec<Point> = self.inner.clone().map(|i| wanted[i] - missing[i]).collect();
        let moves = self.factor()?.solve(&missing);
        Some(self.inner.clone().zip(moves).map(|(i, m)| self.points[i] + m).collect())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::triangulate::taut_cover;
    use std::f64::consts::{PI, TAU};

    /// Covers the opening of a surface of revolution whose profile (radius, height) over a parameter is cut at `edge`; the
    /// triangles round the rim reach to `edge + step`.
    fn capped(profile: impl Fn(f64) -> (f64, f64), edge: f64, step: f64, round: usize) -> Patch {
        let at = |s: f64, k: f64| {
            let (r, z) = profile(s);
            let a = k / round as f64 * TAU;
            Point::new(r * a.cos(), r * a.sin(), z)
        };
        let rim: Vec<Point> = (0..round).map(|k| at(edge, k as f64)).collect();
        let beyond: Vec<Point> = (0..round).map(|k| at(edge + step, k as f64 + 0.5)).collect();
        let n = round as u32;
        let band = (0..n).flat_map(|k| {
            let next = (k + 1) % n;
            [[next, k, n + k], [next, n + k, n + next]]
        });
        let quiet = Progress::unwatched();
        let mut patch = taut_cover(&[rim], 20_000, &|_, _| true, &quiet).unwrap();
        dome(&mut patch, &beyond, &band.collect::<Vec<_>>(), &|_, _| true, &quiet).unwrap();
        patch
    }

    #[test]
    fn the_opening_of_a_sphere_is_closed_by_the_sphere() {
        for degrees in [15.0f64, 30.0, 50.0, 70.0, 85.0] {
            let edge = degrees.to_radians();
            let patch = capped(|s| (10.0 * s.sin(), 10.0 * s.cos()), edge, TAU / 60.0 * edge.sin(), 60);
            let off = patch.points.iter().map(|p| (p.length() - 10.0).abs()).fold(0.0, f64::max);
            assert!(off < 0.1, "{degrees}°: off the sphere by {off}");
        }
    }

    #[test]
    fn a_tube_is_closed_by_a_dome_that_begins_along_the_tube() {
        let patch = capped(|s| (5.0, -s), 0.0, 0.5, 60);
        let top = patch.points.iter().map(|p| p.z).fold(0.0, f64::max);
        assert!(top > 2.5 && top < 7.5, "{top}");
        // The first inner points stand nearly over the rim: the dome leaves along the tube.
        let lowest = patch.points[patch.rim..].iter().min_by(|a, b| a.z.total_cmp(&b.z)).unwrap();
        let lean = (5.0 - lowest.truncate().length()).atan2(lowest.z);
        assert!(lean < 20.0 * PI / 180.0, "leans in by {}°", lean.to_degrees());
    }
}
