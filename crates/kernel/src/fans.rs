//! Fans: the triangles round a point that hang together over edges. A point with two fans is one where surfaces only touch.

use crate::{Topology, UnionFind};

/// The points at which more than one fan of triangles meets, ascending.
pub fn touch_points(topology: &Topology) -> Vec<u32> {
    let triangles = topology.triangles();
    let mut sets = UnionFind::new(triangles.len() * 3);
    for edge in 0..topology.edge_count() as u32 {
        let halves = topology.halves(edge);
        let (a, b) = topology.ends(halves[0]);
        for pair in halves.windows(2) {
            for point in [a, b] {
                if let (Some(x), Some(y)) =
                    (corner_at(triangles, pair[0] / 3, point), corner_at(triangles, pair[1] / 3, point))
                {
                    sets.union(x, y);
                }
            }
        }
    }
    let points = triangles.iter().flatten().max().map_or(0, |&m| m as usize + 1);
    const NONE: u32 = u32::MAX;
    let mut fan_of = vec![NONE; points];
    let mut touching = Vec::new();
    for (t, corners) in triangles.iter().enumerate() {
        for (k, &point) in corners.iter().enumerate() {
            let half = (3 * t + k) as u32;
            if topology.edge_of(half) == crate::topology::NO_EDGE {
                continue;
            }
            let root = sets.find(half);
            let seen = &mut fan_of[point as usize];
            if *seen == NONE {
                *seen = root;
            } else if *seen != root {
                touching.push(point);
            }
        }
    }
    touching.sort_unstable();
    touching.dedup();
    touching
}

/// The corner (as a half number) of triangle `t` at `point`.
fn corner_at(triangles: &[[u32; 3]], t: u32, point: u32) -> Option<u32> {
    (0..3).find(|&k| triangles[t as usize][k as usize] == point).map(|k| 3 * t + k)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn two_triangles_tip_to_tip_touch_at_one_point() {
        let tips = [[0, 1, 2], [0, 3, 4]];
        assert_eq!(touch_points(&Topology::new(&tips, 5)), vec![0]);
        let hinge = [[0, 1, 2], [0, 2, 3]];
        assert!(touch_points(&Topology::new(&hinge, 4)).is_empty());
    }
}
