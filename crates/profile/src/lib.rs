//! Profiles: outlines in a plane, kept as the curves they are.
//!
//! A [`Drawing`] is what people write: lines with names. [`Drawing::curves`] makes [`Curve`]s of it, chains of [`Span`]s; a
//! [`Network`] cuts those up where they meet and finds ends, chains and [`Region`]s. Nothing is flattened before a body is made
//! ([`bodies`]), then by a chord. Lengths are millimetres, angles in drawings degrees, inside radians.
//!
//! Nothing here knows rules of the job, files or the screen.

pub mod bodies;
pub mod catch;
pub mod change;
pub mod drawing;
pub mod fit;
pub mod hand;
mod handles;
mod letters;
pub mod look;
mod meet;
mod network;
pub mod path;
mod region;
pub mod rules;
pub mod space;
mod span;
pub mod text;
mod through;

pub use change::shapes_of;
pub use drawing::{Curve, Drawing, DrawingError};
pub use handles::Handle;
pub use network::{Network, NetworkError, Piece, fineness};
pub use region::Region;
pub use span::{Form, Span, round as stretch_of};
pub use through::smooth_through;

/// A place in the plane of a profile, mm.
pub type Flat = glam::DVec2;
