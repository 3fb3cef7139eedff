//! Where sections come to lie along runs of edges, and how large they may be.

mod largest;
mod sections;

use std::sync::Arc;

use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::precision::precision;
use nimbet_kernel::segments::{nearest_on_segment, nearest_on_triangle};
use nimbet_kernel::surfaces::Surface;
use nimbet_kernel::{Bvh, FaceId, Point, Progress};

use sections::size_of;
pub(crate) use sections::with_sections;

use crate::bends::folds;
use crate::carve::EdgeError;
use crate::chain::{Bend, Meeting};
use crate::graph::{Graph, Run};
use crate::station::{Place, Section, Station, round_beside, station};

/// A run of edges with what it is given.
#[derive(Clone, Debug)]
pub struct Wanted {
    /// The run.
    pub run: u32,
    /// Sections at shares of its length, ascending; between them they change evenly, beyond them they stay.
    pub sections: Vec<(f64, Section)>,
}

impl Wanted {
    /// The same section all along a run.
    pub fn all_along(run: u32, section: Section) -> Self {
        Self { run, sections: vec![(0.0, section)] }
    }

    /// The section at a share of the length.
    pub fn at(&self, share: f64) -> Section {
        let n = self.sections.partition_point(|(s, _)| *s <= share);
        match (n.checked_sub(1).map(|n| self.sections[n]), self.sections.get(n)) {
            (Some((s, a)), Some((t, b))) => a.between(*b, (share - s) / (t - s)),
            (Some((_, a)), None) => a,
            (None, Some((_, b))) => *b,
            (None, None) => Section::Round { radius: 0.0 },
        }
    }

    /// The same, so many times as large.
    #[must_use]
    pub fn scaled(&self, by: f64) -> Self {
        Self { run: self.run, sections: self.sections.iter().map(|(s, section)| (*s, section.scaled(by))).collect() }
    }

    /// About how large its sections are, mm.
    pub fn size(&self) -> f64 {
        self.sections.iter().map(|(_, s)| size_of(*s)).fold(0.0, f64::max)
    }
}

/// Why a run cannot have what it is given.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Cause {
    /// No section touches both faces there.
    NoFoothold,
    /// Where the edge bends, the sections run into each other.
    Folds,
    /// It reaches beyond a face.
    BeyondFace,
    /// It runs into that of another edge.
    Overlaps,
    /// What it should take away or fill is not parted from the rest.
    Leaks,
    /// No other run lies across a face that it could vanish with.
    Alone,
}

/// A run that cannot have what it is given, and where.
#[derive(Clone, Copy, Debug)]
pub struct Trouble {
    /// The run.
    pub run: u32,
    /// Why.
    pub cause: Cause,
    /// Where, mm.
    pub at: Point,
}

/// The sections along a run.
#[derive(Clone, Debug)]
pub struct Spine {
    /// What was wanted.
    pub wanted: Wanted,
    /// Whether it comes back to where it began: the last section is the first then, and is there once.
    pub closed: bool,
    /// Whether the material lies within less than half a turn.
    pub convex: bool,
    /// The places of the sections.
    pub places: Vec<Place>,
    /// The sections.
    pub stations: Vec<Station>,
    /// The points of the mesh it begins and ends at.
    pub ends: [u32; 2],
    /// Where a face between two runs vanishes, the other one: its number, and the points beside those at which this begins and ends.
    pub second: Option<(u32, [u32; 2])>,
    /// The side on which all its sections end in one point, where a face within it vanishes.
    pub tip: Option<usize>,
    /// The sections that begin anew after a bend tighter than they are; of a closed run the first does, too, if any does.
    pub breaks: Vec<usize>,
    /// What it meets at its ends beyond what is passed over there.
    pub meets: [Option<Meeting>; 2],
    /// Where its sections end at what is passed over, along it and at its ends.
    pub bends: Vec<Bend>,
    /// The share of its length that is taken by what it meets at its ends and bends.
    pub taken: f64,
}

impl Spine {
    /// The sections after which another follows, each with that: not those before a bend that is passed over.
    pub fn followed(&self) -> impl Iterator<Item = (usize, usize)> {
        let n = self.stations.len();
        let pairs = if self.closed { n } else { n.saturating_sub(1) };
        (0..pairs).map(move |k| (k, (k + 1) % n)).filter(|(_, next)| self.breaks.binary_search(next).is_err())
    }

    /// How far the sections reach from the edge at most, mm.
    pub fn reach(&self) -> f64 {
        self.stations.iter().map(Station::reach).fold(0.0, f64::max)
    }

    /// More than its sections hold between the edge and their feet, and beyond its ends where others meet it or faces lean, mm³.
    pub fn room(&self, graph: &Graph<'_>) -> f64 {
        /// Beyond both ends together, by its reach.
        const BEYOND: f64 = 8.0;
        let long: f64 =
            self.edges(graph).map(|e| graph.ends(e).map(|v| graph.place(v))).map(|[a, b]| a.distance(b)).sum();
        (long + self.reach() * BEYOND) * self.reach().powi(2)
    }

    /// The run it lies along, or both.
    pub fn runs(&self) -> impl Iterator<Item = u32> {
        [Some(self.wanted.run), self.second.map(|s| s.0)].into_iter().flatten()
    }

    /// The points of the mesh where runs of it end.
    pub fn all_ends(&self) -> impl Iterator<Item = u32> {
        self.ends.into_iter().chain(self.second.into_iter().flat_map(|s| s.1))
    }

    /// The edges of the run it lies along, or of both.
    pub fn edges<'g>(&self, graph: &'g Graph<'_>) -> impl Iterator<Item = (u32, bool)> + use<'g> {
        let [first, second] = [Some(self.wanted.run), self.second.map(|s| s.0)];
        [first, second].into_iter().flatten().flat_map(|run| graph.runs[run as usize].edges.iter().copied())
    }
}

/// A section at its place, with the share of the run's length.
pub(crate) type PutDown = (Place, Station, f64);

/// A body with its edges, for whatever is wanted of them.
#[derive(Debug)]
pub struct Planner<'a> {
    /// The edges.
    pub graph: &'a Graph<'a>,
    pub(crate) bvh: Arc<Bvh>,
    /// What lies nearer to each other than this is one, mm.
    pub precise: f64,
    /// How far round faces may stand off true, mm.
    pub chord: f64,
    /// Whom to ask whether to go on.
    pub progress: &'a Progress,
}

/// Points of a run nearer to each other than this share of the section tell no direction.
pub(crate) const NEAR: f64 = 1e-3;

impl<'a> Planner<'a> {
    /// For a body; round faces may stand off true by `chord`, mm.
    pub fn new(graph: &'a Graph<'a>, chord: f64, progress: &'a Progress) -> Self {
        let precise = precision(graph.mesh.points().iter());
        Self { graph, bvh: Arc::new(triangle_bvh(graph.mesh)), precise, chord, progress }
    }

    /// For the same body by other edges of it.
    pub(crate) fn by(&self, graph: &'a Graph<'a>) -> Self {
        Self { graph, bvh: self.bvh.clone(), precise: self.precise, chord: self.chord, progress: self.progress }
    }

    /// Whether triangles stand so far off what faces beside these runs stand for that sections may find no hold on that.
    pub(crate) fn is_coarse(&self, wanted: &[Wanted]) -> bool {
        /// By the size of a section.
        const SHARE: f64 = 0.02;
        wanted.iter().any(|w| self.graph.sag(self.run(w)) > w.size() * SHARE)
    }

    fn run(&self, wanted: &Wanted) -> &'a Run {
        &self.graph.runs[wanted.run as usize]
    }

    /// The places along a run at which sections are put down.
    pub(crate) fn places(&self, wanted: &Wanted, size: f64) -> Vec<Place> {
        let run = self.run(wanted);
        let graph = self.graph;
        let near = (size * NEAR).max(self.precise * 64.0);
        let count = run.edges.len();
        let at = |k: usize| graph.place(graph.ends(run.edges[k % count])[0]);
        let last = graph.place(graph.ends(run.edges[count - 1])[1]);
        // The edge each kept point begins.
        let mut kept: Vec<usize> = vec![0];
        for k in 1..count {
            let before = at(kept[kept.len() - 1]);
            let apart = at(k).distance(before) > near && at(k).distance(last) > near;
            let faces = |k: usize| graph.beside(run.edges[k]);
            let plain = faces(k - 1) == faces(k) && faces(k).iter().all(|f| self.is_plain(*f));
            let next = if k + 1 < count { at(k + 1) } else { last };
            let straight = || nearest_on_segment(at(k), before, next).1.sqrt() <= self.precise * 4.0;
            if apart && !(plain && straight()) {
                kept.push(k);
            }
        }
        let mut points: Vec<Point> = kept.iter().map(|k| at(*k)).collect();
        let mut edges: Vec<usize> = kept;
        if run.closed {
            // So that a loop of two straight stretches is none.
            while points.len() < 3 && points.len() < count {
                let k = (0..count).find(|k| !edges.contains(k)).unwrap_or(0);
                let n = edges.partition_point(|e| *e < k);
                edges.insert(n, k);
                points.insert(n, at(k));
            }
        } else {
            points.push(last);
            edges.push(count - 1);
        }
        let n = points.len();
        let place = |k: usize| {
            let before = if k > 0 { Some(points[k - 1]) } else { run.closed.then(|| points[n - 1]) };
            let after = if k + 1 < n { Some(points[k + 1]) } else { run.closed.then(|| points[0]) };
            let faces = graph.beside(run.edges[edges[k]]);
            let chord = match (before, after) {
                (Some(a), Some(b)) => {
                    // The direction of the parabola through the three.
                    let (u, v) = (points[k] - a, b - points[k]);
                    let (l, m) = (u.length(), v.length());
                    u / l * m + v / m * l
                }
                (None, Some(b)) => b - points[k],
                (Some(a), None) => points[k] - a,
                (None, None) => Point::ZERO,
            };
            Place { convex: run.convex, ..self.place_at(points[k], chord, faces) }
        };
        (0..n).map(place).collect()
    }

    /// A place on an edge between two faces that goes about some way.
    pub(crate) fn place_at(&self, at: Point, chord: Point, faces: [FaceId; 2]) -> Place {
        // The edge goes the way they cross: so a section lies in a plane with both normals.
        let normals = faces.map(|f| self.graph.faces.probe(f, at).normal);
        let crossing = normals[0].cross(normals[1]);
        let crossing = if crossing.dot(chord) < 0.0 { -crossing } else { crossing };
        let along = match crossing.try_normalize() {
            Some(way) if way.dot(chord.normalize_or_zero()) > 0.9 => way,
            _ => chord.normalize_or_zero(),
        };
        Place { at, along, faces, convex: true, over: None }
    }

    /// Whether sections on a face are the same all along a straight edge.
    fn is_plain(&self, face: FaceId) -> bool {
        matches!(self.graph.faces.surface(face), Some(Surface::Plane { .. } | Surface::Cylinder { .. }))
    }

    /// The sections all along a run, or where there can be none.
    pub(crate) fn whole(&self, wanted: &Wanted) -> Result<Spine, EdgeError> {
        let places = self.places(wanted, wanted.size());
        if let Some(tip) = self.tip(wanted, &places)? {
            return Ok(tip);
        }
        // Over a face there are sections only with the run on its other side.
        let (places, stations) = match wanted.at(0.0) {
            Section::Over => (places, vec![]),
            _ => self.put_down(places, wanted)?,
        };
        let spine = self.spine_of(wanted, places, stations);
        match folded(&spine) {
            Some(at) => Err(EdgeError::Trouble(Trouble { run: wanted.run, cause: Cause::Folds, at })),
            None => Ok(spine),
        }
    }

    pub(crate) fn spine_of(&self, wanted: &Wanted, places: Vec<Place>, stations: Vec<Station>) -> Spine {
        let run = self.run(wanted);
        Spine {
            wanted: wanted.clone(),
            closed: run.closed,
            convex: run.convex,
            places,
            stations,
            ends: self.graph.ends_of(run),
            second: None,
            tip: None,
            breaks: vec![],
            meets: [None; 2],
            bends: vec![],
            taken: 0.0,
        }
    }

    /// Sections at places along a run, and as many between them as it takes.
    pub(crate) fn put_down(
        &self,
        places: Vec<Place>,
        wanted: &Wanted,
    ) -> Result<(Vec<Place>, Vec<Station>), EdgeError> {
        let run = self.run(wanted);
        let (places, along) = with_sections(places, wanted);
        let whole = along[along.len() - 1].max(f64::MIN_POSITIVE);
        let put_down = |place: &Place, share: f64| self.put_down_at(place, wanted, share);
        let mut all = Vec::with_capacity(places.len());
        for (n, (place, along)) in places.iter().zip(&along).enumerate() {
            if n % OFTEN == 0 {
                self.progress.check()?;
            }
            all.push(put_down(place, along / whole)?);
        }
        if run.closed {
            all.push((all[0].0, all[0].1, 1.0));
        }
        let mut all = self.finer(all, self.closely(wanted), &put_down)?;
        if run.closed {
            all.pop();
        }
        Ok(all.into_iter().map(|(place, station, _)| (place, station)).unzip())
    }

    /// How far what is straight between sections may stand off, mm: what is small is to be followed closely, or it would not reach the face.
    pub(crate) fn closely(&self, wanted: &Wanted) -> f64 {
        let sag = self.graph.sag(self.run(wanted)) * 2.0;
        self.chord.max(sag).min((wanted.size() * CLOSELY).max(sag))
    }

    /// The section at a place so far along a run.
    pub(crate) fn put_down_at(&self, place: &Place, wanted: &Wanted, share: f64) -> Result<PutDown, EdgeError> {
        let place = Place { convex: self.run(wanted).convex, ..*place };
        let found = self.station(&place, wanted.at(share));
        let trouble = Trouble { run: wanted.run, cause: Cause::NoFoothold, at: place.at };
        found.map(|(place, s)| (place, s, share)).ok_or(EdgeError::Trouble(trouble))
    }

    /// The section at a place. Where a foot lies not on the face beside the edge but on one that goes on in that, it is that of this one.
    pub(crate) fn station(&self, place: &Place, section: Section) -> Option<(Place, Station)> {
        /// A section on free faces that leans more along the edge is looked for beside it.
        const SQUARE: f64 = 0.05;
        let found = station(&self.graph.faces, place, section);
        let found = match found {
            Some(found) if found.slant() <= SQUARE => found,
            other => self.beside(place, section).or(other)?,
        };
        let mesh = self.graph.mesh;
        let off = |foot: Point, t: u32| nearest_on_triangle(foot, mesh.corners(t as usize)).distance_squared(foot);
        // The face a foot lies on, where that is not its own.
        let under = |s: &Station, k: usize, own: FaceId| {
            let foot = s.feet[k];
            let (t, distance) = self.bvh.nearest(foot, s.reach(), |t| Some(off(foot, t)))?;
            // Where they meet it lies on both: then it stays on its own.
            let on_own = |t: u32| (mesh.face_of()[t as usize] == own).then(|| off(foot, t));
            let near = distance + self.precise * 16.0;
            self.bvh.nearest(foot, near, on_own).is_none().then(|| mesh.face_of()[t as usize])
        };
        let mut best = (*place, found);
        for k in 0..2 {
            let face = under(&best.1, k, best.0.faces[k])
                .filter(|face| !best.0.faces.contains(face) && self.graph.goes_on(best.0.faces[k], *face));
            let Some(face) = face else { continue };
            let mut other = best.0;
            other.faces[k] = face;
            if let Some(found) = station(&self.graph.faces, &other, section).filter(|s| under(s, k, face).is_none()) {
                best = (other, found);
            }
        }
        Some(best)
    }

    /// The section that finds hold on free faces as they lie beside the edge.
    fn beside(&self, place: &Place, section: Section) -> Option<Station> {
        let (Section::Round { radius }, None) = (section, place.over) else { return None };
        let faces = &self.graph.faces;
        let sag = place.faces.map(|f| if faces.is_exact(f) { 0.0 } else { faces.sag(f) });
        let most = (sag[0].max(sag[1]) * 2.0).max(radius * CLOSELY);
        (!place.faces.iter().all(|f| faces.is_exact(*f))).then(|| round_beside(faces, place, radius, most)).flatten()
    }

    /// More sections where what is straight between two of them stands off by more than a distance, mm.
    pub(crate) fn finer(
        &self,
        all: Vec<PutDown>,
        most: f64,
        put_down: &dyn Fn(&Place, f64) -> Result<PutDown, EdgeError>,
    ) -> Result<Vec<PutDown>, EdgeError> {
        /// A stretch is divided into so many halves of halves at most.
        const DEEP: usize = 5;
        let mut all = all;
        for _ in 0..DEEP {
            self.progress.check()?;
            let mut finer = Vec::with_capacity(all.len());
            for pair in all.windows(2) {
                let [(p, a, s), (q, b, t)] = [pair[0], pair[1]];
                finer.push(pair[0]);
                let faces = if p.faces == q.faces { p.faces } else { continue };
                if faces.iter().all(|f| self.is_flat(*f)) {
                    continue;
                }
                let along = (p.along + q.along).normalize_or(p.along);
                let place = Place { at: p.at.midpoint(q.at), along, ..p };
                // Where none finds a foothold between two that do, or none that goes on in both, the two are enough.
                let Ok(middle) = put_down(&place, f64::midpoint(s, t)) else { continue };
                if folds(&a, &middle.1) || folds(&middle.1, &b) {
                    continue;
                }
                let off = |k: usize| middle.1.feet[k].distance(a.feet[k].midpoint(b.feet[k]));
                if off(0).max(off(1)) > most {
                    finer.push(middle);
                }
            }
            finer.extend(all.last().copied());
            if finer.len() == all.len() {
                break;
            }
            all = finer;
        }
        Ok(all)
    }

    /// How far the triangles of the faces along a run stand off what they stand for, mm.
    pub fn sag(&self, spine: &Spine) -> f64 {
        spine.runs().map(|run| self.graph.sag(&self.graph.runs[run as usize])).fold(0.0, f64::max)
    }

    fn is_flat(&self, face: FaceId) -> bool {
        matches!(self.graph.faces.surface(face), Some(Surface::Plane { .. }))
    }

    /// The sections along some runs, where each can have what it is given and none runs into another.
    ///
    /// # Errors
    /// [`EdgeError`].
    pub fn spines(&self, wanted: &[Wanted]) -> Result<Vec<Spine>, EdgeError> {
        let spines = self.merged(self.chained(wanted)?)?;
        self.some(&spines, wanted)?;
        spines.iter().try_for_each(|s| self.within_faces(s))?;
        match self.overlap(&spines) {
            Some(trouble) => Err(EdgeError::Trouble(trouble)),
            None => Ok(spines),
        }
    }

    fn checked(&self, wanted: &Wanted) -> Result<(), EdgeError> {
        let spines = self.chained(std::slice::from_ref(wanted))?;
        self.some(&spines, std::slice::from_ref(wanted))?;
        spines.iter().try_for_each(|s| self.within_faces(s))
    }

    /// Runs shorter than their sections go with others, but not all of them.
    fn some(&self, spines: &[Spine], wanted: &[Wanted]) -> Result<(), EdgeError> {
        match wanted.first().filter(|_| spines.is_empty()) {
            Some(Wanted { run, .. }) => {
                let at = self.graph.place(self.graph.ends_of(&self.graph.runs[*run as usize])[0]);
                Err(EdgeError::Trouble(Trouble { run: *run, cause: Cause::BeyondFace, at }))
            }
            None => Ok(()),
        }
    }

    fn within_faces(&self, spine: &Spine) -> Result<(), EdgeError> {
        let trouble = |at| EdgeError::Trouble(Trouble { run: spine.wanted.run, cause: Cause::BeyondFace, at });
        self.beyond(spine).map_or(Ok(()), |at| Err(trouble(at)))
    }
}

/// Faces go on in each other where the cosine between their normals is more than this.
pub(crate) const GOES_ON: f64 = 0.9;
/// Sections follow curved faces to such a share of their size, or to the chord if that is less.
const CLOSELY: f64 = 0.02;
/// So many sections are put down between two questions whether to go on.
const OFTEN: usize = 256;

/// Feet go on by at least this share of what the edge does: below that what is left of a face is hardly there.
pub(crate) const LEAST_STEP: f64 = 0.01;

/// Where the sections of a run run into each other.
pub(crate) fn folded(spine: &Spine) -> Option<Point> {
    spine
        .followed()
        .map(|(a, b)| [&spine.stations[a], &spine.stations[b]])
        .find(|[a, b]| folds(a, b))
        .map(|[a, _]| a.at)
}
