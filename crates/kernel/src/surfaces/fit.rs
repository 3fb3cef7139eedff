//! Fits a surface of a given kind to triangles.
//!
//! Axes come from the normals: those of a cylinder lie in a plane, those of a cone on a circle, and the normals of any
//! surface turned about an axis meet it (a linear line complex, Pottmann and Randrup 1998). What is left is a line or circle
//! in the plane through the axis. Cylinders, cones and tori are then refined on the points, which lie on the surface while
//! triangles cut inside it. Cost: linear in the sample.

use nalgebra::{DMatrix, DVector, Matrix3, SMatrix, SymmetricEigen, Vector3};

use super::facets::Facets;
use super::refine::refine;
use super::{Kind, Surface, off_axis};
use crate::{Aabb, Mesh, Point};

/// The most points a fit looks at.
const MOST_POINTS: usize = 400;
/// A surface of a larger radius than so many extents of the sample is a plane with noise.
const LARGEST: f64 = 50.0;
/// Normals that differ by less than this (1 − cosine) count as one.
const SAME_NORMAL: f64 = 1e-6;

/// What of a mesh a surface is fitted to.
#[derive(Clone, Debug)]
pub struct Sample {
    /// Corners of the facets, each once, thinned evenly.
    pub points: Vec<Point>,
    /// Places on facets with the unit normal there and the area they speak for, thinned evenly.
    pub sides: Vec<(Point, Point, f64)>,
    /// The middles of edges between facets, of the same facets.
    ridges: Vec<Point>,
    centre: Point,
    extent: f64,
}

impl Sample {
    /// A sample of the given triangles.
    pub fn of(mesh: &Mesh, triangles: &[u32]) -> Self {
        let facets = Facets::of(mesh, triangles);
        Self::of_facets(&facets, &(0..facets.count() as u32).collect::<Vec<_>>())
    }

    /// A sample of some facets.
    pub fn of_facets(facets: &Facets, some: &[u32]) -> Self {
        let step = some.len().div_ceil(MOST_POINTS).max(1);
        let thinned = || some.iter().step_by(step);
        let mut points: Vec<[u64; 3]> =
            thinned().flat_map(|&f| facets.corners(f)).map(|p| p.to_array().map(f64::to_bits)).collect();
        points.sort_unstable();
        points.dedup();
        let place = |p: &[u64; 3]| Point::from_array(p.map(f64::from_bits));
        let points: Vec<Point> = points.iter().step_by(points.len().div_ceil(MOST_POINTS).max(1)).map(place).collect();
        let sides = thinned().filter(|f| facets.normal[**f as usize] != Point::ZERO).flat_map(|&f| sides(facets, f));
        let sides = sides.collect();
        let ridges = thinned().flat_map(|&f| facets.ridges(f)).collect();
        let bounds = Aabb::of(points.iter().copied());
        Self { ridges, centre: bounds.centre(), extent: bounds.diagonal().max(f64::MIN_POSITIVE), points, sides }
    }

    /// How many different normals there are, up to `enough`.
    fn different_normals(&self, enough: usize) -> usize {
        let mut seen: Vec<Point> = Vec::new();
        for (_, n, _) in &self.sides {
            if !seen.iter().any(|s| s.dot(*n) > 1.0 - SAME_NORMAL) {
                seen.push(*n);
                if seen.len() >= enough {
                    break;
                }
            }
        }
        seen.len()
    }

    /// How far the normals of the sample differ from a surface's: the mean of 1 − cosine, by area.
    pub(super) fn askew(&self, surface: &Surface) -> f64 {
        let area: f64 = self.sides.iter().map(|s| s.2).sum();
        let off = |(m, n, a): &(Point, Point, f64)| (1.0 - surface.normal(*m).dot(*n).abs()) * a;
        self.sides.iter().map(off).sum::<f64>() / area
    }

    /// The farthest any point of the sample stands off a surface.
    pub fn farthest(&self, surface: &Surface) -> f64 {
        // Where a few flat pieces bend only at their common edges, the corners they share may well lie in one plane: they must, too.
        let flat = matches!(surface, Surface::Plane { .. });
        let within = self.sides.iter().filter(|_| flat).map(|side| &side.0);
        self.points.iter().chain(within).map(|p| surface.distance(*p).abs()).fold(0.0, f64::max)
    }
}

/// Where the normal of a facet is compared with a surface's: in a triangle its middle; in what has more corners between that and
/// its sides, as a surface that bends over it may well have its normal in the middle.
fn sides(facets: &Facets, facet: u32) -> impl Iterator<Item = (Point, Point, f64)> {
    /// So many places of a facet are enough.
    const MOST: usize = 8;
    let corners = facets.corners(facet);
    let (middle, normal, area) =
        (facets.middle[facet as usize], facets.normal[facet as usize], facets.area[facet as usize]);
    let step = corners.len().div_ceil(MOST).max(1);
    let count = corners.len().div_ceil(step).max(1);
    (0..count).filter(move |k| corners.len() > 3 || *k == 0).map(move |k| {
        if corners.len() <= 3 {
            return (middle, normal, area);
        }
        let (a, b) = (corners[k * step], corners[(k * step + 1) % corners.len()]);
        ((middle + a + b) / 3.0, normal, area / count as f64)
    })
}

/// The surface all of the sample lies on within a tolerance, mm: the simplest, unless the normals or the edges between facets
/// clearly speak for another. (The corners of a turned strip lie on two circles, and so on a cone and on many spheres; its sides lie
/// along the cone, and the edges between them lie on it.)
pub fn best_fit(sample: &Sample, tolerance: f64) -> Option<Surface> {
    let on_ridges =
        |s: &Surface| !sample.ridges.is_empty() && sample.ridges.iter().all(|p| s.distance(*p).abs() <= tolerance);
    let mut best: Option<(Surface, f64)> = None;
    for kind in Kind::ALL {
        let Some(surface) = fit(kind, sample, tolerance).filter(|s| sample.farthest(s) <= tolerance) else { continue };
        let askew = sample.askew(&surface);
        let better = |(held, least): &(Surface, f64)| match (on_ridges(held), on_ridges(&surface)) {
            (false, true) => true,
            (true, false) => false,
            _ => speaks_for(askew, *least),
        };
        if best.as_ref().is_none_or(better) {
            best = Some((surface, askew));
        }
    }
    best.map(|(surface, _)| surface)
}

/// Whether normals that differ from one surface's by `askew` (mean of 1 − cosine) clearly speak against another's.
pub(super) fn speaks_for(askew: f64, other: f64) -> bool {
    /// Half the angle.
    const CLEARLY: f64 = 0.25;
    /// Two degrees: below that, rounding and the sag of triangles decide.
    const ENOUGH: f64 = 6e-4;
    other > ENOUGH && askew < other * CLEARLY
}

/// The surface of a kind that fits best; `None` where the sample does not tell one. Fits far better or far worse than the
/// tolerance, mm, are not refined.
pub fn fit(kind: Kind, sample: &Sample, tolerance: f64) -> Option<Surface> {
    // Scaled about the middle to unit size, so that one set of thresholds serves any part.
    let to = |p: Point| (p - sample.centre) / sample.extent;
    let points: Vec<Point> = sample.points.iter().map(|p| to(*p)).collect();
    let sides: Vec<(Point, Point, f64)> =
        sample.sides.iter().map(|&(m, n, a)| (to(m), n, a / (sample.extent * sample.extent))).collect();
    let least_normals = match kind {
        Kind::Plane => 1,
        Kind::Cylinder => 3,
        Kind::Sphere | Kind::Cone => 4,
        Kind::Torus => 6,
    };
    if points.len() < 3 || sample.different_normals(least_normals) < least_normals {
        return None;
    }
    if matches!(kind, Kind::Sphere | Kind::Cone | Kind::Torus) && extruded(&sides) {
        return None;
    }
    let unit = match kind {
        Kind::Plane => plane(&points, &sides),
        Kind::Cylinder => cylinder(&points, &sides, tolerance / sample.extent),
        Kind::Sphere => sphere(&points),
        Kind::Cone => cone(&points, &sides, tolerance / sample.extent),
        Kind::Torus => torus(&points, &sides, tolerance / sample.extent),
    }?;
    let from = |p: Point| p * sample.extent + sample.centre;
    let s = sample.extent;
    let surface = match unit {
        Surface::Plane { point, normal } => Surface::Plane { point: from(point), normal },
        Surface::Cylinder { point, axis, radius } => Surface::Cylinder { point: from(point), axis, radius: radius * s },
        Surface::Sphere { centre, radius } => Surface::Sphere { centre: from(centre), radius: radius * s },
        Surface::Cone { apex, axis, half_angle } => Surface::Cone { apex: from(apex), axis, half_angle },
        Surface::Torus { centre, axis, major, minor } => {
            Surface::Torus { centre: from(centre), axis, major: major * s, minor: minor * s }
        }
    };
    let finite = [0.31, 0.57].iter().all(|x| surface.distance(sample.centre + Point::splat(x * s)).is_finite());
    finite.then_some(surface)
}

/// Whether all normals are square to one direction: sides of a prism, however well their corners may lie on a ball, too.
fn extruded(sides: &[(Point, Point, f64)]) -> bool {
    /// The square of the angle, radians, by which they may lean: less than any draft.
    const LEAN: f64 = 1e-8;
    let area: f64 = sides.iter().map(|s| s.2).sum();
    least_direction(sides.iter().map(|s| (s.1, s.2))).is_some_and(|((least, _), _)| least < area * LEAN)
}

fn plane(points: &[Point], sides: &[(Point, Point, f64)]) -> Option<Surface> {
    let point = points.iter().sum::<Point>() / points.len() as f64;
    let (least, normal) = least_direction(points.iter().map(|p| (*p - point, 1.0)))?;
    let mean: Point = sides.iter().map(|(_, n, a)| *n * *a).sum();
    // Points on a line tell no plane, but their triangles do.
    let normal = if least.1 < 1e-9 { mean.normalize_or_zero() } else { normal };
    let normal = if normal.dot(mean) < 0.0 { -normal } else { normal };
    (normal != Point::ZERO).then_some(Surface::Plane { point, normal })
}

fn sphere(points: &[Point]) -> Option<Surface> {
    let rows = DMatrix::from_fn(points.len(), 4, |r, c| if c < 3 { 2.0 * points[r][c] } else { 1.0 });
    let right = DVector::from_fn(points.len(), |r, _| points[r].length_squared());
    let x = least_squares(&rows, &right)?;
    let centre = Point::new(x[0], x[1], x[2]);
    let radius = (x[3] + centre.length_squared()).sqrt();
    (radius > 0.0 && radius < LARGEST).then_some(Surface::Sphere { centre, radius })
}

fn cylinder(points: &[Point], sides: &[(Point, Point, f64)], tolerance: f64) -> Option<Surface> {
    let (_, axis) = least_direction(sides.iter().map(|(_, n, a)| (*n, *a)))?;
    let (u, v) = across(axis);
    let flat: Vec<[f64; 2]> = points.iter().map(|p| [p.dot(u), p.dot(v)]).collect();
    let (centre, radius) = circle(&flat)?;
    let begin = vec![u, v].into_iter().zip(centre).map(|(d, c)| d * c).sum::<Point>();
    let made = |x: &[f64]| Surface::Cylinder {
        point: u * x[0] + v * x[1],
        axis: (axis + u * x[2] + v * x[3]).normalize_or_zero(),
        radius: x[4],
    };
    let x = refined(vec![begin.dot(u), begin.dot(v), 0.0, 0.0, radius], made, points, tolerance);
    (x[4] > 0.0 && x[4] < LARGEST).then(|| made(&x))
}

fn cone(points: &[Point], sides: &[(Point, Point, f64)], tolerance: f64) -> Option<Surface> {
    let area: f64 = sides.iter().map(|s| s.2).sum();
    let mean = sides.iter().map(|(_, n, a)| *n * *a).sum::<Point>() / area;
    let (_, mut axis) = least_direction(sides.iter().map(|(_, n, a)| (*n - mean, *a)))?;
    // The planes of all triangles meet at the apex.
    let rows = DMatrix::from_fn(sides.len(), 3, |r, c| sides[r].1[c]);
    let right = DVector::from_fn(sides.len(), |r, _| sides[r].1.dot(sides[r].0));
    let x = least_squares(&rows, &right)?;
    let apex = Point::new(x[0], x[1], x[2]);
    let middle = points.iter().sum::<Point>() / points.len() as f64;
    if (middle - apex).dot(axis) < 0.0 {
        axis = -axis;
    }
    let (along, away) =
        points.iter().map(|p| off_axis(*p - apex, axis)).fold((0.0, 0.0), |(a, b), (x, y)| (a + x, b + y.length()));
    let (u, v) = across(axis);
    let made = |x: &[f64]| Surface::Cone {
        apex: Point::new(x[0], x[1], x[2]),
        axis: (axis + u * x[3] + v * x[4]).normalize_or_zero(),
        half_angle: x[5],
    };
    let begin = vec![apex.x, apex.y, apex.z, 0.0, 0.0, away.atan2(along)];
    let x = refined(begin, made, points, tolerance);
    // Steeper or flatter than this, and it is a cylinder or a plane with noise.
    const FLATTEST: f64 = 0.01;
    let fits = x[5] > FLATTEST
        && x[5] < std::f64::consts::FRAC_PI_2 - FLATTEST
        && Point::new(x[0], x[1], x[2]).length() < LARGEST;
    fits.then(|| made(&x))
}

fn torus(points: &[Point], sides: &[(Point, Point, f64)], tolerance: f64) -> Option<Surface> {
    // A normal through m along n meets the axis through c along a when (m × n)·a + n·(c × a) = 0.
    let mut square = SMatrix::<f64, 6, 6>::zeros();
    for (m, n, a) in sides {
        let moment = m.cross(*n);
        let row = SMatrix::<f64, 6, 1>::from_column_slice(&[moment.x, moment.y, moment.z, n.x, n.y, n.z]);
        square += row * row.transpose() * *a;
    }
    let eigen = SymmetricEigen::new(square);
    let least = (0..6).min_by(|&i, &j| eigen.eigenvalues[i].total_cmp(&eigen.eigenvalues[j]))?;
    let x = eigen.eigenvectors.column(least);
    let (a, b) = (Point::new(x[0], x[1], x[2]), Point::new(x[3], x[4], x[5]));
    let size = a.length();
    if size < 1e-6 {
        return None;
    }
    let (axis, moment) = (a / size, b / size);
    let on_axis = axis.cross(moment);
    let profile: Vec<[f64; 2]> =
        points.iter().map(|p| off_axis(*p - on_axis, axis)).map(|(along, away)| [away.length(), along]).collect();
    let ([major, height], minor) = circle(&profile)?;
    let (u, v) = across(axis);
    let made = |x: &[f64]| Surface::Torus {
        centre: Point::new(x[0], x[1], x[2]),
        axis: (axis + u * x[3] + v * x[4]).normalize_or_zero(),
        major: x[5],
        minor: x[6],
    };
    let centre = on_axis + axis * height;
    let x = refined(vec![centre.x, centre.y, centre.z, 0.0, 0.0, major, minor], made, points, tolerance);
    // Where the tube is as wide as the ring, it is no ring any more.
    (x[6] > 0.0 && x[5] > x[6] * 0.05 && x[5] < LARGEST && x[6] < LARGEST).then(|| made(&x))
}

/// The numbers of a surface, refined on the points where that can make a fit of it.
fn refined(numbers: Vec<f64>, made: impl Fn(&[f64]) -> Surface, points: &[Point], tolerance: f64) -> Vec<f64> {
    /// So much better than the tolerance is good enough …
    const GOOD: f64 = 0.01;
    /// … and so much worse is hopeless.
    const HOPELESS: f64 = 50.0;
    let distances = |x: &[f64]| -> Vec<f64> {
        let surface = made(x);
        points.iter().map(|p| surface.distance(*p)).collect()
    };
    let off = distances(&numbers).into_iter().map(f64::abs).fold(0.0, f64::max);
    if off > GOOD * tolerance && off < HOPELESS * tolerance { refine(numbers, distances) } else { numbers }
}

/// The direction in which weighted vectors reach least, with the least and the middle eigenvalue of their spread.
fn least_direction(vectors: impl Iterator<Item = (Point, f64)>) -> Option<((f64, f64), Point)> {
    let mut square = Matrix3::zeros();
    for (v, weight) in vectors {
        let v = Vector3::new(v.x, v.y, v.z);
        square += v * v.transpose() * weight;
    }
    let eigen = SymmetricEigen::try_new(square, 1e-15, 100)?;
    let mut order = [0, 1, 2];
    order.sort_by(|&i, &j| eigen.eigenvalues[i].total_cmp(&eigen.eigenvalues[j]));
    let v = eigen.eigenvectors.column(order[0]);
    let direction = Point::new(v[0], v[1], v[2]).normalize_or_zero();
    Some(((eigen.eigenvalues[order[0]], eigen.eigenvalues[order[1]]), direction))
}

/// Two unit vectors square to an axis and to each other.
fn across(axis: Point) -> (Point, Point) {
    axis.any_orthonormal_pair()
}

/// The circle of least algebraic distance to points in a plane (Kåsa 1976).
fn circle(points: &[[f64; 2]]) -> Option<([f64; 2], f64)> {
    let rows = DMatrix::from_fn(points.len(), 3, |r, c| if c < 2 { 2.0 * points[r][c] } else { 1.0 });
    let right = DVector::from_fn(points.len(), |r, _| points[r][0].powi(2) + points[r][1].powi(2));
    let x = least_squares(&rows, &right)?;
    let radius = (x[2] + x[0] * x[0] + x[1] * x[1]).sqrt();
    radius.is_finite().then_some(([x[0], x[1]], radius))
}

fn least_squares(rows: &DMatrix<f64>, right: &DVector<f64>) -> Option<DVector<f64>> {
    /// Below this share of the largest a singular value says nothing.
    const SINGULAR: f64 = 1e-9;
    let square = rows.transpose() * rows;
    let largest = square.diagonal().max();
    let x = square.lu().solve(&(rows.transpose() * right))?;
    (largest > SINGULAR * SINGULAR && x.iter().all(|v| v.is_finite())).then_some(x)
}

#[cfg(test)]
mod tests;
