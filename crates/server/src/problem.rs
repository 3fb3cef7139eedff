//! Errors as RFC 9457 problem details, with places in the model where there are any.

use axum::Json;
use axum::http::{HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};
use nimbet_formats::ReadError;
use nimbet_ledger::{BringInError, EditError, NoRecipe, OfferedBody, ReleaseError, Step, StepError};
use nimbet_trade::TradeError;
use nimbet_trade::release::Check;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::store::{StoreError, Unfinished};

/// What went wrong, in a form people and programs can read.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct Problem {
    /// A stable name: `urn:nimbet:stale-revision` …
    #[serde(rename = "type")]
    pub kind: String,
    /// A short title.
    pub title: String,
    /// The HTTP status.
    pub status: u16,
    /// A plain sentence.
    pub detail: String,
    /// Places in the model, mm.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub places: Vec<[f64; 3]>,
    /// The checks behind a refused release.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(schema_with = crate::schema::check_list)]
    pub checks: Vec<Check>,
    /// The bodies of a file that was to be asked about.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(schema_with = crate::schema::body_list)]
    pub bodies: Vec<OfferedBody>,
    /// The greatest extent, in the numbers of a file that does not tell its unit.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub across: Option<f64>,
}

impl Problem {
    fn new(kind: &str, title: &str, status: StatusCode, detail: impl Into<String>) -> Self {
        Self {
            kind: format!("urn:nimbet:{kind}"),
            title: title.into(),
            status: status.as_u16(),
            detail: detail.into(),
            places: vec![],
            checks: vec![],
            bodies: vec![],
            across: None,
        }
    }

    pub(crate) fn not_found(what: &str) -> Self {
        Self::new("not-found", "Not found", StatusCode::NOT_FOUND, format!("There is no such {what}."))
    }

    pub(crate) fn bad_request(detail: impl Into<String>) -> Self {
        Self::new("bad-request", "Not understood", StatusCode::BAD_REQUEST, detail)
    }

    pub(crate) fn bad_body(detail: impl Into<String>) -> Self {
        Self::new("bad-body", "Not understood", StatusCode::UNPROCESSABLE_ENTITY, detail)
    }

    pub(crate) fn stale(held: i64, now: i64) -> Self {
        let detail =
            format!("The job has changed since you looked (revision {held}, now {now}). Nothing was done; look again.");
        Self::new("stale-revision", "The job has changed", StatusCode::CONFLICT, detail)
    }

    pub(crate) fn part_changed(part: &str) -> Self {
        let detail = format!(
            "{part} was changed before its release began. Nothing was released; look at it and release it again."
        );
        Self::new("stale-revision", "The part has changed", StatusCode::CONFLICT, detail)
    }

    pub(crate) fn too_large(limit: usize) -> Self {
        let detail = format!("What was sent is larger than {} MB, the most allowed here.", limit >> 20);
        Self::new("too-large", "File too large", StatusCode::PAYLOAD_TOO_LARGE, detail)
    }

    /// More was sent than this address takes, which is not a file.
    pub(crate) fn too_many_words() -> Self {
        let detail = "What was sent is larger than what this address takes: 64 kB of a few words and numbers, 2 MB of a step, \
            a recipe or settings.";
        Self::new("too-large", "Too much at once", StatusCode::PAYLOAD_TOO_LARGE, detail)
    }

    /// Why a step that is done over cannot be done.
    pub(crate) fn stopped(why: &str, places: Vec<[f64; 3]>, new_pick: bool) -> Self {
        let (kind, title) =
            if new_pick { ("needs-new-pick", "Pick again") } else { ("refused", "This cannot be done") };
        Self { places, ..Self::new(kind, title, StatusCode::UNPROCESSABLE_ENTITY, sentence(why)) }
    }

    /// A step on a part that an earlier step leaves unfinished.
    pub(crate) fn after_stopped(step: &Step) -> Self {
        let detail = format!(
            "Step {} ({}) is stopped, so the part is not what it was meant to be. Reopen that step, park it or remove it first.",
            step.number,
            step.action.title()
        );
        Self::new("after-stopped", "An earlier step is stopped", StatusCode::CONFLICT, detail)
    }

    pub(crate) fn too_much_memory(limit: u64) -> Self {
        let detail = format!(
            "The work needed more than {limit} MB, the most a task may have here. Nothing was changed. Coarser figures, or a \
             part with fewer triangles, need less."
        );
        Self::new("too-much-memory", "Too much memory", StatusCode::UNPROCESSABLE_ENTITY, detail)
    }

    pub(crate) fn too_long(limit: u64) -> Self {
        let detail = format!(
            "The work took more than {limit} s, the most a task may take here. Nothing was changed. Coarser figures, or a part \
             with fewer triangles, take less."
        );
        Self::new("too-long", "It takes too long", StatusCode::UNPROCESSABLE_ENTITY, detail)
    }

    /// The database does not answer.
    pub(crate) fn away() -> Self {
        let detail = "The database does not answer. Nothing was lost; it is asked again every second.";
        Self::new("database-away", "The database does not answer", StatusCode::SERVICE_UNAVAILABLE, detail)
    }

    /// The database cannot keep more.
    pub(crate) fn no_room() -> Self {
        let detail = "There is no room left where the database keeps its data. Nothing was changed, and what was kept is whole. \
            Its operator can make room (docs/operate.md).";
        Self::new("no-room", "No room left", StatusCode::INSUFFICIENT_STORAGE, detail)
    }

    /// Too much is under way.
    pub(crate) fn busy(what: &str) -> Self {
        let detail = format!("{what} at the moment. Ask again in a while.");
        Self::new("busy", "Busy", StatusCode::SERVICE_UNAVAILABLE, detail)
    }

    pub(crate) fn too_slow() -> Self {
        let detail = "The file came in too slowly, and was given up. Send it again.";
        Self::new("too-slow", "Given up", StatusCode::REQUEST_TIMEOUT, detail)
    }

    pub(crate) fn forbidden(detail: &str) -> Self {
        Self::new("forbidden", "Not from here", StatusCode::FORBIDDEN, detail)
    }

    pub(crate) fn unknown_host(host: &str) -> Self {
        let detail = format!(
            "This server does not answer for the name {host}. Its operator can allow it with --host (docs/operate.md)."
        );
        Self::new("unknown-host", "Not this server", StatusCode::MISDIRECTED_REQUEST, detail)
    }

    pub(crate) fn no_token() -> Self {
        let detail =
            "This server is for those who have its token: open it once as /?token=…, or send the token as a bearer.";
        Self::new("no-token", "A token is needed", StatusCode::UNAUTHORIZED, detail)
    }

    pub(crate) fn worker_died() -> Self {
        let detail =
            "The work was begun twice, and each time the program stopped in the middle of it. Nothing was changed.";
        Self::new("work-lost", "The work was lost", StatusCode::INTERNAL_SERVER_ERROR, detail)
    }

    /// A result whose figures are no numbers.
    fn beyond_numbers(what: &str) -> Self {
        let detail =
            format!("In {what} there would be figures that are no numbers, so it was not kept. Nothing was changed.");
        Self::new("refused", "This cannot be done", StatusCode::UNPROCESSABLE_ENTITY, detail)
    }

    /// As it is kept with a task.
    pub fn written(&self) -> serde_json::Value {
        serde_json::to_value(self).unwrap_or_default()
    }

    /// As the end of a task.
    pub(crate) fn unfinished(&self) -> Unfinished {
        Unfinished { fault: self.written(), cancelled: self.is_cancelled() }
    }

    pub(crate) fn cancelled() -> Self {
        Self::new("cancelled", "Cancelled", StatusCode::CONFLICT, "The work was cancelled; nothing was changed.")
    }

    pub(crate) fn is_cancelled(&self) -> bool {
        self.kind == "urn:nimbet:cancelled"
    }

    pub(crate) fn internal(what: impl std::fmt::Display) -> Self {
        tracing::error!("{what}");
        let detail = "Something went wrong in the program; the log says more. Nothing was changed.";
        Self::new("internal", "Fault in the program", StatusCode::INTERNAL_SERVER_ERROR, detail)
    }
}

impl IntoResponse for Problem {
    fn into_response(self) -> Response {
        let status = StatusCode::from_u16(self.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
        let mut answer = (status, [(header::CONTENT_TYPE, "application/problem+json")], Json(self)).into_response();
        if status == StatusCode::SERVICE_UNAVAILABLE {
            answer.headers_mut().insert(header::RETRY_AFTER, HeaderValue::from_static("1"));
        }
        if matches!(
            status,
            StatusCode::PAYLOAD_TOO_LARGE | StatusCode::REQUEST_TIMEOUT | StatusCode::INSUFFICIENT_STORAGE
        ) {
            // The rest of the request is never read, so the connection ends here: who is told can make no other
            // request on it, and find it closed halfway.
            answer.headers_mut().insert(header::CONNECTION, HeaderValue::from_static("close"));
        }
        answer
    }
}

impl From<StoreError> for Problem {
    fn from(error: StoreError) -> Self {
        match error {
            StoreError::Stale { held, now } => Self::stale(held, now),
            StoreError::NoSuch(what) => Self::not_found(what),
            StoreError::LeaseLost => Self::cancelled(),
            StoreError::Unreadable(what) => Self::beyond_numbers(&what),
            away if away.is_away() => {
                tracing::warn!("{away}");
                Self::away()
            }
            full if full.has_no_room() => {
                tracing::error!("{full}");
                Self::no_room()
            }
            other => Self::internal(other),
        }
    }
}

impl From<StepError> for Problem {
    fn from(error: StepError) -> Self {
        let (kind, title) = match &error {
            StepError::Trade(TradeError::Cancelled(_)) => return Self::cancelled(),
            StepError::Trade(TradeError::NothingToDo { .. }) => ("nothing-to-do", "Nothing to do"),
            StepError::Trade(TradeError::Refused { .. }) => ("refused", "This cannot be done"),
            StepError::Trade(TradeError::NeedsNewPick { .. }) => ("needs-new-pick", "Pick again"),
            StepError::Trade(TradeError::Mesh(_)) => return Self::internal(error),
            StepError::UnknownMaterial(_)
            | StepError::NotOnAPart
            | StepError::NoName
            | StepError::NoSuchPart(_)
            | StepError::NoPart
            | StepError::OwnPartOnly => ("bad-step", "This is no step for a part"),
        };
        let places = error.places().into_iter().map(|p| p.to_array()).collect();
        Self { places, ..Self::new(kind, title, StatusCode::UNPROCESSABLE_ENTITY, sentence(&error.to_string())) }
    }
}

/// With a capital at its head and a full stop at its end.
pub(crate) fn sentence(text: &str) -> String {
    let mut text = text.to_owned();
    if let Some(first) = text.get(..1).map(str::to_uppercase) {
        text.replace_range(..1, &first);
    }
    text + "."
}

impl From<EditError> for Problem {
    fn from(error: EditError) -> Self {
        let (kind, status) = match error {
            EditError::NoSuchStep(_) => ("not-found", StatusCode::NOT_FOUND),
            EditError::Needed { .. } => ("needed", StatusCode::CONFLICT),
            EditError::Nothing => ("nothing-to-do", StatusCode::UNPROCESSABLE_ENTITY),
            EditError::OutOfOrder { .. } | EditError::BroughtIn | EditError::TooMany(_) => {
                ("refused", StatusCode::UNPROCESSABLE_ENTITY)
            }
        };
        Self::new(kind, "The ledger stays as it is", status, sentence(&error.to_string()))
    }
}

impl From<NoRecipe> for Problem {
    fn from(error: NoRecipe) -> Self {
        Self::new("no-recipe", "This cannot be a recipe", StatusCode::UNPROCESSABLE_ENTITY, error.to_string())
    }
}

impl From<ReadError> for Problem {
    fn from(error: ReadError) -> Self {
        if matches!(error, ReadError::Cancelled(_)) {
            return Self::cancelled();
        }
        if let ReadError::UnitInDoubt { across } = error {
            let (title, detail) = ("Which unit is it in?", error.to_string());
            let told = Self::new("unit-in-doubt", title, StatusCode::UNPROCESSABLE_ENTITY, detail);
            return Self { across: Some(across), ..told };
        }
        Self::new("unreadable-file", "The file cannot be read", StatusCode::UNPROCESSABLE_ENTITY, error.to_string())
    }
}

impl From<BringInError> for Problem {
    fn from(error: BringInError) -> Self {
        let detail = sentence(&error.to_string());
        match error {
            BringInError::Read(error) => error.into(),
            BringInError::SeveralBodies(bodies) => Self {
                bodies,
                ..Self::new("several-bodies", "Which of its bodies?", StatusCode::UNPROCESSABLE_ENTITY, detail)
            },
            BringInError::NoSuchBody { .. } | BringInError::TooManyBodies(_) => {
                Self::new("unreadable-file", "The file cannot be read", StatusCode::UNPROCESSABLE_ENTITY, detail)
            }
        }
    }
}

impl From<ReleaseError> for Problem {
    fn from(error: ReleaseError) -> Self {
        let detail = error.to_string();
        match error {
            ReleaseError::Cancelled(_) => Self::cancelled(),
            ReleaseError::NotProved(checks) => {
                Self { checks, ..Self::new("not-proved", "Not released", StatusCode::UNPROCESSABLE_ENTITY, detail) }
            }
            ReleaseError::Write(_) | ReleaseError::ReadBack(_) => Self::internal(detail),
        }
    }
}
