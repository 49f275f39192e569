//! Evaporation and rain as CSV, by the month or by the day; headers say the units.
//!
//! ```csv
//! month,et0 in/week,rain in/month
//! 7,1.90,0.4
//! ```
//!
//! A column `date` (2026-07-03) makes it days, `month` (7, or 2026-07) months. Units are `mm` or `in`, by the
//! `day`, `week` or `month`; without one they count for the row's own time. In place of `et0` a file of days
//! or months may have `high` and `low` temperatures (`c` or `f`): evaporation is then that of Hargreaves and
//! Samani (1985) at the latitude given.

use crate::chart::ChartFault;
use fenlo_core::climate::{
    Climate, DAYS_IN_MONTH, MonthWater, extraterrestrial_radiation, hargreaves_samani,
};
use fenlo_core::plan::Date;
use fenlo_core::units::Length;

/// Largest file that is read, bytes.
pub const MOST_CLIMATE: usize = 2_000_000;
const MOST_ROWS: usize = 50_000;
const MOST_FAULTS: usize = 50;
/// Days of a month that may be missing before its mean is told to be a guess.
const GAPS: u32 = 6;

/// What was read, and what of it could not be used or is to be known.
pub fn read_climate(text: &str, latitude: Option<f64>) -> (Option<Climate>, Vec<ChartFault>) {
    let mut faults = Vec::new();
    let fault = |line: usize, message: String| ChartFault { line, message };
    if text.len() > MOST_CLIMATE {
        return (None, vec![fault(1, format!("the file is over {} kB", MOST_CLIMATE / 1000))]);
    }
    let text = text.trim_start_matches('\u{feff}');
    let first = text.lines().next().unwrap_or_default();
    let semicolons = first.matches(';').count() > first.matches(',').count();
    let tabs = first.contains('\t');
    let mut reader = csv::ReaderBuilder::new()
        .delimiter(if tabs {
            b'\t'
        } else if semicolons {
            b';'
        } else {
            b','
        })
        .flexible(true)
        .trim(csv::Trim::All)
        .from_reader(text.as_bytes());
    let header: Vec<String> = match reader.headers() {
        Ok(header) => header.iter().map(str::to_lowercase).collect(),
        Err(_) => Vec::new(),
    };
    let columns = match Columns::of(&header, latitude) {
        Ok(columns) => columns,
        Err(message) => return (None, vec![fault(1, message)]),
    };
    let mut sums = [Sum::default(); 12];
    for (i, record) in reader.records().enumerate() {
        let line = i + 2;
        if i >= MOST_ROWS || faults.len() >= MOST_FAULTS {
            faults.push(fault(line, "the rest was not read".into()));
            break;
        }
        let Ok(record) = record else {
            faults.push(fault(line, "is not text in UTF-8".into()));
            continue;
        };
        if record.iter().all(str::is_empty) {
            continue;
        }
        let cell = |at: usize| record.get(at).unwrap_or_default();
        match columns.row(&cell, semicolons) {
            Ok(row) => sums[row.month].add(&row),
            Err(message) => faults.push(fault(line, message)),
        }
    }
    let mut months = Vec::new();
    for (m, sum) in sums.iter().enumerate() {
        if sum.days == 0 {
            continue;
        }
        let days = DAYS_IN_MONTH[m];
        let seen = sum.days % days;
        if columns.daily && seen != 0 && days - seen > GAPS && seen < days {
            faults.push(fault(
                1,
                format!("month {} has {seen} of {days} days; its average is an estimate", m + 1),
            ));
        }
        let weekly = |depth: f64| Length::from_m(depth / f64::from(sum.days) * 7.0 / 1000.0);
        months.push(MonthWater { month: m as u8 + 1, et0: weekly(sum.et0), rain: weekly(sum.rain) });
    }
    if months.is_empty() {
        faults.push(fault(1, "no month could be read".into()));
        return (None, faults);
    }
    let climate = Climate { source: "file".into(), months, bare: Vec::new() };
    (Some(climate), faults)
}

/// Depths of a month, mm, over so many days.
#[derive(Clone, Copy, Default)]
struct Sum {
    et0: f64,
    rain: f64,
    days: u32,
}

impl Sum {
    fn add(&mut self, row: &Row) {
        self.et0 += row.et0;
        self.rain += row.rain;
        self.days += row.days;
    }
}

/// A row: month from 0, its depths in mm over its days.
struct Row {
    month: usize,
    et0: f64,
    rain: f64,
    days: u32,
}

/// A depth's column: its place, mm in one of it, days that it is for (0: the row's own).
#[derive(Clone, Copy)]
struct Depth {
    at: usize,
    mm: f64,
    per: f64,
}

#[derive(Clone, Copy)]
enum Evaporation {
    Depth(Depth),
    Temperatures { high: usize, low: usize, fahrenheit: bool, latitude: f64 },
}

struct Columns {
    daily: bool,
    when: usize,
    et0: Evaporation,
    rain: Option<Depth>,
}

impl Columns {
    fn of(header: &[String], latitude: Option<f64>) -> Result<Self, String> {
        let find = |names: &[&str]| {
            header
                .iter()
                .position(|h| names.iter().any(|n| h.split(|c: char| !c.is_alphanumeric()).any(|w| w == *n)))
        };
        let date = header.iter().position(|h| h == "date" || h == "day");
        let when = date
            .or_else(|| header.iter().position(|h| h == "month"))
            .ok_or("the header needs a column ‘month’ (7) or ‘date’ (2026-07-03)")?;
        let et0 = find(&["et0", "eto", "et"]).map(|at| depth(at, &header[at])).transpose()?;
        let rain = find(&["rain", "precipitation"]).map(|at| depth(at, &header[at])).transpose()?;
        let et0 = match (et0, find(&["high", "tmax"]), find(&["low", "tmin"])) {
            (Some(depth), _, _) => Evaporation::Depth(depth),
            (None, Some(high), Some(low)) => Evaporation::Temperatures {
                high,
                low,
                fahrenheit: header[high].ends_with(['f']) || header[high].contains("fahrenheit"),
                latitude: latitude
                    .ok_or("temperatures need the latitude of the place, in degrees, north positive")?,
            },
            _ => {
                return Err(
                    "the header needs a column ‘et0’ with its unit (‘et0 in/week’, ‘et0 mm/day’), or ‘high’ \
                        and \
                     ‘low’ temperatures"
                        .into(),
                );
            }
        };
        Ok(Self { daily: date.is_some(), when, et0, rain })
    }

    fn row<'c>(&self, cell: &dyn Fn(usize) -> &'c str, comma: bool) -> Result<Row, String> {
        let when = cell(self.when);
        let (month, days, day_of_year) = if self.daily {
            let date: Date = when.parse().map_err(|e| format!("‘{when}’: {e}"))?;
            use chrono::Datelike;
            (date.0.month0() as usize, 1, date.0.ordinal())
        } else {
            let last = when.rsplit('-').next().unwrap_or(when);
            let month: usize = last.parse().map_err(|_| format!("‘{when}’ is not a month from 1 to 12"))?;
            if !(1..=12).contains(&month) {
                return Err(format!("‘{when}’ is not a month from 1 to 12"));
            }
            let middle = DAYS_IN_MONTH[..month - 1].iter().sum::<u32>() + 15;
            (month - 1, DAYS_IN_MONTH[month - 1], middle)
        };
        let number = |at: usize, name: &str| -> Result<f64, String> {
            let text = cell(at);
            let plain = if comma { text.replace(',', ".") } else { text.to_owned() };
            plain
                .parse::<f64>()
                .ok()
                .filter(|n| n.is_finite())
                .ok_or_else(|| format!("{name} ‘{text}’ is not a number"))
        };
        let deep = |depth: Depth, name: &str| {
            let value = number(depth.at, name)?;
            if value < 0.0 {
                return Err(format!("{name} {value} is under zero"));
            }
            let per = if depth.per == 0.0 { f64::from(days) } else { depth.per };
            let mm = value * depth.mm * f64::from(days) / per;
            if mm / f64::from(days) > 100.0 && name != "rain" || mm / f64::from(days) > 600.0 {
                return Err(format!("{name} {value} looks wrong. Check the value and unit"));
            }
            Ok(mm)
        };
        let et0 = match self.et0 {
            Evaporation::Depth(depth) => deep(depth, "et0")?,
            Evaporation::Temperatures { high, low, fahrenheit, latitude } => {
                let celsius = |t: f64| if fahrenheit { (t - 32.0) / 1.8 } else { t };
                let (high, low) = (celsius(number(high, "high")?), celsius(number(low, "low")?));
                if low > high || !(-60.0..=60.0).contains(&high) || !(-60.0..=60.0).contains(&low) {
                    return Err(format!("{low:.0} to {high:.0} °C looks wrong. Check the values and unit"));
                }
                let radiation = extraterrestrial_radiation(latitude, day_of_year);
                hargreaves_samani(high, low, radiation) * f64::from(days)
            }
        };
        let rain = self.rain.filter(|r| !cell(r.at).is_empty());
        Ok(Row { month, et0, rain: rain.map_or(Ok(0.0), |r| deep(r, "rain"))?, days })
    }
}

fn depth(at: usize, header: &str) -> Result<Depth, String> {
    let words: Vec<&str> = header.split(|c: char| !c.is_alphanumeric()).collect();
    let has = |w: &str| words.contains(&w);
    let mm = if has("mm") {
        1.0
    } else if has("in") || has("inch") || has("inches") {
        25.4
    } else {
        return Err(format!("‘{header}’ needs its unit: mm or in, by the day, week or month"));
    };
    let per = if has("day") || has("d") {
        1.0
    } else if has("week") {
        7.0
    } else {
        0.0
    };
    Ok(Depth { at, mm, per })
}
