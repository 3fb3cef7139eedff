//! `seal.find_inside`: whatever comes in becomes the border between inside and outside.
//!
//! Everything is arranged exactly, openings covered, and each chamber of space told to be inside or outside
//! ([`nimbet_kernel::interior`]). What encloses nothing (fins, stray sheets) vanishes, or gets a wall.

use nimbet_kernel::arrange::Arrangement;
use nimbet_kernel::crossings::{crossing_pairs_up_to, triangle_bvh};
use nimbet_kernel::interior::{interior, thickened};
use nimbet_kernel::measure::measure;
use nimbet_kernel::{Aabb, Mesh, Progress, Topology, shells};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::brace_radius;
use crate::harm::harm_between;
use crate::shape::{body, body_without_pinches, held_together, told, told_held, volume};
use crate::words::{count, figure, millimetres};
use crate::{Outcome, TradeError};

/// Parameters of `seal.find_inside`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FindInside {
    /// The thickness of the wall that sheets get that enclose nothing, mm; they vanish when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wall: Option<f64>,
    /// Whether what is lost is kept as a part of its own.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub keep_lost: bool,
}

impl FindInside {
    pub(crate) fn title(&self) -> String {
        match self.wall {
            None => "Find the inside".into(),
            Some(wall) => format!("Find the inside, sheets {} thick", millimetres(wall)),
        }
    }

    pub(crate) fn apply(&self, mesh: &Mesh, progress: &Progress) -> Result<Outcome, TradeError> {
        self.apply_unless(mesh, &|_| Ok(None), progress)
    }

    /// As [`FindInside::apply`], but refused where there is something against the body found, before it is held together.
    pub(super) fn apply_unless(
        &self,
        mesh: &Mesh,
        against: &dyn Fn(&Mesh) -> Result<Option<String>, TradeError>,
        progress: &Progress,
    ) -> Result<Outcome, TradeError> {
        if self.wall.is_some_and(|w| !(w > 0.0 && w.is_finite())) {
            return Err(TradeError::refused("the wall of sheets needs a thickness above 0 mm", vec![]));
        }
        if mesh.triangles().is_empty() {
            return Err(TradeError::nothing("the part has no triangles"));
        }
        /// Walls are at least and at most such a share of the part's diagonal thick.
        const WALLS: std::ops::RangeInclusive<f64> = 1e-5..=0.5;
        let diagonal = Aabb::of(mesh.points().iter().copied()).diagonal();
        if self.wall.is_some_and(|w| !WALLS.contains(&(w / diagonal))) {
            let (least, most) = (millimetres(diagonal * WALLS.start()), millimetres(diagonal * WALLS.end()));
            return Err(TradeError::refused(
                format!("sheets of this part can get a wall of {least} to {most}"),
                vec![],
            ));
        }
        let found = interior(mesh, &progress.stage(0.0, 0.7)).map_err(|e| told(e, &|_| "the part".into()))?;
        let mut made = found.body.mesh;
        let mut done = Vec::new();
        let dangling = measure(&found.dangling).area;
        let mut walled = 0;
        if let (Some(thick), false) = (self.wall, found.dangling.triangles().is_empty()) {
            let (with, sheets) = with_walls(&made, &found.dangling, thick, &progress.stage(0.7, 0.85))?;
            (made, walled) = (with, sheets);
        }
        if made.triangles().is_empty() {
            return Err(TradeError::refused(
                "the surface encloses nothing: it is a sheet. Give it a thickness, or a base",
                mesh.points().first().copied().into_iter().collect(),
            ));
        }
        if let Some(why) = against(&made)? {
            return Err(TradeError::refused(why, vec![]));
        }
        let shells = shells::shells(&Topology::new(made.triangles(), made.points().len())).1;
        done.push(format!("found the inside: {} in {}", volume(&made), count(shells, "shell", "shells")));
        if found.covers > 0 {
            done.push(format!(
                "tried covers over {}",
                count(found.covers, "loop of open edges", "loops of open edges")
            ));
        }
        if walled > 0 {
            done.push(format!(
                "gave {} a wall of {}",
                count(walled, "sheet", "sheets"),
                millimetres(self.wall.unwrap_or(0.0))
            ));
        }
        let mut left = vec![];
        if walled == 0 && dangling > 0.0 {
            left.push(format!("{} mm² of surface enclose nothing and are gone", figure(dangling)));
        }
        let made = uncrossed(made, &progress.stage(0.85, 0.9))?;
        let radius = brace_radius(Aabb::of(made.points().iter().copied()).diagonal());
        let (made, edges, points) = held_together(&made, radius, false, &progress.stage(0.9, 0.95))?;
        if edges > 0 {
            done.push(told_held(edges, points, radius));
        }
        let mut outcome = Outcome { done, left, ..Outcome::of(made, String::new()) };
        if self.keep_lost {
            outcome.more.extend(lost_part(mesh, &outcome.mesh, &progress.stage(0.95, 1.0))?);
        }
        Ok(outcome)
    }
}

/// A body whose points were rounded to places, without what that made cross.
fn uncrossed(mut made: Mesh, progress: &Progress) -> Result<Mesh, TradeError> {
    /// Rounding may make something cross anew, but ever less.
    const ROUNDS: usize = 4;
    for n in 0..ROUNDS {
        let turn = progress.part(n, ROUNDS);
        if crossing_pairs_up_to(&made, &triangle_bvh(&made), 0, &turn)?.is_some_and(|c| c.is_empty()) {
            break;
        }
        let all = Arrangement::new(&[&made], &[], &turn).map_err(|e| told(e, &|_| "the part".into()))?;
        made = body(&all, |w| w[0] > 0, &turn)?;
    }
    Ok(made)
}

/// What of a part is lost, as a sheet; none where nothing is.
pub(super) fn lost_part(before: &Mesh, after: &Mesh, progress: &Progress) -> Result<Option<Mesh>, TradeError> {
    let lost = harm_between(&[before], &[after], progress)?.lost;
    Ok((lost.area > 0.0).then_some(lost.mesh))
}

/// A body united with sheets that get a wall, half on each side; also how many sheets that are.
fn with_walls(body: &Mesh, sheets: &Mesh, thick: f64, progress: &Progress) -> Result<(Mesh, usize), TradeError> {
    let (shell_of, count) = shells::shells(&Topology::new(sheets.triangles(), sheets.points().len()));
    /// Sheets much smaller than the wall is thick are crumbs of the cutting.
    const LEAST: f64 = 0.2;
    let mut area = vec![0.0; count];
    shell_of.iter().enumerate().for_each(|(t, s)| area[*s as usize] += sheets.area_vector(t).length() * 0.5);
    let large: Vec<bool> = area.iter().map(|a| *a >= (thick * LEAST).powi(2)).collect();
    let walled = large.iter().filter(|l| **l).count();
    if walled == 0 {
        return Ok((body.clone(), 0));
    }
    let walls = thickened(&sheets.retain_triangles(|t| large[shell_of[t] as usize]), thick)?;
    /// Where walls cross each other more often, for each of their triangles, they are thicker than what they stand for is wide …
    const DENSE: usize = 7;
    /// … and so many crossings take seconds.
    const MOST_CROSSINGS: usize = 80_000;
    let most = (walls.triangles().len() * DENSE).min(MOST_CROSSINGS);
    if crossing_pairs_up_to(&walls, &triangle_bvh(&walls), most, &progress.stage(0.0, 0.1))?.is_none() {
        let why = format!(
            "sheets that enclose nothing lie so close that walls of {} would cross in more than {most} places; thinner ones may do",
            millimetres(thick)
        );
        return Err(TradeError::refused(why, walls.points().first().copied().into_iter().collect()));
    }
    let inputs: Vec<&Mesh> = Some(body).filter(|b| !b.triangles().is_empty()).into_iter().chain([&walls]).collect();
    let last = inputs.len() - 1;
    let all = Arrangement::new(&inputs, &[], &progress.stage(0.1, 0.7)).map_err(|e| told(e, &|_| "the part".into()))?;
    let inside = |w: &[i16]| w[0] > 0 || w[last] != 0;
    /// Chambers of less than this share may change sides where the body would touch itself.
    const CRUMB: f64 = 1e-6;
    let whole = body_without_pinches(&all, inside, CRUMB, &progress.stage(0.7, 1.0))?;
    Ok((whole, walled))
}
