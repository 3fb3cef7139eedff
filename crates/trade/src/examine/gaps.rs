//! Gaps and T-junctions: runs of naked edges that face each other, with their widths.

use std::collections::{HashMap, HashSet};

use nimbet_kernel::rims::{Rim, rims};
use nimbet_kernel::topology::Topology;
use nimbet_kernel::{Aabb, Cancelled, Mesh, Point, Progress, UnionFind};
use rayon::prelude::*;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::border::Border;
use super::finding::Place;
use super::rim_facts::{RimFacts, name_rims};
use crate::TradeError;
use crate::words::{Xyz, millimetres, xyz};

/// Naked edges farther apart than this share of the part's diagonal are an opening, not a gap.
const WIDEST_SHARE: f64 = 0.01;
/// A gap is at least four times as long as it is wide; else it is a small hole.
const LEAST_SLENDERNESS: f64 = 4.0;
/// A rim of so few edges is what a missing triangle or two or a missing corner leave, however slender: putting them back moves
/// nothing, closing it as a gap would.
const MOST_EDGES_OF_A_HOLE: usize = 6;
/// A point this close to an edge lies on it: twice the rounding of single-precision files, as a share of the diagonal.
pub(super) const ON_EDGE_SHARE: f64 = 2e-7;

/// The measures of a gap.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct GapFacts {
    /// G1 is the longest.
    pub name: String,
    /// The rims it runs along.
    pub rims: Vec<String>,
    /// Least width, mm.
    pub width_least: f64,
    /// Mean width along its length, mm.
    pub width_mean: f64,
    /// Greatest width, mm.
    pub width_most: f64,
    /// Length, mm.
    pub length: f64,
    /// The reach that closes it, mm.
    pub reach: f64,
    /// Where it is.
    pub place: Place,
    /// What finds it again.
    pub pick: GapPick,
}

/// An anchor for a gap: a point on one of its sides, and its length to tell it from others.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[schemars(extend("asks" = "gap"))]
pub struct GapPick {
    /// The middle of one of its edges, mm.
    pub near: Xyz,
    /// Its length, mm.
    pub length: f64,
}

impl GapPick {
    /// The gap this pick means: the nearest of about its length, if it is close by.
    fn find(&self, gaps: &[GapFacts]) -> Option<usize> {
        /// A gap may have grown or shrunk by earlier steps by this share and still be the same.
        const SAME_LENGTH: f64 = 0.2;
        const CLOSE: f64 = 0.05;
        let away = |g: &GapFacts| (Point::from_array(g.pick.near) - Point::from_array(self.near)).length();
        gaps.iter()
            .enumerate()
            .filter(|(_, g)| (g.length - self.length).abs() <= SAME_LENGTH * self.length)
            .filter(|(_, g)| away(g) <= CLOSE * self.length)
            .min_by(|(_, g), (_, h)| away(g).total_cmp(&away(h)))
            .map(|(n, _)| n)
    }
}

/// A point on the inside of somebody else's naked edge, or two edges that each have an end inside the other.
pub(crate) struct JunctionFacts {
    /// The point, or the middle of what the two edges share.
    pub at: Point,
    pub distance: f64,
    /// For edges that share part of themselves the length of that part, mm.
    pub shared: Option<f64>,
    /// The point itself and the ends of the edge it lies on; of both points.
    pub points: Vec<u32>,
}

/// A little more than the width, rounded up to a figure people would type.
pub(crate) fn reach_for(width: f64) -> f64 {
    const MARGIN: f64 = 1.1;
    let wanted = (width * MARGIN).max(1e-4);
    let digit = 10f64.powf(wanted.log10().floor() - 1.0);
    // Not up a digit for the rounding of a measured width.
    let rounded = (wanted / digit - 1e-6).ceil() * digit;
    // Powers of ten are not exact in binary; print and parse to drop the tail.
    format!("{rounded:.6}").parse().unwrap_or(rounded)
}

struct Matched {
    partner: u32,
    least: f64,
    width: f64,
    most: f64,
    length: f64,
}

/// What was found along the border.
pub(super) struct Found {
    /// The gaps, the longest first.
    pub gaps: Vec<GapFacts>,
    /// The T-junctions outside of them.
    pub junctions: Vec<JunctionFacts>,
    /// The points along each gap.
    pub along: Vec<Vec<u32>>,
    /// The points along all of these.
    pub points: HashSet<u32>,
}

/// The points along the picked gaps of a mesh.
///
/// # Errors
/// The first pick that finds nothing, or that somebody cancelled.
pub(crate) fn points_along(mesh: &Mesh, picks: &[GapPick], progress: &Progress) -> Result<HashSet<u32>, TradeError> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let (rims, facts) = name_rims(mesh, rims(&topology));
    let diagonal = Aabb::of(mesh.points().iter().copied()).diagonal();
    let found = find(mesh, &topology, &rims, &facts, diagonal, progress)?;
    let mut points = HashSet::new();
    for pick in picks {
        let gap = pick.find(&found.gaps).ok_or_else(|| TradeError::NeedsNewPick {
            what: format!("the gap of {} length", millimetres(pick.length)),
            place: Point::from_array(pick.near),
        })?;
        points.extend(&found.along[gap]);
    }
    Ok(points)
}

/// Finds all gaps and the T-junctions outside of them.
pub(super) fn find(
    mesh: &Mesh,
    topology: &Topology<'_>,
    rims: &[Rim],
    facts: &[RimFacts],
    diagonal: f64,
    progress: &Progress,
) -> Result<Found, Cancelled> {
    let border = Border::new(mesh.points(), mesh.triangles(), topology.naked_halves());
    let matched = match_segments(mesh, &border, diagonal * WIDEST_SHARE, progress)?;

    let (runs, rim_of) = runs(&border, rims, &matched);
    let on_edge = diagonal * ON_EDGE_SHARE;
    let mut in_gap = vec![false; border.halves.len()];
    let mut gaps: Vec<(u32, GapFacts, Vec<u32>)> = Vec::new();
    for (root, run) in runs {
        let of = |f: fn(&Matched) -> f64| {
            run.iter().filter_map(|&s| matched[s as usize].as_ref()).map(f).collect::<Vec<_>>()
        };
        let lengths = of(|m| m.length);
        let doubled: f64 = lengths.iter().sum();
        let width_mean = of(|m| m.width * m.length).iter().sum::<f64>() / doubled;
        let width_most = of(|m| m.most).into_iter().fold(0.0, f64::max);
        let length = doubled * 0.5;
        if width_most <= on_edge || width_mean * LEAST_SLENDERNESS > length {
            continue;
        }
        let mut along: Vec<usize> = run.iter().map(|&s| rim_of[s as usize]).collect();
        along.sort_unstable();
        along.dedup();
        if along.len() == 1 && rims[along[0]].halves.len() <= MOST_EDGES_OF_A_HOLE {
            continue;
        }
        for &s in &run {
            in_gap[s as usize] = true;
        }
        let corner = |v: u32| mesh.points()[v as usize];
        let (from, to) = border.ends(run[0]);
        let middle = corner(from).midpoint(corner(to));
        gaps.push((
            root,
            GapFacts {
                name: String::new(),
                rims: along.iter().map(|&r| facts[r].name.clone()).collect(),
                width_least: of(|m| m.least).into_iter().fold(f64::INFINITY, f64::min),
                width_mean,
                width_most,
                length,
                reach: reach_for(width_most.max(corner_width(&border, mesh.points(), &run, width_most))),
                place: Place::of(run.iter().flat_map(|&s| [corner(border.ends(s).0), corner(border.ends(s).1)])),
                pick: GapPick { near: xyz(middle), length },
            },
            run.iter().flat_map(|&s| [border.ends(s).0, border.ends(s).1]).collect(),
        ));
    }
    gaps.sort_by(|(r, a, _), (s, b, _)| b.length.total_cmp(&a.length).then(r.cmp(s)));
    let (mut facts, mut points_of) = (Vec::new(), Vec::new());
    for (n, (_, gap, points)) in gaps.into_iter().enumerate() {
        facts.push(GapFacts { name: format!("G{}", n + 1), ..gap });
        points_of.push(points);
    }
    let junctions = junctions(mesh, &border, &in_gap, on_edge);
    let along_gaps = (0..border.halves.len() as u32).filter(|&s| in_gap[s as usize]);
    let mut points: HashSet<u32> = along_gaps.flat_map(|s| [border.ends(s).0, border.ends(s).1]).collect();
    points.extend(junctions.iter().flat_map(|j| &j.points));
    Ok(Found { gaps: facts, junctions, along: points_of, points })
}

/// The segments of the border that belong together, by one of them, and the rim of each: neighbours along a rim where both are matched,
/// and matched partners.
fn runs(border: &Border, rims: &[Rim], matched: &[Option<Matched>]) -> (HashMap<u32, Vec<u32>>, Vec<usize>) {
    let segment_of: HashMap<u32, u32> = border.halves.iter().enumerate().map(|(s, &h)| (h, s as u32)).collect();
    let mut sets = UnionFind::new(border.halves.len());
    let mut rim_of = vec![0usize; border.halves.len()];
    for (r, rim) in rims.iter().enumerate() {
        let n = rim.halves.len();
        for i in 0..n {
            let here = segment_of[&rim.halves[i]];
            rim_of[here as usize] = r;
            let next = segment_of[&rim.halves[(i + 1) % n]];
            let (Some(m), Some(k)) = (&matched[here as usize], &matched[next as usize]) else { continue };
            // Round a corner of the seam the partners part; they meet again only if they are neighbours themselves.
            let partners = [m.partner, k.partner].map(|s| border.ends(s));
            let near = m.partner == k.partner
                || [partners[1].0, partners[1].1].iter().any(|v| *v == partners[0].0 || *v == partners[0].1);
            if near && (i + 1 < n || rim.closed) {
                sets.union(here, next);
            }
        }
    }
    for (s, m) in matched.iter().enumerate() {
        if let Some(m) = m
            && matched[m.partner as usize].is_some()
        {
            sets.union(s as u32, m.partner);
        }
    }
    let mut runs: HashMap<u32, Vec<u32>> = HashMap::new();
    for s in 0..border.halves.len() as u32 {
        if matched[s as usize].is_some() {
            runs.entry(sets.find(s)).or_default().push(s);
        }
    }
    (runs, rim_of)
}

/// The greatest distance between corners that face each other across a gap: at a corner of the seam the two sides stand
/// farther apart than they do along it, and they must be joined there all the same.
fn corner_width(border: &Border<'_>, points: &[Point], run: &[u32], width: f64) -> f64 {
    /// A border that turns by more than 30° has a corner there.
    const STRAIGHT: f64 = 0.866;
    /// Two sides moved apart askew stand at most so many widths apart at a right-angled corner.
    const ASKEW: f64 = 2.0;
    /// A seam of more corners than this is a jagged line, whose corners do not face each other.
    const MOST: usize = 2000;
    let mut corners: Vec<u32> = run.iter().flat_map(|&s| [border.ends(s).0, border.ends(s).1]).collect();
    corners.sort_unstable();
    corners.dedup();
    corners.retain(|v| match border.at_point.get(v).map(Vec::as_slice) {
        Some(&[s, t]) => border.along(s).normalize_or_zero().dot(border.along(t).normalize_or_zero()) < STRAIGHT,
        _ => false,
    });
    if corners.len() > MOST {
        return 0.0;
    }
    let place = |v: u32| points[v as usize];
    let nearest = |v: u32| {
        let others = corners.iter().filter(|w| **w != v).map(|w| (place(*w) - place(v)).length());
        others.fold(f64::INFINITY, f64::min)
    };
    corners.iter().map(|&v| nearest(v)).filter(|d| *d <= width * ASKEW).fold(0.0, f64::max)
}

/// For each segment its partner and the widths near its ends (where a slit runs out, the end itself has none) and middle.
fn match_segments(
    mesh: &Mesh,
    border: &Border<'_>,
    limit: f64,
    progress: &Progress,
) -> Result<Vec<Option<Matched>>, Cancelled> {
    let matched = |s: u32| {
        let (a, b) = border.ends(s);
        let [pa, pb] = [a, b].map(|v| mesh.points()[v as usize]);
        let nearest = |at: f64| border.nearest_facing(pa.lerp(pb, at), &[s], None, limit, |_| true);
        nearest(0.5).map(|m| {
            let (mut least, mut most) = (m.distance, m.distance);
            for near_end in [0.05, 0.95] {
                if let Some(f) = nearest(near_end) {
                    least = least.min(f.distance);
                    most = most.max(f.distance);
                }
            }
            Matched { partner: m.segment, least, width: m.distance, most, length: (pb - pa).length() }
        })
    };
    let segments = (0..border.halves.len() as u32).into_par_iter();
    segments.map(|s| progress.check().map(|()| matched(s))).collect()
}

/// Border points on the inside of an edge they do not belong to, outside of gaps. Two of them whose edges have each the
/// other's point inside are one place: edges that share part of themselves.
fn junctions(mesh: &Mesh, border: &Border<'_>, in_gap: &[bool], on_edge: f64) -> Vec<JunctionFacts> {
    let mut points: Vec<(&u32, &Vec<u32>)> = border.at_point.iter().collect();
    points.sort_unstable();
    // Point, edge it lies on, distance.
    let mut found: Vec<(u32, u32, f64)> = Vec::new();
    for (&v, own) in points {
        if own.iter().all(|&s| in_gap[s as usize]) {
            continue;
        }
        let lies_on = border.nearest_facing(mesh.points()[v as usize], own, Some(v), on_edge, |f| {
            let length = border.along(f.segment).length();
            f.at * length > on_edge && (1.0 - f.at) * length > on_edge
        });
        found.extend(lies_on.map(|f| (v, f.segment, f.distance)));
    }
    let on: HashMap<u32, Vec<usize>> = found.iter().enumerate().fold(HashMap::new(), |mut on, (n, (_, s, _))| {
        on.entry(*s).or_insert_with(Vec::new).push(n);
        on
    });
    let mut told = vec![false; found.len()];
    let mut facts = Vec::new();
    for (n, &(v, segment, distance)) in found.iter().enumerate() {
        if std::mem::replace(&mut told[n], true) {
            continue;
        }
        let at = mesh.points()[v as usize];
        let (a, b) = border.ends(segment);
        let other = border.at_point[&v].iter().flat_map(|own| on.get(own).into_iter().flatten()).copied().find(|&m| {
            let w = found[m].0;
            !told[m] && (w == a || w == b)
        });
        facts.push(match other {
            Some(m) => {
                told[m] = true;
                let (w, on, also) = found[m];
                let far = mesh.points()[w as usize];
                let (c, d) = border.ends(on);
                JunctionFacts {
                    at: at.midpoint(far),
                    distance: distance.max(also),
                    shared: Some(at.distance(far)),
                    points: vec![v, a, b, w, c, d],
                }
            }
            None => JunctionFacts { at, distance, shared: None, points: vec![v, a, b] },
        });
    }
    facts
}
