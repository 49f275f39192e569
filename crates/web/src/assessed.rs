use fenlo_core::assess::Assessment;
use fenlo_core::job::Job;
use fenlo_core::progress::Progress;
use fenlo_core::runtime::{Evennesses, Times};
use fenlo_core::takeoff::{Takeoff, takeoff};
use fenlo_store::OpenJob;
use std::collections::HashMap;
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

/// A job with what is known of it.
pub struct Assessed {
    /// The job as it stands.
    pub open: OpenJob,
    /// Its figures.
    pub assessment: Assessment,
    /// How evenly its groups are watered: simulated when it is asked for.
    even: OnceLock<Evennesses>,
    /// What is bought: counted when it is asked for.
    taken: OnceLock<Takeoff>,
    /// Nights of large sites that are being packed, or were, by month.
    nights: Mutex<HashMap<u8, Arc<NightWork>>>,
}

/// A night that is packed while somebody waits.
#[derive(Default)]
pub struct NightWork {
    /// How far it is.
    pub progress: Progress,
    /// What came out.
    pub found: OnceLock<Times>,
}

impl Assessed {
    /// Of a job; what an earlier state knew of evenness is kept where heads, ground and pressures are the
    /// same.
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
        Self { open, assessment, even, taken: OnceLock::new(), nights: Mutex::default() }
    }

    /// The plan with its tables.
    pub fn job(&self) -> &Job {
        &self.open.job
    }

    /// The packing of a month's night, if it was begun.
    pub fn night(&self, month: u8) -> Option<Arc<NightWork>> {
        let nights = self.nights.lock().unwrap_or_else(PoisonError::into_inner);
        nights.get(&month).cloned()
    }

    /// The same, begun now if it was not: then it is to be worked on.
    pub fn begin_night(&self, month: u8) -> (Arc<NightWork>, bool) {
        let mut nights = self.nights.lock().unwrap_or_else(PoisonError::into_inner);
        let fresh = !nights.contains_key(&month);
        (Arc::clone(nights.entry(month).or_default()), fresh)
    }

    /// What is bought for it; coils as they usually cost.
    pub fn taken(&self) -> &Takeoff {
        self.taken.get_or_init(|| takeoff(self.job(), &self.assessment))
    }

    /// How evenly its groups are watered.
    pub fn even(&self) -> &Evennesses {
        self.even.get_or_init(|| Evennesses::of(self.job(), &self.assessment))
    }
}
