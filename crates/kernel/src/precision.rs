//! How exactly points were written down.

use crate::{Aabb, Point};

/// The precision of points of which nothing else is known, as a share of their extent: that of single precision about their
/// middle.
const FINE: f64 = 1.0 / (1 << 22) as f64;
/// What is farther apart than this share of the extent is never one place.
const COARSE: f64 = 6e-5;
/// Two points rounded to single precision each are so many of its steps off at most.
const ROUNDED: f64 = 2.0;

/// Points nearer to each other than this, mm, may have been meant for one. It comes from the points themselves: their extent,
/// and whether they are written in single precision, in some unit, wherever they lie. Cost: linear.
pub fn precision<'a>(points: impl Iterator<Item = &'a Point> + Clone) -> f64 {
    let size = Aabb::of(points.clone().copied()).size().max_element().max(0.0);
    let single = step_of_single(points).unwrap_or(0.0) * ROUNDED;
    single.clamp(FINE * size, COARSE * size)
}

/// The step of single precision at the farthest of some points, mm, if they are written in it, in some unit.
fn step_of_single<'a>(points: impl Iterator<Item = &'a Point> + Clone) -> Option<f64> {
    /// Millimetres, centimetres, inches, metres.
    const UNITS: [f64; 4] = [1.0, 10.0, 25.4, 1000.0];
    /// So much of the points may have been made since.
    const OTHERS: f64 = 0.2;
    let (mut count, mut farthest, mut others) = (0usize, 0.0f64, [0usize; UNITS.len()]);
    let is_single = |x: f64, unit: f64| (f64::from((x / unit) as f32) * unit - x).abs() <= f64::EPSILON * x.abs();
    for p in points {
        count += 1;
        farthest = farthest.max(p.abs().max_element());
        for (unit, others) in UNITS.into_iter().zip(&mut others) {
            *others += usize::from(!p.to_array().iter().all(|x| is_single(*x, unit)));
        }
    }
    let written = |others: usize| others as f64 <= OTHERS * count as f64;
    let unit = UNITS.into_iter().zip(others).find(|(_, others)| written(*others))?.0;
    let step = |x: f32| f64::from(x.next_up()) - f64::from(x);
    (farthest > 0.0).then(|| step((farthest / unit) as f32) * unit)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_written_in_single_precision_is_known_in_every_unit() {
        let points: Vec<Point> =
            (0..50).map(|n| Point::new(f64::from(n) * 0.37, (f64::from(n) * 1.3).sin(), 0.1)).collect();
        let of = |points: &[Point]| precision(points.iter());
        let size = 49.0 * 0.37;
        assert_eq!(of(&points), FINE * size);
        for (unit, far) in [(1.0, 5000.0), (25.4, 300.0), (1000.0, 900.0), (10.0, 0.0)] {
            let single = |p: &Point| ((*p + far) / unit).as_vec3().as_dvec3() * unit;
            let written: Vec<Point> = points.iter().map(single).collect();
            let off = written.iter().zip(&points).map(|(w, p)| (*w - *p - far).length()).fold(0.0, f64::max);
            let found = of(&written);
            assert!(found >= off && found <= (off * 8.0).max(FINE * size * 1.01), "{unit} {far}: {found}, {off}");
        }
        assert_eq!(of(&[]), 0.0);
        assert_eq!(of(&[Point::splat(1e8)]), 0.0);
    }
}
