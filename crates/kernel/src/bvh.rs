//! A bounding volume hierarchy over boxes: overlap, segment and nearest queries.
//!
//! Built once for a set of boxes by median splits on the longest axis, in parallel; O(n log n). Nodes are stored in
//! pre-order; splits fall on multiples of the leaf size, so a subtree of `n` items always has `2·⌈n/LEAF⌉ − 1` nodes and
//! no child links are needed. Items are visited in a fixed order: results do not depend on the number of threads.

use std::ops::ControlFlow;

use rayon::prelude::*;

use crate::{Cancelled, Point, Progress};

/// An axis-aligned box, mm.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Aabb {
    /// The corner with the least coordinates.
    pub min: Point,
    /// The corner with the greatest coordinates.
    pub max: Point,
}

impl Aabb {
    /// The box of nothing.
    pub const EMPTY: Self = Self { min: Point::splat(f64::INFINITY), max: Point::splat(f64::NEG_INFINITY) };

    /// The smallest box round the points.
    pub fn of(points: impl IntoIterator<Item = Point>) -> Self {
        points.into_iter().fold(Self::EMPTY, |b, p| Self { min: b.min.min(p), max: b.max.max(p) })
    }

    /// The smallest box round both.
    #[inline]
    pub fn union(self, other: Self) -> Self {
        Self { min: self.min.min(other.min), max: self.max.max(other.max) }
    }

    /// This box grown by `by` on all sides.
    pub fn grown(self, by: f64) -> Self {
        Self { min: self.min - by, max: self.max + by }
    }

    /// Whether the boxes share a point.
    #[inline]
    pub fn overlaps(&self, other: &Self) -> bool {
        self.min.cmple(other.max).all() && other.min.cmple(self.max).all()
    }

    /// Whether the point lies inside or on the box.
    pub fn contains(&self, p: Point) -> bool {
        self.min.cmple(p).all() && p.cmple(self.max).all()
    }

    /// The middle.
    pub fn centre(&self) -> Point {
        (self.min + self.max) * 0.5
    }

    /// The edge lengths; zero for the box of nothing.
    pub fn size(&self) -> Point {
        (self.max - self.min).max(Point::ZERO)
    }

    /// The length of the diagonal.
    pub fn diagonal(&self) -> f64 {
        self.size().length()
    }

    /// The squared distance from a point to the box.
    fn distance_squared(&self, p: Point) -> f64 {
        (self.min - p).max(p - self.max).max(Point::ZERO).length_squared()
    }

    /// Whether the segment from `a` to `b` may meet the box (never a false no).
    fn meets_segment(&self, a: Point, b: Point) -> bool {
        let half = (b - a) * 0.5;
        let centre = (a + b) * 0.5 - self.centre();
        let extent = self.size() * 0.5;
        let reach = half.abs();
        // Rounding slack: a few units in the last place of the coordinates involved.
        let slack = (a.abs().max(b.abs()).max(self.min.abs()).max(self.max.abs())) * 1e-14;
        if (centre.abs() - extent - reach).cmpgt(slack).any() {
            return false;
        }
        let cross = half.cross(centre).abs();
        let bound = Point::new(
            extent.y * reach.z + extent.z * reach.y,
            extent.x * reach.z + extent.z * reach.x,
            extent.x * reach.y + extent.y * reach.x,
        );
        let slack = slack.max_element() * (reach.max_element() + extent.max_element() + 1e-300) * 4.0;
        cross.cmple(bound + slack).all()
    }
}

/// The most items in a leaf. Smaller leaves cost memory, larger ones cost tests.
const LEAF: usize = 4;
/// Below this many items a subtree is built by one thread.
const PARALLEL_FROM: usize = 8192;

/// The hierarchy.
#[derive(Clone, Debug)]
pub struct Bvh {
    nodes: Vec<Aabb>,
    /// Item numbers in leaf order.
    items: Vec<u32>,
    boxes: Vec<Aabb>,
}

impl Bvh {
    /// Builds the hierarchy over `boxes`; items are named by their place in it.
    pub fn new(boxes: Vec<Aabb>) -> Self {
        let mut placed: Vec<Placed> = boxes
            .par_iter()
            .enumerate()
            .map(|(item, b)| Placed { centre: b.centre().as_vec3().to_array(), item: item as u32 })
            .collect();
        let mut nodes = vec![Aabb::EMPTY; node_count(placed.len())];
        if !placed.is_empty() {
            build(&boxes, &mut placed, &mut nodes);
        }
        Self { nodes, items: placed.into_iter().map(|p| p.item).collect(), boxes }
    }

    /// The box round everything.
    pub fn bounds(&self) -> Aabb {
        self.nodes.first().copied().unwrap_or(Aabb::EMPTY)
    }

    /// The box of an item.
    pub fn item_box(&self, item: u32) -> &Aabb {
        &self.boxes[item as usize]
    }

    /// Calls `visit` for every item whose box overlaps `query`, until it breaks.
    pub fn overlapping(&self, query: &Aabb, mut visit: impl FnMut(u32) -> ControlFlow<()>) -> ControlFlow<()> {
        self.descend(&|b: &Aabb| b.overlaps(query), &mut visit)
    }

    /// Calls `visit` for every item whose box the segment may meet, until it breaks.
    pub fn along_segment(&self, a: Point, b: Point, mut visit: impl FnMut(u32) -> ControlFlow<()>) -> ControlFlow<()> {
        self.descend(&|node: &Aabb| node.meets_segment(a, b), &mut visit)
    }

    /// All pairs `(a, b)`, `a < b`, of items whose boxes overlap and for which `test` holds, ascending. Both sides descend
    /// together, so neighbours are met once and subtrees that stand apart never.
    ///
    /// # Errors
    /// [`Cancelled`].
    pub fn overlapping_pairs(
        &self,
        progress: &Progress,
        test: impl Fn(u32, u32) -> bool + Sync,
    ) -> Result<Vec<(u32, u32)>, Cancelled> {
        let whole = Subtree { node: 0, first: 0, count: self.items.len() };
        // Pieces small enough to be shared out evenly and to be cancelled soon.
        let piece = (self.items.len() / 256).max(LEAF);
        let (mut todo, mut pieces) = (vec![(whole, whole)], Vec::new());
        while let Some((a, b)) = todo.pop() {
            if a.count.max(b.count) > piece { self.split_pair(a, b, &mut todo) } else { pieces.push((a, b)) }
        }
        let found: Result<Vec<Vec<(u32, u32)>>, Cancelled> = pieces
            .into_par_iter()
            .map(|(a, b)| {
                progress.check()?;
                let (mut todo, mut pairs) = (vec![(a, b)], Vec::new());
                while let Some((a, b)) = todo.pop() {
                    if a.count.max(b.count) > LEAF {
                        self.split_pair(a, b, &mut todo);
                    } else {
                        self.leaf_pairs(a, b, &test, &mut pairs);
                    }
                }
                Ok(pairs)
            })
            .collect();
        let mut pairs = found?.concat();
        pairs.par_sort_unstable();
        Ok(pairs)
    }

    /// Splits the larger side of a pair of subtrees that may meet; a subtree paired with itself gives three pairs.
    fn split_pair(&self, a: Subtree, b: Subtree, into: &mut Vec<(Subtree, Subtree)>) {
        if a.node == b.node {
            let (left, right) = a.children();
            into.extend([(left, left), (right, right), (left, right)]);
        } else if self.nodes[a.node].overlaps(&self.nodes[b.node]) {
            let (large, small) = if a.count >= b.count { (a, b) } else { (b, a) };
            let (left, right) = large.children();
            into.extend([(left, small), (right, small)]);
        }
    }

    fn leaf_pairs(&self, a: Subtree, b: Subtree, test: &impl Fn(u32, u32) -> bool, into: &mut Vec<(u32, u32)>) {
        if a.node != b.node && !self.nodes[a.node].overlaps(&self.nodes[b.node]) {
            return;
        }
        for (n, &i) in self.items[a.first..a.first + a.count].iter().enumerate() {
            let others = if a.node == b.node { b.first + n + 1 } else { b.first };
            for &j in &self.items[others..b.first + b.count] {
                let (low, high) = (i.min(j), i.max(j));
                if self.boxes[i as usize].overlaps(&self.boxes[j as usize]) && test(low, high) {
                    into.push((low, high));
                }
            }
        }
    }

    fn descend(
        &self,
        meets: &impl Fn(&Aabb) -> bool,
        visit: &mut impl FnMut(u32) -> ControlFlow<()>,
    ) -> ControlFlow<()> {
        // (node, first item, item count)
        let mut stack = vec![(0usize, 0usize, self.items.len())];
        while let Some((node, first, count)) = stack.pop() {
            if count == 0 || !meets(&self.nodes[node]) {
                continue;
            }
            if count <= LEAF {
                for &item in &self.items[first..first + count] {
                    if meets(&self.boxes[item as usize]) {
                        visit(item)?;
                    }
                }
            } else {
                let left = left_count(count);
                stack.push((node + 1 + node_count(left), first + left, count - left));
                stack.push((node + 1, first, left));
            }
        }
        ControlFlow::Continue(())
    }

    /// The item nearest to `p` by `distance_squared`, which gives `None` for items that do not count and must not be less
    /// than the distance to the item's box. Only items nearer than `limit` are found. Ties go to the lower item.
    pub fn nearest(
        &self,
        p: Point,
        limit: f64,
        distance_squared: impl FnMut(u32) -> Option<f64>,
    ) -> Option<(u32, f64)> {
        self.nearest_within(p, limit, usize::MAX, distance_squared)
    }

    /// [`Bvh::nearest`] in the first so many nodes, nearer ones first: where boxes lie through each other everywhere no order
    /// among them spares anything, and each query would look at all.
    pub fn nearest_within(
        &self,
        p: Point,
        limit: f64,
        most: usize,
        mut distance_squared: impl FnMut(u32) -> Option<f64>,
    ) -> Option<(u32, f64)> {
        /// A tree of four thousand million items is half as deep.
        const DEEP: usize = 64;
        let mut best: Option<(u32, f64)> = None;
        let mut within = limit * limit;
        let whole = self.nodes.first()?;
        // Each node with its first item, how many there are and how far off it is.
        let mut stack = [(0usize, 0usize, 0usize, 0.0f64); DEEP];
        stack[0] = (0, 0, self.items.len(), whole.distance_squared(p));
        let (mut top, mut looked_at) = (1, 0);
        while top > 0 && looked_at < most {
            top -= 1;
            let (node, first, count, off) = stack[top];
            if off > within {
                continue;
            }
            looked_at += 1;
            if count <= LEAF {
                for &item in &self.items[first..first + count] {
                    if self.boxes[item as usize].distance_squared(p) > within {
                        continue;
                    }
                    let Some(d) = distance_squared(item) else { continue };
                    let better = match best {
                        None => d <= within,
                        Some((held, least)) => d < least || (d == least && item < held),
                    };
                    if better {
                        best = Some((item, d));
                        within = d;
                    }
                }
            } else {
                let left = left_count(count);
                let (low, high) = (node + 1, node + 1 + node_count(left));
                let near = (low, first, left, self.nodes[low].distance_squared(p));
                let far = (high, first + left, count - left, self.nodes[high].distance_squared(p));
                let (near, far) = if far.3 < near.3 { (far, near) } else { (near, far) };
                stack[top] = far;
                stack[top + 1] = near;
                top += 2;
            }
        }
        best.map(|(item, d)| (item, d.sqrt()))
    }
}

/// A node with the items under it.
#[derive(Clone, Copy)]
struct Subtree {
    node: usize,
    first: usize,
    count: usize,
}

impl Subtree {
    /// The two halves of a subtree of more than [`LEAF`] items.
    fn children(self) -> (Self, Self) {
        let left = left_count(self.count);
        let near = Self { node: self.node + 1, first: self.first, count: left };
        let node = self.node + 1 + node_count(left);
        (near, Self { node, first: self.first + left, count: self.count - left })
    }
}

fn node_count(items: usize) -> usize {
    if items == 0 { 0 } else { 2 * items.div_ceil(LEAF) - 1 }
}

fn left_count(items: usize) -> usize {
    items.div_ceil(LEAF) / 2 * LEAF
}

/// An item with where it is. Kept side by side, so that splitting walks through memory in order; single precision is enough to
/// choose a split by.
#[derive(Clone, Copy)]
struct Placed {
    centre: [f32; 3],
    item: u32,
}

fn build(boxes: &[Aabb], items: &mut [Placed], nodes: &mut [Aabb]) -> Aabb {
    let (node, below) = nodes.split_at_mut(1);
    if items.len() <= LEAF {
        node[0] = items.iter().fold(Aabb::EMPTY, |b, p| b.union(boxes[p.item as usize]));
        return node[0];
    }
    let (mut least, mut most) = ([f32::INFINITY; 3], [f32::NEG_INFINITY; 3]);
    for p in items.iter() {
        for axis in 0..3 {
            least[axis] = least[axis].min(p.centre[axis]);
            most[axis] = most[axis].max(p.centre[axis]);
        }
    }
    let size = [0, 1, 2].map(|axis| most[axis] - least[axis]);
    let axis = if size[0] >= size[1] && size[0] >= size[2] { 0 } else { usize::from(size[1] < size[2]) + 1 };
    let left = left_count(items.len());
    items.select_nth_unstable_by(left, |a, b| a.centre[axis].total_cmp(&b.centre[axis]).then(a.item.cmp(&b.item)));
    let (low, high) = items.split_at_mut(left);
    let (low_nodes, high_nodes) = below.split_at_mut(node_count(left));
    let (a, b) = if low.len() >= PARALLEL_FROM {
        rayon::join(|| build(boxes, low, low_nodes), || build(boxes, high, high_nodes))
    } else {
        (build(boxes, low, low_nodes), build(boxes, high, high_nodes))
    };
    node[0] = a.union(b);
    node[0]
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn boxes() -> impl Strategy<Value = Vec<Aabb>> {
        proptest::collection::vec(((-9i8..9, -9i8..9, -9i8..9), (0i8..4, 0i8..4, 0i8..4)), 0..60).prop_map(|list| {
            list.into_iter()
                .map(|((x, y, z), (w, h, d))| {
                    let min = Point::new(x.into(), y.into(), z.into());
                    Aabb { min, max: min + Point::new(w.into(), h.into(), d.into()) }
                })
                .collect()
        })
    }

    proptest! {
        #[test]
        fn queries_agree_with_trying_every_box(list in boxes(), q in (-9i8..9, -9i8..9, -9i8..9)) {
            let bvh = Bvh::new(list.clone());
            let p = Point::new(q.0.into(), q.1.into(), q.2.into()) + 0.3;
            let query = Aabb { min: p, max: p + 3.0 };
            let mut found = vec![];
            let _ = bvh.overlapping(&query, |i| { found.push(i); ControlFlow::Continue(()) });
            found.sort_unstable();
            let expected: Vec<u32> = (0..list.len() as u32).filter(|&i| list[i as usize].overlaps(&query)).collect();
            prop_assert_eq!(found, expected);

            let n = list.len() as u32;
            let brute = (0..n).flat_map(|i| (i + 1..n).map(move |j| (i, j)));
            let brute: Vec<_> = brute.filter(|&(i, j)| list[i as usize].overlaps(&list[j as usize])).collect();
            prop_assert_eq!(bvh.overlapping_pairs(&Progress::unwatched(), |_, _| true).unwrap(), brute);

            let nearest = bvh.nearest(p, f64::INFINITY, |i| Some(list[i as usize].distance_squared(p)));
            let brute = (0..list.len() as u32)
                .map(|i| (i, list[i as usize].distance_squared(p)))
                .min_by(|a, b| a.1.total_cmp(&b.1).then(a.0.cmp(&b.0)));
            prop_assert_eq!(nearest.map(|n| n.0), brute.map(|n| n.0));
            // Of fewer nodes none is found that is nearer.
            let few = bvh.nearest_within(p, f64::INFINITY, 3, |i| Some(list[i as usize].distance_squared(p)));
            prop_assert!(few.is_none_or(|few| nearest.is_some_and(|n| few.1 >= n.1)));

            // Every box that holds a point of the segment must be met.
            let (a, b) = (p, Point::new(-7.7, 8.1, 0.4));
            let mut met = vec![false; list.len()];
            let _ = bvh.along_segment(a, b, |i| { met[i as usize] = true; ControlFlow::Continue(()) });
            for step in 0..=64 {
                let on = a.lerp(b, f64::from(step) / 64.0);
                for (i, bx) in list.iter().enumerate() {
                    prop_assert!(!bx.contains(on) || met[i]);
                }
            }
        }
    }
}
