//! Release: what must be proved before a part leaves the bench.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::examine::{Figures, PartState};
use crate::fasten::ThreadMark;
use crate::words::{count, figure};

/// One line of a check sheet.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Check {
    /// What was asked, in plain words.
    pub claim: String,
    /// Whether it holds.
    pub holds: bool,
    /// The figures behind it.
    pub evidence: String,
}

impl Check {
    fn none(claim: &str, n: usize, one: &str, many: &str) -> Self {
        Self { claim: claim.into(), holds: n == 0, evidence: count(n, one, many) }
    }
}

/// The checks a part must pass to be called a solid.
pub fn checks(f: &Figures) -> Vec<Check> {
    vec![
        Check::none("Closed: no edge is naked", f.naked_edges, "naked edge", "naked edges"),
        Check::none(
            "Every edge has exactly two triangles",
            f.crowded_edges,
            "edge of three or more",
            "edges of three or more",
        ),
        Check::none(
            "All neighbours agree about the outside",
            f.clashing_edges,
            "edge where sides disagree",
            "edges where sides disagree",
        ),
        Check::none("Bodies face outward, voids inward", f.inside_out_shells, "shell inside out", "shells inside out"),
        Check::none(
            "The surface nowhere passes through itself",
            f.crossing_pairs,
            "crossing pair of triangles",
            "crossing pairs of triangles",
        ),
        Check::none("No triangle is there twice", f.duplicates, "duplicate", "duplicates"),
        Check::none("No triangle is without area", f.degenerate, "triangle without area", "triangles without area"),
        Check {
            claim: "It encloses a volume".into(),
            holds: f.volume.is_some_and(|v| v > 0.0),
            evidence: f
                .volume
                .map_or_else(|| f.no_volume.clone().unwrap_or_default(), |v| format!("{} mm³", figure(v))),
        },
    ]
}

/// The check of a part's threads, if it has any: that all are cut. `has` says whether a face is on the part.
pub fn thread_check(threads: &[ThreadMark], has: impl Fn(u32) -> bool) -> Option<Check> {
    let there: Vec<&ThreadMark> = threads.iter().filter(|t| has(t.face)).collect();
    let mut names: Vec<(&str, usize)> = Vec::new();
    for t in &there {
        match names.iter_mut().find(|(name, _)| *name == t.name) {
            Some((_, n)) => *n += 1,
            None => names.push((&t.name, 1)),
        }
    }
    let listed: Vec<String> = names.iter().map(|(name, n)| format!("{n} of {name}")).collect();
    (!there.is_empty()).then(|| Check {
        claim: "Every thread is cut".into(),
        holds: there.iter().all(|t| t.cut),
        evidence: listed.join(", "),
    })
}

/// How much a written file may differ from the part: volume and area as a share.
pub const SAME_SHARE: f64 = 1e-5;

/// What of a file of exact surfaces is what.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct ExactFile {
    /// How many faces there are of each kind, in plain words: "6 planes".
    pub kinds: Vec<String>,
    /// Curved faces that are planes between lines: their number, and how many planes.
    pub faceted: Vec<(u32, usize)>,
    /// How far triangles of the part stand off the exact surfaces at most, mm.
    pub off: f64,
    /// How far the triangles it was read back as stand off them, mm.
    pub chord: f64,
}

/// What must hold of a file of exact surfaces, read back: a solid of as many shells, no farther from the part than its triangles stood
/// off the exact surfaces.
pub fn exact_checks(part: &Figures, again: &Figures, file: &ExactFile) -> Vec<Check> {
    const TOLD: usize = 12;
    let (volume, volume_again) = (part.volume.unwrap_or(0.0), again.volume.unwrap_or(0.0));
    let allowed = (file.off + file.chord) * part.area.max(again.area) + volume.abs() * SAME_SHARE;
    let apart = (volume - volume_again).abs();
    let some: Vec<String> = (file.faceted.iter().take(TOLD)).map(|(face, n)| format!("{face} as {n}")).collect();
    let more = file.faceted.len().saturating_sub(TOLD);
    let faceted = match (some.is_empty(), more) {
        (true, _) => String::new(),
        (_, 0) => format!("; curved faces that are planes: {}", some.join(", ")),
        _ => format!("; curved faces that are planes: {}, and {more} more", some.join(", ")),
    };
    vec![
        Check {
            claim: "Read back, the file is a solid".into(),
            holds: again.state == PartState::Sealed,
            evidence: again.reason.clone(),
        },
        Check {
            claim: "Read back, it has as many shells".into(),
            holds: part.shells == again.shells,
            evidence: count(again.shells, "shell", "shells"),
        },
        Check {
            claim: "Read back, its volume is that of the part".into(),
            holds: apart <= allowed,
            evidence: format!(
                "{} mm³ apart; triangles stood off the exact surfaces by at most {} mm",
                figure(apart),
                figure(file.off)
            ),
        },
        Check {
            claim: "Faces are exact where they can be".into(),
            holds: true,
            evidence: format!("{}{faceted}", file.kinds.join(", ")),
        },
    ]
}

/// Compares a part with what was read back from the file written from it, both in mm.
pub fn read_back_checks(part: &Figures, again: &Figures) -> Vec<Check> {
    let close = |a: f64, b: f64| (a - b).abs() <= SAME_SHARE * a.abs().max(b.abs());
    let (volume, volume_again) = (part.volume.unwrap_or(0.0), again.volume.unwrap_or(0.0));
    vec![
        Check {
            claim: "Read back, the file is a solid".into(),
            holds: again.state == PartState::Sealed && again.degenerate == 0,
            evidence: again.reason.clone(),
        },
        Check {
            claim: "Read back, it has the same triangles".into(),
            holds: part.triangles == again.triangles && part.shells == again.shells,
            evidence: format!(
                "{} in {}",
                count(again.triangles, "triangle", "triangles"),
                count(again.shells, "shell", "shells")
            ),
        },
        Check {
            claim: "Read back, it has the same volume and area".into(),
            holds: close(volume, volume_again) && close(part.area, again.area),
            evidence: format!(
                "volume differs by {:.1e}, area by {:.1e} (allowed {SAME_SHARE:.0e})",
                (volume_again / volume - 1.0).abs(),
                (again.area / part.area - 1.0).abs()
            ),
        },
    ]
}
