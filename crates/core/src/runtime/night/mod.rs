//! One night with every station in it: the fullest that there is, when all rhythms fall on one day.

mod aim;
mod bound;
mod fit;
mod orders;
mod pack;
mod programmes;
mod response;
mod rows;
mod sets;
mod slots;
mod task;
#[cfg(test)]
pub(crate) mod tests;

pub use bound::{BoundBy, NightBound};
pub use fit::{Way, WayToFit};
pub use programmes::{Programme, most_on_one, programmes};

use self::aim::aim_of;
use self::response::Response;
use self::sets::{SolvedSets, Station};
use self::task::{Limits, Packed, Task};
use super::station::StationTimes;
use super::window::Window;
use crate::assess::Assessment;
use crate::job::Job;
use crate::progress::Progress;
use crate::units::{Flow, Pressure};

/// One run of one station.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct NightRun {
    /// Place of its station among those of the month.
    pub station: usize,
    /// Which of its cycles, from 0.
    pub cycle: u32,
    /// Minutes after the window opens.
    pub start: u32,
    /// How long.
    pub minutes: u32,
}

impl NightRun {
    /// When it ends, minutes after the window opens.
    pub fn end(&self) -> u32 {
        self.start + self.minutes
    }
}

/// What a night breaks.
#[derive(Debug, Clone, PartialEq)]
pub enum Broken {
    /// Stations run together that may not: starts that somebody set do that.
    Together {
        /// From then on, minutes after the window opens.
        at: u32,
        /// Which, by their places.
        stations: Vec<usize>,
    },
    /// A station runs in closed hours: somebody set its start, or no open stretch is long enough for its run.
    Closed {
        /// From then on, minutes after the window opens.
        at: u32,
        /// Which.
        station: usize,
    },
}

/// A packed night.
#[derive(Debug, Clone, PartialEq)]
pub struct Night {
    /// Its window.
    pub window: Window,
    /// Runs by their beginnings.
    pub runs: Vec<NightRun>,
    /// When the last run that has to end in the window ends, minutes after it opens.
    pub finish: u32,
    /// When the very last ends: drip may run on where the rules exempt it.
    pub all_done: u32,
    /// No night could end sooner.
    pub bound: NightBound,
    /// Most water of each connection that may run at once, and the most that does.
    pub flows: Vec<SupplyFlow>,
    /// The least that any head has over its aim in any minute, with the stations that run then; none where
    /// nothing runs or one could not be solved.
    pub margin: Option<(Pressure, Vec<usize>)>,
    /// What it breaks; nothing as a rule.
    pub broken: Vec<Broken>,
    /// Minutes in which something runs, but less than the pump wants.
    pub under_least: u32,
    /// Ways to make it fit, each tried; empty where it fits.
    pub ways: Vec<WayToFit>,
}

/// Water of a connection in a night.
#[derive(Debug, Clone, PartialEq)]
pub struct SupplyFlow {
    /// Its id.
    pub supply: String,
    /// The design flow; none while it is not known: stations then run one at a time.
    pub design: Option<Flow>,
    /// The most at once.
    pub peak: Flow,
}

impl Night {
    /// True where all that has to end in the window does.
    pub fn fits(&self) -> bool {
        self.finish <= self.window.length
    }
    /// True where no night could end sooner.
    pub fn is_proven(&self) -> bool {
        self.finish <= self.bound.minutes
    }
    /// The most water at once.
    pub fn peak(&self) -> Flow {
        self.flows.iter().map(|f| f.peak).reduce(Flow::max).unwrap_or_default()
    }
    /// Stations that run in a minute, by their places.
    pub fn running(&self, minute: u32) -> Vec<usize> {
        let on = self.runs.iter().filter(|r| r.start <= minute && minute < r.end());
        let mut all: Vec<usize> = on.map(|r| r.station).collect();
        all.sort_unstable();
        all
    }
    /// The minutes at which something begins or ends, in order.
    pub fn steps(&self) -> Vec<u32> {
        let mut all: Vec<u32> = self.runs.iter().flat_map(|r| [r.start, r.end()]).collect();
        all.sort_unstable();
        all.dedup();
        all
    }
}

/// What a night is packed from.
struct Setting<'a> {
    job: &'a Job,
    /// Places of the stations that run.
    pub who: Vec<usize>,
    pub tasks: Vec<Task>,
    pub limits: Limits,
    pub window: Window,
    stations: Vec<Station>,
}

impl<'a> Setting<'a> {
    pub fn of(job: &'a Job, known: &Assessment, times: &[StationTimes]) -> Self {
        let rules = &job.watering.rules;
        let window = Window::of(rules);
        let (mut who, mut tasks, mut stations) = (Vec::new(), Vec::new(), Vec::new());
        // What comes later hangs on the connection that gives most.
        let gives = |i: &usize| design(known, &job.supplies[*i].id).map_or(0.0, Flow::lpm);
        let most = (0..job.supplies.len()).max_by(|a, b| gives(a).total_cmp(&gives(b))).unwrap_or(0);
        for (place, station) in times.iter().enumerate().filter(|(_, s)| s.runs()) {
            let report = known.zone(&station.valve);
            let inputs = report.and_then(|r| r.inputs.clone());
            if station.later {
                who.push(place);
                tasks.push(Task {
                    flow: station.flow.lpm(),
                    supply: most,
                    controller: 1,
                    cycles: station.cycles,
                    fixed: None,
                    later: station.drip && rules.drip_exempt,
                });
                stations.push(Station { inputs: None, supply: most, aim: None, response: None });
                continue;
            }
            let zone = report.and_then(|r| r.zone.clone().ok());
            let supply = job.valve(&station.valve).map(|v| v.supply.as_str());
            let at = job.supplies.iter().position(|s| Some(s.id.as_str()) == supply);
            let (Some(inputs), Some(supply)) = (inputs, at) else {
                continue;
            };
            let wish = job.watering.station(&station.valve);
            who.push(place);
            tasks.push(Task {
                flow: station.flow.lpm(),
                supply,
                controller: wish.map_or(1, |w| w.controller),
                cycles: station.cycles,
                fixed: wish.and_then(|w| w.start),
                later: station.drip && rules.drip_exempt,
            });
            stations.push(Station {
                aim: zone.as_deref().and_then(aim_of),
                response: zone
                    .filter(|_| job.piping.main(&job.supplies[supply].id).next().is_none())
                    .and_then(|zone| Response::of(&inputs, &zone)),
                inputs: Some(inputs),
                supply,
            });
        }
        let controller = &job.watering.controller;
        // Where no design flow is known nothing says that two may run together.
        let cap = |s: &crate::plan::Supply| design(known, &s.id).map_or(0.0, Flow::lpm);
        let limits = Limits {
            caps: job.supplies.iter().map(cap).collect(),
            at_once: controller.at_once as usize,
            delay: (controller.delay.minutes() - 1e-9).ceil().max(0.0) as u32,
            least: controller.least_flow.map_or(0.0, Flow::lpm),
            closed: window.closed.clone(),
        };
        Self { job, who, tasks, limits, window, stations }
    }

    /// Tasks that run on the same days have the same number.
    fn kinds(&self, times: &[StationTimes]) -> Vec<usize> {
        let days = |place: &usize| times[*place].days.as_ref().map(|d| &d.in_month);
        let first = |place: &usize| self.who.iter().position(|other| days(other) == days(place));
        self.who.iter().map(|place| first(place).unwrap_or(0)).collect()
    }

    fn runs(&self, packed: &Packed) -> Vec<NightRun> {
        let mut runs: Vec<NightRun> = Vec::new();
        for ((place, task), starts) in self.who.iter().zip(&self.tasks).zip(&packed.starts) {
            for (cycle, start) in (0..).zip(starts) {
                runs.push(NightRun { station: *place, cycle, start: *start, minutes: task.cycles.minutes });
            }
        }
        runs.sort_by_key(|r| (r.start, r.station));
        runs
    }

    pub(super) fn sets(&self) -> SolvedSets<'_> {
        SolvedSets::new(self.job, &self.stations)
    }
}

/// What may run at once on a connection.
fn design(known: &Assessment, supply: &str) -> Option<Flow> {
    known.supply(supply)?.design.at_once()
}

/// Packs the night in which all stations of a month run.
///
/// Two stations run together where the controller can, where their flows stay within the design flow of their
/// connection, and where, solved on the shared main, no head of either is under the aim that it meets alone.
/// Where the controller keeps programmes and the night wants more of them, stations of one rhythm run in rows
/// instead. The finish is the least that was found and `bound` what no night could do without; both in
/// minutes after the window opens. The same job gives the same night.
///
/// `progress` tells how far the search is, and ends it with the best night so far where somebody asks.
pub fn night(job: &Job, known: &Assessment, times: &[StationTimes], progress: &Progress) -> Night {
    packed_night(job, known, times, progress, true)
}

/// The same; ways to make it fit are tried only where somebody wants them: they take longer than the night.
pub(super) fn packed_night(
    job: &Job,
    known: &Assessment,
    times: &[StationTimes],
    progress: &Progress,
    with_ways: bool,
) -> Night {
    let setting = Setting::of(job, known, times);
    let mut sets = setting.sets();
    let mut bound = bound::night_bound(&setting.tasks, &setting.limits, &mut sets);
    let search = pack::Search { work: pack::WORK, progress };
    let packed = pack::pack(&setting.tasks, &setting.limits, &mut sets, bound.minutes, &search);
    if packed.proven && packed.finish > bound.minutes {
        bound = NightBound { minutes: packed.finish, by: BoundBy::Orders };
    }
    let kept = job.watering.controller.programmes.map(|most| most as usize);
    let packed = match kept {
        Some(most) if programmes_of(&setting, times, &packed) > most => {
            let kinds = setting.kinds(times);
            rows::pack_rows(&setting.tasks, &kinds, &setting.limits, &mut sets, most).unwrap_or(packed)
        }
        _ => packed,
    };
    let ways = if with_ways && packed.finish > setting.window.length {
        fit::ways(&setting, times, &mut sets, packed.finish)
    } else {
        Vec::new()
    };
    told(job, known, &setting, &mut sets, packed, bound, ways)
}

/// Programmes that the fullest controller needs for a night.
fn programmes_of(setting: &Setting<'_>, times: &[StationTimes], packed: &Packed) -> usize {
    let all = programmes::of_runs(setting.job, times, &setting.runs(packed));
    programmes::most_on_one(&all)
}

fn told(
    job: &Job,
    known: &Assessment,
    setting: &Setting<'_>,
    sets: &mut SolvedSets<'_>,
    packed: Packed,
    bound: NightBound,
    ways: Vec<WayToFit>,
) -> Night {
    let runs = setting.runs(&packed);
    let by = match bound.by {
        BoundBy::Chain(task) => BoundBy::Chain(setting.who[task]),
        by => by,
    };
    let mut night = Night {
        window: setting.window.clone(),
        runs,
        finish: packed.finish,
        all_done: packed.all_done,
        bound: NightBound { by, ..bound },
        flows: Vec::new(),
        margin: None,
        broken: Vec::new(),
        under_least: 0,
        ways,
    };
    let mut peaks = vec![0.0f64; job.supplies.len()];
    let least = job.watering.controller.least_flow.map_or(0.0, Flow::lpm);
    let (mut margin, mut unsolved) = (None::<(Pressure, Vec<usize>)>, false);
    for step in night.steps().windows(2) {
        let on = night.running(step[0]);
        if on.is_empty() {
            continue;
        }
        let set: Vec<u16> = on
            .iter()
            .filter_map(|place| setting.who.iter().position(|w| w == place))
            .map(|i| i as u16)
            .collect();
        let mut taken = vec![0.0f64; peaks.len()];
        for i in &set {
            let task = &setting.tasks[usize::from(*i)];
            taken[task.supply] += task.flow;
        }
        for (peak, taken) in peaks.iter_mut().zip(&taken) {
            *peak = peak.max(*taken);
        }
        if taken.iter().sum::<f64>() < least {
            night.under_least += step[1] - step[0];
        }
        if !slots::allowed(&setting.tasks, &setting.limits, &set, sets) {
            night.broken.push(Broken::Together { at: step[0], stations: on.clone() });
        }
        match sets.margin(&set) {
            Some(own) if own.kpa() < f64::MAX && margin.as_ref().is_none_or(|m| own < m.0) => {
                margin = Some((own, on))
            }
            Some(_) => {}
            None => unsolved = true,
        }
    }
    let shut = |r: &&NightRun| {
        let mut closed = night.window.closed.iter();
        closed.any(|(from, to)| r.start < *to && *from < r.end())
    };
    let closed: Vec<Broken> =
        night.runs.iter().filter(shut).map(|r| Broken::Closed { at: r.start, station: r.station }).collect();
    if !closed.is_empty() {
        // The bound keeps to the closed hours; what breaks them may end sooner.
        night.bound.minutes = night.bound.minutes.min(night.finish);
    }
    night.broken.extend(closed);
    night.margin = margin.filter(|_| !unsolved);
    night.flows = job
        .supplies
        .iter()
        .zip(&peaks)
        .map(|(s, peak)| SupplyFlow {
            supply: s.id.clone(),
            design: design(known, &s.id),
            peak: Flow::from_lpm(*peak),
        })
        .collect();
    night
}
