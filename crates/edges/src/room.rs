//! Whether there is room for sections: on the faces they touch, and beside each other.

use nimbet_kernel::segments::{nearest_on_segment, nearest_on_triangle};
use nimbet_kernel::{FaceId, Point};
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
        let spans = if spine.closed { n } else { n - 1 };
        for k in (0..spans).step_by(spans.div_ceil(MOST).max(1)) {
            let (a, b) = (spine.places[k], spine.places[(k + 1) % n]);
            let along = (a.along + b.along).normalize_or(a.along);
            let section = spine.wanted.at((k as f64 + 0.5) / spans as f64);
            all.push((Place { at: a.at.midpoint(b.at), along, ..a }, section));
        }
        if spine.closed {
            return all;
        }
        let [start, end] = [0, n - 1].map(|k| (spine.places[k].at, self.narrow(spine, k)));
        let away = |p: &Place| p.at.distance(start.0) > start.1 && p.at.distance(end.0) > end.1;
        let inner: Vec<(Place, Section)> = all.iter().copied().filter(|(p, _)| away(p)).collect();
        if inner.is_empty() { vec![all[all.len() / 2]] } else { inner }
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

    /// Where the bands of two runs on a face lie over each other.
    pub(crate) fn overlap(&self, spines: &[Spine]) -> Option<Trouble> {
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
                    let shared = |m: usize| spines[m].all_ends().any(|e| spines[n].all_ends().any(|f| e == f));
                    // Two that meet at a corner are one there.
                    let clear = |m: usize| {
                        let both = (spines[m].reach() + spines[n].reach()) * 2.0;
                        let mut corners = spines[m].all_ends().filter(|e| spines[n].all_ends().any(|f| *e == f));
                        !shared(m) || corners.all(|e| self.graph.place(e).distance(foot) > both)
                    };
                    let under = |(j, &(m, _)): (usize, &(usize, usize))| j != i && clear(m) && bands[j].holds(foot);
                    if sides.iter().enumerate().any(under) {
                        return Some(Trouble { run: spines[n].wanted.run, cause: Cause::Overlaps, at: foot });
                    }
                }
            }
        }
        None
    }
}

/// What of a face a run takes.
struct Band {
    /// The edge, each point with how far it reaches into the face there.
    points: Vec<(Point, f64)>,
}

impl Band {
    fn of(spine: &Spine, k: usize) -> Self {
        let mut points: Vec<(Point, f64)> = spine.stations.iter().map(|s| (s.at, s.feet[k].distance(s.at))).collect();
        if spine.closed {
            points.push(points[0]);
        }
        Self { points }
    }

    fn holds(&self, p: Point) -> bool {
        let near = |pair: &[(Point, f64)]| {
            let (share, off) = nearest_on_segment(p, pair[0].0, pair[1].0);
            (off.sqrt(), pair[0].1 + (pair[1].1 - pair[0].1) * share)
        };
        let nearest = self.points.windows(2).map(near).min_by(|a, b| a.0.total_cmp(&b.0));
        nearest.is_some_and(|(off, width)| off < width * (1.0 - 1e-3))
    }
}
