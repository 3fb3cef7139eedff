//! What became of a surface: what of it is lost, what was swallowed, and what is there that was not.
//!
//! *Lost* lies farther than a distance from the result and outside of it, *swallowed* as far and inside; *invented* is what of
//! the result lies as far from the surface that came in. Triangles both have are passed over; of the others what is far is cut
//! off ([`Search::farther`]), and the ways out of the result tell inside from outside. Cost: triangles that differ · log.

use rayon::prelude::*;

use crate::compare::{Compared, Side};
use crate::deviation::{Search, area_of};
use crate::inside::Inside;
use crate::topology::NO_EDGE;
use crate::weld::weld_corners;
use crate::{Aabb, Cancelled, Mesh, Point, Progress, Topology, UnionFind};

/// Points nearer to each other than this share of the distance are one when triangles are compared.
const SAME: f64 = 1.0 / 64.0;
/// Pieces along the border of what is far count by their middle when they have less than this share of the area.
const CRUMB: f64 = 1e-5;
/// Triangles between two looks at the progress handle.
const CHUNK: usize = 256;
/// The most places told one by one, the largest first.
const MOST_PLACES: usize = 50;

/// What became of a surface.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Harm {
    /// What lies nearer than this counts as there, mm.
    pub distance: f64,
    /// The area that came in, mm².
    pub came_in: f64,
    /// The area of the result, mm².
    pub made: f64,
    /// What came in and lies outside of the result.
    pub lost: Far,
    /// What came in and lies inside of the result.
    pub swallowed: Far,
    /// What was not there before.
    pub invented: Far,
}

/// Surface that lies far from another.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Far {
    /// Its area, mm².
    pub area: f64,
    /// The surface itself.
    pub mesh: Mesh,
    /// Its connected places, the largest first; smaller ones beyond a number are only in the area.
    pub places: Vec<FarPlace>,
}

/// A connected place of it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct FarPlace {
    /// The middle, mm.
    pub centre: Point,
    /// Half the extent, mm.
    pub radius: f64,
    /// Its area, mm².
    pub area: f64,
}

/// A piece of a triangle that lies far off.
type Piece = (u32, [Point; 3]);

/// What became of `before` in `after`, as far as it is farther than `distance`, mm.
///
/// # Errors
/// [`Cancelled`].
pub fn harm(before: &Mesh, after: &Mesh, distance: f64, progress: &Progress) -> Result<Harm, Cancelled> {
    harm_of(&Compared::new(before, after, progress)?, distance, progress)
}

/// As [`harm`], of surfaces compared before.
///
/// # Errors
/// [`Cancelled`].
pub fn harm_of(surfaces: &Compared<'_>, distance: f64, progress: &Progress) -> Result<Harm, Cancelled> {
    let (gone, new) = surfaces.but_for_rounding(distance * SAME);
    let taken = taken_of(surfaces, gone, distance, &progress.stage(0.0, 0.6))?;
    let after = surfaces.after();
    let made = area(after);
    let invented = far_from(surfaces.later(), new, (distance, made * CRUMB), &progress.stage(0.6, 1.0))?;
    Ok(Harm { invented: Far::of(after, invented), ..taken })
}

/// As [`harm`] without what is invented: what is lost and what was swallowed.
///
/// # Errors
/// [`Cancelled`].
pub fn taken(before: &Mesh, after: &Mesh, distance: f64, progress: &Progress) -> Result<Harm, Cancelled> {
    let surfaces = Compared::new(before, after, progress)?;
    let (gone, _) = surfaces.but_for_rounding(distance * SAME);
    taken_of(&surfaces, gone, distance, progress)
}

fn taken_of(surfaces: &Compared<'_>, gone: Vec<u32>, distance: f64, progress: &Progress) -> Result<Harm, Cancelled> {
    progress.report(0.0, "measuring what is lost and what is new")?;
    let (before, after) = (surfaces.before(), surfaces.after());
    let (came_in, made) = (area(before), area(after));
    let gone = far_from(surfaces.earlier(), gone, (distance, came_in * CRUMB), &progress.stage(0.0, 0.8))?;
    let (mut lost, mut swallowed) = (vec![], vec![]);
    if !gone.is_empty() {
        let within = Inside::new(after, surfaces.after_bvh());
        let inside: Vec<bool> = gone
            .par_iter()
            .map(|(_, c)| progress.check().map(|()| within.holds(c.iter().sum::<Point>() / 3.0)))
            .collect::<Result<_, Cancelled>>()?;
        for (piece, inside) in gone.into_iter().zip(inside) {
            if inside { swallowed.push(piece) } else { lost.push(piece) }
        }
    }
    let (lost, swallowed) = (Far::of(before, lost), Far::of(before, swallowed));
    Ok(Harm { distance, came_in, made, lost, swallowed, invented: Far::default() })
}

fn area(mesh: &Mesh) -> f64 {
    (0..mesh.triangles().len()).map(|t| area_of(mesh.corners(t))).sum()
}

impl Harm {
    /// The share of the surface that came in that is lost.
    pub fn lost_share(&self) -> f64 {
        share(self.lost.area, self.came_in)
    }

    /// The share of the surface that came in that was swallowed.
    pub fn swallowed_share(&self) -> f64 {
        share(self.swallowed.area, self.came_in)
    }

    /// The share of the result that was not there before.
    pub fn invented_share(&self) -> f64 {
        share(self.invented.area, self.made)
    }
}

fn share(part: f64, whole: f64) -> f64 {
    if whole > 0.0 { (part / whole).min(1.0) } else { 0.0 }
}

/// What of some triangles of a surface lies farther than a distance from the other, triangle by triangle.
fn far_from(
    side: Side<'_>,
    some: Vec<u32>,
    (distance, crumb): (f64, f64),
    progress: &Progress,
) -> Result<Vec<Piece>, Cancelled> {
    let mesh = side.mesh;
    if some.is_empty() {
        return Ok(vec![]);
    }
    if side.other.triangles().is_empty() {
        return Ok(some.into_iter().map(|t| (t, mesh.corners(t as usize))).collect());
    }
    let search = Search::new(side.other, side.other_bvh());
    let found: Vec<Vec<Piece>> = some
        .par_chunks(CHUNK)
        .map(|chunk| {
            let (mut out, mut pieces) = (Vec::new(), Vec::new());
            for &t in chunk {
                progress.check()?;
                search.farther(mesh.corners(t as usize), distance, crumb, &mut pieces);
                out.extend(pieces.drain(..).map(|p| (t, p)));
            }
            Ok(out)
        })
        .collect::<Result<_, Cancelled>>()?;
    Ok(found.concat())
}

impl Far {
    /// Gathers pieces of a mesh's triangles.
    fn of(mesh: &Mesh, pieces: Vec<Piece>) -> Self {
        if pieces.is_empty() {
            return Self::default();
        }
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        let mut among = vec![false; mesh.triangles().len()];
        pieces.iter().for_each(|(t, _)| among[*t as usize] = true);
        let mut sets = UnionFind::new(mesh.triangles().len());
        for edge in (0..topology.edge_count() as u32).filter(|e| *e != NO_EDGE) {
            let mut there = topology.halves(edge).iter().map(|h| h / 3).filter(|t| among[*t as usize]);
            if let Some(first) = there.next() {
                there.for_each(|t| sets.union(first, t));
            }
        }
        let (place_of, count) = sets.number_sets();
        let mut boxes = vec![(Aabb::EMPTY, 0.0); count];
        for (t, corners) in &pieces {
            let (bounds, area) = &mut boxes[place_of[*t as usize] as usize];
            *bounds = bounds.union(Aabb::of(*corners));
            *area += area_of(*corners);
        }
        let mut places: Vec<FarPlace> = boxes
            .into_iter()
            .filter(|(_, area)| *area > 0.0)
            .map(|(b, area)| FarPlace { centre: b.centre(), radius: b.diagonal() * 0.5, area })
            .collect();
        places.sort_by(|a, b| b.area.total_cmp(&a.area));
        places.truncate(MOST_PLACES);
        let soup: Vec<Point> = pieces.iter().flat_map(|(_, c)| *c).collect();
        let area = pieces.iter().map(|(_, c)| area_of(*c)).sum();
        Self { area, mesh: weld_corners(&soup).unwrap_or_default(), places }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes::{ball, block};
    use proptest::prelude::*;

    fn joined(meshes: &[&Mesh]) -> Mesh {
        let soup: Vec<Point> =
            meshes.iter().flat_map(|m| (0..m.triangles().len()).flat_map(|t| m.corners(t))).collect();
        weld_corners(&soup).unwrap()
    }

    fn told(before: &Mesh, after: &Mesh) -> Harm {
        harm(before, after, 0.05, &Progress::unwatched()).unwrap()
    }

    #[test]
    fn the_same_surface_cut_up_otherwise_harms_nothing() {
        let (coarse, fine) = (block(Point::ZERO, Point::splat(10.0)), block(Point::ZERO, Point::splat(10.0)));
        let fine = crate::deviation::divided(&fine, &|_| true, &|_, longest| longest < 1.0, 1_000_000).0;
        for (a, b) in [(&coarse, &fine), (&fine, &coarse), (&coarse, &coarse)] {
            let h = told(a, b);
            assert!(h.lost.area == 0.0 && h.swallowed.area == 0.0 && h.invented.area == 0.0, "{h:?}");
        }
    }

    #[test]
    fn nothing_left_is_all_lost_and_nothing_before_all_invented() {
        let (cube, none) = (block(Point::ZERO, Point::splat(2.0)), Mesh::default());
        assert!((told(&cube, &none).lost_share() - 1.0).abs() < 1e-12);
        assert!((told(&none, &cube).invented_share() - 1.0).abs() < 1e-12);
        assert!(told(&none, &none) == Harm { distance: 0.05, ..Harm::default() });
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]

        /// A limb taken off, a ball inside taken off, a face left out: each area is right to 2 %, wherever the part lies.
        #[test]
        fn known_edits_are_told_to_two_per_cent(
            limb in 1.0f64..4.0, inner in 0.5f64..2.0, turn in -3.0f64..3.0, tilt in -3.0f64..3.0,
        ) {
            let pose = |m: Mesh| {
                let q = glam::DQuat::from_euler(glam::EulerRot::XYZ, turn, tilt, 0.3);
                m.map_points(|p| q * p + Point::new(3.0, -70.0, 11.0)).unwrap()
            };
            let body = block(Point::splat(-5.0), Point::splat(10.0));
            let arm = block(Point::new(7.0, 0.0, 0.0), Point::splat(limb));
            let core = ball(inner, 24);
            let (whole, left) = (pose(joined(&[&body, &arm, &core])), pose(body.clone()));
            let h = told(&whole, &left);
            prop_assert!((h.lost.area / area(&arm) - 1.0).abs() < 0.02, "{} {}", h.lost.area, area(&arm));
            prop_assert!((h.swallowed.area / area(&core) - 1.0).abs() < 0.02);
            prop_assert!(h.invented.area == 0.0 && h.lost.places.len() == 1 && h.swallowed.places.len() == 1);
            // Backwards both are new.
            let back = told(&left, &whole);
            prop_assert!((back.invented.area / (area(&arm) + area(&core)) - 1.0).abs() < 0.02);
            // A lid: what lies farther than the distance from the rim.
            let open = pose(body.retain_triangles(|t| body.corners(t).iter().any(|p| p.z < 4.9)));
            let h = told(&open, &left);
            prop_assert!((h.invented.area / (9.9 * 9.9) - 1.0).abs() < 0.02, "{}", h.invented.area);
            prop_assert!(h.lost.area == 0.0 && h.swallowed.area == 0.0);
        }
    }
}
