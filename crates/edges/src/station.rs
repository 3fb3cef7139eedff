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
    /// With another run, across the face between: an arc that is tangent to that and to those beyond, so that it vanishes.
    Over,
}

impl Section {
    /// The same, so many times as large.
    #[must_use]
    pub fn scaled(self, by: f64) -> Self {
        match self {
            Self::Round { radius } => Self::Round { radius: radius * by },
            Self::Chamfer { left, right } => Self::Chamfer { left: left * by, right: right * by },
            Self::Bevel { width, angle, left } => Self::Bevel { width: width * by, angle, left },
            Self::Over => Self::Over,
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
    /// The face between those two that vanishes, where it does.
    pub over: Option<Over>,
}

/// A face that vanishes under a rounding from the one on one side of it to that on the other.
#[derive(Clone, Copy, Debug)]
pub struct Over {
    /// The face.
    pub face: FaceId,
    /// Half of how wide it is there, mm.
    pub half: f64,
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
    /// The way from the middle to the face that vanishes, of unit length, where one does.
    pub top: Option<Point>,
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
        Section::Round { radius } => match place.over {
            Some(over) => round_over(faces, place, over, Some(radius)),
            None => round(faces, place, radius),
        },
        Section::Over => round_over(faces, place, place.over?, None),
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
    let start = place.at + both * (off / (1.0 + normals[0].dot(normals[1])).max(1e-9));
    let centre = in_two(faces, place, start, radius)?;
    let [a, b] = place.faces.map(|f| faces.probe(f, centre));
    let slips = place.faces.map(|f| faces.slips(f, place.at));
    let feet = [(a, slips[0]), (b, slips[1])].map(|(probe, slip)| centre - probe.normal * (probe.off - slip));
    // Both feet on the side of the edge the faces are on.
    let ahead = |k: usize| (feet[k] - place.at).dot(into(place, normals, k)) > 0.0;
    (ahead(0) && ahead(1)).then_some(Station {
        at: place.at,
        along: place.along,
        feet,
        normals: [a.normal, b.normal],
        centre: Some(centre),
        top: None,
    })
}

/// The ball that touches the planes the faces lie in at the edge, if its feet stand off them by no more than a distance, mm: where
/// triangles bend more than they tell, they are nearest to a ball elsewhere.
pub fn round_beside(faces: &Faces<'_>, place: &Place, radius: f64, most: f64) -> Option<Station> {
    let off = if place.convex { -radius } else { radius };
    let normals = place.faces.map(|f| faces.probe(f, place.at).normal);
    let within = 1.0 + normals[0].dot(normals[1]);
    let centre = place.at + (normals[0] + normals[1]) * (off / within.max(1e-9));
    let feet = normals.map(|n| centre - n * off);
    let on = |k: usize| {
        let beside = faces.probe(place.faces[k], feet[k]).off.abs() <= most;
        beside && (feet[k] - place.at).dot(into(place, normals, k)) > 0.0
    };
    let (at, along) = (place.at, place.along);
    (on(0) && on(1)).then_some(Station { at, along, feet, normals, centre: Some(centre), top: None })
}

/// The radius of a rounding over a face may be off what the faces have room for by this share: the ball that touches all three is meant.
pub const MEANT: f64 = 1e-3;

/// The ball that touches the faces on both sides of one that vanishes, and that one, too, where it has just the room, or no radius.
fn round_over(faces: &Faces<'_>, place: &Place, over: Over, radius: Option<f64>) -> Option<Station> {
    let (centre, room) = in_three(faces, place, over)?;
    let (centre, radius) = match radius.unwrap_or(room) {
        meant if (meant / room - 1.0).abs() <= MEANT => (centre, room),
        larger if larger > room => (in_two(faces, place, centre, larger)?, larger),
        _ => return None,
    };
    let sense = if place.convex { -1.0 } else { 1.0 };
    let [a, b] = place.faces.map(|f| faces.probe(f, centre));
    let feet = [a, b].map(|probe| centre - probe.normal * probe.off);
    // The ball stays under the face that goes, and so do its feet.
    let top = faces.probe(over.face, centre);
    let under = top.off * sense >= radius * (1.0 - MEANT);
    let ahead = feet.iter().all(|foot| faces.probe(over.face, *foot).off * sense > 0.0);
    let normals = [a.normal, b.normal];
    let way = top.normal * -sense;
    (under && ahead).then_some(Station {
        at: place.at,
        along: place.along,
        feet,
        normals,
        centre: Some(centre),
        top: Some(way),
    })
}

/// The ball that touches three faces: its middle and its radius.
fn in_three(faces: &Faces<'_>, place: &Place, over: Over) -> Option<(Point, f64)> {
    let sense = if place.convex { -1.0 } else { 1.0 };
    let all = [place.faces[0], over.face, place.faces[1]];
    let mut radius = over.half;
    let mut centre = place.at + faces.probe(over.face, place.at).normal * (sense * over.half);
    let enough = over.half * if all.iter().all(|f| faces.is_exact(*f)) { EXACT } else { FREE };
    let enough = enough.max(place.at.abs().max_element() * f64::EPSILON * 64.0);
    for _ in 0..STEPS {
        let [a, t, b] = all.map(|f| faces.probe(f, centre));
        let wrong = [a, t, b].map(|p| p.off - sense * radius);
        let plane = (centre - place.at).dot(place.along);
        if wrong.iter().all(|w| w.abs() <= enough) && plane.abs() <= enough {
            return (radius > 0.0).then_some((centre, radius));
        }
        // The radius falls out of the differences to the middle face.
        let slopes = glam::DMat3::from_cols(a.normal - t.normal, b.normal - t.normal, place.along).transpose();
        if slopes.determinant().abs() < 1e-9 {
            return None;
        }
        let by = slopes.inverse() * Point::new(wrong[0] - wrong[1], wrong[2] - wrong[1], plane);
        let by = by.clamp_length_max(over.half * 2.0);
        centre -= by;
        radius += sense * (wrong[1] - t.normal.dot(by));
    }
    None
}

/// The middle of a ball of a radius that touches the faces on both sides, from one near by.
fn in_two(faces: &Faces<'_>, place: &Place, from: Point, radius: f64) -> Option<Point> {
    let off = if place.convex { -radius } else { radius };
    let enough = radius * if place.faces.iter().all(|f| faces.is_exact(*f)) { EXACT } else { FREE };
    let enough = enough.max(place.at.abs().max_element() * f64::EPSILON * 64.0);
    let mut centre = from;
    let slips = place.faces.map(|f| faces.slips(f, place.at));
    for _ in 0..STEPS {
        let [a, b] = place.faces.map(|f| faces.probe(f, centre));
        let wrong = Point::new(a.off - slips[0] - off, b.off - slips[1] - off, (centre - place.at).dot(place.along));
        if wrong.abs().max_element() <= enough {
            return Some(centre);
        }
        let slopes = glam::DMat3::from_cols(a.normal, b.normal, place.along).transpose();
        if slopes.determinant().abs() < 1e-9 {
            return None;
        }
        centre -= (slopes.inverse() * wrong).clamp_length_max(radius);
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
        let slip = faces.slips(place.faces[k], place.at);
        for _ in 0..STEPS {
            let mut probe = faces.probe(place.faces[k], foot);
            probe.off -= slip;
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
    Some(Station { at: place.at, along: place.along, feet, normals: there, centre: None, top: None })
}

impl Station {
    /// The points of the section from the left face to the right one, in so many pieces; the first and last are the feet. Under a
    /// face that vanishes lies the middle of a piece, so that nothing touches it.
    pub fn points(&self, pieces: usize) -> Vec<Point> {
        let share = |k: usize| k as f64 / pieces as f64;
        let [from, to] = self.feet;
        let Some(centre) = self.centre else { return (0..=pieces).map(|k| from.lerp(to, share(k))).collect() };
        let between = |k: usize| match self.top {
            Some(top) => self.under(centre, centre + top * (from - centre).length(), (k, pieces)),
            None => slerp(centre, from, to, share(k)),
        };
        let point = |k: usize| match k {
            0 => from,
            k if k == pieces => to,
            k => between(k),
        };
        (0..=pieces).map(point).collect()
    }

    /// A point of an arc by the middle of a face that vanishes.
    fn under(&self, centre: Point, top: Point, (k, pieces): (usize, usize)) -> Point {
        let [from, to] = self.feet;
        let [first, second] = [from, to].map(|p| (p - centre).angle_between(top - centre));
        // Half a piece stays free on either side of it.
        let half = (first + second) / (2.0 * pieces as f64);
        let before = ((first / (2.0 * half) - 0.5).round() as usize).clamp(1, pieces - 2);
        if k <= before {
            slerp(centre, from, top, (first - half).max(0.0) / first * k as f64 / before as f64)
        } else {
            let left = (pieces - k) as f64 / (pieces - 1 - before) as f64;
            slerp(centre, to, top, (second - half).max(0.0) / second * left)
        }
    }

    /// The angle its arc spans, radians; nought for a chord.
    pub fn span(&self) -> f64 {
        let Some(centre) = self.centre else { return 0.0 };
        let [a, b] = self.feet.map(|foot| foot - centre);
        self.top.map_or(a.angle_between(b), |top| a.angle_between(top) + b.angle_between(top))
    }

    /// How far a foot lies ahead or behind, by how far it is from the edge: much where it finds hold beyond a bend of a face.
    pub fn slant(&self) -> f64 {
        let of = |foot: &Point| (foot - self.at).dot(self.along).abs() / foot.distance(self.at).max(f64::MIN_POSITIVE);
        self.feet.iter().map(of).fold(0.0, f64::max)
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
