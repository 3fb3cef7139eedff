//! Outlines turned about a line in their plane.

use std::f64::consts::TAU;

use nimbet_kernel::Mesh;
use nimbet_kernel::Point;
use nimbet_kernel::measure::measure;
use nimbet_kernel::triangulate::PlaneFrame;

use super::flat::Flattened;
use super::{BodyError, Making, refused};
use crate::Flat;

/// What is turned about, and how far.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Axis {
    /// A place on it.
    pub at: Flat,
    /// Where it goes.
    pub way: Flat,
    /// The angle where the body begins, radians, from the plane, by the right hand about the axis.
    pub from: f64,
    /// The angle where it ends; a whole turn from there closes it.
    pub to: f64,
}

/// Nearer to the axis than this is on it, mm.
const ON_AXIS: f64 = 1e-6;

/// Places by how far out and how far along they are, and how they lie round the axis.
struct Turning {
    at: Point,
    along: Point,
    out: Point,
    round: Point,
    from: f64,
    to: f64,
    whole: bool,
    steps: usize,
    /// Distance from the axis, and along it.
    places: Vec<(f64, f64)>,
}

impl Turning {
    /// Everything has to lie on one side of the axis.
    fn new(places: &[Flat], plane: &PlaneFrame, axis: &Axis, chord: f64) -> Result<Self, BodyError> {
        let way = axis.way.normalize_or_zero();
        if way == Flat::ZERO || !axis.at.is_finite() {
            return Err(refused("the axis has no direction", vec![]));
        }
        let whole = axis.to - axis.from >= TAU - 1e-9;
        let angle = axis.to - axis.from;
        if angle.is_nan() || angle <= 1e-4 {
            return Err(refused("it is turned by no angle", vec![]));
        }
        let far = |p: &Flat| (*p - axis.at).perp_dot(way);
        let (least, most) =
            places.iter().map(far).fold((f64::INFINITY, f64::NEG_INFINITY), |(l, m), x| (l.min(x), m.max(x)));
        if least < -ON_AXIS && most > ON_AXIS {
            let worst = places.iter().min_by(|a, b| far(a).abs().total_cmp(&far(b).abs()));
            let why = "what is turned has to lie on one side of the axis; it lies on both";
            return Err(refused(why, worst.copied().into_iter().collect()));
        }
        if most.max(-least) <= ON_AXIS {
            return Err(refused("it lies on the axis", vec![]));
        }
        // Seen along the axis what is turned lies to the right: else the axis is taken the other way, with its angles.
        let left = -least > most;
        let (way, from, to) = if left { (-way, -axis.to, -axis.from) } else { (way, axis.from, axis.to) };
        let lifted = |v: Flat| plane.lift(v.to_array()) - plane.origin;
        let (along, out) = (lifted(way), lifted(-way.perp()));
        let radius = most.max(-least);
        /// A round face turns by less than this many steps would at an edge between faces.
        const LEAST_STEPS: f64 = 16.0;
        let turn = 2.0 * (1.0 - (chord / radius).min(1.0)).acos().max(1e-6);
        let steps = (TAU / turn).max(LEAST_STEPS) * (to - from).min(TAU) / TAU;
        let steps = if whole { (steps / 4.0).ceil() * 4.0 } else { steps.ceil().max(1.0) } as usize;
        let places = places.iter().map(|p| {
            let r = (*p - axis.at).dot(-way.perp());
            (if r.abs() <= ON_AXIS { 0.0 } else { r }, (*p - axis.at).dot(way))
        });
        let at = plane.lift(axis.at.to_array());
        Ok(Self { at, along, out, round: along.cross(out), from, to, whole, steps, places: places.collect() })
    }

    fn point(&self, place: usize, step: usize) -> Point {
        let (r, a) = self.places[place];
        let share = if step == self.steps { 1.0 } else { step as f64 / self.steps as f64 };
        let (sin, cos) = (self.from + (self.to - self.from) * share).sin_cos();
        self.at + self.along * a + (self.out * cos + self.round * sin) * r
    }

    /// The points of a place at all steps, the first again after a whole turn; on the axis one point.
    fn ring(&self, making: &mut Making, place: usize) -> Vec<u32> {
        if self.places[place].0 == 0.0 {
            return vec![making.point(self.point(place, 0)); self.steps + 1];
        }
        let count = if self.whole { self.steps } else { self.steps + 1 };
        let mut ring: Vec<u32> = (0..count).map(|k| making.point(self.point(place, k))).collect();
        if self.whole {
            ring.push(ring[0]);
        }
        ring
    }

    fn on_axis(&self, place: usize) -> bool {
        self.places[place].0 == 0.0
    }
}

/// The band between two rings.
fn band(making: &mut Making, from: &[u32], to: &[u32], face: u32) {
    for k in 1..from.len() {
        making.quad([from[k - 1], from[k], to[k], to[k - 1]], face);
    }
}

/// A solid from outlines. Faces: 0 where it begins, 1 where it ends, then one for each curve.
///
/// # Errors
/// [`BodyError`] where the outlines lie on both sides of the axis.
pub fn revolve(flat: &Flattened, plane: &PlaneFrame, axis: &Axis, chord: f64) -> Result<Mesh, BodyError> {
    let places: Vec<Flat> = flat.vertices().map(|v| v.at).collect();
    let turning = Turning::new(&places, plane, axis, chord)?;
    let mut making = Making::default();
    let rings: Vec<Vec<u32>> = (0..places.len()).map(|n| turning.ring(&mut making, n)).collect();
    let mut first = 0;
    for outline in &flat.outlines {
        let n = outline.len();
        for (k, vertex) in outline.iter().enumerate() {
            let (i, j, before) = (first + k, first + (k + 1) % n, first + (k + n - 1) % n);
            if turning.on_axis(i) && turning.on_axis(j) {
                continue;
            }
            // An outline that only touches the axis makes two tips there, not one through which the body would hang together.
            let tip = turning.whole && turning.on_axis(i) && !turning.on_axis(before);
            let own = tip.then(|| turning.ring(&mut making, i));
            band(&mut making, own.as_ref().unwrap_or(&rings[i]), &rings[j], 2 + vertex.curve as u32);
        }
        first += n;
    }
    if !turning.whole {
        for t in &flat.triangles {
            making.triangle(t.map(|i| rings[i][0]), 0);
            let [a, b, c] = t.map(|i| rings[i][turning.steps]);
            making.triangle([a, c, b], 1);
        }
    }
    making.mesh()
}

/// A sheet from a chain turned about a line; closed, and with its inside inside, where both ends of the chain lie on the axis.
///
/// # Errors
/// [`BodyError`] where the chain lies on both sides of the axis.
pub fn revolve_chain(
    points: &[(Flat, usize)],
    closed: bool,
    plane: &PlaneFrame,
    axis: &Axis,
    chord: f64,
) -> Result<Mesh, BodyError> {
    let places: Vec<Flat> = points.iter().map(|p| p.0).collect();
    let turning = Turning::new(&places, plane, axis, chord)?;
    let mut making = Making::default();
    let rings: Vec<Vec<u32>> = (0..places.len()).map(|n| turning.ring(&mut making, n)).collect();
    let n = places.len();
    for k in 0..if closed { n } else { n - 1 } {
        let j = (k + 1) % n;
        if !(turning.on_axis(k) && turning.on_axis(j)) {
            band(&mut making, &rings[k], &rings[j], points[k].1 as u32);
        }
    }
    let mut mesh = making.mesh()?.retain_triangles(|_| true);
    let ends_on_axis = turning.on_axis(0) && turning.on_axis(n - 1);
    if turning.whole && (closed || ends_on_axis) && measure(&mesh).volume < 0.0 {
        mesh.reverse_triangles(|_| true);
    }
    Ok(mesh)
}
