//! Connections: few enough, none for ever, and an end to all of them when the server is told to stop.

use crate::config::Config;
use crate::connections::{Connection, Connections, Held};
use axum::Router;
use axum::body::Body;
use axum::extract::ConnectInfo;
use axum::http::{Request, StatusCode, header};
use axum::response::{IntoResponse, Response};
use hyper::body::Incoming;
use hyper::server::conn::http1;
use hyper::service::service_fn;
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::server::graceful::GracefulShutdown;
use std::convert::Infallible;
use std::net::SocketAddr;
use std::sync::Arc;
use std::time::Duration;
use tokio::net::{TcpListener, TcpStream};
use tokio_io_timeout::TimeoutStream;
use tower::ServiceExt;

/// Connections kept for who watches over the server when all others are taken.
const SPARE: usize = 8;
/// Head of a request, bytes; browsers send a tenth.
const MOST_HEAD: usize = 32 * 1024;
/// Addresses that answer on a spare connection.
const WATCHING: [&str; 3] = ["/health", "/ready", "/metrics"];

/// Serves until told to stop; then requests in flight have some seconds, and nothing more.
pub async fn run(
    listener: TcpListener,
    router: Router,
    config: &Config,
    stop: impl Future<Output = ()>,
) -> std::io::Result<()> {
    let open = Connections::new(config.connections);
    let spare = Connections::new(SPARE);
    let graceful = GracefulShutdown::new();
    let mut tasks = tokio::task::JoinSet::new();
    let mut http = http1::Builder::new();
    http.timer(TokioTimer::new()).header_read_timeout(config.header_time()).max_buf_size(MOST_HEAD);
    tokio::pin!(stop);
    loop {
        let (stream, peer) = tokio::select! {
            accepted = listener.accept() => match accepted {
                Ok(accepted) => accepted,
                Err(cause) => {
                    // No file descriptor left, or a client gone already: others go on.
                    tracing::warn!(%cause, "a connection could not be taken");
                    tokio::time::sleep(Duration::from_millis(50)).await;
                    continue;
                }
            },
            () = &mut stop => break,
        };
        while tasks.try_join_next().is_some() {}
        let (room, watching_only) = match open.room() {
            Some(room) => (room, false),
            None => match spare.room() {
                Some(room) => (room, true),
                // Closed unheard: answering would take room as well.
                None => continue,
            },
        };
        let here = Arc::clone(&room.connection);
        let answers = answers(router.clone(), peer, Arc::clone(&here), watching_only);
        let connection = graceful.watch(http.serve_connection(timed(stream, config), answers));
        tasks.spawn(async move {
            let _room = room;
            tokio::select! {
                done = connection => if let Err(cause) = done {
                    tracing::debug!(%cause, "a connection ended");
                },
                () = here.makes_room() => {}
            }
        });
    }
    drop(listener);
    if tokio::time::timeout(config.shutdown_time(), graceful.shutdown()).await.is_err() {
        tracing::warn!(open = tasks.len(), "connections were cut off at the end of their time");
    }
    tasks.shutdown().await;
    Ok(())
}

/// A stream that gives up on a client that takes nothing.
fn timed(stream: TcpStream, config: &Config) -> TokioIo<std::pin::Pin<Box<TimeoutStream<TcpStream>>>> {
    let _ = stream.set_nodelay(true);
    let mut timed = TimeoutStream::new(stream);
    timed.set_write_timeout(Some(config.write_time()));
    TokioIo::new(Box::pin(timed))
}

/// What answers on one connection.
fn answers(
    router: Router,
    peer: SocketAddr,
    here: Arc<Connection>,
    watching_only: bool,
) -> impl hyper::service::Service<
    Request<Incoming>,
    Response = Response,
    Error = Infallible,
    Future = impl Future<Output = Result<Response, Infallible>> + Send + 'static,
> {
    service_fn(move |request: Request<Incoming>| {
        let (router, busy) = (router.clone(), here.work());
        async move {
            if watching_only && !WATCHING.contains(&request.uri().path()) {
                let says = [(header::CONNECTION, "close"), (header::RETRY_AFTER, "5")];
                let words = "Too many open connections. Try again in a moment.\n";
                return Ok((StatusCode::SERVICE_UNAVAILABLE, says, words).into_response());
            }
            let mut request = request.map(Body::new);
            request.extensions_mut().insert(ConnectInfo(peer));
            let response = router.oneshot(request).await?;
            Ok(response.map(|body| Body::new(Held { body, _busy: busy })))
        }
    })
}
