//! `shape.emboss`: outlines and letters raised on a face or sunk into it, flat or wrapped round it.

use nimbet_kernel::segments::nearest_on_triangle;
use nimbet_kernel::surfaces::default_tolerance;
use nimbet_kernel::{Aabb, Bvh, FaceId, Mesh, Point};
use nimbet_profile::Flat;
use nimbet_profile::bodies::{Wrapping, wrapped};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::combine::{Difference, Union};
use super::profile::{Profile, RegionPick, body_refused};
use crate::examine::{FacePick, FaceSurface, facts_of};
use crate::parameter::{Length, Part, Turned};
use crate::tool::{Entry, Given, Needs, Tool, to_digits};
use crate::words::millimetres;
use crate::{Outcome, TradeError};

/// Whether outlines stand out or go in.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Stands {
    /// They stand out of the face.
    #[default]
    Raised,
    /// They are sunk into it.
    Sunk,
}

/// Parameters of `shape.emboss`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Emboss {
    /// The number of the profile.
    #[schemars(title = "The profile", with = "Part")]
    pub profile: u32,
    /// Its regions; none picked: those nested outlines mean.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(extend("asks" = "regions"))]
    pub regions: Vec<RegionPick>,
    /// The flat, cylindrical or conical face it is laid onto: the zero of the profile goes to the nearest place, and round faces are
    /// followed without stretching.
    pub face: FacePick,
    /// Whether it stands out or goes in.
    #[serde(default)]
    pub stands: Stands,
    /// How far.
    #[schemars(title = "By", with = "Length")]
    pub depth: f64,
    /// How sides lean, so that it comes out of a mould.
    #[serde(default)]
    #[schemars(title = "Draft", with = "Turned", extend("minimum" = 0, "maximum" = 60))]
    pub draft: f64,
    /// The farthest its round faces may be from true, mm.
    #[serde(default = "default_chord")]
    #[schemars(title = "Chord tolerance", with = "Length", extend("folded" = true))]
    pub chord: f64,
}

fn default_chord() -> f64 {
    0.02
}

/// A surface that unrolls into a plane.
struct Ground {
    kind: Kind,
    /// Where the zero of the profile goes, with the directions of its x and y there and the way out of the material.
    at: Point,
    x: Point,
    y: Point,
    out: Point,
}

enum Kind {
    Flat,
    /// An axis through a centre, the radius, and +1 where the material lies inside.
    Cylinder {
        axis: Point,
        radius: f64,
        side: f64,
    },
    /// The tip, the axis into the cone, the half angle, and +1 where the material lies inside.
    Cone {
        apex: Point,
        axis: Point,
        half: f64,
        side: f64,
    },
}

impl Ground {
    fn new(surface: &FaceSurface, profile: &Profile, near: Point) -> Result<Self, TradeError> {
        let zero = profile.plane.origin;
        let (kind, at, out) = match surface {
            FaceSurface::Plane { normal } => {
                let normal = Point::from_array(*normal).normalize();
                (Kind::Flat, zero - normal * (zero - near).dot(normal), normal)
            }
            FaceSurface::Cylinder { radius, axis, centre, hollow } => {
                let (axis, centre) = (Point::from_array(*axis).normalize(), Point::from_array(*centre));
                let off = zero - centre;
                let along = off.dot(axis);
                let away = away_from(off - axis * along, *radius).ok_or_else(|| on_axis(zero))?;
                let side = if *hollow { -1.0 } else { 1.0 };
                (Kind::Cylinder { axis, radius: *radius, side }, centre + axis * along + away * *radius, away * side)
            }
            FaceSurface::Cone { half_angle, axis, apex, hollow } => {
                let (axis, apex) = (Point::from_array(*axis).normalize(), Point::from_array(*apex));
                let (sin, cos) = half_angle.to_radians().sin_cos();
                let off = zero - apex;
                let along = off.dot(axis);
                let away = away_from(off - axis * along, along.abs() * sin / cos).ok_or_else(|| on_axis(zero))?;
                let slant = axis * cos + away * sin;
                let side = if *hollow { -1.0 } else { 1.0 };
                let normal = (away * cos - axis * sin) * side;
                let far = off.dot(slant);
                if far <= 0.0 {
                    return Err(on_axis(zero));
                }
                (Kind::Cone { apex, axis, half: half_angle.to_radians(), side }, apex + slant * far, normal)
            }
            _ => {
                let why = "outlines are laid onto flat, cylindrical and conical faces, which unroll into a plane; this one does not";
                return Err(TradeError::refused(why, vec![near]));
            }
        };
        let right = profile.plane.directions()[0];
        let x = (right - out * right.dot(out)).try_normalize();
        let x = x.ok_or_else(|| TradeError::refused("the profile stands upright on the face", vec![at]))?;
        Ok(Self { kind, at, x, y: out.cross(x), out })
    }

    /// Where a place of the profile goes, so far out of the material.
    fn onto(&self, p: Flat, height: f64) -> Point {
        let flat = self.x * p.x + self.y * p.y;
        match self.kind {
            Kind::Flat => self.at + flat + self.out * height,
            Kind::Cylinder { axis, radius, side } => {
                let away = self.out * side;
                let round = axis.cross(away);
                let (sin, cos) = (flat.dot(round) / radius).sin_cos();
                let foot = self.at - away * radius + axis * flat.dot(axis);
                foot + (away * cos + round * sin) * (radius + height * side)
            }
            Kind::Cone { apex, axis, half, side } => {
                let off = self.at - apex;
                let far = off.length();
                let slant = off / far;
                let away = (off - axis * off.dot(axis)).normalize();
                let round = axis.cross(away);
                // Unrolled, the tip is the middle of a sector.
                let (u, w) = (far + flat.dot(slant), flat.dot(round));
                let (reach, angle) = (u.hypot(w), w.atan2(u) / half.sin());
                let turned = away * angle.cos() + round * angle.sin();
                let normal = (turned * half.cos() - axis * half.sin()) * side;
                apex + (axis * half.cos() + turned * half.sin()) * reach + normal * height
            }
        }
    }

    /// The longest that may run straight on it, mm.
    fn step(&self, chord: f64, reach: f64) -> f64 {
        let radius = match self.kind {
            Kind::Flat => return f64::INFINITY,
            Kind::Cylinder { radius, .. } => radius,
            Kind::Cone { apex, half, .. } => ((self.at - apex).length() - reach).max(chord) * half.tan(),
        };
        2.0 * radius * (1.0 - (chord / radius).min(1.0)).acos()
    }

    /// Refuses what would reach round into itself, or over the tip.
    fn refuse_too_wide(&self, (least, most): (Flat, Flat)) -> Result<(), TradeError> {
        let corners = [least, most, Flat::new(least.x, most.y), Flat::new(most.x, least.y)];
        let flat = corners.map(|p| self.x * p.x + self.y * p.y);
        let spread = |way: Point| {
            let along = flat.map(|f| f.dot(way));
            along.iter().copied().fold(f64::MIN, f64::max) - along.iter().copied().fold(f64::MAX, f64::min)
        };
        let (width, round) = match self.kind {
            Kind::Flat => return Ok(()),
            Kind::Cylinder { axis, radius, .. } => (spread(axis.cross(self.out)), std::f64::consts::TAU * radius),
            Kind::Cone { apex, half, .. } => {
                let far = (self.at - apex).length();
                let over = flat.iter().any(|f| far + f.dot((self.at - apex) / far) <= far * 0.02);
                if over {
                    return Err(TradeError::refused("the profile reaches over the tip of the cone", vec![apex]));
                }
                (spread(self.out.cross((self.at - apex) / far)), std::f64::consts::TAU * far * half.sin())
            }
        };
        if width < round {
            return Ok(());
        }
        let why =
            format!("the profile is {} wide, and it is only {} round the face", millimetres(width), millimetres(round));
        Err(TradeError::refused(why, vec![self.at]))
    }
}

/// The way from an axis out, unless it is so near to it that rounding says where.
fn away_from(off: Point, radius: f64) -> Option<Point> {
    /// As a share of the radius.
    const ON_AXIS: f64 = 1e-4;
    off.try_normalize().filter(|_| off.length() > radius * ON_AXIS)
}

fn on_axis(zero: Point) -> TradeError {
    TradeError::refused(
        "the zero of the profile lies on the axis of the face, so no place on it is the nearest",
        vec![zero],
    )
}

/// How far the triangles of a face stand off the surface they are of, mm.
fn facets_off(mesh: &Mesh, face: FaceId, kind: &Kind, at: Point) -> f64 {
    let off = |p: Point| match kind {
        Kind::Flat => 0.0,
        Kind::Cylinder { axis, radius, .. } => {
            let d = p - at;
            // Any place of the axis: where it passes the place the zero goes to.
            ((d - *axis * d.dot(*axis)).length() - radius).abs()
        }
        Kind::Cone { apex, axis, half, .. } => {
            let d = p - *apex;
            let along = d.dot(*axis);
            ((d - *axis * along).length() * half.cos() - along * half.sin()).abs()
        }
    };
    let of_face = (0..mesh.triangles().len()).filter(|t| mesh.face_of()[*t] == face);
    let middles = of_face.flat_map(|t| {
        let [a, b, c] = mesh.corners(t);
        [(a + b + c) / 3.0, a.midpoint(b), b.midpoint(c), c.midpoint(a)]
    });
    middles.map(off).fold(0.0, f64::max)
}

impl Tool for Emboss {
    const KIND: &'static str = "shape.emboss";
    const WHAT: &'static str = "Raise outlines or letters on a face, or sink them into it.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "emboss",
        name: "Emboss",
        hint: "Outlines and letters raised on a face or sunk into it, also round it",
        group: "Drawings, and bodies of them",
        words: &["engrave", "letter", "text", "deboss", "wrap", "logo", "stamp", "lettering", "number"],
        needs: Needs::Closed,
        mark: "",
        start: |b| json!({ "profile": null, "face": null, "depth": to_digits(b.share(0.01).max(0.2), 1), "chord": b.chord }),
    }];

    fn title(&self) -> String {
        match self.stands {
            Stands::Raised => format!("Emboss by {}", millimetres(self.depth)),
            Stands::Sunk => format!("Engrave {} deep", millimetres(self.depth)),
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, others, progress, .. } = *given;
        let drawn = others.first().ok_or_else(|| TradeError::refused("choose the profile", vec![]))?;
        let profile = Profile::of(drawn, &progress.stage(0.0, 0.1))?;
        profile.refuse_fine(self.chord, &|_| 1.0)?;
        if profile.regions.is_empty() {
            return Err(TradeError::refused(
                "the profile encloses nothing, so there is nothing to be raised or sunk",
                vec![],
            ));
        }
        let bvh = Bvh::new((0..mesh.triangles().len()).map(|t| Aabb::of(mesh.corners(t))).collect());
        let face = self.face.find(mesh, &bvh)?;
        let tolerance = default_tolerance(&Aabb::of(mesh.points().iter().copied()));
        let facts = facts_of(mesh, face, tolerance);
        let facts =
            facts.ok_or_else(|| TradeError::NeedsNewPick { what: "the face".into(), place: self.face.place() })?;
        let ground = Ground::new(&facts.surface, &profile, self.face.place())?;
        let bounds = profile.network.bounds();
        ground.refuse_too_wide(bounds)?;
        let beside = match ground.kind {
            Kind::Cylinder { radius, side, .. } => ground.at - ground.out * side * radius,
            _ => ground.at,
        };
        // Into the material by more than its facets stand off what they are of, or a film would be left between.
        let into = 2.0 * facets_off(mesh, face, &ground.kind, beside) + 0.02 * self.depth + self.chord;
        let lean = self.draft.to_radians().tan();
        let how = match self.stands {
            Stands::Raised => Wrapping { heights: [-into, self.depth], lean, step: 0.0 },
            Stands::Sunk => Wrapping { heights: [-self.depth, into], lean: -lean, step: 0.0 },
        };
        let reach = bounds.0.abs().max(bounds.1.abs()).length();
        let off = bvh.nearest(ground.at, f64::INFINITY, |t| {
            (mesh.face_of()[t as usize] == face)
                .then(|| nearest_on_triangle(ground.at, mesh.corners(t as usize)).distance_squared(ground.at))
        });
        if off.is_none_or(|(_, squared)| squared.sqrt() > reach) {
            let why = "the face does not reach to where the profile is drawn; draw it over the face";
            return Err(TradeError::refused(why, vec![ground.at]));
        }
        let how = Wrapping { step: ground.step(self.chord, reach), ..how };
        if let Kind::Cylinder { radius, side, .. } = ground.kind
            && how.heights.iter().any(|height| radius + height * side <= 0.0)
        {
            return Err(TradeError::refused("it would go through the axis of the face", vec![ground.at]));
        }
        let flat = profile.flattened(&profile.picked(&self.regions)?, self.chord)?;
        let body =
            wrapped(&flat, &how, &|p, height| ground.onto(p, height)).map_err(|e| body_refused(e, vec![ground.at]))?;
        let together = Given { others: std::slice::from_ref(&body), progress: &progress.stage(0.2, 1.0), ..*given };
        let with = vec![self.profile];
        match self.stands {
            Stands::Raised => Union { with }.apply(&together),
            Stands::Sunk => Difference { with, ..Difference::default() }.apply(&together),
        }
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        vec![&mut self.profile]
    }
}
