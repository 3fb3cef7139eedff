//! `shape.repeat`: copies of a part in a row or a ring.

use glam::DQuat;
use nimbet_kernel::{Mesh, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::Axis;
use super::solids::{arranged, body, volume};
use crate::words::{Xyz, count};
use crate::{Outcome, TradeError};

/// Where the copies are.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase", deny_unknown_fields)]
pub enum Copies {
    /// One after the other.
    Row {
        /// From each to the next, mm.
        step: Xyz,
    },
    /// Evenly round an axis.
    Ring {
        /// The direction of the axis.
        axis: Axis,
        /// A point on it, mm.
        #[serde(default)]
        through: Xyz,
    },
}

/// Parameters of `shape.repeat`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Repeat {
    /// Where.
    pub copies: Copies,
    /// How many there are in all, the part itself included.
    pub count: usize,
    /// Whether they become one part; else each is one of its own.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub join: bool,
}

/// More copies than this nobody can handle one by one.
const MOST: usize = 200;

impl Repeat {
    pub(crate) fn apply(&self, mesh: &Mesh, progress: &Progress) -> Result<Outcome, TradeError> {
        if !(2..=MOST).contains(&self.count) {
            return Err(TradeError::refused(format!("there can be 2 to {MOST} in all"), vec![]));
        }
        let put = |n: usize, p: Point| match &self.copies {
            Copies::Row { step } => p + Point::from_array(*step) * n as f64,
            Copies::Ring { axis, through } => {
                let angle = n as f64 / self.count as f64 * std::f64::consts::TAU;
                let through = Point::from_array(*through);
                through + DQuat::from_axis_angle(axis.unit(), angle) * (p - through)
            }
        };
        let copies: Result<Vec<Mesh>, _> = (1..self.count).map(|n| mesh.clone().map_points(|p| put(n, p))).collect();
        let copies = copies?;
        if copies[0] == *mesh {
            return Err(TradeError::refused("the copies would all be in one place; give a step", vec![]));
        }
        let made = count(self.count, "copy", "copies");
        if !self.join {
            return Ok(Outcome { more: copies, ..Outcome::of(mesh.clone(), format!("{made} in all")) });
        }
        let inputs: Vec<&Mesh> = std::iter::once(mesh).chain(&copies).collect();
        let all = arranged(&inputs, &|_| "the part".into(), &progress.stage(0.0, 0.8))?;
        let one = body(&all, mesh, |w| w.iter().any(|w| *w > 0), &progress.stage(0.8, 1.0))?;
        let done = format!("united {made}: {}", volume(&one));
        Ok(Outcome::of(one, done))
    }
}
