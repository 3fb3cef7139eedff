//! Who gets in, how many at once, and how long they may take to say what they want.

use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Duration;

use axum::Router;
use axum::extract::Request;
use hyper::body::Incoming;
use hyper_util::rt::{TokioExecutor, TokioIo, TokioTimer};
use hyper_util::server::conn::auto::Builder;
use hyper_util::server::graceful::GracefulShutdown;
use hyper_util::service::TowerToHyperService;
use tokio::net::TcpListener;
use tokio::sync::{OwnedSemaphorePermit, Semaphore, watch};
use tower::ServiceExt;

use crate::problem::Problem;

/// Room for so many at once, with a queue.
pub(crate) struct Doors {
    room: std::sync::Arc<Semaphore>,
    waiting: AtomicUsize,
    most_waiting: usize,
    full: &'static str,
}

impl Doors {
    pub fn new(at_once: usize, most_waiting: usize, full: &'static str) -> Self {
        Self { room: std::sync::Arc::new(Semaphore::new(at_once)), waiting: AtomicUsize::new(0), most_waiting, full }
    }

    /// Waits for room; refused where too many wait already. Who holds what this gives is in.
    pub async fn enter(&self) -> Result<OwnedSemaphorePermit, Problem> {
        if let Ok(room) = self.room.clone().try_acquire_owned() {
            return Ok(room);
        }
        let queued = Queued::new(&self.waiting);
        if queued.before >= self.most_waiting {
            return Err(Problem::busy(self.full));
        }
        self.room.clone().acquire_owned().await.map_err(Problem::internal)
    }

    /// How many wait.
    pub fn waiting(&self) -> usize {
        self.waiting.load(Ordering::Relaxed)
    }
}

/// One that waits, until dropped.
struct Queued<'a> {
    waiting: &'a AtomicUsize,
    before: usize,
}

impl<'a> Queued<'a> {
    fn new(waiting: &'a AtomicUsize) -> Self {
        Self { waiting, before: waiting.fetch_add(1, Ordering::Relaxed) }
    }
}

impl Drop for Queued<'_> {
    fn drop(&mut self) {
        self.waiting.fetch_sub(1, Ordering::Relaxed);
    }
}

/// Answers on a listener until told to stop; then lets what is under way finish.
pub(crate) async fn answer(listener: TcpListener, router: Router, mut told: watch::Receiver<bool>) {
    /// Who has connected says within this time what they want.
    const HEADERS: Duration = Duration::from_secs(10);
    /// More connections wait until one is closed.
    const CONNECTIONS: usize = 1024;
    /// When no connection can be accepted (no file handles are left), it is tried again after this.
    const PAUSE: Duration = Duration::from_millis(50);
    let room = std::sync::Arc::new(Semaphore::new(CONNECTIONS));
    let open = GracefulShutdown::new();
    let mut server = Builder::new(TokioExecutor::new());
    server.http1().timer(TokioTimer::new()).header_read_timeout(HEADERS);
    loop {
        let Ok(place) = room.clone().acquire_owned().await else { break };
        let stream = tokio::select! {
            accepted = listener.accept() => accepted,
            _ = told.changed() => break,
        };
        let Ok((stream, _)) = stream else {
            tokio::time::sleep(PAUSE).await;
            continue;
        };
        // Answers are small or streams: they go out at once.
        let _ = stream.set_nodelay(true);
        let service = router.clone().map_request(|request: Request<Incoming>| request.map(axum::body::Body::new));
        let connection = server.serve_connection(TokioIo::new(stream), TowerToHyperService::new(service)).into_owned();
        let connection = open.watch(connection);
        tokio::spawn(async move {
            // A connection that breaks is the other side's matter.
            let _ = connection.await;
            drop(place);
        });
    }
    open.shutdown().await;
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)] // a failed test says so by panicking

    use super::*;

    #[tokio::test]
    async fn who_finds_no_room_waits_and_who_finds_a_long_queue_is_sent_away() {
        let doors = std::sync::Arc::new(Doors::new(1, 1, "Full"));
        let inside = doors.enter().await.unwrap();
        let queue = doors.clone();
        let waiting = tokio::spawn(async move { queue.enter().await.map(drop) });
        while doors.waiting() == 0 {
            tokio::task::yield_now().await;
        }
        assert_eq!(doors.enter().await.unwrap_err().status, 503);
        drop(inside);
        waiting.await.unwrap().unwrap();
        assert_eq!(doors.waiting(), 0);
        // Who gives up waiting leaves the queue.
        let inside = doors.enter().await.unwrap();
        let gave_up = tokio::time::timeout(Duration::from_millis(5), doors.enter()).await;
        assert!(gave_up.is_err() && doors.waiting() == 0);
        drop(inside);
    }
}
