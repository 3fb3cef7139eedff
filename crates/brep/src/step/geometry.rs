//! Curves and surfaces of a file.

use std::f64::consts::{FRAC_PI_2, TAU};

use nimbet_kernel::Point;
use step_io::model as m;
use step_io::scene::{self, CurveKind, SurfaceKind};

use super::swept;
use crate::curve::Curve;
use crate::frame::Frame;
use crate::spline::{Knots, SplineCurve, SplineSurface};
use crate::surface::{FreeForm, Surface};

/// The frame of a placement.
pub(super) fn frame(
    model: &step_io::StepModel,
    m::Axis2Placement3dRef::Axis2Placement3d(id): &m::Axis2Placement3dRef,
) -> Option<Frame> {
    let placement = model.get(*id)?;
    let m::CartesianPointRef::CartesianPoint(origin) = placement.location else { return None };
    let direction = |r: &Option<m::DirectionRef>| match r {
        Some(m::DirectionRef::Direction(id)) => model.get(*id).and_then(|d| point(&d.direction_ratios)),
        _ => None,
    };
    let z = direction(&placement.axis).unwrap_or(Point::Z);
    let fallback = if z.normalize_or_zero().x.abs() < 0.9 { Point::X } else { Point::Y };
    let x = direction(&placement.ref_direction).unwrap_or(fallback);
    let origin = point(&model.get(origin)?.coordinates)?;
    Frame::new(origin, z, x).or_else(|| Frame::new(origin, z, z.any_orthogonal_vector()))
}

/// Three numbers as a point; a missing third one is nought.
pub(super) fn point(values: &[f64]) -> Option<Point> {
    let at = |n: usize| values.get(n).copied().unwrap_or(0.0);
    let p = Point::new(at(0), at(1), at(2));
    (values.len() >= 2 && p.is_finite() && p.abs().max_element() < 1e12).then_some(p)
}

/// The surface of a face, and whether its normal is the other way; none where it is of a kind that is not read.
pub(super) fn surface(model: &step_io::StepModel, face: &scene::Face<'_>, radians: f64) -> Option<(Surface, bool)> {
    let mut of = face.surface();
    // At no distance it is the surface itself, as surfaces trimmed by their parameters are read: the bounds of the face trim them.
    let at_none = matches!(of.kind(), SurfaceKind::Offset(offset) if offset.distance == 0.0);
    if at_none {
        of = of.basis_surface()?;
    }
    if let Some(simple) = simple(model, &of, radians) {
        return Some((simple, false));
    }
    let swept = match of.kind() {
        SurfaceKind::Revolution(s) => swept::turned(model, s),
        SurfaceKind::LinearExtrusion(s) => swept::extruded(model, s),
        _ => None,
    };
    if swept.is_some() {
        return swept;
    }
    if let Some(nurbs) = if at_none { of.to_nurbs() } else { face.to_nurbs() } {
        return Some((free_form(&nurbs)?, false));
    }
    // Of a free form there is no exact one at a distance: it is followed along its normals.
    let SurfaceKind::Offset(offset) = of.kind() else { return None };
    let base = of.basis_surface()?;
    let base = match simple(model, &base, radians) {
        Some(base) => base,
        None => free_form(&base.to_nurbs()?)?,
    };
    offset.distance.is_finite().then(|| (Surface::Offset { base: Box::new(base), distance: offset.distance }, false))
}

fn simple(model: &step_io::StepModel, of: &scene::Surface<'_>, radians: f64) -> Option<Surface> {
    let sized = |r: f64| r.is_finite() && r > 0.0 && r < 1e12;
    match of.kind() {
        SurfaceKind::Plane(p) => Some(Surface::Plane(frame(model, &p.position)?)),
        SurfaceKind::Cylindrical(c) if sized(c.radius) => {
            Some(Surface::Cylinder { frame: frame(model, &c.position)?, radius: c.radius })
        }
        SurfaceKind::Conical(c) => {
            let angle = c.semi_angle * radians;
            let whole = c.radius.is_finite() && c.radius >= 0.0 && angle.abs() < FRAC_PI_2 && angle != 0.0;
            let frame = frame(model, &c.position)?;
            whole.then(|| Surface::Cone { frame, radius: c.radius, slope: angle.tan() })
        }
        SurfaceKind::Spherical(s) if sized(s.radius) => {
            Some(Surface::Sphere { frame: frame(model, &s.position)?, radius: s.radius })
        }
        // One whose tube reaches over the axis has poles: it is followed as a free form.
        SurfaceKind::Toroidal(t)
            if sized(t.major_radius) && sized(t.minor_radius) && t.minor_radius < t.major_radius =>
        {
            Some(Surface::Torus { frame: frame(model, &t.position)?, major: t.major_radius, minor: t.minor_radius })
        }
        _ => None,
    }
}

fn free_form(nurbs: &scene::NurbsSurface) -> Option<Surface> {
    let controls: Option<Vec<(Point, f64)>> = (nurbs.control_points.iter().zip(&nurbs.weights))
        .flat_map(|(row, weights)| row.iter().zip(weights))
        .map(|(p, w)| Some((point(p)?, *w)))
        .collect();
    let count = [nurbs.control_points.len(), nurbs.control_points.first()?.len()];
    let knots = [
        Knots::new(nurbs.degree_u, nurbs.knots_u.clone(), count[0])?,
        Knots::new(nurbs.degree_v, nurbs.knots_v.clone(), count[1])?,
    ];
    Some(Surface::Spline(Box::new(FreeForm::new(SplineSurface::new(knots, controls?)?))))
}

/// The curve of an edge with the parameters of its ends, from beginning to end; none where it is of a kind that is not read.
pub(super) fn edge_curve(
    model: &step_io::StepModel,
    edge: &scene::Edge<'_>,
    [begin, end]: [Point; 2],
    closed: bool,
) -> Option<(Curve, [f64; 2])> {
    let mut of = edge.curve();
    while let Some(inner) = of.curve_3d() {
        of = inner;
    }
    let round = match of.kind() {
        CurveKind::Line(_) if !closed => return Some((Curve::Line, [0.0, 1.0])),
        CurveKind::Circle(c) => Some((&c.position, [c.radius; 2])),
        CurveKind::Ellipse(e) => Some((&e.position, [e.semi_axis_1, e.semi_axis_2])),
        _ => None,
    };
    if let Some((m::Axis2PlacementRef::Axis2Placement3d(id), radii)) = round {
        let frame = frame(model, &m::Axis2Placement3dRef::Axis2Placement3d(*id))?;
        if !radii.iter().all(|r| r.is_finite() && *r > 0.0 && *r < 1e12) {
            return None;
        }
        let angle = |p: Point| {
            let [x, y, _] = frame.lower(p);
            (y / radii[1]).atan2(x / radii[0])
        };
        let (from, mut to) = (angle(begin), angle(end));
        let forward = edge.same_sense();
        if closed {
            to = if forward { from + TAU } else { from - TAU };
        } else if forward && to <= from {
            to += TAU;
        } else if !forward && to >= from {
            to -= TAU;
        }
        return Some((Curve::Round { frame, radii }, [from, to]));
    }
    let nurbs = edge.to_nurbs()?;
    let controls: Option<Vec<(Point, f64)>> =
        nurbs.control_points.iter().zip(&nurbs.weights).map(|(p, w)| Some((point(p)?, *w))).collect();
    let spline = SplineCurve::new(nurbs.degree, nurbs.knots, controls?)?;
    let range = spline.knots().range();
    Some((Curve::Spline(spline), range))
}
