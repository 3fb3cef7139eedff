//! The smooth surfaces faces stand for: exact where one of the simple ones fits, else the triangles with normals that turn evenly
//! over them. Both go on beyond the face.

use std::sync::OnceLock;

use nimbet_kernel::segments::nearest_on_triangle;
use nimbet_kernel::surfaces::{Facets, Sample, Surface, best_fit, default_tolerance};
use nimbet_kernel::{Aabb, Bvh, FaceId, Mesh, Point};
use rustc_hash::{FxHashMap, FxHashSet};

/// How a point lies to a face.
#[derive(Clone, Copy, Debug)]
pub struct Probe {
    /// How far it stands off, mm: below 0 in the material.
    pub off: f64,
    /// The outward normal there, of unit length.
    pub normal: Point,
}

/// How sections find hold on round faces, whose triangles stand off what they stand for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Held {
    /// On what they stand for.
    Exact,
    /// On what they stand for, moved so that it goes through the edge.
    Through,
    /// On their triangles.
    Drawn,
    /// On their triangles, of which those that turn by little meet in creases.
    Creased,
}

impl Held {
    /// Triangles of a face that is no simple surface meet in a crease where they turn by more, degrees: normals do not turn
    /// evenly over that.
    fn crease(self) -> f64 {
        match self {
            Self::Exact => 40.0,
            Self::Through | Self::Drawn => 180.0,
            Self::Creased => 12.0,
        }
    }
}

/// The triangles of a face lie along what it stands for to within this, degrees.
const ASKEW: f64 = 8.0;

/// Of more triangles than this round a point it is not asked which of them meet in a crease: that takes time by their square.
const FAN: usize = 256;

/// What a face stands for.
#[derive(Debug)]
enum Form {
    /// A simple surface, and 1 where its normals point out of the material, else -1.
    Exact { surface: Surface, sign: f64 },
    /// Triangles, with the normals at the corners of each.
    Free { triangles: Vec<u32>, bvh: Bvh, normals: Vec<[Point; 3]> },
}

/// The faces of a mesh, each with what it stands for as soon as somebody asks.
#[derive(Debug)]
pub struct Faces<'a> {
    mesh: &'a Mesh,
    /// Faces with their triangles, ascending.
    members: Vec<(u32, u32)>,
    /// Where each face begins among those.
    first: FxHashMap<u32, usize>,
    forms: FxHashMap<u32, OnceLock<(Form, f64)>>,
    tolerance: f64,
    /// How sections find hold on them.
    held: Held,
    seams: OnceLock<Seams>,
}

/// Where faces meet.
#[derive(Debug, Default)]
struct Seams {
    /// At each point of several faces the triangles there.
    at: FxHashMap<u32, Vec<u32>>,
    /// The normals of faces that are flat.
    flat: FxHashMap<u32, Point>,
}

impl Seams {
    fn of(mesh: &Mesh) -> Self {
        /// Normals that differ by less, as a cosine below 1, are one.
        const FLAT: f64 = 1e-9;
        let mut first: FxHashMap<u32, u32> = FxHashMap::default();
        let mut seams = Self::default();
        let mut bent: FxHashSet<u32> = FxHashSet::default();
        for (t, (names, face)) in mesh.triangles().iter().zip(mesh.face_of()).enumerate() {
            for v in names {
                if *first.entry(*v).or_insert(face.0) != face.0 {
                    seams.at.entry(*v).or_default();
                }
            }
            let normal = mesh.area_vector(t).normalize_or_zero();
            if seams.flat.entry(face.0).or_insert(normal).dot(normal) < 1.0 - FLAT {
                bent.insert(face.0);
            }
        }
        seams.flat.retain(|face, _| !bent.contains(face));
        for (t, names) in mesh.triangles().iter().enumerate() {
            for v in names {
                if let Some(round) = seams.at.get_mut(v) {
                    round.push(t as u32);
                }
            }
        }
        seams
    }
}

impl<'a> Faces<'a> {
    /// The faces of a mesh.
    pub fn of(mesh: &'a Mesh) -> Self {
        let mut members: Vec<(u32, u32)> = mesh.face_of().iter().enumerate().map(|(t, f)| (f.0, t as u32)).collect();
        members.sort_unstable();
        let mut first = FxHashMap::default();
        for (n, (face, _)) in members.iter().enumerate() {
            first.entry(*face).or_insert(n);
        }
        let forms = first.keys().map(|face| (*face, OnceLock::new())).collect();
        let tolerance = default_tolerance(&Aabb::of(mesh.points().iter().copied()));
        Self { mesh, members, first, forms, tolerance, held: Held::Exact, seams: OnceLock::new() }
    }

    /// The same faces, held otherwise.
    pub(crate) fn held(&self, held: Held) -> Self {
        let forms = self.first.keys().map(|face| (*face, OnceLock::new())).collect();
        let (members, first) = (self.members.clone(), self.first.clone());
        Self { mesh: self.mesh, members, first, forms, tolerance: self.tolerance, held, seams: OnceLock::new() }
    }

    /// How a point lies to a face.
    pub fn probe(&self, face: FaceId, p: Point) -> Probe {
        match &self.form(face).0 {
            Form::Exact { surface, sign } => {
                Probe { off: surface.distance(p) * sign, normal: surface.normal(p) * *sign }
            }
            Form::Free { triangles, bvh, normals } => self.probe_free((triangles, bvh, normals), p),
        }
    }

    /// How far a place on an edge counts as on what a face stands for though it is off that, mm.
    pub(crate) fn slips(&self, face: FaceId, at: Point) -> f64 {
        if self.held == Held::Through { self.probe(face, at).off } else { 0.0 }
    }

    /// How far the triangles of a face stand off what it stands for at most, mm.
    pub fn sag(&self, face: FaceId) -> f64 {
        self.form(face).1
    }

    /// Whether a face is one of the simple surfaces.
    pub fn is_exact(&self, face: FaceId) -> bool {
        matches!(self.form(face).0, Form::Exact { .. })
    }

    /// The surface of a face, where it is one of the simple ones.
    pub fn surface(&self, face: FaceId) -> Option<Surface> {
        match self.form(face).0 {
            Form::Exact { surface, .. } => Some(surface),
            Form::Free { .. } => None,
        }
    }

    fn triangles(&self, face: FaceId) -> Vec<u32> {
        let from = self.first.get(&face.0).copied().unwrap_or(self.members.len());
        self.members[from..].iter().take_while(|(f, _)| *f == face.0).map(|(_, t)| *t).collect()
    }

    fn form(&self, face: FaceId) -> &(Form, f64) {
        self.forms[&face.0].get_or_init(|| self.found(&self.triangles(face)))
    }

    fn found(&self, triangles: &[u32]) -> (Form, f64) {
        let facets = Facets::of(self.mesh, triangles);
        let all: Vec<u32> = (0..facets.count() as u32).collect();
        let farthest = |s: &Surface| facets.all_corners().iter().map(|p| s.distance(*p).abs()).fold(0.0, f64::max);
        let fitted =
            best_fit(&Sample::of_facets(&facets, &all), self.tolerance).filter(|s| farthest(s) <= self.tolerance);
        let middle = |t: u32| self.mesh.corners(t as usize).iter().sum::<Point>() / 3.0;
        match fitted {
            Some(surface) => {
                let outward = |t: &u32| surface.normal(middle(*t)).dot(self.mesh.area_vector(*t as usize));
                let sign = if triangles.iter().map(outward).sum::<f64>() < 0.0 { -1.0 } else { 1.0 };
                let sag = triangles.iter().map(|t| surface.distance(middle(*t)).abs()).fold(0.0, f64::max);
                // What is flat between points of such a surface lies within it; what reaches out of it goes on elsewhere.
                let round = matches!(surface, Surface::Cylinder { .. } | Surface::Cone { .. } | Surface::Sphere { .. });
                let beyond = || {
                    let points = triangles.iter().flat_map(|t| self.mesh.corners(*t as usize));
                    points.map(|p| surface.distance(p)).fold(0.0, f64::max) > self.tolerance
                };
                let curved = !matches!(surface, Surface::Plane { .. });
                // A bend smaller than the tolerance lies on anything.
                let along = |t: &u32| {
                    let own = self.mesh.area_vector(*t as usize).normalize_or_zero();
                    own == Point::ZERO || own.dot(surface.normal(middle(*t))).abs() >= ASKEW.to_radians().cos()
                };
                if !triangles.iter().all(along) {
                    return self.free(triangles);
                }
                if (matches!(self.held, Held::Drawn | Held::Creased) && curved) || (round && beyond()) {
                    return self.free(triangles);
                }
                (Form::Exact { surface, sign }, sag)
            }
            None => self.free(triangles),
        }
    }

    fn free(&self, triangles: &[u32]) -> (Form, f64) {
        let mesh = self.mesh;
        let normals = self.turned(triangles);
        // What turns along a side stands off it by an eighth of its length and of how much it turns along it, multiplied.
        let bulge = |(t, normals): (&u32, &[Point; 3])| {
            let (corners, normals) = (mesh.corners(*t as usize), *normals);
            (0..3).map(move |k| {
                let next = (k + 1) % 3;
                (normals[next] - normals[k]).dot(corners[next] - corners[k]).abs() / 8.0
            })
        };
        let sag = triangles.iter().zip(&normals).flat_map(bulge);
        let sag = sag.fold(0.0, f64::max);
        let bvh = Bvh::new(triangles.iter().map(|t| Aabb::of(mesh.corners(*t as usize))).collect());
        (Form::Free { triangles: triangles.to_vec(), bvh, normals }, sag)
    }

    /// The normals at the corners of triangles, turned evenly over what they meet there without a crease.
    fn turned(&self, triangles: &[u32]) -> Vec<[Point; 3]> {
        let mesh = self.mesh;
        let flat: Vec<Point> = triangles.iter().map(|t| mesh.area_vector(*t as usize).normalize_or_zero()).collect();
        let names = |n: u32| mesh.triangles()[triangles[n as usize] as usize];
        let angle = |n: u32, k: usize| {
            let corners = mesh.corners(triangles[n as usize] as usize);
            let (a, b) = (corners[(k + 1) % 3] - corners[k], corners[(k + 2) % 3] - corners[k]);
            if a == Point::ZERO || b == Point::ZERO { 0.0 } else { a.angle_between(b) }
        };
        let mut corners: Vec<(u32, u32, u8)> = (0..triangles.len() as u32)
            .flat_map(|n| names(n).into_iter().zip(0..).map(move |(v, k)| (v, n, k)))
            .collect();
        corners.sort_unstable();
        let mut normals = vec![[Point::ZERO; 3]; triangles.len()];
        let nearest = self.held.crease().to_radians().cos();
        for round in corners.chunk_by(|a, b| a.0 == b.0) {
            let part = |(_, n, k): &(u32, u32, u8)| flat[*n as usize] * angle(*n, usize::from(*k));
            if round.len() > FAN {
                let all = round.iter().map(part).sum::<Point>().normalize_or_zero();
                round.iter().for_each(|(_, n, k)| normals[*n as usize][usize::from(*k)] = all);
                continue;
            }
            for (_, n, k) in round {
                let own = flat[*n as usize];
                let near = |(_, m, _): &&(u32, u32, u8)| flat[*m as usize].dot(own) >= nearest;
                let all: Point = round.iter().filter(near).map(part).sum();
                let onward = self.onward(round[0].0, triangles[*n as usize], own);
                normals[*n as usize][usize::from(*k)] = onward.unwrap_or(all).normalize_or_zero();
            }
        }
        normals
    }

    /// The normal at a point of a face's border where it goes on in flat faces without an edge: what it has there, too.
    fn onward(&self, v: u32, triangle: u32, own: Point) -> Option<Point> {
        /// Faces that turn by less go on in each other, degrees.
        const GOES_ON: f64 = 15.0;
        let seams = self.seams.get_or_init(|| Seams::of(self.mesh));
        let face = self.mesh.face_of()[triangle as usize];
        let others =
            seams.at.get(&v)?.iter().take(FAN).map(|t| self.mesh.face_of()[*t as usize]).filter(|f| *f != face);
        let normals: Vec<Point> = others.filter_map(|f| seams.flat.get(&f.0).copied()).collect();
        let beside: Point = normals.into_iter().filter(|n| n.dot(own) > GOES_ON.to_radians().cos()).sum();
        (beside != Point::ZERO).then_some(beside)
    }

    fn probe_free(&self, (triangles, bvh, normals): (&[u32], &Bvh, &[[Point; 3]]), p: Point) -> Probe {
        let corners = |n: u32| self.mesh.corners(triangles[n as usize] as usize);
        let near = bvh.nearest(p, f64::INFINITY, |n| Some(nearest_on_triangle(p, corners(n)).distance_squared(p)));
        let Some((n, _)) = near else { return Probe { off: 0.0, normal: Point::Z } };
        let [a, b, c] = corners(n);
        let q = nearest_on_triangle(p, [a, b, c]);
        // By the shares of the corners in the place.
        let whole = (b - a).cross(c - a);
        let share = |x: Point, y: Point| (x - q).cross(y - q).dot(whole).max(0.0);
        let shares = [share(b, c), share(c, a), share(a, b)];
        let normal = normals[n as usize].into_iter().zip(shares).map(|(n, s)| n * s).sum::<Point>();
        let normal = normal.try_normalize().unwrap_or_else(|| whole.normalize_or_zero());
        Probe { off: (p - q).dot(normal), normal }
    }
}
