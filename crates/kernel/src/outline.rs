//! Outlines of a mesh in a plane: its section, and its silhouette. And the untying of outlines that cross themselves.
//!
//! Sections are chained by the edges they cut, so they are closed wherever the mesh is. Overlapping outlines are united by
//! `i_overlay` on a grid of 64-bit integers over their extent.

use std::collections::HashMap;

use i_overlay::core::fill_rule::FillRule;
use i_overlay::float::simplify::SimplifyShape;

use crate::precision::precision;
use crate::triangulate::PlaneFrame;
use crate::{Cancelled, Mesh, Point, Progress};

/// A chain of points in which a plane cuts a mesh.
#[derive(Clone, Debug)]
pub struct SectionChain {
    /// The points, mm.
    pub points: Vec<Point>,
    /// Whether it comes back to its first point; it does not where the mesh is open.
    pub closed: bool,
}

/// The chains in which a plane cuts a mesh. Points on the plane count as below it, so a face that lies in the plane is cut
/// as if the plane were a hair above.
///
/// # Errors
/// [`Cancelled`].
pub fn section(mesh: &Mesh, plane: &PlaneFrame, progress: &Progress) -> Result<Vec<SectionChain>, Cancelled> {
    let height: Vec<f64> = mesh.points().iter().map(|p| plane.height(*p)).collect();
    // Nodes are cut edges, (low, high); each cut triangle links two.
    let mut number: HashMap<(u32, u32), u32> = HashMap::new();
    let mut places: Vec<Point> = Vec::new();
    let mut links: Vec<[u32; 2]> = Vec::new();
    for (t, corners) in mesh.triangles().iter().enumerate() {
        if t % 65_536 == 0 {
            progress.check()?;
        }
        let above = corners.map(|c| height[c as usize] > 0.0);
        if above[0] == above[1] && above[1] == above[2] {
            continue;
        }
        let mut cut = (0..3).filter(|&k| above[k] != above[(k + 1) % 3]).map(|k| {
            let (a, b) = (corners[k].min(corners[(k + 1) % 3]), corners[k].max(corners[(k + 1) % 3]));
            *number.entry((a, b)).or_insert_with(|| {
                let (h, g) = (height[a as usize], height[b as usize]);
                places.push(mesh.points()[a as usize].lerp(mesh.points()[b as usize], h / (h - g)));
                places.len() as u32 - 1
            })
        });
        if let (Some(from), Some(to)) = (cut.next(), cut.next()) {
            links.push([from, to]);
        }
    }
    Ok(chains(&places, &links))
}

/// Walks links from node to node, open ends first, each link once.
fn chains(places: &[Point], links: &[[u32; 2]]) -> Vec<SectionChain> {
    let mut at: Vec<Vec<u32>> = vec![Vec::new(); places.len()];
    for (n, link) in links.iter().enumerate() {
        for &node in link {
            at[node as usize].push(n as u32);
        }
    }
    let mut used = vec![false; links.len()];
    let mut out = Vec::new();
    let ends = (0..places.len()).filter(|&n| at[n].len() % 2 == 1);
    for start in ends.chain(0..places.len()).collect::<Vec<_>>() {
        loop {
            let mut node = start as u32;
            let mut walked = vec![node];
            while let Some(&link) = at[node as usize].iter().find(|l| !used[**l as usize]) {
                used[link as usize] = true;
                let [a, b] = links[link as usize];
                node = if a == node { b } else { a };
                walked.push(node);
                if node == start as u32 {
                    break;
                }
            }
            if walked.len() < 2 {
                break;
            }
            let closed = walked.len() > 2 && walked[0] == walked[walked.len() - 1];
            if closed {
                walked.pop();
            }
            let mut points: Vec<Point> = walked.iter().map(|&n| places[n as usize]).collect();
            points.dedup();
            if closed && points.len() > 1 && points[0] == points[points.len() - 1] {
                points.pop();
            }
            if points.len() > if closed { 2 } else { 1 } {
                out.push(SectionChain { points, closed });
            }
        }
    }
    out
}

/// Areas in a plane: each has its border, counter-clockwise, then its holes.
pub type Areas = Vec<Vec<Vec<[f64; 2]>>>;

/// The silhouette of a mesh seen along the normal of a plane: all its triangles, seen flat, as one area.
pub fn silhouette(mesh: &Mesh, plane: &PlaneFrame) -> Areas {
    // What stands upright but for the last digits of its points is seen as a line, and no notch is finer than that.
    let fine = precision(mesh.points().iter()) * 4.0;
    let flat = |t: usize| mesh.corners(t).map(|p| plane.flatten(p));
    let turn = |[a, b, c]: [[f64; 2]; 3]| (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
    let longest = |[a, b, c]: [[f64; 2]; 3]| distance(a, b).max(distance(b, c)).max(distance(c, a));
    let contours: Vec<Vec<[f64; 2]>> = (0..mesh.triangles().len())
        .map(flat)
        .filter_map(|t @ [a, b, c]| match turn(t) {
            turn if turn.abs() <= fine * longest(t) => None,
            turn if turn > 0.0 => Some(vec![a, b, c]),
            _ => Some(vec![a, c, b]),
        })
        .collect();
    let areas = contours.simplify_shape_as::<i64>(FillRule::NonZero);
    let clean =
        |area: Vec<Vec<[f64; 2]>>| area.into_iter().filter_map(|outline| without_notches(outline, fine)).collect();
    areas.into_iter().map(clean).filter(|area: &Vec<_>| !area.is_empty()).collect()
}

fn distance(a: [f64; 2], b: [f64; 2]) -> f64 {
    (a[0] - b[0]).hypot(a[1] - b[1])
}

/// An outline without points that stand off the line between their neighbours by no more than so much; none if nothing is left.
fn without_notches(mut outline: Vec<[f64; 2]>, fine: f64) -> Option<Vec<[f64; 2]>> {
    loop {
        let before = outline.len();
        let mut kept: Vec<[f64; 2]> = Vec::with_capacity(before);
        for (k, &p) in outline.iter().enumerate() {
            let (from, to) = (*kept.last().unwrap_or(&outline[before - 1]), outline[(k + 1) % before]);
            let (length, reach) = (distance(from, to), distance(from, p).max(distance(p, to)));
            let off = ((to[0] - from[0]) * (p[1] - from[1]) - (to[1] - from[1]) * (p[0] - from[0])).abs();
            let is_notch = distance(from, p) <= fine || (off <= fine * length && reach <= length) || length <= fine;
            if !is_notch {
                kept.push(p);
            }
        }
        if kept.len() < 3 {
            return None;
        }
        if kept.len() == before {
            return Some(kept);
        }
        outline = kept;
    }
}

/// Outlines that may cross themselves and each other, made into areas that do not: what lies inside an odd number of them.
pub fn untied(outlines: &[Vec<[f64; 2]>]) -> Areas {
    outlines.to_vec().simplify_shape_as::<i64>(FillRule::EvenOdd)
}

/// The area of a closed outline in a plane, mm²; positive if it runs counter-clockwise.
pub fn signed_area(outline: &[[f64; 2]]) -> f64 {
    let n = outline.len();
    (0..n).map(|k| (outline[k], outline[(k + 1) % n])).map(|(a, b)| a[0] * b[1] - a[1] * b[0]).sum::<f64>() * 0.5
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes::{ball, block, turned};
    use std::f64::consts::PI;

    fn area(areas: &Areas) -> f64 {
        areas.iter().flatten().map(|o| signed_area(o)).sum()
    }

    fn cut(mesh: &Mesh, at: Point, normal: Point) -> Vec<SectionChain> {
        section(mesh, &PlaneFrame::new(at, normal).unwrap(), &Progress::unwatched()).unwrap()
    }

    #[test]
    fn sections_are_closed_wherever_the_mesh_is_and_have_the_area_of_the_cut() {
        let ring = turned(&[(8.0, -1.0), (10.0, -1.0), (10.0, 1.0), (8.0, 1.0), (8.0, -1.0)], 200);
        for (normal, chains, expected) in [(Point::Z, 2, PI * 36.0), (Point::X, 2, 8.0)] {
            let plane = PlaneFrame::new(Point::ZERO, normal).unwrap();
            let found = cut(&ring, Point::ZERO, normal);
            assert_eq!((found.len(), found.iter().all(|c| c.closed)), (chains, true));
            let outlines: Vec<_> =
                found.iter().map(|c| c.points.iter().map(|p| plane.flatten(*p)).collect::<Vec<_>>()).collect();
            assert!((area(&untied(&outlines)) / expected - 1.0).abs() < 2e-3);
        }
        // Through corners and along faces: what lies in the plane counts as below.
        let cube = block(Point::ZERO, Point::ONE);
        assert_eq!(cut(&cube, Point::Z, Point::Z).len(), 0);
        assert_eq!(cut(&cube, Point::ZERO, Point::Z)[0].points.len(), 4);
        assert!(cut(&cube, Point::ZERO, Point::new(1.0, -1.0, 0.0)).iter().all(|c| c.closed));
        let open = cube.retain_triangles(|t| t > 1);
        assert!(cut(&open, Point::splat(0.5), Point::X).iter().any(|c| !c.closed));
    }

    #[test]
    fn silhouettes_unite_everything_seen_and_keep_holes() {
        let seen = |mesh: &Mesh, along: Point| silhouette(mesh, &PlaneFrame::new(Point::ZERO, along).unwrap());
        assert!((area(&seen(&ball(5.0, 60), Point::new(1.0, 2.0, 3.0))) / (25.0 * PI) - 1.0).abs() < 3e-3);
        let ring = turned(&[(8.0, -1.0), (10.0, -1.0), (10.0, 1.0), (8.0, 1.0), (8.0, -1.0)], 200);
        let from_above = seen(&ring, Point::Z);
        assert_eq!((from_above.len(), from_above[0].len()), (1, 2), "one area with one hole");
        assert!((area(&from_above) / (36.0 * PI) - 1.0).abs() < 1e-3);
        assert!((area(&seen(&ring, Point::X)) - 40.0).abs() < 1e-2);
    }

    #[test]
    fn a_bow_tie_is_untied_into_two_triangles() {
        let tie = vec![vec![[0.0, 0.0], [2.0, 2.0], [2.0, 0.0], [0.0, 2.0]]];
        let apart = untied(&tie);
        assert_eq!((apart.len(), area(&apart)), (2, 2.0));
    }
}
