//! Frames carried along a path.

use super::*;

/// The same shares with more between them, so that none is farther from the one before it than `most`.
pub(super) fn finer(shares: &[f64], most: f64) -> Vec<f64> {
    let mut all = Vec::new();
    let mut from = 0.0;
    for &share in shares {
        let n = ((share - from) / most).ceil().clamp(1.0, MOST as f64) as usize;
        all.extend((1..=n).map(|k| if k == n { share } else { from + (share - from) * k as f64 / n as f64 }));
        from = share;
    }
    all
}

/// The first direction at the beginning.
pub(super) fn begin(along: Point, holding: Holding) -> Point {
    let wanted = match holding {
        Holding::Square(across) => across - along * across.dot(along),
        Holding::Upright(up) => up.cross(along),
    };
    wanted.try_normalize().unwrap_or_else(|| along.any_orthonormal_vector())
}

/// A direction turned with the path, as little as can be.
pub(super) fn turned(from: Point, to: Point, across: Point) -> Point {
    let axis = from.cross(to);
    let (sin, cos) = (axis.length(), from.dot(to));
    let Some(axis) = axis.try_normalize() else { return across };
    let turned = across * cos + axis.cross(across) * sin + axis * (axis.dot(across) * (1.0 - cos));
    (turned - to * turned.dot(to)).normalize_or(to.any_orthonormal_vector())
}

/// The frame carried on to a near place by two reflections.
pub(super) fn carried(from: &Station, at: Point, along: Point) -> Station {
    let step = at - from.at;
    let squared = step.length_squared();
    if squared == 0.0 {
        return Station { at, along, across: turned(from.along, along, from.across), ..*from };
    }
    let mirrored = |v: Point, n: Point, squared: f64| v - n * (2.0 * n.dot(v) / squared);
    let (across, before) = (mirrored(from.across, step, squared), mirrored(from.along, step, squared));
    let back = along - before;
    let squared = back.length_squared();
    let across = if squared > 0.0 { mirrored(across, back, squared) } else { across };
    Station { at, along, across: (across - along * across.dot(along)).normalize_or(from.across), ..*from }
}

/// Shares out over the whole length by how much what was carried round does not come back to itself.
pub(super) fn close_twist(all: &mut [Station]) {
    let (first, last) = (all[0], all[all.len() - 1]);
    let off = angle(last.across, first.across, first.along);
    for station in all.iter_mut() {
        let share = if last.length > 0.0 { station.length / last.length } else { 0.0 };
        station.across = about(station.along, station.across, off * share);
    }
    if let Some(last) = all.last_mut() {
        (last.along, last.across) = (first.along, first.across);
    }
}

pub(super) fn hold_upright(all: &mut [Station], up: Point) -> Result<(), PathError> {
    /// The sine of the angle to the path below which nothing is upright any more.
    const STEEP: f64 = 1e-3;
    let up = up.try_normalize().ok_or_else(|| refused("what is up has no direction", vec![]))?;
    for station in all.iter_mut() {
        let across = up.cross(station.along);
        if across.length() < STEEP {
            return Err(refused(
                "the path goes straight up here: nothing square to it can be upright",
                vec![station.at],
            ));
        }
        station.across = across.normalize();
    }
    Ok(())
}

/// The angle from one direction to another about a third, radians.
fn angle(from: Point, to: Point, about: Point) -> f64 {
    from.cross(to).dot(about).atan2(from.dot(to))
}

/// A direction square to an axis, turned about it.
pub(crate) fn about(axis: Point, v: Point, by: f64) -> Point {
    let (sin, cos) = by.sin_cos();
    v * cos + axis.cross(v) * sin
}

/// A flat place in the frame of a station.
impl Station {
    /// Where a place of a section goes.
    pub fn lift(&self, p: Flat) -> Point {
        self.at + self.across * p.x + self.up() * p.y
    }
}
