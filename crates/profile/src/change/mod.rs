//! Changes to a drawing: each gives another drawing, or says why not.

mod band;
mod copies;
mod flow;
mod hold;
mod join;
mod pieces;
mod soften;

use nimbet_kernel::Progress;
use rustc_hash::FxHashSet;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::drawing::{Drawing, Line, Shape};
use crate::hand::Click;
use crate::network::Network;
use crate::rules::{Quarrel, SettleError};
use crate::text::{LONGEST_LIST, Row, read, read_row};
use crate::{DrawingError, Flat, NetworkError};

pub use band::Ends;
pub use pieces::shapes_of;
pub use soften::{Corner, corners};

/// A change to a drawing.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum Change {
    /// Draws further lines.
    Draw {
        /// What is drawn.
        draw: Vec<Shape>,
        /// The clicks the last of them was drawn by: what was caught and typed there is held.
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        by: Vec<Click>,
    },
    /// Writes a row of the list anew, or a further one.
    Write {
        /// The line, figure or rule whose row it is; absent for a further one.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        line: Option<String>,
        /// The row, with or without a name.
        text: String,
    },
    /// Takes the whole list from text.
    List {
        /// The list.
        text: String,
    },
    /// Takes lines away, and copies of nothing else with them.
    Remove {
        /// The lines.
        lines: Vec<String>,
    },
    /// Moves lines.
    Move {
        /// The lines.
        lines: Vec<String>,
        /// How far, mm.
        by: [f64; 2],
    },
    /// Draws a handle elsewhere; ends that lie there go along.
    Drag {
        /// The line.
        line: String,
        /// Its handle.
        handle: String,
        /// Where to, mm.
        to: [f64; 2],
    },
    /// Takes away what lies between crossings at a place, or all that a straight stroke goes through.
    CutBack {
        /// The place, or where the stroke begins, mm.
        at: [f64; 2],
        /// Where the stroke ends, mm.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        to: Option<[f64; 2]>,
    },
    /// Keeps only what bounds the region at a place.
    KeepRegion {
        /// The place, mm.
        at: [f64; 2],
    },
    /// Cuts a line in two at a place.
    Split {
        /// The place, mm.
        at: [f64; 2],
    },
    /// Draws the end nearest to a place on to the next line.
    CarryOn {
        /// The place, mm.
        at: [f64; 2],
    },
    /// Joins free ends that are near each other.
    Join {
        /// How far apart they may be, mm.
        reach: f64,
    },
    /// Takes away lines that lie on others, and specks.
    Tidy {},
    /// Rounds corners, or cuts them off.
    Soften {
        /// The radius, or with `flat` how far from the corner it is cut, mm.
        radius: f64,
        /// Whether corners are cut off straight.
        #[serde(default)]
        flat: bool,
        /// Only the corners at these places; absent, all that turn more sharply than `sharper`.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        at: Option<Vec<[f64; 2]>>,
        /// The least angle a corner turns by.
        #[serde(default = "least_turn")]
        sharper: f64,
    },
    /// Draws lines at a distance from others.
    Band {
        /// The lines.
        lines: Vec<String>,
        /// How far to the left of the way they run, of closed ones within, mm.
        #[serde(default)]
        left: f64,
        /// How far to the right, of closed ones outside, mm.
        #[serde(default)]
        right: f64,
        /// How the band ends where the lines do.
        #[serde(default)]
        ends: Ends,
        /// Whether corners are drawn on to a point; else they are round.
        #[serde(default)]
        sharp: bool,
    },
    /// Draws a piece that goes on smoothly from two ends.
    Flow {
        /// The places of the ends, mm.
        between: [[f64; 2]; 2],
        /// How far each end pulls; 1 is as usual.
        #[serde(default = "usual")]
        pull: [f64; 2],
        /// Whether it goes on in curvature, too.
        #[serde(default)]
        even: bool,
    },
    /// Makes copies lines of their own.
    Free {
        /// The copies.
        lines: Vec<String>,
    },
    /// Holds a figure or a rule from now on.
    Hold {
        /// Its row, without a name: `length of a 40`, `level b`.
        text: String,
    },
    /// Gives a figure that is held another value.
    Figure {
        /// Its name.
        hold: String,
        /// The value, mm or degrees.
        value: f64,
    },
    /// Lets figures and rules go.
    LetGo {
        /// Their names.
        holds: Vec<String>,
    },
    /// Writes a figure at another place.
    Aside {
        /// Its name.
        hold: String,
        /// Where, from where it would be by itself, mm.
        by: [f64; 2],
    },
}

fn usual() -> [f64; 2] {
    [1.0, 1.0]
}

fn least_turn() -> f64 {
    5.0
}

/// Why a drawing is not changed.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum ChangeError {
    /// It cannot be done.
    #[error("{0}")]
    Refused(String),
    /// What is there, or what would come of it, cannot be drawn.
    #[error(transparent)]
    Drawing(#[from] DrawingError),
    /// Its figures and rules quarrel.
    #[error(transparent)]
    Quarrel(#[from] Quarrel),
    /// Its lines meet too often, or somebody asked to stop.
    #[error(transparent)]
    Network(#[from] NetworkError),
}

impl From<SettleError> for ChangeError {
    fn from(error: SettleError) -> Self {
        match error {
            SettleError::Quarrel(quarrel) => quarrel.into(),
            SettleError::Cancelled(c) => NetworkError::from(c).into(),
        }
    }
}

impl From<String> for ChangeError {
    fn from(why: String) -> Self {
        Self::Refused(why)
    }
}

fn refused<T>(why: impl Into<String>) -> Result<T, ChangeError> {
    Err(ChangeError::Refused(why.into()))
}

impl Drawing {
    /// Shapes as lines, named in order.
    pub fn of(shapes: Vec<Shape>) -> Self {
        Self::default().with(shapes)
    }

    /// A name no line has: the first free letter, then two, then three.
    pub fn free_name(&self) -> String {
        self.free_names().next().unwrap_or_default()
    }

    fn free_names(&self) -> impl Iterator<Item = String> + use<> {
        let taken: FxHashSet<String> = self.lines.iter().map(|l| l.name.to_ascii_lowercase()).collect();
        (0_usize..).map(name_of).filter(move |n| !taken.contains(n))
    }

    fn network(&self, progress: &Progress) -> Result<Network, ChangeError> {
        Ok(Network::new(self.curves()?, progress)?)
    }

    /// The drawing with a change made to it, and what was done, in words. What comes of it can be drawn.
    ///
    /// # Errors
    /// [`ChangeError`]; the drawing is untouched.
    pub fn changed(&self, change: &Change, progress: &Progress) -> Result<(Self, String), ChangeError> {
        let (made, done) = self.with_change(change, progress)?;
        made.check_holds()?;
        made.curves()?;
        Ok((made, done))
    }

    fn with_change(&self, change: &Change, progress: &Progress) -> Result<(Self, String), ChangeError> {
        let told = |drawing: Self, done: &str| Ok((drawing, done.to_owned()));
        let nobody = |_: &str| false;
        match change {
            Change::Draw { draw, by } => {
                let with = Self { holds: self.holds.clone(), ..self.with(draw.clone()) };
                with.curves()?;
                let held = with.with_caught(by, progress).map_err(NetworkError::from)?;
                let new = held.holds.len() - self.holds.len();
                let s = if new == 1 { "" } else { "s" };
                Ok((held, if new > 0 { format!("drawn; {new} figure{s} or rule{s} held") } else { "drawn".into() }))
            }
            Change::Write { line, text } => told(self.written(line.as_deref(), text, progress)?, "written"),
            Change::List { text } => {
                let read = read(text).map_err(|e| ChangeError::Refused(e.to_string()))?;
                read.check_holds()?;
                told(read.settled(&nobody, progress)?, "read")
            }
            Change::Move { lines, by } => told(self.taken(&self.moved(lines, Flat::from(*by)), progress)?, "moved"),
            Change::Drag { line, handle, to } => {
                told(self.taken(&self.dragged(line, handle, Flat::from(*to), false)?, progress)?, "moved")
            }
            Change::Join { reach } => {
                let (joined, done) = self.joined(*reach, progress)?;
                let joined = Self { holds: self.holds.clone(), ..joined };
                Ok((joined.settled(&nobody, progress)?, done))
            }
            Change::Hold { text } => self.held(text, progress),
            Change::Figure { hold, value } => self.with_figure(hold, *value, progress),
            Change::LetGo { holds } => told(self.let_go(holds)?, "let go"),
            Change::Aside { hold, by } => {
                let mut made = self.clone();
                let n = self.hold_of(hold)?;
                made.holds[n].aside = Some(*by);
                told(made, "moved")
            }
            _ => {
                let (made, done) = self.cut_or_joined(change, progress)?;
                let (made, gone) = made.with_holds_of(self)?;
                let s = if gone == 1 { "" } else { "s" };
                Ok((made, if gone > 0 { format!("{done}; {gone} figure{s} or rule{s} let go") } else { done }))
            }
        }
    }

    /// Changes after which the lines are other ones.
    fn cut_or_joined(&self, change: &Change, progress: &Progress) -> Result<(Self, String), ChangeError> {
        let told = |drawing: Self, done: &str| Ok((drawing, done.to_owned()));
        match change {
            Change::Remove { lines } => told(self.without(lines), "taken away"),
            Change::CutBack { at, to } => {
                told(self.cut_back(Flat::from(*at), to.map(Flat::from), progress)?, "cut back")
            }
            Change::KeepRegion { at } => told(self.keep_region(Flat::from(*at), progress)?, "kept its border"),
            Change::Split { at } => told(self.split(Flat::from(*at), progress)?, "split"),
            Change::CarryOn { at } => self.carried_on(Flat::from(*at), progress),
            Change::Tidy {} => self.tidied(progress),
            Change::Soften { radius, flat, at, sharper } => {
                let only = at.as_deref();
                self.softened(&soften::Soften { radius: *radius, flat: *flat, only, sharper: *sharper }, progress)
            }
            Change::Band { lines, left, right, ends, sharp } => {
                let asked = band::Band { lines, left: *left, right: *right, ends: *ends, sharp: *sharp };
                self.band(&asked, progress)
            }
            Change::Flow { between, pull, even } => {
                let asked = flow::Flow { ends: between.map(Flat::from), pull: *pull, even: *even };
                told(self.flowed(&asked)?, "flows on from both ends")
            }
            Change::Free { lines } => told(self.freed(lines)?, "made lines of their own"),
            _ => refused("that is no change of lines"),
        }
    }

    /// Lines taken elsewhere, as far as what is held lets them.
    fn taken(&self, to: &Self, progress: &Progress) -> Result<Self, ChangeError> {
        if self.holds.is_empty() {
            return Ok(to.clone());
        }
        let led = self.led(to, progress).map_err(NetworkError::from)?;
        if led.lines == self.lines && to.lines != self.lines {
            return refused("it is held where it is by figures and rules");
        }
        Ok(led)
    }

    /// With further lines under free names.
    fn with(&self, shapes: Vec<Shape>) -> Self {
        let mut lines = self.lines.clone();
        lines.extend(self.free_names().zip(shapes).map(|(name, draw)| Line::new(name, draw)));
        Self { lines, holds: vec![] }
    }

    /// With a row in the place of another, or at the end.
    fn written(&self, line: Option<&str>, text: &str, progress: &Progress) -> Result<Self, ChangeError> {
        if text.len() > LONGEST_LIST {
            return refused("that row is too long");
        }
        // A row without a name keeps the one it has.
        let name = line.map_or_else(|| self.free_name(), str::to_owned);
        let read = read_row(text).or_else(|why| read_row(&format!("{name} {text}")).map_err(|_| why));
        let row = match read {
            Ok(row) => row,
            // Of a row without a name the fault is told as it is, not that its kind is no name.
            Err(why) => return refused(read_row(&format!("{name} {text}")).err().unwrap_or(why)),
        };
        let (mut drawing, given) = (self.clone(), line);
        let line = match row {
            Row::Hold(mut hold) => {
                match line {
                    Some(name) => {
                        let at = self.hold_of(name)?;
                        drawing.holds[at] = hold;
                    }
                    None => {
                        if hold.name == name {
                            hold.name = self.free_hold();
                        }
                        drawing.holds.push(hold);
                    }
                }
                drawing.check_holds()?;
                return Ok(drawing.settled(&|_| false, progress)?);
            }
            Row::Line(line) => line,
        };
        match name_in(self, &name) {
            Some(at) => {
                let old = std::mem::replace(&mut drawing.lines[at], line);
                let new = drawing.lines[at].name.clone();
                drawing.lines.iter_mut().for_each(|l| copies::rename(&mut l.draw, &old.name, &new));
                drawing.rename_in_holds(&old.name, &new);
                // What the line no longer has cannot be held; figures of it alone are as it is written.
                let drawing = drawing.without_lost().figures_as_written(&new);
                drawing.curves()?;
                Ok(drawing.settled(&|l| l == new, progress)?)
            }
            None if is_hold(self, &name) => refused(format!("{name} is held: write a figure or a rule there")),
            None if given.is_some() => refused(format!("there is no line {name}")),
            None => {
                drawing.lines.push(line);
                Ok(drawing)
            }
        }
    }

    fn hold_of(&self, name: &str) -> Result<usize, ChangeError> {
        let at = self.holds.iter().position(|h| h.name == name);
        at.ok_or_else(|| ChangeError::Refused(format!("no figure and no rule is called {name}")))
    }
}

fn is_hold(drawing: &Drawing, name: &str) -> bool {
    drawing.holds.iter().any(|h| h.name == name)
}

/// Where a line is.
fn name_in(drawing: &Drawing, name: &str) -> Option<usize> {
    drawing.lines.iter().position(|l| l.name == name)
}

/// Names in order: a to z, then aa, ab …
fn name_of(mut n: usize) -> String {
    let mut letters = Vec::new();
    loop {
        letters.push(b'a' + (n % 26) as u8);
        n /= 26;
        if n == 0 {
            break;
        }
        n -= 1;
    }
    letters.iter().rev().map(|b| char::from(*b)).collect()
}
