//! The figures of a part: what the gauge bar and the forecast table show.

use nimbet_kernel::measure::Measure;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::Survey;
use crate::wire::{Wire, is_wire};
use crate::words::{Xyz, count, millimetres, xyz};

/// Whether a part is a solid, and if not, what stands in the way first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum PartState {
    /// It has naked edges.
    Open,
    /// It passes through itself, or edges are shared by three or more triangles.
    Tangled,
    /// It is closed, but some of it faces the wrong way.
    Flipped,
    /// It is proved a solid: closed, consistently oriented, outward, without self-crossing.
    Sealed,
}

/// Figures of a part. Lengths mm, areas mm², volumes mm³.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Figures {
    /// Solid or not.
    pub state: PartState,
    /// The state with its reason: "open: 2 rims, 214 mm".
    pub reason: String,
    /// Why there is no volume; absent for a solid.
    pub no_volume: Option<String>,
    /// Enclosed volume; only for a sealed part.
    pub volume: Option<f64>,
    /// Surface area.
    pub area: f64,
    /// Edge lengths of the bounding box.
    pub size: Xyz,
    /// Least corner of the bounding box.
    pub least: Xyz,
    /// Triangles.
    pub triangles: usize,
    /// Points.
    pub points: usize,
    /// Faces.
    pub faces: usize,
    /// Connected pieces.
    pub shells: usize,
    /// Edges with one triangle.
    pub naked_edges: usize,
    /// Their length.
    pub naked_length: f64,
    /// Chains of naked edges.
    pub rims: usize,
    /// Facing runs of naked edges.
    pub gaps: usize,
    /// Edges of three or more triangles.
    pub crowded_edges: usize,
    /// Edges whose two triangles disagree about the outside.
    pub clashing_edges: usize,
    /// Points where surfaces only touch.
    pub touch_points: usize,
    /// Closed shells that face the wrong way.
    pub inside_out_shells: usize,
    /// Pairs of triangles that cross.
    pub crossing_pairs: usize,
    /// Pairs of triangles that cross at the sides of gaps: they count as the gap's until it is closed.
    #[serde(default)]
    pub crossing_in_gaps: usize,
    /// Connected places where they do.
    #[serde(default)]
    pub tangles: usize,
    /// Triangles that are there twice.
    pub duplicates: usize,
    /// Triangles without area.
    pub degenerate: usize,
    /// The thinnest wall, mm; of sealed parts whose walls were measured ([`crate::wall::with_least_wall`]).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub least_wall: Option<f64>,
    /// Whether it is a profile or a wire: a sheet that carries what it was drawn as.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub drawn: bool,
    /// Whether it is a wire: lines in space.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub wire: bool,
}

pub(super) fn figures(survey: &Survey<'_>, measure: &Measure) -> Figures {
    let naked_edges = survey.rims.iter().map(|r| r.edges).sum();
    let naked_length = survey.rims.iter().map(|r| r.length).sum();
    let inside_out = survey.nesting.shells.iter().filter(|s| s.inside_out).count();
    let drawn = survey.mesh.drawn().is_some();
    let (state, reason) = if survey.mesh.triangles().is_empty() {
        (PartState::Open, "empty: nothing is there".to_owned())
    } else if drawn {
        // Its rims are its outlines: nothing to be mended.
        (PartState::Open, if is_wire(survey.mesh) { "wire" } else { "profile" }.to_owned())
    } else if naked_edges > 0 {
        (PartState::Open, format!("open: {}, {}", count(survey.rims.len(), "rim", "rims"), millimetres(naked_length)))
    } else if !survey.crowded.is_empty() {
        let edges = count(survey.crowded.len(), "edge", "edges");
        (PartState::Tangled, format!("tangled: {edges} shared by three or more triangles"))
    } else if !survey.crossings.is_empty() {
        let pairs = count(survey.crossings.len(), "crossing pair", "crossing pairs");
        let places = count(survey.tangles.len(), "tangle", "tangles");
        (PartState::Tangled, format!("tangled: {places}, {pairs} of triangles"))
    } else if !survey.clashing.is_empty() {
        let edges = count(survey.clashing.len(), "edge", "edges");
        (PartState::Flipped, format!("flipped: the sides disagree along {edges}"))
    } else if inside_out > 0 {
        (PartState::Flipped, format!("flipped: {} inside out", count(inside_out, "shell is", "shells are")))
    } else if measure.volume <= 0.0 {
        (PartState::Flipped, "flipped: it encloses nothing".into())
    } else {
        (PartState::Sealed, "sealed".into())
    };
    let sealed = state == PartState::Sealed;
    let no_volume = (!sealed).then(|| format!("no volume: {reason}"));
    let mut faces: Vec<_> = survey.mesh.face_of().to_vec();
    faces.dedup();
    faces.sort_unstable();
    faces.dedup();
    let faces = faces.len();
    // What shows lines stands round them.
    let bounds = Wire::of(survey.mesh).map_or(measure.bounds, |wire| wire.bounds());
    Figures {
        state,
        reason,
        no_volume,
        volume: sealed.then_some(measure.volume),
        area: measure.area,
        size: xyz(bounds.size()),
        least: xyz(bounds.min),
        triangles: survey.mesh.triangles().len(),
        points: survey.mesh.points().len(),
        faces,
        shells: survey.nesting.count,
        naked_edges,
        naked_length,
        rims: survey.rims.len(),
        gaps: survey.gaps.len(),
        crowded_edges: survey.crowded.len(),
        clashing_edges: survey.clashing.len(),
        touch_points: survey.touching.len(),
        inside_out_shells: inside_out,
        crossing_pairs: survey.crossings.len(),
        crossing_in_gaps: survey.crossing_in_gaps,
        tangles: survey.tangles.len(),
        duplicates: survey.duplicates.len(),
        degenerate: survey.degenerate.len(),
        least_wall: None,
        drawn,
        wire: is_wire(survey.mesh),
    }
}
