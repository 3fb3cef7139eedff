//! What the tests from outside need: a server on a database of its own, a client of its API, a browser.
//!
//! Tests run under `scripts/with-mariadb` (as `./test` does), which gives `NIMBET_DATABASE_URL`.

mod browser;
mod client;
mod database;
mod files;
mod server;

pub use browser::Browser;
pub use client::Client;
pub use database::OwnDatabase;
pub use files::{big_ball, hills, noisy_ball, ply_of, read_back, stl_of, winged_block};
pub use server::{Server, fill_database, fresh_database, killed_after, refusal_of, run_on};
