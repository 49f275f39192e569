//! What would make a night fit, each way tried by packing it.

use super::Setting;
use super::pack::{Search, pack};
use super::sets::SolvedSets;
use super::task::{Limits, Task};
use crate::plan::{Clock, DAY};
use crate::progress::Progress;
use crate::runtime::station::StationTimes;

/// A way to make a night fit.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Way {
    /// The controller runs so many at once.
    AtOnce(usize),
    /// The window opens earlier.
    OpenAt(Clock),
    /// Stations that don't run every day take turns: half of them one night, half the other.
    TakeTurns,
    /// Drip runs outside the window, where the rules let it.
    DripOutside,
    /// So much more design flow, as a share: a larger meter, service line or pump.
    MoreFlow(f64),
}

/// A way, tried.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct WayToFit {
    /// What is done.
    pub way: Way,
    /// The finish that it gives, minutes after the window opens (as it opens then).
    pub finish: u32,
    /// That is in time.
    pub fits: bool,
}

/// Flow by which more is tried, as a share.
const MORE_FLOW: f64 = 0.5;

pub(super) fn ways(
    setting: &Setting<'_>,
    times: &[StationTimes],
    sets: &mut SolvedSets<'_>,
    now: u32,
) -> Vec<WayToFit> {
    let window = setting.window.length;
    let progress = Progress::default();
    let quick = Search { work: 0, progress: &progress };
    let mut all = Vec::new();
    let tried = |tasks: &[Task], limits: &Limits, sets: &mut SolvedSets<'_>| {
        pack(tasks, limits, sets, window, &quick).finish
    };
    let mut put = |way: Way, finish: u32| {
        if finish < now {
            all.push(WayToFit { way, finish, fits: finish <= window });
        }
    };
    let most = setting.limits.at_once + 1;
    let more = Limits { at_once: most, ..setting.limits.clone() };
    put(Way::AtOnce(most), tried(&setting.tasks, &more, sets));
    // Stations that are due every second day at most: the heavier half of the work first, by minutes.
    let mut turns: Vec<usize> = (0..setting.who.len())
        .filter(|i| {
            let days = times[setting.who[*i]].days.as_ref();
            days.is_some_and(|d| d.mean_gap >= 2.0)
        })
        .collect();
    turns.sort_by_key(|i| std::cmp::Reverse(setting.tasks[*i].cycles.chain()));
    if turns.len() > 1 {
        let mut finish = 0;
        for turn in 0..2 {
            let away: Vec<usize> = turns.iter().skip(turn).step_by(2).copied().collect();
            let none = crate::runtime::cycles::cycles(0.0, None, 0.0);
            let tasks: Vec<Task> = setting
                .tasks
                .iter()
                .enumerate()
                .map(|(i, task)| {
                    let cycles = if away.contains(&i) { none } else { task.cycles };
                    Task { cycles, ..*task }
                })
                .collect();
            finish = finish.max(tried(&tasks, &setting.limits, sets));
        }
        put(Way::TakeTurns, finish);
    }
    let drip = |i: usize| times[setting.who[i]].drip;
    let outside: Vec<Task> = (0..setting.tasks.len())
        .map(|i| Task { later: setting.tasks[i].later || drip(i), ..setting.tasks[i] })
        .collect();
    if outside != setting.tasks && outside.iter().any(|t| !t.later) {
        put(Way::DripOutside, tried(&outside, &setting.limits, sets));
    }
    let wide = Limits {
        caps: setting.limits.caps.iter().map(|c| c * (1.0 + MORE_FLOW)).collect(),
        ..setting.limits.clone()
    };
    put(Way::MoreFlow(MORE_FLOW), tried(&setting.tasks, &wide, sets));
    // The window that would do: as it closes now, opened early enough.
    if now <= DAY && setting.window.closed.is_empty() {
        let opens = setting.window.opens.later(DAY + window - now);
        all.push(WayToFit { way: Way::OpenAt(opens), finish: now, fits: true });
    }
    all
}
