//! Constrained Delaunay triangulation of outlines in a plane, islands and holes told apart by parity.
//!
//! The triangulation itself is `spade`'s (exact predicates). Outlines that cross themselves or each other are refused with
//! the crossing.

use std::collections::{HashMap, VecDeque};
use std::ops::ControlFlow;

use spade::{ConstrainedDelaunayTriangulation, Point2, Triangulation};

use crate::predicates::side_of_line;
use crate::{Aabb, Bvh, Point};

/// A plane with two directions in it.
#[derive(Clone, Copy, Debug)]
pub struct PlaneFrame {
    /// A point of the plane.
    pub origin: Point,
    /// Unit normal.
    pub normal: Point,
    u: Point,
    v: Point,
}

impl PlaneFrame {
    /// The plane through `origin` with the given normal, or `None` if the normal has no direction.
    pub fn new(origin: Point, normal: Point) -> Option<Self> {
        let normal = normal.try_normalize()?;
        let (u, v) = normal.any_orthonormal_pair();
        Some(Self { origin, normal, u, v })
    }

    /// The same plane with its first direction along another as far as that lies in it.
    #[must_use]
    pub fn along(self, way: Point) -> Self {
        let u = (way - self.normal * way.dot(self.normal)).normalize_or(self.u);
        Self { u, v: self.normal.cross(u), ..self }
    }

    /// The same with directions a person expects: the second is up as seen (z, or y where the plane is level).
    pub fn upright(origin: Point, normal: Point) -> Option<Self> {
        /// A plane that leans by less than this (the sine of 1 degree) is level.
        const LEVEL: f64 = 0.0175;
        let normal = normal.try_normalize()?;
        let up = if normal.cross(Point::Z).length() > LEVEL { Point::Z } else { Point::Y };
        let v = (up - normal * up.dot(normal)).try_normalize()?;
        Some(Self { origin, normal, u: v.cross(normal), v })
    }

    /// The two directions in the plane.
    pub fn directions(&self) -> [Point; 2] {
        [self.u, self.v]
    }

    /// Coordinates in the plane: counter-clockwise seen from the side the normal points to.
    pub fn flatten(&self, p: Point) -> [f64; 2] {
        let d = p - self.origin;
        [d.dot(self.u), d.dot(self.v)]
    }

    /// The place of coordinates in the plane.
    pub fn lift(&self, [x, y]: [f64; 2]) -> Point {
        self.origin + self.u * x + self.v * y
    }

    /// Signed height above the plane, mm.
    pub fn height(&self, p: Point) -> f64 {
        (p - self.origin).dot(self.normal)
    }
}

/// Why outlines cannot be covered flat.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum FlatError {
    /// Two sides of the outlines cross or touch. Given by the numbers of the points they begin at.
    #[error("the outline crosses itself")]
    Crosses {
        /// The point the first side begins at.
        first: usize,
        /// The point the second side begins at.
        second: usize,
        /// Where they cross, in the plane.
        at: [f64; 2],
    },
    /// Two points fall on the same place in the plane, or a coordinate is out of range.
    #[error("two points of the outline fall on the same place when seen flat")]
    Coincides {
        /// One of the points.
        point: usize,
    },
}

/// Triangulates the area inside an odd number of the closed outlines. `outlines` name points of `points`; the triangles are
/// counter-clockwise and name the same points.
///
/// # Errors
/// [`FlatError`] with the place.
pub fn triangulate_flat(points: &[[f64; 2]], outlines: &[Vec<usize>]) -> Result<Vec<[usize; 3]>, FlatError> {
    refuse_crossing(points, outlines)?;
    let mut cdt = ConstrainedDelaunayTriangulation::<Point2<f64>>::new();
    let mut handle_of: HashMap<usize, spade::handles::FixedVertexHandle> = HashMap::new();
    let mut point_of = Vec::new();
    for &i in outlines.iter().flatten() {
        // Coordinates nearer to zero than this are below what the triangulation accepts; they mean zero.
        let tidy = |x: f64| if x.abs() < 1e-100 { 0.0 } else { x };
        let at = Point2::new(tidy(points[i][0]), tidy(points[i][1]));
        let handle = cdt.insert(at).map_err(|_| FlatError::Coincides { point: i })?;
        if handle.index() < point_of.len() {
            // Outlines may pass a point twice by the same number.
            if point_of[handle.index()] == i {
                continue;
            }
            return Err(FlatError::Coincides { point: i });
        }
        point_of.push(i);
        handle_of.insert(i, handle);
    }
    for (i, j) in sides(outlines) {
        let (a, b) = (handle_of[&i], handle_of[&j]);
        if !cdt.can_add_constraint(a, b) {
            return Err(FlatError::Crosses { first: i, second: i, at: points[i] });
        }
        cdt.add_constraint(a, b);
    }

    // Parity spreads from the outer face; every constrained edge crossed turns it.
    let mut inside = vec![None; cdt.num_all_faces()];
    let outer = cdt.outer_face().fix();
    inside[outer.index()] = Some(false);
    let mut queue = VecDeque::from([outer]);
    while let Some(face) = queue.pop_front() {
        let here = inside[face.index()] == Some(true);
        let edges: Vec<_> = match cdt.face(face).as_inner() {
            Some(inner) => inner.adjacent_edges().to_vec(),
            None => cdt.convex_hull().collect(),
        };
        for edge in edges {
            let edge = if cdt.face(face).is_outer() && !edge.face().is_outer() { edge.rev() } else { edge };
            let beyond = edge.rev().face().fix();
            if inside[beyond.index()].is_none() {
                inside[beyond.index()] = Some(here != edge.is_constraint_edge());
                queue.push_back(beyond);
            }
        }
    }
    Ok(cdt
        .inner_faces()
        .filter(|f| inside[f.fix().index()] == Some(true))
        .map(|f| f.vertices().map(|v| point_of[v.fix().index()]))
        .collect())
}

fn sides(outlines: &[Vec<usize>]) -> impl Iterator<Item = (usize, usize)> + '_ {
    outlines.iter().flat_map(|o| (0..o.len()).map(move |k| (o[k], o[(k + 1) % o.len()])))
}

/// Finds two sides that properly cross, or a point that lies on a side it does not belong to.
fn refuse_crossing(points: &[[f64; 2]], outlines: &[Vec<usize>]) -> Result<(), FlatError> {
    let sides: Vec<(usize, usize)> = sides(outlines).collect();
    let at = |i: usize| Point::new(points[i][0], points[i][1], 0.0);
    let bvh = Bvh::new(sides.iter().map(|&(i, j)| Aabb::of([at(i), at(j)])).collect());
    for (n, &(i, j)) in sides.iter().enumerate() {
        let mut crossed = None;
        let _ = bvh.overlapping(bvh.item_box(n as u32), |m| {
            let (k, l) = sides[m as usize];
            if m as usize <= n || [k, l].iter().any(|x| *x == i || *x == j) {
                return ControlFlow::Continue(());
            }
            let side = |a: usize, b: usize, c: usize| side_of_line(points[a], points[b], points[c]);
            let straddles = |a, b, c, d| side(a, b, c) != side(a, b, d);
            if straddles(i, j, k, l) && straddles(k, l, i, j) {
                crossed =
                    Some(FlatError::Crosses { first: i, second: k, at: meeting([i, j, k, l].map(|x| points[x])) });
                return ControlFlow::Break(());
            }
            ControlFlow::Continue(())
        });
        if let Some(error) = crossed {
            return Err(error);
        }
    }
    Ok(())
}

/// Where the line through the first two points meets that through the others, held to the first two.
fn meeting([a, b, c, d]: [[f64; 2]; 4]) -> [f64; 2] {
    let (r, s) = ([b[0] - a[0], b[1] - a[1]], [d[0] - c[0], d[1] - c[1]]);
    let turn = r[0] * s[1] - r[1] * s[0];
    let t = if turn == 0.0 { 0.5 } else { ((c[0] - a[0]) * s[1] - (c[1] - a[1]) * s[0]) / turn };
    [0, 1].map(|k| a[k] + r[k] * t.clamp(0.0, 1.0))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn area(points: &[[f64; 2]], triangles: &[[usize; 3]]) -> f64 {
        triangles
            .iter()
            .map(|t| {
                let [a, b, c] = t.map(|i| points[i]);
                0.5 * ((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]))
            })
            .sum()
    }

    fn square(points: &mut Vec<[f64; 2]>, half: f64) -> Vec<usize> {
        let from = points.len();
        points.extend([[-half, -half], [half, -half], [half, half], [-half, half]]);
        (from..from + 4).collect()
    }

    #[test]
    fn nested_squares_leave_out_every_second_ring() {
        let mut points = vec![];
        let outlines = vec![square(&mut points, 5.0), square(&mut points, 3.0), square(&mut points, 1.0)];
        let triangles = triangulate_flat(&points, &outlines).unwrap();
        assert_eq!(area(&points, &triangles), 100.0 - 36.0 + 4.0);
    }

    #[test]
    fn a_star_with_straight_runs_is_covered_without_flat_triangles() {
        let points: Vec<[f64; 2]> = (0..40)
            .map(|i| {
                let angle = f64::from(i) * std::f64::consts::TAU / 40.0;
                let r = if i % 4 == 0 { 3.0 } else { 1.0 };
                [r * angle.cos(), r * angle.sin()]
            })
            .collect();
        let triangles = triangulate_flat(&points, &[(0..40).collect()]).unwrap();
        assert_eq!(triangles.len(), 38);
        assert!(triangles.iter().all(|t| area(&points, &[*t]) > 0.0));
    }

    #[test]
    fn an_outline_that_crosses_itself_is_refused_with_the_place() {
        let bow = [[0.0, 0.0], [1.0, 1.0], [1.0, 0.0], [0.0, 1.0]];
        assert_eq!(
            triangulate_flat(&bow, &[vec![0, 1, 2, 3]]),
            Err(FlatError::Crosses { first: 0, second: 2, at: [0.5, 0.5] })
        );
        let pinched = [[0.0, 0.0], [2.0, 0.0], [2.0, 2.0], [1.0, 0.0], [0.0, 2.0]];
        assert!(triangulate_flat(&pinched, &[vec![0, 1, 2, 3, 4]]).is_err(), "a point on another side");
        let twice = [[0.0, 0.0], [2.0, 0.0], [1.0, 1.0], [0.0, 0.0], [-1.0, 1.0]];
        assert!(triangulate_flat(&twice, &[vec![0, 1, 2, 3, 4]]).is_err());
    }
}
