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
