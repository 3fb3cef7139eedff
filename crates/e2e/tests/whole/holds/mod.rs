//! Nothing that is sent, typed or cut off stops the bench or spoils a job.

mod asked;
mod heavy;
mod kept;

use std::io::{Read, Write};
use std::time::{Duration, Instant};

use nimbet_e2e::*;
use nimbet_trade::demo;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use sqlx::Row;

const FIRST: &str = include_str!("../../stored/schema-1.sql");
const SIXTH: &str = include_str!("../../stored/schema-6.sql");

/// An OFF file of one block of so many millimetres.
fn block_of(size: f64) -> Vec<u8> {
    let corners = [[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0], [0, 0, 1], [1, 0, 1], [1, 1, 1], [0, 1, 1]];
    let points: String = corners.map(|c| c.map(|x| format!("{:e} ", f64::from(x) * size)).concat() + "\n").concat();
    let faces = "4 0 3 2 1\n4 4 5 6 7\n4 0 1 5 4\n4 1 2 6 5\n4 2 3 7 6\n4 3 0 4 7\n";
    format!("OFF\n8 6 0\n{points}{faces}").into_bytes()
}
