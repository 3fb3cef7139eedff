//! `seal.join`: makes several parts one, welded where their naked edges meet.

use nimbet_kernel::segments::nearest_on_segment;
use nimbet_kernel::{Aabb, Bvh, FaceId, Mesh, Point, Topology, weld};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::CloseGaps;
use crate::budget::Effort;
use crate::parameter::{LengthOrNone, Part};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::{count, millimetres};
use crate::{Outcome, TradeError};

/// Parameters of `seal.join`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Join {
    /// The numbers of the parts that go into this one.
    #[schemars(title = "Parts that go into this one", with = "Vec<Part>", extend("least" = 1))]
    pub with: Vec<u32>,
    /// The largest distance over which naked edges are joined, mm; 0 joins only those that meet exactly.
    #[serde(default)]
    #[schemars(with = "LengthOrNone", extend("hint" = "0 joins only edges that meet exactly"))]
    pub reach: f64,
}

impl Tool for Join {
    const KIND: &'static str = "seal.join";
    const WHAT: &'static str = "Make several parts one.";
    const EFFORT: Effort = Effort::Searching;
    const KEEPS_FACES: bool = false;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "join",
        name: "Join parts",
        hint: "Several parts become one, welded within reach",
        words: &["combine", "merge", "weld", "attach"],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "with": [], "reach": b.reach() }),
    }];

    fn title(&self) -> String {
        format!("Join {}", count(self.with.len() + 1, "part", "parts"))
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, others, progress, .. } = *given;
        if others.is_empty() {
            return Err(TradeError::refused("choose the parts to join with this one", vec![]));
        }
        progress.report(0.05, "putting the parts together")?;
        let mut left = Vec::new();
        for (n, one) in others.iter().enumerate() {
            let rest: Vec<&Mesh> = std::iter::once(mesh)
                .chain(others.iter().enumerate().filter(|(k, _)| *k != n).map(|(_, m)| m))
                .collect();
            left.extend(self.apart(self.with.get(n).copied().unwrap_or(0), one, &rest));
        }
        let together = together(mesh, others)?;
        let naked = |m: &Mesh| Topology::new(m.triangles(), m.points().len()).naked_halves().len();
        let before: usize = naked(mesh) + others.iter().map(naked).sum::<usize>();
        let mut outcome = Outcome::of(together, format!("joined {}", count(others.len() + 1, "part", "parts")));
        if self.reach > 0.0 && naked(&outcome.mesh) > 0 {
            let close = CloseGaps { reach: self.reach, leave: vec![] };
            match close.apply(&Given::part(&outcome.mesh, &progress.stage(0.1, 1.0))) {
                Ok(closed) => {
                    outcome.mesh = closed.mesh;
                    outcome.done.extend(closed.done);
                    outcome.largest_move = closed.largest_move;
                }
                Err(TradeError::NothingToDo { .. }) => {}
                Err(other) => return Err(other),
            }
        }
        let welded = before - naked(&outcome.mesh).min(before);
        outcome.done.push(format!("{} fewer", count(welded, "naked edge", "naked edges")));
        outcome.left = left;
        Ok(outcome)
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        self.with.iter_mut().collect()
    }

    fn uses_up(&self) -> bool {
        true
    }
}

impl Join {
    /// What keeps a part from meeting the rest, if it does not.
    fn apart(&self, number: u32, one: &Mesh, rest: &[&Mesh]) -> Option<String> {
        let edges = |m: &Mesh| -> Vec<[Point; 2]> {
            let topology = Topology::new(m.triangles(), m.points().len());
            let ends = |h| topology.ends(h);
            topology.naked_halves().into_iter().map(ends).map(|(a, b)| [a, b].map(|i| m.points()[i as usize])).collect()
        };
        let mine = edges(one);
        let theirs: Vec<[Point; 2]> = rest.iter().flat_map(|m| edges(m)).collect();
        if mine.is_empty() || theirs.is_empty() {
            return Some(format!(
                "part {number} has no naked edge to be joined at; it is a body of its own within the part"
            ));
        }
        let bvh = Bvh::new(theirs.iter().map(|e| Aabb::of(*e)).collect());
        let far = bvh.bounds().diagonal() + Aabb::of(mine.iter().flatten().copied()).union(bvh.bounds()).diagonal();
        let nearest = |p: Point| {
            bvh.nearest(p, far, |s| Some(nearest_on_segment(p, theirs[s as usize][0], theirs[s as usize][1]).1))
        };
        let (off, at) =
            mine.iter().filter_map(|e| nearest(e[0]).map(|(_, d)| (d, e[0]))).min_by(|a, b| a.0.total_cmp(&b.0))?;
        (off > self.reach).then(|| {
            let [x, y, z] = at.to_array();
            format!(
                "part {number} does not meet the others: its naked edges come no nearer than {}, at {x:.2}, {y:.2}, {z:.2}",
                millimetres(off)
            )
        })
    }
}

/// All triangles in one mesh, equal positions welded; faces stay apart.
fn together(mesh: &Mesh, others: &[Mesh]) -> Result<Mesh, TradeError> {
    let (mut points, mut triangles, mut faces) = mesh.clone().into_parts();
    for other in others {
        let offset = points.len() as u32;
        let next = faces.iter().map(|f| f.0 + 1).max().unwrap_or(0);
        points.extend(other.points());
        triangles.extend(other.triangles().iter().map(|t| t.map(|i| i + offset)));
        faces.extend(other.face_of().iter().map(|f| FaceId(f.0 + next)));
    }
    Ok(weld::weld_mesh(&points, &triangles, faces)?)
}
