//! Whether there is room for sections: on the faces they touch, and beside each other.

use nimbet_kernel::segments::{nearest_on_segment, nearest_on_triangle};
use nimbet_kernel::{Aabb, Bvh, FaceId, Point};
use rustc_hash::FxHashMap;

use crate::plan::{Cause, GOES_ON, NEAR, Planner, Spine, Trouble};
use crate::station::{Place, Section};

impl Planner<'_> {
    /// Where a run reaches beyond its faces, if it does.
    pub(crate) fn beyond(&self, spine: &Spine) -> Option<Point> {
        let sag = self.sag(spine);
        let check = |place: &Place, section: Section| {
            let (place, found) = self.station(place, section)?;
            let reach = found.reach();
            let on = |k: usize| {
                let inward =
                    if k == 0 { found.normals[0].cross(place.along) } else { place.along.cross(found.normals[1]) };
                // Beyond a hole in the face it goes on.
                let mut ways = [0.0, 0.25, 0.5, 1.0, 2.0].into_iter();
                ways.any(|by| {
                    self.on_face(found.feet[k] + inward * (by * reach), place.faces[k], sag * 2.0 + reach * NEAR)
                })
            };
            (!on(0) || !on(1)).then_some(place.at)
        };
        self.samples(spine).into_iter().find_map(|(place, section)| check(&place, section))
    }

    /// Places well away from the ends of a run, and one in the middle at least, with their sections.
    fn samples(&self, spine: &Spine) -> Vec<(Place, Section)> {
        /// So many are looked at.
        const MOST: usize = 24;
        let n = spine.places.len();
        let mut all: Vec<(Place, Section)> = Vec::new();
        // What goes beyond where it meets the next stretch is of no account.
        let taken = |at: Point| spine.bends.iter().any(|b| b.here.distance(at) < b.taken);
        let counts = |&(k, next): &(usize, usize)| !taken(spine.places[k].at.midpoint(spine.places[next].at));
        let pairs: Vec<(usize, usize)> = spine.followed().filter(counts).collect();
        for &(k, next) in pairs.iter().step_by(pairs.len().div_ceil(MOST).max(1)) {
            let (a, b) = (spine.places[k], spine.places[next]);
            let along = (a.along + b.along).normalize_or(a.along);
            let section = spine.wanted.at((k as f64 + 0.5) / (n - usize::from(!spine.closed)) as f64);
            all.push((Place { at: a.at.midpoint(b.at), along, ..a }, section));
        }
        if spine.closed {
            return all;
        }
        let [start, end] = [0, n - 1].map(|k| (spine.places[k].at, self.narrow(spine, k)));
        let away = |p: &Place| p.at.distance(start.0) > start.1 && p.at.distance(end.0) > end.1;
        let inner: Vec<(Place, Section)> = all.iter().copied().filter(|(p, _)| away(p)).collect();
        if inner.is_empty() { all.get(all.len() / 2).copied().into_iter().collect() } else { inner }
    }

    /// How far from an end, at its first or last section, it may reach beyond its faces: there edges that end at the same point close it.
    fn narrow(&self, spine: &Spine, k: usize) -> f64 {
        /// Edges that leave it at less than this, as the cotangent, leave no room.
        const SLIMMEST: f64 = 20.0;
        let (place, station, reach) = (&spine.places[k], &spine.stations[k], spine.reach());
        let v = spine.ends[usize::from(k > 0)];
        let back = if k > 0 { -place.along } else { place.along };
        let slim = self.graph.at[&v].iter().filter_map(|e| {
            let side = place.faces.iter().position(|f| self.graph.beside((*e, true)).contains(f))?;
            let [a, b] = self.graph.edges[*e as usize].ends;
            let way = self.graph.place(if a == v { b } else { a }) - self.graph.place(v);
            let into = (station.feet[side] - station.at).normalize_or_zero();
            (way.dot(into) > way.length() * 1e-3).then(|| (way.dot(back) / way.dot(into)).min(SLIMMEST))
        });
        reach * slim.fold(1.0, f64::max)
    }

    /// Whether the body has a face, or one that goes on in it, at a place.
    fn on_face(&self, p: Point, face: FaceId, within: f64) -> bool {
        let mesh = self.graph.mesh;
        let corners = |t: u32| mesh.corners(t as usize);
        let near = self.bvh.nearest(p, within, |t| Some(nearest_on_triangle(p, corners(t)).distance_squared(p)));
        near.is_some_and(|(t, _)| {
            let normal = mesh.area_vector(t as usize).normalize_or_zero();
            mesh.face_of()[t as usize] == face || normal.dot(self.graph.faces.probe(face, p).normal) > GOES_ON
        })
    }

    /// Where the bands of two runs on a face lie over each other, or that of one over itself.
    pub(crate) fn overlap(&self, spines: &[Spine]) -> Option<Trouble> {
        let own = |spine: &Spine| {
            let at = self.overlaps_itself(spine)?;
            Some(Trouble { run: spine.wanted.run, cause: Cause::Overlaps, at })
        };
        if let Some(trouble) = spines.iter().find_map(own) {
            return Some(trouble);
        }
        // Where runs meet others: at the points they end at, and before and after what is passed over.
        let meets = |s: &Spine| {
            let ends = s.all_ends().map(|v| self.graph.place(v));
            ends.chain(s.bends.iter().flat_map(|b| [b.here, b.there])).collect::<Vec<Point>>()
        };
        let corners: Vec<Vec<Point>> = spines.iter().map(meets).collect();
        // What each run takes of each face: from its edge to its feet.
        let mut on: FxHashMap<FaceId, Vec<(usize, usize)>> = FxHashMap::default();
        for (n, spine) in spines.iter().enumerate() {
            for k in 0..2 {
                let mut faces: Vec<FaceId> = spine.places.iter().map(|p| p.faces[k]).collect();
                faces.sort_unstable_by_key(|f| f.0);
                faces.dedup();
                faces.into_iter().for_each(|f| on.entry(f).or_default().push((n, k)));
            }
        }
        let mut faces: Vec<_> = on.into_iter().filter(|(_, sides)| sides.len() > 1).collect();
        faces.sort_unstable_by_key(|(f, _)| f.0);
        for (_, sides) in faces {
            let bands: Vec<Band> = sides.iter().map(|&(n, k)| Band::of(&spines[n], k)).collect();
            for (i, &(n, k)) in sides.iter().enumerate() {
                for (place, section) in self.samples(&spines[n]) {
                    let Some((_, found)) = self.station(&place, section) else { continue };
                    let foot = found.feet[k];
                    // Two that meet at a corner are one there.
                    let clear = |m: usize| {
                        let both = (spines[m].reach() + spines[n].reach()) * 2.0;
                        let mut corners = corners[m].iter().filter(|e| corners[n].contains(e));
                        corners.all(|e| e.distance(foot) > both)
                    };
                    let under =
                        |(j, &(m, _)): (usize, &(usize, usize))| j != i && clear(m) && bands[j].holds(foot, &|_| true);
                    if sides.iter().enumerate().any(under) {
                        return Some(Trouble { run: spines[n].wanted.run, cause: Cause::Overlaps, at: foot });
                    }
                }
            }
        }
        None
    }
}

impl Planner<'_> {
    /// Where what a run takes of a face lies over what it takes elsewhere.
    fn overlaps_itself(&self, spine: &Spine) -> Option<Point> {
        /// So many sections are looked at.
        const MOST: usize = 4096;
        /// Sections nearer along the run than so many times their width are beside each other.
        const BESIDE: f64 = 4.0;
        if spine.second.is_some() || spine.tip.is_some() {
            return None;
        }
        let n = spine.stations.len();
        let mut along = vec![0.0];
        for k in 0..n {
            along.push(along[k] + spine.stations[k].at.distance(spine.stations[(k + 1) % n].at));
        }
        let bends: Vec<Point> = spine.bends.iter().flat_map(|b| [b.here, b.there]).collect();
        let reach = spine.reach();
        let pairs: Vec<(usize, usize)> = spine.followed().collect();
        (0..2).find_map(|k| {
            let band = Band::of(spine, k);
            pairs.iter().step_by(pairs.len().div_ceil(MOST).max(1)).find_map(|&(a, b)| {
                let [p, q] = [a, b].map(|m| spine.stations[m].feet[k]);
                let foot = p.midpoint(q);
                let width = spine.stations[a].feet[k].distance(spine.stations[a].at);
                if bends.iter().any(|at| at.distance(foot) < reach * BESIDE) {
                    return None;
                }
                // Of the same face, and not beside it.
                let face = spine.places[a].faces[k];
                let far = width * BESIDE;
                let apart = |m: usize| {
                    let after = along[m] - along[a + 1];
                    let before = along[a] - along[m + 1];
                    let beside = |gap: f64| spine.closed && gap + along[n] <= far;
                    let near = after.max(before) <= far || beside(after) || beside(before);
                    !near && spine.places[m].faces[k] == face
                };
                band.holds(foot, &apart).then_some(foot)
            })
        })
    }
}

/// What of a face a run takes.
struct Band {
    /// The edge, each point with how far it reaches into the face there.
    points: Vec<(Point, f64)>,
    bvh: Bvh,
}

impl Band {
    fn of(spine: &Spine, k: usize) -> Self {
        let mut points: Vec<(Point, f64)> = spine.stations.iter().map(|s| (s.at, s.feet[k].distance(s.at))).collect();
        if spine.closed {
            points.push(points[0]);
        }
        let bvh = Bvh::new(points.windows(2).map(|w| Aabb::of([w[0].0, w[1].0])).collect());
        Self { points, bvh }
    }

    /// Whether a place lies within those pieces of it that count.
    fn holds(&self, p: Point, counts: &dyn Fn(usize) -> bool) -> bool {
        let near = |n: u32| nearest_on_segment(p, self.points[n as usize].0, self.points[n as usize + 1].0);
        let nearest = self.bvh.nearest(p, f64::INFINITY, |n| counts(n as usize).then(|| near(n).1));
        nearest.is_some_and(|(n, off)| {
            let (a, b) = (self.points[n as usize].1, self.points[n as usize + 1].1);
            off < (a + (b - a) * near(n).0) * (1.0 - 1e-3)
        })
    }
}
