//! Seal: what makes a part a solid.

mod agree_windings;
mod bridge;
mod close_gaps;
mod cover_rim;
mod cover_runs;
mod drop;
mod fill_outline;
mod find_inside;
mod group_faces;
mod join;
mod lift_out;
mod loops;
mod merge_faces;
mod merge_points;
mod new_surface;
mod pull_apart;
mod runs;
mod seam;
mod smooth;
mod thinned;
mod turn;
mod turn_outward;
mod wrap;

pub use crate::picks::Dab;
pub use agree_windings::AgreeWindings;
pub use bridge::{Bridge, BridgeShape, BridgeSide};
pub use close_gaps::CloseGaps;
pub(crate) use cover_rim::cover_new;
pub use cover_rim::{CoverRim, CoverStyle, RimChoice};
pub use cover_runs::{CoverRuns, RunChoice};
pub use drop::Drop;
pub use fill_outline::{FillOutline, Outline};
pub use find_inside::FindInside;
pub use group_faces::GroupFaces;
pub use join::Join;
pub use lift_out::{LiftChoice, LiftOut, ReSkin};
pub(crate) use lift_out::{edge_bits, naked_places};
pub use merge_faces::{FaceChoice, MergeFaces};
pub use merge_points::MergePoints;
pub(crate) use new_surface::refuse_clash;
pub use pull_apart::{Pieces, PullApart};
pub use runs::RunPick;
pub use smooth::{Smooth, SmoothChoice};
pub use turn::{Turn, TurnChoice};
pub use turn_outward::TurnOutward;
pub use wrap::Wrap;

use nimbet_kernel::rims::{Rim, rims};
use nimbet_kernel::{Mesh, Topology};

use crate::examine::{RimFacts, name_rims};

/// The rims of a mesh with their names, as every remedy sees them.
pub(crate) fn named_rims(mesh: &Mesh) -> (Vec<Rim>, Vec<RimFacts>) {
    name_rims(mesh, rims(&Topology::new(mesh.triangles(), mesh.points().len())))
}
