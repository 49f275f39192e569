//! A rehearsal: the database is lost in a storm of edits, its standby takes over, no acknowledged edit is
//! lost.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::plan::{Edit, Plan, Supply};
use fenlo_core::units::UnitSystem;
use fenlo_store::{Change, Store, StoreError, THIS_COMPANY};
use std::collections::BTreeSet;
use std::path::PathBuf;
use std::process::Command;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

/// Two databases; gone with the test.
struct Pair(PathBuf);

impl Pair {
    fn run(&self, what: &str) -> String {
        let script = concat!(env!("CARGO_MANIFEST_DIR"), "/../../scripts/pair");
        let done = Command::new(script).arg(what).env("FENLO_PAIR", &self.0).output().unwrap();
        assert!(done.status.success(), "{what}: {}", String::from_utf8_lossy(&done.stderr));
        String::from_utf8(done.stdout).unwrap()
    }
}

impl Drop for Pair {
    fn drop(&mut self) {
        self.run("stop");
    }
}

fn put(base: i64, id: &str, key: &str) -> Change {
    Change::Do {
        base,
        edit: Box::new(Edit::put(Supply::new(id, id))),
        key: Some(key.into()),
        own: Vec::new(),
    }
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn no_acknowledged_edit_is_lost_with_the_database() {
    let pair = Pair(std::env::temp_dir().join(format!("fenlo-pair-{}", std::process::id())));
    let urls: Vec<String> = pair.run("start").lines().map(str::to_owned).collect();
    assert_eq!(urls.len(), 2);
    let database = Store::open_any(&urls, 8).await.unwrap();
    let store = database.scope(THIS_COMPANY);
    let stop = Arc::new(AtomicBool::new(false));
    let mut hands = Vec::new();
    for n in 0..4 {
        let job = store.create(&Plan::new(&format!("Job {n}"), UnitSystem::Us)).await.unwrap();
        let (store, stop) = (store.clone(), Arc::clone(&stop));
        hands.push(tokio::spawn(async move {
            let (mut done, mut seq, mut lost) = (BTreeSet::new(), 0, 0);
            for i in 0.. {
                if stop.load(Ordering::Relaxed) || i >= 150 {
                    break;
                }
                // Sent again with its key until somebody acknowledges it, as a page does.
                let id = format!("s{i}");
                loop {
                    match store.append(job, put(seq, &id, &format!("key-{i}")), None).await {
                        Ok(open) => {
                            seq = open.seq;
                            done.insert(id);
                            break;
                        }
                        Err(StoreError::Unavailable(_)) => {
                            lost += 1;
                            tokio::time::sleep(Duration::from_millis(50)).await;
                        }
                        Err(other) => panic!("{other}"),
                    }
                }
                tokio::time::sleep(Duration::from_millis(10)).await;
            }
            (job, done, lost)
        }));
    }
    tokio::time::sleep(Duration::from_millis(700)).await;
    pair.run("kill-primary");
    pair.run("promote");
    let promoted = Instant::now();
    // Found without a restart and without a word.
    while !database.answers().await {
        assert!(promoted.elapsed() < Duration::from_secs(30), "the server finds the standby");
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    tokio::time::sleep(Duration::from_millis(700)).await;
    stop.store(true, Ordering::Relaxed);
    let mut refused = 0;
    for hand in hands {
        let (job, done, lost) = hand.await.unwrap();
        refused += lost;
        let open = store.job(job).await.unwrap();
        let kept: BTreeSet<String> = open.job.supplies.iter().map(|s| s.id.clone()).collect();
        assert_eq!(kept, done, "job {job}: what was acknowledged is there, once, and nothing else");
        assert_eq!(open.seq as usize, done.len());
    }
    assert!(refused > 0, "the storm was going on when the database went away");
}
