//! Edges and faces of bodies: rounded, chamfered, taken off.
#![allow(clippy::unwrap_used, clippy::panic)] // a failed test says so by panicking

mod bends;
mod beyond;
mod corners;
mod making;
mod random;
mod rounding;
mod taking_off;
mod tangent;
mod whole_faces;
