//! `shape.saw`: cuts a part by a plane, with pegs and sockets so that the halves register when printed.

use nimbet_kernel::arrange::Arrangement;
use nimbet_kernel::shapes::{block, turned};
use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Aabb, FaceId, Mesh, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::solids::{arranged, body, volume};
use crate::words::{Xyz, count, millimetres};
use crate::{Outcome, TradeError};

/// Which side stays.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Keep {
    /// Both, as two parts.
    #[default]
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
    pub count: usize,
    /// The diameter of a peg, mm.
    pub diameter: f64,
    /// How far a peg stands out, mm.
    pub length: f64,
    /// How much a socket is larger all round, and deeper, mm.
    pub clearance: f64,
}

/// Parameters of `shape.saw`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Saw {
    /// A point of the plane, mm.
    pub at: Xyz,
    /// Its normal.
    pub normal: Xyz,
    /// What stays.
    #[serde(default)]
    pub keep: Keep,
    /// Whether the cut is left open.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub open: bool,
    /// Pegs and sockets.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pegs: Option<Pegs>,
}

impl Saw {
    pub(crate) fn apply(&self, mesh: &Mesh, progress: &Progress) -> Result<Outcome, TradeError> {
        let (at, normal) = (Point::from_array(self.at), Point::from_array(self.normal));
        let frame = PlaneFrame::new(at, normal).filter(|_| at.is_finite() && normal.is_finite());
        let Some(frame) = frame else {
            return Err(TradeError::refused("the plane needs a point and a normal that is not zero", vec![]));
        };
        let bounds = Aabb::of(mesh.points().iter().copied());
        let front_of = half_space(&frame, &bounds);
        let name = |n: usize| if n == 0 { "the part".to_owned() } else { "the plane".to_owned() };
        let all = arranged(&[mesh, &front_of], &name, &progress.stage(0.0, 0.4))?;
        let (mut front, mut back) = (
            body(&all, mesh, |w| w[0] > 0 && w[1] > 0, progress)?,
            body(&all, mesh, |w| w[0] > 0 && w[1] <= 0, progress)?,
        );
        if front.triangles().is_empty() || back.triangles().is_empty() {
            return Err(TradeError::nothing("the plane does not go through the part"));
        }
        let mut done = vec![format!("cut into {} and {}", volume(&back), volume(&front))];
        if let Some(pegs) = &self.pegs {
            if self.open {
                return Err(TradeError::refused("pegs need a closed cut to stand on", vec![]));
            }
            let places = pegs.places(&all, mesh, &frame, progress)?;
            let drums = |grown: f64, longer: f64| -> Result<Vec<Mesh>, TradeError> {
                places.iter().map(|p| drum(&frame, *p, pegs.diameter * 0.5 + grown, pegs.length + longer)).collect()
            };
            let (pins, sockets) = (drums(0.0, 0.0)?, drums(pegs.clearance, pegs.clearance)?);
            let with = |half: &Mesh, tools: &[Mesh], rule: &dyn Fn(&[i16]) -> bool| {
                let inputs: Vec<&Mesh> = std::iter::once(half).chain(tools).collect();
                let all = arranged(&inputs, &|_| "the half".into(), progress)?;
                body(&all, half, rule, progress)
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
            Keep::Both => Outcome { done, more: vec![front], ..Outcome::of(back, String::new()) },
            Keep::Front => Outcome { done, ..Outcome::of(front, String::new()) },
            Keep::Back => Outcome { done, ..Outcome::of(back, String::new()) },
        })
    }
}

/// A block that holds all of the bounds before the plane.
fn half_space(frame: &PlaneFrame, bounds: &Aabb) -> Mesh {
    let middle = frame.flatten(bounds.centre());
    // A little more than half the diagonal holds all of it, seen from the middle; more would coarsen the grid.
    let reach = bounds.diagonal().max(1e-9) * 0.55;
    let high = (frame.height(bounds.centre()) + reach).max(reach * 0.1);
    let raw = block(Point::new(-reach, -reach, 0.0), Point::new(2.0 * reach, 2.0 * reach, high));
    placed(raw, frame, middle)
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
        all: &Arrangement,
        mesh: &Mesh,
        frame: &PlaneFrame,
        progress: &Progress,
    ) -> Result<Vec<[f64; 2]>, TradeError> {
        /// Places looked at along the longer side of the cut.
        const STEPS: usize = 64;
        const MOST: usize = 12;
        let positive = |x: f64| x > 0.0 && x.is_finite();
        if !(positive(self.diameter) && positive(self.length) && self.clearance >= 0.0 && self.clearance.is_finite()) {
            return Err(TradeError::refused("a peg needs a diameter and a length above 0 mm and a clearance", vec![]));
        }
        if !(1..=MOST).contains(&self.count) {
            return Err(TradeError::refused(format!("there can be 1 to {MOST} pegs"), vec![]));
        }
        let back = body(all, mesh, |w| w[0] > 0 && w[1] <= 0, progress)?;
        let first_new = mesh.next_face();
        let cut = back.retain_triangles(|t| back.face_of()[t] >= first_new);
        let flat: Vec<[f64; 2]> = cut.points().iter().map(|p| frame.flatten(*p)).collect();
        let border: Vec<([f64; 2], [f64; 2])> = {
            let topology = nimbet_kernel::Topology::new(cut.triangles(), cut.points().len());
            let ends = |h| topology.ends(h);
            topology.naked_halves().into_iter().map(ends).map(|(a, b)| (flat[a as usize], flat[b as usize])).collect()
        };
        let (low, high) = flat.iter().fold(([f64::INFINITY; 2], [f64::NEG_INFINITY; 2]), |(l, h), p| {
            ([l[0].min(p[0]), l[1].min(p[1])], [h[0].max(p[0]), h[1].max(p[1])])
        });
        let step = (high[0] - low[0]).max(high[1] - low[1]) / STEPS as f64;
        let across = |u: usize| ((high[u] - low[u]) / step).ceil() as usize;
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
        for i in 0..=across(0) {
            progress.check()?;
            for j in 0..=across(1) {
                let p = [low[0] + i as f64 * step, low[1] + j as f64 * step];
                if inside(p) {
                    candidates.push((p, room(p)));
                }
            }
        }
        let need = self.diameter * 0.5 + self.clearance;
        let mut places: Vec<[f64; 2]> = Vec::new();
        while places.len() < self.count {
            let apart = |p: [f64; 2]| {
                places.iter().map(|q| (p[0] - q[0]).hypot(p[1] - q[1]) * 0.5).fold(f64::INFINITY, f64::min)
            };
            let score = |(p, room): &([f64; 2], f64)| room.min(apart(*p));
            let best = candidates.iter().max_by(|a, b| score(a).total_cmp(&score(b))).map(|c| (c.0, score(c)));
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
                        vec![frame.lift(p)],
                    ));
                }
                None => return Err(TradeError::refused("the cut is too narrow for pegs", vec![])),
            }
        }
        Ok(places)
    }
}
