//! A mesh cut by a plane: contours, their area and length.
//!
//! Sides are told once for each point (on the plane counts as in front), so contours of a closed mesh close by topology,
//! whatever the numbers. Material lies on the left of a contour, seen against the plane's normal: outlines go round
//! counter-clockwise, holes clockwise, and signed areas add up to the area of the material.

use std::collections::HashMap;

use rayon::prelude::*;

use crate::triangulate::PlaneFrame;
use crate::{FaceId, Mesh, Point, Topology};

/// A chain of a section.
#[derive(Clone, Debug, PartialEq)]
pub struct Contour {
    /// Its points; of a closed one the first is not there again.
    pub points: Vec<Point>,
    /// For each side, from each point to the next, the triangle it lies in.
    pub triangles: Vec<u32>,
    /// Whether it closes.
    pub closed: bool,
}

impl Contour {
    /// Its length, mm.
    pub fn length(&self) -> f64 {
        crate::segments::chain_length(&self.points, self.closed)
    }

    /// The face each side lies in.
    pub fn faces<'a>(&'a self, mesh: &'a Mesh) -> impl Iterator<Item = FaceId> + 'a {
        self.triangles.iter().map(|t| mesh.face_of()[*t as usize])
    }
}

/// The signed area within a closed chain in a plane: positive when it goes round counter-clockwise.
pub fn signed_area(points: &[[f64; 2]]) -> f64 {
    let Some(&[ox, oy]) = points.first() else { return 0.0 };
    let next = points.iter().cycle().skip(1);
    points.iter().zip(next).map(|(a, b)| (a[0] - ox) * (b[1] - oy) - (b[0] - ox) * (a[1] - oy)).sum::<f64>() * 0.5
}

/// Whether a point lies within a closed chain in a plane.
pub fn holds(points: &[[f64; 2]], [x, y]: [f64; 2]) -> bool {
    let next = points.iter().cycle().skip(1);
    points.iter().zip(next).filter(|(a, b)| (a[1] > y) != (b[1] > y)).fold(false, |inside, (a, b)| {
        let across = a[0] + (y - a[1]) / (b[1] - a[1]) * (b[0] - a[0]);
        inside != (x < across)
    })
}

/// The contours of a mesh in a plane: those of a closed mesh are all closed.
pub fn section(mesh: &Mesh, topology: &Topology<'_>, plane: &PlaneFrame) -> Vec<Contour> {
    let heights: Vec<f64> = mesh.points().par_iter().map(|p| plane.height(*p)).collect();
    contours(mesh, topology, &heights)
}

/// The contours where `heights`, one for each point, go through nought.
pub(crate) fn contours(mesh: &Mesh, topology: &Topology<'_>, heights: &[f64]) -> Vec<Contour> {
    let front = |p: u32| heights[p as usize] >= 0.0;
    // Each triangle that is cut leads from the half that goes behind to the half that comes to the front.
    let links: Vec<(u32, u32, u32)> = (0..mesh.triangles().len() as u32)
        .into_par_iter()
        .filter_map(|t| {
            let corners = mesh.triangles()[t as usize];
            let goes = |k: usize| (front(corners[k]), front(corners[(k + 1) % 3]));
            let from = (0..3).find(|k| goes(*k) == (true, false))?;
            let to = (0..3).find(|k| goes(*k) == (false, true))?;
            let edge = |k: usize| topology.edge_of(3 * t + k as u32);
            Some((edge(from), edge(to), t))
        })
        .collect();
    let mut leaving: HashMap<u32, Vec<usize>> = HashMap::with_capacity(links.len());
    let mut comes: HashMap<u32, usize> = HashMap::with_capacity(links.len());
    for (n, (from, to, _)) in links.iter().enumerate() {
        leaving.entry(*from).or_default().push(n);
        *comes.entry(*to).or_default() += 1;
    }
    let place = |edge: u32| {
        let (p, q) = topology.ends(topology.halves(edge)[0]);
        place_at_nought(mesh, heights, p, q)
    };
    let mut used = vec![false; links.len()];
    let mut made = Vec::new();
    let mut follow = |first: usize, used: &mut Vec<bool>| {
        let mut contour = Contour { points: vec![place(links[first].0)], triangles: vec![], closed: false };
        let mut now = first;
        loop {
            used[now] = true;
            contour.triangles.push(links[now].2);
            let to = links[now].1;
            if to == links[first].0 {
                contour.closed = true;
                break;
            }
            contour.points.push(place(to));
            match leaving.get(&to).and_then(|l| l.iter().find(|n| !used[**n])) {
                Some(next) => now = *next,
                None => break,
            }
        }
        made.push(contour);
    };
    // Open ones begin where nothing comes from.
    for n in 0..links.len() {
        if !used[n] && !comes.contains_key(&links[n].0) {
            follow(n, &mut used);
        }
    }
    for n in 0..links.len() {
        if !used[n] {
            follow(n, &mut used);
        }
    }
    made
}

/// Where an edge between two points of different sides goes through nought: the same from both sides, and a point itself where
/// that is there.
pub(crate) fn place_at_nought(mesh: &Mesh, heights: &[f64], p: u32, q: u32) -> Point {
    let (p, q) = (p.min(q) as usize, p.max(q) as usize);
    match (heights[p], heights[q]) {
        (0.0, _) => mesh.points()[p],
        (_, 0.0) => mesh.points()[q],
        (a, b) => mesh.points()[p].lerp(mesh.points()[q], a / (a - b)),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes::{ball, block, turned};

    fn cut(mesh: &Mesh, at: Point, normal: Point) -> (Vec<Contour>, f64) {
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        let plane = PlaneFrame::new(at, normal).unwrap();
        let made = section(mesh, &topology, &plane);
        let flat = |c: &Contour| c.points.iter().map(|p| plane.flatten(*p)).collect::<Vec<_>>();
        let area = made.iter().filter(|c| c.closed).map(|c| signed_area(&flat(c))).sum();
        (made, area)
    }

    #[test]
    fn a_block_is_cut_to_the_figures_of_the_textbook_wherever_the_plane_goes() {
        let part = block(Point::ZERO, Point::new(4.0, 6.0, 8.0));
        let (made, area) = cut(&part, Point::new(0.0, 0.0, 3.0), Point::Z);
        assert_eq!((made.len(), made[0].closed), (1, true));
        assert!((area - 24.0).abs() < 1e-12 && (made[0].length() - 20.0).abs() < 1e-12);
        // Through a face: as of what is behind it, or nothing; through corners; from the other side.
        assert_eq!(cut(&part, Point::ZERO, Point::Z).1, 0.0);
        assert!((cut(&part, Point::new(0.0, 0.0, 8.0), Point::Z).1 - 24.0).abs() < 1e-12);
        assert!((cut(&part, Point::ZERO, Point::new(-3.0, 2.0, 0.0)).1 - 8.0 * 52f64.sqrt()).abs() < 1e-9);
        assert!((cut(&part, Point::new(0.0, 0.0, 3.0), -Point::Z).1 - 24.0).abs() < 1e-12);
        // An open one has an open chain.
        let open = part.retain_triangles(|t| part.corners(t).iter().any(|p| p.x > 0.0));
        let (made, _) = cut(&open, Point::new(0.0, 0.0, 3.0), Point::Z);
        assert_eq!((made.len(), made[0].closed), (1, false));
        assert!((made[0].length() - 14.0).abs() < 1e-12);
    }

    #[test]
    fn rings_and_balls_have_holes_and_circles() {
        let ring = turned(&[(5.0, -1.0), (8.0, -1.0), (8.0, 1.0), (5.0, 1.0), (5.0, -1.0)], 256);
        let (made, area) = cut(&ring, Point::ZERO, Point::Z);
        assert_eq!(made.len(), 2);
        assert!((area / (std::f64::consts::PI * 39.0) - 1.0).abs() < 2e-4, "{area}");
        let (made, area) = cut(&ring, Point::ZERO, Point::X);
        assert!(made.len() == 2 && (area - 12.0).abs() < 1e-2, "{area}");
        let (_, area) = cut(&ball(5.0, 90), Point::new(3.0, 0.0, 0.0), Point::X);
        assert!((area / (std::f64::consts::PI * 16.0) - 1.0).abs() < 2e-3, "{area}");
    }
}
