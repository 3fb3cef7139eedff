//! Boundary representations: bodies whose faces lie on exact surfaces and share exact edges, as triangles that follow them; read
//! from and written as STEP (ISO 10303-21).
//!
//! Edges are followed once, so that neighbours share their points; where a model does not close, neither do the triangles.

mod ball;
mod body;
mod curve;
mod fill;
mod frame;
mod rings;
mod spline;
mod step;
mod surface;
mod tessellate;
mod trace;

pub use body::{Body, Edge, Face, Loop};
pub use curve::{Curve, Fineness};
pub use frame::Frame;
pub use rings::FaceFault;
pub use spline::{HIGHEST_DEGREE, Knots, SplineCurve, SplineSurface};
pub use step::{
    Contents, Held, Item, MOST_CURVES, MOST_FACES, StepError, StepWriteError, Triangles, Written, read_step, write_step,
};
pub use surface::{FreeForm, Pole, Surface};
pub use tessellate::{LeftOpen, TessellateError, Tessellated, tessellate};
pub use trace::TraceError;
