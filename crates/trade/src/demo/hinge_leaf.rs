//! A leaf of a hinge: a plate with a knuckle for the pin and three countersunk bores; to be coated.

use nimbet_kernel::shapes::block;
use nimbet_kernel::{Mesh, Point, Progress};

use super::{drum, grouped, revolve, welded};
use crate::Operation;
use crate::examine::FacePick;
use crate::shape::{Difference, Union};
use crate::wall::{Coat, CornerStyle};

/// A plate of 48 × 40 × 4 mm with a knuckle of 12 mm along one side: a solid.
pub fn hinge_leaf() -> Mesh {
    let quiet = Progress::unwatched();
    let along_y = |at: Point| move |p: Point| Point::new(p.x, p.z, -p.y) + at;
    let plate = grouped(block(Point::new(0.0, 0.0, 0.0), Point::new(48.0, 40.0, 4.0)));
    let knuckle = drum(6.0, 40.0, 64, along_y(Point::new(-2.0, 0.0, 6.0)));
    let bore = drum(3.0, 60.0, 48, along_y(Point::new(-2.0, -10.0, 6.0)));
    let countersunk = |at: Point| {
        let mut soup = Vec::new();
        let profile = [(0.0, -1.0), (2.25, -1.0), (2.25, 1.75), (4.75, 4.25), (4.75, 5.0), (0.0, 5.0)];
        revolve(&mut soup, &profile, 48);
        grouped(welded(&soup)).map_points(|p| p + at).unwrap_or_default()
    };
    let cutters = [
        bore,
        countersunk(Point::new(16.0, 20.0, 0.0)),
        countersunk(Point::new(38.0, 8.0, 0.0)),
        countersunk(Point::new(38.0, 32.0, 0.0)),
    ];
    let joined = Operation::of(Union { with: vec![2] }).apply(&plate, &[knuckle], &quiet);
    let cut = Operation::of(Difference { with: vec![2, 3, 4, 5], ..Default::default() });
    // Fixed figures always cut.
    joined.and_then(|o| cut.apply(&o.mesh, &cutters, &quiet)).map(|o| o.mesh).unwrap_or_default()
}

/// A coat of 0.3 mm on the leaf, as a body of its own: the bore of the pin stays bare, so that the pin goes in, and both ends,
/// where it is held.
pub fn hinge_leaf_coat() -> Mesh {
    let ends = [0.0, 40.0].into_iter().flat_map(|y| [[24.0, y, 2.0], [-6.0, y, 8.0]]);
    let bare = ends.chain([[1.0, 20.0, 6.0]]).map(FacePick::At).collect();
    let coat = Operation::of(Coat { thickness: 0.3, bare, corners: CornerStyle::Round, chord: None });
    // Fixed figures always hold.
    coat.apply(&hinge_leaf(), &[], &Progress::unwatched()).map(|mut o| o.more.remove(0).mesh).unwrap_or_default()
}
