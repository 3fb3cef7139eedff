//! How thick a part is: the least wall with its place, how the walls are spread, and where they are thin.

use nimbet_kernel::thickness::{Drawn, Side, Way, divide, middles};
use nimbet_kernel::{Aabb, Cancelled, Mesh, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::shelf::{about, measured};
use crate::examine::{Examination, PartState};
use crate::words::{Xyz, xyz};

/// A share of the surface by its wall.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct WallBar {
    /// From this wall, mm.
    pub from: f64,
    /// To this, mm.
    pub to: f64,
    /// The area with such a wall, mm².
    pub area: f64,
}

/// The walls of a part. Lengths in mm.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct WallReport {
    /// The least wall; absent where nothing lies opposite anything.
    pub least: Option<f64>,
    /// Where.
    pub at: Option<Xyz>,
    /// The wall that half of the area is thinner than.
    pub median: Option<f64>,
    /// How the walls are spread over the area, in even steps.
    pub spread: Vec<WallBar>,
}

const BARS: usize = 24;
/// Triangles larger than this share of the part are looked at in several places.
pub(super) const FINE: f64 = 0.02;
/// What is thicker than this share of the part is no wall: it is passed over, unless all is.
const THICK: f64 = 0.2;
/// The most triangles that are looked at after dividing large ones.
pub(super) const MOST_DIVIDED: usize = 200_000;

/// Measures the walls of a solid, or outward its gaps and slots, where they are no thicker than a fifth of the part.
///
/// # Errors
/// [`Cancelled`].
pub fn wall_report(mesh: &Mesh, (side, way): (Side, Way), progress: &Progress) -> Result<WallReport, Cancelled> {
    let size = about(Aabb::of(mesh.points().iter().copied()).diagonal());
    let fine = divide(mesh, size * FINE, MOST_DIVIDED.max(mesh.triangles().len()));
    let places = middles(&fine);
    let mut held = measured(fine, places, (side, way), size * THICK, &progress.stage(0.0, 0.7))?;
    if held.found().iter().all(Option::is_none) {
        let (fine, places) = (held.mesh().clone(), held.places().to_vec());
        held = measured(fine, places, (side, Way::Ray), f64::INFINITY, &progress.stage(0.7, 0.9))?;
    }
    let (fine, places, found) = (held.mesh(), held.places(), held.found());
    let area = |t: usize| fine.area_vector(t).length() * 0.5;
    let mut walls: Vec<(f64, f64, usize)> =
        found.iter().enumerate().filter_map(|(t, f)| Some((f.as_ref()?.across, area(t), t))).collect();
    walls.sort_by(|a, b| a.0.total_cmp(&b.0));
    let all: f64 = walls.iter().map(|w| w.1).sum();
    let least = walls.first();
    let mut under = 0.0;
    let median = walls.iter().find(|w| {
        under += w.1;
        under * 2.0 >= all
    });
    Ok(WallReport {
        least: least.map(|w| w.0),
        at: least.map(|w| xyz(places[w.2].1)),
        median: median.map(|w| w.0),
        spread: spread(&walls, all),
    })
}

/// The examination with the thinnest wall among its figures, where the part is sealed and small enough that this costs little
/// beside the examination.
///
/// # Errors
/// [`Cancelled`].
pub fn with_least_wall(mut seen: Examination, mesh: &Mesh, progress: &Progress) -> Result<Examination, Cancelled> {
    /// Of larger parts the wall is measured when it is asked for.
    const MOST: usize = 150_000;
    if seen.figures.state == PartState::Sealed && mesh.triangles().len() <= MOST {
        seen.figures.least_wall = wall_report(mesh, (Side::Inside, Way::Ball), progress)?.least;
    }
    Ok(seen)
}

/// Even steps up to what nearly all of the area is below.
fn spread(walls: &[(f64, f64, usize)], all: f64) -> Vec<WallBar> {
    const NEARLY_ALL: f64 = 0.98;
    let mut under = 0.0;
    let most = walls.iter().find(|w| {
        under += w.1;
        under >= all * NEARLY_ALL
    });
    let Some(most) = most.map(|w| w.0).filter(|m| *m > 0.0) else { return vec![] };
    let step = most / BARS as f64 * (1.0 + 1e-9);
    let mut bars: Vec<WallBar> =
        (0..BARS).map(|n| WallBar { from: n as f64 * step, to: (n + 1) as f64 * step, area: 0.0 }).collect();
    for (across, area, _) in walls {
        if let Some(bar) = bars.get_mut((across / step) as usize) {
            bar.area += area;
        }
    }
    bars
}

/// A solid divided finely, with its thickness at each point, mm, for drawing; where nothing lies opposite within a fifth of the
/// part that is a thousand times the part.
///
/// # Errors
/// [`Cancelled`].
pub fn wall_drawing(mesh: &Mesh, how: (Side, Way), progress: &Progress) -> Result<(Mesh, Vec<f64>), Cancelled> {
    let size = Aabb::of(mesh.points().iter().copied()).diagonal();
    let Drawn { mesh: drawn, fine, places } = drawn(mesh);
    progress.check()?;
    let held = measured(fine, places, how, about(size) * THICK, progress)?;
    let across = held.found().iter().map(|f| f.map_or(size * NOT_THIN, |f| f.across)).collect();
    Ok((drawn, across))
}

/// What is drawn where there is nothing opposite: so many times the part.
pub(super) const NOT_THIN: f64 = 1000.0;

/// A part for drawing: as fine as can be seen on a screen, and not more than a browser draws.
pub(super) fn drawn(mesh: &Mesh) -> Drawn {
    const SPACING: f64 = 0.015;
    const MOST: usize = 400_000;
    let size = about(Aabb::of(mesh.points().iter().copied()).diagonal());
    Drawn::new(mesh, size * SPACING, MOST.max(mesh.triangles().len()))
}
