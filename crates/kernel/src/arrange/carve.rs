//! The spaces beside edges of a solid, parted from the rest by sheets: taken away, or filled.

use std::collections::{BTreeMap, BTreeSet};

use rustc_hash::{FxHashMap, FxHashSet};

use super::{ArrangeError, Arrangement, Body};
use crate::segments::nearest_on_segment;
use crate::{Aabb, Bvh, FaceId, Point, Progress, UnionFind};

/// On which side of the surface a space is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Side {
    /// Before it, where there is no material.
    Before,
    /// Behind it, in the material.
    Behind,
}

/// An edge of a solid, and what is meant beside it.
#[derive(Clone, Copy, Debug)]
pub struct EdgeSide {
    /// Its ends, mm.
    pub ends: [Point; 2],
    /// On which side of the surface.
    pub side: Side,
    /// The edges it belongs together with.
    pub group: u32,
}

/// The space beside the edges of a group.
#[derive(Clone, Debug, Default)]
pub struct Wedge {
    /// The group.
    pub group: u32,
    /// The cells it is made of.
    pub cells: Vec<u32>,
    /// Whether its side of the surface is the one that was asked for: material, or none.
    pub fits: bool,
    /// The places of its corners, mm.
    pub corners: Vec<Point>,
    /// For each face of a sheet that should bound it, how much of it does.
    pub bounds: BTreeMap<u32, Bound>,
}

/// What a face of a sheet is to the space of a group.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Role {
    /// The space goes on beyond it.
    Passed,
    /// It has the space on the same side as all others that bound it.
    Bounds,
    /// It closes the space, on whichever side.
    Closes,
}

/// How a face of a sheet bounds a space.
#[derive(Clone, Copy, Debug, Default)]
pub struct Bound {
    /// The area that parts the space from the rest, mm².
    pub parts: f64,
    /// The area that has the space on both sides, mm².
    pub hangs: f64,
    /// A place where it has.
    pub at: Point,
}

/// What lies across a wall of a sheet from a cell.
#[derive(Clone, Copy)]
struct Across {
    /// The cell there.
    cell: u32,
    face: FaceId,
    wall: u32,
    /// Whether the cell it is seen from is before the wall.
    before: bool,
}

impl Arrangement {
    /// The spaces at some edges of the first solid, on the given side of its surface. `role` says for a group what a face of a sheet is
    /// to its space.
    pub fn wedges(&self, edges: &[EdgeSide], role: &dyn Fn(u32, FaceId) -> Role) -> Vec<Wedge> {
        let passes = |group: u32, face: FaceId| role(group, face) == Role::Passed;
        let mut begins: BTreeMap<u32, BTreeSet<u32>> = BTreeMap::new();
        for (cell, edge) in self.cells_at(edges) {
            begins.entry(edges[edge as usize].group).or_default().insert(cell);
        }
        let sheet = |w: &usize| self.input_of(*w as u32) > 0;
        let mut beyond: FxHashMap<u32, Vec<Across>> = FxHashMap::default();
        for w in (0..self.wall_count()).filter(sheet) {
            let ([a, b], face) = (self.beside[w], self.origin[self.walls[w].parent as usize].1);
            if a != b {
                let wall = w as u32;
                beyond.entry(a).or_default().push(Across { cell: b, face, wall, before: true });
                beyond.entry(b).or_default().push(Across { cell: a, face, wall, before: false });
            }
        }
        let side = |group: u32| edges.iter().find(|e| e.group == group).map_or(Side::Behind, |e| e.side);
        let wedge = |(group, begin): (u32, BTreeSet<u32>)| {
            let mut held = begin.clone();
            let mut todo: Vec<u32> = begin.into_iter().collect();
            while let Some(cell) = todo.pop() {
                let next = beyond.get(&cell).into_iter().flatten().filter(|across| passes(group, across.face));
                todo.extend(next.map(|across| across.cell).filter(|cell| held.insert(*cell)));
            }
            self.with_pockets(&mut held, &beyond, &|face| role(group, face));
            let material = |cell: &u32| self.winding[*cell as usize * self.solids] > 0;
            let fits = held.iter().all(|cell| (side(group) == Side::Behind) == material(cell));
            let mut found = Wedge { group, fits, ..Wedge::default() };
            for (w, cells) in self.beside.iter().enumerate() {
                let [a, b] = cells.map(|cell| held.contains(&cell));
                if a != b {
                    found.corners.extend(self.wall(w as u32));
                }
                let face = self.origin[self.walls[w].parent as usize].1;
                if (a || b) && sheet(&w) && !passes(group, face) {
                    let bound = found.bounds.entry(face.0).or_default();
                    let [p, q, r] = self.wall(w as u32);
                    let area = (q - p).cross(r - p).length() * 0.5;
                    if cells[0] == cells[1] {
                        (bound.hangs, bound.at) = (bound.hangs + area, (p + q + r) / 3.0);
                    } else if a != b {
                        bound.parts += area;
                    }
                }
            }
            found.cells = held.into_iter().collect();
            found
        };
        begins.into_iter().map(wedge).collect()
    }

    /// Adds the cells beside others that are on the same side of some sheet as those and that no sheet parts from anything else:
    /// where sheets of a group go on through each other they may cut off what lies under one of them from its edge.
    fn with_pockets(
        &self,
        held: &mut BTreeSet<u32>,
        beyond: &FxHashMap<u32, Vec<Across>>,
        role: &dyn Fn(FaceId) -> Role,
    ) {
        let of = |cell: &u32| beyond.get(cell).into_iter().flatten().filter(|across| role(across.face) != Role::Passed);
        // The side of the sheets on which most of the space lies.
        let area = |across: &Across| {
            let [p, q, r] = self.wall(across.wall);
            (q - p).cross(r - p).length() * if across.before { 0.5 } else { -0.5 }
        };
        let bounds = |across: &Across| role(across.face) == Role::Bounds;
        let parting = |across: &&Across| bounds(across) && !held.contains(&across.cell);
        let before = held.iter().flat_map(of).filter(parting).map(area).sum::<f64>() > 0.0;
        let mut todo: BTreeSet<u32> = held.iter().flat_map(of).map(|across| across.cell).collect();
        while let Some(cell) = todo.pop_first() {
            if held.contains(&cell) {
                continue;
            }
            let mut under = false;
            let enclosed = of(&cell).all(|across| {
                let own = bounds(across) && across.before == before;
                under |= own && !held.contains(&across.cell);
                own || held.contains(&across.cell)
            });
            if enclosed && under {
                held.insert(cell);
                todo.extend(of(&cell).map(|across| across.cell));
            }
        }
    }

    /// The cells that lie at edges of the first solid, each with the edge.
    fn cells_at(&self, edges: &[EdgeSide]) -> Vec<(u32, u32)> {
        let near = self.step.max(self.one) * 4.0;
        let bvh = Bvh::new(edges.iter().map(|e| Aabb::of(e.ends)).collect());
        let off = |p: Point, e: u32| nearest_on_segment(p, edges[e as usize].ends[0], edges[e as usize].ends[1]).1;
        let mut at: Vec<(u32, u32)> = Vec::new();
        for w in (0..self.wall_count() as u32).filter(|w| self.input_of(*w) == 0) {
            let [a, b, c] = self.wall(w);
            for (p, q) in [(a, b), (b, c), (c, a)].into_iter().filter(|(p, q)| p.distance(*q) > near * 2.0) {
                let Some((edge, _)) = bvh.nearest(p.midpoint(q), near, |e| Some(off(p.midpoint(q), e))) else {
                    continue;
                };
                if off(p, edge).max(off(q, edge)) <= near * near {
                    let [before, behind] = self.beside[w as usize];
                    at.push((if edges[edge as usize].side == Side::Before { before } else { behind }, edge));
                }
            }
        }
        at
    }

    /// The cells that lie between some faces of the first solid and the sheets: for each connected piece of these faces those before it
    /// or those behind it, whichever are closed off and smaller. Else a place on such a piece.
    ///
    /// # Errors
    /// A place on faces that nothing closes off.
    pub fn enclosed(&self, faces: &BTreeSet<FaceId>) -> Result<FxHashSet<u32>, Point> {
        /// What is closed off is less than this share of the whole solid.
        const SHARE: f64 = 0.5;
        let own = |w: &usize| {
            let (input, face) = self.origin[self.walls[*w].parent as usize];
            input == 0 && faces.contains(&face)
        };
        let walls: Vec<usize> = (0..self.wall_count()).filter(own).collect();
        let mut sets = UnionFind::new(walls.len());
        let mut at: FxHashMap<(u32, u32), u32> = FxHashMap::default();
        for (n, w) in walls.iter().enumerate() {
            let [a, b, c] = self.walls[*w].corners;
            for (p, q) in [(a, b), (b, c), (c, a)] {
                sets.union(*at.entry((p.min(q), p.max(q))).or_insert(n as u32), n as u32);
            }
        }
        let whole: f64 = self.cells().filter(|c| c.winding[0] > 0).map(|c| c.volume).sum();
        let (set_of, count) = sets.number_sets();
        let mut chosen = FxHashSet::default();
        for set in 0..count as u32 {
            let own = || (0..walls.len()).filter(|n| set_of[*n] == set).map(|n| walls[n]);
            let sides = [0, 1].map(|k| own().map(|w| self.beside[w][k]).collect::<BTreeSet<u32>>());
            let size = |cells: &BTreeSet<u32>| {
                let volume = |cell: &u32| self.volume[*cell as usize];
                let outside = cells.iter().any(|c| volume(c) < 0.0);
                if outside { f64::INFINITY } else { cells.iter().map(volume).sum() }
            };
            let [before, behind] = [size(&sides[0]), size(&sides[1])];
            let less = usize::from(behind < before);
            if before.min(behind) >= whole * SHARE {
                let wall = own().next().unwrap_or(0);
                return Err(self.wall(wall as u32).iter().sum::<Point>() / 3.0);
            }
            chosen.extend(&sides[less]);
        }
        Ok(chosen)
    }

    /// The first solid, of which some cells go where they are material and come where they are none.
    ///
    /// # Errors
    /// [`ArrangeError::Cancelled`].
    pub fn carved(&self, cells: &FxHashSet<u32>, progress: &Progress) -> Result<Body, ArrangeError> {
        let (mut belongs, far) = self.belonging(|w| w[0] > 0);
        cells.iter().for_each(|cell| belongs[*cell as usize] = !belongs[*cell as usize]);
        self.body_of(&belongs, far, progress)
    }
}
