//! Threads of parts: which a part has, and a ledger in which those that are only marked are cut.

use nimbet_trade::fasten::ThreadMark;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::action::{Action, Work};
use crate::history::{History, PartId};
use crate::recipe::{Recipe, RecipeStep};

/// A thread of a part, with the step that made it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct PartThread {
    /// The step.
    pub step: u32,
    /// The thread, where it was after that step.
    pub mark: ThreadMark,
}

impl Action {
    /// The same with every thread it marks cut; none where it marks none.
    pub fn with_threads_cut(&self) -> Option<Self> {
        match self {
            Self::Operation(w) => {
                let cut = w.operation.with_threads_cut();
                cut.map(|operation| Self::Operation(Work { operation, keep_lost: w.keep_lost }))
            }
            _ => None,
        }
    }
}

impl Recipe {
    /// The same with every thread it marks cut, as a release needs it.
    #[must_use]
    pub fn with_threads_cut(&self) -> Self {
        let cut = |step: &RecipeStep| {
            let action = step.action.with_threads_cut().unwrap_or_else(|| step.action.clone());
            RecipeStep { action, ..*step }
        };
        Self { steps: self.steps.iter().map(cut).collect(), ..self.clone() }
    }
}

impl History {
    /// The threads steps in force gave to a part, and to those that went into it; also such as are gone since.
    pub fn threads(&self, part: PartId) -> Vec<PartThread> {
        let mut parts = vec![part];
        let mut found = Vec::new();
        for step in self.steps[..self.cursor.min(self.steps.len())].iter().rev() {
            if step.state != crate::history::StepState::Done {
                continue;
            }
            let made: Vec<PartId> = step.made().map(|(id, _)| id).collect();
            let own = parts.contains(&step.part);
            // A part that is made of another has what that one had before.
            if made.iter().any(|id| parts.contains(id)) && !matches!(step.action, Action::BringIn(_)) {
                parts.push(step.part);
            }
            if own {
                parts.extend(step.action.used_up(step.part));
            }
            let on_made = made.first().is_some_and(|id| parts.contains(id));
            let here = step.report.threads.iter().rev().filter(|t| if t.made { on_made } else { own });
            found.extend(here.map(|mark| PartThread { step: step.number, mark: mark.clone() }));
        }
        found.reverse();
        found
    }

    /// The ledger with every marked thread cut, to be worked out anew; none where nothing is only marked.
    pub fn with_threads_cut(&self) -> Option<Self> {
        let mut cut = self.clone();
        let mut any = false;
        for step in &mut cut.steps[..self.cursor.min(self.steps.len())] {
            if let Some(action) = step.action.with_threads_cut() {
                step.action = action;
                any = true;
            }
        }
        any.then_some(cut)
    }
}
