//! Letters: areas and places against figures read from the face by another program, and what cannot be set.

use std::collections::BTreeMap;
use std::f64::consts::PI;

use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{FaceId, Point, Progress};
use nimbet_profile::bodies::{Extrusion, extrude, flatten_regions};
use nimbet_profile::drawing::{Drawing, Line, Shape};
use nimbet_profile::text::{read, written};
use nimbet_profile::{Flat, Network};

/// Capitals of this face are 700 units high.
const CAPITAL: f64 = 700.0;

fn letters(text: &str, height: f64, turned: f64, middle: bool) -> Drawing {
    let draw = Shape::Letters { text: text.into(), at: [3.0, -2.0], height, turned, middle };
    Drawing { lines: vec![Line::new("a", draw)], holds: vec![] }
}

/// The area inside, holes taken off, and the corners of a box round all.
fn measured(drawing: &Drawing) -> (f64, Flat, Flat) {
    let network = Network::new(drawing.curves().unwrap(), &Progress::unwatched()).unwrap();
    let regions = network.regions(&Progress::unwatched()).unwrap();
    let seen = nimbet_profile::look::look(&network, &regions, &Progress::unwatched()).unwrap();
    assert!(seen.ends.is_empty() && seen.crossings.is_empty(), "{:?}", seen.ends);
    let area = seen.regions.iter().filter(|r| r.depth.is_multiple_of(2)).map(|r| r.area).sum();
    let (least, most) = network.bounds();
    (area, least, most)
}

#[test]
fn each_letter_encloses_what_the_face_says() {
    // Units of the face, by Green's theorem on its quadratic curves.
    let known = [
        ("I", 67_133.333_333),
        ("A", 153_127.666_667),
        ("B", 190_409.833_333),
        ("8", 163_695.5),
        ("g", 160_246.083_333),
        ("&", 187_351.166_667),
        ("ő", 137_889.833_333),
    ];
    for (letter, units) in known {
        for turned in [0.0, 33.0] {
            let (area, ..) = measured(&letters(letter, 14.0, turned, false));
            let exact = units * (14.0 / CAPITAL).powi(2);
            assert!((area / exact - 1.0).abs() < 1e-6, "{letter}: {area} {exact}");
        }
    }
    // An I is as high as capitals are, and stands on its base line.
    let (_, least, most) = measured(&letters("I", 10.0, 0.0, false));
    assert!((least.y + 2.0).abs() < 1e-9 && (most.y - 8.0).abs() < 1e-9, "{least} {most}");
}

/// A T is eight straight strokes with a small bend between each two: so many faces, of which those of the strokes are flat, and
/// no side of a bend turns by more than a sixth of half a turn from the next, however small it is.
#[test]
fn strokes_are_flat_faces_and_bends_are_smooth() {
    for height in [2.0, 20.0] {
        let quiet = Progress::unwatched();
        let network = Network::new(letters("T", height, 0.0, false).curves().unwrap(), &quiet).unwrap();
        let regions = network.regions(&quiet).unwrap();
        let flat = flatten_regions(&network, &regions, &[0], 0.05).unwrap();
        let plane = PlaneFrame::new(Point::ZERO, Point::Z).unwrap();
        let made = extrude(&flat, &plane, &Extrusion { below: 0.0, above: 1.0, draft: 0.0 }).unwrap();
        let mut normals: BTreeMap<FaceId, Vec<Point>> = BTreeMap::new();
        for (t, face) in made.face_of().iter().enumerate() {
            normals.entry(*face).or_default().push(made.area_vector(t).normalize());
        }
        let turn = |face: &Vec<Point>| face.iter().map(|n| n.angle_between(face[0])).fold(0.0, f64::max);
        let walls: Vec<&Vec<Point>> = normals.iter().filter(|(face, _)| face.0 >= 2).map(|(_, n)| n).collect();
        let (strokes, bends): (Vec<_>, Vec<_>) = walls.into_iter().partition(|face| turn(face) < 1e-9);
        assert_eq!((strokes.len(), bends.len()), (8, 8), "at {height} mm");
        let outline = &flat.outlines[0];
        let way = |k: usize| outline[(k + 1) % outline.len()].at - outline[k].at;
        let sharpest =
            (0..outline.len()).map(|k| way(k).angle_to(way((k + 1) % outline.len())).abs()).fold(0.0, f64::max);
        assert!(sharpest < PI / 6.0 + 1e-6, "{}", sharpest.to_degrees());
    }
}

#[test]
fn letters_stand_as_the_face_sets_them() {
    let wide = |text: &str| {
        let (_, least, most) = measured(&letters(text, CAPITAL, 0.0, false));
        most.x - least.x
    };
    // Of 630 and 601 units each, an A before a V is set 38 closer and a V before an A 96; two I stand as far apart as one is wide.
    assert!((wide("AVA") - wide("A") - (630.0 - 38.0 + 601.0 - 96.0)).abs() < 1e-6);
    assert!((wide("II") - wide("I") - 260.0).abs() < 1e-6);
    // In the middle it stands as far to the left as to the right, but for the sides of its letters.
    let (_, least, most) = measured(&letters("H", 10.0, 0.0, true));
    assert!(((least.x + most.x) * 0.5 - 3.0).abs() < 0.2, "{least} {most}");
    // Copies and the list know them; a quotation mark and a # are letters.
    let list = "a  letters  \"6 \"\" #7\"  at 0, 0  height 5  turned 0  middle\nb  row  of a  by 0, 9  count 3\n";
    let drawn = read(list).unwrap();
    assert_eq!(written(&drawn), list);
    assert!(drawn.curves().unwrap().len() > 30);
}

#[test]
fn what_cannot_be_set_says_why() {
    let why = |text: &str, height: f64| letters(text, height, 0.0, false).curves().unwrap_err().why;
    assert_eq!(why("\u{4e2d}", 5.0), "the face that ships has no '\\u{4e2d}'");
    assert_eq!(why("a\nb", 5.0), "the face that ships has no '\\n'");
    assert_eq!(why("  ", 5.0), "it says 2 letters; from 1 to 200 can be drawn");
    assert!(why(&"I".repeat(201), 5.0).starts_with("it says 201 letters"));
    assert!(why("I", 0.0).starts_with("its height is 0 mm"));
    assert!(why("IIII", 1e6).contains("1000000 mm is the farthest"));
    for (row, told) in [
        ("a letters at 0, 0 height 4", "row 1: what is written stands in quotation marks: \"No 7\""),
        ("a letters \"No 7 at 0, 0 height 4", "row 1: the second quotation mark is missing"),
    ] {
        assert_eq!(read(row).unwrap_err().to_string(), told);
    }
}
