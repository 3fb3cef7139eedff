//! Where a part is thinner than its process makes: walls, pins, slots.

use std::collections::BTreeMap;

use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::segments::nearest_on_triangle;
use nimbet_kernel::thickness::{Gauge, Side, Thickness, Way, divide, middles};
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{Aabb, Bvh, Cancelled, Mesh, Point, Progress, Topology, UnionFind};
use rayon::prelude::*;

use super::shelf::{about, measured};
use super::wall_map::{FINE, MOST_DIVIDED};
use crate::TradeError;
use crate::examine::{FindingKind, Place};
use crate::words::{Xyz, xyz};

/// A measure is right to a hundredth, and facets of round faces take another: what misses by no more is not told.
pub(super) const SURE: f64 = 0.97;
/// What is less than this many times as wide as thick is a pin, not a wall.
const PIN: f64 = 1.3;
/// So many areas of a kind are told one by one.
pub(super) const MOST_AREAS: usize = 50;

/// A connected area that is thinner than it should be.
pub(super) struct ThinArea {
    pub kind: FindingKind,
    /// The least thickness, mm.
    pub least: f64,
    /// Where that is.
    pub at: Xyz,
    pub place: Place,
    /// mm²; of walls and slots on one side.
    pub area: f64,
    /// Of its two sides the smaller, mm²: beyond the border of what is thin the other still has places from which it is.
    side: f64,
}

/// The thin areas of a solid, the thinnest of each kind first: walls below `wall`, pins below `pin`, slots below `slot`, mm.
pub(super) fn thin_areas(
    mesh: &Mesh,
    (wall, pin, slot): (f64, f64, f64),
    progress: &Progress,
) -> Result<Vec<ThinArea>, TradeError> {
    let size = about(Aabb::of(mesh.points().iter().copied()).diagonal());
    let fine = divide(mesh, size * FINE, MOST_DIVIDED.max(mesh.triangles().len()));
    let places = middles(&fine);
    let mut areas = Vec::new();
    let most = wall.max(pin);
    let held = measured(fine.clone(), places.clone(), (Side::Inside, Way::Ball), most, &progress.stage(0.0, 0.45))?;
    progress.report(0.45, "telling pins from walls")?;
    let inside = Gauge::new(&fine, Side::Inside, most);
    let kinds: Vec<Option<FindingKind>> = places
        .par_iter()
        .zip(held.found())
        .map(|((t, p), found)| {
            progress.check()?;
            let Some(across) = found.as_ref().map(|f| f.across) else { return Ok(None) };
            let is_pin =
                across < pin * SURE && inside.girth(*t as usize, *p, across).is_some_and(|g| g < pin.min(PIN * across));
            let thin = across < wall * SURE;
            Ok(if is_pin { Some(FindingKind::ThinPin) } else { thin.then_some(FindingKind::ThinWall) })
        })
        .collect::<Result<_, TradeError>>()?;
    areas.extend(gathered(&fine, held.found(), &kinds, most));
    if slot > 0.0 {
        let how = (Side::Outside, Way::Ball);
        let held = measured(fine.clone(), places, how, slot, &progress.stage(0.55, 1.0))?;
        let narrow = |f: &Option<Thickness>| {
            f.as_ref().is_some_and(|f| f.across < slot * SURE).then_some(FindingKind::NarrowSlot)
        };
        let kinds: Vec<Option<FindingKind>> = held.found().iter().map(narrow).collect();
        areas.extend(gathered(&fine, held.found(), &kinds, slot));
    }
    // Of what has two sides one is told.
    areas.iter_mut().filter(|a| a.kind != FindingKind::ThinPin).for_each(|a| a.area = a.side);
    areas.sort_by(|a, b| a.kind.cmp(&b.kind).then(a.least.total_cmp(&b.least)));
    let mut seen: BTreeMap<FindingKind, usize> = BTreeMap::new();
    areas.retain(|a| {
        let n = seen.entry(a.kind).or_default();
        *n += 1;
        *n <= MOST_AREAS
    });
    Ok(areas)
}

/// What of a thin area was gathered.
struct Held {
    kind: FindingKind,
    least: f64,
    at: Point,
    /// The area of each of its connected pieces of surface.
    sides: BTreeMap<u32, f64>,
    points: Vec<Point>,
}

/// Triangles of one kind that hang together: along edges, across, or nearer to each other than `near`, mm.
pub(super) fn gathered(
    mesh: &Mesh,
    found: &[Option<Thickness>],
    kinds: &[Option<FindingKind>],
    near: f64,
) -> Vec<ThinArea> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let (mut sets, mut sides) = (UnionFind::new(mesh.triangles().len()), UnionFind::new(mesh.triangles().len()));
    let alike = |a: u32, b: u32| kinds[a as usize].is_some() && kinds[a as usize] == kinds[b as usize];
    for edge in topology.edges_with(EdgeUse::Regular) {
        let [a, b] = [topology.halves(edge)[0] / 3, topology.halves(edge)[1] / 3];
        if alike(a, b) {
            sets.union(a, b);
            sides.union(a, b);
        }
    }
    // Both sides of what is thin are one area.
    for (t, across) in found.iter().enumerate() {
        if let Some(f) = across
            && alike(t as u32, f.triangle)
        {
            sets.union(t as u32, f.triangle);
        }
    }
    let cell = |t: usize| {
        let middle = mesh.corners(t).iter().sum::<Point>() / 3.0;
        (middle / near).floor().to_array().map(|x| x as i64)
    };
    let mut first: BTreeMap<(FindingKind, [i64; 3]), u32> = BTreeMap::new();
    for (t, kind) in kinds.iter().enumerate().filter_map(|(t, kind)| Some((t, (*kind)?))) {
        sets.union(*first.entry((kind, cell(t))).or_insert(t as u32), t as u32);
    }
    for ((kind, [x, y, z]), t) in &first {
        // Half of the cells around; the others look back.
        for n in 14..27 {
            let beside = [x + n % 3 - 1, y + n / 3 % 3 - 1, z + n / 9 - 1];
            if let Some(other) = first.get(&(*kind, beside)) {
                sets.union(*t, *other);
            }
        }
    }
    let ((set_of, _), (side_of, _)) = (sets.number_sets(), sides.number_sets());
    let mut areas: BTreeMap<u32, Held> = BTreeMap::new();
    for (t, set) in set_of.iter().enumerate() {
        let (Some(kind), Some(across)) = (kinds[t], found[t].as_ref().map(|f| f.across)) else { continue };
        let corners = mesh.corners(t);
        let held = areas.entry(*set).or_insert_with(|| Held {
            kind,
            least: f64::INFINITY,
            at: corners[0],
            sides: BTreeMap::new(),
            points: vec![],
        });
        if across < held.least {
            (held.least, held.at) = (across, corners.iter().sum::<Point>() / 3.0);
        }
        *held.sides.entry(side_of[t]).or_default() += mesh.area_vector(t).length() * 0.5;
        held.points.extend(corners);
    }
    areas
        .into_values()
        .map(|Held { kind, least, at, sides, points }| {
            let area = sides.values().sum();
            let side = smaller_side(sides.values().copied().fold(0.0, f64::max), area);
            ThinArea { kind, least, at: xyz(at), place: Place::of(points), area, side }
        })
        .collect()
}

/// The smaller of two sides, of which the largest piece and the area of all pieces are known; half of it where both are one piece,
/// as those of a fin are round its edge.
fn smaller_side(largest: f64, all: f64) -> f64 {
    /// A piece of more than this share is no side by itself.
    const SIDE: f64 = 0.75;
    if largest < SIDE * all { largest.min(all - largest) } else { all * 0.5 }
}

/// A place that is thin now, to be looked for in what a part was before.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct ThinPlace {
    /// Where, mm.
    pub at: Xyz,
    /// Through the material, or through the open.
    pub side: Side,
    /// What it is thinner than, mm.
    pub below: f64,
}

/// Where places of a part were before a step, and whether they were as thin. A surface that only moved takes its places with it.
///
/// # Errors
/// [`Cancelled`].
pub fn thin_before(
    after: &Mesh,
    before: &Mesh,
    places: &[ThinPlace],
    progress: &Progress,
) -> Result<Vec<(ThinPlace, bool)>, Cancelled> {
    let bvhs = [triangle_bvh(after), triangle_bvh(before)];
    let nearest = |(mesh, bvh): (&Mesh, &Bvh), at: Point, within: f64| {
        let foot = |t: u32| nearest_on_triangle(at, mesh.corners(t as usize));
        bvh.nearest(at, within, |t| Some((foot(t) - at).length_squared())).map(|(t, _)| (t as usize, foot(t)))
    };
    let only_moved = after.triangles() == before.triangles() && after.points().len() == before.points().len();
    let gauge = [Side::Inside, Side::Outside].map(|side| Gauge::new(before, side, f64::INFINITY));
    places
        .iter()
        .map(|place| {
            progress.check()?;
            let mut at = Point::from_array(place.at);
            if only_moved && let Some((t, foot)) = nearest((after, &bvhs[0]), at, f64::INFINITY) {
                let [a, b, c] = after.corners(t);
                let n = (b - a).cross(c - a);
                let share = |p: Point, q: Point| (p - foot).cross(q - foot).dot(n) / n.length_squared();
                let [x, y, z] = before.corners(t);
                at = x * share(b, c) + y * share(c, a) + z * share(a, b);
            }
            let there = nearest((before, &bvhs[1]), at, place.below * 0.5).and_then(|(t, foot)| {
                let middle = before.corners(t).iter().sum::<Point>() / 3.0;
                gauge[usize::from(place.side == Side::Outside)].at(t, foot.lerp(middle, 0.02), Way::Ball)
            });
            let thin = there.is_some_and(|f| f.across < place.below * SURE);
            Ok((ThinPlace { at: xyz(at), ..*place }, thin))
        })
        .collect()
}
