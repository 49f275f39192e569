//! Where jobs stand, copies, the days that a deleted one rests, and the company's rules.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

mod common;

use common::{database, store};
use fenlo_core::plan::{Edit, HouseRules, Plan, SetJob};
use fenlo_core::units::{Flow, UnitSystem};
use fenlo_store::{Change, Picture, Shelf, StoreError};
use sqlx::PgPool;

fn called(name: &str) -> SetJob {
    SetJob { name: name.into(), ..SetJob::of(&Plan::new("", UnitSystem::Us)) }
}

#[sqlx::test(migrations = false)]
async fn a_deleted_job_is_gone_from_everything_and_comes_back_whole(pool: PgPool) {
    let store = store(&pool).await;
    let id = store.create(&Plan::new("First", UnitSystem::Us)).await.unwrap();
    let rename = Change::edit(0, Edit::SetJob(called("Second")));
    store.append(id, rename.clone(), None).await.unwrap();
    let picture = Picture { kind: "image/png".into(), bytes: vec![1, 2, 3] };
    store.put_picture(id, "p", &picture).await.unwrap();
    store.put_on_shelf(id, Shelf::Archive).await.unwrap();
    store.delete(id).await.unwrap();
    // No page, edit, picture or number of it is to be had.
    assert!(matches!(store.job(id).await, Err(StoreError::NotFound)));
    assert!(matches!(store.seq(id).await, Err(StoreError::NotFound)));
    assert!(matches!(store.append(id, rename, None).await, Err(StoreError::NotFound)));
    assert!(matches!(store.picture(id, "p").await, Err(StoreError::NotFound)));
    assert!(matches!(store.put_picture(id, "q", &picture).await, Err(StoreError::NotFound)));
    assert!(matches!(store.delete(id).await, Err(StoreError::NotFound)));
    for shelf in [Shelf::Desk, Shelf::Archive, Shelf::Template] {
        assert_eq!(store.jobs(shelf, "", 0, 20).await.unwrap().total, 0, "{shelf:?}");
    }
    let rests = store.jobs(Shelf::Deleted, "sec", 0, 20).await.unwrap();
    assert_eq!((rests.total, rests.jobs[0].days_left), (1, Some(30)));
    // Back where it stood, with history and picture.
    store.bring_back(id).await.unwrap();
    assert!(matches!(store.bring_back(id).await, Err(StoreError::NotFound)));
    let open = store.job(id).await.unwrap();
    assert_eq!((open.seq, open.job.name.as_str()), (1, "Second"));
    assert_eq!(store.picture(id, "p").await.unwrap(), picture);
    assert_eq!(store.history(id, 9).await.unwrap().len(), 1);
    assert_eq!(store.shelf(id).await.unwrap(), Shelf::Archive);
    assert_eq!(store.jobs(Shelf::Archive, "", 0, 20).await.unwrap().total, 1);
}

#[sqlx::test(migrations = false)]
async fn what_rested_its_days_goes_for_good_and_nothing_else(pool: PgPool) {
    let store = store(&pool).await;
    let mut ids = Vec::new();
    for name in ["kept", "resting", "over"] {
        ids.push(store.create(&Plan::new(name, UnitSystem::Us)).await.unwrap());
    }
    store.delete(ids[1]).await.unwrap();
    store.delete(ids[2]).await.unwrap();
    sqlx::query("update jobs set deleted_at = now() - interval '30 days 1 minute' where id = $1")
        .bind(ids[2])
        .execute(&pool)
        .await
        .unwrap();
    let database = database(&pool).await;
    assert_eq!(database.clear_rested().await.unwrap(), 1);
    assert_eq!(database.clear_rested().await.unwrap(), 0);
    store.bring_back(ids[1]).await.unwrap();
    assert!(matches!(store.bring_back(ids[2]).await, Err(StoreError::NotFound)));
    assert_eq!(store.jobs(Shelf::Desk, "", 0, 20).await.unwrap().total, 2);
}

#[sqlx::test(migrations = false)]
async fn a_copy_begins_as_its_job_stands_and_goes_its_own_way(pool: PgPool) {
    let store = store(&pool).await;
    let id = store.create(&Plan::new("First", UnitSystem::Metric)).await.unwrap();
    let picture = Picture { kind: "image/png".into(), bytes: vec![7] };
    store.put_picture(id, "p", &picture).await.unwrap();
    let as_set = SetJob { units: UnitSystem::Metric, ..called("Another") };
    let copy = store.copy(id, &as_set, Shelf::Template, Some("k1")).await.unwrap();
    let twice = store.copy(id, &as_set, Shelf::Template, Some("k1")).await.unwrap();
    assert_eq!(copy, twice, "a form that is sent twice makes one copy");
    let mut open = store.job(copy).await.unwrap();
    assert_eq!((open.seq, open.job.name.as_str()), (0, "Another"));
    assert_eq!(store.picture(copy, "p").await.unwrap(), picture);
    open = store.append(copy, Change::edit(0, Edit::SetJob(called("Other"))), None).await.unwrap();
    assert_eq!(open.job.name, "Other");
    assert_eq!(store.job(id).await.unwrap().job.name, "First");
    store.delete(id).await.unwrap();
    assert_eq!(store.picture(copy, "p").await.unwrap(), picture, "its own");
    assert_eq!(store.jobs(Shelf::Template, "", 0, 20).await.unwrap().total, 1);
    // Another company can neither copy, move nor bring back.
    let database = database(&pool).await;
    let theirs = database.scope(database.add_company("Others").await.unwrap());
    assert!(matches!(theirs.copy(copy, &as_set, Shelf::Desk, None).await, Err(StoreError::NotFound)));
    assert!(matches!(theirs.put_on_shelf(copy, Shelf::Archive).await, Err(StoreError::NotFound)));
    assert!(matches!(theirs.bring_back(id).await, Err(StoreError::NotFound)));
}

#[sqlx::test(migrations = false)]
async fn the_companys_rules_are_its_own(pool: PgPool) {
    let store = store(&pool).await;
    assert_eq!(store.rules().await.unwrap(), None);
    let rules = HouseRules { flow_margin: 0.2, house_demand: Flow::from_gpm(2.0), ..HouseRules::default() };
    store.keep_rules(&rules).await.unwrap();
    assert_eq!(store.rules().await.unwrap(), Some(rules));
    let database = database(&pool).await;
    let theirs = database.scope(database.add_company("Others").await.unwrap());
    assert_eq!(theirs.rules().await.unwrap(), None);
}
