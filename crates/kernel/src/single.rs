//! Solids with coordinates that single precision holds: rounded, and mended where rounding made them cross.
//!
//! Rounding a solid's points may make triangles flat, sheets meet or pass through each other. What is rounded is freed of triangles
//! lower than a few steps of single precision, and drawn apart where it touches itself; if it is no solid then, what crosses is
//! arranged exactly and rounded again, a little coarser each time, until it stays one (iterated snap rounding; after Devillers, Lazard and Lenhart 2018, and Valque and
//! Lazard 2021). Points move by the order of a step. Rounding again changes nothing.

use crate::arrange::{ArrangeError, Arrangement};
use crate::compare::Compared;
use crate::crossings::{crossing_pairs, triangle_bvh};
use crate::deviation::deviations;
use crate::measure::measure;
use crate::slender::without_thin;
use crate::topology::EdgeUse;
use crate::touching::{drawn_apart, without_leaves};
use crate::{Aabb, Cancelled, Mesh, MeshError, Point, Progress, Topology, shells};

/// A solid rounded.
#[derive(Clone, Debug, PartialEq)]
pub struct Rounded {
    /// The solid; each coordinate is one of single precision.
    pub mesh: Mesh,
    /// Whether more was needed than rounding each point, be it only that triangles lost a side.
    pub mended: bool,
    /// How far any place of it lies from the surface there was, at most.
    pub largest_move: f64,
    /// How far places of the surface there was lie from it: more than it moved where leaves thinner than a step are gone.
    pub leaves: f64,
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
    const ROUNDS: [f64; 10] = [0.0, 1.0, 2.0, 2.0, 2.0, 4.0, 4.0, 8.0, 8.0, 16.0];
    /// What crosses is arranged with what is near it, from this round on all of it.
    const ALL: usize = 8;
    let step = step_of(solid);
    let (mut made, mut at) = (solid.clone(), solid.points().first().copied().unwrap_or(Point::ZERO));
    for (n, steps) in ROUNDS.into_iter().enumerate() {
        let turn = progress.part(n, ROUNDS.len());
        turn.report(0.0, "rounding to single precision")?;
        made = rounded(&made)?;
        if steps > 0.0 {
            made = without_leaves(&without_thin(made, step * steps));
            // Where rounding let the surface touch itself along edges, it is drawn apart by as much.
            if let Some(apart) = drawn_apart(&made, step * steps)? {
                made = rounded(&apart)?;
            }
        }
        if made.triangles().is_empty() {
            break;
        }
        let Some(fault) = fault(&made, &turn.stage(0.0, 0.4))? else {
            return told(solid, made, n > 0, &turn);
        };
        at = fault.at;
        // Most of it may be mended by taking out what is flat, and what touches is drawn apart in the next round.
        if n > 0 && (n >= ALL || !fault.crossings.is_empty()) {
            let places = (n < ALL).then_some(fault.crossings);
            made = arranged(&made, places, step, &turn.stage(0.4, 1.0)).map_err(|e| match e {
                ArrangeError::Open { at, .. } => RoundFault::Torn(at),
                ArrangeError::Cancelled(c) => c.into(),
                ArrangeError::Mesh(m) => m.into(),
            })?;
        }
    }
    Err(RoundFault::Torn(at))
}

/// What a solid has become, and how far from where it was; it must enclose as much as before but for its skin.
fn told(solid: &Mesh, made: Mesh, mended: bool, progress: &Progress) -> Result<Rounded, RoundFault> {
    let mended = mended || made.triangles().len() < solid.triangles().len();
    // Triangles move by no more than their corners.
    let by_rounding = solid.points().iter().map(|p| p.distance(single(*p))).fold(0.0, f64::max);
    if !mended {
        return Ok(Rounded { mesh: made, mended, largest_move: by_rounding, leaves: by_rounding });
    }
    // Most triangles are as rounding each point leaves them.
    let plainly = rounded(solid)?;
    let (there, back) = deviations(&Compared::new(&plainly, &made, progress)?, &progress.stage(0.4, 1.0))?;
    let (was, is) = (measure(solid), measure(&made));
    let largest_move = by_rounding + there.largest;
    if (was.volume - is.volume).abs() > was.area * (largest_move + step_of(solid)) {
        return Err(RoundFault::Torn(back.at));
    }
    Ok(Rounded { mesh: made, mended, largest_move, leaves: by_rounding + back.largest })
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

/// Where a mesh is no solid.
struct Fault {
    at: Point,
    /// Where triangles cross.
    crossings: Vec<Aabb>,
}

/// Where a mesh is no solid; none if it is one.
fn fault(mesh: &Mesh, progress: &Progress) -> Result<Option<Fault>, Cancelled> {
    /// Height over longest side of a triangle without area, as an examination has it.
    const NO_HEIGHT: f64 = 1e-12;
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let odd = (0..topology.edge_count() as u32).find(|e| topology.edge_use(*e) != EdgeUse::Regular);
    let odd = odd.map(|e| mesh.points()[topology.ends(topology.halves(e)[0]).0 as usize]);
    let flat = || {
        (0..mesh.triangles().len()).map(|t| (t, mesh.corners(t))).find_map(|(t, [a, b, c])| {
            let longest = a.distance_squared(b).max(b.distance_squared(c)).max(c.distance_squared(a));
            (mesh.area_vector(t).length() <= NO_HEIGHT * longest).then_some(a)
        })
    };
    if let Some(at) = odd.or_else(flat) {
        return Ok(Some(Fault { at, crossings: vec![] }));
    }
    let pairs = crossing_pairs(mesh, &triangle_bvh(mesh), progress)?;
    let both = |(t, u): &(u32, u32)| {
        let [one, other] = [t, u].map(|t| Aabb::of(mesh.corners(*t as usize)));
        Aabb { min: one.min.max(other.min), max: one.max.min(other.max) }
    };
    let at = pairs.first().map(|(t, _)| mesh.corners(*t as usize)[0]);
    Ok(at.map(|at| Fault { at, crossings: pairs.iter().map(both).collect() }))
}

/// What the surface winds round, without flakes; where it is known in which places it crosses, only those are looked at.
fn arranged(mesh: &Mesh, places: Option<Vec<Aabb>>, step: f64, progress: &Progress) -> Result<Mesh, ArrangeError> {
    let all = Arrangement::as_it_lies(mesh, places, &progress.stage(0.0, 0.7))?;
    let body = all.body(|w| w[0] > 0, &progress.stage(0.7, 1.0))?.mesh;
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
            prop_assert!(fault(&got.mesh, &Progress::unwatched()).unwrap().is_none());
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
        assert_eq!(
            fit(&round).unwrap(),
            Rounded { mesh: round.clone(), mended: false, largest_move: 0.0, leaves: 0.0 }
        );
        let plate = block(Point::splat(1e5), Point::new(10.0, 10.0, 1e-4));
        let Err(RoundFault::Torn(at)) = fit(&plate) else { panic!("a tenth of a micrometre, a hundred metres off") };
        assert!((at - Point::splat(1e5)).abs().max_element() <= 10.1);
    }
}
