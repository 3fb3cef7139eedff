//! How faces go on beyond the edges at which they end.

use nimbet_kernel::segments::nearest_on_segment;
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{Aabb, Bvh, Cancelled, FaceId, Mesh, Point, Progress, Topology};

use crate::forms::Faces;

/// Places are looked for so many between two questions whether to go on.
const OFTEN: usize = 256;

/// How a face goes on beyond an edge at which it ends.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Beyond {
    /// The way on: in the face, square to its edge, of length 1.
    pub way: Point,
    /// The normal of the face there, of length 1.
    pub normal: Point,
}

/// For each place, with the way that is wanted there, how a face goes on that ends in the edge nearest to it. Of two faces that meet in
/// the edge it is the one that goes on more nearly as is wanted; at places farther than a distance from all edges, mm, or at which nothing
/// goes on that way, there is none.
///
/// # Errors
/// [`Cancelled`].
pub fn beyond(
    mesh: &Mesh,
    places: &[(Point, Point)],
    within: f64,
    progress: &Progress,
) -> Result<Vec<Option<Beyond>>, Cancelled> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    progress.check()?;
    let face = |half: u32| mesh.face_of()[half as usize / 3];
    let ends = |half: u32| {
        let (a, b) = topology.ends(half);
        [a, b].map(|v| mesh.points()[v as usize])
    };
    // Edges at which a face ends: those of the border, and those between two faces.
    let between =
        topology.edges_with(EdgeUse::Regular).map(|e| topology.halves(e)).filter(|h| face(h[0]) != face(h[1]));
    let mut halves: Vec<u32> = between.flatten().copied().collect();
    halves.extend(topology.naked_halves());
    let bvh = Bvh::new(halves.iter().map(|h| Aabb::of(ends(*h))).collect());
    let faces = Faces::of(mesh);
    let on = |half: u32, at: Point| -> Beyond {
        let [a, b] = ends(half);
        let normal = faces.probe(face(half), at).normal;
        // The face lies to the left of its edges, seen from outside.
        Beyond { way: (b - a).cross(normal).normalize_or_zero(), normal }
    };
    let mut found = Vec::with_capacity(places.len());
    for (n, (at, wanted)) in places.iter().enumerate() {
        if n % OFTEN == 0 {
            progress.check()?;
        }
        let off = |n: u32| nearest_on_segment(*at, ends(halves[n as usize])[0], ends(halves[n as usize])[1]).1;
        let Some((_, least)) = bvh.nearest(*at, within, |n| Some(off(n))) else {
            found.push(None);
            continue;
        };
        let as_near = least + within * NEAR;
        let mut best: Option<(f64, FaceId, Beyond)> = None;
        let near = Aabb::of([*at]).grown(as_near);
        let _ = bvh.overlapping(&near, |n| {
            if off(n) <= as_near * as_near {
                let half = halves[n as usize];
                let on = on(half, *at);
                let along = on.way.dot(wanted.normalize_or_zero());
                if along > LEAST
                    && best.is_none_or(|(most, known, _)| along > most || along == most && face(half) < known)
                {
                    best = Some((along, face(half), on));
                }
            }
            std::ops::ControlFlow::Continue(())
        });
        found.push(best.map(|b| b.2));
    }
    Ok(found)
}

/// Edges as near as the nearest but for this share of the distance are looked at: both sides of it, and those that meet it there.
const NEAR: f64 = 1e-3;
/// What goes on less than this along the way that is wanted, as a cosine, goes aside.
const LEAST: f64 = 0.05;
