//! Everything in one file, and back: consistent while people work, checked to the last byte.
//!
//! A backup is gzipped text: a head, a line for each row, an end with the number of rows and a SHA-256 of
//! what stands before it. Rows are JSON as the database writes and reads it, so that no figure passes
//! through ours. It is written from one snapshot of the database; who edits meanwhile is not held up, and
//! what they do is not in it.

use crate::{Scope, Store, StoreError};
use flate2::Compression;
use flate2::read::GzDecoder;
use flate2::write::GzEncoder;
use futures_util::TryStreamExt;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use sqlx::{AssertSqlSafe, PgConnection};
use std::io::{BufRead, BufReader, Read, Write};

/// What a file begins with.
const FORMAT: &str = "fenlo-backup/1";
/// The longest line: a picture in hexadecimal.
const MOST_LINE: u64 = 80_000_000;

/// Tables in an order in which rows may be put back, and whose rows of a company are which.
const TABLES: [(&str, &str); 18] = [
    ("companies", "id = $1"),
    ("done_once", "$1::bigint is not null"),
    ("jobs", "company_id = $1"),
    ("edits", OF_JOB),
    ("snapshots", OF_JOB),
    ("touched", OF_JOB),
    ("pictures", OF_JOB),
    ("uploads", OF_JOB),
    ("price_books", "company_id = $1"),
    ("suppliers", "company_id = $1"),
    ("prices", "company_id = $1"),
    ("part_numbers", "company_id = $1"),
    ("stock", "company_id = $1"),
    ("kits", "company_id = $1"),
    ("nozzles", "company_id = $1"),
    ("job_goods", OF_JOB),
    ("quotes", "company_id = $1"),
    ("shares", "company_id = $1"),
];
const OF_JOB: &str = "job_id in (select id from jobs where company_id = $1)";
/// Tables whose numbers the database gives.
const NUMBERED: [&str; 4] = ["companies", "jobs", "uploads", "quotes"];

#[derive(Debug, Serialize, Deserialize)]
struct Head {
    format: String,
    /// The newest migration that the database had.
    schema: i64,
    /// None: all companies.
    company: Option<i64>,
}

/// What was written or put back.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Backed {
    /// Jobs.
    pub jobs: u64,
    /// Rows of all tables.
    pub rows: u64,
}

/// Why a backup could not be written or put back.
#[derive(Debug, thiserror::Error)]
pub enum BackupError {
    /// The file.
    #[error("the file: {0}")]
    File(#[from] std::io::Error),
    /// It is no backup, or not whole.
    #[error("the backup file is incomplete: {0}")]
    NotWhole(String),
    /// It is of a later version.
    #[error("the backup was written by a newer Fenlo (tables of {0}): update this one first")]
    Newer(i64),
    /// There is something in the database already.
    #[error("the database is not empty: a backup is restored into one without jobs and prices")]
    NotEmpty,
    /// No such company.
    #[error("there is no company {0}")]
    NoCompany(i64),
    /// The database.
    #[error(transparent)]
    Store(#[from] StoreError),
}

impl From<sqlx::Error> for BackupError {
    fn from(error: sqlx::Error) -> Self {
        Self::Store(error.into())
    }
}

/// Passes on what is written and sums it up.
struct Summed<W: Write> {
    to: W,
    sum: Sha256,
}

impl<W: Write> Summed<W> {
    fn line(&mut self, text: &str) -> std::io::Result<()> {
        self.sum.update(text.as_bytes());
        self.sum.update(b"\n");
        writeln!(self.to, "{text}")
    }
}

fn hex(bytes: impl AsRef<[u8]>) -> String {
    bytes.as_ref().iter().map(|b| format!("{b:02x}")).collect()
}

impl Store {
    /// Writes all companies to a file.
    ///
    /// # Errors
    /// The file can't be written, or the database is away.
    pub async fn backup(&self, to: impl Write) -> Result<Backed, BackupError> {
        self.back_up(to, None).await
    }

    async fn back_up(&self, to: impl Write, company: Option<i64>) -> Result<Backed, BackupError> {
        let mut tx = self.pool.begin().await?;
        sqlx::query("set transaction isolation level repeatable read, read only").execute(&mut *tx).await?;
        let schema: i64 =
            sqlx::query_scalar("select max(version) from _sqlx_migrations").fetch_one(&mut *tx).await?;
        let head = Head { format: FORMAT.into(), schema, company };
        let mut out = Summed { to: GzEncoder::new(to, Compression::default()), sum: Sha256::new() };
        out.line(&serde_json::to_string(&head).map_err(StoreError::broken)?)?;
        let mut done = Backed { jobs: 0, rows: 0 };
        for (table, of_company) in TABLES {
            let only = company.map_or("$1::bigint is null", |_| of_company);
            let columns = columns(&mut tx, table).await?;
            // Names of tables and columns are our own.
            let query =
                format!("select row_to_json(r)::text from (select {columns} from {table} where {only}) as r");
            let mut rows =
                sqlx::query_scalar::<_, String>(AssertSqlSafe(query)).bind(company).fetch(&mut *tx);
            while let Some(row) = rows.try_next().await? {
                out.line(&format!("{table} {row}"))?;
                done.rows += 1;
                done.jobs += u64::from(table == "jobs");
            }
        }
        let end = format!("end {} {}", done.rows, hex(out.sum.clone().finalize()));
        out.line(&end)?;
        out.to.finish()?.flush()?;
        Ok(done)
    }

    /// Puts a backup back, whole or not at all, into a database without jobs and prices. The file is read
    /// twice: it is checked to its end before the first row is touched.
    ///
    /// # Errors
    /// The file is not whole or newer, the database is not empty, or away.
    pub async fn restore<R: Read>(
        url: &str,
        open: impl Fn() -> std::io::Result<R>,
    ) -> Result<Backed, BackupError> {
        let head = check(open()?)?;
        let migrations = sqlx::migrate!();
        let newest = migrations.iter().map(|m| m.version).max().unwrap_or_default();
        if head.schema > newest {
            return Err(BackupError::Newer(head.schema));
        }
        let pool = sqlx::PgPool::connect(url).await?;
        let migrate = |e| BackupError::Store(StoreError::Unavailable(sqlx::Error::Migrate(Box::new(e))));
        let mut tables = migrations;
        let had: Option<String> =
            sqlx::query_scalar("select to_regclass('_sqlx_migrations')::text").fetch_one(&pool).await?;
        if had.is_none() {
            // Rows are put into the tables that they come from; these are brought up to date with the rows
            // in them.
            tables.set_ignore_missing(false);
            tables.run_to(head.schema, &pool).await.map_err(migrate)?;
        }
        let mut tx = pool.begin().await?;
        let taken: bool =
            sqlx::query_scalar("select exists(select 1 from jobs) or exists(select 1 from prices)")
                .fetch_one(&mut *tx)
                .await?;
        if taken {
            return Err(BackupError::NotEmpty);
        }
        for table in ["companies", "done_once"] {
            sqlx::query(AssertSqlSafe(format!("delete from {table}"))).execute(&mut *tx).await?;
        }
        let mut done = Backed { jobs: 0, rows: 0 };
        let mut lines = lines(open()?);
        lines.next();
        // Rows of a table stand together.
        let mut of: Option<(&str, String)> = None;
        for line in lines {
            let line = line?;
            let (table, row) = line.split_once(' ').unwrap_or_default();
            let Some((table, _)) = TABLES.iter().find(|t| t.0 == table) else {
                continue;
            };
            if of.as_ref().is_none_or(|known| known.0 != *table) {
                of = Some((table, columns(&mut tx, table).await?));
            }
            let columns = of.as_ref().map_or("", |known| known.1.as_str());
            let query = format!(
                "insert into {table} ({columns}) overriding system value
                 select {columns} from json_populate_record(null::{table}, $1::json)"
            );
            sqlx::query(AssertSqlSafe(query)).bind(row).execute(&mut *tx).await?;
            done.rows += 1;
            done.jobs += u64::from(*table == "jobs");
        }
        for table in NUMBERED {
            let query = format!(
                "select setval(pg_get_serial_sequence('{table}', 'id'), coalesce(max(id), 0) + 1, false) \
                    from {table}"
            );
            sqlx::query(AssertSqlSafe(query)).execute(&mut *tx).await?;
        }
        tx.commit().await?;
        tables.run(&pool).await.map_err(migrate)?;
        pool.close().await;
        Ok(done)
    }
}

impl Scope {
    /// Writes what belongs to this company to a file.
    ///
    /// # Errors
    /// There is no such company, the file can't be written, or the database is away.
    pub async fn backup(&self, to: impl Write) -> Result<Backed, BackupError> {
        let known: bool = sqlx::query_scalar("select exists(select 1 from companies where id = $1)")
            .bind(self.company)
            .fetch_one(&self.pool)
            .await?;
        if !known {
            return Err(BackupError::NoCompany(self.company));
        }
        let store = Store { pool: self.pool.clone(), seqs: self.seqs.clone() };
        store.back_up(to, Some(self.company)).await
    }
}

/// Columns of a table that hold what is not worked out from others.
async fn columns(tx: &mut PgConnection, table: &str) -> Result<String, sqlx::Error> {
    sqlx::query_scalar(
        "select string_agg(quote_ident(column_name), ', ' order by ordinal_position) from \
            information_schema.columns
         where table_schema = current_schema and table_name = $1 and is_generated = 'NEVER'",
    )
    .bind(table)
    .fetch_one(tx)
    .await
}

/// Lines of a backup, each within its bound.
fn lines(from: impl Read) -> impl Iterator<Item = std::io::Result<String>> {
    let mut from = BufReader::new(GzDecoder::new(from));
    std::iter::from_fn(move || {
        let mut line = String::new();
        match (&mut from).take(MOST_LINE).read_line(&mut line) {
            Ok(0) => None,
            Ok(_) => {
                if line.ends_with('\n') {
                    line.pop();
                }
                Some(Ok(line))
            }
            Err(e) => Some(Err(e)),
        }
    })
}

/// Reads a backup to its end: its head, where every byte is as it was written.
fn check(from: impl Read) -> Result<Head, BackupError> {
    let bad = |what: &str| BackupError::NotWhole(what.to_owned());
    let mut lines = lines(from);
    let first = lines.next().ok_or_else(|| bad("it is empty"))?;
    let first = first.map_err(|e| bad(&e.to_string()))?;
    let head: Head = serde_json::from_str(&first).map_err(|_| bad("it does not begin as one"))?;
    if head.format != FORMAT {
        return Err(bad(&format!("its format is {}", head.format)));
    }
    let mut sum = Sha256::new();
    let mut take = |line: &str| {
        sum.update(line.as_bytes());
        sum.update(b"\n");
        sum.clone()
    };
    let mut so_far = take(&first);
    for (rows, line) in lines.enumerate() {
        let line = line.map_err(|e| bad(&e.to_string()))?;
        if let Some(end) = line.strip_prefix("end ") {
            let wanted = format!("{rows} {}", hex(so_far.finalize()));
            return if end == wanted {
                Ok(head)
            } else {
                Err(bad("its sum is another: a byte of it was changed"))
            };
        }
        so_far = take(&line);
    }
    Err(bad("it breaks off before its end"))
}
