//! Which edges of a part are meant, and what happens to them: what rounding and chamfering share.

use nimbet_edges::graph::Graph;
use nimbet_edges::plan::{Cause, Planner, Trouble, Wanted};
use nimbet_edges::{Carved, EdgeError, Vanished, finish, largest};
use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::measure::measure;
use nimbet_kernel::{Aabb, FaceId, Mesh, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::as_many::as_many_as_can;
use crate::examine::FacePick;
use crate::parameter::{Angle, Position};
use crate::tool::Given;
use crate::words::{Xyz, count, millimetres, volume_of};
use crate::{Outcome, TradeError};

/// Which edges are meant.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum EdgesOf {
    /// Those at places, mm, each with the whole run in which it goes on without a corner.
    #[schemars(title = "Picked ones")]
    Edges(
        #[schemars(with = "Vec<Position>", extend("asks" = "edges", "hint" = "Click edges; each brings all it goes on in."))]
         Vec<Xyz>,
    ),
    /// Those round faces.
    #[schemars(title = "Those of faces")]
    Faces(#[schemars(extend("hint" = "Click faces: all their edges."))] Vec<FacePick>),
    /// Those between two faces, or more.
    #[schemars(title = "Between faces")]
    Between(#[schemars(extend("hint" = "Click the faces between which they lie.", "least" = 2))] Vec<FacePick>),
    /// All of a sense that are sharp enough.
    #[schemars(title = "All sharp ones")]
    Sharp {
        /// Whether the material lies within less than half a turn, or more.
        #[serde(default)]
        #[schemars(title = "Outer or inner")]
        sense: Sense,
        /// Those at which the faces turn by more than this.
        #[schemars(title = "That turn by more than", with = "Angle")]
        than: f64,
    },
}

/// On which side of an edge the material is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Sense {
    /// Both kinds.
    #[default]
    Both,
    /// Outer edges: material within less than half a turn.
    Outer,
    /// Inner edges: material within more than half a turn.
    Inner,
}

/// Picked places lie on an edge when they are no farther from it than this share of the part.
const CLOSE: f64 = 1e-3;

impl EdgesOf {
    /// The runs that are meant, ascending, each once, with the place each was picked at if it was.
    pub(super) fn runs(&self, graph: &Graph<'_>) -> Result<Vec<(u32, Option<Point>)>, TradeError> {
        let mesh = graph.mesh;
        let mut runs: Vec<(u32, Option<Point>)> = match self {
            Self::Edges(at) => {
                let places: Vec<Point> = at.iter().map(|p| Point::from_array(*p)).collect();
                let within = Aabb::of(mesh.points().iter().copied()).diagonal() * CLOSE;
                let found = graph.nearest(&places, within).into_iter().zip(&places);
                let found = found.map(|(edge, place)| match edge {
                    Some(edge) => Ok((graph.run_of[edge as usize], Some(*place))),
                    None => Err(TradeError::NeedsNewPick { what: "the edge".into(), place: *place }),
                });
                found.collect::<Result<_, _>>()?
            }
            Self::Faces(picks) => {
                let faces = found_faces(mesh, picks)?;
                self.those(graph, |edge| graph.beside((edge, true)).iter().any(|f| faces.contains(f)))
            }
            Self::Between(picks) => {
                let faces = found_faces(mesh, picks)?;
                self.those(graph, |edge| graph.beside((edge, true)).iter().all(|f| faces.contains(f)))
            }
            Self::Sharp { sense, than } => self.those(graph, |edge| {
                let edge = &graph.edges[edge as usize];
                let meant = match sense {
                    Sense::Both => true,
                    Sense::Outer => edge.convex,
                    Sense::Inner => !edge.convex,
                };
                meant && edge.turn > than.to_radians()
            }),
        };
        runs.sort_by_key(|r| r.0);
        runs.dedup_by_key(|r| r.0);
        if runs.is_empty() {
            let none = matches!(self, Self::Edges(p) if p.is_empty())
                || matches!(self, Self::Faces(p) | Self::Between(p) if p.is_empty());
            let why = if none { "pick the edges first" } else { "the part has no such edges" };
            return Err(TradeError::refused(why, vec![]));
        }
        Ok(runs)
    }

    /// The runs of which some edge is meant.
    fn those(&self, graph: &Graph<'_>, meant: impl Fn(u32) -> bool) -> Vec<(u32, Option<Point>)> {
        let edges = (0..graph.edges.len() as u32).filter(|e| meant(*e));
        edges.map(|e| (graph.run_of[e as usize], None)).collect()
    }
}

/// The two longest runs along each of some faces.
pub(super) fn beside_whole(graph: &Graph<'_>, picks: &[FacePick]) -> Result<Vec<u32>, TradeError> {
    let length = |run: &u32| {
        let ends = graph.runs[*run as usize].edges.iter().map(|e| graph.ends(*e).map(|v| graph.place(v)));
        ends.map(|[a, b]| a.distance(b)).sum::<f64>()
    };
    let mut all = Vec::new();
    for face in found_faces(graph.mesh, picks)? {
        let beside = |run: &u32| graph.runs[*run as usize].edges.iter().any(|e| graph.beside(*e).contains(&face));
        let mut runs: Vec<u32> = (0..graph.runs.len() as u32).filter(beside).collect();
        runs.sort_by(|a, b| length(b).total_cmp(&length(a)));
        all.extend(runs.into_iter().take(2));
    }
    all.sort_unstable();
    all.dedup();
    match all.is_empty() {
        true => Err(TradeError::refused("pick the faces first", vec![])),
        false => Ok(all),
    }
}

fn found_faces(mesh: &Mesh, picks: &[FacePick]) -> Result<Vec<FaceId>, TradeError> {
    let bvh = triangle_bvh(mesh);
    picks.iter().map(|p| p.find(mesh, &bvh)).collect()
}

/// How edges are done and told.
pub(super) struct Told<'a> {
    /// The farthest round faces may be from true, mm.
    pub chord: f64,
    /// Whether runs for which there is no room stay as they are; none where nobody is asked that.
    pub leave: Option<bool>,
    /// What is done: `rounded`.
    pub done: &'a str,
    /// What the figure is: `radius`.
    pub figure: &'a str,
}

/// A part with what is wanted done to its edges.
pub(super) fn edges_done(
    given: &Given<'_>,
    wanted: &dyn Fn(&Graph<'_>) -> Result<Vec<Wanted>, TradeError>,
    told: Told<'_>,
) -> Result<Outcome, TradeError> {
    let Given { mesh, progress, .. } = *given;
    if mesh.triangles().is_empty() {
        return Err(TradeError::refused("there is no part to do it to", vec![]));
    }
    progress.report(0.0, "finding the edges")?;
    let graph = Graph::of(mesh, &progress.stage(0.0, 0.1))?;
    let planner = Planner::new(&graph, told.chord, progress);
    let mut wanted = wanted(&graph)?;
    let up_to = if told.leave == Some(true) { None } else { up_to(&planner, &wanted)? };
    let (Carved { mesh: made, vanished, passed, .. }, left) = done_but(&planner, &mut wanted, given, &told)?;
    let edges: usize = wanted.iter().map(|w| graph.runs[w.run as usize].edges.len()).sum();
    let is_sheet = !graph.border.is_empty();
    let [before, after] = [mesh, &made].map(measure).map(|m| if is_sheet { m.area } else { m.volume });
    let figure = |x: f64| if is_sheet { format!("{} mm²", crate::words::figure(x)) } else { volume_of(x) };
    let by = match after - before {
        less if less < 0.0 => format!("{} less", figure(-less)),
        more => format!("{} more", figure(more)),
    };
    let runs = count(wanted.len(), "run of edges", "runs of edges");
    let runs = if edges == wanted.len() { count(edges, "edge", "edges") } else { runs };
    let mut outcome = Outcome::of(made, format!("{runs} {}: {by}", told.done));
    outcome.left.extend(left_told(&left));
    outcome.done.extend(vanished_told(&vanished));
    outcome.done.extend(passed_told(&passed));
    outcome.done.extend(up_to.map(|most| format!("a {} of up to about {} would fit", told.figure, millimetres(most))));
    Ok(outcome)
}

/// What comes of it, and where runs were left as they are for want of room.
fn done_but(
    planner: &Planner<'_>,
    wanted: &mut Vec<Wanted>,
    given: &Given<'_>,
    told: &Told<'_>,
) -> Result<(Carved, Vec<Point>), TradeError> {
    let done = if told.leave == Some(true) {
        let most = wanted.len();
        as_many_as_can(planner, wanted, given, most).map(|found| found.map(|f| (f.made, f.left)))
    } else {
        let all = finish(planner, wanted, given.sealed(), &given.progress.stage(0.1, 1.0));
        all.map(|made| Some((made, vec![])))
    };
    match done {
        Ok(Some(done)) => Ok(done),
        Ok(None) => Err(TradeError::refused("no edge can have it", vec![])),
        Err(e) => Err(refused(planner, wanted, given, (e, told))?),
    }
}

/// Which runs were left, in a sentence.
fn left_told(left: &[Point]) -> Option<String> {
    let runs = count(left.len(), "run of edges", "runs of edges");
    (!left.is_empty()).then(|| format!("{runs} left as they are for want of room, at {}", places(left)))
}

/// Which faces went whole, in a sentence.
fn vanished_told(vanished: &[Vanished]) -> Option<String> {
    let least = vanished.iter().map(|v| v.radii[0]).fold(f64::INFINITY, f64::min);
    let most = vanished.iter().map(|v| v.radii[1]).fold(0.0, f64::max);
    // What is the same but for what is computed.
    let alike = most - least <= most * 1e-4;
    let radii = if alike { millimetres(most) } else { format!("{} to {}", millimetres(least), millimetres(most)) };
    let faces = count(vanished.len(), "face vanishes", "faces vanish");
    let at: Vec<Point> = vanished.iter().map(|v| v.at).collect();
    (!vanished.is_empty()).then(|| format!("{faces} under a rounding of {radii}, at {}", places(&at)))
}

/// Which bends were passed over, in a sentence.
fn passed_told(passed: &[Point]) -> Option<String> {
    let bends = count(
        passed.len(),
        "bend is tighter than that: what comes from both sides meets in a mitre",
        "bends are tighter than that: what comes from both sides meets in mitres",
    );
    (!passed.is_empty()).then(|| format!("{bends} at {}", places(passed)))
}

/// The first few of some places.
fn places(of: &[Point]) -> String {
    const TOLD: usize = 5;
    let all: Vec<String> =
        of.iter().take(TOLD).map(|p| format!("({})", p.to_array().map(crate::words::figure).join(", "))).collect();
    let more = if of.len() > TOLD { " and elsewhere" } else { "" };
    format!("{}{more}", all.join(", "))
}

/// The largest figure that would fit, where that is more than what is wanted.
fn up_to(planner: &Planner<'_>, wanted: &[Wanted]) -> Result<Option<f64>, TradeError> {
    Ok(most(planner, wanted)?.filter(|most| *most > wanted[0].size()))
}

/// The largest figure that would fit, by where the sections lie, where there is one figure for all.
pub(super) fn most(planner: &Planner<'_>, wanted: &[Wanted]) -> Result<Option<f64>, TradeError> {
    /// Of more runs it is not told: it would take longer than the step.
    const MOST: usize = 200;
    let size = wanted.first().map_or(0.0, Wanted::size);
    if size == 0.0 || wanted.len() > MOST || wanted.iter().any(|w| w.sections.len() > 1 || w.size() != size) {
        return Ok(None);
    }
    let does = |figure: f64| planner.spines(&scaled(wanted, figure / size)).is_ok();
    Ok(Some(told(planner.largest(wanted)? * size, does)))
}

/// The largest figure that fits, tried out; whether more than where the sections lie says is looked for, too.
pub(super) fn most_tried(planner: &Planner<'_>, wanted: &[Wanted], more: bool) -> Result<Option<f64>, TradeError> {
    let found = most(planner, wanted)?;
    let Some(most) = found.filter(|most| *most > 0.0) else {
        return Ok(found);
    };
    let at_most = scaled(wanted, most / wanted[0].size());
    let share = largest(planner, &at_most, false, if more { f64::INFINITY } else { 1.0 })?;
    let does = |figure: f64| {
        finish(planner, &scaled(&at_most, figure / most), false, &planner.progress.stage(0.0, 1.0)).is_ok()
    };
    Ok(Some(told(share * most, does)))
}

fn scaled(wanted: &[Wanted], by: f64) -> Vec<Wanted> {
    wanted.iter().map(|w| w.scaled(by)).collect()
}

/// A figure to three digits, so that it works as it is told: the nearest where that does, else down.
fn told(figure: f64, does: impl Fn(f64) -> bool) -> f64 {
    let down = rounded_down(figure);
    let nearest = crate::tool::to_digits(figure, 3);
    if nearest > down && does(nearest) { nearest } else { down }
}

/// A figure down to three digits, so that it works as it is told.
fn rounded_down(x: f64) -> f64 {
    let step = 10f64.powf(x.max(f64::MIN_POSITIVE).log10().floor() - 2.0);
    crate::tool::to_digits((x / step).floor() * step, 3)
}

/// Sections of less than so many times what triangles stand off their surface may find no foothold on it.
const COARSE: f64 = 4.0;

/// Why edges cannot have what is wanted, with the place and what would do.
fn refused(
    planner: &Planner<'_>,
    wanted: &[Wanted],
    given: &Given<'_>,
    (e, told): (EdgeError, &Told<'_>),
) -> Result<TradeError, TradeError> {
    let Trouble { run, cause, at } = match e {
        EdgeError::Trouble(trouble) => trouble,
        EdgeError::Cancelled(c) => return Err(c.into()),
        EdgeError::Mesh(m) => return Err(m.into()),
        EdgeError::Arrange(e) => return Err(crate::solids::told(e, &|_| "the part".into())),
        EdgeError::TooFine(triangles) => {
            let why = format!(
                "this would make about {} million triangles; take a wider chord",
                crate::words::figure(triangles / 1e6)
            );
            return Err(TradeError::refused(why, vec![]));
        }
    };
    let why = match cause {
        Cause::NoFoothold => "there is no room beside this edge for it",
        Cause::Folds => "the edge bends more tightly here than it reaches",
        Cause::BeyondFace => "it would reach beyond the face beside this edge",
        Cause::Overlaps => "it would run into that of another edge here",
        Cause::Leaks => "what it makes here is not parted from the rest of the part",
        Cause::Alone => {
            "no edge of the same sense runs along the other side of the face, or there is no one ball between them"
        }
    };
    if wanted.iter().all(|w| w.size() == 0.0) {
        return Ok(TradeError::refused(why, vec![at]));
    }
    // What is smaller than the triangles are true to has nothing to stand on.
    let own = wanted.iter().find(|w| w.run == run).unwrap_or(&wanted[0]).size();
    let stands_off = planner.graph.runs.get(run as usize).map_or(0.0, |run| planner.graph.sag(run));
    let share = largest(planner, wanted, given.sealed(), 1.0)?;
    let whole = |by: f64| finish(planner, &scaled(wanted, by), given.sealed(), &given.progress.stage(0.0, 1.0)).is_ok();
    let coarse = crate::tool::to_digits(stands_off * COARSE, 2);
    if share <= 0.0 && own < coarse && whole(coarse / own) {
        let why = format!(
            "the triangles of the face beside this edge stand off what it is by {}: a {} of {} can be laid on it",
            millimetres(stands_off),
            told.figure,
            millimetres(coarse)
        );
        return Ok(TradeError::refused(why, vec![at]));
    }
    let largest = self::told(share * own, |figure| whole(figure / own));
    let would = if share >= 1.0 || largest <= 0.0 {
        let without = match without_some(planner, wanted, given, told)? {
            Some(without) => format!(": {without}"),
            None if wanted.len() > 1 => ": try fewer edges at a time".to_owned(),
            None if own < coarse => {
                format!(
                    "; the triangles of the face beside this edge stand off a smooth one by {}",
                    millimetres(stands_off)
                )
            }
            None => String::new(),
        };
        format!("; no smaller one was found that would do{without}")
    } else {
        format!("; the largest {} that works there is {}", told.figure, millimetres(largest))
    };
    Ok(TradeError::refused(format!("{why}{would}"), vec![at]))
}

/// How many of several runs can have it together, in a sentence; none where that cannot be told soon.
fn without_some(
    planner: &Planner<'_>,
    wanted: &[Wanted],
    given: &Given<'_>,
    told: &Told<'_>,
) -> Result<Option<String>, TradeError> {
    /// Each run that goes costs as much as the step.
    const MOST: usize = 12;
    let does = told.leave.map_or("", |_| "; \"Leave those for which there is no room\" does so");
    let mut some = wanted.to_vec();
    match as_many_as_can(planner, &mut some, given, MOST) {
        Ok(Some(found)) if !some.is_empty() && some.len() < wanted.len() => Ok(Some(format!(
            "without those at {} the other {} can have it{does}",
            places(&found.left),
            count(some.len(), "run", "runs")
        ))),
        Err(EdgeError::Cancelled(c)) => Err(c.into()),
        _ => Ok(None),
    }
}

/// The chord that is taken where a tool has none of its own, mm: a thousandth of the section.
pub(super) fn fine(size: f64) -> f64 {
    size * 1e-3
}

/// About how many triangles there are with sections of so many pieces along the edges of a part.
pub(super) fn with_strips(parts: &[crate::budget::Extent], pieces: f64) -> f64 {
    // A part of n triangles has about as many at its edges as its root, and a dozen edges at least.
    parts.iter().map(|p| p.triangles + (12.0 + p.triangles.sqrt()) * 2.0 * (pieces + 2.0)).sum()
}
