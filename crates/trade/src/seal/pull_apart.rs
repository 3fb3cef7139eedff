//! `seal.pull_apart`: makes each shell or each face a part of its own.

use nimbet_kernel::{Mesh, Topology, shells};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::budget::Effort;
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::count;
use crate::{Made, Outcome, TradeError};

/// Into what a part is pulled apart.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Pieces {
    /// Connected pieces.
    #[default]
    Shells,
    /// Faces.
    Faces,
}

/// Parameters of `seal.pull_apart`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PullApart {
    /// Into what.
    #[serde(default)]
    pub into: Pieces,
}

/// More parts than this nobody can handle one by one.
const MOST_PIECES: usize = 200;

impl Tool for PullApart {
    const KIND: &'static str = "seal.pull_apart";
    const WHAT: &'static str = "Make each shell or face a part of its own.";
    const EFFORT: Effort = Effort::Passing;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "pull_apart",
        name: "Pull apart",
        hint: "Each shell or face becomes a part of its own",
        group: "Faces and shells",
        words: &["explode", "separate", "split", "pieces"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({ "into": "shells" }),
    }];

    fn title(&self) -> String {
        "Pull apart".into()
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        progress.report(0.1, "pulling apart")?;
        let (piece_of, pieces) = match self.into {
            Pieces::Shells => shells::shells(&Topology::new(mesh.triangles(), mesh.points().len())),
            Pieces::Faces => {
                let mut ids: Vec<u32> = mesh.face_of().iter().map(|f| f.0).collect();
                ids.sort_unstable();
                ids.dedup();
                (mesh.face_of().iter().map(|f| ids.partition_point(|i| *i < f.0) as u32).collect(), ids.len())
            }
        };
        let (one, many) = match self.into {
            Pieces::Shells => ("shell", "shells"),
            Pieces::Faces => ("face", "faces"),
        };
        if pieces < 2 {
            return Err(TradeError::nothing(format!("the part is a single {one}")));
        }
        if pieces > MOST_PIECES {
            return Err(TradeError::refused(
                format!("that would make {}; {MOST_PIECES} are the most", count(pieces, "part", "parts")),
                vec![],
            ));
        }
        let area = |m: &Mesh| (0..m.triangles().len()).map(|t| m.area_vector(t).length()).sum::<f64>();
        let mut parts: Vec<(f64, Mesh)> = mesh.pieces(&piece_of, pieces).into_iter().map(|m| (area(&m), m)).collect();
        parts.sort_by(|a, b| b.0.total_cmp(&a.0));
        let mut parts = parts.into_iter().map(|(_, part)| part);
        let largest = parts.next().unwrap_or_default();
        let more = Made::each_of(parts.collect(), "Piece", 2);
        Ok(Outcome { more, ..Outcome::of(largest, format!("pulled apart into {}", count(pieces, one, many))) })
    }
}
