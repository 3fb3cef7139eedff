//! `shape.loft`: a body or sheet through several profiles.

use nimbet_kernel::{Mesh, Point};
use nimbet_profile::bodies::{Lofting, Ring, flatten_chain, loft, matched};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::course::Course;
use super::from_profile::{Becomes, become_what};
use super::goes_on::going_on;
use super::profile::{Profile, body_refused};
use crate::parameter::{Length, Part, Position};
use crate::solids::{Within, outside_of, volume};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::wall::Notice;
use crate::words::{Xyz, count, figure};
use crate::{Outcome, TradeError};

/// Parameters of `shape.loft`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Loft {
    /// The numbers of the profiles it goes through, in order; a profile the step is done to comes before them.
    #[schemars(title = "Profiles it goes through, in order", with = "Vec<Part>", extend("least" = 1))]
    pub profiles: Vec<u32>,
    /// Whether it bends smoothly through them; else it is straight from each to the next.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Bend smoothly through them")]
    pub smooth: bool,
    /// Whether the last leads on to the first.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "From the last back to the first")]
    pub round: bool,
    /// Whether its ends stay open, so that it is a sheet.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Leave its ends open")]
    pub open_ends: bool,
    /// At which of its ends it goes on from the faces of the part the step is done to, without a crease: the outline there lies on
    /// edges of the part.
    #[serde(default, skip_serializing_if = "GoesOn::is_nowhere")]
    #[schemars(title = "Go on from the part's faces without a crease", extend("folded" = true))]
    pub goes_on: GoesOn,
    /// Places where outlines begin, mm, each for the outline it is nearest to: beginnings are joined to each other. Where none is
    /// given it begins where it lies best.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(title = "Where outlines begin", with = "Vec<Position>", extend("asks" = "points", "folded" = true))]
    pub starts: Vec<Xyz>,
    /// What becomes of the body.
    #[serde(default)]
    pub becomes: Becomes,
    /// The farthest its round faces may be from true, mm.
    #[serde(default = "default_chord")]
    #[schemars(title = "Chord tolerance", with = "Length", extend("folded" = true))]
    pub chord: f64,
}

/// At which ends a loft goes on from the faces of a part.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum GoesOn {
    /// At none.
    #[default]
    #[schemars(title = "At no end")]
    Nowhere,
    /// Where it begins.
    #[schemars(title = "At its first profile")]
    First,
    /// Where it ends.
    #[schemars(title = "At its last profile")]
    Last,
    /// At both.
    #[schemars(title = "At both ends")]
    Both,
}

impl GoesOn {
    fn is_nowhere(&self) -> bool {
        *self == Self::Nowhere
    }
}

fn default_chord() -> f64 {
    0.02
}

/// The most points of all outlines together.
const MOST_POINTS: usize = 400_000;

impl Loft {
    /// The outline of a profile, or its one line; says whether it is closed.
    fn ring(&self, mesh: &Mesh, number: u32, given: &Given<'_>) -> Result<(Ring, bool), TradeError> {
        let profile = Profile::of(mesh, given.progress)?;
        profile.refuse_fine(self.chord, &|_| 1.0)?;
        let lifted = |points: Vec<(nimbet_profile::Flat, usize)>| -> Vec<(Point, usize)> {
            points.into_iter().map(|(p, curve)| (profile.place(p), curve)).collect()
        };
        if !profile.regions.is_empty() {
            let flat = profile.flattened(&profile.picked(&[])?, self.chord)?;
            let [outline] = &flat.outlines[..] else {
                let why =
                    format!("profile {number} has {} outlines; a loft goes through one of each", flat.outlines.len());
                let places = flat.outlines.iter().map(|o| profile.place(o[0].at)).collect();
                return Err(TradeError::refused(why, places));
            };
            let points = outline.iter().map(|v| (v.at, v.curve)).collect();
            return Ok((Ring::new(lifted(points), true), true));
        }
        let [chain] = &profile.network.chains()[..] else {
            let why = format!("profile {number} has several lines; a loft goes through one of each");
            return Err(TradeError::refused(why, vec![]));
        };
        let line = flatten_chain(&profile.network, chain, self.chord).map_err(|e| profile.told(e))?;
        Ok((Ring::new(lifted(line), chain.closed), chain.closed))
    }

    /// The rings with the beginnings that were picked.
    fn begun(&self, rings: Vec<Ring>) -> (Vec<Ring>, Vec<bool>) {
        let mut begun: Vec<Option<f64>> = vec![None; rings.len()];
        for start in &self.starts {
            let place = Point::from_array(*start);
            let nearest = rings.iter().enumerate().map(|(n, ring)| (n, ring.nearest(place)));
            if let Some((n, (share, _))) = nearest.min_by(|a, b| a.1.1.total_cmp(&b.1.1)) {
                begun[n] = Some(share);
            }
        }
        let given = begun.iter().map(Option::is_some).collect();
        (
            rings
                .into_iter()
                .zip(begun)
                .map(|(ring, start)| start.map_or(ring.clone(), |s| ring.begun_at(s)))
                .collect(),
            given,
        )
    }
}

impl Loft {
    /// The rings, the first and the last with the ways in which the part's faces go on there, where that is wanted.
    fn gone_on(&self, mut rings: Vec<Ring>, closed: bool, given: &Given<'_>) -> Result<Vec<Ring>, TradeError> {
        /// Outlines may lie so many chords off the edges they were taken from.
        const OFF: f64 = 4.0;
        if self.goes_on.is_nowhere() {
            return Ok(rings);
        }
        if given.mesh.triangles().is_empty() || given.mesh.drawn().is_some() {
            let why = "there are no faces it could go on from; do the step to the part it begins or ends on";
            return Err(TradeError::refused(why, vec![rings[0].points[0].0]));
        }
        if self.round {
            return Err(TradeError::refused("a loft that leads back to its first profile has no ends", vec![]));
        }
        let last = rings.len() - 1;
        let ends = [(0, 1, GoesOn::First), (last, last - 1, GoesOn::Last)];
        for (own, next, _) in ends.into_iter().filter(|(.., end)| self.goes_on == *end || self.goes_on == GoesOn::Both)
        {
            let points: Vec<Point> = rings[own].points.iter().map(|p| p.0).collect();
            let other = &rings[next];
            let toward = |k: usize| other.at(rings[own].middle(k), closed).0;
            let on = going_on(given.mesh, (&points, closed), toward, self.chord * OFF, given.progress)?;
            rings[own] = rings[own].clone().leaving(on.into_iter().map(|on| on.way).collect());
        }
        Ok(rings)
    }
}

impl Loft {
    /// The rings it goes through, each begun where it is joined to the others; says whether they are closed.
    fn rings(&self, given: &Given<'_>) -> Result<(Vec<Ring>, bool), TradeError> {
        let own = given.mesh.drawn().is_some().then_some((given.mesh, 0));
        let meshes = own.into_iter().chain(given.others.iter().zip(self.profiles.iter().copied()));
        let rings = meshes.map(|(mesh, number)| self.ring(mesh, number, given)).collect::<Result<Vec<_>, _>>()?;
        if rings.len() < 2 {
            return Err(TradeError::refused("a loft goes through two profiles at least: choose them in order", vec![]));
        }
        let closed = rings[0].1;
        if let Some((ring, _)) = rings.iter().find(|(_, c)| *c != closed) {
            let why = "some of the profiles are closed outlines and some are open lines; a loft goes through one kind";
            return Err(TradeError::refused(why, vec![ring.points[0].0]));
        }
        if self.round && rings.len() < 3 {
            return Err(TradeError::refused(
                "a loft that leads back to its first profile goes through three at least",
                vec![],
            ));
        }
        let points: usize = rings.iter().map(|(r, _)| r.points.len()).sum();
        if points > MOST_POINTS {
            let why =
                format!("the outlines have {points} points; {MOST_POINTS} are the most. A coarser chord makes fewer");
            return Err(TradeError::refused(why, vec![]));
        }
        let (rings, begun) = self.begun(rings.into_iter().map(|r| r.0).collect());
        let rings = if closed { matched(rings, &begun) } else { alike(rings) };
        let rings = self.gone_on(rings, closed, given)?;
        Ok((rings, closed))
    }

    /// The outlines it goes through, and where each of them begins.
    ///
    /// # Errors
    /// [`TradeError::Refused`] where there are not two of one kind yet.
    pub(super) fn course(&self, given: &Given<'_>) -> Result<Course, TradeError> {
        let (rings, closed) = self.rings(given)?;
        Ok(Course::of_rings(&rings, closed))
    }
}

/// Open lines run the way the first of them does.
pub(super) fn alike(rings: Vec<Ring>) -> Vec<Ring> {
    let mut all: Vec<Ring> = Vec::new();
    for ring in rings {
        let ends = |r: &Ring| (r.points[0].0, r.points[r.points.len() - 1].0);
        let turned = all.last().is_some_and(|before| {
            let ((a, b), (c, d)) = (ends(before), ends(&ring));
            a.distance(d) + b.distance(c) < a.distance(c) + b.distance(d)
        });
        all.push(if turned { ring.reversed(false) } else { ring });
    }
    all
}

impl Tool for Loft {
    const KIND: &'static str = "shape.loft";
    const WHAT: &'static str = "Make a body or a sheet through several profiles.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "loft",
        name: "Loft",
        hint: "A body through outlines, or a sheet through lines",
        group: "Drawings, and bodies of them",
        words: &["blend", "skin", "hull", "transition", "vessel", "ruled", "sections"],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "profiles": [], "chord": b.chord }),
    }];

    fn title(&self) -> String {
        format!("Loft through {}", count(self.profiles.len(), "profile", "profiles"))
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let (rings, closed) = self.rings(given)?;
        let how = Lofting { closed, round: self.round, smooth: self.smooth, ends: !self.open_ends, chord: self.chord };
        let made = loft(&rings, &how, &given.progress.stage(0.1, 0.3))
            .map_err(|e| body_refused(e, vec![rings[0].points[0].0]))?;
        let through = count(rings.len(), "profile", "profiles");
        // What is named besides the profiles is the part it is put together with.
        let named = Some(self.profiles.first().copied().unwrap_or(0));
        if !closed || self.open_ends && !self.round {
            if self.becomes != Becomes::Part {
                let why = "it makes a sheet, which cannot be added to a part or taken away";
                return Err(TradeError::refused(why, vec![]));
            }
            let area = nimbet_kernel::measure::measure(&made).area;
            let done = format!("a sheet of {} mm² through {through}", figure(area));
            return become_what(made, (named, self.becomes), ("Lofted sheet", done), given);
        }
        let Within { body, at, .. } = outside_of(made, false, &given.progress.stage(0.3, 0.5))?;
        let done = format!("through {through}: {}", volume(&body));
        let mut outcome = become_what(body, (named, self.becomes), ("Lofted body", done), given)?;
        if let Some(place) = at {
            let text = "between its profiles it passes through itself here: they turn, lean or bulge into each other; its outside is kept";
            outcome.notices.push(Notice { text: text.into(), place });
        }
        Ok(outcome)
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        self.profiles.iter_mut().collect()
    }
}
