//! Finding the inside of whatever comes in: open, crossing, doubled, flipped surfaces and sheets that end in the middle.
//!
//! The surface is turned so that its sides mean something ([`facing`]). Edges with an odd number of triangles make closed
//! loops ([`loops`]); each is covered, so that what the walls enclose has no leak, and everything is arranged exactly
//! ([`crate::arrange`]). Each chamber of space is then inside or outside: the winding numbers just beside its walls vote, each
//! with the area of the wall, and a border along a cover costs a share of the cover's area; the labelling of least cost is a cut
//! of a graph ([`crate::flow`]; after Jacobson, Kavan and Sorkine 2013). The body is the border between inside and outside: closed by
//! construction, and exact where the input was good.

mod facing;
mod loops;
mod sheets;
#[cfg(test)]
mod tests;

pub use sheets::{thickened, thickened_sampled};

use facing::{Facing, Single, facing_out};
use loops::odd_loops;

use rayon::prelude::*;

use crate::arrange::{ArrangeError, Arrangement, Body, Chambers};
use crate::flow::Flow;
use crate::triangulate::{PlaneFrame, least_area, triangulate_flat};
use crate::winding::Winding;
use crate::{Cancelled, Mesh, Point, Progress};

/// A border along a cover costs this share of its area: openings much larger than the walls round them are left open.
const COVER_COST: f64 = 0.5;
/// Walls of a chamber at which winding numbers are asked for; the others are taken to be alike.
const ASKED: usize = 96;
/// Chambers of less than this share of the body's volume may change sides where the body would touch itself along an edge.
const CRUMB: f64 = 1e-6;

/// What is inside of a surface.
#[derive(Clone, Debug)]
pub struct Interior {
    /// Its border; faces of the surface keep their numbers, covers come after them.
    pub body: Body,
    /// How many loops of edges were covered.
    pub covers: usize,
    /// What of the surface encloses nothing: there is outside on both of its sides.
    pub dangling: Mesh,
    /// How many chambers are inside.
    pub chambers: usize,
}

/// Finds the inside of a surface.
///
/// # Errors
/// [`ArrangeError`]; never [`ArrangeError::Open`].
pub fn interior(surface: &Mesh, progress: &Progress) -> Result<Interior, ArrangeError> {
    progress.report(0.0, "turning the surface outward")?;
    let facing = facing_out(&Single::of(surface), &progress.stage(0.0, 0.1))?;
    progress.report(0.1, "covering what is open")?;
    let loops = odd_loops(&facing.mesh);
    let covers = covers(&facing.mesh, &loops, &progress.stage(0.1, 0.3))?;
    let all = Arrangement::new(&[], &[&facing.mesh, &covers], &progress.stage(0.3, 0.7))?;
    progress.report(0.7, "telling inside from outside")?;
    let chambers = all.chambers(f64::INFINITY, &progress.stage(0.7, 0.8))?;
    let inside = inside(&all, &chambers, &facing, &progress.stage(0.8, 0.9))?;
    let chosen: Vec<usize> = (0..inside.len()).filter(|n| inside[*n]).collect();
    let dangling = all.pieces_between(0, |wall| chambers.of_wall(wall).iter().all(|c| c.is_none_or(|n| !inside[n])))?;
    let body = chambers.body(&chosen, &progress.stage(0.9, 1.0))?;
    Ok(Interior { body, covers: loops.len(), dangling, chambers: chosen.len() })
}

/// Covers of closed loops of a mesh's points, each a face: flat ones in their plane, others of least area.
fn covers(mesh: &Mesh, loops: &[Vec<u32>], progress: &Progress) -> Result<Mesh, ArrangeError> {
    let parts: Vec<Vec<[u32; 3]>> = loops
        .par_iter()
        .map(|ids| {
            progress.check()?;
            let places: Vec<Point> = ids.iter().map(|i| mesh.points()[*i as usize]).collect();
            let local = match flat_cover(&places) {
                Some(flat) => flat,
                None => least_area(&places, &|_, _| true, progress)?,
            };
            Ok(local.into_iter().map(|t| t.map(|i| ids[i as usize])).collect())
        })
        .collect::<Result<_, Cancelled>>()?;
    let faces = parts.iter().enumerate().flat_map(|(n, p)| p.iter().map(move |_| crate::FaceId(n as u32))).collect();
    Ok(Mesh::new(mesh.points().to_vec(), parts.concat(), faces)?.retain_triangles(|_| true))
}

/// The cover of a loop that lies in a plane; none where it does not, or crosses itself there.
fn flat_cover(places: &[Point]) -> Option<Vec<[u32; 3]>> {
    /// The share of its extent by which a flat loop may stand off its plane.
    const FLAT: f64 = 1e-6;
    let n = places.len();
    let centre = places.iter().sum::<Point>() / n as f64;
    let normal: Point = (0..n).map(|k| (places[k] - centre).cross(places[(k + 1) % n] - centre)).sum();
    let frame = PlaneFrame::new(centre, normal)?;
    let extent = places.iter().map(|p| p.distance(centre)).fold(0.0, f64::max);
    if places.iter().any(|p| frame.height(*p).abs() > extent * FLAT) {
        return None;
    }
    let flat: Vec<[f64; 2]> = places.iter().map(|p| frame.flatten(*p)).collect();
    let cut = triangulate_flat(&flat, &[(0..n).collect()]).ok()?;
    Some(cut.into_iter().map(|t| t.map(|i| i as u32)).collect())
}

/// For each chamber whether it is inside.
fn inside(
    all: &Arrangement,
    chambers: &Chambers<'_>,
    surface: &Facing,
    progress: &Progress,
) -> Result<Vec<bool>, Cancelled> {
    let count = chambers.list().len();
    let winding = Winding::new(&surface.mesh.retain_triangles(|t| !surface.mute[t]));
    // The walls of each chamber that the surface made, with the side on which the chamber lies.
    let mut walls: Vec<Vec<(u32, bool)>> = vec![vec![]; count];
    let mut covers: Vec<(u32, u32, f64)> = Vec::new();
    let (inner, outer) = (count as u32, count as u32 + 1);
    for wall in 0..all.wall_count() as u32 {
        let [front, back] = chambers.of_wall(wall);
        if front == back {
            continue;
        }
        if all.input_of(wall) == 0 {
            for (chamber, is_front) in [(front, true), (back, false)] {
                walls.get_mut(chamber.unwrap_or(count)).into_iter().for_each(|w| w.push((wall, is_front)));
            }
        } else {
            let node = |c: Option<usize>| c.map_or(outer, |n| n as u32);
            covers.push((node(front), node(back), area(all.wall(wall))));
        }
    }
    let votes: Vec<f64> = walls
        .par_iter()
        .map(|walls| {
            progress.check()?;
            let whole: f64 = walls.iter().map(|(w, _)| area(all.wall(*w))).sum();
            let (mut asked, mut sum) = (0.0, 0.0);
            for &(wall, front) in walls.iter().step_by(walls.len().div_ceil(ASKED).max(1)) {
                let corners = all.wall(wall);
                let weight = area(corners);
                asked += weight;
                sum += weight * (2.0 * winding.at(beside(corners, front)) - 1.0).clamp(-1.0, 1.0);
            }
            Ok(if asked > 0.0 { whole * sum / asked } else { 0.0 })
        })
        .collect::<Result<_, Cancelled>>()?;
    // In whole steps, so that sums do not depend on their order.
    let total: f64 = votes.iter().map(|v| v.abs()).sum::<f64>() + covers.iter().map(|c| c.2).sum::<f64>();
    let steps = |x: f64| (x / total.max(f64::MIN_POSITIVE) * (1u64 << 50) as f64).round() as i64;
    let mut flow = Flow::new(count + 2);
    for (n, vote) in votes.iter().enumerate() {
        flow.link(inner, n as u32, steps(vote.max(0.0)), 0);
        flow.link(n as u32, outer, steps((-vote).max(0.0)), 0);
    }
    for (a, b, area) in covers {
        flow.link(a, b, steps(area * COVER_COST), steps(area * COVER_COST));
    }
    let mut inside = flow.with_source(inner, outer);
    inside.truncate(count);
    let volume: f64 = (0..count).filter(|n| inside[*n]).map(|n| chambers.list()[n].volume).sum();
    chambers.without_pinches(&mut inside, &vec![false; count], volume * CRUMB);
    Ok(inside)
}

fn area([a, b, c]: [Point; 3]) -> f64 {
    (b - a).cross(c - a).length() * 0.5
}

/// A place just before or behind the middle of a triangle.
fn beside([a, b, c]: [Point; 3], front: bool) -> Point {
    /// How far off, as a share of the triangle's height.
    const OFF: f64 = 1e-3;
    let normal = (b - a).cross(c - a);
    let longest = a.distance(b).max(b.distance(c)).max(c.distance(a));
    let height = normal.length() / longest.max(f64::MIN_POSITIVE);
    (a + b + c) / 3.0 + normal.normalize_or_zero() * (if front { height } else { -height } * OFF)
}
