//! `shape.tube`, `shape.sweep`: sections moved along a path.

use nimbet_kernel::{Point, Progress};
use nimbet_profile::bodies::{
    Change, Corner, Flattened, Fold, Placed, flatten_chain, flatten_regions, most_twist, placed, sweep, sweep_chain,
};
use nimbet_profile::drawing::{Drawing, Shape};
use nimbet_profile::path::{Holding, Path, Station};
use nimbet_profile::{Flat, Network};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::brace::{Held as HeldBy, held_together};
use super::course::{Course, outlines_of};
use super::from_profile::{Becomes, become_what, profile_of};
use super::path::{PathOf, path_refused};
use super::profile::{Profile, RegionPick, body_refused, drawing_refused, network_refused};
use crate::budget::{Extent, around, refuse_fine_chord};
use crate::examine::Place;
use crate::parameter::{Direction, Factor, Length, Part, Turned};
use crate::solids::{Within, outside_of, volume};
use crate::tool::{Entry, Given, Needs, Tool, to_digits};
use crate::wall::Notice;
use crate::words::{Xyz, count, figure, millimetres};
use crate::{Outcome, TradeError};

/// How a tube ends.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum TubeEnd {
    /// Square to its path.
    #[default]
    Flat,
    /// By half a ball; only without a bore.
    Round,
}

/// How kinks of a path are gone round.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum PathCorner {
    /// The section turns about the kink.
    #[default]
    Round,
    /// The sides meet as in a picture frame.
    Sharp,
}

impl From<PathCorner> for Corner {
    fn from(corner: PathCorner) -> Self {
        match corner {
            PathCorner::Round => Self::Round,
            PathCorner::Sharp => Self::Sharp,
        }
    }
}

/// Parameters of `shape.tube`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Tube {
    /// What it runs along.
    pub path: PathOf,
    /// Its outer diameter.
    #[schemars(with = "Length")]
    pub diameter: f64,
    /// Its wall; a solid rod when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Length>", extend("empty" = "a solid rod"))]
    pub wall: Option<f64>,
    /// Its ends.
    #[serde(default)]
    pub ends: TubeEnd,
    /// At kinks of the path.
    #[serde(default)]
    #[schemars(title = "At kinks")]
    pub corner: PathCorner,
    /// What becomes of the body.
    #[serde(default)]
    pub becomes: Becomes,
    /// The farthest its round faces may be from true, mm.
    #[serde(default = "default_chord")]
    #[schemars(title = "Chord tolerance", with = "Length", extend("folded" = true))]
    pub chord: f64,
}

/// How a section is held on its way.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Held {
    /// Square to the path, turning no more than the path does.
    #[default]
    Square,
    /// Square to the path, its y as near to a direction as can be.
    Upright(#[schemars(with = "Direction")] Xyz),
    /// On a second path too: its width reaches from one to the other.
    #[schemars(title = "Between two paths")]
    SecondPath(PathOf),
}

/// Parameters of `shape.sweep`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Sweep {
    /// The number of the profile that is moved; absent, it is the part the step is done to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "The section", with = "Option<Part>", extend("empty" = "the chosen part"))]
    pub profile: Option<u32>,
    /// Its regions; none picked: those nested outlines mean. A profile without regions makes a sheet.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(extend("asks" = "regions"))]
    pub regions: Vec<RegionPick>,
    /// What it is moved along.
    pub path: PathOf,
    /// How it is held.
    #[serde(default)]
    pub held: Held,
    /// Whether it begins where it is drawn; else its zero is put on the path, square to it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Begins where it is drawn", extend("when" = { "/held": "square" }))]
    pub as_drawn: bool,
    /// How far it has turned at the end, by the right hand about the path.
    #[serde(default)]
    #[schemars(with = "Turned", extend("minimum" = -36000, "maximum" = 36000))]
    pub twist: f64,
    /// How many times larger it is at the end.
    #[serde(default = "same_size")]
    #[schemars(title = "Larger at the end by", with = "Factor", extend("minimum" = 0.001, "maximum" = 1000))]
    pub scale: f64,
    /// At kinks of the path.
    #[serde(default = "sharp")]
    #[schemars(title = "At kinks")]
    pub corner: PathCorner,
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

fn same_size() -> f64 {
    1.0
}

fn sharp() -> PathCorner {
    PathCorner::Sharp
}

/// Refuses a chord that would make more triangles than can be handled of a section of so many points along a path.
fn refuse_fine(path: &Path, (points, reach): (f64, f64), (chord, twist): (f64, f64)) -> Result<(), TradeError> {
    let length = path.length();
    refuse_fine_chord(chord, &|chord| {
        let per_mm = |radius: f64| around(radius, chord) / (std::f64::consts::TAU * radius);
        // As if it bent all the way round what it reaches; a helix turns by itself.
        let turns = around(reach.max(chord), chord) * (1.0 + twist.abs() / std::f64::consts::TAU);
        (turns + length * per_mm(reach.max(length * 0.05).max(chord))) * points * 2.0
    })
}

/// A body of a section moved through places.
fn swept(
    flat: &Flattened,
    places: &[Placed],
    closed: bool,
    progress: &Progress,
) -> Result<(nimbet_kernel::Mesh, Vec<Notice>), TradeError> {
    let swept = sweep(flat, places, closed, &progress.stage(0.0, 0.2)).map_err(|e| body_refused(e, vec![]))?;
    let mut notices: Vec<Notice> = swept.folds.iter().map(fold_told).collect();
    let Within { body, met, at } = outside_of(swept.mesh, swept.pieces, &progress.stage(0.2, 0.8))?;
    // What goes forward and what goes backward meet along the line about which the section turns, and may hold nowhere else.
    let size = flat.vertices().map(|v| v.at.length()).fold(0.0, f64::max);
    let how = HeldBy { at_points: false, uncrossed: false };
    let body = if met { held_together(&body, size * NECK, how, &progress.stage(0.8, 1.0))?.0 } else { body };
    if let Some(place) = at {
        let text =
            "the path comes back so near here that the body passes through itself; its outside is kept".to_owned();
        notices.push(Notice { text, place });
    }
    Ok((body, notices))
}

/// The radius, as a share of the section, of what holds a body together where its surfaces only touch.
const NECK: f64 = 0.02;

fn fold_told(fold: &Fold) -> Notice {
    let (radius, least) = (millimetres(fold.radius), millimetres(fold.least));
    let text = format!(
        "the path bends to a radius of {radius} here, and the section passes through itself below {least}; its outside is kept"
    );
    Notice { text, place: Place { centre: fold.at.to_array(), radius: fold.least } }
}

impl Tool for Tube {
    const KIND: &'static str = "shape.tube";
    const WHAT: &'static str = "Make a tube or a rod along a path.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "tube",
        name: "Tube",
        hint: "A tube or rod along lines, a helix or edges",
        group: "Drawings, and bodies of them",
        words: &["pipe", "rod", "wire", "spring", "coil", "helix", "hose", "sweep", "rail", "bead"],
        needs: Needs::Bench,
        mark: "",
        start: |b| {
            let size = to_digits(b.share(0.03).max(1.0), 1);
            let drawn = b.seen.is_some_and(|seen| seen.figures.drawn);
            let path = match drawn {
                true => json!({ "profiles": { "parts": [] } }),
                false => {
                    json!({ "helix": { "at": b.middle(), "axis": [0, 0, 1], "radius": size * 4.0, "pitch": size * 2.0, "turns": 3 } })
                }
            };
            json!({ "path": path, "diameter": size, "chord": b.chord })
        },
    }];

    fn title(&self) -> String {
        match self.wall {
            Some(wall) => format!("Tube ⌀ {}, wall {}", figure(self.diameter), millimetres(wall)),
            None => format!("Rod ⌀ {}", millimetres(self.diameter)),
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let radius = self.diameter * 0.5;
        if self.wall.is_some_and(|w| w >= radius) {
            let why =
                format!("a wall of {} leaves no bore; leave it out for a rod", millimetres(self.wall.unwrap_or(0.0)));
            return Err(TradeError::refused(why, vec![]));
        }
        if self.wall.is_some() && self.ends == TubeEnd::Round {
            return Err(TradeError::refused("a tube with a bore ends flat; a rod may end round", vec![]));
        }
        let progress = given.progress.stage(0.1, 0.5);
        let (path, stations, mut places) = self.led(given)?;
        let flat = discs(radius, self.wall, self.chord, &progress)?;
        if self.ends == TubeEnd::Round && !path.closed {
            places = with_round_ends(&stations, places, radius, self.chord);
        }
        let (body, notices) = swept(&flat, &places, path.closed, &progress)?;
        let done = format!("{} along {}: {}", self.title(), millimetres(path.length()), volume(&body));
        let what = if self.wall.is_some() { "Tube" } else { "Rod" };
        let mut outcome = become_what(body, (Some(0), self.becomes), (what, done), given)?;
        outcome.notices.extend(notices);
        Ok(outcome)
    }

    fn makes(&self, parts: &[Extent]) -> f64 {
        let radius = self.diameter * 0.5;
        let ring = around(radius, self.chord.min(radius * 0.02)) * if self.wall.is_some() { 2.0 } else { 1.0 };
        let steps = match &self.path {
            PathOf::Helix { radius: first, end, turns, .. } => {
                turns * around(first.max(end.unwrap_or(0.0)) + radius, self.chord)
            }
            // As if it went round what it reaches: nothing is known of other paths here.
            _ => around(self.diameter, self.chord),
        };
        parts.iter().map(|p| p.triangles).sum::<f64>() + ring * steps * 2.0
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        self.path.parts()
    }
}

impl Tube {
    /// Its path, with the stations and places along it.
    fn led(&self, given: &Given<'_>) -> Result<(Path, Vec<Station>, Vec<Placed>), TradeError> {
        let radius = self.diameter * 0.5;
        let (path, across) = self.path.path(given, given.others)?;
        refuse_fine(&path, (around(radius, self.chord) * 2.0, radius), (self.chord, 0.0))?;
        let stations = path.stations((self.chord, radius), 0.0, Holding::Square(across)).map_err(path_refused)?;
        let change = Change { twist: 0.0, scale: 1.0, corner: self.corner.into() };
        let places = placed(&stations, &change, (self.chord, radius)).map_err(path_refused)?;
        Ok((path, stations, places))
    }

    /// The path, and its outline at places along it.
    ///
    /// # Errors
    /// [`TradeError::Refused`] where there is no path yet.
    pub(super) fn course(&self, given: &Given<'_>) -> Result<Course, TradeError> {
        let (_, _, places) = self.led(given)?;
        let flat = discs(self.diameter * 0.5, None, self.chord, given.progress)?;
        Ok(Course::of_places(&outlines_of(&flat), &places, None))
    }
}

/// A disc, or a ring of a wall, flattened.
fn discs(radius: f64, wall: Option<f64>, chord: f64, progress: &Progress) -> Result<Flattened, TradeError> {
    let circle = |radius: f64| Shape::Circle { centre: [0.0, 0.0], diameter: radius * 2.0 };
    let shapes = std::iter::once(circle(radius)).chain(wall.map(|w| circle(radius - w))).collect();
    let curves = Drawing::of(shapes).curves().map_err(|e| drawing_refused(e.into()))?;
    let network = Network::new(curves, progress).map_err(network_refused)?;
    let regions = network.regions(progress)?;
    let even: Vec<usize> = (0..regions.len()).filter(|r| regions[*r].depth.is_multiple_of(2)).collect();
    // Round faces are parted by less at an edge than faces are.
    let chord = chord.min(radius * 0.02);
    flatten_regions(&network, &regions, &even, chord).map_err(|_| TradeError::refused("it is too thin", vec![]))
}

/// The places of a rod with half a ball put before and behind them.
fn with_round_ends(stations: &[Station], places: Vec<Placed>, radius: f64, chord: f64) -> Vec<Placed> {
    let steps = (around(radius, chord) / 4.0).ceil().clamp(4.0, 400.0) as usize;
    let bulge = |end: &Placed, along: Point, k: usize| {
        let (sin, cos) = (std::f64::consts::FRAC_PI_2 * k as f64 / steps as f64).sin_cos();
        let size = if k == steps { 0.0 } else { cos };
        Placed { at: end.at + along * (radius * sin), u: end.u * size, v: end.v * size, ..*end }
    };
    let (Some(first), Some(last)) = (stations.first(), stations.last()) else { return places };
    let (start, end) = (places[0], places[places.len() - 1]);
    let before: Vec<Placed> = (1..=steps).rev().map(|k| bulge(&start, -first.along, k)).collect();
    let behind: Vec<Placed> = (1..=steps).map(|k| bulge(&end, last.along, k)).collect();
    before.into_iter().chain(places).chain(behind).collect()
}

/// A path with the places of a section along it.
struct Led {
    path: Path,
    places: Vec<Placed>,
    /// The last station, where the section may be turned and made larger; not where a second path holds it.
    end: Option<Station>,
    /// How far the section reaches at its largest, mm.
    reach: f64,
}

impl Sweep {
    /// Where the section goes.
    fn led(&self, profile: &Profile, given: &Given<'_>) -> Result<Led, TradeError> {
        let mut rest = &given.others[usize::from(self.profile.is_some()).min(given.others.len())..];
        if matches!(&self.path, PathOf::Profiles { parts, .. } if parts.is_empty()) {
            return Err(TradeError::refused("choose the profiles it is moved along", vec![]));
        }
        let own = self.path.clone().parts().len().min(rest.len());
        let (path, across) = self.path.path(given, &rest[..own])?;
        rest = &rest[own..];
        let bounds = profile.network.bounds();
        let reach = reach_of(profile) * self.scale.max(1.0);
        let twist = self.twist.to_radians();
        let points: f64 = profile
            .network
            .curves
            .iter()
            .flat_map(|c| &c.spans)
            .map(|s| (s.sag() / self.chord).sqrt().ceil().max(1.0))
            .sum();
        refuse_fine(&path, (points, reach), (self.chord, twist))?;
        let holding = match &self.held {
            Held::SecondPath(second) => {
                let (second, _) = second.path(given, rest)?;
                let places = between(&path, &second, bounds, self.chord)?;
                return Ok(Led { path, places, end: None, reach });
            }
            Held::Upright(up) => Holding::Upright(Point::from_array(*up)),
            Held::Square => Holding::Square(across),
        };
        let rate = twist / path.length().max(f64::MIN_POSITIVE);
        let stations = path.stations((self.chord, reach), rate, holding).map_err(path_refused)?;
        let change = Change { twist, scale: self.scale, corner: self.corner.into() };
        let mut places = placed(&stations, &change, (self.chord, reach)).map_err(path_refused)?;
        if self.as_drawn {
            as_drawn(&mut places, &stations[0], &profile.plane)?;
        }
        Ok(Led { path, places, end: stations.last().copied(), reach })
    }

    /// The path, the section at places along it, and its end.
    ///
    /// # Errors
    /// [`TradeError::Refused`] where there is no path or section yet.
    pub(super) fn course(&self, given: &Given<'_>) -> Result<Course, TradeError> {
        let profile = profile_of(self.profile, given)?;
        let Led { places, end, .. } = self.led(&profile, given)?;
        let outlines = match profile.regions.is_empty() {
            true => {
                let chains = profile.network.chains();
                let line = |chain| flatten_chain(&profile.network, chain, self.chord).map_err(|e| profile.told(e));
                let flat = chains.iter().map(|c| Ok((line(c)?.into_iter().map(|p| p.0).collect(), c.closed)));
                flat.collect::<Result<Vec<_>, TradeError>>()?
            }
            false => outlines_of(&profile.flattened(&profile.picked(&self.regions)?, self.chord)?),
        };
        Ok(Course::of_places(&outlines, &places, end.as_ref().map(|end| (end, reach_of(&profile)))))
    }
}

/// How far a section reaches from its zero, mm.
fn reach_of(profile: &Profile) -> f64 {
    let (least, most) = profile.network.bounds();
    least.abs().max(most.abs()).length()
}

impl Tool for Sweep {
    const KIND: &'static str = "shape.sweep";
    const WHAT: &'static str = "Make a body of a profile moved along a path.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "sweep",
        name: "Sweep",
        hint: "A profile moved along a path, twisted or between two rails",
        group: "Drawings, and bodies of them",
        words: &["extrude along", "rail", "follow me", "moulding", "twist", "grip", "path", "gasket"],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "path": { "profiles": { "parts": [] } }, "chord": b.chord }),
    }];

    fn title(&self) -> String {
        "Sweep".into()
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let profile = profile_of(self.profile, given)?;
        let Led { path, places, reach, .. } = self.led(&profile, given)?;
        let progress = given.progress.stage(0.1, 0.5);
        let turned = self.scale == 1.0 && (self.twist / 360.0).fract().abs() < 1e-9;
        let closed = path.closed && turned;
        if profile.regions.is_empty() {
            if self.becomes != Becomes::Part {
                let why =
                    "the profile encloses nothing: it makes a sheet, which cannot be added to a part or taken away";
                return Err(TradeError::refused(why, vec![]));
            }
            let [chain] = &profile.network.chains()[..] else {
                return Err(TradeError::refused("a section that encloses nothing is one line", vec![]));
            };
            let line = flatten_chain(&profile.network, chain, self.chord).map_err(|e| profile.told(e))?;
            let line = longest_side(&places, reach, self.chord).map_or(line.clone(), |longest| divided(&line, longest));
            let sheet = sweep_chain(&line, chain.closed, &places, closed).map_err(|e| profile.told(e))?;
            let area = nimbet_kernel::measure::measure(&sheet).area;
            let done = format!("moved a sheet of {} mm² along {}", figure(area), millimetres(path.length()));
            return become_what(sheet, (self.profile, self.becomes), ("Swept sheet", done), given);
        }
        let mut flat = profile.flattened(&profile.picked(&self.regions)?, self.chord)?;
        if let Some(longest) = longest_side(&places, reach, self.chord) {
            flat = flat.divided(longest).map_err(|e| profile.told(e))?;
        }
        let (body, notices) = swept(&flat, &places, closed, &progress)?;
        let sections = count(places.len(), "section", "sections");
        let done = format!("moved along {} in {sections}: {}", millimetres(path.length()), volume(&body));
        let mut outcome = become_what(body, (self.profile, self.becomes), ("Swept body", done), given)?;
        outcome.notices.extend(notices);
        Ok(outcome)
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        let second = match &mut self.held {
            Held::SecondPath(path) => path.parts(),
            _ => vec![],
        };
        self.profile.iter_mut().chain(self.path.parts()).chain(second).collect()
    }
}

/// Sides longer than this, mm, would stand off the surface they make where the section turns about its path: four corners that
/// do not lie in a plane are two triangles, a quarter of what they are apart from it.
fn longest_side(places: &[Placed], reach: f64, chord: f64) -> Option<f64> {
    let twist = most_twist(places);
    (twist * reach > chord * 1e-3).then(|| (4.0 * chord / twist).max(reach * 2e-3))
}

fn divided(line: &[(Flat, usize)], longest: f64) -> Vec<(Flat, usize)> {
    let cut = |w: &[(Flat, usize)]| {
        let (from, to, curve) = (w[0].0, w[1].0, w[0].1);
        let n = (from.distance(to) / longest).ceil().clamp(1.0, 1e4) as usize;
        (0..n).map(move |k| (from.lerp(to, k as f64 / n as f64), curve)).collect::<Vec<_>>()
    };
    line.windows(2).flat_map(cut).chain(line.last().copied()).collect()
}

/// Carries a section from where it is drawn, as the frame of the path moves from its beginning.
fn as_drawn(
    places: &mut [Placed],
    first: &Station,
    plane: &nimbet_kernel::triangulate::PlaneFrame,
) -> Result<(), TradeError> {
    /// The cosine of the most a section may lean to the path where it begins: 45 degrees.
    const LEAN: f64 = 0.7;
    let [x, y] = plane.directions();
    if plane.normal.dot(first.along).abs() < LEAN {
        let why = "the section does not stand across the path where that begins; put its zero on the path instead";
        return Err(TradeError::refused(why, vec![first.at]));
    }
    // Its directions and its zero in the first frame; what it leans by goes along.
    let in_frame = |v: Point| [v.dot(first.across), v.dot(first.up()), v.dot(first.along)];
    let [zero, x, y] = [plane.origin - first.at, x, y].map(in_frame);
    for place in places {
        let (u, v) = (place.u, place.v);
        let along = u.cross(v) / u.length().max(f64::MIN_POSITIVE);
        let out = |[a, b, c]: [f64; 3]| u * a + v * b + along * c;
        *place = Placed { at: place.at + out(zero), u: out(x), v: out(y), ..*place };
    }
    Ok(())
}

/// The places of a section whose width reaches from one path to another.
fn between(path: &Path, second: &Path, (least, most): (Flat, Flat), chord: f64) -> Result<Vec<Placed>, TradeError> {
    let width = most.x - least.x;
    if width <= 0.0 || width.is_nan() {
        return Err(TradeError::refused("the section has no width to reach from path to path", vec![]));
    }
    let [one, other] = [path, second].map(|p| p.stations((chord, width), 0.0, Holding::Square(Point::Z)));
    let (one, other) = (one.map_err(path_refused)?, other.map_err(path_refused)?);
    // The second runs the same way as the first.
    let ends = |path: &Path| (path.measured().after(0.0).0, path.measured().after(f64::INFINITY).0);
    let ((a, b), (c, d)) = (ends(path), ends(second));
    let turned = a.distance(c) + b.distance(d) > a.distance(d) + b.distance(c);
    let second = if turned { second.reversed() } else { second.clone() };
    let (path, second) = (path.measured(), second.measured());
    let [length, second_length] = [path.length(), second.length()];
    let own = |stations: &[Station], whole: f64, back: bool| -> Vec<f64> {
        stations.iter().map(|s| s.length / whole).map(|s| if back { 1.0 - s } else { s }).collect()
    };
    let mut shares = [own(&one, length, false), own(&other, second_length, turned)].concat();
    shares.sort_by(f64::total_cmp);
    // Nearer to each other than this share they are one.
    shares.dedup_by(|b, a| *b - *a < 1e-7);
    if let Some(last) = shares.last_mut() {
        *last = 1.0;
    }
    let mut places = Vec::with_capacity(shares.len());
    for share in shares {
        let ((p, d), (q, e)) = (path.after(length * share), second.after(second_length * share));
        let (across, along) = (q - p, (d + e).normalize_or(d));
        let Some(up) = along.cross(across).try_normalize() else {
            return Err(TradeError::refused("the two paths meet here, or run at each other", vec![p]));
        };
        let size = across.length() / width;
        let u = across / width;
        let before = one.partition_point(|s| s.length <= length * share + 1e-9);
        let stretch = one[..before].iter().rev().find_map(|s| s.stretch).or(Some(0));
        places.push(Placed { at: p - u * least.x, u, v: up * size, stretch });
    }
    Ok(places)
}
