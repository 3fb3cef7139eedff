//! `seal.close_gaps`: joins naked edges that face each other within a reach.
//!
//! Passes over the border, each with fresh adjacency. In a pass every naked point looks for the naked edges that face it
//! ([`border`](super::border)); the pairs are taken nearest first. A point near an end of the edge is merged with that end;
//! else a point is put on the edge there and merged with that. Where the two runs have different points, both get the
//! other's. Passes go on until nothing joins; each promise is checked at each merge ([`seam`](super::seam)).
//! Cost: a few times (triangles + naked edges · log).

use std::collections::{HashMap, HashSet};

use nimbet_kernel::topology::Topology;
use nimbet_kernel::{Mesh, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::seam::Seam;
use crate::budget::Effort;
use crate::examine::border::{Border, Facing};
use crate::examine::{About, GapPick, points_along, reach_for};
use crate::parameter::Length;
use crate::tool::{Cure, Effect, Entry, Given, Needs, Tool};
use crate::words::{count, millimetres};
use crate::{Outcome, TradeError};

/// The most passes. A seam closes in two or three; more are needed only where many runs meet.
const PASSES: usize = 24;

/// Parameters of `seal.close_gaps`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CloseGaps {
    /// The largest distance over which edges are joined, mm. No point moves farther than half of it.
    #[schemars(with = "Length")]
    pub reach: f64,
    /// Gaps to be left as they are.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub leave: Vec<GapPick>,
}

struct Pair {
    point: u32,
    facing: Facing,
}

impl Tool for CloseGaps {
    const KIND: &'static str = "seal.close_gaps";
    const WHAT: &'static str = "Join naked edges that face each other within a reach.";
    const EFFORT: Effort = Effort::Searching;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "close_gaps",
        name: "Close gaps",
        hint: "Join naked edges that face each other within a reach",
        group: "Close",
        words: &["join edges", "stitch", "sew", "slit", "seam", "crack"],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "reach": b.reach() }),
    }];

    fn title(&self) -> String {
        format!("Close gaps, reach {}", crate::words::millimetres(self.reach))
    }

    fn remedies(about: &About) -> Vec<Cure> {
        let close = |label: String, reach: f64| vec![Cure::new(0, label, Self { reach, leave: vec![] })];
        match *about {
            About::Gap { reach } | About::Needle { reach, .. } => {
                close(format!("Close gaps up to {}", millimetres(reach)), reach)
            }
            About::Junction { reach, both } => {
                let divide = if both { "Divide both edges" } else { "Divide the edge there" };
                close(format!("{divide} (reach {})", millimetres(reach)), reach)
            }
            _ => vec![],
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let left_out = if self.leave.is_empty() { HashSet::new() } else { points_along(mesh, &self.leave, progress)? };
        let mut seam = Seam::new(mesh, self.reach);
        for pass in 0..PASSES {
            progress.report(pass as f64 / PASSES as f64, "joining naked edges")?;
            if join_once(&mut seam, self.reach, &left_out, progress)? == 0 {
                break;
            }
        }
        let (merged, inserted) = (seam.merged, seam.inserted);
        if merged == 0 {
            return Err(self.nothing(mesh, &left_out, progress)?);
        }
        let (closed, largest_move) = seam.finish()?;
        let mut done = vec![format!("joined {}", count(merged, "pair of points", "pairs of points"))];
        if inserted > 0 {
            done.push(format!("put {} on facing edges", count(inserted, "point", "points")));
        }
        if !self.leave.is_empty() {
            done.push(format!("left {} as asked", count(self.leave.len(), "gap", "gaps")));
        }
        // Points are numbered anew now; those left out have not moved.
        let bits = |p: Point| p.to_array().map(f64::to_bits);
        let still: HashSet<[u64; 3]> = left_out.iter().map(|&v| bits(mesh.points()[v as usize])).collect();
        let asked = |p: Point| still.contains(&bits(p));
        let left = match nearest_left(&closed, self.reach, asked, progress)? {
            Some((need, _)) => {
                vec![format!("other facing edges stay open; closing them would need a reach of {}", millimetres(need))]
            }
            None => vec![],
        };
        Ok(Outcome { done, left, largest_move, ..Outcome::of(closed, String::new()) })
    }

    fn effect(&self) -> Effect {
        Effect::Mends
    }
}

impl CloseGaps {
    /// Why nothing was joined.
    fn nothing(&self, mesh: &Mesh, left_out: &HashSet<u32>, progress: &Progress) -> Result<TradeError, TradeError> {
        let reach = millimetres(self.reach);
        if !left_out.is_empty() {
            return Ok(TradeError::nothing(format!("besides the gaps left out, none is within {reach}")));
        }
        Ok(match nearest_left(mesh, self.reach, |_| false, progress)? {
            Some((need, place)) => TradeError::refused(
                format!(
                    "no two naked edges face each other within {reach}; the nearest would need a reach of {}",
                    millimetres(need)
                ),
                vec![place],
            ),
            None => TradeError::nothing(format!("no two naked edges face each other within or near {reach}")),
        })
    }
}

/// One pass; gives how many merges were made.
fn join_once(seam: &mut Seam, reach: f64, left_out: &HashSet<u32>, progress: &Progress) -> Result<usize, TradeError> {
    let before = seam.merged;
    let points = seam.points.clone();
    let triangles = seam.triangles.clone();
    let topology = Topology::new(&triangles, points.len());
    // Points keep their numbers until they are merged, and those left out never are.
    let mut halves = topology.naked_halves();
    halves.retain(|&h| {
        let (a, b) = topology.ends(h);
        !(left_out.contains(&a) && left_out.contains(&b))
    });
    let border = Border::new(&points, &triangles, halves);
    seam.begin_pass(border.at_point.keys().copied());

    let mut pairs = Vec::new();
    for (n, (&point, own)) in border.at_point.iter().enumerate() {
        if n % 1024 == 0 {
            progress.check()?;
        }
        /// Where many runs meet, a point may join several; farther ones are found in later passes.
        const NEAREST: usize = 4;
        let facing = border.facing(points[point as usize], own, Some(point), reach);
        pairs.extend(facing.into_iter().take(NEAREST).map(|facing| Pair { point, facing }));
    }
    pairs.sort_by(|x, y| {
        let key = |p: &Pair| (p.point, p.facing.segment);
        x.facing.distance.total_cmp(&y.facing.distance).then_with(|| key(x).cmp(&key(y)))
    });

    // Two runs turn at corners that are each other's, however askew they lie.
    let turns = |point: u32| {
        /// The cosine of 30 degrees.
        const STRAIGHT: f64 = 0.866;
        let Some(&[a, b]) = border.at_point.get(&point).map(Vec::as_slice) else { return false };
        let [a, b] = [a, b].map(|segment| border.along(segment).normalize_or_zero());
        a.dot(b).abs() < STRAIGHT
    };
    // The pieces each segment has been split into so far: (from, to, begin, end) along it, 0 to 1.
    let mut pieces: HashMap<u32, Vec<(u32, u32, f64, f64)>> = HashMap::new();
    for (n, Pair { point, facing }) in pairs.iter().enumerate() {
        if n % 1024 == 0 {
            progress.check()?;
        }
        let (a, b) = border.ends(facing.segment);
        let list = pieces.entry(facing.segment).or_insert_with(|| vec![(a, b, 0.0, 1.0)]);
        let Some(i) = list.iter().position(|p| facing.at <= p.3) else { continue };
        let (from, to, begin, end) = list[i];
        let length = border.along(facing.segment).length();
        let (to_begin, to_end) = ((facing.at - begin) * length, (end - facing.at) * length);
        let v = seam.now(*point);
        let (near, off) = if to_begin <= to_end { (from, to_begin) } else { (to, to_end) };
        let straight = (seam.points[seam.now(near) as usize] - seam.points[v as usize]).length();
        // Within 45° of straight across, the end is the counterpart: this keeps the two runs in the same order.
        let across = off <= facing.distance.max(length * 1e-6);
        if straight <= reach
            && (across || turns(*point) && turns(near))
            && seam.merge(v, seam.now(near), facing.opposite)
        {
            continue;
        }
        if off <= length * 1e-6 {
            continue;
        }
        let (from_now, to_now) = (seam.now(from), seam.now(to));
        if from_now == v || to_now == v {
            continue;
        }
        let share = (facing.at - begin) / (end - begin);
        let Some(p) = seam.insert(from_now, to_now, share) else { continue };
        if seam.merge(v, p, facing.opposite) {
            list.splice(i..=i, [(from, v, begin, facing.at), (v, to, facing.at, end)]);
        } else {
            seam.remove_inserted(p, from_now, to_now);
        }
    }
    Ok(seam.merged - before)
}

/// The least reach that would close more, and where. Looks ten reaches far; edges between points left out on purpose do not
/// count.
fn nearest_left(
    mesh: &Mesh,
    reach: f64,
    left_out: impl Fn(Point) -> bool,
    progress: &Progress,
) -> Result<Option<(f64, Point)>, TradeError> {
    const FAR: f64 = 10.0;
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let border = Border::new(mesh.points(), mesh.triangles(), topology.naked_halves());
    let mut least: Option<(f64, Point)> = None;
    for s in 0..border.halves.len() as u32 {
        if s % 1024 == 0 {
            progress.check()?;
        }
        let (a, b) = border.ends(s);
        let (a, b) = (mesh.points()[a as usize], mesh.points()[b as usize]);
        if left_out(a) && left_out(b) {
            continue;
        }
        let middle = a.lerp(b, 0.5);
        if let Some(f) = border.nearest_facing(middle, &[s], None, reach * FAR, |_| true)
            && least.is_none_or(|(d, _)| f.distance < d)
        {
            least = Some((f.distance, middle));
        }
    }
    Ok(least.map(|(d, p)| (reach_for(d.max(reach)), p)))
}
