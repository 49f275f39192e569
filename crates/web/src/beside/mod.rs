//! Work that comes to one edit and on a large site takes longer than anybody waits for an answer. It is done beside, the
//! page shows how far it is and can stop it, and what comes out is taken over as one edit of the plan it was made for.

mod bar;

pub use bar::{routes, shown};

use crate::app::App;
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::fields::{Fields, Pairs};
use crate::screens::ground::laid;
use fenlo_core::piping::Scope as Pipes;
use fenlo_core::plan::Edit;
use fenlo_core::progress::Progress;
use fenlo_core::zoning::{Scope, propose_watched};
use std::sync::{Arc, OnceLock};
use std::time::Duration;
use tokio::sync::Notify;

/// As long as an answer may take before the page is shown a bar instead.
const PATIENCE: Duration = Duration::from_secs(3);

/// What is worked out.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Task {
    /// Boxes, mains and laterals with their sizes, for the whole site.
    Pipe,
    /// Valves for the heads that are on none.
    Loose,
    /// All heads onto valves anew.
    Split,
}

/// What comes of it: the edit with what is said beside it, or why there is none.
pub type Outcome = Result<(Edit, Vec<String>), String>;

impl Task {
    fn of(self, known: &Assessed, progress: &Progress) -> Outcome {
        let split = |scope, none: &str| {
            let water = known.assessment.water();
            let found = propose_watched(known.job(), &water, scope, progress);
            let said = found.hopeless.iter().map(|h| fenlo_words::no_hope(h, known.job().units)).collect();
            found.edit.map(|e| (e, said)).ok_or_else(|| none.to_owned())
        };
        match self {
            Self::Pipe => laid(known.job(), Pipes::All, progress),
            Self::Loose => split(Scope::Unassigned, "all heads are already on valves"),
            Self::Split => split(Scope::All, "no change: the valves already match a new assignment"),
        }
    }
}

/// Work under way, or done and not taken over yet.
pub struct Beside {
    /// The job as it was when that began.
    on: Arc<Assessed>,
    progress: Progress,
    found: OnceLock<Outcome>,
    done: Notify,
}

impl Beside {
    /// What a form asks for: begun, or gone on with if it was begun on the same plan; `take` in it stands for what was
    /// begun before, whatever the plan is now.
    pub async fn asked(app: &App, job: i64, task: Task, pairs: &Pairs) -> Result<Arc<Self>, AppError> {
        if pairs.iter().any(|p| p.0 == "take") {
            if let Some(begun) = app.beside.get(&(job, task)) {
                return Ok(begun);
            }
            let gone = "this result has expired. Run it again".to_owned();
            let on = app.job(job).await?;
            return Ok(Arc::new(Self { found: OnceLock::from(Err(gone)), ..Self::on(on) }));
        }
        Ok(Self::begin(app, &app.job(job).await?, task))
    }

    fn on(on: Arc<Assessed>) -> Self {
        Self { on, progress: Progress::default(), found: OnceLock::new(), done: Notify::new() }
    }

    /// Begins, or goes on with what was begun on the same plan.
    pub fn begin(app: &App, known: &Arc<Assessed>, task: Task) -> Arc<Self> {
        let key = (known.open.id, task);
        let old = app.beside.get(&key);
        if let Some(old) = &old {
            if old.on.open.seq == known.open.seq && !old.progress.stopped() {
                return Arc::clone(old);
            }
            old.progress.stop();
        }
        let begun = Arc::new(Self::on(Arc::clone(known)));
        app.beside.insert(key, Arc::clone(&begun));
        let (work, heavy, company) = (Arc::clone(&begun), app.heavy.clone(), app.store.company());
        tokio::spawn(async move {
            let turn = heavy.turn(company).await;
            drop(tokio::task::spawn_blocking(move || {
                let _turn = turn;
                let _ = work.found.set(task.of(&work.on, &work.progress));
                work.done.notify_waiters();
            }));
        });
        begun
    }

    /// Waits until it is done, or as long as an answer may take (or the milliseconds of `wait` in the form, if those
    /// are fewer); says whether it is.
    pub async fn wait(&self, pairs: &Pairs) -> bool {
        let told = self.done.notified();
        if self.is_done() {
            return true;
        }
        let wait = pairs.iter().find(|p| p.0 == "wait").and_then(|p| p.1.parse().ok());
        let longest = wait.map_or(PATIENCE, Duration::from_millis).min(PATIENCE);
        if longest.is_zero() {
            return false;
        }
        let _ = tokio::time::timeout(longest, told).await;
        self.is_done()
    }

    fn is_done(&self) -> bool {
        self.found.get().is_some()
    }

    /// Why there is no edit, or the edit: for the plan that it was made for and for no other.
    pub fn outcome(&self, known: &Assessed, f: &mut Fields) -> Result<(Edit, Vec<String>), AppError> {
        if self.progress.stopped() {
            return f.stop("stopped; the plan is unchanged");
        }
        if self.on.open.seq != known.open.seq {
            return f.stop("the plan changed during the calculation. Run it again");
        }
        match self.found.get() {
            Some(Ok(found)) => Ok(found.clone()),
            Some(Err(why)) => f.stop(why.clone()),
            None => f.stop("still calculating"),
        }
    }

    /// The edit, if there is one, with the job that it was made for.
    pub fn edit(&self) -> (&Arc<Assessed>, Option<&Edit>) {
        let found = self.found.get().and_then(|f| f.as_ref().ok());
        (&self.on, found.map(|f| &f.0))
    }
}
