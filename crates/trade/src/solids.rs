//! From parts to an arrangement and back.

use std::collections::BTreeSet;

use nimbet_kernel::arrange::{ArrangeError, Arrangement, Body};
use nimbet_kernel::crossings::crossing_any;
use nimbet_kernel::measure::{measure, measure_triangles};
use nimbet_kernel::segments::hit;
use nimbet_kernel::{Mesh, Point, Progress, Topology, shells};

use crate::TradeError;
use crate::examine::Place;
use crate::operation::CutFaces;
use crate::words::volume_of;

/// Arranges solids; `names` says what each is called in an error. Of a first one known to be sealed only what is near the
/// others is looked at.
pub(crate) fn arranged(
    inputs: &[&Mesh],
    sealed: bool,
    names: &dyn Fn(usize) -> String,
    progress: &Progress,
) -> Result<Arrangement, TradeError> {
    refuse_unfit(inputs, names)?;
    let all = if sealed {
        Arrangement::of_sealed(inputs[0], &inputs[1..], progress)
    } else {
        Arrangement::new(inputs, &[], progress)
    };
    all.map_err(|e| told(e, names)).and_then(|all| refuse_inside_out(inputs, names).map(|()| all))
}

/// Arranges solids, and sheets that cut them.
pub(super) fn arranged_with(
    inputs: &[&Mesh],
    sheets: &[&Mesh],
    names: &dyn Fn(usize) -> String,
    progress: &Progress,
) -> Result<Arrangement, TradeError> {
    refuse_unfit(inputs, names)?;
    let all = Arrangement::new(inputs, sheets, progress).map_err(|e| told(e, names))?;
    refuse_inside_out(inputs, names)?;
    Ok(all)
}

fn refuse_unfit(inputs: &[&Mesh], names: &dyn Fn(usize) -> String) -> Result<(), TradeError> {
    match inputs.iter().position(|m| m.triangles().is_empty()) {
        Some(n) => Err(TradeError::refused(format!("{} has no triangles", names(n)), vec![])),
        None => Ok(()),
    }
}

/// A closed input that winds round nothing once is inside out.
fn refuse_inside_out(inputs: &[&Mesh], names: &dyn Fn(usize) -> String) -> Result<(), TradeError> {
    match inputs.iter().position(|m| measure(m).volume < 0.0) {
        Some(n) => {
            let why = format!("{} is inside out; turn it outward first", names(n));
            Err(TradeError::refused(why, vec![inputs[n].points()[0]]))
        }
        None => Ok(()),
    }
}

pub(crate) fn told(e: ArrangeError, names: &dyn Fn(usize) -> String) -> TradeError {
    match e {
        ArrangeError::Open { input, at } => TradeError::refused(
            format!("{} is open, so nothing can be said to be inside it; seal it first", names(input)),
            vec![at],
        ),
        ArrangeError::Cancelled(c) => c.into(),
        ArrangeError::Mesh(m) => m.into(),
    }
}

/// The body of a rule. Faces of the first input keep their numbers, those of the others are new.
pub(crate) fn body(
    all: &Arrangement,
    inside: impl Fn(&[i16]) -> bool,
    progress: &Progress,
) -> Result<Mesh, TradeError> {
    Ok(whole_body(all, inside, progress)?.mesh)
}

/// As [`body`], for what is arranged again.
pub(crate) fn as_cut(
    all: &Arrangement,
    inside: impl Fn(&[i16]) -> bool,
    progress: &Progress,
) -> Result<Body, TradeError> {
    all.body_as_cut(inside, progress).map_err(|e| told(e, &|_| "the result".into()))
}

/// As [`body`], but where it would touch itself along an edge the least of the chambers there changes sides, none of more than
/// a share of the body.
pub(crate) fn body_without_pinches(
    all: &Arrangement,
    inside: impl Fn(&[i16]) -> bool,
    share: f64,
    progress: &Progress,
) -> Result<Mesh, TradeError> {
    let chambers = all.chambers(f64::INFINITY, &progress.stage(0.0, 0.4))?;
    let mut stays: Vec<bool> = (0..chambers.list().len()).map(|n| inside(chambers.winding(n))).collect();
    let volume: f64 = chambers.list().iter().zip(&stays).filter(|(_, s)| **s).map(|(c, _)| c.volume).sum();
    chambers.without_pinches(&mut stays, &vec![false; chambers.list().len()], volume * share);
    let chosen: Vec<usize> = (0..stays.len()).filter(|n| stays[*n]).collect();
    let made = chambers.body(&chosen, &progress.stage(0.4, 1.0)).map_err(|e| told(e, &|_| "the result".into()))?;
    Ok(made.mesh)
}

/// As [`body`], with the table of which input its faces came from.
pub(crate) fn whole_body(
    all: &Arrangement,
    inside: impl Fn(&[i16]) -> bool,
    progress: &Progress,
) -> Result<Body, TradeError> {
    all.body(inside, progress).map_err(|e| told(e, &|_| "the result".into()))
}

/// The faces of a body that inputs after the first cut; `by` has the part number of each of those.
pub(super) fn cut_faces(body: &Body, by: &[Option<u32>]) -> Vec<CutFaces> {
    let there: BTreeSet<u32> = body.mesh.face_of().iter().map(|f| f.0).collect();
    let ends = body.begin.iter().copied().skip(2).chain([u32::MAX]);
    let inputs = body.begin.iter().copied().skip(1).zip(ends).zip(by);
    let cut = inputs.map(|((first, end), by)| {
        let there = || there.range(first..end);
        CutFaces { by: *by, first, end: there().next_back().map_or(first, |last| last + 1), faces: there().count() }
    });
    cut.filter(|c| c.faces > 0).collect()
}

/// The volume of a body: `0.84 mm³`, `12.3 cm³`.
pub(crate) fn volume(mesh: &Mesh) -> String {
    volume_of(measure(mesh).volume)
}

/// Shells of less than this share of the body are what the folds leave of the triangles; more is a void or a body that was
/// meant.
const SMALL: f64 = 1e-4;

/// The mesh without its smallest shells, with how many faced outward and how many inward.
pub(crate) fn without_small(mesh: &Mesh) -> (Mesh, usize, usize) {
    let (shell_of, count) = shells::shells(&Topology::new(mesh.triangles(), mesh.points().len()));
    let mut members: Vec<Vec<u32>> = vec![Vec::new(); count];
    for (t, &s) in shell_of.iter().enumerate() {
        members[s as usize].push(t as u32);
    }
    let volumes: Vec<f64> = members.iter().map(|m| measure_triangles(mesh, m).volume).collect();
    let least = volumes.iter().fold(0.0f64, |most, v| most.max(v.abs())) * SMALL;
    let small = |outward: bool| volumes.iter().filter(|v| v.abs() < least && (**v > 0.0) == outward).count();
    let kept = mesh.retain_triangles(|t| volumes[shell_of[t] as usize].abs() >= least);
    (kept, small(true), small(false))
}

/// Where a body would touch itself along an edge, crevices of less than this share of it are filled, and splinters left out.
pub(crate) const CREVICE: f64 = 1e-3;

/// What is within shells, and how they lay to each other.
pub(crate) struct Within {
    /// What any of them winds round.
    pub body: Mesh,
    /// Whether they met.
    pub met: bool,
    /// Where, if they are of one piece.
    pub at: Option<Place>,
}

/// The solid of shells that each face outward: what any of them winds round.
pub(crate) fn outside_of(shells: Mesh, apart: bool, progress: &Progress) -> Result<Within, TradeError> {
    let all: Vec<u32> = (0..shells.triangles().len() as u32).collect();
    let crossing = match apart {
        true => vec![],
        false => crossing_any(&shells, &all, &progress.stage(0.0, 0.3))?,
    };
    let at = crossing_place(&shells, &crossing);
    if !apart && crossing.is_empty() {
        return Ok(Within { body: shells, met: false, at });
    }
    let all = arranged(&[&shells], false, &|_| "the body".into(), &progress.stage(0.3, 0.8))?;
    let made = body_without_pinches(&all, |w| w[0] > 0, CREVICE, &progress.stage(0.8, 1.0))?;
    if made.triangles().is_empty() {
        return Err(TradeError::refused("nothing of it is left: it would be thinner than can be told", vec![]));
    }
    Ok(Within { body: without_small(&made).0, met: true, at })
}

/// Where triangles cross: the place nearest to the middle of them all, with how far these reach about it.
fn crossing_place(mesh: &Mesh, pairs: &[(u32, u32)]) -> Option<Place> {
    let sides = |t: u32| {
        let [a, b, c] = mesh.corners(t as usize);
        [[a, b], [b, c], [c, a]]
    };
    let through = |a: u32, b: u32| {
        let met = sides(a).map(|[p, q]| hit(p, q, mesh.corners(b as usize)).map(|share| p.lerp(q, share)));
        met.into_iter().flatten()
    };
    let places: Vec<Point> = pairs.iter().flat_map(|(a, b)| through(*a, *b).chain(through(*b, *a))).collect();
    let middle = places.iter().sum::<Point>() / places.len().max(1) as f64;
    let nearest = places.iter().copied().min_by(|p, q| p.distance(middle).total_cmp(&q.distance(middle)))?;
    let radius = places.iter().map(|p| p.distance(nearest)).fold(0.0, f64::max);
    Some(Place { centre: nearest.to_array(), radius })
}
