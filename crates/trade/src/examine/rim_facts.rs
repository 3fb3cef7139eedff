//! Rims with their measures and names, and picks that find a rim again.

use nimbet_kernel::precision::precision;
use nimbet_kernel::rims::Rim;
use nimbet_kernel::{Aabb, Mesh, Point, segments};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::words::{Xyz, xyz};

/// A rim counts as flat when no point stands farther off its mean plane than this share of its extent, or than the
/// precision of the part.
const FLAT_SHARE: f64 = 1e-4;

/// The measures of a rim.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct RimFacts {
    /// R1 is the longest.
    pub name: String,
    /// Naked edges in it.
    pub edges: usize,
    /// Length, mm.
    pub length: f64,
    /// The diagonal of its bounding box, mm.
    pub extent: f64,
    /// Whether it comes back to its beginning.
    pub closed: bool,
    /// How far it stands off its mean plane at most, mm.
    pub off_plane: f64,
    /// Whether that counts as flat.
    pub flat: bool,
    /// Its mean width: the area it spans by half its length, mm; 0 if it is not closed.
    #[serde(default)]
    pub width: f64,
    /// The middle of its bounding box, mm.
    pub centre: Xyz,
    /// What finds it again.
    pub pick: RimPick,
}

/// An anchor for a rim: a point on it, and its length to tell it from others.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[schemars(extend("asks" = "rim"))]
pub struct RimPick {
    /// The middle of one of its edges, mm.
    pub near: Xyz,
    /// Its length, mm.
    pub length: f64,
    /// Where it lies on the part, whatever its size: on a part like it, it is found by that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lies: Option<RimPlace>,
}

/// Where a rim lies on its part, and how long it is, by the part's own measure.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[schemars(extend("asks" = "none"))]
pub struct RimPlace {
    /// Its middle in the part's bounding box: from 0 to 1 along x, y and z.
    pub at: Xyz,
    /// Its length by the diagonal of that box.
    pub share: f64,
    /// How many rims the part had.
    pub of: usize,
}

/// The positions of a rim's points, in order.
pub fn chain_points(mesh: &Mesh, rim: &Rim) -> Vec<Point> {
    rim.points.iter().map(|&i| mesh.points()[i as usize]).collect()
}

/// The mean plane of a rim: a point, the unit normal (zero for a rim without area) and the greatest distance from it.
pub(crate) fn mean_plane(points: &[Point]) -> (Point, Point, f64) {
    let centre = points.iter().sum::<Point>() / points.len().max(1) as f64;
    let normal = segments::area_vector(points).normalize_or_zero();
    let off = points.iter().map(|p| (*p - centre).dot(normal).abs()).fold(0.0, f64::max);
    (centre, normal, off)
}

/// The area of the triangles from the middle of a closed chain to its sides, mm².
fn fan_area(points: &[Point]) -> f64 {
    let middle = points.iter().sum::<Point>() / points.len().max(1) as f64;
    let side = |i: usize| (points[i] - middle).cross(points[(i + 1) % points.len()] - middle).length();
    (0..points.len()).map(side).sum::<f64>() * 0.5
}

/// Sorts rims by length and names them R1, R2 …; gives them in that order beside their facts.
pub fn name_rims(mesh: &Mesh, rims: Vec<Rim>) -> (Vec<Rim>, Vec<RimFacts>) {
    let of = rims.len();
    let whole = Aabb::of(mesh.points().iter().copied());
    let precision = if rims.is_empty() { 0.0 } else { precision(mesh.points().iter()) };
    let mut measured: Vec<(Rim, RimFacts)> = rims
        .into_iter()
        .map(|rim| {
            let points = chain_points(mesh, &rim);
            let bounds = Aabb::of(points.iter().copied());
            let (_, normal, off_plane) = mean_plane(&points);
            let length = segments::chain_length(&points, rim.closed);
            let extent = bounds.diagonal();
            let flat = rim.closed && normal != Point::ZERO && off_plane <= (extent * FLAT_SHARE).max(precision);
            let lies = Some(RimPlace::of(bounds.centre(), length, &whole, of));
            let pick = RimPick { near: xyz((points[0] + points[1 % points.len()]) * 0.5), length, lies };
            let facts = RimFacts {
                name: String::new(),
                edges: rim.halves.len(),
                length,
                extent,
                closed: rim.closed,
                off_plane,
                flat,
                width: if rim.closed && length > 0.0 { fan_area(&points) / (length * 0.5) } else { 0.0 },
                centre: xyz(bounds.centre()),
                pick,
            };
            (rim, facts)
        })
        .collect();
    measured.sort_by(|(_, a), (_, b)| b.length.total_cmp(&a.length));
    let mut out = (Vec::new(), Vec::new());
    for (n, (rim, mut facts)) in measured.into_iter().enumerate() {
        facts.name = format!("R{}", n + 1);
        out.0.push(rim);
        out.1.push(facts);
    }
    out
}

impl RimPlace {
    fn of(middle: Point, length: f64, part: &Aabb, rims: usize) -> Self {
        let size = part.size();
        // Along what has no extent everything lies in the middle.
        let within = |x: f64, least: f64, size: f64| if size > 0.0 { (x - least) / size } else { 0.5 };
        let at = [
            within(middle.x, part.min.x, size.x),
            within(middle.y, part.min.y, size.y),
            within(middle.z, part.min.z, size.z),
        ];
        Self { at, share: if part.diagonal() > 0.0 { length / part.diagonal() } else { 0.0 }, of: rims }
    }

    /// How far another one is from being this one: nought where it lies alike and is as long.
    fn off(&self, other: &Self) -> f64 {
        let apart = Point::from_array(self.at).distance(Point::from_array(other.at));
        if self.share > 0.0 && other.share > 0.0 {
            apart + (other.share / self.share).ln().abs()
        } else {
            f64::INFINITY
        }
    }

    /// The one of the rims of a part that lies as this one did, if the part has as many and none of the others lies nearly as
    /// much like it: where one was closed meanwhile, its neighbour is not taken for it.
    fn find(&self, facts: &[RimFacts]) -> Option<usize> {
        /// A third of the box and of the length together are another rim.
        const FARTHEST: f64 = 0.35;
        /// The next must be farther off by this, and by twice as much.
        const APART: f64 = 0.05;
        let off = |f: &RimFacts| f.pick.lies.as_ref().map_or(f64::INFINITY, |lies| self.off(lies));
        let mut all: Vec<(f64, usize)> = facts.iter().enumerate().map(|(i, f)| (off(f), i)).collect();
        all.sort_by(|a, b| a.0.total_cmp(&b.0));
        let (best, found) = *all.first()?;
        let alone = all.get(1).is_none_or(|next| next.0 >= best * 2.0 + APART);
        (facts.len() == self.of && best <= FARTHEST && alone).then_some(found)
    }
}

impl RimPick {
    /// The rim this pick means: the one that passes nearest to the point, if it passes close by and has about the length;
    /// where none does, the one that lies on the part as it did.
    pub(crate) fn find(&self, mesh: &Mesh, rims: &[Rim], facts: &[RimFacts]) -> Option<usize> {
        self.find_near(mesh, rims, facts).or_else(|| self.lies.as_ref()?.find(facts))
    }

    fn find_near(&self, mesh: &Mesh, rims: &[Rim], facts: &[RimFacts]) -> Option<usize> {
        /// A rim may have grown or shrunk by earlier steps by this share and still be the same.
        const SAME_LENGTH: f64 = 0.2;
        let near = Point::from_array(self.near);
        let distance = |rim: &Rim| {
            let points = chain_points(mesh, rim);
            let n = points.len();
            (0..rim.halves.len())
                .map(|i| segments::nearest_on_segment(near, points[i], points[(i + 1) % n]).1)
                .fold(f64::INFINITY, f64::min)
                .sqrt()
        };
        let (index, distance) = rims
            .iter()
            .enumerate()
            .filter(|(i, _)| (facts[*i].length - self.length).abs() <= SAME_LENGTH * self.length)
            .map(|(i, rim)| (i, distance(rim)))
            .min_by(|a, b| a.1.total_cmp(&b.1))?;
        (distance <= self.length * 0.01).then_some(index)
    }
}
