//! `seal.turn`: turns what is picked over, so that its outside becomes its inside.

use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{Mesh, Topology, shells};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::budget::Effort;
use crate::examine::FacePick;
use crate::parameter::Position;
use crate::picks::{picked_faces, triangle_under};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::{Xyz, count};
use crate::{Outcome, TradeError};

/// What to turn.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum TurnChoice {
    /// The whole part.
    #[default]
    #[schemars(title = "The part")]
    Part,
    /// The shells that lie under the points.
    Shells(#[schemars(with = "Vec<Position>", extend("asks" = "shells"))] Vec<Xyz>),
    /// The faces that lie under the points.
    Faces(Vec<FacePick>),
}

/// Parameters of `seal.turn`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Turn {
    /// What to turn.
    #[serde(default)]
    pub what: TurnChoice,
}

impl Tool for Turn {
    const KIND: &'static str = "seal.turn";
    const WHAT: &'static str = "Turn what is picked over.";
    const EFFORT: Effort = Effort::Passing;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "turn",
        name: "Turn over",
        hint: "The part, shells or faces, inside out",
        group: "Inside and outside",
        words: &["flip", "reverse", "invert normals"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({ "what": "part" }),
    }];

    fn title(&self) -> String {
        match &self.what {
            TurnChoice::Part => "Turn the part".into(),
            TurnChoice::Shells(p) => format!("Turn {}", count(p.len(), "shell", "shells")),
            TurnChoice::Faces(p) => format!("Turn {}", count(p.len(), "face", "faces")),
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        progress.report(0.1, "turning")?;
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        let turned: Vec<bool> = match &self.what {
            TurnChoice::Part => vec![true; mesh.triangles().len()],
            TurnChoice::Shells(points) => {
                if points.is_empty() {
                    return Err(TradeError::nothing("no shell was picked"));
                }
                let bvh = triangle_bvh(mesh);
                let (shell_of, count) = shells::shells(&topology);
                let mut picked = vec![false; count];
                for near in points {
                    picked[shell_of[triangle_under(mesh, &bvh, *near, "the shell")?] as usize] = true;
                }
                shell_of.iter().map(|s| picked[*s as usize]).collect()
            }
            TurnChoice::Faces(points) => {
                let faces = picked_faces(mesh, points)?;
                mesh.face_of().iter().map(|f| faces.binary_search(f).is_ok()).collect()
            }
        };
        let mut out = mesh.clone();
        out.reverse_triangles(|t| turned[t]);
        let clashing = |m: &Mesh| Topology::new(m.triangles(), m.points().len()).edges_with(EdgeUse::Clashing).count();
        let (before, after) = (clashing(mesh), clashing(&out));
        let told = format!("turned {}", count(turned.iter().filter(|t| **t).count(), "triangle", "triangles"));
        let mut outcome = Outcome::of(out, told);
        if after > before {
            outcome.left.push(format!(
                "{} more now disagree about the outside with what is beside them",
                count(after - before, "edge", "edges")
            ));
        }
        Ok(outcome)
    }
}
