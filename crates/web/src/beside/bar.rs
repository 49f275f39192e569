//! Buttons that begin such work, and the bar that stands at their place while it is under way.

use super::{Beside, Task};
use crate::app::App;
use crate::error::AppError;
use crate::respond::Fragments;
use askama::Template;
use axum::Router;
use axum::extract::{Path, State};
use axum::http::{HeaderMap, StatusCode};
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};

pub fn routes() -> Router<App> {
    Router::new().route("/beside/{place}", get(progress)).route("/beside/{place}/stop", post(stop))
}

/// What a button begins, and where.
struct Button {
    /// Id of the element that takes the bar.
    place: &'static str,
    task: Task,
    /// Where the button sends its form, behind the job.
    path: &'static str,
    /// What that form says.
    says: (&'static str, &'static str),
    /// What its answer replaces.
    target: Option<&'static str>,
    /// It shows what would change before that is done.
    looks: bool,
}

const BUTTONS: [Button; 4] = [
    Button {
        place: "pipe-run",
        task: Task::Pipe,
        path: "ground/pipes",
        says: ("op", "route"),
        target: None,
        looks: false,
    },
    Button {
        place: "loose-run",
        task: Task::Loose,
        path: "ground/op",
        says: ("op", "to-valves"),
        target: None,
        looks: false,
    },
    Button {
        place: "v-loose",
        task: Task::Loose,
        path: "valves/split",
        says: ("scope", "loose"),
        target: Some("#page"),
        looks: false,
    },
    Button {
        place: "v-split",
        task: Task::Split,
        path: "valves/split",
        says: ("", ""),
        target: None,
        looks: true,
    },
];

#[derive(Template)]
#[template(path = "parts/beside.html")]
struct Page<'a> {
    job: i64,
    button: &'a Button,
    doing: &'static str,
    stopped: bool,
    ready: bool,
    bar: String,
}

/// How far it is; it asks again by itself and is shown anew without what stands around it, so that Stop stays where it
/// is under the pointer.
#[derive(Template)]
#[template(path = "parts/beside_bar.html")]
struct Bar<'a> {
    job: i64,
    place: &'a str,
    doing: &'static str,
    done: usize,
    of: usize,
}

impl Button {
    fn at(place: &str) -> Result<&'static Self, AppError> {
        BUTTONS.iter().find(|b| b.place == place).ok_or(AppError::NotFound)
    }

    fn doing(&self) -> &'static str {
        match self.task {
            Task::Pipe => "Routing pipe",
            Task::Loose | Task::Split => "Assigning heads, zones tried",
        }
    }

    fn bar(&self, work: &Beside) -> Result<String, AppError> {
        let (done, of) = work.progress.now();
        Ok(Bar { job: work.on.open.id, place: self.place, doing: self.doing(), done, of }.render()?)
    }

    fn whole(&self, work: &Beside) -> Result<String, AppError> {
        Ok(Page {
            job: work.on.open.id,
            button: self,
            doing: self.doing(),
            stopped: work.progress.stopped(),
            ready: work.is_done(),
            bar: self.bar(work)?,
        }
        .render()?)
    }
}

/// The bar in its place on the page, and nothing else changed.
pub fn shown(work: &Beside, place: &str) -> Result<Response, AppError> {
    let mut out = Fragments::default();
    out.put(place, &Button::at(place)?.whole(work)?);
    Ok(([("hx-reswap", "none")], out.done()).into_response())
}

/// How far it is: the bar alone while it goes on and is shown already, else all that stands at its place.
async fn progress(
    State(app): State<App>,
    Path((job, place)): Path<(i64, String)>,
    headers: HeaderMap,
) -> Result<Response, AppError> {
    let button = Button::at(&place)?;
    let whole = |html: String| {
        let at = [("hx-retarget", format!("#{place}")), ("hx-reswap", "innerHTML".to_owned())];
        (at, Html(html)).into_response()
    };
    let Some(work) = app.beside.get(&(job, button.task)) else {
        return Ok(whole(String::new()));
    };
    let is_bar = headers.get("hx-target").is_some_and(|t| t.as_bytes().ends_with(b"-bar"));
    if is_bar && !work.progress.stopped() && !work.is_done() {
        return Ok(Html(button.bar(&work)?).into_response());
    }
    let html = button.whole(&work)?;
    if work.progress.stopped() {
        // That is said once.
        app.beside.invalidate(&(job, button.task));
    }
    Ok(whole(html))
}

/// Stops it; nothing is changed, and the bar says so when it asks again.
async fn stop(
    State(app): State<App>,
    Path((job, place)): Path<(i64, String)>,
) -> Result<StatusCode, AppError> {
    if let Some(work) = app.beside.get(&(job, Button::at(&place)?.task)) {
        work.progress.stop();
    }
    Ok(StatusCode::NO_CONTENT)
}
