//! What people write: lines with names, in plain measures. From it come the curves.

use std::f64::consts::{PI, TAU};

use rustc_hash::FxHashMap;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::Flat;
use crate::rules::Hold;
use crate::span::{Form, Span, cubic, round, spiral};
use crate::through::through;

/// A drawing: its lines in order.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Drawing {
    /// The lines.
    pub lines: Vec<Line>,
    /// The figures and rules that are held.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub holds: Vec<Hold>,
}

/// A line of a drawing: a name, and what is drawn.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Line {
    /// What other lines, picks and people call it: letters and digits.
    pub name: String,
    /// What it is.
    pub draw: Shape,
}

/// What a line can be. Places are [x, y] in the plane, mm; angles are degrees, counter-clockwise from x.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum Shape {
    /// A straight line.
    Line {
        /// Where it begins.
        from: [f64; 2],
        /// Where it ends.
        to: [f64; 2],
    },
    /// Lines and arcs, each beginning where the last one ended.
    Chain {
        /// Where it begins.
        from: [f64; 2],
        /// Where each leg ends.
        legs: Vec<Leg>,
        /// Whether a straight leg closes it.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        closed: bool,
    },
    /// An arc through three points.
    Arc {
        /// Where it begins.
        from: [f64; 2],
        /// A place on its way.
        via: [f64; 2],
        /// Where it ends.
        to: [f64; 2],
    },
    /// A circle.
    Circle {
        /// Its centre.
        centre: [f64; 2],
        /// Its diameter, mm.
        diameter: f64,
    },
    /// An ellipse.
    Ellipse {
        /// Its centre.
        centre: [f64; 2],
        /// Its width and its height, mm.
        size: [f64; 2],
        /// How far it is turned.
        #[serde(default)]
        turned: f64,
        /// Where on it a stretch begins and ends, for one that is not whole: as on the circle it is a squeezed one of.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        stretch: Option<[f64; 2]>,
    },
    /// A rectangle.
    Frame {
        /// Its middle.
        centre: [f64; 2],
        /// Its width and its height, mm.
        size: [f64; 2],
        /// The radius of its corners, mm; 0 leaves them sharp.
        #[serde(default)]
        radius: f64,
        /// How far it is turned.
        #[serde(default)]
        turned: f64,
    },
    /// A slot with round ends.
    Slot {
        /// The middle of one end's arc.
        from: [f64; 2],
        /// The middle of the other's.
        to: [f64; 2],
        /// Its width, mm.
        width: f64,
    },
    /// A regular polygon.
    Polygon {
        /// Its middle.
        centre: [f64; 2],
        /// The diameter of the circle through its corners, mm.
        diameter: f64,
        /// How many sides it has.
        sides: u32,
        /// Where its first corner lies.
        #[serde(default)]
        turned: f64,
    },
    /// A smooth curve through points.
    Curve {
        /// The points.
        points: Vec<[f64; 2]>,
        /// Whether it comes back to the first.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        closed: bool,
        /// The direction it begins with; absent, it begins without bending.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        begin: Option<f64>,
        /// The direction it ends with.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        end: Option<f64>,
    },
    /// Cubic Bézier curves, each beginning where the last one ended: two poles and an end each.
    Bezier {
        /// Where it begins.
        from: [f64; 2],
        /// The poles and the end of each leg.
        legs: Vec<[[f64; 2]; 3]>,
    },
    /// A flat spiral.
    Spiral {
        /// Its centre.
        centre: [f64; 2],
        /// The radius it begins with, mm.
        radius: f64,
        /// How its radius grows.
        grows: Growth,
        /// How many turns it makes, counter-clockwise; below 0 clockwise.
        turns: f64,
        /// Where it begins.
        #[serde(default)]
        turned: f64,
    },
    /// Copies of other lines in a row; they follow those.
    Row {
        /// The lines.
        of: Vec<String>,
        /// How far each copy is from the one before.
        step: [f64; 2],
        /// How many there are with the lines themselves.
        count: u32,
    },
    /// Copies of other lines in a ring; they follow those.
    Ring {
        /// The lines.
        of: Vec<String>,
        /// The centre of the ring.
        centre: [f64; 2],
        /// How many there are with the lines themselves.
        count: u32,
        /// The angle from each to the next; absent, they go round evenly.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        angle: Option<f64>,
    },
    /// Other lines mirrored; the mirrored follow those.
    Mirrored {
        /// The lines.
        of: Vec<String>,
        /// A place on the mirror line.
        from: [f64; 2],
        /// Another.
        to: [f64; 2],
    },
}

/// A leg of a chain.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Leg {
    /// Where it ends.
    pub to: [f64; 2],
    /// The tangent of a quarter of the angle it turns by, positive to the left; 0 for a straight leg.
    #[serde(default, skip_serializing_if = "is_nought")]
    pub bulge: f64,
}

#[allow(clippy::trivially_copy_pass_by_ref)] // as serde calls it
fn is_nought(x: &f64) -> bool {
    *x == 0.0
}

/// How the radius of a spiral grows.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum Growth {
    /// By so much with each turn, mm.
    Pitch(f64),
    /// To so many times itself with each turn.
    Factor(f64),
}

/// One smooth curve of a drawing.
#[derive(Clone, Debug, PartialEq)]
pub struct Curve {
    /// The line it comes from, then which of its curves it is where it has several: `a`, `b.3`, `c.2.1`.
    pub name: String,
    /// Its spans, one after the other.
    pub spans: Vec<Span>,
}

/// Why a drawing has no curves. `line` is the name of the line at fault.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[error("line {line}: {why}")]
pub struct DrawingError {
    /// The line.
    pub line: String,
    /// What is wrong with it.
    pub why: String,
}

/// The most lines of a drawing, and the most points or legs of one.
pub const MOST_LINES: usize = 5_000;
/// The most curves that come of a drawing, with all copies.
pub const MOST_CURVES: usize = 20_000;
/// The farthest from the origin of its plane anything may be drawn, mm.
pub const FARTHEST: f64 = 1e6;
/// The least measure that can be drawn, mm: shorter is a slip.
pub const LEAST: f64 = 1e-4;
/// The most turns of a spiral.
const MOST_TURNS: f64 = 500.0;
/// The longest name of a line, characters.
const LONGEST_NAME: usize = 20;

type Shapes = Result<Vec<Vec<Span>>, String>;

impl Drawing {
    /// The curves of all lines in order, each smooth in itself.
    ///
    /// # Errors
    /// [`DrawingError`] for the first line that cannot be drawn.
    pub fn curves(&self) -> Result<Vec<Curve>, DrawingError> {
        if self.lines.len() > MOST_LINES {
            let why = format!("a profile has at most {MOST_LINES} lines; this one has {}", self.lines.len());
            return Err(DrawingError { line: self.lines[MOST_LINES].name.clone(), why });
        }
        let mut of: FxHashMap<&str, Vec<Vec<Span>>> = FxHashMap::default();
        let mut curves: Vec<Curve> = Vec::new();
        for line in &self.lines {
            let fault = |why: String| DrawingError { line: line.name.clone(), why };
            check_name(&line.name).map_err(fault)?;
            if of.contains_key(line.name.as_str()) {
                return Err(fault("another line has this name".into()));
            }
            let drawn = line.draw.spans(&of).map_err(fault)?;
            let farthest = drawn.iter().flatten().flat_map(|s| [s.from(), s.at(0.5), s.to()]);
            if let Some(far) = farthest.into_iter().find(|p| p.is_nan() || p.abs().max_element() > FARTHEST) {
                return Err(fault(format!("it reaches to {}, {}; {FARTHEST} mm is the farthest", far.x, far.y)));
            }
            if curves.len() + drawn.len() > MOST_CURVES {
                return Err(fault(format!("a profile has at most {MOST_CURVES} curves with all copies")));
            }
            let single = drawn.len() == 1;
            let name = |k: usize| if single { line.name.clone() } else { format!("{}.{}", line.name, k + 1) };
            curves.extend(drawn.iter().enumerate().map(|(k, spans)| Curve { name: name(k), spans: spans.clone() }));
            of.insert(&line.name, drawn);
        }
        Ok(curves)
    }
}

/// Whether a line, a figure or a rule can be called so.
pub(crate) fn check_name(name: &str) -> Result<(), String> {
    let fine = (1..=LONGEST_NAME).contains(&name.len()) && name.chars().all(|c| c.is_ascii_alphanumeric());
    if fine { Ok(()) } else { Err(format!("a name is at most {LONGEST_NAME} letters and digits")) }
}

fn all_finite(figures: &[f64]) -> Result<(), String> {
    if figures.iter().all(|x| x.is_finite()) { Ok(()) } else { Err("a figure is no number".into()) }
}

fn measure(x: f64, what: &str) -> Result<f64, String> {
    if (LEAST..=2.0 * FARTHEST).contains(&x) {
        Ok(x)
    } else {
        Err(format!("its {what} is {x} mm; from {LEAST} to {} mm can be drawn", 2.0 * FARTHEST))
    }
}

/// A straight line between different places.
fn straight(from: Flat, to: Flat) -> Result<Vec<Span>, String> {
    measure(from.distance(to), "length").map(|_| vec![Span::line(from, to)])
}

/// An arc by the tangent of a quarter of its angle.
fn bulged(from: Flat, to: Flat, bulge: f64) -> Result<Vec<Span>, String> {
    let chord = measure(from.distance(to), "length")?;
    // So flat that it stands off its chord by less than what is drawn: a straight line.
    if (bulge * chord * 0.5).abs() < LEAST * 1e-3 {
        return straight(from, to);
    }
    let angle = 4.0 * bulge.atan();
    let radius = measure(chord * (1.0 + bulge * bulge) / (4.0 * bulge.abs()), "radius")?;
    let middle = (from + to) * 0.5;
    let centre = middle + (to - from).perp() * ((1.0 - bulge * bulge) / (4.0 * bulge));
    let start = (from - centre).to_angle();
    Ok(round(Form::Arc { centre, radius }, start, start + angle))
}

fn through_three(from: Flat, via: Flat, to: Flat) -> Result<Vec<Span>, String> {
    let (a, b) = (via - from, to - via);
    measure(a.length(), "first stretch")?;
    measure(b.length(), "second stretch")?;
    if from.distance(to) < LEAST {
        return Err("it ends where it begins; that is a circle".into());
    }
    // The angle at `via` is half of what is left of the turn.
    let turn = a.perp_dot(b).atan2(a.dot(b));
    bulged(from, to, (turn * 0.5).tan())
}

fn frame(centre: Flat, size: Flat, radius: f64, turned: f64) -> Shapes {
    let (w, h) = (measure(size.x, "width")?, measure(size.y, "height")?);
    if !(radius >= 0.0 && radius <= w.min(h) * 0.5) {
        return Err(format!("the radius of its corners is {radius} mm; from 0 to {} mm fit", w.min(h) * 0.5));
    }
    let way = Flat::from_angle(turned.to_radians());
    let at = |x: f64, y: f64| centre + way.rotate(Flat::new(x, y));
    let half = Flat::new(w, h) * 0.5;
    let corners = [(1.0, -1.0), (1.0, 1.0), (-1.0, 1.0), (-1.0, -1.0)];
    let mut shapes = Vec::new();
    for (k, (x, y)) in corners.into_iter().enumerate() {
        // The side that leads to the corner, then the corner.
        let before = corners[(k + 3) % 4];
        let along = Flat::new(x - before.0, y - before.1) * 0.5;
        let begin = Flat::new(before.0 * half.x, before.1 * half.y) + along * radius;
        let end = Flat::new(x * half.x, y * half.y) - along * radius;
        if begin.distance(end) >= LEAST {
            shapes.push(vec![Span::line(at(begin.x, begin.y), at(end.x, end.y))]);
        }
        if radius >= LEAST {
            let middle = Flat::new(x * (half.x - radius), y * (half.y - radius));
            let start = turned.to_radians() + (k as f64 - 1.0) * PI * 0.5;
            let form = Form::Arc { centre: at(middle.x, middle.y), radius };
            shapes.push(round(form, start, start + PI * 0.5));
        }
    }
    Ok(shapes)
}

fn slot(from: Flat, to: Flat, width: f64) -> Shapes {
    let r = measure(width, "width")? * 0.5;
    measure(from.distance(to), "length")?;
    let along = (to - from).to_angle();
    let side = Flat::from_angle(along).perp() * r;
    let cap = |centre: Flat, start: f64| round(Form::Arc { centre, radius: r }, start, start + PI);
    Ok(vec![
        vec![Span::line(from - side, to - side)],
        cap(to, along - PI * 0.5),
        vec![Span::line(to + side, from + side)],
        cap(from, along + PI * 0.5),
    ])
}

fn polygon(centre: Flat, diameter: f64, sides: u32, turned: f64) -> Shapes {
    if !(3..=360).contains(&sides) {
        return Err(format!("it has {sides} sides; 3 to 360 can be drawn"));
    }
    let radius = measure(diameter, "diameter")? * 0.5;
    let corner = |k: u32| {
        centre + Flat::from_angle(turned.to_radians() + f64::from(k % sides) / f64::from(sides) * TAU) * radius
    };
    (0..sides).map(|k| straight(corner(k), corner(k + 1))).collect()
}

fn curve(points: &[[f64; 2]], closed: bool, begin: Option<f64>, end: Option<f64>) -> Shapes {
    let points: Vec<Flat> = points.iter().map(|p| Flat::from(*p)).collect();
    let least = if closed { 3 } else { 2 };
    if points.len() < least || points.len() > MOST_LINES {
        return Err(format!("it goes through {} points; {least} to {MOST_LINES} can be drawn", points.len()));
    }
    let next = points.iter().skip(1).chain(closed.then_some(&points[0]));
    for (k, (a, b)) in points.iter().zip(next).enumerate() {
        if a.distance(*b) < LEAST {
            return Err(format!("its points {} and {} are the same place", k + 1, (k + 1) % points.len() + 1));
        }
    }
    let way = |angle: Option<f64>| angle.map(|a| Flat::from_angle(a.to_radians()));
    Ok(vec![through(&points, closed, way(begin), way(end)).into_iter().flat_map(cubic).collect()])
}

fn bezier(from: Flat, legs: &[[[f64; 2]; 3]]) -> Shapes {
    if legs.is_empty() || legs.len() > MOST_LINES {
        return Err(format!("it has {} legs; 1 to {MOST_LINES} can be drawn", legs.len()));
    }
    let (mut at, mut curves) = (from, Vec::<Vec<Span>>::new());
    for (n, leg) in legs.iter().enumerate() {
        let [p, q, to] = leg.map(Flat::from);
        if [p, q, to].iter().all(|x| x.distance(at) < LEAST) {
            return Err(format!("leg {}: it stays in one place", n + 1));
        }
        let spans = cubic([at, p, q, to]);
        // What goes on smoothly is one curve.
        let smooth = curves.last().and_then(|c| c.last()).zip(spans.first());
        let smooth = smooth.is_some_and(|(a, b)| a.direction(1.0).dot(b.direction(0.0)) > 1.0 - 1e-9);
        match curves.last_mut() {
            Some(last) if smooth => last.extend(spans),
            _ => curves.push(spans),
        }
        at = to;
    }
    Ok(curves)
}

fn spiralled(centre: Flat, radius: f64, grows: Growth, turns: f64, turned: f64) -> Shapes {
    if !(turns.abs() > 0.0 && turns.abs() <= MOST_TURNS) {
        return Err(format!("it makes {turns} turns; up to {MOST_TURNS} can be drawn"));
    }
    let (start, sweep) = (turned.to_radians(), turns * TAU);
    let way = turns.signum();
    let form = match grows {
        Growth::Pitch(pitch) => {
            if radius < 0.0 || radius + pitch * turns.abs() < 0.0 || pitch == 0.0 {
                return Err("its radius has to grow or shrink with each turn, and never below 0".into());
            }
            let growth = pitch * way / TAU;
            Form::Spiral { centre, radius: radius - growth * start, growth }
        }
        Growth::Factor(factor) => {
            measure(radius, "radius")?;
            if !(factor > 0.0 && factor != 1.0) {
                return Err("what its radius grows by with each turn is more than 0, and not 1".into());
            }
            let rate = factor.ln() * way / TAU;
            Form::Growing { centre, radius: radius * (-rate * start).exp(), rate }
        }
    };
    let spans = spiral(form, start, start + sweep);
    let ends = spans.first().zip(spans.last()).map(|(a, b)| (a.from().distance(centre), b.to().distance(centre)));
    match ends {
        Some((a, b)) if a.max(b) >= LEAST => Ok(vec![spans]),
        _ => Err("it stays in one place".into()),
    }
}

/// Turns, perhaps mirrors (about x, before it turns) and moves.
#[derive(Clone, Copy)]
struct Moved {
    turn: f64,
    mirrored: bool,
    shift: Flat,
}

impl Moved {
    fn way(&self, p: Flat) -> Flat {
        let p = if self.mirrored { Flat::new(p.x, -p.y) } else { p };
        Flat::from_angle(self.turn).rotate(p)
    }

    fn place(&self, p: Flat) -> Flat {
        self.way(p) + self.shift
    }

    fn span(&self, span: &Span) -> Span {
        let sign = if self.mirrored { -1.0 } else { 1.0 };
        let by_angle = |form: Form| Span { form, lo: self.turn + sign * span.lo, hi: self.turn + sign * span.hi };
        match span.form {
            Form::Line { from, to } => {
                Span { form: Form::Line { from: self.place(from), to: self.place(to) }, ..*span }
            }
            Form::Cubic(poles) => Span { form: Form::Cubic(poles.map(|p| self.place(p))), ..*span },
            // Its parameter stays: it belongs to the axes.
            Form::Ellipse { centre, u, v } => {
                Span { form: Form::Ellipse { centre: self.place(centre), u: self.way(u), v: self.way(v) }, ..*span }
            }
            Form::Arc { centre, radius } => by_angle(Form::Arc { centre: self.place(centre), radius }),
            Form::Spiral { centre, radius, growth } => by_angle(Form::Spiral {
                centre: self.place(centre),
                radius: radius - sign * growth * self.turn,
                growth: sign * growth,
            }),
            Form::Growing { centre, radius, rate } => by_angle(Form::Growing {
                centre: self.place(centre),
                radius: radius * (-sign * rate * self.turn).exp(),
                rate: sign * rate,
            }),
        }
    }
}

/// Copies of lines, moved each in its way.
fn copies(of: &[String], drawn: &FxHashMap<&str, Vec<Vec<Span>>>, ways: &[Moved]) -> Shapes {
    if of.is_empty() {
        return Err("say which lines it copies".into());
    }
    let mut shapes = Vec::new();
    for way in ways {
        for name in of {
            let lines = drawn.get(name.as_str()).ok_or_else(|| format!("there is no line {name} before it"))?;
            if shapes.len() + lines.len() > MOST_CURVES {
                return Err(format!("a profile has at most {MOST_CURVES} curves with all copies"));
            }
            shapes.extend(lines.iter().map(|spans| spans.iter().map(|s| way.span(s)).collect()));
        }
    }
    Ok(shapes)
}

fn counted(count: u32) -> Result<u32, String> {
    if (2..=MOST_CURVES as u32).contains(&count) {
        Ok(count)
    } else {
        Err(format!("{count} copies; from 2, with the lines themselves, to {MOST_CURVES} can be drawn"))
    }
}

impl Shape {
    /// The places it names, and its other figures.
    fn figures(&self) -> Vec<f64> {
        match self {
            Self::Line { from, to } => [*from, *to].concat(),
            Self::Chain { from, legs, .. } => {
                from.iter().copied().chain(legs.iter().flat_map(|l| [l.to[0], l.to[1], l.bulge])).collect()
            }
            Self::Arc { from, via, to } => [*from, *via, *to].concat(),
            Self::Circle { centre, diameter } => vec![centre[0], centre[1], *diameter],
            Self::Ellipse { centre, size, turned, stretch } => {
                [&centre[..], &size[..], &[*turned], &stretch.unwrap_or_default()].concat()
            }
            Self::Frame { centre, size, radius, turned } => [&centre[..], &size[..], &[*radius, *turned]].concat(),
            Self::Slot { from, to, width } => [&from[..], &to[..], &[*width]].concat(),
            Self::Polygon { centre, diameter, turned, .. } => [&centre[..], &[*diameter, *turned]].concat(),
            Self::Curve { points, begin, end, .. } => {
                points.iter().flatten().copied().chain(*begin).chain(*end).collect()
            }
            Self::Bezier { from, legs } => {
                from.iter().copied().chain(legs.iter().flatten().flatten().copied()).collect()
            }
            Self::Spiral { centre, radius, grows, turns, turned } => {
                let (Growth::Pitch(by) | Growth::Factor(by)) = *grows;
                [&centre[..], &[*radius, by, *turns, *turned]].concat()
            }
            Self::Row { step, .. } => step.to_vec(),
            Self::Ring { centre, angle, .. } => centre.iter().copied().chain(*angle).collect(),
            Self::Mirrored { from, to, .. } => [*from, *to].concat(),
        }
    }

    fn spans(&self, drawn: &FxHashMap<&str, Vec<Vec<Span>>>) -> Shapes {
        all_finite(&self.figures())?;
        let flat = |p: &[f64; 2]| Flat::from(*p);
        let whole = |form: Form| vec![round(form, 0.0, TAU)];
        match self {
            Self::Line { from, to } => Ok(vec![straight(flat(from), flat(to))?]),
            Self::Chain { from, legs, closed } => chain(flat(from), legs, *closed),
            Self::Arc { from, via, to } => Ok(vec![through_three(flat(from), flat(via), flat(to))?]),
            Self::Circle { centre, diameter } => {
                Ok(whole(Form::Arc { centre: flat(centre), radius: measure(*diameter, "diameter")? * 0.5 }))
            }
            Self::Ellipse { centre, size, turned, stretch } => {
                let way = Flat::from_angle(turned.to_radians());
                let (w, h) = (measure(size[0], "width")?, measure(size[1], "height")?);
                let form = Form::Ellipse { centre: flat(centre), u: way * (w * 0.5), v: way.perp() * (h * 0.5) };
                let Some([from, to]) = stretch.map(|s| s.map(f64::to_radians)) else { return Ok(whole(form)) };
                if !((1e-4..=TAU).contains(&(to - from).abs())) {
                    return Err("a stretch of it ends elsewhere than it begins, within one turn".into());
                }
                Ok(vec![round(form, from, to)])
            }
            Self::Frame { centre, size, radius, turned } => frame(flat(centre), flat(size), *radius, *turned),
            Self::Slot { from, to, width } => slot(flat(from), flat(to), *width),
            Self::Polygon { centre, diameter, sides, turned } => polygon(flat(centre), *diameter, *sides, *turned),
            Self::Curve { points, closed, begin, end } => curve(points, *closed, *begin, *end),
            Self::Bezier { from, legs } => bezier(flat(from), legs),
            Self::Spiral { centre, radius, grows, turns, turned } => {
                spiralled(flat(centre), *radius, *grows, *turns, *turned)
            }
            Self::Row { of, step, count } => {
                let shift = |k: u32| Moved { turn: 0.0, mirrored: false, shift: flat(step) * f64::from(k) };
                copies(of, drawn, &(1..counted(*count)?).map(shift).collect::<Vec<_>>())
            }
            Self::Ring { of, centre, count, angle } => {
                let each = TAU / f64::from(counted(*count)?);
                let each = angle.map_or(each, f64::to_radians);
                let turned = |k: u32| {
                    let turn = each * f64::from(k);
                    let shift = flat(centre) - Flat::from_angle(turn).rotate(flat(centre));
                    Moved { turn, mirrored: false, shift }
                };
                copies(of, drawn, &(1..*count).map(turned).collect::<Vec<_>>())
            }
            Self::Mirrored { of, from, to } => {
                measure(flat(from).distance(flat(to)), "mirror line")?;
                let along = (flat(to) - flat(from)).to_angle();
                let moved = Moved { turn: 2.0 * along, mirrored: true, shift: Flat::ZERO };
                copies(of, drawn, &[Moved { shift: flat(from) - moved.way(flat(from)), ..moved }])
            }
        }
    }
}

fn chain(from: Flat, legs: &[Leg], closed: bool) -> Shapes {
    if legs.is_empty() || legs.len() > MOST_LINES {
        return Err(format!("it has {} legs; 1 to {MOST_LINES} can be drawn", legs.len()));
    }
    let mut shapes = Vec::new();
    let mut at = from;
    for (k, leg) in legs.iter().enumerate() {
        let to = Flat::from(leg.to);
        shapes.push(bulged(at, to, leg.bulge).map_err(|why| format!("leg {}: {why}", k + 1))?);
        at = to;
    }
    if closed && at.distance(from) >= LEAST {
        shapes.push(straight(at, from)?);
    }
    Ok(shapes)
}
