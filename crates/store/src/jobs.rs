use crate::log::to_json;
use crate::{Scope, StoreError};
use fenlo_core::plan::Plan;

/// A job in the list.
#[derive(Debug, Clone, PartialEq, Eq)]
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
}

/// A page of the list.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct JobsPage {
    /// Newest first.
    pub jobs: Vec<JobRow>,
    /// All that match.
    pub total: i64,
}

impl Scope {
    /// Jobs whose name or place holds the words, newest first.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn jobs(&self, search: &str, page: i64, size: i64) -> Result<JobsPage, StoreError> {
        let like = format!(
            "%{}%",
            search
                .trim()
                .replace('\\', "\\\\")
                .replace('%', "\\%")
                .replace('_', "\\_")
        );
        let jobs = sqlx::query_as!(
            JobRow,
            r#"select id, name, place, seq, to_char(updated_at, 'YYYY-MM-DD HH24:MI') as "updated!"
               from jobs where company_id = $1 and (name ilike $2 or place ilike $2)
               order by updated_at desc, id desc limit $3 offset $4"#,
            self.company,
            like,
            size,
            page.max(0) * size
        )
        .fetch_all(&self.pool)
        .await?;
        let total =
            sqlx::query_scalar!(
                r#"select count(*) as "n!" from jobs where company_id = $1 and (name ilike $2 or place ilike $2)"#,
                self.company,
                like
            )
            .fetch_one(&self.pool)
            .await?;
        Ok(JobsPage { jobs, total })
    }

    /// Stores a new job; its number.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn create(&self, plan: &Plan) -> Result<i64, StoreError> {
        let mut tx = self.pool.begin().await?;
        let id = sqlx::query_scalar!(
            "insert into jobs (company_id, name, place) values ($1, $2, $3) returning id",
            self.company,
            plan.name,
            plan.location
        )
        .fetch_one(&mut *tx)
        .await?;
        sqlx::query!(
            "insert into snapshots (job_id, seq, plan) values ($1, 0, $2)",
            id,
            to_json(id, plan)?
        )
        .execute(&mut *tx)
        .await?;
        tx.commit().await?;
        Ok(id)
    }

    /// Deletes a job with its log.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Unavailable`].
    pub async fn delete(&self, job: i64) -> Result<(), StoreError> {
        let done = sqlx::query!(
            "delete from jobs where id = $1 and company_id = $2",
            job,
            self.company
        )
        .execute(&self.pool)
        .await?;
        if done.rows_affected() == 1 {
            Ok(())
        } else {
            Err(StoreError::NotFound)
        }
    }
}
