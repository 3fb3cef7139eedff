//! The section of a rounding or a chamfer at a place of an edge.

use nimbet_kernel::{FaceId, Point};

use crate::forms::Faces;

/// What an edge is given at a place. Lengths in mm, angles in radians.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Section {
    /// An arc that is tangent to both faces.
    Round {
        /// Its radius.
        radius: f64,
    },
    /// A chord.
    Chamfer {
        /// How far from the edge it begins on the left face.
        left: f64,
        /// How far from the edge it ends on the right face.
        right: f64,
    },
    /// A chord that leaves one face at an angle.
    Bevel {
        /// How far from the edge it begins on that face.
        width: f64,
        /// Between that face and the chord.
        angle: f64,
        /// Whether that is the left one.
        left: bool,
    },
}

impl Section {
    /// The same, so many times as large.
    #[must_use]
    pub fn scaled(self, by: f64) -> Self {
        match self {
            Self::Round { radius } => Self::Round { radius: radius * by },
            Self::Chamfer { left, right } => Self::Chamfer { left: left * by, right: right * by },
            Self::Bevel { width, angle, left } => Self::Bevel { width: width * by, angle, left },
        }
    }

    /// Between two sections of one kind.
    #[must_use]
    pub fn between(self, other: Self, share: f64) -> Self {
        let mix = |a: f64, b: f64| a + (b - a) * share;
        match (self, other) {
            (Self::Round { radius: a }, Self::Round { radius: b }) => Self::Round { radius: mix(a, b) },
            (Self::Chamfer { left: a, right: b }, Self::Chamfer { left: c, right: d }) => {
                Self::Chamfer { left: mix(a, c), right: mix(b, d) }
            }
            _ => self,
        }
    }
}

/// A place of an edge: where it is, which way it goes, and its faces.
#[derive(Clone, Copy, Debug)]
pub struct Place {
    /// A point of the edge.
    pub at: Point,
    /// The way it goes there, of unit length.
    pub along: Point,
    /// The faces to its left and right.
    pub faces: [FaceId; 2],
    /// Whether the material lies within less than half a turn.
    pub convex: bool,
}

/// A section at a place: where it touches the faces, and about what.
#[derive(Clone, Copy, Debug)]
pub struct Station {
    /// The place of the edge.
    pub at: Point,
    /// The way the edge goes there.
    pub along: Point,
    /// Where the section touches the left and the right face.
    pub feet: [Point; 2],
    /// The normals of the faces there, out of the material.
    pub normals: [Point; 2],
    /// The middle of the arc; none for a chord.
    pub centre: Option<Point>,
}

/// The figures of a section agree to this share of it.
const EXACT: f64 = 1e-11;
/// On faces that are no simple surface they agree to this.
const FREE: f64 = 1e-3;
/// Steps of an iteration that comes nearer by its square.
const STEPS: usize = 40;

/// The section at a place; none where it finds no foothold.
pub fn station(faces: &Faces<'_>, place: &Place, section: Section) -> Option<Station> {
    match section {
        Section::Round { radius } => round(faces, place, radius),
        Section::Chamfer { left, right } => chamfer(faces, place, [left, right]),
        Section::Bevel { width, angle, left } => {
            let [m, n] = place.faces.map(|f| faces.probe(f, place.at).normal);
            // The angle between the chord and the right face; all three together are half a turn.
            let within = std::f64::consts::PI - m.angle_between(n);
            let other = std::f64::consts::PI - angle - within;
            let second = width * angle.sin() / other.sin();
            let widths = if left { [width, second] } else { [second, width] };
            (other > 1e-6 && second > 0.0).then(|| chamfer(faces, place, widths)).flatten()
        }
    }
}

fn round(faces: &Faces<'_>, place: &Place, radius: f64) -> Option<Station> {
    // The ball lies in the material of a convex edge, and outside of a concave one.
    let off = if place.convex { -radius } else { radius };
    let normals = place.faces.map(|f| faces.probe(f, place.at).normal);
    let both = normals[0] + normals[1];
    let mut centre = place.at + both * (off / (1.0 + normals[0].dot(normals[1])).max(1e-9));
    let least = |face: FaceId| if faces.is_exact(face) { EXACT } else { FREE };
    // Far from zero places themselves are no more exact.
    let exact = place.at.abs().max_element() * f64::EPSILON * 64.0;
    let enough = (place.faces.map(least).into_iter().fold(0.0, f64::max) * radius).max(exact);
    for step in 0..STEPS {
        let [a, b] = place.faces.map(|f| faces.probe(f, centre));
        let wrong = Point::new(a.off - off, b.off - off, (centre - place.at).dot(place.along));
        let settled = wrong.abs().max_element() <= enough;
        if settled || step + 1 == STEPS {
            let feet = [a, b].map(|probe| centre - probe.normal * probe.off);
            // Both feet on the side of the edge the faces are on.
            let ahead = |k: usize| (feet[k] - place.at).dot(into(place, normals, k)) > 0.0;
            let fits = settled && ahead(0) && ahead(1);
            return fits.then_some(Station {
                at: place.at,
                along: place.along,
                feet,
                normals: [a.normal, b.normal],
                centre: Some(centre),
            });
        }
        let slopes = glam::DMat3::from_cols(a.normal, b.normal, place.along).transpose();
        if slopes.determinant().abs() < 1e-9 {
            return None;
        }
        let by = slopes.inverse() * wrong;
        // No step farther than the ball is large.
        centre -= by.clamp_length_max(radius);
    }
    None
}

/// The way from the edge into its left (0) or right (1) face.
fn into(place: &Place, normals: [Point; 2], k: usize) -> Point {
    if k == 0 { normals[0].cross(place.along) } else { place.along.cross(normals[1]) }
}

fn chamfer(faces: &Faces<'_>, place: &Place, widths: [f64; 2]) -> Option<Station> {
    let normals = place.faces.map(|f| faces.probe(f, place.at).normal);
    let mut feet = [Point::ZERO; 2];
    let mut there = normals;
    for k in 0..2 {
        let inward = into(place, normals, k).try_normalize()?;
        let mut foot = place.at + inward * widths[k];
        for _ in 0..STEPS {
            let probe = faces.probe(place.faces[k], foot);
            // Back onto the face within the section, then as far from the edge as it should be.
            let up = probe.normal - place.along * probe.normal.dot(place.along);
            let on = foot - up * (probe.off / up.length_squared().max(1e-9));
            let from = on - place.at;
            foot = place.at + from.try_normalize()? * widths[k];
            there[k] = probe.normal;
            if probe.off.abs() < (EXACT * widths[k]).max(place.at.abs().max_element() * f64::EPSILON * 64.0) {
                break;
            }
        }
        feet[k] = foot;
    }
    Some(Station { at: place.at, along: place.along, feet, normals: there, centre: None })
}

impl Station {
    /// The points of the section from the left face to the right one, in so many pieces; the first and last are the feet.
    pub fn points(&self, pieces: usize) -> Vec<Point> {
        let share = |k: usize| k as f64 / pieces as f64;
        let [from, to] = self.feet;
        let Some(centre) = self.centre else { return (0..=pieces).map(|k| from.lerp(to, share(k))).collect() };
        (0..=pieces)
            .map(|k| {
                if k == 0 {
                    from
                } else if k == pieces {
                    to
                } else {
                    slerp(centre, from, to, share(k))
                }
            })
            .collect()
    }

    /// The angle its arc spans, radians; nought for a chord.
    pub fn span(&self) -> f64 {
        self.centre.map_or(0.0, |c| (self.feet[0] - c).angle_between(self.feet[1] - c))
    }

    /// How far its feet are from the edge, mm.
    pub fn reach(&self) -> f64 {
        self.feet.iter().map(|f| f.distance(self.at)).fold(0.0, f64::max)
    }
}

/// A point on the arc about a centre from one point to another.
pub(crate) fn slerp(centre: Point, from: Point, to: Point, share: f64) -> Point {
    let (a, b) = (from - centre, to - centre);
    let angle = a.angle_between(b);
    if angle < 1e-9 {
        return from.lerp(to, share);
    }
    centre + (a * ((1.0 - share) * angle).sin() + b * (share * angle).sin()) / angle.sin()
}
