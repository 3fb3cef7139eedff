//! Tests of the ledger, in one program so that they run beside each other.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)] // a failed test says so by panicking

mod edits;
mod ledger;
mod stored;
