//! A night as a controller keeps it: programmes, each with start times and stations in a row.

use super::{Night, NightRun};
use crate::job::Job;
use crate::runtime::station::StationTimes;

/// A programme: its stations run one after the other from each of its start times on.
#[derive(Debug, Clone, PartialEq)]
pub struct Programme {
    /// Its controller.
    pub controller: u8,
    /// Start times, minutes after the window opens.
    pub starts: Vec<u32>,
    /// Stations in order, by their places.
    pub stations: Vec<usize>,
}

/// The fewest programmes found that run a night as it is packed: stations of one controller and one rhythm of
/// days that follow one another without a gap, in every cycle, are one programme.
pub fn programmes(job: &Job, times: &[StationTimes], night: &Night) -> Vec<Programme> {
    of_runs(job, times, &night.runs)
}

/// Programmes of the controller that has most.
pub fn most_on_one(all: &[Programme]) -> usize {
    let on = |c: u8| all.iter().filter(|p| p.controller == c).count();
    all.iter().map(|p| on(p.controller)).max().unwrap_or(0)
}

/// The same of runs by their beginnings.
pub(super) fn of_runs(job: &Job, times: &[StationTimes], runs: &[NightRun]) -> Vec<Programme> {
    let delay = job.watering.controller.delay.minutes().ceil().max(0.0) as u32;
    let mut order: Vec<usize> = runs.iter().filter(|r| r.cycle == 0).map(|r| r.station).collect();
    order.dedup();
    let starts = |station: usize| -> Vec<u32> {
        let own = runs.iter().filter(|r| r.station == station);
        own.map(|r| r.start).collect()
    };
    let mut all: Vec<Programme> = Vec::new();
    for station in order {
        let wish = job.watering.station(&times[station].valve);
        let controller = wish.map_or(1, |w| w.controller);
        let own = starts(station);
        let follows = |p: &&mut Programme| {
            let last = *p.stations.last().expect("a programme has a station");
            let ends: Vec<u32> =
                starts(last).iter().map(|s| s + times[last].cycles.minutes + delay).collect();
            let same_days = times[last].days.as_ref().map(|d| &d.in_month)
                == times[station].days.as_ref().map(|d| &d.in_month);
            p.controller == controller && ends == own && same_days
        };
        match all.iter_mut().find(follows) {
            Some(programme) => programme.stations.push(station),
            None => all.push(Programme { controller, starts: own, stations: vec![station] }),
        }
    }
    all
}
