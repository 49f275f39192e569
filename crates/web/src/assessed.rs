use fenlo_core::assess::Assessment;
use fenlo_core::job::Job;
use fenlo_store::OpenJob;

/// A job with what is known of it.
pub struct Assessed {
    /// The job as it stands.
    pub open: OpenJob,
    /// Its figures.
    pub assessment: Assessment,
}

impl Assessed {
    /// The plan with its tables.
    pub fn job(&self) -> &Job {
        &self.open.job
    }
}
