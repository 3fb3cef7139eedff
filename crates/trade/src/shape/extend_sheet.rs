//! `shape.extend_sheet`: runs of a sheet's border carried straight on, by a length or until they meet something.

use std::collections::{BTreeMap, BTreeSet};

use nimbet_kernel::arrange::Arrangement;
use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::segments::{nearest_on_segment, nearest_on_triangle};
use nimbet_kernel::{Aabb, Bvh, FaceId, Mesh, Point, Topology};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::sheet_ends::{SheetEnd, refuse_what_is_no_sheet};
use crate::edge_chains::naked_edges;
use crate::examine::{FaceSurface, face_surface};
use crate::parameter::{Length, Position};
use crate::solids::told;
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::{Xyz, figure, millimetres};
use crate::{Outcome, TradeError};

/// Parameters of `shape.extend_sheet`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ExtendSheet {
    /// Points on border edges, mm: each with its whole run from corner to corner.
    #[schemars(with = "Vec<Position>", extend("asks" = "edges", "least" = 1, "hint" = "Click edges of the border."))]
    pub edges: Vec<Xyz>,
    /// How far they are carried on; with something to meet, the farthest.
    #[schemars(title = "By", with = "Length")]
    pub by: f64,
    /// What they are carried on to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Until it meets", extend("empty" = "nothing"))]
    pub until: Option<SheetEnd>,
}

impl Tool for ExtendSheet {
    const KIND: &'static str = "shape.extend_sheet";
    const WHAT: &'static str = "Carry a sheet straight on beyond its border.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "extend_sheet",
        name: "Extend a sheet",
        hint: "Carry a sheet straight on, by a length or until it meets something",
        group: "Sheets",
        words: &["untrim", "lengthen", "prolong", "extend surface", "meet", "reach"],
        needs: Needs::Border,
        mark: "",
        start: |b| json!({ "edges": [], "by": b.share(0.1).max(0.1) }),
    }];

    fn title(&self) -> String {
        match self.until {
            Some(_) => "Extend a sheet to meet".into(),
            None => format!("Extend a sheet by {}", millimetres(self.by)),
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        refuse_what_is_no_sheet(mesh)?;
        if self.edges.is_empty() {
            return Err(TradeError::refused("click the edges that are carried on", vec![]));
        }
        progress.report(0.0, "carrying the sheet on")?;
        let (longer, far) = extended(mesh, &naked_edges(mesh, &self.edges)?, self.by)?;
        let made = match &self.until {
            None => longer,
            Some(until) => {
                let cutter = until.sheet(given, &progress.stage(0.1, 0.2))?;
                let all = Arrangement::new(&[], &[&longer, &cutter], &progress.stage(0.2, 0.9));
                let all = all.map_err(|e| told(e, &|_| "the sheet".into()))?;
                let stays = up_to(&all, (mesh, &far), (self.by, until))?;
                all.without_splinters(stays, &progress.stage(0.9, 1.0))?
            }
        };
        let area = |m: &Mesh| nimbet_kernel::measure::measure(m).area;
        let (before, after) = (area(mesh), area(&made));
        let done = format!("carried on by {} mm²: {} mm² now", figure(after - before), figure(after));
        Ok(Outcome::of(made, done))
    }

    fn makes(&self, parts: &[crate::budget::Extent]) -> f64 {
        // A border of a sheet of n triangles has about as many edges as its root; two triangles for each.
        parts.iter().map(|p| p.triangles + 2.0 * p.triangles.sqrt()).sum()
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        self.until.iter_mut().flat_map(SheetEnd::parts).collect()
    }
}

/// An edge of the border, as its triangle has it: from one point to another, with where it goes on, square to it.
#[derive(Clone, Copy)]
struct Side {
    ends: [u32; 2],
    outward: Point,
    face: FaceId,
}

/// Directions of two sides that meet go on together where the cosine between them is above this: 143 degrees of turn.
const TOGETHER: f64 = -0.8;
/// Sides go on straight where it is above this: points between them are told apart by less than they can be exact.
const STRAIGHT: f64 = 1.0 - 1e-10;
/// A run ends along the side beside it where that goes on at no more than 60 degrees to it.
const BESIDE: f64 = 0.5;

/// The border of a sheet, of which some sides are carried on.
struct Border<'a> {
    mesh: &'a Mesh,
    sides: Vec<Side>,
    chosen: Vec<bool>,
    /// The sides that begin and end at each point.
    begins: BTreeMap<u32, Vec<usize>>,
    ends: BTreeMap<u32, Vec<usize>>,
}

impl<'a> Border<'a> {
    fn of(mesh: &'a Mesh, chosen: &BTreeSet<(u32, u32)>) -> Self {
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        let at = |p: u32| mesh.points()[p as usize];
        let side = |half: u32| {
            let (a, b) = topology.ends(half);
            let t = half as usize / 3;
            let outward = (at(b) - at(a)).cross(mesh.area_vector(t)).normalize_or_zero();
            Side { ends: [a, b], outward, face: mesh.face_of()[t] }
        };
        let sides: Vec<Side> = topology.naked_halves().into_iter().map(side).collect();
        let (mut begins, mut ends): (BTreeMap<u32, Vec<usize>>, BTreeMap<u32, Vec<usize>>) = Default::default();
        for (n, side) in sides.iter().enumerate() {
            begins.entry(side.ends[0]).or_default().push(n);
            ends.entry(side.ends[1]).or_default().push(n);
        }
        let is_chosen = |Side { ends: [a, b], .. }: &Side| chosen.contains(&(*a, *b)) || chosen.contains(&(*b, *a));
        Self { mesh, chosen: sides.iter().map(is_chosen).collect(), sides, begins, ends }
    }

    fn at(&self, p: u32) -> Point {
        self.mesh.points()[p as usize]
    }

    fn carried(&self) -> impl Iterator<Item = &Side> {
        self.sides.iter().zip(&self.chosen).filter(|(_, chosen)| **chosen).map(|(side, _)| side)
    }

    /// The sides before and after a point.
    fn about(&self, point: u32) -> Result<[usize; 2], TradeError> {
        match (self.ends.get(&point).map(Vec::as_slice), self.begins.get(&point).map(Vec::as_slice)) {
            (Some([before]), Some([after])) => Ok([*before, *after]),
            _ => {
                let why = "the border touches itself here; carry on another run";
                Err(TradeError::refused(why, vec![self.at(point)]))
            }
        }
    }

    /// Where each point of the sides goes that are carried on, for each millimetre.
    fn ways(&self) -> Result<BTreeMap<u32, Point>, TradeError> {
        let mut ways: BTreeMap<u32, Point> = BTreeMap::new();
        let mut straight: BTreeSet<u32> = BTreeSet::new();
        for point in self.carried().flat_map(|side| side.ends) {
            let [before, after] = self.about(point)?;
            let [c, d] = [before, after].map(|n| self.sides[n].outward);
            let way = match [before, after].map(|n| self.chosen[n]) {
                [true, true] if c.dot(d) < TOGETHER => {
                    let why = "the border turns back here, so that its sides do not go on together";
                    return Err(TradeError::refused(why, vec![self.at(point)]));
                }
                [true, true] => {
                    if c.dot(d) > STRAIGHT {
                        straight.insert(point);
                    }
                    (c + d) / (1.0 + c.dot(d))
                }
                [first, _] => {
                    let (outward, beside) = if first { (c, after) } else { (d, before) };
                    let [a, b] = self.sides[beside].ends;
                    let along = (self.at(point) - self.at(if a == point { b } else { a })).normalize_or_zero();
                    let share = along.dot(outward);
                    if share > BESIDE { along / share } else { outward }
                }
            };
            ways.insert(point, way);
        }
        self.share_out(&straight, &mut ways)?;
        Ok(ways)
    }

    /// Points that only divide a straight stretch go as its ends do, by where they lie between them.
    fn share_out(&self, straight: &BTreeSet<u32>, ways: &mut BTreeMap<u32, Point>) -> Result<(), TradeError> {
        for corner in ways.keys().filter(|p| !straight.contains(p)).copied().collect::<Vec<_>>() {
            let mut stretch = vec![corner];
            let mut side = self.about(corner)?[1];
            while self.chosen[side] {
                let next = self.sides[side].ends[1];
                stretch.push(next);
                if !straight.contains(&next) {
                    break;
                }
                side = self.about(next)?[1];
            }
            let last = stretch[stretch.len() - 1];
            let whole = self.at(last).distance(self.at(corner));
            let (from, to) = (ways[&corner], ways[&last]);
            for point in stretch.iter().filter(|p| straight.contains(p)) {
                let share = self.at(*point).distance(self.at(corner)) / whole;
                ways.insert(*point, from + (to - from) * share);
            }
        }
        Ok(())
    }
}

/// The sheet carried on, and the edges at which it ends then.
fn extended(mesh: &Mesh, chosen: &BTreeSet<(u32, u32)>, by: f64) -> Result<(Mesh, Vec<[Point; 2]>), TradeError> {
    let border = Border::of(mesh, chosen);
    let ways = border.ways()?;
    refuse_folds(&border, &ways, by)?;
    let new: BTreeMap<u32, u32> = ways.keys().zip(mesh.points().len() as u32..).map(|(p, n)| (*p, n)).collect();
    let mut points = mesh.points().to_vec();
    points.extend(ways.iter().map(|(p, way)| border.at(*p) + *way * by));
    let (mut triangles, mut faces) = (mesh.triangles().to_vec(), mesh.face_of().to_vec());
    // What is flat goes on as the same face; what is not goes on straight, and is another.
    let mut face_of: BTreeMap<FaceId, FaceId> = BTreeMap::new();
    let mut next = mesh.next_face().0;
    for side in border.carried() {
        let [a, b] = side.ends;
        let face = *face_of.entry(side.face).or_insert_with(|| {
            if matches!(face_surface(mesh, side.face), Some(FaceSurface::Plane { .. })) {
                return side.face;
            }
            next += 1;
            FaceId(next - 1)
        });
        triangles.extend([[b, a, new[&a]], [b, new[&a], new[&b]]]);
        faces.extend([face; 2]);
    }
    let far = border.carried().map(|side| side.ends.map(|p| points[new[&p] as usize])).collect();
    Ok((Mesh::new(points, triangles, faces)?, far))
}

/// Refuses a length at which a hollow border has run together.
fn refuse_folds(border: &Border<'_>, ways: &BTreeMap<u32, Point>, by: f64) -> Result<(), TradeError> {
    let most = |side: &Side| {
        let [a, b] = side.ends;
        let along = border.at(b) - border.at(a);
        let shrinks = -(ways[&b] - ways[&a]).dot(along);
        if shrinks > 0.0 { along.length_squared() / shrinks } else { f64::INFINITY }
    };
    let tightest = border.carried().map(|side| (most(side), side)).min_by(|x, y| x.0.total_cmp(&y.0));
    match tightest {
        Some((most, side)) if most <= by => {
            let why = format!("the border is hollow here and has run together after {}", millimetres(most));
            Err(TradeError::refused(why, vec![border.at(side.ends[0]).midpoint(border.at(side.ends[1]))]))
        }
        _ => Ok(()),
    }
}

/// What of a sheet that was carried on is there before it meets something; `far` is where it ended.
fn up_to(
    all: &Arrangement,
    (mesh, far): (&Mesh, &[[Point; 2]]),
    (by, until): (f64, &SheetEnd),
) -> Result<Mesh, TradeError> {
    const MOST: usize = 8;
    let parted = all.parted(0)?;
    if parted.seams.is_empty() {
        let why = format!("after {} it has not met {}", millimetres(by), until.name());
        return Err(TradeError::refused(why, vec![]));
    }
    let (bvh, ends) = (triangle_bvh(mesh), Bvh::new(far.iter().map(|side| Aabb::of(*side)).collect()));
    // Points lie on the grid of the arrangement afterwards.
    let close = bvh.bounds().diagonal().max(by) * 1e-7;
    let on_sheet = |p: Point| {
        let distance = |t: u32| Some(nearest_on_triangle(p, mesh.corners(t as usize)).distance_squared(p));
        bvh.nearest(p, close, distance).is_some()
    };
    let is_end = |p: Point| {
        let distance = |n: u32| Some(nearest_on_segment(p, far[n as usize][0], far[n as usize][1]).1);
        ends.nearest(p, close, distance).is_some()
    };
    let inner = |t: usize| {
        let [a, b, c] = parted.mesh.corners(t);
        on_sheet((a + b + c) / 3.0)
    };
    let stays: BTreeSet<u32> = (0..parted.piece_of.len()).filter(|t| inner(*t)).map(|t| parted.piece_of[t]).collect();
    let kept = parted.mesh.retain_triangles(|t| stays.contains(&parted.piece_of[t]));
    let topology = Topology::new(kept.triangles(), kept.points().len());
    let at = |p: u32| kept.points()[p as usize];
    let border = topology.naked_halves().into_iter().map(|half| topology.ends(half));
    let past: Vec<Point> = border.map(|(a, b)| at(a).midpoint(at(b))).filter(|p| is_end(*p)).take(MOST).collect();
    if past.is_empty() {
        return Ok(kept);
    }
    let why = format!("after {} it has not met {} here", millimetres(by), until.name());
    Err(TradeError::refused(why, past))
}
