//! Chambers: the spaces nothing gets out of.
//!
//! Cells are told apart along the walls they share, so a body that floats in a cell of another has an outside of its own.
//! A ray from each such body tells which cell that outside is part of; cells that are one space make up a chamber together.

use std::ops::ControlFlow;

use rayon::prelude::*;

use super::{ArrangeError, Arrangement, Body};
use crate::inside::{Crossing, WAYS, crossing};
use crate::predicates::{Side, side_of_plane};
use crate::{Aabb, Bvh, Cancelled, Point, Progress, UnionFind};

/// A space that nothing gets out of.
#[derive(Clone, Debug, PartialEq)]
pub struct Chamber {
    /// Its volume, mm³, without what floats in it.
    pub volume: f64,
    /// A place inside it, well away from its walls, mm; none where that was not looked for, or the chamber has no depth.
    pub inside: Option<Point>,
    /// The cells it is made of.
    cells: Vec<u32>,
}

/// All chambers of an arrangement, the largest first.
#[derive(Debug)]
pub struct Chambers<'a> {
    all: &'a Arrangement,
    bvh: Bvh,
    /// For each cell its chamber; none for what is outside.
    chamber_of: Vec<Option<u32>>,
    chambers: Vec<Chamber>,
}

/// A wall on a ray: how far along, the wall, the cell on the side the ray comes from.
type Hit = (f64, u32, u32);

impl Arrangement {
    /// All chambers. A place inside is looked for in those of at least some volume, mm³.
    ///
    /// # Errors
    /// [`Cancelled`].
    pub fn chambers(&self, least: f64, progress: &Progress) -> Result<Chambers<'_>, Cancelled> {
        let bvh = Bvh::new(self.walls.iter().map(|w| Aabb::of(w.corners.map(|c| self.points[c as usize]))).collect());
        progress.check()?;
        let count = self.volume.len();
        let mut spaces = UnionFind::new(count + 1);
        let outside = count as u32;
        for (cell, around) in self.around_bodies(&bvh, progress)? {
            spaces.union(cell, around.unwrap_or(outside));
        }
        let (space_of, spaces) = spaces.number_sets();
        let mut chambers: Vec<Chamber> = vec![Chamber { volume: 0.0, inside: None, cells: vec![] }; spaces];
        for (cell, volume) in self.volume.iter().enumerate() {
            let chamber = &mut chambers[space_of[cell] as usize];
            chamber.volume += volume;
            chamber.cells.push(cell as u32);
        }
        chambers.swap_remove(space_of[count] as usize);
        chambers.sort_by(|a, b| b.volume.total_cmp(&a.volume));
        let mut chamber_of = vec![None; count];
        for (n, c) in chambers.iter().enumerate() {
            c.cells.iter().for_each(|cell| chamber_of[*cell as usize] = Some(n as u32));
        }
        let mut found = Chambers { all: self, bvh, chamber_of, chambers };
        found.look_inside(least, progress)?;
        Ok(found)
    }

    /// For each connected body the cell round it, and the cell of another body that is part of; none when there is nothing
    /// round it.
    fn around_bodies(&self, bvh: &Bvh, progress: &Progress) -> Result<Vec<(u32, Option<u32>)>, Cancelled> {
        /// Rays are tried from so many walls.
        const STARTS: usize = 4;
        let mut bodies = UnionFind::new(self.volume.len());
        self.beside.iter().for_each(|[front, back]| {
            bodies.union(*front, *back);
        });
        let (body_of, count) = bodies.number_sets();
        let mut walls: Vec<Vec<u32>> = vec![vec![]; count];
        for (n, [front, _]) in self.beside.iter().enumerate() {
            walls[body_of[*front as usize] as usize].push(n as u32);
        }
        // Walls of a body face into cells of it with what they enclose; only round it that is not above nothing.
        let mut round: Vec<Option<u32>> = vec![None; count];
        for (cell, volume) in self.volume.iter().enumerate() {
            let least = &mut round[body_of[cell] as usize];
            if least.is_none_or(|other| *volume < self.volume[other as usize]) {
                *least = Some(cell as u32);
            }
        }
        let mut found = Vec::with_capacity(count);
        for (body, round) in round.into_iter().enumerate() {
            progress.check()?;
            let Some(round) = round else { continue };
            if count == 1 {
                return Ok(vec![(round, None)]);
            }
            let widest = self.widest::<STARTS>(&walls[body]);
            let starts = widest.into_iter().flat_map(|w| WAYS.iter().map(move |way| (w, *way)));
            let seen = starts.filter_map(|(wall, way)| self.hits(bvh, wall, way)).next().unwrap_or_default();
            // What the ray meets after it has left the body for good.
            let is_own = |hit: &Hit| body_of[self.beside[hit.1 as usize][0] as usize] as usize == body;
            let left = seen.iter().rposition(is_own).map_or(0, |last| last + 1);
            found.push((round, seen.get(left).map(|hit| hit.2)));
        }
        Ok(found)
    }

    /// The `N` largest of some walls, the largest first.
    fn widest<const N: usize>(&self, walls: &[u32]) -> Vec<u32> {
        let mut widest: Vec<(f64, u32)> = Vec::with_capacity(N + 1);
        for w in walls {
            let [a, b, c] = self.wall(*w);
            let area = (b - a).cross(c - a).length_squared();
            if widest.len() == N && widest[N - 1].0 >= area {
                continue;
            }
            widest.insert(widest.partition_point(|other| other.0 >= area), (area, *w));
            widest.truncate(N);
        }
        widest.into_iter().map(|(_, w)| w).collect()
    }

    /// All walls on a ray from the middle of a wall, in order, without the wall itself; none when it meets an edge.
    fn hits(&self, bvh: &Bvh, wall: u32, way: Point) -> Option<Vec<Hit>> {
        let from = self.wall(wall).iter().sum::<Point>() / 3.0;
        self.hits_from(bvh, from, way, Some(wall))
    }

    fn hits_from(&self, bvh: &Bvh, from: Point, way: Point, skip: Option<u32>) -> Option<Vec<Hit>> {
        let reach = (bvh.bounds().diagonal() + (from - bvh.bounds().centre()).length()) * 2.0 + 1e-9;
        self.hits_within(bvh, from, way, reach, skip)
    }

    /// The first wall on a ray from the middle of a wall of some size, looked for near by first.
    fn first_hit(&self, bvh: &Bvh, wall: u32, way: Point, size: f64) -> Option<Hit> {
        /// How much farther each look reaches.
        const FARTHER: f64 = 16.0;
        let from = self.wall(wall).iter().sum::<Point>() / 3.0;
        let most = bvh.bounds().diagonal() * 2.0;
        let mut reach = size.max(most * 1e-9);
        loop {
            let first = self.hits_within(bvh, from, way, reach.min(most), Some(wall))?.first().copied();
            if first.is_some() || reach >= most {
                return first;
            }
            reach *= FARTHER;
        }
    }

    fn hits_within(&self, bvh: &Bvh, from: Point, way: Point, reach: f64, skip: Option<u32>) -> Option<Vec<Hit>> {
        let to = from + way * reach;
        let mut hits = Vec::new();
        let clean = bvh.along_segment(from, to, |w| {
            if Some(w) == skip {
                return ControlFlow::Continue(());
            }
            let [a, b, c] = self.wall(w);
            match crossing([a, b, c], from, to) {
                Crossing::None => {}
                Crossing::Doubtful => return ControlFlow::Break(()),
                Crossing::Proper => {
                    let normal = (b - a).cross(c - a);
                    let side = usize::from(side_of_plane(a, b, c, from) == Side::Negative);
                    let along = normal.dot(a - from) / normal.dot(to - from);
                    hits.push((along * reach, w, self.beside[w as usize][side]));
                }
            }
            ControlFlow::Continue(())
        });
        hits.sort_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
        clean.is_continue().then_some(hits)
    }
}

impl Chambers<'_> {
    /// The chambers, the largest first.
    pub fn list(&self) -> &[Chamber] {
        &self.chambers
    }

    /// The chamber a point lies in.
    pub fn at(&self, p: Point) -> Option<usize> {
        let hits = WAYS.iter().find_map(|way| self.all.hits_from(&self.bvh, p, *way, None))?;
        self.chamber_of[hits.first()?.2 as usize].map(|n| n as usize)
    }

    /// The body of some chambers together.
    ///
    /// # Errors
    /// [`ArrangeError::Cancelled`].
    pub fn body(&self, chosen: &[usize], progress: &Progress) -> Result<Body, ArrangeError> {
        let mut belongs = vec![false; self.all.volume.len()];
        for n in chosen {
            self.chambers[*n].cells.iter().for_each(|cell| belongs[*cell as usize] = true);
        }
        self.all.body_of(&belongs, None, progress)
    }

    /// The chambers before and behind a wall; none for what is outside.
    pub(crate) fn of_wall(&self, wall: u32) -> [Option<usize>; 2] {
        self.all.beside[wall as usize].map(|cell| self.chamber_of[cell as usize].map(|n| n as usize))
    }

    /// How often each solid winds round a chamber.
    pub fn winding(&self, chamber: usize) -> &[i16] {
        let cell = self.chambers[chamber].cells[0] as usize;
        &self.all.winding[cell * self.all.solids..][..self.all.solids]
    }

    /// Changes a choice of chambers so that its body does not touch itself along edges: of the chambers round such an edge the
    /// least changes sides, `firm` ones only where others are far larger, and none of more than `most` volume, mm³. One that was
    /// taken in may be left out again later, and then stays out. For bodies whose least chambers may as well be there or not.
    pub fn without_pinches(&self, chosen: &mut [bool], firm: &[bool], most: f64) {
        const ROUNDS: usize = 60;
        /// A firm chamber counts for so many of its volume.
        const FIRM: f64 = 64.0;
        let of = |cell: u32| self.chamber_of[cell as usize].map(|n| n as usize);
        let mut left_out = vec![false; chosen.len()];
        for _ in 0..ROUNDS {
            let is_in = |chamber: Option<usize>| chamber.is_some_and(|n| chosen[n]);
            let mut sides: Vec<([u32; 2], u32)> = Vec::new();
            for (w, cells) in self.all.beside.iter().enumerate() {
                if is_in(of(cells[0])) != is_in(of(cells[1])) {
                    let [a, b, c] = self.all.walls[w].corners;
                    sides.extend([[a, b], [b, c], [c, a]].map(|[p, q]| ([p.min(q), p.max(q)], w as u32)));
                }
            }
            sides.par_sort_unstable();
            let mut turn: Vec<usize> = Vec::new();
            for round in sides.chunk_by(|a, b| a.0 == b.0).filter(|round| round.len() > 2) {
                let beside = round.iter().flat_map(|(_, w)| self.all.beside[*w as usize]).filter_map(of);
                let free = beside.filter(|n| !left_out[*n] && self.chambers[*n].volume <= most);
                let weight = |n: usize| self.chambers[n].volume * if firm[n] { FIRM } else { 1.0 };
                turn.extend(free.min_by(|a, b| weight(*a).total_cmp(&weight(*b))));
            }
            if turn.is_empty() {
                return;
            }
            turn.sort_unstable();
            turn.dedup();
            for n in turn {
                left_out[n] = chosen[n];
                chosen[n] = !chosen[n];
            }
        }
    }

    /// The chambers on both sides of each wall that an input made; the front first.
    pub fn beside(&self, input: usize) -> impl Iterator<Item = [Option<usize>; 2]> {
        let all = self.all;
        let of = move |wall: usize| all.origin[all.walls[wall].parent as usize].0 as usize == input;
        (0..all.walls.len())
            .filter(move |w| of(*w))
            .map(|w| all.beside[w].map(|cell| self.chamber_of[cell as usize].map(|n| n as usize)))
    }

    /// Finds a place inside each chamber: halfway across it from one of its wider walls, where it is deepest.
    fn look_inside(&mut self, least: f64, progress: &Progress) -> Result<(), Cancelled> {
        /// So many walls of each chamber are tried …
        const TRIED: usize = 8;
        /// … until it is so deep behind one, as a share of that one's size.
        const DEEP: f64 = 0.3;
        let mut widest: Vec<Vec<(f64, u32, usize)>> = vec![vec![]; self.chambers.len()];
        for (w, cells) in self.all.beside.iter().enumerate() {
            let [a, b, c] = self.all.wall(w as u32);
            let area = (b - a).cross(c - a).length();
            let at = cells.map(|cell| self.chamber_of[cell as usize]);
            for (side, chamber) in at.into_iter().enumerate().filter(|_| at[0] != at[1]) {
                let Some(held) = chamber.map(|n| &mut widest[n as usize]) else { continue };
                held.push((area, w as u32, side));
                if held.len() >= TRIED * 4 {
                    held.sort_by(|x, y| y.0.total_cmp(&x.0));
                    held.truncate(TRIED);
                }
            }
        }
        let deepest = |walls: &mut Vec<(f64, u32, usize)>| {
            walls.sort_by(|x, y| y.0.total_cmp(&x.0));
            let (mut deepest, mut inside) = (0.0, None);
            for &(area, wall, side) in walls.iter().take(TRIED) {
                let [a, b, c] = self.all.wall(wall);
                let normal = (b - a).cross(c - a).normalize_or_zero();
                let way = if side == 0 { normal } else { -normal };
                // Straight across, or a little askew where that meets an edge.
                let askew = WAYS.iter().map(|w| (way + *w * 1e-3).normalize_or_zero());
                let across = std::iter::once(way).chain(askew).find_map(|way| {
                    let first = self.all.first_hit(&self.bvh, wall, way, area.sqrt())?;
                    Some((first.0, (a + b + c) / 3.0 + way * (first.0 * 0.5)))
                });
                if let Some((depth, middle)) = across.filter(|(depth, _)| *depth > deepest) {
                    (deepest, inside) = (depth, Some(middle));
                    if depth > area.sqrt() * DEEP {
                        break;
                    }
                }
            }
            inside
        };
        let found: Vec<Option<Point>> = widest
            .par_iter_mut()
            .zip(&self.chambers)
            .map(|(walls, chamber)| {
                progress.check().map(|()| (chamber.volume >= least).then(|| deepest(walls)).flatten())
            })
            .collect::<Result<_, Cancelled>>()?;
        for (chamber, inside) in self.chambers.iter_mut().zip(found) {
            chamber.inside = inside;
        }
        Ok(())
    }
}
