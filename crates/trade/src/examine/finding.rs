//! What a finding is.

use nimbet_kernel::{Aabb, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::about::About;
use crate::Operation;
use crate::words::{Xyz, xyz};

/// What kind of thing was found.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum FindingKind {
    /// Corners that nearly coincide with others, all over the part.
    LooseCorners,
    /// A sheet that is meant to be one.
    Sheet,
    /// Two runs of naked edges that face each other.
    Gap,
    /// A point of one naked edge on the inside of another.
    TJunction,
    /// Naked edges that lie along each other but are divided differently.
    PartlyShared,
    /// A slit closed onto itself.
    NeedleRim,
    /// A closed chain of naked edges.
    Rim,
    /// Edges of three or more triangles.
    CrowdedEdges,
    /// Triangles that cross.
    Tangle,
    /// Neighbours that disagree about the outside.
    Clash,
    /// A closed shell that faces the wrong way.
    InsideOut,
    /// Triangles that are there twice.
    Duplicates,
    /// Triangles without area.
    Degenerate,
    /// Neighbouring triangles bent back on each other.
    Folds,
    /// Triangles much longer than high.
    Slivers,
    /// A shell inside the material of another.
    Stray,
    /// A tiny loose shell.
    Speck,
    /// Surfaces that only touch at a point.
    TouchPoint,
    /// A closed void inside the part.
    Void,
    /// A wall thinner than the process makes.
    ThinWall,
    /// A pin thinner than the process makes.
    ThinPin,
    /// A slot or gap narrower than the process leaves open.
    NarrowSlot,
    /// A closed void of a process that must empty it.
    Undrained,
    /// An inner corner sharper than the process makes.
    InnerCorner,
    /// An edge thinner than metal flows into.
    Feather,
    /// A rounding along which the wall is not even.
    UnevenRounding,
    /// A sharp outer corner that stands upright.
    UprightCorner,
    /// What two parts have in common.
    Overlap,
    /// Where two parts stand nearer to each other than asked.
    TooClose,
}

/// How much a finding matters.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Severity {
    /// The part is no solid while this is so.
    Blocks,
    /// It may go wrong later.
    Warns,
    /// Worth knowing.
    Notes,
}

/// Where a finding is.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Place {
    /// The middle, mm.
    pub centre: Xyz,
    /// Half the extent, mm.
    pub radius: f64,
}

impl Place {
    pub(crate) fn of(points: impl IntoIterator<Item = Point>) -> Self {
        let b = Aabb::of(points);
        Self { centre: xyz(b.centre()), radius: b.diagonal() * 0.5 }
    }
}

/// Something that helps, ready to be forecast and applied.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Remedy {
    /// What it does, in a few words.
    pub label: String,
    /// The step.
    pub operation: Operation,
}

/// One thing that is wrong or worth knowing.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Finding {
    /// Its name within this examination: `rim-R1`, `gap-G2`.
    pub key: String,
    /// What it is.
    pub kind: FindingKind,
    /// How much it matters.
    pub severity: Severity,
    /// A short title: "Rim R1".
    pub title: String,
    /// Its size in figures with units.
    pub size: String,
    /// The likely cause.
    pub cause: String,
    /// What will happen if it is left.
    pub if_left: String,
    /// Where it is.
    pub place: Place,
    /// What it is about, for tools that remedy it.
    #[serde(default, skip_serializing_if = "About::is_nothing")]
    pub about: About,
    /// What can be done, the best first.
    pub remedies: Vec<Remedy>,
}
