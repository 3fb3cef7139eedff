//! Shape: bodies added, taken away, cut, placed and made.

mod base;
mod board;
mod bodies;
mod brace;
mod carry;
mod chambers;
mod combine;
mod from_profile;
mod hull;
mod mirror;
mod place;
mod profile;
mod repeat;
mod saw;
mod sheets;
mod untangle;

pub use base::{Base, Floor};
pub use board::{BoardRequest, BoardView};
pub use bodies::{AddBody, BodyShape};
pub use brace::Brace;
pub(crate) use brace::{Held, held_together, told_held};
pub use carry::{Carried, Carries, carry};
pub use chambers::Chambers;
pub use combine::{Difference, Intersection, Union};
pub use from_profile::{Becomes, Extrude, FlatLine, Revolve, Until};
pub use hull::Hull;
pub use mirror::Mirror;
pub use nimbet_profile::drawing::{Line, Shape};
pub use place::{Axis, Measured, Place, Rotation};
pub use profile::{DrawProfile, Profile, RegionPick};
pub use repeat::{Copies, Repeat};
pub use saw::{Cutter, Keep, Pegs, Saw};
pub use sheets::{Plane, SweptLine};
pub use untangle::Untangle;
