//! The indexed triangle mesh with a face id for each triangle.

use bytemuck::{Pod, Zeroable};

/// A position or vector in millimetres.
pub type Point = glam::DVec3;

/// Names the face (patch of triangles that belong together) a triangle is part of.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Pod, Zeroable)]
#[repr(transparent)]
pub struct FaceId(pub u32);

/// Triangles over shared points. Invariants: every index is in range, every coordinate is finite,
/// and there is one face id for each triangle. A triangle may still be degenerate: that is a finding, not an error.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Mesh {
    points: Vec<Point>,
    triangles: Vec<[u32; 3]>,
    face_of: Vec<FaceId>,
    drawn: Option<Drawn>,
}

/// What a mesh was drawn as, in the bytes of who drew it: exact where triangles are not. It belongs to this very mesh, so whatever
/// makes another one of it leaves it behind.
#[derive(Clone, Debug, PartialEq)]
pub struct Drawn(std::sync::Arc<[u8]>);

impl Drawn {
    /// The bytes.
    pub fn bytes(&self) -> &[u8] {
        &self.0
    }
}

impl From<Vec<u8>> for Drawn {
    fn from(bytes: Vec<u8>) -> Self {
        Self(bytes.into())
    }
}

/// The greatest number of a face: two meshes' numbers, one after the other, never wrap.
const MOST_FACE: u32 = 1 << 30;

/// Why arrays do not make a mesh.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum MeshError {
    /// A triangle names a point that is not there.
    #[error("triangle {triangle} uses point {point}, but there are only {count} points")]
    IndexOutOfRange {
        /// The triangle, counted from 0.
        triangle: usize,
        /// The index it uses.
        point: u32,
        /// How many points there are.
        count: usize,
    },
    /// A coordinate is infinite or not a number.
    #[error("point {point} has a coordinate that is not a finite number")]
    NotFinite {
        /// The point, counted from 0.
        point: usize,
    },
    /// The face ids do not match the triangles one to one.
    #[error("{faces} face ids were given for {triangles} triangles")]
    FaceCount {
        /// How many face ids there are.
        faces: usize,
        /// How many triangles there are.
        triangles: usize,
    },
    /// A face has a greater number than any may have.
    #[error("a face has the number {0}; {MOST_FACE} is the greatest that can be handled")]
    FaceNumber(u32),
    /// More points or corners than a 32-bit index can name.
    #[error("the mesh has {0} corners; {max} is the most that can be handled", max = u32::MAX)]
    TooLarge(usize),
}

impl Mesh {
    /// Builds a mesh, checking the invariants.
    ///
    /// # Errors
    /// [`MeshError`] names the first triangle or point that breaks an invariant.
    pub fn new(points: Vec<Point>, triangles: Vec<[u32; 3]>, face_of: Vec<FaceId>) -> Result<Self, MeshError> {
        if triangles.len() >= (u32::MAX / 3) as usize || points.len() >= u32::MAX as usize {
            return Err(MeshError::TooLarge(points.len().max(triangles.len() * 3)));
        }
        if face_of.len() != triangles.len() {
            return Err(MeshError::FaceCount { faces: face_of.len(), triangles: triangles.len() });
        }
        if let Some(face) = face_of.iter().find(|f| f.0 > MOST_FACE) {
            return Err(MeshError::FaceNumber(face.0));
        }
        if let Some(point) = points.iter().position(|p| !p.is_finite()) {
            return Err(MeshError::NotFinite { point });
        }
        for (triangle, corners) in triangles.iter().enumerate() {
            if let Some(&point) = corners.iter().find(|&&c| c as usize >= points.len()) {
                return Err(MeshError::IndexOutOfRange { triangle, point, count: points.len() });
            }
        }
        Ok(Self { points, triangles, face_of, drawn: None })
    }

    /// Builds a mesh whose triangles all belong to face 0.
    ///
    /// # Errors
    /// As [`Mesh::new`].
    pub fn with_one_face(points: Vec<Point>, triangles: Vec<[u32; 3]>) -> Result<Self, MeshError> {
        let face_of = vec![FaceId(0); triangles.len()];
        Self::new(points, triangles, face_of)
    }

    /// The same points and faces with other corners for each triangle.
    ///
    /// # Panics
    /// Where a triangle names a point that is not there, or one is missing: a fault of the program.
    pub(crate) fn rewired(&self, triangles: Vec<[u32; 3]>) -> Self {
        let count = self.points.len();
        assert!(triangles.len() == self.triangles.len(), "each triangle stays one");
        assert!(triangles.iter().flatten().all(|c| (*c as usize) < count), "corners are points of the mesh");
        Self { points: self.points.clone(), triangles, face_of: self.face_of.clone(), drawn: None }
    }

    /// The points, mm.
    #[inline]
    pub fn points(&self) -> &[Point] {
        &self.points
    }

    /// The triangles: three indices into [`Mesh::points`], counter-clockwise seen from outside.
    #[inline]
    pub fn triangles(&self) -> &[[u32; 3]] {
        &self.triangles
    }

    /// What it was drawn as, if it was.
    pub fn drawn(&self) -> Option<&Drawn> {
        self.drawn.as_ref()
    }

    /// The same mesh with what it was drawn as.
    #[must_use]
    pub fn drawn_as(self, drawn: Option<Drawn>) -> Self {
        Self { drawn, ..self }
    }

    /// The face of each triangle.
    pub fn face_of(&self) -> &[FaceId] {
        &self.face_of
    }

    /// The same triangles and points with the face ids `face` gives.
    pub fn regroup(mut self, face: impl Fn(usize) -> FaceId) -> Self {
        self.drawn = None;
        for (t, slot) in self.face_of.iter_mut().enumerate() {
            *slot = face(t);
        }
        self
    }

    /// A face id not used yet.
    pub fn next_face(&self) -> FaceId {
        FaceId(self.face_of.iter().map(|f| f.0 + 1).max().unwrap_or(0))
    }

    /// The three corner positions of a triangle.
    #[inline]
    pub fn corners(&self, triangle: usize) -> [Point; 3] {
        self.triangles[triangle].map(|i| self.points[i as usize])
    }

    /// Twice the area vector of a triangle (its normal, not normalised).
    #[inline]
    pub fn area_vector(&self, triangle: usize) -> Point {
        let [a, b, c] = self.corners(triangle);
        (b - a).cross(c - a)
    }

    /// Takes the mesh apart into points, triangles and face ids.
    pub fn into_parts(self) -> (Vec<Point>, Vec<[u32; 3]>, Vec<FaceId>) {
        (self.points, self.triangles, self.face_of)
    }

    /// Only the triangles for which `keep` holds, and only the points they use, in their old order.
    pub fn retain_triangles(&self, keep: impl Fn(usize) -> bool) -> Self {
        const UNUSED: u32 = u32::MAX;
        let kept: Vec<usize> = (0..self.triangles.len()).filter(|&t| keep(t)).collect();
        let mut new_index = vec![UNUSED; self.points.len()];
        for &t in &kept {
            for c in self.triangles[t] {
                new_index[c as usize] = 0;
            }
        }
        let mut points = Vec::new();
        for (old, slot) in new_index.iter_mut().enumerate() {
            if *slot != UNUSED {
                *slot = points.len() as u32;
                points.push(self.points[old]);
            }
        }
        Self {
            points,
            triangles: kept.iter().map(|&t| self.triangles[t].map(|c| new_index[c as usize])).collect(),
            face_of: kept.iter().map(|&t| self.face_of[t]).collect(),
            drawn: None,
        }
    }

    /// The mesh in pieces: `piece_of` has for each triangle which of `count` it belongs to. Linear.
    pub fn pieces(&self, piece_of: &[u32], count: usize) -> Vec<Self> {
        const UNUSED: u32 = u32::MAX;
        let mut pieces = vec![Self::default(); count];
        // Where a point was put last, and in which piece that was.
        let mut put = vec![(UNUSED, UNUSED); self.points.len()];
        let mut order: Vec<u32> = (0..self.triangles.len() as u32).collect();
        order.sort_by_key(|t| piece_of[*t as usize]);
        for t in order {
            let n = piece_of[t as usize];
            let piece = &mut pieces[n as usize];
            let corners = self.triangles[t as usize].map(|c| {
                let slot = &mut put[c as usize];
                if slot.0 != n {
                    *slot = (n, piece.points.len() as u32);
                    piece.points.push(self.points[c as usize]);
                }
                slot.1
            });
            piece.triangles.push(corners);
            piece.face_of.push(self.face_of[t as usize]);
        }
        pieces
    }

    /// Reverses the winding of the triangles for which `flip` holds.
    pub fn reverse_triangles(&mut self, flip: impl Fn(usize) -> bool) {
        self.drawn = None;
        for (t, corners) in self.triangles.iter_mut().enumerate() {
            if flip(t) {
                corners.swap(1, 2);
            }
        }
    }

    /// Moves every point by `f`, which must give finite coordinates.
    ///
    /// # Errors
    /// [`MeshError::NotFinite`] names the first point that left the finite numbers.
    pub fn map_points(self, f: impl Fn(Point) -> Point) -> Result<Self, MeshError> {
        let points: Vec<Point> = self.points.into_iter().map(f).collect();
        Self::new(points, self.triangles, self.face_of)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn bad_arrays_are_refused_with_the_place() {
        let p = vec![Point::ZERO, Point::X, Point::Y];
        assert_eq!(
            Mesh::with_one_face(p.clone(), vec![[0, 1, 3]]),
            Err(MeshError::IndexOutOfRange { triangle: 0, point: 3, count: 3 })
        );
        let nan = vec![Point::ZERO, Point::new(0.0, f64::NAN, 0.0), Point::Y];
        assert_eq!(Mesh::with_one_face(nan, vec![[0, 1, 2]]), Err(MeshError::NotFinite { point: 1 }));
        assert!(matches!(Mesh::new(p, vec![[0, 1, 2]], vec![]), Err(MeshError::FaceCount { .. })));
    }

    #[test]
    fn retaining_triangles_drops_only_unused_points() {
        let p = vec![Point::ZERO, Point::X, Point::Y, Point::Z, Point::ONE];
        let m = Mesh::with_one_face(p, vec![[0, 1, 2], [1, 3, 4]]).unwrap();
        let kept = m.retain_triangles(|t| t == 1);
        assert_eq!(kept.points(), &[Point::X, Point::Z, Point::ONE]);
        assert_eq!(kept.triangles(), &[[0, 1, 2]]);
    }
}
