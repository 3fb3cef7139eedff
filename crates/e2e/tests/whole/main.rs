//! Everything together: the server and its workers, MariaDB, a browser. In one program, so that tests run beside each other
//! while one of them waits.
#![allow(clippy::unwrap_used, clippy::panic)] // a failed test says so by panicking

mod api;
mod bench;
mod bodies;
mod closing;
mod drawing;
mod edges;
mod edits;
mod fasten;
mod files;
mod front_end;
mod holds;
mod journey;
mod ledger;
mod shaping;
mod unharmed;
mod wall;
mod weigh;

type Done = anyhow::Result<()>;
