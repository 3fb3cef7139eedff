//! A section cut in two by a straight line: what goes forward on its way and what goes backward.

use rustc_hash::FxHashMap;

/// A vertex of a section that is cut in two: one of its own, or where a side of a triangle is cut.
#[derive(Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(super) enum Corner2 {
    Vertex(usize),
    Cut(usize, usize),
}

/// Where sides of the section's triangles are cut, as a share from the lower vertex to the higher.
pub(super) type Shares = FxHashMap<(usize, usize), f64>;

/// A section in two: what goes forward and what goes backward.
pub(super) struct Cut<'a> {
    advance: &'a [f64],
    /// Where.
    pub shares: Shares,
}

impl<'a> Cut<'a> {
    /// A section of triangles whose vertices go forward so far; cut as it was cut before that where it is the same.
    pub fn new(triangles: &[[usize; 3]], advance: &'a [f64], before: Option<&Shares>) -> Self {
        let sides = triangles.iter().flat_map(|t| (0..3).map(|k| (t[k], t[(k + 1) % 3])));
        let crossed = sides.map(|(i, j)| (i.min(j), i.max(j))).filter(|(i, j)| advance[*i] * advance[*j] < 0.0);
        let share = |(i, j): (usize, usize)| {
            let own = advance[i] / (advance[i] - advance[j]);
            let known = before.and_then(|b| b.get(&(i, j))).copied();
            known.filter(|known| (known - own).abs() < SAME_CUT).unwrap_or(own)
        };
        let shares = crossed.map(|side| (side, share(side))).collect();
        Self { advance, shares }
    }

    /// What of a triangle goes forward, or backward, as corners in its order; none where nothing does.
    pub fn part(&self, t: &[usize; 3], forward: bool) -> Vec<Corner2> {
        let off = |i: usize| if forward { self.advance[i] } else { -self.advance[i] };
        let mut round = Vec::new();
        for k in 0..3 {
            let (i, j) = (t[k], t[(k + 1) % 3]);
            if off(i) >= 0.0 {
                round.push(Corner2::Vertex(i));
            }
            if self.shares.contains_key(&(i.min(j), i.max(j))) {
                round.push(Corner2::Cut(i.min(j), i.max(j)));
            }
        }
        if round.len() < 3 || !t.iter().any(|i| off(*i) > 0.0) { vec![] } else { round }
    }
}

/// Cuts that differ by less than this share are one: where a bend turns about an axis, all of them lie on it, and what goes forward
/// on one side of a section ends where it does on the other, to the last digit.
const SAME_CUT: f64 = 1e-7;
