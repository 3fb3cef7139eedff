//! Covering one closed loop of points after the other, taut or swollen, in a mesh under construction.

use std::collections::{HashMap, HashSet};

use nimbet_kernel::rims::Rim;
use nimbet_kernel::topology::ends;
use nimbet_kernel::triangulate::{Patch, dome, taut_cover};
use nimbet_kernel::{FaceId, Mesh, MeshError, Point, Progress};

use super::thinned::{LONGEST, dome_over_some};
use crate::TradeError;
use crate::examine::mean_plane;

/// The most points a taut cover adds inside one rim.
const MOST_INNER: usize = 8_000;

/// What lies outside a rim is looked at for a dome as far as so many rim edges.
const NEAR: f64 = 2.0;

/// The mesh under construction.
pub(super) struct Work {
    pub points: Vec<Point>,
    pub triangles: Vec<[u32; 3]>,
    faces: Vec<FaceId>,
    next_face: FaceId,
    /// The sides there are between points of loops, as (low, high).
    taken: HashSet<(u32, u32)>,
    /// The triangles of the mesh that touch each loop point.
    round: HashMap<u32, Vec<u32>>,
}

/// How a loop is covered.
#[derive(Clone, Copy, Debug)]
pub(super) enum Shape {
    /// With least area.
    Taut,
    /// So that it continues what is round it, at most so far off the taut one.
    Domed(Option<f64>),
}

/// The points of a rim in the direction in which a cover must run: against most of the triangles at it.
pub(super) fn against(triangles: &[[u32; 3]], rim: &Rim) -> Vec<u32> {
    let forward = rim.halves.iter().zip(&rim.points).filter(|(h, p)| ends(triangles, **h).0 == **p).count();
    let mut points = rim.points.clone();
    if forward * 2 >= rim.halves.len() {
        points.reverse();
    }
    points
}

impl Work {
    /// Whether there is an edge between two of the points covers are made between.
    pub fn has_side(&self, a: u32, b: u32) -> bool {
        self.taken.contains(&low_high((a, b)))
    }

    /// Begins with a mesh in which covers will be made between the given points.
    pub fn new(mesh: &Mesh, loop_points: impl Iterator<Item = u32>) -> Self {
        let mut round: HashMap<u32, Vec<u32>> = loop_points.map(|p| (p, Vec::new())).collect();
        let mut among = vec![false; mesh.points().len()];
        for &p in round.keys() {
            among[p as usize] = true;
        }
        let mut taken = HashSet::new();
        for (t, corners) in mesh.triangles().iter().enumerate() {
            for k in 0..3 {
                let (a, b) = (corners[k], corners[(k + 1) % 3]);
                if among[a as usize] {
                    round.entry(a).or_default().push(t as u32);
                    if among[b as usize] {
                        taken.insert(low_high((a, b)));
                    }
                }
            }
        }
        Self {
            points: mesh.points().to_vec(),
            triangles: mesh.triangles().to_vec(),
            faces: mesh.face_of().to_vec(),
            next_face: mesh.next_face(),
            taken,
            round,
        }
    }

    /// The triangles of the mesh that touch a loop point.
    pub fn round(&self, point: u32) -> &[u32] {
        self.round.get(&point).map_or(&[], Vec::as_slice)
    }

    /// Adds triangles as further faces: `face` counts from 0.
    pub fn add(&mut self, new: impl Iterator<Item = ([u32; 3], u32)>) {
        let mut faces = 0;
        for (t, face) in new {
            self.taken.extend([(t[0], t[1]), (t[1], t[2]), (t[2], t[0])].map(low_high));
            self.triangles.push(t);
            self.faces.push(FaceId(self.next_face.0 + face));
            faces = faces.max(face + 1);
        }
        self.next_face.0 += faces;
    }

    pub fn finish(self) -> Result<Mesh, MeshError> {
        Mesh::new(self.points, self.triangles, self.faces)
    }

    /// Covers loops by one surface that runs along each in its direction: the first is its border, the others are islands.
    pub fn cover(&mut self, loops: &[Vec<u32>], shape: Shape, progress: &Progress) -> Result<(), TradeError> {
        let ids = loops.concat();
        if let (Shape::Domed(height), [one]) = (shape, loops)
            && one.len() > LONGEST
        {
            let (points, triangles) = dome_over_some(self, one, height, progress)?;
            self.points.extend(points);
            self.add(triangles.into_iter().map(|t| (t, 0)));
            return Ok(());
        }
        let place = |l: &Vec<u32>| l.iter().map(|&i| self.points[i as usize]).collect();
        let places: Vec<Vec<Point>> = loops.iter().map(place).collect();
        let may_join = |i: usize, j: usize| !self.has_side(ids[i], ids[j]);
        let mut patch = taut_cover(&places, MOST_INNER, &may_join, progress)?;
        if let Shape::Domed(height) = shape {
            self.swell(&mut patch, &ids, height, &may_join, progress)?;
        }
        let offset = self.points.len() as u32;
        self.points.extend(&patch.points[patch.rim..]);
        let rename = |i: u32| if (i as usize) < patch.rim { ids[i as usize] } else { offset + i - patch.rim as u32 };
        self.add(patch.triangles.iter().map(|t| (t.map(rename), 0)));
        Ok(())
    }

    /// Swells a cover whose loop points are called `ids` in the mesh.
    fn swell(
        &self,
        patch: &mut Patch,
        ids: &[u32],
        height: Option<f64>,
        may_join: &dyn Fn(usize, usize) -> bool,
        progress: &Progress,
    ) -> Result<(), TradeError> {
        let number: HashMap<u32, u32> = ids.iter().enumerate().map(|(n, &i)| (i, n as u32)).collect();
        let mut triangles: Vec<u32> = ids.iter().filter_map(|i| self.round.get(i)).flatten().copied().collect();
        triangles.sort_unstable();
        triangles.dedup();
        let n = ids.len();
        let place = |i: u32| self.points[i as usize];
        let spacing: f64 = (0..n).map(|k| place(ids[k]).distance(place(ids[(k + 1) % n]))).sum::<f64>() / n as f64;
        // Each triangle outside with its own far corners, and no more of it than lies near the rim: long ones say no more
        // about the surface there than short ones, and would weigh more.
        let mut beyond = Vec::new();
        let mut round = Vec::with_capacity(triangles.len());
        for corners in triangles.iter().map(|&t| self.triangles[t as usize]) {
            let held: Vec<Point> = corners.iter().filter(|c| number.contains_key(c)).map(|&c| place(c)).collect();
            let from = held.iter().sum::<Point>() / held.len() as f64;
            let far = corners.iter().map(|&c| place(c).distance(from)).fold(0.0, f64::max);
            let share = (spacing * NEAR / far).min(1.0);
            round.push(corners.map(|c| {
                number.get(&c).copied().unwrap_or_else(|| {
                    beyond.push(from.lerp(place(c), share));
                    (n + beyond.len() - 1) as u32
                })
            }));
        }
        let taut = patch.points.clone();
        dome(patch, &beyond, &round, may_join, progress)?;
        if let Some(height) = height {
            to_height(patch, &taut, height);
        }
        Ok(())
    }
}

/// Scales how far a cover stands off the taut one, so that it is `height` at most, square to the mean plane of its rim.
pub(super) fn to_height(patch: &mut Patch, taut: &[Point], height: f64) {
    let (_, normal, _) = mean_plane(&taut[..patch.rim]);
    let natural = taut.iter().zip(&patch.points).map(|(a, b)| (*b - *a).dot(normal).abs()).fold(0.0, f64::max);
    let scale = if natural > 0.0 { height / natural } else { 0.0 };
    for (p, from) in patch.points.iter_mut().zip(taut) {
        *p = *from + (*p - *from) * scale;
    }
}

fn low_high((a, b): (u32, u32)) -> (u32, u32) {
    (a.min(b), a.max(b))
}
