//! `fasten.plug`: closes a bore again. `fasten.rebore`: gives it another diameter.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::measure::measure;
use nimbet_kernel::surfaces::{Sample, Surface, best_fit, default_tolerance};
use nimbet_kernel::{Aabb, FaceId, Mesh, Point, Progress, Topology};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::bore::{Bore, default_chord};
use super::bore_form::{BoreForm, Width};
use super::fine;
use super::places::{BorePlace, Places};
use super::reach::Reach;
use crate::examine::{FaceFacts, FacePick, FaceSurface, face_facts};
use crate::parameter::{Length, LengthOrNone};
use crate::seal::{cover_new, edge_bits, naked_places};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::{count, millimetres, volume_of};
use crate::{Outcome, TradeError};

/// Parameters of `fasten.plug`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Plug {
    /// The wall of the bore. Its heads, lead-ins, thread and bottom are closed with it.
    #[schemars(extend("hint" = "Click the wall of the bore."))]
    pub wall: FacePick,
    /// Also closes what goes on along the same axis with the same diameter beyond a gap.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Also what goes on along the same axis")]
    pub beyond: bool,
}

/// Parameters of `fasten.rebore`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Rebore {
    /// The wall of the bore.
    #[schemars(extend("hint" = "Click the wall of the bore."))]
    pub wall: FacePick,
    /// Its new diameter, mm.
    #[schemars(title = "New diameter", with = "Length")]
    pub diameter: f64,
    /// The farthest its wall may be from true, mm.
    #[serde(default = "default_chord")]
    #[schemars(title = "Chord tolerance", with = "Length", extend("folded" = true))]
    pub chord: f64,
    /// Where less than this is left round it, it is told, mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<LengthOrNone>", extend("folded" = true))]
    pub least_wall: Option<f64>,
}

/// A bore that is there: its faces, its axis and where along it its wall goes from and to.
struct Found {
    faces: BTreeSet<FaceId>,
    axis: Point,
    centre: Point,
    radius: f64,
    span: [f64; 2],
    /// Whether a bottom closes it.
    bottom: bool,
}

impl Tool for Plug {
    const KIND: &'static str = "fasten.plug";
    const WHAT: &'static str = "Close a bore again.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "plug",
        name: "Plug",
        hint: "Closes a bore again, with its thread and heads",
        group: "Bores",
        words: &["fill hole", "remove hole", "close bore"],
        needs: Needs::Sealed,
        mark: "",
        start: |_| json!({ "wall": null }),
    }];

    fn title(&self) -> String {
        "Plug".into()
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let found = find(mesh, &self.wall, true, self.beyond, &progress.stage(0.0, 0.4))?;
        let (closed, left) = closed(mesh, &found, &progress.stage(0.4, 1.0))?;
        let added = measure(&closed).volume - measure(mesh).volume;
        let across = millimetres(found.radius * 2.0);
        let done = format!("closed a bore {across} across: put {} back", volume_of(added));
        Ok(Outcome { left, ..Outcome::of(closed, done) })
    }
}

impl Tool for Rebore {
    const KIND: &'static str = "fasten.rebore";
    const WHAT: &'static str = "Give a bore another diameter.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "rebore",
        name: "Re-bore",
        hint: "Gives a bore another diameter in place",
        group: "Bores",
        words: &["resize hole", "change diameter", "ream"],
        needs: Needs::Sealed,
        mark: "",
        start: |b| json!({ "wall": null, "diameter": 5, "chord": fine(b), "least_wall": b.least_wall }),
    }];

    fn title(&self) -> String {
        format!("Re-bore to {}", millimetres(self.diameter))
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let found = find(mesh, &self.wall, false, false, &progress.stage(0.0, 0.2))?;
        let (closed, _) = closed(mesh, &found, &progress.stage(0.2, 0.5))?;
        // From the end that is open; the bottom is at the other.
        let at = |along: f64| found.centre + found.axis * along;
        let [low, high] = found.span;
        let (mouth, way) = match found.bottom && self.bottom_is_low(mesh, &found) {
            true => (at(high), -found.axis),
            false => (at(low), found.axis),
        };
        let bore = Bore {
            places: Places::Points(vec![BorePlace::At(mouth.to_array())]),
            face: None,
            along: Some(way.to_array()),
            form: BoreForm::Plain { width: Width::Diameter(self.diameter) },
            reach: if found.bottom { Reach::Depth(high - low) } else { Reach::Wall },
            allowance: 0.0,
            chord: self.chord,
            least_wall: self.least_wall,
        };
        let made = bore.apply(&Given::part(&closed, &progress.stage(0.5, 1.0)))?;
        let done = format!("made a bore of {} {}", millimetres(found.radius * 2.0), millimetres(self.diameter));
        Ok(Outcome { done: vec![done], ..made })
    }
}

impl Rebore {
    /// Whether the bottom is where the axis begins.
    fn bottom_is_low(&self, mesh: &Mesh, found: &Found) -> bool {
        let flat = (0..mesh.triangles().len())
            .filter(|t| found.faces.contains(&mesh.face_of()[*t]))
            .find(|t| mesh.area_vector(*t).normalize_or_zero().dot(found.axis).abs() > 0.999);
        let along = |t: usize| (mesh.corners(t)[0] - found.centre).dot(found.axis);
        flat.is_some_and(|t| (along(t) - found.span[0]).abs() < (along(t) - found.span[1]).abs())
    }
}

/// The bore a wall belongs to; `whole` with its heads, lead-ins and thread.
fn find(mesh: &Mesh, wall: &FacePick, whole: bool, beyond: bool, progress: &Progress) -> Result<Found, TradeError> {
    let picked = wall.find(mesh, &triangle_bvh(mesh))?;
    let facts = face_facts(mesh, None, progress)?;
    let by_id: HashMap<u32, &FaceFacts> = facts.iter().map(|f| (f.id, f)).collect();
    let tolerance = default_tolerance(&Aabb::of(mesh.points().iter().copied()));
    let Some(FaceSurface::Cylinder { radius, axis, centre, hollow: true }) = by_id.get(&picked.0).map(|f| &f.surface)
    else {
        return Err(TradeError::refused("this is not the wall of a bore: pick a round hollow", vec![wall.place()]));
    };
    let (axis, centre, radius) = (Point::from_array(*axis).normalize_or_zero(), Point::from_array(*centre), *radius);
    let off_axis = |p: Point| (p - centre - axis * (p - centre).dot(axis)).length();
    let coaxial = |way: &[f64; 3], at: &[f64; 3]| {
        Point::from_array(*way).normalize_or_zero().dot(axis).abs() > 0.9998
            && off_axis(Point::from_array(*at)) < tolerance.max(radius * 0.01)
    };
    let same = |f: &FaceFacts| match &f.surface {
        FaceSurface::Cylinder { radius: r, axis: a, centre: c, hollow: true } => {
            coaxial(a, c) && (r - radius).abs() <= tolerance.max(radius * 2e-3)
        }
        _ => false,
    };
    let neighbours = neighbours(mesh);
    // Threads are free surfaces that face the axis, not much farther from it than the wall.
    let turned_in = |f: &FaceFacts| -> bool {
        let mut inward = (0.0, 0.0);
        for t in (0..mesh.triangles().len()).filter(|t| mesh.face_of()[*t].0 == f.id) {
            let (middle, n) = (mesh.corners(t).iter().sum::<Point>() / 3.0, mesh.area_vector(t));
            let out = middle - centre - axis * (middle - centre).dot(axis);
            if out.length() > radius * 1.8 {
                return false;
            }
            inward.0 += if out.dot(n) < 0.0 { n.length() } else { 0.0 };
            inward.1 += n.length();
        }
        inward.0 > inward.1 * 0.98
    };
    // Short lead-ins may be taken for a ball or a ring as well as for a cone: what counts is that they face the axis.
    let of_bore = |f: &FaceFacts| match &f.surface {
        _ if same(f) => true,
        _ if !whole => false,
        FaceSurface::Plane { .. } => false,
        FaceSurface::Cylinder { axis: a, centre: c, hollow: true, .. } if coaxial(a, c) => true,
        FaceSurface::Cone { axis: a, apex, hollow: true, .. } if coaxial(a, apex) => true,
        _ => turned_in(f),
    };
    let mut faces = BTreeSet::from([picked]);
    if beyond {
        faces.extend(facts.iter().filter(|f| same(f)).map(|f| FaceId(f.id)));
    }
    let mut bottom = false;
    let mut todo: Vec<FaceId> = faces.iter().copied().collect();
    while let Some(face) = todo.pop() {
        progress.check()?;
        for next in neighbours.get(&face).into_iter().flatten().copied().collect::<Vec<_>>() {
            let Some(f) = by_id.get(&next.0).filter(|_| !faces.contains(&next)) else { continue };
            let add: Vec<FaceId> = match &f.surface {
                // A bottom or shoulder has nothing round it but the bore; anything else is what the bore opens to.
                FaceSurface::Plane { normal } if Point::from_array(*normal).dot(axis).abs() > 0.9998 => {
                    let round: Vec<FaceId> = neighbours.get(&next).into_iter().flatten().copied().collect();
                    let all = round.iter().all(|n| faces.contains(n) || by_id.get(&n.0).is_some_and(|f| of_bore(f)));
                    bottom |= all && round.iter().all(|n| faces.contains(n));
                    if all { round.into_iter().chain([next]).filter(|n| !faces.contains(n)).collect() } else { vec![] }
                }
                _ if of_bore(f) => vec![next],
                _ => vec![],
            };
            faces.extend(&add);
            todo.extend(add);
        }
    }
    let mut span = [f64::INFINITY, f64::NEG_INFINITY];
    for t in (0..mesh.triangles().len()).filter(|t| faces.contains(&mesh.face_of()[*t])) {
        for p in mesh.corners(t) {
            let along = (p - centre).dot(axis);
            span = [span[0].min(along), span[1].max(along)];
        }
    }
    Ok(Found { faces, axis, centre, radius, span, bottom })
}

/// Which faces share an edge with each.
fn neighbours(mesh: &Mesh) -> BTreeMap<FaceId, BTreeSet<FaceId>> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let mut beside: BTreeMap<FaceId, BTreeSet<FaceId>> = BTreeMap::new();
    for edge in 0..topology.edge_count() as u32 {
        let faces: Vec<FaceId> = topology.halves(edge).iter().map(|h| mesh.face_of()[*h as usize / 3]).collect();
        for a in &faces {
            for b in faces.iter().filter(|b| *b != a) {
                beside.entry(*a).or_default().insert(*b);
            }
        }
    }
    beside
}

/// The part without the bore, and what could not be followed.
fn closed(mesh: &Mesh, found: &Found, progress: &Progress) -> Result<(Mesh, Vec<String>), TradeError> {
    let before = naked_places(mesh);
    let open = mesh.retain_triangles(|t| !found.faces.contains(&mesh.face_of()[t]));
    let tolerance = default_tolerance(&Aabb::of(mesh.points().iter().copied()));
    // The surface of each face the bore opens to.
    let mut surfaces: HashMap<FaceId, Option<Surface>> = HashMap::new();
    let topology = Topology::new(open.triangles(), open.points().len());
    let mut beside: HashMap<u32, BTreeSet<FaceId>> = HashMap::new();
    for half in topology.naked_halves() {
        let (a, b) = topology.ends(half);
        if before.contains(&edge_bits(open.points()[a as usize], open.points()[b as usize])) {
            continue;
        }
        let face = open.face_of()[half as usize / 3];
        beside.entry(a).or_default().insert(face);
        beside.entry(b).or_default().insert(face);
        surfaces.entry(face).or_insert_with(|| {
            let triangles: Vec<u32> =
                (0..open.triangles().len() as u32).filter(|t| open.face_of()[*t as usize] == face).collect();
            best_fit(&Sample::of(&open, &triangles), tolerance)
        });
    }
    let round = |points: &[u32]| -> Option<FaceId> {
        let mut faces: BTreeSet<FaceId> = BTreeSet::new();
        points.iter().for_each(|p| faces.extend(beside.get(p).into_iter().flatten()));
        (faces.len() == 1).then(|| faces.first().copied()).flatten()
    };
    // What lies on one known surface is covered straight, and its new points moved onto that surface.
    let is_known = |points: &[u32]| round(points).and_then(|f| surfaces.get(&f).copied().flatten()).is_some();
    let is_new = |a: Point, b: Point| !before.contains(&edge_bits(a, b));
    let covered = cover_new(&open, is_new, |rim| is_known(&rim.points), progress)?;
    // New points go onto the surface round their cover, and a cover that lies on one face becomes part of it.
    let (old_points, old_triangles) = (open.points().len(), open.triangles().len());
    let mut rim_of: BTreeMap<FaceId, BTreeSet<FaceId>> = BTreeMap::new();
    for t in old_triangles..covered.mesh.triangles().len() {
        let cover = covered.mesh.face_of()[t];
        for p in covered.mesh.triangles()[t] {
            if let Some(faces) = beside.get(&p) {
                rim_of.entry(cover).or_default().extend(faces);
            }
        }
    }
    let home: BTreeMap<FaceId, FaceId> =
        rim_of.iter().filter(|(_, faces)| faces.len() == 1).filter_map(|(c, f)| Some((*c, *f.first()?))).collect();
    let mut surface_of: HashMap<u32, Surface> = HashMap::new();
    for t in old_triangles..covered.mesh.triangles().len() {
        let face = home.get(&covered.mesh.face_of()[t]);
        if let Some(surface) = face.and_then(|f| surfaces.get(f).copied().flatten()) {
            covered.mesh.triangles()[t].iter().filter(|p| **p as usize >= old_points).for_each(|p| {
                surface_of.insert(*p, surface);
            });
        }
    }
    let faces: Vec<FaceId> = covered.mesh.face_of().iter().map(|f| home.get(f).copied().unwrap_or(*f)).collect();
    let (mut points, triangles, _) = covered.mesh.into_parts();
    for (p, surface) in surface_of {
        let at = points[p as usize];
        points[p as usize] = at - surface.normal(at) * surface.distance(at);
    }
    let astray = rim_of.len() - home.len();
    let mut left = covered.left;
    if astray > 0 {
        left.push(format!(
            "{} over an edge of the part: the cover is rounded there",
            count(astray, "mouth goes", "mouths go")
        ));
    }
    Ok((Mesh::new(points, triangles, faces)?, left))
}
