//! Fasten: bores, threads, inserts and what closes them again, at many places in one step.

mod bore;
mod bore_cut;
mod bore_form;
mod bore_left;
mod cutter;
mod fit;
mod fittings;
mod lines;
mod marks;
mod on_faces;
mod places;
mod plug;
mod reach;
mod sizes;
mod stud;
mod thread;

pub use bore::{Bore, BoreSeat, BoreSeats};
pub use bore_form::{BoreForm, ClearanceFor, ThreadedBore, Width};
pub use fit::{FitReport, fit};
pub use fittings::{ALLOWANCES, Allowances, Clearance, FITTINGS, Fit, Fitting, POCKETS, Pocket, fitting, lead_in};
pub use marks::ThreadMark;
pub use on_faces::ThreadFaces;
pub use places::{BorePlace, Places, SizedPlace};
pub use plug::{Plug, Rebore};
pub use reach::Reach;
pub use sizes::{Family, PitchClass, Size, size, sizes, sizes_for_bore, sizes_for_pin};
pub use stud::Stud;
pub use thread::{Allowance, FreeThread, Gender, Thread, ThreadForm, ThreadSize};

/// The chord of threads and bores to begin with, mm: no coarser than fits need.
fn fine(b: &crate::tool::Begin<'_>) -> f64 {
    b.chord.min(0.02)
}

/// A thread to begin with: its size is the person's to choose.
fn thread(b: &crate::tool::Begin<'_>) -> serde_json::Value {
    serde_json::json!({ "size": "", "allowance": { "radial": b.added[1], "axial": b.added[2] } })
}
