//! Pages of Fenlo.
//!
//! A page shows an assessment and computes nothing of the job. Data flows one way: a form becomes an
//! edit, the store appends it and gives the next plan, the plan is assessed, the view shows it. An
//! edit answers with the fragments that show its effect; fields that somebody is typing in are left
//! alone.
//!
//! ```no_run
//! # async fn f() -> Result<(), Box<dyn std::error::Error>> {
//! let config = fenlo_web::Config {
//!     database_url: "postgres://localhost/fenlo".into(),
//!     ..Default::default()
//! };
//! let store = fenlo_web::open_store(&config).await?;
//! fenlo_web::load_demo(&store).await?;
//! let listener = tokio::net::TcpListener::bind("127.0.0.1:8000").await?;
//! fenlo_web::serve(listener, store, std::future::pending()).await?;
//! # Ok(()) }
//! ```
//!
//! | file | idea |
//! |---|---|
//! | `router` | every address, as a table |
//! | `app` | the store and the newest assessment of each job |
//! | `place` | the screens of a job, as a table |
//! | `screens/` | a folder a screen: its routes, what it reads, what it shows |
//! | `streams` | open streams of news, counted |
//! | `turns` | heavy work, few at once and of a company fewer |
//! | `together` | the same question of many, answered once |
//! | `ready` | pages rendered and compressed once |
//! | `summary` | what the list shows of a job |
//! | `submit` | from a form to an edit to fragments, or to faults at its fields |
//! | `fields` | reading forms |
//! | `keys` | a form that is sent twice is done once |
//! | `uploads` | files in and out |
//! | `reading` | foreign files, read by a process of its own, few at a time |
//! | `shell`, `respond` | what stands round a page; answers in parts |
//! | `error` | what a person sees when it goes wrong |
//! | [`Config`] | how a server is run |
//! | `watch` | requests by number, metrics, health |
//! | `server`, `connections` | how many, how long, which makes room |
//! | `security` | what stands before every page |
//!
//! Not here: sign-in. There is one company, and the server listens on loopback.
#![forbid(unsafe_code)]
#![deny(missing_docs)]

mod app;
mod assessed;
mod assets;
mod beside;
mod choices;
mod clock;
mod config;
mod connections;
mod demo;
mod error;
mod fields;
mod keys;
pub mod papers;
mod place;
mod reading;
mod ready;
mod respond;
mod router;
mod runs;
mod screens;
mod security;
mod server;
mod shell;
mod streams;
mod submit;
mod summary;
mod together;
mod turns;
mod uploads;
mod watch;

pub use config::{Config, LogFormat};
pub use demo::{DEMO, load_demo, load_jobs};
pub use fenlo_store::{Store, StoreError};

use std::future::Future;
use tokio::net::TcpListener;

/// Connects to the database and brings its tables up to date.
///
/// # Errors
/// The configuration names none, or it can't be reached.
pub async fn open_store(config: &Config) -> Result<Store, StoreError> {
    let mut urls = vec![config.database_url.clone()];
    urls.extend(config.database_standbys.iter().cloned());
    Store::open_any(&urls, config.database_connections).await
}

/// Serves as is usual until told to stop.
///
/// # Errors
/// The listener fails.
pub async fn serve(
    listener: TcpListener,
    store: Store,
    stop: impl Future<Output = ()> + Send + 'static,
) -> std::io::Result<()> {
    serve_with(listener, store, &Config::default(), stop).await
}

/// Serves until told to stop; requests in flight then have some seconds.
///
/// # Errors
/// The listener fails.
pub async fn serve_with(
    listener: TcpListener,
    store: Store,
    config: &Config,
    stop: impl Future<Output = ()> + Send + 'static,
) -> std::io::Result<()> {
    let app = app::App::new(store, config);
    let news = tokio::spawn(app.clone().pass_on_news());
    let cleared = tokio::spawn(app.clone().clear_rested());
    // Open streams of news end at once: they would take all the time that is left to others.
    let (stopped, stopping) = tokio::sync::watch::channel(false);
    let stop = async move {
        stop.await;
        let _ = stopped.send(true);
    };
    let served = server::run(listener, router::router(app, config, stopping), config, stop).await;
    news.abort();
    cleared.abort();
    served
}
