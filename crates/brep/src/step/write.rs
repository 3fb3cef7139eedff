//! Solids of triangles written as STEP, AP242: faces exact where they lie on planes, cylinders, cones, spheres or tori and their edges
//! are lines and circles on them; planes between lines elsewhere.

use std::collections::BTreeMap;

use nimbet_kernel::inside::Inside;
use nimbet_kernel::measure::measure_triangles;
use nimbet_kernel::surfaces::Surface;
use nimbet_kernel::{Bvh, Mesh, Point, Progress, UnionFind};
use rustc_hash::FxHashSet;
use step_io::build::{self, CurveInput, FaceBoundInput, StyleTarget, SurfaceInput, Vertex, VoidShellNormals};
use step_io::model::{AdvancedFaceId, EdgeCurveId};
use step_io::{AuthorError, Orientation, StepBuilder};

use super::{StepError, read_step};
use crate::curve::Fineness;
use crate::frame::Frame;
use crate::tessellate::{TessellateError, tessellate};
use crate::trace::{Along, Chain, Patch, TraceError, Traced, Under, trace};

/// More faces than these are no use in a file of exact surfaces.
pub const MOST_FACES: usize = 300_000;

/// How closely what was written is followed to see whether it comes out again: mm and radians.
const CHORD: f64 = 0.02;
const ANGLE: f64 = 0.2618;

/// What was written.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Written {
    /// How many faces of each kind there are: planes, cylinders …
    pub kinds: BTreeMap<&'static str, usize>,
    /// The part's faces that are planes between lines though they are curved, and how many planes those are.
    pub faceted: BTreeMap<u32, usize>,
    /// How far triangles of the part stand off the exact surfaces at most, mm.
    pub off: f64,
}

/// Why a part cannot be written as STEP.
#[derive(Debug, thiserror::Error)]
pub enum StepWriteError {
    /// It cannot be traced.
    #[error(transparent)]
    Trace(#[from] TraceError),
    /// Too many faces.
    #[error(
        "it would be {0} faces as STEP; at most {MOST_FACES} are written: a part of so many curved triangles leaves better as 3MF"
    )]
    TooMany(usize),
    /// The writer refused it.
    #[error("the STEP writer refused it: {0}")]
    Author(#[from] AuthorError),
    /// It could not be put together.
    #[error(transparent)]
    Io(#[from] std::io::Error),
}

/// A solid in millimetres as the bytes of a file.
///
/// # Errors
/// [`StepWriteError`].
pub fn write_step(
    (name, colour): (&str, [u8; 3]),
    mesh: &Mesh,
    progress: &Progress,
) -> Result<(Vec<u8>, Written), StepWriteError> {
    /// Faces that do not come out again as they went in become planes, so many times.
    const ROUNDS: usize = 4;
    let mut flat = FxHashSet::default();
    for round in 0.. {
        let traced = trace(mesh, &flat, progress)?;
        let count = traced.patches.iter().filter(|p| !p.triangles.is_empty()).count();
        if count > MOST_FACES {
            return Err(StepWriteError::TooMany(count));
        }
        let (bytes, written, order) = written(&traced, (name, colour), mesh, progress)?;
        let wrong = unsound(&bytes, &order, &traced, progress)?;
        if wrong.is_empty() || round == ROUNDS {
            return Ok((bytes, written));
        }
        flat.extend(wrong);
    }
    unreachable!("the rounds end by themselves")
}

/// Where bytes are written to as long as nobody asks to stop.
struct Watched<'p> {
    bytes: Vec<u8>,
    progress: &'p Progress,
}

impl std::io::Write for Watched<'_> {
    fn write(&mut self, bytes: &[u8]) -> std::io::Result<usize> {
        self.progress.check().map_err(std::io::Error::other)?;
        self.bytes.extend_from_slice(bytes);
        Ok(bytes.len())
    }

    fn flush(&mut self) -> std::io::Result<()> {
        Ok(())
    }
}

/// The patches of each solid in the order its faces are written.
type Order = Vec<Vec<usize>>;

fn written(
    traced: &Traced,
    (name, colour): (&str, [u8; 3]),
    mesh: &Mesh,
    progress: &Progress,
) -> Result<(Vec<u8>, Written, Order), StepWriteError> {
    let mut builder = StepBuilder::new();
    let header = builder.header_mut();
    // The same solid gives the same bytes.
    header.time_stamp = "2026-01-01T00:00:00".into();
    header.file_name = name.into();
    header.preprocessor_version = "nimbet".into();
    header.originating_system = "nimbet".into();
    let mut writing = Writing {
        mesh,
        traced,
        builder,
        vertices: vec![None; mesh.points().len()],
        edges: vec![vec![]; traced.chains.len()],
        written: Written::default(),
    };
    let faces = writing.faces(progress)?;
    let order = writing.solids((name, colour), &faces)?;
    let mut sink = Watched { bytes: Vec::new(), progress };
    let done = step_io::write(&writing.builder.finish(), &mut sink);
    progress.check().map_err(TraceError::from)?;
    done?;
    Ok((sink.bytes, writing.written, order))
}

/// The curved patches that, read again, cannot be covered, each by its first triangle.
fn unsound(bytes: &[u8], order: &Order, traced: &Traced, progress: &Progress) -> Result<Vec<u32>, StepWriteError> {
    let curved = |n: &usize| matches!(traced.patches[*n].under, Under::Curved(_));
    if !order.iter().flatten().any(curved) {
        return Ok(vec![]);
    }
    let unread = |why: String| StepWriteError::Io(std::io::Error::other(why));
    let read = read_step(bytes, progress).map_err(|e| match e {
        StepError::Cancelled(c) => TraceError::from(c).into(),
        other => unread(other.to_string()),
    })?;
    let fineness = Fineness { chord: CHORD, angle: ANGLE };
    let mut wrong = Vec::new();
    for (body, patches) in read.bodies.iter().zip(order) {
        let made = tessellate(body, &fineness, usize::MAX / 8, progress).map_err(|e| match e {
            TessellateError::Cancelled(c) => TraceError::from(c).into(),
            other => unread(other.to_string()),
        })?;
        let open = made.left_open.iter().filter_map(|open| patches.get(open.face));
        wrong.extend(open.filter(|n| curved(n)).map(|n| traced.patches[*n].triangles[0]));
    }
    Ok(wrong)
}

struct Writing<'a> {
    mesh: &'a Mesh,
    traced: &'a Traced,
    builder: StepBuilder,
    vertices: Vec<Option<Vertex>>,
    /// The edges of each chain, from its beginning.
    edges: Vec<Vec<EdgeCurveId>>,
    written: Written,
}

/// Edges of a bound, each with the way it is followed.
type Bound = Vec<(EdgeCurveId, Orientation)>;

fn way(forward: bool) -> Orientation {
    if forward { Orientation::Forward } else { Orientation::Reversed }
}

fn placed(frame: &Frame) -> build::Frame {
    build::Frame { origin: frame.origin.to_array(), axis: frame.z.to_array(), ref_dir: frame.x.to_array() }
}

/// A frame about an axis.
fn about(origin: Point, axis: Point) -> Frame {
    let x = axis.any_orthonormal_vector();
    Frame { origin, x, y: axis.cross(x), z: axis }
}

impl Writing<'_> {
    fn vertex(&mut self, point: u32) -> Result<Vertex, AuthorError> {
        if let Some(known) = self.vertices[point as usize] {
            return Ok(known);
        }
        let made = self.builder.vertex(self.mesh.points()[point as usize].to_array())?;
        self.vertices[point as usize] = Some(made);
        Ok(made)
    }

    fn chain(&mut self, n: usize) -> Result<(), AuthorError> {
        if !self.edges[n].is_empty() {
            return Ok(());
        }
        let traced = self.traced;
        let Chain { points, along, .. } = &traced.chains[n];
        let ends = [points[0], points[points.len() - 1]];
        let edges = match along {
            Along::Line => vec![self.edge(ends, CurveInput::Line)?],
            Along::Circle { frame, radius } => vec![self.edge(ends, CurveInput::Circle(placed(frame), *radius))?],
            Along::Points => {
                points.windows(2).map(|w| self.edge([w[0], w[1]], CurveInput::Line)).collect::<Result<_, _>>()?
            }
        };
        self.edges[n] = edges;
        Ok(())
    }

    fn edge(&mut self, [a, b]: [u32; 2], curve: CurveInput) -> Result<EdgeCurveId, AuthorError> {
        let (a, b) = (self.vertex(a)?, self.vertex(b)?);
        self.builder.edge(a, b, curve)
    }

    /// The face of each patch that is one.
    fn faces(&mut self, progress: &Progress) -> Result<Vec<Option<AdvancedFaceId>>, StepWriteError> {
        let traced = self.traced;
        let mut faces = vec![None; traced.patches.len()];
        for (n, patch) in traced.patches.iter().enumerate().filter(|(_, p)| !p.triangles.is_empty()) {
            if n.is_multiple_of(256) {
                progress.check().map_err(TraceError::from)?;
            }
            let mut bounds: Vec<Bound> = Vec::new();
            for bound in &traced.bounds[n] {
                let mut edges = Bound::new();
                for (chain, forward) in bound {
                    self.chain(*chain as usize)?;
                    let own = self.edges[*chain as usize].iter().map(|e| (*e, way(*forward)));
                    if *forward { edges.extend(own) } else { edges.extend(own.rev()) }
                }
                bounds.push(edges);
            }
            faces[n] = Some(self.face(n, patch, bounds)?);
        }
        Ok(faces)
    }

    fn face(&mut self, n: usize, patch: &Patch, mut bounds: Vec<Bound>) -> Result<AdvancedFaceId, StepWriteError> {
        let (surface, kind, outward) = match patch.under {
            Under::Plane { point, normal } => (SurfaceInput::Plane(placed(&about(point, normal))), "planes", true),
            Under::Curved(surface) => {
                let middle = |t: &u32| self.mesh.corners(*t as usize).iter().sum::<Point>() / 3.0;
                let out = |t: &u32| surface.normal(middle(t)).dot(self.mesh.area_vector(*t as usize));
                let off = patch.triangles.iter().map(|t| self.stands_off(&surface, *t)).fold(0.0, f64::max);
                self.written.off = self.written.off.max(off);
                self.seam(&surface, n, &mut bounds)?;
                let outward = patch.triangles.iter().map(out).sum::<f64>() > 0.0;
                let (input, kind) = self.curved(&surface, patch);
                (input, kind, outward)
            }
        };
        *self.written.kinds.entry(kind).or_insert(0) += 1;
        if self.is_faceted(n) {
            *self.written.faceted.entry(patch.face).or_insert(0) += 1;
        }
        let widest = self.widest(n);
        let bounds = bounds
            .into_iter()
            .enumerate()
            .map(|(k, edges)| if k == widest { FaceBoundInput::outer(edges) } else { FaceBoundInput::inner(edges) });
        let bounds = bounds.collect();
        Ok(self.builder.face(surface, way(outward), bounds)?)
    }

    /// How far the middles of a triangle and its sides stand off a surface.
    fn stands_off(&self, surface: &Surface, t: u32) -> f64 {
        let [a, b, c] = self.mesh.corners(t as usize);
        [(a + b) / 2.0, (b + c) / 2.0, (c + a) / 2.0, (a + b + c) / 3.0]
            .into_iter()
            .map(|p| surface.distance(p).abs())
            .fold(0.0, f64::max)
    }

    /// Whether a plane is one of several that stand for a curved face.
    fn is_faceted(&self, n: usize) -> bool {
        let face = self.traced.patches[n].face;
        let beside = |c: &&Chain| c.patches.contains(&(n as u32));
        // Only a face of several planes has an edge of its own within.
        matches!(self.traced.patches[n].under, Under::Plane { .. })
            && self.traced.bounds[n].iter().flatten().map(|(c, _)| &self.traced.chains[*c as usize]).filter(beside).any(
                |c| {
                    let [a, b] = c.patches.map(|p| self.traced.patches[p as usize].face);
                    a == face && b == face
                },
            )
    }

    /// The bound that is the outer one: that of the greatest extent.
    fn widest(&self, n: usize) -> usize {
        let extent = |bound: &[(u32, bool)]| {
            let points = bound.iter().flat_map(|(c, _)| &self.traced.chains[*c as usize].points);
            nimbet_kernel::Aabb::of(points.map(|p| self.mesh.points()[*p as usize])).diagonal()
        };
        let bounds = &self.traced.bounds[n];
        (0..bounds.len()).max_by(|a, b| extent(&bounds[*a]).total_cmp(&extent(&bounds[*b]))).unwrap_or(0)
    }

    fn curved(&self, surface: &Surface, patch: &Patch) -> (SurfaceInput, &'static str) {
        match *surface {
            Surface::Plane { point, normal } => (SurfaceInput::Plane(placed(&about(point, normal))), "planes"),
            Surface::Cylinder { point, axis, radius } => {
                (SurfaceInput::Cylinder(placed(&about(point, axis)), radius), "cylinders")
            }
            Surface::Sphere { centre, radius } => {
                (SurfaceInput::Sphere(placed(&about(centre, Point::Z)), radius), "spheres")
            }
            Surface::Torus { centre, axis, major, minor } => {
                (SurfaceInput::Torus(placed(&about(centre, axis)), major, minor), "tori")
            }
            Surface::Cone { apex, axis, half_angle } => {
                // Somewhere along the face, where it has a radius.
                let far = patch.triangles.iter().flat_map(|t| self.mesh.corners(*t as usize));
                let along = far.map(|p| (p - apex).dot(axis)).fold(0.0, f64::max);
                let frame = about(apex + axis * along, axis);
                (SurfaceInput::Cone(placed(&frame), along * half_angle.tan(), half_angle), "cones")
            }
        }
    }

    /// Edges within a face that others need where it closes: from a cone's bound to its tip, and over whole spheres and tori.
    fn seam(&mut self, surface: &Surface, n: usize, bounds: &mut Vec<Bound>) -> Result<(), AuthorError> {
        match *surface {
            Surface::Cone { apex, .. } if bounds.len() == 1 => {
                let at = |p: u32| (self.mesh.points()[p as usize] - apex).length();
                let traced = self.traced;
                let corners = || traced.patches[n].triangles.iter().flat_map(|t| self.mesh.triangles()[*t as usize]);
                let size = corners().map(at).fold(0.0, f64::max);
                let Some(tip) = corners().find(|p| at(*p) <= size * 1e-6) else { return Ok(()) };
                let (chain, forward) = self.traced.bounds[n][0][0];
                let points = &self.traced.chains[chain as usize].points;
                let first = if forward { points[0] } else { points[points.len() - 1] };
                // A tip on the bound is no matter.
                if self.traced.bounds[n][0].iter().any(|(c, _)| self.traced.chains[*c as usize].points.contains(&tip)) {
                    return Ok(());
                }
                let line = self.edge([first, tip], CurveInput::Line)?;
                let end = [(line, Orientation::Forward), (line, Orientation::Reversed)];
                bounds[0].splice(0..0, end);
            }
            Surface::Sphere { centre, radius } if bounds.is_empty() => {
                let frame = about(centre, Point::Z);
                let [south, north] = [-1.0, 1.0].map(|s| centre + Point::Z * (radius * s));
                let (south, north) = (self.builder.vertex(south.to_array())?, self.builder.vertex(north.to_array())?);
                let half = Frame { origin: centre, x: frame.x, y: Point::Z, z: frame.x.cross(Point::Z) };
                let seam = self.builder.edge(south, north, CurveInput::Circle(placed(&half), radius))?;
                bounds.push(vec![(seam, Orientation::Forward), (seam, Orientation::Reversed)]);
            }
            Surface::Torus { centre, axis, major, minor } if bounds.is_empty() => {
                let frame = about(centre, axis);
                let start = self.builder.vertex((centre + frame.x * (major + minor)).to_array())?;
                let about_axis = Frame { origin: centre, ..frame };
                let round = self.builder.edge(start, start, CurveInput::Circle(placed(&about_axis), major + minor))?;
                let tube = Frame { origin: centre + frame.x * major, x: frame.x, y: axis, z: frame.x.cross(axis) };
                let across = self.builder.edge(start, start, CurveInput::Circle(placed(&tube), minor))?;
                let ways = [Orientation::Forward, Orientation::Reversed];
                bounds.push(vec![(round, ways[0]), (across, ways[0]), (round, ways[1]), (across, ways[1])]);
            }
            _ => {}
        }
        Ok(())
    }

    /// Puts faces together as solids, with the spaces in them.
    fn solids(
        &mut self,
        (name, colour): (&str, [u8; 3]),
        faces: &[Option<AdvancedFaceId>],
    ) -> Result<Order, StepWriteError> {
        let mut order = Order::new();
        let part = self.builder.part(name);
        let [red, green, blue] = colour.map(|c| f64::from(c) / 255.0);
        let look = step_io::scene::Rgb { red, green, blue };
        for (n, (outer, voids)) in self.shells().into_iter().enumerate() {
            let of = |shell: &[usize]| shell.iter().filter_map(|p| faces[*p]).collect::<Vec<_>>();
            order.push(outer.iter().chain(voids.iter().flatten()).copied().collect());
            let called = if n == 0 { name.to_owned() } else { format!("{name} {}", n + 1) };
            let target = if voids.is_empty() {
                StyleTarget::Solid(self.builder.solid(part, &called, of(&outer))?)
            } else {
                let voids = voids.iter().map(|v| of(v)).collect();
                let away = VoidShellNormals::AwayFromMaterial;
                StyleTarget::VoidSolid(self.builder.solid_with_voids(part, &called, of(&outer), voids, away)?)
            };
            self.builder.style(target, look, None)?;
        }
        Ok(order)
    }

    /// Outer shells with the shells of the spaces in each, as patches.
    fn shells(&self) -> Vec<(Vec<usize>, Vec<Vec<usize>>)> {
        let count = self.traced.patches.len();
        let mut sets = UnionFind::new(count);
        self.traced.chains.iter().for_each(|c| {
            sets.union(c.patches[0], c.patches[1]);
        });
        let (set_of, sets) = sets.number_sets();
        let mut shells: Vec<Vec<usize>> = vec![Vec::new(); sets];
        for (n, set) in set_of.iter().enumerate().filter(|(n, _)| !self.traced.patches[*n].triangles.is_empty()) {
            shells[*set as usize].push(n);
        }
        shells.retain(|s| !s.is_empty());
        let triangles = |shell: &[usize]| -> Vec<u32> {
            shell.iter().flat_map(|n| self.traced.patches[*n].triangles.iter().copied()).collect()
        };
        let volume = |shell: &[usize]| measure_triangles(self.mesh, &triangles(shell)).volume;
        let (outer, inner): (Vec<_>, Vec<_>) = shells.into_iter().partition(|s| volume(s) > 0.0);
        let mut solids: Vec<(Vec<usize>, Vec<Vec<usize>>)> = outer.into_iter().map(|o| (o, vec![])).collect();
        for space in inner {
            let at = self.mesh.corners(self.traced.patches[space[0]].triangles[0] as usize)[0];
            // The smallest of those around it.
            let around = |(outer, _): &(Vec<usize>, Vec<Vec<usize>>)| {
                let own: FxHashSet<u32> = triangles(outer).into_iter().collect();
                let mesh = self.mesh.retain_triangles(|t| own.contains(&(t as u32)));
                let bvh =
                    Bvh::new((0..mesh.triangles().len()).map(|t| nimbet_kernel::Aabb::of(mesh.corners(t))).collect());
                Inside::new(&mesh, &bvh).holds(at).then(|| volume(outer))
            };
            let mut best: Option<(f64, usize)> = None;
            for (n, solid) in solids.iter().enumerate() {
                if let Some(v) = around(solid).filter(|v| best.is_none_or(|b| *v < b.0)) {
                    best = Some((v, n));
                }
            }
            if let Some((_, n)) = best.or((!solids.is_empty()).then_some((0.0, 0))) {
                solids[n].1.push(space);
            }
        }
        solids
    }
}
