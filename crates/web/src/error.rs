//! What a person sees when it goes wrong.

use crate::watch::RequestId;
use askama::Template;
use axum::Json;
use axum::body::HttpBody;
use axum::extract::Request;
use axum::http::{HeaderMap, StatusCode, header};
use axum::middleware::Next;
use axum::response::{Html, IntoResponse, Response};
use fenlo_core::plan::{EditError, Fault};
use fenlo_store::StoreError;
use serde_json::json;
use std::any::Any;
use tower_http::csrf::ProtectionError;

/// What a handler can fail with; each becomes a page or a fragment that a person can act on.
#[derive(Debug)]
pub enum AppError {
    /// There is no such thing.
    NotFound,
    /// Somebody else was first.
    Conflict(String),
    /// The request makes no sense.
    Bad(String),
    /// Figures that can't be used and that belong to no field of the form.
    Faults(Vec<Fault>),
    /// The database is away.
    Away(String),
    /// Something that should not happen.
    Broken(String),
    /// It took longer than any page may.
    TimedOut,
    /// A form of another site.
    CrossSite,
    /// A form's address, opened as a page or the other way round.
    WrongMethod,
    /// More than the address takes.
    TooLarge,
    /// Too much is in hand already.
    Busy(String),
    /// Said before: status, title, what to do.
    Said(StatusCode, &'static str, Vec<String>),
}

impl AppError {
    /// For the log.
    pub fn cause(self) -> String {
        match self {
            Self::Away(cause) | Self::Broken(cause) | Self::Bad(cause) => cause,
            other => format!("{other:?}"),
        }
    }

    pub fn broken(error: impl std::fmt::Display) -> Self {
        Self::Broken(error.to_string())
    }
}

impl From<StoreError> for AppError {
    fn from(error: StoreError) -> Self {
        match error {
            StoreError::NotFound => Self::NotFound,
            StoreError::Conflict(what) => Self::Conflict(what),
            StoreError::NothingTo(_)
            | StoreError::Full(_)
            | StoreError::Currency(_)
            | StoreError::Character => Self::Bad(error.to_string()),
            StoreError::Edit(EditError::Faults(faults)) => Self::Faults(faults),
            // What the edit changes is gone: somebody took it away.
            StoreError::Edit(edit @ EditError::Missing { .. }) => Self::Conflict(edit.to_string()),
            StoreError::Edit(edit) => Self::Bad(edit.to_string()),
            StoreError::Unavailable(cause) => Self::Away(cause.to_string()),
            StoreError::Newer { .. } => Self::Said(
                StatusCode::INTERNAL_SERVER_ERROR,
                "This job cannot be opened",
                vec![sentence(&error.to_string()), OTHERS.to_owned()],
            ),
            StoreError::Unreadable { .. } => {
                let line = logged(&error.to_string());
                Self::Said(
                    StatusCode::INTERNAL_SERVER_ERROR,
                    "This job cannot be opened",
                    vec!["The saved data of this job cannot be read.".to_owned(), OTHERS.to_owned(), line],
                )
            }
            StoreError::Broken(_) => Self::Broken(error.to_string()),
        }
    }
}

impl From<askama::Error> for AppError {
    fn from(error: askama::Error) -> Self {
        Self::broken(error)
    }
}

/// What is shown of an error; rendered by [`render_errors`], which knows who asked.
#[derive(Clone)]
struct Shown {
    title: &'static str,
    lines: Vec<String>,
}

#[derive(Template)]
#[template(path = "message.html")]
struct Page<'a> {
    title: &'a str,
    lines: &'a [String],
    back: &'a str,
    back_label: &'a str,
}

const OTHERS: &str = "Other jobs are not affected.";

impl AppError {
    /// Status, title, what to do.
    pub fn said(self) -> (StatusCode, &'static str, Vec<String>) {
        let lines = |lines: &[&str]| lines.iter().map(|l| (*l).to_owned()).collect();
        match self {
            Self::NotFound => (
                StatusCode::NOT_FOUND,
                "Page not found",
                lines(&["There is no page or job at this address. It may have been deleted."]),
            ),
            Self::Conflict(what) => (
                StatusCode::CONFLICT,
                "Someone else changed this",
                vec![
                    format!("Their change: {what}. Your change was not saved."),
                    "Reload the page to see their change, then make yours again. What you typed stays in \
                        its field until you reload."
                        .to_owned(),
                ],
            ),
            Self::Bad(what) => (StatusCode::BAD_REQUEST, "Not possible", vec![sentence(&what)]),
            Self::Faults(faults) => (
                StatusCode::UNPROCESSABLE_ENTITY,
                "Check these values",
                faults.iter().map(ToString::to_string).collect(),
            ),
            Self::Away(cause) => (
                StatusCode::SERVICE_UNAVAILABLE,
                "Database not available",
                vec![
                    "Nothing was saved. What you typed is still in its field. Try again in a moment."
                        .to_owned(),
                    logged(&cause),
                ],
            ),
            Self::Broken(cause) => (
                StatusCode::INTERNAL_SERVER_ERROR,
                "Something went wrong",
                vec!["This is a fault in Fenlo. No partial change was saved.".to_owned(), logged(&cause)],
            ),
            Self::TimedOut => (
                StatusCode::SERVICE_UNAVAILABLE,
                "Request timed out",
                lines(&[
                    "The request took too long and was stopped. Check the page before trying again: it \
                        shows what was saved.",
                ]),
            ),
            Self::CrossSite => (
                StatusCode::FORBIDDEN,
                "Blocked: request from another site",
                lines(&[
                    "Only Fenlo pages can change a job. Nothing was changed. Open the job in Fenlo and try \
                        again.",
                ]),
            ),
            Self::WrongMethod => (
                StatusCode::METHOD_NOT_ALLOWED,
                "Not a page",
                lines(&["This address only accepts form data. Go back to the page with the form."]),
            ),
            Self::Busy(what) => (
                StatusCode::SERVICE_UNAVAILABLE,
                "Too many requests",
                vec![what, "Nothing was saved.".to_owned()],
            ),
            Self::Said(status, title, lines) => (status, title, lines),
            Self::TooLarge => (
                StatusCode::PAYLOAD_TOO_LARGE,
                "File too large",
                lines(&[
                    "Limits: job file or chart 5 MB, picture 12 MB, drawing 25 MB, form 256 kB. Nothing \
                        was saved.",
                ]),
            ),
        }
    }
}

/// Writes the cause to the log, under the request's number; what is shown of it is that number.
fn logged(cause: &str) -> String {
    tracing::error!(cause, "request failed");
    "Details are in the server log.".to_owned()
}

impl IntoResponse for AppError {
    fn into_response(self) -> Response {
        let (status, title, lines) = self.said();
        let mut response = status.into_response();
        response.extensions_mut().insert(Shown { title, lines });
        response
    }
}

/// The answer where a handler panicked.
pub fn caught(panic: Box<dyn Any + Send>) -> Response {
    let text = panic.downcast_ref::<String>().map(String::as_str);
    let text = text.or_else(|| panic.downcast_ref::<&str>().copied());
    AppError::broken(text.unwrap_or("panic")).into_response()
}

/// What the web server itself refuses, in our words; none where the answer is a handler's own.
async fn foreign(response: Response) -> Result<AppError, Response> {
    let status = response.status();
    if response.extensions().get::<ProtectionError>().is_some() {
        return Ok(AppError::CrossSite);
    }
    let kind = response.headers().get(header::CONTENT_TYPE);
    let plain = kind.is_some_and(|k| k.as_bytes().starts_with(b"text/plain"));
    let empty = response.body().size_hint().exact() == Some(0);
    match status {
        StatusCode::SERVICE_UNAVAILABLE if empty => Ok(AppError::TimedOut),
        StatusCode::NOT_FOUND if empty => Ok(AppError::NotFound),
        StatusCode::METHOD_NOT_ALLOWED if empty => Ok(AppError::WrongMethod),
        StatusCode::PAYLOAD_TOO_LARGE => Ok(AppError::TooLarge),
        s if s.is_client_error() && plain => {
            let bytes = axum::body::to_bytes(response.into_body(), 1000).await;
            let text = String::from_utf8_lossy(&bytes.unwrap_or_default()).into_owned();
            Ok(refused(s, &text))
        }
        _ => Err(response),
    }
}

/// What an address or a form could not be read as; the framework's own words are for programmers.
fn refused(status: StatusCode, text: &str) -> AppError {
    let said = |title, line: &str| AppError::Said(status, title, vec![line.to_owned()]);
    if text.starts_with("Invalid URL") {
        return AppError::NotFound;
    }
    if text.starts_with("Failed to buffer the request body") && status == StatusCode::BAD_REQUEST {
        let line = "The upload was interrupted. Nothing was saved. Send it again.";
        return AppError::Said(StatusCode::REQUEST_TIMEOUT, "Upload interrupted", vec![line.to_owned()]);
    }
    match status {
        StatusCode::UNSUPPORTED_MEDIA_TYPE => {
            said("Unexpected data", "This address accepts data from its own form only. Nothing was saved.")
        }
        _ if text.starts_with("Failed to deserialize query string") => {
            said("Invalid address", "A value in the address is not valid.")
        }
        _ if text.starts_with("Failed to deserialize form") => {
            said("Form not accepted", "A field is missing or has the wrong type. Nothing was saved.")
        }
        _ => AppError::Bad(text.to_owned()),
    }
}

/// Shows an error as a whole page to a browser, as a fragment to a page that is already open, and as
/// `{message}` to the board.
pub async fn render_errors(headers: HeaderMap, request: Request, next: Next) -> Response {
    let fragment = headers.contains_key("hx-request") && !headers.contains_key("hx-boosted");
    let kind = headers.get(header::CONTENT_TYPE);
    let board = kind.is_some_and(|k| k.as_bytes().starts_with(b"application/json"));
    let id = request.extensions().get::<RequestId>().cloned();
    let mut response = next.run(request).await;
    if response.extensions().get::<Shown>().is_none() {
        if !response.status().is_client_error() && !response.status().is_server_error() {
            return response;
        }
        match foreign(response).await {
            Ok(error) => response = error.into_response(),
            Err(own) => return own,
        }
    }
    let Some(mut shown) = response.extensions().get::<Shown>().cloned() else {
        return response;
    };
    let status = response.status();
    if let (true, Some(RequestId(id))) = (status.is_server_error(), id) {
        shown.lines.push(format!("Request {id}."));
    }
    if board {
        let message = format!("{}. {}", shown.title, shown.lines.join(" "));
        return (status, Json(json!({ "message": message }))).into_response();
    }
    let body = if fragment {
        let lines: String = shown.lines.iter().map(|l| format!("<p>{}</p>", escape(l))).collect();
        format!("<p><b>{}</b></p>{lines}", escape(shown.title))
    } else {
        let page = Page { title: shown.title, lines: &shown.lines, back: "/", back_label: "Back to jobs" };
        page.render().unwrap_or_else(|_| escape(shown.title))
    };
    (status, Html(body)).into_response()
}

/// A message begins with a capital and ends with a stop.
pub fn sentence(text: &str) -> String {
    let mut letters = text.chars();
    let first = letters.next().map(|c| c.to_uppercase().to_string()).unwrap_or_default();
    let end = if text.ends_with(['.', '!', '?']) { "" } else { "." };
    format!("{first}{}{end}", letters.as_str())
}

pub fn escape(text: &str) -> String {
    askama::filters::escape(text, askama::filters::Html).map_or_else(|_| String::new(), |t| t.to_string())
}
