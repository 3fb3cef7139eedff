//! A sheet in the pieces into which others cut it.

use rustc_hash::FxHashSet;

use super::{Arrangement, THIN, pieces::Piece};
use crate::crossings::crossing_any;
use crate::slender::without_thin;
use crate::{Cancelled, Mesh, MeshError, Point, Progress, Topology, UnionFind};

/// A sheet cut where others meet it.
#[derive(Clone, Debug)]
pub struct Parted {
    /// The sheet, with its faces; cuts run along edges.
    pub mesh: Mesh,
    /// The piece of each of its triangles.
    pub piece_of: Vec<u32>,
    /// How many pieces there are.
    pub pieces: usize,
    /// The edges along which it was cut.
    pub seams: Vec<[Point; 2]>,
}

impl Parted {
    /// Places inside the sheet at which a cut ends: there it parts nothing.
    pub fn loose_ends(&self) -> Vec<Point> {
        let topology = Topology::new(self.mesh.triangles(), self.mesh.points().len());
        let ends = |half: u32| topology.ends(half);
        let border: FxHashSet<[u64; 3]> = topology
            .naked_halves()
            .into_iter()
            .flat_map(|half| [ends(half).0, ends(half).1])
            .map(|p| super::bits(self.mesh.points()[p as usize]))
            .collect();
        let mut ends: Vec<([u64; 3], Point)> =
            self.seams.iter().flatten().map(|p| (super::bits(*p), *p)).filter(|(b, _)| !border.contains(b)).collect();
        ends.sort_by_key(|(b, _)| *b);
        ends.chunk_by(|a, b| a.0 == b.0).filter(|same| same.len() == 1).map(|same| same[0].1).collect()
    }
}

impl Arrangement {
    /// An input in the pieces into which the others cut it; where it lies on one of them it is not cut.
    ///
    /// # Errors
    /// [`MeshError`] is a fault of the program.
    pub fn parted(&self, input: u32) -> Result<Parted, MeshError> {
        let own: Vec<&Piece> = self.walls.iter().filter(|w| self.origin[w.parent as usize].0 == input).collect();
        let sides = |w: &Piece| {
            let [a, b, c] = w.corners;
            [(a, b), (b, c), (c, a)].map(|(a, b)| (a.min(b), a.max(b)))
        };
        let others = self.walls.iter().filter(|w| self.origin[w.parent as usize].0 != input);
        let cuts: FxHashSet<(u32, u32)> = others.flat_map(sides).collect();
        let mut along: Vec<((u32, u32), u32)> =
            own.iter().enumerate().flat_map(|(n, w)| sides(w).map(|side| (side, n as u32))).collect();
        along.sort_unstable();
        let mut sets = UnionFind::new(own.len());
        let mut seams = Vec::new();
        for same in along.chunk_by(|a, b| a.0 == b.0).filter(|same| same.len() > 1) {
            if cuts.contains(&same[0].0) {
                let (a, b) = same[0].0;
                seams.push([self.points[a as usize], self.points[b as usize]]);
            } else {
                same.windows(2).for_each(|w| sets.union(w[0].1, w[1].1));
            }
        }
        let (piece_of, pieces) = sets.number_sets();
        let triangles = own.iter().map(|w| w.corners).collect();
        let faces = own.iter().map(|w| self.origin[w.parent as usize].1).collect();
        let mesh = Mesh::new(self.points.clone(), triangles, faces)?.retain_triangles(|_| true);
        Ok(Parted { mesh, piece_of, pieces, seams })
    }

    /// Pieces of a sheet without the splinters that cutting left of it, where it does not come to cross itself by that.
    ///
    /// # Errors
    /// [`Cancelled`].
    pub fn without_splinters(&self, sheet: Mesh, progress: &Progress) -> Result<Mesh, Cancelled> {
        let tidy = without_thin(sheet.clone(), self.step * THIN);
        if tidy.triangles().len() == sheet.triangles().len() {
            return Ok(sheet);
        }
        let all: Vec<u32> = (0..tidy.triangles().len() as u32).collect();
        Ok(if crossing_any(&tidy, &all, progress)?.is_empty() { tidy } else { sheet })
    }
}
