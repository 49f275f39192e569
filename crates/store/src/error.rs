use fenlo_core::plan::EditError;

/// Why the store could not do it.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// No such job.
    #[error("there is no such job")]
    NotFound,
    /// Somebody else changed the same thing since the page was read.
    #[error("someone else changed it: {0}")]
    Conflict(String),
    /// Nothing to undo or redo.
    #[error("nothing to {0}")]
    NothingTo(&'static str),
    /// No more fits.
    #[error("this job has the maximum number of {0}")]
    Full(&'static str),
    /// Prices of another currency than those that are kept.
    #[error("the prices that are kept are in {0}: a book has one currency")]
    Currency(String),
    /// Something kept does not read as what it should be.
    #[error("the saved data cannot be read: {0}")]
    Broken(serde_json::Error),
    /// The edit does not apply to the job as it is now.
    #[error(transparent)]
    Edit(#[from] EditError),
    /// A row does not read as what it should be.
    #[error("job {job} cannot be read: {source}")]
    Unreadable {
        /// The job.
        job: i64,
        /// What did not read.
        source: serde_json::Error,
    },
    /// A row of a later version.
    #[error(
        "job {job} was written by a newer Fenlo (format {format}; this one knows up to {known}): update \
            this server to \
         open it"
    )]
    Newer {
        /// The job.
        job: i64,
        /// The version of the row.
        format: i16,
        /// The newest known.
        known: i16,
    },
    /// A text with a character that can't be kept: NUL, in practice.
    #[error("it contains a character that cannot be saved (NUL). Remove it")]
    Character,
    /// The database can't be reached or refused.
    #[error("the database is not available: {0}")]
    Unavailable(sqlx::Error),
}

impl StoreError {
    pub(crate) fn broken(source: serde_json::Error) -> Self {
        Self::Broken(source)
    }
}

impl From<sqlx::Error> for StoreError {
    fn from(error: sqlx::Error) -> Self {
        match error {
            sqlx::Error::RowNotFound => Self::NotFound,
            // Not a character of UTF-8; not one that JSON in the database can have.
            sqlx::Error::Database(e) if matches!(e.code().as_deref(), Some("22021" | "22P05")) => {
                Self::Character
            }
            other => Self::Unavailable(other),
        }
    }
}
