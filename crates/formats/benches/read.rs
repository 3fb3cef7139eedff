//! From the bytes of a file to naked edges and rims, in every format, at 10,000, 100,000 and 1,000,000 triangles.
#![allow(missing_docs)] // criterion's macro makes a public function

use criterion::{BenchmarkId, Criterion, Throughput, criterion_group, criterion_main};
use nimbet_formats::{Body, LengthUnit, Limits, ReleaseFormat, read_model, write_body};
use nimbet_kernel::{Progress, Topology, rims, shapes};
use std::hint::black_box;

fn reading(c: &mut Criterion) {
    for rows in [50, 158, 500] {
        let mesh = shapes::ball(50.0, rows).retain_triangles(|t| t % 1000 != 0);
        let count = mesh.triangles().len();
        let mut group = c.benchmark_group("read, weld, topology, rims");
        group.sample_size(10).throughput(Throughput::Elements(count as u64));
        for format in ReleaseFormat::ALL {
            let body = Body { name: "ball", colour: [0; 3], mesh: &mesh };
            let Ok(bytes) = write_body(&body, format, LengthUnit::Millimetre) else { continue };
            let name = format!("ball.{}", format.extension());
            group.bench_function(BenchmarkId::new(format.extension(), count), |b| {
                b.iter(|| {
                    let quiet = Progress::unwatched();
                    read_model(black_box(&bytes[..]), bytes.len() as u64, &name, &Limits::default(), &quiet)
                        .map(|read| rims::rims(&Topology::new(read.mesh.triangles(), read.mesh.points().len())).len())
                });
            });
        }
        group.finish();
    }
}

criterion_group!(benches, reading);
criterion_main!(benches);
