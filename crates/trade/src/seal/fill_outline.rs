//! `seal.fill_outline`: makes a flat face from an outline: edges of the part, its section, or its silhouette.

use std::collections::HashMap;

use nimbet_kernel::outline::{section, signed_area, silhouette, untied};
use nimbet_kernel::triangulate::{FlatError, PlaneFrame, triangulate_flat};
use nimbet_kernel::{Aabb, Mesh, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::loops::Work;
use super::new_surface::refuse_clash;
use crate::budget::Effort;
use crate::edge_chains::closed_loops;
use crate::examine::mean_plane;
use crate::parameter::{Direction, Position};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::{Xyz, count, figure, millimetres};
use crate::{Made, Outcome, TradeError};

/// What the outline is.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase", deny_unknown_fields)]
pub enum Outline {
    /// Edges of the part that lie in a plane, by points on them, mm. An edge on the border of a face brings the whole border
    /// from corner to corner.
    Edges(
        #[schemars(with = "Vec<Position>", extend("asks" = "edges", "least" = 1, "hint" = "Click edges in the viewport until they close to an outline."))]
         Vec<Xyz>,
    ),
    /// Where a plane cuts the part.
    Section {
        /// A point of the plane, mm.
        #[schemars(with = "Position")]
        at: Xyz,
        /// Its normal.
        #[schemars(with = "Direction")]
        normal: Xyz,
    },
    /// The part seen along a direction.
    Silhouette {
        /// The direction; the face faces against it.
        #[schemars(with = "Direction")]
        along: Xyz,
        /// A point of the plane in which the face is made, mm.
        #[schemars(with = "Position")]
        at: Xyz,
    },
}

/// Parameters of `seal.fill_outline`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FillOutline {
    /// What.
    pub outline: Outline,
    /// Whether an outline that crosses itself is untied: what lies inside an odd number of its turns is filled.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Untie an outline that crosses itself")]
    pub untie: bool,
    /// Whether it may pass through the part, to be untangled after. Otherwise that is refused.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "May pass through the part, to be untangled after")]
    pub may_cross: bool,
}

impl Tool for FillOutline {
    const KIND: &'static str = "seal.fill_outline";
    const WHAT: &'static str = "Make a flat face from an outline.";
    const EFFORT: Effort = Effort::Searching;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "fill_outline",
        name: "Fill an outline",
        hint: "A flat face from edges, a section or the silhouette",
        group: "Close",
        words: &["planar face", "cap", "silhouette", "surface from curves"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({ "outline": { "edges": [] } }),
    }];

    fn title(&self) -> String {
        let what = match self.outline {
            Outline::Edges(_) => "picked edges",
            Outline::Section { .. } => "a section",
            Outline::Silhouette { .. } => "the silhouette",
        };
        format!("Fill {what}")
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        progress.report(0.05, "finding the outline")?;
        match &self.outline {
            Outline::Edges(picks) => self.fill_edges(mesh, picks, progress),
            Outline::Section { at, normal } => {
                let plane = frame(*at, *normal)?;
                let chains = section(mesh, &plane, progress)?;
                if chains.is_empty() {
                    return Err(TradeError::refused("the plane does not meet the part", vec![plane.origin]));
                }
                let open: Vec<Point> = (chains.iter().filter(|c| !c.closed))
                    .flat_map(|c| [c.points[0], c.points[c.points.len() - 1]])
                    .collect();
                if !open.is_empty() {
                    return Err(TradeError::refused(
                        "the section is open where the part is; close the part there first",
                        open,
                    ));
                }
                let outlines: Vec<Vec<[f64; 2]>> =
                    chains.iter().map(|c| c.points.iter().map(|p| plane.flatten(*p)).collect()).collect();
                self.sheet_part(mesh, &plane, outlines, "the section", progress)
            }
            Outline::Silhouette { along, at } => {
                let plane = frame(*at, along.map(|x| -x))?;
                progress.report(0.2, "uniting what is seen")?;
                let outlines = silhouette(mesh, &plane).into_iter().flatten().collect();
                self.sheet_part(mesh, &plane, outlines, "the silhouette", progress)
            }
        }
    }
}

impl FillOutline {
    fn fill_edges(&self, mesh: &Mesh, picks: &[Xyz], progress: &Progress) -> Result<Outcome, TradeError> {
        if picks.is_empty() {
            return Err(TradeError::nothing("no edge was picked"));
        }
        let (loops, naked) = closed_loops(mesh, picks)?;
        let ids: Vec<u32> = loops.concat();
        let place = |i: &u32| mesh.points()[*i as usize];
        let all: Vec<Point> = ids.iter().map(place).collect();
        let longest = loops.iter().max_by_key(|l| l.len()).map_or(&ids, |l| l);
        let around: Vec<Point> = longest.iter().map(place).collect();
        let (centre, normal, _) = mean_plane(&around);
        let extent = Aabb::of(all.iter().copied()).diagonal();
        // An outline like a figure of eight may have no mean normal; three of its points give a plane then.
        let normal = if normal == Point::ZERO { any_normal(&around) } else { normal };
        let Some(plane) = PlaneFrame::new(centre, normal) else {
            return Err(TradeError::refused("the picked edges lie in one line", around));
        };
        let far = all.iter().max_by(|a, b| plane.height(**a).abs().total_cmp(&plane.height(**b).abs()));
        if let Some(far) = far.filter(|p| plane.height(**p).abs() > (extent * 1e-4).max(1e-3)) {
            let why = format!(
                "the outline is not flat: it stands {} off its plane here",
                millimetres(plane.height(*far).abs())
            );
            return Err(TradeError::refused(why, vec![*far]));
        }
        let flat: Vec<[f64; 2]> = all.iter().map(|p| plane.flatten(*p)).collect();
        let mut begin = 0;
        let outlines: Vec<Vec<usize>> = (loops.iter())
            .map(|l| {
                begin += l.len();
                (begin - l.len()..begin).collect()
            })
            .collect();
        let cut = match triangulate_flat(&flat, &outlines) {
            Ok(cut) => cut,
            Err(_) if self.untie => {
                let outlines = outlines.iter().map(|o| o.iter().map(|&i| flat[i]).collect()).collect();
                return self.sheet_part(mesh, &plane, outlines, "the picked edges", progress);
            }
            Err(e) => return Err(crossing(e, &plane, &flat)),
        };
        let told =
            |area: f64| format!("filled {} with {} mm²", count(loops.len(), "outline", "outlines"), figure(area));
        let area = |t: &[usize; 3]| (all[t[1]] - all[t[0]]).cross(all[t[2]] - all[t[0]]).length() * 0.5;
        let whole = told(cut.iter().map(area).sum());
        if !naked {
            // Faces meet there already; a third one would make the part no solid.
            let points = all.clone();
            let triangles = cut.iter().map(|t| t.map(|i| i as u32)).collect();
            return Ok(part_beside(mesh, Mesh::with_one_face(points, triangles)?, whole));
        }
        let mut work = Work::new(mesh, ids.iter().copied());
        // The face must run against the triangles at the outline: count which way more of its sides fit.
        let first = |t: &[usize; 3]| (0..3).map(|k| (ids[t[k]], ids[t[(k + 1) % 3]])).collect::<Vec<_>>();
        let halves: std::collections::HashSet<(u32, u32)> =
            mesh.triangles().iter().flat_map(|t| [(t[0], t[1]), (t[1], t[2]), (t[2], t[0])]).collect();
        let vote: i64 = (cut.iter().flat_map(first))
            .map(|(a, b)| i64::from(halves.contains(&(b, a))) - i64::from(halves.contains(&(a, b))))
            .sum();
        work.add(cut.iter().map(|t| {
            let [a, b, c] = t.map(|i| ids[i]);
            (if vote < 0 { [a, c, b] } else { [a, b, c] }, 0)
        }));
        let filled = work.finish()?;
        if !self.may_cross {
            refuse_clash(&filled, mesh.triangles().len(), "the face", progress)?;
        }
        Ok(Outcome::of(filled, whole))
    }

    /// Fills outlines in a plane and gives the face as a part of its own.
    fn sheet_part(
        &self,
        mesh: &Mesh,
        plane: &PlaneFrame,
        outlines: Vec<Vec<[f64; 2]>>,
        what: &str,
        progress: &Progress,
    ) -> Result<Outcome, TradeError> {
        progress.report(0.6, "filling")?;
        let filled = match fill(&outlines) {
            Err((_, _)) if self.untie => fill(&untied(&outlines).concat()),
            other => other,
        };
        let (flat, cut) = filled.map_err(|(e, flat)| crossing(e, plane, &flat))?;
        if cut.is_empty() {
            return Err(TradeError::refused("the outline encloses nothing", vec![plane.origin]));
        }
        let points = flat.iter().map(|p| plane.lift(*p)).collect();
        let triangles = cut.iter().map(|t| t.map(|i| i as u32)).collect();
        let area: f64 = cut.iter().map(|t| signed_area(&t.map(|i| flat[i]))).sum();
        let told = format!("made {what} a sheet of {} mm², a part of its own", figure(area));
        Ok(part_beside(mesh, Mesh::with_one_face(points, triangles)?, told))
    }
}

fn part_beside(mesh: &Mesh, sheet: Mesh, told: String) -> Outcome {
    Outcome { more: vec![Made::of(sheet, "Sheet")], ..Outcome::of(mesh.clone(), told) }
}

fn frame(at: Xyz, normal: Xyz) -> Result<PlaneFrame, TradeError> {
    let (at, normal) = (Point::from_array(at), Point::from_array(normal));
    match PlaneFrame::new(at, normal) {
        Some(plane) if at.is_finite() => Ok(plane),
        _ => Err(TradeError::refused("a plane needs a point and a direction", vec![])),
    }
}

fn any_normal(points: &[Point]) -> Point {
    let Some(&first) = points.first() else { return Point::ZERO };
    let spans = points.windows(2).map(|w| (w[0] - first).cross(w[1] - first));
    spans.max_by(|a, b| a.length().total_cmp(&b.length())).unwrap_or_default()
}

fn crossing(e: FlatError, plane: &PlaneFrame, flat: &[[f64; 2]]) -> TradeError {
    let (why, at) = match e {
        FlatError::Crosses { at, .. } => ("the outline crosses itself here; untie it, or choose another", at),
        FlatError::Coincides { point } => {
            ("the outline passes this place twice; untie it, or choose another", flat[point])
        }
    };
    TradeError::refused(why, vec![plane.lift(at)])
}

type Filled = (Vec<[f64; 2]>, Vec<[usize; 3]>);

/// Points, each once, and the triangles inside an odd number of the outlines.
fn fill(outlines: &[Vec<[f64; 2]>]) -> Result<Filled, (FlatError, Vec<[f64; 2]>)> {
    let mut number: HashMap<[u64; 2], usize> = HashMap::new();
    let mut points = Vec::new();
    let mut named: Vec<Vec<usize>> = Vec::new();
    for outline in outlines {
        let mut one: Vec<usize> = Vec::with_capacity(outline.len());
        for p in outline {
            let key = p.map(|x| (x + 0.0).to_bits());
            let id = *number.entry(key).or_insert_with(|| {
                points.push(*p);
                points.len() - 1
            });
            if one.last() != Some(&id) {
                one.push(id);
            }
        }
        if one.len() > 1 && one.first() == one.last() {
            one.pop();
        }
        if one.len() > 2 {
            named.push(one);
        }
    }
    match triangulate_flat(&points, &named) {
        Ok(cut) => Ok((points, cut)),
        Err(e) => Err((e, points)),
    }
}
