//! When and how much is watered: the climate, the water supplier's rules, the controller, and what somebody
//! wished or found at single stations. Minutes follow from these and from the solved zones.

use crate::climate::Climate;
use crate::units::{Flow, Length, Minutes, UnitSystem, Volume};
use rust_decimal::Decimal;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::fmt;
use std::str::FromStr;

/// All that run times rest on beside the zones.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Watering {
    /// Evaporation and rain; none: the house's peak week counts for every month.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub climate: Option<Climate>,
    /// What the water supplier allows.
    #[serde(default)]
    pub rules: WateringRules,
    /// What the controller can do.
    #[serde(default)]
    pub controller: ControllerUse,
    /// Wishes for single stations, by valve.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub stations: Vec<StationWish>,
    /// What water costs and what the meter read.
    #[serde(default)]
    pub usage: Usage,
}

impl Watering {
    /// As every job begins.
    pub fn is_blank(&self) -> bool {
        *self == Self::default()
    }
    /// What is wished of a valve's station.
    pub fn station(&self, valve: &str) -> Option<&StationWish> {
        self.stations.iter().find(|s| s.valve == valve)
    }
}

/// A time of day to the minute, written `22:00`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Clock(u16);

/// Minutes of a day.
pub const DAY: u32 = 24 * 60;

impl Clock {
    /// From hours (0 to 23) and minutes (0 to 59); anything over goes round.
    pub const fn at(hours: u16, minutes: u16) -> Self {
        Self((hours * 60 + minutes) % DAY as u16)
    }
    /// Minutes after midnight, 0 to 1439.
    pub fn minutes(self) -> u32 {
        u32::from(self.0)
    }
    /// So many minutes later, round midnight.
    #[must_use]
    pub fn later(self, minutes: u32) -> Self {
        Self(((self.minutes() + minutes) % DAY) as u16)
    }
    /// Minutes from here on until then; a whole day where both are the same.
    pub fn until(self, then: Self) -> u32 {
        match (then.minutes() + DAY - self.minutes()) % DAY {
            0 => DAY,
            minutes => minutes,
        }
    }
}

impl Clock {
    /// As people read it: `10:00 PM` in US units, else `22:00`.
    pub fn show(self, units: UnitSystem) -> String {
        if units.is_metric() {
            return self.to_string();
        }
        let (hours, minutes) = (self.0 / 60, self.0 % 60);
        let half = if hours < 12 { "AM" } else { "PM" };
        format!("{}:{minutes:02} {half}", (hours + 11) % 12 + 1)
    }

    /// As files write it, `22:00`: hours from 0 to 23.
    fn of_day(text: &str) -> Result<Self, ClockError> {
        let (hours, minutes) = text.split_once(':').ok_or(ClockError)?;
        match (digits(hours, 23), digits(minutes, 59)) {
            (Some(hours), Some(minutes)) => Ok(Self::at(hours, minutes)),
            _ => Err(ClockError),
        }
    }
}

/// One or two digits up to a limit.
fn digits(text: &str, most: u16) -> Option<u16> {
    let digits = (1..=2).contains(&text.len()) && text.bytes().all(|b| b.is_ascii_digit());
    text.parse().ok().filter(|n| digits && *n <= most)
}

impl fmt::Display for Clock {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{:02}:{:02}", self.0 / 60, self.0 % 60)
    }
}

/// What a time of day looks like.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("enter a time such as 22:00 or 10:00 PM")]
pub struct ClockError;

impl FromStr for Clock {
    type Err = ClockError;
    /// As people type it: `22:00`, `10:00 PM`, `10 pm`, `10:30 p.m.`.
    fn from_str(text: &str) -> Result<Self, ClockError> {
        let text = text.trim().to_ascii_lowercase().replace('.', "");
        let (text, afternoon) = match (text.strip_suffix("am"), text.strip_suffix("pm")) {
            (Some(text), _) => (text.trim(), false),
            (_, Some(text)) => (text.trim(), true),
            _ => return Self::of_day(&text),
        };
        let (hours, minutes) = text.split_once(':').unwrap_or((text, "0"));
        match (digits(hours, 12).filter(|h| *h > 0), digits(minutes, 59)) {
            (Some(hours), Some(minutes)) => {
                Ok(Self::at(hours % 12 + if afternoon { 12 } else { 0 }, minutes))
            }
            _ => Err(ClockError),
        }
    }
}

impl Serialize for Clock {
    fn serialize<S: serde::Serializer>(&self, s: S) -> Result<S::Ok, S::Error> {
        s.collect_str(self)
    }
}

impl<'de> Deserialize<'de> for Clock {
    fn deserialize<D: serde::Deserializer<'de>>(d: D) -> Result<Self, D::Error> {
        let text = String::deserialize(d)?;
        Self::of_day(text.trim()).map_err(serde::de::Error::custom)
    }
}

impl JsonSchema for Clock {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Clock".into()
    }
    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        schemars::json_schema!({
            "type": "string",
            "description": "a time of day",
            "pattern": "^([01]?[0-9]|2[0-3]):[0-5]?[0-9]$",
            "examples": ["22:00"]
        })
    }
}

/// What the water supplier allows at a place.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct WateringRules {
    /// Whose rules they are, in words.
    pub of: String,
    /// Watering may begin. A night counts as the day on which it begins.
    pub opens: Clock,
    /// Watering must have ended.
    pub closes: Clock,
    /// Hours of the day at which nothing may run, whatever the window says.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub closed: Option<ClosedHours>,
    /// Days on which watering may begin.
    pub days: DayRule,
    /// Drip may run on any day and beyond the window.
    pub drip_exempt: bool,
    /// Most minutes that a station may run on a day.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub most_minutes: Option<u32>,
    /// By how much ‘too wet’ or ‘too dry’ changes a station's minutes, as a share.
    pub tune_step: f64,
}

/// Hours at which nothing may run.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ClosedHours {
    /// From.
    pub from: Clock,
    /// To.
    pub to: Clock,
}

impl Default for WateringRules {
    fn default() -> Self {
        Self {
            of: String::new(),
            opens: Clock::at(22, 0),
            closes: Clock::at(6, 0),
            closed: None,
            days: DayRule::Any,
            drip_exempt: false,
            most_minutes: None,
            tune_step: 0.10,
        }
    }
}

/// Days on which watering may begin.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "on", rename_all = "kebab-case", deny_unknown_fields)]
pub enum DayRule {
    /// Every day.
    #[default]
    Any,
    /// Odd days of the month; not the 31st, so that no two days follow one another.
    Odd,
    /// Even days of the month.
    Even,
    /// Named days, 1 for Monday to 7 for Sunday.
    Weekdays {
        /// Which.
        days: Vec<u8>,
    },
    /// Every so many days, counted on over the end of the month.
    Every {
        /// How many.
        days: u32,
    },
}

/// What the controller can do.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct ControllerUse {
    /// Stations that it can run at once.
    pub at_once: u32,
    /// Programmes that it keeps, each with stations in a row; none: every station starts by itself.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub programmes: Option<u32>,
    /// Start times of one programme.
    pub starts: u32,
    /// It waits so long between two stations.
    pub delay: Minutes,
    /// A master valve opens with every station.
    pub master_valve: bool,
    /// The pump or well wants at least so much flow while it runs.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub least_flow: Option<Flow>,
}

impl Default for ControllerUse {
    fn default() -> Self {
        Self {
            at_once: 4,
            programmes: None,
            starts: 8,
            delay: Minutes::ZERO,
            master_valve: false,
            least_flow: None,
        }
    }
}

/// What somebody wishes of one station.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct StationWish {
    /// Its valve.
    pub valve: String,
    /// Plant factor, in place of that of its plants.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub factor: Option<f64>,
    /// How densely it is planted, 1 for ground that is covered.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub density: Option<f64>,
    /// Regime of a group of plants, in place of its plant factor: 1, 2 or 3 times.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub regime: Option<u8>,
    /// How often; none: by its plants.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rhythm: Option<Rhythm>,
    /// Planted not long ago: little every day until roots go down.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub new_planting: bool,
    /// Its shade comes from trees that lose their leaves.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub leafy_shade: bool,
    /// Which controller runs it, from 1.
    #[serde(default = "first", skip_serializing_if = "is_first")]
    pub controller: u8,
    /// Its first cycle begins so long after the window opens, whatever else would be better.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub start: Option<u32>,
    /// What was found after the start, the oldest first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tuned: Vec<Tuning>,
}

fn first() -> u8 {
    1
}
fn is_first(n: &u8) -> bool {
    *n == 1
}

impl StationWish {
    /// Nothing wished.
    pub fn new(valve: &str) -> Self {
        Self {
            valve: valve.to_owned(),
            factor: None,
            density: None,
            regime: None,
            rhythm: None,
            new_planting: false,
            leafy_shade: false,
            controller: 1,
            start: None,
            tuned: Vec::new(),
        }
    }
    /// What all that was found after the start comes to, as a share of the computed minutes.
    pub fn tuned_share(&self) -> f64 {
        self.tuned.iter().map(|t| t.share).product()
    }
}

/// How often a station runs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Rhythm {
    /// A little every day.
    Often,
    /// As much as roots hold, as seldom as that lasts.
    Deep,
}

/// One finding after the start.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Tuning {
    /// When, as typed.
    #[serde(default)]
    pub when: String,
    /// Who found it.
    #[serde(default)]
    pub who: String,
    /// What was found.
    pub found: GroundState,
    /// What the minutes were multiplied with for it.
    pub share: f64,
    /// Days that it rests.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rests: Option<u32>,
}

/// What was found at a station.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum GroundState {
    /// Too wet.
    TooWet,
    /// Too dry.
    TooDry,
    /// Rain was read in a gauge: the station rests for some days; its minutes stay as they are.
    Rained,
}

/// What water costs and what a hand-read meter showed.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Usage {
    /// Steps of the tariff, the cheapest first; none: water is not priced.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub tariff: Vec<TariffStep>,
    /// The meter goes back to zero after so much; none: it never does.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub meter_size: Option<Volume>,
    /// Readings in the order of their dates.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub readings: Vec<MeterReading>,
}

/// A step of a tariff by the month.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TariffStep {
    /// Water of a month up to which it counts; none: without end.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub up_to: Option<Volume>,
    /// Price of 1000 litres.
    #[schemars(with = "String")]
    pub price: Decimal,
}

/// A meter read by hand.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct MeterReading {
    /// The day, `2026-07-03`.
    #[schemars(with = "String")]
    pub on: Date,
    /// What it showed.
    pub showed: Volume,
}

/// A day of the calendar, written `2026-07-03`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Date(pub chrono::NaiveDate);

/// What a day looks like.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("enter a date such as 2026-07-03")]
pub struct DateError;

impl FromStr for Date {
    type Err = DateError;
    fn from_str(text: &str) -> Result<Self, DateError> {
        let day = chrono::NaiveDate::parse_from_str(text.trim(), "%Y-%m-%d");
        day.map(Self).map_err(|_| DateError)
    }
}

impl Date {
    /// From 1.
    pub fn day_of_month(self) -> u32 {
        chrono::Datelike::day(&self.0)
    }
    /// From 1.
    pub fn month(self) -> u8 {
        chrono::Datelike::month(&self.0) as u8
    }
    /// From 0 for Monday.
    pub fn weekday(self) -> usize {
        chrono::Datelike::weekday(&self.0).num_days_from_monday() as usize
    }
    /// A day of a month, both from 1; none where there is no such day.
    pub fn of(year: i32, month: u8, day: u32) -> Option<Self> {
        chrono::NaiveDate::from_ymd_opt(year, u32::from(month), day).map(Self)
    }
    /// The day that lies so many seconds after the beginning of 1970, by the clock of Greenwich.
    pub fn after_1970(seconds: u64) -> Self {
        let days = chrono::Days::new(seconds / 86_400);
        Self(chrono::NaiveDate::default().checked_add_days(days).unwrap_or_default())
    }
    /// So many days later.
    pub fn days_later(self, days: u32) -> Self {
        let day = self.0.checked_add_days(chrono::Days::new(u64::from(days)));
        Self(day.unwrap_or(self.0))
    }
    /// Its year.
    pub fn year(self) -> i32 {
        chrono::Datelike::year(&self.0)
    }
}

impl fmt::Display for Date {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.0.fmt(f)
    }
}

impl Serialize for Date {
    fn serialize<S: serde::Serializer>(&self, s: S) -> Result<S::Ok, S::Error> {
        s.collect_str(self)
    }
}

impl<'de> Deserialize<'de> for Date {
    fn deserialize<D: serde::Deserializer<'de>>(d: D) -> Result<Self, D::Error> {
        let text = String::deserialize(d)?;
        text.parse().map_err(serde::de::Error::custom)
    }
}

/// More than this never evaporates in a week.
pub(crate) const MOST_WEEK: Length = Length::from_m(0.15);
