//! Foreign files being read: few at a time, each by a helper process, in the order they came. Whoever sent
//! one waits some seconds, then watches it on a page of its own, where it can be stopped.

mod helper;

pub use helper::Ask;

use crate::app::compute;
use crate::error::AppError;
use crate::keys;
use crate::turns::Turns;
use axum::http::{HeaderName, HeaderValue, StatusCode};
use axum::response::{Html, IntoResponse, Redirect, Response};
use fenlo_formats::ChartFault;
use fenlo_formats::foreign::{Foreign, Sifted, Told, take_sifted};
use serde::de::DeserializeOwned;
use std::collections::HashMap;
use std::fs::File;
use std::io::{Seek, Write};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};
use tokio::sync::watch;

/// Readers at once.
const AT_ONCE: usize = 2;
/// Of those, for one company.
const OF_A_COMPANY: usize = 2;
/// Files that are read or wait, of one company; of more the newest are refused.
const MOST_PENDING: usize = 40;
/// Who sent a file waits so long for its answer; then the answer is a page that watches.
const PATIENCE: Duration = Duration::from_secs(3);
/// What came out is kept so long for a page that watches.
const KEPT: Duration = Duration::from_secs(600);

/// Where a reading is.
#[derive(Debug, Clone)]
pub enum State {
    Waiting,
    Reading(Instant),
    Ended(Ended),
}

/// What came out.
#[derive(Debug, Clone)]
pub enum Ended {
    /// It is kept; its page is here.
    Go(String),
    /// A fragment for the page that sent it.
    Show(String),
    /// Nothing was kept.
    Refused(StatusCode, &'static str, Vec<String>),
}

/// A file being read.
pub struct Reading {
    /// Names it in addresses; nobody guesses it.
    pub key: String,
    /// What the file was called.
    pub name: String,
    /// The page to go back to.
    pub back: String,
    state: watch::Sender<State>,
    stop: watch::Sender<bool>,
}

impl Reading {
    pub fn state(&self) -> State {
        self.state.borrow().clone()
    }

    pub fn stop(&self) {
        self.stop.send_replace(true);
    }

    /// What came out, if it does within a time.
    async fn ended_within(&self, time: Duration) -> Option<Ended> {
        let mut watching = self.state.subscribe();
        let ended = watching.wait_for(|s| matches!(s, State::Ended(_)));
        match tokio::time::timeout(time, ended).await {
            Ok(Ok(state)) => match &*state {
                State::Ended(ended) => Some(ended.clone()),
                _ => None,
            },
            _ => None,
        }
    }

    /// The answer to who sent the file to a page: where it is kept now, or the page that watches.
    pub async fn page(&self) -> Result<Response, AppError> {
        match self.ended_within(PATIENCE).await {
            Some(Ended::Go(to)) => Ok(Redirect::to(&to).into_response()),
            Some(ended) => Ok(ended.into_response()),
            None => Ok(Redirect::to(&format!("/reading/{}", self.key)).into_response()),
        }
    }

    /// The same for a form that shows a fragment.
    pub async fn fragment(
        &self,
        watching: impl FnOnce(&Self) -> Result<String, AppError>,
    ) -> Result<Response, AppError> {
        match self.ended_within(PATIENCE).await {
            Some(ended) => Ok(ended.into_response()),
            None => Ok(Html(watching(self)?).into_response()),
        }
    }
}

impl IntoResponse for Ended {
    /// For a page that is open already.
    fn into_response(self) -> Response {
        match self {
            Self::Go(to) => {
                let to = HeaderValue::from_str(&to).unwrap_or(HeaderValue::from_static("/"));
                ([(HeaderName::from_static("hx-redirect"), to)], Html(String::new())).into_response()
            }
            Self::Show(html) => Html(html).into_response(),
            Self::Refused(status, title, lines) => AppError::Said(status, title, lines).into_response(),
        }
    }
}

/// All of them in this server.
#[derive(Clone)]
pub struct Readings {
    turns: Turns,
    /// Files in hand, by company.
    pending: Arc<Mutex<HashMap<i64, Arc<AtomicUsize>>>>,
    known: moka::sync::Cache<String, Arc<Reading>>,
}

/// Counts one less when it goes, however that comes.
struct Pending(Arc<AtomicUsize>);

impl Drop for Pending {
    fn drop(&mut self) {
        self.0.fetch_sub(1, Ordering::Relaxed);
    }
}

impl Default for Readings {
    fn default() -> Self {
        Self {
            turns: Turns::new(AT_ONCE, OF_A_COMPANY),
            pending: Arc::default(),
            known: moka::sync::Cache::builder().max_capacity(1_000).time_to_live(KEPT).build(),
        }
    }
}

impl Readings {
    /// Files that are read or wait.
    pub fn pending(&self) -> usize {
        let all = self.pending.lock().unwrap_or_else(PoisonError::into_inner);
        all.values().map(|n| n.load(Ordering::Relaxed)).sum()
    }

    /// No company could send one more.
    pub fn is_full(&self) -> bool {
        self.pending() >= MOST_PENDING
    }

    /// A reading by its key.
    pub fn get(&self, key: &str) -> Option<Arc<Reading>> {
        self.known.get(key)
    }

    fn in_hand(&self, company: i64) -> Arc<AtomicUsize> {
        let mut all = self.pending.lock().unwrap_or_else(PoisonError::into_inner);
        Arc::clone(all.entry(company).or_default())
    }

    /// Reads a pasted table when its turn comes, and waits for it: it is small, and its reader ends soon. What the
    /// reader says of the whole is told at the first line.
    ///
    /// # Errors
    /// The company has too many files in hand.
    pub async fn pasted<T: DeserializeOwned + Default>(
        &self,
        company: i64,
        kind: Foreign,
        name: String,
        text: String,
    ) -> Result<Sifted<T>, AppError> {
        let _pending = self.one_more(company)?;
        let turn = self.turns.turn(company).await;
        let _turn = turn.ok_or_else(|| AppError::broken("stopping"))?;
        let file = compute(move || -> std::io::Result<File> {
            let mut file = tempfile::tempfile()?;
            file.write_all(text.as_bytes())?;
            file.rewind()?;
            Ok(file)
        });
        let ask = Ask { kind, name, page: 1 };
        match helper::read(&ask, file.await?.map_err(AppError::broken)?).await {
            Ok(handed) => take_sifted(&handed).map_err(AppError::broken),
            Err(told) => {
                Ok(Sifted { found: T::default(), faults: told.into_iter().map(ChartFault::from).collect() })
            }
        }
    }

    fn one_more(&self, company: i64) -> Result<Pending, AppError> {
        let pending = Pending(self.in_hand(company));
        let was = pending.0.fetch_add(1, Ordering::Relaxed);
        if was >= MOST_PENDING {
            return Err(AppError::Busy(format!(
                "{MOST_PENDING} files are already in the queue. Try again in a minute."
            )));
        }
        Ok(pending)
    }

    /// Reads a file when its turn comes; `then` keeps what was handed over, or says what is wrong with it.
    ///
    /// # Errors
    /// The company has too many files in hand.
    pub fn begin<Kept>(
        &self,
        company: i64,
        ask: Ask,
        file: File,
        back: &str,
        then: impl FnOnce(Result<Vec<u8>, Vec<Told>>) -> Kept + Send + 'static,
    ) -> Result<Arc<Reading>, AppError>
    where
        Kept: Future<Output = Result<Ended, AppError>> + Send,
    {
        let pending = self.one_more(company)?;
        let reading = Arc::new(Reading {
            key: keys::fresh()?,
            name: ask.name.clone(),
            back: back.to_owned(),
            state: watch::Sender::new(State::Waiting),
            stop: watch::Sender::new(false),
        });
        self.known.insert(reading.key.clone(), Arc::clone(&reading));
        let (turns, shown) = (self.turns.clone(), Arc::clone(&reading));
        let mut stopped = reading.stop.subscribe();
        tokio::spawn(async move {
            let _pending = pending;
            let work = async {
                let turn = turns.turn(company).await.ok_or_else(|| AppError::broken("stopping"))?;
                shown.state.send_replace(State::Reading(Instant::now()));
                let handed = helper::read(&ask, file).await;
                drop(turn);
                then(handed).await
            };
            let ended = tokio::select! {
                ended = work => ended.unwrap_or_else(|e| {
                    let (status, title, lines) = e.said();
                    Ended::Refused(status, title, lines)
                }),
                _ = stopped.wait_for(|s| *s) => Ended::Refused(
                    StatusCode::OK,
                    "Stopped",
                    vec!["Reading stopped. Nothing was saved.".into()],
                ),
            };
            shown.state.send_replace(State::Ended(ended));
        });
        Ok(reading)
    }
}
