//! Arranging what lies near some bodies with them, when the large part they meet is known to be sealed.
//!
//! A sealed part winds once round what is inside of it and not at all round the rest, so its triangles away from the bodies are
//! kept or left as they are, and only the others are cut. The patch of those has a border where the far triangles go on: there
//! it is open, and its corners stay exactly where they were. Whatever is out of the ordinary at the border (corners that the
//! grid makes one, edges that lie on each other) is left to the arrangement of the whole.

use std::collections::HashMap;
use std::ops::ControlFlow;

use rayon::prelude::*;

use super::exact::Whole;
use super::grid::Grid;
use super::{ArrangeError, Arrangement, cells, pieces};
use crate::inside::{Crossing, WAYS, crossing};
use crate::predicates::{Side, side_of_plane};
use crate::{Aabb, Bvh, Mesh, Point, Progress, Topology};

/// What is near reaches so far round each body, against its diagonal: farther than any seed stands off its triangle.
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
    part: &'a Mesh,
    grid: &'a Grid,
    /// The sides, lower end first, at which it is open.
    border: Vec<(u32, u32)>,
}

impl Patch<'_> {
    pub fn is_border(&self, side: (u32, u32)) -> bool {
        self.border.binary_search(&side).is_ok()
    }

    pub fn sides(&self) -> usize {
        self.border.len()
    }

    /// How often the whole part winds round a point given in steps of the grid that lies not on it.
    /// Cost: linear, in parallel.
    pub fn winding_at(&self, p: Point) -> i16 {
        let reach = super::exact::LARGEST * 8.0;
        let near = |w: Whole| Point::from_array(w.map(|x| x as f64));
        let places = |t: usize| self.part.corners(t).map(|p| near(self.grid.whole(p)));
        for way in WAYS {
            let out = p + way * reach;
            let sum = (0..self.part.triangles().len()).into_par_iter().try_fold(
                || 0i16,
                |sum, t| {
                    let corners = places(t);
                    match crossing(corners, p, out) {
                        Crossing::None => Some(sum),
                        Crossing::Doubtful => None,
                        Crossing::Proper => {
                            let leaves = side_of_plane(corners[0], corners[1], corners[2], p) == Side::Negative;
                            Some(if leaves { sum + 1 } else { sum - 1 })
                        }
                    }
                },
            );
            if let Some(sum) = sum.try_reduce(|| 0, |a, b| Some(a + b)) {
                return sum;
            }
        }
        0
    }
}

impl Arrangement {
    /// As [`Arrangement::new`] for solids of which the first is known to be sealed: closed, facing outward, crossing nothing
    /// of itself. Only what of it lies near the others is cut.
    ///
    /// # Errors
    /// As [`Arrangement::new`].
    pub fn of_sealed(sealed: &Mesh, others: &[&Mesh], progress: &Progress) -> Result<Self, ArrangeError> {
        match near(sealed, others, progress)? {
            Some(all) => Ok(all),
            None => Self::new(&[&[sealed], others].concat(), &[], progress),
        }
    }

    /// Adds the far triangles to the near ones of a body. Border points are told by their places.
    pub(super) fn with_far(&self, near: &Mesh, far: &Far) -> Result<Mesh, ArrangeError> {
        let bits = |p: Point| p.to_array().map(f64::to_bits);
        let places: std::collections::HashSet<[u64; 3]> =
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

/// The arrangement of what is near, if that is less than half of the part and nothing is out of the ordinary.
fn near(sealed: &Mesh, others: &[&Mesh], progress: &Progress) -> Result<Option<Arrangement>, ArrangeError> {
    let boxes = others.iter().map(|m| Aabb::of(m.points().iter().copied()));
    let boxes = Bvh::new(boxes.map(|b| b.grown(b.diagonal() * REACH)).collect());
    let is_near: Vec<bool> = (0..sealed.triangles().len())
        .into_par_iter()
        .map(|t| boxes.overlapping(&Aabb::of(sealed.corners(t)), |_| ControlFlow::Break(())).is_break())
        .collect();
    if is_near.par_iter().filter(|near| **near).count() * 2 > is_near.len() {
        return Ok(None);
    }
    progress.report(0.1, "setting aside what is far")?;
    let patch = sealed.retain_triangles(|t| is_near[t]);
    let far = sealed.retain_triangles(|t| !is_near[t]);
    let inputs: Vec<&Mesh> = std::iter::once(&patch).chain(others.iter().copied()).collect();
    let grid = Grid::over(&inputs, &[], &[sealed]);
    let soup = pieces::Soup::new(&inputs, &grid);

    let topology = Topology::new(patch.triangles(), patch.points().len());
    let mut original: HashMap<u32, Point> = HashMap::new();
    let mut border = Vec::new();
    for half in topology.naked_halves() {
        let (a, b) = topology.ends(half);
        // The patch is the first input.
        let [i, j] = [a, b].map(|p| soup.names[p as usize]);
        let [a, b] = [a, b].map(|p| patch.points()[p as usize]);
        for (corner, place) in [(i, a), (j, b)] {
            if *original.entry(corner).or_insert(place) != place {
                return Ok(None);
            }
        }
        border.push((i.min(j), i.max(j)));
    }
    border.sort_unstable();
    if border.windows(2).any(|w| w[0] == w[1]) || border.iter().any(|(a, b)| a == b) {
        return Ok(None);
    }
    let cut = pieces::cut_up(&soup, &progress.stage(0.1, 0.7))?;
    let patch = Patch { part: sealed, grid: &grid, border };
    let space = cells::Space::new(&soup, &cut, inputs.len(), Some(&patch), &progress.stage(0.7, 1.0))?;
    let space = match space {
        Ok(space) => space,
        // The part is not: the patch is out of the ordinary there.
        Err((0, _)) => return Ok(None),
        Err((input, at)) => return Err(ArrangeError::Open { input, at: grid.place(at) }),
    };
    let border = patch.border;
    let whole: Vec<&Mesh> = std::iter::once(sealed).chain(others.iter().copied()).collect();
    let mut all = Arrangement::from_parts(&grid, soup, cut, space, inputs.len(), super::begin(&whole));
    for (corner, place) in original {
        all.points[corner as usize] = place;
    }
    all.far = Some(Far { mesh: far, border });
    Ok(Some(all))
}

/// Whether a mesh is open exactly along some sides between places.
pub(super) fn is_open_along(mesh: &Mesh, points: &[Point], border: &[(u32, u32)]) -> bool {
    let bits = |p: Point| p.to_array().map(f64::to_bits);
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
