//! Bodies as faces on surfaces, bounded by edges that neighbours share.

use nimbet_kernel::Point;

use crate::curve::Curve;
use crate::surface::Surface;

/// An edge: a stretch of a curve between two of the body's points.
#[derive(Clone, Debug)]
pub struct Edge {
    /// What it follows.
    pub curve: Curve,
    /// The parameters at its ends.
    pub range: [f64; 2],
    /// The points it begins and ends at.
    pub ends: [u32; 2],
}

/// What bounds a face: the face lies to the left, seen against its normal.
#[derive(Clone, Debug)]
pub enum Loop {
    /// Edges, each with whether it is followed from its beginning to its end.
    Edges(Vec<(u32, bool)>),
    /// A point at which the surface closes.
    Point(u32),
}

/// A face.
#[derive(Debug)]
pub struct Face {
    /// What it lies on.
    pub surface: Surface,
    /// Whether its normal is that of the surface.
    pub same_sense: bool,
    /// What bounds it.
    pub loops: Vec<Loop>,
}

/// A solid, or a sheet.
#[derive(Debug, Default)]
pub struct Body {
    /// Where edges end.
    pub points: Vec<Point>,
    /// Its edges.
    pub edges: Vec<Edge>,
    /// Its faces.
    pub faces: Vec<Face>,
}
