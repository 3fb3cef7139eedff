//! `shape.repeat`: copies of a part in a row or a ring.

use glam::DQuat;
use nimbet_kernel::{Mesh, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::Axis;
use crate::budget::Extent;
use crate::parameter::{Move, Position};
use crate::solids::{arranged, body, volume};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::{Xyz, count};
use crate::{Made, Outcome, TradeError};

/// Where the copies are.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase", deny_unknown_fields)]
pub enum Copies {
    /// One after the other.
    #[schemars(title = "In a row")]
    Row {
        /// From each to the next, mm.
        #[schemars(with = "Move")]
        step: Xyz,
        /// How many there are in all, the part itself included.
        #[schemars(title = "How many in all", range(min = 1, max = 200))]
        count: usize,
    },
    /// Evenly round an axis.
    #[schemars(title = "In a ring")]
    Ring {
        /// The direction of the axis.
        #[schemars(title = "About", extend("default" = "z"))]
        axis: Axis,
        /// A point on it, mm.
        #[serde(default)]
        #[schemars(with = "Position")]
        through: Xyz,
        /// How many there are in all, the part itself included.
        #[schemars(title = "How many in all", range(min = 1, max = 200))]
        count: usize,
    },
    /// At picked points.
    #[schemars(title = "At points")]
    Points {
        /// The first is on the part itself; each other gets a copy that lies to it as the part lies to the first, mm.
        #[schemars(with = "Vec<Position>", extend("asks" = "points", "least" = 2, "hint" = "Click a point of the part, then where that point of each copy goes."))]
        points: Vec<Xyz>,
    },
}

/// Parameters of `shape.repeat`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Repeat {
    /// Where.
    #[schemars(title = "Where")]
    pub copies: Copies,
    /// Whether they become one part; else each is one of its own.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Unite them")]
    pub join: bool,
}

/// More copies than this nobody can handle one by one.
const MOST: usize = 200;

impl Copies {
    /// How many there are in all, the part itself included.
    pub fn count(&self) -> usize {
        match self {
            Self::Row { count, .. } | Self::Ring { count, .. } => *count,
            Self::Points { points } => points.len(),
        }
    }
}

impl Tool for Repeat {
    const KIND: &'static str = "shape.repeat";
    const WHAT: &'static str = "Copies in a row or a ring.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "repeat",
        name: "Repeat",
        hint: "Copies in a row, a ring or at picked points",
        group: "Place",
        words: &["array", "pattern", "copies", "duplicate", "polar"],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "copies": { "row": { "step": [(b.bounds().1[0] * 1.1).ceil(), 0.0, 0.0], "count": 3 } } }),
    }];

    fn title(&self) -> String {
        format!("Repeat, {} in all", self.copies.count())
    }

    fn makes(&self, parts: &[Extent]) -> f64 {
        parts[0].triangles * self.copies.count() as f64
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let in_all = self.copies.count();
        if !(2..=MOST).contains(&in_all) {
            let why = match self.copies {
                Copies::Points { .. } => format!("pick a point on the part, then 1 to {} for its copies", MOST - 1),
                _ => format!("there can be 2 to {MOST} in all"),
            };
            return Err(TradeError::refused(why, vec![]));
        }
        let put = |n: usize, p: Point| match &self.copies {
            Copies::Row { step, .. } => p + Point::from_array(*step) * n as f64,
            Copies::Points { points } => p + Point::from_array(points[n]) - Point::from_array(points[0]),
            Copies::Ring { axis, through, .. } => {
                let angle = n as f64 / in_all as f64 * std::f64::consts::TAU;
                let through = Point::from_array(*through);
                through + DQuat::from_axis_angle(axis.unit(), angle) * (p - through)
            }
        };
        let copies: Result<Vec<Mesh>, _> = (1..in_all).map(|n| mesh.clone().map_points(|p| put(n, p))).collect();
        let copies = copies?;
        if copies.contains(mesh) {
            return Err(TradeError::refused("a copy would be in the place of the part itself", vec![]));
        }
        let made = count(in_all, "copy", "copies");
        if !self.join {
            return Ok(Outcome {
                more: Made::each_of(copies, "Copy", 2),
                ..Outcome::of(mesh.clone(), format!("{made} in all"))
            });
        }
        let inputs: Vec<&Mesh> = std::iter::once(mesh).chain(&copies).collect();
        let all = arranged(&inputs, false, &|_| "the part".into(), &progress.stage(0.0, 0.8))?;
        let one = body(&all, |w| w.iter().any(|w| *w > 0), &progress.stage(0.8, 1.0))?;
        let done = format!("united {made}: {}", volume(&one));
        Ok(Outcome::of(one, done))
    }
}
