//! Flat pieces of a surface, however they are divided into triangles, and the corners that count.
//!
//! The corners of a tessellated cylinder lie on it; a point that somebody put in the middle of one of its flat strips, or of
//! the straight edge between two, does not; nor does one where something else cuts through the middle of a strip. So triangles
//! that lie in one plane within the precision of their points are taken together, and of their border only points where it turns
//! are corners, of a facet beside others on a smooth surface only those where it goes on in another.

use std::collections::{HashMap, VecDeque};

use rayon::prelude::*;

use crate::precision::precision;
use crate::{Mesh, Point};

/// What lies within so many times the precision of a plane or a line is on it.
const ON: f64 = 4.0;

/// Triangles of a mesh as flat pieces.
#[derive(Debug)]
pub struct Facets {
    /// For each of the triangles its piece.
    pub of: Vec<u32>,
    /// The middle of each piece.
    pub middle: Vec<Point>,
    /// The unit normal of each, zero where it has no area.
    pub normal: Vec<Point>,
    /// The area of each.
    pub area: Vec<f64>,
    corners: Vec<Point>,
    /// Where the corners of each begin, and where the last end.
    first: Vec<u32>,
    /// Places on the edges across which the smooth surface goes on, by facet, ascending.
    ridges: Vec<(u32, Point)>,
}

/// The cosines of the turns between which a smooth surface goes on: 26 degrees, and what noise may turn what is flat by.
const SMOOTH: std::ops::RangeInclusive<f64> = 0.8988..=1.0 - 1e-6;

impl Facets {
    /// The flat pieces of some triangles of a mesh. Cost: O(n log n).
    pub fn of(mesh: &Mesh, triangles: &[u32]) -> Self {
        let mut points: Vec<u32> = triangles.iter().flat_map(|&t| mesh.triangles()[t as usize]).collect();
        points.par_sort_unstable();
        points.dedup();
        let slack = precision(points.iter().map(|p| &mesh.points()[*p as usize])) * ON;
        let patch = Patch { mesh, triangles, beside: beside(mesh, triangles), slack };
        let mut facets = Self {
            of: vec![u32::MAX; triangles.len()],
            middle: vec![],
            normal: vec![],
            area: vec![],
            corners: vec![],
            first: vec![0],
            ridges: vec![],
        };
        let area = |n: usize| mesh.area_vector(triangles[n] as usize).length();
        let mut seeds: Vec<(f64, u32)> = (0..triangles.len()).into_par_iter().map(|n| (area(n), n as u32)).collect();
        let alone: Vec<bool> = (0..triangles.len() as u32).into_par_iter().map(|n| patch.stands_alone(n)).collect();
        seeds.par_sort_unstable_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
        let mut rings = Lists::default();
        for (_, seed) in seeds {
            if facets.of[seed as usize] == u32::MAX {
                match alone[seed as usize] {
                    true => rings.add(&patch.one(seed, &mut facets)),
                    false => rings.add(&patch.grow(seed, &mut facets)),
                }
            }
        }
        let all = points.len() == mesh.points().len();
        let place = |p: u32| if all { p as usize } else { points.binary_search(&p).unwrap_or(0) };
        // Which facets each point is in, each once or more.
        let corners = triangles.iter().zip(&facets.of);
        let corners = corners.flat_map(|(t, f)| mesh.triangles()[*t as usize].map(|p| (place(p) as u32, *f)));
        let around = Lists::of(points.len(), corners);
        let corners_of = |f: usize| {
            let normal = facets.normal[f];
            let goes_on = |p: &&u32| {
                let mut others = around.list(place(**p)).iter().filter(|g| **g as usize != f);
                others.any(|g| SMOOTH.contains(&facets.normal[*g as usize].dot(normal)))
            };
            let ring = rings.list(f);
            let on: Vec<u32> = ring.iter().filter(goes_on).copied().collect();
            // A facet that is a face by itself has all its corners.
            let kept = if on.len() < 2 { ring.to_vec() } else { on };
            kept.into_iter().map(|p| mesh.points()[p as usize]).collect::<Vec<Point>>()
        };
        let corners: Vec<Vec<Point>> = (0..facets.count()).into_par_iter().map(corners_of).collect();
        for own in corners {
            facets.corners.extend(own);
            facets.first.push(facets.corners.len() as u32);
        }
        facets.ridges = patch.ridges(&facets);
        facets
    }

    /// The middles of the edges of one across which the smooth surface goes on.
    pub fn ridges(&self, facet: u32) -> impl Iterator<Item = Point> {
        let from = self.ridges.partition_point(|r| r.0 < facet);
        self.ridges[from..].iter().take_while(move |r| r.0 == facet).map(|r| r.1)
    }

    /// How many there are.
    pub fn count(&self) -> usize {
        self.area.len()
    }

    /// The corners of one.
    pub fn corners(&self, facet: u32) -> &[Point] {
        &self.corners[self.first[facet as usize] as usize..self.first[facet as usize + 1] as usize]
    }

    /// The corners of all.
    pub fn all_corners(&self) -> &[Point] {
        &self.corners
    }
}

/// Lists of numbers one after the other.
struct Lists {
    first: Vec<u32>,
    held: Vec<u32>,
}

impl Default for Lists {
    fn default() -> Self {
        Self { first: vec![0], held: vec![] }
    }
}

impl Lists {
    /// So many lists of numbers that are given with the list each is on.
    fn of(count: usize, numbers: impl Iterator<Item = (u32, u32)> + Clone) -> Self {
        let mut first = vec![0u32; count + 1];
        numbers.clone().for_each(|(list, _)| first[list as usize + 1] += 1);
        for n in 0..count {
            first[n + 1] += first[n];
        }
        let mut next = first.clone();
        let mut held = vec![0; first[count] as usize];
        for (list, number) in numbers {
            held[next[list as usize] as usize] = number;
            next[list as usize] += 1;
        }
        Self { first, held }
    }

    fn add(&mut self, list: &[u32]) {
        self.held.extend(list);
        self.first.push(self.held.len() as u32);
    }

    fn list(&self, n: usize) -> &[u32] {
        &self.held[self.first[n] as usize..self.first[n + 1] as usize]
    }
}

/// For each side of each triangle the other triangle there, if there is just one.
fn beside(mesh: &Mesh, triangles: &[u32]) -> Vec<[u32; 3]> {
    let mut sides: Vec<(u32, u32, u32)> = Vec::with_capacity(triangles.len() * 3);
    for (n, &t) in triangles.iter().enumerate() {
        let c = mesh.triangles()[t as usize];
        for k in 0..3 {
            let (a, b) = (c[k], c[(k + 1) % 3]);
            sides.push((a.min(b), a.max(b), (3 * n + k) as u32));
        }
    }
    sides.par_sort_unstable();
    let mut beside = vec![[u32::MAX; 3]; triangles.len()];
    for same in sides.chunk_by(|a, b| (a.0, a.1) == (b.0, b.1)) {
        if let &[(_, _, h), (_, _, i)] = same {
            beside[h as usize / 3][h as usize % 3] = i / 3;
            beside[i as usize / 3][i as usize % 3] = h / 3;
        }
    }
    beside
}

struct Patch<'a> {
    mesh: &'a Mesh,
    triangles: &'a [u32],
    beside: Vec<[u32; 3]>,
    slack: f64,
}

impl Patch<'_> {
    fn area_vector(&self, n: u32) -> Point {
        self.mesh.area_vector(self.triangles[n as usize] as usize)
    }

    fn corners(&self, n: u32) -> [Point; 3] {
        self.mesh.corners(self.triangles[n as usize] as usize)
    }

    /// Whether no triangle beside one lies in its plane.
    fn stands_alone(&self, n: u32) -> bool {
        let normal = self.area_vector(n).normalize_or_zero();
        let middle = self.corners(n).iter().sum::<Point>() / 3.0;
        let joins = |b: u32| b != u32::MAX && self.lies_in(b, (middle, normal));
        normal == Point::ZERO || !self.beside[n as usize].into_iter().any(joins)
    }

    /// Whether a triangle lies in a plane, facing as it does.
    fn lies_in(&self, n: u32, (middle, normal): (Point, Point)) -> bool {
        let flat = self.corners(n).iter().all(|p| (*p - middle).dot(normal).abs() <= self.slack);
        flat && self.area_vector(n).dot(normal) >= 0.0
    }

    /// Adds a triangle as a piece by itself; gives its points.
    fn one(&self, seed: u32, facets: &mut Facets) -> [u32; 3] {
        let vector = self.area_vector(seed);
        let corners = self.corners(seed);
        facets.of[seed as usize] = facets.count() as u32;
        facets.normal.push(vector.normalize_or_zero());
        let flat = vector.length() > 0.0;
        facets.middle.push(if flat { corners.iter().sum::<Point>() / 3.0 } else { corners[0] });
        facets.area.push(vector.length() * 0.5);
        self.mesh.triangles()[self.triangles[seed as usize] as usize]
    }

    /// Adds the piece a triangle is in; gives the points where its border turns.
    fn grow(&self, seed: u32, facets: &mut Facets) -> Vec<u32> {
        /// A plane through the largest triangle only may leave some out; one through all that were found then holds them.
        const ROUNDS: usize = 4;
        let number = facets.count() as u32;
        let mut found = vec![seed];
        facets.of[seed as usize] = number;
        let (mut vector, mut area, mut moment) = (Point::ZERO, 0.0, Point::ZERO);
        let mut summed = 0;
        for _ in 0..ROUNDS {
            for &n in &found[summed..] {
                let v = self.area_vector(n);
                vector += v;
                area += v.length();
                moment += self.corners(n).iter().sum::<Point>() / 3.0 * v.length();
            }
            summed = found.len();
            let normal = vector.normalize_or_zero();
            let middle = if area > 0.0 { moment / area } else { self.corners(seed)[0] };
            let joins = |n: u32| normal != Point::ZERO && self.lies_in(n, (middle, normal));
            let mut queue: VecDeque<u32> = found.iter().copied().collect();
            while let Some(n) = queue.pop_front() {
                for b in self.beside[n as usize] {
                    if b != u32::MAX && facets.of[b as usize] == u32::MAX && joins(b) {
                        facets.of[b as usize] = number;
                        found.push(b);
                        queue.push_back(b);
                    }
                }
            }
            if found.len() == summed {
                break;
            }
        }
        facets.normal.push(vector.normalize_or_zero());
        facets.middle.push(if area > 0.0 { moment / area } else { self.corners(seed)[0] });
        facets.area.push(area * 0.5);
        match found[..] {
            [one] => self.mesh.triangles()[self.triangles[one as usize] as usize].to_vec(),
            _ => self.border_turns(&found, facets, number),
        }
    }

    /// Places on the edges between two pieces of a smooth surface, with each of the two.
    fn ridges(&self, facets: &Facets) -> Vec<(u32, Point)> {
        let of_one = |n: usize| {
            let (corners, f) = (self.corners(n as u32), facets.of[n]);
            (0..3).filter_map(move |k| {
                let g = *facets.of.get(self.beside[n][k] as usize)?;
                let smooth = f != g && SMOOTH.contains(&facets.normal[f as usize].dot(facets.normal[g as usize]));
                smooth.then(|| (f, corners[k].midpoint(corners[(k + 1) % 3])))
            })
        };
        let mut ridges: Vec<(u32, Point)> = (0..self.beside.len()).into_par_iter().flat_map_iter(of_one).collect();
        ridges.par_sort_by_key(|r| r.0);
        ridges
    }

    /// The points where the border of a piece turns.
    fn border_turns(&self, found: &[u32], facets: &Facets, number: u32) -> Vec<u32> {
        let mut next: HashMap<u32, Vec<u32>> = HashMap::new();
        for &n in found {
            let c = self.mesh.triangles()[self.triangles[n as usize] as usize];
            for k in 0..3 {
                let b = self.beside[n as usize][k];
                if b == u32::MAX || facets.of[b as usize] != number {
                    next.entry(c[k]).or_default().push(c[(k + 1) % 3]);
                }
            }
        }
        let mut begins: Vec<u32> = next.keys().copied().collect();
        begins.sort_unstable();
        let mut corners = vec![];
        for begin in begins {
            let mut ring = vec![];
            let mut at = begin;
            while let Some(to) = next.get_mut(&at).and_then(Vec::pop) {
                ring.push(at);
                at = to;
            }
            corners.extend(self.turns(&ring));
        }
        corners
    }

    /// The points of a closed ring where it turns.
    fn turns(&self, ring: &[u32]) -> Vec<u32> {
        let place = |p: u32| self.mesh.points()[p as usize];
        let Some(any) = ring.first().map(|p| place(*p)) else { return vec![] };
        let far = |k: usize| place(ring[k]).distance(any);
        // The farthest from any other is a corner.
        let begin = (0..ring.len()).max_by(|&a, &b| far(a).total_cmp(&far(b))).unwrap_or(0);
        let at = |k: usize| ring[(begin + k) % ring.len()];
        let mut kept = vec![at(0)];
        for k in 1..ring.len() {
            let [from, here, to] = [kept[kept.len() - 1], at(k), at(k + 1)].map(place);
            let along = (to - from).normalize_or_zero();
            let off = (here - from) - along * (here - from).dot(along);
            let between = (here - from).dot(to - from) >= 0.0 && (here - to).dot(from - to) >= 0.0;
            if off.length() > self.slack || !between {
                kept.push(at(k));
            }
        }
        kept
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes::{ball, block};

    fn all(mesh: &Mesh) -> Facets {
        Facets::of(mesh, &(0..mesh.triangles().len() as u32).collect::<Vec<_>>())
    }

    #[test]
    fn a_block_has_six_pieces_of_four_corners_however_it_is_divided() {
        let turn = glam::DQuat::from_euler(glam::EulerRot::XYZ, 0.4, -1.1, 2.3);
        let mut mesh = block(Point::ZERO, Point::new(3.0, 4.0, 5.0));
        for round in 0..5 {
            let placed = mesh.clone().map_points(|p| (turn * p + 7.0).as_vec3().as_dvec3()).unwrap();
            let facets = all(&placed);
            assert_eq!(facets.count(), 6, "{round}");
            assert!((0..6).all(|f| facets.corners(f).len() == 4), "{round}");
            assert!((facets.area.iter().sum::<f64>() - 94.0).abs() < 1e-4);
            // Each triangle about its middle, then each in four.
            let soup = (0..mesh.triangles().len()).flat_map(|t| {
                let [a, b, c] = mesh.corners(t);
                let (d, e, f, m) = (a.midpoint(b), b.midpoint(c), c.midpoint(a), (a + b + c) / 3.0);
                if round % 2 == 0 { vec![a, b, m, b, c, m, c, a, m] } else { vec![a, d, f, d, b, e, f, e, c, d, e, f] }
            });
            mesh = crate::weld::weld_corners(&soup.collect::<Vec<_>>()).unwrap();
        }
    }

    #[test]
    fn a_ball_is_pieces_of_its_own_points() {
        let mesh = ball(5.0, 24);
        let facets = all(&mesh);
        assert_eq!(facets.count(), 24 * 48, "quadrilaterals, and triangles at the ends");
        assert!(facets.all_corners().iter().all(|p| (p.length() - 5.0).abs() < 1e-9));
    }
}
