//! The axes an arrangement is made along: those of the parts, not those of the file.
//!
//! A plate that was turned in space has faces that lie in one plane but for the last digits of its points, and on a grid of
//! the world's axes no three of its points agree on that plane. Along the axes of the plate itself they do: the direction that
//! most flat surface faces, the one square to it that most of the rest faces, and the third. Turned by them, what is flush is
//! flush exactly, however the parts lie.

use std::f64::consts::FRAC_PI_2;

use glam::DMat3;
use rustc_hash::FxHashMap;

use crate::{Mesh, Point};

/// Less of all surface than this facing one way gives no first axis …
const LEAST_SHARE: f64 = 0.01;
/// … and less than this of what stands square to it no second: a turned part has sides all round.
const LEAST_SECOND: f64 = 0.2;
/// Areas alike to this share are as large: what is chosen among them does not hang on the order of triangles.
const ALIKE: f64 = 1e-6;
/// The directions of triangles of one plane, and angles told apart, differ by less, radians: single precision, small triangles.
const ONE_WAY: f64 = 1e-3;
/// The same once the direction is known well.
const ONE_WAY_NEAR: f64 = 1e-4;

/// The rotation into the frame. None where the parts lie along the world's axes, or along none.
pub(super) fn frame(inputs: &[&Mesh], size: f64, step: f64) -> Option<DMat3> {
    let faces: Vec<Point> = inputs
        .iter()
        .flat_map(|m| (0..m.triangles().len()).map(|t| m.area_vector(t)))
        .filter(|v| v.length_squared() > 0.0)
        .collect();
    let total: f64 = faces.iter().map(|v| v.length()).sum();
    let first = most_faced(&faces, total)?;
    let second = most_faced_square_to(&faces, first);
    let turn = nearest_to_world(first, second);
    // A turn that no point would feel is none.
    let off = turn - DMat3::IDENTITY;
    let most = [off.x_axis, off.y_axis, off.z_axis].iter().map(|c| c.abs().max_element()).fold(0.0, f64::max);
    (most * size > step * 0.25).then_some(turn)
}

/// The direction most surface faces, forward or backward.
fn most_faced(faces: &[Point], total: f64) -> Option<Point> {
    /// Directions are counted in cells so fine; what lies on their borders counts in several.
    const CELLS: f64 = 48.0;
    /// So many cells are looked into.
    const CANDIDATES: usize = 6;
    let mut cells: FxHashMap<[i8; 3], (f64, Point)> = FxHashMap::default();
    for v in faces {
        let c = (v.normalize() * CELLS).round().to_array().map(|x| x as i8);
        let backward = c.iter().find(|x| **x != 0).is_some_and(|x| *x < 0);
        let (key, forward) = if backward { (c.map(|x| -x), -*v) } else { (c, *v) };
        let at = cells.entry(key).or_default();
        *at = (at.0 + v.length(), at.1 + forward);
    }
    let mut largest: Vec<([i8; 3], (f64, Point))> = cells.into_iter().collect();
    largest.sort_by(|a, b| b.1.0.total_cmp(&a.1.0).then(a.0.cmp(&b.0)));
    let found: Vec<(f64, Point)> =
        largest.into_iter().take(CANDIDATES).map(|(_, (_, v))| refined(faces, v.normalize())).collect();
    let most = found.iter().fold(0.0f64, |most, (area, _)| most.max(*area));
    let upright = |n: &Point| n.z.abs() * 4.0 + n.y.abs() * 2.0 + n.x.abs();
    let as_large = found.iter().filter(|(area, _)| *area >= most * (1.0 - ALIKE)).map(|(_, n)| *n);
    let best = as_large.max_by(|a, b| upright(a).total_cmp(&upright(b)))?;
    (most > LEAST_SHARE * total).then_some(best)
}

/// A direction made that of the surface that faces it, with the area of that.
fn refined(faces: &[Point], from: Point) -> (f64, Point) {
    /// The middle of a cell is so far off the directions in it, radians.
    const CELL: f64 = 0.03;
    let mut found = (0.0, from);
    for within in [CELL, ONE_WAY, ONE_WAY_NEAR] {
        let (mut area, mut sum) = (0.0, Point::ZERO);
        for v in faces {
            let length = v.length();
            // The sine, as the cosine has no digits left for small angles.
            if v.cross(found.1).length() <= within * length {
                area += length;
                sum += *v * v.dot(found.1).signum();
            }
        }
        if area == 0.0 {
            break;
        }
        found = (area, sum.normalize());
    }
    found
}

/// The direction square to another that most surface faces, or that the surface square to it faces.
fn most_faced_square_to(faces: &[Point], first: Point) -> Point {
    const BINS: usize = 1440;
    let world = [Point::X, Point::Y, Point::Z];
    let square = world.into_iter().min_by(|a, b| a.dot(first).abs().total_cmp(&b.dot(first).abs())).unwrap_or(Point::X);
    let u = (square - first * square.dot(first)).normalize();
    let v = first.cross(u);
    // The angle about the first axis; a quarter turn makes no difference.
    let angle = |n: &Point| {
        let square = n.dot(first).abs() <= ONE_WAY * n.length();
        square.then(|| n.dot(v).atan2(n.dot(u)).rem_euclid(FRAC_PI_2))
    };
    let mut bins = vec![0.0; BINS];
    for n in faces {
        if let Some(a) = angle(n) {
            bins[(a / FRAC_PI_2 * BINS as f64) as usize % BINS] += n.length();
        }
    }
    let around = |k: usize| bins[k] + bins[(k + 1) % BINS] + bins[(k + BINS - 1) % BINS];
    let area = (0..BINS).map(around).fold(0.0, f64::max);
    if area <= LEAST_SECOND * bins.iter().sum::<f64>() {
        // Any will do.
        return u;
    }
    let most = (0..BINS).find(|k| around(*k) >= area * (1.0 - ALIKE)).unwrap_or(0);
    let mut way = (most as f64 + 0.5) / BINS as f64 * FRAC_PI_2;
    for within in [1.5 * FRAC_PI_2 / BINS as f64, ONE_WAY, ONE_WAY_NEAR] {
        let (mut sine, mut cosine) = (0.0, 0.0);
        for n in faces {
            let Some(a) = angle(n) else { continue };
            let off = (a - way + FRAC_PI_2 * 0.5).rem_euclid(FRAC_PI_2) - FRAC_PI_2 * 0.5;
            if off.abs() <= within {
                sine += (off * 4.0).sin() * n.length();
                cosine += (off * 4.0).cos() * n.length();
            }
        }
        way += sine.atan2(cosine) / 4.0;
    }
    u * way.cos() + v * way.sin()
}

/// The rotation onto two directions square to each other and a third, those taken for x, y and z that are nearest to them.
fn nearest_to_world(first: Point, second: Point) -> DMat3 {
    let second = (second - first * second.dot(first)).normalize();
    let ways = [first, second, first.cross(second)];
    let mut best = (f64::NEG_INFINITY, DMat3::IDENTITY);
    for order in [[0, 1, 2], [1, 2, 0], [2, 0, 1], [0, 2, 1], [2, 1, 0], [1, 0, 2]] {
        let mut rows = [0, 1, 2].map(|k| ways[order[k]] * ways[order[k]][k].signum());
        let mut near = (0..3).map(|k| rows[k][k]).sum::<f64>();
        if rows[0].cross(rows[1]).dot(rows[2]) < 0.0 {
            let least = (0..3).min_by(|&a, &b| rows[a][a].total_cmp(&rows[b][b])).unwrap_or(0);
            near -= 2.0 * rows[least][least];
            rows[least] = -rows[least];
        }
        if near > best.0 {
            best = (near, DMat3::from_cols(rows[0], rows[1], rows[2]).transpose());
        }
    }
    best.1
}

#[cfg(test)]
mod tests {
    use glam::{DQuat, EulerRot};

    use super::*;
    use crate::shapes::{ball, block, turned};

    const STEP: f64 = 1e-7;

    #[test]
    fn what_lies_along_the_axes_is_left_and_what_has_none_too() {
        let part = block(Point::splat(3.0), Point::new(4.0, 5.0, 6.0));
        assert!(frame(&[&part], 6.0, STEP).is_none());
        assert!(frame(&[&ball(5.0, 40)], 10.0, STEP).is_none());
        assert!(frame(&[&turned(&[(0.0, 0.0), (4.0, 0.0), (4.0, 9.0), (0.0, 9.0)], 36)], 9.0, STEP).is_none());
    }

    #[test]
    fn a_turned_part_lies_along_the_axes_in_its_frame_within_its_precision() {
        for (seed, single) in (0..60).flat_map(|s| [(s, false), (s, true)]) {
            let a = |k: f64| (f64::from(seed) * k).rem_euclid(6.0);
            let turn = DQuat::from_euler(EulerRot::XYZ, a(1.3), a(2.7), a(0.9));
            let rounded = |p: Point| if single { p.as_vec3().as_dvec3() } else { p };
            let part = block(Point::splat(3.0), Point::new(4.0, 5.0, 6.0));
            let part = part.map_points(|p| rounded(turn * p)).unwrap();
            let Some(frame) = frame(&[&part], 6.0, STEP) else { continue };
            assert!((frame.determinant() - 1.0).abs() < 1e-12);
            for t in 0..12 {
                let n = (frame * part.area_vector(t)).normalize().abs();
                assert!(1.0 - n.max_element() < 1e-12, "{seed}: {n}");
                let off = n.to_array().iter().filter(|x| **x < 0.5).fold(0.0f64, |a, b| a.max(*b));
                assert!(off < if single { 1e-6 } else { 1e-14 }, "{seed}: {n}");
            }
        }
    }
}
