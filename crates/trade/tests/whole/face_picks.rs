//! A picked face is found again after earlier steps changed, or reported: never another face in its stead.

use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_trade::examine::{FaceAnchor, FaceFacts, FacePick, FaceSurface, face_facts};
use nimbet_trade::seal::{LiftChoice, LiftOut};
use nimbet_trade::{Operation, TradeError};
use proptest::prelude::*;
use serde_json::{Value, json};

fn apply(mesh: &Mesh, others: &[Mesh], what: Value) -> Result<nimbet_trade::Outcome, TradeError> {
    let operation: Operation = serde_json::from_value(what).unwrap();
    operation.apply(mesh, others, &Progress::unwatched())
}

fn body(shape: &Value, at: [f64; 3], chord: f64) -> Mesh {
    let what = json!({ "kind": "shape.body", "body": shape, "at": at, "chord": chord });
    apply(&Mesh::default(), &[], what).unwrap().more.remove(0).mesh
}

/// A plate with round bores, as steps make it.
#[derive(Clone, Debug)]
struct Plate {
    size: [f64; 3],
    /// Where, and how wide.
    bores: Vec<([f64; 2], f64)>,
    chord: f64,
}

impl Plate {
    fn mesh(&self) -> Mesh {
        let plate = body(&json!({ "block": { "size": self.size } }), [0.0; 3], self.chord);
        let drum = |(at, radius): &([f64; 2], f64)| {
            let shape = json!({ "drum": { "diameter": radius * 2.0, "height": 60.0 } });
            body(&shape, [at[0], at[1], -30.0], self.chord)
        };
        let drums: Vec<Mesh> = self.bores.iter().map(drum).collect();
        let with: Vec<usize> = (2..2 + drums.len()).collect();
        apply(&plate, &drums, json!({ "kind": "shape.difference", "with": with })).unwrap().mesh
    }
}

fn faces(mesh: &Mesh) -> Vec<FaceFacts> {
    face_facts(mesh, None, &Progress::unwatched()).unwrap()
}

/// A point on a face.
fn on(mesh: &Mesh, face: u32) -> [f64; 3] {
    let t = mesh.face_of().iter().position(|f| f.0 == face).unwrap();
    (mesh.corners(t).iter().sum::<Point>() / 3.0).to_array()
}

/// The triangles that a step takes out with a picked face: all of one face.
fn found(mesh: &Mesh, pick: &FaceAnchor) -> Result<u32, TradeError> {
    let what = LiftChoice::Faces(vec![FacePick::Anchored(pick.clone())]);
    let out = Operation::of(LiftOut { what, rings: 0 }).apply(mesh, &[], &Progress::unwatched())?.mesh;
    let left: Vec<_> = out.face_of().to_vec();
    Ok(mesh.face_of().iter().find(|f| !left.contains(f)).unwrap().0)
}

/// Which bore, or which side, a face is: told by where it lies, independent of its number.
fn name(plate: &Plate, face: &FaceFacts) -> String {
    match face.surface {
        FaceSurface::Cylinder { centre, hollow: true, .. } => {
            let off = |b: &([f64; 2], f64)| (b.0[0] - centre[0]).hypot(b.0[1] - centre[1]);
            let nearest = (0..plate.bores.len()).min_by(|i, j| off(&plate.bores[*i]).total_cmp(&off(&plate.bores[*j])));
            format!("bore {}", nearest.unwrap())
        }
        FaceSurface::Plane { normal } => format!("side {:?}", normal.map(|x| x.round() as i32)),
        ref other => panic!("{other:?}"),
    }
}

fn anchors(plate: &Plate, mesh: &Mesh) -> Vec<(String, FaceAnchor)> {
    faces(mesh).iter().map(|f| (name(plate, f), FaceAnchor::of(f, on(mesh, f.id)))).collect()
}

fn plate(radii: [f64; 3], chord: f64) -> Plate {
    let bores = vec![([-12.0, 1.0], radii[0]), ([0.0, -3.0], radii[1]), ([12.0, 2.0], radii[2])];
    Plate { size: [50.0, 30.0, 8.0], bores, chord }
}

#[test]
fn a_bore_that_is_gone_is_reported_and_the_others_are_found() {
    let before = plate([2.0, 2.0, 2.0], 0.02);
    let picks = anchors(&before, &before.mesh());
    assert_eq!(picks.len(), 9);
    for gone in 0..3 {
        let mut after = before.clone();
        after.bores.remove(gone);
        let mesh = after.mesh();
        for (what, pick) in &picks {
            let result = found(&mesh, pick);
            if *what == format!("bore {gone}") {
                assert!(matches!(result, Err(TradeError::NeedsNewPick { .. })), "{what}: {result:?}");
            } else {
                let id = result.unwrap();
                let face = faces(&mesh).into_iter().find(|f| f.id == id).unwrap();
                let bore = |n: usize| if n > gone { n - 1 } else { n };
                let wanted =
                    what.strip_prefix("bore ").map_or(what.clone(), |n| format!("bore {}", bore(n.parse().unwrap())));
                assert_eq!(name(&after, &face), wanted);
            }
        }
    }
}

#[test]
fn a_face_where_two_could_be_meant_is_reported() {
    // The bores change places.
    let before = plate([2.0, 2.0, 2.0], 0.02);
    let picks = anchors(&before, &before.mesh());
    let mut after = before.clone();
    after.bores.swap(0, 2);
    let mesh = after.mesh();
    for (what, pick) in picks.iter().filter(|(what, _)| what == "bore 0" || what == "bore 2") {
        let Err(TradeError::NeedsNewPick { what: told, place }) = found(&mesh, pick) else { panic!("{what}") };
        assert!(told.contains("two could be meant"), "{told}");
        assert_eq!(place.to_array(), pick.at);
    }
}

#[test]
fn a_bare_point_finds_what_runs_through_it() {
    let mesh = plate([2.0; 3], 0.02).mesh();
    let lift = |at: [f64; 3]| apply(&mesh, &[], json!({ "kind": "seal.lift_out", "what": { "faces": [at] } }));
    assert!(lift([20.0, 10.0, 4.0]).is_ok());
    assert!(matches!(lift([20.0, 10.0, 14.0]), Err(TradeError::NeedsNewPick { .. })));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// Other dimensions, places and chords keep every face; each pick finds its own.
    #[test]
    fn every_face_is_found_again_in_a_plate_of_other_dimensions(
        size in (45.0f64..80.0, 26.0f64..40.0, 3.0f64..20.0),
        radii in prop::array::uniform3(1.0f64..3.5), moved in prop::array::uniform6(-2.0f64..2.0), chord in 0.005f64..0.05,
    ) {
        let before = plate([2.0, 1.5, 2.5], 0.02);
        let mut after = plate(radii, chord);
        after.size = [size.0, size.1, size.2];
        for (n, bore) in after.bores.iter_mut().enumerate() {
            bore.0[0] += moved[2 * n];
            bore.0[1] += moved[2 * n + 1];
        }
        let mesh = after.mesh();
        for (what, pick) in anchors(&before, &before.mesh()) {
            let id = found(&mesh, &pick).map_err(|e| TestCaseError::fail(format!("{what}: {e}")))?;
            let face = faces(&mesh).into_iter().find(|f| f.id == id).unwrap();
            prop_assert_eq!(name(&after, &face), what);
        }
    }
}

/// A wide bore and two narrow ones, made in one order and in the other: their numbers change places, the picks do not.
#[test]
fn a_pick_stays_with_its_face_when_other_bores_are_made_before_it() {
    let bore = |at: [f64; 2], radius: f64| (at, radius);
    let (wide, narrow) = (bore([-12.0, 1.0], 3.0), [bore([4.0, -3.0], 1.5), bore([12.0, 2.0], 1.5)]);
    let of = |bores: Vec<([f64; 2], f64)>| Plate { size: [50.0, 30.0, 8.0], bores, chord: 0.05 };
    let first = of(vec![wide, narrow[0], narrow[1]]);
    let last = of(vec![narrow[0], narrow[1], wide]);
    let (made_first, made_last) = (first.mesh(), last.mesh());
    let picks = anchors(&first, &made_first);
    let pick = &picks.iter().find(|(name, _)| name == "bore 0").unwrap().1;
    let now = found(&made_last, pick).unwrap();
    assert_eq!(name(&last, faces(&made_last).iter().find(|f| f.id == now).unwrap()), "bore 2");
    // Of two bores of one size that change places nobody can tell which was meant.
    let (a, b) = (of(vec![narrow[0], wide, narrow[1]]), of(vec![narrow[1], wide, narrow[0]]));
    let (made, swapped) = (a.mesh(), b.mesh());
    let pick = &anchors(&a, &made).into_iter().find(|(name, _)| name == "bore 0").unwrap().1;
    assert!(matches!(found(&swapped, pick), Err(TradeError::NeedsNewPick { .. })));
}

/// A face out of which much is cut elsewhere is still the one that was picked.
#[test]
fn a_pick_stays_with_its_face_when_much_is_cut_out_of_it() {
    let whole = body(&json!({ "block": { "size": [50.0, 30.0, 8.0] } }), [0.0; 3], 0.05);
    let top = faces(&whole).into_iter().find(|f| matches!(f.surface, FaceSurface::Plane { normal } if normal[2] > 0.9));
    let top = top.unwrap();
    let pick = FaceAnchor::of(&top, [-20.0, 0.0, 4.0]);
    let pocket = body(&json!({ "block": { "size": [20.0, 20.0, 6.0] } }), [12.0, 0.0, 4.0], 0.05);
    let cut = apply(&whole, &[pocket], json!({ "kind": "shape.difference", "with": [2] })).unwrap().mesh;
    assert!(cut.face_of().len() > whole.face_of().len());
    assert_eq!(found(&cut, &pick).unwrap(), top.id);
}
