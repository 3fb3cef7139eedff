//! The passes every examination is made of, on balls of 10,000, 100,000 and 1,000,000 triangles.
#![allow(missing_docs)] // criterion's macro makes a public function

use criterion::{BenchmarkId, Criterion, Throughput, criterion_group, criterion_main};
use nimbet_kernel::crossings::{crossing_pairs, triangle_bvh};
use nimbet_kernel::{Progress, Topology, measure, rims, shapes, weld};
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

criterion_group!(benches, passes);
criterion_main!(benches);
