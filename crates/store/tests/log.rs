//! The log on a real PostgreSQL: each test in a database of its own.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::catalogue::Catalogue;
use fenlo_core::plan::{Edit, Plan, Supply};
use fenlo_core::units::UnitSystem;
use fenlo_store::{Change, Picture, Store, StoreError, Upload};
use sqlx::PgPool;

/// A store on the test's own database.
async fn store(pool: &PgPool) -> Store {
    let options = pool.connect_options();
    let url = std::env::var("DATABASE_URL").unwrap();
    let (server, _) = url.rsplit_once('/').unwrap();
    Store::open(&format!("{server}/{}", options.get_database().unwrap()))
        .await
        .unwrap()
}
fn rename(base: i64, name: &str) -> Change {
    Change::Do {
        base,
        edit: Box::new(Edit::SetJob {
            name: name.into(),
            place: "There".into(),
            local_code: String::new(),
            units: UnitSystem::Us,
        }),
        key: None,
    }
}
fn connection(base: i64, id: &str) -> Change {
    Change::Do {
        base,
        edit: Box::new(Edit::PutSupply {
            supply: Supply::new(id, id),
            at: None,
        }),
        key: None,
    }
}

#[sqlx::test(migrations = false)]
async fn a_job_is_the_fold_of_its_edits(pool: PgPool) {
    let (store, c) = (store(&pool).await, Catalogue::builtin());
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    for i in 0..120 {
        let open = store
            .append(id, rename(i, &format!("Name {i}")), None, c)
            .await
            .unwrap();
        assert_eq!(open.seq, i + 1);
    }
    let open = store.job(id).await.unwrap();
    assert_eq!((open.seq, open.plan.name.as_str()), (120, "Name 119"));
    assert_eq!(open.undo.as_deref(), Some("Job details"));
    let (snapshots,): (i64,) = sqlx::query_as("select count(*) from snapshots")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(snapshots, 3, "the first and one every fifty");
    assert_eq!(store.history(id, 5).await.unwrap().len(), 5);
}

#[sqlx::test(migrations = false)]
async fn undo_and_redo_are_entries_too(pool: PgPool) {
    let (store, c) = (store(&pool).await, Catalogue::builtin());
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    store.append(id, rename(0, "Second"), None, c).await.unwrap();
    store.append(id, rename(1, "Third"), None, c).await.unwrap();
    let names = async |change| store.append(id, change, None, c).await.map(|o| o.plan.name);
    assert_eq!(names(Change::Undo).await.unwrap(), "Second");
    assert_eq!(names(Change::Undo).await.unwrap(), "First");
    assert!(matches!(
        names(Change::Undo).await,
        Err(StoreError::NothingTo("undo"))
    ));
    assert_eq!(names(Change::Redo).await.unwrap(), "Second");
    assert_eq!(names(Change::Redo).await.unwrap(), "Third");
    assert!(matches!(
        names(Change::Redo).await,
        Err(StoreError::NothingTo("redo"))
    ));
    assert_eq!(store.job(id).await.unwrap().seq, 6);
}

#[sqlx::test(migrations = false)]
async fn two_people_collide_only_on_the_same_thing(pool: PgPool) {
    let (store, c) = (store(&pool).await, Catalogue::builtin());
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    store.append(id, rename(0, "Mine"), None, c).await.unwrap();
    // The other saw the job before that: another subject merges, the same one is refused.
    assert_eq!(
        store.append(id, connection(0, "s2"), None, c).await.unwrap().seq,
        2
    );
    let refused = store.append(id, rename(0, "Theirs"), None, c).await.unwrap_err();
    assert!(matches!(refused, StoreError::Conflict(what) if what == "Job details"));
    let open = store.job(id).await.unwrap();
    assert_eq!(
        (open.seq, open.plan.name.as_str(), open.plan.supplies.len()),
        (2, "Mine", 2)
    );
}

#[sqlx::test(migrations = false)]
async fn many_writers_at_once_lose_nothing(pool: PgPool) {
    let (store, c) = (store(&pool).await, Catalogue::builtin());
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    let writers = (0..12).map(|i| {
        let store = store.clone();
        tokio::spawn(async move {
            store
                .append(id, connection(0, &format!("x{i}")), None, c)
                .await
                .map(|o| o.seq)
        })
    });
    let mut seqs = Vec::new();
    for writer in writers.collect::<Vec<_>>() {
        seqs.push(writer.await.unwrap().unwrap());
    }
    seqs.sort_unstable();
    assert_eq!(seqs, (1..=12).collect::<Vec<_>>());
    assert_eq!(store.job(id).await.unwrap().plan.supplies.len(), 13);
}

#[sqlx::test(migrations = false)]
async fn an_edit_that_does_not_apply_saves_nothing(pool: PgPool) {
    let (store, c) = (store(&pool).await, Catalogue::builtin());
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    assert!(matches!(
        store.append(id, rename(0, ""), None, c).await,
        Err(StoreError::Edit(_))
    ));
    assert_eq!(store.job(id).await.unwrap().seq, 0);
    assert!(matches!(store.job(id + 1).await, Err(StoreError::NotFound)));
}

#[sqlx::test(migrations = false)]
async fn jobs_are_searched_paged_and_deleted(pool: PgPool) {
    let store = store(&pool).await;
    for i in 0..25 {
        store
            .create(&Plan::new(&format!("Garden {i} 100%"), UnitSystem::Us))
            .await
            .unwrap();
    }
    let page = store.jobs("garden", 1, 20).await.unwrap();
    assert_eq!((page.jobs.len(), page.total), (5, 25));
    assert_eq!(store.jobs("100%", 0, 20).await.unwrap().total, 25);
    assert_eq!(
        store.jobs("1_0", 0, 20).await.unwrap().total,
        0,
        "an underscore is an underscore"
    );
    let id = page.jobs[0].id;
    store.delete(id).await.unwrap();
    assert!(matches!(store.delete(id).await, Err(StoreError::NotFound)));
    assert!(store.once("x").await.unwrap() && !store.once("x").await.unwrap());
}

#[sqlx::test(migrations = false)]
async fn an_edit_sent_twice_is_done_once_and_told_to_whoever_listens(pool: PgPool) {
    let (store, c) = (store(&pool).await, Catalogue::builtin());
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    let mut news = store.news().await.unwrap();
    let keyed = |name: &str| match rename(0, name) {
        Change::Do { base, edit, .. } => Change::Do {
            base,
            edit,
            key: Some("k1".into()),
        },
        other => other,
    };
    let first = store.append(id, keyed("Once"), None, c).await.unwrap();
    assert_eq!(news.next().await.unwrap(), (id, 1));
    let again = store.append(id, keyed("Twice"), Some(&first), c).await.unwrap();
    assert_eq!((again.seq, again.plan.name.as_str()), (1, "Once"));
    assert!(store.was_done(id, "k1").await.unwrap() && !store.was_done(id, "k2").await.unwrap());
    // What is known is used only while it is the newest.
    store
        .append(id, connection(1, "s2"), Some(&again), c)
        .await
        .unwrap();
    let third = store
        .append(id, connection(2, "s3"), Some(&first), c)
        .await
        .unwrap();
    assert_eq!(third.plan.supplies.len(), 3);
    assert_eq!(store.edits_since(id, 1, 10).await.unwrap().len(), 2);
    assert_eq!(store.edits_since(id, 0, 1).await.unwrap().len(), 1);
}

#[sqlx::test(migrations = false)]
async fn pictures_and_uploads_belong_to_their_job_and_are_bounded(pool: PgPool) {
    let store = store(&pool).await;
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    let other = store.create(&Plan::new("Second", UnitSystem::Us)).await.unwrap();
    let picture = Picture {
        kind: "image/png".into(),
        bytes: vec![1, 2, 3],
    };
    for n in 0..10 {
        store.put_picture(id, &format!("p{n}"), &picture).await.unwrap();
    }
    store.put_picture(id, "p3", &picture).await.unwrap();
    assert!(matches!(
        store.put_picture(id, "p10", &picture).await,
        Err(StoreError::Full(_))
    ));
    assert_eq!(store.picture(id, "p0").await.unwrap(), picture);
    assert!(matches!(
        store.picture(other, "p0").await,
        Err(StoreError::NotFound)
    ));
    let upload = |n: u8| Upload {
        name: format!("{n}.dxf"),
        bytes: vec![n],
    };
    let mut ids = Vec::new();
    for n in 0..5 {
        ids.push(store.put_upload(id, &upload(n)).await.unwrap());
    }
    assert!(
        matches!(store.upload(id, ids[1]).await, Err(StoreError::NotFound)),
        "older ones go"
    );
    assert_eq!(store.upload(id, ids[4]).await.unwrap(), upload(4));
    assert!(matches!(
        store.upload(other, ids[4]).await,
        Err(StoreError::NotFound)
    ));
    store.drop_upload(id, ids[4]).await.unwrap();
    assert!(matches!(
        store.upload(id, ids[4]).await,
        Err(StoreError::NotFound)
    ));
    store.delete(id).await.unwrap();
    assert!(
        matches!(store.picture(id, "p0").await, Err(StoreError::NotFound)),
        "with the job"
    );
}
