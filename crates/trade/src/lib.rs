//! The rules of the job: what is wrong with a part, what each remedy does, what a part weighs, when it may be released.
//!
//! One folder for each station, over `nimbet-kernel`. Every operation is an [`Operation`] applied to a mesh; it gives an
//! [`Outcome`] or fails whole with a [`TradeError`] that names cause and place.

pub mod budget;
pub mod demo;
mod edge_chains;
pub mod examine;
pub mod fasten;
pub mod harm;
mod instead;
mod limits;
mod made;
mod operation;
pub mod parameter;
mod picks;
mod plan;
pub mod release;
mod remedies;
pub mod seal;
pub mod shape;
mod solids;
pub mod tool;
mod tools;
pub mod wall;
pub mod weigh;
pub mod wire;
pub mod words;

pub use examine::{Examination, Figures, PartState};
pub use instead::{Instead, instead};
pub use made::{Called, Made};
pub use operation::{CutFaces, Operation, Outcome, TradeError};
pub use plan::{Plan, PlanStage, PlannedStep};
pub use remedies::{examine, look, wall_findings};
pub use tools::{add, kinds};
