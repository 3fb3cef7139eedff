//! A deck plate: a plate with round corners, two slots and four bores to come.

use nimbet_kernel::{Mesh, Progress};

use super::grouped;
use crate::Operation;
use crate::fasten::{Bore, BoreForm, BorePlace, Places, Reach, Width};
use crate::shape::{AddBody, BodyShape};

/// The length, width and height of the plate, mm.
pub const PLATE: [f64; 3] = [120.0, 80.0, 8.0];

/// A plate of 120 × 80 × 8 mm with corners of 12 mm and two slots of 8 × 40 mm: a solid that lies on z = 0.
pub fn deck_plate() -> Mesh {
    let quiet = Progress::unwatched();
    let [x, y, z] = PLATE;
    let body = BodyShape::Block { size: PLATE, rounded: 12.0, all_edges: false };
    let plate = Operation::of(AddBody { body, at: [0.0, 0.0, z * 0.5], chord: 0.02 });
    let slots = Operation::from(Bore {
        places: Places::Points([-1.0, 1.0].map(|side| BorePlace::At([side * x * 0.25, 0.0, z])).to_vec()),
        face: None,
        along: Some([0.0, 0.0, -1.0]),
        form: BoreForm::Slot { width: Width::Diameter(8.0), length: y * 0.4, way: [0.0, 1.0, 0.0] },
        reach: Reach::All,
        allowance: 0.0,
        chord: 0.02,
        least_wall: None,
    });
    // Fixed figures always cut.
    let made = plate.apply(&Mesh::default(), &[], &quiet).and_then(|o| slots.apply(&o.more[0].mesh, &[], &quiet));
    made.map(|o| grouped(o.mesh)).unwrap_or_default()
}
