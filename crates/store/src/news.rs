use crate::{Store, StoreError};
use sqlx::postgres::PgListener;

/// Channel on which every server process hears of edits.
pub(crate) const CHANNEL: &str = "fenlo_edits";

/// Edits as they are appended, by whichever server process.
pub struct News {
    listener: PgListener,
}

impl News {
    /// The next edit: job and sequence number. After a broken connection it connects again; what
    /// was appended meanwhile is not told.
    ///
    /// # Errors
    /// The database stays away.
    pub async fn next(&mut self) -> Result<(i64, i64), StoreError> {
        loop {
            let told = self.listener.recv().await?;
            if let Some((job, seq)) = told.payload().split_once(':')
                && let (Ok(job), Ok(seq)) = (job.parse(), seq.parse())
            {
                return Ok((job, seq));
            }
        }
    }
}

impl Store {
    /// Hears of edits from now on.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn news(&self) -> Result<News, StoreError> {
        let mut listener = PgListener::connect_with(&self.pool).await?;
        listener.listen(CHANNEL).await?;
        Ok(News { listener })
    }
}
