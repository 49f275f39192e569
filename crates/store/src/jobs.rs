use crate::log::to_json;
use crate::upgrade::FORMAT;
use crate::{Scope, Shelf, StoreError};
use fenlo_core::plan::Plan;
use serde_json::Value;
use sqlx::{Postgres, Transaction};

/// A job in the list.
#[derive(Debug, Clone, PartialEq)]
pub struct JobRow {
    /// Its number.
    pub id: i64,
    /// Its name.
    pub name: String,
    /// Where it is.
    pub place: String,
    /// Newest edit.
    pub seq: i64,
    /// Date and time of the newest edit, `2026-05-03 07:10`.
    pub updated: String,
    /// What was noted of it for the list, as of its newest edit; none: nothing, or it is older.
    pub summary: Option<Value>,
    /// Days until a deleted one goes for good.
    pub days_left: Option<i32>,
}

/// A page of the list.
#[derive(Debug, Clone, PartialEq)]
pub struct JobsPage {
    /// Newest first.
    pub jobs: Vec<JobRow>,
    /// All that match; none on a page beyond the last.
    pub total: i64,
}

impl Scope {
    /// Jobs on a shelf whose name or place holds the words, newest first.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn jobs(
        &self,
        shelf: Shelf,
        search: &str,
        page: i64,
        size: i64,
    ) -> Result<JobsPage, StoreError> {
        let like =
            format!("%{}%", search.trim().replace('\\', "\\\\").replace('%', "\\%").replace('_', "\\_"));
        let rows = sqlx::query!(
            r#"select id, name, place, seq, to_char(updated_at, 'YYYY-MM-DD HH24:MI') as "updated!",
                   case when summary_seq = seq then summary end as summary, count(*) over () as "total!",
                   ceil(extract(epoch from deleted_at + make_interval(days => 30) - now()) / 86400)::int as left
               from jobs where company_id = $1 and shelf = $5 and ($2 = '%%' or name ilike $2 or place ilike $2)
               order by updated_at desc, id desc limit $3 offset $4"#,
            self.company,
            like,
            size,
            page.max(0) * size,
            shelf.word()
        )
        .fetch_all(&self.pool)
        .await?;
        let total = rows.first().map_or(0, |r| r.total);
        let jobs = rows
            .into_iter()
            .map(|r| JobRow {
                id: r.id,
                name: r.name,
                place: r.place,
                seq: r.seq,
                updated: r.updated,
                summary: r.summary,
                days_left: r.left,
            })
            .collect();
        Ok(JobsPage { jobs, total })
    }

    /// Notes what the list shows of a job, as of an edit; what is known of a later one stays.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn note_summary(&self, job: i64, seq: i64, summary: &Value) -> Result<(), StoreError> {
        sqlx::query!(
            "update jobs set summary = $3, summary_seq = $2
             where id = $1 and company_id = $4 and coalesce(summary_seq, -1) < $2",
            job,
            seq,
            summary,
            self.company
        )
        .execute(&self.pool)
        .await?;
        Ok(())
    }

    /// Stores a new job; its number.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn create(&self, plan: &Plan) -> Result<i64, StoreError> {
        self.create_once(plan, None).await
    }

    /// The same; with a key one job, however often it is sent.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn create_once(&self, plan: &Plan, key: Option<&str>) -> Result<i64, StoreError> {
        let mut tx = self.pool.begin().await?;
        let (id, _) = self.begin(&mut tx, plan, Shelf::Desk, key).await?;
        tx.commit().await?;
        Ok(id)
    }

    /// Begins a job on a shelf; its number, and whether it was made now or by the same key before.
    pub(crate) async fn begin(
        &self,
        tx: &mut Transaction<'_, Postgres>,
        plan: &Plan,
        shelf: Shelf,
        key: Option<&str>,
    ) -> Result<(i64, bool), StoreError> {
        let id = sqlx::query_scalar!(
            "insert into jobs (company_id, name, place, key, shelf) values ($1, $2, $3, $4, $5)
             on conflict (company_id, key) where key is not null do nothing returning id",
            self.company,
            plan.name,
            plan.location,
            key,
            shelf.word()
        )
        .fetch_optional(&mut **tx)
        .await?;
        let Some(id) = id else {
            let made = sqlx::query_scalar!(
                "select id from jobs where company_id = $1 and key = $2",
                self.company,
                key
            );
            return Ok((made.fetch_one(&mut **tx).await?, false));
        };
        sqlx::query!(
            "insert into snapshots (job_id, seq, plan, format) values ($1, 0, $2, $3)",
            id,
            to_json(id, plan)?,
            FORMAT
        )
        .execute(&mut **tx)
        .await?;
        Ok((id, true))
    }

    /// Deletes a job: it rests for [`crate::RESTS_DAYS`] days, and then goes with its log.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Unavailable`].
    pub async fn delete(&self, job: i64) -> Result<(), StoreError> {
        self.put_on_shelf(job, Shelf::Deleted).await
    }
}
