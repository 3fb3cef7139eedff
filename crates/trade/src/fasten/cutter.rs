//! Bodies that are taken away at a place. They stand on z, which goes into the material from the mouth at nought.
//!
//! Each kind of face has the same number in all of them, there or not, so that a thread's being cut or only marked changes the
//! number of no face after it.

use std::f64::consts::TAU;

use nimbet_kernel::triangulate::{PlaneFrame, triangulate_flat};
use nimbet_kernel::{FaceId, Mesh, Point};

use super::thread::{Gender, ThreadForm, rod};
use crate::TradeError;

/// The face of the lead-in, countersink or shoulder at the mouth.
pub(super) const LEAD_IN: u32 = 10;
/// The side of what is taken away round the mouth.
pub(super) const HEAD: u32 = 11;
/// The lead-in at the far mouth.
pub(super) const FAR_LEAD_IN: u32 = 12;
/// The wall of the bore; of a thread, what stands nearest to the axis.
pub(super) const WALL: u32 = 13;
/// The bottom. The highest, and always there.
pub(super) const BOTTOM: u32 = 14;

/// How far the bore beyond a thread stays inside of the thread's own, so that they meet in no sliver, mm.
const ASIDE: f64 = 0.002;

/// Of the bore of a thread, the part within it that is taken away besides.
const CORE: f64 = 0.6;

/// A point of a turned profile, and the face from there to the next.
pub(super) type Turning = (f64, f64, u32);

/// A profile of (radius, height, face) that goes up, turned about z; it closes at both ends on the axis.
pub(super) fn lathe(profile: &[Turning], segments: usize) -> Result<Mesh, TradeError> {
    let n = segments as u32;
    let ring = |row: usize| 1 + row as u32 * n;
    let (mut points, mut triangles, mut faces) = (vec![], vec![], vec![]);
    let [low, high] = [profile.first(), profile.last()].map(|p| p.map_or(0.0, |p| p.1));
    points.push(Point::Z * low);
    for &(r, z, _) in profile {
        points.extend((0..segments).map(|k| {
            let (y, x) = (k as f64 / segments as f64 * TAU).sin_cos();
            Point::new(r * x, r * y, z)
        }));
    }
    let top = points.len() as u32;
    points.push(Point::Z * high);
    for k in 0..n {
        let next = (k + 1) % n;
        triangles.push([0, ring(0) + next, ring(0) + k]);
        faces.push(FaceId(BOTTOM));
        for row in 1..profile.len() {
            let [a, b, c, d] = [ring(row - 1) + k, ring(row - 1) + next, ring(row) + next, ring(row) + k];
            triangles.extend([[a, b, c], [a, c, d]]);
            faces.extend([FaceId(profile[row - 1].2); 2]);
        }
        let last = ring(profile.len() - 1);
        triangles.push([top, last + k, last + next]);
        faces.push(FaceId(BOTTOM));
    }
    Ok(Mesh::new(points, triangles, faces)?)
}

/// An outline, counter-clockwise, drawn out between two heights.
pub(super) fn prism(outline: &[[f64; 2]], from: f64, to: f64) -> Result<Mesh, TradeError> {
    let order: Vec<usize> = (0..outline.len()).collect();
    let lids = triangulate_flat(outline, &[order])
        .map_err(|e| TradeError::refused(format!("the outline cannot be used: {e}"), vec![]))?;
    let n = outline.len() as u32;
    let at = |z: f64| outline.iter().map(move |p| Point::new(p[0], p[1], z));
    let points: Vec<Point> = at(from).chain(at(to)).collect();
    let mut triangles: Vec<[u32; 3]> = Vec::new();
    for lid in lids {
        let [a, b, c] = lid.map(|p| p as u32);
        triangles.extend([[a, c, b], [a + n, b + n, c + n]]);
    }
    let ends = triangles.len();
    for k in 0..n {
        let next = (k + 1) % n;
        triangles.extend([[k, next, n + next], [k, n + next, n + k]]);
    }
    let faces = (0..triangles.len()).map(|t| FaceId(if t < ends { BOTTOM } else { WALL })).collect();
    Ok(Mesh::new(points, triangles, faces)?)
}

/// A circle with a roof of 45 degrees, its top along the second direction: what lies across the layers prints without help.
pub(super) fn teardrop(radius: f64, segments: usize) -> Vec<[f64; 2]> {
    let half = segments * 3 / 4;
    let arc = (0..=half).map(|k| {
        let (y, x) = (TAU * (0.375 + 0.75 * k as f64 / half as f64)).sin_cos();
        [radius * x, radius * y]
    });
    arc.chain([[0.0, radius * 2f64.sqrt()]]).collect()
}

/// A slot along the first direction; the length from middle to middle of its ends.
pub(super) fn slot(radius: f64, length: f64, segments: usize) -> Vec<[f64; 2]> {
    let half = segments / 2;
    let end = |sign: f64| {
        (0..=half).map(move |k| {
            let (y, x) = (TAU * (0.5 * k as f64 / half as f64 - 0.25)).sin_cos();
            [sign * (length * 0.5 + radius * x), sign * radius * y]
        })
    };
    end(1.0).chain(end(-1.0)).collect()
}

/// A threaded bore between two heights, threaded down to `thread`; cone-shaped lead-ins of a radius at either mouth.
pub(super) struct Threaded<'a> {
    pub form: &'a ThreadForm,
    pub top: f64,
    pub thread: f64,
    pub end: f64,
    /// The radius of the near lead-in, at nought.
    pub lead_in: Option<f64>,
    /// The far lead-in: where its mouth is, and its radius.
    pub far: Option<(f64, f64)>,
    pub segments: usize,
    /// Whether the thread is cut, or only its bore made.
    pub cut: bool,
}

impl Threaded<'_> {
    pub fn body(&self) -> Result<Mesh, TradeError> {
        let wide = if self.cut { self.form.bore - ASIDE } else { self.form.bore };
        // Within the thread it keeps well away from it, so that their triangles are never near each other.
        let narrow = if self.cut { self.form.bore * CORE } else { wide };
        let mut profile: Vec<Turning> = vec![];
        match self.lead_in {
            Some(mouth) => {
                let foot = (mouth - narrow).min(self.thread * 0.4);
                profile.extend([(mouth, self.top, HEAD), (mouth, 0.0, LEAD_IN), (mouth - foot, foot, WALL)]);
            }
            None => profile.push((narrow, self.top, WALL)),
        }
        match self.far {
            Some((at, mouth)) => {
                let foot = (mouth - narrow).min(at * 0.4);
                profile.extend([(mouth - foot, at - foot, FAR_LEAD_IN), (mouth, at, HEAD), (mouth, self.end, BOTTOM)]);
            }
            None if self.thread < self.end => {
                // Out to the bore before the thread ends.
                let out = self.thread - (wide - narrow).min(self.form.pitch * 0.5);
                profile.extend([(narrow, out - (wide - narrow).min(self.thread * 0.2), WALL), (wide, out, WALL)]);
                profile.push((wide, self.end, BOTTOM));
            }
            None => profile.push((narrow, self.end, BOTTOM)),
        }
        profile.dedup_by(|next, kept| next.0 == kept.0 && next.1 <= kept.1);
        let plain = lathe(&profile, self.segments)?;
        if !self.cut {
            return Ok(plain);
        }
        let screw = self.form.screw(Gender::Internal, self.segments, None);
        let thread = threads(rod(&screw, self.top, self.thread)?, screw.profile.len());
        joined(&[plain, thread])
    }
}

/// A threaded surface with the numbers faces of threads have: flanks and roots by their stretch, and the stretch from the last
/// corner of the profile round to the first, which is nearest to the axis, the wall.
pub(super) fn threads(mesh: Mesh, stretches: usize) -> Mesh {
    let wall = stretches as u32 - 1;
    let face = |f: FaceId| match f.0 {
        n if n == wall => WALL,
        n if n < wall => n.min(LEAD_IN - 1),
        _ => BOTTOM,
    };
    let faces: Vec<FaceId> = mesh.face_of().iter().map(|f| FaceId(face(*f))).collect();
    mesh.regroup(|t| faces[t])
}

/// Several bodies as one input; they may overlap.
pub(super) fn joined(bodies: &[Mesh]) -> Result<Mesh, TradeError> {
    let (mut points, mut triangles, mut faces) = (vec![], vec![], vec![]);
    for body in bodies {
        let first = points.len() as u32;
        points.extend_from_slice(body.points());
        triangles.extend(body.triangles().iter().map(|t| t.map(|p| p + first)));
        faces.extend_from_slice(body.face_of());
    }
    Ok(Mesh::new(points, triangles, faces)?)
}

/// A body moved from z to a place; `across` is where its first direction goes, as far as it can.
pub(super) fn placed(body: Mesh, mouth: Point, way: Point, across: Option<Point>) -> Result<Mesh, TradeError> {
    let Some(plane) = PlaneFrame::upright(mouth, way) else {
        return Err(TradeError::refused("the direction of the bore must not be zero", vec![mouth]));
    };
    let flat = across.map(|a| a - plane.normal * a.dot(plane.normal)).and_then(Point::try_normalize);
    let u = flat.unwrap_or(plane.directions()[0]);
    let v = plane.normal.cross(u);
    Ok(body.map_points(|p| mouth + u * p.x + v * p.y + plane.normal * p.z)?)
}
