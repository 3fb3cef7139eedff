//! How far surfaces stand off each other.

use std::ops::ControlFlow;

use rayon::prelude::*;

use crate::crossings::triangle_bvh;
use crate::segments::{Apart, nearest_on_triangle, triangles_apart};
use crate::{Aabb, Cancelled, Mesh, Point, Progress};

/// The least distance between two surfaces with where it is on both, mm; none where either has no triangles, nought where they
/// meet.
///
/// # Errors
/// [`Cancelled`].
pub fn clearance(a: &Mesh, b: &Mesh, progress: &Progress) -> Result<Option<Apart>, Cancelled> {
    let bvh = triangle_bvh(b);
    // First from points only, which bounds what triangles need be looked at.
    let nearest = |p: &Point| {
        let foot = |t: u32| nearest_on_triangle(*p, b.corners(t as usize));
        let (t, distance) = bvh.nearest(*p, f64::INFINITY, |t| Some((foot(t) - *p).length_squared()))?;
        Some((distance, *p, foot(t)))
    };
    let less = |x: &Apart, y: &Apart| x.0.total_cmp(&y.0);
    let Some(by_points) = a.points().par_iter().filter_map(nearest).min_by(less) else { return Ok(None) };
    progress.check()?;
    let by_triangles: Vec<Apart> = (0..a.triangles().len())
        .into_par_iter()
        .map(|t| {
            progress.check()?;
            let corners = a.corners(t);
            let mut best = by_points;
            let _ = bvh.overlapping(&Aabb::of(corners).grown(by_points.0), |u| {
                let found = triangles_apart(corners, b.corners(u as usize));
                if found.0 < best.0 {
                    best = found;
                }
                if best.0 > 0.0 { ControlFlow::Continue(()) } else { ControlFlow::Break(()) }
            });
            Ok(best)
        })
        .collect::<Result<_, Cancelled>>()?;
    Ok(by_triangles.into_iter().min_by(less).or(Some(by_points)))
}

/// For each triangle of `a` its least distance from `b` with where that is on both, mm; none where it is `within` or farther.
///
/// # Errors
/// [`Cancelled`].
pub fn nearer_than(a: &Mesh, b: &Mesh, within: f64, progress: &Progress) -> Result<Vec<Option<Apart>>, Cancelled> {
    let bvh = triangle_bvh(b);
    let all: Vec<usize> = (0..a.triangles().len()).collect();
    super::in_chunks(&all, progress, |t| {
        let corners = a.corners(*t);
        // First from its middle only, which bounds what need be looked at.
        let middle = corners.iter().sum::<Point>() / 3.0;
        let foot = |u: u32| nearest_on_triangle(middle, b.corners(u as usize));
        let mut best = bvh
            .nearest(middle, within, |u| Some((foot(u) - middle).length_squared()))
            .map(|(u, distance)| (distance, middle, foot(u)));
        let look = Aabb::of(corners).grown(best.map_or(within, |b| b.0));
        let _ = bvh.overlapping(&look, |u| {
            let found = triangles_apart(corners, b.corners(u as usize));
            if found.0 < best.map_or(within, |b| b.0) {
                best = Some(found);
            }
            if best.is_none_or(|b| b.0 > 0.0) { ControlFlow::Continue(()) } else { ControlFlow::Break(()) }
        });
        best
    })
}

/// A mesh divided where it is nearer to another than `within`, mm, until no side there is longer than `spacing`, mm, or there
/// are `most` triangles; with what [`nearer_than`] tells of it.
///
/// # Errors
/// [`Cancelled`].
pub fn divided_near(
    a: &Mesh,
    b: &Mesh,
    within: f64,
    (spacing, most): (f64, usize),
    progress: &Progress,
) -> Result<(Mesh, Vec<Option<Apart>>), Cancelled> {
    /// Sides come down to so much at a time, so that what is far of a large triangle is not divided for what is near.
    const STEP: f64 = 0.25;
    const ROUNDS: usize = 8;
    let mut fine = a.clone();
    for round in 0..ROUNDS {
        let near = nearer_than(&fine, b, within, &progress.part(round, ROUNDS))?;
        let longest = |t: usize| {
            let [p, q, r] = fine.corners(t);
            p.distance(q).max(q.distance(r)).max(r.distance(p))
        };
        let coarsest = (0..near.len()).filter(|t| near[*t].is_some()).map(longest).fold(0.0, f64::max);
        if coarsest <= spacing || fine.triangles().len() >= most || round + 1 == ROUNDS {
            return Ok((fine, near));
        }
        let down_to = (coarsest * STEP).max(spacing);
        fine = crate::deviation::divided(&fine, &|t| near[t].is_some(), &|_, side| side <= down_to, most).0;
    }
    Ok((fine, vec![]))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes::{ball, block};

    #[test]
    fn parts_stand_as_far_apart_as_their_nearest_places() {
        let (d, p, q) =
            clearance(&ball(5.0, 24), &block(Point::new(7.0, -1.0, -1.0), Point::splat(2.0)), &Progress::unwatched())
                .unwrap()
                .unwrap();
        assert!((d - 2.0).abs() < 1e-9 && (p.x - 5.0).abs() < 1e-9 && (q.x - 7.0).abs() < 1e-9);
        let across =
            clearance(&ball(5.0, 24), &block(Point::ZERO, Point::splat(20.0)), &Progress::unwatched()).unwrap();
        assert_eq!(across.unwrap().0, 0.0);
        // Edge over edge: neither has a point near.
        let beam = block(Point::new(-10.0, -0.5, 0.0), Point::new(20.0, 1.0, 1.0));
        let turn = |p: Point| Point::new(p.y, p.x, p.z + 1.25);
        let mut over = beam.clone().map_points(turn).unwrap();
        over.reverse_triangles(|_| true);
        let (d, ..) = clearance(&beam, &over, &Progress::unwatched()).unwrap().unwrap();
        assert!((d - 0.25).abs() < 1e-12);
    }
}
