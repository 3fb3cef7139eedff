//! Bodies and sheets made of profiles: closed forms, refusals, and whatever else a hand may draw.

mod courses;
mod edges;
mod making;
mod patches_and_lettering;
mod poses;
mod profiles;
mod reliefs_and_lofts;
mod sweeps;
mod trimming;
