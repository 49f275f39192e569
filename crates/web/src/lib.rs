//! Pages of Fenlo.
//!
//! A page shows an assessment and computes nothing of the job. Data flows one way: a form becomes an
//! edit, the store appends it and gives the next plan, the plan is assessed, the view shows it. An
//! edit answers with the fragments that show its effect; fields that somebody is typing in are left
//! alone.
//!
//! ```no_run
//! # async fn f() -> Result<(), Box<dyn std::error::Error>> {
//! let store = fenlo_web::open_store("postgres://localhost/fenlo").await?;
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
//! | `submit` | from a form to an edit to fragments, or to faults at its fields |
//! | `fields` | reading forms |
//! | `uploads` | files in and out |
//! | `shell`, `respond` | what stands round a page; answers in parts |
//! | `error` | what a person sees when it goes wrong |
//! | `security` | headers that every answer carries |
//!
//! Not here: sign-in. There is one company, and the server listens on loopback.
#![forbid(unsafe_code)]
#![deny(missing_docs)]

mod app;
mod assessed;
mod assets;
mod choices;
mod demo;
mod error;
mod fields;
pub mod papers;
mod place;
mod respond;
mod router;
mod runs;
mod screens;
mod security;
mod shell;
mod submit;
mod uploads;

pub use demo::{DEMO, load_demo, load_jobs};
pub use fenlo_store::{Store, StoreError};

use std::future::Future;
use std::net::SocketAddr;
use tokio::net::TcpListener;

/// Connects to the database and brings its tables up to date.
///
/// # Errors
/// The database can't be reached.
pub async fn open_store(url: &str) -> Result<Store, StoreError> {
    Store::open(url).await
}

/// Serves until told to stop; requests in flight are finished.
///
/// # Errors
/// The listener fails.
pub async fn serve(
    listener: TcpListener,
    store: Store,
    stop: impl Future<Output = ()> + Send + 'static,
) -> std::io::Result<()> {
    serve_with(listener, store, None, stop).await
}

/// The same beside a controller that programmes may be tried on.
///
/// # Errors
/// The listener fails.
pub async fn serve_with(
    listener: TcpListener,
    store: Store,
    controller: Option<SocketAddr>,
    stop: impl Future<Output = ()> + Send + 'static,
) -> std::io::Result<()> {
    let app = app::App::new(store, controller);
    let news = tokio::spawn(app.clone().pass_on_news());
    // Open streams of news would keep a server that was told to stop from stopping.
    let (stopped, stopping) = tokio::sync::watch::channel(false);
    let stop = async move {
        stop.await;
        let _ = stopped.send(true);
    };
    let served = axum::serve(listener, router::router(app, stopping))
        .with_graceful_shutdown(stop)
        .await;
    news.abort();
    served
}
