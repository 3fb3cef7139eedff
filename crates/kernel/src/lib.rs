//! Geometry of Nimbet: triangle meshes, topology, exact predicates, spatial search and triangulation.
//!
//! Nothing here knows the rules of the job (what a finding is, what a remedy may do), no file format and no screen.
//! Lengths are millimetres in `f64`. Topology modules ([`topology`], [`rims`], [`shells`]) see indices only: they cannot
//! misuse coordinates. Decisions about sides and crossings use exact predicates ([`predicates`]), never an epsilon.

pub mod arrange;
pub mod bvh;
pub mod compare;
pub mod crossings;
pub mod deviation;
pub mod fans;
pub mod flow;
pub mod harm;
pub mod hull;
pub mod inside;
pub mod interior;
pub mod level;
pub mod measure;
pub mod mesh;
pub mod mesh_bytes;
pub mod offset;
pub mod outline;
pub mod precision;
pub mod predicates;
pub mod progress;
pub mod rims;
pub mod screw;
pub mod section;
pub mod segments;
pub mod shapes;
pub mod shells;
pub mod simplify;
pub mod single;
pub mod slender;
pub mod smooth;
pub mod sparse;
pub mod surfaces;
pub mod thickness;
pub mod topology;
pub mod touching;
pub mod triangulate;
pub mod union_find;
pub mod weld;
pub mod winding;
pub mod wrap;

pub use bvh::{Aabb, Bvh};
pub use mesh::{Drawn, FaceId, Mesh, MeshError, Point};
pub use progress::{Cancelled, Progress};
pub use topology::Topology;
pub use union_find::UnionFind;
