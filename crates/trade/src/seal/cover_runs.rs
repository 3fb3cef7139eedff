//! `seal.cover_runs`: splits a rim at picked points by straight chords, and covers what lies between.

use nimbet_kernel::{Mesh, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::loops::{Shape, Work};
use super::new_surface::refuse_clash;
use super::runs::{distance_from_run, put_on_rims, runs_between};
use super::{CoverStyle, named_rims};
use crate::budget::Effort;
use crate::examine::mean_plane;
use crate::parameter::{Distance, Position};
use crate::tool::{Effect, Entry, Given, Needs, Tool};
use crate::words::{Xyz, count, millimetres};
use crate::{Outcome, TradeError};

/// Which of the runs of a split rim are covered.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum RunChoice {
    /// Every run, and what lies between the chords: the rim is closed.
    #[default]
    All,
    /// The runs these points lie on, mm; the rest of the rim stays open.
    Picked(#[schemars(with = "Vec<Position>")] Vec<Xyz>),
}

/// Parameters of `seal.cover_runs`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CoverRuns {
    /// The points at which a rim is split, two or more, mm. Between points that follow each other along the rim runs a
    /// straight chord.
    #[schemars(with = "Vec<Position>", extend("asks" = "runs"))]
    pub at: Vec<Xyz>,
    /// Which runs are covered.
    #[serde(default)]
    #[schemars(extend("asks" = "none"))]
    pub runs: RunChoice,
    /// How.
    #[serde(default)]
    #[schemars(title = "Shape of the covers")]
    pub style: CoverStyle,
    /// As for `seal.cover_rim`: how far a domed cover stands off the taut one at most, mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Distance>", extend("empty" = "as it comes", "when" = { "/style": "domed" }))]
    pub height: Option<f64>,
    /// Whether it may pass through the part, to be untangled after. Otherwise that is refused.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "May pass through the part, to be untangled after")]
    pub may_cross: bool,
}

impl CoverRuns {
    /// Which runs were picked.
    fn picked(&self, mesh: &Mesh, runs: &[Vec<u32>]) -> Vec<bool> {
        let RunChoice::Picked(on) = &self.runs else { return vec![true; runs.len()] };
        let mut picked = vec![false; runs.len()];
        for place in on {
            let off = |k: &usize| distance_from_run(mesh, &runs[*k], Point::from_array(*place));
            if let Some(k) = (0..runs.len()).min_by(|x, y| off(x).total_cmp(&off(y))) {
                picked[k] = true;
            }
        }
        picked
    }

    /// What is covered: each picked run with its chord, and what is left between all of the chords.
    fn loops(&self, runs: &[Vec<u32>], chords: &[Vec<u32>], picked: &[bool]) -> Vec<Vec<u32>> {
        let mut loops: Vec<Vec<u32>> = Vec::new();
        for (k, run) in runs.iter().enumerate() {
            if picked[k] && run.len() > 2 {
                let back = chords[k].iter().rev().copied();
                loops.push(run.iter().copied().chain(back.skip(1).take(chords[k].len() - 2)).collect());
            }
        }
        if self.runs == RunChoice::All && runs.len() > 2 {
            loops.push(chords.iter().flat_map(|c| c[..c.len() - 1].iter().copied()).collect());
        }
        loops
    }
}

impl Tool for CoverRuns {
    const KIND: &'static str = "seal.cover_runs";
    const WHAT: &'static str = "Split a rim by chords and cover what lies between.";
    const EFFORT: Effort = Effort::Searching;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "cover_runs",
        name: "Split a rim",
        hint: "Chords between picked points; cover the runs",
        group: "Close",
        words: &["partial hole", "fill part of a hole", "chord"],
        needs: Needs::Rim,
        mark: "",
        start: |_| json!({ "at": [], "runs": "all", "style": "taut" }),
    }];

    fn title(&self) -> String {
        format!("Split a rim at {} and cover {}", count(self.at.len(), "point", "points"), self.style.word())
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        if self.at.len() < 2 {
            return Err(TradeError::refused("pick at least two points of a rim", vec![]));
        }
        if self.height.is_some_and(|h| !h.is_finite() || self.style != CoverStyle::Domed) {
            return Err(TradeError::refused("a height is a length, and only for domed covers", vec![]));
        }
        progress.report(0.05, "splitting the rim")?;
        let (mesh_with, at) = put_on_rims(mesh, &self.at)?;
        let (rims, facts) = named_rims(&mesh_with);
        let places = |ids: &[u32]| ids.iter().map(|&i| mesh_with.points()[i as usize]).collect::<Vec<Point>>();
        let Some(r) = rims.iter().position(|r| at.iter().all(|p| r.points.contains(p))) else {
            return Err(TradeError::refused("the picked points do not lie on one rim", places(&at)));
        };
        if !facts[r].closed {
            let why = format!("{} is an open chain: mend the edges of three or more triangles first", facts[r].name);
            return Err(TradeError::refused(why, places(&at)));
        }
        let runs = runs_between(&mesh_with, &rims[r], &at);
        if runs.len() < 2 {
            return Err(TradeError::refused(
                "the picked points fall on one place; a rim is split at two or more",
                places(&at),
            ));
        }
        let picked = self.picked(&mesh_with, &runs);
        if !picked.contains(&true) {
            return Err(TradeError::nothing("no run was picked"));
        }

        let mut work = Work::new(&mesh_with, rims[r].points.iter().copied());
        let spacing = facts[r].length / facts[r].edges as f64;
        let chords: Vec<Vec<u32>> = if runs.len() == 2 {
            // Both runs share the one chord.
            let there = chord(&mut work, &runs[0], spacing);
            let back = there.iter().rev().copied().collect();
            vec![there, back]
        } else {
            runs.iter().map(|run| chord(&mut work, run, spacing)).collect()
        };
        let loops = self.loops(&runs, &chords, &picked);
        let shape = if self.style == CoverStyle::Domed { Shape::Domed(self.height) } else { Shape::Taut };
        for (n, one) in loops.iter().enumerate() {
            let place: Vec<Point> = one.iter().map(|&i| work.points[i as usize]).collect();
            let (centre, normal, off) = mean_plane(&place);
            if self.style == CoverStyle::Flat && (normal == Point::ZERO || off > (facts[r].extent * 1e-4).max(1e-3)) {
                let why =
                    format!("the run with its chord is not flat: it stands {} off its mean plane", millimetres(off));
                return Err(TradeError::refused(why, vec![centre]));
            }
            work.cover(std::slice::from_ref(one), shape, &progress.part(n, loops.len()))?;
        }
        let added = work.triangles.len() - mesh_with.triangles().len();
        let done = format!(
            "split {} at {} and covered {} with {}",
            facts[r].name,
            count(runs.len(), "point", "points"),
            count(picked.iter().filter(|p| **p).count(), "run", "runs"),
            count(added, "triangle", "triangles")
        );
        let whole = work.finish()?;
        if !self.may_cross {
            refuse_clash(&whole, mesh_with.triangles().len(), "the cover", progress)?;
        }
        Ok(Outcome::of(whole, done))
    }

    fn effect(&self) -> Effect {
        Effect::Mends
    }
}

/// The straight chord from the first to the last point of a run, divided about as finely as the rim.
fn chord(work: &mut Work, run: &[u32], spacing: f64) -> Vec<u32> {
    /// A chord is never divided into more pieces than this.
    const MOST: usize = 5000;
    let (a, b) = (run[0], run[run.len() - 1]);
    if run.len() == 2 {
        return vec![a, b];
    }
    let (from, to) = (work.points[a as usize], work.points[b as usize]);
    // Where the mesh has that side already, a point between keeps it from getting a third triangle.
    let least = if work.has_side(a, b) { 2 } else { 1 };
    let pieces = ((from.distance(to) / spacing).round() as usize).clamp(least, MOST);
    let mut out = vec![a];
    for k in 1..pieces {
        out.push(work.points.len() as u32);
        work.points.push(from.lerp(to, k as f64 / pieces as f64));
    }
    out.push(b);
    out
}
