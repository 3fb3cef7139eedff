//! The exact arrangement of triangles: all of them cut where they meet, and the space between them told apart.
//!
//! Inputs are rounded to a grid of 2^26 steps over their extent. From there on no decision is rounded: the points where edges
//! pierce triangles and where cuts cross are kept as quotients of integers ([`exact`]). Pairs that meet are found by a
//! hierarchy and told apart exactly ([`meet`]); each triangle is cut by what meets it ([`cut`]); pieces that lie on each other
//! become one; round each edge the pieces are put in order, which joins their sides to cells; each cell gets the number of
//! times every solid winds round it ([`cells`]; after Zhou, Grinspun, Zorin and Jacobson 2016, and Cherchi, Pellacini, Attene
//! and Livesu 2022). A body is then the pieces between the cells that belong to it and those that do not. Sheets may be open:
//! they wind round nothing but part cells all the same, so that what they enclose together is a chamber ([`chambers`]).
//!
//! Cost: O(n log n) for what does not meet; triangles that do are cut in time about linear in what crosses them.

mod carve;
mod cells;
mod chambers;
mod cut;
mod exact;
mod frame;
mod grid;
mod meet;
mod near;
mod parted;
mod pieces;
pub(crate) mod settle;
#[cfg(test)]
mod tests;
#[cfg(test)]
mod tests_chambers;
#[cfg(test)]
mod tests_near;

pub use carve::{Bound, EdgeSide, Role, Side, Wedge};
pub use chambers::{Chamber, Chambers};
use grid::Grid;
pub use parted::Parted;

use std::collections::HashSet;

use rayon::prelude::*;

use self::settle::{Settled, Settling, settled};
use crate::crossings::crossing_any;
use crate::simplify::without_points;
use crate::slender::{thin_triangles, without_slender, without_thin};
use crate::touching::touches_slim;
use crate::{Cancelled, FaceId, Mesh, MeshError, Point, Progress};

/// Triangles of less height over their longest side are taken out of a result: rounding its points can make some.
const LEAST_HEIGHT: f64 = 1e-9;

/// Triangles lower than so many steps of the grid, and with them all shorter sides, are taken out of a result, or one operation
/// after the other would leave ever finer splinters.
const THIN: f64 = 4.0;

/// Edges of less than so many times the precision of the inputs are no bodies that touch there.
const SHORT: f64 = 64.0;

/// Cutting leaves points inside flat faces; those whose removal moves nothing by more than so many steps of the grid go.
const LEVEL: f64 = 2.0;

/// Why there is no arrangement.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum ArrangeError {
    /// A solid is open.
    #[error("input {input} is open, so nothing can be said to be inside it")]
    Open {
        /// The input, counted from 0.
        input: usize,
        /// Where it is open, mm.
        at: Point,
    },
    /// Somebody asked to stop.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
    /// A fault of the program.
    #[error(transparent)]
    Mesh(#[from] MeshError),
}

/// Solids and sheets cut where they meet, with the cells of space between the pieces.
#[derive(Debug)]
pub struct Arrangement {
    points: Vec<Point>,
    /// Pieces; of those that lie on each other only the first.
    walls: Vec<pieces::Piece>,
    step: f64,
    /// What was nearer to each other in the inputs than this was one, mm.
    one: f64,
    /// For each triangle of the soup its input and its face there.
    origin: Vec<(u32, FaceId)>,
    /// The cell before and behind each wall.
    beside: Vec<[u32; 2]>,
    solids: usize,
    /// For each cell how often each solid winds round it.
    winding: Vec<i16>,
    /// For each cell the volume its walls enclose, mm³.
    volume: Vec<f64>,
    /// The first number of each input's faces in a body.
    begin: Vec<u32>,
    /// What of a sealed first solid was not arranged, since it lies away from the others.
    far: Option<near::Far>,
}

/// A connected space between pieces.
#[derive(Clone, Copy, Debug)]
pub struct Cell<'a> {
    /// How often each solid winds round it.
    pub winding: &'a [i16],
    /// The volume its walls enclose, mm³; below 0 for the space outside of a connected body. It says nothing where only the
    /// surroundings of some solids were arranged.
    pub volume: f64,
}

/// A body taken from an arrangement.
#[derive(Clone, Debug, PartialEq)]
pub struct Body {
    /// Its surface, facing outward. Faces of the first input keep their numbers; those of the others come after them, input by
    /// input, whether all of them are there or not: what else is cut away does not change a face's number.
    pub mesh: Mesh,
    /// The first number of each input's faces.
    pub begin: Vec<u32>,
}

impl Body {
    /// The input a face was cut from, and its number there.
    pub fn origin(&self, face: FaceId) -> (usize, FaceId) {
        let input = self.begin.partition_point(|first| *first <= face.0).saturating_sub(1);
        (input, FaceId(face.0 - self.begin[input]))
    }
}

impl Arrangement {
    /// Arranges solids, which are closed, and sheets, which need not be. They may cross each other and themselves. Inputs are
    /// counted from 0, the solids first.
    ///
    /// # Errors
    /// [`ArrangeError::Open`] names the first solid that is not closed.
    pub fn new(solids: &[&Mesh], sheets: &[&Mesh], progress: &Progress) -> Result<Self, ArrangeError> {
        let inputs = &[solids, sheets].concat()[..];
        Self::on(Grid::over(solids, sheets, &[]), inputs, solids.len(), progress)
    }

    fn on(grid: Grid, inputs: &[&Mesh], solids: usize, progress: &Progress) -> Result<Self, ArrangeError> {
        let soup = pieces::Soup::new(inputs, &grid);
        let cut = pieces::cut_up(&soup, &progress.stage(0.0, 0.7))?;
        progress.report(0.7, "telling inside from outside")?;
        let space = cells::Space::new(&soup, &cut, solids, None, &progress.stage(0.7, 1.0))?;
        let space = space.map_err(|unfit| match unfit {
            cells::Unfit::Open { input, at } => ArrangeError::Open { input, at: grid.place(at) },
            // There is no border where there is no patch.
            cells::Unfit::Border(_) => ArrangeError::Open { input: 0, at: grid.place(Point::ZERO) },
        })?;
        Ok(Self::from_parts(&grid, soup, cut, space, solids, begin(inputs)?))
    }

    fn from_parts(
        grid: &Grid,
        soup: pieces::Soup,
        cut: pieces::Pieces,
        space: cells::Space,
        solids: usize,
        begin: Vec<u32>,
    ) -> Self {
        Self {
            points: cut.spots.iter().map(|s| grid.place(s.near)).collect(),
            walls: space.walls,
            step: grid.step(),
            one: grid.one(),
            origin: soup.origin,
            beside: space.beside,
            solids,
            winding: space.winding,
            volume: space.volume.into_iter().map(|v| v * grid.step().powi(3)).collect(),
            begin,
            far: None,
        }
    }

    /// Places of its inputs nearer to each other than this, mm, may have been meant for one.
    pub fn precision(&self) -> f64 {
        self.one
    }

    /// All cells.
    pub fn cells(&self) -> impl Iterator<Item = Cell<'_>> {
        let winding = |cell: usize| &self.winding[cell * self.solids..][..self.solids];
        self.volume.iter().enumerate().map(move |(cell, volume)| Cell { winding: winding(cell), volume: *volume })
    }

    /// How many walls part the cells.
    pub(crate) fn wall_count(&self) -> usize {
        self.walls.len()
    }

    /// The corners of a wall, mm.
    pub(crate) fn wall(&self, wall: u32) -> [Point; 3] {
        self.walls[wall as usize].corners.map(|c| self.points[c as usize])
    }

    /// The first input that has a wall.
    pub(crate) fn input_of(&self, wall: u32) -> u32 {
        self.origin[self.walls[wall as usize].parent as usize].0
    }

    /// The pieces of an input for whose walls `keep` holds, with their faces.
    pub(crate) fn pieces_between(&self, input: u32, keep: impl Fn(u32) -> bool) -> Result<Mesh, MeshError> {
        let kept: Vec<u32> = (0..self.wall_count() as u32).filter(|w| self.input_of(*w) == input && keep(*w)).collect();
        let triangles = kept.iter().map(|w| self.walls[*w as usize].corners).collect();
        let faces = kept.iter().map(|w| self.origin[self.walls[*w as usize].parent as usize].1).collect();
        Ok(Mesh::new(self.points.clone(), triangles, faces)?.retain_triangles(|_| true))
    }

    /// The body of all space for which `inside` holds, given how often each solid winds round it.
    ///
    /// # Errors
    /// [`ArrangeError::Cancelled`].
    pub fn body(&self, inside: impl Fn(&[i16]) -> bool, progress: &Progress) -> Result<Body, ArrangeError> {
        let (belongs, far) = self.belonging(inside);
        self.body_of(&belongs, far, progress)
    }

    /// The same as it was cut, for what is arranged again: what the next arrangement would make one or would part is in it.
    ///
    /// # Errors
    /// [`ArrangeError::Cancelled`].
    pub fn body_as_cut(&self, inside: impl Fn(&[i16]) -> bool, progress: &Progress) -> Result<Body, ArrangeError> {
        let (belongs, far) = self.belonging(inside);
        Ok(self.cut_body(&belongs, far, progress)?.0)
    }

    /// A body taken as it was cut, settled as others are.
    ///
    /// # Errors
    /// [`ArrangeError::Cancelled`].
    pub fn settle(&self, body: Body, progress: &Progress) -> Result<Body, ArrangeError> {
        Ok(Body { mesh: self.at_rest(body.mesh, progress)?, ..body })
    }

    /// Which cells belong to a body, and what of the first solid does that is far from the others.
    fn belonging(&self, inside: impl Fn(&[i16]) -> bool) -> (Vec<bool>, Option<&near::Far>) {
        let belongs = self.cells().map(|c| inside(c.winding)).collect();
        // Far from the others only the first winds round anything.
        let mut winding = vec![0; self.solids];
        let outside = inside(&winding);
        winding.iter_mut().take(1).for_each(|w| *w = 1);
        (belongs, self.far.as_ref().filter(|_| inside(&winding) != outside))
    }

    /// The body of the cells that belong to it, and of what is far.
    fn body_of(&self, belongs: &[bool], far: Option<&near::Far>, progress: &Progress) -> Result<Body, ArrangeError> {
        let (body, is_tidy) = self.cut_body(belongs, far, progress)?;
        // What the next arrangement would make one, or would part, is settled now.
        let mesh = &body.mesh;
        let finer = || has_side_below(mesh, self.one) || touches_slim(mesh, self.one * SHORT);
        if is_tidy && !(self.one > self.step && finer()) { Ok(body) } else { self.settle(body, progress) }
    }

    /// The same as it was cut, and whether what cutting left of it could be tidied.
    fn cut_body(
        &self,
        belongs: &[bool],
        far: Option<&near::Far>,
        progress: &Progress,
    ) -> Result<(Body, bool), ArrangeError> {
        let mut triangles = Vec::new();
        let mut face_of = Vec::new();
        // Points that the cutting put there, or round which it made smaller triangles.
        let mut may_go = vec![false; self.points.len()];
        let mut used = vec![false; self.points.len()];
        for (piece, [front, back]) in self.walls.iter().zip(&self.beside) {
            let [a, b, c] = piece.corners;
            match (belongs[*front as usize], belongs[*back as usize]) {
                (false, true) => triangles.push([a, b, c]),
                (true, false) => triangles.push([a, c, b]),
                _ => continue,
            }
            for p in piece.corners {
                may_go[p as usize] |= piece.met;
                used[p as usize] = true;
            }
            let (input, face) = self.origin[piece.parent as usize];
            face_of.push(FaceId(self.begin[input as usize] + face.0));
        }
        let border = far.map_or(&[][..], |far| &far.border);
        border.iter().flat_map(|&(a, b)| [a, b]).for_each(|p| may_go[p as usize] = false);
        let whole = Mesh::new(self.points.clone(), triangles, face_of)?.retain_triangles(|_| true);
        let may_go: Vec<bool> = may_go.into_iter().zip(used).filter(|(_, used)| *used).map(|(may, _)| may).collect();
        // What the tidying may change has its corners among these.
        let mut near: HashSet<[u64; 3]> = whole
            .triangles()
            .iter()
            .filter(|t| t.iter().any(|p| may_go[*p as usize]))
            .flatten()
            .map(|p| bits(whole.points()[*p as usize]))
            .collect();
        let plain = without_points(&whole, self.step * LEVEL, &may_go, progress)?;
        let plain = without_slender(plain, LEAST_HEIGHT);
        let thin = thin_triangles(&plain, self.step * THIN);
        near.extend(thin.iter().flat_map(|t| plain.corners(*t as usize)).map(bits));
        // Sheets nearer to each other than the grid is fine may come through each other: then less is tidied, or nothing.
        let begin = self.begin.clone();
        let shed = (!thin.is_empty()).then(|| without_thin(plain.clone(), self.step * THIN));
        for tidy in shed.into_iter().chain([plain]) {
            let mesh = match far {
                Some(_) if !near::is_open_along(&tidy, &self.points, border) => continue,
                Some(far) => self.with_far(&tidy, far)?,
                None => tidy,
            };
            if stays_apart(&mesh, &near, progress)? {
                return Ok((Body { mesh, begin }, true));
            }
        }
        let mesh = match far {
            Some(far) => self.with_far(&whole, far)?,
            None => whole,
        };
        Ok((Body { mesh, begin }, false))
    }

    /// A body finer than the precision of its inputs, settled to that; as it is where that does not go.
    fn at_rest(&self, body: Mesh, progress: &Progress) -> Result<Mesh, ArrangeError> {
        /// Where the precision is too fine to settle to, so many times that will do.
        const COARSE: [f64; 3] = [1.0, 4.0, 16.0];
        if self.one <= self.step {
            return Ok(body);
        }
        for coarse in COARSE {
            let step = self.one * coarse;
            let hot = settle::Hot::of(&body, step);
            let how = Settling {
                step,
                levels: &[0.0, 1.0, 2.0, 4.0, 8.0],
                place: &|p: Point| hot.place(p),
                what: "taking out what is finer than the parts are exact",
            };
            if let Settled::Fit { mesh, .. } = settled(body.clone(), &how, progress)? {
                return Ok(mesh);
            }
        }
        Ok(body)
    }
}

/// The first number of each input's faces when they are numbered one input after the other.
fn begin(inputs: &[&Mesh]) -> Result<Vec<u32>, MeshError> {
    let mut next = 0u32;
    let mut first = |m: &&Mesh| {
        let first = next;
        next = next.checked_add(m.next_face().0).ok_or(MeshError::FaceNumber(u32::MAX))?;
        Ok(first)
    };
    inputs.iter().map(&mut first).collect()
}

fn bits(p: Point) -> [u64; 3] {
    p.to_array().map(f64::to_bits)
}

/// Whether a side is shorter than so much, mm.
fn has_side_below(mesh: &Mesh, length: f64) -> bool {
    let short = |a: Point, b: Point| a.distance_squared(b) < length * length;
    (0..mesh.triangles().len()).into_par_iter().any(|t| {
        let [a, b, c] = mesh.corners(t);
        short(a, b) || short(b, c) || short(c, a)
    })
}

/// Whether no triangle with a corner among some points crosses another. The others are as they were in the arrangement.
fn stays_apart(mesh: &Mesh, near: &HashSet<[u64; 3]>, progress: &Progress) -> Result<bool, Cancelled> {
    let is_near: Vec<bool> = mesh.points().par_iter().map(|p| near.contains(&bits(*p))).collect();
    let changed: Vec<u32> = (0..mesh.triangles().len() as u32)
        .into_par_iter()
        .filter(|t| mesh.triangles()[*t as usize].iter().any(|p| is_near[*p as usize]))
        .collect();
    Ok(crossing_any(mesh, &changed, progress)?.is_empty())
}
