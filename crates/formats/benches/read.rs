//! From the bytes of a file to naked edges and rims, in every format, at 10,000, 100,000 and 1,000,000 triangles, of STL and 3MF at
//! 4,000,000; and of a drawing to its regions.
#![allow(missing_docs)] // criterion's macro makes a public function

use criterion::{BenchmarkId, Criterion, Throughput, criterion_group, criterion_main};
use nimbet_formats::{Body, LengthUnit, Limits, ReleaseFormat, read_model, read_outlines, write_body};
use nimbet_kernel::{Progress, Topology, rims, shapes};
use nimbet_profile::Network;
use nimbet_profile::drawing::{Drawing, Line};
use std::fmt::Write as _;
use std::hint::black_box;

/// Rows of the largest ball, of 4,000,000 triangles: only in the two formats that large files come in.
const LARGEST: usize = 1_000;

fn reading(c: &mut Criterion) {
    for rows in [50, 158, 500, LARGEST] {
        let mesh = shapes::ball(50.0, rows).retain_triangles(|t| t % 1000 != 0);
        let count = mesh.triangles().len();
        let mut group = c.benchmark_group("read, weld, topology, rims");
        group.sample_size(10).throughput(Throughput::Elements(count as u64));
        let large = |f: &ReleaseFormat| matches!(f, ReleaseFormat::Stl | ReleaseFormat::ThreeMf);
        for format in ReleaseFormat::TRIANGLES.into_iter().filter(|f| rows < LARGEST || large(f)) {
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

/// A drawing of circles in rows that cross each other, and lines across.
fn crossing(curves: usize) -> String {
    let mut dxf = String::from("0\nSECTION\n2\nENTITIES\n");
    for k in 0..curves {
        let (x, y) = ((k % 50) as f64 * 9.0, (k / 50) as f64 * 9.0);
        let _ = match k % 4 {
            0 => write!(dxf, "0\nLINE\n10\n{x}\n20\n{y}\n11\n{}\n21\n{}\n", x + 13.0, y + 2.0),
            _ => write!(dxf, "0\nCIRCLE\n10\n{x}\n20\n{y}\n40\n5\n"),
        };
    }
    dxf + "0\nENDSEC\n0\nEOF\n"
}

fn outlines(c: &mut Criterion) {
    let dxf = crossing(2_000);
    let mut group = c.benchmark_group("outlines");
    group.sample_size(10);
    group.bench_function("2 000 curves of a DXF to regions", |b| {
        b.iter(|| {
            let found = read_outlines(black_box(dxf.as_bytes()), None).ok()?;
            let named = |(n, draw)| Line::new(format!("l{n}"), draw);
            let lines = found.shapes.into_iter().enumerate().map(named).collect();
            let quiet = Progress::unwatched();
            let network = Network::new(Drawing { lines, holds: vec![] }.curves().ok()?, &quiet).ok()?;
            network.regions(&quiet).ok().map(|r| r.len())
        });
    });
    group.finish();
}

criterion_group!(benches, reading, outlines);
criterion_main!(benches);
