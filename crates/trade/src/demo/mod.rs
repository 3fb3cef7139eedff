//! The made-up parts of *Tern Quay Fittings*, an invented yard that casts bronze deck hardware. Generated from fixed numbers.

mod bailer;
mod coaming;
mod deck_plate;
mod drawn;
mod filler_neck;
mod fog_bell;
mod half_fairlead;
mod hinge_leaf;
mod mooring_buoy;
mod porthole_ring;
mod stanchion_bend;
mod strainer_cup;
mod tiller_core;
mod tiller_grip;
mod vent_cowl;

pub use bailer::bailer;
pub use coaming::coaming;
pub use deck_plate::{PLATE, deck_plate};
pub use drawn::{DRAWN, Drawn};
pub use filler_neck::{CAP_PIN, NECK_BORE, filler_cap, filler_neck};
pub use fog_bell::fog_bell;
pub use half_fairlead::half_fairlead;
pub use hinge_leaf::{hinge_leaf, hinge_leaf_coat};
pub use mooring_buoy::mooring_buoy;
pub use porthole_ring::porthole_ring;
pub use stanchion_bend::stanchion_bend;
pub use strainer_cup::strainer_cup;
pub use tiller_core::tiller_core;
pub use tiller_grip::tiller_grip;
pub use vent_cowl::vent_cowl;

use nimbet_kernel::surfaces::{DEFAULT_ANGLE, Grouping, group_faces};
use nimbet_kernel::{Mesh, Point, Progress};

/// Soup of triangles to be welded.
type Soup = Vec<Point>;

/// Two triangles for the quadrilateral `a b c d`, counter-clockwise.
fn quad(soup: &mut Soup, [a, b, c, d]: [Point; 4]) {
    soup.extend([a, b, c, a, c, d]);
}

fn welded(soup: &Soup) -> Mesh {
    // Fixed finite numbers always weld.
    nimbet_kernel::weld::weld_corners(soup).unwrap_or_default()
}

/// Revolves a profile of (radius, height) points about z, outward to the right of its direction. Points on the axis close.
fn revolve(soup: &mut Soup, profile: &[(f64, f64)], segments: usize) {
    let at = |(r, z): (f64, f64), k: usize| {
        let angle = (k % segments) as f64 / segments as f64 * std::f64::consts::TAU;
        Point::new(r * angle.cos(), r * angle.sin(), z)
    };
    for pair in profile.windows(2) {
        for k in 0..segments {
            let corners = [at(pair[0], k), at(pair[0], k + 1), at(pair[1], k + 1), at(pair[1], k)];
            if pair[0].0 == 0.0 {
                soup.extend([corners[0], corners[2], corners[3]]);
            } else if pair[1].0 == 0.0 {
                soup.extend([corners[0], corners[1], corners[2]]);
            } else {
                quad(soup, corners);
            }
        }
    }
}

/// A drum upright on its foot, put where it belongs: its middle line goes from the origin up z.
fn drum(radius: f64, height: f64, segments: usize, put: impl Fn(Point) -> Point) -> Mesh {
    let mut soup = Vec::new();
    revolve(&mut soup, &[(0.0, 0.0), (radius, 0.0), (radius, height), (0.0, height)], segments);
    grouped(welded(&soup)).map_points(put).unwrap_or_default()
}

/// With its triangles grouped into faces.
fn grouped(mesh: Mesh) -> Mesh {
    let how = Grouping { angle: DEFAULT_ANGLE, tolerance: 0.01 };
    group_faces(mesh, how, &Progress::unwatched()).unwrap_or_default()
}

/// The demo parts with their names.
pub fn parts() -> Vec<(&'static str, Mesh)> {
    vec![
        ("Vent cowl", vent_cowl()),
        ("Porthole ring", porthole_ring()),
        ("Mooring buoy", mooring_buoy()),
        ("Tiller grip", tiller_grip()),
        ("Half fairlead", half_fairlead()),
        ("Bailer", bailer()),
        ("Coaming", coaming()),
        ("Stanchion bend", stanchion_bend()),
        ("Fog bell", fog_bell()),
        ("Tiller core", tiller_core()),
        ("Strainer cup", strainer_cup()),
        ("Hinge leaf", hinge_leaf()),
        ("Deck plate", deck_plate()),
        ("Filler neck", filler_neck()),
        ("Filler cap", filler_cap()),
        ("Hinge leaf coat", hinge_leaf_coat()),
    ]
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{PartState, examine};

    #[test]
    fn the_parts_have_the_faults_they_are_shown_for() {
        let look = |m: Mesh| examine(&m, &Progress::unwatched()).unwrap();
        let cowl = look(vent_cowl());
        assert_eq!((cowl.figures.state, cowl.rims.len(), cowl.gaps.len()), (PartState::Open, 2, 0));
        assert_eq!(cowl.rims.iter().filter(|r| r.flat).count(), 1);

        let ring = look(porthole_ring());
        assert_eq!(ring.gaps.len(), 4, "{:#?}", ring.gaps);
        for gap in &ring.gaps {
            assert!(gap.width_least >= 0.015 && gap.width_most <= 0.085, "{gap:?}");
        }
        let junctions = ring.findings.iter().filter(|f| f.key.starts_with("t-junction")).count();
        assert_eq!(junctions, 1);
        assert_eq!(ring.findings.len(), 5, "{:#?}", ring.findings);

        let grip = look(tiller_grip());
        assert!(grip.rims.len() >= 4 && grip.figures.crossing_pairs == 0, "{}", grip.figures.reason);
        assert!(grip.findings.iter().any(|f| f.key == "specks"));
        let plan = crate::Operation::of(crate::Plan::default());
        let sealed = plan.apply(&tiller_grip(), &[], &Progress::unwatched()).unwrap().mesh;
        assert_eq!(look(sealed).figures.state, PartState::Sealed);

        let half = look(half_fairlead());
        assert_eq!((half.rims.len(), half.rims[0].flat, half.figures.clashing_edges), (1, true, 0));
        assert_eq!(half.figures.crossing_pairs, 0);
        assert!(half_fairlead().points().iter().all(|p| p.x >= -1e-9));

        let bailer = look(bailer());
        assert_eq!((bailer.rims.len(), bailer.rims[0].flat, bailer.figures.clashing_edges), (1, false, 0));

        let plan = |mesh: Mesh| plan.apply(&mesh, &[], &Progress::unwatched()).unwrap().mesh;
        assert_eq!(look(coaming()).figures.state, PartState::Tangled);
        let one = look(plan(coaming()));
        assert_eq!((one.figures.state, one.figures.shells), (PartState::Sealed, 1), "{}", one.figures.reason);
        // Boards of 160 and 120 by 12, halved at the corners, posts and a cleat, less what they share.
        let boards = 2.0 * 160.0 * 12.0 * 30.0 + 2.0 * 96.0 * 12.0 * 27.0;
        // A post stands 4 mm into each of two boards, 6 mm out below, and to z = 24.
        let posts = 4.0 * (10.0 * 10.0 * 30.0 - (10.0 * 10.0 - 6.0 * 6.0) * 24.0);
        assert!((one.figures.volume.unwrap() - boards - posts - 20.0 * 5.0 * 10.0).abs() < 1e-2);

        let bend = look(stanchion_bend());
        assert_eq!(bend.figures.state, PartState::Tangled);
        let tube = bend.tangles[0].tube.unwrap();
        assert!((tube / 24.0 - 1.0).abs() < 0.01, "{tube}");
        let told = |f: &crate::examine::Finding| {
            f.cause.contains("a bend of more than 12 mm") || f.cause.contains("a bend of more than 11.9")
        };
        assert!(bend.findings.iter().any(told), "{:#?}", bend.findings);
        let straightened = look(plan(stanchion_bend()));
        assert_eq!(straightened.figures.state, PartState::Sealed, "{}", straightened.figures.reason);

        for solid in [tiller_core(), strainer_cup(), hinge_leaf(), deck_plate(), filler_neck(), filler_cap()] {
            let seen = look(solid);
            assert_eq!((seen.figures.state, seen.figures.shells), (PartState::Sealed, 1), "{}", seen.figures.reason);
        }

        // The coat meets the leaf on its inner side and covers all but the bore of the pin and the ends.
        let (leaf, coat) = (hinge_leaf(), look(hinge_leaf_coat()).figures);
        let area = nimbet_kernel::measure::measure(&leaf).area;
        let ends = 2.0 * (48.0 * 4.0 + std::f64::consts::PI * (36.0 - 9.0));
        let even = (area - 6.0 * std::f64::consts::PI * 40.0 - ends) * 0.3;
        assert_eq!((coat.state, coat.shells), (PartState::Sealed, 1), "{}", coat.reason);
        assert!((coat.volume.unwrap() / even - 1.0).abs() < 0.06, "{:?} is not {even}", coat.volume);

        let buoy = look(mooring_buoy());
        assert_eq!((buoy.figures.state, buoy.shells.len()), (PartState::Flipped, 2));
        assert!(
            buoy.shells[1].inside_out
                && buoy.shells[1].role == crate::examine::ShellRole::Stray
                && !buoy.shells[0].inside_out
        );
    }
}
