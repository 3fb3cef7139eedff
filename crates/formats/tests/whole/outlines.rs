//! Outlines from DXF and SVG: known answers, there and back, and files nobody means well with.

use std::f64::consts::PI;

use nimbet_formats::{ReadOutlines, profile_dxf, profile_svg, read_outlines};
use nimbet_kernel::Progress;
use nimbet_profile::drawing::{Drawing, Line, Shape};
use nimbet_profile::look::{Look, look};
use nimbet_profile::text::read;
use nimbet_profile::{Curve, Network};
use proptest::prelude::*;

fn seen(shapes: &[Shape]) -> Look {
    let named = |(n, draw): (usize, &Shape)| Line::new(format!("l{n}"), draw.clone());
    let lines = shapes.iter().enumerate().map(named).collect();
    let network = Network::new(Drawing { lines, holds: vec![] }.curves().unwrap(), &Progress::unwatched()).unwrap();
    let regions = network.regions(&Progress::unwatched()).unwrap();
    look(&network, &regions, &Progress::unwatched()).unwrap()
}

fn area(seen: &Look) -> f64 {
    seen.regions.iter().filter(|r| r.depth.is_multiple_of(2)).map(|r| r.area).sum()
}

fn curves(list: &str) -> Vec<Curve> {
    read(list).unwrap().curves().unwrap()
}

fn shapes(bytes: &str) -> ReadOutlines {
    read_outlines(bytes.as_bytes(), None).unwrap()
}

fn refused(bytes: &str) -> String {
    read_outlines(bytes.as_bytes(), None).unwrap_err().to_string()
}

/// Groups, separated by blanks: a code and a value each.
fn dxf(groups: &str) -> String {
    groups.split_whitespace().map(|word| format!("{word}\n")).collect()
}

#[test]
fn a_dxf_of_all_sorts_is_read_true_to_size() {
    let file = dxf("0 SECTION 2 HEADER 9 $INSUNITS 70 1 0 ENDSEC 0 SECTION 2 BLOCKS
        0 BLOCK 2 bore 10 1 20 0 0 CIRCLE 10 1 20 0 40 0.125 0 ENDBLK 0 ENDSEC
        0 SECTION 2 ENTITIES
        0 LWPOLYLINE 90 4 70 1 10 0 20 0 10 4 20 0 42 1 10 4 20 2 10 0 20 2
        0 INSERT 2 bore 10 1 20 1 70 3 44 1
        0 TEXT 1 name 0 ENDSEC 0 EOF");
    let found = shapes(&file);
    assert_eq!((found.unit.as_str(), found.left_out["text"]), ("inch", 1));
    // A plate of 4 by 2 inches with half a circle at one end, and three bores of a quarter inch.
    let seen = seen(&found.shapes);
    let expected = (8.0 + PI * 0.5 - 3.0 * PI * 0.125 * 0.125) * 25.4 * 25.4;
    assert!((area(&seen) - expected).abs() < 1e-6, "{} {expected}", area(&seen));
    assert!(
        found.shapes[1..]
            .iter()
            .all(|s| matches!(s, Shape::Circle { diameter, .. } if (diameter - 6.35).abs() < 1e-12))
    );
    // Scaled unevenly a block's circle is an ellipse; seen from below it is mirrored.
    let squeezed = dxf("0 SECTION 2 BLOCKS 0 BLOCK 2 b 0 ARC 10 0 20 0 40 5 50 0 51 180 0 ENDBLK 0 ENDSEC
        0 SECTION 2 ENTITIES 0 INSERT 2 b 41 2 42 -1 50 90 0 LINE 10 0 20 0 11 7 21 0 210 0 220 0 230 -1 0 ENDSEC 0 EOF");
    let found = shapes(&squeezed);
    let Shape::Ellipse { size, .. } = found.shapes[0] else { panic!("{:?}", found.shapes) };
    assert!((size[0] - 20.0).abs() < 1e-9 && (size[1] - 10.0).abs() < 1e-9, "{size:?}");
    assert_eq!(found.shapes[1], Shape::Line { from: [0.0, 0.0], to: [-7.0, 0.0] });
}

#[test]
fn splines_follow_their_poles() {
    // A quarter circle as a rational spline of degree 2 (its middle weight the root of a half), and a cubic that is one exactly.
    let file = dxf("0 SECTION 2 ENTITIES 0 SPLINE 71 2 40 0 40 0 40 0 40 1 40 1 40 1 10 5 20 0 10 5 20 5 10 0 20 5
        41 1 41 0.7071067811865476 41 1 0 SPLINE 71 3 40 0 40 0 40 0 40 0 40 1 40 1 40 1 40 1
        10 0 20 0 10 1 20 2 10 3 20 2 10 4 20 0 0 ENDSEC 0 EOF");
    let found = shapes(&file);
    let [Shape::Bezier { legs: round, .. }, Shape::Bezier { from, legs }] = &found.shapes[..] else {
        panic!("{found:?}")
    };
    assert!(!round.is_empty() && (seen(&found.shapes[..1]).length - 2.5 * PI).abs() < 1e-6);
    assert_eq!((*from, legs.len()), ([0.0, 0.0], 1));
    assert!((legs[0][0][1] - 2.0).abs() < 1e-12 && (legs[0][1][0] - 3.0).abs() < 1e-12);
    let bad = dxf("0 SECTION 2 ENTITIES 0 SPLINE 71 3 40 0 40 1 10 0 20 0 10 1 20 0 0 ENDSEC 0 EOF");
    assert!(refused(&bad).starts_with("line 6: a spline has more poles"));
}

#[test]
fn an_svg_is_read_in_millimetres_with_y_up() {
    let svg = r#"<?xml version="1.0"?>
        <svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="50mm" viewBox="0 0 200 100">
        <defs><circle cx="0" cy="0" r="50"/></defs>
        <g transform="translate(20 10) scale(2)">
          <rect x="0" y="0" width="40" height="20" rx="5"/>
          <path d="M10 10 a5 5 0 1 1 10 0 a5 5 0 1 1 -10 0 z"/>
        </g>
        <path style="display: none" d="M0 0 L9 9"/>
        <text x="0" y="0">name</text>
        </svg>"#;
    let found = shapes(svg);
    assert_eq!(found.left_out["text"], 1);
    let seen = seen(&found.shapes);
    // Everything is drawn at twice its half: a plate of 40 by 20 with corners of 5, a bore of 10.
    let expected = 800.0 - (4.0 - PI) * 25.0 - PI * 25.0;
    assert!((area(&seen) - expected).abs() < 1e-9, "{} {expected}", area(&seen));
    assert!((seen.least[0] - 10.0).abs() < 1e-9 && (seen.least[1] - 25.0).abs() < 1e-9, "{:?}", seen.least);
    // Without a unit there are 96 to the inch.
    let bare = shapes(r#"<svg><line x1="0" y1="0" x2="96" y2="0"/></svg>"#);
    assert_eq!(bare.unit, "no unit given; 96 to the inch");
    let Shape::Line { from, to } = bare.shapes[0] else { panic!("a line") };
    assert!((to[0] - from[0] - 25.4).abs() < 1e-12);
}

#[test]
fn what_is_wrong_is_told_with_its_line() {
    assert_eq!(refused("x\n1\n"), "line 1: a group code is a number; 'x' stands there");
    assert_eq!(refused("solid\nfacet\n"), "line 1: a group code is a number; 'solid' stands there");
    assert_eq!(refused("0\nSECTION\n2\nENTITIES\n0"), "line 5: the file ends within a group");
    assert_eq!(refused("0\nSECTION\n2\nENTITIES\n0\nEOF\n"), "line 2: the section ENTITIES does not end");
    assert_eq!(
        refused(&dxf("0 SECTION 2 ENTITIES 0 TEXT 1 a 0 ENDSEC 0 EOF")),
        "line 1: there is no outline in the file; it has only text"
    );
    // Blocks that hold themselves, and copies without end.
    let own = dxf(
        "0 SECTION 2 BLOCKS 0 BLOCK 2 a 0 INSERT 2 a 0 ENDBLK 0 ENDSEC 0 SECTION 2 ENTITIES 0 INSERT 2 a 0 ENDSEC 0 EOF",
    );
    assert!(refused(&own).contains("blocks within blocks"));
    let many = dxf(
        "0 SECTION 2 BLOCKS 0 BLOCK 2 a 0 LINE 11 1 0 ENDBLK 0 ENDSEC 0 SECTION 2 ENTITIES 0 INSERT 2 a 70 1e9 0 ENDSEC 0 EOF",
    );
    assert!(refused(&many).contains("copies of a block"));
    assert!(refused("<svg>\n<g>\n<path d='M0 0L1'/></g></svg>").starts_with("line 3: path:"));
    assert_eq!(refused("<svg>\n<g>"), "line 2: the file ends within an element");
    assert!(refused("<html></html>").contains("begins with svg"));
    assert!(refused(&format!("<svg>{}</svg>", "<g>".repeat(100_000))).contains("too deeply"));
    assert!(refused("<svg width='1e400mm' height='1mm' viewBox='0 0 0 0'><line x2='1'/></svg>").starts_with("line 1"));
}

fn any_list() -> impl Strategy<Value = String> {
    let at = || (-50.0..50.0_f64, -50.0..50.0_f64);
    let row = prop_oneof![
        (at(), 2.0..30.0_f64).prop_map(|(p, d)| format!("circle at {}, {} diameter {d}", p.0, p.1)),
        (at(), 4.0..30.0_f64, 4.0..30.0_f64, 0.0..180.0_f64, 0.0..180.0_f64).prop_map(|(p, w, h, t, s)| {
            format!("ellipse at {}, {} size {w} x {h} turned {t} stretch {s} to {}", p.0, p.1, s + 120.0)
        }),
        (at(), 5.0..30.0_f64, 5.0..30.0_f64, 0.0..90.0_f64)
            .prop_map(|(p, w, h, t)| format!("frame at {}, {} size {w} x {h} radius 2 turned {t}", p.0, p.1)),
        (at(), at(), at())
            .prop_map(|(p, q, r)| format!("curve from {}, {} to {}, {} to {}, {}", p.0, p.1, q.0, q.1, r.0, r.1)),
        (at(), 0.5..3.0_f64).prop_map(|(p, by)| format!("spiral at {}, {} radius 1 pitch {by} turns -2.3", p.0, p.1)),
        (at(), at(), -2.0..2.0_f64)
            .prop_map(|(p, q, b)| format!("chain from {}, {} to {}, {} bulge {b} to 60, 60", p.0, p.1, q.0, q.1)),
    ];
    prop::collection::vec(row, 1..8)
        .prop_map(|rows| rows.iter().enumerate().map(|(n, row)| format!("l{n} {row}\n")).collect())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, ..ProptestConfig::default() })]

    /// What is written is read again with the same length and the same regions.
    #[test]
    fn profiles_go_out_and_come_back(list in any_list()) {
        let before = seen(&read(&list).unwrap().lines.into_iter().map(|l| l.draw).collect::<Vec<_>>());
        for file in [profile_dxf(&curves(&list)), profile_svg("Test <&>", &curves(&list))] {
            let after = seen(&shapes(&file).shapes);
            prop_assert!((after.length - before.length).abs() < 1e-3, "{} {}\n{}", after.length, before.length, file);
            let large = |seen: &Look| seen.regions.iter().filter(|r| r.area > 1e-2).count();
            prop_assert_eq!(large(&after), large(&before));
            prop_assert!((area(&after) - area(&before)).abs() < 1e-2 * (1.0 + before.length * 1e-2), "{} {}", area(&after), area(&before));
        }
    }

    /// Files that were cut off, or in which something was changed, are read or refused; nothing else happens.
    #[test]
    fn damaged_drawings_are_refused_or_read(list in any_list(), at in 0.0..1.0_f64, byte in any::<u8>(), cut_off in any::<bool>()) {
        for file in [profile_dxf(&curves(&list)), profile_svg("Test", &curves(&list))] {
            let mut bytes = file.into_bytes();
            let place = (at * bytes.len() as f64) as usize;
            if cut_off { bytes.truncate(place) } else { bytes[place] = byte }
            if let Ok(found) = read_outlines(&bytes, None) {
                prop_assert!(!found.shapes.is_empty());
            }
        }
    }
}
