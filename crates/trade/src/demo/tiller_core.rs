//! The end of the tiller: the core that the grip is to fit over.

use nimbet_kernel::{Mesh, Point};

use super::drum;

/// A rod of 14 mm that ends within the grip.
pub fn tiller_core() -> Mesh {
    drum(7.0, 130.0, 64, |p| p + Point::new(0.0, 0.0, -30.0))
}
