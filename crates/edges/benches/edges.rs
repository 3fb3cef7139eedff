//! Edges rounded: a few, a hundred, a thousand of them; one of a large part.
#![allow(missing_docs)]

use criterion::{Criterion, criterion_group, criterion_main};
use nimbet_edges::finish;
use nimbet_edges::graph::Graph;
use nimbet_edges::plan::{Planner, Wanted};
use nimbet_edges::station::Section;
use nimbet_kernel::arrange::Arrangement;
use nimbet_kernel::shapes::{ball, block};
use nimbet_kernel::surfaces::{Grouping, default_tolerance, group_faces};
use nimbet_kernel::{Aabb, Mesh, Point, Progress};

fn grouped(mesh: Mesh) -> Mesh {
    let tolerance = default_tolerance(&Aabb::of(mesh.points().iter().copied()));
    group_faces(mesh, Grouping { angle: 26.0, tolerance }, &Progress::unwatched()).unwrap_or_default()
}

/// A row of blocks that stand apart: twelve edges each.
fn blocks(count: usize) -> Mesh {
    let parts: Vec<Mesh> =
        (0..count).map(|k| block(Point::new(12.0 * k as f64, 0.0, 0.0), Point::new(8.0, 9.0, 10.0))).collect();
    let (mut points, mut triangles) = (vec![], vec![]);
    for part in parts {
        let first = points.len() as u32;
        points.extend(part.points());
        triangles.extend(part.triangles().iter().map(|t| t.map(|v| first + v)));
    }
    grouped(Mesh::with_one_face(points, triangles).unwrap_or_default())
}

/// A ball cut flat: one rim.
fn cut_ball(rows: usize) -> Mesh {
    let quiet = Progress::unwatched();
    let parts = [ball(50.0, rows), block(Point::new(-60.0, -60.0, 20.0), Point::splat(120.0))];
    let all = Arrangement::new(&[&parts[0], &parts[1]], &[], &quiet);
    grouped(all.and_then(|all| all.body(|w| w[0] > 0 && w[1] <= 0, &quiet)).map(|b| b.mesh).unwrap_or_default())
}

fn round_all(mesh: &Mesh, radius: f64) -> usize {
    let quiet = Progress::unwatched();
    let Ok(graph) = Graph::of(mesh, &quiet) else { return 0 };
    let planner = Planner::new(&graph, 0.02, &quiet);
    let section = Section::Round { radius };
    let wanted: Vec<Wanted> = (0..graph.runs.len() as u32).map(|run| Wanted::all_along(run, section)).collect();
    finish(&planner, &wanted, true, &quiet).map_or(0, |made| made.mesh.triangles().len())
}

fn edges(c: &mut Criterion) {
    let mut group = c.benchmark_group("round");
    group.sample_size(10);
    for count in [1, 9, 84] {
        let mesh = blocks(count);
        assert!(round_all(&mesh, 1.0) > 0);
        group.bench_function(format!("{} edges", 12 * count), |b| b.iter(|| round_all(&mesh, 1.0)));
    }
    for rows in [50, 500] {
        let mesh = cut_ball(rows);
        assert!(round_all(&mesh, 2.0) > 0, "{} triangles", mesh.triangles().len());
        group.bench_function(format!("the rim of {} triangles", mesh.triangles().len()), |b| {
            b.iter(|| round_all(&mesh, 2.0))
        });
    }
    group.finish();
}

criterion_group!(benches, edges);
criterion_main!(benches);
