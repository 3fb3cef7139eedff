//! Bodies and addresses of requests, whose faults are told as problems like all others.

use axum::extract::rejection::{JsonRejection, PathRejection};
use axum::extract::{FromRequest, FromRequestParts, Path};
use axum::http::StatusCode;

use crate::problem::Problem;

/// A JSON body.
#[derive(FromRequest)]
#[from_request(via(axum::Json), rejection(Problem))]
pub(crate) struct Sent<T>(pub T);

/// What an address names.
#[derive(FromRequestParts)]
#[from_request(via(Path), rejection(Problem))]
pub(crate) struct At<T>(pub T);

impl From<JsonRejection> for Problem {
    fn from(fault: JsonRejection) -> Self {
        match fault.status() {
            StatusCode::UNPROCESSABLE_ENTITY => Self::bad_body(fault.body_text()),
            StatusCode::PAYLOAD_TOO_LARGE => Self::too_many_words(),
            _ => Self::bad_request(fault.body_text()),
        }
    }
}

impl From<PathRejection> for Problem {
    fn from(fault: PathRejection) -> Self {
        Self::bad_request(fault.body_text())
    }
}
