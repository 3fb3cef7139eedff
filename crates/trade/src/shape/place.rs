//! `shape.place`: moves, turns and scales a part.

use glam::DQuat;
use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::{Aabb, Mesh, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::profile::Profile;
use crate::budget::Effort;
use crate::examine::FacePick;
use crate::parameter::{Factor, Length, Move, Position, Turned};
use crate::tool::{Effect, Entry, Given, Needs, Tool};
use crate::wire::Wire;
use crate::words::{Xyz, figure, millimetres};
use crate::{Outcome, TradeError};

/// A direction of the bench.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Axis {
    /// To the right.
    X,
    /// To the back.
    Y,
    /// Up.
    #[default]
    Z,
}

impl Axis {
    pub(super) fn unit(self) -> Point {
        match self {
            Self::X => Point::X,
            Self::Y => Point::Y,
            Self::Z => Point::Z,
        }
    }

    fn word(self) -> &'static str {
        match self {
            Self::X => "x",
            Self::Y => "y",
            Self::Z => "z",
        }
    }
}

/// A turn about an axis through the middle of the part.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Rotation {
    /// About what.
    pub axis: Axis,
    /// By how much, degrees, counter-clockwise seen against the axis.
    #[schemars(with = "Turned")]
    pub degrees: f64,
}

/// A length measured on the part, and what it is to become.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Measured {
    /// Its ends, mm.
    #[schemars(with = "[Position; 2]")]
    pub between: [Xyz; 2],
    /// What it is to become, mm.
    #[schemars(with = "Length")]
    pub becomes: f64,
}

/// Parameters of `shape.place`: scaled first, then turned, then moved, then set on the bench.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Place {
    /// The factor of its size, about its middle.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Factor>")]
    pub scale: Option<f64>,
    /// A measured length that gives the factor instead.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub measured: Option<Measured>,
    /// A point on a face that is turned to lie underneath, level, before anything else is turned, mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lay: Option<FacePick>,
    /// How it is turned.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub turn: Option<Rotation>,
    /// How far it is moved, mm.
    #[serde(default)]
    #[schemars(title = "Move", with = "Move")]
    pub by: Xyz,
    /// Whether its lowest point is set to z = 0 afterwards.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Set on the bench")]
    pub to_bench: bool,
}

impl Tool for Place {
    const KIND: &'static str = "shape.place";
    const WHAT: &'static str = "Move, turn and scale.";
    const EFFORT: Effort = Effort::Passing;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "place",
        name: "Place",
        hint: "Move, turn, scale, lay on a face, set on the bench",
        group: "Place",
        words: &["move", "rotate", "scale", "translate", "orient", "lay flat", "transform"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({ "by": [0, 0, 0], "to_bench": true }),
    }];

    fn title(&self) -> String {
        "Place".into()
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        progress.check()?;
        let scale = match &self.measured {
            Some(m) => m.factor()?,
            None => self.scale.unwrap_or(1.0),
        };
        let by = Point::from_array(self.by);
        let degrees = self.turn.as_ref().map_or(0.0, |t| t.degrees);
        let axis = self.turn.as_ref().map_or(Axis::Z, |t| t.axis);
        let down = match &self.lay {
            Some(near) => face_down(mesh, near)?,
            None => DQuat::IDENTITY,
        };
        let turned = degrees != 0.0 || down != DQuat::IDENTITY;
        let turn = DQuat::from_axis_angle(axis.unit(), degrees.to_radians()) * down;
        let middle = Aabb::of(mesh.points().iter().copied()).centre();
        let put = |p: Point| {
            // A part that is only moved keeps its shape to the last digit it can.
            if scale == 1.0 && !turned { p + by } else { middle + turn * ((p - middle) * scale) + by }
        };
        let mut out = mesh.clone().map_points(put)?;
        let mut low = 0.0;
        if self.to_bench {
            low = Aabb::of(out.points().iter().copied()).min.z;
            out = out.map_points(|p| p - Point::Z * low)?;
        }
        if out.points() == mesh.points() {
            return Err(TradeError::nothing("the part is there already: give a move, a turn or a scale"));
        }
        // A profile that keeps its size stays one: its figures are those of its drawing. A wire has none.
        let put = |p: Point| put(p) - Point::Z * low;
        if let Some(wire) = Wire::of(mesh) {
            out = wire.moved(out, &put)?;
        } else if mesh.drawn().is_some() && scale == 1.0 {
            out = Profile::moved(mesh, out, &put)?;
        }
        let largest_move = mesh.points().iter().zip(out.points()).map(|(a, b)| a.distance(*b)).fold(0.0, f64::max);
        let mut done = Vec::new();
        if scale != 1.0 {
            done.push(format!("scaled by {}", figure(scale)));
        }
        if self.lay.is_some() {
            done.push("laid on the picked face".into());
        }
        if degrees != 0.0 {
            done.push(format!("turned by {}° about {}", figure(degrees), axis.word()));
        }
        if by != Point::ZERO {
            done.push(format!("moved by {}", millimetres(by.length())));
        }
        if self.to_bench {
            done.push("set on the bench".into());
        }
        Ok(Outcome { done, largest_move, ..Outcome::of(out, String::new()) })
    }

    fn effect(&self) -> Effect {
        Effect::MovesAll
    }
}

impl Measured {
    fn factor(&self) -> Result<f64, TradeError> {
        let [a, b] = self.between.map(Point::from_array);
        let length = a.distance(b);
        if length > 0.0 && length.is_finite() {
            Ok(self.becomes / length)
        } else {
            Err(TradeError::refused("the measured length needs two points apart from each other", vec![a]))
        }
    }
}

/// The turn that brings a face underneath.
fn face_down(mesh: &Mesh, pick: &FacePick) -> Result<DQuat, TradeError> {
    let face = pick.find(mesh, &triangle_bvh(mesh))?;
    let of_face = (0..mesh.triangles().len()).filter(|t| mesh.face_of()[*t] == face);
    let (mut sum, mut area) = (Point::ZERO, 0.0);
    for vector in of_face.map(|t| mesh.area_vector(t)) {
        sum += vector;
        area += vector.length();
    }
    // A face that goes all round has no side to lie on.
    if sum.length() < 0.5 * area {
        let why = "the face goes round too far to lie on it; pick a flatter one";
        return Err(TradeError::refused(why, vec![pick.place()]));
    }
    Ok(DQuat::from_rotation_arc(sum.normalize(), -Point::Z))
}
