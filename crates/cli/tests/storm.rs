//! The server is killed again and again while hands edit: what was acknowledged is there, once, whole.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use serde_json::Value;
use std::io::{BufRead, BufReader, Read, Write};
use std::net::{SocketAddr, TcpListener, TcpStream};
use std::process::{Child, Command, Stdio};
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::sync::{Arc, Mutex};
use std::time::Duration;

/// Kills in the short form; `FENLO_KILLS=100` for a long one.
const KILLS: usize = 4;

/// A database of its own, dropped at the end.
struct Database(String);

impl Database {
    fn new() -> Self {
        let name = format!("fenlo_storm_{}", std::process::id());
        psql(&format!("create database {name}"));
        Self(name)
    }
    fn url(&self) -> String {
        let admin = std::env::var("DATABASE_URL").unwrap();
        format!("{}/{}", admin.rsplit_once('/').unwrap().0, self.0)
    }
}

impl Drop for Database {
    fn drop(&mut self) {
        psql(&format!("drop database if exists {} with (force)", self.0));
    }
}

fn psql(sql: &str) {
    let url = std::env::var("DATABASE_URL").unwrap();
    let done = Command::new("psql").args([&url, "-qc", sql]).output().unwrap();
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
}

fn serve(database: &Database, at: SocketAddr) -> Child {
    let mut server = Command::new(env!("CARGO_BIN_EXE_fenlo"))
        .args(["serve", "--listen", &at.to_string()])
        .env("DATABASE_URL", database.url())
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let mut ready = String::new();
    BufReader::new(server.stdout.take().unwrap()).read_line(&mut ready).unwrap();
    assert!(ready.contains("is running at"), "{ready}");
    server
}

/// A request and its whole answer; none where nobody answers.
fn ask(at: SocketAddr, method: &str, path: &str, body: &str) -> Option<String> {
    let mut stream = TcpStream::connect_timeout(&at, Duration::from_secs(2)).ok()?;
    stream.set_read_timeout(Some(Duration::from_secs(10))).ok()?;
    let kind = if body.starts_with('{') { "application/json" } else { "application/x-www-form-urlencoded" };
    let head = format!(
        "{method} {path} HTTP/1.1\r\nhost: {at}\r\nx-fenlo: 1\r\nconnection: close\r\ncontent-type: \
            {kind}\r\n\
         content-length: {}\r\n\r\n{body}",
        body.len()
    );
    stream.write_all(head.as_bytes()).ok()?;
    let mut answer = String::new();
    stream.read_to_string(&mut answer).ok()?;
    answer.contains("\r\n\r\n").then_some(answer)
}

#[test]
fn no_acknowledged_edit_is_lost_doubled_or_halved_by_kills() {
    let kills = std::env::var("FENLO_KILLS").ok().and_then(|n| n.parse().ok()).unwrap_or(KILLS);
    let database = Database::new();
    let at = TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap();
    let mut server = serve(&database, at);
    let mut jobs = Vec::new();
    for n in 0..3 {
        let answer = ask(at, "POST", "/jobs", &format!("name=Job+{n}&units=us")).unwrap();
        let to = answer.lines().find_map(|l| l.strip_prefix("location: ")).unwrap();
        jobs.push(to.split('/').nth(2).unwrap().to_owned());
    }
    let stop = Arc::new(AtomicBool::new(false));
    let refused = Arc::new(AtomicUsize::new(0));
    let done = Arc::new(Mutex::new(Vec::<(String, String)>::new()));
    let hands: Vec<_> = jobs
        .iter()
        .cloned()
        .map(|job| {
            let (stop, refused, done) = (Arc::clone(&stop), Arc::clone(&refused), Arc::clone(&done));
            std::thread::spawn(move || {
                for i in 0.. {
                    if stop.load(Ordering::Relaxed) {
                        return;
                    }
                    let id = format!("n{i}");
                    let gesture = format!(
                        r#"{{"base":0,"key":"storm-{job}-{i}","gesture":{{"do":"add","thing":{{"id":"{id}",
                        "what":{{"is":"note","at":[{i},1],"text":"{i}"}}}}}}}}"#
                    );
                    // Sent until it is acknowledged, as the board does.
                    loop {
                        let answer = ask(at, "POST", &format!("/jobs/{job}/ground/gesture"), &gesture);
                        let status = answer.as_deref().and_then(|a| a.split(' ').nth(1)).unwrap_or("none");
                        if status == "200" {
                            done.lock().unwrap().push((job.clone(), id));
                            break;
                        }
                        assert!(matches!(status, "none" | "500" | "503"), "{}", answer.unwrap());
                        refused.fetch_add(1, Ordering::Relaxed);
                        std::thread::sleep(Duration::from_millis(20));
                    }
                }
            })
        })
        .collect();
    for _ in 0..kills {
        std::thread::sleep(Duration::from_millis(600));
        server.kill().unwrap();
        server.wait().unwrap();
        server = serve(&database, at);
    }
    std::thread::sleep(Duration::from_millis(300));
    stop.store(true, Ordering::Relaxed);
    for hand in hands {
        hand.join().unwrap();
    }
    let done = done.lock().unwrap();
    for job in &jobs {
        let file = ask(at, "GET", &format!("/jobs/{job}/job.json"), "").unwrap();
        let plan: Value = serde_json::from_str(file.split_once("\r\n\r\n").unwrap().1).unwrap();
        let things = plan["site"]["things"].as_array().unwrap();
        let mut kept: Vec<&str> = things.iter().map(|t| t["id"].as_str().unwrap()).collect();
        let mut wanted: Vec<&str> = done.iter().filter(|d| d.0 == *job).map(|d| d.1.as_str()).collect();
        kept.sort_unstable();
        wanted.sort_unstable();
        assert_eq!(kept, wanted, "job {job}");
    }
    assert!(done.len() > 10 * kills, "there was work going on: {}", done.len());
    assert!(refused.load(Ordering::Relaxed) > 0, "somebody met a dead server");
    server.kill().unwrap();
    server.wait().unwrap();
}
