//! Where a job stands, copies of it, and the company's rules that new ones begin with.

use crate::{Scope, StoreError};
use fenlo_core::plan::{Edit, HouseRules, SetJob};

/// Days that a deleted job rests before it goes for good.
pub const RESTS_DAYS: i32 = 30;

/// Where a job stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default)]
pub enum Shelf {
    /// Being worked on.
    #[default]
    Desk,
    /// Done, and put away; it opens as ever.
    Archive,
    /// New jobs are copied from it.
    Template,
    /// Deleted: it can't be opened, and comes back whole within [`RESTS_DAYS`].
    Deleted,
}

impl Shelf {
    /// All, in the order of the list.
    pub const ALL: [Self; 4] = [Self::Desk, Self::Template, Self::Archive, Self::Deleted];

    /// Its word in the database and in addresses.
    pub fn word(self) -> &'static str {
        match self {
            Self::Desk => "desk",
            Self::Archive => "archive",
            Self::Template => "template",
            Self::Deleted => "deleted",
        }
    }

    /// From its word.
    pub fn parse(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|s| s.word() == word)
    }
}

impl Scope {
    /// Puts a job somewhere else. A deleted one keeps its log, quotes and pictures, and where it stood.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]: there is no such job, or it stands there already and is deleted.
    pub async fn put_on_shelf(&self, job: i64, shelf: Shelf) -> Result<(), StoreError> {
        let deleted = shelf == Shelf::Deleted;
        let done = sqlx::query!(
            "update jobs set shelf = $3, shelf_before = shelf,
                 deleted_at = case when $4 then now() end
             where id = $1 and company_id = $2 and not ($4 and shelf = 'deleted')",
            job,
            self.company,
            shelf.word(),
            deleted
        )
        .execute(&self.pool)
        .await?;
        one(done.rows_affected())
    }

    /// Brings a deleted job back to where it stood.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]: it was not deleted, or its days are over.
    pub async fn bring_back(&self, job: i64) -> Result<(), StoreError> {
        let done = sqlx::query!(
            "update jobs set shelf = shelf_before, deleted_at = null
             where id = $1 and company_id = $2 and shelf = 'deleted'",
            job,
            self.company
        )
        .execute(&self.pool)
        .await?;
        one(done.rows_affected())
    }

    /// Where a job stands.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Unavailable`].
    pub async fn shelf(&self, job: i64) -> Result<Shelf, StoreError> {
        let word = sqlx::query_scalar!(
            "select shelf from jobs where id = $1 and company_id = $2",
            job,
            self.company
        );
        Ok(Shelf::parse(&word.fetch_one(&self.pool).await?).unwrap_or_default())
    }

    /// A new job that begins as another stands, called otherwise, with its pictures and without its history
    /// and quotes; once for a key.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Unreadable`], [`StoreError::Unavailable`].
    pub async fn copy(
        &self,
        job: i64,
        called: &SetJob,
        shelf: Shelf,
        key: Option<&str>,
    ) -> Result<i64, StoreError> {
        let open = self.job(job).await?;
        let plan = open.job.apply(&Edit::SetJob(called.clone()))?.0.plan().clone();
        let mut tx = self.pool.begin().await?;
        let (id, made) = self.begin(&mut tx, &plan, shelf, key).await?;
        if !made {
            return Ok(id);
        }
        sqlx::query!(
            "insert into pictures (job_id, name, kind, bytes)
             select $2, name, kind, bytes from pictures where job_id = $1",
            job,
            id
        )
        .execute(&mut *tx)
        .await?;
        tx.commit().await?;
        Ok(id)
    }

    /// The company's house rules; none: those that come with the program.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn rules(&self) -> Result<Option<HouseRules>, StoreError> {
        let kept = sqlx::query_scalar!("select rules from companies where id = $1", self.company)
            .fetch_optional(&self.pool)
            .await?;
        // Rules of an older version that no longer read: those of the program.
        Ok(kept.flatten().and_then(|r| serde_json::from_value(r).ok()))
    }

    /// Keeps the company's house rules for jobs that begin from now on.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn keep_rules(&self, rules: &HouseRules) -> Result<(), StoreError> {
        let rules = serde_json::to_value(rules).map_err(StoreError::Broken)?;
        sqlx::query!("update companies set rules = $2 where id = $1", self.company, rules)
            .execute(&self.pool)
            .await?;
        Ok(())
    }
}

/// Exactly the one job that was meant was changed.
fn one(changed: u64) -> Result<(), StoreError> {
    match changed {
        1 => Ok(()),
        _ => Err(StoreError::NotFound),
    }
}

impl crate::Store {
    /// Deletes for good what rested its days, of all companies; how many jobs.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn clear_rested(&self) -> Result<u64, StoreError> {
        let gone = sqlx::query!(
            "delete from jobs where shelf = 'deleted' and deleted_at < now() - make_interval(days => $1)",
            RESTS_DAYS
        );
        Ok(gone.execute(&self.pool).await?.rows_affected())
    }
}
