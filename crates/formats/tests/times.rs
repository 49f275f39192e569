//! Evaporation in; the controller sheet and the season out.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::assess::assess;
use fenlo_core::climate::{extraterrestrial_radiation, hargreaves_samani};
use fenlo_core::job::Job;
use fenlo_core::runtime::{Evennesses, Sheet, sheet};
use fenlo_formats::{read_climate, read_job, write_calendar, write_sheet};

fn near(found: f64, wanted: f64) {
    assert!((found - wanted).abs() < 1e-6, "{found}, wanted {wanted}");
}

fn house() -> (Job, Sheet) {
    let mut job = read_job(include_bytes!("../../../fixtures/corner-plot.json")).unwrap();
    let (climate, faults) = read_climate("month,et0 in/week,rain in/week\n7,1.9,0\n8,1.7,0\n1,0.2,1\n", None);
    assert!(faults.is_empty(), "{faults:?}");
    let edit = fenlo_core::plan::SetClimate { climate };
    job = job.apply(&edit.into()).unwrap().0;
    let mut first = job.valves[0].clone();
    first.name = "=Front; \"north, \\ lawn\"".into();
    job = job.apply(&fenlo_core::plan::Edit::put(first)).unwrap().0;
    let known = assess(&job);
    let even = Evennesses::of(&job, &known);
    let sheet = sheet(&job, &known, &even, 2026);
    (job, sheet)
}

#[test]
fn months_and_days_are_read_in_the_units_of_their_header() {
    let (climate, faults) = read_climate("Month;ET0 mm/day;Rain mm/month\n7;5,2;31\n8;4,0;\n", None);
    assert!(faults.is_empty(), "{faults:?}");
    let climate = climate.unwrap();
    near(climate.month(7).unwrap().et0.mm(), 36.4);
    near(climate.month(7).unwrap().rain.mm(), 7.0);
    near(climate.month(8).unwrap().rain.mm(), 0.0);
    // A unit without a time is for the row's own: here a day.
    let days: String = (1..=31).map(|d| format!("2025-07-{d:02},0.25,0.1\n")).collect();
    let (climate, faults) = read_climate(&format!("date,et0 in,rain in\n{days}"), None);
    assert!(faults.is_empty(), "{faults:?}");
    near(climate.as_ref().unwrap().month(7).unwrap().et0.inches(), 1.75);
    near(climate.unwrap().month(7).unwrap().rain.inches(), 0.7);
}

#[test]
fn temperatures_become_evaporation_where_the_latitude_is_known() {
    let text = "date,high c,low c,rain mm\n2025-07-04,30,14,2\n";
    let (none, faults) = read_climate(text, None);
    assert!(none.is_none() && faults[0].message.contains("latitude"), "{faults:?}");
    let (climate, faults) = read_climate(text, Some(44.6));
    let day = hargreaves_samani(30.0, 14.0, extraterrestrial_radiation(44.6, 185));
    near(climate.unwrap().month(7).unwrap().et0.mm(), day * 7.0);
    assert!(faults[0].message.contains("1 of 31 days"), "a gap is told: {faults:?}");
    let fahrenheit = "date,high f,low f\n2025-07-04,86,57.2\n";
    let (same, _) = read_climate(fahrenheit, Some(44.6));
    near(same.unwrap().month(7).unwrap().et0.mm(), day * 7.0);
}

#[test]
fn what_can_t_be_read_is_told_with_its_line() {
    for (text, says) in [
        ("", "‘month’"),
        ("month,rain mm\n7,3\n", "‘et0’"),
        ("month,et0\n7,3\n", "needs its unit"),
        ("month,et0 mm\n", "no month could be read"),
        ("month,et0 mm/day\n13,3\n", "‘13’ is not a month"),
        ("month,et0 mm/day\n7,much\n", "‘much’ is not a number"),
        ("month,et0 mm/day\n7,-1\n", "under zero"),
        ("month,et0 mm/day\n7,5000\n", "Check the value"),
        ("date,et0 mm\n2026-02-30,3\n", "2026-02-30"),
    ] {
        let (_, faults) = read_climate(text, None);
        let said: Vec<&str> = faults.iter().map(|f| f.message.as_str()).collect();
        assert!(said.iter().any(|s| s.contains(says)), "{text}: {said:?}");
    }
    let (some, faults) = read_climate("month,et0 mm/day\n7,5\n8,x\n", None);
    assert_eq!((faults.len(), faults[0].line), (1, 3));
    assert_eq!(some.unwrap().months.len(), 1, "the rest is read");
}

#[test]
fn the_season_is_a_calendar_that_others_read() {
    let (job, sheet) = house();
    let text = write_calendar(&job, &sheet);
    assert!(text.starts_with("BEGIN:VCALENDAR\r\n") && text.ends_with("END:VCALENDAR\r\n"));
    assert!(!text.replace("\r\n", "").contains(['\n', '\r']));
    assert!(text.split("\r\n").all(|line| line.len() <= 75), "lines are folded");
    let unfolded = text.replace("\r\n ", "");
    let begins = unfolded.matches("BEGIN:VEVENT").count();
    assert_eq!(begins, unfolded.matches("END:VEVENT").count());
    // Every second day at the most in July and August, and in the ten months without figures by the peak
    // week.
    let nights = unfolded.lines().filter(|l| l.starts_with("SUMMARY:Watering")).count();
    assert!((150..=365).contains(&nights), "{nights}");
    assert!(unfolded.contains("SUMMARY:Spring start-up"));
    assert!(
        unfolded.contains(r#"1 =Front\; "north\, \\ lawn""#),
        "what has a meaning in a calendar is escaped"
    );
    let ids: Vec<&str> = unfolded.lines().filter(|l| l.starts_with("UID:")).collect();
    let mut once = ids.clone();
    once.sort_unstable();
    once.dedup();
    assert_eq!(ids.len(), once.len(), "no event twice");
    assert_eq!(write_calendar(&job, &sheet), text);
}

#[test]
fn the_sheet_is_read_back_with_a_row_a_station_and_runs_no_formula() {
    let (job, sheet) = house();
    let text = write_sheet(&job, &sheet);
    let mut reader = csv::Reader::from_reader(text.as_bytes());
    assert_eq!(reader.headers().unwrap().len(), 7 + 24);
    let rows: Vec<csv::StringRecord> = reader.records().collect::<Result<_, _>>().unwrap();
    assert_eq!(rows.len(), job.valves.len() + 1);
    assert!(rows[0][3].starts_with("'=Front"), "{}", &rows[0][3]);
    let july = &sheet.months[6].stations[0].cycles;
    assert_eq!(&rows[0][19], format!("{}x{}", july.count, july.minutes));
    assert_eq!(&rows[0][20], "2.00", "minutes stand beside their days");
    assert_eq!((&rows[0][7], &rows[0][8]), ("0x0", ""), "January wants nothing");
    let adjust = rows.last().unwrap();
    assert_eq!((&adjust[3], &adjust[19], &adjust[7]), ("seasonal adjust %", "100", "0"));
}
