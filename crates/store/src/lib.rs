//! Jobs in PostgreSQL: an append-only log of edits for each, with snapshots.
//!
//! All state of Fenlo is here, so several servers can share one database. Everything of a company is
//! reached through its [`Scope`], which puts the company into every query; errors of the database
//! stop at this crate: callers see [`StoreError`].
//!
//! ```no_run
//! # async fn f() -> Result<(), fenlo_store::StoreError> {
//! use fenlo_core::plan::{Edit, Plan, Valve};
//! use fenlo_core::units::UnitSystem;
//! use fenlo_store::{Change, Store, THIS_COMPANY};
//!
//! let ours = Store::open("postgres://localhost/fenlo").await?.scope(THIS_COMPANY);
//! let job = ours.create(&Plan::new("Corner plot", UnitSystem::Us)).await?;
//! let edit = Edit::put(Valve::new("v1", "Front", "s1"));
//! let open = ours.append(job, Change::edit(0, edit), None).await?;
//! assert_eq!((open.seq, open.job.valves.len()), (1, 1));
//! # Ok(()) }
//! ```
//!
//! | file | idea |
//! |---|---|
//! | `log` | the log of a job: append, undo, redo, conflicts, each at a cost that does not grow with it |
//! | `jobs` | the list of jobs |
//! | `shelves` | where a job stands, copies of it, the company's rules |
//! | `seqs` | the newest numbers of jobs, asked for together |
//! | `follow` | the database that takes writes, among several |
//! | `files` | pictures beneath a drawing, drawings that wait to be imported |
//! | `prices` | the company's price book |
//! | `quotes` | quotes as they were made, and links that show them |
//! | `news` | edits told to every server process |
//! | `backup` | everything in one file, and back |
//! | `upgrade` | rows of earlier versions, brought up to this one |
#![forbid(unsafe_code)]
#![deny(missing_docs)]

mod backup;
mod error;
mod files;
mod follow;
mod jobs;
mod log;
mod news;
mod nozzles;
mod prices;
mod quotes;
mod seqs;
mod shelves;
mod stock;
mod upgrade;

pub use backup::{Backed, BackupError};
pub use error::StoreError;
pub use files::{Picture, Upload};
pub use jobs::{JobRow, JobsPage};
pub use log::{Change, LogLine, OpenJob};
pub use news::News;
pub use prices::{KnownSupplier, MOST_KEPT, PricesPage, Taking};
pub use quotes::{KeptQuote, OpenShare, ShareRow, Shared};
pub use shelves::{RESTS_DAYS, Shelf};
pub use stock::{MOST_OF_ONE, Stocked};

use sqlx::postgres::PgPool;

/// Connections to the database, usually.
const CONNECTIONS: u32 = 8;

/// Access to the database.
#[derive(Clone)]
pub struct Store {
    pool: PgPool,
    seqs: seqs::Seqs,
}

/// Everything of one company.
#[derive(Clone)]
pub struct Scope {
    pool: PgPool,
    company: i64,
    seqs: seqs::Seqs,
}

/// The company that everything belongs to while there are no accounts.
pub const THIS_COMPANY: i64 = 1;

impl Scope {
    /// Whose it is.
    pub fn company(&self) -> i64 {
        self.company
    }
}

impl Store {
    /// Connects and brings the tables up to date.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`] when the database can't be reached.
    pub async fn open(url: &str) -> Result<Self, StoreError> {
        Self::open_any(&[url.to_owned()], CONNECTIONS).await
    }

    /// What belongs to a company, and nothing else.
    pub fn scope(&self, company: i64) -> Scope {
        Scope { pool: self.pool.clone(), company, seqs: self.seqs.clone() }
    }

    /// A new company; its number.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn add_company(&self, name: &str) -> Result<i64, StoreError> {
        let id = sqlx::query_scalar!("insert into companies (name) values ($1) returning id", name);
        Ok(id.fetch_one(&self.pool).await?)
    }

    /// Marks something as done; false if it already was.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn once(&self, what: &str) -> Result<bool, StoreError> {
        let done = sqlx::query!("insert into done_once (what) values ($1) on conflict do nothing", what)
            .execute(&self.pool)
            .await?;
        Ok(done.rows_affected() == 1)
    }

    /// Connections that are open, and those of them that nobody uses.
    pub fn connections(&self) -> (u32, u32) {
        (self.pool.size(), self.pool.num_idle() as u32)
    }

    /// True if the database answers.
    pub async fn answers(&self) -> bool {
        sqlx::query!("select 1 as one").fetch_one(&self.pool).await.is_ok()
    }
}
