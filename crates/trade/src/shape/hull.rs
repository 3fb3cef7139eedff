//! `shape.hull`: the convex hull of parts.

use nimbet_kernel::surfaces::{DEFAULT_ANGLE, Grouping, default_tolerance, group_faces};
use nimbet_kernel::{Aabb, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::budget::Effort;
use crate::parameter::Part;
use crate::solids::volume;
use crate::tool::{Entry, Given, Needs, Tool};
use crate::{Made, Outcome, TradeError};

/// Parameters of `shape.hull`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Hull {
    /// The numbers of the parts that the hull goes round too. They stay, as this one does: the hull is a part of its own.
    #[serde(default)]
    #[schemars(title = "The other parts", with = "Vec<Part>")]
    pub with: Vec<u32>,
}

impl Tool for Hull {
    const KIND: &'static str = "shape.hull";
    const WHAT: &'static str = "Stretch a convex skin over parts.";
    const EFFORT: Effort = Effort::Passing;
    const KEEPS_FACES: bool = false;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "hull",
        name: "Hull",
        hint: "A convex skin stretched over parts",
        group: "Together and apart",
        words: &["convex", "envelope", "wrap"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({ "with": [] }),
    }];

    fn title(&self) -> String {
        "Hull".into()
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, others, progress, .. } = *given;
        progress.report(0.0, "stretching a skin over the parts")?;
        let points: Vec<Point> = std::iter::once(mesh).chain(others).flat_map(|m| m.points().iter().copied()).collect();
        let Some(made) = nimbet_kernel::hull::hull(&points, progress)? else {
            return Err(TradeError::refused("all points lie in one plane, so a hull would have no volume", vec![]));
        };
        let tolerance = default_tolerance(&Aabb::of(made.points().iter().copied()));
        let made = group_faces(made, Grouping { angle: DEFAULT_ANGLE, tolerance }, progress)?;
        let done = format!(
            "stretched a hull of {} over {}",
            volume(&made),
            if others.is_empty() { "the part" } else { "the parts" }
        );
        Ok(Outcome { more: vec![Made::of(made, "Hull")], ..Outcome::of(mesh.clone(), done) })
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        self.with.iter_mut().collect()
    }
}
