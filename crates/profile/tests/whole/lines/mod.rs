//! Random lines, and the network of lines.

use std::f64::consts::PI;

use nimbet_kernel::Progress;
use nimbet_profile::{Drawing, Network};
use proptest::prelude::*;
use serde_json::{Value, json};

/// The network of lines, named by their number.
pub fn network(lines: &[Value]) -> Network {
    let named = |(n, draw): (usize, &Value)| json!({ "name": format!("l{n}"), "draw": draw });
    let lines: Vec<Value> = lines.iter().enumerate().map(named).collect();
    let drawing: Drawing = serde_json::from_value(json!({ "lines": lines })).unwrap();
    Network::new(drawing.curves().unwrap(), &Progress::unwatched()).unwrap()
}

/// Closed lines of all sorts, and open ones, within a hundred millimetres.
pub fn any_line() -> impl Strategy<Value = Value> {
    let at = || (0.0..100.0_f64, 0.0..100.0_f64).prop_map(|(x, y)| json!([x, y]));
    let size = || (2.0..40.0_f64, 2.0..40.0_f64);
    prop_oneof![
        (at(), size()).prop_map(|(at, s)| json!({ "circle": { "centre": at, "diameter": s.0 } })),
        (at(), size(), 0.0..360.0_f64)
            .prop_map(|(at, s, t)| json!({ "ellipse": { "centre": at, "size": [s.0, s.1], "turned": t } })),
        (at(), size(), 0.0..0.49_f64, 0.0..90.0_f64).prop_map(|(at, s, r, t)| {
            json!({ "frame": { "centre": at, "size": [s.0, s.1], "radius": r * s.0.min(s.1), "turned": t } })
        }),
        (at(), size(), 3..9_u32)
            .prop_map(|(at, s, n)| json!({ "polygon": { "centre": at, "diameter": s.0, "sides": n } })),
        (at(), at(), size()).prop_map(|(a, b, s)| json!({ "slot": { "from": a, "to": b, "width": s.0 * 0.3 } })),
        (at(), proptest::collection::vec(4.0..20.0_f64, 4..9)).prop_map(|(at, radii)| {
            // A star of points round a place: smooth, and it does not cross itself.
            let c = [at[0].as_f64().unwrap(), at[1].as_f64().unwrap()];
            let n = radii.len() as f64;
            let point = |(k, r): (usize, &f64)| {
                let (y, x) = (k as f64 / n * 2.0 * PI).sin_cos();
                [c[0] + x * (12.0 + r * 0.2), c[1] + y * (12.0 + r * 0.2)]
            };
            json!({ "curve": { "points": radii.iter().enumerate().map(point).collect::<Vec<_>>(), "closed": true } })
        }),
        (at(), at()).prop_map(|(a, b)| json!({ "line": { "from": a, "to": b } })),
        (at(), 0.5..4.0_f64).prop_map(|(at, p)| {
            json!({ "spiral": { "centre": at, "radius": 1.0, "grows": { "pitch": p }, "turns": 2.3 } })
        }),
    ]
}
