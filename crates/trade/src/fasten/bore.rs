//! `fasten.bore`: bores of one form at any number of places, threaded if asked.

use nimbet_kernel::measure::measure;
use nimbet_kernel::{Aabb, Mesh, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};

use super::bore_cut::Cut;
use super::bore_form::{BoreForm, Width};
use super::bore_left::notice;
use super::cutter::{WALL, placed};
use super::lines::Lines;
use super::marks::ThreadMark;
use super::places::{BorePlace, Places, Seat, Seating};
use super::reach::{Found, Reach, span};
use super::thread::Gender;
use super::{fine, thread};
use crate::budget::Extent;
use crate::examine::{About, FacePick};
use crate::parameter::{Direction, Distance, Length, LengthOrNone};
use crate::solids::{arranged, whole_body};
use crate::tool::{Begin, Cure, Entry, Given, Needs, Tool};
use crate::wall::Notice;
use crate::words::{Xyz, count, millimetres, volume_of, xyz};
use crate::{Outcome, TradeError};

/// Parameters of `fasten.bore`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Bore {
    /// Where.
    pub places: Places,
    /// The face they are in; they follow it when it moves.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub face: Option<FacePick>,
    /// Which way into the material; square to the surface when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Direction>")]
    pub along: Option<Xyz>,
    /// The form.
    pub form: BoreForm,
    /// How far they go.
    #[serde(default)]
    pub reach: Reach,
    /// What the process needs added to the diameter, mm; threads have an allowance of their own.
    #[serde(default, skip_serializing_if = "is_nought")]
    #[schemars(with = "Distance")]
    pub allowance: f64,
    /// The farthest their round walls may be from true, mm.
    #[serde(default = "default_chord")]
    #[schemars(title = "Chord tolerance", with = "Length")]
    pub chord: f64,
    /// Where less than this is left round a bore it is told, mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<LengthOrNone>")]
    pub least_wall: Option<f64>,
}

/// Where the bores of a step are. Lengths in mm.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct BoreSeats {
    /// Those that meet the part.
    pub seats: Vec<BoreSeat>,
    /// Places that meet nothing.
    pub missed: Vec<Xyz>,
}

/// Where a bore is.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct BoreSeat {
    /// Its number among the places, from 1.
    pub number: usize,
    /// Its mouth.
    pub at: Xyz,
    /// Into the material, of unit length.
    pub way: Xyz,
}

fn is_nought(x: &f64) -> bool {
    *x == 0.0
}

pub(super) fn default_chord() -> f64 {
    0.01
}

/// More notices than this nobody reads one by one.
const MOST_NOTICES: usize = 30;
/// A bore is no wider than so many times its part.
const WIDEST: f64 = 100.0;
/// Pitches a thread stays off the bottom of a blind bore.
pub(super) const OFF_BOTTOM: f64 = 2.0;

/// Bores of a form to begin with.
fn bored(b: &Begin<'_>, form: Value, allowance: f64) -> Value {
    json!({
        "places": { "points": [] }, "face": null, "form": form, "reach": "all", "allowance": allowance, "chord": fine(b),
        "least_wall": b.least_wall,
    })
}

impl Tool for Bore {
    const KIND: &'static str = "fasten.bore";
    const WHAT: &'static str = "Bores of one form at any number of places.";
    const ENTRIES: &'static [Entry] = &[
        Entry {
            key: "thread_bores",
            name: "Threaded bores",
            hint: "Bore, lead-in, thread and run-out at any number of places",
            group: "Bores",
            words: &["tap", "tapped hole", "screw hole", "nut"],
            needs: Needs::Sealed,
            mark: "/form/threaded",
            start: |b| bored(b, json!({ "threaded": { "thread": thread(b), "marked": true } }), 0.0),
        },
        Entry {
            key: "bores",
            name: "Bores",
            hint: "Plain, countersunk, for screws, inserts, slots and openings, many at once",
            group: "Bores",
            words: &["hole", "drill", "counterbore", "countersink", "slot", "opening", "insert"],
            needs: Needs::Sealed,
            mark: "",
            start: |b| bored(b, json!({ "plain": { "width": 5 } }), b.added[0]),
        },
    ];

    fn title(&self) -> String {
        let what = match &self.form {
            BoreForm::Plain { .. } => "Bore".into(),
            BoreForm::Countersunk { .. } => "Countersink".into(),
            BoreForm::Counterbored { .. } => "Counterbore".into(),
            BoreForm::Spotfaced { .. } => "Spot face".into(),
            BoreForm::Tapped { size } => format!("Bore to tap {size}"),
            BoreForm::Threaded(t) => format!("Thread {}", t.thread.name()),
            BoreForm::Insert { screw, .. } => format!("Pocket for an {screw} insert"),
            BoreForm::Teardrop { .. } => "Teardrop bore".into(),
            BoreForm::Slot { .. } => "Slot".into(),
            BoreForm::Opening { .. } => "Opening".into(),
        };
        match self.places.how_many() {
            1 => what,
            n => format!("{what}, {n} places"),
        }
    }

    fn makes(&self, parts: &[Extent]) -> f64 {
        let each = self.cut(None).map_or(0.0, |cut| cut.triangles(self.chord, parts[0].diagonal()));
        parts.iter().map(|p| p.triangles).sum::<f64>() + each * self.places.how_many() as f64
    }

    fn remedies(about: &About) -> Vec<Cure> {
        let About::Undrained { at, drain } = *about else { return vec![] };
        let bore = Self {
            places: Places::Points(vec![BorePlace::At(at)]),
            face: None,
            along: Some([0.0, 0.0, 1.0]),
            form: BoreForm::Plain { width: Width::Diameter(drain) },
            reach: Reach::Wall,
            allowance: 0.0,
            chord: (drain * 0.005).min(0.02),
            least_wall: None,
        };
        vec![Cure::new(0, format!("Drain it from below, bore of {}", millimetres(drain)), bore)]
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let sealed = given.sealed();
        let lines = Lines::new(mesh);
        let seating = Seating { places: &self.places, face: self.face.as_ref(), along: self.along };
        let (seats, missed) = seating.find(mesh, &lines)?;
        let reach = self.found(mesh, &lines)?;
        progress.report(0.05, "placing the bores")?;
        let across = Aabb::of(mesh.points().iter().copied()).diagonal();
        let mut outcome = Outcome::of(mesh.clone(), String::new());
        outcome.done.clear();
        let mut told: Vec<(Notice, bool)> =
            missed.iter().map(|m| (notice(format!("place {} meets nothing", m.number), m.at, 1.0), true)).collect();
        let mut cutters = Vec::new();
        let mut drilled: Vec<(Seat, f64, [Point; 2])> = Vec::new();
        let mut marks = Vec::new();
        for seat in seats {
            progress.check()?;
            let cut = self.cut(seat.diameter)?;
            let widest = cut.widest();
            if widest > across * WIDEST {
                let why = format!("{} is far wider than the part", millimetres(widest * 2.0));
                return Err(TradeError::refused(why, vec![seat.mouth]));
            }
            let Some(span) = span(&lines, &seat, cut.mouth(), cut.radius(), reach) else {
                told.push((
                    notice(format!("place {} does not reach that face", seat.number), seat.mouth, widest),
                    true,
                ));
                continue;
            };
            let (body, mark) = self.body(&cut, &span)?;
            let across = match &cut {
                Cut::Drawn { across, .. } => *across,
                _ => None,
            };
            cutters.push(placed(body, seat.mouth, seat.way, across)?);
            if let Some(length) = mark {
                marks.push((cutters.len(), seat.mouth, seat.way, length));
            }
            told.extend(self.left(&lines, &seat, &cut, &span).map(|n| (n, false)));
            drilled.push((seat.clone(), cut.radius(), [seat.mouth, seat.mouth + seat.way * span.end]));
        }
        told.extend(self.between(&drilled).into_iter().map(|n| (n, false)));
        if cutters.is_empty() {
            let places = missed.iter().map(|m| m.at).collect();
            return Err(TradeError::refused("none of the places meets the part", places));
        }
        let inputs: Vec<&Mesh> = std::iter::once(mesh).chain(&cutters).collect();
        let all = arranged(&inputs, sealed, &|_| "the part".into(), &progress.stage(0.1, 0.85))?;
        let made = whole_body(&all, |w| w[0] > 0 && w[1..].iter().all(|w| *w <= 0), &progress.stage(0.85, 1.0))?;
        if made.mesh.triangles().is_empty() {
            return Err(TradeError::refused("nothing would be left of the part", vec![]));
        }
        let away = measure(mesh).volume - measure(&made.mesh).volume;
        outcome.mesh = made.mesh;
        outcome.done.push(format!("{}: took {} away", self.words(cutters.len()), volume_of(away)));
        if let BoreForm::Threaded(t) = &self.form {
            outcome.threads = marks
                .into_iter()
                .map(|(input, at, way, length)| {
                    let face = made.begin[input] + WALL;
                    ThreadMark::new(&t.thread, Gender::Internal, face, [at, way], length, !t.marked)
                })
                .collect::<Result<_, _>>()?;
            if t.marked {
                outcome.done.push("threads are marked, and cut at release; the volume is without them".into());
            }
        }
        // What stops a bore is left over; what is worth knowing is a notice.
        outcome.left = told.iter().filter(|t| t.1).map(|t| t.0.text.clone()).collect();
        outcome.notices = told.into_iter().map(|t| t.0).take(MOST_NOTICES).collect();
        Ok(outcome)
    }

    fn marked(&mut self) -> Option<&mut bool> {
        match &mut self.form {
            BoreForm::Threaded(threaded) => Some(&mut threaded.marked),
            _ => None,
        }
    }
}

impl Bore {
    /// Where the bores are on a part, and which way they go; without making them.
    ///
    /// # Errors
    /// [`TradeError::Refused`] where the face is gone, or figures of the layout cannot be so.
    pub fn seats(&self, mesh: &Mesh) -> Result<BoreSeats, TradeError> {
        let seating = Seating { places: &self.places, face: self.face.as_ref(), along: self.along };
        let (seats, missed) = seating.find(mesh, &Lines::new(mesh))?;
        let seats = seats.iter().map(|s| BoreSeat { number: s.number, at: xyz(s.mouth), way: xyz(s.way) });
        Ok(BoreSeats { seats: seats.collect(), missed: missed.iter().map(|m| xyz(m.at)).collect() })
    }

    fn words(&self, n: usize) -> String {
        match &self.form {
            BoreForm::Threaded(t) => format!("{} of {}", count(n, "threaded bore", "threaded bores"), t.thread.name()),
            BoreForm::Tapped { size } => format!("{} to be tapped {size}", count(n, "bore", "bores")),
            BoreForm::Insert { screw, .. } => format!("{} for {screw} inserts", count(n, "pocket", "pockets")),
            BoreForm::Slot { .. } => count(n, "slot", "slots"),
            BoreForm::Opening { .. } => count(n, "opening", "openings"),
            _ => count(n, "bore", "bores"),
        }
    }

    fn found(&self, mesh: &Mesh, lines: &Lines) -> Result<Found, TradeError> {
        Ok(match &self.reach {
            Reach::All => Found::All,
            Reach::Wall => Found::Wall,
            Reach::Depth(d) => Found::Depth(*d),
            Reach::Face(pick) => Found::Face(pick.find(mesh, &lines.bvh)?),
        })
    }
}
