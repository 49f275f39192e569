//! The newest numbers of jobs, asked for together. Every page asks whether what is known of its job is still
//! the newest; hundreds that ask at once become one query. Whoever asks while one is under way waits for the
//! next, so that nobody hears of a state before his own last edit.

use crate::StoreError;
use sqlx::PgPool;
use std::collections::HashMap;
use tokio::sync::{mpsc, oneshot};

/// Asked in one query at most.
const TOGETHER: usize = 500;
/// Questions that may wait; whoever comes later waits to ask.
const WAITING: usize = 4_000;

struct Question {
    company: i64,
    job: i64,
    answer: oneshot::Sender<Result<Option<i64>, String>>,
}

/// Where questions go.
#[derive(Clone)]
pub(crate) struct Seqs(mpsc::Sender<Question>);

impl Seqs {
    pub fn new(pool: PgPool) -> Self {
        let (to, questions) = mpsc::channel(WAITING);
        tokio::spawn(answer(pool, questions));
        Self(to)
    }

    /// The newest number of a job of a company.
    pub async fn of(&self, company: i64, job: i64) -> Result<i64, StoreError> {
        let away = |cause: String| StoreError::Unavailable(sqlx::Error::Protocol(cause));
        let (answer, told) = oneshot::channel();
        let question = Question { company, job, answer };
        self.0.send(question).await.map_err(|e| away(e.to_string()))?;
        let seq = told.await.map_err(|e| away(e.to_string()))?.map_err(away)?;
        seq.ok_or(StoreError::NotFound)
    }
}

/// Ends with the last of those who ask.
async fn answer(pool: PgPool, mut questions: mpsc::Receiver<Question>) {
    let mut asked = Vec::with_capacity(TOGETHER);
    while questions.recv_many(&mut asked, TOGETHER).await > 0 {
        let mut jobs: Vec<i64> = asked.iter().map(|q| q.job).collect();
        jobs.sort_unstable();
        jobs.dedup();
        let rows = sqlx::query!(
            "select id, company_id, seq from jobs where id = any($1) and shelf <> 'deleted'",
            &jobs
        )
        .fetch_all(&pool)
        .await;
        match rows {
            Ok(rows) => {
                let known: HashMap<(i64, i64), i64> =
                    rows.into_iter().map(|r| ((r.company_id, r.id), r.seq)).collect();
                for question in asked.drain(..) {
                    let seq = known.get(&(question.company, question.job)).copied();
                    // Whoever asked may have gone.
                    let _ = question.answer.send(Ok(seq));
                }
            }
            Err(error) => {
                for question in asked.drain(..) {
                    let _ = question.answer.send(Err(error.to_string()));
                }
            }
        }
    }
}
