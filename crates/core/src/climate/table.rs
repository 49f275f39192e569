//! Stations that ship with the program: made up, for trying it and as a guess until there are figures of the
//! place.

use super::{Climate, DAYS_IN_MONTH, MonthWater, extraterrestrial_radiation, hargreaves_samani};
use crate::units::Length;
use serde::Deserialize;
use std::sync::LazyLock;

/// A station with its months.
#[derive(Debug, Clone, PartialEq)]
pub struct Station {
    /// Its name.
    pub name: String,
    /// Degrees, north positive.
    pub latitude: f64,
    /// Metres over the sea.
    pub elevation: f64,
    /// Mean highest temperature by month, °C.
    pub high: Vec<f64>,
    /// Mean lowest temperature by month, °C.
    pub low: Vec<f64>,
    /// Rain by month, mm.
    pub rain: Vec<f64>,
}

#[derive(Deserialize)]
struct Row {
    station: String,
    latitude: f64,
    elevation_m: f64,
    month: usize,
    high_c: f64,
    low_c: f64,
    rain_mm: f64,
}

/// All of them, in the order of the table.
pub fn stations() -> &'static [Station] {
    static STATIONS: LazyLock<Vec<Station>> = LazyLock::new(|| {
        let mut all: Vec<Station> = Vec::new();
        let mut reader = csv::Reader::from_reader(&include_bytes!("data/stations.csv")[..]);
        for row in reader.deserialize::<Row>() {
            let row = row.expect("the built-in table of stations is sound");
            if all.last().is_none_or(|s| s.name != row.station) {
                all.push(Station {
                    name: row.station.clone(),
                    latitude: row.latitude,
                    elevation: row.elevation_m,
                    high: Vec::new(),
                    low: Vec::new(),
                    rain: Vec::new(),
                });
            }
            let station = all.last_mut().expect("one was just put there");
            assert_eq!(station.high.len() + 1, row.month, "months stand in order");
            station.high.push(row.high_c);
            station.low.push(row.low_c);
            station.rain.push(row.rain_mm);
        }
        all
    });
    &STATIONS
}

impl Station {
    /// Its evaporation by Hargreaves and Samani (1985) at the middle of each month, and its rain.
    pub fn climate(&self) -> Climate {
        let month = |m: usize| {
            let day = middle_of(m);
            let radiation = extraterrestrial_radiation(self.latitude, day);
            let et0 = hargreaves_samani(self.high[m], self.low[m], radiation);
            let weeks = f64::from(DAYS_IN_MONTH[m]) / 7.0;
            MonthWater {
                month: m as u8 + 1,
                et0: Length::from_m(et0 * 7.0 / 1000.0),
                rain: Length::from_m(self.rain[m] / weeks / 1000.0),
            }
        };
        Climate {
            source: format!("{} (built-in table)", self.name),
            months: (0..12).map(month).collect(),
            bare: if self.latitude > 0.0 { vec![1, 2, 3, 11, 12] } else { vec![5, 6, 7, 8, 9] },
        }
    }
}

/// Day of the year in the middle of a month, from 0.
fn middle_of(month: usize) -> u32 {
    DAYS_IN_MONTH[..month].iter().sum::<u32>() + 15
}
