//! `shape.mirror`: a part mirrored across a plane, joined to itself or not.

use nimbet_kernel::precision::precision;
use nimbet_kernel::{Mesh, Point, Topology};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::sheets::Plane;
use crate::budget::{Effort, Extent};
use crate::parameter::LengthOrNone;
use crate::seal::Join;
use crate::solids::{arranged, body};
use crate::tool::{Effect, Entry, Given, Needs, Tool};
use crate::words::millimetres;
use crate::{Outcome, TradeError};

/// Parameters of `shape.mirror`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Mirror {
    /// The plane it is mirrored across.
    pub across: Plane,
    /// Whether both halves become one part: an open part is welded across the plane, a solid united.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Join both halves")]
    pub join: bool,
    /// How far naked edges may lie from each other to be welded, mm.
    #[serde(default)]
    #[schemars(with = "LengthOrNone", extend("hint" = "How far naked edges may lie from each other", "when" = { "/join": true }))]
    pub reach: f64,
}

impl Tool for Mirror {
    const KIND: &'static str = "shape.mirror";
    const WHAT: &'static str = "Mirror across a plane.";
    const EFFORT: Effort = Effort::Passing;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "mirror",
        name: "Mirror",
        hint: "Across a plane, joined to itself or not",
        group: "Place",
        words: &["reflect", "symmetry", "half"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({ "across": { "at": [0, 0, 0], "normal": [1, 0, 0] }, "join": true, "reach": 0 }),
    }];

    fn title(&self) -> String {
        if self.join { "Mirror and join" } else { "Mirror" }.into()
    }

    fn makes(&self, parts: &[Extent]) -> f64 {
        2.0 * parts.iter().map(|p| p.triangles).sum::<f64>()
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let across = self.across.on(mesh)?;
        let frame = across.frame()?;
        let mirrored = |mesh: &Mesh, on: &dyn Fn(Point) -> bool| {
            let mut other = mesh.clone().map_points(|p| match on(p) {
                true => p,
                false => p - frame.normal * (2.0 * frame.height(p)),
            })?;
            other.reverse_triangles(|_| true);
            Ok::<Mesh, TradeError>(other)
        };
        let plane = across.told();
        if !self.join {
            return Ok(Outcome::of(mirrored(mesh, &|_| false)?, format!("mirrored across {plane}")));
        }
        // What lies on the plane but for the last digits of its points lies on it.
        let precision = precision(mesh.points().iter());
        let onto = |p: Point| match frame.height(p) {
            height if height.abs() <= precision => p - frame.normal * height,
            _ => p,
        };
        let mesh = &mesh.clone().map_points(onto)?;
        let other = mirrored(mesh, &|p| frame.height(p).abs() <= precision)?;
        let naked = Topology::new(mesh.triangles(), mesh.points().len()).naked_halves();
        if naked.is_empty() {
            let all = arranged(&[mesh, &other], false, &|_| "the part".into(), &progress.stage(0.0, 0.8))?;
            let made = body(&all, |w| w.iter().any(|w| *w > 0), &progress.stage(0.8, 1.0))?;
            return Ok(Outcome::of(made, format!("mirrored across {plane} and united")));
        }
        // How far the border stands off the plane: the gap is twice that.
        let off = naked
            .iter()
            .map(|h| frame.height(mesh.points()[mesh.triangles()[*h as usize / 3][*h as usize % 3] as usize]).abs())
            .fold(f64::INFINITY, f64::min);
        if 2.0 * off > self.reach.max(precision) {
            let why = format!(
                "the halves would not meet: the naked edges come no nearer to {plane} than {}; set it there, or a reach of {}",
                millimetres(off),
                millimetres(2.0 * off)
            );
            return Err(TradeError::refused(why, vec![]));
        }
        let mut outcome =
            Join { with: vec![0], reach: self.reach }.apply(&Given::part(mesh, progress).with(&[other]))?;
        outcome.done[0] = format!("mirrored across {plane} and joined");
        Ok(outcome)
    }

    fn effect(&self) -> Effect {
        if self.join { Effect::Changes } else { Effect::MovesAll }
    }
}
