//! What two surfaces share: their triangles matched corner for corner, so that only the others need to be looked at.
//!
//! Most steps leave most triangles where they were. Which those are is found once and used by all that compares: crossings of
//! the new triangles only ([`crate::crossings::crossing_pairs_after`]), how far the surface moved ([`crate::deviation`]), what was
//! lost ([`crate::harm`]). Triangles are matched one to one, whichever way round they name their corners, first those that stand
//! in the same order, then the rest by hashes of their places. Cost: linear; the rest is sorted.

use std::sync::OnceLock;

use rayon::prelude::*;

use crate::crossings::triangle_bvh;
use crate::{Bvh, Cancelled, Mesh, Point, Progress};

/// A triangle the earlier surface does not have.
pub const NEW: u32 = u32::MAX;

/// One of two surfaces, to be compared with the other.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Side<'c> {
    pub mesh: &'c Mesh,
    /// Those of its triangles that the other does not have.
    pub differ: &'c [u32],
    pub other: &'c Mesh,
    other_bvh: &'c OnceLock<Bvh>,
}

impl<'c> Side<'c> {
    /// The hierarchy over the other's triangles.
    pub fn other_bvh(&self) -> &'c Bvh {
        self.other_bvh.get_or_init(|| triangle_bvh(self.other))
    }
}

/// A surface beside the same surface after something was done to it.
#[derive(Debug)]
pub struct Compared<'a> {
    before: &'a Mesh,
    after: &'a Mesh,
    kept: Vec<u32>,
    gone: Vec<u32>,
    new: Vec<u32>,
    before_bvh: OnceLock<Bvh>,
    after_bvh: OnceLock<Bvh>,
}

impl<'a> Compared<'a> {
    /// Matches the triangles of two surfaces.
    ///
    /// # Errors
    /// [`Cancelled`].
    pub fn new(before: &'a Mesh, after: &'a Mesh, progress: &Progress) -> Result<Self, Cancelled> {
        let (ours, theirs) = rayon::join(|| names(before, &bits), || names(after, &bits));
        progress.check()?;
        let mut kept = vec![NEW; after.triangles().len()];
        let mut gone = in_order((before, &ours), (after, &theirs), &mut kept);
        progress.check()?;
        let new: Vec<u32> = (0..kept.len() as u32).filter(|t| kept[*t as usize] == NEW).collect();
        let pairs = by_place((before, &ours, &gone), (after, &theirs, &new), &bits);
        progress.check()?;
        let mut found = vec![false; before.triangles().len()];
        for (b, a) in pairs {
            kept[a as usize] = b;
            found[b as usize] = true;
        }
        gone.retain(|t| !found[*t as usize]);
        let new = new.into_iter().filter(|t| kept[*t as usize] == NEW).collect();
        Ok(Self { before, after, kept, gone, new, before_bvh: OnceLock::new(), after_bvh: OnceLock::new() })
    }

    /// The earlier surface.
    pub fn before(&self) -> &'a Mesh {
        self.before
    }

    /// The later surface.
    pub fn after(&self) -> &'a Mesh {
        self.after
    }

    /// For each triangle of the later surface which one of the earlier it is, or [`NEW`].
    pub fn kept(&self) -> &[u32] {
        &self.kept
    }

    /// Triangles of the earlier surface that the later does not have, ascending.
    pub fn gone(&self) -> &[u32] {
        &self.gone
    }

    /// Triangles of the later surface that the earlier does not have, ascending.
    pub fn new_ones(&self) -> &[u32] {
        &self.new
    }

    pub(crate) fn earlier(&self) -> Side<'_> {
        Side { mesh: self.before, differ: &self.gone, other: self.after, other_bvh: &self.after_bvh }
    }

    pub(crate) fn later(&self) -> Side<'_> {
        Side { mesh: self.after, differ: &self.new, other: self.before, other_bvh: &self.before_bvh }
    }

    /// The hierarchy over the later triangles, made when first asked for.
    pub fn after_bvh(&self) -> &Bvh {
        self.after_bvh.get_or_init(|| triangle_bvh(self.after))
    }

    /// The triangles that are gone and new apart from those that only moved by rounding: where both have one whose corners fall
    /// on the same places of a grid.
    pub(crate) fn but_for_rounding(&self, step: f64) -> (Vec<u32>, Vec<u32>) {
        let place = |p: Point| (p / step).round().to_array().map(|x| x as i64 as u64);
        if self.gone.is_empty() || self.new.is_empty() {
            return (self.gone.clone(), self.new.clone());
        }
        let (ours, theirs) = (names(self.before, &place), names(self.after, &place));
        let pairs = by_place((self.before, &ours, &self.gone), (self.after, &theirs, &self.new), &place);
        let (same_before, same_after): (Vec<u32>, Vec<u32>) = pairs.into_iter().unzip();
        let without = |all: &[u32], mut same: Vec<u32>| {
            same.sort_unstable();
            all.iter().copied().filter(|t| same.binary_search(t).is_err()).collect()
        };
        (without(&self.gone, same_before), without(&self.new, same_after))
    }
}

/// What names a triangle by the places of its corners: equal for equal ones, whichever way round they name their corners.
fn names<P: Fn(Point) -> [u64; 3] + Sync>(mesh: &Mesh, place: &P) -> Vec<u64> {
    let points: Vec<u64> = mesh.points().par_iter().map(|p| hash(place(*p))).collect();
    let sum = |t: &[u32; 3]| t.iter().fold(0, |h: u64, c| h.wrapping_add(points[*c as usize]));
    mesh.triangles().par_iter().map(sum).collect()
}

/// Whether two triangles have the same places.
fn same<P: Fn(Point) -> [u64; 3]>(a: [Point; 3], b: [Point; 3], place: &P) -> bool {
    let sorted = |corners: [Point; 3]| {
        let mut places = corners.map(place);
        places.sort_unstable();
        places
    };
    sorted(a) == sorted(b)
}

/// Matches what stands in the same order in both, walking through them side by side; gives the earlier triangles left over.
fn in_order((before, ours): (&Mesh, &[u64]), (after, theirs): (&Mesh, &[u64]), kept: &mut [u32]) -> Vec<u32> {
    /// So far ahead of the walk a triangle is looked for.
    const AHEAD: usize = 8;
    let one = |b: usize, a: usize| ours[b] == theirs[a] && same(before.corners(b), after.corners(a), &bits);
    let count = ours.len();
    let (mut at, mut left) = (0, Vec::new());
    for (a, kept) in kept.iter_mut().enumerate() {
        if let Some(b) = (at..count.min(at + AHEAD)).find(|b| one(*b, a)) {
            left.extend(at as u32..b as u32);
            *kept = b as u32;
            at = b + 1;
        }
    }
    left.extend(at as u32..count as u32);
    left
}

/// Pairs of some triangles of two meshes that have the same places, by their names, each triangle in one pair at most.
fn by_place<P: Fn(Point) -> [u64; 3] + Sync>(
    (before, ours, of_before): (&Mesh, &[u64], &[u32]),
    (after, theirs, of_after): (&Mesh, &[u64], &[u32]),
    place: &P,
) -> Vec<(u32, u32)> {
    if of_before.is_empty() || of_after.is_empty() {
        return vec![];
    }
    let keyed = |names: &[u64], some: &[u32]| {
        let mut keyed: Vec<(u64, u32)> = some.par_iter().map(|t| (names[*t as usize], *t)).collect();
        keyed.par_sort_unstable();
        keyed
    };
    let (ours, theirs) = (keyed(ours, of_before), keyed(theirs, of_after));
    let (mut i, mut j, mut pairs) = (0, 0, Vec::new());
    while i < ours.len() && j < theirs.len() {
        match ours[i].0.cmp(&theirs[j].0) {
            std::cmp::Ordering::Less => i += 1,
            std::cmp::Ordering::Greater => j += 1,
            std::cmp::Ordering::Equal => {
                pairs.push((ours[i].1, theirs[j].1));
                (i, j) = (i + 1, j + 1);
            }
        }
    }
    // Two that have one name by chance are taken for different ones, which is only slower.
    let is_same = |(b, a): &(u32, u32)| same(before.corners(*b as usize), after.corners(*a as usize), place);
    pairs.into_par_iter().filter(is_same).collect()
}

fn hash(place: [u64; 3]) -> u64 {
    /// An odd constant of evenly mixed bits (2⁶⁴ over the golden ratio).
    const MIX: u64 = 0x9E37_79B9_7F4A_7C15;
    place.iter().fold(MIX, |h: u64, x| {
        let mixed = (h ^ x).wrapping_mul(MIX);
        mixed ^ (mixed >> 29)
    })
}

/// The exact place of a point; both zeros are one.
fn bits(p: Point) -> [u64; 3] {
    (p + Point::ZERO).to_array().map(f64::to_bits)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes::ball;
    use proptest::prelude::*;

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]

        /// Triangles taken out, turned over, doubled and shuffled: exactly what is not there before is new, and the other way
        /// round; what is kept has the same corners.
        #[test]
        fn what_both_have_is_matched_one_to_one(
            out in proptest::collection::vec(0usize..100, 0..30), twice in proptest::collection::vec(0usize..100, 0..5),
            moved in proptest::collection::vec(0usize..50, 0..4), turn in 0usize..7, shuffled: bool,
        ) {
            let before = ball(3.0, 6);
            let (mut points, mut triangles, _) = before.clone().into_parts();
            let n = triangles.len();
            let points_count = points.len();
            moved.iter().for_each(|m| points[m % points_count].x += 0.25);
            let lost: std::collections::BTreeSet<usize> = out.iter().map(|t| t % n).collect();
            triangles.extend(twice.iter().map(|t| before.triangles()[t % n]));
            let mut number = 0..;
            triangles.retain(|_| !lost.contains(&number.next().unwrap()));
            triangles.iter_mut().step_by(turn + 1).for_each(|t| t.rotate_left(turn % 3));
            triangles.iter_mut().step_by(turn + 2).for_each(|t| t.swap(0, 1));
            if shuffled {
                triangles.sort_by_key(|t| t[0].wrapping_mul(2_654_435_769));
            }
            let after = Mesh::with_one_face(points, triangles).unwrap();
            let compared = Compared::new(&before, &after, &Progress::unwatched()).unwrap();
            let named = |m: &Mesh, t: u32| { let mut c = m.corners(t as usize).map(bits); c.sort_unstable(); c };
            let mut used = vec![false; n];
            for (t, from) in compared.kept().iter().enumerate().filter(|(_, from)| **from != NEW) {
                prop_assert_eq!(named(&before, *from), named(&after, t as u32));
                prop_assert!(!std::mem::replace(&mut used[*from as usize], true));
            }
            let count = |m: &Mesh| {
                let mut c = std::collections::HashMap::new();
                (0..m.triangles().len() as u32).for_each(|t| *c.entry(named(m, t)).or_insert(0usize) += 1);
                c
            };
            let (a, b) = (count(&before), count(&after));
            let beyond = |x: &std::collections::HashMap<_, usize>, y: &std::collections::HashMap<_, usize>| {
                x.iter().map(|(k, n)| n.saturating_sub(y.get(k).copied().unwrap_or(0))).sum::<usize>()
            };
            prop_assert_eq!(compared.gone().len(), beyond(&a, &b));
            prop_assert_eq!(compared.new_ones().len(), beyond(&b, &a));
        }
    }
}
