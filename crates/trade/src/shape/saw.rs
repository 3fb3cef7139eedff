//! `shape.saw`: cuts a part by a plane, a sheet or a swept line, with pegs and sockets so that the halves register when
//! printed.

use nimbet_kernel::arrange::Chambers;
use nimbet_kernel::segments::nearest_on_triangle;
use nimbet_kernel::shapes::turned;
use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Aabb, FaceId, Mesh, Point, Progress, Topology};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::sheets::{Plane, SweptLine};
use crate::parameter::{Length, LengthOrNone, Part};
use crate::solids::{arranged, arranged_with, body, told, volume};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::{count, millimetres};
use crate::{Made, Outcome, TradeError};

/// Which side stays.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Keep {
    /// Both, as two parts.
    #[default]
    #[schemars(title = "Keep both")]
    Both,
    /// The one the normal points to.
    Front,
    /// The other.
    Back,
}

/// Pegs on the back half that go into sockets of the front half.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Pegs {
    /// How many; each where the cut is widest, away from the others.
    #[schemars(title = "Pegs", range(min = 1, max = 12))]
    pub count: usize,
    /// The diameter of a peg, mm.
    #[schemars(with = "Length")]
    pub diameter: f64,
    /// How far a peg stands out, mm.
    #[schemars(with = "Length")]
    pub length: f64,
    /// How much a socket is larger all round, and deeper, mm.
    #[schemars(with = "LengthOrNone")]
    pub clearance: f64,
}

/// What a part is cut by.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase", deny_unknown_fields)]
pub enum Cutter {
    /// A plane; its normal points to the front.
    Plane(Plane),
    /// Another part, which may be open: the number of it. It faces the front, and stays.
    Sheet(#[schemars(with = "Part")] u32),
    /// A swept line; its front is to the right of it, seen along the sweep.
    #[schemars(title = "Drawn line")]
    Line(SweptLine),
}

impl Cutter {
    /// What lies in front of the cut is called: of a plane by where it lies, as the views are.
    fn front(&self) -> &'static str {
        let Self::Plane(Plane { normal, .. }) = self else { return "Front half" };
        let [x, y, z] = normal.map(f64::abs);
        match normal {
            n if z >= x && z >= y => {
                if n[2] > 0.0 {
                    "Upper half"
                } else {
                    "Lower half"
                }
            }
            n if x >= y => {
                if n[0] > 0.0 {
                    "Right half"
                } else {
                    "Left half"
                }
            }
            n => {
                if n[1] > 0.0 {
                    "Back half"
                } else {
                    "Front half"
                }
            }
        }
    }
}

/// Parameters of `shape.saw`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Saw {
    /// What cuts.
    #[schemars(title = "Cut by")]
    pub by: Cutter,
    /// What stays.
    #[serde(default)]
    #[schemars(title = "What stays")]
    pub keep: Keep,
    /// Whether the cut is left open.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Leave the cut open")]
    pub open: bool,
    /// Pegs and sockets.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Pegs and sockets")]
    pub pegs: Option<Pegs>,
}

impl Tool for Saw {
    const KIND: &'static str = "shape.saw";
    const WHAT: &'static str = "Cut a solid by a plane, a sheet or a line.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "saw",
        name: "Saw",
        hint: "Cut by a plane, a sheet or a drawn line; pegs and sockets on request",
        group: "Together and apart",
        words: &["split", "cut", "trim", "slice", "divide", "section"],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "by": { "plane": { "at": b.middle(), "normal": [0, 0, 1] } }, "keep": "both" }),
    }];

    fn title(&self) -> String {
        if self.pegs.is_some() { "Saw, with pegs" } else { "Saw" }.into()
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, others, progress, .. } = *given;
        let bounds = Aabb::of(mesh.points().iter().copied());
        let sheet = match &self.by {
            Cutter::Plane(plane) => plane.on(mesh)?.sheet(&bounds)?,
            Cutter::Line(line) => line.sheet(&bounds)?,
            Cutter::Sheet(_) => others.first().cloned().unwrap_or_default(),
        };
        let (mut back, mut front) = halves(mesh, &sheet, &progress.stage(0.0, 0.5))?;
        if front.triangles().is_empty() || back.triangles().is_empty() {
            return Err(TradeError::nothing(match self.by {
                Cutter::Plane(_) => "the plane does not go through the part",
                Cutter::Sheet(_) => "the sheet does not go through the part",
                Cutter::Line(_) => "the line does not go through the part",
            }));
        }
        let mut done = vec![format!("cut into {} and {}", volume(&back), volume(&front))];
        if let Some(pegs) = &self.pegs {
            let Cutter::Plane(plane) = &self.by else {
                return Err(TradeError::refused("pegs need a flat cut: saw by a plane", vec![]));
            };
            if self.open {
                return Err(TradeError::refused("pegs need a closed cut to stand on", vec![]));
            }
            let frame = plane.on(mesh)?.frame()?;
            let places = pegs.places(&back, mesh.next_face(), &frame, progress)?;
            let drums = |grown: f64, longer: f64| -> Result<Vec<Mesh>, TradeError> {
                places.iter().map(|p| drum(&frame, *p, pegs.diameter * 0.5 + grown, pegs.length + longer)).collect()
            };
            let (pins, sockets) = (drums(0.0, 0.0)?, drums(pegs.clearance, pegs.clearance)?);
            let with = |half: &Mesh, tools: &[Mesh], rule: &dyn Fn(&[i16]) -> bool| {
                let inputs: Vec<&Mesh> = std::iter::once(half).chain(tools).collect();
                let all = arranged(&inputs, false, &|_| "the half".into(), progress)?;
                body(&all, rule, progress)
            };
            back = with(&back, &pins, &|w| w.iter().any(|w| *w > 0))?;
            front = with(&front, &sockets, &|w| w[0] > 0 && w[1..].iter().all(|w| *w <= 0))?;
            done.push(format!(
                "{} of {} on the back half, sockets with {} to spare in the front half",
                count(places.len(), "peg", "pegs"),
                millimetres(pegs.diameter),
                millimetres(pegs.clearance)
            ));
        }
        if self.open {
            let first_new = mesh.next_face();
            let old = |m: &Mesh| {
                let is_new = |t: usize| m.face_of()[t] >= first_new;
                m.retain_triangles(|t| !is_new(t))
            };
            (front, back) = (old(&front), old(&back));
        }
        Ok(match self.keep {
            Keep::Both => {
                Outcome { done, more: vec![Made::of(front, self.by.front())], ..Outcome::of(back, String::new()) }
            }
            Keep::Front => Outcome { done, ..Outcome::of(front, String::new()) },
            Keep::Back => Outcome { done, ..Outcome::of(back, String::new()) },
        })
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        match &mut self.by {
            Cutter::Sheet(part) => vec![part],
            _ => vec![],
        }
    }
}

/// What lies behind a sheet and before it. What the sheet does not touch lies where it is seen from it.
fn halves(mesh: &Mesh, sheet: &Mesh, progress: &Progress) -> Result<(Mesh, Mesh), TradeError> {
    if sheet.triangles().is_empty() {
        return Err(TradeError::refused("the sheet has no triangles", vec![]));
    }
    let all = arranged_with(&[mesh], &[sheet], &|_| "the part".into(), &progress.stage(0.0, 0.7))?;
    let chambers = all.chambers(0.0, &progress.stage(0.7, 0.8))?;
    let inside = |n: usize| chambers.winding(n)[0] > 0;
    let count = chambers.list().len();
    let (mut is_front, mut is_back) = (vec![false; count], vec![false; count]);
    for [front, back] in chambers.beside(1).filter(|[f, b]| f != b) {
        front.into_iter().for_each(|n| is_front[n] = true);
        back.into_iter().for_each(|n| is_back[n] = true);
    }
    // Where a wall of the sheet has the same chamber on both sides, the sheet ends in it.
    let ends = chambers.beside(1).any(|[f, b]| f == b && f.is_some_and(inside));
    if ends || (0..count).any(|n| inside(n) && is_front[n] && is_back[n]) {
        let places = ends_inside(sheet, &chambers);
        return Err(TradeError::refused("the cut does not go right through: the sheet ends inside the part", places));
    }
    let half = |front: bool| {
        let belongs = |n: usize| match (is_front[n], is_back[n]) {
            (false, false) => chambers.list()[n].inside.is_some_and(|inside| is_before(sheet, inside) == front),
            (is_front, _) => is_front == front,
        };
        let chosen: Vec<usize> = (0..count).filter(|n| inside(*n) && belongs(*n)).collect();
        Ok::<_, TradeError>(chambers.body(&chosen, progress).map_err(|e| told(e, &|_| "the half".into()))?.mesh)
    };
    Ok((half(false)?, half(true)?))
}

/// Places on the rims of a sheet that lie in the part.
fn ends_inside(sheet: &Mesh, chambers: &Chambers<'_>) -> Vec<Point> {
    const MOST: usize = 8;
    let topology = Topology::new(sheet.triangles(), sheet.points().len());
    let at = |v: u32| sheet.points()[v as usize];
    // A little off the sheet, on which no chamber is.
    let off = 1e-6 * Aabb::of(sheet.points().iter().copied()).diagonal();
    let in_part = |p: Point| chambers.at(p).is_some_and(|n| chambers.winding(n)[0] > 0);
    let rim = topology.naked_halves().into_iter().map(|half| {
        let (a, b) = topology.ends(half);
        (at(a).midpoint(at(b)), sheet.area_vector(half as usize / 3).normalize_or_zero() * off)
    });
    rim.filter(|(p, off)| in_part(*p + *off)).map(|(p, _)| p).take(MOST).collect()
}

/// Whether a point lies before the triangle of a sheet that is nearest to it.
fn is_before(sheet: &Mesh, p: Point) -> bool {
    let nearest = (0..sheet.triangles().len())
        .map(|t| (nearest_on_triangle(p, sheet.corners(t)).distance_squared(p), t))
        .min_by(|a, b| a.0.total_cmp(&b.0));
    nearest.is_some_and(|(_, t)| sheet.area_vector(t).dot(p - sheet.corners(t)[0]) > 0.0)
}

/// A body with its foot in the plane, about a place in it, faces all one.
fn placed(raw: Mesh, frame: &PlaneFrame, [x, y]: [f64; 2]) -> Mesh {
    let lifted = raw.map_points(|p| frame.lift([x + p.x, y + p.y]) + frame.normal * p.z).unwrap_or_default();
    lifted.regroup(|_| FaceId(0))
}

/// A drum from a little behind the plane to `height` before it.
fn drum(frame: &PlaneFrame, at: [f64; 2], radius: f64, height: f64) -> Result<Mesh, TradeError> {
    const SEGMENTS: usize = 48;
    // It stands in both halves, so that it is joined over its whole foot.
    let foot = -height * 0.25;
    let raw = turned(&[(0.0, foot), (radius, foot), (radius, height), (0.0, height)], SEGMENTS);
    Ok(placed(raw, frame, at))
}

impl Pegs {
    /// Where the pegs stand, in the plane.
    fn places(
        &self,
        back: &Mesh,
        first_new: FaceId,
        frame: &PlaneFrame,
        progress: &Progress,
    ) -> Result<Vec<[f64; 2]>, TradeError> {
        let cut = back.retain_triangles(|t| back.face_of()[t] >= first_new);
        let topology = nimbet_kernel::Topology::new(cut.triangles(), cut.points().len());
        let ends: Vec<(u32, u32)> = topology.naked_halves().into_iter().map(|h| topology.ends(h)).collect();
        // Looked at along the longest edge of the cut, so that the same places are found however the part lies.
        let way = |(a, b): &(u32, u32)| cut.points()[*b as usize] - cut.points()[*a as usize];
        let longest = ends.iter().map(way).max_by(|a, b| a.length_squared().total_cmp(&b.length_squared()));
        let own = longest.map_or(*frame, |way| frame.along(way));
        let flat: Vec<[f64; 2]> = cut.points().iter().map(|p| own.flatten(*p)).collect();
        let border: Vec<([f64; 2], [f64; 2])> =
            ends.iter().map(|(a, b)| (flat[*a as usize], flat[*b as usize])).collect();
        let (candidates, middle) = with_room(&flat, &border, progress)?;
        let need = self.diameter * 0.5 + self.clearance;
        let mut places: Vec<[f64; 2]> = Vec::new();
        while places.len() < self.count {
            let apart = |p: [f64; 2]| {
                places.iter().map(|q| (p[0] - q[0]).hypot(p[1] - q[1]) * 0.5).fold(f64::INFINITY, f64::min)
            };
            let score = |(p, room): &([f64; 2], f64)| room.min(apart(*p));
            let most = candidates.iter().map(score).fold(0.0, f64::max);
            // Of places as good the one nearest to the middle.
            let off = |c: &&([f64; 2], f64)| (c.0[0] - middle[0]).hypot(c.0[1] - middle[1]);
            let good = candidates.iter().filter(|c| score(c) >= most * (1.0 - 1e-6));
            let best = good.min_by(|a, b| off(a).total_cmp(&off(b))).map(|c| (c.0, score(c)));
            match best {
                Some((p, room)) if room > need => places.push(p),
                Some((p, room)) => {
                    return Err(TradeError::refused(
                        format!(
                            "there is no room for {} of {}: the cut leaves {} round the next one",
                            count(self.count, "peg", "pegs"),
                            millimetres(self.diameter),
                            millimetres(room * 2.0)
                        ),
                        vec![own.lift(p)],
                    ));
                }
                None => return Err(TradeError::refused("the cut is too narrow for pegs", vec![])),
            }
        }
        Ok(places.into_iter().map(|p| frame.flatten(own.lift(p))).collect())
    }
}

/// A place in the plane of a cut, and how far the border is from it.
type Roomy = ([f64; 2], f64);

/// Places of a grid within a flat border, and the middle of its box.
fn with_room(
    flat: &[[f64; 2]],
    border: &[([f64; 2], [f64; 2])],
    progress: &Progress,
) -> Result<(Vec<Roomy>, [f64; 2]), TradeError> {
    /// Places looked at along the longer side of the cut.
    const STEPS: usize = 64;
    let (low, high) = flat.iter().fold(([f64::INFINITY; 2], [f64::NEG_INFINITY; 2]), |(l, h), p| {
        ([l[0].min(p[0]), l[1].min(p[1])], [h[0].max(p[0]), h[1].max(p[1])])
    });
    let step = (high[0] - low[0]).max(high[1] - low[1]) / STEPS as f64;
    let middle = [0, 1].map(|u| low[u].midpoint(high[u]));
    let across = |u: usize| ((high[u] - low[u]) / step * 0.5).ceil() as i32;
    let inside = |p: [f64; 2]| {
        // Crossings of a ray to the right with the border.
        border
            .iter()
            .filter(|(a, b)| {
                (a[1] > p[1]) != (b[1] > p[1]) && p[0] < a[0] + (p[1] - a[1]) / (b[1] - a[1]) * (b[0] - a[0])
            })
            .count()
            % 2
            == 1
    };
    let room = |p: [f64; 2]| {
        let at = Point::new(p[0], p[1], 0.0);
        let near = |(a, b): &([f64; 2], [f64; 2])| {
            let [a, b] = [a, b].map(|q| Point::new(q[0], q[1], 0.0));
            nimbet_kernel::segments::nearest_on_segment(at, a, b).1
        };
        border.iter().map(near).fold(f64::INFINITY, f64::min).sqrt()
    };
    let mut candidates: Vec<([f64; 2], f64)> = Vec::new();
    for i in -across(0)..=across(0) {
        progress.check()?;
        for j in -across(1)..=across(1) {
            let p = [middle[0] + f64::from(i) * step, middle[1] + f64::from(j) * step];
            if inside(p) {
                candidates.push((p, room(p)));
            }
        }
    }
    Ok((candidates, middle))
}
