//! The board: a drawing as it is shown and changed while somebody draws. Nothing of it is kept.

mod hand;
mod rows;

use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Mesh, Progress};
use nimbet_profile::catch::line_of;
use nimbet_profile::change::{Change, ChangeError};
use nimbet_profile::drawing::{Curve, Drawing, Line};
use nimbet_profile::look::Look;
use nimbet_profile::rules::{Draught, Hold, Loose, Offer, Quarrel};
use nimbet_profile::{Handle, Network, Span, text};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use self::hand::{Hand, HandView};
use self::rows::{Row, rows};
use super::profile::{Profile, drawing_refused, frame_on, network_refused, told};
use super::sheets::Plane;
use crate::TradeError;
use crate::words::Xyz;

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
    /// Its figures and rules.
    #[serde(default)]
    pub holds: Vec<Hold>,
    /// Figures and rules that are let go before the change, because they quarrelled with it.
    #[serde(default)]
    pub let_go: Vec<String>,
    /// What is changed first.
    #[serde(default)]
    pub change: Option<Change>,
    /// Lines and places, in words, of which it is asked what can be held.
    #[serde(default)]
    pub chosen: Vec<String>,
    /// What the hand is doing; then only what it draws is worked out.
    #[serde(default)]
    pub hand: Option<Hand>,
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
    /// Its figures and rules as they are after the change.
    pub holds: Vec<Hold>,
    /// The same as a draughtsman writes them.
    pub draughts: Vec<Draught>,
    /// What is loose; absent while the hand moves, and where nothing is held.
    pub loose: Option<Loose>,
    /// The figures and rules that quarrel; then nothing was changed.
    pub quarrel: Vec<Contender>,
    /// What can be held of what was chosen.
    pub offers: Vec<Offer>,
    /// What the change did.
    pub done: Option<String>,
    /// All of it as a list in words.
    pub list: String,
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

/// A figure or a rule that quarrels with others.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct Contender {
    /// Its name; nothing for the one that was to be held.
    pub name: Option<String>,
    /// Its row, without the name.
    pub text: String,
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

/// What is drawn of a curve is this share of the size of the whole off it at most.
const SHOWN: f64 = 1.0 / 5000.0;

impl BoardRequest {
    /// The drawing on its board. The mesh is the part its plane may follow a face of.
    ///
    /// # Errors
    /// What cannot be drawn or changed, in words; where somebody asked to stop.
    pub fn view(&self, mesh: Option<&Mesh>, progress: &Progress) -> Result<BoardView, TradeError> {
        let frame = frame_on(&self.plane, self.right, mesh)?;
        let given = Drawing { lines: self.lines.clone(), holds: self.holds.clone() };
        given.check_holds().map_err(|e| drawing_refused(e.into()))?;
        let offers = given.offers(&self.chosen).map_err(|why| TradeError::refused(why, vec![]))?;
        let view = match self.settled(&given, &progress.stage(0.0, 0.4)) {
            Ok((drawing, done)) => BoardView { done, ..self.shown(frame, drawing, progress)? },
            Err(ChangeError::Quarrel(quarrel)) => {
                let quarrel = self.contenders(&given, &quarrel);
                BoardView { quarrel, ..BoardView::with_regions(frame, given, &progress.stage(0.4, 1.0))? }
            }
            Err(e) => return Err(drawing_refused(e)),
        };
        Ok(BoardView { offers, ..view })
    }

    /// The drawing after the change, and what that did.
    fn settled(&self, given: &Drawing, progress: &Progress) -> Result<(Drawing, Option<String>), ChangeError> {
        let mut drawing = given.clone();
        if !self.let_go.is_empty() {
            drawing = drawing.changed(&Change::LetGo { holds: self.let_go.clone() }, progress)?.0;
        }
        match &self.change {
            Some(change) => drawing.changed(change, progress).map(|(made, done)| (made, Some(done))),
            None => Ok((drawing.settled(&|_| false, progress).map_err(ChangeError::from)?, None)),
        }
    }

    fn shown(&self, frame: PlaneFrame, drawing: Drawing, progress: &Progress) -> Result<BoardView, TradeError> {
        let Some(hand) = &self.hand else {
            return BoardView::with_regions(frame, drawing, &progress.stage(0.4, 1.0));
        };
        let (made, seen) = hand.done(&drawing, progress)?;
        let network = curves_only(&made, progress)?;
        Ok(BoardView { hand: Some(seen), ..BoardView::of(frame, made, &network) })
    }

    /// Those that quarrel with the change, in words.
    fn contenders(&self, given: &Drawing, quarrel: &Quarrel) -> Vec<Contender> {
        let of = |name: &String| match (given.holds.iter().find(|h| h.name == *name), &self.change) {
            (_, Some(Change::Figure { hold, value })) if hold == name => {
                Contender { name: None, text: format!("{name} at {value}") }
            }
            (held, Some(Change::Write { line, text })) if held.is_none() || line.as_ref() == Some(name) => {
                Contender { name: None, text: text.clone() }
            }
            (Some(hold), _) => Contender { name: Some(name.clone()), text: text::rule_row(&hold.rule) },
            (None, Some(Change::Hold { text })) => Contender { name: None, text: text.clone() },
            (None, _) => Contender { name: None, text: name.clone() },
        };
        quarrel.holds.iter().map(of).collect()
    }
}

impl BoardView {
    /// A profile as it was drawn.
    ///
    /// # Errors
    /// Where the part is none, or is not any more.
    pub fn of_part(mesh: &Mesh, progress: &Progress) -> Result<Self, TradeError> {
        let (frame, drawing) = Profile::kept(mesh)?;
        Self::with_regions(frame, drawing, progress)
    }

    fn with_regions(frame: PlaneFrame, drawing: Drawing, progress: &Progress) -> Result<Self, TradeError> {
        let profile = Profile::drawn(frame, &drawing, &progress.stage(0.0, 0.7))?;
        let seen = profile.look(&progress.stage(0.7, 0.9))?;
        let loose = drawing.loose(&progress.stage(0.9, 1.0))?;
        let view = Self::of(frame, drawing, &profile.network);
        Ok(Self { loose, told: Some(told(&seen)), seen: Some(seen), regions: outlines(&profile), ..view })
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
            draughts: drawing.draughts(),
            list: text::written(&drawing),
            loose: None,
            quarrel: vec![],
            offers: vec![],
            lines: drawing.lines,
            holds: drawing.holds,
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
    let drawn = |c: &Curve| DrawnCurve {
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
