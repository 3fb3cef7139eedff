//! Threaded bores, few and many, in a plate of 50,000 triangles: the time must grow with their number and no faster.
#![allow(missing_docs)] // criterion's macro makes a public function

use criterion::{BenchmarkId, Criterion, Throughput, criterion_group, criterion_main};
use nimbet_kernel::{Mesh, Point, Progress, weld};
use nimbet_trade::fasten::{Allowance, Bore, BoreForm, Places, Reach, Thread, ThreadSize, ThreadedBore};
use nimbet_trade::{Operation, examine};
use std::hint::black_box;
use std::time::Instant;

/// A plate of 300 × 160 × 8 mm, its top gently domed and finely divided.
fn plate(triangles: usize) -> Mesh {
    let n = ((triangles / 2) as f64).sqrt() as usize;
    let top = |i: usize, j: usize| {
        let (x, y) = (i as f64 / n as f64 - 0.5, j as f64 / n as f64 - 0.5);
        Point::new(x * 300.0, y * 160.0, 8.0 + (0.25 - x * x) * (0.25 - y * y) * 4.0)
    };
    let foot = |p: Point| Point::new(p.x, p.y, 0.0);
    let mut soup = Vec::new();
    for i in 0..n {
        for j in 0..n {
            let [a, b, c, d] = [top(i, j), top(i + 1, j), top(i + 1, j + 1), top(i, j + 1)];
            soup.extend([a, b, c, a, c, d]);
        }
    }
    let corner = [top(0, 0), top(n, 0), top(n, n), top(0, n)].map(foot);
    let mut side = |edge: &dyn Fn(usize) -> Point| {
        // Down from each edge of the top to the foot.
        for k in 0..n {
            let (a, b) = (edge(k), edge(k + 1));
            soup.extend([b, a, foot(a), b, foot(a), foot(b)]);
        }
    };
    side(&|k| top(k, 0));
    side(&|k| top(n, k));
    side(&|k| top(n - k, n));
    side(&|k| top(0, n - k));
    let rim: Vec<Point> = (0..n).map(|k| foot(top(k, 0))).chain((0..n).map(|k| foot(top(n, k)))).collect();
    let rim: Vec<Point> =
        rim.into_iter().chain((0..n).map(|k| foot(top(n - k, n)))).chain((0..n).map(|k| foot(top(0, n - k)))).collect();
    let middle = (corner[0] + corner[2]) * 0.5;
    for (k, a) in rim.iter().enumerate() {
        soup.extend([*a, middle, rim[(k + 1) % rim.len()]]);
    }
    weld::weld_corners(&soup).unwrap_or_default()
}

fn fastening(c: &mut Criterion) {
    let quiet = Progress::unwatched();
    let part = plate(50_000);
    let mut group = c.benchmark_group("fasten");
    group.sample_size(10);
    for (across, along) in [(1u32, 1u32), (10, 5), (20, 10)] {
        let count = across * along;
        let thread = Thread {
            size: ThreadSize::Standard("M4x0.7".into()),
            left: false,
            starts: 1,
            allowance: Allowance::default(),
        };
        let op = |marked: bool| {
            Operation::from(Bore {
                places: Places::Grid {
                    centre: [0.0, 0.0, 8.0],
                    counts: [across, along],
                    spacing: [14.0, 15.0],
                    turned: 0.0,
                },
                face: None,
                along: Some([0.0, 0.0, -1.0]),
                form: BoreForm::Threaded(ThreadedBore {
                    thread: thread.clone(),
                    threaded: None,
                    lead_in: None,
                    marked,
                }),
                reach: Reach::All,
                allowance: 0.0,
                chord: 0.01,
                least_wall: Some(1.5),
            })
        };
        let Ok(seen) = examine(&part, &quiet) else { continue };
        let begin = Instant::now();
        if let Ok(made) = op(false).apply_to_seen(&part, &seen, &[], &quiet) {
            let then = examine(&made.mesh, &quiet).map(|e| (e.figures.state, e.figures.triangles));
            println!("{count} threads: {:.2} s, then {then:?}", begin.elapsed().as_secs_f64());
        }
        for (name, marked) in [("cut", false), ("marked", true)] {
            group.throughput(Throughput::Elements(u64::from(count)));
            group.bench_function(BenchmarkId::new(name, count), |b| {
                b.iter(|| black_box(op(marked).apply_to_seen(&part, &seen, &[], &quiet).is_ok()));
            });
        }
    }
    group.finish();
}

criterion_group!(benches, fastening);
criterion_main!(benches);
