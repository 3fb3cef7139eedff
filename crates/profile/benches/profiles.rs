//! Profiles: rules settled and led by the hand, many regions to a body.
#![allow(missing_docs)] // criterion's macro makes a public function

use criterion::{BenchmarkId, Criterion, criterion_group, criterion_main};
use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Point, Progress};
use nimbet_profile::bodies::{
    Change as Carrying, Corner, Extrusion, Lofting, Ring, extrude, flatten_regions, loft, matched, placed, relief,
    sweep,
};
use nimbet_profile::change::Change;
use nimbet_profile::drawing::Drawing;
use nimbet_profile::path::{Helix, Holding, Path, Stretch};
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

/// A sheet ruled into cells that lie against each other.
fn ruled(across: usize, up: usize) -> Drawing {
    let mut list = String::new();
    for k in 0..=across {
        let _ = writeln!(list, "u{k} line from {}, 0 to {}, {}", 4 * k, 4 * k, 4 * up);
    }
    for k in 0..=up {
        let _ = writeln!(list, "v{k} line from 0, {} to {}, {}", 4 * k, 4 * across, 4 * k);
    }
    read(&list).unwrap_or_default()
}

fn bodies(c: &mut Criterion) {
    let quiet = Progress::unwatched();
    let mut group = c.benchmark_group("bodies");
    group.sample_size(10);
    let plane = PlaneFrame::upright(Point::ZERO, Point::Z);
    let network = Network::new(ruled(25, 20).curves().unwrap_or_default(), &quiet);
    if let (Ok(network), Some(plane)) = (network, plane) {
        let regions = network.regions(&quiet).unwrap_or_default();
        let heights: Vec<(usize, f64)> = (0..regions.len()).map(|r| (r, 1.0 + (r % 7) as f64)).collect();
        assert_eq!(heights.len(), 500);
        group.bench_function("relief of 500 regions", |b| {
            b.iter(|| relief(&network, &regions, &heights, (0.0, 0.01), &plane));
        });
    }
    let disc =
        Network::new(read("a circle at 0, 0 diameter 6").unwrap_or_default().curves().unwrap_or_default(), &quiet);
    if let Ok(disc) = disc {
        let regions = disc.regions(&quiet).unwrap_or_default();
        let flat = flatten_regions(&disc, &regions, &[0], 0.02);
        let turns = 20.0 * std::f64::consts::TAU;
        let helix =
            Helix { at: Point::ZERO, axis: Point::Z, out: Point::X, radius: [20.0; 2], height: 200.0, turn: turns };
        let path = Path { stretches: vec![Stretch::Helix(helix)], closed: false };
        if let Ok(flat) = flat {
            group.bench_function("a rod of 1,000 sections", |b| {
                b.iter(|| {
                    let stations = path.stations((0.0455, 3.0), 0.0, Holding::Square(Point::X)).ok()?;
                    let carrying = Carrying { twist: 0.0, scale: 1.0, corner: Corner::Round };
                    let places = placed(&stations, &carrying, (0.0455, 3.0)).ok()?;
                    assert!((900..1200).contains(&places.len()), "{}", places.len());
                    sweep(&flat, &places, false, &quiet).ok()
                });
            });
        }
    }
    let ring = |k: usize| {
        let at = |n: usize| {
            let angle = std::f64::consts::TAU * n as f64 / 2_000.0;
            let radius = 20.0 + 3.0 * (5.0 * angle + k as f64).sin() + k as f64;
            (Point::new(radius * angle.cos(), radius * angle.sin(), 10.0 * k as f64), 0)
        };
        Ring::new((0..2_000).map(at).collect(), true)
    };
    let rings: Vec<Ring> = (0..20).map(ring).collect();
    let how = Lofting { closed: true, round: false, smooth: false, ends: true, chord: 0.5 };
    group.bench_function("loft of 20 outlines of 2,000 points", |b| {
        b.iter(|| loft(&matched(rings.clone(), &[]), &how, &quiet));
    });
    group.finish();
}

criterion_group!(benches, rules, regions, bodies);
criterion_main!(benches);
