//! What would do instead of a step that loses what could be kept: roundings too tight for a wall are taken off first, and come again
//! once it stands.

use std::collections::{BTreeMap, BTreeSet};

use nimbet_edges::graph::Graph;
use nimbet_edges::take_off;
use nimbet_kernel::segments::nearest_on_triangle;
use nimbet_kernel::surfaces::{Sample, Surface, best_fit, default_tolerance};
use nimbet_kernel::{Aabb, Bvh, Cancelled, FaceId, Mesh, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::examine::FacePick;
use crate::operation::Operation;
use crate::shape::{EdgesOf, Round, RoundedToo, TakeOff, new_runs, place};
use crate::tool::to_digits;
use crate::wall::{CornerStyle, Grow, Thicken};
use crate::words::{Xyz, count, millimetres, xyz};

/// Steps that do what one step was meant to, one after the other.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Instead {
    /// What they do, in a line.
    pub label: String,
    /// The steps.
    pub steps: Vec<Operation>,
}

/// A rounding that goes: where it is, its radius, and whether its middle lies behind the surface.
struct Tight {
    at: Point,
    radius: f64,
    outer: bool,
}

/// Where the side that keeps a rounding comes to lie in front of where it was, mm, and how much wider the rounding is there.
type Moves<'a> = dyn Fn(&Tight) -> (f64, f64) + 'a;

/// A radius, and places on the edges that had it.
type Rounded = (f64, Vec<Xyz>);

/// The steps that keep the roundings of a part which a wall of it would lose on one side, or which it would lose when it grows or
/// shrinks: they are taken off, the wall is made, and the edges that came of it are rounded again as they were; those of a sheet
/// round the middles they had. None where they cannot be taken off.
///
/// # Errors
/// [`Cancelled`].
pub fn instead(
    wall: &Operation,
    mesh: &Mesh,
    tight: &[FaceId],
    progress: &Progress,
) -> Result<Option<Instead>, Cancelled> {
    let graph = Graph::of(mesh, progress)?;
    let tolerance = default_tolerance(&Aabb::of(mesh.points().iter().copied()));
    let mut going: BTreeMap<FaceId, Tight> = BTreeMap::new();
    for face in tight.iter().filter(|face| graph.goes_on_in(**face) >= 2) {
        progress.check()?;
        let triangles: Vec<u32> =
            (0..mesh.face_of().len() as u32).filter(|t| mesh.face_of()[*t as usize] == *face).collect();
        let Some(surface) = best_fit(&Sample::of(mesh, &triangles), tolerance) else { continue };
        let radius = match surface {
            Surface::Cylinder { radius, .. } | Surface::Sphere { radius, .. } => radius,
            Surface::Torus { minor, .. } => minor,
            _ => continue,
        };
        let largest = triangles.iter().max_by(|a, b| {
            let area = |t: u32| mesh.area_vector(t as usize).length();
            area(**a).total_cmp(&area(**b))
        });
        let Some(largest) = largest else { continue };
        let at = mesh.corners(*largest as usize).iter().sum::<Point>() / 3.0;
        let outer = surface.normal(at).dot(mesh.area_vector(*largest as usize)) > 0.0;
        going.insert(*face, Tight { at, radius, outer });
    }
    let faces: BTreeSet<FaceId> = going.keys().copied().collect();
    if faces.is_empty() {
        return Ok(None);
    }
    let Ok(sharp) = take_off(mesh, &faces, progress) else { return progress.check().map(|()| None) };
    let (grow, thicken) = (wall.tool::<Grow>(), wall.tool::<Thicken>());
    let moves = |tight: &Tight| match (grow, thicken) {
        (Some(grow), _) => (grow.by, 0.0),
        (_, Some(wall)) if tight.outer => (wall.outward, wall.outward),
        (_, Some(wall)) => (-wall.inward, wall.inward),
        // The outside of a solid stays where it is.
        _ => (0.0, 0.0),
    };
    // Sharp corners, which are rounded then.
    let wall = match thicken {
        Some(wall) => Thicken { corners: CornerStyle::Sharp, ..wall.clone() }.into(),
        None => wall.clone(),
    };
    let done = grow.map_or("make the wall", |grow| if grow.by > 0.0 { "grow it" } else { "shrink it" });
    let again = rounded_again(mesh, (&sharp.mesh, &moves), &going, progress)?;
    let Some((first, also)) = again.split_first() else { return Ok(None) };
    let radii: Vec<String> = again.iter().map(|(radius, _)| millimetres(*radius)).collect();
    let label = format!(
        "Take {} off first, {done}, round again by {}",
        count(faces.len(), "rounding", "roundings"),
        radii.join(" and ")
    );
    let chord = (first.0 * 0.02).min(0.02);
    let round = Round {
        on: EdgesOf::Edges(first.1.clone()),
        whole: false,
        radius: first.0,
        far: None,
        also: also
            .iter()
            .map(|(radius, at)| RoundedToo { on: EdgesOf::Edges(at.clone()), radius: *radius, along: vec![] })
            .collect(),
        leave: false,
        chord,
    };
    let off = TakeOff { faces: going.values().map(|t| FacePick::At(xyz(t.at))).collect(), again: None, chord };
    Ok(Some(Instead { label, steps: vec![off.into(), wall, round.into()] }))
}

/// For each radius the places of the edges that had it, the commonest first, where they come to lie.
fn rounded_again(
    mesh: &Mesh,
    (sharp, moves): (&Mesh, &Moves<'_>),
    going: &BTreeMap<FaceId, Tight>,
    progress: &Progress,
) -> Result<Vec<Rounded>, Cancelled> {
    let graph = Graph::of(sharp, progress)?;
    let own: Vec<u32> =
        (0..mesh.face_of().len() as u32).filter(|t| going.contains_key(&mesh.face_of()[*t as usize])).collect();
    let bvh = Bvh::new(own.iter().map(|t| Aabb::of(mesh.corners(*t as usize))).collect());
    /// Radii that differ by no more than this share are one, measured on different facets.
    const SAME: f64 = 0.01;
    let mut radii: Vec<Rounded> = Vec::new();
    for run in new_runs(&graph, mesh) {
        let (at, edge) = place(&graph, run, 0.5);
        let off = |n: u32| Some(nearest_on_triangle(at, mesh.corners(own[n as usize] as usize)).distance_squared(at));
        let Some((n, _)) = bvh.nearest(at, f64::INFINITY, off) else { continue };
        let tight = &going[&mesh.face_of()[own[n as usize] as usize]];
        let (by, wider) = moves(tight);
        // As it was written, not as it was measured.
        let radius = to_digits(tight.radius, 6) + wider;
        let [a, b] = graph.beside((edge, true)).map(|face| graph.faces.probe(face, at).normal);
        let to = at + (a + b) * (by / (1.0 + a.dot(b)));
        match radii.iter_mut().find(|(r, _)| (*r / radius - 1.0).abs() < SAME) {
            Some((_, places)) => places.push(xyz(to)),
            None => radii.push((radius, vec![xyz(to)])),
        }
    }
    radii.sort_by_key(|(_, places)| std::cmp::Reverse(places.len()));
    Ok(radii)
}
