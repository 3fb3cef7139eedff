//! Smoothing without shrinking: each pass moves points towards the mean of their neighbours and then a little farther back
//! (Taubin 1995). Cost: passes × edges.

use rayon::prelude::*;

use crate::{Cancelled, Mesh, Point, Progress, Topology};

/// How far a pass moves towards the neighbours …
const THERE: f64 = 0.5;
/// … and back: waves longer than about ten edges stay as they are.
const BACK: f64 = -0.526;

/// Moves the points of `mesh` for `passes` passes, each by its share `weight` (0 held, 1 fully); gives their new places.
///
/// # Errors
/// [`Cancelled`].
pub fn smooth(mesh: &Mesh, weight: &[f64], passes: u32, progress: &Progress) -> Result<Vec<Point>, Cancelled> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let mut start = vec![0u32; mesh.points().len() + 1];
    let edges: Vec<(u32, u32)> =
        (0..topology.edge_count() as u32).map(|e| topology.ends(topology.halves(e)[0])).collect();
    for &(a, b) in &edges {
        start[a as usize + 1] += 1;
        start[b as usize + 1] += 1;
    }
    for i in 0..mesh.points().len() {
        start[i + 1] += start[i];
    }
    let mut beside = vec![0u32; edges.len() * 2];
    let mut next = start.clone();
    for &(a, b) in &edges {
        for (p, q) in [(a, b), (b, a)] {
            beside[next[p as usize] as usize] = q;
            next[p as usize] += 1;
        }
    }
    let mut points = mesh.points().to_vec();
    for pass in 0..passes {
        progress.report(f64::from(pass) / f64::from(passes), "smoothing")?;
        for share in [THERE, BACK] {
            points = (0..points.len())
                .into_par_iter()
                .with_min_len(4096)
                .map(|p| {
                    let round = &beside[start[p] as usize..start[p + 1] as usize];
                    if weight[p] == 0.0 || round.is_empty() {
                        return points[p];
                    }
                    let mean = round.iter().map(|&q| points[q as usize]).sum::<Point>() / round.len() as f64;
                    points[p] + (mean - points[p]) * (share * weight[p])
                })
                .collect();
        }
    }
    Ok(points)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::measure::measure;
    use crate::shapes;

    #[test]
    fn noise_goes_and_the_volume_stays() {
        let ball = shapes::ball(10.0, 40);
        let (mut points, triangles, faces) = ball.clone().into_parts();
        for (n, p) in points.iter_mut().enumerate() {
            *p *= 1.0 + 0.01 * ((n * 7919 % 1000) as f64 / 500.0 - 1.0);
        }
        let rough = Mesh::new(points, triangles.clone(), faces.clone()).unwrap();
        let weight = vec![1.0; rough.points().len()];
        let smoothed = smooth(&rough, &weight, 20, &Progress::unwatched()).unwrap();
        let off = |p: &[Point]| p.iter().map(|p| (p.length() - 10.0).powi(2)).sum::<f64>().sqrt();
        assert!(off(&smoothed) < 0.45 * off(rough.points()), "{} of {}", off(&smoothed), off(rough.points()));
        let smoothed = Mesh::new(smoothed, triangles, faces).unwrap();
        assert!((measure(&smoothed).volume / measure(&ball).volume - 1.0).abs() < 0.01);
        assert_eq!(smooth(&rough, &vec![0.0; weight.len()], 5, &Progress::unwatched()).unwrap(), rough.points());
    }
}
