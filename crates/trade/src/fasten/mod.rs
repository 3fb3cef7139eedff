//! Fasten: bores, threads, inserts and what closes them again, at many places in one step.

mod fittings;
mod sizes;
mod thread;

pub use fittings::{ALLOWANCES, Allowances, Clearance, FITTINGS, Fit, Fitting, POCKETS, Pocket, fitting, lead_in};
pub use sizes::{Family, PitchClass, Size, size, sizes, sizes_for_bore, sizes_for_pin};
pub use thread::{Allowance, FreeThread, Gender, Thread, ThreadSize};
