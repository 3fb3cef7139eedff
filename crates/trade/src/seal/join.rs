//! `seal.join`: makes several parts one, welded where their naked edges meet.

use nimbet_kernel::precision::precision;
use nimbet_kernel::segments::nearest_on_segment;
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{Aabb, Bvh, FaceId, Mesh, Point, Topology, weld};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::{AgreeWindings, CloseGaps};
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
    /// The largest distance over which naked edges are joined, mm; 0 joins only what meets, as exactly as the parts are written.
    #[serde(default)]
    #[schemars(with = "LengthOrNone", extend("hint" = "0 joins only edges that meet"))]
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
        group: "Close",
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
        let all = || std::iter::once(mesh).chain(others);
        let reach = self.reach.max(precision(all().flat_map(Mesh::points)));
        let mut left = Vec::new();
        for (n, one) in others.iter().enumerate() {
            let rest: Vec<&Mesh> = std::iter::once(mesh)
                .chain(others.iter().enumerate().filter(|(k, _)| *k != n).map(|(_, m)| m))
                .collect();
            left.extend(apart(self.with.get(n).copied().unwrap_or(0), one, (&rest, reach)));
        }
        let together = together(mesh, others)?;
        let before: (f64, usize) = all().map(naked_and_clashing).fold((0.0, 0), |a, b| (a.0 + b.0, a.1 + b.1));
        let mut outcome = Outcome::of(together, format!("joined {}", count(others.len() + 1, "part", "parts")));
        if naked_and_clashing(&outcome.mesh).0 > 0.0 {
            let close = CloseGaps { reach, leave: vec![] };
            match close.apply(&Given::part(&outcome.mesh, &progress.stage(0.1, 0.9))) {
                Ok(closed) => {
                    outcome.mesh = closed.mesh;
                    outcome.done.extend(closed.done);
                    outcome.largest_move = closed.largest_move;
                }
                Err(TradeError::NothingToDo { .. }) => {}
                Err(other) => return Err(other),
            }
        }
        let (naked, clashing) = naked_and_clashing(&outcome.mesh);
        outcome.done.push(format!("{} of naked edge joined", millimetres((before.0 - naked).max(0.0) / 2.0)));
        // Parts that face different ways come to face one.
        if clashing > before.1 {
            let agreed = AgreeWindings {}.apply(&Given::part(&outcome.mesh, &progress.stage(0.9, 1.0)))?;
            outcome.mesh = agreed.mesh;
            outcome.done.extend(agreed.done);
        }
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

/// How long the naked edges of a mesh are, mm, and at how many edges its sides disagree.
fn naked_and_clashing(mesh: &Mesh) -> (f64, usize) {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let length = |half| {
        let (a, b) = topology.ends(half);
        mesh.points()[a as usize].distance(mesh.points()[b as usize])
    };
    (topology.naked_halves().into_iter().map(length).sum(), topology.edges_with(EdgeUse::Clashing).count())
}

/// What keeps a part from meeting the rest, if it does not.
fn apart(number: u32, one: &Mesh, (rest, reach): (&[&Mesh], f64)) -> Option<String> {
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
    let nearest =
        |p: Point| bvh.nearest(p, far, |s| Some(nearest_on_segment(p, theirs[s as usize][0], theirs[s as usize][1]).1));
    let (off, at) =
        mine.iter().filter_map(|e| nearest(e[0]).map(|(_, d)| (d, e[0]))).min_by(|a, b| a.0.total_cmp(&b.0))?;
    (off > reach).then(|| {
        let [x, y, z] = at.to_array();
        format!(
            "part {number} does not meet the others: its naked edges come no nearer than {}, at {x:.2}, {y:.2}, {z:.2}",
            millimetres(off)
        )
    })
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
