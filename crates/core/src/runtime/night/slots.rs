//! The minutes of a night, each with the stations that run in it.

use super::task::{Limits, MayRun, Row, Run, Task};
use std::collections::HashMap;

/// More than a night: where everything has run at last, minutes.
const HORIZON: u32 = 14 * 24 * 60;

/// Nobody asked yet whether a station may join a set.
const NOT_ASKED: u32 = u32::MAX;
/// It may not.
const NEVER: u32 = u32::MAX - 1;

/// Sets of stations by number; 0 is nobody. Which station may join which set is asked once.
pub(super) struct Slots<'a> {
    tasks: &'a [Task],
    limits: &'a Limits,
    may: &'a mut dyn MayRun,
    sets: Vec<Vec<u16>>,
    numbers: HashMap<Vec<u16>, u32>,
    /// By set and task: the set with it, [`NOT_ASKED`] or [`NEVER`].
    joins: Vec<Vec<u32>>,
    minutes: Vec<u32>,
}

impl<'a> Slots<'a> {
    pub fn new(tasks: &'a [Task], limits: &'a Limits, may: &'a mut dyn MayRun) -> Self {
        Self {
            tasks,
            limits,
            may,
            sets: vec![Vec::new()],
            numbers: HashMap::from([(Vec::new(), 0)]),
            joins: vec![vec![NOT_ASKED; tasks.len()]],
            minutes: Vec::new(),
        }
    }

    /// Places runs one after the other in an empty night; gives their beginnings, by task.
    pub fn place_all(&mut self, order: &[Run]) -> Vec<Vec<u32>> {
        self.minutes.clear();
        let mut starts: Vec<Vec<u32>> = vec![Vec::new(); self.tasks.len()];
        for run in order {
            let task = &self.tasks[usize::from(run.task)];
            let own = &mut starts[usize::from(run.task)];
            let earliest = own.last().map_or(0, |last| last + task.cycles.minutes + task.cycles.soak);
            let fixed = task.fixed.filter(|_| own.is_empty());
            let start = fixed.unwrap_or_else(|| self.first_free(run.task, earliest));
            starts[usize::from(run.task)].push(start);
            self.take(run.task, start);
        }
        starts
    }

    /// Places rows of stations one after the other in an empty night; gives all beginnings, by task.
    pub fn place_rows(&mut self, order: &[Row]) -> Vec<Vec<u32>> {
        self.minutes.clear();
        let mut starts: Vec<Vec<u32>> = vec![Vec::new(); self.tasks.len()];
        for row in order {
            let fixed = row.members.iter().find_map(|i| self.tasks[usize::from(*i)].fixed);
            let mut first = fixed.unwrap_or(0);
            while fixed.is_none() && first < HORIZON {
                let blocked =
                    self.runs_of(row, first).into_iter().find(|(task, start)| !self.is_free(*task, *start));
                match blocked {
                    Some((task, start)) => first += (self.first_free(task, start) - start).max(1),
                    None => break,
                }
            }
            for (task, start) in self.runs_of(row, first) {
                starts[usize::from(task)].push(start);
                self.take(task, start);
            }
        }
        starts
    }

    /// All runs of a row that begins then, cycle by cycle.
    fn runs_of(&self, row: &Row, first: u32) -> Vec<(u16, u32)> {
        let count = self.tasks[usize::from(row.members[0])].cycles.count;
        let mut all = Vec::new();
        for cycle in 0..count {
            let mut at = first + cycle * row.period;
            for task in &row.members {
                all.push((*task, at));
                at += self.length(*task);
            }
        }
        all
    }

    fn is_free(&mut self, task: u16, start: u32) -> bool {
        self.first_free(task, start) == start
    }

    fn length(&self, task: u16) -> u32 {
        self.tasks[usize::from(task)].cycles.minutes + self.limits.delay
    }

    fn first_free(&mut self, task: u16, earliest: u32) -> u32 {
        let length = self.length(task);
        let mut start = earliest;
        'from: while start < HORIZON {
            let (begin, end) = (start, start + length);
            let shut = self.limits.closed.iter().find(|(from, to)| begin < *to && *from < end);
            if let Some((_, to)) = shut {
                start = *to;
                continue;
            }
            let mut before = u32::MAX;
            for minute in begin..end {
                let here = self.minutes.get(minute as usize).copied().unwrap_or(0);
                if here != before && self.join(here, task).is_none() {
                    start = self.end_of(minute, here);
                    continue 'from;
                }
                before = here;
            }
            return start;
        }
        // Closed hours leave no stretch that is long enough: after all else, whatever is closed.
        (self.minutes.len() as u32).max(earliest)
    }

    /// The first minute from one on that has another set.
    fn end_of(&self, minute: u32, set: u32) -> u32 {
        let rest = self.minutes.get(minute as usize..).unwrap_or_default();
        minute + rest.iter().position(|s| *s != set).unwrap_or(rest.len()).max(1) as u32
    }

    fn take(&mut self, task: u16, start: u32) {
        let end = (start + self.length(task)) as usize;
        if self.minutes.len() < end {
            self.minutes.resize(end, 0);
        }
        for minute in start as usize..end {
            let here = self.minutes[minute];
            // A start that somebody set may break a limit: the set is then kept as it is, and told.
            self.minutes[minute] = match self.join(here, task) {
                Some(next) => next,
                None => self.forced(here, task),
            };
        }
    }

    fn with(&self, set: u32, task: u16) -> Vec<u16> {
        let mut next = self.sets[set as usize].clone();
        next.push(task);
        next.sort_unstable();
        next.dedup();
        next
    }

    fn number(&mut self, set: Vec<u16>) -> u32 {
        if let Some(known) = self.numbers.get(&set) {
            return *known;
        }
        let number = self.sets.len() as u32;
        self.numbers.insert(set.clone(), number);
        self.sets.push(set);
        self.joins.push(vec![NOT_ASKED; self.tasks.len()]);
        number
    }

    fn forced(&mut self, set: u32, task: u16) -> u32 {
        let next = self.with(set, task);
        self.number(next)
    }

    fn join(&mut self, set: u32, task: u16) -> Option<u32> {
        match self.joins[set as usize][usize::from(task)] {
            NEVER => return None,
            NOT_ASKED => {}
            known => return Some(known),
        }
        let next = self.with(set, task);
        let good =
            next.len() > self.sets[set as usize].len() && allowed(self.tasks, self.limits, &next, self.may);
        let number = good.then(|| self.number(next));
        self.joins[set as usize][usize::from(task)] = number.unwrap_or(NEVER);
        number
    }
}

/// Whether tasks may run at once: by controller, flow and solved pressure. One alone always may.
pub(super) fn allowed(tasks: &[Task], limits: &Limits, set: &[u16], may: &mut dyn MayRun) -> bool {
    if set.len() < 2 {
        return true;
    }
    let of = |i: &u16| &tasks[usize::from(*i)];
    for i in set {
        let own = of(i);
        let on = set.iter().filter(|j| of(j).controller == own.controller).count();
        let taken: f64 = set.iter().map(of).filter(|t| t.supply == own.supply).map(|t| t.flow).sum();
        let alone = set.iter().filter(|j| of(j).supply == own.supply).count() == 1;
        let cap = limits.caps.get(own.supply).copied().unwrap_or(f64::INFINITY);
        if on > limits.at_once || (!alone && taken > cap * (1.0 + 1e-9)) {
            return false;
        }
    }
    may.may(set)
}
