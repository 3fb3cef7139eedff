//! Sheets to cut by: planes and swept lines, as large as what they cut.

use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Aabb, FaceId, Mesh, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::TradeError;
use crate::examine::{FacePick, FaceSurface, face_surface};
use crate::parameter::{Direction, Position};
use crate::words::{Xyz, millimetres};

/// A plane; it has no bounds.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[schemars(extend("asks" = "plane"))]
pub struct Plane {
    /// A point of it, mm.
    #[schemars(with = "Position")]
    pub at: Xyz,
    /// Its normal, of any length.
    #[schemars(with = "Direction")]
    pub normal: Xyz,
    /// The flat face it follows, at the distance it had from the place where the face was picked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub face: Option<FacePick>,
}

/// The most points of a swept line: a drawn one has some dozens, and one that crosses itself everywhere takes time by their square.
const MOST_POINTS: usize = 2000;

/// A line drawn in the view, swept along a direction; it has no ends.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SweptLine {
    /// Its points, mm; the first and the last stretch go on for ever.
    #[schemars(with = "Vec<Position>", extend("asks" = "sight"))]
    pub points: Vec<Xyz>,
    /// The direction it is swept along.
    #[schemars(with = "Direction", extend("asks" = "none"))]
    pub along: Xyz,
}

impl Plane {
    /// Where it is on a part as it is now: it goes where the face went that it follows.
    pub(super) fn on(&self, mesh: &Mesh) -> Result<Self, TradeError> {
        let Some(pick) = &self.face else { return Ok(self.clone()) };
        let normal = Point::from_array(self.normal).normalize_or_zero();
        let face = pick.find(mesh, &triangle_bvh(mesh))?;
        let corner = (0..mesh.triangles().len()).find(|t| mesh.face_of()[*t] == face).map(|t| mesh.corners(t)[0]);
        let (Some(FaceSurface::Plane { normal: now }), Some(corner)) = (face_surface(mesh, face), corner) else {
            let why = "the face the plane follows is not flat; pick a flat one, or set the plane by itself";
            return Err(TradeError::refused(why, vec![pick.place()]));
        };
        let now = Point::from_array(now);
        let now = if now.dot(normal) < 0.0 { -now } else { now };
        let off = (Point::from_array(self.at) - pick.place()).dot(normal);
        Ok(Self { at: (corner + now * off).to_array(), normal: now.to_array(), face: None })
    }

    pub(super) fn frame(&self) -> Result<PlaneFrame, TradeError> {
        let (at, normal) = (Point::from_array(self.at), Point::from_array(self.normal));
        let frame = PlaneFrame::new(at, normal).filter(|_| at.is_finite() && normal.is_finite());
        frame.ok_or_else(|| TradeError::refused("a plane needs a point and a normal that is not zero", vec![]))
    }

    /// How it is told: `the plane x = 3 mm`.
    pub(super) fn told(&self) -> String {
        let along = (0..3).filter(|k| self.normal[*k] != 0.0).collect::<Vec<_>>();
        match along[..] {
            [k] => format!("the plane {} = {}", ["x", "y", "z"][k], millimetres(self.at[k])),
            _ => "the plane".into(),
        }
    }

    /// A square of the plane that reaches beyond the bounds on all sides.
    pub(super) fn sheet(&self, bounds: &Aabb) -> Result<Mesh, TradeError> {
        let frame = self.frame()?;
        let [x, y] = frame.flatten(bounds.centre());
        let reach = beyond(bounds);
        let corners = [[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]];
        let points = corners.map(|[u, v]| frame.lift([x + u * reach, y + v * reach])).to_vec();
        Ok(Mesh::with_one_face(points, vec![[0, 1, 2], [0, 2, 3]])?)
    }
}

impl SweptLine {
    /// Strips, a face for each stretch of the line, that reach beyond the bounds.
    pub(super) fn sheet(&self, bounds: &Aabb) -> Result<Mesh, TradeError> {
        if self.points.len() > MOST_POINTS {
            let why = format!("the line has {} points; {MOST_POINTS} are the most", self.points.len());
            return Err(TradeError::refused(why, vec![]));
        }
        let along = Point::from_array(self.along).normalize_or_zero();
        let reach = beyond(bounds);
        // All on one plane square to the sweep, through the middle of what is cut.
        let flat = |p: &Xyz| {
            let p = Point::from_array(*p);
            p + along * along.dot(bounds.centre() - p)
        };
        let mut line: Vec<Point> = self.points.iter().map(flat).collect();
        line.dedup_by(|a, b| a.distance(*b) < 1e-6 * reach);
        let good = along != Point::ZERO && line.len() >= 2 && line.iter().all(|p| p.is_finite());
        if !good {
            let why = "a line needs two points, and a direction to be swept along that does not run along it";
            return Err(TradeError::refused(why, vec![]));
        }
        // Both ends go on until they are beyond the bounds.
        let last = line.len() - 1;
        for (end, next) in [(0, 1), (last, last - 1)] {
            let far = 2.0 * reach + line[end].distance(bounds.centre());
            let onward = (line[end] - line[next]).normalize_or_zero();
            line[end] += onward * far;
        }
        let points = line.iter().flat_map(|p| [*p - along * reach, *p + along * reach]).collect();
        let stretches = (0..last as u32).map(|n| 2 * n);
        let triangles = stretches.flat_map(|n| [[n, n + 2, n + 3], [n, n + 3, n + 1]]).collect();
        let faces = (0..2 * last as u32).map(|t| FaceId(t / 2)).collect();
        Ok(Mesh::new(points, triangles, faces)?)
    }
}

/// Bounds that hold the points, too, where three planes meet: planes enclose chambers beside the parts as well. Those farther
/// away than [`FARTHEST`] diagonals do not count, since the grid grows coarse with the bounds.
pub(super) fn with_corners_of(bounds: Aabb, planes: &[Plane]) -> Result<Aabb, TradeError> {
    /// Planes that enclose something beside the parts do so within sight of them.
    const FARTHEST: f64 = 20.0;
    let side = |p: &Plane| {
        p.frame()?;
        let normal = Point::from_array(p.normal).normalize_or_zero();
        Ok((normal, normal.dot(Point::from_array(p.at))))
    };
    let sides: Vec<(Point, f64)> = planes.iter().map(side).collect::<Result<_, TradeError>>()?;
    let mut held = bounds;
    for (n, (a, along_a)) in sides.iter().enumerate() {
        for (m, (b, along_b)) in sides.iter().enumerate().skip(n + 1) {
            for (c, along_c) in &sides[m + 1..] {
                let volume = a.dot(b.cross(*c));
                let corner = (b.cross(*c) * *along_a + c.cross(*a) * *along_b + a.cross(*b) * *along_c) / volume;
                let away = corner.distance(bounds.centre());
                if corner.is_finite() && away <= FARTHEST * bounds.diagonal() {
                    held = Aabb::of([held.min, held.max, corner]);
                }
            }
        }
    }
    Ok(held)
}

/// How far from the middle of bounds something must reach to be beyond them for certain. More would coarsen the grid.
fn beyond(bounds: &Aabb) -> f64 {
    bounds.diagonal().max(1e-9) * 0.55
}
