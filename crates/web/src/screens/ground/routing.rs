//! Pipe for a whole site: on a large one that takes longer than anybody waits for an answer. It is laid beside, the page
//! shows how far it is and can stop it, and what comes out is taken over as one edit of the plan it was laid on.

use super::pipes::laid;
use crate::app::App;
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::fields::Fields;
use crate::respond::Fragments;
use askama::Template;
use axum::extract::{Path, State};
use axum::response::{Html, IntoResponse, Response};
use fenlo_core::piping::Scope;
use fenlo_core::plan::Edit;
use fenlo_core::progress::Progress;
use std::sync::{Arc, OnceLock};
use std::time::Duration;
use tokio::sync::Notify;

/// As long as an answer may take before the page is shown a bar instead.
const PATIENCE: Duration = Duration::from_secs(3);

/// What comes of laying: the edit with what is said beside it, or why there is none.
pub type Outcome = Result<(Edit, Vec<String>), String>;

/// Pipe being laid, or laid and not taken over yet.
pub struct Routing {
    /// The job as it was when that began.
    on: Arc<Assessed>,
    progress: Progress,
    found: OnceLock<Outcome>,
    done: Notify,
}

impl Routing {
    /// Begins, or goes on with what was begun on the same plan.
    pub fn begin(app: &App, known: &Arc<Assessed>) -> Arc<Self> {
        let job = known.open.id;
        let same = |r: &Arc<Self>| r.on.open.seq == known.open.seq && !r.progress.stopped();
        if let Some(running) = app.routing.get(&job).filter(same) {
            return running;
        }
        let routing = Arc::new(Self {
            on: Arc::clone(known),
            progress: Progress::default(),
            found: OnceLock::new(),
            done: Notify::new(),
        });
        if let Some(old) = app.routing.get(&job) {
            old.progress.stop();
        }
        app.routing.insert(job, Arc::clone(&routing));
        let (work, heavy, company) = (Arc::clone(&routing), app.heavy.clone(), app.store.company());
        tokio::spawn(async move {
            let turn = heavy.turn(company).await;
            drop(tokio::task::spawn_blocking(move || {
                let _turn = turn;
                let outcome = laid(work.on.job(), Scope::All, &work.progress);
                let _ = work.found.set(outcome);
                work.done.notify_waiters();
            }));
        });
        routing
    }

    /// Waits until it is done, so long at the most; says whether it is.
    pub async fn wait(&self, longest: Option<u64>) -> bool {
        let told = self.done.notified();
        if self.found.get().is_some() {
            return true;
        }
        let longest = longest.map_or(PATIENCE, Duration::from_millis).min(PATIENCE);
        let _ = tokio::time::timeout(longest, told).await;
        self.found.get().is_some()
    }

    /// The edit, for the plan that it was laid on and for no other.
    pub fn outcome(&self, known: &Assessed, f: &mut Fields) -> Result<(Edit, Vec<String>), AppError> {
        if self.progress.stopped() {
            return f.stop("stopped: the pipe is as it was");
        }
        if self.on.open.seq != known.open.seq {
            return f.stop("the plan was changed while pipe was laid: lay it again");
        }
        match self.found.get() {
            Some(Ok(found)) => Ok(found.clone()),
            Some(Err(why)) => f.stop(why.clone()),
            None => f.stop("the pipe is still being laid"),
        }
    }

    /// How far it is; done, a form that takes it over by itself.
    fn bar(&self) -> Result<String, AppError> {
        let (done, of) = self.progress.now();
        Ok(Bar {
            job: self.on.open.id,
            done,
            of,
            stopped: self.progress.stopped(),
            ready: self.found.get().is_some(),
        }
        .render()?)
    }

    /// The bar in its place on the sheet.
    pub fn shown(&self) -> Result<Response, AppError> {
        let mut out = Fragments::default();
        out.put("pipe-run", &self.bar()?);
        Ok(out.done())
    }
}

#[derive(Template)]
#[template(path = "parts/pipe_bar.html")]
struct Bar {
    job: i64,
    done: usize,
    of: usize,
    stopped: bool,
    ready: bool,
}

/// How far the laying of pipe is.
pub async fn progress(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    let bar = app.routing.get(&job).map(|r| r.bar()).transpose()?;
    Ok(Html(bar.unwrap_or_default()).into_response())
}

/// Stops it; nothing is changed.
pub async fn stop(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    if let Some(routing) = app.routing.get(&job) {
        routing.progress.stop();
    }
    progress(State(app), Path(job)).await
}
