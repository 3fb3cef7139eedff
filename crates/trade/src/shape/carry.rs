//! Lines carried down from parts onto the plane of a profile: cuts, silhouettes, rims, edges. Runs that are straight become lines,
//! runs on a circle arcs.

use std::collections::{HashMap, HashSet};
use std::f64::consts::TAU;

use nimbet_kernel::outline::silhouette;
use nimbet_kernel::rims::rims;
use nimbet_kernel::section::section;
use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Mesh, Point, Progress, Topology};
use nimbet_profile::Flat;
use nimbet_profile::drawing::{FARTHEST, Leg, Line, MOST_LINES, Shape};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::TradeError;
use crate::parameter::Part;

/// What is carried down from a part.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Carries {
    /// Where the plane cuts it.
    Cut,
    /// What is seen of it along the plane's normal.
    Silhouette,
    /// Its rims.
    Rims,
    /// The edges at which two of its faces meet, or at which it turns by more than 30°.
    Edges,
}

/// Lines carried down from a part. They follow it: a later run of the step takes them from the part as it is then.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Carried {
    /// What the lines are called: this, then a number.
    #[schemars(length(min = 1, max = 12))]
    pub name: String,
    /// The number of the part; absent, it is the one the step is done to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Part>")]
    pub part: Option<u32>,
    /// What is carried down.
    pub what: Carries,
}

/// Within one face an edge turns by more than 30°: this is the cosine.
const SHARP: f64 = 0.866;

/// A chain of places in the plane; for each side the face it lies in, where that is known.
struct Chain {
    points: Vec<Flat>,
    faces: Vec<u32>,
    closed: bool,
}

/// Places nearer than this are one, as a share of the size of what is carried.
const SAME: f64 = 1e-7;
/// What lies on a line or a circle does so within this share of that size: single precision.
const ON: f64 = 2e-6;
/// A run that turns by more from side to side is no circle that was cut into sides, radians.
const MOST_TURN: f64 = TAU / 11.5;
/// So many sides make a circle known.
const LEAST_SIDES: usize = 4;

/// The lines of a part on a plane.
///
/// # Errors
/// Where there is nothing of the kind, or too much; where somebody asked to stop.
pub fn carry(mesh: &Mesh, frame: &PlaneFrame, carried: &Carried, progress: &Progress) -> Result<Vec<Line>, TradeError> {
    let chains = match carried.what {
        Carries::Cut => cut(mesh, frame),
        Carries::Silhouette => seen(mesh, frame),
        Carries::Rims => rimmed(mesh, frame),
        Carries::Edges => edges(mesh, frame, progress)?,
    };
    progress.check()?;
    let all = || chains.iter().flat_map(|c| &c.points);
    let least = all().fold(Flat::INFINITY, |a, p| a.min(*p));
    let most = all().fold(Flat::NEG_INFINITY, |a, p| a.max(*p));
    let size = (most - least).length();
    let farthest = least.abs().max(most.abs()).max_element();
    if !chains.is_empty() && (farthest.is_nan() || farthest > FARTHEST) {
        let why = format!("it lies farther than {FARTHEST} mm from the zero of the plane");
        return Err(TradeError::refused(why, vec![]));
    }
    let mut shapes = Vec::new();
    for chain in chains {
        progress.check()?;
        shapes.extend(recognised(chain, size));
    }
    if shapes.is_empty() {
        let why = match carried.what {
            Carries::Cut => "the plane does not cut the part",
            Carries::Silhouette => "nothing of the part is seen along the plane's normal",
            Carries::Rims => "the part has no rims",
            Carries::Edges => "the part has no edges between faces",
        };
        return Err(TradeError::refused(why, vec![]));
    }
    let legs = |s: &Shape| if let Shape::Chain { legs, .. } = s { legs.len() } else { 1 };
    if shapes.len() > MOST_LINES || shapes.iter().any(|s| legs(s) > MOST_LINES) {
        let why = format!("that is more than {MOST_LINES} lines, or a line of more legs; carry down less of the part");
        return Err(TradeError::refused(why, vec![]));
    }
    let named = |(n, draw)| Line { name: format!("{}{}", carried.name, n + 1), draw, still: true };
    Ok(shapes.into_iter().enumerate().map(named).collect())
}

fn cut(mesh: &Mesh, frame: &PlaneFrame) -> Vec<Chain> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let of = |c: nimbet_kernel::section::Contour| Chain {
        faces: c.faces(mesh).map(|f| f.0).collect(),
        points: flat(frame, &c.points),
        closed: c.closed,
    };
    section(mesh, &topology, frame).into_iter().map(of).collect()
}

fn flat(frame: &PlaneFrame, points: &[Point]) -> Vec<Flat> {
    points.iter().map(|p| Flat::from(frame.flatten(*p))).collect()
}

fn seen(mesh: &Mesh, frame: &PlaneFrame) -> Vec<Chain> {
    let outline =
        |o: Vec<[f64; 2]>| Chain { points: o.into_iter().map(Flat::from).collect(), faces: vec![], closed: true };
    silhouette(mesh, frame).into_iter().flatten().map(outline).collect()
}

fn rimmed(mesh: &Mesh, frame: &PlaneFrame) -> Vec<Chain> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let of = |rim: nimbet_kernel::rims::Rim| {
        let points: Vec<Point> = rim.points.iter().map(|p| mesh.points()[*p as usize]).collect();
        Chain { points: flat(frame, &points), faces: vec![], closed: rim.points.len() == rim.halves.len() }
    };
    rims(&topology).into_iter().map(of).collect()
}

/// The edges between faces in chains, each seen once however many lie behind each other.
fn edges(mesh: &Mesh, frame: &PlaneFrame, progress: &Progress) -> Result<Vec<Chain>, TradeError> {
    let points = flat(frame, mesh.points());
    let mut beside: HashMap<(u32, u32), Vec<usize>> = HashMap::new();
    for (t, corners) in mesh.triangles().iter().enumerate() {
        for k in 0..3 {
            let (a, b) = (corners[k], corners[(k + 1) % 3]);
            beside.entry((a.min(b), a.max(b))).or_default().push(t);
        }
    }
    progress.check()?;
    let size = points.iter().fold(0.0_f64, |a, p| a.max(p.abs().max_element()));
    let cell = |p: Flat| ((p.x / (size * SAME)).round() as i64, (p.y / (size * SAME)).round() as i64);
    let mut drawn = HashSet::new();
    let mut next: HashMap<(i64, i64), Vec<(Flat, Flat)>> = HashMap::new();
    let normal = |t: usize| mesh.area_vector(t).normalize_or_zero();
    let is_edge = |beside: &Vec<usize>| match beside[..] {
        [s, t] => mesh.face_of()[s] != mesh.face_of()[t] || normal(s).dot(normal(t)) < SHARP,
        _ => true,
    };
    let mut sorted: Vec<_> = beside.into_iter().filter(|(_, triangles)| is_edge(triangles)).collect();
    sorted.sort_unstable();
    for ((a, b), _) in sorted {
        let (p, q) = (points[a as usize], points[b as usize]);
        let (c, d) = (cell(p), cell(q));
        // Square to the plane it is seen as a place.
        if c == d || !drawn.insert((c.min(d), c.max(d))) {
            continue;
        }
        next.entry(c).or_default().push((p, q));
        next.entry(d).or_default().push((q, p));
    }
    let ends: Vec<(i64, i64)> = {
        let mut all: Vec<_> = next.keys().copied().collect();
        // Those where chains end come first; what is left then are rings.
        all.sort_unstable_by_key(|c| (next[c].len() == 2, *c));
        all
    };
    let mut chains = Vec::new();
    for start in ends {
        while let Some((p, q)) = next.get_mut(&start).and_then(Vec::pop) {
            let (mut chain, mut at) = (vec![p, q], cell(q));
            take(&mut next, at, p);
            // On through places where nothing else begins.
            while at != start && next.get(&at).is_some_and(|n| n.len() == 1) {
                let Some((from, to)) = next.get_mut(&at).and_then(Vec::pop) else { break };
                at = cell(to);
                take(&mut next, at, from);
                chain.push(to);
            }
            let closed = at == start && chain.len() > 3;
            if closed {
                chain.pop();
            }
            chains.push(Chain { points: chain, faces: vec![], closed });
        }
    }
    Ok(chains)
}

/// Takes away the way back along an edge that was gone.
fn take(next: &mut HashMap<(i64, i64), Vec<(Flat, Flat)>>, at: (i64, i64), back_to: Flat) {
    if let Some(ways) = next.get_mut(&at)
        && let Some(n) = ways.iter().position(|(_, to)| *to == back_to)
    {
        ways.swap_remove(n);
    }
}

/// A chain as lines and arcs.
fn recognised(chain: Chain, size: f64) -> Option<Shape> {
    let Chain { points, faces, closed } = straightened(chain, size);
    let n = points.len();
    if n < 2 {
        return None;
    }
    let on = size * ON;
    if closed && let Some((centre, radius)) = circle(&points, on).filter(|_| turns_softly(&points, true)) {
        return Some(Shape::Circle { centre: centre.to_array(), diameter: 2.0 * radius });
    }
    let sides = if closed { n } else { n - 1 };
    let at = |k: usize| points[k % n];
    let face = |k: usize| faces.get(k % n);
    let mut legs: Vec<Leg> = Vec::new();
    let mut k = 0;
    while k < sides {
        // As far as it goes on a circle, within one face.
        let mut far = k + 1;
        let mut bulge = 0.0;
        while far < sides && face(far) == face(k) {
            let run: Vec<Flat> = (k..=far + 1).map(at).collect();
            if !turns_softly(&run, false) || (run.len() > 3 && circle(&run, on).is_none()) {
                break;
            }
            far += 1;
        }
        let run: Vec<Flat> = (k..=far).map(at).collect();
        match circle(&run, on).filter(|_| run.len() > LEAST_SIDES) {
            Some((centre, _)) => {
                let turn: f64 = run.windows(2).map(|w| (w[0] - centre).angle_to(w[1] - centre)).sum();
                if turn.abs() < TAU * 0.9 {
                    bulge = (turn * 0.25).tan();
                } else {
                    far = k + 1;
                }
            }
            None => far = k + 1,
        }
        legs.push(Leg { to: at(far).to_array(), bulge });
        k = far;
    }
    let from = points[0].to_array();
    let back = closed && legs.last().is_some_and(|l| l.bulge == 0.0);
    if back && legs.len() > 2 {
        legs.pop();
        return Some(Shape::Chain { from, legs, closed: true });
    }
    match &legs[..] {
        [one] if one.bulge == 0.0 => Some(Shape::Line { from, to: one.to }),
        _ => Some(Shape::Chain { from, legs, closed: false }),
    }
}

/// Without places that lie on the line between their neighbours, and those that are the same.
fn straightened(chain: Chain, size: f64) -> Chain {
    let (same, on) = (size * SAME, size * ON);
    let n = chain.points.len();
    let mut points: Vec<Flat> = Vec::new();
    let mut faces = Vec::new();
    let face = |k: usize| chain.faces.get(k).copied();
    for k in 0..n {
        let p = chain.points[k];
        if points.last().is_some_and(|q: &Flat| q.distance(p) <= same) {
            continue;
        }
        let ends = !chain.closed && (k == 0 || k + 1 == n);
        let before = points.last().copied().unwrap_or(chain.points[(k + n - 1) % n]);
        let after = chain.points[(k + 1) % n];
        let way = (after - before).normalize_or_zero();
        let flat = (p - before).perp_dot(way).abs() <= on && (p - before).dot(after - p) >= 0.0 && way != Flat::ZERO;
        // A face's end is a place even where the line goes on.
        let one_face = k == 0 || face(k) == face(k - 1);
        if !ends && flat && one_face {
            continue;
        }
        points.push(p);
        faces.extend(face(k));
    }
    if chain.closed && points.len() > 1 && points[0].distance(points[points.len() - 1]) <= same {
        points.pop();
        faces.truncate(points.len());
    }
    Chain { points, faces, closed: chain.closed }
}

/// Whether it turns to one side, and never much.
fn turns_softly(points: &[Flat], closed: bool) -> bool {
    let n = points.len();
    let count = if closed { n } else { n.saturating_sub(2) };
    let turn = |k: usize| {
        let [a, b, c] = [points[k], points[(k + 1) % n], points[(k + 2) % n]];
        (b - a).angle_to(c - b)
    };
    let turns: Vec<f64> = (0..count).map(turn).collect();
    turns.iter().all(|t| t.abs() < MOST_TURN) && (turns.iter().all(|t| *t > 0.0) || turns.iter().all(|t| *t < 0.0))
}

/// The circle all places lie on, if there is one.
fn circle(points: &[Flat], on: f64) -> Option<(Flat, f64)> {
    let n = points.len();
    if n < 3 {
        return None;
    }
    let (a, b, c) = (points[0], points[n / 3], points[2 * n / 3]);
    let c = if n == 3 { points[2] } else { c };
    let (u, v) = (b - a, c - a);
    let twice = 2.0 * u.perp_dot(v);
    if twice.abs() < 1e-12 * u.length_squared().max(v.length_squared()) {
        return None;
    }
    let off = (u.perp() * v.length_squared() - v.perp() * u.length_squared()) / twice;
    let (centre, radius) = (a + off, off.length());
    // A circle far larger than what lies on it is a line.
    let reach = points.iter().map(|p| p.distance(a)).fold(0.0, f64::max);
    let lies = points.iter().all(|p| (p.distance(centre) - radius).abs() <= on);
    (lies && radius < 100.0 * reach).then_some((centre, radius))
}
