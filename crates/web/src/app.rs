use crate::assessed::Assessed;
use crate::beside::{Beside, Task};
use crate::config::Config;
use crate::error::AppError;
use crate::reading::Readings;
use crate::ready::Pages;
use crate::runs::Run;
use crate::screens::parts::Making;
use crate::streams::Streams;
use crate::summary::Summary;
use crate::turns::Turns;
use crate::watch::Watch;
use fenlo_core::assess::assess_after;
use fenlo_core::plan::Edit;
use fenlo_store::{Change, OpenJob, Scope, Store, THIS_COMPANY};
use std::net::SocketAddr;
use std::sync::Arc;
use std::time::{Duration, Instant};
use tokio::sync::broadcast;

/// Assessments kept: a job of 25 valves takes about half a megabyte.
const KEPT: u64 = 200;

/// What every request shares.
#[derive(Clone)]
pub struct App {
    /// What belongs to this company.
    pub store: Scope,
    /// What belongs to nobody: the news, whether the database answers.
    pub database: Store,
    /// The newest assessment of each job: served while its number is still the newest, and the
    /// start of the next one.
    newest: moka::sync::Cache<i64, Arc<Assessed>>,
    /// Edits as they are appended, by this or another server process: job and number.
    pub news: broadcast::Sender<(i64, i64)>,
    /// Where a controller answers that programmes may be tried on.
    pub controller: Option<SocketAddr>,
    /// Long work that somebody waits for, by job.
    pub runs: moka::sync::Cache<i64, Arc<Run>>,
    /// Work that comes to one edit: under way, or done and not taken over yet.
    pub beside: moka::sync::Cache<(i64, Task), Arc<Beside>>,
    /// Documents being made or waiting to be fetched, by job and number.
    pub making: moka::sync::Cache<(i64, u64), Arc<Making>>,
    /// Pages of jobs as they are sent: job, number of its newest edit, place.
    pub pages: Pages<(i64, i64, String)>,
    /// Quick checks as they are sent, by their question.
    pub questions: Pages<String>,
    /// What is counted and timed.
    pub watch: Arc<Watch>,
    /// Who listens to news.
    pub streams: Streams,
    /// Whose comparison or night is computed.
    pub heavy: Turns,
    /// Foreign files being read.
    pub readings: Readings,
}

/// What was worked out beside waits so long to be taken over.
const WAITS: Duration = Duration::from_secs(600);

/// Edits that follow one another within so long are summarised once.
const SETTLED: Duration = Duration::from_millis(300);

/// Documents that wait to be fetched.
const MOST_MADE: u64 = 16;

/// Bytes of pages that are kept as they are sent.
const PAGES: u64 = 64_000_000;
/// Bytes of quick checks that are.
const QUESTIONS: u64 = 16_000_000;

/// Stands for all jobs in the news.
pub const EVERY_JOB: i64 = -1;
/// News kept for a slow listener; whoever falls behind asks for everything again.
const NEWS: usize = 256;

impl App {
    pub fn new(database: Store, config: &Config) -> Self {
        Self {
            store: database.scope(THIS_COMPANY),
            database,
            newest: moka::sync::Cache::new(KEPT),
            news: broadcast::channel(NEWS).0,
            controller: config.controller,
            watch: Arc::new(Watch::new(config)),
            runs: moka::sync::Cache::new(KEPT),
            beside: moka::sync::Cache::builder().max_capacity(KEPT).time_to_live(WAITS).build(),
            making: moka::sync::Cache::builder().max_capacity(MOST_MADE).time_to_live(WAITS).build(),
            streams: Streams::default(),
            heavy: Turns::new(2, 1),
            readings: Readings::default(),
            pages: Pages::new(PAGES),
            questions: Pages::new(QUESTIONS),
        }
    }

    /// Assessments kept.
    pub fn kept(&self) -> u64 {
        self.newest.entry_count()
    }

    /// Once a day deletes for good what rested its days. Several servers may do so: what is gone is gone.
    pub async fn clear_rested(self) {
        loop {
            // While the database is away nothing is deleted; tomorrow is soon enough.
            if let Ok(gone @ 1..) = self.database.clear_rested().await {
                tracing::info!(gone, "jobs that rested their days after they were deleted are gone for good");
            }
            tokio::time::sleep(Duration::from_secs(24 * 3600)).await;
        }
    }

    /// Passes on what the database tells of edits, for as long as the server runs.
    pub async fn pass_on_news(self) {
        loop {
            match self.database.news().await {
                Ok(mut news) => {
                    // What was appended before this began was not told to anybody.
                    let _ = self.news.send((EVERY_JOB, 0));
                    while let Ok(told) = news.next().await {
                        // Nobody listening is no fault.
                        let _ = self.news.send(told);
                    }
                }
                Err(cause) => tracing::warn!(%cause, "no news of edits from the database"),
            }
            tokio::time::sleep(Duration::from_secs(2)).await;
        }
    }

    /// The job as it stands, assessed.
    pub async fn job(&self, job: i64) -> Result<Arc<Assessed>, AppError> {
        let seq = self.store.seq(job).await?;
        match self.newest.get(&job).filter(|known| known.open.seq == seq) {
            Some(known) => Ok(known),
            None => self.assess(self.store.job(job).await?).await,
        }
    }

    /// Appends an edit made by someone who saw the job at `base`.
    pub async fn edit(&self, job: i64, base: i64, edit: Edit) -> Result<Arc<Assessed>, AppError> {
        self.change(job, Change::edit(base, edit)).await
    }

    pub async fn change(&self, job: i64, change: Change) -> Result<Arc<Assessed>, AppError> {
        let known = self.newest.get(&job);
        let open = self.store.append(job, change, known.as_ref().map(|k| &k.open)).await?;
        self.watch.edits.inc();
        self.assess(open).await
    }

    /// Assessing takes milliseconds of pure computation: off the threads that serve requests.
    async fn assess(&self, open: OpenJob) -> Result<Arc<Assessed>, AppError> {
        let before = self.newest.get(&open.id);
        let began = Instant::now();
        let assessed = tokio::task::spawn_blocking(move || {
            let assessment = assess_after(&open.job, before.as_ref().map(|b| &b.assessment));
            Arc::new(Assessed::new(open, assessment, before.as_deref()))
        })
        .await
        .map_err(AppError::broken)?;
        self.watch.assessments.observe(began.elapsed().as_secs_f64());
        // An older answer that comes late must not replace a newer one.
        let id = assessed.open.id;
        if self.newest.get(&id).is_none_or(|known| known.open.seq <= assessed.open.seq) {
            self.newest.insert(id, Arc::clone(&assessed));
        }
        tokio::spawn(self.clone().summarise(Arc::clone(&assessed)));
        Ok(assessed)
    }

    /// Keeps for the list what there is to say of a job. Nobody waits for it: of edits in quick succession the
    /// last is summarised alone, and the list makes up for one that was lost.
    async fn summarise(self, assessed: Arc<Assessed>) {
        tokio::time::sleep(SETTLED).await;
        let (id, seq) = (assessed.open.id, assessed.open.seq);
        if self.newest.get(&id).is_some_and(|newest| newest.open.seq > seq) {
            return;
        }
        let summary = compute(move || Summary::of(&assessed).to_keep()).await;
        let Ok(summary) = summary else { return };
        if let Err(cause) = self.store.note_summary(id, seq, &summary).await {
            tracing::warn!(id, %cause, "the list was not told");
        }
    }
}

/// Runs pure computation away from the threads that serve requests.
pub async fn compute<T: Send + 'static>(work: impl FnOnce() -> T + Send + 'static) -> Result<T, AppError> {
    tokio::task::spawn_blocking(work).await.map_err(AppError::broken)
}
