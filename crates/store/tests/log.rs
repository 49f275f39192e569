//! The log on a real PostgreSQL: each test in a database of its own.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

mod common;

use common::{database, store};
use fenlo_core::plan::{Edit, Plan, SetJob, Supply};
use fenlo_core::units::UnitSystem;
use fenlo_store::{Change, Picture, Shelf, StoreError, THIS_COMPANY, Upload};
use sqlx::PgPool;

fn rename(base: i64, name: &str) -> Change {
    let job = SetJob {
        controller_stations: None,
        name: name.into(),
        location: "There".into(),
        local_code: String::new(),
        units: UnitSystem::Us,
    };
    Change::edit(base, Edit::SetJob(job))
}
fn connection(base: i64, id: &str) -> Change {
    Change::edit(base, Edit::put(Supply::new(id, id)))
}
fn keyed(change: Change, key: &str) -> Change {
    match change {
        Change::Do { base, edit, .. } => Change::Do { base, edit, key: Some(key.into()), own: Vec::new() },
        other => other,
    }
}
/// Made on top of own edits with these keys.
fn after(change: Change, keys: &[&str]) -> Change {
    match change {
        Change::Do { base, edit, key, .. } => {
            Change::Do { base, edit, key, own: keys.iter().map(|k| (*k).to_owned()).collect() }
        }
        other => other,
    }
}

#[sqlx::test(migrations = false)]
async fn a_job_is_the_fold_of_its_edits(pool: PgPool) {
    let store = store(&pool).await;
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    for i in 0..120 {
        let open = store.append(id, rename(i, &format!("Name {i}")), None).await.unwrap();
        assert_eq!(open.seq, i + 1);
    }
    let open = store.job(id).await.unwrap();
    assert_eq!((open.seq, open.job.name.as_str()), (120, "Name 119"));
    assert_eq!(open.undo.as_deref(), Some("Job details"));
    let (snapshots,): (i64,) =
        sqlx::query_as("select count(*) from snapshots").fetch_one(&pool).await.unwrap();
    assert_eq!(snapshots, 3, "the first and one every fifty");
    assert_eq!(store.history(id, 5).await.unwrap().len(), 5);
}

#[sqlx::test(migrations = false)]
async fn undo_and_redo_are_entries_too(pool: PgPool) {
    let store = store(&pool).await;
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    store.append(id, rename(0, "Second"), None).await.unwrap();
    store.append(id, rename(1, "Third"), None).await.unwrap();
    let names = async |change| store.append(id, change, None).await.map(|o| o.job.name.clone());
    assert_eq!(names(Change::Undo(None)).await.unwrap(), "Second");
    assert_eq!(names(Change::Undo(None)).await.unwrap(), "First");
    assert!(matches!(names(Change::Undo(None)).await, Err(StoreError::NothingTo("undo"))));
    assert_eq!(names(Change::Redo(None)).await.unwrap(), "Second");
    assert_eq!(names(Change::Redo(None)).await.unwrap(), "Third");
    assert!(matches!(names(Change::Redo(None)).await, Err(StoreError::NothingTo("redo"))));
    assert_eq!(store.job(id).await.unwrap().seq, 6);
}

#[sqlx::test(migrations = false)]
async fn two_people_collide_only_on_the_same_thing(pool: PgPool) {
    let store = store(&pool).await;
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    store.append(id, rename(0, "Mine"), None).await.unwrap();
    // The other saw the job before that: another subject merges, the same one is refused.
    assert_eq!(store.append(id, connection(0, "s2"), None).await.unwrap().seq, 2);
    let refused = store.append(id, rename(0, "Theirs"), None).await.unwrap_err();
    assert!(matches!(refused, StoreError::Conflict(what) if what == "Job details"));
    let open = store.job(id).await.unwrap();
    assert_eq!((open.seq, open.job.name.as_str(), open.job.supplies.len()), (2, "Mine", 2));
}

#[sqlx::test(migrations = false)]
async fn own_edits_that_waited_are_on_top_of_each_other_and_of_nobody_elses(pool: PgPool) {
    let store = store(&pool).await;
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    let did = async |change: Change| store.append(id, change, None).await.map(|open| open.seq);
    // Three edits made at number 0 while nobody answered, of one thing, sent one after the other.
    assert_eq!(did(keyed(rename(0, "Mine"), "own-1")).await.unwrap(), 1);
    let second = after(keyed(rename(0, "Mine again"), "own-2"), &["own-1"]);
    assert_eq!(did(second).await.unwrap(), 2);
    // Another's edit of the same thing between them: the third was not made on top of that.
    assert_eq!(did(keyed(rename(2, "Theirs"), "theirs-1")).await.unwrap(), 3);
    let third = after(keyed(rename(0, "Mine for good"), "own-3"), &["own-1", "own-2"]);
    assert!(matches!(did(third).await, Err(StoreError::Conflict(_))));
    assert_eq!(store.job(id).await.unwrap().job.name, "Theirs");
    // Edits without a key are another's, whatever the keys.
    assert_eq!(did(rename(3, "No key")).await.unwrap(), 4);
    let late = after(keyed(rename(3, "Late"), "own-4"), &["own-1", ""]);
    assert!(matches!(did(late).await, Err(StoreError::Conflict(_))));
}

#[sqlx::test(migrations = false)]
async fn many_writers_at_once_lose_nothing(pool: PgPool) {
    let store = store(&pool).await;
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    let writers = (0..12).map(|i| {
        let store = store.clone();
        tokio::spawn(
            async move { store.append(id, connection(0, &format!("x{i}")), None).await.map(|o| o.seq) },
        )
    });
    let mut seqs = Vec::new();
    for writer in writers.collect::<Vec<_>>() {
        seqs.push(writer.await.unwrap().unwrap());
    }
    seqs.sort_unstable();
    assert_eq!(seqs, (1..=12).collect::<Vec<_>>());
    assert_eq!(store.job(id).await.unwrap().job.supplies.len(), 13);
}

#[sqlx::test(migrations = false)]
async fn an_edit_that_does_not_apply_saves_nothing(pool: PgPool) {
    let store = store(&pool).await;
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    assert!(matches!(store.append(id, rename(0, ""), None).await, Err(StoreError::Edit(_))));
    assert_eq!(store.job(id).await.unwrap().seq, 0);
    assert!(matches!(store.job(id + 1).await, Err(StoreError::NotFound)));
}

#[sqlx::test(migrations = false)]
async fn jobs_are_searched_paged_and_deleted(pool: PgPool) {
    let store = store(&pool).await;
    for i in 0..25 {
        store.create(&Plan::new(&format!("Garden {i} 100%"), UnitSystem::Us)).await.unwrap();
    }
    let page = store.jobs(Shelf::Desk, "garden", 1, 20).await.unwrap();
    assert_eq!((page.jobs.len(), page.total), (5, 25));
    assert_eq!(store.jobs(Shelf::Desk, "100%", 0, 20).await.unwrap().total, 25);
    assert_eq!(
        store.jobs(Shelf::Desk, "1_0", 0, 20).await.unwrap().total,
        0,
        "an underscore is an underscore"
    );
    let id = page.jobs[0].id;
    store.delete(id).await.unwrap();
    assert!(matches!(store.delete(id).await, Err(StoreError::NotFound)));
    let database = database(&pool).await;
    assert!(database.once("x").await.unwrap() && !database.once("x").await.unwrap());
}

#[sqlx::test(migrations = false)]
async fn an_edit_sent_twice_is_done_once_and_told_to_whoever_listens(pool: PgPool) {
    let store = store(&pool).await;
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    let mut news = database(&pool).await.news().await.unwrap();
    let keyed = |name: &str| keyed(rename(0, name), "k1");
    let first = store.append(id, keyed("Once"), None).await.unwrap();
    assert_eq!(news.next().await.unwrap(), (id, 1));
    let again = store.append(id, keyed("Twice"), Some(&first)).await.unwrap();
    assert_eq!((again.seq, again.job.name.as_str()), (1, "Once"));
    assert!(store.was_done(id, "k1").await.unwrap() && !store.was_done(id, "k2").await.unwrap());
    // What is known is used only while it is the newest.
    store.append(id, connection(1, "s2"), Some(&again)).await.unwrap();
    let third = store.append(id, connection(2, "s3"), Some(&first)).await.unwrap();
    assert_eq!(third.job.supplies.len(), 3);
    assert_eq!(store.edits_since(id, 1, 10).await.unwrap().len(), 2);
    assert_eq!(store.edits_since(id, 0, 1).await.unwrap().len(), 1);
}

#[sqlx::test(migrations = false)]
async fn pictures_and_uploads_belong_to_their_job_and_are_bounded(pool: PgPool) {
    let store = store(&pool).await;
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    let other = store.create(&Plan::new("Second", UnitSystem::Us)).await.unwrap();
    let picture = Picture { kind: "image/png".into(), bytes: vec![1, 2, 3] };
    for n in 0..10 {
        store.put_picture(id, &format!("p{n}"), &picture).await.unwrap();
    }
    store.put_picture(id, "p3", &picture).await.unwrap();
    assert!(matches!(store.put_picture(id, "p10", &picture).await, Err(StoreError::Full(_))));
    assert_eq!(store.picture(id, "p0").await.unwrap(), picture);
    assert!(matches!(store.picture(other, "p0").await, Err(StoreError::NotFound)));
    let upload = |n: u8| Upload { name: format!("{n}.dxf"), bytes: vec![n] };
    let mut ids = Vec::new();
    for n in 0..5 {
        ids.push(store.put_upload(id, &upload(n)).await.unwrap());
    }
    assert!(matches!(store.upload(id, ids[1]).await, Err(StoreError::NotFound)), "older ones go");
    assert_eq!(store.upload(id, ids[4]).await.unwrap(), upload(4));
    assert!(matches!(store.upload(other, ids[4]).await, Err(StoreError::NotFound)));
    store.drop_upload(id, ids[4]).await.unwrap();
    assert!(matches!(store.upload(id, ids[4]).await, Err(StoreError::NotFound)));
    store.delete(id).await.unwrap();
    assert!(matches!(store.picture(id, "p0").await, Err(StoreError::NotFound)), "with the job");
}

#[sqlx::test(migrations = false)]
async fn undo_walks_back_over_what_was_undone_and_a_new_edit_ends_redo(pool: PgPool) {
    let store = store(&pool).await;
    let id = store.create(&Plan::new("a", UnitSystem::Us)).await.unwrap();
    let name = async |change| store.append(id, change, None).await.map(|o| o.job.name.clone());
    name(rename(0, "b")).await.unwrap();
    name(rename(1, "c")).await.unwrap();
    assert_eq!(name(Change::Undo(None)).await.unwrap(), "b");
    assert_eq!(name(rename(3, "d")).await.unwrap(), "d");
    assert!(matches!(name(Change::Redo(None)).await, Err(StoreError::NothingTo(_))));
    // c was taken back before d was made: behind d stands b, then a.
    assert_eq!(name(Change::Undo(None)).await.unwrap(), "b");
    assert_eq!(name(Change::Undo(None)).await.unwrap(), "a");
    assert_eq!(name(Change::Redo(None)).await.unwrap(), "b");
    assert_eq!(name(Change::Redo(None)).await.unwrap(), "d");
    let open = store.job(id).await.unwrap();
    assert_eq!((open.undo.as_deref(), open.redo.as_deref()), (Some("Job details"), None));
}

#[sqlx::test(migrations = false)]
async fn a_log_from_before_the_stacks_is_threaded(pool: PgPool) {
    let store = store(&pool).await;
    let id = store.create(&Plan::new("a", UnitSystem::Us)).await.unwrap();
    for (seq, change) in
        [rename(0, "b"), rename(1, "c"), Change::Undo(None), Change::Undo(None), Change::Redo(None)]
            .into_iter()
            .enumerate()
    {
        assert_eq!(store.append(id, change, None).await.unwrap().seq, seq as i64 + 1);
    }
    let threads = async || {
        let top: (Option<i64>, Option<i64>) =
            sqlx::query_as("select undo_top, redo_top from jobs").fetch_one(&pool).await.unwrap();
        let below: Vec<(Option<i64>,)> =
            sqlx::query_as("select below from edits order by seq").fetch_all(&pool).await.unwrap();
        (top, below)
    };
    let written = threads().await;
    assert_eq!(written.0, (Some(5), Some(3)));
    // The migration comes to the same stacks from the kinds of the entries alone.
    sqlx::raw_sql("update jobs set undo_top = null, redo_top = null; update edits set below = null")
        .execute(&pool)
        .await
        .unwrap();
    let migration = include_str!("../migrations/20261125000000_flat_log.sql");
    let threading = &migration[migration.find("do $$").unwrap()..];
    sqlx::raw_sql(threading).execute(&pool).await.unwrap();
    assert_eq!(threads().await, written);
}

#[sqlx::test(migrations = false)]
async fn the_same_key_sent_many_times_at_once_is_one_edit(pool: PgPool) {
    let store = store(&pool).await;
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    let senders: Vec<_> = (0..8)
        .map(|_| {
            let store = store.clone();
            tokio::spawn(async move { store.append(id, keyed(rename(0, "Once"), "k"), None).await })
        })
        .collect();
    for sender in senders {
        assert_eq!(sender.await.unwrap().unwrap().seq, 1);
    }
    assert_eq!(store.history(id, 10).await.unwrap().len(), 1);
}

#[sqlx::test(migrations = false)]
async fn nothing_of_another_company_is_reached(pool: PgPool) {
    let database = database(&pool).await;
    let ours = database.scope(THIS_COMPANY);
    let theirs = database.scope(database.add_company("Others").await.unwrap());
    let id = ours.create(&Plan::new("Ours", UnitSystem::Us)).await.unwrap();
    ours.append(id, keyed(rename(0, "Named"), "k"), None).await.unwrap();
    let picture = Picture { kind: "image/png".into(), bytes: vec![1] };
    ours.put_picture(id, "p", &picture).await.unwrap();
    let file = Upload { name: "a.dxf".into(), bytes: vec![1] };
    let upload = ours.put_upload(id, &file).await.unwrap();
    macro_rules! not_found {
        ($($call:expr),* $(,)?) => {
            $(assert!(matches!($call.await, Err(StoreError::NotFound)), stringify!($call));)*
        };
    }
    not_found![
        theirs.job(id),
        theirs.seq(id),
        theirs.append(id, rename(1, "Taken"), None),
        theirs.append(id, Change::Undo(None), None),
        theirs.delete(id),
        theirs.picture(id, "p"),
        theirs.put_picture(id, "q", &picture),
        theirs.upload(id, upload),
        theirs.put_upload(id, &file),
    ];
    assert_eq!(theirs.jobs(Shelf::Desk, "", 0, 20).await.unwrap().total, 0);
    assert!(theirs.history(id, 10).await.unwrap().is_empty());
    assert!(theirs.edits_since(id, 0, 10).await.unwrap().is_empty());
    assert!(!theirs.was_done(id, "k").await.unwrap());
    theirs.drop_upload(id, upload).await.unwrap();
    assert_eq!(ours.upload(id, upload).await.unwrap(), file);
    assert_eq!(ours.job(id).await.unwrap().job.name, "Named");
}

#[sqlx::test(migrations = false)]
async fn only_the_first_and_the_newest_snapshots_are_kept(pool: PgPool) {
    let store = store(&pool).await;
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    let mut known = store.job(id).await.unwrap();
    for i in 0..260 {
        known = store.append(id, rename(i, &format!("Name {i}")), Some(&known)).await.unwrap();
    }
    let kept: Vec<(i64,)> =
        sqlx::query_as("select seq from snapshots order by seq").fetch_all(&pool).await.unwrap();
    assert_eq!(kept, [(0,), (150,), (200,), (250,)].to_vec());
    assert_eq!(store.job(id).await.unwrap(), known, "read back as it was kept");
}
