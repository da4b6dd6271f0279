//! What a client sees of an error: problem details (RFC 9457) with field paths. The one place that decides it.

use axum::{
    Json,
    extract::rejection::{BytesRejection, JsonRejection, PathRejection, QueryRejection},
    http::{HeaderValue, StatusCode, Uri, header},
    response::{IntoResponse, Response},
};
use serde::Serialize;
use tally_core::watch::batch::Receipt;
use tally_store::StoreError;
use utoipa::ToSchema;

/// Problem details with the fields at fault.
#[derive(Debug, Serialize, ToSchema)]
pub struct Problem {
    /// `about:blank`: the status says what kind it is.
    #[serde(rename = "type")]
    pub kind: &'static str,
    pub title: String,
    pub status: u16,
    pub detail: String,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub errors: Vec<FieldError>,
    /// What the one who asks must give first.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub needs: Option<Needs>,
    /// What was asked is done, under the key that it came with; only its answer is lost.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub is_done: Option<bool>,
    /// For a strict batch: what was refused. Nothing of it was kept.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub receipt: Option<Receipt>,
}

/// What the one who asks must give first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Needs {
    /// To sign in.
    SignIn,
    /// The password again: it was given too long ago for this.
    Password,
}

/// A field and what is wrong with it.
#[derive(Debug, Serialize, ToSchema)]
pub struct FieldError {
    /// A path into what was sent, such as `rungs[1].setpoint`.
    pub field: String,
    pub reason: String,
}

/// Any error of a handler.
#[derive(Debug)]
pub enum ApiError {
    Store(StoreError),
    /// The request itself can't be read.
    Request {
        status: StatusCode,
        field: Option<String>,
        reason: String,
    },
    /// Nobody is known to ask, or it was too long ago that they proved it.
    Unsigned {
        needs: Needs,
        reason: String,
    },
    /// It is too often; after so many milliseconds it may be asked again.
    Wait {
        ms: i64,
        reason: String,
    },
}

impl From<StoreError> for ApiError {
    fn from(error: StoreError) -> Self {
        Self::Store(error)
    }
}

impl ApiError {
    /// A parameter or part of the body that makes no sense.
    pub fn bad(field: impl Into<String>, reason: impl ToString) -> Self {
        Self::Request { status: StatusCode::BAD_REQUEST, field: Some(field.into()), reason: reason.to_string() }
    }

    /// The request is not taken, and why.
    pub(crate) fn request(status: StatusCode, reason: String) -> Self {
        Self::Request { status, field: None, reason }
    }

    /// Nobody is signed in.
    pub(crate) fn nobody() -> Self {
        Self::unsigned(Needs::SignIn, "nobody is signed in")
    }

    /// It is not known who asks, or not well enough.
    pub(crate) fn unsigned(needs: Needs, reason: impl Into<String>) -> Self {
        Self::Unsigned { needs, reason: reason.into() }
    }

    /// It may be asked again after so many milliseconds.
    pub(crate) fn wait(ms: i64, reason: &str) -> Self {
        let seconds = seconds(ms);
        Self::Wait { ms, reason: format!("{reason}; try again in {seconds} s") }
    }

    /// The status it is answered with.
    #[cfg(test)]
    pub(crate) fn status(&self) -> StatusCode {
        match self {
            Self::Request { status, .. } => *status,
            Self::Store(error) => store_status(error),
            Self::Unsigned { .. } => StatusCode::UNAUTHORIZED,
            Self::Wait { .. } => StatusCode::TOO_MANY_REQUESTS,
        }
    }
}

/// Whole seconds, never too few.
fn seconds(ms: i64) -> i64 {
    ms.div_euclid(1_000) + i64::from(ms.rem_euclid(1_000) > 0)
}

impl From<JsonRejection> for ApiError {
    fn from(rejection: JsonRejection) -> Self {
        let text = rejection.body_text();
        // "Failed to deserialize the JSON body into the target type: rungs[0].setpoint: invalid type …"
        let inner = text.split_once(": ").map_or(text.as_str(), |(_, inner)| inner);
        // A list that is too long for its type is a matter of syntax to the reader, and has its path all the same.
        let read = matches!(rejection, JsonRejection::JsonDataError(_) | JsonRejection::JsonSyntaxError(_));
        match at_fault(inner).filter(|_| read) {
            Some((field, reason)) => Self::Request { status: rejection.status(), field: Some(field), reason },
            None => Self::request(rejection.status(), text),
        }
    }
}

/// Which field a reader's message is about, and what it says of it. Where a part is at fault, the field of it that is
/// missing, or that its own type names: "rungs[0]: field `baseline`: …".
fn at_fault(message: &str) -> Option<(String, String)> {
    let (path, reason) = message.split_once(": ").filter(|(path, _)| !path.contains(' ')).unwrap_or(("", message));
    let missing = reason.strip_prefix("missing field `").and_then(|rest| rest.split_once('`')).map(|(name, _)| name);
    let own = reason.strip_prefix("field `").and_then(|rest| rest.split_once("`: "));
    let (name, reason) = own.map_or((missing, reason), |(name, reason)| (Some(name), reason));
    let dot = if path.is_empty() || name.is_none() { "" } else { "." };
    let field = format!("{path}{dot}{}", name.unwrap_or_default());
    (!field.is_empty()).then(|| (field, reason.to_owned()))
}

impl From<QueryRejection> for ApiError {
    fn from(rejection: QueryRejection) -> Self {
        Self::request(rejection.status(), rejection.body_text())
    }
}

impl From<PathRejection> for ApiError {
    fn from(rejection: PathRejection) -> Self {
        Self::request(rejection.status(), rejection.body_text())
    }
}

impl From<BytesRejection> for ApiError {
    fn from(rejection: BytesRejection) -> Self {
        Self::request(rejection.status(), rejection.body_text())
    }
}

/// A route that does not take the method.
pub async fn no_such_method(method: axum::http::Method, uri: Uri) -> ApiError {
    ApiError::request(StatusCode::METHOD_NOT_ALLOWED, format!("{method} is not taken at {}", uri.path()))
}

/// What a client sees of a defect: its details are in the log.
pub fn defect(_: Box<dyn std::any::Any + Send>) -> Response {
    ApiError::request(StatusCode::INTERNAL_SERVER_ERROR, DEFECT.into()).into_response()
}

const DEFECT: &str = "something went wrong on the server; its log says what";

/// `/api/…` that is no route.
pub async fn no_such_route(uri: Uri) -> ApiError {
    ApiError::request(StatusCode::NOT_FOUND, format!("there is nothing at {}", uri.path()))
}

impl IntoResponse for ApiError {
    fn into_response(self) -> Response {
        let (mut needs, mut wait) = (None, None);
        let is_done = matches!(self, Self::Store(StoreError::Done)).then_some(true);
        let (status, detail, errors, receipt) = match self {
            Self::Request { status, field, reason } => {
                let errors = field.map(|field| FieldError { field, reason: reason.clone() }).into_iter().collect();
                (status, reason, errors, None)
            }
            Self::Store(error) => store_problem(error),
            Self::Unsigned { needs: needed, reason } => {
                needs = Some(needed);
                (StatusCode::UNAUTHORIZED, reason, vec![], None)
            }
            Self::Wait { ms, reason } => {
                wait = Some(seconds(ms));
                (StatusCode::TOO_MANY_REQUESTS, reason, vec![], None)
            }
        };
        let problem = Problem {
            kind: "about:blank",
            title: status.canonical_reason().unwrap_or("Error").into(),
            status: status.as_u16(),
            detail,
            errors,
            needs,
            is_done,
            receipt,
        };
        let mut response =
            (status, [(header::CONTENT_TYPE, "application/problem+json")], Json(problem)).into_response();
        let headers = response.headers_mut();
        if let Some(seconds) = wait {
            headers.insert(header::RETRY_AFTER, seconds.into());
        }
        if needs.is_some() {
            headers.insert(header::WWW_AUTHENTICATE, HeaderValue::from_static("Bearer"));
        }
        response
    }
}

fn store_status(error: &StoreError) -> StatusCode {
    match error {
        StoreError::Invalid { .. } | StoreError::Strict(_) => StatusCode::UNPROCESSABLE_ENTITY,
        StoreError::NotFound { .. } | StoreError::Beyond { .. } => StatusCode::NOT_FOUND,
        StoreError::Conflict(_) | StoreError::Done | StoreError::Cancelled => StatusCode::CONFLICT,
        StoreError::MayNot(_) | StoreError::MayNotSee(_) | StoreError::NotTheirs(_) => StatusCode::FORBIDDEN,
        StoreError::Stopped => StatusCode::SERVICE_UNAVAILABLE,
        StoreError::Full => StatusCode::INSUFFICIENT_STORAGE,
        StoreError::Corrupt { .. }
        | StoreError::File(_)
        | StoreError::Newer
        | StoreError::Sqlite(_)
        | StoreError::Folder { .. }
        | StoreError::Empty { .. }
        | StoreError::WithoutLog { .. }
        | StoreError::InUse { .. } => StatusCode::INTERNAL_SERVER_ERROR,
    }
}

fn store_problem(error: StoreError) -> (StatusCode, String, Vec<FieldError>, Option<Receipt>) {
    let (status, detail) = (store_status(&error), error.to_string());
    match error {
        StoreError::Invalid { field, reason } => (status, detail, vec![FieldError { field, reason }], None),
        StoreError::Strict(receipt) => (status, detail, vec![], Some(*receipt)),
        error if status == StatusCode::INTERNAL_SERVER_ERROR => {
            tracing::error!(?error, "the store failed");
            (status, DEFECT.into(), vec![], None)
        }
        _ => (status, detail, vec![], None),
    }
}

#[cfg(test)]
mod tests {
    use super::at_fault;

    #[test]
    fn a_readers_message_names_the_field_at_fault() {
        for (message, field, reason) in [
            ("rungs[0].setpoint: invalid type: string", "rungs[0].setpoint", "invalid type: string"),
            ("rungs[1]: missing field `severity` at line 1", "rungs[1].severity", "missing field `severity` at line 1"),
            ("missing field `reason` at line 1", "reason", "missing field `reason` at line 1"),
            (
                "rungs[0]: field `baseline`: alert high: a change needs it",
                "rungs[0].baseline",
                "alert high: a change needs it",
            ),
        ] {
            assert_eq!(at_fault(message), Some((field.into(), reason.into())), "{message}");
        }
        assert_eq!(at_fault("expected value at line 1 column 1"), None);
    }
}
