//! `seal.bridge`: joins two rims, or two runs of rims, by a band of triangles. No existing point moves.

use std::collections::{HashMap, HashSet};

use nimbet_kernel::rims::Rim;
use nimbet_kernel::triangulate::{
    Band, FlatError, PlaneFrame, facing_pairs, straight_band, tangent_band, triangulate_flat,
};
use nimbet_kernel::{Mesh, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::loops::against;
use super::named_rims;
use super::new_surface::refuse_clash;
use super::runs::{RunPick, distance_from_run, outward, put_on_rims, runs_between};
use crate::budget::Effort;
use crate::examine::{About, NamedRim, RimFacts, RimPick, mean_plane};
use crate::tool::{Cure, Effect, Entry, Given, Needs, Tool};
use crate::words::{Xyz, count, millimetres};
use crate::{Outcome, TradeError};

/// One side of a bridge.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub enum BridgeSide {
    /// A whole rim.
    Rim(RimPick),
    /// A run of one.
    Run(RunPick),
}

/// How a bridge is shaped.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum BridgeShape {
    /// Straight across from side to side.
    #[default]
    Straight,
    /// In the plane in which both sides lie.
    Flat,
    /// Tangent to the surface at both sides.
    Tangent,
}

/// Parameters of `seal.bridge`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Bridge {
    /// One side.
    pub from: BridgeSide,
    /// The other; both are rims or both are runs.
    pub to: BridgeSide,
    /// How.
    #[serde(default)]
    #[schemars(title = "Shape of the band")]
    pub shape: BridgeShape,
    /// Whether it may pass through the part, to be untangled after. Otherwise that is refused.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "May pass through the part, to be untangled after")]
    pub may_cross: bool,
}

/// A side found: its points in the direction in which the band runs along the first side.
struct Side {
    name: String,
    rim: usize,
    points: Vec<u32>,
}

impl Tool for Bridge {
    const KIND: &'static str = "seal.bridge";
    const WHAT: &'static str = "Join two rims or runs by a band.";
    const EFFORT: Effort = Effort::Searching;
    const ENTRIES: &'static [Entry] = &[
        Entry {
            key: "bridge",
            name: "Bridge rims",
            hint: "Join two rims by a band, straight, flat or tangent",
            group: "Close",
            words: &["connect", "blend holes", "tunnel", "strip"],
            needs: Needs::TwoRims,
            mark: "",
            start: |b| {
                let mut rims = b.seen.into_iter().flat_map(|s| &s.rims).filter(|r| r.closed).map(|r| json!(r.pick));
                json!({ "from": rims.next(), "to": rims.next(), "shape": "straight" })
            },
        },
        Entry {
            key: "bridge_runs",
            name: "Bridge runs",
            hint: "Join two stretches of rims by a band",
            group: "Close",
            words: &["connect edges", "strip"],
            needs: Needs::Rim,
            mark: "/from/through",
            start: |_| {
                let run = json!({ "from": [0, 0, 0], "to": [0, 0, 0], "through": [0, 0, 0] });
                json!({ "from": run, "to": run, "shape": "straight" })
            },
        },
    ];

    fn title(&self) -> String {
        let what = if matches!(self.from, BridgeSide::Rim(_)) { "rims" } else { "runs" };
        let how = match self.shape {
            BridgeShape::Straight => "",
            BridgeShape::Flat => " flat",
            BridgeShape::Tangent => " tangent",
        };
        format!("Bridge two {what}{how}")
    }

    fn remedies(about: &About) -> Vec<Cure> {
        let About::Rim { rim, like: Some(other), .. } = about else { return vec![] };
        let side = |rim: &NamedRim| BridgeSide::Rim(rim.pick.clone());
        let bridge = Self { from: side(rim), to: side(other), shape: BridgeShape::Straight, may_cross: false };
        vec![Cure::new(4, format!("Bridge {} and {}", rim.name, other.name), bridge)]
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let closed = matches!(self.from, BridgeSide::Rim(_));
        if closed != matches!(self.to, BridgeSide::Rim(_)) {
            return Err(TradeError::refused("a bridge joins two whole rims or two runs", vec![]));
        }
        let ends: Vec<Xyz> = [&self.from, &self.to]
            .into_iter()
            .flat_map(|side| if let BridgeSide::Run(run) = side { vec![run.from, run.to] } else { vec![] })
            .collect();
        let (mesh, ends) = put_on_rims(mesh, &ends)?;
        let mesh = &mesh;
        let (rims, facts) = named_rims(mesh);
        let from = find(mesh, &rims, &facts, &self.from, ends.get(..2))?;
        let to = find(mesh, &rims, &facts, &self.to, ends.get(2..))?;
        refuse_unfit(mesh, [&from, &to], [&facts[from.rim], &facts[to.rim]], closed)?;

        // Where the two sides agree, their borders run opposite ways round the band.
        let a: Vec<u32> = from.points.iter().rev().copied().collect();
        let b = to.points;
        let place = |ids: &[u32]| ids.iter().map(|&i| mesh.points()[i as usize]).collect::<Vec<Point>>();
        let (at_a, at_b) = (place(&a), place(&b));
        let agreeing_pairs = facing_pairs(&at_a, &at_b, closed, &progress.stage(0.0, 0.4))?;
        let agreeing = straight_band(&at_a, &at_b, &agreeing_pairs);
        let b_turned: Vec<u32> = b.iter().rev().copied().collect();
        let at_b_turned = place(&b_turned);
        let clashing_pairs = facing_pairs(&at_a, &at_b_turned, closed, &progress.stage(0.4, 0.8))?;
        let clashing = straight_band(&at_a, &at_b_turned, &clashing_pairs);
        /// The band of least area is twisted like a bow tie when run the wrong way; half the area leaves no doubt.
        const NO_DOUBT: f64 = 0.5;
        let turned = clashing.1 < agreeing.1 * NO_DOUBT;
        let (b, at_b, pairs, straight) = if turned {
            (b_turned, at_b_turned, clashing_pairs, clashing.0)
        } else {
            (b, at_b, agreeing_pairs, agreeing.0)
        };
        progress.report(0.8, "making the band")?;
        let band = match self.shape {
            BridgeShape::Straight => straight,
            BridgeShape::Flat => flat_band(&at_a, &at_b, closed)?,
            BridgeShape::Tangent => {
                let out = [outward(mesh, &rims[from.rim]), outward(mesh, &rims[to.rim])];
                let leave: Vec<Point> = a.iter().map(|i| out[0].get(i).copied().unwrap_or_default()).collect();
                let meet: Vec<Point> = b.iter().map(|i| out[1].get(i).copied().unwrap_or_default()).collect();
                tangent_band(&at_a, &leave, &at_b, &meet, &pairs)
            }
        };

        let (points, mut all, mut faces) = mesh.clone().into_parts();
        let sides = a.len() + b.len();
        let id = |n: usize| match n {
            n if n < a.len() => a[n],
            n if n < sides => b[n - a.len()],
            n => (points.len() + n - sides) as u32,
        };
        // Sides that share a point make triangles without area there.
        let whole = |t: &[u32; 3]| t[0] != t[1] && t[1] != t[2] && t[2] != t[0];
        let new: Vec<[u32; 3]> = band.triangles.iter().map(|t| t.map(id)).filter(whole).collect();
        refuse_taken(mesh, &new)?;
        let added = new.len();
        let face = mesh.next_face();
        all.extend(new);
        faces.resize(all.len(), face);
        let points = [points, band.inner].concat();
        let told = format!("joined {} and {} by {}", from.name, to.name, count(added, "triangle", "triangles"));
        let whole = Mesh::new(points, all, faces)?;
        if !self.may_cross {
            refuse_clash(&whole, mesh.triangles().len(), "the band", &progress.stage(0.9, 1.0))?;
        }
        let mut outcome = Outcome::of(whole, told);
        if turned {
            outcome.left.push("the two sides disagree about the outside; Make sides agree mends that".into());
        }
        Ok(outcome)
    }

    fn effect(&self) -> Effect {
        Effect::Mends
    }
}

/// The band in the plane of both sides.
fn flat_band(a: &[Point], b: &[Point], closed: bool) -> Result<Band, TradeError> {
    let all: Vec<Point> = a.iter().chain(b).copied().collect();
    // An outline round the band, or two round a ring.
    let (n, m) = (a.len(), b.len());
    let outlines: Vec<Vec<usize>> = if closed {
        vec![(0..n).collect(), (n..n + m).collect()]
    } else {
        let back = (n..n + m).rev();
        let mut outline: Vec<usize> = (0..n).chain(back).collect();
        // Ends that are one point are named once.
        if all[n - 1] == all[n + m - 1] {
            outline.remove(n);
        }
        if all[0] == all[n] {
            outline.pop();
        }
        vec![outline]
    };
    let around: Vec<Point> = outlines[0].iter().map(|&i| all[i]).collect();
    let (centre, normal, _) = mean_plane(&around);
    let extent = nimbet_kernel::Aabb::of(all.iter().copied()).diagonal();
    let frame = PlaneFrame::new(centre, normal);
    let off = all.iter().map(|p| frame.map_or(f64::INFINITY, |f| f.height(*p).abs())).fold(0.0, f64::max);
    let Some(frame) = frame.filter(|_| off <= (extent * 1e-4).max(1e-3)) else {
        let why = if off.is_finite() {
            format!(
                "the two sides do not lie in one plane: they stand {} off it; bridge them straight",
                millimetres(off)
            )
        } else {
            "the two sides lie in one line; no flat band fits between them".into()
        };
        return Err(TradeError::refused(why, vec![centre]));
    };
    let flat: Vec<[f64; 2]> = all.iter().map(|p| frame.flatten(*p)).collect();
    let cut = triangulate_flat(&flat, &outlines).map_err(|e| {
        let places = match e {
            FlatError::Crosses { at, .. } => vec![frame.lift(at)],
            FlatError::Coincides { point } => vec![all[point]],
        };
        TradeError::refused("a flat band would cross itself here; bridge straight", places)
    })?;
    // Counter-clockwise in the frame; the band must run against a.
    let along = cut.iter().any(|t| (0..3).any(|k| t[k] + 1 == t[(k + 1) % 3] && t[(k + 1) % 3] < n));
    let triangles = cut.into_iter().map(|t| if along { [t[0], t[2], t[1]] } else { t }).collect();
    Ok(Band { inner: vec![], triangles })
}

/// Finds a side; `ends` are the points a run begins and ends at.
fn find(
    mesh: &Mesh,
    rims: &[Rim],
    facts: &[RimFacts],
    side: &BridgeSide,
    ends: Option<&[u32]>,
) -> Result<Side, TradeError> {
    match (side, ends) {
        (BridgeSide::Run(pick), Some(&[from, to])) => {
            let places = || vec![Point::from_array(pick.from), Point::from_array(pick.to)];
            if from == to {
                return Err(TradeError::refused("a run needs two different ends", places()));
            }
            let Some(rim) = rims.iter().position(|r| r.points.contains(&from) && r.points.contains(&to)) else {
                return Err(TradeError::refused("the ends of the run do not lie on one rim", places()));
            };
            let through = Point::from_array(pick.through);
            let off = |run: &Vec<u32>| distance_from_run(mesh, run, through);
            let points = if facts[rim].closed {
                let runs = runs_between(mesh, &rims[rim], &[from, to]);
                runs.into_iter().min_by(|x, y| off(x).total_cmp(&off(y))).unwrap_or_default()
            } else {
                return Err(open_chain(&facts[rim]));
            };
            Ok(Side { name: format!("a run of {}", facts[rim].name), rim, points })
        }
        (BridgeSide::Rim(pick), _) => {
            let rim = pick.find(mesh, rims, facts).ok_or_else(|| TradeError::NeedsNewPick {
                what: format!("the rim of {} length", millimetres(pick.length)),
                place: Point::from_array(pick.near),
            })?;
            if !facts[rim].closed {
                return Err(open_chain(&facts[rim]));
            }
            Ok(Side { name: facts[rim].name.clone(), rim, points: against(mesh.triangles(), &rims[rim]) })
        }
        _ => Err(TradeError::refused("a run needs two ends", vec![])),
    }
}

fn open_chain(rim: &RimFacts) -> TradeError {
    TradeError::refused(
        format!(
            "{} is an open chain: it ends at edges of three or more triangles, which must be mended first",
            rim.name
        ),
        vec![Point::from_array(rim.centre)],
    )
}

/// Refuses sides that overlap: whole rims may not touch, runs may share only their ends.
fn refuse_unfit(mesh: &Mesh, sides: [&Side; 2], rims: [&RimFacts; 2], closed: bool) -> Result<(), TradeError> {
    let inside = |points: &[u32]| -> HashSet<u32> {
        let ends = if closed { 0 } else { 1 };
        points[ends..points.len() - ends].iter().copied().collect()
    };
    if closed && sides[0].rim == sides[1].rim {
        return Err(TradeError::refused(
            "a bridge joins two rims, and both picks mean the same one; cover it, or pick two runs of it",
            vec![Point::from_array(rims[0].centre)],
        ));
    }
    let shared = inside(&sides[0].points).into_iter().find(|p| sides[1].points.contains(p));
    let shared = shared.or_else(|| inside(&sides[1].points).into_iter().find(|p| sides[0].points.contains(p)));
    let same = !closed && sides[0].points == sides[1].points;
    if let Some(p) = shared.or(same.then(|| sides[0].points[0])) {
        let why = if closed {
            format!("{} and {} touch at a point; a band there would pinch", sides[0].name, sides[1].name)
        } else {
            "the two runs overlap; a bridge joins runs that share at most their ends".into()
        };
        return Err(TradeError::refused(why, vec![mesh.points()[p as usize]]));
    }
    Ok(())
}

/// Refuses a band one of whose sides across is there already: it would get a third triangle.
fn refuse_taken(mesh: &Mesh, new: &[[u32; 3]]) -> Result<(), TradeError> {
    let sides = |t: &[u32; 3]| [(t[0], t[1]), (t[1], t[2]), (t[2], t[0])];
    let low_high = |(a, b): (u32, u32)| (a.min(b), a.max(b));
    let mut uses = HashMap::new();
    for side in new.iter().flat_map(sides).map(low_high) {
        *uses.entry(side).or_insert(0u32) += 1;
    }
    for side in mesh.triangles().iter().flat_map(sides).map(low_high) {
        uses.entry(side).and_modify(|n| *n += 1);
    }
    let there = uses.into_iter().filter(|(_, n)| *n > 2).map(|(side, _)| side).min();
    match there {
        Some((a, b)) => Err(TradeError::refused(
            "the band would run along an edge the part has already; cover the rims instead",
            vec![mesh.points()[a as usize].midpoint(mesh.points()[b as usize])],
        )),
        None => Ok(()),
    }
}
