//! Solids written as STEP and read again.

use std::collections::BTreeMap;
use std::sync::Mutex;
use std::time::{Duration, Instant};

use nimbet_brep::{
    Contents, Fineness, StepError, StepWriteError, Surface, TessellateError, TraceError, Written, read_step,
    tessellate, write_step,
};
use nimbet_kernel::measure::measure;
use nimbet_kernel::shapes::{ball, block};
use nimbet_kernel::{FaceId, Mesh, Point, Progress, Topology};

fn part(name: &str) -> Contents {
    let path = format!("{}/tests/parts/{name}.step", env!("CARGO_MANIFEST_DIR"));
    read_step(std::fs::File::open(path).unwrap(), &Progress::unwatched()).unwrap()
}

fn meshed(contents: &Contents, body: usize, chord: f64) -> Mesh {
    let fineness = Fineness { chord: chord / contents.to_millimetres, angle: 0.26 };
    let made = tessellate(&contents.bodies[body], &fineness, 5_000_000, &Progress::unwatched()).unwrap();
    assert_eq!(made.left_open, []);
    let scale = contents.to_millimetres;
    made.mesh.map_points(|p| p * scale).unwrap()
}

fn written(mesh: &Mesh) -> (Contents, Written) {
    let quiet = Progress::unwatched();
    let (bytes, written) = write_step(("Port light", [168, 118, 31]), mesh, &quiet).unwrap();
    assert_eq!(bytes, write_step(("Port light", [168, 118, 31]), mesh, &quiet).unwrap().0, "the same bytes each time");
    (read_step(&bytes[..], &quiet).unwrap(), written)
}

fn is_closed(mesh: &Mesh) -> bool {
    Topology::new(mesh.triangles(), mesh.points().len()).naked_halves().is_empty()
}

fn kinds(contents: &Contents) -> BTreeMap<&'static str, usize> {
    let mut kinds = BTreeMap::new();
    contents.bodies.iter().flat_map(|b| &b.faces).for_each(|f| *kinds.entry(f.surface.name()).or_insert(0) += 1);
    kinds
}

/// Parts all of whose faces are exact again, with how many of each kind: of planes, cylinders, cones, spheres and tori.
const EXACT: [(&str, [usize; 5]); 11] = [
    ("rounded-block", [6, 12, 0, 8, 0]),
    ("flanged-pipe", [6, 16, 0, 0, 0]),
    ("flanged-pipe-metre", [6, 16, 0, 0, 0]),
    ("ball", [0, 0, 0, 1, 0]),
    ("ball-one-hole", [0, 1, 0, 1, 0]),
    ("ball-octant", [3, 0, 0, 1, 0]),
    ("ring", [0, 0, 0, 0, 1]),
    ("ring-half", [2, 0, 0, 0, 1]),
    ("cone", [1, 0, 1, 0, 0]),
    ("cone-half", [2, 0, 1, 0, 0]),
    ("block-with-void", [6, 0, 0, 1, 0]),
];

/// Whatever moment somebody asks to stop at, it is heard soon and said as what it is.
#[test]
fn reading_covering_and_writing_hear_that_they_are_cancelled() {
    // Hundredths of seconds as measured; a machine that is busy otherwise is let take longer.
    const SOON: Duration = Duration::from_secs(2);
    let quiet = Progress::unwatched();
    let ring = ball(50.0, 60).regroup(|t| FaceId(t as u32));
    let bytes = write_step(("Float", [90; 3]), &ring, &quiet).unwrap().0;
    let spring = part("spring");
    let fine = Fineness { chord: 1e-3, angle: 0.04 };
    // Each tells whether it was cancelled.
    let read = |p: &Progress| read_step(&bytes[..], p).map_err(|e| matches!(e, StepError::Cancelled(_))).map(drop);
    let cover = |p: &Progress| {
        let made = tessellate(&spring.bodies[0], &fine, 50_000_000, p);
        made.map_err(|e| matches!(e, TessellateError::Cancelled(_))).map(drop)
    };
    let write = |p: &Progress| {
        let done = write_step(("Float", [90; 3]), &ring, p);
        done.map_err(|e| matches!(e, StepWriteError::Trace(TraceError::Cancelled(_)))).map(drop)
    };
    type Work<'a> = &'a (dyn Fn(&Progress) -> Result<(), bool> + Sync);
    let works: [(&str, Work<'_>); 3] = [("reading", &read), ("covering", &cover), ("writing", &write)];
    for (name, work) in works {
        let begin = Instant::now();
        work(&quiet).unwrap();
        let whole = begin.elapsed();
        for moment in [0.0, 0.3, 0.7] {
            let (progress, told) = (Progress::default(), Mutex::new(None));
            std::thread::scope(|scope| {
                scope.spawn(|| {
                    std::thread::sleep(whole.mul_f64(moment));
                    *told.lock().unwrap() = Some(Instant::now());
                    progress.cancel();
                });
                let done = work(&progress);
                let after = told.lock().unwrap().map_or(Duration::ZERO, |at| at.elapsed());
                assert!(after < SOON, "{name} went on for {after:?} after {moment}");
                // What was done before it heard is done whole.
                assert!(matches!(done, Err(true) | Ok(())), "{name}");
            });
        }
        let progress = Progress::default();
        progress.cancel();
        assert_eq!(work(&progress), Err(true), "{name} did not listen at all");
    }
}

#[test]
fn exact_faces_come_back_exact() {
    let names = ["plane", "cylinder", "cone", "sphere", "torus"];
    for (name, counts) in EXACT {
        let mesh = meshed(&part(name), 0, 0.02);
        let (again, told) = written(&mesh);
        let wanted: BTreeMap<_, _> = names.into_iter().zip(counts).filter(|(_, n)| *n > 0).collect();
        assert_eq!(kinds(&again), wanted, "{name}");
        assert!(told.faceted.is_empty(), "{name}: {told:?}");
        // The file is the exact part, however coarse the triangles were: finer ones of both come to the same.
        let (fine, of_file) = (meshed(&part(name), 0, 0.005), meshed(&again, 0, 0.005));
        assert!(is_closed(&of_file), "{name}");
        let (was, now) = (measure(&fine), measure(&of_file));
        assert!((was.volume / now.volume - 1.0).abs() < 1e-4, "{name}: {} and {} mm³", was.volume, now.volume);
        assert!(told.off < 0.04, "{name}: {}", told.off);
        assert_eq!((again.items.len(), again.items[0].name.as_str()), (1, "Port light"), "{name}");
        assert_eq!(again.items[0].colour, Some([168, 118, 31]));
    }
}

#[test]
fn what_is_not_exact_is_planes_between_lines_of_the_very_same_volume() {
    for name in ["egg", "wavy-block", "drum-drilled", "vase-hollow", "spring"] {
        let mesh = meshed(&part(name), 0, 0.1);
        let (again, told) = written(&mesh);
        assert!(!told.faceted.is_empty(), "{name}");
        let now = meshed(&again, 0, 0.1);
        assert!(is_closed(&now), "{name}");
        let (was, now) = (measure(&mesh), measure(&now));
        // Where all is planes it is the same solid; exact faces besides may bulge by how far triangles stood off.
        let apart = (was.volume - now.volume).abs();
        assert!(apart <= told.off * was.area + was.volume * 1e-9, "{name}: {} and {} mm³", was.volume, now.volume);
    }
}

#[test]
fn triangles_of_a_plane_are_one_face_and_solids_with_spaces_stay_so() {
    let cube = block(Point::ZERO, Point::splat(10.0));
    let (again, told) = written(&cube);
    assert_eq!((again.bodies[0].faces.len(), again.bodies[0].edges.len(), told.off), (6, 12, 0.0));
    // A block with a smaller one taken out of it, beside another block.
    let mut inner = block(Point::splat(3.0), Point::splat(3.0));
    inner.reverse_triangles(|_| true);
    let beside = block(Point::new(20.0, 0.0, 0.0), Point::splat(5.0));
    let (mut points, mut triangles, mut faces) = (vec![], vec![], vec![]);
    for (n, mesh) in [&cube, &inner, &beside].into_iter().enumerate() {
        let first = points.len() as u32;
        points.extend_from_slice(mesh.points());
        triangles.extend(mesh.triangles().iter().map(|t| t.map(|c| c + first)));
        faces.extend(mesh.face_of().iter().map(|f| FaceId(f.0 + 10 * n as u32)));
    }
    let all = Mesh::new(points, triangles, faces).unwrap();
    let (again, _) = written(&all);
    assert_eq!((again.bodies.len(), again.solid.as_slice()), (2, &[true, true][..]));
    let volumes: Vec<f64> = (0..2).map(|n| measure(&meshed(&again, n, 0.1)).volume).collect();
    assert!((volumes[0] - (1000.0 - 27.0)).abs() < 1e-6 && (volumes[1] - 125.0).abs() < 1e-6, "{volumes:?}");
}

#[test]
fn a_ball_of_one_face_is_a_sphere_and_one_of_many_is_told() {
    let round = ball(10.0, 24);
    let one = round.clone().regroup(|_| FaceId(0));
    let (again, told) = written(&one);
    assert!(matches!(again.bodies[0].faces[0].surface, Surface::Sphere { radius, .. } if (radius - 10.0).abs() < 1e-6));
    assert!(told.off > 0.01 && told.off < 0.3, "{}", told.off);
    let exact = 4.0 / 3.0 * std::f64::consts::PI * 1000.0;
    assert!((measure(&meshed(&again, 0, 0.005)).volume / exact - 1.0).abs() < 1e-3);
    assert!(measure(&round).volume < exact);
}

#[test]
fn a_part_that_touches_itself_along_an_edge_is_refused_with_the_place() {
    // Two blocks that share an edge.
    let (a, b) = (block(Point::ZERO, Point::splat(1.0)), block(Point::new(1.0, 1.0, 0.0), Point::new(2.0, 2.0, 1.0)));
    let points = [a.points(), b.points()].concat();
    let first = a.points().len() as u32;
    let triangles =
        a.triangles().iter().copied().chain(b.triangles().iter().map(|t| t.map(|c| c + first))).collect::<Vec<_>>();
    let mesh = nimbet_kernel::weld::weld_mesh(&points, &triangles, vec![FaceId(0); triangles.len()]).unwrap();
    let why = write_step(("a", [0; 3]), &mesh, &Progress::unwatched()).unwrap_err();
    let place = match why {
        nimbet_brep::StepWriteError::Trace(TraceError::Touches(p)) => p,
        other => panic!("{other}"),
    };
    assert_eq!((place.x, place.y), (1.0, 1.0));
}
