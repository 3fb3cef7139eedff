//! Runs of edges rounded and chamfered.

use std::collections::BTreeMap;

use nimbet_kernel::arrange::{ArrangeError, Arrangement, Bound, EdgeSide, Role, Side};
use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::measure::measure;
use nimbet_kernel::segments::nearest_on_segment;
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{Aabb, Bvh, Cancelled, FaceId, Mesh, MeshError, Point, Progress, Topology};
use rustc_hash::FxHashSet;

use crate::graph::Graph;
use crate::over::Vanished;
use crate::plan::{Cause, Planner, Spine, Trouble, Wanted};
use crate::sheet::{Parting, parting};

/// What became of a body.
#[derive(Clone, Debug)]
pub struct Carved {
    /// The body. Faces that were there keep their numbers.
    pub mesh: Mesh,
    /// The first number of the new faces.
    pub first_new: u32,
    /// Faces that vanished between two roundings.
    pub vanished: Vec<Vanished>,
    /// Where a bend of an edge tighter than its section was passed over, in the middle of it, mm.
    pub passed: Vec<Point>,
}

/// Why edges stay as they are.
#[derive(Clone, Debug, thiserror::Error)]
pub enum EdgeError {
    /// A run cannot have what it is given.
    #[error("an edge cannot have what it is given")]
    Trouble(Trouble),
    /// More triangles than can be handled.
    #[error("{0:.0} triangles are more than can be handled")]
    TooFine(f64),
    /// Somebody asked to stop.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
    /// The body is no solid.
    #[error(transparent)]
    Arrange(ArrangeError),
    /// A fault of the program.
    #[error(transparent)]
    Mesh(#[from] MeshError),
}

impl From<ArrangeError> for EdgeError {
    fn from(e: ArrangeError) -> Self {
        match e {
            ArrangeError::Cancelled(c) => Self::Cancelled(c),
            other => Self::Arrange(other),
        }
    }
}

/// A body with some runs of its edges rounded or chamfered, all at once. `sealed` says that it is known to be a solid.
///
/// # Errors
/// [`EdgeError`].
pub(crate) fn carve(
    planner: &Planner<'_>,
    wanted: &[Wanted],
    sealed: bool,
    progress: &Progress,
) -> Result<Carved, EdgeError> {
    let graph = planner.graph;
    progress.report(0.0, "following the edges")?;
    let spines = planner.spines(wanted)?;
    let bvh = triangle_bvh(graph.mesh);
    let parting = parting(planner, &spines, &bvh)?;
    progress.report(0.3, "cutting along the edges")?;
    let arranging = progress.stage(0.3, 0.8);
    let all = if sealed {
        // What lies between the sheet and the edges is cut, too, or it would not go.
        let around = |spine: &Spine| {
            let boxed = |e: (u32, bool)| Aabb::of(graph.ends(e).map(|v| graph.place(v))).grown(spine.reach());
            spine.edges(graph).map(boxed).collect::<Vec<_>>()
        };
        let boxes = spines.iter().flat_map(around).collect();
        Arrangement::of_sealed_cut(&parting.body, &parting.sheet, boxes, &arranging)?
    } else {
        Arrangement::new(&[&parting.body], &[&parting.sheet], &arranging)?
    };
    let cells = chosen(graph, &spines, &parting, &all).map_err(EdgeError::Trouble)?;
    let body = all.carved(&cells, &progress.stage(0.8, 1.0))?;
    // More than sections hold between an edge and their feet has come from elsewhere; outer edges give, inner ones take.
    let change = measure(&body.mesh).volume - measure(graph.mesh).volume;
    let room = |convex: bool| spines.iter().filter(|s| s.convex == convex).map(|s| s.room(graph)).sum::<f64>();
    if change > room(false) || -change > room(true) {
        let run = spines.iter().max_by(|a, b| a.reach().total_cmp(&b.reach())).map_or(0, |s| s.wanted.run);
        return Err(EdgeError::Trouble(Trouble { run, cause: Cause::Leaks, at: spines[0].places[0].at }));
    }
    if let Some(at) = touching(&body.mesh) {
        let nearest = |s: &&Spine| s.places.iter().map(|p| p.at.distance(at)).fold(f64::INFINITY, f64::min);
        let run = spines.iter().min_by(|a, b| nearest(a).total_cmp(&nearest(b))).map_or(0, |s| s.wanted.run);
        return Err(EdgeError::Trouble(Trouble { run, cause: Cause::Overlaps, at }));
    }
    let first_new = body.begin.get(1).copied().unwrap_or(0);
    // Caps go on in the faces they lie in, and strips in themselves.
    let into = |face: FaceId| {
        let face = match face.0.checked_sub(first_new) {
            Some(own) => FaceId(parting.whole(FaceId(own)).0 + first_new),
            None => face,
        };
        let cap = parting.caps.iter().find(|(cap, _)| cap.0 + first_new == face.0);
        cap.and_then(|(_, into)| *into).unwrap_or(face)
    };
    let faces: Vec<FaceId> = body.mesh.face_of().iter().map(|f| into(*f)).collect();
    let mesh = body.mesh.regroup(|t| faces[t]);
    let mut bends: Vec<Point> = spines.iter().flat_map(|s| &s.bends).map(|b| b.here.midpoint(b.there)).collect();
    // Both sides tell of each.
    bends.sort_by(|a, b| a.to_array().partial_cmp(&b.to_array()).unwrap_or(std::cmp::Ordering::Equal));
    bends.dedup();
    Ok(Carved { mesh, first_new, vanished: Vanished::under(&spines), passed: bends })
}

/// A place where a body touches itself along an edge, if there is one.
pub(crate) fn touching(mesh: &Mesh) -> Option<Point> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let odd = (0..topology.edge_count() as u32).find(|e| topology.edge_use(*e) != EdgeUse::Regular)?;
    Some(mesh.points()[topology.ends(topology.halves(odd)[0]).0 as usize])
}

/// The cells beside the edges, where each is parted from the rest.
fn chosen(
    graph: &Graph<'_>,
    spines: &[Spine],
    parting: &Parting,
    all: &Arrangement,
) -> Result<FxHashSet<u32>, Trouble> {
    /// A space that belongs to edges reaches no farther from them than so many times their sections, where what closes it at
    /// an end leans over.
    const FARTHEST: f64 = 30.0;
    let mut edges: Vec<EdgeSide> = Vec::new();
    for (n, spine) in spines.iter().enumerate() {
        let side = if spine.convex { Side::Behind } else { Side::Before };
        for edge in spine.edges(graph) {
            let ends = graph.ends(edge).map(|v| graph.place(v));
            edges.push(EdgeSide { ends, side, group: parting.group_of[n] });
        }
    }
    let mut cells = FxHashSet::default();
    let caps: FxHashSet<u32> = parting.caps.iter().map(|(cap, _)| cap.0).collect();
    let role = |group: u32, face: FaceId| match parting.bounds[face.0 as usize] == group {
        true if caps.contains(&face.0) => Role::Closes,
        true => Role::Bounds,
        false => Role::Passed,
    };
    for wedge in all.wedges(&edges, &role) {
        let own: Vec<usize> = (0..spines.len()).filter(|n| parting.group_of[*n] == wedge.group).collect();
        let nearest = |at: Point| {
            let off = |n: &usize| spines[*n].places.iter().map(|p| p.at.distance(at)).fold(f64::INFINITY, f64::min);
            let run = own.iter().min_by(|a, b| off(a).total_cmp(&off(b))).map_or(0, |n| spines[*n].wanted.run);
            Trouble { run, cause: Cause::Leaks, at }
        };
        let middle = || {
            let places = &spines[own[0]].places;
            nearest(places[places.len() / 2].at)
        };
        // A strip that hangs in the space more than it bounds it has a way round it; what goes on beyond its ends may.
        let mut bounds: BTreeMap<usize, Bound> = own.iter().map(|n| (*n, Bound::default())).collect();
        for (face, bound) in &wedge.bounds {
            let whole = bounds.entry(parting.run_of[*face as usize]).or_default();
            whole.parts += bound.parts;
            if bound.hangs > 0.0 && !parting.is_beyond(FaceId(*face)) {
                (whole.hangs, whole.at) = (whole.hangs + bound.hangs, bound.at);
            }
        }
        // Nor does what others take of it count.
        let loose = |(n, b): &(&usize, &Bound)| b.hangs > b.parts + (b.parts + b.hangs) * spines[**n].taken;
        if let Some((_, loose)) = bounds.iter().find(loose) {
            return Err(nearest(loose.at));
        }
        let most = own.iter().map(|n| spines[*n].reach()).fold(0.0, f64::max) * FARTHEST;
        let near: Vec<&EdgeSide> = edges.iter().filter(|e| e.group == wedge.group).collect();
        let bvh = Bvh::new(near.iter().map(|e| Aabb::of(e.ends)).collect());
        let off = |p: Point, e: u32| nearest_on_segment(p, near[e as usize].ends[0], near[e as usize].ends[1]).1;
        let far = wedge.corners.iter().any(|p| bvh.nearest(*p, most, |e| Some(off(*p, e))).is_none());
        if !wedge.fits || far {
            return Err(middle());
        }
        cells.extend(wedge.cells);
    }
    Ok(cells)
}
