//! What a sheet is cut by, or carried on to: a plane, another sheet, a profile.

use nimbet_kernel::{Aabb, Mesh, Point, Progress, Topology};
use nimbet_profile::Flat;
use nimbet_profile::bodies::extrude_chain;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::from_profile::sheets_of_chains;
use super::profile::Profile;
use super::sheets::Plane;
use crate::TradeError;
use crate::parameter::{Length, Part};
use crate::tool::Given;

/// What a sheet ends at.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum SheetEnd {
    /// A plane.
    Plane(Plane),
    /// Another part, which may be open: the number of it. It stays.
    #[schemars(title = "Another part")]
    Sheet(#[schemars(with = "Part")] u32),
    /// The lines of a profile, square to its plane.
    Profile(ProfileCut),
}

/// The lines of a profile, square to its plane.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ProfileCut {
    /// The number of the profile.
    #[schemars(with = "Part")]
    pub profile: u32,
    /// The farthest its curves may be from true, mm.
    #[serde(default = "default_chord")]
    #[schemars(title = "Chord tolerance", with = "Length", extend("folded" = true))]
    pub chord: f64,
}

fn default_chord() -> f64 {
    0.02
}

impl SheetEnd {
    /// What it is called in a sentence.
    pub(super) fn name(&self) -> &'static str {
        match self {
            Self::Plane(_) => "the plane",
            Self::Sheet(_) => "the other part",
            Self::Profile(_) => "the profile",
        }
    }

    /// The number of the part that goes in.
    pub(super) fn parts(&mut self) -> Vec<&mut u32> {
        match self {
            Self::Plane(_) => vec![],
            Self::Sheet(part) | Self::Profile(ProfileCut { profile: part, .. }) => vec![part],
        }
    }

    /// The surface of it that can meet the part.
    pub(super) fn sheet(&self, given: &Given<'_>, progress: &Progress) -> Result<Mesh, TradeError> {
        let bounds = Aabb::of(given.mesh.points().iter().copied());
        let other = given.others.first();
        let missing = || TradeError::refused(format!("choose {}", self.name()), vec![]);
        match self {
            Self::Plane(plane) => plane.on(given.mesh)?.sheet(&bounds),
            Self::Sheet(_) => {
                let other = other.ok_or_else(missing)?;
                match other.triangles().is_empty() {
                    true => Err(TradeError::refused("the other part has no triangles", vec![])),
                    false => Ok(other.clone()),
                }
            }
            Self::Profile(cut) => walls(other.ok_or_else(missing)?, &bounds, cut.chord, progress),
        }
    }
}

/// What the lines of a profile pass through when they are moved square to its plane, as far as some bounds go.
fn walls(profile: &Mesh, bounds: &Aabb, chord: f64, progress: &Progress) -> Result<Mesh, TradeError> {
    /// Beyond the bounds by this share of them.
    const BEYOND: f64 = 0.05;
    let profile = Profile::of(profile, &progress.stage(0.0, 0.5))?;
    profile.refuse_fine(chord, &|_| 1.0)?;
    let corner = |k: usize| {
        let pick = |bit: usize, low: f64, high: f64| if k & bit == 0 { low } else { high };
        let (low, high) = (bounds.min, bounds.max);
        Point::new(pick(1, low.x, high.x), pick(2, low.y, high.y), pick(4, low.z, high.z))
    };
    let heights = (0..8).map(|k| profile.plane.height(corner(k)));
    let (low, high) = heights.fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), x| (l.min(x), h.max(x)));
    let margin = bounds.diagonal().max(1e-6) * BEYOND;
    let (below, above) = (margin - low, high + margin);
    let wall = |line: &[(Flat, usize)], closed| extrude_chain(line, closed, &profile.plane, (below, above));
    sheets_of_chains(&profile, chord, wall, progress)
}

/// Refuses profiles, and parts without a border.
pub(super) fn refuse_what_is_no_sheet(mesh: &Mesh) -> Result<(), TradeError> {
    if mesh.drawn().is_some() {
        let why = "this is a profile; make a flat face of it first, with Patch";
        return Err(TradeError::refused(why, vec![]));
    }
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    if topology.naked_halves().is_empty() {
        return Err(TradeError::refused("the part is closed, no sheet; cut it with Saw", vec![]));
    }
    Ok(())
}
