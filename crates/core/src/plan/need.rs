use super::Plan;
use crate::climate::{DAYS_IN_MONTH, EFFECTIVE_RAIN, MonthWater};
use crate::site::{Area, exposure_factor, plant_factor};
use crate::units::Length;

/// What an area wants in its peak week, and the factors that make it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct WeekNeed {
    /// Reference evapotranspiration of the week, a depth.
    pub et0: Length,
    /// Plant factor.
    pub factor: f64,
    /// Exposure factor.
    pub exposure: f64,
    /// Rain of the week, a depth.
    pub rain: Length,
    /// The need, a depth.
    pub depth: Length,
    /// Such weeks in a year: what all months want.
    pub weeks: f64,
}

/// The peak week's need of an area: ET0 by plant factor by exposure, less half of the rain. Of the job's
/// climate the month that wants most; without one the house's peak week, without rain.
///
/// # Source
/// Landscape coefficients as planning figures (after Costello and others 2000, WUCOLS).
pub fn need_per_week(plan: &Plan, area: &Area) -> WeekNeed {
    let factor = plant_factor(area.kind.plants(), area.water_use);
    let exposure = exposure_factor(area.exposure);
    let depth = |m: &MonthWater| {
        let left = m.et0 * (factor * exposure) - m.rain * EFFECTIVE_RAIN;
        left.max(Length::ZERO)
    };
    let climate = plan.watering.climate.as_ref();
    let peak = climate.and_then(|c| c.peak().filter(|m| depth(m) > Length::ZERO));
    let Some((climate, peak)) = climate.zip(peak) else {
        let et0 = plan.rules.peak_et;
        return WeekNeed {
            et0,
            rain: Length::ZERO,
            factor,
            exposure,
            depth: et0 * (factor * exposure),
            weeks: plan.rules.peak_weeks,
        };
    };
    let weeks = |m: &MonthWater| f64::from(DAYS_IN_MONTH[usize::from(m.month) - 1]) / 7.0;
    let year: f64 = climate.months.iter().map(|m| depth(m).m() * weeks(m)).sum();
    WeekNeed {
        et0: peak.et0,
        rain: peak.rain,
        factor,
        exposure,
        depth: depth(&peak),
        weeks: year / depth(&peak).m(),
    }
}
