//! `shape.patch`: a sheet between lines: flat within one, straight between two, over three or four that go round.

use nimbet_edges::Beyond;
use nimbet_kernel::triangulate::{PlaneFrame, triangulate_flat};
use nimbet_kernel::{Mesh, Point};
use nimbet_profile::bodies::{Lofting, PatchSide, Ring, going_round, loft, matched, patch};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::goes_on::going_on;
use super::path::{PathOf, path_refused};
use super::profile::body_refused;
use crate::edge_chains::one_chain;
use crate::parameter::{Length, Part, Position};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::{Xyz, count, figure};
use crate::{Made, Outcome, TradeError};

/// Parameters of `shape.patch`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Patch {
    /// The numbers of profiles of one line each, which are sides of it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(title = "Profiles that are its sides", with = "Vec<Part>")]
    pub profiles: Vec<u32>,
    /// Edges of the part that are sides of it, by points on them, mm: each with its whole run from corner to corner.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(title = "Edges that are its sides", with = "Vec<Position>", extend("asks" = "edges", "hint" = "Click edges, one for each side."))]
    pub edges: Vec<Xyz>,
    /// Whether it goes on from the faces of the part beside its edges without a crease.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Go on from the part's faces without a crease")]
    pub goes_on: bool,
    /// The farthest it may be from true, mm.
    #[serde(default = "default_chord")]
    #[schemars(title = "Chord tolerance", with = "Length", extend("folded" = true))]
    pub chord: f64,
}

fn default_chord() -> f64 {
    0.02
}

/// Ends of lines nearer than this, mm, meet.
const MEET: f64 = 1e-3;

/// A line that is a side of it.
struct Side {
    points: Vec<Point>,
    closed: bool,
    /// Whether the faces of the part beside it go on in the patch.
    goes_on: bool,
}

impl Side {
    /// How the faces of the part go on at its points, where that is wanted.
    fn going_on(&self, toward: impl Fn(usize) -> Point, given: &Given<'_>) -> Result<Vec<Beyond>, TradeError> {
        /// Edges of the part lie on themselves, but for ends that were put together.
        const OFF: f64 = 2.0 * MEET;
        match self.goes_on {
            true => going_on(given.mesh, (&self.points, self.closed), toward, OFF, given.progress),
            false => Ok(Vec::new()),
        }
    }
}

impl Patch {
    /// Its sides.
    fn sides(&self, given: &Given<'_>) -> Result<Vec<Side>, TradeError> {
        /// A patch has no more; each is looked for in the whole part.
        const MOST: usize = 4;
        let asked = self.profiles.len() + self.edges.len() + usize::from(given.mesh.drawn().is_some());
        if asked > MOST {
            return Err(TradeError::refused(format!("a patch has four sides at most; these are {asked}"), vec![]));
        }
        let mut sides = Vec::new();
        let own = given.mesh.drawn().is_some().then_some(given.mesh);
        for mesh in own.into_iter().chain(given.others) {
            let line = PathOf::Profiles { parts: vec![0], line: None };
            let (path, _) = line.path(given, std::slice::from_ref(mesh))?;
            let points = path.points(self.chord).map_err(path_refused)?;
            sides.push(Side { points, closed: path.closed, goes_on: false });
        }
        for pick in &self.edges {
            let (points, closed) = one_chain(given.mesh, std::slice::from_ref(pick))?;
            sides.push(Side { points, closed, goes_on: self.goes_on });
        }
        if self.goes_on && self.edges.is_empty() {
            let why = "it goes on from faces beside edges of the part; choose edges among its sides";
            return Err(TradeError::refused(why, vec![]));
        }
        Ok(sides)
    }

    /// Straight from one line to another, but where it goes on from faces.
    fn between(&self, sides: [&Side; 2], given: &Given<'_>) -> Result<Mesh, TradeError> {
        let closed = sides[0].closed;
        let ring = |side: &Side| Ring::new(side.points.iter().map(|p| (*p, 0)).collect(), closed);
        let rings = sides.map(ring).to_vec();
        let rings = if closed { matched(rings, &[]) } else { super::loft::alike(rings) };
        let mut leaving = Vec::new();
        for (own, other) in [(0, 1), (1, 0)] {
            let points = rings[own].points.iter().map(|p| p.0).collect();
            let side = Side { points, closed, goes_on: sides[own].goes_on };
            let on = side.going_on(|k| rings[other].at(rings[own].middle(k), closed).0, given)?;
            leaving.push(rings[own].clone().leaving(on.into_iter().map(|on| on.way).collect()));
        }
        let how = Lofting { closed, round: false, smooth: false, ends: false, chord: self.chord };
        loft(&leaving, &how, given.progress).map_err(|e| body_refused(e, sides.iter().map(|s| s.points[0]).collect()))
    }

    /// Over three or four lines that go round.
    fn over(&self, sides: &[Side], given: &Given<'_>) -> Result<Mesh, TradeError> {
        let places: Vec<Point> = sides.iter().map(|s| s.points[0]).collect();
        let lines = sides.iter().map(|s| (s.points.clone(), s.goes_on)).collect();
        let round = going_round(lines, MEET).map_err(path_refused)?;
        let middle = |(points, _): &(Vec<Point>, bool)| points.iter().sum::<Point>() / points.len() as f64;
        let centre = round.iter().map(middle).sum::<Point>() / round.len() as f64;
        let mut lined: Vec<PatchSide> = Vec::new();
        for (points, goes_on) in round {
            let side = Side { points, closed: false, goes_on };
            let normals = side.going_on(|_| centre, given)?.into_iter().map(|on| on.normal).collect();
            lined.push((side.points, normals));
        }
        patch(lined, self.chord).map_err(|e| body_refused(e, places))
    }
}

impl Tool for Patch {
    const KIND: &'static str = "shape.patch";
    const WHAT: &'static str = "Make a sheet between lines.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "patch",
        name: "Patch",
        hint: "A sheet within one outline, between two lines, or over three or four",
        group: "Sheets",
        words: &["surface", "coons", "ruled", "fill", "flat face", "boundary", "edge surface"],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "profiles": [], "chord": b.chord }),
    }];

    fn title(&self) -> String {
        format!("Patch of {}", count(self.profiles.len() + self.edges.len(), "side", "sides"))
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let sides = self.sides(given)?;
        let made = match &sides[..] {
            [] => return Err(TradeError::refused("choose the lines that are its sides", vec![])),
            [Side { closed: true, goes_on: true, points }] => {
                let why = "within one outline it is flat and goes on from no face; a domed cover of the rim does";
                return Err(TradeError::refused(why, vec![points[0]]));
            }
            [Side { closed: true, points, .. }] => flat_face(points)?,
            [a, b] if a.closed == b.closed => self.between([a, b], given)?,
            all if (3..=4).contains(&all.len()) && all.iter().all(|s| !s.closed) => self.over(all, given)?,
            all => {
                let why = format!(
                    "a patch has one closed outline, two lines or two outlines, or three or four lines that go round; these are {}",
                    count(all.len(), "line", "lines")
                );
                return Err(TradeError::refused(why, all.iter().map(|s| s.points[0]).collect()));
            }
        };
        let area = nimbet_kernel::measure::measure(&made).area;
        let done = format!("made a sheet of {} mm²", figure(area));
        let more = vec![Made::plain(made, "Patch")];
        Ok(Outcome { more, ..Outcome::of(given.mesh.clone(), done) })
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        self.profiles.iter_mut().collect()
    }
}

/// What lies within a flat outline.
fn flat_face(points: &[Point]) -> Result<Mesh, TradeError> {
    /// As a share of its size an outline may be so far off a plane.
    const FLAT: f64 = 1e-6;
    let n = points.len();
    let area: Point = (0..n).map(|k| (points[k] - points[0]).cross(points[(k + 1) % n] - points[0])).sum();
    let Some(frame) = PlaneFrame::new(points[0], area) else {
        return Err(TradeError::refused("the outline encloses nothing", vec![points[0]]));
    };
    let size = points.iter().map(|p| p.distance(points[0])).fold(0.0, f64::max);
    if let Some(off) = points.iter().find(|p| frame.height(**p).abs() > FLAT * size) {
        let why = "the outline does not lie in a plane; part it into three or four sides";
        return Err(TradeError::refused(why, vec![*off]));
    }
    let flat: Vec<[f64; 2]> = points.iter().map(|p| frame.flatten(*p)).collect();
    let triangles = triangulate_flat(&flat, &[(0..n).collect()])
        .map_err(|_| TradeError::refused("the outline crosses itself", vec![points[0]]))?;
    let triangles = triangles.into_iter().map(|t| t.map(|k| k as u32)).collect();
    Ok(Mesh::with_one_face(points.to_vec(), triangles)?)
}
