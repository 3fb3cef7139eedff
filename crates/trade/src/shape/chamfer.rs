//! `shape.chamfer`: edges cut off flat, inner ones filled flat.

use nimbet_edges::graph::{Graph, Run};
use nimbet_edges::plan::Wanted;
use nimbet_edges::station::Section;
use nimbet_kernel::{FaceId, Mesh, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::edge_runs::{self, EdgeRuns};
use super::edges::{EdgesOf, Told, edges_done, fine, with_strips};
use crate::budget::Extent;
use crate::parameter::Length;
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::millimetres;
use crate::{Outcome, TradeError};

/// What a chamfer is given beside its width.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Second {
    /// The width on the other face.
    #[schemars(title = "Another width")]
    Width(#[schemars(title = "Width on the other face", with = "Length")] f64),
    /// The angle at which it leaves the first face.
    #[schemars(title = "An angle")]
    Angle(
        #[schemars(title = "Angle to the first face", extend("unit" = "°", "exclusiveMinimum" = 0, "maximum" = 170))]
        f64,
    ),
}

/// Parameters of `shape.chamfer`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Chamfer {
    /// The edges.
    #[schemars(title = "Edges")]
    pub on: EdgesOf,
    /// How far from the edge it begins, on both faces or on the first.
    #[schemars(with = "Length")]
    pub width: f64,
    /// What it is given on the other face; the first is the larger of the two.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "And", extend("empty" = "the same on both"))]
    pub second: Option<Second>,
    /// Whether the smaller face is the first.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "The first face is the smaller one", extend("when" = {"/second": true}))]
    pub swapped: bool,
    /// Whether edges for which there is no room stay as they are; else the step is refused.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Leave those for which there is no room")]
    pub leave: bool,
}

impl Tool for Chamfer {
    const KIND: &'static str = "shape.chamfer";
    const WHAT: &'static str = "Cut edges off flat.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "chamfer",
        name: "Chamfer edges",
        hint: "Edges cut off flat, by a width, two widths, or a width and an angle",
        group: "Edges and faces",
        words: &["bevel", "break the edge", "flat edge", "countersunk edge"],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "on": { "edges": [] }, "width": b.share(0.01).max(0.01) }),
    }];

    fn title(&self) -> String {
        match self.second {
            None => format!("Chamfer edges by {}", millimetres(self.width)),
            Some(Second::Width(other)) => {
                format!("Chamfer edges by {} and {}", millimetres(self.width), millimetres(other))
            }
            Some(Second::Angle(angle)) => {
                format!("Chamfer edges by {} at {}°", millimetres(self.width), crate::words::figure(angle))
            }
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let wanted = |graph: &Graph<'_>| self.all(graph);
        let told = Told { chord: fine(self.width), leave: Some(self.leave), done: "chamfered", figure: "width" };
        edges_done(given, &wanted, told)
    }

    fn makes(&self, parts: &[Extent]) -> f64 {
        with_strips(parts, 1.0)
    }
}

/// The area of each face.
fn areas(graph: &Graph<'_>) -> std::collections::HashMap<FaceId, f64> {
    let mut areas = std::collections::HashMap::new();
    for (t, face) in graph.mesh.face_of().iter().enumerate() {
        *areas.entry(*face).or_default() += graph.mesh.area_vector(t).length();
    }
    areas
}

impl Chamfer {
    /// The runs that are meant, what each could have, without making any; `tried` as of roundings.
    ///
    /// # Errors
    /// [`TradeError::Refused`] where there are none.
    pub fn runs(&self, mesh: &Mesh, tried: bool, progress: &Progress) -> Result<EdgeRuns, TradeError> {
        edge_runs::told(mesh, &|graph| Ok((self.all(graph)?, vec![])), (fine(self.width), tried), progress)
    }

    fn all(&self, graph: &Graph<'_>) -> Result<Vec<Wanted>, TradeError> {
        let runs = self.on.runs(graph)?;
        let areas = areas(graph);
        Ok(runs.into_iter().map(|(run, _)| self.wanted(graph, run, &areas)).collect())
    }

    fn wanted(&self, graph: &Graph<'_>, number: u32, areas: &std::collections::HashMap<FaceId, f64>) -> Wanted {
        let run: &Run = &graph.runs[number as usize];
        let side = |k: usize| -> f64 {
            run.edges.iter().map(|e| areas.get(&graph.beside(*e)[k]).copied().unwrap_or(0.0)).fold(0.0, f64::max)
        };
        // The larger face is the left one, unless it is the other way.
        let left_first = (side(0) >= side(1)) != self.swapped;
        let section = match self.second {
            None => Section::Chamfer { left: self.width, right: self.width },
            Some(Second::Width(other)) if left_first => Section::Chamfer { left: self.width, right: other },
            Some(Second::Width(other)) => Section::Chamfer { left: other, right: self.width },
            Some(Second::Angle(angle)) => {
                Section::Bevel { width: self.width, angle: angle.to_radians(), left: left_first }
            }
        };
        Wanted::all_along(number, section)
    }
}
