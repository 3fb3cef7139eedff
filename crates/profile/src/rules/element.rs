//! What rules see of a line: its unknowns, and its straight and round pieces as functions of them.

use super::Which;
use super::jet::{At, Jet};
use crate::Flat;
use crate::drawing::{LEAST, Shape};

/// What an unknown is, and how far a place of the line goes when it changes by one, mm.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Kind {
    /// A coordinate of a place; `true` for those that are one with other places there.
    Place(bool),
    /// A radius, a width, a height, and how easily it changes beside places.
    Size(f64),
    /// An angle, or the bulge of an arc.
    Turn(f64),
    /// What no rule changes.
    Still,
}

/// A figure of a line that rules can change.
#[derive(Clone, Copy, Debug)]
pub struct Param {
    pub value: f64,
    pub kind: Kind,
}

/// The tangent of a quarter of the angle an arc through three places turns by.
fn bulge_of([from, via, to]: [Flat; 3]) -> f64 {
    let (a, b) = (via - from, to - via);
    (a.perp_dot(b).atan2(a.dot(b)) * 0.5).tan()
}

/// The place in the middle of an arc.
fn middle_of_arc(from: Flat, to: Flat, bulge: f64) -> Flat {
    (from + to) * 0.5 - (to - from).perp() * (bulge * 0.5)
}

/// Corners keep their radius where a width can change instead.
const STIFF: f64 = 1e-4;

struct Params(Vec<Param>);

impl Params {
    fn place(&mut self, at: [f64; 2]) -> &mut Self {
        self.0.extend(at.map(|value| Param { value, kind: Kind::Place(true) }));
        self
    }
    fn pole(&mut self, at: [f64; 2]) -> &mut Self {
        self.0.extend(at.map(|value| Param { value, kind: Kind::Place(false) }));
        self
    }
    fn size(&mut self, value: f64) -> &mut Self {
        self.0.push(Param { value, kind: Kind::Size(1.0) });
        self
    }
    fn turn(&mut self, value: f64, arm: f64) -> &mut Self {
        self.0.push(Param { value, kind: Kind::Turn(arm) });
        self
    }
    fn still(&mut self, value: f64) -> &mut Self {
        self.0.push(Param { value, kind: Kind::Still });
        self
    }
}

impl Shape {
    /// Its figures that rules can change, in order.
    pub(super) fn params(&self) -> Vec<Param> {
        let mut p = Params(Vec::new());
        match self {
            Self::Line { from, to } | Self::Mirrored { from, to, .. } => {
                p.place(*from).place(*to);
            }
            Self::Chain { from, legs, .. } => {
                p.place(*from);
                let mut at = Flat::from(*from);
                for leg in legs {
                    let arm = at.distance(Flat::from(leg.to)) * 0.5;
                    p.place(leg.to);
                    if leg.bulge == 0.0 {
                        p.still(0.0)
                    } else {
                        p.turn(leg.bulge, arm)
                    };
                    at = Flat::from(leg.to);
                }
            }
            Self::Arc { from, via, to } => {
                let arm = Flat::from(*from).distance(Flat::from(*to)) * 0.5;
                p.place(*from).place(*to).turn(bulge_of([*from, *via, *to].map(Flat::from)), arm);
            }
            Self::Circle { centre, diameter } => {
                p.place(*centre).size(diameter * 0.5);
            }
            Self::Ellipse { centre, size, .. } => {
                p.place(*centre).size(size[0]).size(size[1]);
            }
            Self::Frame { centre, size, radius, .. } => {
                p.place(*centre).size(size[0]).size(size[1]);
                let kind = if *radius >= LEAST { Kind::Size(STIFF) } else { Kind::Still };
                p.0.push(Param { value: *radius, kind });
            }
            Self::Slot { from, to, width } => {
                p.place(*from).place(*to).size(*width);
            }
            Self::Polygon { centre, diameter, turned, .. } => {
                p.place(*centre).size(diameter * 0.5).turn(turned.to_radians(), diameter * 0.5);
            }
            Self::Curve { points, .. } => points.iter().for_each(|at| {
                p.place(*at);
            }),
            Self::Bezier { from, legs } => {
                p.place(*from);
                for [a, b, to] in legs {
                    p.pole(*a).pole(*b).place(*to);
                }
            }
            Self::Spiral { centre, radius, turned, .. } => {
                p.place(*centre).size(*radius).turn(turned.to_radians(), *radius);
            }
            Self::Ring { centre, .. } => {
                p.place(*centre);
            }
            Self::Letters { at, height, turned, .. } => {
                p.place(*at).size(*height).turn(turned.to_radians(), *height);
            }
            Self::Row { .. } => {}
        }
        p.0
    }

    /// With other figures in the order of [`Self::params`].
    pub(super) fn set_params(&mut self, x: &[f64]) {
        let pair = |k: usize| [x[k], x[k + 1]];
        match self {
            Self::Line { from, to } | Self::Mirrored { from, to, .. } => (*from, *to) = (pair(0), pair(2)),
            Self::Chain { from, legs, .. } => {
                *from = pair(0);
                for (k, leg) in legs.iter_mut().enumerate() {
                    (leg.to, leg.bulge) = (pair(2 + 3 * k), x[4 + 3 * k]);
                }
            }
            Self::Arc { from, via, to } => {
                (*from, *to) = (pair(0), pair(2));
                *via = middle_of_arc(Flat::from(*from), Flat::from(*to), x[4]).to_array();
            }
            Self::Circle { centre, diameter } => (*centre, *diameter) = (pair(0), 2.0 * x[2]),
            Self::Ellipse { centre, size, .. } => (*centre, *size) = (pair(0), pair(2)),
            Self::Frame { centre, size, radius, .. } => (*centre, *size, *radius) = (pair(0), pair(2), x[4]),
            Self::Slot { from, to, width } => (*from, *to, *width) = (pair(0), pair(2), x[4]),
            Self::Polygon { centre, diameter, turned, .. } => {
                (*centre, *diameter, *turned) = (pair(0), 2.0 * x[2], x[3].to_degrees());
            }
            Self::Curve { points, .. } => points.iter_mut().enumerate().for_each(|(k, at)| *at = pair(2 * k)),
            Self::Bezier { from, legs } => {
                *from = pair(0);
                for (k, leg) in legs.iter_mut().enumerate() {
                    *leg = [0, 2, 4].map(|j| pair(2 + 6 * k + j));
                }
            }
            Self::Spiral { centre, radius, turned, .. } => {
                (*centre, *radius, *turned) = (pair(0), x[2], x[3].to_degrees());
            }
            Self::Ring { centre, .. } => *centre = pair(0),
            Self::Letters { at, height, turned, .. } => (*at, *height, *turned) = (pair(0), x[2], x[3].to_degrees()),
            Self::Row { .. } => {}
        }
    }
}

/// A piece of a line as rules see it.
#[allow(clippy::large_enum_variant)] // lives for one equation only
#[derive(Clone, Copy)]
pub enum Element {
    Straight { from: At, to: At },
    Round { centre: At, radius: Jet, arc: Option<Arc> },
    Oval { centre: At, half: [Jet; 2], turned: f64 },
    Free { from: At, to: At },
}

/// Where an arc begins, where its middle is, where it ends.
#[derive(Clone, Copy)]
pub struct Arc {
    pub from: At,
    pub middle: At,
    pub to: At,
}

fn arc(from: At, to: At, bulge: Jet) -> Element {
    let chord = to - from;
    let middle = (from + to) * 0.5;
    let quarter = (bulge * 4.0).recip();
    let centre = middle + chord.perp() * ((Jet::fixed(1.0) - bulge * bulge) * quarter);
    let radius = chord.length() * ((Jet::fixed(1.0) + bulge * bulge) * quarter) * bulge.v.signum();
    let arc = Arc { from, middle: middle - chord.perp() * (bulge * 0.5), to };
    Element::Round { centre, radius, arc: Some(arc) }
}

/// The jets of a line's unknowns, by their number.
pub type Jets<'a> = &'a mut dyn FnMut(usize) -> Jet;

fn pair(x: Jets<'_>, k: usize) -> At {
    At { x: x(k), y: x(k + 1) }
}

impl Shape {
    /// How many curves it is, when it is more than one.
    fn curve(&self, n: Option<usize>, of: usize) -> Option<usize> {
        match n {
            None if of == 1 => Some(0),
            Some(n) if of > 1 && n < of => Some(n),
            _ => None,
        }
    }

    /// One of its curves, from 0; `None` for a line that is a single one.
    pub(super) fn element(&self, n: Option<usize>, x: Jets<'_>) -> Option<Element> {
        match self {
            Self::Line { .. } if n.is_none() => Some(Element::Straight { from: pair(x, 0), to: pair(x, 2) }),
            Self::Arc { .. } if n.is_none() => {
                let (from, to) = (pair(x, 0), pair(x, 2));
                Some(arc(from, to, x(4)))
            }
            Self::Circle { .. } if n.is_none() => Some(Element::Round { centre: pair(x, 0), radius: x(2), arc: None }),
            Self::Ellipse { turned, .. } if n.is_none() => {
                let half = [x(2) * 0.5, x(3) * 0.5];
                Some(Element::Oval { centre: pair(x, 0), half, turned: turned.to_radians() })
            }
            Self::Chain { from, legs, closed } => {
                let back =
                    *closed && legs.last().is_some_and(|l| Flat::from(l.to).distance(Flat::from(*from)) >= LEAST);
                let n = self.curve(n, legs.len() + usize::from(back))?;
                let before = if n == 0 { 0 } else { 3 * n - 1 };
                if n == legs.len() {
                    return Some(Element::Straight { from: pair(x, before), to: pair(x, 0) });
                }
                let (from, to) = (pair(x, before), pair(x, 2 + 3 * n));
                Some(if legs[n].bulge == 0.0 { Element::Straight { from, to } } else { arc(from, to, x(4 + 3 * n)) })
            }
            Self::Frame { size, radius, turned, .. } => frame_curve(*size, *radius, *turned, n?, x),
            Self::Slot { .. } => {
                let (from, to, half) = (pair(x, 0), pair(x, 2), x(4) * 0.5);
                let side = (to - from).perp() * (to - from).length().recip() * half;
                match n? {
                    0 => Some(Element::Straight { from: from - side, to: to - side }),
                    1 => Some(Element::Round { centre: to, radius: half, arc: None }),
                    2 => Some(Element::Straight { from: to + side, to: from + side }),
                    3 => Some(Element::Round { centre: from, radius: half, arc: None }),
                    _ => None,
                }
            }
            Self::Polygon { sides, .. } => {
                let n = n.filter(|n| *n < *sides as usize)?;
                let (centre, radius, turned) = (pair(x, 0), x(2), x(3));
                let corner = |k: usize| {
                    let angle = turned + Jet::fixed(k as f64 / f64::from(*sides) * std::f64::consts::TAU);
                    let (s, c) = angle.sin_cos();
                    centre + At { x: c * radius, y: s * radius }
                };
                Some(Element::Straight { from: corner(n), to: corner(n + 1) })
            }
            Self::Curve { points, closed, .. } if n.is_none() && !closed => {
                Some(Element::Free { from: pair(x, 0), to: pair(x, 2 * points.len() - 2) })
            }
            Self::Bezier { legs, .. } if n.is_none() => {
                Some(Element::Free { from: pair(x, 0), to: pair(x, 6 * legs.len()) })
            }
            _ => None,
        }
    }

    /// One of its places.
    pub(super) fn spot(&self, n: Option<usize>, which: Which, x: Jets<'_>) -> Option<At> {
        match (which, self, n) {
            // Of a line as a whole.
            (Which::Centre, Self::Slot { .. }, None) => return Some((pair(x, 0) + pair(x, 2)) * 0.5),
            (
                Which::Centre,
                Self::Frame { .. } | Self::Polygon { .. } | Self::Spiral { .. } | Self::Ring { .. },
                None,
            ) => return Some(pair(x, 0)),
            (Which::Beginning, Self::Chain { .. } | Self::Mirrored { .. } | Self::Letters { .. }, None) => {
                return Some(pair(x, 0));
            }
            (Which::End, Self::Mirrored { .. }, None) => return Some(pair(x, 2)),
            (Which::End, Self::Chain { legs, closed: false, .. }, None) => return Some(pair(x, 3 * legs.len() - 1)),
            (Which::Point(k), Self::Curve { points, .. }, None) if (1..=points.len()).contains(&k) => {
                return Some(pair(x, 2 * k - 2));
            }
            _ => {}
        }
        match (which, self.element(n, x)?) {
            (Which::Beginning, Element::Straight { from, .. } | Element::Free { from, .. }) => Some(from),
            (Which::End, Element::Straight { to, .. } | Element::Free { to, .. }) => Some(to),
            (Which::Middle, Element::Straight { from, to }) => Some((from + to) * 0.5),
            (Which::Beginning, Element::Round { arc: Some(arc), .. }) => Some(arc.from),
            (Which::Middle, Element::Round { arc: Some(arc), .. }) => Some(arc.middle),
            (Which::End, Element::Round { arc: Some(arc), .. }) => Some(arc.to),
            (Which::Centre, Element::Round { centre, .. } | Element::Oval { centre, .. }) => Some(centre),
            _ => None,
        }
    }
}

/// A side or a corner of a rectangle: in the order in which they are drawn, from the lower side on.
fn frame_curve(size: [f64; 2], radius: f64, turned: f64, n: usize, x: Jets<'_>) -> Option<Element> {
    let [w, h] = size;
    let mut left = n;
    let (c, s) = (Jet::fixed(turned.to_radians().cos()), Jet::fixed(turned.to_radians().sin()));
    let (centre, half, r) = (pair(x, 0), [x(2) * 0.5, x(3) * 0.5], x(4));
    let corners = [(1.0, -1.0), (1.0, 1.0), (-1.0, 1.0), (-1.0, -1.0)];
    for (k, (cx, cy)) in corners.into_iter().enumerate() {
        let (bx, by) = corners[(k + 3) % 4];
        let (ax, ay) = ((cx - bx) * 0.5, (cy - by) * 0.5);
        let at = |sx: f64, sy: f64, along: f64| {
            let inner = At { x: half[0] * sx + r * (ax * along), y: half[1] * sy + r * (ay * along) };
            centre + inner.turned(c, s)
        };
        let straight = if k % 2 == 0 { w } else { h } - 2.0 * radius;
        if straight >= LEAST {
            if left == 0 {
                return Some(Element::Straight { from: at(bx, by, 1.0), to: at(cx, cy, -1.0) });
            }
            left -= 1;
        }
        if radius >= LEAST {
            if left == 0 {
                let middle = At { x: (half[0] - r) * cx, y: (half[1] - r) * cy };
                return Some(Element::Round { centre: centre + middle.turned(c, s), radius: r, arc: None });
            }
            left -= 1;
        }
    }
    None
}
