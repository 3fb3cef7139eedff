//! Curves of edges, and the points along them.

use std::f64::consts::TAU;

use nimbet_kernel::Point;

use crate::frame::Frame;
use crate::spline::SplineCurve;

/// How finely curves and surfaces are followed.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Fineness {
    /// How far triangles may stand off what they follow, in the model's unit.
    pub chord: f64,
    /// How far the direction may turn from one point to the next, radians.
    pub angle: f64,
}

impl Fineness {
    /// The angle from one point of a circle to the next.
    pub fn step(&self, radius: f64) -> f64 {
        let by_chord = if radius > self.chord { 2.0 * (1.0 - self.chord / radius).acos() } else { TAU };
        // Below this the points of a circle would be nearer than any file means.
        by_chord.min(self.angle).max(1e-6)
    }

    /// So many times finer.
    pub fn finer(&self, times: f64) -> Self {
        Self { chord: self.chord / times, angle: self.angle / times.sqrt() }
    }
}

/// The curve of an edge.
#[derive(Clone, Debug, PartialEq)]
pub enum Curve {
    /// A straight line from end to end.
    Line,
    /// A circle or ellipse, by the angle from the frame's first direction.
    Round {
        /// Where it lies.
        frame: Frame,
        /// The radius along the first and second direction.
        radii: [f64; 2],
    },
    /// Anything else.
    Spline(SplineCurve),
    /// A closed spline that begins in its middle: the parameter is how far on it is from there.
    Turned {
        /// The spline.
        spline: SplineCurve,
        /// Where it begins.
        start: f64,
        /// Where the spline begins by itself.
        from: f64,
    },
}

/// The most points one edge gets.
const MOST_POINTS: usize = 20_000;

impl Curve {
    /// The place at a parameter; of a line there is none.
    fn at(&self, t: f64) -> Option<(Point, Point)> {
        match self {
            Self::Line => None,
            Self::Round { frame, radii: [a, b] } => {
                let (sin, cos) = t.sin_cos();
                Some((frame.lift([a * cos, b * sin, 0.0]), frame.x * (-a * sin) + frame.y * (b * cos)))
            }
            Self::Spline(spline) => Some(spline.at(t)),
            Self::Turned { spline, start, from } => {
                let end = spline.knots().range()[1];
                Some(spline.at(if start + t <= end { start + t } else { from + (start + t - end) }))
            }
        }
    }

    /// The points between the ends of the stretch from one parameter to another, which may run either way.
    pub fn between(&self, range: [f64; 2], fineness: &Fineness) -> Vec<Point> {
        let [from, to] = range;
        match self {
            Self::Line => vec![],
            Self::Round { radii: [a, b], .. } if (a - b).abs() <= a.max(*b) * 1e-12 => {
                let count = ((to - from).abs() / fineness.step(*a)).ceil().clamp(1.0, MOST_POINTS as f64) as usize;
                let at = |n: usize| self.at(from + (to - from) * n as f64 / count as f64).map(|(p, _)| p);
                (1..count).filter_map(at).collect()
            }
            Self::Round { .. } => {
                let parts = ((to - from).abs() / (TAU / 8.0)).ceil().max(1.0) as usize;
                self.along((0..=parts).map(|n| from + (to - from) * n as f64 / parts as f64), fineness)
            }
            Self::Spline(_) | Self::Turned { .. } => {
                let [low, high] = [from.min(to), from.max(to)];
                let mut breaks = vec![low];
                breaks.extend(self.breaks().into_iter().filter(|k| low < *k && *k < high));
                breaks.push(high);
                if from > to {
                    breaks.reverse();
                }
                // The first look at a stretch must not fall on places that agree by chance.
                let halves = breaks.windows(2).flat_map(|w| [w[0], w[0] + (w[1] - w[0]) * 0.47]);
                let all: Vec<f64> = halves.chain(breaks.last().copied()).collect();
                self.along(all.into_iter(), fineness)
            }
        }
    }

    /// Where its pieces meet, ascending.
    fn breaks(&self) -> Vec<f64> {
        match self {
            Self::Line | Self::Round { .. } => vec![],
            Self::Spline(spline) => spline.knots().breaks(),
            Self::Turned { spline, start, from } => {
                let end = spline.knots().range()[1];
                let on = |k: &f64| if k > start { k - start } else { end - start + k - from };
                let mut breaks: Vec<f64> = spline.knots().breaks().iter().map(on).collect();
                breaks.sort_by(f64::total_cmp);
                breaks.dedup_by(|a, b| (*a - *b).abs() <= (end - from) * 1e-12);
                breaks
            }
        }
    }

    /// The points of stretches between parameters, halved until they follow the curve, but for both ends.
    fn along(&self, breaks: impl Iterator<Item = f64>, fineness: &Fineness) -> Vec<Point> {
        const DEEPEST: usize = 14;
        let breaks: Vec<f64> = breaks.collect();
        let mut points = Vec::new();
        for w in breaks.windows(2) {
            self.halved([w[0], w[1]], fineness, DEEPEST, &mut points);
            points.extend(self.at(w[1]).map(|(p, _)| p));
        }
        points.pop();
        points
    }

    fn halved(&self, [from, to]: [f64; 2], fineness: &Fineness, depth: usize, points: &mut Vec<Point>) {
        let mid = (from + to) / 2.0;
        let (Some((a, da)), Some((m, dm)), Some((b, db))) = (self.at(from), self.at(mid), self.at(to)) else { return };
        let turns = |x: Point, y: Point| {
            x.length_squared() > 0.0 && y.length_squared() > 0.0 && x.angle_between(y) > fineness.angle
        };
        let off = (m - a).cross(b - a).length() / (b - a).length().max(1e-300);
        let off = if (b - a).length() > 0.0 { off } else { (m - a).length() };
        let coarse = off > fineness.chord || turns(da, db) || turns(da, dm) || turns(dm, db);
        let tiny = (m - a).length().max((b - m).length()) < fineness.chord * 1e-3;
        if coarse && !tiny && depth > 0 && points.len() < MOST_POINTS {
            self.halved([from, mid], fineness, depth - 1, points);
            points.push(m);
            self.halved([mid, to], fineness, depth - 1, points);
        }
    }

    /// The parameter of a spline nearest to a point.
    pub fn nearest(spline: &SplineCurve, p: Point) -> f64 {
        let breaks = spline.knots().breaks();
        let [from, to] = spline.knots().range();
        let mut best = (f64::INFINITY, from);
        for w in breaks.windows(2) {
            for n in 0..8 {
                let t = w[0] + (w[1] - w[0]) * f64::from(n) / 8.0;
                let off = (spline.at(t).0 - p).length_squared();
                if off < best.0 {
                    best = (off, t);
                }
            }
        }
        let mut t = best.1;
        for _ in 0..30 {
            let (q, d) = spline.at(t);
            let step = (p - q).dot(d) / d.length_squared().max(1e-300);
            let next = (t + step).clamp(from, to);
            if (next - t).abs() <= (to - from) * 1e-15 {
                break;
            }
            t = next;
        }
        t
    }
}
