//! Nights of few runs: every order is tried, so that the least finish is known to be the least.
//!
//! Some order gives a least night: take one that ends as early as any does and let every run begin as early
//! as the others leave it room; in the order of their beginnings the runs fall just there when each is put
//! at the first minute that is free. It needs that what may run together may also run with one less.
//!
//! # Source
//! Active schedules and serial generation: Sprecher, Kolisch and Drexl (1995).

use super::task::{Run, Task};

/// The orders of a night's runs, each once. The cycles of a task keep their order; starts that somebody set
/// come first, and what may run later comes last, where it can't keep back what has to end in time.
pub(super) struct Orders {
    first: Vec<Run>,
    last: Vec<Run>,
    /// Those that change places, by task.
    now: Vec<u16>,
    begun: bool,
    free: Vec<Run>,
}

impl Orders {
    pub fn of(tasks: &[Task], runs: &[Run]) -> Self {
        let task = |r: &Run| &tasks[usize::from(r.task)];
        let set = |r: &Run| task(r).fixed.is_some() && r.cycle == 0;
        let (first, rest): (Vec<Run>, Vec<Run>) = runs.iter().partition(|r| set(r));
        let (last, mut free): (Vec<Run>, Vec<Run>) = rest.iter().partition(|r| task(r).later);
        free.sort_by_key(|r| (r.task, r.cycle));
        Self { first, last, now: free.iter().map(|r| r.task).collect(), begun: false, free }
    }

    /// How many there are; none where they are more than anybody would try.
    pub fn number(&self) -> Option<usize> {
        // Run by run: places that it may take among those before it, over those of its own task.
        let (mut all, mut of_task) = (1usize, 0);
        for (i, run) in self.free.iter().enumerate() {
            let same = i > 0 && self.free[i - 1].task == run.task;
            of_task = if same { of_task + 1 } else { 1 };
            all = all.checked_mul(i + 1)? / of_task;
        }
        Some(all)
    }
}

impl Iterator for Orders {
    type Item = Vec<Run>;

    fn next(&mut self) -> Option<Vec<Run>> {
        if self.begun && !to_next(&mut self.now) {
            return None;
        }
        self.begun = true;
        let mut used = vec![0usize; self.free.len()];
        let begins = |task: u16| self.free.partition_point(|r| r.task < task);
        let mut order = self.first.clone();
        for task in &self.now {
            let begin = begins(*task);
            order.push(self.free[begin + used[begin]]);
            used[begin] += 1;
        }
        order.extend(&self.last);
        Some(order)
    }
}

/// The next arrangement in rising order; false after the last.
fn to_next(all: &mut [u16]) -> bool {
    let Some(falls) = all.windows(2).rposition(|w| w[0] < w[1]) else {
        return false;
    };
    let larger = all.iter().rposition(|x| *x > all[falls]).unwrap_or(falls);
    all.swap(falls, larger);
    all[falls + 1..].reverse();
    true
}

#[cfg(test)]
mod tests {
    use super::super::pack::runs;
    use super::super::tests::task;
    use super::*;

    #[test]
    fn each_order_comes_once_with_cycles_in_their_order() {
        // 5! / 2! / 2! = 30.
        let tasks = [task(1.0, 2, 3, 0), task(2.0, 2, 3, 0), task(3.0, 1, 3, 0)];
        let orders = Orders::of(&tasks, &runs(&tasks));
        assert_eq!(orders.number(), Some(30));
        let mut seen: Vec<Vec<(u16, u32)>> =
            orders.map(|o| o.iter().map(|r| (r.task, r.cycle)).collect()).collect();
        seen.sort();
        seen.dedup();
        assert_eq!(seen.len(), 30);
        let place = |o: &Vec<(u16, u32)>, run: (u16, u32)| o.iter().position(|r| *r == run).unwrap();
        assert!(
            seen.iter().all(|o| place(o, (0, 0)) < place(o, (0, 1)) && place(o, (1, 0)) < place(o, (1, 1)))
        );
    }

    #[test]
    fn a_start_that_was_set_comes_first_and_what_may_wait_comes_last() {
        let mut tasks = [task(1.0, 1, 3, 0), task(2.0, 1, 3, 0), task(3.0, 1, 3, 0), task(4.0, 1, 3, 0)];
        (tasks[3].fixed, tasks[0].later) = (Some(5), true);
        let orders = Orders::of(&tasks, &runs(&tasks));
        assert_eq!(orders.number(), Some(2));
        let seen: Vec<Vec<u16>> = orders.map(|o| o.iter().map(|r| r.task).collect()).collect();
        assert_eq!(seen, [[3, 1, 2, 0], [3, 2, 1, 0]]);
    }

    #[test]
    fn a_hundred_runs_are_too_many_to_count() {
        let tasks = vec![task(1.0, 1, 3, 0); 100];
        assert_eq!(Orders::of(&tasks, &runs(&tasks)).number(), None);
    }
}
