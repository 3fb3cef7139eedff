//! Seal: what makes a part a solid.

mod agree_windings;
pub(crate) mod border;
mod bridge;
mod close_gaps;
mod cover_rim;
mod drop;
mod lift_out;
mod plan;
mod seam;
mod turn_outward;

pub use agree_windings::AgreeWindings;
pub use bridge::Bridge;
pub use close_gaps::CloseGaps;
pub use cover_rim::{CoverRim, CoverStyle, RimChoice};
pub use drop::Drop;
pub(crate) use drop::SPECK_SHARE;
pub use lift_out::{Dab, LiftChoice, LiftOut, ReSkin};
pub use plan::Plan;
pub use turn_outward::TurnOutward;

use nimbet_kernel::rims::{Rim, rims};
use nimbet_kernel::{Mesh, Topology};

use crate::examine::{RimFacts, name_rims};

/// The rims of a mesh with their names, as every remedy sees them.
pub(crate) fn named_rims(mesh: &Mesh) -> (Vec<Rim>, Vec<RimFacts>) {
    name_rims(mesh, rims(&Topology::new(mesh.triangles(), mesh.points().len())))
}
