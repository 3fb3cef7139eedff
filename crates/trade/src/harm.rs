//! What a step lost, swallowed and invented, as figures with places.

use nimbet_kernel::compare::Compared;
use nimbet_kernel::harm::{Far, Harm, harm, harm_of, taken};
use nimbet_kernel::{Aabb, Cancelled, Mesh, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::examine::Place;
use crate::words::{Xyz, figure, millimetres, xyz};

/// What lies nearer than this share of the part's diagonal counts as there: a tenth of a millimetre on a part of 100 mm.
pub const DISTANCE_SHARE: f64 = 1e-3;

/// The share of the surface that came in that may be lost without being asked for.
pub const MAY_LOSE: f64 = 1e-3;

/// Places told one by one, the largest first.
const MOST_PLACES: usize = 20;

/// What a step lost, swallowed and invented.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct HarmFacts {
    /// What lies nearer than this counts as there, mm.
    pub distance: f64,
    /// Surface that came in and lies outside of the result; its share is of the area that came in.
    pub lost: FarFacts,
    /// Surface that came in and lies inside of the result; its share is of the area that came in.
    pub swallowed: FarFacts,
    /// Surface of the result that was not there before; its share is of the result.
    pub invented: FarFacts,
}

/// Surface that lies far from another.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct FarFacts {
    /// Its area, mm².
    pub area: f64,
    /// Its share, 0 to 1.
    pub share: f64,
    /// Its connected places, the largest first, at most twenty.
    pub places: Vec<FarSpot>,
}

/// A connected place of it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct FarSpot {
    /// The middle, mm.
    pub centre: Xyz,
    /// Half the extent, mm.
    pub radius: f64,
    /// Its area, mm².
    pub area: f64,
}

impl FarFacts {
    fn of(far: &Far, share: f64) -> Self {
        let spot =
            |p: &nimbet_kernel::harm::FarPlace| FarSpot { centre: xyz(p.centre), radius: p.radius, area: p.area };
        Self { area: far.area, share, places: far.places.iter().take(MOST_PLACES).map(spot).collect() }
    }

    /// `0.4 %, 12.3 mm²`
    pub fn told(&self) -> String {
        format!("{}, {} mm²", percent(self.share), figure(self.area))
    }

    /// Where the largest place is.
    pub fn at(&self) -> Option<Place> {
        self.places.first().map(|p| Place { centre: p.centre, radius: p.radius })
    }
}

/// A share as percent: `0.4 %`, `< 0.01 %`.
pub fn percent(share: f64) -> String {
    let percent = share * 100.0;
    if percent > 0.0 && percent < 0.01 { "< 0.01 %".into() } else { format!("{} %", figure(percent)) }
}

impl HarmFacts {
    /// The figures of what was measured.
    pub fn of(harm: &Harm) -> Self {
        Self {
            distance: harm.distance,
            lost: FarFacts::of(&harm.lost, harm.lost_share()),
            swallowed: FarFacts::of(&harm.swallowed, harm.swallowed_share()),
            invented: FarFacts::of(&harm.invented, harm.invented_share()),
        }
    }

    /// `lost 0.4 %, 12.3 mm², farther than 0.1 mm from what was made`; none where nothing is lost.
    pub fn loss(&self) -> Option<String> {
        (self.lost.area > 0.0).then(|| {
            format!(
                "lost {} of the surface that came in, farther than {} from what was made",
                self.lost.told(),
                millimetres(self.distance)
            )
        })
    }
}

/// The distance from which on surface counts as far, mm: by the extent of what came in.
pub fn far_distance(mesh: &Mesh) -> f64 {
    (Aabb::of(mesh.points().iter().copied()).diagonal() * DISTANCE_SHARE).max(f64::MIN_POSITIVE)
}

/// What became of some parts in others.
///
/// # Errors
/// [`Cancelled`].
pub fn harm_between(before: &[&Mesh], after: &[&Mesh], progress: &Progress) -> Result<Harm, Cancelled> {
    let (before, after) = (together(before), together(after));
    harm(&before, &after, far_distance(&before), progress)
}

/// As [`harm_between`] without what is invented.
///
/// # Errors
/// [`Cancelled`].
pub fn taken_between(before: &[&Mesh], after: &[&Mesh], progress: &Progress) -> Result<Harm, Cancelled> {
    let (before, after) = (together(before), together(after));
    taken(&before, &after, far_distance(&before), progress)
}

/// What became of a part, of surfaces compared before.
///
/// # Errors
/// [`Cancelled`].
pub fn harm_seen(surfaces: &Compared<'_>, progress: &Progress) -> Result<Harm, Cancelled> {
    harm_of(surfaces, far_distance(surfaces.before()), progress)
}

/// Meshes side by side.
fn together<'a>(meshes: &[&'a Mesh]) -> std::borrow::Cow<'a, Mesh> {
    if let [one] = meshes {
        return std::borrow::Cow::Borrowed(one);
    }
    let (mut points, mut triangles): (Vec<Point>, Vec<[u32; 3]>) = (vec![], vec![]);
    for m in meshes {
        let first = points.len() as u32;
        points.extend(m.points());
        triangles.extend(m.triangles().iter().map(|t| t.map(|c| c + first)));
    }
    std::borrow::Cow::Owned(Mesh::with_one_face(points, triangles).unwrap_or_default())
}
