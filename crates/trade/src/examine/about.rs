//! What findings are about, as far as remedies hang on it.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::rim_facts::RimPick;
use crate::picks::Dab;
use crate::words::Xyz;

/// A rim by its name.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct NamedRim {
    /// R1, R2 …
    pub name: String,
    /// How it is found again.
    pub pick: RimPick,
}

/// What a finding is about. Lengths in mm.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum About {
    /// Nothing a tool is offered for.
    #[default]
    Nothing,
    /// Corners that are best merged within a distance.
    LooseCorners {
        /// That distance.
        within: f64,
    },
    /// A sheet.
    Sheet {
        /// How far it is across.
        across: f64,
        /// The diagonal of the part.
        diagonal: f64,
    },
    /// Edges along each other.
    Gap {
        /// The reach that closes it.
        reach: f64,
    },
    /// A corner on an edge, or two edges on each other.
    Junction {
        /// The reach that joins it.
        reach: f64,
        /// Whether both edges are to be divided.
        both: bool,
    },
    /// A rim that is a slit.
    Needle {
        /// The reach that closes it.
        reach: f64,
        /// The rim, where it has edges enough for a cover.
        rim: Option<NamedRim>,
    },
    /// A closed rim.
    Rim {
        /// Which.
        rim: NamedRim,
        /// Whether it lies in a plane.
        flat: bool,
        /// One that looks like the other end of a missing band.
        like: Option<NamedRim>,
    },
    /// A chain of naked edges that is no rim.
    OpenChain,
    /// Edges of three or more triangles.
    Crowded {
        /// Whether triangles are there twice.
        twice: bool,
        /// The diagonal of the part, where it is of bodies that only touch.
        touching: Option<f64>,
    },
    /// Neighbours that disagree.
    Clash,
    /// Surfaces of closed bodies that touch at a point.
    TouchPoint {
        /// The diagonal of the part.
        diagonal: f64,
    },
    /// A shell that faces the wrong way.
    InsideOut {
        /// A place on it, where it may be left over rather than turned over.
        stray: Option<Xyz>,
    },
    /// An open sheet inside.
    StraySheet {
        /// A place on it.
        at: Option<Xyz>,
    },
    /// Loose bits.
    Specks {
        /// What is smaller is one.
        below: f64,
    },
    /// Triangles that cross.
    Tangle {
        /// X1, X2 …
        name: String,
        /// Where.
        ball: Dab,
        /// Whether the part is closed all over.
        closed: bool,
    },
    /// Triangles that are there twice.
    Duplicates,
    /// Triangles without area.
    Degenerate,
    /// A wall that is too thin.
    ThinWall {
        /// By how much each side is to move.
        by: f64,
    },
    /// Edges that are sharper than they are to be.
    SharpCorner {
        /// Places on them.
        at: Vec<Xyz>,
        /// The radius they are to have.
        radius: f64,
    },
    /// Edges that are sharper than they are to be, within a face: no edge between two, which could be rounded.
    CornerInFace,
    /// A rounding with too small a radius.
    TightRounding {
        /// A place on it.
        at: Vec<Xyz>,
        /// The radius it is to have.
        radius: f64,
    },
    /// A void without a drain.
    Undrained {
        /// Where a bore from below comes to it through one wall.
        at: Xyz,
        /// How wide it must be.
        drain: f64,
    },
}

impl About {
    pub(crate) fn is_nothing(&self) -> bool {
        *self == Self::Nothing
    }
}

/// The thickness of the wall that sheets get which enclose nothing, for a part of some diagonal, mm.
pub(crate) fn sheet_wall(diagonal: f64) -> f64 {
    const SHARE: f64 = 5e-3;
    one_digit(diagonal * SHARE)
}

/// The radius of the rods and beads that hold together what only touches, for a part of some diagonal, mm.
pub(crate) fn brace_radius(diagonal: f64) -> f64 {
    const SHARE: f64 = 0.003;
    one_digit(diagonal * SHARE)
}

/// Loose shells smaller than this share of the part are specks.
pub(crate) const SPECK_SHARE: f64 = 0.01;

/// A length above 0 with one digit that is not nought.
pub(crate) fn one_digit(x: f64) -> f64 {
    format!("{x:.0e}").parse().unwrap_or(x)
}
