//! Triangles of one mesh that pass through each other, found exactly.
//!
//! A pair *crosses* when the two triangles share more than they should: a stretch of positive length for triangles that lie
//! in different planes, a patch of positive area for triangles in one plane (so the same triangle twice crosses itself). Touching
//! at a single point is not a crossing, and neither is meeting along a shared edge. The interval test follows Guigue and Devillers 2003 (fast and robust
//! triangle-triangle overlap test using orientation predicates), made strict; signs are exact.
//! Cost: O(n log n + k) through the hierarchy, in parallel.

use std::ops::ControlFlow;
use std::sync::atomic::{AtomicUsize, Ordering};

use rayon::prelude::*;

use crate::compare::{Compared, NEW};
use crate::predicates::{Side, side_of_line, side_of_plane};
use crate::{Aabb, Bvh, Cancelled, Mesh, Point, Progress};

/// All crossing pairs `(a, b)` with `a < b`, ascending. `bvh` must be built over the boxes of the triangles.
///
/// # Errors
/// [`Cancelled`].
pub fn crossing_pairs(mesh: &Mesh, bvh: &Bvh, progress: &Progress) -> Result<Vec<(u32, u32)>, Cancelled> {
    bvh.overlapping_pairs(progress, |a, b| crosses(mesh, a as usize, b as usize))
}

/// As [`crossing_pairs`] of the later of two surfaces, if those of the earlier one are known: crossing is a matter of places alone,
/// so only pairs with a new triangle are looked at. Cost: O(m log n) for m new triangles, in parallel.
///
/// # Errors
/// [`Cancelled`].
pub fn crossing_pairs_after(
    surfaces: &Compared<'_>,
    before: &[(u32, u32)],
    progress: &Progress,
) -> Result<Vec<(u32, u32)>, Cancelled> {
    let (mesh, bvh, new) = (surfaces.after(), surfaces.after_bvh(), surfaces.new_ones());
    if new.len() * 2 > mesh.triangles().len() {
        // Pair by pair is quicker than triangle by triangle.
        return crossing_pairs(mesh, bvh, progress);
    }
    let found: Vec<Vec<(u32, u32)>> = new
        .par_iter()
        .map(|&t| {
            progress.check()?;
            let mut met = Vec::new();
            let _ = bvh.overlapping(bvh.item_box(t), |u| {
                // Of two new ones the first tells it.
                let told = u < t && surfaces.kept()[u as usize] == NEW;
                if u != t && !told && crosses(mesh, t as usize, u as usize) {
                    met.push((t.min(u), t.max(u)));
                }
                ControlFlow::Continue(())
            });
            Ok(met)
        })
        .collect::<Result<_, Cancelled>>()?;
    let mut pairs = found.concat();
    if !before.is_empty() {
        let mut now = vec![NEW; surfaces.before().triangles().len()];
        let kept = surfaces.kept().iter().enumerate().filter(|(_, from)| **from != NEW);
        kept.for_each(|(t, from)| now[*from as usize] = t as u32);
        let still = before.iter().map(|(a, b)| (now[*a as usize], now[*b as usize]));
        pairs.extend(still.filter(|(a, b)| *a != NEW && *b != NEW).map(|(a, b)| (a.min(b), a.max(b))));
    }
    pairs.par_sort_unstable();
    Ok(pairs)
}

/// As [`crossing_pairs`], but none as soon as there are more than `most`.
///
/// # Errors
/// [`Cancelled`].
pub fn crossing_pairs_up_to(
    mesh: &Mesh,
    bvh: &Bvh,
    most: usize,
    progress: &Progress,
) -> Result<Option<Vec<(u32, u32)>>, Cancelled> {
    let (found, enough) = (AtomicUsize::new(0), Progress::unwatched());
    let test = |a: u32, b: u32| {
        if enough.check().is_err() {
            return false;
        }
        let cross = crosses(mesh, a as usize, b as usize);
        if progress.check().is_err() || (cross && found.fetch_add(1, Ordering::Relaxed) >= most) {
            enough.cancel();
        }
        cross
    };
    let pairs = bvh.overlapping_pairs(&enough, test);
    progress.check()?;
    Ok(pairs.ok().filter(|pairs| pairs.len() <= most))
}

/// Those of some triangles that cross any triangle of the mesh, each with the first it crosses; ascending.
/// Cost: O(n log m) for m of n triangles, in parallel.
///
/// # Errors
/// [`Cancelled`].
pub fn crossing_any(mesh: &Mesh, some: &[u32], progress: &Progress) -> Result<Vec<(u32, u32)>, Cancelled> {
    if some.len() * 2 > mesh.triangles().len() {
        // Pair by pair is quicker than triangle by triangle.
        let mut asked = vec![false; mesh.triangles().len()];
        some.iter().for_each(|t| asked[*t as usize] = true);
        let test = |a: u32, b: u32| (asked[a as usize] || asked[b as usize]) && crosses(mesh, a as usize, b as usize);
        let found = triangle_bvh(mesh).overlapping_pairs(progress, test)?;
        let both = found.into_iter().flat_map(|(a, b)| [(a, b), (b, a)]);
        let mut pairs: Vec<(u32, u32)> = both.filter(|(one, _)| asked[*one as usize]).collect();
        pairs.sort_unstable();
        pairs.dedup_by_key(|(one, _)| *one);
        return Ok(pairs);
    }
    let box_of = |t: u32| Aabb::of(mesh.corners(t as usize));
    let bvh = Bvh::new(some.par_iter().map(|t| box_of(*t)).collect());
    progress.check()?;
    let mut pairs: Vec<(u32, u32)> = (0..mesh.triangles().len() as u32)
        .into_par_iter()
        .flat_map_iter(|t| {
            let mut met = Vec::new();
            let _ = bvh.overlapping(&box_of(t), |n| {
                let one = some[n as usize];
                if one != t && crosses(mesh, t as usize, one as usize) {
                    met.push((one, t));
                }
                ControlFlow::Continue(())
            });
            met
        })
        .collect();
    progress.check()?;
    pairs.sort_unstable();
    pairs.dedup_by_key(|(one, _)| *one);
    Ok(pairs)
}

/// Neighbours are most of the pairs and hardly ever cross, and a shared corner lies exactly on the other's plane, which is
/// the dearest answer a predicate can give: so they are told apart by their other corners first.
fn crosses(mesh: &Mesh, a: usize, b: usize) -> bool {
    let (ta, tb) = (mesh.triangles()[a], mesh.triangles()[b]);
    let (pa, pb) = (mesh.corners(a), mesh.corners(b));
    let (shared_a, shared_b) = (ta.map(|v| tb.contains(&v)), tb.map(|v| ta.contains(&v)));
    let only = |shared: [bool; 3], wanted: bool| (0..3).find(|&k| shared[k] == wanted).unwrap_or(0);
    let count = |shared: [bool; 3]| shared.iter().filter(|s| **s).count();
    match (count(shared_a), count(shared_b)) {
        (0, 0) => triangles_cross(pa, pb),
        (1, 1) => {
            let (i, j) = (only(shared_a, true), only(shared_b, true));
            let apart = |plane: [Point; 3], p: Point, q: Point| {
                let side = side_of_plane(plane[0], plane[1], plane[2], p);
                side != Side::On && side == side_of_plane(plane[0], plane[1], plane[2], q)
            };
            !apart(pa, pb[(j + 1) % 3], pb[(j + 2) % 3])
                && !apart(pb, pa[(i + 1) % 3], pa[(i + 2) % 3])
                && triangles_cross(pa, pb)
        }
        (2, 2) => {
            let (i, j) = (only(shared_a, false), only(shared_b, false));
            let (p, q, u, v) = (pa[(i + 1) % 3], pa[(i + 2) % 3], pa[i], pb[j]);
            // Over a shared edge only a triangle folded flat onto its neighbour overlaps it.
            !clearly_to_different_sides(p, q, u, v) && side_of_plane(p, q, u, v) == Side::On && overlap_in_plane(pa, pb)
        }
        // The same triangle twice, if it has an area. A point named twice leaves none.
        (3, 3) => overlap_in_plane(pa, pb),
        _ => false,
    }
}

/// Whether, seen along the edge `p q`, the points `u` and `v` clearly lie to different sides of it. A quick answer that may be
/// no where the exact one is yes, never the other way round.
fn clearly_to_different_sides(p: Point, q: Point, u: Point, v: Point) -> bool {
    /// Far above the rounding of differences (1e-16 of the coordinates), so that the directions of the cross products are
    /// right to a thousandth at least.
    const CLEAR: f64 = 1e-12;
    const OPPOSED: f64 = -0.01;
    let scale = [p, q, u, v].iter().map(|x| x.abs().max_element()).fold(0.0, f64::max);
    let along = q - p;
    let (m, n) = (along.cross(u - p), along.cross(v - p));
    let (mm, nn) = (m.length_squared(), n.length_squared());
    let least = |to: Point| CLEAR * scale * scale * along.length_squared().max(to.length_squared());
    let cosine = m.dot(n);
    cosine < 0.0 && cosine * cosine > OPPOSED * OPPOSED * mm * nn && mm > least(u - p) && nn > least(v - p)
}

/// Whether two triangles share a stretch of positive length (different planes) or positive area (one plane).
/// Triangles without area cross nothing.
pub fn triangles_cross(a: [Point; 3], b: [Point; 3]) -> bool {
    let sides_b = b.map(|p| side_of_plane(a[0], a[1], a[2], p));
    if sides_b == [Side::On; 3] {
        return overlap_in_plane(a, b);
    }
    let Some((b, b_positive)) = alone_first(b, sides_b) else { return false };
    let sides_a = a.map(|p| side_of_plane(b[0], b[1], b[2], p));
    let Some((a, a_positive)) = alone_first(a, sides_a) else { return false };
    let edge_in_plane = |sides: [Side; 3]| sides.iter().filter(|s| **s == Side::On).count() == 2;
    if edge_in_plane(sides_a) && edge_in_plane(sides_b) {
        return false;
    }
    let [p1, q1, r1] = if b_positive { a } else { [a[0], a[2], a[1]] };
    let [p2, q2, r2] = if a_positive { b } else { [b[0], b[2], b[1]] };
    side_of_plane(q1, p2, p1, q2) == Side::Negative && side_of_plane(p1, p2, r1, r2) == Side::Negative
}

/// The triangle turned so that its first corner is strictly on one side of the plane and the others are not, with whether
/// that side is the positive one. `None` when the triangle meets the plane in one point or not at all.
fn alone_first(t: [Point; 3], sides: [Side; 3]) -> Option<([Point; 3], bool)> {
    (0..3).find_map(|k| {
        let (alone, q, r) = (sides[k], sides[(k + 1) % 3], sides[(k + 2) % 3]);
        (alone != Side::On && q != alone && r != alone)
            .then(|| ([t[k], t[(k + 1) % 3], t[(k + 2) % 3]], alone == Side::Positive))
    })
}

/// Whether the interiors of two triangles in one plane overlap: no side of either has the other wholly beyond it.
fn overlap_in_plane(a: [Point; 3], b: [Point; 3]) -> bool {
    let normal = (a[1] - a[0]).cross(a[2] - a[0]).abs();
    let drop = if normal.x >= normal.y && normal.x >= normal.z { 0 } else { usize::from(normal.y < normal.z) + 1 };
    let flat = |t: [Point; 3]| {
        let mut t = t.map(|p| [p[(drop + 1) % 3], p[(drop + 2) % 3]]);
        match side_of_line(t[0], t[1], t[2]) {
            Side::On => None,
            Side::Positive => Some(t),
            Side::Negative => {
                t.swap(1, 2);
                Some(t)
            }
        }
    };
    let (Some(a), Some(b)) = (flat(a), flat(b)) else { return false };
    let beyond = |t: [[f64; 2]; 3], other: [[f64; 2]; 3]| {
        (0..3).any(|k| other.iter().all(|&p| side_of_line(t[k], t[(k + 1) % 3], p) != Side::Positive))
    };
    !beyond(a, b) && !beyond(b, a)
}

/// The hierarchy over the triangles of a mesh.
pub fn triangle_bvh(mesh: &Mesh) -> Bvh {
    Bvh::new((0..mesh.triangles().len()).into_par_iter().map(|t| Aabb::of(mesh.corners(t))).collect())
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn p(x: f64, y: f64, z: f64) -> Point {
        Point::new(x, y, z)
    }

    const FLOOR: [Point; 3] = [Point::new(0.0, 0.0, 0.0), Point::new(4.0, 0.0, 0.0), Point::new(0.0, 4.0, 0.0)];

    #[test]
    fn piercing_crosses_and_touching_does_not() {
        let spike = |tip: f64| [p(1.0, 1.0, tip), p(1.0, 1.2, 3.0), p(1.2, 1.0, 3.0)];
        assert!(triangles_cross(FLOOR, spike(-1.0)));
        assert!(!triangles_cross(FLOOR, spike(0.0)), "a tip on the floor only touches");
        assert!(!triangles_cross(FLOOR, spike(0.5)));
        let wall = [p(1.0, 1.0, 0.0), p(2.0, 1.0, 0.0), p(1.0, 1.0, 2.0)];
        assert!(triangles_cross(FLOOR, wall), "an edge lying in the floor shares a stretch");
        let outside = wall.map(|q| q + p(4.0, 4.0, 0.0));
        assert!(!triangles_cross(FLOOR, outside));
        let along_the_edge = [p(1.0, 0.0, 0.0), p(3.0, 0.0, 0.0), p(2.0, 0.0, 2.0)];
        assert!(!triangles_cross(FLOOR, along_the_edge), "edge on edge touches");
    }

    #[test]
    fn triangles_in_one_plane_cross_when_they_share_area() {
        assert!(triangles_cross(FLOOR, FLOOR.map(|q| q + p(0.5, 0.5, 0.0))));
        let beside = [p(4.0, 0.0, 0.0), p(4.0, 4.0, 0.0), p(0.0, 4.0, 0.0)];
        assert!(!triangles_cross(FLOOR, beside), "a common side is no area");
    }

    #[test]
    fn a_fold_over_a_shared_edge_is_found() {
        let points = vec![FLOOR[0], FLOOR[1], FLOOR[2], p(1.0, 1.0, 0.0), p(1.0, 1.0, 1e-12)];
        let folded = Mesh::with_one_face(points.clone(), vec![[0, 1, 2], [1, 0, 3]]).unwrap();
        let hinged = Mesh::with_one_face(points, vec![[0, 1, 2], [1, 0, 4]]).unwrap();
        let pairs = |m: &Mesh| crossing_pairs(m, &triangle_bvh(m), &Progress::unwatched()).unwrap();
        assert_eq!(pairs(&folded), vec![(0, 1)]);
        assert!(pairs(&hinged).is_empty());
    }

    fn pairs_of(mesh: &Mesh) -> Vec<(u32, u32)> {
        crossing_pairs(mesh, &triangle_bvh(mesh), &Progress::unwatched()).unwrap()
    }

    #[test]
    fn a_triangle_there_twice_crosses_itself_unless_it_has_no_area() {
        let points = vec![FLOOR[0], FLOOR[1], FLOOR[2], FLOOR[0] * 0.5 + FLOOR[1] * 0.5];
        let twice = Mesh::with_one_face(points, vec![[0, 1, 2], [2, 1, 0], [0, 1, 3], [1, 3, 0]]).unwrap();
        assert_eq!(pairs_of(&twice), vec![(0, 1)]);
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]

        /// Whether corners that lie on each other are one point or several changes nothing; and what crosses after a change is
        /// found from what crossed before.
        #[test]
        fn crossing_is_a_matter_of_places_alone(
            v in proptest::collection::vec((0u8..4, 0u8..4, 0u8..4), 30..90), moved in 0usize..90, gone in 0usize..30,
        ) {
            let at = |(x, y, z): (u8, u8, u8)| p(x.into(), y.into(), z.into());
            let soup: Vec<Point> = v.iter().map(|q| at(*q)).take(v.len() / 3 * 3).collect();
            let triangles = (0..soup.len() as u32 / 3).map(|t| [3 * t, 3 * t + 1, 3 * t + 2]).collect();
            let apart = Mesh::with_one_face(soup.clone(), triangles).unwrap();
            let count = |m: &Mesh| pairs_of(m).len();
            let real = |t: &[Point]| (t[1] - t[0]).cross(t[2] - t[0]) != Point::ZERO;
            let solid: Vec<Point> = soup.chunks(3).filter(|t| real(t)).flatten().copied().collect();
            let welded = crate::weld::weld_corners(&solid).unwrap();
            prop_assert_eq!(count(&apart), count(&welded));
            let mut later = soup.clone();
            let n = later.len();
            later[moved % n] = later[(moved + 7) % n] + p(0.5, 0.0, 0.25);
            later.drain(gone % (n / 3) * 3..gone % (n / 3) * 3 + 3);
            later.rotate_left(3 * (n / 7));
            let later = crate::weld::weld_corners(&later).unwrap();
            let surfaces = Compared::new(&apart, &later, &Progress::unwatched()).unwrap();
            let found = crossing_pairs_after(&surfaces, &pairs_of(&apart), &Progress::unwatched()).unwrap();
            prop_assert_eq!(found, pairs_of(&later));
        }
    }

    proptest! {
        /// Independent check: clip the edges of each triangle against the other in floating point.
        #[test]
        fn agrees_with_edges_piercing_triangles(v in proptest::collection::vec(-8i8..8, 18)) {
            let q = |i: usize| p(v[i].into(), v[i + 1].into(), v[i + 2].into());
            let (a, b) = ([q(0), q(3), q(6)], [q(9), q(12), q(15)]);
            let normal = |t: [Point; 3]| (t[1] - t[0]).cross(t[2] - t[0]);
            let pierces = |t: [Point; 3], other: [Point; 3]| (0..3).any(|k| {
                let (from, to) = (t[k], t[(k + 1) % 3]);
                let n = normal(other);
                let (df, dt) = (n.dot(from - other[0]), n.dot(to - other[0]));
                if df * dt >= 0.0 { return false; }
                let at = from.lerp(to, df / (df - dt));
                (0..3).all(|j| n.cross(other[(j + 1) % 3] - other[j]).dot(at - other[j]) > 1e-6)
            });
            let without_area = normal(a) == Point::ZERO || normal(b) == Point::ZERO;
            prop_assert!(!(without_area && triangles_cross(a, b)));
            // Piercing an interior properly is always a crossing.
            if !without_area && (pierces(a, b) || pierces(b, a)) {
                prop_assert!(triangles_cross(a, b));
            }
            // A gap between the triangles along either normal is never one.
            let apart = |t: [Point; 3], other: [Point; 3]| {
                let d: Vec<f64> = other.iter().map(|&o| normal(t).dot(o - t[0])).collect();
                d.iter().all(|&x| x > 0.0) || d.iter().all(|&x| x < 0.0)
            };
            if apart(a, b) || apart(b, a) {
                prop_assert!(!triangles_cross(a, b));
            }
            prop_assert_eq!(triangles_cross(a, b), triangles_cross(b, a));
            prop_assert_eq!(triangles_cross(a, b), triangles_cross([a[2], a[0], a[1]], [b[0], b[2], b[1]]));
        }
    }
}
