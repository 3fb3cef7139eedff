//! Finding and closing, on parts of 10,000, 100,000, 1,000,000 and 4,000,000 triangles; from a million on each is done once.
#![allow(missing_docs)] // criterion's macro makes a public function

use criterion::{BenchmarkId, Criterion, Throughput, criterion_group, criterion_main};
use nimbet_kernel::deviation::deviation;
use nimbet_kernel::{Mesh, Point, Progress, shapes, weld};
use nimbet_trade::Plan;
use nimbet_trade::seal::{CloseGaps, CoverRim, CoverStyle, FindInside, MergePoints, RimChoice, Smooth, Wrap};
use nimbet_trade::{Operation, examine};
use std::f64::consts::TAU;
use std::hint::black_box;
use std::time::Instant;

/// A ball with 193 holes, each the triangles round one point.
fn holed_ball(rows: usize) -> Mesh {
    let ball = shapes::ball(50.0, rows);
    let points = ball.points().len();
    let mut centre = vec![false; points];
    // Steps of a golden share of the points spread the holes; a row is skipped at either pole.
    for n in 0..193 {
        let share = (f64::from(n) * 0.618_033_988_749).fract() * 0.96 + 0.02;
        centre[(share * points as f64) as usize] = true;
    }
    ball.retain_triangles(|t| !ball.triangles()[t].iter().any(|&p| centre[p as usize]))
}

/// A ring in 15 patches cut into triangles separately, 0.02 to 0.08 mm apart.
fn patched_ring(triangles: usize) -> Mesh {
    const PATCHES: usize = 15;
    let sides = ((triangles / PATCHES / 2) as f64).sqrt() * 0.9;
    let mut soup: Vec<Point> = Vec::new();
    for patch in 0..PATCHES {
        let grow = 1.0 + 0.1 * (patch % 4) as f64;
        let (round, steps) = ((sides * grow) as usize, (sides * 1.2 / grow) as usize);
        let gap = (0.02 + 0.06 * (patch % 5) as f64 / 4.0) * 0.5;
        let at = |k: usize, step: usize| {
            let a = (k % round) as f64 / round as f64 * TAU;
            let (r, z) = (80.0 + 20.0 * a.cos(), 20.0 * a.sin());
            let (from, to) = (patch as f64 / 15.0 * TAU, (patch + 1) as f64 / 15.0 * TAU);
            let b = from + gap / r + (to - from - 2.0 * gap / r) * step as f64 / steps as f64;
            Point::new(r * b.cos(), r * b.sin(), z)
        };
        for step in 0..steps {
            for k in 0..round {
                let [a, b, c, d] = [at(k, step), at(k, step + 1), at(k + 1, step + 1), at(k + 1, step)];
                soup.extend([a, b, c, a, c, d]);
            }
        }
    }
    weld::weld_corners(&soup).unwrap_or_default()
}

fn sealing(c: &mut Criterion) {
    let quiet = Progress::unwatched();
    for (rows, wanted) in [(50, 10_000), (158, 100_000), (500, 1_000_000), (1000, 4_000_000)] {
        let (holed, patched) = (holed_ball(rows), patched_ring(wanted));
        let mut group = c.benchmark_group("seal");
        group.sample_size(10).throughput(Throughput::Elements(wanted as u64));
        let mut bench = |name: &str, work: &dyn Fn()| {
            if wanted >= 1_000_000 {
                let begin = Instant::now();
                work();
                println!("seal/{name}/{wanted}, once: {:.2?}", begin.elapsed());
                return;
            }
            group.bench_function(BenchmarkId::new(name, wanted), |b| b.iter(work));
        };
        bench("examine", &|| drop(black_box(examine(&holed, &quiet))));
        let cover = Operation::of(CoverRim { rims: RimChoice::All, style: CoverStyle::Taut, ..Default::default() });
        bench("cover 193 holes", &|| drop(black_box(cover.apply(&holed, &[], &quiet))));
        let close = Operation::of(CloseGaps { reach: 0.1, leave: vec![] });
        bench("close gaps of 15 patches", &|| drop(black_box(close.apply(&patched, &[], &quiet))));
        bench("plan on 193 holes", &|| drop(black_box(Operation::of(Plan::default()).apply(&holed, &[], &quiet))));
        bench("plan on 15 patches", &|| drop(black_box(Operation::of(Plan::default()).apply(&patched, &[], &quiet))));
        let crossing = crossing_balls(rows);
        let find = Operation::of(FindInside::default());
        bench("find the inside of two balls, one turned over", &|| drop(black_box(find.apply(&crossing, &[], &quiet))));
        let loose = loose(&holed);
        let merge = Operation::of(MergePoints { within: 50.0 / rows as f64 * 1e-2 });
        bench("merge points of loose triangles", &|| drop(black_box(merge.apply(&loose, &[], &quiet))));
        let smooth = Operation::of(Smooth::default());
        bench("smooth everything, 10 passes", &|| drop(black_box(smooth.apply(&holed, &[], &quiet))));
        let resolution = 100.0 / (wanted as f64 / 20.0).sqrt();
        let wrap = Operation::of(Wrap { resolution });
        bench("wrap at about as many triangles", &|| drop(black_box(wrap.apply(&holed, &[], &quiet))));
        let dented = dented(&holed);
        bench("deviation, a tenth moved", &|| {
            let _ = black_box(deviation(&dented, &holed, &quiet));
        });
        group.finish();
    }
    let mut group = c.benchmark_group("one rim of 10,000 edges");
    group.sample_size(10);
    for (style, name) in [(CoverStyle::Flat, "flat"), (CoverStyle::Taut, "taut"), (CoverStyle::Domed, "domed")] {
        let tub = wavy_tub(10_000, if style == CoverStyle::Flat { 0.0 } else { 2.0 });
        let cover = Operation::of(CoverRim { style, ..Default::default() });
        group.bench_function(name, |b| b.iter(|| drop(black_box(cover.apply(&tub, &[], &quiet)))));
    }
    group.finish();
}

/// Two balls of half as many triangles that cross, the second turned over.
fn crossing_balls(rows: usize) -> Mesh {
    let ball = shapes::ball(50.0, (rows as f64 / 2f64.sqrt()) as usize);
    let at = |m: &Mesh, aside: f64, over: bool| -> Vec<Point> {
        let corners = |t: usize| m.corners(t).map(|p| p + Point::new(aside, aside * 0.3, 0.0));
        (0..m.triangles().len())
            .flat_map(|t| {
                let [a, b, c] = corners(t);
                if over { [a, c, b] } else { [a, b, c] }
            })
            .collect()
    };
    weld::weld_corners(&[at(&ball, 0.0, false), at(&ball, 31.0, true)].concat()).unwrap_or_default()
}

/// Every triangle with corners of its own, each off by up to 0.05 µm along each axis.
fn loose(mesh: &Mesh) -> Mesh {
    let noise = |n: usize| ((n as f64 * 0.618_033_988_749).fract() - 0.5) * 1e-4;
    let corners = (0..mesh.triangles().len()).flat_map(|t| mesh.corners(t));
    let points = corners.enumerate().map(|(n, p)| p + Point::new(noise(n), noise(n + 7), noise(n + 13))).collect();
    let triangles = (0..mesh.triangles().len() as u32).map(|t| [3 * t, 3 * t + 1, 3 * t + 2]).collect();
    Mesh::with_one_face(points, triangles).unwrap_or_default()
}

/// The ball with the points of a tenth of it moved a little.
fn dented(mesh: &Mesh) -> Mesh {
    let dent = |p: Point| if p.z > 40.0 { p * 1.001 } else { p };
    mesh.clone().map_points(dent).unwrap_or_default()
}

/// A cone open at the top, with a wavy rim of so many edges.
fn wavy_tub(round: usize, wave: f64) -> Mesh {
    let at = |k: usize| {
        let a = (k % round) as f64 / round as f64 * TAU;
        Point::new(50.0 * a.cos(), 50.0 * a.sin(), wave * (5.0 * a).sin())
    };
    let soup: Vec<Point> = (0..round).flat_map(|k| [Point::Z * -60.0, at(k + 1), at(k)]).collect();
    weld::weld_corners(&soup).unwrap_or_default()
}

criterion_group!(benches, sealing);
criterion_main!(benches);
