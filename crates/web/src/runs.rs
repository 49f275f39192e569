//! Long computations that somebody waits for: how far they are, stopping them, what came out. They
//! live in the server process that began them; one at a time for each job.

use crate::assessed::Assessed;
use fenlo_core::layout::{Alternative, Progress};
use std::sync::{Arc, Mutex, PoisonError};

/// Comparing kinds of head on some areas.
pub struct Run {
    /// The areas.
    pub areas: Vec<String>,
    /// The job as it was when it began.
    pub job: Arc<Assessed>,
    pub progress: Progress,
    found: Mutex<Option<Arc<Vec<Alternative>>>>,
}

impl Run {
    pub fn new(areas: Vec<String>, known: Arc<Assessed>) -> Self {
        Self {
            areas,
            job: known,
            progress: Progress::default(),
            found: Mutex::new(None),
        }
    }
    /// True if the ground is no longer what it was.
    pub fn is_stale(&self, known: &Assessed) -> bool {
        self.job.job().site.objects != known.job().site.objects
    }
    /// What came out; none while it runs.
    pub fn found(&self) -> Option<Arc<Vec<Alternative>>> {
        self.found.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }
    pub fn finish(&self, found: Vec<Alternative>) {
        *self.found.lock().unwrap_or_else(PoisonError::into_inner) = Some(Arc::new(found));
    }
}
