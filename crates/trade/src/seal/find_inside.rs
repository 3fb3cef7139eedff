//! `seal.find_inside`: whatever comes in becomes the border between inside and outside.
//!
//! Everything is arranged exactly, openings covered, and each chamber of space told to be inside or outside
//! ([`nimbet_kernel::interior`]). What encloses nothing (fins, stray sheets) vanishes, or gets a wall.

use nimbet_kernel::arrange::Arrangement;
use nimbet_kernel::crossings::{crossing_pairs_up_to, triangle_bvh};
use nimbet_kernel::interior::{interior, thickened, thickened_sampled};
use nimbet_kernel::measure::measure;
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::wrap::WrapError;
use nimbet_kernel::{Aabb, FaceId, Mesh, Progress, Topology, shells};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::budget::Effort;
use crate::examine::{About, brace_radius};
use crate::parameter::Length;
use crate::shape::{Held, held_together, told_held};
use crate::solids::{body, body_without_pinches, told, volume};
use crate::tool::{Cure, Effect, Entry, Given, Needs, Tool};
use crate::words::{count, figure, millimetres};
use crate::{Outcome, TradeError};

/// Parameters of `seal.find_inside`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FindInside {
    /// The thickness of the wall that sheets get that enclose nothing, mm; they vanish when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Sheet wall", with = "Option<Length>", extend("empty" = "they vanish"))]
    pub wall: Option<f64>,
}

impl Tool for FindInside {
    const KIND: &'static str = "seal.find_inside";
    const WHAT: &'static str = "Make whatever comes in the border between inside and outside.";
    const EFFORT: Effort = Effort::Planning;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "find_inside",
        name: "Find the inside",
        hint: "Whatever comes in becomes the border between inside and outside",
        group: "All at once",
        words: &["solid", "watertight", "repair", "heal"],
        needs: Needs::Unsealed,
        mark: "",
        start: |_| json!({}),
    }];

    fn title(&self) -> String {
        match self.wall {
            None => "Find the inside".into(),
            Some(wall) => format!("Find the inside, sheets {} thick", millimetres(wall)),
        }
    }

    fn remedies(about: &About) -> Vec<Cure> {
        let find = |rank| vec![Cure::new(rank, "Find the inside", Self::default())];
        match about {
            About::OpenChain | About::Crowded { .. } | About::Tangle { closed: false, .. } => find(0),
            About::Clash | About::StraySheet { .. } => find(2),
            _ => vec![],
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        self.apply_unless(mesh, &|_| Ok(None), progress)
    }

    fn effect(&self) -> Effect {
        Effect::Mends
    }
}

impl FindInside {
    /// As [`FindInside::apply`], but refused where there is something against the body found, before it is held together.
    pub(crate) fn apply_unless(
        &self,
        mesh: &Mesh,
        against: &dyn Fn(&Mesh) -> Result<Option<String>, TradeError>,
        progress: &Progress,
    ) -> Result<Outcome, TradeError> {
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
        let (mut walled, mut sampled) = (0, false);
        if let (Some(thick), false) = (self.wall, found.dangling.triangles().is_empty()) {
            let with = with_walls(&made, &found.dangling, thick, &progress.stage(0.7, 0.85))?;
            (made, walled, sampled) = (with.mesh, with.sheets, with.sampled);
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
                "gave {} a wall of {}{}",
                count(walled, "sheet", "sheets"),
                millimetres(self.wall.unwrap_or(0.0)),
                if sampled { ", drawn on a grid, since they lie dense or have one side only" } else { "" }
            ));
        }
        let mut left = vec![];
        if walled == 0 && dangling > 0.0 {
            left.push(format!("{} mm² of surface enclose nothing and are gone", figure(dangling)));
        }
        let made = uncrossed(made, &progress.stage(0.85, 0.9))?;
        let radius = brace_radius(Aabb::of(made.points().iter().copied()).diagonal());
        let held = Held { at_points: false, uncrossed: true };
        let (made, edges, points) = held_together(&made, radius, held, &progress.stage(0.9, 1.0))?;
        if edges > 0 {
            done.push(told_held(edges, points, radius));
        }
        Ok(Outcome { done, left, ..Outcome::of(made, String::new()) })
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

/// A body united with the walls of sheets.
struct Walled {
    mesh: Mesh,
    /// How many sheets got a wall.
    sheets: usize,
    /// Whether the walls were drawn on a grid.
    sampled: bool,
}

/// A body united with sheets that get a wall, half on each side.
fn with_walls(body: &Mesh, sheets: &Mesh, thick: f64, progress: &Progress) -> Result<Walled, TradeError> {
    let (shell_of, count) = shells::shells(&Topology::new(sheets.triangles(), sheets.points().len()));
    /// Sheets much smaller than the wall is thick are crumbs of the cutting.
    const LEAST: f64 = 0.2;
    let mut area = vec![0.0; count];
    shell_of.iter().enumerate().for_each(|(t, s)| area[*s as usize] += sheets.area_vector(t).length() * 0.5);
    let large: Vec<bool> = area.iter().map(|a| *a >= (thick * LEAST).powi(2)).collect();
    let walled = large.iter().filter(|l| **l).count();
    if walled == 0 {
        return Ok(Walled { mesh: body.clone(), sheets: 0, sampled: false });
    }
    let sheets = sheets.retain_triangles(|t| large[shell_of[t] as usize]);
    let (walls, sampled) = walls_of(&sheets, body.next_face(), thick, &progress.stage(0.0, 0.4))?;
    let inputs: Vec<&Mesh> = Some(body).filter(|b| !b.triangles().is_empty()).into_iter().chain([&walls]).collect();
    let last = inputs.len() - 1;
    let all = Arrangement::new(&inputs, &[], &progress.stage(0.4, 0.7)).map_err(|e| told(e, &|_| "the part".into()))?;
    let inside = |w: &[i16]| w[0] > 0 || w[last] != 0;
    /// Chambers of less than this share may change sides where the body would touch itself.
    const CRUMB: f64 = 1e-6;
    let whole = body_without_pinches(&all, inside, CRUMB, &progress.stage(0.7, 1.0))?;
    Ok(Walled { mesh: whole, sheets: walled, sampled })
}

/// The walls of sheets, with the faces of the sheets; where those would cross each other all over, or a sheet has only one side,
/// sampled walls of one new face. Also whether they are sampled.
fn walls_of(sheets: &Mesh, face: FaceId, thick: f64, progress: &Progress) -> Result<(Mesh, bool), TradeError> {
    /// Where walls cross each other more often, for each of their triangles, they are thicker than what they stand for is wide …
    const DENSE: usize = 7;
    /// … and so many crossings take seconds.
    const MOST_CROSSINGS: usize = 80_000;
    /// Sampled walls of so many triangles take seconds, too.
    const MOST_SAMPLED: usize = 1_000_000;
    let walls = thickened(sheets, thick)?;
    let most = (walls.triangles().len() * DENSE).min(MOST_CROSSINGS);
    let topology = Topology::new(walls.triangles(), walls.points().len());
    let closed = topology.edges_with(EdgeUse::Regular).count() == topology.edge_count();
    if closed && crossing_pairs_up_to(&walls, &triangle_bvh(&walls), most, &progress.stage(0.0, 0.2))?.is_some() {
        return Ok((walls, false));
    }
    let sampled = thickened_sampled(sheets, thick, MOST_SAMPLED, &progress.stage(0.2, 1.0)).map_err(|e| match e {
        WrapError::TooFine(_) => TradeError::refused(
            format!(
                "sheets that enclose nothing lie so dense that walls of {} would need more than {MOST_SAMPLED} triangles; thicker ones may do",
                millimetres(thick)
            ),
            sheets.points().first().copied().into_iter().collect(),
        ),
        WrapError::Empty => TradeError::refused("the sheets are too small to get a wall", vec![]),
        WrapError::Cancelled(c) => c.into(),
        WrapError::Mesh(m) => m.into(),
    })?;
    Ok((sampled.regroup(|_| face), true))
}
