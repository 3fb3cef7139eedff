//! What people write: lines with names, in plain measures. From it come the curves.

mod build;
mod copies;

use std::f64::consts::TAU;

use rustc_hash::FxHashMap;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::Flat;
use crate::letters::lettered;
use crate::rules::Hold;
use crate::span::{Form, Span, round};
use build::{all_finite, bezier, chain, curve, frame, measure, polygon, slot, spiralled, straight, through_three};
use copies::{Moved, copies, counted};

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
    /// Whether it was carried down from a part: then it lies where that has it, and nothing moves it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub still: bool,
}

impl Line {
    /// A line that is drawn.
    pub fn new(name: impl Into<String>, draw: Shape) -> Self {
        Self { name: name.into(), draw, still: false }
    }
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
    /// Letters, as the outlines of the face that ships.
    Letters {
        /// What is written.
        text: String,
        /// Where its base line begins, or its middle is.
        at: [f64; 2],
        /// How high a capital is, mm.
        height: f64,
        /// Where the base line goes.
        #[serde(default)]
        turned: f64,
        /// Whether it stands to both sides of its place.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        middle: bool,
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
            Self::Letters { at, height, turned, .. } => vec![at[0], at[1], *height, *turned],
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
            Self::Letters { text, at, height, turned, middle } => {
                lettered(text, flat(at), measure(*height, "height")?, *turned, *middle)
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
