//! Lines that lie on edges of a part, left as the faces beside them go on.

use nimbet_edges::{Beyond, beyond};
use nimbet_kernel::{Mesh, Point, Progress};

use crate::TradeError;

/// Faces whose normals differ by less than this, as a cosine, are one smooth face at a point.
const SMOOTH: f64 = 0.97;

/// At each point of a line how the faces of a part go on beyond it; `toward` is where they are wanted to go. Where two meet
/// in a corner it is that in which both go on.
///
/// # Errors
/// [`TradeError`] where the line does not lie within a distance of an edge of the part, mm, with the place.
pub(super) fn going_on(
    part: &Mesh,
    (points, closed): (&[Point], bool),
    toward: impl Fn(usize) -> Point,
    within: f64,
    progress: &Progress,
) -> Result<Vec<Beyond>, TradeError> {
    let n = points.len();
    let sides = if closed { n } else { n - 1 };
    // Middles of sides lie beside one edge, corners beside several.
    let middle = |k: usize| points[k].midpoint(points[(k + 1) % n]);
    let places: Vec<(Point, Point)> = (0..sides).map(|k| (middle(k), toward(k) - middle(k))).collect();
    let found = beyond(part, &places, within, progress)?;
    let lost = found.iter().position(Option::is_none);
    if let Some(k) = lost {
        let why =
            "here it lies on no edge of the part at which a face goes on that way; carry the edge down from the part";
        return Err(TradeError::refused(why, vec![places[k].0]));
    }
    let found: Vec<Beyond> = found.into_iter().flatten().collect();
    let at = |k: usize| -> Option<Beyond> {
        let before = if k > 0 { Some(k - 1) } else { closed.then(|| sides - 1) };
        match (before.map(|b| found[b]), found.get(k)) {
            (Some(a), Some(b)) => Some(both(a, *b)),
            (one, other) => one.or(other.copied()),
        }
    };
    Ok((0..n).filter_map(at).collect())
}

/// How two faces go on that meet at a point.
fn both(a: Beyond, b: Beyond) -> Beyond {
    let mean = a.way + b.way;
    let normal = (a.normal + b.normal).normalize_or(a.normal);
    if a.normal.dot(b.normal) > SMOOTH {
        return Beyond { way: (mean - normal * mean.dot(normal)).normalize_or(a.way), normal };
    }
    let along = a.normal.cross(b.normal).normalize_or(a.way);
    Beyond { way: if along.dot(mean) < 0.0 { -along } else { along }, normal }
}
