//! Shape: bodies added, taken away, cut, placed and made.

mod bodies;
mod combine;
mod mirror;
mod place;
mod repeat;
mod saw;
mod solids;
mod untangle;

pub use bodies::{AddBody, BodyShape};
pub use combine::{Difference, Intersection, Union};
pub use mirror::Mirror;
pub use place::{Axis, Place, Rotation};
pub use repeat::{Copies, Repeat};
pub use saw::{Keep, Pegs, Saw};
pub use untangle::Untangle;
