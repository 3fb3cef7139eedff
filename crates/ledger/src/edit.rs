//! Changing one's mind: edits of the list of steps, and what depends on what.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::action::Action;
use crate::history::{History, Part, PartId, Step, StepReport, StepState};

/// A change to steps that were done.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "edit", rename_all = "snake_case", deny_unknown_fields)]
pub enum Edit {
    /// Does a step with other parameters or picks.
    Replace {
        /// The step.
        step: u32,
        /// What it does now.
        action: Action,
    },
    /// Sets steps aside.
    Park {
        /// The steps, with all that need parts they make.
        steps: Vec<u32>,
    },
    /// Takes steps that were set aside in again.
    Unpark {
        /// The steps.
        steps: Vec<u32>,
    },
    /// Takes steps out of the ledger.
    Remove {
        /// The steps, with all that need parts they make.
        steps: Vec<u32>,
    },
    /// Puts a step elsewhere.
    Move {
        /// The step.
        step: u32,
        /// The step it comes before; absent, it comes last.
        #[serde(default)]
        before: Option<u32>,
    },
    /// Does a new step after another.
    Insert {
        /// The step it comes after.
        after: u32,
        /// The part it is done to.
        part: PartId,
        /// What it does.
        action: Action,
    },
    /// Does further steps after all that are in force, undone as one.
    Append {
        /// The steps, at most 500.
        steps: Vec<NewWork>,
    },
    /// Puts the work at a place in the ledger: the steps after it are held back until it is put further on.
    WorkAt {
        /// How many steps are in force.
        cursor: usize,
    },
}

/// A step to be done.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct NewWork {
    /// The part it is done to.
    pub part: PartId,
    /// What it does.
    pub action: Action,
}

/// The most steps that are done in one go: more than a job has parts.
const MOST_AT_ONCE: usize = 500;

/// Why an edit is not made. The ledger stays as it was.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum EditError {
    /// There is no such step.
    #[error("there is no step {0}")]
    NoSuchStep(u32),
    /// Other steps need what these make.
    #[error("{} what step {step} makes; they would go with it", needing(.steps))]
    Needed {
        /// The step that makes it.
        step: u32,
        /// The others, in order.
        steps: Vec<u32>,
    },
    /// There it cannot be done.
    #[error("step {step} cannot come there: {why}")]
    OutOfOrder {
        /// The step that could not be done any more.
        step: u32,
        /// Why not.
        why: String,
    },
    /// Too many steps at once.
    #[error("{0} steps at once; {MOST_AT_ONCE} are the most")]
    TooMany(usize),
    /// Nothing would change.
    #[error("nothing would change")]
    Nothing,
    /// Bringing a file in is not done over.
    #[error("a file is brought in anew as a part of its own, not in the place of another")]
    BroughtIn,
}

fn needing(steps: &[u32]) -> String {
    let list = steps.iter().map(u32::to_string).collect::<Vec<_>>().join(", ");
    if steps.len() == 1 { format!("step {list} needs") } else { format!("steps {list} need") }
}

impl Edit {
    /// What the edit is called where it can be undone.
    pub fn title(&self) -> String {
        let list = |steps: &[u32]| {
            let list = steps.iter().map(u32::to_string).collect::<Vec<_>>().join(", ");
            format!("{} {list}", if steps.len() == 1 { "step" } else { "steps" })
        };
        match self {
            Self::Replace { step, action } => format!("Step {step} changed: {}", action.title()),
            Self::Park { steps } => format!("Park {}", list(steps)),
            Self::Unpark { steps } => format!("Take {} in again", list(steps)),
            Self::Remove { steps } => format!("Remove {}", list(steps)),
            Self::Move { step, before: Some(before) } => format!("Step {step} before step {before}"),
            Self::Move { step, before: None } => format!("Step {step} last"),
            Self::Insert { after, action, .. } => format!("{} after step {after}", action.title()),
            Self::Append { steps } => match &steps[..] {
                [one] => one.action.title(),
                [first, rest @ ..] => format!("{}, {} more", first.action.title(), rest.len()),
                [] => "Nothing".into(),
            },
            Self::WorkAt { cursor: 0 } => "Work before all steps".into(),
            Self::WorkAt { cursor } => format!("Work after {cursor} {}", if *cursor == 1 { "step" } else { "steps" }),
        }
    }
}

impl Edit {
    /// How many steps it adds.
    pub fn adds(&self) -> u32 {
        match self {
            Self::Insert { .. } => 1,
            Self::Append { steps } => steps.len() as u32,
            _ => 0,
        }
    }
}

impl Step {
    /// A step that is still to be worked out.
    pub(crate) fn to_do(number: u32, part: PartId, action: Action) -> Self {
        let Part { mesh, figures, .. } = Part::bench().clone();
        let report = StepReport::of(figures);
        Self { number, part, action, mesh, report, state: StepState::Done, name: None, note: None }
    }
}

impl History {
    /// The steps that cannot be without parts that a step makes, and without theirs in turn; in order.
    pub fn needing(&self, step: u32) -> Vec<u32> {
        let Some(at) = self.steps.iter().position(|s| s.number == step) else { return vec![] };
        let mut parts: Vec<PartId> = self.steps[at].makes().collect();
        let mut steps = Vec::new();
        for later in &self.steps[at + 1..] {
            let uses = |p: &PartId| *p == later.part || later.action.others().contains(p);
            if parts.iter().any(uses) {
                steps.push(later.number);
                parts.extend(later.makes());
            }
        }
        steps
    }

    /// The ledger after an edit, before anything is worked out anew. A new step has the number `next` and no result yet.
    ///
    /// # Errors
    /// [`EditError`].
    pub fn edited(&self, edit: &Edit, next: u32) -> Result<Self, EditError> {
        let mut new = self.clone();
        let place = |step: u32| self.steps.iter().position(|s| s.number == step).ok_or(EditError::NoSuchStep(step));
        match edit {
            Edit::Replace { step, action } => {
                let at = place(*step)?;
                let is_file = |a: &Action| matches!(a, Action::BringIn(_));
                if let (Action::BringIn(now), Action::BringIn(was)) = (action, &self.steps[at].action) {
                    if now.source != was.source || now.file != was.file || now.fault().is_some() {
                        return Err(EditError::BroughtIn);
                    }
                    // The same file is read in another way; until that is done it waits on itself.
                    new.steps[at].state = StepState::Waiting { on: *step };
                } else if is_file(action) || is_file(&self.steps[at].action) {
                    return Err(EditError::BroughtIn);
                }
                new.steps[at].action = action.clone();
            }
            Edit::Park { steps } => {
                for step in steps {
                    let at = place(*step)?;
                    self.refuse_needed(*step, |other| {
                        steps.contains(&other.number) || other.state == StepState::Parked
                    })?;
                    new.steps[at].state = StepState::Parked;
                }
            }
            Edit::Unpark { steps } => {
                for step in steps {
                    new.steps[place(*step)?].state = StepState::Done;
                }
            }
            Edit::Remove { steps } => {
                for step in steps {
                    place(*step)?;
                    self.refuse_needed(*step, |other| steps.contains(&other.number))?;
                }
                let gone = self.steps[..self.cursor].iter().filter(|s| steps.contains(&s.number)).count();
                new.cursor -= gone;
                new.steps.retain(|s| !steps.contains(&s.number));
            }
            Edit::Move { step, before } => {
                let from = place(*step)?;
                let to = before.map_or(Ok(self.steps.len()), place)?;
                let moved = new.steps.remove(from);
                new.steps.insert(if to > from { to - 1 } else { to }, moved);
                new.refuse_out_of_order(self)?;
            }
            Edit::Insert { action: Action::BringIn(_), .. } => return Err(EditError::BroughtIn),
            Edit::Insert { after, part, action } => {
                let at = place(*after)? + 1;
                new.steps.insert(at, Step::to_do(next, *part, action.clone()));
                if at <= self.cursor {
                    new.cursor += 1;
                }
            }
            Edit::Append { steps } => new.append(steps, next)?,
            Edit::WorkAt { cursor } => new.cursor = (*cursor).min(self.steps.len()),
        }
        if new == *self { Err(EditError::Nothing) } else { Ok(new) }
    }

    /// Puts further steps after those in force.
    fn append(&mut self, steps: &[NewWork], next: u32) -> Result<(), EditError> {
        if steps.len() > MOST_AT_ONCE {
            return Err(EditError::TooMany(steps.len()));
        }
        for (NewWork { part, action }, number) in steps.iter().zip(next..) {
            if matches!(action, Action::BringIn(_)) {
                return Err(EditError::BroughtIn);
            }
            self.steps.insert(self.cursor, Step::to_do(number, *part, action.clone()));
            self.cursor += 1;
        }
        Ok(())
    }

    fn refuse_needed(&self, step: u32, goes_too: impl Fn(&Step) -> bool) -> Result<(), EditError> {
        let stays = |n: &u32| self.steps.iter().any(|s| s.number == *n && !goes_too(s));
        let steps: Vec<u32> = self.needing(step).into_iter().filter(stays).collect();
        if steps.is_empty() { Ok(()) } else { Err(EditError::Needed { step, steps }) }
    }

    /// Refuses an order in which a step has not got its parts, unless it had not before either.
    fn refuse_out_of_order(&self, was: &Self) -> Result<(), EditError> {
        let already = was.without_parts();
        match self.without_parts().into_iter().find(|(step, _)| already.iter().all(|(s, _)| s != step)) {
            Some((step, part)) => {
                let maker = self.steps.iter().find(|s| s.makes().any(|p| p == part)).map(|s| s.number);
                let after = |n: u32| self.steps.iter().position(|s| s.number == n);
                let why = match maker {
                    Some(m) if after(m) > after(step) => format!("step {m}, which makes its part, would come after it"),
                    _ => "another step before it uses its part up".into(),
                };
                Err(EditError::OutOfOrder { step, why })
            }
            None => Ok(()),
        }
    }

    /// The steps for which a part is not there, each with the first such part.
    fn without_parts(&self) -> Vec<(u32, PartId)> {
        let mut there: Vec<PartId> = vec![PartId::BENCH];
        let mut lacking = Vec::new();
        for step in self.steps.iter().filter(|s| s.state != StepState::Parked) {
            let own = Some(step.part).filter(|_| !matches!(step.action, Action::BringIn(_)));
            if let Some(part) = own.into_iter().chain(step.action.others()).find(|p| !there.contains(p)) {
                lacking.push((step.number, part));
            }
            let used_up = step.action.used_up(step.part);
            there.retain(|p| !used_up.contains(p));
            there.extend(step.makes());
        }
        lacking
    }
}
