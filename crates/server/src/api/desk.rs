//! What is worked out while somebody waits for the answer: walls, clearances, drawings, capacities. A few at once; the others queue.

use std::sync::Arc;
use std::time::Duration;

use nimbet_kernel::{Mesh, Progress, mesh_bytes};
use nimbet_ledger::Hash;
use nimbet_trade::Examination;

use super::watch::Waited;
use crate::App;
use crate::problem::Problem;
use crate::work::{examined, mesh_blob};

/// The longest anybody waits for an answer.
const LONGEST: Duration = Duration::from_secs(300);

/// Does heavy work off the request threads, when there is room; stops it when nobody waits for it any more.
pub(super) async fn at_desk<T: Send + 'static>(
    app: &Arc<App>,
    work: impl FnOnce(&Progress) -> Result<T, Problem> + Send + 'static,
) -> Result<T, Problem> {
    let room = app.at_desk.enter().await?;
    let waited = Waited::begin(app);
    let progress = waited.progress();
    let working = tokio::task::spawn_blocking(move || {
        let done = work(&progress);
        // Work that is stopped takes its room until it has noticed.
        drop(room);
        done
    });
    match tokio::time::timeout(LONGEST, working).await {
        Ok(done) => done.map_err(Problem::internal)?,
        Err(_) => Err(Problem::too_long(LONGEST.as_secs())),
    }
}

/// What is known of a mesh. Where it has to be found anew, that is stopped when nobody waits for it any more.
pub(super) async fn examined_here(app: &Arc<App>, mesh: Hash) -> Result<Examination, Problem> {
    let waited = Waited::begin(app);
    examined(app, mesh, &waited.progress()).await
}

/// [`at_desk`], on meshes.
pub(super) async fn on_meshes<T: Send + 'static, const N: usize>(
    app: &Arc<App>,
    hashes: [Hash; N],
    work: impl FnOnce([Mesh; N], &Progress) -> Result<T, Problem> + Send + 'static,
) -> Result<T, Problem> {
    on_all_meshes(app, hashes.to_vec(), move |meshes, progress| {
        let meshes = <[Mesh; N]>::try_from(meshes).map_err(|_| Problem::internal("a mesh is missing"))?;
        work(meshes, progress)
    })
    .await
}

/// [`on_meshes`], on however many there are.
pub(super) async fn on_all_meshes<T: Send + 'static>(
    app: &Arc<App>,
    hashes: Vec<Hash>,
    work: impl FnOnce(Vec<Mesh>, &Progress) -> Result<T, Problem> + Send + 'static,
) -> Result<T, Problem> {
    /// Meshes together may take so many bytes: what two of the largest parts take.
    const TOGETHER: usize = 1 << 30;
    let mut bytes = Vec::with_capacity(hashes.len());
    let mut held = 0;
    for hash in hashes {
        let blob = mesh_blob(app, hash).await?;
        held += blob.len();
        if held > TOGETHER {
            return Err(Problem::bad_request("the parts it names are too large together: 1 GB is the most"));
        }
        bytes.push(blob);
    }
    at_desk(app, move |progress| {
        let meshes: Vec<Mesh> =
            bytes.iter().map(|b| mesh_bytes::from_bytes(b)).collect::<Result<_, _>>().map_err(Problem::internal)?;
        drop(bytes);
        work(meshes, progress)
    })
    .await
}
