//! Lines in space: stretches in chains, and flat ones as what is drawn in their plane.

use std::f64::consts::TAU;

use nimbet_kernel::Point;
use nimbet_kernel::triangulate::PlaneFrame;
use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};

use crate::Flat;
use crate::path::{Path, Stretch};
use crate::span::{Form, Span, by_quarters, cubic};

type Xyz = [f64; 3];

/// A stretch of a line in space.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum Strand {
    /// From a place straight to another.
    Straight([Xyz; 2]),
    /// Round a centre: `centre + u cos + v sin`, from angle nought on, radians. `u` and `v` are as long as its radius and square.
    Round {
        /// Its centre.
        centre: Xyz,
        /// From the centre to where it begins.
        u: Xyz,
        /// From the centre to where it is after a quarter.
        v: Xyz,
        /// How far it turns, radians.
        turn: f64,
    },
    /// A cubic by its four poles.
    Free([Xyz; 4]),
}

/// Strands of a chain, each beginning where the one before it ends.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Strands {
    /// The strands.
    pub strands: Vec<Strand>,
    /// Whether the last ends where the first begins.
    pub closed: bool,
}

impl Strand {
    /// Where it is after a share of it, 0 to 1.
    pub fn at(&self, share: f64) -> Point {
        match *self {
            Self::Straight([a, b]) => Point::from_array(a).lerp(Point::from_array(b), share),
            Self::Round { centre, u, v, turn } => {
                let (sin, cos) = (turn * share).sin_cos();
                Point::from_array(centre) + Point::from_array(u) * cos + Point::from_array(v) * sin
            }
            Self::Free(poles) => cubic_at(&poles.map(Point::from_array), share),
        }
    }

    /// Where it begins and ends.
    pub fn ends(&self) -> [Point; 2] {
        match *self {
            Self::Straight(ends) => ends.map(Point::from_array),
            Self::Free([a, .., b]) => [a, b].map(Point::from_array),
            Self::Round { turn, .. } if (turn.abs() - TAU).abs() < 1e-12 => [self.at(0.0); 2],
            Self::Round { .. } => [self.at(0.0), self.at(1.0)],
        }
    }

    /// The same moved, turned and scaled evenly.
    #[must_use]
    pub fn put(&self, place: &dyn Fn(Point) -> Point) -> Self {
        let origin = place(Point::ZERO);
        let at = |p: Xyz| place(Point::from_array(p)).to_array();
        let way = |p: Xyz| (place(Point::from_array(p)) - origin).to_array();
        match *self {
            Self::Straight(ends) => Self::Straight(ends.map(at)),
            Self::Round { centre, u, v, turn } => Self::Round { centre: at(centre), u: way(u), v: way(v), turn },
            Self::Free(poles) => Self::Free(poles.map(at)),
        }
    }

    /// The other way round.
    #[must_use]
    pub fn reversed(&self) -> Self {
        match *self {
            Self::Straight([a, b]) => Self::Straight([b, a]),
            Self::Free([a, b, c, d]) => Self::Free([d, c, b, a]),
            Self::Round { centre, u, v, turn } => {
                let (sin, cos) = turn.sin_cos();
                let (u, v) = (Point::from_array(u), Point::from_array(v));
                let (end, before) = (u * cos + v * sin, u * sin - v * cos);
                Self::Round { centre, u: end.to_array(), v: before.to_array(), turn }
            }
        }
    }

    /// Whether all of it is made of finite numbers.
    pub fn is_finite(&self) -> bool {
        match self {
            Self::Straight(ends) => ends.as_flattened().iter().all(|x| x.is_finite()),
            Self::Free(poles) => poles.as_flattened().iter().all(|x| x.is_finite()),
            Self::Round { centre, u, v, turn } => {
                turn.is_finite() && [centre, u, v].iter().all(|p| p.iter().all(|x| x.is_finite()))
            }
        }
    }

    /// Places that hold it between them: its ends, and what it bends round.
    fn corners(&self) -> Vec<Point> {
        match *self {
            Self::Straight(ends) => ends.map(Point::from_array).to_vec(),
            Self::Free(poles) => poles.map(Point::from_array).to_vec(),
            Self::Round { .. } => (0..=4).map(|k| self.at(f64::from(k) * 0.25)).collect(),
        }
    }

    /// As stretches of a path.
    fn stretches(&self) -> Vec<Stretch> {
        match *self {
            Self::Straight([a, b]) => vec![Stretch::Straight(Point::from_array(a), Point::from_array(b))],
            Self::Free(poles) => vec![Stretch::Free(poles.map(Point::from_array))],
            Self::Round { centre, u, v, turn } => {
                let (u, v) = (Point::from_array(u), Point::from_array(v));
                let Some(frame) = PlaneFrame::new(Point::from_array(centre), u.cross(v)) else { return vec![] };
                let form = Form::Arc { centre: Flat::ZERO, radius: u.length() };
                let spans = by_quarters(form, 0.0, turn, TAU / 4.0).into_iter();
                spans.map(|span| Stretch::Flat(span, frame.along(u))).collect()
            }
        }
    }

    /// As spans in a plane it lies in.
    fn spans(&self, frame: &PlaneFrame) -> Vec<Span> {
        let flat = |p: Xyz| Flat::from(frame.flatten(Point::from_array(p)));
        match *self {
            Self::Straight([a, b]) => vec![Span::line(flat(a), flat(b))],
            Self::Free(poles) => cubic(poles.map(flat)),
            Self::Round { centre, u, v, turn } => {
                let at = flat(centre);
                let way = |w: Xyz| Flat::from(frame.flatten(Point::from_array(centre) + Point::from_array(w))) - at;
                let (u, v) = (way(u), way(v));
                let (begin, sense) = (u.to_angle(), u.perp_dot(v).signum());
                let form = Form::Arc { centre: at, radius: u.length() };
                by_quarters(form, begin, begin + turn * sense, TAU / 4.0)
            }
        }
    }
}

impl Strands {
    /// As a path.
    pub fn path(&self) -> Path {
        Path { stretches: self.strands.iter().flat_map(Strand::stretches).collect(), closed: self.closed }
    }
}

pub(crate) fn cubic_at([a, b, c, d]: &[Point; 4], t: f64) -> Point {
    let s = 1.0 - t;
    *a * (s * s * s) + *b * (3.0 * s * s * t) + *c * (3.0 * s * t * t) + *d * (t * t * t)
}

/// Strands put end to end where no more than two end at a place. Ends nearer than `reach` are at one place.
pub fn chained(strands: &[Strand], reach: f64) -> Vec<Strands> {
    let ends: Vec<[Point; 2]> = strands.iter().map(Strand::ends).collect();
    let places = numbered(ends.as_flattened(), reach);
    let mut at_place: FxHashMap<usize, Vec<usize>> = FxHashMap::default();
    for (end, place) in places.iter().enumerate() {
        at_place.entry(*place).or_default().push(end);
    }
    // The end another one goes on from, where just one does.
    let goes_on = |end: usize| match at_place[&places[end]][..] {
        [a, b] if a / 2 != b / 2 => Some(if a == end { b } else { a }),
        _ => None,
    };
    let mut taken = vec![false; strands.len()];
    let mut chains = Vec::new();
    for first in 0..strands.len() {
        if taken[first] {
            continue;
        }
        // Back to where the chain begins, unless it closes.
        let mut begin = 2 * first;
        while let Some(before) = goes_on(begin).filter(|b| *b / 2 != first) {
            begin = before ^ 1;
        }
        let (mut chain, mut end) = (Vec::new(), begin);
        loop {
            taken[end / 2] = true;
            let strand = strands[end / 2];
            chain.push(if end % 2 == 0 { strand } else { strand.reversed() });
            match goes_on(end ^ 1).filter(|next| !taken[*next / 2]) {
                Some(next) => end = next,
                None => break,
            }
        }
        let closed = places[begin] == places[end ^ 1];
        chains.push(Strands { strands: chain, closed });
    }
    chains
}

/// A number for each place, the same for those nearer than `reach` to one that has it.
fn numbered(places: &[Point], reach: f64) -> Vec<usize> {
    let cell = |p: Point| (p / reach.max(1e-12)).floor().to_array().map(|x| x as i64);
    let mut held: FxHashMap<[i64; 3], Vec<usize>> = FxHashMap::default();
    let mut number: Vec<usize> = Vec::with_capacity(places.len());
    for (n, p) in places.iter().enumerate() {
        let [x, y, z] = cell(*p);
        let around = (-1..=1).flat_map(|i| (-1..=1).flat_map(move |j| (-1..=1).map(move |k| [i, j, k])));
        let near = around
            .filter_map(|[i, j, k]| held.get(&[x.saturating_add(i), y.saturating_add(j), z.saturating_add(k)]))
            .flatten()
            .find(|k| places[**k].distance(*p) <= reach)
            .copied();
        number.push(near.map_or(n, |k| number[k]));
        if near.is_none() {
            held.entry([x, y, z]).or_default().push(n);
        }
    }
    number
}

/// The plane strands lie in, to within a distance; x and y as the model's where they can be. Of a straight line one of many.
pub fn plane_of(strands: &[Strand], within: f64) -> Option<PlaneFrame> {
    let corners: Vec<Point> = strands.iter().flat_map(Strand::corners).collect();
    let first = *corners.first()?;
    let farthest = |from: &dyn Fn(Point) -> f64| {
        corners.iter().copied().max_by(|a, b| from(*a).total_cmp(&from(*b))).unwrap_or(first)
    };
    let along = (farthest(&|p| p.distance(first)) - first).try_normalize()?;
    let aside = |p: Point| (p - first) - along * (p - first).dot(along);
    let far = aside(farthest(&|p| aside(p).length()));
    let mut normal = if far.length() > within {
        along.cross(far).normalize()
    } else if along.z.abs() < 0.9 {
        (Point::Z - along * along.z).normalize()
    } else {
        (Point::Y - along * along.y).normalize()
    };
    // The side seen from above, else from the front, else from the right.
    let seen = [normal.z, -normal.y, normal.x].into_iter().find(|x| x.abs() > 1e-9);
    if seen.is_some_and(|x| x < 0.0) {
        normal = -normal;
    }
    let height = corners.iter().map(|p| p.dot(normal)).sum::<f64>() / corners.len() as f64;
    let lies = corners.iter().all(|p| (p.dot(normal) - height).abs() <= within);
    lies.then(|| PlaneFrame::upright(normal * height, normal)).flatten()
}

/// What strands in a plane draw, a curve each.
pub fn drawn_in(frame: &PlaneFrame, chains: &[Strands]) -> Vec<Vec<Span>> {
    chains.iter().flat_map(|c| &c.strands).map(|strand| strand.spans(frame)).collect()
}
