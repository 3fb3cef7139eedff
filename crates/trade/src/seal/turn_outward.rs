//! `seal.turn_outward`: turns closed shells so that bodies face outward and voids inward.

use nimbet_kernel::Topology;
use nimbet_kernel::crossings::triangle_bvh;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::budget::Effort;
use crate::examine::{About, nesting};
use crate::tool::{Cure, Effect, Entry, Given, Needs, Tool};
use crate::words::count;
use crate::{Outcome, TradeError};

/// Parameters of `seal.turn_outward`: none.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TurnOutward {}

impl Tool for TurnOutward {
    const KIND: &'static str = "seal.turn_outward";
    const WHAT: &'static str = "Turn closed shells so that they face outward, voids inward.";
    const EFFORT: Effort = Effort::Passing;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "turn_outward",
        name: "Turn outward",
        hint: "Bodies outward, voids inward",
        group: "Inside and outside",
        words: &["flip normals", "inside out", "reverse", "orientation"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({}),
    }];

    fn title(&self) -> String {
        "Turn outward".into()
    }

    fn remedies(about: &About) -> Vec<Cure> {
        match about {
            About::InsideOut { .. } => vec![Cure::new(0, "Turn outward, voids inward", Self {})],
            _ => vec![],
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        progress.report(0.2, "looking which shell lies in which")?;
        let nesting = nesting(mesh, &topology, &triangle_bvh(mesh), progress)?;
        let wrong: Vec<u32> = nesting.shells.iter().filter(|s| s.inside_out).map(|s| s.number).collect();
        let not_closed = nesting.shells.iter().filter(|s| !s.closed).count();
        if wrong.is_empty() {
            return Err(TradeError::nothing(if not_closed > 0 {
                "no closed shell faces the wrong way; open ones have no outside yet: close them first"
            } else {
                "every shell faces the right way already"
            }));
        }
        let mut turned = vec![false; nesting.count];
        for &shell in &wrong {
            turned[shell as usize] = true;
        }
        let mut out = mesh.clone();
        out.reverse_triangles(|t| turned[nesting.shell_of[t] as usize]);
        let voids = nesting.shells.iter().filter(|s| s.inside_out && s.depth % 2 == 1).count();
        let bodies = wrong.len() - voids;
        let mut done = Vec::new();
        if bodies > 0 {
            done.push(format!("turned {} outward", count(bodies, "shell", "shells")));
        }
        if voids > 0 {
            done.push(format!("turned {} inward, as it bounds empty space", count(voids, "void", "voids")));
        }
        let left = if not_closed > 0 {
            vec![format!(
                "{} left as it is: an open shell has no outside yet",
                count(not_closed, "open shell", "open shells")
            )]
        } else {
            vec![]
        };
        Ok(Outcome { done, left, ..Outcome::of(out, String::new()) })
    }

    fn effect(&self) -> Effect {
        Effect::Mends
    }
}
