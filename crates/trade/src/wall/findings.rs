//! What is wrong with the walls and corners of a solid for the way it is to be made.

use std::ops::ControlFlow;

use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::segments::hit;
use nimbet_kernel::thickness::Side;
use nimbet_kernel::{Mesh, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::corners::corner_runs;
use super::even::uneven_roundings;
use super::processes::{By, Process};
use super::thin::{ThinArea, ThinPlace, thin_areas};
use crate::examine::{About, Examination, Finding, FindingKind, PartState, Place, Remedy, Severity};
use crate::words::{Xyz, figure, millimetres};
use crate::{Operation, TradeError};

/// A finding of the Wall station.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct WallFinding {
    /// What it is.
    #[serde(flatten)]
    pub finding: Finding,
    /// Of something thin: where it is thinnest, and what it should be at least.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub thinnest: Option<Thinnest>,
}

/// Where something is thinnest.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Thinnest {
    /// Where, mm.
    pub at: [f64; 3],
    /// How thin, mm.
    pub least: f64,
    /// What it should be at least, mm.
    pub below: f64,
    /// Whether it is a gap rather than material.
    pub gap: bool,
}

impl Thinnest {
    /// As a place to be looked for in what the part was before.
    pub fn place(&self) -> ThinPlace {
        ThinPlace { at: self.at, side: if self.gap { Side::Outside } else { Side::Inside }, below: self.below }
    }
}

/// What is wrong with the walls and corners of a sealed part, made by a process; nothing of one that is not sealed.
///
/// # Errors
/// [`TradeError::Cancelled`].
pub fn wall_findings(
    mesh: &Mesh,
    seen: &Examination,
    asks: &Process,
    progress: &Progress,
) -> Result<Vec<WallFinding>, TradeError> {
    if seen.figures.state != PartState::Sealed {
        return Ok(vec![]);
    }
    let mut all = Vec::new();
    let areas = thin_areas(mesh, (asks.wall, asks.pin, asks.slot), &progress.stage(0.0, 0.6))?;
    all.extend(areas.iter().enumerate().map(|(n, area)| thin(area, n + 1, asks)));
    all.extend(undrained(mesh, seen, asks).map(plain));
    for (n, run) in corner_runs(mesh, asks, &progress.stage(0.6, 0.75))?.into_iter().enumerate() {
        all.push(plain(corner(run, n + 1, asks)));
    }
    for (n, uneven) in uneven_roundings(mesh, &progress.stage(0.75, 1.0))?.into_iter().enumerate() {
        let n = n + 1;
        let remedies = uneven.remedies.into_iter();
        all.push(plain(Finding {
            key: format!("rounding-U{n}"),
            kind: FindingKind::UnevenRounding,
            severity: if asks.by == By::Casting { Severity::Warns } else { Severity::Notes },
            title: format!("Uneven rounding U{n}"),
            size: format!(
                "{} to {} instead of {}; {}",
                figure(uneven.least),
                millimetres(uneven.most),
                millimetres(uneven.wall),
                uneven.text
            ),
            cause:
                "The roundings inside and outside have not one centre, so the wall is thicker or thinner along them \
                    than beside them. It is even where the inner radius is the outer less the wall."
                    .into(),
            if_left: match asks.by {
                By::Casting => "Thick places freeze last and draw a hollow; thin ones freeze before they fill.".into(),
                By::Bead | By::Layers => "It prints. Thick places may sink or warp, thin ones are weak.".into(),
            },
            place: uneven.place,
            about: About::Nothing,
            remedies: remedies.map(|(label, even)| Remedy { label, operation: Operation::of(even) }).collect(),
        }));
    }
    all.sort_by_key(|f| (f.finding.severity, f.finding.kind));
    Ok(all)
}

fn plain(finding: Finding) -> WallFinding {
    WallFinding { finding, thinnest: None }
}

fn thin(area: &ThinArea, n: usize, asks: &Process) -> WallFinding {
    let cast = asks.by == By::Casting;
    let (what, letter, below, cause, if_left) = match area.kind {
        FindingKind::ThinPin => (
            "Thin pin",
            "N",
            asks.pin,
            "What stands or bridges here is thinner both ways than this way of making can hold.",
            if cast {
                "It breaks off the pattern, or metal freezes before it fills."
            } else {
                "It breaks or prints as threads."
            },
        ),
        FindingKind::NarrowSlot => (
            "Narrow slot",
            "S",
            asks.slot,
            "Two surfaces face each other across a gap narrower than this way of making leaves open.",
            if cast {
                "The mould has a wall there that breaks, and the slot fills."
            } else {
                "The slot closes: its sides grow together."
            },
        ),
        _ => (
            "Thin wall",
            "W",
            asks.wall,
            "The two sides come nearer to each other than this way of making can fill.",
            if cast {
                "Metal freezes before it fills: the casting has a hole there."
            } else {
                "It is left out, or breaks when the part is cleaned."
            },
        ),
    };
    let gap = area.kind == FindingKind::NarrowSlot;
    let by = (below - area.least) * 0.5;
    // A whole part grown closes slots, and shrunk thins walls: only for walls it is offered.
    let about = match area.kind {
        FindingKind::ThinWall if by > 0.0 => About::ThinWall { by: (by * 100.0).ceil() / 100.0 },
        _ => About::Nothing,
    };
    let finding = Finding {
        key: format!("{}-{letter}{n}", what.to_lowercase().replace(' ', "-")),
        kind: area.kind,
        severity: Severity::Warns,
        title: format!("{what} {letter}{n}"),
        size: format!("{} instead of {}, on {} mm²", millimetres(area.least), millimetres(below), figure(area.area)),
        cause: cause.into(),
        if_left: if_left.into(),
        place: area.place.clone(),
        about,
        remedies: vec![],
    };
    WallFinding { finding, thinnest: Some(Thinnest { at: area.at, least: area.least, below, gap }) }
}

/// Voids that keep what must get out.
fn undrained<'a>(mesh: &'a Mesh, seen: &'a Examination, asks: &'a Process) -> impl Iterator<Item = Finding> + 'a {
    let voids = seen.findings.iter().filter(|f| f.kind == FindingKind::Void && asks.drain > 0.0);
    voids.enumerate().map(|(n, void)| Finding {
        key: format!("undrained-{}", n + 1),
        kind: FindingKind::Undrained,
        severity: Severity::Warns,
        title: "Void without a drain".into(),
        size: format!("{}; it needs a hole of {} at least", void.size, millimetres(asks.drain)),
        cause: "The void is closed all round.".into(),
        if_left: match asks.by {
            By::Casting => "No core can be held in it, and none be shaken out.".into(),
            By::Bead | By::Layers => {
                "What it was made of stays in it: resin that leaks later, powder that rattles.".into()
            }
        },
        place: void.place.clone(),
        about: match below(mesh, &void.place) {
            Some(at) => About::Undrained { at, drain: asks.drain },
            None => About::Nothing,
        },
        remedies: vec![],
    })
}

/// Where a bore from below comes out of a void, where its middle lies in it and there is but one wall under that.
fn below(mesh: &Mesh, void: &Place) -> Option<Xyz> {
    let bvh = triangle_bvh(mesh);
    let from = Point::from_array(void.centre);
    let to = Point::new(from.x, from.y, bvh.bounds().min.z - 1.0);
    let mut walls: Vec<(f64, bool)> = Vec::new();
    let _ = bvh.along_segment(from, to, |t| {
        let corners = mesh.corners(t as usize);
        let down = mesh.area_vector(t as usize).z < 0.0;
        walls.extend(hit(from, to, corners).map(|share| (share, down)));
        ControlFlow::Continue(())
    });
    // A ray along an edge meets both its triangles in the same place.
    walls.sort_by(|a, b| a.0.total_cmp(&b.0));
    walls.dedup_by(|a, b| (a.0 - b.0).abs() < 1e-9);
    let [(_, false), (out, true)] = walls[..] else { return None };
    Some(from.lerp(to, out).to_array())
}

fn corner(run: super::corners::CornerRun, n: usize, asks: &Process) -> Finding {
    let cast = asks.by == By::Casting;
    let (title, size, cause, if_left) = match run.kind {
        FindingKind::Feather => (
            format!("Feather edge F{n}"),
            format!("{} long", millimetres(run.length)),
            "Two surfaces run into each other at less than 35°, to an edge of no thickness.",
            "Metal does not run into it: the edge comes out ragged.",
        ),
        FindingKind::UprightCorner => (
            format!("Upright outer corner K{n}"),
            format!("{} high", millimetres(run.length)),
            "A sharp outer corner stands upright: the nozzle stops and turns there in every layer.",
            "The corner swells a little. A radius of about the wall lets the nozzle run through.",
        ),
        _ => (
            format!("Inner corner I{n}"),
            if run.radius > 0.0 {
                format!("radius {} instead of {}", millimetres(run.radius), millimetres(asks.corner))
            } else {
                format!("sharp instead of {}, {} long", millimetres(asks.corner), millimetres(run.length))
            },
            "Two surfaces meet in an inner corner that is sharper than this way of making wants.",
            if cast {
                "The mould stands out there as an edge, and crumbles into the casting."
            } else {
                "A crack begins there when the part is bent."
            },
        ),
    };
    let at = run.at.iter().map(|p| p.to_array()).collect();
    let about = match run.kind {
        FindingKind::InnerCorner if run.radius > 0.0 => About::TightRounding { at, radius: asks.corner },
        FindingKind::InnerCorner if run.within_face => About::CornerInFace,
        FindingKind::InnerCorner => About::SharpCorner { at, radius: asks.corner },
        _ => About::Nothing,
    };
    let warns = cast && run.kind != FindingKind::UprightCorner;
    Finding {
        key: format!("corner-{n}"),
        kind: run.kind,
        severity: if warns { Severity::Warns } else { Severity::Notes },
        title,
        size,
        cause: cause.into(),
        if_left: if_left.into(),
        place: run.place,
        about,
        remedies: vec![],
    }
}
