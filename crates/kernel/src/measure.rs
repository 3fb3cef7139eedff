//! Volume, area, centroid and inertia by the divergence theorem.
//!
//! Sums are taken about the middle of the bounding box, so they do not depend on where the part lies, in chunks of a
//! fixed size added in a fixed order with Neumaier's compensation, so they do not depend on the number of threads.

use rayon::prelude::*;

use crate::{Aabb, Mesh, Point};

/// Triangles summed by one thread at a time.
const CHUNK: usize = 16 * 1024;
/// Triangles added plainly before the compensated sum takes them: so few lose nothing that counts, and most of the compensation is saved.
/// Divides [`CHUNK`].
const RUN: usize = 32;

/// What a surface weighs at density 1. Volume, centroid and inertia mean something only for a closed, oriented surface.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Measure {
    /// Surface area, mm².
    pub area: f64,
    /// Signed volume, mm³: positive when the triangles face outward.
    pub volume: f64,
    /// Centre of mass, mm; the middle of the bounding box when the volume is zero.
    pub centroid: Point,
    /// Inertia about the centroid at density 1, mm⁵: xx, yy, zz, xy, yz, zx (products with their negative sign).
    pub inertia: [f64; 6],
    /// The bounding box of the triangles.
    pub bounds: Aabb,
}

impl Measure {
    /// The axes about which the solid turns freely, each with the inertia about it at density 1, mm⁵; the least first.
    pub fn principal(&self) -> [(Point, f64); 3] {
        let [xx, yy, zz, xy, yz, zx] = self.inertia;
        let tensor = nalgebra::Matrix3::new(xx, xy, zx, xy, yy, yz, zx, yz, zz);
        let found = tensor.symmetric_eigen();
        let mut axes = [0, 1, 2].map(|n| {
            let way = found.eigenvectors.column(n);
            (Point::new(way[0], way[1], way[2]), found.eigenvalues[n])
        });
        axes.sort_by(|a, b| a.1.total_cmp(&b.1));
        axes
    }
}

/// Measures all triangles of `mesh`.
pub fn measure(mesh: &Mesh) -> Measure {
    sum_up(mesh.triangles().len(), |n| mesh.corners(n))
}

/// Measures some triangles of `mesh`.
pub fn measure_triangles(mesh: &Mesh, triangles: &[u32]) -> Measure {
    sum_up(triangles.len(), |n| mesh.corners(triangles[n] as usize))
}

fn sum_up(count: usize, corners: impl Fn(usize) -> [Point; 3] + Sync) -> Measure {
    let chunks: Vec<usize> = (0..count).step_by(CHUNK).collect();
    let ends = |from: usize| from..(from + CHUNK).min(count);
    let bounds =
        chunks.par_iter().map(|&from| Aabb::of(ends(from).flat_map(&corners))).reduce(|| Aabb::EMPTY, Aabb::union);
    if count == 0 {
        let bounds = Aabb { min: Point::ZERO, max: Point::ZERO };
        return Measure { area: 0.0, volume: 0.0, centroid: Point::ZERO, inertia: [0.0; 6], bounds };
    }
    let origin = bounds.centre();
    let partial: Vec<[f64; TERMS]> = chunks
        .par_iter()
        .map(|&from| {
            let mut sums = [Neumaier::default(); TERMS];
            for run in ends(from).step_by(RUN) {
                let mut plain = [0.0; TERMS];
                for n in run..(run + RUN).min(count) {
                    let terms = terms(corners(n).map(|p| p - origin));
                    plain.iter_mut().zip(terms).for_each(|(sum, term)| *sum += term);
                }
                sums.iter_mut().zip(plain).for_each(|(sum, term)| sum.add(term));
            }
            sums.map(|s| s.total())
        })
        .collect();
    let mut sums = [Neumaier::default(); TERMS];
    for row in &partial {
        sums.iter_mut().zip(row).for_each(|(sum, &term)| sum.add(term));
    }
    let mut divisors = DIVISORS.into_iter();
    let [area, volume, mx, my, mz, xx, yy, zz, xy, yz, zx] = sums.map(|s| s.total() / divisors.next().unwrap_or(1.0));
    let shift = if volume == 0.0 { Point::ZERO } else { Point::new(mx, my, mz) / volume };
    // Second moments about the centroid (parallel axes), then the inertia tensor.
    let (xx, yy, zz) =
        (xx - volume * shift.x * shift.x, yy - volume * shift.y * shift.y, zz - volume * shift.z * shift.z);
    let (xy, yz, zx) =
        (xy - volume * shift.x * shift.y, yz - volume * shift.y * shift.z, zx - volume * shift.z * shift.x);
    Measure { area, volume, centroid: origin + shift, inertia: [yy + zz, zz + xx, xx + yy, -xy, -yz, -zx], bounds }
}

/// Area, volume, three first and six second moments.
const TERMS: usize = 11;

/// The share of one triangle, joined to the origin as a tetrahedron, before division by [`DIVISORS`]: so the sums of whole
/// numbers are exact.
fn terms([a, b, c]: [Point; 3]) -> [f64; TERMS] {
    let normal = (b - a).cross(c - a);
    let det = a.dot(b.cross(c));
    let s = a + b + c;
    let second = |i: usize, j: usize| det * (s[i] * s[j] + a[i] * a[j] + b[i] * b[j] + c[i] * c[j]);
    [
        normal.length(),
        det,
        det * s.x,
        det * s.y,
        det * s.z,
        second(0, 0),
        second(1, 1),
        second(2, 2),
        second(0, 1),
        second(1, 2),
        second(2, 0),
    ]
}

/// What each summed term is to be divided by.
const DIVISORS: [f64; TERMS] = [2.0, 6.0, 24.0, 24.0, 24.0, 120.0, 120.0, 120.0, 120.0, 120.0, 120.0];

/// A sum that keeps what rounding loses (Neumaier 1974).
#[derive(Clone, Copy, Default)]
struct Neumaier {
    sum: f64,
    lost: f64,
}

impl Neumaier {
    fn add(&mut self, x: f64) {
        let t = self.sum + x;
        self.lost += if self.sum.abs() >= x.abs() { (self.sum - t) + x } else { (x - t) + self.sum };
        self.sum = t;
    }

    fn total(self) -> f64 {
        self.sum + self.lost
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn block(x: f64, y: f64, z: f64) -> Mesh {
        crate::shapes::block(Point::ZERO, Point::new(x, y, z))
    }

    #[test]
    fn a_block_has_the_figures_of_the_textbook() {
        let m = measure(&block(2.0, 3.0, 5.0));
        assert_eq!(m.volume, 30.0);
        assert_eq!(m.area, 62.0);
        assert_eq!(m.centroid, Point::new(1.0, 1.5, 2.5));
        let expected = [30.0 / 12.0 * 34.0, 30.0 / 12.0 * 29.0, 30.0 / 12.0 * 13.0, 0.0, 0.0, 0.0];
        for (got, want) in m.inertia.iter().zip(expected) {
            assert!((got - want).abs() < 1e-12, "{got} is not {want}");
        }
    }

    #[test]
    fn a_turned_block_turns_freely_about_its_own_axes() {
        let turn = glam::DQuat::from_axis_angle(Point::new(1.0, -2.0, 0.5).normalize(), 0.8);
        let turned = block(2.0, 3.0, 5.0).map_points(|p| turn * p + Point::new(7.0, -40.0, 3.0)).unwrap();
        // The longest side first: about it there is the least inertia.
        let sides = [(Point::Z, 13.0), (Point::Y, 29.0), (Point::X, 34.0)];
        for ((way, inertia), (side, squares)) in measure(&turned).principal().into_iter().zip(sides) {
            assert!((inertia - 30.0 / 12.0 * squares).abs() < 1e-9, "{inertia}");
            assert!((way.dot(turn * side).abs() - 1.0).abs() < 1e-9, "{way}");
        }
        // Where all are the same, any three square to each other are.
        let even = measure(&block(2.0, 2.0, 2.0)).principal();
        assert!(even[0].0.cross(even[1].0).dot(even[2].0).abs() > 1.0 - 1e-9);
    }

    /// A ball of radius 9, drawn out and bent so that nothing of it is even.
    fn lopsided((a, b): (f64, f64)) -> Mesh {
        let bent = |p: Point| Point::new(p.x * a + 0.02 * p.y * p.y, p.y * b, p.z + 0.3 * p.x);
        crate::shapes::ball(9.0, 12).map_points(bent).unwrap()
    }

    proptest! {
        #[test]
        fn figures_do_not_depend_on_where_the_part_lies(
            angle in 0.0f64..6.0, axis in (-1.0f64..1.0, -1.0f64..1.0, 0.1f64..1.0),
            way in (-1.0f64..1.0, -1.0f64..1.0, -1.0f64..1.0), far in 0i32..7, stretch in (0.2f64..1.0, 0.2f64..1.0),
        ) {
            let far = Point::new(way.0, way.1, way.2) * 10f64.powi(far);
            let turn = glam::DQuat::from_axis_angle(Point::new(axis.0, axis.1, axis.2).normalize(), angle);
            let part = lopsided(stretch);
            let still = measure(&part);
            let moved = measure(&part.map_points(|p| turn * p + far).unwrap());
            // As far out as this the corners themselves can be put no better than so, by rounding alone.
            let rounded = (far.abs().max_element() + 10.0) * f64::EPSILON;
            let near = |a: f64, b: f64, rounding: f64| (a - b).abs() <= 1e-12 * a.abs() + rounding;
            prop_assert!(near(still.volume, moved.volume, rounded * still.area));
            prop_assert!(near(still.area, moved.area, rounded * still.area));
            let expected = turn * still.centroid + far;
            prop_assert!((expected - moved.centroid).length() <= 1e-12 * 9.0 + 4.0 * rounded);
            let trace = |i: [f64; 6]| i[0] + i[1] + i[2];
            prop_assert!(near(trace(still.inertia), trace(moved.inertia), rounded * still.area * 4.0 * 81.0));
        }

        #[test]
        fn far_out_on_the_grid_figures_are_the_same_to_the_last_digits(
            x in -40_000_000i64..40_000_000, y in -40_000_000i64..40_000_000, z in -40_000_000i64..40_000_000,
        ) {
            const GRID: f64 = 1.0 / (1 << 20) as f64;
            let on_grid = |p: Point| (p / GRID).round() * GRID;
            let part = lopsided((0.7, 1.0)).map_points(on_grid).unwrap();
            let by = Point::new(x as f64, y as f64, z as f64) * (1.0 / 1024.0);
            let (still, moved) = (measure(&part), measure(&part.map_points(|p| p + by).unwrap()));
            let near = |a: f64, b: f64| (a - b).abs() <= 1e-12 * a.abs();
            prop_assert!(near(still.volume, moved.volume) && near(still.area, moved.area));
            prop_assert!(still.inertia[..3].iter().zip(moved.inertia).all(|(a, b)| near(*a, b)));
        }
    }
}
