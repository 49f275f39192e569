use crate::upgrade::{FORMAT, Row, upgraded};
use crate::{Scope, StoreError};
use fenlo_core::job::Job;
use fenlo_core::plan::{Edit, EntryKind, Plan, fold};
use serde_json::Value;
use sqlx::PgConnection;

/// Edits between snapshots: folding so many takes about a millisecond.
const SNAPSHOT_EVERY: i64 = 50;
/// Snapshots kept besides the first.
const SNAPSHOTS: i64 = 3;
/// Who edits while there are no accounts.
const AUTHOR: &str = "this company";

/// A job as it stands.
#[derive(Debug, Clone, PartialEq)]
pub struct OpenJob {
    /// Its number.
    pub id: i64,
    /// Newest edit.
    pub seq: i64,
    /// The fold of its edits.
    pub job: Job,
    /// What undo would do next, in words.
    pub undo: Option<String>,
    /// What redo would do next, in words.
    pub redo: Option<String>,
}

/// What is to be appended.
#[derive(Debug, Clone, PartialEq)]
pub enum Change {
    /// A new edit.
    Do {
        /// The newest edit that its author saw.
        base: i64,
        /// What to do.
        edit: Box<Edit>,
        /// With a key it is done once, however often it is sent.
        key: Option<String>,
        /// Keys of its author's own edits that were stored after `base`: this one was made on top of them.
        own: Vec<String>,
    },
    /// Take back the newest entry that stands; with a key once, however often it is sent.
    Undo(Option<String>),
    /// Do again what was taken back last.
    Redo(Option<String>),
}

impl Change {
    /// An edit of somebody who saw the job at `base`.
    pub fn edit(base: i64, edit: Edit) -> Self {
        Self::Do { base, edit: Box::new(edit), key: None, own: Vec::new() }
    }
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
    /// Who.
    pub author: String,
    /// When.
    pub at: String,
}

/// The head of a job's log: its newest entry, and the tops of the two stacks that are threaded
/// through it.
struct Head {
    seq: i64,
    undo_top: Option<i64>,
    redo_top: Option<i64>,
}

/// An entry that is about to be appended.
struct Entry {
    kind: EntryKind,
    edit: Edit,
    described: String,
    key: Option<String>,
    /// The entry beneath it on its stack.
    below: Option<i64>,
    /// The tops after it.
    undo_top: Option<i64>,
    redo_top: Option<i64>,
}

impl Scope {
    /// The job as it stands.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Unreadable`], [`StoreError::Unavailable`].
    pub async fn job(&self, job: i64) -> Result<OpenJob, StoreError> {
        // One transaction, so that the sequence number and the log are of one moment.
        let mut tx = self.pool.begin().await?;
        sqlx::query!("set transaction isolation level repeatable read, read only").execute(&mut *tx).await?;
        let head = sqlx::query_as!(
            Head,
            "select seq, undo_top, redo_top from jobs where id = $1 and company_id = $2 and shelf <> \
                'deleted'",
            job,
            self.company
        )
        .fetch_one(&mut *tx)
        .await?;
        let plan = plan_at(&mut tx, job, head.seq).await?;
        let open = opened(&mut tx, job, &head, Job::new(plan)).await?;
        tx.commit().await?;
        Ok(open)
    }

    /// The newest sequence number.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Unavailable`].
    pub async fn seq(&self, job: i64) -> Result<i64, StoreError> {
        self.seqs.of(self.company, job).await
    }

    /// Appends to the log: all of the change or nothing. What it costs does not grow with the log.
    ///
    /// `known` saves reading the job again where it is the newest.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when somebody changed the same subject after `base`;
    /// [`StoreError::Edit`] when the edit does not apply.
    pub async fn append(
        &self,
        job: i64,
        change: Change,
        known: Option<&OpenJob>,
    ) -> Result<OpenJob, StoreError> {
        let mut tx = self.pool.begin().await?;
        // The lock makes writers of one job queue; others go on.
        let head = sqlx::query_as!(
            Head,
            "select seq, undo_top, redo_top from jobs where id = $1 and company_id = $2 and shelf <> \
                'deleted' for update",
            job,
            self.company
        )
        .fetch_one(&mut *tx)
        .await?;
        let now = match known.filter(|k| k.id == job && k.seq == head.seq) {
            Some(known) => known.job.clone(),
            None => Job::new(plan_at(&mut tx, job, head.seq).await?),
        };
        let seq = head.seq + 1;
        let Some(entry) = entry(&mut tx, job, seq, &head, change).await? else {
            return opened(&mut tx, job, &head, now).await;
        };
        let (next, inverse) = now.apply(&entry.edit)?;
        write(&mut tx, job, seq, &entry, &inverse).await?;
        self.note(&mut tx, job, seq, &entry, &next).await?;
        let head = Head { seq, undo_top: entry.undo_top, redo_top: entry.redo_top };
        let open = opened(&mut tx, job, &head, next).await?;
        tx.commit().await?;
        Ok(open)
    }

    /// Brings the row of the job, its snapshots and what listens up to an entry.
    async fn note(
        &self,
        tx: &mut PgConnection,
        job: i64,
        seq: i64,
        entry: &Entry,
        next: &Job,
    ) -> Result<(), StoreError> {
        sqlx::query!(
            "update jobs set seq = $2, name = $3, place = $4, undo_top = $5, redo_top = $6, updated_at = now()
             where id = $1 and company_id = $7",
            job,
            seq,
            next.name,
            next.location,
            entry.undo_top,
            entry.redo_top,
            self.company
        )
        .execute(&mut *tx)
        .await?;
        if seq % SNAPSHOT_EVERY == 0 {
            sqlx::query!(
                "insert into snapshots (job_id, seq, plan, format) values ($1, $2, $3, $4)",
                job,
                seq,
                to_json(job, next.plan())?,
                FORMAT
            )
            .execute(&mut *tx)
            .await?;
            // The first is where the whole log can be folded from.
            sqlx::query!(
                "delete from snapshots where job_id = $1 and seq > 0 and seq <= $2",
                job,
                seq - SNAPSHOTS * SNAPSHOT_EVERY
            )
            .execute(&mut *tx)
            .await?;
        }
        // Told when the transaction is through, to every server process.
        sqlx::query!("select pg_notify($1, $2)", crate::news::CHANNEL, format!("{job}:{seq}"))
            .execute(&mut *tx)
            .await?;
        Ok(())
    }

    /// True if an edit with this key stands in the log.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn was_done(&self, job: i64, key: &str) -> Result<bool, StoreError> {
        Ok(sqlx::query_scalar!(
            r#"select exists(select 1 from edits join jobs on jobs.id = job_id
               where job_id = $1 and edits.key = $2 and company_id = $3) as "done!""#,
            job,
            key,
            self.company
        )
        .fetch_one(&self.pool)
        .await?)
    }

    /// The edits after a sequence number, oldest first, `most` at the most.
    ///
    /// # Errors
    /// [`StoreError::Unreadable`], [`StoreError::Unavailable`].
    pub async fn edits_since(&self, job: i64, seq: i64, most: i64) -> Result<Vec<Edit>, StoreError> {
        let rows = sqlx::query!(
            "select edit, format from edits join jobs on jobs.id = job_id
             where job_id = $1 and company_id = $4 and edits.seq > $2 order by edits.seq limit $3",
            job,
            seq,
            most,
            self.company
        )
        .fetch_all(&self.pool)
        .await?;
        rows.into_iter().map(|r| edit_of(job, r.format, r.edit)).collect()
    }

    /// The newest lines of the history.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn history(&self, job: i64, lines: i64) -> Result<Vec<LogLine>, StoreError> {
        Ok(sqlx::query_as!(
            LogLine,
            r#"select edits.seq, kind, described, author, to_char(at, 'YYYY-MM-DD HH24:MI') as "at!"
               from edits join jobs on jobs.id = job_id
               where job_id = $1 and company_id = $3 order by edits.seq desc limit $2"#,
            job,
            lines,
            self.company
        )
        .fetch_all(&self.pool)
        .await?)
    }
}

pub(crate) fn to_json(job: i64, value: &impl serde::Serialize) -> Result<Value, StoreError> {
    serde_json::to_value(value).map_err(|source| StoreError::Unreadable { job, source })
}

fn from_json<T: serde::de::DeserializeOwned>(job: i64, value: Value) -> Result<T, StoreError> {
    serde_json::from_value(value).map_err(|source| StoreError::Unreadable { job, source })
}

fn edit_of(job: i64, format: i16, value: Value) -> Result<Edit, StoreError> {
    from_json(job, upgraded(job, Row::Edit, format, value)?)
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
        "select seq, plan, format from snapshots where job_id = $1 and seq <= $2 order by seq desc limit 1",
        job,
        seq
    )
    .fetch_one(&mut *tx)
    .await?;
    let plan = upgraded(job, Row::Snapshot, snapshot.format, snapshot.plan)?;
    let start: Plan = from_json(job, plan)?;
    let rows = sqlx::query!(
        "select edit, format from edits where job_id = $1 and seq > $2 and seq <= $3 order by seq",
        job,
        snapshot.seq,
        seq
    )
    .fetch_all(&mut *tx)
    .await?;
    let edits: Vec<Edit> =
        rows.into_iter().map(|r| edit_of(job, r.format, r.edit)).collect::<Result<_, _>>()?;
    Ok(fold(start, &edits)?)
}

/// The entry that a change becomes; none where it was done before.
async fn entry(
    tx: &mut PgConnection,
    job: i64,
    seq: i64,
    head: &Head,
    change: Change,
) -> Result<Option<Entry>, StoreError> {
    let (Change::Do { key, .. } | Change::Undo(key) | Change::Redo(key)) = &change;
    if let Some(key) = key
        && sqlx::query_scalar!(
            r#"select exists(select 1 from edits where job_id = $1 and key = $2) as "done!""#,
            job,
            key
        )
        .fetch_one(&mut *tx)
        .await?
    {
        return Ok(None);
    }
    let entry = match change {
        Change::Do { base, edit, key, own } => {
            check_conflict(tx, job, base, &own, &edit).await?;
            Entry {
                kind: EntryKind::Do,
                described: edit.describe(),
                edit: *edit,
                key,
                below: head.undo_top,
                undo_top: Some(seq),
                redo_top: None,
            }
        }
        Change::Undo(key) => {
            let target = head.undo_top.ok_or(StoreError::NothingTo("undo"))?;
            let taken = taken(tx, job, target).await?;
            Entry {
                kind: EntryKind::Undo,
                described: taken.described,
                edit: taken.inverse,
                key,
                below: head.redo_top,
                undo_top: taken.below,
                redo_top: Some(seq),
            }
        }
        Change::Redo(key) => {
            let target = head.redo_top.ok_or(StoreError::NothingTo("redo"))?;
            let taken = taken(tx, job, target).await?;
            Entry {
                kind: EntryKind::Redo,
                described: taken.described,
                edit: taken.inverse,
                key,
                below: head.undo_top,
                undo_top: Some(seq),
                redo_top: taken.below,
            }
        }
    };
    Ok(Some(entry))
}

/// What undo or redo takes from the top of its stack.
struct Taken {
    inverse: Edit,
    described: String,
    below: Option<i64>,
}

async fn taken(tx: &mut PgConnection, job: i64, seq: i64) -> Result<Taken, StoreError> {
    let row = sqlx::query!(
        "select inverse, described, below, format from edits where job_id = $1 and seq = $2",
        job,
        seq
    )
    .fetch_one(tx)
    .await?;
    Ok(Taken { inverse: edit_of(job, row.format, row.inverse)?, described: row.described, below: row.below })
}

async fn write(
    tx: &mut PgConnection,
    job: i64,
    seq: i64,
    entry: &Entry,
    inverse: &Edit,
) -> Result<(), StoreError> {
    sqlx::query!(
        "insert into edits (job_id, seq, kind, edit, inverse, described, key, below, author, format)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)",
        job,
        seq,
        word(entry.kind),
        to_json(job, &entry.edit)?,
        to_json(job, inverse)?,
        entry.described,
        entry.key,
        entry.below,
        AUTHOR,
        FORMAT
    )
    .execute(&mut *tx)
    .await?;
    let mut marks: Vec<String> = entry.edit.subjects().iter().flat_map(|s| s.marks()).collect();
    marks.sort_unstable();
    marks.dedup();
    sqlx::query!(
        "insert into touched (job_id, subject, seq) select $1, subject, $3 from unnest($2::text[]) as subject
         on conflict (job_id, subject) do update set seq = excluded.seq",
        job,
        &marks,
        seq
    )
    .execute(&mut *tx)
    .await?;
    Ok(())
}

/// The job with what undo and redo would do next.
async fn opened(tx: &mut PgConnection, id: i64, head: &Head, job: Job) -> Result<OpenJob, StoreError> {
    let mut words = [None, None];
    for (word, target) in words.iter_mut().zip([head.undo_top, head.redo_top]) {
        if let Some(target) = target {
            let described =
                sqlx::query_scalar!("select described from edits where job_id = $1 and seq = $2", id, target);
            *word = Some(described.fetch_one(&mut *tx).await?);
        }
    }
    let [undo, redo] = words;
    Ok(OpenJob { id, seq: head.seq, job, undo, redo })
}

/// Edits of others since `base`, those with other keys than `own`, may stand beside this one unless they touch the same subject.
async fn check_conflict(
    tx: &mut PgConnection,
    job: i64,
    base: i64,
    own: &[String],
    edit: &Edit,
) -> Result<(), StoreError> {
    let sought: Vec<String> = edit.subjects().iter().flat_map(|s| s.looks_for()).collect();
    let met = sqlx::query_scalar!(
        "select described from touched join edits using (job_id, seq)
         where job_id = $1 and seq > $2 and subject = any($3) and (key is null or key <> all($4))
         order by seq limit 1",
        job,
        base,
        &sought,
        own
    );
    match met.fetch_optional(&mut *tx).await? {
        Some(described) => Err(StoreError::Conflict(described)),
        None => Ok(()),
    }
}
