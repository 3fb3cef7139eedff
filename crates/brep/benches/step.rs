//! STEP files read and made triangles, and triangles written as STEP.
#![allow(missing_docs)]

use std::hint::black_box;

use criterion::{Criterion, criterion_group, criterion_main};
use nimbet_brep::{Fineness, read_step, tessellate, write_step};
use nimbet_kernel::shapes::{ball, turned};
use nimbet_kernel::{FaceId, Mesh, Point, Progress};

const FINE: Fineness = Fineness { chord: 0.02, angle: 0.2618 };

/// Drums that stand in rows, three faces each.
fn drums(count: usize) -> Mesh {
    let (mut points, mut triangles, mut faces) = (vec![], vec![], vec![]);
    let one = turned(&[(0.0, 0.0), (4.0, 0.0), (4.0, 9.0), (0.0, 9.0)], 48);
    for n in 0..count {
        let (first, by) = (points.len() as u32, Point::new((n % 40) as f64 * 10.0, (n / 40) as f64 * 10.0, 0.0));
        points.extend(one.points().iter().map(|p| *p + by));
        for t in 0..one.triangles().len() {
            triangles.push(one.triangles()[t].map(|c| c + first));
            let up = one.area_vector(t).normalize_or_zero().z;
            faces.push(FaceId(3 * n as u32 + if up > 0.9 { 1 } else { u32::from(up < -0.9) * 2 }));
        }
    }
    Mesh::new(points, triangles, faces).unwrap_or_default()
}

/// A ball each triangle of which is a face of its own.
fn facets(n: usize) -> Mesh {
    ball(50.0, n).regroup(|t| FaceId(t as u32))
}

fn step(c: &mut Criterion) {
    let quiet = Progress::unwatched();
    let write = |mesh: &Mesh| write_step(("bench", [90; 3]), mesh, &quiet).map(|w| w.0).unwrap_or_default();
    for (name, mesh) in [("1002 exact faces", drums(334)), ("48k facets", facets(110))] {
        let bytes = write(&mesh);
        println!("{name}: {} triangles, {:.1} MB", mesh.triangles().len(), bytes.len() as f64 / 1e6);
        let mut group = c.benchmark_group(name);
        group.sample_size(10);
        group.bench_function("write", |b| b.iter(|| write(black_box(&mesh))));
        group.bench_function("read", |b| b.iter(|| read_step(black_box(&bytes[..]), &quiet).map(|r| r.items.len())));
        let read = read_step(&bytes[..], &quiet);
        group.bench_function("make triangles", |b| {
            b.iter(|| {
                let bodies = read.iter().flat_map(|r| &r.bodies);
                bodies
                    .map(|body| tessellate(body, &FINE, 5_000_000, &quiet).map_or(0, |t| t.mesh.triangles().len()))
                    .sum::<usize>()
            })
        });
        group.finish();
    }
}

criterion_group!(benches, step);
criterion_main!(benches);
