//! Runs of edges rounded and chamfered in the order in which one can go over what the other made.
//!
//! Where edges of both senses meet, or of different sizes, the runs are done in turn: those of the rarer sense first, then by
//! falling size. What is made so has edges with the other faces there, tangent to those still to come, so these go on over it: no
//! corner needs a patch of its own.

use std::collections::BTreeMap;

use nimbet_kernel::{Cancelled, Point, Progress};

use crate::carve::{Carved, EdgeError, carve};
use crate::graph::Graph;
use crate::plan::{Cause, Planner, Trouble, Wanted};
use crate::station::Section;

/// A body with some runs of its edges rounded or chamfered. `sealed` says that it is known to be a solid.
///
/// # Errors
/// [`EdgeError`].
pub fn finish(
    planner: &Planner<'_>,
    wanted: &[Wanted],
    sealed: bool,
    progress: &Progress,
) -> Result<Carved, EdgeError> {
    let turns = turns(planner.graph, wanted);
    let count = turns.len();
    let (now, later) = match turns.split_first() {
        Some((now, later)) => (now, later),
        None => return Ok(Carved { mesh: planner.graph.mesh.clone(), first_new: planner.graph.mesh.next_face().0 }),
    };
    // What is still to come is found again by places on it.
    let mut waiting: Vec<Vec<Waiting>> = later
        .iter()
        .map(|turn| turn.iter().map(|n| Waiting::of(planner.graph, &wanted[*n])).collect())
        .collect();
    let own: Vec<Wanted> = now.iter().map(|n| wanted[*n].clone()).collect();
    let mut done = carve(planner, &own, sealed, &progress.part(0, count))?;
    let first_new = done.first_new;
    for (n, turn) in waiting.drain(..).enumerate() {
        let stage = progress.part(n + 1, count);
        let graph = Graph::of(&done.mesh, &stage)?;
        let planner = Planner::new(&graph, planner.chord, planner.progress);
        let wanted = found_again(&planner, &turn)?;
        let next = carve(&planner, &wanted, sealed, &stage)?;
        done = next;
    }
    Ok(Carved { mesh: done.mesh, first_new })
}

/// The share of what runs are given that is the largest they can have, tried out. Nought where nothing was found that works.
///
/// # Errors
/// [`Cancelled`].
pub fn largest(planner: &Planner<'_>, wanted: &[Wanted], sealed: bool) -> Result<f64, Cancelled> {
    /// What can be told from the sections alone is nearly always so; where it is not, less and less is tried.
    const TRIED: [f64; 6] = [1.0, 0.9, 0.7, 0.4, 0.15, 0.03];
    let most = planner.largest(wanted)?;
    for share in TRIED {
        let scaled: Vec<Wanted> = wanted.iter().map(|w| w.scaled(most * share)).collect();
        match finish(planner, &scaled, sealed, &Progress::unwatched()) {
            Ok(_) if most > 0.0 => return Ok(most * share),
            Err(EdgeError::Cancelled(c)) => return Err(c),
            _ => planner.progress.check()?,
        }
    }
    Ok(0.0)
}

/// Which runs are done together, in order.
fn turns(graph: &Graph<'_>, wanted: &[Wanted]) -> Vec<Vec<usize>> {
    let mut at: BTreeMap<u32, Vec<usize>> = BTreeMap::new();
    for (n, w) in wanted.iter().enumerate() {
        let run = &graph.runs[w.run as usize];
        let ends = [graph.ends(run.edges[0])[0], graph.ends(run.edges[run.edges.len() - 1])[1]];
        ends.into_iter().filter(|_| !run.closed).for_each(|v| at.entry(v).or_default().push(n));
    }
    let convex = |n: usize| graph.runs[wanted[n].run as usize].convex;
    let meet = |differ: &dyn Fn(usize, usize) -> bool| {
        at.values().any(|at| at.iter().any(|a| at.iter().any(|b| differ(*a, *b))))
    };
    let all: Vec<usize> = (0..wanted.len()).collect();
    let by_sense = if meet(&|a, b| convex(a) != convex(b)) {
        let (out, inner): (Vec<usize>, Vec<usize>) = all.into_iter().partition(|n| convex(*n));
        if out.len() < inner.len() { vec![out, inner] } else { vec![inner, out] }
    } else {
        vec![all]
    };
    // Chamfers of any size cross in edges of their own.
    let differ = |a: usize, b: usize| {
        let is_round = |n: usize| matches!(wanted[n].at(0.0), Section::Round { .. });
        convex(a) == convex(b)
            && (is_round(a) || is_round(b))
            && (wanted[a].size() / wanted[b].size() - 1.0).abs() > 1e-9
    };
    let by_size = meet(&differ);
    let mut turns = Vec::new();
    for group in by_sense {
        if !by_size {
            turns.push(group);
            continue;
        }
        let mut group = group;
        group.sort_by(|a, b| wanted[*b].size().total_cmp(&wanted[*a].size()).then(a.cmp(b)));
        turns.extend(group.chunk_by(|a, b| !differ(*a, *b)).map(<[usize]>::to_vec));
    }
    turns.retain(|t| !t.is_empty());
    turns
}

/// A run that is still to come, by places on it.
struct Waiting {
    run: u32,
    places: Vec<(Point, Section)>,
}

impl Waiting {
    fn of(graph: &Graph<'_>, wanted: &Wanted) -> Self {
        /// Each edge is looked for at so many places: ends go when others are done.
        const PLACES: usize = 33;
        let run = &graph.runs[wanted.run as usize];
        let lengths: Vec<f64> = run.edges.iter().map(|e| {
            let [a, b] = graph.ends(*e).map(|v| graph.place(v));
            a.distance(b)
        }).collect();
        let whole: f64 = lengths.iter().sum::<f64>().max(f64::MIN_POSITIVE);
        let mut gone = 0.0;
        let mut places = Vec::new();
        for (edge, length) in run.edges.iter().zip(lengths) {
            let [a, b] = graph.ends(*edge).map(|v| graph.place(v));
            let count = if run.edges.len() > PLACES { 1 } else { PLACES };
            for k in 0..count {
                let share = (k as f64 + 0.5) / count as f64;
                places.push((a.lerp(b, share), wanted.at((gone + length * share) / whole)));
            }
            gone += length;
        }
        Self { run: wanted.run, places }
    }
}

/// The runs that what is still to come has become.
fn found_again(planner: &Planner<'_>, waiting: &[Waiting]) -> Result<Vec<Wanted>, EdgeError> {
    let graph = planner.graph;
    // Where along each run of now its sections are known.
    let mut known: BTreeMap<u32, Vec<(f64, Section)>> = BTreeMap::new();
    let within = planner.precise.max(nimbet_kernel::surfaces::default_tolerance(&nimbet_kernel::Aabb::of(graph.mesh.points().iter().copied())) * 1e-2) * 8.0;
    for w in waiting {
        let points: Vec<Point> = w.places.iter().map(|p| p.0).collect();
        let mut there = false;
        for (edge, (at, section)) in graph.nearest(&points, within).into_iter().zip(&w.places) {
            let Some(edge) = edge else { continue };
            there = true;
            let run = graph.run_of[edge as usize];
            known.entry(run).or_default().push((graph.along(run, edge, *at), *section));
        }
        if !there {
            let at = points[points.len() / 2];
            return Err(EdgeError::Trouble(Trouble { run: w.run, cause: Cause::Overlaps, at }));
        }
    }
    let wanted = known.into_iter().map(|(run, mut sections)| {
        sections.sort_by(|a, b| a.0.total_cmp(&b.0));
        sections.dedup_by(|a, b| a.0 - b.0 < 1e-9);
        Wanted { run, sections }
    });
    Ok(wanted.collect())
}
