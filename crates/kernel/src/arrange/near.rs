//! Arranging only what lies near: near some bodies with them, when the large part they meet is known to be sealed, or near
//! places where a closed part crosses itself.
//!
//! A sealed part winds once round what is inside of it and not at all round the rest, so its triangles away from the bodies are
//! kept or left as they are, and only the others are cut. The patch of those has a border where the far triangles go on: there
//! it is open, and its corners stay exactly where they were. Where the border is out of the ordinary (corners that the grid makes
//! one, edges that lie on each other) it is moved outward; if that does not help, the whole is arranged.

use std::collections::{HashMap, HashSet};
use std::ops::ControlFlow;
use std::sync::OnceLock;

use rayon::prelude::*;

use super::exact::Whole;
use super::grid::Grid;
use super::{ArrangeError, Arrangement, cells, pieces};
use crate::inside::{Crossing, crossing};
use crate::predicates::{Side, side_of_plane};
use crate::{Aabb, Bvh, Mesh, Point, Progress, Topology, shells};

/// What is near reaches so far round each shell of a body, against its diagonal: farther than any seed stands off its triangle.
const REACH: f64 = 0.25;

/// The triangles of a sealed part away from the bodies it is arranged with.
#[derive(Debug)]
pub(super) struct Far {
    pub mesh: Mesh,
    /// The sides at which the patch goes on in them, by number of their points in the arrangement, ascending.
    pub border: Vec<(u32, u32)>,
}

/// How the cells of a patch are told apart.
pub(super) struct Patch<'a> {
    /// The triangles of the part beyond the patch.
    far: &'a Mesh,
    /// The hierarchy over them, in steps of the grid.
    far_bvh: OnceLock<Bvh>,
    /// Whether the part is known to be sealed: each of its triangles tells then on which side of it is what.
    pub sealed: bool,
    grid: &'a Grid,
    /// The sides, lower end first, at which it is open; ascending.
    pub border: Vec<(u32, u32)>,
}

impl Patch<'_> {
    pub fn is_border(&self, side: (u32, u32)) -> bool {
        self.border.binary_search(&side).is_ok()
    }

    fn corners(&self, t: u32) -> [Point; 3] {
        self.far.corners(t as usize).map(|p| near(self.grid.whole(p)))
    }

    fn bvh(&self) -> &Bvh {
        let all = || (0..self.far.triangles().len() as u32).into_par_iter();
        self.far_bvh.get_or_init(|| Bvh::new(all().map(|t| Aabb::of(self.corners(t))).collect()))
    }

    /// Whether no triangle beyond the patch lies between two points given in steps of the grid.
    pub fn is_clear(&self, from: Point, to: Point) -> bool {
        let clear = self.bvh().along_segment(from, to, |t| match crossing(self.corners(t), from, to) {
            Crossing::None => ControlFlow::Continue(()),
            _ => ControlFlow::Break(()),
        });
        clear.is_continue()
    }

    /// How often what lies beyond the patch is left on the way from one point to another, given in steps of the grid; none where
    /// the way meets an edge or a corner.
    pub fn winding_along(&self, from: Point, to: Point) -> Option<i16> {
        let mut sum = 0;
        let clean = self.bvh().along_segment(from, to, |t| leaving(self.corners(t), from, to, |by| sum += by));
        clean.is_continue().then_some(sum)
    }
}

/// Tells whether the way from one point to another leaves a solid through a triangle, 1, or enters it, -1.
pub(super) fn leaving(corners: [Point; 3], from: Point, to: Point, mut tell: impl FnMut(i16)) -> ControlFlow<()> {
    match crossing(corners, from, to) {
        Crossing::None => {}
        Crossing::Doubtful => return ControlFlow::Break(()),
        Crossing::Proper => {
            let leaves = side_of_plane(corners[0], corners[1], corners[2], from) == Side::Negative;
            tell(if leaves { 1 } else { -1 });
        }
    }
    ControlFlow::Continue(())
}

impl Arrangement {
    /// As [`Arrangement::new`] for solids of which the first is known to be sealed: closed, facing outward, crossing nothing
    /// of itself. Only what of it lies near the others is cut.
    ///
    /// # Errors
    /// As [`Arrangement::new`].
    pub fn of_sealed(sealed: &Mesh, others: &[&Mesh], progress: &Progress) -> Result<Self, ArrangeError> {
        let boxes = others.iter().flat_map(|m| boxes_of(m)).collect();
        let grid = |inputs: &[&Mesh]| Grid::over(inputs, &[], &[sealed]);
        match around(Part { mesh: sealed, sealed: true }, (others, &[]), boxes, &grid, progress)? {
            Some(all) => Ok(all),
            None => Self::new(&[&[sealed], others].concat(), &[], progress),
        }
    }

    /// As [`Arrangement::new`] for one solid known to be sealed and a sheet that cuts it in a few places: only what of the solid
    /// lies near the sheet, or in some boxes where cells are asked for, is cut.
    ///
    /// # Errors
    /// As [`Arrangement::new`].
    pub fn of_sealed_cut(
        sealed: &Mesh,
        sheet: &Mesh,
        boxes: Vec<Aabb>,
        progress: &Progress,
    ) -> Result<Self, ArrangeError> {
        let mut boxes = boxes;
        boxes.extend((0..sheet.triangles().len()).map(|t| Aabb::of(sheet.corners(t))));
        // The patch and the sheet: of the sheet only that it cuts counts.
        let grid = |inputs: &[&Mesh]| Grid::over(&inputs[..1], &inputs[1..], &[sealed]);
        match around(Part { mesh: sealed, sealed: true }, (&[], &[sheet]), boxes, &grid, progress)? {
            Some(all) => Ok(all),
            None => Self::new(&[sealed], &[sheet], progress),
        }
    }

    /// As [`Arrangement::new`] of one solid, along the world's axes, where nothing is one but what the grid rounds to one point.
    /// It is known to cross itself in some places only: where that is told, only what is near is cut.
    ///
    /// # Errors
    /// As [`Arrangement::new`].
    pub(crate) fn as_it_lies(
        solid: &Mesh,
        places: Option<Vec<Aabb>>,
        progress: &Progress,
    ) -> Result<Self, ArrangeError> {
        let grid = |_: &[&Mesh]| Grid::plain(solid);
        let near = match places {
            Some(places) => around(Part { mesh: solid, sealed: false }, (&[], &[]), places, &grid, progress)?,
            None => None,
        };
        near.map_or_else(|| Self::on(Grid::plain(solid), &[solid], 1, progress), Ok)
    }

    /// Adds the far triangles to the near ones of a body. Border points are told by their places.
    pub(super) fn with_far(&self, near: &Mesh, far: &Far) -> Result<Mesh, ArrangeError> {
        let places: HashSet<[u64; 3]> =
            far.border.iter().flat_map(|&(a, b)| [a, b]).map(|p| bits(self.points[p as usize])).collect();
        let held: HashMap<[u64; 3], u32> = (near.points().iter().enumerate())
            .map(|(n, p)| (bits(*p), n as u32))
            .filter(|(p, _)| places.contains(p))
            .collect();
        let (mut points, mut triangles, mut faces) = near.clone().into_parts();
        let name: Vec<u32> = (far.mesh.points().iter())
            .map(|p| {
                held.get(&bits(*p)).copied().unwrap_or_else(|| {
                    points.push(*p);
                    points.len() as u32 - 1
                })
            })
            .collect();
        triangles.extend(far.mesh.triangles().iter().map(|t| t.map(|p| name[p as usize])));
        faces.extend(far.mesh.face_of());
        Ok(Mesh::new(points, triangles, faces)?)
    }
}

/// The part of which only what is near is arranged.
#[derive(Clone, Copy)]
struct Part<'a> {
    mesh: &'a Mesh,
    sealed: bool,
}

/// The arrangement of what is near some boxes with other solids and sheets, if that is less than half of the part and nothing is
/// out of the ordinary.
fn around(
    part: Part<'_>,
    (others, sheets): (&[&Mesh], &[&Mesh]),
    boxes: Vec<Aabb>,
    grid: &dyn Fn(&[&Mesh]) -> Grid,
    progress: &Progress,
) -> Result<Option<Arrangement>, ArrangeError> {
    /// The border is moved outward so often where it is out of the ordinary.
    const TRIES: usize = 6;
    let mesh = part.mesh;
    let boxes = Bvh::new(boxes.into_iter().map(|b| b.grown(b.diagonal() * REACH)).collect());
    let mut is_near: Vec<bool> = (0..mesh.triangles().len())
        .into_par_iter()
        .map(|t| boxes.overlapping(&Aabb::of(mesh.corners(t)), |_| ControlFlow::Break(())).is_break())
        .collect();
    progress.report(0.1, "setting aside what is far")?;
    for _ in 0..TRIES {
        if is_near.par_iter().filter(|near| **near).count() * 2 > is_near.len() {
            return Ok(None);
        }
        let patch = mesh.retain_triangles(|t| is_near[t]);
        let inputs = [&[&patch], others, sheets].concat();
        let grid = grid(&inputs);
        let soup = pieces::Soup::new(&inputs, &grid);
        let odd: Vec<Point> = match Border::of(&patch, &soup) {
            Ok(border) => {
                let far = mesh.retain_triangles(|t| !is_near[t]);
                match arranged((part, far), (others, sheets), (&grid, soup, border), progress)? {
                    Ok(all) => return Ok(Some(all)),
                    Err(odd) => odd,
                }
            }
            Err(odd) => odd,
        };
        let odd: HashSet<[u64; 3]> = odd.into_iter().map(bits).collect();
        let meets = |t: usize| mesh.corners(t).into_iter().any(|p| odd.contains(&bits(p)));
        is_near.par_iter_mut().enumerate().for_each(|(t, near)| *near = *near || meets(t));
        progress.check()?;
    }
    Ok(None)
}

/// Where a patch is open.
struct Border {
    /// Its sides, by number of their points in the arrangement, lower end first, ascending.
    sides: Vec<(u32, u32)>,
    /// Where its points stood.
    original: HashMap<u32, Point>,
}

impl Border {
    /// The border of the first input, or the points where it is out of the ordinary.
    fn of(patch: &Mesh, soup: &pieces::Soup) -> Result<Self, Vec<Point>> {
        let topology = Topology::new(patch.triangles(), patch.points().len());
        let mut original: HashMap<u32, Point> = HashMap::new();
        let (mut ends, mut odd) = (Vec::new(), Vec::new());
        for half in topology.naked_halves() {
            let (a, b) = topology.ends(half);
            // The patch is the first input.
            let [i, j] = [a, b].map(|p| soup.names[p as usize]);
            let [a, b] = [a, b].map(|p| patch.points()[p as usize]);
            for (corner, place) in [(i, a), (j, b)] {
                let held = *original.entry(corner).or_insert(place);
                if held != place {
                    odd.extend([held, place]);
                }
            }
            if i == j {
                odd.extend([a, b]);
            }
            ends.push(((i.min(j), i.max(j)), [a, b]));
        }
        ends.sort_unstable_by_key(|(side, _)| *side);
        odd.extend(ends.windows(2).filter(|w| w[0].0 == w[1].0).flat_map(|w| w[0].1));
        let sides = ends.into_iter().map(|(side, _)| side).collect();
        if odd.is_empty() { Ok(Self { sides, original }) } else { Err(odd) }
    }
}

/// The arrangement of a patch, with the far triangles it goes on in, or the points of the border that is out of the ordinary.
fn arranged(
    (part, far): (Part<'_>, Mesh),
    (others, sheets): (&[&Mesh], &[&Mesh]),
    (grid, soup, border): (&Grid, pieces::Soup, Border),
    progress: &Progress,
) -> Result<Result<Arrangement, Vec<Point>>, ArrangeError> {
    let solids = 1 + others.len();
    let cut = pieces::cut_up(&soup, &progress.stage(0.1, 0.7))?;
    let Border { sides, original } = border;
    let patch = Patch { far: &far, far_bvh: OnceLock::new(), sealed: part.sealed, grid, border: sides };
    let space = cells::Space::new(&soup, &cut, solids, Some(&patch), &progress.stage(0.7, 1.0))?;
    let space = match space {
        Ok(space) => space,
        Err(cells::Unfit::Open { input, at }) => return Err(ArrangeError::Open { input, at: grid.place(at) }),
        Err(cells::Unfit::Border(lost)) => {
            let ends = lost.into_iter().flat_map(|(a, b)| [a, b]);
            let odd: Vec<Point> = ends.filter_map(|p| original.get(&p).copied()).collect();
            return Ok(Err(if odd.is_empty() { original.into_values().collect() } else { odd }));
        }
    };
    let sides = patch.border;
    let whole = [&[part.mesh], others, sheets].concat();
    let mut all = Arrangement::from_parts(grid, soup, cut, space, solids, super::begin(&whole)?);
    for (corner, place) in original {
        all.points[corner as usize] = place;
    }
    all.far = Some(Far { mesh: far, border: sides });
    Ok(Ok(all))
}

fn near(w: Whole) -> Point {
    Point::from_array(w.map(|x| x as f64))
}

fn bits(p: Point) -> [u64; 3] {
    p.to_array().map(f64::to_bits)
}

/// The boxes round the shells of a mesh.
fn boxes_of(mesh: &Mesh) -> Vec<Aabb> {
    let (shell_of, count) = shells::shells(&Topology::new(mesh.triangles(), mesh.points().len()));
    let mut boxes = vec![Aabb::EMPTY; count];
    for (t, shell) in shell_of.iter().enumerate().filter(|(_, s)| (**s as usize) < count) {
        boxes[*shell as usize] = boxes[*shell as usize].union(Aabb::of(mesh.corners(t)));
    }
    boxes
}

/// Whether a mesh is open exactly along some sides between places.
pub(super) fn is_open_along(mesh: &Mesh, points: &[Point], border: &[(u32, u32)]) -> bool {
    let key = |a: Point, b: Point| {
        let (a, b) = (bits(a), bits(b));
        if a <= b { (a, b) } else { (b, a) }
    };
    let mut wanted: Vec<_> = border.iter().map(|&(a, b)| key(points[a as usize], points[b as usize])).collect();
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let ends = topology.naked_halves().into_iter().map(|h| topology.ends(h));
    let mut there: Vec<_> = ends.map(|(a, b)| key(mesh.points()[a as usize], mesh.points()[b as usize])).collect();
    wanted.sort_unstable();
    there.sort_unstable();
    wanted == there
}
