//! Parts that fold back on themselves, made solids and worked on: what the folds leave must be fit for the next step.

#[allow(dead_code)]
use crate::dice::Dice;
use crate::gallery::bent_tube;
use glam::{DQuat, EulerRot};
use nimbet_kernel::{Aabb, Mesh, Point, Progress};
use nimbet_trade::Plan;
use nimbet_trade::shape::{Cutter, Keep, Plane, Saw};
use nimbet_trade::{Operation, PartState, demo, examine};

fn apply(mesh: &Mesh, operation: Operation) -> Vec<Mesh> {
    let outcome = operation.apply(mesh, &[], &Progress::unwatched()).unwrap();
    outcome.meshes().cloned().collect()
}

/// The volume, or what is wrong.
fn sealed(mesh: &Mesh) -> Result<f64, String> {
    let figures = examine(mesh, &Progress::unwatched()).unwrap().figures;
    if figures.state == PartState::Sealed { Ok(figures.volume.unwrap()) } else { Err(figures.reason) }
}

/// Tubes bent tighter than their own radius, from strips that fold back into points where dozens of them meet: sealed, and
/// sawn anywhere each half is sealed and together they are the whole, however the tube lies.
#[test]
fn a_bend_made_solid_can_be_sawn_anywhere() {
    let (mut dice, mut wrong) = (Dice::new(17), vec![]);
    let bends = [demo::stanchion_bend(), bent_tube(3.0)];
    for (n, bend) in bends.into_iter().enumerate() {
        for (pose, scale) in [1.0, 0.01, 40.0].into_iter().enumerate() {
            let angles = [dice.within(-3.0, 3.0), dice.within(-3.0, 3.0), dice.within(-3.0, 3.0)];
            let turn = DQuat::from_euler(EulerRot::XYZ, angles[0], angles[1], angles[2]);
            let posed = bend.clone().map_points(|p| if pose == 0 { p } else { turn * p * scale });
            let posed = posed.unwrap().map_points(|p| p.as_vec3().as_dvec3()).unwrap();
            let [solid] = &apply(&posed, Operation::of(Plan::default()))[..] else { panic!("one part") };
            let whole = sealed(solid).unwrap();
            let bounds = Aabb::of(solid.points().iter().copied());
            for cut in 0..4 {
                let at = bounds.centre() + dice.point() * bounds.size() * 0.35;
                let normal = if cut < 2 { [Point::X, Point::Z][cut] } else { dice.point().normalize_or(Point::Y) };
                let plane = Plane { at: at.to_array(), normal: normal.to_array(), face: None };
                let saw = Saw { by: Cutter::Plane(plane), keep: Keep::Both, open: false, pegs: None };
                let Ok(outcome) = Operation::of(saw).apply(solid, &[], &Progress::unwatched()) else { continue };
                let halves: Result<Vec<f64>, String> = outcome.meshes().map(sealed).collect();
                match halves {
                    Ok(halves) if (halves.iter().sum::<f64>() / whole - 1.0).abs() < 1e-4 => {}
                    other => wrong.push(format!("bend {n}, pose {pose}, cut {cut}: {other:?} of {whole}")),
                }
            }
        }
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
}
