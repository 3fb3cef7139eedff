//! Surfaces swept by lines and circles, as the simple surfaces they are: a circle turned about a line through its middle is a sphere,
//! which as a swept surface would be there twice.

use nimbet_kernel::Point;
use step_io::StepModel;
use step_io::model as m;

use super::geometry::{frame, point};
use crate::frame::Frame;
use crate::surface::Surface;

/// So far from each other, as a share of what is swept, things are the same.
const SAME: f64 = 1e-9;

/// A line or circle that is swept: a point, how fast it goes on there, and for a circle its frame and radius.
struct Swept {
    at: Point,
    along: Point,
    circle: Option<(Frame, f64)>,
}

fn place(model: &StepModel, r: &m::CartesianPointRef) -> Option<Point> {
    let m::CartesianPointRef::CartesianPoint(id) = r else { return None };
    point(&model.get(*id)?.coordinates)
}

fn direction(model: &StepModel, r: &m::DirectionRef) -> Option<Point> {
    let m::DirectionRef::Direction(id) = r else { return None };
    point(&model.get(*id)?.direction_ratios)?.try_normalize()
}

fn vector(model: &StepModel, r: &m::VectorRef) -> Option<Point> {
    let m::VectorRef::Vector(id) = r else { return None };
    let vector = model.get(*id)?;
    Some(direction(model, &vector.orientation)? * vector.magnitude.signum())
}

fn swept(model: &StepModel, curve: &m::CurveRef) -> Option<Swept> {
    match curve {
        m::CurveRef::Line(id) => {
            let line = model.get(*id)?;
            Some(Swept { at: place(model, &line.pnt)?, along: vector(model, &line.dir)?, circle: None })
        }
        m::CurveRef::Circle(id) => {
            let circle = model.get(*id)?;
            let m::Axis2PlacementRef::Axis2Placement3d(position) = circle.position else { return None };
            let own = frame(model, &m::Axis2Placement3dRef::Axis2Placement3d(position))?;
            let sound = circle.radius.is_finite() && circle.radius > 0.0;
            sound.then(|| Swept {
                at: own.origin + own.x * circle.radius,
                along: own.y,
                circle: Some((own, circle.radius)),
            })
        }
        _ => None,
    }
}

/// A turned line or circle as a simple surface, and whether its normal is the other way.
pub(super) fn turned(model: &StepModel, s: &m::SurfaceOfRevolution) -> Option<(Surface, bool)> {
    let m::Axis1PlacementRef::Axis1Placement(id) = s.axis_position;
    let axis = model.get(id)?;
    let origin = place(model, &axis.location)?;
    let z = axis.axis.as_ref().map_or(Some(Point::Z), |a| direction(model, a))?;
    let swept = swept(model, &s.swept_curve)?;
    let surface = match swept.circle {
        None => turned_line(origin, z, &swept),
        Some((own, radius)) => {
            let to = own.origin - origin;
            let size = to.length() + radius;
            // The circle's plane holds the axis.
            if own.z.dot(z).abs() > SAME || to.dot(own.z).abs() > SAME * size {
                return None;
            }
            let middle = origin + z * to.dot(z);
            let away = own.origin - middle;
            if away.length() <= SAME * size {
                Some(Surface::Sphere { frame: Frame::new(own.origin, z, z.any_orthogonal_vector())?, radius })
            } else if radius < away.length() {
                Some(Surface::Torus { frame: Frame::new(middle, z, away)?, major: away.length(), minor: radius })
            } else {
                None
            }
        }
    }?;
    // Looked at where it is off the axis; of a circle that is there twice the half about its first direction is meant.
    let (at, along) = match swept.circle {
        Some((own, radius)) => {
            let off = |p: Point| (p - origin).cross(z).length();
            let places = [own.x, own.y, -own.x, -own.y].map(|d| (own.origin + d * radius, own.z.cross(d)));
            let [first, ..] = places;
            places.into_iter().fold(first, |a, b| if off(b.0) > off(a.0) * (1.0 + 1e-6) { b } else { a })
        }
        None => {
            let away = (swept.at - origin).cross(z).length();
            let at = if away > 0.0 { swept.at } else { swept.at + swept.along };
            (at, swept.along)
        }
    };
    facing(surface, at, z.cross(at - origin).cross(along))
}

fn turned_line(origin: Point, z: Point, swept: &Swept) -> Option<Surface> {
    let (to, d) = (swept.at - origin, swept.along);
    let size = to.length().max(1e-300);
    let across = d.cross(z).length();
    if across <= SAME {
        let away = to - z * to.dot(z);
        return Some(Surface::Cylinder { frame: Frame::new(origin, z, away)?, radius: away.length() });
    }
    if d.dot(z).abs() <= SAME {
        return Some(Surface::Plane(Frame::new(origin + z * to.dot(z), z, z.any_orthogonal_vector())?));
    }
    // A line past the axis makes no cone.
    if to.dot(d.cross(z)).abs() > SAME * size * across {
        return None;
    }
    // Where the line meets the axis.
    let away = to - z * to.dot(z);
    let out = (d - z * d.dot(z)).length() * if away.dot(d) < 0.0 { -1.0 } else { 1.0 };
    let slope = out / d.dot(z);
    Some(Surface::Cone {
        frame: Frame::new(origin + z * to.dot(z), z, z.any_orthogonal_vector())?,
        radius: away.length(),
        slope,
    })
}

/// An extruded line or circle as a simple surface, and whether its normal is the other way.
pub(super) fn extruded(model: &StepModel, s: &m::SurfaceOfLinearExtrusion) -> Option<(Surface, bool)> {
    let way = vector(model, &s.extrusion_axis)?;
    let swept = swept(model, &s.swept_curve)?;
    let surface = match swept.circle {
        None => Surface::Plane(Frame::new(swept.at, swept.along.cross(way), swept.along)?),
        Some((own, radius)) if own.z.cross(way).length() <= SAME => Surface::Cylinder { frame: own, radius },
        Some(_) => return None,
    };
    facing(surface, swept.at, swept.along.cross(way))
}

/// A surface, and whether its normal at a place is against one that is meant.
fn facing(surface: Surface, at: Point, meant: Point) -> Option<(Surface, bool)> {
    let normal = surface.normal(surface.place(at, None))?;
    (meant.length() > 0.0).then(|| (surface, normal.dot(meant) < 0.0))
}
