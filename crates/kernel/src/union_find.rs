//! Disjoint sets over `0..n`, with the smallest member as the name of its set (so results do not depend on order).

/// Disjoint sets with path halving.
#[derive(Clone, Debug)]
pub struct UnionFind {
    parent: Vec<u32>,
}

impl UnionFind {
    /// `n` sets of one member each.
    pub fn new(n: usize) -> Self {
        Self { parent: (0..n as u32).collect() }
    }

    /// The smallest member of the set `a` is in.
    pub fn find(&mut self, mut a: u32) -> u32 {
        while self.parent[a as usize] != a {
            let up = self.parent[self.parent[a as usize] as usize];
            self.parent[a as usize] = up;
            a = up;
        }
        a
    }

    /// Joins the sets of `a` and `b`.
    pub fn union(&mut self, a: u32, b: u32) {
        let (a, b) = (self.find(a), self.find(b));
        let (low, high) = if a < b { (a, b) } else { (b, a) };
        self.parent[high as usize] = low;
    }

    /// For each member the number of its set, and how many sets there are. Sets are numbered by their first member.
    pub fn number_sets(mut self) -> (Vec<u32>, usize) {
        let n = self.parent.len();
        let mut number = vec![0u32; n];
        let mut count = 0u32;
        for i in 0..n as u32 {
            let root = self.find(i);
            if root == i {
                number[i as usize] = count;
                count += 1;
            } else {
                number[i as usize] = number[root as usize];
            }
        }
        (number, count as usize)
    }
}
