//! The spaces beside edges of a solid, parted from the rest by sheets: taken away, or filled.

use rustc_hash::FxHashSet;

use super::{ArrangeError, Arrangement, Body};
use crate::segments::nearest_on_segment;
use crate::{Aabb, Bvh, Point, Progress};

/// On which side of the surface a space is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Side {
    /// Before it, where there is no material.
    Before,
    /// Behind it, in the material.
    Behind,
}

/// A space beside some edges.
#[derive(Clone, Debug)]
pub struct Wedge {
    /// Its number among the cells.
    pub cell: u32,
    /// The edges it lies at, as they were given.
    pub edges: Vec<u32>,
    /// Whether its side of the surface is the one that was asked for: material, or none.
    pub fits: bool,
    /// The places of its corners, mm.
    pub corners: Vec<Point>,
    /// A place where a sheet ends in it, so that it has both sides of that.
    pub goes_round: Option<Point>,
}

impl Arrangement {
    /// The cells that lie at some edges of the first solid, on the given side of its surface.
    pub fn wedges(&self, edges: &[([Point; 2], Side)]) -> Vec<Wedge> {
        let near = self.step.max(self.one) * 4.0;
        let bvh = Bvh::new(edges.iter().map(|(ends, _)| Aabb::of(*ends)).collect());
        let off = |p: Point, e: u32| nearest_on_segment(p, edges[e as usize].0[0], edges[e as usize].0[1]).1;
        let mut at: Vec<(u32, u32)> = Vec::new();
        for w in (0..self.wall_count() as u32).filter(|w| self.input_of(*w) == 0) {
            let [a, b, c] = self.wall(w);
            for (p, q) in [(a, b), (b, c), (c, a)].into_iter().filter(|(p, q)| p.distance(*q) > near * 2.0) {
                let Some((edge, _)) = bvh.nearest(p.midpoint(q), near, |e| Some(off(p.midpoint(q), e))) else { continue };
                if off(p, edge).max(off(q, edge)) <= near * near {
                    let [before, behind] = self.beside[w as usize];
                    at.push((if edges[edge as usize].1 == Side::Before { before } else { behind }, edge));
                }
            }
        }
        at.sort_unstable();
        at.dedup();
        let mut wedges: Vec<Wedge> = at
            .chunk_by(|a, b| a.0 == b.0)
            .map(|same| {
                let material = self.winding[same[0].0 as usize * self.solids] > 0;
                let fits = same.iter().all(|(_, e)| (edges[*e as usize].1 == Side::Behind) == material);
                Wedge { cell: same[0].0, edges: same.iter().map(|(_, e)| *e).collect(), fits, corners: vec![], goes_round: None }
            })
            .collect();
        for (piece, cells) in self.walls.iter().zip(&self.beside) {
            let corners = piece.corners.map(|c| self.points[c as usize]);
            for cell in cells {
                let Ok(n) = wedges.binary_search_by_key(cell, |w| w.cell) else { continue };
                if cells[0] == cells[1] {
                    wedges[n].goes_round = Some(corners.iter().sum::<Point>() / 3.0);
                } else {
                    wedges[n].corners.extend(corners);
                }
            }
        }
        wedges
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
