//! Parts whose faces lie in one plane, taken from each other and joined: what is left is a solid, and nothing is gone.

use crate::dice::Dice;
use glam::{DQuat, EulerRot};
use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_trade::shape::{Difference, Intersection, Union};
use nimbet_trade::{Operation, PartState, demo, examine};

/// The volume of what an operation leaves; what is wrong with it; nothing where it is refused.
fn volume(operation: Operation, mesh: &Mesh, other: &Mesh) -> Result<f64, String> {
    let others = std::slice::from_ref(other);
    let quiet = Progress::unwatched();
    let seen = examine(mesh, &quiet).unwrap();
    let outcome = operation.apply_to_seen(mesh, &seen, others, &quiet).map_err(|e| e.to_string())?;
    let figures = examine(&outcome.mesh, &quiet).unwrap().figures;
    if figures.state == PartState::Sealed { Ok(figures.volume.unwrap()) } else { Err(figures.reason) }
}

/// A plate and a leaf that stand on one plane, in single precision at any angle: what is taken away and what is common are
/// together what was there, and the union is the rest.
#[test]
fn a_body_that_lies_in_the_same_plane_is_taken_away_and_joined() {
    let (mut dice, mut wrong) = (Dice::new(4), vec![]);
    let (plate, leaf) = (demo::deck_plate(), demo::hinge_leaf());
    let whole = examine(&plate, &Progress::unwatched()).unwrap().figures.volume.unwrap();
    let part = examine(&leaf, &Progress::unwatched()).unwrap().figures.volume.unwrap();
    for pose in 0..6 {
        let angles = [dice.within(-3.0, 3.0), dice.within(-3.0, 3.0), dice.within(-3.0, 3.0)];
        let turn = DQuat::from_euler(EulerRot::XYZ, angles[0], angles[1], angles[2]);
        let shift = dice.point() * Point::new(40.0, 30.0, 0.0);
        let shift = if pose < 2 { Point::ZERO } else { shift };
        let posed = |mesh: &Mesh, by: Point| {
            let turned = mesh.clone().map_points(|p| if pose == 0 { p + by } else { turn * (p + by) }).unwrap();
            turned.map_points(|p| p.as_vec3().as_dvec3()).unwrap()
        };
        let (a, b) = (posed(&plate, Point::ZERO), posed(&leaf, shift));
        let less = Operation::of(Difference { with: vec![2], keep: false, swap: false });
        let common = Operation::of(Intersection { with: vec![2], keep: false });
        let both = Operation::of(Union { with: vec![2] });
        let [less, common, both] = [less, common, both].map(|step| volume(step, &a, &b));
        let told =
            format!("pose {pose}, {shift}: less {less:?}, common {common:?}, both {both:?} of {whole} and {part}");
        let (Ok(less), Ok(common), Ok(both)) = (less, common, both) else {
            wrong.push(told);
            continue;
        };
        if (less + common - whole).abs() > 1e-4 * whole || (less + part - both).abs() > 1e-4 * whole {
            wrong.push(told);
        }
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
}
