//! Water of a year, by station and month, and what it costs.

use super::station::StationTimes;
use crate::climate::{DAYS_IN_MONTH, EFFECTIVE_RAIN};
use crate::job::Job;
use crate::plan::{Edit, GroundState, MeterReading, StationWish, TariffStep, Tuning, Usage};
use crate::units::{Length, Volume};
use rust_decimal::Decimal;
use rust_decimal::prelude::FromPrimitive;

/// Weeks of a month, from 1.
pub fn weeks(month: u8) -> f64 {
    f64::from(DAYS_IN_MONTH[usize::from(month.clamp(1, 12)) - 1]) / 7.0
}

/// What a station takes in a month, as the controller runs it; drains that open by themselves take what its
/// lateral holds after every run.
pub fn month_volume(station: &StationTimes, month: u8) -> Volume {
    if station.later {
        return Volume::ZERO;
    }
    let given = station.flow.lpm() * station.given_week().minutes();
    let runs = station.days.as_ref().map_or(0.0, |d| d.a_week() * f64::from(station.cycles.count));
    Volume::from_litres((given + station.drained.litres() * runs) * weeks(month))
}

/// What water of a month costs by the steps of a tariff, to the cent: each step's price for what lies in it.
/// None without a tariff, or where the last step ends before the water does.
pub fn cost(tariff: &[TariffStep], water: Volume) -> Option<Decimal> {
    let (mut below, mut sum) = (Volume::ZERO, Decimal::ZERO);
    for step in tariff {
        let end = step.up_to.map_or(water, |up_to| up_to.min(water));
        let here = (end - below).max(Volume::ZERO);
        sum += Decimal::from_f64(here.litres() / 1000.0)? * step.price;
        below = below.max(end);
    }
    (!tariff.is_empty() && below.litres() >= water.litres() - 1e-6).then(|| sum.round_dp(2))
}

/// What was used from one reading to the next.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Used {
    /// The earlier reading.
    pub from: MeterReading,
    /// The later one.
    pub to: MeterReading,
    /// Used between them.
    pub water: Volume,
    /// The meter went over its largest figure.
    pub rolled_over: bool,
}

/// Used between readings: the difference, over the meter's largest figure where the later one is smaller. A
/// meter that never rolls over and shows less than before tells nothing. Two roll-overs can't be told from
/// one.
///
/// # Example
/// 9,800 then 240 on a meter of 10,000: 440.
pub fn used(usage: &Usage) -> Vec<Used> {
    let between = |pair: &[MeterReading]| {
        let (from, to) = (pair[0], pair[1]);
        let rolled_over = to.showed < from.showed;
        let size = usage.meter_size.filter(|_| rolled_over);
        if rolled_over && size.is_none() {
            return None;
        }
        Some(Used { from, to, water: to.showed - from.showed + size.unwrap_or_default(), rolled_over })
    };
    usage.readings.windows(2).filter_map(between).collect()
}

/// One party's share of a bill: its use by all use of the part that goes by water, and its agreed share of
/// the part that does not. Shares from 0 to 1; none where nothing was used.
pub fn share_of_bill(
    own: Volume,
    all: Volume,
    by_water: Decimal,
    fixed: Decimal,
    agreed: f64,
) -> Option<Decimal> {
    if all <= Volume::ZERO || own > all {
        return None;
    }
    let share = Decimal::from_f64(own / all)?;
    Some((by_water * share + fixed * Decimal::from_f64(agreed)?).round_dp(2))
}

/// Days of watering that rain in the gauge makes up for, at every station that runs: half of it, at most
/// what the roots hold, by the need of a day, rounded down.
///
/// # Example
/// 1 in on a lawn that wants 0.217 in a day and holds 0.51: 0.50 / 0.217, 2 days.
pub fn rain_makes_up(stations: &[StationTimes], rain: Length) -> Vec<(usize, u32)> {
    let days = |s: &StationTimes| {
        let daily = s.need.as_ref()?.depth / 7.0;
        let given = (rain * EFFECTIVE_RAIN).min(s.dose);
        (daily > Length::ZERO).then(|| (given / daily + 1e-9).floor() as u32)
    };
    let running = stations.iter().enumerate().filter(|(_, s)| s.runs());
    running.filter_map(|(i, s)| Some((i, days(s)?))).collect()
}

/// Notes at every station that rain makes up for something how long it rests: one edit, none where all run
/// as ever.
pub fn rained(job: &Job, stations: &[StationTimes], rain: Length, when: &str, who: &str) -> Option<Edit> {
    let resting = rain_makes_up(stations, rain).into_iter().filter(|r| r.1 > 0);
    let note = |(place, days): (usize, u32)| {
        let station = stations.get(place).filter(|s| !s.later)?;
        let was = job.watering.station(&station.valve).cloned();
        let mut wish = was.unwrap_or_else(|| StationWish::new(&station.valve));
        wish.tuned.push(Tuning {
            when: when.to_owned(),
            who: who.to_owned(),
            found: GroundState::Rained,
            share: 1.0,
            rests: Some(days),
        });
        Some(Edit::put(wish))
    };
    let edits: Vec<Edit> = resting.filter_map(note).collect();
    (!edits.is_empty()).then(|| Edit::batch(edits))
}
