//! Lengths and angles that a person asks for, kept as notes on the model.

use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::segments::nearest_on_triangle;
use nimbet_kernel::thickness::clearance;
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{FaceId, Mesh, Point, Progress, Topology};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::TradeError;
use crate::examine::{FacePick, FaceSurface, face_facts};
use crate::words::{Xyz, figure, millimetres, xyz};

/// A place on a face of a part.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Spot {
    /// The part.
    pub part: u32,
    /// The place, mm.
    pub at: Xyz,
    /// The face it lies on, so that it is found again when that has moved.
    pub face: FacePick,
}

/// What is measured.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "what", rename_all = "snake_case", deny_unknown_fields)]
pub enum Measure {
    /// From one point to another.
    Points {
        /// From.
        from: Spot,
        /// To.
        to: Spot,
    },
    /// The edge nearest to a place, between two faces.
    Edge {
        /// A place near it.
        at: Spot,
    },
    /// What a face is: its radius or its area.
    Face {
        /// A place on it.
        at: Spot,
    },
    /// Between two faces.
    Angle {
        /// One.
        from: Spot,
        /// The other.
        to: Spot,
    },
    /// The least distance between two faces.
    Faces {
        /// One.
        from: Spot,
        /// The other.
        to: Spot,
    },
    /// The least distance between two parts.
    Parts {
        /// The number of one.
        from: u32,
        /// The number of the other.
        to: u32,
    },
}

/// What was measured.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct MeasuredValue {
    /// The figure: mm, or degrees.
    pub value: f64,
    /// Whether it is an angle.
    pub angle: bool,
    /// In words.
    pub text: String,
    /// A line to draw it along, mm.
    pub line: Vec<Xyz>,
}

impl Measure {
    /// The parts it is about.
    pub fn parts(&self) -> Vec<u32> {
        match self {
            Self::Points { from, to } | Self::Angle { from, to } | Self::Faces { from, to } => vec![from.part, to.part],
            Self::Edge { at } | Self::Face { at } => vec![at.part],
            Self::Parts { from, to } => vec![*from, *to],
        }
    }

    /// Measures parts as they are now: `meshes` in the order of [`Measure::parts`].
    ///
    /// # Errors
    /// [`TradeError::NeedsNewPick`] where a face is not there any more.
    pub fn of(&self, meshes: &[&Mesh], progress: &Progress) -> Result<MeasuredValue, TradeError> {
        let missing = || TradeError::refused("a part of the measure is not there", vec![]);
        let mesh = |n: usize| meshes.get(n).copied().ok_or_else(missing);
        match self {
            Self::Points { from, to } => {
                let (a, b) = (from.place(mesh(0)?)?, to.place(mesh(1)?)?);
                let way = (b - a).abs();
                let parts = way.to_array().map(figure).join(", ");
                Ok(MeasuredValue {
                    value: a.distance(b),
                    angle: false,
                    text: format!("{} (along x, y, z: {parts} mm)", millimetres(a.distance(b))),
                    line: vec![xyz(a), xyz(b)],
                })
            }
            Self::Edge { at } => edge(mesh(0)?, at),
            Self::Face { at } => face(mesh(0)?, at, progress),
            Self::Angle { from, to } => angle((mesh(0)?, from), (mesh(1)?, to), progress),
            Self::Faces { from, to } => {
                let only = |mesh: &Mesh, face: FaceId| mesh.retain_triangles(|t| mesh.face_of()[t] == face);
                let (a, b) = (mesh(0)?, mesh(1)?);
                apart(&only(a, from.face(a)?), &only(b, to.face(b)?), progress)
            }
            Self::Parts { .. } => apart(mesh(0)?, mesh(1)?, progress),
        }
    }
}

impl Spot {
    fn face(&self, mesh: &Mesh) -> Result<FaceId, TradeError> {
        self.face.find(mesh, &triangle_bvh(mesh))
    }

    /// The place, on the face as it is now: the nearest to where it was.
    fn place(&self, mesh: &Mesh) -> Result<Point, TradeError> {
        let face = self.face(mesh)?;
        let at = Point::from_array(self.at);
        let feet = (0..mesh.triangles().len())
            .filter(|t| mesh.face_of()[*t] == face)
            .map(|t| nearest_on_triangle(at, mesh.corners(t)));
        Ok(feet.min_by(|a, b| a.distance(at).total_cmp(&b.distance(at))).unwrap_or(at))
    }
}

fn apart(a: &Mesh, b: &Mesh, progress: &Progress) -> Result<MeasuredValue, TradeError> {
    let found = clearance(a, b, progress)?;
    let (value, p, q) = found.ok_or_else(|| TradeError::refused("one of the two has no triangles", vec![]))?;
    let text = if value > 0.0 { format!("{} apart", millimetres(value)) } else { "they touch or overlap".into() };
    Ok(MeasuredValue { value, angle: false, text, line: vec![xyz(p), xyz(q)] })
}

/// The run of edges between two faces that comes nearest to a place.
fn edge(mesh: &Mesh, at: &Spot) -> Result<MeasuredValue, TradeError> {
    let place = at.place(mesh)?;
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let face = |h: u32| mesh.face_of()[h as usize / 3].0;
    let between = |edge: u32| match topology.halves(edge) {
        [a, b] if face(*a) != face(*b) => Some((face(*a).min(face(*b)), face(*a).max(face(*b)))),
        [a] => Some((face(*a), u32::MAX)),
        _ => None,
    };
    let ends = |edge: u32| {
        let (p, q) = topology.ends(topology.halves(edge)[0]);
        (p, q, mesh.points()[p as usize], mesh.points()[q as usize])
    };
    let off = |edge: u32| {
        let (_, _, p, q) = ends(edge);
        nimbet_kernel::segments::nearest_on_segment(place, p, q).1
    };
    let all = (0..topology.edge_count() as u32).filter(|e| topology.edge_use(*e) != EdgeUse::Crowded);
    let sharp: Vec<(u32, (u32, u32))> = all.filter_map(|e| Some((e, between(e)?))).collect();
    let nearest = sharp.iter().min_by(|a, b| off(a.0).total_cmp(&off(b.0)));
    let Some((first, pair)) = nearest else {
        return Err(TradeError::refused("the part has no edges between faces", vec![place]));
    };
    // All edges between the same two faces that hang together with it.
    let alike: Vec<u32> = sharp.iter().filter(|s| s.1 == *pair).map(|s| s.0).collect();
    let mut points: std::collections::BTreeSet<u32> = [ends(*first).0, ends(*first).1].into();
    let mut run: std::collections::BTreeSet<u32> = [*first].into();
    loop {
        let more: Vec<u32> = alike
            .iter()
            .filter(|e| !run.contains(e) && (points.contains(&ends(**e).0) || points.contains(&ends(**e).1)))
            .copied()
            .collect();
        if more.is_empty() {
            break;
        }
        for e in more {
            run.insert(e);
            points.extend([ends(e).0, ends(e).1]);
        }
    }
    let value: f64 = run.iter().map(|e| ends(*e).2.distance(ends(*e).3)).sum();
    let line = run.iter().flat_map(|e| [xyz(ends(*e).2), xyz(ends(*e).3)]).collect();
    Ok(MeasuredValue { value, angle: false, text: format!("edge, {} long", millimetres(value)), line })
}

fn face(mesh: &Mesh, at: &Spot, progress: &Progress) -> Result<MeasuredValue, TradeError> {
    let id = at.face(mesh)?;
    let facts = face_facts(mesh, None, progress)?;
    let gone = || TradeError::NeedsNewPick { what: "the face".into(), place: Point::from_array(at.at) };
    let face = facts.into_iter().find(|f| f.id == id.0).ok_or_else(gone)?;
    let place = at.place(mesh)?;
    let round = |radius: f64, what: &str, middle: Point| MeasuredValue {
        value: radius,
        angle: false,
        text: format!("{what} R {}, ⌀ {}", figure(radius), millimetres(radius * 2.0)),
        line: vec![xyz(middle), xyz(place)],
    };
    Ok(match face.surface {
        FaceSurface::Cylinder { radius, axis, centre, .. } => {
            let (axis, centre) = (Point::from_array(axis), Point::from_array(centre));
            round(radius, "cylinder", centre + axis * (place - centre).dot(axis))
        }
        FaceSurface::Sphere { radius, centre, .. } => round(radius, "ball", Point::from_array(centre)),
        FaceSurface::Torus { radius, .. } => round(radius, "rounding", place),
        _ => MeasuredValue {
            value: face.area,
            angle: false,
            text: format!("{}, {} mm²", face.text, figure(face.area)),
            line: vec![xyz(place)],
        },
    })
}

fn angle((a, from): (&Mesh, &Spot), (b, to): (&Mesh, &Spot), progress: &Progress) -> Result<MeasuredValue, TradeError> {
    let way = |mesh: &Mesh, spot: &Spot| {
        let id = spot.face(mesh)?;
        let facts = face_facts(mesh, None, progress)?;
        let surface = facts.into_iter().find(|f| f.id == id.0).map(|f| f.surface);
        match surface {
            Some(FaceSurface::Plane { normal }) => Ok((Point::from_array(normal), true)),
            Some(
                FaceSurface::Cylinder { axis, .. } | FaceSurface::Cone { axis, .. } | FaceSurface::Torus { axis, .. },
            ) => Ok((Point::from_array(axis), false)),
            _ => Err(TradeError::refused(
                "an angle is between flat faces, or the axes of round ones",
                vec![Point::from_array(spot.at)],
            )),
        }
    };
    let ((u, flat), (v, other_flat)) = (way(a, from)?, way(b, to)?);
    let between = u.dot(v).clamp(-1.0, 1.0).acos().to_degrees();
    let value = match (flat, other_flat) {
        // Between the faces, through the material.
        (true, true) => 180.0 - between,
        (false, false) => between.min(180.0 - between),
        _ => (90.0 - between.min(180.0 - between)).abs(),
    };
    let line = vec![xyz(from.place(a)?), xyz(to.place(b)?)];
    Ok(MeasuredValue { value, angle: true, text: format!("{}°", figure(value)), line })
}
