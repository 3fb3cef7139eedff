//! One part and one step in other poses: turned, moved, scaled, in single precision, cut into other triangles, in another order.

pub mod parts;
pub mod tools;

use std::collections::BTreeMap;

use glam::{DQuat, EulerRot};
use nimbet_kernel::surfaces::{DEFAULT_ANGLE, Grouping, default_tolerance, group_faces};
use nimbet_kernel::{Aabb, Mesh, Point, Progress, weld};
use nimbet_trade::examine::{FaceSurface, face_facts};
use nimbet_trade::{Operation, PartState, TradeError, examine};
use serde_json::Value;

use super::dice::Dice;

/// How a part lies, and how it is written down.
#[derive(Clone, Debug)]
pub struct Lie {
    pub name: &'static str,
    turn: DQuat,
    scale: f64,
    by: Point,
    single: bool,
    cut: bool,
    permuted: bool,
    seed: u64,
}

impl Lie {
    /// As it was made.
    pub fn plain() -> Self {
        let turn = DQuat::IDENTITY;
        Self { name: "plain", turn, scale: 1.0, by: Point::ZERO, single: false, cut: false, permuted: false, seed: 0 }
    }

    /// Every way to lie there is, from a seed; parts are some 30 mm across.
    pub fn all(seed: u64) -> Vec<Self> {
        let mut dice = Dice::new(seed);
        let mut angle = || dice.roll() * 6.0;
        let turn = DQuat::from_euler(EulerRot::XYZ, angle(), angle(), angle());
        let far = (Point::new(angle(), angle(), angle()) - 3.0).normalize() * 3e5;
        let near = Point::new(angle(), angle(), angle()) * 10.0;
        let plain = Self { seed, ..Self::plain() };
        vec![
            Self { name: "turned", turn, ..plain.clone() },
            Self { name: "moved", by: far, ..plain.clone() },
            Self { name: "small", scale: 0.01, ..plain.clone() },
            Self { name: "large", scale: 100.0, ..plain.clone() },
            Self { name: "single", turn, by: near, single: true, ..plain.clone() },
            Self { name: "cut", cut: true, ..plain.clone() },
            Self { name: "permuted", permuted: true, ..plain.clone() },
            Self { name: "all at once", turn, by: near, single: true, cut: true, permuted: true, scale: 7.3, seed },
        ]
    }

    /// Turned, within a dozen millimetres of the origin, in single precision.
    pub fn somewhere(seed: u64) -> Self {
        let mut dice = Dice::new(seed);
        let mut angle = || dice.roll() * 6.0;
        let turn = DQuat::from_euler(EulerRot::XYZ, angle(), angle(), angle());
        let by = (Point::new(angle(), angle(), angle()) - 3.0) * 4.0;
        Self { name: "somewhere", turn, by, single: true, seed, ..Self::plain() }
    }

    fn point(&self, p: Point) -> Point {
        self.turn * p * self.scale + self.by
    }

    fn back(&self, p: Point) -> Point {
        self.turn.inverse() * (p - self.by) / self.scale
    }

    /// A part in this pose, brought in as a file is: its triangles grouped into faces.
    pub fn part(&self, mesh: &Mesh) -> Mesh {
        let mut dice = Dice::new(self.seed ^ 0x77);
        let mesh = if self.cut { cut(mesh, &mut dice) } else { mesh.clone() };
        let mesh = if self.permuted { permuted(&mesh, &mut dice) } else { mesh };
        let single = |p: Point| if self.single { p.as_vec3().as_dvec3() } else { p };
        let soup: Vec<Point> =
            (0..mesh.triangles().len()).flat_map(|t| mesh.corners(t).map(|p| single(self.point(p)))).collect();
        let mesh = weld::weld_corners(&soup).unwrap();
        let tolerance = default_tolerance(&Aabb::of(mesh.points().iter().copied()));
        group_faces(mesh, Grouping { angle: DEFAULT_ANGLE, tolerance }, &Progress::unwatched()).unwrap()
    }

    /// A step in this pose: its points, directions and lengths are carried along.
    pub fn step(&self, step: &Value) -> Value {
        self.carried("", step)
    }

    fn carried(&self, key: &str, value: &Value) -> Value {
        /// Directions.
        const WAYS: [&str; 6] = ["normal", "along", "up", "way", "axis", "right"];
        /// Directions with a length.
        const MOVES: [&str; 2] = ["step", "by"];
        /// Lengths, and what is made of lengths.
        const LENGTHS: [&str; 43] = [
            "at",
            "from",
            "to",
            "centre",
            "above",
            "rest",
            "far",
            "reach",
            "wall",
            "thickness",
            "distance",
            "by",
            "chord",
            "height",
            "radius",
            "end",
            "length",
            "diameter",
            "depth",
            "tolerance",
            "resolution",
            "within",
            "outward",
            "inward",
            "below",
            "specks_below",
            "rounded",
            "top",
            "bore",
            "pitch",
            "radial",
            "axial",
            "width",
            "head",
            "spacing",
            "outline",
            "size",
            "clearance",
            "becomes",
            "lead_in",
            "least_wall",
            "sampled",
            "plug",
        ];
        if let Some([x, y, z]) = three(value) {
            let p = Point::new(x, y, z);
            return match key {
                "shrinkage" => value.clone(),
                "size" => serde_json::json!((p * self.scale).to_array()),
                _ if WAYS.contains(&key) => serde_json::json!((self.turn * p).to_array()),
                _ if MOVES.contains(&key) => serde_json::json!((self.turn * p * self.scale).to_array()),
                _ => serde_json::json!(self.point(p).to_array()),
            };
        }
        match value {
            Value::Object(fields) => fields.iter().map(|(k, v)| (k.clone(), self.carried(k, v))).collect(),
            Value::Array(items) => items.iter().map(|v| self.carried(key, v)).collect(),
            Value::Number(n) if key == "volume" => (n.as_f64().unwrap() * self.scale.powi(3)).into(),
            Value::Number(n) if LENGTHS.contains(&key) => (n.as_f64().unwrap() * self.scale).into(),
            other => other.clone(),
        }
    }
}

fn three(value: &Value) -> Option<[f64; 3]> {
    let items = value.as_array()?.iter().map(Value::as_f64).collect::<Option<Vec<f64>>>()?;
    items.try_into().ok()
}

/// Some edges divided, some triangles divided about their middles; the surface stays what it is.
fn cut(mesh: &Mesh, dice: &mut Dice) -> Mesh {
    let (mut points, triangles, _) = mesh.clone().into_parts();
    let mut middle: BTreeMap<(u32, u32), Option<u32>> = BTreeMap::new();
    let mut out = vec![];
    for t in triangles {
        let mut ring = vec![];
        for k in 0..3 {
            let (a, b) = (t[k], t[(k + 1) % 3]);
            ring.push(a);
            let halved = *middle.entry((a.min(b), a.max(b))).or_insert_with(|| {
                (dice.roll() < 0.4).then(|| {
                    points.push(points[a as usize].midpoint(points[b as usize]));
                    points.len() as u32 - 1
                })
            });
            ring.extend(halved);
        }
        if ring.len() == 3 && dice.roll() < 0.6 {
            out.push(t);
            continue;
        }
        let [a, b, c] = t.map(|p| points[p as usize]);
        points.push((a + b + c) / 3.0);
        let m = points.len() as u32 - 1;
        out.extend((0..ring.len()).map(|k| [ring[k], ring[(k + 1) % ring.len()], m]));
    }
    Mesh::with_one_face(points, out).unwrap()
}

/// Points and triangles in another order, triangles begun at another corner.
fn permuted(mesh: &Mesh, dice: &mut Dice) -> Mesh {
    let mut shuffled = |n: usize| {
        let mut order: Vec<usize> = (0..n).collect();
        (1..n).rev().for_each(|k| order.swap(k, (dice.roll() * (k + 1) as f64) as usize));
        order
    };
    let (points, triangles, _) = mesh.clone().into_parts();
    let place = shuffled(points.len());
    let mut moved = vec![Point::ZERO; points.len()];
    place.iter().zip(&points).for_each(|(to, p)| moved[*to] = *p);
    let order = shuffled(triangles.len());
    let turned = |t: usize| {
        let corners = triangles[t].map(|p| place[p as usize] as u32);
        [0, 1, 2].map(|k| corners[(k + t) % 3])
    };
    Mesh::with_one_face(moved, order.into_iter().map(turned).collect()).unwrap()
}

/// One mesh a step made, in figures that do not depend on how it lies.
#[derive(Debug)]
pub struct Piece {
    state: PartState,
    shells: usize,
    rims: usize,
    kinds: BTreeMap<&'static str, usize>,
    volume: f64,
    area: f64,
    centre: Point,
}

/// What came of a step.
#[derive(Debug)]
pub enum Told {
    Made(Vec<Piece>),
    Not(String),
}

/// A step done to parts in a pose.
pub fn told(lie: &Lie, parts: &[Mesh], step: &Value) -> Told {
    told_of(lie, &parts.iter().map(|m| lie.part(m)).collect::<Vec<_>>(), step)
}

/// A step in a pose done to parts that lie in it already.
pub fn told_of(lie: &Lie, parts: &[Mesh], step: &Value) -> Told {
    let operation: Operation = serde_json::from_value(lie.step(step)).unwrap_or_else(|e| panic!("{step}: {e}"));
    match operation.apply(&parts[0], &parts[1..], &Progress::unwatched()) {
        Ok(outcome) => Told::Made(outcome.meshes().map(|m| piece(lie, m)).collect()),
        Err(TradeError::Mesh(e)) => panic!("broken geometry: {e}"),
        Err(e) => Told::Not(without_figures(&e.to_string())),
    }
}

/// A sentence without its numbers and units.
fn without_figures(text: &str) -> String {
    let unit =
        |w: &str| ["mm", "µm", "nm", "m", "mm²", "mm³", "°"].contains(&w.trim_end_matches([',', '.', ';', ':', ')']));
    let words = text.split_whitespace().filter(|w| !w.contains(|c: char| c.is_ascii_digit()) && !unit(w));
    words.collect::<Vec<_>>().join(" ")
}

fn piece(lie: &Lie, mesh: &Mesh) -> Piece {
    let quiet = Progress::unwatched();
    let figures = examine(mesh, &quiet).unwrap().figures;
    let mut kinds = BTreeMap::new();
    for face in face_facts(mesh, None, &quiet).unwrap() {
        let kind = match face.surface {
            FaceSurface::Plane { .. } => "plane",
            FaceSurface::Cylinder { .. } => "cylinder",
            FaceSurface::Cone { .. } => "cone",
            FaceSurface::Sphere { .. } => "sphere",
            FaceSurface::Torus { .. } => "torus",
            FaceSurface::Free => "free",
        };
        *kinds.entry(kind).or_default() += 1;
    }
    let (mut area, mut middle, mut volume) = (0.0, Point::ZERO, 0.0);
    for t in 0..mesh.triangles().len() {
        let [a, b, c] = mesh.corners(t).map(|p| lie.back(p));
        let of_this = (b - a).cross(c - a).length() * 0.5;
        area += of_this;
        middle += (a + b + c) / 3.0 * of_this;
        volume += a.dot(b.cross(c)) / 6.0;
    }
    Piece {
        state: figures.state,
        shells: figures.shells,
        rims: figures.rims,
        kinds,
        volume: if figures.state == PartState::Sealed { volume } else { 0.0 },
        area,
        centre: if area > 0.0 { middle / area } else { Point::ZERO },
    }
}

/// In what two outcomes differ, in words; figures may differ by a share.
pub fn difference(plain: &Told, other: &Told, tool: &tools::Tool, lie: &Lie) -> Option<String> {
    let share = if lie.cut { tool.cut } else { tool.off };
    let (one, two) = match (plain, other) {
        (Told::Not(a), Told::Not(b)) if a == b => return None,
        (Told::Not(a), Told::Not(b)) => return Some(format!("refused otherwise: {a} → {b}")),
        (Told::Made(_), Told::Not(b)) => return Some(format!("refused: {b}")),
        (Told::Not(a), Told::Made(_)) => return Some(format!("not refused: {a}")),
        (Told::Made(a), Told::Made(b)) => (a, b),
    };
    if one.len() != two.len() {
        return Some(format!("{} → {} pieces", one.len(), two.len()));
    }
    let far = |a: f64, b: f64| (a - b).abs() > share * a.abs().max(1e-9);
    let mut left: Vec<&Piece> = two.iter().collect();
    for a in one {
        // Which is first and which second may differ; each is compared with the one most like it.
        let unlike = |b: &Piece| {
            let place = if tool.stays { (a.centre - b.centre).length() / 30.0 } else { 0.0 };
            (a.area - b.area).abs() / (a.area + b.area + 1e-9) + place
        };
        let Some(n) = (0..left.len()).min_by(|&m, &n| unlike(left[m]).total_cmp(&unlike(left[n]))) else { break };
        let b = left.swap_remove(n);
        let counts = |p: &Piece| (p.state, p.shells, p.rims);
        if counts(a) != counts(b) {
            return Some(format!("{:?} → {:?}", counts(a), counts(b)));
        }
        if far(a.volume, b.volume) || far(a.area, b.area) {
            return Some(format!(
                "volume {:.9} ({:+.1e}), area {:.9} ({:+.1e})",
                a.volume,
                b.volume / a.volume - 1.0,
                a.area,
                b.area / a.area - 1.0
            ));
        }
        if tool.stays && (a.centre - b.centre).length() > share * 30.0 {
            return Some(format!("its middle is {:.2e} off", (a.centre - b.centre).length()));
        }
        if tool.faces && a.kinds != b.kinds {
            return Some(format!("faces {:?} → {:?}", a.kinds, b.kinds));
        }
    }
    None
}
