//! Everything that can be done to a part, with its parameters, under one enum.

use nimbet_kernel::{Cancelled, Mesh, MeshError, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::seal::{AgreeWindings, Bridge, CloseGaps, CoverRim, Drop, LiftOut, Plan, ReSkin, TurnOutward};

/// An operation on one part: its kind and parameters, as they stand in recipes and in the ledger.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "kind", deny_unknown_fields)]
pub enum Operation {
    /// Join naked edges that face each other within a reach.
    #[serde(rename = "seal.close_gaps")]
    CloseGaps(CloseGaps),
    /// Close rims with new triangles.
    #[serde(rename = "seal.cover_rim")]
    CoverRim(CoverRim),
    /// Join two rims by a band.
    #[serde(rename = "seal.bridge")]
    Bridge(Bridge),
    /// Make neighbouring triangles agree about the outside.
    #[serde(rename = "seal.agree_windings")]
    AgreeWindings(AgreeWindings),
    /// Turn closed shells so that they face outward, voids inward.
    #[serde(rename = "seal.turn_outward")]
    TurnOutward(TurnOutward),
    /// Take away duplicates, degenerate triangles and specks.
    #[serde(rename = "seal.drop")]
    Drop(Drop),
    /// Take triangles out and leave a clean border.
    #[serde(rename = "seal.lift_out")]
    LiftOut(LiftOut),
    /// Take triangles out and cover the openings tangent to what is round them.
    #[serde(rename = "seal.re_skin")]
    ReSkin(ReSkin),
    /// Choose and apply remedies by rules until the part is a solid or nothing more can be done safely.
    #[serde(rename = "seal.plan")]
    Plan(Plan),
}

/// What an operation did.
#[derive(Clone, Debug)]
pub struct Outcome {
    /// The part afterwards.
    pub mesh: Mesh,
    /// What was done, a sentence for each thing.
    pub done: Vec<String>,
    /// What could not be done, with what it would need.
    pub left: Vec<String>,
    /// The farthest any point of the surface that came in was moved, mm.
    pub largest_move: f64,
}

/// Why an operation did not work. The part stays as it was.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum TradeError {
    /// There is nothing for this operation to do.
    #[error("{why}")]
    NothingToDo {
        /// In plain words.
        why: String,
    },
    /// It cannot be done on this part with these parameters.
    #[error("{why}")]
    Refused {
        /// In plain words.
        why: String,
        /// Where.
        places: Vec<Point>,
    },
    /// A pick finds nothing on the part any more.
    #[error("{what} is not there any more; pick it again")]
    NeedsNewPick {
        /// What was picked.
        what: String,
        /// Where it was.
        place: Point,
    },
    /// Somebody asked to stop.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
    /// The result broke an invariant of the mesh; a fault of the program.
    #[error("the result was not a valid mesh: {0}")]
    Mesh(#[from] MeshError),
}

impl TradeError {
    pub(crate) fn refused(why: impl Into<String>, places: Vec<Point>) -> Self {
        Self::Refused { why: why.into(), places }
    }

    pub(crate) fn nothing(why: impl Into<String>) -> Self {
        Self::NothingToDo { why: why.into() }
    }

    /// The places in the model the error is about.
    pub fn places(&self) -> Vec<Point> {
        match self {
            Self::Refused { places, .. } => places.clone(),
            Self::NeedsNewPick { place, .. } => vec![*place],
            _ => vec![],
        }
    }
}

impl Operation {
    /// Applies the operation.
    ///
    /// # Errors
    /// [`TradeError`]; the mesh is untouched then.
    ///
    /// ```
    /// use nimbet_kernel::{Mesh, Point, Progress};
    /// use nimbet_trade::{Operation, PartState, examine, seal::{CoverRim, CoverStyle}};
    ///
    /// // A tetrahedron without its base.
    /// let points = vec![Point::ZERO, Point::X, Point::Y, Point::Z];
    /// let mesh = Mesh::with_one_face(points, vec![[0, 1, 3], [1, 2, 3], [2, 0, 3]]).unwrap();
    /// let cover = Operation::CoverRim(CoverRim { style: CoverStyle::Flat, ..Default::default() });
    /// let outcome = cover.apply(&mesh, &Progress::unwatched()).unwrap();
    /// let after = examine(&outcome.mesh, &Progress::unwatched()).unwrap();
    /// assert_eq!(after.figures.state, PartState::Sealed);
    /// ```
    pub fn apply(&self, mesh: &Mesh, progress: &Progress) -> Result<Outcome, TradeError> {
        match self {
            Self::CloseGaps(p) => p.apply(mesh, progress),
            Self::CoverRim(p) => p.apply(mesh, progress),
            Self::Bridge(p) => p.apply(mesh, progress),
            Self::AgreeWindings(p) => p.apply(mesh, progress),
            Self::TurnOutward(p) => p.apply(mesh, progress),
            Self::Drop(p) => p.apply(mesh, progress),
            Self::LiftOut(p) => p.apply(mesh, progress),
            Self::ReSkin(p) => p.apply(mesh, progress),
            Self::Plan(p) => p.apply(mesh, progress),
        }
    }

    /// What the operation is called on the screen.
    pub fn title(&self) -> String {
        match self {
            Self::CloseGaps(p) => format!("Close gaps, reach {}", crate::words::millimetres(p.reach)),
            Self::CoverRim(p) => p.title(),
            Self::Bridge(_) => "Bridge two rims".into(),
            Self::AgreeWindings(_) => "Agree windings".into(),
            Self::TurnOutward(_) => "Turn outward".into(),
            Self::Drop(p) => p.title(),
            Self::LiftOut(_) => "Lift out".into(),
            Self::ReSkin(_) => "Re-skin".into(),
            Self::Plan(_) => "Seal plan".into(),
        }
    }
}
