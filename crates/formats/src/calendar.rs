//! A season's watering and care as an iCalendar file (RFC 5545), in the clock of the place ("floating"
//! times): a controller goes by its own clock too, so nothing shifts with summer time.

use fenlo_core::job::Job;
use fenlo_core::plan::Date;
use fenlo_core::runtime::{Sheet, SheetMonth};
use std::collections::BTreeMap;
use std::fmt::Write;

/// Writes every night of the year on which something runs, and the visits of care.
///
/// Starts are those of the sheet's night; a month that wants less runs shorter at the same starts.
pub fn write_calendar(job: &Job, sheet: &Sheet) -> String {
    let mut out = String::new();
    for line in ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Fenlo//run times//EN", "CALSCALE:GREGORIAN"] {
        put(&mut out, line);
    }
    for month in &sheet.months {
        for (day, stations) in nights(month) {
            night(&mut out, job, sheet, month, day, &stations);
        }
    }
    for (day, name, text) in visits(sheet) {
        event(&mut out, job, &format!("care-{day}-{}", name.len()), name, &text, |out| {
            put(out, &format!("DTSTART;VALUE=DATE:{}", day.0.format("%Y%m%d")));
        });
    }
    put(&mut out, "END:VCALENDAR");
    out
}

fn nights(month: &SheetMonth) -> BTreeMap<Date, Vec<usize>> {
    let mut all: BTreeMap<Date, Vec<usize>> = BTreeMap::new();
    for (place, station) in month.stations.iter().enumerate().filter(|(_, s)| s.runs() && !s.later) {
        for day in station.days.iter().flat_map(|d| &d.in_month) {
            all.entry(*day).or_default().push(place);
        }
    }
    all
}

fn night(out: &mut String, job: &Job, sheet: &Sheet, month: &SheetMonth, day: Date, stations: &[usize]) {
    let window = &sheet.peak.night.window;
    let (mut first, mut last) = (u32::MAX, 0);
    let mut lines = Vec::new();
    for place in stations {
        let station = &month.stations[*place];
        let cycles = station.cycles;
        // A station that the peak's night does not have begins when the window opens.
        let starts: Vec<u32> = sheet
            .programme(*place)
            .map_or_else(|| vec![0], |_| starts_of(sheet, *place))
            .into_iter()
            .take(cycles.count as usize)
            .collect();
        for start in &starts {
            first = first.min(*start);
            last = last.max(start + cycles.minutes);
        }
        let clocks: Vec<String> = starts.iter().map(|s| window.clock(*s).show(job.units)).collect();
        lines.push(format!(
            "{} {}: {} min at {}",
            station.number,
            station.name,
            cycles.minutes,
            clocks.join(", ")
        ));
    }
    if first > last {
        return;
    }
    let stamp = |minute: u32| {
        let minutes = i64::from(window.opens.minutes() + minute);
        let at = day.0.and_hms_opt(0, 0, 0).unwrap_or_default() + chrono::TimeDelta::minutes(minutes);
        at.format("%Y%m%dT%H%M%S").to_string()
    };
    let name = format!("Watering: {} stations", lines.len());
    event(out, job, &format!("night-{day}"), &name, &lines.join("\n"), |out| {
        put(out, &format!("DTSTART:{}", stamp(first)));
        put(out, &format!("DTEND:{}", stamp(last)));
    });
}

fn starts_of(sheet: &Sheet, station: usize) -> Vec<u32> {
    let runs = sheet.peak.night.runs.iter().filter(|r| r.station == station);
    runs.map(|r| r.start).collect()
}

/// Visits of care: start-up before the first month that wants water, filters each month of the season, a
/// look at the peak, the shut-down after the last.
fn visits(sheet: &Sheet) -> Vec<(Date, &'static str, String)> {
    let year = sheet.peak.year;
    let day = |month: u8, day: u32| chrono::NaiveDate::from_ymd_opt(year, u32::from(month), day).map(Date);
    let wet: Vec<u8> =
        sheet.months.iter().filter(|m| m.stations.iter().any(|s| s.runs())).map(|m| m.month).collect();
    let (Some(first), Some(last)) = (wet.first(), wet.last()) else {
        return Vec::new();
    };
    let mut all = Vec::new();
    let mut visit = |at: Option<Date>, name: &'static str, text: &str| {
        all.extend(at.map(|at| (at, name, text.to_owned())));
    };
    visit(
        day(*first, 1),
        "Spring start-up",
        "Open the water slowly, flush, run every station by hand. Have the backflow preventer tested where \
            code requires it.",
    );
    for month in &wet {
        visit(
            day(*month, 15),
            "Filters and heads",
            "Clean filters. Run every station and look for tilted heads, clogged nozzles and wet spots.",
        );
    }
    visit(
        day(sheet.peak.month, 2),
        "Set peak-month run times",
        "Enter the run times from the schedule. Check for wet and dry spots after two weeks.",
    );
    if wet.len() < 12 {
        visit(
            day(*last, 28),
            "Shut-down",
            "Shut off the supply. Where it freezes, drain or blow out per procedure, with eye protection.",
        );
    }
    all.sort_by_key(|v| v.0);
    all
}

fn event(out: &mut String, job: &Job, id: &str, name: &str, text: &str, when: impl FnOnce(&mut String)) {
    put(out, "BEGIN:VEVENT");
    put(out, &format!("UID:{id}@fenlo.invalid"));
    // The file is the same whenever it is made: the stamp is that of the year's beginning.
    let year = id.split('-').nth(1).unwrap_or("2000");
    put(out, &format!("DTSTAMP:{year}0101T000000Z"));
    when(out);
    put(out, &format!("SUMMARY:{}", escaped(name)));
    put(out, &format!("DESCRIPTION:{}", escaped(text)));
    let place = if job.location.is_empty() { &job.name } else { &job.location };
    put(out, &format!("LOCATION:{}", escaped(place)));
    put(out, "END:VEVENT");
}

fn escaped(text: &str) -> String {
    let mut out = String::new();
    for c in text.chars() {
        match c {
            '\\' | ';' | ',' => {
                out.push('\\');
                out.push(c);
            }
            '\n' => out.push_str("\\n"),
            c if c.is_control() => {}
            c => out.push(c),
        }
    }
    out
}

/// A line of at most 75 bytes; what is longer goes on in the next, after a space.
fn put(out: &mut String, line: &str) {
    let mut used = 0;
    for c in line.chars() {
        if used + c.len_utf8() > 75 {
            out.push_str("\r\n ");
            used = 1;
        }
        out.push(c);
        used += c.len_utf8();
    }
    let _ = write!(out, "\r\n");
}
