//! Tests of the rules of the job, in one program so that they run beside each other.
#![allow(clippy::unwrap_used, clippy::panic, dead_code)] // a failed test says so by panicking; some parts are shared with other tests

mod board;
mod bodies;
mod carry;
mod chambers_and_cuts;
mod classes;
mod dice;
mod face_picks;
mod fasten;
mod finding;
mod flush;
mod folded;
mod gallery;
mod however_it_lies;
mod lies;
mod pieces_and_surfaces;
mod rims_and_outlines;
mod seal;
mod shape;
mod unharmed;
mod wall;
mod weigh;
mod wires;
