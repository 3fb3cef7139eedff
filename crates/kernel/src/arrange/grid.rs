//! The grid inputs are rounded to: its step is a power of two, so that what lies on it once stays there.

use super::exact::{LARGEST, Whole};
use crate::{Aabb, Point};

/// A grid over the extent of some bounds: 2^26 steps along their longest side at most, 1.5 nm for a part of 100 mm.
#[derive(Clone, Copy, Debug)]
pub(super) struct Grid {
    step: f64,
    /// The point in the middle, in steps.
    middle: Point,
}

impl Grid {
    pub fn over(bounds: &Aabb) -> Self {
        let size = bounds.size().max_element().max(f64::MIN_POSITIVE);
        // Half the grid on either side of the middle.
        let step = (size / LARGEST).log2().ceil().clamp(-900.0, 900.0).exp2();
        Self { step, middle: (bounds.centre() / step).round() }
    }

    /// One step, mm.
    pub fn step(&self) -> f64 {
        self.step
    }

    /// The nearest point of the grid.
    pub fn whole(&self, p: Point) -> Whole {
        ((p / self.step).round() - self.middle).to_array().map(|x| x as i64)
    }

    /// The place of a point given in steps, mm.
    pub fn place(&self, near: Point) -> Point {
        (near + self.middle) * self.step
    }
}
