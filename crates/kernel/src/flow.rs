//! The cheapest cut between two sides of a graph (Dinic 1970): which nodes stay with the source when the flow is greatest.

use std::collections::VecDeque;

/// A graph whose links carry so much in each direction.
pub struct Flow {
    /// For each node the arcs that leave it; arc `2k` and arc `2k + 1` are the two directions of a link.
    leaving: Vec<Vec<u32>>,
    to: Vec<u32>,
    room: Vec<i64>,
}

impl Flow {
    /// A graph of so many nodes without links.
    pub fn new(nodes: usize) -> Self {
        Self { leaving: vec![vec![]; nodes], to: vec![], room: vec![] }
    }

    /// Links two nodes: how much the link carries from the first to the second, and back.
    pub fn link(&mut self, a: u32, b: u32, there: i64, back: i64) {
        let arc = self.to.len() as u32;
        self.leaving[a as usize].push(arc);
        self.leaving[b as usize].push(arc + 1);
        self.to.extend([b, a]);
        self.room.extend([there, back]);
    }

    /// For each node whether the cheapest cut leaves it with the source; of cuts that cost the same the one nearest to it.
    pub fn with_source(mut self, source: u32, sink: u32) -> Vec<bool> {
        loop {
            let level = self.levels(source);
            if level[sink as usize] == u32::MAX {
                return level.into_iter().map(|l| l != u32::MAX).collect();
            }
            let mut next = vec![0; self.leaving.len()];
            while self.push(source, sink, &level, &mut next) {}
        }
    }

    /// How many arcs with room left each node is away from the source.
    fn levels(&self, source: u32) -> Vec<u32> {
        let mut level = vec![u32::MAX; self.leaving.len()];
        level[source as usize] = 0;
        let mut waiting = VecDeque::from([source]);
        while let Some(n) = waiting.pop_front() {
            for &arc in &self.leaving[n as usize] {
                let to = self.to[arc as usize];
                if self.room[arc as usize] > 0 && level[to as usize] == u32::MAX {
                    level[to as usize] = level[n as usize] + 1;
                    waiting.push_back(to);
                }
            }
        }
        level
    }

    /// Sends what one way to the sink carries along it. `next` is how far each node's arcs were tried in this phase.
    fn push(&mut self, source: u32, sink: u32, level: &[u32], next: &mut [usize]) -> bool {
        let mut way: Vec<u32> = Vec::new();
        let mut at = source;
        while at != sink {
            let Some(&arc) = self.leaving[at as usize].get(next[at as usize]) else {
                // Nothing leads on from here: one step back.
                let Some(last) = way.pop() else { return false };
                at = self.to[last as usize ^ 1];
                next[at as usize] += 1;
                continue;
            };
            let to = self.to[arc as usize];
            if self.room[arc as usize] > 0 && level[to as usize] == level[at as usize] + 1 {
                way.push(arc);
                at = to;
            } else {
                next[at as usize] += 1;
            }
        }
        let most = way.iter().map(|a| self.room[*a as usize]).min().unwrap_or(0);
        for arc in way {
            self.room[arc as usize] -= most;
            self.room[arc as usize ^ 1] += most;
        }
        true
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Against all cuts of a small graph.
        #[test]
        fn no_cut_is_cheaper(links in proptest::collection::vec((0u32..6, 0u32..6, 0i64..20, 0i64..20), 1..20)) {
            let links: Vec<_> = links.into_iter().filter(|l| l.0 != l.1).collect();
            let mut flow = Flow::new(6);
            links.iter().for_each(|&(a, b, there, back)| flow.link(a, b, there, back));
            let cost = |with: &dyn Fn(u32) -> bool| -> i64 {
                let one = |&(a, b, there, back): &(u32, u32, i64, i64)| match (with(a), with(b)) {
                    (true, false) => there,
                    (false, true) => back,
                    _ => 0,
                };
                links.iter().map(one).sum()
            };
            let found = flow.with_source(0, 5);
            prop_assert!(found[0] && !found[5]);
            let least = (0u32..16).map(|set| cost(&|n| n == 0 || (n != 5 && set >> (n - 1) & 1 == 1))).min();
            prop_assert_eq!(Some(cost(&|n| found[n as usize])), least);
        }
    }
}
