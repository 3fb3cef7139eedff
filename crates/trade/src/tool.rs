//! What a tool is. Each tool's file says what it is called, what it needs and begins with, and does it; `tools.rs` lists them all.

use std::any::Any;
use std::fmt::Debug;

use nimbet_kernel::{Mesh, Progress};
use schemars::generate::SchemaSettings;
use schemars::{JsonSchema, Schema, SchemaGenerator};
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;

use crate::budget::{Cost, Effort, Extent};
use crate::examine::{About, Examination, PartState};
use crate::{Operation, Outcome, TradeError};

/// Something that can be done to a part. Its fields are its parameters, as they stand in recipes and in the ledger.
pub trait Tool: Clone + Debug + PartialEq + Serialize + DeserializeOwned + JsonSchema + Send + Sync + 'static {
    /// The station, a dot, and the tool: `seal.close_gaps`.
    const KIND: &'static str;
    /// What it does, in a sentence.
    const WHAT: &'static str;
    /// Whether faces keep their numbers, and new ones get numbers that no face had.
    const KEEPS_FACES: bool = true;
    /// What it does with each triangle, for what it costs.
    const EFFORT: Effort = Effort::Arranging;
    /// How it stands on the lists of tools: most once, some under several names.
    const ENTRIES: &'static [Entry] = &[];

    /// What the step is called.
    fn title(&self) -> String;

    /// Does it.
    ///
    /// # Errors
    /// [`TradeError`]; what was given is untouched then.
    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError>;

    /// About how many triangles there are afterwards, from figures of the part and of the others that go in, in order.
    fn makes(&self, parts: &[Extent]) -> f64 {
        parts.iter().map(|p| p.triangles).sum()
    }

    /// What it is expected to take.
    fn cost(&self, parts: &[Extent]) -> Cost {
        Cost::of(Self::EFFORT, parts.iter().map(|p| p.triangles).sum(), self.makes(parts))
    }

    /// How it remedies what a finding is about, the best first.
    fn remedies(_about: &About) -> Vec<Cure> {
        vec![]
    }

    /// What becomes of the surface that was there.
    fn effect(&self) -> Effect {
        Effect::Changes
    }

    /// The numbers of the other parts that go in.
    fn parts(&mut self) -> Vec<&mut u32> {
        vec![]
    }

    /// Whether those are gone afterwards.
    fn uses_up(&self) -> bool {
        false
    }

    /// Whether its threads are only marked.
    fn marked(&mut self) -> Option<&mut bool> {
        None
    }
}

/// A remedy, and how well it suits.
#[derive(Clone, Debug)]
pub struct Cure {
    /// Of several remedies those with the least rank come first.
    pub rank: u8,
    /// What it does, in a few words.
    pub label: String,
    /// The step.
    pub operation: Operation,
}

impl Cure {
    /// A step under a label.
    pub fn new(rank: u8, label: impl Into<String>, tool: impl Tool) -> Self {
        Self { rank, label: label.into(), operation: Operation::of(tool) }
    }
}

/// What becomes of the surface that was there.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Effect {
    /// Some of it goes or moves, as asked for.
    Changes,
    /// It is mended: what of it is lost was not asked for.
    Mends,
    /// The part moves as a whole, so that nothing of it is where it was.
    MovesAll,
}

/// What a tool is given to work on.
#[derive(Clone, Copy, Debug)]
pub struct Given<'a> {
    /// The part.
    pub mesh: &'a Mesh,
    /// The other parts it names, in order.
    pub others: &'a [Mesh],
    /// What is known of the part, where it was examined.
    pub seen: Option<&'a Examination>,
    /// Whom to tell how far it is, and ask whether to go on.
    pub progress: &'a Progress,
}

impl<'a> Given<'a> {
    /// A part alone.
    pub fn part(mesh: &'a Mesh, progress: &'a Progress) -> Self {
        Self { mesh, others: &[], seen: None, progress }
    }

    /// With other parts.
    #[must_use]
    pub fn with(self, others: &'a [Mesh]) -> Self {
        Self { others, ..self }
    }

    /// Whether the part is known to be sealed.
    pub fn sealed(&self) -> bool {
        self.seen.is_some_and(|seen| seen.figures.state == PartState::Sealed)
    }
}

/// How a tool stands on the lists of tools.
#[derive(Clone, Copy, Debug)]
pub struct Entry {
    /// What it is named by.
    pub key: &'static str,
    /// What people call it.
    pub name: &'static str,
    /// What it is for, in a line.
    pub hint: &'static str,
    /// What it stands with on the list of its station.
    pub group: &'static str,
    /// Other words of the trade by which it is looked for.
    pub words: &'static [&'static str],
    /// What it needs of a part.
    pub needs: Needs,
    /// What steps of this entry have that those of the tool's others have not, as a JSON pointer; empty for all others.
    pub mark: &'static str,
    /// The parameters a step begins with. What has to be picked first is `null` there.
    pub start: fn(&Begin<'_>) -> Value,
}

/// What is known when a step is begun.
#[derive(Clone, Copy, Debug)]
pub struct Begin<'a> {
    /// The part.
    pub seen: Option<&'a Examination>,
    /// The farthest round faces may be from true in the job, mm.
    pub chord: f64,
    /// The least wall of the way of making, mm.
    pub least_wall: Option<f64>,
    /// What that way of making needs added to bores; to threads across and along, mm.
    pub added: [f64; 3],
    /// What the part's material shrinks by, percent.
    pub shrinkage: f64,
}

impl Begin<'_> {
    /// The part's least corner and size, mm; those of a hand's breadth where there is no part.
    pub fn bounds(&self) -> ([f64; 3], [f64; 3]) {
        self.seen.map_or(([0.0; 3], [100.0; 3]), |seen| (seen.figures.least, seen.figures.size))
    }

    /// A share of the part's diagonal, to one digit, mm.
    pub fn share(&self, share: f64) -> f64 {
        to_digits(self.bounds().1.iter().map(|x| x * x).sum::<f64>().sqrt() * share, 1)
    }

    /// The middle of the part, mm.
    pub fn middle(&self) -> [f64; 3] {
        let (least, size) = self.bounds();
        let middle = |k: usize| ((least[k] + size[k] * 0.5) * 100.0).round() / 100.0;
        if self.seen.is_some() { [0, 1, 2].map(middle) } else { [0.0; 3] }
    }

    /// A wall to begin with: twice the least, mm.
    pub fn wall(&self) -> f64 {
        to_digits(self.least_wall.unwrap_or(1.0) * 2.0, 2)
    }

    /// A reach that closes the widest gap found, or a tenth of a millimetre.
    pub fn reach(&self) -> f64 {
        let widest = self.seen.iter().flat_map(|seen| &seen.gaps).map(|g| g.reach).fold(0.0, f64::max);
        if widest > 0.0 { widest } else { 0.1 }
    }
}

/// A figure to so many digits.
pub(crate) fn to_digits(x: f64, digits: usize) -> f64 {
    format!("{x:.*e}", digits - 1).parse().unwrap_or(x)
}

/// What a tool needs of a part.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Needs {
    /// Nothing, not even a part: it can be done on the empty bench.
    Bench,
    /// A part, whatever it is.
    Anything,
    /// A closed rim.
    Rim,
    /// Two closed rims.
    TwoRims,
    /// A border.
    Border,
    /// A part that is no solid yet.
    Unsealed,
    /// Surface that crosses itself.
    Tangle,
    /// No naked edges.
    Closed,
    /// A solid.
    Sealed,
}

impl Needs {
    /// Why a part does not do, in a sentence; none where it does, or where nothing is known of it.
    pub fn lacking(self, seen: Option<&Examination>) -> Option<&'static str> {
        let seen = seen?;
        if self != Self::Bench && seen.figures.triangles == 0 {
            return Some("there is no part on the bench yet");
        }
        let (rims, figures) = (seen.rims.iter().filter(|r| r.closed).count(), &seen.figures);
        let (does, why) = match self {
            Self::Bench | Self::Anything => (true, ""),
            Self::Rim => (rims > 0, "the part has no rim"),
            Self::TwoRims => (rims > 1, "the part has fewer than two rims"),
            Self::Border => (!seen.rims.is_empty(), "the part has no border"),
            Self::Unsealed => (figures.state != PartState::Sealed, "the part is sealed already"),
            Self::Tangle => (figures.tangles > 0, "nothing of the part crosses itself"),
            Self::Closed => (figures.naked_edges == 0, "the part has naked edges"),
            Self::Sealed => (figures.state == PartState::Sealed, "the part is not sealed"),
        };
        (!does).then_some(why)
    }
}

/// A tool by itself, without parameters.
#[derive(Clone, Copy, Debug)]
pub struct Kind {
    /// As it stands in recipes and in the ledger.
    pub kind: &'static str,
    /// What it does, in a sentence.
    pub what: &'static str,
    /// How it stands on the lists of tools.
    pub entries: &'static [Entry],
    pub(crate) read: fn(Value) -> Result<Operation, serde_json::Error>,
    pub(crate) schema: fn(&mut SchemaGenerator) -> Schema,
    pub(crate) remedies: fn(&About) -> Vec<Cure>,
}

impl Kind {
    /// That of a tool.
    pub const fn of<T: Tool>() -> Self {
        Self {
            kind: T::KIND,
            what: T::WHAT,
            entries: T::ENTRIES,
            read: |fields| serde_json::from_value::<T>(fields).map(Operation::of),
            schema: T::json_schema,
            remedies: T::remedies,
        }
    }

    /// The step an entry begins with, as JSON.
    pub fn begun(&self, entry: &Entry, begin: &Begin<'_>) -> Value {
        let mut step = serde_json::Map::new();
        step.insert("kind".into(), self.kind.into());
        if let Value::Object(fields) = (entry.start)(begin) {
            step.extend(fields);
        }
        Value::Object(step)
    }

    /// Its parameters as JSON schema, everything in place, with what `parameter.rs` says of each.
    pub fn parameters(&self) -> Value {
        inlined(self.schema)
    }

    /// Whether it can be done on the empty bench.
    pub fn on_bench(&self) -> bool {
        self.entries.iter().any(|entry| entry.needs == Needs::Bench)
    }

    /// The station it belongs to: `seal`, `wall` …
    pub fn station(&self) -> &'static str {
        self.kind.split_once('.').map_or(self.kind, |(station, _)| station)
    }
}

/// A description without references.
pub(crate) fn inlined(described: impl FnOnce(&mut SchemaGenerator) -> Schema) -> Value {
    let settings = SchemaSettings::draft2020_12().with(|s| s.inline_subschemas = true);
    described(&mut settings.into_generator()).to_value()
}

/// A tool with its parameters, whichever it is.
pub(crate) trait AnyTool: Any + Debug + Send + Sync {
    fn kind(&self) -> &'static str;
    fn title(&self) -> String;
    fn cost(&self, parts: &[Extent]) -> Cost;
    fn effect(&self) -> Effect;
    fn keeps_faces(&self) -> bool;
    fn uses_up(&self) -> bool;
    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError>;
    /// Calls `visit` for the number of each other part that goes in; gives what it is then.
    fn visited(&self, visit: &mut dyn FnMut(&mut u32)) -> Operation;
    /// With the threads it marks cut, if it marks any.
    fn cut(&self) -> Option<Operation>;
    fn same_as(&self, other: &dyn Any) -> bool;
    /// As it is written: its kind, then its parameters.
    fn written(&self) -> Box<dyn erased_serde::Serialize + '_>;
    fn as_any(&self) -> &dyn Any;
}

#[derive(Serialize)]
struct Written<'a, T> {
    kind: &'static str,
    #[serde(flatten)]
    parameters: &'a T,
}

impl<T: Tool> AnyTool for T {
    fn kind(&self) -> &'static str {
        T::KIND
    }

    fn title(&self) -> String {
        Tool::title(self)
    }

    fn cost(&self, parts: &[Extent]) -> Cost {
        Tool::cost(self, parts)
    }

    fn effect(&self) -> Effect {
        Tool::effect(self)
    }

    fn keeps_faces(&self) -> bool {
        T::KEEPS_FACES
    }

    fn uses_up(&self) -> bool {
        Tool::uses_up(self)
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        Tool::apply(self, given)
    }

    fn visited(&self, visit: &mut dyn FnMut(&mut u32)) -> Operation {
        let mut same = self.clone();
        same.parts().into_iter().for_each(visit);
        Operation::of(same)
    }

    fn cut(&self) -> Option<Operation> {
        let mut same = self.clone();
        std::mem::take(same.marked()?).then(|| Operation::of(same))
    }

    fn same_as(&self, other: &dyn Any) -> bool {
        other.downcast_ref::<T>().is_some_and(|other| self == other)
    }

    fn written(&self) -> Box<dyn erased_serde::Serialize + '_> {
        Box::new(Written { kind: T::KIND, parameters: self })
    }

    fn as_any(&self) -> &dyn Any {
        self
    }
}
