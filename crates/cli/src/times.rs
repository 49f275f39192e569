//! How long, how often, when.

use crate::args::TimesArgs;
use crate::io::{BadInput, print, read};
use crate::report;
use anyhow::Result;
use fenlo_core::assess::assess;
use fenlo_core::plan::Date;
use fenlo_core::runtime::{Evennesses, months, peak_month, sheet, times};
use fenlo_formats::{read_climate, read_job, write_calendar, write_sheet};
use std::time::{SystemTime, UNIX_EPOCH};

/// Years that days are reckoned for.
const YEARS: std::ops::RangeInclusive<i32> = 1970..=2200;

pub fn run(args: &TimesArgs) -> Result<()> {
    let mut job = read_job(&read(&args.file)?).map_err(BadInput::from)?;
    let mut faults = Vec::new();
    if args.month.is_some_and(|m| !(1..=12).contains(&m)) {
        faults.push("--month: from 1 to 12".to_owned());
    }
    if args.year.is_some_and(|y| !YEARS.contains(&y)) {
        faults.push(format!("--year: from {} to {}", YEARS.start(), YEARS.end()));
    }
    if args.latitude.is_some_and(|l| !(-89.0..=89.0).contains(&l)) {
        faults.push("--latitude: enter -89 to 89 degrees, north positive".to_owned());
    }
    if let Some(file) = &args.climate {
        let bytes = read(file)?;
        let (climate, said) = read_climate(&String::from_utf8_lossy(&bytes), args.latitude);
        for fault in &said {
            let line = format!("{}, line {}: {}", file.display(), fault.line, fault.message);
            match climate {
                Some(_) => eprintln!("{line}"),
                None => faults.push(line),
            }
        }
        let edit = fenlo_core::plan::SetClimate { climate };
        match job.apply(&edit.into()) {
            Ok((next, _)) => job = next,
            Err(error) => faults.push(error.to_string()),
        }
    }
    if !faults.is_empty() {
        return Err(BadInput::from(faults.join("\n")));
    }
    let year = args.year.unwrap_or_else(this_year);
    let month = args.month.unwrap_or_else(|| peak_month(&job));
    let known = assess(&job);
    let even = Evennesses::of(&job, &known);
    if args.csv || args.ics {
        let sheet = sheet(&job, &known, &even, year);
        return print(&if args.csv { write_sheet(&job, &sheet) } else { write_calendar(&job, &sheet) });
    }
    let found = times(&job, &known, &even, month, year);
    print(&if args.json {
        report::times_json(&job, &found, &months(&job, &known, &even, year))
    } else {
        report::times_text(&job, &found)
    })
}

/// The year by this machine's clock.
pub fn this_year() -> i32 {
    let seconds = SystemTime::now().duration_since(UNIX_EPOCH).map_or(0, |d| d.as_secs());
    Date::after_1970(seconds).year()
}
