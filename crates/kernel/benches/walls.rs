//! Offsets and walls, at several sizes.
#![allow(clippy::unwrap_used, missing_docs)]

use criterion::{BenchmarkId, Criterion, criterion_group, criterion_main};
use nimbet_kernel::offset::{Corners, How, Rims, grow, grow_sampled, wall};
use nimbet_kernel::shapes::ball;
use nimbet_kernel::thickness::{Gauge, Measured, Side, Way, middles};
use nimbet_kernel::{Mesh, Point, Progress};

/// A wavy ball, as sculpted, with waves wider than the wall.
fn wavy(rows: usize) -> Mesh {
    let wave = |p: Point| 1.0 + 0.005 * ((p.x * 0.33).sin() + (p.y * 0.37).sin() + (p.z * 0.31).sin());
    ball(50.0, rows).map_points(|p| p * wave(p)).unwrap()
}

/// With a wall of about 2 mm, of twice as many triangles.
fn hollow(rows: usize) -> Mesh {
    let outer = wavy(rows);
    let mut inner = outer.clone().map_points(|p| p * 0.96).unwrap();
    inner.reverse_triangles(|_| true);
    let offset = outer.points().len() as u32;
    let points = outer.points().iter().chain(inner.points()).copied().collect();
    let inner = inner.triangles().iter().map(|t| t.map(|p| p + offset));
    Mesh::with_one_face(points, outer.triangles().iter().copied().chain(inner).collect()).unwrap()
}

/// The same with noise as fine as its triangles, as scanned.
fn rough(rows: usize) -> Mesh {
    let noise = |p: Point| 1.0 + 5e-4 * ((p.x * 91.7 + p.y * 57.3).sin() + (p.y * 83.1 + p.z * 71.9).sin());
    wavy(rows).map_points(|p| p * noise(p)).unwrap()
}

fn walls(c: &mut Criterion) {
    let mut group = c.benchmark_group("walls");
    group.sample_size(10);
    for (size, rows) in [("10k", 51), ("100k", 159), ("300k", 275), ("1M", 500)] {
        let (part, scan) = (wavy(rows), rough(rows));
        let sheet = part.retain_triangles(|t| part.corners(t).iter().all(|p| p.z < 30.0));
        group.bench_function(BenchmarkId::new("shrink a scan by 2 mm, sampled at 0.5 mm", size), |b| {
            b.iter(|| grow_sampled(&scan, -2.0, 0.5, &Progress::unwatched()).unwrap());
        });
        let hollow = hollow(rows);
        let how = ((Side::Inside, Way::Ball), 35.0);
        group.bench_function(BenchmarkId::new("wall map by ball", size), |b| {
            let places = middles(&hollow);
            b.iter(|| Gauge::new(&hollow, Side::Inside, 35.0).all(&places, Way::Ball, &Progress::unwatched()).unwrap());
        });
        let first = Measured::new(hollow.clone(), middles(&hollow), how, None, &Progress::unwatched()).unwrap();
        let dent = Point::new(50.0, 0.0, 0.0);
        let dented = |p: Point| if p.distance(dent) < 4.0 { p * 0.99 } else { p };
        let dented = hollow.clone().map_points(dented).unwrap();
        group.bench_function(BenchmarkId::new("wall map by ball, after a dent of 4 mm", size), |b| {
            b.iter(|| {
                let places = middles(&dented);
                Measured::new(dented.clone(), places, how, Some(&first), &Progress::unwatched()).unwrap().anew()
            });
        });
        group.bench_function(BenchmarkId::new("wall map by ray", size), |b| {
            let places = middles(&hollow);
            b.iter(|| Gauge::new(&hollow, Side::Inside, 35.0).all(&places, Way::Ray, &Progress::unwatched()).unwrap());
        });
        for corners in [Corners::Sharp, Corners::Round] {
            let how = How { corners, rims: Rims::Square, chord: 0.05 };
            group.bench_function(BenchmarkId::new(format!("shrink {corners:?} by 2 mm"), size), |b| {
                b.iter(|| grow(&part, &|_| -2.0, &how, &Progress::unwatched()).unwrap());
            });
            group.bench_function(BenchmarkId::new(format!("thicken {corners:?} by 2 mm"), size), |b| {
                b.iter(|| wall(&sheet, (-2.0, 0.0), None, &how, &Progress::unwatched()).unwrap());
            });
        }
    }
    group.finish();
}

criterion_group!(benches, walls);
criterion_main!(benches);
