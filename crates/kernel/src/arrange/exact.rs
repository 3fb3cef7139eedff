//! Points on an integer grid and points where planes through such points meet, with exact signs of where they lie.
//!
//! Coordinates on the grid have at most 27 bits, so a point where a line meets a plane, or three planes meet, is a quotient
//! of integers of at most 196 bits (indirect predicates after Attene 2020; integer plane arithmetic after Nehring-Wirxel,
//! Trettner and Kobbelt 2021). Signs are taken in `f64` first, with a bound on what may be wrong there.

use std::cmp::Ordering;

use bnum::BInt;
use bnum::cast::As;

use crate::Point;

type Int256 = BInt<4>;
type Int640 = BInt<10>;

/// The most a coordinate may be away from 0 on the grid.
pub(super) const LARGEST: f64 = (1u64 << 26) as f64;
/// How far the approximate place of a point may be off, in steps of the grid: 2^26 times the rounding of a quotient.
const OFF: f64 = 1.0 / (1 << 23) as f64;

/// A point of the grid.
pub(super) type Whole = [i64; 3];

/// A quotient of integers: `x / w`, with `w` above 0.
#[derive(Clone, Debug)]
struct Quotient {
    x: [Int256; 3],
    w: Int256,
}

/// A point: of the grid, or where planes meet.
#[derive(Clone, Debug)]
pub(super) struct Spot {
    /// Its place in steps of the grid; exact for points of the grid.
    pub near: Point,
    exact: Option<Box<Quotient>>,
}

/// A plane through three points of the grid: `normal · p = offset`.
#[derive(Clone, Copy, Debug)]
pub(super) struct Plane {
    pub normal: [i64; 3],
    offset: i128,
    through: Point,
    near: Point,
    /// What may be wrong in a sign taken in `f64`.
    doubt: f64,
}

fn cross(a: [i64; 3], b: [i64; 3]) -> [i64; 3] {
    [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
}

fn minus(a: Whole, b: Whole) -> Whole {
    [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
}

fn dot(a: [i64; 3], b: [i64; 3]) -> i128 {
    (0..3).map(|k| i128::from(a[k]) * i128::from(b[k])).sum()
}

fn near(p: Whole) -> Point {
    Point::new(p[0] as f64, p[1] as f64, p[2] as f64)
}

fn sign(x: impl PartialOrd + Default) -> i8 {
    let zero = Default::default();
    i8::from(x > zero) - i8::from(x < zero)
}

impl Plane {
    pub fn new(a: Whole, b: Whole, c: Whole) -> Self {
        let normal = cross(minus(b, a), minus(c, a));
        let approximate = near(normal);
        // |n| × (what the place may be off + rounding of a product of up to 2^27 steps and of a sum of three).
        let doubt = approximate.abs().element_sum() * (4.0 * OFF);
        Self { normal, offset: dot(normal, a), through: near(a), near: approximate, doubt }
    }

    /// Whether the three points lie on a line.
    pub fn is_flat(&self) -> bool {
        self.normal == [0; 3]
    }

    /// On which side a point of the grid lies: 1 where the normal points to.
    pub fn side_of(&self, p: Whole) -> i8 {
        let value = self.near.dot(near(p) - self.through);
        if value.abs() > self.doubt { sign(value) } else { sign(dot(self.normal, p) - self.offset) }
    }

    /// On which side a point lies.
    pub fn side(&self, p: &Spot) -> i8 {
        let value = self.near.dot(p.near - self.through);
        if value.abs() > self.doubt {
            return sign(value);
        }
        match &p.exact {
            None => sign(dot(self.normal, p.whole()) - self.offset),
            Some(q) => {
                let sum = (0..3).map(|k| Int256::from(self.normal[k]) * q.x[k]).sum::<Int256>();
                sign(sum - Int256::from(self.offset) * q.w)
            }
        }
    }

    /// The axis along which the plane is seen largest.
    pub fn axis(&self) -> usize {
        (0..3).max_by_key(|&k| self.normal[k].unsigned_abs()).unwrap_or(0)
    }
}

impl Spot {
    pub fn whole_at(p: Whole) -> Self {
        Self { near: near(p), exact: None }
    }

    /// The coordinates of a point of the grid.
    fn whole(&self) -> Whole {
        [self.near.x as i64, self.near.y as i64, self.near.z as i64]
    }

    fn of(mut q: Quotient) -> Self {
        if q.w < Int256::ZERO {
            q.w = -q.w;
            q.x = q.x.map(|x| -x);
        }
        let [x, y, z] = q.x.map(rounded);
        Self { near: Point::new(x, y, z) / rounded(q.w), exact: Some(Box::new(q)) }
    }

    /// Where the line through `p` and `q` meets a plane it is not parallel to.
    pub fn on_line(p: Whole, q: Whole, plane: &Plane) -> Self {
        let along = minus(q, p);
        let w = Int256::from(dot(plane.normal, along));
        let share = Int256::from(plane.offset - dot(plane.normal, p));
        Self::of(Quotient { x: [0, 1, 2].map(|k| Int256::from(p[k]) * w + Int256::from(along[k]) * share), w })
    }

    /// Where three planes meet that have one point in common.
    pub fn of_planes(p: &Plane, q: &Plane, r: &Plane) -> Self {
        let along = |one: &Plane, other: &Plane| -> [i128; 3] {
            let (n, m) = (one.normal.map(i128::from), other.normal.map(i128::from));
            [n[1] * m[2] - n[2] * m[1], n[2] * m[0] - n[0] * m[2], n[0] * m[1] - n[1] * m[0]]
        };
        let (qr, rp, pq) = (along(q, r), along(r, p), along(p, q));
        let w = (0..3).map(|k| Int256::from(p.normal[k]) * Int256::from(qr[k])).sum();
        let x = [0, 1, 2].map(|k| {
            Int256::from(p.offset) * Int256::from(qr[k])
                + Int256::from(q.offset) * Int256::from(rp[k])
                + Int256::from(r.offset) * Int256::from(pq[k])
        });
        Self::of(Quotient { x, w })
    }

    fn quotient(&self) -> Quotient {
        self.exact.as_deref().cloned().unwrap_or_else(|| Quotient { x: self.whole().map(Int256::from), w: Int256::ONE })
    }

    /// How two points stand along an axis.
    pub fn compare(&self, other: &Self, axis: usize) -> Ordering {
        let apart = self.near[axis] - other.near[axis];
        if apart.abs() > 2.0 * OFF || (self.exact.is_none() && other.exact.is_none()) {
            return apart.total_cmp(&0.0);
        }
        let (a, b) = (self.quotient(), other.quotient());
        (wide(a.x[axis]) * wide(b.w)).cmp(&(wide(b.x[axis]) * wide(a.w)))
    }

    /// Whether two points are one.
    pub fn is(&self, other: &Self) -> bool {
        (0..3).all(|axis| self.compare(other, axis).is_eq())
    }
}

/// So near each other that they may be one.
pub(super) const MAYBE_ONE: f64 = 2.0 * OFF;

fn rounded(x: Int256) -> f64 {
    x.as_()
}

fn wide(x: Int256) -> Int640 {
    x.as_()
}

/// Seen along an axis, whether `c` lies to the left (1) or right (-1) of the line from `a` to `b`, or on it.
pub(super) fn turn(axis: usize, a: &Spot, b: &Spot, c: &Spot) -> i8 {
    let (u, v) = ((axis + 1) % 3, (axis + 2) % 3);
    let (ab, ac) = (b.near - a.near, c.near - a.near);
    let value = ab[u] * ac[v] - ab[v] * ac[u];
    let whole = a.exact.is_none() && b.exact.is_none() && c.exact.is_none();
    if whole {
        // Products of 27 bits: a sum of two of them may be rounded in the last place only.
        return if value.abs() > 16.0 {
            sign(value)
        } else {
            let (p, q, r) = (a.whole(), b.whole(), c.whole());
            sign(i128::from(q[u] - p[u]) * i128::from(r[v] - p[v]) - i128::from(q[v] - p[v]) * i128::from(r[u] - p[u]))
        };
    }
    let doubt = (ab[u].abs() + ab[v].abs() + ac[u].abs() + ac[v].abs() + 1.0) * (4.0 * OFF);
    if value.abs() > doubt {
        return sign(value);
    }
    let [p, q, r] = [a, b, c].map(|s| {
        let q = s.quotient();
        [q.x[u], q.x[v], q.w].map(wide)
    });
    let minor = |i: usize, j: usize| q[i] * r[j] - q[j] * r[i];
    sign(p[0] * minor(1, 2) - p[1] * minor(0, 2) + p[2] * minor(0, 1))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn a_line_and_three_planes_meet_in_the_same_third() {
        let floor = Plane::new([0, 0, 1], [3, 0, 1], [0, 3, 1]);
        let on_line = Spot::on_line([0, 0, 0], [1, 2, 3], &floor);
        let x = Plane::new([0, 0, 0], [1, 2, 3], [0, 1, 0]);
        let y = Plane::new([0, 0, 0], [1, 2, 3], [1, 0, 0]);
        let of_planes = Spot::of_planes(&floor, &x, &y);
        assert!(on_line.is(&of_planes));
        assert!((on_line.near - Point::new(1.0 / 3.0, 2.0 / 3.0, 1.0)).length() < 1e-15);
        assert_eq!(floor.side(&on_line), 0);
        assert_eq!(turn(2, &Spot::whole_at([0, 0, 0]), &Spot::whole_at([1, 2, 0]), &on_line), 0);
        assert!(!on_line.is(&Spot::whole_at([0, 1, 1])));
    }

    proptest! {
        #![proptest_config(ProptestConfig { max_global_rejects: 1 << 20, ..ProptestConfig::default() })]

        /// Signs at the edge of the grid agree with a slow way: each point lies on every plane it was made of.
        #[test]
        fn points_lie_on_their_planes(c in proptest::collection::vec(-(1i64 << 26)..(1i64 << 26), 27)) {
            let p = |i: usize| [c[3 * i], c[3 * i + 1], c[3 * i + 2]];
            let planes = [0, 1, 2].map(|k| Plane::new(p(3 * k), p(3 * k + 1), p(3 * k + 2)));
            let spot = Spot::of_planes(&planes[0], &planes[1], &planes[2]);
            prop_assume!(spot.near.abs().max_element() < 2.0 * LARGEST);
            for plane in &planes {
                prop_assert_eq!(plane.side(&spot), 0);
            }
        }
    }
}
