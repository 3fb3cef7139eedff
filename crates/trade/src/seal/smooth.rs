//! `seal.smooth`: evens out bumps under a brush, on picked faces or everywhere, without shrinking.
//!
//! Held: rims, edges of three or more triangles, and everything not picked. Points whose move would turn a triangle over or
//! make the surface pass through itself are put back.

use nimbet_kernel::crossings::{crossing_pairs, triangle_bvh};
use nimbet_kernel::smooth::smooth;
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{Mesh, Point, Progress, Topology};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::budget::Effort;
use crate::examine::FacePick;
use crate::parameter::Share;
use crate::picks::{Dab, picked_faces};
use crate::tool::{Effect, Entry, Given, Needs, Tool};
use crate::words::{count, figure, millimetres};
use crate::{Outcome, TradeError};

/// What to smooth.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum SmoothChoice {
    /// Everything.
    #[default]
    All,
    /// The faces that lie under the points; their borders are held.
    Faces(Vec<FacePick>),
    /// What a brush touched, most in the middle of a dab.
    Brush(Vec<Dab>),
}

/// Parameters of `seal.smooth`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Smooth {
    /// What to smooth.
    #[serde(default)]
    pub what: SmoothChoice,
    /// How strongly: above 0, to 1.
    #[serde(default = "half")]
    #[schemars(title = "Strength, to 1", with = "Share")]
    pub strength: f64,
    /// How often: 1 to 200.
    #[serde(default = "ten")]
    #[schemars(range(min = 1, max = 200))]
    pub passes: u32,
}

impl Default for Smooth {
    fn default() -> Self {
        Self { what: SmoothChoice::All, strength: half(), passes: ten() }
    }
}

fn half() -> f64 {
    0.5
}

fn ten() -> u32 {
    10
}

/// Rounds of putting points back; each puts back the corners of what went wrong.
const ROUNDS: usize = 12;

impl Tool for Smooth {
    const KIND: &'static str = "seal.smooth";
    const WHAT: &'static str = "Even out bumps.";
    const EFFORT: Effort = Effort::Passing;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "smooth",
        name: "Smooth",
        hint: "Even out bumps under a brush, on faces or everywhere; rims are held",
        group: "Take out and make anew",
        words: &["relax", "soften", "noise", "fair"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({ "what": { "brush": [] }, "strength": 0.5, "passes": 10 }),
    }];

    fn title(&self) -> String {
        match &self.what {
            SmoothChoice::All => "Smooth everything".into(),
            SmoothChoice::Faces(p) => format!("Smooth {}", count(p.len(), "face", "faces")),
            SmoothChoice::Brush(_) => "Smooth under the brush".into(),
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let weight = self.weights(mesh)?;
        if weight.iter().all(|w| *w == 0.0) {
            return Err(TradeError::nothing(
                "there is no point to move: rims and the borders of picked faces are held",
            ));
        }
        let moved = smooth(mesh, &weight, self.passes, &progress.stage(0.0, 0.4))?;
        let (out, put_back) = put_back_bad(mesh, moved, &progress.stage(0.4, 1.0))?;
        let shift = |i: usize| (out.points()[i] - mesh.points()[i]).length();
        let largest_move = (0..weight.len()).map(shift).fold(0.0, f64::max);
        let count_moved = (0..weight.len()).filter(|&i| shift(i) > 0.0).count();
        if count_moved == 0 {
            return Err(TradeError::nothing("it is as smooth already"));
        }
        let told = format!(
            "moved {} by at most {}; the volume drifts by {} mm³",
            count(count_moved, "point", "points"),
            millimetres(largest_move),
            figure(drift(mesh, &out))
        );
        let left = match put_back {
            0 => vec![],
            n => vec![format!(
                "{} held: moving them would turn triangles over or make the surface pass through itself",
                count(n, "point", "points")
            )],
        };
        Ok(Outcome { left, largest_move, ..Outcome::of(out, told) })
    }

    fn effect(&self) -> Effect {
        Effect::Mends
    }
}

impl Smooth {
    /// How far each point may move, 0 to 1.
    fn weights(&self, mesh: &Mesh) -> Result<Vec<f64>, TradeError> {
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        let mut weight = vec![self.strength; mesh.points().len()];
        for edge in (0..topology.edge_count() as u32).filter(|&e| topology.edge_use(e) != EdgeUse::Regular) {
            let (a, b) = topology.ends(topology.halves(edge)[0]);
            weight[a as usize] = 0.0;
            weight[b as usize] = 0.0;
        }
        match &self.what {
            SmoothChoice::All => {}
            SmoothChoice::Faces(points) => {
                let faces = picked_faces(mesh, points)?;
                for (t, _) in mesh.face_of().iter().enumerate().filter(|(_, f)| faces.binary_search(f).is_err()) {
                    mesh.triangles()[t].iter().for_each(|p| weight[*p as usize] = 0.0);
                }
            }
            SmoothChoice::Brush(dabs) => {
                if dabs.is_empty() {
                    return Err(TradeError::nothing("the brush touched nothing"));
                }
                for (w, p) in weight.iter_mut().zip(mesh.points()) {
                    let press = |d: &Dab| {
                        let off = (*p - Point::from_array(d.near)).length() / d.radius;
                        if off < 1.0 { (1.0 - off * off).powi(2) } else { 0.0 }
                    };
                    *w *= dabs.iter().map(press).fold(0.0, f64::max);
                }
            }
        }
        Ok(weight)
    }
}

/// The volume between two states of a mesh with the same triangles and border, mm³: positive where it grew.
fn drift(before: &Mesh, after: &Mesh) -> f64 {
    let origin = before.points().first().copied().unwrap_or(Point::ZERO);
    let sixfold = |m: &Mesh, t: usize| {
        let [a, b, c] = m.corners(t).map(|p| p - origin);
        a.dot(b.cross(c))
    };
    (0..before.triangles().len()).map(|t| sixfold(after, t) - sixfold(before, t)).sum::<f64>() / 6.0
}

/// Puts points back until no triangle is turned over and no more pairs cross than before. Gives how many were put back.
fn put_back_bad(mesh: &Mesh, mut moved: Vec<Point>, progress: &Progress) -> Result<(Mesh, usize), TradeError> {
    let old = mesh.points();
    let changed =
        |moved: &[Point], t: u32| mesh.triangles()[t as usize].iter().any(|&i| moved[i as usize] != old[i as usize]);
    let before: std::collections::HashSet<(u32, u32)> =
        crossing_pairs(mesh, &triangle_bvh(mesh), &progress.stage(0.0, 0.2))?.into_iter().collect();
    let mut held = vec![false; old.len()];
    for round in 0..=ROUNDS {
        let stage = progress.stage(0.2, 1.0);
        stage.report(round as f64 / ROUNDS as f64, "looking for crossings")?;
        let now = Mesh::new(moved.clone(), mesh.triangles().to_vec(), mesh.face_of().to_vec())?;
        let mut bad: Vec<u32> = (0..mesh.triangles().len() as u32)
            .filter(|&t| changed(&moved, t) && now.area_vector(t as usize).dot(mesh.area_vector(t as usize)) <= 0.0)
            .collect();
        if bad.is_empty() {
            let pairs = crossing_pairs(&now, &triangle_bvh(&now), &Progress::unwatched())?;
            bad.extend(pairs.iter().filter(|p| !before.contains(p)).flat_map(|&(a, b)| [a, b]));
        }
        if bad.is_empty() {
            return Ok((now, held.iter().filter(|h| **h).count()));
        }
        for t in bad {
            for i in mesh.triangles()[t as usize] {
                held[i as usize] |= moved[i as usize] != old[i as usize];
                moved[i as usize] = old[i as usize];
            }
        }
    }
    Err(TradeError::refused(
        "smoothing makes the surface pass through itself; use less strength or fewer passes",
        vec![],
    ))
}
