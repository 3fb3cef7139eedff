//! Files of several bodies, and of exact surfaces.

use std::f64::consts::{PI, TAU};
use std::io::Write;

use nimbet_formats::{
    Body, FileFormat, Imported, LengthUnit, Limits, ReadError, ReleaseFormat, Wanted, read_bodies, read_model,
    write_body, write_together,
};
use nimbet_kernel::measure::measure;
use nimbet_kernel::shapes::turned;
use nimbet_kernel::{Point, Progress};
use nimbet_profile::space::Strand;

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
    assert!((measure(&got.body(0).unwrap()).volume - 1.0 / 6.0).abs() < 1e-12);
    // One of 1/6 and one of 8/6, which stands 10 along x, is lifted by 100, turned by a quarter and lifted by 5.
    let pair = got.body(1).unwrap();
    assert!((measure(&pair).volume - 9.0 / 6.0).abs() < 1e-12);
    assert!(pair.points().contains(&Point::new(0.0, 10.0, 105.0)), "{:?}", pair.points());
}

#[test]
fn a_3mf_of_several_models_is_read_whole_and_what_it_needs_is_known() {
    let production = "http://schemas.microsoft.com/3dmanufacturing/production/2015/06";
    let model = |more: &str, resources: &str, build: &str| {
        format!(
            r#"<?xml version="1.0"?><model unit="millimeter" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
            {more}><resources>{resources}</resources><build>{build}</build></model>"#
        )
    };
    let needs = format!(r#"xmlns:p="{production}" requiredextensions="p""#);
    // The same number in both models is not the same object; a build in a further model counts for nothing.
    let inner =
        model(&needs, &format!(r#"<object id="1" name="Inner">{TETRAHEDRON}</object>"#), r#"<item objectid="1"/>"#);
    let used = r#"<object id="1" name="Outer"><components><component objectid="1" p:path="/3D/Objects/inner.model"
        transform="1 0 0 0 1 0 0 0 1 0 0 7"/></components></object>"#;
    let root = model(&needs, used, r#"<item objectid="1"/>"#);
    let archive = packed(&[("3D/Objects/inner.model", inner.as_bytes()), ("3D/3dmodel.model", root.as_bytes())]);
    let got = read("a.3mf", &archive).unwrap();
    assert_eq!((got.bodies.len(), got.bodies[0].name.as_str(), got.mesh.triangles().len()), (1, "Outer", 4));
    assert!(got.mesh.points().contains(&Point::new(0.0, 0.0, 8.0)));
    // What it needs and is not known here is named.
    let beams = r#"xmlns:b="http://schemas.microsoft.com/3dmanufacturing/beamlattice/2017/02" requiredextensions="b""#;
    let told =
        read("a.3mf", &packed(&[("3D/3dmodel.model", model(beams, "", "").as_bytes())])).unwrap_err().to_string();
    assert!(told.contains("beamlattice"), "{told}");
}

/// A square sheet of two triangles, 2 mm wide, with what each format says of the triangles; `of` gives a number to each.
fn painted(of: [u8; 2]) -> Vec<(&'static str, Vec<u8>)> {
    let corners = [[0.0f32, 0.0], [2.0, 0.0], [2.0, 2.0], [0.0, 2.0]];
    let triangles = [[0, 1, 2], [0, 2, 3]];
    let mut stl = vec![0; 80];
    stl.extend(2u32.to_le_bytes());
    let mut text = String::new();
    for (t, n) in triangles.iter().zip(of) {
        stl.extend([0; 12]);
        t.iter().flat_map(|c| [corners[*c][0], corners[*c][1], 0.0]).for_each(|x| stl.extend(x.to_le_bytes()));
        stl.extend([n, 0x80]);
        let corner = |c: &usize| format!("vertex {} {} 0\n", corners[*c][0], corners[*c][1]);
        let own: String = t.iter().map(corner).collect();
        let solid = if text.is_empty() || n != of[0] {
            format!("{}solid s{n}\n", if text.is_empty() { "" } else { "endsolid\n" })
        } else {
            String::new()
        };
        text += &format!("{solid}facet normal 0 0 1\nouter loop\n{own}endloop\nendfacet\n");
    }
    text += "endsolid\n";
    let [a, b] = of;
    let ply = format!(
        "ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\nelement face 2\n\
         property list uchar int vertex_indices\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nend_header\n\
         0 0 0\n2 0 0\n2 2 0\n0 2 0\n3 0 1 2 {a} 0 0\n3 0 2 3 {b} 0 0\n"
    );
    let points = "v 0 0 0\nv 2 0 0\nv 2 2 0\nv 0 2 0\n";
    let materials = format!("{points}usemtl m{a}\nf 1 2 3\nusemtl m{b}\nf 1 3 4\n");
    let named = format!("{points}g m{a}\nf 1 2 3\ng m{b}\nf 1 3 4\n");
    let colours: String = (0..3).map(|n| format!(r##"<m:color color="#0000{n}0FF"/>"##)).collect();
    let vertices: String = corners.map(|[x, y]| format!(r#"<vertex x="{x}" y="{y}" z="0"/>"#)).concat();
    let model = format!(
        r#"<model unit="millimeter" xmlns:m="urn:material"><resources><m:colorgroup id="7">{colours}</m:colorgroup>
           <object id="1"><mesh><vertices>{vertices}</vertices><triangles>
           <triangle v1="0" v2="1" v3="2" pid="7" p1="{a}"/><triangle v1="0" v2="2" v3="3" pid="7" p1="{b}"/>
           </triangles></mesh></object></resources><build><item objectid="1"/></build></model>"#
    );
    vec![
        ("a.stl", stl),
        ("b.stl", text.into_bytes()),
        ("a.ply", ply.into_bytes()),
        ("a.obj", materials.into_bytes()),
        ("b.obj", named.into_bytes()),
        ("a.3mf", packed(&[("3D/3dmodel.model", model.as_bytes())])),
    ]
}

#[test]
fn what_a_file_tells_of_single_triangles_are_groups() {
    for (name, bytes) in painted([1, 2]) {
        let got = read(name, &bytes).unwrap();
        let faces = got.mesh.face_of();
        assert!(got.grouped && !got.faces_known && faces.len() == 2 && faces[0] != faces[1], "{name}: {faces:?}");
        assert!(got.notes.is_empty() && got.bodies[0].colour.is_none(), "{name}: {:?}", got.notes);
    }
    // Where all are alike nothing is told apart: the colour is the body's, or told as left out.
    for (name, bytes) in painted([2, 2]) {
        let got = read(name, &bytes).unwrap();
        let (kept, told) = (got.bodies[0].colour.is_some(), got.notes.iter().any(|n| n.contains("left out")));
        assert!(
            !got.grouped && kept == (name == "a.3mf") && told == !matches!(name, "a.3mf" | "b.stl"),
            "{name}: {:?}",
            got.notes
        );
    }
    let plain = read("a.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n").unwrap();
    assert!(!plain.grouped && plain.notes.is_empty(), "{:?}", plain.notes);
}

#[test]
fn places_in_a_picture_are_no_groups_and_colours_of_many_objects_no_picture() {
    let mesh = |more: [&str; 2]| {
        let [a, b] = more;
        format!(
            r#"<mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="2" y="0" z="0"/><vertex x="2" y="2" z="0"/><vertex x="0" y="2" z="0"/></vertices>
               <triangles><triangle v1="0" v2="1" v3="2" {a}/><triangle v1="0" v2="2" v3="3" {b}/></triangles></mesh>"#
        )
    };
    let file = |resources: &str, items: &str| {
        let model =
            format!(r#"<model unit="millimeter"><resources>{resources}</resources><build>{items}</build></model>"#);
        read("a.3mf", &packed(&[("3D/3dmodel.model", model.as_bytes())])).unwrap()
    };
    let own = mesh([r#"pid="9" p1="0" p2="1" p3="2""#, r#"pid="9" p1="3" p2="4" p3="5""#]);
    let picture = file(&format!(r#"<texture2dgroup id="9"/><object id="1">{own}</object>"#), r#"<item objectid="1"/>"#);
    assert!(!picture.grouped, "{:?}", picture.mesh.face_of());
    let colours: String = (0..1100).map(|n| format!(r##"<base name="c" displaycolor="#00{n:04X}"/>"##)).collect();
    let objects: String =
        (0..1100).map(|n| format!(r#"<object id="{n}" pid="x" pindex="{n}">{}</object>"#, mesh(["", ""]))).collect();
    let items: String = (0..1100).map(|n| format!(r#"<item objectid="{n}"/>"#)).collect();
    let many = file(&format!(r#"<basematerials id="x">{colours}</basematerials>{objects}"#), &items);
    assert!(!many.grouped && many.notes.is_empty(), "{:?}", many.notes);
    assert_eq!(many.bodies[1099].colour, Some([0, 4, 75]));
}

#[test]
fn groups_follow_the_triangles_of_strewn_objects_and_pictures_are_none() {
    let text = "v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\no Cap\nusemtl red\nf 1 2 3\no Light\nf 1 2 4\nusemtl blue\nf 2 3 4\no Cap\nf 3 1 4\n";
    let got = read("a.obj", text.as_bytes()).unwrap();
    let groups = |n: usize| got.mesh.face_of()[got.bodies[n].triangles.clone()].to_vec();
    let (cap, light) = (groups(0), groups(1));
    assert!(cap[0] == light[0] && cap[1] == light[1] && cap[0] != cap[1], "{cap:?}, {light:?}");
    let many: String = (0..1200).map(|n| format!("usemtl m{n}\nf 1 2 3\n")).collect();
    let got = read("a.obj", format!("v 0 0 0\nv 1 0 0\nv 0 1 0\n{many}").as_bytes()).unwrap();
    assert!(!got.grouped && got.mesh.face_of().iter().all(|f| f.0 == 0));
    assert!(got.notes.len() == 1 && got.notes[0].contains("more than 1000"), "{:?}", got.notes);
    let points = "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nproperty uchar red\n\
               element face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0 9\n1 0 0 9\n0 1 0 9\n3 0 1 2\n";
    let notes = read("a.ply", points.as_bytes()).unwrap().notes;
    assert!(notes.len() == 1 && notes[0].contains("colours of its points"), "{notes:?}");
}

#[test]
fn objects_of_an_obj_are_bodies_however_they_are_strewn() {
    let text = "v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nf 1 3 2\no Port light\nf 1 2 3\no Cap\nf 1 2 4\nf 2 3 4\no Port light\nf 3 1 4\n";
    let got = read("a.obj", text.as_bytes()).unwrap();
    let told: Vec<_> = got.bodies.iter().map(|b| (b.name.as_str(), b.triangles.clone())).collect();
    assert_eq!(told, [("", 0..1), ("Port light", 1..3), ("Cap", 3..5)]);
    assert_eq!(got.body(1).unwrap().triangles().len(), 2);
    let bottom = got.body(1).unwrap().corners(0);
    assert_eq!(bottom, [Point::ZERO, Point::X, Point::Y]);
}

/// A document of one triangle under two nodes; its bytes are written into it.
fn gltf(more: &str, nodes: &str, indices: &str) -> String {
    // (0,0,0) (1,0,0) (0,1,0) as single precision, then the numbers 0 1 2 as bytes.
    let bytes = "AAAAAAAAAAAAAAAAAACAPwAAAAAAAAAAAAAAAAAAgD8AAAAAAAECAA==";
    format!(
        r#"{{ "asset": {{ "version": "2.0" }}, {more} "scene": 0, "scenes": [{{ "nodes": [0] }}], "nodes": [{nodes}],
        "meshes": [{{ "name": "Pennant", "primitives": [{{ "attributes": {{ "POSITION": 0 }}, "indices": 1, "material": 0 }}] }}],
        "materials": [{{ "pbrMetallicRoughness": {{ "baseColorFactor": [0.2159, 0.0, 1.0, 1.0] }} }}],
        "accessors": [{{ "bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3", "min": [0,0,0], "max": [1,1,0] }},
          {{ "bufferView": 1, "componentType": 5121, "count": {indices}, "type": "SCALAR" }}],
        "bufferViews": [{{ "buffer": 0, "byteLength": 36 }}, {{ "buffer": 0, "byteOffset": 36, "byteLength": 4 }}],
        "buffers": [{{ "byteLength": 40, "uri": "data:application/octet-stream;base64,{bytes}" }}] }}"#
    )
}

#[test]
fn nodes_of_gltf_stand_where_they_are_placed_with_up_turned_up() {
    let nodes = r#"{ "children": [1, 2], "translation": [0, 5, 0] }, { "mesh": 0, "scale": [2, 2, 2] },
        { "mesh": 0, "name": "Mirrored", "scale": [-1, 1, 1] }"#;
    let got = read("a.gltf", gltf("", nodes, "3").as_bytes()).unwrap();
    assert_eq!((got.format, got.unit), (FileFormat::Gltf, Some(LengthUnit::Metre)));
    let told: Vec<_> = got.bodies.iter().map(|b| (b.name.as_str(), b.colour, b.triangles.len())).collect();
    let colour = Some([128, 0, 255]);
    assert_eq!(told, [("Pennant", colour, 1), ("Mirrored", colour, 1)]);
    // Five up is five along z; what looked along z there looks along −y here, and a mirror turns nothing over.
    let near = |a: Point, b: Point| (a - b).length() < 1e-6;
    let [a, b, c] = got.body(0).unwrap().corners(0);
    assert!(near(a, Point::Z * 5.0) && near(b, Point::new(2.0, 0.0, 5.0)) && near(c, Point::Z * 7.0), "{a} {b} {c}");
    let side = |n: usize| {
        let [a, b, c] = got.body(n).unwrap().corners(0);
        (b - a).cross(c - a).y
    };
    assert!(side(0) < 0.0 && side(1) < 0.0);
}

#[test]
fn gltf_that_cannot_be_read_says_why() {
    let node = r#"{ "mesh": 0 }"#;
    let told = |text: String| read("a.gltf", text.as_bytes()).unwrap_err().to_string();
    let packed = gltf(r#""extensionsRequired": ["KHR_draco_mesh_compression"],"#, node, "3");
    assert!(told(packed).contains("KHR_draco_mesh_compression"));
    assert!(told(gltf("", node, "9")).contains("reaches beyond its bytes"));
    let other = gltf("", node, "3").replace("data:application/octet-stream;base64,", "other.bin?");
    assert!(told(other).contains("a buffer in another file"));
    assert!(told(gltf("", node, "3").replace("\"POSITION\": 0", "\"POSITION\": 7")).contains("names accessor 7"));
    // A node that stands in itself.
    let round = r#"{ "children": [1] }, { "children": [0], "mesh": 0 }"#;
    let why = told(gltf("", round, "3"));
    assert!(why.contains("64 deep") || why.contains("100 000 nodes"), "{why}");
    assert!(told(gltf("", node, "3")[..300].to_owned()).contains("line"));
}

#[test]
fn a_glb_is_written_in_metres_with_its_name_and_colour() {
    let mesh = nimbet_kernel::shapes::block(Point::ZERO, Point::new(30.0, 20.0, 10.0));
    let body = Body { name: "Deck plate", colour: [168, 118, 31], mesh: &mesh };
    let bytes = write_body(&body, ReleaseFormat::Glb, LengthUnit::Inch).unwrap();
    let got = read("a.glb", &bytes).unwrap();
    assert_eq!((got.bodies[0].name.as_str(), got.bodies[0].colour), ("Deck plate", Some([168, 118, 31])));
    let size = nimbet_kernel::Aabb::of(got.mesh.points().iter().copied()).size() * 1000.0;
    assert!((size - Point::new(30.0, 20.0, 10.0)).length() < 1e-5, "{size}");
    assert!((measure(&got.mesh).volume * 1e9 - 6000.0).abs() < 1e-2);
}

#[test]
fn step_is_known_by_its_content_in_an_archive_or_not() {
    let plain = read("flanged-pipe.step", &step("flanged-pipe")).unwrap();
    assert_eq!((plain.format, plain.unit, plain.faces_known), (FileFormat::Step, Some(LengthUnit::Millimetre), true));
    let faces: std::collections::BTreeSet<u32> = plain.mesh.face_of().iter().map(|f| f.0).collect();
    assert_eq!(faces.len(), 22);
    for (name, bytes) in
        [("pipe.stpz", packed(&[("a/pipe.stp", &step("flanged-pipe"))])), ("wrong name.stl", step("flanged-pipe"))]
    {
        let got = read(name, &bytes).unwrap_or_else(|e| panic!("{name}: {e}"));
        assert_eq!((got.format, &got.mesh), (FileFormat::Step, &plain.mesh), "{name}");
    }
    let lantern = read("mast-lantern.step", &step("mast-lantern")).unwrap();
    assert_eq!((lantern.bodies.len(), lantern.unit), (8, Some(LengthUnit::Inch)));
    // Faces of different bodies have different numbers, and of each body those from 0.
    let (first, last) = (lantern.body(0).unwrap(), lantern.body(7).unwrap());
    assert!(last.face_of().iter().any(|f| f.0 == 0) && first.face_of().iter().all(|f| f.0 < 3));
}

#[test]
fn curves_of_a_step_file_are_straight_round_or_cubic_as_they_were_written() {
    let wires = read("wires.step", &step("wires")).unwrap();
    assert_eq!((wires.mesh.triangles().len(), wires.bodies.len()), (0, 2));
    // A slot put together of trimmed curves: two straight runs, two half circles of radius 4; a hole of exactly 3.3.
    let (straight, round) = shapes(&wires.bodies[0].curves);
    assert_eq!((straight, round.len()), (2, 3));
    for (radius, turn) in round {
        let [whole, half] =
            [(1.65, TAU), (4.0, PI)].map(|(r, t): (f64, f64)| (radius - r).abs() + (turn - t).abs() < 1e-9);
        assert!(whole || half, "{radius}, {turn}");
    }
    let rail = &wires.bodies[1].curves;
    let (straight, round) = shapes(rail);
    assert_eq!((straight, round.len(), rail.len()), (1, 1, 3));
    assert!((round[0].0 - 20.0).abs() < 1e-9 && (round[0].1 - PI / 2.0).abs() < 1e-9);
    // A cubic that is one is that very one.
    let poles = rail.iter().find_map(|s| if let Strand::Free(poles) = s { Some(poles) } else { None }).unwrap();
    let known = [[20.0, 0.0, 120.0], [50.0, 0.0, 120.0], [80.0, 30.0, 120.0], [90.0, 60.0, 150.0]];
    assert!(poles.as_flattened().iter().zip(known.as_flattened()).all(|(a, b)| (a - b).abs() < 1e-9), "{poles:?}");
    // Edges of no face, as a model of edges alone has them: one of them is written from its end to its beginning.
    let frame = read("frame.step", &step("frame")).unwrap();
    let (straight, round) = shapes(&frame.bodies[0].curves);
    assert_eq!((&*frame.bodies[0].name, frame.bodies.len(), straight), ("Handrail frame", 1, 2));
    assert!((round[0].0 - 10.0).abs() < 1e-9 && (round[0].1 - PI / 2.0).abs() < 1e-9, "{round:?}");
    let ends = frame.bodies[0].curves.iter().flat_map(Strand::ends);
    assert!(ends.into_iter().all(|p| {
        [[0.0, 0.0], [40.0, 0.0], [50.0, 10.0], [50.0, 30.0]].iter().any(|k| (p.x - k[0]).hypot(p.y - k[1]) < 1e-9)
    }));
    // In a file of inches all of it is 25.4 times as long; lines and cubics of a higher degree are followed.
    let chock = read("triangles.step", &step("triangles")).unwrap();
    assert_eq!((chock.unit, chock.faces_known, chock.bodies[0].in_one), (Some(LengthUnit::Inch), true, false));
    assert!((measure(&chock.mesh).volume - 6.0).abs() < 1e-12);
}

/// How many strands are straight, and the radius and turn of those that are round.
fn shapes(strands: &[Strand]) -> (usize, Vec<(f64, f64)>) {
    let straight = strands.iter().filter(|s| matches!(s, Strand::Straight(_))).count();
    let round = strands.iter().filter_map(|s| match s {
        Strand::Round { u, turn, .. } => Some((Point::from_array(*u).length(), *turn)),
        _ => None,
    });
    (straight, round.collect())
}

#[test]
fn only_the_bodies_that_are_wanted_take_triangles() {
    let bytes = step("mast-lantern");
    let limits = Limits { triangles: 100 };
    let wanted = |bodies| Wanted { bodies: Some(bodies), ..Wanted::within(&limits) };
    let read = |bodies| read_bodies(&bytes[..], bytes.len() as u64, "a.step", &wanted(bodies), &Progress::unwatched());
    let Ok(all) = read_model(&bytes[..], bytes.len() as u64, "a.step", &Limits::default(), &Progress::unwatched())
    else {
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
    let told =
        read("a.step", text.replace("MANIFOLD_SOLID_BREP", "NOTHING_AT_ALL").as_bytes()).unwrap_err().to_string();
    assert!(told.contains("no solid"), "{told}");
}

#[test]
fn moved_copies_stand_once_in_a_3mf() {
    let foot = turned(&[(0.0, 0.0), (4.0, 0.0), (3.0, 7.0), (0.0, 7.0)], 24).map_points(|p| p * 1.01).unwrap();
    let turn = glam::DQuat::from_euler(glam::EulerRot::XYZ, 0.7, -1.1, 2.3);
    let moved = |by: &dyn Fn(Point) -> Point| foot.clone().map_points(by).unwrap();
    let beside = moved(&|p| p + Point::new(31.7, -4.1, 0.3));
    let askew = moved(&|p| turn * p + Point::new(-2.0, 300.0, 1.0));
    let mirrored = moved(&|p| Point::new(-p.x, p.y, p.z));
    let larger = moved(&|p| p * 1.000_001);
    let grey = [0xA9, 0xAF, 0xB2];
    let told = [
        ("Foot", grey, &foot, None),
        ("Foot 2", grey, &beside, Some(0)),
        ("Foot 3", grey, &askew, Some(0)),
        ("Foot 4", [200, 10, 10], &beside, None),
        ("Cap <&> lid", grey, &beside, None),
        ("Foot 5", grey, &mirrored, None),
        ("Foot 6", grey, &larger, None),
        ("Cap <&> lid 2", grey, &foot, Some(4)),
    ];
    for unit in [LengthUnit::Millimetre, LengthUnit::Inch] {
        let bodies = told.map(|(name, colour, mesh, _)| Body { name, colour, mesh });
        let (bytes, copies) = write_together("Feet", &bodies, unit).unwrap();
        assert_eq!(copies, told.map(|t| t.3));
        let got = read("feet.3mf", &bytes).unwrap();
        assert_eq!(got.bodies.len(), told.len());
        for (n, (name, colour, mesh, of)) in told.into_iter().enumerate() {
            let own = of.map_or(name, |k: usize| told[k].0);
            assert_eq!((got.bodies[n].name.as_str(), got.bodies[n].colour), (own, Some(colour)));
            let body = got.body(n).unwrap();
            let far = body.points().iter().zip(mesh.points()).map(|(a, b)| (*a * unit.millimetres()).distance(*b));
            assert!(body.points().len() == mesh.points().len() && far.fold(0.0, f64::max) < 1e-12 * 400.0, "{name}");
        }
    }
}
