use askama::Template;
use axum::extract::Request;
use axum::http::{HeaderMap, StatusCode};
use axum::middleware::Next;
use axum::response::{Html, IntoResponse, Response};
use fenlo_core::plan::{EditError, Fault};
use fenlo_store::StoreError;
use std::sync::atomic::{AtomicU64, Ordering};

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
}

impl AppError {
    pub fn broken(error: impl std::fmt::Display) -> Self {
        Self::Broken(error.to_string())
    }
}

impl From<StoreError> for AppError {
    fn from(error: StoreError) -> Self {
        match error {
            StoreError::NotFound => Self::NotFound,
            StoreError::Conflict(what) => Self::Conflict(what),
            StoreError::NothingTo(_) | StoreError::Full(_) => Self::Bad(error.to_string()),
            StoreError::Edit(EditError::Faults(faults)) => Self::Faults(faults),
            // What the edit changes is gone: somebody took it away.
            StoreError::Edit(edit @ EditError::Missing { .. }) => Self::Conflict(edit.to_string()),
            StoreError::Edit(edit) => Self::Bad(edit.to_string()),
            StoreError::Unavailable(cause) => Self::Away(cause.to_string()),
            StoreError::Unreadable { .. } => Self::Broken(error.to_string()),
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
    title: String,
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

static REFERENCE: AtomicU64 = AtomicU64::new(1);

impl IntoResponse for AppError {
    fn into_response(self) -> Response {
        let logged = |cause: &str| {
            let reference = REFERENCE.fetch_add(1, Ordering::Relaxed);
            tracing::error!(reference, cause, "request failed");
            format!("Reference {reference} in the log.")
        };
        let (status, title, lines) = match self {
            Self::NotFound => (
                StatusCode::NOT_FOUND,
                "Not here".to_owned(),
                vec![
                    "There is no such page or job; it may \
                have been deleted."
                        .to_owned(),
                ],
            ),
            Self::Conflict(what) => (
                StatusCode::CONFLICT,
                "Somebody else changed this meanwhile".to_owned(),
                vec![
                    format!("Meanwhile: {what}. Your change was not saved, and theirs was not touched."),
                    "Reload the page to see it as it is now, then make your change again; what you typed \
                        is still in its field until you do."
                        .to_owned(),
                ],
            ),
            Self::Bad(what) => (
                StatusCode::BAD_REQUEST,
                "That can't be done".to_owned(),
                vec![format!("{what}.")],
            ),
            Self::Faults(faults) => (
                StatusCode::UNPROCESSABLE_ENTITY,
                "These figures can't be used".to_owned(),
                faults.iter().map(ToString::to_string).collect(),
            ),
            Self::Away(cause) => (
                StatusCode::SERVICE_UNAVAILABLE,
                "The database is away".to_owned(),
                vec![
                    "Nothing was saved just now. What you typed is still in its field: change it again in \
                    a moment."
                        .to_owned(),
                    logged(&cause),
                ],
            ),
            Self::Broken(cause) => (
                StatusCode::INTERNAL_SERVER_ERROR,
                "Something went wrong here".to_owned(),
                vec![
                    "The fault is ours, not yours. Nothing was half-saved.".to_owned(),
                    logged(&cause),
                ],
            ),
        };
        let mut response = status.into_response();
        response.extensions_mut().insert(Shown { title, lines });
        response
    }
}

/// Shows an error as a whole page to a browser and as a fragment to a page that is already open.
pub async fn render_errors(headers: HeaderMap, request: Request, next: Next) -> Response {
    let fragment = headers.contains_key("hx-request") && !headers.contains_key("hx-boosted");
    let response = next.run(request).await;
    let Some(shown) = response.extensions().get::<Shown>().cloned() else {
        return response;
    };
    let body = if fragment {
        let lines: String = shown
            .lines
            .iter()
            .map(|l| format!("<p>{}</p>", escape(l)))
            .collect();
        format!("<p><b>{}</b></p>{lines}", escape(&shown.title))
    } else {
        let page = Page {
            title: &shown.title,
            lines: &shown.lines,
            back: "/",
            back_label: "To the jobs",
        };
        page.render().unwrap_or_else(|_| escape(&shown.title))
    };
    (response.status(), Html(body)).into_response()
}

pub fn escape(text: &str) -> String {
    askama::filters::escape(text, askama::filters::Html).map_or_else(|_| String::new(), |t| t.to_string())
}
