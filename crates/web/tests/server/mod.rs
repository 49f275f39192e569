//! The real server on a free port, and raw requests to it.

#![allow(clippy::unwrap_used, dead_code, reason = "shared by several tests; one that can't go on fails")]

use fenlo_web::{Config, Store};
use sqlx::PgPool;
use std::net::SocketAddr;
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::{TcpListener, TcpStream};
use tokio::sync::oneshot;

/// Small sites whose groups are listed, which tests know head by head.
pub const FIXTURES: [(&str, &str); 3] = [
    ("bowls-green", include_str!("../../../../fixtures/bowls-green.json")),
    ("veterinary-clinic", include_str!("../../../../fixtures/veterinary-clinic.json")),
    ("corner-plot", include_str!("../../../../fixtures/corner-plot.json")),
];

/// The server with the demo jobs, in the test's own database.
pub async fn serve(pool: &PgPool) -> SocketAddr {
    let (address, stop) = serve_as(pool, Config::default()).await;
    // It runs as long as the test.
    std::mem::forget(stop);
    address
}

/// The same, run in some way, until it is told to stop.
pub async fn serve_as(pool: &PgPool, config: Config) -> (SocketAddr, oneshot::Sender<()>) {
    let url = std::env::var("DATABASE_URL").unwrap();
    let (server, _) = url.rsplit_once('/').unwrap();
    let store =
        Store::open(&format!("{server}/{}", pool.connect_options().get_database().unwrap())).await.unwrap();
    fenlo_web::load_jobs(&store, &FIXTURES).await.unwrap();
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = listener.local_addr().unwrap();
    let (stop, stopped) = oneshot::channel();
    tokio::spawn(async move {
        let stopped = async move { stopped.await.unwrap_or(()) };
        fenlo_web::serve_with(listener, store, &config, stopped).await
    });
    (address, stop)
}

/// Sends a request as it is and reads the whole answer.
pub async fn ask(address: SocketAddr, head: &str, body: impl AsRef<[u8]>) -> String {
    let body = body.as_ref();
    let mut stream = TcpStream::connect(address).await.unwrap();
    let head =
        format!("{head}\r\nhost: {address}\r\nconnection: close\r\ncontent-length: {}\r\n\r\n", body.len());
    // The server may refuse before it has read everything.
    let _ = stream.write_all(head.as_bytes()).await;
    let _ = stream.write_all(body).await;
    let mut answer = Vec::new();
    let _ = stream.read_to_end(&mut answer).await;
    String::from_utf8_lossy(&answer).into_owned()
}

/// Posts a form.
pub async fn post(address: SocketAddr, path: &str, body: &str, more: &str) -> String {
    ask(
        address,
        &format!(
            "POST {path} HTTP/1.1\r\ncontent-type: \
        application/x-www-form-urlencoded\r\norigin: http://{address}{more}"
        ),
        body,
    )
    .await
}

/// Sends a gesture.
pub async fn gesture(address: SocketAddr, job: &str, base: i64, key: &str, gesture: &str) -> String {
    let json = format!(r#"{{"base":{base},"key":"{key}","gesture":{gesture}}}"#);
    ask(
        address,
        &format!(
            "POST /jobs/{job}/ground/gesture HTTP/1.1\r\ncontent-type: \
        application/json\r\norigin: http://{address}"
        ),
        json,
    )
    .await
}

/// Sends a file as a form's `file`.
pub async fn multipart(address: SocketAddr, path: &str, name: &str, bytes: &[u8]) -> String {
    let mut body =
        format!("--B\r\ncontent-disposition: form-data; name=\"file\"; filename=\"{name}\"\r\n\r\n")
            .into_bytes();
    body.extend(bytes);
    body.extend(b"\r\n--B--\r\n");
    ask(
        address,
        &format!(
            "POST {path} HTTP/1.1\r\ncontent-type: multipart/form-data; \
        boundary=B\r\norigin: http://{address}"
        ),
        body,
    )
    .await
}

/// Status of an answer.
pub fn status(answer: &str) -> &str {
    answer.split(' ').nth(1).unwrap_or("none")
}

/// Body of an answer.
pub fn body(answer: &str) -> &str {
    answer.split_once("\r\n\r\n").map_or("", |b| b.1)
}
