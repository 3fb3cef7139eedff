//! Numbers that know how they change with the unknowns they were made of (forward automatic differentiation).

use std::ops::{Add, Mul, Neg, Sub};

/// The most unknowns one rule can speak of: two arcs and a line between their middles have fourteen.
pub const MOST: usize = 16;

/// A number and its derivatives by the unknowns of a rule.
#[derive(Clone, Copy, Debug)]
pub struct Jet {
    pub v: f64,
    pub d: [f64; MOST],
}

impl Jet {
    pub fn fixed(v: f64) -> Self {
        Self { v, d: [0.0; MOST] }
    }

    /// The unknown in a place.
    pub fn unknown(v: f64, place: usize) -> Self {
        let mut jet = Self::fixed(v);
        jet.d[place] = 1.0;
        jet
    }

    /// A function of it by value and slope.
    fn by(self, v: f64, slope: f64) -> Self {
        Self { v, d: self.d.map(|d| d * slope) }
    }

    pub fn sqrt(self) -> Self {
        let root = self.v.max(0.0).sqrt();
        self.by(root, 0.5 / root.max(1e-12))
    }

    pub fn sin_cos(self) -> (Self, Self) {
        let (s, c) = self.v.sin_cos();
        (self.by(s, c), self.by(c, -s))
    }

    pub fn recip(self) -> Self {
        let v = if self.v.abs() < 1e-12 { 1e-12_f64.copysign(self.v) } else { self.v };
        self.by(1.0 / v, -1.0 / (v * v))
    }

    /// The angle of the place (x, self).
    pub fn atan2(self, x: Self) -> Self {
        let square = (self.v * self.v + x.v * x.v).max(1e-24);
        let slopes = self * x.v - x * self.v;
        Self { v: self.v.atan2(x.v), d: slopes.d.map(|d| d / square) }
    }
}

impl Add for Jet {
    type Output = Self;
    fn add(mut self, other: Self) -> Self {
        self.v += other.v;
        self.d.iter_mut().zip(other.d).for_each(|(a, b)| *a += b);
        self
    }
}

impl Neg for Jet {
    type Output = Self;
    fn neg(self) -> Self {
        self * -1.0
    }
}

impl Sub for Jet {
    type Output = Self;
    fn sub(self, other: Self) -> Self {
        self + -other
    }
}

#[allow(clippy::suspicious_arithmetic_impl)] // the product rule has a sum
impl Mul for Jet {
    type Output = Self;
    fn mul(mut self, other: Self) -> Self {
        self.d.iter_mut().zip(other.d).for_each(|(a, b)| *a = *a * other.v + self.v * b);
        self.v *= other.v;
        self
    }
}

impl Mul<f64> for Jet {
    type Output = Self;
    fn mul(self, by: f64) -> Self {
        self.by(self.v * by, by)
    }
}

/// A place or a way of jets.
#[derive(Clone, Copy, Debug)]
pub struct At {
    pub x: Jet,
    pub y: Jet,
}

impl At {
    pub fn fixed(at: [f64; 2]) -> Self {
        Self { x: Jet::fixed(at[0]), y: Jet::fixed(at[1]) }
    }

    pub fn dot(self, o: Self) -> Jet {
        self.x * o.x + self.y * o.y
    }

    pub fn cross(self, o: Self) -> Jet {
        self.x * o.y - self.y * o.x
    }

    pub fn length(self) -> Jet {
        self.dot(self).sqrt()
    }

    pub fn perp(self) -> Self {
        Self { x: -self.y, y: self.x }
    }

    /// Turned and stretched as (cos, sin) says.
    pub fn turned(self, c: Jet, s: Jet) -> Self {
        Self { x: self.x * c - self.y * s, y: self.x * s + self.y * c }
    }
}

impl Add for At {
    type Output = Self;
    fn add(self, o: Self) -> Self {
        Self { x: self.x + o.x, y: self.y + o.y }
    }
}

impl Sub for At {
    type Output = Self;
    fn sub(self, o: Self) -> Self {
        Self { x: self.x - o.x, y: self.y - o.y }
    }
}

impl Mul<Jet> for At {
    type Output = Self;
    fn mul(self, by: Jet) -> Self {
        Self { x: self.x * by, y: self.y * by }
    }
}

impl Mul<f64> for At {
    type Output = Self;
    fn mul(self, by: f64) -> Self {
        Self { x: self.x * by, y: self.y * by }
    }
}
