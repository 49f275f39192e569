use crate::clock::today;
use fenlo_core::assess::Assessment;
use fenlo_core::job::Job;
use fenlo_core::progress::Progress;
use fenlo_core::remedies::Diagnosis;
use fenlo_core::runtime::{Evennesses, Times};
use fenlo_core::steps::{Step, StepState};
use fenlo_core::takeoff::Takeoff;
use fenlo_core::verdict::{KeptAreas, Subject, Verdict};
use fenlo_store::OpenJob;
use std::collections::HashMap;
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

/// A job with what is known of it.
pub struct Assessed {
    /// The job as it stands.
    pub open: OpenJob,
    /// Its figures.
    pub assessment: Assessment,
    /// All that is to be said of it: found when it is asked for.
    verdict: OnceLock<Verdict>,
    /// How evenly its groups are watered, as the verdict found.
    even: OnceLock<Evennesses>,
    /// Areas of the state before, for the verdict.
    areas: KeptAreas,
    /// How far the steps were when a verdict was found last.
    shown: Option<[StepState; 7]>,
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
    /// Of a job; what the verdict over an earlier state found of its areas is kept where they are the same.
    pub fn new(open: OpenJob, assessment: Assessment, before: Option<&Self>) -> Self {
        let kept = before.and_then(|b| Some(b.verdict.get()?.areas_for(b.job(), &open.job)));
        Self {
            open,
            assessment,
            verdict: OnceLock::new(),
            even: OnceLock::new(),
            areas: kept.unwrap_or_default(),
            shown: before.and_then(|b| b.verdict.get().map(|_| b.states()).or(b.shown)),
            nights: Mutex::default(),
        }
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

    /// All that is to be said of it: tenths of a second the first time.
    pub fn verdict(&self) -> &Verdict {
        self.verdict.get_or_init(|| Verdict::of(self.job(), &self.assessment, today().year(), &self.areas))
    }

    /// How far the steps are.
    pub fn states(&self) -> [StepState; 7] {
        Step::ALL.map(|step| step.state(self.job(), self.verdict()))
    }

    /// How far they were before the newest edits, while nobody has asked for a verdict over these.
    pub fn states_before(&self) -> Option<[StepState; 7]> {
        self.shown.filter(|_| self.verdict.get().is_none())
    }

    /// Findings of one thing with what would mend them.
    pub fn diagnoses(&self, of: &Subject) -> Vec<Diagnosis> {
        self.verdict().diagnoses(self.job(), &self.assessment, of)
    }

    /// What is bought for it; coils as they usually cost.
    pub fn taken(&self) -> &Takeoff {
        self.verdict().taken()
    }

    /// How evenly its groups are watered.
    pub fn even(&self) -> &Evennesses {
        self.even.get_or_init(|| self.verdict().even(self.job()))
    }
}
