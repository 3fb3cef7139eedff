//! Measuring again a mesh of which most was measured before.
//!
//! A thickness depends only on what lies in one ball that touches its place, as wide as it is straight through there. So where a
//! triangle is as it was, corner for corner, and nothing in that ball came or went, the thickness is what it was. What is taken
//! over and what is measured anew agree to rounding: among surfaces that are equally near another may be found first.

use rayon::prelude::*;

use super::{Gauge, Side, Thickness, Way, in_chunks};
use crate::segments::nearest_on_triangle;
use crate::{Aabb, Bvh, Cancelled, Mesh, Point, Progress};

/// A mesh with its thickness at places, kept to be measured again after a change.
#[derive(Debug)]
pub struct Measured {
    mesh: Mesh,
    /// In the order of their triangles.
    places: Vec<(u32, Point)>,
    how: (Side, Way),
    most: f64,
    found: Vec<Option<Thickness>>,
    /// For each place the diameter of the ball it depends on.
    reach: Vec<f64>,
    /// The triangles by a key of their corners.
    keys: Vec<(u64, u32)>,
    /// How many places had to be measured.
    anew: usize,
}

/// No triangle.
const NONE: u32 = u32::MAX;

impl Measured {
    /// Measures `places`, which come in the order of their triangles, as [`Gauge::all`] does; what `before` tells of them, measured
    /// the same way, is taken over.
    ///
    /// # Errors
    /// [`Cancelled`].
    pub fn new(
        mesh: Mesh,
        places: Vec<(u32, Point)>,
        (how, most): ((Side, Way), f64),
        before: Option<&Self>,
        progress: &Progress,
    ) -> Result<Self, Cancelled> {
        let keys = keys(&mesh);
        progress.check()?;
        let alike = before.filter(|b| b.how == how && b.most == most).map(|b| Alike::new(&mesh, &keys, b));
        let known: Vec<Option<(Option<Thickness>, f64)>> = match &alike {
            Some(alike) => in_chunks(&places, &progress.stage(0.0, 0.2), |place| alike.taken_over(&mesh, place))?,
            None => vec![None; places.len()],
        };
        let due: Vec<(u32, Point)> =
            places.iter().zip(&known).filter(|(_, known)| known.is_none()).map(|(place, _)| *place).collect();
        let anew = due.len();
        let mut measured = Vec::new();
        if anew > 0 {
            let gauge = Gauge::new(&mesh, how.0, most);
            let measure = |(t, p): &(u32, Point)| gauge.with_reach(*t as usize, *p, how.1);
            measured = in_chunks(&due, &progress.stage(0.2, 1.0), measure)?;
        }
        let mut measured = measured.into_iter();
        let (found, reach) = known.into_iter().map(|k| k.or_else(|| measured.next()).unwrap_or((None, 0.0))).unzip();
        Ok(Self { mesh, places, how, most, found, reach, keys, anew })
    }

    /// The mesh.
    pub fn mesh(&self) -> &Mesh {
        &self.mesh
    }

    /// Where it was measured.
    pub fn places(&self) -> &[(u32, Point)] {
        &self.places
    }

    /// The thickness at each place; none where nothing lies opposite within the most that is measured.
    pub fn found(&self) -> &[Option<Thickness>] {
        &self.found
    }

    /// How many places could not be taken over.
    pub fn anew(&self) -> usize {
        self.anew
    }

    /// Whether it was measured so, and how much of a mesh with these triangles it knows, from nought to one, by trying some.
    pub fn knows(&self, mesh: &Mesh, how: (Side, Way), most: f64) -> f64 {
        const TRIED: usize = 512;
        let count = mesh.triangles().len();
        if self.how != how || self.most != most || count == 0 {
            return 0.0;
        }
        let tried = (0..count).step_by(count.div_ceil(TRIED));
        let known = tried.clone().filter(|t| of_key(&self.keys, key(mesh.corners(*t))).is_some());
        known.count() as f64 / tried.count() as f64
    }

    /// Roughly what it takes of the memory, bytes.
    pub fn bytes(&self) -> usize {
        size_of_val(self.mesh.points())
            + self.mesh.triangles().len() * (size_of::<[u32; 4]>() + size_of::<(u64, u32)>())
            + self.places.len() * (size_of::<(u32, Point)>() + size_of::<Option<Thickness>>() + size_of::<f64>())
    }
}

/// Which triangles of a mesh were there before, and what came and went.
struct Alike<'a> {
    before: &'a Measured,
    /// For each triangle the one it was.
    was: Vec<u32>,
    /// For each that was the one it is.
    is: Vec<u32>,
    changed: Vec<[Point; 3]>,
    bvh: Bvh,
}

impl<'a> Alike<'a> {
    fn new(mesh: &Mesh, keys: &[(u64, u32)], before: &'a Measured) -> Self {
        let mut was = vec![NONE; mesh.triangles().len()];
        let mut is = vec![NONE; before.mesh.triangles().len()];
        let mut old = before.keys.iter().peekable();
        for (key, t) in keys {
            while old.next_if(|(k, _)| k < key).is_some() {}
            if let Some((_, o)) =
                old.next_if(|(k, o)| k == key && before.mesh.corners(*o as usize) == mesh.corners(*t as usize))
            {
                (was[*t as usize], is[*o as usize]) = (*o, *t);
            }
        }
        let lone = |map: &[u32], mesh: &Mesh| -> Vec<[Point; 3]> {
            map.iter().enumerate().filter(|(_, to)| **to == NONE).map(|(t, _)| mesh.corners(t)).collect()
        };
        let mut changed = lone(&was, mesh);
        changed.extend(lone(&is, &before.mesh));
        let bvh = Bvh::new(changed.iter().map(|c| Aabb::of(*c)).collect());
        Self { before, was, is, changed, bvh }
    }

    /// What was measured at a place, and its reach, where it is as it was.
    fn taken_over(&self, mesh: &Mesh, (t, place): &(u32, Point)) -> Option<(Option<Thickness>, f64)> {
        let was = self.was[*t as usize];
        if was == NONE {
            return None;
        }
        let places = &self.before.places;
        let from = places.partition_point(|(t, _)| *t < was);
        let n = places[from..].iter().take_while(|(t, _)| *t == was).position(|(_, p)| p == place)? + from;
        let (mut found, reach) = (self.before.found[n], self.before.reach[n]);
        if let Some(found) = &mut found {
            found.triangle = *self.is.get(found.triangle as usize).filter(|t| **t != NONE)?;
        }
        let normal = mesh.area_vector(*t as usize).normalize_or_zero();
        let inward = if self.before.how.0 == Side::Inside { -normal } else { normal };
        // A little more than the ball itself, so that rounding does not count.
        let (middle, radius) = (*place + inward * (reach * 0.5), reach * 0.5 * (1.0 + 1e-9));
        let off = |c: u32| Some((nearest_on_triangle(middle, self.changed[c as usize]) - middle).length_squared());
        self.bvh.nearest(middle, radius, off).is_none().then_some((found, reach))
    }
}

fn keys(mesh: &Mesh) -> Vec<(u64, u32)> {
    let mut keys: Vec<(u64, u32)> =
        (0..mesh.triangles().len()).into_par_iter().map(|t| (key(mesh.corners(t)), t as u32)).collect();
    keys.par_sort_unstable();
    keys
}

fn of_key(keys: &[(u64, u32)], key: u64) -> Option<u32> {
    let at = keys.partition_point(|(k, _)| *k < key);
    keys.get(at).filter(|(k, _)| *k == key).map(|(_, t)| *t)
}

/// A number for the corners of a triangle in their order; equal ones have the same, others hardly ever.
fn key(corners: [Point; 3]) -> u64 {
    corners.iter().flat_map(|p| p.to_array()).fold(0, |hash: u64, x| {
        // Nought has two signs.
        let mixed = (hash ^ (x + 0.0).to_bits()).wrapping_mul(0x9E37_79B9_7F4A_7C15);
        mixed ^ (mixed >> 29)
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes::{ball, block};
    use crate::thickness::{divide, middles};

    fn measured(mesh: &Mesh, how: (Side, Way), before: Option<&Measured>) -> Measured {
        let fine = divide(mesh, 0.8, 200_000);
        let places = middles(&fine);
        Measured::new(fine, places, (how, 4.0), before, &Progress::unwatched()).unwrap()
    }

    /// A slab with balls in it, as voids and beside it.
    fn slab(voids: &[(f64, f64)]) -> Mesh {
        let slab = block(Point::ZERO, Point::new(40.0, 20.0, 5.0));
        let (mut points, mut triangles) = (slab.points().to_vec(), slab.triangles().to_vec());
        for (x, radius) in voids {
            let void = ball(*radius, 10);
            let offset = points.len() as u32;
            points.extend(void.points().iter().map(|p| *p + Point::new(*x, 10.0, 2.5)));
            triangles.extend(void.triangles().iter().map(|[a, b, c]| [c + offset, b + offset, a + offset]));
        }
        Mesh::with_one_face(points, triangles).unwrap()
    }

    #[test]
    fn only_what_lies_near_a_change_is_measured_again_and_all_is_right() {
        for how in [(Side::Inside, Way::Ball), (Side::Inside, Way::Ray), (Side::Outside, Way::Ball)] {
            let first = measured(&slab(&[(10.0, 2.0)]), how, None);
            assert_eq!(first.anew(), first.places().len());
            let same = measured(&slab(&[(10.0, 2.0)]), how, Some(&first));
            assert!(same.anew() == 0 && same.found() == first.found(), "{how:?}");
            // One moves, one comes, and what was there first is not; the order of the triangles is another, too.
            for voids in [vec![(11.0, 2.0)], vec![(30.0, 1.0), (10.0, 2.0)], vec![]] {
                let again = measured(&slab(&voids), how, Some(&first));
                let afresh = measured(&slab(&voids), how, None);
                assert!(again.anew() < afresh.anew() / 2, "{how:?} {voids:?}: {} of {}", again.anew(), afresh.anew());
                for (a, b) in again.found().iter().zip(afresh.found()) {
                    assert_eq!(a.is_some(), b.is_some());
                    assert!(a.zip(*b).is_none_or(|(a, b)| (a.across - b.across).abs() < 1e-9), "{how:?}: {a:?} {b:?}");
                }
                // The far side is told by its number in this mesh.
                let on = |f: &Thickness| nearest_on_triangle(f.opposite, again.mesh().corners(f.triangle as usize));
                assert!(again.found().iter().flatten().all(|f| (on(f) - f.opposite).length() < 1e-9), "{how:?}");
            }
        }
        // Another way, or another most, knows nothing.
        let first = measured(&slab(&[]), (Side::Inside, Way::Ball), None);
        assert_eq!(first.knows(&slab(&[]), (Side::Inside, Way::Ray), 4.0), 0.0);
        assert!(measured(&slab(&[]), (Side::Inside, Way::Ray), Some(&first)).anew() > 0);
    }
}
