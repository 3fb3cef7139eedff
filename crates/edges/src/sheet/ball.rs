//! Where three runs or more meet round one ball.

use nimbet_kernel::{FaceId, Point};

use super::{Builder, End, Row};
use crate::forms::Probe;
use crate::station::{Place, Section, Station, slerp};

/// A ball that touches all faces at a point where three runs or more end.
pub(super) struct Ball {
    pub centre: Point,
    /// The runs, and which end of each.
    pub runs: Vec<(usize, End)>,
    /// The faces, each with where the ball touches it and the normal there.
    pub feet: Vec<(FaceId, Point, Point)>,
}

impl Builder<'_> {
    /// The ball at a point where runs of one sense and radius end, and nothing else does, if it touches all faces there.
    pub(super) fn ball(&self, v: u32, ends: &[(usize, End)]) -> Option<Ball> {
        let section = |(n, end): (usize, End)| self.spines[n].section(end);
        let Section::Round { radius } = section(*ends.first()?) else { return None };
        let convex = self.spines[ends[0].0].convex;
        let same = |e: &(usize, End)| {
            matches!(section(*e), Section::Round { radius: r } if (r / radius - 1.0).abs() < 1e-9)
                && self.spines[e.0].convex == convex
                && self.spines[e.0].second.is_none()
        };
        if ends.len() < 3 || ends.len() != self.graph.at[&v].len() || !ends.iter().all(same) {
            return None;
        }
        let mut faces: Vec<FaceId> = ends.iter().flat_map(|(n, end)| self.spines[*n].at(*end).0.faces).collect();
        faces.sort_unstable_by_key(|f| f.0);
        faces.dedup();
        if faces.len() != ends.len() {
            return None;
        }
        let off = if convex { -radius } else { radius };
        let exact = faces.iter().all(|face| self.graph.faces.is_exact(*face));
        let enough = radius * if exact { 1e-9 } else { 1e-3 };
        let enough = enough.max(self.graph.place(v).abs().max_element() * f64::EPSILON * 64.0);
        let mut centre = self.graph.place(v);
        for _ in 0..40 {
            let probes: Vec<Probe> = faces.iter().map(|face| self.graph.faces.probe(*face, centre)).collect();
            if probes.iter().all(|p| (p.off - off).abs() <= enough) {
                let feet = faces.iter().zip(probes);
                let feet = feet.map(|(face, p)| (*face, centre - p.normal * p.off, p.normal)).collect();
                return Some(Ball { centre, runs: ends.to_vec(), feet });
            }
            // The least squares of what is wrong with all of them.
            let mut slopes = glam::DMat3::ZERO;
            let mut wrong = Point::ZERO;
            for p in &probes {
                let n = p.normal;
                slopes += glam::DMat3::from_cols(n * n.x, n * n.y, n * n.z);
                wrong += n * (p.off - off);
            }
            if slopes.determinant().abs() < 1e-9 {
                return None;
            }
            centre -= (slopes.inverse() * wrong).clamp_length_max(radius * 4.0);
        }
        None
    }

    /// The section of a run at a ball.
    pub(super) fn at_ball(&self, ball: &Ball, place: &Place) -> Option<Station> {
        let foot = |face: FaceId| ball.feet.iter().find(|f| f.0 == face);
        let (left, right) = (foot(place.faces[0])?, foot(place.faces[1])?);
        let across = (left.1 - ball.centre).cross(right.1 - ball.centre);
        let along = across.try_normalize()?;
        let along = if along.dot(place.along) < 0.0 { -along } else { along };
        Some(Station {
            at: place.at,
            along,
            feet: [left.1, right.1],
            normals: [left.2, right.2],
            centre: Some(ball.centre),
            top: None,
        })
    }

    /// Brings a row at a ball to the points it shares with the other two there.
    pub(super) fn at_corner(
        &mut self,
        row: &mut Row,
        station: &Station,
        ball: &Ball,
        (pieces, off): (usize, f64),
        convex: bool,
    ) {
        let corner = |k: usize, builder: &Self| builder.corner_points(ball, station, k, (pieces, off), convex);
        let (left, right) = (corner(0, self), corner(1, self));
        if let Some([beyond, within]) = left {
            self.points[row.left[0] as usize] = beyond;
            let within = self.put(within);
            row.left = vec![row.left[0], within];
        }
        if let Some([beyond, within]) = right {
            self.points[row.right[0] as usize] = beyond;
            let within = self.put(within);
            row.right = vec![within, row.right[0]];
        }
    }

    /// Where the strips of two runs that touch a face at one foot of a ball cross: beyond the face, and on the ball within it.
    fn corner_points(
        &self,
        ball: &Ball,
        own: &Station,
        k: usize,
        (pieces, off): (usize, f64),
        convex: bool,
    ) -> Option<[Point; 2]> {
        let foot = own.feet[k];
        let normal = own.normals[k];
        // The planes of both strips there: along the run, and along the first piece of the section.
        let mut across = Vec::with_capacity(2);
        for &(n, end) in &ball.runs {
            let there = self.at_ball(ball, &self.spines[n].at(end).0)?;
            let side = (0..2).find(|s| there.feet[*s] == foot);
            let Some(side) = side else { continue };
            let points = there.points(pieces);
            let inner = if side == 0 { points[1] } else { points[pieces - 1] };
            across.push((inner - foot).cross(there.along).try_normalize()?);
        }
        let [a, b] = across[..] else { return None };
        let line = a.cross(b).try_normalize()?;
        let out = if convex { normal } else { -normal };
        let line = if line.dot(out) < 0.0 { -line } else { line };
        let points = own.points(pieces);
        let sag = ball.feet.iter().map(|f| self.graph.faces.sag(f.0)).fold(0.0, f64::max);
        let height = self.height(own, &points, sag + off);
        let beyond = foot + line * (height / line.dot(out).max(1e-3));
        let within = foot - line * (2.0 * line.dot(foot - ball.centre));
        Some([beyond, within])
    }

    /// The patch of a ball between the strips that end at it.
    pub(super) fn patch(&mut self, ball: &Ball, rows: &[Vec<Row>]) {
        // The arcs from face to face, each with the points just within the faces.
        let mut arcs: Vec<([FaceId; 2], Vec<u32>)> = Vec::new();
        let mut own: Vec<(FaceId, u32, u32)> = Vec::new();
        for &(n, end) in &ball.runs {
            let place = self.spines[n].at(end).0;
            let row = if end == End::First { &rows[n][0] } else { &rows[n][rows[n].len() - 1] };
            let ([out, within], [inner, beyond]) = (&row.left[..], &row.right[..]) else { return };
            own.extend([(place.faces[0], *within, *out), (place.faces[1], *inner, *beyond)]);
            arcs.push((place.faces, row.arc.clone()));
        }
        // Rows of two runs have points of their own there, at the same places: those are one.
        for (face, within, beyond) in &own {
            // Where one had to be drawn in, so is the other.
            let same = || own.iter().filter(|o| o.0 == *face);
            let off = |o: &&(FaceId, u32, u32)| self.points[o.1 as usize].distance(self.points[o.2 as usize]);
            if let (Some(first), Some(least)) = (same().next(), same().min_by(|a, b| off(a).total_cmp(&off(b)))) {
                self.points[*within as usize] = self.points[first.1 as usize];
                self.points[*beyond as usize] = self.points[least.2 as usize];
            }
        }
        let radius = ball.feet[0].1.distance(ball.centre);
        let middle = ball.feet.iter().map(|f| (f.1 - ball.centre) / radius).sum::<Point>();
        let middle = ball.centre + middle.normalize_or_zero() * radius;
        let top = self.put(middle);
        // From the middle to just within each foot.
        let count = arcs[0].1.len() + 1;
        let mut rays: Vec<(FaceId, Vec<u32>)> = Vec::new();
        for (face, _, _) in &ball.feet {
            let Some(end) = own.iter().find(|o| o.0 == *face).map(|o| o.1) else { return };
            let foot = self.points[end as usize];
            let ray = (0..=count).map(|l| match l {
                0 => top,
                l if l == count => end,
                l => self.put(slerp(ball.centre, middle, foot, l as f64 / count as f64)),
            });
            rays.push((*face, ray.collect()));
        }
        let face = self.face(ball.runs[0].0);
        for (faces, arc) in &arcs {
            let ray = |f: FaceId| rays.iter().find(|r| r.0 == f).map(|r| &r.1);
            let (Some(left), Some(right)) = (ray(faces[0]), ray(faces[1])) else { return };
            let (left, right) = (left.clone(), right.clone());
            self.sector(ball.centre, (&left, &right), arc, face);
        }
    }

    /// The part of a ball between two rays from one point and the arc between their ends.
    fn sector(&mut self, centre: Point, (left, right): (&[u32], &[u32]), arc: &[u32], face: FaceId) {
        let n = left.len() - 1;
        let mut level = vec![left[0]];
        for l in 1..=n {
            let (p, q) = (self.points[left[l] as usize], self.points[right[l] as usize]);
            let between = (1..l).map(|m| match l {
                l if l == n => arc[m - 1],
                _ => self.put(slerp(centre, p, q, m as f64 / l as f64)),
            });
            let between: Vec<u32> = between.collect();
            let next = [&left[l..=l], &between[..], &right[l..=l]].concat();
            for m in 0..level.len() {
                self.triangle([level[m], next[m], next[m + 1]], face);
                if m + 1 < level.len() {
                    self.triangle([level[m], next[m + 1], level[m + 1]], face);
                }
            }
            level = next;
        }
    }
}
/// Whether a section lies ahead of another, all of it.
pub(super) fn past(from: &Station, to: &Station) -> bool {
    let ahead = |p: Point, q: Point| (q - p).dot(from.along) > 1e-9 * from.reach();
    let centres = from.centre.zip(to.centre).is_none_or(|(p, q)| ahead(p, q));
    centres && ahead(from.feet[0], to.feet[0]) && ahead(from.feet[1], to.feet[1])
}
