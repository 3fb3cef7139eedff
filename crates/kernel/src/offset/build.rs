//! Points and triangles put together: strips between chains, fans, pieces of spheres.

use std::collections::HashMap;

use crate::{FaceId, Point};

/// The angle between points of a circle whose chords stay within `chord` of it.
pub(super) fn step_angle(radius: f64, chord: f64) -> f64 {
    /// Coarser than this nothing looks round.
    const COARSEST: f64 = std::f64::consts::FRAC_PI_4;
    if radius <= chord { COARSEST } else { (2.0 * (1.0 - chord / radius).acos()).min(COARSEST) }
}

/// A cap takes about so many triangles for each square of a step, over its solid angle: twice to four times those of equal sides, since
/// sides are halved until they are short enough.
pub(super) const BY_SQUARE: f64 = 8.0;

/// A surface in the making.
#[derive(Default)]
pub(super) struct Build {
    pub points: Vec<Point>,
    number: HashMap<[u64; 3], u32>,
    pub triangles: Vec<[u32; 3]>,
    pub face_of: Vec<FaceId>,
}

impl Build {
    pub fn point(&mut self, p: Point) -> u32 {
        // Nought is one place, whatever its sign.
        let p = p + Point::ZERO;
        *self.number.entry(p.to_array().map(f64::to_bits)).or_insert_with(|| {
            self.points.push(p);
            self.points.len() as u32 - 1
        })
    }

    pub fn triangle(&mut self, corners: [u32; 3], face: FaceId) {
        let [a, b, c] = corners;
        if a != b && b != c && c != a {
            self.triangles.push(corners);
            self.face_of.push(face);
        }
    }

    /// Between two chains that run the same way; the first is to the right of the second, seen along them.
    pub fn strip(&mut self, start: &[u32], end: &[u32], face: FaceId) {
        let (mut i, mut j) = (0, 0);
        while i + 1 < start.len() || j + 1 < end.len() {
            let share = |n: usize, of: usize| (n + 1) as f64 / (of - 1).max(1) as f64;
            let first = j + 1 >= end.len() || (i + 1 < start.len() && share(i, start.len()) <= share(j, end.len()));
            if first {
                self.triangle([end[j], start[i], start[i + 1]], face);
                i += 1;
            } else {
                self.triangle([end[j], start[i], end[j + 1]], face);
                j += 1;
            }
        }
    }

    pub fn fan(&mut self, round: &[u32], face: FaceId) {
        for pair in round[1..].windows(2) {
            self.triangle([round[0], pair[0], pair[1]], face);
        }
    }

    /// About how many triangles [`Build::cap`] takes.
    pub fn cap_cost(&self, round: &[u32], middle: Point, reach: f64, chord: f64) -> f64 {
        let way = |p: &u32| (self.points[*p as usize] - middle).normalize_or_zero();
        let mean = round.iter().map(way).sum::<Point>().normalize_or_zero();
        let widest = round.iter().map(|p| way(p).dot(mean)).fold(1.0, f64::min);
        // As much of a sphere as lies about the mean.
        std::f64::consts::TAU * (1.0 - widest) * BY_SQUARE / step_angle(reach.abs(), chord).powi(2)
    }

    /// A piece of a sphere within a closed chain: a fan, its sides inside cut in half until they follow the sphere. False where
    /// that takes more triangles than a whole sphere could have.
    pub fn cap(&mut self, round: &[u32], middle: Point, reach: f64, chord: f64, face: FaceId) -> bool {
        let way = |made: &Self, p: u32| (made.points[p as usize] - middle).normalize_or_zero();
        let mean = round.iter().map(|p| way(self, *p)).sum::<Point>();
        let mean = mean.normalize_or(way(self, round[0]).any_orthonormal_vector());
        let longest = 2.0 * reach.abs() * (step_angle(reach.abs(), chord) * 0.5).sin() * 1.001;
        let top = self.point(middle + mean * reach.abs());
        let count = round.len();
        // Places of groups stand off the sphere.
        let foot: Vec<u32> = round.iter().map(|p| self.point(middle + way(self, *p) * reach.abs())).collect();
        for i in 0..count {
            let j = (i + 1) % count;
            self.triangle([round[i], round[j], foot[j]], face);
            self.triangle([round[i], foot[j], foot[i]], face);
        }
        let round = foot;
        let mut border: Vec<(u32, u32)> =
            (0..count).map(|i| (round[i], round[(i + 1) % count])).map(|(a, b)| (a.min(b), a.max(b))).collect();
        border.sort_unstable();
        // A whole sphere has about 15 triangles for each square of such a side.
        let most = 1000.0 + 100.0 * count as f64 + 100.0 * (reach / longest).powi(2);
        let mut halves: HashMap<(u32, u32), u32> = HashMap::new();
        let mut todo: Vec<[u32; 3]> = (0..count).map(|i| [top, round[i], round[(i + 1) % count]]).collect();
        while let Some(corners) = todo.pop() {
            // Cut the longest side that may be cut and is too long; neighbours cut it at the same place.
            let side = |k: usize| {
                let (a, b) = (corners[k], corners[(k + 1) % 3]);
                (a.min(b), a.max(b))
            };
            let length = |k: usize| {
                let (a, b) = side(k);
                self.points[a as usize].distance(self.points[b as usize])
            };
            let long = (0..3).filter(|k| length(*k) > longest && border.binary_search(&side(*k)).is_err());
            // Equal lengths are told apart by number, so that both neighbours choose alike.
            let Some(k) = long.max_by(|x, y| length(*x).total_cmp(&length(*y)).then(side(*x).cmp(&side(*y)))) else {
                self.triangle(corners, face);
                continue;
            };
            let (a, b) = side(k);
            let half = *halves.entry((a, b)).or_insert_with(|| {
                let between = way(self, a) + way(self, b);
                let between = between.normalize_or(way(self, a).any_orthonormal_vector());
                self.point(middle + between * reach.abs())
            });
            let (from, to, apex) = (corners[k], corners[(k + 1) % 3], corners[(k + 2) % 3]);
            todo.push([from, half, apex]);
            todo.push([half, to, apex]);
            if halves.len() as f64 > most {
                return false;
            }
        }
        true
    }
}
