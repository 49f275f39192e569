//! Runs put into a night so that the last of them ends as early as can be found.
//!
//! Serial schedule generation: runs in the order of what must still follow them, each at the first minute
//! from which it may run to its end. Of few runs every order is tried. Of many, justification (all runs
//! pushed late, then early again) and repeated tries with shifted orders look for better ones. Everything is
//! seeded: the same tasks give the same night.
//!
//! # Source
//! Serial generation and justification: Kolisch (1996); Valls, Ballestín and Quintanilla (2005).

use super::orders::Orders;
use super::slots::Slots;
use super::task::{Limits, MayRun, Packed, Run, Task};
use crate::progress::Progress;
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

/// How long a search goes on.
pub struct Search<'a> {
    /// How many runs it may place, [`WORK`] as a rule.
    pub work: usize,
    /// How far it is; it ends where somebody asks for it.
    pub progress: &'a Progress,
}

/// Work that a search may take, in placed runs.
pub const WORK: usize = 24_000;
const MOST_TRIES: usize = 400;
const LEAST_TRIES: usize = 24;

/// Packs a night. `bound`: no night is shorter, or none need be; the search ends where it is met, where its
/// work is done, and where somebody asks for it, with the best so far.
///
/// Tasks up to 1,000. Every run is placed; the night gets as long as it must.
pub fn pack(
    tasks: &[Task],
    limits: &Limits,
    may: &mut dyn MayRun,
    bound: u32,
    search: &Search<'_>,
) -> Packed {
    let mut slots = Slots::new(tasks, limits, may);
    let runs = runs(tasks);
    if runs.is_empty() {
        return Packed { starts: vec![Vec::new(); tasks.len()], ..Packed::default() };
    }
    let plain = limits.closed.is_empty() && tasks.iter().all(|t| t.fixed.is_none());
    let mut best = packed(tasks, slots.place_all(&runs));
    let mut rng = ChaCha8Rng::seed_from_u64(22);
    let tries = (search.work / runs.len()).clamp(LEAST_TRIES, MOST_TRIES);
    search.progress.expect(tries);
    let orders = Orders::of(tasks, &runs);
    if best.finish > bound && orders.number().is_some_and(|n| n.saturating_mul(runs.len()) <= search.work) {
        best = every(tasks, &mut slots, orders, best, search.progress);
    }
    for n in 0..tries {
        if best.proven || best.finish <= bound || search.progress.stopped() {
            break;
        }
        search.progress.step();
        // Tasks as wholes first; then, every other time, each run by itself.
        let order = match n {
            0 => shaken(&runs, Shake::Tasks(0.0), &mut rng),
            n if n % 2 == 0 => shaken(&runs, Shake::Runs(0.9), &mut rng),
            _ => shaken(&runs, Shake::Tasks(0.6), &mut rng),
        };
        let mut next = packed(tasks, slots.place_all(&order));
        if plain {
            next = justified(tasks, &mut slots, next);
        }
        if (next.finish, next.all_done) < (best.finish, best.all_done) {
            best = next;
        }
    }
    if limits.least <= 0.0 {
        return best;
    }
    // Of nights that end as early, the one in which the pump has least to do below what it wants.
    let mut idle = under_least(tasks, limits, &best);
    for _ in 0..tries {
        if idle == 0 || search.progress.stopped() {
            break;
        }
        let next = packed(tasks, slots.place_all(&shaken(&runs, Shake::Tasks(0.9), &mut rng)));
        let own = under_least(tasks, limits, &next);
        if next.finish <= best.finish && own < idle {
            let proven = best.proven;
            (best, idle) = (Packed { proven, ..next }, own);
        }
    }
    best
}

/// The best of all orders; where somebody stops it, of those tried so far.
fn every(
    tasks: &[Task],
    slots: &mut Slots<'_>,
    orders: Orders,
    first: Packed,
    progress: &Progress,
) -> Packed {
    let mut best = first;
    for order in orders {
        if progress.stopped() {
            return best;
        }
        let next = packed(tasks, slots.place_all(&order));
        if (next.finish, next.all_done) < (best.finish, best.all_done) {
            best = next;
        }
    }
    Packed { proven: true, ..best }
}

/// Minutes in which something runs, but less than the pump wants.
pub(super) fn under_least(tasks: &[Task], limits: &Limits, night: &Packed) -> u32 {
    let mut taken = vec![0.0f64; night.all_done as usize];
    for (task, starts) in tasks.iter().zip(&night.starts) {
        for start in starts {
            let span = *start as usize..(*start + task.cycles.minutes) as usize;
            taken[span].iter_mut().for_each(|q| *q += task.flow);
        }
    }
    taken.iter().filter(|q| **q > 0.0 && **q < limits.least).count() as u32
}

fn class(task: &Task) -> u8 {
    match (task.fixed, task.later) {
        (Some(_), _) => 0,
        (None, false) => 1,
        (None, true) => 2,
    }
}

/// All runs, the longest tails first; of equal ones those that take most water.
pub(super) fn runs(tasks: &[Task]) -> Vec<Run> {
    let mut all: Vec<Run> = Vec::new();
    for (i, task) in (0u16..).zip(tasks) {
        for cycle in 0..task.cycles.count {
            let left = task.cycles.count - cycle;
            let tail = left * task.cycles.minutes + (left - 1) * task.cycles.soak;
            all.push(Run { task: i, cycle, tail: f64::from(tail), class: class(task) });
        }
    }
    let flow = |r: &Run| tasks[usize::from(r.task)].flow;
    all.sort_by(|a, b| {
        a.class
            .cmp(&b.class)
            .then(b.tail.total_cmp(&a.tail))
            .then(flow(b).total_cmp(&flow(a)))
            .then((a.task, a.cycle).cmp(&(b.task, b.cycle)))
    });
    all
}

/// How far an order is shaken: tails are stretched or shrunk by up to a share.
enum Shake {
    /// All of a task alike.
    Tasks(f64),
    /// Each by itself: another task's run may come between two cycles.
    Runs(f64),
}

/// The same runs in another order; the cycles of a task stay in theirs.
fn shaken(runs: &[Run], shake: Shake, rng: &mut ChaCha8Rng) -> Vec<Run> {
    let mut factor = |share: f64| 1.0 + share * (rng.random::<f64>() * 2.0 - 1.0);
    let tasks = runs.iter().map(|r| usize::from(r.task) + 1).max().unwrap_or(0);
    let by: Vec<f64> = match shake {
        Shake::Tasks(share) => (0..tasks).map(|_| factor(share)).collect(),
        Shake::Runs(_) => vec![1.0; tasks],
    };
    let mut least = vec![f64::INFINITY; tasks];
    let mut order: Vec<Run> = Vec::with_capacity(runs.len());
    // A task's cycles come in rising order here: none gets a longer tail than the one before it.
    for run in runs {
        let task = usize::from(run.task);
        let own = run.tail * by[task] * if let Shake::Runs(share) = shake { factor(share) } else { 1.0 };
        least[task] = least[task].min(own);
        order.push(Run { tail: least[task], ..*run });
    }
    order.sort_by(|a, b| {
        a.class.cmp(&b.class).then(b.tail.total_cmp(&a.tail)).then((a.task, a.cycle).cmp(&(b.task, b.cycle)))
    });
    order
}

pub(super) fn packed(tasks: &[Task], starts: Vec<Vec<u32>>) -> Packed {
    let end = |(task, starts): (&Task, &Vec<u32>)| starts.last().map_or(0, |s| s + task.cycles.minutes);
    let ends = || tasks.iter().zip(&starts).map(|pair| (pair.0.later, end(pair)));
    let all_done = ends().map(|e| e.1).max().unwrap_or(0);
    Packed {
        finish: ends().filter(|e| !e.0).map(|e| e.1).max().unwrap_or(all_done),
        all_done,
        starts,
        proven: false,
    }
}

/// All runs pushed as late as the night's end allows, then early again: never longer. Time runs the other way
/// for the first half, where the order of a task's cycles turns round.
fn justified(tasks: &[Task], slots: &mut Slots<'_>, night: Packed) -> Packed {
    let turned = slots.place_all(&by_ends(tasks, &night));
    let late = packed(tasks, turned);
    // Read backwards, what began first ends last.
    let back = slots.place_all(&by_ends(tasks, &late));
    let early = packed(tasks, back);
    if (early.finish, early.all_done) <= (night.finish, night.all_done) { early } else { night }
}

/// Runs of a mirrored night, the last to end first.
fn by_ends(tasks: &[Task], night: &Packed) -> Vec<Run> {
    let mut all: Vec<(u32, Run)> = Vec::new();
    for (i, (task, starts)) in (0u16..).zip(tasks.iter().zip(&night.starts)) {
        let count = task.cycles.count;
        for (cycle, start) in (0..count).zip(starts) {
            let run = Run { task: i, cycle: count - 1 - cycle, tail: 0.0, class: class(task) };
            all.push((start + task.cycles.minutes, run));
        }
    }
    all.sort_by(|a, b| {
        (a.1.class, std::cmp::Reverse(a.0), a.1.task, a.1.cycle).cmp(&(
            b.1.class,
            std::cmp::Reverse(b.0),
            b.1.task,
            b.1.cycle,
        ))
    });
    all.into_iter().map(|(_, run)| run).collect()
}
