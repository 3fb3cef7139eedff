//! Chance that is the same for each seed.

use nimbet_kernel::Point;

/// Numbers from 0 to 1, the same for each seed.
pub struct Dice(u64);

impl Dice {
    pub fn new(seed: u64) -> Self {
        Self(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) ^ 0x1234_5678_9ABC_DEF1)
    }

    pub fn roll(&mut self) -> f64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 >> 11) as f64 / (1u64 << 53) as f64
    }

    pub fn within(&mut self, low: f64, high: f64) -> f64 {
        low + (high - low) * self.roll()
    }

    pub fn point(&mut self) -> Point {
        Point::new(self.roll(), self.roll(), self.roll()) * 2.0 - 1.0
    }
}
