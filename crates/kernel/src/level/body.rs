//! The body of a liquid: its outlines in the level, and what lies below it.

use super::Vessel;
use crate::Point;
use crate::section::{Contour, holds, place_at_nought};
/// For each contour the smallest closed one it lies in.
pub(super) fn nested(rounds: &[Contour], flat: &[Vec<[f64; 2]>], areas: &[f64]) -> Vec<Option<usize>> {
    let boxes: Vec<[f64; 4]> = flat
        .iter()
        .map(|f| {
            f.iter().fold([f64::INFINITY, f64::INFINITY, f64::NEG_INFINITY, f64::NEG_INFINITY], |b, p| {
                [b[0].min(p[0]), b[1].min(p[1]), b[2].max(p[0]), b[3].max(p[1])]
            })
        })
        .collect();
    (0..rounds.len())
        .map(|n| {
            let p = flat[n][0];
            let larger =
                |m: &usize| *m != n && rounds[*m].closed && (!rounds[n].closed || areas[*m].abs() > areas[n].abs());
            let in_box = |m: &usize| {
                boxes[*m][0] <= p[0] && p[0] <= boxes[*m][2] && boxes[*m][1] <= p[1] && p[1] <= boxes[*m][3]
            };
            (0..rounds.len())
                .filter(larger)
                .filter(in_box)
                .filter(|m| holds(&flat[*m], p))
                .min_by(|a, b| areas[*a].abs().total_cmp(&areas[*b].abs()))
        })
        .collect()
}

/// The body of a liquid being made.
pub(super) struct Making<'a> {
    pub(super) vessel: &'a Vessel<'a>,
    /// How far each point of the vessel is above the level.
    pub(super) above: Vec<f64>,
    pub(super) points: Vec<Point>,
    pub(super) number: std::collections::HashMap<[u64; 3], u32>,
}

impl Making<'_> {
    pub(super) fn point(&mut self, p: Point) -> u32 {
        let p = p + Point::ZERO;
        *self.number.entry(p.to_array().map(f64::to_bits)).or_insert_with(|| {
            self.points.push(p);
            self.points.len() as u32 - 1
        })
    }

    /// The part of a triangle below the level, as a polygon; cut at the places the contours have.
    pub(super) fn clipped(&mut self, t: u32) -> Vec<u32> {
        let corners = self.vessel.mesh.triangles()[t as usize];
        let below = |p: u32| self.above[p as usize] < 0.0;
        let mut around = Vec::with_capacity(4);
        for k in 0..3 {
            let (p, q) = (corners[k], corners[(k + 1) % 3]);
            if below(p) {
                around.push(self.vessel.mesh.points()[p as usize]);
            }
            if below(p) != below(q) {
                around.push(place_at_nought(self.vessel.mesh, &self.above, p, q));
            }
        }
        around.into_iter().map(|p| self.point(p)).collect()
    }
}
