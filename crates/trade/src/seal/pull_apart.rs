//! `seal.pull_apart`: makes each shell or each face a part of its own.

use nimbet_kernel::{Mesh, Progress, Topology, shells};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::words::count;
use crate::{Outcome, TradeError};

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

impl PullApart {
    pub(crate) fn apply(&self, mesh: &Mesh, progress: &Progress) -> Result<Outcome, TradeError> {
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
        let mut members: Vec<Vec<u32>> = vec![Vec::new(); pieces];
        for (t, &piece) in piece_of.iter().enumerate() {
            members[piece as usize].push(t as u32);
        }
        let area = |list: &[u32]| list.iter().map(|&t| mesh.area_vector(t as usize).length()).sum::<f64>();
        let mut order: Vec<(f64, usize)> = members.iter().enumerate().map(|(n, m)| (area(m), n)).collect();
        order.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
        let mut parts = order.into_iter().map(|(_, n)| mesh.retain_triangles(|t| piece_of[t] as usize == n));
        let largest = parts.next().unwrap_or_default();
        let more = parts.collect();
        Ok(Outcome { more, ..Outcome::of(largest, format!("pulled apart into {}", count(pieces, one, many))) })
    }
}
