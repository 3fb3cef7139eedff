//! `fasten.thread`: threads in bores and on pins that are there already.

use std::collections::BTreeMap;

use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::measure::measure;
use nimbet_kernel::shapes::turned;
use nimbet_kernel::{FaceId, Mesh, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::bore::{OFF_BOTTOM, default_chord};
use super::cutter::{FAR_LEAD_IN, HEAD, LEAD_IN, Turning, WALL, joined, lathe, placed, threads};
use super::fittings::lead_in;
use super::lines::Lines;
use super::marks::ThreadMark;
use super::sizes::{sizes_for_bore, sizes_for_pin};
use super::thread::{Gender, Thread, ThreadForm, rod, segments};
use super::{fine, thread};
use crate::budget::Extent;
use crate::examine::{FacePick, FaceSurface, Place, face_surface};
use crate::parameter::Length;
use crate::solids::{arranged, body};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::wall::Notice;
use crate::words::{count, figure, millimetres, volume_of};
use crate::{Outcome, TradeError};

/// Parameters of `fasten.thread`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ThreadFaces {
    /// Walls of bores, which get internal threads, and of pins, which get external ones.
    #[schemars(extend("least" = 1, "hint" = "Click the walls of bores, or pins."))]
    pub faces: Vec<FacePick>,
    /// The thread.
    pub thread: Thread,
    /// How much of the face, from its open end, mm, or from the one nearer to the pick where both or none are open; all of it when
    /// absent, but two pitches off a blind bottom and one off a shoulder.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Length>", extend("empty" = "all of it"))]
    pub length: Option<f64>,
    /// Begins at the other end, where both or none are open.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "From the other end")]
    pub other_end: bool,
    /// Whether open ends get lead-ins.
    #[serde(default = "yes")]
    #[schemars(title = "Lead-ins at open ends")]
    pub lead_in: bool,
    /// Whether a groove before the shoulder of a pin lets its counterpart run up to it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "A groove before the shoulder of a pin")]
    pub groove: bool,
    /// Whether it is only marked, to be cut at release.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Only marked here; cut at release")]
    pub marked: bool,
    /// The farthest its round walls may be from true, mm.
    #[serde(default = "default_chord")]
    #[schemars(title = "Chord tolerance", with = "Length", extend("folded" = true))]
    pub chord: f64,
}

fn yes() -> bool {
    true
}

/// Of its depth, what a thread should hold by; less is told.
const GOOD_HOLD: f64 = 0.6;
/// Less than this is no thread.
const LEAST_HOLD: f64 = 0.2;

/// A cylinder of the part, from its beginning.
struct Round {
    at: Point,
    way: Point,
    length: f64,
    /// Least and greatest distance of its facets from the axis.
    near: f64,
    far: f64,
    gender: Gender,
    /// Whether material stands in the way at its begin and end.
    stops: [bool; 2],
}

impl Tool for ThreadFaces {
    const KIND: &'static str = "fasten.thread";
    const WHAT: &'static str = "Threads in bores and on pins that are there.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "thread",
        name: "Thread a wall",
        hint: "A bore or a pin that is there gets its thread",
        group: "Threads",
        words: &["tap", "die", "screw", "helix"],
        needs: Needs::Sealed,
        mark: "",
        start: |b| {
            json!({
                "faces": [], "thread": thread(b), "lead_in": true, "marked": true, "chord": fine(b),
            })
        },
    }];

    fn title(&self) -> String {
        let name = self.thread.name();
        match self.faces.len() {
            1 => format!("Thread {name}"),
            n => format!("Thread {name}, {n} faces"),
        }
    }

    fn makes(&self, parts: &[Extent]) -> f64 {
        let long = self.length.unwrap_or(parts[0].diagonal());
        let each = self.thread.form().map_or(0.0, |form| form.triangles(self.chord, long));
        parts[0].triangles + each * self.faces.len() as f64
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let sealed = given.sealed();
        let form = self.thread.form()?;
        let lines = Lines::new(mesh);
        let mut outcome = Outcome::of(mesh.clone(), String::new());
        outcome.done.clear();
        let mut cutters = Vec::new();
        for (face, picked) in self.picked(mesh)? {
            let round = round(mesh, &lines, (face, picked), form.pitch, self.other_end)?;
            outcome.notices.extend(self.holds(&form, &round)?);
            let [begin, end] = self.ends(&form, &round)?;
            if let Some(body) = self.body(&form, &round, [begin, end])? {
                cutters.push(placed(body, round.at, round.way, None)?);
            }
            let line = [round.at + round.way * begin.max(0.0), round.way];
            let length = end.min(round.length) - begin.max(0.0);
            outcome.threads.push(ThreadMark::new(&self.thread, round.gender, face.0, line, length, !self.marked)?);
        }
        if !cutters.is_empty() {
            let inputs: Vec<&Mesh> = std::iter::once(mesh).chain(&cutters).collect();
            let all = arranged(&inputs, sealed, &|_| "the part".into(), &progress.stage(0.1, 0.85))?;
            outcome.mesh = body(&all, |w| w[0] > 0 && w[1..].iter().all(|w| *w <= 0), &progress.stage(0.85, 1.0))?;
        }
        let away = measure(mesh).volume - measure(&outcome.mesh).volume;
        let what = count(outcome.threads.len(), "thread", "threads");
        outcome.done.push(match self.marked {
            true => format!("marked {what} of {}; cut at release, the volume is without", self.thread.name()),
            false => format!("cut {what} of {}: took {} away", self.thread.name(), volume_of(away)),
        });
        Ok(outcome)
    }

    fn marked(&mut self) -> Option<&mut bool> {
        Some(&mut self.marked)
    }
}

impl ThreadFaces {
    /// The faces, each once, with where it was picked.
    fn picked(&self, mesh: &Mesh) -> Result<BTreeMap<FaceId, Point>, TradeError> {
        if self.faces.is_empty() {
            return Err(TradeError::nothing("no face was picked"));
        }
        let bvh = triangle_bvh(mesh);
        self.faces.iter().rev().map(|pick| Ok((pick.find(mesh, &bvh)?, pick.place()))).collect()
    }

    /// Whether the face is of a diameter for this thread, and what is worth knowing of it.
    fn holds(&self, form: &ThreadForm, round: &Round) -> Result<Option<Notice>, TradeError> {
        let deep = form.depth();
        let (what, hold, near) = match round.gender {
            Gender::Internal => {
                ("bore", (form.major * 0.5 + form.play() - round.far) / deep, sizes_for_bore(round.far * 2.0, 0.1))
            }
            Gender::External => ("pin", (round.far - form.root()) / deep, sizes_for_pin(round.far * 2.0, 0.1)),
        };
        let measured = millimetres(round.far * 2.0);
        let too_thick = round.gender == Gender::External && round.far > form.major * 0.5 + form.pitch * 0.5;
        if hold < LEAST_HOLD || too_thick {
            let names: Vec<&str> = near.iter().map(|s| s.name.as_str()).take(6).collect();
            let fitting = match names.is_empty() {
                true => "no size of the tables fits it".into(),
                false => format!("{} would fit", names.join(", ")),
            };
            let why = format!("the {what} measures {measured}, which is not for {}; {fitting}", form.name);
            return Err(TradeError::refused(why, vec![round.at]));
        }
        Ok((hold < GOOD_HOLD).then(|| Notice {
            text: format!(
                "the {what} measures {measured}: {} holds by {} % of its depth",
                form.name,
                figure((hold * 100.0).round())
            ),
            place: Place { centre: round.at.to_array(), radius: round.far },
        }))
    }

    /// From where to where it is threaded, from the begin of the face; past open ends.
    fn ends(&self, form: &ThreadForm, round: &Round) -> Result<[f64; 2], TradeError> {
        let over = form.pitch * 0.6;
        let off = match round.gender {
            Gender::Internal => OFF_BOTTOM * form.pitch,
            Gender::External if self.groove => form.pitch * 0.5,
            Gender::External => form.pitch,
        };
        let begin = if round.stops[0] { off } else { -over };
        let whole = if round.stops[1] { round.length - off } else { round.length + over };
        let end = match self.length {
            Some(l) if l < round.length => l.min(whole),
            _ => whole,
        };
        if end - begin.max(0.0) < form.pitch {
            let why =
                format!("there is no room for a turn of {} on a face {} long", form.name, millimetres(round.length));
            return Err(TradeError::refused(why, vec![round.at]));
        }
        Ok([begin, end])
    }

    /// What is taken away; of a marked thread only its lead-ins and groove.
    fn body(&self, form: &ThreadForm, round: &Round, [begin, end]: [f64; 2]) -> Result<Option<Mesh>, TradeError> {
        let segments = segments(form.major * 0.5, self.chord)?;
        let over = form.pitch * 0.6;
        let open = [self.lead_in && !round.stops[0], self.lead_in && !round.stops[1] && end > round.length];
        let mut bodies = Vec::new();
        match round.gender {
            Gender::Internal => {
                let outer = form.major * 0.5 + form.play();
                let mouth = outer + lead_in(form.major) * 0.5;
                // Well within the wall, where nothing is left to cut.
                let inner = (round.near - form.pitch * 0.1).min(form.bore) * 0.7;
                let cone = |at: f64, sign: f64, face: u32| -> Result<Mesh, TradeError> {
                    let mut profile: Vec<Turning> = vec![
                        (mouth, at - sign * over, HEAD),
                        (mouth, at, face),
                        (inner, at + sign * (mouth - inner), WALL),
                    ];
                    if sign < 0.0 {
                        profile.reverse();
                        profile[0].2 = face;
                        profile[1].2 = HEAD;
                    }
                    lathe(&profile, segments)
                };
                if open[0] {
                    bodies.push(cone(0.0, 1.0, LEAD_IN)?);
                }
                if open[1] {
                    bodies.push(cone(round.length, -1.0, FAR_LEAD_IN)?);
                }
                if !self.marked {
                    // A narrower bore is opened to the thread's; of one as wide or wider only the grooves are cut.
                    let reach = (round.far > form.bore - form.pitch * 0.02).then_some(round.near - form.pitch * 0.1);
                    let screw = form.screw(Gender::Internal, segments, reach);
                    bodies.push(threads(rod(&screw, begin, end)?, screw.profile.len()));
                }
            }
            Gender::External => {
                let root = form.root();
                let outer = round.far.max(form.crest) + form.pitch * 0.15;
                let ring = |profile: &[(f64, f64)], face: u32| turned(profile, segments).regroup(|_| FaceId(face));
                let foot = outer - root;
                if open[0] {
                    bodies.push(ring(
                        &[(outer, -over), (outer, foot), (root, 0.0), (root, -over), (outer, -over)],
                        LEAD_IN,
                    ));
                }
                if open[1] {
                    let l = round.length;
                    let far = [(outer, l - foot), (outer, l + over), (root, l + over), (root, l), (outer, l - foot)];
                    bodies.push(ring(&far, FAR_LEAD_IN));
                }
                if self.groove && round.stops[1] {
                    let (low, r) = (round.length - OFF_BOTTOM * form.pitch, root - form.pitch * 0.05);
                    let high = round.length;
                    bodies.push(ring(&[(outer, low), (outer, high), (r, high), (r, low), (outer, low)], HEAD));
                }
                if !self.marked {
                    let trims = form.crest < round.near - form.pitch * 2e-3;
                    let reach = (!trims).then_some(round.far + form.pitch * 0.05);
                    let screw = form.screw(Gender::External, segments, reach);
                    let stretches = screw.profile.len() as u32;
                    let cut = screw.ring(outer, begin, end)?;
                    let face = |f: FaceId| if f.0 < stretches { f.0.min(LEAD_IN - 1) } else { HEAD };
                    let faces: Vec<FaceId> = cut.face_of().iter().map(|f| FaceId(face(*f))).collect();
                    bodies.push(cut.regroup(|t| faces[t]));
                }
            }
        }
        if bodies.is_empty() { Ok(None) } else { joined(&bodies).map(Some) }
    }
}

/// The cylinder a face is, from its open end, or from the end nearer to where it was picked.
fn round(
    mesh: &Mesh,
    lines: &Lines,
    (face, picked): (FaceId, Point),
    pitch: f64,
    other_end: bool,
) -> Result<Round, TradeError> {
    let members = || (0..mesh.triangles().len()).filter(|t| mesh.face_of()[*t] == face);
    let Some(FaceSurface::Cylinder { axis, centre, hollow, .. }) = face_surface(mesh, face) else {
        let at = members().next().map(|t| mesh.corners(t)[0]);
        return Err(TradeError::refused(
            "a thread needs a round wall: this face is no cylinder",
            at.into_iter().collect(),
        ));
    };
    let (axis, centre) = (Point::from_array(axis).normalize_or_zero(), Point::from_array(centre));
    let (mut low, mut high, mut near, mut far) = (f64::INFINITY, f64::NEG_INFINITY, f64::INFINITY, 0.0f64);
    for t in members() {
        for p in mesh.corners(t) {
            let along = (p - centre).dot(axis);
            (low, high) = (low.min(along), high.max(along));
            far = far.max((p - centre - axis * along).length());
        }
        let n = mesh.area_vector(t).normalize_or_zero();
        near = near.min((mesh.corners(t)[0] - centre).dot(n).abs());
    }
    let gender = if hollow { Gender::Internal } else { Gender::External };
    let (u, v) = axis.any_orthonormal_pair();
    // Beyond an end: on the axis of a bore, beside the ridges of a pin.
    let stands_in = |end: f64, way: f64| -> bool {
        let at = end + way * pitch * 0.05;
        let spots: Vec<Point> = match gender {
            Gender::Internal => vec![centre + u * (far * 0.13)],
            Gender::External => (0..8)
                .map(|k| f64::from(k) * std::f64::consts::TAU / 8.0 + 0.1)
                .map(|a| centre + (u * a.cos() + v * a.sin()) * (far + pitch * 0.1))
                .collect(),
        };
        spots.iter().any(|s| lines.through(*s, axis).iter().any(|w| w.enter < at && w.leave > at))
    };
    let stops = [stands_in(low, -1.0), stands_in(high, 1.0)];
    // From an open end into the material.
    let nearer_high = (picked - centre).dot(axis) > low.midpoint(high);
    let turn_round = if stops[0] == stops[1] { nearer_high != other_end } else { stops[0] };
    let (at, way, stops) = match turn_round {
        true => (centre + axis * high, -axis, [stops[1], stops[0]]),
        false => (centre + axis * low, axis, stops),
    };
    Ok(Round { at, way, length: high - low, near, far, gender, stops })
}
