//! The hand over the board: what it draws, drags and catches.

use nimbet_kernel::Progress;
use nimbet_profile::Flat;
use nimbet_profile::catch::{Named, Pointer, catch, line_of, named};
use nimbet_profile::drawing::{Curve, Drawing, FARTHEST, Line, MOST_LINES, Shape};
use nimbet_profile::hand::{Click, Figure, Pen, Typed, drawn};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::super::profile::drawing_refused;
use super::{curves_only, fine, points};
use crate::TradeError;

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

/// What the hand does, and what came of it.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct HandView {
    /// Where it catches, or what was typed puts it.
    pub at: [f64; 2],
    /// What it has caught, in words.
    pub caught: String,
    /// The line nearest to it, within reach.
    pub over: Option<String>,
    /// Which of its curves that is.
    pub over_curve: Option<String>,
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
    pub(super) fn done(&self, drawing: &Drawing, progress: &Progress) -> Result<(Drawing, HandView), TradeError> {
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
            && let [first, _, _, ..] = &clicks[..]
        {
            names.push(Named { at: Flat::from(first.at), text: "its beginning".into() });
        }
        let pointer = Pointer { at, reach: self.reach, from, grid: self.grid };
        let caught = catch(&network, &names, &pointer, &left_out);
        let far = |c: &Curve| c.spans.iter().map(|s| s.nearest(at).1).fold(f64::INFINITY, f64::min);
        let over = network.curves.iter().map(|c| (far(c), c)).filter(|(off, _)| *off <= self.reach.max(1e-9));
        let over = over.min_by(|a, b| a.0.total_cmp(&b.0)).map(|(_, c)| c.name.clone());
        let mut view = HandView {
            at: caught.at.to_array(),
            caught: caught.text,
            over: over.as_ref().map(|c| line_of(c).to_owned()),
            over_curve: over,
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
                    let alone = Drawing { lines: vec![Line::new("x", shape.clone())], holds: vec![] };
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
                let mut made =
                    drawing.dragged(line, handle, caught.at, false).map_err(|e| drawing_refused(e.into()))?;
                if !drawing.holds.is_empty() {
                    made = drawing.led(&made, progress)?;
                }
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
