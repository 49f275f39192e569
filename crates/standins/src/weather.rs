//! A simulated weather station: days of a year at one of the built-in stations, by a seed.

use chrono::{Datelike, Days, NaiveDate};
use fenlo_core::climate::{Air, DAYS_IN_MONTH, Station, Weather, from_sunshine, penman_monteith};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use std::fmt::Write;

/// One day as the station logs it.
#[derive(Debug, Clone, PartialEq)]
pub struct Day {
    /// The day.
    pub date: NaiveDate,
    /// Highest temperature, °C.
    pub high: f64,
    /// Lowest temperature, °C.
    pub low: f64,
    /// Mean relative humidity, percent.
    pub humidity: f64,
    /// Wind at 2 m, m/s.
    pub wind: f64,
    /// Hours of sunshine.
    pub sun: f64,
    /// Rain, mm.
    pub rain: f64,
    /// Reference evapotranspiration by FAO-56 Penman-Monteith, mm.
    pub et0: f64,
}

/// Share of days on which it rains where a month has 60 mm.
const WET_DAYS: f64 = 0.30;

/// Every day of a year. Temperatures go round the month's means in spells, rain falls on some days and makes
/// them cloudy and cool; months come out near the station's table.
pub fn days(station: &Station, year: i32, seed: u64) -> Vec<Day> {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    let Some(first) = NaiveDate::from_ymd_opt(year, 1, 1) else {
        return Vec::new();
    };
    let mut spell = 0.0;
    (0..366)
        .filter_map(|n| first.checked_add_days(Days::new(n)))
        .take_while(|d| d.year() == year)
        .map(|date| {
            let month = date.month0() as usize;
            let mut even = || rng.random::<f64>() * 2.0 - 1.0;
            spell = 0.7 * spell + 2.2 * even();
            let wet = (WET_DAYS * (station.rain[month] / 60.0).sqrt()).min(0.75);
            let rains = (even() + 1.0) / 2.0 < wet;
            // Gamma-like: many small rains, some large; its mean makes up the month's sum.
            let mean = station.rain[month] / f64::from(DAYS_IN_MONTH[month]) / wet.max(0.01);
            let amount = -((even() + 1.0) / 2.0).max(1e-6).ln() * mean;
            let cool = if rains { 2.0 } else { 0.0 };
            let high = station.high[month] + spell + 1.2 * even() - cool + 2.0 * wet;
            let low = (station.low[month] + 0.6 * spell + even() + 0.4 * cool).min(high - 1.5);
            let longest = 24.0 / std::f64::consts::PI
                * (-(station.latitude.to_radians().tan()
                    * (0.409
                        * (2.0 * std::f64::consts::PI * f64::from(date.ordinal()) / 365.0 - 1.39).sin())
                    .tan()))
                .clamp(-1.0, 1.0)
                .acos();
            let clear = if rains { 0.15 } else { 0.72 } + 0.2 * even();
            let sun = longest * clear.clamp(0.0, 1.0);
            let humidity = (if rains { 82.0 } else { 60.0 } + 10.0 * even()).clamp(25.0, 100.0);
            let wind = (2.0 + 1.2 * even()).max(0.3);
            let weather = Weather {
                high,
                low,
                air: Air::Humidity { most: (humidity + 15.0).min(100.0), least: (humidity - 15.0).max(10.0) },
                wind,
                sun: from_sunshine(station.latitude, date.ordinal(), sun),
                soil_heat: 0.0,
            };
            Day {
                date,
                high,
                low,
                humidity,
                wind,
                sun,
                rain: if rains { amount } else { 0.0 },
                et0: penman_monteith(&weather, station.latitude, station.elevation, date.ordinal()),
            }
        })
        .collect()
}

/// The log as CSV, as `fenlo times --climate` and the page of run times read it.
pub fn csv(days: &[Day]) -> String {
    let mut out = String::from("date,et0 mm,rain mm,high c,low c,humidity %,wind m/s,sun h\n");
    for d in days {
        let _ = writeln!(
            out,
            "{},{:.2},{:.1},{:.1},{:.1},{:.0},{:.1},{:.1}",
            d.date, d.et0, d.rain, d.high, d.low, d.humidity, d.wind, d.sun
        );
    }
    out
}
