use super::bound::{BoundBy, night_bound};
use super::pack::{Search, WORK, pack, under_least};
use super::task::{ByFlowAlone, Limits, Packed, Task};
use crate::progress::Progress;
use crate::runtime::cycles::Cycles;
use proptest::prelude::*;

pub(crate) fn task(flow: f64, count: u32, minutes: u32, soak: u32) -> Task {
    Task {
        flow,
        supply: 0,
        controller: 1,
        cycles: Cycles { count, minutes, soak },
        fixed: None,
        later: false,
    }
}

fn limits(cap: f64, at_once: usize) -> Limits {
    Limits { caps: vec![cap], at_once, delay: 0, least: 0.0, closed: Vec::new() }
}

fn packed(tasks: &[Task], limits: &Limits) -> (Packed, u32) {
    let bound = night_bound(tasks, limits, &mut ByFlowAlone).minutes;
    let progress = Progress::default();
    let search = Search { work: WORK, progress: &progress };
    (pack(tasks, limits, &mut ByFlowAlone, bound, &search), bound)
}

/// What is wrong with a night; nothing where it keeps all its rules.
fn wrong(tasks: &[Task], limits: &Limits, night: &Packed) -> Option<String> {
    for (i, (task, starts)) in tasks.iter().zip(&night.starts).enumerate() {
        if starts.len() != task.cycles.count as usize {
            return Some(format!("{i} has {} runs", starts.len()));
        }
        let gap = task.cycles.minutes + task.cycles.soak;
        if starts.windows(2).any(|s| s[1] < s[0] + gap) {
            return Some(format!("{i} does not soak"));
        }
        for (from, to) in &limits.closed {
            if starts.iter().any(|s| s < to && *from < s + task.cycles.minutes) {
                return Some(format!("{i} runs in closed hours"));
            }
        }
    }
    for minute in 0..night.all_done {
        let on = |(t, s): &(&Task, &Vec<u32>)| s.iter().any(|s| (*s..s + t.cycles.minutes).contains(&minute));
        let running: Vec<&Task> = tasks.iter().zip(&night.starts).filter(on).map(|p| p.0).collect();
        let flow: f64 = running.iter().map(|t| t.flow).sum();
        if running.len() > 1 && flow > limits.caps[0] + 1e-6 {
            return Some(format!("{flow} at {minute}"));
        }
        if running.len() > limits.at_once {
            return Some(format!("{} at once at {minute}", running.len()));
        }
    }
    None
}

/// The least finish of all nights, by trying every start of every run up to what is known.
fn exhaustive(tasks: &[Task], limits: &Limits, known: u32) -> u32 {
    let each = tasks.iter().enumerate();
    let mut search = Exhaustive {
        tasks,
        limits,
        runs: each.flat_map(|(i, t)| (0..t.cycles.count).map(move |c| (i, c))).collect(),
        minutes: vec![(0, 0.0); known as usize + 64],
        best: known,
    };
    search.go(0, 0, 0);
    search.best
}

struct Exhaustive<'a> {
    tasks: &'a [Task],
    limits: &'a Limits,
    /// Task and cycle.
    runs: Vec<(usize, u32)>,
    /// Stations and flow.
    minutes: Vec<(usize, f64)>,
    best: u32,
}

impl Exhaustive<'_> {
    fn go(&mut self, at: usize, earliest: u32, so_far: u32) {
        let Some((i, cycle)) = self.runs.get(at).copied() else {
            self.best = so_far.min(self.best);
            return;
        };
        let (cycles, own) = (self.tasks[i].cycles, self.tasks[i].flow);
        let left = cycles.count - cycle;
        let tail = left * cycles.minutes + (left - 1) * cycles.soak;
        let mut start = earliest;
        while start + tail < self.best {
            let span = start as usize..(start + cycles.minutes) as usize;
            let most = (self.limits.at_once, self.limits.caps[0] + 1e-9);
            let free = |(n, q): &(usize, f64)| *n == 0 || *n < most.0 && q + own <= most.1;
            let open = |(from, to): &(u32, u32)| start + cycles.minutes <= *from || *to <= start;
            if self.limits.closed.iter().all(open) && self.minutes[span.clone()].iter().all(free) {
                for minute in &mut self.minutes[span.clone()] {
                    *minute = (minute.0 + 1, minute.1 + own);
                }
                let end = start + cycles.minutes;
                let same = self.runs.get(at + 1).is_some_and(|r| r.0 == i);
                let next = if same { end + cycles.soak } else { 0 };
                self.go(at + 1, next, so_far.max(end));
                for minute in &mut self.minutes[span] {
                    *minute = (minute.0 - 1, minute.1 - own);
                }
            }
            start += 1;
        }
    }
}

#[test]
fn soaks_of_one_station_are_used_by_another() {
    // Six cycles of 4 min with an hour between: 324 min; 40 min of another fit in between.
    let tasks = [task(10.0, 6, 4, 60), task(10.0, 1, 40, 0)];
    let (night, bound) = packed(&tasks, &limits(15.0, 4));
    assert_eq!((night.finish, bound), (324, 324));
    assert_eq!(wrong(&tasks, &limits(15.0, 4), &night), None);
}

#[test]
fn two_run_together_where_flow_allows_and_one_by_one_where_not() {
    let tasks = [task(6.0, 1, 30, 0), task(6.0, 1, 30, 0), task(6.0, 1, 30, 0)];
    assert_eq!(packed(&tasks, &limits(18.0, 4)).0.finish, 30);
    assert_eq!(packed(&tasks, &limits(12.0, 4)).0.finish, 60);
    assert_eq!(packed(&tasks, &limits(11.0, 4)).0.finish, 90);
    assert_eq!(packed(&tasks, &limits(18.0, 1)).0.finish, 90, "the controller says no");
    // More than there is, or water that nobody knows: each runs alone, and no night could do better.
    let (night, bound) = packed(&tasks, &limits(0.0, 4));
    assert_eq!((night.finish, bound), (90, 90));
    let by = night_bound(&tasks, &limits(0.0, 4), &mut ByFlowAlone).by;
    assert_eq!(by, BoundBy::Alone(3));
}

#[test]
fn nothing_runs_in_closed_hours_and_a_start_that_was_set_is_kept() {
    let shut = Limits { closed: vec![(20, 50)], ..limits(10.0, 4) };
    let mut tasks = [task(8.0, 1, 15, 0), task(8.0, 1, 15, 0)];
    let (night, bound) = packed(&tasks, &shut);
    assert_eq!(night.finish, 65, "15 before, 15 after");
    assert_eq!(bound, 60, "30 min of water, and 30 closed");
    assert_eq!(wrong(&tasks, &shut, &night), None);
    tasks[0].fixed = Some(3);
    let (night, _) = packed(&tasks, &limits(10.0, 4));
    assert_eq!(night.starts[0], [3]);
    assert_eq!(night.starts[1], [18]);
}

#[test]
fn what_may_run_later_does_not_count_for_the_finish() {
    let mut tasks = [task(8.0, 1, 30, 0), task(8.0, 1, 200, 0)];
    tasks[1].later = true;
    let (night, bound) = packed(&tasks, &limits(10.0, 4));
    assert_eq!((night.finish, night.all_done, bound), (30, 230, 30));
}

#[test]
fn the_bound_knows_stations_that_take_more_than_half() {
    // Three of 6 of 10: one after the other, though the sum of the water would do in 54 min.
    let tasks = [task(6.0, 1, 30, 0), task(6.0, 1, 30, 0), task(6.0, 1, 30, 0)];
    assert_eq!(packed(&tasks, &limits(10.0, 4)).1, 90);
    // Beside two of 7 nothing of 4 fits: 20 + 20 + 20 / 2.
    let tasks = [task(7.0, 1, 20, 0), task(7.0, 1, 20, 0), task(4.0, 1, 10, 0), task(4.0, 1, 10, 0)];
    let (night, bound) = packed(&tasks, &limits(10.0, 4));
    assert_eq!((night.finish, bound), (50, 50));
}

#[test]
fn a_search_that_is_stopped_gives_a_sound_night() {
    let tasks: Vec<Task> = (1..20).map(|n| task(f64::from(n % 7 + 2), 1 + n % 3, n, 7)).collect();
    let limits = limits(12.0, 3);
    let progress = Progress::default();
    progress.stop();
    let search = Search { work: WORK, progress: &progress };
    let night = pack(&tasks, &limits, &mut ByFlowAlone, 0, &search);
    assert_eq!(progress.now().0, 0, "nothing more was tried");
    assert_eq!(wrong(&tasks, &limits, &night), None);
    assert!(night.finish >= packed(&tasks, &limits).0.finish);
}

#[test]
fn a_pump_that_wants_much_gets_small_stations_together_where_the_night_is_no_longer() {
    // The longest fills the night whatever the others do; the small ones can all run beside it.
    let tasks = [task(6.0, 1, 60, 0), task(2.0, 1, 20, 0), task(2.0, 1, 20, 0), task(2.0, 1, 20, 0)];
    let free = limits(8.0, 4);
    let wants = Limits { least: 8.0, ..limits(8.0, 4) };
    let night = packed(&tasks, &wants).0;
    assert_eq!((night.finish, packed(&tasks, &free).0.finish), (60, 60));
    assert_eq!(under_least(&tasks, &wants, &night), 0, "one small one beside it all the time");
    // Where one small station is left over it runs alone, and that is counted.
    let alone = [task(2.0, 1, 20, 0)];
    assert_eq!(under_least(&alone, &wants, &packed(&alone, &wants).0), 20);
    assert_eq!(wrong(&tasks, &wants, &night), None);
}

#[test]
fn few_programmes_run_stations_in_a_row_and_part_while_some_are_left() {
    use super::rows::pack_rows;
    // Six of one rhythm, two of another: eight that could start by themselves.
    let mut tasks = vec![task(4.0, 2, 5, 20); 6];
    tasks.extend([task(4.0, 1, 10, 0); 2]);
    let kinds = [0, 0, 0, 0, 0, 0, 6, 6];
    let limits = limits(12.0, 4);
    let rows = |most| pack_rows(&tasks, &kinds, &limits, &mut ByFlowAlone, most);
    assert_eq!(rows(1), None, "two rhythms don't go into one programme");
    let (two, four) = (rows(2).unwrap(), rows(4).unwrap());
    assert_eq!(wrong(&tasks, &limits, &two), None);
    assert_eq!(wrong(&tasks, &limits, &four), None);
    // Two rows: six times 5 min, twice; beside it two times 10 min. Halved, a row
    // takes 15 min, waits 10 for the soak, and takes 15 again.
    assert_eq!(two.finish, 60);
    assert_eq!(four.finish, 40);
    // Within a row each follows the one before, in every cycle.
    for cycle in 0..2 {
        let starts: Vec<u32> = two.starts[..6].iter().map(|s| s[cycle]).collect();
        assert!(starts.windows(2).all(|s| s[1] == s[0] + 5), "{starts:?}");
    }
}

#[test]
fn another_station_may_run_between_two_cycles_of_one_that_need_not_soak() {
    // The third takes all water but 1 and runs alone. At 4 it fits between the cycles of the first, which
    // could go on at once, while the second soaks until 6: 9 min. After all others it would end at 10.
    let tasks = [task(2.0, 2, 4, 0), task(2.0, 2, 3, 3), task(9.0, 1, 1, 0)];
    let (night, _) = packed(&tasks, &limits(10.0, 2));
    assert_eq!((night.finish, night.proven), (9, true));
    assert_eq!(night.starts, [vec![0, 5], vec![0, 6], vec![4]]);
}

fn any_task() -> impl Strategy<Value = Task> {
    (1..10u32, 1..3u32, 1..5u32, 0..5u32).prop_map(|(q, n, m, s)| task(f64::from(q), n, m, s))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1000))]

    #[test]
    fn small_nights_end_as_early_as_any_does(
        tasks in prop::collection::vec(any_task(), 1..4),
        at_once in 1..4usize,
        closed in prop::option::of((0..8u32, 1..4u32)),
    ) {
        let limits = Limits {
            closed: closed.map(|(from, lasts)| (from, from + lasts)).into_iter().collect(),
            ..limits(10.0, at_once)
        };
        let (night, bound) = packed(&tasks, &limits);
        prop_assert_eq!(wrong(&tasks, &limits, &night), None);
        let best = exhaustive(&tasks, &limits, night.finish);
        prop_assert!(bound <= best, "bound {} over {}", bound, best);
        prop_assert_eq!(night.finish, best);
        prop_assert!(night.proven || night.finish == bound);
    }

    #[test]
    fn every_night_keeps_its_rules_and_is_the_same_again(
        tasks in prop::collection::vec(any_task(), 0..30),
        at_once in 1..6usize,
        closed in prop::option::of((0..40u32, 1..30u32)),
    ) {
        let limits = Limits {
            closed: closed.map(|(from, lasts)| (from, from + lasts)).into_iter().collect(),
            ..limits(12.0, at_once)
        };
        let (night, bound) = packed(&tasks, &limits);
        prop_assert_eq!(wrong(&tasks, &limits, &night), None);
        prop_assert!(night.finish >= bound);
        prop_assert_eq!(&packed(&tasks, &limits).0, &night);
    }
}
