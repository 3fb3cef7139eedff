//! `shape.profile`: an outline drawn in a plane, as a part that knows what it was drawn as.

use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Cancelled, Drawn, FaceId, Mesh, Point, Progress};
use nimbet_profile::bodies::{BodyError, Flattened, chain_points, flatten_regions};
use nimbet_profile::change::ChangeError;
use nimbet_profile::drawing::{Drawing, Line, Shape};
use nimbet_profile::look::{Look, NearEnd, look};
use nimbet_profile::rules::{Hold, Quarrel};
use nimbet_profile::{Flat, Network, NetworkError, Region};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::carry::{Carried, carry};
use super::sheets::Plane;
use crate::budget::refuse_fine_chord;
use crate::examine::Place;
use crate::parameter::Direction;
use crate::tool::{Entry, Given, Needs, Tool};
use crate::wall::Notice;
use crate::wire::is_wire;
use crate::words::{Xyz, count, figure, is_plain, millimetres, plain};
use crate::{Made, Outcome, TradeError};

/// Parameters of `shape.profile`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct DrawProfile {
    /// The plane it is drawn in.
    pub plane: Plane,
    /// Where x goes in that plane, as far as it lies in it; absent, y is up as one sees it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Direction>", extend("folded" = true))]
    pub right: Option<Xyz>,
    /// What it is called.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(extend("asks" = "drawing"))]
    pub called: Option<String>,
    /// What is drawn: lines by name, each one of the shapes a profile has.
    #[schemars(with = "Vec<Line>", extend("asks" = "drawing"))]
    pub lines: Vec<Line>,
    /// The figures and rules that are held: the lines move as little as possible until all are kept.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(with = "Vec<Hold>", extend("asks" = "drawing"))]
    pub holds: Vec<Hold>,
    /// What is carried down from parts; it follows them.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(with = "Vec<Carried>", extend("asks" = "drawing"))]
    pub carried: Vec<Carried>,
}

/// The longest name of a profile, characters.
const LONGEST_NAME: usize = 80;

/// The most that is carried down at once.
const MOST_CARRIED: usize = 20;

impl DrawProfile {
    /// Shapes as they stand on the ground, as a profile of a name.
    pub fn on_ground(called: &str, shapes: Vec<Shape>) -> Self {
        Self::of_shapes(Plane { at: [0.0; 3], normal: [0.0, 0.0, 1.0], face: None }, None, called, shapes)
    }

    /// Shapes in a plane, as a profile of a name.
    pub(crate) fn on(frame: &PlaneFrame, called: &str, shapes: Vec<Shape>) -> Self {
        let plane = Plane { at: frame.origin.to_array(), normal: frame.normal.to_array(), face: None };
        Self::of_shapes(plane, Some(frame.directions()[0].to_array()), called, shapes)
    }

    fn of_shapes(plane: Plane, right: Option<Xyz>, called: &str, shapes: Vec<Shape>) -> Self {
        let called: String = plain(called).chars().take(LONGEST_NAME).collect();
        let called = Some(called).filter(|c| !c.trim().is_empty());
        Self { plane, right, called, lines: Drawing::of(shapes).lines, holds: vec![], carried: vec![] }
    }

    /// What is drawn, with what is carried down as the parts are now.
    fn drawing(&self, frame: &PlaneFrame, given: &Given<'_>) -> Result<Drawing, TradeError> {
        if self.carried.len() > MOST_CARRIED {
            let why = format!("at most {MOST_CARRIED} times something is carried down; it is {}", self.carried.len());
            return Err(TradeError::refused(why, vec![]));
        }
        let (mut lines, mut others) = (Vec::new(), given.others.iter());
        for carried in &self.carried {
            let mesh = if carried.part.is_some() { others.next() } else { Some(given.mesh) };
            let mesh = mesh.ok_or_else(|| TradeError::refused("a part it is carried down from is missing", vec![]))?;
            lines.extend(carry(mesh, frame, carried, given.progress)?);
        }
        lines.extend(self.lines.iter().filter(|l| !l.still).cloned());
        Ok(Drawing { lines, holds: self.holds.clone() })
    }
}

/// A profile as it is kept with the sheet that shows it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
struct Kept {
    at: Xyz,
    normal: Xyz,
    right: Xyz,
    lines: Vec<Line>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    holds: Vec<Hold>,
}

/// A profile, ready to be looked at and made bodies of.
pub struct Profile {
    /// Its plane.
    pub plane: PlaneFrame,
    /// Its curves, cut up where they meet.
    pub network: Network,
    /// What they enclose.
    pub regions: Vec<Region>,
}

/// A region picked of a profile: found again by the lines round it, whatever their figures are then.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct RegionPick {
    /// A place in it, [x, y] in the plane of the profile, mm.
    pub at: [f64; 2],
    /// The lines of its border, sorted.
    pub lines: Vec<String>,
}

impl Profile {
    /// The profile a part was drawn as.
    ///
    /// # Errors
    /// Where it was not, or is not any more.
    pub fn of(mesh: &Mesh, progress: &Progress) -> Result<Self, TradeError> {
        let (plane, drawing) = Self::kept(mesh)?;
        Self::drawn(plane, &drawing, progress)
    }

    /// A profile moved as a whole stays one: `out` is its sheet, where `put` moved and turned it to.
    pub(super) fn moved(mesh: &Mesh, out: Mesh, put: &dyn Fn(Point) -> Point) -> Result<Mesh, TradeError> {
        let (plane, drawing) = Self::kept(mesh)?;
        let way = |v: Point| put(plane.origin + v) - put(plane.origin);
        let kept = Kept {
            at: put(plane.origin).to_array(),
            normal: way(plane.normal).to_array(),
            right: way(plane.directions()[0]).to_array(),
            lines: drawing.lines,
            holds: drawing.holds,
        };
        let bytes = serde_json::to_vec(&kept).map_err(|e| TradeError::refused(e.to_string(), vec![]))?;
        Ok(out.drawn_as(Some(Drawn::from(bytes))))
    }

    /// The plane and the drawing a part was drawn as.
    pub(super) fn kept(mesh: &Mesh) -> Result<(PlaneFrame, Drawing), TradeError> {
        let no = || {
            let why = match is_wire(mesh) {
                true => "this part is a wire, lines in space: it can be a path, but no profile",
                false => "this part is no profile, or was changed since it was drawn; pick a profile",
            };
            TradeError::refused(why, vec![])
        };
        let kept: Kept = mesh.drawn().and_then(|d| serde_json::from_slice(d.bytes()).ok()).ok_or_else(no)?;
        let plane = PlaneFrame::new(Point::from_array(kept.at), Point::from_array(kept.normal)).ok_or_else(no)?;
        Ok((plane.along(Point::from_array(kept.right)), Drawing { lines: kept.lines, holds: kept.holds }))
    }

    pub(super) fn drawn(plane: PlaneFrame, drawing: &Drawing, progress: &Progress) -> Result<Self, TradeError> {
        let curves = drawing.curves().map_err(|e| drawing_refused(e.into()))?;
        let network = Network::new(curves, &progress.stage(0.0, 0.6)).map_err(network_refused)?;
        let regions = network.regions(&progress.stage(0.6, 1.0))?;
        Ok(Self { plane, network, regions })
    }

    /// What is to be seen of it.
    ///
    /// # Errors
    /// [`Cancelled`].
    pub fn look(&self, progress: &Progress) -> Result<Look, Cancelled> {
        look(&self.network, &self.regions, progress)
    }

    /// Where a place of the plane is.
    pub fn place(&self, at: Flat) -> Point {
        self.plane.lift(at.to_array())
    }

    /// The numbers of picked regions; where none are picked, those that nested outlines mean: every second, from the outside.
    pub(super) fn picked(&self, picks: &[RegionPick]) -> Result<Vec<usize>, TradeError> {
        if picks.is_empty() {
            return Ok((0..self.regions.len()).filter(|r| self.regions[*r].depth.is_multiple_of(2)).collect());
        }
        picks.iter().map(|pick| self.find(pick)).collect()
    }

    fn find(&self, pick: &RegionPick) -> Result<usize, TradeError> {
        let at = Flat::from(pick.at);
        let gone = || TradeError::NeedsNewPick { what: "the region".into(), place: self.place(at) };
        if !at.is_finite() {
            return Err(gone());
        }
        let holds = |r: &usize| self.network.holds(&self.regions[*r], at);
        let borders: Vec<Vec<String>> = self.regions.iter().map(|r| self.network.border(r)).collect();
        let same: Vec<usize> = (0..borders.len()).filter(|r| borders[*r] == pick.lines).collect();
        let here = (0..borders.len()).find(|r| holds(r));
        match (&same[..], here) {
            ([one], _) => Ok(*one),
            (several, Some(here)) if several.contains(&here) => Ok(here),
            // Other lines border it now, most of them those of before.
            ([], Some(here))
                if 2 * pick.lines.iter().filter(|l| borders[here].contains(l)).count() > pick.lines.len() =>
            {
                Ok(here)
            }
            _ => Err(gone()),
        }
    }

    /// Refuses a chord that would make more triangles than can be handled, with each point of an outline made so many times.
    pub(super) fn refuse_fine(&self, chord: f64, times: &dyn Fn(f64) -> f64) -> Result<(), TradeError> {
        /// Each point of an outline has two triangles beside it and one in each cap.
        const EACH: f64 = 4.0;
        let points = |chord: f64| -> f64 {
            let spans = self.network.curves.iter().flat_map(|c| &c.spans);
            spans.map(|s| (s.sag() / chord).sqrt().ceil().max(1.0)).sum()
        };
        refuse_fine_chord(chord, &|chord| points(chord) * times(chord) * EACH)
    }

    /// The outlines of regions as points.
    pub(super) fn flattened(&self, picked: &[usize], chord: f64) -> Result<Flattened, TradeError> {
        flatten_regions(&self.network, &self.regions, picked, chord).map_err(|e| self.told(e))
    }

    /// What went wrong with a body, with the places where they are.
    pub(super) fn told(&self, error: BodyError) -> TradeError {
        match error {
            BodyError::Refused { why, places } => {
                TradeError::refused(why, places.into_iter().map(|p| self.place(p)).collect())
            }
            BodyError::Cancelled(c) => c.into(),
            BodyError::Mesh(m) => m.into(),
        }
    }

    /// The sheet that shows it: its regions, and a narrow ribbon for each line that encloses none.
    fn sheet(&self, progress: &Progress) -> Result<Mesh, TradeError> {
        /// The chord and half the width of a ribbon, as shares of the diagonal.
        const SHARE: f64 = 5e-4;
        progress.check()?;
        let (least, most) = self.network.bounds();
        let fine = (most - least).length() * SHARE;
        let (mut points, mut triangles, mut faces) = (Vec::new(), Vec::new(), Vec::new());
        let picked = self.picked(&[])?;
        if !picked.is_empty() {
            // Where no chord keeps lines apart the ribbons still show them.
            if let Ok(flat) = self.flattened(&picked, fine) {
                points.extend(flat.vertices().map(|v| self.place(v.at)));
                triangles.extend(flat.triangles.iter().map(|t| t.map(|i| i as u32)));
                faces.resize(triangles.len(), FaceId(0));
            }
        }
        for chain in self.network.chains().iter().filter(|c| !c.closed || picked.is_empty()) {
            for pair in chain_points(&self.network, chain, fine).windows(2) {
                let side = (pair[1].0 - pair[0].0).perp().normalize_or_zero() * fine;
                let first = points.len() as u32;
                let corners = [pair[0].0 - side, pair[1].0 - side, pair[1].0 + side, pair[0].0 + side];
                points.extend(corners.map(|p| self.place(p)));
                triangles.extend([[first, first + 1, first + 2], [first, first + 2, first + 3]]);
                faces.extend([FaceId(1 + pair[0].1 as u32); 2]);
            }
        }
        Ok(Mesh::new(points, triangles, faces)?)
    }
}

impl Tool for DrawProfile {
    const KIND: &'static str = "shape.profile";
    const WHAT: &'static str = "Draw a profile in a plane, as a part of its own.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "profile",
        name: "Profile",
        hint: "Outlines and lines drawn in a plane",
        group: "Drawings, and bodies of them",
        words: &[
            "sketch",
            "draw",
            "drawing",
            "outline",
            "line",
            "spline",
            "circle",
            "2d",
            "trim",
            "offset",
            "dimension",
            "fillet",
            "dxf",
            "svg",
        ],
        needs: Needs::Bench,
        mark: "",
        start: |b| {
            let ([x, y, _], (least, _)) = (b.middle(), b.bounds());
            json!({ "plane": { "at": [x, y, least[2]], "normal": [0, 0, 1] }, "lines": [] })
        },
    }];

    fn parts(&mut self) -> Vec<&mut u32> {
        self.carried.iter_mut().filter_map(|c| c.part.as_mut()).collect()
    }

    fn title(&self) -> String {
        format!("Draw a profile of {}", count(self.lines.len(), "line", "lines"))
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        if self.lines.is_empty() && self.carried.is_empty() {
            return Err(TradeError::nothing("nothing is drawn yet"));
        }
        if self.called.as_ref().is_some_and(|c| c.trim().is_empty() || c.chars().count() > LONGEST_NAME || !is_plain(c))
        {
            let why =
                format!("a profile's name has at most {LONGEST_NAME} characters, none of which control or turn text");
            return Err(TradeError::refused(why, vec![]));
        }
        let frame = frame_on(&self.plane, self.right, Some(mesh))?;
        let asked = self.drawing(&frame, given)?;
        asked.check_holds().map_err(|e| drawing_refused(e.into()))?;
        let drawing = asked.settled(&|_| false, &progress.stage(0.0, 0.2)).map_err(|e| drawing_refused(e.into()))?;
        let profile = Profile::drawn(frame, &drawing, &progress.stage(0.2, 0.7))?;
        let seen = profile.look(&progress.stage(0.7, 0.8))?;
        let kept = Kept {
            at: frame.origin.to_array(),
            normal: frame.normal.to_array(),
            right: frame.directions()[0].to_array(),
            lines: drawing.lines,
            holds: drawing.holds,
        };
        let bytes = serde_json::to_vec(&kept).map_err(|e| TradeError::refused(e.to_string(), vec![]))?;
        let sheet = profile.sheet(&progress.stage(0.8, 1.0))?.drawn_as(Some(Drawn::from(bytes)));
        let done = format!("drew {}: {}", count(seen.curves, "curve", "curves"), told(&seen));
        let (notices, left) = (notices(&profile, &seen), unlisted(&seen));
        let more = vec![Made::plain(sheet, self.called.as_deref().unwrap_or("Profile"))];
        Ok(Outcome { more, notices, left, ..Outcome::of(mesh.clone(), done) })
    }
}

/// The frame of a plane, on a part as it is now; its x as asked for, else so that y is up as one sees it.
pub(super) fn frame_on(plane: &Plane, right: Option<Xyz>, mesh: Option<&Mesh>) -> Result<PlaneFrame, TradeError> {
    let frame = match mesh {
        Some(mesh) => plane.on(mesh)?.frame()?,
        None => plane.frame()?,
    };
    Ok(match right {
        Some(right) => frame.along(Point::from_array(right)),
        None => PlaneFrame::upright(frame.origin, frame.normal).unwrap_or(frame),
    })
}

/// What went wrong with a body that is made in space, not in the plane of a profile.
pub(super) fn body_refused(e: BodyError, places: Vec<Point>) -> TradeError {
    match e {
        BodyError::Refused { why, .. } => TradeError::refused(why, places),
        BodyError::Cancelled(c) => c.into(),
        BodyError::Mesh(m) => m.into(),
    }
}

pub(super) fn network_refused(e: NetworkError) -> TradeError {
    match e {
        NetworkError::Cancelled(c) => c.into(),
        NetworkError::TooMany => TradeError::refused(e.to_string(), vec![]),
    }
}

pub(super) fn drawing_refused(e: ChangeError) -> TradeError {
    match e {
        ChangeError::Network(e) => network_refused(e),
        ChangeError::Quarrel(Quarrel { holds }) => {
            let named = holds.join(", ");
            TradeError::refused(
                format!("as the lines lie, these quarrel: {named}; let go of one, or change its figure"),
                vec![],
            )
        }
        e => TradeError::refused(e.to_string(), vec![]),
    }
}

/// Its state in words: "closed: 5 regions, 1 240 mm²" or "open: 2 ends, 0.02 mm apart".
pub(super) fn told(seen: &Look) -> String {
    let area: f64 = seen.regions.iter().filter(|r| r.depth.is_multiple_of(2)).map(|r| r.area).sum();
    let regions = format!("{}, {} mm²", count(seen.regions.len(), "region", "regions"), figure(area));
    if seen.ends.is_empty() {
        return format!("closed: {regions}");
    }
    let gap = seen.ends.iter().filter_map(|e| e.nearest).map(|n| n.apart).fold(f64::INFINITY, f64::min);
    let ends = count(seen.ends.len(), "end", "ends");
    let apart = if gap.is_finite() { format!(", {} apart", millimetres(gap)) } else { String::new() };
    if seen.regions.is_empty() { format!("open: {ends}{apart}") } else { format!("open: {ends}{apart}; {regions}") }
}

/// More of a kind are not listed one by one.
const MOST: usize = 10;

/// What of a kind is more than is listed, so that it is not unsaid.
fn unlisted(seen: &Look) -> Vec<String> {
    let kinds = [
        (seen.ends.len(), "free ends"),
        (seen.doubles.len(), "stretches that lie on another line"),
        (seen.specks.len(), "specks"),
    ];
    kinds
        .into_iter()
        .filter(|(n, _)| *n > MOST)
        .map(|(n, what)| format!("{n} {what}; the first {MOST} are listed"))
        .collect()
}

/// What is not as it should be, with where.
fn notices(profile: &Profile, seen: &Look) -> Vec<Notice> {
    let at = |p: [f64; 2], radius: f64| Place { centre: profile.place(Flat::from(p)).to_array(), radius };
    let small = seen.size[0].hypot(seen.size[1]) * 0.01;
    let mut notices = Vec::new();
    for (n, end) in seen.ends.iter().enumerate().take(MOST) {
        match end.nearest {
            Some(near) if seen.gaps().any(|(_, second, _)| second == n) && near.end < n => {}
            Some(NearEnd { end: other, apart: gap }) => {
                let text = format!("lines {} and {} end {} apart", end.line, seen.ends[other].line, millimetres(gap));
                notices.push(Notice { text, place: at(end.at, gap.max(small)) });
            }
            None => notices.push(Notice { text: format!("line {} ends freely", end.line), place: at(end.at, small) }),
        }
    }
    for double in seen.doubles.iter().take(MOST) {
        let length = millimetres(double.length);
        let text = format!("line {} lies on line {} for {length}", double.line, double.on);
        notices.push(Notice { text, place: at(double.at, double.length * 0.5) });
    }
    for speck in seen.specks.iter().take(MOST) {
        let text = format!("line {} is a speck of {}", speck.line, millimetres(speck.length));
        notices.push(Notice { text, place: at(speck.at, small) });
    }
    notices
}
