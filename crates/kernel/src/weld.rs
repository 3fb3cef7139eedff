//! Exact weld: points at bit-for-bit equal positions become one point.
//!
//! Cost: linear. Points are hashed by their bits and looked up in open-addressing tables, one for each share of the hash
//! space, so that the shares run in parallel; the name of a point is its first appearance, so the result does not depend
//! on the number of threads. `-0.0` and `0.0` are the same position.

use std::sync::atomic::{AtomicU32, Ordering};

use rayon::prelude::*;

use crate::{FaceId, Mesh, MeshError, Point};

/// Shares of the hash space. Each share scans all hashes once, so more shares than cores only cost memory traffic.
const SHARES: usize = 4;
const EMPTY: u32 = u32::MAX;

/// Welds triangle corners given one after the other (three for each triangle) into a mesh of one face.
///
/// # Errors
/// [`MeshError`] when a coordinate is not finite or there are too many corners.
pub fn weld_corners(corners: &[Point]) -> Result<Mesh, MeshError> {
    if corners.len() >= u32::MAX as usize {
        return Err(MeshError::TooLarge(corners.len()));
    }
    let (points, index) = weld_points(corners);
    let triangles = index.chunks_exact(3).map(|c| [c[0], c[1], c[2]]).collect::<Vec<_>>();
    Mesh::with_one_face(points, triangles)
}

/// Welds the points of an indexed mesh; face ids stay. Points no triangle uses are dropped.
///
/// # Errors
/// As [`Mesh::new`].
pub fn weld_mesh(points: &[Point], triangles: &[[u32; 3]], face_of: Vec<FaceId>) -> Result<Mesh, MeshError> {
    for (triangle, t) in triangles.iter().enumerate() {
        if let Some(&point) = t.iter().find(|&&c| c as usize >= points.len()) {
            return Err(MeshError::IndexOutOfRange { triangle, point, count: points.len() });
        }
    }
    let (points, index) = weld_points(points);
    let triangles = triangles.iter().map(|t| t.map(|c| index[c as usize])).collect();
    Ok(Mesh::new(points, triangles, face_of)?.retain_triangles(|_| true))
}

/// The distinct positions in order of first appearance, and for each input point the index of its position.
pub fn weld_points(points: &[Point]) -> (Vec<Point>, Vec<u32>) {
    let hashes: Vec<u64> = points.par_iter().map(|p| hash(bits(*p))).collect();
    let first: Vec<AtomicU32> = (0..points.len()).map(|_| AtomicU32::new(0)).collect();
    (0..SHARES).into_par_iter().for_each(|share| find_firsts(points, &hashes, share, &first));

    let mut distinct = Vec::with_capacity(points.len() / 4);
    let mut index = vec![0u32; points.len()];
    for (i, first) in first.into_iter().enumerate() {
        let first = first.into_inner() as usize;
        if first == i {
            index[i] = distinct.len() as u32;
            distinct.push(points[i] + Point::ZERO);
        } else {
            index[i] = index[first];
        }
    }
    (distinct, index)
}

/// Writes, for each point of this share, the index of the first point at the same position.
fn find_firsts(points: &[Point], hashes: &[u64], share: usize, first: &[AtomicU32]) {
    let mine = |h: u64| (h >> 32) as usize % SHARES == share;
    let mut table = vec![EMPTY; (points.len() / SHARES).next_power_of_two().max(16)];
    let mut used = 0usize;
    for (i, &h) in hashes.iter().enumerate() {
        if !mine(h) {
            continue;
        }
        if used * 2 > table.len() {
            table = grown(&table, hashes);
        }
        let mask = table.len() - 1;
        let mut slot = h as usize & mask;
        loop {
            let there = table[slot];
            if there == EMPTY {
                table[slot] = i as u32;
                used += 1;
                first[i].store(i as u32, Ordering::Relaxed);
                break;
            }
            if hashes[there as usize] == h && bits(points[there as usize]) == bits(points[i]) {
                first[i].store(there, Ordering::Relaxed);
                break;
            }
            slot = (slot + 1) & mask;
        }
    }
}

fn grown(table: &[u32], hashes: &[u64]) -> Vec<u32> {
    let mut bigger = vec![EMPTY; table.len() * 2];
    let mask = bigger.len() - 1;
    for &i in table.iter().filter(|&&i| i != EMPTY) {
        let mut slot = hashes[i as usize] as usize & mask;
        while bigger[slot] != EMPTY {
            slot = (slot + 1) & mask;
        }
        bigger[slot] = i;
    }
    bigger
}

/// The bits of a position, with `-0.0` made `0.0`.
fn bits(p: Point) -> [u64; 3] {
    (p + Point::ZERO).to_array().map(f64::to_bits)
}

/// Mixes 192 bits to 64; multiply-rotate steps as in common integer hash finalisers.
fn hash([x, y, z]: [u64; 3]) -> u64 {
    const K: u64 = 0x9E37_79B9_7F4A_7C15;
    let mut h = x.wrapping_mul(K).rotate_left(29) ^ y;
    h = h.wrapping_mul(K).rotate_left(31) ^ z;
    h = h.wrapping_mul(K);
    h ^= h >> 29;
    h = h.wrapping_mul(K);
    h ^ (h >> 32)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn equal_corners_become_one_point_and_minus_zero_is_zero() {
        let mesh =
            weld_corners(&[Point::ZERO, Point::X, Point::Y, Point::Y, Point::X, Point::new(-0.0, -0.0, -0.0)]).unwrap();
        assert_eq!(mesh.points(), &[Point::ZERO, Point::X, Point::Y]);
        assert_eq!(mesh.triangles(), &[[0, 1, 2], [2, 1, 0]]);
    }

    proptest! {
        #[test]
        fn weld_agrees_with_sorting(ints in proptest::collection::vec((0i8..4, 0i8..4, 0i8..4), 0..200)) {
            let points: Vec<Point> = ints.iter().map(|&(x, y, z)| Point::new(x.into(), y.into(), z.into())).collect();
            let (distinct, index) = weld_points(&points);
            for (p, i) in points.iter().zip(&index) {
                prop_assert_eq!(*p, distinct[*i as usize]);
            }
            let mut sorted = ints.clone();
            sorted.sort_unstable();
            sorted.dedup();
            prop_assert_eq!(distinct.len(), sorted.len());
        }
    }
}
