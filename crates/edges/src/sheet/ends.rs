//! Where runs end: how far strips go on, and the caps that close what is beside the edge there.

use std::collections::BTreeMap;

use nimbet_kernel::inside::Inside;
use nimbet_kernel::surfaces::Surface;
use nimbet_kernel::{FaceId, Mesh, MeshError, Point};

use super::{Builder, End, Row};
use crate::chain::until_met;
use crate::plan::Spine;
use crate::station::{Place, Station, station};

/// Where a cap passes through a face it ends beyond it by this share of its length along the other.
const DIP: f64 = 0.25;
/// Where a cap follows a face that bends it does so in so many pieces.
const PIECES: usize = 6;
/// What closes a run leans over it by no more than this, as the cosine to its section.
const LEAST_SLANT: f64 = 0.05;

/// One side of a cap.
#[derive(Default)]
struct SideOfCap {
    /// Its points after the end of the run.
    chain: Vec<Point>,
    /// The face on the other side of the border it goes along.
    other: Option<FaceId>,
    /// The way it goes, as long as it has to be.
    way: Point,
    /// Whether that is across the face, not along its border.
    across: bool,
}

impl Builder<'_> {
    /// The section of a run a little beyond one of its ends: so far that whatever closes it there is passed.
    pub(super) fn beyond(
        &self,
        (spine, end): (&Spine, End),
        width: f64,
        ends_at: &BTreeMap<u32, Vec<(usize, End)>>,
    ) -> Station {
        let (place, own, way) = spine.at(end);
        let v = spine.ends[usize::from(end == End::Last)];
        let reach = own.reach();
        let other = self
            .mates(v, &ends_at[&v])
            .and_then(|both| both.into_iter().find(|(n, e)| !(std::ptr::eq(&self.spines[*n], spine) && *e == end)));
        if let Some((n, e)) = other {
            let (_, there, back) = self.spines[n].at(e);
            if let Some(met) = until_met((&own, way), (&there, back)) {
                let by = met * 1.2 + width * 0.25;
                let on = |p: Point| p + way * by;
                return Station { at: on(own.at), feet: own.feet.map(on), centre: own.centre.map(on), ..own };
            }
        }
        // The other faces there lean, and other runs of the same sense cross this one farther on the more sharply it turns.
        let lean = |normal: Point| {
            let along = normal.dot(way).abs();
            (1.0 - along * along).max(0.0).sqrt() / along.max(1e-9)
        };
        let mut longest: f64 = 0.25;
        let gone = place.over.map(|over| over.face);
        let second = spine.second.map(|(_, ends)| ends[usize::from(end == End::Last)]);
        let both = || std::iter::once(v).chain(second);
        for e in both().flat_map(|v| &self.graph.at[&v]) {
            let own = |f: &FaceId| place.faces.contains(f) || gone == Some(*f);
            for face in self.graph.beside((*e, true)).into_iter().filter(|f| !own(f)) {
                longest = longest.max(lean(self.graph.faces.probe(face, place.at).normal) * 1.1 + 0.25);
            }
        }
        for (n, e) in both().flat_map(|v| &ends_at[&v]) {
            let other = &self.spines[*n];
            if std::ptr::eq(other, spine) && *e == end {
                continue;
            }
            let (beside, there, back) = other.at(*e);
            let turn = way.angle_between(-back);
            longest = longest.max((turn * 0.5).tan() * 1.3 + 0.25);
            // On the face they share, as far as the feet of both meet.
            for (k, j) in [(0, 0), (0, 1), (1, 0), (1, 1)] {
                if place.faces[k] == beside.faces[j] {
                    let [d, c] = [own.feet[k].distance(own.at), there.feet[j].distance(there.at)];
                    let meet = (c - d * turn.cos()) / turn.sin().max(1e-9);
                    longest = longest.max(meet / reach * 1.1 + 0.25);
                }
            }
        }
        let by = width * longest.min(1.2 / LEAST_SLANT);
        let section = spine.section(end);
        let on = Place { at: place.at + way * by, ..place };
        let moved = Station {
            at: on.at,
            feet: own.feet.map(|f| f + way * by),
            centre: own.centre.map(|c| c + way * by),
            ..own
        };
        let plain = |s: &Station| s.feet.iter().zip(moved.feet).all(|(a, b)| a.distance(b) < reach);
        station(&self.graph.faces, &on, section).filter(plain).unwrap_or(moved)
    }

    /// Two runs of one sense that meet by themselves at a point and go on through each other there: where they turn by less than they
    /// lean over each other's faces. They are one then, and end where they have met.
    pub(super) fn mates(&self, v: u32, ends: &[(usize, End)]) -> Option<[(usize, End); 2]> {
        /// Where they turn by more each goes on until it has left the body beside the other, radians: 45 degrees.
        const MOST: f64 = 0.785;
        /// Up to this share they reach equally far along the edge between them.
        const LEVEL: f64 = 0.05;
        let both = <[(usize, End); 2]>::try_from(ends).ok()?;
        let [a, b] = both.map(|(n, _)| &self.spines[n]);
        let alone = a.second.is_none() && b.second.is_none() && a.convex == b.convex;
        let [out, back] = both.map(|(n, end)| self.spines[n].at(end).2);
        let gentle = out.angle_between(-back) < MOST && !self.graph.border.contains_key(&v);
        let at = &self.graph.at[&v];
        let used = both.map(|(n, end)| {
            let edges = &self.graph.runs[self.spines[n].wanted.run as usize].edges;
            if end == End::First { edges[0].0 } else { edges[edges.len() - 1].0 }
        });
        let mut between = at.iter().filter(|e| !used.contains(e));
        let level = match (between.next(), between.next()) {
            (Some(third), None) => {
                let heights = both.map(|end| self.height_along(*third, end, v));
                heights[0].zip(heights[1]).is_some_and(|(h, l)| (h / l - 1.0).abs() < LEVEL)
            }
            (None, _) => true,
            _ => false,
        };
        (alone && gentle && level).then_some(both)
    }

    /// How far a run reaches along an edge that ends where it does, beside one of its faces.
    fn height_along(&self, edge: u32, (n, end): (usize, End), v: u32) -> Option<f64> {
        let [a, b] = self.graph.edges[edge as usize].ends;
        let to = if a == v { b } else { a };
        let along = (self.graph.place(to) - self.graph.place(v)).normalize_or_zero();
        let beside = self.graph.beside((edge, true));
        let (place, station, _) = self.spines[n].at(end);
        let k = (0..2).find(|k| beside.contains(&place.faces[*k]))?;
        let way = station.feet[k] - station.at;
        Some(way.length_squared() / way.dot(along).max(1e-9))
    }

    /// Whether one of two runs that meet where one edge of the other sense ends reaches farther along that than the other.
    pub(super) fn is_higher(&self, one: (usize, End), other: (usize, End), v: u32) -> bool {
        let at = &self.graph.at[&v];
        let odd = |e: &&u32| self.graph.edges[**e as usize].convex != self.spines[one.0].convex;
        let (3, Some(third)) = (at.len(), at.iter().find(odd)) else { return false };
        let height = |end| self.height_along(*third, end, v);
        height(one).zip(height(other)).is_some_and(|(h, l)| h > l * (1.0 + 1e-9))
    }

    /// Whether what lies beside an edge goes on beyond its end: material of a convex one, space of a concave one.
    pub(super) fn goes_on(&self, n: usize, end: End, v: u32, (inside, precise): (&Inside<'_>, f64)) -> bool {
        let spine = &self.spines[n];
        let (place, own, way) = spine.at(end);
        let used = &self.graph.runs[spine.wanted.run as usize].edges;
        let used = if end == End::First { used[0].0 } else { used[used.len() - 1].0 };
        let others: Vec<u32> = self.graph.at[&v].iter().copied().filter(|e| *e != used).collect();
        if let ([a, b], None) = (&others[..], spine.second) {
            let (a, b) = (*a, *b);
            // With one other face there, that face either lies across what goes, or it is on the far side of it.
            let across = |e: u32| {
                let [p, q] = self.graph.edges[e as usize].ends;
                let to = if p == v { q } else { p };
                let k = usize::from(!self.graph.beside((e, true)).contains(&place.faces[0]));
                (self.graph.place(to) - place.at).dot(own.feet[k] - place.at) > 0.0
            };
            let same = |e: u32| self.graph.edges[e as usize].convex == spine.convex;
            return !(across(a) && across(b) && same(a) && same(b));
        }
        let shortest = self.graph.at[&v].iter().map(|e| {
            let [a, b] = self.graph.edges[*e as usize].ends;
            self.graph.place(a).distance(self.graph.place(b))
        });
        let step = shortest.fold(own.reach(), f64::min).max(precise * 1e3) * 0.01;
        let out = match place.over {
            Some(over) => self.graph.faces.probe(over.face, place.at).normal,
            None => place.faces.map(|f| self.graph.faces.probe(f, place.at).normal).into_iter().sum(),
        };
        let middle = out.normalize_or_zero() * if spine.convex { -1.0 } else { 1.0 };
        let p = place.at + (way + middle * 0.05) * step;
        inside.holds(p) == spine.convex
    }

    /// The next point along the border of a face after one, coming from another, with the face on the other side, if there is one.
    /// Where it branches there is none, unless `any` will do.
    fn along_face(&self, face: FaceId, from: u32, came: u32, any: bool) -> Option<(u32, Option<FaceId>)> {
        let sharp = self.graph.at.get(&from).into_iter().flatten().filter_map(|e| {
            let beside = self.graph.beside((*e, true));
            let [a, b] = self.graph.edges[*e as usize].ends;
            let to = if a == from { b } else { a };
            beside.contains(&face).then(|| (to, beside.into_iter().find(|f| *f != face)))
        });
        let open = self.graph.border.get(&from).into_iter().flatten();
        let open = open.filter(|(_, f)| *f == face).map(|(to, _)| (*to, None));
        let mut on = sharp.chain(open).filter(|(to, _)| *to != came);
        on.next().filter(|_| any || on.next().is_none())
    }

    /// The next point along the border of a face as it goes on straightest: that of the face, or of what closes the run there.
    fn along_either(
        &self,
        face: FaceId,
        closing: Option<FaceId>,
        from: u32,
        came: u32,
    ) -> Option<(u32, Option<FaceId>)> {
        let on = self.along_face(face, from, came, false);
        let beside = closing.and_then(|closing| self.along_face(closing, from, came, false));
        let before = self.graph.place(from) - self.graph.place(came);
        let turn = |to: u32| before.angle_between(self.graph.place(to) - self.graph.place(from));
        match (on, beside) {
            (Some(a), Some(b)) => Some(if turn(b.0) < turn(a.0) { b } else { a }),
            (a, b) => a.or(b),
        }
    }

    /// How far from the end of a run its strip has passed through each face, however its triangles stand off it, mm.
    pub(super) fn passed(&self, n: usize, end: End, rows: &[Row]) -> [f64; 2] {
        // Beyond the last section lies one more.
        let row = if end == End::First { rows.get(1) } else { rows.iter().rev().nth(1) };
        let (place, ..) = self.spines[n].at(end);
        let off = |p: Option<&u32>| p.map_or(0.0, |p| self.points[*p as usize].distance(place.at));
        row.map_or([0.0; 2], |row| [off(row.left.last()), off(row.right.first())])
    }

    /// A cap at the end of a run, along the edges on both sides of it; its face, and that of the body it goes on in.
    pub(super) fn cap(
        &mut self,
        (n, end, passed): (usize, End, [f64; 2]),
        v: u32,
        splits: &mut Splits,
    ) -> Option<(FaceId, Option<FaceId>)> {
        let spine = &self.spines[n];
        let (place, own, _) = spine.at(end);
        let edge_at = |run: u32, v: u32| {
            let edges = &self.graph.runs[run as usize].edges;
            if self.graph.ends(edges[0])[0] == v { edges[0] } else { edges[edges.len() - 1] }
        };
        let first = edge_at(spine.wanted.run, v);
        // Where the edge on each side ends: two ends where what lies between them vanishes.
        let mut at = [(v, first); 2];
        if let Some((second, ends)) = spine.second {
            let k = usize::from(self.graph.beside(first).contains(&place.faces[0]));
            let beside = ends[usize::from(end == End::Last)];
            at[k] = (beside, edge_at(second, beside));
        }
        // What the triangles may stand off the faces.
        let slack = spine.runs().map(|run| self.graph.sag(&self.graph.runs[run as usize])).fold(0.0, f64::max) * 2.0;
        let mut chains: [Vec<Point>; 2] = Default::default();
        let mut others: [Option<FaceId>; 2] = [None; 2];
        // Along each face as far as the cap has to go; and whether that is across the face, not along its border.
        let mut ways = [Point::ZERO; 2];
        let mut across = [false; 2];
        let here: Vec<u32> = self.graph.at[&v].iter().copied().filter(|e| *e != first.0).collect();
        // Where the edge just goes on the cap stands square to it.
        let goes_on = matches!(here[..], [only] if self.graph.run_of[only as usize] != spine.wanted.run
            && self.graph.edges[only as usize].convex == spine.convex && spine.second.is_none());
        for k in 0..2 {
            let face = place.faces[k];
            let (v, last) = at[k];
            let corner = self.graph.place(v);
            if goes_on {
                let foot = own.feet[k] - corner;
                ways[k] = foot.normalize_or_zero() * (foot.length() * 1.3 + slack).max(passed[k] * 1.1);
                across[k] = true;
                continue;
            }
            let side = self.along_border(face, (v, last), (own.feet[k], own.reach(), passed[k], slack), splits);
            (chains[k], others[k], ways[k], across[k]) = (side.chain, side.other, side.way, side.across);
        }
        // What closes it goes on through the face there, and so does the cap, in its plane, after the face where that bends.
        let plane = ways[0].cross(ways[1]).normalize_or_zero();
        for k in (0..2).filter(|k| across[*k]) {
            let face = place.faces[k];
            let back = ways[1 - k] * DIP + ways[1 - k].normalize_or_zero() * slack;
            let whole = ways[k] * 2.0 + ways[k].normalize_or_zero() * slack;
            let flat = matches!(self.graph.faces.surface(face), Some(Surface::Plane { .. }));
            let pieces = if flat { 1 } else { PIECES };
            for n in 1..=pieces {
                let share = n as f64 / pieces as f64;
                let straight = self.graph.place(at[k].0) + whole * share;
                chains[k].push(if flat { straight } else { self.onto((face, plane), straight) } - back * share);
            }
        }
        if chains.iter().any(Vec::is_empty) {
            return None;
        }
        if let Some(over) = place.over {
            chains[0].splice(0..0, self.along_end(over.face, at)?);
        }
        let face = self.face(n);
        let corner = self.put(self.graph.place(at[1].0));
        let [a, b] = chains.map(|c| {
            let points: Vec<u32> = c.into_iter().map(|p| self.put(p)).collect();
            [&[corner], &points[..]].concat()
        });
        self.zip(&a, &b, face);
        let same = others[0].filter(|f| others[1] == Some(*f));
        Some((face, same))
    }

    /// One side of a cap: from the end of a run, by its last edge, along the border of a face as far as the cap has to go there.
    fn along_border(
        &mut self,
        face: FaceId,
        (v, last): (u32, (u32, bool)),
        (foot, reach, passed, slack): (Point, f64, f64, f64),
        splits: &mut Splits,
    ) -> SideOfCap {
        let corner = self.graph.place(v);
        let mut side = SideOfCap::default();
        let into = (foot - corner).normalize_or_zero();
        let mut from = v;
        let mut used = if self.graph.ends(last)[0] == v { self.graph.ends(last)[1] } else { self.graph.ends(last)[0] };
        let (mut gone, mut needed) = (0.0, reach * 1.5);
        // Along the border of the face, from the end of the run on.
        while gone < needed {
            let next = match from == v {
                true => self.along_face(face, from, used, true),
                false => self.along_either(face, side.other, from, used),
            };
            let Some((to, beside)) = next else { break };
            let way = self.graph.place(to) - self.graph.place(from);
            if from == v {
                let slant = way.normalize_or_zero().dot(into);
                needed = (foot.distance(corner) * 1.3 + slack).max(passed * 1.1) / slant.abs().max(LEAST_SLANT);
                side.other = beside;
                side.way = way.normalize_or_zero() * slant.signum() * needed;
                if slant < 0.0 {
                    side.across = true;
                    break;
                }
            }
            let length = way.length();
            if gone + length > needed * 1.2 {
                let at = self.graph.place(from) + way * ((needed - gone) / length);
                splits.entry([from.min(to), from.max(to)]).or_default().push(at);
                side.chain.push(at);
                gone = needed;
            } else {
                side.chain.push(self.graph.place(to));
                gone += length;
            }
            (used, from) = (from, to);
        }
        side
    }
}

impl Builder<'_> {
    /// The place on a face next to one within a plane; that itself where the face is too far.
    fn onto(&self, (face, plane): (FaceId, Point), from: Point) -> Point {
        let mut at = from;
        for _ in 0..if plane == Point::ZERO { 0 } else { 8 } {
            let probe = self.graph.faces.probe(face, at);
            let up = probe.normal.reject_from(plane);
            if up.length_squared() < 0.1 {
                return from;
            }
            at -= up * (probe.off / up.length_squared());
        }
        at
    }

    /// The way along the border of a face that vanishes from where the edge on its right ends to where that on its left does.
    fn along_end(&self, face: FaceId, [(to, _), (from, last)]: [(u32, (u32, bool)); 2]) -> Option<Vec<Point>> {
        let ends = self.graph.ends(last);
        let mut came = if ends[0] == from { ends[1] } else { ends[0] };
        let mut at = from;
        let mut way = Vec::new();
        while at != to {
            let (next, _) = self.along_face(face, at, came, false).filter(|_| way.len() < self.graph.edges.len())?;
            way.push(self.graph.place(next));
            (came, at) = (at, next);
        }
        Some(way)
    }
}

/// Points that come onto edges, by the ends of these, the lower first.
pub(super) type Splits = BTreeMap<[u32; 2], Vec<Point>>;

/// A mesh with points on edges.
pub(super) fn divided(mesh: &Mesh, splits: Splits) -> Result<Mesh, MeshError> {
    let (mut points, mut triangles, mut faces) = mesh.clone().into_parts();
    let sides = |t: &[u32; 3]| [0, 1, 2].map(|k| [t[k].min(t[(k + 1) % 3]), t[k].max(t[(k + 1) % 3])]);
    // The triangles at any of these edges; what is divided once may be so again.
    let mut near: Vec<usize> =
        (0..triangles.len()).filter(|t| sides(&triangles[*t]).iter().any(|side| splits.contains_key(side))).collect();
    for ([a, b], mut on) in splits {
        let [from, to] = [a, b].map(|v| mesh.points()[v as usize]);
        on.sort_by(|p, q| p.distance_squared(from).total_cmp(&q.distance_squared(from)));
        on.retain(|p| *p != from && *p != to);
        on.dedup();
        let mut last = a;
        for at in on {
            let new = points.len() as u32;
            points.push(at);
            for n in 0..near.len() {
                let t = near[n];
                let corners = triangles[t];
                let Some(k) = (0..3).find(|k| sides(&corners)[*k] == [last.min(b), last.max(b)]) else { continue };
                triangles[t][(k + 1) % 3] = new;
                let mut rest = corners;
                rest[k] = new;
                near.push(triangles.len());
                triangles.push(rest);
                faces.push(faces[t]);
            }
            last = new;
        }
    }
    Mesh::new(points, triangles, faces)
}
