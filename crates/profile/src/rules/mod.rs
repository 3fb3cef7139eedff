//! Figures and rules: what of a drawing is held, and how its lines give way so that it is.
//!
//! A [`Hold`] is a row of the list like a line. [`Drawing::settled`] moves lines as little as possible until all holds are
//! kept; where that cannot be, a smallest set of holds that quarrel is named. Ends that meet are one place and stay so.

mod caught;
mod draught;
mod element;
mod follow;
mod jet;
mod loose;
mod offer;
mod quarrel;
mod residual;
mod settle;
mod system;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

pub use draught::Draught;
pub use loose::{Loose, Way};
pub use offer::Offer;
pub use settle::{KEPT, Quarrel, SettleError};

use crate::drawing::{Drawing, DrawingError, FARTHEST, LEAST};
use crate::text::spot;

/// The most figures and rules of a drawing.
pub const MOST_HOLDS: usize = 2_000;

/// A figure or a rule that is held.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Hold {
    /// What people call it: letters and digits, unlike any line's.
    pub name: String,
    /// What is held.
    pub rule: Rule,
    /// Where its figure is written, [x, y] from where it would be by itself, mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub aside: Option<[f64; 2]>,
}

/// A place of a line, in words: `beginning of a`, `end of b.2`, `middle of a`, `centre of c`, `point 3 of d`, or `zero`.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct Spot {
    /// Which place.
    pub(crate) which: Which,
    /// The curve it is of; nothing for zero.
    pub(crate) of: String,
}

/// Which place of a curve.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Which {
    /// The zero of the plane.
    Zero,
    Beginning,
    End,
    Middle,
    Centre,
    /// A point a curve goes through, from 1.
    Point(usize),
}

impl TryFrom<String> for Spot {
    type Error = String;
    fn try_from(words: String) -> Result<Self, String> {
        spot(&words)
    }
}

impl From<Spot> for String {
    fn from(spot: Spot) -> Self {
        spot.to_string()
    }
}

impl std::fmt::Display for Spot {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let of = &self.of;
        match self.which {
            Which::Zero => write!(f, "zero"),
            Which::Beginning => write!(f, "beginning of {of}"),
            Which::End => write!(f, "end of {of}"),
            Which::Middle => write!(f, "middle of {of}"),
            Which::Centre => write!(f, "centre of {of}"),
            Which::Point(n) => write!(f, "point {n} of {of}"),
        }
    }
}

impl JsonSchema for Spot {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "LineSpot".into()
    }
    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        schemars::json_schema!({
            "type": "string",
            "maxLength": 80,
            "description": "A place of a line, in words: `beginning of a`, `end of b.2`, `middle of a`, `centre of c`, `point 3 of d`, or `zero`."
        })
    }
}

/// What can be held. Lines are named as curves are: `a`, or `b.3` for the third of a chain.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum Rule {
    /// Two places at one height; the ends of one line make it level.
    Level {
        /// The places.
        between: [Spot; 2],
    },
    /// Two places one above the other.
    Upright {
        /// The places.
        between: [Spot; 2],
    },
    /// Two places are one.
    Together {
        /// The places.
        between: [Spot; 2],
    },
    /// A place lies on a line, or where it goes on.
    On {
        /// The place.
        spot: Spot,
        /// The line.
        line: String,
    },
    /// Two straight lines lie on one.
    InLine {
        /// The lines.
        lines: [String; 2],
    },
    /// Two straight lines run the same way.
    Alongside {
        /// The lines.
        lines: [String; 2],
    },
    /// Two straight lines stand square to each other.
    Square {
        /// The lines.
        lines: [String; 2],
    },
    /// Two lines touch without crossing, or go on smoothly where they meet.
    Tangent {
        /// The lines.
        lines: [String; 2],
    },
    /// Two straight lines are as long as each other, or two round ones have the same radius.
    SameSize {
        /// The lines.
        lines: [String; 2],
    },
    /// Two places mirror each other.
    Mirrored {
        /// The places.
        between: [Spot; 2],
        /// The mirror line.
        line: String,
    },
    /// A place stays where it is.
    Fixed {
        /// The place.
        spot: Spot,
        /// Where, mm.
        at: [f64; 2],
    },
    /// How long a straight line is.
    Length {
        /// The line.
        of: String,
        /// Its length, mm.
        mm: f64,
    },
    /// How far two places are apart.
    Distance {
        /// The places.
        between: [Spot; 2],
        /// How far, mm.
        mm: f64,
    },
    /// How far two places are apart along x.
    Across {
        /// The places.
        between: [Spot; 2],
        /// How far, mm.
        mm: f64,
    },
    /// How far two places are apart along y.
    Rise {
        /// The places.
        between: [Spot; 2],
        /// How far, mm.
        mm: f64,
    },
    /// How far a place is from a straight line.
    Off {
        /// The place.
        spot: Spot,
        /// The line.
        line: String,
        /// How far, mm.
        mm: f64,
    },
    /// The radius of a round line.
    Radius {
        /// The line.
        of: String,
        /// Its radius, mm.
        mm: f64,
    },
    /// The diameter of a round line.
    Diameter {
        /// The line.
        of: String,
        /// Its diameter, mm.
        mm: f64,
    },
    /// The angle of a straight line from x, counter-clockwise.
    Angle {
        /// The line.
        of: String,
        /// The angle.
        degrees: f64,
    },
    /// The angle between two straight lines, 0 to 180, each taken from its beginning to its end, or back.
    Corner {
        /// The lines.
        lines: [String; 2],
        /// Which of them are taken from end to beginning.
        #[serde(default, skip_serializing_if = "neither")]
        back: [bool; 2],
        /// The angle.
        degrees: f64,
    },
}

#[allow(clippy::trivially_copy_pass_by_ref)] // as serde calls it
fn neither(back: &[bool; 2]) -> bool {
    *back == [false; 2]
}

impl Rule {
    /// Its figure, if it has one.
    pub fn figure(&self) -> Option<f64> {
        let mut own = self.clone();
        own.figure_mut().map(|x| *x)
    }

    pub(crate) fn figure_mut(&mut self) -> Option<&mut f64> {
        match self {
            Self::Length { mm, .. }
            | Self::Distance { mm, .. }
            | Self::Across { mm, .. }
            | Self::Rise { mm, .. }
            | Self::Off { mm, .. }
            | Self::Radius { mm, .. }
            | Self::Diameter { mm, .. } => Some(mm),
            Self::Angle { degrees, .. } | Self::Corner { degrees, .. } => Some(degrees),
            _ => None,
        }
    }

    /// The unit of its figure.
    pub fn unit(&self) -> &'static str {
        match self {
            Self::Angle { .. } | Self::Corner { .. } => "°",
            _ => "mm",
        }
    }

    /// The curves it speaks of.
    pub(crate) fn curves_mut(&mut self) -> Vec<&mut String> {
        let all = match self {
            Self::Level { between }
            | Self::Upright { between }
            | Self::Together { between }
            | Self::Distance { between, .. }
            | Self::Across { between, .. }
            | Self::Rise { between, .. } => between.iter_mut().map(|s| &mut s.of).collect(),
            Self::On { spot, line } | Self::Off { spot, line, .. } => vec![&mut spot.of, line],
            Self::InLine { lines }
            | Self::Alongside { lines }
            | Self::Square { lines }
            | Self::Tangent { lines }
            | Self::SameSize { lines }
            | Self::Corner { lines, .. } => lines.iter_mut().collect(),
            Self::Mirrored { between: [a, b], line } => vec![&mut a.of, &mut b.of, line],
            Self::Fixed { spot, .. } => vec![&mut spot.of],
            Self::Length { of, .. } | Self::Radius { of, .. } | Self::Diameter { of, .. } | Self::Angle { of, .. } => {
                vec![of]
            }
        };
        all.into_iter().filter(|of: &&mut String| !of.is_empty()).collect()
    }

    /// The curves it speaks of.
    pub(crate) fn curves(&self) -> Vec<String> {
        self.clone().curves_mut().into_iter().map(|of| of.clone()).collect()
    }

    /// Whether its figure can be.
    fn check(&self) -> Result<(), String> {
        if let Self::Fixed { at, .. } = self
            && !at.iter().all(|x| x.abs() <= FARTHEST)
        {
            return Err(format!("it is fixed off the paper: {FARTHEST} mm is the farthest"));
        }
        let Some(figure) = self.figure() else { return Ok(()) };
        let (least, most) = match self {
            Self::Angle { .. } => (-360.0, 360.0),
            Self::Corner { .. } => (0.0, 180.0),
            Self::Across { .. } | Self::Rise { .. } | Self::Off { .. } | Self::Distance { .. } => (0.0, 2.0 * FARTHEST),
            _ => (LEAST, 2.0 * FARTHEST),
        };
        if (least..=most).contains(&figure) {
            return Ok(());
        }
        Err(format!("its figure is {figure} {}; from {least} to {most} can be held", self.unit()))
    }
}

impl Drawing {
    /// Whether names and figures of the holds can be, and what they speak of is there.
    ///
    /// # Errors
    /// [`DrawingError`] for the first that cannot.
    pub fn check_holds(&self) -> Result<(), DrawingError> {
        if let Some(first) = self.holds.get(MOST_HOLDS) {
            let why =
                format!("a profile has at most {MOST_HOLDS} figures and rules; this one has {}", self.holds.len());
            return Err(DrawingError { line: first.name.clone(), why });
        }
        let mut names: rustc_hash::FxHashSet<&str> = self.lines.iter().map(|l| l.name.as_str()).collect();
        for hold in &self.holds {
            let fault = |why: String| DrawingError { line: hold.name.clone(), why };
            crate::drawing::check_name(&hold.name).map_err(fault)?;
            if !names.insert(&hold.name) {
                return Err(fault("another line, figure or rule has this name".into()));
            }
            hold.rule.check().map_err(fault)?;
        }
        system::check(self)
    }
}
