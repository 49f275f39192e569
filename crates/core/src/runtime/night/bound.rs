//! What no night could do without.

use super::slots::allowed;
use super::task::{Limits, MayRun, Task};

/// Why a night can't be shorter.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum BoundBy {
    /// The cycles and soaks of this task.
    Chain(usize),
    /// The water of this connection.
    Flow(usize),
    /// The stations that this controller runs at once.
    Controller(u8),
    /// So many stations of which no two may run together.
    Alone(usize),
    /// Every order of its runs was tried, and none ends sooner.
    Orders,
    /// Nothing runs.
    Nothing,
}

/// A proven least finish, minutes after the opening.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct NightBound {
    /// Minutes.
    pub minutes: u32,
    /// Why.
    pub by: BoundBy,
}

/// The greatest of: the longest chain of one station's cycles and soaks; the water of each connection through
/// its greatest flow; the minutes of each controller by the stations that it may run at once; stations of
/// which no two may run together, one after the other. Tasks that may come later do not count.
///
/// # Source
/// The bound by flow is that of bin packing with items of any size, L2 of Martello and Toth (1990): stations
/// that take more than half go one by one, beside the larger ones nothing else fits.
pub fn night_bound(tasks: &[Task], limits: &Limits, may: &mut dyn MayRun) -> NightBound {
    let counted: Vec<(usize, &Task)> = tasks.iter().enumerate().filter(|(_, t)| !t.later).collect();
    let mut best = NightBound { minutes: 0, by: BoundBy::Nothing };
    let mut at_least = |minutes: u32, by: BoundBy| {
        if minutes > best.minutes {
            best = NightBound { minutes, by };
        }
    };
    for (i, task) in &counted {
        at_least(task.fixed.unwrap_or(0) + task.cycles.chain(), BoundBy::Chain(*i));
    }
    let open = |minutes: f64| after_closed(minutes, limits);
    for (supply, cap) in limits.caps.iter().enumerate() {
        let here = counted.iter().map(|c| c.1).filter(|t| t.supply == supply);
        at_least(open(by_flow(here, *cap)), BoundBy::Flow(supply));
    }
    let mut controllers: Vec<u8> = counted.iter().map(|c| c.1.controller).collect();
    controllers.sort_unstable();
    controllers.dedup();
    for controller in controllers {
        let here = counted.iter().map(|c| c.1).filter(|t| t.controller == controller);
        let minutes: u32 = here.map(|t| t.cycles.running()).sum();
        let by = f64::from(minutes) / limits.at_once.max(1) as f64;
        at_least(open(by), BoundBy::Controller(controller));
    }
    let (minutes, stations) = alone(tasks, &counted, limits, may);
    at_least(open(f64::from(minutes)), BoundBy::Alone(stations));
    best
}

/// The first minute by which so many open ones have passed.
fn after_closed(minutes: f64, limits: &Limits) -> u32 {
    let mut end = (minutes - 1e-6).ceil().max(0.0) as u32;
    for (from, to) in &limits.closed {
        if *from < end {
            end += to - from;
        }
    }
    end
}

/// Martello and Toth's L2 with minutes as the length of the bins.
fn by_flow<'a>(tasks: impl Iterator<Item = &'a Task>, cap: f64) -> f64 {
    if !cap.is_finite() || cap <= 0.0 {
        return 0.0;
    }
    // A station that takes more than the cap runs alone: as if it took just that.
    let items: Vec<(f64, f64)> =
        tasks.map(|t| ((t.flow / cap).min(1.0), f64::from(t.cycles.running()))).collect();
    let thresholds = items.iter().map(|i| i.0).filter(|q| *q <= 0.5).chain([0.0]);
    let bound = |alpha: f64| {
        let (mut large, mut halves, mut room, mut small) = (0.0, 0.0, 0.0, 0.0);
        for (q, minutes) in &items {
            if *q > 1.0 - alpha + 1e-12 {
                large += minutes;
            } else if *q > 0.5 + 1e-12 {
                halves += minutes;
                room += (1.0 - q) * minutes;
            } else if *q >= alpha - 1e-12 {
                small += q * minutes;
            }
        }
        large + halves + f64::max(0.0, small - room)
    };
    thresholds.map(bound).fold(0.0, f64::max)
}

/// The heaviest chain of stations of which no two may run together that a greedy search finds: its minutes
/// and how many they are.
fn alone(tasks: &[Task], counted: &[(usize, &Task)], limits: &Limits, may: &mut dyn MayRun) -> (u32, usize) {
    let mut order: Vec<&(usize, &Task)> = counted.iter().collect();
    order.sort_by_key(|(i, t)| (std::cmp::Reverse(t.cycles.running()), *i));
    let mut apart = |a: usize, b: usize| {
        let pair = [a.min(b) as u16, a.max(b) as u16];
        !allowed(tasks, limits, &pair, may)
    };
    let mut best = (0, 0);
    for first in order.iter().take(MOST_STARTS) {
        let mut chain: Vec<usize> = vec![first.0];
        let mut minutes = first.1.cycles.running();
        for (i, task) in &order {
            if !chain.contains(i) && chain.iter().all(|c| apart(*c, *i)) {
                chain.push(*i);
                minutes += task.cycles.running();
            }
        }
        if minutes > best.0 {
            best = (minutes, chain.len());
        }
    }
    best
}

/// Stations from which a greedy chain is begun.
const MOST_STARTS: usize = 6;
