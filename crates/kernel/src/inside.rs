//! Which closed shells a point lies in: exact parity of crossings along a segment that leaves the model.

use std::collections::BTreeMap;
use std::ops::ControlFlow;
use std::sync::OnceLock;

use crate::predicates::{Side, side_of_plane};
use crate::winding::Winding;
use crate::{Bvh, Mesh, Point, Topology};

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

/// Answers whether points lie inside a surface: exactly, by the ways out, where it is closed, else by its winding number.
pub struct Inside<'a> {
    mesh: &'a Mesh,
    bvh: &'a Bvh,
    closed: bool,
    winding: OnceLock<Winding>,
}

impl<'a> Inside<'a> {
    /// For a surface and the boxes round its triangles.
    pub fn new(mesh: &'a Mesh, bvh: &'a Bvh) -> Self {
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        let forward = |h: &u32| topology.ends(*h).0 < topology.ends(*h).1;
        let balanced = |e: u32| {
            let halves = topology.halves(e);
            halves.iter().filter(|h| forward(h)).count() * 2 == halves.len()
        };
        let closed = (0..topology.edge_count() as u32).all(balanced);
        Self { mesh, bvh, closed, winding: OnceLock::new() }
    }

    /// Whether `p` lies inside; of a part that is inside out the inside is where it winds round -1 times.
    pub fn holds(&self, p: Point) -> bool {
        const HALF: f64 = 0.5;
        let exact = if self.closed { self.wound(p).map(|times| times != 0) } else { None };
        exact.unwrap_or_else(|| self.winding.get_or_init(|| Winding::new(self.mesh)).at(p).abs() > HALF)
    }

    /// How often a closed surface winds round a point; none where every way out meets an edge or corner.
    fn wound(&self, p: Point) -> Option<i32> {
        let reach = (self.bvh.bounds().diagonal() + (p - self.bvh.bounds().centre()).length()) * 2.0 + 1.0;
        WAYS.iter().find_map(|way| {
            let out = p + *way * reach;
            let mut times = 0;
            let clean = self.bvh.along_segment(p, out, |t| {
                let corners = self.mesh.corners(t as usize);
                match crossing(corners, p, out) {
                    Crossing::None => {}
                    Crossing::Proper => {
                        let [a, b, c] = corners;
                        times += if side_of_plane(a, b, c, p) == Side::Negative { 1 } else { -1 };
                    }
                    Crossing::Doubtful => return ControlFlow::Break(()),
                }
                ControlFlow::Continue(())
            });
            clean.is_continue().then_some(times)
        })
    }
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::crossings::triangle_bvh;
    use crate::shapes::{ball, block};

    /// Of a closed surface the exact answer and that of the winding number are one wherever a point is clear of it, also when it
    /// is inside out; an opening changes nothing of the answer well inside and outside.
    #[test]
    fn exact_and_winding_answers_agree() {
        let whole = ball(10.0, 30);
        let mut inside_out = whole.clone();
        inside_out.reverse_triangles(|_| true);
        let open = whole.retain_triangles(|t| t > 4);
        for mesh in [whole, inside_out, open] {
            let bvh = triangle_bvh(&mesh);
            let (inside, winding) = (Inside::new(&mesh, &bvh), Winding::new(&mesh));
            for k in 0..60 {
                let p = Point::new((k as f64 * 1.7).sin(), (k as f64 * 2.3).cos(), (k as f64 * 0.9).sin());
                for r in [0.0, 3.0, 9.0, 11.5, 40.0] {
                    let p = p.normalize() * r;
                    assert_eq!(inside.holds(p), r < 10.0, "{p}");
                    assert_eq!(inside.holds(p), winding.at(p).abs() > 0.5, "{p}");
                }
            }
        }
        // A body within a body: twice round.
        let (outer, inner) = (block(Point::ZERO, Point::splat(10.0)), block(Point::splat(2.0), Point::splat(3.0)));
        let soup: Vec<Point> =
            [&outer, &inner].iter().flat_map(|m| (0..m.triangles().len()).flat_map(|t| m.corners(t))).collect();
        let both = crate::weld::weld_corners(&soup).unwrap();
        let bvh = triangle_bvh(&both);
        let inside = Inside::new(&both, &bvh);
        assert!(inside.holds(Point::new(3.1, 3.3, 3.7)) && inside.holds(Point::new(8.1, 8.3, 8.7)));
        assert_eq!(inside.wound(Point::new(3.1, 3.3, 3.7)), Some(2));
        assert!(!inside.holds(Point::splat(-1.0)));
    }
}
