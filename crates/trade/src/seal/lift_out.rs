//! `seal.lift_out`: takes triangles out and leaves a clean border. `seal.re_skin`: takes them out and covers the openings
//! tangent to what is round them.
//!
//! What is taken out: tangled places, picked faces, or what a brush touched; grown by rings of neighbours; then trimmed, so
//! that no triangle hangs on by a single side and no crumb is left inside. Cost: linear, but for the covers.

use std::collections::HashSet;

use nimbet_kernel::crossings::{crossing_pairs, triangle_bvh};
use nimbet_kernel::topology::{EdgeUse, Topology};
use nimbet_kernel::{Mesh, Point, Progress, shells};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::cover_rim::cover_new;
use super::named_rims;
use super::new_surface::refuse_clash;
use crate::budget::Effort;
use crate::examine::{About, FacePick};
use crate::picks::{Dab, picked_faces};
use crate::tool::{Cure, Effect, Entry, Given, Needs, Tool};
use crate::words::{count, millimetres};
use crate::{Outcome, TradeError};

/// What to take out.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum LiftChoice {
    /// Every triangle that crosses another.
    Tangles,
    /// Crossing triangles within a distance of a point.
    #[schemars(title = "One tangle")]
    Tangle(Dab),
    /// The faces that lie under the points.
    Faces(Vec<FacePick>),
    /// All triangles within a distance of any of the points: the dabs of a brush.
    Brush(Vec<Dab>),
}

/// Parameters of `seal.lift_out`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct LiftOut {
    /// What to take out.
    pub what: LiftChoice,
    /// By how many rings of neighbours it is grown.
    #[serde(default)]
    #[schemars(title = "Rings of neighbours taken out as well", range(max = 50))]
    pub rings: u32,
}

/// Parameters of `seal.re_skin`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ReSkin {
    /// What to take out.
    pub what: LiftChoice,
    /// By how many rings of neighbours it is grown.
    #[serde(default)]
    #[schemars(title = "Rings of neighbours taken out as well", range(max = 50))]
    pub rings: u32,
    /// Whether it may pass through the part, to be untangled after. Otherwise that is refused.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "May pass through the part, to be untangled after")]
    pub may_cross: bool,
}

/// One ring more than what crosses, so that the border runs through sound triangles.
const ROUND_TANGLE: u32 = 1;

impl Tool for LiftOut {
    const KIND: &'static str = "seal.lift_out";
    const WHAT: &'static str = "Take triangles out and leave a clean border.";
    const EFFORT: Effort = Effort::Searching;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "lift_out",
        name: "Lift out",
        hint: "Take tangles, faces or a brush stroke out and leave a clean border",
        group: "Take out and make anew",
        words: &["delete faces", "cut out", "erase"],
        needs: Needs::Anything,
        mark: "",
        start: |b| match b.seen.is_some_and(|seen| !seen.tangles.is_empty()) {
            true => json!({ "what": "tangles", "rings": 1 }),
            false => json!({ "what": { "brush": [] }, "rings": 0 }),
        },
    }];

    fn title(&self) -> String {
        "Lift out".into()
    }

    fn remedies(about: &About) -> Vec<Cure> {
        let About::Tangle { name, ball, .. } = about else { return vec![] };
        let what = LiftChoice::Tangle(ball.clone());
        vec![Cure::new(2, format!("Lift {name} out"), Self { what, rings: ROUND_TANGLE })]
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let gone = lifted(mesh, &self.what, self.rings, progress)?;
        let taken = gone.iter().filter(|g| **g).count();
        let out = mesh.retain_triangles(|t| !gone[t]);
        let rims = named_rims(&out).0.len();
        Ok(Outcome {
            done: vec![format!(
                "took out {}, leaving {}",
                count(taken, "triangle", "triangles"),
                count(rims, "rim", "rims")
            )],
            ..Outcome::of(out, String::new())
        })
    }

    fn effect(&self) -> Effect {
        Effect::Mends
    }
}

impl Tool for ReSkin {
    const KIND: &'static str = "seal.re_skin";
    const WHAT: &'static str = "Take triangles out and cover the openings tangent to what is round them.";
    const EFFORT: Effort = Effort::Searching;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "re_skin",
        name: "Re-skin",
        hint: "Take a place out and cover it anew, tangent to what is round it",
        group: "Take out and make anew",
        words: &["heal", "repair area", "patch", "remesh"],
        needs: Needs::Anything,
        mark: "",
        start: |b| match b.seen.is_some_and(|seen| !seen.tangles.is_empty()) {
            true => json!({ "what": "tangles", "rings": 1 }),
            false => json!({ "what": { "brush": [] }, "rings": 1 }),
        },
    }];

    fn title(&self) -> String {
        "Re-skin".into()
    }

    fn remedies(about: &About) -> Vec<Cure> {
        let About::Tangle { name, ball, .. } = about else { return vec![] };
        let what = LiftChoice::Tangle(ball.clone());
        vec![Cure::new(1, format!("Re-skin {name}"), Self { what, rings: ROUND_TANGLE, may_cross: false })]
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let gone = lifted(mesh, &self.what, self.rings, &progress.stage(0.0, 0.4))?;
        let taken = gone.iter().filter(|g| **g).count();
        let open = mesh.retain_triangles(|t| !gone[t]);
        // Edges that were naked before stay so: they are other rims' business.
        let before = naked_places(mesh);
        let covered =
            cover_new(&open, |a, b| !before.contains(&edge_bits(a, b)), |_| false, &progress.stage(0.4, 0.9))?;
        if !self.may_cross {
            refuse_clash(&covered.mesh, open.triangles().len(), "the new skin", &progress.stage(0.9, 1.0))?;
        }
        let mut done = vec![format!("took out {}", count(taken, "triangle", "triangles"))];
        done.extend(covered.done);
        Ok(Outcome { done, ..covered })
    }

    fn effect(&self) -> Effect {
        Effect::Mends
    }
}

/// The places of naked edges, either way round.
pub(crate) fn naked_places(mesh: &Mesh) -> HashSet<[u64; 6]> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let place = |i: u32| mesh.points()[i as usize];
    topology.naked_halves().into_iter().map(|h| topology.ends(h)).map(|(a, b)| edge_bits(place(a), place(b))).collect()
}

pub(crate) fn edge_bits(a: Point, b: Point) -> [u64; 6] {
    let (a, b) = (a.to_array().map(f64::to_bits), b.to_array().map(f64::to_bits));
    let (a, b) = if a <= b { (a, b) } else { (b, a) };
    [a[0], a[1], a[2], b[0], b[1], b[2]]
}

/// Which triangles are taken out.
fn lifted(mesh: &Mesh, what: &LiftChoice, rings: u32, progress: &Progress) -> Result<Vec<bool>, TradeError> {
    let mut gone = chosen(mesh, what, progress)?;
    for _ in 0..rings {
        progress.check()?;
        let mut at = vec![false; mesh.points().len()];
        for (t, _) in gone.iter().enumerate().filter(|(_, g)| **g) {
            for p in mesh.triangles()[t] {
                at[p as usize] = true;
            }
        }
        for (t, g) in gone.iter_mut().enumerate() {
            *g |= mesh.triangles()[t].iter().any(|p| at[*p as usize]);
        }
    }
    trim(mesh, &mut gone, progress)?;
    if gone.iter().all(|g| *g) {
        return Err(TradeError::refused(
            "nothing of the part would be left; take out less",
            vec![mesh.points().iter().sum::<Point>() / mesh.points().len().max(1) as f64],
        ));
    }
    Ok(gone)
}

fn chosen(mesh: &Mesh, what: &LiftChoice, progress: &Progress) -> Result<Vec<bool>, TradeError> {
    let n = mesh.triangles().len();
    let mut gone = vec![false; n];
    let middle = |t: usize| mesh.corners(t).iter().sum::<Point>() / 3.0;
    match what {
        LiftChoice::Tangles | LiftChoice::Tangle(_) => {
            for (a, b) in crossing_pairs(mesh, &triangle_bvh(mesh), progress)? {
                let near = |t: u32| match what {
                    LiftChoice::Tangle(dab) => mesh.corners(t as usize).into_iter().any(|p| dab.holds(p)),
                    _ => true,
                };
                if near(a) && near(b) {
                    gone[a as usize] = true;
                    gone[b as usize] = true;
                }
            }
        }
        LiftChoice::Brush(dabs) => {
            for (t, g) in gone.iter_mut().enumerate() {
                *g = dabs.iter().any(|d| d.holds(middle(t)));
            }
        }
        LiftChoice::Faces(points) => {
            let faces = picked_faces(mesh, points)?;
            for (t, g) in gone.iter_mut().enumerate() {
                *g = faces.binary_search(&mesh.face_of()[t]).is_ok();
            }
        }
    }
    if gone.iter().any(|g| *g) {
        return Ok(gone);
    }
    Err(match what {
        LiftChoice::Tangles => TradeError::nothing("the surface nowhere passes through itself"),
        LiftChoice::Tangle(dab) => TradeError::NeedsNewPick {
            what: format!("the tangle {} across", millimetres(dab.radius * 2.0)),
            place: Point::from_array(dab.near),
        },
        LiftChoice::Faces(_) => TradeError::nothing("no face was picked"),
        LiftChoice::Brush(_) => TradeError::nothing("the brush touched nothing"),
    })
}

/// Takes out as well what would hang on by one side only, and crumbs cut off inside.
fn trim(mesh: &Mesh, gone: &mut [bool], progress: &Progress) -> Result<(), TradeError> {
    /// Each round shortens a spike by one triangle; longer ones are no spikes.
    const ROUNDS: usize = 3;
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    for _ in 0..ROUNDS {
        progress.check()?;
        let hanging: Vec<usize> = (0..gone.len())
            .filter(|&t| !gone[t])
            .filter(|&t| {
                let lost = (0..3).map(|k| topology.edge_of(3 * t as u32 + k)).filter(|&e| {
                    e != nimbet_kernel::topology::NO_EDGE
                        && topology.edge_use(e) != EdgeUse::Naked
                        && topology.halves(e).iter().all(|h| *h as usize / 3 == t || gone[*h as usize / 3])
                });
                lost.count() >= 2
            })
            .collect();
        if hanging.is_empty() {
            break;
        }
        for t in hanging {
            gone[t] = true;
        }
    }
    /// Pieces of more triangles than this are no crumbs but part of the model.
    const CRUMB: usize = 8;
    // Crumbs: pieces cut off from the rest that are smaller than what was taken out beside them.
    let kept: Vec<u32> = (0..gone.len() as u32).filter(|t| !gone[*t as usize]).collect();
    let open = mesh.retain_triangles(|t| !gone[t]);
    let (whole, _) = shells::shells(&topology);
    let (piece, pieces) = shells::shells(&Topology::new(open.triangles(), open.points().len()));
    let mut size = vec![0usize; pieces];
    piece.iter().for_each(|p| size[*p as usize] += 1);
    let mut largest = std::collections::HashMap::new();
    for (n, &t) in kept.iter().enumerate() {
        let best = largest.entry(whole[t as usize]).or_insert(0);
        *best = size[piece[n] as usize].max(*best);
    }
    let mut taken = std::collections::HashMap::new();
    for (t, _) in gone.iter().enumerate().filter(|(_, g)| **g) {
        *taken.entry(whole[t]).or_insert(0usize) += 1;
    }
    for (n, &t) in kept.iter().enumerate() {
        let (shell, size) = (whole[t as usize], size[piece[n] as usize]);
        if size < largest[&shell] && size <= CRUMB && taken.get(&shell).is_some_and(|n| size < *n) {
            gone[t as usize] = true;
        }
    }
    Ok(())
}
