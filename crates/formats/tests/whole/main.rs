//! Tests of readers and writers, in one program so that they run beside each other.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)] // a failed test says so by panicking

mod bad_files;
mod bodies;
mod outlines;
mod round_trips;
mod shown;
