//! Which triangles share which edges. Knows indices only, no positions.
//!
//! A *half* `3·t + k` is the side of triangle `t` from its corner `k` to corner `k+1`. An *edge* is an unordered pair of
//! points with all the halves that run along it. Triangles that name a point twice take no part.
//! Cost: linear; halves are put in buckets by their lower point and the short buckets sorted.

/// The edge a half of a degenerate triangle has.
pub const NO_EDGE: u32 = u32::MAX;

/// What the halves along an edge say about the surface there.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum EdgeUse {
    /// One triangle: the surface ends here.
    Naked,
    /// Two triangles that agree about the outside.
    Regular,
    /// Two triangles that disagree about the outside.
    Clashing,
    /// Three or more triangles.
    Crowded,
}

/// Edges of a set of triangles.
#[derive(Clone, Debug)]
pub struct Topology<'a> {
    triangles: &'a [[u32; 3]],
    /// For each half its edge, or [`NO_EDGE`].
    edge_of: Vec<u32>,
    /// `halves[first[e]..first[e + 1]]` run along edge `e`, in ascending order.
    first: Vec<u32>,
    halves: Vec<u32>,
}

impl<'a> Topology<'a> {
    /// Finds the edges of `triangles` over `point_count` points.
    pub fn new(triangles: &'a [[u32; 3]], point_count: usize) -> Self {
        let low_high = |half: u32| {
            let (a, b) = ends(triangles, half);
            if a < b { (a, b) } else { (b, a) }
        };
        let real = |t: &[u32; 3]| t[0] != t[1] && t[1] != t[2] && t[2] != t[0];

        let mut start = vec![0u32; point_count + 1];
        for t in triangles.iter().filter(|t| real(t)) {
            start[t[0].min(t[1]) as usize + 1] += 1;
            start[t[1].min(t[2]) as usize + 1] += 1;
            start[t[2].min(t[0]) as usize + 1] += 1;
        }
        for i in 0..point_count {
            start[i + 1] += start[i];
        }
        let total = start[point_count] as usize;
        let mut bucket = vec![(0u32, 0u32); total];
        let mut next = start.clone();
        for (t, corners) in triangles.iter().enumerate().filter(|(_, t)| real(t)) {
            for k in 0..3 {
                let (a, b) = (corners[k], corners[(k + 1) % 3]);
                let slot = &mut next[a.min(b) as usize];
                bucket[*slot as usize] = (a.max(b), (3 * t + k) as u32);
                *slot += 1;
            }
        }

        let mut edge_of = vec![NO_EDGE; triangles.len() * 3];
        let mut first = Vec::with_capacity(total / 2 + 2);
        let mut halves = Vec::with_capacity(total);
        for v in 0..point_count {
            let run = &mut bucket[start[v] as usize..start[v + 1] as usize];
            run.sort_unstable();
            let mut last_high = None;
            for &(high, half) in run.iter() {
                if last_high != Some(high) {
                    first.push(halves.len() as u32);
                    last_high = Some(high);
                }
                edge_of[half as usize] = first.len() as u32 - 1;
                halves.push(half);
            }
        }
        first.push(total as u32);
        debug_assert!(halves.iter().all(|&h| low_high(h).0 < low_high(h).1));
        Self { triangles, edge_of, first, halves }
    }

    /// How many edges there are.
    pub fn edge_count(&self) -> usize {
        self.first.len() - 1
    }

    /// The triangles this was made of.
    pub fn triangles(&self) -> &'a [[u32; 3]] {
        self.triangles
    }

    /// The edge along which `half` runs, or [`NO_EDGE`].
    pub fn edge_of(&self, half: u32) -> u32 {
        self.edge_of[half as usize]
    }

    /// The halves along `edge`.
    pub fn halves(&self, edge: u32) -> &[u32] {
        &self.halves[self.first[edge as usize] as usize..self.first[edge as usize + 1] as usize]
    }

    /// The points `half` runs from and to.
    pub fn ends(&self, half: u32) -> (u32, u32) {
        ends(self.triangles, half)
    }

    /// What the halves along `edge` say.
    pub fn edge_use(&self, edge: u32) -> EdgeUse {
        match *self.halves(edge) {
            [_] => EdgeUse::Naked,
            [a, b] if self.ends(a).0 == self.ends(b).1 => EdgeUse::Regular,
            [_, _] => EdgeUse::Clashing,
            _ => EdgeUse::Crowded,
        }
    }

    /// All edges of the given use, ascending.
    pub fn edges_with(&self, wanted: EdgeUse) -> impl Iterator<Item = u32> + '_ {
        (0..self.edge_count() as u32).filter(move |&e| self.edge_use(e) == wanted)
    }

    /// The halves of naked edges, ascending by edge.
    pub fn naked_halves(&self) -> Vec<u32> {
        self.edges_with(EdgeUse::Naked).map(|e| self.halves(e)[0]).collect()
    }
}

/// The points a half runs from and to.
pub fn ends(triangles: &[[u32; 3]], half: u32) -> (u32, u32) {
    let t = triangles[half as usize / 3];
    let k = half as usize % 3;
    (t[k], t[(k + 1) % 3])
}

/// The half that follows `half` in its triangle.
pub fn next(half: u32) -> u32 {
    if half % 3 == 2 { half - 2 } else { half + 1 }
}

/// The half before `half` in its triangle.
pub fn previous(half: u32) -> u32 {
    if half.is_multiple_of(3) { half + 2 } else { half - 1 }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn edges_are_told_apart_by_their_triangles() {
        // 0-1 has three triangles, 1-2 two that agree, 3-1 clash with nobody but is naked.
        let triangles = [[0, 1, 2], [1, 0, 3], [0, 1, 4], [2, 1, 5], [7, 7, 8]];
        let topology = Topology::new(&triangles, 9);
        let use_of = |a: u32, b: u32| {
            let edge = (0..topology.edge_count() as u32)
                .find(|&e| {
                    let (x, y) = topology.ends(topology.halves(e)[0]);
                    (x, y) == (a, b) || (y, x) == (a, b)
                })
                .unwrap();
            topology.edge_use(edge)
        };
        assert_eq!(use_of(0, 1), EdgeUse::Crowded);
        assert_eq!(use_of(1, 2), EdgeUse::Regular);
        assert_eq!(use_of(1, 3), EdgeUse::Naked);
        assert_eq!(topology.edge_of(12), NO_EDGE, "a triangle that names a point twice takes no part");
        let clash = [[0, 1, 2], [0, 1, 3]];
        assert_eq!(Topology::new(&clash, 4).edges_with(EdgeUse::Clashing).count(), 1);
    }
}
