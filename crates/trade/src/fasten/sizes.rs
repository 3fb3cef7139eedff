//! Sizes of threads in the open standards: metric (ISO 261), unified (ASME B1.1), parallel pipe (ISO 228-1), trapezoidal (ISO 2904).

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A family of threads.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Family {
    /// ISO metric: 60 degrees, in mm.
    Metric,
    /// Unified: 60 degrees, in threads to the inch.
    Unified,
    /// Parallel pipe: 55 degrees, rounded.
    Pipe,
    /// Trapezoidal: 30 degrees, to move things.
    Trapezoidal,
}

/// Which pitch of those a diameter has.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum PitchClass {
    /// The usual one.
    Coarse,
    /// Finer ones.
    Fine,
    /// Finer still.
    ExtraFine,
    /// The only one.
    Only,
}

/// A size of thread. Lengths in mm.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
pub struct Size {
    /// Its designation: `M4x0.7`, `1/4-20 UNC`, `G 1/2`, `Tr 20x4`.
    pub name: String,
    /// The family.
    pub family: Family,
    /// Which pitch of the diameter's.
    pub class: PitchClass,
    /// The outer diameter of the external thread.
    pub major: f64,
    /// From ridge to ridge.
    pub pitch: f64,
    /// The diameter at which ridge and groove are equally wide.
    pub pitch_diameter: f64,
    /// The diameter of the bore of the internal thread.
    pub minor: f64,
    /// What to bore for a tap.
    pub tap_drill: f64,
}

/// Coarse pitches of ISO 261, and what ISO 2306 has for a tap drill where that is not the diameter less the pitch.
const METRIC_COARSE: &[(f64, f64, Option<f64>)] = &[
    (1.0, 0.25, None),
    (1.1, 0.25, None),
    (1.2, 0.25, None),
    (1.4, 0.3, None),
    (1.6, 0.35, None),
    (1.8, 0.35, None),
    (2.0, 0.4, None),
    (2.2, 0.45, None),
    (2.5, 0.45, None),
    (3.0, 0.5, None),
    (3.5, 0.6, None),
    (4.0, 0.7, None),
    (4.5, 0.75, Some(3.7)),
    (5.0, 0.8, None),
    (6.0, 1.0, None),
    (7.0, 1.0, None),
    (8.0, 1.25, Some(6.8)),
    (9.0, 1.25, Some(7.8)),
    (10.0, 1.5, None),
    (11.0, 1.5, None),
    (12.0, 1.75, Some(10.2)),
    (14.0, 2.0, None),
    (16.0, 2.0, None),
    (18.0, 2.5, None),
    (20.0, 2.5, None),
    (22.0, 2.5, None),
    (24.0, 3.0, None),
    (27.0, 3.0, None),
    (30.0, 3.5, None),
    (33.0, 3.5, None),
    (36.0, 4.0, None),
    (39.0, 4.0, None),
    (42.0, 4.5, None),
    (45.0, 4.5, None),
    (48.0, 5.0, None),
    (52.0, 5.0, None),
    (56.0, 5.5, None),
    (60.0, 5.5, None),
    (64.0, 6.0, None),
];

/// Fine pitches of ISO 261.
const METRIC_FINE: &[(f64, &[f64])] = &[
    (1.0, &[0.2]),
    (1.1, &[0.2]),
    (1.2, &[0.2]),
    (1.4, &[0.2]),
    (1.6, &[0.2]),
    (1.8, &[0.2]),
    (2.0, &[0.25]),
    (2.2, &[0.25]),
    (2.5, &[0.35]),
    (3.0, &[0.35]),
    (3.5, &[0.35]),
    (4.0, &[0.5]),
    (4.5, &[0.5]),
    (5.0, &[0.5]),
    (5.5, &[0.5]),
    (6.0, &[0.75]),
    (7.0, &[0.75]),
    (8.0, &[1.0, 0.75]),
    (9.0, &[1.0, 0.75]),
    (10.0, &[1.25, 1.0, 0.75]),
    (11.0, &[1.0, 0.75]),
    (12.0, &[1.5, 1.25, 1.0]),
    (14.0, &[1.5, 1.25, 1.0]),
    (15.0, &[1.5, 1.0]),
    (16.0, &[1.5, 1.0]),
    (17.0, &[1.5, 1.0]),
    (18.0, &[2.0, 1.5, 1.0]),
    (20.0, &[2.0, 1.5, 1.0]),
    (22.0, &[2.0, 1.5, 1.0]),
    (24.0, &[2.0, 1.5, 1.0]),
    (25.0, &[2.0, 1.5, 1.0]),
    (26.0, &[1.5]),
    (27.0, &[2.0, 1.5, 1.0]),
    (28.0, &[2.0, 1.5, 1.0]),
    (30.0, &[3.0, 2.0, 1.5, 1.0]),
    (32.0, &[2.0, 1.5]),
    (33.0, &[3.0, 2.0, 1.5]),
    (35.0, &[1.5]),
    (36.0, &[3.0, 2.0, 1.5]),
    (38.0, &[1.5]),
    (39.0, &[3.0, 2.0, 1.5]),
    (40.0, &[3.0, 2.0, 1.5]),
    (42.0, &[4.0, 3.0, 2.0, 1.5]),
    (45.0, &[4.0, 3.0, 2.0, 1.5]),
    (48.0, &[4.0, 3.0, 2.0, 1.5]),
    (50.0, &[3.0, 2.0, 1.5]),
    (52.0, &[4.0, 3.0, 2.0, 1.5]),
    (55.0, &[4.0, 3.0, 2.0, 1.5]),
    (56.0, &[4.0, 3.0, 2.0, 1.5]),
    (58.0, &[4.0, 3.0, 2.0, 1.5]),
    (60.0, &[4.0, 3.0, 2.0, 1.5]),
    (62.0, &[4.0, 3.0, 2.0, 1.5]),
    (64.0, &[4.0, 3.0, 2.0, 1.5]),
];

/// Unified sizes: name, diameter in inches, threads to the inch coarse, fine, extra fine; nought where there is none.
const UNIFIED: &[(&str, f64, [f64; 3])] = &[
    ("#0", 0.060, [0.0, 80.0, 0.0]),
    ("#1", 0.073, [64.0, 72.0, 0.0]),
    ("#2", 0.086, [56.0, 64.0, 0.0]),
    ("#3", 0.099, [48.0, 56.0, 0.0]),
    ("#4", 0.112, [40.0, 48.0, 0.0]),
    ("#5", 0.125, [40.0, 44.0, 0.0]),
    ("#6", 0.138, [32.0, 40.0, 0.0]),
    ("#8", 0.164, [32.0, 36.0, 0.0]),
    ("#10", 0.190, [24.0, 32.0, 0.0]),
    ("#12", 0.216, [24.0, 28.0, 32.0]),
    ("1/4", 0.25, [20.0, 28.0, 32.0]),
    ("5/16", 0.3125, [18.0, 24.0, 32.0]),
    ("3/8", 0.375, [16.0, 24.0, 32.0]),
    ("7/16", 0.4375, [14.0, 20.0, 28.0]),
    ("1/2", 0.5, [13.0, 20.0, 28.0]),
    ("9/16", 0.5625, [12.0, 18.0, 24.0]),
    ("5/8", 0.625, [11.0, 18.0, 24.0]),
    ("11/16", 0.6875, [0.0, 0.0, 24.0]),
    ("3/4", 0.75, [10.0, 16.0, 20.0]),
    ("13/16", 0.8125, [0.0, 0.0, 20.0]),
    ("7/8", 0.875, [9.0, 14.0, 20.0]),
    ("15/16", 0.9375, [0.0, 0.0, 20.0]),
    ("1", 1.0, [8.0, 12.0, 20.0]),
    ("1 1/16", 1.0625, [0.0, 0.0, 18.0]),
    ("1 1/8", 1.125, [7.0, 12.0, 18.0]),
    ("1 3/16", 1.1875, [0.0, 0.0, 18.0]),
    ("1 1/4", 1.25, [7.0, 12.0, 18.0]),
    ("1 5/16", 1.3125, [0.0, 0.0, 18.0]),
    ("1 3/8", 1.375, [6.0, 12.0, 18.0]),
    ("1 7/16", 1.4375, [0.0, 0.0, 18.0]),
    ("1 1/2", 1.5, [6.0, 12.0, 18.0]),
    ("1 9/16", 1.5625, [0.0, 0.0, 18.0]),
    ("1 5/8", 1.625, [0.0, 0.0, 18.0]),
    ("1 11/16", 1.6875, [0.0, 0.0, 18.0]),
    ("1 3/4", 1.75, [5.0, 0.0, 0.0]),
    ("2", 2.0, [4.5, 0.0, 0.0]),
];

/// ISO 228-1: name, threads to the inch, major diameter.
const PIPE: &[(&str, f64, f64)] = &[
    ("1/16", 28.0, 7.723),
    ("1/8", 28.0, 9.728),
    ("1/4", 19.0, 13.157),
    ("3/8", 19.0, 16.662),
    ("1/2", 14.0, 20.955),
    ("5/8", 14.0, 22.911),
    ("3/4", 14.0, 26.441),
    ("7/8", 14.0, 30.201),
    ("1", 11.0, 33.249),
    ("1 1/8", 11.0, 37.897),
    ("1 1/4", 11.0, 41.910),
    ("1 1/2", 11.0, 47.803),
    ("1 3/4", 11.0, 53.746),
    ("2", 11.0, 59.614),
    ("2 1/4", 11.0, 65.710),
    ("2 1/2", 11.0, 75.184),
    ("2 3/4", 11.0, 81.534),
    ("3", 11.0, 87.884),
    ("3 1/2", 11.0, 100.330),
    ("4", 11.0, 113.030),
];

/// ISO 2904: the diameter and its pitches, the usual one first.
const TRAPEZOIDAL: &[(f64, &[f64])] = &[
    (8.0, &[1.5]),
    (9.0, &[2.0, 1.5]),
    (10.0, &[2.0, 1.5]),
    (11.0, &[2.0, 3.0]),
    (12.0, &[3.0, 2.0]),
    (14.0, &[3.0, 2.0]),
    (16.0, &[4.0, 2.0]),
    (18.0, &[4.0, 2.0]),
    (20.0, &[4.0, 2.0]),
    (22.0, &[5.0, 8.0, 3.0]),
    (24.0, &[5.0, 8.0, 3.0]),
    (26.0, &[5.0, 8.0, 3.0]),
    (28.0, &[5.0, 8.0, 3.0]),
    (30.0, &[6.0, 10.0, 3.0]),
    (32.0, &[6.0, 10.0, 3.0]),
    (34.0, &[6.0, 10.0, 3.0]),
    (36.0, &[6.0, 10.0, 3.0]),
    (38.0, &[7.0, 10.0, 3.0]),
    (40.0, &[7.0, 10.0, 3.0]),
    (42.0, &[7.0, 10.0, 3.0]),
    (44.0, &[7.0, 12.0, 3.0]),
    (46.0, &[8.0, 12.0, 3.0]),
    (48.0, &[8.0, 12.0, 3.0]),
    (50.0, &[8.0, 12.0, 3.0]),
    (52.0, &[8.0, 12.0, 3.0]),
    (55.0, &[9.0, 14.0, 3.0]),
    (60.0, &[9.0, 14.0, 3.0]),
];

const INCH: f64 = 25.4;

/// All sizes, family by family, the smallest first.
pub fn sizes() -> Vec<Size> {
    [metric(), unified(), pipe(), trapezoidal()].concat()
}

/// The size with a designation. Spaces do not count, nor capitals; of a bare metric diameter the coarse pitch is meant, as
/// in ISO 965-1.
pub fn size(name: &str) -> Option<Size> {
    let plain = |s: &str| s.replace([' ', '×'], "").to_lowercase().replace('×', "x");
    let wanted = plain(&name.replace('×', "x"));
    let all = sizes();
    let bare = |s: &Size| {
        s.class == PitchClass::Coarse && s.family == Family::Metric && plain(&s.name).split('x').next() == Some(&wanted)
    };
    all.iter().find(|s| plain(&s.name) == wanted).or_else(|| all.iter().find(|s| bare(s))).cloned()
}

/// The sizes a plain bore of a measured diameter may be meant for: its own tap drill or minor diameter is that near, mm.
pub fn sizes_for_bore(diameter: f64, within: f64) -> Vec<Size> {
    near(|s| (s.tap_drill - diameter).abs().min((s.minor - diameter).abs()), within)
}

/// The sizes a plain pin of a measured diameter may be meant for.
pub fn sizes_for_pin(diameter: f64, within: f64) -> Vec<Size> {
    near(|s| (s.major - diameter).abs(), within)
}

fn near(off: impl Fn(&Size) -> f64, within: f64) -> Vec<Size> {
    let mut found: Vec<Size> = sizes().into_iter().filter(|s| off(s) <= within).collect();
    found.sort_by(|a, b| off(a).total_cmp(&off(b)));
    found
}

fn metric() -> Vec<Size> {
    let mut all: Vec<Size> = METRIC_COARSE
        .iter()
        .map(|&(d, p, drill)| of_60(metric_name(d, p), Family::Metric, PitchClass::Coarse, d, p, drill))
        .collect();
    let fine = METRIC_FINE.iter().flat_map(|&(d, pitches)| pitches.iter().map(move |&p| (d, p)));
    all.extend(fine.map(|(d, p)| of_60(metric_name(d, p), Family::Metric, PitchClass::Fine, d, p, None)));
    all.sort_by(|a, b| a.major.total_cmp(&b.major).then(b.pitch.total_cmp(&a.pitch)));
    all
}

fn metric_name(d: f64, p: f64) -> String {
    format!("M{d}x{p}")
}

fn unified() -> Vec<Size> {
    let classes = [("UNC", PitchClass::Coarse), ("UNF", PitchClass::Fine), ("UNEF", PitchClass::ExtraFine)];
    let rows = UNIFIED.iter().flat_map(|&(name, d, each)| {
        each.into_iter().zip(classes).filter(|(n, _)| *n > 0.0).map(move |(n, (word, class))| (name, d, n, word, class))
    });
    rows.map(|(name, d, n, word, class)| {
        of_60(format!("{name}-{n} {word}"), Family::Unified, class, d * INCH, INCH / n, None)
    })
    .collect()
}

/// ISO 68-1: a triangle of 60 degrees, an eighth cut off outside and a quarter inside.
fn of_60(name: String, family: Family, class: PitchClass, major: f64, pitch: f64, drill: Option<f64>) -> Size {
    let height = 3f64.sqrt() / 2.0 * pitch;
    Size {
        name,
        family,
        class,
        major,
        pitch,
        pitch_diameter: major - 0.75 * height,
        minor: major - 1.25 * height,
        tap_drill: drill.unwrap_or_else(|| ((major - pitch) * 20.0).round() / 20.0),
    }
}

fn pipe() -> Vec<Size> {
    let rows = PIPE.iter().map(|&(name, n, major)| {
        let pitch = INCH / n;
        let depth = 0.640_327 * pitch;
        Size {
            name: format!("G {name}"),
            family: Family::Pipe,
            class: PitchClass::Only,
            major,
            pitch,
            pitch_diameter: major - depth,
            minor: major - 2.0 * depth,
            tap_drill: major - 2.0 * depth,
        }
    });
    rows.collect()
}

fn trapezoidal() -> Vec<Size> {
    let rows = TRAPEZOIDAL.iter().flat_map(|&(d, pitches)| {
        pitches.iter().enumerate().map(move |(n, &pitch)| {
            let usual = pitches.first().copied().unwrap_or(pitch);
            Size {
                name: format!("Tr {d}x{pitch}"),
                family: Family::Trapezoidal,
                class: match n {
                    0 if pitches.len() == 1 => PitchClass::Only,
                    _ if pitch > usual || n == 0 => PitchClass::Coarse,
                    _ => PitchClass::Fine,
                },
                major: d,
                pitch,
                pitch_diameter: d - 0.5 * pitch,
                minor: d - pitch,
                tap_drill: d - pitch,
            }
        })
    });
    rows.collect()
}
