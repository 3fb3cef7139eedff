//! A thread as it is asked for, and its profile: outside and inside from one, with an allowance.
//!
//! All profiles have flanks at which ridge and groove are equally wide on the pitch diameter, so the pair of a size touches
//! all along its flanks; an allowance moves the surface of one of them away from the other. The root of an external 60 degree
//! thread is cut flat where ISO 68-1 lets it be round.

use std::f64::consts::PI;

use nimbet_kernel::Mesh;
use nimbet_kernel::screw::Screw;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::sizes::{Family, size};
use crate::TradeError;
use crate::budget::{around, refuse_many};
use crate::parameter::{Distance, Length};
use crate::words::{figure, millimetres};

/// Which thread.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub enum ThreadSize {
    /// A designation of a standard: `M4x0.7`, `1/4-20 UNC`, `G 1/2`, `Tr 20x4`.
    Standard(String),
    /// A thread of one's own.
    Free(FreeThread),
}

/// A thread of one's own.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FreeThread {
    /// The outer diameter of the external thread, mm.
    #[schemars(with = "Length")]
    pub diameter: f64,
    /// From ridge to ridge, mm.
    #[schemars(with = "Length")]
    pub pitch: f64,
    /// Between the flanks, degrees.
    #[schemars(range(min = 10, max = 120), extend("unit" = "°"))]
    pub angle: f64,
}

/// How much is taken off one of a pair, mm.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Allowance {
    /// All surfaces are moved so far, square to the axis.
    #[serde(default)]
    #[schemars(with = "Distance")]
    pub radial: f64,
    /// Each groove is wider, or each ridge narrower, by so much along the axis.
    #[serde(default)]
    #[schemars(with = "Distance")]
    pub axial: f64,
}

/// A thread as it is asked for.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Thread {
    /// Which.
    pub size: ThreadSize,
    /// Whether it is left-handed.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub left: bool,
    /// How many ridges wind side by side.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    #[schemars(range(min = 1, max = 8))]
    pub starts: u32,
    /// How much wider than its counterpart of no allowance.
    #[serde(default)]
    pub allowance: Allowance,
}

fn one() -> u32 {
    1
}

fn is_one(n: &u32) -> bool {
    *n == 1
}

/// Which side of the pair.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Gender {
    /// In a bore.
    Internal,
    /// On a pin.
    External,
}

/// A thread worked out. Lengths in mm.
#[derive(Clone, Debug, PartialEq)]
pub struct ThreadForm {
    pub(crate) name: String,
    pub(crate) major: f64,
    pub(crate) pitch: f64,
    pub(crate) lead: f64,
    /// Half the bore of the internal thread, allowance included.
    pub(crate) bore: f64,
    /// Half the diameter of the ridges of the external one, allowance included.
    pub(crate) crest: f64,
    left: bool,
    starts: u32,
    allowance: Allowance,
    /// Half a ridge of the external thread and of the groove it runs in: distances along the axis from its middle, falling,
    /// and radii, rising.
    ridge: Vec<(f64, f64)>,
    groove: Vec<(f64, f64)>,
}

/// Of its depth, how much of a thread must be left for it to hold.
const LEAST_HOLD: f64 = 0.25;

impl Thread {
    /// Worked out.
    ///
    /// # Errors
    /// [`TradeError::Refused`] for a size there is not, and for figures that leave no thread.
    pub fn form(&self) -> Result<ThreadForm, TradeError> {
        let refused = |why: String| Err(TradeError::refused(why, vec![]));
        let Allowance { radial, axial } = self.allowance;
        let (name, major, pitch, ridge, groove) = match &self.size {
            ThreadSize::Standard(name) => {
                let Some(s) = size(name) else {
                    return refused(format!(
                        "there is no thread “{name}” in the tables; write it as M4x0.7, 1/4-20 UNC, G 1/2 or Tr 20x4"
                    ));
                };
                let (r, p) = (s.major * 0.5, s.pitch);
                let (ridge, groove) = match s.family {
                    Family::Metric => vee(r, p, 30.0, 17.0 / 24.0),
                    Family::Unified => vee(r, p, 30.0, 11.0 / 16.0),
                    Family::Pipe => rounded(r, p),
                    Family::Trapezoidal => {
                        let clearance = trapezoidal_clearance(p);
                        trapezoid(r, p, 15.0, clearance)
                    }
                };
                (s.name, s.major, p, ridge, groove)
            }
            ThreadSize::Free(f) => {
                let FreeThread { diameter, pitch, angle } = *f;
                if pitch < diameter * FINEST {
                    let why = format!("a pitch of {} is too fine for {}", millimetres(pitch), millimetres(diameter));
                    return refused(why);
                }
                // Flatter flanks are cut off as ISO 68-1 does, steeper ones at half the pitch.
                let (ridge, groove) = if angle >= 50.0 {
                    vee(diameter * 0.5, pitch, angle * 0.5, 17.0 / 24.0)
                } else {
                    trapezoid(diameter * 0.5, pitch, angle * 0.5, 0.0)
                };
                let name = format!("{} × {} at {}°", figure(diameter), figure(pitch), figure(angle));
                (name, diameter, pitch, ridge, groove)
            }
        };
        let inner = ridge.first().map_or(0.0, |p| p.1);
        let mut form = ThreadForm {
            name: if self.starts > 1 { format!("{name}, {} starts", self.starts) } else { name },
            major,
            pitch,
            lead: pitch * f64::from(self.starts),
            bore: 0.0,
            crest: 0.0,
            left: self.left,
            starts: self.starts,
            allowance: self.allowance,
            ridge,
            groove,
        };
        form.bore = form.half(Gender::Internal).first().map_or(0.0, |p| p.1);
        form.crest = form.half(Gender::External).last().map_or(0.0, |p| p.1);
        let lead_angle = (form.lead / (PI * major)).atan().to_degrees();
        if inner <= 0.05 * major || lead_angle > 45.0 {
            return refused(format!("{} leaves no core: the pitch is too large for the diameter", form.name));
        }
        // What of the ridges and of the wall between grooves an allowance leaves to hold on to.
        let deep = major * 0.5 - form.nominal_bore();
        let holds = |tall: f64| tall > deep * LEAST_HOLD && tall.is_finite();
        let ridge = form.half(Gender::External).last().map_or(0.0, |p| p.1) - form.nominal_bore();
        let groove = major * 0.5 - form.half(Gender::Internal).first().map_or(0.0, |p| p.1);
        if !(holds(ridge) && holds(groove)) || axial.abs() > pitch * 0.4 {
            let at = millimetres(if radial.abs() > axial.abs() { radial } else { axial });
            return refused(format!("an allowance of {at} leaves nothing of {} to hold on to", form.name));
        }
        Ok(form)
    }

    /// `M4x0.7, left-handed`.
    pub(crate) fn name(&self) -> String {
        let name = self.form().map_or_else(|_| "thread".into(), |f| f.name);
        if self.left { format!("{name}, left-handed") } else { name }
    }
}

/// ISO 2902: what the roots of a trapezoidal thread keep off the crests.
fn trapezoidal_clearance(pitch: f64) -> f64 {
    match pitch {
        p if p < 2.0 => 0.15,
        p if p < 6.0 => 0.25,
        p if p < 14.0 => 0.5,
        _ => 1.0,
    }
}

type Halves = (Vec<(f64, f64)>, Vec<(f64, f64)>);

/// Flat crests an eighth of the pitch wide outside, a quarter inside; the root of the external thread at a share of the height
/// of the full triangle below its crest.
fn vee(major: f64, pitch: f64, flank: f64, root: f64) -> Halves {
    let height = pitch * 0.5 / flank.to_radians().tan();
    let half = |below: f64| pitch / 16.0 + below * flank.to_radians().tan();
    let at = |below: f64| (half(below), major - below);
    (vec![at(root * height), at(0.0)], vec![at(0.625 * height), at(0.0)])
}

/// Flanks half the pitch deep, crests and grooves alike; roots deeper by a clearance.
fn trapezoid(major: f64, pitch: f64, flank: f64, clearance: f64) -> Halves {
    let tan = flank.to_radians().tan();
    let at = |below: f64| (pitch * 0.25 + (below - pitch * 0.25) * tan, major - below);
    (vec![at(pitch * 0.5 + clearance), at(0.0)], vec![at(pitch * 0.5), at(-clearance)])
}

/// ISO 228-1: 55 degrees, crest and root round.
fn rounded(major: f64, pitch: f64) -> Halves {
    /// Stretches of an arc from flank to its top.
    const STRETCHES: usize = 3;
    let (radius, flank) = (0.137_329 * pitch, 27.5f64.to_radians());
    let depth = 0.640_327 * pitch;
    let opens = PI * 0.5 - flank;
    let turn = |n: usize| opens * n as f64 / STRETCHES as f64;
    let crest = (0..=STRETCHES).rev().map(|n| (radius * turn(n).sin(), major - radius + radius * turn(n).cos()));
    let root = (0..=STRETCHES)
        .map(|n| (pitch * 0.5 - radius * turn(n).sin(), major - depth + radius - radius * turn(n).cos()));
    let half: Vec<(f64, f64)> = root.chain(crest).collect();
    (half.clone(), half)
}

impl ThreadForm {
    /// How far ridges and bore overlap.
    pub fn depth(&self) -> f64 {
        self.major * 0.5 - self.nominal_bore()
    }

    /// The radius of the root of the external thread.
    pub fn root(&self) -> f64 {
        self.ridge.first().map_or(0.0, |p| p.1) - self.allowance.radial
    }

    /// How far its surfaces are moved, square to the axis.
    pub fn play(&self) -> f64 {
        self.allowance.radial
    }

    /// About how many triangles so much of it takes.
    pub(super) fn triangles(&self, chord: f64, long: f64) -> f64 {
        2.0 * (long / self.pitch + 2.0)
            * around(self.major * 0.5, chord)
            * (self.ridge.len() + self.groove.len()) as f64
    }

    /// The radius of the bore with no allowance.
    fn nominal_bore(&self) -> f64 {
        self.groove.first().map_or(0.0, |p| p.1)
    }

    /// Half a ridge, or the groove for it, with its allowance; where flanks would pass each other it ends in an edge.
    fn half(&self, gender: Gender) -> Vec<(f64, f64)> {
        let (half, sign, most) = match gender {
            Gender::Internal => (&self.groove, 1.0, self.pitch * 0.5),
            Gender::External => (&self.ridge, -1.0, self.pitch * 0.5),
        };
        let Allowance { radial, axial } = self.allowance;
        let tip = |z: f64| z <= 0.0 || z >= most;
        let moved: Vec<(f64, f64)> =
            half.iter().map(|&(z, r)| (if tip(z) { z } else { z + sign * axial * 0.5 }, r + sign * radial)).collect();
        let mut kept: Vec<(f64, f64)> = Vec::new();
        for (n, &(z, r)) in moved.iter().enumerate() {
            let edge = if z > most { Some((most, n + 1)) } else { (z < 0.0).then_some((0.0, n.wrapping_sub(1))) };
            match edge {
                None => kept.push((z, r)),
                Some((at, beside)) => {
                    if let Some(&(next, radius)) = moved.get(beside).filter(|p| (0.0..=most).contains(&p.0)) {
                        kept.push((at, r + (radius - r) * (at - z) / (next - z)));
                    }
                }
            }
        }
        kept.dedup_by(|next, kept| next.0 >= kept.0);
        kept
    }

    /// The side of a tap that cuts the bore, or the pin itself. Corners of the tap lie outside the true surface and those of the
    /// pin on it, so that facets never make a pair tighter. `reach` cuts the profile off where it is nearer to the axis (inside) or
    /// farther from it (outside): flanks go on to there.
    pub fn screw(&self, gender: Gender, segments: usize, reach: Option<f64>) -> Screw {
        let mut half = self.half(gender);
        if let Some(reach) = reach {
            extend(&mut half, gender, reach, self.pitch);
        }
        let out = if gender == Gender::Internal { 1.0 / (PI / segments as f64).cos() } else { 1.0 };
        let middle = self.pitch * 0.5;
        let rising = half.iter().map(|&(z, r)| (middle - z, r * out));
        let falling = half.iter().rev().filter(|p| p.0 > 0.0).map(|&(z, r)| (middle + z, r * out));
        let profile: Vec<(f64, f64)> = rising.chain(falling).collect();
        let mut profile = self.fine(profile, segments);
        // The round root of one ridge ends where that of the next begins.
        if profile.first().is_some_and(|p| p.0 <= 0.0) && profile.last().is_some_and(|p| p.0 >= self.pitch) {
            profile.pop();
        }
        Screw { profile, pitch: self.pitch, starts: self.starts, left: self.left, segments }
    }
}

impl ThreadForm {
    /// Flanks divided so that between two segments of a turn no chord across them strays from the screw line by more than
    /// round walls do: a steep lead over a deep flank would.
    fn fine(&self, profile: Vec<(f64, f64)>, segments: usize) -> Vec<(f64, f64)> {
        let n = segments as f64;
        let mut fine = Vec::with_capacity(profile.len());
        for pair in profile.windows(2) {
            let ((z, r), (next, radius)) = (pair[0], pair[1]);
            let along = self.lead * (radius - r).abs() / (n * 4.0 * r.min(radius));
            // Square to the axis that is more, the steeper the flank.
            let strays = along * (radius - r).abs() / (next - z);
            let chord = r.max(radius) * (1.0 - (PI / n).cos());
            let parts = (strays / (chord * 0.5).max(1e-9)).ceil().clamp(1.0, 8.0) as usize;
            let at = |k: usize| k as f64 / parts as f64;
            fine.extend((0..parts).map(|k| (z + (next - z) * at(k), r + (radius - r) * at(k))));
        }
        fine.extend(profile.last());
        fine
    }
}

/// Lets the flanks go on to a radius: beyond the crest outside, or towards the axis inside, as far as they leave each other room.
fn extend(half: &mut Vec<(f64, f64)>, gender: Gender, reach: f64, pitch: f64) {
    /// Of the pitch, what is left between two flanks that go on.
    const LEAST: f64 = 0.02;
    let n = half.len();
    if n < 2 {
        return;
    }
    match gender {
        Gender::Internal => {
            let ((z, r), (next, above)) = (half[0], half[1]);
            if reach < r {
                let slope = (z - next) / (above - r);
                let most = (pitch * (0.5 - LEAST) - z) / slope.max(1e-9);
                let by = (r - reach).min(most.max(0.0));
                half[0] = (z + slope * by, r - by);
                // Where the flanks would meet, straight on inwards.
                if r - by > reach {
                    half.insert(0, (pitch * (0.5 - LEAST * 0.5), reach));
                }
            }
        }
        Gender::External => {
            let ((z, r), (before, below)) = (half[n - 1], half[n - 2]);
            if reach > r {
                let slope = (before - z) / (r - below);
                let most = (z - pitch * LEAST) / slope.max(1e-9);
                let by = (reach - r).min(most.max(0.0));
                half[n - 1] = (z - slope * by, r + by);
                if r + by < reach {
                    half.push((pitch * LEAST * 0.5, reach));
                }
            }
        }
    }
}

/// No pitch is finer than this share of its diameter; the finest that are cut have a two-hundredth.
const FINEST: f64 = 1e-3;

/// Segments to a turn, so that a chord stays within a tolerance of the circle; a multiple of four.
pub(super) fn segments(radius: f64, chord: f64) -> Result<usize, TradeError> {
    const LEAST: f64 = 24.0;
    const MOST: f64 = 3600.0;
    let wanted = around(radius, chord).max(LEAST);
    if wanted > MOST {
        let finest = radius * (1.0 - (PI / MOST).cos());
        let why = format!(
            "a chord of {} on a radius of {} takes more than {MOST} sides; {} is about the finest",
            millimetres(chord),
            millimetres(radius),
            millimetres(finest * 1.05)
        );
        return Err(TradeError::refused(why, vec![]));
    }
    Ok((wanted / 4.0).ceil() as usize * 4)
}

/// A stretch of a screw, unless its turns take too many triangles.
pub(super) fn rod(screw: &Screw, from: f64, to: f64) -> Result<Mesh, TradeError> {
    let turns = (to - from).abs() / screw.pitch + 2.0;
    refuse_many(2.0 * turns * screw.segments as f64 * screw.profile.len() as f64)?;
    Ok(screw.rod(from, to)?)
}
