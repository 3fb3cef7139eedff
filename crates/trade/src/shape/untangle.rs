//! `shape.untangle`: a part that crosses itself becomes its outer boundary.

use nimbet_kernel::{Mesh, Topology, shells};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::examine::About;
use crate::solids::{arranged, body, volume, without_small};
use crate::tool::{Cure, Effect, Entry, Given, Needs, Tool};
use crate::words::count;
use crate::{Outcome, TradeError};

/// Parameters of `shape.untangle`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Untangle {
    /// How often the surface must wind round what is kept; 1 when absent. With 2 only what is enclosed twice is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Keep what is wound round so often", range(min = 1), extend("empty" = "once", "unit" = "times"))]
    pub level: Option<u16>,
}

impl Tool for Untangle {
    const KIND: &'static str = "shape.untangle";
    const WHAT: &'static str = "Make a part that crosses itself its outer boundary.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "untangle",
        name: "Untangle",
        hint: "A part that crosses itself becomes its outer boundary",
        group: "Together and apart",
        words: &["self-intersection", "cross", "overlapping shells"],
        needs: Needs::Tangle,
        mark: "",
        start: |_| json!({}),
    }];

    fn title(&self) -> String {
        "Untangle".into()
    }

    fn remedies(about: &About) -> Vec<Cure> {
        match about {
            About::Tangle { closed: true, .. } => vec![Cure::new(0, "Untangle the part", Self::default())],
            _ => vec![],
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let level = self.level.unwrap_or(1);
        let least = i16::try_from(level).unwrap_or(i16::MAX);
        let all = arranged(&[mesh], false, &|_| "the part".into(), &progress.stage(0.0, 0.8))?;
        if least == 1 && all.cells().all(|c| matches!(c.winding[0], 0 | 1)) {
            return Err(TradeError::nothing(
                "the part does not cross itself: nothing of it is enclosed twice or inside out",
            ));
        }
        let made = body(&all, |w| w[0] >= least, &progress.stage(0.8, 1.0))?;
        if made.triangles().is_empty() {
            return Err(TradeError::nothing(format!("the surface winds round nothing {}", times(level))));
        }
        let (made, crumbs, pockets) = without_small(&made);
        let shells = |m: &Mesh| shells::shells(&Topology::new(m.triangles(), m.points().len())).1;
        let (before, after) = (shells(mesh), shells(&made));
        let done = format!(
            "kept what the surface winds round at least {}: {}, {} of {}",
            times(level),
            volume(&made),
            count(after, "shell", "shells"),
            before
        );
        let mut outcome = Outcome::of(made, done);
        if crumbs + pockets > 0 {
            outcome.done.push(format!(
                "dropped {} and filled {} between the folds, each smaller than a ten-thousandth of the part",
                count(crumbs, "crumb", "crumbs"),
                count(pockets, "pocket", "pockets")
            ));
        }
        Ok(outcome)
    }

    fn effect(&self) -> Effect {
        Effect::Mends
    }
}

fn times(n: u16) -> String {
    match n {
        1 => "once".into(),
        2 => "twice".into(),
        n => format!("{n} times"),
    }
}
