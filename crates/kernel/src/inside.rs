//! Which closed shells a point lies in: exact parity of crossings along a segment that leaves the model.

use std::collections::BTreeMap;
use std::ops::ControlFlow;

use crate::predicates::{Side, side_of_plane};
use crate::{Bvh, Mesh, Point};

/// Ways to leave the model, tried in turn until one meets no edge or corner. Irregular on purpose: models like axes.
pub(crate) const WAYS: [Point; 6] = [
    Point::new(0.8031, 0.4127, 0.4299),
    Point::new(-0.3713, 0.7919, 0.4847),
    Point::new(0.2389, -0.5741, 0.7831),
    Point::new(-0.6173, -0.3391, -0.7099),
    Point::new(0.5519, -0.8093, -0.2011),
    Point::new(-0.1327, 0.3559, -0.9251),
];

/// For each shell crossed an odd number of times on the way out of the model from `p`: that is, each closed shell `p` lies
/// in. `None` when every way out meets an edge or corner exactly (so that `p` should be chosen anew) or `p` lies on the
/// surface. `shell_of` names the shell of each triangle; `skip` is left out.
pub fn shells_around(mesh: &Mesh, bvh: &Bvh, shell_of: &[u32], p: Point, skip: u32) -> Option<Vec<u32>> {
    let reach = (bvh.bounds().diagonal() + (p - bvh.bounds().centre()).length()) * 2.0 + 1.0;
    WAYS.iter().find_map(|way| {
        let out = p + *way * reach;
        let mut crossings: BTreeMap<u32, u32> = BTreeMap::new();
        let clean = bvh.along_segment(p, out, |t| {
            if shell_of[t as usize] == skip {
                return ControlFlow::Continue(());
            }
            match crossing(mesh.corners(t as usize), p, out) {
                Crossing::None => ControlFlow::Continue(()),
                Crossing::Proper => {
                    *crossings.entry(shell_of[t as usize]).or_default() += 1;
                    ControlFlow::Continue(())
                }
                Crossing::Doubtful => ControlFlow::Break(()),
            }
        });
        clean.is_continue().then(|| crossings.into_iter().filter(|(_, n)| n % 2 == 1).map(|(s, _)| s).collect())
    })
}

#[derive(Clone, Copy, PartialEq, Eq)]
pub(crate) enum Crossing {
    None,
    Proper,
    Doubtful,
}

/// How the segment `p q` meets a triangle.
pub(crate) fn crossing([a, b, c]: [Point; 3], p: Point, q: Point) -> Crossing {
    let (from, to) = (side_of_plane(a, b, c, p), side_of_plane(a, b, c, q));
    if from == to && from != Side::On {
        return Crossing::None;
    }
    let turns = [side_of_plane(p, q, a, b), side_of_plane(p, q, b, c), side_of_plane(p, q, c, a)];
    let some = |s: Side| turns.contains(&s);
    if some(Side::Positive) && some(Side::Negative) {
        return Crossing::None;
    }
    if some(Side::On) || from == Side::On || to == Side::On { Crossing::Doubtful } else { Crossing::Proper }
}
