//! Runs of edges rounded and chamfered in the order in which one can go over what the other made.
//!
//! Where edges of both senses meet, or of different sizes, the runs are done in turn: those of the sense that is rarer there first,
//! then by falling size. What is made so has edges with the other faces there, tangent to those still to come, so these go on over it: no
//! corner needs a patch of its own.

use std::collections::{BTreeMap, BTreeSet};

use nimbet_kernel::surfaces::default_tolerance;
use nimbet_kernel::{Aabb, Cancelled, FaceId, Point, Progress, UnionFind};

use crate::carve::{Carved, EdgeError, carve};
use crate::forms::Held;
use crate::graph::{Along, Graph};
use crate::open::carve_sheet;
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
    let count = turns.len().max(1);
    let mut later = turns.into_iter();
    let Some(now) = later.next() else {
        return Ok(unchanged(planner));
    };
    // What is still to come is found again by places on it.
    let mut waiting: Vec<Vec<Waiting>> =
        later.map(|turn| turn.into_iter().map(|n| Waiting::of(planner.graph, &wanted[n])).collect()).collect();
    let own: Vec<Wanted> = now.into_iter().map(|n| wanted[n].clone()).collect();
    let (mut done, mut trouble) = in_turn(planner, &own, sealed, &mut waiting, &progress.part(0, count))?;
    let first_new = done.first_new;
    let (mut vanished, mut passed) = (std::mem::take(&mut done.vanished), std::mem::take(&mut done.passed));
    let mut turn = 0;
    while !waiting.is_empty() {
        turn = (turn + 1).min(count - 1);
        let stage = progress.part(turn, count);
        let mut graph = Graph::of(&done.mesh, &stage)?;
        let all: Vec<&Waiting> = waiting.iter().flatten().collect();
        keep_to(&mut graph, &all, planner.precise, first_new);
        let planner = Planner::new(&graph, planner.chord, planner.progress);
        let next =
            found_again(&planner, &mut waiting).and_then(|own| in_turn(&planner, &own, sealed, &mut waiting, &stage));
        let other;
        (done, other) = match (next, trouble) {
            // What was put off for want of room has it no more than before.
            (Err(EdgeError::Trouble(_)), Some(before)) => return Err(EdgeError::Trouble(before)),
            (next, _) => next?,
        };
        trouble = trouble.or(other);
        vanished.append(&mut done.vanished);
        passed.append(&mut done.passed);
        waiting.retain(|turn| !turn.is_empty());
    }
    Ok(Carved { mesh: done.mesh, first_new, vanished, passed })
}

/// The body as it is.
fn unchanged(planner: &Planner<'_>) -> Carved {
    let mesh = planner.graph.mesh.clone();
    Carved { first_new: mesh.next_face().0, mesh, vanished: vec![], passed: vec![] }
}

/// Runs done at once; where that fails some of them by themselves, and the others wait: with what it failed by.
fn in_turn(
    planner: &Planner<'_>,
    own: &[Wanted],
    sealed: bool,
    waiting: &mut Vec<Vec<Waiting>>,
    progress: &Progress,
) -> Result<(Carved, Option<Trouble>), EdgeError> {
    // All that was to come may have gone with what vanished.
    if own.is_empty() {
        return Ok((unchanged(planner), None));
    }
    let trouble = match cut(planner, own, sealed, progress) {
        Err(EdgeError::Trouble(trouble)) => trouble,
        other => return other.map(|done| (done, None)),
    };
    // Those that have a face between them vanish, or those beside the narrow face of the run that fails.
    let (pairs, gone) = planner.faces_between(own)?;
    for (runs, gone) in [(pairs, gone), (beside_narrow(planner.graph, own, &trouble), BTreeSet::new())] {
        let (first, rest): (Vec<&Wanted>, Vec<&Wanted>) = own.iter().partition(|w| runs.contains(&w.run));
        if first.is_empty() || rest.is_empty() {
            continue;
        }
        let first: Vec<Wanted> = first.into_iter().cloned().collect();
        let done = match cut(planner, &first, sealed, progress) {
            Err(EdgeError::Trouble(_)) => continue,
            done => done?,
        };
        let beside = |w: &Wanted| {
            let edges = &planner.graph.runs[w.run as usize].edges;
            edges.iter().all(|e| planner.graph.beside(*e).iter().any(|f| gone.contains(&f.0)))
        };
        let wait = |w: &Wanted| Waiting { may_go: beside(w), ..Waiting::of(planner.graph, w) };
        waiting.insert(0, rest.into_iter().map(wait).collect());
        return Ok((done, Some(trouble)));
    }
    Err(EdgeError::Trouble(trouble))
}

/// The runs that end with two others or more where one that fails near its end does, beside the smaller of its faces there.
fn beside_narrow(graph: &Graph<'_>, own: &[Wanted], trouble: &Trouble) -> BTreeSet<u32> {
    /// Near an end is within so many times what it is given.
    const NEAR: f64 = 4.0;
    let Some(failing) = own.iter().find(|w| w.run == trouble.run) else { return BTreeSet::new() };
    let run = &graph.runs[failing.run as usize];
    let area = |face: FaceId| -> f64 {
        let of = graph.mesh.face_of().iter().enumerate().filter(|(_, f)| **f == face);
        of.map(|(t, _)| graph.mesh.area_vector(t).length()).sum()
    };
    let ends_of = |w: &Wanted| graph.ends_of(&graph.runs[w.run as usize]);
    let mut found = BTreeSet::new();
    for (v, edge) in graph.ends_of(run).into_iter().zip([run.edges[0], run.edges[run.edges.len() - 1]]) {
        let near = graph.place(v).distance(trouble.at) <= failing.size() * NEAR;
        if !near || own.iter().filter(|w| ends_of(w).contains(&v)).count() < 3 {
            continue;
        }
        let [a, b] = graph.beside(edge);
        let narrow = if area(a) < area(b) { a } else { b };
        let is_beside = |w: &&Wanted| {
            let edges = &graph.runs[w.run as usize].edges;
            w.run != failing.run && ends_of(w).contains(&v) && edges.iter().any(|e| graph.beside(*e).contains(&narrow))
        };
        found.extend(own.iter().filter(is_beside).map(|w| w.run));
    }
    found
}

/// Runs of a solid or a sheet done at once.
fn cut(planner: &Planner<'_>, wanted: &[Wanted], sealed: bool, progress: &Progress) -> Result<Carved, EdgeError> {
    let by = |planner: &Planner<'_>| match planner.graph.border.is_empty() {
        true => carve(planner, wanted, sealed, progress),
        false => carve_sheet(planner, wanted, progress),
    };
    let done = by(planner);
    if !matches!(done, Err(EdgeError::Trouble(_))) || !planner.is_coarse(wanted) {
        return done;
    }
    // Sections of the size by which triangles stand off find hold nearer to these, if not on what they stand for.
    for held in [Held::Through, Held::Drawn, Held::Creased] {
        let graph = planner.graph.held(held);
        match by(&planner.by(&graph)) {
            Err(EdgeError::Trouble(_)) => {}
            other => return other,
        }
    }
    done
}

/// The share of what runs are given that is the largest they can have, tried out, up to one that they are known not to have. Nought where
/// nothing was found that works.
///
/// # Errors
/// [`Cancelled`].
pub fn largest(planner: &Planner<'_>, wanted: &[Wanted], sealed: bool, below: f64) -> Result<f64, Cancelled> {
    /// What can be told from the sections alone is nearly always so; where it is not, less and less is tried.
    const LESS: [f64; 9] = [0.9, 0.7, 0.4, 0.2, 0.1, 0.05, 0.025, 0.01, 0.005];
    /// Where it is, what is more may work by doing edges in turn: so much more is tried at a time, and goes on while one of these works.
    const MORE: [f64; 2] = [1.5, 2.25];
    let most = planner.largest(wanted)?;
    if most <= 0.0 {
        return Ok(0.0);
    }
    let works = |share: f64| {
        let scaled: Vec<Wanted> = wanted.iter().map(|w| w.scaled(share)).collect();
        match finish(planner, &scaled, sealed, &planner.progress.stage(0.0, 1.0)) {
            Ok(_) => Ok(true),
            Err(EdgeError::Cancelled(c)) => Err(c),
            _ => planner.progress.check().map(|()| false),
        }
    };
    if works(most)? {
        let mut best = most;
        'more: loop {
            let mut fails = below;
            for more in MORE.iter().map(|m| best * m).filter(|more| *more < below) {
                if works(more)? {
                    best = closer(more, fails, &works)?;
                    continue 'more;
                }
                fails = fails.min(more);
            }
            return Ok(best);
        }
    }
    let mut fails = most;
    for less in LESS.map(|share| most * share) {
        if works(less)? {
            return closer(less, fails, &works);
        }
        fails = less;
    }
    Ok(0.0)
}

/// What works, up to what does not, so much closer to that.
fn closer(works: f64, fails: f64, does: &impl Fn(f64) -> Result<bool, Cancelled>) -> Result<f64, Cancelled> {
    /// As a share.
    const CLOSE: f64 = 0.05;
    let (mut low, mut high) = (works, fails);
    while high.is_finite() && high > low * (1.0 + CLOSE) {
        let middle = (low * high).sqrt();
        if does(middle)? { low = middle } else { high = middle }
    }
    Ok(low)
}

/// Which runs are done together, in order: at a point where edges of both senses end the rarer sense comes before the other, and of
/// roundings of one sense that meet the larger before the smaller; those of one size that meet there are done at once.
fn turns(graph: &Graph<'_>, wanted: &[Wanted]) -> Vec<Vec<usize>> {
    let mut at: BTreeMap<u32, Vec<usize>> = BTreeMap::new();
    for (n, w) in wanted.iter().enumerate() {
        let run = &graph.runs[w.run as usize];
        graph.ends_of(run).into_iter().filter(|_| !run.closed).for_each(|v| at.entry(v).or_default().push(n));
    }
    let convex = |n: usize| graph.runs[wanted[n].run as usize].convex;
    let is_round = |n: usize| matches!(wanted[n].at(0.0), Section::Round { .. });
    let mut together = UnionFind::new(wanted.len());
    let mut before: Vec<(usize, usize)> = Vec::new();
    for (v, ends) in &at {
        let (out, inner): (Vec<u32>, Vec<u32>) = graph.at[v].iter().partition(|e| graph.edges[**e as usize].convex);
        let rarer_is_convex = out.len() < inner.len();
        for (&a, &b) in ends.iter().flat_map(|a| ends.iter().map(move |b| (a, b))).filter(|(a, b)| a < b) {
            let (large, small) = if wanted[a].size() >= wanted[b].size() { (a, b) } else { (b, a) };
            if convex(a) != convex(b) {
                before.push(if convex(a) == rarer_is_convex { (a, b) } else { (b, a) });
            } else if wanted[large].size() <= wanted[small].size() * (1.0 + 1e-9) {
                together.union(a as u32, b as u32);
            } else if (is_round(a) || is_round(b)) && ends.len() == graph.at[v].len() {
                before.push((large, small));
            }
        }
    }
    let (set_of, count) = together.number_sets();
    // Each set comes after those that come before it; where they wait for each other, as late as any chain is long.
    let mut turn = vec![0usize; count];
    for _ in 0..count {
        let mut changed = false;
        for (a, b) in &before {
            let (a, b) = (set_of[*a] as usize, set_of[*b] as usize);
            if a != b && turn[b] <= turn[a] && turn[a] + 1 < count {
                turn[b] = turn[a] + 1;
                changed = true;
            }
        }
        if !changed {
            break;
        }
    }
    let mut turns: BTreeMap<usize, Vec<usize>> = BTreeMap::new();
    for n in 0..wanted.len() {
        turns.entry(turn[set_of[n] as usize]).or_default().push(n);
    }
    turns.into_values().collect()
}

/// A run that is still to come, by places on it.
struct Waiting {
    run: u32,
    places: Vec<(Point, Section)>,
    /// Whether it may have gone with a face that vanished.
    may_go: bool,
}

impl Waiting {
    fn of(graph: &Graph<'_>, wanted: &Wanted) -> Self {
        /// Each edge is looked for at so many places: ends go when others are done.
        const PLACES: usize = 33;
        let run = &graph.runs[wanted.run as usize];
        let lengths: Vec<f64> = run
            .edges
            .iter()
            .map(|e| {
                let [a, b] = graph.ends(*e).map(|v| graph.place(v));
                a.distance(b)
            })
            .collect();
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
        Self { run: wanted.run, places, may_go: false }
    }
}

/// How far a place of an edge that stayed may be off it after cutting, mm.
fn slack(graph: &Graph<'_>, precise: f64) -> f64 {
    let rounded = default_tolerance(&Aabb::of(graph.mesh.points().iter().copied())) * 1e-2;
    precise.max(rounded) * 8.0
}

/// Parts runs where what is wanted ends: they go on over what was made, but not along edges nobody asked for.
fn keep_to(graph: &mut Graph<'_>, all: &[&Waiting], precise: f64, first_new: u32) {
    let within = slack(graph, precise);
    let places: Vec<Point> = all.iter().flat_map(|w| w.places.iter().map(|p| p.0)).collect();
    let mut meant = vec![false; graph.edges.len()];
    graph.nearest(&places, within).into_iter().flatten().for_each(|e| meant[e as usize] = true);
    let is_new = |e: u32| graph.beside((e, true)).iter().any(|f| f.0 >= first_new);
    let strange: Vec<bool> = (0..graph.edges.len() as u32).map(|e| !meant[e as usize] && !is_new(e)).collect();
    graph.part_where(&strange);
}

/// The runs that the next turn of what is still to come has become, and what lies on the same runs.
fn found_again(planner: &Planner<'_>, waiting: &mut [Vec<Waiting>]) -> Result<Vec<Wanted>, EdgeError> {
    let graph = planner.graph;
    let within = slack(graph, planner.precise);
    let along = Along::of(graph);
    // Where along each run of now the sections of what waits are known.
    let known = |w: &Waiting| {
        let points: Vec<Point> = w.places.iter().map(|p| p.0).collect();
        let found = graph.nearest(&points, within).into_iter().zip(&w.places);
        let found = found.filter_map(|(edge, (at, section))| {
            let run = graph.run_of[edge? as usize];
            Some((run, along.share(graph, edge?, *at), *section))
        });
        found.collect::<Vec<(u32, f64, Section)>>()
    };
    let mut runs: BTreeMap<u32, Vec<(f64, Section)>> = BTreeMap::new();
    for w in std::mem::take(&mut waiting[0]) {
        let found = known(&w);
        if found.is_empty() && w.may_go {
            continue;
        }
        if found.is_empty() {
            let at = w.places[w.places.len() / 2].0;
            return Err(EdgeError::Trouble(Trouble { run: w.run, cause: Cause::Overlaps, at }));
        }
        found.into_iter().for_each(|(run, along, section)| runs.entry(run).or_default().push((along, section)));
    }
    for turn in waiting.iter_mut().skip(1) {
        turn.retain(|w| {
            let found = known(w);
            let joins = found.iter().any(|(run, _, _)| runs.contains_key(run));
            if joins {
                found.into_iter().for_each(|(run, along, section)| runs.entry(run).or_default().push((along, section)));
            }
            !joins
        });
    }
    let wanted = runs.into_iter().map(|(run, mut sections)| {
        sections.sort_by(|a, b| a.0.total_cmp(&b.0));
        sections.dedup_by(|a, b| a.0 - b.0 < 1e-9);
        Wanted { run, sections }
    });
    Ok(wanted.collect())
}
