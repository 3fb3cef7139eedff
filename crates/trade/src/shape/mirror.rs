//! `shape.mirror`: a part mirrored across a plane, joined to itself or not.

use nimbet_kernel::{Mesh, Progress, Topology};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::sheets::Plane;
use super::solids::{arranged, body};
use crate::seal::Join;
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
    pub join: bool,
    /// How far naked edges may lie from each other to be welded, mm.
    #[serde(default)]
    pub reach: f64,
}

impl Mirror {
    pub(crate) fn apply(&self, mesh: &Mesh, progress: &Progress) -> Result<Outcome, TradeError> {
        if !(self.reach >= 0.0 && self.reach.is_finite()) {
            return Err(TradeError::refused("the reach must be a length", vec![]));
        }
        let across = self.across.on(mesh)?;
        let frame = across.frame()?;
        let mut other = mesh.clone().map_points(|p| p - frame.normal * (2.0 * frame.height(p)))?;
        other.reverse_triangles(|_| true);
        let plane = across.told();
        if !self.join {
            return Ok(Outcome::of(other, format!("mirrored across {plane}")));
        }
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
        if 2.0 * off > self.reach.max(1e-6) {
            let why = format!(
                "the halves would not meet: the naked edges come no nearer to {plane} than {}; set it there, or a reach of {}",
                millimetres(off),
                millimetres(2.0 * off)
            );
            return Err(TradeError::refused(why, vec![]));
        }
        let mut outcome = Join { with: vec![0], reach: self.reach }.apply(mesh, &[other], progress)?;
        outcome.done[0] = format!("mirrored across {plane} and joined");
        Ok(outcome)
    }
}
