//! Finds where triangles meet and cuts each of them there.

use std::collections::{HashMap, HashSet};

use rayon::prelude::*;

use super::cut::Cut;
use super::exact::{LARGEST, MAYBE_ONE, Plane, Spot, Whole, turn};
use super::grid::Grid;
use super::meet::{self, Knife, Meeting, Name};
use crate::{Aabb, Bvh, Cancelled, FaceId, Mesh, Point, Progress, UnionFind};

/// All triangles of all inputs, on the grid; those without area are left out.
pub(super) struct Soup {
    pub corners: Vec<Whole>,
    pub triangles: Vec<[u32; 3]>,
    pub planes: Vec<Plane>,
    /// The input of each triangle and its face there.
    pub origin: Vec<(u32, FaceId)>,
    /// The corner each point of the inputs became, one input after the other.
    pub names: Vec<u32>,
}

/// A piece of a triangle, over the points of [`Pieces`].
#[derive(Clone, Copy, Debug)]
pub(super) struct Piece {
    pub corners: [u32; 3],
    pub parent: u32,
    /// Whether its triangle meets others.
    pub met: bool,
}

/// The soup cut up.
pub(super) struct Pieces {
    pub spots: Vec<Spot>,
    /// First those of triangles that meet others, then whole triangles.
    pub pieces: Vec<Piece>,
    /// How many of the first kind there are.
    pub cut: usize,
    /// The hierarchy of the soup.
    pub bvh: Bvh,
}

impl Soup {
    pub fn new(inputs: &[&Mesh], grid: &Grid) -> Self {
        let all: Vec<Whole> = inputs.iter().flat_map(|m| m.points().iter().map(|p| grid.whole(*p))).collect();
        let mut order: Vec<u32> = (0..all.len() as u32).collect();
        order.par_sort_unstable_by_key(|&i| (all[i as usize], i));
        let mut corners: Vec<Whole> = Vec::new();
        let mut names = vec![0u32; all.len()];
        for &i in &order {
            if corners.last() != Some(&all[i as usize]) {
                corners.push(all[i as usize]);
            }
            names[i as usize] = corners.len() as u32 - 1;
        }
        let one = grid.named(&corners);
        names.par_iter_mut().for_each(|n| *n = one[*n as usize]);
        let (mut triangles, mut origin) = (Vec::new(), Vec::new());
        let mut first = 0;
        for (input, mesh) in inputs.iter().enumerate() {
            for (t, face) in mesh.triangles().iter().zip(mesh.face_of()) {
                triangles.push(t.map(|c| names[first + c as usize]));
                origin.push((input as u32, *face));
            }
            first += mesh.points().len();
        }
        let planes: Vec<Plane> = triangles
            .par_iter()
            .map(|t: &[u32; 3]| Plane::new(corners[t[0] as usize], corners[t[1] as usize], corners[t[2] as usize]))
            .collect();
        let flat: Vec<bool> = planes.iter().map(Plane::is_flat).collect();
        fn only<T: Copy>(from: Vec<T>, flat: &[bool]) -> Vec<T> {
            from.into_iter().zip(flat).filter(|(_, flat)| !**flat).map(|(x, _)| x).collect()
        }
        Self {
            triangles: only(triangles, &flat),
            planes: only(planes, &flat),
            origin: only(origin, &flat),
            corners,
            names,
        }
    }

    pub fn places(&self, t: u32) -> [Point; 3] {
        self.triangles[t as usize].map(|c| {
            let [x, y, z] = self.corners[c as usize];
            Point::new(x as f64, y as f64, z as f64)
        })
    }

    fn bvh(&self) -> Bvh {
        Bvh::new((0..self.triangles.len() as u32).into_par_iter().map(|t| Aabb::of(self.places(t))).collect())
    }
}

/// What is known about one triangle that meets others.
struct Host {
    triangle: u32,
    points: Vec<u32>,
    cuts: Vec<(u32, u32, Knife)>,
    coplanar: bool,
}

/// A stretch of a host with the points on it.
struct Stretch {
    ends: (u32, u32),
    on: Vec<u32>,
}

/// Cuts all triangles where they meet.
pub(super) fn cut_up(soup: &Soup, progress: &Progress) -> Result<Pieces, Cancelled> {
    progress.report(0.0, "looking for what meets")?;
    let view = meet::Soup { corners: &soup.corners, triangles: &soup.triangles, planes: &soup.planes };
    let bvh = soup.bvh();
    let pairs = bvh.overlapping_pairs(&progress.stage(0.0, 0.5), |a, b| view.meet(a, b).is_some())?;
    let meetings: Vec<Meeting> = pairs.par_iter().filter_map(|&(a, b)| view.meet(a, b)).collect();
    progress.report(0.5, "placing where they meet")?;

    let mut spots: Vec<Spot> = soup.corners.iter().map(|c| Spot::whole_at(*c)).collect();
    let mut names: Vec<Name> = meetings
        .par_iter()
        .flat_map_iter(|m| m.points.iter().flatten().copied())
        .filter(|n| !matches!(n, Name::Corner(_)))
        .collect();
    names.par_sort_unstable();
    names.dedup();
    let first = spots.len() as u32;
    spots.par_extend(names.par_iter().map(|n| placed(soup, *n)));
    let id = |n: Name| match n {
        Name::Corner(c) => c,
        other => first + names.binary_search(&other).unwrap_or(0) as u32,
    };
    let mut hosts = gather(&pairs, &meetings, &id);
    let mut used: Vec<u32> = hosts.iter().flat_map(|h| h.points.iter().copied()).collect();
    used.par_sort_unstable();
    used.dedup();
    let same = unify(&spots, &used);
    for h in &mut hosts {
        h.points.iter_mut().for_each(|p| *p = same.name(*p));
        h.points.sort_unstable();
        h.points.dedup();
        h.cuts.iter_mut().for_each(|c| (c.0, c.1) = (same.name(c.0.min(c.1)), same.name(c.0.max(c.1))));
        h.cuts.iter_mut().for_each(|c| (c.0, c.1) = (c.0.min(c.1), c.0.max(c.1)));
        h.cuts.retain(|c| c.0 != c.1);
        h.cuts.sort_unstable();
        h.cuts.dedup_by_key(|c| (c.0, c.1));
    }
    progress.report(0.6, "crossing the cuts")?;
    let split: Result<Vec<Crossed>, Cancelled> = hosts
        .par_iter()
        .map(|h| {
            progress.check()?;
            Ok(cross(soup, &spots, h))
        })
        .collect();
    let mut split = split?;
    let first_new = spots.len() as u32;
    for (stretches, found) in &mut split {
        for f in found.drain(..) {
            let id = spots.len() as u32;
            spots.push(f.spot);
            f.on.into_iter().for_each(|s| stretches[s].on.push(id));
        }
    }
    used.extend(first_new..spots.len() as u32);
    let same = unify(&spots, &used);
    progress.report(0.7, "cutting")?;
    let spots_ref = &spots;
    let cut: Result<Vec<Part>, Cancelled> = hosts
        .par_iter()
        .zip(&split)
        .map(|(h, (stretches, _))| {
            progress.check()?;
            Ok(cut_one(soup, spots_ref, h, stretches, &same))
        })
        .collect();
    let mut cut = cut?;
    alike(&hosts, &mut cut);
    let mut is_host = vec![false; soup.triangles.len()];
    let mut pieces = Vec::with_capacity(soup.triangles.len());
    for (h, (made, _)) in hosts.iter().zip(cut) {
        is_host[h.triangle as usize] = true;
        pieces.extend(made.into_iter().map(|corners| Piece { corners, parent: h.triangle, met: true }));
    }
    let cut = pieces.len();
    let whole = (0..soup.triangles.len() as u32).filter(|&t| !is_host[t as usize]);
    pieces.extend(whole.map(|t| Piece { corners: soup.triangles[t as usize], parent: t, met: false }));
    Ok(Pieces { spots, pieces, cut, bvh })
}

/// The pieces of a host and the stretches among their sides.
type Part = (Vec<[u32; 3]>, HashSet<(u32, u32)>);

/// The plane through an edge that stands along an axis.
fn upright(soup: &Soup, (a, b): (u32, u32), axis: usize) -> Plane {
    let (p, q) = (soup.corners[a as usize], soup.corners[b as usize]);
    let mut r = p;
    r[axis] += LARGEST as i64 / 2;
    Plane::new(p, q, r)
}

/// Where a named point lies.
fn placed(soup: &Soup, name: Name) -> Spot {
    let at = |c: u32| soup.corners[c as usize];
    match name {
        Name::Corner(c) => Spot::whole_at(at(c)),
        Name::Pierced((a, b), t) => Spot::on_line(at(a), at(b), &soup.planes[t as usize]),
        Name::Crossed((a, b), (c, d)) => {
            // The plane of both edges, seen along the axis in which it is largest.
            let (p, q, r, s) = (at(a), at(b), at(c), at(d));
            let end = [0, 1, 2].map(|k| p[k] + s[k] - r[k]);
            let axis = Plane::new(p, q, end).axis();
            Spot::on_line(p, q, &upright(soup, (c, d), axis))
        }
    }
}

/// What meets each triangle.
fn gather(pairs: &[(u32, u32)], meetings: &[Meeting], id: &(impl Fn(Name) -> u32 + Sync)) -> Vec<Host> {
    let mut of: Vec<(u32, u32, u8)> =
        pairs.iter().enumerate().flat_map(|(n, &(a, b))| [(a, n as u32, 0), (b, n as u32, 1)]).collect();
    of.par_sort_unstable();
    let runs: Vec<&[(u32, u32, u8)]> = of.chunk_by(|x, y| x.0 == y.0).collect();
    runs.into_par_iter()
        .map(|run| {
            let mut host = Host { triangle: run[0].0, points: vec![], cuts: vec![], coplanar: false };
            for &(_, n, side) in run {
                let m = &meetings[n as usize];
                host.coplanar |= m.coplanar;
                host.points.extend(m.points[side as usize].iter().map(|p| id(*p)));
                host.cuts.extend(m.cuts[side as usize].iter().map(|(a, b, k)| (id(*a), id(*b), *k)));
            }
            host
        })
        .collect()
}

/// Which points are one.
struct Same {
    of: HashMap<u32, u32>,
}

impl Same {
    fn name(&self, p: u32) -> u32 {
        self.of.get(&p).copied().unwrap_or(p)
    }
}

/// Finds points that are one among some; the lowest number names them.
fn unify(spots: &[Spot], ids: &[u32]) -> Same {
    let cell = |p: Point| (p.floor()).to_array().map(|x| x as i64);
    let mut cells: HashMap<[i64; 3], Vec<u32>> = HashMap::with_capacity(ids.len());
    let mut sets = UnionFind::new(ids.len());
    let mut joined = false;
    for (n, &i) in ids.iter().enumerate() {
        let p = spots[i as usize].near;
        let slack = Point::splat(MAYBE_ONE);
        let (low, high) = (cell(p - slack), cell(p + slack));
        for x in low[0]..=high[0] {
            for y in low[1]..=high[1] {
                for z in low[2]..=high[2] {
                    for &m in cells.get(&[x, y, z]).into_iter().flatten() {
                        if spots[i as usize].is(&spots[ids[m as usize] as usize]) {
                            sets.union(n as u32, m);
                            joined = true;
                        }
                    }
                }
            }
        }
        cells.entry(cell(p)).or_default().push(n as u32);
    }
    let mut of = HashMap::new();
    if joined {
        let mut lowest: HashMap<u32, u32> = HashMap::new();
        for (n, &i) in ids.iter().enumerate() {
            let least = lowest.entry(sets.find(n as u32)).or_insert(i);
            *least = (*least).min(i);
        }
        for (n, &i) in ids.iter().enumerate() {
            let name = lowest[&sets.find(n as u32)];
            if name != i {
                of.insert(i, name);
            }
        }
    }
    Same { of }
}

/// A point where two stretches of a host cross.
struct Found {
    spot: Spot,
    on: [usize; 2],
}

/// The stretches of a host with the points on them, and the points where they cross.
type Crossed = (Vec<Stretch>, Vec<Found>);

fn cross(soup: &Soup, spots: &[Spot], host: &Host) -> Crossed {
    /// So many things are compared each with each.
    const FEW: usize = 24;
    let plane = &soup.planes[host.triangle as usize];
    let axis = plane.axis();
    let spot = |i: u32| &spots[i as usize];
    let mut stretches: Vec<Stretch> = host.cuts.iter().map(|c| Stretch { ends: (c.0, c.1), on: vec![] }).collect();
    let mut found = Vec::new();
    let count = stretches.len();
    let mut look = |i: usize, j: usize| {
        // Stretches come first, then points.
        if i >= count {
            return;
        }
        let (a, b) = stretches[i].ends;
        if j >= count {
            let p = host.points[j - count];
            if p != a && p != b && lies_between(axis, spot(a), spot(b), spot(p)) {
                stretches[i].on.push(p);
            }
            return;
        }
        let (c, d) = stretches[j].ends;
        if a == c || a == d || b == c || b == d {
            return;
        }
        let (tc, td) = (turn(axis, spot(a), spot(b), spot(c)), turn(axis, spot(a), spot(b), spot(d)));
        if tc * td >= 0 {
            return;
        }
        if turn(axis, spot(c), spot(d), spot(a)) * turn(axis, spot(c), spot(d), spot(b)) < 0 {
            let knife = |k: Knife| match k {
                Knife::Triangle(t) => soup.planes[t as usize],
                Knife::Edge(p, q) => upright(soup, (p, q), axis),
            };
            let (k, l) = (knife(host.cuts[i].2), knife(host.cuts[j].2));
            found.push(Found { spot: Spot::of_planes(plane, &k, &l), on: [i, j] });
        }
    };
    let total = count + host.points.len();
    if total <= FEW {
        for i in 0..count {
            (i + 1..total).for_each(|j| look(i, j));
        }
    } else {
        let slack = 2.0 * MAYBE_ONE;
        let boxes = (host.cuts.iter().map(|c| Aabb::of([spot(c.0).near, spot(c.1).near])))
            .chain(host.points.iter().map(|p| Aabb::of([spot(*p).near])))
            .map(|b| b.grown(slack))
            .collect();
        let overlapping = Bvh::new(boxes).overlapping_pairs(&Progress::unwatched(), |i, _| (i as usize) < count);
        for (i, j) in overlapping.unwrap_or_default() {
            look(i as usize, j as usize);
        }
    }
    (stretches, found)
}

/// Whether a point lies on the line between two others, seen along an axis, and not beyond them.
fn lies_between(axis: usize, a: &Spot, b: &Spot, p: &Spot) -> bool {
    let (low, high) = (a.near.min(b.near) - Point::splat(MAYBE_ONE), a.near.max(b.near) + Point::splat(MAYBE_ONE));
    if p.near.cmplt(low).any() || p.near.cmpgt(high).any() || turn(axis, a, b, p) != 0 {
        return false;
    }
    [(axis + 1) % 3, (axis + 2) % 3].into_iter().all(|u| {
        let (first, second) = (p.compare(a, u), p.compare(b, u));
        first.is_eq() || second.is_eq() || first != second
    })
}

fn cut_one(soup: &Soup, spots: &[Spot], host: &Host, stretches: &[Stretch], same: &Same) -> Part {
    let plane = &soup.planes[host.triangle as usize];
    let axis = plane.axis();
    let corners = soup.triangles[host.triangle as usize];
    let mut points: Vec<u32> = host.points.iter().map(|p| same.name(*p)).collect();
    let mut sides = Vec::new();
    for s in stretches {
        let (a, b) = (same.name(s.ends.0), same.name(s.ends.1));
        let mut chain: Vec<u32> = s.on.iter().map(|p| same.name(*p)).collect();
        points.extend(&chain);
        chain.extend([a, b]);
        let along = spots[b as usize].near - spots[a as usize].near;
        let way = (0..3).max_by(|&i, &j| along[i].abs().total_cmp(&along[j].abs())).unwrap_or(0);
        chain.sort_by(|&p, &q| {
            if p == q { std::cmp::Ordering::Equal } else { spots[p as usize].compare(&spots[q as usize], way) }
        });
        chain.dedup();
        sides.extend(chain.windows(2).map(|w| (w[0].min(w[1]), w[0].max(w[1]))));
    }
    points.sort_unstable();
    points.dedup();
    sides.sort_unstable();
    sides.dedup();
    Cut::of(spots, corners, axis, plane.normal[axis] < 0, &points, &sides)
}

/// Makes hosts that lie on each other be cut into the same pieces where they do: areas inside the same sides are cut as the
/// first of them was.
fn alike(hosts: &[Host], cut: &mut [Part]) {
    let mut known: HashMap<Vec<(u32, u32)>, Vec<[u32; 3]>> = HashMap::new();
    for (_, (pieces, fixed)) in hosts.iter().zip(cut).filter(|(h, _)| h.coplanar) {
        let mut side_of: HashMap<(u32, u32), Vec<u32>> = HashMap::new();
        for (n, t) in pieces.iter().enumerate() {
            for k in 0..3 {
                let (a, b) = (t[k], t[(k + 1) % 3]);
                side_of.entry((a.min(b), a.max(b))).or_default().push(n as u32);
            }
        }
        let mut sets = UnionFind::new(pieces.len());
        for (side, at) in &side_of {
            if let &[a, b] = &at[..]
                && !fixed.contains(side)
            {
                sets.union(a, b);
            }
        }
        let (area_of, areas) = sets.number_sets();
        let mut area: Vec<Vec<[u32; 3]>> = vec![Vec::new(); areas];
        for (t, &a) in pieces.iter().zip(&area_of) {
            area[a as usize].push(*t);
        }
        pieces.clear();
        for mut own in area {
            // The border, each side in its direction, and stretches inside it.
            let mut border: Vec<(u32, u32)> = Vec::new();
            let all: HashSet<(u32, u32)> = own.iter().flat_map(|t| (0..3).map(|k| (t[k], t[(k + 1) % 3]))).collect();
            for &(a, b) in &all {
                if !all.contains(&(b, a)) || fixed.contains(&(a.min(b), a.max(b))) {
                    border.push((a, b));
                }
            }
            let mut points: Vec<(u32, u32)> = own.iter().flatten().map(|p| (*p, *p)).collect();
            points.sort_unstable();
            points.dedup();
            let mut key: Vec<(u32, u32)> = border.iter().map(|&(a, b)| (a.min(b), a.max(b))).collect();
            key.extend(points);
            key.sort_unstable();
            let direction = border.iter().filter(|(a, b)| !all.contains(&(*b, *a))).min().copied();
            match known.get(&key) {
                Some(first) => {
                    let has = |t: &[u32; 3]| (0..3).any(|k| Some((t[k], t[(k + 1) % 3])) == direction);
                    let agrees = first.iter().any(has);
                    own = first.iter().map(|&[a, b, c]| if agrees { [a, b, c] } else { [a, c, b] }).collect();
                }
                None => {
                    known.insert(key, own.clone());
                }
            }
            pieces.append(&mut own);
        }
    }
}
