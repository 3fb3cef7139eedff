//! `shape.take_off`: faces go, and those beside them are carried on until they meet; roundings can come again with another radius.

use std::collections::BTreeSet;

use nimbet_edges::graph::Graph;
use nimbet_edges::plan::Wanted;
use nimbet_edges::station::Section;
use nimbet_edges::{TakeOffError, take_off};
use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::measure::{Measure, measure};
use nimbet_kernel::segments::nearest_on_triangle;
use nimbet_kernel::surfaces::default_tolerance;
use nimbet_kernel::{Aabb, FaceId, Mesh, Topology};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::edges::{Told, edges_done};
use crate::budget::{Extent, around};
use crate::examine::{About, FacePick};
use crate::parameter::Length;
use crate::picks::picked_faces;
use crate::tool::{Cure, Entry, Given, Needs, Tool};
use crate::words::{count, figure, millimetres, volume_of};
use crate::{Outcome, TradeError};

/// Parameters of `shape.take_off`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TakeOff {
    /// The faces that go: roundings, bores, bosses, grooves, whole.
    #[schemars(extend("least" = 1, "hint" = "Click the faces that go: a rounding, all of a bore or a boss."))]
    pub faces: Vec<FacePick>,
    /// The edges that come of it are rounded again by this.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Round again by", with = "Option<Length>", extend("empty" = "not at all"))]
    pub again: Option<f64>,
    /// The farthest new round faces may be from true, mm.
    #[serde(default = "default_chord")]
    #[schemars(title = "Chord tolerance", with = "Length", extend("folded" = true, "when" = {"/again": true}))]
    pub chord: f64,
}

fn default_chord() -> f64 {
    0.02
}

impl Tool for TakeOff {
    const KIND: &'static str = "shape.take_off";
    const WHAT: &'static str = "Take faces off and carry on those beside them.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "take_off",
        name: "Take faces off",
        hint: "Roundings, bores, bosses go; the faces beside them are carried on",
        group: "Edges and faces",
        words: &["remove rounding", "defeature", "delete face", "remove hole", "sharp again", "change radius"],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "faces": [], "chord": b.chord }),
    }];

    fn title(&self) -> String {
        match self.again {
            Some(radius) => format!("Round anew by {}", millimetres(radius)),
            None => format!("Take {} off", count(self.faces.len(), "face", "faces")),
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let going: BTreeSet<FaceId> = picked_faces(mesh, &self.faces)?.into_iter().collect();
        let is_sheet = !Topology::new(mesh.triangles(), mesh.points().len()).naked_halves().is_empty();
        if let Some(why) = Needs::Sealed.lacking(given.seen).filter(|_| !is_sheet) {
            return Err(TradeError::refused(why, vec![]));
        }
        let made = take_off(mesh, &going, &progress.stage(0.0, 0.5)).map_err(refused)?.mesh;
        let by = if is_sheet {
            difference(mesh, &made, |m| m.area, |a| format!("{} mm²", figure(a)))
        } else {
            difference(mesh, &made, |m| m.volume, volume_of)
        };
        let taken = format!("{} taken off: {by}", count(going.len(), "face", "faces"));
        let Some(radius) = self.again else { return Ok(Outcome::of(made, taken)) };
        let again = Given { mesh: &made, others: &[], seen: None, progress: &progress.stage(0.5, 1.0) };
        let wanted = |graph: &Graph<'_>| new_edges(graph, mesh, radius);
        let told = Told { chord: self.chord, leave: None, done: "rounded", figure: "radius" };
        let rounded = edges_done(&again, &wanted, told)?;
        Ok(Outcome { done: [vec![taken], rounded.done.clone()].concat(), ..rounded })
    }

    fn remedies(about: &About) -> Vec<Cure> {
        let About::TightRounding { at, radius } = about else { return vec![] };
        let faces = at.iter().map(|p| FacePick::At(*p)).collect();
        let anew = Self { faces, again: Some(*radius), chord: default_chord().min(radius * 0.02) };
        vec![Cure::new(0, format!("Round it anew by {}", millimetres(*radius)), anew)]
    }

    fn makes(&self, parts: &[Extent]) -> f64 {
        let pieces = self.again.map_or(1.0, |radius| (around(radius, self.chord) / 4.0).min(256.0));
        super::edges::with_strips(parts, pieces)
    }
}

/// What one has more than another, or less.
fn difference(before: &Mesh, after: &Mesh, of: fn(&Measure) -> f64, told: fn(f64) -> String) -> String {
    match of(&measure(after)) - of(&measure(before)) {
        less if less < 0.0 => format!("{} less", told(-less)),
        more => format!("{} more", told(more)),
    }
}

/// The edges that were not there before, rounded.
fn new_edges(graph: &Graph<'_>, before: &Mesh, radius: f64) -> Result<Vec<Wanted>, TradeError> {
    let runs = new_runs(graph, before);
    let wanted: Vec<Wanted> = runs.into_iter().map(|run| Wanted::all_along(run, Section::Round { radius })).collect();
    if wanted.is_empty() {
        return Err(TradeError::refused("no edge came of it that could be rounded", vec![]));
    }
    Ok(wanted)
}

/// The runs of edges that were not there before.
pub(crate) fn new_runs(graph: &Graph<'_>, before: &Mesh) -> Vec<u32> {
    let bvh = triangle_bvh(before);
    let off = default_tolerance(&Aabb::of(before.points().iter().copied())) * 0.1;
    let was_there = |edge: u32| {
        let [a, b] = graph.edges[edge as usize].ends.map(|v| graph.place(v));
        let middle = a.midpoint(b);
        let square = |t: u32| Some(nearest_on_triangle(middle, before.corners(t as usize)).distance_squared(middle));
        bvh.nearest(middle, off, square).is_some()
    };
    // Edges that were there may have grown at their ends.
    let is_new = |run: &u32| {
        let length = |e: &(u32, bool)| {
            let [a, b] = graph.ends(*e).map(|v| graph.place(v));
            a.distance(b)
        };
        let edges = &graph.runs[*run as usize].edges;
        let new: f64 = edges.iter().filter(|e| !was_there(e.0)).map(length).sum();
        new > edges.iter().map(length).sum::<f64>() * 0.5
    };
    (0..graph.runs.len() as u32).filter(is_new).collect()
}

fn refused(e: TakeOffError) -> TradeError {
    match e {
        TakeOffError::Neighbour { at } => TradeError::refused(
            "the face beside these is no plane, cylinder or cone that can be carried on here; pick it, too, or fewer faces",
            vec![at],
        ),
        TakeOffError::DoNotMeet { at } => TradeError::refused(
            "the faces beside these do not meet when they are carried on; pick all faces of what is to go",
            vec![at],
        ),
        TakeOffError::NoSides { at } => TradeError::refused(
            "the sheet has no two sides there: make its triangles agree, and edges of two triangles, at Seal",
            vec![at],
        ),
        TakeOffError::Alone => TradeError::refused("nothing would be left: some faces beside these must stay", vec![]),
        TakeOffError::Edge(nimbet_edges::EdgeError::Cancelled(c)) => c.into(),
        TakeOffError::Edge(nimbet_edges::EdgeError::Mesh(m)) => m.into(),
        TakeOffError::Edge(nimbet_edges::EdgeError::Arrange(e)) => crate::solids::told(e, &|_| "the part".into()),
        TakeOffError::Edge(e) => TradeError::refused(e.to_string(), vec![]),
    }
}
