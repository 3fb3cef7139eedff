//! What is meant by a choice of edges, before anything is done to them: the runs, and the largest figure each could have.

use nimbet_edges::graph::{Along, Graph};
use nimbet_edges::plan::{Planner, Wanted};
use nimbet_kernel::segments::nearest_on_segment;
use nimbet_kernel::{Mesh, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::edges::{most, most_tried};
use crate::TradeError;
use crate::words::{Xyz, xyz};

/// A run of edges that is meant.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct EdgeRun {
    /// A place in its middle, mm.
    pub at: Xyz,
    /// Places at each twentieth of its length, from one end to the other, mm; of a closed one the last is the first.
    pub line: Vec<Xyz>,
    /// How long it is, mm.
    pub length: f64,
    /// Whether the material lies within more than half a turn.
    pub inner: bool,
    /// How far the faces turn at its middle, degrees.
    pub turn: f64,
    /// What it is given, mm; absent over whole faces.
    pub figure: Option<f64>,
    /// Whether it has that of its own.
    pub own: bool,
    /// The largest it could have by itself, mm; 0 where none was found.
    pub largest: f64,
}

/// The runs that are meant.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct EdgeRuns {
    /// Each, up to the first 60.
    pub runs: Vec<EdgeRun>,
    /// How many there are.
    pub count: usize,
    /// The largest figure those without one of their own could have together, mm; absent where they are too many.
    pub together: Option<f64>,
    /// Whether figures were tried out; else they are told by where the sections lie.
    pub tried: bool,
}

/// What runs are given, and which have it of their own.
pub(super) type WithOwn = (Vec<Wanted>, Vec<u32>);

/// So many runs are told one by one.
const TOLD: usize = 60;
/// Places along a run are told so many pieces apart.
const TWENTIETHS: u32 = 20;

/// The runs of a part with what they are wanted to have, where their number in `own` says whether that is their own.
pub(super) fn told(
    mesh: &Mesh,
    wanted: &dyn Fn(&Graph<'_>) -> Result<WithOwn, TradeError>,
    (chord, tried): (f64, bool),
    progress: &Progress,
) -> Result<EdgeRuns, TradeError> {
    /// Of larger parts trying takes longer than the step.
    const MOST_TRIANGLES: usize = 50_000;
    let tried = tried && mesh.triangles().len() <= MOST_TRIANGLES;
    let most_of = |planner: &Planner<'_>, wanted: &[Wanted], more| match tried {
        true => most_tried(planner, wanted, more),
        false => most(planner, wanted),
    };
    let graph = Graph::of(mesh, progress)?;
    let planner = Planner::new(&graph, chord, progress);
    let (wanted, own) = wanted(&graph)?;
    let mut runs = Vec::new();
    for w in wanted.iter().take(TOLD) {
        let size = w.size();
        let alone = [Wanted::all_along(w.run, w.at(0.0))];
        let largest = most_of(&planner, &alone, false)?.unwrap_or(0.0);
        let (at, length, turn) = middle(&graph, w.run);
        let line =
            (0..=TWENTIETHS).map(|n| xyz(place(&graph, w.run, f64::from(n) / f64::from(TWENTIETHS)).0)).collect();
        let inner = !graph.runs[w.run as usize].convex;
        let figure = (size > 0.0).then_some(size);
        runs.push(EdgeRun { at: xyz(at), line, length, inner, turn, figure, own: own.contains(&w.run), largest });
    }
    let common: Vec<Wanted> = wanted.iter().filter(|w| !own.contains(&w.run)).cloned().collect();
    let together = most_of(&planner, &common, true)?;
    Ok(EdgeRuns { runs, count: wanted.len(), together, tried })
}

/// A place in the middle of a run, its length, and how far the faces turn there, degrees.
fn middle(graph: &Graph<'_>, run: u32) -> (Point, f64, f64) {
    let (at, edge) = place(graph, run, 0.5);
    (at, length(graph, run), graph.edges[edge as usize].turn.to_degrees())
}

fn ends(graph: &Graph<'_>, edge: (u32, bool)) -> [Point; 2] {
    graph.ends(edge).map(|v| graph.place(v))
}

fn length(graph: &Graph<'_>, run: u32) -> f64 {
    graph.runs[run as usize].edges.iter().map(|e| ends(graph, *e)).map(|[a, b]| a.distance(b)).sum()
}

/// The place at a share of the length of a run, and the edge it is on.
pub(crate) fn place(graph: &Graph<'_>, run: u32, share: f64) -> (Point, u32) {
    let edges = &graph.runs[run as usize].edges;
    let mut left = length(graph, run) * share;
    for e in edges {
        let [a, b] = ends(graph, *e);
        let own = a.distance(b);
        if left <= own && share < 1.0 {
            return (a.lerp(b, left / own.max(f64::MIN_POSITIVE)), e.0);
        }
        left -= own;
    }
    let last = edges[edges.len() - 1];
    (ends(graph, last)[1], last.0)
}

/// How far along its run the place on it next to a point is, as a share.
pub(super) fn share_of(graph: &Graph<'_>, along: &Along, run: u32, at: Point) -> f64 {
    let off = |e: &(u32, bool)| {
        let [a, b] = graph.ends(*e).map(|v| graph.place(v));
        nearest_on_segment(at, a, b).1
    };
    let nearest = graph.runs[run as usize].edges.iter().min_by(|a, b| off(a).total_cmp(&off(b)));
    nearest.map_or(0.0, |e| along.share(graph, e.0, at))
}
