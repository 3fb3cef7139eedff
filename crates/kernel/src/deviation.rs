//! How far one surface lies from another: a bound on the one-sided Hausdorff distance that holds, and the mean.
//!
//! Triangles that both surfaces have are passed over. Each other triangle is bounded from below by the distances of its
//! corners and middle, and from above by the least, over triangles near it, of the greatest corner distance: distance to a
//! convex set is convex, so on a triangle it is greatest at a corner. Where the two bounds differ too much it is cut in
//! four (after Guthe, Borodin and Klein 2005). Cost: triangles that differ · log, in parallel.

use std::collections::HashSet;
use std::sync::atomic::{AtomicU64, Ordering};

use rayon::prelude::*;

use crate::segments::nearest_on_triangle;
use crate::{Bvh, Cancelled, Mesh, Point, Progress};

/// How much above the true value the bound may lie, as a share.
const SLACK: f64 = 0.01;
/// Deviations below this share of the part's diagonal are rounding: cutting goes no further for them.
const NOTHING: f64 = 1e-9;
/// Cutting a triangle this often leaves pieces of a four-thousandth of its sides; the bound is taken as it is then.
const DEEPEST: u32 = 12;
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
}

/// How far the surface of `mesh` lies from that of `other`.
///
/// # Errors
/// [`Cancelled`].
pub fn deviation(mesh: &Mesh, other: &Mesh, progress: &Progress) -> Result<Deviation, Cancelled> {
    let key = |m: &Mesh, t: usize| {
        let mut k = m.corners(t).map(|p| (p + Point::ZERO).to_array().map(f64::to_bits));
        k.sort_unstable();
        k
    };
    let same: HashSet<_> = (0..other.triangles().len()).map(|t| key(other, t)).collect();
    let differ: Vec<usize> = (0..mesh.triangles().len()).filter(|&t| !same.contains(&key(mesh, t))).collect();
    let nothing = Deviation { largest: 0.0, mean: 0.0, at: mesh.points().first().copied().unwrap_or(Point::ZERO) };
    if differ.is_empty() || other.triangles().is_empty() {
        return Ok(nothing);
    }
    let bvh = crate::crossings::triangle_bvh(other);
    let search = Search { other, bvh: &bvh, least: AtomicU64::new(0), nothing: bvh.bounds().diagonal() * NOTHING };
    let chunks: Vec<&[usize]> = differ.chunks(CHUNK).collect();
    let found: Result<Vec<(f64, f64, Point)>, Cancelled> = chunks
        .into_par_iter()
        .map(|chunk| {
            let (mut largest, mut weighted, mut at) = (0.0f64, 0.0, Point::ZERO);
            for &t in chunk {
                progress.check()?;
                let (bound, mean, place) = search.triangle(mesh.corners(t), DEEPEST);
                weighted += mean * mesh.area_vector(t).length() * 0.5;
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

struct Search<'a> {
    other: &'a Mesh,
    bvh: &'a Bvh,
    /// The greatest distance seen so far at any point, as bits: what no piece below can change needs no cutting.
    least: AtomicU64,
    nothing: f64,
}

impl Search<'_> {
    /// An upper bound, the mean at the corners, and the farthest point seen.
    fn triangle(&self, corners: [Point; 3], depth: u32) -> (f64, f64, Point) {
        let middle = corners.iter().sum::<Point>() / 3.0;
        let points = [corners[0], corners[1], corners[2], middle];
        let near = points.map(|p| self.nearest(p));
        let far = (0..4).max_by(|&i, &j| near[i].1.total_cmp(&near[j].1)).unwrap_or(0);
        let mean = (near[0].1 + near[1].1 + near[2].1) / 3.0;
        let lower = near[far].1;
        self.least.fetch_max(lower.to_bits(), Ordering::Relaxed);
        let to = |t: u32| {
            let other = self.other.corners(t as usize);
            corners.iter().map(|&p| (nearest_on_triangle(p, other) - p).length()).fold(0.0, f64::max)
        };
        let upper = near.iter().map(|n| to(n.0)).fold(f64::INFINITY, f64::min).max(lower);
        let seen = f64::from_bits(self.least.load(Ordering::Relaxed));
        if depth == 0 || upper <= (seen * (1.0 + SLACK)).max(self.nothing) {
            return (upper, mean, points[far]);
        }
        let [a, b, c] = corners;
        let (ab, bc, ca) = (a.midpoint(b), b.midpoint(c), c.midpoint(a));
        let quarters = [[a, ab, ca], [ab, b, bc], [ca, bc, c], [ab, bc, ca]];
        let parts = quarters.map(|q| self.triangle(q, depth - 1));
        let mean = parts.iter().map(|p| p.1).sum::<f64>() / 4.0;
        let worst = parts.iter().max_by(|x, y| x.0.total_cmp(&y.0)).map_or((upper, points[far]), |p| (p.0, p.2));
        (worst.0, mean, worst.1)
    }

    /// The nearest triangle of the other surface and the distance to it.
    fn nearest(&self, p: Point) -> (u32, f64) {
        let reach = self.bvh.bounds().diagonal() + (self.bvh.bounds().centre() - p).length();
        let distance = |t: u32| Some((nearest_on_triangle(p, self.other.corners(t as usize)) - p).length_squared());
        self.bvh.nearest(p, reach * 2.0, distance).unwrap_or((0, reach))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;
    use proptest::prelude::*;

    fn off(a: &Mesh, b: &Mesh) -> Deviation {
        deviation(a, b, &Progress::unwatched()).unwrap()
    }

    #[test]
    fn a_shifted_block_is_off_by_the_shift_and_itself_by_nothing() {
        let block = shapes::block(Point::ZERO, Point::new(4.0, 5.0, 6.0));
        assert_eq!(off(&block, &block).largest, 0.0);
        let shifted = block.clone().map_points(|p| p + Point::X * 0.25).unwrap();
        let d = off(&shifted, &block);
        assert!(d.largest >= 0.25 && d.largest <= 0.25 * 1.011, "{d:?}");
        // Two sides of 30 mm² of 148 mm² stand off by the shift; the others slide along themselves but for a strip.
        assert!(d.mean > 0.25 * 30.0 / 148.0 && d.mean < 0.25, "{d:?}");
    }

    #[test]
    fn balls_of_two_radii_are_apart_by_the_difference_both_ways() {
        let (small, large) = (shapes::ball(10.0, 40), shapes::ball(10.5, 60));
        for d in [off(&small, &large), off(&large, &small)] {
            assert!((d.largest - 0.5).abs() < 0.03, "{d:?}");
            assert!((d.mean - 0.5).abs() < 0.03, "{d:?}");
            assert!((d.at.length() - 10.25).abs() < 0.3);
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]

        /// No point of the surface lies farther off than told: tried at many points, against every triangle.
        #[test]
        fn nothing_lies_farther_off_than_told(
            dents in proptest::collection::vec((0usize..200, -2.0f64..2.0), 1..12), coarse in 5usize..9,
        ) {
            let ball = shapes::ball(10.0, 9);
            let (mut points, triangles, faces) = ball.clone().into_parts();
            let n = points.len();
            for (at, by) in dents {
                let p = points[at % n];
                points[at % n] = p * (1.0 + by / 10.0);
            }
            let dented = Mesh::new(points, triangles, faces).unwrap();
            for (a, b) in [(&dented, &ball), (&ball, &dented), (&dented, &shapes::ball(10.0, coarse))] {
                let told = off(a, b);
                for t in 0..a.triangles().len() {
                    let [p, q, r] = a.corners(t);
                    for i in 0..=6 {
                        for j in 0..=6 - i {
                            let at = p + (q - p) * (f64::from(i) / 6.0) + (r - p) * (f64::from(j) / 6.0);
                            let least = (0..b.triangles().len())
                                .map(|u| (nearest_on_triangle(at, b.corners(u)) - at).length())
                                .fold(f64::INFINITY, f64::min);
                            prop_assert!(least <= told.largest + 1e-9, "{least} at {at}, told {}", told.largest);
                        }
                    }
                }
            }
        }
    }
}
