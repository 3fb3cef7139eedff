//! Mass, sections and capacities, at several sizes.
#![allow(clippy::unwrap_used, missing_docs)]

use criterion::{BenchmarkId, Criterion, criterion_group, criterion_main};
use nimbet_kernel::level::{Seed, Vessel};
use nimbet_kernel::measure::measure;
use nimbet_kernel::section::section;
use nimbet_kernel::shapes::{ball, turned};
use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Point, Progress, Topology};

/// A cup with waves in its sides, of so many steps up and twice as many round.
fn cup(rows: usize) -> nimbet_kernel::Mesh {
    let side = |wall: f64, n: usize| {
        let z = n as f64 / rows as f64 * 80.0;
        (30.0 + wall + 3.0 * (z * 0.2).sin(), z + 2.0)
    };
    let mut profile = vec![(0.0, 0.0), side(2.0, 0)];
    profile.extend((1..=rows).map(|n| side(2.0, n)));
    profile.extend((0..=rows).rev().map(|n| side(0.0, n)));
    profile.push((0.0, 2.0));
    turned(&profile, rows * 2)
}

fn weigh(c: &mut Criterion) {
    let quiet = Progress::unwatched();
    let mut group = c.benchmark_group("weigh");
    group.sample_size(10);
    for (size, rows) in [("10k", 51), ("100k", 159), ("1M", 500), ("4M", 1000)] {
        let part = ball(50.0, rows);
        group.bench_function(BenchmarkId::new("mass properties", size), |b| b.iter(|| measure(&part)));
        let topology = Topology::new(part.triangles(), part.points().len());
        let plane = PlaneFrame::upright(Point::new(1.0, 2.0, 3.0), Point::new(1.0, 0.3, 0.2)).unwrap();
        group.bench_function(BenchmarkId::new("one section", size), |b| b.iter(|| section(&part, &topology, &plane)));
    }
    for (size, rows) in [("10k", 36), ("100k", 112), ("1M", 354)] {
        let cup = cup(rows);
        let floor = (0..cup.triangles().len()).rev().find(|t| cup.area_vector(*t).z > 0.0).unwrap();
        let seed = Seed { triangle: floor as u32, back: false };
        group.bench_function(BenchmarkId::new("brim of a vessel", size), |b| {
            b.iter(|| Vessel::new(&cup, seed, Point::Z, &quiet).unwrap().brim().level);
        });
        let known = Vessel::new(&cup, seed, Point::Z, &quiet).unwrap();
        let (seed, brim) = (known.seed(), known.brim().clone());
        group.bench_function(BenchmarkId::new("capacity at a dragged level", size), |b| {
            b.iter(|| Vessel::known(&cup, seed, Point::Z, brim.clone()).unwrap().pool(31.0).unwrap().volume);
        });
    }
}

criterion_group!(benches, weigh);
criterion_main!(benches);
