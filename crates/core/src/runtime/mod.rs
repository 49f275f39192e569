//! How long, how often, when: from what plants want to what the controller is told.
//!
//! Volume is rate times time. The rate is that of the solved zone and the evenness that which audits will
//! find, so minutes follow from the need: [`times`] does it for all stations of a month and packs their
//! night.
//!
//! | part | what it has |
//! |---|---|
//! | `soil`, `plants` | planning figures |
//! | `uniformity` | evenness by group, made once for a job |
//! | `need` | what each group and plant wants, and the minutes for it |
//! | `days`, `cycles` | how often, and in which pieces |
//! | `station` | all of that for one valve |
//! | `night` | all stations in one window |
//! | `sheet`, `water` | what is keyed in, what it comes to |
//! | `sensor` | what a flow sensor would read |

mod cycles;
mod days;
mod need;
mod night;
mod plants;
mod sensor;
mod sheet;
mod soil;
mod station;
#[cfg(test)]
mod tests;
mod uniformity;
mod water;
mod window;

pub use cycles::{Cycles, cycles, whole};
pub use days::{DayPlan, LONGEST_INTERVAL, allowed, day_plan};
pub use need::{Basis, Need, Week, depth, minutes_for};
pub use night::{
    BoundBy, Broken, Night, NightBound, NightRun, Programme, SupplyFlow, Way, WayToFit, most_on_one, night,
    programmes,
};
pub use plants::{Thirst, rhythm};
pub use sensor::{Reading, Suspect, sensed, suspects};
pub use sheet::{Sheet, SheetMonth, months, saved_by_months, sheet};
pub use soil::SoilWater;
pub use station::{StationSays, StationTimes};
pub use uniformity::{Evenness, EvennessFrom, Evennesses, MOST_MULTIPLIER, multiplier};
pub use water::{Used, cost, month_volume, rain_makes_up, rained, share_of_bill, used, weeks};
pub use window::Window;

use self::station::{later_stations, station};
use crate::assess::Assessment;
use crate::climate::MonthWater;
use crate::job::Job;
use crate::progress::Progress;
use crate::units::Length;

/// Where a month's evaporation and rain come from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum WaterFrom {
    /// The job's climate.
    Climate,
    /// The house's peak week: the job has no climate.
    PeakWeek,
    /// The house's peak week: the climate lacks this month.
    MonthMissing,
}

/// All stations of one month.
#[derive(Debug, Clone, PartialEq)]
pub struct Times {
    /// From 1.
    pub month: u8,
    /// The year that its days are of.
    pub year: i32,
    /// What is reckoned from.
    pub week: Week,
    /// Where that comes from.
    pub from: WaterFrom,
    /// By valve, in the plan's order; behind them those of areas that come later.
    pub stations: Vec<StationTimes>,
    /// The night in which all of them run.
    pub night: Night,
}

/// The month to begin with: that in which most is wanted; July where there is no climate.
pub fn peak_month(job: &Job) -> u8 {
    let climate = job.watering.climate.as_ref();
    climate.and_then(|c| c.peak()).map_or(7, |m| m.month)
}

/// A month's evaporation and rain.
pub fn week_of(job: &Job, month: u8) -> (Week, WaterFrom) {
    let climate = job.watering.climate.as_ref();
    let bare = climate.is_some_and(|c| c.is_bare(month));
    let (water, from) = match climate.map(|c| c.month(month)) {
        Some(Some(water)) => (water, WaterFrom::Climate),
        known => {
            let peak = MonthWater { month, et0: job.rules.peak_et, rain: Length::ZERO };
            let from = if known.is_some() { WaterFrom::MonthMissing } else { WaterFrom::PeakWeek };
            (peak, from)
        }
    };
    (Week { water, bare }, from)
}

/// Stations of a month without their night, and behind them those of areas that come later.
pub fn stations(job: &Job, known: &Assessment, even: &Evennesses, month: u8, year: i32) -> Vec<StationTimes> {
    let (week, _) = week_of(job, month);
    let window = Window::of(&job.watering.rules).open_minutes();
    let of = |valve: &crate::plan::Valve| {
        let report = known.zone(&valve.id)?;
        Some(station(job, valve, report, even, week, (year, month), window))
    };
    let later = known.later(job);
    let later = later.iter().flat_map(|area| later_stations(job, area, week, (year, month)));
    job.valves.iter().filter_map(of).chain(later).collect()
}

/// Times of every station in a month (1 to 12) of a year, and the night that holds them all.
///
/// Need = ET0 · plants · exposure · density - rain / 2 (a week); minutes = 60 need / rate · 1/(0.4 + 0.6 DU),
/// or for a plant its volume by what its emitters give; as seldom as half of what its roots hold allows, on
/// days that the rules allow; in cycles that the soil takes. The neediest group or plant of a valve governs.
///
/// # Source
/// FAO-56 (Allen and others, 1998) for the need; scheduling multiplier of the lower quarter and allowable
/// surface accumulation as irrigation auditors use them.
///
/// # Example
/// Turf 0.8, 1.90 in, 0.45 in/h, DU 0.72, loam at 5 %: 1.52 in, 243.6 min a week, every second day 69.6 min
/// in one cycle.
pub fn times(job: &Job, known: &Assessment, even: &Evennesses, month: u8, year: i32) -> Times {
    times_watched(job, known, even, (year, month), &Progress::default())
}

/// The same while somebody watches how far it is, and may stop it: the best night so far is given then.
pub fn times_watched(
    job: &Job,
    known: &Assessment,
    even: &Evennesses,
    (year, month): (i32, u8),
    progress: &Progress,
) -> Times {
    let (week, from) = week_of(job, month);
    let stations = stations(job, known, even, month, year);
    let night = night(job, known, &stations, progress);
    Times { month, year, week, from, stations, night }
}

/// The night of the month that wants most, without ways to make it fit.
pub fn night_of_peak(job: &Job, known: &Assessment, even: &Evennesses, year: i32) -> Night {
    let stations = stations(job, known, even, peak_month(job), year);
    night::packed_night(job, known, &stations, &Progress::default(), false)
}
