//! Readers and writers of open formats.
//!
//! Readers take any `Read`, never allocate from a number in a header without a bound, and answer every bad file with a
//! [`ReadError`] that names the byte or line. What they give is welded exactly and in the file's own units.

mod archive;
mod display;
mod drawing;
mod errors;
mod exact;
mod glb;
mod gltf_in;
mod groups;
mod input;
mod model_3mf;
mod model_3mf_out;
mod obj;
mod off;
mod outlines;
mod ply;
mod polygons;
mod read;
mod stl;
mod units;
mod wires;
mod write;

pub use display::{Detail, DisplayExtras, display_glb};
pub use drawing::{DrawnPart, drawing_dxf, drawing_svg};
pub use errors::{Place, ReadError};
pub use nimbet_brep::Written as ExactFaces;
pub use outlines::{LARGEST_DRAWING, ReadOutlines, profile_dxf, profile_svg, read_outlines};
pub use read::{DEFAULT_CHORD, FileBody, FileFormat, Imported, Limits, Wanted, read_bodies, read_model};
pub use units::{LengthUnit, guess_unit};
pub use write::{Body, ReleaseFormat, WriteError, write_body, write_exact, write_together};
