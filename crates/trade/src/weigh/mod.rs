//! Weigh: what a part is in figures, and what it weighs in a material.

mod materials;
mod weighing;

pub use materials::{MATERIALS, Material, MaterialGroup, material};
pub use weighing::Weighing;
