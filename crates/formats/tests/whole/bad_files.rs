//! Files that cannot be read, by name, each with the words and the place it must be answered with; and odd ones that can.

use std::io::Write;

use nimbet_formats::{FileFormat, Imported, LengthUnit, Limits, ReadError, read_model};
use nimbet_kernel::Progress;

fn read(name: &str, bytes: &[u8]) -> Result<Imported, ReadError> {
    read_model(bytes, bytes.len() as u64, name, &Limits { triangles: 1000 }, &Progress::unwatched())
}

/// A binary STL of one triangle with the given count in its header.
fn binary_stl(count: u32, corners: [f32; 9]) -> Vec<u8> {
    let mut bytes = vec![b' '; 80];
    bytes.extend(count.to_le_bytes());
    bytes.extend([0; 12]);
    corners.iter().for_each(|x| bytes.extend(x.to_le_bytes()));
    bytes.extend([0; 2]);
    bytes
}

/// A package as 3MF prescribes, around the given model.
fn package(model: &str) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    let mut add = |name: &str, text: &str| {
        zip.start_file(name, zip::write::SimpleFileOptions::default()).unwrap();
        zip.write_all(text.as_bytes()).unwrap();
    };
    add(
        "_rels/.rels",
        r#"<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">
        <Relationship Target="/3D/3dmodel.model" Id="r" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>"#,
    );
    add("3D/3dmodel.model", model);
    zip.finish().unwrap().into_inner()
}

fn model(objects: &str, items: &str) -> String {
    format!(
        r#"<?xml version="1.0"?><model unit="inch" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">
        <resources>{objects}</resources><build>{items}</build></model>"#
    )
}

fn object(id: u32, triangle: &str) -> String {
    format!(
        r#"<object id="{id}"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/></vertices>
        <triangles><triangle {triangle}/></triangles></mesh></object>"#
    )
}

const GOOD: &str = r#"v1="0" v2="1" v3="2""#;

#[test]
fn every_bad_file_is_answered_with_its_fault_and_place() {
    let ply = |rest: &str| format!("ply\nformat ascii 1.0\n{rest}").into_bytes();
    let vertices = "element vertex 3\nproperty float x\nproperty float y\nproperty float z\n";
    let faces = "element face 1\nproperty list uchar int vertex_indices\nend_header\n";
    let points = "0 0 0\n1 0 0\n0 1 0\n";
    let nan = binary_stl(1, [0.0, 0.0, 0.0, 1.0, f32::NAN, 0.0, 0.0, 1.0, 0.0]);
    let many = [&binary_stl(1001, [0.0; 9])[..], &[0; 50_000]].concat();
    let gallery: Vec<(&str, Vec<u8>, &str)> = vec![
        ("empty.stl", vec![], "the file is empty"),
        ("letter.txt", b"Dear yard,\n".to_vec(), "no format that can be read here"),
        ("header only.stl", binary_stl(7, [0.0; 9])[..84].to_vec(), "ends at byte 84, before all of the 7 triangles"),
        ("cut header.stl", vec![1; 40], "the header of 84 bytes"),
        ("no triangles.stl", binary_stl(0, [0.0; 9])[..84].to_vec(), "holds no triangle"),
        ("not a number.stl", nan, "byte 108: a coordinate is not a finite number"),
        ("too many.stl", many, "more than 1000 triangles"),
        ("unended.stl", b"solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\n".to_vec(), "line 4"),
        (
            "nested.stl",
            b"solid a\nfacet normal 0 0 1\nfacet normal 0 0 1\n".to_vec(),
            "line 3: 'facet' does not belong here",
        ),
        (
            "two corners.stl",
            b"solid a\nfacet\nvertex 0 0 0\nvertex 1 0 0\nendfacet\nendsolid\n".to_vec(),
            "line 5: a facet does not have three corners",
        ),
        ("one number.obj", b"v 1\n".to_vec(), "line 1: a coordinate is missing"),
        ("words.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf one two three\n".to_vec(), "line 4: 'one' is no point number"),
        ("zero.obj", b"v 0 0 0\nf 0 1 2\n".to_vec(), "line 2: point numbers begin at 1"),
        ("beyond.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 4\n".to_vec(), "line 4: point 3 is named, but there are 3"),
        ("far back.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf -1 -2 -4\n".to_vec(), "line 4: point -1 is named"),
        ("infinite.obj", b"v 0 1e999 0\n".to_vec(), "line 1: a coordinate is not a finite number"),
        ("points only.obj", b"v 0 0 0\nv 1 0 0\n".to_vec(), "holds no triangle"),
        ("not text.obj", b"v 0 0 0\n\xff\xfe\xfd\n".to_vec(), "line 2: the line is not text"),
        ("no counts.off", b"OFF\n".to_vec(), "ends at line 1, before the counts"),
        ("words.off", b"OFF\nthree 1 0\n".to_vec(), "line 2: 'three' is no number of points"),
        ("few points.off", b"OFF\n3 1 0\n0 0 0\n".to_vec(), "before point 2"),
        ("few corners.off", b"OFF\n3 1 0\n0 0 0\n1 0 0\n0 1 0\n3 0 1\n".to_vec(), "line 6: 2 of 3 point numbers"),
        ("negative.off", b"OFF\n3 1 0\n0 0 0\n1 0 0\n0 1 0\n-3 0 1 2\n".to_vec(), "line 6"),
        ("no format.ply", b"ply\nelement vertex 0\nend_header\n".to_vec(), "names no format"),
        ("odd format.ply", b"ply\nformat ternary 1.0\nend_header\n".to_vec(), "line 2: 'ternary' is no PLY format"),
        ("odd type.ply", ply("element vertex 1\nproperty half x\nend_header\n"), "line 4: 'half' is no PLY type"),
        ("early property.ply", ply("property float x\nend_header\n"), "line 3: a property before any element"),
        ("bare element.ply", ply("element vertex 3\nend_header\n"), "element 'vertex' has no properties"),
        ("endless header.ply", ply(vertices), "before the end of the header"),
        ("few entries.ply", ply(&format!("{vertices}{faces}0 0 0\n")), "before all of the 3 entries of 'vertex'"),
        ("beyond.ply", ply(&format!("{vertices}{faces}{points}3 0 1 9\n")), "point 9 is named, but there are 3"),
        (
            "long list.ply",
            ply(&format!("{vertices}{}{points}900000 0\n", faces.replace("uchar", "uint"))),
            "a list claims 900000",
        ),
        ("damaged.3mf", b"PK\x03\x04 and then nothing".to_vec(), "byte"),
        ("no object.3mf", package(&model("", r#"<item objectid="1"/>"#)), "an item names an object that is not there"),
        (
            "beyond.3mf",
            package(&model(&object(1, r#"v1="0" v2="1" v3="3""#), r#"<item objectid="1"/>"#)),
            "point 3 is named, but there are 3",
        ),
        (
            "no corner.3mf",
            package(&model(&object(1, r#"v1="0" v2="1""#), r#"<item objectid="1"/>"#)),
            "a triangle lacks a corner",
        ),
        (
            "composed.3mf",
            package(&model(
                r#"<object id="2"><components><component objectid="2"/></components></object>"#,
                r#"<item objectid="2"/>"#,
            )),
            "objects stand in each other more than 32 deep",
        ),
    ];
    for (name, bytes, wanted) in gallery {
        match read(name, &bytes) {
            Ok(_) => panic!("{name} was read"),
            Err(error) => assert!(error.to_string().contains(wanted), "{name}: '{error}' does not say '{wanted}'"),
        }
    }
}

#[test]
fn odd_files_that_say_enough_are_read() {
    let long = format!("v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nf 1 \\\n2 3 \\\n4\n# {}\n", "x".repeat(9000));
    let lists = "ply\r\nformat ascii 1.0\r\nobj_info made up\r\nelement vertex 3\r\nproperty double x\r\nproperty double y\r\n\
                 property double z\r\nproperty list uchar float weights\r\nelement face 1\r\nproperty uchar flags\r\n\
                 property list uchar uint vertex_index\r\nend_header\r\n0 0 0 2 0.5 0.5\r\n1 0 0 0\r\n0 1 0 1 9\r\n7 3 0 1 2\r\n";
    let two = "solid a\nfacet\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendfacet\nendsolid a\n\
               SOLID b\nFACET\nVERTEX 0 0 5\nVERTEX 1e0 0 5\nVERTEX 0 +1 5\nENDFACET\nENDSOLID b\n";
    let inline = b"  OFF 4 1 0 # a square\n0 0 0\n1 0 0\n\n1 1 0\n0 1 0\n4 0 1 2 3 255 0 0\n";
    for (name, bytes, triangles, format) in [
        ("carried over.obj", long.as_bytes(), 2, FileFormat::Obj),
        ("extra lists.ply", lists.as_bytes(), 1, FileFormat::Ply),
        ("two solids.stl", two.as_bytes(), 2, FileFormat::Stl),
        ("counts behind the word.off", &inline[..], 2, FileFormat::Off),
        ("named wrongly.obj", two.as_bytes(), 2, FileFormat::Stl),
    ] {
        let got = read(name, bytes).unwrap_or_else(|e| panic!("{name}: {e}"));
        assert_eq!((got.mesh.triangles().len(), got.format), (triangles, format), "{name}");
    }
    let trailing = [&binary_stl(1, [0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0])[..], b"made up"].concat();
    assert_eq!(read("tail.stl", &trailing).unwrap().notes.len(), 1);
}

#[test]
fn objects_of_a_3mf_stand_where_the_build_puts_them_in_its_unit() {
    let items = r#"<item objectid="1"/><item objectid="1" transform="0 1 0 -1 0 0 0 0 1 10 0 2"/>"#;
    let got = read("two.3mf", &package(&model(&object(1, GOOD), items))).unwrap();
    assert_eq!(got.unit, Some(LengthUnit::Inch));
    let points: Vec<[f64; 3]> = got.mesh.points().iter().map(|p| p.to_array()).collect();
    // The second stands turned by a quarter about z, at (10, 0, 2).
    assert_eq!(points[3..], [[10.0, 0.0, 2.0], [10.0, 1.0, 2.0], [9.0, 0.0, 2.0]]);
    assert_eq!(got.mesh.triangles().len(), 2);
}

/// An archive that holds a model which begins soundly and then goes on and on.
fn bomb(head: &str, again: &str, times: usize) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    zip.start_file("3D/3dmodel.model", zip::write::SimpleFileOptions::default()).unwrap();
    zip.write_all(head.as_bytes()).unwrap();
    let block = again.repeat(1 + (1 << 16) / again.len());
    for _ in 0..times * again.len() / block.len() {
        zip.write_all(block.as_bytes()).unwrap();
    }
    zip.finish().unwrap().into_inner()
}

#[test]
fn archives_that_grow_without_end_are_refused_before_they_do() {
    let model = r#"<?xml version="1.0"?><model xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">"#;
    // Tags grow past what any archive may, the others past a tag.
    let (many, long) = (20 << 20, 4 << 20);
    for (name, bytes, wanted) in [
        ("attribute.3mf", bomb(&format!("{model}<metadata name=\""), "x", long), "a tag or text is longer than 1 MB"),
        ("text.3mf", bomb(&format!("{model}<metadata name=\"a\">"), "x", long), "a tag or text is longer than 1 MB"),
        ("comment.3mf", bomb(&format!("{model}<!--"), "x", long), "a tag or text is longer than 1 MB"),
        ("tags.3mf", bomb(model, "<a/>", many / 4), "the archive grows to far more than its size"),
        ("objects.3mf", bomb(&format!("{model}<resources>"), "<object/>", 200_000), "holds no triangle"),
        ("named objects.3mf", named_objects(), "more than 100 000 objects"),
        (
            "points.3mf",
            bomb(&format!("{model}<object>"), "<vertex x=\"0\" y=\"0\" z=\"0\"/>", 100_000),
            "more than 1000 triangles",
        ),
    ] {
        assert!(bytes.len() < 2 << 20, "{name}: {} bytes", bytes.len());
        let told = read(name, &bytes).map(|_| ()).unwrap_err().to_string();
        assert!(told.contains(wanted), "{name}: {told}");
    }
    // An archive in an archive is not opened.
    let inner = package(&model_of_one());
    let mut zip = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    zip.start_file("inner.3mf", zip::write::SimpleFileOptions::default()).unwrap();
    zip.write_all(&inner).unwrap();
    let told = read("nested.3mf", &zip.finish().unwrap().into_inner()).map(|_| ()).unwrap_err().to_string();
    assert!(told.contains("the archive holds no model"), "{told}");
}

fn named_objects() -> Vec<u8> {
    let objects: String = (0..100_100).map(|n| format!("<object id=\"{n}\"></object>")).collect();
    package(&model(&objects, ""))
}

fn model_of_one() -> String {
    model(&object(1, GOOD), r#"<item objectid="1"/>"#)
}

#[test]
fn endless_lines_and_polygons_that_cross_themselves_are_refused() {
    // A star: every corner far from the next, so that all sides cross.
    let corners = 20_001;
    let points: String = (0..corners)
        .map(|k| {
            let a = k as f64 / corners as f64 * std::f64::consts::TAU;
            format!("v {} {} 0\n", a.cos(), a.sin())
        })
        .collect();
    let star: String = (0..corners).map(|k| format!(" {}", k * 10_000 % corners + 1)).collect();
    let large = Limits { triangles: 1_000_000 };
    let told = |bytes: &[u8]| {
        let read = read_model(bytes, bytes.len() as u64, "a.obj", &large, &Progress::unwatched());
        read.map(|_| ()).unwrap_err().to_string()
    };
    let told_star = told(format!("{points}f{star}\n").as_bytes());
    assert!(told_star.contains("a polygon of 20001 corners crosses itself"), "{told_star}");
    let endless = format!("v 0 0 0\nf {}", "1 \\\n".repeat(1 << 19));
    assert!(told(endless.as_bytes()).contains("too long"));
}

#[test]
fn hopeless_files_are_told_apart() {
    assert_eq!(read("a.stl", b"").unwrap_err(), ReadError::Empty);
    assert_eq!(read("a.png", b"\x89PNG\r\n").unwrap_err(), ReadError::UnknownFormat);
    assert!(matches!(read("a.stl", b"\x89PNG\r\n").unwrap_err(), ReadError::Truncated { .. }));
    assert!(matches!(read("a.3mf", b"PK\x03\x04garbage").unwrap_err(), ReadError::Malformed { .. }));
    assert!(matches!(read("a.ply", b"hello").unwrap_err(), ReadError::Malformed { .. }));
}

#[test]
fn a_wrong_name_is_noted_and_the_content_is_read() {
    let got = read("a.stl", b"OFF\n3 1 0\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n").unwrap();
    assert_eq!(got.format, FileFormat::Off);
    assert_eq!(got.notes.len(), 1);
}
