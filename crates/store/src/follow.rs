//! The database among several: the one that takes writes. A standby that took over is found by itself.

use crate::seqs::Seqs;
use crate::{Store, StoreError};
use sqlx::Connection;
use sqlx::postgres::{PgConnectOptions, PgConnection, PgPoolOptions};
use std::str::FromStr;
use std::time::Duration;

/// Until a database that says nothing is taken to be away.
const PATIENCE: Duration = Duration::from_secs(2);
/// A connection that was used within this time is taken to be there.
const TRUSTED: Duration = Duration::from_secs(1);
/// Between two looks.
const EVERY: Duration = Duration::from_millis(500);

impl Store {
    /// Connects to the first of these that takes writes, and brings its tables up to date. With more than
    /// one, a task goes on looking: where the database that is used is gone or became a standby, new
    /// connections lead to another that takes writes.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`] when none can be reached.
    pub async fn open_any(urls: &[String], connections: u32) -> Result<Self, StoreError> {
        let all: Vec<PgConnectOptions> =
            urls.iter().map(|url| PgConnectOptions::from_str(url)).collect::<Result<_, sqlx::Error>>()?;
        let mut last = sqlx::Error::Configuration("no database is named".into());
        let mut primary = None;
        for options in &all {
            match writes(options).await {
                Ok(true) => {
                    primary = Some(options.clone());
                    break;
                }
                Ok(false) => {}
                Err(error) => last = error,
            }
        }
        let options = primary.ok_or(StoreError::Unavailable(last))?;
        let pool = PgPoolOptions::new()
            .max_connections(connections)
            .acquire_timeout(Duration::from_secs(5))
            // One that was used a moment ago is there; asking each time would double every page's queries.
            .test_before_acquire(false)
            .before_acquire(|connection, known| {
                Box::pin(async move {
                    if known.idle_for > TRUSTED {
                        connection.ping().await?;
                    }
                    Ok(true)
                })
            })
            .connect_with(options)
            .await?;
        sqlx::migrate!()
            .run(&pool)
            .await
            .map_err(|e| StoreError::Unavailable(sqlx::Error::Migrate(Box::new(e))))?;
        let seqs = Seqs::new(pool.clone());
        let store = Self { pool, seqs };
        if all.len() > 1 {
            tokio::spawn(store.clone().follow(all));
        }
        Ok(store)
    }

    /// Looks for the database that takes writes as long as the pool is open.
    async fn follow(self, all: Vec<PgConnectOptions>) {
        while !self.pool.is_closed() {
            tokio::time::sleep(EVERY).await;
            let now = self.pool.connect_options();
            if matches!(writes(&now).await, Ok(true)) {
                continue;
            }
            for options in &all {
                if matches!(writes(options).await, Ok(true)) {
                    self.pool.set_connect_options(options.clone());
                    break;
                }
            }
        }
    }
}

/// True if a database takes writes; false for a standby.
async fn writes(options: &PgConnectOptions) -> Result<bool, sqlx::Error> {
    let asked = async {
        let mut connection = PgConnection::connect_with(options).await?;
        let standby: bool =
            sqlx::query_scalar("select pg_is_in_recovery()").fetch_one(&mut connection).await?;
        connection.close().await?;
        Ok(!standby)
    };
    let late = || sqlx::Error::Io(std::io::Error::from(std::io::ErrorKind::TimedOut));
    tokio::time::timeout(PATIENCE, asked).await.unwrap_or_else(|_| Err(late()))
}
