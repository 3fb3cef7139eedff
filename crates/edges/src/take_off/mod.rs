//! Faces taken off a solid: those beside them are carried on until they meet.
//!
//! Each neighbour is drawn out beyond its border to the faces that go, along the surface it lies on and from the very points of the
//! border, so that nothing lies on anything. The solid is arranged with these sheets; what lies between the faces that go and the
//! sheets is filled where it is outside (a rounded edge, a groove, a bore) and taken away where it is material (a filled root, a boss).
//! Of sheets the same ([`sheet`]).

use std::collections::{BTreeMap, BTreeSet};

use nimbet_kernel::arrange::Arrangement;
use nimbet_kernel::measure::measure;
use nimbet_kernel::surfaces::Surface;
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::triangulate::{PlaneFrame, triangulate_flat};
use nimbet_kernel::{Aabb, FaceId, Mesh, Point, Progress, Topology, UnionFind};

use crate::carve::{Carved, EdgeError, touching};
use crate::forms::Faces;

mod sheet;

/// Why faces stay where they are.
#[derive(Clone, Debug, thiserror::Error)]
pub enum TakeOffError {
    /// A face beside them cannot be carried on.
    #[error("a face beside them cannot be carried on")]
    Neighbour {
        /// Where the two meet, mm.
        at: Point,
    },
    /// The faces beside them do not meet.
    #[error("the faces beside them do not meet")]
    DoNotMeet {
        /// A place on the faces, mm.
        at: Point,
    },
    /// A sheet whose triangles do not agree about its sides, or of which three share an edge.
    #[error("it has no two sides there")]
    NoSides {
        /// Where, mm.
        at: Point,
    },
    /// Nothing else would be left.
    #[error("nothing else is beside them")]
    Alone,
    /// Somebody asked to stop, or a fault.
    #[error(transparent)]
    Edge(#[from] EdgeError),
}

/// A solid or a sheet without some of its faces.
///
/// # Errors
/// [`TakeOffError`].
pub fn take_off(mesh: &Mesh, going: &BTreeSet<FaceId>, progress: &Progress) -> Result<Carved, TakeOffError> {
    if mesh.face_of().iter().all(|face| going.contains(face)) {
        return Err(TakeOffError::Alone);
    }
    match Topology::new(mesh.triangles(), mesh.points().len()).naked_halves().is_empty() {
        true => off_solid(mesh, going, progress),
        false => sheet::off_sheet(mesh, going, progress),
    }
}

/// A solid without some of its faces, those that hang together or lie in each other's way one after the other: what is carried on
/// for one would cut through where another is filled. What is filled comes before what is taken away, which might break through it.
fn off_solid(mesh: &Mesh, going: &BTreeSet<FaceId>, progress: &Progress) -> Result<Carved, TakeOffError> {
    let mut rounds = rounds(mesh, going);
    let (mut made, gained) = one_by_one(mesh, &rounds, &progress.stage(0.0, 0.5));
    let sense = |n: usize| gained.get(n).map_or(0, |gained: &f64| if *gained > 0.0 { -1 } else { 1 });
    let mut order: Vec<usize> = (0..rounds.len()).collect();
    order.sort_by_key(|n| sense(*n));
    if !order.is_sorted() && progress.check().is_ok() {
        rounds = order.iter().map(|n| rounds[*n].clone()).collect();
        let (other, _) = one_by_one(mesh, &rounds, &progress.stage(0.5, 1.0));
        made = other.or(made);
    }
    Ok(Carved { mesh: made?, first_new: mesh.next_face().0, vanished: vec![], passed: vec![] })
}

/// A solid without faces in rounds, and what each of them added, mm³, as far as they went.
fn one_by_one(mesh: &Mesh, rounds: &[BTreeSet<FaceId>], progress: &Progress) -> (Result<Mesh, TakeOffError>, Vec<f64>) {
    let (mut made, mut gained) = (mesh.clone(), Vec::new());
    for (n, round) in rounds.iter().enumerate() {
        match off_at_once(&made, round, &progress.part(n, rounds.len())) {
            Ok(next) => {
                gained.push(measure(&next).volume - measure(&made).volume);
                made = next;
            }
            Err(e) => return (Err(e), gained),
        }
    }
    (Ok(made), gained)
}

/// Faces in as few rounds as can be without any two that hang together in different ones, or two others of which one is in the
/// way of the other in the same.
fn rounds(mesh: &Mesh, going: &BTreeSet<FaceId>) -> Vec<BTreeSet<FaceId>> {
    /// What is filled lies no farther out of the box round what goes than such a share of its extent.
    const BESIDE: f64 = 0.1;
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let goes = |t: u32| going.contains(&mesh.face_of()[t as usize]);
    let mut clusters = UnionFind::new(mesh.triangles().len());
    let mut some: BTreeMap<FaceId, u32> = BTreeMap::new();
    for t in (0..mesh.triangles().len() as u32).filter(|t| goes(*t)) {
        clusters.union(*some.entry(mesh.face_of()[t as usize]).or_insert(t), t);
    }
    for edge in topology.edges_with(EdgeUse::Regular) {
        let [a, b] = [0, 1].map(|k| topology.halves(edge)[k] / 3);
        if goes(a) && goes(b) {
            clusters.union(a, b);
        }
    }
    let mut boxes: BTreeMap<u32, (BTreeSet<FaceId>, Vec<Point>)> = BTreeMap::new();
    for t in (0..mesh.triangles().len() as u32).filter(|t| goes(*t)) {
        let (faces, points) = boxes.entry(clusters.find(t)).or_default();
        faces.insert(mesh.face_of()[t as usize]);
        points.extend(mesh.corners(t as usize));
    }
    let mut rounds: Vec<(BTreeSet<FaceId>, Vec<Aabb>)> = Vec::new();
    for (faces, points) in boxes.into_values() {
        let own = Aabb::of(points);
        let own = own.grown(own.diagonal() * BESIDE);
        match rounds.iter_mut().find(|(_, others)| others.iter().all(|other| !other.overlaps(&own))) {
            Some((round, others)) => {
                round.extend(faces);
                others.push(own);
            }
            None => rounds.push((faces, vec![own])),
        }
    }
    rounds.into_iter().map(|(faces, _)| faces).collect()
}

fn off_at_once(mesh: &Mesh, going: &BTreeSet<FaceId>, progress: &Progress) -> Result<Mesh, TakeOffError> {
    let fault = |e: nimbet_kernel::MeshError| TakeOffError::Edge(e.into());
    let stopped = |e: nimbet_kernel::Cancelled| TakeOffError::Edge(e.into());
    progress.report(0.0, "carrying on the faces beside them").map_err(stopped)?;
    let faces = Faces::of(mesh);
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let face = |half: u32| mesh.face_of()[half as usize / 3];
    // Where each neighbour meets what goes: its halves.
    let mut seams: BTreeMap<FaceId, Vec<u32>> = BTreeMap::new();
    for edge in topology.edges_with(EdgeUse::Regular) {
        let [a, b] = [0, 1].map(|k| topology.halves(edge)[k]);
        match (going.contains(&face(a)), going.contains(&face(b))) {
            (true, false) => seams.entry(face(b)).or_default().push(b),
            (false, true) => seams.entry(face(a)).or_default().push(a),
            _ => {}
        }
    }
    if seams.is_empty() {
        return Err(TakeOffError::Alone);
    }
    let gone = (0..mesh.triangles().len()).filter(|t| going.contains(&mesh.face_of()[*t]));
    let reach = Aabb::of(gone.flat_map(|t| mesh.corners(t))).diagonal();
    let mut sheets = Sheets::default();
    for (neighbour, halves) in &seams {
        progress.check().map_err(stopped)?;
        let corner = |h: u32| mesh.points()[topology.ends(h).0 as usize];
        let drawn = match faces.surface(*neighbour) {
            Some(Surface::Plane { point, normal }) => {
                sheets.plane((mesh, &topology), *neighbour, (point, normal), reach)
            }
            Some(surface) => sheets.round((mesh, &topology), halves, &surface, *neighbour, reach),
            None => None,
        };
        drawn.ok_or(TakeOffError::Neighbour { at: corner(halves[0]) })?;
    }
    let Sheets { points, triangles, faces: sheet_faces, of } = sheets;
    let sheet = Mesh::new(points, triangles, sheet_faces).map_err(fault)?;
    let all = Arrangement::new(&[mesh], &[&sheet], &progress.stage(0.2, 0.8)).map_err(EdgeError::Arrange)?;
    let cells = all.enclosed(going).map_err(|at| TakeOffError::DoNotMeet { at })?;
    let body = all.carved(&cells, &progress.stage(0.8, 1.0)).map_err(EdgeError::Arrange)?;
    if let Some(at) = touching(&body.mesh) {
        return Err(TakeOffError::DoNotMeet { at });
    }
    let first_new = body.begin.get(1).copied().unwrap_or(0);
    let into = |f: &FaceId| f.0.checked_sub(first_new).map_or(*f, |n| of[n as usize]);
    let regrouped: Vec<FaceId> = body.mesh.face_of().iter().map(into).collect();
    Ok(body.mesh.regroup(|t| regrouped[t]))
}

/// The neighbours drawn out.
#[derive(Default)]
struct Sheets {
    points: Vec<Point>,
    triangles: Vec<[u32; 3]>,
    faces: Vec<FaceId>,
    /// The face of the solid each of its faces goes on in.
    of: Vec<FaceId>,
}

impl Sheets {
    fn face(&mut self, of: FaceId) -> FaceId {
        self.of.push(of);
        FaceId(self.of.len() as u32 - 1)
    }

    /// A plane all round a face, and in its holes.
    fn plane(
        &mut self,
        (mesh, topology): (&Mesh, &Topology<'_>),
        face: FaceId,
        (point, normal): (Point, Point),
        reach: f64,
    ) -> Option<()> {
        let frame = PlaneFrame::new(point, normal)?;
        let loops = loops(mesh, topology, face)?;
        let mut points: Vec<Point> = Vec::new();
        let mut outlines: Vec<Vec<usize>> = Vec::new();
        let mut name: BTreeMap<u32, usize> = BTreeMap::new();
        for round in loops {
            let outline = round.into_iter().map(|v| {
                *name.entry(v).or_insert_with(|| {
                    points.push(mesh.points()[v as usize]);
                    points.len() - 1
                })
            });
            outlines.push(outline.collect());
        }
        let flat: Vec<[f64; 2]> = points.iter().map(|p| frame.flatten(*p)).collect();
        let far = |k: usize, of: fn(f64, f64) -> f64, start: f64| flat.iter().map(|p| p[k]).fold(start, of);
        let [x, y] = [0, 1].map(|k| far(k, f64::min, f64::INFINITY) - reach * BEYOND);
        let [z, w] = [0, 1].map(|k| far(k, f64::max, f64::NEG_INFINITY) + reach * BEYOND);
        let frame_at = points.len();
        points.extend([[x, y], [z, y], [z, w], [x, w]].map(|p| frame.lift(p)));
        outlines.push((frame_at..frame_at + 4).collect());
        let flat: Vec<[f64; 2]> = points.iter().map(|p| frame.flatten(*p)).collect();
        let cover = triangulate_flat(&flat, &outlines).ok()?;
        let first = self.points.len() as u32;
        self.points.extend(points);
        let own = self.face(face);
        for t in cover {
            self.triangles.push(t.map(|k| first + k as u32));
            self.faces.push(own);
        }
        Some(())
    }

    /// A surface of revolution drawn out beyond a seam: along its profile where the seam goes round it, else round it.
    fn round(
        &mut self,
        (mesh, topology): (&Mesh, &Topology<'_>),
        halves: &[u32],
        surface: &Surface,
        face: FaceId,
        reach: f64,
    ) -> Option<()> {
        let (centre, axis) = match *surface {
            Surface::Cylinder { point, axis, .. } => (point, axis),
            Surface::Cone { apex, axis, .. } => (apex, axis),
            _ => return None,
        };
        let at = |v: u32| mesh.points()[v as usize];
        // The way out of the face at each of its seams.
        let outward = |half: u32| {
            let (a, b) = topology.ends(half);
            let way = (at(b) - at(a)).normalize_or_zero();
            way.cross(mesh.area_vector(half as usize / 3).normalize_or_zero())
        };
        let round = |p: Point| axis.cross(p - centre).normalize_or_zero();
        // Of a seam that goes in and out by a triangle the most of its length tells where it goes.
        let leans = |h: &u32| {
            let (a, b) = topology.ends(*h);
            (outward(*h).dot(round(at(a))).abs(), at(a).distance(at(b)))
        };
        let (leaning, length) = halves.iter().map(leans).fold((0.0, 0.0), |(s, l), (x, own)| (s + x * own, l + own));
        let lean = leaning / length.max(f64::MIN_POSITIVE);
        let own = self.face(face);
        if lean < LEANS {
            // Straight on along the axis, or to or from the tip.
            for half in halves {
                let (a, b) = topology.ends(*half);
                let out = outward(*half);
                let on = |p: Point| match surface {
                    Surface::Cone { apex, .. } => {
                        let way = (p - *apex).normalize_or_zero();
                        let length = (p - *apex).length();
                        // Not beyond the tip.
                        let by = if way.dot(out) < 0.0 { (reach * BEYOND).min(length) } else { reach * BEYOND };
                        p + way * way.dot(out).signum() * by
                    }
                    _ => p + axis * axis.dot(out).signum() * (reach * BEYOND),
                };
                self.quad([at(a), at(b), on(at(b)), on(at(a))], own);
            }
            return Some(());
        }
        if lean < 1.0 - LEANS {
            return None;
        }
        // Round the axis, in steps.
        for half in halves {
            let (a, b) = topology.ends(*half);
            let sense = outward(*half).dot(round(at(a))).signum();
            let arm = (at(a) - centre).cross(axis).length().max(1e-9);
            let most = (reach * BEYOND / arm).min(std::f64::consts::PI * 0.9);
            let steps = (most / TURN).ceil().max(1.0);
            let turned =
                |p: Point, k: f64| centre + glam::DQuat::from_axis_angle(axis, sense * most * k / steps) * (p - centre);
            for k in 0..steps as usize {
                let [from, to] = [k as f64, k as f64 + 1.0];
                // The seam itself stays exactly where it is.
                let [p, q] = if k == 0 { [at(a), at(b)] } else { [turned(at(a), from), turned(at(b), from)] };
                self.quad([p, q, turned(at(b), to), turned(at(a), to)], own);
            }
        }
        Some(())
    }

    fn quad(&mut self, corners: [Point; 4], face: FaceId) {
        let first = self.points.len() as u32;
        self.points.extend(corners);
        self.triangles.extend([[first, first + 1, first + 2], [first, first + 2, first + 3]]);
        self.faces.extend([face; 2]);
    }
}

/// Faces are drawn out by so many times the extent of what goes.
const BEYOND: f64 = 1.5;
/// A seam goes round a surface, or along it, when it leans from that by no more than this over its length, as a sine.
const LEANS: f64 = 0.35;
/// Round faces are carried on in steps of no more than this, radians: 6 degrees.
const TURN: f64 = 0.105;

/// The border of a face, as loops of points; none where it branches.
fn loops(mesh: &Mesh, topology: &Topology<'_>, face: FaceId) -> Option<Vec<Vec<u32>>> {
    let own = |half: u32| mesh.face_of()[half as usize / 3] == face;
    let mut next: BTreeMap<u32, u32> = BTreeMap::new();
    for t in (0..mesh.triangles().len()).filter(|t| mesh.face_of()[*t] == face) {
        for half in (3 * t as u32)..(3 * t as u32 + 3) {
            let edge = topology.edge_of(half);
            if edge == nimbet_kernel::topology::NO_EDGE || topology.halves(edge).iter().all(|h| *h == half || !own(*h))
            {
                let (a, b) = topology.ends(half);
                if next.insert(a, b).is_some() {
                    return None;
                }
            }
        }
    }
    let mut loops = Vec::new();
    while let Some((&start, _)) = next.iter().next() {
        let mut round = vec![start];
        let mut at = next.remove(&start)?;
        while at != start {
            round.push(at);
            at = next.remove(&at)?;
        }
        loops.push(round);
    }
    Some(loops)
}
