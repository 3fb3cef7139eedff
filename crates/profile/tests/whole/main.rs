//! Tests of outlines, in one program so that they run beside each other.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)] // a failed test says so by panicking

mod anything;
mod bodies;
mod changes;
mod hand;
mod letters;
mod lines;
mod regions;
mod rules;
mod space;
