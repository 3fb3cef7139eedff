//! Where fastenings go: points given one by one, in a row, a ring or a grid, or pasted from a table.

use std::cell::RefCell;
use std::collections::HashMap;

use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{FaceId, Mesh, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::lines::{Lines, Stretch};
use crate::TradeError;
use crate::examine::{FacePick, FaceSurface, face_surface};
use crate::parameter::{Length, Position, Turned};
use crate::picks::triangle_under;
use crate::words::Xyz;

/// Where they go. Lengths in mm.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase", deny_unknown_fields)]
pub enum Places {
    /// One by one.
    Points(Vec<BorePlace>),
    /// Evenly from one point to another.
    Row {
        /// The first.
        #[schemars(with = "Position")]
        from: Xyz,
        /// The last.
        #[schemars(with = "Position")]
        to: Xyz,
        /// How many.
        count: u32,
    },
    /// Evenly round a circle that lies square to the direction of the bores.
    Ring {
        /// The middle of the circle.
        #[schemars(with = "Position")]
        centre: Xyz,
        /// Its diameter.
        #[schemars(with = "Length")]
        diameter: f64,
        /// How many.
        count: u32,
        /// How far the first is turned, degrees, from the x axis as it lies in that plane.
        #[serde(default)]
        #[schemars(with = "Turned")]
        turned: f64,
    },
    /// In rows and columns about a middle.
    Grid {
        /// The middle.
        #[schemars(with = "Position")]
        centre: Xyz,
        /// How many along the first direction and along the second.
        counts: [u32; 2],
        /// How far apart.
        #[schemars(with = "[Length; 2]")]
        spacing: [f64; 2],
        /// How far it is turned, degrees.
        #[serde(default)]
        #[schemars(with = "Turned")]
        turned: f64,
    },
}

/// One place.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub enum BorePlace {
    /// A point.
    At(#[schemars(with = "Position")] Xyz),
    /// A point, with the diameter of the bore there.
    Sized(SizedPlace),
}

/// A point, with a bore of its own diameter.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SizedPlace {
    /// The point, mm.
    #[schemars(with = "Position")]
    pub at: Xyz,
    /// The diameter of the bore there, mm.
    #[schemars(with = "Length")]
    pub diameter: f64,
}

/// More bores than this are no step any more.
const MOST: usize = 5000;

/// A place on the part: its mouth, the way into the material, what of the axis lies in the material there.
#[derive(Clone, Debug)]
pub(super) struct Seat {
    pub number: usize,
    pub mouth: Point,
    pub way: Point,
    pub stretch: Stretch,
    pub diameter: Option<f64>,
}

/// A place that meets nothing.
pub(super) struct Missed {
    pub number: usize,
    pub at: Point,
}

/// Where bores go on a face or on the part, and which way.
pub(super) struct Seating<'a> {
    pub places: &'a Places,
    pub face: Option<&'a FacePick>,
    pub along: Option<Xyz>,
}

impl Seating<'_> {
    /// The places on the part as it is now. With a face they are moved onto it along the direction of the bores.
    pub fn find(&self, mesh: &Mesh, lines: &Lines) -> Result<(Vec<Seat>, Vec<Missed>), TradeError> {
        let face = self.face.map(|pick| pick.find(mesh, &lines.bvh)).transpose()?;
        let along = match self.along.map(|a| Point::from_array(a).try_normalize()) {
            Some(None) => return Err(TradeError::refused("the direction of the bores must not be zero", vec![])),
            Some(along) => along,
            None => None,
        };
        let known: RefCell<HashMap<FaceId, Option<FaceSurface>>> = RefCell::default();
        let normal_on = |face: FaceId, at: Point| {
            let mut known = known.borrow_mut();
            known.entry(face).or_insert_with(|| face_surface(mesh, face)).as_ref().and_then(|s| normal_of(s, at))
        };
        let square = |at: Point| -> Result<Point, TradeError> {
            if let Some(normal) = face.and_then(|f| normal_on(f, at)) {
                return Ok(-normal);
            }
            let t = triangle_under(mesh, &lines.bvh, at.to_array(), "the place of the bore")?;
            let own = normal_on(mesh.face_of()[t], at);
            Ok(-own.unwrap_or_else(|| mesh.area_vector(t).normalize_or_zero()))
        };
        let spots = self.places.spots(|middle| along.map_or_else(|| square(middle), Ok))?;
        let (mut seats, mut missed) = (vec![], vec![]);
        for (number, (at, diameter)) in spots.into_iter().enumerate() {
            let number = number + 1;
            let Some(way) = along.map_or_else(|| square(at), Ok).ok().and_then(Point::try_normalize) else {
                missed.push(Missed { number, at });
                continue;
            };
            let all = lines.through(at, way);
            let there = all.iter().filter(|s| face.is_none_or(|f| s.enter_face == f));
            match there.min_by(|a, b| a.enter.abs().total_cmp(&b.enter.abs())) {
                Some(s) => seats.push(Seat {
                    number,
                    mouth: at + way * s.enter,
                    way,
                    stretch: Stretch { enter: 0.0, leave: s.leave - s.enter, ..*s },
                    diameter,
                }),
                None => missed.push(Missed { number, at }),
            }
        }
        Ok((seats, missed))
    }
}

impl Places {
    /// How many there are.
    pub(super) fn how_many(&self) -> usize {
        match self {
            Self::Points(spots) => spots.len(),
            Self::Row { count, .. } | Self::Ring { count, .. } => *count as usize,
            Self::Grid { counts, .. } => counts[0] as usize * counts[1] as usize,
        }
    }

    /// The points; `way` gives the direction of the bores at one.
    fn spots(&self, way: impl Fn(Point) -> Result<Point, TradeError>) -> Result<Vec<(Point, Option<f64>)>, TradeError> {
        let refused = |why: &str| Err(TradeError::refused(why, vec![]));
        let counted = |n: usize| {
            if (1..=MOST).contains(&n) {
                Ok(n)
            } else {
                Err(TradeError::refused(format!("1 to {MOST} places can be had in one step"), vec![]))
            }
        };
        let frame = |centre: Xyz, turned: f64| -> Result<(Point, Point, Point), TradeError> {
            let centre = Point::from_array(centre);
            let way = way(centre)?;
            let Some(plane) = PlaneFrame::new(centre, -way) else {
                return Err(TradeError::refused("the direction of the bores must not be zero", vec![centre]));
            };
            // The x axis as it lies in the plane; where it stands upright to it, the y axis.
            let flat = |axis: Point| axis - plane.normal * axis.dot(plane.normal);
            let across = if flat(Point::X).length() > 0.1 { flat(Point::X) } else { flat(Point::Y) };
            let u = across.normalize_or_zero();
            let v = plane.normal.cross(u);
            let (sin, cos) = turned.to_radians().sin_cos();
            Ok((centre, u * cos + v * sin, v * cos - u * sin))
        };
        let points: Vec<(Point, Option<f64>)> = match self {
            Self::Points(spots) => {
                counted(spots.len())?;
                let each = |s: &BorePlace| match s {
                    BorePlace::At(at) => (Point::from_array(*at), None),
                    BorePlace::Sized(s) => (Point::from_array(s.at), Some(s.diameter)),
                };
                spots.iter().map(each).collect()
            }
            Self::Row { from, to, count } => {
                let n = counted(*count as usize)?;
                let (from, to) = (Point::from_array(*from), Point::from_array(*to));
                let share = |k: usize| if n == 1 { 0.5 } else { k as f64 / (n - 1) as f64 };
                (0..n).map(|k| (from.lerp(to, share(k)), None)).collect()
            }
            Self::Ring { centre, diameter, count, turned } => {
                let n = counted(*count as usize)?;
                let (centre, u, v) = frame(*centre, *turned)?;
                let at = |k: usize| {
                    let (sin, cos) = (k as f64 / n as f64 * std::f64::consts::TAU).sin_cos();
                    centre + (u * cos + v * sin) * (diameter * 0.5)
                };
                (0..n).map(|k| (at(k), None)).collect()
            }
            Self::Grid { centre, counts, spacing, turned } => {
                counted(counts[0] as usize * counts[1] as usize)?;
                let (centre, u, v) = frame(*centre, *turned)?;
                let off = |k: u32, n: u32, by: f64| (f64::from(k) - f64::from(n - 1) * 0.5) * by;
                let at =
                    |i: u32, j: u32| centre + u * off(i, counts[0], spacing[0]) + v * off(j, counts[1], spacing[1]);
                (0..counts[1])
                    .flat_map(|j| (0..counts[0]).map(move |i| (i, j)))
                    .map(|(i, j)| (at(i, j), None))
                    .collect()
            }
        };
        match points.iter().find(|(p, _)| !p.is_finite()) {
            Some(_) => refused("places must be three lengths each"),
            None => Ok(points),
        }
    }
}

/// The outward normal of a surface at a point near it.
fn normal_of(surface: &FaceSurface, at: Point) -> Option<Point> {
    let from_axis = |axis: &Xyz, centre: &Xyz, hollow: bool| {
        let (axis, off) = (Point::from_array(*axis), at - Point::from_array(*centre));
        let out = (off - axis * off.dot(axis)).try_normalize()?;
        Some(if hollow { -out } else { out })
    };
    match surface {
        FaceSurface::Plane { normal } => Point::from_array(*normal).try_normalize(),
        FaceSurface::Cylinder { axis, centre, hollow, .. } => from_axis(axis, centre, *hollow),
        FaceSurface::Sphere { centre, hollow, .. } => {
            let out = (at - Point::from_array(*centre)).try_normalize()?;
            Some(if *hollow { -out } else { out })
        }
        _ => None,
    }
}
