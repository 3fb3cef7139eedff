//! Tests of bodies on exact surfaces, in one program so that they run beside each other.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)] // a failed test says so by panicking

mod brep;
mod written;
