//! Brings a coarse cover to the density of its rim and lets it settle to least area.
//!
//! Density after Liepa 2003 (filling holes in meshes); settling by solving the cotangent Laplacian for the inner points,
//! repeated with new weights, which descends to a minimal surface (Pinkall and Polthier 1993).

use super::patch::{Patch, cotangent};
use crate::{Cancelled, Point, Progress};

/// How much nearer than its wished-for spacing a new point may come to its triangle's corners (Liepa's α; smaller makes a
/// coarser cover).
const DENSITY: f64 = std::f64::consts::SQRT_2;
/// Rounds of splitting. Each round may triple the triangles, so 14 pass any size a cover is allowed.
const ROUNDS: usize = 14;
/// Settling rounds: each solves a linear system; the area changes by less than a thousandth after these.
const SETTLES: usize = 6;

/// Splits triangles until they match the spacing of the rim points, carried inward. At most `most` inner points.
pub(super) fn refine(
    patch: &mut Patch,
    most: usize,
    may_join: &dyn Fn(usize, usize) -> bool,
    progress: &Progress,
) -> Result<(), Cancelled> {
    let rim = patch.rim;
    let mut spacing: Vec<f64> = (0..rim)
        .map(|i| {
            let [before, here, after] = [(i + rim - 1) % rim, i, (i + 1) % rim].map(|j| patch.points[j]);
            0.5 * ((here - before).length() + (after - here).length())
        })
        .collect();
    let mean = spacing.iter().sum::<f64>() / rim as f64;
    spacing.resize(patch.points.len(), mean);
    // An equilateral triangulation of spacing s has about area / (0.866 s²) points.
    let expected = patch.area() / (0.866 * mean * mean).max(f64::MIN_POSITIVE);
    let coarsen = (expected / most as f64).sqrt().max(1.0);

    for _ in 0..ROUNDS {
        let mut split_any = false;
        for t in 0..patch.triangles.len() {
            let corners = patch.triangles[t];
            let centre = patch.corners(t).iter().sum::<Point>() / 3.0;
            let wish = corners.iter().map(|&c| spacing[c as usize]).sum::<f64>() / 3.0;
            let roomy = corners.iter().all(|&c| {
                let distance = DENSITY * (centre - patch.points[c as usize]).length();
                distance > wish * coarsen && distance > spacing[c as usize] * coarsen
            });
            if roomy && patch.points.len() < rim + most {
                patch.split(t, centre);
                spacing.push(wish);
                split_any = true;
            }
        }
        progress.check()?;
        if !split_any {
            break;
        }
        patch.make_delaunay(8, may_join);
    }
    Ok(())
}

/// Moves the inner points to where the surface has least area.
pub(super) fn settle(
    patch: &mut Patch,
    may_join: &dyn Fn(usize, usize) -> bool,
    progress: &Progress,
) -> Result<(), Cancelled> {
    if patch.points.len() == patch.rim {
        return Ok(());
    }
    for _ in 0..SETTLES {
        progress.check()?;
        let before = patch.points.clone();
        let area = patch.area();
        solve_laplace(patch);
        if patch.area() > area {
            patch.points = before;
            break;
        }
        patch.make_delaunay(8, may_join);
    }
    Ok(())
}

/// Places every inner point at the weighted mean of its neighbours, all at once: conjugate gradients on the cotangent
/// Laplacian with the rim held. Weights are kept positive so that the system has one solution.
fn solve_laplace(patch: &mut Patch) {
    const LEAST_WEIGHT: f64 = 1e-3;
    const MOST_STEPS: usize = 600;
    const DONE: f64 = 1e-9;
    let (rim, n) = (patch.rim, patch.points.len() - patch.rim);
    let mut links: Vec<(u32, u32, f64)> = Vec::with_capacity(patch.triangles.len() * 3);
    for t in 0..patch.triangles.len() {
        let (ids, p) = (patch.triangles[t], patch.corners(t));
        for k in 0..3 {
            let (i, j) = ((k + 1) % 3, (k + 2) % 3);
            links.push((ids[i], ids[j], cotangent(p[k], p[i], p[j]).max(LEAST_WEIGHT)));
        }
    }
    let apply = |x: &[Point]| -> Vec<Point> {
        let mut y = vec![Point::ZERO; n];
        for &(a, b, w) in &links {
            let at = |i: u32| if (i as usize) < rim { Point::ZERO } else { x[i as usize - rim] };
            let pull = (at(a) - at(b)) * w;
            if a as usize >= rim {
                y[a as usize - rim] += pull;
            }
            if b as usize >= rim {
                y[b as usize - rim] -= pull;
            }
        }
        y
    };
    let mut diagonal = vec![0.0; n];
    let mut held = vec![Point::ZERO; n];
    for &(a, b, w) in &links {
        for (i, j) in [(a as usize, b as usize), (b as usize, a as usize)] {
            if i >= rim {
                diagonal[i - rim] += w;
                if j < rim {
                    held[i - rim] += patch.points[j] * w;
                }
            }
        }
    }
    let dot = |a: &[Point], b: &[Point]| a.iter().zip(b).fold(Point::ZERO, |s, (x, y)| s + *x * *y);
    let scaled = |r: &[Point]| r.iter().zip(&diagonal).map(|(r, d)| *r / *d).collect::<Vec<_>>();

    let mut x = patch.points[rim..].to_vec();
    let mut r: Vec<Point> = held.iter().zip(apply(&x)).map(|(h, a)| *h - a).collect();
    let mut z = scaled(&r);
    let mut d = z.clone();
    let mut rz = dot(&r, &z);
    let stop = rz.element_sum() * DONE * DONE;
    for _ in 0..MOST_STEPS {
        if rz.element_sum() <= stop {
            break;
        }
        let ad = apply(&d);
        // The three coordinates are three systems with one matrix; each has its own step.
        let step = divide(rz, dot(&d, &ad));
        for i in 0..n {
            x[i] += d[i] * step;
            r[i] -= ad[i] * step;
        }
        z = scaled(&r);
        let next = dot(&r, &z);
        let keep = divide(next, rz);
        for i in 0..n {
            d[i] = z[i] + d[i] * keep;
        }
        rz = next;
    }
    patch.points[rim..].copy_from_slice(&x);
}

/// Element-wise quotient, zero where the divisor is zero.
fn divide(a: Point, b: Point) -> Point {
    let q = |x: f64, y: f64| if y > 0.0 { x / y } else { 0.0 };
    Point::new(q(a.x, b.x), q(a.y, b.y), q(a.z, b.z))
}
