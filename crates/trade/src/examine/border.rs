//! The naked edges of a part as segments, and which of them face a point.
//!
//! A naked edge *faces* a naked point across a gap when it passes near, runs along the border there (within
//! [`LEAST_ALIGNMENT`]) and does not belong to the same triangles. Distance alone would join neighbours along one rim.

use std::collections::HashMap;
use std::ops::ControlFlow;

use nimbet_kernel::segments::nearest_on_segment;
use nimbet_kernel::topology::ends;
use nimbet_kernel::{Aabb, Bvh, Point};

/// The least |cosine| between two edges that face each other: 50°. Two sides of a seam are nearly parallel; a coarse
/// polygon against a fine one may differ by half its turn.
const LEAST_ALIGNMENT: f64 = 0.643;
/// Up to this share of the shorter edge a gap may as well be an overlap; wider ones must lie on the open side of the
/// border, else the two edges are two sides of a narrow strip of material.
const OVERLAP_SHARE: f64 = 0.3;

/// A naked edge that faces a point.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Facing {
    /// The segment (index into [`Border::halves`]).
    pub segment: u32,
    /// Where on it the nearest point is, 0 to 1.
    pub at: f64,
    /// How far away that is, mm.
    pub distance: f64,
    /// Whether the two borders run opposite ways, as they do when the sides of their surfaces agree.
    pub opposite: bool,
}

/// The naked edges of a set of triangles.
pub(crate) struct Border<'a> {
    points: &'a [Point],
    triangles: &'a [[u32; 3]],
    /// The naked halves; a segment is named by its place here.
    pub halves: Vec<u32>,
    /// For each point of the border its segments.
    pub at_point: HashMap<u32, Vec<u32>>,
    bvh: Bvh,
}

impl<'a> Border<'a> {
    pub fn new(points: &'a [Point], triangles: &'a [[u32; 3]], halves: Vec<u32>) -> Self {
        let mut at_point: HashMap<u32, Vec<u32>> = HashMap::new();
        let mut boxes = Vec::with_capacity(halves.len());
        for (segment, &half) in halves.iter().enumerate() {
            let (a, b) = ends(triangles, half);
            at_point.entry(a).or_default().push(segment as u32);
            at_point.entry(b).or_default().push(segment as u32);
            boxes.push(Aabb::of([points[a as usize], points[b as usize]]));
        }
        Self { points, triangles, halves, at_point, bvh: Bvh::new(boxes) }
    }

    /// The points a segment runs from and to.
    pub fn ends(&self, segment: u32) -> (u32, u32) {
        ends(self.triangles, self.halves[segment as usize])
    }

    /// The vector along a segment.
    pub fn along(&self, segment: u32) -> Point {
        let (a, b) = self.ends(segment);
        self.points[b as usize] - self.points[a as usize]
    }

    /// The direction, in the plane of the segment's triangle, that leads away from the material.
    fn open_side(&self, segment: u32) -> Point {
        let half = self.halves[segment as usize] as usize;
        let t = self.triangles[half / 3];
        let apex = self.points[t[(half % 3 + 2) % 3] as usize];
        let (a, b) = self.ends(segment);
        let (pa, pb) = (self.points[a as usize], self.points[b as usize]);
        let (t, _) = nearest_on_segment(apex, pa, pb);
        (pa.lerp(pb, t) - apex).normalize_or_zero()
    }

    /// The segments that face point `p`, which lies on the segments `own` of the border (at its ends if `end` names the
    /// border point), within `reach`; the nearest first.
    pub fn facing(&self, p: Point, own: &[u32], end: Option<u32>, reach: f64) -> Vec<Facing> {
        let mut found = Vec::new();
        let _ = self.bvh.overlapping(&Aabb::of([p]).grown(reach), |segment| {
            if let Some(facing) = self.face(p, own, end, reach, segment) {
                found.push(facing);
            }
            ControlFlow::Continue(())
        });
        found.sort_by(|x, y| x.distance.total_cmp(&y.distance).then(x.segment.cmp(&y.segment)));
        found
    }

    /// The nearest segment that faces `p` as in [`Border::facing`] and for which `counts` holds. Where borders crowd, this
    /// looks at few of them; where they lie through each other by the thousand, not at all of them.
    pub fn nearest_facing(
        &self,
        p: Point,
        own: &[u32],
        end: Option<u32>,
        reach: f64,
        counts: impl Fn(&Facing) -> bool,
    ) -> Option<Facing> {
        /// Nodes of the tree. Among borders that stand apart some tens are looked at.
        const MOST: usize = 500;
        let face = |segment| self.face(p, own, end, reach, segment).filter(&counts);
        let squared = |segment| face(segment).map(|f| f.distance * f.distance);
        let (segment, _) = self.bvh.nearest_within(p, reach, MOST, squared)?;
        face(segment)
    }

    fn face(&self, p: Point, own: &[u32], end: Option<u32>, reach: f64, segment: u32) -> Option<Facing> {
        let (a, b) = self.ends(segment);
        if own.contains(&segment) || end.is_some_and(|v| v == a || v == b || self.triangle(segment).contains(&v)) {
            return None;
        }
        let (at, squared) = nearest_on_segment(p, self.points[a as usize], self.points[b as usize]);
        let distance = squared.sqrt();
        if distance > reach {
            return None;
        }
        let along = self.along(segment);
        let (mine, cosine) = own
            .iter()
            .map(|&s| (s, self.along(s).dot(along) / (self.along(s).length() * along.length())))
            .max_by(|x, y| x.1.abs().total_cmp(&y.1.abs()))?;
        if cosine.is_nan() || cosine.abs() < LEAST_ALIGNMENT {
            return None;
        }
        // Segments that meet my own at its other end are the other side of a slit only if they come back.
        let (c, d) = self.ends(mine);
        let goes_on = (a == d || b == c) && cosine > 0.0 || (a == c || b == d) && cosine < 0.0;
        if goes_on {
            return None;
        }
        let shorter = self.along(mine).length().min(along.length());
        if distance > OVERLAP_SHARE * shorter {
            let across = self.points[a as usize].lerp(self.points[b as usize], at) - p;
            if across.dot(self.open_side(mine)) <= 0.0 || across.dot(self.open_side(segment)) >= 0.0 {
                return None;
            }
        }
        Some(Facing { segment, at, distance, opposite: cosine < 0.0 })
    }

    fn triangle(&self, segment: u32) -> [u32; 3] {
        self.triangles[self.halves[segment as usize] as usize / 3]
    }
}
