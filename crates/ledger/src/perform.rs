//! Doing a step: the operation, and the examination of what came out.

use nimbet_kernel::compare::Compared;
use nimbet_kernel::deviation::deviations;
use nimbet_kernel::harm::Harm;
use nimbet_kernel::{Cancelled, Mesh, MeshError, Point, Progress};
use nimbet_trade::examine::Known;
use nimbet_trade::harm::{HarmFacts, harm_between, harm_seen};
use nimbet_trade::wall::with_least_wall;
use nimbet_trade::wire::is_wire;
use nimbet_trade::words::{count, grams};
use nimbet_trade::{Called, Examination, Figures, Made, Operation, PartState, TradeError, examine, instead, look};

use crate::action::{Action, Work, is_name};
use crate::bounds::refuse_beyond;
use crate::hash::mesh_hash;
use crate::history::{MadePart, StepReport, SurfaceChange};

/// A step done, not yet part of any ledger: a forecast.
#[derive(Clone, Debug)]
pub struct Performed {
    /// The part afterwards.
    pub mesh: Mesh,
    /// All that is known of it.
    pub examination: Examination,
    /// What the step did. Its `made` names the meshes of `more`.
    pub report: StepReport,
    /// Further parts it made.
    pub more: Vec<(Mesh, Examination)>,
    /// Whether the last of them is what was lost.
    pub kept_lost: bool,
}

/// Why a step cannot be done. The job stays as it was.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum StepError {
    /// The trade says no.
    #[error(transparent)]
    Trade(#[from] TradeError),
    /// There is no such material.
    #[error("there is no material '{0}'")]
    UnknownMaterial(String),
    /// Another part it names is not there.
    #[error("there is no part {0} to go into this step")]
    NoSuchPart(u32),
    /// There is no part yet.
    #[error("there is no part on the bench yet: bring a file in, or draw a profile or add a body first")]
    NoPart,
    /// On the empty bench nothing can be added to or taken away from.
    #[error("on the empty bench it can only become a part of its own")]
    OwnPartOnly,
    /// A kept part needs a name.
    #[error("a kept part needs a name of at most 80 characters, none of which control or turn text")]
    NoName,
    /// Bringing in makes a part; it is not done to one.
    #[error("a file is brought in as a part of its own, not as a step on a part")]
    NotOnAPart,
}

impl From<Cancelled> for StepError {
    fn from(c: Cancelled) -> Self {
        Self::Trade(c.into())
    }
}

impl StepError {
    /// The places in the model the error is about.
    pub fn places(&self) -> Vec<Point> {
        match self {
            Self::Trade(e) => e.places(),
            _ => vec![],
        }
    }
}

/// Does `action` to a part. `before` is the examination of `mesh`; `others` are the meshes of the parts [`Action::others`]
/// names, in that order.
///
/// # Errors
/// [`StepError`] with cause and place.
pub fn perform(
    action: &Action,
    mesh: &Mesh,
    before: &Examination,
    others: &[Mesh],
    progress: &Progress,
) -> Result<Performed, StepError> {
    if mesh.triangles().is_empty() && !action.on_bench() {
        return Err(StepError::NoPart);
    }
    match action {
        Action::BringIn(_) => Err(StepError::NotOnAPart),
        Action::SetMaterial(m) => {
            if let Some(Err(why)) = m.own.as_ref().map(|own| own.check()) {
                return Err(TradeError::Refused { why, places: vec![] }.into());
            }
            let (name, density) = m.facts().ok_or_else(|| StepError::UnknownMaterial(m.material.clone()))?;
            let done = match before.weighing.mass(density) {
                Some(mass) => format!("{name}: {}", grams(mass)),
                None => format!("{name}; no mass: {}", before.figures.reason),
            };
            Ok(untouched(mesh, before, done, vec![]))
        }
        Action::Keep(keep) => {
            let name = keep.name.trim();
            if !is_name(name) {
                return Err(StepError::NoName);
            }
            let kept = (mesh.clone(), before.clone(), Called::Plain(name.into()));
            Ok(untouched(mesh, before, format!("kept as {name}"), vec![kept]))
        }
        Action::Label(label) => match label.fault() {
            Some(why) => Err(TradeError::Refused { why: why.into(), places: vec![] }.into()),
            None => Ok(untouched(mesh, before, label.told(), vec![])),
        },
        Action::Delete(delete) => {
            let done = format!("deleted {}", count(delete.also.len() + 1, "part", "parts"));
            Ok(untouched(mesh, before, done, vec![]))
        }
        Action::Operation(work) => operate(work, mesh, before, others, progress),
    }
}

/// Further parts a step makes, as far as they were looked at.
#[derive(Default)]
struct Beside {
    parts: Vec<(Mesh, Examination)>,
    made: Vec<MadePart>,
}

impl Beside {
    fn take(&mut self, made: Made, progress: &Progress) -> Result<(), Cancelled> {
        let Made { mesh, called, inside } = made;
        let seen = examine(&mesh, &progress.stage(0.0, 0.8))?;
        let seen = with_least_wall(seen, &mesh, &progress.stage(0.8, 1.0))?;
        self.made.push(MadePart {
            part: None,
            mesh: mesh_hash(&mesh).0,
            called: Some(called),
            figures: seen.figures.clone(),
            inside: inside.map(|p| p.to_array()),
        });
        self.parts.push((mesh, seen));
        Ok(())
    }
}

/// Does an operation, and looks at what came of it.
fn operate(
    Work { operation, keep_lost }: &Work,
    mesh: &Mesh,
    before: &Examination,
    others: &[Mesh],
    progress: &Progress,
) -> Result<Performed, StepError> {
    progress.report(0.0, &operation.title())?;
    let working = progress.stage(0.0, 0.5);
    let mut outcome = operation.apply_to_seen(mesh, before, others, &working).map_err(no_fault)?;
    outcome.meshes().try_for_each(refuse_beyond)?;
    if mesh.triangles().is_empty() && !outcome.mesh.triangles().is_empty() {
        return Err(StepError::OwnPartOnly);
    }
    // Each part takes its share of the time.
    let looking = progress.stage(0.5, 0.8);
    let parts = outcome.more.len() + 1;
    let surfaces = Compared::new(mesh, &outcome.mesh, &looking)?;
    let turn = looking.part(0, parts);
    let examination = match outcome.seen.take() {
        Some(seen) => *seen,
        None => {
            let crossings = before.no_crossings();
            let known = crossings.map(|crossings| Known { surfaces: &surfaces, crossings });
            look(&outcome.mesh, known, &turn.stage(0.0, 0.8))?.examination
        }
    };
    let examination = with_least_wall(examination, &outcome.mesh, &turn.stage(0.8, 1.0))?;
    let mut beside = Beside::default();
    for (n, part) in outcome.more.into_iter().enumerate() {
        beside.take(part, &looking.part(n + 1, parts))?;
    }
    // A profile is drawn, not a body that comes out.
    let is_body = |part: &&(Mesh, Examination)| part.0.drawn().is_none();
    let came_out: Vec<&Mesh> = beside.parts.iter().filter(is_body).map(|(m, _)| m).collect();
    let harm = harm_of(operation, &surfaces, (others, &came_out), &progress.stage(0.8, 0.9))?;
    let lost = harm.as_ref().map(|h| h.lost.mesh.clone()).filter(|m| *keep_lost && !m.triangles().is_empty());
    let kept_lost = lost.is_some();
    if let Some(lost) = lost {
        beside.take(Made::of(lost, "Lost surface"), progress)?;
    }
    let Beside { parts: more, made } = beside;
    let mut left = outcome.left;
    left.extend(worse(&before.figures, &examination.figures));
    if mesh.drawn().is_some() && outcome.mesh.drawn().is_none() {
        let what = if is_wire(mesh) { "wire" } else { "profile" };
        left.push(format!("it is no {what} any more, but the plain sheet that showed it"));
    }
    let besides: Vec<&Figures> = more.iter().filter(is_body).map(|(_, seen)| &seen.figures).collect();
    let sound = |f: &Figures| f.state == PartState::Sealed;
    if !operation.mends() && sound(&before.figures) && sound(&examination.figures) {
        left.extend(unsound(&besides));
    }
    let instead = match outcome.tight.is_empty() {
        true => None,
        false => instead(operation, mesh, &outcome.tight, &progress.stage(0.9, 0.95))?,
    };
    let report = StepReport {
        done: outcome.done,
        left,
        largest_move: outcome.largest_move,
        before: Some(before.figures.clone()),
        after: examination.figures.clone(),
        change: Some(surface_change(&surfaces, &progress.stage(0.9, 1.0))?),
        made,
        plan: outcome.plan,
        cut: outcome.cut,
        notices: outcome.notices,
        instead,
        threads: outcome.threads,
        harm: harm.as_ref().map(HarmFacts::of),
        seconds: None,
    };
    Ok(Performed { mesh: outcome.mesh, examination, report, more, kept_lost })
}

/// A mesh whose points leave the finite numbers is no fault of the program: figures were given that lead there.
fn no_fault(error: TradeError) -> TradeError {
    match error {
        TradeError::Mesh(MeshError::NotFinite { .. }) => TradeError::Refused {
            why: "with these figures the part would reach beyond all bounds".into(),
            places: vec![],
        },
        TradeError::Mesh(MeshError::FaceNumber(_)) => {
            let why = "its faces would have greater numbers than can be told apart; group its faces anew first";
            TradeError::Refused { why: why.into(), places: vec![] }
        }
        other => other,
    }
}

/// What an operation lost, swallowed and invented. What it makes parts of is not lost, unless it mends.
fn harm_of(
    operation: &Operation,
    surfaces: &Compared<'_>,
    (others, more): (&[Mesh], &[&Mesh]),
    progress: &Progress,
) -> Result<Option<Harm>, Cancelled> {
    // A profile is no surface of a part, and what is made of it no harm to it.
    let is_drawn = surfaces.before().drawn().is_some() && surfaces.after().drawn().is_some();
    if operation.moves_all() || is_drawn || surfaces.before().triangles().is_empty() {
        return Ok(None);
    }
    let used = if operation.used_up().len() == others.len() { others } else { &[] };
    let more = if operation.mends() { &[] } else { more };
    if used.is_empty() && more.is_empty() {
        return Ok(Some(harm_seen(surfaces, progress)?));
    }
    let before: Vec<&Mesh> = std::iter::once(surfaces.before()).chain(used).collect();
    let after: Vec<&Mesh> = std::iter::once(surfaces.after()).chain(more.iter().copied()).collect();
    Ok(Some(harm_between(&before, &after, progress)?))
}

/// A step that leaves the part as it is.
fn untouched(mesh: &Mesh, before: &Examination, done: String, more: Vec<(Mesh, Examination, Called)>) -> Performed {
    let made = |(mesh, seen, called): &(Mesh, Examination, Called)| MadePart {
        part: None,
        mesh: mesh_hash(mesh).0,
        called: Some(called.clone()),
        figures: seen.figures.clone(),
        inside: None,
    };
    let report = StepReport {
        done: vec![done],
        before: Some(before.figures.clone()),
        made: more.iter().map(made).collect(),
        ..StepReport::of(before.figures.clone())
    };
    let more = more.into_iter().map(|(mesh, seen, _)| (mesh, seen)).collect();
    Performed { mesh: mesh.clone(), examination: before.clone(), report, more, kept_lost: false }
}

/// What a step made worse, so that it is never unsaid.
fn worse(before: &Figures, after: &Figures) -> Vec<String> {
    let mut said = Vec::new();
    if after.tangles > before.tangles {
        said.push(format!(
            "the part crosses itself in {}, {} before",
            count(after.tangles, "place", "places"),
            before.tangles
        ));
    }
    if after.touch_points > before.touch_points {
        let (now, was) = (count(after.touch_points, "point", "points"), before.touch_points);
        said.push(format!("bodies only touch at {now}, at {was} before: nothing holds there"));
    }
    if after.crowded_edges > before.crowded_edges {
        let (now, was) = (count(after.crowded_edges, "edge", "edges"), before.crowded_edges);
        said.push(format!("{now} of three triangles or more, {was} before"));
    }
    said
}

/// Further parts that are no solids, though what they were made from is.
fn unsound(besides: &[&Figures]) -> Vec<String> {
    let which = |n: usize| match besides.len() {
        1 => "the other part it makes".to_owned(),
        all => format!("part {} of {all} it makes besides", n + 1),
    };
    let unsound = besides.iter().enumerate().filter(|(_, f)| f.state != PartState::Sealed || f.touch_points > 0);
    unsound
        .map(|(n, f)| match f.state {
            PartState::Sealed => {
                format!("{}: bodies only touch at {}", which(n), count(f.touch_points, "point", "points"))
            }
            _ => format!("{} is {}", which(n), f.reason),
        })
        .collect()
}

fn surface_change(surfaces: &Compared<'_>, progress: &Progress) -> Result<SurfaceChange, Cancelled> {
    progress.report(0.0, "measuring how far the surface moved")?;
    let (there, back) = deviations(surfaces, progress)?;
    let some = !surfaces.before().triangles().is_empty() && !surfaces.after().triangles().is_empty();
    Ok(SurfaceChange {
        triangles_added: there.differ,
        triangles_removed: back.differ,
        away: some.then_some(there.largest),
        back: some.then_some(back.largest),
    })
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)] // a failed test says so by panicking

    use nimbet_kernel::shapes::block;
    use nimbet_trade::shape::Union;

    use super::*;

    fn seen(mesh: &Mesh) -> Examination {
        examine(mesh, &Progress::unwatched()).unwrap()
    }

    /// Blocks that meet in a corner, an edge or a face: what only touches is told after the step, what holds is not.
    #[test]
    fn bodies_that_only_touch_are_told_after_a_step() {
        let one = block(Point::ZERO, Point::splat(10.0));
        for (corner, told) in [
            (Point::splat(10.0), "bodies only touch at 1 point, at 0 before: nothing holds there"),
            (
                Point::new(10.0, 10.0, 0.0),
                "bodies only touched along 1 edge, where nothing holds: drawn apart there by 0.0000095 mm",
            ),
            (Point::new(10.0, 0.0, 0.0), ""),
        ] {
            let other = block(corner, Point::splat(10.0));
            let union = Operation::of(Union { with: vec![2] });
            let action = Action::Operation(union.into());
            let done = perform(&action, &one, &seen(&one), &[other], &Progress::unwatched()).unwrap();
            let notices = done.report.notices.into_iter().map(|n| n.text);
            let left: Vec<String> = done.report.left.into_iter().chain(notices).collect();
            assert!(if told.is_empty() { left.is_empty() } else { left.iter().any(|l| l == told) }, "{left:?}");
        }
    }

    #[test]
    fn further_parts_that_are_no_solids_are_told() {
        let whole = block(Point::ZERO, Point::splat(2.0));
        let open = whole.retain_triangles(|t| t > 0);
        let (whole, open) = (seen(&whole).figures, seen(&open).figures);
        assert!(unsound(&[&whole, &whole]).is_empty());
        assert_eq!(unsound(&[&open]), [format!("the other part it makes is {}", open.reason)]);
        assert_eq!(unsound(&[&whole, &open]), [format!("part 2 of 2 it makes besides is {}", open.reason)]);
    }
}
