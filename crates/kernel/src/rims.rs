//! Chains naked edges into rims. Knows indices only.
//!
//! From a naked half the chain goes round the fan at its head to the fan's other naked side; so chains of surfaces that
//! only touch at a point stay apart. Where one chain still passes a point twice it is split there, so every rim is simple.
//! An edge of three or more triangles ends a fan; chains cut off there are joined again by their end points where that is
//! possible, and else stay open.

use std::collections::{BTreeMap, BTreeSet, HashMap, HashSet};

use crate::topology::{EdgeUse, NO_EDGE, Topology, next, previous};

/// A simple chain of naked halves.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Rim {
    /// The naked halves in order.
    pub halves: Vec<u32>,
    /// The points in order: `points[i]` begins `halves[i]`; an open rim has one more point than halves.
    pub points: Vec<u32>,
    /// Whether the chain comes back to its first point.
    pub closed: bool,
}

/// All rims, ordered by their lowest half.
pub fn rims(topology: &Topology) -> Vec<Rim> {
    let mut visited: HashSet<u32> = HashSet::new();
    let mut closed = Vec::new();
    let mut open: Vec<Vec<(u32, u32)>> = Vec::new();
    for start in topology.naked_halves() {
        if visited.contains(&start) {
            continue;
        }
        let (tail, head) = topology.ends(start);
        let (mut chain, whole) = follow(topology, start, head);
        if !whole {
            let (backward, _) = follow(topology, start, tail);
            // Walked forwards, each half is left by the end it was entered by on the way back.
            let mut joined: Vec<(u32, u32)> =
                backward[1..].iter().rev().map(|&(half, end)| (half, other_end(topology, half, end))).collect();
            joined.extend(chain);
            chain = joined;
        }
        for &(half, _) in &chain {
            visited.insert(half);
        }
        if whole { closed.push(chain) } else { open.push(chain) }
    }
    let mut rims: Vec<Rim> = Vec::new();
    for chain in closed.into_iter().chain(join_open(topology, open)) {
        split_simple(topology, &chain, &mut rims);
    }
    rims.sort_by_key(|r| r.halves.iter().min().copied());
    rims
}

/// Follows naked halves from `half`, leaving it by `end`: links (half, point it is left by), and whether the chain closed.
fn follow(topology: &Topology, half: u32, end: u32) -> (Vec<(u32, u32)>, bool) {
    let mut links = vec![(half, end)];
    let (mut at, mut point) = (half, end);
    while let Some(following) = across_fan(topology, at, point) {
        if following == half {
            return (links, true);
        }
        point = other_end(topology, following, point);
        at = following;
        links.push((at, point));
    }
    (links, false)
}

/// The naked half at the other side of the fan in which `half` meets `point`.
fn across_fan(topology: &Topology, half: u32, point: u32) -> Option<u32> {
    let mut at = other_side(topology, half, point);
    loop {
        let edge = topology.edge_of(at);
        if edge == NO_EDGE {
            return None;
        }
        match topology.edge_use(edge) {
            EdgeUse::Naked => return Some(at),
            EdgeUse::Crowded => return None,
            EdgeUse::Regular | EdgeUse::Clashing => {
                let pair = topology.halves(edge);
                let across = if pair[0] == at { pair[1] } else { pair[0] };
                at = other_side(topology, across, point);
            }
        }
    }
}

/// The other half at `point` of the triangle `half` belongs to.
fn other_side(topology: &Topology, half: u32, point: u32) -> u32 {
    if topology.ends(half).0 == point { previous(half) } else { next(half) }
}

fn other_end(topology: &Topology, half: u32, point: u32) -> u32 {
    let (a, b) = topology.ends(half);
    if a == point { b } else { a }
}

/// Joins open chains at common end points, each end point at most once; gives the chains in a fixed order.
fn join_open(topology: &Topology, chains: Vec<Vec<(u32, u32)>>) -> Vec<Vec<(u32, u32)>> {
    let begin = |c: &[(u32, u32)]| other_end(topology, c[0].0, c[0].1);
    let end = |c: &[(u32, u32)]| c[c.len() - 1].1;
    let mut pool: BTreeMap<usize, Vec<(u32, u32)>> = chains.into_iter().enumerate().collect();
    let mut by_begin: BTreeSet<(u32, usize)> = pool.iter().map(|(&i, c)| (begin(c), i)).collect();
    let mut done = Vec::new();
    while let Some((i, mut chain)) = pool.pop_first() {
        by_begin.remove(&(begin(&chain), i));
        while begin(&chain) != end(&chain) {
            let at = end(&chain);
            let Some(&(_, j)) = by_begin.range((at, 0)..=(at, usize::MAX)).next() else { break };
            by_begin.remove(&(at, j));
            if let Some(tail) = pool.remove(&j) {
                chain.extend(tail);
            }
        }
        done.push(chain);
    }
    done
}

/// Splits a chain into simple rims where it passes a point twice.
fn split_simple(topology: &Topology, chain: &[(u32, u32)], rims: &mut Vec<Rim>) {
    let mut stack: Vec<(u32, u32)> = Vec::new();
    let begin = other_end(topology, chain[0].0, chain[0].1);
    let mut seen: HashMap<u32, usize> = HashMap::from([(begin, 0)]);
    for &(half, end) in chain {
        stack.push((half, end));
        if let Some(&depth) = seen.get(&end) {
            let loop_links = stack.split_off(depth);
            for &(_, point) in &loop_links {
                if point != end {
                    seen.remove(&point);
                }
            }
            rims.push(Rim {
                points: loop_links.iter().map(|&(h, e)| other_end(topology, h, e)).collect(),
                halves: loop_links.into_iter().map(|(h, _)| h).collect(),
                closed: true,
            });
        } else {
            seen.insert(end, stack.len());
        }
    }
    if let Some(&(_, last)) = stack.last() {
        let mut points: Vec<u32> = stack.iter().map(|&(h, e)| other_end(topology, h, e)).collect();
        points.push(last);
        rims.push(Rim { halves: stack.into_iter().map(|(h, _)| h).collect(), points, closed: false });
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn rims_of(triangles: &[[u32; 3]]) -> Vec<Rim> {
        let points = triangles.iter().flatten().max().unwrap() + 1;
        rims(&Topology::new(triangles, points as usize))
    }

    #[test]
    fn a_single_triangle_has_one_rim_of_three() {
        let found = rims_of(&[[0, 1, 2]]);
        assert_eq!(found, vec![Rim { halves: vec![0, 1, 2], points: vec![0, 1, 2], closed: true }]);
    }

    #[test]
    fn surfaces_that_touch_at_a_point_keep_their_own_rims() {
        let found = rims_of(&[[0, 1, 2], [0, 3, 4]]);
        assert_eq!(found.len(), 2);
        assert!(found.iter().all(|r| r.closed && r.halves.len() == 3));
    }

    #[test]
    fn two_holes_that_meet_at_a_point_are_two_simple_rims() {
        // A ring of eight triangles round two triangular holes 0-1-2 and 0-3-4 that share point 0.
        let mut triangles = vec![];
        let outer = [5, 6, 7, 8, 9, 10];
        let inner = [1, 2, 0, 3, 4, 0];
        for i in 0..6 {
            let j = (i + 1) % 6;
            triangles.push([outer[i], outer[j], inner[i]]);
            triangles.push([inner[i], outer[j], inner[j]]);
        }
        let triangles: Vec<[u32; 3]> = triangles;
        let found = rims_of(&triangles);
        let mut lengths: Vec<usize> = found.iter().map(|r| r.halves.len()).collect();
        lengths.sort_unstable();
        assert_eq!(lengths, vec![3, 3, 6]);
        for rim in &found {
            let mut points = rim.points.clone();
            points.sort_unstable();
            points.dedup();
            assert_eq!(points.len(), rim.points.len(), "rim is simple");
        }
    }

    #[test]
    fn clashing_winding_does_not_break_a_rim() {
        let found = rims_of(&[[0, 1, 2], [0, 1, 3]]);
        assert_eq!(found.len(), 1);
        assert!(found[0].closed);
        assert_eq!(found[0].halves.len(), 4);
    }

    #[test]
    fn fins_on_an_edge_of_three_stay_open_rims_that_end_there() {
        let found = rims_of(&[[0, 1, 2], [0, 1, 3], [0, 1, 4]]);
        assert_eq!(found.len(), 3);
        for rim in &found {
            assert!(!rim.closed);
            assert_eq!((rim.points.len(), rim.points[0], rim.points[2]), (3, 1, 0));
        }
    }
}
