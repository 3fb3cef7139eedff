//! Doing a step: the operation, and the examination of what came out.

use nimbet_kernel::{Cancelled, Mesh, Point, Progress};
use nimbet_trade::words::grams;
use nimbet_trade::{Examination, TradeError, examine, weigh};

use crate::action::Action;
use crate::history::StepReport;

/// A step done, not yet part of any ledger: a forecast.
#[derive(Clone, Debug)]
pub struct Performed {
    /// The part afterwards.
    pub mesh: Mesh,
    /// All that is known of it.
    pub examination: Examination,
    /// What the step did.
    pub report: StepReport,
}

/// Why a step cannot be done. The job stays as it was.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum StepError {
    /// The trade says no.
    #[error(transparent)]
    Trade(#[from] TradeError),
    /// There is no such material.
    #[error("there is no material '{0}'")]
    UnknownMaterial(String),
    /// Bringing in makes a part; it is not done to one.
    #[error("a file is brought in as a part of its own, not as a step on a part")]
    NotOnAPart,
}

impl From<Cancelled> for StepError {
    fn from(c: Cancelled) -> Self {
        Self::Trade(c.into())
    }
}

impl StepError {
    /// The places in the model the error is about.
    pub fn places(&self) -> Vec<Point> {
        match self {
            Self::Trade(e) => e.places(),
            _ => vec![],
        }
    }
}

/// Does `action` to a part. `before` is the examination of `mesh`.
///
/// # Errors
/// [`StepError`] with cause and place.
pub fn perform(
    action: &Action,
    mesh: &Mesh,
    before: &Examination,
    progress: &Progress,
) -> Result<Performed, StepError> {
    match action {
        Action::BringIn(_) => Err(StepError::NotOnAPart),
        Action::SetMaterial(m) => {
            let material =
                weigh::material(&m.material).ok_or_else(|| StepError::UnknownMaterial(m.material.clone()))?;
            let done = match before.weighing.mass(material) {
                Some(mass) => format!("{}: {}", material.name, grams(mass)),
                None => format!("{}; no mass: {}", material.name, before.figures.reason),
            };
            Ok(Performed {
                mesh: mesh.clone(),
                examination: before.clone(),
                report: StepReport {
                    done: vec![done],
                    left: vec![],
                    largest_move: 0.0,
                    before: Some(before.figures.clone()),
                    after: before.figures.clone(),
                },
            })
        }
        Action::Operation(operation) => {
            progress.report(0.0, &operation.title())?;
            let outcome = operation.apply(mesh, &progress.stage(0.0, 0.6))?;
            let examination = examine(&outcome.mesh, &progress.stage(0.6, 1.0))?;
            let report = StepReport {
                done: outcome.done,
                left: outcome.left,
                largest_move: outcome.largest_move,
                before: Some(before.figures.clone()),
                after: examination.figures.clone(),
            };
            Ok(Performed { mesh: outcome.mesh, examination, report })
        }
    }
}
