//! Other people's edits as they happen.

use crate::app::{App, EVERY_JOB};
use crate::error::AppError;
use crate::security::Client;
use axum::extract::{Path, State};
use axum::response::sse::{Event, KeepAlive, Sse};
use futures_util::stream::{Stream, StreamExt, unfold};
use std::convert::Infallible;
use std::time::Duration;
use tokio::sync::{broadcast, watch};

/// Tells an open board the number of each new edit of its job. The stream ends with the server.
pub async fn stream(
    State(app): State<App>,
    Path(job): Path<i64>,
    axum::Extension(stopping): axum::Extension<watch::Receiver<bool>>,
    client: Option<axum::Extension<Client>>,
) -> Result<Sse<impl Stream<Item = Result<Event, Infallible>>>, AppError> {
    // A stream of a job that is not there would be open for ever and never say a thing.
    app.store.seq(job).await?;
    let open = client.map(|c| app.streams.open(c.0.0)).transpose()?;
    let news = app.news.subscribe();
    let told = unfold((news, stopping, open), move |(mut news, mut stopping, open)| async move {
        loop {
            let told = tokio::select! {
                told = news.recv() => told,
                _ = stopping.wait_for(|stop| *stop) => return None,
            };
            let event = match told {
                Ok((of, seq)) if of == job || of == EVERY_JOB => {
                    Event::default().event("edit").data(seq.to_string())
                }
                Ok(_) => continue,
                // Fell behind: the board asks for what it missed.
                Err(broadcast::error::RecvError::Lagged(_)) => Event::default().event("edit").data("0"),
                Err(broadcast::error::RecvError::Closed) => return None,
            };
            return Some((Ok(event), (news, stopping, open)));
        }
    });
    // Said at once, so that the board knows it is heard.
    let hello = futures_util::stream::once(async { Ok(Event::default().event("hello").data("listening")) });
    Ok(Sse::new(hello.chain(told)).keep_alive(KeepAlive::new().interval(Duration::from_secs(10))))
}
