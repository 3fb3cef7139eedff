//! Weigh: what a part is in figures, and what it weighs in a material.

mod capacity;
mod cut;
mod estimate;
mod faceting;
mod materials;
mod measures;
mod pattern;
mod weighing;

pub use capacity::{Capacity, Fill, FillTo, KnownVessel, Spill, VesselPick};
pub use cut::{Cut, CutContour, CutPlane, cut};
pub use estimate::{VolumeGuess, guess_volume};
pub use faceting::{Faceting, faceting};
pub use materials::{MATERIALS, Material, MaterialGroup, OwnMaterial, material};
pub use measures::{Measure, MeasuredValue, Spot};
pub use pattern::ScalePattern;
pub use weighing::Weighing;
