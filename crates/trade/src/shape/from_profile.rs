//! `shape.extrude`, `shape.revolve`: bodies from profiles, by themselves or put together with a part in the same step.

use nimbet_kernel::{Mesh, Progress};
use nimbet_profile::Flat;
use nimbet_profile::bodies::{
    Axis, BodyError, Extrusion, extrude, extrude_chain, flatten_chain, revolve, revolve_chain,
};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::combine::{Difference, Intersection, Union};
use super::profile::{Profile, RegionPick};
use crate::parameter::{Length, LengthOrNone, Part, Turned};
use crate::solids::{arranged_with, told, volume};
use crate::tool::{Entry, Given, Needs, Tool, to_digits};
use crate::words::{figure, millimetres};
use crate::{Made, Outcome, TradeError};

/// What becomes of a new body.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Becomes {
    /// A part of its own.
    #[default]
    Part,
    /// It is added to the part.
    Added,
    /// It is taken away from the part.
    Taken,
    /// What it has in common with the part is kept.
    Common,
}

/// How far an extruded body goes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Until {
    /// As far as the figures say.
    #[default]
    #[schemars(title = "By figures")]
    Figures,
    /// Up to the part the step is done to: its end takes the shape it finds there.
    #[schemars(title = "Up to the part")]
    ThePart,
    /// Up to another part.
    #[schemars(title = "Up to another part")]
    Other(#[schemars(with = "Part")] u32),
    /// Right through the part the step is done to, to both sides.
    #[schemars(title = "Right through")]
    Through,
}

/// Parameters of `shape.extrude`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Extrude {
    /// The number of the profile; absent, it is the part the step is done to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Part>", extend("empty" = "the chosen part"))]
    pub profile: Option<u32>,
    /// Its regions; none picked: those nested outlines mean. A profile without regions makes sheets.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(extend("asks" = "regions"))]
    pub regions: Vec<RegionPick>,
    /// How far it goes.
    #[serde(default)]
    pub until: Until,
    /// How far along the normal of its plane.
    #[schemars(title = "How far", with = "LengthOrNone", extend("when" = { "/until": "figures" }))]
    pub above: f64,
    /// How far the other way.
    #[serde(default)]
    #[schemars(title = "How far the other way", with = "LengthOrNone", extend("when" = { "/until": "figures" }))]
    pub below: f64,
    /// How sides lean inward, away from the plane; below 0 outward.
    #[serde(default)]
    #[schemars(title = "Draft", with = "Turned", extend("minimum" = -80, "maximum" = 80))]
    pub draft: f64,
    /// What becomes of the body.
    #[serde(default)]
    pub becomes: Becomes,
    /// The farthest its round faces may be from true, mm.
    #[serde(default = "default_chord")]
    #[schemars(title = "Chord tolerance", with = "Length", extend("folded" = true))]
    pub chord: f64,
}

/// Parameters of `shape.revolve`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Revolve {
    /// The number of the profile; absent, it is the part the step is done to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Part>", extend("empty" = "the chosen part"))]
    pub profile: Option<u32>,
    /// Its regions; none picked: those nested outlines mean. A profile without regions makes sheets.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(extend("asks" = "regions"))]
    pub regions: Vec<RegionPick>,
    /// The line it is turned about, in the plane of the profile.
    pub axis: FlatLine,
    /// How far it is turned, by the right hand about the line.
    #[serde(default = "whole_turn")]
    #[schemars(title = "Angle", with = "Turned", extend("minimum" = -360, "maximum" = 360))]
    pub angle: f64,
    /// Where it begins, from the plane.
    #[serde(default)]
    #[schemars(title = "Begins at", with = "Turned", extend("folded" = true))]
    pub begins: f64,
    /// What becomes of the body.
    #[serde(default)]
    pub becomes: Becomes,
    /// The farthest its round faces may be from true, mm.
    #[serde(default = "default_chord")]
    #[schemars(title = "Chord tolerance", with = "Length", extend("folded" = true))]
    pub chord: f64,
}

/// A line in the plane of a profile.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FlatLine {
    /// A place on it, [x, y] in that plane, mm.
    pub at: [f64; 2],
    /// Where it goes.
    pub way: [f64; 2],
}

fn default_chord() -> f64 {
    0.02
}

fn whole_turn() -> f64 {
    360.0
}

/// The profile a step is about: that which is named, else that which the part is.
pub(super) fn profile_of(named: Option<u32>, given: &Given<'_>) -> Result<Profile, TradeError> {
    let mesh = if named.is_some() { given.others.first().unwrap_or(given.mesh) } else { given.mesh };
    Profile::of(mesh, &given.progress.stage(0.0, 0.2))
}

/// A new body, by itself or put together with the part.
pub(super) fn become_what(
    body: Mesh,
    (named, becomes): (Option<u32>, Becomes),
    (what, done): (&str, String),
    given: &Given<'_>,
) -> Result<Outcome, TradeError> {
    let progress = given.progress.stage(0.4, 1.0);
    let (with, others) = (vec![named.unwrap_or_default()], std::slice::from_ref(&body));
    let together = Given { others, progress: &progress, ..*given };
    if becomes != Becomes::Part && named.is_none() {
        let why = "say which profile: what it makes is put together with the part the step is done to";
        return Err(TradeError::refused(why, vec![]));
    }
    let mut outcome = match becomes {
        Becomes::Part => {
            let more = vec![Made::plain(body, what)];
            return Ok(Outcome { more, ..Outcome::of(given.mesh.clone(), done) });
        }
        Becomes::Added => Union { with }.apply(&together)?,
        Becomes::Taken => Difference { with, ..Difference::default() }.apply(&together)?,
        Becomes::Common => Intersection { with, keep: false }.apply(&together)?,
    };
    outcome.done.insert(0, done);
    Ok(outcome)
}

/// Sheets of all chains of a profile that encloses nothing.
fn sheets(
    profile: &Profile,
    becomes: Becomes,
    chord: f64,
    make: impl Fn(&[(Flat, usize)], bool) -> Result<Mesh, BodyError>,
    progress: &Progress,
) -> Result<Mesh, TradeError> {
    if becomes != Becomes::Part {
        let why = "the profile encloses nothing: it makes a sheet, which cannot be added to a part or taken away";
        return Err(TradeError::refused(why, vec![]));
    }
    sheets_of_chains(profile, chord, make, progress)
}

/// The same, of any profile.
pub(super) fn sheets_of_chains(
    profile: &Profile,
    chord: f64,
    make: impl Fn(&[(Flat, usize)], bool) -> Result<Mesh, BodyError>,
    progress: &Progress,
) -> Result<Mesh, TradeError> {
    let (mut points, mut triangles, mut faces) = (Vec::new(), Vec::new(), Vec::new());
    for chain in profile.network.chains() {
        progress.check()?;
        let line = flatten_chain(&profile.network, &chain, chord).map_err(|e| profile.told(e))?;
        let (more, corners, face) = make(&line, chain.closed).map_err(|e| profile.told(e))?.into_parts();
        let first = points.len() as u32;
        points.extend(more);
        triangles.extend(corners.into_iter().map(|t| t.map(|i| i + first)));
        faces.extend(face);
    }
    Ok(Mesh::new(points, triangles, faces)?)
}

impl Tool for Extrude {
    const KIND: &'static str = "shape.extrude";
    const WHAT: &'static str = "Make a body of a profile moved along the normal of its plane.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "extrude",
        name: "Extrude",
        hint: "A plate, boss or pocket of a profile",
        group: "Drawings, and bodies of them",
        words: &["extrusion", "pad", "plate", "boss", "pocket", "draft", "push", "pull", "thicken"],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "above": to_digits(b.share(0.05).max(1.0), 1), "chord": b.chord }),
    }];

    fn title(&self) -> String {
        match self.until {
            Until::Figures => format!("Extrude {}", millimetres(self.above + self.below)),
            Until::ThePart => "Extrude up to the part".into(),
            Until::Other(part) => format!("Extrude up to part {part}"),
            Until::Through => "Extrude right through".into(),
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let profile = profile_of(self.profile, given)?;
        profile.refuse_fine(self.chord, &|_| 1.0)?;
        let progress = given.progress.stage(0.2, 0.4);
        let (below, above) = self.reaches(&profile, given)?;
        let height = millimetres(above + below);
        if above + below <= 0.0 {
            return Err(TradeError::nothing("it has no height"));
        }
        if profile.regions.is_empty() && self.target(given).is_some() {
            let why = "the profile encloses nothing: it makes a sheet, which has no end to be shaped by a part";
            return Err(TradeError::refused(why, vec![]));
        }
        if profile.regions.is_empty() {
            let along =
                |line: &[(Flat, usize)], closed: bool| extrude_chain(line, closed, &profile.plane, (below, above));
            let sheet = sheets(&profile, self.becomes, self.chord, along, &progress)?;
            let area = nimbet_kernel::measure::measure(&sheet).area;
            let done = format!("extruded a sheet of {} mm² by {height}", figure(area));
            return become_what(sheet, (self.profile, self.becomes), ("Sheet", done), given);
        }
        let flat = profile.flattened(&profile.picked(&self.regions)?, self.chord)?;
        let extrusion = Extrusion { below, above, draft: self.draft.to_radians() };
        let body = extrude(&flat, &profile.plane, &extrusion).map_err(|e| profile.told(e))?;
        let (body, done) = match self.target(given) {
            None => (body, format!("extruded by {height}")),
            Some(target) => {
                let starts: Vec<Flat> =
                    profile.picked(&self.regions)?.into_iter().map(|r| profile.regions[r].inside).collect();
                let body = up_to(&body, target, (&profile, &starts, above > 0.0), &progress)?;
                (body, "extruded up to the part".to_owned())
            }
        };
        let done = format!("{done}: {}", volume(&body));
        become_what(body, (self.profile, self.becomes), ("Extruded body", done), given)
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        let other = match &mut self.until {
            Until::Other(part) => Some(part),
            _ => None,
        };
        self.profile.iter_mut().chain(other).collect()
    }
}

/// What lies before a part is asked for just off the plane: this share of how far the body goes.
const JUST: f64 = 1e-6;
/// How far beyond a part a body goes that is cut off by it, as a share of how far it lies.
const BEYOND: f64 = 0.05;

impl Extrude {
    /// The part it goes up to.
    fn target<'a>(&self, given: &Given<'a>) -> Option<&'a Mesh> {
        match self.until {
            Until::ThePart => Some(given.mesh),
            Until::Other(_) => given.others.get(usize::from(self.profile.is_some())),
            Until::Figures | Until::Through => None,
        }
    }

    /// How far it goes below and above its plane; where it is cut off by a part, to beyond that.
    fn reaches(&self, profile: &Profile, given: &Given<'_>) -> Result<(f64, f64), TradeError> {
        let mesh = match self.until {
            Until::Figures => return Ok((self.below, self.above)),
            Until::Through if self.profile.is_none() => {
                return Err(TradeError::refused(
                    "it goes right through the part the step is done to, which is the profile",
                    vec![],
                ));
            }
            Until::ThePart if self.profile.is_none() => {
                return Err(TradeError::refused(
                    "it goes up to the part the step is done to, which is the profile",
                    vec![],
                ));
            }
            Until::Through => given.mesh,
            Until::ThePart | Until::Other(_) => {
                self.target(given).ok_or_else(|| TradeError::refused("choose the part it goes up to", vec![]))?
            }
        };
        let plane = &profile.plane;
        let heights = mesh.points().iter().map(|p| (*p - plane.origin).dot(plane.normal));
        let (low, high) = heights.fold((f64::INFINITY, f64::NEG_INFINITY), |(a, b), h| (a.min(h), b.max(h)));
        let beyond = BEYOND * (high - low).max(high.abs()).max(low.abs()).max(1.0);
        if self.until == Until::Through {
            return Ok(((beyond - low).max(0.0), (high + beyond).max(0.0)));
        }
        // Towards where the part is.
        if high > 0.0 { Ok((0.0, high + beyond)) } else { Ok((beyond - low, 0.0)) }
    }
}

/// What of a body lies before a part, seen from the plane of its profile.
fn up_to(
    body: &Mesh,
    target: &Mesh,
    (profile, starts, upward): (&Profile, &[Flat], bool),
    progress: &Progress,
) -> Result<Mesh, TradeError> {
    let all = arranged_with(&[body], &[target], &|_| "the body".into(), &progress.stage(0.0, 0.7))?;
    let chambers = all.chambers(0.0, &progress.stage(0.7, 0.8))?;
    let plane = &profile.plane;
    let heights: Vec<f64> = body.points().iter().map(|p| (*p - plane.origin).dot(plane.normal).abs()).collect();
    let far = heights.iter().copied().fold(0.0, f64::max);
    // Just off the plane, on the side it goes to.
    let off = plane.normal * (if upward { JUST } else { -JUST } * far);
    let before = |s: &Flat| chambers.at(profile.place(*s) + off).filter(|n| chambers.winding(*n)[0] > 0);
    if let Some(start) = starts.iter().find(|s| before(s).is_none()) {
        let why = "the profile lies on the part: there is nothing before it";
        return Err(TradeError::refused(why, vec![profile.place(*start)]));
    }
    let mut chosen: Vec<usize> = starts.iter().filter_map(before).collect();
    chosen.sort_unstable();
    chosen.dedup();
    let made = chambers.body(&chosen, &progress.stage(0.8, 1.0)).map_err(|e| told(e, &|_| "the body".into()))?.mesh;
    let height = |p: nimbet_kernel::Point| (p - plane.origin).dot(plane.normal).abs();
    // All of the profile has to be the foot of it.
    let foot = |mesh: &Mesh| -> f64 {
        let on = |t: &usize| mesh.corners(*t).iter().all(|p| height(*p) < far * JUST);
        (0..mesh.triangles().len()).filter(on).map(|t| mesh.area_vector(t).length() * 0.5).sum()
    };
    if foot(&made) < foot(body) * (1.0 - 1e-6) {
        let why = "the part goes through the plane of the profile: only some of the profile lies before it";
        return Err(TradeError::refused(why, vec![profile.place(starts[0])]));
    }
    if let Some(place) = made.points().iter().find(|p| height(**p) > far * (1.0 - 1e-6)) {
        let why = "the part does not stand before all of the profile: beside it the body would go on for ever";
        return Err(TradeError::refused(why, vec![*place]));
    }
    Ok(made)
}

impl Tool for Revolve {
    const KIND: &'static str = "shape.revolve";
    const WHAT: &'static str = "Make a body of a profile turned about a line in its plane.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "revolve",
        name: "Revolve",
        hint: "A turned body of a half profile",
        group: "Drawings, and bodies of them",
        words: &["turn", "turned", "lathe", "rotate", "spin", "axis", "dish", "bowl"],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "axis": { "at": [0, 0], "way": [0, 1] }, "chord": b.chord }),
    }];

    fn title(&self) -> String {
        format!("Revolve by {}°", self.angle)
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let profile = profile_of(self.profile, given)?;
        let (least, most) = profile.network.bounds();
        let radius = (most - least).length() + (Flat::from(self.axis.at) - (least + most) * 0.5).length();
        profile.refuse_fine(self.chord, &|chord| crate::budget::around(radius, chord).max(16.0))?;
        let progress = given.progress.stage(0.2, 0.4);
        let (from, to) = (self.begins.to_radians(), (self.begins + self.angle).to_radians());
        let (at, way) = (Flat::from(self.axis.at), Flat::from(self.axis.way));
        let axis = Axis { at, way, from: from.min(to), to: from.max(to) };
        if profile.regions.is_empty() {
            let round =
                |line: &[(Flat, usize)], closed: bool| revolve_chain(line, closed, &profile.plane, &axis, self.chord);
            let sheet = sheets(&profile, self.becomes, self.chord, round, &progress)?;
            let area = nimbet_kernel::measure::measure(&sheet).area;
            let done = format!("turned a sheet of {} mm²", figure(area));
            return become_what(sheet, (self.profile, self.becomes), ("Turned sheet", done), given);
        }
        let flat = profile.flattened(&profile.picked(&self.regions)?, self.chord)?;
        let body = revolve(&flat, &profile.plane, &axis, self.chord).map_err(|e| profile.told(e))?;
        let done = format!("turned a body of {}", volume(&body));
        become_what(body, (self.profile, self.becomes), ("Turned body", done), given)
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        self.profile.iter_mut().collect()
    }
}
