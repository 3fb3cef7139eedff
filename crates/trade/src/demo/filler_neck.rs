//! The neck of a water filler and its cap: the bore and the pin for a left-hand thread.

use nimbet_kernel::Mesh;

use super::{grouped, revolve, welded};

/// The diameter of the bore of the neck: that of the internal thread M36x3, mm.
pub const NECK_BORE: f64 = 32.752;
/// The diameter of the pin of the cap, mm.
pub const CAP_PIN: f64 = 36.0;

/// A neck on a flange of 76 mm, 34 mm high, bored through: a solid.
pub fn filler_neck() -> Mesh {
    let r = NECK_BORE * 0.5;
    turned(&[(r, 0.0), (38.0, 0.0), (38.0, 5.0), (24.0, 5.0), (22.5, 34.0), (r, 34.0), (r, 0.0)])
}

/// Its cap: a pin 14 mm long below a head of 50 mm, hollow inside: a solid.
pub fn filler_cap() -> Mesh {
    let r = CAP_PIN * 0.5;
    turned(&[
        (0.0, 10.0),
        (12.0, 10.0),
        (12.0, 0.0),
        (r, 0.0),
        (r, 14.0),
        (25.0, 14.0),
        (25.0, 20.0),
        (23.0, 22.0),
        (0.0, 22.0),
    ])
}

fn turned(profile: &[(f64, f64)]) -> Mesh {
    let mut soup = Vec::new();
    revolve(&mut soup, profile, 96);
    grouped(welded(&soup))
}
