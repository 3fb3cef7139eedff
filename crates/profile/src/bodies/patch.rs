//! Sheets between lines in space: two of them, or three or four that go round.

use nimbet_kernel::{Mesh, Point};
use rustc_hash::FxHashMap;

use super::{BodyError, Making};
use crate::path::{PathError, refused};

/// A side of a patch: its points, and the normals of what it goes on from there, of length 1; none where it may leave in any way.
pub type PatchSide = (Vec<Point>, Vec<Point>);

/// A line of points with how far along each is, as a share.
struct Side {
    points: Vec<Point>,
    shares: Vec<f64>,
    normals: Vec<Point>,
}

impl Side {
    fn new((points, normals): PatchSide) -> Self {
        let mut far = vec![0.0];
        for w in points.windows(2) {
            far.push(far[far.len() - 1] + w[0].distance(w[1]));
        }
        let whole = far[far.len() - 1].max(f64::MIN_POSITIVE);
        Self { points, shares: far.into_iter().map(|f| f / whole).collect(), normals }
    }

    fn at(&self, share: f64) -> Point {
        self.of(&self.points, share).unwrap_or_default()
    }

    /// The normal of what it goes on from.
    fn normal(&self, share: f64) -> Option<Point> {
        self.of(&self.normals, share).map(Point::normalize_or_zero)
    }

    /// How it runs where it begins, or ends, over its length: as the parabola through three points does, since the first chord of a curve
    /// leans off it; as that chord does where there is a corner beside it.
    fn slope(&self, at_end: bool) -> Point {
        /// Chords of one curve turn by less, as a cosine.
        const CORNER: f64 = 0.86;
        let n = self.points.len();
        let chord = |k: usize| {
            let (from, to) = if at_end { (n - 2 - k, n - 1 - k) } else { (k, k + 1) };
            let span = (self.shares[to] - self.shares[from]).max(f64::MIN_POSITIVE);
            ((self.points[to] - self.points[from]) / span, span)
        };
        let (first, span) = chord(0);
        if n < 3 {
            return first;
        }
        let (second, next) = chord(1);
        let turns = first.normalize_or_zero().dot(second.normalize_or_zero()) < CORNER;
        if turns { first } else { first + (first - second) * (span / (span + next)) }
    }

    /// What is known at its points, at a share of its length.
    fn of(&self, known: &[Point], share: f64) -> Option<Point> {
        let k = self.shares.partition_point(|s| *s <= share).saturating_sub(1);
        let (from, Some(to)) = (*known.get(k)?, known.get(k + 1)) else { return known.last().copied() };
        let t = (share - self.shares[k]) / (self.shares[k + 1] - self.shares[k]).max(f64::MIN_POSITIVE);
        Some(if t == 0.0 { from } else { from.lerp(*to, t) })
    }
}

/// Four sides that go round.
struct Square {
    south: Side,
    east: Side,
    north: Side,
    west: Side,
}

impl Square {
    /// Between opposite sides it runs as the others do (Coons 1967). The north and the west side run against the square.
    fn plain(&self, [u, v]: [f64; 2]) -> Point {
        let Self { south, east, north, west } = self;
        let ((s, n), (w, e)) = ((south.at(u), north.at(1.0 - u)), (west.at(1.0 - v), east.at(v)));
        let corners = south.at(0.0) * (1.0 - u) * (1.0 - v)
            + south.at(1.0) * u * (1.0 - v)
            + north.at(0.0) * u * v
            + north.at(1.0) * (1.0 - u) * v;
        s * (1.0 - v) + n * v + w * (1.0 - u) + e * u - corners
    }

    /// The same, leaving each side in the plane of what it goes on from: what the plain one has across that plane is taken off it,
    /// less the farther in. Nothing of it is left at the other sides, nor of its slope.
    fn at(&self, [u, v]: [f64; 2]) -> Point {
        let sides = [&self.south, &self.east, &self.north, &self.west];
        let within = [(u, v), (v, 1.0 - u), (1.0 - u, 1.0 - v), (1.0 - v, u)];
        let off = sides.into_iter().zip(within).enumerate().filter_map(|(n, (side, (along, deep)))| {
            let across = self.across(n, side, along)?;
            let far_from_ends = (4.0 * along * (1.0 - along)).powi(2);
            let share = far_from_ends / (far_from_ends + deep * deep).max(f64::MIN_POSITIVE);
            Some(across * (deep * (1.0 - deep).powi(2) * share))
        });
        off.fold(self.plain([u, v]), |p, off| p - off)
    }

    /// What the plain one has on its way in from a side across the plane it should leave in.
    fn across(&self, n: usize, side: &Side, along: f64) -> Option<Point> {
        let normal = side.normal(along)?;
        let sides = [&self.south, &self.east, &self.north, &self.west];
        let [next, opposite, before] = [1, 2, 3].map(|k| sides[(n + k) % 4]);
        let even = |from: Point, to: Point| from.lerp(to, along);
        let over = opposite.at(1.0 - along) - side.at(along);
        let corners = even(opposite.at(1.0), opposite.at(0.0)) - even(side.at(0.0), side.at(1.0));
        let inward = over - corners + even(-before.slope(true), next.slope(false));
        Some(normal * inward.dot(normal))
    }
}

/// The lines in the order and sense in which they go round, each with what goes with it; ends nearer than `reach` meet, and become the
/// end of the line before.
///
/// # Errors
/// Where an end meets no other.
pub fn going_round<T>(lines: Vec<(Vec<Point>, T)>, reach: f64) -> Result<Vec<(Vec<Point>, T)>, PathError> {
    let mut rest = lines;
    let mut round = vec![rest.remove(0)];
    while !rest.is_empty() {
        let end = last(&round[round.len() - 1].0);
        let off = |(line, _): &(Vec<Point>, T)| line[0].distance(end).min(last(line).distance(end));
        let Some(n) = (0..rest.len()).min_by(|a, b| off(&rest[*a]).total_cmp(&off(&rest[*b]))) else { break };
        let (mut next, with) = rest.remove(n);
        if last(&next).distance(end) < next[0].distance(end) {
            next.reverse();
        }
        let gap = next[0].distance(end);
        // Whichever end the first line is left by: it may have to be turned.
        if gap > reach && round.len() == 1 {
            let begin = round[0].0[0];
            if next[0].distance(begin).min(last(&next).distance(begin)) <= reach {
                round[0].0.reverse();
                rest.push((next, with));
                continue;
            }
        }
        if gap > reach {
            return Err(refused(
                format!("the lines do not meet here: {gap:.4} mm are between them"),
                vec![end, next[0]],
            ));
        }
        next[0] = end;
        round.push((next, with));
    }
    let (begin, end) = (round[0].0[0], last(&round[round.len() - 1].0));
    if begin.distance(end) > reach {
        let why = format!("the lines do not go round: {:.4} mm are missing", begin.distance(end));
        return Err(refused(why, vec![begin, end]));
    }
    if let Some(end) = round.last_mut().and_then(|(line, _)| line.last_mut()) {
        *end = begin;
    }
    Ok(round)
}

fn last(line: &[Point]) -> Point {
    line[line.len() - 1]
}

/// A sheet over three or four lines that go round, each beginning where the one before it ends.
///
/// # Errors
/// [`BodyError`] where a point leaves all bounds.
pub fn patch(lines: Vec<PatchSide>, chord: f64) -> Result<Mesh, BodyError> {
    /// Into so many parts a cell is cut at most each way.
    const MOST: f64 = 64.0;
    let corner = lines.get(2).map(|(line, _)| last(line));
    let mut sides = lines.into_iter();
    let mut next = || sides.next().map(Side::new);
    let (Some(south), Some(east), Some(north), Some(corner)) = (next(), next(), next(), corner) else {
        return Err(super::refused("a patch has three or four sides", vec![]));
    };
    // Of three, the fourth is a corner.
    let west = next().unwrap_or_else(|| Side::new((vec![corner, corner], vec![])));
    let square = Square { south, east, north, west };
    let at = |u: f64, v: f64| square.at([u, v]);
    let back = |shares: &[f64]| shares.iter().map(|s| 1.0 - s).collect::<Vec<f64>>();
    let mut across = merged(&square.south.shares, &back(&square.north.shares));
    let mut up = merged(&square.east.shares, &back(&square.west.shares));
    for _ in 0..2 {
        // Cells whose corners lie in no plane, or whose middle stands off them, are parted until they are within the chord.
        let mut off = 0.0_f64;
        for (u, v) in up.windows(2).flat_map(|v| across.windows(2).map(move |u| (u, v))) {
            let corners = [at(u[0], v[0]), at(u[1], v[0]), at(u[1], v[1]), at(u[0], v[1])];
            let bent = at(u[0].midpoint(u[1]), v[0].midpoint(v[1])).distance(corners.iter().sum::<Point>() / 4.0);
            off = off.max(skew(corners)).max(bent);
        }
        let parts = (off / chord).sqrt().ceil().clamp(1.0, MOST) as usize;
        across = parted(&across, parts);
        up = parted(&up, parts);
    }
    let mut making = Making::default();
    let mut names: FxHashMap<[u64; 3], u32> = FxHashMap::default();
    let mut rows = Vec::new();
    for v in &up {
        let row: Vec<u32> = across
            .iter()
            .map(|u| {
                let p = on_border((*u, *v), &square).unwrap_or_else(|| at(*u, *v));
                *names.entry(p.to_array().map(f64::to_bits)).or_insert_with(|| making.point(p))
            })
            .collect();
        rows.push(row);
    }
    for pair in rows.windows(2) {
        for k in 0..across.len() - 1 {
            making.quad([pair[0][k], pair[0][k + 1], pair[1][k + 1], pair[1][k]], 0);
        }
    }
    making.mesh()
}

/// The place on a side, to the last bit.
fn on_border((u, v): (f64, f64), Square { south, east, north, west }: &Square) -> Option<Point> {
    match (u, v) {
        (u, 0.0) => Some(south.at(u)),
        (u, 1.0) => Some(north.at(1.0 - u)),
        (0.0, v) => Some(west.at(1.0 - v)),
        (1.0, v) => Some(east.at(v)),
        _ => None,
    }
}

fn skew([p, q, s, r]: [Point; 4]) -> f64 {
    let normal = (s - p).cross(r - q).normalize_or_zero();
    ((p.midpoint(s) - q.midpoint(r)).dot(normal) * 0.5).abs()
}

fn merged(a: &[f64], b: &[f64]) -> Vec<f64> {
    let mut all = [a, b].concat();
    all.sort_by(f64::total_cmp);
    all.dedup_by(|y, x| *y - *x < 1e-7);
    if let Some(last) = all.last_mut() {
        *last = 1.0;
    }
    all
}

fn parted(shares: &[f64], parts: usize) -> Vec<f64> {
    let cut = |w: &[f64]| (0..parts).map(|k| w[0] + (w[1] - w[0]) * k as f64 / parts as f64).collect::<Vec<_>>();
    shares.windows(2).flat_map(cut).chain([1.0]).collect()
}
