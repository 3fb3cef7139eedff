//! Surgery along the border: merging naked points and putting points on naked edges, with every promise checked.
//!
//! Each corner of each triangle remembers where it was on the surface that came in. A merge is made only if all corners it
//! gathers can meet at one place no farther than half the reach from where each was, no triangle turns over or loses its
//! area, and no edge gets a third triangle. So the promises hold by construction, whatever order merges come in.

use std::collections::HashMap;

use nimbet_kernel::topology::ends;
use nimbet_kernel::{FaceId, Mesh, Point};

/// Rounding slack on the half reach.
const SLACK: f64 = 1.0 + 1e-9;

pub(super) struct Seam {
    pub points: Vec<Point>,
    pub triangles: Vec<[u32; 3]>,
    faces: Vec<FaceId>,
    /// Where the corners of touched triangles were at first; corners of others are where they are.
    origins: HashMap<u32, [Point; 3]>,
    /// Triangles round each border point, kept up to date by merges and splits.
    star: HashMap<u32, Vec<u32>>,
    /// What a merged point has become.
    became: HashMap<u32, u32>,
    half_reach: f64,
    pub merged: usize,
    pub inserted: usize,
}

impl Seam {
    pub fn new(mesh: &Mesh, reach: f64) -> Self {
        Self {
            points: mesh.points().to_vec(),
            triangles: mesh.triangles().to_vec(),
            faces: mesh.face_of().to_vec(),
            origins: HashMap::new(),
            star: HashMap::new(),
            became: HashMap::new(),
            half_reach: reach * 0.5,
            merged: 0,
            inserted: 0,
        }
    }

    /// Looks up the triangles round the given border points and forgets merges of the pass before.
    pub fn begin_pass(&mut self, border_points: impl Iterator<Item = u32>) {
        self.became.clear();
        self.star.clear();
        let mut wanted = vec![false; self.points.len()];
        for v in border_points {
            wanted[v as usize] = true;
            self.star.insert(v, Vec::new());
        }
        for (t, corners) in self.triangles.iter().enumerate() {
            for c in corners {
                if wanted[*c as usize]
                    && let Some(star) = self.star.get_mut(c)
                {
                    star.push(t as u32);
                }
            }
        }
    }

    /// What a border point is called now.
    pub fn now(&self, mut v: u32) -> u32 {
        while let Some(&w) = self.became.get(&v) {
            v = w;
        }
        v
    }

    fn star(&self, v: u32) -> &[u32] {
        self.star.get(&v).map_or(&[], Vec::as_slice)
    }

    fn corner_origins(&self, t: u32) -> [Point; 3] {
        self.origins.get(&t).copied().unwrap_or_else(|| self.triangles[t as usize].map(|v| self.points[v as usize]))
    }

    /// The half from `a` to `b`, if some triangle has it.
    pub fn half_between(&self, a: u32, b: u32) -> Option<u32> {
        self.star(a).iter().flat_map(|&t| (0..3).map(move |k| 3 * t + k)).find(|&h| ends(&self.triangles, h) == (a, b))
    }

    /// Merges border points `v` and `w` if every promise allows it. `agree` demands that the sides of the surfaces agree
    /// along every edge that closes.
    pub fn merge(&mut self, v: u32, w: u32, agree: bool) -> bool {
        let (v, w) = if v < w { (w, v) } else { (v, w) };
        if v == w || self.star(v).iter().any(|&t| self.triangles[t as usize].contains(&w)) {
            return false;
        }
        if !self.edges_stay_sound(v, w, agree) {
            return false;
        }
        let gathered: Vec<Point> = [v, w]
            .iter()
            .flat_map(|&u| self.star(u).iter().map(move |&t| (u, t)))
            .filter_map(|(u, t)| {
                let k = self.triangles[t as usize].iter().position(|&c| c == u)?;
                Some(self.corner_origins(t)[k])
            })
            .collect();
        let Some(place) = self.meeting_place(&gathered, v, w) else { return false };
        for t in self.star(v).to_vec() {
            let origins = self.corner_origins(t);
            self.origins.insert(t, origins);
            for c in &mut self.triangles[t as usize] {
                if *c == v {
                    *c = w;
                }
            }
        }
        for t in self.star(w).to_vec() {
            let origins = self.corner_origins(t);
            self.origins.insert(t, origins);
        }
        let moved = self.star.remove(&v).unwrap_or_default();
        self.star.entry(w).or_default().extend(moved);
        self.points[w as usize] = place;
        self.became.insert(v, w);
        self.merged += 1;
        true
    }

    /// Puts a point on the naked half from `a` to `b` at `at` (0 to 1), splitting its triangle.
    pub fn insert(&mut self, a: u32, b: u32, at: f64) -> Option<u32> {
        let half = self.half_between(a, b)?;
        let (t, k) = (half / 3, (half % 3) as usize);
        let [o0, o1, o2] = [0, 1, 2].map(|i| self.corner_origins(t)[(k + i) % 3]);
        let apex = self.triangles[t as usize][(k + 2) % 3];
        let p = self.points.len() as u32;
        let place = self.points[a as usize].lerp(self.points[b as usize], at);
        let whole = (self.points[b as usize] - self.points[a as usize])
            .cross(self.points[apex as usize] - self.points[a as usize]);
        // Thinner than this the halves would have no area left in double precision.
        if at * whole.length() <= f64::MIN_POSITIVE || (1.0 - at) * whole.length() <= f64::MIN_POSITIVE {
            return None;
        }
        let origin = o0.lerp(o1, at);
        self.points.push(place);
        let new = self.triangles.len() as u32;
        self.triangles[t as usize] = [a, p, apex];
        self.triangles.push([p, b, apex]);
        self.faces.push(self.faces[t as usize]);
        self.origins.insert(t, [o0, origin, o2]);
        self.origins.insert(new, [origin, o1, o2]);
        if let Some(star) = self.star.get_mut(&b) {
            star.retain(|&u| u != t);
            star.push(new);
        }
        if let Some(star) = self.star.get_mut(&apex) {
            star.push(new);
        }
        self.star.insert(p, vec![t, new]);
        self.inserted += 1;
        Some(p)
    }

    /// Takes back the last [`Seam::insert`] (which gave `p` on `a`–`b`), when nothing was merged since.
    pub fn remove_inserted(&mut self, p: u32, a: u32, b: u32) {
        let Some(new) = self.triangles.len().checked_sub(1).map(|t| t as u32) else { return };
        let Some(&[t, last]) = self.star.get(&p).map(Vec::as_slice) else { return };
        debug_assert_eq!((last, p as usize), (new, self.points.len() - 1));
        let apex = self.triangles[t as usize][2];
        let (first, second) = (self.corner_origins(t), self.corner_origins(new));
        self.triangles[t as usize] = [a, b, apex];
        self.origins.insert(t, [first[0], second[1], first[2]]);
        self.triangles.pop();
        self.faces.pop();
        self.points.pop();
        self.origins.remove(&new);
        self.star.remove(&p);
        if let Some(star) = self.star.get_mut(&b) {
            star.retain(|&u| u != new);
            star.push(t);
        }
        if let Some(star) = self.star.get_mut(&apex) {
            star.retain(|&u| u != new);
        }
        self.inserted -= 1;
    }

    /// Whether after renaming `v` to `w` no edge at `w` has more than two triangles, nor two that clash if `agree`.
    fn edges_stay_sound(&self, v: u32, w: u32, agree: bool) -> bool {
        let mut out: HashMap<u32, (u32, u32)> = HashMap::new();
        let mut before: HashMap<u32, u32> = HashMap::new();
        for (u, t) in [v, w].iter().flat_map(|&u| self.star(u).iter().map(move |&t| (u, t))) {
            let corners = self.triangles[t as usize];
            for k in 0..3 {
                let (a, b) = (corners[k], corners[(k + 1) % 3]);
                if a == u {
                    out.entry(b).or_default().0 += 1;
                    *before.entry(b).or_default() |= if u == v { 1 } else { 2 };
                } else if b == u {
                    out.entry(a).or_default().1 += 1;
                    *before.entry(a).or_default() |= if u == v { 1 } else { 2 };
                }
            }
        }
        // Only edges that come together by this merge are judged; what was unsound before is not its fault.
        out.iter().all(|(x, &(from, to))| before[x] != 3 || (from + to == 2 && (!agree || from == 1)))
    }

    /// A place within half the reach of all `gathered`, at which no triangle round `v` or `w` turns over.
    fn meeting_place(&self, gathered: &[Point], v: u32, w: u32) -> Option<Point> {
        let fits = |p: Point| gathered.iter().all(|g| (*g - p).length() <= self.half_reach * SLACK);
        let candidates = [enclosing_centre(gathered), self.points[w as usize], self.points[v as usize]];
        candidates.into_iter().find(|&p| fits(p) && self.stays_upright(p, v, w))
    }

    fn stays_upright(&self, p: Point, v: u32, w: u32) -> bool {
        [v, w].iter().flat_map(|&u| self.star(u)).all(|&t| {
            let corners = self.triangles[t as usize];
            let place = |moved: bool, c: u32| if moved && (c == v || c == w) { p } else { self.points[c as usize] };
            let normal = |q: [Point; 3]| (q[1] - q[0]).cross(q[2] - q[0]);
            let before = normal(self.corner_origins(t));
            let after_corners = corners.map(|c| place(true, c));
            let after = normal(after_corners);
            before.dot(after) > 0.0 && !crate::examine::is_degenerate(after_corners)
                || before == Point::ZERO && after != Point::ZERO
        })
    }

    /// The mesh, and the farthest any corner has moved.
    pub fn finish(self) -> Result<(Mesh, f64), nimbet_kernel::MeshError> {
        let mut farthest = 0.0f64;
        for (&t, origins) in &self.origins {
            for (k, origin) in origins.iter().enumerate() {
                let now = self.points[self.triangles[t as usize][k] as usize];
                farthest = farthest.max((now - *origin).length());
            }
        }
        Ok((Mesh::new(self.points, self.triangles, self.faces)?.retain_triangles(|_| true), farthest))
    }
}

/// The centre of a ball round the points, nearly the smallest: exact for two points, and improved step by step for more
/// (after Bădoiu and Clarkson 2003).
fn enclosing_centre(points: &[Point]) -> Point {
    const STEPS: u32 = 64;
    let farthest = |from: Point| {
        points
            .iter()
            .copied()
            .fold(from, |far, p| if (p - from).length_squared() > (far - from).length_squared() { p } else { far })
    };
    let Some(&start) = points.first() else { return Point::ZERO };
    let a = farthest(start);
    let mut centre = (a + farthest(a)) * 0.5;
    let radius = |c: Point| (farthest(c) - c).length_squared();
    for step in 0..STEPS {
        let next = centre + (farthest(centre) - centre) / f64::from(step + 8);
        if radius(next) < radius(centre) {
            centre = next;
        }
    }
    centre
}
