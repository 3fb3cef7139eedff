//! The coaming of a hatch cover, drawn as boxes that overlap: four boards, four corner posts, a cleat.

use nimbet_kernel::shapes::block;
use nimbet_kernel::{Mesh, Point};

use super::{Soup, welded};

/// Boards halved into each other at the corners, posts inside of them and a cleat that stands on one.
pub fn coaming() -> Mesh {
    let mut boxes = vec![
        ([0.0, 0.0, 0.0], [160.0, 12.0, 30.0]),
        ([0.0, 108.0, 0.0], [160.0, 12.0, 30.0]),
        ([0.0, 0.0, 0.0], [12.0, 120.0, 27.0]),
        ([148.0, 0.0, 0.0], [12.0, 120.0, 27.0]),
        ([70.0, 4.0, 24.0], [20.0, 5.0, 16.0]),
    ];
    for (x, y) in [(8.0, 8.0), (142.0, 8.0), (8.0, 102.0), (142.0, 102.0)] {
        boxes.push(([x, y, -6.0], [10.0, 10.0, 30.0]));
    }
    let mut soup: Soup = Vec::new();
    for (at, size) in boxes {
        let mesh = block(Point::from_array(at), Point::from_array(size));
        soup.extend((0..mesh.triangles().len()).flat_map(|t| mesh.corners(t)));
    }
    welded(&soup)
}
