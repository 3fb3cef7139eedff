//! `wall.grow`: a solid grown or shrunk all round, less itself on request: a sleeve over a core.

use nimbet_kernel::measure::measure_triangles;
use nimbet_kernel::offset::{grow, grow_sampled};
use nimbet_kernel::thickness::Side;
use nimbet_kernel::{Aabb, Mesh, Topology, shells};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::making::{CornerStyle, RimStyle, cleaned, closing, how, lost_faces, moved_cost, told};
use crate::budget::{Cost, Extent};
use crate::examine::About;
use crate::parameter::{Length, Offset, Part};
use crate::solids::{arranged, body, volume};
use crate::tool::{Cure, Entry, Given, Needs, Tool};
use crate::words::{count, figure, millimetres};
use crate::{Outcome, TradeError};

/// Parameters of `wall.grow`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Grow {
    /// How far the surface moves, mm: outward above 0, inward below.
    #[schemars(title = "By (below 0 it shrinks)", with = "Offset")]
    pub by: f64,
    /// Corners that stand out.
    #[serde(default)]
    #[schemars(extend("when" = { "/sampled": false }))]
    pub corners: CornerStyle,
    /// How far arcs may be off a true circle, mm; by the size of the part when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Chord tolerance", with = "Option<Length>", extend("empty" = "by the part's size", "folded" = true))]
    pub chord: Option<f64>,
    /// Sampled on a grid at this resolution, mm, instead of moved: for scans rougher than the distance.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Sampled at", with = "Option<Length>", extend("empty" = "not", "folded" = true, "hint" = "On a grid of this step: for scans rougher than the distance"))]
    pub sampled: Option<f64>,
    /// The number of another part that is taken away from the grown one in the same go; it stays.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Less a core (empty: none)", with = "Option<Part>")]
    pub less: Option<u32>,
    /// Whether of what is left only the largest piece stays.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Drop all but the largest piece")]
    pub largest: bool,
}

impl Tool for Grow {
    const KIND: &'static str = "wall.grow";
    const WHAT: &'static str = "Grow or shrink a solid all round.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "grow",
        name: "Grow or shrink",
        hint: "The whole solid by a distance; less a core on request",
        group: "Of a solid",
        words: &["offset", "inflate", "shrink", "clearance", "expand"],
        needs: Needs::Closed,
        mark: "",
        start: |b| json!({ "by": b.wall(), "corners": "sharp" }),
    }];

    fn title(&self) -> String {
        format!("{} by {}", if self.by < 0.0 { "Shrink" } else { "Grow" }, millimetres(self.by.abs()))
    }

    fn cost(&self, parts: &[Extent]) -> Cost {
        moved_cost(parts, self.sampled, 0.0)
    }

    fn remedies(about: &About) -> Vec<Cure> {
        let About::ThinWall { by } = *about else { return vec![] };
        vec![Cure::new(0, format!("Grow the whole part by {}", millimetres(by)), Self { by, ..Self::default() })]
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, others, progress, .. } = *given;
        refuse_open(mesh)?;
        let by = self.by;
        let mut outcome = Outcome::of(mesh.clone(), String::new());
        let what = if by > 0.0 { "grown" } else { "shrunk" };
        outcome.done.clear();
        let made = match self.sampled {
            Some(resolution) => {
                let (made, off) = grow_sampled(mesh, by, resolution, &progress.stage(0.0, 0.6)).map_err(told)?;
                outcome.done.push(format!("sampled: off the distance by {} at most", millimetres(off)));
                made
            }
            None => {
                let how = how(mesh, &[by], self.corners, RimStyle::Square, self.chord)?;
                grow(mesh, &|_| by, &how, &progress.stage(0.0, 0.6)).map_err(told)?
            }
        };
        outcome.done.insert(0, format!("{what} by {}: {}", millimetres(by.abs()), volume(&made.mesh)));
        if self.sampled.is_none() {
            outcome.done.extend(cleaned(made.cleaned));
            if made.cleaned {
                let side = if by > 0.0 { Side::Outside } else { Side::Inside };
                let (notices, tight) = lost_faces(mesh, &made.mesh, made.moved, by, progress)?;
                outcome.notices.extend(notices);
                outcome.tight = tight;
                outcome.notices.extend(closing(mesh, side, by.abs(), &progress.stage(0.6, 0.7))?);
            }
        }
        outcome.mesh = made.mesh;
        if let (Some(number), Some(core)) = (self.less, others.first()) {
            let name = |n: usize| if n == 0 { "the part".to_owned() } else { format!("part {number}") };
            let all = arranged(&[&outcome.mesh, core], false, &name, &progress.stage(0.7, 0.95))?;
            let left = body(&all, |w| w[0] > 0 && w[1] <= 0, &progress.stage(0.95, 1.0))?;
            if left.triangles().is_empty() {
                return Err(TradeError::refused("nothing would be left: the part lies wholly inside the core", vec![]));
            }
            outcome.done.push(format!("took part {number} away; {} are left", volume(&left)));
            outcome.mesh = left;
        }
        let (kept, pieces) = largest(&outcome.mesh);
        if pieces.len() > 1 {
            let told: Vec<String> = pieces[1..].iter().take(4).map(|v| format!("{} mm³", figure(*v))).collect();
            let what =
                format!("{} besides the largest: {}", count(pieces.len() - 1, "piece", "pieces"), told.join(", "));
            if self.largest {
                outcome.done.push(format!("dropped {what}"));
                outcome.mesh = kept;
            } else {
                outcome.left.push(format!("it is in {what}"));
            }
        }
        Ok(outcome)
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        self.less.iter_mut().collect()
    }
}

/// Refuses a part that is open, with where.
pub(super) fn refuse_open(mesh: &Mesh) -> Result<(), TradeError> {
    if mesh.triangles().is_empty() {
        return Err(TradeError::refused("the part has no triangles", vec![]));
    }
    match Topology::new(mesh.triangles(), mesh.points().len()).naked_halves().first() {
        None => Ok(()),
        Some(h) => {
            let at = mesh.points()[mesh.triangles()[*h as usize / 3][*h as usize % 3] as usize];
            Err(TradeError::refused("the part is open, so it has no inside; seal it first, or thicken it", vec![at]))
        }
    }
}

/// The largest outer piece with what is inside its box, and the volumes of all outer pieces, the largest first.
fn largest(mesh: &Mesh) -> (Mesh, Vec<f64>) {
    let (shell_of, count) = shells::shells(&Topology::new(mesh.triangles(), mesh.points().len()));
    let mut members: Vec<Vec<u32>> = vec![Vec::new(); count];
    for (t, s) in shell_of.iter().enumerate() {
        members[*s as usize].push(t as u32);
    }
    let measured: Vec<_> = members.iter().map(|m| measure_triangles(mesh, m)).collect();
    let mut outer: Vec<usize> = (0..count).filter(|s| measured[*s].volume > 0.0).collect();
    outer.sort_by(|a, b| measured[*b].volume.total_cmp(&measured[*a].volume));
    let volumes = outer.iter().map(|s| measured[*s].volume).collect();
    let Some(first) = outer.first() else { return (mesh.clone(), volumes) };
    let bounds: Aabb = measured[*first].bounds;
    // Voids inside it face inward.
    let stays = |s: usize| s == *first || (measured[s].volume < 0.0 && bounds.union(measured[s].bounds) == bounds);
    (mesh.retain_triangles(|t| stays(shell_of[t] as usize)), volumes)
}
