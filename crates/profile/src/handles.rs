//! Handles: the places of a line by which it is taken hold of and drawn elsewhere.

use crate::Flat;
use crate::drawing::{Drawing, Line, Shape};
use crate::span::Form;

/// A place by which a line is taken hold of.
#[derive(Clone, Debug, PartialEq)]
pub struct Handle {
    /// The line.
    pub line: String,
    /// Which of its places: `from`, `to`, `via`, `centre`, `leg 2`, `point 3`; `rim`, `corner`, `side` change its measures.
    pub name: String,
    /// Where it is.
    pub at: Flat,
}

/// Ends nearer than this are one place and are drawn along, mm.
const TOGETHER: f64 = 1e-6;

impl Drawing {
    /// All handles, line by line.
    pub fn handles(&self) -> Vec<Handle> {
        let of = |line: &Line| {
            let mut draw = line.draw.clone();
            let places = draw.places_mut().into_iter().map(|(name, at)| (name, Flat::from(*at)));
            let all: Vec<(String, Flat)> =
                places.chain(line.draw.measured().map(|(n, at)| (n.to_owned(), at))).collect();
            let name = line.name.clone();
            all.into_iter().map(move |(handle, at)| Handle { line: name.clone(), name: handle, at })
        };
        self.lines.iter().filter(|l| !l.still).flat_map(of).collect()
    }

    /// The drawing with a handle drawn to a place. What was at the place of an end goes along unless it is taken alone.
    ///
    /// # Errors
    /// Where there is no such line or handle.
    pub fn dragged(&self, line: &str, handle: &str, to: Flat, alone: bool) -> Result<Self, String> {
        let held = self.handles().into_iter().find(|h| h.line == line && h.name == handle);
        let held = held.ok_or_else(|| format!("line {line} has no {handle}"))?;
        let mut drawing = self.clone();
        for other in drawing.lines.iter_mut().filter(|l| !l.still) {
            let own = other.name == line;
            if own && other.draw.measure_to(handle, to) {
                return Ok(drawing);
            }
            for (name, at) in other.draw.places_mut() {
                let same = own && name == handle;
                let joined = !alone && !name.starts_with("pole") && Flat::from(*at).distance(held.at) <= TOGETHER;
                if same || joined {
                    *at = to.to_array();
                }
            }
        }
        Ok(drawing)
    }

    /// The drawing with some lines moved as they are.
    #[must_use]
    pub fn moved(&self, lines: &[String], by: Flat) -> Self {
        let mut drawing = self.clone();
        for line in drawing.lines.iter_mut().filter(|l| !l.still && lines.contains(&l.name)) {
            line.draw.places_mut().into_iter().for_each(|(_, at)| *at = (Flat::from(*at) + by).to_array());
        }
        drawing
    }
}

impl Shape {
    /// The places it is written by.
    pub(crate) fn places_mut(&mut self) -> Vec<(String, &mut [f64; 2])> {
        let numbered = |what: &'static str| move |(n, at)| (format!("{what} {}", n + 1), at);
        match self {
            Self::Line { from, to } | Self::Slot { from, to, .. } | Self::Mirrored { from, to, .. } => {
                vec![("from".into(), from), ("to".into(), to)]
            }
            Self::Chain { from, legs, .. } => {
                let legs = legs.iter_mut().map(|l| &mut l.to).enumerate().map(numbered("leg"));
                std::iter::once(("from".into(), from)).chain(legs).collect()
            }
            Self::Arc { from, via, to } => vec![("from".into(), from), ("via".into(), via), ("to".into(), to)],
            Self::Circle { centre, .. }
            | Self::Ellipse { centre, .. }
            | Self::Frame { centre, .. }
            | Self::Polygon { centre, .. }
            | Self::Spiral { centre, .. }
            | Self::Ring { centre, .. } => vec![("centre".into(), centre)],
            Self::Curve { points, .. } => points.iter_mut().enumerate().map(numbered("point")).collect(),
            Self::Bezier { from, legs } => {
                let mut places = vec![("from".into(), from)];
                for (n, [p, q, to]) in legs.iter_mut().enumerate() {
                    let n = n + 1;
                    places.extend([(format!("pole {n} a"), p), (format!("pole {n} b"), q), (format!("leg {n}"), to)]);
                }
                places
            }
            Self::Letters { at, .. } => vec![("at".into(), at)],
            Self::Row { .. } => vec![],
        }
    }

    /// A place that stands for its measures.
    fn measured(&self) -> Option<(&'static str, Flat)> {
        let way = |angle: f64| Flat::from_angle(angle.to_radians());
        match self {
            Self::Circle { centre, diameter } => Some(("rim", Flat::from(*centre) + Flat::X * (diameter * 0.5))),
            Self::Polygon { centre, diameter, turned, .. } => {
                Some(("corner", Flat::from(*centre) + way(*turned) * (diameter * 0.5)))
            }
            Self::Frame { centre, size, turned, .. } | Self::Ellipse { centre, size, turned, .. } => {
                Some(("corner", Flat::from(*centre) + way(*turned).rotate(Flat::from(*size) * 0.5)))
            }
            Self::Slot { from, to, width } => {
                let (from, to) = (Flat::from(*from), Flat::from(*to));
                let side = (to - from).perp().normalize_or(Flat::Y);
                Some(("side", (from + to) * 0.5 + side * (width * 0.5)))
            }
            Self::Spiral { centre, radius, turned, .. } => {
                Some(("begin", Flat::from(*centre) + way(*turned) * *radius))
            }
            Self::Letters { at, height, turned, .. } => Some(("top", Flat::from(*at) + way(*turned).perp() * *height)),
            _ => None,
        }
    }

    /// Changes its measures so that the handle that stands for them is at a place; says whether it is such a handle.
    fn measure_to(&mut self, handle: &str, to: Flat) -> bool {
        if self.measured().is_none_or(|(name, _)| name != handle) {
            return false;
        }
        let angle = |off: Flat| off.to_angle().to_degrees();
        match self {
            Self::Circle { centre, diameter } => *diameter = 2.0 * (to - Flat::from(*centre)).length(),
            Self::Polygon { centre, diameter, turned, .. } => {
                let off = to - Flat::from(*centre);
                (*diameter, *turned) = (2.0 * off.length(), angle(off));
            }
            Self::Frame { centre, size, turned, radius } => {
                let off = Flat::from_angle(-turned.to_radians()).rotate(to - Flat::from(*centre)).abs() * 2.0;
                *size = off.to_array();
                *radius = radius.min(off.min_element() * 0.5);
            }
            Self::Ellipse { centre, size, turned, .. } => {
                let off = Flat::from_angle(-turned.to_radians()).rotate(to - Flat::from(*centre)).abs() * 2.0;
                *size = off.to_array();
            }
            Self::Slot { from, to: end, width } => {
                let (from, end) = (Flat::from(*from), Flat::from(*end));
                let side = (end - from).perp().normalize_or(Flat::Y);
                *width = 2.0 * (to - from).dot(side).abs();
            }
            Self::Spiral { centre, radius, turned, .. } => {
                let off = to - Flat::from(*centre);
                (*radius, *turned) = (off.length(), angle(off));
            }
            Self::Letters { at, height, turned, .. } => {
                let off = to - Flat::from(*at);
                (*height, *turned) = (off.length(), angle(off) - 90.0);
            }
            _ => {}
        }
        true
    }
}

/// The place a round line turns about.
pub(crate) fn middle_of(form: &Form) -> Option<Flat> {
    match form {
        Form::Arc { centre, .. }
        | Form::Ellipse { centre, .. }
        | Form::Spiral { centre, .. }
        | Form::Growing { centre, .. } => Some(*centre),
        Form::Line { .. } | Form::Cubic(_) => None,
    }
}
