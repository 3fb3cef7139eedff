//! The made-up parts of *Tern Quay Fittings*, an invented yard that casts bronze deck hardware. Generated from fixed numbers.

mod mooring_buoy;
mod porthole_ring;
mod vent_cowl;

pub use mooring_buoy::mooring_buoy;
pub use porthole_ring::porthole_ring;
pub use vent_cowl::vent_cowl;

use nimbet_kernel::{Mesh, Point};

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

/// The demo parts with their names.
pub fn parts() -> Vec<(&'static str, Mesh)> {
    vec![("Vent cowl", vent_cowl()), ("Porthole ring", porthole_ring()), ("Mooring buoy", mooring_buoy())]
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{PartState, examine};
    use nimbet_kernel::Progress;

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

        let buoy = look(mooring_buoy());
        assert_eq!((buoy.figures.state, buoy.shells.len()), (PartState::Flipped, 2));
        assert!(buoy.shells[1].inside_out && buoy.shells[1].is_void && !buoy.shells[0].inside_out);
    }
}
