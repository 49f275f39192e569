use crate::{Scope, StoreError};
use sqlx::{Postgres, Transaction};

/// A picture as stored.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Picture {
    /// Media type, e.g. `image/png`.
    pub kind: String,
    /// The file.
    pub bytes: Vec<u8>,
}

/// A drawing that waits to be imported.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Upload {
    /// As it was called.
    pub name: String,
    /// The file.
    pub bytes: Vec<u8>,
}

/// Pictures kept for one job; undo may bring an earlier one back, so they are not cleaned at once.
const MOST_PICTURES: i64 = 10;
/// Uploads that wait for one job: older ones go.
const MOST_UPLOADS: i64 = 3;

impl Scope {
    /// Keeps a picture; the same one twice is kept once.
    ///
    /// # Errors
    /// [`StoreError::Full`] when the job has its share; [`StoreError::NotFound`].
    pub async fn put_picture(&self, job: i64, name: &str, picture: &Picture) -> Result<(), StoreError> {
        let mut tx = self.pool.begin().await?;
        self.lock(&mut tx, job).await?;
        let others = sqlx::query_scalar!(
            r#"select count(*) as "n!" from pictures where job_id = $1 and name <> $2"#,
            job,
            name
        )
        .fetch_one(&mut *tx)
        .await?;
        if others >= MOST_PICTURES {
            return Err(StoreError::Full("pictures"));
        }
        sqlx::query!(
            "insert into pictures (job_id, name, kind, bytes) values ($1, $2, $3, $4) on conflict do \
                nothing",
            job,
            name,
            picture.kind,
            picture.bytes
        )
        .execute(&mut *tx)
        .await?;
        tx.commit().await?;
        Ok(())
    }

    /// Holds the job's row until the transaction ends, so that what is counted stays so.
    async fn lock(&self, tx: &mut Transaction<'_, Postgres>, job: i64) -> Result<(), StoreError> {
        sqlx::query_scalar!(
            "select seq from jobs where id = $1 and company_id = $2 and shelf <> 'deleted' for update",
            job,
            self.company
        )
        .fetch_one(&mut **tx)
        .await?;
        Ok(())
    }

    /// A picture of a job.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Unavailable`].
    pub async fn picture(&self, job: i64, name: &str) -> Result<Picture, StoreError> {
        let row = sqlx::query!(
            "select kind, bytes from pictures join jobs on jobs.id = job_id where job_id = $1 and \
                pictures.name = $2 and company_id = $3 and shelf <> 'deleted'",
            job,
            name,
            self.company
        );
        let row = row.fetch_one(&self.pool).await?;
        Ok(Picture { kind: row.kind, bytes: row.bytes })
    }

    /// Keeps a drawing until it is imported; its number.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Unavailable`].
    pub async fn put_upload(&self, job: i64, upload: &Upload) -> Result<i64, StoreError> {
        let mut tx = self.pool.begin().await?;
        self.lock(&mut tx, job).await?;
        let id = sqlx::query_scalar!(
            "insert into uploads (job_id, name, bytes) values ($1, $2, $3) returning id",
            job,
            upload.name,
            upload.bytes
        )
        .fetch_one(&mut *tx)
        .await?;
        sqlx::query!(
            "delete from uploads where job_id = $1 and id not in (select id from uploads where \
            job_id = $1 order by id desc limit $2)",
            job,
            MOST_UPLOADS
        )
        .execute(&mut *tx)
        .await?;
        tx.commit().await?;
        Ok(id)
    }

    /// A drawing that waits.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Unavailable`].
    pub async fn upload(&self, job: i64, id: i64) -> Result<Upload, StoreError> {
        let row = sqlx::query!(
            "select uploads.name, bytes from uploads join jobs on jobs.id = job_id where job_id = $1 and \
                uploads.id = $2 and company_id = $3 and shelf <> 'deleted'",
            job,
            id,
            self.company
        );
        let row = row.fetch_one(&self.pool).await?;
        Ok(Upload { name: row.name, bytes: row.bytes })
    }

    /// Forgets a drawing that was imported or given up.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn drop_upload(&self, job: i64, id: i64) -> Result<(), StoreError> {
        sqlx::query!(
            "delete from uploads using jobs
             where jobs.id = job_id and job_id = $1 and uploads.id = $2 and company_id = $3 and shelf <> \
             'deleted'",
            job,
            id,
            self.company
        )
        .execute(&self.pool)
        .await?;
        Ok(())
    }
}
