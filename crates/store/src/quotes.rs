//! Quotes as they were made, and links that show them.

use crate::{Scope, Store, StoreError};
use fenlo_core::plan::Date;
use fenlo_core::pricing::Quote;
use sha2::{Digest, Sha256};

/// Versions of one job's quote at most.
const MOST_VERSIONS: i64 = 200;
/// Links of one job that may work at once.
const MOST_SHARES: i64 = 50;

/// A quote that was kept.
#[derive(Debug, Clone, PartialEq)]
pub struct KeptQuote {
    /// Its number in the database.
    pub id: i64,
    /// From 1.
    pub version: i32,
    /// The edit of the job that it was made at.
    pub seq: i64,
    /// The quote.
    pub quote: Quote,
    /// What was noted to it.
    pub note: String,
    /// Accepted on; none: not.
    pub accepted: Option<String>,
    /// Made on.
    pub made: String,
}

/// What a link shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Shared {
    /// A quote, for the customer.
    Quote(i64),
    /// The plan, for the crew: no prices.
    Plan,
}

/// A link.
#[derive(Debug, Clone, PartialEq)]
pub struct ShareRow {
    /// Names it on pages: the hash of its token, in hexadecimal.
    pub name: String,
    /// Quote or plan.
    pub what: String,
    /// Version of the quote.
    pub version: Option<i32>,
    /// Works until the end of this day.
    pub until: String,
    /// Works now.
    pub open: bool,
}

/// What a link that works leads to.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct OpenShare {
    /// Whose.
    pub company: i64,
    /// The job.
    pub job: i64,
    /// What it shows.
    pub what: Shared,
}

/// Sixteen bytes at the least in hexadecimal, as pages are given them: a token made of it can't be guessed.
fn is_strong(key: &str) -> bool {
    key.len() >= 32 && key.bytes().all(|b| b.is_ascii_hexdigit())
}

fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|b| format!("{b:02x}")).collect()
}

fn hash(token: &str) -> Vec<u8> {
    Sha256::digest(token.as_bytes()).to_vec()
}

impl Scope {
    /// Keeps a quote as the next version of its job's; with a key one version, however often it is sent.
    ///
    /// # Errors
    /// [`StoreError::Full`], [`StoreError::NotFound`], [`StoreError::Unavailable`].
    pub async fn keep_quote(
        &self,
        job: i64,
        seq: i64,
        quote: &Quote,
        note: &str,
        key: Option<&str>,
    ) -> Result<i32, StoreError> {
        let mut tx = self.pool.begin().await?;
        sqlx::query_scalar!(
            "select seq from jobs where id = $1 and company_id = $2 and shelf <> 'deleted' for update",
            job,
            self.company
        )
        .fetch_one(&mut *tx)
        .await?;
        let before =
            sqlx::query_scalar!("select version from quotes where job_id = $1 and key = $2", job, key);
        if let Some(version) = before.fetch_optional(&mut *tx).await? {
            return Ok(version);
        }
        let count = sqlx::query_scalar!(
            r#"select coalesce(max(version), 0) as "n!" from quotes where job_id = $1"#,
            job
        )
        .fetch_one(&mut *tx)
        .await?;
        if i64::from(count) >= MOST_VERSIONS {
            return Err(StoreError::Full("quotes"));
        }
        let body = serde_json::to_value(quote).map_err(StoreError::broken)?;
        sqlx::query!(
            "insert into quotes (company_id, job_id, version, seq, quote, note, key)
             values ($1, $2, $3, $4, $5, $6, $7)",
            self.company,
            job,
            count + 1,
            seq,
            body,
            note,
            key
        )
        .execute(&mut *tx)
        .await?;
        tx.commit().await?;
        Ok(count + 1)
    }

    /// All versions of a job's quote, the newest first.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn quotes(&self, job: i64) -> Result<Vec<KeptQuote>, StoreError> {
        let rows = sqlx::query!(
            r#"select id, version, seq, quote, note, accepted_at::date::text as accepted,
                  made_at::date::text as "made!" from quotes
               where job_id = $1 and company_id = $2 order by version desc"#,
            job,
            self.company
        )
        .fetch_all(&self.pool)
        .await?;
        rows.into_iter()
            .map(|r| {
                Ok(KeptQuote {
                    id: r.id,
                    version: r.version,
                    seq: r.seq,
                    quote: serde_json::from_value(r.quote).map_err(StoreError::broken)?,
                    note: r.note,
                    accepted: r.accepted,
                    made: r.made,
                })
            })
            .collect()
    }

    /// The customer has accepted a version: its prices stand. Once accepted it stays so.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Unavailable`].
    pub async fn accept_quote(&self, job: i64, version: i32) -> Result<(), StoreError> {
        let done = sqlx::query!(
            "update quotes set accepted_at = coalesce(accepted_at, now())
             where job_id = $1 and company_id = $2 and version = $3",
            job,
            self.company,
            version
        )
        .execute(&self.pool)
        .await?;
        if done.rows_affected() == 0 {
            return Err(StoreError::NotFound);
        }
        Ok(())
    }

    /// Makes a link that shows something of a job until the end of a day; its token, which is kept nowhere.
    /// With a key of strong randomness that only the page had, the same wish gives the same link however often it
    /// is sent; another wish, or another key, another one.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Full`], [`StoreError::Unavailable`].
    pub async fn share(
        &self,
        job: i64,
        what: Shared,
        until: Date,
        key: Option<&str>,
    ) -> Result<String, StoreError> {
        let mut tx = self.pool.begin().await?;
        sqlx::query_scalar!(
            "select seq from jobs where id = $1 and company_id = $2 and shelf <> 'deleted' for update",
            job,
            self.company
        )
        .fetch_one(&mut *tx)
        .await?;
        let token = match key.filter(|k| is_strong(k)) {
            Some(key) => hex(&hash(&format!("{key} {} {job} {what:?} {until}", self.company))),
            // 244 bits of the database's strong randomness.
            None => sqlx::query_scalar!(
                r#"select replace(gen_random_uuid()::text || gen_random_uuid()::text, '-', '') as "token!""#
            )
            .fetch_one(&mut *tx)
            .await?,
        };
        let made = sqlx::query_scalar!(
            r#"select exists (select from shares where hash = $1 and job_id = $2) as "made!""#,
            hash(&token),
            job
        )
        .fetch_one(&mut *tx)
        .await?;
        if made {
            return Ok(token);
        }
        let open = sqlx::query_scalar!(
            r#"select count(*) as "n!" from shares where job_id = $1 and ended_at is null and until >= current_date"#,
            job
        )
        .fetch_one(&mut *tx)
        .await?;
        if open >= MOST_SHARES {
            return Err(StoreError::Full("links"));
        }
        let (word, quote) = match what {
            Shared::Quote(id) => ("quote", Some(id)),
            Shared::Plan => ("plan", None),
        };
        if let Some(id) = quote {
            sqlx::query_scalar!(
                "select id from quotes where id = $1 and job_id = $2 and company_id = $3",
                id,
                job,
                self.company
            )
            .fetch_one(&mut *tx)
            .await?;
        }
        sqlx::query!(
            "insert into shares (hash, company_id, job_id, what, quote_id, until)
             values ($1, $2, $3, $4, $5, $6::text::date)",
            hash(&token),
            self.company,
            job,
            word,
            quote,
            until.to_string()
        )
        .execute(&mut *tx)
        .await?;
        tx.commit().await?;
        Ok(token)
    }

    /// Links of a job, the newest first.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn shares(&self, job: i64) -> Result<Vec<ShareRow>, StoreError> {
        let rows = sqlx::query!(
            r#"select encode(s.hash, 'hex') as "name!", s.what, q.version as "version?", s.until::text as "until!",
                  (s.ended_at is null and s.until >= current_date) as "open!"
               from shares s left join quotes q on q.id = s.quote_id
               where s.job_id = $1 and s.company_id = $2 order by s.made_at desc limit 50"#,
            job,
            self.company
        )
        .fetch_all(&self.pool)
        .await?;
        Ok(rows
            .into_iter()
            .map(|r| ShareRow {
                name: r.name,
                what: r.what,
                version: r.version,
                until: r.until,
                open: r.open,
            })
            .collect())
    }

    /// Ends a link, by its name.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn end_share(&self, job: i64, name: &str) -> Result<(), StoreError> {
        sqlx::query!(
            "update shares set ended_at = coalesce(ended_at, now())
             where job_id = $1 and company_id = $2 and encode(hash, 'hex') = $3",
            job,
            self.company,
            name
        )
        .execute(&self.pool)
        .await?;
        Ok(())
    }
}

impl Store {
    /// Where a token leads; ended, past its day or never made, all alike.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Unavailable`].
    pub async fn shared(&self, token: &str) -> Result<OpenShare, StoreError> {
        let row = sqlx::query!(
            r#"select company_id, job_id, what, quote_id from shares
               where hash = $1 and ended_at is null and until >= current_date"#,
            hash(token)
        )
        .fetch_one(&self.pool)
        .await?;
        Ok(OpenShare {
            company: row.company_id,
            job: row.job_id,
            what: row.quote_id.map_or(Shared::Plan, Shared::Quote),
        })
    }
}
