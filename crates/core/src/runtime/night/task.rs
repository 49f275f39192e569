//! What is put into a night, and what holds for it.

use crate::runtime::cycles::Cycles;

/// A station with what it runs in one night.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Task {
    /// What it takes, L/min.
    pub flow: f64,
    /// Place of its connection among those of the job.
    pub supply: usize,
    /// Its controller.
    pub controller: u8,
    /// Its cycles, at least one.
    pub cycles: Cycles,
    /// Its first cycle begins then, whatever comes of it.
    pub fixed: Option<u32>,
    /// It comes after those that have to end in time.
    pub later: bool,
}

/// What holds for all tasks of a night.
#[derive(Debug, Clone, PartialEq)]
pub struct Limits {
    /// Most flow of each connection, L/min; a station that takes more runs alone.
    pub caps: Vec<f64>,
    /// Most stations of one controller at once.
    pub at_once: usize,
    /// Minutes, rounded up, that a controller waits after each run.
    pub delay: u32,
    /// The pump wants so much while anything runs, L/min; zero: it does not care.
    pub least: f64,
    /// Stretches in which nothing may run, minutes after the opening: from, to (not counted).
    pub closed: Vec<(u32, u32)>,
}

/// Says which stations may run together beyond what flow and controller allow: by solved pressure.
pub trait MayRun {
    /// Whether these tasks, in rising order, may run at once. It must hold for every part of a set that it
    /// holds for.
    fn may(&mut self, set: &[u16]) -> bool;
}

/// Nothing but flow and controller counts.
#[cfg(test)]
pub struct ByFlowAlone;

#[cfg(test)]
impl MayRun for ByFlowAlone {
    fn may(&mut self, _: &[u16]) -> bool {
        true
    }
}

/// When every cycle of every task begins, minutes after the opening.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Packed {
    /// By task, by cycle.
    pub starts: Vec<Vec<u32>>,
    /// When the last run of those that have to end in time has ended.
    pub finish: u32,
    /// When the last of all has.
    pub all_done: u32,
    /// Every order of its runs was tried: none ends sooner.
    pub proven: bool,
}

/// One cycle to be placed.
#[derive(Debug, Clone, Copy)]
pub(super) struct Run {
    /// Place of its task.
    pub task: u16,
    /// Which cycle of it.
    pub cycle: u32,
    /// What must follow from its beginning on, minutes.
    pub tail: f64,
    /// Comes after those that have to end in time; those with a start of their own come first.
    pub class: u8,
}

/// Stations in a row.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Row {
    /// Places of tasks, in order.
    pub members: Vec<u16>,
    /// From one start time to the next, minutes.
    pub period: u32,
}

impl Row {
    /// The shortest period in which all members run and each has soaked.
    pub fn of(tasks: &[Task], members: Vec<u16>, delay: u32) -> Self {
        let task = |i: &u16| &tasks[usize::from(*i)];
        let length: u32 = members.iter().map(|i| task(i).cycles.minutes + delay).sum();
        let soaked = members.iter().map(|i| task(i).cycles.minutes + task(i).cycles.soak).max();
        Self { members, period: length.max(soaked.unwrap_or(0)) }
    }

    pub fn chain(&self, tasks: &[Task]) -> u32 {
        let count = self.members.first().map_or(0, |i| tasks[usize::from(*i)].cycles.count);
        self.period * count
    }
}
