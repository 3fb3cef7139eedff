//! What is written for people and screens, and how units are guessed.

use nimbet_formats::{Detail, DisplayExtras, DrawnPart, LengthUnit, display_glb, drawing_dxf, drawing_svg, guess_unit};
use nimbet_kernel::{Aabb, Mesh, Point};

fn plate() -> Vec<DrawnPart> {
    let outer = vec![[0.0, 0.0], [40.0, 0.0], [40.0, 20.0], [0.0, 20.0]];
    let hole = vec![[10.0, 5.0], [10.0, 15.0], [20.0, 15.0], [20.0, 5.0]];
    vec![DrawnPart {
        name: "Plate <1>".into(),
        chains: vec![(outer, true), (hole, true), (vec![[0.0, 25.0], [5.0, 25.0]], false)],
    }]
}

#[test]
fn svg_is_true_to_size_and_names_are_safe_in_it() {
    let svg = drawing_svg("Cut A & B", &plate());
    assert!(
        svg.contains("width=\"43.2mm\" height=\"28.2mm\"")
            && svg.contains("Plate &lt;1&gt;")
            && svg.contains("A &amp; B")
    );
    // The path holds the area of the plate less its hole.
    let d = svg.split("fill-rule=\"evenodd\" d=\"").nth(1).and_then(|s| s.split('"').next()).unwrap_or_default();
    let area: f64 = d
        .split('M')
        .filter(|c| !c.is_empty())
        .map(|chain| {
            let numbers = |p: &str| p.split(' ').filter_map(|x| x.parse::<f64>().ok()).collect::<Vec<_>>();
            let points: Vec<Vec<f64>> = chain.trim_end_matches('Z').split('L').map(numbers).collect();
            let next = points.iter().cycle().skip(1);
            points.iter().zip(next).map(|(a, b)| a[0] * b[1] - b[0] * a[1]).sum::<f64>() * 0.5
        })
        .sum();
    assert!((area.abs() - 700.0).abs() < 1e-6, "{area}");
    assert!(drawing_svg("nothing", &[]).contains("viewBox=\"0 0 1.08 1.08\""));
}

#[test]
fn dxf_has_a_layer_for_each_part_and_closes_what_closes() {
    let dxf = drawing_dxf(&plate());
    assert_eq!(dxf.matches("POLYLINE").count(), 3);
    assert!(
        dxf.contains("1_PLATE__1_") && dxf.contains("70\n1\n") && dxf.contains("70\n0\n") && dxf.ends_with("EOF\n")
    );
    assert_eq!(dxf.lines().count() % 2, 0, "pairs of code and value");
}

fn guessed(across: &[f64]) -> (LengthUnit, bool) {
    let boxes: Vec<Aabb> = across.iter().map(|a| Aabb::of([Point::ZERO, Point::Y * *a])).collect();
    let (unit, doubt) = guess_unit(&boxes);
    (unit, doubt.is_some())
}

#[test]
fn one_unit_is_guessed_for_a_set_and_doubted_where_two_would_do() {
    use LengthUnit::{Metre, Millimetre};
    assert_eq!(guessed(&[40.0]), (Millimetre, false));
    // Nothing jumps: just under two millimetres is the same unit as just over, only in doubt.
    assert_eq!((guessed(&[2.0]), guessed(&[1.999])), ((Millimetre, false), (Millimetre, true)));
    assert_eq!(guessed(&[0.12]), (Metre, true));
    assert_eq!(guessed(&[90_000.0]), (Millimetre, true));
    assert_eq!(guessed(&[1e-6]), (Millimetre, true));
    // Beside a part of 40 mm one of 1.9 is no metres; beside a flake of 0.05 one of 3 is.
    assert_eq!(guessed(&[40.0, 1.9]), (Millimetre, false));
    assert_eq!(guessed(&[3.0, 0.05]), (Metre, true));
    assert_eq!(guessed(&[]), (Millimetre, false));
}

#[test]
fn the_binary_says_its_length_and_names_what_it_holds() {
    let mesh = Mesh::with_one_face(vec![Point::ZERO, Point::X, Point::Y], vec![[0, 1, 2]]).unwrap();
    let rim = ("R1".to_owned(), mesh.points().to_vec(), true);
    let glb = display_glb(&mesh, &DisplayExtras { rims: vec![rim], ..Default::default() }, Detail::Full);
    assert_eq!(&glb[..4], b"glTF");
    assert_eq!(u32::from_le_bytes(glb[8..12].try_into().unwrap()) as usize, glb.len());
    let text_length = u32::from_le_bytes(glb[12..16].try_into().unwrap()) as usize;
    let document: serde_json::Value = serde_json::from_slice(&glb[20..20 + text_length]).unwrap();
    assert_eq!(document["meshes"][0]["name"], "surface");
    assert_eq!(document["meshes"][1]["name"], "rim R1");
    let rim_positions = document["meshes"][1]["primitives"][0]["attributes"]["POSITION"].as_u64().unwrap() as usize;
    assert_eq!(document["accessors"][rim_positions]["count"], 4, "a closed rim comes back to its first point");
}

#[test]
fn a_large_surface_is_thinned_for_moving() {
    let n = 300u32;
    let points = (0..n * n).map(|i| Point::new(f64::from(i % n), f64::from(i / n), 0.0)).collect();
    let cell = |i: u32| [[i, i + 1, i + n], [i + 1, i + n + 1, i + n]];
    let triangles = (0..(n - 1) * n).filter(|i| i % n != n - 1).flat_map(cell).collect();
    let mesh = Mesh::with_one_face(points, triangles).unwrap();
    let size = |detail| display_glb(&mesh, &DisplayExtras::default(), detail).len();
    assert!(size(Detail::Coarse) * 2 < size(Detail::Full));
}
