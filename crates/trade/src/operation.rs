//! Something done to a part, and what comes of it.

use std::sync::Arc;

use crate::examine::{self, Examination};
use nimbet_kernel::touching::parted;
use nimbet_kernel::{Cancelled, FaceId, Mesh, MeshError, Point, Progress};
use schemars::{JsonSchema, Schema, SchemaGenerator};
use serde::de::Error;
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use serde_json::{Value, json};

use crate::budget::{Cost, Extent, refuse_costly};
use crate::fasten::ThreadMark;
use crate::limits::refuse_outside;
use crate::made::Made;
use crate::plan::PlannedStep;
use crate::remedies::prescribe;
use crate::tool::{AnyTool, Effect, Given, Tool};
use crate::tools::{kinds, kinds_called};
use crate::wall::Notice;

/// An operation on one part: a tool with its parameters, as they stand in recipes and in the ledger.
#[derive(Clone, Debug)]
pub struct Operation(Arc<dyn AnyTool>);

impl PartialEq for Operation {
    fn eq(&self, other: &Self) -> bool {
        self.0.same_as(other.0.as_any())
    }
}

impl<T: Tool> From<T> for Operation {
    fn from(tool: T) -> Self {
        Self::of(tool)
    }
}

impl Serialize for Operation {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        erased_serde::serialize(&*self.0.written(), serializer)
    }
}

impl<'de> Deserialize<'de> for Operation {
    /// Looks at `kind` first, so that a fault in the parameters is told as such.
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let mut fields = serde_json::Map::deserialize(deserializer)?;
        let Some(Value::String(name)) = fields.remove("kind") else {
            return Err(D::Error::missing_field("kind"));
        };
        let Some(kind) = kinds_called(&name) else {
            return Err(D::Error::custom(format!("there is no tool '{name}'")));
        };
        (kind.read)(Value::Object(fields)).map_err(D::Error::custom)
    }
}

impl JsonSchema for Operation {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Operation".into()
    }

    fn json_schema(generator: &mut SchemaGenerator) -> Schema {
        let one = |kind: &crate::tool::Kind, generator: &mut SchemaGenerator| {
            let mut all = serde_json::Map::new();
            let fields = (kind.schema)(generator);
            let own = fields.as_object().cloned().unwrap_or_default();
            let mut properties = serde_json::Map::new();
            properties.insert("kind".into(), json!({ "type": "string", "const": kind.kind }));
            properties.extend(own.get("properties").and_then(Value::as_object).cloned().unwrap_or_default());
            let required = own.get("required").and_then(Value::as_array).cloned().unwrap_or_default();
            all.insert("description".into(), kind.what.into());
            all.insert("type".into(), "object".into());
            all.insert("properties".into(), properties.into());
            all.insert("additionalProperties".into(), false.into());
            all.insert("required".into(), std::iter::once(Value::from("kind")).chain(required).collect());
            Value::Object(all)
        };
        let all: Vec<Value> = kinds().iter().map(|kind| one(kind, generator)).collect();
        schemars::json_schema!({
            "description": "An operation on one part: its kind and parameters, as they stand in recipes and in the ledger.",
            "oneOf": all,
        })
    }
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
    /// Further parts it makes.
    pub more: Vec<Made>,
    /// The steps a plan is made of, those left out too.
    pub plan: Vec<PlannedStep>,
    /// New faces, by the part that cut them.
    pub cut: Vec<CutFaces>,
    /// What else it does that is worth knowing, with where.
    pub notices: Vec<Notice>,
    /// Threads it made or marked.
    pub threads: Vec<ThreadMark>,
    /// Faces of the part before that are too tight for a wall, and vanished on the side that moved.
    pub tight: Vec<FaceId>,
    /// All that is known of the part afterwards, where the operation looked at it itself.
    pub seen: Option<Box<Examination>>,
}

/// Draws what touches itself along edges apart, and tells it: nothing would hold there, and it would be no solid.
fn part_what_touches(outcome: &mut Outcome, progress: &Progress) -> Result<(), TradeError> {
    let more = outcome.more.iter_mut().map(|made| &mut made.mesh);
    // Profiles are drawn, not bodies.
    for mesh in std::iter::once(&mut outcome.mesh).chain(more).filter(|mesh| mesh.drawn().is_none()) {
        let parted = parted(mesh, progress).map_err(|e| crate::solids::told(e, &|_| "the result".into()))?;
        let Some(parted) = parted else { continue };
        outcome.seen = None;
        let along = crate::words::count(parted.edges, "edge", "edges");
        let by = crate::words::millimetres(parted.by);
        let text = format!("bodies only touched along {along}, where nothing holds: drawn apart there by {by}");
        let place = examine::Place { centre: parted.at.to_array(), radius: parted.length * 0.5 };
        outcome.notices.push(Notice { text, place });
        *mesh = parted.mesh;
    }
    Ok(())
}

/// New faces that another part cut.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CutFaces {
    /// The number of that part; absent where it is the part the step was done to, taken away from another one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub by: Option<u32>,
    /// The first face number that stands for a face of it. Its face `n` has the number `first + n`.
    pub first: u32,
    /// The number after the last.
    pub end: u32,
    /// How many of them there are.
    pub faces: usize,
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

impl Outcome {
    /// The part afterwards, then the further parts.
    pub fn meshes(&self) -> impl Iterator<Item = &Mesh> {
        std::iter::once(&self.mesh).chain(self.more.iter().map(|made| &made.mesh))
    }

    /// A part with one thing done to it that moved nothing.
    pub fn of(mesh: Mesh, done: String) -> Self {
        Self {
            mesh,
            done: vec![done],
            left: vec![],
            largest_move: 0.0,
            more: vec![],
            plan: vec![],
            cut: vec![],
            notices: vec![],
            threads: vec![],
            tight: vec![],
            seen: None,
        }
    }
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
    /// That of a tool with its parameters.
    pub fn of(tool: impl Tool) -> Self {
        Self(Arc::new(tool))
    }

    /// The tool, if it is this one.
    pub fn tool<T: Tool>(&self) -> Option<&T> {
        self.0.as_any().downcast_ref()
    }

    /// The kind of the tool: `seal.close_gaps`.
    pub fn kind(&self) -> &'static str {
        self.0.kind()
    }

    /// The numbers of the other parts that go into this operation.
    pub fn others(&self) -> Vec<u32> {
        let mut numbers = Vec::new();
        self.0.visited(&mut |number| numbers.push(*number));
        numbers
    }

    /// The numbers of those of them that are gone afterwards.
    pub fn used_up(&self) -> Vec<u32> {
        if self.0.uses_up() { self.others() } else { vec![] }
    }

    /// Whether it can be done where there is no part yet.
    pub fn on_bench(&self) -> bool {
        kinds_called(self.0.kind()).is_some_and(|kind| kind.on_bench())
    }

    /// Whether faces keep their numbers, and new ones get numbers that no face had.
    pub fn keeps_face_numbers(&self) -> bool {
        self.0.keeps_faces()
    }

    /// Whether it mends: what it loses of the surface was not asked for.
    pub fn mends(&self) -> bool {
        self.0.effect() == Effect::Mends
    }

    /// Whether it moves the part as a whole, so that nothing of it is where it was.
    pub fn moves_all(&self) -> bool {
        self.0.effect() == Effect::MovesAll
    }

    /// The same with other numbers for the parts that go into it.
    #[must_use]
    pub fn renumbered(&self, number: &dyn Fn(u32) -> u32) -> Self {
        self.0.visited(&mut |held| *held = number(*held))
    }

    /// The same with every thread it marks cut; none where it marks none.
    pub fn with_threads_cut(&self) -> Option<Self> {
        self.0.cut()
    }

    /// Applies the operation to a part, and to the other parts it names.
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
    /// let cover = Operation::of(CoverRim { style: CoverStyle::Flat, ..Default::default() });
    /// let outcome = cover.apply(&mesh, &[], &Progress::unwatched()).unwrap();
    /// let after = examine(&outcome.mesh, &Progress::unwatched()).unwrap();
    /// assert_eq!(after.figures.state, PartState::Sealed);
    /// ```
    pub fn apply(&self, mesh: &Mesh, others: &[Mesh], progress: &Progress) -> Result<Outcome, TradeError> {
        self.refuse_outside_limits()?;
        let parts: Vec<Extent> = std::iter::once(mesh).chain(others).map(Extent::of).collect();
        refuse_costly(self, &parts, None)?;
        self.0.apply(&Given::part(mesh, progress).with(others))
    }

    /// As [`Operation::apply`] for a part that was examined: what other bodies do to a sealed one is computed near them only, and
    /// a plan need not look at it again.
    ///
    /// # Errors
    /// As [`Operation::apply`].
    pub fn apply_to_seen(
        &self,
        mesh: &Mesh,
        seen: &Examination,
        others: &[Mesh],
        progress: &Progress,
    ) -> Result<Outcome, TradeError> {
        self.refuse_outside_limits()?;
        let parts: Vec<Extent> =
            std::iter::once(Extent::from(&seen.figures)).chain(others.iter().map(Extent::of)).collect();
        refuse_costly(self, &parts, None)?;
        let given = Given { mesh, others, seen: Some(seen), progress };
        let mut outcome = self.0.apply(&given)?;
        if let Some(seen) = &mut outcome.seen {
            prescribe(&mut seen.findings);
        }
        // What is made of a solid, of a profile or of nothing is to be a solid.
        let sound = given.sealed() || mesh.drawn().is_some() || mesh.triangles().is_empty();
        if sound && self.0.effect() == Effect::Changes {
            part_what_touches(&mut outcome, progress)?;
        }
        Ok(outcome)
    }

    /// What it is expected to take, from figures of the part and of the others that go in.
    pub fn cost(&self, parts: &[Extent]) -> Cost {
        self.0.cost(parts)
    }

    /// Refuses figures outside the limits the tool's description sets, by their name.
    ///
    /// # Errors
    /// [`TradeError::Refused`].
    pub fn refuse_outside_limits(&self) -> Result<(), TradeError> {
        let Some(kind) = kinds_called(self.kind()) else { return Ok(()) };
        refuse_outside(&serde_json::to_value(self).unwrap_or_default(), &kind.parameters(), "")
    }

    /// What the operation is called on the screen.
    pub fn title(&self) -> String {
        self.0.title()
    }
}
