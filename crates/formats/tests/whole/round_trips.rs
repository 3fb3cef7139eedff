//! Write → read gives the same mesh; hostile bytes give errors with a place and never a panic.

use std::sync::Mutex;
use std::time::{Duration, Instant};

use nimbet_formats::{Body, LengthUnit, Limits, Place, ReadError, ReleaseFormat, read_model, write_body};
use nimbet_kernel::{Mesh, Point, Progress};
use proptest::prelude::*;

fn read(bytes: &[u8], name: &str) -> Result<Mesh, ReadError> {
    let limits = Limits { triangles: 10_000 };
    Ok(read_model(bytes, bytes.len() as u64, name, &limits, &Progress::unwatched())?.mesh)
}

fn tetrahedron() -> Mesh {
    let points = vec![Point::ZERO, Point::X * 20.0, Point::Y * 20.0, Point::Z * 20.5];
    Mesh::with_one_face(points, vec![[0, 2, 1], [0, 1, 3], [1, 2, 3], [2, 0, 3]]).unwrap()
}

fn written(mesh: &Mesh, format: ReleaseFormat) -> Vec<u8> {
    let body = Body { name: "deck <plate> & co", colour: [168, 118, 31], mesh };
    write_body(&body, format, LengthUnit::Millimetre).unwrap()
}

/// The corners of all triangles, in order: what must survive, whatever the numbering of points.
fn corners(mesh: &Mesh) -> Vec<[Point; 3]> {
    (0..mesh.triangles().len()).map(|t| mesh.corners(t)).collect()
}

fn meshes() -> impl Strategy<Value = Mesh> {
    let coordinate = prop_oneof![-1e6f32..1e6, -1e-6f32..1e-6, Just(0.1f32)].prop_map(f64::from);
    let points = proptest::collection::vec((coordinate.clone(), coordinate.clone(), coordinate), 3..40);
    points.prop_flat_map(|p| {
        let n = p.len() as u32;
        (Just(p), proptest::collection::vec((0..n, 0..n, 0..n), 1..60)).prop_map(|(p, t)| {
            let points: Vec<Point> = p.into_iter().map(|(x, y, z)| Point::new(x, y, z)).collect();
            Mesh::with_one_face(points, t.into_iter().map(|(a, b, c)| [a, b, c]).collect()).unwrap()
        })
    })
}

/// Beginnings that lead deep into each reader.
const HEADS: &[&[u8]] = &[
    b"",
    b"solid x\nfacet normal 0 0 1\nouter loop\n",
    b"OFF\n3 1 0\n",
    b"v 0 0 0\n",
    b"ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nend_header\n",
    b"ply\nformat binary_big_endian 1.0\nelement face 9\nproperty list uchar int vertex_indices\nend_header\n",
    b"PK\x03\x04",
    b"ISO-10303-21;\nHEADER;\n",
    b"glTF\x02\0\0\0\0\x01\0\0\x40\0\0\0JSON{",
];

proptest! {
    #[test]
    fn what_is_written_is_read_back_the_same(mesh in meshes()) {
        for format in ReleaseFormat::TRIANGLES {
            let bytes = written(&mesh, format);
            let again = read(&bytes, &format!("part.{}", format.extension())).unwrap();
            if format == ReleaseFormat::Glb {
                // Metres in single precision.
                let near = |a: Point, b: Point| (a * 1000.0 - b).length() <= b.length() * 2e-7 + 1e-30;
                let pairs = corners(&again).into_iter().flatten().zip(corners(&mesh).into_iter().flatten());
                prop_assert!(pairs.into_iter().all(|(a, b)| near(a, b)));
            } else {
                prop_assert_eq!(corners(&again), corners(&mesh), "{:?}", format);
            }
            prop_assert_eq!(bytes, written(&mesh, format), "the same part gives the same bytes");
        }
    }

    #[test]
    fn random_bytes_never_panic(
        head in proptest::sample::select(HEADS),
        tail in proptest::collection::vec(any::<u8>(), 0..300),
        name in proptest::sample::select(&["a.stl", "a.obj", "a.ply", "a.off", "a.3mf", "a.step", "a.glb", "a.gltf", "a"][..]),
    ) {
        let _ = read(&[head, &tail].concat(), name);
    }

    #[test]
    fn damaged_files_never_panic(
        format in proptest::sample::select(ReleaseFormat::TRIANGLES.to_vec()),
        cut in 0.0f64..1.0, at in 0.0f64..1.0, byte: u8,
    ) {
        let mut bytes = written(&tetrahedron(), format);
        let place = (at * (bytes.len() - 1) as f64) as usize;
        bytes[place] = byte;
        let _ = read(&bytes, &format!("a.{}", format.extension()));
        bytes.truncate((cut * bytes.len() as f64) as usize);
        let _ = read(&bytes, &format!("a.{}", format.extension()));
    }
}

#[test]
fn units_scale_what_is_written_and_3mf_tells_its_unit() {
    let body = Body { name: "t", colour: [0; 3], mesh: &tetrahedron() };
    let bytes = write_body(&body, ReleaseFormat::ThreeMf, LengthUnit::Inch).unwrap();
    let again =
        read_model(&bytes[..], bytes.len() as u64, "t.3mf", &Limits::default(), &Progress::unwatched()).unwrap();
    assert_eq!(again.unit, Some(LengthUnit::Inch));
    assert!((again.mesh.points().iter().map(|p| p.x).fold(0.0, f64::max) - 20.0 / 25.4).abs() < 1e-12);
}

#[test]
fn a_binary_stl_that_begins_with_solid_is_still_binary() {
    let mut bytes = written(&tetrahedron(), ReleaseFormat::Stl);
    bytes[..5].copy_from_slice(b"solid");
    assert_eq!(corners(&read(&bytes, "a.stl").unwrap()).len(), 4);
}

#[test]
fn ascii_stl_is_read_and_its_faults_are_placed() {
    let facet = "facet normal 0 0 1\n outer loop\n  vertex 0 0 0\n  vertex 1 0 0\n  vertex 0 1 0\n endloop\nendfacet\n";
    let good = format!("solid cowl\n{facet}endsolid cowl\n");
    assert_eq!(read(good.as_bytes(), "a.stl").unwrap().triangles().len(), 1);
    let at_line = |text: &str| match read(text.as_bytes(), "a.stl").unwrap_err() {
        ReadError::Malformed { at: Place::Line(n), .. }
        | ReadError::NotFinite { at: Place::Line(n) }
        | ReadError::Truncated { at: Place::Line(n), .. } => n,
        other => panic!("{other:?}"),
    };
    assert_eq!(at_line(&good.replace("1 0 0", "1 zero 0")), 5);
    assert_eq!(at_line(&good.replace("1 0 0", "1 NaN 0")), 5);
    assert_eq!(at_line(&good.replace("  vertex 0 1 0\n", "")), 7);
    assert_eq!(at_line(&good.replace("endsolid cowl\n", "")), 8);
    assert_eq!(at_line(&good.replace("outer loop", "polygon")), 3);
}

#[test]
fn polygons_negative_indices_and_slashes_of_obj_are_read() {
    // A concave pentagon: its cut must not leave the outline, so the area is the outline's.
    let text = "# arrow\nv 0 0 0\nv 4 0 0\nv 4 4 0\nv 2 1 0\nv 0 4 0\nf -5/1/1 -4/2 -3//3 -2 -1\n";
    let mesh = read(text.as_bytes(), "a.obj").unwrap();
    let area: f64 = (0..3).map(|t| mesh.area_vector(t).length() * 0.5).sum();
    assert!((area - 10.0).abs() < 1e-12, "{area}");
    let wrong = read(text.replace("-1\n", "9\n").as_bytes(), "a.obj").unwrap_err();
    assert_eq!(wrong, ReadError::IndexOutOfRange { at: Place::Line(7), index: 8, count: 5 });
    assert!(matches!(read(b"v 0 0 0\nf 0 1 2\n", "a.obj"), Err(ReadError::Malformed { at: Place::Line(2), .. })));
}

#[test]
fn ply_is_read_in_all_three_encodings() {
    let head = |format: &str| {
        format!(
            "ply\nformat {format} 1.0\ncomment made up\nelement vertex 4\nproperty float x\nproperty float y\n\
             property float z\nproperty uchar red\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n"
        )
    };
    let ascii = head("ascii") + "0 0 0 9\n1 0 0 9\n1 1 0 9\n0 1 0 9\n4 0 1 2 3\n";
    let expected = corners(&read(ascii.as_bytes(), "a.ply").unwrap());
    assert_eq!(expected.len(), 2);
    for big in [false, true] {
        let order = |bytes: [u8; 4]| if big { [bytes[3], bytes[2], bytes[1], bytes[0]] } else { bytes };
        let mut bytes = head(if big { "binary_big_endian" } else { "binary_little_endian" }).into_bytes();
        for p in [[0.0f32, 0.0, 0.0], [1.0, 0.0, 0.0], [1.0, 1.0, 0.0], [0.0, 1.0, 0.0]] {
            p.iter().for_each(|x| bytes.extend(order(x.to_le_bytes())));
            bytes.push(9);
        }
        bytes.push(4);
        (0..4i32).for_each(|i| bytes.extend(order(i.to_le_bytes())));
        assert_eq!(corners(&read(&bytes, "a.ply").unwrap()), expected);
        bytes.pop();
        assert!(matches!(read(&bytes, "a.ply"), Err(ReadError::Truncated { at: Place::Byte(_), .. })));
    }
    let short = ascii.replace("4 0 1 2 3\n", "4 0 1 2 7\n");
    assert!(matches!(read(short.as_bytes(), "a.ply"), Err(ReadError::IndexOutOfRange { at: Place::Line(16), .. })));
}

#[test]
fn huge_counts_neither_allocate_nor_hang() {
    let mut stl = vec![0u8; 84];
    stl[80..84].copy_from_slice(&u32::MAX.to_le_bytes());
    assert!(matches!(read(&stl, "a.stl"), Err(ReadError::Truncated { .. })));
    assert!(matches!(read(b"OFF\n99999999999 1 0\n0 0 0\n", "a.off"), Err(ReadError::Truncated { .. })));
    assert!(matches!(read(b"OFF\n3 99999999 0\n", "a.off"), Err(ReadError::TooManyTriangles { .. })));
    let ply = b"ply\nformat ascii 1.0\nelement vertex 18446744073709551615\nproperty float x\nend_header\n1\n";
    assert!(matches!(read(ply, "a.ply"), Err(ReadError::Truncated { .. })));
    // Points that are really there, far more than triangles need: refused as they come.
    let narrow = |bytes: &[u8], name| {
        let limits = Limits { triangles: 100 };
        read_model(bytes, bytes.len() as u64, name, &limits, &Progress::unwatched()).map(|got| got.mesh)
    };
    let loose = "v 0 0 0\n".repeat(301) + "f 1 2 3\n";
    assert_eq!(narrow(loose.as_bytes(), "a.obj"), Err(ReadError::TooManyTriangles { limit: 100 }));
    let off = format!("OFF\n301 1 0\n{}3 0 1 2\n", "0 0 0\n".repeat(301));
    assert_eq!(narrow(off.as_bytes(), "a.off"), Err(ReadError::TooManyTriangles { limit: 100 }));
    let head =
        "ply\nformat ascii 1.0\nelement vertex 301\nproperty float x\nproperty float y\nproperty float z\nend_header\n";
    let ply = head.to_owned() + &"0 0 0\n".repeat(301);
    assert_eq!(narrow(ply.as_bytes(), "a.ply"), Err(ReadError::TooManyTriangles { limit: 100 }));
    let list = b"ply\nformat binary_little_endian 1.0\nelement face 1\nproperty list uint int vertex_index\nend_header\n\xff\xff\xff\xff";
    assert!(matches!(read(list, "a.ply"), Err(ReadError::Malformed { .. })));
    assert_eq!(read(b"OFF\n3 0 0\n0 0 0\n1 0 0\n0 1 0\n", "a.off").unwrap_err(), ReadError::NoTriangles);
}

#[test]
fn odd_but_valid_headers_are_read() {
    let points = "0 0 0 9 9 9\n1 0 0 9 9 9\n0 1 0 9 9 9\n0 0 1 9 9 9\n";
    for kind in ["COFF", "NOFF", "STOFF", "STCNOFF"] {
        let text = format!("{kind}\n4 2 0\n{points}3 0 1 2 255 0 0\n3 0 1 3\n");
        assert_eq!(read(text.as_bytes(), "a.off").unwrap().triangles(), [[0, 1, 2], [0, 1, 3]], "{kind}");
    }
    assert!(read(format!("4OFF\n4 1 0\n{points}3 0 1 2\n").as_bytes(), "a.off").is_err());
    let ply = "ply\nformat ascii 1.0\ncomment made by hand\nand this line went on\nelement vertex 4\nproperty float x\n\
               property float y\nproperty float z\nelement tristrips 1\nproperty list int int vertex_indices\nend_header\n\
               0 0 0\n1 0 0\n0 1 0\n1 1 0\n4 0 1 2 3\n";
    // The second of a strip is turned over, so that both face one way.
    assert_eq!(read(ply.as_bytes(), "a.ply").unwrap().triangles(), [[0, 1, 2], [2, 1, 3]]);
}

/// A mesh as OFF, and as STL in text, which nothing here writes.
fn in_text(mesh: &Mesh) -> [(String, &'static str); 2] {
    use std::fmt::Write;
    let mut off = format!("OFF\n{} {} 0\n", mesh.points().len(), mesh.triangles().len());
    mesh.points().iter().for_each(|p| writeln!(off, "{} {} {}", p.x, p.y, p.z).unwrap());
    mesh.triangles().iter().for_each(|[a, b, c]| writeln!(off, "3 {a} {b} {c}").unwrap());
    let mut stl = String::from("solid tried\n");
    for corners in corners(mesh) {
        stl += "facet normal 0 0 0\nouter loop\n";
        corners.iter().for_each(|p| writeln!(stl, "vertex {} {} {}", p.x, p.y, p.z).unwrap());
        stl += "endloop\nendfacet\n";
    }
    stl += "endsolid tried\n";
    [(off, "tried.off"), (stl, "tried.stl")]
}

#[test]
fn every_reader_hears_that_it_is_cancelled() {
    // Hundredths of seconds as measured; a machine that is busy otherwise is let take longer.
    const SOON: Duration = Duration::from_secs(2);
    let ball = nimbet_kernel::shapes::ball(50.0, 300);
    let formats = [ReleaseFormat::Stl, ReleaseFormat::Obj, ReleaseFormat::Ply, ReleaseFormat::ThreeMf];
    let mut files: Vec<(Vec<u8>, String)> =
        formats.iter().map(|f| (written(&ball, *f), format!("tried.{}", f.extension()))).collect();
    files.extend(in_text(&ball).map(|(text, name)| (text.into_bytes(), name.to_owned())));
    for (bytes, name) in &files {
        let run = |progress: &Progress| read_model(&bytes[..], bytes.len() as u64, name, &Limits::default(), progress);
        let begin = Instant::now();
        assert_eq!(run(&Progress::unwatched()).unwrap().mesh.triangles().len(), ball.triangles().len(), "{name}");
        let whole = begin.elapsed();
        for moment in [0.0, 0.3, 0.7] {
            let (progress, told) = (Progress::default(), Mutex::new(None));
            std::thread::scope(|scope| {
                scope.spawn(|| {
                    std::thread::sleep(whole.mul_f64(moment));
                    *told.lock().unwrap() = Some(Instant::now());
                    progress.cancel();
                });
                let done = run(&progress);
                let after = told.lock().unwrap().map_or(Duration::ZERO, |at| at.elapsed());
                assert!(after < SOON, "{name} went on for {after:?} after {moment}");
                // What was read before it heard is read whole, or not at all.
                assert!(matches!(done, Err(ReadError::Cancelled(_)) | Ok(_)), "{name}");
            });
        }
        let progress = Progress::default();
        progress.cancel();
        assert!(matches!(run(&progress), Err(ReadError::Cancelled(_))), "{name} does not ask");
    }
}
