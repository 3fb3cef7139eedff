//! The desk: a process of its own for what is worked out while somebody waits for the answer, so that neither its memory nor a
//! fault in it takes the server down. Requests are passed on to it over a socket only this user can open.

use std::os::unix::fs::DirBuilderExt;
use std::path::{Path, PathBuf};
use std::process::Stdio;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Duration;

use axum::Router;
use axum::body::{Body, Bytes, to_bytes};
use axum::extract::{OriginalUri, Request, State};
use axum::http::Uri;
use axum::http::request::Parts;
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};
use hyper::client::conn::http1::handshake;
use hyper_util::rt::TokioIo;
use tokio::io::{AsyncBufReadExt, AsyncReadExt, BufReader, stdin};
use tokio::net::{UnixListener, UnixStream};
use tokio::process::ChildStdout;
use tokio::sync::{RwLock, watch};
use tokio::task::JoinHandle;

use super::keep::{Life, Why, rest};
use super::limit_memory;
use crate::problem::Problem;
use crate::{App, BODY};

/// What a desk says when it can be asked.
const READY: &str = "ready";

/// Where the desk of this server is, and what became of the last one.
#[derive(Clone, Debug, Default)]
struct Place {
    socket: Option<PathBuf>,
    why: Option<Why>,
}

/// The way to the desk.
pub(crate) struct Desk {
    place: watch::Sender<Place>,
    /// Who was asking when a desk ended is heard again with nobody beside.
    alone: RwLock<()>,
    asking: AtomicUsize,
}

impl Default for Desk {
    fn default() -> Self {
        Self { place: watch::Sender::new(Place::default()), alone: RwLock::new(()), asking: AtomicUsize::new(0) }
    }
}

/// The desk at this socket ended before it answered.
struct Lost(PathBuf);

impl Desk {
    /// How many requests are at the desk.
    pub fn asking(&self) -> usize {
        self.asking.load(Ordering::Relaxed)
    }

    /// The desk's answer. Where the desk ends meanwhile it is asked once more, alone.
    pub async fn ask(&self, request: Request, memory_mb: u64) -> Result<Response, Problem> {
        let _counted = Counted::one(&self.asking);
        let (parts, body) = request.into_parts();
        let body = to_bytes(body, BODY).await.map_err(|_| Problem::too_large(BODY))?;
        {
            let _beside_others = self.alone.read().await;
            match self.pass_on(&parts, body.clone()).await? {
                Ok(answer) => return Ok(answer),
                Err(lost) => drop(self.end_of(lost).await),
            }
        }
        let _alone = self.alone.write().await;
        match self.pass_on(&parts, body).await? {
            Ok(answer) => Ok(answer),
            Err(lost) => Err(match self.end_of(lost).await {
                Some(Why::Memory) => Problem::too_much_memory(memory_mb),
                _ => Problem::worker_died(),
            }),
        }
    }

    async fn pass_on(&self, parts: &Parts, body: Bytes) -> Result<Result<Response, Lost>, Problem> {
        let socket = self.socket().await?;
        let Ok(stream) = UnixStream::connect(&socket).await else { return Ok(Err(Lost(socket))) };
        let Ok((mut sender, connection)) = handshake(TokioIo::new(stream)).await else { return Ok(Err(Lost(socket))) };
        // It ends with the answer, or when nobody waits for that any more.
        let connection = tokio::spawn(connection);
        let end = Ends(connection);
        let mut request = Request::new(Body::from(body));
        *request.method_mut() = parts.method.clone();
        *request.headers_mut() = parts.headers.clone();
        *request.uri_mut() = whole_path(parts);
        let Ok(answer) = sender.send_request(request).await else { return Ok(Err(Lost(socket))) };
        let (parts, body) = answer.into_parts();
        // The connection is needed until the body has come.
        let body = Body::new(Held { body, _end: end });
        Ok(Ok(Response::from_parts(parts, body)))
    }

    /// Where the desk is, as soon as there is one.
    async fn socket(&self) -> Result<PathBuf, Problem> {
        /// A desk begins within a fraction of this.
        const LONGEST: Duration = Duration::from_secs(10);
        let mut place = self.place.subscribe();
        let found = tokio::time::timeout(LONGEST, place.wait_for(|p| p.socket.is_some())).await;
        let socket = found.ok().and_then(Result::ok).and_then(|p| p.socket.clone());
        socket.ok_or_else(|| Problem::busy("What works out walls, clearances and drawings is being started anew"))
    }

    /// What became of a desk, as soon as that is known.
    async fn end_of(&self, Lost(socket): Lost) -> Option<Why> {
        const LONGEST: Duration = Duration::from_secs(2);
        let mut place = self.place.subscribe();
        let known = place.wait_for(|p| p.socket.as_ref() != Some(&socket));
        let known = tokio::time::timeout(LONGEST, known).await;
        known.ok().and_then(Result::ok).and_then(|p| p.why)
    }
}

/// The path a request came with, before routing took its beginning off.
fn whole_path(parts: &Parts) -> Uri {
    let original = parts.extensions.get::<OriginalUri>().map_or(&parts.uri, |o| &o.0);
    original.path_and_query().map(|p| Uri::from(p.clone())).unwrap_or_default()
}

/// One more of something, until dropped.
struct Counted<'a>(&'a AtomicUsize);

impl<'a> Counted<'a> {
    fn one(count: &'a AtomicUsize) -> Self {
        count.fetch_add(1, Ordering::Relaxed);
        Self(count)
    }
}

impl Drop for Counted<'_> {
    fn drop(&mut self) {
        self.0.fetch_sub(1, Ordering::Relaxed);
    }
}

/// A connection that is closed when this is dropped.
struct Ends(JoinHandle<hyper::Result<()>>);

impl Drop for Ends {
    fn drop(&mut self) {
        self.0.abort();
    }
}

/// A body with the connection it comes over.
struct Held {
    body: hyper::body::Incoming,
    _end: Ends,
}

impl hyper::body::Body for Held {
    type Data = Bytes;
    type Error = hyper::Error;

    fn poll_frame(
        mut self: std::pin::Pin<&mut Self>,
        context: &mut std::task::Context<'_>,
    ) -> std::task::Poll<Option<Result<hyper::body::Frame<Bytes>, hyper::Error>>> {
        std::pin::Pin::new(&mut self.body).poll_frame(context)
    }

    fn is_end_stream(&self) -> bool {
        self.body.is_end_stream()
    }

    fn size_hint(&self) -> hyper::body::SizeHint {
        self.body.size_hint()
    }
}

/// Keeps a desk for this server until told to stop.
pub(super) async fn keep(app: Arc<App>, mut stopped: watch::Receiver<bool>) {
    let Some(desk) = &app.desk else { return };
    let folder = std::env::temp_dir().join(format!("nimbet-desk-{}", uuid::Uuid::new_v4()));
    if let Err(e) = std::fs::DirBuilder::new().mode(0o700).create(&folder) {
        tracing::error!("no folder for the way to the desk: {e}");
        return;
    }
    for number in 0u64.. {
        if *stopped.borrow() {
            break;
        }
        let socket = folder.join(number.to_string());
        let life = Life::begin(&app, &["desk-process", "--socket", &socket.to_string_lossy()], Stdio::piped());
        let why = match life {
            Ok(mut life) => {
                let open = life.said().map(|said| tokio::spawn(open_when_ready(app.clone(), said, socket.clone())));
                let why = life.watch_over(None, &mut stopped).await;
                if let Some(open) = open {
                    open.abort();
                }
                if why != Why::Told {
                    tracing::warn!("the desk ended: {}", why.label());
                }
                life.rest(why, &mut stopped).await;
                why
            }
            Err(e) => {
                tracing::error!("no desk can be begun: {e}");
                rest(&mut stopped).await;
                Why::Crash
            }
        };
        desk.place.send_replace(Place { socket: None, why: Some(why) });
    }
    let _ = std::fs::remove_dir_all(folder);
}

/// Lets requests go to a desk once it says that it listens.
async fn open_when_ready(app: Arc<App>, said: ChildStdout, socket: PathBuf) {
    let mut lines = BufReader::new(said).lines();
    while let Ok(Some(line)) = lines.next_line().await {
        if line == READY
            && let Some(desk) = &app.desk
        {
            desk.place.send_modify(|place| place.socket = Some(socket.clone()));
        }
    }
}

/// Answers at a socket until the server that began this process closes its input.
pub(crate) async fn run(app: Arc<App>, socket: &Path, answers: Router) -> std::io::Result<()> {
    limit_memory(app.config.task_memory_mb << 20);
    let listener = UnixListener::bind(socket)?;
    println!("{READY}");
    let ended = async {
        let (mut input, mut rest) = (stdin(), [0; 64]);
        while matches!(input.read(&mut rest).await, Ok(1..)) {}
    };
    let done = tokio::select! {
        done = axum::serve(listener, answers) => done,
        () = ended => Ok(()),
    };
    // A server that was killed cannot tidy up behind itself; a folder with other desks in it stays.
    let _ = std::fs::remove_file(socket);
    let _ = socket.parent().map(std::fs::remove_dir);
    done
}

/// How far the desk is with a request, where there is a desk.
pub(crate) async fn how_far(State(app): State<Arc<App>>, request: Request, next: Next) -> Response {
    if let Some(desk) = &app.desk {
        let (parts, _) = request.into_parts();
        if let Ok(Ok(answer)) = desk.pass_on(&parts, Bytes::new()).await {
            return answer;
        }
        return next.run(Request::from_parts(parts, Body::empty())).await;
    }
    next.run(request).await
}

/// Passes a request on to the desk, where there is one; in the desk itself it is answered.
pub(crate) async fn at_the_desk(State(app): State<Arc<App>>, request: Request, next: Next) -> Response {
    let Some(desk) = &app.desk else { return next.run(request).await };
    let answer = desk.ask(request, app.config.task_memory_mb).await;
    answer.unwrap_or_else(IntoResponse::into_response)
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)] // a failed test says so by panicking

    use axum::http::StatusCode;

    use super::*;

    /// Desks one after the other; the first few hang up and are gone, the others say where they were asked.
    async fn sits(desk: Arc<Desk>, folder: PathBuf, hang_up: usize) {
        for n in 0.. {
            let socket = folder.join(n.to_string());
            let listener = UnixListener::bind(&socket).unwrap();
            desk.place.send_replace(Place { socket: Some(socket), why: Some(Why::Memory) });
            let (stream, _) = listener.accept().await.unwrap();
            if n < hang_up {
                drop(stream);
                continue;
            }
            let service = hyper::service::service_fn(|request: hyper::Request<hyper::body::Incoming>| async move {
                Ok::<_, std::convert::Infallible>(Response::new(Body::from(request.uri().to_string())))
            });
            let _ = hyper::server::conn::http1::Builder::new().serve_connection(TokioIo::new(stream), service).await;
        }
    }

    #[tokio::test]
    async fn who_is_cut_off_is_heard_again_once() {
        for (hang_up, status) in [(0, 200), (1, 200), (2, 422)] {
            let folder = std::env::temp_dir().join(format!("nimbet-desk-test-{}", uuid::Uuid::new_v4()));
            std::fs::create_dir(&folder).unwrap();
            let desk = Arc::new(Desk::default());
            let sitting = tokio::spawn(sits(desk.clone(), folder.clone(), hang_up));
            let mut request = Request::new(Body::empty());
            *request.uri_mut() = Uri::from_static("/walls?x=1");
            request.extensions_mut().insert(OriginalUri(Uri::from_static("/api/v1/walls?x=1")));
            match desk.ask(request, 64).await {
                Ok(answer) => {
                    assert_eq!((answer.status(), status), (StatusCode::OK, 200));
                    let body = to_bytes(answer.into_body(), BODY).await.unwrap();
                    assert_eq!(body, "/api/v1/walls?x=1");
                }
                Err(problem) => assert_eq!(problem.status, status, "{problem:?}"),
            }
            assert_eq!(desk.asking(), 0);
            sitting.abort();
            std::fs::remove_dir_all(folder).unwrap();
        }
    }
}
