//! Collects points and polygons of indexed formats into triangles.

use nimbet_kernel::triangulate::{PlaneFrame, least_area, triangulate_flat};
use nimbet_kernel::{FaceId, Mesh, Point, Progress, segments, weld};

use crate::errors::{Place, ReadError};
use crate::read::Limits;

/// Points and triangles as they come in.
pub(crate) struct Polygons<'a> {
    pub points: Vec<Point>,
    /// What the file tells of those that come next.
    pub group: FaceId,
    triangles: Vec<[u32; 3]>,
    groups: Vec<FaceId>,
    limits: &'a Limits,
    progress: &'a Progress,
}

/// Polygons up to this many corners are cut by least area, which is safe for bent ones; larger ones in their mean plane.
const BENT: usize = 64;
/// Polygons of more corners that cross themselves are not cut: that takes time by the cube of their number.
const MOST_BENT: usize = 400;

impl<'a> Polygons<'a> {
    pub fn new(limits: &'a Limits, progress: &'a Progress) -> Self {
        Self { points: vec![], group: FaceId(0), triangles: vec![], groups: vec![], limits, progress }
    }

    /// How many triangles there are.
    pub fn count(&self) -> usize {
        self.triangles.len()
    }

    pub fn add_point(&mut self, p: Point) -> Result<(), ReadError> {
        // A closed surface has about half as many points as triangles; loose points are bounded by the same limit.
        if self.points.len() >= self.limits.triangles.saturating_mul(3) {
            return Err(ReadError::TooManyTriangles { limit: self.limits.triangles });
        }
        if self.points.len().is_multiple_of(16 * 1024) {
            self.progress.check()?;
        }
        self.points.push(p);
        Ok(())
    }

    /// Adds a polygon over points that may still be to come (checked in [`Polygons::finish`]).
    pub fn add_triangle(&mut self, t: [u32; 3]) -> Result<(), ReadError> {
        if self.triangles.len() >= self.limits.triangles {
            return Err(ReadError::TooManyTriangles { limit: self.limits.triangles });
        }
        if self.triangles.len().is_multiple_of(16 * 1024) {
            self.progress.check()?;
        }
        self.triangles.push(t);
        self.groups.push(self.group);
        Ok(())
    }

    /// Adds a polygon over points that are known already, cut into triangles.
    pub fn add_polygon(&mut self, corners: &[i64], at: Place) -> Result<(), ReadError> {
        let count = self.points.len();
        let mut ids = Vec::with_capacity(corners.len());
        for &index in corners {
            let id = u32::try_from(index).ok().filter(|&i| (i as usize) < count);
            ids.push(id.ok_or(ReadError::IndexOutOfRange { at, index, count })?);
        }
        match *ids.as_slice() {
            [] | [_] | [_, _] => Err(ReadError::malformed(at, "a polygon has fewer than three corners")),
            [a, b, c] => self.add_triangle([a, b, c]),
            [a, b, c, d] => {
                let [pa, pb, pc, pd] = [a, b, c, d].map(|i| self.points[i as usize]);
                let area = |p: Point, q: Point, r: Point| (q - p).cross(r - p).length();
                if area(pa, pb, pc) + area(pa, pc, pd) <= area(pa, pb, pd) + area(pb, pc, pd) {
                    self.add_triangle([a, b, c])?;
                    self.add_triangle([a, c, d])
                } else {
                    self.add_triangle([a, b, d])?;
                    self.add_triangle([b, c, d])
                }
            }
            _ => {
                for t in self.cut(&ids, at)? {
                    self.add_triangle(t)?;
                }
                Ok(())
            }
        }
    }

    fn cut(&self, ids: &[u32], at: Place) -> Result<Vec<[u32; 3]>, ReadError> {
        let outline: Vec<Point> = ids.iter().map(|&i| self.points[i as usize]).collect();
        if ids.len() > BENT
            && let Some(frame) = PlaneFrame::new(outline[0], segments::area_vector(&outline))
        {
            let flat: Vec<[f64; 2]> = outline.iter().map(|&p| frame.flatten(p)).collect();
            if let Ok(cut) = triangulate_flat(&flat, &[(0..ids.len()).collect()]) {
                return Ok(cut.into_iter().map(|t| t.map(|k| ids[k])).collect());
            }
        }
        if ids.len() > MOST_BENT {
            let what = format!(
                "a polygon of {} corners crosses itself, or is bent too far to be cut into triangles",
                ids.len()
            );
            return Err(ReadError::malformed(at, what));
        }
        let cut = least_area(&outline, &|_, _| true, self.progress)?;
        Ok(cut.into_iter().map(|t| t.map(|k| ids[k as usize])).collect())
    }

    /// Welds equal points and gives the mesh; its faces are the groups.
    pub fn finish(self) -> Result<Mesh, ReadError> {
        if self.triangles.is_empty() {
            return Err(ReadError::NoTriangles);
        }
        Ok(weld::weld_mesh(&self.points, &self.triangles, self.groups)?)
    }
}
