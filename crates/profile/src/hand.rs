//! Drawing by hand: what clicks and typed figures make of a tool that is taken up.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::Flat;
use crate::drawing::{Growth, Leg, MOST_LINES, Shape};
use crate::text::direction;

/// What is drawn with.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Pen {
    /// Lines and arcs, each from where the last one ended.
    Chain,
    /// An arc: begin, end, a place between.
    Arc,
    /// A circle: centre, rim.
    Circle,
    /// A rectangle: corner, corner.
    Frame,
    /// A slot: the middles of its ends.
    Slot,
    /// A regular polygon: centre, corner.
    Polygon,
    /// An ellipse: centre, corner of the rectangle round it.
    Ellipse,
    /// A smooth curve through places.
    Curve,
    /// A spiral: centre, where it begins.
    Spiral,
}

/// A place that was clicked.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Click {
    /// Where, mm.
    pub at: [f64; 2],
    /// Whether the leg of a chain that ends there is an arc, tangent to the leg before.
    #[serde(default)]
    pub round: bool,
    /// What was caught there, in words; it becomes a rule.
    #[serde(default)]
    pub caught: String,
    /// The figures that were typed for what ends there; they are held.
    #[serde(default)]
    pub typed: Typed,
}

/// A figure of what is being drawn, as it stands on the slip.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Figure {
    /// What it is called: `length`, `angle`, `diameter` …
    pub name: String,
    /// How much it is.
    pub value: f64,
    /// Its unit; nothing for a count.
    pub unit: String,
    /// Whether it was typed.
    pub typed: bool,
}

/// What comes of clicks, figures and where the pointer is.
#[derive(Clone, Debug, PartialEq)]
pub struct Drawn {
    /// What is drawn so far, if it can be.
    pub shape: Option<Shape>,
    /// Where the next click is made: where the pointer is, but for what was typed.
    pub at: Flat,
    /// The figures of the slip, in reading order.
    pub figures: Vec<Figure>,
    /// Whether the next click is the last.
    pub last: bool,
}

/// Figures that were typed, by name.
pub type Typed = BTreeMap<String, f64>;

struct Slip<'a> {
    typed: &'a Typed,
    figures: Vec<Figure>,
}

impl Slip<'_> {
    /// A figure: as typed, else as the pointer says.
    fn take(&mut self, name: &str, unit: &str, pointed: f64) -> f64 {
        let typed = self.typed.get(name).copied();
        let value = typed.unwrap_or(pointed);
        self.figures.push(Figure { name: name.into(), value, unit: unit.into(), typed: typed.is_some() });
        value
    }

    fn is_typed(&self, name: &str) -> bool {
        self.typed.contains_key(name)
    }

    /// A place from another by length and angle.
    fn away(&mut self, from: Flat, at: Flat) -> Flat {
        let off = at - from;
        let angle = if off == Flat::ZERO { 0.0 } else { degrees(off) };
        let length = self.take("length", "mm", off.length());
        let angle = self.take("angle", "°", angle);
        if !self.is_typed("length") && !self.is_typed("angle") {
            return at;
        }
        let way = if self.is_typed("angle") { direction(angle) } else { off.normalize_or(Flat::X) };
        from + way * length
    }
}

fn degrees(way: Flat) -> f64 {
    let angle = way.to_angle().to_degrees();
    if angle < 0.0 { angle + 360.0 } else { angle }
}

/// What a pen draws with these clicks, the pointer at `at`.
pub fn drawn(pen: Pen, clicks: &[Click], round: bool, typed: &Typed, at: Flat) -> Drawn {
    let mut slip = Slip { typed, figures: Vec::new() };
    let place = |n: usize| clicks.get(n).map(|c| Flat::from(c.at));
    let free = |figures: Vec<Figure>| Drawn { shape: None, at, figures, last: false };
    let Some(first) = place(0) else { return free(vec![]) };
    let centre = first.to_array();
    let done =
        |shape: Shape, at: Flat, slip: Slip<'_>| Drawn { shape: Some(shape), at, figures: slip.figures, last: true };
    match pen {
        Pen::Chain => chain(clicks, round, slip, at),
        Pen::Curve => {
            let end = slip.away(place(clicks.len() - 1).unwrap_or(first), at);
            let mut points: Vec<[f64; 2]> = clicks.iter().map(|c| c.at).collect();
            let closed = points.len() > 2 && end.distance(first) == 0.0;
            if !closed {
                points.push(end.to_array());
            }
            let shape = Shape::Curve { points, closed, begin: None, end: None };
            Drawn { shape: Some(shape), at: end, figures: slip.figures, last: closed || clicks.len() + 1 >= MOST_LINES }
        }
        Pen::Arc => arc(first, place(1), slip, at),
        Pen::Circle => {
            let diameter = slip.take("diameter", "mm", 2.0 * first.distance(at));
            done(Shape::Circle { centre, diameter }, at, slip)
        }
        Pen::Polygon => {
            let off = at - first;
            let diameter = slip.take("diameter", "mm", 2.0 * off.length());
            let sides = slip.take("sides", "", 6.0).clamp(0.0, 1e6).round() as u32;
            let turned = slip.take("angle", "°", degrees(off));
            done(Shape::Polygon { centre, diameter, sides, turned }, at, slip)
        }
        Pen::Frame => {
            let off = at - first;
            let width = slip.take("width", "mm", off.x.abs());
            let height = slip.take("height", "mm", off.y.abs());
            let radius = slip.take("radius", "mm", 0.0);
            let side = |x: f64| if x < 0.0 { -1.0 } else { 1.0 };
            let end = first + Flat::new(width * side(off.x), height * side(off.y));
            let centre = ((first + end) * 0.5).to_array();
            done(Shape::Frame { centre, size: [width, height], radius, turned: 0.0 }, end, slip)
        }
        Pen::Ellipse => {
            let off = (at - first).abs() * 2.0;
            let size = [slip.take("width", "mm", off.x), slip.take("height", "mm", off.y)];
            let turned = slip.take("turned", "°", 0.0);
            done(Shape::Ellipse { centre, size, turned, stretch: None }, at, slip)
        }
        Pen::Slot => {
            let end = slip.away(first, at);
            let width = slip.take("width", "mm", tidy(first.distance(end) * 0.3));
            done(Shape::Slot { from: centre, to: end.to_array(), width }, end, slip)
        }
        Pen::Spiral => {
            let off = at - first;
            let radius = slip.take("radius", "mm", off.length());
            let pitch = slip.take("pitch", "mm", tidy(off.length() * 0.5));
            let turns = slip.take("turns", "", 3.0);
            let turned = slip.take("angle", "°", degrees(off));
            done(Shape::Spiral { centre, radius, grows: Growth::Pitch(pitch), turns, turned }, at, slip)
        }
    }
}

/// A measure nobody chose, with one figure that is not nought.
fn tidy(x: f64) -> f64 {
    let power = 10.0_f64.powf(x.max(1e-3).log10().floor());
    (x / power).round().max(1.0) * power
}

fn chain(clicks: &[Click], round: bool, mut slip: Slip<'_>, at: Flat) -> Drawn {
    let from = clicks[0].at;
    let (mut here, mut along, mut legs) = (Flat::from(from), None::<Flat>, Vec::new());
    for click in &clicks[1..] {
        let (leg, way) = leg(here, Flat::from(click.at), click.round, along);
        (here, along) = (Flat::from(click.at), Some(way));
        legs.push(leg);
    }
    let end = if round { arc_leg(here, along, &mut slip, at) } else { slip.away(here, at) };
    let (next, _) = leg(here, end, round, along);
    let back = !legs.is_empty() && end == Flat::from(from);
    if end != here {
        legs.push(next);
    }
    let full = legs.len() >= MOST_LINES;
    let shape = (!legs.is_empty()).then(|| closed_up(from, legs, back));
    Drawn { shape, at: end, figures: slip.figures, last: back || full }
}

/// A chain; one whose last leg is a straight one back to its beginning is closed by that.
fn closed_up(from: [f64; 2], mut legs: Vec<Leg>, back: bool) -> Shape {
    let straight = legs.last().is_some_and(|l| l.bulge == 0.0);
    let closed = back && straight && legs.len() > 2;
    if closed {
        legs.pop();
    }
    Shape::Chain { from, legs, closed }
}

/// A leg of a chain, and the direction it ends in. A round one goes on as the one before ended; the first bends by a quarter.
fn leg(from: Flat, to: Flat, round: bool, along: Option<Flat>) -> (Leg, Flat) {
    let chord = (to - from).normalize_or(Flat::X);
    let bulge = match along {
        _ if !round => 0.0,
        Some(along) => (along.angle_to(chord) * 0.5).tan(),
        None => std::f64::consts::FRAC_PI_8.tan(),
    };
    (Leg { to: to.to_array(), bulge }, Flat::from_angle(2.0 * bulge.atan()).rotate(chord))
}

/// Where an arc that goes on from a leg ends: by radius and the angle it turns by.
fn arc_leg(here: Flat, along: Option<Flat>, slip: &mut Slip<'_>, at: Flat) -> Flat {
    let chord = at - here;
    let along =
        along.unwrap_or_else(|| Flat::from_angle(-std::f64::consts::FRAC_PI_4).rotate(chord.normalize_or(Flat::X)));
    let lean = along.angle_to(chord.normalize_or(along));
    let pointed = chord.length() / (2.0 * lean.sin().abs()).max(1e-9);
    let radius = slip.take("radius", "mm", pointed);
    let turned = slip.take("angle", "°", (2.0 * lean).abs().to_degrees());
    if !slip.is_typed("radius") && !slip.is_typed("angle") {
        return at;
    }
    let half = (turned.to_radians() * 0.5).copysign(lean);
    here + Flat::from_angle(half).rotate(along) * (2.0 * radius * half.sin().abs())
}

fn arc(from: Flat, to: Option<Flat>, mut slip: Slip<'_>, at: Flat) -> Drawn {
    let Some(to) = to else {
        let end = slip.away(from, at);
        let shape = Some(Shape::Line { from: from.to_array(), to: end.to_array() }).filter(|_| from != end);
        return Drawn { shape, at: end, figures: slip.figures, last: false };
    };
    // Its height over the chord decides; a radius says the same but for the side.
    let (chord, middle) = (to - from, (from + to) * 0.5);
    let side = chord.perp().normalize_or(Flat::Y);
    let high = (at - middle).dot(side);
    let half = chord.length() * 0.5;
    let height = if high.abs() < 1e-9 { half } else { high.abs() };
    let radius = slip.take("radius", "mm", (half * half + height * height) / (2.0 * height));
    let height = if slip.is_typed("radius") {
        let short = radius - (radius * radius - half * half).max(0.0).sqrt();
        if height > half { 2.0 * radius - short } else { short }
    } else {
        height
    };
    let via = middle + side * height.copysign(if high == 0.0 { 1.0 } else { high });
    let shape = Shape::Arc { from: from.to_array(), via: via.to_array(), to: to.to_array() };
    Drawn { shape: Some(shape), at: via, figures: slip.figures, last: true }
}
