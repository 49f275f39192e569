//! Jobs in PostgreSQL: an append-only log of edits for each, with snapshots.
//!
//! All state of Fenlo is here, so several servers can share one database. Errors of the database
//! stop at this crate: callers see [`StoreError`].

mod error;
mod files;
mod jobs;
mod log;
mod news;

pub use error::StoreError;
pub use files::{Picture, Upload};
pub use jobs::{JobRow, JobsPage};
pub use log::{Change, LogLine, OpenJob};
pub use news::News;

use sqlx::postgres::{PgPool, PgPoolOptions};
use std::time::Duration;

/// Access to the database.
#[derive(Clone)]
pub struct Store {
    pool: PgPool,
}

/// The company that everything belongs to while there are no accounts.
const COMPANY: i64 = 1;

impl Store {
    /// Connects and brings the tables up to date.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`] when the database can't be reached.
    pub async fn open(url: &str) -> Result<Self, StoreError> {
        let pool = PgPoolOptions::new()
            .max_connections(8)
            .acquire_timeout(Duration::from_secs(5))
            .connect(url)
            .await?;
        sqlx::migrate!()
            .run(&pool)
            .await
            .map_err(|e| StoreError::Unavailable(sqlx::Error::Migrate(Box::new(e))))?;
        Ok(Self { pool })
    }

    /// Marks something as done; false if it already was.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn once(&self, what: &str) -> Result<bool, StoreError> {
        let done = sqlx::query!(
            "insert into done_once (what) values ($1) on conflict do nothing",
            what
        )
        .execute(&self.pool)
        .await?;
        Ok(done.rows_affected() == 1)
    }

    /// True if the database answers.
    pub async fn answers(&self) -> bool {
        sqlx::query!("select 1 as one")
            .fetch_one(&self.pool)
            .await
            .is_ok()
    }
}
