//! What all of them are made with.

use nimbet_edges::graph::Graph;
use nimbet_edges::plan::{Planner, Wanted};
use nimbet_edges::station::Section;
use nimbet_edges::{EdgeError, finish};
use nimbet_kernel::arrange::Arrangement;
use nimbet_kernel::crossings::crossing_any;
use nimbet_kernel::measure::measure;
use nimbet_kernel::surfaces::{Grouping, default_tolerance, group_faces};
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{Aabb, FaceId, Mesh, Point, Progress, Topology, shapes};

pub fn grouped(mesh: Mesh) -> Mesh {
    let tolerance = default_tolerance(&Aabb::of(mesh.points().iter().copied()));
    group_faces(mesh, Grouping { angle: 26.0, tolerance }, &Progress::unwatched()).unwrap()
}

/// All runs for which something holds, given one section.
pub fn cut(
    mesh: &Mesh,
    which: impl Fn(&Graph<'_>, u32) -> bool,
    section: Section,
    chord: f64,
) -> Result<Mesh, EdgeError> {
    let quiet = Progress::unwatched();
    let graph = Graph::of(mesh, &quiet).unwrap();
    let planner = Planner::new(&graph, chord, &quiet);
    let runs = (0..graph.runs.len() as u32).filter(|r| which(&graph, *r));
    let wanted: Vec<Wanted> = runs.map(|run| Wanted::all_along(run, section)).collect();
    let made = finish(&planner, &wanted, true, &quiet)?.mesh;
    is_solid(&made);
    Ok(made)
}

/// Why a body is no solid; none where it is one.
pub fn flaw(mesh: &Mesh) -> Option<&'static str> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    if topology.edges_with(EdgeUse::Regular).count() != topology.edge_count() {
        return Some("open, or touches itself along an edge");
    }
    let all: Vec<u32> = (0..mesh.triangles().len() as u32).collect();
    let crossing = crossing_any(mesh, &all, &Progress::unwatched()).unwrap();
    (!crossing.is_empty()).then_some("crosses itself")
}

pub fn is_solid(mesh: &Mesh) {
    assert_eq!(flaw(mesh), None);
}

pub fn round(radius: f64) -> Section {
    Section::Round { radius }
}

pub fn volume(mesh: &Mesh) -> f64 {
    measure(mesh).volume
}

pub fn edge_at(graph: &Graph<'_>, run: u32, at: [f64; 3]) -> bool {
    let found = graph.nearest(&[Point::from_array(at)], 1e-6);
    found[0].is_some_and(|e| graph.run_of[e as usize] == run)
}

/// A profile in x and z, given counter-clockwise, drawn out along y.
pub fn drawn_out(outline: &[[f64; 2]], depth: f64) -> Mesh {
    let n = outline.len();
    let flat: Vec<[f64; 2]> = outline.to_vec();
    let all: Vec<usize> = (0..n).collect();
    let cover = nimbet_kernel::triangulate::triangulate_flat(&flat, &[all]).unwrap();
    let at = |k: usize, y: f64| Point::new(outline[k][0], y, outline[k][1]);
    let points: Vec<Point> = (0..2 * n).map(|k| at(k % n, if k < n { 0.0 } else { depth })).collect();
    let mut triangles: Vec<[u32; 3]> = Vec::new();
    let mut faces: Vec<FaceId> = Vec::new();
    for [a, b, c] in cover {
        let [a, b, c] = [a, b, c].map(|k| k as u32);
        triangles.extend([[a, b, c], [a + n as u32, c + n as u32, b + n as u32]]);
        faces.extend([FaceId(0), FaceId(1)]);
    }
    for k in 0..n {
        let (a, b) = (k as u32, ((k + 1) % n) as u32);
        triangles.extend([[b, a, a + n as u32], [b, a + n as u32, b + n as u32]]);
        faces.extend([FaceId(k as u32 + 2); 2]);
    }
    let mut mesh = Mesh::new(points, triangles, faces).unwrap();
    let inward = volume(&mesh) < 0.0;
    mesh.reverse_triangles(|_| inward);
    mesh
}

pub fn bracket() -> Mesh {
    drawn_out(&[[0.0, 0.0], [30.0, 0.0], [30.0, 6.0], [6.0, 6.0], [6.0, 30.0], [0.0, 30.0]], 20.0)
}

pub fn drum(segments: usize) -> Mesh {
    grouped(shapes::turned(&[(0.0, 0.0), (10.0, 0.0), (10.0, 12.0), (0.0, 12.0)], segments))
}

/// What several solids make together: `true` adds, `false` takes away.
pub fn together(parts: &[(Mesh, bool)]) -> Mesh {
    let quiet = Progress::unwatched();
    let mut made = parts[0].0.clone();
    for (part, adds) in &parts[1..] {
        let all = Arrangement::new(&[&made, part], &[], &quiet).unwrap();
        made = all.body(|w| if *adds { w[0] > 0 || w[1] > 0 } else { w[0] > 0 && w[1] <= 0 }, &quiet).unwrap().mesh;
    }
    made
}

pub fn upright(radius: f64, from: f64, to: f64, segments: usize) -> Mesh {
    grouped(shapes::turned(&[(0.0, from), (radius, from), (radius, to), (0.0, to)], segments))
}

pub fn block(at: [f64; 3], size: [f64; 3]) -> Mesh {
    grouped(shapes::block(Point::from_array(at), Point::from_array(size)))
}
