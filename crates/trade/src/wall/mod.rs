//! Wall: thickness given to sheets and solids, and knowing where it is thin.

mod coat;
mod corners;
mod faces;
mod grow;
mod hollow;
mod making;
mod offset_sheet;
mod processes;
mod shell;
mod thicken;
mod wall_map;

pub use coat::Coat;
pub use corners::{CornerFault, CornerRun, corner_runs};
pub use grow::Grow;
pub use hollow::{Drain, Hollow};
pub use making::{CornerStyle, Notice, RimStyle};
pub use offset_sheet::OffsetSheet;
pub use processes::{PROCESSES, Process, process};
pub use shell::{FaceWall, Shell};
pub use thicken::Thicken;
pub use wall_map::{ThinArea, WallBar, WallReport, clearance_between, wall_report, with_least_wall};
