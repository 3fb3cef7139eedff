//! Recipes: a list of steps as a JSON file, run on one part without a server. Format: docs/recipe.md.

use std::collections::{BTreeMap, BTreeSet};

use nimbet_kernel::{Mesh, Progress};
use nimbet_trade::wall::with_least_wall;
use nimbet_trade::{Examination, examine};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::action::Action;
use crate::history::{History, PartId, Step, StepReport, StepState};
use crate::perform::{StepError, perform};

/// A recipe file.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Recipe {
    /// The version of the format: 1.
    pub nimbet: u32,
    /// What the recipe is for.
    #[serde(default)]
    pub name: String,
    /// The steps, in order. `bring_in` does not stand here: the file is given on the command line.
    pub steps: Vec<Action>,
}

/// Why the steps of a part are no recipe.
#[derive(Debug, thiserror::Error)]
#[error("step {step} ({title}) needs part {part}, which a recipe run on one file does not have")]
pub struct NoRecipe {
    /// The step.
    pub step: u32,
    /// What it is called.
    pub title: String,
    /// The part it needs.
    pub part: u32,
}

/// Why a recipe cannot be run.
#[derive(Debug, thiserror::Error)]
pub enum RecipeError {
    /// The text is no recipe.
    #[error("the recipe is not understood: {0}")]
    Text(#[from] serde_json::Error),
    /// A version this program does not know.
    #[error("the recipe says version {0}; this program knows version 1")]
    Version(u32),
    /// A step failed.
    #[error("step {number} ({title}): {error}")]
    Step {
        /// Counted from 1.
        number: usize,
        /// What it is called.
        title: String,
        /// Why it failed.
        error: StepError,
    },
}

/// A recipe run to its end. The part it began with is part 1; further parts that steps make are 2, 3 … until joined again.
#[derive(Clone, Debug)]
pub struct RecipeRun {
    /// The part afterwards.
    pub mesh: Mesh,
    /// All that is known of it.
    pub examination: Examination,
    /// The further parts there are, by number.
    pub others: BTreeMap<u32, (Mesh, Examination)>,
    /// Those of them that are what a step lost: surfaces, no solids.
    pub lost: BTreeSet<u32>,
    /// The last material chosen.
    pub material: Option<String>,
    /// Title of each step in order, with its report or why it found nothing to do.
    pub steps: Vec<(String, Result<StepReport, String>)>,
}

impl Recipe {
    /// Reads a recipe.
    ///
    /// # Errors
    /// [`RecipeError`] with line and column.
    ///
    /// ```
    /// let recipe = nimbet_ledger::Recipe::parse(r#"{ "nimbet": 1, "steps": [{ "kind": "seal.plan" }] }"#).unwrap();
    /// assert_eq!(recipe.steps.len(), 1);
    /// ```
    pub fn parse(text: &str) -> Result<Self, RecipeError> {
        let recipe: Self = serde_json::from_str(text)?;
        if recipe.nimbet == 1 { Ok(recipe) } else { Err(RecipeError::Version(recipe.nimbet)) }
    }

    /// The steps in force of a part, to be run on other files.
    ///
    /// # Errors
    /// [`NoRecipe`] names the first step that needs a part which the steps of this one do not make.
    pub fn of(history: &History, part: PartId, name: String) -> Result<Self, NoRecipe> {
        // Further parts are numbered 2, 3 … in a recipe.
        let mut made: BTreeMap<PartId, u32> = BTreeMap::new();
        let mut changed: Vec<PartId> = Vec::new();
        let mut steps = Vec::new();
        for step in history.in_force() {
            if step.part != part {
                changed.push(step.part);
                continue;
            }
            // What a part is called is its own.
            if matches!(step.action, Action::BringIn(_) | Action::Label(_) | Action::Delete(_)) {
                continue;
            }
            for other in step.action.others() {
                if !made.contains_key(&other) || changed.contains(&other) {
                    return Err(NoRecipe { step: step.number, title: step.action.title(), part: other.0 });
                }
            }
            steps.push(step.action.renumbered(&|n| made.get(&PartId(n)).copied().unwrap_or(n)));
            for (part, _) in step.made() {
                made.insert(part, made.len() as u32 + 2);
            }
        }
        Ok(Self { nimbet: 1, name, steps })
    }
}

/// A recipe done in a job, step by step, to a part that was brought in: its numbers of parts become the job's.
#[derive(Clone, Debug)]
pub struct Following {
    part: PartId,
    /// What the recipe calls 2, 3 ….
    made: Vec<PartId>,
}

impl Following {
    /// Begins with the part that the recipe is done to.
    pub fn new(part: PartId) -> Self {
        Self { part, made: vec![] }
    }

    /// Does the next step after the steps in force: gives it, not worked out yet, with the number `next`.
    pub fn begin(&self, history: &mut History, action: &Action, next: &mut u32) -> usize {
        let number = |n: u32| match n {
            1 => self.part.0,
            n => self.made.get(n as usize - 2).map_or(u32::MAX, |part| part.0),
        };
        let step = history.steps[history.cursor - 1].followed_by(*next, self.part, action.renumbered(&number));
        *next += 1;
        history.steps.insert(history.cursor, step);
        history.cursor += 1;
        history.cursor - 1
    }

    /// Takes note of the parts a step made.
    pub fn done(&mut self, step: &Step) {
        if step.state == StepState::Done {
            self.made.extend(step.made().map(|(part, _)| part));
        }
    }
}

/// Runs a recipe on a part; its steps are done to that part. A step that finds nothing to do is passed over and told.
///
/// # Errors
/// [`RecipeError::Step`] for the first step that fails.
pub fn run_recipe(recipe: &Recipe, mesh: Mesh, progress: &Progress) -> Result<RecipeRun, RecipeError> {
    use nimbet_trade::TradeError::{self, NothingToDo};
    let fail = |number: usize, title: String| move |error: StepError| RecipeError::Step { number, title, error };
    let examination = examine(&mesh, progress)
        .and_then(|seen| with_least_wall(seen, &mesh, progress))
        .map_err(|c| fail(0, "Examine".into())(c.into()))?;
    let mut run =
        RecipeRun { mesh, examination, others: BTreeMap::new(), lost: BTreeSet::new(), material: None, steps: vec![] };
    let mut next = 2;
    for (n, action) in recipe.steps.iter().enumerate() {
        let title = action.title();
        if action.scales_pattern() && recipe.steps[..n].iter().any(Action::scales_pattern) {
            let why = "the pattern was made larger for shrinkage by an earlier step already".into();
            return Err(fail(n + 1, title)(TradeError::Refused { why, places: vec![] }.into()));
        }
        let wanted = action.others();
        let mut inputs = Vec::new();
        for id in &wanted {
            let part = run.others.get(&id.0).ok_or_else(|| fail(n + 1, title.clone())(StepError::NoSuchPart(id.0)))?;
            inputs.push(part.0.clone());
        }
        match perform(action, &run.mesh, &run.examination, &inputs, progress) {
            Ok(done) => {
                let used_up = action.used_up(PartId(1));
                if used_up.contains(&PartId(1)) {
                    let why = "a recipe cannot delete the part it is done to".into();
                    return Err(fail(n + 1, title)(TradeError::Refused { why, places: vec![] }.into()));
                }
                run.others.retain(|n, _| !used_up.iter().any(|id| id.0 == *n));
                for part in done.more {
                    run.others.insert(next, part);
                    next += 1;
                }
                if done.kept_lost {
                    run.lost.insert(next - 1);
                }
                if let Action::SetMaterial(m) = action {
                    run.material = Some(m.material.clone());
                }
                run.mesh = done.mesh;
                run.examination = done.examination;
                run.steps.push((title, Ok(done.report)));
            }
            Err(StepError::Trade(NothingToDo { why })) => run.steps.push((title, Err(why))),
            Err(error) => return Err(fail(n + 1, title)(error)),
        }
    }
    Ok(run)
}
