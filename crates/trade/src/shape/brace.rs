//! `shape.brace`: bodies that only touch, along an edge or at a point, are held together by rods and beads.
//!
//! Edges of four triangles and points shared by two surfaces are closed, yet no printer can make them: nothing holds there. A
//! rod along each such edge and a bead at each such point, united with the part, make one body of it.

use nimbet_kernel::shapes::{ball, turned};
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Mesh, Point, Progress, Topology, fans};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::solids::{arranged, body};
use crate::words::{count, millimetres};
use crate::{Outcome, TradeError};

/// Parameters of `shape.brace`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Brace {
    /// The radius of rods and beads, mm.
    pub radius: f64,
}

/// Sides of a rod.
const SIDES: usize = 12;

/// More would not be touching by accident.
const MOST: usize = 2000;

impl Brace {
    pub(crate) fn apply(&self, mesh: &Mesh, progress: &Progress) -> Result<Outcome, TradeError> {
        if !(self.radius > 0.0 && self.radius.is_finite()) {
            return Err(TradeError::refused("a rod needs a radius above 0 mm", vec![]));
        }
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        let at = |p: u32| mesh.points()[p as usize];
        let edges: Vec<(Point, Point)> = topology
            .edges_with(EdgeUse::Crowded)
            .map(|e| topology.ends(topology.halves(e)[0]))
            .map(|(a, b)| (at(a), at(b)))
            .collect();
        let points: Vec<Point> = fans::touch_points(&topology).into_iter().map(at).collect();
        if edges.is_empty() && points.is_empty() {
            return Err(TradeError::nothing("no surfaces of the part only touch, along an edge or at a point"));
        }
        if edges.len() + points.len() > MOST {
            let why = format!("surfaces touch in {} places; {MOST} are the most", edges.len() + points.len());
            return Err(TradeError::refused(why, edges.iter().map(|e| e.0).take(1).collect()));
        }
        let mut braces: Vec<Mesh> = edges.iter().filter_map(|&(a, b)| rod(a, b, self.radius)).collect();
        // Beads where the rods of a bent edge meet, too.
        for place in bends(&edges).into_iter().chain(points.iter().copied()) {
            braces.push(ball(self.radius, SIDES / 2).map_points(|p| p + place)?);
        }
        let inputs: Vec<&Mesh> = std::iter::once(mesh).chain(&braces).collect();
        let all = arranged(&inputs, false, &|_| "the part".into(), &progress.stage(0.0, 0.8))?;
        let made = body(&all, |w| w.iter().any(|w| *w > 0), &progress.stage(0.8, 1.0))?;
        let done = format!(
            "held together along {} and at {} by rods and beads of {} radius",
            count(edges.len(), "edge", "edges"),
            count(points.len(), "point", "points"),
            millimetres(self.radius)
        );
        Ok(Outcome::of(made, done))
    }
}

/// A rod from one point to another, its ends square.
fn rod(from: Point, to: Point, radius: f64) -> Option<Mesh> {
    let frame = PlaneFrame::new(from, to - from)?;
    let (length, along) = (from.distance(to), (to - from).normalize_or_zero());
    let upright = turned(&[(0.0, 0.0), (radius, 0.0), (radius, length), (0.0, length)], SIDES);
    upright.map_points(|p| frame.lift([p.x, p.y]) + along * p.z).ok()
}

/// Where edges meet that do not go straight on.
fn bends(edges: &[(Point, Point)]) -> Vec<Point> {
    /// The sine of the angle below which rods go on into each other.
    const STRAIGHT: f64 = 1e-6;
    let mut ends: Vec<([u64; 3], Point, Point)> = edges
        .iter()
        .flat_map(|&(a, b)| [(a, b - a), (b, a - b)])
        .map(|(p, way)| (p.to_array().map(f64::to_bits), p, way.normalize_or_zero()))
        .collect();
    ends.sort_by_key(|e| e.0);
    let bent =
        |e: &&[([u64; 3], Point, Point)]| e.len() > 2 || (e.len() == 2 && e[0].2.cross(e[1].2).length() > STRAIGHT);
    ends.chunk_by(|a, b| a.0 == b.0).filter(bent).map(|e| e[0].1).collect()
}
