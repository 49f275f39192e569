//! A form of a page, from what was typed to what the page shows next.

use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::error::{AppError, escape, sentence};
use crate::fields::{Fields, Pairs, at_fields};
use crate::keys;
use crate::respond::Fragments;
use axum::extract::{Form, FromRequest, FromRequestParts, Path, Request};
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use fenlo_core::plan::Edit;
use fenlo_store::Change;
use serde::de::DeserializeOwned;
use std::sync::Arc;

/// A form that was sent to an address of a job; `P` is what the address names.
pub struct Sent<P> {
    pub app: App,
    pub path: P,
    pub pairs: Pairs,
}

impl<P: DeserializeOwned + Send + 'static> FromRequest<App> for Sent<P> {
    type Rejection = Response;

    async fn from_request(request: Request, app: &App) -> Result<Self, Response> {
        let (mut head, body) = request.into_parts();
        let path = Path::from_request_parts(&mut head, app).await;
        let Path(path) = path.map_err(IntoResponse::into_response)?;
        let form = Form::from_request(Request::from_parts(head, body), app).await;
        let Form(pairs) = form.map_err(IntoResponse::into_response)?;
        let app = app.clone();
        Ok(Self { app, path, pairs })
    }
}

/// Which form it was: its name in ids of the page, and the fields that have a line for faults.
#[derive(Clone)]
pub struct FormAt {
    name: String,
    fields: Vec<&'static str>,
}

impl FormAt {
    pub fn new(name: impl Into<String>, fields: &[&'static str]) -> Self {
        Self { name: name.into(), fields: fields.to_vec() }
    }

    /// A button, or a form without lines for faults: what is wrong is said in the page's notice.
    pub fn button() -> Self {
        Self::new("", &[])
    }

    /// The same form with those of its fields that were sent: it has lines for no other.
    pub fn sent(mut self, pairs: &Pairs) -> Self {
        self.fields.retain(|field| pairs.iter().any(|p| p.0 == *field));
        self
    }

    /// Clears what was said at its fields.
    pub fn clear(&self, out: &mut Fragments) {
        if self.name.is_empty() {
            return;
        }
        for field in self.fields.iter().chain(&["form"]) {
            out.put(&self.line(field), "");
        }
    }

    fn line(&self, field: &str) -> String {
        format!("err-{}-{field}", self.name)
    }

    /// Says at each field what is wrong there; nothing was saved.
    fn refuse(&self, errors: &[(String, String)]) -> Result<Response, AppError> {
        if self.name.is_empty() {
            let said: Vec<String> = errors.iter().map(|e| sentence(&e.1)).collect();
            return Err(AppError::Bad(said.join(" ")));
        }
        let mut out = Fragments::default();
        for field in self.fields.iter().copied() {
            let here = errors.iter().filter(|e| e.0 == field);
            let said: Vec<String> = here.map(|e| escape(&e.1)).collect();
            out.put(&self.line(field), &said.join("; "));
        }
        // A fault of no known field is said for the form as a whole.
        let whole = errors.iter().filter(|e| !self.fields.contains(&e.0.as_str()));
        let said: Vec<String> = whole
            .map(|e| match e.0.as_str() {
                "form" => escape(&sentence(&e.1)),
                field => format!("{}: {}", escape(field), escape(&e.1)),
            })
            .collect();
        out.put(&self.line("form"), &said.join(" "));
        // The page that the form would have brought stays as it is.
        let keep = [("hx-reswap", "none")];
        Ok((StatusCode::UNPROCESSABLE_ENTITY, keep, out.done()).into_response())
    }
}

/// Makes one edit of a form and shows what comes of it: `read` makes the edit of what was typed on
/// the job as it stands, with whatever `show` needs to know; faults that it notes, and those that
/// the plan finds, are said at their fields. Both run off the threads that serve requests.
pub async fn submit<T: Send + 'static>(
    app: &App,
    job: i64,
    at: FormAt,
    pairs: Pairs,
    read: impl FnOnce(&Assessed, &mut Fields) -> Result<(Edit, T), AppError> + Send + 'static,
    show: impl FnOnce(&Assessed, T) -> Result<Response, AppError> + Send + 'static,
) -> Result<Response, AppError> {
    let before = app.job(job).await?;
    let known = Arc::clone(&before);
    let key = pairs.iter().find(|p| p.0 == "key").and_then(|p| keys::of(&p.1));
    let (made, fields) = compute(move || {
        let mut fields = Fields::new(pairs, known.job().units);
        (read(&known, &mut fields), fields)
    })
    .await?;
    let refused = !fields.errors.is_empty() || made.is_err();
    if let (true, Some(key)) = (refused, &key)
        && app.store.was_done(job, key).await?
    {
        // Done before, and the answer was lost on the way: what it did is shown.
        return Ok(([("hx-refresh", "true")], Html("")).into_response());
    }
    if !fields.errors.is_empty() {
        return at.refuse(&fields.errors);
    }
    let (edit, for_show) = match made {
        Ok(made) => made,
        Err(AppError::Faults(faults)) => return at.refuse(&at_fields(&faults, &at.fields)),
        Err(error) => return Err(error),
    };
    let base = fields.base().unwrap_or(before.open.seq);
    let (edit, own) = (Box::new(edit), fields.own());
    match app.change(job, Change::Do { base, edit, key, own }).await {
        Ok(known) => compute(move || show(&known, for_show)).await?,
        Err(AppError::Faults(faults)) => at.refuse(&at_fields(&faults, &at.fields)),
        Err(error) => Err(error),
    }
}
