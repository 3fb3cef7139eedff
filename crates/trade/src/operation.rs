//! Everything that can be done to a part, with its parameters, under one enum.

use crate::examine::{self, Examination, PartState};
use nimbet_kernel::touching::parted;
use nimbet_kernel::{Cancelled, Mesh, MeshError, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::fasten::{Bore, BoreForm, Plug, Rebore, Stud, ThreadFaces, ThreadMark};
use crate::figures::refuse_beyond_use;
use crate::seal::{
    AgreeWindings, Bridge, CloseGaps, CoverRim, CoverRuns, Drop, FillOutline, FindInside, GroupFaces, Join, LiftOut,
    MergeFaces, MergePoints, Plan, PlannedStep, PullApart, ReSkin, Smooth, Turn, TurnOutward, Wrap,
};
use crate::shape::{
    AddBody, Base, Brace, Chambers, Cutter, Difference, Hull, Intersection, Mirror, Place, Repeat, Saw, Union, Untangle,
};
use crate::wall::{Coat, Even, Grow, Hollow, Notice, OffsetSheet, Shell, Thicken};
use crate::weigh::{Fill, ScalePattern};

/// An operation on one part: its kind and parameters, as they stand in recipes and in the ledger.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "kind", deny_unknown_fields)]
pub enum Operation {
    /// Make corners that nearly coincide one.
    #[serde(rename = "seal.merge_points")]
    MergePoints(MergePoints),
    /// Join naked edges that face each other within a reach.
    #[serde(rename = "seal.close_gaps")]
    CloseGaps(CloseGaps),
    /// Close rims with new triangles.
    #[serde(rename = "seal.cover_rim")]
    CoverRim(CoverRim),
    /// Split a rim by chords and cover what lies between.
    #[serde(rename = "seal.cover_runs")]
    CoverRuns(CoverRuns),
    /// Join two rims or runs by a band.
    #[serde(rename = "seal.bridge")]
    Bridge(Bridge),
    /// Make a flat face from an outline.
    #[serde(rename = "seal.fill_outline")]
    FillOutline(FillOutline),
    /// Make neighbouring triangles agree about the outside.
    #[serde(rename = "seal.agree_windings")]
    AgreeWindings(AgreeWindings),
    /// Turn closed shells so that they face outward, voids inward.
    #[serde(rename = "seal.turn_outward")]
    TurnOutward(TurnOutward),
    /// Take away duplicates, degenerate triangles and specks.
    #[serde(rename = "seal.drop")]
    Drop(Drop),
    /// Take triangles out and leave a clean border.
    #[serde(rename = "seal.lift_out")]
    LiftOut(LiftOut),
    /// Take triangles out and cover the openings tangent to what is round them.
    #[serde(rename = "seal.re_skin")]
    ReSkin(ReSkin),
    /// Turn what is picked over.
    #[serde(rename = "seal.turn")]
    Turn(Turn),
    /// Even out bumps.
    #[serde(rename = "seal.smooth")]
    Smooth(Smooth),
    /// Group the triangles into faces anew.
    #[serde(rename = "seal.group_faces")]
    GroupFaces(GroupFaces),
    /// Make faces that lie on one surface one, with fewer triangles.
    #[serde(rename = "seal.merge_faces")]
    MergeFaces(MergeFaces),
    /// Make each shell or face a part of its own.
    #[serde(rename = "seal.pull_apart")]
    PullApart(PullApart),
    /// Make several parts one.
    #[serde(rename = "seal.join")]
    Join(Join),
    /// Make whatever comes in the border between inside and outside.
    #[serde(rename = "seal.find_inside")]
    FindInside(FindInside),
    /// Make a watertight skin round what is beyond repair.
    #[serde(rename = "seal.wrap")]
    Wrap(Wrap),
    /// Choose and apply remedies by rules until the part is a solid or nothing more can be done safely.
    #[serde(rename = "seal.plan")]
    Plan(Plan),
    /// Make several solids one.
    #[serde(rename = "shape.union")]
    Union(Union),
    /// Take solids away from a solid.
    #[serde(rename = "shape.difference")]
    Difference(Difference),
    /// Keep what solids have in common.
    #[serde(rename = "shape.intersection")]
    Intersection(Intersection),
    /// Make a part that crosses itself its outer boundary.
    #[serde(rename = "shape.untangle")]
    Untangle(Untangle),
    /// Cut a solid by a plane, a sheet or a line.
    #[serde(rename = "shape.saw")]
    Saw(Saw),
    /// Make parts of the spaces that parts and planes enclose.
    #[serde(rename = "shape.chambers")]
    Chambers(Chambers),
    /// Stretch a convex skin over parts.
    #[serde(rename = "shape.hull")]
    Hull(Hull),
    /// Move, turn and scale.
    #[serde(rename = "shape.place")]
    Place(Place),
    /// Mirror across a plane.
    #[serde(rename = "shape.mirror")]
    Mirror(Mirror),
    /// Copies in a row or a ring.
    #[serde(rename = "shape.repeat")]
    Repeat(Repeat),
    /// Stand a sheet on a floor.
    #[serde(rename = "shape.base")]
    Base(Base),
    /// Hold together what only touches.
    #[serde(rename = "shape.brace")]
    Brace(Brace),
    /// Give a sheet a thickness.
    #[serde(rename = "wall.thicken")]
    Thicken(Thicken),
    /// Make a wall with openings of a solid.
    #[serde(rename = "wall.shell")]
    Shell(Shell),
    /// Give a solid a void, with drains.
    #[serde(rename = "wall.hollow")]
    Hollow(Hollow),
    /// Put a layer round a solid, as a part of its own.
    #[serde(rename = "wall.coat")]
    Coat(Coat),
    /// Grow or shrink a solid all round.
    #[serde(rename = "wall.grow")]
    Grow(Grow),
    /// Make roundings anew so that the wall along them is even.
    #[serde(rename = "wall.even")]
    Even(Even),
    /// Make a sheet at a distance from faces.
    #[serde(rename = "wall.offset_sheet")]
    OffsetSheet(OffsetSheet),
    /// The liquid in a vessel, as a part of its own.
    #[serde(rename = "weigh.fill")]
    Fill(Fill),
    /// Make a pattern larger by what the metal shrinks by.
    #[serde(rename = "weigh.scale_pattern")]
    ScalePattern(ScalePattern),
    /// Bores of one form at any number of places.
    #[serde(rename = "fasten.bore")]
    Bore(Box<Bore>),
    /// Threads in bores and on pins that are there.
    #[serde(rename = "fasten.thread")]
    ThreadFaces(ThreadFaces),
    /// A thread by itself, as a part of its own.
    #[serde(rename = "fasten.stud")]
    Stud(Stud),
    /// Close a bore again.
    #[serde(rename = "fasten.plug")]
    Plug(Plug),
    /// Give a bore another diameter.
    #[serde(rename = "fasten.rebore")]
    Rebore(Rebore),
    /// Add a body to work with, as a part of its own.
    #[serde(rename = "shape.body")]
    AddBody(AddBody),
}

/// What an operation did.
#[derive(Clone, Debug)]
pub struct Outcome {
    /// The part afterwards.
    pub mesh: Mesh,
    /// What was done, a sentence for each thing.
    pub done: Vec<String>,
    /// What could not be done, with what it would need.
    pub left: Vec<String>,
    /// The farthest any point of the surface that came in was moved, mm.
    pub largest_move: f64,
    /// Further parts it makes.
    pub more: Vec<Mesh>,
    /// A place inside each of them, where that is known.
    pub inside: Vec<Point>,
    /// The steps a plan is made of, those left out too.
    pub plan: Vec<PlannedStep>,
    /// New faces, by the part that cut them.
    pub cut: Vec<CutFaces>,
    /// What else it does that is worth knowing, with where.
    pub notices: Vec<Notice>,
    /// Threads it made or marked.
    pub threads: Vec<ThreadMark>,
    /// All that is known of the part afterwards, where the operation looked at it itself.
    pub seen: Option<Box<Examination>>,
}

/// Draws what touches itself along edges apart, and tells it: nothing would hold there, and it would be no solid.
fn part_what_touches(outcome: &mut Outcome, progress: &Progress) -> Result<(), TradeError> {
    for mesh in std::iter::once(&mut outcome.mesh).chain(&mut outcome.more) {
        let parted = parted(mesh, progress).map_err(|e| crate::shape::told(e, &|_| "the result".into()))?;
        let Some(parted) = parted else { continue };
        outcome.seen = None;
        let along = crate::words::count(parted.edges, "edge", "edges");
        let by = crate::words::millimetres(parted.by);
        let text = format!("bodies only touched along {along}, where nothing holds: drawn apart there by {by}");
        let place = examine::Place { centre: parted.at.to_array(), radius: parted.length * 0.5 };
        outcome.notices.push(Notice { text, place });
        *mesh = parted.mesh;
    }
    Ok(())
}

/// New faces that another part cut.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CutFaces {
    /// The number of that part; absent where it is the part the step was done to, taken away from another one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub by: Option<u32>,
    /// The first face number that stands for a face of it. Its face `n` has the number `first + n`.
    pub first: u32,
    /// The number after the last.
    pub end: u32,
    /// How many of them there are.
    pub faces: usize,
}

/// Why an operation did not work. The part stays as it was.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum TradeError {
    /// There is nothing for this operation to do.
    #[error("{why}")]
    NothingToDo {
        /// In plain words.
        why: String,
    },
    /// It cannot be done on this part with these parameters.
    #[error("{why}")]
    Refused {
        /// In plain words.
        why: String,
        /// Where.
        places: Vec<Point>,
    },
    /// A pick finds nothing on the part any more.
    #[error("{what} is not there any more; pick it again")]
    NeedsNewPick {
        /// What was picked.
        what: String,
        /// Where it was.
        place: Point,
    },
    /// Somebody asked to stop.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
    /// The result broke an invariant of the mesh; a fault of the program.
    #[error("the result was not a valid mesh: {0}")]
    Mesh(#[from] MeshError),
}

impl Outcome {
    /// A part with one thing done to it that moved nothing.
    pub(crate) fn of(mesh: Mesh, done: String) -> Self {
        Self {
            mesh,
            done: vec![done],
            left: vec![],
            largest_move: 0.0,
            more: vec![],
            inside: vec![],
            plan: vec![],
            cut: vec![],
            notices: vec![],
            threads: vec![],
            seen: None,
        }
    }
}

impl TradeError {
    pub(crate) fn refused(why: impl Into<String>, places: Vec<Point>) -> Self {
        Self::Refused { why: why.into(), places }
    }

    pub(crate) fn nothing(why: impl Into<String>) -> Self {
        Self::NothingToDo { why: why.into() }
    }

    /// The places in the model the error is about.
    pub fn places(&self) -> Vec<Point> {
        match self {
            Self::Refused { places, .. } => places.clone(),
            Self::NeedsNewPick { place, .. } => vec![*place],
            _ => vec![],
        }
    }
}

impl Operation {
    /// The numbers of the other parts that go into this operation.
    pub fn others(&self) -> &[u32] {
        match self {
            Self::Join(j) => &j.with,
            Self::Union(u) => &u.with,
            Self::Difference(d) => &d.with,
            Self::Intersection(i) => &i.with,
            Self::Saw(s) => s.sheet(),
            Self::Chambers(c) => &c.with,
            Self::Hull(h) => &h.with,
            Self::Grow(g) => g.less.as_slice(),
            _ => &[],
        }
    }

    /// The numbers of those of them that are gone afterwards.
    pub fn used_up(&self) -> &[u32] {
        match self {
            Self::Join(j) => &j.with,
            Self::Union(u) => &u.with,
            Self::Difference(d) if d.swap || !d.keep => &d.with,
            Self::Intersection(i) if !i.keep => &i.with,
            _ => &[],
        }
    }

    /// Whether faces keep their numbers, and new ones get numbers that no face had.
    pub fn keeps_face_numbers(&self) -> bool {
        let anew = matches!(
            self,
            Self::GroupFaces(_) | Self::MergeFaces(_) | Self::Wrap(_) | Self::Hull(_) | Self::Join(_) | Self::Plan(_)
        );
        !anew
    }

    /// Whether it mends: what it loses of the surface was not asked for.
    pub fn mends(&self) -> bool {
        matches!(
            self,
            Self::MergePoints(_)
                | Self::CloseGaps(_)
                | Self::CoverRim(_)
                | Self::CoverRuns(_)
                | Self::Bridge(_)
                | Self::AgreeWindings(_)
                | Self::TurnOutward(_)
                | Self::Drop(_)
                | Self::LiftOut(_)
                | Self::ReSkin(_)
                | Self::Smooth(_)
                | Self::MergeFaces(_)
                | Self::FindInside(_)
                | Self::Wrap(_)
                | Self::Plan(_)
                | Self::Untangle(_)
        )
    }

    /// Whether it moves the part as a whole, so that nothing of it is where it was.
    pub fn moves_all(&self) -> bool {
        matches!(self, Self::Place(_) | Self::Mirror(Mirror { join: false, .. }) | Self::ScalePattern(_))
    }

    /// The same with other numbers for the parts that go into it.
    #[must_use]
    pub fn renumbered(&self, number: &dyn Fn(u32) -> u32) -> Self {
        let mut same = self.clone();
        match &mut same {
            Self::Join(Join { with, .. })
            | Self::Union(Union { with })
            | Self::Difference(Difference { with, .. })
            | Self::Intersection(Intersection { with, .. })
            | Self::Chambers(Chambers { with, .. })
            | Self::Hull(Hull { with }) => with.iter_mut().for_each(|n| *n = number(*n)),
            Self::Saw(Saw { by: Cutter::Sheet(sheet), .. }) => *sheet = number(*sheet),
            Self::Grow(Grow { less: Some(core), .. }) => *core = number(*core),
            _ => {}
        }
        same
    }

    /// The same with every thread it marks cut; none where it marks none.
    pub fn with_threads_cut(&self) -> Option<Self> {
        let mut same = self.clone();
        let marked = match &mut same {
            Self::Bore(b) => match &mut b.form {
                BoreForm::Threaded(t) => &mut t.marked,
                _ => return None,
            },
            Self::ThreadFaces(t) => &mut t.marked,
            Self::Stud(s) => &mut s.marked,
            _ => return None,
        };
        std::mem::take(marked).then_some(same)
    }

    /// Applies the operation to a part, and to the other parts it names.
    ///
    /// # Errors
    /// [`TradeError`]; the mesh is untouched then.
    ///
    /// ```
    /// use nimbet_kernel::{Mesh, Point, Progress};
    /// use nimbet_trade::{Operation, PartState, examine, seal::{CoverRim, CoverStyle}};
    ///
    /// // A tetrahedron without its base.
    /// let points = vec![Point::ZERO, Point::X, Point::Y, Point::Z];
    /// let mesh = Mesh::with_one_face(points, vec![[0, 1, 3], [1, 2, 3], [2, 0, 3]]).unwrap();
    /// let cover = Operation::CoverRim(CoverRim { style: CoverStyle::Flat, ..Default::default() });
    /// let outcome = cover.apply(&mesh, &[], &Progress::unwatched()).unwrap();
    /// let after = examine(&outcome.mesh, &Progress::unwatched()).unwrap();
    /// assert_eq!(after.figures.state, PartState::Sealed);
    /// ```
    pub fn apply(&self, mesh: &Mesh, others: &[Mesh], progress: &Progress) -> Result<Outcome, TradeError> {
        match self {
            Self::MergePoints(p) => p.apply(mesh, progress),
            Self::CloseGaps(p) => p.apply(mesh, progress),
            Self::CoverRim(p) => p.apply(mesh, progress),
            Self::CoverRuns(p) => p.apply(mesh, progress),
            Self::Bridge(p) => p.apply(mesh, progress),
            Self::FillOutline(p) => p.apply(mesh, progress),
            Self::AgreeWindings(p) => p.apply(mesh, progress),
            Self::TurnOutward(p) => p.apply(mesh, progress),
            Self::Drop(p) => p.apply(mesh, progress),
            Self::LiftOut(p) => p.apply(mesh, progress),
            Self::ReSkin(p) => p.apply(mesh, progress),
            Self::Turn(p) => p.apply(mesh, progress),
            Self::Smooth(p) => p.apply(mesh, progress),
            Self::GroupFaces(p) => p.apply(mesh, progress),
            Self::MergeFaces(p) => p.apply(mesh, progress),
            Self::PullApart(p) => p.apply(mesh, progress),
            Self::Join(p) => p.apply(mesh, others, progress),
            Self::FindInside(p) => p.apply(mesh, progress),
            Self::Wrap(p) => p.apply(mesh, progress),
            Self::Plan(p) => p.apply(mesh, None, progress),
            Self::Union(p) => p.apply(mesh, others, false, progress),
            Self::Difference(p) => p.apply(mesh, others, false, progress),
            Self::Intersection(p) => p.apply(mesh, others, false, progress),
            Self::Untangle(p) => p.apply(mesh, progress),
            Self::Saw(p) => p.apply(mesh, others, progress),
            Self::Chambers(p) => p.apply(mesh, others, progress),
            Self::Hull(p) => p.apply(mesh, others, progress),
            Self::Place(p) => p.apply(mesh, progress),
            Self::Mirror(p) => p.apply(mesh, progress),
            Self::Repeat(p) => p.apply(mesh, progress),
            Self::Base(p) => p.apply(mesh, progress),
            Self::Brace(p) => p.apply(mesh, progress),
            Self::Thicken(p) => p.apply(mesh, progress),
            Self::Shell(p) => p.apply(mesh, progress),
            Self::Hollow(p) => p.apply(mesh, progress),
            Self::Coat(p) => p.apply(mesh, progress),
            Self::Grow(p) => p.apply(mesh, others, progress),
            Self::Even(p) => p.apply(mesh, progress),
            Self::OffsetSheet(p) => p.apply(mesh, progress),
            Self::Fill(p) => p.apply(mesh, progress),
            Self::ScalePattern(p) => p.apply(mesh, progress),
            Self::Bore(p) => p.apply(mesh, false, progress),
            Self::ThreadFaces(p) => p.apply(mesh, false, progress),
            Self::Stud(p) => p.apply(mesh, progress),
            Self::Plug(p) => p.apply(mesh, progress),
            Self::Rebore(p) => p.apply(mesh, progress),
            Self::AddBody(p) => p.apply(mesh, progress),
        }
    }

    /// As [`Operation::apply`] for a part that was examined: what other bodies do to a sealed one is computed near them only, and
    /// a plan need not look at it again.
    ///
    /// # Errors
    /// As [`Operation::apply`].
    pub fn apply_to_seen(
        &self,
        mesh: &Mesh,
        seen: &Examination,
        others: &[Mesh],
        progress: &Progress,
    ) -> Result<Outcome, TradeError> {
        refuse_beyond_use(&serde_json::to_value(self).unwrap_or_default(), "")?;
        let sealed = seen.figures.state == PartState::Sealed;
        let mut outcome = match self {
            Self::Union(p) => p.apply(mesh, others, sealed, progress),
            Self::Difference(p) => p.apply(mesh, others, sealed, progress),
            Self::Intersection(p) => p.apply(mesh, others, sealed, progress),
            Self::Bore(p) => p.apply(mesh, sealed, progress),
            Self::ThreadFaces(p) => p.apply(mesh, sealed, progress),
            Self::Plan(p) => p.apply(mesh, Some(seen), progress),
            _ => self.apply(mesh, others, progress),
        }?;
        if sealed && !self.mends() && !self.moves_all() {
            part_what_touches(&mut outcome, progress)?;
        }
        Ok(outcome)
    }

    /// What the operation is called on the screen.
    pub fn title(&self) -> String {
        match self {
            Self::MergePoints(p) => format!("Merge points within {}", crate::words::millimetres(p.within)),
            Self::CloseGaps(p) => format!("Close gaps, reach {}", crate::words::millimetres(p.reach)),
            Self::CoverRim(p) => p.title(),
            Self::CoverRuns(p) => p.title(),
            Self::Bridge(p) => p.title(),
            Self::FillOutline(p) => p.title(),
            Self::AgreeWindings(_) => "Agree windings".into(),
            Self::TurnOutward(_) => "Turn outward".into(),
            Self::Drop(p) => p.title(),
            Self::LiftOut(_) => "Lift out".into(),
            Self::ReSkin(_) => "Re-skin".into(),
            Self::Turn(p) => p.title(),
            Self::Smooth(p) => p.title(),
            Self::GroupFaces(_) => "Group faces".into(),
            Self::MergeFaces(_) => "Merge faces".into(),
            Self::PullApart(_) => "Pull apart".into(),
            Self::Join(p) => format!("Join {}", crate::words::count(p.with.len() + 1, "part", "parts")),
            Self::FindInside(p) => p.title(),
            Self::Wrap(p) => format!("Wrap at {}", crate::words::millimetres(p.resolution)),
            Self::Plan(_) => "Seal plan".into(),
            Self::Union(p) => format!("Union of {}", crate::words::count(p.with.len() + 1, "part", "parts")),
            Self::Difference(p) => format!("Take {} away", crate::words::count(p.with.len(), "part", "parts")),
            Self::Intersection(p) => {
                format!("Intersection of {}", crate::words::count(p.with.len() + 1, "part", "parts"))
            }
            Self::Untangle(_) => "Untangle".into(),
            Self::Saw(p) => if p.pegs.is_some() { "Saw, with pegs" } else { "Saw" }.into(),
            Self::Chambers(p) => match p.picked.as_ref().map(Vec::len) {
                Some(n) => crate::words::count(n, "chamber", "chambers"),
                None => "Chambers".into(),
            },
            Self::Hull(_) => "Hull".into(),
            Self::Place(_) => "Place".into(),
            Self::Mirror(p) => if p.join { "Mirror and join" } else { "Mirror" }.into(),
            Self::Repeat(p) => format!("Repeat, {} in all", p.copies.count()),
            Self::Base(p) => p.title(),
            Self::Brace(p) => format!("Brace, radius {}", crate::words::millimetres(p.radius)),
            Self::Thicken(p) => p.title(),
            Self::Shell(p) => p.title(),
            Self::Hollow(p) => format!("Hollow, wall {}", crate::words::millimetres(p.wall)),
            Self::Coat(p) => p.title(),
            Self::Grow(p) => p.title(),
            Self::Even(p) => p.title(),
            Self::OffsetSheet(p) => p.title(),
            Self::Fill(p) => p.title(),
            Self::ScalePattern(p) => p.title(),
            Self::Bore(p) => p.title(),
            Self::ThreadFaces(p) => p.title(),
            Self::Stud(p) => p.title(),
            Self::Plug(_) => "Plug".into(),
            Self::Rebore(p) => format!("Re-bore to {}", crate::words::millimetres(p.diameter)),
            Self::AddBody(p) => p.title(),
        }
    }
}

impl From<Bore> for Operation {
    fn from(bore: Bore) -> Self {
        Self::Bore(Box::new(bore))
    }
}
