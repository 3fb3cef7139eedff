//! Simple surfaces, and which triangles of a mesh lie on one: planes, cylinders, cones, spheres, tori.

mod facets;
mod fit;
mod group;
mod refine;

pub use facets::Facets;
pub use fit::{Sample, best_fit, fit};
pub use group::{DEFAULT_ANGLE, Grouping, default_tolerance, group_faces, part_faces};

use crate::Point;

/// A surface a face can lie on. Axes and normals are of unit length; lengths in mm, angles in radians.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Surface {
    /// All points `p` with `(p − point) · normal = 0`.
    Plane {
        /// A point on it.
        point: Point,
        /// Its normal.
        normal: Point,
    },
    /// All points at `radius` from an axis.
    Cylinder {
        /// A point on the axis.
        point: Point,
        /// The direction of the axis.
        axis: Point,
        /// The radius.
        radius: f64,
    },
    /// All points seen from the apex at `half_angle` from the axis.
    Cone {
        /// The tip.
        apex: Point,
        /// From the tip into the cone.
        axis: Point,
        /// Between axis and surface, above 0 and below π/2.
        half_angle: f64,
    },
    /// All points at `radius` from a centre.
    Sphere {
        /// The centre.
        centre: Point,
        /// The radius.
        radius: f64,
    },
    /// All points at `minor` from a circle of radius `major` about an axis.
    Torus {
        /// The middle.
        centre: Point,
        /// The axis it goes round.
        axis: Point,
        /// From the middle to the middle of the tube.
        major: f64,
        /// The radius of the tube.
        minor: f64,
    },
}

/// The kinds of surfaces, the simplest first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Kind {
    /// A plane.
    Plane,
    /// A cylinder.
    Cylinder,
    /// A sphere.
    Sphere,
    /// A cone.
    Cone,
    /// A torus.
    Torus,
}

impl Kind {
    /// All kinds, the simplest first.
    pub const ALL: [Self; 5] = [Self::Plane, Self::Cylinder, Self::Sphere, Self::Cone, Self::Torus];
}

impl Surface {
    /// Its kind.
    pub fn kind(&self) -> Kind {
        match self {
            Self::Plane { .. } => Kind::Plane,
            Self::Cylinder { .. } => Kind::Cylinder,
            Self::Sphere { .. } => Kind::Sphere,
            Self::Cone { .. } => Kind::Cone,
            Self::Torus { .. } => Kind::Torus,
        }
    }

    /// How far a point stands off the surface: positive where [`Surface::normal`] points.
    pub fn distance(&self, p: Point) -> f64 {
        match *self {
            Self::Plane { point, normal } => (p - point).dot(normal),
            Self::Sphere { centre, radius } => (p - centre).length() - radius,
            Self::Cylinder { point, axis, radius } => off_axis(p - point, axis).1.length() - radius,
            Self::Cone { apex, axis, half_angle } => {
                let (along, away) = off_axis(p - apex, axis);
                away.length() * half_angle.cos() - along * half_angle.sin()
            }
            Self::Torus { centre, axis, major, minor } => {
                let (along, away) = off_axis(p - centre, axis);
                ((away.length() - major).powi(2) + along * along).sqrt() - minor
            }
        }
    }

    /// The unit normal of the surface nearest to a point, away from axis or centre; zero where there is none.
    pub fn normal(&self, p: Point) -> Point {
        match *self {
            Self::Plane { normal, .. } => normal,
            Self::Sphere { centre, .. } => (p - centre).normalize_or_zero(),
            Self::Cylinder { point, axis, .. } => off_axis(p - point, axis).1.normalize_or_zero(),
            Self::Cone { apex, axis, half_angle } => {
                let away = off_axis(p - apex, axis).1.normalize_or_zero();
                away * half_angle.cos() - axis * half_angle.sin()
            }
            Self::Torus { centre, axis, major, .. } => {
                let (along, away) = off_axis(p - centre, axis);
                (away.normalize_or_zero() * (away.length() - major) + axis * along).normalize_or_zero()
            }
        }
    }
}

/// The part of `v` along a unit axis, and what is left square to it.
fn off_axis(v: Point, axis: Point) -> (f64, Point) {
    let along = v.dot(axis);
    (along, v - axis * along)
}
