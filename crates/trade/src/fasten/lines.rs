//! What of a part a straight line goes through.

use std::ops::ControlFlow;

use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::{Bvh, FaceId, Mesh, Point};

/// Where a line goes into the material and comes out again, mm along it, with the faces there.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Stretch {
    pub enter: f64,
    pub leave: f64,
    pub enter_face: FaceId,
    pub leave_face: FaceId,
}

/// A solid that lines are drawn through.
pub(super) struct Lines<'a> {
    pub mesh: &'a Mesh,
    pub bvh: Bvh,
    reach: f64,
}

impl<'a> Lines<'a> {
    pub fn new(mesh: &'a Mesh) -> Self {
        let bvh = triangle_bvh(mesh);
        let reach = bvh.bounds().diagonal() * 2.0 + 1.0;
        Self { mesh, bvh, reach }
    }

    /// The stretches of material along a line through a point, in order. A line along an edge is moved aside by less than
    /// anything that counts, until it is not.
    pub fn through(&self, at: Point, way: Point) -> Vec<Stretch> {
        let (u, v) = way.any_orthonormal_pair();
        let aside = self.reach * 1e-9;
        let tries = (0..6).map(|n| match n {
            0 => Point::ZERO,
            n => {
                let (sin, cos) = (f64::from(n) * 2.4).sin_cos();
                (u * cos + v * sin) * (aside * f64::from(n))
            }
        });
        tries.map(|off| self.hits(at + off, way)).find_map(|hits| stretches(&hits)).unwrap_or_default()
    }

    /// All crossings: how far along, whether into the material, the face.
    fn hits(&self, at: Point, way: Point) -> Vec<(f64, bool, FaceId)> {
        let mut hits = Vec::new();
        let reach = self.reach + (at - self.bvh.bounds().centre()).length();
        let _ = self.bvh.along_segment(at - way * reach, at + way * reach, |t| {
            let corners = self.mesh.corners(t as usize);
            if let Some(along) = meets(corners, at, way) {
                let into = self.mesh.area_vector(t as usize).dot(way) < 0.0;
                hits.push((along, into, self.mesh.face_of()[t as usize]));
            }
            ControlFlow::Continue(())
        });
        hits.sort_by(|a, b| a.0.total_cmp(&b.0));
        hits
    }

    /// How far from a point inside the material the surface is in a direction square to nothing in particular.
    pub fn clear(&self, at: Point, way: Point, most: f64) -> Option<f64> {
        let mut least: Option<f64> = None;
        let _ = self.bvh.along_segment(at, at + way * most, |t| {
            if let Some(along) = meets(self.mesh.corners(t as usize), at, way).filter(|d| *d > 0.0 && *d <= most) {
                least = Some(least.map_or(along, |l| l.min(along)));
            }
            ControlFlow::Continue(())
        });
        least
    }
}

/// How far along a line it meets a triangle (Möller and Trumbore 1997).
fn meets([a, b, c]: [Point; 3], at: Point, way: Point) -> Option<f64> {
    let (ab, ac) = (b - a, c - a);
    let p = way.cross(ac);
    let det = ab.dot(p);
    if det == 0.0 {
        return None;
    }
    let from = at - a;
    let u = from.dot(p) / det;
    let q = from.cross(ab);
    let v = way.dot(q) / det;
    (u >= 0.0 && v >= 0.0 && u + v <= 1.0).then(|| ac.dot(q) / det)
}

/// In and out by turns; `None` where that does not come out even.
fn stretches(hits: &[(f64, bool, FaceId)]) -> Option<Vec<Stretch>> {
    let pairs = hits.chunks(2).map(|pair| match *pair {
        [(enter, true, enter_face), (leave, false, leave_face)] => {
            Some(Stretch { enter, leave, enter_face, leave_face })
        }
        _ => None,
    });
    pairs.collect()
}
