//! Solids with coordinates that single precision holds: rounded, and mended where rounding made them cross.
//!
//! Rounding a solid's points may make triangles flat, sheets meet or pass through each other. What is rounded is freed of triangles
//! lower than a few steps of single precision; if it is no solid then, it is arranged exactly and rounded again, a little
//! coarser each time, until it stays one (iterated snap rounding; after Devillers, Lazard and Lenhart 2018, and Valque and
//! Lazard 2021). Points move by the order of a step. Rounding again changes nothing.

use crate::arrange::{ArrangeError, Arrangement};
use crate::compare::Compared;
use crate::crossings::{crossing_pairs, triangle_bvh};
use crate::deviation::deviations;
use crate::measure::measure;
use crate::slender::without_thin;
use crate::topology::EdgeUse;
use crate::{Cancelled, Mesh, MeshError, Point, Progress, Topology, shells};

/// A solid rounded.
#[derive(Clone, Debug, PartialEq)]
pub struct Rounded {
    /// The solid; each coordinate is one of single precision.
    pub mesh: Mesh,
    /// Whether more was needed than rounding each point, be it only that triangles lost a side.
    pub mended: bool,
    /// How far any place of either surface lies from the other at most.
    pub largest_move: f64,
}

/// Why a solid cannot be rounded.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum RoundFault {
    /// It is finer than single precision can tell there.
    #[error("single precision cannot tell its sides apart there")]
    Torn(Point),
    /// Somebody asked to stop.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
    /// A fault of the program.
    #[error(transparent)]
    Mesh(#[from] MeshError),
}

/// Rounds a solid to single precision, in the unit of its numbers.
///
/// # Errors
/// [`RoundFault`].
pub fn fit_for_single(solid: &Mesh, progress: &Progress) -> Result<Rounded, RoundFault> {
    /// Triangles lower than so many steps are taken out, in each round.
    const ROUNDS: [f64; 10] = [0.0, 1.0, 2.0, 2.0, 4.0, 4.0, 8.0, 8.0, 16.0, 16.0];
    let step = step_of(solid);
    let (mut made, mut at) = (solid.clone(), solid.points().first().copied().unwrap_or(Point::ZERO));
    for (n, steps) in ROUNDS.into_iter().enumerate() {
        let turn = progress.part(n, ROUNDS.len());
        turn.report(0.0, "rounding to single precision")?;
        made = rounded(&made)?;
        if steps > 0.0 {
            made = without_thin(made, step * steps);
        }
        match fault(&made, &turn.stage(0.0, 0.4))? {
            None => {
                let mended = n > 0 || made.triangles().len() < solid.triangles().len();
                let largest_move = if mended {
                    let (there, back) = deviations(&Compared::new(solid, &made, &turn)?, &turn.stage(0.4, 1.0))?;
                    there.largest.max(back.largest)
                } else {
                    // Triangles move by no more than their corners.
                    solid.points().iter().map(|p| p.distance(single(*p))).fold(0.0, f64::max)
                };
                return Ok(Rounded { mesh: made, mended, largest_move });
            }
            Some(place) => at = place,
        }
        if n == 0 {
            // Most of it may be mended by taking out what is flat.
            continue;
        }
        made = match arranged(&made, step, &turn.stage(0.4, 1.0)) {
            Ok(arranged) => arranged,
            Err(ArrangeError::Open { at, .. }) => return Err(RoundFault::Torn(at)),
            Err(ArrangeError::Cancelled(c)) => return Err(c.into()),
            Err(ArrangeError::Mesh(m)) => return Err(m.into()),
        };
        if made.triangles().is_empty() {
            break;
        }
    }
    Err(RoundFault::Torn(at))
}

/// The step of single precision at a mesh's largest coordinate.
fn step_of(mesh: &Mesh) -> f64 {
    let largest = mesh.points().iter().map(|p| p.abs().max_element()).fold(0.0, f64::max) as f32;
    f64::from(largest.next_up()) - f64::from(largest)
}

fn single(p: Point) -> Point {
    Point::from_array(p.to_array().map(|x| f64::from(x as f32)))
}

/// Each coordinate rounded; points that fall on one place are one, and triangles that lose a side are gone.
fn rounded(mesh: &Mesh) -> Result<Mesh, MeshError> {
    let points: Vec<Point> = mesh.points().iter().map(|p| single(*p)).collect();
    let welded = crate::weld::weld_mesh(&points, mesh.triangles(), mesh.face_of().to_vec())?;
    let whole = |t: usize| {
        let [a, b, c] = welded.triangles()[t];
        a != b && b != c && c != a
    };
    Ok(welded.retain_triangles(whole))
}

/// Where a mesh is no solid; none if it is one.
fn fault(mesh: &Mesh, progress: &Progress) -> Result<Option<Point>, Cancelled> {
    /// Height over longest side of a triangle without area, as an examination has it.
    const NO_HEIGHT: f64 = 1e-12;
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let place = |p: u32| mesh.points()[p as usize];
    for edge in 0..topology.edge_count() as u32 {
        if topology.edge_use(edge) != EdgeUse::Regular {
            return Ok(Some(place(topology.ends(topology.halves(edge)[0]).0)));
        }
    }
    let flat = (0..mesh.triangles().len()).find(|&t| {
        let [a, b, c] = mesh.corners(t);
        let longest = a.distance_squared(b).max(b.distance_squared(c)).max(c.distance_squared(a));
        mesh.area_vector(t).length() <= NO_HEIGHT * longest
    });
    if let Some(t) = flat {
        return Ok(Some(mesh.corners(t)[0]));
    }
    let crossings = crossing_pairs(mesh, &triangle_bvh(mesh), progress)?;
    Ok(crossings.first().map(|(t, _)| mesh.corners(*t as usize)[0]))
}

/// What the surface winds round, without flakes; where it would touch itself along an edge, crumbs change sides.
fn arranged(mesh: &Mesh, step: f64, progress: &Progress) -> Result<Mesh, ArrangeError> {
    /// Crumbs have at most this share of the volume.
    const CRUMB: f64 = 1e-6;
    let all = Arrangement::as_it_lies(mesh, &progress.stage(0.0, 0.6))?;
    let chambers = all.chambers(f64::INFINITY, &progress.stage(0.6, 0.8))?;
    let count = chambers.list().len();
    let mut inside: Vec<bool> = (0..count).map(|n| chambers.winding(n)[0] > 0).collect();
    let volume: f64 = (0..count).filter(|n| inside[*n]).map(|n| chambers.list()[n].volume).sum();
    chambers.without_pinches(&mut inside, &vec![false; count], volume * CRUMB);
    let chosen: Vec<usize> = (0..count).filter(|n| inside[*n]).collect();
    let body = chambers.body(&chosen, &progress.stage(0.8, 1.0))?.mesh;
    Ok(without_flakes(&body, step))
}

/// Without shells that are nowhere thicker than about a step.
fn without_flakes(mesh: &Mesh, step: f64) -> Mesh {
    let (shell_of, count) = shells::shells(&Topology::new(mesh.triangles(), mesh.points().len()));
    let pieces = mesh.pieces(&shell_of, count);
    let stays: Vec<bool> = pieces
        .iter()
        .map(|piece| {
            let held = measure(piece);
            held.volume.abs() > held.area * step
        })
        .collect();
    mesh.retain_triangles(|t| stays[shell_of[t] as usize])
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes::{ball, block};
    use glam::{DQuat, EulerRot};
    use proptest::prelude::*;

    fn fit(mesh: &Mesh) -> Result<Rounded, RoundFault> {
        fit_for_single(mesh, &Progress::unwatched())
    }

    /// Twenty blocks, each turned and a little nearer to the last than the one before, united: steps and slivers of any size.
    fn turned_heap(turn: f64, off: f64, scale: f64, away: f64) -> Mesh {
        let pose = |n: usize, m: Mesh| {
            let q = DQuat::from_euler(EulerRot::XYZ, turn, turn * 0.7 + n as f64 * off, 0.3);
            let by = Point::new(n as f64 * 0.9, off * n as f64, 0.0);
            m.map_points(|p| (q * p + by) * scale + Point::new(1.0, -0.5, 0.7) * away).unwrap()
        };
        let blocks: Vec<Mesh> = (0..20).map(|n| pose(n, block(Point::ZERO, Point::new(2.0, 1.5, 1.0)))).collect();
        let refs: Vec<&Mesh> = blocks.iter().collect();
        let all = Arrangement::new(&refs, &[], &Progress::unwatched()).unwrap();
        all.body(|w| w.iter().any(|w| *w > 0), &Progress::unwatched()).unwrap().mesh
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(48))]

        /// Heaps at any turn, scale and distance from the origin: a solid of single coordinates, moved by a few steps at most,
        /// and rounding it again changes nothing.
        #[test]
        fn a_rounded_solid_is_one_and_moves_by_steps_only(
            turn in -3.0f64..3.0, off in prop::sample::select(vec![0.0, 1e-7, 1e-5, 1e-3, 0.1]),
            scale in prop::sample::select(vec![1e-3, 1.0, 300.0]), far in prop::sample::select(vec![0.0, 3.0, 1e3]),
        ) {
            let heap = turned_heap(turn, off, scale, far * scale);
            let got = fit(&heap);
            prop_assert!(got.is_ok(), "{:?}", got.err());
            let got = got.unwrap();
            let single = |x: f64| f64::from(x as f32) == x;
            prop_assert!(got.mesh.points().iter().all(|p| p.to_array().into_iter().all(single)));
            prop_assert_eq!(fault(&got.mesh, &Progress::unwatched()).unwrap(), None);
            prop_assert!(got.largest_move <= 24.0 * step_of(&heap), "{} of {}", got.largest_move, step_of(&heap));
            let (was, is) = (measure(&heap), measure(&got.mesh));
            prop_assert!((was.volume - is.volume).abs() <= was.area * 2.0 * step_of(&heap));
            let again = fit(&got.mesh).unwrap();
            prop_assert!(!again.mended && again.mesh == got.mesh && again.largest_move == 0.0);
        }
    }

    #[test]
    fn what_single_precision_holds_stays_and_what_it_cannot_tell_apart_is_named() {
        let round = ball(10.0, 20).map_points(|p| p.as_vec3().as_dvec3()).unwrap();
        assert_eq!(fit(&round).unwrap(), Rounded { mesh: round.clone(), mended: false, largest_move: 0.0 });
        let plate = block(Point::splat(1e5), Point::new(10.0, 10.0, 1e-4));
        let Err(RoundFault::Torn(at)) = fit(&plate) else { panic!("a tenth of a micrometre, a hundred metres off") };
        assert!((at - Point::splat(1e5)).abs().max_element() <= 10.1);
    }
}
