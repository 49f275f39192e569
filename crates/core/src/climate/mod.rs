//! Evaporation and rain of a place by month, and how evaporation follows from the weather.

mod et;
mod table;
#[cfg(test)]
mod tests;

pub use et::{
    Air, Weather, extraterrestrial_radiation, from_sunshine, hargreaves_samani, penman_monteith,
    wind_at_two_metres,
};
pub use table::{Station, stations};

use crate::units::Length;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Days of each month; February has 28.
pub const DAYS_IN_MONTH: [u32; 12] = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];

/// What evaporates and what falls, by month, as means of many years or of what was read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Climate {
    /// Where the figures come from, in words.
    #[serde(default)]
    pub source: String,
    /// Months that are known, in any order; a month that is missing is told where it is asked for.
    pub months: Vec<MonthWater>,
    /// Months, from 1, in which the trees that give shade bear no leaves.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub bare: Vec<u8>,
}

/// One month.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct MonthWater {
    /// From 1 to 12.
    pub month: u8,
    /// Reference evapotranspiration in a week, a depth.
    pub et0: Length,
    /// Rain in a week, a depth.
    pub rain: Length,
}

impl Climate {
    /// The figures of a month, from 1.
    pub fn month(&self, month: u8) -> Option<MonthWater> {
        self.months.iter().copied().find(|m| m.month == month)
    }

    /// Months of which nothing is known, from 1.
    pub fn missing(&self) -> Vec<u8> {
        (1..=12).filter(|m| self.month(*m).is_none()).collect()
    }

    /// The month in which most evaporates beyond what rain gives back; none without months.
    pub fn peak(&self) -> Option<MonthWater> {
        let left = |m: &MonthWater| m.et0.m() - EFFECTIVE_RAIN * m.rain.m();
        let order = |a: &MonthWater, b: &MonthWater| left(a).total_cmp(&left(b)).then(b.month.cmp(&a.month));
        self.months.iter().copied().max_by(order)
    }

    /// True where no tree bears leaves in a month.
    pub fn is_bare(&self, month: u8) -> bool {
        self.bare.contains(&month)
    }
}

/// Share of rain that plants get, as a planning figure.
pub const EFFECTIVE_RAIN: f64 = 0.5;
