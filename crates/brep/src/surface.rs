//! Surfaces of faces: from parameters to places and back.

use std::f64::consts::{FRAC_PI_2, TAU};
use std::sync::OnceLock;

use nimbet_kernel::Point;

use crate::curve::Fineness;
use crate::frame::Frame;
use crate::spline::SplineSurface;

/// A surface. Lengths in the model's unit, angles in radians; normals are `∂u × ∂v`.
#[derive(Debug)]
pub enum Surface {
    /// The plane of a frame's first two directions.
    Plane(Frame),
    /// About the frame's third direction: the angle, and how far along.
    Cylinder {
        /// Where it lies.
        frame: Frame,
        /// Its radius.
        radius: f64,
    },
    /// About the frame's third direction: the angle, and how far along.
    Cone {
        /// Where it lies.
        frame: Frame,
        /// The radius at the frame's origin.
        radius: f64,
        /// How much the radius grows along the axis.
        slope: f64,
    },
    /// Longitude and latitude.
    Sphere {
        /// Where it lies.
        frame: Frame,
        /// Its radius.
        radius: f64,
    },
    /// The angle about the axis, and round the tube.
    Torus {
        /// Where it lies.
        frame: Frame,
        /// From the middle to the middle of the tube.
        major: f64,
        /// Of the tube.
        minor: f64,
    },
    /// A rational B-spline.
    Spline(Box<FreeForm>),
    /// What lies at a distance from another one along its normals.
    Offset {
        /// The other one.
        base: Box<Surface>,
        /// How far.
        distance: f64,
    },
}

/// A rational B-spline with what was found out about it.
#[derive(Debug)]
pub struct FreeForm {
    surface: SplineSurface,
    /// Whether it closes along `u` and `v`.
    closed: [bool; 2],
    /// Values of one parameter where the other means nothing: which one means nothing, the value, the place.
    poles: Vec<Pole>,
    extent: f64,
    grid: OnceLock<Vec<([f64; 2], Point)>>,
}

/// Where all values of one parameter are the same place.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Pole {
    /// The parameter that means nothing there: 0 or 1.
    pub axis: usize,
    /// The value of the other one.
    pub value: f64,
    /// The place.
    pub place: Point,
}

impl FreeForm {
    /// A surface, examined for seams and poles.
    pub fn new(surface: SplineSurface) -> Self {
        const ALONG: usize = 9;
        let ranges = [surface.knots()[0].range(), surface.knots()[1].range()];
        let at = |axis: usize, value: f64, n: usize| {
            let [from, to] = ranges[1 - axis];
            let other = from + (to - from) * n as f64 / (ALONG - 1) as f64;
            surface.at(if axis == 0 { [value, other] } else { [other, value] })[0]
        };
        let border: Vec<Vec<Point>> =
            (0..4).map(|side| (0..ALONG).map(|n| at(side / 2, ranges[side / 2][side % 2], n)).collect()).collect();
        let extent = border.iter().flatten().map(|p| (*p - border[0][0]).length()).fold(0.0, f64::max);
        let same = |a: Point, b: Point| (a - b).length() <= extent * 1e-9 + 1e-12;
        let closed = [0, 1].map(|axis| border[axis * 2].iter().zip(&border[axis * 2 + 1]).all(|(a, b)| same(*a, *b)));
        let poles = (0..4)
            .filter(|side| border[*side].iter().all(|p| same(*p, border[*side][0])))
            .map(|side| Pole { axis: 1 - side / 2, value: ranges[side / 2][side % 2], place: border[side][0] })
            .collect();
        Self { surface, closed, poles, extent, grid: OnceLock::new() }
    }

    /// Places spread over it, for where to begin to look.
    fn grid(&self) -> &[([f64; 2], Point)] {
        const MOST: usize = 120;
        self.grid.get_or_init(|| {
            let values = [0, 1].map(|axis| {
                let breaks = self.surface.knots()[axis].breaks();
                let each = (MOST / breaks.len()).clamp(1, 6);
                let inner = |w: &[f64]| {
                    let (a, b) = (w[0], w[1]);
                    (0..each).map(move |n| a + (b - a) * n as f64 / each as f64)
                };
                breaks.windows(2).flat_map(inner).chain(breaks.last().copied()).collect::<Vec<f64>>()
            });
            let place = |u: f64, v: f64| ([u, v], self.surface.at([u, v])[0]);
            // At a pole nothing leads away again.
            let leads = |at: &([f64; 2], Point)| {
                self.poles.iter().all(|pole| (pole.place - at.1).length() > self.extent * 1e-9)
            };
            values[0].iter().flat_map(|u| values[1].iter().map(move |v| place(*u, *v))).filter(leads).collect()
        })
    }

    /// Steps towards the nearest place from a beginning.
    fn descend(&self, p: Point, begin: [f64; 2]) -> ([f64; 2], f64) {
        let mut at = begin;
        let mut best = (at, f64::INFINITY);
        for _ in 0..40 {
            let [q, su, sv] = self.surface.at(at);
            let d = p - q;
            let off = d.length();
            if off < best.1 {
                best = (at, off);
            }
            let (a, b, c) = (su.length_squared(), su.dot(sv), sv.length_squared());
            let (r, s) = (d.dot(su), d.dot(sv));
            // At poles one direction has no length.
            let (a, c) = (a + c * 1e-12, c + a * 1e-12);
            let det = a * c - b * b;
            let step =
                if det > a * c * 1e-12 { [(r * c - s * b) / det, (s * a - r * b) / det] } else { [r / a, s / c] };
            let next = [0, 1].map(|k| self.within(k, at[k] + step[k]));
            let moved = (0..2).map(|k| (next[k] - at[k]).abs() / self.span(k)).fold(0.0, f64::max);
            at = next;
            if moved.is_nan() || moved < 1e-14 {
                break;
            }
        }
        best
    }

    fn span(&self, axis: usize) -> f64 {
        let [from, to] = self.surface.knots()[axis].range();
        to - from
    }

    fn within(&self, axis: usize, t: f64) -> f64 {
        let [from, to] = self.surface.knots()[axis].range();
        if self.closed[axis] { from + (t - from).rem_euclid(to - from) } else { t.clamp(from, to) }
    }

    fn place(&self, p: Point, near: Option<[f64; 2]>) -> [f64; 2] {
        let close = self.extent * 1e-7;
        let from_near = near.map(|at| self.descend(p, [0, 1].map(|k| self.within(k, at[k]))));
        if let Some((at, off)) = from_near
            && off <= close
        {
            return at;
        }
        let mut starts: Vec<(f64, [f64; 2])> =
            self.grid().iter().map(|(at, q)| ((*q - p).length_squared(), *at)).collect();
        let few = starts.len().min(4);
        if few > 0 {
            starts.select_nth_unstable_by(few - 1, |a, b| a.0.total_cmp(&b.0));
        }
        let found = starts[..few].iter().map(|(_, at)| self.descend(p, *at)).chain(from_near);
        found.min_by(|a, b| a.1.total_cmp(&b.1)).map_or([0.0; 2], |(at, _)| at)
    }
}

impl Surface {
    /// What people call it.
    pub fn name(&self) -> &'static str {
        match self {
            Self::Plane(_) => "plane",
            Self::Cylinder { .. } => "cylinder",
            Self::Cone { .. } => "cone",
            Self::Sphere { .. } => "sphere",
            Self::Torus { .. } => "torus",
            Self::Spline(_) => "free-form surface",
            Self::Offset { .. } => "offset surface",
        }
    }

    /// The place at parameters, and how fast it goes along each.
    pub fn at(&self, [u, v]: [f64; 2]) -> [Point; 3] {
        match self {
            Self::Plane(f) => [f.lift([u, v, 0.0]), f.x, f.y],
            Self::Cylinder { frame: f, radius } => {
                let out = f.round(u);
                [f.origin + out * *radius + f.z * v, f.round(u + FRAC_PI_2) * *radius, f.z]
            }
            Self::Cone { frame: f, radius, slope } => {
                let (out, r) = (f.round(u), radius + slope * v);
                [f.origin + out * r + f.z * v, f.round(u + FRAC_PI_2) * r, f.z + out * *slope]
            }
            Self::Sphere { frame: f, radius: r } => {
                let (out, (sin, cos)) = (f.round(u), v.sin_cos());
                let p = f.origin + (out * cos + f.z * sin) * *r;
                [p, f.round(u + FRAC_PI_2) * (r * cos), (f.z * cos - out * sin) * *r]
            }
            Self::Torus { frame: f, major, minor } => {
                let (out, (sin, cos)) = (f.round(u), v.sin_cos());
                let p = f.origin + out * (major + minor * cos) + f.z * (minor * sin);
                [p, f.round(u + FRAC_PI_2) * (major + minor * cos), (f.z * cos - out * sin) * *minor]
            }
            Self::Spline(free) => free.surface.at([free.within(0, u), free.within(1, v)]),
            Self::Offset { base, distance } => {
                let beside = |axis: usize, by: f64| base.beside([u, v], axis, by, *distance);
                let p = base.lifted([u, v], *distance);
                let steps = base.small_steps();
                let along = |axis: usize| {
                    let h = steps[axis];
                    let (a, b) = (beside(axis, -h), beside(axis, h));
                    if b.1 - a.1 > 0.0 { (b.0 - a.0) / (b.1 - a.1) } else { Point::ZERO }
                };
                [p, along(0), along(1)]
            }
        }
    }

    /// The unit normal at parameters; none where there is none.
    pub fn normal(&self, at: [f64; 2]) -> Option<Point> {
        let normal_at = |at: [f64; 2]| {
            let [_, su, sv] = self.at(at);
            let n = su.cross(sv);
            // Nearly along each other, or one of no length: it points nowhere.
            (n.length() > su.length().max(sv.length()).powi(2) * 1e-9).then(|| n.normalize())
        };
        normal_at(at).or_else(|| {
            // At a pole the one beside it is taken.
            let steps = self.small_steps();
            [[1.0, 1.0], [-1.0, 1.0], [1.0, -1.0], [-1.0, -1.0]]
                .into_iter()
                .find_map(|way| normal_at([0, 1].map(|k| self.inside(k, at[k] + way[k] * steps[k] * 8.0))))
        })
    }

    fn lifted(&self, at: [f64; 2], distance: f64) -> Point {
        self.at(at)[0] + self.normal(at).unwrap_or(Point::ZERO) * distance
    }

    fn beside(&self, mut at: [f64; 2], axis: usize, by: f64, distance: f64) -> (Point, f64) {
        at[axis] = self.inside(axis, at[axis] + by);
        (self.lifted(at, distance), at[axis])
    }

    fn inside(&self, axis: usize, t: f64) -> f64 {
        match self {
            Self::Spline(free) if !free.closed[axis] => free.within(axis, t),
            Self::Offset { base, .. } => base.inside(axis, t),
            _ => t,
        }
    }

    /// Steps that are small along each parameter, but not lost to rounding.
    fn small_steps(&self) -> [f64; 2] {
        match self {
            Self::Spline(free) => [0, 1].map(|k| free.span(k) * 1e-6),
            Self::Offset { base, .. } => base.small_steps(),
            _ => [1e-6; 2],
        }
    }

    /// The parameters of the nearest place, looked for from parameters near to it if there are some.
    pub fn place(&self, p: Point, near: Option<[f64; 2]>) -> [f64; 2] {
        match self {
            Self::Plane(f) => {
                let [x, y, _] = f.lower(p);
                [x, y]
            }
            Self::Cylinder { frame, .. } => {
                let [x, y, z] = frame.lower(p);
                [y.atan2(x), z]
            }
            Self::Cone { frame, radius, slope } => {
                let [x, y, z] = frame.lower(p);
                let away = x.hypot(y);
                // Beyond the tip the cone goes on, turned round.
                let sign = if radius + slope * z < 0.0 { -1.0 } else { 1.0 };
                let along = ((sign * away - radius) * slope + z) / (1.0 + slope * slope);
                [(y * sign).atan2(x * sign), along]
            }
            Self::Sphere { frame, .. } => {
                let [x, y, z] = frame.lower(p);
                [y.atan2(x), z.atan2(x.hypot(y))]
            }
            Self::Torus { frame, major, .. } => {
                let [x, y, z] = frame.lower(p);
                [y.atan2(x), z.atan2(x.hypot(y) - major)]
            }
            Self::Spline(free) => free.place(p, near),
            Self::Offset { base, .. } => base.place(p, near),
        }
    }

    /// After how much each parameter begins anew.
    pub fn periods(&self) -> [Option<f64>; 2] {
        match self {
            Self::Plane(_) => [None, None],
            Self::Cylinder { .. } | Self::Cone { .. } | Self::Sphere { .. } => [Some(TAU), None],
            Self::Torus { .. } => [Some(TAU), Some(TAU)],
            Self::Spline(free) => [0, 1].map(|k| free.closed[k].then(|| free.span(k))),
            Self::Offset { base, .. } => base.periods(),
        }
    }

    /// Where one parameter means nothing.
    pub fn poles(&self) -> Vec<Pole> {
        match self {
            Self::Cone { frame, radius, slope } if *slope != 0.0 => {
                let along = -radius / slope;
                vec![Pole { axis: 0, value: along, place: frame.origin + frame.z * along }]
            }
            Self::Sphere { frame, radius } => [-1.0, 1.0]
                .map(|s| Pole { axis: 0, value: FRAC_PI_2 * s, place: frame.origin + frame.z * (radius * s) })
                .to_vec(),
            Self::Spline(free) => free.poles.clone(),
            Self::Offset { base, distance } => {
                let moved = |pole: Pole| {
                    let mut at = [0.0; 2];
                    at[1 - pole.axis] = pole.value;
                    at[pole.axis] = base.range(pole.axis).map_or(0.0, |[from, to]| (from + to) / 2.0);
                    Pole { place: base.lifted(at, *distance), ..pole }
                };
                base.poles().into_iter().map(moved).collect()
            }
            _ => vec![],
        }
    }

    /// From where to where a parameter runs, where it ends.
    pub fn range(&self, axis: usize) -> Option<[f64; 2]> {
        match self {
            Self::Sphere { .. } if axis == 1 => Some([-FRAC_PI_2, FRAC_PI_2]),
            Self::Cylinder { .. } | Self::Cone { .. } | Self::Sphere { .. } if axis == 0 => Some([0.0, TAU]),
            Self::Torus { .. } => Some([0.0, TAU]),
            Self::Spline(free) => Some(free.surface.knots()[axis].range()),
            Self::Offset { base, .. } => base.range(axis),
            _ => None,
        }
    }

    /// How far apart along each parameter points may stand within a box of parameters; infinite along straight lines.
    pub fn steps(&self, fineness: &Fineness, [low, high]: [[f64; 2]; 2]) -> [f64; 2] {
        match self {
            Self::Plane(_) => [f64::INFINITY; 2],
            Self::Cylinder { radius, .. } => [fineness.step(*radius), f64::INFINITY],
            Self::Cone { radius, slope, .. } => {
                let widest = (radius + slope * low[1]).abs().max((radius + slope * high[1]).abs());
                [fineness.step(widest), f64::INFINITY]
            }
            Self::Sphere { radius, .. } => [fineness.step(*radius); 2],
            Self::Torus { major, minor, .. } => [fineness.step(major + minor), fineness.step(*minor)],
            Self::Spline(_) | Self::Offset { .. } => self.measured_steps(fineness, [low, high]),
        }
    }

    /// Steps from how far a curve along each parameter stands off its chords.
    fn measured_steps(&self, fineness: &Fineness, [low, high]: [[f64; 2]; 2]) -> [f64; 2] {
        const ALONG: usize = 16;
        const ACROSS: usize = 6;
        [0, 1].map(|axis| {
            let h = (high[axis] - low[axis]) / ALONG as f64;
            let mut least = f64::INFINITY;
            for n in 0..ALONG {
                for m in 0..=ACROSS {
                    let other = low[1 - axis] + (high[1 - axis] - low[1 - axis]) * m as f64 / ACROSS as f64;
                    let at = |k: f64| {
                        let t = low[axis] + h * (n as f64 + k);
                        if axis == 0 { [t, other] } else { [other, t] }
                    };
                    let [a, b, c] = [0.0, 0.5, 1.0].map(|k| self.at(at(k))[0]);
                    let off = (b - (a + c) / 2.0).length();
                    if off > fineness.chord * 1e-4 {
                        least = least.min(h * (fineness.chord / off).sqrt());
                    }
                    if let (Some(x), Some(y)) = (self.normal(at(0.0)), self.normal(at(1.0))) {
                        let turn = x.angle_between(y);
                        if turn > fineness.angle * 0.02 {
                            least = least.min(h * fineness.angle / turn);
                        }
                    }
                }
            }
            least
        })
    }
}
