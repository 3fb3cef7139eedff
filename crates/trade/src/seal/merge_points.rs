//! `seal.merge_points`: corners that nearly coincide become one.
//!
//! Files of loose triangles whose corners were computed or rounded one by one are open all over, though every corner has its
//! counterparts close by. Pairs of naked points are taken nearest first; a group's place is its mean, and a pair is joined only
//! while no member lies farther from that than half the distance. The distance is suggested from a histogram: between the noise and
//! the shortest edges there is an empty band. Cost: points · log.

use std::collections::HashMap;

use nimbet_kernel::topology::Topology;
use nimbet_kernel::weld::weld_mesh;
use nimbet_kernel::{Aabb, Bvh, Cancelled, Mesh, Point, Progress};
use rayon::prelude::*;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::budget::Effort;
use crate::examine::{About, is_degenerate, naked_points};
use crate::parameter::Length;
use crate::tool::{Cure, Effect, Entry, Given, Needs, Tool};
use crate::words::{count, millimetres};
use crate::{Outcome, TradeError};

/// Parameters of `seal.merge_points`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct MergePoints {
    /// Corners no farther apart than this become one, mm. No point moves farther than half of it.
    #[schemars(with = "Length")]
    pub within: f64,
}

/// Groups that would turn a triangle over are taken apart and looked at again so often.
const ROUNDS: usize = 6;
/// The most pairs looked at; more means the distance reaches across the part.
const MOST_PAIRS: usize = 30_000_000;

impl Tool for MergePoints {
    const KIND: &'static str = "seal.merge_points";
    const WHAT: &'static str = "Make corners that nearly coincide one.";
    const EFFORT: Effort = Effort::Searching;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "merge_points",
        name: "Merge points",
        hint: "Corners that nearly coincide become one",
        group: "Close",
        words: &["weld", "stitch", "snap", "join vertices", "tolerance"],
        needs: Needs::Rim,
        mark: "",
        start: |b| json!({ "within": b.seen.and_then(|s| s.corners.as_ref()?.suggested).unwrap_or_else(|| b.share(1e-5)) }),
    }];

    fn title(&self) -> String {
        format!("Merge points within {}", crate::words::millimetres(self.within))
    }

    fn remedies(about: &About) -> Vec<Cure> {
        let About::LooseCorners { within } = *about else { return vec![] };
        vec![Cure::new(0, format!("Merge points within {}", millimetres(within)), Self { within })]
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        progress.report(0.0, "looking for corners that nearly meet")?;
        let naked = naked_points(mesh, &Topology::new(mesh.triangles(), mesh.points().len()));
        self.refuse_thin(mesh, &naked)?;
        let pairs = self.pairs(mesh, &naked, &progress.stage(0.1, 0.5))?;
        if pairs.is_empty() {
            return Err(TradeError::nothing(format!(
                "no two corners on naked edges are within {} of each other",
                millimetres(self.within)
            )));
        }
        let mut apart = vec![false; mesh.points().len()];
        for round in 0..ROUNDS {
            let turn = progress.stage(0.5, 0.9).part(round, ROUNDS);
            turn.report(0.0, "merging corners")?;
            let groups = self.grouped(mesh, &pairs, &apart, &turn)?;
            let bad = turned_over(mesh, &groups.place);
            if !bad.is_empty() && round + 1 < ROUNDS {
                bad.iter().flat_map(|t| mesh.triangles()[*t as usize]).for_each(|p| apart[p as usize] = true);
                continue;
            }
            if let Some(t) = bad.first() {
                let why = format!("merged within {}, a triangle would turn over here", millimetres(self.within));
                return Err(TradeError::refused(why, vec![mesh.corners(*t as usize)[0]]));
            }
            return self.finish(mesh, &groups, &apart);
        }
        Err(TradeError::nothing("no two corners can be merged"))
    }

    fn effect(&self) -> Effect {
        Effect::Mends
    }
}

impl MergePoints {
    /// Edges of the open surface that are not longer than the distance would collapse.
    fn refuse_thin(&self, mesh: &Mesh, naked: &[bool]) -> Result<(), TradeError> {
        let short = (0..mesh.triangles().len()).find_map(|t| {
            let (corners, ids) = (mesh.corners(t), mesh.triangles()[t]);
            if is_degenerate(corners) {
                return None;
            }
            (0..3).map(|k| (k, (k + 1) % 3)).find_map(|(i, j)| {
                let length = corners[i].distance(corners[j]);
                let both = naked[ids[i] as usize] && naked[ids[j] as usize];
                (both && length <= self.within).then(|| (length, corners[i].midpoint(corners[j])))
            })
        });
        match short {
            None => Ok(()),
            Some((length, at)) => {
                let (within, length) = (millimetres(self.within), millimetres(length));
                let why = format!("within {within} this edge of {length} would be lost; merge within less");
                Err(TradeError::refused(why, vec![at]))
            }
        }
    }

    /// All pairs of naked points within the distance that share no triangle, the nearest first.
    fn pairs(&self, mesh: &Mesh, naked: &[bool], progress: &Progress) -> Result<Vec<(u32, u32)>, TradeError> {
        let ids: Vec<u32> = (0..naked.len() as u32).filter(|p| naked[*p as usize]).collect();
        let at = |n: u32| mesh.points()[ids[n as usize] as usize];
        let half = self.within * 0.5;
        let bvh = Bvh::new((0..ids.len() as u32).map(|n| Aabb::of([at(n)]).grown(half)).collect());
        let near = |a: u32, b: u32| at(a).distance(at(b)) <= self.within;
        let found = bvh.overlapping_pairs(progress, near)?;
        if found.len() > MOST_PAIRS {
            let why = format!("{} reaches across the part; merge within less", millimetres(self.within));
            return Err(TradeError::refused(why, vec![]));
        }
        let mut pairs: Vec<(f64, u32, u32)> = found
            .into_iter()
            .map(|(a, b)| (at(a).distance_squared(at(b)), ids[a.min(b) as usize], ids[a.max(b) as usize]))
            .collect();
        pairs.par_sort_unstable_by(|x, y| x.0.total_cmp(&y.0).then((x.1, x.2).cmp(&(y.1, y.2))));
        Ok(pairs.into_iter().map(|(_, a, b)| (a, b)).collect())
    }

    fn grouped(
        &self,
        mesh: &Mesh,
        pairs: &[(u32, u32)],
        apart: &[bool],
        progress: &Progress,
    ) -> Result<Groups, Cancelled> {
        let points = mesh.points();
        let mut group_of: Vec<u32> = (0..points.len() as u32).collect();
        let mut members: HashMap<u32, Vec<u32>> = HashMap::new();
        let mut merged = 0;
        for (n, &(a, b)) in pairs.iter().enumerate() {
            if n % 65_536 == 0 {
                progress.check()?;
            }
            if apart[a as usize] || apart[b as usize] {
                continue;
            }
            let (g, h) = (group_of[a as usize], group_of[b as usize]);
            if g == h {
                continue;
            }
            let of = |g: u32| members.get(&g).cloned().unwrap_or_else(|| vec![g]);
            let both = [of(g), of(h)].concat();
            let mean = mean_of(points, &both);
            if both.iter().any(|p| points[*p as usize].distance(mean) > self.within * 0.5) {
                continue;
            }
            members.remove(&h);
            both.iter().for_each(|p| group_of[*p as usize] = g);
            members.insert(g, both);
            merged += 1;
        }
        let mut place = points.to_vec();
        let mut largest_move = 0.0f64;
        for own in members.values() {
            let mean = mean_of(points, own);
            for p in own {
                largest_move = largest_move.max(points[*p as usize].distance(mean));
                place[*p as usize] = mean;
            }
        }
        Ok(Groups { place, merged, groups: members.len(), largest_move })
    }

    fn finish(&self, mesh: &Mesh, groups: &Groups, apart: &[bool]) -> Result<Outcome, TradeError> {
        let made = weld_mesh(&groups.place, mesh.triangles(), mesh.face_of().to_vec())?;
        refuse_flattened(mesh, &made)?;
        let done = format!("merged {} corners into {}", groups.merged + groups.groups, groups.groups);
        let held = apart.iter().filter(|a| **a).count();
        let left = match held {
            0 => vec![],
            n => vec![format!(
                "{} left as they were: merged, a triangle there would turn over",
                count(n, "corner", "corners")
            )],
        };
        Ok(Outcome { left, largest_move: groups.largest_move, ..Outcome::of(made, done) })
    }
}

struct Groups {
    place: Vec<Point>,
    merged: usize,
    groups: usize,
    largest_move: f64,
}

/// The mean of some points, the same whatever their order.
fn mean_of(points: &[Point], ids: &[u32]) -> Point {
    let mut own: Vec<[f64; 3]> = ids.iter().map(|p| points[*p as usize].to_array()).collect();
    own.sort_by(|a, b| a.partial_cmp(b).unwrap_or(std::cmp::Ordering::Equal));
    own.into_iter().map(Point::from_array).sum::<Point>() / ids.len() as f64
}

/// Triangles that would lose their area or show their other side.
fn turned_over(mesh: &Mesh, place: &[Point]) -> Vec<u32> {
    (0..mesh.triangles().len() as u32)
        .into_par_iter()
        .filter(|&t| {
            let corners = mesh.triangles()[t as usize];
            if corners.iter().all(|c| place[*c as usize] == mesh.points()[*c as usize]) {
                return false;
            }
            let [a, b, c] = corners.map(|i| place[i as usize]);
            !is_degenerate(mesh.corners(t as usize))
                && (is_degenerate([a, b, c]) || (b - a).cross(c - a).dot(mesh.area_vector(t as usize)) <= 0.0)
        })
        .collect()
}

/// Both sides of a wall thinner than the distance would fall together.
fn refuse_flattened(before: &Mesh, after: &Mesh) -> Result<(), TradeError> {
    let twice = |m: &Mesh| crate::examine::duplicate_triangles(&Topology::new(m.triangles(), m.points().len()));
    let now = twice(after);
    match now.first() {
        Some(t) if now.len() > twice(before).len() => Err(TradeError::refused(
            "two sides of a wall thinner than that would fall together here; merge within less",
            vec![after.corners(*t as usize)[0]],
        )),
        _ => Ok(()),
    }
}
