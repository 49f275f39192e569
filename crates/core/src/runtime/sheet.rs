//! What is keyed into the controller, for the whole year.

use super::night::{Programme, programmes};
use super::station::StationTimes;
use super::water::month_volume;
use super::{Evennesses, Times, peak_month, stations, times};
use crate::assess::Assessment;
use crate::job::Job;
use crate::units::{Minutes, Volume};
use rust_decimal::Decimal;

/// The year on one sheet: the night of the month that wants most, and every month's minutes.
#[derive(Debug, Clone, PartialEq)]
pub struct Sheet {
    /// The month that wants most.
    pub peak: Times,
    /// How the controller keeps its night.
    pub programmes: Vec<Programme>,
    /// January to December.
    pub months: Vec<SheetMonth>,
}

/// One month.
#[derive(Debug, Clone, PartialEq)]
pub struct SheetMonth {
    /// From 1.
    pub month: u8,
    /// By valve, in the plan's order.
    pub stations: Vec<StationTimes>,
    /// All minutes of a week against those of the month that wants most, as a share.
    pub adjust: f64,
    /// Water of the month.
    pub water: Volume,
    /// What that costs; none without a tariff.
    pub cost: Option<Decimal>,
}

impl Sheet {
    /// The programme of a station (by its place), as the letter that controllers give it, and its start
    /// times in minutes after the window opens; none where it does not run.
    pub fn programme(&self, station: usize) -> Option<(char, &Programme)> {
        let at = self.programmes.iter().position(|p| p.stations.contains(&station))?;
        let letter = char::from(b'A' + u8::try_from(at % 26).ok()?);
        Some((letter, &self.programmes[at]))
    }
    /// Water of the year.
    pub fn water(&self) -> Volume {
        self.months.iter().map(|m| m.water).sum()
    }
    /// What that costs; none without a tariff.
    pub fn cost(&self) -> Option<Decimal> {
        self.months.iter().map(|m| m.cost).sum()
    }
    /// Water of one station in the year.
    pub fn water_of(&self, station: usize) -> Volume {
        let of = |m: &SheetMonth| m.stations.get(station).map(|s| month_volume(s, m.month));
        self.months.iter().filter_map(of).sum()
    }
}

/// The year's sheet of a job, its days those of a year.
pub fn sheet(job: &Job, known: &Assessment, even: &Evennesses, year: i32) -> Sheet {
    let peak = times(job, known, even, peak_month(job), year);
    Sheet {
        programmes: programmes(job, &peak.stations, &peak.night),
        months: months(job, known, even, year),
        peak,
    }
}

/// What keying in the minutes of each month saves, against those of the month that wants most left standing for
/// as long as anything runs: water of a year, and its money by the tariff (none without one, or where the
/// water goes beyond its last step). Zero where every month is like the peak.
pub fn saved_by_months(job: &Job, months: &[SheetMonth]) -> (Volume, Option<Decimal>) {
    let most = months.iter().max_by(|a, b| a.adjust.total_cmp(&b.adjust));
    let Some(peak) = most else {
        return (Volume::ZERO, None);
    };
    let mut water = Volume::ZERO;
    let mut money = Some(Decimal::ZERO);
    for month in months.iter().filter(|m| m.water > Volume::ZERO) {
        let left: Volume = peak.stations.iter().map(|s| month_volume(s, month.month)).sum();
        water = Volume::from_litres(water.litres() + left.litres() - month.water.litres());
        let dearer = super::cost(&job.watering.usage.tariff, left).zip(month.cost);
        money = money.zip(dearer).map(|(sum, (left, own))| sum + left - own);
    }
    (water, money)
}

/// January to December, without their nights.
pub fn months(job: &Job, known: &Assessment, even: &Evennesses, year: i32) -> Vec<SheetMonth> {
    let peak = stations(job, known, even, peak_month(job), year);
    let week = |all: &[StationTimes]| -> Minutes { all.iter().map(|s| s.minutes_week).sum() };
    let most = week(&peak).max(Minutes::from_minutes(1e-9));
    let months = (1..=12).map(|month| {
        let stations = stations(job, known, even, month, year);
        let water: Volume = stations.iter().map(|s| month_volume(s, month)).sum();
        SheetMonth {
            month,
            adjust: week(&stations) / most,
            cost: super::cost(&job.watering.usage.tariff, water),
            water,
            stations,
        }
    });
    months.collect()
}
