//! Lines in space of a file as a part: a profile where they lie in one plane, else a wire.

use nimbet_kernel::{Cancelled, FaceId, Mesh, Progress};
use nimbet_profile::shapes_of;
use nimbet_profile::space::{Strand, Strands, drawn_in, plane_of};

use super::profile::DrawProfile;
use crate::TradeError;
use crate::tool::{Given, Tool};
use crate::wire::{in_chains, kept, reach};

/// Lines no farther from a plane lie in it, mm …
const FLAT: f64 = 1e-6;
/// … within these shares of what they reach.
const FLAT_SHARES: (f64, f64) = (1e-9, 1e-4);

/// Lines in space as a part, mm: a profile where they lie in one plane, else a wire.
///
/// # Errors
/// Where they are none, and [`Cancelled`].
pub fn part_of_lines(called: &str, strands: &[Strand], progress: &Progress) -> Result<Mesh, TradeError> {
    if strands.is_empty() || !strands.iter().all(Strand::is_finite) {
        return Err(TradeError::refused("it holds no lines", vec![]));
    }
    let chains = in_chains(strands);
    let size = reach(strands.iter()).size().length();
    let flat = FLAT.min(size * FLAT_SHARES.1).max(size * FLAT_SHARES.0);
    if let Some(frame) = plane_of(strands, flat) {
        let shapes = shapes_of(&drawn_in(&frame, &chains));
        let step = DrawProfile::on(&frame, called, shapes);
        match step.apply(&Given::part(&Mesh::default(), &progress.stage(0.0, 0.5))) {
            Ok(made) => return made.more.into_iter().next().map(|m| m.mesh).ok_or(Cancelled.into()),
            Err(TradeError::Cancelled(c)) => return Err(c.into()),
            // More lines than can be drawn with.
            Err(_) => {}
        }
    }
    let sheet = shown(&chains, size, &progress.stage(0.5, 1.0))?;
    kept(sheet, chains.into_iter().flat_map(|c| c.strands).collect())
}

/// The sheet that shows chains: a narrow band of three sides along each stretch, so that it is seen from everywhere.
fn shown(chains: &[Strands], size: f64, progress: &Progress) -> Result<Mesh, TradeError> {
    /// The chord, and how far the band stands off, as shares of the extent.
    const FINE: f64 = 5e-4;
    const OFF: f64 = 1.5e-3;
    let (mut points, mut triangles, mut faces) = (Vec::new(), Vec::new(), Vec::new());
    for (n, chain) in chains.iter().enumerate() {
        progress.check()?;
        let path = chain.path();
        let mut along = path.points(size * FINE).map_err(|e| TradeError::refused(e.why, e.places))?;
        if path.closed {
            along.push(along[0]);
        }
        for pair in along.windows(2) {
            let Some(way) = (pair[1] - pair[0]).try_normalize() else { continue };
            let side = way.any_orthonormal_vector();
            let other = way.cross(side);
            let first = points.len() as u32;
            for end in pair {
                points.extend([0.0, 1.0, 2.0].map(|k| {
                    let (sin, cos) = (k * std::f64::consts::TAU / 3.0).sin_cos();
                    *end + (side * cos + other * sin) * (size * OFF)
                }));
            }
            for [a, b] in [[0, 1], [1, 2], [2, 0]] {
                triangles.extend([[a, b, b + 3], [a, b + 3, a + 3]].map(|t| t.map(|c| c + first)));
                faces.extend([FaceId(n as u32); 2]);
            }
        }
    }
    Ok(Mesh::new(points, triangles, faces)?)
}
