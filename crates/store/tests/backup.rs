//! A rehearsal: backups while people edit, put back into another database.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::plan::{Edit, Plan, SetJob};
use fenlo_core::pricing::{Price, PriceBook, Supplier};
use fenlo_core::units::UnitSystem;
use fenlo_store::{BackupError, Change, Picture, Store, THIS_COMPANY, Taking};
use sqlx::{AssertSqlSafe, Connection, PgConnection, PgPool};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

fn url_of(database: &str) -> String {
    let url = std::env::var("DATABASE_URL").unwrap();
    let (server, _) = url.rsplit_once('/').unwrap();
    format!("{server}/{database}")
}

/// Another database, empty, for what is put back.
async fn empty(name: &str) -> String {
    let mut admin = PgConnection::connect(&std::env::var("DATABASE_URL").unwrap()).await.unwrap();
    for what in [format!("drop database if exists {name} with (force)"), format!("create database {name}")] {
        sqlx::raw_sql(AssertSqlSafe(what)).execute(&mut admin).await.unwrap();
    }
    url_of(name)
}

fn rename(base: i64, name: &str) -> Change {
    Change::edit(
        base,
        Edit::SetJob(SetJob {
            controller_stations: None,
            name: name.into(),
            location: "There ‘quoted’ \\ and \u{1F331}".into(),
            local_code: String::new(),
            units: UnitSystem::Metric,
        }),
    )
}

#[sqlx::test(migrations = false)]
async fn what_is_put_back_folds_to_the_same_jobs(pool: PgPool) {
    let database = Store::open(&url_of(pool.connect_options().get_database().unwrap())).await.unwrap();
    let store = database.scope(THIS_COMPANY);
    let mut jobs = Vec::new();
    for n in 0..3 {
        jobs.push(store.create(&Plan::new(&format!("Job {n}"), UnitSystem::Us)).await.unwrap());
    }
    let picture = Picture { kind: "image/png".into(), bytes: (0..=255).cycle().take(100_000).collect() };
    store.put_picture(jobs[0], "scan", &picture).await.unwrap();
    let book = PriceBook {
        currency: "USD".into(),
        suppliers: vec![Supplier {
            name: "Mill".into(),
            carriage: "12.50".parse().unwrap(),
            free_from: None,
        }],
        prices: vec![Price {
            number: "A1".into(),
            text: "Tee".into(),
            supplier: "Mill".into(),
            price: "0.123456789012345678".parse().unwrap(),
            pack: 1,
            minimum: 1,
            dated: None,
        }],
        numbers: [("pvc-tee".to_owned(), "A1".to_owned())].into(),
    };
    store.take_prices(&book, Taking::Beside).await.unwrap();
    let other = database.add_company("Neighbours").await.unwrap();
    let theirs = database.scope(other).create(&Plan::new("Theirs", UnitSystem::Us)).await.unwrap();

    // Two hands edit all the time; three backups are taken of it.
    let stop = Arc::new(AtomicBool::new(false));
    let hands: Vec<_> = jobs[..2]
        .iter()
        .map(|&job| {
            let (store, stop) = (store.clone(), Arc::clone(&stop));
            tokio::spawn(async move {
                let mut seq = 0;
                while !stop.load(Ordering::Relaxed) {
                    seq = store.append(job, rename(seq, &format!("Edit {seq}")), None).await.unwrap().seq;
                }
                seq
            })
        })
        .collect();
    let mut files = Vec::new();
    for _ in 0..3 {
        tokio::time::sleep(std::time::Duration::from_millis(300)).await;
        let mut file = Vec::new();
        assert_eq!(database.backup(&mut file).await.unwrap().jobs, 4);
        files.push(file);
    }
    stop.store(true, Ordering::Relaxed);
    for hand in hands {
        assert!(hand.await.unwrap() > 10, "there was work going on");
    }

    for (n, file) in files.iter().enumerate() {
        let to = empty(&format!("fenlo_restored_{}_{n}", std::process::id())).await;
        let done = Store::restore(&to, || Ok(&file[..])).await.unwrap();
        assert_eq!(done.jobs, 4);
        let back = Store::open(&to).await.unwrap();
        let ours = back.scope(THIS_COMPANY);
        for &job in &jobs {
            let open = ours.job(job).await.unwrap();
            // The same as the first edits of the original come to.
            let mut plan = Plan::new(&format!("Job {}", job - jobs[0]), UnitSystem::Us);
            let edits = store.edits_since(job, 0, open.seq.max(1)).await.unwrap();
            for edit in edits.iter().take(open.seq as usize) {
                plan = fenlo_core::job::Job::new(plan).apply(edit).unwrap().0.into_plan();
            }
            assert_eq!(open.job.plan(), &plan, "backup {n}, job {job} at edit {}", open.seq);
            let history = ours.history(job, 10_000).await.unwrap();
            assert_eq!(history.len() as i64, open.seq);
        }
        assert_eq!(ours.picture(jobs[0], "scan").await.unwrap(), picture);
        assert_eq!(ours.all_prices().await.unwrap(), store.all_prices().await.unwrap(), "to the last digit");
        assert_eq!(ours.search_prices("te", 0, 9).await.unwrap().total, 1, "found as before");
        assert_eq!(back.scope(other).job(theirs).await.unwrap().job.name, "Theirs");
        // Life goes on: undo, an edit, a new job with a number of its own.
        let open = ours.append(jobs[0], Change::Undo(None), None).await.unwrap();
        ours.append(jobs[0], rename(open.seq, "After"), None).await.unwrap();
        assert!(ours.create(&Plan::new("New", UnitSystem::Us)).await.unwrap() > theirs);
        // A second time there is something in the way.
        let again = Store::restore(&to, || Ok(&file[..])).await;
        assert!(matches!(again, Err(BackupError::NotEmpty)), "{again:?}");
    }
    // One company alone.
    let mut file = Vec::new();
    assert_eq!(database.scope(other).backup(&mut file).await.unwrap().jobs, 1);
    let to = empty(&format!("fenlo_restored_{}_one", std::process::id())).await;
    assert_eq!(Store::restore(&to, || Ok(&file[..])).await.unwrap().jobs, 1);
    assert!(matches!(database.scope(99).backup(Vec::new()).await, Err(BackupError::NoCompany(99))));

    // A file that is not whole is refused before a row is touched.
    let whole = &files[0];
    let to = empty(&format!("fenlo_restored_{}_bad", std::process::id())).await;
    let mut flipped = whole.clone();
    let middle = flipped.len() / 2;
    flipped[middle] ^= 0x10;
    for bad in [&whole[..whole.len() / 2], &flipped[..], b"", b"PK not a backup"] {
        let refused = Store::restore(&to, || Ok(bad)).await;
        assert!(matches!(refused, Err(BackupError::NotWhole(_))), "{refused:?}");
    }
    assert_eq!(Store::restore(&to, || Ok(&whole[..])).await.unwrap().jobs, 4, "nothing was left of these");
    let mut admin = PgConnection::connect(&std::env::var("DATABASE_URL").unwrap()).await.unwrap();
    for end in ["0", "1", "2", "one", "bad"] {
        let name = format!("fenlo_restored_{}_{end}", std::process::id());
        let drop_it = format!("drop database if exists {name} with (force)");
        sqlx::raw_sql(AssertSqlSafe(drop_it)).execute(&mut admin).await.unwrap();
    }
}

#[sqlx::test(migrations = false)]
async fn no_table_is_forgotten(pool: PgPool) {
    let database = Store::open(&url_of(pool.connect_options().get_database().unwrap())).await.unwrap();
    // A row in every table that has none: what the file names is held against what there is.
    let mut file = Vec::new();
    database.backup(&mut file).await.unwrap();
    let source = include_str!("../src/backup.rs");
    let tables: Vec<String> = sqlx::query_scalar(
        "select table_name::text from information_schema.tables where table_schema = current_schema
         and table_name <> '_sqlx_migrations'",
    )
    .fetch_all(&pool)
    .await
    .unwrap();
    assert!(tables.len() > 10);
    for table in tables {
        assert!(source.contains(&format!("(\"{table}\", ")), "table {table} is in no backup");
    }
    let numbered: Vec<String> = sqlx::query_scalar(
        "select table_name::text from information_schema.columns where table_schema = current_schema
         and is_identity = 'YES'",
    )
    .fetch_all(&pool)
    .await
    .unwrap();
    let listed = source.split_once("const NUMBERED").unwrap().1.split_once(';').unwrap().1;
    let listed = listed.split_once(';').unwrap().0;
    for table in numbered {
        assert!(listed.contains(&format!("\"{table}\"")), "numbers of {table} go on after a restore");
    }
}
