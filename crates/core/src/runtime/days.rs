//! On which days a station runs: as seldom as the roots allow, on the days that are allowed.

use crate::plan::{Date, DayRule};
use chrono::{Datelike, Days, NaiveDate};

/// Days that are looked at: a year of whole weeks.
const LOOKED_AT: u64 = 364;

/// Longest interval that is planned for, days.
pub const LONGEST_INTERVAL: u32 = 28;

/// A rhythm in days.
#[derive(Debug, Clone, PartialEq)]
pub struct DayPlan {
    /// As seldom as the roots allow.
    pub wanted: u32,
    /// Mean days from one watering to the next.
    pub mean_gap: f64,
    /// Longest days from one to the next.
    pub longest_gap: u32,
    /// The days of the month.
    pub in_month: Vec<Date>,
}

impl DayPlan {
    /// Waterings in a week, on average.
    pub fn a_week(&self) -> f64 {
        7.0 / self.mean_gap
    }
}

/// True if watering may begin on a day. The 31st and the 29th of
/// February are no odd days, so that two never follow one another; every
/// so many days are counted on over months and years.
pub fn allowed(rule: &DayRule, day: NaiveDate) -> bool {
    match rule {
        DayRule::Any => true,
        DayRule::Odd => day.day() % 2 == 1 && day.day() < 31 && (day.month(), day.day()) != (2, 29),
        DayRule::Even => day.day().is_multiple_of(2),
        DayRule::Weekdays { days } => days.contains(&(day.weekday().number_from_monday() as u8)),
        DayRule::Every { days } => day.num_days_from_ce().rem_euclid((*days).max(1) as i32) == 0,
    }
}

/// The days of watering from the first of a month on: on an allowed day water is given where waiting for the
/// next allowed one would be longer than wanted. `wanted` from 1; None where the rule allows no day at all.
pub fn day_plan(rule: &DayRule, wanted: u32, year: i32, month: u8) -> Option<DayPlan> {
    let first = NaiveDate::from_ymd_opt(year, u32::from(month), 1)?;
    let mut last: Option<u64> = None;
    let mut days: Vec<u64> = Vec::new();
    let open: Vec<u64> = (0..LOOKED_AT)
        .filter(|n| first.checked_add_days(Days::new(*n)).is_some_and(|d| allowed(rule, d)))
        .collect();
    for (i, day) in open.iter().enumerate() {
        let next = open.get(i + 1).copied().unwrap_or(LOOKED_AT);
        let due = last.is_none_or(|last| next - last > u64::from(wanted));
        if due {
            days.push(*day);
            last = Some(*day);
        }
    }
    let gaps: Vec<u64> = days.windows(2).map(|d| d[1] - d[0]).collect();
    let span = days.last()? - days.first()?;
    let date = |n: &u64| first.checked_add_days(Days::new(*n)).map(Date);
    Some(DayPlan {
        wanted,
        mean_gap: if gaps.is_empty() { LOOKED_AT as f64 } else { span as f64 / gaps.len() as f64 },
        longest_gap: gaps.iter().max().map_or(LOOKED_AT as u32, |g| *g as u32),
        in_month: days
            .iter()
            .filter_map(date)
            .filter(|d| d.0.month() == first.month() && d.0.year() == year)
            .collect(),
    })
}
