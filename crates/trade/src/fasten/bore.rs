//! `fasten.bore`: bores of one form at any number of places, threaded if asked.

use nimbet_kernel::measure::measure;
use nimbet_kernel::{Aabb, Mesh, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};

use super::bore_form::{BoreForm, Width};
use super::cutter::{HEAD, LEAD_IN, Threaded, Turning, WALL, lathe, placed, prism, slot, teardrop};
use super::fittings::{POCKETS, fitting, lead_in};
use super::lines::Lines;
use super::marks::ThreadMark;
use super::places::{Places, Seat, Seating};
use super::reach::{Found, Reach, Span, apart, left_round, span};
use super::sizes::size;
use super::thread::{Form, Gender, segments};
use super::{fine, thread};
use crate::examine::{FacePick, Place};
use crate::shape::{arranged, whole_body};
use crate::tool::{Begin, Entry, Given, Needs, Tool};
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
    pub along: Option<Xyz>,
    /// The form.
    pub form: BoreForm,
    /// How far they go.
    #[serde(default)]
    pub reach: Reach,
    /// What the process needs added to the diameter, mm; threads have an allowance of their own.
    #[serde(default, skip_serializing_if = "is_nought")]
    pub allowance: f64,
    /// The farthest their round walls may be from true, mm.
    #[serde(default = "default_chord")]
    pub chord: f64,
    /// Where less than this is left round a bore it is told, mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
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

/// A form with its figures.
enum Cut {
    Turned { radius: f64, head: Option<Head> },
    Drawn { outline: Vec<[f64; 2]>, radius: f64, across: Option<Point> },
    Thread { form: Box<Form>, lead_in: Option<f64> },
}

/// What is wider at the mouth.
#[derive(Clone, Copy)]
struct Head {
    radius: f64,
    depth: f64,
    /// How deep its slope goes beyond that; nought for a shoulder.
    slope: f64,
    /// Measured from the deepest point of the mouth.
    from_deepest: bool,
}

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
            words: &["tap", "tapped hole", "screw hole", "nut"],
            needs: Needs::Sealed,
            mark: "/form/threaded",
            start: |b| bored(b, json!({ "threaded": { "thread": thread(b), "marked": true } }), 0.0),
        },
        Entry {
            key: "bores",
            name: "Bores",
            hint: "Plain, countersunk, for screws, inserts, slots and openings, many at once",
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

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let sealed = given.sealed();
        if !(self.chord > 0.0 && self.chord.is_finite()) {
            return Err(TradeError::refused("the chord tolerance must be a length above 0 mm", vec![]));
        }
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
            Reach::Depth(d) if *d > 0.0 && d.is_finite() => Found::Depth(*d),
            Reach::Depth(_) => return Err(TradeError::refused("the depth must be a length above 0 mm", vec![])),
            Reach::Face(pick) => Found::Face(pick.find(mesh, &lines.bvh)?),
        })
    }

    /// The form with its figures, for a bore of a diameter of its own if it has one.
    fn cut(&self, own: Option<f64>) -> Result<Cut, TradeError> {
        let refused = |why: String| TradeError::refused(why, vec![]);
        let allow = self.allowance;
        let positive = |what: &str, x: f64| {
            if x > 0.0 && x.is_finite() {
                Ok(x)
            } else {
                Err(refused(format!("the {what} must be a length above 0 mm")))
            }
        };
        let screw_of = |width: &Width| match width {
            Width::For(f) => fitting(&f.screw),
            Width::Diameter(_) => None,
        };
        let radius = |width: &Width| -> Result<f64, TradeError> {
            let d = match (own, width) {
                (Some(own), _) => own,
                (None, Width::Diameter(d)) => *d,
                (None, Width::For(f)) => {
                    let row = fitting(&f.screw)
                        .ok_or_else(|| refused(format!("there is no clearance bore for “{}” in the table", f.screw)))?;
                    row.clearance[f.class as usize]
                }
            };
            Ok(positive("diameter", positive("diameter", d)? + allow)? * 0.5)
        };
        let wider = |given: Option<f64>, by_screw: Option<f64>, bore: f64, what: &str| -> Result<f64, TradeError> {
            let d = given.or(by_screw).ok_or_else(|| refused(format!("say how wide the {what} is")))?;
            if d * 0.5 > bore { Ok(d * 0.5) } else { Err(refused(format!("the {what} must be wider than the bore"))) }
        };
        let turned = |radius: f64, head: Option<Head>| Ok(Cut::Turned { radius, head });
        match &self.form {
            BoreForm::Plain { width } => turned(radius(width)?, None),
            BoreForm::Countersunk { width, head, angle } => {
                let r = radius(width)?;
                let head = wider(*head, screw_of(width).map(|f| f.countersink), r, "countersink")?;
                if !(30.0..=150.0).contains(angle) {
                    return Err(refused("a countersink has 30 to 150 degrees between its sides".into()));
                }
                let slope = (head - r) / (angle * 0.5).to_radians().tan();
                turned(r, Some(Head { radius: head, depth: 0.0, slope, from_deepest: false }))
            }
            BoreForm::Counterbored { width, head, depth } => {
                let r = radius(width)?;
                let row = screw_of(width);
                let head = wider(*head, row.map(|f| f.counterbore), r, "counterbore")?;
                let depth = depth.or(row.map(|f| f.counterbore_depth));
                let depth = positive("depth of the counterbore", depth.unwrap_or(0.0))?;
                turned(r, Some(Head { radius: head, depth, slope: 0.0, from_deepest: false }))
            }
            BoreForm::Spotfaced { width, head, depth } => {
                let r = radius(width)?;
                let head = wider(*head, screw_of(width).map(|f| f.spot_face), r, "spot face")?;
                if !(*depth >= 0.0 && depth.is_finite()) {
                    return Err(refused("the depth of the spot face must be a length of 0 mm or more".into()));
                }
                turned(r, Some(Head { radius: head, depth: *depth, slope: 0.0, from_deepest: true }))
            }
            BoreForm::Tapped { size: name } => {
                let s = size(name).ok_or_else(|| refused(format!("there is no thread “{name}” in the tables")))?;
                turned((s.tap_drill + allow) * 0.5, None)
            }
            BoreForm::Insert { screw, diameter, depth } => {
                let row = fitting(screw).and_then(|f| POCKETS.iter().find(|p| p.screw == f.screw));
                let row = row.ok_or_else(|| refused(format!("there is no pocket for “{screw}” in the table")))?;
                let r = positive("diameter", diameter.unwrap_or(row.diameter) + allow)? * 0.5;
                let mouth = r * row.mouth / row.diameter;
                positive("depth of the pocket", depth.unwrap_or(row.depth))?;
                // A slope of 30 degrees leads the insert in.
                turned(
                    r,
                    Some(Head { radius: mouth, depth: 0.0, slope: (mouth - r) * 3f64.sqrt(), from_deepest: false }),
                )
            }
            BoreForm::Teardrop { width, up } => {
                let r = radius(width)?;
                // The outline's second direction goes up, so its first to the side.
                let up = Point::from_array(*up);
                Ok(Cut::Drawn {
                    outline: teardrop(r, segments(r, self.chord)?),
                    radius: r * 2f64.sqrt(),
                    across: Some(up),
                })
            }
            BoreForm::Slot { width, length, way } => {
                let r = radius(width)?;
                let length = positive("length of the slot", *length)?;
                let outline = slot(r, length, segments(r, self.chord)?);
                Ok(Cut::Drawn { outline, radius: r + length * 0.5, across: Some(Point::from_array(*way)) })
            }
            BoreForm::Opening { outline } => {
                let mut outline = outline.clone();
                if outline.len() < 3 || outline.iter().flatten().any(|x| !x.is_finite()) {
                    return Err(refused("an outline needs three corners or more".into()));
                }
                let area = nimbet_kernel::outline::signed_area(&outline);
                if area == 0.0 {
                    return Err(refused("the outline has no area".into()));
                }
                if area < 0.0 {
                    outline.reverse();
                }
                let radius = outline.iter().map(|p| p[0].hypot(p[1])).fold(0.0, f64::max);
                Ok(Cut::Drawn { outline, radius, across: None })
            }
            BoreForm::Threaded(t) => {
                if own.is_some() {
                    return Err(refused("places of threaded bores cannot have diameters of their own".into()));
                }
                let form = t.thread.form()?;
                let outer = form.major * 0.5 + t.thread.allowance.radial;
                let lead_in = match t.lead_in {
                    Some(0.0) => None,
                    Some(d) if d * 0.5 > outer => Some(d * 0.5),
                    Some(_) => {
                        return Err(refused(format!(
                            "the lead-in must be wider than the thread, {}",
                            millimetres(outer * 2.0)
                        )));
                    }
                    None => Some(outer + lead_in(form.major) * 0.5),
                };
                Ok(Cut::Thread { form: Box::new(form), lead_in })
            }
        }
    }

    /// The body that is taken away, and how long its thread is.
    fn body(&self, cut: &Cut, span: &Span) -> Result<(Mesh, Option<f64>), TradeError> {
        match cut {
            Cut::Turned { radius, head } => {
                let end = match (&self.form, span.far) {
                    (BoreForm::Insert { depth, screw, .. }, _) => depth
                        .or_else(|| {
                            POCKETS.iter().find(|p| fitting(screw).is_some_and(|f| f.screw == p.screw)).map(|p| p.depth)
                        })
                        .unwrap_or(span.end)
                        .min(span.end),
                    _ => span.end,
                };
                let mut profile: Vec<Turning> = vec![];
                let segments = match head {
                    Some(h) => {
                        let foot = h.depth + if h.from_deepest { span.deepest } else { 0.0 };
                        if foot + h.slope >= end {
                            return Err(TradeError::refused("the head goes deeper than the bore", vec![]));
                        }
                        profile.push((h.radius, span.top, HEAD));
                        if h.slope > 0.0 {
                            profile.extend([(h.radius, foot, LEAD_IN), (*radius, foot + h.slope, WALL)]);
                        } else {
                            profile.extend([(h.radius, foot, LEAD_IN), (*radius, foot, WALL)]);
                        }
                        segments(h.radius, self.chord)?
                    }
                    None => {
                        profile.push((*radius, span.top, WALL));
                        segments(*radius, self.chord)?
                    }
                };
                profile.push((*radius, end, WALL));
                Ok((lathe(&profile, segments)?, None))
            }
            Cut::Drawn { outline, .. } => Ok((prism(outline, span.top, span.end)?, None)),
            Cut::Thread { form, lead_in } => {
                let BoreForm::Threaded(t) = &self.form else {
                    return Err(TradeError::refused("no thread", vec![]));
                };
                let full = if span.far.is_some() { span.end } else { span.end - OFF_BOTTOM * form.pitch };
                let thread = match t.threaded {
                    Some(depth) if depth <= 0.0 || depth.is_nan() => {
                        return Err(TradeError::refused("the threaded depth must be a length above 0 mm", vec![]));
                    }
                    Some(depth) if span.far.is_none_or(|far| depth < far) => depth.min(span.end),
                    _ => full,
                };
                if thread <= form.pitch {
                    let least = (OFF_BOTTOM + 1.0) * form.pitch;
                    let why = format!("a blind bore for {} must be deeper than {}", form.name, millimetres(least));
                    return Err(TradeError::refused(why, vec![]));
                }
                let far = span.far.filter(|_| thread >= span.end).zip(*lead_in);
                let body = Threaded {
                    form,
                    top: span.top,
                    thread,
                    end: span.end,
                    lead_in: *lead_in,
                    far,
                    segments: segments(form.major * 0.5, self.chord)?,
                    cut: !t.marked,
                };
                Ok((body.body()?, Some(thread.min(span.far.unwrap_or(thread)))))
            }
        }
    }

    /// What is too thin round a bore or under it, or breaks out.
    fn left(&self, lines: &Lines, seat: &Seat, cut: &Cut, span: &Span) -> Option<Notice> {
        let least = self.least_wall.unwrap_or(0.0);
        let n = seat.number;
        let reach = (span.within[1] > span.within[0]).then_some(span.within);
        // Of a drawn outline only its round part is known here; of the rest the wall's findings tell.
        let along = |radius: f64, within: [f64; 2]| left_round(lines, seat, radius, within, least);
        let round = match cut {
            Cut::Drawn { .. } => None,
            _ => reach.and_then(|within| along(cut.radius(), within)),
        };
        // Round a mouth that slopes there is no rim all round to measure.
        let head = match cut {
            _ if span.deepest > 1e-3 => None,
            Cut::Turned { head: Some(h), .. } => along(h.radius, [0.0, h.depth.max(h.slope * 0.1)]),
            Cut::Thread { lead_in: Some(mouth), form } => along(*mouth, [0.0, form.pitch * 0.1]),
            _ => None,
        };
        let round = [round, head].into_iter().flatten().min_by(|a, b| a.0.total_cmp(&b.0));
        if reach.is_none() && span.far.is_some() {
            return Some(notice(format!("bore {n} breaks out at the side"), seat.mouth, cut.radius()));
        }
        if let Some((left, at)) = round {
            if left < -1e-6 {
                return Some(notice(format!("bore {n} breaks out at the side"), at, cut.radius()));
            }
            if left < least {
                let text = format!(
                    "bore {n} leaves {} beside it, the process needs {}",
                    millimetres(left),
                    millimetres(least)
                );
                return Some(notice(text, at, cut.radius()));
            }
        }
        let floor = span.floor?;
        if floor < 0.0 {
            return Some(notice(
                format!("bore {n} breaks out at its bottom"),
                seat.mouth + seat.way * span.end,
                cut.radius(),
            ));
        }
        (floor < least).then(|| {
            let text =
                format!("bore {n} leaves {} under it, the process needs {}", millimetres(floor), millimetres(least));
            notice(text, seat.mouth + seat.way * span.end, cut.radius())
        })
    }

    /// Bores that come too near to each other.
    fn between(&self, drilled: &[(Seat, f64, [Point; 2])]) -> Vec<Notice> {
        let least = self.least_wall.unwrap_or(0.0);
        let mut told = Vec::new();
        for (n, (seat, radius, line)) in drilled.iter().enumerate() {
            for (other, far, across) in &drilled[n + 1..] {
                if (seat.mouth - other.mouth).length()
                    > (line[1] - line[0]).length() + (across[1] - across[0]).length() + radius + far + least
                {
                    continue;
                }
                let (d, at) = apart(*line, *across);
                let left = d - radius - far;
                if left >= least {
                    continue;
                }
                let (a, b) = (seat.number, other.number);
                told.push(match left < 0.0 {
                    true => notice(format!("bores {a} and {b} run into each other"), at, *radius),
                    false => notice(
                        format!(
                            "bores {a} and {b} leave {} between them, the process needs {}",
                            millimetres(left),
                            millimetres(least)
                        ),
                        at,
                        *radius,
                    ),
                });
            }
        }
        told
    }
}

impl Cut {
    /// The radius at the mouth.
    fn mouth(&self) -> f64 {
        match self {
            Self::Turned { radius, head } => head.map_or(*radius, |h| h.radius),
            Self::Drawn { radius, .. } => *radius,
            Self::Thread { form, lead_in } => lead_in.unwrap_or(form.major * 0.5),
        }
    }

    /// The radius below.
    fn radius(&self) -> f64 {
        match self {
            Self::Turned { radius, .. } | Self::Drawn { radius, .. } => *radius,
            Self::Thread { form, .. } => form.major * 0.5 + form.play(),
        }
    }

    fn widest(&self) -> f64 {
        self.mouth().max(self.radius())
    }
}

fn notice(text: String, at: Point, radius: f64) -> Notice {
    Notice { text, place: Place { centre: at.to_array(), radius } }
}
