//! The passes every examination is made of, on balls of 10,000, 100,000 and 1,000,000 triangles.
#![allow(missing_docs)] // criterion's macro makes a public function

use criterion::{BenchmarkId, Criterion, Throughput, criterion_group, criterion_main};
use nimbet_kernel::arrange::Arrangement;
use nimbet_kernel::crossings::{crossing_pairs, triangle_bvh};
use nimbet_kernel::{Mesh, Point, Progress, Topology, measure, rims, shapes, weld};
use std::hint::black_box;

/// Rows of balls of about 10,000, 100,000 and 1,000,000 triangles.
const ROWS: [usize; 3] = [50, 158, 500];

fn passes(c: &mut Criterion) {
    for rows in ROWS {
        let mesh = shapes::ball(50.0, rows).retain_triangles(|t| t % 1000 != 0);
        let count = mesh.triangles().len();
        let mut group = c.benchmark_group("kernel");
        group.sample_size(10).throughput(Throughput::Elements(count as u64));
        let corners: Vec<_> = (0..count).flat_map(|t| mesh.corners(t)).collect();
        group.bench_function(BenchmarkId::new("weld", count), |b| b.iter(|| weld::weld_corners(black_box(&corners))));
        group.bench_function(BenchmarkId::new("topology", count), |b| {
            b.iter(|| Topology::new(black_box(mesh.triangles()), mesh.points().len()).edge_count());
        });
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        group.bench_function(BenchmarkId::new("rims", count), |b| b.iter(|| rims::rims(black_box(&topology))));
        group.bench_function(BenchmarkId::new("volume and inertia", count), |b| {
            b.iter(|| measure::measure(black_box(&mesh)));
        });
        group.bench_function(BenchmarkId::new("hierarchy", count), |b| b.iter(|| triangle_bvh(black_box(&mesh))));
        group.bench_function(BenchmarkId::new("crossings", count), |b| {
            b.iter(|| crossing_pairs(&mesh, &triangle_bvh(black_box(&mesh)), &Progress::unwatched()));
        });
        group.finish();
    }
}

/// Two balls of so many triangles each that cross, and a small bore in a large ball.
fn bodies(c: &mut Criterion) {
    let quiet = Progress::unwatched();
    for rows in ROWS {
        let ball = shapes::ball(50.0, rows);
        let other = ball.clone().map_points(|p| p + Point::new(31.0, 7.0, 11.0)).unwrap_or_default();
        let drill = shapes::block(Point::new(-1.0, -1.0, 40.0), Point::new(2.0, 2.0, 20.0));
        let count = ball.triangles().len();
        let mut group = c.benchmark_group("bodies");
        group.sample_size(10).throughput(Throughput::Elements(2 * count as u64));
        let made = |inputs: &[&Mesh], rule: fn(&[i16]) -> bool| {
            Arrangement::new(inputs, &[], &quiet).ok().and_then(|a| a.body(rule, &quiet).ok())
        };
        group.bench_function(BenchmarkId::new("union of two", count), |b| {
            b.iter(|| made(black_box(&[&ball, &other]), |w| w[0] > 0 || w[1] > 0));
        });
        group.bench_function(BenchmarkId::new("difference of two", count), |b| {
            b.iter(|| made(black_box(&[&ball, &other]), |w| w[0] > 0 && w[1] <= 0));
        });
        group.bench_function(BenchmarkId::new("a small bore", count), |b| {
            b.iter(|| made(black_box(&[&ball, &drill]), |w| w[0] > 0 && w[1] <= 0));
        });
        group.finish();
    }
}

criterion_group!(benches, passes, bodies);
criterion_main!(benches);
