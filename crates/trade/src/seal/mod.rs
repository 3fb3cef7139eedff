//! Seal: what makes a part a solid.

mod agree_windings;
pub(crate) mod border;
mod bridge;
mod close_gaps;
mod cover_rim;
mod cover_runs;
mod drop;
mod edge_chains;
mod fill_outline;
mod find_inside;
mod group_faces;
mod join;
mod lift_out;
mod loops;
mod merge_faces;
mod merge_points;
mod new_surface;
mod picks;
mod plan;
mod pull_apart;
mod runs;
mod seam;
mod smooth;
mod thinned;
mod turn;
mod turn_outward;
mod wrap;

pub use agree_windings::AgreeWindings;
pub use bridge::{Bridge, BridgeShape, BridgeSide};
pub use close_gaps::CloseGaps;
pub(crate) use cover_rim::cover_new;
pub use cover_rim::{CoverRim, CoverStyle, RimChoice};
pub use cover_runs::{CoverRuns, RunChoice};
pub use drop::Drop;
pub(crate) use drop::SPECK_SHARE;
pub use fill_outline::{FillOutline, Outline};
pub use find_inside::FindInside;
pub use group_faces::GroupFaces;
pub use join::Join;
pub use lift_out::{LiftChoice, LiftOut, ReSkin};
pub(crate) use lift_out::{edge_bits, naked_places};
pub use merge_faces::{FaceChoice, MergeFaces};
pub use merge_points::{CornerBin, CornerHistogram, MergePoints, corner_histogram};
pub(crate) use new_surface::refuse_clash;
pub use picks::Dab;
pub(crate) use picks::{picked_faces, triangle_under};
pub use plan::{Plan, PlanStage, PlannedStep};
pub use pull_apart::{Pieces, PullApart};
pub use runs::RunPick;
pub use smooth::{Smooth, SmoothChoice};
pub use turn::{Turn, TurnChoice};
pub use turn_outward::TurnOutward;
pub use wrap::{Wrap, WrapForetold, foretell_wrap};

use nimbet_kernel::rims::{Rim, rims};
use nimbet_kernel::{Mesh, Topology};

use crate::examine::{RimFacts, name_rims};
use crate::shape::{Base, Floor};

/// The rims of a mesh with their names, as every remedy sees them.
pub(crate) fn named_rims(mesh: &Mesh) -> (Vec<Rim>, Vec<RimFacts>) {
    name_rims(mesh, rims(&Topology::new(mesh.triangles(), mesh.points().len())))
}

/// The thickness of the wall that sheets get which enclose nothing, mm, for a part of some diagonal.
pub(crate) fn sheet_wall(diagonal: f64) -> f64 {
    const SHARE: f64 = 5e-3;
    one_digit(diagonal * SHARE)
}

/// The base of a sheet of some diagonal.
pub(crate) fn base_below(diagonal: f64) -> Base {
    const SHARE: f64 = 0.02;
    Base { floor: Floor::Below(one_digit(diagonal * SHARE)), up: None }
}

/// The radius of the rods and beads that hold together what only touches, mm, for a part of some diagonal.
pub(crate) fn brace_radius(diagonal: f64) -> f64 {
    const SHARE: f64 = 0.003;
    one_digit(diagonal * SHARE)
}

/// A length above 0 with one digit that is not nought.
fn one_digit(x: f64) -> f64 {
    format!("{x:.0e}").parse().unwrap_or(x)
}
