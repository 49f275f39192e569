use crate::{COMPANY, Store, StoreError};
use fenlo_core::catalogue::Catalogue;
use fenlo_core::plan::{Edit, EntryKind, History, Plan, Subject, apply, fold};
use serde_json::Value;
use sqlx::PgConnection;

/// Edits between snapshots: folding so many takes about a millisecond.
const SNAPSHOT_EVERY: i64 = 50;

/// A job as it stands.
#[derive(Debug, Clone, PartialEq)]
pub struct OpenJob {
    /// Its number.
    pub id: i64,
    /// Newest edit.
    pub seq: i64,
    /// The fold of its edits.
    pub plan: Plan,
    /// What undo and redo would do next, in words.
    pub undo: Option<String>,
    /// See `undo`.
    pub redo: Option<String>,
}

/// What is to be appended.
#[derive(Debug, Clone, PartialEq)]
pub enum Change {
    /// A new edit, made by someone who saw the job at this sequence number. With a key it is done
    /// once, however often it is sent.
    Do {
        base: i64,
        edit: Box<Edit>,
        key: Option<String>,
    },
    /// Take back the newest entry that stands.
    Undo,
    /// Do again what was taken back last.
    Redo,
}

/// A line of the history.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LogLine {
    /// Number.
    pub seq: i64,
    /// do, undo or redo.
    pub kind: String,
    /// In words.
    pub described: String,
    /// When.
    pub at: String,
}

impl Store {
    /// The job as it stands.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Unreadable`], [`StoreError::Unavailable`].
    pub async fn job(&self, job: i64) -> Result<OpenJob, StoreError> {
        // One transaction, so that the sequence number and the log are of one moment.
        let mut tx = self.pool.begin().await?;
        sqlx::query!("set transaction isolation level repeatable read, read only")
            .execute(&mut *tx)
            .await?;
        let seq = sqlx::query_scalar!(
            "select seq from jobs where id = $1 and company_id = $2",
            job,
            COMPANY
        )
        .fetch_one(&mut *tx)
        .await?;
        let plan = plan_at(&mut tx, job, seq).await?;
        let open = with_history(&mut tx, job, seq, plan).await?;
        tx.commit().await?;
        Ok(open)
    }

    /// The newest sequence number.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Unavailable`].
    pub async fn seq(&self, job: i64) -> Result<i64, StoreError> {
        Ok(sqlx::query_scalar!(
            "select seq from jobs where id = $1 and company_id = $2",
            job,
            COMPANY
        )
        .fetch_one(&self.pool)
        .await?)
    }

    /// Appends to the log: all of the change or nothing.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when somebody changed the same subject after `base`;
    /// [`StoreError::Edit`] when the edit does not apply.
    ///
    /// `known` saves reading the job again where it is the newest.
    pub async fn append(
        &self,
        job: i64,
        change: Change,
        known: Option<&OpenJob>,
        catalogue: &Catalogue,
    ) -> Result<OpenJob, StoreError> {
        let mut tx = self.pool.begin().await?;
        // The lock makes writers of one job queue; others go on.
        let seq = sqlx::query_scalar!(
            "select seq from jobs where id = $1 and company_id = $2 for update",
            job,
            COMPANY
        )
        .fetch_one(&mut *tx)
        .await?;
        let plan = match known.filter(|k| k.id == job && k.seq == seq) {
            Some(known) => known.plan.clone(),
            None => plan_at(&mut tx, job, seq).await?,
        };
        let mut once = None;
        let (kind, edit, described) = match change {
            Change::Do { base, edit, key } => {
                if let Some(key) = &key
                    && sqlx::query_scalar!(
                        r#"select exists(select 1 from edits where job_id = $1 and key = $2) as "done!""#,
                        job,
                        key
                    )
                    .fetch_one(&mut *tx)
                    .await?
                {
                    return with_history(&mut tx, job, seq, plan).await;
                }
                once = key;
                check_conflict(&mut tx, job, base, &edit).await?;
                let described = edit.describe();
                (EntryKind::Do, *edit, described)
            }
            Change::Undo => {
                let target = history(&mut tx, job)
                    .await?
                    .undo()
                    .ok_or(StoreError::NothingTo("undo"))?;
                let (edit, described) = inverse_of(&mut tx, job, target).await?;
                (EntryKind::Undo, edit, described)
            }
            Change::Redo => {
                let target = history(&mut tx, job)
                    .await?
                    .redo()
                    .ok_or(StoreError::NothingTo("redo"))?;
                let (edit, described) = inverse_of(&mut tx, job, target).await?;
                (EntryKind::Redo, edit, described)
            }
        };
        let (next, inverse) = apply(&plan, &edit, catalogue)?;
        let seq = seq + 1;
        sqlx::query!(
            "insert into edits (job_id, seq, kind, edit, inverse, described, key) values ($1, $2, $3, $4, \
                $5, $6, $7)",
            job,
            seq,
            word(kind),
            to_json(job, &edit)?,
            to_json(job, &inverse)?,
            described,
            once
        )
        .execute(&mut *tx)
        .await?;
        sqlx::query!(
            "update jobs set seq = $2, name = $3, place = $4, updated_at = now() where id = $1",
            job,
            seq,
            next.name,
            next.place
        )
        .execute(&mut *tx)
        .await?;
        if seq % SNAPSHOT_EVERY == 0 {
            sqlx::query!(
                "insert into snapshots (job_id, seq, plan) values ($1, $2, $3)",
                job,
                seq,
                to_json(job, &next)?
            )
            .execute(&mut *tx)
            .await?;
        }
        let open = with_history(&mut tx, job, seq, next).await?;
        // Told when the transaction is through, to every server process.
        sqlx::query!(
            "select pg_notify($1, $2)",
            crate::news::CHANNEL,
            format!("{job}:{seq}")
        )
        .execute(&mut *tx)
        .await?;
        tx.commit().await?;
        Ok(open)
    }

    /// True if an edit with this key stands in the log.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn was_done(&self, job: i64, key: &str) -> Result<bool, StoreError> {
        Ok(sqlx::query_scalar!(
            r#"select exists(select 1 from edits where job_id = $1 and key = $2) as "done!""#,
            job,
            key
        )
        .fetch_one(&self.pool)
        .await?)
    }

    /// The edits after a sequence number, oldest first, `most` at the most.
    ///
    /// # Errors
    /// [`StoreError::Unreadable`], [`StoreError::Unavailable`].
    pub async fn edits_since(&self, job: i64, seq: i64, most: i64) -> Result<Vec<Edit>, StoreError> {
        let rows = sqlx::query_scalar!(
            "select edit from edits where job_id = $1 and seq > $2 order by seq limit $3",
            job,
            seq,
            most
        )
        .fetch_all(&self.pool)
        .await?;
        rows.into_iter().map(|e| from_json(job, e)).collect()
    }

    /// The newest lines of the history.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn history(&self, job: i64, lines: i64) -> Result<Vec<LogLine>, StoreError> {
        Ok(sqlx::query_as!(
            LogLine,
            r#"select seq, kind, described, to_char(at, 'YYYY-MM-DD HH24:MI') as "at!" from edits
               where job_id = $1 order by seq desc limit $2"#,
            job,
            lines
        )
        .fetch_all(&self.pool)
        .await?)
    }
}

fn to_json(job: i64, value: &impl serde::Serialize) -> Result<Value, StoreError> {
    serde_json::to_value(value).map_err(|source| StoreError::Unreadable { job, source })
}

fn from_json<T: serde::de::DeserializeOwned>(job: i64, value: Value) -> Result<T, StoreError> {
    serde_json::from_value(value).map_err(|source| StoreError::Unreadable { job, source })
}

fn word(kind: EntryKind) -> &'static str {
    match kind {
        EntryKind::Do => "do",
        EntryKind::Undo => "undo",
        EntryKind::Redo => "redo",
    }
}

/// The newest snapshot with the edits since folded onto it.
async fn plan_at(tx: &mut PgConnection, job: i64, seq: i64) -> Result<Plan, StoreError> {
    let snapshot = sqlx::query!(
        "select seq, plan from snapshots where job_id = $1 and seq <= $2 order by seq desc limit 1",
        job,
        seq
    )
    .fetch_one(&mut *tx)
    .await?;
    let start: Plan = from_json(job, snapshot.plan)?;
    let rows = sqlx::query_scalar!(
        "select edit from edits where job_id = $1 and seq > $2 and seq <= $3 order by seq",
        job,
        snapshot.seq,
        seq
    )
    .fetch_all(&mut *tx)
    .await?;
    let edits: Vec<Edit> = rows
        .into_iter()
        .map(|e| from_json(job, e))
        .collect::<Result<_, _>>()?;
    Ok(fold(start, &edits)?)
}

async fn history(tx: &mut PgConnection, job: i64) -> Result<History, StoreError> {
    let rows = sqlx::query!("select seq, kind from edits where job_id = $1 order by seq", job)
        .fetch_all(tx)
        .await?;
    let kind = |k: &str| match k {
        "undo" => EntryKind::Undo,
        "redo" => EntryKind::Redo,
        _ => EntryKind::Do,
    };
    Ok(History::of(rows.iter().map(|r| (r.seq, kind(&r.kind)))))
}

async fn with_history(tx: &mut PgConnection, job: i64, seq: i64, plan: Plan) -> Result<OpenJob, StoreError> {
    let history = history(tx, job).await?;
    let mut words = [None, None];
    for (word, target) in words.iter_mut().zip([history.undo(), history.redo()]) {
        if let Some(target) = target {
            *word = Some(
                sqlx::query_scalar!(
                    "select described from edits where job_id = $1 and seq = $2",
                    job,
                    target
                )
                .fetch_one(&mut *tx)
                .await?,
            );
        }
    }
    let [undo, redo] = words;
    Ok(OpenJob {
        id: job,
        seq,
        plan,
        undo,
        redo,
    })
}

async fn inverse_of(tx: &mut PgConnection, job: i64, seq: i64) -> Result<(Edit, String), StoreError> {
    let row = sqlx::query!(
        "select inverse, described from edits where job_id = $1 and seq = $2",
        job,
        seq
    )
    .fetch_one(tx)
    .await?;
    Ok((from_json(job, row.inverse)?, row.described))
}

/// Edits of others since `base` may stand beside this one unless they touch the same subject.
async fn check_conflict(tx: &mut PgConnection, job: i64, base: i64, edit: &Edit) -> Result<(), StoreError> {
    let rows = sqlx::query!(
        "select edit, described from edits where job_id = $1 and seq > $2 order by seq",
        job,
        base
    )
    .fetch_all(tx)
    .await?;
    let mine: Vec<Subject> = edit.subjects();
    for row in rows {
        let theirs: Edit = from_json(job, row.edit)?;
        if theirs.subjects().iter().any(|s| mine.iter().any(|m| m.meets(s))) {
            return Err(StoreError::Conflict(row.described));
        }
    }
    Ok(())
}
