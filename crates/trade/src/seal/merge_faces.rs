//! `seal.merge_faces`: neighbouring faces that lie on one surface become one, and its triangles as few as the tolerance lets.

use std::collections::{BTreeMap, BTreeSet};

use nimbet_kernel::crossings::{crossing_pairs, triangle_bvh};
use nimbet_kernel::simplify::simplify;
use nimbet_kernel::surfaces::{DEFAULT_ANGLE, Facets, Sample, best_fit};
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{FaceId, Mesh, Progress, Topology};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::budget::Effort;
use crate::examine::FacePick;
use crate::parameter::Length;
use crate::picks::picked_faces;
use crate::tool::{Effect, Entry, Given, Needs, Tool};
use crate::words::{count, millimetres};
use crate::{Outcome, TradeError};

/// Which faces.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum FaceChoice {
    /// All of them.
    #[default]
    #[schemars(title = "All faces")]
    All,
    /// Those that lie under the points.
    #[schemars(title = "Picked faces")]
    Picked(Vec<FacePick>),
}

/// Parameters of `seal.merge_faces`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct MergeFaces {
    /// Which faces.
    #[serde(default)]
    #[schemars(title = "Which faces")]
    pub faces: FaceChoice,
    /// Faces lie on one surface, and triangles go, within this, mm.
    #[schemars(with = "Length")]
    pub tolerance: f64,
    /// Whether triangles are merged too; else only the faces are.
    #[serde(default = "yes")]
    #[schemars(title = "Fewer triangles too")]
    pub simplify: bool,
}

fn yes() -> bool {
    true
}

impl Tool for MergeFaces {
    const KIND: &'static str = "seal.merge_faces";
    const WHAT: &'static str = "Make faces that lie on one surface one, with fewer triangles.";
    const EFFORT: Effort = Effort::Searching;
    const KEEPS_FACES: bool = false;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "merge_faces",
        name: "Merge faces",
        hint: "Faces on one surface become one, with fewer triangles",
        group: "Faces and shells",
        words: &["simplify", "decimate", "reduce triangles", "coplanar"],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "faces": "all", "tolerance": b.share(1e-4), "simplify": true }),
    }];

    fn title(&self) -> String {
        "Merge faces".into()
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let chosen: Option<Vec<FaceId>> = match &self.faces {
            FaceChoice::All => None,
            FaceChoice::Picked(points) => Some(picked_faces(mesh, points)?),
        };
        let counts = |f: &FaceId| chosen.as_ref().is_none_or(|c| c.binary_search(f).is_ok());
        let (merged, joined) = self.merge(mesh, counts, &progress.stage(0.0, 0.4))?;
        let out = if self.simplify {
            // A merged face has the id of one of the chosen.
            let out = simplify(&merged, self.tolerance, |f| counts(&f), &progress.stage(0.4, 0.7))?;
            self.refuse_new_crossings(mesh, &out, &progress.stage(0.7, 1.0))?;
            out
        } else {
            merged
        };
        let gone = mesh.triangles().len() - out.triangles().len();
        if joined == 0 && gone == 0 {
            return Err(TradeError::nothing("no two faces lie on one surface, and no triangle can go, within that"));
        }
        let mut done = Vec::new();
        if joined > 0 {
            done.push(format!("{} joined to a neighbour", count(joined, "face", "faces")));
        }
        if gone > 0 {
            done.push(format!(
                "{} fewer, within {}",
                count(gone, "triangle", "triangles"),
                millimetres(self.tolerance)
            ));
        }
        let largest_move = if gone > 0 { self.tolerance } else { 0.0 };
        Ok(Outcome { done, largest_move, ..Outcome::of(out, String::new()) })
    }

    fn effect(&self) -> Effect {
        Effect::Mends
    }
}

impl MergeFaces {
    /// Joins faces; gives how many went into another.
    fn merge(
        &self,
        mesh: &Mesh,
        counts: impl Fn(&FaceId) -> bool,
        progress: &Progress,
    ) -> Result<(Mesh, usize), TradeError> {
        let mut members: BTreeMap<FaceId, Vec<u32>> = BTreeMap::new();
        for (t, f) in mesh.face_of().iter().enumerate().filter(|(_, f)| counts(f)) {
            members.entry(*f).or_default().push(t as u32);
        }
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        let least = DEFAULT_ANGLE.to_radians().cos();
        let mut pairs: BTreeSet<(FaceId, FaceId)> = BTreeSet::new();
        for edge in topology.edges_with(EdgeUse::Regular) {
            let [a, b] = [0, 1].map(|k| topology.halves(edge)[k] as usize / 3);
            let [f, g] = [a, b].map(|t| mesh.face_of()[t]);
            let [m, n] = [a, b].map(|t| mesh.area_vector(t).normalize_or_zero());
            if f != g && counts(&f) && counts(&g) && m.dot(n) >= least {
                pairs.insert((f.min(g), f.max(g)));
            }
        }
        let mut into: BTreeMap<FaceId, FaceId> = BTreeMap::new();
        let root = |into: &BTreeMap<FaceId, FaceId>, mut f: FaceId| {
            while let Some(&next) = into.get(&f) {
                f = next;
            }
            f
        };
        let total = pairs.len().max(1);
        for (n, (f, g)) in pairs.into_iter().enumerate() {
            progress.report(n as f64 / total as f64, "looking for faces on one surface")?;
            let (f, g) = (root(&into, f), root(&into, g));
            if f == g {
                continue;
            }
            let both: Vec<u32> = members[&f].iter().chain(&members[&g]).copied().collect();
            let facets = Facets::of(mesh, &both);
            let all: Vec<u32> = (0..facets.count() as u32).collect();
            let Some(surface) = best_fit(&Sample::of_facets(&facets, &all), self.tolerance) else { continue };
            if facets.all_corners().iter().all(|p| surface.distance(*p).abs() <= self.tolerance) {
                members.insert(f, both);
                members.remove(&g);
                into.insert(g, f);
            }
        }
        let joined = into.len();
        let faces: Vec<FaceId> = mesh.face_of().iter().map(|f| root(&into, *f)).collect();
        Ok((mesh.clone().regroup(|t| faces[t]), joined))
    }

    fn refuse_new_crossings(&self, before: &Mesh, after: &Mesh, progress: &Progress) -> Result<(), TradeError> {
        let found = crossing_pairs(after, &triangle_bvh(after), &progress.stage(0.0, 0.5))?;
        if found.is_empty()
            || found.len() <= crossing_pairs(before, &triangle_bvh(before), &progress.stage(0.5, 1.0))?.len()
        {
            return Ok(());
        }
        let places = found.iter().take(8).map(|(a, _)| after.corners(*a as usize)[0]).collect();
        Err(TradeError::refused(
            format!(
                "with {} the surface would pass through itself; take a smaller tolerance",
                millimetres(self.tolerance)
            ),
            places,
        ))
    }
}
