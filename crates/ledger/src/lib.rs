//! The ledger of a job: typed steps, what each did, and the state they lead to. Recipes and releases are made of the same.
//!
//! Pure: no clock, no storage. The same step on the same input gives the same bytes, so results can be kept by
//! [`cache_key`].

mod action;
mod bill;
pub mod bounds;
mod bring_in;
mod edit;
mod hash;
mod history;
mod losses;
mod perform;
mod recipe;
mod release;
mod replay;
mod setup;
mod threads;
mod together;

pub use action::{Action, BringIn, Delete, Keep, Label, MOST_BODIES, PickedBody, SetMaterial, UnitChoice, Work};
pub use bill::{BillLine, bill_csv};
pub use bring_in::{Bodies, BringInError, BroughtIn, OfferedBody, ReadAs, ReadPart, bring_in, draw_in};
pub use edit::{Edit, EditError, NewWork};
pub use hash::{Hash, Hasher, cache_key, examination_key, mesh_hash};
pub use history::{CutBy, History, MadePart, Part, PartId, Step, StepReport, StepState, SurfaceChange};
pub use losses::{Loss, Losses};
pub use perform::{Performed, StepError, perform};
pub use recipe::{Following, NoRecipe, Recipe, RecipeError, RecipeRun, RecipeStep, run_recipe};
pub use release::{
    CheckSheet, PART_COLOUR, PartProof, PartThen, ReleaseAs, ReleaseError, Released, SinglePrecision, colour_of,
    release,
};
pub use replay::{Due, Replay};
pub use setup::{NamedMeasure, NamedSection, Setup};
pub use threads::PartThread;
pub use together::{MOST_TOGETHER, PartToRelease, release_together};
