//! Where things lie: an origin and three directions square to each other.

use nimbet_kernel::Point;

/// A right-handed frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Frame {
    /// Where it stands.
    pub origin: Point,
    /// Its first direction, of unit length.
    pub x: Point,
    /// Its second.
    pub y: Point,
    /// Its third.
    pub z: Point,
}

impl Frame {
    /// The frame with an origin, a third direction and a first one that need not be square to it. None where they are no directions.
    pub fn new(origin: Point, z: Point, towards: Point) -> Option<Self> {
        let z = z.try_normalize()?;
        let x = (towards - z * towards.dot(z)).try_normalize()?;
        origin.is_finite().then_some(Self { origin, x, y: z.cross(x), z })
    }

    /// A point by its coordinates in the frame.
    pub fn lift(&self, [x, y, z]: [f64; 3]) -> Point {
        self.origin + self.x * x + self.y * y + self.z * z
    }

    /// The coordinates of a point in the frame.
    pub fn lower(&self, p: Point) -> [f64; 3] {
        let d = p - self.origin;
        [d.dot(self.x), d.dot(self.y), d.dot(self.z)]
    }

    /// The direction square to the third at an angle from the first.
    pub fn round(&self, angle: f64) -> Point {
        let (sin, cos) = angle.sin_cos();
        self.x * cos + self.y * sin
    }
}
