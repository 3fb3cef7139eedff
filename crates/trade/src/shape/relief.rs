//! `shape.relief`: regions of one profile, each as high as asked.

use std::collections::HashMap;

use nimbet_profile::bodies::relief;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::from_profile::{Becomes, become_what, profile_of};
use super::profile::{Profile, RegionPick};
use crate::parameter::{Distance, Length, LengthOrNone, Part};
use crate::solids::volume;
use crate::tool::{Entry, Given, Needs, Tool, to_digits};
use crate::words::{count, figure, millimetres, volume_of};
use crate::{Outcome, TradeError};

/// A region with its height.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct RegionHeight {
    /// The region.
    pub region: RegionPick,
    /// How high it stands above the plane of the profile; not above the foot: it is left out.
    #[schemars(with = "Distance")]
    pub height: f64,
}

/// Parameters of `shape.relief`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Relief {
    /// The number of the profile; absent, it is the part the step is done to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Part>", extend("empty" = "the chosen part"))]
    pub profile: Option<u32>,
    /// Regions with heights of their own.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(extend("asks" = "heights"))]
    pub heights: Vec<RegionHeight>,
    /// How high all other regions stand.
    #[serde(default)]
    #[schemars(title = "All other regions", with = "Distance")]
    pub rest: f64,
    /// How far the foot lies below the plane.
    #[serde(default)]
    #[schemars(title = "The foot lies below the plane by", with = "LengthOrNone")]
    pub below: f64,
    /// What becomes of the body.
    #[serde(default)]
    pub becomes: Becomes,
    /// The farthest its round faces may be from true, mm.
    #[serde(default = "default_chord")]
    #[schemars(title = "Chord tolerance", with = "Length", extend("folded" = true))]
    pub chord: f64,
}

fn default_chord() -> f64 {
    0.02
}

/// More regions than this nobody reads one by one.
const MOST_TOLD: usize = 24;

impl Relief {
    /// The height of every region.
    fn all_heights(&self, profile: &Profile) -> Result<Vec<(usize, f64)>, TradeError> {
        let mut heights: Vec<(usize, f64)> = (0..profile.regions.len()).map(|r| (r, self.rest)).collect();
        for one in &self.heights {
            let region = profile.picked(std::slice::from_ref(&one.region))?[0];
            heights[region].1 = one.height;
        }
        Ok(heights)
    }

    /// What each region is, in words: its height and area, and of a well what it takes.
    fn told(&self, profile: &Profile, heights: &[(usize, f64)]) -> Vec<String> {
        let foot = -self.below;
        let beside = beside(profile);
        let mut lines = Vec::new();
        for &(r, height) in heights.iter().filter(|(_, h)| *h > foot) {
            let area = profile.network.area(&profile.regions[r]);
            // Sides of a frame are named after it.
            let mut round: Vec<String> = profile.network.border(&profile.regions[r]);
            round.iter_mut().for_each(|name| name.truncate(name.find('.').unwrap_or(name.len())));
            round.dedup();
            let lines_of = round.join(", ");
            // A well is lower than all that lies round it.
            let rim = beside[r].iter().map(|n| n.map_or(foot, |n| heights[n].1)).fold(f64::INFINITY, f64::min);
            let takes = if rim > height && rim.is_finite() {
                format!(": a well {} deep that takes {}", millimetres(rim - height), volume_of((rim - height) * area))
            } else {
                String::new()
            };
            lines.push(format!("within {lines_of}: {} high, {} mm²{takes}", millimetres(height), figure(area)));
        }
        if lines.len() > MOST_TOLD {
            let more = lines.len() - MOST_TOLD;
            lines.truncate(MOST_TOLD);
            lines.push(format!("and {} more", count(more, "region", "regions")));
        }
        lines
    }
}

/// The regions on the other side of each region's border; none for what lies outside of all.
fn beside(profile: &Profile) -> Vec<Vec<Option<usize>>> {
    let mut of_side = HashMap::new();
    for (r, region) in profile.regions.iter().enumerate() {
        of_side.extend(region.outlines.iter().flatten().map(|side| (*side, r)));
    }
    let across = |region: &nimbet_profile::Region| {
        let mut all: Vec<Option<usize>> =
            region.outlines.iter().flatten().map(|(piece, back)| of_side.get(&(*piece, !back)).copied()).collect();
        all.sort_unstable();
        all.dedup();
        all
    };
    profile.regions.iter().map(across).collect()
}

impl Tool for Relief {
    const KIND: &'static str = "shape.relief";
    const WHAT: &'static str = "Make one body of the regions of a profile, each with its own height.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "relief",
        name: "Relief",
        hint: "Regions of a profile, each as high as you say: borders, floors, wells",
        group: "Drawings, and bodies of them",
        words: &["badge", "medal", "enamel", "well", "stepped", "levels", "heights", "cloisonne", "extrude"],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "rest": to_digits(b.share(0.05).max(1.0), 1), "chord": b.chord }),
    }];

    fn title(&self) -> String {
        match self.heights.len() {
            0 => format!("Relief {}", millimetres(self.rest)),
            n => format!("Relief with {} of their own", count(n, "height", "heights")),
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let profile = profile_of(self.profile, given)?;
        profile.refuse_fine(self.chord, &|_| 1.0)?;
        if profile.regions.is_empty() {
            return Err(TradeError::refused("the profile encloses nothing, so there is nothing to be raised", vec![]));
        }
        let heights = self.all_heights(&profile)?;
        let body = relief(&profile.network, &profile.regions, &heights, (self.below, self.chord), &profile.plane)
            .map_err(|e| profile.told(e))?;
        let raised = heights.iter().filter(|(_, h)| *h > -self.below).count();
        let done = format!("raised {}: {}", count(raised, "region", "regions"), volume(&body));
        let mut outcome = become_what(body, (self.profile, self.becomes), ("Relief", done), given)?;
        outcome.done.extend(self.told(&profile, &heights));
        Ok(outcome)
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        self.profile.iter_mut().collect()
    }
}
