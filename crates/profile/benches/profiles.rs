//! Profiles: rules settled and led by the hand, many regions to a body.
#![allow(missing_docs)] // criterion's macro makes a public function

use criterion::{BenchmarkId, Criterion, criterion_group, criterion_main};
use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Point, Progress};
use nimbet_profile::bodies::{Extrusion, extrude, flatten_regions};
use nimbet_profile::change::Change;
use nimbet_profile::drawing::Drawing;
use nimbet_profile::text::read;
use nimbet_profile::{Flat, Network};
use std::fmt::Write as _;
use std::hint::black_box;

/// A stair of `n / 2` treads, all its lines in one set: each level or upright, each with its length.
fn stair(rules: usize) -> Drawing {
    let (mut list, mut holds) = (String::new(), String::new());
    for k in 0..rules / 2 {
        let (tread, x, y) = (k % 2 == 0, 10.0 * k.div_ceil(2) as f64, 6.0 * (k / 2) as f64);
        let (to_x, to_y) = if tread { (x + 10.0, y) } else { (x, y + 6.0) };
        let _ = writeln!(list, "l{k} line from {x}, {y} to {to_x}, {to_y}");
        let (way, length) = if tread { ("level", 10) } else { ("upright", 6) };
        let _ = writeln!(holds, "h{k} {way} l{k}\ng{k} length of l{k} {length}");
    }
    read(&(list + &holds)).unwrap_or_default()
}

fn rules(c: &mut Criterion) {
    let quiet = Progress::unwatched();
    let mut group = c.benchmark_group("rules");
    group.sample_size(20);
    for count in [10, 100, 300, 1_000] {
        let drawing = stair(count);
        assert_eq!(drawing.holds.len(), count);
        let figure = Change::Figure { hold: "g0".into(), value: 12.5 };
        group.bench_with_input(BenchmarkId::new("a figure", count), &drawing, |b, drawing| {
            b.iter(|| black_box(drawing.changed(&figure, &quiet)));
        });
        // As while dragging: a millimetre a move.
        let to = drawing.dragged("l0", "from", Flat::new(0.7, 0.7), false).unwrap_or_default();
        group.bench_with_input(BenchmarkId::new("a move of the hand", count), &drawing, |b, drawing| {
            b.iter(|| black_box(drawing.led(&to, &quiet)));
        });
        group.bench_with_input(BenchmarkId::new("what is loose", count), &drawing, |b, drawing| {
            b.iter(|| black_box(drawing.loose(&quiet)));
        });
    }
    group.finish();
}

/// Squares side by side, none touching.
fn apart(regions: usize) -> Drawing {
    let mut list = String::new();
    for k in 0..regions {
        let (x, y) = ((k % 25) as f64 * 12.0, (k / 25) as f64 * 12.0);
        let _ = writeln!(list, "f{k} frame at {x}, {y} size 10 x 10 radius 2");
    }
    read(&list).unwrap_or_default()
}

fn regions(c: &mut Criterion) {
    let quiet = Progress::unwatched();
    let mut group = c.benchmark_group("profile");
    group.sample_size(10);
    let network = Network::new(apart(500).curves().unwrap_or_default(), &quiet);
    let plane = PlaneFrame::upright(Point::ZERO, Point::new(0.0, 0.0, 1.0));
    if let (Ok(network), Some(plane)) = (network, plane) {
        let regions = network.regions(&quiet).unwrap_or_default();
        let all: Vec<usize> = (0..regions.len()).collect();
        assert_eq!(all.len(), 500);
        group.bench_function("500 regions extruded", |b| {
            b.iter(|| {
                let flat = flatten_regions(&network, &regions, &all, 0.01).ok()?;
                extrude(&flat, &plane, &Extrusion { below: 0.0, above: 5.0, draft: 0.0 }).ok()
            });
        });
    }
    group.finish();
}

criterion_group!(benches, rules, regions);
criterion_main!(benches);
