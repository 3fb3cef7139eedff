//! Surfaces through several outlines or lines, one after the other.

use nimbet_kernel::triangulate::{PlaneFrame, triangulate_flat};
use nimbet_kernel::{Mesh, Point, Progress};

use super::{BodyError, Making, refused};

/// A line of points in space that a surface goes through, each with the curve of the side that begins there.
#[derive(Clone, Debug)]
pub struct Ring {
    /// Its points, in order.
    pub points: Vec<(Point, usize)>,
    /// How far along each is, as a share of its length; begins with 0.
    shares: Vec<f64>,
    /// The way in which what goes through it leaves it at each of its points, of length 1; empty where it may be any.
    leaving: Vec<Point>,
}

impl Ring {
    /// A line of points; closed, its last side leads back to the first.
    pub fn new(points: Vec<(Point, usize)>, closed: bool) -> Self {
        let n = points.len();
        let mut far = vec![0.0];
        for k in 1..if closed { n + 1 } else { n } {
            far.push(far[k - 1] + points[k - 1].0.distance(points[k % n].0));
        }
        let whole = far[far.len() - 1].max(f64::MIN_POSITIVE);
        far.truncate(n);
        Self { points, shares: far.into_iter().map(|f| f / whole).collect(), leaving: Vec::new() }
    }

    /// The share of its length in the middle of a side.
    pub fn middle(&self, side: usize) -> f64 {
        self.shares[side].midpoint(self.shares.get(side + 1).copied().unwrap_or(1.0))
    }

    /// The same line, with the way in which what goes through it leaves it at each of its points, of length 1.
    #[must_use]
    pub fn leaving(self, leaving: Vec<Point>) -> Self {
        Self { leaving, ..self }
    }

    /// The share of a closed line nearest to a place, and how far that is, mm.
    pub fn nearest(&self, place: Point) -> (f64, f64) {
        let n = self.points.len();
        let side = |k: usize| {
            let (from, to) = (self.points[k].0, self.points[(k + 1) % n].0);
            let end = if k + 1 < n { self.shares[k + 1] } else { 1.0 };
            let along = to - from;
            let t = ((place - from).dot(along) / along.length_squared().max(f64::MIN_POSITIVE)).clamp(0.0, 1.0);
            (self.shares[k] + (end - self.shares[k]) * t, from.lerp(to, t).distance(place))
        };
        (0..n).map(side).min_by(|a, b| a.1.total_cmp(&b.1)).unwrap_or((0.0, f64::INFINITY))
    }

    /// The same closed line with another beginning, at a share of its length.
    #[must_use]
    pub fn begun_at(&self, share: f64) -> Self {
        let share = share.rem_euclid(1.0);
        let after = self.shares.partition_point(|s| *s < share - 1e-9);
        let n = self.points.len();
        let mut points: Vec<(Point, usize)> = (0..n).map(|k| self.points[(after + k) % n]).collect();
        if self.shares.get(after % n).is_none_or(|s| (s - share).abs() > 1e-9)
            || after == n && share > 1e-9 && share < 1.0 - 1e-9
        {
            let (at, curve) = self.at(share, true);
            points.insert(0, (at, curve));
        }
        Self::new(points, true)
    }

    /// The same line the other way round, with the same beginning where it is closed.
    #[must_use]
    pub fn reversed(&self, closed: bool) -> Self {
        let n = self.points.len();
        let curve = |k: usize| self.points[k % n].1;
        let points = match closed {
            true => (0..n).map(|k| (self.points[(n - k) % n].0, curve(2 * n - k - 1))).collect(),
            false => (0..n).rev().map(|k| (self.points[k].0, curve(k.saturating_sub(1)))).collect(),
        };
        Self::new(points, closed)
    }

    /// The same line with each side in so many parts.
    fn divided(&self, parts: usize, closed: bool) -> Self {
        let n = self.points.len();
        let ends = (0..n).map(|k| (self.points[k], self.points.get(k + 1).or(closed.then(|| &self.points[0]))));
        let cut = |(from, to): ((Point, usize), Option<&(Point, usize)>)| {
            let to = to.map_or(from.0, |to| to.0);
            let own = if to == from.0 { 1 } else { parts };
            (0..own).map(move |k| if k == 0 { from } else { (from.0.lerp(to, k as f64 / own as f64), from.1) })
        };
        if parts == 1 {
            return self.clone();
        }
        let divided = Self::new(ends.flat_map(cut).collect(), closed);
        let leaving = divided.shares.iter().filter_map(|share| self.leaves(*share, closed)).collect();
        divided.leaving(leaving)
    }

    /// The way in which it is left at a share of its length, where that is given.
    fn leaves(&self, share: f64, closed: bool) -> Option<Point> {
        let (k, next, t) = self.side(share, closed);
        let way = self.leaving.get(k)?.lerp(*self.leaving.get(next)?, t);
        Some(way.normalize_or(self.leaving[k]))
    }

    /// The place at a share of its length, with the curve it lies on.
    pub fn at(&self, share: f64, closed: bool) -> (Point, usize) {
        let (k, next, t) = self.side(share, closed);
        let (from, curve) = self.points[k];
        (from.lerp(self.points[next].0, t), curve)
    }

    /// The side on which a share of its length lies, by its ends, and how far along that.
    fn side(&self, share: f64, closed: bool) -> (usize, usize, f64) {
        let n = self.points.len();
        let k = self.shares.partition_point(|s| *s <= share).saturating_sub(1).min(n - 1);
        let next = match k + 1 < n {
            true => k + 1,
            false if closed => 0,
            false => return (k, k, 0.0),
        };
        let end = if next == 0 { 1.0 } else { self.shares[next] };
        let t = ((share - self.shares[k]) / (end - self.shares[k]).max(f64::MIN_POSITIVE)).clamp(0.0, 1.0);
        (k, next, t)
    }

    /// Twice the area it goes round, as a vector.
    fn area(&self) -> Point {
        let n = self.points.len();
        let about = self.points[0].0;
        (0..n).map(|k| (self.points[k].0 - about).cross(self.points[(k + 1) % n].0 - about)).sum()
    }
}

/// The rings, each turned to go round as the first does and, where no beginning is given, to begin where it lies best to the one before.
#[must_use]
pub fn matched(rings: Vec<Ring>, given: &[bool]) -> Vec<Ring> {
    let mut all: Vec<Ring> = Vec::with_capacity(rings.len());
    for (n, ring) in rings.into_iter().enumerate() {
        let Some(before) = all.last() else {
            all.push(ring);
            continue;
        };
        let ring = if before.area().dot(ring.area()) < 0.0 { ring.reversed(true) } else { ring };
        all.push(if given.get(n).copied().unwrap_or(false) { ring } else { best_begun(before, ring) });
    }
    all
}

/// The beginning at which places of the same share are nearest to each other.
fn best_begun(before: &Ring, ring: Ring) -> Ring {
    /// So many places tell.
    const PLACES: usize = 64;
    let middle = |r: &Ring| (0..PLACES).map(|k| r.at(k as f64 / PLACES as f64, true).0).sum::<Point>() / PLACES as f64;
    let off = middle(before) - middle(&ring);
    let there: Vec<Point> = (0..PLACES).map(|k| before.at(k as f64 / PLACES as f64, true).0 - off).collect();
    let apart = |start: f64| -> f64 {
        let at = |k: usize| ring.at((start + k as f64 / PLACES as f64).rem_euclid(1.0), true).0;
        there.iter().enumerate().map(|(k, p)| p.distance_squared(at(k))).sum()
    };
    // Its own corners, and where the other begins.
    let nearest =
        (0..PLACES).map(|k| k as f64 / PLACES as f64).min_by(|a, b| apart(*a).total_cmp(&apart(*b))).unwrap_or(0.0);
    let own = ring.shares.iter().copied().filter(|s| {
        let off = (s - nearest).abs();
        off.min(1.0 - off) <= 1.5 / PLACES as f64
    });
    let best = own.chain([nearest]).min_by(|a, b| apart(*a).total_cmp(&apart(*b))).unwrap_or(nearest);
    if best == 0.0 { ring } else { ring.begun_at(best) }
}

/// How a surface goes through rings.
#[derive(Clone, Copy, Debug)]
pub struct Lofting {
    /// Whether the rings are closed.
    pub closed: bool,
    /// Whether the last is followed by the first.
    pub round: bool,
    /// Whether it bends smoothly through them; else it is straight between each two.
    pub smooth: bool,
    /// Whether closed rings have ends.
    pub ends: bool,
    /// The farthest it may be from true between them, mm.
    pub chord: f64,
}

/// A surface through rings; of closed ones, not in a round, with ends. The first and the last may be left in a given way. Faces: 0 and 1 the ends, then one for each curve and gap between
/// two rings.
///
/// # Errors
/// [`BodyError`] where an end crosses itself.
pub fn loft(rings: &[Ring], how: &Lofting, progress: &Progress) -> Result<Mesh, BodyError> {
    let gaps = if how.round { rings.len() } else { rings.len() - 1 };
    let parts: Vec<usize> = (0..gaps).map(|k| parts(&rings[k], &rings[(k + 1) % rings.len()], how)).collect();
    let beside = |k: usize| [k.checked_sub(1).or_else(|| how.round.then(|| gaps - 1)), Some(k).filter(|k| *k < gaps)];
    let most = |k: usize| beside(k).into_iter().flatten().map(|gap| parts[gap]).max().unwrap_or(1);
    let rings: &[Ring] = &rings.iter().enumerate().map(|(k, r)| r.divided(most(k), how.closed)).collect::<Vec<_>>();
    let curves = rings.iter().flat_map(|r| &r.points).map(|p| p.1 as u32 + 1).max().unwrap_or(1);
    let mut making = Making::default();
    let put =
        |making: &mut Making, ring: &Ring| -> Vec<u32> { ring.points.iter().map(|p| making.point(p.0)).collect() };
    let own: Vec<Vec<u32>> = rings.iter().map(|r| put(&mut making, r)).collect();
    for (gap, part) in parts.iter().copied().enumerate() {
        progress.check()?;
        let (a, b) = (gap, (gap + 1) % rings.len());
        let face = |curve: usize| 2 + gap as u32 * curves + curve as u32;
        let (mut last, mut names) = (rings[a].clone(), own[a].clone());
        for ring in between(rings, (gap, part), how) {
            let next = put(&mut making, &ring);
            stitch(&mut making, (&last, &names), (&ring, &next), how.closed, &face);
            (last, names) = (ring, next);
        }
        stitch(&mut making, (&last, &names), (&rings[b], &own[b]), how.closed, &face);
    }
    if how.closed && how.ends && !how.round {
        cap(&mut making, (&rings[0], &own[0]), 0)?;
        let last = rings.len() - 1;
        cap(&mut making, (&rings[last], &own[last]), 1)?;
    }
    let mesh = making.mesh()?;
    // Which way rings go round says nothing of which side is out.
    let inside_out = how.closed && nimbet_kernel::measure::measure(&mesh).volume < 0.0;
    Ok(if inside_out { turned_over(mesh) } else { mesh })
}

fn turned_over(mut mesh: Mesh) -> Mesh {
    mesh.reverse_triangles(|_| true);
    mesh
}

/// Lengths are no less than this where something is divided by them.
const TINY: f64 = 1e-300;

/// The rings a surface goes through between two of those given.
fn between(rings: &[Ring], (gap, parts): (usize, usize), how: &Lofting) -> Vec<Ring> {
    let n = rings.len() as isize;
    let near = |k: isize| -> Option<&Ring> {
        if how.round { Some(&rings[k.rem_euclid(n) as usize]) } else { rings.get(usize::try_from(k).ok()?) }
    };
    let (a, b) = (&rings[gap], &rings[(gap + 1) % rings.len()]);
    let bends = how.smooth && rings.len() > 2;
    let others = [near(gap as isize - 1), near(gap as isize + 2)].map(|ring| ring.filter(|_| bends));
    let shares = merged(a, b);
    let column = |share: f64| Column::new((a, b), others, share, how.closed);
    let columns: Vec<Column> = shares.iter().map(|s| column(*s)).collect();
    let bend = columns.iter().map(Column::bend).fold(0.0, f64::max);
    let steps = ((0.75 * bend / how.chord).sqrt().ceil().clamp(1.0, 1000.0) as usize).max(parts);
    let ring = |k: usize| {
        let points = columns.iter().map(|c| (c.at(k as f64 / steps as f64), c.curve)).collect();
        Ring { points, shares: shares.clone(), leaving: Vec::new() }
    };
    (1..steps).map(ring).collect()
}

/// The shares of both of two rings.
fn merged(a: &Ring, b: &Ring) -> Vec<f64> {
    let mut shares: Vec<f64> = a.shares.iter().chain(&b.shares).copied().collect();
    shares.sort_by(f64::total_cmp);
    shares.dedup_by(|y, x| *y - *x < 1e-7);
    shares
}

/// Into how many parts each way what lies between two rings is cut: four corners that lie in no plane stand off their triangles, the
/// less by the square.
fn parts(a: &Ring, b: &Ring, how: &Lofting) -> usize {
    /// Finer than that nobody tells.
    const MOST: f64 = 64.0;
    let mut columns: Vec<Column> =
        merged(a, b).into_iter().map(|s| Column::new((a, b), [None, None], s, how.closed)).collect();
    if how.closed {
        columns.push(Column::new((a, b), [None, None], 0.0, true));
    }
    let off = columns.windows(2).map(|w| w[0].skew(&w[1])).fold(0.0, f64::max);
    (off / how.chord).sqrt().ceil().clamp(1.0, MOST) as usize
}

/// What runs from a place of one ring to that of the next: a cubic by its ends and slopes.
struct Column {
    ends: [Point; 2],
    slopes: [Point; 2],
    curve: usize,
}

impl Column {
    /// The slopes are those of parabolas through three rings each, by how far these are apart; without others it is straight.
    fn new((a, b): (&Ring, &Ring), [before, after]: [Option<&Ring>; 2], share: f64, closed: bool) -> Self {
        let (p, curve) = a.at(share, closed);
        let q = b.at(share, closed).0;
        let d = p.distance(q);
        // As the parabola through a third place runs that lies `e` on, over the length of this gap.
        let slope = |r: Point, e: f64, ahead: bool| {
            let (own, other) = ((q - p) / d.max(TINY), if ahead { r - q } else { p - r } / e.max(TINY));
            (own * e + other * d) / (d + e).max(TINY) * d
        };
        let before = before.map(|ring| ring.at(share, closed).0).map(|r| slope(r, r.distance(p), false));
        let after = after.map(|ring| ring.at(share, closed).0).map(|t| slope(t, t.distance(q), true));
        // Where a ring is left in a given way, that is the way on to the next and back to the one before.
        let first = a.leaves(share, closed).map(|way| way * d).or(before);
        let last = b.leaves(share, closed).map(|way| way * -d).or(after);
        // At an end it bends as the parabola does.
        let opposite = |slope: Option<Point>| (q - p) * 2.0 - slope.unwrap_or(q - p);
        let slopes = [first.unwrap_or_else(|| opposite(last)), last.unwrap_or_else(|| opposite(first))];
        Self { ends: [p, q], slopes, curve }
    }

    fn at(&self, t: f64) -> Point {
        let ([p, q], [f, l]) = (self.ends, self.slopes);
        let (t2, t3) = (t * t, t * t * t);
        p * (2.0 * t3 - 3.0 * t2 + 1.0) + f * (t3 - 2.0 * t2 + t) + q * (3.0 * t2 - 2.0 * t3) + l * (t3 - t2)
    }

    /// A sixth of how much its slope changes at most, mm.
    fn bend(&self) -> f64 {
        let ([p, q], [f, l]) = (self.ends, self.slopes);
        (q - p - f).length().max((q - p - l).length())
    }

    /// How far the middles of the two diagonals to the next one are apart, across both.
    fn skew(&self, next: &Self) -> f64 {
        let ([p, q], [r, s]) = (self.ends, next.ends);
        let normal = (s - p).cross(q - r).normalize_or_zero();
        ((p.midpoint(s) - q.midpoint(r)).dot(normal) * 0.5).abs()
    }
}

/// Triangles between two rings, going on along that which is behind.
fn stitch(
    making: &mut Making,
    (low, low_names): (&Ring, &[u32]),
    (high, high_names): (&Ring, &[u32]),
    closed: bool,
    face: &impl Fn(usize) -> u32,
) {
    let (n, m) = (low.points.len(), high.points.len());
    let (ends, tops) = if closed { (n, m) } else { (n - 1, m - 1) };
    let share = |ring: &Ring, k: usize| if k < ring.shares.len() { ring.shares[k] } else { 1.0 };
    let (mut i, mut j) = (0, 0);
    while i < ends || j < tops {
        let (a, b) = (low_names[i % n], high_names[j % m]);
        let (next, beyond) = (share(low, i + 1), share(high, j + 1));
        // Both at once: two triangles over the shorter diagonal.
        if i < ends && j < tops && (next - beyond).abs() < 1e-7 {
            making.quad([a, low_names[(i + 1) % n], high_names[(j + 1) % m], b], face(low.points[i % n].1));
            i += 1;
            j += 1;
        } else if j == tops || i < ends && next < beyond {
            making.triangle([a, low_names[(i + 1) % n], b], face(low.points[i % n].1));
            i += 1;
        } else {
            making.triangle([a, high_names[(j + 1) % m], b], face(low.points[i % n].1));
            j += 1;
        }
    }
}

/// The end of a surface: its ring, filled.
fn cap(making: &mut Making, (ring, names): (&Ring, &[u32]), face: u32) -> Result<(), BodyError> {
    let area = ring.area();
    let Some(frame) = PlaneFrame::new(ring.points[0].0, area) else {
        return Err(refused("an end encloses nothing", vec![]));
    };
    let flat: Vec<[f64; 2]> = ring.points.iter().map(|p| frame.flatten(p.0)).collect();
    let triangles =
        triangulate_flat(&flat, &[(0..flat.len()).collect()]).map_err(|_| refused("an end crosses itself", vec![]))?;
    for t in triangles {
        let [a, b, c] = t.map(|k| names[k]);
        making.triangle(if face == 0 { [a, c, b] } else { [a, b, c] }, face);
    }
    Ok(())
}
