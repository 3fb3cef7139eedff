//! Changes to a drawing: each gives another drawing, or says why not.

mod band;
mod copies;
mod flow;
mod join;
mod pieces;
mod soften;

use nimbet_kernel::Progress;
use rustc_hash::FxHashSet;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::drawing::{Drawing, Line, Shape};
use crate::network::Network;
use crate::text::{LONGEST_LIST, read, read_row};
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
    },
    /// Writes a row of the list anew, or a further one.
    Write {
        /// The line whose row it is; absent for a further one.
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
    /// Takes away what lies between crossings at a place.
    CutBack {
        /// The place, mm.
        at: [f64; 2],
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
    /// Its lines meet too often, or somebody asked to stop.
    #[error(transparent)]
    Network(#[from] NetworkError),
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
        let told = |drawing: Self, done: &str| (drawing, done.to_owned());
        let (made, done) = match change {
            Change::Draw { draw } => told(self.with(draw.clone()), "drawn"),
            Change::Write { line, text } => told(self.written(line.as_deref(), text)?, "written"),
            Change::List { text } => {
                let lines = read(text).map_err(|e| ChangeError::Refused(e.to_string()))?;
                told(Self { lines }, "read")
            }
            Change::Remove { lines } => told(self.without(lines), "taken away"),
            Change::Move { lines, by } => told(self.moved(lines, Flat::from(*by)), "moved"),
            Change::Drag { line, handle, to } => told(self.dragged(line, handle, Flat::from(*to), false)?, "moved"),
            Change::CutBack { at } => told(self.cut_back(Flat::from(*at), progress)?, "cut back"),
            Change::KeepRegion { at } => told(self.keep_region(Flat::from(*at), progress)?, "kept its border"),
            Change::Split { at } => told(self.split(Flat::from(*at), progress)?, "split"),
            Change::CarryOn { at } => self.carried_on(Flat::from(*at), progress)?,
            Change::Join { reach } => self.joined(*reach, progress)?,
            Change::Tidy {} => self.tidied(progress)?,
            Change::Soften { radius, flat, at, sharper } => {
                let only = at.as_deref();
                self.softened(&soften::Soften { radius: *radius, flat: *flat, only, sharper: *sharper }, progress)?
            }
            Change::Band { lines, left, right, ends, sharp } => {
                let asked = band::Band { lines, left: *left, right: *right, ends: *ends, sharp: *sharp };
                self.band(&asked, progress)?
            }
            Change::Flow { between, pull, even } => {
                let asked = flow::Flow { ends: between.map(Flat::from), pull: *pull, even: *even };
                told(self.flowed(&asked)?, "flows on from both ends")
            }
            Change::Free { lines } => told(self.freed(lines)?, "made lines of their own"),
        };
        made.curves()?;
        Ok((made, done))
    }

    /// With further lines under free names.
    fn with(&self, shapes: Vec<Shape>) -> Self {
        let mut lines = self.lines.clone();
        lines.extend(self.free_names().zip(shapes).map(|(name, draw)| Line { name, draw }));
        Self { lines }
    }

    /// With a line in the place of another, or at the end.
    fn written(&self, line: Option<&str>, text: &str) -> Result<Self, ChangeError> {
        if text.len() > LONGEST_LIST {
            return refused("that row is too long");
        }
        let mut drawing = self.clone();
        let at = line.map(|name| self.place_of(name)).transpose()?;
        // A row without a name keeps the one it has.
        let name = line.map_or_else(|| self.free_name(), str::to_owned);
        let read = read_row(text).or_else(|why| read_row(&format!("{name} {text}")).map_err(|_| why));
        let row = match read {
            Ok(row) => row,
            // Of a row without a name the fault is told as it is, not that its kind is no name.
            Err(why) => return refused(read_row(&format!("{name} {text}")).err().unwrap_or(why)),
        };
        match at {
            Some(at) => {
                let old = std::mem::replace(&mut drawing.lines[at], row);
                let new = drawing.lines[at].name.clone();
                drawing.lines.iter_mut().for_each(|l| copies::rename(&mut l.draw, &old.name, &new));
            }
            None => drawing.lines.push(row),
        }
        Ok(drawing)
    }

    fn place_of(&self, name: &str) -> Result<usize, ChangeError> {
        let at = self.lines.iter().position(|l| l.name == name);
        at.ok_or_else(|| ChangeError::Refused(format!("there is no line {name}")))
    }
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
