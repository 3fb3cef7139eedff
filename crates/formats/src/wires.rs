//! Curves without a surface as strands: what is straight or round as that, all else as cubics within a distance.

use nimbet_brep::SplineCurve;
use nimbet_kernel::{Point, Progress};
use nimbet_profile::space::Strand;

use crate::errors::ReadError;

/// The most strands the curves of a file may become.
const MOST_STRANDS: usize = 200_000;
/// How often a piece is halved until cubics follow it.
const DEEPEST: usize = 16;
/// Places along a piece that are looked at, the third and the seventh of which lie at a third and at two thirds of it.
const LOOKED_AT: usize = 10;
/// How near all of them lie to a line or a circle that is one, as a share of its size.
const EXACT: f64 = 1e-10;
/// Arcs of more than so many times their length are no arcs.
const FLATTEST: f64 = 1e4;

/// The strands of curves, to within a distance.
pub(crate) fn strands(curves: &[SplineCurve], within: f64, progress: &Progress) -> Result<Vec<Strand>, ReadError> {
    let mut all: Vec<Strand> = Vec::new();
    for curve in curves {
        progress.check()?;
        let first = all.len();
        for piece in curve.knots().breaks().windows(2) {
            follow(curve, [piece[0], piece[1]], (within, DEEPEST), &mut |strand| put(&mut all, first, strand));
            refuse_more(all.len())?;
        }
        close_circles(&mut all[first..]);
    }
    Ok(all)
}

/// Refuses more strands than may be.
pub(crate) fn refuse_more(strands: usize) -> Result<(), ReadError> {
    if strands > MOST_STRANDS {
        let why = format!("its curves without a surface make more than {MOST_STRANDS} stretches");
        return Err(ReadError::OutOfBounds(why));
    }
    Ok(())
}

fn follow(curve: &SplineCurve, [from, to]: [f64; 2], (within, depth): (f64, usize), put: &mut dyn FnMut(Strand)) {
    let at = |share: f64| curve.at(from + (to - from) * share).0;
    let last = LOOKED_AT - 1;
    let places: [Point; LOOKED_AT] = std::array::from_fn(|k| at(k as f64 / last as f64));
    let size = places.iter().map(|p| p.distance(places[0])).fold(0.0, f64::max);
    if size <= within * 1e-3 {
        return;
    }
    if let Some(strand) = straight(&places, size).or_else(|| round(&places, size)) {
        return put(strand);
    }
    let [a, b, c, d] = [0, 3, 6, 9].map(|k| places[k]);
    let poles = [a, (a * -5.0 + b * 18.0 - c * 9.0 + d * 2.0) / 6.0, (a * 2.0 - b * 9.0 + c * 18.0 - d * 5.0) / 6.0, d];
    let cubic = Strand::Free(poles.map(|p| p.to_array()));
    let follows = |share: f64| cubic.at(share).distance(at(share)) <= within;
    if depth == 0 || [0.1, 1.0 / 6.0, 0.5, 5.0 / 6.0, 0.9].into_iter().all(follows) {
        return put(cubic);
    }
    let middle = (from + to) * 0.5;
    follow(curve, [from, middle], (within, depth - 1), put);
    follow(curve, [middle, to], (within, depth - 1), put);
}

fn straight(places: &[Point; LOOKED_AT], size: f64) -> Option<Strand> {
    let [from, to] = [places[0], places[LOOKED_AT - 1]];
    let along = (to - from).try_normalize()?;
    let on = |p: &Point| (*p - from - along * (*p - from).dot(along)).length() <= size * EXACT;
    let goes_on = places.windows(2).all(|w| (w[1] - w[0]).dot(along) >= 0.0);
    (places.iter().all(on) && goes_on).then(|| Strand::Straight([from, to].map(|p| p.to_array())))
}

fn round(places: &[Point; LOOKED_AT], size: f64) -> Option<Strand> {
    let [a, b, c] = [0, 3, 6].map(|k| places[k]);
    let (ab, ac) = (b - a, c - a);
    let across = ab.cross(ac);
    let axis = across.try_normalize()?;
    let to_centre = (across.cross(ab) * ac.length_squared() + ac.cross(across) * ab.length_squared())
        / (2.0 * across.length_squared());
    let (centre, radius) = (a + to_centre, to_centre.length());
    let on = |p: &Point| {
        let off = *p - centre;
        (off.length() - radius).abs() <= radius * EXACT && off.dot(axis).abs() <= radius * EXACT
    };
    if radius > size * FLATTEST || !places.iter().all(on) {
        return None;
    }
    let turned = |w: &[Point]| {
        let (p, q) = (w[0] - centre, w[1] - centre);
        p.cross(q).dot(axis).atan2(p.dot(q))
    };
    let turns: Vec<f64> = places.windows(2).map(turned).collect();
    let (u, turn) = (a - centre, turns.iter().sum());
    let goes_on = turns.iter().all(|t| *t > 0.0);
    let [centre, u, v] = [centre, u, axis.cross(u)].map(|p| p.to_array());
    goes_on.then_some(Strand::Round { centre, u, v, turn })
}

/// Puts a strand after those of its curve; one that goes on round the same centre makes the last longer.
fn put(all: &mut Vec<Strand>, first: usize, strand: Strand) {
    let own = all.len() > first;
    if let (true, Some(Strand::Round { centre, u, v, turn }), Strand::Round { centre: c, u: w, v: x, turn: more }) =
        (own, all.last_mut(), &strand)
    {
        let [c0, u0, v0, c1, u1, v1] = [*centre, *u, *v, *c, *w, *x].map(Point::from_array);
        let (near, radius) = (u0.length() * EXACT * 10.0, u0.length());
        let (axis, other) = (u0.cross(v0), u1.cross(v1));
        let end = c0 + u0 * turn.cos() + v0 * turn.sin();
        let same = c0.distance(c1) <= near
            && (radius - u1.length()).abs() <= near
            && axis.distance(other) <= near * radius * 10.0
            && end.distance(c1 + u1) <= near * 10.0;
        if same {
            *turn += more;
            return;
        }
    }
    all.push(strand);
}

/// What turns once round but for the last digits is a circle.
fn close_circles(strands: &mut [Strand]) {
    for strand in strands {
        if let Strand::Round { turn, .. } = strand
            && (*turn - std::f64::consts::TAU).abs() < 1e-9
        {
            *turn = std::f64::consts::TAU;
        }
    }
}
