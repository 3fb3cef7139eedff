//! What two triangles with corners on the grid have in common, exactly.

use super::exact::{Plane, Whole};

/// A point two triangles have in common, named so that it is the same for every pair that has it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) enum Name {
    /// A corner.
    Corner(u32),
    /// Where an edge (lower corner first) goes through a triangle.
    Pierced((u32, u32), u32),
    /// Where two edges (the lower first) that lie in one plane cross.
    Crossed((u32, u32), (u32, u32)),
}

/// What cuts a triangle along a line.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Knife {
    /// The plane of another triangle.
    Triangle(u32),
    /// The edge of another triangle that lies in the same plane.
    Edge(u32, u32),
}

/// What a triangle gets from another: points, and the stretch between two of them.
#[derive(Clone, Debug, Default)]
pub(super) struct Meeting {
    /// For the first triangle and for the second.
    pub points: [Vec<Name>; 2],
    pub cuts: [Vec<(Name, Name, Knife)>; 2],
    pub coplanar: bool,
}

/// Triangles over corners of the grid.
pub(super) struct Soup<'a> {
    pub corners: &'a [Whole],
    pub triangles: &'a [[u32; 3]],
    pub planes: &'a [Plane],
}

/// Where a point of a triangle's plane lies in it.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Place {
    Outside,
    Corner(u32),
    Within,
}

fn edge(a: u32, b: u32) -> (u32, u32) {
    (a.min(b), a.max(b))
}

impl Soup<'_> {
    fn at(&self, corner: u32) -> Whole {
        self.corners[corner as usize]
    }

    /// What triangles `a` and `b` have in common, if more than corners or an edge of both.
    pub fn meet(&self, a: u32, b: u32) -> Option<Meeting> {
        let (ta, tb) = (self.triangles[a as usize], self.triangles[b as usize]);
        let (pa, pb) = (&self.planes[a as usize], &self.planes[b as usize]);
        let sides_b = tb.map(|c| if ta.contains(&c) { 0 } else { pa.side_of(self.at(c)) });
        if sides_b == [1; 3] || sides_b == [-1; 3] {
            return None;
        }
        let shared = tb.iter().filter(|c| ta.contains(c)).count();
        if sides_b == [0; 3] {
            return self.meet_in_plane(a, b);
        }
        if shared >= 2 {
            return None;
        }
        // With a common corner and the rest on one side they have nothing else in common.
        let one_side = |sides: [i8; 3]| sides.iter().sum::<i8>().abs() == 2;
        if shared == 1 && one_side(sides_b) {
            return None;
        }
        let sides_a = ta.map(|c| if tb.contains(&c) { 0 } else { pb.side_of(self.at(c)) });
        if sides_a == [1; 3] || sides_a == [-1; 3] || (shared == 1 && one_side(sides_a)) {
            return None;
        }
        let mut names = Vec::with_capacity(4);
        self.through(a, tb, sides_b, &mut names);
        self.through(b, ta, sides_a, &mut names);
        names.sort_unstable();
        names.dedup();
        if names.is_empty() || names.iter().all(|n| matches!(n, Name::Corner(c) if ta.contains(c) && tb.contains(c))) {
            return None;
        }
        let mut meeting = Meeting { points: [names.clone(), names.clone()], ..Default::default() };
        // Two names may be one point (an edge through an edge); which ones is seen when all points are placed.
        for (i, &p) in names.iter().enumerate() {
            for &q in &names[i + 1..] {
                meeting.cuts[0].push((p, q, Knife::Triangle(b)));
                meeting.cuts[1].push((p, q, Knife::Triangle(a)));
            }
        }
        Some(meeting)
    }

    /// Where the border of a triangle with corners `t`, that lie on `sides` of the plane of `other`, goes through `other`.
    fn through(&self, other: u32, t: [u32; 3], sides: [i8; 3], names: &mut Vec<Name>) {
        for k in 0..3 {
            let (p, q) = (t[k], t[(k + 1) % 3]);
            let (sp, sq) = (sides[k], sides[(k + 1) % 3]);
            if sp == 0 {
                match self.place(other, p) {
                    Place::Outside => {}
                    Place::Corner(_) | Place::Within => names.push(Name::Corner(p)),
                }
            }
            if sp * sq < 0 {
                let c = self.triangles[other as usize];
                let turns = [0, 1, 2]
                    .map(|i| Plane::new(self.at(p), self.at(q), self.at(c[i])).side_of(self.at(c[(i + 1) % 3])));
                let outside = turns.contains(&1) && turns.contains(&-1);
                if outside {
                    continue;
                }
                match turns.iter().filter(|s| **s == 0).count() {
                    2 => {
                        let i = (0..3).find(|&i| turns[i] == 0 && turns[(i + 2) % 3] == 0).unwrap_or(0);
                        names.push(Name::Corner(c[i]));
                    }
                    1 => {
                        let i = turns.iter().position(|s| *s == 0).unwrap_or(0);
                        let (e, f) = (edge(p, q), edge(c[i], c[(i + 1) % 3]));
                        names.push(Name::Crossed(e.min(f), e.max(f)));
                    }
                    _ => names.push(Name::Pierced(edge(p, q), other)),
                }
            }
        }
    }

    /// Where a corner that lies in the plane of a triangle lies in it.
    fn place(&self, triangle: u32, corner: u32) -> Place {
        let t = self.triangles[triangle as usize];
        if t.contains(&corner) {
            return Place::Corner(corner);
        }
        let axis = self.planes[triangle as usize].axis();
        let turns = [0, 1, 2].map(|k| self.turn(axis, t[k], t[(k + 1) % 3], corner));
        if turns.contains(&1) && turns.contains(&-1) { Place::Outside } else { Place::Within }
    }

    fn turn(&self, axis: usize, a: u32, b: u32, c: u32) -> i8 {
        let (u, v) = ((axis + 1) % 3, (axis + 2) % 3);
        let (a, b, c) = (self.at(a), self.at(b), self.at(c));
        ((b[u] - a[u]) * (c[v] - a[v]) - (b[v] - a[v]) * (c[u] - a[u])).signum() as i8
    }

    /// Two triangles in one plane: each gets what lies in it of the other's edges.
    fn meet_in_plane(&self, a: u32, b: u32) -> Option<Meeting> {
        let axis = self.planes[a as usize].axis();
        let mut meeting = Meeting { coplanar: true, ..Default::default() };
        for (side, (host, guest)) in [(a, b), (b, a)].into_iter().enumerate() {
            let (h, g) = (self.triangles[host as usize], self.triangles[guest as usize]);
            for k in 0..3 {
                let (p, q) = (g[k], g[(k + 1) % 3]);
                let mut on: Vec<Name> =
                    [p, q].into_iter().filter(|&c| self.place(host, c) != Place::Outside).map(Name::Corner).collect();
                for i in 0..3 {
                    let (c, d) = (h[i], h[(i + 1) % 3]);
                    let (tc, td) = (self.turn(axis, p, q, c), self.turn(axis, p, q, d));
                    let (tp, tq) = (self.turn(axis, c, d, p), self.turn(axis, c, d, q));
                    if tc * td < 0 && tp * tq < 0 {
                        let (e, f) = (edge(p, q), edge(c, d));
                        on.push(Name::Crossed(e.min(f), e.max(f)));
                    }
                    // A corner of the host on the guest's edge.
                    let beyond = |u: usize| {
                        let (x, from, to) = (self.at(c)[u], self.at(p)[u], self.at(q)[u]);
                        x < from.min(to) || x > from.max(to)
                    };
                    if tc == 0 && !beyond((axis + 1) % 3) && !beyond((axis + 2) % 3) {
                        on.push(Name::Corner(c));
                    }
                }
                on.sort_unstable();
                on.dedup();
                for (i, &x) in on.iter().enumerate() {
                    for &y in &on[i + 1..] {
                        meeting.cuts[side].push((x, y, Knife::Edge(p, q)));
                    }
                }
                meeting.points[side].extend(on);
            }
            meeting.points[side].sort_unstable();
            meeting.points[side].dedup();
        }
        let common = |n: &Name| matches!(n, Name::Corner(c) if self.triangles[a as usize].contains(c) && self.triangles[b as usize].contains(c));
        if meeting.points.iter().flatten().all(common) && self.triangles_differ(a, b) { None } else { Some(meeting) }
    }

    fn triangles_differ(&self, a: u32, b: u32) -> bool {
        let sorted = |t: u32| {
            let mut t = self.triangles[t as usize];
            t.sort_unstable();
            t
        };
        sorted(a) != sorted(b)
    }
}
