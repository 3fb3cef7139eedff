//! Solids with coordinates that single precision holds: rounded, and mended where rounding made them cross.
//!
//! Rounding a solid's points may make triangles flat, sheets meet or pass through each other; what comes of it is settled
//! ([`crate::arrange::settle`]). Points move by the order of a step. Rounding again changes nothing.

use crate::arrange::ArrangeError;
use crate::arrange::settle::{Settled, Settling, placed, settled};
use crate::compare::Compared;
use crate::deviation::deviations;
use crate::measure::measure;
use crate::{Cancelled, Mesh, MeshError, Point, Progress};

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

impl From<ArrangeError> for RoundFault {
    fn from(e: ArrangeError) -> Self {
        match e {
            ArrangeError::Open { at, .. } => Self::Torn(at),
            ArrangeError::Cancelled(c) => c.into(),
            ArrangeError::Mesh(m) => m.into(),
        }
    }
}

/// What is taken out at each level, in steps. Few bodies need more than the first four; sheets a few steps thick that cross at
/// slants of a few steps do, and the last is still a few hundred-thousandths of the size.
const LEVELS: [f64; 10] = [0.0, 1.0, 2.0, 4.0, 8.0, 16.0, 32.0, 64.0, 128.0, 256.0];

/// Rounds a solid to single precision, in the unit of its numbers.
///
/// # Errors
/// [`RoundFault`].
pub fn fit_for_single(solid: &Mesh, progress: &Progress) -> Result<Rounded, RoundFault> {
    let how = Settling { step: step_of(solid), levels: &LEVELS, place: &single, what: "rounding to single precision" };
    match settled(solid.clone(), &how, &progress.stage(0.0, 0.7))? {
        Settled::Fit { mesh, mended } => told(solid, mesh, mended, &progress.stage(0.7, 1.0)),
        Settled::Torn(at) => Err(RoundFault::Torn(at)),
    }
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
    let plainly = placed(solid, &single)?;
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::arrange::Arrangement;
    use crate::arrange::settle::is_solid;
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
            prop_assert!(is_solid(&got.mesh, &Progress::unwatched()).unwrap());
            prop_assert!(got.largest_move <= 24.0 * step_of(&heap), "{} of {}", got.largest_move, step_of(&heap));
            let (was, is) = (measure(&heap), measure(&got.mesh));
            prop_assert!((was.volume - is.volume).abs() <= was.area * 2.0 * step_of(&heap));
            let again = fit(&got.mesh).unwrap();
            prop_assert!(!again.mended && again.mesh == got.mesh && again.largest_move == 0.0);
        }
    }

    /// Sheets on each other of a few times `thin`, each warped by as much: they cross at slants that small.
    fn warped_pile(sheets: &[[f64; 7]], thin: f64) -> Mesh {
        let corners = [(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)];
        let sheet = |[x, y, half, up @ ..]: &[f64; 7]| {
            block(Point::ZERO, Point::ONE)
                .map_points(|p| {
                    let n = corners.iter().position(|c| *c == (2.0 * p.x - 1.0, 2.0 * p.y - 1.0)).unwrap();
                    let (i, j) = corners[n];
                    Point::new(x + (0.6 + 0.3 * half) * i, y + (0.6 + 0.3 * half) * j, (up[n] + 0.3 * p.z) * thin)
                })
                .unwrap()
        };
        let sheets: Vec<Mesh> = sheets.iter().map(sheet).collect();
        let refs: Vec<&Mesh> = sheets.iter().collect();
        let all = Arrangement::new(&refs, &[], &Progress::unwatched()).unwrap();
        all.body(|w| w.iter().any(|w| *w > 0), &Progress::unwatched()).unwrap().mesh
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]

        /// Sheets down to five steps thick that cross each other at slants of a few steps.
        #[test]
        fn sheets_of_a_few_steps_that_cross_flat_are_told_apart(
            sheets in prop::collection::vec(prop::array::uniform7(-1.0f64..1.0), 20), thin in prop::sample::select(vec![1e-5, 1e-6]),
        ) {
            let pile = warped_pile(&sheets, thin);
            let got = fit(&pile);
            prop_assert!(got.is_ok(), "{:?}", got.err());
            let got = got.unwrap();
            prop_assert!(is_solid(&got.mesh, &Progress::unwatched()).unwrap());
            prop_assert!(got.largest_move <= 2.0 * LEVELS[9] * step_of(&pile), "{} of {}", got.largest_move, step_of(&pile));
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
