//! Answers to edits: fragments that take their places in the page by their ids.

use crate::assessed::Assessed;
use crate::error::{AppError, escape};
use crate::shell::{Here, Shell};
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use std::fmt::Write;

/// Fragments gathered into one answer.
#[derive(Default)]
pub struct Fragments {
    html: String,
}

impl Fragments {
    /// Head of the page: saved state, undo, steps.
    pub fn of(known: &Assessed, here: &Here) -> Result<Self, AppError> {
        let shell = Shell::new(known, here);
        let mut fragments = Self::default();
        fragments.put("status", &shell.status_html()?);
        fragments.put("undo", &shell.undo_html()?);
        fragments.put("rail", &shell.rail_html()?);
        Ok(fragments)
    }

    /// New content for the element of this id.
    pub fn put(&mut self, id: &str, content: &str) {
        let _ = write!(
            self.html,
            r#"<div id="{}" hx-swap-oob="innerHTML">{content}</div>"#,
            escape(id)
        );
    }

    /// An element that replaces the one of its id.
    pub fn replace(&mut self, id: &str, content: &str) {
        let _ = write!(
            self.html,
            r#"<div hx-swap-oob="outerHTML:#{}">{content}</div>"#,
            escape(id)
        );
    }

    /// Clears what was said at the fields of a form.
    pub fn clear(&mut self, form: &str, fields: &[&str]) {
        for field in fields.iter().chain(&["form"]) {
            self.put(&format!("err-{form}-{field}"), "");
        }
    }

    /// The content of the page itself, beside its head.
    pub fn page(self, body: &str) -> Response {
        Html(format!("{body}{}", self.html)).into_response()
    }

    pub fn done(self) -> Response {
        Html(self.html).into_response()
    }
}

/// Says at each field what is wrong there; nothing was saved.
pub fn refuse(form: &str, fields: &[&str], errors: &[(String, String)]) -> Response {
    let mut fragments = Fragments::default();
    for field in fields.iter().copied().chain(["form"]) {
        let messages: Vec<String> = errors
            .iter()
            .filter(|e| e.0 == field)
            .map(|e| escape(&e.1))
            .collect();
        fragments.put(&format!("err-{form}-{field}"), &messages.join("; "));
    }
    // A fault of no known field is said for the form as a whole.
    let other: Vec<String> = errors
        .iter()
        .filter(|e| e.0 != "form" && !fields.contains(&e.0.as_str()))
        .map(|e| format!("{}: {}", escape(&e.0), escape(&e.1)))
        .collect();
    if !other.is_empty() {
        fragments.put(&format!("err-{form}-form"), &other.join("; "));
    }
    // The page that the form would have brought stays as it is.
    (
        StatusCode::UNPROCESSABLE_ENTITY,
        [("hx-reswap", "none")],
        fragments.done(),
    )
        .into_response()
}
