//! What is known of meshes: as it was kept, or found anew where an earlier version of the program examined them.

use nimbet_kernel::{Progress, mesh_bytes};
use nimbet_ledger::Hash;
use nimbet_trade::wall::with_least_wall;
use nimbet_trade::{Examination, examine};

use super::results::blocking;
use crate::App;
use crate::problem::Problem;
use crate::store::StoreError;

/// What is known of a mesh, as JSON text.
pub(crate) async fn examined_json(app: &App, mesh: Hash, progress: &Progress) -> Result<Vec<u8>, Problem> {
    if let Some(kept) = app.store.kept_examination(mesh).await? {
        return Ok(kept);
    }
    let bytes = app.store.blob(mesh).await.map_err(|e| match e {
        StoreError::NoSuch(_) => StoreError::NoSuch("mesh"),
        other => other,
    })?;
    let progress = progress.clone();
    let examination = blocking(move || {
        let read = mesh_bytes::from_bytes(&bytes).map_err(|_| StoreError::Damaged(mesh.to_string()))?;
        let seen = examine(&read, &progress.stage(0.0, 0.5))
            .and_then(|seen| with_least_wall(seen, &read, &progress.stage(0.5, 1.0)));
        seen.map_err(|_| Problem::cancelled())
    })
    .await?;
    Ok(app.store.keep_examination(mesh, examination).await?)
}

/// What is known of a mesh.
pub(crate) async fn examined(app: &App, mesh: Hash, progress: &Progress) -> Result<Examination, Problem> {
    let text = examined_json(app, mesh, progress).await?;
    blocking(move || serde_json::from_slice(&text).map_err(Problem::internal)).await
}
