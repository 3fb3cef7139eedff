//! Surfaces at a distance: solids grown and shrunk, sheets made into walls.
//!
//! The surface is moved ([`moved`]) and, with rims, led back to where it came from. Where the shape is tighter than the
//! distance the moved surface crosses itself. It is then arranged exactly, and each cell of space is kept or not by how far a
//! point in it lies from the surface it came from, exactly; near the border, and in what sharp corners add, by how often the
//! moved surface winds round it. So whatever the input, what comes out is a solid, and what is not at the distance is where
//! sharp corners stand out or nothing is left. That the moved surface holds the true one follows from its making but round
//! corners where planes that stand out and planes that run into each other meet in ways that have no common place; there it may be
//! off by part of the distance.
//!
//! Cost: linear where nothing crosses; else that of the arrangement of what does.

mod build;
mod corner;
mod cost;
mod depth;
mod moved;
mod rings;
mod solver;
#[cfg(test)]
mod tests;

pub use cost::rounding;

use std::ops::ControlFlow;

use rayon::prelude::*;

use crate::arrange::{ArrangeError, Arrangement};
use crate::crossings::{crossing_pairs_up_to, triangle_bvh};
use crate::measure::{measure, measure_triangles};
use crate::simplify::undivided;
use crate::slender::without_slender;
use crate::topology::EdgeUse;
use crate::wrap::{WrapError, level_skin};
use crate::{Aabb, Bvh, Cancelled, FaceId, Mesh, MeshError, Point, Progress, Topology, shells};

use depth::{Depth, Near};
use moved::{FaceNames, REACH, Raised, check, raise};

/// So many pairs of crossing triangles are arranged; more would take minutes and many GB.
const MOST_CROSSINGS: usize = 1_000_000;

/// How corners that stand out are made.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Corners {
    /// The moved faces go on until they meet; corners that would reach farther than four times the distance are rounded.
    Sharp,
    /// Every point lies at the distance: arcs round edges, spheres round corners.
    Round,
}

/// How the wall closes at rims.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Rims {
    /// Square to the surface.
    Square,
    /// Along a direction of unit length.
    Along(Point),
}

/// How a surface is moved.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct How {
    /// Corners that stand out.
    pub corners: Corners,
    /// Rims.
    pub rims: Rims,
    /// How far arcs may be off a true circle, mm, and places off where they belong.
    pub chord: f64,
}

/// Why a surface cannot be moved.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum Fault {
    /// Three or more triangles share an edge: there is no outside to move to.
    #[error("three or more triangles share an edge")]
    Crowded(Point),
    /// Neighbours disagree about the outside.
    #[error("neighbours disagree about the outside")]
    Clashing(Point),
    /// A triangle names a point twice.
    #[error("a triangle is without area")]
    Degenerate(Point),
    /// The direction for the rims lies in the surface at a rim.
    #[error("the direction for the rims lies in the surface")]
    AlongSurface(Point),
    /// More of the moved surface crosses itself than can be arranged.
    #[error("more than {MOST_CROSSINGS} pairs of triangles would cross")]
    TooTangled,
    /// A grid as fine does not fit into memory; the finest resolution, mm.
    #[error("so fine a grid does not fit into memory; {0} mm is about the finest")]
    TooFine(f64),
    /// A corner would be rounded by more triangles than can be handled.
    #[error("a corner would be rounded by about {1:.0} triangles")]
    TooRound(Point, f64),
    /// What comes together at a point leaves a gap that no piece of a sphere fills.
    #[error("a corner cannot be rounded")]
    Unfilled(Point),
    /// Nothing is left.
    #[error("nothing is left")]
    Nothing,
    /// Somebody asked to stop.
    #[error(transparent)]
    Cancelled(Cancelled),
    /// A fault of the program.
    #[error(transparent)]
    Mesh(#[from] MeshError),
}

impl From<ArrangeError> for Fault {
    fn from(e: ArrangeError) -> Self {
        match e {
            ArrangeError::Cancelled(c) => Self::Cancelled(c),
            ArrangeError::Mesh(m) => Self::Mesh(m),
            // The moved surface is closed by its making.
            ArrangeError::Open { at, .. } => Self::Crowded(at),
        }
    }
}

/// What came of moving a surface.
#[derive(Clone, Debug, PartialEq)]
pub struct Offset {
    /// The solid, facing outward. A moved face has the number it had plus `moved`; others are new.
    pub mesh: Mesh,
    /// What was added to the numbers of moved faces.
    pub moved: u32,
    /// Whether the moved surface crossed itself or turned over somewhere and was cleaned.
    pub cleaned: bool,
}

/// A closed solid grown by `by` of each face, mm, or shrunk where that is below nought.
///
/// # Errors
/// [`Fault`].
pub fn grow(mesh: &Mesh, by: &(dyn Fn(FaceId) -> f64 + Sync), how: &How, progress: &Progress) -> Result<Offset, Fault> {
    check(mesh, &Topology::new(mesh.triangles(), mesh.points().len()))?;
    let flat = undivided(mesh, None, progress).map_err(Fault::Cancelled)?;
    let mesh = flat.as_ref().unwrap_or(mesh);
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let by = &|t: usize| by(mesh.face_of()[t]);
    let build = |loose: Loose| {
        let mut names = FaceNames::new(0, mesh.next_face().0);
        let raised = raise(mesh, &topology, by, how, loose, &mut names, &progress.stage(0.0, 0.2))?;
        Ok(Raw {
            turned: raised.turned,
            first_moved: 0,
            mesh: Mesh::new(raised.points, raised.triangles, raised.face_of)?,
        })
    };
    let mut amounts: Vec<f64> = (0..mesh.triangles().len()).map(by).collect();
    let of = amounts.clone();
    amounts.sort_by(f64::total_cmp);
    amounts.dedup();
    let depth = Depth::new(mesh, &topology);
    let verdict = |p: Point, _: &[i16]| {
        let side = depth.at(p)?.depth;
        let nearest = |amount: &f64| {
            let distance = if amounts.len() == 1 { side.abs() } else { depth.to_some(p, &|t| of[t] == *amount) };
            (distance, *amount)
        };
        decide(side, &amounts.iter().map(nearest).collect::<Vec<_>>(), how)
    };
    let stands = |raw: &Mesh| {
        let most = amounts.iter().fold(f64::NEG_INFINITY, |m, a| m.max(*a));
        shell_samples(raw).into_iter().all(|p| {
            depth.at(p).is_some_and(|near| {
                near.depth < most + REACH * most.abs() && (most >= 0.0 || near.depth < most + how.chord)
            })
        })
    };
    let (mesh, cleaned) = clean(
        &build,
        amounts.iter().fold(0.0, |m, a| a.abs().max(m)),
        None,
        &verdict,
        &stands,
        how,
        &progress.stage(0.2, 1.0),
    )?;
    Ok(Offset { mesh, moved: 0, cleaned })
}

/// A closed solid grown by `by`, mm, or shrunk below nought, round, sampled on a grid at a resolution: for dense surfaces whose
/// noise is tighter than the distance. Also gives how far the result is off the distance at most where it was looked at (the
/// middle of each triangle); it is about a share of the resolution, more in creases.
///
/// # Errors
/// [`Fault`]; [`Fault::TooFine`] names the finest resolution.
pub fn grow_sampled(mesh: &Mesh, by: f64, resolution: f64, progress: &Progress) -> Result<(Offset, f64), Fault> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    check(mesh, &topology)?;
    let depth = Depth::new(mesh, &topology);
    let field = |p: Point| {
        let Some(near) = depth.at(p) else { return (f64::INFINITY, Point::ZERO) };
        (near.depth - by, ((p - near.foot) * near.depth.signum()).normalize_or_zero())
    };
    let bounds = Aabb::of(mesh.points().iter().copied()).grown(by.max(0.0));
    let made = level_skin(&bounds, resolution, &field, &progress.stage(0.0, 0.9)).map_err(|e| match e {
        WrapError::TooFine(finest) => Fault::TooFine(finest),
        WrapError::Empty => Fault::Nothing,
        WrapError::Cancelled(c) => Fault::Cancelled(c),
        WrapError::Mesh(m) => Fault::Mesh(m),
    })?;
    let face = mesh.next_face();
    let made = made.regroup(|_| face);
    let off = (0..made.triangles().len())
        .into_par_iter()
        .map(|t| field(made.corners(t).iter().sum::<Point>() / 3.0).0.abs())
        .reduce(|| 0.0, f64::max);
    Ok((Offset { mesh: made, moved: 0, cleaned: true }, off))
}

/// Whether a point belongs to a solid grown or shrunk, from its depth and its distances to what moves by the same; none where
/// that is to be told by winding.
fn decide(depth: f64, nearest: &[(f64, f64)], how: &How) -> Option<bool> {
    let stretch = if how.corners == Corners::Sharp { REACH } else { 1.0 };
    let too_near = |(distance, by): &(f64, f64)| *distance < by.abs() - how.chord;
    let clear = |(distance, by): &(f64, f64)| *distance > by.abs() * stretch + how.chord;
    let (inward, outward): (Vec<_>, Vec<_>) = nearest.iter().partition(|(_, by)| *by < 0.0);
    if depth < 0.0 {
        if inward.iter().any(too_near) { Some(false) } else { inward.iter().all(clear).then_some(true) }
    } else if outward.is_empty() {
        Some(false)
    } else if !inward.is_empty() {
        None
    } else if outward.iter().any(too_near) {
        Some(true)
    } else {
        outward.iter().all(clear).then_some(false)
    }
}

/// The wall between a surface moved by `lower` and by `upper`, mm, of which neither is nought past the other; nought leaves it
/// where it is. Of a sheet the rims are closed; without what lies in `core`, if any.
///
/// # Errors
/// [`Fault`].
pub fn wall(
    mesh: &Mesh,
    (lower, upper): (f64, f64),
    core: Option<&Mesh>,
    how: &How,
    progress: &Progress,
) -> Result<Offset, Fault> {
    check(mesh, &Topology::new(mesh.triangles(), mesh.points().len()))?;
    let flat = |mesh: &Mesh| undivided(mesh, None, progress).map_err(Fault::Cancelled);
    let flat_core = core.map(flat).transpose()?.flatten();
    let core = flat_core.as_ref().or(core);
    let flat = flat(mesh)?;
    let mesh = flat.as_ref().unwrap_or(mesh);
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let moved = mesh.next_face().0;
    let build = |loose: Loose| {
        let mut names = FaceNames::new(moved, 2 * moved);
        let mut turned = Vec::new();
        let (mut points, mut triangles, mut faces) = (Vec::new(), Vec::new(), Vec::new());
        for (by, front) in [(lower, false), (upper, true)] {
            let raised = if by == 0.0 {
                let (points, triangles, face_of) = mesh.clone().into_parts();
                Raised { points, triangles, face_of, turned: vec![] }
            } else {
                // One that stays keeps its numbers; of two moved copies the back one has them.
                let mut own = FaceNames::new(if front || upper == 0.0 { moved } else { 0 }, names.next());
                let raised = raise(mesh, &topology, &|_| by, how, loose, &mut own, &progress.stage(0.0, 0.2))?;
                names = own;
                raised
            };
            turned.extend(raised.turned);
            let offset = points.len() as u32;
            points.extend(raised.points);
            triangles.extend(raised.triangles.into_iter().map(|[a, b, c]| {
                if front { [a + offset, b + offset, c + offset] } else { [a + offset, c + offset, b + offset] }
            }));
            faces.extend(raised.face_of);
        }
        Ok(Raw { mesh: welded(Mesh::new(points, triangles, faces)?)?, first_moved: moved, turned })
    };
    let depth = Depth::new(mesh, &topology);
    let verdict = |p: Point, winding: &[i16]| {
        if winding.get(1).is_some_and(|w| *w > 0) {
            return Some(false);
        }
        let Near { depth, at_rim, .. } = depth.at(p)?;
        let stretch = if how.corners == Corners::Sharp { REACH } else { 1.0 };
        if depth > upper * stretch + how.chord || depth < lower * stretch - how.chord {
            return Some(false);
        }
        (!at_rim && depth < upper - how.chord && depth > lower + how.chord).then_some(true)
    };
    // Both sides of a wall are parts of each shell.
    let (mesh, cleaned) =
        clean(&build, lower.abs().max(upper.abs()), core, &verdict, &|_| true, how, &progress.stage(0.2, 1.0))?;
    Ok(Offset { mesh, moved, cleaned })
}

/// Whether what was moved does not run into the core that it came from.
fn stays_off(raw: &Raw, core: &Mesh, progress: &Progress) -> Result<bool, Fault> {
    let moved = raw.mesh.retain_triangles(|t| raw.mesh.face_of()[t].0 >= raw.first_moved);
    let offset = core.points().len() as u32;
    let points = core.points().iter().chain(moved.points()).copied().collect();
    let others = moved.triangles().iter().map(|t| t.map(|p| p + offset));
    let triangles: Vec<[u32; 3]> = core.triangles().iter().copied().chain(others).collect();
    let both = Mesh::with_one_face(points, triangles).and_then(welded)?;
    let crossings = crossing_pairs_up_to(&both, &triangle_bvh(&both), 0, progress).map_err(Fault::Cancelled)?;
    Ok(crossings.is_some())
}

/// A surface moved and closed.
struct Raw {
    mesh: Mesh,
    /// The number of the first face that did not come with the surface it was made of.
    first_moved: u32,
    /// Where it turned over.
    turned: Vec<Aabb>,
}

/// Whether what is round a point lets go there.
type Loose<'a> = &'a (dyn Fn(Point) -> bool + Sync);

/// Makes a solid of a closed surface that may cross itself: it as it is where it does not, else the cells of which `verdict`
/// says yes, given a point inside and how often the surface and the core wind round it; where it does not say, those the
/// surface winds round. `stands` is asked whether each shell of it is where it should be. `build` makes the surface, loose
/// at some points; nothing moves farther than `most`, mm.
fn clean(
    build: &dyn Fn(Loose) -> Result<Raw, Fault>,
    most: f64,
    core: Option<&Mesh>,
    verdict: &(dyn Fn(Point, &[i16]) -> Option<bool> + Sync),
    stands: &dyn Fn(&Mesh) -> bool,
    how: &How,
    progress: &Progress,
) -> Result<(Mesh, bool), Fault> {
    let mut raw = build(&|_| false)?;
    if raw.mesh.triangles().is_empty() {
        return Err(Fault::Nothing);
    }
    progress.report(0.0, "looking for crossings").map_err(Fault::Cancelled)?;
    let crossings = |mesh: &Mesh| {
        let pairs = crossing_pairs_up_to(mesh, &triangle_bvh(mesh), MOST_CROSSINGS, progress);
        pairs.map_err(Fault::Cancelled)?.ok_or(Fault::TooTangled)
    };
    // Nothing may have crossed and all be turned inside out nevertheless.
    let plain = raw.turned.is_empty() && measure(&raw.mesh).volume > 0.0 && is_regular(&raw.mesh) && stands(&raw.mesh);
    let pairs = crossings(&raw.mesh)?;
    if pairs.is_empty() && plain && core.is_none_or(|core| stays_off(&raw, core, progress) == Ok(true)) {
        return Ok((raw.mesh, false));
    }
    if how.corners == Corners::Round {
        // As far round what turned over or crosses as that has to do with it.
        let both = |(a, b): &(u32, u32)| {
            let [a, b] = [a, b].map(|t| Aabb::of(raw.mesh.corners(*t as usize)));
            Aabb { min: a.min.max(b.min), max: a.max.min(b.max) }
        };
        let bad = pairs.iter().map(both).chain(raw.turned.iter().copied());
        let bad = Bvh::new(bad.map(|b| b.grown(most * REACH)).collect());
        let all = pairs.is_empty() && raw.turned.is_empty();
        raw = build(&|p| all || bad.overlapping(&Aabb::of([p]), |_| ControlFlow::Break(())).is_break())?;
        crossings(&raw.mesh)?;
    }
    let raw = raw.mesh;
    let inputs: Vec<&Mesh> = std::iter::once(&raw).chain(core).collect();
    let all = Arrangement::new(&inputs, &[], &progress.stage(0.1, 0.7))?;
    let chambers = all.chambers(how.chord.powi(3), &progress.stage(0.7, 0.85)).map_err(Fault::Cancelled)?;
    let told: Vec<Option<bool>> = chambers
        .list()
        .par_iter()
        .enumerate()
        .map(|(n, chamber)| verdict(chamber.inside?, chambers.winding(n)))
        .collect();
    let winds = |n: usize| {
        let winding = chambers.winding(n);
        winding[0] > 0 && winding.get(1).is_none_or(|w| *w <= 0)
    };
    let mut belongs: Vec<bool> = told.iter().enumerate().map(|(n, told)| told.unwrap_or_else(|| winds(n))).collect();
    let firm: Vec<bool> = told.iter().map(Option::is_some).collect();
    chambers.without_pinches(&mut belongs, &firm, f64::INFINITY);
    let chosen: Vec<usize> = (0..belongs.len()).filter(|n| belongs[*n]).collect();
    let made = chambers.body(&chosen, &progress.stage(0.85, 1.0))?.mesh;
    let made = sturdy(without_crumbs(&made, how.chord), progress)?;
    if made.triangles().is_empty() { Err(Fault::Nothing) } else { Ok((made, true)) }
}

/// Without triangles so slender that they would not survive single precision, unless that made others cross.
fn sturdy(mesh: Mesh, progress: &Progress) -> Result<Mesh, Fault> {
    /// The least height of a triangle over its longest side: some thirty steps of single precision.
    const LEAST_HEIGHT: f64 = 2e-6;
    let sturdy = without_slender(mesh.clone(), LEAST_HEIGHT);
    let crossings = crossing_pairs_up_to(&sturdy, &triangle_bvh(&sturdy), 0, progress).map_err(Fault::Cancelled)?;
    Ok(if crossings.is_some() && is_regular(&sturdy) { sturdy } else { mesh })
}

/// Whether every edge has two triangles that agree. What runs into itself may lie on itself there, crossing nothing.
fn is_regular(mesh: &Mesh) -> bool {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    (0..topology.edge_count() as u32).all(|e| topology.edge_use(e) == EdgeUse::Regular)
}

/// The middle of the largest triangle of each shell.
fn shell_samples(mesh: &Mesh) -> Vec<Point> {
    let (shell_of, count) = shells::shells(&Topology::new(mesh.triangles(), mesh.points().len()));
    let mut largest = vec![(0.0, Point::ZERO); count];
    for (t, s) in shell_of.iter().enumerate() {
        let area = mesh.area_vector(t).length_squared();
        if area > largest[*s as usize].0 {
            largest[*s as usize] = (area, mesh.corners(t).iter().sum::<Point>() / 3.0);
        }
    }
    largest.into_iter().map(|l| l.1).collect()
}

/// Without shells that are thinner than the chord, mm: what facets of arcs leave between each other.
pub fn without_crumbs(mesh: &Mesh, chord: f64) -> Mesh {
    let (shell_of, count) = shells::shells(&Topology::new(mesh.triangles(), mesh.points().len()));
    let mut members: Vec<Vec<u32>> = vec![Vec::new(); count];
    for (t, s) in shell_of.iter().enumerate() {
        members[*s as usize].push(t as u32);
    }
    let thick: Vec<bool> = members
        .iter()
        .map(|m| {
            let measure = measure_triangles(mesh, m);
            measure.volume.abs() * 2.0 > measure.area * chord
        })
        .collect();
    mesh.retain_triangles(|t| thick[shell_of[t] as usize])
}

/// The mesh with points in equal places made one.
fn welded(mesh: Mesh) -> Result<Mesh, MeshError> {
    let mut number = std::collections::HashMap::new();
    let mut kept = Vec::new();
    let new: Vec<u32> = mesh
        .points()
        .iter()
        .map(|p| {
            *number.entry((*p + Point::ZERO).to_array().map(f64::to_bits)).or_insert_with(|| {
                kept.push(*p);
                kept.len() as u32 - 1
            })
        })
        .collect();
    let mut faces: Vec<FaceId> = Vec::with_capacity(mesh.triangles().len());
    let mut triangles = Vec::with_capacity(mesh.triangles().len());
    for (t, corners) in mesh.triangles().iter().enumerate() {
        let [a, b, c] = corners.map(|p| new[p as usize]);
        if a != b && b != c && c != a {
            triangles.push([a, b, c]);
            faces.push(mesh.face_of()[t]);
        }
    }
    Mesh::new(kept, triangles, faces)
}
