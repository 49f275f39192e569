use fenlo_core::assess::Assessment;
use fenlo_core::job::Job;
use fenlo_core::runtime::Evennesses;
use fenlo_store::OpenJob;
use std::sync::OnceLock;

/// A job with what is known of it.
pub struct Assessed {
    /// The job as it stands.
    pub open: OpenJob,
    /// Its figures.
    pub assessment: Assessment,
    /// How evenly its groups are watered: simulated when it is asked for.
    even: OnceLock<Evennesses>,
}

impl Assessed {
    /// Of a job; what an earlier state knew of evenness is kept where heads, ground and pressures are the same.
    pub fn new(open: OpenJob, assessment: Assessment, before: Option<&Self>) -> Self {
        let same = |b: &&Self| {
            let (now, then) = (&open.job, &b.open.job);
            now.groups == then.groups
                && now.site == then.site
                && now.nozzles == then.nozzles
                && assessment.zones == b.assessment.zones
        };
        let even = OnceLock::new();
        if let Some(kept) = before.filter(same).and_then(|b| b.even.get()) {
            let _ = even.set(kept.clone());
        }
        Self {
            open,
            assessment,
            even,
        }
    }

    /// The plan with its tables.
    pub fn job(&self) -> &Job {
        &self.open.job
    }

    /// How evenly its groups are watered.
    pub fn even(&self) -> &Evennesses {
        self.even
            .get_or_init(|| Evennesses::of(self.job(), &self.assessment))
    }
}
