//! `shape.round`: edges made round, outer ones by taking material away, inner ones by filling them.

use nimbet_edges::graph::{Along, Graph};
use nimbet_edges::plan::Wanted;
use nimbet_edges::station::Section;
use nimbet_kernel::{Mesh, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::edge_runs::{self, EdgeRuns, WithOwn};
use super::edges::{EdgesOf, Sense, Told, beside_whole, edges_done, with_strips};
use crate::budget::{Extent, around, refuse_fine_chord};
use crate::examine::{About, FacePick};
use crate::parameter::{Length, Position};
use crate::tool::{Cure, Entry, Given, Needs, Tool};
use crate::words::{Xyz, count, millimetres};
use crate::{Outcome, TradeError};

/// Parameters of `shape.round`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Round {
    /// The edges.
    #[schemars(title = "Edges")]
    pub on: EdgesOf,
    /// Whether the faces vanish: one rounding goes over each from what is on one side of it to what is on the other, as wide as there
    /// is room.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Over the whole face", extend("when" = {"/on/faces": true}))]
    pub whole: bool,
    /// The radius; over whole faces it counts for nothing.
    #[schemars(with = "Length", extend("when" = {"/whole": false}))]
    pub radius: f64,
    /// The radius where a run ends that is farther from the place it was picked at; between them it changes evenly.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "At the far end", with = "Option<Length>", extend("empty" = "the same", "when" = {"/on/edges": true}))]
    pub far: Option<f64>,
    /// Edges with a radius of their own, whether they are among those above or not, done in the same step.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(extend("asks" = "none"))]
    pub also: Vec<RoundedToo>,
    /// Whether edges for which there is no room stay as they are; else the step is refused.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Leave those for which there is no room")]
    pub leave: bool,
    /// The farthest its round faces may be from true, mm.
    #[serde(default = "default_chord")]
    #[schemars(title = "Chord tolerance", with = "Length", extend("folded" = true))]
    pub chord: f64,
}

/// Edges with a radius of their own.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct RoundedToo {
    /// The edges.
    pub on: EdgesOf,
    /// Their radius.
    #[schemars(with = "Length")]
    pub radius: f64,
    /// Radii at places of theirs, instead: between two of one run it changes evenly, beyond the first and last it stays, or, where
    /// the run is closed, changes evenly between those.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub along: Vec<RadiusAt>,
}

/// A radius at a place.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct RadiusAt {
    /// The place, on an edge or near it.
    #[schemars(with = "Position")]
    pub at: Xyz,
    /// The radius there.
    #[schemars(with = "Length")]
    pub radius: f64,
}

fn default_chord() -> f64 {
    0.02
}

impl Tool for Round {
    const KIND: &'static str = "shape.round";
    const WHAT: &'static str = "Make edges round.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "round",
        name: "Round edges",
        hint: "Outer and inner edges made round, with balls where they meet",
        group: "Edges and faces",
        words: &[
            "rounding",
            "radius",
            "fillet",
            "blend",
            "soften",
            "casting corner",
            "bull nose",
            "full round",
            "half round",
            "lip",
        ],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "on": { "edges": [] }, "radius": b.share(0.01).max(0.01), "chord": b.chord }),
    }];

    fn title(&self) -> String {
        if let Some(faces) = self.over() {
            return format!("Round over {}", count(faces.len(), "face", "faces"));
        }
        match self.far {
            Some(far) => format!("Round edges by {} to {}", millimetres(self.radius), millimetres(far)),
            None => format!("Round edges by {}", millimetres(self.radius)),
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let widest =
            self.also.iter().flat_map(RoundedToo::radii).fold(self.radius.max(self.far.unwrap_or(0.0)), f64::max);
        refuse_fine_chord(self.chord, &|chord| {
            with_strips(&[Extent::of(given.mesh)], around(widest.min(Extent::of(given.mesh).diagonal()), chord) / 4.0)
        })?;
        let wanted = |graph: &Graph<'_>| self.wanted(graph).map(|(wanted, _)| wanted);
        let told = Told { chord: self.chord, leave: Some(self.leave), done: "rounded", figure: "radius" };
        edges_done(given, &wanted, told)
    }

    fn remedies(about: &About) -> Vec<Cure> {
        /// What turns by less is part of something round.
        const SHARP: f64 = 22.5;
        let About::SharpCorner { at, radius } = about else { return vec![] };
        // Fine enough that the radius is there when it is measured.
        let by = |on: EdgesOf, leave: bool| Self {
            on,
            radius: *radius,
            far: None,
            whole: false,
            also: vec![],
            leave,
            chord: default_chord().min(radius * 0.02),
        };
        let all = EdgesOf::Sharp { sense: Sense::Inner, than: SHARP };
        let long = millimetres(*radius);
        vec![
            Cure::new(0, format!("Round it by {long}"), by(EdgesOf::Edges(at.clone()), false)),
            Cure::new(1, format!("Round all inner corners by {long}"), by(all, true)),
        ]
    }

    fn makes(&self, parts: &[Extent]) -> f64 {
        with_strips(parts, (around(self.radius, self.chord) / 4.0).min(256.0))
    }
}

impl Round {
    /// The faces that vanish, where they are meant to.
    fn over(&self) -> Option<&[FacePick]> {
        match &self.on {
            EdgesOf::Faces(faces) if self.whole => Some(faces),
            _ => None,
        }
    }

    /// The runs that are meant, what each could have, without making any; `tried` says whether that is tried out, not only told by where
    /// the sections lie.
    ///
    /// # Errors
    /// [`TradeError::Refused`] where there are none, or one is given two radii.
    pub fn runs(&self, mesh: &Mesh, tried: bool, progress: &Progress) -> Result<EdgeRuns, TradeError> {
        edge_runs::told(mesh, &|graph| self.wanted(graph), (self.chord, tried), progress)
    }

    /// What each run is given, and which have it of their own.
    fn wanted(&self, graph: &Graph<'_>) -> Result<WithOwn, TradeError> {
        let plain = |radius: f64| Section::Round { radius };
        let mut wanted: Vec<Wanted> = Vec::new();
        for also in &self.also {
            for (run, _) in also.on.runs(graph)? {
                if wanted.iter().any(|w| w.run == run) {
                    let [a, b]: [Point; 2] = graph.ends(graph.runs[run as usize].edges[0]).map(|v| graph.place(v));
                    return Err(TradeError::refused("an edge is given two radii of its own", vec![a.midpoint(b)]));
                }
                wanted.push(also.wanted(graph, run));
            }
        }
        let own: Vec<u32> = wanted.iter().map(|w| w.run).collect();
        let (over, picked) = match self.over() {
            Some(faces) => (beside_whole(graph, faces)?, vec![]),
            None => (vec![], self.on.runs(graph)?),
        };
        wanted.extend(over.into_iter().map(|run| Wanted::all_along(run, Section::Over)));
        for (run, picked) in picked.into_iter().filter(|(run, _)| !own.contains(run)) {
            let edges = &graph.runs[run as usize];
            let Some((far, at)) = self.far.zip(picked).filter(|_| !edges.closed) else {
                wanted.push(Wanted::all_along(run, plain(self.radius)));
                continue;
            };
            let [first, last] = [graph.ends(edges.edges[0])[0], graph.ends(edges.edges[edges.edges.len() - 1])[1]];
            let off = |v: u32| graph.place(v).distance(at);
            let [from, to] = if off(first) <= off(last) { [self.radius, far] } else { [far, self.radius] };
            wanted.push(Wanted { run, sections: vec![(0.0, plain(from)), (1.0, plain(to))] });
        }
        Ok((wanted, own))
    }
}

impl RoundedToo {
    fn radii(&self) -> impl Iterator<Item = f64> {
        self.along.iter().map(|r| r.radius).chain(self.along.is_empty().then_some(self.radius))
    }

    fn wanted(&self, graph: &Graph<'_>, run: u32) -> Wanted {
        let plain = |radius: f64| Section::Round { radius };
        if self.along.is_empty() {
            return Wanted::all_along(run, plain(self.radius));
        }
        let along = Along::of(graph);
        let share = |r: &RadiusAt| edge_runs::share_of(graph, &along, run, Point::from_array(r.at));
        let mut sections: Vec<(f64, Section)> = self.along.iter().map(|r| (share(r), plain(r.radius))).collect();
        sections.sort_by(|a, b| a.0.total_cmp(&b.0));
        sections.dedup_by(|a, b| a.0 - b.0 < 1e-9);
        if let (true, Some((first, from)), Some((last, to))) =
            (graph.runs[run as usize].closed, sections.first().copied(), sections.last().copied())
        {
            sections.insert(0, (last - 1.0, to));
            sections.push((first + 1.0, from));
        }
        Wanted { run, sections }
    }
}
