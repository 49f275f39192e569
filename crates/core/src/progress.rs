//! Long work that somebody waits for: how far it is, and whether it is to stop.

use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};

/// How far long work has come, and whether somebody wants it stopped.
#[derive(Debug, Default)]
pub struct Progress {
    done: AtomicUsize,
    of: AtomicUsize,
    stop: AtomicBool,
}

impl Progress {
    /// Says how much there is to do.
    pub fn expect(&self, steps: usize) {
        self.of.store(steps, Ordering::Relaxed);
    }
    /// Says that so much more than was said is to be done.
    pub fn expect_more(&self, steps: usize) {
        self.of.fetch_add(steps, Ordering::Relaxed);
    }
    /// One step more is done.
    pub fn step(&self) {
        self.done.fetch_add(1, Ordering::Relaxed);
    }
    /// Steps done, and steps in all.
    pub fn now(&self) -> (usize, usize) {
        (self.done.load(Ordering::Relaxed), self.of.load(Ordering::Relaxed))
    }
    /// Asks the work to end soon.
    pub fn stop(&self) {
        self.stop.store(true, Ordering::Relaxed);
    }
    /// True once somebody asked.
    pub fn stopped(&self) -> bool {
        self.stop.load(Ordering::Relaxed)
    }
}
