//! Sheets between lines in space: two of them, or three or four that go round.

use nimbet_kernel::{Mesh, Point};
use rustc_hash::FxHashMap;

use super::{BodyError, Making};
use crate::path::{PathError, refused};

/// A line of points with how far along each is, as a share.
struct Side {
    points: Vec<Point>,
    shares: Vec<f64>,
}

impl Side {
    fn new(points: Vec<Point>) -> Self {
        let mut far = vec![0.0];
        for w in points.windows(2) {
            far.push(far[far.len() - 1] + w[0].distance(w[1]));
        }
        let whole = far[far.len() - 1].max(f64::MIN_POSITIVE);
        Self { points, shares: far.into_iter().map(|f| f / whole).collect() }
    }

    fn at(&self, share: f64) -> Point {
        let n = self.points.len();
        let k = self.shares.partition_point(|s| *s <= share).saturating_sub(1);
        if k + 1 >= n {
            return self.points[n - 1];
        }
        let t = (share - self.shares[k]) / (self.shares[k + 1] - self.shares[k]).max(f64::MIN_POSITIVE);
        if t == 0.0 { self.points[k] } else { self.points[k].lerp(self.points[k + 1], t) }
    }
}

/// The lines in the order and sense in which they go round; ends nearer than `reach` meet, and become the end of the line before.
///
/// # Errors
/// Where an end meets no other.
pub fn going_round(lines: Vec<Vec<Point>>, reach: f64) -> Result<Vec<Vec<Point>>, PathError> {
    let mut rest = lines;
    let mut round = vec![rest.remove(0)];
    while !rest.is_empty() {
        let end = last(&round[round.len() - 1]);
        let off = |line: &Vec<Point>| line[0].distance(end).min(last(line).distance(end));
        let Some(n) = (0..rest.len()).min_by(|a, b| off(&rest[*a]).total_cmp(&off(&rest[*b]))) else { break };
        let mut next = rest.remove(n);
        if last(&next).distance(end) < next[0].distance(end) {
            next.reverse();
        }
        let gap = next[0].distance(end);
        // Whichever end the first line is left by: it may have to be turned.
        if gap > reach && round.len() == 1 {
            let begin = round[0][0];
            if next[0].distance(begin).min(last(&next).distance(begin)) <= reach {
                round[0].reverse();
                rest.push(next);
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
        round.push(next);
    }
    let (begin, end) = (round[0][0], last(&round[round.len() - 1]));
    if begin.distance(end) > reach {
        let why = format!("the lines do not go round: {:.4} mm are missing", begin.distance(end));
        return Err(refused(why, vec![begin, end]));
    }
    if let Some(end) = round.last_mut().and_then(|line| line.last_mut()) {
        *end = begin;
    }
    Ok(round)
}

fn last(line: &[Point]) -> Point {
    line[line.len() - 1]
}

/// A sheet over three or four lines that go round, each beginning where the one before it ends: between opposite ones it runs as the
/// others do (Coons 1967).
///
/// # Errors
/// [`BodyError`] where a point leaves all bounds.
pub fn patch(lines: Vec<Vec<Point>>, chord: f64) -> Result<Mesh, BodyError> {
    let corner = last(&lines[2]);
    let mut sides = lines.into_iter();
    let mut next = || sides.next().map(Side::new);
    let (south, east, north) = (next(), next(), next());
    // Of three, the fourth is a corner.
    let west = next().unwrap_or_else(|| Side::new(vec![corner, corner]));
    let (Some(south), Some(east), Some(north)) = (south, east, north) else {
        return Err(super::refused("a patch has three or four sides", vec![]));
    };
    // The north and the west side run against the square.
    let at = |u: f64, v: f64| {
        let ((s, n), (w, e)) = ((south.at(u), north.at(1.0 - u)), (west.at(1.0 - v), east.at(v)));
        let corners = south.at(0.0) * (1.0 - u) * (1.0 - v)
            + south.at(1.0) * u * (1.0 - v)
            + north.at(0.0) * u * v
            + north.at(1.0) * (1.0 - u) * v;
        s * (1.0 - v) + n * v + w * (1.0 - u) + e * u - corners
    };
    let back = |shares: &[f64]| shares.iter().map(|s| 1.0 - s).collect::<Vec<f64>>();
    let mut across = merged(&south.shares, &back(&north.shares));
    let mut up = merged(&east.shares, &back(&west.shares));
    for _ in 0..2 {
        // Cells whose corners lie in no plane are parted until they are within the chord of one.
        let mut off = 0.0_f64;
        for (u, v) in up.windows(2).flat_map(|v| across.windows(2).map(move |u| (u, v))) {
            off = off.max(skew([at(u[0], v[0]), at(u[1], v[0]), at(u[1], v[1]), at(u[0], v[1])]));
        }
        let parts = (off / chord).sqrt().ceil().clamp(1.0, 64.0) as usize;
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
                let p = on_border((*u, *v), [&south, &east, &north, &west]).unwrap_or_else(|| at(*u, *v));
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
fn on_border((u, v): (f64, f64), [south, east, north, west]: [&Side; 4]) -> Option<Point> {
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
