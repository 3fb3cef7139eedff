//! What a body is led through, before it is made: sections where they will lie, the path between them, and what can be dragged there.

use nimbet_kernel::{Mesh, Progress};
use nimbet_profile::Flat;
use nimbet_profile::bodies::{Flattened, Placed, Ring};
use nimbet_profile::path::Station;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::loft::Loft;
use super::sweep::{Sweep, Tube};
use crate::tool::Given;
use crate::words::{Xyz, xyz};
use crate::{Operation, TradeError};

/// Sections and a path as a step means them.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Course {
    /// Outlines of sections, where they will lie: of a loft all of them, of a sweep some at even distances with the first and the last.
    pub sections: Vec<CourseSection>,
    /// The path, mm; empty where there is none.
    pub path: Vec<Xyz>,
    /// The end of the path, where what is moved along it may be turned and made larger.
    pub end: Option<CourseEnd>,
}

/// One outline of a section.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct CourseSection {
    /// Its points, mm, thinned out where there are many; a closed one does not repeat its first.
    pub line: Vec<Xyz>,
    /// Whether it is closed.
    pub closed: bool,
    /// Where it begins, mm: beginnings are joined to each other. Only of a loft's closed outlines.
    pub begins: Option<Xyz>,
}

/// The frame of a section at the end of its path.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct CourseEnd {
    /// Where its zero lies, mm.
    pub at: Xyz,
    /// The direction of the path there, of length 1.
    pub along: Xyz,
    /// Where the section's x goes, of length 1, as it is turned there.
    pub across: Xyz,
    /// How far the section reaches at the size it is drawn in, mm.
    pub reach: f64,
}

/// Sections of a sweep are told at so many places at most.
const SECTIONS: usize = 13;
/// Points of all outlines together; those of longer ones are thinned out.
const POINTS: usize = 20_000;
/// Points of a path that is told.
const PATH_POINTS: usize = 2_000;

/// Every so manieth of a line, so that no more than so many are left; the first and the last among them.
fn thinned<T: Copy>(all: &[T], most: usize) -> Vec<T> {
    let n = all.len();
    if n <= most.max(2) {
        return all.to_vec();
    }
    (0..most).map(|k| all[k * (n - 1) / (most - 1)]).collect()
}

/// Of places so many at even distances, the first and the last among them.
fn evenly(places: &[Placed], most: usize) -> Vec<Placed> {
    let mut far = vec![0.0];
    for w in places.windows(2) {
        far.push(far[far.len() - 1] + w[0].at.distance(w[1].at));
    }
    let whole = far[far.len() - 1];
    let at = |k: usize| far.partition_point(|f| *f < whole * k as f64 / (most - 1) as f64).min(places.len() - 1);
    let mut shown: Vec<usize> = (0..most).map(at).chain([places.len() - 1]).collect();
    shown.dedup();
    shown.into_iter().map(|k| places[k]).collect()
}

impl Course {
    /// Of a loft through rings.
    pub(super) fn of_rings(rings: &[Ring], closed: bool) -> Self {
        let most = (POINTS / rings.len().max(1)).max(4);
        let section = |ring: &Ring| CourseSection {
            line: thinned(&ring.points, most).into_iter().map(|p| xyz(p.0)).collect(),
            closed,
            begins: closed.then(|| xyz(ring.points[0].0)),
        };
        Self { sections: rings.iter().map(section).collect(), path: vec![], end: None }
    }

    /// Of outlines that are put down at places along a path; `turns` says whether the end may be turned and made larger.
    pub(super) fn of_places(outlines: &[Outline], places: &[Placed], turns: Option<(&Station, f64)>) -> Self {
        let shown = evenly(places, SECTIONS);
        let most = (POINTS / (shown.len() * outlines.len()).max(1)).max(4);
        let sections = shown.iter().flat_map(|place| {
            outlines.iter().map(move |(line, closed)| CourseSection {
                line: thinned(line, most).into_iter().map(|p| xyz(place.lift(p))).collect(),
                closed: *closed,
                begins: None,
            })
        });
        let end = places.last().zip(turns).map(|(last, (station, reach))| CourseEnd {
            at: xyz(last.at),
            along: xyz(station.along),
            across: xyz(last.u.normalize_or(station.across)),
            reach,
        });
        let path: Vec<Xyz> = thinned(places, PATH_POINTS).iter().map(|p| xyz(p.at)).collect();
        Self { sections: sections.collect(), path, end }
    }
}

/// Points of an outline in the plane of its section, and whether it is closed.
pub(super) type Outline = (Vec<Flat>, bool);

/// The outlines of a section.
pub(super) fn outlines_of(flat: &Flattened) -> Vec<Outline> {
    flat.outlines.iter().map(|outline| (outline.iter().map(|v| v.at).collect(), true)).collect()
}

/// What a step leads a body through.
///
/// # Errors
/// [`TradeError::Refused`] where the step leads through nothing, or what it leads through is not chosen yet or does not fit.
pub fn course(operation: &Operation, mesh: &Mesh, others: &[Mesh], progress: &Progress) -> Result<Course, TradeError> {
    operation.refuse_outside_limits()?;
    let given = Given::part(mesh, progress).with(others);
    match (operation.tool::<Loft>(), operation.tool::<Sweep>(), operation.tool::<Tube>()) {
        (Some(loft), ..) => loft.course(&given),
        (_, Some(sweep), _) => sweep.course(&given),
        (.., Some(tube)) => tube.course(&given),
        _ => Err(TradeError::refused("only lofts, sweeps and tubes lead through sections", vec![])),
    }
}
