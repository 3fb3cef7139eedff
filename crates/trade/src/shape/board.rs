//! The board: a drawing as it is shown and changed while somebody draws. Nothing of it is kept.

use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Mesh, Progress};
use nimbet_profile::catch::{Pointer, catch, line_of, named};
use nimbet_profile::change::Change;
use nimbet_profile::drawing::{Drawing, FARTHEST, Line, MOST_LINES, Shape};
use nimbet_profile::hand::{Click, Figure, Pen, Typed, drawn};
use nimbet_profile::look::Look;
use nimbet_profile::{Flat, Handle, Network, Span, text};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::profile::{Profile, drawing_refused, frame_on, network_refused, told};
use super::sheets::Plane;
use crate::TradeError;
use crate::words::{Xyz, count, figure, millimetres};

/// A drawing to be shown, perhaps with a change made to it first, and what the hand is doing.
#[derive(Clone, Debug, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct BoardRequest {
    /// The plane it lies in.
    pub plane: Plane,
    /// Where x goes in that plane; absent, y is up as one sees it.
    #[serde(default)]
    pub right: Option<Xyz>,
    /// Its lines.
    pub lines: Vec<Line>,
    /// What is changed first.
    #[serde(default)]
    pub change: Option<Change>,
    /// What the hand is doing; then only what it draws is worked out.
    #[serde(default)]
    pub hand: Option<Hand>,
}

/// What the hand is doing over the board.
#[derive(Clone, Debug, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Hand {
    /// Where the pointer is, mm.
    pub at: [f64; 2],
    /// How far it catches, mm; 0 catches nothing.
    pub reach: f64,
    /// What free places are rounded to, mm; 0 leaves them.
    pub grid: f64,
    /// What it does; absent, it only points.
    #[serde(default)]
    pub does: Option<Doing>,
}

/// What a hand can do.
#[derive(Clone, Debug, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum Doing {
    /// It draws a line.
    Draw {
        /// With what.
        pen: Pen,
        /// The places clicked so far.
        clicks: Vec<Click>,
        /// Whether the leg of a chain being drawn is an arc.
        #[serde(default)]
        round: bool,
        /// The figures that were typed, by name.
        #[serde(default)]
        typed: Typed,
    },
    /// It holds a line by one of its handles.
    Drag {
        /// The line.
        line: String,
        /// The handle.
        handle: String,
    },
}

/// A drawing as it is shown.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct BoardView {
    /// Where its plane has its zero, mm.
    pub origin: Xyz,
    /// Where its x goes.
    pub right: Xyz,
    /// Where its y goes.
    pub up: Xyz,
    /// Its lines as they are after the change.
    pub lines: Vec<Line>,
    /// What the change did.
    pub done: Option<String>,
    /// Its lines as a list: a row each.
    pub rows: Vec<Row>,
    /// Its curves.
    pub curves: Vec<DrawnCurve>,
    /// The places by which lines are taken hold of.
    pub handles: Vec<HandleView>,
    /// What is to be seen of it; absent while the hand moves.
    pub seen: Option<Look>,
    /// Its state in words: "closed: 5 regions, 1 240 mm²".
    pub told: Option<String>,
    /// The outlines of its regions, in the order of those seen: border, then holes.
    pub regions: Vec<Vec<Vec<[f64; 2]>>>,
    /// The name the next line gets.
    pub free_name: String,
    /// What the hand does.
    pub hand: Option<HandView>,
}

/// A line's row in the list.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct Row {
    /// The line.
    pub name: String,
    /// What kind of line it is, in a word.
    pub kind: String,
    /// As it is written, without its name.
    pub text: String,
    /// Its measures.
    pub told: String,
}

/// A curve as it is drawn.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct DrawnCurve {
    /// Its name.
    pub name: String,
    /// The line it is of.
    pub line: String,
    /// Places on it, near enough to be drawn as straight lines, mm.
    pub points: Vec<[f64; 2]>,
}

/// A place by which a line is taken hold of.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct HandleView {
    /// The line.
    pub line: String,
    /// Which.
    pub handle: String,
    /// Where, mm.
    pub at: [f64; 2],
}

/// What the hand does, and what came of it.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct HandView {
    /// Where it catches, or what was typed puts it.
    pub at: [f64; 2],
    /// What it has caught, in words.
    pub caught: String,
    /// The line nearest to it, within reach.
    pub over: Option<String>,
    /// What is being drawn, as far as it can be.
    pub shape: Option<Shape>,
    /// Places on what is being drawn.
    pub curves: Vec<Vec<[f64; 2]>>,
    /// The figures of what is being drawn.
    pub figures: Vec<Figure>,
    /// Whether the next click is the last.
    pub last: bool,
    /// Why it cannot be drawn so.
    pub wrong: Option<String>,
}

/// What is drawn of a curve is this share of the size of the whole off it at most.
const SHOWN: f64 = 1.0 / 5000.0;

impl BoardRequest {
    /// The drawing on its board. The mesh is the part its plane may follow a face of.
    ///
    /// # Errors
    /// What cannot be drawn or changed, in words; where somebody asked to stop.
    pub fn view(&self, mesh: Option<&Mesh>, progress: &Progress) -> Result<BoardView, TradeError> {
        let frame = frame_on(&self.plane, self.right, mesh)?;
        let mut drawing = Drawing { lines: self.lines.clone() };
        let mut done = None;
        if let Some(change) = &self.change {
            let (made, what) = drawing.changed(change, &progress.stage(0.0, 0.4)).map_err(drawing_refused)?;
            (drawing, done) = (made, Some(what));
        }
        let mut hand = None;
        if let Some(doing) = &self.hand {
            let (made, seen) = doing.done(&drawing, progress)?;
            (drawing, hand) = (made, Some(seen));
        }
        let view = match hand {
            Some(_) => BoardView::of(frame, drawing.clone(), &curves_only(&drawing, progress)?),
            None => BoardView::with_regions(frame, drawing, &progress.stage(0.4, 1.0))?,
        };
        Ok(BoardView { done, hand, ..view })
    }
}

impl BoardView {
    /// A profile as it was drawn.
    ///
    /// # Errors
    /// Where the part is none, or is not any more.
    pub fn of_part(mesh: &Mesh, progress: &Progress) -> Result<Self, TradeError> {
        let (frame, lines) = Profile::kept(mesh)?;
        Self::with_regions(frame, Drawing { lines }, progress)
    }

    fn with_regions(frame: PlaneFrame, drawing: Drawing, progress: &Progress) -> Result<Self, TradeError> {
        let profile = Profile::drawn(frame, drawing.lines.clone(), &progress.stage(0.0, 0.8))?;
        let seen = profile.look(&progress.stage(0.8, 1.0))?;
        let view = Self::of(frame, drawing, &profile.network);
        Ok(Self { told: Some(told(&seen)), seen: Some(seen), regions: outlines(&profile), ..view })
    }

    fn of(frame: PlaneFrame, drawing: Drawing, network: &Network) -> Self {
        let [right, up] = frame.directions().map(|d| d.to_array());
        let handle = |h: Handle| HandleView { line: h.line, handle: h.name, at: h.at.to_array() };
        Self {
            origin: frame.origin.to_array(),
            right,
            up,
            done: None,
            rows: rows(&drawing, network),
            curves: shown(network),
            handles: drawing.handles().into_iter().map(handle).collect(),
            told: None,
            seen: None,
            regions: vec![],
            free_name: drawing.free_name(),
            hand: None,
            lines: drawing.lines,
        }
    }
}

fn curves_only(drawing: &Drawing, progress: &Progress) -> Result<Network, TradeError> {
    let curves = drawing.curves().map_err(|e| TradeError::refused(e.to_string(), vec![]))?;
    Network::new(curves, progress).map_err(network_refused)
}

/// The size by which it is drawn finely enough.
fn fine(network: &Network) -> f64 {
    if network.curves.is_empty() {
        return 0.01;
    }
    let (least, most) = network.bounds();
    ((most - least).length() * SHOWN).max(1e-4)
}

fn points(spans: &[Span], chord: f64) -> Vec<[f64; 2]> {
    let first = spans.first().map(|s| s.from().to_array());
    let on = spans.iter().flat_map(|s| s.shares(chord).into_iter().map(|t| s.at(t).to_array()));
    first.into_iter().chain(on).collect()
}

fn shown(network: &Network) -> Vec<DrawnCurve> {
    let chord = fine(network);
    let drawn = |c: &nimbet_profile::drawing::Curve| DrawnCurve {
        name: c.name.clone(),
        line: line_of(&c.name).to_owned(),
        points: points(&c.spans, chord),
    };
    network.curves.iter().map(drawn).collect()
}

fn outlines(profile: &Profile) -> Vec<Vec<Vec<[f64; 2]>>> {
    let (network, chord) = (&profile.network, fine(&profile.network));
    let outline = |sides: &Vec<(usize, bool)>| {
        network.flattened(sides, chord).into_iter().map(|(p, _)| p.to_array()).collect::<Vec<_>>()
    };
    profile.regions.iter().map(|r| r.outlines.iter().map(outline).collect()).collect()
}

impl Hand {
    /// Whether all its figures lie on the paper.
    fn check(&self) -> Result<(), TradeError> {
        let lies = |x: &f64| x.abs() <= FARTHEST;
        let measured = |x: f64| (0.0..=FARTHEST).contains(&x);
        let (clicks, figures): (&[Click], Vec<f64>) = match &self.does {
            Some(Doing::Draw { clicks, typed, .. }) => (clicks, typed.values().copied().collect()),
            _ => (&[], vec![]),
        };
        let places = self.at.iter().chain(clicks.iter().flat_map(|c| &c.at)).chain(&figures);
        if clicks.len() > MOST_LINES || !places.into_iter().all(lies) || !measured(self.reach) || !measured(self.grid) {
            let why = format!("the hand is off the paper: {FARTHEST} mm is the farthest, {MOST_LINES} clicks the most");
            return Err(TradeError::refused(why, vec![]));
        }
        Ok(())
    }

    /// What it does to a drawing.
    fn done(&self, drawing: &Drawing, progress: &Progress) -> Result<(Drawing, HandView), TradeError> {
        self.check()?;
        let network = curves_only(drawing, progress)?;
        let at = Flat::from(self.at);
        let from = match &self.does {
            Some(Doing::Draw { clicks, .. }) => clicks.last().map(|c| Flat::from(c.at)),
            _ => None,
        };
        // What is being dragged does not catch itself.
        let left_out = |line: &str| matches!(&self.does, Some(Doing::Drag { line: held, .. }) if held == line);
        let mut names = named(&network, &left_out);
        if let Some(Doing::Draw { clicks, .. }) = &self.does
            && let [first, _, _, ..] = clicks[..]
        {
            names.push(nimbet_profile::catch::Named { at: Flat::from(first.at), text: "its beginning".into() });
        }
        let pointer = Pointer { at, reach: self.reach, from, grid: self.grid };
        let caught = catch(&network, &names, &pointer, &left_out);
        let far =
            |c: &nimbet_profile::drawing::Curve| c.spans.iter().map(|s| s.nearest(at).1).fold(f64::INFINITY, f64::min);
        let over = network.curves.iter().map(|c| (far(c), c)).filter(|(off, _)| *off <= self.reach.max(1e-9));
        let over = over.min_by(|a, b| a.0.total_cmp(&b.0)).map(|(_, c)| line_of(&c.name).to_owned());
        let mut view = HandView {
            at: caught.at.to_array(),
            caught: caught.text,
            over,
            shape: None,
            curves: vec![],
            figures: vec![],
            last: false,
            wrong: None,
        };
        match &self.does {
            None => {}
            Some(Doing::Draw { pen, clicks, round, typed }) => {
                let made = drawn(*pen, clicks, *round, typed, caught.at);
                if !typed.is_empty() && made.at != caught.at {
                    view.caught.clear();
                }
                (view.at, view.figures, view.last) = (made.at.to_array(), made.figures, made.last);
                if let Some(shape) = made.shape {
                    let alone = Drawing { lines: vec![Line { name: "x".into(), draw: shape.clone() }] };
                    match alone.curves() {
                        Ok(curves) => {
                            let chord = fine(&network).min(self.reach.max(1e-3) * 0.05);
                            view.curves = curves.iter().map(|c| points(&c.spans, chord)).collect();
                        }
                        Err(e) => view.wrong = Some(e.why),
                    }
                    view.shape = Some(shape);
                }
            }
            Some(Doing::Drag { line, handle }) => {
                let made = drawing.dragged(line, handle, caught.at, false).map_err(|e| drawing_refused(e.into()))?;
                // Where it cannot be drawn so it stays as it was.
                match made.curves() {
                    Ok(_) => return Ok((made, view)),
                    Err(e) => view.wrong = Some(e.why),
                }
            }
        }
        Ok((drawing.clone(), view))
    }
}

fn rows(drawing: &Drawing, network: &Network) -> Vec<Row> {
    let mut curves = network.curves.iter().peekable();
    let row = |line: &Line| {
        let mut own = Vec::new();
        while let Some(c) = curves.next_if(|c| line_of(&c.name) == line.name) {
            own.push(c.spans.as_slice());
        }
        let text = text::row(&line.draw);
        let kind = text.split_whitespace().next().unwrap_or_default().to_owned();
        Row { name: line.name.clone(), kind, text, told: measures(&line.draw, &own) }
    };
    drawing.lines.iter().map(row).collect()
}

/// A line's measures in words.
fn measures(shape: &Shape, curves: &[&[Span]]) -> String {
    let length: f64 = curves.iter().flat_map(|c| c.iter()).map(Span::length).sum();
    let spans = || curves.iter().flat_map(|c| c.iter());
    let of = |names: &[String]| names.join(", ");
    let by = |size: &[f64; 2]| format!("{} × {}", figure(size[0]), millimetres(size[1]));
    match shape {
        Shape::Line { from, to } => {
            let angle = (Flat::from(*to) - Flat::from(*from)).to_angle().to_degrees();
            format!("{} at {}°", millimetres(length), figure(angle))
        }
        Shape::Chain { legs, closed, .. } => {
            let round = legs.iter().filter(|l| l.bulge != 0.0).count();
            let straight = curves.len() - round.min(curves.len());
            let arcs = if round > 0 { format!(", {}", count(round, "arc", "arcs")) } else { String::new() };
            let end = if *closed { ", closed" } else { "" };
            format!("{}{arcs}, {}{end}", count(straight, "line", "lines"), millimetres(length))
        }
        Shape::Arc { .. } => {
            let turn: f64 = spans().map(|s| (s.hi - s.lo).abs().to_degrees()).sum();
            format!("r {}, {}°", millimetres(length / turn.to_radians().max(1e-12)), figure(turn))
        }
        Shape::Circle { diameter, .. } => format!("⌀ {}", millimetres(*diameter)),
        Shape::Ellipse { size, .. } => by(size),
        Shape::Frame { size, radius, .. } if *radius > 0.0 => {
            format!("{}, corners r {}", by(size), millimetres(*radius))
        }
        Shape::Frame { size, .. } => by(size),
        Shape::Slot { from, to, width } => {
            let apart = Flat::from(*from).distance(Flat::from(*to));
            format!("{} from middle to middle, {} wide", millimetres(apart), millimetres(*width))
        }
        Shape::Polygon { diameter, sides, .. } => format!("{sides} sides, ⌀ {}", millimetres(*diameter)),
        Shape::Curve { points, closed, .. } => {
            let end = if *closed { ", closed" } else { "" };
            format!("through {}, {}{end}", count(points.len(), "point", "points"), millimetres(length))
        }
        Shape::Bezier { legs, .. } => format!("{}, {}", count(legs.len(), "leg", "legs"), millimetres(length)),
        Shape::Spiral { turns, .. } => format!("{} turns, {}", figure(*turns), millimetres(length)),
        Shape::Row { of: names, count, .. } => format!("{count} of {}", of(names)),
        Shape::Ring { of: names, count, .. } => format!("{count} of {} round", of(names)),
        Shape::Mirrored { of: names, .. } => of(names),
    }
}
