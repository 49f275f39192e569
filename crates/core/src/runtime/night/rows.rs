//! A night for a controller that keeps few programmes: stations of one rhythm run one after the other, from
//! each of their programme's start times on.

use super::pack::packed;
use super::slots::Slots;
use super::task::{Limits, MayRun, Packed, Row, Task};
use rand::SeedableRng;
use rand::seq::SliceRandom;
use rand_chacha::ChaCha8Rng;

/// Orders that are tried of the same programmes.
const TRIES: usize = 16;

/// The best night found with at most so many programmes on each controller: tasks of one `kind` (the same
/// days) and the same number of cycles may stand in one. None where they are too few for the kinds that
/// there are.
pub(super) fn pack_rows(
    tasks: &[Task],
    kinds: &[usize],
    limits: &Limits,
    may: &mut dyn MayRun,
    programmes: usize,
) -> Option<Packed> {
    let mut rows: Vec<Row> = Vec::new();
    let key = |i: u16| {
        let task = &tasks[usize::from(i)];
        (task.controller, kinds[usize::from(i)], task.cycles.count, task.later, task.fixed)
    };
    for i in (0u16..).take(tasks.len()).filter(|i| tasks[usize::from(*i)].cycles.count > 0) {
        match rows.iter_mut().find(|r| key(r.members[0]) == key(i)) {
            Some(row) => row.members.push(i),
            None => rows.push(Row { members: vec![i], period: 0 }),
        }
    }
    let on = |rows: &[Row], controller: u8| {
        rows.iter().filter(|r| tasks[usize::from(r.members[0])].controller == controller).count()
    };
    let controllers: Vec<u8> = rows.iter().map(|r| tasks[usize::from(r.members[0])].controller).collect();
    if controllers.iter().any(|c| on(&rows, *c) > programmes) {
        return None;
    }
    let mut rows: Vec<Row> = rows.into_iter().map(|r| Row::of(tasks, r.members, limits.delay)).collect();
    let mut slots = Slots::new(tasks, limits, may);
    let mut best = best_order(tasks, &mut slots, &rows);
    // Programmes that are left over part the longest rows: their halves may run side by side.
    loop {
        let longest = (0..rows.len())
            .filter(|i| rows[*i].members.len() > 1)
            .filter(|i| on(&rows, tasks[usize::from(rows[*i].members[0])].controller) < programmes)
            .max_by_key(|i| (rows[*i].chain(tasks), std::cmp::Reverse(*i)));
        let Some(i) = longest else { break };
        let row = rows.swap_remove(i);
        let half = |first: usize| row.members.iter().skip(first).step_by(2).copied().collect::<Vec<u16>>();
        rows.push(Row::of(tasks, half(0), limits.delay));
        rows.push(Row::of(tasks, half(1), limits.delay));
        let next = best_order(tasks, &mut slots, &rows);
        if next.finish < best.finish {
            best = next;
        }
    }
    Some(best)
}

fn best_order(tasks: &[Task], slots: &mut Slots<'_>, rows: &[Row]) -> Packed {
    let mut order: Vec<Row> = rows.to_vec();
    let class = |r: &Row| {
        let task = &tasks[usize::from(r.members[0])];
        (task.fixed.is_none(), task.later)
    };
    order.sort_by_key(|r| (class(r), std::cmp::Reverse(r.chain(tasks)), r.members[0]));
    let mut rng = ChaCha8Rng::seed_from_u64(7);
    let mut best = packed(tasks, slots.place_rows(&order));
    for _ in 0..TRIES {
        order.shuffle(&mut rng);
        order.sort_by_key(class);
        let next = packed(tasks, slots.place_rows(&order));
        if next.finish < best.finish {
            best = next;
        }
    }
    best
}
