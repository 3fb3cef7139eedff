//! Files brought in, with the recipe that is done to what comes in.

use nimbet_formats::{LengthUnit, Limits, ReleaseFormat};
use nimbet_kernel::{Mesh, Progress};
use nimbet_ledger::{
    Action, Bodies, BringIn, Following, Hash, History, PartId, ReadAs, ReadPart, Recipe, StepError, StepState,
    UnitChoice, bring_in, draw_in,
};
use nimbet_trade::wall::with_least_wall;
use nimbet_trade::{Operation, examine};
use uuid::Uuid;

use super::results::{blocking, inputs_of, result_of};
use crate::App;
use crate::problem::Problem;
use crate::store::{Change, NewStep, Product, Store, StoreError};

/// Brings a part in, if one is given, and does a recipe to it or on the empty bench, as one change. A step that cannot be done is
/// put down as stopped, and the recipe ends there.
pub(super) async fn follow(
    app: &App,
    brought: Option<&NewStep>,
    recipe: &Recipe,
    change: Change<'_>,
    progress: &Progress,
) -> Result<(), Problem> {
    /// Others may change the job meanwhile; what was worked out is in the cache then.
    const TRIES: usize = 20;
    let job = change.task.map(|t| t.job_id).ok_or_else(|| Problem::internal("a recipe is run by a task"))?;
    for _ in 0..TRIES {
        let row = app.store.job(job).await?;
        let mut history = row.history.clone();
        let mut next = row.next_number + 1;
        let mut part = PartId::BENCH;
        if let Some(first) = brought.map(|brought| brought.as_step(row.next_number)) {
            part = first.makes().next().ok_or_else(|| Problem::internal("a file made no part"))?;
            next = next.max(part.0 + 1);
            history.steps.insert(history.cursor, first);
            history.cursor += 1;
        } else {
            next = row.next_number;
        }
        let mut following = Following::new(part);
        for (n, step) in recipe.steps.iter().enumerate() {
            let at = following.begin(&mut history, step, &mut next);
            let before = History { steps: history.steps[..at].to_vec(), cursor: at };
            let (part, action) = (history.steps[at].part, history.steps[at].action.clone());
            let outcome = match inputs_of(&before, part, &action) {
                Ok(inputs) => result_of(app, &action, &inputs, &progress.part(n, recipe.steps.len())).await?,
                Err(_) => Err(StepError::NoSuchPart(action.others().first().map_or(0, |p| p.0))),
            };
            history.steps[at].settle(outcome, &mut next)?;
            following.done(&history.steps[at]);
            if matches!(history.steps[at].state, StepState::Stopped { .. }) {
                break;
            }
        }
        let named = || if recipe.name.is_empty() { "Recipe".to_owned() } else { recipe.name.clone() };
        let what = match brought {
            Some(brought) => format!("{}, by recipe", brought.action.title()),
            None => named(),
        };
        let change = Change { revision: Some(row.revision), ..change };
        match app.store.commit_edit(&row, (&history, next), &what, Some(part.0), change).await {
            Err(StoreError::Stale { .. }) => {}
            other => return Ok(other?),
        }
    }
    Err(Problem::internal("the job changed all the time while a recipe ran"))
}

/// A drawing as the step that draws it on the empty bench, so that it can be changed on the board.
pub(super) async fn drawn_in(app: &App, what: BringIn, progress: &Progress) -> Result<NewStep, Problem> {
    let bytes = app.store.blob(what.source).await?;
    let (step, notes) = blocking(move || Ok(draw_in(&bytes, &what.file, what.unit)?)).await?;
    let action = Action::Operation(Operation::of(step).into());
    let inputs = inputs_of(&History::default(), PartId::BENCH, &action)?;
    let (mesh, mut report) = result_of(app, &action, &inputs, progress).await??;
    report.left.splice(0..0, notes);
    Ok(NewStep { part: Some(PartId::BENCH), action, mesh, report })
}

/// Reads a file as parts; `bodies` says which, unless the step does.
pub(super) async fn brought_in(
    store: &Store,
    mut what: BringIn,
    bodies: Bodies,
    limits: Limits,
    progress: Progress,
) -> Result<NewStep, Problem> {
    let bytes = store.blob(what.source).await?;
    let (file, mut how) = (what.file.clone(), ReadAs::from(&what));
    if how.bodies == Bodies::Joined {
        how.bodies = bodies;
    }
    let (mut read, seen) = blocking(move || {
        let read = bring_in(&bytes[..], bytes.len() as u64, &file, &how, &limits, &progress.stage(0.0, 0.5))?;
        drop(bytes);
        let looking = progress.stage(0.5, 1.0);
        let look = |(n, part): (usize, &ReadPart)| {
            let own = looking.part(n, read.parts.len());
            examine(&part.mesh, &own.stage(0.0, 0.8))
                .and_then(|seen| with_least_wall(seen, &part.mesh, &own.stage(0.8, 1.0)))
                .map_err(|_| Problem::cancelled())
        };
        let seen = read.parts.iter().enumerate().map(look).collect::<Result<Vec<_>, _>>()?;
        Ok((read, seen))
    })
    .await?;
    let picked = read.picked();
    let mut kept = Vec::with_capacity(seen.len());
    for (part, examination) in read.parts.iter_mut().zip(seen) {
        let (figures, mesh) = (examination.figures.clone(), std::mem::take(&mut part.mesh));
        kept.push((store.keep_product(Product { mesh, examination }).await?, figures));
    }
    let (mesh, report) = read.report(kept).ok_or_else(|| Problem::internal("a file became no part"))?;
    // Named as they are called now; what was not said of a single one is as before.
    what.bodies = picked.or(what.bodies);
    Ok(NewStep { part: None, action: Action::BringIn(what), mesh, report })
}

/// Makes a job of parts that are at hand already, without the queue; all of it or nothing.
async fn bring_in_directly(store: &Store, name: &str, parts: Vec<(String, Mesh)>) -> Result<Uuid, StoreError> {
    let mut steps = Vec::new();
    for (part, mesh) in parts {
        let body = nimbet_formats::Body { name: &part, colour: nimbet_ledger::PART_COLOUR, mesh: &mesh };
        let bytes = nimbet_formats::write_body(&body, ReleaseFormat::Ply, LengthUnit::Millimetre)
            .map_err(|e| StoreError::Compression(std::io::Error::other(e)))?;
        let source = Hash::of(&bytes);
        store.keep_blob(source, bytes).await?;
        let file = format!("{part}.ply");
        let what = BringIn { file, source, unit: UnitChoice::Millimetre, chord: None, groups: false, bodies: None };
        let step = brought_in(store, what, Bodies::Joined, Limits::default(), Progress::unwatched())
            .await
            .map_err(|p| StoreError::Damaged(p.detail))?;
        steps.push(step);
    }
    store.create_job_of(name, &steps).await
}

/// What the demo job is called.
const DEMO: &str = "Tern Quay Fittings";

/// Makes the demo job: made-up parts with all that can be wrong with them.
pub(crate) async fn bring_in_demo(store: &Store) -> Result<Uuid, StoreError> {
    let made = tokio::task::spawn_blocking(nimbet_trade::demo::parts).await;
    let parts = made.map_err(|e| StoreError::Compression(std::io::Error::other(e)))?;
    bring_in_directly(store, DEMO, parts.into_iter().map(|(name, mesh)| (name.to_owned(), mesh)).collect()).await
}
