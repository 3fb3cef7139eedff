//! Working a ledger out anew after an edit: which step is due, with which inputs, and what its outcome means for the rest.
//!
//! Results come from a cache or are worked out by the caller; a step whose inputs are as they were costs a look into the cache.

use std::collections::BTreeMap;

use nimbet_trade::TradeError;

use crate::action::Action;
use crate::hash::Hash;
use crate::history::{History, Part, PartId, Step, StepReport, StepState};
use crate::perform::StepError;

/// A step that is due.
#[derive(Clone, Debug, PartialEq)]
pub struct Due {
    /// Its number.
    pub step: u32,
    /// Its place among all.
    pub place: usize,
    /// What it does.
    pub action: Action,
    /// The meshes that go into it: its part's, then those of the other parts it names.
    pub inputs: Vec<Hash>,
}

/// A ledger being worked out anew, step by step.
#[derive(Clone, Debug)]
pub struct Replay {
    history: History,
    at: usize,
    /// The next number no step and no part has.
    next: u32,
    meshes: BTreeMap<PartId, Hash>,
    /// Parts that are not what they were meant to be, with the stopped step.
    broken: BTreeMap<PartId, u32>,
}

impl Replay {
    /// Begins. `next` is the first number no step and no part has.
    pub fn new(history: History, next: u32) -> Self {
        let bench = (PartId::BENCH, Part::bench().mesh);
        Self { history, at: 0, next, meshes: BTreeMap::from([bench]), broken: BTreeMap::new() }
    }

    /// The next step that has to be worked out; those that cannot be are marked on the way. Held back steps stay as they are.
    pub fn due(&mut self) -> Option<Due> {
        while self.at < self.history.cursor.min(self.history.steps.len()) {
            let step = &self.history.steps[self.at];
            if step.state == StepState::Parked {
                self.at += 1;
                continue;
            }
            if matches!(step.action, Action::BringIn(_)) {
                if step.state != StepState::Done {
                    return Some(Due {
                        step: step.number,
                        place: self.at,
                        action: step.action.clone(),
                        inputs: vec![],
                    });
                }
                self.meshes.insert(step.part, step.mesh);
                self.meshes.extend(step.made().map(|(part, made)| (part, made.mesh)));
                self.at += 1;
                continue;
            }
            let parts: Vec<PartId> = std::iter::once(step.part).chain(step.action.others()).collect();
            if let Some(on) = parts.iter().find_map(|p| self.broken.get(p)).copied() {
                self.stop(StepState::Waiting { on }, on);
                continue;
            }
            match parts.iter().map(|p| self.meshes.get(p).copied().ok_or(*p)).collect() {
                Ok(inputs) => {
                    let (step, action) = (step.number, step.action.clone());
                    return Some(Due { step, place: self.at, action, inputs });
                }
                Err(part) => {
                    let on = step.number;
                    self.stop(stopped(&StepError::NoSuchPart(part.0)), on);
                }
            }
        }
        None
    }

    /// Takes the outcome of the step that is due.
    ///
    /// # Errors
    /// The error of a step that was cancelled.
    pub fn done(&mut self, outcome: Result<(Hash, StepReport), StepError>) -> Result<(), StepError> {
        let step = &mut self.history.steps[self.at];
        step.settle(outcome, &mut self.next)?;
        match step.state {
            StepState::Done => {
                self.meshes.insert(step.part, step.mesh);
                for part in step.action.used_up(step.part) {
                    self.meshes.remove(&part);
                }
                let made: Vec<(PartId, Hash)> = step.made().map(|(part, made)| (part, made.mesh)).collect();
                self.meshes.extend(made);
                self.at += 1;
            }
            StepState::Stopped { .. } => {
                let (state, on) = (step.state.clone(), step.number);
                self.stop(state, on);
            }
            _ => self.at += 1,
        }
        Ok(())
    }

    /// The ledger as it is now, and the next number no step and no part has.
    pub fn finish(self) -> (History, u32) {
        (self.history, self.next)
    }

    /// Marks the step at hand; its part and those it makes are not what they were meant to be from here on.
    fn stop(&mut self, state: StepState, on: u32) {
        let step: &mut Step = &mut self.history.steps[self.at];
        step.state = state;
        let parts: Vec<PartId> = std::iter::once(step.part).chain(step.makes()).collect();
        // Nothing becomes of the bench, whatever a step on it does.
        let parts = parts.into_iter().filter(|p| *p != PartId::BENCH);
        self.broken.extend(parts.map(|p| (p, on)));
        self.at += 1;
    }
}

impl Step {
    /// Takes the outcome of working the step out. Parts it made before keep their numbers; further ones get `next` and those
    /// after it.
    ///
    /// # Errors
    /// The error of a step that was cancelled.
    pub fn settle(&mut self, outcome: Result<(Hash, StepReport), StepError>, next: &mut u32) -> Result<(), StepError> {
        self.state = match outcome {
            Ok((mesh, mut report)) => {
                let held: Vec<PartId> = self.made().map(|(part, _)| part).collect();
                for (n, made) in report.made.iter_mut().enumerate() {
                    made.part = Some(held.get(n).copied().unwrap_or_else(|| {
                        *next += 1;
                        PartId(*next - 1)
                    }));
                }
                (self.mesh, self.report) = (mesh, report);
                StepState::Done
            }
            Err(StepError::Trade(TradeError::NothingToDo { why })) => StepState::Idle { why },
            Err(StepError::Trade(TradeError::Cancelled(c))) => return Err(c.into()),
            Err(error) => stopped(&error),
        };
        Ok(())
    }
}

fn stopped(error: &StepError) -> StepState {
    StepState::Stopped {
        why: error.to_string(),
        places: error.places().into_iter().map(|p| p.to_array()).collect(),
        new_pick: matches!(error, StepError::Trade(TradeError::NeedsNewPick { .. })),
    }
}
