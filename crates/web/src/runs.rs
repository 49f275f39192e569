//! Long computations that somebody waits for: how far they are, stopping them, what came out. They
//! live in the server process that began them; one at a time for each job.

use crate::assessed::Assessed;
use fenlo_core::layout::Alternative;
use fenlo_core::progress::Progress;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

/// Comparing kinds of head on some areas.
pub struct Run {
    /// The areas.
    pub areas: Vec<String>,
    /// The job as it was when it began.
    pub job: Arc<Assessed>,
    pub progress: Progress,
    found: Mutex<Found>,
}

/// Ways in the order in which they were found, each with its area's place.
#[derive(Default)]
struct Found {
    ways: Vec<(usize, Alternative)>,
    done: Option<Arc<Vec<Alternative>>>,
}

/// What a page does not show yet.
pub struct News {
    /// Ways that there are so far.
    pub count: usize,
    /// Areas that have more: whether it is their first, and all their ways.
    pub areas: Vec<(bool, Vec<Alternative>)>,
}

impl Run {
    pub fn new(areas: Vec<String>, known: Arc<Assessed>) -> Self {
        Self { areas, job: known, progress: Progress::default(), found: Mutex::default() }
    }
    /// True if the ground is no longer what it was.
    pub fn is_stale(&self, known: &Assessed) -> bool {
        self.job.job().site.objects != known.job().site.objects
    }
    /// What came out, area by area; none while it runs.
    pub fn found(&self) -> Option<Arc<Vec<Alternative>>> {
        self.lock().done.clone()
    }
    /// What there is so far, area by area.
    pub fn so_far(&self) -> Arc<Vec<Alternative>> {
        let found = self.lock();
        found.done.clone().unwrap_or_else(|| Arc::new(in_order(&found.ways)))
    }
    /// What came since there were `have` ways.
    pub fn news(&self, have: usize) -> News {
        let found = self.lock();
        let (shown, fresh) = found.ways.split_at(have.min(found.ways.len()));
        let mut grown: Vec<usize> = fresh.iter().map(|w| w.0).collect();
        grown.sort_unstable();
        grown.dedup();
        let of = |area: usize| {
            let ways = found.ways.iter().filter(|w| w.0 == area).map(|w| w.1.clone());
            (shown.iter().all(|w| w.0 != area), ways.collect())
        };
        News { count: found.ways.len(), areas: grown.into_iter().map(of).collect() }
    }
    /// Another way for the area at a place.
    pub fn tell(&self, area: usize, way: Alternative) {
        self.lock().ways.push((area, way));
    }
    /// There are no more.
    pub fn finish(&self) {
        let mut found = self.lock();
        found.done = Some(Arc::new(in_order(&found.ways)));
    }

    fn lock(&self) -> MutexGuard<'_, Found> {
        self.found.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

fn in_order(ways: &[(usize, Alternative)]) -> Vec<Alternative> {
    let mut ways = ways.to_vec();
    ways.sort_by_key(|w| w.0);
    ways.into_iter().map(|w| w.1).collect()
}
