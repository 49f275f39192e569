//! Run times: the climate, the supplier's rules with the controller, single stations, the meter and its
//! money.

use super::{Change, Edit, EditError, Listed, Put, Remove, Subject};
use crate::climate::Climate;
use crate::plan::validate::Check;
use crate::plan::watering::MOST_WEEK;
use crate::plan::{ControllerUse, DayRule, Plan, StationWish, Usage, WateringRules};
use crate::units::{Length, Minutes, Volume};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};
use std::mem::replace;

/// Says what evaporates and what falls.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct SetClimate {
    /// By month; none: the house's peak week.
    pub climate: Option<Climate>,
}

impl Change for SetClimate {
    fn apply(&self, plan: &mut Plan) -> Result<Edit, EditError> {
        let climate = replace(&mut plan.watering.climate, self.climate.clone());
        Ok(Edit::SetClimate(Self { climate }))
    }
    fn subjects(&self) -> Vec<Subject> {
        vec![Subject::Climate]
    }
    fn words(&self) -> String {
        "Climate".into()
    }
}

/// What the water supplier allows and what the controller can do.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct SetWatering {
    /// What the water supplier allows.
    pub rules: WateringRules,
    /// What the controller can do.
    pub controller: ControllerUse,
}

impl Change for SetWatering {
    fn apply(&self, plan: &mut Plan) -> Result<Edit, EditError> {
        Ok(Edit::SetWatering(Self {
            rules: replace(&mut plan.watering.rules, self.rules.clone()),
            controller: replace(&mut plan.watering.controller, self.controller.clone()),
        }))
    }
    fn subjects(&self) -> Vec<Subject> {
        vec![Subject::Watering]
    }
    fn words(&self) -> String {
        "Watering window and days".into()
    }
}

/// The tariff and what the meter read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct SetUsage {
    /// All of it.
    pub usage: Usage,
}

impl Change for SetUsage {
    fn apply(&self, plan: &mut Plan) -> Result<Edit, EditError> {
        let usage = replace(&mut plan.watering.usage, self.usage.clone());
        Ok(Edit::SetUsage(Self { usage }))
    }
    fn subjects(&self) -> Vec<Subject> {
        vec![Subject::Usage]
    }
    fn words(&self) -> String {
        "Meter readings".into()
    }
}

impl Listed for StationWish {
    const WHAT: &'static str = "station";
    const KEY: &'static str = "station";
    const REMOVE_WORDS: &'static str = "Station adjustment reset";

    fn id(&self) -> &str {
        &self.valve
    }
    fn list<'p>(plan: &'p mut Plan, _: Option<&str>) -> Result<&'p mut Vec<Self>, EditError> {
        Ok(&mut plan.watering.stations)
    }
    fn subject(_: Option<&str>, id: &str) -> Subject {
        Subject::Station(id.to_owned())
    }
    fn put_words(&self) -> String {
        "Station".into()
    }
    fn put(put: Put<Self>) -> Edit {
        Edit::PutStation(put)
    }
    fn remove(remove: Remove<Self>) -> Edit {
        Edit::RemoveStation(remove)
    }
}

/// Takes a valve's wishes away with it; gives what puts them back.
pub(super) fn forget(plan: &mut Plan, valve: &str) -> Option<Edit> {
    let at = plan.watering.stations.iter().position(|s| s.valve == valve)?;
    let wish = plan.watering.stations.remove(at);
    Some(Edit::put_at(wish, Some(at)))
}

/// Readings of the meter and steps of the tariff that one job keeps.
const MOST_READINGS: usize = 2_000;
const MOST_STEPS: usize = 10;

impl Check<'_> {
    pub(in crate::plan) fn watering(&mut self, plan: &Plan) {
        let watering = &plan.watering;
        if let Some(climate) = &watering.climate {
            self.climate(climate);
        }
        self.watering_rules(&watering.rules);
        self.controller(&watering.controller);
        for (i, wish) in watering.stations.iter().enumerate() {
            self.station(&format!("watering.stations[{i}]"), wish, plan);
        }
        self.usage(&watering.usage);
    }

    fn climate(&mut self, climate: &Climate) {
        self.text("watering.climate.source", &climate.source, 200);
        let mut seen = [false; 12];
        for (i, month) in climate.months.iter().enumerate() {
            let at = format!("watering.climate.months[{i}]");
            match seen.get_mut(usize::from(month.month).wrapping_sub(1)) {
                None => self.fault(format!("{at}.month"), "must be from 1 to 12"),
                Some(true) => {
                    self.fault(format!("{at}.month"), format!("month {} appears twice", month.month))
                }
                Some(new) => *new = true,
            }
            for (field, depth) in [("et0", month.et0), ("rain", month.rain)] {
                if depth < Length::ZERO {
                    self.fault(format!("{at}.{field}"), "must be zero or more");
                } else if depth > MOST_WEEK && field == "et0" {
                    self.fault(
                        format!("{at}.{field}"),
                        "is over 6 in (150 mm) per week. Check the value and unit",
                    );
                } else if depth > MOST_WEEK * 4.0 {
                    self.fault(
                        format!("{at}.{field}"),
                        "is over 24 in (600 mm) a week: check the value and unit",
                    );
                }
            }
        }
        if climate.bare.iter().any(|m| !(1..=12).contains(m)) {
            self.fault("watering.climate.bare", "months are from 1 to 12");
        }
    }

    fn watering_rules(&mut self, rules: &WateringRules) {
        self.text("watering.rules.of", &rules.of, 200);
        if rules.opens == rules.closes {
            self.fault(
                "watering.rules.closes",
                "window start and end are equal. Enter a longer window, or 00:00 to 23:59 for all day",
            );
        }
        match &rules.days {
            DayRule::Weekdays { days } if days.is_empty() => {
                self.fault("watering.rules.days", "choose at least one day");
            }
            DayRule::Weekdays { days } if days.iter().any(|d| !(1..=7).contains(d)) => {
                self.fault("watering.rules.days", "days are 1 (Monday) to 7 (Sunday)");
            }
            DayRule::Every { days } if !(1..=31).contains(days) => {
                self.fault("watering.rules.days", "enter 1 to 31 days");
            }
            _ => {}
        }
        if rules.most_minutes == Some(0) {
            self.fault("watering.rules.most_minutes", "must be 1 or more");
        }
        if !(0.01..=0.5).contains(&rules.tune_step) {
            self.fault("watering.rules.tune_step", "must be from 1 to 50 percent");
        }
    }

    fn controller(&mut self, controller: &ControllerUse) {
        let mut within = |field: &str, n: u32, most: u32| {
            if !(1..=most).contains(&n) {
                self.fault(format!("watering.controller.{field}"), format!("must be from 1 to {most}"));
            }
        };
        within("at_once", controller.at_once, 8);
        within("programmes", controller.programmes.unwrap_or(1), 100);
        within("starts", controller.starts, 100);
        if controller.delay < Minutes::ZERO || controller.delay > Minutes::from_minutes(60.0) {
            self.fault("watering.controller.delay", "must be from 0 s to 60 min");
        }
        if let Some(flow) = controller.least_flow {
            self.flow("watering.controller.least_flow".into(), flow);
        }
    }

    fn station(&mut self, at: &str, wish: &StationWish, plan: &Plan) {
        if plan.valve(&wish.valve).is_none() {
            self.fault(format!("{at}.valve"), format!("there is no valve ‘{}’", wish.valve));
        }
        let again = plan.watering.stations.iter().filter(|s| s.valve == wish.valve).count();
        if again > 1 {
            self.fault(format!("{at}.valve"), format!("settings for ‘{}’ appear twice", wish.valve));
        }
        if wish.factor.is_some_and(|f| !(0.05..=1.5).contains(&f)) {
            self.fault(
                format!("{at}.factor"),
                "plant factor must be 0.05 to 1.5 (cool-season turf 0.8, shrubs 0.5)",
            );
        }
        if wish.density.is_some_and(|d| !(0.1..=1.5).contains(&d)) {
            self.fault(format!("{at}.density"), "planting density must be 0.1 to 1.5 (full cover 1)");
        }
        if wish.regime.is_some_and(|r| !(1..=3).contains(&r)) {
            self.fault(format!("{at}.regime"), "watering level must be 1, 2 or 3");
        }
        if !(1..=50).contains(&wish.controller) {
            self.fault(format!("{at}.controller"), "controller number must be 1 to 50");
        }
        if wish.start.is_some_and(|m| m >= crate::plan::watering::DAY) {
            self.fault(format!("{at}.start"), "start time must be within 24 h of the window start");
        }
        if wish.tuned.len() > 200 {
            self.fault(format!("{at}.tuned"), "at most 200 steps are kept");
        }
        for (i, tuning) in wish.tuned.iter().enumerate() {
            self.text(&format!("{at}.tuned[{i}].who"), &tuning.who, 100);
            self.text(&format!("{at}.tuned[{i}].when"), &tuning.when, 100);
        }
        let share = wish.tuned_share();
        if !(0.2..=3.0).contains(&share) {
            self.fault(
                format!("{at}.tuned"),
                "too many adjustments one way. Check heads, pressure and soil before changing run time \
                    further",
            );
        }
    }

    fn usage(&mut self, usage: &Usage) {
        if usage.tariff.len() > MOST_STEPS {
            self.fault("watering.usage.tariff", format!("at most {MOST_STEPS} steps"));
        }
        let mut below = Volume::ZERO;
        for (i, step) in usage.tariff.iter().enumerate() {
            let at = format!("watering.usage.tariff[{i}]");
            if step.price.is_sign_negative() || step.price > Decimal::from(1_000_000) {
                self.fault(format!("{at}.price"), "must be zero or more, and under a million");
            }
            match step.up_to {
                Some(up_to) if up_to <= below => {
                    self.fault(format!("{at}.up_to"), "each tier must end higher than the one before")
                }
                Some(up_to) => below = up_to,
                None if i + 1 < usage.tariff.len() => {
                    self.fault(format!("{at}.up_to"), "only the last tier can be open-ended");
                }
                None => {}
            }
        }
        if usage.meter_size.is_some_and(|size| size <= Volume::ZERO) {
            self.fault("watering.usage.meter_size", "must be more than zero");
        }
        if usage.readings.len() > MOST_READINGS {
            self.fault("watering.usage.readings", format!("at most {MOST_READINGS} readings"));
        }
        for (i, pair) in usage.readings.windows(2).enumerate() {
            if pair[1].on <= pair[0].on {
                self.fault(
                    format!("watering.usage.readings[{}].on", i + 1),
                    "readings must be in date order, one per day",
                );
            }
        }
        for (i, reading) in usage.readings.iter().enumerate() {
            let at = format!("watering.usage.readings[{i}].showed");
            if reading.showed < Volume::ZERO {
                self.fault(at, "must be zero or more");
            } else if usage.meter_size.is_some_and(|size| reading.showed >= size) {
                self.fault(at, "is above the meter's rollover value");
            }
        }
    }
}
