//! Recipes: a list of steps as a JSON file, run on one part without a server. Format: docs/recipe.md.

use std::collections::{BTreeMap, BTreeSet};

use nimbet_kernel::{Mesh, Progress};
use nimbet_trade::wall::with_least_wall;
use nimbet_trade::{Examination, TradeError, examine};
use schemars::{JsonSchema, Schema, SchemaGenerator};
use serde::de::Error;
use serde::{Deserialize, Deserializer, Serialize};
use serde_json::{Value, json};

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
    pub steps: Vec<RecipeStep>,
}

/// A step of a recipe. In JSON `part` stands among the step's parameters.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct RecipeStep {
    /// The part it is done to: 1, with which the recipe begins, or a further one that an earlier step made.
    #[serde(skip_serializing_if = "is_first")]
    pub part: u32,
    /// What is done.
    #[serde(flatten)]
    pub action: Action,
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks for it")]
fn is_first(part: &u32) -> bool {
    *part == 1
}

impl From<Action> for RecipeStep {
    fn from(action: Action) -> Self {
        Self { part: 1, action }
    }
}

impl<'de> Deserialize<'de> for RecipeStep {
    fn deserialize<D: Deserializer<'de>>(d: D) -> Result<Self, D::Error> {
        let mut fields = serde_json::Map::deserialize(d)?;
        let part = fields.remove("part").map_or(Ok(1), serde_json::from_value).map_err(D::Error::custom)?;
        let action = serde_json::from_value(fields.into()).map_err(D::Error::custom)?;
        Ok(Self { part, action })
    }
}

impl JsonSchema for RecipeStep {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "RecipeStep".into()
    }

    fn json_schema(generator: &mut SchemaGenerator) -> Schema {
        let part = json!({
            "description": "The part it is done to: 1, with which the recipe begins, or a further one that an earlier step made.",
            "type": "integer", "minimum": 1, "default": 1,
        });
        let action = generator.subschema_for::<Action>();
        for kind in generator.definitions_mut().values_mut() {
            let kinds = kind.get_mut("oneOf").and_then(Value::as_array_mut);
            let own = kinds.into_iter().flatten().filter_map(|kind| kind.get_mut("properties")?.as_object_mut());
            for properties in own.filter(|p| p.contains_key("kind")) {
                properties.insert("part".into(), part.clone());
            }
            if let Some(properties) = kind.get_mut("properties").and_then(Value::as_object_mut)
                && properties.contains_key("kind")
            {
                properties.insert("part".into(), part.clone());
            }
        }
        action
    }
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
    Text(String),
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
        let recipe: Self = serde_json::from_str(text).map_err(|e| RecipeError::Text(e.to_string()))?;
        if recipe.nimbet == 1 { Ok(recipe) } else { Err(RecipeError::Version(recipe.nimbet)) }
    }

    /// What was done to a part, with what was done to others for it: to be run on other files, or, of what was begun on the
    /// empty bench, on nothing.
    ///
    /// # Errors
    /// [`NoRecipe`] names the first step that needs a part which these steps do not make.
    pub fn of(history: &History, part: PartId, name: String) -> Result<Self, NoRecipe> {
        let first = if history.is_from_bench(part) { PartId::BENCH } else { part };
        // Further parts are numbered 2, 3 … in a recipe.
        let mut made = BTreeMap::from([(first, 1)]);
        let mut steps = Vec::new();
        for step in history.leading_to(part, first) {
            for other in std::iter::once(step.part).chain(step.action.others()) {
                if !made.contains_key(&other) {
                    return Err(NoRecipe { step: step.number, title: step.action.title(), part: other.0 });
                }
            }
            let action = step.action.renumbered(&|n| made.get(&PartId(n)).copied().unwrap_or(n));
            steps.push(RecipeStep { part: made[&step.part], action });
            for (part, _) in step.made() {
                made.insert(part, made.len() as u32 + 1);
            }
        }
        Ok(Self { nimbet: 1, name, steps })
    }
}

impl History {
    /// Whether a part was begun on the empty bench, by itself or as that of which it was made.
    fn is_from_bench(&self, part: PartId) -> bool {
        let maker = self.in_force().find(|s| s.made().any(|(made, _)| made == part));
        maker.is_some_and(|s| s.part == PartId::BENCH || self.is_from_bench(s.part))
    }

    /// The steps in force that make a part what it is, from `first` on: those done to it, and to others before they went in.
    fn leading_to(&self, part: PartId, first: PartId) -> Vec<&Step> {
        let mut needed = BTreeSet::from([part]);
        let mut steps: Vec<&Step> = self.in_force().collect();
        steps.reverse();
        steps.retain(|step| {
            // What a part is called is its own.
            if matches!(step.action, Action::BringIn(_) | Action::Label(_) | Action::Delete(_)) {
                return false;
            }
            let makes = step.made().any(|(made, _)| made != first && needed.contains(&made));
            let wanted = makes || step.part != PartId::BENCH && needed.contains(&step.part);
            if wanted {
                needed.insert(step.part);
                needed.extend(step.action.others());
            }
            wanted
        });
        steps.reverse();
        steps
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

    /// Does the next step after the steps in force: gives its place, not worked out yet, with the number `next`.
    pub fn begin(&self, history: &mut History, step: &RecipeStep, next: &mut u32) -> usize {
        let number = |n: u32| match n {
            1 => self.part.0,
            n => self.made.get((n as usize).wrapping_sub(2)).map_or(u32::MAX, |part| part.0),
        };
        let step = Step::to_do(*next, PartId(number(step.part)), step.action.renumbered(&number));
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

/// Runs a recipe on a part, or on nothing. A step that finds nothing to do is passed over and told.
///
/// # Errors
/// [`RecipeError::Step`] for the first step that fails.
pub fn run_recipe(recipe: &Recipe, mesh: Mesh, progress: &Progress) -> Result<RecipeRun, RecipeError> {
    let examination = examine(&mesh, progress)
        .and_then(|seen| with_least_wall(seen, &mesh, progress))
        .map_err(|c| failed(0, "Examine".into())(c.into()))?;
    let parts = BTreeMap::from([(1, (mesh, examination))]);
    let mut bench = Bench { parts, next: 2, lost: BTreeSet::new(), material: None, scaled: BTreeSet::new() };
    let mut steps = Vec::new();
    for (n, step) in recipe.steps.iter().enumerate() {
        let title = step.action.title();
        match bench.take(step, progress) {
            Ok(report) => steps.push((title, Ok(report))),
            Err(StepError::Trade(TradeError::NothingToDo { why })) => steps.push((title, Err(why))),
            Err(error) => return Err(failed(n + 1, title)(error)),
        }
    }
    let Bench { mut parts, lost, material, .. } = bench;
    let whole = parts.remove(&1).ok_or(StepError::NoSuchPart(1)).map_err(failed(0, "Examine".into()))?;
    Ok(RecipeRun { mesh: whole.0, examination: whole.1, others: parts, lost, material, steps })
}

fn failed(number: usize, title: String) -> impl FnOnce(StepError) -> RecipeError {
    move |error| RecipeError::Step { number, title, error }
}

/// The parts while a recipe runs.
struct Bench {
    parts: BTreeMap<u32, (Mesh, Examination)>,
    next: u32,
    lost: BTreeSet<u32>,
    material: Option<String>,
    /// The patterns made larger for shrinkage.
    scaled: BTreeSet<u32>,
}

impl Bench {
    /// Does a step.
    fn take(&mut self, step: &RecipeStep, progress: &Progress) -> Result<StepReport, StepError> {
        let refused = |why: &str| StepError::from(TradeError::Refused { why: why.into(), places: vec![] });
        let RecipeStep { part, action } = step;
        if action.scales_pattern() && self.scaled.contains(part) {
            return Err(refused("the pattern was made larger for shrinkage by an earlier step already"));
        }
        let find = |id: u32| self.parts.get(&id).ok_or(StepError::NoSuchPart(id));
        let (mesh, seen) = find(*part)?;
        let others = action.others().into_iter().map(|id| find(id.0).map(|p| p.0.clone()));
        let inputs = others.collect::<Result<Vec<_>, _>>()?;
        let done = perform(action, mesh, seen, &inputs, progress)?;
        let used_up = action.used_up(PartId(*part));
        if used_up.contains(&PartId(1)) {
            return Err(refused("a recipe cannot delete the part it is done to"));
        }
        self.parts.insert(*part, (done.mesh, done.examination));
        self.parts.retain(|n, _| !used_up.contains(&PartId(*n)));
        for made in done.more {
            self.parts.insert(self.next, made);
            self.next += 1;
        }
        if done.kept_lost {
            self.lost.insert(self.next - 1);
        }
        if action.scales_pattern() {
            self.scaled.insert(*part);
        }
        if let (Action::SetMaterial(m), 1) = (action, *part) {
            self.material = Some(m.material.clone());
        }
        Ok(done.report)
    }
}
