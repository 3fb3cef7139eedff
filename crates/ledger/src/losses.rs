//! What mending took off a part on the way to its release.

use nimbet_trade::harm::{MAY_LOSE, percent};
use nimbet_trade::release::Check;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::action::{Action, Work};
use crate::history::{History, PartId, StepReport};

/// What a step that mends lost of the surface that came into it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Loss {
    /// What the step is called.
    pub title: String,
    /// Its share of the surface that came into the step, 0 to 1.
    pub share: f64,
    /// Its area, mm².
    pub area: f64,
    /// What lay nearer than this to the result counts as there, mm.
    pub distance: f64,
}

/// All a part lost by mending, and how much it may.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Losses {
    /// Step by step.
    pub steps: Vec<Loss>,
    /// The share that may be lost without being asked for.
    pub may_lose: f64,
    /// Whether a person said yes to more.
    pub accepted: bool,
}

impl Default for Losses {
    fn default() -> Self {
        Self { steps: vec![], may_lose: MAY_LOSE, accepted: false }
    }
}

impl Loss {
    /// What a step lost, if it mends and lost something.
    pub fn of(action: &Action, report: &StepReport) -> Option<Self> {
        let Action::Operation(Work { operation, .. }) = action else { return None };
        let harm = report.harm.as_ref().filter(|h| operation.mends() && h.lost.area > 0.0)?;
        Some(Self { title: operation.title(), share: harm.lost.share, area: harm.lost.area, distance: harm.distance })
    }
}

impl Losses {
    /// The share lost in all.
    pub fn share(&self) -> f64 {
        self.steps.iter().map(|l| l.share).sum::<f64>().min(1.0)
    }

    /// The line of the check sheet.
    pub fn check(&self) -> Check {
        let within = self.share() <= self.may_lose;
        let lines: Vec<String> = self.steps.iter().map(|l| format!("{} by {}", percent(l.share), l.title)).collect();
        let evidence = match (&lines[..], within) {
            ([], _) => "nothing is lost".to_owned(),
            (lines, true) => lines.join(", "),
            (lines, false) if self.accepted => format!("{}; accepted by the one who released it", lines.join(", ")),
            (lines, false) => lines.join(", "),
        };
        Check {
            claim: format!("Mending lost no more than {} of the surface, or more was accepted", percent(self.may_lose)),
            holds: within || self.accepted,
            evidence,
        }
    }
}

impl History {
    /// What the steps in force that mend lost of a part.
    pub fn losses(&self, part: PartId) -> Vec<Loss> {
        let own = self.in_force().filter(|s| s.part == part || s.made().any(|(p, _)| p == part));
        own.filter_map(|s| Loss::of(&s.action, &s.report)).collect()
    }
}
