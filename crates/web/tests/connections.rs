//! Connections that say nothing, half of something, or take nothing: none is for ever, and none keeps others
//! out.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

mod server;

use fenlo_web::Config;
use server::{ask, serve_as, status};
use sqlx::PgPool;
use std::time::{Duration, Instant};
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::TcpStream;

fn hasty() -> Config {
    Config { connections: 20, header_seconds: 1, body_seconds: 1, shutdown_seconds: 1, ..Config::default() }
}

/// Until the server closes it; what it said.
async fn closed(stream: &mut TcpStream) -> (String, Duration) {
    let began = Instant::now();
    let mut answer = Vec::new();
    let read = tokio::time::timeout(Duration::from_secs(30), stream.read_to_end(&mut answer)).await;
    assert!(read.is_ok(), "the server closes it");
    (String::from_utf8_lossy(&answer).into_owned(), began.elapsed())
}

#[sqlx::test(migrations = false)]
async fn half_sent_requests_end_and_silent_ones_make_room(pool: PgPool) {
    let (at, stop) = serve_as(&pool, hasty()).await;
    let opened = |text: &'static str| async move {
        let mut stream = TcpStream::connect(at).await.unwrap();
        stream.write_all(text.as_bytes()).await.unwrap();
        stream
    };
    let mut head = opened("GET / HTTP/1.1\r\nhost: localhost\r\n").await;
    closed(&mut head).await;
    let mut body = opened(
        "POST /jobs HTTP/1.1\r\nhost: localhost\r\nx-fenlo: 1\r\ncontent-type: \
            application/x-www-form-urlencoded\r\n\
         content-length: 900\r\n\r\nname=",
    )
    .await;
    let (said, _) = closed(&mut body).await;
    assert_eq!(status(&said), "408", "{said}");
    let mut again = opened("GET /health HTTP/1.1\r\nhost: localhost\r\n\r\n").await;
    let (said, _) = closed(&mut again).await;
    assert!(said.ends_with("ok"), "answered, then closed for saying nothing more: {said}");

    // Three times as many silent ones as there is room for: pages still come.
    let mut silent = Vec::new();
    for _ in 0..60 {
        silent.push(TcpStream::connect(at).await.unwrap());
    }
    for path in ["/health", "/quick"] {
        assert_eq!(status(&ask(at, &format!("GET {path} HTTP/1.1"), "").await), "200", "{path}");
    }

    // All of them busy: who watches over the server is still heard.
    let mut streams = Vec::new();
    for _ in 0..20 {
        let mut stream = opened("GET /jobs/3/events HTTP/1.1\r\nhost: localhost\r\n\r\n").await;
        let mut hello = [0_u8; 12];
        stream.read_exact(&mut hello).await.unwrap();
        streams.push(stream);
    }
    assert_eq!(status(&ask(at, "GET /health HTTP/1.1", "").await), "200");
    let refused = ask(at, "GET /quick HTTP/1.1", "").await;
    assert_eq!(status(&refused), "503", "{refused}");
    assert!(refused.contains("retry-after"));

    // Told to stop it ends, whatever is open.
    let mut half = streams.pop().unwrap();
    let began = Instant::now();
    stop.send(()).unwrap();
    closed(&mut half).await;
    while TcpStream::connect(at).await.is_ok() && began.elapsed() < Duration::from_secs(20) {
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    assert!(TcpStream::connect(at).await.is_err(), "it listens no more");
}
