//! `seal.cover_rim`: closes rims with new triangles, flat, taut or domed.
//!
//! Flat: rims that lie in one plane are covered together, so that a rim inside a rim is a hole in the cover. Taut: each rim
//! by the surface of least area, at the density of the edges round it. Domed: as taut, then swollen so that it continues the
//! surface round the rim. No existing point moves.

use std::collections::{BTreeSet, HashMap, HashSet};

use nimbet_kernel::rims::Rim;
use nimbet_kernel::simplify::undivided;
use nimbet_kernel::triangulate::{FlatError, PlaneFrame, triangulate_flat};
use nimbet_kernel::{FaceId, Mesh, Point, Progress, Topology, UnionFind};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::loops::{Shape, Work, against};
use super::named_rims;
use super::new_surface::{clash, clashing};
use crate::budget::Effort;
use crate::examine::{About, NamedRim, RimFacts, RimPick, chain_points, mean_plane};
use crate::parameter::Distance;
use crate::tool::{Cure, Effect, Entry, Given, Needs, Tool};
use crate::words::{count, millimetres};
use crate::{Outcome, TradeError};

/// How a cover is shaped.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum CoverStyle {
    /// In the plane of the rim.
    Flat,
    /// The surface of least area.
    #[default]
    Taut,
    /// The surface that continues what is round the rim.
    Domed,
}

impl CoverStyle {
    pub(super) fn word(self) -> &'static str {
        match self {
            Self::Flat => "flat",
            Self::Taut => "taut",
            Self::Domed => "domed",
        }
    }
}

/// Which rims are meant.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum RimChoice {
    /// Every closed rim; for flat covers every flat one.
    #[default]
    All,
    /// The picked ones.
    Picked(Vec<RimPick>),
}

/// Parameters of `seal.cover_rim`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CoverRim {
    /// Which rims.
    #[serde(default)]
    pub rims: RimChoice,
    /// How.
    #[serde(default)]
    #[schemars(title = "Shape of the cover")]
    pub style: CoverStyle,
    /// How far a domed cover stands off the taut one at most, mm, square to the rim's mean plane; as it comes when absent, to
    /// the other side when negative.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Distance>", extend("empty" = "as it comes", "when" = { "/style": "domed" }))]
    pub height: Option<f64>,
    /// Whether one surface closes them all: the longest is its border, the others are islands in it. Flat covers of rims in
    /// one plane are made so without asking.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "One cover over all of them, with islands", extend("when" = { "/rims/picked/1": true }))]
    pub as_one: bool,
    /// Whether it may pass through the part, to be untangled after. Otherwise a picked rim is refused then, and of all rims
    /// those are left open.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "May pass through the part, to be untangled after")]
    pub may_cross: bool,
}

/// Rims lie in one plane when their normals agree to this cosine and they stand off each other no farther than they count
/// as flat.
const SAME_NORMAL: f64 = 1.0 - 1e-6;

/// Covers, domed or where it is flat taut, every closed rim that has an edge between two places for which `is_new` holds.
pub(crate) fn cover_new(
    mesh: &Mesh,
    is_new: impl Fn(Point, Point) -> bool,
    is_flat: impl Fn(&Rim) -> bool,
    progress: &Progress,
) -> Result<Outcome, TradeError> {
    let (rims, facts) = named_rims(mesh);
    let edges = |rim: &Rim| {
        let points = chain_points(mesh, rim);
        (0..rim.halves.len()).any(|i| is_new(points[i], points[(i + 1) % points.len()]))
    };
    let new: Vec<usize> = (0..rims.len()).filter(|&r| edges(&rims[r])).collect();
    let (chosen, unfit): (Vec<usize>, Vec<usize>) =
        new.into_iter().partition(|&r| facts[r].closed && facts[r].edges >= 3);
    let mut work = Work::new(mesh, chosen.iter().flat_map(|&r| rims[r].points.iter().copied()));
    for (n, &r) in chosen.iter().enumerate() {
        let shape = if is_flat(&rims[r]) { Shape::Taut } else { Shape::Domed(None) };
        cover_one(&mut work, mesh, &rims[r], &facts[r], shape, &progress.part(n, chosen.len()))?;
    }
    let added = work.triangles.len() - mesh.triangles().len();
    let done = format!(
        "covered {} with {}",
        count(chosen.len(), "opening", "openings"),
        count(added, "triangle", "triangles")
    );
    let left = match unfit.len() {
        0 => vec![],
        n => vec![format!("{} left open: the border meets edges of three or more triangles", count(n, "rim", "rims"))],
    };
    Ok(Outcome { done: vec![done], left, ..Outcome::of(work.finish()?, String::new()) })
}

/// The triangles of `covered` from `first` on, put onto a mesh whose naked edges may be divided by further points. All other points of
/// `covered` are the mesh's or new.
fn transplanted(mesh: &Mesh, covered: &Mesh, first: usize) -> Result<Mesh, TradeError> {
    let bits = |p: Point| p.to_array().map(f64::to_bits);
    let known: HashMap<[u64; 3], u32> = mesh.points().iter().enumerate().map(|(n, p)| (bits(*p), n as u32)).collect();
    let (mut points, mut triangles, mut faces) = mesh.clone().into_parts();
    let name: Vec<u32> = (covered.points().iter())
        .map(|p| {
            known.get(&bits(*p)).copied().unwrap_or_else(|| {
                points.push(*p);
                points.len() as u32 - 1
            })
        })
        .collect();
    // Along a naked edge of what was covered run the naked edges of the mesh.
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let mut beside: HashMap<u32, Vec<u32>> = HashMap::new();
    for (a, b) in topology.naked_halves().into_iter().map(|h| topology.ends(h)) {
        beside.entry(a).or_default().push(b);
        beside.entry(b).or_default().push(a);
    }
    let kept: HashSet<u32> = name.iter().copied().collect();
    let chain = |a: u32, b: u32| -> Vec<u32> {
        let all = beside.get(&a).into_iter().flatten();
        let runs = all.map(|&next| {
            let mut run = vec![a, next];
            while let [.., before, here] = run[..]
                && !kept.contains(&here)
            {
                match beside[&here].iter().find(|p| **p != before) {
                    Some(on) => run.push(*on),
                    None => break,
                }
            }
            run
        });
        runs.filter(|run| run.len() > 2 && run.last() == Some(&b)).min_by_key(Vec::len).unwrap_or_else(|| vec![a, b])
    };
    for (t, face) in covered.triangles().iter().zip(covered.face_of()).skip(first) {
        let corners = t.map(|p| name[p as usize]);
        let sides = [0, 1, 2].map(|k| chain(corners[k], corners[(k + 1) % 3]));
        divided(sides, &mut |t| {
            triangles.push(t);
            faces.push(*face);
        });
    }
    Ok(Mesh::new(points, triangles, faces)?)
}

/// A triangle by its three sides, from corner to corner with points between, as triangles without points between.
fn divided([ab, bc, ca]: [Vec<u32>; 3], made: &mut dyn FnMut([u32; 3])) {
    if ab.len() == 2 && bc.len() == 2 && ca.len() == 2 {
        made([ab[0], bc[0], ca[0]]);
    } else if ab.len() == 2 {
        divided([bc, ca, ab], made);
    } else {
        let (middle, c) = (ab.len() / 2, ca[0]);
        let (from, to) = (ab[..=middle].to_vec(), ab[middle..].to_vec());
        let m = ab[middle];
        divided([from, vec![m, c], ca], made);
        divided([to, bc, vec![c, m]], made);
    }
}

/// Covers one rim.
fn cover_one(
    work: &mut Work,
    mesh: &Mesh,
    rim: &Rim,
    facts: &RimFacts,
    shape: Shape,
    progress: &Progress,
) -> Result<(), TradeError> {
    progress.report(0.0, &format!("covering {}", facts.name))?;
    work.cover(&[against(mesh.triangles(), rim)], shape, progress)
}

/// The chosen rims closed by the covers to which some new triangles, those from `first` on, belong.
fn closed_by(covered: &Mesh, first: usize, some: &[u32], rims: &[Rim], chosen: &[usize]) -> BTreeSet<usize> {
    // Each cover is a face of its own, with all points of the rims it closes.
    let face_of = covered.face_of();
    let faces: HashSet<FaceId> = some.iter().map(|t| face_of[*t as usize]).collect();
    let triangles = covered.triangles().iter().zip(face_of).skip(first);
    let points: HashSet<u32> = triangles.filter(|(_, f)| faces.contains(f)).flat_map(|(t, _)| *t).collect();
    chosen.iter().copied().filter(|&r| rims[r].points.iter().all(|p| points.contains(p))).collect()
}

/// Rims by name, or their number where they are many.
fn names(facts: &[RimFacts], rims: impl IntoIterator<Item = usize>) -> String {
    let names: Vec<&str> = rims.into_iter().map(|r| facts[r].name.as_str()).collect();
    if names.len() <= 6 { names.join(", ") } else { count(names.len(), "rim", "rims") }
}

impl Tool for CoverRim {
    const KIND: &'static str = "seal.cover_rim";
    const WHAT: &'static str = "Close rims with new triangles.";
    const EFFORT: Effort = Effort::Searching;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "cover_rim",
        name: "Cover rims",
        hint: "Close openings flat, taut or domed",
        group: "Close",
        words: &["cap", "fill hole", "patch", "close opening", "lid"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({ "rims": "all", "style": "taut" }),
    }];

    fn title(&self) -> String {
        let which = match &self.rims {
            RimChoice::All => "all rims".to_owned(),
            RimChoice::Picked(picks) => count(picks.len(), "rim", "rims"),
        };
        format!("Cover {which} {}", self.style.word())
    }

    fn remedies(about: &About) -> Vec<Cure> {
        let cover = |rank: u8, rim: &NamedRim, style: CoverStyle| {
            let rims = RimChoice::Picked(vec![rim.pick.clone()]);
            Cure::new(rank, format!("Cover {} {}", rim.name, style.word()), Self { rims, style, ..Self::default() })
        };
        let taut_or_domed = |rim| vec![cover(2, rim, CoverStyle::Taut), cover(3, rim, CoverStyle::Domed)];
        match about {
            About::Rim { rim, flat: true, .. } => {
                std::iter::once(cover(1, rim, CoverStyle::Flat)).chain(taut_or_domed(rim)).collect()
            }
            About::Rim { rim, .. } => taut_or_domed(rim),
            About::Needle { rim: Some(rim), .. } => vec![cover(2, rim, CoverStyle::Taut)],
            _ => vec![],
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        if self.as_one && self.style != CoverStyle::Flat && self.rims == RimChoice::All {
            return Err(TradeError::refused("pick the rims that one cover is to close", vec![]));
        }
        if self.height.is_some() && self.style != CoverStyle::Domed {
            return Err(TradeError::refused("a height is only for domed covers", vec![]));
        }
        // What closes a rim should not hang on how the surface round it, and the rim itself, were divided.
        let (rims, facts) = named_rims(mesh);
        let chosen: Vec<u32> =
            self.choose(mesh, &rims, &facts)?.into_iter().flat_map(|r| rims[r].points.iter().copied()).collect();
        match undivided(mesh, Some(&chosen), progress)? {
            None => self.covered(mesh, rims, facts, progress),
            Some(flat) => {
                let (rims, facts) = named_rims(&flat);
                let outcome = self.covered(&flat, rims, facts, progress)?;
                let mesh = transplanted(mesh, &outcome.mesh, flat.triangles().len())?;
                Ok(Outcome { mesh, ..outcome })
            }
        }
    }

    fn effect(&self) -> Effect {
        Effect::Mends
    }
}

impl CoverRim {
    fn covered(
        &self,
        mesh: &Mesh,
        rims: Vec<Rim>,
        facts: Vec<RimFacts>,
        progress: &Progress,
    ) -> Result<Outcome, TradeError> {
        let mut chosen = self.choose(mesh, &rims, &facts)?;
        let unfit = rims.len() - chosen.len();
        let mut left = Vec::new();
        let whole = loop {
            let whole = self.cover(mesh, &rims, &facts, &mut chosen, &mut left, &progress.stage(0.0, 0.9))?;
            if self.may_cross {
                break whole;
            }
            let clashing = clashing(&whole, mesh.triangles().len(), &progress.stage(0.9, 1.0))?;
            if clashing.is_empty() {
                break whole;
            }
            let bad = closed_by(&whole, mesh.triangles().len(), &clashing, &rims, &chosen);
            if self.rims != RimChoice::All || bad.len() == chosen.len() {
                return Err(clash(&whole, &clashing, &format!("the cover of {}", names(&facts, bad))));
            }
            // Of all rims those whose covers stay clear are covered.
            chosen.retain(|r| !bad.contains(r));
            left.push(format!("{} left open: the cover would pass through the part", names(&facts, bad)));
        };
        if self.rims == RimChoice::All && unfit > 0 {
            let why = if self.style == CoverStyle::Flat { "not flat or not closed" } else { "not closed" };
            left.insert(0, format!("{} left open: {why}", count(unfit, "rim", "rims")));
        }
        let added = whole.triangles().len() - mesh.triangles().len();
        let done = format!("covered {} with {}", names(&facts, chosen), count(added, "triangle", "triangles"));
        Ok(Outcome { left, ..Outcome::of(whole, done) })
    }

    /// Covers the chosen rims. Those of all that cannot be covered flat are no longer chosen then; `left` says why.
    fn cover(
        &self,
        mesh: &Mesh,
        rims: &[Rim],
        facts: &[RimFacts],
        chosen: &mut Vec<usize>,
        left: &mut Vec<String>,
        progress: &Progress,
    ) -> Result<Mesh, TradeError> {
        let mut work = Work::new(mesh, chosen.iter().flat_map(|&r| rims[r].points.iter().copied()));
        let shape = if self.style == CoverStyle::Domed { Shape::Domed(self.height) } else { Shape::Taut };
        if self.style == CoverStyle::Flat {
            let groups = coplanar_groups(mesh, rims, facts, chosen);
            let only = groups.len() == 1 || self.rims != RimChoice::All;
            for group in groups {
                progress.check()?;
                match cover_flat(&mut work, mesh, rims, facts, &group) {
                    // Of all rims those that can be are covered.
                    Err(TradeError::Refused { why, .. }) if !only => {
                        chosen.retain(|r| !group.contains(r));
                        left.push(format!("{} left open: {why}", facts[group[0]].name));
                    }
                    other => other?,
                }
            }
            if chosen.is_empty() {
                return Err(TradeError::nothing(left.join("; ")));
            }
        } else if self.as_one {
            progress.report(0.0, "covering the rims as one")?;
            let loops: Vec<Vec<u32>> = chosen.iter().map(|&r| against(mesh.triangles(), &rims[r])).collect();
            work.cover(&loops, shape, progress)?;
        } else {
            for (n, &r) in chosen.iter().enumerate() {
                cover_one(&mut work, mesh, &rims[r], &facts[r], shape, &progress.part(n, chosen.len()))?;
            }
        }
        Ok(work.finish()?)
    }

    /// The rims to cover, ascending.
    fn choose(&self, mesh: &Mesh, rims: &[Rim], facts: &[RimFacts]) -> Result<Vec<usize>, TradeError> {
        let fits = |f: &RimFacts| f.closed && f.edges >= 3 && (self.style != CoverStyle::Flat || f.flat);
        let mut chosen = match &self.rims {
            RimChoice::All => {
                let all: Vec<usize> = (0..rims.len()).filter(|&r| fits(&facts[r])).collect();
                if all.is_empty() {
                    return Err(match facts.first() {
                        None => TradeError::nothing("there is no rim: nothing is open"),
                        Some(f) => unfit(f),
                    });
                }
                all
            }
            RimChoice::Picked(picks) => {
                let find = |pick: &RimPick| {
                    let r = pick.find(mesh, rims, facts).ok_or_else(|| TradeError::NeedsNewPick {
                        what: format!("the rim of {} length", millimetres(pick.length)),
                        place: Point::from_array(pick.near),
                    })?;
                    if fits(&facts[r]) { Ok(r) } else { Err(unfit(&facts[r])) }
                };
                picks.iter().map(find).collect::<Result<_, _>>()?
            }
        };
        chosen.sort_unstable();
        chosen.dedup();
        if chosen.is_empty() { Err(TradeError::nothing("no rim was picked")) } else { Ok(chosen) }
    }
}

/// Why a rim cannot be covered this way.
fn unfit(f: &RimFacts) -> TradeError {
    let why = if !f.closed {
        format!("{} is an open chain: it ends at edges of three or more triangles, which must be mended first", f.name)
    } else if f.edges < 3 {
        format!("{} has only {} edges: its two sides lie on each other; join them with Close gaps", f.name, f.edges)
    } else {
        format!("{} is not flat: it stands {} off its mean plane; cover it taut", f.name, millimetres(f.off_plane))
    };
    TradeError::refused(why, vec![Point::from_array(f.centre)])
}

/// Chosen rims that lie in one plane, together.
fn coplanar_groups(mesh: &Mesh, rims: &[Rim], facts: &[RimFacts], chosen: &[usize]) -> Vec<Vec<usize>> {
    let planes: Vec<(Point, Point, f64)> = chosen.iter().map(|&r| mean_plane(&chain_points(mesh, &rims[r]))).collect();
    let mut sets = UnionFind::new(chosen.len());
    for i in 0..chosen.len() {
        for j in i + 1..chosen.len() {
            let ((c, n, _), (d, m, _)) = (planes[i], planes[j]);
            let extent = facts[chosen[i]].extent.max(facts[chosen[j]].extent);
            let apart = (d - c).dot(n).abs().max((d - c).dot(m).abs());
            if n.dot(m).abs() >= SAME_NORMAL && apart <= (extent * 1e-4).max(1e-3) {
                sets.union(i as u32, j as u32);
            }
        }
    }
    let (number, groups) = sets.number_sets();
    let mut out = vec![Vec::new(); groups];
    for (i, &g) in number.iter().enumerate() {
        out[g as usize].push(chosen[i]);
    }
    out
}

fn cover_flat(
    work: &mut Work,
    mesh: &Mesh,
    rims: &[Rim],
    facts: &[RimFacts],
    group: &[usize],
) -> Result<(), TradeError> {
    let first = chain_points(mesh, &rims[group[0]]);
    let (centre, normal, _) = mean_plane(&first);
    let Some(frame) = PlaneFrame::new(centre, normal) else { return Err(unfit(&facts[group[0]])) };
    // Points are numbered over all rims of the group.
    let mut ids: Vec<u32> = Vec::new();
    let mut outlines = Vec::new();
    for &r in group {
        outlines.push((ids.len()..ids.len() + rims[r].points.len()).collect::<Vec<_>>());
        ids.extend(&rims[r].points);
    }
    let place = |i: usize| mesh.points()[ids[i] as usize];
    let flat: Vec<[f64; 2]> = (0..ids.len()).map(|i| frame.flatten(place(i))).collect();
    let cut = triangulate_flat(&flat, &outlines).map_err(|e| match e {
        FlatError::Crosses { first, second, .. } => TradeError::refused(
            "the rim crosses itself or another rim when seen flat, so a flat cover would too; cover it taut",
            vec![place(first), place(second)],
        ),
        FlatError::Coincides { point } => TradeError::refused(
            "the rim passes the same place twice; join it there with Close gaps first",
            vec![place(point)],
        ),
    })?;
    // A rim side used in the same direction by its old triangle and the cover is the wrong way round: vote by connected piece.
    let mut along: HashSet<(usize, usize)> = HashSet::new();
    for (outline, &r) in outlines.iter().zip(group) {
        let n = outline.len();
        for k in 0..n {
            let (a, b) = (outline[k], outline[(k + 1) % n]);
            let forward = rims[r].points[k] == nimbet_kernel::topology::ends(mesh.triangles(), rims[r].halves[k]).0;
            along.insert(if forward { (a, b) } else { (b, a) });
        }
    }
    let mut pieces = UnionFind::new(cut.len());
    let mut sides: HashMap<(usize, usize), u32> = HashMap::new();
    for (t, c) in cut.iter().enumerate() {
        for k in 0..3 {
            let (a, b) = (c[k], c[(k + 1) % 3]);
            if let Some(&u) = sides.get(&(b, a)) {
                pieces.union(t as u32, u);
            }
            sides.insert((a, b), t as u32);
        }
    }
    let inner = sides.keys().filter(|(a, b)| a < b && sides.contains_key(&(*b, *a)));
    if let Some(&(a, b)) = inner.filter(|(a, b)| work.has_side(ids[*a], ids[*b])).min() {
        let why =
            "a flat cover would run along an edge that is already there and give it a third triangle; cover it taut";
        return Err(TradeError::refused(why, vec![place(a).midpoint(place(b))]));
    }
    let (piece_of, pieces) = pieces.number_sets();
    let mut vote = vec![0i64; pieces];
    for (&(a, b), &t) in &sides {
        let piece = &mut vote[piece_of[t as usize] as usize];
        *piece += i64::from(along.contains(&(a, b))) - i64::from(along.contains(&(b, a)));
    }
    work.add(cut.iter().enumerate().map(|(t, c)| {
        let [a, b, c] = c.map(|i| ids[i]);
        let piece = piece_of[t];
        (if vote[piece as usize] > 0 { [a, c, b] } else { [a, b, c] }, piece)
    }));
    Ok(())
}
