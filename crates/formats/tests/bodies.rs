//! Files of several bodies, and of exact surfaces.
#![allow(clippy::unwrap_used, clippy::panic)] // a failed test says so by panicking

use std::io::Write;

use nimbet_formats::{FileFormat, Imported, LengthUnit, Limits, ReadError, Wanted, read_bodies, read_model};
use nimbet_kernel::measure::measure;
use nimbet_kernel::{Point, Progress};

fn read(name: &str, bytes: &[u8]) -> Result<Imported, ReadError> {
    read_model(bytes, bytes.len() as u64, name, &Limits { triangles: 100_000 }, &Progress::unwatched())
}

fn packed(entries: &[(&str, &[u8])]) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    for (name, bytes) in entries {
        zip.start_file(*name, zip::write::SimpleFileOptions::default()).unwrap();
        zip.write_all(bytes).unwrap();
    }
    zip.finish().unwrap().into_inner()
}

fn step(name: &str) -> Vec<u8> {
    std::fs::read(format!("{}/../brep/tests/parts/{name}.step", env!("CARGO_MANIFEST_DIR"))).unwrap()
}

/// A tetrahedron 1 high at the origin.
const TETRAHEDRON: &str = r#"<mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/>
    <vertex x="0" y="0" z="1"/></vertices><triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/>
    <triangle v1="1" v2="2" v3="3"/><triangle v1="2" v2="0" v3="3"/></triangles></mesh>"#;

#[test]
fn objects_of_a_3mf_stand_in_others_with_names_and_colours() {
    let model = format!(
        r##"<?xml version="1.0"?><model unit="millimeter" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">
        <resources><basematerials id="7"><base name="a" displaycolor="#102030FF"/><base name="b" displaycolor="#A8761F"/></basematerials>
        <object id="1" name="Foot" pid="7" pindex="1">{TETRAHEDRON}</object>
        <object id="2" name="Pair" pid="7" pindex="0"><components><component objectid="1"/>
          <component objectid="1" transform="2 0 0 0 2 0 0 0 2 10 0 0"/></components></object>
        <object id="3"><components><component objectid="2" transform="1 0 0 0 1 0 0 0 1 0 0 100"/></components></object></resources>
        <build><item objectid="1"/><item objectid="3" transform="0 1 0 -1 0 0 0 0 1 0 0 5"/></build></model>"##
    );
    let got = read("feet.3mf", &packed(&[("3D/3dmodel.model", model.as_bytes())])).unwrap();
    let told: Vec<_> = got.bodies.iter().map(|b| (b.name.as_str(), b.colour, b.triangles.len())).collect();
    assert_eq!(told, [("Foot", Some([0xA8, 0x76, 0x1F]), 4), ("", None, 8)]);
    assert!((measure(&got.body(0)).volume - 1.0 / 6.0).abs() < 1e-12);
    // One of 1/6 and one of 8/6, which stands 10 along x, is lifted by 100, turned by a quarter and lifted by 5.
    let pair = got.body(1);
    assert!((measure(&pair).volume - 9.0 / 6.0).abs() < 1e-12);
    assert!(pair.points().contains(&Point::new(0.0, 10.0, 105.0)), "{:?}", pair.points());
}

#[test]
fn objects_of_an_obj_are_bodies_however_they_are_strewn() {
    let text = "v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nf 1 3 2\no Port light\nf 1 2 3\no Cap\nf 1 2 4\nf 2 3 4\no Port light\nf 3 1 4\n";
    let got = read("a.obj", text.as_bytes()).unwrap();
    let told: Vec<_> = got.bodies.iter().map(|b| (b.name.as_str(), b.triangles.clone())).collect();
    assert_eq!(told, [("", 0..1), ("Port light", 1..3), ("Cap", 3..5)]);
    assert_eq!(got.body(1).triangles().len(), 2);
    let bottom = got.body(1).corners(0);
    assert_eq!(bottom, [Point::ZERO, Point::X, Point::Y]);
}

#[test]
fn step_is_known_by_its_content_in_an_archive_or_not() {
    let plain = read("flanged-pipe.step", &step("flanged-pipe")).unwrap();
    assert_eq!((plain.format, plain.unit, plain.faces_known), (FileFormat::Step, Some(LengthUnit::Millimetre), true));
    let faces: std::collections::BTreeSet<u32> = plain.mesh.face_of().iter().map(|f| f.0).collect();
    assert_eq!(faces.len(), 22);
    for (name, bytes) in [
        ("pipe.stpz", packed(&[("a/pipe.stp", &step("flanged-pipe"))])),
        ("wrong name.stl", step("flanged-pipe")),
    ] {
        let got = read(name, &bytes).unwrap_or_else(|e| panic!("{name}: {e}"));
        assert_eq!((got.format, &got.mesh), (FileFormat::Step, &plain.mesh), "{name}");
    }
    let lantern = read("mast-lantern.step", &step("mast-lantern")).unwrap();
    assert_eq!((lantern.bodies.len(), lantern.unit), (8, Some(LengthUnit::Inch)));
    // Faces of different bodies have different numbers, and of each body those from 0.
    let (first, last) = (lantern.body(0), lantern.body(7));
    assert!(last.face_of().iter().any(|f| f.0 == 0) && first.face_of().iter().all(|f| f.0 < 3));
}

#[test]
fn only_the_bodies_that_are_wanted_take_triangles() {
    let bytes = step("mast-lantern");
    let limits = Limits { triangles: 100 };
    let wanted = |bodies| Wanted { bodies: Some(bodies), ..Wanted::within(&limits) };
    let read = |bodies| read_bodies(&bytes[..], bytes.len() as u64, "a.step", &wanted(bodies), &Progress::unwatched());
    let Ok(all) = read_model(&bytes[..], bytes.len() as u64, "a.step", &Limits::default(), &Progress::unwatched()) else {
        panic!("it is read")
    };
    let lid = all.bodies.iter().position(|b| b.name == "Lid plate").unwrap();
    let got = read(vec![lid as u32]).unwrap();
    let triangles: Vec<usize> = got.bodies.iter().map(|b| b.triangles.len()).collect();
    assert_eq!((triangles.iter().sum::<usize>(), triangles[lid]), (12, 12));
    assert!(matches!(read((0..8).collect()), Err(ReadError::TooManyTriangles { limit: 100 })));
}

#[test]
fn step_that_is_broken_is_told_with_its_line() {
    let text = String::from_utf8(step("ball")).unwrap();
    let lines: Vec<&str> = text.lines().collect();
    let broken = [&lines[..20], &["#9999 = )("], &lines[20..]].concat().join("\n");
    let told = read("a.step", broken.as_bytes()).unwrap_err().to_string();
    assert!(told.starts_with("line 21"), "{told}");
    // Of a file without a surface that is said.
    let told = read("a.step", text.replace("MANIFOLD_SOLID_BREP", "NOTHING_AT_ALL").as_bytes()).unwrap_err().to_string();
    assert!(told.contains("no solid"), "{told}");
}
