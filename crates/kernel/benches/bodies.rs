//! Bodies of two balls that cross, of a thousand that overlap, and a small bore in a large ball, beside a boolean crate that
//! rounds its points. Both get indexed triangles and give them; both work in parallel. The largest are done once.
#![allow(missing_docs)] // criterion's macro makes a public function

use std::hint::black_box;
use std::time::Instant;

use boolmesh::prelude::{Manifold, OpType};
use criterion::{BenchmarkId, Criterion, Throughput, criterion_group, criterion_main};
use nimbet_kernel::arrange::Arrangement;
use nimbet_kernel::shapes::{ball, block};
use nimbet_kernel::{Mesh, Point, Progress};

/// Rows of balls of about 10,000, 100,000, 500,000 and 2,000,000 triangles.
const ROWS: [usize; 4] = [50, 158, 354, 707];

/// Rows of the largest balls that are worked on many times.
const LARGEST_OFTEN: usize = 158;

type Rule = fn(&[i16]) -> bool;
const ANY: Rule = |w| w.iter().any(|w| *w > 0);
const FIRST: Rule = |w| w[0] > 0 && w[1] <= 0;

fn made(inputs: &[&Mesh], rule: Rule) -> Option<usize> {
    let quiet = Progress::unwatched();
    let body = Arrangement::new(inputs, &[], &quiet).ok()?.body(rule, &quiet).ok()?;
    Some(body.mesh.triangles().len())
}

/// The same where the first is known to be sealed, as a step of a ledger knows it.
fn made_near(inputs: &[&Mesh], rule: Rule) -> Option<usize> {
    let quiet = Progress::unwatched();
    let body = Arrangement::of_sealed(inputs[0], &inputs[1..], &quiet).ok()?.body(rule, &quiet).ok()?;
    Some(body.mesh.triangles().len())
}

type Raw = (Vec<f64>, Vec<usize>);

fn raw(mesh: &Mesh) -> Raw {
    let points = mesh.points().iter().flat_map(|p| p.to_array()).collect();
    (points, mesh.triangles().iter().flatten().map(|i| *i as usize).collect())
}

fn peer((a, b): (&Raw, &Raw), operation: OpType) -> Option<usize> {
    let [a, b] = [a, b].map(|(points, corners)| Manifold::<f64>::new(points, corners).ok());
    boolmesh::compute_boolean(&a?, &b?, operation).ok().map(|m| m.nf)
}

fn two(c: &mut Criterion) {
    for rows in ROWS {
        let a = ball(50.0, rows);
        let b = a.clone().map_points(|p| p + Point::new(31.0, 7.0, 11.0)).unwrap_or_default();
        let drill = block(Point::new(-1.0, -1.0, 40.0), Point::new(2.0, 2.0, 20.0));
        let [ra, rb, rd] = [&a, &b, &drill].map(raw);
        let count = a.triangles().len();
        let mut group = c.benchmark_group("bodies");
        group.sample_size(10).throughput(Throughput::Elements(2 * count as u64));
        type Work = fn(&[&Mesh], Rule) -> Option<usize>;
        let mut pair =
            |name: &str, work: Work, [x, y]: [&Mesh; 2], [rx, ry]: [&Raw; 2], rule: Rule, operation: fn() -> OpType| {
                if rows > LARGEST_OFTEN {
                    let begin = Instant::now();
                    work(black_box(&[x, y]), rule);
                    let own = begin.elapsed();
                    let begin = Instant::now();
                    peer(black_box((rx, ry)), operation());
                    println!("bodies/{name}/{count}, once: {own:.2?}, peer {:.2?}", begin.elapsed());
                    return;
                }
                group.bench_function(BenchmarkId::new(name, count), |bench| {
                    bench.iter(|| work(black_box(&[x, y]), rule))
                });
                group.bench_function(BenchmarkId::new(format!("{name}, peer"), count), |bench| {
                    bench.iter(|| peer(black_box((rx, ry)), operation()));
                });
            };
        pair("union of two", made, [&a, &b], [&ra, &rb], ANY, || OpType::Add);
        pair("difference of two", made, [&a, &b], [&ra, &rb], FIRST, || OpType::Subtract);
        pair("a small bore", made_near, [&a, &drill], [&ra, &rd], FIRST, || OpType::Subtract);
        group.finish();
    }
}

/// Ten by ten by ten balls, each through its neighbours; the peer unites them two by two.
fn thousand(c: &mut Criterion) {
    let one = ball(0.6, 8);
    let at = |n: usize| Point::new((n % 10) as f64, (n / 10 % 10) as f64 * 1.01, (n / 100) as f64 * 0.99);
    let balls: Vec<Mesh> = (0..1000).map(|n| one.clone().map_points(|p| p + at(n)).unwrap_or_default()).collect();
    let mut group = c.benchmark_group("bodies");
    group.sample_size(10).throughput(Throughput::Elements(1000 * one.triangles().len() as u64));
    let inputs: Vec<&Mesh> = balls.iter().collect();
    group.bench_function("union of a thousand", |bench| bench.iter(|| made(black_box(&inputs), ANY)));
    let raws: Vec<Raw> = balls.iter().map(raw).collect();
    group.bench_function("union of a thousand, peer", |bench| {
        bench.iter(|| {
            let all = black_box(&raws).iter().filter_map(|(p, t)| Manifold::<f64>::new(p, t).ok());
            let mut layer: Vec<Manifold<f64>> = all.collect();
            while layer.len() > 1 {
                let mut next = layer.into_iter();
                layer = std::iter::from_fn(|| {
                    let first = next.next()?;
                    Some(match next.next() {
                        Some(second) => boolmesh::compute_boolean(&first, &second, OpType::Add).unwrap_or(first),
                        None => first,
                    })
                })
                .collect();
            }
            layer.pop().map(|m| m.nf)
        });
    });
    group.finish();
}

criterion_group!(benches, two, thousand);
criterion_main!(benches);
