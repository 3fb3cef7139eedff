//! What is refused before it was read whole: the rest of the request is taken in and dropped before the answer goes out. Many who send
//! listen only when they have said everything; told in the middle of it, they would find the connection broken, not the reason.

use std::pin::Pin;
use std::sync::{Arc, Mutex};
use std::task::{Context, Poll};
use std::time::Duration;

use axum::body::{Body, BodyDataStream, Bytes};
use axum::extract::Request;
use axum::middleware::Next;
use axum::response::Response;
use futures::{Stream, StreamExt};

/// No one is listened to for longer than this once the answer is known.
const LONGEST: Duration = Duration::from_secs(20);

/// Where what was not read is left.
type Left = Arc<Mutex<Option<BodyDataStream>>>;

/// The body of a request; who drops it leaves the rest.
struct Lent {
    body: Option<BodyDataStream>,
    left: Left,
}

impl Stream for Lent {
    type Item = Result<Bytes, axum::Error>;

    fn poll_next(mut self: Pin<&mut Self>, context: &mut Context<'_>) -> Poll<Option<Self::Item>> {
        match &mut self.body {
            Some(body) => body.poll_next_unpin(context),
            None => Poll::Ready(None),
        }
    }
}

impl Drop for Lent {
    fn drop(&mut self) {
        if let Ok(mut left) = self.left.lock() {
            *left = self.body.take();
        }
    }
}

/// Answers; a refusal goes out once the request has been heard out.
pub(super) async fn heard_out(request: Request, next: Next) -> Response {
    let left = Left::default();
    let (head, body) = request.into_parts();
    let lent = Lent { body: Some(body.into_data_stream()), left: left.clone() };
    let answer = next.run(Request::from_parts(head, Body::from_stream(lent))).await;
    let rest = left.lock().ok().and_then(|mut left| left.take());
    if let Some(mut rest) = rest.filter(|_| !answer.status().is_success()) {
        let _ = tokio::time::timeout(LONGEST, async { while let Some(Ok(_)) = rest.next().await {} }).await;
    }
    answer
}
