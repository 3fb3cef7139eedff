//! `shape.brace`: bodies that only touch, along an edge or at a point, are held together by rods and beads.
//!
//! Edges of four triangles and points shared by two surfaces are closed, yet no printer can make them: nothing holds there. A
//! rod along each such edge and a bead at each such point, united with the part, make one body of it.

use glam::DQuat;
use nimbet_kernel::arrange::{Arrangement, Body};
use nimbet_kernel::shapes::{ball, turned};
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Mesh, Point, Progress, Topology, fans};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::examine::{About, brace_radius};
use crate::parameter::Length;
use crate::solids::{arranged, as_cut, told};
use crate::tool::{Cure, Given, Tool};
use crate::words::{count, millimetres};
use crate::{Outcome, TradeError};

/// Parameters of `shape.brace`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Brace {
    /// The radius of rods and beads, mm.
    #[schemars(title = "Radius of rods and beads", with = "Length")]
    pub radius: f64,
}

/// Sides of a rod.
const SIDES: usize = 8;

/// More would not be touching by accident.
const MOST: usize = 2000;

impl Tool for Brace {
    const KIND: &'static str = "shape.brace";
    const WHAT: &'static str = "Hold together what only touches.";

    fn title(&self) -> String {
        format!("Brace, radius {}", crate::words::millimetres(self.radius))
    }

    fn remedies(about: &About) -> Vec<Cure> {
        let (About::Crowded { touching: Some(diagonal), .. } | About::TouchPoint { diagonal }) = *about else {
            return vec![];
        };
        let radius = brace_radius(diagonal);
        vec![Cure::new(1, format!("Brace with rods of {}", millimetres(radius)), Self { radius })]
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let (made, edges, points) =
            held_together(mesh, self.radius, Held { at_points: true, uncrossed: false }, progress)?;
        if edges + points == 0 {
            return Err(TradeError::nothing("no surfaces of the part only touch, along an edge or at a point"));
        }
        Ok(Outcome::of(made, told_held(edges, points, self.radius)))
    }
}

/// What was held together.
pub(crate) fn told_held(edges: usize, points: usize, radius: f64) -> String {
    format!(
        "held together along {} and at {} by rods and beads of {} radius",
        count(edges, "edge", "edges"),
        count(points, "point", "points"),
        millimetres(radius)
    )
}

/// How a part is held together.
#[derive(Clone, Copy)]
pub(crate) struct Held {
    /// Whether it gets beads at points even where no edges touch.
    pub at_points: bool,
    /// Whether it is known to be closed and to cross nothing of itself; only what is near the rods is looked at then.
    pub uncrossed: bool,
}

/// A part with rods along the edges at which its surfaces only touch, and beads at the points, if those are asked for or there
/// are such edges; also how many edges and points that were.
pub(crate) fn held_together(
    mesh: &Mesh,
    radius: f64,
    Held { at_points, uncrossed }: Held,
    progress: &Progress,
) -> Result<(Mesh, usize, usize), TradeError> {
    /// Where a rod ends on another surface the two may touch anew; a little thicker it does not.
    const ROUNDS: [f64; 5] = [1.0, 1.07, 1.15, 1.27, 1.4];
    let (mut edges, mut points) = (0, 0);
    let mut made = Body { mesh: mesh.clone(), begin: vec![0] };
    let mut last = None;
    for (n, share) in ROUNDS.into_iter().enumerate() {
        let touching = Touching::of(&made.mesh);
        if touching.edges.is_empty() && (n > 0 || !at_points || touching.points.is_empty()) {
            break;
        }
        edges += touching.edges.len();
        points += touching.points.len();
        let all = touching.held(&made.mesh, uncrossed, radius * share, &progress.part(n, ROUNDS.len()))?;
        made = as_cut(&all, |w| w.iter().any(|w| *w > 0), &progress.part(n, ROUNDS.len()).stage(0.8, 1.0))?;
        last = Some(all);
    }
    // One round puts braces on what the one before it left: only what comes of the last is settled.
    let made = match last {
        Some(all) => all.settle(made, progress).map_err(|e| told(e, &|_| "the result".into()))?,
        None => made,
    };
    Ok((made.mesh, edges, points))
}

/// Where surfaces of a part only touch.
struct Touching {
    edges: Vec<(Point, Point)>,
    points: Vec<Point>,
}

impl Touching {
    fn of(mesh: &Mesh) -> Self {
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        let at = |p: u32| mesh.points()[p as usize];
        let crowded = topology.edges_with(EdgeUse::Crowded).map(|e| topology.ends(topology.halves(e)[0]));
        Self {
            edges: crowded.map(|(a, b)| (at(a), at(b))).collect(),
            points: fans::touch_points(&topology).into_iter().map(at).collect(),
        }
    }

    /// The part, arranged with a rod along each edge and a bead at each point.
    fn held(&self, mesh: &Mesh, uncrossed: bool, radius: f64, progress: &Progress) -> Result<Arrangement, TradeError> {
        if self.edges.len() + self.points.len() > MOST {
            let why = format!("surfaces touch in {} places; {MOST} are the most", self.edges.len() + self.points.len());
            return Err(TradeError::refused(why, self.edges.iter().map(|e| e.0).take(1).collect()));
        }
        // All as one body, which may cross itself.
        let (mut points, mut triangles): (Vec<Point>, Vec<[u32; 3]>) = (vec![], vec![]);
        let mut put = |brace: Mesh| {
            let first = points.len() as u32;
            points.extend(brace.points());
            triangles.extend(brace.triangles().iter().map(|t| t.map(|c| c + first)));
        };
        // Each a little thicker than another, so that they do not touch each other by chance.
        let thick = |n: usize| radius * (1.0 + UNLIKE * (n as f64 * GOLDEN).fract());
        let rods = self.edges.iter().enumerate().filter_map(|(n, &(a, b))| rod(a, b, thick(n)));
        rods.for_each(&mut put);
        // Beads where the rods of a bent edge meet, too.
        for (n, place) in bends(&self.edges).into_iter().chain(self.points.iter().copied()).enumerate() {
            let skew = DQuat::from_scaled_axis(Point::new(0.3, 0.5, 0.2));
            put(ball(thick(n), SIDES / 2).map_points(|p| skew * p + place)?);
        }
        let braces = Mesh::with_one_face(points, triangles)?;
        arranged(&[mesh, &braces], uncrossed, &|_| "the part".into(), &progress.stage(0.0, 0.8))
    }
}

/// How much thicker rods are than asked, at most, …
const UNLIKE: f64 = 0.03;
/// … spread by the golden section.
const GOLDEN: f64 = 0.618_033_988_749_895;

/// A rod from one point to another, its ends square; turned so that its sides lie along none of the part's.
fn rod(from: Point, to: Point, radius: f64) -> Option<Mesh> {
    /// By how much, radians.
    const SKEW: f64 = 0.19;
    let frame = PlaneFrame::new(from, to - from)?;
    let (length, along) = (from.distance(to), (to - from).normalize_or_zero());
    let upright = turned(&[(0.0, 0.0), (radius, 0.0), (radius, length), (0.0, length)], SIDES);
    let (sin, cos) = SKEW.sin_cos();
    upright.map_points(|p| frame.lift([p.x * cos - p.y * sin, p.x * sin + p.y * cos]) + along * p.z).ok()
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
