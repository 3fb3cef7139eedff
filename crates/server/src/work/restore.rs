//! Meshes read from storage; what is damaged or missing there is worked out anew from a ledger that leads to it.

use nimbet_kernel::Progress;
use nimbet_ledger::{Action, Bodies, Hash, Step, cache_key};
use uuid::Uuid;

use super::bring_in::brought_in;
use super::results::{inputs_of, result_of};
use crate::App;
use crate::problem::Problem;
use crate::store::StoreError;

/// The bytes of a mesh. If what is kept is damaged or missing, the step that made it is done again.
pub(crate) async fn mesh_blob(app: &App, mesh: Hash) -> Result<Vec<u8>, Problem> {
    match app.store.blob(mesh).await {
        Err(lost @ (StoreError::Damaged(_) | StoreError::NoSuch(_))) => {
            for job in app.store.jobs_with(mesh).await? {
                tracing::warn!("{mesh}: {lost}; working it out anew");
                if Box::pin(restored(app, job, mesh)).await? {
                    return Ok(app.store.blob(mesh).await?);
                }
            }
            Err(lost.into())
        }
        other => Ok(other?),
    }
}

/// Does the step of a job again that made a mesh; says whether there is one and it made the same.
async fn restored(app: &App, job: Uuid, mesh: Hash) -> Result<bool, Problem> {
    let history = app.store.job(job).await?.history;
    let makes = |s: &&Step| s.mesh == mesh || s.made().any(|(_, made)| made.mesh == mesh);
    let Some(step) = history.steps.iter().find(makes) else { return Ok(false) };
    app.store.forget_blob(mesh).await?;
    let progress = Progress::unwatched();
    let made = match &step.action {
        Action::BringIn(what) => {
            brought_in(&app.store, what.clone(), Bodies::Joined, app.limits(), progress).await.map(|step| step.mesh)
        }
        action => {
            let before = history.until(step.number, false).unwrap_or_default();
            let inputs = inputs_of(&before, step.part, action)?;
            app.store.forget_result(cache_key(action, &inputs).map_err(Problem::internal)?).await?;
            result_of(app, action, &inputs, &progress).await?.map(|(mesh, _)| mesh).map_err(Into::into)
        }
    };
    Ok(made.is_ok() && app.store.blob(mesh).await.is_ok())
}
