//! The times of one station in one month.

use super::cycles::{Cycles, cycles, whole};
use super::days::{DayPlan, LONGEST_INTERVAL, day_plan};
use super::need::{Need, Week, depth, minutes_for, needs, roots};
use super::plants::{rhythm, thirst};
use super::soil::SoilWater;
use super::uniformity::{EvennessFrom, Evennesses, MOST_MULTIPLIER, multiplier, usual_du};
use crate::assess::ZoneReport;
use crate::job::Job;
use crate::plan::{DayRule, HeadGroup, JointKind, Plants, Rhythm, Valve, WateringRules};
use crate::site::root_depth;
use crate::units::{Flow, Length, Minutes, Rate, Volume};
use crate::zone::{ZoneFault, lateral_volume};
use crate::zoning::LaterArea;

/// What is to be said of a station's times.
#[derive(Debug, Clone, PartialEq)]
pub enum StationSays {
    /// Its zone has no figures.
    Unsolved(ZoneFault),
    /// Rain gives all that its plants want.
    RainGivesAll,
    /// Nothing comes out where this plant or group wants water.
    NothingComes(String),
    /// Even a minute runs off.
    RunsOff {
        /// What is applied.
        rate: Rate,
        /// What the soil takes.
        intake: Rate,
    },
    /// No day is allowed.
    NoDay,
    /// Allowed days lie farther apart than roots hold water for.
    DaysTooFar {
        /// Longest gap.
        gap: u32,
        /// Days that the roots hold.
        holds: u32,
    },
    /// Less is given than is needed, minutes a week.
    Missing(Minutes),
    /// Evenness is that which audits find: heads are only listed.
    UsualEvenness,
    /// The layout is so uneven that the usual cap of the run's lengthening holds.
    Uneven(f64),
    /// Another group, or plant, on the same valve gets so many times what it needs.
    OthersGetMore {
        /// Which.
        name: String,
        /// How many times.
        times: f64,
    },
    /// Plants on one valve want another rhythm.
    RhythmDiffers {
        /// Of which group.
        name: String,
        /// How often it would be watered, days.
        days: u32,
    },
    /// So much flow, stations and wire are kept back; nothing is bought yet.
    KeptBack,
    /// A drain lets so much out after every run.
    Drains(Volume),
    /// The day's chain is longer than the window.
    LongerThanWindow {
        /// Minutes of the chain.
        chain: u32,
        /// Minutes of the window.
        window: u32,
    },
}

/// The times of a station.
#[derive(Debug, Clone, PartialEq)]
pub struct StationTimes {
    /// Its valve.
    pub valve: String,
    /// Number painted on it.
    pub number: usize,
    /// Its name.
    pub name: String,
    /// The need that governs, the greatest of minutes; none while nothing is known.
    pub need: Option<Need>,
    /// All needs on it.
    pub all: Vec<Need>,
    /// The water that it takes.
    pub flow: Flow,
    /// It is drip and nothing else.
    pub drip: bool,
    /// Minutes a week that are needed, tuned, not rounded.
    pub minutes_week: Minutes,
    /// What was found after the start changed the minutes by so much.
    pub tuned: f64,
    /// Half of what its roots hold.
    pub dose: Length,
    /// How often.
    pub rhythm: Rhythm,
    /// When; none where it never runs.
    pub days: Option<DayPlan>,
    /// Minutes on a day of watering, not rounded.
    pub minutes_day: Minutes,
    /// The longest run before water runs off.
    pub longest: Option<Minutes>,
    /// How a day's minutes are cut.
    pub cycles: Cycles,
    /// What a drain that opens by itself lets out after every run.
    pub drained: Volume,
    /// It waters an area that comes later: nothing is there yet.
    pub later: bool,
    /// What is to be said.
    pub says: Vec<StationSays>,
}

/// Pots take a day's water in two runs from so many minutes on, in three from twice that on.
const POTS_FROM: f64 = 6.0;
/// Between runs of pots, minutes.
const POTS_SOAK: f64 = 60.0;
/// Another group may get so much more than it needs before that is said.
const MUCH_MORE: f64 = 1.5;
/// One rhythm serves two groups while they differ by less.
const RHYTHM_APART: f64 = 2.0;

impl StationTimes {
    /// Minutes that the controller gives in a week, on average, whole minutes as it counts.
    pub fn given_week(&self) -> Minutes {
        let days = self.days.as_ref().map_or(0.0, DayPlan::a_week);
        Minutes::from_minutes(f64::from(self.cycles.running()) * days)
    }
    /// True where it runs at all.
    pub fn runs(&self) -> bool {
        self.cycles.count > 0 && self.days.is_some()
    }
    /// The part of the minutes that is given rather than missing, a week.
    pub fn missing(&self) -> Minutes {
        let missing = self.says.iter().find_map(|s| match s {
            StationSays::Missing(m) => Some(*m),
            _ => None,
        });
        missing.unwrap_or_default()
    }
}

/// Works out a valve's station. `window`: minutes in a night in which it may run.
pub(super) fn station(
    job: &Job,
    valve: &Valve,
    report: &ZoneReport,
    even: &Evennesses,
    week: Week,
    on: (i32, u8),
    window: u32,
) -> StationTimes {
    let mut out = StationTimes {
        valve: valve.id.clone(),
        number: job.valve_number(&valve.id),
        name: valve.name.clone(),
        need: None,
        all: Vec::new(),
        flow: Flow::ZERO,
        drip: false,
        minutes_week: Minutes::ZERO,
        tuned: 1.0,
        dose: Length::ZERO,
        rhythm: Rhythm::Deep,
        days: None,
        minutes_day: Minutes::ZERO,
        longest: None,
        cycles: cycles(0.0, None, 0.0),
        drained: Volume::ZERO,
        later: false,
        says: Vec::new(),
    };
    let (inputs, zone) = match (&report.inputs, &report.zone) {
        (Some(inputs), Ok(zone)) => (inputs, zone),
        (_, Err(fault)) => {
            out.says.push(StationSays::Unsolved(fault.clone()));
            return out;
        }
        (None, Ok(_)) => return out,
    };
    out.flow = zone.flow;
    out.drip = zone.heads.iter().all(|h| h.kind.is_drip());
    let wish = job.watering.station(&valve.id);
    out.all = needs(job, inputs, zone, even, wish, week);
    let by_minutes = |a: &&Need, b: &&Need| a.minutes.minutes().total_cmp(&b.minutes.minutes());
    for dry in out.all.iter().filter(|n| !n.minutes.minutes().is_finite()) {
        out.says.push(StationSays::NothingComes(dry.name.clone()));
    }
    let finite = out.all.iter().filter(|n| n.minutes.minutes().is_finite());
    let Some(need) = finite.max_by(by_minutes).cloned() else {
        return out;
    };
    let Some(group) = job.group(&need.group) else {
        return out;
    };
    let soil = SoilWater::of(group.soil);
    out.tuned = wish.map_or(1.0, |w| w.tuned_share());
    out.minutes_week = need.minutes * out.tuned;
    out.dose = soil.dose(roots(job, &need));
    out.rhythm = rhythm(group.plants, wish);
    if need.depth <= Length::ZERO {
        out.says.push(StationSays::RainGivesAll);
        out.need = Some(need);
        return out;
    }
    evenness_says(&need, &mut out.says);
    let floods = group.drip.as_ref().is_some_and(|d| d.floods());
    let rate = need.rate();
    let soaked = !floods && group.plants != Plants::Containers;
    out.longest = soil.longest_run(rate, group.slope_percent).filter(|_| soaked);
    let soak = soil.soak(group.slope_percent).minutes();
    let rules = &job.watering.rules;
    let rule = if out.drip && rules.drip_exempt { &DayRule::Any } else { &rules.days };
    let cut = |minutes: f64| cut(minutes, group, out.longest, soak);
    let holds = interval(&out, &need);
    let wanted = fitting(&out, holds, rules, window, &cut);
    let Some(days) = day_plan(rule, wanted, on.0, on.1) else {
        out.says.push(StationSays::NoDay);
        out.says.push(StationSays::Missing(out.minutes_week));
        out.need = Some(need);
        return out;
    };
    if out.rhythm == Rhythm::Deep && days.longest_gap > holds.max(1) {
        out.says.push(StationSays::DaysTooFar { gap: days.longest_gap, holds: holds.max(1) });
    }
    let day = out.minutes_week.minutes() / 7.0 * days.mean_gap;
    out.minutes_day = Minutes::from_minutes(day);
    out.cycles = cut(day);
    if let Some(most) = rules.most_minutes
        && out.cycles.running() > most
    {
        out.cycles = within(cut(f64::from(most)), most);
        let lost = (day - f64::from(out.cycles.running())) * days.a_week();
        if lost > 0.0 {
            out.says.push(StationSays::Missing(Minutes::from_minutes(lost)));
        }
    }
    if let Some(longest) = out.longest
        && longest.minutes() < 1.0
    {
        out.says.push(StationSays::RunsOff { rate, intake: soil.intake });
    }
    if out.cycles.chain() > window && !(out.drip && rules.drip_exempt) {
        out.says.push(StationSays::LongerThanWindow { chain: out.cycles.chain(), window });
    }
    if drains_itself(job, &valve.id) {
        out.drained = lateral_volume(inputs);
        out.says.push(StationSays::Drains(out.drained));
    }
    others(job, &mut out, &need);
    out.days = Some(days);
    out.need = Some(need);
    out
}

/// True where the drawn lateral has a drain that opens by itself.
fn drains_itself(job: &Job, valve: &str) -> bool {
    let ends = |joint: &str| job.piping.lateral(valve).any(|leg| leg.from == joint || leg.to == joint);
    let mut drains = job.piping.joints.iter().filter(|j| j.kind == JointKind::Drain);
    drains.any(|joint| ends(&joint.id))
}

/// A day's minutes in cycles: pots in two or three runs, all else by the soil.
fn cut(minutes: f64, group: &HeadGroup, longest: Option<Minutes>, soak: f64) -> Cycles {
    if group.plants == Plants::Containers {
        let runs = 1.0 + f64::from(minutes >= POTS_FROM) + f64::from(minutes >= 2.0 * POTS_FROM);
        return cycles(minutes, Some((minutes / runs).ceil()), POTS_SOAK);
    }
    cycles(minutes, longest.map(|l| l.minutes()), soak)
}

/// Rounding up may not break the most that is allowed.
fn within(cut: Cycles, most: u32) -> Cycles {
    let minutes = cut.minutes.min(most / cut.count.max(1)).max(1);
    Cycles { minutes, count: cut.count.min(most / minutes), ..cut }
}

/// Days that the roots hold what is wanted, rounded down; 0 where they don't hold a day's.
fn interval(station: &StationTimes, need: &Need) -> u32 {
    if station.rhythm == Rhythm::Often {
        // Less than a minute a day is no run: then every few days.
        let days = (1.0 / (station.minutes_week.minutes() / 7.0)).ceil();
        return days.clamp(1.0, 7.0) as u32;
    }
    let daily = need.depth / 7.0;
    ((station.dose / daily + 1e-9).floor() as u32).min(LONGEST_INTERVAL)
}

/// Days between waterings: as the roots hold, but so that a day's water keeps to the most that is allowed,
/// that its chain of cycles fits the window, and that drip takes no more than half of it: rather three times
/// three hours than nine at once.
fn fitting(
    station: &StationTimes,
    holds: u32,
    rules: &WateringRules,
    window: u32,
    cut: &dyn Fn(f64) -> Cycles,
) -> u32 {
    let room = if station.drip { window / 2 } else { window };
    let fits = |days: u32| {
        let minutes = station.minutes_week.minutes() / 7.0 * f64::from(days);
        let within_most = rules.most_minutes.is_none_or(|most| whole(minutes) <= most);
        within_most && cut(minutes).chain() <= room
    };
    (1..=holds.max(1)).rev().find(|days| fits(*days)).unwrap_or(1)
}

fn evenness_says(need: &Need, says: &mut Vec<StationSays>) {
    if let super::need::Basis::Ground { evenness, .. } = &need.basis {
        if evenness.from == EvennessFrom::Usual {
            says.push(StationSays::UsualEvenness);
        }
        if multiplier(evenness.du) >= MOST_MULTIPLIER {
            says.push(StationSays::Uneven(evenness.du));
        }
    }
}

/// What shares the valve and gets much more than it needs, or wants another rhythm.
fn others(job: &Job, out: &mut StationTimes, need: &Need) {
    let mut worst: Option<(&Need, f64)> = None;
    for other in &out.all {
        let times = need.minutes / other.minutes.max(Minutes::from_minutes(1e-9));
        if times > MUCH_MORE && worst.is_none_or(|(_, t)| times > t) {
            worst = Some((other, times));
        }
    }
    let mut says = Vec::new();
    if let Some((other, times)) = worst {
        let name = match &other.basis {
            super::need::Basis::Plant { plant, .. } => {
                job.site.object(plant).map_or(other.name.as_str(), |o| o.title())
            }
            super::need::Basis::Ground { .. } => &other.name,
        };
        says.push(StationSays::OthersGetMore { name: name.to_owned(), times });
    }
    let own = f64::from(interval(out, need).max(1));
    let wish = job.watering.station(&out.valve);
    for other in out.all.iter().filter(|n| n.group != need.group && n.depth > Length::ZERO) {
        let Some(group) = job.group(&other.group) else {
            continue;
        };
        let days = match rhythm(group.plants, wish) {
            Rhythm::Often => 1.0,
            Rhythm::Deep => {
                let dose = SoilWater::of(group.soil).dose(roots(job, other));
                (dose / (other.depth / 7.0)).floor().clamp(1.0, 28.0)
            }
        };
        if days / own >= RHYTHM_APART || own / days >= RHYTHM_APART {
            says.push(StationSays::RhythmDiffers { name: other.name.clone(), days: days as u32 });
            break;
        }
    }
    out.says.extend(says);
}

/// The stations that an area which comes later will take, each with its share of the flow: its need by its
/// ground, the evenness that audits find for its kind.
pub(super) fn later_stations(job: &Job, later: &LaterArea, week: Week, on: (i32, u8)) -> Vec<StationTimes> {
    let Some(area) = job.site.area(&later.area) else {
        return Vec::new();
    };
    let group = HeadGroup {
        plants: area.kind.plants(),
        exposure: area.exposure,
        soil: area.soil,
        slope_percent: area.slope_percent,
        area: Some(later.area.clone()),
        ..HeadGroup::new(&later.area, &later.name, "")
    };
    let thirst = thirst(job, &group, None, week.bare);
    let depth = depth(&thirst, week.water);
    let du = usual_du(later.kind);
    let minutes = minutes_for(depth, later.rate, multiplier(du));
    let soil = SoilWater::of(group.soil);
    let dose = soil.dose(root_depth(group.plants, area.water_use));
    let longest = soil.longest_run(later.rate, group.slope_percent);
    let rhythm = rhythm(group.plants, None);
    let holds = match rhythm {
        Rhythm::Often => 1,
        Rhythm::Deep if depth <= Length::ZERO => LONGEST_INTERVAL,
        Rhythm::Deep => ((dose / (depth / 7.0)).floor() as u32).clamp(1, LONGEST_INTERVAL),
    };
    let days = day_plan(&job.watering.rules.days, holds, on.0, on.1);
    let gap = days.as_ref().map_or(1.0, |d| d.mean_gap);
    let day = minutes.minutes() / 7.0 * gap;
    let soak = soil.soak(group.slope_percent).minutes();
    let station = |n: usize| StationTimes {
        valve: format!("later:{}:{n}", later.area),
        number: 0,
        name: match later.stations {
            1 => format!("{} (later)", later.name),
            _ => format!("{} {n} (later)", later.name),
        },
        need: None,
        all: Vec::new(),
        flow: later.flow_of_one(),
        drip: later.kind.is_drip(),
        minutes_week: minutes,
        tuned: 1.0,
        dose,
        rhythm,
        days: days.clone(),
        minutes_day: Minutes::from_minutes(day),
        longest,
        cycles: cut(day, &group, longest, soak),
        drained: Volume::ZERO,
        later: true,
        says: vec![StationSays::KeptBack],
    };
    (1..=later.stations).map(station).collect()
}
