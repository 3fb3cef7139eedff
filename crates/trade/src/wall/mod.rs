//! Wall: thickness given to sheets and solids, and knowing where it is thin.

mod clearance;
mod coat;
mod corners;
mod even;
mod faces;
mod findings;
mod grow;
mod hollow;
mod making;
mod offset_sheet;
mod processes;
mod shelf;
mod shell;
mod thicken;
mod thin;
mod wall_map;

pub use clearance::{PairReport, clearance_drawing, pair_report};
pub use coat::Coat;
pub use even::Even;
pub(crate) use findings::wall_findings;
pub use findings::{Thinnest, WallFinding};
pub use grow::Grow;
pub use hollow::{Drain, Hollow};
pub use making::{CornerStyle, Notice, RimStyle};
pub use offset_sheet::OffsetSheet;
pub use processes::{By, Making, PROCESSES, Process, process};
pub use shell::{FaceWall, Shell};
pub use thicken::Thicken;
pub use thin::{ThinPlace, thin_before};
pub use wall_map::{WallBar, WallReport, wall_drawing, wall_report, with_least_wall};
