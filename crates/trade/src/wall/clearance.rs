//! How two parts stand to each other: how near they come, where they come too near, and where they overlap.

use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::measure::measure;
use nimbet_kernel::segments::nearest_on_triangle;
use nimbet_kernel::thickness::{Drawn, Thickness, clearance, divided_near};
use nimbet_kernel::winding::Winding;
use nimbet_kernel::{Aabb, Mesh, Point, Progress};
use rayon::prelude::*;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::grow::Grow;
use super::making::CornerStyle;
use super::thin::{MOST_AREAS, ThinArea, gathered};
use super::wall_map::{MOST_DIVIDED, NOT_THIN, drawn};
use crate::examine::{About, Finding, FindingKind, PartState, Place, Remedy, Severity};
use crate::shape::Difference;
use crate::solids::arranged;
use crate::words::{Xyz, figure, millimetres, volume_of, xyz};
use crate::{Operation, TradeError};

/// How two parts stand to each other. Lengths in mm.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct PairReport {
    /// The least distance between their surfaces; nought where they touch or cross; absent where one is empty.
    pub least: Option<f64>,
    /// Where it is on the one.
    pub from: Option<Xyz>,
    /// Where it is on the other.
    pub to: Option<Xyz>,
    /// What they have in common, mm³; absent where one of them is not sealed, so that it has no inside.
    pub shared: Option<f64>,
    /// Where they overlap, and where they stand nearer than asked.
    pub findings: Vec<Finding>,
}

/// Looks at how a part stands to another, of which `number` and `name` are told, and which should be `asked` mm away.
///
/// # Errors
/// [`TradeError::Cancelled`]; [`TradeError::Refused`] where what is asked is no length.
pub fn pair_report(
    (mesh, state): (&Mesh, PartState),
    (other, other_state): (&Mesh, PartState),
    (number, name): (u32, &str),
    asked: f64,
    progress: &Progress,
) -> Result<PairReport, TradeError> {
    if !(asked >= 0.0 && asked.is_finite()) {
        return Err(TradeError::refused("the clearance asked for must be 0 mm or more", vec![]));
    }
    let sealed = [state, other_state] == [PartState::Sealed; 2];
    let nearest = clearance(mesh, other, &progress.stage(0.0, 0.2))?;
    progress.report(0.2, "looking for what they have in common")?;
    let overlaps = if sealed { overlaps(mesh, other, &progress.stage(0.2, 0.6))? } else { vec![] };
    let shared = sealed.then(|| overlaps.iter().map(|o| o.volume).fold(0.0, |sum, v| sum + v));
    let mut findings: Vec<Finding> =
        overlaps.iter().take(MOST_AREAS).enumerate().map(|(n, o)| o.finding(n + 1, (number, name))).collect();
    let areas = close_areas(mesh, other, asked, &progress.stage(0.6, 1.0))?;
    // Where they cross the overlap says so.
    let told = areas.iter().filter(|a| overlaps.is_empty() || a.least > 0.0).take(MOST_AREAS);
    findings.extend(told.enumerate().map(|(n, a)| close(a, n + 1, asked, name, state == PartState::Sealed)));
    Ok(PairReport {
        least: nearest.map(|n| n.0),
        from: nearest.map(|n| xyz(n.1)),
        to: nearest.map(|n| xyz(n.2)),
        shared,
        findings,
    })
}

/// A piece that two parts have in common.
struct Overlap {
    volume: f64,
    bounds: Aabb,
}

impl Overlap {
    fn finding(&self, n: usize, (number, name): (u32, &str)) -> Finding {
        let size = self.bounds.size().to_array().map(figure).join(" × ");
        let away = Difference { with: vec![number], keep: true, swap: false };
        Finding {
            key: format!("overlap-V{n}"),
            kind: FindingKind::Overlap,
            severity: Severity::Warns,
            title: format!("Overlap V{n}"),
            size: format!("{} within {size} mm", volume_of(self.volume)),
            cause: format!("This part and {name} take the same place here."),
            if_left: "They cannot be put together; handed out together they cross.".into(),
            place: Place::of([self.bounds.min, self.bounds.max]),
            about: About::Nothing,
            remedies: vec![Remedy {
                label: format!("Take {name} away from this part"),
                operation: Operation::of(away),
            }],
        }
    }
}

/// What two solids have in common, the largest first, but for what is no thicker than their points are exact: what was cut by
/// a part touches it.
fn overlaps(mesh: &Mesh, other: &Mesh, progress: &Progress) -> Result<Vec<Overlap>, TradeError> {
    /// A body's volume over its surface, in steps of the precision, below which it is two surfaces that lie on each other: both
    /// may have been rounded, each to either side.
    const THIN: f64 = 2.0;
    let bounds = [mesh, other].map(|m| Aabb::of(m.points().iter().copied()));
    if !bounds[0].overlaps(&bounds[1]) {
        return Ok(vec![]);
    }
    let names = |n: usize| if n == 0 { "this part".to_owned() } else { "the other part".to_owned() };
    let all = arranged(&[mesh, other], true, &names, &progress.stage(0.0, 0.7))?;
    let chambers = all.chambers(0.0, &progress.stage(0.7, 0.9))?;
    let mut found = Vec::new();
    for (n, chamber) in chambers.list().iter().enumerate() {
        if chamber.volume > 0.0 && chambers.winding(n).iter().all(|w| *w > 0) {
            let body = chambers.body(&[n], progress).map_err(|_| nimbet_kernel::Cancelled)?;
            if chamber.volume > measure(&body.mesh).area * all.precision() * THIN {
                let bounds = Aabb::of(body.mesh.points().iter().copied());
                found.push(Overlap { volume: chamber.volume, bounds });
            }
        }
    }
    Ok(found)
}

/// Connected areas of a part that are nearer to another than asked, the nearest first.
fn close_areas(mesh: &Mesh, other: &Mesh, asked: f64, progress: &Progress) -> Result<Vec<ThinArea>, TradeError> {
    if asked == 0.0 {
        return Ok(vec![]);
    }
    /// So finely it is looked at, as a share of the part, where that is coarser than half the clearance.
    const FINEST: f64 = 0.003;
    let size = Aabb::of(mesh.points().iter().copied()).diagonal();
    let spacing = (asked * 0.5).max(size * FINEST);
    let most = MOST_DIVIDED.max(mesh.triangles().len() * 2);
    let (fine, near) = divided_near(mesh, other, asked, (spacing, most), progress)?;
    let found: Vec<Option<Thickness>> = near
        .iter()
        .enumerate()
        .map(|(t, near)| near.map(|(across, _, opposite)| Thickness { across, opposite, triangle: t as u32 }))
        .collect();
    let kinds: Vec<Option<FindingKind>> = found.iter().map(|f| f.map(|_| FindingKind::TooClose)).collect();
    let mut areas = gathered(&fine, &found, &kinds, asked);
    areas.sort_by(|a, b| a.least.total_cmp(&b.least));
    Ok(areas)
}

fn close(area: &ThinArea, n: usize, asked: f64, name: &str, sealed: bool) -> Finding {
    let touches = area.least == 0.0;
    let by = ((asked - area.least) * 100.0).ceil() / 100.0;
    let grow = Grow { by: -by, corners: CornerStyle::Sharp, ..Default::default() };
    let shrink = Remedy { label: format!("Shrink this part by {}", millimetres(by)), operation: Operation::of(grow) };
    Finding {
        key: format!("close-C{n}"),
        kind: FindingKind::TooClose,
        severity: Severity::Warns,
        title: format!("Close place C{n}"),
        size: format!(
            "{} instead of {}, on {} mm²",
            if touches { "touching".to_owned() } else { millimetres(area.least) },
            millimetres(asked),
            figure(area.area)
        ),
        cause: format!("This part and {name} come nearer to each other here than asked."),
        if_left: "They bind, or grow together when they are made in one go.".into(),
        place: area.place.clone(),
        about: About::Nothing,
        remedies: if sealed { vec![shrink] } else { vec![] },
    }
}

/// A part divided finely, with how far each point stands off another part, mm, for drawing: nought inside that, and a thousand
/// times the part where the other is empty.
///
/// # Errors
/// [`nimbet_kernel::Cancelled`].
pub fn clearance_drawing(
    mesh: &Mesh,
    other: &Mesh,
    progress: &Progress,
) -> Result<(Mesh, Vec<f64>), nimbet_kernel::Cancelled> {
    const CHUNK: usize = 512;
    let Drawn { mesh: shown, places, .. } = drawn(mesh);
    progress.check()?;
    let far = Aabb::of(mesh.points().iter().copied()).diagonal() * NOT_THIN;
    let (bvh, winding) = (triangle_bvh(other), Winding::new(other));
    let off = |p: Point| {
        if bvh.bounds().contains(p) && winding.at(p) > 0.5 {
            return 0.0;
        }
        let foot = |t: u32| nearest_on_triangle(p, other.corners(t as usize));
        let nearest = bvh.nearest(p, f64::INFINITY, |t| Some((foot(t) - p).length_squared()));
        nearest.map_or(far, |(_, distance)| distance)
    };
    let done = std::sync::atomic::AtomicUsize::new(0);
    let found: Result<Vec<Vec<f64>>, nimbet_kernel::Cancelled> = places
        .par_chunks(CHUNK)
        .map(|chunk| {
            let n = done.fetch_add(chunk.len(), std::sync::atomic::Ordering::Relaxed);
            progress.report(n as f64 / places.len() as f64, "measuring the clearance")?;
            Ok(chunk.iter().map(|(_, p)| off(*p)).collect())
        })
        .collect();
    Ok((shown, found?.concat()))
}
