//! `wall.even`: a rounding is made anew so that the wall along it is even; and where that is called for.
//!
//! The surface across from the rounding that stays is replaced by one at the distance of the wall. What may change lies within
//! the *zones*: what is swept along the normals of the rounding, and of the rounding across, through the material. There, as
//! deep under the surface that stays as the material goes, the part becomes the wall of that surface, in one exact arrangement.

use std::collections::{BTreeMap, BTreeSet};

use nimbet_kernel::measure::measure;
use nimbet_kernel::offset::{wall, without_crumbs};
use nimbet_kernel::surfaces::default_tolerance;
use nimbet_kernel::thickness::{Gauge, Side, Way, divide};
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{Aabb, FaceId, Mesh, Point, Progress, Topology, UnionFind};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::faces::only;
use super::grow::refuse_open;
use super::making::{CornerStyle, RimStyle, faces, how, told};
use crate::budget::Effort;
use crate::examine::{FaceAnchor, FaceFacts, FacePick, FaceSurface, Place, face_facts};
use crate::parameter::Length;
use crate::picks::picked_faces;
use crate::solids::{CREVICE, arranged, body_without_pinches};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::{figure, millimetres, xyz};
use crate::{Outcome, TradeError};

/// Parameters of `wall.even`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Even {
    /// The roundings that stay; those across from them are made anew.
    #[schemars(extend("hint" = "Click the roundings that stay.", "least" = 1))]
    pub keep: Vec<FacePick>,
    /// The wall, mm.
    #[schemars(with = "Length", extend("hint" = "The surface across is made anew at this distance"))]
    pub wall: f64,
    /// How far arcs may be off a true circle, mm; by the size of the part when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Chord tolerance", with = "Option<Length>", extend("empty" = "by the part's size", "folded" = true))]
    pub chord: Option<f64>,
}

/// Faces go on into each other where their edge turns by less than this (the cosine of 25 degrees: half a facet of an arc).
const SMOOTH: f64 = 0.906;
/// A wall is even if it differs by no more than this share.
const EVEN: f64 = 0.06;
/// What is thicker than this share of the part is no wall.
const THICK: f64 = 0.2;

/// A face with what is across from it.
struct Rounding {
    facts: FaceFacts,
    radius: f64,
    hollow: bool,
    /// The least and the most through the material, mm.
    least: f64,
    most: f64,
    /// The faces the rays come out at.
    across: BTreeSet<u32>,
}

/// A part made ready for looking at its roundings.
struct Look<'a> {
    mesh: &'a Mesh,
    facts: BTreeMap<u32, FaceFacts>,
    /// Faces that go on into each other.
    smooth: BTreeSet<(u32, u32)>,
    /// For each face through how much material rays go that start on it, with the area they stand for, and where they come out.
    rays: BTreeMap<u32, Vec<(f64, f64, u32)>>,
}

impl<'a> Look<'a> {
    fn new(mesh: &'a Mesh, progress: &Progress) -> Result<Self, TradeError> {
        /// Arcs are looked at in places no farther apart than this share of the part.
        const FINE: f64 = 0.02;
        const MOST: usize = 100_000;
        let size = Aabb::of(mesh.points().iter().copied()).diagonal();
        let facts = face_facts(mesh, None, &progress.stage(0.0, 0.2))?.into_iter().map(|f| (f.id, f)).collect();
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        let normal = |h: u32| mesh.area_vector(h as usize / 3).normalize_or_zero();
        let mut smooth = BTreeSet::new();
        for edge in topology.edges_with(EdgeUse::Regular) {
            let [a, b] = [topology.halves(edge)[0], topology.halves(edge)[1]];
            let (f, g) = (mesh.face_of()[a as usize / 3].0, mesh.face_of()[b as usize / 3].0);
            if f != g && normal(a).dot(normal(b)) >= SMOOTH {
                smooth.extend([(f, g), (g, f)]);
            }
        }
        let fine = divide(mesh, size * FINE, MOST.max(mesh.triangles().len()));
        let gauge = Gauge::new(&fine, Side::Inside, size * THICK);
        let places = nimbet_kernel::thickness::middles(&fine);
        let found = gauge.all(&places, Way::Ray, &progress.stage(0.2, 1.0))?;
        let mut rays: BTreeMap<u32, Vec<(f64, f64, u32)>> = BTreeMap::new();
        for (t, found) in found.into_iter().enumerate() {
            let Some(found) = found else { continue };
            let area = fine.area_vector(t).length() * 0.5;
            let across = fine.face_of()[found.triangle as usize].0;
            rays.entry(fine.face_of()[t].0).or_default().push((found.across, area, across));
        }
        Ok(Self { mesh, facts, smooth, rays })
    }

    fn beside(&self, face: u32) -> impl Iterator<Item = u32> {
        self.smooth.range((face, 0)..=(face, u32::MAX)).map(|pair| pair.1)
    }

    /// Lets no wall go on over what is an edge taken off, as a sharp one is: rounded by less than this share of what is under it.
    fn part_at_edges_taken_off(&mut self) {
        const SHARE: f64 = 0.5;
        let taken_off = |face: &FaceFacts| {
            let (FaceSurface::Cylinder { radius, .. }
            | FaceSurface::Sphere { radius, .. }
            | FaceSurface::Torus { radius, .. }) = face.surface
            else {
                return false;
            };
            let rays = self.rays.get(&face.id).into_iter().flatten();
            radius < rays.map(|r| r.0).fold(f64::INFINITY, f64::min) * SHARE
        };
        let all: BTreeSet<u32> = self.facts.values().filter(|f| taken_off(f)).map(|f| f.id).collect();
        self.smooth.retain(|(f, g)| !all.contains(f) && !all.contains(g));
    }

    fn rounding(&self, face: u32) -> Option<Rounding> {
        let facts = self.facts.get(&face)?;
        let (FaceSurface::Cylinder { radius, hollow, .. }
        | FaceSurface::Sphere { radius, hollow, .. }
        | FaceSurface::Torus { radius, hollow, .. }) = facts.surface
        else {
            return None;
        };
        let rays = self.rays.get(&face)?;
        let least = rays.iter().map(|r| r.0).fold(f64::INFINITY, f64::min);
        let most = rays.iter().map(|r| r.0).fold(0.0, f64::max);
        let across = rays.iter().map(|r| r.2).collect();
        Some(Rounding { facts: facts.clone(), radius, hollow, least, most, across })
    }

    /// The wall beside a rounding, where it is even: of the faces that go on into it and are no roundings themselves.
    fn wall_beside(&self, run: &BTreeSet<u32>) -> Option<f64> {
        let beside: BTreeSet<u32> = run.iter().flat_map(|f| self.beside(*f)).filter(|f| !run.contains(f)).collect();
        let mut walls: Vec<(f64, f64)> =
            beside.iter().filter_map(|f| self.rays.get(f)).flatten().map(|r| (r.0, r.1)).collect();
        walls.sort_by(|a, b| a.0.total_cmp(&b.0));
        let half = walls.iter().map(|w| w.1).sum::<f64>() * 0.5;
        let mut under = 0.0;
        let median = walls.iter().find(|w| {
            under += w.1;
            under >= half
        })?;
        Some(median.0)
    }

    /// Whether what is across from some faces lies on others but for a hundredth of the area: it does not end before they do.
    fn is_covered(&self, faces: impl Iterator<Item = u32>, by: &BTreeSet<u32>) -> bool {
        const NEARLY_ALL: f64 = 0.99;
        let (mut hit, mut all) = (0.0, 0.0);
        for face in faces {
            all += self.facts.get(&face).map_or(0.0, |f| f.area);
            let rays = self.rays.get(&face).into_iter().flatten();
            hit += rays.filter(|r| by.contains(&r.2)).map(|r| r.1).sum::<f64>();
        }
        hit >= NEARLY_ALL * all
    }

    /// Faces with those that go on into them.
    fn with_beside(&self, faces: impl Iterator<Item = u32> + Clone) -> BTreeSet<u32> {
        faces.clone().chain(faces.flat_map(|f| self.beside(f))).collect()
    }

    /// A pick of a face.
    fn pick(&self, face: &FaceFacts) -> FacePick {
        let of = (0..self.mesh.triangles().len()).filter(|t| self.mesh.face_of()[*t].0 == face.id);
        let widest =
            of.max_by(|a, b| self.mesh.area_vector(*a).length().total_cmp(&self.mesh.area_vector(*b).length()));
        let at = widest.map_or(Point::ZERO, |t| self.mesh.corners(t).iter().sum::<Point>() / 3.0);
        FacePick::Anchored(FaceAnchor::of(face, xyz(at)))
    }
}

/// Roundings that hang together, along which the wall is not what it is beside them.
pub(super) struct Uneven {
    /// The wall beside, and the least and most along them, mm.
    pub wall: f64,
    pub least: f64,
    pub most: f64,
    /// What each side is: `outer rounding 8 mm`.
    pub text: String,
    pub place: Place,
    /// What makes the wall even: which side is made anew, and the step.
    pub remedies: Vec<(String, Even)>,
}

/// The roundings of a solid along which its wall is not even, the worst first.
pub(super) fn uneven_roundings(mesh: &Mesh, progress: &Progress) -> Result<Vec<Uneven>, TradeError> {
    /// So many are told one by one.
    const MOST: usize = 20;
    let mut look = Look::new(mesh, progress)?;
    look.part_at_edges_taken_off();
    let roundings: BTreeMap<u32, Rounding> = look.facts.keys().filter_map(|f| Some((*f, look.rounding(*f)?))).collect();
    let mut runs = runs_of(&look, &roundings);
    // The outside first: what is across from it is told with it.
    runs.sort_by_key(|run| run.first().is_some_and(|f| roundings[f].hollow));
    let mut told: BTreeSet<u32> = BTreeSet::new();
    let mut found = Vec::new();
    for run in &runs {
        progress.check()?;
        if run.iter().any(|f| told.contains(f)) {
            continue;
        }
        let Some(wall) = look.wall_beside(run) else { continue };
        let of = |list: &BTreeSet<u32>| -> Vec<&Rounding> { list.iter().filter_map(|f| roundings.get(f)).collect() };
        let own = of(run);
        let across: BTreeSet<u32> = own
            .iter()
            .flat_map(|r| &r.across)
            .copied()
            .filter(|f| roundings.get(f).is_some_and(|r| r.hollow != own[0].hollow))
            .collect();
        let both: Vec<&Rounding> = own.iter().copied().chain(of(&across)).collect();
        let least = both.iter().map(|r| r.least).fold(f64::INFINITY, f64::min);
        let most = both.iter().map(|r| r.most).fold(0.0, f64::max);
        told.extend(&across);
        if least >= wall * (1.0 - EVEN) && most <= wall * (1.0 + EVEN) {
            continue;
        }
        let radii = |list: &[&Rounding]| told_radii(list.iter().map(|r| r.radius));
        let (outer, inner) = if own[0].hollow { (of(&across), own.clone()) } else { (own.clone(), of(&across)) };
        let text = format!("outer radius {}, inner radius {}", radii(&outer), radii(&inner));
        let anew = |kept: &[&Rounding], what: &str, to: &dyn Fn(f64) -> f64| {
            let wanted = |r: &&Rounding| to(r.radius).max(0.0);
            let radius = told_radii(kept.iter().map(wanted));
            let keep = kept.iter().map(|r| look.pick(&r.facts)).collect();
            (format!("Make the {what} radius {radius}"), Even { keep, wall, chord: None })
        };
        let mut remedies = Vec::new();
        let numbers = |list: &[&Rounding]| list.iter().map(|r| r.facts.id).collect::<Vec<u32>>();
        for (kept, other, what, to) in
            [(&outer, &inner, "inner", -wall), (&inner, &outer, "outer", wall)].into_iter().filter(|c| !c.0.is_empty())
        {
            let stays = look.with_beside(numbers(kept).into_iter());
            if look.is_covered(numbers(other).into_iter(), &stays) {
                remedies.push(anew(kept, what, &|r| r + to));
            }
        }
        let corners = |r: &Rounding| {
            let (c, e) = (Point::from_array(r.facts.place.centre), r.facts.place.radius);
            [c - Point::splat(e / 3f64.sqrt()), c + Point::splat(e / 3f64.sqrt())]
        };
        let place = Place::of(own.iter().flat_map(|r| corners(r)));
        found.push(Uneven { wall, least, most, text, place, remedies });
    }
    let worst = |u: &Uneven| (u.wall - u.least).max(u.most - u.wall) / u.wall;
    found.sort_by(|a, b| worst(b).total_cmp(&worst(a)));
    found.truncate(MOST);
    Ok(found)
}

/// Roundings that go on into each other, on one side.
fn runs_of(look: &Look<'_>, roundings: &BTreeMap<u32, Rounding>) -> Vec<BTreeSet<u32>> {
    let ids: Vec<u32> = roundings.keys().copied().collect();
    let number: BTreeMap<u32, u32> = ids.iter().zip(0..).map(|(f, n)| (*f, n)).collect();
    let mut sets = UnionFind::new(ids.len());
    for (f, g) in &look.smooth {
        if let (Some(a), Some(b)) = (number.get(f), number.get(g))
            && roundings[f].hollow == roundings[g].hollow
        {
            sets.union(*a, *b);
        }
    }
    let (set_of, count) = sets.number_sets();
    let mut runs: Vec<BTreeSet<u32>> = vec![BTreeSet::new(); count];
    for (id, set) in ids.iter().zip(set_of) {
        runs[set as usize].insert(*id);
    }
    runs
}

/// Radii in words: one where they are alike.
fn told_radii(radii: impl Iterator<Item = f64> + Clone) -> String {
    let (least, most) = (radii.clone().fold(f64::INFINITY, f64::min), radii.fold(0.0, f64::max));
    if most - least > EVEN * most { format!("{} to {}", figure(least), millimetres(most)) } else { millimetres(most) }
}

impl Tool for Even {
    const KIND: &'static str = "wall.even";
    const WHAT: &'static str = "Make roundings anew so that the wall along them is even.";
    const EFFORT: Effort = Effort::Moving;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "even",
        name: "Even wall at roundings",
        hint: "The wall along picked roundings is made as thick as beside them",
        group: "Of a solid",
        words: &["fillet", "rounding", "uniform wall"],
        needs: Needs::Sealed,
        mark: "",
        start: |b| json!({ "wall": b.wall() * 0.5, "keep": [] }),
    }];

    fn title(&self) -> String {
        format!("Even wall of {} at roundings", millimetres(self.wall))
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        /// The zones reach a little farther than the material.
        const BEYOND: f64 = 1.02;
        let thick = self.wall;
        refuse_open(mesh)?;
        let keep: BTreeSet<FaceId> = picked_faces(mesh, &self.keep)?.into_iter().collect();
        let look = Look::new(mesh, &progress.stage(0.0, 0.2))?;
        let kept: Vec<Rounding> = keep.iter().filter_map(|f| look.rounding(f.0)).collect();
        if kept.len() < keep.len() {
            let other = keep.iter().find(|f| look.rounding(f.0).is_none()).and_then(|f| look.facts.get(&f.0));
            let at = other.map(|f| Point::from_array(f.place.centre));
            let why = "only roundings with a wall under them can be made even: cylinders, balls and rings";
            return Err(TradeError::refused(why, at.into_iter().collect()));
        }
        let across: BTreeSet<FaceId> = kept
            .iter()
            .flat_map(|r| &r.across)
            .filter(|f| look.rounding(**f).is_some_and(|r| r.hollow != kept[0].hollow))
            .map(|f| FaceId(*f))
            .collect();
        let both = kept.iter().map(|r| r.most).chain(across.iter().filter_map(|f| Some(look.rounding(f.0)?.most)));
        let depth = both.fold(thick, f64::max) * BEYOND;
        let stays = look.with_beside(keep.iter().map(|f| f.0));
        if !look.is_covered(across.iter().map(|f| f.0), &stays) {
            let at = across.iter().filter_map(|f| look.facts.get(&f.0)).map(|f| Point::from_array(f.place.centre));
            let why =
                "the rounding across goes on where the one that stays has ended, so it cannot be made anew from that";
            return Err(TradeError::refused(why, at.collect()));
        }
        let stays: BTreeSet<FaceId> = stays.into_iter().map(FaceId).collect();
        let how = how(mesh, &[-thick, -depth], CornerStyle::Round, RimStyle::Square, self.chord)?;
        let swept = |faces: &BTreeSet<FaceId>, reach: (f64, f64), from: f64, to: f64| {
            let made = wall(&only(mesh, faces), reach, None, &how, &progress.stage(from, to)).map_err(told)?;
            Ok::<_, TradeError>(made.mesh)
        };
        let even = swept(&stays, (-thick, 0.0), 0.2, 0.3)?;
        let deep = swept(&stays, (-depth, 0.0), 0.3, 0.4)?;
        let mut zones = vec![swept(&keep, (-depth, 0.0), 0.4, 0.5)?];
        if !across.is_empty() {
            zones.push(swept(&across, (-depth, 0.0), 0.5, 0.55)?);
            // An outer rounding that gets smaller grows beyond where it was.
            if kept[0].hollow {
                zones.push(swept(&across, (0.0, thick), 0.55, 0.6)?);
            }
        }
        let inputs: Vec<&Mesh> = [mesh, &even, &deep].into_iter().chain(&zones).collect();
        let names = |n: usize| if n == 0 { "the part" } else { "the wall" }.to_owned();
        let all = arranged(&inputs, false, &names, &progress.stage(0.6, 0.9))?;
        let inside = |w: &[i16]| {
            let is_in = |n: usize| w[n] > 0;
            // Deeper than the wall is taken away, up to the wall added, in the zones; all else stays.
            if (3..w.len()).any(is_in) && is_in(2) { is_in(1) } else { is_in(0) }
        };
        let made = body_without_pinches(&all, inside, CREVICE, &progress.stage(0.9, 1.0))?;
        let made = without_crumbs(&made, default_tolerance(&Aabb::of(mesh.points().iter().copied())));
        let (before, after) = (measure(mesh).volume, measure(&made).volume);
        let change = if after >= before { "more" } else { "less" };
        let done = format!(
            "{} kept, and the surface across made anew at {}: {} mm³ {change}",
            faces(keep.len()),
            millimetres(thick),
            figure((after - before).abs())
        );
        Ok(Outcome::of(made, done))
    }
}
