//! A watertight skin round triangles of any kind: overlapping, open, turned over, with holes.
//!
//! The pieces are first made to face outward as far as can be seen; what winds at least half round a point of a grid counts
//! as inside (generalised winding number), which spans openings by a membrane. The border between inside and outside is
//! drawn by dual contouring (Ju, Losasso, Schaefer and Warren 2002) through the crossings of the grid with the surface and
//! its normals, so sharp edges stay sharp, and corners within a step. The inside is first made well-composed: no two of its grid points touch only
//! across a corner; so each cell holds one point of the skin and the skin is a manifold.
//!
//! What is thinner than the resolution and encloses nothing is lost; sheets leave no skin.

mod contour;
mod grid;

use grid::Grid;

use crate::crossings::{crossing_pairs, triangle_bvh};
use crate::segments::nearest_on_triangle;
use crate::slender::without_slender;
use crate::winding::{Winding, facing_out};
use crate::{Aabb, Cancelled, Mesh, MeshError, Point, Progress, Topology, shells};

/// The most points of a grid: a byte is kept for each.
const MOST_POINTS: f64 = 6e8;
/// Triangles of less height over their longest side are taken out: where an edge or a corner draws the points of several
/// cells to one line or place.
const LEAST_HEIGHT: f64 = 1e-6;
/// Loose pieces of skin smaller than this many steps are noise.
const NOISE: f64 = 3.0;

/// What a skin will cost, told beforehand.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct WrapCost {
    /// Steps of the grid along x, y and z.
    pub steps: [usize; 3],
    /// Triangles of the skin, about.
    pub triangles: usize,
    /// Memory, bytes, about.
    pub bytes: f64,
}

/// Why there is no skin.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum WrapError {
    /// The grid would be too large; the finest resolution possible, mm.
    #[error("so fine a grid does not fit into memory; {0} mm is about the finest for this part")]
    TooFine(f64),
    /// Nothing winds round any point of the grid.
    #[error("nothing is enclosed: the openings are too large, or everything is thinner than the resolution")]
    Empty,
    /// Somebody asked to stop.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
    /// A fault of the program.
    #[error(transparent)]
    Mesh(#[from] MeshError),
}

/// What the skin of a mesh will cost at a resolution, mm.
pub fn wrap_cost(mesh: &Mesh, resolution: f64) -> WrapCost {
    let area = (0..mesh.triangles().len()).map(|t| mesh.area_vector(t).length() * 0.5).sum();
    wrap_cost_of(Aabb::of(mesh.points().iter().copied()).size(), area, mesh.triangles().len(), resolution)
}

/// The same from the size, area and triangles of the mesh alone.
pub fn wrap_cost_of(size: Point, area: f64, triangles: usize, resolution: f64) -> WrapCost {
    let steps = Grid::steps(&Aabb { min: Point::ZERO, max: size }, resolution);
    // A surface meets one and a half sides of a grid for each square of the step, on average; each makes two triangles.
    let squares = area / (resolution * resolution);
    let grid: f64 = steps.iter().map(|s| *s as f64 + 1.0).product();
    /// Bytes kept for each square while contouring, and for each triangle of the part.
    const BYTES_A_SQUARE: f64 = 900.0;
    const BYTES_A_TRIANGLE: f64 = 600.0;
    let bytes = grid + squares * BYTES_A_SQUARE + triangles as f64 * BYTES_A_TRIANGLE;
    WrapCost { steps, triangles: (squares * 3.0) as usize, bytes }
}

/// The skin of a mesh at a resolution, mm: closed, outward, one face.
///
/// # Errors
/// [`WrapError`].
pub fn wrap(mesh: &Mesh, resolution: f64, progress: &Progress) -> Result<Mesh, WrapError> {
    let bounds = Aabb::of(mesh.points().iter().copied());
    refuse_too_fine(&bounds, resolution)?;
    progress.report(0.0, "turning the pieces outward")?;
    let facing = facing_out(mesh, &progress.stage(0.0, 0.15))?;
    let bvh = triangle_bvh(&facing);
    let winding = Winding::new(&facing);
    progress.report(0.15, "finding the inside")?;
    let mut grid = Grid::sample(&facing, &bounds, resolution, &winding, &progress.stage(0.15, 0.6))?;
    grid.compose(progress)?;
    progress.report(0.6, "drawing the skin")?;
    let meet = |at, to, inside| contour::meet(&grid, &facing, &bvh, &winding, at, to, inside);
    let off = |p: Point| {
        let distance = |t: u32| Some((nearest_on_triangle(p, facing.corners(t as usize)) - p).length_squared());
        bvh.nearest(p, grid.step * 2.0, distance).map_or(f64::INFINITY, |(_, d)| d)
    };
    skin(&grid, &meet, &off, resolution, &progress.stage(0.6, 1.0))
}

/// What lies below nought of a field that grows by no more than the way one goes, within bounds, at a resolution, mm: closed,
/// outward, one face. `field` gives its value and its slope.
///
/// # Errors
/// [`WrapError`].
pub fn level_skin(
    bounds: &Aabb,
    resolution: f64,
    field: &(dyn Fn(Point) -> (f64, Point) + Sync),
    progress: &Progress,
) -> Result<Mesh, WrapError> {
    refuse_too_fine(bounds, resolution)?;
    let mut grid = Grid::below(bounds, resolution, &|p| field(p).0, &progress.stage(0.0, 0.6))?;
    grid.compose(progress)?;
    progress.report(0.6, "drawing the skin")?;
    let meet = |at, to, leaves: bool| {
        let (a, b) = (grid.place(at), grid.place(to));
        let (mut inside, mut outside) = if leaves { (a, b) } else { (b, a) };
        // Halving with a step towards where a straight line would be nought.
        const ROUNDS: usize = 5;
        let (mut low, mut high) = (field(inside).0.min(0.0), field(outside).0.max(0.0));
        for _ in 0..ROUNDS {
            let share = if high > low { (-low / (high - low)).clamp(0.05, 0.95) } else { 0.5 };
            let middle = inside.lerp(outside, share);
            let value = field(middle).0;
            if value < 0.0 { (inside, low) = (middle, value) } else { (outside, high) = (middle, value) }
        }
        let share = if high > low { -low / (high - low) } else { 0.5 };
        let at = inside.lerp(outside, share);
        (at, field(at).1)
    };
    skin(&grid, &meet, &|p| field(p).0.abs(), resolution, &progress.stage(0.6, 1.0))
}

fn refuse_too_fine(bounds: &Aabb, resolution: f64) -> Result<(), WrapError> {
    let points: f64 = Grid::steps(bounds, resolution).iter().map(|s| *s as f64 + 1.0).product();
    if points > MOST_POINTS {
        Err(WrapError::TooFine(resolution * (points / MOST_POINTS).cbrt() * 1.05))
    } else {
        Ok(())
    }
}

/// The border of the inside of a grid, made a solid.
fn skin(
    grid: &Grid,
    meet: contour::Meet<'_>,
    off: &(dyn Fn(Point) -> f64 + Sync),
    resolution: f64,
    progress: &Progress,
) -> Result<Mesh, WrapError> {
    let mut skin = contour::contour(grid, meet, off, &progress.stage(0.0, 0.6))?;
    if skin.triangles.is_empty() {
        return Err(WrapError::Empty);
    }
    untie(&mut skin, &progress.stage(0.6, 1.0))?;
    let mesh = without_slender(Mesh::with_one_face(skin.points, skin.triangles)?, LEAST_HEIGHT);
    let kept = without_noise(&mesh, NOISE * resolution);
    if kept.triangles().is_empty() { Err(WrapError::Empty) } else { Ok(kept) }
}

/// Moves points of triangles that cross back to where no crossing is possible: first to the middle of what is known of the
/// surface in their cell, then to the middle of the cell.
fn untie(skin: &mut contour::Skin, progress: &Progress) -> Result<(), WrapError> {
    const ROUNDS: usize = 8;
    for round in 0..ROUNDS {
        progress.report(round as f64 / ROUNDS as f64, "looking for crossings")?;
        let mesh = Mesh::with_one_face(skin.points.clone(), skin.triangles.clone())?;
        let pairs = crossing_pairs(&mesh, &triangle_bvh(&mesh), progress)?;
        if pairs.is_empty() {
            return Ok(());
        }
        for t in pairs.into_iter().flat_map(|(a, b)| [a, b]) {
            for p in skin.triangles[t as usize] {
                let p = p as usize;
                skin.points[p] = if round == 0 { skin.middles[p] } else { skin.cells[p] };
            }
        }
    }
    Ok(())
}

fn without_noise(mesh: &Mesh, least: f64) -> Mesh {
    let (shell_of, count) = shells::shells(&Topology::new(mesh.triangles(), mesh.points().len()));
    let mut bounds: Vec<Option<Aabb>> = vec![None; count];
    for (t, &s) in shell_of.iter().enumerate() {
        let b = Aabb::of(mesh.corners(t));
        bounds[s as usize] = Some(bounds[s as usize].map_or(b, |a| a.union(b)));
    }
    mesh.retain_triangles(|t| bounds[shell_of[t] as usize].is_some_and(|b| b.diagonal() >= least))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::FaceId;
    use crate::measure::measure;
    use crate::shapes::{ball, block, turned};

    fn skin(mesh: &Mesh, resolution: f64) -> Mesh {
        let skin = wrap(mesh, resolution, &Progress::unwatched()).unwrap();
        let topology = Topology::new(skin.triangles(), skin.points().len());
        let regular = topology.edges_with(crate::topology::EdgeUse::Regular).count();
        assert_eq!(regular, topology.edge_count(), "closed, and every edge has two triangles that agree");
        let flat =
            (0..skin.triangles().len()).filter(|&t| skin.area_vector(t).length() < 1e-9 * resolution * resolution);
        assert_eq!(flat.count(), 0, "no triangle is without area");
        assert_eq!(crossing_pairs(&skin, &triangle_bvh(&skin), &Progress::unwatched()).unwrap(), vec![]);
        skin
    }

    fn together(parts: &[Mesh]) -> Mesh {
        let (mut points, mut triangles) = (Vec::new(), Vec::new());
        for m in parts {
            let offset = points.len() as u32;
            points.extend(m.points());
            triangles.extend(m.triangles().iter().map(|t| t.map(|i| i + offset)));
        }
        let faces = vec![FaceId(0); triangles.len()];
        Mesh::new(points, triangles, faces).unwrap()
    }

    #[test]
    fn a_block_keeps_its_corners_and_edges() {
        let turn = |p: Point| glam::DQuat::from_euler(glam::EulerRot::XYZ, 0.3, 0.5, 0.2) * p;
        let solid = block(Point::ZERO, Point::new(10.0, 7.0, 5.0)).map_points(turn).unwrap();
        let wrapped = skin(&solid, 0.35);
        assert!((measure(&wrapped).volume / 350.0 - 1.0).abs() < 2e-3, "{}", measure(&wrapped).volume);
        for corner in solid.points() {
            let off = wrapped.points().iter().map(|p| p.distance(*corner)).fold(f64::INFINITY, f64::min);
            assert!(off < 0.35, "a corner is off by {off}, more than a step");
        }
    }

    #[test]
    fn overlapping_open_and_turned_pieces_get_one_skin() {
        let mut left = ball(5.0, 40);
        left.reverse_triangles(|_| true);
        // The right ball has an opening inside the left one and a small one outside.
        let right = ball(5.0, 40).map_points(|p| p + Point::X * 6.0).unwrap();
        let right = right.retain_triangles(|t| {
            let c = right.corners(t).iter().sum::<Point>() / 3.0;
            c.x > 1.7 && c.x < 10.9
        });
        let wrapped = skin(&together(&[left, right]), 0.25);
        // Two balls whose centres are 6 apart: each loses a cap of height 2.
        let cap = std::f64::consts::PI * 4.0 * (15.0 - 2.0) / 3.0;
        let expected = 2.0 * (4.0 / 3.0 * std::f64::consts::PI * 125.0 - cap);
        let volume = measure(&wrapped).volume;
        assert!((volume / expected - 1.0).abs() < 0.02, "{volume} instead of {expected}");
        let (_, shells) = shells::shells(&Topology::new(wrapped.triangles(), wrapped.points().len()));
        assert_eq!(shells, 1);
    }

    #[test]
    fn holes_stay_and_a_sheet_alone_encloses_nothing() {
        let ring = turned(&[(8.0, -1.0), (10.0, -1.0), (10.0, 1.0), (8.0, 1.0), (8.0, -1.0)], 90);
        let wrapped = skin(&ring, 0.3);
        assert!((measure(&wrapped).volume / measure(&ring).volume - 1.0).abs() < 0.01);
        let sheet = block(Point::ZERO, Point::new(10.0, 10.0, 1.0)).retain_triangles(|t| t < 2);
        assert_eq!(wrap(&sheet, 0.5, &Progress::unwatched()), Err(WrapError::Empty));
        assert!(matches!(wrap(&ring, 0.001, &Progress::unwatched()), Err(WrapError::TooFine(_))));
    }
}
