//! Covering closed outlines with triangles: flat ones in their plane, others by least area.

mod band;
mod domed;
mod flat;
mod patch;
mod relax;
mod taut;

pub use band::{Band, facing_pairs, straight_band, tangent_band};
pub use domed::dome;
pub use flat::{FlatError, PlaneFrame, triangulate_flat};
pub use patch::Patch;
pub use taut::{least_area, taut_cover};
