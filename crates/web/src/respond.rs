//! Answers to edits: fragments that take their places in the page by their ids.

use crate::assessed::Assessed;
use crate::error::{AppError, escape};
use crate::place::Here;
use crate::shell::Shell;
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
        let _ = write!(self.html, r#"<div id="{}" hx-swap-oob="innerHTML">{content}</div>"#, escape(id));
    }

    /// An element that replaces the one of its id.
    pub fn replace(&mut self, id: &str, content: &str) {
        let _ = write!(self.html, r#"<div hx-swap-oob="outerHTML:#{}">{content}</div>"#, escape(id));
    }

    /// The content of the page itself, beside its head.
    pub fn page(self, body: &str) -> Response {
        Html(format!("{body}{}", self.html)).into_response()
    }

    pub fn done(self) -> Response {
        Html(self.html).into_response()
    }
}
