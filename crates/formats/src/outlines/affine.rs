//! Moving, turning, scaling and shearing of places and of ovals.

use std::f64::consts::{FRAC_PI_2, TAU};

use nimbet_profile::fit::{followed, spans_of};
use nimbet_profile::{Flat, Form, Span, stretch_of};

/// A map `x·a + y·b + c` of places.
#[derive(Clone, Copy, Debug)]
pub(super) struct Affine {
    pub x: Flat,
    pub y: Flat,
    pub shift: Flat,
}

impl Affine {
    pub const IDENTITY: Self = Self { x: Flat::X, y: Flat::Y, shift: Flat::ZERO };

    pub fn scaled(x: f64, y: f64) -> Self {
        Self { x: Flat::X * x, y: Flat::Y * y, shift: Flat::ZERO }
    }

    pub fn moved(shift: Flat) -> Self {
        Self { shift, ..Self::IDENTITY }
    }

    pub fn turned(angle: f64) -> Self {
        let x = Flat::from_angle(angle);
        Self { x, y: x.perp(), shift: Flat::ZERO }
    }

    pub fn way(&self, v: Flat) -> Flat {
        self.x * v.x + self.y * v.y
    }

    pub fn place(&self, p: Flat) -> Flat {
        self.way(p) + self.shift
    }

    /// First `inner`, then this.
    pub fn after(&self, inner: &Self) -> Self {
        Self { x: self.way(inner.x), y: self.way(inner.y), shift: self.place(inner.shift) }
    }

    pub fn is_finite(&self) -> bool {
        self.x.is_finite() && self.y.is_finite() && self.shift.is_finite()
    }

    /// A straight line, if it has a length.
    pub fn line(&self, from: Flat, to: Flat) -> Vec<Span> {
        let (from, to) = (self.place(from), self.place(to));
        if from.distance(to) > 0.0 { vec![Span::line(from, to)] } else { vec![] }
    }

    /// A cubic by its poles.
    pub fn cubic(&self, poles: [Flat; 4]) -> Vec<Span> {
        spans_of(&[poles.map(|p| self.place(p))])
    }

    /// `centre + u cos t + v sin t` for t from one value to another: an arc where it is one, else a stretch of an ellipse.
    pub fn oval(&self, centre: Flat, (u, v): (Flat, Flat), from: f64, to: f64) -> Vec<Span> {
        let (centre, u, v) = (self.place(centre), self.way(u), self.way(v));
        let size = u.length().max(v.length());
        let around = (to - from).clamp(-TAU, TAU);
        if !(size.is_finite() && centre.is_finite() && around.is_finite()) || size == 0.0 || around == 0.0 {
            return vec![];
        }
        let sense = u.perp_dot(v);
        // Squeezed flat it is there and back a line.
        if sense.abs() < 1e-9 * size * size {
            let curve = |t: f64| {
                let (sin, cos) = (from + around * t).sin_cos();
                (centre + u * cos + v * sin, (v * cos - u * sin) * around)
            };
            return spans_of(&followed(&curve));
        }
        if (u.length() - v.length()).abs() < 1e-9 * size && u.dot(v).abs() < 1e-9 * size * size {
            let (begin, turn) = (u.to_angle(), sense.signum());
            let form = Form::Arc { centre, radius: u.length() };
            return stretch_of(form, begin + turn * from, begin + turn * (from + around));
        }
        // To the axes: where it is farthest from its centre, and square to that.
        let first = 0.5 * (2.0 * u.dot(v)).atan2(u.length_squared() - v.length_squared());
        let axis = |t: f64| u * t.cos() + v * t.sin();
        let (long, short) = (axis(first), axis(first + FRAC_PI_2));
        let form = Form::Ellipse { centre, u: long, v: short };
        stretch_of(form, from - first, from + around - first)
    }
}
